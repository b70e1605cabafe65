using System.Data;
using System.Security.Cryptography;
using Falzkunst.Core.Cards;
using Falzkunst.Core.Documents;
using Falzkunst.Core.Files;
using Microsoft.EntityFrameworkCore;

namespace Falzkunst.Store;

/// <summary>What became of a change.</summary>
public enum ChangeOutcome
{
    Done,

    /// <summary>Somebody else changed the docket since it was read; nothing was written.</summary>
    SomebodyElse,

    /// <summary>There is nothing to undo or redo, or the change changes nothing.</summary>
    Nothing,

    /// <summary>The design would not hold together; nothing was written.</summary>
    Unsound,
}

/// <summary>A revision that can be gone back to.</summary>
public sealed record Step(Guid Id, string What, string ByName, DateTimeOffset At);

/// <summary>Where a state of a docket lies, seen from what the docket shows.</summary>
public enum HistoryPlace
{
    /// <summary>On the way to what it shows; the newest of these is that.</summary>
    Behind,

    /// <summary>What redo leads to.</summary>
    Ahead,

    /// <summary>On a branch that was left when something else was done.</summary>
    Beside,
}

/// <summary>One line of a docket's history.</summary>
/// <param name="About">The ids that the edit named; empty where it named none, or is not known.</param>
public sealed record HistoryLine(Guid Id, string What, string ByName, DateTimeOffset At, IReadOnlyList<string> About, HistoryPlace Place);

/// <summary>The history of a docket's design: every change is a revision, undo and redo walk along them, and a second writer is told.</summary>
public sealed class Revisions(FalzkunstContext db, Blobs blobs, OpenDesigns open, TimeProvider clock)
{
    /// <summary>A difference that grew larger than this, and than a third of the whole, is written whole.</summary>
    private const int LargestDifference = 6_000;

    /// <summary>Farther back, a way is not looked for.</summary>
    private const int MostWay = 2000;

    /// <summary>The design of a revision; null where there is none of that id.</summary>
    /// <exception cref="UnreadableFileException">The revision, or what it refers to, is damaged.</exception>
    public async Task<Design?> DesignOf(Guid? revisionId, CancellationToken cancel = default) => (await Open(revisionId, cancel))?.Design;

    /// <summary>Writes a change on top of <paramref name="basedOn"/>, if that is still what the docket shows.</summary>
    /// <param name="before">The design that the edit is made on; null where the docket has none yet.</param>
    /// <param name="edit">The change; null where the design is the first.</param>
    /// <param name="gesture">What small steps of one gesture have in common; they become one revision.</param>
    public async Task<(ChangeOutcome Outcome, Design? Now)> Change(Docket docket, Guid? basedOn, Design? before, Edit edit, string byName, string gesture = "",
        CancellationToken cancel = default)
    {
        if (docket.CurrentRevisionId != basedOn) return (ChangeOutcome.SomebodyElse, null);
        var next = before is not null ? edit.Make(before) : edit.First ?? throw new ArgumentException("That is nothing to begin a docket with.", nameof(edit));
        if (ReferenceEquals(next, before)) return (ChangeOutcome.Nothing, before);
        if (next.Check() is not null) return (ChangeOutcome.Unsound, before);
        var parent = await Open(basedOn, cancel);
        var replaced = gesture.Length > 0 && before is not null ? await Replaced(basedOn!.Value, gesture, byName, cancel) : null;
        var grandparent = replaced?.ParentId is { } id ? await Open(id, cancel) : null;
        if (replaced is not null && grandparent is not null && await EditOf(replaced, cancel) is { } step && step.With(edit) is { } both) edit = both;
        else replaced = null;
        var what = edit.Describe(replaced is null ? before ?? next : grandparent!.Design);
        var (written, writtenEdit) = (DesignDocument.Write(next), DesignDocument.Write(edit));
        var names = written.Blobs.Keys.ToHashSet(StringComparer.Ordinal);
        var fresh = written.Blobs.Concat(writtenEdit.Blobs).Where(b => parent is null || !parent.Blobs.Contains(b.Key)).DistinctBy(b => b.Key)
            .Select(b => (b.Key, b.Value())).ToList();
        var parentId = replaced is null ? basedOn : replaced.ParentId;
        var (document, baseId) = await Pack(written.Text, parentId, cancel);
        var revision = new Revision
        {
            Id = Guid.CreateVersion7(),
            StudioId = docket.StudioId,
            DocketId = docket.Id,
            ParentId = parentId,
            What = what.Length > 300 ? what[..300] : what,
            ByName = byName,
            At = clock.GetUtcNow(),
            Document = document,
            Seal = SHA256.HashData(document),
            BaseId = baseId,
            Schema = Design.CurrentSchema,
            Edit = Packed.Pack(writtenEdit.Text, null),
            Kind = Edits.NameOf(edit),
            Gesture = gesture,
            Pieces = next.Pieces.Length,
            Plies = next.Plies.Length,
            Lines = next.Lines.Length,
            Pictures = next.Artwork.Length,
        };
        await using var transaction = db.Database.CurrentTransaction is null ? await db.Database.BeginTransactionAsync(cancel) : null;
        // A docket that is only being made has to be there before anything is said of it.
        if (db.Entry(docket).State == EntityState.Added) await db.SaveChangesAsync(cancel);
        await blobs.Keep(docket.StudioId, docket.Id, fresh, cancel);
        db.Revisions.Add(revision);
        var outcome = await Save(docket, basedOn, revision.Id, revision.Id, cancel);
        if (outcome != ChangeOutcome.Done) return (outcome, null);
        if (replaced is not null)
        {
            await db.Revisions.Where(r => r.Id == replaced.Id).ExecuteDeleteAsync(cancel);
            open.Forget(replaced.Id);
        }

        if (transaction is not null) await transaction.CommitAsync(cancel);
        open.Keep(revision.Id, new(next, written.Text, names, docket.StudioId));
        return (ChangeOutcome.Done, next);
    }

    /// <summary>On what a change is made that was meant for an earlier revision: the newest, where nobody touched meanwhile what it changes, with the design
    /// that was seen; otherwise as it was meant.</summary>
    public async Task<(Guid BasedOn, Design Seen)> Meant(Docket docket, Guid basedOn, Design now, Edit edit, CancellationToken cancel = default) =>
        docket.CurrentRevisionId is { } current && current != basedOn
        && await db.Revisions.AnyAsync(r => r.Id == basedOn && r.DocketId == docket.Id, cancel)
        && await DesignOf(basedOn, cancel) is { } seen && Meanwhile.IsApart(seen, now, edit) ? (current, seen) : (basedOn, now);

    /// <summary>What a person would undo: the last change of theirs that is not taken back; the docket's last where they made none.</summary>
    /// <param name="IsTheirs">Whether it is theirs.</param>
    /// <param name="IsLast">Whether nobody changed anything since.</param>
    public sealed record Undoable(Guid Id, string What, string ByName, bool IsTheirs, bool IsLast);

    /// <inheritdoc cref="Undoable"/>
    public async Task<Undoable?> UndoableBy(Docket docket, string byName, CancellationToken cancel = default)
    {
        const int most = 100;
        // Mostly it is the last, which needs no farther look.
        if (await Way(docket.CurrentRevisionId, 2, cancel) is [var last, _] && last.ByName == byName && last.Kind != Edits.NameOf<TakeBack>())
            return new(last.Id, last.What, byName, true, true);
        var (way, taken) = (await Way(docket.CurrentRevisionId, most, cancel), new HashSet<string>(StringComparer.Ordinal));
        // The first revision of a docket is no change.
        foreach (var (step, isFirst) in way.Select((s, k) => (s, k == way.Count - 1 && way.Count < most)))
        {
            if (isFirst) break;
            if (step.ByName != byName || taken.Contains(step.Id.ToString())) continue;
            if (step.Kind != Edits.NameOf<TakeBack>()) return new(step.Id, step.What, byName, true, step.Id == docket.CurrentRevisionId);
            taken.Add(step.Gesture);
        }

        return way.Count > 1 ? new(way[0].Id, way[0].What, way[0].ByName, false, true) : null;
    }

    /// <summary>Undoes the last change of a person: goes back where it is the docket's last, and otherwise takes it back and keeps what others did since.
    /// The sentence says why not.</summary>
    /// <param name="others">Whether the docket's last change is undone, whoever made it.</param>
    public async Task<(ChangeOutcome Outcome, string Why)> Undo(Docket docket, Guid? basedOn, string byName, bool others, CancellationToken cancel = default)
    {
        if (docket.CurrentRevisionId != basedOn) return (ChangeOutcome.SomebodyElse, "");
        if (await UndoableBy(docket, byName, cancel) is not { } undoable) return (ChangeOutcome.Nothing, "");
        if (undoable.IsLast || others)
        {
            var parent = await db.Revisions.Where(r => r.Id == docket.CurrentRevisionId).Select(r => r.ParentId).FirstAsync(cancel);
            return (await Save(docket, basedOn, parent, docket.TipRevisionId, cancel), "");
        }

        var its = await db.Revisions.AsNoTracking().Where(r => r.Id == undoable.Id).Select(r => r.ParentId).FirstAsync(cancel);
        if (await DesignOf(its, cancel) is not { } before || await DesignOf(undoable.Id, cancel) is not { } after
            || await DesignOf(basedOn, cancel) is not { } now) return (ChangeOutcome.Nothing, "");
        var edit = new TakeBack(before, after, undoable.What);
        if (edit.Refusal(now) is { } why) return (ChangeOutcome.Unsound, why);
        return ((await Change(docket, basedOn, now, edit, byName, undoable.Id.ToString(), cancel)).Outcome, "");
    }

    public async Task<ChangeOutcome> Redo(Docket docket, Guid? basedOn, CancellationToken cancel = default)
    {
        if (docket.CurrentRevisionId != basedOn) return ChangeOutcome.SomebodyElse;
        // What was taken back comes again by going back to before that.
        if (docket.TipRevisionId == basedOn && await TakenBack(docket, cancel) is { ParentId: { } parent })
            return await Save(docket, basedOn, parent, parent, cancel);
        if (await NextOf(docket, cancel) is not { } next) return ChangeOutcome.Nothing;
        return await Save(docket, basedOn, next.Id, docket.TipRevisionId, cancel);
    }

    /// <summary>Shows another revision of the docket. Those after it stay in the history, and on the way that redo goes where they are on it now.</summary>
    public async Task<ChangeOutcome> GoBack(Docket docket, Guid? basedOn, Guid to, CancellationToken cancel = default)
    {
        if (docket.CurrentRevisionId != basedOn) return ChangeOutcome.SomebodyElse;
        if (!await db.Revisions.AnyAsync(r => r.Id == to && r.DocketId == docket.Id, cancel)) return ChangeOutcome.Nothing;
        var onTheWay = (await Way(docket.TipRevisionId, MostWay, cancel)).Exists(r => r.Id == to);
        return await Save(docket, basedOn, to, onTheWay ? docket.TipRevisionId : to, cancel);
    }

    /// <summary>The newest revision before the docket's that can be read; null where none can.</summary>
    public async Task<Step?> LastReadable(Docket docket, CancellationToken cancel = default)
    {
        var steps = await Way(docket.CurrentRevisionId, 500, cancel);
        foreach (var step in steps.Skip(1))
        {
            try
            {
                if (await DesignOf(step.Id, cancel) is not null) return new(step.Id, step.What, step.ByName, step.At);
            }
            catch (UnreadableFileException)
            {
                // Damaged as well: the one before it, then.
            }
        }

        return null;
    }

    /// <summary>What undo and redo would do for somebody, in words; null where there is nothing.</summary>
    public async Task<(string? Undo, string? Redo)> Steps(Docket docket, string byName, CancellationToken cancel = default) =>
        (await UndoableBy(docket, byName, cancel) is { } u ? u.IsTheirs ? u.What : $"{u.What}, of {u.ByName}" : null,
            docket.CurrentRevisionId == docket.TipRevisionId ? (await TakenBack(docket, cancel))?.What : (await NextOf(docket, cancel))?.What);

    /// <summary>The docket's newest revision, where it took a change back.</summary>
    private async Task<Revision?> TakenBack(Docket docket, CancellationToken cancel)
    {
        var kind = Edits.NameOf<TakeBack>();
        return await db.Revisions.AsNoTracking().FirstOrDefaultAsync(r => r.Id == docket.CurrentRevisionId && r.Kind == kind, cancel);
    }

    /// <summary>The design when one of its pictures was brought in, or traced last; null where that can't be told.</summary>
    public async Task<Design?> WhenTraced(Docket docket, Source source, CancellationToken cancel = default)
    {
        string traced = Edits.NameOf<TraceAgain>(), brought = Edits.NameOf<BringBeside>();
        var candidates = await db.Database.SqlQuery<Guid>($"""
            WITH RECURSIVE way AS (
                SELECT "Id", "ParentId", "Kind", 0 AS back FROM "Revisions" WHERE "Id" = {docket.CurrentRevisionId} AND "StudioId" = {db.StudioId}
                UNION ALL SELECT r."Id", r."ParentId", r."Kind", way.back + 1 FROM "Revisions" r JOIN way ON r."Id" = way."ParentId")
            SELECT "Id" AS "Value" FROM way WHERE "ParentId" IS NULL OR "Kind" = {brought} OR "Kind" = {traced} ORDER BY back
            """).ToListAsync(cancel);
        Design? then = null;
        foreach (var id in candidates)
        {
            // What was brought in or traced before knows nothing of it, or of how it is traced now.
            if (await DesignOf(id, cancel) is not { } design || !design.Sources.Any(s => s.Id == source.Id && s.Tracing == source.Tracing)) break;
            then = design;
        }

        return then;
    }

    /// <summary>All that happened to the docket, also what was undone and left, the newest first.</summary>
    public async Task<IReadOnlyList<HistoryLine>> History(Docket docket, int most, CancellationToken cancel = default)
    {
        var lines = new List<HistoryLine>();
        var all = await db.Revisions.AsNoTracking().Where(r => r.DocketId == docket.Id).OrderByDescending(r => r.At).ThenByDescending(r => r.Id).Take(most)
            .Select(r => new { r.Id, r.What, r.ByName, r.At, r.Edit }).ToListAsync(cancel);
        var behind = (await Way(docket.CurrentRevisionId, MostWay, cancel)).Select(r => r.Id).ToHashSet();
        var ahead = docket.TipRevisionId == docket.CurrentRevisionId ? []
            : (await Way(docket.TipRevisionId, MostWay, cancel)).Select(r => r.Id).Where(id => !behind.Contains(id)).ToHashSet();
        foreach (var r in all)
        {
            IReadOnlyList<string> about = [];
            try
            {
                if (r.Edit.Length is > 0 and < 100_000) about = Edits.AboutOf(Packed.Unpack(r.Edit, null));
            }
            catch (UnreadableFileException)
            {
                // The words are still true.
            }

            lines.Add(new(r.Id, r.What, r.ByName, r.At, about,
                behind.Contains(r.Id) ? HistoryPlace.Behind : ahead.Contains(r.Id) ? HistoryPlace.Ahead : HistoryPlace.Beside));
        }

        return lines;
    }

    /// <summary>Counts what the list of dockets says of those that were last changed by an earlier version, once.</summary>
    public async Task CountOld(CancellationToken cancel = default)
    {
        var old = await db.Dockets.IgnoreQueryFilters()
            .Join(db.Revisions.IgnoreQueryFilters().Where(r => r.Pieces < 0), d => d.CurrentRevisionId, r => r.Id, (d, r) => new { r.Id, r.StudioId })
            .ToListAsync(cancel);
        foreach (var r in old)
        {
            db.StudioId = r.StudioId;
            try
            {
                if (await DesignOf(r.Id, cancel) is not { } d) continue;
                await db.Revisions.Where(x => x.Id == r.Id).ExecuteUpdateAsync(
                    u => u.SetProperty(x => x.Pieces, d.Pieces.Length).SetProperty(x => x.Plies, d.Plies.Length).SetProperty(x => x.Lines, d.Lines.Length)
                        .SetProperty(x => x.Pictures, d.Artwork.Length), cancel);
            }
            catch (UnreadableFileException)
            {
                // The list says so when somebody looks.
            }
        }

        db.StudioId = Guid.Empty;
    }

    private async Task<Opened?> Open(Guid? revisionId, CancellationToken cancel)
    {
        if (revisionId is not { } id) return null;
        if (open.Find(id) is { } known) return known.StudioId == db.StudioId ? known : null;
        var row = await db.Revisions.AsNoTracking().Where(r => r.Id == id).Select(r => new { r.Document, r.Schema, r.BaseId }).FirstOrDefaultAsync(cancel);
        if (row is null) return null;
        Opened opened;
        if (row.Schema == 1)
        {
            var design = FalzFile.Read(Packed.Gunzip(row.Document));
            var written = DesignDocument.Write(design);
            // Its blobs are not in the database yet; the next change brings them.
            opened = new(design, written.Text, new HashSet<string>(), db.StudioId);
        }
        else
        {
            var text = await TextOf(row.Document, row.BaseId, cancel);
            var document = DesignDocument.Open(text);
            opened = new(DesignDocument.ReadDesign(document, await blobs.Of(document.Wanted, cancel)), text, document.Names, db.StudioId);
        }

        open.Keep(id, opened);
        return opened;
    }

    private async Task<byte[]> TextOf(byte[] document, Guid? baseId, CancellationToken cancel) =>
        Packed.Unpack(document, baseId is { } b ? await BaseText(b, cancel) ?? throw new UnreadableFileException("what it builds on is gone") : null);

    private async Task<byte[]?> BaseText(Guid id, CancellationToken cancel)
    {
        if (open.Find(id) is { } known) return known.Text;
        return await db.Revisions.AsNoTracking().Where(r => r.Id == id && r.BaseId == null && r.Schema > 1).Select(r => r.Document)
            .FirstOrDefaultAsync(cancel) is { } document ? Packed.Unpack(document, null) : null;
    }

    /// <summary>As the difference to what its parent is the difference to, or to the parent where that stands alone; whole where that would not be
    /// small.</summary>
    private async Task<(byte[] Document, Guid? BaseId)> Pack(byte[] text, Guid? parentId, CancellationToken cancel)
    {
        var parent = await db.Revisions.AsNoTracking().Where(r => r.Id == parentId && r.Schema > 1).Select(r => new { r.Id, r.BaseId })
            .FirstOrDefaultAsync(cancel);
        if (parent is not null && await BaseText(parent.BaseId ?? parent.Id, cancel) is { } dictionary)
        {
            var difference = Packed.Pack(text, dictionary);
            if (difference.Length <= LargestDifference) return (difference, parent.BaseId ?? parent.Id);
        }

        return (Packed.Pack(text, null), null);
    }

    /// <summary>The docket's newest revision, where it is a step of the same gesture of the same person that nothing else refers to.</summary>
    private async Task<Revision?> Replaced(Guid current, string gesture, string byName, CancellationToken cancel) =>
        await db.Revisions.AsNoTracking().FirstOrDefaultAsync(r => r.Id == current && r.Gesture == gesture && r.ByName == byName && r.ParentId != null
            && !db.Layouts.Any(l => (l.DocketId == r.DocketId && l.RevisionId == r.Id) || l.With.Any(w => w.RevisionId == r.Id))
            && !db.Revisions.Any(c => c.DocketId == r.DocketId && (c.ParentId == r.Id || c.BaseId == r.Id)), cancel);

    private async Task<Edit?> EditOf(Revision revision, CancellationToken cancel)
    {
        if (revision.Edit.Length == 0) return null;
        var text = Packed.Unpack(revision.Edit, null);
        var document = DesignDocument.Open(text);
        return DesignDocument.ReadEdit(document, await blobs.Of(document.Wanted, cancel));
    }

    private sealed record WayRow(Guid Id, string What, string ByName, DateTimeOffset At, string Kind, string Gesture);

    /// <summary>A revision and those before it, the newest first, in one query.</summary>
    private async Task<List<WayRow>> Way(Guid? from, int most, CancellationToken cancel) => from is not { } id ? [] : await db.Database.SqlQuery<WayRow>($"""
        WITH RECURSIVE way AS (
            SELECT "Id", "ParentId", "What", "ByName", "At", "Kind", "Gesture", 1 AS depth FROM "Revisions" WHERE "Id" = {id} AND "StudioId" = {db.StudioId}
            UNION ALL SELECT r."Id", r."ParentId", r."What", r."ByName", r."At", r."Kind", r."Gesture", depth + 1
            FROM "Revisions" r JOIN way ON r."Id" = way."ParentId" WHERE depth < {most})
        SELECT "Id", "What", "ByName", "At", "Kind", "Gesture" FROM way ORDER BY depth
        """).ToListAsync(cancel);

    private sealed record NextRow(Guid Id, string What);

    /// <summary>The revision after the docket's on the way to its tip.</summary>
    private async Task<NextRow?> NextOf(Docket docket, CancellationToken cancel)
    {
        var (tip, current) = (docket.TipRevisionId, docket.CurrentRevisionId);
        return tip == current ? null : (await db.Database.SqlQuery<NextRow>($"""
            WITH RECURSIVE way AS (
                SELECT "Id", "ParentId", "What" FROM "Revisions" WHERE "Id" = {tip}
                UNION ALL SELECT r."Id", r."ParentId", r."What" FROM "Revisions" r JOIN way ON r."Id" = way."ParentId" WHERE way."ParentId" <> {current})
            SELECT "Id", "What" FROM way WHERE "ParentId" = {current}
            """).ToListAsync(cancel)).FirstOrDefault();
    }

    /// <summary>Writes what was added, and shows another revision if the docket still shows the one before. Other things of the docket (its name, its copies)
    /// are nobody's business here, and may change at the same instant.</summary>
    private async Task<ChangeOutcome> Save(Docket docket, Guid? from, Guid? to, Guid? tip, CancellationToken cancel)
    {
        await db.SaveChangesAsync(cancel);
        var now = clock.GetUtcNow();
        if (await db.Dockets.Where(d => d.Id == docket.Id && d.CurrentRevisionId == from).ExecuteUpdateAsync(u => u.SetProperty(d => d.CurrentRevisionId, to)
            .SetProperty(d => d.TipRevisionId, tip).SetProperty(d => d.ChangedAt, now), cancel) == 0)
        {
            // Two at the same instant: the row decides, and the loser reads afresh.
            db.ChangeTracker.Clear();
            return ChangeOutcome.SomebodyElse;
        }

        (docket.CurrentRevisionId, docket.TipRevisionId, docket.ChangedAt) = (to, tip, now);
        if (db.Entry(docket) is { State: not EntityState.Detached } entry)
        {
            // It is written already; where it only were called unchanged, it would be put back to what it was.
            entry.OriginalValues.SetValues(entry.CurrentValues);
            entry.State = EntityState.Unchanged;
        }

        return ChangeOutcome.Done;
    }
}
