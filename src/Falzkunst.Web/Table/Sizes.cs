using System.Globalization;
using Falzkunst.Core.Cards;

namespace Falzkunst.Web.Table;

/// <summary>A size drawn beside a card that everybody knows.</summary>
public static class Sizes
{
    private const double KnownWidthMm = 105, KnownHeightMm = 148, LargestMm = 300, Pixels = 44;

    public static string Beside(SizeGuess guess)
    {
        var scale = Pixels / LargestMm;
        double w = Math.Min(guess.WidthMm, LargestMm * 1.4) * scale, h = Math.Min(guess.HeightMm, LargestMm) * scale, kw = KnownWidthMm * scale, kh = KnownHeightMm * scale;
        return string.Create(CultureInfo.InvariantCulture, $"<svg class=\"size-beside\" width=\"92\" height=\"48\" viewBox=\"0 0 92 48\" aria-hidden=\"true\"><rect x=\"2\" y=\"{46 - kh:0.#}\" width=\"{kw:0.#}\" height=\"{kh:0.#}\" class=\"known\"/><rect x=\"{kw + 6:0.#}\" y=\"{46 - h:0.#}\" width=\"{w:0.#}\" height=\"{h:0.#}\"/></svg>");
    }
}
