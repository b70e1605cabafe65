using Falzkunst.Core.Cards;

namespace Falzkunst.Core.Findings;

/// <summary>
/// A drawing of lines only. Why: only pieces are laid out, so it must be said what the lines are drawn on. Remedy: a plain piece around all of them.
/// </summary>
internal static class NoPiece
{
    private static readonly Length Margin = Length.FromMm(10);

    public static IEnumerable<Finding> In(FindingContext c)
    {
        if (!c.Design.Pieces.IsEmpty || c.Design.Lines.IsEmpty) yield break;
        var box = c.Design.Extent.Grown(Margin.Mm);
        yield return new("no-piece", Severity.Stop, c.Design.Extent.Centre, "There are only lines, and no piece of paper that they are on.", [],
            new(string.Create(CultureInfo.InvariantCulture, $"Lay them on paper of {box.Width:0} × {box.Height:0} mm"), new LayOnPaper(Margin)));
    }
}
