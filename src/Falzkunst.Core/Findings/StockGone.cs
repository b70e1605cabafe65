using Falzkunst.Core.Cards;

namespace Falzkunst.Core.Findings;

/// <summary>
/// Pieces whose chosen stock lies in the drawer no more (it was retired, or the docket comes from elsewhere). Why: they would silently be cut from whatever is
/// nearest in colour. Remedy: choose that, so that it is settled.
/// </summary>
internal static class StockGone
{
    public static IEnumerable<Finding> In(FindingContext c)
    {
        if (c.Drawer.Count == 0) yield break;
        var known = c.Drawer.Select(s => s.Id).ToHashSet(StringComparer.Ordinal);
        foreach (var pieces in c.Design.Pieces.Where(p => p.StockId is { } id && !known.Contains(id)).GroupBy(p => Stocks.For(p, c.Drawer)!))
        {
            var first = pieces.First();
            var more = pieces.Count() - 1;
            yield return new("stock-gone", Severity.Warn, first.OnCard.Bounds.Centre,
                $"The stock chosen for {first.Label}{(more > 0 ? $" and {more} more" : "")} is not in the drawer any more; {pieces.Key.Name} would be taken.",
                [.. pieces.Select(p => p.Id)], new($"Take {pieces.Key.Name}", new AssignStock([.. pieces.Select(p => p.Id)], pieces.Key.Id)));
        }
    }
}
