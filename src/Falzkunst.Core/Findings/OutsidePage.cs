using Falzkunst.Core.Cards;

namespace Falzkunst.Core.Findings;

/// <summary>
/// Pieces that lie wholly outside the page. Why: people park there what does not belong to the card. Remedy: leave them out.
/// </summary>
internal static class OutsidePage
{
    public static IEnumerable<Finding> In(FindingContext c)
    {
        var page = new Box(0, 0, c.Design.Width.Mm, c.Design.Height.Mm);
        var outside = c.Design.Pieces.Where(p => !p.OnCard.Bounds.Grown(-0.01).Touches(page)).ToList();
        // Where all of it is, the page says nothing.
        if (outside.Count == 0 || outside.Count == c.Design.Pieces.Length) yield break;
        yield return new("outside", Severity.Warn, outside[0].OnCard.Bounds.Centre,
            outside.Count == 1 ? $"{outside[0].Label} lies outside the page." : $"{outside.Count} pieces lie outside the page.",
            [.. outside.Select(p => p.Id)], new(outside.Count == 1 ? "Leave it out" : "Leave them out", new LeaveOut([.. outside.Select(p => p.Id)])));
    }
}
