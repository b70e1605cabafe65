namespace Falzkunst.Core.Runs;

/// <summary>
/// Orders paths so that the tool travels little in the air; an open path may be walked from either end, a closed one from any of its corners. See
/// <see cref="Tour"/>.
/// </summary>
public static class PathOrder
{
    /// <summary>The same paths in a better order, some turned round or started elsewhere; a path of several runs comes as several. Never with more travel than
    /// the order given. Deterministic.</summary>
    public static ImmutableArray<VectorPath> Order(IReadOnlyList<VectorPath> paths, Point from)
    {
        ImmutableArray<VectorPath> given = [.. paths.SelectMany(p => p.Parts())];
        if (given.IsEmpty) return given;
        var ordered = Tour.Of([.. given.Select(p => p.Subpaths[0])], from);
        return Travel(ordered, from) <= Travel(given, from) ? ordered : given;
    }

    /// <summary>As <see cref="Order"/>, for what is cut: closed lines begin away from their corners.</summary>
    public static ImmutableArray<VectorPath> OrderCuts(IReadOnlyList<VectorPath> paths, Point from) => paths.Count == 0 ? []
        : Tour.Of([.. paths.SelectMany(p => StartPoints.With(p).Subpaths)], from, StartPoints.Of);

    /// <summary>Where a closed line that is cut may begin: away from its corners, as far as it can.</summary>
    public static ImmutableArray<Point> PlacesToBegin(Subpath line)
    {
        var halved = StartPoints.With(new([line])).Subpaths[0];
        return [.. StartPoints.Of(halved).Select(k => k < 0 ? halved.Start : halved.Segments[k].End)];
    }

    /// <summary>The same way with as few strokes as it takes: a line that starts where the one before it ended goes on from there with the tool down.</summary>
    public static ImmutableArray<VectorPath> Joined(ImmutableArray<VectorPath> ordered)
    {
        var joined = ImmutableArray.CreateBuilder<VectorPath>(ordered.Length);
        Subpath? open = null;
        foreach (var sub in ordered.SelectMany(p => p.Subpaths))
        {
            if (open is not null && !sub.Closed && sub.Segments.Length > 0 && sub.Start.DistanceTo(open.End) <= Tolerances.Same)
            {
                open = open with { Segments = open.Segments.AddRange(sub.Segments) };
                joined[^1] = new([open]);
                continue;
            }

            joined.Add(new([sub]));
            open = sub.Closed || sub.Segments.Length == 0 ? null : sub;
        }

        return joined.ToImmutable();
    }

    /// <summary>How far the tool travels in the air, from the point along all paths.</summary>
    public static Length Travel(IReadOnlyList<VectorPath> paths, Point from)
    {
        double sum = 0;
        foreach (var sub in paths.SelectMany(p => p.Subpaths))
        {
            sum += from.DistanceTo(sub.Start);
            from = sub.Closed ? sub.Start : sub.End;
        }

        return Length.FromMm(sum);
    }
}
