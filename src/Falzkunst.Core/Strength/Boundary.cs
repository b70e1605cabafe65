namespace Falzkunst.Core.Strength;

/// <summary>
/// The edges of an area as short chords within a tolerance of them, each with the curve that it stands for, on a square grid:
/// which place of the boundary is nearest to a point? Chords keep the direction of their rings, so that the area lies on their right.
/// </summary>
internal sealed class Boundary
{
    private readonly List<Cubic> _curves = [];
    private readonly int[] _curveOf, _first, _cells;
    private readonly double _cell;
    private readonly Point _corner;
    private readonly int _across, _down;

    /// <param name="area">Closed rings, as <see cref="Regions.Together"/> gives them.</param>
    /// <param name="step">Chords are no longer than this, in mm.</param>
    /// <param name="cell">The side of a cell of the grid, in mm; about a third of how far is looked.</param>
    /// <param name="tolerance">How far chords may lie from the edges, in mm.</param>
    public Boundary(VectorPath area, double step, double cell, double tolerance = Tolerances.Measure)
    {
        // However long the edges are, memory is bounded.
        const double mostChords = 400_000, mostCells = 4_000_000;
        Step = step;
        step = Math.Max(step, area.Length.Mm / mostChords);
        var (from, curveOf, ringOf, rings, ringCurves) = (new List<Point>(), new List<int>(), new List<int>(), new List<int> { 0 }, new List<int> { 0 });
        foreach (var ring in area.Subpaths)
        {
            foreach (var curve in ring.Cubics())
            {
                var reach = curve.From.DistanceTo(curve.C1) + curve.C1.DistanceTo(curve.C2) + curve.C2.DistanceTo(curve.To);
                var n = Math.Max(curve.Chords(tolerance), (int)Math.Ceiling(reach / step));
                for (var i = 0; i < n; i++)
                {
                    var p = i == 0 ? curve.From : curve.At((double)i / n);
                    if (from.Count > rings[^1] && p.DistanceTo(from[^1]) < 1e-9) continue;
                    from.Add(p);
                    curveOf.Add(_curves.Count);
                    ringOf.Add(rings.Count - 1);
                }

                _curves.Add(curve);
            }

            if (from.Count > rings[^1] + 1 && from[^1].DistanceTo(from[rings[^1]]) < 1e-9)
            {
                from.RemoveAt(from.Count - 1);
                curveOf.RemoveAt(curveOf.Count - 1);
                ringOf.RemoveAt(ringOf.Count - 1);
            }

            rings.Add(from.Count);
            ringCurves.Add(_curves.Count);
        }

        (From, _curveOf, RingOf, Rings, RingCurves) = ([.. from], [.. curveOf], [.. ringOf], [.. rings], [.. ringCurves]);
        To = new Point[Count];
        Along = new double[Count];
        for (var r = 0; r + 1 < Rings.Length; r++)
        {
            for (var i = Rings[r]; i < Rings[r + 1]; i++)
            {
                To[i] = From[Next(i)];
                if (i > Rings[r]) Along[i] = Along[i - 1] + From[i - 1].DistanceTo(From[i]);
            }
        }

        var box = From.Aggregate(Box.Empty, (b, p) => b.With(p));
        if (box.IsEmpty) box = new(0, 0, 0, 0);
        _cell = Math.Max(cell, Math.Sqrt(Math.Max(box.Area, 1e-9) / mostCells));
        _corner = new(box.Left, box.Top);
        (_across, _down) = ((int)(box.Width / _cell) + 1, (int)(box.Height / _cell) + 1);
        _first = new int[_across * _down + 1];
        for (var i = 0; i < Count; i++) Each(i, c => _first[c + 1]++);
        for (var c = 0; c + 1 < _first.Length; c++) _first[c + 1] += _first[c];
        var at = _first[..^1];
        _cells = new int[_first[^1]];
        for (var i = 0; i < Count; i++) Each(i, c => _cells[at[c]++] = i);
    }

    /// <summary>How long chords were asked to be at the most, in mm.</summary>
    public double Step { get; }

    /// <summary>How many chords there are.</summary>
    public int Count => From.Length;

    public Point[] From { get; }

    public Point[] To { get; }

    /// <summary>How far along its ring a chord begins, in mm.</summary>
    public double[] Along { get; }

    public int[] RingOf { get; }

    /// <summary>The first chord of each ring, and behind the last the number of all.</summary>
    public int[] Rings { get; }

    private int[] RingCurves { get; }

    public Point Middle(int edge) => (From[edge] + To[edge]) * 0.5;

    /// <summary>The direction of a chord, of length 1.</summary>
    public Point Way(int edge)
    {
        var d = To[edge] - From[edge];
        return d * (1 / Math.Max(d.Norm, 1e-300));
    }

    public int Next(int edge) => edge + 1 < Rings[RingOf[edge] + 1] ? edge + 1 : Rings[RingOf[edge]];

    public int Before(int edge) => edge > Rings[RingOf[edge]] ? edge - 1 : Rings[RingOf[edge] + 1] - 1;

    /// <summary>How long a ring is, in mm.</summary>
    public double LengthOf(int ring)
    {
        var last = Rings[ring + 1] - 1;
        return last < Rings[ring] ? 0 : Along[last] + From[last].DistanceTo(To[last]);
    }

    public double LengthOfChord(int edge) => From[edge].DistanceTo(To[edge]);

    /// <summary>How far it is along a ring from one chord on to another, in mm.</summary>
    public double Onward(int from, int to)
    {
        var way = Along[to] - Along[from];
        return way < 0 ? way + LengthOf(RingOf[from]) : way;
    }

    /// <summary>How far apart two chords of a ring are along it, the shorter way.</summary>
    public double Apart(int a, int b) => Math.Min(Onward(a, b), Onward(b, a));

    /// <summary>The place nearest to a point, nearer than a distance; two chords are left out (those that a ball touches).</summary>
    public bool Nearest(Point to, double within, int but, int orBut, out int edge, out Point place)
    {
        (edge, place) = (-1, default);
        var best = within * within;
        int left = Math.Max(0, Cell(to.X - within - _corner.X)), right = Math.Min(_across - 1, Cell(to.X + within - _corner.X));
        int top = Math.Max(0, Cell(to.Y - within - _corner.Y)), bottom = Math.Min(_down - 1, Cell(to.Y + within - _corner.Y));
        for (var y = top; y <= bottom; y++)
        {
            double above = _corner.Y + y * _cell - to.Y, below = above + _cell, nearY = above > 0 ? above : below < 0 ? below : 0;
            for (var x = left; x <= right; x++)
            {
                double before = _corner.X + x * _cell - to.X, behind = before + _cell, nearX = before > 0 ? before : behind < 0 ? behind : 0;
                if (nearX * nearX + nearY * nearY >= best) continue;
                var cell = y * _across + x;
                for (int k = _first[cell], end = _first[cell + 1]; k < end; k++)
                {
                    var i = _cells[k];
                    if (i == but || i == orBut) continue;
                    double ax = From[i].X - to.X, ay = From[i].Y - to.Y, dx = To[i].X - From[i].X, dy = To[i].Y - From[i].Y;
                    var t = -(ax * dx + ay * dy) / (dx * dx + dy * dy);
                    t = t < 0 ? 0 : t > 1 ? 1 : t;
                    double qx = ax + t * dx, qy = ay + t * dy, d = qx * qx + qy * qy;
                    if (d < best) (best, edge, place) = (d, i, new(to.X + qx, to.Y + qy));
                }
            }
        }

        return edge >= 0;
    }

    /// <summary>
    /// The nearest places of the true curves near two chords, where that is a narrowest distance: each goes to the nearest of the other's, in turn, until
    /// neither moves. Over a corner they don't go, so that the end of a limb is measured between its sides.
    /// </summary>
    /// <returns>Null where they don't come to rest.</returns>
    public (Point From, Point To)? Narrowest(int edge, int other)
    {
        int a = _curveOf[edge], b = _curveOf[other];
        Point p = Middle(edge), q = Middle(other);
        for (var round = 0; round < 80; round++)
        {
            var (wasP, wasQ) = (p, q);
            (q, b) = Nearest(p, b, RingOf[other]);
            (p, a) = Nearest(q, a, RingOf[edge]);
            if (p.DistanceTo(wasP) + q.DistanceTo(wasQ) < 1e-7) return (p, q);
        }

        return null;
    }

    private (Point At, int Curve) Nearest(Point to, int curve, int ring)
    {
        int first = RingCurves[ring], n = RingCurves[ring + 1] - first;
        var best = (At: default(Point), Curve: curve, Distance: double.PositiveInfinity);
        for (var step = -1; step <= 1; step++)
        {
            var k = first + (curve - first + step + n) % n;
            if ((step < 0 && !IsSmooth(k, curve)) || (step > 0 && !IsSmooth(curve, k))) continue;
            var at = _curves[k].At(_curves[k].Nearest(to));
            if (at.DistanceTo(to) is var d && d < best.Distance - 1e-12) best = (at, k, d);
        }

        return (best.At, best.Curve);
    }

    /// <summary>Whether one curve goes on into the next without a corner.</summary>
    private bool IsSmooth(int curve, int next) => _curves[curve].EndWay.Dot(_curves[next].StartWay) > 0.9;

    private int Cell(double v) => (int)Math.Clamp(Math.Floor(v / _cell), -1e9, 1e9);

    private void Each(int edge, Action<int> act)
    {
        Point a = From[edge] - _corner, b = To[edge] - _corner;
        int left = Cell(Math.Min(a.X, b.X)), right = Cell(Math.Max(a.X, b.X)), top = Cell(Math.Min(a.Y, b.Y)), bottom = Cell(Math.Max(a.Y, b.Y));
        for (var y = Math.Max(top, 0); y <= Math.Min(bottom, _down - 1); y++)
            for (var x = Math.Max(left, 0); x <= Math.Min(right, _across - 1); x++) act(y * _across + x);
    }
}
