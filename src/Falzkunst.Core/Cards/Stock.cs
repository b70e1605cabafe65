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

    /// <summary>The pieces whose paper is to be asked for: nobody chose one and none in the drawer suits them, or the one that was chosen is gone from
    /// it. Those with the same papers to choose from are together.</summary>
    public static IEnumerable<PaperAsked> Asked(Design design, IReadOnlyList<Stock> drawer) => drawer.Count == 0 ? []
        : from p in design.Papers
          let isGone = p.StockId is not null
          where !isGone || !drawer.Any(s => s.Id == p.StockId)
          let nearest = Nearest(p, drawer).Take(PaperAsked.Offered).ToList()
          where isGone || PaperFit.Of(p, nearest[0]) > PaperFit.Poor
          group (Piece: p, Nearest: nearest) by (p.Colour, IsGone: isGone, string.Join(' ', nearest.Select(s => s.Id))) into g
          select new PaperAsked(g.Key.Colour, [.. g.Select(i => i.Piece)], [.. g.First().Nearest], g.Key.IsGone);

    /// <summary>The stock a piece goes to: the one chosen for it, else the one that suits it best (of equals, the first). Null where the drawer is
    /// empty.</summary>
    public static Stock? For(Piece piece, IReadOnlyList<Stock> drawer) =>
        (piece.StockId is { } chosen ? drawer.FirstOrDefault(s => s.Id == chosen) : null) ?? drawer.MinBy(s => PaperFit.Of(piece, s));

    /// <summary>All stocks, the one that suits a piece best first.</summary>
    public static IEnumerable<Stock> Nearest(Piece piece, IReadOnlyList<Stock> drawer) => drawer.OrderBy(s => PaperFit.Of(piece, s));

    /// <summary>What settles the papers of a card as they are now, so that nothing that comes into the drawer or leaves it changes them; null where all
    /// are.</summary>
    public static Edit? Settled(Design design, IReadOnlyList<Stock> drawer)
    {
        var open = design.Papers.Where(p => p.StockId is null).GroupBy(p => For(p, drawer)).Where(g => g.Key is not null).ToList();
        return open.Count == 0 ? null : new Series([.. open.Select(g => (Edit)new AssignStock([.. g.Select(p => p.Id)], g.Key!.Id))],
            $"Papers: {string.Join(", ", open.Select(g => g.Key!.Name))}");
    }
}

/// <summary>Pieces whose paper is to be asked for.</summary>
/// <param name="Nearest">The papers that suit them best, best first.</param>
/// <param name="IsGone">Whether the paper that was chosen for them is not in the drawer any more.</param>
public sealed record PaperAsked(Colour Colour, ImmutableArray<Piece> Pieces, ImmutableArray<Stock> Nearest, bool IsGone)
{
    /// <summary>How many papers are offered.</summary>
    public const int Offered = 3;

    /// <summary>Why it is asked, as a sentence.</summary>
    public string Why => IsGone ? $"The paper chosen for {Named} is not in the drawer any more. Which is it to be?"
        : $"No paper in the drawer suits {Named} ({ColourNames.Of(Colour)}) well. Which is it to be?";

    private string Named => Pieces.Length == 1 ? Pieces[0].Label : $"{Pieces[0].Label} and {Pieces.Length - 1} more";
}
