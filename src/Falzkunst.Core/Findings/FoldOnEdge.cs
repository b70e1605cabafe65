using Falzkunst.Core.Cards;

namespace Falzkunst.Core.Findings;

/// <summary>
/// A scored or perforated line that runs along an edge of its piece that is cut. Why: it does nothing but press or prick
/// the edge, which frays, and the tool runs half off the paper. Remedy: leave it out.
/// </summary>
internal static class FoldOnEdge
{
    /// <summary>A tool as wide as a scoring tip reaches over an edge that is nearer.</summary>
    private const double NearMm = 0.15;

    /// <summary>So much of the line lies on edges; less is a fold that touches one.</summary>
    private const double Share = 0.6;

    public static IEnumerable<Finding> In(Piece piece, FindingContext c)
    {
        VectorPath cut = new([.. piece.Outline.Subpaths.Where((_, i) => piece.Edges[i].Operation == Operation.Cut)]);
        if (cut.IsEmpty) yield break;
        foreach (var line in piece.Lines.Where(l => l.Operation is Operation.Score or Operation.Perforate))
        {
            var places = line.Path.Subpaths.SelectMany(s => Along(s.Walk())).ToList();
            if (places.Count == 0 || places.Count(p => cut.DistanceTo(p) <= NearMm) < Share * places.Count) continue;
            var name = line.Label.Length > 0 ? $"“{line.Label}”" : line.Operation == Operation.Score ? "A scored line" : "A perforated line";
            yield return new("fold-on-edge", Severity.Warn, piece.Place.Map.Apply(places[places.Count / 2]),
                $"{name} on {piece.Label} runs along an edge that is cut, where nothing can be folded.", [line.Id, piece.Id],
                new("Leave it out", new LeaveOut([line.Id])));
        }
    }

    /// <summary>The middle of each millimetre of a line.</summary>
    private static IEnumerable<Point> Along(IReadOnlyList<Point> points)
    {
        for (var i = 1; i < points.Count; i++)
        {
            var steps = Math.Max(1, (int)Math.Ceiling(points[i - 1].DistanceTo(points[i])));
            for (var k = 0; k < steps; k++) yield return points[i - 1] + (points[i] - points[i - 1]) * ((k + 0.5) / steps);
        }
    }
}
