using System.Globalization;
using Falzkunst.Core.Cards;
using Falzkunst.Core.Measures;
using Falzkunst.Core.Shapes;

namespace Falzkunst.Web.Table;

/// <summary>The ply stack: a slanted pile seen from the side, one sheet for each ply, the top ply on top.</summary>
public static class PileSvg
{
    private const double Wide = 150, Slant = 0.42, Flat = 0.26, Labels = 130, Finest = 0.8, Coarsest = 2.4;
    private const int MostOutlines = 80, LongestName = 20;

    /// <param name="label">Whether names stand beside the plies; a thumbnail has none.</param>
    public static string Of(Design design, bool label)
    {
        var extent = design.Extent;
        var scale = Wide / Math.Max(1, Math.Max(extent.Width, extent.Height));
        double deep = extent.Height * scale * Flat, lean = extent.Height * scale * Slant;
        var gap = Math.Clamp(120.0 / Math.Max(1, design.Plies.Length), 6, 26);
        var height = deep + gap * Math.Max(0, design.Plies.Length - 1) + 12;
        var width = extent.Width * scale + lean + 12;
        var w = new SvgWriter(1 << 13).Start("svg").Set("class", "pile").Set("xmlns", "http://www.w3.org/2000/svg")
            .Set("viewBox", new Box(0, 0, width + (label ? Labels : 0), height))
            .Set("role", "img").Set("aria-label", $"Pile of {Words.Count(design.Plies.Length, "ply", "plies")}");
        var byPly = design.Pieces.ToLookup(p => p.PlyId);
        // Of many pieces each is small, and needs the less.
        var coarseness = Math.Clamp(design.Pieces.Length / 60.0, Finest, Coarsest);
        for (var i = 0; i < design.Plies.Length; i++)
        {
            var ply = design.Plies[i];
            var baseline = 6 + gap * (design.Plies.Length - 1 - i);
            // Leans to the right at the back (small y), pressed flat.
            var lay = Affine.Move(-extent.Left, -extent.Top).Then(new(scale, 0, -Slant * scale, Flat * scale, 6 + lean, baseline));
            w.Start("g").Set("class", "pile-ply").Set("data-ply", ply.Id);
            double right = 0, middle = 0;
            foreach (var p in byPly[ply.Id])
            {
                var corner = lay.Apply(new(p.OnCard.Bounds.Right, p.OnCard.Bounds.Centre.Y));
                if (corner.X > right) (right, middle) = (corner.X, corner.Y);
            }

            foreach (var p in byPly[ply.Id].Take(MostOutlines)) w.Start("path").Set("fill", p.Colour.Hex).SetIf(!label, "stroke", "#8d887d")
                .SetIf(!label, "stroke-width", ".5").Set("fill-rule", "evenodd").Set("d", Coarse(p.OnCard, lay, coarseness)).End();
            if (label)
            {
                var y = Math.Clamp(baseline + deep * 0.35, 8, height - 4);
                var name = ply.Label.Length > LongestName ? ply.Label[..(LongestName - 1)] + "…" : ply.Label;
                w.Start("path").Set("class", "pile-lead")
                    .Set("d", string.Create(CultureInfo.InvariantCulture, $"M{right + 3:0.#} {middle:0.#}L{width - 2:0.#} {y:0.#}h8")).End();
                w.Start("text").Set("x", width + 10, 1).Set("y", y + 4, 1).Text($"{i + 1} {name}").End();
            }

            w.End();
        }

        return w.End().ToString();
    }

    /// <summary>Straight edges between points so many units of the picture apart: a small picture needs no more.</summary>
    private static string Coarse(VectorPath path, Affine lay, double coarseness)
    {
        var text = new System.Text.StringBuilder();
        foreach (var ring in path.Rings)
        {
            Point? last = null;
            foreach (var p in ring)
            {
                var q = lay.Apply(p);
                if (last is { } l && Math.Abs(q.X - l.X) + Math.Abs(q.Y - l.Y) < coarseness) continue;
                text.Append(CultureInfo.InvariantCulture, $"{(last is null ? 'M' : 'L')}{q.X:0.#} {q.Y:0.#}");
                last = q;
            }

            if (last is not null) text.Append('Z');
        }

        return text.ToString();
    }
}
