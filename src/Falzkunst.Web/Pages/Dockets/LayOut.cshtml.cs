using Falzkunst.Core.Cards;
using Falzkunst.Core.Layout;
using Falzkunst.Store;
using Microsoft.AspNetCore.Mvc;
using Microsoft.EntityFrameworkCore;

namespace Falzkunst.Web.Pages.Dockets;

public sealed class LayOutModel(DocketParts parts) : DocketPage(parts)
{
    /// <summary>A worker says at least twice a second that it is alive; one that was silent for so long is gone.</summary>
    private static readonly TimeSpan Silence = TimeSpan.FromSeconds(90);

    public override int Stage => 5;

    public bool Working => Layout is { State: WorkState.Waiting or WorkState.Working } && !Interrupted;

    public bool Interrupted => Layout is { State: WorkState.Waiting or WorkState.Working } && Parts.Clock.GetUtcNow() - Layout.SeenAt > Silence;

    public DocketLayout? Plan { get; private set; }

    /// <summary>The design that the layout was made of, which may be older than the docket's.</summary>
    public Design? DesignOfLayout { get; private set; }

    public List<(Stock Stock, int Count)> ByStock { get; private set; } = [];

    public async Task OnGetAsync(CancellationToken cancel)
    {
        Plan = LayoutJob.Read(Layout);
        DesignOfLayout = Layout is null ? null : await Parts.Revisions.DesignOf(Layout.RevisionId, cancel);
        ByStock = [.. (Design?.Pieces ?? []).GroupBy(p => StockFor(p)).Where(g => g.Key is not null).Select(g => (g.Key!, g.Count()))];
    }

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

    private Stock? StockFor(Piece piece) => Core.Cards.Stocks.For(piece, Stocks);
}
