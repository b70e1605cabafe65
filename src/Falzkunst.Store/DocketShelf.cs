using Falzkunst.Core.Cards;
using Falzkunst.Core.Files;
using Microsoft.EntityFrameworkCore;

namespace Falzkunst.Store;

/// <summary>A docket in the list.</summary>
/// <param name="Revision">What it shows; null where nothing was chosen yet.</param>
/// <param name="IsWhole">Whether the bytes of that revision are those that were written.</param>
/// <param name="DeletedAt">When it was deleted, if it was.</param>
public sealed record ShelvedDocket(int Number, string Name, int Copies, Guid? Revision, bool IsWhole, int Pieces, int Plies, int Lines, int Pictures,
    DateTimeOffset? DeletedAt);

/// <summary>Where a docket lies.</summary>
public enum ShelfPlace
{
    /// <summary>On the worktop, to be produced.</summary>
    Worktop,
    Archive,
    Deleted,
}

/// <summary>One page of the list, the newest docket first.</summary>
/// <param name="Page">From 1.</param>
/// <param name="Counts">How many dockets there are, by place.</param>
public sealed record Shelf(IReadOnlyList<ShelvedDocket> Dockets, ShelfPlace Place, int Page, IReadOnlyDictionary<ShelfPlace, int> Counts)
{
    public const int PerPage = 24;

    public int All => Counts[Place];

    public int Pages => PagesOf(All);

    internal static int PagesOf(int all) => Math.Max(1, (all + PerPage - 1) / PerPage);
}

/// <summary>
/// The list of a studio's dockets, and what is done with whole dockets. The list reads no design: what is said of one was counted when it was written, and the
/// database itself says whether its bytes are whole.
/// </summary>
public sealed class DocketShelf(FalzkunstContext db, Revisions revisions, TimeProvider clock)
{
    /// <summary>For so long what was deleted can be restored.</summary>
    public static readonly TimeSpan Kept = TimeSpan.FromDays(30);

    public async Task<string> StudioName(CancellationToken cancel = default) => await db.Studios.Where(s => s.Id == db.StudioId).Select(s => s.Name)
        .FirstOrDefaultAsync(cancel) ?? "";

    /// <param name="page">From 1; one beyond the last shows the last.</param>
    public async Task<Shelf> Of(int page, ShelfPlace place, CancellationToken cancel = default)
    {
        var counts = (await db.Database.SqlQuery<PlaceCount>($"""
            SELECT CASE WHEN "DeletedAt" IS NOT NULL THEN 2 WHEN "ArchivedAt" IS NOT NULL THEN 1 ELSE 0 END AS "Place", count(*)::int AS "Count"
            FROM "Dockets" WHERE "StudioId" = {db.StudioId} GROUP BY 1
            """).ToListAsync(cancel)).ToDictionary(c => (ShelfPlace)c.Place, c => c.Count);
        foreach (var p in Enum.GetValues<ShelfPlace>()) counts.TryAdd(p, 0);
        page = Math.Clamp(page, 1, Shelf.PagesOf(counts[place]));
        var (skip, asked) = ((page - 1) * Shelf.PerPage, (int)place);
        var dockets = await db.Database.SqlQuery<ShelvedDocket>($"""
            SELECT d."Number", d."Name", d."Copies", d."CurrentRevisionId" AS "Revision",
                   d."CurrentRevisionId" IS NULL OR (r."Id" IS NOT NULL AND (r."Schema" = 1 OR sha256(r."Document") = r."Seal")) AS "IsWhole",
                   coalesce(r."Pieces", -1) AS "Pieces", coalesce(r."Plies", 0) AS "Plies",
                   coalesce(r."Lines", 0) AS "Lines", coalesce(r."Pictures", 0) AS "Pictures", d."DeletedAt"
            FROM "Dockets" d LEFT JOIN "Revisions" r ON r."Id" = d."CurrentRevisionId"
            WHERE d."StudioId" = {db.StudioId}
              AND CASE WHEN "DeletedAt" IS NOT NULL THEN 2 WHEN "ArchivedAt" IS NOT NULL THEN 1 ELSE 0 END = {asked}
            ORDER BY d."Number" DESC LIMIT {Shelf.PerPage} OFFSET {skip}
            """).ToListAsync(cancel);
        return new(dockets, place, page, counts);
    }

    private sealed record PlaceCount(int Place, int Count);

    /// <summary>A new docket with the studio's next number, written at once. Part of the caller's transaction: until that is over, whoever comes at the same
    /// instant waits, and gets the number after it.</summary>
    public async Task<Docket> Add(string name, int copies, Guid? machineId, CancellationToken cancel = default)
    {
        if (await db.Studios.Where(s => s.Id == db.StudioId).ExecuteUpdateAsync(u => u.SetProperty(s => s.LastDocketNumber, s => s.LastDocketNumber + 1),
            cancel) == 0) throw new InvalidOperationException("A docket needs a studio.");
        var docket = new Docket
        {
            Id = Guid.CreateVersion7(),
            StudioId = db.StudioId,
            Number = await db.Studios.Where(s => s.Id == db.StudioId).Select(s => s.LastDocketNumber).FirstAsync(cancel),
            Name = name,
            Copies = copies,
            MachineId = machineId,
            CreatedAt = clock.GetUtcNow(),
            ChangedAt = clock.GetUtcNow(),
        };
        db.Dockets.Add(docket);
        await db.SaveChangesAsync(cancel);
        return docket;
    }

    /// <summary>A docket of the same card, with a history of its own that begins with it as it is now. Null where there is none of that number.</summary>
    /// <exception cref="UnreadableFileException">Its design is damaged.</exception>
    public async Task<Docket?> Copy(int number, string byName, CancellationToken cancel = default)
    {
        if (await db.Dockets.AsNoTracking().FirstOrDefaultAsync(d => d.Number == number, cancel) is not { } from) return null;
        var design = await revisions.DesignOf(from.CurrentRevisionId, cancel);
        await using var all = await db.Database.BeginTransactionAsync(cancel);
        var copy = await Add(from.Name.Length <= 70 ? from.Name + ", copy" : from.Name, from.Copies, from.MachineId, cancel);
        await db.Database.ExecuteSqlAsync($"""
            INSERT INTO "BlobUses" ("DocketId", "StudioId", "Hash")
            SELECT DISTINCT {copy.Id}, "StudioId", "Content" FROM "SourceFiles" WHERE "DocketId" = {from.Id} ON CONFLICT DO NOTHING
            """, cancel);
        foreach (var file in await db.SourceFiles.AsNoTracking().Where(f => f.DocketId == from.Id).OrderBy(f => f.At).ToListAsync(cancel))
        {
            (file.Id, file.DocketId) = (Guid.CreateVersion7(), copy.Id);
            db.SourceFiles.Add(file);
        }

        await db.SaveChangesAsync(cancel);
        if (design is not null) await revisions.Change(copy, null, null, new BringBeside(design, $"docket {number:0000}"), byName, "", cancel);
        await all.CommitAsync(cancel);
        return copy;
    }

    /// <summary>Puts a docket into the archive, or back onto the worktop.</summary>
    /// <returns>Whether there is one of that number.</returns>
    public async Task<bool> Archive(int number, bool archived, CancellationToken cancel = default)
    {
        DateTimeOffset? at = archived ? clock.GetUtcNow() : null;
        return await db.Dockets.Where(d => d.Number == number).ExecuteUpdateAsync(u => u.SetProperty(d => d.ArchivedAt, at), cancel) > 0;
    }

    /// <summary>Deletes a docket, which can be restored for a while; a layout of it that is under way is stopped.</summary>
    /// <returns>False where it has a run that is not over; then nothing was changed. Null where there is none of that number.</returns>
    public async Task<bool?> Delete(int number, CancellationToken cancel = default)
    {
        DateTimeOffset? now = clock.GetUtcNow();
        if (await db.Dockets.Where(d => d.Number == number).Select(d => (Guid?)d.Id).FirstOrDefaultAsync(cancel) is not { } id) return null;
        await using var all = await db.Database.BeginTransactionAsync(cancel);
        // From here on nobody begins a run of it (Runs.Start holds the same row).
        if (await db.Dockets.Where(d => d.Id == id).ExecuteUpdateAsync(u => u.SetProperty(d => d.DeletedAt, now), cancel) == 0) return null;
        if (await db.Runs.AnyAsync(r => r.DocketId == id && RunRow.Active.Contains(r.State), cancel)) return false;
        await db.Layouts.Where(l => l.DocketId == id).ExecuteUpdateAsync(u => u.SetProperty(l => l.StopAsked, true), cancel);
        await all.CommitAsync(cancel);
        return true;
    }

    /// <summary>Puts a deleted docket back to where it lay.</summary>
    /// <returns>Whether there is a deleted one of that number.</returns>
    public async Task<bool> Restore(int number, CancellationToken cancel = default) => await db.Dockets.IgnoreQueryFilters()
        .Where(d => d.StudioId == db.StudioId && d.Number == number && d.DeletedAt != null)
        .ExecuteUpdateAsync(u => u.SetProperty(d => d.DeletedAt, (DateTimeOffset?)null), cancel) > 0;

    /// <summary>Throws away, in all studios, what was deleted more than <see cref="Kept"/> ago, and links that have ended.</summary>
    /// <returns>How many dockets.</returns>
    public async Task<int> ThrowAway(CancellationToken cancel = default)
    {
        var now = clock.GetUtcNow();
        var before = now - Kept;
        await db.EntryLinks.IgnoreQueryFilters().Where(e => e.EndsAt < now).ExecuteDeleteAsync(cancel);
        return await db.Dockets.IgnoreQueryFilters().Where(d => d.DeletedAt < before).ExecuteDeleteAsync(cancel);
    }
}
