namespace Falzkunst.Core.Regions;

/// <summary>
/// Closed subpaths as rings of straight edges, each of which knows the stretch of the curve that it stands for, so that what is worked out on the edges can be
/// given back in curves (<see cref="KeptCurves"/>). Corners lie on a grid of 1e-5 mm, so that they are either the same or clearly apart.
/// </summary>
internal sealed class Chords
{
    /// <summary>Lines of the grid in a millimetre.</summary>
    private const double PerMm = 1e5;

    private readonly List<Stretch> _stretches;
    private readonly List<Cubic> _curves = [];
    private readonly List<bool> _straight = [];
    private BoxGrid<int>? _places;

    /// <param name="subpaths">Each more than a line back and forth.</param>
    /// <param name="tolerance">How far a chord may lie from its curve, in mm.</param>
    /// <param name="edges">The edges of the same subpaths, flat to the same tolerance.</param>
    public Chords(IReadOnlyList<Subpath> subpaths, double tolerance, EdgeSweep edges)
    {
        Edges = edges;
        _stretches = new(edges.Count);
        foreach (var sub in subpaths) Flat(sub, tolerance, this);
    }

    /// <param name="curves">All segments.</param>
    /// <param name="straight">Which of them are lines.</param>
    /// <param name="stretches">One for each edge.</param>
    public Chords(List<Cubic> curves, List<bool> straight, List<Stretch> stretches, EdgeSweep edges) =>
        (_curves, _straight, _stretches, Edges) = (curves, straight, stretches, edges);

    private EdgeSweep Edges { get; }

    /// <summary>What edge <paramref name="edge"/> stands for: a segment, and its parameters at both ends of the edge.</summary>
    public Stretch this[int edge] => _stretches[edge];

    /// <summary>A segment by number; straight ones run evenly from end to end.</summary>
    public Cubic Curve(int segment) => _curves[segment];

    public bool IsStraight(int segment) => _straight[segment];

    /// <summary>A subpath, closed, as points on the grid within a tolerance of it; repeated points are one.</summary>
    public static List<Point> Flat(Subpath sub, double tolerance) => Flat(sub, tolerance, null);

    private static List<Point> Flat(Subpath sub, double tolerance, Chords? keep)
    {
        var from = sub.Start;
        var most = 1;
        foreach (var s in sub.Segments)
        {
            most += s.IsCurve ? new Cubic(from, s.C1, s.C2, s.End).Chords(tolerance) : 1;
            from = s.End;
        }

        var ring = new List<Point>(most) { Snapped(sub.Start) };
        from = sub.Start;
        foreach (var s in sub.Segments)
        {
            var cubic = s.IsCurve ? new Cubic(from, s.C1, s.C2, s.End) : Cubic.Line(from, s.End);
            keep?.Add(cubic, !s.IsCurve);
            var n = s.IsCurve ? cubic.Chords(tolerance) : 1;
            var begin = 0.0;
            for (var i = 1; i <= n; i++)
            {
                var p = Snapped(i < n ? cubic.At((double)i / n) : s.End);
                var end = (double)i / n;
                if (p != ring[^1])
                {
                    ring.Add(p);
                    keep?._stretches.Add(new(keep._curves.Count - 1, begin, end));
                    begin = end;
                }
                else if (begin > 0)
                {
                    // What is too short for an edge belongs to the one before.
                    if (keep is not null) keep._stretches[^1] = keep._stretches[^1] with { To = end };
                    begin = end;
                }
            }

            from = s.End;
        }

        // The last edge leads back: either a chord did already, or the closing line does.
        if (ring.Count > 1 && ring[^1] == ring[0])
        {
            ring.RemoveAt(ring.Count - 1);
        }
        else if (keep is not null)
        {
            keep.Add(Cubic.Line(from, sub.Start), true);
            keep._stretches.Add(new(keep._curves.Count - 1, 0, 1));
        }

        return ring;
    }

    private void Add(Cubic curve, bool straight)
    {
        _curves.Add(curve);
        _straight.Add(straight);
    }

    /// <summary>The ring as parts of these edges where it lies on them, found by place; a vertex is the number of its point in the ring.</summary>
    public List<Arrangement.Part> PartsAlong(IReadOnlyList<Point> ring)
    {
        const double near = 2e-5;
        if (_places is null)
        {
            _places = new(Math.Max(0.1, Enumerable.Range(0, Edges.Count).Average(e => Edges.A[e].DistanceTo(Edges.B[e]))));
            for (var e = 0; e < Edges.Count; e++) _places.Add(Box.Empty.With(Edges.A[e]).With(Edges.B[e]), e);
        }

        var parts = new List<Arrangement.Part>(ring.Count);
        for (var i = 0; i < ring.Count; i++)
        {
            var to = (i + 1) % ring.Count;
            Point p = ring[i], q = ring[to];
            var part = new Arrangement.Part(i, to, -1, 0, -1, 1, false);
            foreach (var e in _places.Touching(Box.Empty.With((p + q) * 0.5).Grown(near)))
            {
                Point a = Edges.A[e], b = Edges.B[e];
                if (p.DistanceToSegment(a, b) > near || q.DistanceToSegment(a, b) > near) continue;
                double begin = Fraction(p, a, b), end = Fraction(q, a, b);
                part = new(i, to, e, Math.Min(begin, end), e, Math.Max(begin, end), end < begin);
                break;
            }

            parts.Add(part);
        }

        return parts;

        static double Fraction(Point p, Point a, Point b) => p.DistanceTo(a) <= near ? 0 : p.DistanceTo(b) <= near ? 1
            : Math.Clamp((p - a).Dot(b - a) / (b - a).Dot(b - a), 0, 1);
    }

    /// <summary>A ring with its points on the grid; repeated points are one.</summary>
    public static List<Point> OnGrid(List<Point> ring)
    {
        var kept = new List<Point>(ring.Count);
        foreach (var p in ring)
            if (Snapped(p) is var at && (kept.Count == 0 || kept[^1] != at)) kept.Add(at);
        while (kept.Count > 1 && kept[^1] == kept[0]) kept.RemoveAt(kept.Count - 1);
        return kept;
    }

    /// <summary>The nearest point of the grid.</summary>
    public static Point Snapped(Point p) => new(Math.Round(p.X * PerMm) / PerMm, Math.Round(p.Y * PerMm) / PerMm);

    /// <param name="Segment">Which one, counted over all subpaths.</param>
    /// <param name="From">Its parameter where the edge begins.</param>
    /// <param name="To">Its parameter where the edge ends.</param>
    public readonly record struct Stretch(int Segment, double From, double To);
}
