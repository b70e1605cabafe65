using Falzkunst.Core.Layout;

namespace Falzkunst.Core.Runs;

/// <summary>
/// Where on a sheet a knife of unknown heading is turned in: where the machine reaches, in what no piece and no mark lies in, and not in the strip that is
/// kept of the sheet if there is room elsewhere; where all of the sheet is taken, on the mat beside it.
/// </summary>
/// <remarks>Linear in the quarter millimetres of the sheet: a summed-area table of what is taken (Crow, Summed-area tables for texture mapping,
/// 1984).</remarks>
public sealed class TurningPlace
{
    private const double Cell = 0.25;

    /// <summary>What is kept free around the way of the tip, in mm: where there is room, and at least.</summary>
    private const double Wide = 2, Least = 0.5;

    private readonly SheetPlan _sheet;
    private readonly double _margin;
    private readonly Box _strip;
    private readonly int _columns, _rows;
    private readonly int[] _taken;

    /// <param name="taken">The outlines of all that lies on the sheet.</param>
    /// <param name="strip">What is kept of it; empty for nothing.</param>
    public TurningPlace(SheetPlan sheet, IEnumerable<VectorPath> taken, Box strip)
    {
        (_sheet, _strip) = (sheet, strip);
        var asked = SheetPlans.SheetOf("", sheet.Size, sheet.Printed);
        _margin = asked.Margin.Mm;
        (_columns, _rows) = ((int)(sheet.Size.Width.Mm / Cell), (int)(sheet.Size.Height.Mm / Cell));
        var cells = BitShape.Blank(_columns, _rows);
        foreach (var path in taken.Concat(asked.Blocked(Length.Zero))) cells.Add(BitShape.Of(path.Rings, Cell), 0, 0);
        _taken = new int[(_columns + 1) * (_rows + 1)];
        for (var y = 0; y < _rows; y++)
            for (int x = 0, row = 0; x < _columns; x++)
                _taken[(y + 1) * (_columns + 1) + x + 1] = _taken[y * (_columns + 1) + x + 1] + (row += cells.Has(x, y) ? 1 : 0);
    }

    /// <summary>Where the axis of a knife comes down (<see cref="SwivelKnife.TurnedIn"/>); null where there is no room for it.</summary>
    /// <param name="offset">From its tip to its axis, in mm, above 0.</param>
    /// <param name="near">The place from which it is near: where its first line begins.</param>
    public Point? For(double offset, Point near, Machine machine)
    {
        var room = SwivelKnife.Room(offset);
        double step = 2 * Cell, top = _margin - room.Top, left = _margin - room.Left;
        double right = _sheet.Size.Width.Mm - _margin - room.Right, bottom = _sheet.Size.Height.Mm - _margin - room.Bottom;
        (int Rank, double Far, Point At)? best = null;
        for (var y = bottom; y >= top; y -= step)
        {
            for (var x = left; x <= right; x += step)
            {
                var its = room.Moved(x, y);
                var far = its.Centre.DistanceTo(near);
                // The strip is worth more than a wide berth.
                var inStrip = !_strip.IsEmpty && _strip.Touches(its) ? 2 : 0;
                if (best is { } found && (inStrip, far).CompareTo((found.Rank, found.Far)) >= 0) continue;
                var rank = inStrip + (IsFree(its.Grown(Wide)) ? 0 : 1);
                if (best is { } b && (rank, far).CompareTo((b.Rank, b.Far)) >= 0) continue;
                if (IsFree(its.Grown(Least))) best = (rank, far, new(x, y));
            }
        }

        return best?.At ?? Beside(room, machine);
    }

    /// <summary>On the mat, to the right of the sheet or above it; rollers have none.</summary>
    private Point? Beside(Box room, Machine machine)
    {
        double width = _sheet.Size.Width.Mm, height = _sheet.Size.Height.Mm;
        if (machine.IsRoll) return null;
        if (width + Wide + room.Width <= machine.Width.Mm && room.Height <= height) return new(width + Wide - room.Left, height - room.Bottom);
        return height + Wide + room.Height <= machine.Height.Mm && room.Width <= width ? new(-room.Left, -Wide - room.Bottom) : null;
    }

    /// <summary>Whether nothing lies in a box; what is beyond the sheet's edge is nothing.</summary>
    private bool IsFree(Box box)
    {
        int Column(double x) => Math.Clamp((int)x, 0, _columns);
        int Row(double y) => Math.Clamp((int)y, 0, _rows);
        int left = Column(Math.Floor(box.Left / Cell)), right = Column(Math.Ceiling(box.Right / Cell));
        int top = Row(Math.Floor(box.Top / Cell)), bottom = Row(Math.Ceiling(box.Bottom / Cell));
        int Up(int x, int y) => _taken[y * (_columns + 1) + x];
        return Up(right, bottom) - Up(left, bottom) - Up(right, top) + Up(left, top) == 0;
    }
}
