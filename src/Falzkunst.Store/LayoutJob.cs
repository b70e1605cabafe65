using System.Security.Cryptography;
using System.Text;
using System.Text.Json;
using Falzkunst.Core.Cards;
using Falzkunst.Core.Layout;
using Hangfire;
using Microsoft.EntityFrameworkCore;

namespace Falzkunst.Store;

/// <summary>Lays a docket out in the background. Started again after a crash, it begins afresh; a finished one is left alone.</summary>
public sealed class LayoutJob(FalzkunstContext db, Revisions revisions, Drawer drawer, TimeProvider clock)
{
    /// <summary>The hash of everything that a layout follows from.</summary>
    public static string MadeFrom(Guid? revisionId, int copies, IEnumerable<Stock> stocks)
    {
        var text = new StringBuilder().Append(revisionId).Append('|').Append(copies);
        foreach (var s in stocks)
        {
            text.Append('|').Append(s.Id).Append(s.Colour.Hex);
            foreach (var q in s.Sheets) text.Append(';').Append(q);
        }

        return Convert.ToHexStringLower(SHA256.HashData(Encoding.UTF8.GetBytes(text.ToString())))[..24];
    }

    public static DocketLayout? Read(LayoutRow? row) => row is { Document.Length: > 0 } ? JsonSerializer.Deserialize<DocketLayout>(row.Document) : null;

    /// <summary>Puts a layout into the queue; one that is under way for the same docket is asked to stop.</summary>
    public async Task<LayoutRow> Ask(Docket docket, IBackgroundJobClient queue, CancellationToken cancel)
    {
        await db.Layouts.Where(l => l.DocketId == docket.Id && (l.State == WorkState.Waiting || l.State == WorkState.Working))
            .ExecuteUpdateAsync(u => u.SetProperty(l => l.StopAsked, true), cancel);
        var row = new LayoutRow
        {
            Id = Guid.CreateVersion7(),
            StudioId = docket.StudioId,
            DocketId = docket.Id,
            RevisionId = docket.CurrentRevisionId!.Value,
            Copies = docket.Copies,
            MadeFrom = MadeFrom(docket.CurrentRevisionId, docket.Copies, await drawer.Stocks(cancel)),
            State = WorkState.Waiting,
            Text = "waiting to begin",
            At = clock.GetUtcNow(),
            SeenAt = clock.GetUtcNow(),
        };
        db.Layouts.Add(row);
        await db.SaveChangesAsync(cancel);
        queue.Enqueue<LayoutJob>(j => j.Work(row.StudioId, row.Id, CancellationToken.None));
        return row;
    }

    [AutomaticRetry(Attempts = 2, DelaysInSeconds = [1])]
    public async Task Work(Guid studioId, Guid layoutId, CancellationToken cancel)
    {
        db.StudioId = studioId;
        var row = await db.Layouts.FirstOrDefaultAsync(l => l.Id == layoutId, cancel);
        if (row is null || row.State is WorkState.Done or WorkState.Stopped) return;
        Design? design;
        try
        {
            design = await revisions.DesignOf(row.RevisionId, cancel);
        }
        catch (Core.Files.UnreadableFileException)
        {
            row.State = WorkState.Failed;
            row.Text = "the design can't be read";
            await db.SaveChangesAsync(cancel);
            return;
        }

        if (design is null) return;
        row.State = WorkState.Working;
        await db.SaveChangesAsync(cancel);
        using var stop = CancellationTokenSource.CreateLinkedTokenSource(cancel);
        LayoutProgress? latest = null;
        var stocks = await drawer.Stocks(cancel);
        var work = Task.Run(() => SheetPlans.LayOut(design, stocks, LayoutSettings.For(row.Copies), clock, new Latest(p => latest = p), stop.Token),
            CancellationToken.None);
        try
        {
            while (await Task.WhenAny(work, Task.Delay(250, CancellationToken.None)) != work)
            {
                // Null where it is gone, with its docket.
                var stopAsked = await db.Layouts.Where(l => l.Id == layoutId).Select(l => (bool?)l.StopAsked).FirstOrDefaultAsync(CancellationToken.None);
                if (cancel.IsCancellationRequested || stopAsked != false) await stop.CancelAsync();
                // Numbers only: no sheet is shown before it was checked.
                if (latest is { } p)
                    (row.Fraction, row.Text, row.Best) = (p.Fraction, p.Text, p.Best.Sheets.IsEmpty ? ""
                        : $"best so far: {p.Best.Sheets.Length} {(p.Best.Sheets.Length == 1 ? "sheet" : "sheets")}, {p.Best.Utilisation:P0} used");
                row.SeenAt = clock.GetUtcNow();
                await db.SaveChangesAsync(CancellationToken.None);
            }

            var layout = await work;
            // The application is going down: the queue takes the job up again.
            cancel.ThrowIfCancellationRequested();
            (row.Fraction, row.Text, row.Best, row.SeenAt) = (1, "", "", clock.GetUtcNow());
            if (LayoutCheck.Faults(design, stocks, layout, cancel) is [var fault, ..] faults)
            {
                (row.State, row.Text) = (WorkState.Failed, $"What was laid out breaks a rule, so it is not shown: {fault}"
                    + (faults.Length > 1 ? $" (and {faults.Length - 1} more)" : ""));
            }
            else
            {
                (row.State, row.Document) = (stop.IsCancellationRequested ? WorkState.Stopped : WorkState.Done, JsonSerializer.Serialize(layout));
            }

            await db.SaveChangesAsync(CancellationToken.None);
        }
        catch (DbUpdateConcurrencyException)
        {
            // It was thrown away with its docket: nobody waits for it any more.
            await stop.CancelAsync();
        }
    }

    private sealed class Latest(Action<LayoutProgress> set) : IProgress<LayoutProgress>
    {
        public void Report(LayoutProgress value) => set(value);
    }
}
