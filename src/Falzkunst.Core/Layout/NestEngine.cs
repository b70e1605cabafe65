using Falzkunst.Core.Regions;

namespace Falzkunst.Core.Layout;

/// <summary>
/// Places real shapes, with their holes, on sheets. Each piece goes to the first sheet that takes it, there to the place and turn whose lower edge lies
/// highest (bottom-left fill: Burke, Hellier, Kendall and Whitwell 2006, turned upside down), in an order that is searched: several sorted orders,
/// then changes to the best one.
/// Guarantee: every result is valid. Gaps hold because a piece, grown by the gap, is tested by all grid cells that it touches against all cells that the
/// others touch; so at most one cell (0.2 to 1 mm) of room is wasted between neighbours, and never one too few. Margins are kept exactly.
/// Cost: for each shape and turn one walk over each sheet's cells, since places that were taken stay taken.
/// Deterministic for a seed: the number of orders tried follows from counted work, not from the clock; the clock only ends a search that goes two seconds over
/// its time.
/// </summary>
public sealed class NestEngine
{
    /// <summary>Words of 64 cells compared in a second by a slow machine; turns seconds into work.</summary>
    private const double WorkPerSecond = 2e8;

    private readonly NestRequest _request;
    private readonly TimeProvider _clock;
    private readonly double _cell;
    private readonly List<Shape> _shapes;
    private readonly ImmutableArray<Unplaced> _tooLarge;

    private NestEngine(NestRequest request, TimeProvider clock, CancellationToken cancel)
    {
        _request = request;
        _clock = clock;
        var longest = request.Sheets.IsEmpty ? 100 : request.Sheets.Max(s => Math.Max(s.Width.Mm, s.Height.Mm));
        _cell = Math.Clamp(longest / 1000, 0.2, 1);
        _shapes = [];
        var tooLarge = ImmutableArray.CreateBuilder<Unplaced>();
        foreach (var piece in request.Pieces)
        {
            cancel.ThrowIfCancellationRequested();
            var shape = new Shape(piece, VariantsOf(piece, false), VariantsOf(piece, true));
            if (shape.Variants.Count > 0) _shapes.Add(shape);
            else for (var c = 1; c <= piece.Count; c++) tooLarge.Add(new(piece.Id, c, "it is larger than every sheet"));
        }

        _tooLarge = tooLarge.ToImmutable();
    }

    private sealed record Variant(Angle Turn, bool Flipped, Box Bounds, BitShape Body, BitShape Reach);

    /// <summary>
    /// One way to fill the sheets: the order of the pieces, how much a piece's own height counts against a place (1: its lower edge lies highest;
    /// 0: its upper edge), and whether pieces are taken as their boxes. Boxes waste the room in between, but keep rows; a search that tries both is
    /// never worse than packing boxes.
    /// </summary>
    private sealed record Way(int[] Order, double HeightCounts, bool AsBoxes);

    private sealed record Shape(NestPiece Piece, List<Variant> Variants, List<Variant> Boxes)
    {
        public double Area { get; } = Region.Of(Piece.Path).AreaMm2;

        public Box Bounds { get; } = Piece.Path.Bounds;
    }

    /// <summary>Lays out. When cancelled, the best so far is given; what is not in it yet is unplaced and says so.</summary>
    public static NestResult Run(NestRequest request, TimeProvider clock, IProgress<NestProgress>? progress = null, CancellationToken cancel = default)
    {
        if (request.Pieces.Sum(p => (long)p.Count) > 20_000) throw new ArgumentException("More than 20,000 pieces can't be laid out at once.", nameof(request));
        return new NestEngine(request, clock, CancellationToken.None).Search(progress, cancel);
    }

    private NestResult Search(IProgress<NestProgress>? progress, CancellationToken cancel)
    {
        var items = _shapes.SelectMany((s, i) => Enumerable.Repeat(i, s.Piece.Count)).ToArray();
        progress?.Report(new(0, null, "reading shapes"));
        var started = _clock.GetTimestamp();
        Func<Shape, double>[] sizes = [s => s.Area, s => Math.Max(s.Bounds.Width, s.Bounds.Height), s => s.Bounds.Area, s => s.Bounds.Width + s.Bounds.Height];
        (NestResult? Result, Way Way) best = (null, new(items, 1, false));
        Way[] first =
        [
            new(Sorted(items, sizes[0]), 1, false), new(Sorted(items, sizes[0]), 1, true), new(Sorted(items, sizes[1]), 1, false),
                new(Sorted(items, sizes[1]), 1, true),
            new(Sorted(items, sizes[0]), 0.5, false), new(Sorted(items, sizes[1]), 0.5, false), new(Sorted(items, sizes[2]), 1, false),
                new(Sorted(items, sizes[3]), 0, false),
        ];
        long spent = 0, budget = (long)(_request.Time.TotalSeconds * WorkPerSecond);
        // The counted work decides when to end, so that the result does not depend on the machine; the clock only helps a very slow one.
        var guard = _request.Time + TimeSpan.FromSeconds(2);
        var tries = 0;
        var random = new Random(_request.Seed);
        // Two at a time, always, so that the result does not depend on the machine's cores.
        while (true)
        {
            var ways = new Way[2];
            for (var i = 0; i < 2; i++) ways[i] = tries + i < first.Length ? first[tries + i] : Changed(best.Way, random);
            var results = new (NestResult Result, long Work)[2];
            Parallel.For(0, 2, i => results[i] = Fill(ways[i], cancel));
            for (var i = 0; i < 2; i++)
            {
                spent += results[i].Work;
                if (best.Result is null || results[i].Result.Cost < best.Result.Cost - 1e-9) best = (results[i].Result, ways[i]);
            }

            tries += 2;
            var elapsed = _clock.GetElapsedTime(started);
            progress?.Report(new(Math.Min(1, Math.Max((double)spent / budget, elapsed / guard)), best.Result,
                $"{best.Result!.SheetIds.Length} {(best.Result.SheetIds.Length == 1 ? "sheet" : "sheets")}, {best.Result.Utilisation:P0} used, {tries} "
                    + "orders tried"));
            if (cancel.IsCancellationRequested || items.Length == 0 || tries >= 2000) break;
            if (spent + spent / tries * 2 > budget || elapsed > guard) break;
        }

        return best.Result!;
    }

    private int[] Sorted(int[] items, Func<Shape, double> size) => [.. items.OrderByDescending(i => size(_shapes[i])).ThenBy(i => i)];

    /// <summary>A neighbour of a way: a few pieces change places, one moves to the front, or places are judged otherwise.</summary>
    private static Way Changed(Way way, Random random)
    {
        var next = (int[])way.Order.Clone();
        if (next.Length < 2) return way;
        for (var n = random.Next(1, 4); n > 0; n--)
        {
            int a = random.Next(next.Length), b = random.Next(next.Length);
            if (random.Next(3) == 0)
            {
                var moved = next[a];
                Array.Copy(next, 0, next, 1, a);
                next[0] = moved;
            }
            else
            {
                (next[a], next[b]) = (next[b], next[a]);
            }
        }

        return random.Next(6) switch
        {
            0 => new(next, random.Next(3) * 0.5, way.AsBoxes),
            1 => new(next, way.HeightCounts, !way.AsBoxes),
            _ => way with { Order = next },
        };
    }

    private sealed class OpenSheet(NestSheet sheet, BitShape cells)
    {
        public NestSheet Sheet { get; } = sheet;

        public BitShape Cells { get; } = cells;

        /// <summary>For each variant the first place that might still be free; int.MaxValue where none is left.</summary>
        public Dictionary<Variant, (int X, int Y, int Hint)> From { get; } = [];

        public double LowestMm { get; set; }
    }

    private (NestResult Result, long Work) Fill(Way way, CancellationToken cancel)
    {
        long work = 0;
        var open = new List<OpenSheet>();
        var left = _request.Sheets.Select(s => s.Count).ToArray();
        var copies = new int[_shapes.Count];
        var placements = ImmutableArray.CreateBuilder<Placement>(way.Order.Length);
        var unplaced = _tooLarge.ToBuilder();
        double placedArea = 0;
        foreach (var index in way.Order)
        {
            // What a placement costs beside comparing words.
            work += 3000;
            var shape = _shapes[index];
            var copy = ++copies[index];
            if (cancel.IsCancellationRequested)
            {
                unplaced.Add(new(shape.Piece.Id, copy, "the layout was stopped before it was placed"));
                continue;
            }

            var placed = false;
            for (var s = 0; s <= open.Count && !placed; s++)
            {
                if (s == open.Count && OpenFor(shape, left) is { } fresh) open.Add(fresh);
                if (s == open.Count) break;
                if (Place(way, way.AsBoxes ? shape.Boxes : shape.Variants, open[s], ref work) is not { } at) continue;
                var (variant, x, y) = at;
                open[s].Cells.Add(variant.Body, x, y);
                var corner = new Point(open[s].Sheet.Margin.Mm + x * _cell, open[s].Sheet.Margin.Mm + y * _cell);
                open[s].LowestMm = Math.Max(open[s].LowestMm, corner.Y + variant.Bounds.Height);
                placements.Add(new(shape.Piece.Id, copy, s, open[s].Sheet.Id, variant.Turn, variant.Flipped,
                    new(Math.Round(corner.X - variant.Bounds.Left, 6), Math.Round(corner.Y - variant.Bounds.Top, 6))));
                placedArea += shape.Area;
                placed = true;
            }

            if (!placed) unplaced.Add(new(shape.Piece.Id, copy, "no sheet is left that has room for it"));
        }

        var used = placedArea / Math.Max(1e-9, open.Sum(o => o.Sheet.Width.Mm * o.Sheet.Height.Mm));
        var part = open.Count == 0 ? 0 : open[^1].LowestMm / open[^1].Sheet.Height.Mm;
        return (new(placements.ToImmutable(), unplaced.ToImmutable(), [.. open.Select(o => o.Sheet.Id)], open.Count == 0 ? 0
            : used, Math.Min(0.999, part)), work);
    }

    /// <summary>The largest sheet at hand that takes the piece.</summary>
    private OpenSheet? OpenFor(Shape shape, int[] left)
    {
        var best = -1;
        for (var i = 0; i < left.Length; i++)
        {
            var s = _request.Sheets[i];
            if (left[i] <= 0 || !shape.Variants.Exists(v => Fits(v, s))) continue;
            if (best < 0 || s.Width.Mm * s.Height.Mm > _request.Sheets[best].Width.Mm * _request.Sheets[best].Height.Mm) best = i;
        }

        if (best < 0) return null;
        left[best]--;
        var sheet = _request.Sheets[best];
        int columns = (int)Math.Ceiling(sheet.UsableWidth.Mm / _cell), rows = (int)Math.Ceiling(sheet.UsableHeight.Mm / _cell);
        var cells = BitShape.Blank(columns, rows);
        foreach (var keep in sheet.KeepOut)
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
        double lowest = double.PositiveInfinity, rightmost = double.PositiveInfinity;
        foreach (var v in variants)
        {
            if (!Fits(v, sheet.Sheet)) continue;
            var maxX = (int)Math.Floor((sheet.Sheet.UsableWidth.Mm - v.Bounds.Width + 1e-6) / _cell);
            var maxY = (int)Math.Floor((sheet.Sheet.UsableHeight.Mm - v.Bounds.Height + 1e-6) / _cell);
            var (x, y, hint) = sheet.From.GetValueOrDefault(v);
            var found = false;
            for (; y <= maxY; y++, x = 0)
            {
                // A place that lies deeper than the best cannot win; go on from here next time.
                if (y * _cell + way.HeightCounts * v.Bounds.Height > lowest + 1e-9) break;
                for (; x <= maxX; x++)
                {
                    if (sheet.Cells.Hits(v.Reach, x, y, ref hint, ref work)) continue;
                    found = true;
                    break;
                }

                if (found) break;
            }

            sheet.From[v] = (x, y, hint);
            if (!found) continue;
            double low = y * _cell + way.HeightCounts * v.Bounds.Height, right = x * _cell + v.Bounds.Width;
            if (low > lowest + 1e-9 || (low > lowest - 1e-9 && right >= rightmost)) continue;
            (best, lowest, rightmost) = ((v, x, y), low, right);
        }

        return best;
    }

    private List<Variant> VariantsOf(NestPiece piece, bool asBoxes)
    {
        double[] turns = piece.Turns switch
        {
            Turns.None => [0],
            Turns.Half => [0, 180],
            Turns.Quarter => [0, 90, 180, 270],
            _ => [0, 90, 180, 270, 45, 135, 225, 315, 30, 60, 120, 150, 210, 240, 300, 330],
        };
        // Chords lie inside their curves and circles: 0.002 mm for each piece and 0.12 % of the gap together stay under the tolerance of a layout,
        // but for wide gaps, which get a hair more.
        var bounds = piece.Path.Bounds;
        var body = asBoxes ? Region.Of(VectorPath.Rectangle(bounds.Left, bounds.Top, bounds.Width, bounds.Height)) : Region.Of(piece.Path, Tolerances.Measure);
        var reach = _request.Gap.Mm > 1e-3 ? body.Outset(_request.Gap * (_request.Gap.Mm > 4 ? 1.0013 : 1)) : body;
        List<VectorPath> bodyPaths = [.. body.ToPaths()], reachPaths = [.. reach.ToPaths()];
        var variants = new List<Variant>();
        foreach (var flipped in piece.Flip ? [false, true] : new[] { false })
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
