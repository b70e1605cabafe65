using Falzkunst.Core.Cards;

namespace Falzkunst.Core.Findings;

/// <summary>
/// A straight open line that runs (almost) from edge to edge of its piece and would be cut. When:
/// <see cref="Folds.NearlySpans"/>. Why: it would part the card in two. Remedy: make it a score.
/// </summary>
internal static class FoldWouldBeCut
{
    public static IEnumerable<Finding> In(Piece piece, FindingContext c)
    {
        foreach (var line in piece.Lines.Where(l => l.Operation == Operation.Cut))
        {
            if (!Folds.IsStraight(line.Path, out var a, out var b)) continue;
            if (Folds.SpanOf(line.Path, piece.Outline) is not { } span || !Folds.NearlySpans(span)) continue;
            var name = line.Label.Length > 0 ? $"“{line.Label}”" : "A fold";
            yield return new("fold-cut", Severity.Stop, piece.Place.Map.Apply((a + b) * 0.5),
                $"{name} on {piece.Label} would be cut: it is straight and runs from edge to edge, so the piece would fall in two.",
                [line.Id, piece.Id], new("Score it instead", new SetLineOperation([line.Id], Operation.Score)));
        }
    }
}
