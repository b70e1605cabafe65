using System.Text.Json.Serialization;

namespace Falzkunst.Core.Looks;

/// <summary>
/// Everything that looks alike in a file: colour, width, dashes, layer, open or closed. Operations are given by look.
/// <see cref="Key"/> tells looks apart and is stable from one reading of the file to the next.
/// </summary>
public sealed record Look(Colour? Fill, Colour? Stroke, [property: JsonPropertyName("widthMm")] Length Width, bool Dashed, string Layer, bool Closed)
{
    private const int Decimals = 3;

    /// <summary>Follows from the rest; things of one look refer to it by this.</summary>
    public string Key { get; } = string.Create(CultureInfo.InvariantCulture,
        $"{Fill?.Hex ?? "-"}/{Stroke?.Hex ?? "-"}/{Math.Round(Width.Mm, Decimals)}/{(Dashed ? "dashed" : "solid")}/{(Closed ? "closed" : "open")}/{Layer}");

    public static Look Of(Ink ink, string layer, bool closed) =>
        new(ink.Fill, ink.Stroke?.Colour, Rounded(ink.Stroke?.Width ?? Length.Zero), ink.Stroke is { Dashes.IsEmpty: false }, layer, closed);

    /// <summary>The look of the same things so many times as large.</summary>
    public Look Scaled(double by) => new(Fill, Stroke, Rounded(Width * by), Dashed, Layer, Closed);

    private static Length Rounded(Length width) => Length.FromMm(Math.Round(width.Mm, Decimals));

    /// <summary>In words, for the look table: "blue line, 0.25 mm, dashed, open".</summary>
    public string Describe()
    {
        var parts = new List<string>();
        if (Fill is { } f) parts.Add(ColourNames.Of(f) + " shape");
        else if (Stroke is { } s) parts.Add(ColourNames.Of(s) + " line");
        if (Fill is null && Width > Length.Zero) parts.Add(Width.ToString());
        if (Dashed) parts.Add("dashed");
        if (Fill is null) parts.Add(Closed ? "closed" : "open");
        if (Layer.Length > 0) parts.Add($"in “{Layer}”");
        return string.Join(", ", parts);
    }
}
