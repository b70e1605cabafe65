using Falzkunst.Core.Cards;

namespace Falzkunst.Core.Findings;

/// <summary>
/// Pieces whose colour no stock in the drawer comes near, and for which nobody chose one. Why: they would be cut from a paper that looks nothing like them.
/// Remedies: the nearest stocks, so that it is settled.
/// </summary>
internal static class FarFromStocks
{
    private const int Offered = 2;

    public static IEnumerable<Finding> In(FindingContext c)
    {
        foreach (var pieces in Stocks.Far(c.Design, c.Drawer))
        {
            var first = pieces.First();
            ImmutableArray<string> ids = [.. pieces.Select(p => p.Id)];
            ImmutableArray<Remedy> ways = [.. c.Drawer.OrderBy(s => s.Colour.DistanceTo(first.Colour)).Take(Offered)
                .Select(s => new Remedy($"Take {s.Name}", new AssignStock(ids, s.Id)))];
            yield return new("far-from-stocks", Severity.Warn, first.OnCard.Bounds.Centre,
                $"No paper in the drawer is near the colour of {first.Label}{(ids.Length > 1 ? $" and {ids.Length - 1} more" : "")} "
                    + $"({ColourNames.Of(first.Colour)}).", ids, ways[0])
            { More = ways[1..] };
        }
    }
}
