namespace Falzkunst.Core.Cards;

/// <summary>A size that cards and papers are made in; either way up.</summary>
public sealed record CardFormat(string Name, Length Width, Length Height)
{
    /// <summary>How far a size is from this one, as the larger of the two ratios less one: 0.01 is one hundredth off. Either way up.</summary>
    public double Off(Length width, Length height)
    {
        return Math.Min(One(Width, Height), One(Height, Width));

        double One(Length w, Length h) => Math.Max(Ratio(w.Mm, width.Mm), Ratio(h.Mm, height.Mm)) - 1;

        static double Ratio(double a, double b) => a > b ? a / b : b / a;
    }
}

/// <summary>Sizes at which a drawing without a physical size is likely to have been meant, by its pixels in an inch.</summary>
/// <param name="Format">The format that it would be; null where it would be none.</param>
public sealed record SizeGuess(double PxPerInch, Length Width, Length Height, CardFormat? Format, double Off);

/// <summary>Known formats (ISO 216, ISO 269, and the common ones in inches), folded and open.</summary>
public static class CardFormats
{
    private const double Near = 0.02;

    public static IReadOnlyList<CardFormat> All { get; } =
    [
        Mm("A6 card", 105, 148), Mm("A6 card, open", 210, 148), Mm("A5 card", 148, 210), Mm("A5 card, open", 297, 210), Mm("A7 card", 74, 105),
        Mm("DL card", 99, 210), Mm("DL card, open", 198, 210), Mm("square card, 125 mm", 125, 125), Mm("square card, 125 mm, open", 250, 125),
        Mm("square card, 148 mm", 148, 148), Mm("square card, 148 mm, open", 296, 148), In("4¼ × 5½ in card", 4.25, 5.5), In("4¼ × 5½ in card, open", 8.5, 5.5),
        In("5 × 7 in card", 5, 7), In("5 × 7 in card, open", 10, 7), In("4½ × 6¼ in card", 4.5, 6.25), In("3½ × 4⅞ in card", 3.5, 4.875),
            In("4 × 6 in card", 4, 6),
        Mm("C6 envelope", 162, 114), Mm("DL envelope", 220, 110), Mm("A4 sheet", 210, 297), Mm("A3 sheet", 297, 420), In("letter sheet", 8.5, 11),
        In("6 × 6 in sheet", 6, 6), In("8 × 8 in sheet", 8, 8), In("12 × 12 in sheet", 12, 12), In("12 × 24 in sheet", 12, 24),
    ];

    /// <summary>
    /// What the design would measure at each resolution, with the format that it would be; the likeliest first. What is drawn counts as well as the page, since
    /// pages are often larger than the card on them.
    /// </summary>
    public static IReadOnlyList<SizeGuess> Guesses(Design design)
    {
        var px = design.Sources.All(s => s.Tracing is null) ? new[] { 72.0, 90, 96 } : [150.0, 200, 300, 600];
        if (!px.Contains(design.Scale.PxPerInch)) px = [.. px, design.Scale.PxPerInch];
        var drawn = design.Extent;
        return
        [
            .. px.Select(p =>
            {
                var f = design.Scale.PxPerInch / p;
                var best = All.SelectMany(a =>
                    new[] { (a, a.Off(design.Width * f, design.Height * f)), (a, a.Off(Length.FromMm(drawn.Width * f), Length.FromMm(drawn.Height * f))) })
                    .MinBy(t => t.Item2);
                return new SizeGuess(p, design.Width * f, design.Height * f, best.Item2 <= Near ? best.a : null, best.Item2);
            }).OrderBy(g => g.Format is null ? double.PositiveInfinity : Math.Round(g.Off, 3)).ThenByDescending(g => g.PxPerInch == design.Scale.PxPerInch)
                .ThenBy(g => g.PxPerInch),
        ];
    }

    /// <summary>The format of a name, "A6 card" or "A6" alone; null where there is none.</summary>
    public static CardFormat? Find(string name) => All.FirstOrDefault(f => f.Name.Equals(name, StringComparison.OrdinalIgnoreCase))
        ?? All.FirstOrDefault(f => f.Name.Equals(name + " card", StringComparison.OrdinalIgnoreCase));

    private static CardFormat Mm(string name, double width, double height) => new(name, Length.FromMm(width), Length.FromMm(height));

    private static CardFormat In(string name, double width, double height) => new(name, Length.FromInches(width), Length.FromInches(height));
}
