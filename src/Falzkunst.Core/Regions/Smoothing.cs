namespace Falzkunst.Core.Regions;

/// <summary>What smoothing changes: areas that go, and areas that are filled; each as <see cref="Together"/> gives parts.</summary>
public sealed record SmoothedAway(IReadOnlyList<VectorPath> Gone, IReadOnlyList<VectorPath> Filled)
{
    public bool IsNothing => Gone.Count + Filled.Count == 0;
}

/// <summary>Takes what is too small to be meant out of an outline, and makes it of fewer nodes.</summary>
public static class Smoothing
{
    /// <summary>Thinner, and it is only what fitting leaves between two curves.</summary>
    private const double NothingMm = 0.01;

    /// <summary>
    /// Takes spikes and slivers narrower than a size off an area, and fills notches and slits narrower than it. An opening, then a closing (Serra, "Image
    /// Analysis and Mathematical Morphology", 1982), with sharp corners so that corners stay as they are; only what they change is taken, so that all the rest
    /// of the outline stays the very same. What holds parts together, whole parts and whole holes stay.
    /// </summary>
    /// <param name="sizeMm">Above zero.</param>
    public static (VectorPath Outline, SmoothedAway Away) Of(VectorPath area, double sizeMm)
    {
        var half = sizeMm / 2;
        // What is changed leaves as many parts and holes as there were, so they are counted once.
        var (parts, holes) = (Together.Clean(area).Count, Holes([area]));
        var (gone, filled) = (new List<VectorPath>(), new List<VectorPath>());
        var opened = Outsets.Of(VectorPath.Joined(Outsets.Of(area, -half, CornerStyle.Sharp)), half, CornerStyle.Sharp);
        foreach (var sliver in Small(Together.TakeAway(area, opened), half))
        {
            var without = Together.TakeAway(area, [sliver]);
            if (without.Count == 0 || without.Count != parts || Holes(without) != holes) continue;
            gone.Add(sliver);
            area = VectorPath.Joined(without);
        }

        var closed = Outsets.Of(VectorPath.Joined(Outsets.Of(area, half, CornerStyle.Sharp)), -half, CornerStyle.Sharp);
        foreach (var notch in Small(Together.TakeAway(VectorPath.Joined(closed), [area]), half))
        {
            var with = Together.Join([area, notch]);
            if (with.Count != parts || Holes(with) != holes) continue;
            filled.Add(notch);
            area = VectorPath.Joined(with);
        }

        return (area, new(gone, filled));
    }

    /// <summary>The outline of fewer nodes, nowhere farther than a tolerance (mm) from where it was; rings that would not become simpler stay the very
    /// same.</summary>
    public static VectorPath Simplified(VectorPath outline, double tolerance)
    {
        var rings = outline.Subpaths.Select(s => Simplified(s, tolerance)).ToImmutableArray();
        var next = new VectorPath(rings);
        // Rings that came to touch one another would be another card.
        return Together.Clean(next) is var parts && parts.Count == Together.Clean(outline).Count && Holes(parts) == Holes([outline]) ? next : outline;
    }

    private static Subpath Simplified(Subpath ring, double tolerance)
    {
        var corners = Fillets.CornersOf(new([ring])).Count;
        if (ring.Segments.Length <= Math.Max(4, corners)) return ring;
        var points = Spaced(ring.Flatten(tolerance / 8), tolerance * 2);
        if (points.Count < 8) return ring;
        var fit = CurveFit.Closed(points, new(tolerance * 0.7, Math.Max(tolerance * 8, 0.4), tolerance * 1.5, Angle.FromDegrees(25)));
        if (fit.Segments.Length >= ring.Segments.Length) return ring;
        var (was, now) = (new VectorPath([ring]), new VectorPath([fit]));
        return was.Rings[0].All(p => now.DistanceTo(p) <= tolerance) && now.Rings[0].All(p => was.DistanceTo(p) <= tolerance) ? fit : ring;
    }

    /// <summary>The points, and more between those that lie far apart.</summary>
    private static List<Point> Spaced(List<Point> ring, double most)
    {
        var points = new List<Point>(ring.Count * 2);
        for (var i = 0; i < ring.Count; i++)
        {
            Point a = ring[i], b = ring[(i + 1) % ring.Count];
            var n = Math.Clamp((int)Math.Ceiling(a.DistanceTo(b) / most), 1, 400);
            for (var k = 0; k < n; k++) points.Add(a + (b - a) * ((double)k / n));
        }

        return points;
    }

    /// <summary>What is more than nothing, and nowhere wider than meant: sharp corners that reach for one another may close a wider gap.</summary>
    private static IEnumerable<VectorPath> Small(IReadOnlyList<VectorPath> parts, double half) =>
        parts.Where(p => Outsets.Of(p, -NothingMm / 2).Count > 0 && Outsets.Of(p, -half - NothingMm).Count == 0);

    private static int Holes(IEnumerable<VectorPath> parts) => parts.SelectMany(p => p.Subpaths).Count(s => s.SignedAreaMm2 < 0);
}
