using System.Collections.Concurrent;
using System.Text.Json;
using Falzkunst.Core.Runs;
using Falzkunst.Core.Writing;
using Falzkunst.Store.Cutters;
using Microsoft.EntityFrameworkCore;
using Microsoft.EntityFrameworkCore.Query;
using Microsoft.Extensions.DependencyInjection;
using Microsoft.Extensions.Hosting;
using Microsoft.Extensions.Logging;

namespace Falzkunst.Store;

/// <summary>
/// Drives the machines. A run that can go on is taken in hand, sent step by step until a person is needed, and laid down again. While the machine works,
/// its run gives a sign twice a second; a run in hand without a sign for a while is ended as failed, whoever had it: nobody knows what the paper looks like
/// then, so nothing is ever taken up again by itself.
/// </summary>
public sealed partial class RunKeeper(IServiceScopeFactory scopes, Signals signals, TimeProvider clock, ILogger<RunKeeper> log) : BackgroundService
{
    private static readonly TimeSpan Sign = TimeSpan.FromMilliseconds(500), Silence = TimeSpan.FromSeconds(15), DatabasePatience = TimeSpan.FromSeconds(10);

    private readonly Guid _me = Guid.CreateVersion7();
    private readonly ConcurrentDictionary<Guid, Task> _inHand = [];

    protected override async Task ExecuteAsync(CancellationToken stopping)
    {
        while (!stopping.IsCancellationRequested)
        {
            var next = signals.Next(Signals.AnyRun);
            try
            {
                await Sweep(stopping);
                foreach (var id in await In(db => db.Runs.IgnoreQueryFilters().Where(r => r.State == WorkState.Waiting).OrderBy(r => r.SeenAt)
                    .Select(r => r.Id).ToListAsync(stopping)))
                    await Take(id, stopping);
            }
            catch (OperationCanceledException) when (stopping.IsCancellationRequested)
            {
                break;
            }
            catch (Exception e) when (IsAway(e))
            {
                // The database is away: look again soon.
                LogAway(log, e.Message);
            }

            await Signals.Wait(next, _inHand.IsEmpty ? TimeSpan.FromSeconds(5) : TimeSpan.FromSeconds(1), CancellationToken.None)
                .WaitAsync(stopping).ConfigureAwait(ConfigureAwaitOptions.SuppressThrowing);
        }

        // Each has been told to stop, and tells its machine; there is a limit to that too.
        await Task.WhenAll(_inHand.Values).WaitAsync(TimeSpan.FromSeconds(2.5), CancellationToken.None).ConfigureAwait(ConfigureAwaitOptions.SuppressThrowing);
    }

    [LoggerMessage(LogLevel.Warning, "Runs can't be looked at now: {Why}")]
    private static partial void LogAway(ILogger log, string why);

    [LoggerMessage(LogLevel.Error, "A run ended in a way that nobody thought of")]
    private static partial void LogBroken(ILogger log, Exception e);

    // A retrying provider and a transaction that lost its connection say it in their own ways.
    private static bool IsAway(Exception e) => Database.IsDown(e) || e is DbUpdateException or TimeoutException;

    /// <summary>Ends what is in hand and gave no sign.</summary>
    private async Task Sweep(CancellationToken cancel)
    {
        var limit = clock.GetUtcNow() - Silence;
        foreach (var id in await In(db => db.Runs.IgnoreQueryFilters().Where(r => r.State == WorkState.Working && r.SeenAt < limit).Select(r => r.Id)
            .ToListAsync(cancel)))
        {
            if (_inHand.ContainsKey(id)) continue;
            await In((db, runs) => EndIn(db, runs, id, r => r.State == WorkState.Working && r.SeenAt < limit, WorkState.Failed,
                "The application or its database was stopped during this run. Look at the sheet, then go on with it.", null));
        }
    }

    private async Task Take(Guid id, CancellationToken stopping)
    {
        if (_inHand.ContainsKey(id)) return;
        var now = clock.GetUtcNow();
        if (await In(db => db.Runs.IgnoreQueryFilters().Where(r => r.Id == id && r.State == WorkState.Waiting).ExecuteUpdateAsync(u => u
            .SetProperty(r => r.State, WorkState.Working).SetProperty(r => r.Owner, _me).SetProperty(r => r.SeenAt, now), stopping)) == 0) return;
        var begun = new TaskCompletionSource(TaskCreationOptions.RunContinuationsAsynchronously);
        _inHand[id] = Task.Run(async () =>
        {
            await begun.Task;
            try
            {
                await Hold(id, stopping);
            }
            catch (Exception e) when (e is not OutOfMemoryException)
            {
                LogBroken(log, e);
            }
            finally
            {
                _inHand.TryRemove(id, out _);
            }
        }, CancellationToken.None);
        begun.SetResult();
    }

    /// <summary>Drives a run until a person is needed or it ends, and sees to it that either is written down, as soon as the database takes it.</summary>
    private async Task Hold(Guid id, CancellationToken stopping)
    {
        var outcome = new Outcome(WorkState.Failed, "");
        var at = new Drive();
        try
        {
            outcome = await Go(id, at, stopping);
        }
        catch (OperationCanceledException) when (stopping.IsCancellationRequested)
        {
            outcome = new(WorkState.Failed, "The application was stopped during this run. Look at the sheet, then go on with it.");
        }
        catch (Exception e) when (e is IOException or Core.Files.UnreadableFileException)
        {
            outcome = new(WorkState.Failed, $"Stopped: {e.Message}. What was done so far is kept; look at the machine and the sheet, then go on with it.",
                $"Stopped by you; meanwhile {e.Message}. Look at the machine and the sheet.");
        }
        catch (Exception e) when (IsAway(e))
        {
            LogAway(log, e.Message);
            outcome = new(WorkState.Failed, "The database did not answer during this run, so the machine was stopped. Look at the sheet, then go on with it.");
        }
        catch (Exception e) when (e is not OutOfMemoryException)
        {
            // Whatever it is, a person must be able to go on.
            LogBroken(log, e);
            outcome = new(WorkState.Failed, "Something went wrong in the application during this run. Look at the sheet, then go on with it.");
        }

        var record = at.Line is { } line ? await Leave(line, at, outcome.State) : null;
        // The machine stands. Until the database has that, nothing else matters here.
        for (var tries = 0; ; tries++)
        {
            try
            {
                // Whoever stops a machine that is silent, or drowns in answers, has stopped it.
                if (outcome.IfStopped is { } said
                    && await In(db => db.Runs.IgnoreQueryFilters().AnyAsync(r => r.Id == id && r.StopAsked, CancellationToken.None)))
                    outcome = new(WorkState.Stopped, said);
                await In((db, runs) => outcome.State == WorkState.Asking
                    ? AskIn(db, runs, id, at, outcome.Text)
                    : EndIn(db, runs, id, r => r.Owner == _me && r.State == WorkState.Working, outcome.State, outcome.Text, record, at));
                return;
            }
            catch (Exception e) when (IsAway(e))
            {
                if (stopping.IsCancellationRequested) return;
                if (tries == 0) LogAway(log, e.Message);
                await Task.Delay(1000, stopping).ConfigureAwait(ConfigureAwaitOptions.SuppressThrowing);
            }
        }
    }

    /// <summary>Lets go of a machine: a run that was broken off leaves it quiet. What it did of a run that is over, as JSON; null where that can't be
    /// told.</summary>
    private static async Task<string?> Leave(CutterLine line, Drive at, WorkState state)
    {
        await using var closed = line;
        if (state is WorkState.Failed or WorkState.Stopped && !await Tried(() => line.Abort(CancellationToken.None)) && at.Machine is { } machine)
        {
            // The line is gone, but perhaps not the machine, which may still have work in its buffer.
            await line.DisposeAsync();
            await Tried(async () =>
            {
                await using var other = await CutterLine.Open(machine, CancellationToken.None);
                await other.Abort(CancellationToken.None);
            });
        }

        string? record = null;
        if (state != WorkState.Asking)
            await Tried(async () => record = await line.Record(at.RecordFrom, CancellationToken.None) is { } marks ? JsonSerializer.Serialize(marks) : null);
        return record;

        static async Task<bool> Tried(Func<Task> step)
        {
            try
            {
                await step();
                return true;
            }
            catch (IOException)
            {
                return false;
            }
        }
    }

    /// <param name="State">Asking, Done, Stopped or Failed.</param>
    /// <param name="IfStopped">What is said instead where somebody wanted it stopped.</param>
    private sealed record Outcome(WorkState State, string Text, string? IfStopped = null);

    /// <summary>Where a run in hand is.</summary>
    private sealed class Drive
    {
        public CutterLine? Line { get; set; }

        public MachineRow? Machine { get; set; }

        public int Step { get; set; }

        public int Strokes { get; set; }

        public int RecordFrom { get; set; }

        public double Fraction { get; set; }

        public string Asks { get; set; } = "";

        public bool Held { get; set; }

        /// <summary>The sheet that is done.</summary>
        public SheetRun? Worked { get; set; }
    }

    private async Task<Outcome> Go(Guid id, Drive at, CancellationToken cancel)
    {
        var (run, machine, plan) = await In(async (db, runs) =>
        {
            var row = await db.Runs.IgnoreQueryFilters().AsNoTracking().FirstAsync(r => r.Id == id, cancel);
            db.StudioId = row.StudioId;
            return (row, await db.Machines.AsNoTracking().FirstOrDefaultAsync(m => m.Id == row.MachineId, cancel),
                row.PlanId is { } p ? await runs.PlanOf(p, cancel) : null);
        });
        (at.Step, at.Strokes, at.RecordFrom, at.Fraction) = (Math.Max(1, run.Step), run.Strokes, run.RecordFrom, run.Fraction);
        if (machine is null || plan is null) throw new IOException("the machine or the plan is gone; lay out again");
        at.Machine = machine;
        var line = at.Line = await CutterLine.Open(machine, cancel);
        var sheet = run.Placed(plan.Sheets[run.Sheet]);
        if (run.Step == 0)
        {
            // Whatever was left in it by others is not ours to finish.
            await line.Abort(cancel);
            if (run.PaperId == run.Id) await line.LayFresh(cancel);
            at.RecordFrom = (await line.Remembered(cancel))?.Strokes ?? 0;
        }

        var (setup, lies) = (machine.Setup, run.Lies.Length > 0);
        var whole = sheet.Steps.Sum(s => s.Work.Mm);
        for (; at.Step <= sheet.Steps.Length; at.Step++)
        {
            var step = sheet.Steps[at.Step - 1];
            if (Runs.AskOf(setup, plan, run, at.Step) is { } stop) return new(WorkState.Asking, stop.Text);
            if (!lies && sheet.Marks is { } marks && step.Face == Core.Cards.Face.Outer)
            {
                var eye = new MarkEye(machine);
                await eye.Lay(MarkEye.NameOf(run.LayoutId, run.Sheet + 1), cancel);
                var read = await ReadMarks(eye, marks, cancel);
                if (read.Why is { } why) return new(WorkState.Asking, $"{why} Then go on.");
                var known = await In(async db => await Calibrations.Of(db, machine.Id, await db.Dockets.IgnoreQueryFilters().Where(d => d.Id == run.DocketId)
                    .Select(d => d.Printer).FirstAsync(cancel), cancel));
                var where = read.Map!.Value.Near(new(marks.Width.Mm / 2, marks.Height.Mm / 2)).Then(Calibrations.ToCore(known).Correction);
                await Lies(id, where, read.ResidualMm, known, cancel);
                sheet = plan.Sheets[run.Sheet].Placed(where);
                (lies, step) = (true, sheet.Steps[at.Step - 1]);
            }

            // Whatever comes of it, foil is used by it, and ink is wet.
            if (setup.Worked(step) is var begun && begun != setup) await In(db => Runs.Holds(db, machine.Id, setup = begun, cancel));
            await In((_, runs) => runs.Say(id, at.Step, $"Step {step.Number}: {step.Kind} with the {step.ToolName.ToLowerInvariant()}", cancel));
            if (await Send(id, at, line.Job(sheet, step), step, sheet.Steps.Take(at.Step - 1).Sum(s => s.Work.Mm), whole, cancel) is { } stopped)
                return stopped;
            at.Strokes = 0;
            if (PaperSays((await line.Remembered(cancel))?.Paper, step) is { } hurt) return new(WorkState.Failed, hurt);
        }

        at.Fraction = 1;
        at.Worked = plan.Sheets[run.Sheet];
        return new(WorkState.Done, plan.Ending(run.Sheet, run.LeavesRest));
    }

    /// <summary>What became of the paper in a step, where there is an eye that sees it; null where it lies as it should, or nobody can tell.</summary>
    private static string? PaperSays(string? paper, RunStep step)
    {
        var (force, name) = (step.ForceSays.Length > 0 ? $" with {step.ForceSays}" : "", Tool.InSentence(step.ToolName));
        return paper switch
        {
            "torn" => $"The paper tore under the {name}{force}. Set less force, or more passes (under Stock), and begin this sheet anew.",
            "shifted" => $"The paper shifted on the mat under the {name} at {step.SpeedMmS:0} mm/s. Set a lower speed (under Stock), press the next sheet down "
                + "well, and begin this sheet anew.",
            _ => null,
        };
    }

    /// <summary>Where the sheet on the mat lies; why that can't be told where the machine sees no sheet.</summary>
    private static async Task<Core.Printing.MarkReading> ReadMarks(MarkEye eye, Core.Layout.SheetMarks marks, CancellationToken cancel)
    {
        try
        {
            return await Papers.ReadOnMat(eye, marks, cancel);
        }
        catch (NothingThereException e)
        {
            return new([], null, 0, 0, $"The machine sees {e.Message}: print this sheet (under 4, Print), and lay it on the mat.");
        }
    }

    private Task Lies(Guid id, Affine map, double residual, CalibrationRow? known, CancellationToken cancel) => In(async (db, runs) =>
    {
        double[] lies = [map.A, map.B, map.C, map.D, map.E, map.F];
        await db.Runs.IgnoreQueryFilters().Where(r => r.Id == id).ExecuteUpdateAsync(u => u.SetProperty(r => r.Lies, lies), cancel);
        await runs.Say(id, 1, string.Create(System.Globalization.CultureInfo.InvariantCulture,
            $"Marks read: the print lies {map.E:0.0} mm to the right and {map.F:0.0} mm down, and fits within {Math.Max(0.01, residual):0.00} mm")
            + (known is null ? "; this machine was never calibrated" : ", as calibrated"), cancel);
        return true;
    });

    /// <summary>Sends a step and watches until the machine has done it. Null then; otherwise how the run ended.</summary>
    private async Task<Outcome?> Send(Guid id, Drive at, MachineJob job, RunStep step, double before, double whole, CancellationToken cancel)
    {
        var line = at.Line!;
        var room = (await line.Status(cancel)).FreeBytes;
        var longest = TimeSpan.FromSeconds(Math.Max(60, 2 * step.Seconds));
        long signed = 0, began = clock.GetTimestamp(), moved = began, database = 0, waits = 0;
        int sent = 0, took = -1;
        while (true)
        {
            if (sent < job.Text.Length && !at.Held) sent = await line.Send(job.Text, sent, cancel);
            var status = await line.Status(cancel);
            if (status.State == CutterState.Failed) throw new IOException("the machine reports that it ran into something");
            var done = Math.Max(0, sent - Math.Max(0, room - status.FreeBytes));
            if (done != took || status.State == CutterState.Waiting || at.Held) (took, moved) = (done, clock.GetTimestamp());
            if (clock.GetElapsedTime(moved) > longest) throw new IOException("the machine has not moved for a long time");
            at.Strokes = job.StrokesUpTo(done);
            at.Fraction = whole > 0 ? Math.Min(1, (before + step.Work.Mm * done / job.Text.Length) / whole) : 1;
            // Hands at the machine see soon what it wants; only what they don't is worth a word.
            waits = status.State != CutterState.Waiting ? 0 : waits == 0 ? clock.GetTimestamp() : waits;
            at.Asks = at.Held ? status.State == CutterState.Idle ? "It holds, as you asked." : "It holds as soon as it has done what it was sent."
                : waits == 0 || clock.GetElapsedTime(waits) < Sign * 3 ? ""
                : step.HeatSeconds > 0 && clock.GetElapsedTime(began).TotalSeconds < step.HeatSeconds
                ? $"The {Tool.InSentence(step.ToolName)} heats up: {step.HeatSeconds / 60:0.#} min in all. Nothing to do."
                : $"The machine waits: see whether it wants the {Tool.InSentence(step.ToolName)} or the {(at.Machine!.IsRoll ? "sheet" : "mat")}.";
            var over = sent >= job.Text.Length && status.State == CutterState.Idle;
            if (over || clock.GetElapsedTime(signed) > Sign)
            {
                signed = clock.GetTimestamp();
                try
                {
                    if (await GiveSign(id, at, cancel) is { } end) return end;
                    database = 0;
                }
                catch (Exception e) when (IsAway(e))
                {
                    if (database == 0) database = clock.GetTimestamp();
                    if (clock.GetElapsedTime(database) > DatabasePatience) throw;
                }
            }

            if (over) return null;
            await Task.Delay(25, cancel);
        }
    }

    /// <summary>Says how far it is. An outcome where somebody wants it stopped, or it is not ours any more.</summary>
    private async Task<Outcome?> GiveSign(Guid id, Drive at, CancellationToken cancel)
    {
        var now = clock.GetUtcNow();
        var asked = await In(async db => await db.Runs.IgnoreQueryFilters().Where(r => r.Id == id && r.Owner == _me && r.State == WorkState.Working)
            .ExecuteUpdateAsync(u => u.SetProperty(r => r.SeenAt, now).SetProperty(r => r.Step, at.Step).SetProperty(r => r.Strokes, at.Strokes)
                .SetProperty(r => r.RecordFrom, at.RecordFrom).SetProperty(r => r.Fraction, at.Fraction).SetProperty(r => r.Asks, at.Asks), cancel) == 0
            ? null : await db.Runs.IgnoreQueryFilters().Where(r => r.Id == id).Select(r => new Wish(r.StopAsked, r.HoldAsked)).FirstOrDefaultAsync(cancel))
            ?? throw new IOException("the run was ended elsewhere");
        at.Held = asked.Hold;
        return asked.Stop ? new(WorkState.Stopped, $"Stopped by you in step {at.Step}.") : null;
    }

    /// <summary>What somebody wants of a run that works.</summary>
    private sealed record Wish(bool Stop, bool Hold);

    private async Task<bool> AskIn(FalzkunstContext db, Runs runs, Guid id, Drive at, string text)
    {
        await using var both = await db.Database.BeginTransactionAsync();
        // Who asks holds: what was to be held stands still.
        var asks = await db.Runs.IgnoreQueryFilters().Where(r => r.Id == id && r.Owner == _me && r.State == WorkState.Working).ExecuteUpdateAsync(u => u
            .SetProperty(r => r.State, WorkState.Asking).SetProperty(r => r.Asks, text).SetProperty(r => r.Asked, r => r.Asked + 1)
            .SetProperty(r => r.Owner, (Guid?)null).SetProperty(r => r.FoilLies, Array.Empty<double>())
            .SetProperty(r => r.HoldAsked, false).SetProperty(r => r.Step, at.Step).SetProperty(r => r.Strokes, 0)
            .SetProperty(r => r.RecordFrom, at.RecordFrom).SetProperty(r => r.Fraction, at.Fraction).SetProperty(r => r.SeenAt, clock.GetUtcNow())) > 0;
        // Whoever wanted it stopped since it last looked.
        if (asks) await runs.StopResting(id, CancellationToken.None);
        await both.CommitAsync();
        return asks;
    }

    private async Task<bool> EndIn(FalzkunstContext db, Runs runs, Guid id, System.Linq.Expressions.Expression<Func<RunRow, bool>> where, WorkState state,
        string text, string? record, Drive? at = null)
    {
        var worked = at?.Worked;
        var now = clock.GetUtcNow();
        await using var both = await db.Database.BeginTransactionAsync();
        var ended = await db.Runs.IgnoreQueryFilters().Where(r => r.Id == id).Where(where).ExecuteUpdateAsync((UpdateSettersBuilder<RunRow> u) =>
        {
            u.SetProperty(r => r.State, state).SetProperty(r => r.Asks, "").SetProperty(r => r.EndedAt, now).SetProperty(r => r.Owner, (Guid?)null);
            if (record is not null) u.SetProperty(r => r.Record, record);
            if (at is not null) u.SetProperty(r => r.Step, at.Step).SetProperty(r => r.Strokes, at.Strokes).SetProperty(r => r.Fraction, at.Fraction);
        }) > 0;
        if (ended) await runs.Say(id, at?.Step, text, CancellationToken.None);
        if (ended) await Drawer.Take(db, id, state == WorkState.Done || (await runs.DoneBy(id, CancellationToken.None)).Count > 0);
        if (ended && state == WorkState.Done && worked is { Part: not SheetPart.Test }) await Remember(db, id, worked);
        await both.CommitAsync();
        return ended;
    }

    /// <summary>Writes down what each tool of a finished run was set to, for its stock.</summary>
    private async Task Remember(FalzkunstContext db, Guid runId, SheetRun sheet)
    {
        var run = await db.Runs.IgnoreQueryFilters().AsNoTracking().FirstAsync(r => r.Id == runId);
        var layout = await db.Layouts.IgnoreQueryFilters().AsNoTracking().FirstOrDefaultAsync(l => l.Id == run.LayoutId);
        if (layout is null || LayoutJob.Read(layout)?.Sheets.ElementAtOrDefault(run.Sheet) is not { } laid || !Guid.TryParse(laid.StockId, out var stockId)
            || !await db.Stocks.IgnoreQueryFilters().AnyAsync(s => s.Id == stockId)) return;
        var number = await db.Dockets.IgnoreQueryFilters().Where(d => d.Id == run.DocketId).Select(d => d.Number).FirstOrDefaultAsync();
        await new SettingsPast(db, clock).Worked(run.StudioId, stockId, sheet.Steps,
            $"docket {number}, sheet {run.Sheet + 1}{(run.IsTouchUp ? ", a touch-up" : "")}", CancellationToken.None);
    }

    private Task<T> In<T>(Func<FalzkunstContext, Task<T>> work) => In((db, _) => work(db));

    private async Task<T> In<T>(Func<FalzkunstContext, Runs, Task<T>> work)
    {
        await using var scope = scopes.CreateAsyncScope();
        var db = scope.ServiceProvider.GetRequiredService<FalzkunstContext>();
        db.Database.SetCommandTimeout(TimeSpan.FromSeconds(4));
        return await work(db, scope.ServiceProvider.GetRequiredService<Runs>());
    }
}
