using System.Text.Json.Serialization;

namespace Falzkunst.Core.Cards;

/// <summary>What of a picture becomes paths.</summary>
public enum TraceMode
{
    /// <summary>The whole picture, on a rectangle: nothing of it is left out.</summary>
    Whole,

    /// <summary>The outer edge only, to cut around the picture.</summary>
    Outline,

    /// <summary>One colour, with its holes.</summary>
    Flat,

    /// <summary>Several colours, each with its own paths.</summary>
    Colours,

    /// <summary>Pen strokes as single lines along their middle.</summary>
    CentreLine,
}

/// <summary>What of a picture is ground, on which the rest lies.</summary>
public enum Ground
{
    /// <summary>Only what is see-through. The outline, which needs something to part from, takes what is joined to the rim where the picture is
    /// opaque.</summary>
    SeeThrough,

    /// <summary>What looks like the picture's rim and is joined to it.</summary>
    JoinedToRim,

    /// <summary>What looks like the picture's rim, wherever it is, enclosed places too.</summary>
    LikeRim,
}

/// <summary>A pixel of a picture, counted from its upper left corner.</summary>
public readonly record struct Pixel(int X, int Y);

/// <summary>A part of a picture, in px from its upper left corner.</summary>
public readonly record struct PixelBox(int X, int Y, int Width, int Height);

/// <summary>How a picture is traced.</summary>
public sealed record TraceSettings
{
    public required TraceMode Mode { get; init; }

    /// <summary>Pixels in an inch; null takes what the file says, or the usual.</summary>
    public double? Dpi { get; init; }

    /// <summary>The lightness (0 to 255) below which there is ink; null finds it.</summary>
    public double? Threshold { get; init; }

    /// <summary>Whether uneven light is taken away; null where it is found to be uneven.</summary>
    public bool? EvenLight { get; init; }

    /// <summary>How many colours, without the paper; 1 to 12.</summary>
    public int Colours { get; init; } = 4;

    /// <summary>Whether each colour also lies under those above it, as layers of a card do; otherwise side by side.</summary>
    public bool Stacked { get; init; } = true;

    /// <summary>The part of the picture that is traced, in px of the file; null takes all of it.</summary>
    public PixelBox? Crop { get; init; }

    /// <summary>What is taken away as ground before anything else.</summary>
    public Ground Ground { get; init; }

    /// <summary>Places whose surroundings are taken away as well: what looks like the pixel there and is joined to it. In px of the file; at most
    /// <see cref="TraceLimits.MostTouched"/>.</summary>
    public ImmutableArray<Pixel> Touched { get; init; } = [];

    /// <summary>How different from the ground (0 to 100, perceptually; CIE 1976) a colour may be and still be ground.</summary>
    public double PaperTolerance { get; init; } = 10;

    /// <summary>0 follows every pixel, 1 is usual, 3 is very smooth.</summary>
    public double Smoothing { get; init; } = 1;

    /// <summary>The least turn in one place that is kept as a corner and not rounded to a bend.</summary>
    [JsonPropertyName("cornerDegrees")]
    public Angle Corner { get; init; } = Angle.FromDegrees(32);

    /// <summary>Areas and holes smaller than this are left out.</summary>
    public double SpeckMm2 { get; init; } = 0.06;

    /// <summary>For the outline and the rectangle: how far outside the picture's edge it runs.</summary>
    public Length Border { get; init; }

    /// <summary>For the outline: whether parts that lie apart are joined to one piece.</summary>
    public bool Join { get; init; }

    /// <summary>Whether the picture stays, as artwork on what was traced; without it nothing would be left of one that is taken whole.</summary>
    public bool KeepPicture
    {
        get => field || Mode == TraceMode.Whole;
        init;
    }

    /// <summary>The same picture made another thing of: cut around after it was whole, it stays printed and parts from its ground.</summary>
    public TraceSettings By(TraceMode mode) => Mode == TraceMode.Whole && mode == TraceMode.Outline
        ? this with { Mode = mode, KeepPicture = true, Ground = Ground == Ground.SeeThrough ? Ground.JoinedToRim : Ground } : this with { Mode = mode };

    public bool Equals(TraceSettings? o) => o is not null
        && (Mode, Dpi, Threshold, EvenLight, Colours, Stacked, Crop) == (o.Mode, o.Dpi, o.Threshold, o.EvenLight, o.Colours, o.Stacked, o.Crop)
        && (Ground, PaperTolerance, Smoothing, Corner, SpeckMm2, Border, Join, KeepPicture) == (o.Ground, o.PaperTolerance, o.Smoothing,
        o.Corner, o.SpeckMm2, o.Border, o.Join, o.KeepPicture)
        && Touched.Same(o.Touched);

    public override int GetHashCode() => HashCode.Combine(Mode, Dpi, Colours, Smoothing, Border);
}

/// <summary>What settings of a tracing may be. The form, the command line and reading files all ask here.</summary>
public static class TraceLimits
{
    public const int MostColours = 12, MostTouched = 40, MostBorderMm = 100, MostSpeckMm2 = 10_000, MostPixel = 100_000;
    public const double LeastThreshold = 1, MostThreshold = 254, MostSmoothing = 5, LeastCornerDegrees = 10, MostCornerDegrees = 120, MostTolerance = 100,
        LeastDpi = 1, MostDpi = 10_000;

    /// <summary>The first setting that is out of bounds; null where all is well.</summary>
    public static TraceFault? Fault(TraceSettings s)
    {
        return !Enum.IsDefined(s.Mode) ? new("mode", "one of the known ways") : !Enum.IsDefined(s.Ground) ? new("ground", "one of the known ways")
            : s.Dpi is { } dpi && dpi is not (>= LeastDpi and <= MostDpi) ? Number("dpi", LeastDpi, MostDpi)
            : s.Threshold is { } t && t is not (>= LeastThreshold and <= MostThreshold) ? Number("threshold", LeastThreshold, MostThreshold)
            : s.Colours is < 1 or > MostColours ? Number("colours", 1, MostColours)
            : s.Smoothing is not (>= 0 and <= MostSmoothing) ? Number("smoothing", 0, MostSmoothing)
            : s.Corner.Degrees is not (>= LeastCornerDegrees and <= MostCornerDegrees)
            ? new("corners", $"degrees from {LeastCornerDegrees} to {MostCornerDegrees}")
            : s.PaperTolerance is not (>= 0 and <= MostTolerance) ? Number("tolerance", 0, MostTolerance)
            : s.SpeckMm2 is not (>= 0 and <= MostSpeckMm2) ? new("speck", $"an area from 0 to {MostSpeckMm2} mm²")
            : s.Border.Mm is not (>= 0 and <= MostBorderMm) ? new("border", $"0 to {MostBorderMm} mm")
            : s.Crop is { } c && (c.X is < 0 or > MostPixel || c.Y is < 0 or > MostPixel || c.Width is < 2 or > MostPixel || c.Height is < 2 or > MostPixel)
            ? new("crop", "four numbers of pixels: from the left, from the top, width, height")
            : s.Touched.IsDefault || s.Touched.Length > MostTouched ? new("touch", $"at most {MostTouched} places; a higher tolerance may take several at once")
            : s.Touched.Any(p => p.X is < 0 or > MostPixel || p.Y is < 0 or > MostPixel) ? new("touch", "pairs of pixels: from the left, from the top") : null;

        static TraceFault Number(string setting, double least, double most) =>
            new(setting, string.Create(CultureInfo.InvariantCulture, $"a number from {least} to {most}"));
    }
}

/// <summary>A setting of a tracing that is out of bounds, and what it takes.</summary>
public sealed record TraceFault(string Setting, string Takes)
{
    /// <summary>A sentence for the person who chose it.</summary>
    public override string ToString() => $"{char.ToUpperInvariant(Setting[0])}{Setting[1..]} takes {Takes}.";
}
