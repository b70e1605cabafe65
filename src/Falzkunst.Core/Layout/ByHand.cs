using Falzkunst.Core.Cards;

namespace Falzkunst.Core.Layout;

/// <summary>What became of a layout by hand.</summary>
/// <param name="Layout">The layout with the change made; null where it can't be made.</param>
/// <param name="Text">What was done, as on a button ("Move “Sky”"), or why it can't be done, as a sentence.</param>
public sealed record ByHandResult(DocketLayout? Layout, string Text);

/// <summary>
/// Changes of a layout by hand. Each is pure: what came in stays as it is, which is what makes undo. What is moved or turned on a sheet is so on all that are
/// the same, so that they stay the same; what leaves a sheet leaves that one only. Every change is checked by <see cref="LayoutCheck"/> where it lies then.
/// </summary>
public static class ByHand
{
    /// <summary>Turns a piece about the middle of its box and moves it, as near as there is room.</summary>
    /// <param name="by">From where its middle lies, in mm of the sheet.</param>
    public static ByHandResult Move(Design design, DocketLayout layout, PieceCopy which, Angle turn, Point by)
    {
        if (layout.Find(which) is not var (sheet, index)) return Gone;
        var plan = layout.Sheets[sheet];
        var label = Label(design, which);
        var bench = HandSheet.Of(design, plan, layout.Gap);
        var from = bench.MiddleOf(index);
        if (bench.Settle(index, turn, from + by).At is not { } at) return new(null, $"There is no room for {label} on this sheet when it is turned like that.");
        if (turn.Degrees == 0 && at.DistanceTo(from) < 1e-6) return new(null, $"{label} can't go that way: what lies there is in the way, or the edge.");
        var to = Turned(plan.Pieces[index].ToSheet, turn, from, at);
        var pieces = plan.Pieces.SetItem(index, plan.Pieces[index] with { ToSheet = to });
        if (LayoutCheck.Fault(design, plan with { Pieces = pieces }, layout.Gap, index) is { } fault) return new(null, fault);
        return new(Same(layout, sheet, s => s with { Pieces = s.Pieces.SetItem(index, s.Pieces[index] with { ToSheet = to }) }),
            turn.Degrees == 0 ? $"Move {label}" : $"Turn {label}");
    }

    /// <summary>Pins a piece, so that it stays where it lies when the rest is laid out again; or lets go of it.</summary>
    public static ByHandResult Pin(Design design, DocketLayout layout, PieceCopy which, bool pinned) => layout.Find(which) is not var (sheet, index) ? Gone
        : new(Same(layout, sheet, s => s with { Pieces = s.Pieces.SetItem(index, s.Pieces[index] with { Pinned = pinned }) }),
            $"{(pinned ? "Pin" : "Unpin")} {Label(design, which)}");

    /// <summary>Pins all pieces of a sheet, or lets go of them.</summary>
    public static ByHandResult PinAll(DocketLayout layout, int sheet, bool pinned) => sheet < 0 || sheet >= layout.Sheets.Length ? Gone
        : new(Same(layout, sheet, s => s with { Pieces = [.. s.Pieces.Select(p => p with { Pinned = pinned })] }),
            $"{(pinned ? "Pin" : "Unpin")} all on sheet {sheet + 1}");

    /// <summary>Sets a piece beside the sheets: it is not cut until it lies on one again.</summary>
    public static ByHandResult SetBeside(Design design, DocketLayout layout, PieceCopy which) => layout.Find(which) is not var (sheet, index) ? Gone
        : new(Off(design, layout, sheet, index) with { Beside = layout.Beside.Add(which) }, $"Set {Label(design, which)} beside");

    /// <summary>Puts a piece onto another sheet of its stock, from wherever it is.</summary>
    /// <param name="to">The sheet, from 0; or its number of sheets for one more from the drawer.</param>
    /// <param name="wanted">Where its middle is wanted on that sheet; null for where it lies now, or the sheet's upper left corner.</param>
    public static ByHandResult PutOn(Design design, IReadOnlyList<Stock> drawer, DocketLayout layout, PieceCopy which, int to, Point? wanted = null)
    {
        if (design.Piece(which.PieceId) is not { } piece) return Gone;
        var label = Label(design, which);
        var (from, map) = (layout.Find(which), Grains.Lie(piece, Stocks.For(piece, drawer)?.Grain ?? Grain.Unknown));
        if (from is var (sheet, index))
        {
            if (sheet == to) return new(null, $"{label} lies on that sheet.");
            map = layout.Sheets[sheet].Pieces[index].ToSheet;
        }
        else if (!layout.NotCut.Contains(which))
        {
            return Gone;
        }

        SheetPlan? plan;
        if (to == layout.Sheets.Length)
        {
            plan = Fresh(design, drawer, layout, piece);
            if (plan is null) return new(null, $"No sheet is left in the drawer that {label} goes on.");
        }
        else if (to < 0 || to > layout.Sheets.Length) return Gone;
        else plan = layout.Sheets[to];
        if (plan.StockId != Stocks.For(piece, drawer)?.Id) return new(null, $"{label} is of another stock than that sheet.");
        var box = piece.Outline.Transform(map).Bounds;
        var at = wanted ?? (from is null ? default : box.Centre);
        if (HandSheet.Of(design, plan, layout.Gap).Settle(piece.Outline.Transform(map), at).At is not { } free)
            return new(null, $"There is no room for {label} on that sheet.");
        var laid = plan with { Pieces = plan.Pieces.Add(new(which.PieceId, which.Copy, map.Then(Affine.Move(free.X - box.Centre.X, free.Y - box.Centre.Y)))) };
        if (LayoutCheck.Fault(design, laid, layout.Gap, laid.Pieces.Length - 1) is { } fault) return new(null, fault);
        laid = laid.Measured(design);
        layout = to == layout.Sheets.Length ? layout with { Sheets = layout.Sheets.Add(laid) } : layout with { Sheets = layout.Sheets.SetItem(to, laid) };
        layout = from is var (old, was) ? Off(design, layout, old, was)
            : layout with
            {
                Beside = layout.Beside.Remove(which),
                Unplaced = layout.Unplaced.RemoveAll(u => u.Piece == which.PieceId && u.Copy == which.Copy),
            };
        return new(layout, $"Put {label} on {(layout.Find(which) is var (now, _) ? $"sheet {now + 1}" : "a sheet")}");
    }

    /// <summary>A sheet more for a piece, empty: of the sizes of its stock the first of which the drawer has one left; null where it has none.</summary>
    private static SheetPlan? Fresh(Design design, IReadOnlyList<Stock> drawer, DocketLayout layout, Piece piece)
    {
        if (Stocks.For(piece, drawer) is not { } stock) return null;
        var used = layout.Sheets.Where(s => s.StockId == stock.Id).ToList();
        foreach (var size in stock.Sheets)
        {
            if (used.Count(s => s.Size.IsLike(size)) >= stock.Sheets.Where(s => s.IsLike(size)).Sum(s => s.Count)) continue;
            // What printing asks of a sheet, it asks of each of a stock.
            var printed = PrintedSheet.Of(design.Print, design.Papers.Where(p => Stocks.For(p, drawer)?.Id == stock.Id), size);
            if (printed?.Marks?.Fault() is null) return new(stock.Id, stock.Name, size, [], 0) { Printed = printed };
        }

        return null;
    }

    /// <summary>A layout without a piece on a sheet; the sheet goes back to the drawer where nothing else lies on it.</summary>
    private static DocketLayout Off(Design design, DocketLayout layout, int sheet, int index)
    {
        var left = layout.Sheets[sheet] with { Pieces = layout.Sheets[sheet].Pieces.RemoveAt(index) };
        return layout with
        {
            Sheets = left.Pieces.IsEmpty ? layout.Sheets.RemoveAt(sheet) : layout.Sheets.SetItem(sheet, left.Measured(design)),
        };
    }

    /// <summary>A change of a sheet, and of all that are the same.</summary>
    private static DocketLayout Same(DocketLayout layout, int sheet, Func<SheetPlan, SheetPlan> change)
    {
        var alike = layout.Stacks.First(s => s.Numbers.Contains(sheet + 1)).Numbers;
        return layout with { Sheets = [.. layout.Sheets.Select((s, i) => alike.Contains(i + 1) ? change(s) : s)] };
    }

    private static Affine Turned(Affine toSheet, Angle turn, Point from, Point at) =>
        toSheet.Then(Affine.Move(-from.X, -from.Y)).Then(Affine.Turn(turn)).Then(Affine.Move(at.X, at.Y));

    private static string Label(Design design, PieceCopy which) => $"“{design.Piece(which.PieceId)?.Label ?? which.PieceId}”";

    private static ByHandResult Gone => new(null, "That piece, or that sheet, is not in this layout any more.");
}
