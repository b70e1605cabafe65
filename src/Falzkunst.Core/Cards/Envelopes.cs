namespace Falzkunst.Core.Cards;

/// <summary>An envelope by its outer size.</summary>
public sealed record Envelope(string Name, Length Width, Length Height)
{
    /// <summary>How much smaller than an envelope a flat card must be, each way, to slide in: 3 mm, and as much again as it is thick, since a thick card lifts
    /// the paper from both its sides.</summary>
    public static Length Clearance(Length thickness) => Length.FromMm(3) + thickness * 2;

    /// <summary>The largest front that it takes, lying as the envelope does.</summary>
    public (Length Width, Length Height) LargestFront(Length thickness) => (Width - Clearance(thickness), Height - Clearance(thickness));

    /// <summary>The largest front of a base that it takes with all that lies on the base, when it is closed.</summary>
    /// <param name="before">What the base is added to; null where there is nothing yet.</param>
    /// <param name="upright">Whether the front stands, or lies as the envelope does.</param>
    public (Length Width, Length Height) FrontOf(BaseKind kind, int panels, Design? before, IReadOnlyList<Stock> stocks, bool upright)
    {
        // As thick as any base of that kind, whatever its size.
        var any = CardBase.Of(kind, Width, Height) with { PanelCount = panels };
        var with = before is null ? new Begin(any).First : new AddBase(any, default).Apply(before);
        var (w, h) = LargestFront(with is null ? Length.Zero : Envelopes.ThicknessOf(with, stocks));
        (w, h) = (Rounded(w), Rounded(h));
        return upright == w > h ? (h, w) : (w, h);

        // To a tenth of a mm, down.
        static Length Rounded(Length l) => Length.FromMm(Math.Floor(l.Mm * 10) / 10);
    }

    /// <summary>What is left on the tighter side when a card lies in it, the better way round; negative where it does not fit.</summary>
    /// <example>A front of 105 × 148 leaves 6 mm in a C6 envelope of 114 × 162: 114 − 105 − 3.</example>
    public Length ToSpare(Length width, Length height, Length thickness)
    {
        var (w, h) = LargestFront(thickness);
        return Longer(Shorter(w - width, h - height), Shorter(w - height, h - width));

        static Length Shorter(Length a, Length b) => a < b ? a : b;

        static Length Longer(Length a, Length b) => a > b ? a : b;
    }
}

/// <summary>Envelopes that are sold (ISO 269, and those in inches), and what goes into them.</summary>
public static class Envelopes
{
    public static IReadOnlyList<Envelope> All { get; } =
    [
        Mm("C7", 114, 81), Mm("C6", 162, 114), Mm("B6", 176, 125), Mm("C5", 229, 162), Mm("B5", 250, 176), Mm("DL", 220, 110), Mm("square 130", 130, 130),
        Mm("square 140", 140, 140), Mm("square 155", 155, 155), Mm("square 160", 160, 160), In("A1 (US)", 5.125, 3.625), In("A2 (US)", 5.75, 4.375),
        In("A6 (US)", 6.5, 4.75), In("A7 (US)", 7.25, 5.25), In("No. 10 (US)", 9.5, 4.125), In("square 5½ in", 5.5, 5.5), In("square 6½ in", 6.5, 6.5),
    ];

    /// <summary>The envelopes that take a card, the tightest first.</summary>
    /// <param name="thickness">Of the closed card, with all its plies and what stands between them.</param>
    public static IReadOnlyList<(Envelope Envelope, Length ToSpare)> For(Length width, Length height, Length thickness) =>
    [
        .. All.Select(e => (Envelope: e, ToSpare: e.ToSpare(width, height, thickness))).Where(e => e.ToSpare >= Length.Zero)
            .OrderBy(e => e.Envelope.Width.Mm * e.Envelope.Height.Mm),
    ];

    /// <summary>How thick a card is when it is closed: the papers of its plies, a folded one as often as its panels lie on one another, and the foam
    /// between.</summary>
    public static Length ThicknessOf(Design design, IReadOnlyList<Stock> stocks)
    {
        var sum = Length.Zero;
        foreach (var ply in design.Plies)
        {
            sum += ply.Foam;
            if (design.Papers.FirstOrDefault(p => p.PlyId == ply.Id) is not { } first || Stocks.For(first, stocks) is not { } stock) continue;
            sum += stock.Thickness * (first.Folds.IsEmpty ? 1 : Layers(Panels.Of(first)));
        }

        return sum;

        // Two half doors lie beside one another.
        static int Layers(IReadOnlyList<PanelArea> panels) => (int)Math.Ceiling(panels.Sum(p => p.AreaMm2) / panels.Max(p => p.AreaMm2) - 0.05);
    }

    public static Envelope? Find(string name) => All.FirstOrDefault(e => e.Name == name);

    private static Envelope Mm(string name, double width, double height) => new(name, Length.FromMm(width), Length.FromMm(height));

    private static Envelope In(string name, double width, double height) => new(name, Length.FromInches(width), Length.FromInches(height));
}
