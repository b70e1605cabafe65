using System.Runtime.CompilerServices;
using Falzkunst.Core.Cards;
using Falzkunst.Core.Pictures;
using Falzkunst.Core.Regions;

namespace Falzkunst.Core.Printing;

/// <summary>What is printed of a piece: its pictures and printed lines, as far as they are wanted, and what goes on beyond its edge. Everything is
/// derived.</summary>
public sealed class PrintedArt
{
    /// <summary>The bleed is computed at so many pixels a mm: 300 an inch.</summary>
    private const double PxPerMm = 300 / Length.MmPerInch;

    /// <summary>From what is printed so far inside the edge its colour is taken there, in mm: at the edge itself colours are mixed with what is
    /// beyond.</summary>
    private const double Inside = 0.15, FarthestInside = 0.8;

    private static readonly ConditionalWeakTable<Piece, Dictionary<PrintSettings, PrintedArt>> Known = [];

    private PrintedArt(Piece piece, PrintSettings print)
    {
        var outline = piece.Outline;
        Grown = print.Bleed.Mm > 0 ? VectorPath.Joined(Outsets.Of(outline, print.Bleed.Mm)) : outline;
        Items = Of(piece, Grown.Bounds, _ => true);
        // What is tiled goes on by itself, beyond the edge as well; what ends at the edge is carried on.
        var ending = Of(piece, Grown.Bounds, a => !a.IsTiled);
        Beyond = print.Bleed.Mm > 0 && !ending.IsEmpty ? BeyondTheEdge(outline, ending, print) : null;
    }

    /// <summary>What is printed, from bottom to top, in the piece's coordinates.</summary>
    public ImmutableArray<DrawnItem> Items { get; }

    /// <summary>The outline with its bleed; holes are smaller by it.</summary>
    public VectorPath Grown { get; }

    /// <summary>What lies under the items around the edge, so that no white is seen where the cut is off: a picture, see-through elsewhere.</summary>
    public DrawnItem? Beyond { get; }

    /// <summary>Of a piece as it is printed; remembered with the piece.</summary>
    public static PrintedArt Of(Piece piece, PrintSettings print)
    {
        // What else the settings say does not change what a piece looks like.
        var key = print with { Marks = null, Inset = Length.Zero, UnderOthers = null };
        var known = Known.GetOrCreateValue(piece);
        lock (known) return known.TryGetValue(key, out var art) ? art : known[key] = new(piece, key);
    }

    /// <summary>What is printed on a piece, from bottom to top.</summary>
    public static ImmutableArray<DrawnItem> Of(Piece piece) => Of(piece, piece.Outline.Bounds, _ => true);

    private static ImmutableArray<DrawnItem> Of(Piece piece, Box over, Func<Artwork, bool> wanted) =>
    [
        .. piece.Printed.Where(p => p.Art is null || wanted(p.Art))
            .SelectMany(p => p.Art?.Drawn(over) ?? [new DrawnPath("", "", p.Line!.Path, p.Line.InkPrinted)]),
    ];

    /// <summary>
    /// What is printed at the edge, carried on beyond it: each place outside takes the colour of the nearest place inside, or of that which lies as far on the
    /// other side of the edge. Where what is printed ends before the edge, nothing is carried on. Nearest places by a vector distance transform (Danielsson
    /// 1980, in two sweeps of the eight neighbours), exact to a fraction of a pixel; time and memory are linear in the pixels of the piece at 300 an inch.
    /// </summary>
    private static DrawnItem? BeyondTheEdge(VectorPath outline, ImmutableArray<DrawnItem> items, PrintSettings print)
    {
        var box = outline.Bounds.Grown(print.Bleed.Mm + 1);
        // A sheet that is larger than any is not held in memory at full resolution.
        var scale = Math.Min(PxPerMm, Math.Sqrt(24e6 / Math.Max(1, box.Area)));
        int w = Math.Max(2, (int)Math.Ceiling(box.Width * scale)), h = Math.Max(2, (int)Math.Ceiling(box.Height * scale));
        var toPx = Affine.Move(-box.Left, -box.Top).Then(Affine.Scale(scale, scale));
        var painted = Canvas.Painted(w, h, [new(null, toPx, items)]);
        byte[] inside = Paper(Outsets.Of(outline, -Inside)), paper = Paper([outline]);
        var nearest = NearestOf(w, h, i => inside[4 * i + 3] >= 128 && painted[4 * i + 3] >= 250);
        // Tips that are too fine to have an inside are taken as they are.
        var far = FarthestInside * scale;
        var fine = Enumerable.Range(0, w * h).Any(IsFine) ? NearestOf(w, h, i => IsFine(i) || nearest[i] is (0, 0)) : nearest;
        var edge = NearestOf(w, h, i => paper[4 * i + 3] > 0);
        var reach = (print.Bleed.Mm + 0.2) * scale;

        byte[] Paper(IReadOnlyList<VectorPath> parts) =>
            Canvas.Painted(w, h, [new(null, toPx, [.. parts.Select(p => new DrawnPath("", "", p, new(Colour.Black, FillRule.EvenOdd, null)))])]);

        bool IsFine(int i) => paper[4 * i + 3] >= 32 && painted[4 * i + 3] >= 250 && Norm(nearest[i]) > far / 2;

        static double Norm((short X, short Y) d) => Math.Sqrt((double)d.X * d.X + (double)d.Y * d.Y);

        var beyond = new byte[painted.Length];
        var any = false;
        for (var y = 0; y < h; y++)
        {
            for (var x = 0; x < w; x++)
            {
                var i = y * w + x;
                // Inside it stays as it is drawn, but for the rim whose colours are mixed.
                if (inside[4 * i + 3] >= 128 || edge[i].Y == short.MaxValue || Norm(edge[i]) > reach) continue;
                var from = edge[i];
                var at = i + from.Y * w + from.X;
                if (fine[at].Y == short.MaxValue || Norm(fine[at]) > far) continue;
                var source = at + fine[at].Y * w + fine[at].X;
                if (print.BleedBy == BleedBy.Mirror)
                {
                    int mx = x + 2 * from.X, my = y + 2 * from.Y, mirrored = my * w + mx;
                    if (mx >= 0 && my >= 0 && mx < w && my < h && inside[4 * mirrored + 3] >= 128 && painted[4 * mirrored + 3] >= 250) source = mirrored;
                }

                Array.Copy(painted, 4 * source, beyond, 4 * i, 3);
                beyond[4 * i + 3] = 255;
                any = true;
            }
        }

        if (!any) return null;
        var picture = new Picture([.. new Raster(w, h, beyond, null).ToPng()]);
        return new DrawnPicture("", "", picture.MediaType, picture.Bytes, Affine.Scale(w, h).Then(toPx.Inverse()), 1);
    }

    /// <summary>For each pixel how far the nearest one that is wanted lies; both <see cref="short.MaxValue"/> where there is none.</summary>
    private static (short X, short Y)[] NearestOf(int w, int h, Func<int, bool> wanted)
    {
        var to = new (short X, short Y)[w * h];
        for (var i = 0; i < to.Length; i++) to[i] = wanted(i) ? ((short)0, (short)0) : (short.MaxValue, short.MaxValue);
        for (var y = 0; y < h; y++)
        {
            for (var x = 0; x < w; x++)
            {
                if (IsIt(x, y)) continue;
                Take(x, y, -1, 0);
                Take(x, y, 0, -1);
                Take(x, y, -1, -1);
                Take(x, y, 1, -1);
            }

            for (var x = w - 1; x >= 0; x--)
                if (!IsIt(x, y)) Take(x, y, 1, 0);
        }

        for (var y = h - 1; y >= 0; y--)
        {
            for (var x = w - 1; x >= 0; x--)
            {
                if (IsIt(x, y)) continue;
                Take(x, y, 1, 0);
                Take(x, y, 0, 1);
                Take(x, y, 1, 1);
                Take(x, y, -1, 1);
            }

            for (var x = 0; x < w; x++)
                if (!IsIt(x, y)) Take(x, y, -1, 0);
        }

        return to;

        // Most of a piece is its own nearest, and asks nobody.
        bool IsIt(int x, int y) => to[y * w + x] is (0, 0);

        void Take(int x, int y, int dx, int dy)
        {
            int nx = x + dx, ny = y + dy;
            if (nx < 0 || ny < 0 || nx >= w || ny >= h) return;
            var from = to[ny * w + nx];
            if (from.X == short.MaxValue) return;
            var (tx, ty) = (from.X + dx, from.Y + dy);
            var own = to[y * w + x];
            if (own.X == short.MaxValue || tx * tx + ty * ty < own.X * own.X + own.Y * own.Y) to[y * w + x] = ((short)tx, (short)ty);
        }
    }
}
