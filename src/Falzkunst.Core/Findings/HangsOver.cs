using Falzkunst.Core.Cards;

namespace Falzkunst.Core.Findings;

/// <summary>
/// A piece on a panel of a folded base that reaches over the panel's edge. When: its middle lies on the panel. Why: in the closed card it is seen beside the
/// card, and does not fit the envelope. A note, since some are meant so.
/// </summary>
internal static class HangsOver
{
    private const double LeastMm = 0.3;

    public static IEnumerable<Finding> In(FindingContext c)
    {
        foreach (var piece in c.Design.Pieces)
        {
            if (piece.Folds.IsEmpty || Panels.Of(piece) is not { Count: > 1 } panels) continue;
            // In the base's own coordinates, so that it does not matter how the card lies.
            var back = piece.Place.Map.Inverse();
            var ply = c.Design.PlyNumber(piece.PlyId);
            foreach (var above in c.Design.Pieces.Where(p => p.Id != piece.Id && !p.IsThing && p.Folds.IsEmpty && c.Design.PlyNumber(p.PlyId) >= ply))
            {
                var map = above.Place.Map.Then(back);
                var middle = map.Apply(above.Outline.Bounds.Centre);
                if (panels.FirstOrDefault(p => p.Bounds.Holds(middle)) is not { } panel) continue;
                var over = 0.0;
                foreach (var p in above.Outline.Rings[0].Select(map.Apply))
                    over = Math.Max(over, Math.Max(Math.Max(panel.Bounds.Left - p.X, p.X - panel.Bounds.Right),
                        Math.Max(panel.Bounds.Top - p.Y, p.Y - panel.Bounds.Bottom)));
                if (over <= LeastMm) continue;
                yield return new("hangs-over", Severity.Note, above.Place.Map.Apply(above.Outline.Bounds.Centre),
                    $"{above.Label} reaches {Length.FromMm(Math.Round(over, 1))} over {panel.InSentence} of {piece.Label}: it is seen beside the closed card.",
                    [above.Id, piece.Id]);
            }
        }
    }
}
