namespace Falzkunst.Core.Cards;

/// <summary>What a pointer caught.</summary>
public enum Caught
{
    Nothing,

    /// <summary>Somewhere along an outline or line.</summary>
    Edge,

    /// <summary>An end of a line, or a place where an outline has a node.</summary>
    Corner,
}

/// <summary>Where measuring begins and ends: nobody hits a corner by eye.</summary>
public static class Nearest
{
    /// <summary>
    /// The place of the design nearest to <paramref name="at"/> and within <paramref name="within.Mm"/>; a corner wins over the edges beside it.
    /// Where there is none, the point itself. Costs one pass over all paths whose boxes are near.
    /// </summary>
    public static (Point At, Caught What) To(Design design, Point at, Length within)
    {
        Point corner = at, edge = at;
        double toCorner = within.Mm, toEdge = within.Mm;
        foreach (var path in design.Pieces.Select(p => p.OnCard).Concat(design.Lines.Select(l => l.Path)))
        {
            if (!path.Bounds.Grown(within.Mm).Holds(at)) continue;
            for (var i = 0; i < path.Subpaths.Length; i++)
            {
                var sub = path.Subpaths[i];
                Corner(sub.Start);
                foreach (var s in sub.Segments) Corner(s.End);
                var ring = path.Rings[i];
                for (var j = 1; j < ring.Count; j++) Edge(ring[j - 1], ring[j]);
                if (sub.Closed && ring.Count > 1) Edge(ring[^1], ring[0]);
            }
        }

        return toCorner < within.Mm ? (corner, Caught.Corner) : toEdge < within.Mm ? (edge, Caught.Edge) : (at, Caught.Nothing);

        void Corner(Point p)
        {
            var d = p.DistanceTo(at);
            if (d < toCorner) (corner, toCorner) = (p, d);
        }

        void Edge(Point a, Point b)
        {
            var ab = b - a;
            var t = ab.Dot(ab) > 0 ? Math.Clamp((at - a).Dot(ab) / ab.Dot(ab), 0, 1) : 0;
            var p = a + ab * t;
            var d = p.DistanceTo(at);
            if (d < toEdge) (edge, toEdge) = (p, d);
        }
    }
}
