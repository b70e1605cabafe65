using System.Globalization;
using System.Net;
using System.Text;
using Falzkunst.Core.Cards;

namespace Falzkunst.Web.Table;

/// <summary>The ply stack: a slanted pile seen from the side, one sheet for each ply, the top ply on top.</summary>
public static class PileSvg
{
    private const double Wide = 150, Slant = 0.42, Flat = 0.26, Labels = 130;
    private const int MostOutlines = 80;

    /// <param name="label">Whether names stand beside the plies; a thumbnail has none.</param>
    public static string Of(Design design, bool label)
    {
        var extent = design.Extent;
        var scale = Wide / Math.Max(1, Math.Max(extent.Width, extent.Height));
        double deep = extent.Height * scale * Flat, lean = extent.Height * scale * Slant;
        var gap = Math.Clamp(120.0 / Math.Max(1, design.Plies.Length), 6, 26);
        var height = deep + gap * Math.Max(0, design.Plies.Length - 1) + 12;
        var width = extent.Width * scale + lean + 12;
        var text = new StringBuilder();
        text.Append(CultureInfo.InvariantCulture, $"<svg class=\"pile\" xmlns=\"http://www.w3.org/2000/svg\" viewBox=\"0 0 {width + (label ? Labels : 0):0.#} {height:0.#}\" role=\"img\" aria-label=\"Pile of {Words.Count(design.Plies.Length, "ply", "plies")}\">");
        for (var i = 0; i < design.Plies.Length; i++)
        {
            var ply = design.Plies[i];
            var baseline = 6 + gap * (design.Plies.Length - 1 - i);
            // Leans to the right at the back (small y), pressed flat.
            var lay = Affine.Move(-extent.Left, -extent.Top).Then(new(scale, 0, -Slant * scale, Flat * scale, 6 + lean, baseline));
            text.Append(CultureInfo.InvariantCulture, $"<g class=\"pile-ply\" data-ply=\"{ply.Id}\">");
            var pieces = design.Pieces.Where(p => p.PlyId == ply.Id).ToList();
            double right = 0, middle = 0;
            foreach (var p in pieces)
            {
                var corner = lay.Apply(new(p.Outline.Bounds.Right, p.Outline.Bounds.Centre.Y));
                if (corner.X > right) (right, middle) = (corner.X, corner.Y);
            }

            foreach (var p in pieces.Take(MostOutlines))
                text.Append(CultureInfo.InvariantCulture, $"<path fill=\"{p.Colour.Hex}\" fill-rule=\"evenodd\" d=\"{Coarse(p.Outline, lay)}\"/>");
            if (label)
            {
                var y = Math.Clamp(baseline + deep * 0.35, 8, height - 4);
                var name = ply.Label.Length > 20 ? ply.Label[..19] + "…" : ply.Label;
                text.Append(CultureInfo.InvariantCulture, $"<path class=\"pile-lead\" d=\"M{right + 3:0.#} {middle:0.#}L{width - 2:0.#} {y:0.#}h8\"/><text x=\"{width + 10:0.#}\" y=\"{y + 4:0.#}\">{i + 1} {WebUtility.HtmlEncode(name)}</text>");
            }

            text.Append("</g>");
        }

        return text.Append("</svg>").ToString();
    }

    /// <summary>Straight edges between points at least a unit of the picture apart: a small picture needs no more.</summary>
    private static string Coarse(VectorPath path, Affine lay)
    {
        var text = new StringBuilder();
        foreach (var ring in path.Rings)
        {
            Point? last = null;
            var begun = false;
            foreach (var p in ring)
            {
                var q = lay.Apply(p);
                if (last is { } l && Math.Abs(q.X - l.X) + Math.Abs(q.Y - l.Y) < 0.8) continue;
                text.Append(CultureInfo.InvariantCulture, $"{(begun ? 'L' : 'M')}{q.X:0.#} {q.Y:0.#}");
                begun = true;
                last = q;
            }

            if (begun) text.Append('Z');
        }

        return text.ToString();
    }
}
