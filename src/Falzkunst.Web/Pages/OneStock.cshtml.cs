using System.Globalization;
using Falzkunst.Core.Measures;
using Falzkunst.Core.Runs;
using Falzkunst.Core.Strength;
using Falzkunst.Store;
using Microsoft.AspNetCore.Mvc;
using Microsoft.EntityFrameworkCore;

namespace Falzkunst.Web.Pages;

/// <summary>One stock: what it is, its sheets, and how each tool works it (what was tried on a test shape and found good).</summary>
public sealed class OneStockModel(FalzkunstContext db, SettingsPast pasts) : RoomPage
{
    public StockRow Stock { get; private set; } = new();

    public List<(ToolRow Tool, MaterialSettingRow? Setting)> Rows { get; private set; } = [];

    /// <summary>What paper of its weight and thickness usually takes, by tool.</summary>
    public IReadOnlyDictionary<string, MaterialSetting> Usual { get; private set; } = new Dictionary<string, MaterialSetting>();

    /// <summary>What was set, and what worked, the newest first; only of tools that are still there.</summary>
    public List<(ToolRow Tool, SettingPastRow Past)> Pasts { get; private set; } = [];

    /// <summary>Which way fibres may run, as a sheet lies that is as wide and high as it says.</summary>
    public static IReadOnlyList<(string Word, string Says)> Grains { get; } = [("", "not told"), ("down", "down ↕"), ("across", "across ↔")];

    /// <summary>Whole sheets of each size.</summary>
    public List<SheetRow> Whole => [.. Stock.Sheets.Where(q => q.LeftByRunId is null).OrderBy(q => q.Id)];

    /// <summary>What runs left.</summary>
    public List<SheetRow> Left => [.. Stock.Sheets.Where(q => q.LeftByRunId is not null && q.Count > 0).OrderBy(q => q.Id)];

    /// <summary>Whether there are several tools for one operation, of which one is taken.</summary>
    public bool HasChoice => Rows.Exists(r => IsOneOfSeveral(r.Tool));

    public bool IsOneOfSeveral(ToolRow tool) => Rows.Count(r => r.Tool.Operation == tool.Operation) > 1;

    /// <summary>Whether this tool is taken for the stock, as plans take it.</summary>
    public bool IsTaken(ToolRow tool) => Drawer.ToCore(tool) is { } asked && Tool.Taken([.. Rows.Select(r => Drawer.ToCore(r.Tool)).OfType<Tool>()],
        [.. Stock.Settings.Select(m => m.ToCore())], asked.Operation, Stock.Id.ToString("N")).Id == asked.Id;

    public async Task<IActionResult> OnGetAsync(Guid id, CancellationToken cancel)
    {
        if (await db.Stocks.Include(s => s.Settings).Include(s => s.Sheets).AsSplitQuery().FirstOrDefaultAsync(s => s.Id == id, cancel) is not { } stock)
            return NotFound();
        Stock = stock;
        Rows = [.. (await db.Tools.OrderBy(t => t.Pen).ToListAsync(cancel)).Select(t => (t, stock.Settings.Find(s => s.ToolKey == t.Key)))];
        var asPaper = Drawer.ToCore(stock);
        Usual = Rows.Select(r => Drawer.ToCore(r.Tool)).OfType<Tool>().ToDictionary(t => t.Id, t => MaterialSetting.Usual(asPaper, t));
        Pasts = [.. from past in await pasts.Of(id, cancel) let tool = Rows.Find(r => r.Tool.Key == past.ToolKey).Tool where tool is not null
            select (tool, past)];
        return Page();
    }

    public async Task<IActionResult> OnPostFactsAsync(Guid id, string? name, string? colour, double weight, string? thickness, string? least, string? gap,
        CancellationToken cancel)
    {
        if (await OnGetAsync(id, cancel) is NotFoundResult missing) return missing;
        var isPaper = Stock.Kind == "paper";
        if (StockFacts.Fault(name, colour, isPaper ? weight : StockFacts.LeastWeight, thickness, out var thick) is { } fault) return await Say(fault, cancel);
        (Stock.Name, Stock.ColourHex, Stock.ThicknessMm) = (name!.Trim(), colour!.ToLowerInvariant(), thick.Mm);
        if (isPaper)
        {
            if (!LengthText.TryRead(least ?? "0.8", LengthUnit.Millimetre, out var width, out var wrong)
                || !LengthText.TryRead(gap ?? "0.5", LengthUnit.Millimetre, out var between, out wrong)) return await Say(wrong, cancel);
            if (new Limits(width, between).Fault() is { } limit) return await Say(limit, cancel);
            (Stock.WeightGsm, Stock.MinWidthMm, Stock.MinGapMm) = (weight, width.Mm, between.Mm);
        }

        return await Keep(cancel);
    }

    /// <summary>Changes the sheets of one size, or puts in another size.</summary>
    public async Task<IActionResult> OnPostSheetAsync(Guid id, Guid sheet, int count, string? width, string? height, string? margin, string? price,
        string? grain, CancellationToken cancel)
    {
        if (await OnGetAsync(id, cancel) is NotFoundResult missing) return missing;
        if (StockFacts.SheetFault(width, height, Stock.Kind == "paper" ? margin : "0", count, LengthUnit, out var size) is { } fault)
            return await Say(fault, cancel);
        if (StockFacts.PriceFault(price, out var costs) is { } wrong) return await Say(wrong, cancel);
        var row = Whole.Find(s => s.Id == sheet);
        if (row is null && sheet != Guid.Empty) return NotFound();
        if (Whole.Exists(s => s != row && Math.Abs(s.WidthMm - size.Width.Mm) < 1e-6 && Math.Abs(s.HeightMm - size.Height.Mm) < 1e-6))
            return await Say("There are sheets of that size already: change their number.", cancel);
        if (row is null) db.Add(row = new() { Id = Guid.CreateVersion7(), StockId = Stock.Id });
        (row.Count, row.WidthMm, row.HeightMm, row.MarginMm, row.Price) = (count, size.Width.Mm, size.Height.Mm, size.Margin.Mm, costs);
        row.Grain = Enum.TryParse<Core.Cards.Grain>(grain, true, out var way) && Enum.IsDefined(way) ? Drawer.WordOf(way) : "";
        return await Keep(cancel);
    }

    public async Task<IActionResult> OnPostRemoveSheetAsync(Guid id, Guid sheet, CancellationToken cancel)
    {
        if (await OnGetAsync(id, cancel) is NotFoundResult missing) return missing;
        if (Stock.Sheets.Find(s => s.Id == sheet) is not { } row) return NotFound();
        if (row.LeftByRunId is null && Whole.Count == 1) return await Say("A stock has one size at least. Set its number to 0, or retire the stock.", cancel);
        db.Remove(row);
        return await Keep(cancel);
    }

    public async Task<IActionResult> OnPostRetireAsync(Guid id, bool retired, CancellationToken cancel)
    {
        if (await OnGetAsync(id, cancel) is NotFoundResult missing) return missing;
        Stock.RetiredAt = retired ? DateTimeOffset.UtcNow : null;
        return await Keep(cancel);
    }

    /// <summary>Sets what was set, or worked, before.</summary>
    public async Task<IActionResult> OnPostAgainAsync(Guid id, Guid past, CancellationToken cancel)
    {
        if (await db.SettingPasts.AsNoTracking().FirstOrDefaultAsync(p => p.Id == past && p.StockId == id, cancel) is not { } row) return NotFound();
        await pasts.Set(row.ToCore(), "as before", cancel);
        return LocalRedirect($"/stock/{id}#tools");
    }

    public async Task<IActionResult> OnPostToolsAsync(Guid id, CancellationToken cancel)
    {
        if (await OnGetAsync(id, cancel) is NotFoundResult missing) return missing;
        var next = new List<MaterialSettingRow>();
        foreach (var (tool, _) in Rows)
        {
            if (Number("passes-" + tool.Key, 1, 20, 1) is not { } passes || passes % 1 != 0) return await Say($"{tool.Name}: passes go from 1 to 20.", cancel);
            if (Number("force-" + tool.Key, 0, 2000, 0) is not { } force) return await Say($"{tool.Name}: the force goes from 0 to 2,000 g.", cancel);
            if (Number("speed-" + tool.Key, 1, 2000, 0) is not { } speed) return await Say($"{tool.Name}: the speed goes from 1 to 2,000 mm/s.", cancel);
            if (!Measure("depth-" + tool.Key, 3, out var depth)) return await Say($"{tool.Name}: a blade is set out by 0 to 3 mm.", cancel);
            if (!Measure("overcut-" + tool.Key, 5, out var overcut)) return await Say($"{tool.Name}: cuts go on for 0 to 5 mm beyond their start.", cancel);
            if (!Measure("lift-" + tool.Key, 20, out var lift)) return await Say($"{tool.Name}: a tool is lifted by 0 to 20 mm.", cancel);
            var together = Request.Form["together-" + tool.Key] == "true";
            var chosen = IsOneOfSeveral(tool) && Request.Form["take-" + tool.Operation] == tool.Key;
            // A row that says nothing but what holds anyway is not kept.
            if (passes > 1 || force > 0 || speed > 0 || chosen || depth is not null || overcut is not null || lift is not null || together)
                next.Add(new()
                {
                    DepthMm = depth,
                    OvercutMm = overcut,
                    LiftMm = lift,
                    PassesTogether = together,
                    Id = Guid.CreateVersion7(),
                    StockId = Stock.Id,
                    ToolKey = tool.Key,
                    Passes = (int)passes,
                    ForceGrams = force,
                    SpeedMmS = speed,
                    Chosen = chosen,
                });
        }

        foreach (var row in next)
            if (Stock.Settings.Find(s => s.ToolKey == row.ToolKey) is not { } before
                || before.ToCore() with { Chosen = false } != row.ToCore() with { Chosen = false }) pasts.Note(row, "by hand");
        db.RemoveRange(Stock.Settings);
        db.AddRange(next);
        return await Keep(cancel, "/stock");
    }

    /// <summary>Reads a length that may be left open; false where it is none, or out of bounds.</summary>
    private bool Measure(string field, double most, out double? mm)
    {
        mm = null;
        var text = Request.Form[field].ToString().Trim();
        if (text.Length == 0) return true;
        if (!LengthText.TryRead(text, LengthUnit.Millimetre, out var length, out _) || length.Mm < 0 || length.Mm > most) return false;
        mm = length.Mm;
        return true;
    }

    private double? Number(string field, double least, double most, double unsaid)
    {
        var text = Request.Form[field].ToString().Trim();
        if (text.Length == 0) return unsaid;
        return double.TryParse(text, CultureInfo.InvariantCulture, out var number) && number >= least && number <= most ? number : null;
    }

    private async Task<IActionResult> Keep(CancellationToken cancel, string? then = null)
    {
        try
        {
            await db.SaveChangesAsync(cancel);
        }
        catch (DbUpdateConcurrencyException)
        {
            return await Say("Somebody else changed the same at this moment: load the page again to see it.", cancel);
        }

        return LocalRedirect(then ?? $"/stock/{Stock.Id}");
    }
}
