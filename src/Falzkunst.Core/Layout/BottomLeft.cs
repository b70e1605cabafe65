using Falzkunst.Core.Regions;

namespace Falzkunst.Core.Layout;

/// <summary>
/// Fills sheets with real shapes, with their holes, piece by piece: each goes to the first sheet that takes it, there to the place and turn whose lower edge
/// lies highest (bottom-left fill: Burke, Hellier, Kendall and Whitwell 2006, turned upside down).
/// Guarantee: every result is valid. Gaps hold because a piece, grown by the gap, is tested by all grid cells that it touches against all cells that the others
/// touch; so at most one cell (0.2 to 1 mm, or three times as much) of room is wasted between neighbours, and never one too few. Margins are kept exactly.
/// Cost: for each shape and turn one walk over each sheet's cells, since places that were taken stay taken.
/// </summary>
internal sealed class BottomLeft
{
    /// <summary>With more pieces, full sheets are not searched again and again.</summary>
    private const int Many = 600;

    /// <summary>A full sheet is tried again only with what is smaller than this part of what found no place on it: of many pieces, each different, each would
    /// be tried on every sheet.</summary>
    private const double MuchSmaller = 0.8;

    private readonly NestRequest _request;
    private readonly double _cell;
    private readonly List<Shape> _shapes = [];

    /// <summary>The sheets, those first that cost least for their area.</summary>
    private readonly int[] _byPrice;

    /// <param name="isCoarse">Whether to look by cells three times as wide, in a tenth of the time.</param>
    /// <exception cref="OperationCanceledException">It was cancelled while shapes were read.</exception>
    public BottomLeft(NestRequest request, bool isCoarse, CancellationToken cancel)
    {
        _request = request;
        var longest = request.Sheets.IsEmpty ? 100 : request.Sheets.Max(s => Math.Max(s.Width.Mm, s.Height.Mm));
        _cell = Math.Clamp(longest / 1000, 0.2, 1) * (isCoarse ? 3 : 1);
        _byPrice = [.. Enumerable.Range(0, request.Sheets.Length).OrderBy(i => request.Sheets[i].Price / request.Sheets[i].AreaMm2)
            .ThenByDescending(i => request.Sheets[i].AreaMm2)];
        var tooLarge = ImmutableArray.CreateBuilder<Unplaced>();
        foreach (var shape in request.Pieces.AsParallel().AsOrdered().WithDegreeOfParallelism(2).WithCancellation(cancel)
            .Select(p => new Shape(p, VariantsOf(p, false), new(() => VariantsOf(p, true)))))
        {
            var piece = shape.Piece;
            if (shape.Variants.Count > 0) _shapes.Add(shape);
            else for (var c = 1; c <= piece.Count; c++) tooLarge.Add(new(piece.Id, c, "it is larger than every sheet"));
        }

        TooLarge = tooLarge.ToImmutable();
    }

    /// <summary>The pieces that fit on some sheet.</summary>
    public IEnumerable<NestPiece> Fitting => _shapes.Select(s => s.Piece);

    /// <summary>The copies of all others.</summary>
    public ImmutableArray<Unplaced> TooLarge { get; }

    private sealed record Variant(Angle Turn, bool Flipped, Box Bounds, BitShape Body, BitShape Reach);

    /// <summary>
    /// One way to fill the sheets: the order of the pieces; what counts against a place, the way down to its lower edge or the way across to its right one, or
    /// some of both; how much the piece's own size counts in that (0: its near edges lie nearest; 1: its far ones); and whether pieces are taken as their
    /// boxes. Boxes waste the room in between, but keep rows.
    /// </summary>
    public sealed record Way(int[] Order, double Down, double Across, double SizeCounts, bool AsBoxes);

    /// <param name="Boxes">Made when a way asks for them.</param>
    private sealed record Shape(NestPiece Piece, List<Variant> Variants, Lazy<List<Variant>> Boxes)
    {
        public List<Variant> In(Way way) => way.AsBoxes ? Boxes.Value : Variants;

        public double Area { get; } = Piece.AreaMm2;

        public Box Bounds { get; } = Piece.Path.Bounds;
    }

    /// <summary>Ways that are worth trying first.</summary>
    public Way[] FirstWays()
    {
        var items = _shapes.SelectMany((s, i) => Enumerable.Repeat(i, s.Piece.Count)).ToArray();
        Func<Shape, double>[] sizes = [s => s.Area, s => Math.Max(s.Bounds.Width, s.Bounds.Height), s => s.Bounds.Area, s => s.Bounds.Width + s.Bounds.Height];
        int[] byArea = Sorted(items, sizes[0]), byLength = Sorted(items, sizes[1]), byBox = Sorted(items, sizes[2]), bySides = Sorted(items, sizes[3]);
        return
        [
            new(byArea, 1, 0, 1, false), new(byArea, 0, 1, 1, false), new(byArea, 1, 1, 1, false), new(byLength, 1, 0, 1, false),
            new(byArea, 1, 0, 1, true), new(byLength, 0, 1, 1, false), new(byLength, 1, 0, 1, true), new(byLength, 1, 1, 0.5, false),
            new(byArea, 1, 0.4, 0.5, false), new(byArea, 0.4, 1, 0.5, false), new(byBox, 1, 0, 1, false), new(bySides, 0, 1, 0, false),
        ];
    }

    private int[] Sorted(int[] items, Func<Shape, double> size) => [.. items.OrderByDescending(i => size(_shapes[i])).ThenBy(i => i)];

    private sealed class OpenSheet(NestSheet sheet, BitShape cells)
    {
        public NestSheet Sheet { get; } = sheet;

        public BitShape Cells { get; } = cells;

        /// <summary>For each variant, and for each row, the first place that might still be free.</summary>
        public Dictionary<Variant, int[]> From { get; } = [];

        /// <summary>The area of the smallest piece that found no place on it.</summary>
        public double TooLarge { get; set; } = double.PositiveInfinity;
    }

    /// <summary>Sheets on which the copies of one piece lie in a lattice: of the piece that takes most room, where there are many of it. Empty where none
    /// does better than nothing.</summary>
    /// <param name="most">Counted work, as of the search.</param>
    /// <param name="work">What was counted.</param>
    public ImmutableArray<Placement> InLattice(long most, out long work, CancellationToken cancel)
    {
        const int Few = 8;
        work = 0;
        var shape = _shapes.Where(s => s.Piece.Count >= Few).MaxBy(s => s.Area * s.Piece.Count);
        var left = _request.Sheets.Select(s => s.Count).ToArray();
        if (shape is null || OpenFor(shape, left) is not { Sheet: var sheet }) return [];
        var one = Lattice.On(shape.Piece, sheet, _request.Gap, most, out work, cancel);
        var all = ImmutableArray.CreateBuilder<Placement>();
        for (var (on, copy) = (0, 0); one.Length > 0 && on < sheet.Count && copy < shape.Piece.Count; on++)
            foreach (var p in one.Take(shape.Piece.Count - copy)) all.Add(p with { Sheet = on, Copy = ++copy });
        return all.ToImmutable();
    }

    /// <summary>Fills the sheets in one way. Cancelled, what is not placed yet is unplaced and says so.</summary>
    /// <param name="there">What lies on the first sheets already.</param>
    /// <param name="hurryAfter">After so much work only the last sheet is tried before another is begun.</param>
    /// <param name="hurry">The same, once it is cancelled.</param>
    /// <returns>What lies where, and the work that was counted.</returns>
    public (NestResult Result, long Work) Fill(Way way, CancellationToken cancel, ImmutableArray<Placement> there = default,
        long hurryAfter = long.MaxValue, CancellationToken hurry = default)
    {
        long work = 0;
        var open = new List<OpenSheet>();
        var left = _request.Sheets.Select(s => s.Count).ToArray();
        var copies = new int[_shapes.Count];
        var placements = ImmutableArray.CreateBuilder<Placement>(way.Order.Length);
        var unplaced = TooLarge.ToBuilder();
        var isMany = way.Order.Length > Many;
        if (!there.IsDefaultOrEmpty)
        {
            var seeded = _shapes.FindIndex(s => s.Piece.Id == there[0].Piece);
            copies[seeded] = there.Length;
            placements.AddRange(there);
            foreach (var on in there.GroupBy(p => p.Sheet).OrderBy(g => g.Key))
            {
                var sheet = OpenFor(_shapes[seeded], left)!;
                foreach (var p in on)
                {
                    var moved = _shapes[seeded].Piece.Path.Transform(p.ToSheet.Then(Affine.Move(-sheet.Sheet.Margin.Mm, -sheet.Sheet.Margin.Mm)));
                    sheet.Cells.Add(BitShape.Of(Region.Of(moved, Tolerances.Measure).ToPaths().SelectMany(r => r.Rings).ToList(), _cell), 0, 0);
                }

                open.Add(sheet);
            }

            way = way with { Order = [.. Rest(way.Order, seeded, there.Length)] };
        }

        foreach (var index in way.Order)
        {
            // What a placement costs beside comparing words.
            work += 3000;
            var shape = _shapes[index];
            var copy = ++copies[index];
            if (cancel.IsCancellationRequested)
            {
                unplaced.Add(new(shape.Piece.Id, copy, Unplaced.Stopped));
                continue;
            }

            var placed = false;
            for (var s = work > hurryAfter || hurry.IsCancellationRequested ? Math.Max(0, open.Count - 1) : 0; s <= open.Count && !placed; s++)
            {
                if (s == open.Count && OpenFor(shape, left) is { } fresh) open.Add(fresh);
                if (s == open.Count) break;
                if (isMany && shape.Area >= open[s].TooLarge * MuchSmaller) continue;
                if (Place(way, shape.In(way), open[s], ref work) is not { } at)
                {
                    open[s].TooLarge = Math.Min(open[s].TooLarge, shape.Area);
                    continue;
                }

                var (variant, x, y) = at;
                open[s].Cells.Add(variant.Body, x, y);
                var corner = new Point(open[s].Sheet.Margin.Mm + x * _cell, open[s].Sheet.Margin.Mm + y * _cell);
                placements.Add(new(shape.Piece.Id, copy, s, open[s].Sheet.Id, variant.Turn, variant.Flipped,
                    new(Math.Round(corner.X - variant.Bounds.Left, 6), Math.Round(corner.Y - variant.Bounds.Top, 6))));
                placed = true;
            }

            // What was remembered of its places is not needed any more.
            if (copy == shape.Piece.Count)
            {
                foreach (var sheet in open)
                    foreach (var v in shape.In(way)) sheet.From.Remove(v);
            }

            if (!placed) unplaced.Add(new(shape.Piece.Id, copy, Unplaced.NoRoom));
        }

        return (NestResult.Of(_request, placements.ToImmutable(), unplaced.ToImmutable(), [.. open.Select(o => o.Sheet.Id)]), work);
    }

    /// <summary>An order without the first so many of one of its shapes.</summary>
    private static IEnumerable<int> Rest(int[] order, int without, int many)
    {
        foreach (var index in order)
            if (index != without || many-- <= 0) yield return index;
    }

    /// <summary>The sheet at hand that takes the piece and costs least for its area; of equals the largest.</summary>
    private OpenSheet? OpenFor(Shape shape, int[] left)
    {
        var best = Array.FindIndex(_byPrice, i => left[i] > 0 && shape.Variants.Exists(v => Fits(v, _request.Sheets[i])));
        if (best < 0) return null;
        left[_byPrice[best]]--;
        var sheet = _request.Sheets[_byPrice[best]];
        int columns = (int)Math.Ceiling(sheet.UsableWidth.Mm / _cell), rows = (int)Math.Ceiling(sheet.UsableHeight.Mm / _cell);
        var cells = BitShape.Blank(columns, rows);
        foreach (var keep in sheet.Blocked(_request.Gap))
        {
            var moved = keep.Transform(Affine.Move(-sheet.Margin.Mm, -sheet.Margin.Mm));
            cells.Add(BitShape.Of(moved.Rings, _cell), 0, 0);
        }

        return new(sheet, cells);
    }

    private static bool Fits(Variant v, NestSheet s) => v.Bounds.Width <= s.UsableWidth.Mm + 1e-6
        && v.Bounds.Height <= s.UsableHeight.Mm + 1e-6;

    private (Variant Variant, int X, int Y)? Place(Way way, List<Variant> variants, OpenSheet sheet, ref long work)
    {
        (Variant Variant, int X, int Y)? best = null;
        double least = double.PositiveInfinity, second = double.PositiveInfinity;
        foreach (var v in variants)
        {
            if (!Fits(v, sheet.Sheet)) continue;
            var maxX = (int)Math.Floor((sheet.Sheet.UsableWidth.Mm - v.Bounds.Width + 1e-6) / _cell);
            var maxY = (int)Math.Floor((sheet.Sheet.UsableHeight.Mm - v.Bounds.Height + 1e-6) / _cell);
            if (!sheet.From.TryGetValue(v, out var from)) sheet.From[v] = from = new int[maxY + 1];
            var hint = 0;
            work += maxY;
            double wide = way.SizeCounts * v.Bounds.Width, high = way.SizeCounts * v.Bounds.Height;
            for (var y = 0; y <= maxY; y++)
            {
                var down = way.Down * (y * _cell + high);
                // Deeper places cannot win any more.
                if (down + way.Across * wide > least + 1e-9) break;
                int x = from[y], until = maxX;
                if (way.Across > 0) until = (int)Math.Min(maxX, ((least - down + 1e-9) / way.Across - wide) / _cell);
                while (x <= until && sheet.Cells.Hits(v.Reach, x, y, ref hint, ref work) is > 0 and var step) x += step;
                from[y] = x;
                if (x > until) continue;
                double cost = down + way.Across * (x * _cell + wide), tie = way.Down > way.Across ? x * _cell + v.Bounds.Width : y * _cell + v.Bounds.Height;
                if (cost > least + 1e-9 || (cost > least - 1e-9 && tie >= second)) continue;
                (best, least, second) = ((v, x, y), cost, tie);
            }
        }

        return best;
    }

    private List<Variant> VariantsOf(NestPiece piece, bool asBoxes)
    {
        double[] turns = piece.Angles is { Length: > 0 } few ? few
            : [0, 90, 180, 270, 45, 135, 225, 315, 30, 60, 120, 150, 210, 240, 300, 330];
        // Chords lie inside their curves and circles: 0.002 mm for each piece and 0.12 % of the gap together stay under the tolerance of a layout,
        // but for wide gaps, which get a hair more.
        var bounds = piece.Path.Bounds;
        var body = asBoxes ? Region.Of(VectorPath.Rectangle(bounds.Left, bounds.Top, bounds.Width, bounds.Height)) : Region.Of(piece.Path, Tolerances.Measure);
        var reach = _request.Gap.Mm > 1e-3 ? body.Outset(_request.Gap * (_request.Gap.Mm > 4 ? 1.0013 : 1)) : body;
        List<VectorPath> bodyPaths = [.. body.ToPaths()], reachPaths = [.. reach.ToPaths()];
        var variants = new List<Variant>();
        foreach (var flipped in piece.Faces)
        {
            foreach (var degrees in turns)
            {
                var angle = Angle.FromDegrees(degrees);
                var turn = new Place(angle, default, flipped).Map;
                var turned = bodyPaths.Select(p => p.Transform(turn)).ToList();
                var box = turned.Aggregate(Box.Empty, (b, p) => b.With(p.Bounds));
                // The true path may reach beyond its chords by the flattening tolerance; margins are kept by the true box.
                if (!asBoxes) box = box.With(piece.Path.Transform(turn).Bounds);
                var move = Affine.Move(-box.Left, -box.Top);
                var variant = new Variant(angle, flipped, box,
                    BitShape.Of([.. turned.SelectMany(p => p.Transform(move).Rings)], _cell),
                    BitShape.Of([.. reachPaths.SelectMany(p => p.Transform(turn.Then(move)).Rings)], _cell));
                if (!_request.Sheets.Any(s => Fits(variant, s))) continue;
                // A rectangle turned half looks the same; one of them is enough.
                if (variants.Exists(v => v.Body.SameAs(variant.Body) && Math.Abs(v.Bounds.Width - box.Width) < 1e-6)) continue;
                variants.Add(variant);
            }
        }

        return variants;
    }
}
