using Falzkunst.Core.Cards;

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

    /// <summary>The largest free rectangle of a sheet of a docket; empty where none is worth keeping.</summary>
    public static Box Of(Design design, SheetPlan sheet)
    {
        var box = Largest(sheet.Size.Width, sheet.Size.Height, sheet.Pieces
            .Select(p => design.Piece(p.PieceId)?.Outline.Transform(p.ToSheet)).OfType<VectorPath>()
            .Concat(sheet.Printed?.Marks?.All.Select(m => m.Ink) ?? []));
        return IsWorthKeeping(box) ? box : Box.Empty;
    }

    /// <summary>Whether somebody would put it back into the drawer: a strip of four centimetres, and some length.</summary>
    public static bool IsWorthKeeping(Box box) => Math.Min(box.Width, box.Height) >= 40 && Math.Max(box.Width, box.Height) >= 70;
}
