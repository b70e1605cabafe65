using Falzkunst.Core.Layout;

namespace Falzkunst.Core.Runs;

/// <summary>
/// A short way along all lines of a step: each once, from a point, ending anywhere. Nearest neighbour first; then 2-opt and or-opt among near neighbours, with
/// the lines that are turned round and the starts of closed ones as part of each move, kept going by a queue (Bentley, Fast Algorithms for Geometric Traveling
/// Salesman Problems, 1992); then two neighbouring stretches are exchanged here and there, or a line is entered elsewhere; that is mended in the same way, and
/// taken back where it did not help (iterated local search: Lourenço, Martin and Stützle 2003; the exchange is the local double bridge of Applegate et al.
/// 2003). At the end the starts are the best that there are for the order, by dynamic programming.
/// Cost: bounded by counted work, so that it is the same on each machine; about n log n before the exchanges. No guarantee: of 150 sets of up to five lines
/// 149 were walked in the shortest way.
/// </summary>
internal sealed class Tour
{
    /// <summary>Near lines that moves are tried with, of each place that a line can be entered by.</summary>
    private const int Near = 7;

    /// <summary>Corners of a closed line that it may begin at; of more, so many are taken evenly.</summary>
    private const int MostStarts = 32;

    /// <summary>Lines that are moved together at most.</summary>
    private const int LongestMove = 3;

    /// <summary>Each of two stretches that are exchanged has at most so many lines.</summary>
    private const int LongestExchange = 30;

    /// <summary>Counted work of the exchanges: lines turned round, and moves that were looked at. About half a second.</summary>
    private const long MostWork = 20_000_000;

    /// <summary>No more exchanges than these for each line, and so many at least: forty times as many bring half a percent.</summary>
    private const int MostExchanges = 10, LeastExchanges = 300;

    private const double Gain = 1e-7;

    private readonly Point _from;
    private readonly ImmutableArray<Subpath> _lines;

    /// <summary>Of each line, where it can be entered: the corners of a closed one, and both ends of an open one.</summary>
    private readonly Point[][] _doors;

    /// <summary>The corner that each door of a closed line is: −1 for its start, otherwise the end of that segment.</summary>
    private readonly int[][] _corners;

    /// <summary>The door that each line is entered by; an open one is left by the other.</summary>
    private readonly int[] _door;
    private readonly Point[] _in, _out;
    private readonly int[] _order, _at;
    private readonly List<(int Left, int Right, int Line, int Door)> _done = [];
    private readonly Queue<int> _queue = [];
    private readonly bool[] _queued, _closed;
    private (int Line, double Far)[][] _near = [];
    private long _work;

    private Tour(ImmutableArray<Subpath> lines, Point from, Func<Subpath, int[]>? starts)
    {
        (_lines, _from) = (lines, from);
        var n = lines.Length;
        (_doors, _corners, _door, _in, _out) = (new Point[n][], new int[n][], new int[n], new Point[n], new Point[n]);
        (_order, _at, _queued, _closed) = (new int[n], new int[n], new bool[n], new bool[n]);
        for (var i = 0; i < n; i++)
        {
            var line = lines[i];
            _closed[i] = line.Closed && line.Segments.Length > 0;
            if (_closed[i])
            {
                // The start is one more corner, but where the last segment comes back to it.
                var ends = starts?.Invoke(line)
                    ?? [.. Enumerable.Range(-1, line.Segments.Length + (line.End.DistanceTo(line.Start) > Tolerances.Same ? 1 : 0))];
                _corners[i] = ends.Length <= MostStarts ? ends
                    : [.. Enumerable.Range(0, MostStarts).Select(k => ends[(int)((long)k * ends.Length / MostStarts)])];
                _doors[i] = [.. _corners[i].Select(c => c < 0 ? line.Start : line.Segments[c].End)];
            }
            else
            {
                _doors[i] = [line.Start, line.End];
            }

            _order[i] = _at[i] = i;
            Enter(i, 0);
        }
    }

    /// <summary>The lines in a short order, as they are walked then.</summary>
    /// <param name="starts">Where a closed line may begin: −1 at its start, otherwise at the end of that segment. Null: at any of them.</param>
    public static ImmutableArray<VectorPath> Of(ImmutableArray<Subpath> lines, Point from, Func<Subpath, int[]>? starts = null)
    {
        var tour = new Tour(lines, from, starts);
        var given = tour.Length();
        tour.Nearest();
        if (tour.Length() > given) tour = new(lines, from, starts);
        if (lines.Length > 1) tour.Improve();
        tour.ChooseDoors();
        return [.. tour._order.Select(tour.Walked)];
    }

    private VectorPath Walked(int i)
    {
        var (line, door) = (_lines[i], _door[i]);
        if (!_closed[i]) return new([door == 0 ? line : line.Reverse()]);
        var corner = _corners[i][door];
        if (corner < 0) return new([line]);
        var segments = ImmutableArray.CreateBuilder<Segment>(line.Segments.Length + 1);
        segments.AddRange(line.Segments.AsSpan()[(corner + 1)..]);
        if (line.End.DistanceTo(line.Start) > Tolerances.Same) segments.Add(Segment.Line(line.Start));
        segments.AddRange(line.Segments.AsSpan()[..(corner + 1)]);
        return new([new Subpath(line.Segments[corner].End, segments.ToImmutable(), true)]);
    }

    private void Enter(int line, int door)
    {
        _door[line] = door;
        _in[line] = _doors[line][door];
        _out[line] = _closed[line] ? _in[line] : _doors[line][1 - door];
    }

    private double Length() => Enumerable.Range(0, _order.Length).Sum(p => Hop(p - 1, p));

    private Point OutAt(int position) => position < 0 ? _from : _out[_order[position]];

    /// <summary>From one position to another, with the tool up; behind the last there is nothing to go to.</summary>
    private double Hop(int from, int to) => to >= _order.Length ? 0 : OutAt(from).DistanceTo(_in[_order[to]]);

    private void Nearest()
    {
        var grid = new DoorGrid(_doors);
        var at = _from;
        for (var p = 0; p < _order.Length; p++)
        {
            var (line, door) = grid.Take(at);
            (_order[p], _at[line]) = (line, p);
            Enter(line, door);
            at = _out[line];
        }
    }

    private void Improve()
    {
        _near = new DoorGrid(_doors).Neighbours(Near);
        for (var p = 0; p < _order.Length; p++) Look(_order[p]);
        Settle();
        _work = 0;
        var chance = new Chance(1);
        for (var tries = LeastExchanges + MostExchanges * _order.Length; tries > 0 && _work < MostWork; tries--)
        {
            _done.Clear();
            var change = chance.Below(3) > 0 ? Exchange(ref chance) : OtherDoor(ref chance);
            if (change + Settle() > -Gain) Undo();
        }
    }

    /// <summary>Exchanges two neighbouring stretches somewhere; by how much the way changed.</summary>
    private double Exchange(ref Chance chance)
    {
        var n = _order.Length;
        var longest = Math.Min(LongestExchange, n / 2);
        int first = 1 + chance.Below(longest), second = 1 + chance.Below(longest), before = chance.Below(n - 1) - 1;
        int middle = Math.Min(n - 2, before + first), last = Math.Min(n - 1, middle + second), meet = before + (last - middle);
        var was = Hop(before, before + 1) + Hop(middle, middle + 1) + Hop(last, last + 1);
        LookAround(before, before + 1, middle, middle + 1, last, last + 1);
        Turn(before + 1, last);
        Turn(before + 1, meet);
        Turn(meet + 1, last);
        return Hop(before, before + 1) + Hop(meet, meet + 1) + Hop(last, last + 1) - was;
    }

    /// <summary>Enters some line by another of its doors, so that those around it see whether they are better off; by how much the way changed.</summary>
    private double OtherDoor(ref Chance chance)
    {
        var at = chance.Below(_order.Length);
        var line = _order[at];
        var was = Hop(at - 1, at) + Hop(at, at + 1);
        if (_closed[line]) Choose(line, chance.Below(_doors[line].Length));
        else Turn(at, at);
        LookAround(at - 1, at + 1);
        return Hop(at - 1, at) + Hop(at, at + 1) - was;
    }

    private void Look(int line)
    {
        if (_queued[line]) return;
        _queued[line] = true;
        _queue.Enqueue(line);
    }

    /// <summary>Makes moves until none helps; by how much the way changed.</summary>
    private double Settle()
    {
        var change = 0.0;
        while (_queue.TryDequeue(out var line))
        {
            _queued[line] = false;
            while (Better(line) is < 0 and var gain) change += gain;
        }

        return change;
    }

    /// <summary>Makes a move that has to do with a line and shortens the way; 0 where there is none.</summary>
    private double Better(int line)
    {
        var at = _at[line];
        if (_closed[line] && Door(line, OutAt(at - 1), at + 1) is var (door, shorter) && shorter < -Gain)
        {
            Choose(line, door);
            LookAround(at - 1, at + 1);
            return shorter;
        }

        // A move that helps puts some hop that is longer in the place of another (the gain criterion: Lin and Kernighan 1973).
        var longest = Math.Max(Hop(at - 1, at), Hop(at, at + 1));
        foreach (var (other, far) in _near[line])
        {
            if (far >= longest) break;
            var there = _at[other];
            _work += 8;
            // Out to out, and in to in.
            if (Reversed(Math.Min(at, there), Math.Max(at, there)) is < 0 and var outs) return outs;
            if (Reversed(Math.Min(at, there) - 1, Math.Max(at, there) - 1) is < 0 and var ins) return ins;
            for (var length = 1; length <= LongestMove; length++)
                for (var first = at - length + 1; first <= at; first += Math.Max(1, length - 1))
                {
                    var last = first + length - 1;
                    if (first < 0 || last >= _order.Length || (there >= first && there <= last)) continue;
                    if (Moved(first, last, there) is < 0 and var behind) return behind;
                    if (Moved(first, last, there - 1) is < 0 and var before) return before;
                }
        }

        return 0;
    }

    /// <summary>The door of a closed line by which the way from a point through it to a position is shortest, and by how much shorter that is.</summary>
    private (int Door, double Change) Door(int line, Point from, int next)
    {
        var doors = _doors[line];
        Point? to = next < _order.Length ? _in[_order[next]] : null;
        double Way(Point p) => from.DistanceTo(p) + (to is { } t ? p.DistanceTo(t) : 0);
        var (best, least) = (0, double.PositiveInfinity);
        for (var d = 0; d < doors.Length; d++)
            if (Way(doors[d]) is var way && way < least) (best, least) = (d, way);
        _work += doors.Length;
        return (best, least - Way(_in[line]));
    }

    /// <summary>Turns round what lies behind one position up to another, where that helps.</summary>
    private double Reversed(int before, int last)
    {
        if (before >= last - 1 || before < -1) return 0;
        var change = OutAt(before).DistanceTo(_out[_order[last]]) + (last + 1 < _order.Length ? _in[_order[before + 1]].DistanceTo(_in[_order[last + 1]]) : 0)
            - Hop(before, before + 1) - Hop(last, last + 1);
        if (change > -Gain) return 0;
        Turn(before + 1, last);
        LookAround(before, before + 1, last, last + 1);
        return change;
    }

    /// <summary>Moves some lines behind a position, where that helps; turned round where that is better, a closed one by its best door.</summary>
    private double Moved(int first, int last, int behind)
    {
        if (behind >= first - 1 && behind <= last) return 0;
        var (a, b, next) = (_order[first], _order[last], behind + 1);
        var without = Hop(first - 1, last + 1) - Hop(first - 1, first) - Hop(last, last + 1) - Hop(behind, next);
        Point from = OutAt(behind);
        double To(Point p) => next < _order.Length ? p.DistanceTo(_in[_order[next]]) : 0;
        var straight = without + from.DistanceTo(_in[a]) + To(_out[b]);
        var turned = without + from.DistanceTo(_out[b]) + To(_in[a]);
        var door = -1;
        if (first == last && _closed[a] && straight > -Gain && Door(a, from, next) is var (other, shorter))
            (straight, door) = (straight + shorter, other);
        var change = Math.Min(straight, turned);
        if (change > -Gain) return 0;
        var length = last - first + 1;
        int start;
        if (behind > last)
        {
            Turn(first, behind);
            start = behind - length + 1;
            Turn(first, start - 1);
        }
        else
        {
            start = next;
            Turn(start, last);
            Turn(start + length, last);
        }

        if (straight <= turned) Turn(start, start + length - 1);
        if (door >= 0) Choose(a, door);
        var left = behind > last ? first - 1 : last;
        LookAround(start - 1, start, start + length - 1, start + length, left, left + 1);
        return change;
    }

    private void LookAround(params ReadOnlySpan<int> positions)
    {
        foreach (var p in positions)
            if (p >= 0 && p < _order.Length) Look(_order[p]);
    }

    /// <summary>Walks some positions the other way round, each line of them too.</summary>
    private void Turn(int left, int right)
    {
        if (left > right) return;
        _done.Add((left, right, -1, 0));
        Flip(left, right);
    }

    private void Flip(int left, int right)
    {
        _work += right - left + 1;
        for (; left <= right; left++, right--)
        {
            var (a, b) = (_order[left], _order[right]);
            (_order[left], _at[b], _order[right], _at[a]) = (b, left, a, right);
            Reverse(a);
            if (a != b) Reverse(b);
        }

        void Reverse(int line)
        {
            if (!_closed[line]) Enter(line, 1 - _door[line]);
        }
    }

    private void Choose(int line, int door)
    {
        _done.Add((0, 0, line, _door[line]));
        Enter(line, door);
    }

    /// <summary>Takes back all since the list of what was done was cleared.</summary>
    private void Undo()
    {
        for (var i = _done.Count - 1; i >= 0; i--)
        {
            var (left, right, line, door) = _done[i];
            if (line >= 0) Enter(line, door);
            else Flip(left, right);
        }
    }

    /// <summary>The best doors for the order as it is: the shortest way through layers, one for each line.</summary>
    private void ChooseDoors()
    {
        var ways = new (double Way, int From)[_order.Length][];
        for (var p = 0; p < _order.Length; p++)
        {
            var line = _order[p];
            var before = p == 0 ? null : ways[p - 1];
            ways[p] = new (double, int)[_doors[line].Length];
            for (var d = 0; d < ways[p].Length; d++)
            {
                ways[p][d] = before is null ? (_from.DistanceTo(_doors[line][d]), 0) : (double.PositiveInfinity, 0);
                for (var e = 0; e < (before?.Length ?? 0); e++)
                {
                    var way = before![e].Way + Left(_order[p - 1], e).DistanceTo(_doors[line][d]);
                    if (way < ways[p][d].Way) ways[p][d] = (way, e);
                }
            }
        }

        var door = Array.IndexOf(ways[^1], ways[^1].MinBy(w => w.Way));
        for (var p = _order.Length - 1; p >= 0; p--)
        {
            Enter(_order[p], door);
            door = ways[p][door].From;
        }

        Point Left(int line, int by) => _doors[line][_closed[line] ? by : 1 - by];
    }
}
