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
        while (await Task.WhenAny(work, Task.Delay(250, CancellationToken.None)) != work)
        {
            if (cancel.IsCancellationRequested
                || await db.Layouts.Where(l => l.Id == layoutId).Select(l => l.StopAsked).FirstAsync(CancellationToken.None)) await stop.CancelAsync();
            if (latest is { } p) Show(row, p.Fraction, p.Text, p.Best);
            await db.SaveChangesAsync(CancellationToken.None);
        }

        var layout = await work;
        // The application is going down: the queue takes the job up again.
        cancel.ThrowIfCancellationRequested();
        Show(row, 1, "", layout);
        row.State = stop.IsCancellationRequested ? WorkState.Stopped : WorkState.Done;
        await db.SaveChangesAsync(CancellationToken.None);
    }

    private void Show(LayoutRow row, double fraction, string text, DocketLayout best)
    {
        row.Fraction = fraction;
        row.Text = text;
        row.Document = JsonSerializer.Serialize(best);
        row.SeenAt = clock.GetUtcNow();
    }

    private sealed class Latest(Action<LayoutProgress> set) : IProgress<LayoutProgress>
    {
        public void Report(LayoutProgress value) => set(value);
    }
}
