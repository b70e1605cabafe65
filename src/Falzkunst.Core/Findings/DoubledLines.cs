using Falzkunst.Core.Cards;
using Falzkunst.Core.Reading.Recognition;

namespace Falzkunst.Core.Findings;

/// <summary>
/// Lines that lie on another line or on an outline, within 0.05 mm. Why: what is cut twice frays, and it takes twice the time. Remedy: remove the copies.
/// </summary>
internal static class DoubledLines
{
    public static IEnumerable<Finding> In(FindingContext c)
    {
        var seen = new BoxGrid<(VectorPath Path, Operation Operation, string Id)>(20);
        var copies = ImmutableArray.CreateBuilder<string>();
        Point at = default;
        foreach (var piece in c.Design.Lines.IsEmpty ? [] : c.Design.Pieces)
            for (var i = 0; i < piece.Outline.Subpaths.Length; i++)
            {
                var ring = new VectorPath([piece.Outline.Subpaths[i]]);
                seen.Add(ring.Bounds, (ring, i == 0 ? piece.OuterOperation : piece.HoleOperation, piece.Id));
            }

        foreach (var line in c.Design.Lines)
        {
            if (!line.Operation.UsesTool()) continue;
            var box = line.Path.Bounds;
            if (seen.Touching(box).Any(o => o.Operation == line.Operation && PathLikeness.Same(o.Path, line.Path)))
            {
                if (copies.Count == 0) at = box.Centre;
                copies.Add(line.Id);
            }
            else
            {
                seen.Add(box, (line.Path, line.Operation, line.Id));
            }
        }

        var twins = TwinPieces(c.Design);
        if (copies.Count == 0 && twins.Count > 0) at = c.Design.Piece(twins[0])!.Outline.Bounds.Centre;
        copies.AddRange(twins);
        if (copies.Count == 0) yield break;
        var n = copies.Count;
        yield return new("doubled", Severity.Warn, at,
            n == 1 ? "A line is there twice and would be worked twice." : $"{n} lines are there twice and would be worked twice.",
            copies.ToImmutable(), new(n == 1 ? "Remove the copy" : $"Remove {n} copies", new Remove(copies.ToImmutable())));
    }

    /// <summary>Pieces of the same look exactly on another one; the upper goes, with what it carries.</summary>
    private static List<string> TwinPieces(Design design)
    {
        var seen = new BoxGrid<Piece>(20);
        var twins = new List<string>();
        foreach (var piece in design.Pieces)
        {
            var box = piece.Outline.Bounds;
            if (seen.Touching(box).Any(p => p.Look == piece.Look && p.Outline.Subpaths.Length == piece.Outline.Subpaths.Length && PathLikeness.Same(p.Outline, piece.Outline)))
                twins.Add(piece.Id);
            else
                seen.Add(box, piece);
        }

        return twins;
    }
}
