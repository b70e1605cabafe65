using Falzkunst.Core.Cards;
using Falzkunst.Core.Layout;
using Microsoft.EntityFrameworkCore;
using Microsoft.Extensions.Caching.Memory;

namespace Falzkunst.Store;

/// <summary>
/// Layouts that are changed by hand. A layout that is kept is never changed, since prints and runs name it: each change is one more, which knows the one before
/// it. That is what undo goes back to.
/// </summary>
public sealed class HandLayouts(FalzkunstContext db, IMemoryCache memory, TimeProvider clock)
{
    /// <summary>How many steps can be undone.</summary>
    private const int MostSteps = 60;

    /// <summary>What undo and redo would do now, as on their buttons; null where there is nothing.</summary>
    public async Task<(string? Undo, string? Redo)> Steps(LayoutRow layout, CancellationToken cancel) =>
        (layout.ParentId is { } parent && layout.What.Length > 0 && await db.Layouts.AnyAsync(l => l.Id == parent, cancel) ? layout.What : null,
            await Undone(layout.Id).Select(l => l.What).FirstOrDefaultAsync(cancel));

    /// <summary>Changes a layout as long as it is still the docket's newest.</summary>
    /// <returns>Why it was not changed, as a sentence; null where it was.</returns>
    public async Task<string?> Change(Docket docket, Guid basedOn, Func<DocketLayout, ByHandResult> change, CancellationToken cancel)
    {
        await using var all = await db.Database.BeginTransactionAsync(cancel);
        if (await Hold(docket, basedOn, cancel) is not { } row || LayoutJob.Read(row) is not { } before) return Moved;
        var done = change(before);
        if (done.Layout is not { } after) return done.Text;
        var wasCut = await CutSheets(row, cancel);
        var cut = CutOf(before, wasCut, after);
        if (cut.Length < wasCut.Count) return $"{done.Text}? That sheet is cut already: what lies on it stays as it is.";
        // What was undone before can't be redone after something else.
        await Unused(db.Layouts.Where(l => l.DocketId == docket.Id && l.Undone)).ExecuteDeleteAsync(cancel);
        await db.Layouts.Where(l => l.DocketId == docket.Id && l.Undone).ExecuteUpdateAsync(u => u.SetProperty(l => l.ParentId, (Guid?)null), cancel);
        var now = clock.GetUtcNow();
        db.Layouts.Add(new()
        {
            Id = Guid.CreateVersion7(),
            StudioId = row.StudioId,
            DocketId = row.DocketId,
            RevisionId = row.RevisionId,
            Copies = row.Copies,
            With = [.. row.With.Select(w => w with { })],
            MadeFrom = row.MadeFrom,
            State = WorkState.Done,
            Fraction = 1,
            // Never before the one that it was made of, whatever the clock says.
            At = now > row.At ? now : row.At.AddMilliseconds(1),
            SeenAt = now,
            Document = LayoutJob.Write(after),
            ParentId = row.Id,
            What = done.Text,
            CutBefore = cut,
        });
        await db.SaveChangesAsync(cancel);
        var old = await db.Layouts.Where(l => l.DocketId == docket.Id && !l.Undone).OrderByDescending(l => l.At).ThenByDescending(l => l.Id).Skip(MostSteps)
            .Select(l => l.Id).ToListAsync(cancel);
        if (old.Count > 0) await Unused(db.Layouts.Where(l => old.Contains(l.Id))).ExecuteDeleteAsync(cancel);
        await all.CommitAsync(cancel);
        return null;
    }

    /// <summary>Goes back to the layout before the newest.</summary>
    /// <returns>Why not, as a sentence; empty where there is nothing to undo, or the newest is another by now; null where it was done.</returns>
    public async Task<string?> Undo(Docket docket, Guid basedOn, CancellationToken cancel)
    {
        await using var all = await db.Database.BeginTransactionAsync(cancel);
        if (await Hold(docket, basedOn, cancel) is not { ParentId: { } id } row
            || await db.Layouts.AsNoTracking().FirstOrDefaultAsync(l => l.Id == id, cancel) is not { } parent) return "";
        if (!await Carry(row, parent, cancel)) return "A sheet was cut since that was done: it can't be undone any more.";
        // What failed, or came to nothing in between, does not come up again.
        await db.Layouts.Where(l => l.DocketId == docket.Id && !l.Undone && l.Id != parent.Id && l.At >= parent.At)
            .ExecuteUpdateAsync(u => u.SetProperty(l => l.Undone, true), cancel);
        await all.CommitAsync(cancel);
        return null;
    }

    /// <summary>Takes back an undo.</summary>
    /// <returns>As of <see cref="Undo"/>.</returns>
    public async Task<string?> Redo(Docket docket, Guid basedOn, CancellationToken cancel)
    {
        await using var all = await db.Database.BeginTransactionAsync(cancel);
        if (await Hold(docket, basedOn, cancel) is not { } row || await Undone(row.Id).FirstOrDefaultAsync(cancel) is not { } next) return "";
        if (!await Carry(row, next, cancel)) return "A sheet was cut since that was undone: it can't be redone any more.";
        await db.Layouts.Where(l => l.Id == next.Id).ExecuteUpdateAsync(u => u.SetProperty(l => l.Undone, false), cancel);
        await all.CommitAsync(cancel);
        return null;
    }

    /// <summary>Takes along what was cut. False where a sheet that was cut is not there in the other layout.</summary>
    private async Task<bool> Carry(LayoutRow from, LayoutRow to, CancellationToken cancel)
    {
        if (LayoutJob.Read(from) is not { } before || LayoutJob.Read(to) is not { } after) return false;
        var wasCut = await CutSheets(from, cancel);
        var cut = CutOf(before, wasCut, after);
        if (cut.Length < wasCut.Count) return false;
        int[] known = [.. to.CutBefore.Union(cut)];
        await db.Layouts.Where(l => l.Id == to.Id).ExecuteUpdateAsync(u => u.SetProperty(l => l.CutBefore, known), cancel);
        return true;
    }

    /// <summary>Which sheets of a layout are as those of another that were cut.</summary>
    private static int[] CutOf(DocketLayout before, HashSet<int> wasCut, DocketLayout after) =>
        [.. Enumerable.Range(0, after.Sheets.Length).Where(i => wasCut.Any(w => IsAlike(before.Sheets[w], after.Sheets[i])))];

    /// <summary>The sheets that the newest layouts of other dockets on the worktop still want from the drawer; those that share another docket's want
    /// none.</summary>
    public async Task<IReadOnlyList<(int Docket, string StockId, SheetSize Size)>> Wanted(Guid exceptDocket, CancellationToken cancel)
    {
        var leaders = LaidTogether.WithDesigns(db);
        var rows = await db.Layouts.AsNoTracking().Where(l => !l.Undone && l.Document != "" && l.DocketId != exceptDocket)
            .Join(db.Dockets.Where(d => d.ArchivedAt == null && !leaders.Any(o => o.Id == d.LaidWithId)), l => l.DocketId, d => d.Id,
                (l, d) => new { d.Number, l.DocketId, l.Id, l.At, l.CutBefore })
            .ToListAsync(cancel);
        var newest = rows.GroupBy(r => r.DocketId).Select(g => g.OrderByDescending(r => r.At).ThenByDescending(r => r.Id).First()).ToList();
        var ids = newest.ConvertAll(n => n.Id);
        var cut = (await db.Runs.Where(r => ids.Contains(r.LayoutId) && r.State == WorkState.Done && !r.IsTouchUp)
            .Select(r => new { r.LayoutId, r.Sheet }).ToListAsync(cancel)).ToLookup(r => r.LayoutId, r => r.Sheet);
        var wanted = new List<(int, string, SheetSize)>();
        foreach (var layout in newest)
        {
            // A layout is never changed: its sheets are read once.
            if (!memory.TryGetValue(("sheets of", layout.Id), out (string StockId, SheetSize Size)[]? sheets))
            {
                var document = await db.Layouts.Where(l => l.Id == layout.Id).Select(l => l.Document).FirstOrDefaultAsync(cancel);
                sheets = [.. LayoutJob.Read(document)?.Sheets.Select(s => (s.StockId, s.Size)) ?? []];
                memory.Set(("sheets of", layout.Id), sheets, new MemoryCacheEntryOptions { Size = 200 * sheets.Length });
            }

            wanted.AddRange(sheets!.Where((_, i) => !layout.CutBefore.Contains(i) && !cut[layout.Id].Contains(i))
                .Select(s => (layout.Number, s.StockId, s.Size)));
        }

        return wanted;
    }

    /// <summary>The sheets of a layout of which nothing is left to do, from 0.</summary>
    public async Task<HashSet<int>> DoneSheets(LayoutRow layout, CancellationToken cancel)
    {
        var worked = await Worked(layout, cancel);
        return [.. layout.CutBefore.Concat(worked.Keys).Where(i => !worked.GetValueOrDefault(i))];
    }

    /// <summary>The sheets of a layout that were cut, from 0: of itself, or of one that it came from, where they are the same. One round is enough:
    /// what lies on them stays.</summary>
    public async Task<HashSet<int>> CutSheets(LayoutRow layout, CancellationToken cancel) =>
        [.. layout.CutBefore, .. (await Worked(layout, cancel)).Keys];

    /// <summary>The sheets that runs of a layout worked on, and whether the last of them left a rest for another load.</summary>
    private async Task<Dictionary<int, bool>> Worked(LayoutRow layout, CancellationToken cancel) =>
        (await db.Runs.Where(r => r.LayoutId == layout.Id && r.State == WorkState.Done && !r.IsTouchUp).OrderBy(r => r.StartedAt)
            .Select(r => new { r.Sheet, r.LeavesRest }).ToListAsync(cancel)).GroupBy(r => r.Sheet).ToDictionary(g => g.Key, g => g.Last().LeavesRest);

    private static bool IsAlike(SheetPlan a, SheetPlan b) => a.Matches(b, (p, q) => p.Which == q.Which && p.ToSheet == q.ToSheet);

    private const string Moved = "Somebody changed this layout in the meantime, or it is being made anew. Your change was not made; you see the newest now.";

    /// <summary>The newest layout, as long as it is the one that was looked at, and nobody else changes it meanwhile.</summary>
    private async Task<LayoutRow?> Hold(Docket docket, Guid basedOn, CancellationToken cancel)
    {
        await db.Database.SqlQuery<Guid>($"""SELECT "Id" AS "Value" FROM "Dockets" WHERE "Id" = {docket.Id} FOR UPDATE""").ToListAsync(cancel);
        var newest = await LayoutJob.Newest(db, docket.Id).FirstOrDefaultAsync(cancel);
        return newest is { State: WorkState.Done or WorkState.Stopped } && newest.Id == basedOn ? newest : null;
    }

    private IQueryable<LayoutRow> Undone(Guid of) =>
        db.Layouts.AsNoTracking().Where(l => l.ParentId == of && l.Undone && l.Document != "").OrderByDescending(l => l.At);

    /// <summary>Those that nothing was printed, planned or run of.</summary>
    private IQueryable<LayoutRow> Unused(IQueryable<LayoutRow> layouts) => layouts.Where(l => !db.Papers.Any(p => p.LayoutId == l.Id)
        && !db.RunPlans.Any(p => p.LayoutId == l.Id) && !db.Runs.Any(r => r.LayoutId == l.Id));
}
