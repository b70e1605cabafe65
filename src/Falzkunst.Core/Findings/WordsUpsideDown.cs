using Falzkunst.Core.Cards;

namespace Falzkunst.Core.Findings;

/// <summary>
/// Words on the outer face of a tent card's back panel that stand upright as the base lies flat. Why: when the card stands, the back hangs from the fold, and
/// they are read upside down. Remedy: stand them on their head.
/// </summary>
internal static class WordsUpsideDown
{
    public static IEnumerable<Finding> In(Piece piece, FindingContext c)
    {
        if (piece.Folds.Length != 1 || Panels.Of(piece) is not [{ Name: "back" } back, { Name: "front" } front] || back.Bounds.Bottom > front.Bounds.Top + 1)
            yield break;
        foreach (var line in piece.Lines)
        {
            if (line is not { Face: Face.Outer, Words: { } words } || !back.Bounds.Holds(line.Path.Bounds.Centre)) continue;
            if (words.Place.Turn.Degrees is > 90 and < 270) continue;
            yield return new("words-upside-down", Severity.Warn, piece.Place.Map.Apply(line.Path.Bounds.Centre),
                $"“{Lettered.Short(words.Words.Text)}” lies on the back panel of {piece.Label}: when the card stands, it is read upside down.",
                [line.Id, piece.Id], new("Stand it on its head", new Turn([line.Id], Angle.Half)));
        }
    }
}
