namespace Falzkunst.Core.Reading.Svg;

/// <summary>Lengths as SVG and CSS write them.</summary>
internal static class SvgLengths
{
    /// <summary>Pixels in an inch, which CSS fixes.</summary>
    public const double PxPerInch = 96;

    /// <summary>A length or percentage in user units; null where there is none or it is no number.</summary>
    /// <param name="hundredPercent">What percentages refer to.</param>
    public static double? Read(string? text, SvgStyle style, double hundredPercent) => Read(text, style.FontSize, hundredPercent);

    public static double? Read(string? text, double em, double hundredPercent)
    {
        if (text is null) return null;
        var scan = new PathText.Scanner(text);
        if (!scan.Number(out var v)) return null;
        if (scan.AtEnd) return v;
        var unit = UnitOf(text);
        var length = unit == "%" ? v / 100 * hundredPercent : v * PxOf(unit, em);
        return double.IsFinite(length) ? length : null;
    }

    /// <summary>The width or height of a page, in px; null where it says nothing of its own.</summary>
    public static double? ReadPage(string? text, out bool physical)
    {
        physical = false;
        if (text is null || text.Trim() is "" or "auto" || text.TrimEnd().EndsWith('%')) return null;
        var scan = new PathText.Scanner(text);
        if (!scan.Number(out var v)) return null;
        var unit = UnitOf(text);
        physical = unit is "mm" or "cm" or "in" or "pt" or "pc" or "q";
        return v * PxOf(unit, 16);
    }

    private static string UnitOf(string text) => new string([.. text.Where(c => char.IsAsciiLetter(c) || c == '%')]).ToLowerInvariant() is var u
        && u.StartsWith('e') && u is not ("em" or "ex") ? u.TrimStart('e') : u;

    private static double PxOf(string unit, double em) => unit switch
    {
        "mm" => PxPerInch / 25.4,
        "cm" => PxPerInch / 2.54,
        "q" => PxPerInch / 101.6,
        "in" => PxPerInch,
        "pt" => PxPerInch / 72,
        "pc" => PxPerInch / 6,
        "em" => em,
        "rem" => 16,
        "ex" => em / 2,
        _ => 1,
    };
}
