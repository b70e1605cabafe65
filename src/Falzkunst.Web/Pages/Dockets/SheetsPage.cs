using System.Collections.Immutable;
using Falzkunst.Core.Cards;
using Falzkunst.Core.Layout;
using Falzkunst.Store;
using Microsoft.AspNetCore.Mvc;
using Microsoft.EntityFrameworkCore;
using Microsoft.Extensions.Caching.Memory;

namespace Falzkunst.Web.Pages.Dockets;

/// <summary>What the stages share that show the sheets of a layout: laying out, and stopping that.</summary>
public abstract class SheetsPage(DocketParts parts) : DocketPage(parts)
{
    /// <summary>A worker says at least twice a second that it is alive; one that was silent for so long is gone.</summary>
    private static readonly TimeSpan Silence = TimeSpan.FromSeconds(90);

    public bool Working => Layout is { State: WorkState.Waiting or WorkState.Working } && !Interrupted;

    public bool Interrupted => Layout is { State: WorkState.Waiting or WorkState.Working } && Parts.Clock.GetUtcNow() - Layout.SeenAt > Silence;

    /// <summary>The design that the layout was made of, which may be older than the docket's.</summary>
    public Design? DesignOfLayout { get; private set; }

    /// <param name="rest">Whether what is pinned stays where it lies.</param>
    public async Task<IActionResult> OnPostLayOutAsync(bool rest, CancellationToken cancel)
    {
        if (Design is null || Design.Pieces.IsEmpty) return Back("There is no piece to lay out.");
        await Parts.Layouts.Ask(Docket, Parts.Queue, cancel, rest);
        return LocalRedirect(Address(StagePath));
    }

    public async Task<IActionResult> OnPostStopAsync(CancellationToken cancel)
    {
        await Parts.Db.Layouts.Where(l => l.DocketId == Docket.Id && (l.State == WorkState.Waiting || l.State == WorkState.Working))
            .ExecuteUpdateAsync(u => u.SetProperty(l => l.StopAsked, true), cancel);
        return Back();
    }

    /// <summary>What would save a sheet, or find a place for all; null where nobody asked.</summary>
    public IReadOnlyList<Saving>? Savings { get; private set; }

    /// <summary>Whether it is worth asking: where several sheets of a stock are used, or something found no place.</summary>
    public bool MayBeSaved => Laid is { } laid && !Working && LayoutIsCurrent
        && (!laid.Unplaced.IsEmpty || laid.Sheets.GroupBy(s => s.StockId).Any(g => g.Count() > 1));

    /// <summary>Tries what would save a sheet; the answer is a part of the card, or the whole page where no script asks.</summary>
    public async Task<IActionResult> OnGetSavingsAsync(CancellationToken cancel)
    {
        await ReadLayout(cancel);
        if (MayBeSaved && DesignOfLayout is { } design && Layout is { } row && Laid is { } laid)
        {
            // A layout is never changed, so that what was tried holds for it.
            var key = ("savings", row.Id);
            if (!Parts.Memory.TryGetValue(key, out ImmutableArray<Saving> known))
            {
                known = await Task.Run(() => Core.Layout.Savings.Of(design, Stocks, laid, Parts.Clock, cancel), cancel);
                cancel.ThrowIfCancellationRequested();
                Parts.Memory.Set(key, known, new MemoryCacheEntryOptions { Size = 2000 });
            }

            Savings = known;
        }

        if (Request.Headers.ContainsKey("HX-Request")) return Partial("_Savings", this);
        await ReadPage(cancel);
        return Page();
    }

    /// <summary>Reads what the whole page shows.</summary>
    protected abstract Task ReadPage(CancellationToken cancel);

    /// <summary>Makes the change that saves a sheet, and lays out with it.</summary>
    public async Task<IActionResult> OnPostSavingAsync(Guid basedOn, string? key, CancellationToken cancel)
    {
        if (Design is not { } design) return Back();
        var before = Docket.CurrentRevisionId;
        if (Core.Layout.Savings.MarginOf(key ?? "") is { } margin)
        {
            var used = design.Papers.Select(p => Core.Cards.Stocks.For(p, Stocks)?.Id).OfType<string>().Distinct().ToList();
            await Parts.Drawer.SetMargins(used, margin, cancel);
        }
        else if (Core.Layout.Savings.EditOf(key ?? "", design) is { } edit)
        {
            var done = await Change(basedOn, edit, cancel);
            if (Docket.CurrentRevisionId == before) return done;
        }
        else if (key != "again")
        {
            return Back("That can't be done any more; ask once more what would save a sheet.");
        }

        await Parts.Layouts.Ask(Docket, Parts.Queue, cancel);
        return Back();
    }

    protected async Task ReadLayout(CancellationToken cancel) =>
        DesignOfLayout = Layout is null ? null : await Parts.Revisions.DesignOf(Layout.RevisionId, cancel);
}
