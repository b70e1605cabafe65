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
    private const double SpareMm = 0.02;

    private readonly Body[] _bodies;
    private readonly Point[] _moved;
    private readonly double _gap, _most;

    private Apart(Body[] bodies, double gap, double most) => (_bodies, _moved, _gap, _most) = (bodies, new Point[bodies.Length], gap + SpareMm, most);

    /// <summary>The outline, its parts moved by no more than a distance. Parts that don't have to move are the very same.</summary>
    /// <param name="grown">What a part becomes by itself.</param>
    /// <param name="gap">What has to stay between two of those, in mm.</param>
    /// <param name="most">The farthest that one may go, in mm.</param>
    public static VectorPath Of(VectorPath outline, Func<VectorPath, VectorPath> grown, double gap, double most, CancellationToken cancel)
    {
        var parts = Body.Of(outline);
        if (parts.Count < 2 || most <= 0) return outline;
        var bodies = new Body[parts.Count];
        Parallel.For(0, bodies.Length, new() { CancellationToken = cancel, MaxDegreeOfParallelism = Balls.Workers },
            i => bodies[i] = new(grown(parts[i]), gap / 2));
        var apart = new Apart(bodies, gap, most);
        apart.Settle(cancel);
        var by = new Dictionary<Subpath, Point>();
        for (var i = 0; i < parts.Count; i++)
            if (apart._moved[i] != default) foreach (var ring in parts[i].Subpaths) by[ring] = apart._moved[i];
        return by.Count == 0 ? outline : new([.. outline.Subpaths.Select(s => by.TryGetValue(s, out var to)
            ? new VectorPath([s]).Transform(Affine.Move(to.X, to.Y)).Subpaths[0] : s)]);
    }

    private void Settle(CancellationToken cancel)
    {
        var near = Neighbours();
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
            foreach (var other in grid.Touching(box).Distinct()) pairs.Add((other, i));
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
        if (by <= 0) return 0;
        var to = _moved[body] + way * by;
        if (to.Norm > _most) to *= _most / to.Norm;
        var gone = (to - _moved[body]).Dot(way);
        // At its end it does not slide aside or back.
        if (gone <= 0) return 0;
        _moved[body] = to;
        return gone;
    }
}
