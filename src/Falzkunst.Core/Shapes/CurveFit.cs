namespace Falzkunst.Core.Shapes;

/// <summary>How closely curves follow points. All lengths in the unit of the points.</summary>
/// <param name="Tolerance">The furthest that a point may lie from its curve.</param>
/// <param name="Window">How much of the points on each side tells a direction; noise shorter than this is not seen as corners.</param>
/// <param name="Gap">How much on each side of a corner is blurred and is not believed.</param>
/// <param name="CornerDegrees">The least turn in one place that is a corner and not a bend.</param>
public sealed record FitSettings(double Tolerance, double Window, double Gap, double CornerDegrees = 32);

/// <summary>
/// Fits few cubics and lines through many points, corners kept. Corners are found first: the points on each side are continued as parabolas to the
/// place between them, and where the two directions differ there is a corner, which for a bend, however tight, they don't. Between corners each cubic
/// (P. J. Schneider, "An Algorithm for Automatically Fitting Digitized Curves", Graphics Gems, 1990) takes as many points as it can within the
/// tolerance; then the tolerance is lowered while the number of curves stays the same, so that they share the error. Costs n log n for n points, times
/// the points in a window. Neighbouring curves have the same direction where they meet.
/// </summary>
public static class CurveFit
{
    private const int SharingRounds = 3;

    /// <summary>A closed outline through points in order, the first not repeated; at least 3 points.</summary>
    public static Subpath Closed(IReadOnlyList<Point> points, FitSettings settings)
    {
        var run = new Run(points, true, settings);
        var corners = run.Corners();
        var segments = ImmutableArray.CreateBuilder<Segment>();
        if (corners.Count == 0)
        {
            var loop = new Point[points.Count + 1];
            for (var i = 0; i <= points.Count; i++) loop[i] = points[i % points.Count];
            var along = run.Direction(0);
            Span(loop, along, along, settings, segments);
            return new(loop[0], segments.ToImmutable(), true);
        }

        for (var c = 0; c < corners.Count; c++)
            Span(run.Between(corners[c], corners[(c + 1) % corners.Count]), null, null, settings, segments);
        return new(corners[0].At, segments.ToImmutable(), true);
    }

    /// <summary>An open line through points in order; it begins and ends exactly at the first and last. At least 2 points.</summary>
    public static Subpath Open(IReadOnlyList<Point> points, FitSettings settings)
    {
        var run = new Run(points, false, settings);
        List<Corner> stops = [new(0, points[0], 0), .. run.Corners(), new(points.Count - 1, points[^1], 0)];
        var segments = ImmutableArray.CreateBuilder<Segment>();
        for (var c = 1; c < stops.Count; c++) Span(run.Between(stops[c - 1], stops[c]), null, null, settings, segments);
        return new(points[0], segments.ToImmutable(), false);
    }

    private readonly record struct Corner(int Index, Point At, double Turn);

    /// <summary>The points with their lengths along the run.</summary>
    private sealed class Run
    {
        private readonly IReadOnlyList<Point> _points;
        private readonly bool _closed;
        private readonly FitSettings _settings;
        private readonly double[] _along;
        private readonly double _length, _window, _gap;

        public Run(IReadOnlyList<Point> points, bool closed, FitSettings settings)
        {
            (_points, _closed, _settings) = (points, closed, settings);
            _along = new double[points.Count];
            for (var i = 1; i < points.Count; i++) _along[i] = _along[i - 1] + points[i].DistanceTo(points[i - 1]);
            _length = _along[^1] + (closed ? points[^1].DistanceTo(points[0]) : 0);
            // On a small outline the window must not reach round it.
            _window = Math.Min(settings.Window, _length / 10);
            _gap = Math.Min(settings.Gap, _length / 24);
        }

        public List<Corner> Corners()
        {
            var n = _points.Count;
            var found = new List<Corner>();
            if (n < 6) return found;
            var limit = _settings.CornerDegrees * Math.PI / 180;
            var turns = new Corner[n];
            for (var i = 0; i < n; i++)
            {
                if (Side(i, -1) is not { } before || Side(i, 1) is not { } after) continue;
                var turn = Math.Abs(Math.Atan2(before.Along.Cross(after.Along), before.Along.Dot(after.Along)));
                if (turn >= limit) turns[i] = new(i, Meet(before, after, _points[i]), turn);
            }

            for (var i = 0; i < n; i++)
            {
                if (turns[i].Turn == 0 || !IsSharpest(turns, i)) continue;
                found.Add(turns[i]);
            }

            return found;
        }

        /// <summary>The points from one corner to the next, without those that the corners blur.</summary>
        public Point[] Between(Corner from, Corner to)
        {
            var n = _points.Count;
            var span = new List<Point> { from.At };
            var count = to.Index - from.Index;
            if (count <= 0 && _closed) count += n;
            for (var k = 1; k < count; k++)
            {
                var i = (from.Index + k) % n;
                var a = Ahead(from.Index, i);
                var b = Ahead(i, to.Index);
                if ((from.Turn > 0 && a < _gap) || (to.Turn > 0 && b < _gap)) continue;
                span.Add(_points[i]);
            }

            span.Add(to.At);
            return [.. span];
        }

        /// <summary>The direction of the closed run at a point, from both sides.</summary>
        public Point Direction(int i)
        {
            var sum = new Point(0, 0);
            var n = _points.Count;
            for (var k = 1; k < n / 2; k++)
            {
                Point a = _points[(i + k) % n], b = _points[(i - k + n) % n];
                sum += a - b;
                if (Ahead(i, (i + k) % n) > _window) break;
            }

            return Unit(sum);
        }

        private double Ahead(int from, int to)
        {
            var d = _along[to] - _along[from];
            return d < 0 || (d == 0 && from != to) ? d + _length : d;
        }

        private bool IsSharpest(Corner[] turns, int i)
        {
            var n = turns.Length;
            var reach = _gap + _window / 2;
            foreach (var step in new[] { 1, -1 })
            {
                for (var k = 1; k < n / 2; k++)
                {
                    var j = i + k * step;
                    if (j < 0 || j >= n)
                    {
                        if (!_closed) break;
                        j = (j + n) % n;
                    }

                    if ((step > 0 ? Ahead(i, j) : Ahead(j, i)) > reach) break;
                    if (turns[j].Turn > turns[i].Turn || (turns[j].Turn == turns[i].Turn && j < i)) return false;
                }
            }

            return true;
        }

        /// <summary>Where the points on one side lead at this point, as parabolas in the length along the run (least squares), and in which direction.</summary>
        private (Point At, Point Along)? Side(int i, int step)
        {
            var n = _points.Count;
            double s0 = 0, s1 = 0, s2 = 0, s3 = 0, s4 = 0;
            Point p0 = default, p1 = default, p2 = default;
            for (var k = 1; k < n; k++)
            {
                var j = i + k * step;
                if (j < 0 || j >= n)
                {
                    if (!_closed) break;
                    j = (j + n) % n;
                }

                var s = step > 0 ? Ahead(i, j) : Ahead(j, i);
                if (s < _gap) continue;
                if (s > _gap + _window) break;
                var p = _points[j];
                s0++;
                s1 += s;
                s2 += s * s;
                s3 += s * s * s;
                s4 += s * s * s * s;
                p0 += p;
                p1 += p * s;
                p2 += p * (s * s);
            }

            if (s0 < 3) return null;
            // Cramer's rule for the normal equations; a straight line where a parabola says nothing.
            var det = s0 * (s2 * s4 - s3 * s3) - s1 * (s1 * s4 - s3 * s2) + s2 * (s1 * s3 - s2 * s2);
            Point at, along;
            if (s0 < 5 || Math.Abs(det) < 1e-9)
            {
                var d = s0 * s2 - s1 * s1;
                if (Math.Abs(d) < 1e-12) return null;
                at = (p0 * s2 - p1 * s1) * (1 / d);
                along = (p1 * s0 - p0 * s1) * (1 / d);
            }
            else
            {
                at = (p0 * (s2 * s4 - s3 * s3) - p1 * (s1 * s4 - s2 * s3) + p2 * (s1 * s3 - s2 * s2)) * (1 / det);
                along = (p1 * (s0 * s4 - s2 * s2) - p0 * (s1 * s4 - s2 * s3) - p2 * (s0 * s3 - s1 * s2)) * (1 / det);
            }

            return (at, Unit(along) * step);
        }

        /// <summary>Where the two sides meet, unless that is far from the points.</summary>
        private Point Meet((Point At, Point Along) a, (Point At, Point Along) b, Point near)
        {
            var cross = a.Along.Cross(b.Along);
            var middle = (a.At + b.At) * 0.5;
            var far = Math.Max(_gap * 1.5, _settings.Tolerance * 2);
            if (Math.Abs(cross) > 0.05)
            {
                var at = a.At + a.Along * ((b.At - a.At).Cross(b.Along) / cross);
                if (at.DistanceTo(near) <= far) return at;
            }

            return middle.DistanceTo(near) <= far ? middle : near;
        }
    }

    private static Point Unit(Point p) => p.Norm > 1e-12 ? p * (1 / p.Norm) : new(1, 0);

    /// <summary>Curves from the first to the last point of a span without corners.</summary>
    private static void Span(Point[] points, Point? first, Point? last, FitSettings settings, ImmutableArray<Segment>.Builder segments)
    {
        var tolerance = settings.Tolerance;
        if (points.Length == 2 || (first is null && IsStraight(points, tolerance)))
        {
            segments.Add(Segment.Line(points[^1]));
            return;
        }

        var directions = Directions(points, settings.Window / 2, first, last);
        var best = Greedy(points, directions, tolerance);
        if (best.Count > 1)
        {
            double low = 0, high = tolerance;
            for (var round = 0; round < SharingRounds; round++)
            {
                var middle = (low + high) / 2;
                var next = Greedy(points, directions, middle, best.Count);
                if (next.Count <= best.Count) (best, high) = (next, middle);
                else low = middle;
            }
        }

        segments.AddRange(best);
    }

    private static bool IsStraight(Point[] points, double tolerance)
    {
        foreach (var p in points)
            if (p.DistanceToSegment(points[0], points[^1]) > tolerance) return false;
        return true;
    }

    /// <summary>The direction at each point, from the points within reach on both sides; at the ends from one side.</summary>
    private static Point[] Directions(Point[] points, double reach, Point? first, Point? last)
    {
        var n = points.Length;
        var directions = new Point[n];
        for (var i = 0; i < n; i++)
        {
            int a = i, b = i;
            while (a > 0 && points[a].DistanceTo(points[i]) < reach) a--;
            while (b < n - 1 && points[b].DistanceTo(points[i]) < reach) b++;
            // Even-handed inside, so that a bend does not lean to one side.
            var half = Math.Min(i - a, b - i);
            if (half > 0) (a, b) = (i - half, i + half);
            var sum = new Point(0, 0);
            double weight = 0;
            for (int k = a, m = b; k < m; k++, m--)
            {
                sum += points[m] - points[k];
                weight++;
            }

            directions[i] = Unit(sum);
            // From one side, a chord points between the directions at its two ends: mirrored, it is that of this end.
            if (half == 0 && b - a >= 2)
            {
                var middle = points[(a + b) / 2];
                directions[i] = i == a ? Unit(Unit(middle - points[a]) * 2 - Unit(points[b] - points[a])) : Unit(Unit(points[b] - middle) * 2 - Unit(points[b] - points[a]));
            }
        }

        if (first is { } f) directions[0] = f;
        if (last is { } l) directions[^1] = l;
        return directions;
    }

    private static List<Segment> Greedy(Point[] points, Point[] directions, double tolerance, int most = int.MaxValue)
    {
        var segments = new List<Segment>();
        var from = 0;
        var end = points.Length - 1;
        while (from < end)
        {
            // More than was to be beaten: the caller wants no more of it.
            if (segments.Count > most) return segments;
            if (TryFit(points, from, end, directions, tolerance) is { } whole)
            {
                segments.Add(whole);
                return segments;
            }

            int good = from + 1, bad = end;
            Segment? best = null;
            for (var step = 4; from + step < end; step *= 2)
            {
                if (TryFit(points, from, from + step, directions, tolerance) is { } fit) (best, good) = (fit, from + step);
                else
                {
                    bad = from + step;
                    break;
                }
            }

            while (bad - good > Math.Max(1, (good - from) / 24))
            {
                var middle = (good + bad) / 2;
                if (TryFit(points, from, middle, directions, tolerance) is { } fit) (best, good) = (fit, middle);
                else bad = middle;
            }

            segments.Add(best ?? Segment.Line(points[good]));
            from = good;
        }

        return segments;
    }

    /// <summary>One cubic (or line) for the points, or null where one of them would lie further away than the tolerance.</summary>
    private static Segment? TryFit(Point[] points, int from, int to, Point[] directions, double tolerance)
    {
        var count = to - from + 1;
        Point a = points[from], b = points[to];
        if (count == 2) return Segment.Line(b);
        Point ta = directions[from], tb = directions[to] * -1;
        Span<double> u = count <= 512 ? stackalloc double[count] : new double[count];
        for (var i = 1; i < count; i++) u[i] = u[i - 1] + points[from + i].DistanceTo(points[from + i - 1]);
        var length = u[count - 1];
        if (length < 1e-12) return Segment.Line(b);
        for (var i = 1; i < count; i++) u[i] /= length;
        for (var round = 0; round < 5; round++)
        {
            var (c1, c2) = Handles(points, from, u, a, b, ta, tb, length);
            double worst = 0;
            for (var i = 1; i < count - 1; i++) worst = Math.Max(worst, (At(a, c1, c2, b, u[i]) - points[from + i]).Norm);
            if (worst <= tolerance) return Segment.Cubic(c1, c2, b);
            // Far off, it will not come near by moving along the curve.
            if (worst > tolerance * 6 && round > 0) return null;
            for (var i = 1; i < count - 1; i++) u[i] = Nearer(a, c1, c2, b, points[from + i], u[i]);
        }

        return null;
    }

    private static (Point C1, Point C2) Handles(Point[] points, int from, ReadOnlySpan<double> u, Point a, Point b, Point ta, Point tb, double length)
    {
        double c00 = 0, c01 = 0, c11 = 0, x0 = 0, x1 = 0;
        for (var i = 1; i < u.Length - 1; i++)
        {
            double t = u[i], s = 1 - t, b1 = 3 * s * s * t, b2 = 3 * s * t * t;
            Point a1 = ta * b1, a2 = tb * b2;
            c00 += a1.Dot(a1);
            c01 += a1.Dot(a2);
            c11 += a2.Dot(a2);
            var rest = points[from + i] - (a * (s * s * s + b1) + b * (t * t * t + b2));
            x0 += a1.Dot(rest);
            x1 += a2.Dot(rest);
        }

        var det = c00 * c11 - c01 * c01;
        double la = 0, lb = 0;
        if (Math.Abs(det) > 1e-12) (la, lb) = ((x0 * c11 - x1 * c01) / det, (c00 * x1 - c01 * x0) / det);
        var chord = a.DistanceTo(b);
        // Handles that point backwards or loop: a third of the chord (Schneider's fallback).
        if (la < chord * 1e-3 || lb < chord * 1e-3 || la > length || lb > length) la = lb = chord / 3;
        return (a + ta * la, b + tb * lb);
    }

    private static Point At(Point a, Point c1, Point c2, Point b, double t)
    {
        var s = 1 - t;
        return a * (s * s * s) + c1 * (3 * s * s * t) + c2 * (3 * s * t * t) + b * (t * t * t);
    }

    /// <summary>One Newton step towards the nearest place on the curve.</summary>
    private static double Nearer(Point a, Point c1, Point c2, Point b, Point p, double t)
    {
        var s = 1 - t;
        var d = At(a, c1, c2, b, t) - p;
        var d1 = ((c1 - a) * (s * s) + (c2 - c1) * (2 * s * t) + (b - c2) * (t * t)) * 3;
        var d2 = ((c2 - c1 * 2 + a) * s + (b - c2 * 2 + c1) * t) * 6;
        var slope = d1.Dot(d1) + d.Dot(d2);
        return Math.Abs(slope) < 1e-12 ? t : Math.Clamp(t - d.Dot(d1) / slope, 0, 1);
    }
}
