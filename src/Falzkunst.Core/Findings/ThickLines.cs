using Falzkunst.Core.Cards;

namespace Falzkunst.Core.Findings;

/// <summary>
/// Cut lines drawn so thick that their thickness is likely to be meant. Why: as lines, only their middle is cut. Remedy: make them pieces of that thickness.
/// </summary>
internal static class ThickLines
{
    public static IEnumerable<Finding> In(FindingContext c)
    {
        var thick = c.Design.Lines.Where(l => l.Operation == Operation.Cut && l.Ink is { Fill: null, Stroke: { } s } && s.Width >= MakePieces.Thick).ToList();
        if (thick.Count == 0) yield break;
        yield return new("thick", Severity.Note, thick[0].Path.Bounds.Centre,
            string.Create(CultureInfo.InvariantCulture,
                $"{(thick.Count == 1 ? "A line is" : $"{thick.Count} lines are")} drawn {thick.Max(l => l.Ink.Stroke!.Width.Mm):0.#} mm thick; only "
                + $"{(thick.Count == 1 ? "its" : "their")} middle would be cut."),
            [.. thick.Select(l => l.Id)], new(thick.Count == 1 ? "Turn it into a piece"
                : "Turn them into pieces", new MakePieces([.. thick.Select(l => l.Id)])));
    }
}
