namespace Falzkunst.Core.Strength;

/// <summary>
/// Moves the parts of an outline apart, as little as it takes that all can grow and a gap stays between them: a dot goes up, letters go aside. Each two that
/// come too close are put right, again and again (contacts one after the other: Müller, Heidelberger, Hennix and Ratcliff, "Position based dynamics", 2007);
/// what is small gives way to what is large. Costs the places along those edges that are near to others, a few dozen times.
/// </summary>
internal sealed class Apart
{
    private const int MostRounds = 100;

    /// <summary>Nearer to what is wanted than this is near enough, in mm.</summary>
    private const double EnoughMm = 0.002;

    /// <summary>What fitting takes of a gap.</summary>
    private const double SpareMm = 0.01;

    private readonly Body[] _bodies;
    private readonly Point[] _moved;
    private readonly int _free;
    private readonly double _gap, _most;

    /// <param name="free">So many of the bodies can move; those behind them lie fast.</param>
    private Apart(Body[] bodies, int free, double gap, double most) =>
        (_bodies, _free, _moved, _gap, _most) = (bodies, free, new Point[bodies.Length], gap + SpareMm, most);

    /// <summary>The outline with its parts grown, and moved by no more than a distance. Parts that neither grow nor have to move are the very same.</summary>
    /// <param name="beside">What lies beside it and does not move.</param>
    /// <param name="grown">What a part becomes by itself, with room enough; of several, with what room there is between them and something else.</param>
    /// <param name="gap">What has to stay between two of those, in mm.</param>
    /// <param name="most">The farthest that one may go, in mm.</param>
    public static VectorPath Of(VectorPath outline, VectorPath? beside, Func<VectorPath, VectorPath?, VectorPath> grown, double gap, double most,
        CancellationToken cancel)
    {
        var parts = Body.Of(outline);
        if (parts.Count < 2) return grown(outline, beside);
        var bodies = Bodies(parts, beside is null || beside.IsEmpty ? [] : Body.Of(beside), grown, gap, cancel);
        var apart = new Apart(bodies, parts.Count, gap, most);
        var near = apart.Neighbours();
        apart.Settle(near, cancel);
        // Where there was not room enough, what is still too close shares what there is.
        var isClose = new bool[bodies.Length];
        foreach (var (a, b) in near) if (apart.Lacking(a, b).By > SpareMm) isClose[a] = isClose[b] = true;
        VectorPath own = Moved(i => !isClose[i], i => bodies[i].Area), close = Moved(i => isClose[i], i => parts[i]);
        return close.IsEmpty ? own : own.With(grown(close, beside is null ? own : own.With(beside)));

        VectorPath Moved(Predicate<int> which, Func<int, VectorPath> area) => VectorPath.Joined(Enumerable.Range(0, parts.Count).Where(i => which(i))
            .Select(i => apart._moved[i] is var to && to == default ? area(i) : area(i).Transform(Affine.Move(to.X, to.Y))));
    }

    /// <summary>How many pairs of grown parts lie closer than a gap.</summary>
    /// <inheritdoc cref="Of"/>
    public static int Close(VectorPath outline, Func<VectorPath, VectorPath?, VectorPath> grown, double gap, CancellationToken cancel)
    {
        var parts = Body.Of(outline);
        var apart = new Apart(Bodies(parts, [], grown, gap, cancel), parts.Count, gap, 0);
        return apart.Neighbours().Count(pair => apart.Lacking(pair.A, pair.B).By > SpareMm);
    }

    private static Body[] Bodies(IReadOnlyList<VectorPath> parts, IReadOnlyList<VectorPath> fast, Func<VectorPath, VectorPath?, VectorPath> grown, double gap,
        CancellationToken cancel)
    {
        var bodies = new Body[parts.Count + fast.Count];
        Parallel.For(0, bodies.Length, new() { CancellationToken = cancel, MaxDegreeOfParallelism = Balls.Workers },
            i => bodies[i] = new(i < parts.Count ? grown(parts[i], null) : fast[i - parts.Count], gap / 2));
        return bodies;
    }

    private void Settle(List<(int A, int B)> near, CancellationToken cancel)
    {
        var wasMoved = Enumerable.Repeat(true, _bodies.Length).ToArray();
        for (var round = 0; round < MostRounds; round++)
        {
            cancel.ThrowIfCancellationRequested();
            var isMoved = new bool[_bodies.Length];
            foreach (var (a, b) in near)
            {
                if (!(wasMoved[a] || wasMoved[b] || isMoved[a] || isMoved[b])) continue;
                var (lacks, way) = Lacking(a, b);
                if (lacks <= EnoughMm) continue;
                var share = _bodies[b].AreaMm2 / (_bodies[a].AreaMm2 + _bodies[b].AreaMm2);
                var gone = Push(a, way, lacks * share);
                // What one can't give, the other gives.
                gone += Push(b, way * -1, lacks - gone);
                if (gone < lacks - EnoughMm) gone += Push(a, way, lacks - gone);
                if (gone > EnoughMm / 2) isMoved[a] = isMoved[b] = true;
            }

            // Forwards and backwards in turn, what pushes comes to both ends of a row alike.
            near.Reverse();
            wasMoved = isMoved;
            if (!isMoved.Contains(true)) return;
        }
    }

    /// <summary>The pairs that could come too close.</summary>
    private List<(int A, int B)> Neighbours()
    {
        var grid = new BoxGrid<int>(Math.Max(5, 2 * _most));
        var pairs = new List<(int, int)>();
        for (var i = 0; i < _bodies.Length; i++)
        {
            var box = _bodies[i].Bounds.Grown(_gap / 2 + _most);
            foreach (var other in grid.Touching(box).Distinct()) if (Math.Min(other, i) < _free) pairs.Add((other, i));
            grid.Add(box, i);
        }

        pairs.Sort();
        return pairs;
    }

    /// <summary>How much farther two have to be apart, and where the first goes for that.</summary>
    private (double By, Point Way) Lacking(int a, int b)
    {
        var worst = (By: 0.0, Way: default(Point));
        Look(a, b, 1);
        Look(b, a, -1);
        return worst;

        void Look(int of, int to, int sign)
        {
            var by = _moved[of] - _moved[to];
            var other = _bodies[to];
            var box = other.Bounds.Grown(_gap);
            foreach (var at in _bodies[of].Points)
            {
                var p = at + by;
                if (!box.Holds(p)) continue;
                // The nearest edge tells; a point that lies in the other has to get out by it.
                var isIn = other.Encloses(p);
                if (!other.Nearest(p, isIn ? 1e3 : _gap, out var place, out var outwards)) continue;
                var away = p.DistanceTo(place);
                var lacks = isIn ? _gap + away : _gap - away;
                if (lacks <= worst.By) continue;
                worst = (lacks, (isIn || away < 1e-6 ? outwards : (p - place) * (1 / away)) * sign);
            }
        }
    }

    /// <summary>Moves one, as far as it may go.</summary>
    /// <returns>How far it went in that direction.</returns>
    private double Push(int body, Point way, double by)
    {
        if (by <= 0 || body >= _free) return 0;
        var to = _moved[body] + way * by;
        if (to.Norm > _most) to *= _most / to.Norm;
        var gone = (to - _moved[body]).Dot(way);
        // At its end it does not slide aside or back.
        if (gone <= 0) return 0;
        _moved[body] = to;
        return gone;
    }
}
