using System.Text.Json.Serialization;

namespace Falzkunst.Core.Looks;

/// <summary>A colour as a file states it; alpha from 0 to 1.</summary>
public readonly record struct Colour(byte R, byte G, byte B, double Alpha = 1)
{
    /// <summary>Whether pale lines are seen on it better than dark ones: its luma (ITU-R BT.601) is under the middle.</summary>
    [JsonIgnore]
    public bool IsDark => 0.299 * R + 0.587 * G + 0.114 * B < 128;

    public static Colour Black { get; } = new(0, 0, 0);

    public static Colour White { get; } = new(255, 255, 255);

    /// <summary>As <c>#rrggbb</c>, without alpha.</summary>
    public string Hex => $"#{R:x2}{G:x2}{B:x2}";

    public static Colour FromHex(string hex) => new(
        Convert.ToByte(hex[1..3], 16), Convert.ToByte(hex[3..5], 16), Convert.ToByte(hex[5..7], 16));

    /// <summary>Lightness, and how green or red and how blue or yellow it is (B. Ottosson, A perceptual color space for image processing, 2020).</summary>
    [JsonIgnore]
    public (double L, double A, double B) Oklab
    {
        get
        {
            double r = Linear(R), g = Linear(G), b = Linear(B);
            double l = Math.Cbrt(0.4122214708 * r + 0.5363325363 * g + 0.0514459929 * b), m = Math.Cbrt(0.2119034982 * r + 0.6806995451 * g + 0.1073969566 * b),
                s = Math.Cbrt(0.0883024619 * r + 0.2817188376 * g + 0.6299787005 * b);
            return (0.2104542553 * l + 0.7936177850 * m - 0.0040720468 * s, 1.9779984951 * l - 2.4285922050 * m + 0.4505937099 * s,
                0.0259040371 * l + 0.7827717662 * m - 0.8086757660 * s);

            static double Linear(byte part) => part / 255.0 is var v && v <= 0.04045 ? v / 12.92 : Math.Pow((v + 0.055) / 1.055, 2.4);
        }
    }

    /// <summary>How different two colours look, roughly: 0 is the same, about 765 black against white (weighted RGB after Riemersma).</summary>
    public double DistanceTo(Colour o)
    {
        double mean = (R + o.R) / 2.0, r = R - o.R, g = G - o.G, b = B - o.B;
        return Math.Sqrt((2 + mean / 256) * r * r + 4 * g * g + (2 + (255 - mean) / 256) * b * b);
    }
}

public enum LineCap
{
    Butt,
    Round,
    Square,
}

public enum LineJoin
{
    Miter,
    Round,
    Bevel,
}

/// <summary>How a line is drawn in the file: colour, width and dashes. A hairline has width 0.</summary>
/// <param name="Dashes">Dash, gap, dash, and so on; empty for a line without gaps.</param>
public sealed record Stroke(Colour Colour, [property: JsonPropertyName("widthMm")] Length Width, LineCap Cap, LineJoin Join, double MiterLimit,
    [property: JsonPropertyName("dashesMm")] ImmutableArray<Length> Dashes, [property: JsonPropertyName("dashOffsetMm")] Length DashOffset)
{
    public bool Equals(Stroke? o) => o is not null && Colour == o.Colour && Width == o.Width && Cap == o.Cap && Join == o.Join
        && MiterLimit == o.MiterLimit && DashOffset == o.DashOffset && Dashes.AsSpan().SequenceEqual(o.Dashes.AsSpan());

    public override int GetHashCode() => HashCode.Combine(Colour, Width, Cap, Join, Dashes.Length);
}

/// <summary>How a path looks in the file it came from.</summary>
public sealed record Ink(Colour? Fill, FillRule Rule, Stroke? Stroke)
{
    public static Ink None { get; } = new(null, FillRule.EvenOdd, null);

    /// <summary>Whether the fill is a gradient or a pattern: its colour is the mean, and a picture of it lies on the piece.</summary>
    public bool IsPainted { get; init; }

    /// <summary>The same ink on something so many times as large.</summary>
    public Ink Scaled(double by) => Stroke is not { } s ? this
        : this with { Stroke = s with { Width = s.Width * by, Dashes = [.. s.Dashes.Select(d => d * by)], DashOffset = s.DashOffset * by } };
}
