using System.Globalization;
using System.Text.RegularExpressions;
using Falzkunst.Core.Cards;

namespace Falzkunst.Web;

/// <summary>What may be said of a stock and its sheets, in one place for a new one and one that is changed.</summary>
public static partial class StockFacts
{
    public const double LeastWeight = 20;

    /// <summary>What is wrong with what is said; null where nothing is.</summary>
    /// <param name="weight">In g/m².</param>
    public static string? Fault(string? name, string? colour, double weight, string? thickness, out Length thick)
    {
        thick = default;
        if ((name ?? "").Trim().Length is 0 or > 60) return "A paper needs a name of 1 to 60 letters.";
        if (!HexColour().IsMatch(colour ?? "")) return "Choose a colour.";
        if (!LengthText.TryRead(thickness, LengthUnit.Millimetre, out thick, out var error)) return error;
        return thick.Mm is > 0 and <= 10 && weight is >= LeastWeight and <= 2000 ? null : "Weight goes from 20 to 2,000 g, and thickness up to 10 mm.";
    }

    /// <summary>As <see cref="Fault"/>, of the sheets of one size.</summary>
    public static string? SheetFault(string? width, string? height, string? margin, int count, LengthUnit unit, out SheetSize size)
    {
        size = new(default, default, 0, default);
        if (!LengthText.TryRead(width, unit, out var w, out var error) || !LengthText.TryRead(height, unit, out var h, out error)
            || !LengthText.TryRead(margin, unit, out var edge, out error)) return error;
        if (w.Mm is < 10 or > 5000 || h.Mm is < 10 or > 5000) return "A sheet is from 10 mm to 5 m long on each side.";
        if (edge.Mm < 0 || 2 * edge.Mm > Math.Min(w.Mm, h.Mm) - 1) return "The edge that is kept free leaves nothing of the sheet.";
        if (count is < 0 or > 10_000) return "The number of sheets goes from 0 to 10,000.";
        size = new(w, h, count, edge);
        return null;
    }

    /// <summary>What is wrong with what a sheet is said to cost; null where nothing is. Nothing said is no price.</summary>
    public static string? PriceFault(string? text, out double? price)
    {
        price = null;
        if (string.IsNullOrWhiteSpace(text)) return null;
        if (!double.TryParse(text.Trim().Replace(',', '.'), CultureInfo.InvariantCulture, out var read) || !(read is > 0 and <= 100_000))
            return "A price is a number over 0, such as 0.45.";
        price = read;
        return null;
    }

    [GeneratedRegex("^#[0-9a-fA-F]{6}$")]
    private static partial Regex HexColour();
}
