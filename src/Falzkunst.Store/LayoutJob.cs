using System.Security.Cryptography;
using System.Text;
using System.Text.Json;
using Falzkunst.Core.Cards;
using Falzkunst.Core.Layout;
using Hangfire;
using Microsoft.EntityFrameworkCore;

namespace Falzkunst.Store;

/// <summary>How many rounds a layout is searched for at most; null for as many as its effort allows. So that tests of everything else don't wait for
/// it.</summary>
public sealed record LayoutRounds(int? Most);

/// <summary>Lays a docket out in the background. Started again after a crash, it begins afresh; a finished one is left alone.</summary>
public sealed class LayoutJob(FalzkunstContext db, LaidTogether together, Drawer drawer, LayoutRounds rounds, TimeProvider clock)
{
    /// <summary>With more pieces there is no picture of the best so far: checking it would take from the time of the search.</summary>
    private const int MostShown = 400;

    /// <summary>The hash of the designs that a layout follows from, in which all papers are settled.</summary>
    /// <param name="with">The dockets that are laid out with it.</param>
    private static string MadeFrom(Guid? revisionId, int copies, IEnumerable<Docket> with) => MadeFrom(revisionId, copies, [], with);

    /// <summary>Whether a layout is of these dockets as they are now, and the sheets that it uses are still as they were. What else comes into the drawer, or
    /// is retired, changes no layout.</summary>
    public static bool IsOf(LayoutRow layout, Guid? revisionId, int copies, IReadOnlyList<Stock> stocks, params IReadOnlyList<Docket> with) =>
        layout.MadeFrom == MadeFrom(revisionId, copies, with) ? Read(layout) is not { } laid || laid.Sheets.All(sheet => IsThere(sheet, stocks))
        // Layouts of before papers were settled followed from the whole drawer.
        : layout.MadeFrom == MadeFrom(revisionId, copies, stocks, with);

    /// <summary>Why a layout is not of what the docket is now, as a sentence without its end.</summary>
    /// <inheritdoc cref="IsOf"/>
    public static string WhyNot(LayoutRow layout, Docket docket, IReadOnlyList<Stock> stocks, params IReadOnlyList<Docket> with)
    {
        if (layout.RevisionId != docket.CurrentRevisionId) return "The design changed since";
        if (layout.Copies != docket.Copies) return $"It is of {layout.Copies} {(layout.Copies == 1 ? "copy" : "copies")}, and {docket.Copies} are wanted now";
        if (Read(layout)?.Sheets.FirstOrDefault(s => !IsThere(s, stocks)) is { } gone)
            return $"The drawer has no {gone.StockName} of {gone.Size.Width.Mm:0.#} × {gone.Size.Height.Mm:0.#} mm any more, or its edges were set otherwise";
        return with.Count > 0 || layout.With.Count > 0 ? "A docket on the same sheets changed since" : "The drawer changed since";
    }

    /// <summary>Whether a sheet is one of its stock; those of one that was retired, and off-cuts, which are gone when they are used, are.</summary>
    private static bool IsThere(SheetPlan sheet, IEnumerable<Stock> stocks) => sheet.Size.IsOffCut
        || stocks.FirstOrDefault(s => s.Id == sheet.StockId) is not { } stock || stock.Sheets.Any(s => s.IsLike(sheet.Size));

    /// <summary>The hash of all the drawer's sheets.</summary>
    public static string Drawer(IEnumerable<Stock> stocks) => MadeFrom(null, 0, stocks);

    private static string MadeFrom(Guid? revisionId, int copies, IEnumerable<Stock> stocks, params IEnumerable<Docket> with)
    {
        var text = new StringBuilder().Append(revisionId).Append('|').Append(copies);
        foreach (var d in with) text.Append('+').Append(d.CurrentRevisionId).Append('|').Append(d.Copies);
        foreach (var s in stocks)
        {
            text.Append('|').Append(s.Id).Append(s.Colour.Hex);
            // How many there are, what they cost, and what is left of others changes no layout that is made.
            foreach (var q in s.Sheets.Where(q => !q.IsOffCut)) text.Append(';').Append(q with { Count = 0, Price = null });
        }

        return Convert.ToHexStringLower(SHA256.HashData(Encoding.UTF8.GetBytes(text.ToString())))[..24];
    }

    public static DocketLayout? Read(LayoutRow? row) => Read(row?.Document);

    /// <summary>A layout as it is kept; null where there is none.</summary>
    public static DocketLayout? Read(string? document) => string.IsNullOrEmpty(document) ? null : JsonSerializer.Deserialize<DocketLayout>(document);

    internal static string Write(DocketLayout layout) => JsonSerializer.Serialize(layout);

    /// <summary>The layouts of a docket that were not undone, the newest first.</summary>
    public static IQueryable<LayoutRow> Newest(FalzkunstContext db, Guid docketId) =>
        db.Layouts.AsNoTracking().Where(l => l.DocketId == docketId && !l.Undone).OrderByDescending(l => l.At).ThenByDescending(l => l.Id);

    /// <summary>Puts a layout into the queue, of the docket that it shares sheets with where it has none of its own; one that is under way is asked to
    /// stop.</summary>
    /// <param name="byName">Who asks. From here on the papers of the dockets are settled (<see cref="Stocks.Settled"/>).</param>
    /// <param name="keepsPins">Whether what is pinned stays where it lies, and what was set beside stays there.</param>
    public async Task<LayoutRow> Ask(Docket docket, string byName, IBackgroundJobClient queue, CancellationToken cancel, bool keepsPins = false)
    {
        if (await together.LeaderOf(docket, cancel) is { } leader) docket = leader;
        // The docket that had its sheets is gone, for now at least: from here on it has its own.
        else if (docket.LaidWithId is not null) await together.Leave(docket, cancel);
        var with = await together.With(docket.Id, cancel);
        var stocks = await drawer.Stocks(cancel);
        var before = (await OfNow(docket, stocks, with, cancel))?.Id;
        await together.Settle(docket, with, byName, stocks, cancel);
        await db.Layouts.Where(l => l.DocketId == docket.Id && (l.State == WorkState.Waiting || l.State == WorkState.Working))
            .ExecuteUpdateAsync(u => u.SetProperty(l => l.StopAsked, true), cancel);
        var row = RowOf(docket, with, clock.GetUtcNow());
        (row.ParentId, row.KeepsPins, row.State, row.Text) = (before, keepsPins && before is not null, WorkState.Waiting, "waiting to begin");
        row.What = before is null ? "" : keepsPins ? "Lay out the rest again" : "Lay out again";
        db.Layouts.Add(row);
        await db.SaveChangesAsync(cancel);
        queue.Enqueue<LayoutJob>(j => j.Work(row.StudioId, row.Id, CancellationToken.None));
        return row;
    }

    /// <summary>A layout of a docket as it is now, and of those with it; what it comes to is not said yet.</summary>
    internal static LayoutRow RowOf(Docket docket, List<Docket> with, DateTimeOffset now) => new()
    {
        Id = Guid.CreateVersion7(),
        StudioId = docket.StudioId,
        DocketId = docket.Id,
        RevisionId = docket.CurrentRevisionId!.Value,
        Copies = docket.Copies,
        With = with.ConvertAll(LaidTogether.ToRow),
        MadeFrom = MadeFrom(docket.CurrentRevisionId, docket.Copies, with),
        At = now,
        SeenAt = now,
    };

    /// <summary>The newest layout of a docket as it is now; null where it has none.</summary>
    private async Task<LayoutRow?> OfNow(Docket docket, IReadOnlyList<Stock> stocks, IReadOnlyList<Docket> with, CancellationToken cancel)
    {
        string[] hashes = [MadeFrom(docket.CurrentRevisionId, docket.Copies, with), MadeFrom(docket.CurrentRevisionId, docket.Copies, stocks, with)];
        return await Newest(db, docket.Id).FirstOrDefaultAsync(l => hashes.Contains(l.MadeFrom) && l.Document != "", cancel) is { } row
            && IsOf(row, docket.CurrentRevisionId, docket.Copies, stocks, with) ? row : null;
    }

    /// <summary>How many sheets each of some dockets takes by itself, as its newest layout of what it is now says; null where one has none.</summary>
    public async Task<IReadOnlyList<int>?> SheetsAlone(IEnumerable<Docket> dockets, IReadOnlyList<Stock> stocks, CancellationToken cancel)
    {
        var sheets = new List<int>();
        foreach (var docket in dockets)
        {
            if (Read(await OfNow(docket, stocks, [], cancel)) is not { Unplaced.IsEmpty: true } laid) return null;
            sheets.Add(laid.Sheets.Length);
        }

        return sheets;
    }

    [AutomaticRetry(Attempts = 2, DelaysInSeconds = [1])]
    public async Task Work(Guid studioId, Guid layoutId, CancellationToken cancel)
    {
        db.StudioId = studioId;
        var row = await db.Layouts.FirstOrDefaultAsync(l => l.Id == layoutId, cancel);
        if (row is null || row.State is WorkState.Done or WorkState.Stopped) return;
        var lots = await together.LotsOf(row, cancel);
        if ((lots is null ? "the design can't be read" : Lots.Fault(lots)) is { } why)
        {
            (row.State, row.Text) = (WorkState.Failed, why);
            await db.SaveChangesAsync(cancel);
            return;
        }

        var design = Lots.Together(lots!);
        row.State = WorkState.Working;
        await db.SaveChangesAsync(cancel);
        using var stop = CancellationTokenSource.CreateLinkedTokenSource(cancel);
        LayoutProgress? latest = null;
        DocketLayout? shown = null;
        var stocks = await drawer.Stocks(cancel);
        var kept = row.KeepsPins ? Read(await db.Layouts.AsNoTracking().FirstOrDefaultAsync(l => l.Id == row.ParentId, cancel)) : null;
        var work = Task.Run(() => SheetPlans.LayOut(design, stocks, LayoutSettings.For(row.Copies) with { Kept = kept, Rounds = rounds.Most },
            new Latest(p => latest = p), stop.Token), CancellationToken.None);
        try
        {
            while (await Task.WhenAny(work, Task.Delay(250, CancellationToken.None)) != work)
            {
                // Null where it is gone, with its docket.
                var stopAsked = await db.Layouts.Where(l => l.Id == layoutId).Select(l => (bool?)l.StopAsked).FirstOrDefaultAsync(CancellationToken.None);
                if (cancel.IsCancellationRequested || stopAsked != false) await stop.CancelAsync();
                if (latest is { } p)
                {
                    (row.Fraction, row.Text, row.Best) = (p.Fraction, p.Text, p.Best.Sheets.IsEmpty ? ""
                        : $"best so far: {p.Best.Sheets.Length} {(p.Best.Sheets.Length == 1 ? "sheet" : "sheets")}, {p.Best.Utilisation:P0} used");
                    // No sheet is shown before it was checked; what is not laid out yet is no fault of those that are.
                    if (!p.Best.Sheets.IsEmpty && p.Best != shown && (shown = p.Best).Sheets.Sum(s => s.Pieces.Length) <= MostShown
                        && LayoutCheck.SheetFaults(design, stocks, p.Best, stop.Token).IsEmpty) row.BestDocument = Write(p.Best);
                }

                row.SeenAt = clock.GetUtcNow();
                await db.SaveChangesAsync(CancellationToken.None);
            }

            var layout = await work;
            // The application is going down: the queue takes the job up again.
            cancel.ThrowIfCancellationRequested();
            (row.Fraction, row.Text, row.Best, row.BestDocument, row.SeenAt) = (1, "", "", "", clock.GetUtcNow());
            if (LayoutCheck.Faults(design, stocks, layout, cancel) is [var fault, ..] faults)
            {
                (row.State, row.Text) = (WorkState.Failed, $"What was laid out breaks a rule, so it is not shown: {fault}"
                    + (faults.Length > 1 ? $" (and {faults.Length - 1} more)" : ""));
            }
            else
            {
                (row.State, row.Document) = (stop.IsCancellationRequested ? WorkState.Stopped : WorkState.Done, Write(layout));
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
