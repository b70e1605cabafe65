namespace Falzkunst.Core.Regions;

/// <summary>
/// What a small set of crossing rings encloses, by the arrangement of its edges: all edges are cut where they meet, the winding on both sides of each part
/// is counted, and the parts between filled and empty are linked to rings (the idea of Weiler and Atherton 1977, with winding numbers).
/// Quadratic in the edges, so only for small sets, where it is some twenty times as fast as the general overlay. It gives up, rather than guess, where
/// edges lie on one another or the parts do not link; the caller then takes the general way.
/// </summary>
internal static class Arrangement
{
    /// <summary>More edges than this are left to the general overlay.</summary>
    public const int MostEdges = 300;

    /// <summary>The boundary as rings with the filled side on the right (outer edges clockwise on the screen), or null when it gives up.</summary>
    public static List<List<Point>>? Boundary(IReadOnlyList<List<Point>> rings, FillRule rule)
    {
        var edges = new EdgeSweep(rings);
        var n = edges.Count;
        if (n > MostEdges) return null;
        var box = Box.Empty;
        foreach (var p in edges.A) box = box.With(p);
        var size = Math.Max(box.Width, box.Height);
        var cuts = new List<(double T, Point P)>?[n];
        // Corners that touch something: the sides of an edge are counted afresh behind them, and are known without counting elsewhere.
        var touched = new HashSet<Point>();
        if (!edges.VisitPairs((i, j) => Meet(edges, i, j, cuts, touched))) return null;

        var outgoing = new Dictionary<Point, List<int>>(n);
        var parts = new List<(Point A, Point B)>(n * 2);
        var balance = new Dictionary<Point, int>(n);
        bool right = false, left = false, known = false;
        for (var i = 0; i < n; i++)
        {
            Point a = edges.A[i], b = edges.B[i];
            if (i == 0 || edges.Next[i - 1] != i || touched.Contains(a)) known = false;
            var from = a;
            if (cuts[i] is { } list)
            {
                list.Sort(static (u, v) => u.T.CompareTo(v.T));
                foreach (var (_, p) in list)
                {
                    if (p == from) continue;
                    if (!Keep(from, p)) return null;
                    from = p;
                    known = false;
                }
            }

            if (from != b && !Keep(from, b)) return null;
        }

        foreach (var count in balance.Values)
            if (count != 0) return null;
        return Link(parts, outgoing);

        bool Keep(Point a, Point b)
        {
            if (!known)
            {
                var d = b - a;
                var length = d.Norm;
                if (length < 1e-9 * size) return false;
                var off = new Point(-d.Y, d.X) * Math.Min(1e-3, 1e-6 * size / length);
                var middle = (a + b) * 0.5;
                (right, left, known) = (Filled(middle + off), Filled(middle - off), true);
            }

            if (right == left) return true;
            if (left) (a, b) = (b, a);
            if (!outgoing.TryGetValue(a, out var outs)) outgoing[a] = outs = new(1);
            outs.Add(parts.Count);
            parts.Add((a, b));
            balance[a] = balance.GetValueOrDefault(a) + 1;
            balance[b] = balance.GetValueOrDefault(b) - 1;
            return true;
        }

        bool Filled(Point p)
        {
            var winding = 0;
            foreach (var ring in rings) winding += Polygons.Winding(ring, p);
            return rule == FillRule.EvenOdd ? winding % 2 != 0 : winding != 0;
        }
    }

    /// <summary>Notes where two edges meet. False where they lie on one another, which this class leaves to others.</summary>
    private static bool Meet(EdgeSweep edges, int i, int j, List<(double T, Point P)>?[] cuts, HashSet<Point> touched)
    {
        Point a = edges.A[i], b = edges.B[i], c = edges.A[j], d = edges.B[j];
        var neighbours = edges.Next[i] == j || edges.Next[j] == i;
        Point u = b - a, v = d - c, w = c - a;
        var cross = u.Cross(v);
        double nu = u.Norm, nv = v.Norm;
        if (Math.Abs(cross) <= 1e-9 * nu * nv)
        {
            // Parallel: apart, or one behind the other at a shared corner; anything else overlaps.
            if (Math.Abs(u.Cross(w)) > 1e-7 * nu) return true;
            double t0 = w.Dot(u) / (nu * nu), t1 = (d - a).Dot(u) / (nu * nu);
            if (Math.Max(t0, t1) > 1e-9 && Math.Min(t0, t1) < 1 - 1e-9) return false;
            if (!neighbours) touched.Add(Math.Max(t0, t1) <= 1e-9 ? a : b);
            return true;
        }

        double t = w.Cross(v) / cross, s = w.Cross(u) / cross;
        const double Eps = 1e-9;
        if (t < -Eps || t > 1 + Eps || s < -Eps || s > 1 + Eps) return true;
        bool atA = t < Eps, atB = t > 1 - Eps, atC = s < Eps, atD = s > 1 - Eps;
        // A corner that both share is one already; a corner on the other's inside cuts the other there, exactly.
        var p = atA ? a : atB ? b : atC ? c : atD ? d : a + u * t;
        if (atA || atB || atC || atD)
        {
            if (!neighbours) touched.Add(p);
            if ((atA || atB) && (atC || atD)) return p == (atC ? c : d);
        }

        if (!(atA || atB)) (cuts[i] ??= []).Add((t, p));
        if (!(atC || atD)) (cuts[j] ??= []).Add((s, p));
        return true;
    }

    /// <summary>Joins directed edges to rings; null where they don't close.</summary>
    internal static List<List<Point>>? Link(List<(Point A, Point B)> parts, Dictionary<Point, List<int>> outgoing)
    {
        var used = new bool[parts.Count];
        var rings = new List<List<Point>>();
        for (var i = 0; i < parts.Count; i++)
        {
            if (used[i]) continue;
            var ring = new List<Point>();
            var at = i;
            while (true)
            {
                used[at] = true;
                var (a, b) = parts[at];
                ring.Add(a);
                if (b == parts[i].A) break;
                if (!outgoing.TryGetValue(b, out var outs)) return null;
                // Where several go on, the sharpest turn to the right stays along the same filled corner.
                var next = -1;
                var sharpest = double.NegativeInfinity;
                foreach (var o in outs)
                {
                    if (used[o]) continue;
                    Point d = b - a, e = parts[o].B - b;
                    var turn = Math.Atan2(d.Cross(e), d.Dot(e));
                    if (turn > sharpest) (sharpest, next) = (turn, o);
                }

                if (next < 0 || ring.Count > parts.Count) return null;
                at = next;
            }

            if (ring.Count >= 3 && Math.Abs(Polygons.SignedArea(ring)) > 1e-6) rings.Add(ring);
        }

        return rings;
    }
}
