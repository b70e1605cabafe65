using Falzkunst.Core.Cards;

namespace Falzkunst.Core.Findings;

/// <summary>
/// Lines whose ends stop less than a millimetre short of one another, but further than what is closed by itself. Why: closed, each would be a piece; as it is,
/// it is cut
/// as a line and leaves a bridge of paper. Remedy: close them.
/// </summary>
internal static class AlmostClosed
{
    public static IEnumerable<Finding> In(FindingContext c)
    {
        var open = c.Design.Lines.Where(l => l.Operation == Operation.Cut && Gap(l) is > 0 and <= CloseLines.SlipMm).ToList();
        if (open.Count == 0) yield break;
        var gap = open.Max(Gap);
        yield return new("almost-closed", Severity.Warn, open[0].Path.Subpaths[0].Start,
            string.Create(CultureInfo.InvariantCulture,
                $"{(open.Count == 1 ? "An outline is" : $"{open.Count} outlines are")} open by {(open.Count == 1 ? "" : "up to ")}{gap:0.##} mm; closed, "
                + $"{(open.Count == 1 ? "it" : "each")} would be a piece."),
            [.. open.Select(l => l.Id)], new(open.Count == 1 ? "Close it" : "Close them", new MakePieces([.. open.Select(l => l.Id)])));
    }

    /// <summary>0 for what is closed, or too short for its gap to be a slip.</summary>
    private static double Gap(LaidLine laid)
    {
        var line = laid.Line;
        if (line.Path.Subpaths is not [{ Closed: false } sub]) return 0;
        var gap = sub.Start.DistanceTo(sub.End);
        return line.Path.Length.Mm > gap * 12 && line.Path.Length.Mm > 6 ? gap : 0;
    }
}
