namespace Falzkunst.Core.Layout;

/// <summary>A piece to find a place for.</summary>
/// <param name="Angles">The turns it may have, in degrees; empty where it may have any.</param>
internal sealed record Item(Footprint Shape, double[] Angles, bool Flip)
{
    public bool TurnsFreely => Angles.Length == 0;
}

/// <summary>Where an item lies: on which sheet, how turned, and where its middle is.</summary>
internal readonly record struct Spot(int Bay, Turned Turned, double X, double Y)
{
    public Box Box => Turned.Bounds.Moved(X, Y);
}

/// <summary>A sheet as a search sees it: where true edges may lie, and what they must not meet.</summary>
internal sealed record Bay(Box Room, ImmutableArray<Spot> Obstacles)
{
    public static Bay Of(NestSheet sheet, Length gap) => new(sheet.Room, [.. sheet.Obstacles(gap).Select(o => new Spot(0, o.Turned, o.At.X, o.At.Y))]);
}

/// <summary>
/// Items on sheets, some of them over each other, and how they are parted: guided local search that minimises weighted overlap (Egeblad, Nielsen and Odgaard
/// 2007; Umetani et al. 2009), with overlap guessed by circles (Gardeyn, Vanden Berghe and Wauters 2025). An item that overlaps goes to the best of many
/// places, on whichever sheet: by chance, near where it is, and corner to corner with others or with the sheet; the best of them are followed downhill. Pairs
/// that overlap again and again weigh more and more.
/// Deterministic for a seed and an amount of counted work. Memory: eight bytes a pair of items.
/// </summary>
internal sealed class Packing
{
    private const int Best = 2;

    /// <summary>Weights end here: beyond, differences drown.</summary>
    private const float Heaviest = 1e9f;
    private readonly Item[] _items;
    private readonly Spot[] _spots;
    private readonly Box[] _boxes;
    private readonly List<int>[] _onBay;
    private readonly float[] _weights, _losses;
    private readonly Bay[] _bays;
    private readonly int _row;
    private Chance _chance;
    private long _work;

    public Packing(Item[] items, Bay[] bays, IReadOnlyList<Spot> spots, ulong seed)
    {
        (_items, _bays, _spots, _chance) = (items, [.. bays], [.. spots], new(seed));
        _boxes = new Box[items.Length];
        _onBay = [.. bays.Select(_ => new List<int>())];
        // One more column, for all that does not move.
        _row = items.Length + 1;
        (_weights, _losses) = (new float[items.Length * _row], new float[items.Length * _row]);
        Array.Fill(_weights, 1);
        Begin();
    }

    public ReadOnlySpan<Spot> Spots => _spots;

    public IReadOnlyList<Bay> Bays => _bays;

    /// <summary>What was compared so far.</summary>
    public long Work => _work;

    /// <summary>The sum of what overlaps.</summary>
    public double Loss
    {
        get
        {
            double sum = 0;
            for (var i = 0; i < _items.Length; i++)
            {
                sum += _losses[i * _row + _items.Length];
                for (var j = 0; j < i; j++) sum += _losses[i * _row + j];
            }

            return sum;
        }
    }

    /// <summary>Puts all items somewhere, and forgets what weighed.</summary>
    public void Set(ReadOnlySpan<Spot> spots)
    {
        Array.Fill(_weights, 1);
        Restore(spots);
    }

    private void Restore(ReadOnlySpan<Spot> spots)
    {
        spots.CopyTo(_spots);
        Begin();
    }

    /// <summary>Gives a sheet another room. Items that lie outside are moved in, or to another sheet where they don't fit any more.</summary>
    /// <returns>Whether all fit somewhere.</returns>
    public bool SetRoom(int bay, Box room)
    {
        _bays[bay] = _bays[bay] with { Room = room };
        foreach (var i in _onBay[bay].ToArray())
        {
            var s = _spots[i];
            if (Clamped(_items[i], bay, s.Turned, s.X, s.Y) is { } at)
            {
                if (at.X != s.X || at.Y != s.Y) Put(i, s with { X = at.X, Y = at.Y });
            }
            else if (!PutBest(i))
            {
                return false;
            }
        }

        return true;
    }

    /// <summary>Looks for the place where an item overlaps least, and puts it there.</summary>
    /// <returns>Whether it fits anywhere.</returns>
    public bool PutBest(int item)
    {
        if (Search(item, double.PositiveInfinity) is not { } spot) return false;
        Put(item, spot);
        return true;
    }

    /// <summary>Measures everything anew from where the items lie.</summary>
    private void Begin()
    {
        Array.Clear(_losses);
        foreach (var list in _onBay) list.Clear();
        for (var i = 0; i < _items.Length; i++)
        {
            _boxes[i] = _spots[i].Box;
            if (_spots[i].Bay >= 0) _onBay[_spots[i].Bay].Add(i);
        }

        for (var i = 0; i < _items.Length; i++) Measure(i, true);
    }

    private void Put(int item, in Spot spot)
    {
        if (_spots[item].Bay != spot.Bay)
        {
            if (_spots[item].Bay >= 0) _onBay[_spots[item].Bay].Remove(item);
            _onBay[spot.Bay].Add(item);
        }

        _spots[item] = spot;
        _boxes[item] = spot.Box;
        Measure(item, false);
    }

    /// <summary>Measures what an item overlaps with.</summary>
    /// <param name="below">Whether only with those of a lower number.</param>
    private void Measure(int item, bool below)
    {
        var n = _items.Length;
        if (!below)
        {
            for (var j = 0; j < n; j++) _losses[item * _row + j] = _losses[j * _row + item] = 0;
        }

        ref readonly var s = ref _spots[item];
        if (s.Bay < 0) return;
        foreach (var j in _onBay[s.Bay])
        {
            if (j == item || (below && j > item) || !_boxes[j].Touches(_boxes[item])) continue;
            var loss = (float)s.Turned.Overlap(_spots[j].Turned, s.X - _spots[j].X, s.Y - _spots[j].Y, ref _work);
            _losses[item * _row + j] = _losses[j * _row + item] = loss;
        }

        float fixedLoss = 0;
        foreach (var o in _bays[s.Bay].Obstacles)
            if (o.Box.Touches(_boxes[item])) fixedLoss += (float)s.Turned.Overlap(o.Turned, s.X - o.X, s.Y - o.Y, ref _work);
        _losses[item * _row + n] = fixedLoss;
    }

    private bool Overlaps(int item)
    {
        if (_spots[item].Bay < 0) return true;
        for (var j = 0; j < _row; j++)
            if (_losses[item * _row + j] > 0) return true;
        return false;
    }

    /// <summary>
    /// Parts what overlaps. Rounds without gain end a strike; after some strikes it gives up, with the places that overlapped least.
    /// </summary>
    /// <returns>Whether nothing overlaps.</returns>
    public bool Separate(int rounds, int strikes, long work, CancellationToken cancel)
    {
        var until = _work + work;
        var (least, incumbent) = (Loss, _spots.ToArray());
        if (least <= 0) return true;
        Array.Fill(_weights, 1);
        for (var strike = 0; strike < strikes;)
        {
            var atStart = least;
            for (var idle = 0; idle < rounds;)
            {
                MoveAll();
                var loss = Loss;
                if (loss <= 0 || (loss < 1.5 * least && Relax(80))) return true;
                if (loss < least)
                {
                    if (loss < least * 0.98) idle = 0;
                    least = loss;
                    _spots.CopyTo(incumbent, 0);
                }
                else
                {
                    idle++;
                }

                Reweigh();
                if (_work > until || cancel.IsCancellationRequested)
                {
                    Set(incumbent);
                    return false;
                }
            }

            strike = least < atStart * 0.98 ? 0 : strike + 1;
            Restore(incumbent);
        }

        return false;
    }

    /// <summary>
    /// All items that overlap push each other apart at once, a little each time (position-based dynamics: Müller et al. 2007): what no item alone can do where
    /// all lie tight. Only when nothing overlaps any more are the items moved.
    /// </summary>
    private bool Relax(int times)
    {
        var at = new (double X, double Y)[_items.Length];
        for (var i = 0; i < at.Length; i++)
        {
            if (_spots[i].Bay < 0) return false;
            at[i] = (_spots[i].X, _spots[i].Y);
        }

        var first = 0.0;
        for (var time = 0; time < times; time++)
        {
            double deepest = 0, sum = 0;
            for (var b = 0; b < _bays.Length; b++)
            {
                var list = _onBay[b];
                for (var k = 0; k < list.Count; k++)
                {
                    var i = list[k];
                    var ti = _spots[i].Turned;
                    Box bi = ti.Bounds;
                    for (var l = 0; l < k; l++)
                    {
                        var j = list[l];
                        var tj = _spots[j].Turned;
                        Box bj = tj.Bounds;
                        double dx = at[i].X - at[j].X, dy = at[i].Y - at[j].Y;
                        if (bi.Left + dx > bj.Right || bi.Right + dx < bj.Left || bi.Top + dy > bj.Bottom || bi.Bottom + dy < bj.Top) continue;
                        var push = ti.Push(tj, dx, dy, ref _work);
                        if (push == default) continue;
                        var depth = push.Norm;
                        (deepest, sum) = (Math.Max(deepest, depth), sum + depth);
                        at[i] = (at[i].X + push.X / 2, at[i].Y + push.Y / 2);
                        at[j] = (at[j].X - push.X / 2, at[j].Y - push.Y / 2);
                    }

                    foreach (var o in _bays[b].Obstacles)
                    {
                        if (!o.Box.Touches(bi.Moved(at[i].X, at[i].Y))) continue;
                        var push = ti.Push(o.Turned, at[i].X - o.X, at[i].Y - o.Y, ref _work);
                        (deepest, sum) = (Math.Max(deepest, push.Norm), sum + push.Norm);
                        at[i] = (at[i].X + push.X, at[i].Y + push.Y);
                    }

                    if (Clamped(_items[i], b, ti, at[i].X, at[i].Y) is not { } inside) return false;
                    var beyond = Math.Abs(inside.X - at[i].X) + Math.Abs(inside.Y - at[i].Y);
                    (deepest, sum) = (Math.Max(deepest, beyond > 1e-4 ? beyond : 0), sum + beyond);
                    at[i] = (inside.X, inside.Y);
                }
            }

            if (deepest <= 1e-3)
            {
                for (var i = 0; i < at.Length; i++) _spots[i] = _spots[i] with { X = at[i].X, Y = at[i].Y };
                Begin();
                if (Loss <= 0) return true;
            }

            if (time == 0) first = sum;
            // As it does not get better, it won't.
            if ((time == 6 && sum > first * 0.85) || (time == times / 4 && sum > first * 0.6)) return false;
        }

        return false;
    }

    /// <summary>Every item that overlaps goes to a better place, in an order by chance.</summary>
    private void MoveAll()
    {
        var over = new List<int>();
        for (var i = 0; i < _items.Length; i++)
            if (Overlaps(i)) over.Add(i);
        for (var i = over.Count - 1; i > 0; i--)
        {
            var j = _chance.Below(i + 1);
            (over[i], over[j]) = (over[j], over[i]);
        }

        foreach (var i in over)
        {
            if (!Overlaps(i)) continue;
            var s = _spots[i];
            var now = s.Bay < 0 ? double.PositiveInfinity : Weigh(i, s.Bay, s.Turned, s.X, s.Y, double.PositiveInfinity);
            if (Search(i, now) is { } better) Put(i, better);
        }
    }

    /// <summary>What overlaps weighs more, by how much it does; what does not, forgets slowly.</summary>
    private void Reweigh()
    {
        var most = 0f;
        foreach (var loss in _losses) most = Math.Max(most, loss);
        if (most <= 0) return;
        for (var i = 0; i < _losses.Length; i++)
            _weights[i] = _losses[i] > 0 ? Math.Min(Heaviest, _weights[i] * (1.2f + 0.8f * _losses[i] / most)) : Math.Max(1, _weights[i] * 0.95f);
    }

    /// <summary>The weighted overlap of an item at a place; more than the bound as soon as it is known to be.</summary>
    private double Weigh(int item, int bay, Turned turned, double x, double y, double bound)
    {
        double sum = 0;
        var b = turned.Bounds;
        double left = b.Left + x, top = b.Top + y, right = b.Right + x, bottom = b.Bottom + y;
        var row = item * _row;
        var list = _onBay[bay];
        _work += 2 + list.Count / 8;
        foreach (var j in list)
        {
            ref readonly var box = ref _boxes[j];
            if (box.Left > right || box.Right < left || box.Top > bottom || box.Bottom < top || j == item) continue;
            ref readonly var s = ref _spots[j];
            sum += _weights[row + j] * turned.Overlap(s.Turned, x - s.X, y - s.Y, ref _work);
            if (sum >= bound) return sum;
        }

        foreach (var o in _bays[bay].Obstacles)
        {
            var box = o.Box;
            if (box.Left > right || box.Right < left || box.Top > bottom || box.Bottom < top) continue;
            sum += _weights[row + _items.Length] * turned.Overlap(o.Turned, x - o.X, y - o.Y, ref _work);
            if (sum >= bound) return sum;
        }

        return sum;
    }

    /// <summary>The nearest place where an item in this turn lies inside the room of a sheet; null where it does not fit.</summary>
    private Point? Clamped(Item item, int bay, Turned turned, double x, double y)
    {
        if (Range(item, bay, turned) is not { } r) return null;
        return new(Math.Clamp(x, r.Left, r.Right), Math.Clamp(y, r.Top, r.Bottom));
    }

    /// <summary>Where the middle of an item may lie.</summary>
    private Box? Range(Item item, int bay, Turned turned)
    {
        var (room, b, e) = (_bays[bay].Room, turned.Bounds, item.Shape.Edge);
        var range = new Box(room.Left - b.Left - e, room.Top - b.Top - e, room.Right - b.Right + e, room.Bottom - b.Bottom + e);
        // What fits to a hair fits.
        if (range.Right < range.Left && range.Right > range.Left - 1e-6) range = range with { Right = range.Left };
        if (range.Bottom < range.Top && range.Bottom > range.Top - 1e-6) range = range with { Bottom = range.Top };
        return range.IsEmpty ? null : range;
    }

    private Turned AnyTurn(Item item, Turned? now)
    {
        var flipped = item.Flip && _chance.Next() < 0.5;
        if (!item.TurnsFreely) return item.Shape.In(item.Angles[_chance.Below(item.Angles.Length)], flipped);
        var dice = _chance.Next();
        if (dice < 0.4 && now is not null) return now;
        return dice < 0.6 ? item.Shape.In(90 * _chance.Below(4), flipped) : item.Shape.In(_chance.Next() * 360, flipped);
    }

    /// <summary>The best place that is found with less weighted overlap than now; null where none is.</summary>
    private Spot? Search(int i, double now)
    {
        var item = _items[i];
        Span<double> costs = stackalloc double[Best];
        costs.Fill(now);
        var best = new Spot[Best];
        var found = 0;
        var old = _spots[i];
        var bays = _bays.Length;
        // By chance, on any sheet; one in five along an edge.
        var wide = bays == 1 ? 6 : 4 + 5 * Math.Min(bays, 6);
        for (var k = 0; k < wide; k++)
        {
            var bay = bays == 1 ? 0 : old.Bay >= 0 && k % 3 == 0 ? old.Bay : _chance.Below(bays);
            var turned = AnyTurn(item, old.Turned);
            if (Range(item, bay, turned) is not { } r) continue;
            var (x, y) = (r.Left + _chance.Next() * r.Width, r.Top + _chance.Next() * r.Height);
            var edge = _chance.Below(20);
            if (edge < 2) x = edge == 0 ? r.Left : r.Right;
            else if (edge < 4) y = edge == 2 ? r.Top : r.Bottom;
            Try(bay, turned, x, y, costs);
        }

        if (old.Bay >= 0)
        {
            var reach = 0.5 * item.Shape.Diameter;
            for (var k = 0; k < 5; k++)
            {
                var turned = k % 3 == 0 ? AnyTurn(item, old.Turned) : old.Turned;
                if (Clamped(item, old.Bay, turned, old.X + reach * (_chance.Next() - 0.5), old.Y + reach * (_chance.Next() - 0.5)) is { } at)
                    Try(old.Bay, turned, at.X, at.Y, costs);
            }
        }

        // Corner to corner.
        for (var k = 0; k < 12; k++)
        {
            var bay = bays == 1 ? 0 : _chance.Below(bays);
            if (Contact(i, bay) is var (turned, x, y)) Try(bay, turned, x, y, costs);
        }

        if (found == 0 && double.IsPositiveInfinity(now)) return null;
        // Where it is may be followed downhill as well.
        if (found < Best && old.Bay >= 0 && !double.IsPositiveInfinity(now)) best[found++] = old;
        Spot? result = null;
        var least = now;
        for (var k = 0; k < found; k++)
        {
            var (spot, cost) = Downhill(i, best[k], costs[k]);
            if (cost >= least) continue;
            (result, least) = (spot, cost);
            if (least <= 0) break;
        }

        return result;

        void Try(int bay, Turned turned, double x, double y, Span<double> all)
        {
            var cost = Weigh(i, bay, turned, x, y, all[Best - 1]);
            if (cost >= all[Best - 1]) return;
            var at = Best - 1;
            while (at > 0 && all[at - 1] > cost)
            {
                (all[at], best[at]) = (all[at - 1], best[at - 1]);
                at--;
            }

            (all[at], best[at]) = (cost, new(bay, turned, x, y));
            found = Math.Min(Best, found + 1);
        }
    }

    /// <summary>
    /// A place with an edge along an edge of another item or a side of the sheet, and a corner in a corner there; where no turn that is allowed brings edges
    /// along each other, only the corners meet.
    /// </summary>
    private (Turned Turned, double X, double Y)? Contact(int i, int bay)
    {
        var (item, list, room, e) = (_items[i], _onBay[bay], _bays[bay].Room, _items[i].Shape.Edge);
        var flipped = item.Flip && _chance.Next() < 0.5;
        var upright = item.Shape.In(item.TurnsFreely ? 0 : item.Angles[0], flipped);
        var (at, along, from) = (default(Point), default(Point), default(Point));
        Turned? turned = null;
        var mine = 0;
        for (var tries = 0; tries < 24 && turned is null; tries++)
        {
            var which = _chance.Below(list.Count + 2);
            mine = _chance.Below(upright.EdgeCount);
            if (which >= list.Count || list[which] == i)
            {
                var corner = _chance.Below(4);
                at = new(corner is 0 or 3 ? room.Left - e : room.Right + e, corner < 2 ? room.Top - e : room.Bottom + e);
                // The sides run the other way about, so that an edge that lies along one runs against it.
                along = corner switch { 0 => new(0, 1), 1 => new(-1, 0), 2 => new(0, -1), _ => new(1, 0) };
                from = room.Centre;
                if (_chance.Below(2) == 0) along = new(-along.Y, along.X);
            }
            else
            {
                ref readonly var other = ref _spots[list[which]];
                var edge = _chance.Below(other.Turned.EdgeCount);
                // Start to end, or end to start: edges of the same length meet whole either way.
                at = (_chance.Below(2) == 0 ? other.Turned.End(edge) : other.Turned.Start(edge)) + new Point(other.X, other.Y);
                along = other.Turned.Way(edge);
                from = new(other.X, other.Y);
            }

            var way = upright.Way(mine);
            var by = (Math.Atan2(-along.Y, -along.X) - Math.Atan2(way.Y, way.X)) * 180 / Math.PI + upright.Degrees;
            if (item.TurnsFreely)
            {
                by = (by + 720) % 360;
                // A right angle to a hair is a right angle.
                var straight = Math.Round(by / 90) * 90;
                turned = Math.Abs(by - straight) < 1e-7 ? item.Shape.In(straight % 360, flipped) : item.Shape.In(by, flipped);
                break;
            }

            foreach (var angle in item.Angles)
            {
                var off = Math.Abs((by - angle + 900) % 360 - 180);
                if (off < 0.5) turned = item.Shape.In(angle, flipped);
            }
        }

        turned ??= AnyTurn(item, _spots[i].Turned);
        // What touches overlaps, so it lies a hair apart, in the direction between the middles.
        const double Hair = 1e-4;
        var touching = _chance.Below(2) == 0 ? turned.Start(mine) : turned.End(mine);
        double x = at.X - touching.X, y = at.Y - touching.Y, away = Math.Max(1e-9, Math.Sqrt((x - from.X) * (x - from.X) + (y - from.Y) * (y - from.Y)));
        return Clamped(item, bay, turned, x + Hair * (x - from.X) / away, y + Hair * (y - from.Y) / away) is { } p ? (turned, p.X, p.Y) : null;
    }

    /// <summary>Steps in one direction and back, as long as they help, smaller and smaller.</summary>
    private (Spot Spot, double Cost) Downhill(int i, Spot spot, double cost)
    {
        var item = _items[i];
        var size = Math.Min(item.Shape.Diameter, Math.Max(spot.Turned.Bounds.Width, spot.Turned.Bounds.Height));
        double step = 0.1 * size, least = Math.Max(0.002, 0.0005 * size), turn = 10;
        while (step > least && cost > 0)
        {
            var way = _chance.Below(item.TurnsFreely ? 5 : 4);
            var better = false;
            if (way == 4)
            {
                for (var sign = -1; sign <= 1 && !better; sign += 2)
                {
                    var turned = item.Shape.In((spot.Turned.Degrees + sign * turn + 360) % 360, spot.Turned.Flipped);
                    if (Clamped(item, spot.Bay, turned, spot.X, spot.Y) is not { } at) continue;
                    better = Better(spot with { Turned = turned, X = at.X, Y = at.Y });
                }

                turn *= better ? 1.1 : 0.5;
                if (turn < 0.01) turn = 0.01;
                continue;
            }

            double dx = way switch { 0 => step, 1 => 0, _ => step * 0.7071 }, dy = way switch { 0 => 0, 1 => step, 2 => step * 0.7071, _ => -step * 0.7071 };
            for (var sign = -1; sign <= 1 && !better; sign += 2)
                if (Clamped(item, spot.Bay, spot.Turned, spot.X + sign * dx, spot.Y + sign * dy) is { } at) better = Better(spot with { X = at.X, Y = at.Y });
            step *= better ? 1.1 : 0.5;
        }

        return (spot, cost);

        bool Better(Spot next)
        {
            if (next.X == spot.X && next.Y == spot.Y && ReferenceEquals(next.Turned, spot.Turned)) return false;
            var its = Weigh(i, next.Bay, next.Turned, next.X, next.Y, cost);
            if (its >= cost) return false;
            (spot, cost) = (next, its);
            return true;
        }
    }

    /// <summary>Two items of different shape change places, with all weights forgotten: a way out where a search stands still.</summary>
    public void Disturb()
    {
        var n = _items.Length;
        if (n < 2) return;
        // Of the larger ones, where there are any.
        var order = Enumerable.Range(0, n).Where(i => _spots[i].Bay >= 0).OrderByDescending(i => _items[i].Shape.AreaMm2).ToList();
        var large = Math.Max(2, order.Count / 2);
        for (var tries = 0; tries < 20; tries++)
        {
            int a = order[_chance.Below(Math.Min(large, order.Count))], b = order[_chance.Below(Math.Min(large, order.Count))];
            if (ReferenceEquals(_items[a].Shape, _items[b].Shape)) continue;
            var (one, other) = (_spots[a], _spots[b]);
            Swap(a, other);
            Swap(b, one);
            break;
        }

        Array.Fill(_weights, 1);
        Begin();

        void Swap(int i, Spot to)
        {
            var turned = AnyTurn(_items[i], _spots[i].Turned);
            if (Clamped(_items[i], to.Bay, turned, to.X, to.Y) is { } at) _spots[i] = new(to.Bay, turned, at.X, at.Y);
        }
    }
}

/// <summary>Numbers by chance, the same for a seed on every machine (SplitMix64: Steele, Lea and Flood 2014).</summary>
internal struct Chance(ulong seed)
{
    private ulong _state = seed;

    /// <summary>From 0 up to 1.</summary>
    public double Next() => (Bits() >> 11) * (1.0 / (1UL << 53));

    /// <summary>From 0 up to a number.</summary>
    public int Below(int n) => (int)(((Bits() >> 32) * (ulong)n) >> 32);

    public ulong Bits()
    {
        _state += 0x9E3779B97F4A7C15;
        var z = _state;
        z = (z ^ (z >> 30)) * 0xBF58476D1CE4E5B9;
        z = (z ^ (z >> 27)) * 0x94D049BB133111EB;
        return z ^ (z >> 31);
    }
}
