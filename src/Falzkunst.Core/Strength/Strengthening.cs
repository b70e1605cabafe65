using Falzkunst.Core.Regions;

namespace Falzkunst.Core.Strength;

/// <summary>How an outline is made stronger.</summary>
public enum StrengthenWay
{
    /// <summary>Thin places grow about their middle to the wanted width; what is thick enough stays as it is.</summary>
    OnlyThin,

    /// <summary>Every edge goes out by the same amount.</summary>
    AllRound,

    /// <summary>The edges of holes go in, the outer edge stays.</summary>
    HolesOnly,
}

/// <summary>
/// Makes an outline stronger, and keeps separate what is separate: parts, holes and gaps. What grows is made of balls along the middle of thin places, each as
/// large as is wanted (the envelope of a family of discs; Blum, "A transformation for extracting new descriptors of shape", 1967, run backwards), and is put to
/// the outline by <see cref="Together"/>, so that what it does not touch stays the very same. Along the middle of every gap a channel as wide as the gap may
/// be, or as it was where it was narrower, is kept free; a limb that is blocked on one side grows on its other.
/// </summary>
public sealed partial class Strengthening
{
    /// <summary>So much more than wanted, for what fitting takes.</summary>
    private const double SpareMm = 0.012;

    /// <summary>A side that does not grow stays so far inside of its edge that it does not come out by what fitting gives.</summary>
    private const double InsideMm = 0.01;

    /// <summary>Where a limb goes over into others, its balls touch three sides, and less and less across.</summary>
    private const double Junction = -0.3;

    /// <summary>Corners that turn by more are corners of a flat end.</summary>
    private static readonly double Flat = Angle.FromDegrees(35).Radians;

    /// <summary>What is left beside a channel that is thinner than twice this is a hair, and not put to the outline.</summary>
    private const double HairMm = 0.1;

    private readonly CancellationToken _cancel;
    private readonly VectorPath _outline, _beside;
    private readonly Boundary _boundary, _around;
    private readonly Balls? _inner;
    private readonly double _width, _gap;

    /// <param name="most">How far is looked, in mm.</param>
    /// <param name="inner">The balls inside, where it is asked where the outline is thin.</param>
    private Strengthening(VectorPath outline, VectorPath? beside, Limits limits, double most, Balls? inner, CancellationToken cancel)
    {
        (_outline, _cancel) = (outline, cancel);
        (_width, _gap) = (limits.Width.Mm, limits.Gap.Mm);
        _kept = new(Math.Max(_width, _gap));
        _inner = inner;
        _boundary = inner?.Boundary ?? Of(outline);
        _beside = beside ?? VectorPath.Empty;
        // The rings of the outline come first, so that their chords have the same numbers.
        _around = beside is null || beside.IsEmpty ? _boundary : Of(outline.With(beside));

        Boundary Of(VectorPath area) => new(area, inner?.Boundary.Step ?? StepOf(limits), Math.Max(_width, most) / 3);
    }

    /// <summary>The outline, stronger. The very same where nothing is thin, or nothing can grow.</summary>
    /// <param name="outline">Outer edges clockwise, holes counter-clockwise.</param>
    /// <param name="by">How far edges go, for all ways but <see cref="StrengthenWay.OnlyThin"/>; in mm.</param>
    /// <param name="beside">What lies beside it and is no part of it; half of a gap to that is left to it. Null where nothing does.</param>
    /// <param name="apart">The farthest that parts may be moved apart first, so that all of them can grow; in mm.</param>
    /// <exception cref="OperationCanceledException">It was given up.</exception>
    public static VectorPath Of(VectorPath outline, StrengthenWay way, Limits limits, double by, VectorPath? beside = null, double apart = 0,
        CancellationToken cancel = default)
    {
        if (outline.IsEmpty) return outline;
        if (apart > 0 && way != StrengthenWay.HolesOnly)
            return Apart.Of(outline, beside, (part, near) => Of(part, way, limits, by, near, 0, cancel), limits.Gap.Mm, apart, cancel);
        if (way == StrengthenWay.OnlyThin)
            return OnlyThin(outline, limits, beside, Balls.Inside(outline, limits.Width.Mm, StepOf(limits), cancel), false, cancel);
        if (by <= 0) return outline;
        var made = new Strengthening(outline, beside, limits, limits.Gap.Mm / 2 + by, null, cancel);
        var channels = made.Channels(2 * by);
        return made.Roomy(more => way == StrengthenWay.AllRound ? made.AllRound(by, [.. channels, .. more]) : made.HolesOnly(by, [.. channels, .. more]));
    }

    /// <summary>About what <see cref="Of"/> gives where thin places grow, sooner: gaps that come out a little too narrow stay so, and what was looked for at
    /// another width is taken as it is. To be shown while somebody still chooses.</summary>
    public static VectorPath Draft(VectorPath outline, Limits limits, VectorPath? beside = null, CancellationToken cancel = default) =>
        outline.IsEmpty ? outline : OnlyThin(outline, limits, beside, Balls.DraftInside(outline, limits.Width.Mm, cancel), true, cancel);

    private static VectorPath OnlyThin(VectorPath outline, Limits limits, VectorPath? beside, Balls inner, bool isDraft, CancellationToken cancel) =>
        new Strengthening(outline, beside, limits, limits.Width.Mm, inner, cancel) { IsDraft = isDraft }.OnlyThin();

    private bool IsDraft { get; init; }

    /// <summary>How long chords are, in mm: an eighth of what matters.</summary>
    private static double StepOf(Limits limits) => Math.Min(limits.Width.Mm, 2 * limits.Gap.Mm) / 8;

    /// <summary>How many pairs of parts would come closer than the gap, each grown by itself where it is thin.</summary>
    /// <exception cref="OperationCanceledException">It was given up.</exception>
    public static int CloseParts(VectorPath outline, Limits limits, CancellationToken cancel = default) =>
        outline.IsEmpty ? 0 : Apart.Close(outline, (part, _) => Of(part, StrengthenWay.OnlyThin, limits, 0, null, 0, cancel), limits.Gap.Mm, cancel);

    /// <summary>How far an edge of the second outline lies from the first at the most, in mm, on its chords.</summary>
    public static double FarthestMoved(VectorPath before, VectorPath after)
    {
        if (before.Equals(after) || before.IsEmpty || after.IsEmpty) return 0;
        const double step = 0.2, farthest = 50;
        var same = before.Subpaths.ToHashSet();
        Boundary was = new(before, step, 1), now = new(new([.. after.Subpaths.Where(s => !same.Contains(s))]), step, 1);
        double most = 0;
        for (var i = 0; i < now.Count; i++)
        {
            for (var within = 1.0; within < farthest; within *= 2)
            {
                if (!was.Nearest(now.From[i], within, -1, -1, out _, out var at)) continue;
                most = Math.Max(most, at.DistanceTo(now.From[i]));
                break;
            }
        }

        return most;
    }

    private VectorPath OnlyThin()
    {
        var inner = _inner!;
        var thin = new NarrowRuns(_boundary, inner, _width);
        if (thin.Places.Count == 0) return _outline;
        var grows = Wide(inner, thin);
        var edges = new bool[_boundary.Count];
        for (var i = 0; i < grows.Length; i++) if (grows[i]) edges[inner.All[i].Edge] = edges[inner.All[i].AcrossEdge] = true;
        var near = NearBy(edges);
        // All that a limb lacks may come out on one of its sides, and both sides of a gap may grow.
        var lacks = _width - thin.Places[0].Width;
        Keep(new(_around, false, _gap / 2 + lacks, _cancel, e => e < near.Length && near[e]), 2 * lacks);
        var growing = Growing(inner, thin, grows);
        if (growing.Count == 0) return _outline;
        return Roomy(channels => Put([.. growing.SelectMany(part => Without(part, channels))]));
    }

    private static IEnumerable<VectorPath> Without(VectorPath part, List<VectorPath> channels) =>
        channels.FindAll(c => c.Bounds.Touches(part.Bounds)) is { Count: > 0 } cut ? Together.TakeAway(part, cut) : [part];

    /// <summary>Chords that lie along the boundary no farther than a width from those that grow: the end of a limb comes out with its sides.</summary>
    private bool[] NearBy(bool[] edges)
    {
        var near = new bool[edges.Length];
        for (var i = 0; i < edges.Length; i++)
        {
            if (!edges[i]) continue;
            near[i] = true;
            double ahead = 0, behind = 0;
            for (var k = _boundary.Next(i); !edges[k] && ahead < _width; k = _boundary.Next(k))
                (near[k], ahead) = (true, ahead + _boundary.LengthOfChord(k));
            for (var k = _boundary.Before(i); !edges[k] && behind < _width; k = _boundary.Before(k))
                (near[k], behind) = (true, behind + _boundary.LengthOfChord(k));
        }

        return near;
    }

    /// <summary>Puts areas to the outline, as long as parts and holes stay as many as they were. Each group of what lies together is put by itself, so that
    /// it costs what it is large, and rings that nothing is put to stay the very same.</summary>
    private VectorPath Put(IReadOnlyList<VectorPath> added)
    {
        var rings = _outline.Parts();
        var groups = BoxGroups.Touching([.. rings.Concat(added).Select(p => p.Bounds)]);
        var all = new VectorPath[groups.Count];
        Parallel.For(0, groups.Count, new() { CancellationToken = _cancel, MaxDegreeOfParallelism = Balls.Workers }, k =>
        {
            VectorPath own = new([.. groups[k].Where(i => i < rings.Count).Select(i => rings[i].Subpaths[0])]);
            all[k] = Put(own, groups[k].Where(i => i >= rings.Count).Select(i => added[i - rings.Count]).ToList());
        });
        return VectorPath.Joined(all);
    }

    private VectorPath Put(VectorPath area, List<VectorPath> added)
    {
        if (added.Count == 0) return area;
        var (parts, holes) = Count(area);
        var all = Joined([area, .. added]);
        if (Count(all) == (parts, holes)) return all;
        // Something would grow together that is apart, or edges lie on one another by chance: each is put by itself, a hair beside where need be, or left.
        foreach (var part in Together.Join(added))
        {
            foreach (var (x, y) in new[] { (0.0, 0.0), (3e-4, 5e-4), (-7e-4, 4e-4) })
            {
                _cancel.ThrowIfCancellationRequested();
                var next = Joined([area, part.Transform(Affine.Move(x, y))]);
                if (Count(next) != (parts, holes)) continue;
                area = next;
                break;
            }
        }

        return area;
    }

    /// <summary>All in one, without the pinpricks that rounding leaves between edges that nearly meet.</summary>
    private static VectorPath Joined(IReadOnlyList<VectorPath> areas)
    {
        const double pinprickMm2 = 2e-3;
        return new([.. Together.Join(areas).SelectMany(a => a.Subpaths)
            .Where(s => Math.Abs(s.SignedAreaMm2) > pinprickMm2 || areas[0].Subpaths.Contains(s))]);
    }

    private static (int Parts, int Holes) Count(VectorPath area)
    {
        var outer = area.Subpaths.Count(s => s.SignedAreaMm2 > 0);
        return (outer, area.Subpaths.Length - outer);
    }

    /// <summary>All edges moved out by an amount, but for the channels that stay free.</summary>
    private VectorPath AllRound(double by, List<VectorPath> channels)
    {
        var grown = Outsets.Of(_outline, by);
        if (channels.Count == 0) return Put(grown);

        return Put([.. grown.SelectMany(part => channels.FindAll(c => c.Bounds.Touches(part.Bounds)) is { Count: > 0 } cut
            ? Together.TakeAway(part, cut).SelectMany(p => Outsets.Of(p, -HairMm)).SelectMany(p => Outsets.Of(p, HairMm)) : [part])]);
    }

    /// <summary>The edges of holes moved in by an amount, but for the channels that stay free; what would close or fall into parts stays as it is.</summary>
    private VectorPath HolesOnly(double by, List<VectorPath> channels)
    {
        return new([.. _outline.Subpaths.Select(s => s.SignedAreaMm2 > 0 ? s : Smaller(s))]);

        Subpath Smaller(Subpath hole)
        {
            _cancel.ThrowIfCancellationRequested();
            var area = new VectorPath([hole.Reverse()]);
            // Round what lies in the hole, it stays as wide as a gap.
            var islands = _outline.Subpaths.Where(s => s.SignedAreaMm2 > 0 && area.Bounds.Holds(s.Start) && IsIn(s.Flatten()));
            var kept = channels.Where(c => c.Bounds.Touches(area.Bounds)).Concat(islands.SelectMany(s => Outsets.Of(new([s]), _gap)))
                .SelectMany(c => Together.Overlap([area, c]));
            // Nowhere larger, not by what fitting gives either: the next hole may be that near.
            return Together.Join([.. Outsets.Of(area, -by), .. kept]) is [{ Subpaths.Length: 1 } joined]
                && Together.Overlap([joined, area]) is [{ Subpaths: [var left] }] ? left.Reverse() : hole;

            // A point of it may lie on the edge, as good as.
            bool IsIn(List<Point> ring) => 2 * ring.Count(area.Encloses) > ring.Count;
        }
    }

    /// <summary>What thin places become: the areas of balls along their middle, as large as is wanted and as there is room for.</summary>
    private List<VectorPath> Growing(Balls inner, NarrowRuns thin, bool[] grows)
    {
        var rows = Rows(inner, grows);
        var areas = new List<VectorPath>[rows.Count];
        Parallel.For(0, rows.Count, new() { CancellationToken = _cancel, MaxDegreeOfParallelism = Balls.Workers },
            i => areas[i] = Areas(inner, thin, rows[i]));
        return [.. areas.SelectMany(a => a)];
    }

    /// <summary>Of each ball, whether it belongs to what grows: thin places, and as far as they go over into what is thick enough.</summary>
    private bool[] Wide(Balls inner, NarrowRuns thin)
    {
        var grows = (bool[])thin.IsNarrow.Clone();
        for (var ring = 0; ring + 1 < inner.Rings.Length; ring++)
        {
            int first = inner.Rings[ring], n = inner.Rings[ring + 1] - first;
            for (var i = 0; i < n; i++)
            {
                if (!thin.IsNarrow[first + i]) continue;
                foreach (var step in new[] { 1, -1 })
                {
                    var reach = 0.0;
                    for (var k = 1; k < n; k++)
                    {
                        int at = first + ((i + step * k) % n + n) % n, before = first + ((i + step * (k - 1)) % n + n) % n;
                        reach += inner.All[at].At.DistanceTo(inner.All[before].At);
                        if (thin.IsNarrow[at] || inner.All[at].Facing > Junction || reach > _width) break;
                        grows[at] = true;
                    }
                }
            }
        }

        return grows;
    }

    /// <summary>The balls that grow in rows, so that each stretch of the middle is in one row, though it is seen from both sides: a ball is left out where one
    /// of another row, or of another stretch of the same, lies already.</summary>
    private List<List<int>> Rows(Balls balls, bool[] grows)
    {
        var near = _width / 10;
        var laid = new BoxGrid<(Point Centre, int Row, double Along)>(_width / 2);
        var rows = new List<List<int>>();
        for (var ring = 0; ring + 1 < balls.Rings.Length; ring++)
        {
            int first = balls.Rings[ring], n = balls.Rings[ring + 1] - first;
            // Begun where none grows, a row is not parted at the start of its ring.
            var start = 0;
            while (start < n && grows[first + start]) start++;
            if (start == n) start = 0;
            List<int>? row = null;
            var along = 0.0;
            for (var k = 0; k < n; k++)
            {
                var i = first + (start + k) % n;
                var centre = balls.All[i].Centre;
                var step = row is null ? 0 : centre.DistanceTo(balls.All[row[^1]].Centre);
                // Over a jump to another limb the middle does not go on.
                if (!grows[i] || step > 0.75 * _width || IsLaid(centre, row is null ? -1 : rows.Count - 1, along + step))
                {
                    if (grows[i] && step > 0.75 * _width && !IsLaid(centre, -1, 0)) k--;
                    row = null;
                    continue;
                }

                if (row is null)
                {
                    rows.Add(row = []);
                    (along, step) = (0, 0);
                }

                along += step;
                row.Add(i);
                laid.Add(Around(centre, 0), (centre, rows.Count - 1, along));
            }

            // All the way round, it closes.
            if (row is not null && row.Count == n) row.Add(row[0]);
        }

        return rows;

        bool IsLaid(Point centre, int row, double along)
        {
            foreach (var l in laid.Touching(Around(centre, near)))
                if (l.Centre.DistanceTo(centre) <= near && (l.Row != row || along - l.Along > _width)) return true;
            return false;
        }
    }

    /// <summary>What a row becomes: balls as large as is wanted, where there is room, and flat ends as flat as they were.</summary>
    private List<VectorPath> Areas(Balls inner, NarrowRuns thin, List<int> row)
    {
        var want = _width / 2 + SpareMm;
        var n = row.Count;
        var along = new double[n];
        for (var k = 1; k < n; k++) along[k] = along[k - 1] + inner.All[row[k]].Centre.DistanceTo(inner.All[row[k - 1]].Centre);
        var isThin = row.ConvertAll(i => thin.IsNarrow[i]);
        if (!isThin.Contains(true)) return [];
        var ends = new List<VectorPath>();
        var grow = Blended(row.ConvertAll(i => want - inner.All[i].Radius), isThin, along);
        var (near, far) = (new double[n], new double[n]);
        for (var k = 0; k < n; k++)
        {
            var ball = inner.All[row[k]];
            (near[k], far[k]) = Room(ball);
        }

        (near, far) = (Evened(near, along), Evened(far, along));
        for (var k = 0; k < n; k++)
        {
            double a = Math.Min(grow[k], near[k]), b = Math.Min(grow[k], far[k]);
            (near[k], far[k]) = (Math.Min(near[k], a + grow[k] - b), Math.Min(far[k], b + grow[k] - a));
        }

        var links = new Chains.Link[n];
        for (var k = 0; k < n; k++)
        {
            var ball = inner.All[row[k]];
            var to = ball.Touches ? ball.Across - ball.At : ball.Way * (2 * ball.Radius);
            double first = near[k] > InsideMm ? near[k] : near[k] - InsideMm, second = far[k] > InsideMm ? far[k] : far[k] - InsideMm;
            var centre = ball.Centre + to * ((second - first) / 2 / Math.Max(to.Norm, 1e-9));
            if ((k == 0 || k == n - 1) && row[0] != row[^1] && FlatEnd(ball, k > 0, first, second) is { } end) ends.Add(end);
            links[k] = new(centre, Math.Max(0.01, Math.Min(ball.Radius + (first + second) / 2, Free(centre, ball.Radius + _width))));
        }

        // Inside of what is thick enough the balls become no larger than is wanted, so that a chain goes straight on into it.
        foreach (var step in new[] { 1, -1 })
        {
            for (var k = step > 0 ? 1 : n - 2; k >= 0 && k < n; k += step)
            {
                if (grow[k] > 0) continue;
                var least = Math.Max(want, links[k - step].Radius - 0.3 * Math.Abs(along[k] - along[k - step]));
                links[k] = links[k] with { Radius = Math.Min(links[k].Radius, least) };
            }
        }

        return [.. Chains.Areas(links, _width / 8), .. ends];
    }

    /// <summary>Where a limb ends flat, between two corners, its last ball does not reach into those: they come out with its sides.</summary>
    /// <param name="onward">Whether it ends where its chord goes on; otherwise where that comes from.</param>
    /// <param name="near">By how much its own side comes out, in mm; and the one across.</param>
    private VectorPath? FlatEnd(Ball ball, bool onward, double near, double far)
    {
        if (!ball.Touches || Math.Max(near, far) < InsideMm || _boundary.RingOf[ball.Edge] != _boundary.RingOf[ball.AcrossEdge]) return null;
        if (Corner(ball.Edge, onward) is not { } p || Corner(ball.AcrossEdge, !onward) is not { } q || p.DistanceTo(q) > 3 * ball.Radius) return null;
        Point outwards = (ball.At - ball.Centre) * (1 / ball.Radius), across = (ball.Across - ball.Centre) * (1 / ball.Radius);
        var end = VectorPath.Polygon(ball.At + outwards * near, p + outwards * near, q + across * far, ball.Across + across * far);
        return end.Upright;

        // The first corner along the ring, where it is near.
        Point? Corner(int edge, bool onward)
        {
            var most = 2 * ball.Radius + 0.3 * _width;
            for (var (k, way) = (edge, 0.0); way < most; k = onward ? _boundary.Next(k) : _boundary.Before(k))
            {
                var at = onward ? _boundary.Next(k) : k;
                Point before = _boundary.Way(_boundary.Before(at)), after = _boundary.Way(at);
                if (Math.Atan2(before.Cross(after), before.Dot(after)) > Flat) return _boundary.From[at];
                way += _boundary.LengthOfChord(k);
            }

            return null;
        }
    }

    /// <summary>
    /// How much each ball grows: as much as it is too small; where a thin place ends, it goes over without a kink (the smooth maximum of nothing and what is
    /// wanted, by a parabola), within one width of the limit.
    /// </summary>
    private double[] Blended(List<double> less, List<bool> isThin, double[] along)
    {
        var n = less.Count;
        var grow = new double[n];
        for (var k = 0; k < n; k++) grow[k] = Math.Max(less[k], 0);
        for (var k = 0; k + 1 < n; k++)
        {
            if (isThin[k] == isThin[k + 1]) continue;
            var (edge, step) = isThin[k] ? (k, 1) : (k + 1, -1);
            // How steeply it grows thick there.
            var back = edge;
            while (back - step >= 0 && back - step < n && Math.Abs(along[back] - along[edge]) < _width / 2) back -= step;
            var run = Math.Abs(along[back] - along[edge]);
            var steep = run > 1e-6 ? Math.Clamp((less[back] - less[edge]) / run, 0, 1) : 0;
            var soft = Math.Min(0.15 * _width, 0.4 * _width * steep);
            if (soft < 1e-4) continue;
            for (var j = edge; j >= 0 && j < n && less[j] > -soft && Math.Abs(along[j] - along[edge]) < _width; j += step)
            {
                if (isThin[j] && j != edge) break;
                grow[j] = Math.Max(grow[j], Soft(less[j], soft));
            }

            for (var j = edge - step; j >= 0 && j < n && less[j] < soft && isThin[j]; j -= step) grow[j] = Math.Max(grow[j], Soft(less[j], soft));
        }

        return grow;

        static double Soft(double x, double soft) => x >= soft ? x : x <= -soft ? 0 : (x + soft) * (x + soft) / (4 * soft);
    }
}
