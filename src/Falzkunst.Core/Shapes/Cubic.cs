namespace Falzkunst.Core.Shapes;

/// <summary>
/// A cubic Bézier curve: where it is, how it goes there, how many chords it needs, and how far it reaches. The one place that knows its polynomials
/// (Farin, Curves and Surfaces for CAGD, chapters 4 and 5). All in mm; <c>t</c> runs from 0 at <paramref name="From"/> to 1 at <paramref name="To"/>.
/// </summary>
public readonly record struct Cubic(Point From, Point C1, Point C2, Point To)
{
    public Point At(double t)
    {
        var u = 1 - t;
        double a = u * u * u, b = 3 * u * u * t, c = 3 * u * t * t, d = t * t * t;
        return new(a * From.X + b * C1.X + c * C2.X + d * To.X, a * From.Y + b * C1.Y + c * C2.Y + d * To.Y);
    }

    /// <summary>The first derivative, in mm for the whole of t.</summary>
    public Point SpeedAt(double t)
    {
        var u = 1 - t;
        return ((C1 - From) * (u * u) + (C2 - C1) * (2 * u * t) + (To - C2) * (t * t)) * 3;
    }

    /// <summary>The second derivative.</summary>
    public Point BendAt(double t) => ((C2 - C1 * 2 + From) * (1 - t) + (To - C2 * 2 + C1) * t) * 6;

    /// <summary>The direction in which it sets out, of length 1; also where its first control point lies on its start.</summary>
    public Point StartWay => Way(C1 - From, C2 - From, To - From);

    /// <summary>The direction in which it arrives, of length 1.</summary>
    public Point EndWay => Way(To - C2, To - C1, To - From);

    private static Point Way(Point a, Point b, Point c)
    {
        var way = a.Norm > 1e-9 ? a : b.Norm > 1e-9 ? b : c;
        return way.Norm > 0 ? way * (1 / way.Norm) : default;
    }

    /// <summary>The straight line as a cubic, which runs along it evenly.</summary>
    public static Cubic Line(Point from, Point to) => new(from, from + (to - from) * (1 / 3.0), to - (to - from) * (1 / 3.0), to);

    /// <summary>What lies between two places on it, as a cubic of its own (de Casteljau, by blossoms: Farin, section 4.4); backwards when the first is the
    /// later.</summary>
    public Cubic Between(double t0, double t1) => new(Blossom(t0, t0, t0), Blossom(t0, t0, t1), Blossom(t0, t1, t1), Blossom(t1, t1, t1));

    private Point Blossom(double r, double s, double t)
    {
        Point a = Mid(From, C1, r), b = Mid(C1, C2, r), c = Mid(C2, To, r);
        return Mid(Mid(a, b, s), Mid(b, c, s), t);

        static Point Mid(Point p, Point q, double t) => p * (1 - t) + q * t;
    }

    /// <summary>One Newton step from t towards the nearest place to a point.</summary>
    public double Nearer(Point p, double t)
    {
        Point off = At(t) - p, speed = SpeedAt(t);
        var slope = speed.Dot(speed) + off.Dot(BendAt(t));
        return Math.Abs(slope) < 1e-12 ? t : Math.Clamp(t - off.Dot(speed) / slope, 0, 1);
    }

    /// <summary>Where it comes nearest to a point, for points near it: the nearest of 16 samples, improved.</summary>
    public double Nearest(Point p)
    {
        const int samples = 16;
        double best = 0, least = double.PositiveInfinity;
        for (var i = 0; i <= samples; i++)
        {
            var d = At((double)i / samples).DistanceTo(p);
            if (d < least) (best, least) = ((double)i / samples, d);
        }

        for (var round = 0; round < 12; round++)
        {
            var next = Nearer(p, best);
            if (Math.Abs(next - best) < 1e-15) break;
            best = next;
        }

        return best;
    }

    /// <summary>How many chords of equal steps of t stay within a tolerance of it, at most 512: Wang's bound from its second differences (Wang 1984; Farin,
    /// section 6.8).</summary>
    public int Chords(double tolerance)
    {
        var bend = Math.Max((From - C1 * 2 + C2).Norm, (C1 - C2 * 2 + To).Norm);
        return (int)Math.Clamp(Math.Ceiling(Math.Sqrt(0.75 * bend / tolerance)), 1, 512);
    }

    /// <summary>The box around it, exact: it reaches farthest at its ends, and at the roots of its derivative, coordinate by coordinate.</summary>
    public Box Bounds()
    {
        var box = Box.Empty.With(From).With(To);
        if (box.Holds(C1) && box.Holds(C2)) return box;
        Span<double> at = stackalloc double[4];
        var n = Extremes(From.X, C1.X, C2.X, To.X, at);
        n += Extremes(From.Y, C1.Y, C2.Y, To.Y, at[n..]);
        foreach (var t in at[..n]) box = box.With(At(t));
        return box;
    }

    /// <summary>Where a coordinate turns, at most twice.</summary>
    private static int Extremes(double p0, double p1, double p2, double p3, Span<double> at)
    {
        double a = p3 - 3 * p2 + 3 * p1 - p0, b = 2 * (p2 - 2 * p1 + p0), c = p1 - p0;
        var n = 0;
        if (Math.Abs(a) < 1e-12)
        {
            if (Math.Abs(b) > 1e-12) Add(-c / b, at);
            return n;
        }

        var d = b * b - 4 * a * c;
        if (d < 0) return n;
        var root = Math.Sqrt(d);
        Add((-b + root) / (2 * a), at);
        Add((-b - root) / (2 * a), at);
        return n;

        void Add(double t, Span<double> at)
        {
            if (t is > 0 and < 1) at[n++] = t;
        }
    }
}
