using Falzkunst.Core.Cards;
using Falzkunst.Core.Layout;

namespace Falzkunst.Web.Pages.Dockets;

public sealed class LayOutModel(DocketParts parts) : SheetsPage(parts)
{
    public override int Stage => 5;

    public DocketLayout? Plan => Laid;

    public List<(Stock Stock, int Count)> ByStock { get; private set; } = [];

    public Task OnGetAsync(CancellationToken cancel) => ReadPage(cancel);

    protected override async Task ReadPage(CancellationToken cancel)
    {
        await ReadLayout(cancel);
        ByStock = [.. (Design?.Pieces ?? []).GroupBy(p => Core.Cards.Stocks.For(p, Stocks)).Where(g => g.Key is not null).Select(g => (g.Key!, g.Count()))];
    }
}
