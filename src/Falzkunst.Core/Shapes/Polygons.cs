using System.Runtime.InteropServices;

namespace Falzkunst.Core.Shapes;

/// <summary>Questions about closed rings of points (the start not repeated). All linear in the points unless said otherwise.</summary>
public static class Polygons
{
    /// <summary>The signed area: positive when the ring runs clockwise on the screen.</summary>
    public static double SignedArea(IReadOnlyList<Point> ring)
    {
        double sum = 0;
        var points = Span(ring);
        Steps.Count(points.Length);
        for (int i = 0, j = points.Length - 1; i < points.Length; j = i++) sum += points[j].Cross(points[i]);
        return sum / 2;
    }

    /// <summary>How often the ring winds about the point (clockwise counts up). Points on the ring itself may give either side.</summary>
    public static int Winding(IReadOnlyList<Point> ring, Point p)
    {
        var winding = 0;
        var points = Span(ring);
        Steps.Count(points.Length);
        for (int i = 0, j = points.Length - 1; i < points.Length; j = i++)
        {
            Point a = points[j], b = points[i];
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

    private static ReadOnlySpan<Point> Span(IReadOnlyList<Point> ring) => ring switch
    {
        List<Point> list => CollectionsMarshal.AsSpan(list),
        Point[] array => array,
        _ => ring.ToArray(),
    };

    /// <summary>The distance from the point to the nearest place on the ring's edges.</summary>
    public static double DistanceToEdges(IReadOnlyList<Point> points, Point p, bool closed = true)
    {
        Steps.Count(points.Count);
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
        // A triangle or a convex ring can't cross itself, and many small shapes are just that.
        if (rings.Count == 1 && IsConvex(rings[0])) return false;
        using var edges = new EdgeSweep(rings);
        return !edges.VisitPairs((i, j) => !(edges.Next[i] == j ? FoldsBack(edges.A[i], edges.B[i], edges.B[j])
            : edges.Next[j] == i ? FoldsBack(edges.A[j], edges.B[j], edges.B[i])
            : Meet(edges.A[i], edges.B[i], edges.A[j], edges.B[j])));
    }

    /// <summary>Whether the ring turns one way only, and once around.</summary>
    internal static bool IsConvex(List<Point> ring)
    {
        if (ring.Count < 3) return false;
        int sign = 0, flips = 0, lastX = 0;
        for (var i = 0; i < ring.Count; i++)
        {
            Point a = ring[i], b = ring[(i + 1) % ring.Count], c = ring[(i + 2) % ring.Count];
            Point d = b - a, e = c - b;
            var turn = Math.Sign(d.Cross(e));
            if (turn == 0) return false;
            if (sign == 0) sign = turn;
            else if (turn != sign) return false;
            var x = d.X > 0 || (d.X == 0 && d.Y > 0) ? 1 : -1;
            if (lastX != 0 && x != lastX) flips++;
            lastX = x;
        }

        // Going round once, the direction changes from right to left and back: a curl that goes round twice changes more often.
        return flips <= 2;
    }

    /// <summary>Neighbours share one corner; they overlap only when they run back along each other.</summary>
    private static bool FoldsBack(Point a, Point corner, Point b)
    {
        Point u = corner - a, v = b - corner;
        return u.Dot(v) < 0 && Math.Abs(u.Cross(v)) <= 1e-9 * u.Norm * v.Norm;
    }

    private static bool Meet(Point a, Point b, Point c, Point d)
    {
        Point ab = b - a, cd = d - c;
        double s1 = ab.Cross(c - a), s2 = ab.Cross(d - a), s3 = cd.Cross(a - c), s4 = cd.Cross(b - c);
        double e1 = 1e-9 * ab.Norm, e2 = 1e-9 * cd.Norm;
        return !((s1 > e1 && s2 > e1) || (s1 < -e1 && s2 < -e1)) && !((s3 > e2 && s4 > e2) || (s3 < -e2 && s4 < -e2));
    }
}
