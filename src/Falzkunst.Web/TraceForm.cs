using System.Collections.Immutable;
using System.Globalization;
using Falzkunst.Core.Cards;
using Falzkunst.Core.Tracing;

namespace Falzkunst.Web;

/// <summary>The form that a picture is traced by: what stands in its fields, as settings, and back.</summary>
public static class TraceForm
{
    /// <summary>Reads the form's fields. What is not in it stays as it was; the sentence says which field can't be understood.</summary>
    /// <param name="width">Of the file, in px.</param>
    public static (TraceSettings Settings, string Problem) Read(TracedPicture picture, int width, LengthUnit unit, Func<string, string?> field)
    {
        var (before, pxPerInch) = (picture.Tracing.Settings, picture.Scale.PxPerInch);
        // The size that stands in the form is rounded: what was not touched stays exactly as it is.
        if (field("wide") is { Length: > 0 } typed && typed != WidthOf(picture, width, unit))
        {
            if (!LengthText.TryRead(typed, unit, out var wide, out var wrong)) return (before, wrong);
            if (wide.Mm is not (>= 1 and <= 5000)) return (before, "It was not traced: a picture is from 1 mm to 5 m wide.");
            pxPerInch = width * Length.MmPerInch / wide.Mm;
        }

        var by = before.By(Enum.TryParse<TraceMode>(field("mode"), true, out var mode) ? mode : before.Mode);
        var isTurned = by != before with { Mode = by.Mode };
        var settings = by with
        {
            Dpi = pxPerInch,
            Ground = !isTurned && Enum.TryParse<Ground>(field("ground"), true, out var ground) ? ground : by.Ground,
            Threshold = Number("threshold"),
            Colours = Number("colours") is { } c ? (int)Math.Clamp(c, int.MinValue, int.MaxValue) : before.Colours,
            Smoothing = Number("smoothing") ?? before.Smoothing,
            Corner = Number("corners") is { } degrees ? Angle.FromDegrees(degrees) : before.Corner,
            PaperTolerance = Number("tolerance") ?? before.PaperTolerance,
            EvenLight = field("evenLight") is "true" ? true : null,
            Join = field("join") is "true",
            KeepPicture = isTurned || field("keepPicture") is "true",
            Stacked = field("sideBySide") is not "true",
        };
        if (field("speck") is { Length: > 0 } speck)
        {
            if (Number("speck") is not { } area) return (before, Sentence(new("speck", $"a number of mm², not “{speck}”")));
            settings = settings with { SpeckMm2 = area };
        }

        if (field("border") is { Length: > 0 } border)
        {
            if (!LengthText.TryRead(border, unit, out var rim, out var error)) return (before, error);
            settings = settings with { Border = rim };
        }

        if (field("crop") is { } crop)
        {
            var p = Pixels(crop);
            if (p is null || p.Length is not (0 or 4)) return (before, "A crop is four numbers of pixels: from the left, from the top, width, height.");
            settings = settings with { Crop = p.Length == 4 ? new(p[0], p[1], p[2], p[3]) : null };
        }

        if (field("touched") is { } touched)
        {
            var p = Pixels(touched);
            if (p is null || p.Length % 2 != 0) return (before, "Touched places are pairs of pixels: from the left, from the top.");
            settings = settings with { Touched = [.. p.Chunk(2).Select(xy => new Pixel(xy[0], xy[1]))] };
        }

        return TraceLimits.Fault(settings) is { } fault ? (before, Sentence(fault)) : (settings, "");

        double? Number(string name) => double.TryParse(field(name), CultureInfo.InvariantCulture, out var v) && double.IsFinite(v) ? v : null;
    }

    private static string Sentence(TraceFault fault) => $"It was not traced: “{fault.Setting}” takes {fault.Takes}.";

    /// <summary>How wide the whole picture is now, as its field shows it.</summary>
    public static string WidthOf(TracedPicture picture, int width, LengthUnit unit) =>
        LengthText.Write(Length.FromMm(width * Length.MmPerInch / picture.Scale.PxPerInch), unit);

    public static string Text(PixelBox? crop) => crop is { } c ? $"{c.X}, {c.Y}, {c.Width}, {c.Height}" : "";

    public static string Text(ImmutableArray<Pixel> touched) => string.Join("; ", touched.Select(t => $"{t.X}, {t.Y}"));

    /// <summary>Numbers with anything between them; null where there is something else.</summary>
    private static int[]? Pixels(string text)
    {
        var parts = text.Split([',', ';', ' '], StringSplitOptions.RemoveEmptyEntries);
        var numbers = new int[parts.Length];
        for (var i = 0; i < parts.Length; i++)
            if (!int.TryParse(parts[i], CultureInfo.InvariantCulture, out numbers[i])) return null;
        return numbers;
    }
}
