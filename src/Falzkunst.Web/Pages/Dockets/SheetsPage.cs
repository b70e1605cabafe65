using System.Collections.Immutable;
using Falzkunst.Core.Cards;
using Falzkunst.Core.Layout;
using Falzkunst.Core.Looks;
using Falzkunst.Core.Measures;
using Falzkunst.Store;
using Microsoft.AspNetCore.Mvc;
using Microsoft.EntityFrameworkCore;
using Microsoft.Extensions.Caching.Memory;

namespace Falzkunst.Web.Pages.Dockets;

/// <summary>What the stages share that show the sheets of a layout: laying out, and stopping that.</summary>
public abstract class SheetsPage(DocketParts parts) : DocketPage(parts)
{
    /// <summary>A worker says at least twice a second that it is alive; one that was silent for so long is gone.</summary>
    internal static readonly TimeSpan Silence = TimeSpan.FromSeconds(90);

    public bool Working => Layout is { State: WorkState.Waiting or WorkState.Working } && !Interrupted;

    public bool Interrupted => Layout is { State: WorkState.Waiting or WorkState.Working } && Parts.Clock.GetUtcNow() - Layout.SeenAt > Silence;

    /// <summary>The design that the layout was made of, which may be older than the docket's; of all dockets on its sheets.</summary>
    public Design? DesignOfLayout { get; private set; }

    /// <summary>Why the layout is out of date, as a sentence without its end.</summary>
    public string WhyStale => Layout is { } stale ? LayoutJob.WhyNot(stale, OfSheets, Stocks, [.. Companions]) : "";

    /// <summary>The pieces whose paper is to be asked for before they are laid out.</summary>
    public IReadOnlyList<PaperAsked> PapersAsked => field ??= Design is { } design ? [.. Core.Cards.Stocks.Asked(design, Stocks)] : [];

    /// <param name="rest">Whether what is pinned stays where it lies.</param>
    /// <remarks>For each of <see cref="PapersAsked"/> a field says the stock that was chosen.</remarks>
    public async Task<IActionResult> OnPostLayOutAsync(Guid basedOn, bool rest, CancellationToken cancel)
    {
        if (Design is not { Pieces.IsEmpty: false }) return Back("There is no piece to lay out.");
        if (PapersAsked.Count > 0)
        {
            var taken = PapersAsked.Select((asked, i) => (asked.Pieces,
                Stock: Stocks.FirstOrDefault(s => s.Id == Request.Form[$"paper-{i}"].ToString()))).ToList();
            if (!taken.TrueForAll(t => t.Stock is not null))
            {
                Notice = "Choose the papers first: they are asked for once.";
                return LocalRedirect(Address("lay-out"));
            }

            var before = Docket.CurrentRevisionId;
            var assigned = taken.Select(t => (Edit)new AssignStock([.. t.Pieces.Select(p => p.Id)], t.Stock!.Id));
            var done = await Change(basedOn, new Series([.. assigned],
                $"Take {string.Join(" and ", taken.Select(t => t.Stock!.Name).Distinct())}"), cancel);
            if (Docket.CurrentRevisionId == before) return done;
        }

        return await LayOut(rest, cancel);
    }

    /// <summary>Lays out with the papers that are chosen, or suit best.</summary>
    protected async Task<IActionResult> LayOut(bool rest, CancellationToken cancel)
    {
        if (await Parts.Together.Fault(Docket, Companions, Stocks, cancel) is { } fault) return Back(fault);
        await Parts.Layouts.Ask(Docket, Me, Parts.Queue, cancel, rest);
        return LocalRedirect(Address(StagePath));
    }

    /// <summary>Takes the docket off the sheets that it shares, and lays it out by itself.</summary>
    public async Task<IActionResult> OnPostLeaveAsync(CancellationToken cancel)
    {
        if (Leader is null) return Back();
        await Parts.Together.Leave(Docket, cancel);
        Docket.LaidWithId = null;
        await Parts.Layouts.Ask(Docket, Me, Parts.Queue, cancel);
        return LocalRedirect(Address(StagePath));
    }

    public async Task<IActionResult> OnPostStopLayingOutAsync(CancellationToken cancel)
    {
        await Parts.Db.Layouts.Where(l => l.DocketId == OfSheets.Id && (l.State == WorkState.Waiting || l.State == WorkState.Working))
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
            var reach = await Parts.MachineOf(Docket, cancel) is { } machine ? new Box(0, 0, machine.WidthMm, machine.HeightMm) : Box.Empty;
            Savings = await TriedOnce(("savings", row.Id), () => Core.Layout.Savings.Of(design, Stocks, laid, reach, cancel), cancel);
        }

        return await Part("_Savings", cancel);
    }

    /// <summary>How many copies the same sheets take; null where nobody asked.</summary>
    public int? MostCopies { get; private set; }

    /// <summary>Looks for how many copies the same sheets take; the answer is a part of the card.</summary>
    public async Task<IActionResult> OnGetFullerAsync(CancellationToken cancel)
    {
        await ReadLayout(cancel);
        if (LayoutIsCurrent && DesignOfLayout is { } design && Layout is { } row && Laid is { Unplaced.IsEmpty: true } laid)
        {
            MostCopies = await TriedOnce(("fuller", row.Id), () => Fuller.Of(design, Stocks, laid, MostOfDocket, cancel), cancel);
        }

        return await Part("_Fuller", cancel);
    }

    /// <summary>What takes a while to try; a layout is never changed, so that it holds for it from then on. What was given up is not kept.</summary>
    private async Task<T> TriedOnce<T>((string What, Guid Layout) key, Func<T> attempt, CancellationToken cancel)
    {
        if (Parts.Memory.TryGetValue(key, out T? known)) return known!;
        var found = await Task.Run(attempt, cancel);
        cancel.ThrowIfCancellationRequested();
        return Parts.Memory.Set(key, found, new MemoryCacheEntryOptions { Size = 2000 });
    }

    /// <summary>A part of the card for a script, or the whole page where none asks.</summary>
    protected async Task<IActionResult> Part(string name, CancellationToken cancel)
    {
        if (Request.Headers.ContainsKey("HX-Request")) return Partial(name, this);
        await ReadPage(cancel);
        return Page();
    }

    /// <summary>Makes as many copies as the sheets take, and lays them out.</summary>
    public async Task<IActionResult> OnPostFillAsync(int copies, CancellationToken cancel)
    {
        if (copies is < 1 or > MostOfDocket) return Back("Copies go from 1 to 1000.");
        if (Design is not { Pieces.IsEmpty: false }) return Back("There is no piece to lay out.");
        (Docket.Copies, Docket.ChangedAt) = (copies, Parts.Clock.GetUtcNow());
        await Parts.Layouts.Ask(Docket, Me, Parts.Queue, cancel);
        return LocalRedirect(Address(StagePath));
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

        await Parts.Layouts.Ask(Docket, Me, Parts.Queue, cancel);
        return Back();
    }

    protected async Task ReadLayout(CancellationToken cancel) =>
        DesignOfLayout = Layout is null ? null : await Parts.Together.DesignOf(Layout, cancel);

    /// <summary>Changes the design, and lays it out again where it was changed.</summary>
    protected async Task<IActionResult> ChangeAndLayOut(Guid basedOn, Edit edit, CancellationToken cancel)
    {
        var before = Docket.CurrentRevisionId;
        var done = await Change(basedOn, edit, cancel);
        // Only what was changed is laid out again; what was refused leaves all as it is.
        if (Docket.CurrentRevisionId != before) await Parts.Layouts.Ask(Docket, Me, Parts.Queue, cancel);
        return done;
    }
}
