using System.Globalization;
using Falzkunst.Store;
using Microsoft.AspNetCore.Mvc;
using Microsoft.AspNetCore.Mvc.RazorPages;
using Microsoft.EntityFrameworkCore;

namespace Falzkunst.Web.Pages;

/// <summary>How each tool works one paper: what was tried on a test shape and found good.</summary>
public sealed class StockSettingsModel(FalzkunstContext db) : PageModel
{
    public StockRow Stock { get; private set; } = new();

    public List<(ToolRow Tool, MaterialSettingRow? Setting)> Rows { get; private set; } = [];

    public string Problem { get; private set; } = "";

    public async Task<IActionResult> OnGetAsync(Guid id, CancellationToken cancel)
    {
        if (await db.Stocks.Include(s => s.Settings).FirstOrDefaultAsync(s => s.Id == id, cancel) is not { } stock) return NotFound();
        Stock = stock;
        Rows = [.. (await db.Tools.OrderBy(t => t.Pen).ToListAsync(cancel)).Select(t => (t, stock.Settings.Find(s => s.ToolKey == t.Key)))];
        return Page();
    }

    public async Task<IActionResult> OnPostAsync(Guid id, CancellationToken cancel)
    {
        if (await OnGetAsync(id, cancel) is NotFoundResult missing) return missing;
        var next = new List<MaterialSettingRow>();
        foreach (var (tool, _) in Rows)
        {
            if (Number("passes-" + tool.Key, 1, 20, 1) is not { } passes || passes % 1 != 0) return Say($"{tool.Name}: passes go from 1 to 20.");
            if (Number("force-" + tool.Key, 0, 2000, 0) is not { } force) return Say($"{tool.Name}: the force goes from 0 to 2,000 g.");
            if (Number("speed-" + tool.Key, 1, 2000, 0) is not { } speed) return Say($"{tool.Name}: the speed goes from 1 to 2,000 mm/s.");
            // A row that says nothing but what holds anyway is not kept.
            if (passes > 1 || force > 0 || speed > 0)
                next.Add(new()
                {
                    Id = Guid.CreateVersion7(),
                    StockId = Stock.Id,
                    ToolKey = tool.Key,
                    Passes = (int)passes,
                    ForceGrams = force,
                    SpeedMmS = speed,
                });
        }

        db.RemoveRange(Stock.Settings);
        db.AddRange(next);
        await db.SaveChangesAsync(cancel);
        return LocalRedirect("/stock");
    }

    private double? Number(string field, double least, double most, double unsaid)
    {
        var text = Request.Form[field].ToString().Trim();
        if (text.Length == 0) return unsaid;
        return double.TryParse(text, CultureInfo.InvariantCulture, out var number) && number >= least && number <= most ? number : null;
    }

    private PageResult Say(string problem)
    {
        Problem = problem + " Nothing was changed.";
        return Page();
    }
}
