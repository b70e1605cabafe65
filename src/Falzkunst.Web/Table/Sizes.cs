using System.Globalization;
using Falzkunst.Core.Cards;

namespace Falzkunst.Web.Table;

/// <summary>A size drawn beside a card that everybody knows, all sizes that it could be to one scale.</summary>
public static class Sizes
{
    private const double KnownWidthMm = 105, KnownHeightMm = 148, WidthPx = 132, HeightPx = 72, BetweenPx = 8;

    public static string Beside(SizeGuess guess, IReadOnlyList<SizeGuess> all)
    {
        // A page of a metre would leave nothing to see of the others.
        const double LargestMm = 620;
        double widest = Math.Min(all.Max(g => g.WidthMm), LargestMm), highest = Math.Min(Math.Max(all.Max(g => g.HeightMm), KnownHeightMm), LargestMm);
        var scale = Math.Min((WidthPx - BetweenPx - 4) / (widest + KnownWidthMm), (HeightPx - 4) / highest);
        double w = Math.Min(guess.WidthMm, LargestMm) * scale, h = Math.Min(guess.HeightMm, LargestMm) * scale, kw = KnownWidthMm * scale, kh = KnownHeightMm * scale, ground = HeightPx - 2;
        return string.Create(CultureInfo.InvariantCulture, $"<svg class=\"size-beside\" width=\"{WidthPx}\" height=\"{HeightPx}\" viewBox=\"0 0 {WidthPx} {HeightPx}\" aria-hidden=\"true\"><rect x=\"2\" y=\"{ground - kh:0.#}\" width=\"{kw:0.#}\" height=\"{kh:0.#}\" class=\"known\"/><text x=\"{2 + kw / 2:0.#}\" y=\"{ground - kh / 2 + 4:0.#}\">A6</text><rect class=\"asked\" x=\"{kw + BetweenPx:0.#}\" y=\"{ground - h:0.#}\" width=\"{w:0.#}\" height=\"{h:0.#}\"/></svg>");
    }
}
