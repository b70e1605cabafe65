namespace Falzkunst.Core.Runs;

/// <summary>
/// Orders paths so that the tool travels little in the air: nearest neighbour, then 2-opt with turning of open paths, until nothing gets better or the
/// limit of rounds is reached. Closed paths may start at any of their corners. Quadratic in the paths; over 3,000 paths only the nearest neighbour
/// is taken, in strips.
/// </summary>
public static class PathOrder
{
    private const int MostForImproving = 600;
    private const int MostForNearest = 3000;

    /// <summary>The same paths in a better order, some turned round or started elsewhere; never with more travel than the order given. Deterministic.</summary>
    public static ImmutableArray<VectorPath> Order(IReadOnlyList<VectorPath> paths, Point from)
    {
        if (paths.Count <= 1) return [.. paths];
        var rest = paths.Count <= MostForNearest ? paths.ToList() : InStrips(paths);
        var ordered = new List<VectorPath>(rest.Count);
        if (paths.Count <= MostForNearest)
        {
            var at = from;
            while (rest.Count > 0)
            {
                var (best, index) = (double.PositiveInfinity, 0);
                for (var i = 0; i < rest.Count; i++)
                {
                    var d = Reach(rest[i], at);
                    if (d < best) (best, index) = (d, i);
                }

                ordered.Add(StartNear(rest[index], at));
                at = End(ordered[^1]);
                rest.RemoveAt(index);
            }
        }
        else
        {
            ordered = rest;
        }

        // Going to the nearest can end far away; the order given is then the better start.
        if (Travel(ordered, from) > Travel(paths, from)) ordered = [.. paths];
        if (ordered.Count <= MostForImproving) Improve(ordered, from);
        return [.. ordered];
    }

    /// <summary>How far the tool travels in the air, from the point along all paths.</summary>
    public static Length Travel(IReadOnlyList<VectorPath> paths, Point from)
    {
        double sum = 0;
        foreach (var p in paths)
        {
            sum += from.DistanceTo(Start(p));
            from = End(p);
        }

        return Length.FromMm(sum);
    }

    private static Point Start(VectorPath p) => p.Subpaths[0].Start;

    private static Point End(VectorPath p) => p.Subpaths[^1].Closed ? p.Subpaths[^1].Start : p.Subpaths[^1].End;

    private static double Reach(VectorPath p, Point at)
    {
        var best = Math.Min(at.DistanceTo(Start(p)), at.DistanceTo(End(p)));
        if (p.Subpaths.Length != 1 || !p.Subpaths[0].Closed) return best;
        foreach (var s in p.Subpaths[0].Segments) best = Math.Min(best, at.DistanceTo(s.End));
        return best;
    }

    private static VectorPath StartNear(VectorPath path, Point at)
    {
        if (path.Subpaths.Length != 1) return path;
        var sub = path.Subpaths[0];
        if (!sub.Closed) return at.DistanceTo(sub.End) < at.DistanceTo(sub.Start) ? new([sub.Reverse()]) : path;
        var (best, index) = (at.DistanceTo(sub.Start), -1);
        for (var i = 0; i < sub.Segments.Length; i++)
        {
            var d = at.DistanceTo(sub.Segments[i].End);
            if (d < best - 1e-9) (best, index) = (d, i);
        }

        if (index < 0) return path;
        var turned = ImmutableArray.CreateBuilder<Segment>(sub.Segments.Length + 1);
        turned.AddRange(sub.Segments.AsSpan()[(index + 1)..]);
        if (sub.End.DistanceTo(sub.Start) > Tolerances.Same) turned.Add(Segment.Line(sub.Start));
        turned.AddRange(sub.Segments.AsSpan()[..(index + 1)]);
        return new([new Subpath(sub.Segments[index].End, turned.ToImmutable(), true)]);
    }

    private static void Improve(List<VectorPath> order, Point from)
    {
        for (var round = 0; round < 12; round++)
        {
            var better = false;
            for (var i = 0; i < order.Count - 1; i++)
            {
                var before = i == 0 ? from : End(order[i - 1]);
                for (var j = i + 1; j < order.Count; j++)
                {
                    // Walking i..j backwards, each path turned round.
                    var old = before.DistanceTo(Start(order[i])) + (j + 1 < order.Count ? End(order[j]).DistanceTo(Start(order[j + 1])) : 0);
                    var now = before.DistanceTo(End(order[j])) + (j + 1 < order.Count ? Start(order[i]).DistanceTo(Start(order[j + 1])) : 0);
                    if (now > old - 1e-6 || !Turnable(order, i, j)) continue;
                    order.Reverse(i, j - i + 1);
                    for (var k = i; k <= j; k++)
                        if (!order[k].Subpaths[0].Closed) order[k] = new([order[k].Subpaths[0].Reverse()]);
                    better = true;
                }
            }

            if (!better) return;
        }
    }

    private static bool Turnable(List<VectorPath> order, int i, int j)
    {
        for (var k = i; k <= j; k++)
            if (order[k].Subpaths.Length != 1) return false;
        return true;
    }

    private static List<VectorPath> InStrips(IReadOnlyList<VectorPath> paths)
    {
        const double StripMm = 15;
        return [.. paths.OrderBy(p => Math.Floor(Start(p).Y / StripMm))
            .ThenBy(p => Start(p).X * ((long)Math.Floor(Start(p).Y / StripMm) % 2 == 0 ? 1 : -1))];
    }
}
