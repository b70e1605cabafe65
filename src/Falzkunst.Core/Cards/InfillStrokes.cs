using System.Runtime.CompilerServices;
using Falzkunst.Core.Regions;

namespace Falzkunst.Core.Cards;

/// <summary>
/// The strokes of a round tool that fill an area. All lie so far inside that nothing is made outside: the outline's echo first, then the pattern, then strokes
/// along the middle of what is still bare. Where a part of the area is too narrow for the tool, its centre-line is gone along if the part is whole or joins
/// two wider ones; the tip of a spike stays bare. Strokes go on from one to the next where that stays inside.
/// </summary>
/// <remarks>
/// Guarantee: nothing is made farther outside of the area than <see cref="OutsideMm"/>, but along the centre-lines of what is narrower than the tool.
/// Deterministic. Cost: the area over the width of the tool, times log.
/// </remarks>
public static class InfillStrokes
{
    /// <summary>A tool's edge may come over the outline by so much.</summary>
    public const double OutsideMm = 0.03;

    private static readonly ConditionalWeakTable<VectorPath, Dictionary<(Infill, double), ImmutableArray<VectorPath>>> Known = [];

    /// <param name="area">Closed; by the even-odd rule.</param>
    /// <param name="width">Of the tool's line, more than 0.05 mm.</param>
    public static ImmutableArray<VectorPath> Of(VectorPath area, Infill infill, Length width)
    {
        if (area.IsEmpty || width.Mm <= 0.05) return [.. area.Parts()];
        var known = Known.GetValue(area, _ => []);
        lock (known)
        {
            if (known.TryGetValue((infill, width.Mm), out var strokes)) return strokes;
            return known[(infill, width.Mm)] = new Filling(infill, width.Mm).Of(area);
        }
    }

    /// <summary>How much of an area strokes cover, from 0 to 1.</summary>
    public static double Coverage(VectorPath area, IEnumerable<VectorPath> strokes, Length width)
    {
        var whole = Region.Of(area);
        return whole.AreaMm2 <= 0 ? 1 : whole.Overlap(Region.Along(VectorPath.Joined(strokes), width)).AreaMm2 / whole.AreaMm2;
    }

    private sealed class Filling(Infill infill, double width)
    {
        // How many times what is bare is looked at, how much of the area may stay so, and what is too small to be seen, in squares of the width.
        private const int Rounds = 3;
        private const double MayStay = 0.01, TooSmall = 0.03;

        private readonly double _spacing = width * (1 - infill.Overlap);
        private readonly double _inset = width / 2 - OutsideMm;

        public ImmutableArray<VectorPath> Of(VectorPath area)
        {
            var strokes = ImmutableArray.CreateBuilder<VectorPath>();
            foreach (var part in Region.Parts(area, FillRule.EvenOdd)) Fill(part, strokes);
            return strokes.ToImmutable();
        }

        private void Fill(VectorPath part, ImmutableArray<VectorPath>.Builder strokes)
        {
            var whole = Region.Of(part);
            var room = whole.Outset(Length.FromMm(-_inset));
            var made = new List<List<Point>>();
            if (!room.IsEmpty)
            {
                var echoes = infill.Kind is InfillKind.Hatch or InfillKind.Crossed ? Rings(room) : Echoes(room);
                if (infill.Kind == InfillKind.Spiral && Spiral(echoes) is { } spiral) made.Add(spiral);
                else made.AddRange(Chained(echoes, room));
                if (infill.Kind is InfillKind.Hatch or InfillKind.Crossed)
                {
                    // A little into the outline's echo, so that no bare rim is left between.
                    var within = room.Outset(Length.FromMm(-_spacing * 0.6));
                    made.AddRange(Hatched(within, room, infill.Angle));
                    if (infill.Kind == InfillKind.Crossed) made.AddRange(Hatched(within, room, infill.Angle + Angle.FromDegrees(90)));
                }
            }

            foreach (var line in Narrow(whole, room)) made.Add(line);
            for (var round = 0; round < Rounds && Bare(room, made) is { Count: > 0 } more; round++) made.AddRange(more);
            foreach (var line in made.Where(l => l.Count > 1)) strokes.Add(VectorPath.Polyline([.. line]));
        }

        /// <summary>The edges of an area, each as a line that comes back to its start.</summary>
        private static List<Ring> Rings(Region area) => [.. area.ToPaths().SelectMany(p => p.Subpaths).Select(s => new Ring(s.Flatten()))];

        /// <summary>One closed line of a pattern, and those that come next inside of it.</summary>
        private sealed record Ring(List<Point> Points)
        {
            public List<Ring> Inside { get; } = [];
        }

        /// <summary>The echoes of an area's edge, until nothing is left: the outermost ones, each with those that it is followed by.</summary>
        private List<Ring> Echoes(Region room)
        {
            var outermost = new List<Ring>();
            // A part of a level, and the rings of the level around it that lie nearest.
            var level = new List<(Region Area, List<Ring> Around)> { (room, outermost) };
            while (level.Count > 0)
            {
                var next = new List<(Region, List<Ring>)>();
                foreach (var (area, around) in level)
                    foreach (var part in area.ToPaths())
                    {
                        var rings = part.Subpaths.Select(s => new Ring(s.Flatten())).ToList();
                        around.AddRange(rings);
                        var inner = Region.Of(part).Outset(Length.FromMm(-_spacing));
                        if (!inner.IsEmpty) next.Add((inner, rings[0].Inside));
                    }

                level = next;
            }

            return outermost;
        }

        /// <summary>Rings as few lines: each goes on with one of those inside of it where the way there stays in the area.</summary>
        private List<List<Point>> Chained(List<Ring> rings, Region room)
        {
            var lines = new List<List<Point>>();
            foreach (var ring in rings)
            {
                var line = From(ring.Points, ring.Points[0]);
                lines.Add(line);
                Follow(ring, line);
            }

            return lines;

            void Follow(Ring ring, List<Point> line)
            {
                var isFirst = true;
                foreach (var inside in ring.Inside)
                {
                    // The end of the line is where its ring began: anywhere on it would do as well, but that is the way that is there.
                    var start = inside.Points.MinBy(p => p.DistanceTo(line[^1]));
                    if (isFirst && start.DistanceTo(line[^1]) <= 2 * _spacing && room.Within(VectorPath.Polyline(line[^1], start)).Length.Mm
                        >= start.DistanceTo(line[^1]) - 0.01)
                    {
                        isFirst = false;
                        line.AddRange(From(inside.Points, start));
                        Follow(inside, line);
                    }
                    else
                    {
                        var other = From(inside.Points, start);
                        lines.Add(other);
                        Follow(inside, other);
                    }
                }
            }
        }

        /// <summary>A ring from one of its points back to that.</summary>
        private static List<Point> From(List<Point> ring, Point start)
        {
            var at = ring.IndexOf(start);
            return [.. ring.Skip(at), .. ring.Take(at), start];
        }

        /// <summary>One line through rings that lie one in another: it slides from each to the next while it goes around. Null where they part.</summary>
        private List<Point>? Spiral(List<Ring> outermost)
        {
            if (outermost.Count != 1) return null;
            var line = From(outermost[0].Points, outermost[0].Points[0]);
            for (var ring = outermost[0]; ring.Inside.Count > 0;)
            {
                if (ring.Inside.Count > 1) return null;
                var next = ring.Inside[0];
                // Each place of the ring has a place of the next one that lies nearest; all of them are come by in the same order.
                var around = Dense(From(ring.Points, ring.Points.MinBy(p => p.DistanceTo(line[^1]))));
                var inner = Dense(From(next.Points, next.Points.MinBy(p => p.DistanceTo(around[0]))));
                for (var i = 1; i < around.Count; i++)
                {
                    var t = (double)i / (around.Count - 1);
                    line.Add(around[i] * (1 - t) + inner[Math.Min(inner.Count - 1, (int)Math.Round(t * (inner.Count - 1)))] * t);
                }

                ring = next;
                if (ring.Inside.Count == 0) line.AddRange(From(ring.Points, ring.Points.MinBy(p => p.DistanceTo(line[^1]))));
            }

            return line;

            // Even steps, so that the same part of the way around is the same part of the points.
            List<Point> Dense(List<Point> points)
            {
                var length = VectorPath.PolylineLength(points, false);
                var count = Math.Max(8, (int)Math.Ceiling(length / (width / 4)));
                var walk = new PathWalk(points);
                return [.. Enumerable.Range(0, count + 1).Select(k => walk.Between(length * k / count, length * k / count)[0])];
            }
        }

        private List<List<Point>> Hatched(Region within, Region room, Angle angle)
        {
            if (within.IsEmpty) return [];
            var turn = Affine.Turn(angle);
            var back = turn.Inverse();
            var box = within.Transform(back).Bounds;
            // Evenly from one side to the other.
            var rows = Math.Max(1, (int)Math.Ceiling(box.Height / _spacing));
            var all = ImmutableArray.CreateBuilder<Subpath>(rows);
            var (lines, open) = (new List<List<Point>>(), new List<List<Point>>());
            for (var k = 0; k <= rows; k++)
            {
                var y = Math.Clamp(box.Top + box.Height * k / rows, box.Top + 1e-3, box.Bottom - 1e-3);
                var row = within.Within(VectorPath.Polyline(turn.Apply(new(box.Left - 1, y)), turn.Apply(new(box.Right + 1, y)))).Subpaths
                    .Select(s => (A: s.Start, B: s.End)).ToList();
                var going = new List<List<Point>>();
                foreach (var (a, b) in row)
                {
                    // Go on from a line of the row before that ends near by, with no way through anything else.
                    var from = open.Where(o => Math.Min(o[^1].DistanceTo(a), o[^1].DistanceTo(b)) <= 3 * _spacing)
                        .MinBy(o => Math.Min(o[^1].DistanceTo(a), o[^1].DistanceTo(b)));
                    var start = from is not null && from[^1].DistanceTo(b) < from[^1].DistanceTo(a) ? b : a;
                    if (from is null || room.Within(VectorPath.Polyline(from[^1], start)).Length.Mm < from[^1].DistanceTo(start) - 0.01)
                        lines.Add(from = []);
                    else open.Remove(from);
                    from.Add(start);
                    from.Add(start == a ? b : a);
                    going.Add(from);
                }

                open = going;
            }

            return lines;
        }

        /// <summary>The centre-lines of what is too narrow for the tool: parts that it fits nowhere into, and what joins wider ones.</summary>
        private IEnumerable<List<Point>> Narrow(Region whole, Region room)
        {
            var reached = room.Outset(Length.FromMm(_inset + 0.01));
            foreach (var narrow in whole.TakeAway(reached).ToPaths())
            {
                var isWhole = room.IsEmpty;
                if (!isWhole && Region.Of(narrow).Outset(Length.FromMm(0.03)).Overlap(reached).ToPaths().Count < 2) continue;
                var lines = CentreLine.Of(narrow, Math.Max(0.05, width / 6)).ToList();
                // Little branches into the corners say nothing.
                var most = lines.Count == 0 ? 0 : lines.Max(l => VectorPath.PolylineLength(l, false));
                foreach (var points in lines)
                    if (VectorPath.PolylineLength(points, false) is var length && (length >= width || length == most)) yield return points;
            }
        }

        /// <summary>Strokes along the middle of what the tool can reach and has not.</summary>
        private List<List<Point>> Bare(Region room, List<List<Point>> made)
        {
            var more = new List<List<Point>>();
            if (room.IsEmpty) return more;
            var reached = room.Outset(Length.FromMm(width / 2));
            var lines = VectorPath.Joined(made.Where(m => m.Count > 1).Select(m => VectorPath.Polyline([.. m])));
            var bare = reached.TakeAway(Region.Along(lines, Length.FromMm(width)));
            // The largest come first; each takes a stroke of its own.
            var left = bare.AreaMm2;
            foreach (var part in bare.ToPaths())
            {
                if (left <= MayStay * reached.AreaMm2 || Math.Abs(part.SignedAreaMm2) < TooSmall * width * width) break;
                left -= Math.Abs(part.SignedAreaMm2);
                foreach (var points in CentreLine.Of(part, Math.Max(0.03, width / 8)))
                    foreach (var inside in room.Within(VectorPath.Polyline([.. points])).Subpaths)
                        if (inside.Flatten() is var kept && VectorPath.PolylineLength(kept, false) > width / 8) more.Add(kept);
            }

            return more;
        }
    }
}
