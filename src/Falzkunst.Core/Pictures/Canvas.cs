using SkiaSharp;

namespace Falzkunst.Core.Pictures;

/// <summary>Our paths, colours and pictures on the raster library's canvas.</summary>
internal static class Canvas
{
    /// <summary>Draws something of a drawing, as it stands there.</summary>
    /// <param name="images">The pictures of a document so far, which takes their bytes as they are and each once; null outside a document.</param>
    public static void Item(SKCanvas canvas, DrawnItem item, Dictionary<ImmutableArray<byte>, SKImage>? images = null)
    {
        if (item is DrawnPath path)
        {
            if (path.Paint is { } paint) Within(canvas, path.Path, path.Ink.Rule, () => Picture(canvas, paint.Bytes.AsSpan(), paint.Place, paint.Opacity));
            Inked(canvas, path.Path, path.Paint is null ? path.Ink : path.Ink with { Fill = null }, path.Ink.Rule);
        }
        else if (item is DrawnPicture picture)
        {
            if (images is null) Picture(canvas, picture.Bytes.AsSpan(), picture.Place, picture.Opacity);
            else if (AsItCame(picture.Bytes, images) is { } image) Picture(canvas, image, picture.Place, picture.Opacity);
        }
    }

    /// <summary>Draws layers, each within its path.</summary>
    public static void Layers(SKCanvas canvas, IEnumerable<Layer> layers, Dictionary<ImmutableArray<byte>, SKImage>? images = null)
    {
        foreach (var layer in layers)
        {
            if (layer.Within is { } within) Within(canvas, within, FillRule.EvenOdd, Draw);
            else Draw();

            void Draw()
            {
                canvas.Save();
                canvas.Concat(ToSkia(layer.Map));
                foreach (var item in layer.Items) Item(canvas, item, images);
                canvas.Restore();
            }
        }
    }

    /// <summary>What is painted, as four bytes a pixel (red, green, blue, alpha, premultiplied).</summary>
    public static byte[] Painted(int width, int height, IEnumerable<Layer> layers)
    {
        using var bitmap = new SKBitmap(new SKImageInfo(width, height, SKColorType.Rgba8888, SKAlphaType.Premul));
        bitmap.Erase(SKColors.Transparent);
        using var canvas = new SKCanvas(bitmap);
        Layers(canvas, layers);
        canvas.Flush();
        return bitmap.GetPixelSpan().ToArray();
    }

    private static SKImage? AsItCame(ImmutableArray<byte> bytes, Dictionary<ImmutableArray<byte>, SKImage> images)
    {
        if (images.TryGetValue(bytes, out var known)) return known;
        using var data = SKData.CreateCopy(bytes.AsSpan());
        return SKImage.FromEncodedData(data) is { } image ? images[bytes] = image : null;
    }

    /// <summary>Draws only what lies inside a path.</summary>
    public static void Within(SKCanvas canvas, VectorPath path, FillRule rule, Action draw)
    {
        using var sk = ToSkia(path, rule);
        canvas.Save();
        canvas.ClipPath(sk, SKClipOperation.Intersect, true);
        draw();
        canvas.Restore();
    }

    /// <summary>A picture, see-through outside some paths; null where it can't be decoded.</summary>
    /// <param name="place">Maps the unit square to where it lies.</param>
    public static byte[]? Clipped(ReadOnlySpan<byte> bytes, Affine place, IReadOnlyList<VectorPath> inside)
    {
        if (PictureFacts.Read(bytes) is not { } facts) return null;
        var m = ToSkia(place);
        if (!m.IsInvertible) return null;
        using var surface = SKSurface.Create(new SKImageInfo(facts.WidthPx, facts.HeightPx, SKColorType.Rgba8888, SKAlphaType.Premul));
        surface.Canvas.Scale(facts.WidthPx, facts.HeightPx);
        surface.Canvas.Concat(m.Invert());
        using var sk = ToSkia(VectorPath.Joined(inside));
        surface.Canvas.ClipPath(sk, SKClipOperation.Intersect, true);
        Picture(surface.Canvas, bytes, place, 1);
        return Png(surface);
    }

    /// <summary>What was drawn, as PNG; packed quickly rather than small.</summary>
    public static byte[] Png(SKSurface surface)
    {
        using var image = surface.Snapshot();
        using var pixels = image.PeekPixels();
        using var data = pixels.Encode(new SKPngEncoderOptions(SKPngEncoderFilterFlags.Sub, 3))!;
        return data.ToArray();
    }

    /// <summary>Draws a path as its ink says.</summary>
    public static void Inked(SKCanvas canvas, VectorPath path, Ink ink, FillRule rule = FillRule.EvenOdd)
    {
        using var sk = ToSkia(path, rule);
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
            StrokeWidth = (float)s.Width.Mm,
            StrokeCap = s.Cap switch { LineCap.Round => SKStrokeCap.Round, LineCap.Square => SKStrokeCap.Square, _ => SKStrokeCap.Butt },
            StrokeJoin = s.Join switch { LineJoin.Round => SKStrokeJoin.Round, LineJoin.Bevel => SKStrokeJoin.Bevel, _ => SKStrokeJoin.Miter },
            StrokeMiter = (float)s.MiterLimit,
        };
        using var dashes = s.Dashes.IsEmpty ? null : SKPathEffect.CreateDash([.. s.Dashes.Select(d => (float)d.Mm)], (float)s.DashOffset.Mm);
        pen.PathEffect = dashes;
        canvas.DrawPath(sk, pen);
    }

    /// <summary>Draws a picture; what could be decoded of a damaged one is shown.</summary>
    /// <param name="place">Maps the unit square to where it lies.</param>
    public static void Picture(SKCanvas canvas, ReadOnlySpan<byte> bytes, Affine place, double opacity)
    {
        using var data = SKData.CreateCopy(bytes);
        using var codec = SKCodec.Create(data);
        if (codec is null) return;
        using var bitmap = new SKBitmap(codec.Info.WithColorType(SKColorType.Rgba8888).WithAlphaType(SKAlphaType.Premul));
        codec.GetPixels(bitmap.Info, bitmap.GetPixels());
        using var image = SKImage.FromBitmap(bitmap);
        Picture(canvas, image, place, opacity);
    }

    private static void Picture(SKCanvas canvas, SKImage image, Affine place, double opacity)
    {
        canvas.Save();
        canvas.Concat(ToSkia(place));
        using var paint = new SKPaint { Color = SKColors.White.WithAlpha((byte)Math.Round(opacity * 255)) };
        canvas.DrawImage(image, new SKRect(0, 0, 1, 1), new SKSamplingOptions(SKFilterMode.Linear, SKMipmapMode.Linear), paint);
        canvas.Restore();
    }

    public static SKColor ToSkia(Colour c) => new(c.R, c.G, c.B, (byte)Math.Round(c.Alpha * 255));

    public static SKMatrix ToSkia(Affine m) => new((float)m.A, (float)m.C, (float)m.E, (float)m.B, (float)m.D, (float)m.F, 0, 0, 1);

    public static SKPath ToSkia(VectorPath path, FillRule rule = FillRule.EvenOdd)
    {
        using var b = new SKPathBuilder { FillType = rule == FillRule.EvenOdd ? SKPathFillType.EvenOdd : SKPathFillType.Winding };
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
