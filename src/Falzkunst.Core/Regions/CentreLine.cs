namespace Falzkunst.Core.Regions;

/// <summary>
/// The line along the middle of a narrow area: its chordal axis. The area's edge is sampled, the samples are triangulated (Delaunay), and of each triangle
/// inside the middles of those sides are joined that cross the area; where three meet, at their centroid (Prasad, "Morphological analysis of shapes", 1997).
/// Near the medial axis where samples are closer together than the area is wide. Costs n log n in the samples.
/// </summary>
internal static class CentreLine
{
    /// <summary>Open lines between ends and junctions, and closed ones around holes, with how wide the area is along each at its narrowest.</summary>
    /// <param name="step">How far samples are apart at most, in mm.</param>
    public static IEnumerable<(List<Point> Points, double Narrowest)> Of(VectorPath part, double step)
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
        var links = new Dictionary<Point, List<(Point To, double Width)>>();
        foreach (var corners in Region.Triangles(samples))
        {
            Point[] t = [.. corners.Select(Chords.Snapped)];
            var middle = (t[0] + t[1] + t[2]) * (1 / 3.0);
            if (inside.At(middle) % 2 == 0) continue;
            var across = Enumerable.Range(0, 3).Select(i => (A: t[i], B: t[(i + 1) % 3]))
                .Where(s => !(next.TryGetValue(s.A, out var n) && n == s.B) && !(next.TryGetValue(s.B, out n) && n == s.A))
                .Select(s => (Middle: (s.A + s.B) * 0.5, Width: s.A.DistanceTo(s.B))).ToList();
            if (across.Count == 2) Join(across[0].Middle, across[1].Middle, Math.Min(across[0].Width, across[1].Width));
            else if (across.Count == 3)
                foreach (var side in across) Join(middle, side.Middle, side.Width);
        }

        return Walked(links);

        void Join(Point a, Point b, double width)
        {
            (links.TryGetValue(a, out var from) ? from : links[a] = []).Add((b, width));
            (links.TryGetValue(b, out var to) ? to : links[b] = []).Add((a, width));
        }
    }

    private static IEnumerable<(List<Point> Points, double Narrowest)> Walked(Dictionary<Point, List<(Point To, double Width)>> links)
    {
        var gone = new HashSet<(Point, Point)>();
        // From ends and junctions first; what is left then goes around in circles.
        foreach (var (start, ways) in links.Where(l => l.Value.Count != 2).Concat(links.Where(l => l.Value.Count == 2)))
            foreach (var (first, width) in ways)
            {
                if (gone.Contains((start, first))) continue;
                var (points, narrowest, at, to) = (new List<Point> { start }, width, start, first);
                while (true)
                {
                    gone.Add((at, to));
                    gone.Add((to, at));
                    points.Add(to);
                    if (links[to].Count != 2 || to == start) break;
                    var (onward, wide) = links[to][0].To == at ? links[to][1] : links[to][0];
                    if (gone.Contains((to, onward))) break;
                    (at, to, narrowest) = (to, onward, Math.Min(narrowest, wide));
                }

                yield return (points, narrowest);
            }
    }
}
