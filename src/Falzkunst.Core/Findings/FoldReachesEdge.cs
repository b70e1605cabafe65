using Falzkunst.Core.Cards;

namespace Falzkunst.Core.Findings;

/// <summary>
/// A scored or perforated fold that ends less than the setback from the edge. Why: the paper tears there. Remedy: stop short of the edge.
/// </summary>
internal static class FoldReachesEdge
{
    public static IEnumerable<Finding> In(Piece piece, FindingContext c)
    {
        foreach (var line in piece.Lines.Where(l => l.Operation is Operation.Score or Operation.Perforate))
        {
            if (!Folds.IsStraight(line.Path, out var a, out var b)) continue;
            if (Folds.SpanOf(line.Path, piece.Outline) is not { } span || span.LeastShort.Mm >= c.FoldSetback.Mm - 0.01) continue;
            var name = line.Label.Length > 0 ? $"“{line.Label}”" : "A fold";
            yield return new("fold-edge", Severity.Warn, piece.Place.Map.Apply(span.ShortAtStart <= span.ShortAtEnd ? a : b),
                $"{name} on {piece.Label} reaches the edge; the paper tears there when it is folded.",
                [line.Id, piece.Id], new($"Stop {c.FoldSetback} short", new SetFoldsBack([line.Id], c.FoldSetback)));
        }
    }
}
