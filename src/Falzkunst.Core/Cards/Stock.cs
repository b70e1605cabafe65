
namespace Falzkunst.Core.Cards;

/// <summary>Sheets of one size in the drawer. <see cref="MarginMm"/> is what a machine can't reach along each edge.</summary>
public sealed record SheetSize(double WidthMm, double HeightMm, int Count, double MarginMm)
{
    public double UsableWidthMm => Math.Max(0, WidthMm - 2 * MarginMm);

    public double UsableHeightMm => Math.Max(0, HeightMm - 2 * MarginMm);
}

/// <summary>A paper, with the sheets of it that are in the drawer.</summary>
public sealed record Stock(string Id, string Name, Colour Colour, double WeightGsm, double ThicknessMm, ImmutableArray<SheetSize> Sheets);

public static class Stocks
{
    /// <summary>The stock a piece goes to: the one chosen for it, else the nearest in colour (of equals, the first). Null where the drawer is empty.</summary>
    public static Stock? For(Piece piece, IReadOnlyList<Stock> drawer) =>
        (piece.StockId is { } chosen ? drawer.FirstOrDefault(s => s.Id == chosen) : null) ?? drawer.MinBy(s => s.Colour.DistanceTo(piece.Colour));
}
