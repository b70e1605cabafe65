namespace Falzkunst.Core.Shapes;

/// <summary>Whether two paths are the same line, whichever way they run and wherever a closed one starts.</summary>
public static class PathLikeness
{
    /// <summary>Whether every point of each lies within <paramref name="tolerance"/> mm of the other. Quadratic in the points of those whose boxes
    /// agree.</summary>
    public static bool Same(VectorPath a, VectorPath b, double tolerance = Tolerances.Doubled)
    {
        Box p = a.Bounds, q = b.Bounds;
        return Math.Abs(p.Left - q.Left) <= tolerance && Math.Abs(p.Right - q.Right) <= tolerance
            && Math.Abs(p.Top - q.Top) <= tolerance && Math.Abs(p.Bottom - q.Bottom) <= tolerance
            && Covers(a, b, tolerance) && Covers(b, a, tolerance);
    }

    private static bool Covers(VectorPath a, VectorPath b, double tolerance)
    {
        for (var i = 0; i < b.Subpaths.Length; i++)
        {
            var points = b.Rings[i];
            for (var j = 0; j < points.Count; j++)
            {
                if (a.DistanceTo(points[j]) > tolerance) return false;
                if (j > 0 && a.DistanceTo((points[j] + points[j - 1]) * 0.5) > tolerance) return false;
            }
        }

        return true;
    }
}
