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
