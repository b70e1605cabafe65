using System.Security.Claims;
using System.Text.RegularExpressions;
using Falzkunst.Store;
using Microsoft.AspNetCore.Mvc;
using Microsoft.AspNetCore.Mvc.RazorPages;
using Microsoft.EntityFrameworkCore;

namespace Falzkunst.Web.Pages;

public sealed partial class StockModel(FalzkunstContext db, Drawer drawer) : PageModel
{
    public List<StockRow> Stocks { get; private set; } = [];

    public string Problem { get; private set; } = "";

    public string Unit => User.FindFirstValue(StudioClaims.Unit) == "in" ? "in" : "mm";

    public Length FoldSetback { get; private set; }

    /// <summary>How a stock is cut, in words, for the list.</summary>
    public static string Settings(StockRow s) => s.Settings.FirstOrDefault(m => m.ToolKey == "knife") is { } k
        ? $"knife: {Words.Count(k.Passes, "pass", "passes")}, {k.ForceGrams:0} g" : s.Settings.Count > 0 ? Words.Count(s.Settings.Count, "tool") + " set"
        : "set them";

    public async Task OnGetAsync(CancellationToken cancel)
    {
        Stocks = await db.Stocks.Include(s => s.Sheets).Include(s => s.Settings).AsSplitQuery().OrderBy(s => s.Place).ToListAsync(cancel);
        FoldSetback = await drawer.FoldSetback(cancel);
    }

    public async Task<IActionResult> OnPostSetbackAsync(string setback, CancellationToken cancel)
    {
        if (!LengthText.TryRead(setback, Unit == "in" ? LengthUnit.Inch : LengthUnit.Millimetre, out var wanted, out var error)) return await Say(error,
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

    public async Task<IActionResult> OnPostAddAsync(string name, string colour, double weight, string thickness, string width, string height, int count,
        CancellationToken cancel)
    {
        var unit = Unit == "in" ? LengthUnit.Inch : LengthUnit.Millimetre;
        name = (name ?? "").Trim();
        if (name.Length is 0 or > 60) return await Say("A paper needs a name of 1 to 60 letters.", cancel);
        if (!HexColour().IsMatch(colour ?? "")) return await Say("Choose a colour.", cancel);
        if (!LengthText.TryRead(width, unit, out var w, out var error)
            || !LengthText.TryRead(height, unit, out var h, out error)) return await Say(error, cancel);
        if (!LengthText.TryRead(thickness, LengthUnit.Millimetre, out var t, out error)) return await Say(error, cancel);
        if (w.Mm is < 10 or > 5000 || h.Mm is < 10 or > 5000) return await Say("A sheet is from 10 mm to 5 m long on each side.", cancel);
        if (t.Mm is <= 0 or > 10 || weight is < 20 or > 2000 || count is < 0
            or > 10_000) return await Say("Weight goes from 20 to 2,000 g, thickness up to 10 mm, sheets up to 10,000.", cancel);
        var id = Guid.CreateVersion7();
        db.Stocks.Add(new()
        {
            Id = id,
            StudioId = db.StudioId,
            Name = name,
            ColourHex = colour!.ToLowerInvariant(),
            WeightGsm = weight,
            ThicknessMm = t.Mm,
            Place = await db.Stocks.CountAsync(cancel),
            Sheets = [new() { Id = Guid.CreateVersion7(), StockId = id, WidthMm = w.Mm, HeightMm = h.Mm, Count = count, MarginMm = 5 }],
        });
        await db.SaveChangesAsync(cancel);
        return RedirectToPage();
    }

    private async Task<IActionResult> Say(string problem, CancellationToken cancel)
    {
        Problem = problem + " Nothing was changed.";
        await OnGetAsync(cancel);
        return Page();
    }

    [GeneratedRegex("^#[0-9a-fA-F]{6}$", RegexOptions.None, 100)]
    private static partial Regex HexColour();
}
