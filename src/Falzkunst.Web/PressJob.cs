using Falzkunst.Core.Layout;
using Falzkunst.Core.Printing;
using Falzkunst.Store;
using Falzkunst.Web.Pages.Dockets;
using Hangfire;
using Microsoft.EntityFrameworkCore;

namespace Falzkunst.Web;

/// <summary>Prints sheets beside a machine and has their marks read, or has the machine calibrated, in the background. Started again after a crash it goes on
/// with the next sheet; a calibration, of which nobody knows how far it came, has failed then.</summary>
public sealed class PressJob(DocketParts parts, Papers papers)
{
    /// <summary>Whether it waits, or is worked on.</summary>
    public static bool IsUnderWay(PressRow row, DateTimeOffset now) =>
        row.State is WorkState.Waiting or WorkState.Working && now - row.SeenAt < SheetsPage.Silence;

    /// <summary>What is going on, as a sentence without an end.</summary>
    public static string Says(PressRow row) => $"{(row.Text.Length > 0 ? Words.Big(row.Text) : "The last is read")} …";

    /// <summary>The last that was begun for a docket; null where nothing was.</summary>
    public static Task<PressRow?> Newest(FalzkunstContext db, Guid docketId, CancellationToken cancel) =>
        db.Press.AsNoTracking().Where(p => p.DocketId == docketId).OrderByDescending(p => p.At).FirstOrDefaultAsync(cancel);

    /// <summary>Puts it into the queue. Why that can't be, as a sentence; null where it was.</summary>
    /// <param name="sheets">The numbers of the sheets; none for the calibration page.</param>
    /// <param name="prints">Whether the calibration page is printed first.</param>
    public static async Task<string?> Ask(DocketParts parts, Docket docket, LayoutRow layout, MachineRow machine, int[] sheets, bool prints,
        CancellationToken cancel)
    {
        var db = parts.Db;
        if (await parts.Runs.At(machine.Id, cancel) is not null)
            return $"{machine.Name} is {await parts.Runs.BusyWith(machine.Id, cancel)}. Wait for it, or stop that run.";
        var now = parts.Clock.GetUtcNow();
        if ((await db.Press.AsNoTracking().Where(p => p.MachineId == machine.Id && (p.State == WorkState.Waiting || p.State == WorkState.Working))
            .ToListAsync(cancel)).Exists(p => IsUnderWay(p, now))) return $"Something is printed beside {machine.Name} already. Wait for it, or stop that.";
        var row = new PressRow
        {
            Id = Guid.CreateVersion7(),
            StudioId = docket.StudioId,
            DocketId = docket.Id,
            LayoutId = layout.Id,
            MachineId = machine.Id,
            Sheets = sheets,
            Prints = prints,
            State = WorkState.Waiting,
            Text = "waiting to begin",
            At = now,
            SeenAt = now,
        };
        db.Press.Add(row);
        await db.SaveChangesAsync(cancel);
        parts.Queue.Enqueue<PressJob>(j => j.Work(row.StudioId, row.Id, CancellationToken.None));
        return null;
    }

    public async Task Work(Guid studioId, Guid pressId, CancellationToken cancel)
    {
        var db = parts.Db;
        db.StudioId = studioId;
        var row = await db.Press.AsNoTracking().FirstOrDefaultAsync(p => p.Id == pressId, cancel);
        if (row is not { State: WorkState.Waiting or WorkState.Working }) return;
        if (row is { State: WorkState.Working, IsCalibration: true })
        {
            await End(pressId, WorkState.Failed, "The calibration was interrupted: look at the page, and begin it again.");
            return;
        }

        using var stop = CancellationTokenSource.CreateLinkedTokenSource(cancel);
        using var over = new CancellationTokenSource();
        var watching = Watch(pressId, stop, over.Token);
        try
        {
            var docket = await db.Dockets.AsNoTracking().FirstAsync(d => d.Id == row.DocketId, cancel);
            var machine = await db.Machines.AsNoTracking().FirstAsync(m => m.Id == row.MachineId, cancel);
            var layout = await db.Layouts.AsNoTracking().FirstAsync(l => l.Id == row.LayoutId, cancel);
            var sheets = await parts.PrintSheets(docket, layout, cancel) ?? [];
            var text = row.IsCalibration ? await Calibrate(row, docket, machine, sheets.First(s => s.Marks is not null).Marks!, stop.Token)
                : await Print(row, docket, machine, sheets, stop.Token);
            await End(pressId, text.Failed ? WorkState.Failed : WorkState.Done, text.Says);
        }
        catch (OperationCanceledException) when (!cancel.IsCancellationRequested)
        {
            await End(pressId, WorkState.Stopped, "Stopped by you. What was read before is kept.");
        }
        catch (Exception e) when (e is IOException or InvalidOperationException)
        {
            await End(pressId, WorkState.Failed, e is IOException ? $"It could not be printed and read: {e.Message}. What was read before is kept."
                : "The docket, its sheets or the machine are gone.");
        }
        finally
        {
            await over.CancelAsync();
            await watching.ConfigureAwait(ConfigureAwaitOptions.SuppressThrowing);
        }
    }

    private async Task<(bool Failed, string Says)> Print(PressRow row, Docket docket, MachineRow machine, IReadOnlyList<PrintSheet> sheets,
        CancellationToken cancel)
    {
        var printer = Calibrations.ToCore(await parts.Calibrations.Of(machine.Id, docket.Printer, cancel));
        for (var k = row.Done; k < row.Sheets.Length; k++)
        {
            var sheet = sheets.First(s => s.Number == row.Sheets[k]);
            await Say(row.Id, k, $"Sheet {sheet.Number} is printed, and its marks are read");
            var seed = await parts.Db.Papers.CountAsync(p => p.DocketId == docket.Id, cancel) + 1;
            var paper = await papers.PrintAndRead(docket, row.LayoutId, machine, sheet, seed, printer, cancel);
            if (paper.Why.Length > 0) return (true, $"Sheet {sheet.Number}: {paper.Why}");
        }

        await Say(row.Id, row.Sheets.Length, "");
        return (false, "");
    }

    private async Task<(bool Failed, string Says)> Calibrate(PressRow row, Docket docket, MachineRow machine, SheetMarks marks, CancellationToken cancel)
    {
        if (row.Prints)
        {
            await Say(row.Id, 0, "The calibration page is printed, and laid on the mat");
            await Calibrations.Print(machine, marks, await parts.Db.Calibrations.CountAsync(cancel) + 1, cancel);
        }

        await Say(row.Id, 0, $"{machine.Name} makes the cuts of the page");
        if (await parts.Calibrations.Cut(machine, marks, cancel) is { } refused) return (true, refused);
        await Say(row.Id, 0, "The page is scanned and read");
        return await Calibrations.Scan(machine, marks, cancel) is not { } read
            ? (false, "Its cuts are made. Take it off the mat, and type what you read, or bring a scan of it.")
            : (read.Off is null, await parts.Calibrations.KeepRead(machine, docket.Printer, read, "machine", cancel));
    }

    /// <exception cref="OperationCanceledException">Somebody wants it stopped.</exception>
    private async Task Say(Guid id, int done, string text)
    {
        var now = parts.Clock.GetUtcNow();
        var goesOn = await parts.Db.Press.Where(p => p.Id == id && !p.StopAsked).ExecuteUpdateAsync(u => u
            .SetProperty(p => p.State, WorkState.Working).SetProperty(p => p.Done, done).SetProperty(p => p.Text, text).SetProperty(p => p.SeenAt, now)) > 0;
        if (!goesOn) throw new OperationCanceledException();
    }

    private Task<int> End(Guid id, WorkState state, string text) => parts.Db.Press.Where(p => p.Id == id).ExecuteUpdateAsync(u => u
        .SetProperty(p => p.State, state).SetProperty(p => p.Text, text));

    /// <summary>Gives a sign, and stops what runs once somebody wants that, or its docket is gone. In a scope of its own: the other is busy.</summary>
    private async Task Watch(Guid id, CancellationTokenSource stop, CancellationToken over)
    {
        await using var scope = parts.Scopes.CreateAsyncScope();
        var db = scope.ServiceProvider.GetRequiredService<FalzkunstContext>();
        while (!over.IsCancellationRequested)
        {
            var now = parts.Clock.GetUtcNow();
            await db.Press.IgnoreQueryFilters().Where(p => p.Id == id).ExecuteUpdateAsync(u => u.SetProperty(p => p.SeenAt, now), over);
            if (await db.Press.IgnoreQueryFilters().Where(p => p.Id == id).Select(p => (bool?)p.StopAsked).FirstOrDefaultAsync(over) != false)
                await stop.CancelAsync();
            await Task.Delay(250, over);
        }
    }
}
