using Falzkunst.Core.Cards;
using Falzkunst.Core.Regions;

namespace Falzkunst.Core.Findings;

/// <summary>
/// Lines, and pieces other than a base, that lie where a real thing goes. When: they share more than a square millimetre, or a line runs under it. Why: they
/// are not seen, or hold the thing off.
/// </summary>
internal static class UnderThing
{
    private const double LeastMm2 = 1;

    public static IEnumerable<Finding> In(FindingContext c)
    {
        foreach (var thing in c.Design.Pieces.Where(p => p.IsThing))
        {
            var (box, area) = (thing.OnCard.Bounds, Region.Of(thing.OnCard));
            var pieces = c.Design.Papers.Where(p => p.Folds.IsEmpty && p.OnCard.Bounds.Touches(box)
                && Region.Of(p.OnCard).Overlap(area).AreaMm2 > LeastMm2).ToList();
            var lines = c.Design.Lines.Where(l => l.Operation is not (Operation.Rest or Operation.Print) && l.Path.Bounds.Touches(box)
                && !area.Within(l.Path).IsEmpty).ToList();
            if (pieces.Count + lines.Count == 0) continue;
            var what = string.Join(" and ", new[]
            {
                pieces.Count == 0 ? null : pieces.Count == 1 ? $"“{pieces[0].Label}”" : $"{pieces.Count} pieces",
                lines.Count == 0 ? null : lines.Count == 1 ? "a line" : $"{lines.Count} lines",
            }.OfType<string>());
            var lie = pieces.Count + lines.Count == 1 ? "lies" : "lie";
            yield return new("under-thing", Severity.Warn, box.Centre,
                $"{char.ToUpperInvariant(what[0])}{what[1..]} {lie} under {thing.Label}, which goes there.",
                [thing.Id, .. pieces.Select(p => p.Id), .. lines.Select(l => l.Id)]);
        }
    }
}
