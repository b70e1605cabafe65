namespace Falzkunst.Core.Regions;

/// <summary>What becomes of a corner when an edge moves out.</summary>
public enum CornerStyle
{
    /// <summary>An arc around the corner: everything within the distance.</summary>
    Round,

    /// <summary>Both edges go on straight until they meet; where the corner is sharper than 30°, as <see cref="Bevel"/>.</summary>
    Sharp,

    /// <summary>The chord between both moved edges.</summary>
    Bevel,
}

/// <summary>
/// Moves the edges of areas out or in. Each ring becomes one loop: its segments moved along their normals (lines stay lines, curves are fitted within 0.0015 mm
/// by few cubics), joined at corners that open by the chosen style and at corners that close through the corner itself. Where a curve bends more tightly than
/// the distance, its moved course would run backwards; the loop follows the centres of curvature there instead (the evolute). So what the loops wind about is
/// the sum of the area and of strips that all count positively, and the result is where that sum is above zero: nothing has to be told apart by hand, also
/// where moved edges meet, holes close or the area falls into parts. An inset is the outset of what is around the area. Within 0.0025 mm of the true outline;
/// costs n log n in the segments and their crossings. (Farouki and Neff, "Analytic properties of plane offset curves", 1990; the windings as in Chen and
/// McMains, "Polygon offsetting by computing winding numbers", 2005.)
/// </summary>
public static class Outsets
{
    private const double FitMm = 0.0015;

    /// <summary>Under this angle between the edges of a sharp corner, it would reach too far.</summary>
    private static readonly double Sharpest = Angle.FromDegrees(30).Radians - 1e-9;

    /// <summary>The parts of an area (as <see cref="Together"/> takes it) with its edges moved by so many mm, out or (negative) in; none where nothing is left.
    /// The largest first.</summary>
    /// <exception cref="TangledException">Its outline crosses itself too often.</exception>
    public static IReadOnlyList<VectorPath> Of(VectorPath area, double by, CornerStyle corners = CornerStyle.Round)
    {
        if (by == 0 || area.IsEmpty) return area.IsEmpty ? [] : [area];
        var loops = ImmutableArray.CreateBuilder<Subpath>();
        foreach (var ring in area.Subpaths)
        {
            var loop = Loop(by > 0 ? ring : ring.Reverse(), Math.Abs(by), corners);
            if (loop is not null) loops.Add(by > 0 ? loop : loop.Reverse());
        }

        return Together.WoundAbout(new(loops.ToImmutable()));
    }

    /// <summary>A ring with everything to its left (outside, where it runs clockwise on the screen) moved in.</summary>
    private static Subpath? Loop(Subpath ring, double by, CornerStyle corners)
    {
        var sides = Sides(ring);
        if (sides.Count == 0) return null;
        var build = new PathBuilder();
        build.MoveTo(sides[0].Start + sides[0].OutStart * by);
        for (var i = 0; i < sides.Count; i++)
        {
            var (side, next) = (sides[i], sides[(i + 1) % sides.Count]);
            side.Move(build, by);
            Corner(build, side, next, by, corners);
        }

        return build.Close().Build().Subpaths.FirstOrDefault();
    }

    private static List<Side> Sides(Subpath ring)
    {
        var sides = new List<Side>(ring.Segments.Length + 1);
        foreach (var side in ring.Cubics())
        {
            if (side == Cubic.Line(side.From, side.To)) sides.Add(new(side, true));
            else AddCurve(side);
        }

        return sides;

        void AddLine(Point a, Point b)
        {
            if (a.DistanceTo(b) > Tolerances.Same) sides.Add(new(Cubic.Line(a, b), true));
        }

        void AddCurve(Cubic c)
        {
            // A curve that stands still somewhere has no direction there; its chords have.
            if (Slowest(c) > 1e-4 * ((c.C1 - c.From).Norm + (c.C2 - c.C1).Norm + (c.To - c.C2).Norm))
            {
                sides.Add(new(c, false));
                return;
            }

            var n = c.Chords(FitMm / 2);
            for (var i = 1; i <= n; i++) AddLine(c.At((i - 1.0) / n), i == n ? c.To : c.At((double)i / n));
        }
    }

    /// <summary>The least speed on the way; at its ends it may stand still, where its control points tell the direction.</summary>
    private static double Slowest(Cubic c)
    {
        const int samples = 32;
        var least = double.PositiveInfinity;
        for (var i = 1; i < samples; i++) least = Math.Min(least, c.SpeedAt((double)i / samples).Norm);
        return least;
    }

    /// <summary>Joins two moved sides at the corner between them.</summary>
    private static void Corner(PathBuilder build, Side side, Side next, double by, CornerStyle corners)
    {
        var at = next.Start;
        Point a = side.OutEnd, b = next.OutStart, to = at + b * by;
        double turn = Math.Atan2(a.Cross(b), a.Dot(b));
        if (build.Current.DistanceTo(to) < Woven.Near / 2) return;
        // A corner that closes: through the corner, so that what both strips cover counts. Where that is hardly any, it would come out as a slit.
        if (turn < 0)
        {
            if (-turn * by > FitMm / 2) build.LineTo(at);
            build.LineTo(to);
            return;
        }

        var reach = by / Math.Cos(turn / 2);
        var isFlat = reach - by < FitMm / 4;
        if (corners == CornerStyle.Sharp ? Math.PI - turn >= Sharpest : isFlat && turn < 1)
        {
            if (turn > 1e-4) build.LineTo(at + Unit(a + b) * reach);
            build.LineTo(to);
        }
        else if (corners == CornerStyle.Round)
        {
            // Where the way turns right back, either half circle would do; the outer one is meant.
            build.ArcAround(at, a * by, new Point(-a.Y, a.X) * by, 0, turn, to);
        }
        else
        {
            build.LineTo(to);
        }
    }

    private static Point Unit(Point p) => p.Norm > 1e-12 ? p * (1 / p.Norm) : default;

    /// <summary>One segment, which stands still nowhere.</summary>
    private readonly struct Side
    {
        private readonly Cubic _curve;
        private readonly bool _straight;

        public Side(Cubic curve, bool straight)
        {
            (_curve, _straight) = (curve, straight);
            (OutStart, OutEnd) = (Out(0), Out(1));
        }

        public Point Start => _curve.From;

        /// <summary>The direction that points away from the area at the start, of length 1.</summary>
        public Point OutStart { get; }

        public Point OutEnd { get; }

        /// <summary>Adds its moved course to a loop that stands at its moved start.</summary>
        public void Move(PathBuilder build, double by)
        {
            if (_straight)
            {
                build.LineTo(_curve.To + OutEnd * by);
                return;
            }

            var from = 0.0;
            foreach (var to in Turns(by))
            {
                if (Ahead((from + to) / 2, by) >= 0) Fit(build, by, from, to, 0);
                else Centres(build, by, from, to);
                from = to;
            }
        }

        private Point Out(double t)
        {
            var d = Way(t);
            return new(d.Y, -d.X);
        }

        private Point Way(double t) => t <= 0 ? _curve.StartWay : t >= 1 ? _curve.EndWay : Unit(_curve.SpeedAt(t));

        private Point Moved(double t, double by) => _curve.At(t) + Out(t) * by;

        /// <summary>How fast the moved course goes on there; below zero where it would run backwards.</summary>
        private double Ahead(double t, double by)
        {
            var speed = _curve.SpeedAt(t);
            var pace = speed.Norm;
            return pace * pace * pace + by * speed.Cross(_curve.BendAt(t));
        }

        /// <summary>Where the moved course turns back or forth, and its end.</summary>
        private List<double> Turns(double by)
        {
            const int samples = 64;
            var turns = new List<double>();
            var was = Ahead(0, by);
            for (var i = 1; i <= samples; i++)
            {
                var now = Ahead((double)i / samples, by);
                if (was < 0 != now < 0)
                {
                    double low = (i - 1.0) / samples, high = (double)i / samples;
                    for (var round = 0; round < 40; round++)
                    {
                        var middle = (low + high) / 2;
                        if (Ahead(middle, by) < 0 == was < 0) low = middle;
                        else high = middle;
                    }

                    if (low > 1e-6 && low < 1 - 1e-6) turns.Add(low);
                }

                was = now;
            }

            turns.Add(1);
            return turns;
        }

        private void Fit(PathBuilder build, double by, double from, double to, int depth)
        {
            const int samples = 14, deepest = 9;
            Span<Point> points = stackalloc Point[samples + 1];
            for (var i = 0; i <= samples; i++) points[i] = Moved(from + (to - from) * i / samples, by);
            Point a = points[0], b = points[samples];
            var isShort = depth >= deepest || (a.DistanceTo(b) < FitMm && points[samples / 2].DistanceTo(a) < FitMm);
            var fit = isShort ? Segment.Line(b)
                : CurveFit.One(points, (a, Way(from)), (b, Way(to)), FitMm, true);
            if (fit is { IsCurve: true } curve) build.CubicTo(curve.C1, curve.C2, b);
            else if (fit is not null) build.LineTo(b);
            else
            {
                Fit(build, by, from, (from + to) / 2, depth + 1);
                Fit(build, by, (from + to) / 2, to, depth + 1);
            }
        }

        /// <summary>Along the centres of curvature: no place of a result is nearest to what bends so tightly, so chords will do. Stops at the normals of its
        /// ends, as the sides before and behind do.</summary>
        private void Centres(PathBuilder build, double by, double from, double to)
        {
            const int chords = 16;
            for (var i = 0; i <= chords; i++)
            {
                var t = from + (to - from) * i / chords;
                var speed = _curve.SpeedAt(t);
                var pace = speed.Norm;
                var bend = -speed.Cross(_curve.BendAt(t));
                build.LineTo(_curve.At(t) + Out(t) * (bend > 0 ? Math.Min(by, pace * pace * pace / bend) : by));
            }

            build.LineTo(Moved(to, by));
        }
    }
}
