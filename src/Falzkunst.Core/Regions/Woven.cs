namespace Falzkunst.Core.Regions;

/// <summary>
/// The rings of several areas as chords that fit one another: ends of segments that rounding moved apart are one corner, a curve on which another begins or
/// ends has a corner there, and where two outlines run along the same curve their chords are the same. Without that, areas with a common curved edge would
/// overlap in slivers as thick as the tolerance. About n log n in the segments, for outlines as they occur.
/// </summary>
internal sealed class Woven : IDisposable
{
    /// <summary>What lies this near is the same, in mm: twice the grid, so that rounding both of two equal numbers does not part them.</summary>
    public const double Near = 2e-5;

    private readonly double _tolerance;
    private readonly List<Cubic> _curves = [];
    private readonly List<bool> _straight = [];
    private readonly List<Chords.Stretch> _stretches = [];
    private readonly List<int> _kinds = [], _kindOfRing = [];
    private readonly List<(double T, Point At)>?[] _stops;
    // A segment that does not turn back, and whose box touches no other's, needs no chords of its own: whatever its course, it crosses nothing.
    private readonly bool[] _alone;
    private readonly Dictionary<(long, long), Point> _corners = [];
    private readonly Dictionary<(Point, Point), List<(Point Middle, Point[] Between)>> _known = [];

    /// <param name="rings">Closed, each of kind 0 or 1.</param>
    /// <param name="tolerance">How far a chord may lie from its curve, in mm.</param>
    public Woven(IReadOnlyList<(Subpath Ring, int Kind)> rings, double tolerance)
    {
        _tolerance = tolerance;
        var firsts = new List<int>(rings.Count + 1);
        foreach (var (ring, _) in rings)
        {
            firsts.Add(_curves.Count);
            var from = ring.Start;
            foreach (var s in ring.Segments)
            {
                if (s.IsCurve || s.End != from) Add(s.IsCurve ? new(from, s.C1, s.C2, s.End) : Cubic.Line(from, s.End), !s.IsCurve);
                from = s.End;
            }

            if (from.DistanceTo(ring.Start) > Tolerances.Same) Add(Cubic.Line(from, ring.Start), true);
        }

        firsts.Add(_curves.Count);
        var ringOf = new int[_curves.Count];
        for (var r = 0; r < rings.Count; r++) Array.Fill(ringOf, r, firsts[r], firsts[r + 1] - firsts[r]);
        _stops = new List<(double, Point)>?[_curves.Count];
        _alone = new bool[_curves.Count];
        for (var i = 0; i < _alone.Length; i++) _alone[i] = GoesOn(_curves[i]);
        FindCompany(ringOf, firsts);
        var flat = new List<List<Point>>();
        for (var r = 0; r < rings.Count; r++)
        {
            var first = _stretches.Count;
            var ring = new List<Point>();
            for (var s = firsts[r]; s < firsts[r + 1]; s++) Flatten(s, ring, first);
            Close(ring);
            if (ring.Count >= 3 && _stretches.Count - first < ring.Count)
            {
                // The end came to be another corner than the start beside it: the last edge leads from one to the other.
                _stretches.Add(new(_curves.Count, 0, 1));
                Add(Cubic.Line(ring[^1], ring[0]), true);
            }

            if (ring.Count < 3)
            {
                _stretches.RemoveRange(first, _stretches.Count - first);
                continue;
            }

            flat.Add(ring);
            _kindOfRing.Add(rings[r].Kind);
            for (var k = first; k < _stretches.Count; k++) _kinds.Add(rings[r].Kind);
        }

        Rings = flat;
        Edges = new(flat);
        Chords = new(_curves, _straight, _stretches, Edges);
    }

    public EdgeSweep Edges { get; }

    public Chords Chords { get; }

    /// <summary>The corners of the rings that are more than a line back and forth.</summary>
    public IReadOnlyList<List<Point>> Rings { get; }

    /// <summary>The kind of the ring that an edge belongs to.</summary>
    public int KindOf(int edge) => _kinds[edge];

    /// <summary>The kind of one of <see cref="Rings"/>.</summary>
    public int KindOfRing(int ring) => _kindOfRing[ring];

    public void Dispose() => Edges.Dispose();

    private void Add(Cubic curve, bool straight)
    {
        _curves.Add(curve);
        _straight.Add(straight);
    }

    /// <summary>The corner that a point is: on the grid, and the same for all that lie this near.</summary>
    private Point Corner(Point p)
    {
        const double cell = 2 * Near;
        p = Chords.Snapped(p);
        for (var k = 0; k < 4; k++)
        {
            var key = ((long)Math.Floor((p.X + (k % 2 * 2 - 1) * Near) / cell), (long)Math.Floor((p.Y + (k / 2 * 2 - 1) * Near) / cell));
            if (_corners.TryGetValue(key, out var known) && known.DistanceTo(p) <= Near) return known;
        }

        return _corners[((long)Math.Floor(p.X / cell), (long)Math.Floor(p.Y / cell))] = p;
    }

    /// <summary>Finds where on each curve others begin or end, and which segments have company.</summary>
    private void FindCompany(int[] ringOf, List<int> firsts)
    {
        var boxes = _curves.ConvertAll(c => c.Bounds().Grown(Near));
        using var sweep = new EdgeSweep(boxes);
        sweep.VisitPairs((i, j) =>
        {
            if (i > j) (i, j) = (j, i);
            var (ring, first) = (ringOf[i], firsts[ringOf[i]]);
            var sides = firsts[ring + 1] - first;
            // Of many segments, two that follow one another may meet at their corner and nowhere else.
            var (before, after) = j == i + 1 ? (i, j) : (j, i);
            var follow = ring == ringOf[j] && sides >= 4 && (j == i + 1 || (i == first && j == first + sides - 1));
            if (!follow || !PartAt(_curves[before], _curves[after])) _alone[i] = _alone[j] = false;
            Stop(i, _curves[j].From);
            Stop(i, _curves[j].To);
            Stop(j, _curves[i].From);
            Stop(j, _curves[i].To);
            return true;
        });
        foreach (var list in _stops) list?.Sort(static (a, b) => a.Item1.CompareTo(b.Item1));

        void Stop(int i, Point end)
        {
            if (_straight[i] || !boxes[i].Holds(end)) return;
            var curve = _curves[i];
            if (end.DistanceTo(curve.From) <= 2 * Near || end.DistanceTo(curve.To) <= 2 * Near) return;
            var t = curve.Nearest(end);
            if (curve.At(t).DistanceTo(end) > Near) return;
            var list = _stops[i] ??= [];
            if (!list.Exists(s => s.At == Corner(end))) list.Add((t, Corner(end)));
        }
    }

    /// <summary>Whether a curve never turns back from some direction, so that it can't cross itself.</summary>
    private static bool GoesOn(Cubic c)
    {
        Point a = c.C1 - c.From, b = c.C2 - c.C1, d = c.To - c.C2, along = c.To - c.From;
        return along.Norm > 2 * Near && (Along(along) || Along(Unit(a) + Unit(b) + Unit(d)));

        bool Along(Point way) => way.Dot(a) >= 0 && way.Dot(b) >= 0 && way.Dot(d) >= 0;
    }

    /// <summary>Whether a straight line through their common corner has one curve on either side, so that they meet nowhere else. Tried at right angles to the
    /// way from neighbour to neighbour, to the way round the corner, and between.</summary>
    private static bool PartAt(Cubic before, Cubic after)
    {
        var corner = after.From;
        Point wide = Unit(after.To - corner) - Unit(before.From - corner), close = Unit(Unit(after.C1 - corner) - Unit(before.C2 - corner));
        return Parts(wide) || Parts(close) || Parts(Unit(wide) + close);

        bool Parts(Point across) => across.Norm > 1e-3
            && across.Dot(before.C1 - corner) <= Near && across.Dot(before.C2 - corner) <= Near && across.Dot(before.From - corner) <= Near
            && across.Dot(after.C1 - corner) >= -Near && across.Dot(after.C2 - corner) >= -Near && across.Dot(after.To - corner) >= -Near;
    }

    private static Point Unit(Point p) => p.Norm > 1e-12 ? p * (1 / p.Norm) : default;

    private void Flatten(int segment, List<Point> ring, int first)
    {
        var curve = _curves[segment];
        var (t, at) = (0.0, Corner(curve.From));
        if (ring.Count == 0) ring.Add(at);
        foreach (var (next, to) in _stops[segment] ?? []) Run(next, to);
        Run(1, Corner(curve.To));

        void Run(double next, Point to)
        {
            var between = _straight[segment] ? [] : _alone[segment] ? [Chords.Snapped(curve.At(0.5))] : Between(curve, t, next, at, to);
            for (var k = 0; k <= between.Length; k++)
            {
                var p = k < between.Length ? between[k] : to;
                double from = t + (next - t) * k / (between.Length + 1), end = k < between.Length ? t + (next - t) * (k + 1) / (between.Length + 1) : next;
                if (p != ring[^1])
                {
                    ring.Add(p);
                    _stretches.Add(new(segment, from, end));
                }
                else if (_stretches.Count > first && _stretches[^1].Segment == segment)
                {
                    _stretches[^1] = _stretches[^1] with { To = end };
                }
            }

            (t, at) = (next, to);
        }
    }

    /// <summary>The chords' corners on a stretch of a curve, without its ends; the same for another curve that runs there, either way.</summary>
    private Point[] Between(Cubic curve, double from, double to, Point a, Point b)
    {
        var stretch = from == 0 && to == 1 ? curve : curve.Between(from, to);
        var back = a == b ? Compare(stretch.C2, stretch.C1) < 0 : Compare(b, a) < 0;
        var key = back ? (b, a) : (a, b);
        if (!_known.TryGetValue(key, out var all)) _known[key] = all = [];
        var middle = stretch.At(0.5);
        var found = all.Find(k => k.Middle.DistanceTo(middle) <= Near);
        if (found.Between is null)
        {
            if (back) stretch = new(stretch.To, stretch.C2, stretch.C1, stretch.From);
            var n = stretch.Chords(_tolerance);
            var points = new Point[n - 1];
            for (var i = 1; i < n; i++) points[i - 1] = Chords.Snapped(stretch.At((double)i / n));
            all.Add(found = (middle, points));
        }

        return back ? [.. found.Between.Reverse()] : found.Between;

        static int Compare(Point p, Point q) => p.X != q.X ? p.X.CompareTo(q.X) : p.Y.CompareTo(q.Y);
    }

    /// <summary>The first point is not repeated: the last edge leads back to it.</summary>
    private static void Close(List<Point> ring)
    {
        if (ring.Count > 1 && ring[^1] == ring[0]) ring.RemoveAt(ring.Count - 1);
    }
}
