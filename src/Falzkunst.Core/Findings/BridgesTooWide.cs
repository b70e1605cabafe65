using Falzkunst.Core.Cards;

namespace Falzkunst.Core.Findings;

/// <summary>
/// Bridges that take more than half of the edge that they are left in. Why: what is cut out does not come off. Remedy: as many as leave half of it, or none.
/// </summary>
internal static class BridgesTooWide
{
    public static IEnumerable<Finding> In(Piece piece, FindingContext c)
    {
        for (var i = 0; i < piece.Edges.Length; i++)
        {
            if (piece.Edges[i] is not { Operation: Operation.Cut, Bridges: { } bridges }) continue;
            var length = new VectorPath([piece.Outline.Subpaths[i]]).Length;
            if (bridges.MostOn(length) is var most && most >= bridges.Number) continue;
            var outer = piece.IsOuter(i);
            yield return new("bridges-wide", Severity.Warn, piece.Place.Map.Apply(piece.Outline.Subpaths[i].Start),
                $"{bridges.Number} bridges of {bridges.Width} take more than half of {(outer ? "the edge" : "a hole")} of {piece.Label}: it would not "
                    + "come out.",
                [piece.Id], new(most == 0 ? "Leave no bridges" : $"Leave {most}",
                    new SetBridges([piece.Id], most == 0 ? null : bridges with { Number = most }, outer, !outer)));
        }
    }
}
