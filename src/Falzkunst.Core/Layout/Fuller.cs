using Falzkunst.Core.Cards;

namespace Falzkunst.Core.Layout;

/// <summary>How many cards the sheets of a layout would take, since they are begun anyway.</summary>
public static class Fuller
{
    private static readonly TimeSpan Effort = TimeSpan.FromSeconds(0.7);

    /// <summary>The most copies that go on as many sheets of each size as a layout uses; its own number where no more do. Each number that counts was laid out
    /// for good. Doubled first, then halved: some eight layouts. Cancelled, it gives what was found so far.</summary>
    /// <param name="most">More copies are not asked for.</param>
    public static int Of(Design design, IReadOnlyList<Stock> drawer, DocketLayout layout, int most, CancellationToken cancel = default)
    {
        ImmutableArray<Stock> same = [.. drawer.Select(s => s with
        {
            Sheets = [.. layout.Sheets.Where(l => l.StockId == s.Id).GroupBy(l => l.Size with { Count = 0, Price = null })
                .Select(g => g.First().Size with { Count = g.Count() })],
        })];
        // Of other dockets as many are made as before.
        var byArea = design.Papers.GroupBy(p => Stocks.For(p, same)?.Id).Select(g => (
            Used: layout.Sheets.Where(s => s.StockId == g.Key).Sum(s => s.Size.UsableWidth.Mm * s.Size.UsableHeight.Mm)
                - g.Where(p => p.Guest is not null).Sum(p => p.AreaMm2 * p.NumberFor(layout.Copies)),
            One: g.Where(p => p.Guest is null).Sum(p => p.AreaMm2 * p.Number.PerCard))).Where(t => t.One > 0).ToList();
        if (!layout.Unplaced.IsEmpty || byArea.Count == 0) return layout.Copies;
        most = (int)Math.Min(most, byArea.Min(t => t.Used / t.One));
        var (fits, tooMany) = (layout.Copies, most + 1);
        for (var next = fits + 1; next < tooMany && !cancel.IsCancellationRequested;)
        {
            var then = SheetPlans.LayOut(design, same, new(next, 2, Effort), cancel: cancel);
            if (then.Unplaced.IsEmpty) fits = next;
            else tooMany = next;
            next = tooMany > most ? Math.Min(most, fits + Math.Max(1, fits - layout.Copies) * 2) : (fits + tooMany) / 2;
            if (next <= fits) break;
        }

        return fits;
    }
}
