using System.Runtime.CompilerServices;
using Falzkunst.Core.Cards;

namespace Falzkunst.Core.Layout;

/// <summary>Where a piece that is moved by hand comes to lie.</summary>
/// <param name="At">The middle of its box, in mm of the sheet; null where the sheet has no room for it.</param>
/// <param name="InTheWay">Which pieces lie where it was wanted, by their place in the plan; empty where it lies as wanted, or only the edge or a mark is in
/// the way.</param>
public sealed record Settled(Point? At, ImmutableArray<int> InTheWay);

/// <summary>
/// A sheet on which pieces are moved by hand. A piece goes where it is wanted; where that is taken, it goes to the nearest place that is free, so that it
/// stops at its neighbours and slides along them as if pushed, and takes a gap behind them when the hand goes on. Never nearer than the gap allows, by the
/// footprints of the search.
/// A place costs some thousands of comparisons with what lies near: 1 to 20 ms with 250 pieces. Not exact: of free places that are narrower than a step of the
/// search it may miss one, never the one that the piece came from.
/// </summary>
public sealed class HandSheet
{
    /// <summary>How near it comes to the place that would be exact, in mm.</summary>
    private const double Near = 0.002;

    private readonly record struct Lying(Turned Turned, Point At);

    private readonly Box _room;
    private readonly ImmutableArray<Lying> _pieces;
    private readonly ImmutableArray<Lying> _obstacles;
    private readonly Length _gap;

    private HandSheet(Box room, Length gap, ImmutableArray<Lying> pieces, ImmutableArray<Lying> obstacles) =>
        (_room, _gap, _pieces, _obstacles) = (room, gap, pieces, obstacles);

    /// <param name="gap">What pieces keep from each other where nothing is printed.</param>
    public static HandSheet Of(Design design, SheetPlan sheet, Length gap)
    {
        var kept = sheet.GapOf(gap);
        var pieces = ImmutableArray.CreateBuilder<Lying>(sheet.Pieces.Length);
        var turned = new Dictionary<(string, double, bool), Turned>();
        foreach (var p in sheet.Pieces)
        {
            var shape = ShapeOf(design.Piece(p.PieceId)?.Outline ?? VectorPath.Empty, kept);
            // The map is a turn, of the piece as it is or mirrored.
            var flipped = p.ToSheet.Determinant < 0;
            var degrees = Math.Atan2(flipped ? -p.ToSheet.B : p.ToSheet.B, flipped ? -p.ToSheet.A : p.ToSheet.A) * (180 / Math.PI);
            if (!turned.TryGetValue((p.PieceId, degrees, flipped), out var lies)) turned[(p.PieceId, degrees, flipped)] = lies = shape.In(degrees, flipped);
            pieces.Add(new(lies, p.ToSheet.Apply(shape.Centre)));
        }

        var paper = SheetPlans.SheetOf("", sheet.Size, sheet.Printed);
        return new(paper.Room, kept, pieces.ToImmutable(), [.. paper.Obstacles(kept).Select(o => new Lying(o.Turned, o.At))]);
    }

    /// <summary>A shape as it was made before, as long as its outline lives: with curves that takes a while.</summary>
    private static Footprint ShapeOf(VectorPath path, Length gap)
    {
        if (Shapes.TryGetValue(path, out var known) && known.Gap == gap) return known.Shape;
        var shape = Footprint.Of(path, gap);
        Shapes.AddOrUpdate(path, new(gap, shape));
        return shape;
    }

    private sealed record Made(Length Gap, Footprint Shape);

    private static readonly ConditionalWeakTable<VectorPath, Made> Shapes = [];

    /// <summary>Where a piece comes to lie that is turned about the middle of its box, and whose middle is wanted somewhere.</summary>
    /// <param name="piece">Its place in the plan.</param>
    public Settled Settle(int piece, Angle turn, Point wanted)
    {
        var lying = _pieces[piece];
        return Settle(lying.Turned.Shape.In(lying.Turned.Degrees + turn.Degrees, lying.Turned.Flipped), wanted, piece, turn.Degrees == 0 ? lying.At : null);
    }

    /// <summary>Where a piece comes to lie that is not on the sheet yet.</summary>
    /// <param name="path">Its outline, turned as it is to lie.</param>
    public Settled Settle(VectorPath path, Point wanted) => Settle(Footprint.Of(path, _gap).In(0), wanted, -1, null);

    /// <summary>The middle of the box of a piece, in mm of the sheet.</summary>
    public Point MiddleOf(int piece) => _pieces[piece].At;

    private Settled Settle(Turned shape, Point wanted, int except, Point? from)
    {
        // Where its middle may be so that its true edges keep the margin; the grown ones lie outside of them.
        if (shape.Shape.IsEmpty) return new(from, []);
        var own = shape.Bounds.Grown(-shape.Shape.Edge);
        var room = new Box(_room.Left - own.Left, _room.Top - own.Top, _room.Right - own.Right, _room.Bottom - own.Bottom);
        if (room.IsEmpty) return new(from, []);
        var inTheWay = InTheWay(shape, wanted, except);
        var to = Within(wanted);
        var last = -1;
        if (Free(to)) return new(to, inTheWay);
        var (best, far) = (from, from?.DistanceTo(to) ?? double.PositiveInfinity);
        Take(Pushed());
        Take(from);
        Take(Around(far));
        return new(best, inTheWay);

        Point Within(Point p) => new(Math.Clamp(p.X, room.Left, room.Right), Math.Clamp(p.Y, room.Top, room.Bottom));

        bool Free(Point p)
        {
            // What was in the way at the place before is mostly in the way here too.
            if (last >= 0 && Meets(shape, p, _pieces[last])) return false;
            foreach (var o in _obstacles)
                if (Meets(shape, p, o)) return false;
            for (var i = 0; i < _pieces.Length; i++)
            {
                if (i == except || !Meets(shape, p, _pieces[i])) continue;
                last = i;
                return false;
            }

            return true;
        }

        void Take(Point? start)
        {
            if (start is not { } p) return;
            var (slid, left) = Slide(p);
            if (left < far) (best, far) = (slid, left);
        }

        // Out of what it lies over, the way that each of them parts it, as a whole.
        Point? Pushed()
        {
            const int Rounds = 16;
            var p = to;
            for (var round = 0; round < Rounds; round++)
            {
                var (sum, any) = (default(Point), false);
                foreach (var o in _obstacles) Push(o);
                for (var i = 0; i < _pieces.Length; i++)
                    if (i != except) Push(_pieces[i]);
                if (!any) return Free(p) ? p : null;
                p = Within(p + sum);

                void Push(Lying o)
                {
                    long work = 0;
                    if (!Boxes(shape, p, o)) return;
                    var by = shape.Push(o.Turned, p.X - o.At.X, p.Y - o.At.Y, ref work);
                    any |= by != default;
                    sum += by;
                }
            }

            return null;
        }

        // The first free place on circles about the wanted one, wider and wider.
        Point? Around(double within)
        {
            const double First = 0.25, Growth = 0.08;
            for (var r = First; r < within; r += First + Growth * r)
            {
                var count = Math.Max(8, (int)(2 * Math.PI * r / (First + Growth * r)));
                var anyInside = false;
                for (var k = 0; k < count; k++)
                {
                    var (sin, cos) = Math.SinCos(2 * Math.PI * k / count);
                    var p = new Point(to.X + r * cos, to.Y + r * sin);
                    if (!room.Holds(p)) continue;
                    anyInside = true;
                    if (Free(p)) return p;
                }

                if (!anyInside && r > room.Width + room.Height) break;
            }

            return null;
        }

        // Nearer to the wanted place as long as there is a way that is free, by ever smaller steps (compass search: Kolda, Lewis and Torczon 2003).
        (Point At, double Left) Slide(Point p)
        {
            const int Ways = 24;
            var left = p.DistanceTo(to);
            for (var step = Math.Max(1, left / 2); step > Near;)
            {
                var gained = false;
                var along = Math.Atan2(to.Y - p.Y, to.X - p.X);
                for (var k = 0; k < Ways && !gained; k++)
                {
                    // Straight on first, then to both sides.
                    var (sin, cos) = Math.SinCos(along + (k % 2 == 0 ? 1 : -1) * ((k + 1) / 2) * (Math.PI / 2 / (Ways / 2)));
                    var next = Within(new(p.X + step * cos, p.Y + step * sin));
                    var then = next.DistanceTo(to);
                    if (then > left - step * 0.02 || !Free(next)) continue;
                    (p, left, gained) = (next, then, true);
                }

                if (!gained) step /= 2;
                else if (left < step) step = Math.Max(left, Near);
                if (left <= Near) break;
            }

            return (p, left);
        }
    }

    private ImmutableArray<int> InTheWay(Turned shape, Point at, int except)
    {
        var found = ImmutableArray.CreateBuilder<int>();
        for (var i = 0; i < _pieces.Length; i++)
            if (i != except && Meets(shape, at, _pieces[i])) found.Add(i);
        return found.ToImmutable();
    }

    private static bool Boxes(Turned shape, Point at, Lying other)
    {
        var (x, y, b, o) = (at.X - other.At.X, at.Y - other.At.Y, shape.Bounds, other.Turned.Bounds);
        return b.Left + x <= o.Right && b.Right + x >= o.Left && b.Top + y <= o.Bottom && b.Bottom + y >= o.Top;
    }

    private static bool Meets(Turned shape, Point at, Lying other)
    {
        long work = 0;
        return Boxes(shape, at, other) && shape.Overlap(other.Turned, at.X - other.At.X, at.Y - other.At.Y, ref work) > 0;
    }
}
