namespace Falzkunst.Core.Reading;

/// <summary>A colour as a file states it; alpha from 0 to 1.</summary>
public readonly record struct Colour(byte R, byte G, byte B, double Alpha = 1)
{
    public static Colour Black { get; } = new(0, 0, 0);

    public static Colour White { get; } = new(255, 255, 255);

    /// <summary>As <c>#rrggbb</c>, without alpha.</summary>
    public string Hex => $"#{R:x2}{G:x2}{B:x2}";

    public static Colour FromHex(string hex) => new(
        Convert.ToByte(hex[1..3], 16), Convert.ToByte(hex[3..5], 16), Convert.ToByte(hex[5..7], 16));

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

/// <summary>How a line is drawn in the file: colour, width and dashes in mm. A hairline has width 0.</summary>
public sealed record Stroke(Colour Colour, double WidthMm, LineCap Cap, LineJoin Join, double MiterLimit, ImmutableArray<double> DashesMm, double DashOffsetMm)
{
    public bool Equals(Stroke? o) => o is not null && Colour == o.Colour && WidthMm == o.WidthMm && Cap == o.Cap && Join == o.Join
        && MiterLimit == o.MiterLimit && DashOffsetMm == o.DashOffsetMm && DashesMm.AsSpan().SequenceEqual(o.DashesMm.AsSpan());

    public override int GetHashCode() => HashCode.Combine(Colour, WidthMm, Cap, Join, DashesMm.Length);
}

/// <summary>How a path looks in the file it came from.</summary>
public sealed record Ink(Colour? Fill, FillRule Rule, Stroke? Stroke)
{
    public static Ink None { get; } = new(null, FillRule.EvenOdd, null);

    /// <summary>Whether the fill is a gradient or a pattern: its colour is the mean, and a picture of it lies on the piece.</summary>
    public bool IsPainted { get; init; }
}

/// <summary>Something drawn, in paint order: the first lies lowest. <paramref name="Layer"/> is the label of the innermost named layer, or empty.</summary>
public abstract record DrawnItem(string Name, string Layer);

/// <summary>A path in mm, with how it is painted.</summary>
public sealed record DrawnPath(string Name, string Layer, VectorPath Path, Ink Ink) : DrawnItem(Name, Layer)
{
    /// <summary>The picture of its gradient or pattern, see-through outside the path; null where it has a plain colour.</summary>
    public DrawnPicture? Paint { get; init; }
}

/// <summary>An embedded picture: its bytes as they stand in the file, and the map from the unit square to mm.</summary>
public sealed record DrawnPicture(string Name, string Layer, string MediaType, ImmutableArray<byte> Bytes, Affine Place, double Opacity) : DrawnItem(Name, Layer);

/// <summary>Whether the file says how large it is, and what was taken otherwise.</summary>
/// <param name="PxPerInch">Pixels in an inch; 96 where the file has physical units, which SVG fixes at 96.</param>
public sealed record ScaleFacts(double PxPerInch, bool IsKnown, string Reason);

/// <summary>Something in the file that was left out or changed, with its place in mm.</summary>
public sealed record ReadingNote(string Code, string Text, Point At);

/// <summary>What stands in a file, before anything is interpreted. The producer is the first comment in it. All in mm, y down, from the upper left corner of the page.</summary>
public sealed record Drawing(double WidthMm, double HeightMm, ScaleFacts Scale, ImmutableArray<DrawnItem> Items, ImmutableArray<ReadingNote> Notes, string Producer = "");

/// <summary>The file can't be read; the message is one plain sentence for the person who brought it.</summary>
public class UnreadableFileException(string message) : Exception(message);

/// <summary>The file took longer to read than the limit allows.</summary>
public sealed class OutOfTimeException(TimeSpan limit)
    : UnreadableFileException($"it takes longer than {limit.TotalSeconds:0} seconds to read; take it apart into smaller files");

/// <summary>How much of a file is read before it is refused.</summary>
public sealed record ReadingLimits
{
    public static ReadingLimits Default { get; } = new();

    public long FileBytes { get; init; } = 50_000_000;

    public long UnzippedBytes { get; init; } = 200_000_000;

    public int Segments { get; init; } = 2_000_000;

    /// <summary>Elements drawn, each use of one counted.</summary>
    public int Elements { get; init; } = 500_000;

    public long PicturePixels { get; init; } = 60_000_000;

    public int Nesting { get; init; } = 200;

    public long EntityCharacters { get; init; } = 1_000_000;

    /// <summary>Until it is given up; a step that can't be interrupted may still end, so that ten seconds are kept.</summary>
    public TimeSpan Time { get; init; } = TimeSpan.FromSeconds(9);
}
