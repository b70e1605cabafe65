using Falzkunst.Core.Files;
using Falzkunst.Core.Regions;

namespace Falzkunst.Core.Cards;

/// <summary>An outline that lines enclose, though their ends run past each other or fork, and the lines that divide it.</summary>
/// <param name="Members">All lines that it was made of.</param>
/// <param name="Across">Those inside of it, cut off at its edge.</param>
internal sealed record EnclosedFace(List<int> Members, Subpath Outline, List<(int Member, VectorPath Line)> Across);

/// <summary>
/// Finds outlines among lines that do not meet end to end: corners where lines cross, folds whose ends lie on an edge. Only where that explains every line of
/// a connected group: it lies on the outline, or goes straight across it, or runs past a corner a little.
/// </summary>
internal static class StrokeFaces
{
    // Nobody hands over an outline in so many lines, or so many outlines like that; it would take long to find that out for a drawing of lines.
    private const int Fewest = 3, Most = 60, MostLines = 3000, MostGroups = 300;
    private const double LeastMm = 15, PastMm = 3, Reach = 0.15, OnEdge = 0.2;

    /// <summary>About n log n in the lines; each group costs the square of its (few) lines.</summary>
    public static List<EnclosedFace> Find(IReadOnlyList<Subpath> open, ReadingWork work)
    {
        if (open.Count > MostLines) return [];
        var rings = open.Select(o => Reaching(o.Flatten())).ToList();
        var boxes = rings.ConvertAll(r => r.Aggregate(Box.Empty, (b, p) => b.With(p)));
        var sets = new DisjointSets(open.Count);
        var grid = new BoxGrid<int>(20);
        for (var i = 0; i < open.Count; i++)
        {
            work.Go();
            foreach (var j in grid.Touching(boxes[i]).Distinct())
                if (sets.Of(i) != sets.Of(j) && rings[i].Count + rings[j].Count < 400 && Touch(rings[i], rings[j])) sets.Join(i, j);
            grid.Add(boxes[i], i);
        }

        var faces = new List<EnclosedFace>();
        foreach (var set in sets.Sets().Where(s => s.Count() is >= Fewest and <= Most).Take(MostGroups))
        {
            work.Go();
            var members = set.ToList();
            var area = Region.EnclosedBy(members.Select(m => rings[m]));
            if (area.IsEmpty || Math.Max(area.Bounds.Width, area.Bounds.Height) < LeastMm) continue;
            var paths = area.ToPaths();
            if (paths.Count != 1 || paths[0].Subpaths.Length != 1) continue;
            if (Explained(open, members, Plain(paths[0])) is { } face) faces.Add(face);
        }

        return faces;
    }

    private static EnclosedFace? Explained(IReadOnlyList<Subpath> open, List<int> members, VectorPath outline)
    {
        var across = new List<(int, VectorPath)>();
        foreach (var m in members)
        {
            var line = new VectorPath([open[m]]);
            // Past the outline, a little.
            if (line.Rings[0].Any(p => !outline.Encloses(p) && outline.DistanceTo(p) > PastMm)) return null;
            if (Sampled(line.Rings[0]).All(p => outline.DistanceTo(p) <= OnEdge || !outline.Encloses(p))) continue;
            var trimmed = Folds.SetBack(line, outline, Length.Zero);
            if (!Folds.IsStraight(line, out _, out _) || !Folds.Spans(trimmed, outline)) return null;
            across.Add((m, trimmed));
        }

        return new(members, outline.Subpaths[0], across);
    }

    private static IEnumerable<Point> Sampled(List<Point> points)
    {
        for (var i = 1; i < points.Count; i++)
            for (var k = 1; k < 8; k++) yield return points[i - 1] + (points[i] - points[i - 1]) * (k / 8.0);
    }

    /// <summary>Without the corners on straight edges, which are where lines ended.</summary>
    private static VectorPath Plain(VectorPath path)
    {
        var ring = path.Rings[0].ToList();
        for (var i = 0; i < ring.Count && ring.Count > 3;)
        {
            Point before = ring[(i + ring.Count - 1) % ring.Count], after = ring[(i + 1) % ring.Count];
            if (ring[i].DistanceToSegment(before, after) < 0.01) ring.RemoveAt(i);
            else i++;
        }

        return VectorPath.Polygon([.. ring]);
    }

    /// <summary>A little longer at both ends, so that what nearly meets does.</summary>
    private static List<Point> Reaching(List<Point> points)
    {
        if (points.Count < 2) return points;
        var longer = points.ToList();
        longer[0] = Beyond(points[1], points[0]);
        longer[^1] = Beyond(points[^2], points[^1]);
        return longer;

        static Point Beyond(Point from, Point to) => from.DistanceTo(to) is > 1e-9 and var d ? to + (to - from) * (Reach / d) : to;
    }

    private static bool Touch(List<Point> a, List<Point> b)
    {
        for (var i = 1; i < a.Count; i++)
            for (var j = 1; j < b.Count; j++)
            {
                Point u = a[i] - a[i - 1], v = b[j] - b[j - 1];
                double d1 = u.Cross(b[j - 1] - a[i - 1]), d2 = u.Cross(b[j] - a[i - 1]), d3 = v.Cross(a[i - 1] - b[j - 1]), d4 = v.Cross(a[i] - b[j - 1]);
                if (d1 * d2 <= 0 && d3 * d4 <= 0 && Math.Abs(u.Cross(v)) > 1e-12) return true;
            }

        return false;
    }
}
