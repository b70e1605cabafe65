using Falzkunst.Core.Runs;
using Microsoft.EntityFrameworkCore;

namespace Falzkunst.Store;

/// <summary>How tools worked stocks once, and which of it worked.</summary>
public sealed class SettingsPast(FalzkunstContext db, TimeProvider clock)
{
    /// <summary>So many of a stock are shown, the newest first.</summary>
    private const int Shown = 60;

    public Task<List<SettingPastRow>> Of(Guid stockId, CancellationToken cancel) => db.SettingPasts.AsNoTracking().Where(p => p.StockId == stockId)
        .OrderByDescending(p => p.At).Take(Shown).ToListAsync(cancel);

    /// <summary>Writes down numbers that were set; they are kept with the next save.</summary>
    public void Note(MaterialSettingRow set, string why) => db.SettingPasts.Add(PastOf(set, why, false));

    /// <summary>Sets numbers of a stock and a tool, which tool is taken left as it is.</summary>
    public async Task Set(MaterialSetting numbers, string why, CancellationToken cancel)
    {
        if (!Guid.TryParse(numbers.StockId, out var stockId) || !await db.Stocks.AnyAsync(s => s.Id == stockId, cancel)) return;
        var row = await db.Set<MaterialSettingRow>().FirstOrDefaultAsync(s => s.StockId == stockId && s.ToolKey == numbers.ToolId, cancel);
        if (row is null) db.Add(row = new() { Id = Guid.CreateVersion7(), StockId = stockId, ToolKey = numbers.ToolId });
        (row.Passes, row.ForceGrams, row.SpeedMmS, row.PassesTogether) = (numbers.Passes, numbers.ForceGrams, numbers.SpeedMmS, numbers.PassesTogether);
        (row.OvercutMm, row.DepthMm) = (numbers.Overcut?.Mm, numbers.Depth?.Mm);
        Note(row, why);
        await db.SaveChangesAsync(cancel);
    }

    /// <summary>Writes down what a sheet was finished with, where that was not the last that worked. Of a tool of a colour it is of the tool.</summary>
    public async Task Worked(Guid studioId, Guid stockId, IEnumerable<(string ToolKey, RunStep Step)> steps, string why, CancellationToken cancel)
    {
        foreach (var (key, step) in steps.DistinctBy(s => s.ToolKey))
        {
            var worked = PastOf(new()
            {
                StockId = stockId,
                ToolKey = key,
                Passes = step.Passes,
                ForceGrams = step.ForceGrams,
                SpeedMmS = step.SpeedMmS,
                OvercutMm = step.Operation == Core.Cards.Operation.Cut ? step.Overcut.Mm : null,
                DepthMm = step.Depth?.Mm,
                PassesTogether = step.PassesTogether,
            }, why, true);
            worked.StudioId = studioId;
            var last = await db.SettingPasts.IgnoreQueryFilters().AsNoTracking().Where(p => p.StockId == stockId && p.ToolKey == key && p.Worked)
                .OrderByDescending(p => p.At).FirstOrDefaultAsync(cancel);
            if (last is null || !IsSame(last, worked)) db.SettingPasts.Add(worked);
        }

        await db.SaveChangesAsync(cancel);
    }

    public static MaterialSetting ToCore(SettingPastRow p) => new(p.StockId.ToString("N"), p.ToolKey, p.Passes, p.ForceGrams, p.SpeedMmS)
    {
        Overcut = p.OvercutMm is { } o ? Length.FromMm(o) : null,
        Depth = p.DepthMm is { } d ? Length.FromMm(d) : null,
        PassesTogether = p.PassesTogether,
    };

    private static bool IsSame(SettingPastRow a, SettingPastRow b) => ToCore(a) == ToCore(b);

    private SettingPastRow PastOf(MaterialSettingRow set, string why, bool worked) => new()
    {
        Id = Guid.CreateVersion7(),
        StudioId = db.StudioId,
        StockId = set.StockId,
        ToolKey = set.ToolKey,
        At = clock.GetUtcNow(),
        Passes = set.Passes,
        ForceGrams = set.ForceGrams,
        SpeedMmS = set.SpeedMmS,
        OvercutMm = set.OvercutMm,
        DepthMm = set.DepthMm,
        PassesTogether = set.PassesTogether,
        Why = why,
        Worked = worked,
    };
}
