using System.Threading.Channels;
using Falzkunst.Core.Cards;
using Falzkunst.Core.Shapes;
using Falzkunst.Core.Strength;

namespace Falzkunst.Web;

/// <summary>Inspects in the background what pages are about to tell of, one outline after the other, so that no edit waits for it. Nothing is looked at
/// twice.</summary>
public sealed class Inspector(ILogger<Inspector> log) : BackgroundService
{
    private const int Most = 4000;

    private readonly Channel<(VectorPath Outline, Limits Limits)> _waiting = Channel.CreateBounded<(VectorPath, Limits)>(new BoundedChannelOptions(Most)
    {
        FullMode = BoundedChannelFullMode.DropOldest,
        SingleReader = true,
    });

    /// <summary>Looks at pieces when there is time for it.</summary>
    public void Look(Design design, IReadOnlyList<Stock> stocks, IEnumerable<Piece> pieces)
    {
        foreach (var piece in pieces) _waiting.Writer.TryWrite((piece.Outline, Stocks.Bears(design, piece, stocks)));
    }

    protected override async Task ExecuteAsync(CancellationToken stoppingToken)
    {
        await foreach (var (outline, limits) in _waiting.Reader.ReadAllAsync(stoppingToken))
        {
            try
            {
                if (!Inspection.IsKnown(outline, limits)) Inspection.Of(outline, limits, stoppingToken);
            }
            catch (Exception e) when (e is not OperationCanceledException)
            {
                log.LogError(e, "An outline could not be inspected.");
            }
        }
    }
}
