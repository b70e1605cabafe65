using Falzkunst.Core.Cards;

namespace Falzkunst.Web;

/// <summary>Numbers as the pages write them.</summary>
public static class Words
{
    public static string Count(int n, string one, string? many = null) => n == 1 ? $"1 {one}" : $"{n:N0} {many ?? one + "s"}";

    public static string Size(double widthMm, double heightMm, string unit) => unit == "in"
        ? $"{widthMm / Length.MmPerInch:0.##} × {heightMm / Length.MmPerInch:0.##} in"
        : $"{widthMm:0.#} × {heightMm:0.#} mm";

    public static string Mm(double mm, string unit) => LengthText.Write(Length.FromMm(mm), unit == "in" ? LengthUnit.Inch : LengthUnit.Millimetre);

    /// <summary>A length worked by a tool, short: "412 mm", "3.2 m".</summary>
    public static string Run(double mm) => mm < 1000 ? $"{mm:0} mm" : $"{mm / 1000:0.0} m";

    public static string Time(double seconds) => seconds < 60 ? $"{Math.Max(1, Math.Round(seconds)):0} s" : seconds < 3600 ? $"{Math.Floor(seconds / 60):0} min {seconds % 60:0} s" : $"{Math.Floor(seconds / 3600):0} h {seconds % 3600 / 60:0} min";

    /// <summary>A way of tracing, in words.</summary>
    public static string OfMode(Falzkunst.Core.Cards.TraceMode mode) => mode switch
    {
        Falzkunst.Core.Cards.TraceMode.Outline => "outer edge",
        Falzkunst.Core.Cards.TraceMode.Flat => "one colour",
        Falzkunst.Core.Cards.TraceMode.Colours => "several colours",
        _ => "pen strokes",
    };

    public static string OfGround(Falzkunst.Core.Cards.Ground ground) => ground switch
    {
        Falzkunst.Core.Cards.Ground.JoinedToRim => "what is joined to the rim",
        Falzkunst.Core.Cards.Ground.LikeRim => "all that looks like the rim",
        _ => "nothing but what is see-through",
    };

    /// <summary>What a design holds, in words: "14 pieces on 9 plies, 56 lines".</summary>
    public static string Holds(Falzkunst.Core.Cards.Design design)
    {
        var parts = new List<string>();
        if (design.Pieces.Length > 0) parts.Add($"{Count(design.Pieces.Length, "piece")} on {Count(design.Plies.Length, "ply", "plies")}");
        if (design.Lines.Length > 0) parts.Add(Count(design.Lines.Length, "line"));
        if (design.Artwork.Length > 0) parts.Add($"{Count(design.Artwork.Length, "picture")} to print");
        return string.Join(", ", parts);
    }

    public static string Big(string text) => text.Length == 0 ? text : char.ToUpperInvariant(text[0]) + text[1..];
}
