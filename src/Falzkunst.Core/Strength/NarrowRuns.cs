namespace Falzkunst.Core.Strength;

/// <summary>A place where the two sides of a limb, or of a gap, lie closer together than a limit.</summary>
/// <param name="From">On one side, where it is narrowest.</param>
/// <param name="To">On the other.</param>
/// <param name="Length">How long it is, along its middle.</param>
/// <param name="AreaMm2">What of the area lies within it.</param>
/// <param name="FromRing">The ring of the outline that one side belongs to, and the other.</param>
internal sealed record NarrowPlace(Point From, Point To, double Length, double AreaMm2, int FromRing, int ToRing, int Edge, int AcrossEdge)
{
    public double Width => From.DistanceTo(To);
}

/// <summary>A corner so sharp that what lies in it is narrow at any limit.</summary>
/// <param name="Angle">Between its sides.</param>
internal readonly record struct Tip(Point At, Angle Angle);

/// <summary>
/// The runs of balls along the boundary that are narrower than a limit. Corners are none: their balls touch both sides of it, and lie at its tip. A narrow
/// place is what runs belong to one another across; the narrowest distance in it is measured between the true curves.
/// </summary>
internal sealed class NarrowRuns
{
    /// <summary>Narrow corners up to so many limits long belong to their tip, and are not thin.</summary>
    private const double TipReach = 3;

    private readonly Boundary _boundary;
    private readonly Balls _balls;
    private readonly double _limit;

    /// <param name="limit">The width or gap, in mm.</param>
    public NarrowRuns(Boundary boundary, Balls balls, double limit)
    {
        (_boundary, _balls, _limit) = (boundary, balls, limit);
        LookCloser();
        (IsNarrow, IsTip) = (new bool[balls.All.Length], new bool[balls.All.Length]);
        for (var i = 0; i < IsNarrow.Length; i++) IsNarrow[i] = balls.All[i] is { IsLimb: true } b && 2 * b.Radius < limit;
        Tips = LeaveTipsOut();
        CloseGaps();
        FindDots();
        IsNarrowEdge = new bool[boundary.Count];
        for (var i = 0; i < IsNarrow.Length; i++) IsNarrowEdge[balls.All[i].Edge] |= IsNarrow[i];
        Places = Find();
    }

    public Balls Balls => _balls;

    /// <summary>Of each ball, whether it lies in a narrow place.</summary>
    public bool[] IsNarrow { get; }

    /// <summary>Of each ball, whether it lies between the sides of a corner, near its tip, where width tells nothing.</summary>
    public bool[] IsTip { get; }

    /// <summary>Of each chord, whether one of its balls does.</summary>
    public bool[] IsNarrowEdge { get; }

    public IReadOnlyList<Tip> Tips { get; }

    /// <summary>The narrowest first.</summary>
    public IReadOnlyList<NarrowPlace> Places { get; }

    /// <summary>What lies between a chord, or two balls of a ring, and the middle of the area: a part of the strip along the boundary.</summary>
    public static double Strip(Ball a, Ball b)
    {
        Point p = a.At, q = b.At, c = b.Centre, d = a.Centre;
        return Math.Abs((q - p).Cross(c - p) + (c - p).Cross(d - p)) / 2;
    }

    /// <summary>Where balls are smallest, and hardly larger than the limit, one between them may be smaller still.</summary>
    private void LookCloser()
    {
        const int between = 8;
        var all = _balls.All;
        for (var ring = 0; ring + 1 < _balls.Rings.Length; ring++)
        {
            int first = _balls.Rings[ring], n = _balls.Rings[ring + 1] - first;
            for (var i = 0; i < n; i++)
            {
                var ball = all[first + i];
                if (!ball.IsLimb || 2 * ball.Radius < _limit || 2 * ball.Radius > 1.15 * _limit) continue;
                Ball before = all[first + (i + n - 1) % n], after = all[first + (i + 1) % n];
                if ((before.IsLimb && before.Radius < ball.Radius) || (after.IsLimb && after.Radius < ball.Radius)) continue;
                // At a corner all balls of its fan touch in one place.
                if (before.At == ball.At || after.At == ball.At) continue;
                for (var k = 1; k < between; k++)
                {
                    var at = _boundary.From[ball.Edge] + (_boundary.To[ball.Edge] - _boundary.From[ball.Edge]) * ((double)k / between);
                    var closer = _balls.At(at, ball.Edge, ball.Way, _balls.Largest, false);
                    if (closer.IsLimb && closer.Radius < all[first + i].Radius) all[first + i] = closer;
                }
            }
        }
    }

    /// <summary>Corners turn by 125° or more within a small part of the limit.</summary>
    private List<Tip> LeaveTipsOut()
    {
        var tips = new List<Tip>();
        var sharp = Angle.FromDegrees(125).Radians;
        var within = 0.12 * _limit;
        for (var ring = 0; ring + 1 < _boundary.Rings.Length; ring++)
        {
            int first = _boundary.Rings[ring], end = _boundary.Rings[ring + 1];
            for (var i = first; i < end; i++)
            {
                var (turn, reach, last) = (0.0, 0.0, i);
                for (var k = i; ;)
                {
                    Point before = _boundary.Way(_boundary.Before(k)), after = _boundary.Way(k);
                    turn += Math.Atan2(before.Cross(after), before.Dot(after)) * (_balls.IsInside ? 1 : -1);
                    last = k;
                    if (turn >= sharp) break;
                    reach += _boundary.From[k].DistanceTo(_boundary.To[k]);
                    k = _boundary.Next(k);
                    if (reach > within || k == i) break;
                }

                if (turn < sharp || turn > Math.PI + 0.3) continue;
                tips.Add(new((_boundary.From[i] + _boundary.From[last]) * 0.5, Angle.FromRadians(Math.Max(0, Math.PI - turn))));
                LeaveOut(ring, i, last);
                while (i < last) i++;
            }
        }

        return tips;
    }

    /// <summary>Takes the balls of a corner out of the narrow ones: all, where they are few; otherwise those at its very tip.</summary>
    private void LeaveOut(int ring, int from, int to)
    {
        int first = _balls.Rings[ring], n = _balls.Rings[ring + 1] - first;
        var all = _balls.All;
        // The first ball behind the corner.
        var start = first;
        while (start < first + n && all[start].Edge < to) start++;
        var leg = new List<(int Ball, double Away)>();
        var farthest = 0.0;
        foreach (var forward in new[] { true, false })
        {
            var missed = 0;
            for (var k = 0; k < n; k++)
            {
                var i = first + (((forward ? start + k : start - 1 - k) - first) % n + n) % n;
                var b = all[i];
                var away = forward ? _boundary.Onward(to, b.Edge) : _boundary.Onward(b.Edge, from);
                if (away > 1.3 * TipReach * _limit) break;
                var isTip = b.Touches && _boundary.RingOf[b.AcrossEdge] == ring && IsOtherLeg(b, forward, away, from, to);
                missed = isTip ? 0 : missed + 1;
                // Beside the very tip, balls may touch anything.
                if (missed > 3 && away > 0.3 * _limit) break;
                leg.Add((i, away));
                if (IsNarrow[i]) farthest = Math.Max(farthest, away);
            }
        }

        var reach = farthest <= TipReach * _limit ? double.PositiveInfinity : _limit;
        foreach (var (i, away) in leg)
        {
            IsTip[i] = true;
            if (away < reach) IsNarrow[i] = false;
        }
    }

    /// <summary>Whether a ball touches the other side of a corner about as far from its tip.</summary>
    private bool IsOtherLeg(Ball b, bool forward, double away, int from, int to)
    {
        var other = forward ? _boundary.Onward(b.AcrossEdge, from) : _boundary.Onward(to, b.AcrossEdge);
        return Math.Abs(other - away) < 0.35 * Math.Max(other, away) + 0.15 * _limit;
    }

    /// <summary>What is narrow all round, as a dot is, has no two sides across from each other; its largest balls stand for it.</summary>
    private void FindDots()
    {
        for (var ring = 0; ring + 1 < _balls.Rings.Length; ring++)
        {
            int first = _balls.Rings[ring], end = _balls.Rings[ring + 1];
            var largest = 0.0;
            for (var i = first; i < end; i++)
                largest = Math.Max(largest, _balls.All[i].Touches && !IsNarrow[i] ? _balls.All[i].Radius : double.PositiveInfinity);
            if (2 * largest >= _limit) continue;
            for (var i = first; i < end; i++) IsNarrow[i] |= _balls.All[i].Radius >= 0.9 * largest;
        }
    }

    /// <summary>Where a run stops for less than a quarter of the limit, it goes on.</summary>
    private void CloseGaps()
    {
        for (var ring = 0; ring + 1 < _balls.Rings.Length; ring++)
        {
            int first = _balls.Rings[ring], end = _balls.Rings[ring + 1], last = -1;
            for (var i = first; i < end; i++)
            {
                if (!IsNarrow[i]) continue;
                if (last >= 0 && i - last is > 1 and < 12 && _balls.All[i].At.DistanceTo(_balls.All[last].At) < 0.25 * _limit)
                    for (var k = last + 1; k < i; k++) IsNarrow[k] = _balls.All[k] is { Touches: true } b && 2 * b.Radius < 1.2 * _limit;
                last = i;
            }
        }
    }

    private List<NarrowPlace> Find()
    {
        var runOf = new int[_boundary.Count];
        Array.Fill(runOf, -1);
        var runs = new List<(int From, int To)>();
        for (var ring = 0; ring + 1 < _balls.Rings.Length; ring++)
        {
            int first = _balls.Rings[ring], end = _balls.Rings[ring + 1], begin = runs.Count;
            for (var i = first; i < end; i++)
            {
                if (!IsNarrow[i]) continue;
                var from = i;
                while (i + 1 < end && IsNarrow[i + 1]) i++;
                for (var k = from; k <= i; k++) runOf[_balls.All[k].Edge] = runs.Count;
                runs.Add((from, i));
            }

            // Over the start of the ring it goes on.
            if (runs.Count - begin > 1 && runs[begin].From == first && runs[^1].To == end - 1)
            {
                for (var k = runs[^1].From; k < end; k++) runOf[_balls.All[k].Edge] = begin;
                runs[begin] = (runs[^1].From, runs[begin].To + end - first);
                runs.RemoveAt(runs.Count - 1);
            }
        }

        var sets = new DisjointSets(runs.Count);
        for (var r = 0; r < runs.Count; r++)
            foreach (var i in Of(runs[r])) if (_balls.All[i] is { Touches: true } b && runOf[b.AcrossEdge] >= 0) sets.Join(r, runOf[b.AcrossEdge]);
        var places = new List<NarrowPlace>();
        foreach (var group in sets.Sets())
        {
            var (narrowest, length, area) = (-1, 0.0, 0.0);
            foreach (var run in group)
            {
                var before = -1;
                foreach (var i in Of(runs[run]))
                {
                    if (narrowest < 0 || IsNarrower(_balls.All[i], _balls.All[narrowest])) narrowest = i;
                    if (before >= 0)
                    {
                        // Each stretch of the middle is seen from both sides.
                        length += _balls.All[i].Centre.DistanceTo(_balls.All[before].Centre) / 2;
                        area += Strip(_balls.All[before], _balls.All[i]);
                    }

                    before = i;
                }
            }

            var b = _balls.All[narrowest];
            var (p, q) = Narrowest(b);
            // A notch or a spike that is no deeper than this is a roughness of the edge.
            var isRough = b.IsLimb && _boundary.RingOf[b.Edge] == _boundary.RingOf[b.AcrossEdge] && _boundary.Apart(b.Edge, b.AcrossEdge) < 0.3 * _limit;
            if (p.DistanceTo(q) > _limit - 0.002 || (isRough && _boundary.LengthOf(_boundary.RingOf[b.Edge]) > _limit)) continue;
            places.Add(new(p, q, length, area, _boundary.RingOf[b.Edge], _boundary.RingOf[b.AcrossEdge], b.Edge, b.AcrossEdge));
        }

        return [.. places.OrderBy(p => p.Width)];
    }

    /// <summary>What touches two sides tells how narrow it is; a ball in a small corner between such does not.</summary>
    private static bool IsNarrower(Ball a, Ball b) => a.IsLimb == b.IsLimb ? a.Radius < b.Radius : a.IsLimb;

    /// <summary>The narrowest place near a ball, between the true curves; the ball's own where those go elsewhere.</summary>
    private (Point, Point) Narrowest(Ball ball)
    {
        if (!ball.IsLimb) return (ball.At, ball.At + ball.Way * (2 * ball.Radius));
        // At the flat end of a taper, sides are up to a third closer than a ball there is wide; where they are closer still, they went round a tip.
        return _boundary.Narrowest(ball.Edge, ball.AcrossEdge) is var (p, q) && p.DistanceTo(q) is var width
            && width < 2 * ball.Radius + 0.01 && width > 2 * ball.Radius * 0.65 && p.DistanceTo(ball.At) < _limit && q.DistanceTo(ball.Across) < _limit
            && (p - q).Dot(ball.At - ball.Across) > 0 ? (p, q) : (ball.At, ball.Across);
    }

    private IEnumerable<int> Of((int From, int To) run)
    {
        var ring = _boundary.RingOf[_balls.All[run.From].Edge];
        int first = _balls.Rings[ring], n = _balls.Rings[ring + 1] - first;
        for (var i = run.From; i <= run.To; i++) yield return first + (i - first) % n;
    }
}
