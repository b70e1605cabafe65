namespace Falzkunst.Core.Shapes;

/// <summary>Questions about closed rings of points (the start not repeated). All linear in the points unless said otherwise.</summary>
public static class Polygons
{
    /// <summary>The signed area: positive when the ring runs clockwise on the screen.</summary>
    public static double SignedArea(IReadOnlyList<Point> ring)
    {
        double sum = 0;
        for (int i = 0, j = ring.Count - 1; i < ring.Count; j = i++) sum += ring[j].Cross(ring[i]);
        return sum / 2;
    }

    /// <summary>How often the ring winds about the point (clockwise counts up). Points on the ring itself may give either side.</summary>
    public static int Winding(IReadOnlyList<Point> ring, Point p)
    {
        var winding = 0;
        for (int i = 0, j = ring.Count - 1; i < ring.Count; j = i++)
        {
            Point a = ring[j], b = ring[i];
            if (a.Y <= p.Y)
            {
                if (b.Y > p.Y && (b - a).Cross(p - a) > 0) winding++;
            }
            else if (b.Y <= p.Y && (b - a).Cross(p - a) < 0)
            {
                winding--;
            }
        }

        return winding;
    }

    /// <summary>The distance from the point to the nearest place on the ring's edges.</summary>
    public static double DistanceToEdges(IReadOnlyList<Point> points, Point p, bool closed = true)
    {
        var best = double.PositiveInfinity;
        for (var i = closed ? 0 : 1; i < points.Count; i++)
            best = Math.Min(best, p.DistanceToSegment(points[i == 0 ? points.Count - 1 : i - 1], points[i]));
        return points.Count == 1 ? p.DistanceTo(points[0]) : best;
    }

    /// <summary>
    /// Whether any two edges of the rings cross or touch, other than neighbours at their shared corner. A sweep over the edges sorted by their left
    /// end: n log n for outlines as they occur, n² at worst. Exact but for rounding; a near miss under 1e-9 mm may count as a crossing, which only
    /// costs time, since the caller then takes the careful way.
    /// </summary>
    public static bool AnyCrossing(IReadOnlyList<List<Point>> rings)
    {
        var edges = new List<Edge>(rings.Sum(r => r.Count));
        for (var r = 0; r < rings.Count; r++)
        {
            var ring = rings[r];
            for (var i = 0; i < ring.Count; i++)
            {
                Point a = ring[i], b = ring[(i + 1) % ring.Count];
                edges.Add(new(Math.Min(a.X, b.X), Math.Max(a.X, b.X), Math.Min(a.Y, b.Y), Math.Max(a.Y, b.Y), a, b, r, i));
            }
        }

        edges.Sort(static (a, b) => a.Left.CompareTo(b.Left));
        for (var i = 0; i < edges.Count; i++)
        {
            var e = edges[i];
            for (var j = i + 1; j < edges.Count && edges[j].Left <= e.Right; j++)
            {
                var f = edges[j];
                if (f.Top > e.Bottom || e.Top > f.Bottom) continue;
                if (e.Ring == f.Ring)
                {
                    var n = rings[e.Ring].Count;
                    var gap = Math.Abs(e.Index - f.Index);
                    if (gap == 1 || gap == n - 1)
                    {
                        if (FoldsBack(e, f)) return true;
                        continue;
                    }
                }

                if (Meet(e.A, e.B, f.A, f.B)) return true;
            }
        }

        return false;
    }

    private static bool FoldsBack(Edge e, Edge f)
    {
        // Neighbours share one corner; they overlap only when they run back along each other.
        Point u = e.B - e.A, v = f.B - f.A;
        return u.Dot(v) < 0 && Math.Abs(u.Cross(v)) <= 1e-9 * u.Norm * v.Norm;
    }

    private static bool Meet(Point a, Point b, Point c, Point d)
    {
        Point ab = b - a, cd = d - c;
        double s1 = ab.Cross(c - a), s2 = ab.Cross(d - a), s3 = cd.Cross(a - c), s4 = cd.Cross(b - c);
        double e1 = 1e-9 * ab.Norm, e2 = 1e-9 * cd.Norm;
        return !((s1 > e1 && s2 > e1) || (s1 < -e1 && s2 < -e1)) && !((s3 > e2 && s4 > e2) || (s3 < -e2 && s4 < -e2));
    }

    private readonly record struct Edge(double Left, double Right, double Top, double Bottom, Point A, Point B, int Ring, int Index);
}
