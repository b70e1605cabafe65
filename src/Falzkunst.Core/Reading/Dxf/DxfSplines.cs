namespace Falzkunst.Core.Reading.Dxf;

/// <summary>Splines as cubics. Knot insertion and evaluation after Piegl and Tiller, "The NURBS Book" (1997), algorithms A2.2 and A5.1.</summary>
internal static class DxfSplines
{
    private const double Within = 0.001;

    /// <summary>
    /// A B-spline. Of degree up to 3 without weights it is taken apart into its own polynomial pieces, exactly; any other is sampled and followed within
    /// 0.001 units by cubics through points with the true directions (Hermite).
    /// </summary>
    public static void Add(PathBuilder builder, int degree, double[] knots, IReadOnlyList<Point> control, double[]? weights)
    {
        double first = knots[degree], last = knots[control.Count];
        if (!(last > first)) return;
        var isRational = weights is not null && weights.Any(w => Math.Abs(w - weights[0]) > 1e-9);
        var at = At(first);
        builder.MoveTo(at);
        for (var k = degree; k < control.Count; k++)
        {
            double a = knots[k], b = knots[k + 1];
            if (b - a < 1e-12 * (last - first)) continue;
            // Inside a span it is one polynomial; where that is a cubic at most, its ends and directions are all of it.
            Piece(a, b, isRational || degree > 3 ? 12 : 0);
        }

        void Piece(double a, double b, int depth)
        {
            Point p = At(a + (b - a) * 1e-12), q = At(b - (b - a) * 1e-12);
            Point da = Slope(a, b, true), db = Slope(a, b, false);
            Point c1 = p + da * ((b - a) / 3), c2 = q - db * ((b - a) / 3);
            if (depth > 0)
            {
                var fine = true;
                var cubic = new Cubic(p, c1, c2, q);
                foreach (var t in new[] { 0.25, 0.5, 0.75 }) fine &= cubic.At(t).DistanceTo(At(a + (b - a) * t)) <= Within;

                if (!fine)
                {
                    Piece(a, (a + b) / 2, depth - 1);
                    Piece((a + b) / 2, b, depth - 1);
                    return;
                }
            }

            if (degree == 1) builder.LineTo(q);
            else builder.CubicTo(c1, c2, q);
        }

        // The direction at an end of a span, from inside it: exact for polynomials up to the third degree by the difference formula over four places.
        Point Slope(double a, double b, bool atStart)
        {
            var h = (b - a) / 3;
            Point p0 = At(a + (b - a) * 1e-12), p1 = At(a + h), p2 = At(a + 2 * h), p3 = At(b - (b - a) * 1e-12);
            if (isRational || degree > 3)
            {
                var e = (b - a) * 1e-4;
                return atStart ? (At(a + e) * 4 - At(a + 2 * e) - p0 * 3) * (1 / (2 * e)) : (p3 * 3 - At(b - e) * 4 + At(b - 2 * e)) * (1 / (2 * e));
            }

            return atStart ? (p0 * -11 + p1 * 18 - p2 * 9 + p3 * 2) * (1 / (6 * h)) : (p3 * 11 - p2 * 18 + p1 * 9 - p0 * 2) * (1 / (6 * h));
        }

        Point At(double u)
        {
            u = Math.Clamp(u, first, last);
            var span = degree;
            while (span < control.Count - 1 && u >= knots[span + 1]) span++;
            // De Boor in homogeneous coordinates.
            Span<double> x = stackalloc double[degree + 1];
            Span<double> y = stackalloc double[degree + 1];
            Span<double> w = stackalloc double[degree + 1];
            for (var j = 0; j <= degree; j++)
            {
                var i = span - degree + j;
                w[j] = weights?[i] ?? 1;
                x[j] = control[i].X * w[j];
                y[j] = control[i].Y * w[j];
            }

            for (var r = 1; r <= degree; r++)
            {
                for (var j = degree; j >= r; j--)
                {
                    var i = span - degree + j;
                    var d = knots[i + degree - r + 1] - knots[i];
                    var f = d > 0 ? (u - knots[i]) / d : 0;
                    x[j] = x[j - 1] * (1 - f) + x[j] * f;
                    y[j] = y[j - 1] * (1 - f) + y[j] * f;
                    w[j] = w[j - 1] * (1 - f) + w[j] * f;
                }
            }

            return Math.Abs(w[degree]) < 1e-12 ? control[span] : new(x[degree] / w[degree], y[degree] / w[degree]);
        }
    }

    /// <summary>A smooth curve through points: Catmull and Rom 1974, each direction that of the chord between the neighbours.</summary>
    public static void Through(PathBuilder builder, IReadOnlyList<Point> points, bool closed)
    {
        var n = points.Count;
        builder.MoveTo(points[0]);
        for (var i = 0; i + 1 < n + (closed ? 1 : 0); i++)
        {
            Point a = P(i - 1), b = P(i), c = P(i + 1), d = P(i + 2);
            builder.CubicTo(b + (c - a) * (1.0 / 6), c - (d - b) * (1.0 / 6), c);
        }

        Point P(int i) => closed ? points[(i % n + n) % n] : points[Math.Clamp(i, 0, n - 1)];
    }
}
