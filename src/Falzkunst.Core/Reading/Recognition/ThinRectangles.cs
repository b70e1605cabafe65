namespace Falzkunst.Core.Reading.Recognition;

/// <summary>Folds are sometimes drawn as a closed rectangle so thin that it is a line.</summary>
internal static class ThinRectangles
{
    private const double WidestMm = 0.8, LeastRatio = 25, ShortestMm = 5;

    /// <summary>The middle line of a closed outline that is straight and at least 25 times as long as it is wide, and its width; null for any other.</summary>
    public static (VectorPath Middle, Length Width)? MiddleOf(VectorPath path)
    {
        // Most of what there are many of is small.
        if (path.Subpaths.Length != 1 || path.Bounds.Width + path.Bounds.Height < ShortestMm) return null;
        if (path.Rings[0] is not { Count: >= 3 and <= 60 } ring) return null;
        // Its longest edge gives its direction.
        var longest = Enumerable.Range(0, ring.Count).MaxBy(i => ring[i].DistanceTo(ring[(i + 1) % ring.Count]));
        Point a = ring[longest], b = ring[(longest + 1) % ring.Count];
        var length = a.DistanceTo(b);
        var area = Math.Abs(Polygons.SignedArea(ring));
        if (length < ShortestMm || area <= 0) return null;
        var width = area / length;
        if (width > WidestMm || length / width < LeastRatio) return null;
        var along = (b - a) * (1 / length);
        var across = new Point(-along.Y, along.X);
        double least = 0, most = 0;
        foreach (var p in ring)
        {
            var d = (p - a).Dot(across);
            (least, most) = (Math.Min(least, d), Math.Max(most, d));
        }

        // A rectangle fills its box; anything bent or pointed does not.
        if (most - least > WidestMm || area < 0.85 * length * (most - least)) return null;
        var ends = ring.Select(p => (p - a).Dot(along)).ToList();
        var side = (least + most) / 2;
        return (VectorPath.Polyline(a + along * ends.Min() + across * side, a + along * ends.Max() + across * side), Length.FromMm(width));
    }
}
