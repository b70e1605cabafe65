using System.Text.Json;
using Falzkunst.Core.Runs;
using Falzkunst.Core.Writing;
using Hangfire;
using Microsoft.EntityFrameworkCore;

namespace Falzkunst.Store;

/// <summary>Drives one sheet through a cutter: asks for the sheet and for tools, sends step by step, watches, and keeps what was really done.</summary>
public sealed class RunJob(FalzkunstContext db, Revisions revisions, Drawer drawer, TimeProvider clock)
{
    /// <summary>The plan of a layout on a machine, with the studio's settings.</summary>
    public async Task<RunPlan?> PlanOf(LayoutRow layoutRow, MachineRow machine, CancellationToken cancel)
    {
        var design = await revisions.DesignOf(layoutRow.RevisionId, cancel);
        var layout = LayoutJob.Read(layoutRow);
        return design is null || layout is null ? null : RunPlanner.Plan(design, layout, Drawer.ToCore(machine), await drawer.Settings(cancel), cancel);
    }

    public async Task<RunRow> Ask(Docket docket, LayoutRow layout, MachineRow machine, int sheet, IBackgroundJobClient queue, CancellationToken cancel)
    {
        var row = new RunRow
        {
            Id = Guid.CreateVersion7(),
            StudioId = docket.StudioId,
            DocketId = docket.Id,
            LayoutId = layout.Id,
            MachineId = machine.Id,
            Sheet = sheet,
            State = WorkState.Waiting,
            StartedAt = clock.GetUtcNow(),
            SeenAt = clock.GetUtcNow(),
        };
        db.Runs.Add(row);
        await db.SaveChangesAsync(cancel);
        queue.Enqueue<RunJob>(j => j.Work(row.StudioId, row.Id, CancellationToken.None));
        return row;
    }

    /// <summary>
    /// Never taken up again by itself: after a crash nobody knows what the paper looks like, so a person decides. The queue starts it once;
    /// a second start of a run that had begun marks it as broken off.
    /// </summary>
    [AutomaticRetry(Attempts = 0)]
    public async Task Work(Guid studioId, Guid runId, CancellationToken cancel)
    {
        db.StudioId = studioId;
        var run = await db.Runs.FirstOrDefaultAsync(r => r.Id == runId, cancel);
        if (run is null || run.State is WorkState.Done or WorkState.Stopped or WorkState.Failed) return;
        if (run.State == WorkState.Working)
        {
            await End(run, WorkState.Failed, "The application was restarted during this run. Look at the sheet, then run it again or go on to the next.");
            return;
        }

        run.State = WorkState.Working;
        await db.SaveChangesAsync(cancel);
        try
        {
            var layout = await db.Layouts.FirstAsync(l => l.Id == run.LayoutId, cancel);
            var machine = await db.Machines.FirstAsync(m => m.Id == run.MachineId, cancel);
            var plan = await PlanOf(layout, machine, cancel) ?? throw new IOException("the layout is gone; lay out again");
            await using var line = await CutterLine.Open(machine.Port, cancel);
            await Drive(run, plan.Sheets[run.Sheet], line, cancel);
        }
        catch (Exception e) when (e is IOException or Core.Files.UnreadableFileException)
        {
            await End(run, WorkState.Failed, $"Stopped: {e.Message}. What was done so far is kept; check the machine, then run the sheet again.");
        }
    }

    private async Task Drive(RunRow run, SheetRun sheet, CutterLine line, CancellationToken cancel)
    {
        await line.Reset(cancel);
        await line.LoadMat(false, cancel);
        // The sheet and the first tools are one walk to the machine.
        var first = sheet.Steps.FirstOrDefault();
        var tools = first is not null && !(await line.Look(cancel)).Holders.Contains(first.Pen) ? " " + StopText(first) : "";
        var side = first?.Face == Core.Cards.Face.Inner ? ", its inner side up" : "";
        if (!await Ask(run, $"Put a sheet of {sheet.StockName} ({sheet.Width.Mm:0.#} × {sheet.Height.Mm:0.#} mm) on the mat, in its upper left corner{side}, "
            + $"and load the mat.{tools}", cancel)) return;
        if (tools.Length > 0) await PutTools(line, sheet, first!, cancel);
        await line.LoadMat(true, cancel);
        var whole = sheet.Steps.Sum(s => s.Work.Mm);
        double before = 0;
        foreach (var step in sheet.Steps)
        {
            run.Step = step.Number;
            var look = await line.Look(cancel);
            var turns = step.Stop is { TurnsSheet: true };
            if (turns || !look.Holders.Contains(step.Pen))
            {
                if (turns) await line.LoadMat(false, cancel);
                if (!await Ask(run, StopText(step), cancel)) return;
                await PutTools(line, sheet, step, cancel);
                if (turns) await line.LoadMat(true, cancel);
            }

            await Say(run, $"Step {step.Number}: {step.Kind} with the {step.ToolName.ToLowerInvariant()}");
            var hpgl = HpglFile.WriteStep(sheet, step);
            var sent = 0;
            var start = (await line.Look(cancel)).DownMm;
            var saved = clock.GetTimestamp();
            while (true)
            {
                if (sent < hpgl.Length) sent = await line.Send(hpgl, sent, cancel);
                look = await line.Look(cancel);
                if (look.State == "failed") throw new IOException($"the machine says: {look.Problem}");
                run.Fraction = whole > 0 ? Math.Min(1, (before + look.DownMm - start) / whole) : 1;
                if (clock.GetElapsedTime(saved) > TimeSpan.FromMilliseconds(200))
                {
                    saved = clock.GetTimestamp();
                    run.SeenAt = clock.GetUtcNow();
                    await db.SaveChangesAsync(cancel);
                    if (await StopAsked(run, cancel))
                    {
                        await line.Reset(cancel);
                        await End(run, WorkState.Stopped, $"Stopped by you in step {step.Number}.");
                        return;
                    }
                }

                if (sent >= hpgl.Length && look.State == "idle") break;
                await Task.Delay(25, cancel);
            }

            before += step.Work.Mm;
        }

        run.Record = JsonSerializer.Serialize(await line.Record(cancel));
        run.Fraction = 1;
        await line.LoadMat(false, cancel);
        await End(run, WorkState.Done, "Finished. Unload the mat and take the pieces off.");
    }

    private static string StopText(RunStep step) => step.Stop?.Text ?? $"Put the {step.ToolName.ToLowerInvariant()} in the last holder.";

    /// <summary>What the person's hands do; the plan knows what comes out, and where the machine was used otherwise in between, the last holder takes the
    /// tool.</summary>
    private static async Task PutTools(CutterLine line, SheetRun sheet, RunStep step, CancellationToken cancel)
    {
        var holders = (await line.Look(cancel)).Holders.Length;
        foreach (var c in step.Stop?.Changes ?? [])
            if (sheet.Steps.FirstOrDefault(s => s.ToolId == c.ToolId)?.Pen is { } pen && c.Holder <= holders) await line.Put(c.Holder, pen, cancel);
        if (!(await line.Look(cancel)).Holders.Contains(step.Pen)) await line.Put(holders, step.Pen, cancel);
    }

    /// <summary>Asks a person for something, and waits. False when the run was stopped instead.</summary>
    private async Task<bool> Ask(RunRow run, string what, CancellationToken cancel)
    {
        run.Asks = what;
        var confirmed = run.Confirmed;
        await db.SaveChangesAsync(cancel);
        while (true)
        {
            await Task.Delay(100, cancel);
            var now = await db.Runs.Where(r => r.Id == run.Id).Select(r => new { r.Confirmed, r.StopAsked }).FirstAsync(cancel);
            if (now.StopAsked)
            {
                await End(run, WorkState.Stopped, "Stopped by you.");
                return false;
            }

            if (now.Confirmed <= confirmed) continue;
            run.Confirmed = now.Confirmed;
            run.Asks = "";
            await Say(run, "Done: " + what);
            return true;
        }
    }

    private Task<bool> StopAsked(RunRow run, CancellationToken cancel) => db.Runs.Where(r => r.Id == run.Id).Select(r => r.StopAsked).FirstAsync(cancel);

    private async Task Say(RunRow run, string text)
    {
        db.RunEvents.Add(new() { Id = Guid.CreateVersion7(), RunId = run.Id, At = clock.GetUtcNow(), Step = run.Step, Text = text });
        run.SeenAt = clock.GetUtcNow();
        await db.SaveChangesAsync(CancellationToken.None);
    }

    private async Task End(RunRow run, WorkState state, string text)
    {
        run.State = state;
        run.Asks = "";
        run.EndedAt = clock.GetUtcNow();
        await Say(run, text);
    }
}
