using System.Collections.Immutable;
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
        var (core, tools, stocks, setback, foils) = (Drawer.ToCore(machine), await drawer.Tools(cancel), await drawer.Stocks(cancel),
            await drawer.FoldSetback(cancel), await drawer.Foils(cancel));
        var wishes = await WishesOf(layout.DocketId, cancel);
        var settings = wishes.Over(MaterialSetting.Completed(await drawer.Settings(cancel), stocks, tools));
        var madeFrom = MadeFrom(layout, core, settings, tools, stocks, setback, foils, wishes.First);
        var kept = db.RunPlans.AsNoTracking().Where(p => p.LayoutId == layout.Id && p.MachineId == machine.Id && p.MadeFrom == madeFrom);
        if (await kept.Select(p => (Guid?)p.Id).FirstOrDefaultAsync(cancel) is { } known) return (known, (await PlanOf(known, cancel))!);
        if (LayoutJob.Read(layout) is not { } laid || await together.LotsOf(layout, cancel) is not { } lots) return null;
        var plan = RunPlanner.Plan(Core.Cards.Lots.Together(lots), laid, core, settings, tools, foils, wishes.First, cancel) with
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
    /// <param name="prepared">Whether hands have done already what the first step needs.</param>
    /// <param name="more">What else is to be said of it.</param>
    public async Task<RunRow?> Start(Guid planId, int sheet, bool prepared, CancellationToken cancel, Action<RunRow>? more = null)
    {
        if (await db.RunPlans.AsNoTracking().FirstOrDefaultAsync(p => p.Id == planId, cancel) is not { } plan) return null;
        var id = Guid.CreateVersion7();
        var row = new RunRow
        {
            Id = id,
            StudioId = plan.StudioId,
            DocketId = plan.DocketId,
            LayoutId = plan.LayoutId,
            MachineId = plan.MachineId,
            PlanId = planId,
            Sheet = sheet,
            State = WorkState.Waiting,
            StartedAt = clock.GetUtcNow(),
            SeenAt = clock.GetUtcNow(),
        };
        more?.Invoke(row);
        await using var both = await db.Database.BeginTransactionAsync(cancel);
        // Held, so that nobody deletes the docket in the same moment.
        if ((await db.Database.SqlQuery<Guid>($"""
            SELECT "Id" AS "Value" FROM "Dockets" WHERE "Id" = {plan.DocketId} AND "DeletedAt" IS NULL FOR SHARE
            """).ToListAsync(cancel)).Count == 0) return null;
        if (row.PaperId == default) row.PaperId = await FreePaper(plan.MachineId, plan.LayoutId, sheet, cancel) ?? id;
        db.Runs.Add(row);
        if (!row.IsTouchUp && row.AfterId is null) await Spent(plan.DocketId, cancel);
        try
        {
            await db.SaveChangesAsync(cancel);
            if (prepared) await Prepared(row, null, cancel);
            await both.CommitAsync(cancel);
            return row;
        }
        catch (DbUpdateException e) when (Database.IsTaken(e))
        {
            db.Entry(row).State = EntityState.Detached;
            return null;
        }
    }

    /// <summary>What was set for the next run of a docket only is spent.</summary>
    private async Task Spent(Guid docketId, CancellationToken cancel)
    {
        var wishes = await WishesOf(docketId, cancel);
        if (!wishes.Once.IsEmpty) await Wish(docketId, wishes with { Once = [] }, cancel);
    }

    private async Task<RunWishes> WishesOf(Guid docketId, CancellationToken cancel) =>
        RunDocument.ReadWishes(await db.Dockets.Where(d => d.Id == docketId).Select(d => d.RunAs).FirstOrDefaultAsync(cancel) ?? "");

    /// <summary>Keeps how a docket is run otherwise than its papers say.</summary>
    public Task Wish(Guid docketId, RunWishes wishes, CancellationToken cancel)
    {
        var text = wishes.IsNone ? "" : RunDocument.WriteWishes(wishes);
        return db.Dockets.Where(d => d.Id == docketId).ExecuteUpdateAsync(u => u.SetProperty(d => d.RunAs, text), cancel);
    }

    /// <summary>The paper that lies in a machine for a sheet of a layout, of which nothing was worked yet but test cards; null where there is none, and it
    /// comes from the drawer.</summary>
    public async Task<Guid?> FreePaper(Guid machineId, Guid layoutId, int sheet, CancellationToken cancel)
    {
        if (await db.Machines.AsNoTracking().FirstOrDefaultAsync(m => m.Id == machineId, cancel) is not { Setup.Sheet.Paper: var paper }) return null;
        var worked = await db.Runs.AsNoTracking().Where(r => r.PaperId == paper).ToListAsync(cancel);
        if (worked.Count == 0 || !worked.TrueForAll(r => r.LayoutId == layoutId && r.Sheet == sheet && !r.IsActive)) return null;
        return (await DoneIn(worked.Where(r => !r.IsTest), cancel)).Count == 0 ? paper : null;
    }

    /// <summary>Whether the sheets of a docket's newest layout can stay as they are although it, or a docket with it, was changed since: each piece of each
    /// copy lies on its paper, clear of the others.</summary>
    public async Task<bool> CanStay(LayoutRow layout, Docket docket, CancellationToken cancel) =>
        layout.State == WorkState.Done && LayoutJob.Read(layout) is { Unplaced.IsEmpty: true } laid && laid.Copies == docket.Copies
            && await together.DesignNow(docket, await together.With(docket.Id, cancel), cancel) is { } design
            && await drawer.Stocks(cancel) is var stocks && !Core.Cards.Stocks.Asked(design, stocks).Any()
            && Core.Layout.LayoutCheck.Misfits(design, stocks, laid, cancel).IsEmpty;

    /// <summary>Keeps the sheets of a docket's newest layout as they are for what it is now: those of which something was cut are done. False where they can't
    /// stay.</summary>
    public async Task<bool> Stay(Docket docket, string byName, CancellationToken cancel)
    {
        if (await LayoutJob.Newest(db, docket.Id).FirstOrDefaultAsync(cancel) is not { } layout || !await CanStay(layout, docket, cancel)) return false;
        var cut = layout.CutBefore.ToHashSet();
        foreach (var run in await db.Runs.AsNoTracking().Where(r => r.LayoutId == layout.Id && r.State == WorkState.Done && !r.IsTouchUp).ToListAsync(cancel))
            if (run.PlanId is not { } id || await PlanOf(id, cancel) is not { } plan
                || plan.Sheets[run.Sheet].Steps.Any(s => s.Operation == Core.Cards.Operation.Cut)) cut.Add(run.Sheet);
        var with = await together.With(docket.Id, cancel);
        await together.Settle(docket, with, byName, await drawer.Stocks(cancel), cancel);
        var row = LayoutJob.RowOf(docket, with, clock.GetUtcNow());
        (row.State, row.Fraction, row.Document, row.CutBefore) = (WorkState.Done, 1, layout.Document, [.. cut.Order()]);
        // Never before the one that it is the same as, whatever the clock says.
        if (row.At <= layout.At) row.At = layout.At.AddMilliseconds(1);
        db.Layouts.Add(row);
        return await db.SaveChangesAsync(cancel) > 0;
    }

    /// <summary>What is new on a sheet that lies in a machine, since it was worked as another layout of the docket had it: the same pieces lie where they lay,
    /// and nothing of them was cut. Null where that is not so, or nothing is new.</summary>
    /// <returns>The paper, and the steps that are left of the plan on it.</returns>
    public async Task<(Guid Paper, ImmutableArray<RunStep> Left)?> OnSheetThere(RunPlan plan, Guid layoutId, Guid machineId, int sheet,
        CancellationToken cancel)
    {
        if (await db.Machines.AsNoTracking().FirstOrDefaultAsync(m => m.Id == machineId, cancel) is not { Setup.Sheet.Paper: var paper }
            || await db.Runs.AsNoTracking().Where(r => r.PaperId == paper).OrderBy(r => r.StartedAt).ToListAsync(cancel) is not { } worked
            || worked.TrueForAll(r => r.IsTest) || worked.Exists(r => r.IsActive || (!r.IsTest && r.LayoutId == layoutId))
            || await db.Layouts.AsNoTracking().FirstOrDefaultAsync(l => l.Id == layoutId, cancel) is not { } layout
            || worked.Exists(r => r.DocketId != layout.DocketId)
            || LayoutJob.Read(layout)?.Sheets.ElementAtOrDefault(sheet) is not { } now) return null;
        var done = new List<DoneStroke>();
        foreach (var run in worked.Where(r => !r.IsTest))
        {
            if (run.PlanId is not { } planId || await PlanOf(planId, cancel) is not { } its
                || LayoutJob.Read(await db.Layouts.AsNoTracking().FirstOrDefaultAsync(l => l.Id == run.LayoutId, cancel))?.Sheets.ElementAtOrDefault(run.Sheet)
                    is not { } was || !was.Matches(now, (a, b) => a.PieceId == b.PieceId && a.ToSheet == b.ToSheet)) return null;
            var back = run.Map?.Inverse() ?? Affine.Identity;
            foreach (var stroke in await DoneIn([run], cancel))
            {
                if (its.Sheets[run.Sheet].Steps.FirstOrDefault(s => s.Pen == stroke.Pen) is not { Operation: not Core.Cards.Operation.Cut } by) return null;
                // A tool may have had another number.
                if (plan.Sheets[sheet].Steps.FirstOrDefault(s => s.ToolId == by.ToolId) is { } step)
                    done.Add(stroke with { Pen = step.Pen, Points = [.. stroke.Points.Select(back.Apply)] });
            }
        }

        var left = RunAgreement.Rest(plan.Sheets[sheet], done);
        return done.Count == 0 || left.IsEmpty ? null : (paper, left);
    }

    /// <summary>Does what is new on a sheet that lies in a machine (<see cref="OnSheetThere"/>): no other is taken. Null where there is nothing, or the machine
    /// has another run.</summary>
    public async Task<RunRow?> StartThere(Guid docketId, Guid planId, int sheet, CancellationToken cancel)
    {
        if (await db.RunPlans.AsNoTracking().FirstOrDefaultAsync(p => p.Id == planId && p.DocketId == docketId, cancel) is not { } row
            || await PlanOf(planId, cancel) is not { } plan || plan.Sheets.ElementAtOrDefault(sheet) is null
            || await OnSheetThere(plan, row.LayoutId, row.MachineId, sheet, cancel) is not var (paper, left)
            || await db.Machines.AsNoTracking().FirstOrDefaultAsync(m => m.Id == row.MachineId, cancel) is not { } machine) return null;
        var kept = await Kept(RunPlanner.Part(plan, sheet, left, Drawer.ToCore(machine), SheetPart.Rest), docketId, row.LayoutId, row.MachineId, cancel);
        return await Start(kept, sheet, false, cancel, r => r.PaperId = paper);
    }

    /// <summary>What hands do before a step of a run; null where all is as it must be.</summary>
    internal static RunStop? AskOf(MachineSetup setup, RunPlan plan, RunRow run, int step) =>
        setup.Before(plan, run.Sheet, step, run.PaperId, run.PaperId != run.Id);

    /// <summary>Keeps that hands have done what the step of a run needs that it is at.</summary>
    /// <param name="said">What they were asked for; where something else is needed by now, that is asked for. Null where that is known to be the same.</param>
    private async Task Prepared(RunRow run, string? said, CancellationToken cancel)
    {
        if (run.PlanId is not { } planId || await PlanOf(planId, cancel) is not { } plan
            || await db.Machines.AsNoTracking().FirstOrDefaultAsync(m => m.Id == run.MachineId, cancel) is not { } machine) return;
        var step = Math.Max(1, run.Step);
        if (AskOf(machine.Setup, plan, run, step) is not { } done || (said is not null && said != done.Text)) return;
        await Holds(db, run.MachineId, machine.Setup.Prepared(plan, run.Sheet, step, run.PaperId), cancel);
        await Say(run.Id, step, "Done: " + done.Text, cancel);
        // Where it lies now, its marks have to tell.
        if (done.LaysSheet || done.TurnsSheet)
            await db.Runs.Where(r => r.Id == run.Id).ExecuteUpdateAsync(u => u.SetProperty(r => r.Lies, Array.Empty<double>()), cancel);
    }

    /// <summary>The run that a machine is at, with the number of its docket; null where it is at none.</summary>
    public async Task<(RunRow Run, int Docket)?> At(Guid machineId, CancellationToken cancel) =>
        await db.Runs.AsNoTracking().Where(r => r.MachineId == machineId && RunRow.Active.Contains(r.State))
            .Join(db.Dockets, r => r.DocketId, d => d.Id, (r, d) => new { Run = r, d.Number }).FirstOrDefaultAsync(cancel) is { } its
            ? (its.Run, its.Number) : null;

    /// <summary>What a machine is at, for a sentence that says that it is: "at sheet 2 of docket 12".</summary>
    public async Task<string> BusyWith(Guid machineId, CancellationToken cancel) =>
        await At(machineId, cancel) is var (run, docket) ? $"at sheet {run.Sheet + 1} of docket {docket}" : "at another sheet";

    /// <summary>Keeps what a machine holds. A sheet that is laid in and is no run's is none that it knows.</summary>
    internal static Task<int> Holds(FalzkunstContext db, Guid machineId, MachineSetup setup, CancellationToken cancel)
    {
        var held = RunDocument.WriteSetup(setup);
        return db.Machines.IgnoreQueryFilters().Where(m => m.Id == machineId).ExecuteUpdateAsync(u => u.SetProperty(m => m.Held, held), cancel);
    }

    /// <summary>Keeps that somebody put a tool into a machine.</summary>
    public Task ToolIsIn(MachineRow machine, Tool tool, CancellationToken cancel) => Holds(db, machine.Id, machine.Setup.Holding(tool), cancel);

    /// <summary>Forgets what a machine holds: somebody says that it is not so. Not while it runs, since then it is known.</summary>
    /// <returns>Whether it was forgotten.</returns>
    public async Task<bool> Forget(Guid machineId, CancellationToken cancel) => await db.Machines.Where(m => m.Id == machineId
        && !db.Runs.Any(r => r.MachineId == m.Id && RunRow.Active.Contains(r.State))).ExecuteUpdateAsync(u => u.SetProperty(m => m.Held, ""), cancel) > 0;

    /// <summary>
    /// Goes on with a run that was broken off, or has left something out, on the sheet that still lies as it did: what is missing is told by place from what
    /// was done in it and the runs that it goes on from, and put before the machine as a run of its own. Null where nothing is left, the run is not over, or
    /// the machine has another.
    /// </summary>
    public async Task<RunRow?> GoOn(Guid docketId, Guid runId, CancellationToken cancel)
    {
        if (await ChainOf(docketId, runId, cancel) is not ({ Count: > 0 } chain, var plan, var machine) || chain[^1].IsActive
            || await WasGoneOnWith(runId, cancel)) return null;
        var first = chain[0];
        var left = await LeftOf(chain, plan, cancel);
        if (left.IsEmpty) return null;
        if (!chain[^1].LeavesRest || ToolRounds.Of(plan) is not { } rounds)
            return await StartPart(chain, RunPlanner.Part(plan, first.Sheet, left, machine, SheetPart.Rest), false, cancel);
        // Of a round that was broken off, only what belongs to it is done now.
        var (now, leavesRest) = rounds.FirstOf(left);
        return await StartPart(chain, RunPlanner.Part(plan, first.Sheet, now, machine, SheetPart.Rest), false, cancel, leavesRest);
    }

    /// <summary>What some runs of a sheet left undone of its plan, where it was planned: it is placed again when it is run.</summary>
    private async Task<ImmutableArray<RunStep>> LeftOf(List<RunRow> chain, RunPlan plan, CancellationToken cancel)
    {
        var left = RunAgreement.Rest(chain[0].Placed(plan.Sheets[chain[0].Sheet]), await DoneIn(chain, cancel));
        return chain[0].Map is { } map ? [.. left.Select(s => s with { Paths = [.. s.Paths.Select(p => p.Transform(map.Inverse()))] })] : left;
    }

    /// <summary>Whether another run went on where this one ended: an answer that comes late, or twice, begins nothing again.</summary>
    private Task<bool> WasGoneOnWith(Guid runId, CancellationToken cancel) => db.Runs.AnyAsync(r => r.AfterId == runId && !r.IsTouchUp, cancel);

    /// <summary>The share of a round in a sheet, put before its machine: the first that is left of it. Null where nothing is left, or the machine has another
    /// run.</summary>
    /// <param name="planId">Of all that is done.</param>
    /// <param name="after">The last run of the sheet, which was done; null where it was not worked yet.</param>
    /// <param name="prepared">Whether hands have done already what its first step needs.</param>
    public async Task<RunRow?> StartRound(Guid docketId, Guid planId, int sheet, Guid? after, bool prepared, CancellationToken cancel)
    {
        if (await db.RunPlans.AsNoTracking().FirstOrDefaultAsync(p => p.Id == planId && p.DocketId == docketId, cancel) is not { } row
            || await db.Machines.AsNoTracking().FirstOrDefaultAsync(m => m.Id == row.MachineId, cancel) is not { } machineRow
            || await PlanOf(planId, cancel) is not { } plan || plan.Sheets.ElementAtOrDefault(sheet) is not { } whole) return null;
        var (left, paper) = (whole.Steps, Guid.Empty);
        if (after is null && await db.Runs.AnyAsync(r => r.LayoutId == row.LayoutId && r.Sheet == sheet && r.State == WorkState.Done && !r.IsTouchUp, cancel))
            return null;
        if (after is { } last)
        {
            if (await WasGoneOnWith(last, cancel)) return null;
            // What was begun is gone on with as it was planned then.
            if (await ChainOf(docketId, last, cancel) is not ({ Count: > 0 } chain, var begun, _) || chain[^1].IsActive) return null;
            (plan, planId) = (begun, (chain[0].WholeId ?? chain[0].PlanId)!.Value);
            (left, paper) = (await LeftOf(chain, plan, cancel), chain[0].PaperId);
        }

        if (left.IsEmpty || ToolRounds.Of(plan) is not { } rounds) return null;
        var (now, leavesRest) = rounds.FirstOf(left);
        var part = RunPlanner.Round(plan, sheet, now, Drawer.ToCore(machineRow), rounds, after is null);
        var kept = await Kept(part, docketId, row.LayoutId, row.MachineId, cancel);
        return await Start(kept, sheet, prepared, cancel, r => (r.AfterId, r.LeavesRest, r.WholeId, r.PaperId) = (after, leavesRest, planId, paper));
    }

    /// <summary>Runs chosen lines of a sheet once more while it still lies in the machine, with other numbers where they are given. Null where nothing was
    /// chosen, the sheet is not done, or the machine has another run.</summary>
    /// <param name="choose">Which lines of the sheet are done again, as it lies.</param>
    public async Task<RunRow?> TouchUp(Guid docketId, Guid runId, Func<SheetRun, IEnumerable<SheetLine>> choose, int? passes, double? forceGrams,
        CancellationToken cancel)
    {
        if (await ChainOf(docketId, runId, cancel) is not ({ Count: > 0 } chain, var plan, var machine) || chain[^1].IsActive) return null;
        var sheet = plan.Sheets[chain[0].Sheet];
        var chosen = choose(chain[0].Placed(sheet)).ToHashSet();
        var steps = sheet.Steps.Select(s => s with
        {
            Paths = [.. s.Paths.Where((_, i) => chosen.Contains(new(s.Number, i)))],
            Passes = passes ?? s.Passes,
            ForceGrams = forceGrams ?? s.ForceGrams,
        }).Where(s => s.Paths.Length > 0).ToList();
        return steps.Count == 0 ? null
            : await StartPart(chain, RunPlanner.Part(plan, chain[0].Sheet, steps, machine, SheetPart.TouchUp), true, cancel);
    }

    /// <summary>A run and those that it goes on from, the first of the sheet first, with the plan of that and its machine; touch-ups are left out.</summary>
    public async Task<(List<RunRow> Chain, RunPlan Plan, Machine Machine)?> ChainOf(Guid docketId, Guid runId, CancellationToken cancel)
    {
        var chain = new List<RunRow>();
        for (Guid? at = runId; at is { } id;)
        {
            if (await db.Runs.AsNoTracking().FirstOrDefaultAsync(r => r.Id == id && r.DocketId == docketId, cancel) is not { } row) return null;
            if (!row.IsTouchUp || row.IsActive) chain.Insert(0, row);
            at = row.AfterId;
        }

        return chain.Count > 0 && (chain[0].WholeId ?? chain[0].PlanId) is { } planId && await PlanOf(planId, cancel) is { } plan
            && await db.Machines.AsNoTracking().FirstOrDefaultAsync(m => m.Id == chain[0].MachineId, cancel) is { } machine
            ? (chain, plan, Drawer.ToCore(machine)) : null;
    }

    /// <summary>All that was done in some runs of a sheet, where it lay in the first of them. Where a machine can't tell, it is what each of them was sent of
    /// its own plan.</summary>
    public async Task<List<DoneStroke>> DoneIn(IEnumerable<RunRow> chain, CancellationToken cancel)
    {
        var (done, first) = (new List<DoneStroke>(), (RunRow?)null);
        foreach (var run in chain)
        {
            first ??= run;
            if (run.PlanId is not { } planId || await PlanOf(planId, cancel) is not { } plan) continue;
            var sheet = run.Placed(plan.Sheets[run.Sheet]);
            var its = DoneOf(run, sheet).Select(m => m.On(sheet));
            // It may have been laid in again since, a little elsewhere.
            if (!run.Lies.SequenceEqual(first.Lies))
            {
                var back = (run.Map?.Inverse() ?? Affine.Identity).Then(first.Map ?? Affine.Identity);
                its = its.Select(d => d with { Points = [.. d.Points.Select(back.Apply)] });
            }

            done.AddRange(its);
        }

        return done;
    }

    /// <summary>What was done in a run of whichever studio.</summary>
    internal async Task<List<DoneStroke>> DoneBy(Guid runId, CancellationToken cancel)
    {
        var run = await db.Runs.IgnoreQueryFilters().AsNoTracking().FirstAsync(r => r.Id == runId, cancel);
        db.StudioId = run.StudioId;
        return await DoneIn([run], cancel);
    }

    /// <summary>All that was ever done on a sheet of paper, in mm on the sheet as it was planned, with its outer side up.</summary>
    public async Task<List<DoneStroke>> DoneOn(Guid paper, CancellationToken cancel)
    {
        var all = new List<DoneStroke>();
        foreach (var run in await db.Runs.AsNoTracking().Where(r => r.PaperId == paper).OrderBy(r => r.StartedAt).ToListAsync(cancel))
        {
            if (run.PlanId is not { } planId || await PlanOf(planId, cancel) is not { } plan) continue;
            var (sheet, back) = (plan.Sheets[run.Sheet], run.Map?.Inverse() ?? Affine.Identity);
            foreach (var stroke in await DoneIn([run], cancel))
            {
                var planned = stroke with { Points = [.. stroke.Points.Select(back.Apply)] };
                var over = sheet.FaceOf(planned) == Core.Cards.Face.Inner ? SheetRun.Over(sheet.Width) : Affine.Identity;
                all.Add(planned with { Points = [.. planned.Points.Select(over.Apply)] });
            }
        }

        return all;
    }

    /// <summary>What was made on the paper of a run besides the pieces of its sheet.</summary>
    public async Task<ImmutableArray<Box>> SpoiledBy(RunRow run, Core.Cards.Design design, Core.Layout.SheetPlan sheet, CancellationToken cancel) =>
        Core.Layout.OffCuts.Spoiled(design, sheet, (await DoneOn(run.PaperId, cancel)).Select(d => d.Points));

    /// <summary>Keeps a plan that is made once, for one run; its id.</summary>
    public async Task<Guid> Kept(RunPlan plan, Guid docketId, Guid layoutId, Guid machineId, CancellationToken cancel)
    {
        var id = Guid.CreateVersion7();
        db.RunPlans.Add(new()
        {
            Id = id,
            StudioId = db.StudioId,
            DocketId = docketId,
            LayoutId = layoutId,
            MachineId = machineId,
            MadeFrom = $"once {id:N}",
            Document = Packed.Pack(RunDocument.Write(plan), null),
            At = clock.GetUtcNow(),
        });
        await db.SaveChangesAsync(cancel);
        return id;
    }

    private async Task<RunRow?> StartPart(List<RunRow> chain, RunPlan part, bool isTouchUp, CancellationToken cancel, bool leavesRest = false)
    {
        var first = chain[0];
        var plan = await Kept(part, first.DocketId, first.LayoutId, first.MachineId, cancel);
        // As it lay when it was worked last.
        var lies = await db.Runs.Where(r => r.PaperId == first.PaperId).OrderBy(r => r.StartedAt).Select(r => r.Lies).LastAsync(cancel);
        return await Start(plan, first.Sheet, false, cancel, r => (r.AfterId, r.IsTouchUp, r.Lies, r.LeavesRest, r.WholeId, r.PaperId)
            = (chain[^1].Id, isTouchUp, lies, leavesRest, first.WholeId, first.PaperId));
    }

    /// <summary>Runs a test card for a tool in a free corner of a sheet. Why that can't be, as a sentence; null where it was begun.</summary>
    public async Task<string?> Test(LayoutRow layout, MachineRow row, int sheet, Core.Cards.Operation operation, CancellationToken cancel)
    {
        if (LayoutJob.Read(layout)?.Sheets is not { } sheets || sheets.ElementAtOrDefault(sheet) is not { } laid
            || await together.DesignOf(layout, cancel) is not { } design) return "Lay out first.";
        var (tools, stocks, machine) = (await drawer.Tools(cancel), await drawer.Stocks(cancel), Drawer.ToCore(row));
        if (stocks.Find(s => s.Id == laid.StockId) is not { } stock) return "That paper is not in the drawer any more.";
        if (!tools.Exists(t => t.Operation == operation)) return "There is no tool for that in the drawer.";
        var settings = await drawer.Settings(cancel);
        var tool = Tool.Taken(tools, settings, operation, stock.Id);
        var setting = MaterialSetting.Completed(settings, [stock], [tool]).Single();
        var pieces = laid.Pieces.Select(p => design.Piece(p.PieceId)?.Outline.Transform(p.ToSheet)).OfType<Core.Shapes.VectorPath>().ToList();
        // Where another test card was made, nothing is left.
        if (await FreePaper(row.Id, layout.Id, sheet, cancel) is { } paper)
            pieces.AddRange((await DoneOn(paper, cancel)).Select(d => VectorPath.Polyline([.. d.Points])));
        if (TestCard.For(laid, pieces, tool, setting) is not { } card)
            return "No corner of this sheet is free for a test card. Look at another sheet, or lay one out with more room.";
        var plan = await Kept(card.Plan(laid, pieces, sheet, sheets.Length, tool, setting, machine), layout.DocketId, layout.Id, row.Id, cancel);
        return await Start(plan, sheet, false, cancel, r => r.IsTouchUp = true) is null
            ? $"{row.Name} is {await BusyWith(row.Id, cancel)}. Wait for it, or stop that run." : null;
    }

    /// <summary>What a cell of a finished test card was made with; null where there is none.</summary>
    /// <param name="step">Its step, from 1.</param>
    public async Task<MaterialSetting?> OfTest(Guid docketId, Guid runId, int step, CancellationToken cancel)
    {
        if (await db.Runs.AsNoTracking().FirstOrDefaultAsync(r => r.Id == runId && r.DocketId == docketId && r.IsTouchUp && r.State == WorkState.Done, cancel)
            is not { PlanId: { } planId } run || await PlanOf(planId, cancel) is not { } plan || plan.Sheets[run.Sheet] is not { Part: SheetPart.Test } sheet
            || sheet.Steps.FirstOrDefault(s => s.Number == step) is not { } cell
            || await db.Layouts.AsNoTracking().FirstOrDefaultAsync(l => l.Id == run.LayoutId, cancel) is not { } layout
            || LayoutJob.Read(layout)?.Sheets.ElementAtOrDefault(run.Sheet)?.StockId is not { } stockId) return null;
        var now = (await drawer.Settings(cancel)).Find(s => s.StockId == stockId && s.ToolId == cell.ToolKind) ?? new(stockId, cell.ToolKind, 1, 0, 0);
        return now with { Passes = cell.Passes, ForceGrams = cell.ForceGrams, Depth = cell.Depth ?? now.Depth };
    }

    /// <summary>What the tools of a finished touch-up were set to, where the stock of its sheet is set otherwise. Of a test card somebody chooses.</summary>
    public async Task<ImmutableArray<MaterialSetting>> BetterOf(Guid docketId, Guid runId, CancellationToken cancel)
    {
        if (await db.Runs.AsNoTracking().FirstOrDefaultAsync(r => r.Id == runId && r.DocketId == docketId && r.IsTouchUp && r.AfterId != null
            && r.State == WorkState.Done, cancel)
            is not { PlanId: { } planId } run || await PlanOf(planId, cancel) is not { } plan
            || await db.Layouts.AsNoTracking().FirstOrDefaultAsync(l => l.Id == run.LayoutId, cancel) is not { } layout
            || LayoutJob.Read(layout)?.Sheets.ElementAtOrDefault(run.Sheet)?.StockId is not { } stockId) return [];
        var (tools, stocks) = (await drawer.Tools(cancel), await drawer.Stocks(cancel));
        var now = MaterialSetting.Completed(await drawer.Settings(cancel), stocks, tools).Where(s => s.StockId == stockId).ToDictionary(s => s.ToolId);
        return [.. from step in plan.Sheets[run.Sheet].Steps.DistinctBy(s => s.ToolId)
            where now.TryGetValue(step.ToolKind, out var set) && (set.Passes, set.ForceGrams) != (step.Passes, step.ForceGrams)
            select now[step.ToolKind] with { Passes = step.Passes, ForceGrams = step.ForceGrams }];
    }

    /// <summary>Holds a run that works, or lets it go on: nothing more is sent meanwhile.</summary>
    public Task Hold(Guid docketId, Guid runId, bool held, CancellationToken cancel) => db.Runs
        .Where(r => r.Id == runId && r.DocketId == docketId && r.State == WorkState.Working)
        .ExecuteUpdateAsync(u => u.SetProperty(r => r.HoldAsked, held), cancel);

    /// <summary>A person has done what was asked. An answer to another question than the one that is asked now changes nothing.</summary>
    public async Task Confirm(Guid docketId, Guid runId, int asked, CancellationToken cancel)
    {
        var now = clock.GetUtcNow();
        if (await db.Runs.AsNoTracking().FirstOrDefaultAsync(r => r.Id == runId && r.DocketId == docketId, cancel) is not { } run) return;
        await using var both = await db.Database.BeginTransactionAsync(cancel);
        var done = await db.Runs.Where(r => r.Id == runId && r.DocketId == docketId && r.State == WorkState.Asking && r.Asked == asked)
            .ExecuteUpdateAsync(u => u.SetProperty(r => r.State, WorkState.Waiting).SetProperty(r => r.Asks, "").SetProperty(r => r.SeenAt, now), cancel);
        if (done > 0) await Prepared(run, run.Asks, cancel);
        await both.CommitAsync(cancel);
    }

    /// <summary>Drives the tool of a run that waits for a person over a place of its sheet. Why that can't be, as a sentence; null where it is there.</summary>
    /// <param name="place">In mm on the sheet as it was planned.</param>
    public async Task<string?> Drive(Guid docketId, Guid runId, Point place, CancellationToken cancel)
    {
        const string NoMore = "That run does not wait for you any more.";
        var waits = db.Runs.AsNoTracking().Where(r => r.Id == runId && r.DocketId == docketId && r.State == WorkState.Asking);
        if (await waits.FirstOrDefaultAsync(cancel) is not { PlanId: { } planId } run || await PlanOf(planId, cancel) is not { } plan
            || await db.Machines.AsNoTracking().FirstOrDefaultAsync(m => m.Id == run.MachineId, cancel) is not { } machine)
            return NoMore;
        var sheet = plan.Sheets[run.Sheet];
        if (!new Box(0, 0, sheet.Width.Mm, sheet.Height.Mm).Holds(place)) return "That is beyond the sheet.";
        using var patience = CancellationTokenSource.CreateLinkedTokenSource(cancel);
        try
        {
            await using var line = await CutterLine.Open(machine, cancel);
            patience.CancelAfter(TimeSpan.FromSeconds(10));
            // It may have gone on until it was our turn.
            if (!await waits.AnyAsync(cancel)) return NoMore;
            await line.Do(line.MoveTo(sheet, run.Map is { } map ? map.Apply(place) : place), patience.Token);
            return null;
        }
        catch (IOException e)
        {
            return $"The tool was not driven there: {e.Message}.";
        }
        catch (OperationCanceledException) when (!cancel.IsCancellationRequested)
        {
            return "The tool was not driven there: see whether the machine wants the mat.";
        }
    }

    /// <summary>Keeps where foil really lies.</summary>
    /// <param name="patches">All of those of the step that is asked for, in their order.</param>
    public Task TellFoil(Guid docketId, Guid runId, IEnumerable<Box> patches, CancellationToken cancel)
    {
        double[] told = [.. patches.SelectMany(p => new[] { p.Left, p.Top, p.Right, p.Bottom })];
        return db.Runs.Where(r => r.Id == runId && r.DocketId == docketId && r.State == WorkState.Asking)
            .ExecuteUpdateAsync(u => u.SetProperty(r => r.FoilLies, told), cancel);
    }

    /// <summary>Stops a run: at once where nothing works on it, otherwise its worker stops the machine.</summary>
    public async Task Stop(Guid docketId, Guid runId, CancellationToken cancel)
    {
        await using var both = await db.Database.BeginTransactionAsync(cancel);
        // First, and kept locked: a worker that asks for somebody in this very moment finds it.
        await db.Runs.Where(r => r.Id == runId && r.DocketId == docketId && RunRow.Active.Contains(r.State))
            .ExecuteUpdateAsync(u => u.SetProperty(r => r.StopAsked, true), cancel);
        await StopResting(runId, cancel);
        await both.CommitAsync(cancel);
    }

    /// <summary>Ends a run that is to stop, where nothing works on it.</summary>
    internal async Task StopResting(Guid runId, CancellationToken cancel)
    {
        var now = clock.GetUtcNow();
        if (await db.Runs.IgnoreQueryFilters().Where(r => r.Id == runId && r.StopAsked && (r.State == WorkState.Waiting || r.State == WorkState.Asking))
            .ExecuteUpdateAsync(u => u.SetProperty(r => r.State, WorkState.Stopped).SetProperty(r => r.Asks, "").SetProperty(r => r.EndedAt, now), cancel) == 0)
            return;
        await Say(runId, null, "Stopped by you.", cancel);
        await Drawer.Take(db, runId, (await DoneBy(runId, cancel)).Count > 0);
    }

    /// <summary>What was done of a run: as the machine says, and where it can't tell, as far as it took what it was sent. Empty where nothing was.</summary>
    private static IReadOnlyList<CutterMark> DoneOf(RunRow run, SheetRun sheet) => run.Record.Length > 0
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
    private const int HowPlanned = 7;

    private static string MadeFrom(LayoutRow layout, Machine machine, IEnumerable<MaterialSetting> settings, IEnumerable<Tool> tools,
        IEnumerable<Core.Cards.Stock> stocks, Length setback, IEnumerable<Foil> foils, FirstMade first)
    {
        var text = new StringBuilder().Append(HowPlanned).Append('|').Append(layout.Id).Append('|')
            .Append(layout.MadeFrom).Append('|').Append(layout.Document.Length).Append('|')
            .Append(machine).Append('|').Append(LayoutJob.Drawer(stocks)).Append('|').Append(setback.Mm.ToString("R", null)).Append(first);
        foreach (var s in settings.OrderBy(s => s.StockId, StringComparer.Ordinal).ThenBy(s => s.ToolId, StringComparer.Ordinal)) text.Append('|').Append(s);
        foreach (var t in tools) text.Append('|').Append(t);
        // How many there are changes nothing of how patches are cut.
        foreach (var f in foils) text.Append('|').Append(f.Name).Append(f.Size.Width.Mm).Append('x').Append(f.Size.Height.Mm);
        return Convert.ToHexStringLower(SHA256.HashData(Encoding.UTF8.GetBytes(text.ToString())));
    }
}
