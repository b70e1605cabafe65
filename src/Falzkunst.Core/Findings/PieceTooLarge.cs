using Falzkunst.Core.Cards;

namespace Falzkunst.Core.Findings;

/// <summary>
/// A piece that fits no sheet of its stock, neither upright nor on its side. Why: it could not be laid out. Remedy: another stock whose sheets hold it,
/// the one that suits it best, where there is one.
/// </summary>
internal static class PieceTooLarge
{
    public static IEnumerable<Finding> In(Piece piece, FindingContext c)
    {
        if (piece.IsThing || Stocks.For(piece, c.Drawer) is not { } stock) yield break;
        // As it is laid out: upright in its own coordinates, whichever way it lies on the card.
        var box = piece.Outline.Bounds;
        if (Fits(box, stock)) yield break;
        var at = piece.OnCard.Bounds.Centre;
        var size = string.Create(CultureInfo.InvariantCulture, $"{box.Width:0.#} × {box.Height:0.#} mm");
        var other = Stocks.Nearest(piece, [.. c.Drawer.Where(s => Fits(box, s))]).FirstOrDefault();
        yield return other is null
            ? new("too-large", Severity.Stop, at, $"{piece.Label} ({size}) is larger than every sheet in the drawer: make it smaller, or add a larger sheet.",
            [piece.Id])
            : new("too-large", Severity.Stop, at, $"{piece.Label} ({size}) is larger than the sheets of {stock.Name}.", [piece.Id],
                new($"Take {other.Name}", new AssignStock([piece.Id], other.Id)));
    }

    private static bool Fits(Box box, Stock stock) => stock.Sheets.Any(s => s.Count > 0
        && ((box.Width <= s.UsableWidth.Mm + 1e-6 && box.Height <= s.UsableHeight.Mm + 1e-6)
        || (box.Height <= s.UsableWidth.Mm + 1e-6 && box.Width <= s.UsableHeight.Mm + 1e-6)));
}
