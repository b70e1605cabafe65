using Falzkunst.Core.Cards;
using Falzkunst.Core.Documents;
using Falzkunst.Core.Files;
using Falzkunst.Core.Pictures;
using Falzkunst.Core.Reading;
using Falzkunst.Core.Tracing;
using Falzkunst.Core.Writing;
using Falzkunst.Store;
using Microsoft.EntityFrameworkCore;
using Microsoft.Extensions.Caching.Memory;

namespace Falzkunst.Web;

/// <summary>A file that somebody brings, with the folder that it came in, on a disk or in an archive; empty where it came alone.</summary>
public sealed record BroughtFile(string Name, byte[] Bytes, string Folder = "");

/// <summary>A picture that a docket was traced from.</summary>
/// <param name="File">The file that was brought.</param>
/// <param name="SourceId">What the design calls it.</param>
/// <param name="Scale">How large it is now.</param>
public sealed record TracedPicture(Guid File, string SourceId, string Name, TracingFacts Tracing, ScaleFacts Scale);

/// <summary>Takes in files that people bring: keeps the originals, and makes designs of them.</summary>
public sealed class Incoming(FalzkunstContext db, DocketShelf dockets, Revisions revisions, Blobs blobs, TimeProvider clock, IMemoryCache shelf)
{
    /// <summary>
    /// Makes a new docket of files; several are placed beside one another. An archive of several files makes a docket that waits for a choice. The sentence
    /// says what
    /// was not brought in and why; without a docket nothing was written.
    /// </summary>
    public async Task<(Docket? Docket, string Problem)> NewDocket(IReadOnlyList<BroughtFile> files, string byName, CancellationToken cancel,
        string? name = null, int copies = 1)
    {
        var (design, kept, problem) = await Gather(files, cancel);
        if (kept.Count == 0) return (null, problem);
        await using var transaction = db.Database.CurrentTransaction is null ? await db.Database.BeginTransactionAsync(cancel) : null;
        var machine = await db.Machines.OrderBy(m => m.Place).Select(m => (Guid?)m.Id).FirstOrDefaultAsync(cancel);
        var docket = await dockets.Add(name ?? NameOf(kept[0].Name), copies, machine, cancel);
        foreach (var file in kept) await Keep(docket, file, cancel);
        if (design is null) await db.SaveChangesAsync(cancel);
        else if ((await revisions.Change(docket, null, null, new BringBeside(design, Named(kept)), byName, "", cancel)).Outcome != ChangeOutcome.Done)
            return (null, $"{Named(kept)} holds together badly and was not brought in.");
        if (transaction is not null) await transaction.CommitAsync(cancel);
        return (docket, problem);
    }

    /// <summary>A docket without files: with a card base, or an empty page.</summary>
    public async Task<Docket> Begin(Begin with, string name, string byName, CancellationToken cancel)
    {
        await using var transaction = await db.Database.BeginTransactionAsync(cancel);
        var machine = await db.Machines.OrderBy(m => m.Place).Select(m => (Guid?)m.Id).FirstOrDefaultAsync(cancel);
        var docket = await dockets.Add(name, 1, machine, cancel);
        await revisions.Change(docket, null, null, with, byName, "", cancel);
        await transaction.CommitAsync(cancel);
        return docket;
    }

    /// <summary>Adds files to a docket, beside what is there.</summary>
    public async Task<(ChangeOutcome Outcome, string Problem)> Add(Docket docket, Guid? basedOn, IReadOnlyList<BroughtFile> files, bool keep, string byName,
        CancellationToken cancel)
    {
        var (fresh, brought, problem) = await Gather(files, cancel);
        await using var transaction = await db.Database.BeginTransactionAsync(cancel);
        // Archives stay with the docket, and what is in them can be chosen there.
        var taken = brought.FindAll(f => !Archive.IsZip(f.Bytes));
        foreach (var file in keep ? brought : brought.Except(taken)) await Keep(docket, file, cancel);
        var outcome = ChangeOutcome.Done;
        if (fresh is null) await db.SaveChangesAsync(cancel);
        else outcome = (await revisions
            .Change(docket, basedOn, await revisions.DesignOf(docket.CurrentRevisionId, cancel), new BringBeside(fresh, Named(taken)), byName, "",
            cancel)).Outcome;
        if (outcome == ChangeOutcome.Done) await transaction.CommitAsync(cancel);
        return (outcome, problem);
    }

    /// <summary>Traces a picture anew. The sentence says why not.</summary>
    public async Task<(Design? Design, string Problem)> Retrace(TracedPicture picture, TraceSettings settings, CancellationToken cancel)
    {
        try
        {
            return (PictureDesign.Read(await BytesOf(picture.File, cancel), settings, ReadingLimits.Default, cancel), "");
        }
        catch (UnreadableFileException e)
        {
            return (null, NotTraced(e));
        }
    }

    /// <summary>Why a picture was not traced, for whoever wanted it.</summary>
    public static string NotTraced(UnreadableFileException why) => $"It was not traced: {why.Message}. Nothing was changed.";

    /// <summary>The pictures that the docket was traced from, and how; without those whose file is not with the docket.</summary>
    public async Task<IReadOnlyList<TracedPicture>> PicturesOf(Docket docket, Design? design, CancellationToken cancel)
    {
        var sources = design?.Sources.Where(s => s.Tracing is not null).ToList() ?? [];
        if (sources.Count == 0) return [];
        var files = await db.SourceFiles.Where(f => f.DocketId == docket.Id && f.MediaType.StartsWith("image/") && f.MediaType != "image/svg+xml")
            .OrderBy(f => f.At).Select(f => new { f.Id, f.Content }).ToListAsync(cancel);
        // Dockets of earlier versions do not say which file a source was; the only picture is it.
        return [.. sources.Select(s => (Source: s, File: s.Content is { } content ? files.Find(f => f.Content == content) : files.Count == 1 ? files[0] : null))
            .Where(p => p.File is not null)
            .Select(p => new TracedPicture(p.File!.Id, p.Source.Id, p.Source.Name, p.Source.Tracing!, design!.ScaleOf(p.Source)))];
    }

    /// <summary>One of the pictures that the docket was traced from; the last where none, or one that is gone, is asked for.</summary>
    public async Task<TracedPicture?> PictureOf(Docket docket, Design? design, string? sourceId, CancellationToken cancel) =>
        OneOf(await PicturesOf(docket, design, cancel), sourceId);

    /// <inheritdoc cref="PictureOf"/>
    public static TracedPicture? OneOf(IReadOnlyList<TracedPicture> pictures, string? sourceId) =>
        pictures.FirstOrDefault(p => p.SourceId == sourceId) ?? (pictures.Count > 0 ? pictures[^1] : null);

    /// <exception cref="UnreadableFileException">The file's bytes are gone.</exception>
    public async Task<byte[]> BytesOf(Guid file, CancellationToken cancel) =>
        await db.SourceFiles.Where(f => f.Id == file).Join(db.Blobs, f => f.Content, b => b.Hash, (f, b) => b.Bytes).FirstOrDefaultAsync(cancel)
            ?? throw new UnreadableFileException("its bytes are gone");

    /// <summary>The names in archives, by the archive; kept for a while, since an archive never changes and may be large.</summary>
    public async Task<Dictionary<Guid, IReadOnlyList<string>>> NamesIn(IReadOnlyCollection<Guid> archives, CancellationToken cancel)
    {
        var names = archives.ToDictionary(a => a, a => shelf.Get<IReadOnlyList<string>>(("names", a)));
        var unknown = names.Where(n => n.Value is null).Select(n => n.Key).ToList();
        if (unknown.Count > 0)
        {
            var read = await db.SourceFiles.Where(f => unknown.Contains(f.Id)).Join(db.Blobs, f => f.Content, b => b.Hash, (f, b) => new { f.Id, b.Bytes })
                .ToListAsync(cancel);
            foreach (var zip in read)
            {
                names[zip.Id] = shelf.Set(("names", zip.Id), Archive.Names(zip.Bytes),
                    new MemoryCacheEntryOptions { Size = 10_000, SlidingExpiration = TimeSpan.FromMinutes(10) });
            }
        }

        return names.Where(n => n.Value is not null).ToDictionary(n => n.Key, n => n.Value!);
    }

    /// <summary>The picture of a file, decoded and halved until a preview of it is traced at once; kept for a while.</summary>
    /// <exception cref="UnreadableFileException">The picture is damaged.</exception>
    public async Task<(Raster Small, int Width, int Height)> SmallPicture(Guid file, CancellationToken cancel)
    {
        const int PreviewPixels = 400_000;
        if (shelf.TryGetValue(file, out (Raster, int, int) kept)) return kept;
        var picture = Raster.Read(await BytesOf(file, cancel), ReadingLimits.Default, PreviewPixels);
        var (width, height) = (picture.Width << picture.Halvings, picture.Height << picture.Halvings);
        while (picture.Width * picture.Height > PreviewPixels) picture = picture.Halved();
        return shelf.Set(file, (picture, width, height),
            new MemoryCacheEntryOptions { Size = picture.Rgba.Length, SlidingExpiration = TimeSpan.FromMinutes(10) });
    }

    /// <summary>Reads a file; on failure the sentence for the person who brought it.</summary>
    public static (Design? Design, string Problem) Read(string fileName, byte[] bytes, CancellationToken cancel)
    {
        try
        {
            var design = DesignReader.Read(bytes, null, cancel);
            if (design.Pieces.IsEmpty && design.Lines.IsEmpty
                && design.Artwork.IsEmpty) return (null, $"“{fileName}” was not brought in: it holds nothing that can be seen.");
            return design.Check() is { } fault ? (null, $"“{fileName}” was not brought in: {fault}.") : (design, "");
        }
        catch (UnreadableFileException e)
        {
            return (null, $"“{fileName}” was not brought in: {e.Message}.");
        }
    }

    /// <summary>Reads files and places them beside one another; archives that somebody has to choose from are only kept.</summary>
    private async Task<(Design? Design, List<BroughtFile> Kept, string Problem)> Gather(IReadOnlyList<BroughtFile> files, CancellationToken cancel)
    {
        Design? design = null;
        var (opened, problem) = Opened(files);
        var kept = new List<BroughtFile>();
        foreach (var file in opened)
        {
            if (Archive.IsZip(file.Bytes))
            {
                kept.Add(file);
                continue;
            }

            var (read, sentence) = Read(file.Name, file.Bytes, cancel);
            if (read is null)
            {
                problem = Both(problem, sentence);
                continue;
            }

            // What our own file says of its sources stays; of any other the file itself is the one source.
            if (DesignReader.MediaType(file.Bytes) != "application/json") read =
                read with { Sources = [.. read.Sources.Select(s => s with { Name = file.Name, Content = DesignDocument.HashOf(file.Bytes) })] };
            read = await WithRules(read, file.Folder, cancel);
            design = design is null ? read : new BringBeside(read, file.Name).Apply(design);
            kept.Add(file);
        }

        return (design, kept, problem);
    }

    /// <summary>Keeps the docket's choices as rules of a source; those of the same name are replaced.</summary>
    public async Task KeepRules(Guid docket, Design design, string name, CancellationToken cancel)
    {
        var row = await db.Rules.FirstOrDefaultAsync(r => r.Name == name, cancel);
        if (row is null) db.Rules.Add(row = new() { Id = Guid.CreateVersion7(), StudioId = db.StudioId, Name = name });
        var folders = await db.SourceFiles.Where(f => f.DocketId == docket && f.Folder.Length > 0).Select(f => f.Folder).Distinct().ToListAsync(cancel);
        // What was known of the source before is still true.
        if (FalzFile.ReadRules(row.Document) is { } before) folders.AddRange(before.Folders);
        row.Document = FalzFile.WriteRules(SourceRules
            .From(design, name) with
        { Folders = [.. folders.Distinct(StringComparer.OrdinalIgnoreCase).Order(StringComparer.OrdinalIgnoreCase)], });
        row.ChangedAt = clock.GetUtcNow();
        try
        {
            await db.SaveChangesAsync(cancel);
        }
        catch (DbUpdateException e) when (Database.IsTaken(e) || e is DbUpdateConcurrencyException)
        {
            // Somebody else gave, or forgot, that name at the same instant: theirs are there, or gone, and ours come after.
            db.Entry(row).State = EntityState.Detached;
            await KeepRules(docket, design, name, cancel);
        }
    }

    /// <summary>The design by the rules of the source that it is likely to come from, if any.</summary>
    private async Task<Design> WithRules(Design design, string folder, CancellationToken cancel)
    {
        var kept = (await db.Rules.AsNoTracking().OrderByDescending(r => r.ChangedAt).Select(r => r.Document).ToListAsync(cancel)).Select(FalzFile.ReadRules)
            .OfType<SourceRules>();
        var (rules, found) = kept.Select(r => (Rules: r, Found: r.Fits(design, folder))).Where(r => r.Found.Fit > 0).OrderByDescending(r => r.Found.Fit)
            .FirstOrDefault();
        return rules is null ? design : new ApplyRules(rules) { By = found.By }.Apply(design);
    }

    /// <summary>An archive of one file is that file; one of several stays as it is, for somebody to choose from.</summary>
    private static (List<BroughtFile> Files, string Problem) Opened(IReadOnlyList<BroughtFile> files)
    {
        var opened = new List<BroughtFile>();
        var problem = "";
        foreach (var file in files)
        {
            if (!Archive.IsZip(file.Bytes))
            {
                opened.Add(file);
                continue;
            }

            try
            {
                var inside = Archive.Files(file.Bytes, ReadingLimits.Default);
                opened.Add(inside.Count == 1 ? new(inside[0].Name, inside[0].Bytes, inside[0].Folder.Length > 0 ? inside[0].Folder : file.Folder) : file);
            }
            catch (UnreadableFileException e)
            {
                problem = Both(problem, $"“{file.Name}” was not brought in: {e.Message}.");
            }
        }

        return (opened, problem);
    }

    private static string Both(string first, string second) => first.Length == 0 ? second : $"{first} {second}";

    private static string Named(List<BroughtFile> files) => files.Count == 1 ? files[0].Name : $"{files[0].Name} and {files.Count - 1} more";

    private async Task Keep(Docket docket, BroughtFile file, CancellationToken cancel) => db.SourceFiles.Add(new()
    {
        Id = Guid.CreateVersion7(),
        StudioId = docket.StudioId,
        DocketId = docket.Id,
        Name = file.Name,
        Folder = file.Folder.Length <= 200 ? file.Folder : file.Folder[..200],
        MediaType = DesignReader.MediaType(file.Bytes),
        Content = await blobs.KeepFile(docket.StudioId, docket.Id, file.Bytes, cancel),
        Size = file.Bytes.Length,
        At = clock.GetUtcNow(),
    });

    private static string NameOf(string fileName)
    {
        var name = Path.GetFileName(fileName);
        foreach (var ending in new[] { ".falz.json", ".svg", ".svgz", ".json", ".dxf", ".png", ".jpg", ".jpeg", ".webp", ".zip" })
            if (name.EndsWith(ending, StringComparison.OrdinalIgnoreCase)) name = name[..^ending.Length];
        name = name.Replace('-', ' ').Replace('_', ' ').Trim();
        if (name.Length == 0) name = "Untitled";
        return char.ToUpperInvariant(name[0]) + name[1..Math.Min(name.Length, 80)];
    }
}
