using Falzkunst.Core.Cards;

namespace Falzkunst.Core.Findings;

/// <summary>
/// A rectangle over the whole page of which recognition could not tell whether it is only the page that was drawn on. Why: a sheet would be cut for it. Remedy:
/// leave it out.
/// </summary>
internal static class PageBackground
{
    public static IEnumerable<Finding> In(FindingContext c) => c.Design.Pieces.Where(p => p.Origin?.Or == Meaning.Ground).Select(p =>
        new Finding("background", Severity.Warn, p.OnCard.Bounds.Centre,
            $"“{p.Label}” covers the whole page. If it is only the page, nothing should be cut for it.",
            [p.Id], new("Leave it out", new LeaveOut([p.Id]))));
}
