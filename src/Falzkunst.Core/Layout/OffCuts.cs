using Falzkunst.Core.Cards;
using Falzkunst.Core.Regions;

namespace Falzkunst.Core.Layout;

/// <summary>What is left of a sheet.</summary>
public static class OffCuts
{
    /// <summary>Cells to look for it by, in mm: what is found is at most two of them smaller than could be.</summary>
    private const double Cell = 1;

    /// <summary>The largest rectangle of a sheet that nothing lies in, in mm of the sheet; empty where everything is used. Cells that a shape touches count as
    /// used, so that the rectangle is free for certain. Linear in the cells (maximal rectangles under a histogram, row by row).</summary>
    /// <param name="used">The outlines that lie on it.</param>
    public static Box Largest(Length width, Length height, IEnumerable<VectorPath> used)
    {
        int columns = (int)Math.Floor(width.Mm / Cell + Tolerances.Same), rows = (int)Math.Floor(height.Mm / Cell + Tolerances.Same);
        if (columns <= 0 || rows <= 0) return Box.Empty;
        var cells = BitShape.Blank(columns, rows);
        foreach (var path in used) cells.Add(BitShape.Of(path.Rings, Cell), 0, 0);
        // How many free cells stand above each, with the row itself.
        var high = new int[columns + 1];
        var open = new Stack<(int From, int High)>();
        var (best, found) = (0L, Box.Empty);
        for (var y = 0; y < rows; y++)
        {
            open.Clear();
            for (var x = 0; x <= columns; x++)
            {
                high[x] = x == columns || cells.Has(x, y) ? 0 : high[x] + 1;
                var from = x;
                while (open.TryPeek(out var last) && last.High >= high[x])
                {
                    open.Pop();
                    from = last.From;
                    var area = (long)last.High * (x - last.From);
                    if (area <= best) continue;
                    best = area;
                    found = new(last.From * Cell, (y + 1 - last.High) * Cell, x * Cell, (y + 1) * Cell);
                }

                if (high[x] > 0) open.Push((from, high[x]));
            }
        }

        // What ends at the last whole cell goes on to the edge.
        if (found.IsEmpty) return found;
        if (found.Right >= columns * Cell) found = found with { Right = width.Mm };
        if (found.Bottom >= rows * Cell) found = found with { Bottom = height.Mm };
        return found;
    }

    /// <summary>What was made on a sheet besides its pieces, as boxes with what frays around: test cards, and where a blade was turned.</summary>
    /// <param name="done">All that was ever done on it, as lines in mm on the sheet.</param>
    public static ImmutableArray<Box> Spoiled(Design design, SheetPlan sheet, IEnumerable<ImmutableArray<Point>> done)
    {
        // A cut lies beside its outline by what a machine is off, and goes on a little beyond its start.
        const double Beside = 1, Frayed = 0.5;
        // What is made of a piece lies in it from end to end: some places of a line tell.
        const int Looks = 5;
        List<(Box Room, Region In)> pieces = [.. Outlines(design, sheet).Select(p => (p.Bounds.Grown(Beside),
            Region.Of(p).WithoutHoles().Outset(Length.FromMm(Beside))))];
        var boxes = new List<Box>();
        foreach (var line in done.Where(d => !d.IsEmpty))
        {
            var box = line.Aggregate(Box.Empty, (b, p) => b.With(p));
            if (!pieces.Exists(p => p.Room.Holds(box) && Enumerable.Range(0, Looks).All(k => p.In.Holds(line[k * (line.Length - 1) / (Looks - 1)]))))
                boxes.Add(box.Grown(Frayed));
        }

        return [.. BoxGroups.Touching(boxes).Select(g => g.Aggregate(Box.Empty, (b, i) => b.With(boxes[i])))];
    }

    /// <summary>The outlines of its pieces, where they lie on it.</summary>
    public static IEnumerable<VectorPath> Outlines(Design design, SheetPlan sheet) =>
        sheet.Pieces.Select(p => design.Piece(p.PieceId)?.Outline.Transform(p.ToSheet)).OfType<VectorPath>();

    private static VectorPath PathOf(Box box) => VectorPath.Rectangle(box.Left, box.Top, box.Width, box.Height);

    /// <summary>The largest free rectangle of a sheet of a docket; empty where none is worth keeping.</summary>
    /// <param name="spoiled">What else was made on it.</param>
    public static Box Of(Design design, SheetPlan sheet, params IEnumerable<Box> spoiled)
    {
        var box = Largest(sheet.Size.Width, sheet.Size.Height, Outlines(design, sheet).Concat(spoiled.Select(PathOf))
            .Concat(sheet.Printed?.Marks?.All.Select(m => m.Ink) ?? [])
            .Concat(sheet.Size.Outline is null ? [] : SheetPlans.SheetOf("", sheet.Size with { Margin = Length.Zero }, null).Blocked(Length.Zero)));
        return IsWorthKeeping(box) ? box : Box.Empty;
    }

    /// <summary>What of a sheet hangs together when its pieces are off it, with holes where they were: its largest part, in mm from the sheet's upper left
    /// corner. What falls out of a piece's own holes is no part of it.</summary>
    private static VectorPath Whole(Design design, SheetPlan sheet, IEnumerable<Box> spoiled)
    {
        // Where it was cut, paper frays and lies askew; and nobody tells half a millimetre by eye.
        const double Safe = 0.5, Same = 0.1;
        var paper = Region.Of(sheet.Size.Outline ?? VectorPath.Rectangle(0, 0, sheet.Size.Width.Mm, sheet.Size.Height.Mm));
        var cut = Outlines(design, sheet).Concat(spoiled.Select(PathOf)).Aggregate(Region.Empty, (all, path) => all.Join(Region.Of(path).WithoutHoles()));
        return paper.TakeAway(cut.Outset(Length.FromMm(Safe))).Simplified(Length.FromMm(Same)).ToPaths().MaxBy(p => Region.Of(p).AreaMm2) ?? VectorPath.Empty;
    }

    /// <summary>What is kept of a sheet, as one more size of its stock.</summary>
    /// <param name="whole">Whether all that hangs together is kept, with its holes; otherwise the largest rectangle.</param>
    /// <param name="spoiled">What else was made on it; see <see cref="Spoiled"/>.</param>
    /// <returns>Null where nothing is worth keeping.</returns>
    public static SheetSize? Kept(Design design, SheetPlan sheet, bool whole, params IReadOnlyList<Box> spoiled)
    {
        var (box, path) = (Of(design, sheet, spoiled), VectorPath.Empty);
        if (box.IsEmpty) return null;
        if (whole)
        {
            path = Whole(design, sheet, spoiled);
            if (path.IsEmpty) return null;
            box = path.Bounds;
        }

        return new(Length.FromMm(box.Width), Length.FromMm(box.Height), 1, sheet.Size.Margin)
        {
            IsOffCut = true,
            Grain = sheet.Size.Grain,
            Left = whole ? path.Transform(Affine.Move(-box.Left, -box.Top)).ToSvg() : null,
        };
    }

    /// <summary>Whether somebody would put it back into the drawer: a strip of four centimetres, and some length.</summary>
    public static bool IsWorthKeeping(Box box) => Math.Min(box.Width, box.Height) >= 40 && Math.Max(box.Width, box.Height) >= 70;
}
