using Falzkunst.Core.Cards;

namespace Falzkunst.Core.Layout;

/// <summary>
/// Lays many copies of one shape out in a lattice: of the shape alone, or of the shape with itself turned half (double lattices: Kuperberg and Kuperberg 1990).
/// Copies of thin or bent shapes lie in each other that way, where a fill that looks for one place after the other sets them side by side.
/// Guarantee: what it gives keeps the gap, by the footprints of the search. Not the densest there is: directions are sampled, and the best few made denser by
/// small steps. Ends by counted work.
/// </summary>
internal sealed class Lattice
{
    /// <summary>Directions that are tried for the next copy, and for the turned one of a pair.</summary>
    private const int Ways = 24, PairWays = 16;

    /// <summary>Where the next row begins, in parts of the step along a row.</summary>
    private const int Slips = 8;

    /// <summary>Lattices that are counted out on the sheet, and places of their corner that are tried in each direction.</summary>
    private const int Best = 5, Phases = 6;

    private readonly long _most;
    private readonly CancellationToken _cancel;
    private long _work;

    private Lattice(long most, CancellationToken cancel) => (_most, _cancel) = (most, cancel);

    /// <summary>A shape where it lies: of those that repeat together, from the first.</summary>
    private readonly record struct Part(Turned Turned, Point At);

    private sealed record Cell(Part[] Motif, Point Along, Point Next)
    {
        /// <summary>Of paper for each copy, in mm².</summary>
        public double AreaMm2 => Math.Abs(Along.Cross(Next)) / Motif.Length;
    }

    private bool IsOver => _work > _most || _cancel.IsCancellationRequested;

    /// <summary>The most copies that a lattice sets on one sheet, those highest up first; empty where there is none in the time.</summary>
    /// <param name="most">Counted work, as of the search.</param>
    /// <param name="work">What was counted.</param>
    public static ImmutableArray<Placement> On(NestPiece piece, NestSheet sheet, Length gap, long most, out long work, CancellationToken cancel)
    {
        var shape = Footprint.Of(piece.Path, gap);
        var search = new Lattice(most, cancel);
        ImmutableArray<Placement> found = shape.IsEmpty ? [] : search.Lay(piece, shape, sheet, gap);
        work = search._work;
        return found;
    }

    private ImmutableArray<Placement> Lay(NestPiece piece, Footprint shape, NestSheet sheet, Length gap)
    {
        // Half turns come with the pairs.
        double[] angles = piece.Turns switch { Turns.None or Turns.Half => [0], Turns.Quarter => [0, 90], _ => [0, 90, 45, 135, 30, 60, 120, 150] };
        var cells = new List<Cell>();
        foreach (var angle in angles)
        {
            var one = shape.In(angle);
            Add(cells, [new(one, default)]);
            if (piece.Turns == Turns.None) continue;
            var half = shape.In(angle + 180);
            for (var k = 0; k < PairWays && !IsOver; k++)
            {
                var way = Way(k, PairWays);
                if (Contact(t => Overlaps(half, way * t, one, default), shape.Diameter * 2) is { } apart)
                    Add(cells, [new(one, default), new(half, way * apart)]);
            }
        }

        Part[] obstacles = [.. sheet.Obstacles(gap).Select(o => new Part(o.Turned, o.At))];
        List<Part> best = [];
        foreach (var cell in cells.OrderBy(c => c.AreaMm2).Take(Best).Select(Denser).ToList())
        {
            for (var p = 0; p < Phases * Phases; p++)
            {
                var on = Counted(cell, sheet.Room, new Point((double)(p % Phases) / Phases, (double)(p / Phases) / Phases), obstacles);
                if (on.Count > best.Count) best = on;
            }
        }

        return [.. best.OrderBy(b => b.At.Y + b.Turned.Bounds.Bottom).ThenBy(b => b.At.X)
            .Select((b, i) => Placement.Of(piece.Id, i + 1, 0, sheet.Id, b.Turned, b.At))];
    }

    private static Point Way(int k, int of)
    {
        var (sin, cos) = Math.SinCos(2 * Math.PI * k / of);
        return new(cos, sin);
    }

    /// <summary>The lattices of what repeats together; half of the directions are enough.</summary>
    private void Add(List<Cell> cells, Part[] motif)
    {
        Cell? best = null;
        for (var k = 0; k < Ways / 2 && !IsOver; k++)
            if (Of(motif, Way(k, Ways)) is { } cell && cell.AreaMm2 < (best?.AreaMm2 ?? double.PositiveInfinity)) best = cell;
        if (best is not null) cells.Add(best);
    }

    /// <summary>The densest of the lattices that go in a direction first; null where none is found.</summary>
    private Cell? Of(Part[] motif, Point way)
    {
        var longest = 2 * motif.Max(m => m.Turned.Shape.Diameter + m.At.Norm);
        if (Contact(t => Overlaps(motif, way * t), longest) is not { } step) return null;
        // Where a copy fits in between, the one after must too.
        var along = way * step;
        while (Enumerable.Range(2, 4).Any(k => step * k < longest && Overlaps(motif, along * k)))
        {
            if (Contact(t => Overlaps(motif, way * t), longest, step * 1.05) is not { } farther || IsOver) return null;
            (step, along) = (farther, way * farther);
        }

        Cell? best = null;
        var across = new Point(-way.Y, way.X);
        var reach = (int)Math.Ceiling(longest / step);
        for (var s = 0; s < Slips && !IsOver; s++)
        {
            var slip = along * ((double)s / Slips);
            bool Meets(double t) => Enumerable.Range(-reach, 2 * reach + 1).Any(k => Overlaps(motif, slip + across * t + along * k));
            if (Contact(Meets, longest) is not { } high) continue;
            var cell = new Cell(motif, along, slip + across * high);
            if (cell.AreaMm2 < (best?.AreaMm2 ?? double.PositiveInfinity) && Holds(cell)) best = cell;
        }

        return best;
    }

    /// <summary>The same lattice with its direction turned by less and less, as long as that makes it denser.</summary>
    private Cell Denser(Cell cell)
    {
        for (var by = 4.0; by > 0.2 && !IsOver; by /= 2)
        {
            foreach (var sign in new[] { -1, 1 })
            {
                var way = Affine.Turn(Angle.FromDegrees(sign * by)).Apply(cell.Along) * (1 / cell.Along.Norm);
                if (Of(cell.Motif, way) is { } next && next.AreaMm2 < cell.AreaMm2) cell = next;
            }
        }

        return cell;
    }

    /// <summary>Whether no two copies of a lattice overlap.</summary>
    private bool Holds(Cell cell)
    {
        var longest = 2 * cell.Motif.Max(m => m.Turned.Shape.Diameter + m.At.Norm);
        var high = Math.Abs(cell.Along.Cross(cell.Next)) / cell.Along.Norm;
        int rows = (int)Math.Ceiling(longest / high), columns = (int)Math.Ceiling((longest + rows * cell.Next.Norm) / cell.Along.Norm);
        for (var j = 0; j <= rows; j++)
        {
            for (var i = -columns; i <= columns; i++)
            {
                if (j == 0 && i <= 0) continue;
                var by = cell.Along * i + cell.Next * j;
                if (by.Norm <= longest && Overlaps(cell.Motif, by)) return false;
            }
        }

        return true;
    }

    /// <summary>The copies of a lattice that lie whole in the room, and on no obstacle.</summary>
    private List<Part> Counted(Cell cell, Box room, Point phase, Part[] obstacles)
    {
        var on = new List<Part>();
        var start = new Point(room.Left, room.Top) + cell.Along * phase.X + cell.Next * phase.Y;
        var det = cell.Along.Cross(cell.Next);
        Box cells = Box.Empty;
        // The room in steps of the lattice.
        foreach (var corner in new[] { new Point(room.Left, room.Top), new(room.Right, room.Top), new(room.Left, room.Bottom), new(room.Right, room.Bottom) })
        {
            var d = corner - start;
            cells = cells.With(new Point(d.Cross(cell.Next) / det, cell.Along.Cross(d) / det));
        }

        const int Beyond = 2;
        for (var j = (int)Math.Floor(cells.Top) - Beyond; j <= cells.Bottom + Beyond; j++)
        {
            for (var i = (int)Math.Floor(cells.Left) - Beyond; i <= cells.Right + Beyond; i++)
            {
                foreach (var part in cell.Motif)
                {
                    var at = start + cell.Along * i + cell.Next * j + part.At;
                    var own = part.Turned.Bounds.Grown(-part.Turned.Shape.Edge);
                    if (!room.Holds(own.Moved(at.X, at.Y))) continue;
                    if (!obstacles.Any(o => Overlaps(part.Turned, at, o.Turned, o.At))) on.Add(new(part.Turned, at));
                }
            }
        }

        return on;
    }

    /// <summary>How far out something has to go until it is free, to a hundredth of a millimetre; null where it never is.</summary>
    /// <param name="from">Nearer than this it is not tried.</param>
    private double? Contact(Func<double, bool> overlaps, double longest, double from = 0)
    {
        const int Steps = 120;
        const double Near = 0.005;
        var step = longest / Steps;
        for (var k = 1; k <= Steps && !IsOver; k++)
        {
            double low = from + (k - 1) * step, high = from + k * step;
            if (low > longest) return null;
            if (overlaps(high)) continue;
            while (high - low > Near)
            {
                var middle = (low + high) / 2;
                if (overlaps(middle)) low = middle;
                else high = middle;
            }

            return high;
        }

        return null;
    }

    private bool Overlaps(Part[] motif, Point by)
    {
        foreach (var a in motif)
            foreach (var b in motif)
                if (Overlaps(a.Turned, a.At + by, b.Turned, b.At)) return true;
        return false;
    }

    private bool Overlaps(Turned a, Point at, Turned b, Point on)
    {
        var (x, y, p, q) = (at.X - on.X, at.Y - on.Y, a.Bounds, b.Bounds);
        // What a question costs before anything is compared.
        _work += 3;
        return p.Left + x <= q.Right && p.Right + x >= q.Left && p.Top + y <= q.Bottom && p.Bottom + y >= q.Top && a.Overlap(b, x, y, ref _work) > 0;
    }
}
