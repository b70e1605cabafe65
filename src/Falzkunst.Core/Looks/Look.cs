namespace Falzkunst.Core.Looks;

/// <summary>
/// Everything that looks alike in a file: colour, width, dashes, layer, open or closed. Operations are given by look.
/// <paramref name="Key"/> tells looks apart and is stable from one reading of the file to the next.
/// </summary>
public sealed record Look(string Key, Colour? Fill, Colour? Stroke, double WidthMm, bool Dashed, string Layer, bool Closed)
{
    public static Look Of(Ink ink, string layer, bool closed)
    {
        var dashed = ink.Stroke is { DashesMm.IsEmpty: false };
        var width = Math.Round(ink.Stroke?.WidthMm ?? 0, 3);
        var key = string.Create(CultureInfo.InvariantCulture, $"{ink.Fill?.Hex ?? "-"}/{ink.Stroke?.Colour.Hex ?? "-"}/{width}/{(dashed ? "dashed" : "solid")}/{(closed ? "closed" : "open")}/{layer}");
        return new(key, ink.Fill, ink.Stroke?.Colour, width, dashed, layer, closed);
    }

    /// <summary>In words, for the look table: "blue line, 0.25 mm, dashed, open".</summary>
    public string Describe()
    {
        var parts = new List<string>();
        if (Fill is { } f) parts.Add(ColourNames.Of(f) + " shape");
        else if (Stroke is { } s) parts.Add(ColourNames.Of(s) + " line");
        if (Fill is null && WidthMm > 0) parts.Add(WidthMm.ToString("0.##", CultureInfo.InvariantCulture) + " mm");
        if (Dashed) parts.Add("dashed");
        if (Fill is null) parts.Add(Closed ? "closed" : "open");
        if (Layer.Length > 0) parts.Add($"in “{Layer}”");
        return string.Join(", ", parts);
    }
}
