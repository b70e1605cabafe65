using Falzkunst.Core.Cards;
using Falzkunst.Core.Files;
using Microsoft.EntityFrameworkCore;
using Microsoft.Extensions.Caching.Memory;

namespace Falzkunst.Store;

/// <summary>A docket that could be laid out with another.</summary>
/// <param name="Pieces">How many pieces of it, of all copies, are of stocks that the other takes too, by the name of the stock.</param>
/// <param name="Why">Why it can't be, as a sentence; null where it can.</param>
public sealed record Companion(Docket Docket, IReadOnlyList<(string Stock, int Pieces)> Pieces, bool IsWith, string? Why);

/// <summary>
/// Dockets that are laid out together since they share stocks. One has the sheets: it is laid out, printed and run; the others name it, and their pieces go on
/// its sheets. A docket that is in the archive, or deleted, neither has nor takes part.
/// </summary>
public sealed class LaidTogether(FalzkunstContext db, Revisions revisions, IMemoryCache memory)
{
    /// <summary>Of a long worktop, only those that were changed last are offered.</summary>
    private const int MostOffered = 40;

    /// <summary>The dockets whose pieces go on the sheets of one, by their numbers.</summary>
    public Task<List<Docket>> With(Guid docketId, CancellationToken cancel) => OnWorktop.Where(d => d.LaidWithId == docketId).OrderBy(d => d.Number)
        .ToListAsync(cancel);

    /// <summary>The docket on whose sheets the pieces of this one go; null where it has its own.</summary>
    public async Task<Docket?> LeaderOf(Docket docket, CancellationToken cancel) => docket is { LaidWithId: { } id, ArchivedAt: null }
        ? await OnWorktop.FirstOrDefaultAsync(d => d.Id == id, cancel) : null;

    /// <summary>What a layout was made of, its own docket first; null where one of the designs is gone, or can't be read.</summary>
    public async Task<IReadOnlyList<Lot>?> LotsOf(LayoutRow row, CancellationToken cancel)
    {
        var number = row.With.Count == 0 ? 0 : await db.Dockets.IgnoreQueryFilters().Where(d => d.Id == row.DocketId).Select(d => d.Number)
            .FirstOrDefaultAsync(cancel);
        return await LotsOf(All(row, number), cancel);
    }

    /// <summary>The design that a layout was made of: that of its docket, or those of all its dockets in one. Null where one of them is gone, or can't be
    /// read.</summary>
    public Task<Design?> DesignOf(LayoutRow row, CancellationToken cancel) =>
        Joined(All(row, 0), cancel);

    /// <summary>The design that a docket and those that are with it come to now; null where one of them is gone, or can't be read.</summary>
    public Task<Design?> DesignNow(Docket docket, IReadOnlyList<Docket> with, CancellationToken cancel) =>
        Joined(All(docket, with), cancel);

    /// <summary>The dockets on the worktop that take a stock that this one takes too, or are with it already; by their numbers.</summary>
    public async Task<IReadOnlyList<Companion>> Companions(Docket docket, Design design, IReadOnlyList<Stock> drawer, CancellationToken cancel)
    {
        var mine = ByStock(design, docket.Copies, drawer).Select(s => s.Stock).ToHashSet();
        var others = await OnWorktop.Where(d => d.Id != docket.Id).OrderByDescending(d => d.LaidWithId == docket.Id).ThenByDescending(d => d.ChangedAt)
            .Take(MostOffered).ToListAsync(cancel);
        var found = new List<Companion>();
        foreach (var other in others.OrderBy(d => d.Number))
        {
            if (await LotsOf([(other.Number, other.CurrentRevisionId, other.Copies)], cancel) is not [var lot]) continue;
            var shared = ByStock(lot.Design, lot.Copies, drawer).Where(s => mine.Contains(s.Stock)).ToList();
            var isWith = other.LaidWithId == docket.Id;
            if (shared.Count == 0 && !isWith) continue;
            var why = isWith ? null : await Engaged(other, cancel) ?? AskedOf(lot, drawer) ?? Lots.Fault([new(docket.Number, design, docket.Copies), lot]);
            found.Add(new(other, shared, isWith, why));
        }

        return found;
    }

    /// <summary>Says which dockets' pieces go on the sheets of one, and no others.</summary>
    /// <returns>Why not, as a sentence; null where it was done.</returns>
    public async Task<string?> Set(Docket docket, IReadOnlyCollection<int> numbers, IReadOnlyList<Stock> drawer, CancellationToken cancel)
    {
        await using var all = await db.Database.BeginTransactionAsync(cancel);
        // One at a time, so that no two dockets end up on each other's sheets.
        await db.Database.SqlQuery<Guid>($"""SELECT "Id" AS "Value" FROM "Studios" WHERE "Id" = {docket.StudioId} FOR UPDATE""").ToListAsync(cancel);
        if (await LeaderOf(docket, cancel) is { } leader) return $"This docket is laid out with docket {leader.Number}: choose there what else is.";
        var others = await OnWorktop.Where(d => numbers.Contains(d.Number) && d.Id != docket.Id).OrderBy(d => d.Number).ToListAsync(cancel);
        if (numbers.FirstOrDefault(n => others.TrueForAll(d => d.Number != n)) is > 0 and var gone)
            return $"Docket {gone} is not on the worktop any more. Nothing was changed.";
        foreach (var other in others.Where(d => d.LaidWithId != docket.Id))
            if (await Engaged(other, cancel) is { } why) return why;
        if (await Fault(docket, others, drawer, cancel) is { } fault) return fault;
        var ids = others.ConvertAll(d => d.Id);
        await db.Dockets.Where(d => d.LaidWithId == docket.Id && !ids.Contains(d.Id)).ExecuteUpdateAsync(u => u.SetProperty(d => d.LaidWithId, (Guid?)null),
            cancel);
        await db.Dockets.Where(d => ids.Contains(d.Id)).ExecuteUpdateAsync(u => u.SetProperty(d => d.LaidWithId, docket.Id), cancel);
        if (ids.Count > 0)
        {
            // What is in the archive, or deleted, and comes back finds that it has changed sides in the meantime.
            await db.Dockets.IgnoreQueryFilters().Where(d => d.Id == docket.Id || ids.Contains(d.LaidWithId!.Value))
                .ExecuteUpdateAsync(u => u.SetProperty(d => d.LaidWithId, (Guid?)null), cancel);
        }

        await all.CommitAsync(cancel);
        return null;
    }

    /// <summary>Why a docket can't be laid out with others as all of them are now, as a sentence; null where it can.</summary>
    public async Task<string?> Fault(Docket docket, IReadOnlyList<Docket> with, IReadOnlyList<Stock> drawer, CancellationToken cancel) =>
        with.Count == 0 ? null : await LotsOf(All(docket, with), cancel) is not { } lots ? "One of these dockets can't be read: look at each of them first."
            : Lots.Fault(lots) ?? lots.Skip(1).Select(l => AskedOf(l, drawer)).FirstOrDefault(f => f is not null);

    private static IEnumerable<(int Number, Guid? Revision, int Copies)> All(Docket docket, IEnumerable<Docket> with) =>
        with.Prepend(docket).Select(d => (d.Number, d.CurrentRevisionId, d.Copies));

    private static IEnumerable<(int Number, Guid? Revision, int Copies)> All(LayoutRow row, int number) =>
        row.With.Select(w => (w.Number, (Guid?)w.RevisionId, w.Copies)).Prepend((number, row.RevisionId, row.Copies));

    /// <summary>Settles the papers of a docket and of those with it. One that can't be read, or that somebody changes meanwhile, is left as it is.</summary>
    internal async Task Settle(Docket docket, IEnumerable<Docket> with, string byName, IReadOnlyList<Stock> stocks, CancellationToken cancel)
    {
        foreach (var of in with.Prepend(docket)) await Settle(of, byName, stocks, cancel);
    }

    private async Task Settle(Docket docket, string byName, IReadOnlyList<Stock> stocks, CancellationToken cancel)
    {
        try
        {
            if (await revisions.DesignOf(docket.CurrentRevisionId, cancel) is { } design && Stocks.Settled(design, stocks) is { } edit)
                await revisions.Change(docket, docket.CurrentRevisionId, design, edit, byName, "", cancel);
        }
        catch (UnreadableFileException)
        {
            // The layout says so.
        }
    }

    /// <summary>Gives a docket sheets of its own again.</summary>
    public Task Leave(Docket docket, CancellationToken cancel) =>
        db.Dockets.Where(d => d.Id == docket.Id).ExecuteUpdateAsync(u => u.SetProperty(d => d.LaidWithId, (Guid?)null), cancel);

    internal static LaidDocket ToRow(Docket d) => new() { DocketId = d.Id, Number = d.Number, RevisionId = d.CurrentRevisionId!.Value, Copies = d.Copies };

    /// <summary>The dockets that can have sheets, or go on those of another.</summary>
    internal static IQueryable<Docket> WithDesigns(FalzkunstContext db) =>
        db.Dockets.AsNoTracking().Where(d => d.ArchivedAt == null && d.CurrentRevisionId != null);

    private IQueryable<Docket> OnWorktop => WithDesigns(db);

    /// <summary>Why a docket is not free to go on another's sheets, as a sentence; null where it is.</summary>
    private async Task<string?> Engaged(Docket other, CancellationToken cancel) =>
        await LeaderOf(other, cancel) is { } leader ? $"Docket {other.Number} is laid out with docket {leader.Number} already."
        : await With(other.Id, cancel) is { Count: > 0 } its ? $"Docket {other.Number} has the sheets of docket {its[0].Number} already: choose there."
        : await db.Runs.AnyAsync(r => r.DocketId == other.Id && RunRow.Active.Contains(r.State), cancel)
            ? $"A sheet of docket {other.Number} is on the machine. Wait until it is done." : null;

    private static string? AskedOf(Lot lot, IReadOnlyList<Stock> drawer) => Stocks.Asked(lot.Design, drawer).Any()
        ? $"Docket {lot.Docket} has pieces that no paper in the drawer suits. Lay it out by itself once, or choose their paper under Build." : null;

    private static IEnumerable<(string Stock, int Pieces)> ByStock(Design design, int copies, IReadOnlyList<Stock> drawer) =>
        design.Papers.GroupBy(p => Stocks.For(p, drawer)).Where(g => g.Key is not null).Select(g => (g.Key!.Name, g.Sum(p => p.NumberFor(copies))));

    private async Task<IReadOnlyList<Lot>?> LotsOf(IEnumerable<(int Number, Guid? Revision, int Copies)> of, CancellationToken cancel)
    {
        var lots = new List<Lot>();
        try
        {
            foreach (var (number, revision, copies) in of)
            {
                if (await revisions.DesignOf(revision, cancel) is not { } design) return null;
                lots.Add(new(number, design, copies));
            }
        }
        catch (UnreadableFileException)
        {
            return null;
        }

        return lots;
    }

    /// <summary>Made once, so that what follows from a design is found once too.</summary>
    private async Task<Design?> Joined(IEnumerable<(int Number, Guid? Revision, int Copies)> of, CancellationToken cancel)
    {
        // Of the first, number and copies change nothing in the design.
        var key = (nameof(LaidTogether), string.Join('|', of.Select((d, i) => i == 0 ? $"{d.Revision}" : $"{d.Number} {d.Revision} {d.Copies}")), db.StudioId);
        if (memory.TryGetValue(key, out Design? known)) return known;
        if (await LotsOf(of, cancel) is not { } lots) return null;
        // A design alone is known by its revision already.
        return lots is [var only] ? only.Design : memory.Set(key, Lots.Together(lots),
            new MemoryCacheEntryOptions { Size = 500_000L * lots.Count, SlidingExpiration = TimeSpan.FromMinutes(20) });
    }
}
