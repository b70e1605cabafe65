using System.Collections.Concurrent;
using System.IO.Compression;
using Falzkunst.Core.Cards;
using Falzkunst.Core.Documents;
using Falzkunst.Core.Writing;
using Microsoft.EntityFrameworkCore;

namespace Falzkunst.Store;

/// <summary>What became of a change.</summary>
public enum ChangeOutcome
{
    Done,

    /// <summary>Somebody else changed the docket since it was read; nothing was written.</summary>
    SomebodyElse,

    /// <summary>There is nothing to undo or redo.</summary>
    Nothing,
}

/// <summary>The history of a docket's design: every change is a revision, undo and redo walk along them, and a second writer is told.</summary>
public sealed class Revisions(FalzkunstContext db, TimeProvider clock)
{
    // Designs are immutable, so those of open dockets are kept in memory, whoever asks for them.
    private static readonly ConcurrentDictionary<Guid, Design> Open = new();

    public async Task<Design?> DesignOf(Guid? revisionId, CancellationToken cancel = default)
    {
        if (revisionId is not { } id) return null;
        if (Open.TryGetValue(id, out var open)) return open;
        var document = await db.Revisions.Where(r => r.Id == id).Select(r => r.Document).FirstOrDefaultAsync(cancel);
        if (document is null) return null;
        using var unpack = new GZipStream(new MemoryStream(document), CompressionMode.Decompress);
        using var bytes = new MemoryStream();
        await unpack.CopyToAsync(bytes, cancel);
        var design = FalzFile.Read(bytes.GetBuffer().AsSpan(0, (int)bytes.Length));
        Keep(id, design);
        return design;
    }

    /// <summary>Writes a change on top of <paramref name="basedOn"/>, if that is still what the docket shows.</summary>
    public async Task<ChangeOutcome> Change(Docket docket, Guid? basedOn, Design next, string what, string byName, CancellationToken cancel = default)
    {
        if (docket.CurrentRevisionId != basedOn) return ChangeOutcome.SomebodyElse;
        using var packed = new MemoryStream();
        await using (var pack = new GZipStream(packed, CompressionLevel.Fastest)) await pack.WriteAsync(FalzFile.Write(next), cancel);
        var revision = new Revision
        {
            Id = Guid.CreateVersion7(),
            StudioId = docket.StudioId,
            DocketId = docket.Id,
            ParentId = docket.CurrentRevisionId,
            What = what,
            ByName = byName,
            At = clock.GetUtcNow(),
            Document = packed.ToArray(),
            Schema = Design.CurrentSchema,
        };
        db.Revisions.Add(revision);
        docket.CurrentRevisionId = docket.TipRevisionId = revision.Id;
        var outcome = await Save(docket, cancel);
        if (outcome == ChangeOutcome.Done) Keep(revision.Id, next);
        return outcome;
    }

    public async Task<ChangeOutcome> Undo(Docket docket, Guid? basedOn, CancellationToken cancel = default)
    {
        if (docket.CurrentRevisionId != basedOn) return ChangeOutcome.SomebodyElse;
        var parent = await db.Revisions.Where(r => r.Id == docket.CurrentRevisionId).Select(r => r.ParentId).FirstOrDefaultAsync(cancel);
        if (parent is null) return ChangeOutcome.Nothing;
        docket.CurrentRevisionId = parent;
        return await Save(docket, cancel);
    }

    public async Task<ChangeOutcome> Redo(Docket docket, Guid? basedOn, CancellationToken cancel = default)
    {
        if (docket.CurrentRevisionId != basedOn) return ChangeOutcome.SomebodyElse;
        if (await NextOf(docket, cancel) is not { } next) return ChangeOutcome.Nothing;
        docket.CurrentRevisionId = next.Id;
        return await Save(docket, cancel);
    }

    /// <summary>What undo and redo would do, in words; null where there is nothing.</summary>
    public async Task<(string? Undo, string? Redo)> Steps(Docket docket, CancellationToken cancel = default)
    {
        var undo = await db.Revisions.Where(r => r.Id == docket.CurrentRevisionId && r.ParentId != null).Select(r => r.What).FirstOrDefaultAsync(cancel);
        return (undo, docket.CurrentRevisionId == docket.TipRevisionId ? null : (await NextOf(docket, cancel))?.What);
    }

    private async Task<(Guid Id, string What)?> NextOf(Docket docket, CancellationToken cancel)
    {
        if (docket.TipRevisionId == docket.CurrentRevisionId) return null;
        var all = await db.Revisions.Where(r => r.DocketId == docket.Id).Select(r => new { r.Id, r.ParentId, r.What }).ToDictionaryAsync(r => r.Id, cancel);
        for (var at = docket.TipRevisionId; at is { } id && all.TryGetValue(id, out var r); at = r.ParentId)
            if (r.ParentId == docket.CurrentRevisionId) return (r.Id, r.What);
        return null;
    }

    private async Task<ChangeOutcome> Save(Docket docket, CancellationToken cancel)
    {
        docket.ChangedAt = clock.GetUtcNow();
        try
        {
            await db.SaveChangesAsync(cancel);
            return ChangeOutcome.Done;
        }
        catch (DbUpdateConcurrencyException)
        {
            // Two at the same instant: the row version decides, and the loser reads afresh.
            db.ChangeTracker.Clear();
            return ChangeOutcome.SomebodyElse;
        }
    }

    private static void Keep(Guid id, Design design)
    {
        // A bound, not a cache policy: designs are small, and a restart forgets them all.
        if (Open.Count > 200) Open.Clear();
        Open[id] = design;
    }
}
