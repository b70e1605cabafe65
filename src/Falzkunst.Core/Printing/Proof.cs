using Falzkunst.Core.Files;
using Falzkunst.Core.Pictures;

namespace Falzkunst.Core.Printing;

/// <summary>How far the print of a piece lies from where it is cut.</summary>
/// <param name="At">The middle of the piece on the sheet.</param>
/// <param name="Off">From the cut to the print, in mm of the sheet.</param>
public sealed record PieceOff(string PieceId, string Label, Point At, Point Off);

/// <summary>A stretch along a cut where white paper would be left inside it.</summary>
/// <param name="At">Its middle, on the sheet.</param>
public sealed record Sliver(string PieceId, Point At, double LengthMm);

/// <summary>The cut held against the print, before anything is cut.</summary>
/// <param name="Pieces">Those whose print shows where it lies.</param>
public sealed record Proof(ImmutableArray<PieceOff> Pieces, ImmutableArray<Sliver> Slivers)
{
    private const double Step = 0.3, Dpi = 150;

    /// <summary>The farthest that a print lies off its cut, in mm; null where no piece shows it.</summary>
    public double? LargestMm => Pieces.IsEmpty ? null : Pieces.Max(p => p.Off.Norm);

    /// <summary>That in the middle of all pieces.</summary>
    public double? TypicalMm => Pieces.IsEmpty ? null : Pieces.Select(p => p.Off.Norm).Order().ElementAt(Pieces.Length / 2);

    /// <summary>
    /// Compares what was planned with what was seen, piece by piece: the shift that brings one onto the other, by least squares along the gradient of the
    /// picture with the contrast as a second unknown (Lucas and Kanade 1981). It uses nothing of the marks but where they say that the sheet lies, so it also
    /// tells where they are wrong, or paper bows between them. Slivers are looked for along each cut, a tenth of a millimetre inside.
    /// </summary>
    /// <param name="map">From the sheet to what was seen, in mm.</param>
    public static Proof Of(PrintSheet sheet, GreyPicture seen, double pxPerMm, Projective map, CancellationToken cancel = default)
    {
        var planned = GreyPicture.Read(PrintFile.Png(sheet, Dpi), ReadingLimits.Default);
        var offs = ImmutableArray.CreateBuilder<PieceOff>();
        var slivers = ImmutableArray.CreateBuilder<Sliver>();
        foreach (var piece in sheet.Pieces)
        {
            cancel.ThrowIfCancellationRequested();
            var fit = Fit(piece.Clip.Bounds);
            if (fit is { } f && f.Sure) offs.Add(new(piece.Piece.Id, piece.Piece.Label, piece.Outline.Bounds.Centre, f.Off));
            slivers.AddRange(Slivers(piece, PaperAround(piece.Clip.Bounds)));
        }

        return new(offs.ToImmutable(), slivers.ToImmutable());

        double Planned(Point p) => planned.At(p.X * Dpi / Length.MmPerInch, p.Y * Dpi / Length.MmPerInch);

        double Seen(Point p)
        {
            var at = map.Apply(p) * pxPerMm;
            // A little blur, as the plan has at its resolution.
            const double a = 0.06;
            var b = a * pxPerMm;
            return (seen.At(at.X - b, at.Y - b) + seen.At(at.X + b, at.Y - b) + seen.At(at.X - b, at.Y + b) + seen.At(at.X + b, at.Y + b)) / 4;
        }

        (Point Off, bool Sure)? Fit(Box box)
        {
            var off = new Point(0, 0);
            var sure = false;
            // First over slopes of a millimetre, which a print that is far off is still on; then over finer ones.
            foreach (var reach in (double[])[0.8, 0.4, 0.2, 0.2])
            {
                var (information, right) = (new double[4, 4], new double[4]);
                double slopes = 0;
                var count = 0;
                for (var y = box.Top; y < box.Bottom; y += Step)
                {
                    for (var x = box.Left; x < box.Right; x += Step)
                    {
                        var p = new Point(x, y);
                        double gx = (Planned(p + new Point(reach, 0)) - Planned(p - new Point(reach, 0))) / (2 * reach),
                            gy = (Planned(p + new Point(0, reach)) - Planned(p - new Point(0, reach))) / (2 * reach);
                        double[] row = [Mean(Planned, p, reach), 1, -gx, -gy];
                        var value = Mean(Seen, p + off, reach);
                        for (var a = 0; a < 4; a++)
                        {
                            right[a] += row[a] * value;
                            for (var b = 0; b <= a; b++) information[a, b] += row[a] * row[b];
                        }

                        slopes += Math.Min(gx * gx, 400) + Math.Min(gy * gy, 400);
                        count++;
                    }
                }

                // Without edges in both directions nothing tells where it lies.
                if (slopes < 3 * count || Cholesky.Solved(information, right) is not [var k, _, var dx, var dy] || k < 0.2) return null;
                off += new Point(dx / k, dy / k);
                sure = Math.Abs(dx / k) + Math.Abs(dy / k) < 0.1;
                if (off.Norm > 3) return null;
            }

            return (off, sure);
        }

        static double Mean(Func<Point, double> of, Point p, double reach) =>
            (2 * of(p) + of(p + new Point(reach, 0)) + of(p - new Point(reach, 0)) + of(p + new Point(0, reach)) + of(p - new Point(0, reach))) / 6;

        // How light bare paper is around a piece.
        double PaperAround(Box box)
        {
            double light = 0;
            box = box.Grown(6);
            for (var y = Math.Max(0, box.Top); y < Math.Min(sheet.Height.Mm, box.Bottom); y += 0.5)
                for (var x = Math.Max(0, box.Left); x < Math.Min(sheet.Width.Mm, box.Right); x += 0.5) light = Math.Max(light, Seen(new(x, y)));
            return Math.Max(1, light);
        }

        IEnumerable<Sliver> Slivers(PieceOnSheet piece, double paper)
        {
            const double step = 0.25, inside = 0.1, least = 0.5, black = 0.07;
            foreach (var ring in piece.Outline.Rings)
            {
                var white = 0.0;
                var middle = new List<Point>();
                for (var i = 0; i < ring.Count; i++)
                {
                    Point a = ring[i], along = ring[(i + 1) % ring.Count] - a;
                    if (along.Norm < 1e-9) continue;
                    var inwards = new Point(-along.Y, along.X) * (inside / along.Norm);
                    for (var t = step / 2; t < along.Norm + step / 2; t += step)
                    {
                        var p = a + along * Math.Min(1, t / along.Norm) + inwards;
                        double asked = Planned(p), there = 255 * (Seen(p) / paper - black) / (1 - black);
                        if (asked < 215 && there > asked + 0.65 * (255 - asked))
                        {
                            white += Math.Min(step, along.Norm);
                            middle.Add(p);
                        }
                        else if (middle.Count > 0)
                        {
                            if (white >= least) yield return new(piece.Piece.Id, middle[middle.Count / 2], white);
                            white = 0;
                            middle.Clear();
                        }
                    }
                }

                if (white >= least) yield return new(piece.Piece.Id, middle[middle.Count / 2], white);
            }
        }
    }
}
