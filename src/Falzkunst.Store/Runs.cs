using System.Security.Cryptography;
using System.Text;
using System.Text.Json;
using Falzkunst.Core.Documents;
using Falzkunst.Core.Findings;
using Falzkunst.Core.Runs;
using Falzkunst.Store.Cutters;
using Microsoft.EntityFrameworkCore;
using Microsoft.Extensions.Caching.Memory;

namespace Falzkunst.Store;

/// <summary>Plans of runs, and runs, as they are kept. Nothing here speaks to a machine; <see cref="RunKeeper"/> does.</summary>
public sealed class Runs(FalzkunstContext db, LaidTogether together, Drawer drawer, IMemoryCache memory, TimeProvider clock)
{
    /// <summary>The plan of a layout on a machine: the one that is kept, while it is made of the same; otherwise a new one, which is kept. Null where the
    /// layout or its design is gone.</summary>
    public async Task<(Guid Id, RunPlan Plan)?> PlanOf(LayoutRow layout, MachineRow machine, CancellationToken cancel)
    {
        var (core, tools, stocks, setback) = (Drawer.ToCore(machine), await drawer.Tools(cancel), await drawer.Stocks(cancel),
            await drawer.FoldSetback(cancel));
        var settings = MaterialSetting.Completed(await drawer.Settings(cancel), stocks, tools);
        var madeFrom = MadeFrom(layout, core, settings, tools, stocks, setback);
        var kept = db.RunPlans.AsNoTracking().Where(p => p.LayoutId == layout.Id && p.MachineId == machine.Id && p.MadeFrom == madeFrom);
        if (await kept.Select(p => (Guid?)p.Id).FirstOrDefaultAsync(cancel) is { } known) return (known, (await PlanOf(known, cancel))!);
        if (LayoutJob.Read(layout) is not { } laid || await together.LotsOf(layout, cancel) is not { } lots) return null;
        var plan = RunPlanner.Plan(Core.Cards.Lots.Together(lots), laid, core, settings, tools, cancel) with
        {
            // Those of the designs that lie on the sheets, whatever became of them since.
            ToMend = [.. lots.SelectMany((lot, i) => FindingList.Of(new(lot.Design, stocks, setback)).Where(f => f.Severity == Severity.Stop)
                .Select(f => i == 0 ? f.Text : $"Docket {lot.Docket}: {f.Text}"))],
        };
        var row = new RunPlanRow
        {
            Id = Guid.CreateVersion7(),
            StudioId = layout.StudioId,
            DocketId = layout.DocketId,
            LayoutId = layout.Id,
            MachineId = machine.Id,
            MadeFrom = madeFrom,
            Document = Packed.Pack(RunDocument.Write(plan), null),
            At = clock.GetUtcNow(),
        };
        db.RunPlans.Add(row);
        try
        {
            await db.SaveChangesAsync(cancel);
        }
        catch (DbUpdateException e) when (Database.IsTaken(e))
        {
            // Somebody else looked at the same moment; theirs is the same.
            db.Entry(row).State = EntityState.Detached;
            row.Id = await kept.Select(p => p.Id).FirstAsync(cancel);
        }

        // What is shown is what is kept, to the last decimal.
        return (row.Id, (await PlanOf(row.Id, cancel))!);
    }

    /// <summary>A plan as it is kept; null where there is none of that id.</summary>
    /// <exception cref="Core.Files.UnreadableFileException">It is damaged.</exception>
    public async Task<RunPlan?> PlanOf(Guid id, CancellationToken cancel)
    {
        if (memory.TryGetValue((nameof(RunPlan), id, db.StudioId), out RunPlan? known)) return known;
        if (await db.RunPlans.Where(p => p.Id == id).Select(p => p.Document).FirstOrDefaultAsync(cancel) is not { } packed) return null;
        var text = Packed.Unpack(packed, null);
        return memory.Set((nameof(RunPlan), id, db.StudioId), RunDocument.Read(text), new MemoryCacheEntryOptions { Size = 4L * text.Length });
    }

    /// <summary>Puts a sheet before a machine. Null where that machine has another run, which the database alone can tell for certain.</summary>
    public async Task<RunRow?> Start(Guid planId, int sheet, bool loaded, CancellationToken cancel)
    {
        if (await db.RunPlans.AsNoTracking().FirstOrDefaultAsync(p => p.Id == planId, cancel) is not { } plan) return null;
        var row = new RunRow
        {
            Id = Guid.CreateVersion7(),
            StudioId = plan.StudioId,
            DocketId = plan.DocketId,
            LayoutId = plan.LayoutId,
            MachineId = plan.MachineId,
            PlanId = planId,
            Sheet = sheet,
            State = WorkState.Waiting,
            Ready = loaded,
            StartedAt = clock.GetUtcNow(),
            SeenAt = clock.GetUtcNow(),
        };
        await using var both = await db.Database.BeginTransactionAsync(cancel);
        // Held, so that nobody deletes the docket in the same moment.
        if ((await db.Database.SqlQuery<Guid>($"""
            SELECT "Id" AS "Value" FROM "Dockets" WHERE "Id" = {plan.DocketId} AND "DeletedAt" IS NULL FOR SHARE
            """).ToListAsync(cancel)).Count == 0) return null;
        db.Runs.Add(row);
        try
        {
            await db.SaveChangesAsync(cancel);
            await both.CommitAsync(cancel);
            return row;
        }
        catch (DbUpdateException e) when (Database.IsTaken(e))
        {
            db.Entry(row).State = EntityState.Detached;
            return null;
        }
    }

    /// <summary>A person has done what was asked. An answer to another question than the one that is asked now changes nothing.</summary>
    public async Task Confirm(Guid docketId, Guid runId, int asked, CancellationToken cancel)
    {
        var now = clock.GetUtcNow();
        var what = await db.Runs.Where(r => r.Id == runId).Select(r => r.Asks).FirstOrDefaultAsync(cancel);
        await using var both = await db.Database.BeginTransactionAsync(cancel);
        var done = await db.Runs.Where(r => r.Id == runId && r.DocketId == docketId && r.State == WorkState.Asking && r.Asked == asked)
            .ExecuteUpdateAsync(u => u.SetProperty(r => r.State, WorkState.Waiting).SetProperty(r => r.Ready, true).SetProperty(r => r.Asks, "")
                .SetProperty(r => r.SeenAt, now), cancel);
        if (done > 0) await Say(runId, null, "Done: " + what, cancel);
        await both.CommitAsync(cancel);
    }

    /// <summary>Stops a run: at once where nothing works on it, otherwise its worker stops the machine.</summary>
    public async Task Stop(Guid docketId, Guid runId, CancellationToken cancel)
    {
        var now = clock.GetUtcNow();
        await using var both = await db.Database.BeginTransactionAsync(cancel);
        var run = db.Runs.Where(r => r.Id == runId && r.DocketId == docketId);
        if (await run.Where(r => r.State == WorkState.Waiting || r.State == WorkState.Asking).ExecuteUpdateAsync(u => u
            .SetProperty(r => r.State, WorkState.Stopped).SetProperty(r => r.Asks, "").SetProperty(r => r.EndedAt, now), cancel) > 0)
            await Say(runId, null, "Stopped by you.", cancel);
        else await run.Where(r => r.State == WorkState.Working).ExecuteUpdateAsync(u => u.SetProperty(r => r.StopAsked, true), cancel);
        await both.CommitAsync(cancel);
    }

    /// <summary>What was done of a run: as the machine says, and where it can't tell, as far as it took what it was sent. Empty where nothing was.</summary>
    public static IReadOnlyList<CutterMark> DoneOf(RunRow run, SheetRun sheet) => run.Record.Length > 0
        ? JsonSerializer.Deserialize<CutterMark[]>(run.Record) ?? []
        : [.. sheet.UpTo(run.Step, run.Strokes).Select(s => CutterMark.Of(s, sheet))];

    /// <summary>Writes down what happened in a run.</summary>
    /// <param name="step">The step that it belongs to; null for the one that the run is at.</param>
    internal async Task<bool> Say(Guid runId, int? step, string text, CancellationToken cancel)
    {
        // Of whichever studio: whoever calls has the run already.
        step ??= await db.Runs.IgnoreQueryFilters().Where(r => r.Id == runId).Select(r => r.Step).FirstOrDefaultAsync(cancel);
        db.RunEvents.Add(new() { Id = Guid.CreateVersion7(), RunId = runId, At = clock.GetUtcNow(), Step = step.Value, Text = text });
        return await db.SaveChangesAsync(cancel) > 0;
    }

    /// <summary>Raised when the same comes out otherwise: plans that were kept before are made anew.</summary>
    private const int HowPlanned = 4;

    private static string MadeFrom(LayoutRow layout, Machine machine, IEnumerable<MaterialSetting> settings, IEnumerable<Tool> tools,
        IEnumerable<Core.Cards.Stock> stocks, Length setback)
    {
        var text = new StringBuilder().Append(HowPlanned).Append('|').Append(layout.Id).Append('|')
            .Append(layout.MadeFrom).Append('|').Append(layout.Document.Length).Append('|')
            .Append(machine).Append('|').Append(LayoutJob.MadeFrom(null, 0, stocks)).Append('|').Append(setback.Mm.ToString("R", null));
        foreach (var s in settings.OrderBy(s => s.StockId, StringComparer.Ordinal).ThenBy(s => s.ToolId, StringComparer.Ordinal)) text.Append('|').Append(s);
        foreach (var t in tools) text.Append('|').Append(t);
        return Convert.ToHexStringLower(SHA256.HashData(Encoding.UTF8.GetBytes(text.ToString())));
    }
}
