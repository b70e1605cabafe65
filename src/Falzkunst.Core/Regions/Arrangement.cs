namespace Falzkunst.Core.Regions;

/// <summary>
/// What crossing rings enclose, by the arrangement of their edges: all edges are cut where they meet, the windings on both sides of each part are counted, and
/// the parts between filled and empty are linked to rings (the idea of Weiler and Atherton 1977, with winding numbers). Edges that lie on one another count
/// together. Two kinds of rings are counted apart, so that one area can be taken from another. It costs a sweep over the edges, and for each crossing the
/// edges in one strip. It gives up, rather than guess, where rounding leaves parts that do not link; the caller then takes
/// the general way.
/// </summary>
internal sealed class Arrangement
{
    /// <summary>So few edges are looked at one by one.</summary>
    private const int Few = 200;

    private readonly EdgeSweep _edges;
    private readonly Func<int, int> _kindOf;
    private readonly int _n;
    private List<(double T, int Vertex)>?[] _cuts = [];
    private readonly List<Point> _crossings = [];
    // Corners that touch something: the first of those at one point stands for all.
    private readonly Dictionary<Point, int> _touched = [];
    private readonly int _most;
    private readonly double _near;

    /// <param name="edges">The edges of closed rings with corners on a grid of 1e-5 mm.</param>
    /// <param name="kindOf">0 or 1 for each edge.</param>
    /// <param name="most">More crossings than this are too many.</param>
    /// <param name="near">A corner this near an edge lies on it, in mm: a tenth of the grid where what was drawn apart is apart, twice the grid where outlines
    /// that rounding moved are the same.</param>
    public Arrangement(EdgeSweep edges, Func<int, int> kindOf, int most, double near = 1e-6)
    {
        (_edges, _kindOf, _n, _most, _near) = (edges, kindOf, edges.Count, most, near);
        IsTangled = !edges.VisitPairs(Meet);
    }

    /// <summary>A stretch of a ring from one vertex to the next, walked with the filled side on the right: edges that follow one another, of which the first
    /// and the last may be cut.</summary>
    /// <param name="From">The vertex where it begins, for <see cref="At"/>.</param>
    /// <param name="To">The vertex where it ends.</param>
    /// <param name="First">The edge in which it begins.</param>
    /// <param name="Begin">How far along that edge: 0 at its start, 1 at its end.</param>
    /// <param name="Last">The edge in which it ends.</param>
    /// <param name="End">How far along that edge.</param>
    /// <param name="IsBack">Whether it is walked against its edges.</param>
    public readonly record struct Part(int From, int To, int First, double Begin, int Last, double End, bool IsBack);

    /// <summary>Edges cross, or lie on one another, or corners lie on what is not their neighbour.</summary>
    public bool Meets => _cuts.Length > 0 || _touched.Count > 0;

    /// <summary>More crossings were found than are looked at.</summary>
    public bool IsTangled { get; }

    public Point At(int vertex) => vertex < _n ? _edges.A[vertex] : _crossings[vertex - _n];

    /// <summary>The boundary of what is filled as closed rings with the filled side on the right (outer edges clockwise on the screen), each with its corners;
    /// null when it gives up. Not for what is tangled.</summary>
    /// <param name="filled">Whether a place is filled about which the rings of kind 0 and of kind 1 wind so often.</param>
    public List<(List<Part> Parts, List<Point> Points)>? Boundary(Func<int, int, bool> filled)
    {
        var kept = new List<Part>();
        var balance = new int[_n + _crossings.Count];
        // Single edges between vertices may lie on one another; they are decided together, behind the others.
        var shared = new Dictionary<(int, int), (Part First, List<int>? More)>();
        for (var first = 0; first < _n;)
        {
            var last = first;
            while (_edges.Next[last] == last + 1) last++;
            Ring(first, last);
            first = last + 1;
        }

        foreach (var (part, more) in shared.Values) Decide(part, more);
        foreach (var count in balance)
            if (count != 0) return null;
        return Link(kept);

        void Ring(int first, int last)
        {
            int from = Vertex(first), begin = first;
            var at = 0.0;
            for (var i = first; i <= last; i++)
            {
                var end = Vertex(_edges.Next[i]);
                if (_cuts.Length > 0 && _cuts[i] is { } cuts)
                {
                    cuts.Sort(static (u, v) => u.T.CompareTo(v.T));
                    foreach (var (t, cut) in cuts)
                    {
                        if (cut == from && begin == i) continue;
                        if (cut == end) break;
                        Add(new(from, cut, begin, at, i, t, false));
                        (from, begin, at) = (cut, i, t);
                    }
                }

                if (i < last && !IsTouched(_edges.B[i])) continue;
                if (from != end || begin != i) Add(new(from, end, begin, at, i, 1, false));
                (from, begin, at) = (end, i + 1, 0);
            }
        }

        void Add(Part part)
        {
            if (part.First != part.Last)
            {
                Decide(part, null);
                return;
            }

            var key = part.From < part.To ? (part.From, part.To) : (part.To, part.From);
            if (!shared.TryGetValue(key, out var others)) shared[key] = (part, null);
            else shared[key] = (others.First, [.. others.More ?? [], part.First]);
        }

        void Decide(Part part, List<int>? on)
        {
            var (right, left) = Sides(part, on, filled);
            if (right == left) return;
            if (left) part = part with { From = part.To, To = part.From, IsBack = true };
            kept.Add(part);
            balance[part.From]++;
            balance[part.To]--;
        }
    }

    private bool IsTouched(Point corner) => _touched.Count > 0 && _touched.ContainsKey(corner);

    private int Vertex(int corner) => _touched.Count > 0 && _touched.TryGetValue(_edges.A[corner], out var first) ? first : corner;

    private int Touch(int corner)
    {
        if (_touched.TryGetValue(_edges.A[corner], out var first)) return first;
        return _touched[_edges.A[corner]] = corner;
    }

    /// <summary>Notes where two edges meet; false when there are too many.</summary>
    private bool Meet(int i, int j)
    {
        Point a = _edges.A[i], b = _edges.B[i], c = _edges.A[j], d = _edges.B[j];
        int ni = _edges.Next[i], nj = _edges.Next[j];
        Point u = b - a, v = d - c;
        double nu = u.Norm, nv = v.Norm;
        double sc = u.Cross(c - a) / nu, sd = u.Cross(d - a) / nu, sa = v.Cross(a - c) / nv, sb = v.Cross(b - c) / nv;
        if ((sc > _near && sd > _near) || (sc < -_near && sd < -_near) || (sa > _near && sb > _near) || (sa < -_near && sb < -_near)) return true;
        var touches = false;
        // Corners on the same point.
        if (nj != i && a == d) touches |= Touch(i) >= 0;
        if (ni != j && b == c) touches |= Touch(j) >= 0;
        if (a == c) touches |= Touch(i) >= 0;
        if (b == d) touches |= Touch(ni) >= 0;
        // Corners inside the other edge.
        touches |= On(i, c, sc, a, u, nu, j) | On(i, d, sd, a, u, nu, nj) | On(j, a, sa, c, v, nv, i) | On(j, b, sb, c, v, nv, ni);
        if (touches || ni == j || nj == i) return true;
        if (sc > 0 == sd > 0 || sa > 0 == sb > 0) return true;
        double t = sa / (sa - sb), s = sc / (sc - sd);
        var p = a + u * t;
        var vertex = Known(i, p) ?? Known(j, p) ?? _n + _crossings.Count;
        if (vertex == _n + _crossings.Count) _crossings.Add(p);
        Mark(i, t, vertex);
        Mark(j, s, vertex);
        return _crossings.Count <= _most;
    }

    private bool On(int edge, Point corner, double off, Point a, Point u, double length, int number)
    {
        if (Math.Abs(off) > _near) return false;
        var along = u.Dot(corner - a) / length;
        if (along <= _near || along >= length - _near) return false;
        Mark(edge, along / length, Touch(number));
        return true;
    }

    private int? Known(int edge, Point p)
    {
        if (_cuts.Length == 0 || _cuts[edge] is not { } cuts) return null;
        foreach (var (_, vertex) in cuts)
            if (At(vertex).DistanceTo(p) <= _near) return vertex;
        return null;
    }

    private void Mark(int edge, double t, int vertex)
    {
        if (_cuts.Length == 0) _cuts = new List<(double, int)>?[_n];
        var cuts = _cuts[edge] ??= new(2);
        foreach (var (_, other) in cuts)
            if (other == vertex) return;
        cuts.Add((t, vertex));
    }

    /// <summary>Whether the two sides of a part are filled. The windings about its middle are counted along a ray that leaves it to one side, without the edges
    /// that lie on it; behind those, the windings are by theirs more.</summary>
    private (bool Right, bool Left) Sides(Part part, List<int>? on, Func<int, int, bool> filled)
    {
        // In the middle of the steepest of its first edges, as far as that belongs to it.
        const int looked = 8;
        var (edge, a, along) = (part.First, default(Point), default(Point));
        for (var e = part.First; e <= Math.Min(part.Last, part.First + looked); e++)
        {
            Point p = e == part.First ? At(part.From) : _edges.A[e], q = e == part.Last ? At(part.To) : _edges.B[e];
            if (e == part.First || Math.Abs(q.Y - p.Y) > Math.Abs(along.Y)) (edge, a, along) = (e, p, q - p);
        }

        var middle = a + along * 0.5;
        // A ray to the right of the screen, down for flat parts: never along the part itself.
        var level = Math.Abs(along.Y) >= 0.1 * Math.Abs(along.X);
        int w0 = 0, w1 = 0, own0 = 0, own1 = 0;
        if (_n <= Few)
        {
            for (var e = 0; e < _n; e++) Count(e);
        }
        else
        {
            var strips = _edges.Strips(level);
            foreach (var e in strips[strips.At(level ? middle.Y : middle.X)]) Count(e);
        }

        var near = filled(w0, w1);
        var far = filled(w0 + own0, w1 + own1);
        return (level ? along.Y < 0 : along.X > 0) ? (near, far) : (far, near);

        void Count(int e)
        {
            Point p = _edges.A[e], q = _edges.B[e];
            int way;
            if (level)
            {
                if (p.Y <= middle.Y == q.Y <= middle.Y) return;
                way = p.Y <= middle.Y ? 1 : -1;
            }
            else
            {
                if (p.X <= middle.X == q.X <= middle.X) return;
                way = p.X <= middle.X ? -1 : 1;
            }

            if (e == edge || on?.Contains(e) == true)
            {
                if (_kindOf(e) == 0) own0 += way;
                else own1 += way;
                return;
            }

            // On which side of the edge the middle lies tells whether the ray meets it.
            var side = (q - p).Cross(middle - p) * way;
            if (side <= 0) return;
            if (_kindOf(e) == 0) w0 += way;
            else w1 += way;
        }
    }

    /// <summary>Joins parts to rings; null where they don't close. Rings without area are left out.</summary>
    private List<(List<Part> Parts, List<Point> Points)>? Link(List<Part> parts)
    {
        var first = new int[_n + _crossings.Count];
        var next = new int[parts.Count];
        Array.Fill(first, -1);
        for (var k = parts.Count - 1; k >= 0; k--) (next[k], first[parts[k].From]) = (first[parts[k].From], k);
        var used = new bool[parts.Count];
        var rings = new List<(List<Part>, List<Point>)>();
        for (var i = 0; i < parts.Count; i++)
        {
            if (used[i]) continue;
            var ring = new List<Part>();
            var current = i;
            while (true)
            {
                used[current] = true;
                var part = parts[current];
                ring.Add(part);
                if (part.To == parts[i].From) break;
                // Where several go on, the sharpest turn to the right stays along the same filled corner.
                var best = -1;
                var sharpest = double.NegativeInfinity;
                for (var o = first[part.To]; o >= 0; o = next[o])
                {
                    if (used[o]) continue;
                    if (best < 0 && next[o] < 0)
                    {
                        best = o;
                        break;
                    }

                    Point d = Arriving(part), e = Leaving(parts[o]);
                    var turn = Math.Atan2(d.Cross(e), d.Dot(e));
                    if (turn > sharpest) (sharpest, best) = (turn, o);
                }

                if (best < 0) return null;
                current = best;
            }

            var points = Points(ring);
            if (Math.Abs(Polygons.SignedArea(points)) > 1e-6) rings.Add((ring, points));
        }

        return rings;
    }

    private Point Leaving(Part part)
    {
        if (part.First == part.Last) return At(part.To) - At(part.From);
        return (part.IsBack ? _edges.A[part.Last] : _edges.B[part.First]) - At(part.From);
    }

    private Point Arriving(Part part)
    {
        if (part.First == part.Last) return At(part.To) - At(part.From);
        return At(part.To) - (part.IsBack ? _edges.B[part.First] : _edges.A[part.Last]);
    }

    /// <summary>The corners of a ring of parts.</summary>
    private List<Point> Points(List<Part> ring)
    {
        var count = 0;
        foreach (var part in ring) count += part.Last - part.First + 1;
        var points = new List<Point>(count);
        foreach (var part in ring)
        {
            points.Add(At(part.From));
            if (part.IsBack) for (var e = part.Last; e > part.First; e--) points.Add(_edges.A[e]);
            else for (var e = part.First; e < part.Last; e++) points.Add(_edges.B[e]);
        }

        return points;
    }
}
