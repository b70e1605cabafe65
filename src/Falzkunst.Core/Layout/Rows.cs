using Falzkunst.Core.Cards;

namespace Falzkunst.Core.Layout;

/// <summary>
/// Sets rectangles edge to edge in rows, so that one straight cut parts two of them: for sheets that are printed and then trimmed by hand. The highest come
/// first, each row as high as its first (next-fit decreasing height: Coffman, Garey, Johnson and Tarjan 1980), with all of them upright and with all of them
/// on their side; what takes fewer sheets is taken. Exact, linear in the number of pieces.
/// </summary>
public static class Rows
{
    /// <summary>Whether a path is one rectangle with upright sides.</summary>
    public static bool IsRectangle(VectorPath path) =>
        path is { Subpaths.Length: 1, IsClosed: true } && Math.Abs(Math.Abs(path.SignedAreaMm2) - path.Bounds.Area) <= 1e-6 * path.Bounds.Area;

    /// <summary>Lays them out; the gap of the request is not asked for, nor its time.</summary>
    public static NestResult Run(NestRequest request)
    {
        var upright = Run(request, box => box.Height < box.Width);
        var onSide = Run(request, box => box.Height > box.Width);
        return onSide.Cost < upright.Cost ? onSide : upright;
    }

    private static NestResult Run(NestRequest request, Func<Box, bool> isTurned)
    {
        var all = request.Pieces.SelectMany(p => Enumerable.Range(1, p.Count).Select(c => (Piece: p, Copy: c))).Select(t =>
        {
            var box = t.Piece.Path.Bounds;
            var (turned, wide, high) = isTurned(box) ? (true, box.Height, box.Width) : (false, box.Width, box.Height);
            return (t.Piece, t.Copy, Box: box, Turned: turned, Wide: wide, High: high);
        }).OrderByDescending(t => t.High).ThenByDescending(t => t.Wide).ToList();
        var placed = ImmutableArray.CreateBuilder<Placement>();
        var unplaced = ImmutableArray.CreateBuilder<Unplaced>();
        var used = new List<NestSheet>();
        var free = new Queue<NestSheet>(request.Sheets.SelectMany(s => Enumerable.Repeat(s, s.Count)));
        double x = 0, y = 0, row = 0;
        foreach (var t in all)
        {
            if (!request.Sheets.Any(s => Fits(t.Wide, s.UsableWidth.Mm) && Fits(t.High, s.UsableHeight.Mm)))
            {
                unplaced.Add(new(t.Piece.Id, t.Copy, "it is larger than what the printer reaches on any sheet"));
                continue;
            }

            if (used.Count > 0 && !Fits(x + t.Wide, used[^1].UsableWidth.Mm)) (x, y, row) = (0, y + row, 0);
            while (!HasRoom(t.Wide, t.High) && free.TryDequeue(out var next))
            {
                used.Add(next);
                (x, y, row) = (0, 0, 0);
            }

            if (!HasRoom(t.Wide, t.High))
            {
                unplaced.Add(new(t.Piece.Id, t.Copy, "there are no more sheets in the drawer"));
                continue;
            }

            var margin = used[^1].Margin.Mm;
            Point at = new(margin + x, margin + y);
            var shift = t.Turned ? at + new Point(t.Box.Bottom, -t.Box.Left) : at - new Point(t.Box.Left, t.Box.Top);
            placed.Add(new(t.Piece.Id, t.Copy, used.Count - 1, used[^1].Id, t.Turned ? Angle.FromDegrees(90) : Angle.Zero, false, shift));
            (x, row) = (x + t.Wide, Math.Max(row, t.High));
        }

        return NestResult.Of(request, placed.ToImmutable(), unplaced.ToImmutable(), [.. used.Select(s => s.Id)]);

        bool HasRoom(double wide, double high) =>
            used.Count > 0 && Fits(x + wide, used[^1].UsableWidth.Mm) && Fits(y + high, used[^1].UsableHeight.Mm);

        static bool Fits(double size, double room) => size <= room + Tolerances.Same;
    }
}
