using Falzkunst.Core.Cards;
using Falzkunst.Core.Documents;
using Falzkunst.Core.Files;
using Microsoft.EntityFrameworkCore;

namespace Falzkunst.Store;

/// <summary>Something on the studio's shelf.</summary>
public sealed record KeptThing(Guid Id, string Name, double WidthMm, double HeightMm, int Pieces);

/// <summary>The studio's shelf: pieces, bases and designs under a name, at their true size.</summary>
public sealed class KeptThings(FalzkunstContext db, TimeProvider clock)
{
    /// <summary>More are found by typing.</summary>
    public const int Shown = 24;

    private const int LongestName = 60, LargestBytes = 20_000_000;

    /// <summary>The newest whose names have all words of a text in them.</summary>
    /// <param name="tiles">Whether tiles to fill pieces with are looked for; otherwise all that is none.</param>
    public async Task<IReadOnlyList<KeptThing>> Find(string text, bool tiles = false, CancellationToken cancel = default)
    {
        var found = db.Kept.AsNoTracking().Where(k => k.DeletedAt == null && k.IsTile == tiles);
        foreach (var word in text.Split(' ', StringSplitOptions.RemoveEmptyEntries).Take(8))
        {
            var pattern = $"%{word.Replace("\\", "\\\\", StringComparison.Ordinal).Replace("%", "\\%", StringComparison.Ordinal)
                .Replace("_", "\\_", StringComparison.Ordinal)}%";
            found = found.Where(k => EF.Functions.ILike(k.Name, pattern, "\\"));
        }

        return await found.OrderByDescending(k => k.At).Take(Shown).Select(k => new KeptThing(k.Id, k.Name, k.WidthMm, k.HeightMm, k.Pieces))
            .ToListAsync(cancel);
    }

    /// <summary>Keeps a picture or pattern that fills a piece, as a design of one tile; the sentence says why it is not kept.</summary>
    public Task<string?> KeepTile(Artwork fill, string name, CancellationToken cancel = default)
    {
        var (width, height) = (fill.TileWidth, fill.TileHeight);
        var tile = new AddPiece(new Drawn(VectorPath.Rectangle(0, 0, width.Mm, height.Mm)), Place.Own, "Tile").Apply(Design.Blank(width, height));
        return Keep(new FillWith([tile.Pieces[0].Id], fill.Pattern, fill.Picture, true, width).Apply(tile), name, true, cancel);
    }

    /// <summary>Keeps a design; the sentence says why it is not kept.</summary>
    public Task<string?> Keep(Design design, string name, CancellationToken cancel = default) => Keep(design, name, false, cancel);

    private async Task<string?> Keep(Design design, string name, bool isTile, CancellationToken cancel)
    {
        name = name.Trim();
        if (name.Length is 0 or > LongestName) return $"A name has 1 to {LongestName} letters.";
        if (design.Pieces.IsEmpty && design.Loose.IsEmpty) return "There is nothing to keep.";
        var document = Packed.Pack(FalzFile.Write(design), null);
        if (document.Length > LargestBytes) return "That is too large for the shelf (20 MB packed). Keep a part of it.";
        var box = design.Extent;
        db.Kept.Add(new()
        {
            Id = Guid.CreateVersion7(),
            StudioId = db.StudioId,
            Name = name,
            Document = document,
            WidthMm = box.Width,
            HeightMm = box.Height,
            Pieces = design.Pieces.Length,
            At = clock.GetUtcNow(),
            IsTile = isTile,
        });
        await db.SaveChangesAsync(cancel);
        return null;
    }

    /// <summary>What was kept; null where it is not there.</summary>
    /// <exception cref="UnreadableFileException">It is damaged.</exception>
    public async Task<(string Name, Design Design)?> Take(Guid id, CancellationToken cancel = default) =>
        await db.Kept.AsNoTracking().FirstOrDefaultAsync(k => k.Id == id, cancel) is { } row ? (row.Name, FalzFile.Read(FileOf(row))) : null;

    /// <summary>The bytes of a file of our own, as it can be brought in anywhere.</summary>
    public static byte[] FileOf(KeptRow row) => Packed.Unpack(row.Document, null);

    /// <summary>Takes something off the shelf, or puts it back; its name, or null where it is not there.</summary>
    public async Task<string?> Off(Guid id, bool isOff, CancellationToken cancel = default)
    {
        DateTimeOffset? at = isOff ? clock.GetUtcNow() : null;
        await db.Kept.Where(k => k.Id == id).ExecuteUpdateAsync(u => u.SetProperty(k => k.DeletedAt, at), cancel);
        return await db.Kept.Where(k => k.Id == id).Select(k => k.Name).FirstOrDefaultAsync(cancel);
    }
}
