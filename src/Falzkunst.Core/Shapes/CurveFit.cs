using System.Runtime.InteropServices;

namespace Falzkunst.Core.Shapes;

/// <summary>How closely curves follow points. All lengths in the unit of the points.</summary>
/// <param name="Tolerance">The furthest that a point may lie from its curve.</param>
/// <param name="Window">How much of the points on each side tells a direction; noise shorter than this is not seen as corners.</param>
/// <param name="Gap">How much on each side of a corner is blurred and is not believed.</param>
/// <param name="Corner">The least turn in one place that is a corner and not a bend.</param>
public sealed record FitSettings(double Tolerance, double Window, double Gap, Angle Corner);

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
            // Three times round, so that the seam is seen from both sides like any other place; the middle round is fitted.
            var n = points.Count;
            var rounds = new Point[3 * n];
            for (var i = 0; i < rounds.Length; i++) rounds[i] = points[i % n];
            var seam = new Joints(rounds, settings.Tolerance).At(n);
            var loop = new Point[n + 1];
            for (var i = 0; i <= n; i++) loop[i] = points[i % n];
            loop[0] = loop[n] = seam.At;
            Span(loop, seam.Along, settings, segments);
            return new(loop[0], segments.ToImmutable(), true);
        }

        for (var c = 0; c < corners.Count; c++)
            Span(run.Between(corners[c], corners[(c + 1) % corners.Count]), null, settings, segments);
        return new(corners[0].At, segments.ToImmutable(), true);
    }

    /// <summary>
    /// The arc of a circle that a hand meant: from the first to the last of its points, bent as most of those between say. Seen from anywhere on an arc, its
    /// ends lie under one angle (Euclid III.21); the median of those angles gives it. Straight where they lie on a line.
    /// </summary>
    /// <returns>Null where both ends lie in one place.</returns>
    public static Subpath? Arc(IReadOnlyList<Point> points)
    {
        Point a = points[0], b = points[^1];
        var chord = a.DistanceTo(b);
        if (chord < 0.01) return null;
        // Near the ends a trembling hand says little.
        var halves = points.Where(p => p.DistanceTo(a) > chord / 6 && p.DistanceTo(b) > chord / 6)
            .Select(p => Math.Atan2((p - a).Cross(b - p), (p - a).Dot(b - p))).Order().ToList();
        var half = halves.Count > 0 ? halves[halves.Count / 2] : 0;
        if (Math.Abs(half) < 1e-3) return new(a, [Segment.Line(b)], false);
        var radius = chord / 2 / Math.Abs(Math.Sin(half));
        return new PathBuilder().MoveTo(a).ArcTo(radius, radius, Angle.Zero, Math.Abs(half) > Math.PI / 2, half > 0, b).Build().Subpaths[0];
    }

    /// <summary>An open line through points in order; it begins and ends exactly at the first and last. At least 2 points.</summary>
    public static Subpath Open(IReadOnlyList<Point> points, FitSettings settings)
    {
        var run = new Run(points, false, settings);
        List<Corner> stops = [new(0, points[0], 0, 0), .. run.Corners(), new(points.Count - 1, points[^1], 0, 0)];
        var segments = ImmutableArray.CreateBuilder<Segment>();
        for (var c = 1; c < stops.Count; c++) Span(run.Between(stops[c - 1], stops[c]), null, settings, segments);
        return new(points[0], segments.ToImmutable(), false);
    }

    /// <param name="Score">The turn, less where the sides don't meet or are no parabolas: beside a corner they look sharper than at it.</param>
    private readonly record struct Corner(int Index, Point At, double Turn, double Score);

    /// <summary>The points with their lengths along the run.</summary>
    private sealed class Run
    {
        private readonly Point[] _points;
        private readonly bool _closed;
        private readonly FitSettings _settings;
        private readonly double[] _along;
        private readonly double _length, _window, _gap;
        private readonly List<double> _sideAlong = [];
        private readonly List<Point> _sidePoints = [];

        public Run(IReadOnlyList<Point> points, bool closed, FitSettings settings)
        {
            (_points, _closed, _settings) = ([.. points], closed, settings);
            _along = new double[points.Count];
            for (var i = 1; i < points.Count; i++) _along[i] = _along[i - 1] + _points[i].DistanceTo(_points[i - 1]);
            _length = _along[^1] + (closed ? _points[^1].DistanceTo(_points[0]) : 0);
            // On a small outline the window must not reach round it.
            _window = Math.Min(settings.Window, _length / 10);
            _gap = Math.Min(settings.Gap, _length / 24);
        }

        public List<Corner> Corners()
        {
            var n = _points.Length;
            var found = new List<Corner>();
            if (n < 6) return found;
            var limit = _settings.Corner.Radians;
            var turns = new Corner[n];
            for (var i = 0; i < n; i++)
            {
                // Most points lie where the line hardly turns at all, which is soon seen.
                if (Turn(_points[i] - Far(i, -1), Far(i, 1) - _points[i]) < limit / 5) continue;
                if (Side(i, -1, _window) is not { } before || Side(i, 1, _window) is not { } after || Turn(before.Along, after.Along) < limit / 2) continue;
                // Worth a closer look.
                (before, after) = (Grown(i, -1, before), Grown(i, 1, after));
                var turn = Turn(before.Along, after.Along);
                if (turn < limit) continue;
                var doubt = before.At.DistanceTo(after.At) / _gap + (before.Worst + after.Worst) / _settings.Tolerance;
                turns[i] = new(i, Meet((before.At, before.Along), (after.At, after.Along), _points[i]), turn, turn / (1 + doubt));
            }

            for (var i = 0; i < n; i++)
            {
                if (turns[i].Turn == 0 || !IsSharpest(turns, i)) continue;
                found.Add(turns[i]);
            }

            return found;
        }

        /// <summary>The point a window away.</summary>
        private Point Far(int i, int step)
        {
            var (n, j) = (_points.Length, i);
            for (double s = 0; s < _gap + _window; s += _points[j].DistanceTo(_points[(j - step + n) % n]))
            {
                if (!_closed && (j + step < 0 || j + step >= n)) break;
                j = (j + step + n) % n;
            }

            return _points[j];
        }

        /// <summary>The points from one corner to the next, without those that the corners blur.</summary>
        public Point[] Between(Corner from, Corner to)
        {
            var n = _points.Length;
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

        private double Ahead(int from, int to)
        {
            var d = _along[to] - _along[from];
            return d < 0 || (d == 0 && from != to) ? d + _length : d;
        }

        private bool IsSharpest(Corner[] turns, int i)
        {
            var reach = _gap + _window / 2;
            foreach (var step in new[] { 1, -1 })
            {
                for (var k = 1; k < turns.Length / 2; k++)
                {
                    if (Neighbour(i, k * step) is not { } next) break;
                    var (j, s) = next;
                    if (s > reach) break;
                    if (turns[j].Score > turns[i].Score || (turns[j].Score == turns[i].Score && j < i)) return false;
                }
            }

            return true;
        }

        /// <summary>The point so many further on (or back), and how far that is along the run; null beyond an end.</summary>
        private (int Index, double Along)? Neighbour(int i, int by)
        {
            var n = _points.Length;
            var j = i + by;
            if (j < 0 || j >= n)
            {
                if (!_closed) return null;
                j = (j + n) % n;
            }

            return (j, by > 0 ? Ahead(i, j) : Ahead(j, i));
        }

        private static double Turn(Point a, Point b) => Math.Abs(Math.Atan2(a.Cross(b), a.Dot(b)));

        /// <summary>The side seen over as much of the run as still is one parabola: the more points, the less their noise turns it.</summary>
        private (Point At, Point Along, double Worst) Grown(int i, int step, (Point At, Point Along, double Worst) side)
        {
            const int Most = 8;
            for (var window = _window * 1.5; window <= Math.Min(_window * Most, _length / 3); window *= 1.5)
            {
                if (Side(i, step, window) is not { } next || next.Worst > _settings.Tolerance * 0.7) break;
                side = next;
            }

            return side;
        }

        /// <summary>
        /// Where the points on one side lead at this point, as parabolas in the length along the run (least squares), in which direction, and how far the worst
        /// point lies off.
        /// </summary>
        private (Point At, Point Along, double Worst)? Side(int i, int step, double window)
        {
            _sideAlong.Clear();
            _sidePoints.Clear();
            for (var k = 1; k < _points.Length; k++)
            {
                if (Neighbour(i, k * step) is not { } next) break;
                var (j, s) = next;
                if (s < _gap) continue;
                if (s > _gap + window) break;
                _sideAlong.Add(s);
                _sidePoints.Add(_points[j]);
            }

            return Parabola(CollectionsMarshal.AsSpan(_sideAlong), CollectionsMarshal.AsSpan(_sidePoints)) is { } side
                ? (side.At, side.Along * step, side.Worst) : null;
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
    /// <param name="seam">The direction at both ends, where the span goes round.</param>
    private static void Span(Point[] points, Point? seam, FitSettings settings, ImmutableArray<Segment>.Builder segments)
    {
        var tolerance = settings.Tolerance;
        if (points.Length == 2 || (seam is null && IsStraight(points, tolerance)))
        {
            segments.Add(Segment.Line(points[^1]));
            return;
        }

        var joints = new Joints(points, tolerance);
        if (seam is { } s) joints.Fix(s);
        var best = Greedy(points, joints, tolerance);
        if (best.Count > 1)
        {
            double low = 0, high = tolerance;
            for (var round = 0; round < SharingRounds; round++)
            {
                var middle = (low + high) / 2;
                var next = Greedy(points, joints, middle, best.Count);
                if (next.Count <= best.Count) (best, high) = (next, middle);
                else low = middle;
            }
        }

        segments.AddRange(best);
    }

    /// <summary>
    /// Where curves may meet: the place and direction of a parabola through as many points on both sides as lie near one (from one side at the ends, which keep
    /// their place). Noise of the points is evened out as far as the bend allows. Found when asked for, and kept.
    /// </summary>
    private sealed class Joints(Point[] points, double tolerance)
    {
        private const int Least = 3, Most = 48;
        private readonly (Point At, Point Along)?[] _known = new (Point, Point)?[points.Length];

        public void Fix(Point along)
        {
            _known[0] = (points[0], along);
            _known[^1] = (points[^1], along);
        }

        public (Point At, Point Along) At(int i)
        {
            if (_known[i] is { } known) return known;
            var last = points.Length - 1;
            var isEnd = i == 0 || i == last;
            (Point At, Point Along)? best = null;
            for (var half = Least; half <= Most; half = half * 3 / 2 + 1)
            {
                var reach = isEnd ? Math.Min(half * 2, last) : Math.Min(half, Math.Min(i, last - i));
                var (from, to) = i == 0 ? (0, reach) : i == last ? (last - reach, last) : (i - reach, i + reach);
                if (Near(i, from, to) is not { } found) break;
                if (found.Worst > tolerance * 0.7 && best is not null) break;
                best = (isEnd ? points[i] : found.At, found.Along);
                if (reach < (isEnd ? half * 2 : half)) break;
            }

            best ??= (points[i], Unit(points[Math.Min(last, i + 1)] - points[Math.Max(0, i - 1)]));
            _known[i] = best;
            return best.Value;
        }

        private (Point At, Point Along, double Worst)? Near(int i, int from, int to)
        {
            var n = to - from + 1;
            if (n < 3) return null;
            Span<double> along = stackalloc double[n];
            for (var k = from + 1; k <= to; k++) along[k - from] = along[k - from - 1] + points[k].DistanceTo(points[k - 1]);
            var at = along[i - from];
            foreach (ref var s in along) s -= at;
            return Parabola(along, points.AsSpan(from, n));
        }
    }

    /// <summary>
    /// The parabola through points by least squares in their lengths along the run: its place and direction at 0, and how far the worst point lies off it. Null
    /// where they
    /// say too little.
    /// </summary>
    private static (Point At, Point Along, double Worst)? Parabola(ReadOnlySpan<double> along, ReadOnlySpan<Point> points)
    {
        if (points.Length < 3) return null;
        double s0 = 0, s1 = 0, s2 = 0, s3 = 0, s4 = 0;
        Point p0 = default, p1 = default, p2 = default;
        for (var k = 0; k < points.Length; k++)
        {
            var s = along[k];
            s0++;
            s1 += s;
            s2 += s * s;
            s3 += s * s * s;
            s4 += s * s * s * s;
            p0 += points[k];
            p1 += points[k] * s;
            p2 += points[k] * (s * s);
        }

        var (a, b, c) = Solve(s0, s1, s2, s3, s4, p0, p1, p2);
        if (b.Norm < 1e-9) return null;
        double worst = 0;
        for (var k = 0; k < points.Length; k++) worst = Math.Max(worst, (a + b * along[k] + c * (along[k] * along[k]) - points[k]).Norm);
        return (a, Unit(b), worst);
    }

    /// <summary>A parabola a + b s + c s² by least squares from its sums (Cramer's rule); a straight line where they say no more.</summary>
    private static (Point A, Point B, Point C) Solve(double s0, double s1, double s2, double s3, double s4, Point p0, Point p1, Point p2)
    {
        var det = s0 * (s2 * s4 - s3 * s3) - s1 * (s1 * s4 - s3 * s2) + s2 * (s1 * s3 - s2 * s2);
        if (s0 >= 4 && Math.Abs(det) > 1e-9)
        {
            var by = 1 / det;
            return ((p0 * (s2 * s4 - s3 * s3) - p1 * (s1 * s4 - s2 * s3) + p2 * (s1 * s3 - s2 * s2)) * by,
                (p1 * (s0 * s4 - s2 * s2) - p0 * (s1 * s4 - s2 * s3) - p2 * (s0 * s3 - s1 * s2)) * by,
                (p0 * (s1 * s3 - s2 * s2) - p1 * (s0 * s3 - s1 * s2) + p2 * (s0 * s2 - s1 * s1)) * by);
        }

        var d = s0 * s2 - s1 * s1;
        return Math.Abs(d) < 1e-12 ? default : ((p0 * s2 - p1 * s1) * (1 / d), (p1 * s0 - p0 * s1) * (1 / d), default);
    }

    private static bool IsStraight(Point[] points, double tolerance)
    {
        foreach (var p in points)
            if (p.DistanceToSegment(points[0], points[^1]) > tolerance) return false;
        return true;
    }

    private static List<Segment> Greedy(Point[] points, Joints joints, double tolerance, int most = int.MaxValue)
    {
        var segments = new List<Segment>();
        var from = 0;
        var end = points.Length - 1;
        while (from < end)
        {
            // More than was to be beaten: the caller wants no more of it.
            if (segments.Count > most) return segments;
            if (TryFit(points, from, end, joints, tolerance) is { } whole)
            {
                segments.Add(whole);
                return segments;
            }

            int good = from + 1, bad = end;
            Segment? best = null;
            for (var step = 4; from + step < end; step *= 2)
            {
                if (TryFit(points, from, from + step, joints, tolerance) is { } fit) (best, good) = (fit, from + step);
                else
                {
                    bad = from + step;
                    break;
                }
            }

            while (bad - good > Math.Max(1, (good - from) / 24))
            {
                var middle = (good + bad) / 2;
                if (TryFit(points, from, middle, joints, tolerance) is { } fit) (best, good) = (fit, middle);
                else bad = middle;
            }

            segments.Add(best ?? Segment.Line(joints.At(good).At));
            from = good;
        }

        return segments;
    }

    /// <summary>One cubic (or line) for the points, or null where one of them would lie further away than the tolerance.</summary>
    private static Segment? TryFit(Point[] points, int from, int to, Joints joints, double tolerance)
    {
        var (a, ta) = joints.At(from);
        var (b, tb) = joints.At(to);
        return One(points.AsSpan(from, to - from + 1), (a, ta), (b, tb), tolerance);
    }

    /// <summary>One cubic (or line) for points in order, with its ends and its directions there given; null where one of the points would lie further away than
    /// the tolerance. The first and last of the points only count for their number.</summary>
    /// <param name="isEven">Whether the points were taken at even steps of a parameter that the curve is likely to share; otherwise their distances
    /// tell.</param>
    internal static Segment? One(ReadOnlySpan<Point> points, (Point At, Point Along) start, (Point At, Point Along) end, double tolerance,
        bool isEven = false)
    {
        var count = points.Length;
        var (a, ta) = start;
        var (b, tb) = (end.At, end.Along * -1);
        if (count == 2) return Segment.Line(b);
        Span<double> u = count <= 512 ? stackalloc double[count] : new double[count];
        for (var i = 1; i < count; i++) u[i] = u[i - 1] + points[i].DistanceTo(points[i - 1]);
        var length = u[count - 1];
        if (length < 1e-12) return Segment.Line(b);
        for (var i = 1; i < count; i++) u[i] = isEven ? (double)i / (count - 1) : u[i] / length;
        for (var round = 0; round < (isEven ? 12 : 5); round++)
        {
            var (c1, c2) = Handles(points, u, a, b, ta, tb, length);
            var cubic = new Cubic(a, c1, c2, b);
            double worst = 0;
            for (var i = 1; i < count - 1; i++) worst = Math.Max(worst, (cubic.At(u[i]) - points[i]).Norm);
            if (worst <= tolerance) return Segment.Cubic(c1, c2, b);
            // Far off, it will not come near by moving along the curve.
            if (worst > tolerance * 6 && round > 0) return null;
            for (var i = 1; i < count - 1; i++) u[i] = cubic.Nearer(points[i], u[i]);
        }

        return null;
    }

    private static (Point C1, Point C2) Handles(ReadOnlySpan<Point> points, ReadOnlySpan<double> u, Point a, Point b, Point ta, Point tb, double length)
    {
        double c00 = 0, c01 = 0, c11 = 0, x0 = 0, x1 = 0;
        for (var i = 1; i < u.Length - 1; i++)
        {
            double t = u[i], s = 1 - t, b1 = 3 * s * s * t, b2 = 3 * s * t * t;
            Point a1 = ta * b1, a2 = tb * b2;
            c00 += a1.Dot(a1);
            c01 += a1.Dot(a2);
            c11 += a2.Dot(a2);
            var rest = points[i] - (a * (s * s * s + b1) + b * (t * t * t + b2));
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
}
