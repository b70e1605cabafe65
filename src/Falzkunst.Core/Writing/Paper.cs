using Falzkunst.Core.Cards;
using Falzkunst.Core.Reading;
using SkiaSharp;

namespace Falzkunst.Core.Writing;

/// <summary>How a design is drawn.</summary>
public enum DrawAs
{
    /// <summary>As it looks in its file.</summary>
    Artwork,

    /// <summary>Outlines and lines as hairlines.</summary>
    Outline,

    /// <summary>Each line in the colour of its operation.</summary>
    Operations,
}

/// <summary>Draws designs with the raster and PDF library; the only place that knows it.</summary>
public static class Paper
{
    private const double PtPerMm = 72 / Length.MmPerInch;

    /// <summary>The most pixels that a rendered picture may have.</summary>
    public const long MostPixels = 100_000_000;

    /// <summary>
    /// The page of the design as PNG on a transparent ground, exactly its size at <paramref name="dpi"/>, rounded up to whole pixels.
    /// </summary>
    /// <exception cref="ArgumentOutOfRangeException">The picture would have more than <see cref="MostPixels"/>.</exception>
    public static (byte[] Png, int WidthPx, int HeightPx) Render(Design design, double dpi, DrawAs how)
    {
        var scale = dpi / Length.MmPerInch;
        double w = Math.Ceiling(design.WidthMm * scale - 1e-6), h = Math.Ceiling(design.HeightMm * scale - 1e-6);
        if (!(w * h <= MostPixels) || !(w * h > 0)) throw new ArgumentOutOfRangeException(nameof(dpi), $"The picture would have {w:0} × {h:0} pixels; take fewer dots an inch.");
        using var surface = SKSurface.Create(new SKImageInfo((int)w, (int)h, SKColorType.Rgba8888, SKAlphaType.Premul))
            ?? throw new ArgumentOutOfRangeException(nameof(dpi), "There is not enough memory for a picture of this size; take fewer dots an inch.");
        surface.Canvas.Clear(SKColors.Transparent);
        surface.Canvas.Scale((float)scale);
        Draw(surface.Canvas, design, how, 0.75 / scale);
        using var image = surface.Snapshot();
        using var data = image.Encode(SKEncodedImageFormat.Png, 100);
        return (data.ToArray(), (int)w, (int)h);
    }

    /// <summary>A PDF of true size with one page for each sheet; vectors stay vectors.</summary>
    public static byte[] Pdf(IReadOnlyList<(double WidthMm, double HeightMm, IReadOnlyList<(Operation Operation, VectorPath Path)> Lines)> pages)
    {
        using var buffer = new System.IO.MemoryStream();
        using (var document = SKDocument.CreatePdf(buffer, new SKDocumentPdfMetadata { RasterDpi = 2540, EncodingQuality = 100, Creator = "Falzkunst" }))
        {
            foreach (var (width, height, lines) in pages)
            {
                var canvas = document.BeginPage((float)(width * PtPerMm), (float)(height * PtPerMm));
                canvas.Scale((float)PtPerMm);
                foreach (var (operation, path) in lines) Line(canvas, path, Colour.FromHex(operation.ColourHex()), 0.1);
                document.EndPage();
            }
        }

        return buffer.ToArray();
    }

    private static void Draw(SKCanvas canvas, Design design, DrawAs how, double hairline)
    {
        var items = design.Pieces.Select(p => (p.Order, Kind: 0, Item: (object)p))
            .Concat(design.Artwork.Select(a => (a.Order, Kind: 1, Item: (object)a)))
            .Concat(design.Lines.Select(l => (l.Order, Kind: 2, Item: (object)l)))
            .OrderBy(t => t.Order).ThenBy(t => t.Kind);
        foreach (var (_, _, item) in items)
        {
            switch (item)
            {
                case Piece p when how == DrawAs.Artwork:
                    ArtworkOf(canvas, p);
                    break;
                case Piece p:
                    for (var i = 0; i < p.Outline.Subpaths.Length; i++)
                        Line(canvas, new([p.Outline.Subpaths[i]]), how == DrawAs.Outline ? Colour.Black : Colour.FromHex((i == 0 ? p.OuterOperation : p.HoleOperation).ColourHex()), hairline);
                    break;
                case Artwork a when how == DrawAs.Artwork:
                    Picture(canvas, a);
                    break;
                case Line l when how == DrawAs.Artwork:
                    Inked(canvas, l.Path, l.Ink with { Fill = null });
                    break;
                case Line l:
                    Line(canvas, l.Path, how == DrawAs.Outline ? Colour.Black : Colour.FromHex(l.Operation.ColourHex()), hairline);
                    break;
            }
        }
    }

    private static void ArtworkOf(SKCanvas canvas, Piece piece)
    {
        if (piece.Holes.IsEmpty)
        {
            Inked(canvas, piece.Outline, piece.Ink);
            return;
        }

        Inked(canvas, new([piece.Outline.Subpaths[0]]), piece.Ink);
        for (var i = 0; i < piece.Holes.Length; i++) Inked(canvas, new([piece.Outline.Subpaths[i + 1]]), piece.Holes[i].Ink);
    }

    private static void Inked(SKCanvas canvas, VectorPath path, Ink ink)
    {
        using var sk = ToSkia(path);
        if (ink.Fill is { } fill)
        {
            using var paint = new SKPaint { IsAntialias = true, Style = SKPaintStyle.Fill, Color = ToSkia(fill) };
            canvas.DrawPath(sk, paint);
        }

        if (ink.Stroke is not { } s) return;
        using var pen = new SKPaint
        {
            IsAntialias = true,
            Style = SKPaintStyle.Stroke,
            Color = ToSkia(s.Colour),
            StrokeWidth = (float)s.WidthMm,
            StrokeCap = s.Cap switch { LineCap.Round => SKStrokeCap.Round, LineCap.Square => SKStrokeCap.Square, _ => SKStrokeCap.Butt },
            StrokeJoin = s.Join switch { LineJoin.Round => SKStrokeJoin.Round, LineJoin.Bevel => SKStrokeJoin.Bevel, _ => SKStrokeJoin.Miter },
            StrokeMiter = (float)s.MiterLimit,
        };
        using var dashes = s.DashesMm.IsEmpty ? null : SKPathEffect.CreateDash([.. s.DashesMm.Select(d => (float)d)], (float)s.DashOffsetMm);
        pen.PathEffect = dashes;
        canvas.DrawPath(sk, pen);
    }

    private static void Line(SKCanvas canvas, VectorPath path, Colour colour, double widthMm)
    {
        using var sk = ToSkia(path);
        using var pen = new SKPaint { IsAntialias = true, Style = SKPaintStyle.Stroke, Color = ToSkia(colour), StrokeWidth = (float)widthMm };
        canvas.DrawPath(sk, pen);
    }

    private static void Picture(SKCanvas canvas, Artwork artwork)
    {
        using var data = SKData.CreateCopy(artwork.Bytes.AsSpan());
        using var codec = SKCodec.Create(data);
        if (codec is null) return;
        using var bitmap = new SKBitmap(codec.Info.WithColorType(SKColorType.Rgba8888).WithAlphaType(SKAlphaType.Premul));
        // What could be decoded of a damaged picture is shown.
        codec.GetPixels(bitmap.Info, bitmap.GetPixels());
        using var image = SKImage.FromBitmap(bitmap);
        canvas.Save();
        var m = artwork.Place;
        canvas.Concat(new SKMatrix((float)m.A, (float)m.C, (float)m.E, (float)m.B, (float)m.D, (float)m.F, 0, 0, 1));
        using var paint = new SKPaint { Color = SKColors.White.WithAlpha((byte)Math.Round(artwork.Opacity * 255)) };
        canvas.DrawImage(image, new SKRect(0, 0, 1, 1), new SKSamplingOptions(SKFilterMode.Linear, SKMipmapMode.Linear), paint);
        canvas.Restore();
    }

    private static SKColor ToSkia(Colour c) => new(c.R, c.G, c.B, (byte)Math.Round(c.Alpha * 255));

    private static SKPath ToSkia(VectorPath path)
    {
        using var b = new SKPathBuilder { FillType = SKPathFillType.EvenOdd };
        foreach (var sub in path.Subpaths)
        {
            b.MoveTo((float)sub.Start.X, (float)sub.Start.Y);
            foreach (var s in sub.Segments)
            {
                if (s.IsCurve) b.CubicTo((float)s.C1.X, (float)s.C1.Y, (float)s.C2.X, (float)s.C2.Y, (float)s.End.X, (float)s.End.Y);
                else b.LineTo((float)s.End.X, (float)s.End.Y);
            }

            if (sub.Closed) b.Close();
        }

        return b.Detach();
    }
}
