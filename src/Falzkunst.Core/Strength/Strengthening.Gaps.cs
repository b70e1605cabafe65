using Falzkunst.Core.Regions;

namespace Falzkunst.Core.Strength;

/// <remarks>What keeps gaps: the balls in their middles that nothing may grow into, the channels that are cut out of what grew, and a second look at what
/// came out.</remarks>
public sealed partial class Strengthening
{
    /// <summary>What is kept free is so much wider, for what fitting takes.</summary>
    private const double KeptMm = 0.006;

    private readonly BoxGrid<Chains.Link> _kept;

    /// <summary>Makes an outline; where gaps came out narrower than they may, which happens round corners and at ends that grow towards each other, makes it
    /// again with channels kept free there.</summary>
    private VectorPath Roomy(Func<List<VectorPath>, VectorPath> make)
    {
        const int mostTimes = 3;
        var channels = new List<VectorPath>();
        var made = make(channels);
        for (var time = 1; !IsDraft && time < mostTimes && Narrowed(made) is { Count: > 0 } more; time++)
        {
            channels.AddRange(more);
            made = make(channels);
        }

        return made;
    }

    /// <summary>The middles of gaps that are narrower than they were and than is asked for, as wide as they have to be.</summary>
    private List<VectorPath> Narrowed(VectorPath made)
    {
        if (made.Equals(_outline)) return [];
        var old = _outline.Subpaths.ToHashSet();
        VectorPath moved = new([.. made.Subpaths.Where(s => !old.Contains(s))]), rest = new([.. made.Subpaths.Where(old.Contains)]);
        var beside = _around == _boundary ? [] : _beside.Subpaths;
        var around = new Boundary(new([.. moved.Subpaths, .. rest.Subpaths, .. beside]), _gap / 6, _gap / 3);
        var fresh = Enumerable.Range(0, around.Rings[moved.Subpaths.Length]).Select(i => IsMoved(around.Middle(i))).ToArray();
        var outer = new Balls(around, false, _gap / 2, _cancel, e => e < fresh.Length && fresh[e]);
        var narrow = new NarrowRuns(around, outer, _gap - 2 * KeptMm).IsNarrow;
        var wanted = Array.ConvertAll(outer.All, b => Math.Min(_gap / 2, FromOutline(b.Centre)));
        for (var i = 0; i < narrow.Length; i++) narrow[i] &= wanted[i] > outer.All[i].Radius + KeptMm && IsBetween(outer.All[i]);
        return Rows(outer, narrow).ConvertAll(row => row.ConvertAll(i => new Chains.Link(outer.All[i].Centre, wanted[i] + KeptMm / 2)))
            .SelectMany(links => Chains.Areas(Longer(links), _gap / 6)).ToList();

        // Where two limbs part, the gap between them begins from nothing, wherever that is.
        bool IsBetween(Ball b) => around.RingOf[b.Edge] != around.RingOf[b.AcrossEdge] || around.Apart(b.Edge, b.AcrossEdge) > 3 * _gap;

        bool IsMoved(Point at) => !_boundary.Nearest(at, 2 * KeptMm, -1, -1, out _, out _);

        double FromOutline(Point at) => _around.Nearest(at, _gap, -1, -1, out _, out var place) ? place.DistanceTo(at) : _gap;
    }

    /// <summary>Room without jumps and waves: nowhere more than there is, rising by no more than a quarter of the way along the middle, and the mean of what
    /// the places near by all have.</summary>
    private double[] Evened(double[] room, double[] along)
    {
        const double steepest = 0.25;
        var even = Array.ConvertAll(room, r => Math.Min(r, _width));
        for (var k = 1; k < even.Length; k++) even[k] = Math.Min(even[k], even[k - 1] + steepest * (along[k] - along[k - 1]));
        for (var k = even.Length - 2; k >= 0; k--) even[k] = Math.Min(even[k], even[k + 1] + steepest * (along[k + 1] - along[k]));
        // As many places on both sides of each as are near.
        var (half, reach, from, until) = (new int[even.Length], _gap / 2, 0, 0);
        for (var k = 0; k < even.Length; k++)
        {
            while (along[k] - along[from] > reach) from++;
            while (until + 1 < even.Length && along[until + 1] - along[k] <= reach) until++;
            half[k] = Math.Min(k - from, until - k);
        }

        var least = even.Select((_, k) => About(even, k).Min()).ToArray();
        return [.. least.Select((_, k) => About(least, k).Average())];

        ArraySegment<double> About(double[] of, int k) => new(of, k - half[k], 2 * half[k] + 1);
    }

    /// <summary>Remembers the balls in the middle of gaps that have to stay free.</summary>
    /// <param name="closer">By how much both sides of a gap may come closer, in mm.</param>
    private void Keep(Balls outer, double closer)
    {
        var narrow = new NarrowRuns(_around, outer, _gap + closer).IsNarrow;
        for (var i = 0; i < narrow.Length; i++) if (narrow[i]) Add(outer.All[i]);

        foreach (var ball in LargestInHoles(outer)) Add(ball);

        void Add(Ball ball)
        {
            var kept = new Chains.Link(ball.Centre, Math.Min(ball.Radius, _gap / 2) + KeptMm);
            // Both sides of a gap see the same middle.
            var near = _gap / 16;
            foreach (var k in _kept.Touching(Around(kept.Centre, near)))
                if (k.Centre.DistanceTo(kept.Centre) < near && k.Radius > kept.Radius - KeptMm / 2) return;
            _kept.Add(Around(kept.Centre, kept.Radius), kept);
        }
    }

    /// <summary>A hole that is no gap between two sides keeps its largest ball.</summary>
    private IEnumerable<Ball> LargestInHoles(Balls outer)
    {
        for (var ring = 0; ring < _outline.Subpaths.Length; ring++)
        {
            if (_outline.Subpaths[ring].SignedAreaMm2 > 0) continue;
            Ball? largest = null;
            for (var i = outer.Rings[ring]; i < outer.Rings[ring + 1]; i++)
                if (outer.All[i] is { Touches: true } ball && !(ball.Radius <= largest?.Radius)) largest = ball;
            if (largest is { } one) yield return one;
        }
    }

    /// <summary>How far each side of a limb may go out until it meets what stays free of a gap.</summary>
    private (double Near, double Far) Room(Ball ball)
    {
        var (c, near, far) = (ball.Centre, double.PositiveInfinity, double.PositiveInfinity);
        foreach (var kept in Near(c, ball.Radius + 2 * _width))
        {
            var room = Math.Max(0, kept.Centre.DistanceTo(c) - kept.Radius - ball.Radius);
            // It lies on that side of the middle.
            if ((kept.Centre - c).Dot(ball.At - c) > 0) near = Math.Min(near, room);
            else far = Math.Min(far, room);
        }

        // A dot has no sides.
        return ball.IsLimb ? (near, far) : (Math.Min(near, far), Math.Min(near, far));
    }

    /// <summary>How large a ball may be until it meets what stays free of a gap.</summary>
    private double Free(Point centre, double most) => Near(centre, most).Select(k => k.Centre.DistanceTo(centre) - k.Radius).Append(most).Min();

    private IEnumerable<Chains.Link> Near(Point centre, double reach) =>
        _kept.Touching(Around(centre, reach));

    private static Box Around(Point centre, double reach) => Box.Empty.With(centre).Grown(reach);

    /// <summary>The middles of all gaps that could become too narrow, as wide as they have to stay.</summary>
    /// <param name="closer">By how much both sides of a gap may come closer, in mm.</param>
    private List<VectorPath> Channels(double closer)
    {
        var outer = new Balls(_around, false, _gap / 2 + closer / 2, _cancel);
        var narrow = new NarrowRuns(_around, outer, _gap + closer).IsNarrow;
        var channels = LargestInHoles(outer).Where(b => 2 * b.Radius < _gap + closer).SelectMany(b => Chains.Areas([Kept(b)], _gap / 6)).ToList();
        foreach (var row in Rows(outer, narrow))
        {
            _cancel.ThrowIfCancellationRequested();
            channels.AddRange(Chains.Areas(Longer(row.ConvertAll(i => Kept(outer.All[i]))), _gap / 6));
        }

        return channels;

        Chains.Link Kept(Ball b) => new(b.Centre, b.Radius < _gap / 2 ? b.Radius + InsideMm : Math.Min(b.Radius + InsideMm, _gap / 2 + InsideMm / 2));
    }

    /// <summary>A channel goes on straight at both ends by as much as it is wide, so that it leaves no corner behind it.</summary>
    private static List<Chains.Link> Longer(List<Chains.Link> links)
    {
        if (links.Count < 2) return links;
        return [End(links[0], links[1]), .. links, End(links[^1], links[^2])];

        static Chains.Link End(Chains.Link last, Chains.Link before)
        {
            var way = last.Centre - before.Centre;
            return way.Norm < 1e-9 ? last : last with { Centre = last.Centre + way * (last.Radius / way.Norm) };
        }
    }
}
