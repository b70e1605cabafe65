using Microsoft.EntityFrameworkCore;

namespace Falzkunst.Store;

/// <summary>A docket in the list.</summary>
/// <param name="Revision">What it shows; null where nothing was chosen yet.</param>
/// <param name="IsWhole">Whether the bytes of that revision are those that were written.</param>
public sealed record ShelvedDocket(int Number, string Name, int Copies, Guid? Revision, bool IsWhole, int Pieces, int Plies, int Lines, int Pictures);

/// <summary>One page of the list, the dockets in the order of their numbers.</summary>
/// <param name="All">How many dockets there are.</param>
/// <param name="Page">From 1.</param>
public sealed record Shelf(IReadOnlyList<ShelvedDocket> Dockets, int All, int Page)
{
    public const int PerPage = 24;

    public int Pages => PagesOf(All);

    internal static int PagesOf(int all) => Math.Max(1, (all + PerPage - 1) / PerPage);
}

/// <summary>The list of a studio's dockets. It reads no design: what is said of one was counted when it was written, and the database itself says whether its
/// bytes are whole.</summary>
public sealed class DocketShelf(FalzkunstContext db)
{
    public async Task<string> StudioName(CancellationToken cancel = default) => await db.Studios.Where(s => s.Id == db.StudioId).Select(s => s.Name)
        .FirstOrDefaultAsync(cancel) ?? "";

    /// <param name="page">From 1; one beyond the last shows the last.</param>
    public async Task<Shelf> Of(int page, CancellationToken cancel = default)
    {
        var all = await db.Dockets.CountAsync(cancel);
        page = Math.Clamp(page, 1, Shelf.PagesOf(all));
        var skip = (page - 1) * Shelf.PerPage;
        var dockets = await db.Database.SqlQuery<ShelvedDocket>($"""
            SELECT d."Number", d."Name", d."Copies", d."CurrentRevisionId" AS "Revision",
                   d."CurrentRevisionId" IS NULL OR (r."Id" IS NOT NULL AND (r."Schema" = 1 OR sha256(r."Document") = r."Seal")) AS "IsWhole",
                   coalesce(r."Pieces", -1) AS "Pieces", coalesce(r."Plies", 0) AS "Plies",
                   coalesce(r."Lines", 0) AS "Lines", coalesce(r."Pictures", 0) AS "Pictures"
            FROM "Dockets" d LEFT JOIN "Revisions" r ON r."Id" = d."CurrentRevisionId"
            WHERE d."StudioId" = {db.StudioId} ORDER BY d."Number" LIMIT {Shelf.PerPage} OFFSET {skip}
            """).ToListAsync(cancel);
        return new(dockets, all, page);
    }
}
