using System.Globalization;
using Falzkunst.Core.Cards;
using Falzkunst.Core.Layout;
using Falzkunst.Core.Measures;
using Falzkunst.Core.Shapes;
using Falzkunst.Store;
using Microsoft.AspNetCore.Mvc;
using Microsoft.EntityFrameworkCore;

namespace Falzkunst.Web.Pages.Dockets;

/// <summary>What is moved, turned, pinned and set beside by hand.</summary>
public sealed partial class LayOutModel
{
    /// <summary>The piece that is chosen, as "p3.1"; empty for none.</summary>
    [BindProperty(SupportsGet = true, Name = "laid")]
    public string Chosen { get; set; } = "";

    public PieceCopy? ChosenPiece => PieceCopy.Read(Chosen) is { } which && DesignOfLayout?.Piece(which.PieceId) is not null && MayChange
        && (Laid!.Find(which) is not null || Laid.NotCut.Contains(which)) ? which : null;

    /// <summary>Whether what lies on the sheets can be changed by hand: as long as the layout is of what the docket is now.</summary>
    public bool MayChange => Laid is not null && LayoutIsCurrent && !Working;

    /// <summary>What lies beside the sheets and is not cut: what somebody set there, and what found no place.</summary>
    public IReadOnlyList<PieceCopy> Beside => [.. Laid?.NotCut ?? []];

    /// <summary>The sheets that the chosen piece could be put on instead: of its stock, the first of each kind of equal ones, from 0.</summary>
    public IEnumerable<SheetStack> OtherSheets(PieceCopy which) => Laid!.Stacks.Where(s => !(Laid.Find(which) is var (on, _) && s.Numbers.Contains(on + 1))
        && s.Sheet.StockId == Core.Cards.Stocks.For(DesignOfLayout!.Piece(which.PieceId)!, Stocks)?.Id);

    /// <summary>What is pinned on all sheets.</summary>
    public int Pinned => Laid?.Sheets.Sum(s => s.Pieces.Count(p => p.Pinned)) ?? 0;

    /// <summary>Where a piece is in the address, on its sheet or beside.</summary>
    public string Choose(PieceCopy which) => Address("lay-out") + QueryString.Create([
        .. Laid?.Find(which) is var (sheet, _) ? [KeyValuePair.Create("sheet", (string?)(sheet + 1).ToString(CultureInfo.InvariantCulture))]
            : Number > 0 ? new[] { KeyValuePair.Create("sheet", (string?)Number.ToString(CultureInfo.InvariantCulture)) } : [],
        KeyValuePair.Create("laid", (string?)which.ToString())]);

    public async Task<IActionResult> OnPostMovePieceAsync(Guid layout, string? right, string? down, double turn, CancellationToken cancel)
    {
        if (!ReadWay(right, out var across, out var error) || !ReadWay(down, out var along, out error)) return Back(error);
        if (!double.IsFinite(turn) || Math.Abs(turn) > 3600) return Back("A piece is turned by up to 3,600 degrees.");
        return await ByHandly(layout, (design, l) => PieceCopy.Read(Chosen) is { } which
            ? ByHand.Move(design, l, which, Angle.FromDegrees(turn), new(across.Mm, along.Mm)) : NothingChosen, cancel);
    }

    public Task<IActionResult> OnPostPinAsync(Guid layout, bool pinned, CancellationToken cancel) =>
        ByHandly(layout, (design, l) => PieceCopy.Read(Chosen) is { } which ? ByHand.Pin(design, l, which, pinned) : NothingChosen, cancel);

    public Task<IActionResult> OnPostPinAllAsync(Guid layout, bool pinned, CancellationToken cancel) =>
        ByHandly(layout, (_, l) => ByHand.PinAll(l, Number - 1, pinned), cancel);

    public Task<IActionResult> OnPostBesideAsync(Guid layout, CancellationToken cancel) =>
        ByHandly(layout, (design, l) => PieceCopy.Read(Chosen) is { } which ? ByHand.SetBeside(design, l, which) : NothingChosen, cancel);

    /// <param name="to">The sheet, from 1; one more than there are for one more from the drawer.</param>
    /// <param name="x">Where its middle is wanted, in mm of the sheet; null for where there is room.</param>
    public async Task<IActionResult> OnPostPutOnAsync(Guid layout, int to, double? x, double? y, CancellationToken cancel)
    {
        DocketLayout? after = null;
        var answer = await ByHandly(layout, (design, l) =>
        {
            if (PieceCopy.Read(Chosen) is not { } which) return NothingChosen;
            var done = ByHand.PutOn(design, Stocks, l, which, to - 1, x is { } left && y is { } top ? new Point(left, top) : null);
            after = done.Layout;
            return done;
        }, cancel);
        if (after is null || Notice is not null || PieceCopy.Read(Chosen) is not { } moved || after.Find(moved) is not var (now, _)) return answer;
        // The page goes along with the piece.
        return LocalRedirect($"{Address("lay-out")}?sheet={now + 1}&laid={Uri.EscapeDataString(Chosen)}");
    }

    private static ByHandResult NothingChosen => new(null, "Choose a piece on a sheet first.");

    /// <summary>Makes a change by hand, or says why it can't be made.</summary>
    private async Task<IActionResult> ByHandly(Guid basedOn, Func<Design, DocketLayout, ByHandResult> change, CancellationToken cancel)
    {
        if (Design is null) return Back("Lay out first.");
        var row = await Parts.Db.Layouts.AsNoTracking().FirstOrDefaultAsync(l => l.Id == basedOn && l.DocketId == Docket.Id, cancel);
        if (row is null || !IsCurrent(row) || await Parts.Together.DesignOf(row, cancel) is not { } design)
        {
            var why = row is null ? "That layout is gone" : LayoutJob.WhyNot(row, OfSheets, Stocks, [.. Companions]);
            return Back($"{why}: lay out again, then move pieces by hand.");
        }

        if (await Parts.Db.Runs.AnyAsync(r => r.DocketId == Docket.Id && RunRow.Active.Contains(r.State), cancel))
            return Back("A sheet of this docket is on the machine. Wait until it is done, or stop it; then change the layout.");
        return Back(await Parts.ByHand.Change(Docket, basedOn, l => change(design, l), cancel));
    }

    /// <summary>Undo here takes back what was done to the layout, as long as there is anything; then what was done to the design.</summary>
    protected override async Task<IActionResult> Step(Guid basedOn, bool undo, bool others, CancellationToken cancel)
    {
        var layout = await Parts.LatestLayout(Docket.Id, cancel);
        if (layout is null || Leader is not null || !IsCurrent(layout)) return await base.Step(basedOn, undo, others, cancel);
        var why = undo ? await Parts.ByHand.Undo(Docket, layout.Id, cancel) : await Parts.ByHand.Redo(Docket, layout.Id, cancel);
        return why?.Length == 0 ? await base.Step(basedOn, undo, others, cancel) : Back(why);
    }
}
