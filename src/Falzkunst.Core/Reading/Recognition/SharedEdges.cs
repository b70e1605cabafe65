using Falzkunst.Core.Files;

namespace Falzkunst.Core.Reading.Recognition;

/// <summary>Finds pieces that lie edge on edge: panels of one base, or pieces that share a cut. Nobody can know which.</summary>
internal static class SharedEdges
{
    private const double LeastMm = 15, LeastOfSide = 0.9;
    private const int MostSides = 60;

    /// <summary>The pairs of one look with a straight side in common, as good as whole. About n log n where sides lie spread out.</summary>
    public static IEnumerable<(Element A, Element B)> Find(IReadOnlyList<Element> pieces, ReadingWork work)
    {
        var grid = new BoxGrid<(Element Of, Point A, Point B)>(20);
        var pairs = new HashSet<(int, int)>();
        foreach (var e in pieces)
        {
            work.Go();
            if (e.Kind == ElementKind.Filled || e.Path.Rings[0] is not { Count: <= MostSides } ring) continue;
            for (var i = 0; i < ring.Count; i++)
            {
                Point a = ring[i], b = ring[(i + 1) % ring.Count];
                if (a.DistanceTo(b) < LeastMm) continue;
                var box = Box.Empty.With(a).With(b).Grown(Tolerances.Closes);
                foreach (var (other, c, d) in grid.Touching(box).Distinct())
                    if (other != e && other.Look == e.Look && !Overlap(other, e) && IsShared(a, b, c, d)
                        && pairs.Add((other.Order, e.Order))) yield return (other, e);
                grid.Add(box, (e, a, b));
            }
        }
    }

    private static bool Overlap(Element a, Element b) => a.Path.Bounds.Grown(-0.5).Touches(b.Path.Bounds.Grown(-0.5));

    private static bool IsShared(Point a, Point b, Point c, Point d)
    {
        var length = a.DistanceTo(b);
        var along = (b - a) * (1 / length);
        if (Math.Abs(along.Cross(c - a)) > Tolerances.Closes || Math.Abs(along.Cross(d - a)) > Tolerances.Closes) return false;
        double from = Math.Min(along.Dot(c - a), along.Dot(d - a)), to = Math.Max(along.Dot(c - a), along.Dot(d - a));
        return Math.Min(to, length) - Math.Max(from, 0) >= LeastOfSide * Math.Max(length, to - from);
    }
}
