using System.Runtime.CompilerServices;
using Falzkunst.Core.Cards;

namespace Falzkunst.Core.Findings;

/// <summary>
/// Lines that lie on another line or on an outline of their piece, within 0.05 mm, and pieces that lie exactly on another of their colour. Why: what is cut
/// twice frays, and it
/// takes twice the time. Remedy: remove the copies.
/// </summary>
internal static class DoubledLines
{
    private const double CellMm = 20;

    // A piece never changes, so its copies are looked for once.
    private static readonly ConditionalWeakTable<Piece, ImmutableArray<Line>[]> Known = [];

    public static IEnumerable<Finding> In(FindingContext c)
    {
        var copies = ImmutableArray.CreateBuilder<string>();
        Point? at = null;
        foreach (var piece in c.Design.Pieces)
        {
            if (piece.Lines.IsEmpty) continue;
            var its = Known.GetValue(piece, static p => [Copies(p.Lines, Rings(p))])[0];
            if (its.IsEmpty) continue;
            at ??= piece.Place.Map.Apply(its[0].Path.Bounds.Centre);
            copies.AddRange(its.Select(l => l.Id));
        }

        // What is loose may lie on anything.
        var loose = c.Design.Loose.IsEmpty ? []
            : Copies(c.Design.Loose, c.Design.Pieces.SelectMany(p => p.OnCard.Parts().Select((ring, i) => (ring, p.Edges[i].Operation))));
        if (!loose.IsEmpty) at ??= loose[0].Path.Bounds.Centre;
        copies.AddRange(loose.Select(l => l.Id));
        var twins = TwinPieces(c.Design);
        if (twins.Count > 0) at ??= c.Design.Piece(twins[0])!.OnCard.Bounds.Centre;
        copies.AddRange(twins);
        if (copies.Count == 0) yield break;
        var n = copies.Count;
        yield return new("doubled", Severity.Warn, at!.Value,
            n == 1 ? "A line is there twice and would be worked twice." : $"{n} lines are there twice and would be worked twice.",
            copies.ToImmutable(), new(n == 1 ? "Remove the copy" : $"Remove {n} copies", new Remove(copies.ToImmutable())));
    }

    private static IEnumerable<(VectorPath Path, Operation Operation)> Rings(Piece piece) => piece.Outline.Parts()
        .Select((ring, i) => (ring, piece.Edges[i].Operation));

    private static ImmutableArray<Line> Copies(ImmutableArray<Line> lines, IEnumerable<(VectorPath Path, Operation Operation)> edges)
    {
        var seen = new BoxGrid<(VectorPath Path, Operation Operation, Face Face)>(CellMm);
        foreach (var (path, operation) in edges) seen.Add(path.Bounds, (path, operation, Face.Outer));
        var copies = ImmutableArray.CreateBuilder<Line>();
        foreach (var line in lines)
        {
            if (!line.Operation.UsesTool()) continue;
            var box = line.Path.Bounds;
            if (seen.Touching(box).Any(o => o.Operation == line.Operation && o.Face == line.Face && PathLikeness.Same(o.Path, line.Path))) copies.Add(line);
            else seen.Add(box, (line.Path, line.Operation, line.Face));
        }

        return copies.ToImmutable();
    }

    /// <summary>Pieces of the same colour exactly on another one; the upper goes, with what it carries.</summary>
    private static List<string> TwinPieces(Design design)
    {
        var seen = new BoxGrid<Piece>(CellMm);
        var twins = new List<string>();
        foreach (var piece in design.Pieces)
        {
            var box = piece.OnCard.Bounds;
            if (seen.Touching(box).Any(p => p.Colour == piece.Colour && p.Look == piece.Look && p.Edges.Length == piece.Edges.Length
                && PathLikeness.Same(p.OnCard, piece.OnCard)))
                twins.Add(piece.Id);
            else
                seen.Add(box, piece);
        }

        return twins;
    }
}
