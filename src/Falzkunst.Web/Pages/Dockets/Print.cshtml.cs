using System.Collections.Immutable;
using Falzkunst.Core.Cards;
using Falzkunst.Core.Files;
using Falzkunst.Core.Layout;
using Falzkunst.Core.Pictures;
using Falzkunst.Core.Printing;
using Falzkunst.Store;
using Microsoft.AspNetCore.Mvc;
using Microsoft.EntityFrameworkCore;

namespace Falzkunst.Web.Pages.Dockets;

/// <summary>What is printed before it is cut: on which sheet with which marks, the print file, and how the cut lies on a printed sheet.</summary>
public sealed partial class PrintModel(DocketParts parts, Papers papers, Blobs blobs) : SheetsPage(parts)
{
    public override int Stage => 4;

    public PrintSettings? Settings => Design?.Print;

    /// <summary>The sheets on which something is printed.</summary>
    public IReadOnlyList<PrintSheet> Sheets { get; private set; } = [];

    /// <summary>The sheet that is looked at; null where all are.</summary>
    public PrintSheet? Sheet { get; private set; }

    public Dictionary<int, PaperRow> Seen { get; private set; } = [];

    /// <summary>What was read of the sheet that is looked at.</summary>
    public PaperRow? Paper { get; private set; }

    public Proof? Proof { get; private set; }

    public (int Width, int Height) PaperPx { get; private set; }

    public List<MachineRow> Machines { get; private set; } = [];

    public MachineRow? Machine { get; private set; }

    public IReadOnlyList<Piece> Printed => [.. (Design?.Papers ?? []).Where(p => p.IsPrinted)];

    /// <summary>The pieces that lie on another one, so that they could be printed on it instead.</summary>
    public IReadOnlyList<Piece> CouldBePrinted =>
        [.. (Design?.Papers ?? []).Where(p => !p.IsPrinted && Design!.PlyNumber(p.PlyId) > 1)];

    /// <summary>Where what is printed would go: a sheet size of a stock.</summary>
    public IEnumerable<(Stock Stock, SheetSize Size)> Places => Stocks.SelectMany(s => s.Sheets.Select(q => (s, q)));

    /// <summary>The stock that printed pieces go to now.</summary>
    public Stock? StockNow => Printed.Count > 0 ? Core.Cards.Stocks.For(Printed[0], Stocks) : null;

    /// <summary>The stock that is proposed: the one that was chosen for what is printed, or else the whitest, since ink is seen truest on it.</summary>
    public Stock? StockProposed => Printed.Any(p => p.StockId is not null) ? StockNow : Stocks.MinBy(s => s.Colour.DistanceTo(Core.Looks.Colour.White));

    /// <summary>The coarsest picture that is printed; null where there is none.</summary>
    public (double PxPerInch, string Label)? Coarsest => Design?.Artwork.Where(a => a.PxPerInch is not null && a.By is { IsThing: false })
        .Select(a => ((double, string)?)(a.PxPerInch!.Value, a.By!.Label)).MinBy(t => t!.Value.Item1);

    /// <summary>How much ink is saved by printing only what is seen, as a part.</summary>
    public double Saved { get; private set; }

    public string PictureOf(PrintSheet sheet) => $"/dockets/{Docket.Number}/print/{Layout!.Id:N}/sheet-{sheet.Number}.png";

    public Task OnGetAsync(CancellationToken cancel) => ReadPage(cancel);

    protected override async Task ReadPage(CancellationToken cancel)
    {
        int? sheet = int.TryParse(Request.Query["sheet"], out var asked) ? asked : null;
        Machines = await Parts.Drawer.Machines(cancel);
        Machine = await Parts.MachineOf(Docket, cancel);
        if (Design is { Print: { } print } design)
            Saved = Core.Printing.Seen.Saved(design, print with { UnderOthers = print.UnderOthers ?? PrintSettings.UsualUnderOthers });
        await ReadCalibration(cancel);
        Press = await PressJob.Newest(Parts.Db, Docket.Id, cancel);
        if (Leader is not null) return;
        await ReadLayout(cancel);
        if (Layout is null || Laid is null || Working || await Parts.PrintSheets(Docket, Layout, cancel) is not { } all) return;
        Sheets = [.. all.Where(s => s.Pieces.Length > 0)];
        Seen = await papers.Of(Layout.Id, cancel);
        Sheet = Sheets.FirstOrDefault(s => s.Number == sheet) ?? (Sheets.Count == 1 ? Sheets[0] : null);
        if (LayoutIsCurrent && ToCut is { } first && await Parts.PlanOf(Docket, cancel) is { Plan.CanRun: true } found)
            Loading = Machine is { } row ? row.Setup.Before(found.Plan, first.Number - 1, 1,
                await Parts.Runs.FreePaper(row.Id, found.Layout.Id, first.Number - 1, cancel), false)?.Text ?? "" : null;
        if (Sheet is null || Seen.GetValueOrDefault(Sheet.Number - 1) is not { } paper) return;
        (Paper, Proof) = (paper, Papers.ProofOf(paper));
        if (await blobs.Of(paper.Picture, cancel) is { } bytes && PictureFacts.Read(bytes) is { } facts) PaperPx = (facts.WidthPx, facts.HeightPx);
    }

    /// <summary>Prints the card: the sheet and the machine first, then the marks; all that is printed goes to that stock, and is laid out at once.</summary>
    public async Task<IActionResult> OnPostChooseAsync(Guid basedOn, string? machine, string? place, string? marks, CancellationToken cancel)
    {
        if (Design is null || Printed.Count == 0) return Back("There is nothing to print yet.");
        var print = Settings ?? new();
        if (marks is { Length: > 0 })
        {
            var kind = MarkKinds.Find(marks);
            if (kind is null && marks != "none") return Back("Marks are brackets, squares or dots.");
            print = print with { Marks = kind };
        }

        if (Guid.TryParse(machine, out var id) && await Parts.Db.Machines.AsNoTracking().FirstOrDefaultAsync(m => m.Id == id, cancel) is { } chosen)
        {
            if (print.Marks is not null
                && !chosen.ReadsMarks) return Back($"{chosen.Name} has no eye for marks. Choose another machine, or print without marks.");
            await Parts.Db.Dockets.Where(d => d.Id == Docket.Id).ExecuteUpdateAsync(u => u.SetProperty(d => d.MachineId, id), cancel);
        }

        var stock = Stocks.Find(s => s.Id == place);
        var move = stock is null ? [] : Printed.Where(p => Core.Cards.Stocks.For(p, Stocks)?.Id != stock.Id).Select(p => p.Id).ToImmutableArray();
        var set = new SetPrinting(print);
        return await ChangeAndLayOut(basedOn, move.IsEmpty ? set : new Series([set, new AssignStock(move, stock!.Id)], set.Describe(Design)), cancel);
    }

    /// <summary>Changes how it is printed, and lays it out again.</summary>
    public async Task<IActionResult> OnPostSetAsync(Guid basedOn, string? bleed, string? by, string? inset, string? under, string? seen,
        CancellationToken cancel)
    {
        if (Settings is not { } print) return Back();
        if (!ReadWay(bleed, out var bleeds, out var error)
            || !LengthText.TryRead(string.IsNullOrWhiteSpace(inset) ? "8 mm" : inset, LengthUnit, out var from, out error)
            || !LengthText.TryRead(string.IsNullOrWhiteSpace(under) ? "6 mm" : under, LengthUnit, out var margin, out error)) return Back(error);
        var next = print with
        {
            Bleed = bleeds,
            Inset = from,
            BleedBy = by == "edge" ? BleedBy.Edge : BleedBy.Mirror,
            UnderOthers = seen is null ? null : margin,
        };
        return next == print ? Back() : await ChangeAndLayOut(basedOn, new SetPrinting(next), cancel);
    }

    /// <summary>A white border around what is printed instead of a bleed: its outline is so much larger, and nothing is printed beyond.</summary>
    public async Task<IActionResult> OnPostBorderAsync(Guid basedOn, string? border, CancellationToken cancel)
    {
        if (Settings is not { } print || Printed.Count == 0) return Back();
        if (!LengthText.TryRead(string.IsNullOrWhiteSpace(border) ? "3 mm" : border, LengthUnit, out var wide, out var error)) return Back(error);
        if (!(wide.Mm is > 0 and <= 50)) return Back("A white border is up to 50 mm wide.");
        var edit = new Series([new Treat([.. Printed.Select(p => p.Id)], new Outset(wide)), new SetPrinting(print with { Bleed = Length.Zero })],
            $"A white border of {Words.Measure(wide, Unit)}");
        return await ChangeAndLayOut(basedOn, edit, cancel);
    }

    public Task<IActionResult> OnPostNoneAsync(Guid basedOn, CancellationToken cancel) => Change(basedOn, new SetPrinting(null), cancel);

    /// <summary>This is printed, not cut.</summary>
    public Task<IActionResult> OnPostPrintedAsync(Guid basedOn, string? ids, CancellationToken cancel) =>
        Change(basedOn, new Become([.. (ids ?? "").Split(',', StringSplitOptions.RemoveEmptyEntries)], Meaning.Printed), cancel);

    /// <summary>What is printed and read beside the machine now, or was last; null where nothing was.</summary>
    public PressRow? Press { get; private set; }

    /// <summary>The page that is looked at.</summary>
    public string Here => Request.Path + Request.QueryString;

    public bool IsPressing => Press is { } press && PressJob.IsUnderWay(press, Parts.Clock.GetUtcNow());

    /// <summary>Has a sheet, or all, printed by the printer beside the machine, laid on its mat, and its marks read.</summary>
    /// <param name="sheet">Its number, from 1; the first where none is given.</param>
    public async Task<IActionResult> OnPostTryAsync(int? sheet, bool all, CancellationToken cancel)
    {
        if (await AtHand(all ? null : sheet, cancel) is not var (layout, sheets)) return Back("Nothing is laid out yet; lay it out first.");
        if (await Parts.MachineOf(Docket, cancel) is not { } machine) return Back("There is no machine in this workshop yet.");
        if (!machine.ReadsMarks) return Back($"{machine.Name} has no eye for marks. Choose another machine under Run.");
        return Back(await PressJob.Ask(Parts, Docket, layout, machine, [.. (all ? sheets : sheets.Take(1)).Select(s => s.Number)], false, cancel));
    }

    public async Task<IActionResult> OnPostStopPressAsync(CancellationToken cancel)
    {
        await Parts.Db.Press.Where(p => p.DocketId == Docket.Id && (p.State == WorkState.Waiting || p.State == WorkState.Working))
            .ExecuteUpdateAsync(u => u.SetProperty(p => p.StopAsked, true), cancel);
        return Back();
    }

    /// <summary>Cuts a printed sheet that lies on the mat.</summary>
    public Task<IActionResult> OnPostCutAsync(int sheet, CancellationToken cancel) => Start(sheet - 1, true, cancel);

    /// <summary>How the mat is loaded with a sheet that was printed and read; null where there is no plan for it.</summary>
    public string? Loading { get; private set; }

    /// <summary>The first sheet that was printed and read.</summary>
    public PrintSheet? ToCut => Sheets.FirstOrDefault(s => Seen.GetValueOrDefault(s.Number - 1) is { By: "machine", Why: "" } && (Sheet is null || Sheet == s));

    /// <summary>Reads the marks in a scan or a photograph that somebody brought.</summary>
    public async Task<IActionResult> OnPostPictureAsync(int sheet, IFormFile? file, string? by, string? dpi, CancellationToken cancel)
    {
        if (await AtHand(sheet, cancel) is not var (layout, sheets)) return Back("Nothing is laid out yet; lay it out first.");
        if (file is null || file.Length == 0) return Back("Choose a picture of the printed sheet first: PNG or JPEG.");
        var perInch = ReadPerInch(dpi);
        if (perInch is not (null or (>= 30 and <= 10_000))) return Back("Pixels in an inch go from 30 to 10,000.");
        var brought = await DocketParts.Brought([file], cancel);
        try
        {
            var row = await papers.Read(Docket, layout.Id, sheets[0], brought[0].Bytes, by == "photograph" ? SeenBy.Camera : SeenBy.Scanner, perInch, cancel);
            return Back(row.Why.Length > 0 ? row.Why : null);
        }
        catch (UnreadableFileException e)
        {
            return Back($"“{Words.Short(brought[0].Name)}” could not be read: {e.Message}. Nothing was changed.");
        }
    }

    private static double? ReadPerInch(string? text) =>
        double.TryParse(text, System.Globalization.CultureInfo.InvariantCulture, out var typed) ? typed : null;

    /// <summary>The newest layout and its printed sheets with marks; null where there is none.</summary>
    private async Task<(LayoutRow Layout, List<PrintSheet> Sheets)?> AtHand(int? sheet, CancellationToken cancel)
    {
        if (await Parts.LatestLayout(Docket.Id, cancel) is not { } layout || await Parts.PrintSheets(Docket, layout, cancel) is not { } all) return null;
        var sheets = all.Where(s => s.Pieces.Length > 0 && s.Marks is not null && (sheet is null || s.Number == sheet)).ToList();
        return sheets.Count > 0 ? (layout, sheets) : null;
    }
}
