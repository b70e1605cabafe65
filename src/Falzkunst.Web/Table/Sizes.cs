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
        double widest = Math.Min(all.Max(g => g.Width.Mm), LargestMm), highest = Math.Min(Math.Max(all.Max(g => g.Height.Mm), KnownHeightMm), LargestMm);
        var scale = Math.Min((WidthPx - BetweenPx - 4) / (widest + KnownWidthMm), (HeightPx - 4) / highest);
        double w = Math.Min(guess.Width.Mm, LargestMm) * scale, h = Math.Min(guess.Height.Mm, LargestMm) * scale, kw = KnownWidthMm * scale,
            kh = KnownHeightMm * scale, ground = HeightPx - 2;
        return new SvgWriter().Start("svg").Set("class", "size-beside").Set("width", WidthPx).Set("height", HeightPx)
            .Set("viewBox", new Core.Measures.Box(0, 0, WidthPx, HeightPx)).Set("aria-hidden", "true")
            .Start("rect").Set("class", "known").Set("x", "2").Set("y", ground - kh, 1).Set("width", kw, 1).Set("height", kh, 1).End()
            .Start("text").Set("x", 2 + kw / 2, 1).Set("y", ground - kh / 2 + 4, 1).Text("A6").End()
            .Start("rect").Set("class", "asked").Set("x", kw + BetweenPx, 1).Set("y", ground - h, 1).Set("width", w, 1).Set("height", h, 1).End().End()
            .ToString();
    }
}
