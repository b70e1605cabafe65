using Falzkunst.Store;
using Microsoft.AspNetCore.Mvc;
using Microsoft.EntityFrameworkCore;

namespace Falzkunst.Web.Pages;

public sealed class StockModel(FalzkunstContext db, Drawer drawer) : RoomPage
{
    /// <summary>What lies in the drawer.</summary>
    public List<StockRow> Stocks { get; private set; } = [];

    public List<StockRow> Retired { get; private set; } = [];

    public Length FoldSetback { get; private set; }

    /// <summary>How a stock is cut, in words, for the list.</summary>
    public static string Settings(StockRow s) => s.Settings.FirstOrDefault(m => m.ToolKey == "knife") is { } k
        ? $"knife: {Words.Count(k.Passes, "pass", "passes")}, {k.ForceGrams:0} g" : s.Settings.Count > 0 ? Words.Count(s.Settings.Count, "tool") + " set"
        : "set them";

    public Task OnGetAsync(CancellationToken cancel) => Show(cancel);

    protected override async Task Show(CancellationToken cancel)
    {
        var all = await db.Stocks.Include(s => s.Sheets).Include(s => s.Settings).AsSplitQuery().OrderBy(s => s.Place).ThenBy(s => s.Id).ToListAsync(cancel);
        (Stocks, Retired) = (all.FindAll(s => s.RetiredAt is null), all.FindAll(s => s.RetiredAt is not null));
        FoldSetback = await drawer.FoldSetback(cancel);
    }

    public async Task<IActionResult> OnPostSetbackAsync(string setback, CancellationToken cancel)
    {
        if (!LengthText.TryRead(setback, LengthUnit, out var wanted, out var error)) return await Say(error,
            cancel);
        if (wanted.Mm is < 0 or > 20) return await Say("Folds can stop from 0 to 20 mm short of the edge.", cancel);
        await db.Studios.Where(s => s.Id == db.StudioId).ExecuteUpdateAsync(u => u.SetProperty(s => s.FoldSetbackMm, wanted.Mm), cancel);
        return RedirectToPage();
    }

    public async Task<IActionResult> OnPostCountAsync(Guid sheet, int count, CancellationToken cancel)
    {
        if (count is < 0 or > 10_000) return await Say("The number of sheets goes from 0 to 10,000.", cancel);
        var row = await db.Stocks.SelectMany(s => s.Sheets).FirstOrDefaultAsync(s => s.Id == sheet, cancel);
        if (row is null) return NotFound();
        row.Count = count;
        await db.SaveChangesAsync(cancel);
        return RedirectToPage();
    }

    public async Task<IActionResult> OnPostAddAsync(string? name, string? colour, double weight, string? thickness, string? width, string? height, int count,
        CancellationToken cancel)
    {
        if (StockFacts.Fault(name, colour, weight, thickness, out var thick) is { } fault) return await Say(fault, cancel);
        if (StockFacts.SheetFault(width, height, "5mm", count, LengthUnit, out var size) is { } sheetFault) return await Say(sheetFault, cancel);
        var id = Guid.CreateVersion7();
        db.Stocks.Add(new()
        {
            Id = id,
            StudioId = db.StudioId,
            Name = name!.Trim(),
            ColourHex = colour!.ToLowerInvariant(),
            WeightGsm = weight,
            ThicknessMm = thick.Mm,
            Place = await db.Stocks.CountAsync(cancel),
            Sheets = [new() { Id = Guid.CreateVersion7(), StockId = id, WidthMm = size.Width.Mm, HeightMm = size.Height.Mm, Count = count,
                MarginMm = size.Margin.Mm }],
        });
        await db.SaveChangesAsync(cancel);
        return RedirectToPage();
    }
}
