using Falzkunst.Core.Cards;
using Falzkunst.Core.Reading.Recognition;

namespace Falzkunst.Core.Findings;

/// <summary>
/// A rectangle over the whole page that lies under everything and is white, or called background. Why: it is often only the page that was drawn on, and a sheet
/// would be
/// cut for it. It may be the card itself as well, so it is asked: never where it carries lines of its own, or other pieces are of its paper. Remedy: leave it
/// out.
/// </summary>
internal static class PageBackground
{
    private const double AsThePageMm = 0.5;

    public static IEnumerable<Finding> In(FindingContext c)
    {
        var design = c.Design;
        if (design.Pieces.Length < 2 || design.Pieces[0] is not { Origin.Ink.Fill: { } fill, HoleCount: 0 } lowest) yield break;
        var box = lowest.OnCard.Bounds;
        if (!IsAsThePage.IsPage(box, design.Width, design.Height, AsThePageMm)) yield break;
        if (lowest.AreaMm2 < 0.999 * box.Area) yield break;
        var isCalled = lowest.Label.Split(' ').Any(w => w.ToLowerInvariant() is "background" or "bg" or "page" or "canvas" or "artboard");
        var isWhite = fill.DistanceTo(Colour.White) <= 1 && design.Pieces.All(p => p == lowest || p.Origin?.Ink.Fill != fill) && lowest.Lines.IsEmpty;
        if (!isCalled && !isWhite) yield break;
        yield return new("background", Severity.Warn, box.Centre,
            $"{(isCalled ? $"“{lowest.Label}”" : "A white rectangle")} covers the whole page. If it is only the page, nothing should be cut for it.",
            [lowest.Id], new("Leave it out", new LeaveOut([lowest.Id])));
    }
}
