using Falzkunst.Core.Cards;

namespace Falzkunst.Core.Layout;

/// <summary>
/// Lays pieces with straight edges corner into corner: the free corner that lies nearest to where the sheet begins is filled by a piece with one of its own
/// corners, an edge along an edge; what lies snug is followed up, many half-filled sheets at a time (beam search: Bennell and Song 2010; snug by the part of
/// the outline that touches: Lodi, Martello and Vigo 1999). What belongs together, like the parts that a sheet was cut into, is found that way, where a search
/// that pushes shapes about has no chance: there is one way to lay them, and it can't be felt from afar.
/// Guarantee: what it gives lacks at most a few hundredths of a millimetre of the gap, so it has to be parted by the search. Not every layout can be reached:
/// each piece has to touch a corner made by those before it. Ends by counted work.
/// </summary>
internal sealed class CornerFill
{
    /// <summary>Shapes with more edges have no corners that another would fill.</summary>
    private const int MostEdges = 24;

    /// <summary>More pieces than these are not tried.</summary>
    private const int MostPieces = 120;

    /// <summary>Half-filled sheets that are followed up at once: few first.</summary>
    private static readonly int[] Widths = [4, 24, 120, 600, 3000];

    /// <summary>Where corners are looked for first.</summary>
    private static readonly Point[] Orders = [new(1, 1), new(0.15, 1)];

    /// <summary>What touches, lies not farther apart than this; in mm.</summary>
    private const double Near = 0.06;

    /// <summary>Edges within this run along each other; in radians.</summary>
    private const double Along = 0.002;

    /// <summary>What it counts when a piece fills a corner: to the last digit, as parts of one sheet do; as near as files with hundredths of a millimetre
    /// are; or about.</summary>
    private static readonly (double Off, double Counts)[] Filled = [(1e-4, 0.5), (6e-4, 0.45), (Along, 0.35), (double.PositiveInfinity, 0)];

    /// <summary>What lies corner in corner may overlap by, in mm: it has to be parted at the end.</summary>
    private const double Hair = 0.02;

    /// <summary>What the size of a piece counts, beside how snug it lies.</summary>
    private const double LargeCounts = 0.1;

    /// <summary>What it costs to leave a corner free that something would fill.</summary>
    private const double SkipCosts = 0.1;

    /// <summary>Free corners that are narrower take nothing; in radians.</summary>
    private const double Narrow = 0.05;

    private readonly NestRequest _request;
    private readonly Form[] _forms;
    private readonly Bay[] _bays;
    private readonly double _largest;

    private CornerFill(NestRequest request, Form[] forms, Bay[] bays)
    {
        (_request, _forms, _bays) = (request, forms, bays);
        _largest = forms.Max(f => f.Shape.AreaMm2);
    }

    /// <summary>A shape, and what is known of its corners and turns.</summary>
    private sealed record Form(Footprint Shape, Footprint Body, NestPiece Piece)
    {
        /// <summary>In the turns that it may have; empty where it may have any.</summary>
        public Outline[] Turns { get; } = [.. Piece.Angles.SelectMany(a => Piece.Faces.Select(f => new Outline(Shape.In(a, f), Body.In(a, f))))];

        public bool TurnsFreely => Piece.Turns == Cards.Turns.Any;

        public Outline In(double degrees, bool flipped) => new(Shape.In(degrees, flipped), Body.In(degrees, flipped));
    }

    /// <summary>Where a shape lies.</summary>
    private sealed record Laid(int Piece, Outline Outline, double X, double Y)
    {
        public Box Box { get; } = Outline.Turned.Bounds.Moved(X, Y);

        public Point Corner(int i) => new(Outline.X[i] + X, Outline.Y[i] + Y);
    }

    /// <summary>A free corner: what is free begins in a direction and takes an angle from there, in radians.</summary>
    private readonly record struct Corner(Point At, double From, double Wide);

    /// <summary>A sheet that is filled in part, and the sheets before it.</summary>
    /// <param name="Dead">Corners that stay free.</param>
    /// <param name="Left">How many of each piece.</param>
    private sealed record State(State? Before, int Bay, ImmutableArray<Laid> On, ImmutableArray<Corner> Corners, ImmutableArray<Corner> Dead,
        ImmutableArray<int> Left, double Snug);

    /// <summary>Lays all pieces on sheets of these kinds; null where it finds no way, or where pieces are not of a form that it is for.</summary>
    /// <param name="kinds">The sheets, by their number in the request.</param>
    /// <param name="most">Counted work for each of two threads, as of the search.</param>
    /// <param name="work">What was counted by the busier of them.</param>
    public static NestResult? On(NestRequest request, IReadOnlyList<NestPiece> pieces, IReadOnlyList<int> kinds, long most, out long work,
        CancellationToken cancel)
    {
        work = 0;
        if (pieces.Sum(p => p.Count) > MostPieces || pieces.Count == 0 || kinds.Count == 0) return null;
        if (pieces.Any(p => p.Path.Subpaths.Any(s => s.Segments.Length > MostEdges || s.Segments.Any(g => g.IsCurve)))) return null;
        var forms = new Form[pieces.Count];
        for (var i = 0; i < forms.Length; i++)
        {
            var piece = pieces[i];
            var shape = Footprint.Sharp(piece.Path, request.Gap);
            if (shape.IsEmpty || shape.In(0).EdgeCount > MostEdges || shape.In(0).RingCount > 1) return null;
            forms[i] = new(shape, Footprint.Sharp(piece.Path, request.Gap, Hair), piece);
        }

        var needed = forms.Zip(pieces, (f, p) => f.Shape.AreaMm2 * p.Count).Sum();
        if (needed > kinds.Sum(k => request.Sheets[k].RoomFor(request.Gap)) * NestSearch.MostFull) return null;
        // Sheets of one kind are mostly many.
        var bays = kinds.Distinct().ToDictionary(k => k, k => Bay.Of(request.Sheets[k], request.Gap));
        if (bays.Values.Any(b => b.Obstacles.Any(o => o.Turned.RingCount > 1))) return null;
        var fill = new CornerFill(request, forms, [.. kinds.Select(k => bays[k])]);
        foreach (var width in Widths)
        {
            var (found, spent, share) = (new State?[Orders.Length], new long[Orders.Length], most - work);
            Parallel.For(0, Orders.Length, k => found[k] = new Beam(fill, Orders[k], width, share, cancel).Go(out spent[k]));
            work += spent.Max();
            if (found.FirstOrDefault(f => f is not null) is { } whole) return fill.ResultOf(whole, kinds);
            if (work >= most || cancel.IsCancellationRequested) break;
        }

        return null;
    }

    private NestResult ResultOf(State whole, IReadOnlyList<int> kinds)
    {
        var placements = ImmutableArray.CreateBuilder<Placement>();
        var copies = new int[_forms.Length];
        var states = new List<State>();
        for (var s = whole; s is not null; s = s.Before) states.Insert(0, s);
        foreach (var state in states)
        {
            foreach (var laid in state.On.Where(l => l.Piece >= 0))
            {
                placements.Add(Placement.Of(_forms[laid.Piece].Piece.Id, ++copies[laid.Piece], state.Bay, _request.Sheets[kinds[state.Bay]].Id,
                    laid.Outline.Turned, new(laid.X, laid.Y)));
            }
        }

        return NestResult.Of(_request, placements.ToImmutable(), [], [.. kinds.Take(whole.Bay + 1).Select(k => _request.Sheets[k].Id)]);
    }

    /// <summary>The corners of a shape in one turn, so that its inside lies to the left of each edge as it goes from corner to corner.</summary>
    private sealed class Outline
    {
        public Outline(Turned turned, Turned body)
        {
            (Turned, Body) = (turned, body);
            var n = turned.EdgeCount;
            double area = 0;
            for (var i = 0; i < n; i++) area += turned.Start(i).Cross(turned.End(i));
            (X, Y, Out, Inside, Length) = (new double[n], new double[n], new double[n], new double[n], new double[n]);
            for (var i = 0; i < n; i++)
            {
                var p = area > 0 ? turned.Start(i) : turned.End(n - 1 - i);
                (X[i], Y[i]) = (p.X, p.Y);
            }

            for (var i = 0; i < n; i++)
            {
                var j = (i + 1) % n;
                Out[i] = Math.Atan2(Y[j] - Y[i], X[j] - X[i]);
                Length[i] = Math.Sqrt((X[j] - X[i]) * (X[j] - X[i]) + (Y[j] - Y[i]) * (Y[j] - Y[i]));
                Around += Length[i];
            }

            for (var i = 0; i < n; i++) Inside[i] = Positive(Out[(i + n - 1) % n] + Math.PI - Out[i]);
        }

        public Turned Turned { get; }

        /// <summary>A hair smaller, so that what touches does not overlap.</summary>
        public Turned Body { get; }

        public int Count => X.Length;

        public double[] X { get; }

        public double[] Y { get; }

        /// <summary>The direction of the edge that begins at a corner.</summary>
        public double[] Out { get; }

        /// <summary>The angle within a corner.</summary>
        public double[] Inside { get; }

        public double[] Length { get; }

        public double Around { get; }
    }

    private static double Positive(double angle) => angle < 0 ? angle + 2 * Math.PI : angle >= 2 * Math.PI ? angle - 2 * Math.PI : angle;

    /// <summary>How far two directions are apart.</summary>
    private static double Between(double a, double b) => Math.Abs(Math.IEEERemainder(a - b, 2 * Math.PI));

    /// <summary>One search, in one order of the corners, with one number of half-filled sheets at a time.</summary>
    private sealed class Beam(CornerFill fill, Point order, int width, long most, CancellationToken cancel)
    {
        private readonly List<(double From, double To)> _taken = [];
        private long _work;

        private bool IsOver => _work > most || cancel.IsCancellationRequested;

        public State? Go(out long work)
        {
            var beam = new List<State> { Opened(null, 0, [.. fill._forms.Select(f => f.Piece.Count)], 0) };
            // One piece more each time.
            var left = fill._forms.Sum(f => f.Piece.Count);
            for (; left > 0 && beam.Count > 0 && !IsOver; left--)
            {
                var next = new List<(State Without, Laid Laid, double Snug)>();
                foreach (var state in beam)
                {
                    Follow(state, next);
                    if (IsOver) break;
                }

                beam = [.. next.OrderByDescending(s => s.Snug).Take(width).TakeWhile(_ => !IsOver).Select(s => With(s.Without, s.Laid, s.Snug))];
            }

            work = _work;
            return left == 0 ? beam.FirstOrDefault() : null;
        }

        private State Opened(State? before, int bay, ImmutableArray<int> left, double snug)
        {
            var on = fill._bays[bay].Obstacles.Select(o => new Laid(-1, new(o.Turned, o.Turned), o.X, o.Y)).ToImmutableArray();
            var state = new State(before, bay, on, [], [], left, snug);
            var room = fill._bays[bay].Room;
            return state with { Corners = Corners(state, new(room.Left - 1e3, room.Top - 1e3, room.Right + 1e3, room.Bottom + 1e3)) };
        }

        /// <summary>What can be laid next, each a state more.</summary>
        private void Follow(State state, List<(State Without, Laid Laid, double Snug)> into)
        {
            while (true)
            {
                if (state.Corners.IsEmpty)
                {
                    if (state.Bay + 1 >= fill._bays.Length) return;
                    state = Opened(state, state.Bay + 1, state.Left, state.Snug);
                    if (state.Corners.IsEmpty) return;
                }

                var first = 0;
                for (var i = 1; i < state.Corners.Length; i++)
                    if (state.Corners[i].At.Dot(order) < state.Corners[first].At.Dot(order)) first = i;
                var corner = state.Corners[first];
                var fits = Fits(state, corner);
                var without = state with { Corners = state.Corners.RemoveAt(first), Dead = state.Dead.Add(corner) };
                foreach (var (laid, snug) in fits)
                    into.Add((without, laid, state.Snug + snug + LargeCounts * Math.Sqrt(laid.Outline.Turned.Shape.AreaMm2 / fill._largest)));
                // A corner that nothing fills well may stay free.
                if (fits.Count > 0 && fits.Max(f => f.Snug) > 0.75) return;
                state = fits.Count == 0 ? without : without with { Snug = state.Snug - SkipCosts };
                if (IsOver) return;
            }
        }

        private State With(State state, Laid laid, double snug)
        {
            var left = state.Left.SetItem(laid.Piece, state.Left[laid.Piece] - 1);
            var next = state with { On = state.On.Add(laid), Left = left, Snug = snug };
            var near = laid.Box.Grown(2 * Near);
            return next with { Corners = [.. state.Corners.Where(c => !near.Holds(c.At)), .. Corners(next, near)] };
        }

        /// <summary>Whatever lies in a free corner, and how snug: the part of its outline that touches, and whether it fills the corner.</summary>
        private List<(Laid Laid, double Snug)> Fits(State state, Corner corner)
        {
            var fits = new List<(Laid Laid, double Snug)>();
            for (var p = 0; p < fill._forms.Length; p++)
            {
                if (state.Left[p] == 0) continue;
                var form = fill._forms[p];
                foreach (var outline in form.TurnsFreely ? Freely(form, corner) : form.Turns)
                {
                    for (var v = 0; v < outline.Count; v++)
                    {
                        if (outline.Inside[v] > corner.Wide + Along) continue;
                        var off = Math.Abs(outline.Inside[v] - corner.Wide);
                        var slack = Positive(outline.Out[v] - corner.From + Along) - Along;
                        if (slack > corner.Wide - outline.Inside[v] + Along) continue;
                        // With an edge along one of the two sides, if it can.
                        if (form.TurnsFreely && slack > Along && slack < corner.Wide - outline.Inside[v] - Along) continue;
                        double x = corner.At.X - outline.X[v], y = corner.At.Y - outline.Y[v];
                        if (fits.Exists(f => f.Laid.Piece == p && f.Laid.Outline.Turned.Flipped == outline.Turned.Flipped && Math.Abs(f.Laid.X - x) < 0.01
                            && Math.Abs(f.Laid.Y - y) < 0.01 && Between(f.Laid.Outline.Out[0], outline.Out[0]) < Along)) continue;
                        var laid = new Laid(p, outline, x, y);
                        if (!IsFree(state, laid)) continue;
                        fits.Add((laid, Filled.First(f => off < f.Off).Counts + 0.5 * Touching(state, laid)));
                    }
                }
            }

            return fits;
        }

        /// <summary>A shape that may have any turn, with each of its corners along either side of a free corner.</summary>
        private IEnumerable<Outline> Freely(Form form, Corner corner)
        {
            foreach (var flipped in form.Piece.Faces)
            {
                var upright = form.In(0, flipped);
                for (var v = 0; v < upright.Count; v++)
                {
                    if (upright.Inside[v] > corner.Wide + Along) continue;
                    for (var side = 0; side < 2; side++)
                    {
                        var to = side == 0 ? corner.From : corner.From + corner.Wide - upright.Inside[v];
                        var by = (to - upright.Out[v]) * 180 / Math.PI;
                        var straight = Math.Round(by / 90) * 90;
                        if (Math.Abs(by - straight) < 1e-3) by = straight;
                        _work += 40;
                        yield return form.In((by + 720) % 360, flipped);
                        if (Math.Abs(upright.Inside[v] - corner.Wide) < Along) break;
                    }
                }
            }
        }

        private bool IsFree(State state, Laid laid)
        {
            var (room, e) = (fill._bays[state.Bay].Room, fill._forms[laid.Piece].Shape.Edge + 1e-4);
            if (!room.Grown(e).Holds(laid.Box)) return false;
            _work += 1 + state.On.Length / 8;
            foreach (var other in state.On)
            {
                if (!other.Box.Touches(laid.Box)) continue;
                if (laid.Outline.Body.Overlap(other.Outline.Body, laid.X - other.X, laid.Y - other.Y, ref _work) > 0) return false;
            }

            return true;
        }

        /// <summary>The part of an outline that lies along others, or along the sides of the sheet; 0 to 1.</summary>
        private double Touching(State state, Laid laid)
        {
            double sum = 0;
            var (room, e) = (fill._bays[state.Bay].Room, fill._forms[laid.Piece].Shape.Edge);
            var reach = laid.Box.Grown(Near);
            for (var i = 0; i < laid.Outline.Count; i++)
            {
                Point a = laid.Corner(i), b = laid.Corner((i + 1) % laid.Outline.Count);
                if ((a.X < room.Left - e + Near && b.X < room.Left - e + Near) || (a.X > room.Right + e - Near && b.X > room.Right + e - Near)
                    || (a.Y < room.Top - e + Near && b.Y < room.Top - e + Near) || (a.Y > room.Bottom + e - Near && b.Y > room.Bottom + e - Near))
                    sum += laid.Outline.Length[i];
            }

            foreach (var other in state.On)
            {
                if (!other.Box.Touches(reach)) continue;
                for (var i = 0; i < laid.Outline.Count; i++)
                {
                    var (sin, cos) = Math.SinCos(laid.Outline.Out[i]);
                    var a = laid.Corner(i);
                    for (var j = 0; j < other.Outline.Count; j++)
                    {
                        _work++;
                        if (Between(laid.Outline.Out[i] + Math.PI, other.Outline.Out[j]) > 2 * Along) continue;
                        Point c = other.Corner(j) - a, d = other.Corner((j + 1) % other.Outline.Count) - a;
                        if (Math.Abs(c.Y * cos - c.X * sin) > Near || Math.Abs(d.Y * cos - d.X * sin) > Near + other.Outline.Length[j] * Along) continue;
                        // It runs the other way about.
                        sum += Math.Max(0, Math.Min(laid.Outline.Length[i], c.X * cos + c.Y * sin) - Math.Max(0, d.X * cos + d.Y * sin));
                    }
                }
            }

            return Math.Min(1, sum / laid.Outline.Around);
        }

        /// <summary>The free corners in a part of the sheet.</summary>
        private ImmutableArray<Corner> Corners(State state, Box near)
        {
            var corners = ImmutableArray.CreateBuilder<Corner>();
            var (room, e) = (fill._bays[state.Bay].Room, fill._forms[0].Shape.Edge);
            var whole = room.Grown(e);
            foreach (var x in new[] { whole.Left, whole.Right })
                foreach (var y in new[] { whole.Top, whole.Bottom })
                    if (near.Holds(new Point(x, y))) Look(new(x, y));
            foreach (var laid in state.On)
            {
                if (!laid.Box.Touches(near)) continue;
                for (var i = 0; i < laid.Outline.Count; i++)
                    if (laid.Corner(i) is var at && near.Holds(at) && whole.Grown(Near).Holds(at)) Look(at);
            }

            return corners.ToImmutable();

            void Look(Point at)
            {
                _taken.Clear();
                // The sides of the sheet, as far as it lies on them.
                if (at.X < whole.Left + Near) _taken.Add((Math.PI / 2, 3 * Math.PI / 2));
                if (at.X > whole.Right - Near) _taken.Add((-Math.PI / 2, Math.PI / 2));
                if (at.Y < whole.Top + Near) _taken.Add((Math.PI, 2 * Math.PI));
                if (at.Y > whole.Bottom - Near) _taken.Add((0, Math.PI));
                var box = new Box(at.X, at.Y, at.X, at.Y).Grown(Near);
                foreach (var laid in state.On)
                {
                    if (!laid.Box.Touches(box)) continue;
                    _work += laid.Outline.Count;
                    if (Taken(laid, at) is { } angles) _taken.Add(angles);
                }

                for (var k = 0; k < _taken.Count; k++) _taken[k] = (Positive(_taken[k].From), Positive(_taken[k].From) + _taken[k].To - _taken[k].From);
                _taken.Sort();
                if (_taken.Count == 0) return;
                // Around once, from where the first begins.
                var (begin, to) = (_taken[0].From, _taken[0].To);
                for (var k = 1; k <= _taken.Count; k++)
                {
                    var from = k < _taken.Count ? _taken[k].From : begin + 2 * Math.PI;
                    var wide = from - to;
                    if (wide > Narrow && wide < Math.PI - 0.01)
                    {
                        var corner = new Corner(at, Math.IEEERemainder(to, 2 * Math.PI), wide);
                        if (!Knows(corners, corner) && !Knows(state.Dead, corner)) corners.Add(corner);
                    }

                    if (k < _taken.Count) to = Math.Max(to, _taken[k].To);
                }
            }
        }

        private static bool Knows(IReadOnlyList<Corner> corners, Corner corner)
        {
            for (var i = 0; i < corners.Count; i++)
            {
                var c = corners[i];
                if (c.At.DistanceTo(corner.At) < 2 * Near && Between(c.From, corner.From) < 2 * Along && c.Wide < corner.Wide + 2 * Along) return true;
            }

            return false;
        }

        /// <summary>The directions from a point in which a shape lies; null where it does not touch the point.</summary>
        private static (double From, double To)? Taken(Laid laid, Point at)
        {
            var outline = laid.Outline;
            for (var i = 0; i < outline.Count; i++)
                if (laid.Corner(i).DistanceTo(at) < Near) return (outline.Out[i], outline.Out[i] + outline.Inside[i]);
            for (var i = 0; i < outline.Count; i++)
                if (at.DistanceToSegment(laid.Corner(i), laid.Corner((i + 1) % outline.Count)) < Near) return (outline.Out[i], outline.Out[i] + Math.PI);
            return null;
        }
    }
}
