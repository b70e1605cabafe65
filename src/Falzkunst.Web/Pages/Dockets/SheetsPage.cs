using Falzkunst.Core.Cards;
using Falzkunst.Store;
using Microsoft.AspNetCore.Mvc;
using Microsoft.EntityFrameworkCore;

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

    public async Task<IActionResult> OnPostLayOutAsync(CancellationToken cancel)
    {
        if (Design is null || Design.Pieces.IsEmpty) return Back("There is no piece to lay out.");
        await Parts.Layouts.Ask(Docket, Parts.Queue, cancel);
        return Back();
    }

    public async Task<IActionResult> OnPostStopAsync(CancellationToken cancel)
    {
        await Parts.Db.Layouts.Where(l => l.DocketId == Docket.Id && (l.State == WorkState.Waiting || l.State == WorkState.Working))
            .ExecuteUpdateAsync(u => u.SetProperty(l => l.StopAsked, true), cancel);
        return Back();
    }

    protected async Task ReadLayout(CancellationToken cancel) =>
        DesignOfLayout = Layout is null ? null : await Parts.Revisions.DesignOf(Layout.RevisionId, cancel);
}
