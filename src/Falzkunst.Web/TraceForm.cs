using System.Collections.Immutable;
using System.Globalization;
using Falzkunst.Core.Cards;
using Falzkunst.Core.Tracing;

namespace Falzkunst.Web;

/// <summary>The form that a picture is traced by: what stands in its fields, as settings, and back.</summary>
public static class TraceForm
{
    /// <summary>Reads the form's fields. What is not in it stays as it was; the sentence says which field can't be understood.</summary>
    public static (TraceSettings Settings, string Problem) Read(TraceSettings before, double pxPerInch, LengthUnit unit, Func<string, string?> field)
    {
        var settings = before with
        {
            Dpi = pxPerInch,
            Mode = Enum.TryParse<TraceMode>(field("mode"), true, out var mode) ? mode : before.Mode,
            Ground = Enum.TryParse<Ground>(field("ground"), true, out var ground) ? ground : before.Ground,
            Threshold = Number("threshold") is { } t ? Math.Clamp(t, 1, 254) : null,
            Colours = (int)Math.Clamp(Number("colours") ?? before.Colours, 1, 12),
            Smoothing = Math.Clamp(Number("smoothing") ?? before.Smoothing, 0, 5),
            CornerDegrees = Math.Clamp(Number("corners") ?? before.CornerDegrees, 10, 120),
            PaperTolerance = Math.Clamp(Number("tolerance") ?? before.PaperTolerance, 0, 100),
            EvenLight = field("evenLight") is "true" ? true : null,
            Join = field("join") is "true",
            KeepPicture = field("keepPicture") is "true",
            Stacked = field("sideBySide") is not "true",
        };
        if (field("speck") is { Length: > 0 } speck)
        {
            if (Number("speck") is not (>= 0 and <= 10_000)) return (before, $"Specks are left out from 0 to 10,000 mm², not “{speck}”.");
            settings = settings with { SpeckMm2 = Number("speck")!.Value };
        }

        if (field("border") is { Length: > 0 } border)
        {
            if (!LengthText.TryRead(border, unit, out var rim, out var error)) return (before, error);
            if (rim.Mm is < 0 or > 100) return (before, "A border is from 0 to 100 mm wide.");
            settings = settings with { Border = rim };
        }

        if (field("crop") is { } crop)
        {
            var p = Pixels(crop);
            if (p is null || p.Length is not (0 or 4) || (p.Length == 4 && (p[2] < 2 || p[3] < 2))) return (before, "A crop is four numbers of pixels: from the left, from the top, width, height.");
            settings = settings with { Crop = p.Length == 4 ? new(p[0], p[1], p[2], p[3]) : null };
        }

        if (field("touched") is { } touched)
        {
            var p = Pixels(touched);
            if (p is null || p.Length % 2 != 0) return (before, "Touched places are pairs of pixels: from the left, from the top.");
            if (p.Length / 2 > TraceSettings.MostTouched) return (before, $"At most {TraceSettings.MostTouched} places can be touched; a higher tolerance may take several at once.");
            settings = settings with { Touched = [.. p.Chunk(2).Select(xy => new Pixel(xy[0], xy[1]))] };
        }

        return (settings, "");

        double? Number(string name) => double.TryParse(field(name), CultureInfo.InvariantCulture, out var v) && double.IsFinite(v) ? v : null;
    }

    public static string Text(PixelBox? crop) => crop is { } c ? $"{c.X}, {c.Y}, {c.Width}, {c.Height}" : "";

    public static string Text(ImmutableArray<Pixel> touched) => string.Join("; ", touched.Select(t => $"{t.X}, {t.Y}"));

    /// <summary>Numbers with anything between them; null where there is something else.</summary>
    private static int[]? Pixels(string text)
    {
        var parts = text.Split([',', ';', ' '], StringSplitOptions.RemoveEmptyEntries);
        var numbers = new int[parts.Length];
        for (var i = 0; i < parts.Length; i++)
            if (!int.TryParse(parts[i], CultureInfo.InvariantCulture, out numbers[i]) || numbers[i] is < 0 or > 100_000) return null;
        return numbers;
    }
}
