using Falzkunst.Core.Documents;
using Microsoft.EntityFrameworkCore;

namespace Falzkunst.Store;

/// <summary>Bytes by content. What a docket refers to is written down once, and goes with the docket; what nothing refers to is collected.</summary>
public sealed class Blobs(FalzkunstContext db, TimeProvider clock)
{
    /// <summary>For so long nothing is taken for waste: a change may be under way that refers to it.</summary>
    private static readonly TimeSpan Young = TimeSpan.FromHours(1);

    /// <summary>Keeps bytes for a docket; those that are there already are kept once. Part of the caller's transaction where there is one.</summary>
    public async Task Keep(Guid studioId, Guid docketId, IReadOnlyList<(string Hash, ReadOnlyMemory<byte> Bytes)> blobs, CancellationToken cancel = default)
    {
        if (blobs.Count == 0) return;
        var now = clock.GetUtcNow();
        var hashes = blobs.Select(b => b.Hash).ToArray();
        // Bytes that are there are not sent once more; touching them keeps the collector away until this change is done.
        var known = (await db.Database.SqlQuery<string>($"""
            UPDATE "Blobs" SET "At" = {now} WHERE "StudioId" = {studioId} AND "Hash" = ANY({hashes}) RETURNING "Hash" AS "Value"
            """).ToListAsync(cancel)).ToHashSet(StringComparer.Ordinal);
        // In one order everywhere, so that two who write the same wait for one another instead of forever.
        var fresh = blobs.Where(b => !known.Contains(b.Hash)).DistinctBy(b => b.Hash).OrderBy(b => b.Hash, StringComparer.Ordinal).ToList();
        foreach (var some in fresh.Chunk(200))
        {
            var names = some.Select(b => b.Hash).ToArray();
            var bytes = some.Select(b => b.Bytes.ToArray()).ToArray();
            await db.Database.ExecuteSqlAsync($"""
                INSERT INTO "Blobs" ("StudioId", "Hash", "Bytes", "At") SELECT {studioId}, h, b, {now} FROM unnest({names}, {bytes}) AS t(h, b)
                ON CONFLICT ("StudioId", "Hash") DO UPDATE SET "At" = EXCLUDED."At"
                """, cancel);
        }

        await db.Database.ExecuteSqlAsync($"""
            INSERT INTO "BlobUses" ("DocketId", "StudioId", "Hash") SELECT {docketId}, {studioId}, h FROM unnest({hashes}) AS h ON CONFLICT DO NOTHING
            """, cancel);
    }

    public async Task<string> KeepFile(Guid studioId, Guid docketId, byte[] bytes, CancellationToken cancel = default)
    {
        var hash = DesignDocument.HashOf(bytes);
        await Keep(studioId, docketId, [(hash, bytes)], cancel);
        return hash;
    }

    public async Task<Dictionary<string, byte[]>> Of(IReadOnlyCollection<string> hashes, CancellationToken cancel = default) =>
        hashes.Count == 0 ? [] : await db.Blobs.AsNoTracking().Where(b => hashes.Contains(b.Hash))
            .ToDictionaryAsync(b => b.Hash, b => b.Bytes, StringComparer.Ordinal, cancel);

    public async Task<byte[]?> Of(string hash, CancellationToken cancel = default) => await db.Blobs.AsNoTracking().Where(b => b.Hash == hash)
        .Select(b => b.Bytes).FirstOrDefaultAsync(cancel);

    /// <summary>Deletes, in all studios, what no docket refers to and is not young.</summary>
    /// <returns>How many.</returns>
    public Task<int> Collect(CancellationToken cancel = default)
    {
        var before = clock.GetUtcNow() - Young;
        return db.Database.ExecuteSqlAsync($"""
            DELETE FROM "Blobs" b WHERE b."At" < {before} AND NOT EXISTS (SELECT 1 FROM "BlobUses" u WHERE u."StudioId" = b."StudioId" AND u."Hash" = b."Hash")
            """, cancel);
    }
}
