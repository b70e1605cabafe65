namespace Falzkunst.Core.Regions;

/// <summary>
/// The line along the middle of a narrow area: its chordal axis. The area's edge is sampled, the samples are triangulated (Delaunay), and of each triangle
/// inside the middles of those sides are joined that cross the area; where three meet, at their centroid (Prasad, "Morphological analysis of shapes", 1997).
/// Near the medial axis where samples are closer together than the area is wide. Costs n log n in the samples.
/// </summary>
internal static class CentreLine
{
    /// <summary>Open lines between ends and junctions, and closed ones around holes.</summary>
    /// <param name="step">How far samples are apart at most, in mm.</param>
    public static IEnumerable<List<Point>> Of(VectorPath part, double step)
    {
        var next = new Dictionary<Point, Point>();
        var samples = new List<Point>();
        foreach (var ring in part.Rings)
        {
            var around = new List<Point>();
            for (var i = 0; i < ring.Count; i++)
            {
                var (a, b) = (ring[i], ring[(i + 1) % ring.Count]);
                var count = Math.Max(1, (int)Math.Ceiling(a.DistanceTo(b) / step));
                for (var k = 0; k < count; k++) around.Add(Chords.Snapped(a + (b - a) * ((double)k / count)));
            }

            for (var i = 0; i < around.Count; i++)
            {
                next[around[i]] = around[(i + 1) % around.Count];
                samples.Add(around[i]);
            }
        }

        if (samples.Count < 3) return [];
        var inside = new WindingIndex([.. part.Rings]);
        var links = new Dictionary<Point, List<Point>>();
        foreach (var corners in Region.Triangles(samples))
        {
            Point[] t = [.. corners.Select(Chords.Snapped)];
            var middle = (t[0] + t[1] + t[2]) * (1 / 3.0);
            if (inside.At(middle) % 2 == 0) continue;
            var across = Enumerable.Range(0, 3).Select(i => (A: t[i], B: t[(i + 1) % 3]))
                .Where(s => !(next.TryGetValue(s.A, out var n) && n == s.B) && !(next.TryGetValue(s.B, out n) && n == s.A))
                .Select(s => (s.A + s.B) * 0.5).ToList();
            if (across.Count == 2) Join(across[0], across[1]);
            else if (across.Count == 3)
                foreach (var side in across) Join(middle, side);
        }

        return Walked(links);

        void Join(Point a, Point b)
        {
            (links.TryGetValue(a, out var from) ? from : links[a] = []).Add(b);
            (links.TryGetValue(b, out var to) ? to : links[b] = []).Add(a);
        }
    }

    private static IEnumerable<List<Point>> Walked(Dictionary<Point, List<Point>> links)
    {
        var gone = new HashSet<(Point, Point)>();
        // From ends and junctions first; what is left then goes around in circles.
        foreach (var (start, ways) in links.Where(l => l.Value.Count != 2).Concat(links.Where(l => l.Value.Count == 2)))
            foreach (var first in ways)
            {
                if (gone.Contains((start, first))) continue;
                var (points, at, to) = (new List<Point> { start }, start, first);
                while (true)
                {
                    gone.Add((at, to));
                    gone.Add((to, at));
                    points.Add(to);
                    if (links[to].Count != 2 || to == start) break;
                    var onward = links[to][0] == at ? links[to][1] : links[to][0];
                    if (gone.Contains((to, onward))) break;
                    (at, to) = (to, onward);
                }

                yield return points;
            }
    }
}
