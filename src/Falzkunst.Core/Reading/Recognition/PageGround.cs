using Falzkunst.Core.Cards;

namespace Falzkunst.Core.Reading.Recognition;

/// <summary>
/// Tells a rectangle that is only the page (a white ground, a frame) from a card as large as the page: within it lies something that is folded, so that it
/// would be a card upon a card. Where nothing says so, it stays what it is, and is asked about.
/// </summary>
internal static class PageGround
{
    private const double AsThePageMm = 1;

    /// <summary>Whether a box is that of a page, but for so much on each side.</summary>
    public static bool IsAsThePage(Box box, Length width, Length height, double withinMm) => Math.Abs(box.Left) <= withinMm && Math.Abs(box.Top) <= withinMm
        && Math.Abs(box.Right - width.Mm) <= withinMm && Math.Abs(box.Bottom - height.Mm) <= withinMm;

    /// <summary>Whether a closed outline is a rectangle as large as the page.</summary>
    public static bool IsAsThePage(VectorPath outline, Drawing drawing)
    {
        var box = outline.Bounds;
        return outline.Subpaths.Length == 1 && IsAsThePage(box, drawing.Width, drawing.Height, AsThePageMm)
            && Math.Abs(Polygons.SignedArea(outline.Rings[0])) >= 0.999 * box.Area;
    }

    /// <summary>Whether one of the outlines is folded by one of the lines: crossed by it from edge to edge. About n log n where they lie spread out.</summary>
    public static bool HoldsFolded(IEnumerable<VectorPath> outlines, IEnumerable<VectorPath> lines, CancellationToken cancel)
    {
        var grid = new BoxGrid<VectorPath>(20);
        foreach (var line in lines)
            if (Folds.IsStraight(line, out _, out _)) grid.Add(line.Bounds, line);
        foreach (var outline in outlines)
        {
            cancel.ThrowIfCancellationRequested();
            var piece = new Piece { Id = "p1", Label = "", PlyId = "", Shape = new Drawn(outline), Edges = [], Colour = Recogniser.PaperWhite };
            foreach (var line in grid.Touching(outline.Bounds))
                if (outline.Bounds.Grown(1).Holds(line.Bounds) && Folds.Spans(line, piece)) return true;
        }

        return false;
    }
}
