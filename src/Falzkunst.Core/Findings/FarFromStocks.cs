using Falzkunst.Core.Cards;

namespace Falzkunst.Core.Findings;

/// <summary>
/// Pieces for which nobody chose a paper, and that none in the drawer suits. Why: they would be cut from one that looks nothing like them, or does not bear
/// what is done with it. Remedies: the papers that suit them best, so that it is settled.
/// </summary>
internal static class FarFromStocks
{
    public static IEnumerable<Finding> In(FindingContext c) => Stocks.Asked(c.Design, c.Drawer).Where(a => !a.IsGone).Select(asked =>
    {
        ImmutableArray<string> ids = [.. asked.Pieces.Select(p => p.Id)];
        ImmutableArray<Remedy> ways = [.. asked.Nearest.Select(s => new Remedy($"Take {s.Name}", new AssignStock(ids, s.Id)))];
        return new Finding("far-from-stocks", Severity.Warn, asked.Pieces[0].OnCard.Bounds.Centre, asked.Why, ids, ways[0]) { More = ways[1..] };
    });
}
