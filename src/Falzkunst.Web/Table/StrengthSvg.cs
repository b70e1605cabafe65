using System.Globalization;
using Falzkunst.Core.Cards;
using Falzkunst.Core.Measures;
using Falzkunst.Core.Shapes;
using Falzkunst.Core.Strength;
using Falzkunst.Web.Pages.Dockets;

namespace Falzkunst.Web.Table;

/// <summary>How strong pieces are, as pictures: width as colour, thin places as marks, a place enlarged, and what a strength gives.</summary>
public static class StrengthSvg
{
    /// <summary>Where one colour of width ends and the next begins, in parts of what is asked for.</summary>
    public static readonly double[] Steps = [0.5, 0.75, 1, 1.4];

    private const int MostMarks = 150, MostNumbers = 30;

    /// <summary>What lies over the table: widths in colour, what was added in tint over the original, marks at thin places, tight gaps and specks.</summary>
    public static SvgWriter Over(StrengthenModel page)
    {
        var w = new SvgWriter(1 << 16);
        w.Start("g").Set("class", "strength-over");
        foreach (var of in page.Inspected.Pieces)
        {
            w.Start("g");
            if (!of.Piece.Place.IsOwn) w.Set("transform", of.Piece.Place.Map);
            if (Strengthened.IsOn(of.Piece))
            {
                var before = Strengthened.Before(of.Piece);
                w.Start("path").Set("class", "added").Set("fill-rule", "evenodd").Path(before.With(of.Piece.Outline)).End();
                w.Start("path").Set("class", "was").Path(before).End();
            }

            foreach (var band in of.Seen.Bands(Steps)) w.Start("path").Set("class", $"width-{Array.IndexOf(Steps, band.Part)}").Path(band.Area).End();
            w.End();
        }

        var mark = Math.Clamp(Math.Max(page.Design!.Extent.Width, page.Design.Extent.Height) / 150, 0.3, 1.6);
        foreach (var (of, tight) in page.Inspected.Tight.Take(MostMarks)) Mark("tight", of.OnCard(tight.From), of.OnCard(tight.To), mark);
        foreach (var b in page.Inspected.Between.Take(MostMarks)) Mark("tight", b.At, b.At, mark);
        foreach (var (of, speck) in page.Inspected.Specks.Take(MostMarks)) Mark("speck", of.OnCard(speck.At), of.OnCard(speck.At), mark * 1.3);
        var (places, here) = (page.Places, page.PlaceIndex);
        for (var i = Math.Min(places.Count, MostMarks) - 1; i >= 0; i--)
        {
            var (of, place) = places[i];
            var at = of.OnCard(place.At);
            Mark(i == here ? "thin is-here" : "thin", of.OnCard(place.From), of.OnCard(place.To), mark);
            if (i < MostNumbers) w.Start("text").Set("x", at.X + mark * 1.2).Set("y", at.Y - mark * 0.9).Set("font-size", mark * 1.5)
                .Text((i + 1).ToString(CultureInfo.InvariantCulture)).End();
        }

        return w.End();

        void Mark(string of, Point from, Point to, double size)
        {
            var at = (from + to) * 0.5;
            w.Start("g").Set("class", $"mark-{of}");
            w.Start("circle").Set("cx", at.X).Set("cy", at.Y).Set("r", Math.Max(size, from.DistanceTo(to) * 0.8)).End();
            w.End();
        }
    }

    /// <summary>A thin place enlarged, with its width as a measure.</summary>
    public static string Loupe(InspectedPiece of, ThinPlace place)
    {
        var reach = Math.Max(place.Width.Mm * 3, of.Seen.Limits.Width.Mm * 2);
        var at = of.OnCard(place.At);
        Point from = of.OnCard(place.From), to = of.OnCard(place.To);
        var w = new SvgWriter(2048);
        w.Start("svg").Set("class", "loupe").Set("xmlns", "http://www.w3.org/2000/svg")
            .Set("viewBox", new Box(at.X - reach, at.Y - reach, at.X + reach, at.Y + reach)).Set("role", "img")
            .Set("aria-label", $"{Length.FromMm(Math.Round(place.Width.Mm, 2))}, enlarged");
        w.Start("path").Set("class", "loupe-paper").Set("fill", of.Piece.Colour.Hex).Set("fill-rule", "evenodd").Path(of.Piece.OnCard).End();
        w.Start("path").Set("class", "measure-line").Path(VectorPath.Polyline(from, to)).End();
        foreach (var end in new[] { from, to })
        {
            var n = new Point(-(to - from).Y, (to - from).X) * (0.12 * reach / Math.Max(from.DistanceTo(to), 1e-9));
            w.Start("path").Set("class", "measure-line").Path(VectorPath.Polyline(end - n, end + n)).End();
        }

        return w.End().ToString();
    }

    /// <summary>The place that all plates show: the one that is looked at; where nothing is thin, the middle of what is strengthened.</summary>
    public static Point Middle(StrengthenModel page) => page.Places.Count > 0 && page.Places[page.PlaceIndex] is var (of, place) ? of.OnCard(place.At)
        : AllOf(page).Centre;

    /// <summary>What of the card is shown on every plate: around that place, or all of what is strengthened where that is small.</summary>
    public static Box Window(StrengthenModel page)
    {
        var all = AllOf(page);
        var reach = Math.Max(page.Asked.Width.Mm * 9, 6);
        if (page.Places.Count == 0 || Math.Max(all.Width, all.Height) < 2 * reach) return all.Grown(Math.Max(all.Width, all.Height) * 0.05 + 0.2);
        var at = Middle(page);
        return new(at.X - reach, at.Y - reach * 0.7, at.X + reach, at.Y + reach * 0.7);
    }

    /// <summary>What a strength gives, with the original faintly within.</summary>
    public static string Plate(Design before, StrengthOutcome outcome, Box window) => Draw(before, outcome, window, "small", true);

    /// <summary>The same as large as it will be cut, about a place; so much of it as a plate is wide.</summary>
    public static string TrueSize(Design before, StrengthOutcome outcome, Point middle)
    {
        const double wide = 36, high = 12;
        return Draw(before, outcome, new(middle.X - wide / 2, middle.Y - high / 2, middle.X + wide / 2, middle.Y + high / 2), "true-size", false);
    }

    private static Box AllOf(StrengthenModel page) => page.ToStrengthen.Aggregate(Box.Empty, (b, p) => b.With(p.OnCard.Bounds));

    private static string Draw(Design before, StrengthOutcome outcome, Box window, string kind, bool withWas)
    {
        var w = new SvgWriter(8192);
        w.Start("svg").Set("class", kind).Set("xmlns", "http://www.w3.org/2000/svg").Set("viewBox", window).Set("aria-hidden", "true");
        foreach (var of in outcome.Seen.Where(s => s.Piece.OnCard.Bounds.Touches(window)))
        {
            w.Start("path").Set("class", "plate-paper").Set("fill", of.Piece.Colour.Hex).Set("fill-rule", "evenodd").Path(of.Piece.OnCard).End();
            if (withWas && before.Piece(of.Piece.Id) is { } was)
                w.Start("path").Set("class", "was").Path(Strengthened.Before(was).Transform(was.Place.Map)).End();
        }

        return w.End().ToString();
    }
}
