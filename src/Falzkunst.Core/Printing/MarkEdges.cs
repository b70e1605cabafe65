using Falzkunst.Core.Layout;
using Falzkunst.Core.Pictures;

namespace Falzkunst.Core.Printing;

/// <summary>A place on the edge of a mark's ink where the picture is asked.</summary>
/// <param name="Out">The unit normal, away from the ink.</param>
internal readonly record struct EdgePlace(Point At, Point Out);

/// <summary>Where the picture has that edge.</summary>
/// <param name="Sheet">The place on the sheet.</param>
/// <param name="Seen">The point of the edge that was seen, on the normal through where it was looked for.</param>
/// <param name="Normal">The unit normal as it is seen.</param>
internal readonly record struct EdgePoint(int Mark, Point Sheet, Point Out, Point Seen, Point Normal);

/// <summary>The edges of a mark's ink, and where a picture has them.</summary>
internal static class MarkEdges
{
    /// <summary>From one place to the next along an edge, and how far they keep from its corners, which are rounded in print.</summary>
    private const double Step = 0.2, FromCorner = 0.8;

    /// <summary>How far inside and outside an edge it is asked how dark ink and how light paper is; the line of a mark is 1 mm wide.</summary>
    private const double Inside = 0.38, Outside = 0.5, Level = 0.15;

    /// <summary>How far a first look goes.</summary>
    private const double Wide = 0.9;

    /// <summary>Ink is darker than paper by at least this, of 255.</summary>
    private const double LeastContrast = 25;

    /// <summary>The places of a mark, all along its straight or round edges.</summary>
    public static EdgePlace[] Of(Mark mark)
    {
        var places = new List<EdgePlace>();
        foreach (var ring in mark.Ink.Subpaths.Select(s => s.Flatten(Tolerances.Measure)))
        {
            var corners = Enumerable.Range(0, ring.Count).Where(i => IsCorner(ring, i)).Select(i => ring[i]).ToList();
            double left = Step / 2;
            for (var i = 0; i < ring.Count; i++)
            {
                Point a = ring[i], along = ring[(i + 1) % ring.Count] - a;
                if (along.Norm < Tolerances.Same) continue;
                // Outlines run clockwise on the screen and holes counter: ink is on the right, paper on the left.
                Point unit = along * (1 / along.Norm), outward = new(unit.Y, -unit.X);
                for (; left < along.Norm; left += Step)
                {
                    var at = a + unit * left;
                    if (corners.TrueForAll(c => c.DistanceTo(at) > FromCorner)) places.Add(new(at, outward));
                }

                left -= along.Norm;
            }
        }

        return [.. places];
    }

    private static bool IsCorner(List<Point> ring, int i)
    {
        Point before = ring[i] - ring[(i + ring.Count - 1) % ring.Count], after = ring[(i + 1) % ring.Count] - ring[i];
        return Math.Abs(Math.Atan2(before.Cross(after), before.Dot(after))) > 0.5;
    }

    /// <summary>Where a picture has the edges of a mark; places where it shows none are left out.</summary>
    /// <param name="map">About where the sheet lies.</param>
    /// <param name="off">How far the mark lies from there.</param>
    /// <param name="wide">Whether the edge is looked for first, within <see cref="Wide"/> mm.</param>
    public static List<EdgePoint> Measured(EdgePlace[] places, int mark, Glimpse glimpse, Projective map, Point off, bool wide)
    {
        var points = new List<EdgePoint>(places.Length);
        var step = Math.Max(0.03, 0.4 / glimpse.PxPerMm);
        foreach (var (at, outward) in places)
        {
            var near = map.Near(at);
            // Normals go by the inverse, transposed.
            var n = new Point(near.D * outward.X - near.B * outward.Y, near.A * outward.Y - near.C * outward.X);
            n *= Math.Sign(near.Determinant) / n.Norm;
            var from = map.Apply(at) + off;
            var shift = wide ? Steepest(glimpse, from, n, step) : 0;
            if (EdgeAt(glimpse, from + n * shift, n, step) is { } edge) points.Add(new(mark, at, outward, from + n * (shift + edge), n));
        }

        return points;
    }

    /// <summary>Where, within <see cref="Wide"/> mm, it gets light most.</summary>
    private static double Steepest(Glimpse glimpse, Point at, Point n, double step)
    {
        double best = 0, steepest = 0;
        for (var t = -Wide; t <= Wide; t += step)
        {
            var rise = glimpse.LightAt(at + n * (t + 0.2)) - glimpse.LightAt(at + n * (t - 0.2));
            if (rise > steepest) (best, steepest) = (t, rise);
        }

        return best;
    }

    /// <summary>
    /// Where the edge is, in mm outwards from a point near it: as far as ink as dark as inside would reach if there were nothing between dark and light. Blur
    /// does not move it, and noise is averaged over the whole profile. Null where there is no edge.
    /// </summary>
    private static double? EdgeAt(Glimpse glimpse, Point at, Point n, double step)
    {
        double Mean(double from, double to)
        {
            double sum = 0;
            var count = Math.Max(2, (int)Math.Round((to - from) / step) + 1);
            for (var i = 0; i < count; i++) sum += glimpse.LightAt(at + n * (from + (to - from) * i / (count - 1)));
            return sum / count;
        }

        double dark = Mean(-Inside, -Inside + Level), light = Mean(Outside - Level, Outside);
        if (light - dark < LeastContrast) return null;
        var edge = -Inside + (Inside + Outside) * (light - Mean(-Inside, Outside)) / (light - dark);
        return Math.Abs(edge) < 0.3 ? edge : null;
    }

    /// <summary>Whether what is left of the edges of a mark holds it in both directions: a third of the places that face sideways, and of those that
    /// face up or down.</summary>
    public static bool Hold(List<EdgePoint> kept, EdgePlace[] places)
    {
        static int Side(Point n) => Math.Abs(n.X) > Math.Abs(n.Y) ? 0 : 1;
        return Enumerable.Range(0, 2).All(side => kept.Count(p => Side(p.Out) == side) * 3 >= places.Count(p => Side(p.Out) == side));
    }
}
