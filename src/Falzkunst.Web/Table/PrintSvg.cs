using Falzkunst.Core.Layout;
using Falzkunst.Core.Measures;
using Falzkunst.Core.Printing;
using Falzkunst.Core.Shapes;
using Falzkunst.Store;

namespace Falzkunst.Web.Table;

/// <summary>Sheets as they are printed, marks to choose from, and the cut held against a printed sheet.</summary>
public static class PrintSvg
{
    /// <summary>A sheet as it comes out of the printer, with where it is cut, and what has to stay empty.</summary>
    /// <param name="picture">The address of what is printed, as a picture of the whole sheet.</param>
    public static string Of(PrintSheet sheet, string picture, string label)
    {
        var (w, h) = (sheet.Width.Mm, sheet.Height.Mm);
        var svg = Open(new(-3, -3, w + 3, h + 3), label);
        svg.Start("rect").Set("class", "sheet-paper").Set("fill", "#fff").Set("width", w).Set("height", h).End();
        svg.Start("image").Set("href", picture).Set("width", w).Set("height", h).Set("preserveAspectRatio", "none").End();
        Hatched(svg, sheet.Plan.Printed?.KeptFree ?? []);
        svg.Start("path").Set("class", "print-cut").Paths(sheet.Cut).End();
        return svg.End().ToString();
    }

    /// <summary>A small sheet with marks of a kind: what they look like, and what they keep empty.</summary>
    public static string Choice(SheetMarks? marks, Length width, Length height)
    {
        var svg = Open(new(0, 0, width.Mm, height.Mm), "");
        svg.Start("rect").Set("class", "sheet-paper").Set("fill", "#fff").Set("width", width.Mm).Set("height", height.Mm).End();
        if (marks is null)
        {
            // Crosses at the corners of a piece, for the trimmer.
            foreach (var (x, y) in new[] { (0.2, 0.2), (0.8, 0.2), (0.2, 0.8), (0.8, 0.8) })
                svg.Start("path").Set("class", "print-mark-line").Path(VectorPath.Polyline(new(width.Mm * x - 12, height.Mm * y), new(width.Mm * x + 12,
                    height.Mm * y)).With(VectorPath.Polyline(new(width.Mm * x, height.Mm * y - 12), new(width.Mm * x, height.Mm * y + 12)))).End();
            return svg.End().ToString();
        }

        Hatched(svg, [.. marks.All.Select(m => m.KeepOut)]);
        svg.Start("path").Set("class", "print-mark").Paths(marks.All.Select(m => m.Ink)).End();
        return svg.End().ToString();
    }

    /// <summary>The cut over a printed sheet as it was seen, with where white would be left, and how far each print lies off.</summary>
    public static string Proof(PrintSheet sheet, PaperRow paper, Proof proof, string picture, (int Width, int Height) px, string label)
    {
        double w = px.Width / paper.PxPerMm, h = px.Height / paper.PxPerMm;
        var map = Papers.MapOf(paper)!.Value.Then(Affine.Move(-paper.LeftMm, -paper.TopMm));
        var svg = Open(new(0, 0, w, h), label);
        svg.Start("image").Set("href", picture).Set("width", w).Set("height", h).Set("preserveAspectRatio", "none").End();
        var cut = sheet.Cut.Select(c => Seen(c, map)).ToList();
        svg.Start("path").Set("class", "proof-halo").Paths(cut).End();
        svg.Start("path").Set("class", "proof-cut").Paths(cut).End();
        foreach (var sliver in proof.Slivers)
        {
            var at = map.Apply(sliver.At);
            svg.Start("circle").Set("class", "proof-sliver").Set("cx", at.X).Set("cy", at.Y).Set("r", 2 + sliver.LengthMm / 4)
                .Say("title", $"white would be left along {sliver.LengthMm:0.#} mm").End();
        }

        foreach (var off in proof.Pieces)
        {
            var at = map.Apply(off.At);
            svg.Start("circle").Set("class", "proof-at").Set("cx", at.X).Set("cy", at.Y).Set("r", 1.2)
                .Say("title", $"{off.Label}: the print lies {off.Off.Norm:0.00} mm off").End();
        }

        return svg.End().ToString();
    }

    /// <summary>The piece whose print lies farthest off its cut; null where none shows it.</summary>
    public static PieceOff? Worst(Proof proof) => proof.Pieces.MaxBy(p => p.Off.Norm);

    /// <summary>A place at the edge of a piece, enlarged: the print as it was seen, and the cut over it.</summary>
    public static string Loupe(PrintSheet sheet, PaperRow paper, PieceOff piece, string picture, (int Width, int Height) px)
    {
        const double around = 4;
        var map = Papers.MapOf(paper)!.Value.Then(Affine.Move(-paper.LeftMm, -paper.TopMm));
        var outline = sheet.Pieces.First(p => p.Piece.Id == piece.PieceId && p.Outline.Bounds.Holds(piece.At)).Outline;
        var edge = map.Apply(outline.Rings[0].MinBy(p => p.Y));
        var svg = new SvgWriter(1 << 12).Start("svg").Set("class", "loupe").Set("xmlns", "http://www.w3.org/2000/svg")
            .Set("viewBox", new Box(edge.X - around, edge.Y - around, edge.X + around, edge.Y + around)).Set("aria-hidden", "true");
        svg.Start("image").Set("href", picture).Set("width", px.Width / paper.PxPerMm).Set("height", px.Height / paper.PxPerMm)
            .Set("preserveAspectRatio", "none").End();
        svg.Start("path").Set("class", "proof-cut").Paths([Seen(outline, map)]).End();
        return svg.End().ToString();
    }

    /// <summary>A path of the sheet as it was seen.</summary>
    private static VectorPath Seen(VectorPath path, Projective map) =>
        new([.. path.Subpaths.Select(s => VectorPath.Polygon([.. s.Flatten().Select(map.Apply)]).Subpaths[0])]);

    /// <summary>What has to stay empty.</summary>
    internal static void Hatched(SvgWriter svg, IEnumerable<VectorPath> areas)
    {
        foreach (var area in areas)
        {
            var box = area.Bounds;
            var lines = new List<VectorPath>();
            // Strokes at 45 degrees within the box, which is a rectangle.
            for (var k = box.Left - box.Height + 2; k < box.Right; k += 2.4)
            {
                double x1 = Math.Max(box.Left, k), x2 = Math.Min(box.Right, k + box.Height);
                if (x2 > x1) lines.Add(VectorPath.Polyline(new(x1, box.Bottom - (x1 - k)), new(x2, box.Bottom - (x2 - k))));
            }

            svg.Start("path").Set("class", "print-free").Paths([area, .. lines]).End();
        }
    }

    private static SvgWriter Open(Box view, string label)
    {
        var svg = new SvgWriter(1 << 14).Start("svg").Set("class", "sheet-svg").Set("xmlns", "http://www.w3.org/2000/svg").Set("viewBox", view);
        return label.Length > 0 ? svg.Set("role", "img").Set("aria-label", label) : svg.Set("aria-hidden", "true");
    }
}
