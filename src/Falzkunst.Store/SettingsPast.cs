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
    public void Note(MaterialSettingRow set, string why) => db.SettingPasts.Add(PastOf(set.ToCore(), why, false));

    /// <summary>Sets numbers of a stock and a tool, which tool is taken left as it is.</summary>
    public async Task Set(MaterialSetting numbers, string why, CancellationToken cancel)
    {
        if (!Guid.TryParse(numbers.StockId, out var stockId) || !await db.Stocks.AnyAsync(s => s.Id == stockId, cancel)) return;
        var row = await db.Set<MaterialSettingRow>().FirstOrDefaultAsync(s => s.StockId == stockId && s.ToolKey == numbers.ToolId, cancel);
        if (row is null) db.Add(row = new() { Id = Guid.CreateVersion7(), StockId = stockId, ToolKey = numbers.ToolId });
        row.Take(numbers);
        Note(row, why);
        await db.SaveChangesAsync(cancel);
    }

    /// <summary>Writes down what a sheet was finished with, where that was not the last that worked. Of a tool of a colour it is of the tool.</summary>
    public async Task Worked(Guid studioId, Guid stockId, IEnumerable<RunStep> steps, string why, CancellationToken cancel)
    {
        var keys = await db.Tools.IgnoreQueryFilters().Where(t => t.StudioId == studioId).Select(t => t.Key).ToListAsync(cancel);
        foreach (var step in steps.Where(s => keys.Contains(s.ToolKind)).DistinctBy(s => s.ToolKind))
        {
            var key = step.ToolKind;
            var worked = PastOf(new MaterialSetting(stockId.ToString("N"), key, step.Passes, step.ForceGrams, step.SpeedMmS)
            {
                Overcut = step.Operation == Core.Cards.Operation.Cut ? step.Overcut : null,
                Depth = step.Depth,
                Lift = step.Lift,
                PassesTogether = step.PassesTogether,
            }, why, true);
            worked.StudioId = studioId;
            var last = await db.SettingPasts.IgnoreQueryFilters().AsNoTracking().Where(p => p.StockId == stockId && p.ToolKey == key && p.Worked)
                .OrderByDescending(p => p.At).FirstOrDefaultAsync(cancel);
            if (last is null || !IsSame(last, worked)) db.SettingPasts.Add(worked);
        }

        await db.SaveChangesAsync(cancel);
    }

    private static bool IsSame(SettingPastRow a, SettingPastRow b) => a.ToCore() == b.ToCore();

    private SettingPastRow PastOf(MaterialSetting set, string why, bool worked)
    {
        var row = new SettingPastRow
        {
            Id = Guid.CreateVersion7(),
            StudioId = db.StudioId,
            StockId = Guid.Parse(set.StockId),
            ToolKey = set.ToolId,
            At = clock.GetUtcNow(),
            Why = why,
            Worked = worked,
        };
        row.Take(set);
        return row;
    }
}
