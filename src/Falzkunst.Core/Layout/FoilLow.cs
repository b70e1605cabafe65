using Falzkunst.Core.Cards;

namespace Falzkunst.Core.Layout;

/// <summary>
/// Foil that lies low on the mat can be peeled off without unloading it: a sheet whose foiled lines lie in its upper half is turned by a half, with all that
/// is on it. Nothing else about the layout changes by that. Linear in the lines.
/// </summary>
internal static class FoilLow
{
    /// <summary>The sheet as it was, or turned.</summary>
    public static SheetPlan Turned(SheetPlan sheet, Design design)
    {
        // What is printed, the shape of an off-cut and what somebody pinned lie as they lie.
        if (design.Laying.Turns == Turns.None || sheet.Printed is not null || sheet.Size.Left is not null || sheet.Pieces.Any(p => p.Pinned)) return sheet;
        var (all, moment) = (0.0, 0.0);
        foreach (var placed in sheet.Pieces)
            foreach (var line in design.Piece(placed.PieceId)?.Lines.Where(l => l.Operation == Operation.Foil) ?? [])
            {
                var mm = line.Path.Length.Mm;
                (all, moment) = (all + mm, moment + mm * placed.ToSheet.Apply(line.Path.Bounds.Centre).Y);
            }

        if (all == 0 || moment / all >= sheet.Size.Height.Mm / 2) return sheet;
        var half = new Affine(-1, 0, 0, -1, sheet.Size.Width.Mm, sheet.Size.Height.Mm);
        return sheet with { Pieces = [.. sheet.Pieces.Select(p => p with { ToSheet = p.ToSheet.Then(half) })] };
    }
}
