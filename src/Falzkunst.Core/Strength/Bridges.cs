using Falzkunst.Core.Regions;

namespace Falzkunst.Core.Strength;

/// <summary>
/// Bridges from parts that are joined to no other to their neighbours: the shortest that join them all (a minimum spanning forest: Kruskal 1956), each where
/// it is shortest over its whole width, and in the middle of where that is so.
/// </summary>
public static class Bridges
{
    /// <summary>An outline with bridges, as one part where all could be joined. The very same where there is nothing to join.</summary>
    /// <param name="outline">Outer edges clockwise, holes counter-clockwise.</param>
    /// <param name="width">Of each bridge, in mm.</param>
    /// <param name="within">The longest that one may be, in mm.</param>
    /// <param name="underMm2">Only parts smaller than this are joined; null joins all.</param>
    /// <exception cref="OperationCanceledException">It was given up.</exception>
    public static VectorPath Of(VectorPath outline, double width, double within, double? underMm2 = null, CancellationToken cancel = default)
    {
        var bodies = Body.Of(outline).Select(b => new Body(b, Math.Clamp(width / 4, 0.05, 0.5))).ToList();
        if (bodies.Count < 2) return outline;
        var bars = new List<VectorPath>();
        var sets = new DisjointSets(bodies.Count);
        var areas = bodies.ConvertAll(b => b.AreaMm2);
        foreach (var (a, b, length) in Spans(bodies, within, underMm2, cancel).OrderBy(s => s.Length))
        {
            cancel.ThrowIfCancellationRequested();
            var (one, other) = (sets.Of(a), sets.Of(b));
            // A dot that was joined to a letter needs no bridge to the next.
            if (one == other || (underMm2 is { } under && Math.Min(areas[one], areas[other]) >= under)) continue;
            if (Best(bodies[a], bodies[b], width, within, length) is not { } bar) continue;
            bars.Add(bar);
            sets.Join(a, b);
            areas[one] = areas[other] = areas[one] + areas[other];
        }

        return bars.Count == 0 ? outline : VectorPath.Joined(Together.Join([outline, .. bars]));
    }

    /// <summary>Under which area a part of an outline is a dot, and no letter: a third of what its parts are in the middle, in mm².</summary>
    public static double DotsUnderMm2(VectorPath outline)
    {
        var areas = outline.Outer.Subpaths.Select(s => s.SignedAreaMm2).Order().ToList();
        return areas.Count == 0 ? 1 : Math.Clamp(areas[areas.Count / 2] / 3, 1e-3, 1e6);
    }

    private static IEnumerable<(int A, int B, double Length)> Spans(List<Body> bodies, double within, double? underMm2, CancellationToken cancel)
    {
        var grid = new BoxGrid<int>(Math.Max(5, within));
        for (var b = 0; b < bodies.Count; b++)
        {
            cancel.ThrowIfCancellationRequested();
            foreach (var a in grid.Touching(bodies[b].Bounds.Grown(within)).Distinct())
            {
                if (underMm2 is { } under && Math.Min(bodies[a].AreaMm2, bodies[b].AreaMm2) >= under) continue;
                if (Shortest(bodies[a], bodies[b], within) is { } length) yield return (a, b, length);
            }

            grid.Add(bodies[b].Bounds, b);
        }
    }

    private static double? Shortest(Body a, Body b, double within)
    {
        var best = within;
        var isAny = false;
        foreach (var (of, to) in new[] { (a, b), (b, a) })
        {
            var box = to.Bounds.Grown(best);
            foreach (var p in of.Points)
            {
                if (!box.Holds(p) || !to.Nearest(p, best, out var place, out _)) continue;
                (best, isAny) = (p.DistanceTo(place), true);
            }
        }

        return isAny ? best : null;
    }

    /// <summary>The bar that fills the least of the gap; of those that fill as little, the one in the middle.</summary>
    /// <param name="least">The shortest way between both, in mm.</param>
    private static VectorPath? Best(Body a, Body b, double width, double within, double least)
    {
        var (of, to) = a.AreaMm2 < b.AreaMm2 ? (a, b) : (b, a);
        var tried = new List<(Point From, Point To, double Free)>();
        var reach = Math.Min(within, 1.2 * least + 0.5 * width) + 1e-6;
        foreach (var p in of.Points)
        {
            if (!to.Nearest(p, reach, out var q, out _)) continue;
            tried.Add((p, q, Free(of, to, p, q, width)));
        }

        if (tried.Count == 0) return null;
        var enough = tried.Min(t => t.Free) + 0.01 * width;
        // The longest row of places that are as good as the best.
        int begin = 0, longest = 0;
        for (int i = 0, from = 0; i <= tried.Count; i++)
        {
            if (i < tried.Count && tried[i].Free <= enough && (i == from || tried[i].From.DistanceTo(tried[i - 1].From) < width)) continue;
            if (i - from > longest) (begin, longest) = (from, i - from);
            from = i < tried.Count && tried[i].Free <= enough ? i : i + 1;
        }

        var (start, end, _) = tried[begin + longest / 2];
        return Bar(of, to, start, end, width);
    }

    /// <summary>How long it is between both parts, on the mean over the width of a bar; where it misses one, very long.</summary>
    private static double Free(Body of, Body to, Point p, Point q, double width)
    {
        const int rays = 5;
        var way = Way(of, p, q);
        var (aside, middle, step) = (new Point(-way.Y, way.X), (p + q) * 0.5, width / 12);
        var most = p.DistanceTo(q) / 2 + 1.5 * width;
        var sum = 0.0;
        for (var k = 0; k < rays; k++)
        {
            var from = middle + aside * (width * ((k + 0.5) / rays - 0.5));
            sum += Until(from, way * -1, of) + Until(from, way, to);
        }

        return sum / rays;

        double Until(Point from, Point way, Body body)
        {
            var far = 0.0;
            while (far < most && !body.Encloses(from + way * far)) far += step;
            if (far >= most) return 10 * most;
            var near = Math.Max(0, far - step);
            for (var k = 0; k < 10; k++)
            {
                if (body.Encloses(from + way * ((near + far) / 2))) far = (near + far) / 2;
                else near = (near + far) / 2;
            }

            return far;
        }
    }

    private static VectorPath Bar(Body of, Body to, Point p, Point q, double width)
    {
        var way = Way(of, p, q);
        var aside = new Point(-way.Y, way.X) * (width / 2);
        Point from = p - way * Into(of, p, way * -1), until = q + way * Into(to, q, way);
        return VectorPath.Polygon(from + aside, from - aside, until - aside, until + aside);

        // As far into the paper as the bar is wide, and not through it.
        double Into(Body body, Point at, Point into)
        {
            var step = width / 12;
            var far = step;
            while (far < width && body.Encloses(at + into * (far + step))) far += step;
            return 0.8 * far;
        }
    }

    private static Point Way(Body of, Point p, Point q)
    {
        var length = p.DistanceTo(q);
        if (length > 1e-6) return (q - p) * (1 / length);
        return of.Nearest(p, 1, out _, out var outwards) ? outwards : new(0, 1);
    }
}
