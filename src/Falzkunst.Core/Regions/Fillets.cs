namespace Falzkunst.Core.Regions;

/// <summary>
/// Rounds corners of an outline by arcs that touch both edges, outward corners and inward ones. The centre of an arc is where both edges, moved in by its
/// radius, meet; Newton's method finds it along lines and curves alike, over more than one segment where they go on smoothly. Where an arc would take more than
/// half of the way to the next corner it is made as large as fits. What no arc touches stays the very same.
/// </summary>
public static class Fillets
{
    /// <summary>The least turn that is a corner: what bends less was meant to be smooth.</summary>
    private static readonly double Corner = Angle.FromDegrees(8).Radians;

    /// <summary>Whether a corner of a ring turns sharply: each with its number, counted over all rings, and where it is.</summary>
    public static IReadOnlyList<Point> CornersOf(VectorPath outline)
    {
        var all = new List<Point>();
        foreach (var ring in outline.Subpaths)
        {
            var sides = Sides(ring);
            all.AddRange(Corners(sides).Select(k => sides[k].From));
        }

        return all;
    }

    /// <summary>The outline with its corners rounded.</summary>
    /// <param name="radius">In mm.</param>
    /// <param name="isMeant">Whether to round a corner, by its number in <see cref="CornersOf"/>.</param>
    public static VectorPath Round(VectorPath outline, double radius, Func<int, bool> isMeant)
    {
        var (rings, before) = (ImmutableArray.CreateBuilder<Subpath>(outline.Subpaths.Length), 0);
        foreach (var ring in outline.Subpaths)
        {
            var sides = Sides(ring);
            var corners = Corners(sides);
            var first = before;
            before += corners.Count;
            rings.Add(corners.Count == 0 ? ring : Round(ring, sides, corners, radius, k => isMeant(first + k)));
        }

        return new(rings.ToImmutable());
    }

    private static List<Cubic> Sides(Subpath ring) => [.. ring.Cubics()];

    /// <summary>The sides that begin at a corner.</summary>
    private static List<int> Corners(List<Cubic> sides)
    {
        var corners = new List<int>();
        for (var k = 0; k < sides.Count; k++)
        {
            Point a = sides[(k + sides.Count - 1) % sides.Count].EndWay, b = sides[k].StartWay;
            if (Math.Abs(Math.Atan2(a.Cross(b), a.Dot(b))) >= Corner) corners.Add(k);
        }

        return corners;
    }

    private static Subpath Round(Subpath ring, List<Cubic> sides, List<int> corners, double radius, Func<int, bool> isMeant)
    {
        var n = corners.Count;
        // From each corner to the next: the sides between, forwards and backwards.
        var ahead = new Way[n];
        var back = new Way[n];
        for (var c = 0; c < n; c++)
        {
            var run = new List<Cubic>();
            var k = corners[c];
            do
            {
                run.Add(sides[k]);
                k = (k + 1) % sides.Count;
            }
            while (k != corners[(c + 1) % n]);
            ahead[c] = new(run);
            back[(c + 1) % n] = new([.. run.AsEnumerable().Reverse().Select(s => new Cubic(s.To, s.C2, s.C1, s.From))]);
        }

        var arcs = new Arc?[n];
        for (var c = 0; c < n; c++)
            if (isMeant(c)) arcs[c] = Largest(back[c], ahead[c], radius);
        if (arcs.All(a => a is null)) return ring;
        var build = new PathBuilder();
        for (var c = 0; c < n; c++)
        {
            var next = (c + 1) % n;
            var (from, to) = (arcs[c]?.Ahead ?? 0, ahead[c].Sides.Count - (arcs[next]?.Back ?? 0));
            if (c == 0) build.MoveTo(ahead[c].At(from));
            for (var k = (int)Math.Floor(from); k < ahead[c].Sides.Count && k < to - 1e-9; k++)
            {
                var (side, t0, t1) = (ahead[c].Sides[k], Math.Max(0, from - k), Math.Min(1, to - k));
                if (t1 - t0 < 1e-9) continue;
                var part = t0 == 0 && t1 == 1 ? side : side.Between(t0, t1);
                if (ahead[c].IsStraight(k)) build.LineTo(part.To);
                else build.CubicTo(part.C1, part.C2, part.To);
            }

            if (arcs[next] is not { } arc) continue;
            Point end = ahead[next].At(arc.Ahead), u = build.Current - arc.Centre, v = end - arc.Centre;
            var sweep = Math.Atan2(u.Cross(v), u.Dot(v));
            build.ArcAround(arc.Centre, u, new(-u.Y, u.X), 0, sweep, end);
        }

        return build.Close().Build().Subpaths[0];
    }

    /// <summary>The arc of the wanted radius, or the largest that fits; null where none does.</summary>
    private static Arc? Largest(Way back, Way ahead, double radius)
    {
        if (Touching(back, ahead, radius) is { } wanted) return wanted;
        double low = 0, high = radius;
        Arc? best = null;
        for (var round = 0; round < 30; round++)
        {
            var middle = (low + high) / 2;
            if (Touching(back, ahead, middle) is { } fits) (best, low) = (fits, middle);
            else high = middle;
        }

        return low > 1e-3 ? best : null;
    }

    /// <summary>The arc of a radius that touches both ways from a corner within the half of each that is its own.</summary>
    private static Arc? Touching(Way back, Way ahead, double radius)
    {
        Point a = back.Sides[0].StartWay, b = ahead.Sides[0].StartWay;
        // The arc lies between both ways: to the side of each where the other goes.
        var side = Math.Sign(a.Cross(b));
        if (side == 0) return null;
        var reach = radius / Math.Tan(Math.Abs(Math.Atan2(a.Cross(b), a.Dot(b))) / 2);
        double s = Math.Min(back.Half, reach / back.Sides[0].SpeedAt(0).Norm), t = Math.Min(ahead.Half, reach / ahead.Sides[0].SpeedAt(0).Norm);
        for (var round = 0; round < 60; round++)
        {
            var (p, dp) = back.Moved(s, radius * side);
            var (q, dq) = ahead.Moved(t, -radius * side);
            var off = q - p;
            if (off.Norm < 1e-9) return s >= 0 && s <= back.Half + 1e-9 && t >= 0 && t <= ahead.Half + 1e-9 ? new(p, s, t) : null;
            var cross = dp.Cross(dq * -1);
            if (Math.Abs(cross) < 1e-15) return null;
            var (ds, dt) = (off.Cross(dq * -1) / cross, dp.Cross(off) / cross);
            // Not farther at once than to the other end of a side.
            var most = Math.Max(1, Math.Max(Math.Abs(ds), Math.Abs(dt)) / 0.7);
            (s, t) = (Math.Clamp(s + ds / most, 0, back.Sides.Count), Math.Clamp(t + dt / most, 0, ahead.Sides.Count));
        }

        return null;
    }

    /// <param name="Back">How far behind the corner it begins, in sides.</param>
    /// <param name="Ahead">How far past the corner it ends.</param>
    private sealed record Arc(Point Centre, double Back, double Ahead);

    /// <summary>Sides from a corner on, as one run: at 2.5 is the middle of the third.</summary>
    private sealed class Way
    {
        public Way(List<Cubic> sides)
        {
            Sides = sides;
            var lengths = sides.ConvertAll(s => VectorPath.PolylineLength([.. Enumerable.Range(0, 17).Select(i => s.At(i / 16.0))], false));
            var (half, sum) = (lengths.Sum() / 2, 0.0);
            for (var k = 0; k < sides.Count; k++)
            {
                if (sum + lengths[k] >= half)
                {
                    Half = k + Math.Clamp((half - sum) / lengths[k], 0, 1);
                    break;
                }

                sum += lengths[k];
            }
        }

        public List<Cubic> Sides { get; }

        /// <summary>About half of the way to the next corner.</summary>
        public double Half { get; }

        public bool IsStraight(int k) => Sides[k] == Cubic.Line(Sides[k].From, Sides[k].To);

        public Point At(double x)
        {
            var k = Math.Clamp((int)Math.Floor(x), 0, Sides.Count - 1);
            return x - k >= 1 ? Sides[k].To : Sides[k].At(x - k);
        }

        /// <summary>The place that lies so far to the right (on the screen) of the way, and how it goes on there.</summary>
        public (Point At, Point Speed) Moved(double x, double by)
        {
            var k = Math.Clamp((int)Math.Floor(x), 0, Sides.Count - 1);
            var (side, t) = (Sides[k], x - k);
            var speed = side.SpeedAt(t);
            var pace = Math.Max(speed.Norm, 1e-12);
            return (side.At(t) + new Point(-speed.Y, speed.X) * (by / pace), speed * (1 - by * speed.Cross(side.BendAt(t)) / (pace * pace * pace)));
        }
    }
}
