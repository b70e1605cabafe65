namespace Falzkunst.Core.Layout;

/// <summary>The search that goes on from a first fill. See <see cref="NestEngine"/>.</summary>
internal sealed class NestSearch
{
    private const int Workers = 2;

    /// <summary>Pieces that fill more of the sheets than this are not tried on them.</summary>
    internal const double MostFull = 0.999;
    private readonly NestRequest _request;
    private readonly List<(NestPiece Piece, int Copy)> _copies = [];
    private readonly Item[] _items;
    private readonly Dictionary<string, Bay> _bays;
    private readonly ImmutableArray<Unplaced> _tooLarge;

    /// <summary>Whether every piece has an area that something can be told of; otherwise the first fill stays.</summary>
    public bool CanSearch { get; } = true;

    /// <param name="Kinds">The sheets, by their number in the request.</param>
    /// <param name="Spots">Where each item lies; on no bay where it has no place.</param>
    private sealed record State(ImmutableArray<int> Kinds, Spot[] Spots, NestResult Result);

    /// <param name="fitting">The pieces that fit on a sheet; all others are <paramref name="tooLarge"/>.</param>
    public NestSearch(NestRequest request, IEnumerable<NestPiece> fitting, ImmutableArray<Unplaced> tooLarge)
    {
        (_request, _tooLarge) = (request, tooLarge);
        var items = new List<Item>();
        foreach (var piece in fitting)
        {
            var shape = Footprint.Of(piece.Path, request.Gap);
            CanSearch &= !shape.IsEmpty;
            if (shape.IsEmpty) break;
            var angles = piece.Angles;
            shape.Prepared(angles.Length > 0 ? angles : [0, 90, 180, 270], piece.Flip);
            var item = new Item(shape, angles, piece.Flip);
            for (var copy = 1; copy <= piece.Count; copy++)
            {
                _copies.Add((piece, copy));
                items.Add(item);
            }
        }

        _items = [.. items];
        if (!CanSearch) _copies.Clear();
        _bays = request.Sheets.ToDictionary(s => s.Id, s => Bay.Of(s, request.Gap));
    }

    private State StateOf(NestResult result)
    {
        var placed = result.Placements.ToDictionary(p => (p.Piece, p.Copy));
        var kinds = result.SheetIds.Select(id => _request.Sheets.IndexOf(_request.Sheets.First(s => s.Id == id))).ToImmutableArray();
        return new(kinds, [.. _copies.Select((c, i) =>
        {
            var shape = _items[i].Shape;
            if (!placed.TryGetValue((c.Piece.Id, c.Copy), out var p)) return new(-1, shape.In(0), 0, 0);
            var at = p.ToSheet.Apply(shape.Centre);
            return new Spot(p.Sheet, shape.In(p.Turn.Degrees, p.Flipped), at.X, at.Y);
        })], result);
    }

    private State StateOf(ImmutableArray<int> kinds, ReadOnlySpan<Spot> spots)
    {
        var placements = ImmutableArray.CreateBuilder<Placement>(_items.Length);
        var unplaced = _tooLarge.ToBuilder();
        for (var i = 0; i < _items.Length; i++)
        {
            var (piece, copy) = _copies[i];
            var s = spots[i];
            if (s.Bay < 0)
            {
                unplaced.Add(new(piece.Id, copy, Unplaced.NoRoom));
                continue;
            }

            placements.Add(Placement.Of(piece.Id, copy, s.Bay, _request.Sheets[kinds[s.Bay]].Id, s.Turned, new(s.X, s.Y)));
        }

        return StateOf(NestResult.Of(_request, placements.ToImmutable(), unplaced.ToImmutable(),
            [.. kinds.Select(k => _request.Sheets[k].Id)]));
    }

    /// <summary>The room on sheets of these kinds.</summary>
    public Bay[] BaysOf(IEnumerable<int> kinds) => [.. kinds.Select(k => _bays[_request.Sheets[k].Id])];

    /// <summary>A layout with what overlaps in it by a hair parted; null where there is no room for that.</summary>
    public NestResult? Parted(NestResult result, CancellationToken cancel)
    {
        const long Most = 20_000_000;
        if (!CanSearch) return null;
        var from = StateOf(result);
        var packing = new Packing(_items, BaysOf(from.Kinds), from.Spots, (ulong)_request.Seed);
        return packing.Separate(100, 3, Most, cancel) ? StateOf(from.Kinds, packing.Spots).Result : null;
    }

    /// <summary>A layout with its pieces brought together; of the last sheet so that the largest rectangle is left of it.</summary>
    public NestResult Tidy(NestResult result)
    {
        var from = StateOf(result);
        var (kinds, spots) = (from.Kinds, from.Spots);
        if (!CanSearch || kinds.IsEmpty) return result;
        var (bays, last) = (BaysOf(kinds), kinds.Length - 1);
        for (var b = 0; b < last; b++) Compaction.Of(_items, bays[b], b, spots, true);
        Spot[] left = [.. spots];
        Compaction.Of(_items, bays[last], last, spots, true);
        Compaction.Of(_items, bays[last], last, left, false);
        var paths = _request.Pieces.ToDictionary(p => p.Id, p => p.Path);
        return new[] { spots, left }.Select(s => StateOf(kinds, s).Result).OrderBy(r => Math.Round(r.Cost, 3))
            .ThenByDescending(r => Math.Round(Left(r) / 100)).ThenByDescending(Shared).First();

        double Shared(NestResult r) => !SharedEdges.Allows(_request.Gap) ? 0 : SharedEdges.Saved(r.Placements.Where(p => p.Sheet == r.SheetIds.Length - 1)
            .SelectMany(p => paths[p.Piece].Transform(p.ToSheet).Subpaths).Select(s => new VectorPath([s]))).Mm;

        // What is last may be another sheet than before.
        double Left(NestResult r)
        {
            var sheet = _request.Sheets.First(s => s.Id == r.SheetIds[^1]);
            return OffCuts.Largest(sheet.Width, sheet.Height, r.Placements.Where(p => p.Sheet == r.SheetIds.Length - 1)
                .Select(p => paths[p.Piece].Transform(p.ToSheet)).Concat(sheet.Blocked(Length.Zero))).Area;
        }
    }

    /// <summary>Searches in rounds until they are enough, or until it is cancelled; the best that was found, or the first.</summary>
    /// <param name="first">What the fill gave, to go on from.</param>
    /// <param name="share">Counted work of a round.</param>
    /// <param name="isEnough">Asked after each round, for how many there were.</param>
    public NestResult Run(NestResult first, long share, Func<int, bool> isEnough, Action<NestResult, string> say, CancellationToken cancel)
    {
        var best = StateOf(first);
        var workers = new Worker[Workers];
        for (var w = 0; w < Workers; w++) workers[w] = new(this, w);
        for (var round = 0; !isEnough(round) && !cancel.IsCancellationRequested; round++)
        {
            var from = best;
            var found = new State?[Workers];
            Parallel.For(0, Workers, w => found[w] = workers[w].Go(from, round, share, cancel));
            foreach (var f in found)
                if (f is not null && f.Result.Cost < best.Result.Cost - 1e-9) best = f;
            if (workers.All(w => w.HasNothingToDo) || (_request.StopsWhenAllFit && best.Result.Unplaced.IsEmpty)) break;
            say(best.Result, workers[0].Says);
        }

        return best.Result;
    }

    /// <summary>One of the searches: what it tries, and how far it is with that.</summary>
    private sealed class Worker(NestSearch search, int number)
    {
        private readonly ulong _seed = (ulong)(search._request.Seed * 7919 + number + 1);
        private Drop? _drop;
        private State? _dropFrom;
        private Squeeze? _squeeze;

        public bool HasNothingToDo { get; private set; }

        public string Says { get; private set; } = "";

        /// <summary>Goes on for some work; what it found that is better than where it went from, or null.</summary>
        public State? Go(State from, int round, long work, CancellationToken cancel)
        {
            var seed = _seed + (ulong)round * 104729;
            // What it tries depends on the sheets and on what has no place; as long as these stay, it goes on.
            if (_dropFrom is null || !_dropFrom.Kinds.SequenceEqual(from.Kinds) || _dropFrom.Result.Unplaced.Length != from.Result.Unplaced.Length)
                (_drop, _dropFrom) = (Drop.Of(search, from, seed), from);
            var squeezes = from.Result.Unplaced.Length == search._tooLarge.Length;
            HasNothingToDo = _drop is null && !squeezes;
            if (_drop is not null && (!squeezes || _drop.IsWorthAll || (round + number) % 2 == 0))
            {
                Says = squeezes ? $"trying {_drop.Sheets} {(_drop.Sheets == 1 ? "sheet" : "sheets")}" : "making room for all";
                return _drop.Go(work, cancel);
            }

            if (!squeezes) return null;
            Says = "making the last sheet shorter";
            _squeeze ??= new();
            return _squeeze.Go(search, from, seed, work, cancel);
        }
    }

    /// <summary>Looks for room for all pieces on fewer or cheaper sheets, or for those that have none.</summary>
    private sealed class Drop
    {
        private readonly NestSearch _search;
        private readonly ImmutableArray<int> _kinds;
        private readonly Packing _packing;
        private readonly List<(double Loss, Spot[] Spots)> _pool = [];
        private Chance _chance;

        private Drop(NestSearch search, ImmutableArray<int> kinds, Packing packing, ulong seed)
        {
            (_search, _kinds, _packing, _chance) = (search, kinds, packing, new(seed));
        }

        public int Sheets => _kinds.Length;

        /// <summary>Whether a sheet that is saved outweighs everything else: few pieces, and the only other sheet.</summary>
        public bool IsWorthAll => _kinds.Length == 1 && _search._items.Length <= 80;

        public static Drop? Of(NestSearch search, State from, ulong seed)
        {
            var request = search._request;
            var (kinds, emptied) = from.Result.Next(request, search._tooLarge.Length);
            int[] to = [.. Enumerable.Range(0, from.Kinds.Length).Select(b => b == emptied ? -1 : b > emptied ? b - 1 : b)];
            var room = kinds.Sum(k => request.Sheets[k].RoomFor(request.Gap));
            var needed = search._items.Sum(i => i.Shape.AreaMm2);
            if (kinds.IsEmpty || needed > room * MostFull) return null;
            var spots = from.Spots.Select(s => s with { Bay = s.Bay < 0 ? -1 : to[s.Bay] }).ToArray();
            var packing = new Packing(search._items, search.BaysOf(kinds), spots, seed);
            for (var i = 0; i < spots.Length; i++)
                if (spots[i].Bay < 0 && !packing.PutBest(i)) return null;
            return new(search, kinds, packing, seed);
        }

        public State? Go(long work, CancellationToken cancel)
        {
            var until = _packing.Work + work;
            while (_packing.Work < until && !cancel.IsCancellationRequested)
            {
                if (_packing.Separate(100, 3, until - _packing.Work, cancel))
                    return _search.StateOf(_kinds, _packing.Spots);
                if (_packing.Work >= until) break;
                // Stuck: from one of the better ones so far, with two pieces changed.
                var at = _pool.FindIndex(p => p.Loss > _packing.Loss);
                _pool.Insert(at < 0 ? _pool.Count : at, (_packing.Loss, _packing.Spots.ToArray()));
                if (_pool.Count > 20) _pool.RemoveAt(_pool.Count - 1);
                var pick = (int)(_pool.Count * Math.Pow(_chance.Next(), 3));
                _packing.Set(_pool[pick].Spots);
                _packing.Disturb();
            }

            return null;
        }
    }

    /// <summary>Makes the last sheet shorter.</summary>
    private sealed class Squeeze
    {
        /// <summary>Of what is used of the sheet, the part that is taken away at once.</summary>
        private const double First = 0.04, Least = 0.0005;

        private double _step = First;

        public State? Go(NestSearch search, State from, ulong seed, long work, CancellationToken cancel)
        {
            var request = search._request;
            var (kinds, last) = (from.Kinds, from.Kinds.Length - 1);
            var packing = new Packing(search._items, search.BaysOf(kinds), from.Spots, seed);
            Spot[]? best = null;
            var whole = search._bays[request.Sheets[kinds[last]].Id].Room;
            // Down, or across where less of it is used that way.
            var (down, across) = Far(search, packing, last);
            var isDown = (down - whole.Top) / whole.Height <= (across - whole.Left) / whole.Width;
            var (begin, low) = isDown ? (whole.Top, down) : (whole.Left, across);
            while (packing.Work < work && !cancel.IsCancellationRequested)
            {
                var to = begin + (low - begin) * (1 - _step);
                if (packing.SetRoom(last, RoomTo(to)) && packing.Separate(60, 1, work - packing.Work, cancel))
                {
                    var far = Far(search, packing, last);
                    low = Math.Min(to, isDown ? far.Down : far.Across);
                    best = packing.Spots.ToArray();
                    if (low <= begin) break;
                    _step = Math.Min(0.1, _step * 1.3);
                }
                else
                {
                    if (packing.Work >= work) break;
                    if (_step <= Least)
                    {
                        // As far as it goes from here; the next time with larger steps again.
                        _step = First;
                        break;
                    }

                    _step = Math.Max(Least, _step / 2);
                    packing.SetRoom(last, RoomTo(low + 1e-6));
                    packing.Set(best ?? from.Spots);
                }
            }

            return best is null ? null : search.StateOf(kinds, best);

            Box RoomTo(double far) => isDown ? whole with { Bottom = far } : whole with { Right = far };
        }

        /// <summary>How far down and across the last sheet is used.</summary>
        private static (double Down, double Across) Far(NestSearch search, Packing packing, int bay)
        {
            var (down, across) = (packing.Bays[bay].Room.Top, packing.Bays[bay].Room.Left);
            for (var i = 0; i < packing.Spots.Length; i++)
            {
                var s = packing.Spots[i];
                if (s.Bay != bay) continue;
                down = Math.Max(down, s.Y + s.Turned.Bounds.Bottom - search._items[i].Shape.Edge);
                across = Math.Max(across, s.X + s.Turned.Bounds.Right - search._items[i].Shape.Edge);
            }

            return (down, across);
        }
    }
}
