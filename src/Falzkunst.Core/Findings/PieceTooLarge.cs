using Falzkunst.Core.Cards;

namespace Falzkunst.Core.Findings;

/// <summary>
/// A piece that fits no sheet of its stock, neither upright nor on its side, nor at any angle where pieces may turn so. Why: it could not be laid out.
/// Remedy: to let pieces turn by any angle, where it fits then; another stock whose sheets hold it, the one that suits it best, where there is one.
/// </summary>
internal static class PieceTooLarge
{
    public static IEnumerable<Finding> In(Piece piece, FindingContext c)
    {
        if (piece.IsThing || Stocks.For(piece, c.Drawer) is not { } stock) yield break;
        // As it is laid out: upright in its own coordinates, whichever way it lies on the card.
        var box = piece.Outline.Bounds;
        var anyTurn = c.Design.Laying.Turns == Turns.Any;
        if (Fits(box, stock) || (anyTurn && FitsTurned(piece.Outline, stock))) yield break;
        var at = piece.OnCard.Bounds.Centre;
        var size = string.Create(CultureInfo.InvariantCulture, $"{box.Width:0.#} × {box.Height:0.#} mm");
        var other = Stocks.Nearest(piece, [.. c.Drawer.Where(s => Fits(box, s))]).FirstOrDefault();
        if (!anyTurn && FitsTurned(piece.Outline, stock))
        {
            yield return new("too-large", Severity.Stop, at, $"{piece.Label} ({size}) lies on a sheet of {stock.Name} only at an angle.", [piece.Id],
                new("Let pieces turn by any angle", new SetLaying(c.Design.Laying with { Turns = Turns.Any })));
            yield break;
        }

        yield return other is null
            ? new("too-large", Severity.Stop, at, $"{piece.Label} ({size}) is larger than every sheet in the drawer: make it smaller, or add a larger sheet.",
            [piece.Id])
            : new("too-large", Severity.Stop, at, $"{piece.Label} ({size}) is larger than the sheets of {stock.Name}.", [piece.Id],
                new($"Take {other.Name}", new AssignStock([piece.Id], other.Id)));
    }

    /// <summary>How finely angles are looked at; between two of them the box of a piece of 400 mm grows by less than 0.9 mm.</summary>
    private static readonly Angle Step = Angle.FromDegrees(0.25);

    private static bool FitsTurned(VectorPath outline, Stock stock)
    {
        // The whole of it turned by a half is as large.
        ImmutableArray<Point> points = [.. outline.Rings[0]];
        for (var turn = Angle.Zero; turn.Degrees < 180; turn += Step)
        {
            var by = Affine.Turn(turn);
            if (Fits(points.Aggregate(Box.Empty, (b, p) => b.With(by.Apply(p))), stock)) return true;
        }

        return false;
    }

    private static bool Fits(Box box, Stock stock) => stock.Sheets.Any(s => s.Count > 0
        && ((box.Width <= s.UsableWidth.Mm + 1e-6 && box.Height <= s.UsableHeight.Mm + 1e-6)
        || (box.Height <= s.UsableWidth.Mm + 1e-6 && box.Width <= s.UsableHeight.Mm + 1e-6)));
}
