using Falzkunst.Core.Regions;

namespace Falzkunst.Core.Layout;

/// <summary>
/// Straight edges of pieces that lie against each other: one cut parts both. Only where pieces keep no gap; curves are left as they are.
/// Guarantee: each point of an outline is nearer than twice <see cref="Near"/> to what is cut, and a stretch ends on the cut that it ends at. Cost: the edges
/// times those near each.
/// </summary>
public static class SharedEdges
{
    /// <summary>How far apart they may lie, in mm: pieces that were brought together touch to within 0.04.</summary>
    public const double Near = 0.05;

    /// <summary>What is shorter is cut twice, in mm.</summary>
    private const double Least = 1;

    /// <summary>Whether pieces with such a gap between them share edges.</summary>
    public static bool Allows(Length gap) => gap.Mm < Near;

    /// <summary>The outlines as they are cut, each stretch once: whole where they touch none before them, otherwise what is left, as open paths.</summary>
    /// <param name="outlines">On one sheet, each with a single subpath.</param>
    public static ImmutableArray<VectorPath> Once(IEnumerable<VectorPath> outlines)
    {
        var (before, left) = (new BoxGrid<(Point A, Point B)>(20), ImmutableArray.CreateBuilder<VectorPath>());
        foreach (var outline in outlines)
        {
            var stretches = Stretches(outline.Subpaths[0], before).ToList();
            if (stretches.TrueForAll(s => !s.IsShared)) left.Add(outline);
            else left.AddRange(Runs(stretches, outline.Subpaths[0].Closed));
            foreach (var (from, segment) in Edges(outline.Subpaths[0]))
                if (!segment.IsCurve && from.DistanceTo(segment.End) >= Least) before.Add(Around(from, segment.End), (from, segment.End));
        }

        return left.ToImmutable();
    }

    /// <summary>How much less is cut than the outlines are long.</summary>
    public static Length Saved(IEnumerable<VectorPath> outlines)
    {
        var all = outlines.ToList();
        return Length.FromMm(Math.Max(0, all.Sum(o => o.Length.Mm) - Once(all).Sum(o => o.Length.Mm)));
    }

    /// <summary>A part of an outline between two of its corners, or less.</summary>
    /// <param name="Ends">Where the cut lies that it ends at, at its start and its end, where it was cut off there.</param>
    private sealed record Stretch(Point From, Segment Segment, bool IsShared, (Point? Start, Point? End) Ends);

    private static IEnumerable<(Point From, Segment Segment)> Edges(Subpath outline)
    {
        var from = outline.Start;
        foreach (var s in outline.Segments)
        {
            yield return (from, s);
            from = s.End;
        }

        if (outline.Closed && from.DistanceTo(outline.Start) > Tolerances.Same) yield return (from, Segment.Line(outline.Start));
    }

    private static Box Around(Point a, Point b) => Box.Empty.With(a).With(b).Grown(Near);

    private static IEnumerable<Stretch> Stretches(Subpath outline, BoxGrid<(Point A, Point B)> before)
    {
        foreach (var (from, segment) in Edges(outline))
        {
            var length = from.DistanceTo(segment.End);
            if (segment.IsCurve || length < Least)
            {
                yield return new(from, segment, false, default);
                continue;
            }

            var along = (segment.End - from) * (1 / length);
            var done = 0.0;
            Point? ended = null;
            // What lies against it, from its start to its end.
            foreach (var (start, end, a, b) in before.Touching(Around(from, segment.End)).Distinct().Select(o => Against(from, along, length, o.A, o.B))
                .Where(o => o.End - o.Start >= Least).OrderBy(o => o.Start).ThenBy(o => o.End))
            {
                if (end <= done + Tolerances.Same) continue;
                var begin = Math.Max(start, done);
                if (begin > done + Near)
                {
                    var to = from + along * begin;
                    yield return new(from + along * done, Segment.Line(to), false, (ended, Onto(to, a, b)));
                }

                ended = Onto(from + along * end, a, b);
                yield return new(from + along * begin, Segment.Line(from + along * end), true, (Onto(from + along * begin, a, b), ended));
                done = end;
            }

            if (done == 0) yield return new(from, segment, false, default);
            else if (done < length) yield return new(from + along * done, segment, false, (ended, null));
        }
    }

    /// <summary>From where to where on an edge another one lies against it, in mm from its start; nothing where it does not.</summary>
    private static (double Start, double End, Point A, Point B) Against(Point from, Point along, double length, Point a, Point b)
    {
        double s = (a - from).Dot(along), t = (b - from).Dot(along);
        var (start, end) = (Math.Max(0, Math.Min(s, t)), Math.Min(length, Math.Max(s, t)));
        if (end - start < Least || (from + along * start).DistanceToSegment(a, b) > Near || (from + along * end).DistanceToSegment(a, b) > Near) return default;
        return (start < Near ? 0 : start, end > length - Near ? length : end, a, b);
    }

    private static Point Onto(Point p, Point a, Point b)
    {
        var way = b - a;
        return a + way * Math.Clamp((p - a).Dot(way) / way.Dot(way), 0, 1);
    }

    /// <summary>What is not shared, as open paths that begin and end on the cuts of others.</summary>
    private static IEnumerable<VectorPath> Runs(List<Stretch> stretches, bool isClosed)
    {
        // A closed outline is walked from behind a stretch that is shared, so that no run goes over its start.
        var first = isClosed ? stretches.FindIndex(s => s.IsShared) + 1 : 0;
        Point? start = null;
        var segments = ImmutableArray.CreateBuilder<Segment>();
        for (var i = 0; i < stretches.Count; i++)
        {
            var stretch = stretches[(first + i) % stretches.Count];
            if (!stretch.IsShared)
            {
                if (segments.Count == 0)
                {
                    // The cut that it goes on from: that of the shared stretch before it, in its own edge or at the corner.
                    var behind = i > 0 || isClosed ? stretches[(first + i + stretches.Count - 1) % stretches.Count] : null;
                    start = stretch.Ends.Start ?? (behind is { IsShared: true } ? behind.Ends.End : null) ?? stretch.From;
                    if (start != stretch.From) segments.Add(Segment.Line(stretch.From));
                }

                segments.Add(stretch.Segment);
                continue;
            }

            if (segments.Count == 0) continue;
            if (stretch.Ends.Start is { } onto && onto != segments[^1].End) segments.Add(Segment.Line(onto));
            yield return Path();
        }

        if (segments.Count > 0) yield return Path();

        VectorPath Path()
        {
            var path = new VectorPath([new(start!.Value, segments.ToImmutable(), false)]);
            segments.Clear();
            return path;
        }
    }
}
