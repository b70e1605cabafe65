using System.Text.Json.Serialization;
using Falzkunst.Core.Strength;

namespace Falzkunst.Core.Cards;

/// <summary>Which way the fibres of a sheet run, as it lies. Paper folds well along them, and cracks across.</summary>
public enum Grain
{
    /// <summary>Nobody said.</summary>
    Unknown,
    Down,
    Across,
}

/// <summary>Sheets of one size in the drawer. <see cref="Margin"/> is what a machine can't reach along each edge.</summary>
public sealed record SheetSize(
    [property: JsonPropertyName("WidthMm")] Length Width, [property: JsonPropertyName("HeightMm")] Length Height, int Count,
        [property: JsonPropertyName("MarginMm")] Length Margin)
{
    /// <summary>What is left of a sheet that was cut, as SVG path data in mm from the upper left corner of its box: holes are holes. Null for whole sheets,
    /// and for an off-cut that was trimmed to a rectangle.</summary>
    [JsonIgnore(Condition = JsonIgnoreCondition.WhenWritingNull)]
    public string? Left { get; init; }

    /// <summary>Whether it is an off-cut: those are used before whole sheets.</summary>
    [JsonIgnore(Condition = JsonIgnoreCondition.WhenWritingDefault)]
    public bool IsOffCut { get; init; }

    /// <summary>Which way the fibres of the paper run.</summary>
    [JsonIgnore(Condition = JsonIgnoreCondition.WhenWritingDefault)]
    public Grain Grain { get; init; }

    /// <summary>What one costs, in whatever money; null where nobody said.</summary>
    [JsonIgnore(Condition = JsonIgnoreCondition.WhenWritingNull)]
    public double? Price { get; init; }

    /// <summary>The outline of what is left; null for a rectangle.</summary>
    [JsonIgnore]
    public VectorPath? Outline => Left is null ? null : PathText.Read(Left);

    /// <summary>Whether they are sheets of one pile, however many of them, and whatever they cost.</summary>
    public bool IsLike(SheetSize other) => this with { Count = 0, Price = null } == other with { Count = 0, Price = null };

    [JsonIgnore]
    public Length UsableWidth => Length.FromMm(Math.Max(0, (Width - Margin * 2).Mm));

    [JsonIgnore]
    public Length UsableHeight => Length.FromMm(Math.Max(0, (Height - Margin * 2).Mm));
}

/// <summary>A paper, with the sheets of it that are in the drawer.</summary>
/// <param name="WeightGsm">In grams a square metre.</param>
public sealed record Stock(string Id, string Name, Colour Colour, double WeightGsm, Length Thickness, ImmutableArray<SheetSize> Sheets)
{
    /// <summary>What it bears, and can be cut of it.</summary>
    public Limits Bears { get; init; } = Limits.Usual;

    /// <summary>Which way the fibres run in all of its sheets; unknown where that differs, or is not said of all.</summary>
    public Grain Grain => Sheets.Select(s => s.Grain).Distinct().ToList() is [var only] ? only : Grain.Unknown;
}

public static class Stocks
{
    /// <summary>What is asked of a piece: by its docket, where that asks for something of its own, otherwise by its stock.</summary>
    public static Limits Bears(Design design, Piece piece, IReadOnlyList<Stock> drawer) => design.Asked ?? For(piece, drawer)?.Bears ?? Limits.Usual;

    /// <summary>A paper that is farther than this from a colour looks like another one: a red is no copper, and no ivory a yellow.</summary>
    private const double FarApart = 200;

    /// <summary>The pieces for which nobody chose a stock, and whose colour none in the drawer comes near; those of one colour together. What is plain black
    /// has no colour that somebody gave it: that is what files are that say nothing.</summary>
    public static IEnumerable<IGrouping<Colour, Piece>> Far(Design design, IReadOnlyList<Stock> drawer) => drawer.Count == 0 ? []
        : design.Papers.Where(p => p.Colour != Colour.Black && !drawer.Any(s => s.Id == p.StockId) && drawer.Min(s => s.Colour.DistanceTo(p.Colour)) > FarApart)
            .GroupBy(p => p.Colour);

    /// <summary>The stock a piece goes to: the one chosen for it, else the nearest in colour (of equals, the first). Null where the drawer is empty.</summary>
    public static Stock? For(Piece piece, IReadOnlyList<Stock> drawer) =>
        (piece.StockId is { } chosen ? drawer.FirstOrDefault(s => s.Id == chosen) : null) ?? drawer.MinBy(s => s.Colour.DistanceTo(piece.Colour));
}
