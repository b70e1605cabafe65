using Falzkunst.Core.Layout;
using Falzkunst.Core.Cards;
using Falzkunst.Core.Pictures;
using Falzkunst.Core.Tracing;

namespace Falzkunst.Core.Printing;

/// <summary>One way in which the marks of a sheet may lie in what was seen.</summary>
/// <param name="Map">About where the sheet lies.</param>
/// <param name="Turn">How far it is turned, clockwise, in degrees from -180 to 180.</param>
/// <param name="Seen">How many of the marks were seen as connected ink of their shape; where the others are, the map says.</param>
internal sealed record Constellation(Projective Map, double Turn, int Seen, double Misfit);

/// <summary>
/// Looks for the marks of a sheet: connected ink of about the right area, compared with each mark's own shape in all directions by the overlap of both
/// (intersection over union), then pairs of them that are as far apart as two marks, then the others where these say that they are.
/// </summary>
internal sealed class MarkSearch(SheetMarks marks, SeenBy by)
{
    /// <summary>Pictures are reduced to about this many pixels in a mm: a line of a mark is six of them.</summary>
    private const double Coarse = 6;

    /// <summary>The light around is taken from squares of this size, in mm, and those beside them.</summary>
    private const double Square = 2;

    /// <summary>Ink is darker than the lightest around by at least this, of 255.</summary>
    private const int LeastContrast = 35;

    /// <summary>How much of both shapes has to overlap, and where a mark is only looked at where it has to be.</summary>
    private const double LeastLike = 0.55, LeastThere = 0.78;

    /// <summary>More candidates than this are a pattern; the likest are kept.</summary>
    private const int MostCandidates = 160;

    private readonly ImmutableArray<Mark> _all = marks.All;
    private readonly Stencil[] _shapes = [.. marks.All.Select(m => new Stencil(m, marks.Kind))];
    private readonly List<Candidate> _candidates = [];
    private (Mark Mark, bool IsOutside)? _missing;

    /// <summary>How much what was seen may be larger or smaller than planned; and how far off from where two marks say it is, of their distance.</summary>
    private double SizeRoom => by == SeenBy.Camera ? 0.22 : 0.035;

    private double PlaceRoom => by == SeenBy.Camera ? 0.14 : 0.02;

    private double TurnRoom => by == SeenBy.Camera ? 18 : 9;

    /// <summary>How many things that look like marks were seen.</summary>
    public int Seen => _candidates.Count;

    /// <summary>What is said where nothing fits.</summary>
    public string Nothing() => Seen == 0
        ? "No marks are seen in the picture; look whether it is the printed side of a sheet with marks, and the whole of it."
        : _missing is var (mark, isOutside) ? isOutside ? MarkReader.CutOff(mark) : MarkReader.Smudged(mark)
        : Seen < _all.Length - 1 ? "Some marks are missing or smudged, or outside the picture; look at the sheet, and print it again if need be."
        : "There is something like marks, but not where this sheet has them; it is another sheet, or was printed at another size.";

    /// <summary>The ways in which the marks may lie, the best first: those in which all were seen, and otherwise those that lack one.</summary>
    public IReadOnlyList<Constellation> Constellations(IReadOnlyList<Glimpse> glimpses, CancellationToken cancel)
    {
        var views = glimpses.Select(g => new View(g)).ToList();
        foreach (var view in views) Look(view, cancel);
        if (_candidates.Count > MostCandidates)
        {
            var likest = _candidates.OrderByDescending(c => c.Like).Take(MostCandidates).ToList();
            _candidates.Clear();
            _candidates.AddRange(likest);
        }

        var found = new List<Constellation>();
        var apart = Enumerable.Range(0, _all.Length).SelectMany(a => Enumerable.Range(a + 1, _all.Length - a - 1).Select(b => (A: a, B: b))).ToList();
        var longest = apart.Max(p => _all[p.A].At.DistanceTo(_all[p.B].At));
        foreach (var (a, b) in apart.Where(p => _all[p.A].At.DistanceTo(_all[p.B].At) > longest / 2))
        {
            cancel.ThrowIfCancellationRequested();
            foreach (var first in _candidates.Where(c => c.IsLike(_shapes[a])))
            {
                foreach (var second in _candidates.Where(c => c != first && c.IsLike(_shapes[b])))
                    if (Completed(views, a, first, b, second) is { } way) found.Add(way);
            }
        }

        var most = found.Count == 0 ? 0 : found.Max(f => f.Seen);
        var best = new List<Constellation>();
        foreach (var way in found.Where(f => f.Seen == most).OrderBy(f => f.Misfit))
        {
            if (best.Count == 6) break;
            if (best.TrueForAll(o => _all.Max(m => o.Map.Apply(m.At).DistanceTo(way.Map.Apply(m.At))) > 1)) best.Add(way);
        }

        return best;
    }

    /// <summary>Where two candidates are two of the marks: the others beside them, and the map that all of them make. Null where they don't make a
    /// sheet.</summary>
    private Constellation? Completed(List<View> views, int a, Candidate first, int b, Candidate second)
    {
        Point planned = _all[b].At - _all[a].At, seen = second.At - first.At;
        var scale = seen.Norm / planned.Norm;
        if (Math.Abs(scale - 1) > SizeRoom) return null;
        var turn = Math.Atan2(planned.Cross(seen), planned.Dot(seen)) * 180 / Math.PI;
        if (!first.IsTurned(_shapes[a], turn, TurnRoom) || !second.IsTurned(_shapes[b], turn, TurnRoom)) return null;
        var similar = Affine.Move(-_all[a].At.X, -_all[a].At.Y).Then(Affine.Scale(scale, scale)).Then(Affine.Turn(Angle.FromDegrees(turn)))
            .Then(Affine.Move(first.At.X, first.At.Y));
        var at = new Point?[_all.Length];
        (at[a], at[b]) = (first.At, second.At);
        double misfit = 0;
        for (var k = 0; k < _all.Length; k++)
        {
            if (at[k] is not null) continue;
            var expected = similar.Apply(_all[k].At);
            var room = PlaceRoom * Math.Max(_all[k].At.DistanceTo(_all[a].At), _all[k].At.DistanceTo(_all[b].At)) + 0.5;
            var third = _candidates.Where(c => c != first && c != second && c.IsLike(_shapes[k]) && c.IsTurned(_shapes[k], turn, TurnRoom)
                && c.At.DistanceTo(expected) < room).MinBy(c => c.At.DistanceTo(expected));
            if (third is null) continue;
            at[k] = third.At;
            misfit += third.At.DistanceTo(expected);
        }

        var there = at.Count(p => p is not null);
        if (there < _all.Length - 1 || (there < _all.Length && by == SeenBy.Camera)) return null;
        var lacking = Array.FindIndex(at, p => p is null);
        if (lacking >= 0)
        {
            var expected = (there >= 3 ? Fitted(at).Near(_all[lacking].At) : similar).Apply(_all[lacking].At);
            var room = there >= 3 ? 1.5 : 1.5 + 0.015 * planned.Norm;
            if (_shapes[lacking].Best(views, expected, turn, scale, room) is not { } place)
            {
                _missing ??= (_all[lacking], !views.Exists(v => v.Sees(expected)));
                return null;
            }

            at[lacking] = place;
        }

        return new(Fitted(at), turn, there, misfit);
    }

    /// <summary>The map through the points of marks: affine for three, and with least squares for more; projective for what a camera sees of four.</summary>
    private Projective Fitted(Point?[] at)
    {
        var points = new List<EdgePoint>();
        for (var k = 0; k < _all.Length; k++)
        {
            if (at[k] is not { } p) continue;
            points.Add(new(k, _all[k].At, new(1, 0), p, new(1, 0)));
            points.Add(new(k, _all[k].At, new(0, 1), p, new(0, 1)));
        }

        var start = Points(points, false, Projective.Of(Affine.Identity));
        return by == SeenBy.Camera && points.Count >= 8 ? Points(points, true, start) : start;
    }

    private Projective Points(List<EdgePoint> points, bool isProjective, Projective start) => new MapFit(marks, isProjective)
    {
        HasSpread = false,
        IsRobust = false
    }
        .To(points, start);

    /// <summary>Finds what looks like a mark in a picture.</summary>
    private void Look(View view, CancellationToken cancel)
    {
        var shapes = _shapes.DistinctBy(s => s.Kind).ToList();
        var areas = new Areas(view.Ink, view.Width, view.Height);
        foreach (var runs in areas.Runs.Select((r, i) => (Run: r, Area: areas.Of(i))).Where(t => t.Run.Label > 0).GroupBy(t => t.Area, t => t.Run))
        {
            cancel.ThrowIfCancellationRequested();
            var seen = new Blob(runs, view);
            foreach (var shape in shapes)
                if (shape.Like(view, seen, by) is { } candidate && candidate.Like > LeastLike) _candidates.Add(candidate);
        }
    }

    /// <summary>Something that looks like a mark.</summary>
    /// <param name="Turn">How it is turned, in degrees; of its shape as at the upper left.</param>
    private sealed record Candidate(int Kind, Point At, double Turn, double Like)
    {
        public bool IsLike(Stencil shape) => shape.Kind == Kind;

        /// <summary>Whether it is turned as a mark is on a sheet that is turned so.</summary>
        public bool IsTurned(Stencil shape, double turn, double room)
        {
            if (shape.Symmetry == 0) return true;
            var off = Math.IEEERemainder(Turn - shape.Quarter - turn, shape.Symmetry);
            return Math.Abs(off) < room;
        }
    }

    /// <summary>A reduced picture, and where it has ink.</summary>
    private sealed class View
    {
        private readonly Glimpse _of;
        private readonly double _pxPerMm;

        /// <summary>Whether a place lies in the picture.</summary>
        public bool Sees(Point at) => _of.Bounds.Holds(at);

        public View(Glimpse of)
        {
            _of = of;
            var times = Math.Max(1, (int)Math.Round(of.PxPerMm / Coarse));
            var small = of.Picture.Reduced(times);
            (Width, Height, _pxPerMm) = (small.Width, small.Height, of.PxPerMm / times);
            Ink = Thresholded(Blurred(small), Math.Max(3, (int)Math.Round(Square * _pxPerMm)));
        }

        public int Width { get; }

        public int Height { get; }

        public byte[] Ink { get; }

        public double PxPerMm => _pxPerMm;

        public Point ToMm(double x, double y) => new(_of.At.X + x / _pxPerMm, _of.At.Y + y / _pxPerMm);

        public (double X, double Y) ToPx(Point p) => ((p.X - _of.At.X) * _pxPerMm, (p.Y - _of.At.Y) * _pxPerMm);

        /// <summary>Whether there is ink at a place; null outside the picture.</summary>
        public bool? IsInk(Point p)
        {
            var (x, y) = ToPx(p);
            return x < 0 || y < 0 || x >= Width || y >= Height ? null : Ink[(int)y * Width + (int)x] > 0;
        }

        /// <summary>The mean of each pixel and the eight around it.</summary>
        private static byte[] Blurred(GreyPicture p)
        {
            var to = new byte[p.Light.Length];
            Parallel.For(0, p.Height, y =>
            {
                int above = Math.Max(0, y - 1) * p.Width, here = y * p.Width, below = Math.Min(p.Height - 1, y + 1) * p.Width;
                for (var x = 0; x < p.Width; x++)
                {
                    int left = Math.Max(0, x - 1), right = Math.Min(p.Width - 1, x + 1);
                    to[here + x] = (byte)((p.Light[above + left] + p.Light[above + x] + p.Light[above + right] + p.Light[here + left] + p.Light[here + x]
                        + p.Light[here + right] + p.Light[below + left] + p.Light[below + x] + p.Light[below + right]) / 9);
                }
            });
            return to;
        }

        /// <summary>1 where it is darker than halfway between the lightest and the darkest around, 0 elsewhere.</summary>
        private byte[] Thresholded(byte[] light, int square)
        {
            int columns = (Width + square - 1) / square, rows = (Height + square - 1) / square;
            byte[] least = new byte[columns * rows], most = new byte[columns * rows];
            Parallel.For(0, rows, r =>
            {
                for (var c = 0; c < columns; c++)
                {
                    byte low = 255, high = 0;
                    for (var y = r * square; y < Math.Min(Height, (r + 1) * square); y++)
                    {
                        foreach (var v in light.AsSpan(y * Width + c * square, Math.Min(square, Width - c * square)))
                        {
                            low = Math.Min(low, v);
                            high = Math.Max(high, v);
                        }
                    }

                    (least[r * columns + c], most[r * columns + c]) = (low, high);
                }
            });
            var ink = new byte[light.Length];
            Parallel.For(0, rows, r =>
            {
                for (var c = 0; c < columns; c++)
                {
                    int low = 255, high = 0;
                    for (var y = Math.Max(0, r - 2); y <= Math.Min(rows - 1, r + 2); y++)
                    {
                        for (var x = Math.Max(0, c - 2); x <= Math.Min(columns - 1, c + 2); x++)
                        {
                            low = Math.Min(low, least[y * columns + x]);
                            high = Math.Max(high, most[y * columns + x]);
                        }
                    }

                    if (high - low < LeastContrast) continue;
                    var middle = (high + low) / 2;
                    for (var y = r * square; y < Math.Min(Height, (r + 1) * square); y++)
                    {
                        for (var i = y * Width + c * square; i < y * Width + Math.Min(Width, (c + 1) * square); i++) ink[i] = light[i] < middle ? (byte)1
                            : (byte)0;
                    }
                }
            });
            return ink;
        }
    }

    /// <summary>Connected ink: its area, middle and box, in pixels.</summary>
    private sealed class Blob
    {
        public Blob(IEnumerable<PixelRun> runs, View view)
        {
            double x = 0, y = 0;
            Left = Top = int.MaxValue;
            foreach (var run in runs)
            {
                var count = run.To - run.From;
                Count += count;
                x += (run.From + run.To) / 2.0 * count;
                y += (run.Row + 0.5) * count;
                (Left, Right) = (Math.Min(Left, run.From), Math.Max(Right, run.To));
                (Top, Bottom) = (Math.Min(Top, run.Row), Math.Max(Bottom, run.Row + 1));
            }

            Middle = view.ToMm(x / Count, y / Count);
            AreaMm2 = Count / (view.PxPerMm * view.PxPerMm);
            AcrossMm = Math.Sqrt(Math.Pow(Right - Left, 2) + Math.Pow(Bottom - Top, 2)) / view.PxPerMm;
        }

        public int Count { get; }

        public int Left { get; }

        public int Top { get; }

        public int Right { get; }

        public int Bottom { get; }

        public Point Middle { get; }

        public double AreaMm2 { get; }

        public double AcrossMm { get; }
    }

    /// <summary>A mark's shape about its reference point, turned as it is at the upper left.</summary>
    private sealed class Stencil
    {
        private const double Cell = 0.1, Around = 2.5;

        private readonly bool[] _ink;
        private readonly int _columns;
        private readonly int _rows;
        private readonly Box _box;
        private readonly Point _middle;
        private readonly double _areaMm2;
        private readonly double _acrossMm;

        public Stencil(Mark mark, MarkKind kind)
        {
            // Brackets are one bracket, turned. Kinds: a bracket, a disc, a full square, an open one.
            Quarter = kind != MarkKind.Brackets ? 0 : mark.Id switch { "upper-right" => 90, "lower-left" => -90, _ => 0 };
            (Kind, Symmetry) = kind switch { MarkKind.Brackets => (0, 360), MarkKind.Dots => (1, 0), _ => (1 + mark.Ink.Subpaths.Length, 90) };
            var ink = mark.Ink.Transform(Affine.Move(-mark.At.X, -mark.At.Y).Then(Affine.Turn(Angle.FromDegrees(-Quarter))));
            _box = ink.Bounds.Grown(Around);
            _columns = (int)Math.Ceiling(_box.Width / Cell);
            _rows = (int)Math.Ceiling(_box.Height / Cell);
            _ink = new bool[_columns * _rows];
            double x = 0, y = 0, count = 0;
            for (var j = 0; j < _rows; j++)
            {
                for (var i = 0; i < _columns; i++)
                {
                    var p = new Point(_box.Left + (i + 0.5) * Cell, _box.Top + (j + 0.5) * Cell);
                    if (!(_ink[j * _columns + i] = ink.Encloses(p))) continue;
                    (x, y, count) = (x + p.X, y + p.Y, count + 1);
                }
            }

            _middle = new(x / count, y / count);
            _areaMm2 = count * Cell * Cell;
            _acrossMm = Math.Sqrt(ink.Bounds.Width * ink.Bounds.Width + ink.Bounds.Height * ink.Bounds.Height);
        }

        /// <summary>Which shape it is; equal ones have one number.</summary>
        public int Kind { get; }

        /// <summary>How its shape is turned on the sheet, in degrees.</summary>
        public double Quarter { get; }

        /// <summary>Turned by so many degrees it is the same again; 0 for a disc.</summary>
        public double Symmetry { get; }

        /// <summary>How this shape would lie where a blob is; null where it can't be it.</summary>
        public Candidate? Like(View view, Blob blob, SeenBy by)
        {
            var grown = blob.AreaMm2 / _areaMm2;
            var (least, most) = by == SeenBy.Camera ? (0.45, 2.0) : (0.6, 1.7);
            if (grown < least || grown > most || blob.AcrossMm > 1.3 * _acrossMm * (by == SeenBy.Camera ? 1.2 : 1)) return null;
            var scale = by == SeenBy.Camera ? Math.Clamp(Math.Sqrt(grown), 0.75, 1.3) : 1;
            double best = 0, turn = 0;
            for (var t = 0.0; t < Math.Max(1, Symmetry); t += 6) Try(t);
            if (Symmetry > 0)
            {
                var about = turn;
                for (var t = about - 4; t <= about + 4; t += 2) Try(t);
            }

            return new(Kind, blob.Middle - Turned(_middle, turn) * scale, turn, best);

            void Try(double t)
            {
                var like = Overlap(view, blob, t, scale);
                if (like > best) (best, turn) = (like, t);
            }
        }

        /// <summary>How much of this shape and of what ink there is around a blob is both, of what is either.</summary>
        private double Overlap(View view, Blob blob, double turn, double scale)
        {
            var (sin, cos) = Math.SinCos(turn * Math.PI / 180);
            int both = 0, either = 0, margin = (int)(1.5 * view.PxPerMm);
            for (var y = Math.Max(0, blob.Top - margin); y < Math.Min(view.Height, blob.Bottom + margin); y++)
            {
                for (var x = Math.Max(0, blob.Left - margin); x < Math.Min(view.Width, blob.Right + margin); x++)
                {
                    var p = (view.ToMm(x + 0.5, y + 0.5) - blob.Middle) * (1 / scale);
                    var planned = Holds(new(_middle.X + cos * p.X + sin * p.Y, _middle.Y - sin * p.X + cos * p.Y));
                    var seen = view.Ink[y * view.Width + x] > 0;
                    if (planned && seen) both++;
                    if (planned || seen) either++;
                }
            }

            return either == 0 ? 0 : (double)both / either;
        }

        /// <summary>Where near a place this mark is: where most of its ink is dark and most around it light. Null where it is nowhere.</summary>
        public Point? Best(List<View> views, Point expected, double turn, double scale, double room)
        {
            double best = 0;
            Point? at = null;
            var step = 1 / views[0].PxPerMm;
            for (var dy = -room; dy <= room; dy += step)
            {
                for (var dx = -room; dx <= room; dx += step)
                {
                    var p = expected + new Point(dx, dy);
                    if (views.Find(v => v.IsInk(p) is not null) is not { } view) continue;
                    var there = There(view, p, turn + Quarter, scale);
                    if (there > best) (best, at) = (there, p);
                }
            }

            return best > LeastThere ? at : null;
        }

        private double There(View view, Point at, double turn, double scale)
        {
            int inked = 0, dark = 0, clear = 0, light = 0;
            for (var j = 0; j < _rows; j += 3)
            {
                for (var i = 0; i < _columns; i += 3)
                {
                    var p = new Point(_box.Left + (i + 0.5) * Cell, _box.Top + (j + 0.5) * Cell);
                    var seen = view.IsInk(at + Turned(p, turn) * scale) ?? false;
                    if (_ink[j * _columns + i])
                    {
                        inked++;
                        if (seen) dark++;
                    }
                    else
                    {
                        clear++;
                        if (!seen) light++;
                    }
                }
            }

            return ((double)dark / inked + (double)light / clear) / 2;
        }

        private bool Holds(Point p)
        {
            int i = (int)Math.Floor((p.X - _box.Left) / Cell), j = (int)Math.Floor((p.Y - _box.Top) / Cell);
            return i >= 0 && j >= 0 && i < _columns && j < _rows && _ink[j * _columns + i];
        }

        private static Point Turned(Point p, double degrees)
        {
            var (sin, cos) = Math.SinCos(degrees * Math.PI / 180);
            return new(cos * p.X - sin * p.Y, sin * p.X + cos * p.Y);
        }
    }
}
