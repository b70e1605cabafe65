using Falzkunst.Core.Cards;
using Falzkunst.Core.Reading;
using Falzkunst.Store;

namespace Falzkunst.Web;

/// <summary>Takes in files that people bring: keeps the original, and makes the docket's first revision of it.</summary>
public sealed class Incoming(FalzkunstContext db, Revisions revisions, TimeProvider clock)
{
    /// <summary>Makes a new docket of a file. The sentence says why not, and then nothing was written.</summary>
    public async Task<(Docket? Docket, string Problem)> NewDocket(string fileName, byte[] bytes, string byName, CancellationToken cancel, string? name = null, int copies = 1)
    {
        var (design, problem) = Read(fileName, bytes, cancel);
        if (design is null) return (null, problem);
        var studio = await db.Studios.FindAsync([db.StudioId], cancel) ?? throw new InvalidOperationException("A docket needs a studio.");
        var docket = new Docket
        {
            Id = Guid.CreateVersion7(),
            StudioId = db.StudioId,
            Number = ++studio.LastDocketNumber,
            Name = name ?? NameOf(fileName),
            Copies = copies,
            MachineId = db.Machines.OrderBy(m => m.Place).Select(m => (Guid?)m.Id).FirstOrDefault(),
            CreatedAt = clock.GetUtcNow(),
        };
        db.Dockets.Add(docket);
        Keep(docket, fileName, bytes);
        await revisions.Change(docket, null, design, $"Bring in {fileName}", byName, cancel);
        return (docket, "");
    }

    /// <summary>Reads a file; on failure the sentence for the person who brought it.</summary>
    public static (Design? Design, string Problem) Read(string fileName, byte[] bytes, CancellationToken cancel)
    {
        try
        {
            var design = DesignReader.Read(bytes, null, cancel);
            return design.Pieces.IsEmpty && design.Lines.IsEmpty && design.Artwork.IsEmpty
                ? (null, $"“{fileName}” was not brought in: it holds nothing that can be seen.")
                : (design, "");
        }
        catch (UnreadableFileException e)
        {
            return (null, $"“{fileName}” was not brought in: {e.Message}.");
        }
    }

    private void Keep(Docket docket, string fileName, byte[] bytes) => db.SourceFiles.Add(new()
    {
        Id = Guid.CreateVersion7(),
        StudioId = docket.StudioId,
        DocketId = docket.Id,
        Name = fileName,
        MediaType = fileName.EndsWith(".json", StringComparison.OrdinalIgnoreCase) ? "application/json" : "image/svg+xml",
        Bytes = bytes,
        At = clock.GetUtcNow(),
    });

    private static string NameOf(string fileName)
    {
        var name = Path.GetFileName(fileName);
        foreach (var ending in new[] { ".falz.json", ".svg", ".json" })
            if (name.EndsWith(ending, StringComparison.OrdinalIgnoreCase)) name = name[..^ending.Length];
        name = name.Replace('-', ' ').Replace('_', ' ').Trim();
        if (name.Length == 0) name = "Untitled";
        return char.ToUpperInvariant(name[0]) + name[1..Math.Min(name.Length, 80)];
    }
}
