namespace Falzkunst.Core.Regions;

/// <summary>
/// Areas put together and taken apart. Each area is a path with its outer edges clockwise and its holes counter-clockwise on the screen, as <see
/// cref="Region.Parts"/> gives them, or all of it turned round, as a mirroring map leaves it. Curves stay curves: a segment that is not cut comes out as the
/// very same, one that is cut as its own stretch, to the place where both curves meet; edges that lie on one another within 2e-5 mm count as one, so no
/// sliver is left at a seam. Results are the parts, the largest first, each one outer edge and its holes. Worked out on chords within 0.001 mm of the
/// curves; costs about n log n in their edges.
/// </summary>
public static class Together
{
    /// <summary>A fifth of what is asked of an outline (0.005 mm), since where curves touch at a small angle, two chords err.</summary>
    private const double ToleranceMm = 0.001;

    /// <summary>What any closed path encloses by the even-odd rule, as areas.</summary>
    /// <exception cref="TangledException">It crosses itself too often.</exception>
    public static IReadOnlyList<VectorPath> Clean(VectorPath path) => Where([path], [], (w, _) => w % 2 != 0);

    /// <summary>All that is in any of the areas.</summary>
    /// <exception cref="TangledException">They cross too often.</exception>
    public static IReadOnlyList<VectorPath> Join(IReadOnlyList<VectorPath> areas) => Where(Upright(areas), [], (w, _) => w > 0);

    /// <summary>What of an area is in none of the others.</summary>
    /// <inheritdoc cref="Join"/>
    public static IReadOnlyList<VectorPath> TakeAway(VectorPath area, IReadOnlyList<VectorPath> what) =>
        Where(Upright([area]), Upright(what), (w, v) => w > 0 && v <= 0);

    /// <summary>What is in all of the areas.</summary>
    /// <inheritdoc cref="Join"/>
    public static IReadOnlyList<VectorPath> Overlap(IReadOnlyList<VectorPath> areas)
    {
        var n = areas.Count;
        return Where(Upright(areas), [], (w, _) => w >= n);
    }

    /// <summary>All parts into which the outlines of the areas divide them, each with the numbers of the areas that it lies in.</summary>
    /// <inheritdoc cref="Join"/>
    public static IReadOnlyList<(VectorPath Part, ImmutableArray<int> Of)> Divide(IReadOnlyList<VectorPath> areas)
    {
        var parts = new List<(VectorPath Part, ImmutableArray<int> Of)>();
        for (var i = 0; i < areas.Count; i++)
        {
            var next = new List<(VectorPath, ImmutableArray<int>)>();
            foreach (var (part, of) in parts)
            {
                if (!part.Bounds.Touches(areas[i].Bounds))
                {
                    next.Add((part, of));
                    continue;
                }

                next.AddRange(Overlap([part, areas[i]]).Select(p => (p, of.Add(i))));
                next.AddRange(TakeAway(part, [areas[i]]).Select(p => (p, of)));
            }

            next.AddRange(TakeAway(areas[i], [.. areas.Take(i)]).Select(p => (p, ImmutableArray.Create(i))));
            parts = next;
        }

        return [.. parts.OrderByDescending(p => p.Part.SignedAreaMm2)];
    }

    /// <summary>The parts into which a line cuts an area. An open line is lengthened straight at both ends, until it is out of the area.</summary>
    /// <inheritdoc cref="Join"/>
    public static IReadOnlyList<VectorPath> CutApart(VectorPath area, VectorPath line)
    {
        var parts = new List<VectorPath> { area };
        foreach (var sub in line.Subpaths)
        {
            var side = Clean(new([sub.Closed ? sub : OneSide(sub, area.Bounds)]));
            if (side.Count == 0) continue;
            var whole = VectorPath.Joined(side);
            parts = [.. parts.SelectMany(p => Overlap([p, whole]).Concat(TakeAway(p, [whole])))];
        }

        return [.. parts.OrderByDescending(p => p.SignedAreaMm2)];
    }

    /// <summary>What lies on one side of an open line, as far as a box reaches: the line, lengthened at both ends, and round the box back to its
    /// start.</summary>
    private static Subpath OneSide(Subpath line, Box box)
    {
        box = box.With(new VectorPath([line]).Bounds).Grown(10);
        var points = line.Flatten(Tolerances.Measure);
        if (points.Count < 2) return line;
        Point start = Out(points[0], points[0] - points[1]), end = Out(points[^1], points[^1] - points[^2]);
        Point[] corners = [new(box.Left, box.Top), new(box.Right, box.Top), new(box.Right, box.Bottom), new(box.Left, box.Bottom)];
        var segments = ImmutableArray.CreateBuilder<Segment>();
        segments.Add(Segment.Line(line.Start));
        segments.AddRange(line.Segments);
        segments.Add(Segment.Line(end));
        // Round the box the one way; which side that takes does not matter.
        double from = Round(end), to = Round(start);
        if (to < from) to += 4;
        for (var k = (int)Math.Floor(from) + 1; k < to; k++) segments.Add(Segment.Line(corners[k % 4]));
        return new(start, segments.ToImmutable(), true);

        Point Out(Point p, Point along)
        {
            double x = along.X > 0 ? (box.Right - p.X) / along.X : along.X < 0 ? (box.Left - p.X) / along.X : double.PositiveInfinity;
            double y = along.Y > 0 ? (box.Bottom - p.Y) / along.Y : along.Y < 0 ? (box.Top - p.Y) / along.Y : double.PositiveInfinity;
            return p + along * Math.Min(x, y);
        }

        // How many sides of the box, and which part of the next, lie before a point on it.
        double Round(Point p) => Math.Abs(p.Y - box.Top) < 1e-9 ? (p.X - box.Left) / box.Width
            : Math.Abs(p.X - box.Right) < 1e-9 ? 1 + (p.Y - box.Top) / box.Height
            : Math.Abs(p.Y - box.Bottom) < 1e-9 ? 2 + (box.Right - p.X) / box.Width : 3 + (box.Bottom - p.Y) / box.Height;
    }

    /// <summary>What closed loops wind about more often forwards (clockwise on the screen) than backwards.</summary>
    /// <inheritdoc cref="Join"/>
    internal static IReadOnlyList<VectorPath> WoundAbout(VectorPath loops) => Where([loops], [], (w, _) => w > 0);

    private static List<VectorPath> Upright(IReadOnlyList<VectorPath> areas) => [.. areas.Select(a => a.Upright)];

    private static IReadOnlyList<VectorPath> Where(IReadOnlyList<VectorPath> areas, IReadOnlyList<VectorPath> others, Func<int, int, bool> filled)
    {
        using var woven = new Woven([.. areas.SelectMany(a => a.Subpaths).Select(s => (s, 0)), .. others.SelectMany(a => a.Subpaths).Select(s => (s, 1))],
            ToleranceMm);
        var arrangement = new Arrangement(woven.Edges, woven.KindOf, Region.MostCrossings * 10, Woven.Near);
        if (arrangement.IsTangled) throw new TangledException();
        return [.. Region.Built(woven.Rings, woven.KindOfRing, woven.Chords, arrangement, filled, r => Region.IsThinner(r, Woven.Near))
            .OrderByDescending(p => p.SignedAreaMm2)];
    }
}
