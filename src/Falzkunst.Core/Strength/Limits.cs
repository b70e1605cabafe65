namespace Falzkunst.Core.Strength;

/// <summary>What a paper bears, and a blade can cut of it.</summary>
/// <param name="Width">The narrowest that stays whole.</param>
/// <param name="Gap">The narrowest that may lie between two edges.</param>
public sealed record Limits(Length Width, Length Gap)
{
    /// <summary>Of smooth paper, where nothing is known of it.</summary>
    public static Limits Usual { get; } = new(Length.FromMm(0.8), Length.FromMm(0.5));

    /// <summary>Smaller parts are not worth cutting: a dot as wide as the narrowest.</summary>
    public double SpeckMm2 => Math.PI / 4 * Width.Mm * Width.Mm;

    /// <summary>Smaller holes are not: a dot as wide as the narrowest gap.</summary>
    public double PinholeMm2 => Math.PI / 4 * Gap.Mm * Gap.Mm;

    /// <summary>The same with widths and gaps so many times as large.</summary>
    public Limits Times(double by) => new(Width * by, Gap * by);

    /// <summary>What is wrong with them, as a sentence; null where all is well.</summary>
    public string? Fault() => Width.Mm is not (>= 0.05 and <= 20) ? "The narrowest that a paper bears is 0.05 to 20 mm; nothing was changed."
        : Gap.Mm is not (>= 0.02 and <= 20) ? "The narrowest gap is 0.02 to 20 mm; nothing was changed." : null;
}
