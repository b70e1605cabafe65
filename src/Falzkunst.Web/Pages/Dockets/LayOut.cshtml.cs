using Falzkunst.Core.Cards;
using Falzkunst.Core.Layout;
using Falzkunst.Core.Measures;
using Falzkunst.Core.Runs;
using Falzkunst.Store;
using Microsoft.AspNetCore.Mvc;

namespace Falzkunst.Web.Pages.Dockets;

public sealed partial class LayOutModel(DocketParts parts) : SheetsPage(parts)
{
    public override int Stage => 5;

    /// <summary>The layout, as long as what lies on its sheets can be read.</summary>
    public DocketLayout? Plan => DesignOfLayout is null ? null : Laid;

    /// <summary>The dockets that could be laid out with this one; null where nobody asked.</summary>
    public IReadOnlyList<Companion>? Offered { get; private set; }

    /// <summary>How many sheets this docket takes, and those with it, each by itself; null where one of them was never laid out so.</summary>
    public IReadOnlyList<int>? Alone { get; private set; }

    /// <summary>What is laid out, in words: "12 copies, and docket 46".</summary>
    public string Asked => Words.Count(Docket.Copies, "copy", "copies") + (Companions.Count == 0 ? ""
        : $", and {(Companions.Count == 1 ? "docket" : "dockets")} {string.Join(", ", Companions.Select(c => c.Number))}");

    /// <summary>The sheets of a stock, equal ones together.</summary>
    public IReadOnlyList<IGrouping<string, Hung>> Wall { get; private set; } = [];

    public string SheetAddress(int number) => Leader is { } leader ? $"/dockets/{leader.Number}/lay-out?sheet={number}" : With("sheet", $"{number}");

    /// <summary>The one sheet that is looked at; null for the whole wall.</summary>
    public Hung? One { get; private set; }

    /// <summary>The machine whose mat it goes on; null where there is none.</summary>
    public Machine? Machine { get; private set; }

    /// <summary>What each stock gives.</summary>
    public IReadOnlyList<Taken> Drawer { get; private set; } = [];

    /// <summary>The number of the sheet that is looked at, from 1; 0 for all.</summary>
    [BindProperty(SupportsGet = true, Name = "sheet")]
    public int Number { get; set; }

    /// <summary>Equal sheets, and what is left of each.</summary>
    public sealed record Hung(SheetStack Stack, Box OffCut)
    {
        public SheetPlan Sheet => Stack.Sheet;

        /// <summary>"1 to 11", or "1, 4, 5".</summary>
        public string Numbers => Stack.Numbers is [var only] ? $"{only}" : Stack.Numbers[^1] - Stack.Numbers[0] == Stack.Numbers.Length - 1
            ? $"{Stack.Numbers[0]} to {Stack.Numbers[^1]}" : string.Join(", ", Stack.Numbers);
    }

    /// <summary>What a stock gives to this docket.</summary>
    /// <param name="Pieces">Of all copies.</param>
    /// <param name="Sizes">Of each size: how many sheets are used, of how many.</param>
    public sealed record Taken(Stock Stock, int Pieces, IReadOnlyList<(SheetSize Size, int Used, int ToBuy, Wanted Wanted)> Sizes);

    /// <summary>What other dockets want of the same sheets.</summary>
    public sealed record Wanted(int Sheets, IReadOnlyList<int> Dockets)
    {
        /// <summary>"5 wanted for docket 44", or "… dockets 44, 46".</summary>
        public override string ToString() => $"{Sheets} wanted for {(Dockets.Count == 1 ? "docket" : "dockets")} {string.Join(", ", Dockets)}";
    }

    /// <summary>The sizes of a stock that are worth telling: whole sheets, and off-cuts that are used, also those that are gone since.</summary>
    private static IEnumerable<SheetSize> SizesOf(Stock stock, List<SheetPlan> used)
    {
        var offCuts = used.Where(u => u.StockId == stock.Id && u.Size.IsOffCut).Select(u => u.Size);
        return stock.Sheets.Where(s => !s.IsOffCut)
            .Concat(offCuts.Select(o => stock.Sheets.FirstOrDefault(s => s.IsLike(o)) ?? o with { Count = 0 }).Distinct());
    }

    public Task OnGetAsync(CancellationToken cancel) => ReadPage(cancel);

    /// <summary>Changes how the docket's pieces are laid out, and lays them out again.</summary>
    public async Task<IActionResult> OnPostLayingAsync(Guid basedOn, string? gap, Turns turns, string? together, string? down, CancellationToken cancel)
    {
        if (Design is null) return Back();
        if (!ReadWay(gap, out var apart, out var error)) return Back(error);
        var next = new LayingRules(apart, turns) { CardsTogether = together is not null, FaceDown = down is not null };
        return next == Design.Laying ? Back() : await ChangeAndLayOut(basedOn, new SetLaying(next), cancel);
    }

    /// <summary>Shows which dockets could be laid out with this one.</summary>
    public async Task<IActionResult> OnGetCompanionsAsync(CancellationToken cancel)
    {
        if (Design is { } design && Leader is null) Offered = await Parts.Together.Companions(Docket, design, Stocks, cancel);
        return await Part("_Companions", cancel);
    }

    /// <summary>Says which dockets go on the sheets of this one, and lays them out.</summary>
    public async Task<IActionResult> OnPostTogetherAsync(int[] with, CancellationToken cancel)
    {
        if (Companions.Select(c => c.Number).Order().SequenceEqual(with.Distinct().Order())) return Back();
        if (await Parts.Together.Set(Docket, with, Stocks, cancel) is { } why) return Back(why);
        await Parts.Layouts.Ask(Docket, Me, Parts.Queue, cancel);
        return Back();
    }

    protected override async Task ReadPage(CancellationToken cancel)
    {
        await ReadLayout(cancel);
        if (Leader is not null)
        {
            // The sheets of the other docket that its pieces lie on.
            if (Plan is { } its && DesignOfLayout is { } shared && LayoutIsCurrent)
                Wall = [.. its.Stacks.Where(s => s.Sheet.Pieces.Any(p => shared.Piece(p.PieceId)?.Guest?.Docket == Docket.Number))
                    .Select(s => new Hung(s, OffCuts.Of(shared, s.Sheet))).GroupBy(h => h.Sheet.StockName)];
            return;
        }

        if (Plan is { } plan && DesignOfLayout is { } laidOut)
        {
            // Off-cuts are looked for where they are shown.
            One = plan.Stacks.Where(s => s.Numbers.Contains(Number)).Select(s => new Hung(s, OffCuts.Of(laidOut, s.Sheet))).FirstOrDefault();
            if (One is null) Wall = [.. plan.Stacks.Select(s => new Hung(s, OffCuts.Of(laidOut, s.Sheet))).GroupBy(h => h.Sheet.StockId)];
            else if (await Parts.MachineOf(Docket, cancel) is { } machine) Machine = Store.Drawer.ToCore(machine);
            if (MayChange && await Parts.ByHand.Steps(Layout!, cancel) is var (undo, redo))
            {
                UndoWhat = undo ?? UndoWhat;
                RedoWhat = redo ?? (undo is null ? RedoWhat : null);
            }
        }

        var current = LayoutIsCurrent ? Plan : null;
        // What is cut is out of the drawer already.
        var cut = current is null ? [] : await Parts.ByHand.CutSheets(Layout!, cancel);
        var uncut = current?.Sheets.Where((_, i) => !cut.Contains(i)).ToList() ?? [];
        var wanted = await Parts.ByHand.Wanted(Docket.Id, cancel);
        if (Companions.Count > 0 && current is not null) Alone = await Parts.Layouts.SheetsAlone([Docket, .. Companions], Stocks, cancel);
        var design = Companions.Count == 0 ? Design : await Parts.Together.DesignNow(Docket, Companions, cancel) ?? Design;
        Drawer = [.. (design?.Papers ?? []).GroupBy(p => Core.Cards.Stocks.For(p, Stocks)).Where(g => g.Key is not null).Select(g => new Taken(g.Key!,
            g.Sum(p => p.NumberFor(Docket.Copies)), [.. SizesOf(g.Key!, uncut).Select(size => Of(g.Key!.Id, size))]))];

        (SheetSize, int Used, int ToBuy, Wanted) Of(string stockId, SheetSize size)
        {
            var others = wanted.Where(w => w.StockId == stockId && w.Size.IsLike(size)).ToList();
            var used = uncut.Count(s => s.StockId == stockId && s.Size.IsLike(size));
            var missing = current?.Missing.Where(m => m.StockId == stockId && m.Size.IsLike(size)).Sum(m => m.Count) ?? 0;
            return (size, used, missing + Math.Max(0, used - size.Count), new(others.Count, [.. others.Select(w => w.Docket).Distinct().Order()]));
        }
    }
}
