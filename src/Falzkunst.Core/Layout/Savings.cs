using Falzkunst.Core.Cards;

namespace Falzkunst.Core.Layout;

/// <summary>Something that could be changed so that a layout takes fewer sheets, or takes all pieces.</summary>
/// <param name="Key">What it is, in a word and a number: "size 3" (percent smaller), "margin 1" (mm), "bleed 1", "inset 5", "marks dots",
/// "sheets 305 305" (mm), or "again".</param>
/// <param name="Text">What would change, as a sentence without its end: "3 % smaller: Front 143.6 × 101.9 mm".</param>
/// <param name="Sheets">How many sheets it takes then.</param>
/// <param name="OnOne">How many of the one piece there is lie on a sheet then, where there is but one to a copy; otherwise null.</param>
public sealed record Saving(string Key, string Text, int Sheets, int Unplaced, (int Now, int Then)? OnOne);

/// <summary>Looks for small changes that save a sheet. Each is laid out for good with the change made, so that what is offered is known to fit.</summary>
public static class Savings
{
    /// <summary>How long each change is tried.</summary>
    private static readonly TimeSpan Effort = TimeSpan.FromSeconds(0.8);

    private static readonly double[] Percents = [1, 2, 3, 5];

    /// <summary>Sizes that paper is sold in, in mm.</summary>
    private static readonly (double Width, double Height)[] Sold = [(210, 297), (215.9, 279.4), (304.8, 304.8), (297, 420)];

    /// <summary>The changes that take fewer sheets than a layout did, or leave fewer pieces without a place; the least of each kind, those that change the
    /// card last. Cancelled, it gives those that were found so far.</summary>
    /// <param name="design">That the layout was made of.</param>
    /// <param name="reach">How large sheets may be, for other sizes; empty where no machine says.</param>
    public static ImmutableArray<Saving> Of(Design design, IReadOnlyList<Stock> drawer, DocketLayout layout, Box reach,
        CancellationToken cancel = default)
    {
        var found = ImmutableArray.CreateBuilder<Saving>();
        if (layout.Unplaced.IsEmpty && layout.Sheets.GroupBy(s => s.StockId).All(g => g.Count() < 2)) return [];
        var keys = Keys(design, drawer, layout, reach).ToList();
        var isSmallerFound = false;
        for (var k = 0; k < keys.Count && !cancel.IsCancellationRequested; k++)
        {
            var isSize = keys[k].StartsWith("size ", StringComparison.Ordinal);
            if (isSize && isSmallerFound) continue;
            if (Changed(keys[k], design, drawer, layout) is not var (next, stocks) || !CanSave(next, stocks, layout)) continue;
            var then = SheetPlans.LayOut(next, stocks, LayoutSettings.For(layout.Copies) with { Effort = Effort, Seed = 2 }, cancel: cancel);
            if (cancel.IsCancellationRequested && then.Unplaced.Length > 0) break;
            if (then.Unplaced.Length > layout.Unplaced.Length
                || (then.Unplaced.Length == layout.Unplaced.Length && then.Sheets.Length >= layout.Sheets.Length)) continue;
            found.Add(new(keys[k], Said(keys[k], next), then.Sheets.Length, then.Unplaced.Length, OnOne(design, layout, then)));
            if (keys[k] == "again") break;
            isSmallerFound |= isSize;
        }

        return found.ToImmutable();
    }

    /// <summary>The change of the card that a saving is; null where it is one of the drawer, or none.</summary>
    public static Edit? EditOf(string key, Design design) => key.Split(' ') switch
    {
        ["size", var percent] when double.TryParse(percent, CultureInfo.InvariantCulture, out var by) && by is > 0 and < 50 => Smaller(design, 1 - by / 100),
        ["bleed", var mm] when design.Print is { } print && Number(mm) is { } to => new SetPrinting(print with { Bleed = to }),
        ["inset", var mm] when design.Print is { } print && Number(mm) is { } to => new SetPrinting(print with { Inset = to }),
        ["marks", var word] when design.Print is { } print && MarkKinds.Find(word) is { } kind => new SetPrinting(print with { Marks = kind }),
        _ => null,
    };

    /// <summary>The margin of sheets that a saving asks for; null where it is another one.</summary>
    public static Length? MarginOf(string key) => key.Split(' ') is ["margin", var mm] ? Number(mm) : null;

    private static Length? Number(string mm) =>
        double.TryParse(mm, CultureInfo.InvariantCulture, out var value) && value is >= 0 and <= 100 ? Length.FromMm(value) : null;

    /// <summary>The sheets that a saving asks for, which have to be bought; null where it is another one.</summary>
    public static (Length Width, Length Height)? SheetsOf(string key) =>
        key.Split(' ') is ["sheets", var w, var h] && double.TryParse(w, CultureInfo.InvariantCulture, out var width)
        && double.TryParse(h, CultureInfo.InvariantCulture, out var height) ? (Length.FromMm(width), Length.FromMm(height)) : null;

    /// <summary>The stocks of which a layout takes several sheets.</summary>
    private static HashSet<string> Several(DocketLayout layout) =>
        [.. layout.Sheets.GroupBy(s => s.StockId).Where(g => g.Count() > 1).Select(g => g.Key), .. layout.Missing.Select(m => m.StockId)];

    private static IEnumerable<string> Keys(Design design, IReadOnlyList<Stock> drawer, DocketLayout layout, Box reach)
    {
        yield return "again";
        // A change of the card is a change of one docket: where several share their sheets, only the sheets can be others.
        var shared = design.Papers.Any(p => p.Guest is not null);
        if (!shared && design.Print is { Marks: { } marks } print)
        {
            foreach (var kind in Enum.GetValues<MarkKind>())
                if (kind != marks) yield return $"marks {kind.Word()}";
            const double near = 5;
            if (print.Inset.Mm > near + 0.01) yield return "inset 5";
        }

        if (!shared && design.Print is { Bleed.Mm: > 1.01 }) yield return "bleed 1";
        var used = design.Papers.Select(p => Stocks.For(p, drawer)).OfType<Stock>().Distinct().ToList();
        if (used.Exists(s => s.Sheets.Any(q => q.Margin.Mm > 1.01))) yield return "margin 1";
        var several = Several(layout);
        var there = used.Where(s => several.Contains(s.Id)).SelectMany(s => s.Sheets).ToList();
        foreach (var (width, height) in Sold)
        {
            // What the machine takes, and is not in the drawer anyway.
            if (width > reach.Right + 0.3 || height > reach.Bottom + 0.3) continue;
            if (there.Count == 0 || there.Exists(s => Math.Abs(s.Width.Mm - width) < 1 && Math.Abs(s.Height.Mm - height) < 1)) continue;
            yield return string.Create(CultureInfo.InvariantCulture, $"sheets {width} {height}");
        }

        foreach (var percent in shared ? [] : Percents) yield return string.Create(CultureInfo.InvariantCulture, $"size {percent}");
    }

    private static (Design Design, IReadOnlyList<Stock> Drawer)? Changed(string key, Design design, IReadOnlyList<Stock> drawer, DocketLayout layout)
    {
        if (key == "again") return (design, drawer);
        if (SheetsOf(key) is var (width, height))
        {
            var several = Several(layout);
            return (design, [.. drawer.Select(s => several.Contains(s.Id) ? s with { Sheets = [new(width, height, 999, s.Sheets.Max(q => q.Margin))] } : s)]);
        }

        if (MarginOf(key) is { } margin) return (design, [.. drawer.Select(s => WithMargin(s, margin))]);
        return EditOf(key, design) is { } edit && edit.Refusal(design) is null ? (edit.Make(design), drawer) : null;
    }

    private static Stock WithMargin(Stock stock, Length margin) =>
        stock with { Sheets = [.. stock.Sheets.Select(q => q.Margin > margin ? q with { Margin = margin } : q)] };

    private static Edit? Smaller(Design design, double by)
    {
        ImmutableArray<string> ids = [.. design.Pieces.Select(p => p.Id), .. design.Loose.Select(l => l.Id)];
        var box = Align.Around(design, ids);
        return box.Width > 0 ? new Resize(ids, Length.FromMm(box.Width * by), null, true, new(0, 0)) : null;
    }

    private static string Said(string key, Design after) => key.Split(' ') switch
    {
        ["size", var percent] => $"Everything {percent} % smaller{(after.Papers.MaxBy(p => p.OnCard.Bounds.Area) is { } largest
            ? $": {largest.Label} {Tenths(largest.OnCard.Bounds.Width)} × {Tenths(largest.OnCard.Bounds.Height)}" : "")}",
        ["bleed", var mm] => $"A bleed of {mm} mm",
        ["inset", var mm] => $"Marks {mm} mm from the edges of the sheet",
        ["marks", var word] => $"{char.ToUpperInvariant(word[0])}{word[1..]} as marks",
        ["sheets", ..] when SheetsOf(key) is var (w, h) => $"On sheets of {Tenths(w.Mm)} × {Tenths(h.Mm)}",
        ["margin", var mm] => $"A margin of {mm} mm on the sheets, where the machine holds them so near to their edge; kept with the stock in the drawer",
        _ => "Laid out once more, for longer",
    };

    private static Length Tenths(double mm) => Length.FromMm(Math.Round(mm, 1));

    /// <summary>Whether the area alone allows a sheet less; without that nothing has to be tried.</summary>
    private static bool CanSave(Design design, IReadOnlyList<Stock> drawer, DocketLayout layout)
    {
        if (!layout.Unplaced.IsEmpty) return true;
        foreach (var group in design.Papers.GroupBy(p => Stocks.For(p, drawer)))
        {
            var now = layout.Sheets.Count(s => s.StockId == group.Key?.Id);
            if (now < 2) continue;
            var room = group.Key!.Sheets.Max(s => s.UsableWidth.Mm * s.UsableHeight.Mm);
            if (group.Sum(p => p.AreaMm2 * p.NumberFor(layout.Copies)) <= room * (now - 1)) return true;
        }

        return false;
    }

    private static (int Now, int Then)? OnOne(Design design, DocketLayout now, DocketLayout then)
    {
        if (design.Papers.Length != 1 || now.Sheets.IsEmpty || then.Sheets.IsEmpty) return null;
        var (a, b) = (now.Sheets.Max(s => s.Pieces.Length), then.Sheets.Max(s => s.Pieces.Length));
        return b > a ? (a, b) : null;
    }
}
