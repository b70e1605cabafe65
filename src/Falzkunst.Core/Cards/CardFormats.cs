namespace Falzkunst.Core.Cards;

/// <summary>A size that cards and papers are made in; either way up.</summary>
public sealed record CardFormat(string Name, double WidthMm, double HeightMm)
{
    /// <summary>How far a size is from this one, as the larger of the two ratios less one: 0.01 is one hundredth off. Either way up.</summary>
    public double Off(double widthMm, double heightMm)
    {
        return Math.Min(One(WidthMm, HeightMm), One(HeightMm, WidthMm));

        double One(double w, double h) => Math.Max(Ratio(w, widthMm), Ratio(h, heightMm)) - 1;

        static double Ratio(double a, double b) => a > b ? a / b : b / a;
    }
}

/// <summary>Sizes at which a drawing without a physical size is likely to have been meant, by its pixels in an inch.</summary>
/// <param name="Format">The format that it would be; null where it would be none.</param>
public sealed record SizeGuess(double PxPerInch, double WidthMm, double HeightMm, CardFormat? Format, double Off);

/// <summary>Known formats (ISO 216, ISO 269, and the common ones in inches), folded and open.</summary>
public static class CardFormats
{
    private const double Near = 0.02;

    public static IReadOnlyList<CardFormat> All { get; } =
    [
        new("A6 card", 105, 148), new("A6 card, open", 210, 148), new("A5 card", 148, 210), new("A5 card, open", 297, 210), new("A7 card", 74, 105),
            new("DL card", 99, 210), new("DL card, open", 198, 210),
        new("square card, 125 mm", 125, 125), new("square card, 125 mm, open", 250, 125), new("square card, 148 mm", 148, 148),
            new("square card, 148 mm, open", 296, 148),
        new("4¼ × 5½ in card", 107.95, 139.7), new("4¼ × 5½ in card, open", 215.9, 139.7), new("5 × 7 in card", 127, 177.8),
            new("5 × 7 in card, open", 254, 177.8),
        new("4½ × 6¼ in card", 114.3, 158.75), new("3½ × 4⅞ in card", 88.9, 123.825), new("4 × 6 in card", 101.6, 152.4), new("C6 envelope", 162, 114),
            new("DL envelope", 220, 110),
        new("A4 sheet", 210, 297), new("A3 sheet", 297, 420), new("letter sheet", 215.9, 279.4), new("6 × 6 in sheet", 152.4, 152.4),
            new("8 × 8 in sheet", 203.2, 203.2), new("12 × 12 in sheet", 304.8, 304.8), new("12 × 24 in sheet", 304.8, 609.6),
    ];

    /// <summary>
    /// What the design would measure at each resolution, with the format that it would be; the likeliest first. What is drawn counts as well as the page, since
    /// pages are
    /// often larger than the card on them.
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
                var best = All.SelectMany(a => new[] { (a, a.Off(design.Width.Mm * f, design.Height.Mm * f)), (a, a.Off(drawn.Width * f, drawn.Height * f)) })
                    .MinBy(t => t.Item2);
                return new SizeGuess(p, design.Width.Mm * f, design.Height.Mm * f, best.Item2 <= Near ? best.a : null, best.Item2);
            }).OrderBy(g => g.Format is null ? double.PositiveInfinity : Math.Round(g.Off, 3)).ThenByDescending(g => g.PxPerInch == design.Scale.PxPerInch)
                .ThenBy(g => g.PxPerInch),
        ];
    }
}
