using System.Text.Json.Serialization;
using Falzkunst.Core.Cards;

namespace Falzkunst.Core.Layout;

/// <summary>What a layout of a docket is made with.</summary>
public sealed record LayoutSettings(int Copies, Length Gap, int Seed, TimeSpan Time)
{
    public static LayoutSettings For(int copies) => new(copies, Length.FromMm(2), 1, TimeSpan.FromSeconds(6));
}

/// <summary>A piece on a sheet.</summary>
/// <param name="ToSheet">Maps the piece's own coordinates to the sheet.</param>
public sealed record PlacedPiece(string PieceId, int Copy, Affine ToSheet);

/// <summary>What lies on one sheet of a stock.</summary>
public sealed record SheetPlan(string StockId, string StockName, SheetSize Size, ImmutableArray<PlacedPiece> Pieces, double Utilisation);

/// <summary>All sheets of a docket, with what could not be laid out.</summary>
public sealed record DocketLayout(int Copies, [property: JsonPropertyName("GapMm")] Length Gap, ImmutableArray<SheetPlan> Sheets,
    ImmutableArray<Unplaced> Unplaced)
{
    public double Utilisation
    {
        get
        {
            var area = Sheets.Sum(s => s.Size.Width.Mm * s.Size.Height.Mm);
            return area > 0 ? Sheets.Sum(s => s.Utilisation * s.Size.Width.Mm * s.Size.Height.Mm) / area : 0;
        }
    }
}

/// <param name="Best">The best so far of the stocks that are finished or under way.</param>
public sealed record LayoutProgress(double Fraction, string Text, DocketLayout Best);

/// <summary>Lays out a whole docket: every piece of every copy on the sheets of its stock.</summary>
public static class SheetPlans
{
    /// <summary>
    /// One request to the engine for each stock, one after the other; the time is shared by the number of pieces. Cancelled, it gives the best so far.
    /// </summary>
    public static DocketLayout LayOut(Design design, IReadOnlyList<Stock> drawer, LayoutSettings settings, TimeProvider clock,
        IProgress<LayoutProgress>? progress = null, CancellationToken cancel = default)
    {
        var sheets = ImmutableArray.CreateBuilder<SheetPlan>();
        var unplaced = ImmutableArray.CreateBuilder<Unplaced>();
        var papers = design.Papers;
        var byStock = papers.GroupBy(p => Stocks.For(p, drawer)).ToList();
        var done = 0;
        foreach (var group in byStock)
        {
            var stock = group.Key;
            if (stock is null)
            {
                unplaced.AddRange(group.SelectMany(p => Enumerable.Range(1, settings.Copies)
                    .Select(c => new Unplaced(p.Id, c, "there is no stock in the drawer"))));
                continue;
            }

            var share = (double)group.Count() / papers.Length;
            var request = RequestFor(stock, group, settings) with { Time = settings.Time * share };
            var before = sheets.ToImmutable();
            var relay = progress is null ? null : new Relay<NestProgress>(p => progress.Report(new(
                Math.Min(1, (done + p.Fraction * group.Count()) / papers.Length), $"{stock.Name}: {p.Text}",
                new(settings.Copies, settings.Gap, p.Best is null ? before
                    : before.AddRange(Plans(design, stock, request, p.Best)), unplaced.ToImmutable()))));
            var result = NestEngine.Run(request, clock, relay, cancel);
            sheets.AddRange(Plans(design, stock, request, result));
            unplaced.AddRange(result.Unplaced);
            done += group.Count();
        }

        return new(settings.Copies, settings.Gap, sheets.ToImmutable(), unplaced.ToImmutable());
    }

    /// <summary>What the engine is asked for one stock; also what an independent check of the result needs.</summary>
    public static NestRequest RequestFor(Stock stock, IEnumerable<Piece> pieces, LayoutSettings settings) => new(
        settings.Gap,
        [.. stock.Sheets.Select((s, i) => new NestSheet($"{i}", s.Width, s.Height, s.Margin, s.Count, []))],
        [.. pieces.Select(p => new NestPiece(p.Id, p.Outline.Transform(p.FaceUp), settings.Copies))])
    {
        Seed = settings.Seed,
        Time = settings.Time,
    };

    private static IEnumerable<SheetPlan> Plans(Design design, Stock stock, NestRequest request, NestResult result)
    {
        var areas = request.Pieces.ToDictionary(p => p.Id, p => Regions.Region.Of(p.Path).AreaMm2);
        for (var i = 0; i < result.SheetIds.Length; i++)
        {
            var size = stock.Sheets[int.Parse(result.SheetIds[i], CultureInfo.InvariantCulture)];
            var on = result.Placements.Where(p => p.Sheet == i).ToList();
            yield return new(stock.Id, stock.Name, size,
                [.. on.Select(p => new PlacedPiece(p.Piece, p.Copy, (design.Piece(p.Piece)?.FaceUp ?? Affine.Identity).Then(p.ToSheet)))],
                on.Sum(p => areas[p.Piece]) / (size.Width.Mm * size.Height.Mm));
        }
    }

    /// <summary>Reports at once, on the thread that works; the framework's own class would post each report elsewhere, out of order.</summary>
    private sealed class Relay<T>(Action<T> to) : IProgress<T>
    {
        public void Report(T value) => to(value);
    }
}
