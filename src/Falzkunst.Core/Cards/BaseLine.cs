using Falzkunst.Core.Regions;

namespace Falzkunst.Core.Cards;

/// <summary>Which edge of paper words run along.</summary>
public enum WordsEdge
{
    Upper,
    Lower,
}

/// <summary>What words run along instead of a straight base line: letters stand on it, each turned as the stretch below it runs.</summary>
/// <param name="Path">One run, in the words' own coordinates. Walked from left to right, letters stand above it. A closed one goes on at its start; an open
/// one goes on straight at its ends.</param>
/// <param name="At">How far along it the words begin, have their middle or end, as they are aligned.</param>
public sealed record BaseLine(VectorPath Path, Length At)
{
    /// <summary>The outer edge of an area, so far inside of it; its middle is the topmost place over the middle of the area, or the lowest below it.</summary>
    /// <param name="edge">Words run over its upper edge clockwise, along its lower edge the other way, so that both are read upright.</param>
    /// <returns>Null where nothing of the area is so far inside.</returns>
    public static BaseLine? Inside(VectorPath area, Length from, WordsEdge edge)
    {
        var outer = area.Outer.Parts().MaxBy(p => p.SignedAreaMm2);
        var inner = outer is null || from == Length.Zero ? outer : VectorPath.Joined(Outsets.Of(outer, -from.Mm)).Outer.Parts().MaxBy(p => p.SignedAreaMm2);
        if (inner is null || inner.IsEmpty) return null;
        if (edge == WordsEdge.Lower) inner = new([inner.Subpaths[0].Reverse()]);
        var run = new Run(inner.Subpaths[0]);
        var middle = run.Crossings(inner.Bounds.Centre.X).OrderBy(c => edge == WordsEdge.Upper ? c.Y : -c.Y).Select(c => c.Along).FirstOrDefault();
        return new(inner, Length.FromMm(middle));
    }

    internal BaseLine Scaled(double by) => new(Path.Transform(Affine.Scale(by, by)), At * by);

    /// <summary>What is wrong with it, as a part of a sentence; null where all is well.</summary>
    internal string? Fault() => Path is not { Subpaths.Length: 1 } || Path.Length.Mm is not (>= 0.1 and <= 1e6) || !double.IsFinite(At.Mm)
        ? "words run along one line of 0.1 mm to 1 km" : null;

    /// <summary>A run as chords, for places so far along it.</summary>
    internal sealed class Run
    {
        private readonly List<Point> _points;
        private readonly double[] _along;
        private readonly bool _closed;

        public Run(Subpath path)
        {
            _points = path.Flatten(Tolerances.Measure);
            _closed = path.Closed;
            if (_closed) _points.Add(_points[0]);
            _along = new double[_points.Count];
            for (var i = 1; i < _points.Count; i++) _along[i] = _along[i - 1] + _points[i].DistanceTo(_points[i - 1]);
        }

        private double Length => _along[^1];

        /// <summary>Where a letter goes whose own origin lies on the base line: its middle so far along, turned as the stretch below it runs.</summary>
        /// <param name="half">Half of its width.</param>
        /// <param name="down">How far below the line its own base line lies.</param>
        public Affine Placed(double along, double half, double down)
        {
            // A stretch of no length has no way to run.
            var reach = Math.Max(half, 0.01);
            Point at = At(along), way = At(along + reach) - At(along - reach);
            var turn = Math.Atan2(way.Y, way.X);
            return Affine.Move(-half, down).Then(Affine.Turn(Angle.FromRadians(turn))).Then(Affine.Move(at.X, at.Y));
        }

        /// <summary>Where it crosses an upright line.</summary>
        public IEnumerable<(double Along, double Y)> Crossings(double x)
        {
            for (var i = 1; i < _points.Count; i++)
            {
                Point a = _points[i - 1], b = _points[i];
                if ((a.X - x) * (b.X - x) > 0 || a.X == b.X) continue;
                var t = (x - a.X) / (b.X - a.X);
                yield return (_along[i - 1] + t * (_along[i] - _along[i - 1]), a.Y + t * (b.Y - a.Y));
            }
        }

        private Point At(double along)
        {
            if (_closed) along -= Math.Floor(along / Length) * Length;
            // Before its start and behind its end the first and the last chord go on.
            var k = Array.BinarySearch(_along, along) is var found && found >= 0 ? found : ~found;
            k = Math.Clamp(k, 1, _points.Count - 1);
            var span = _along[k] - _along[k - 1];
            return span < 1e-12 ? _points[k] : _points[k - 1] + (_points[k] - _points[k - 1]) * ((along - _along[k - 1]) / span);
        }
    }
}
