using Falzkunst.Core.Cards;
using Falzkunst.Core.Pictures;
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

/// <summary>Draws designs, as pictures and as PDF.</summary>
public static class Paper
{
    private const double PtPerMm = 72 / Length.MmPerInch;

    /// <summary>The most pixels that a rendered picture may have.</summary>
    public const long MostPixels = 100_000_000;

    /// <summary>
    /// The page of the design as PNG on a transparent ground, exactly its size at <paramref name="dpi"/>, rounded up to whole pixels.
    /// </summary>
    /// <exception cref="ArgumentOutOfRangeException">The picture would have more than <see cref="MostPixels"/>.</exception>
    public static (byte[] Png, int WidthPx, int HeightPx) Render(Design design, double dpi, DrawAs how) => Png(design.Width, design.Height, dpi,
        SKColors.Transparent, canvas => Draw(canvas, design, how, 0.75 * Length.MmPerInch / dpi));

    private static (byte[] Png, int WidthPx, int HeightPx) Png(Length width, Length height, double dpi, SKColor ground, Action<SKCanvas> draw)
    {
        var scale = dpi / Length.MmPerInch;
        double w = Math.Ceiling(width.Mm * scale - 1e-6), h = Math.Ceiling(height.Mm * scale - 1e-6);
        if (!(w * h <= MostPixels) || !(w * h > 0)) throw new ArgumentOutOfRangeException(nameof(dpi),
            $"The picture would have {w:0} × {h:0} pixels; take fewer dots an inch.");
        using var surface = SKSurface.Create(new SKImageInfo((int)w, (int)h, SKColorType.Rgba8888, SKAlphaType.Premul))
            ?? throw new ArgumentOutOfRangeException(nameof(dpi), "There is not enough memory for a picture of this size; take fewer dots an inch.");
        surface.Canvas.Clear(ground);
        surface.Canvas.Scale((float)scale);
        draw(surface.Canvas);
        using var image = surface.Snapshot();
        using var data = image.Encode(SKEncodedImageFormat.Png, 100);
        return (data.ToArray(), (int)w, (int)h);
    }

    /// <summary>A PDF of true size with a page for each sheet; vectors stay vectors, and pictures what they are.</summary>
    public static byte[] Pdf(IReadOnlyList<(Length Width, Length Height, IReadOnlyList<Layer> Layers)> pages)
    {
        var images = new Dictionary<ImmutableArray<byte>, SKImage>();
        try
        {
            return Pdf(pages.Select(p => (p.Width, p.Height)), (canvas, k) => Canvas.Layers(canvas, pages[k].Layers, images));
        }
        finally
        {
            foreach (var image in images.Values) image.Dispose();
        }
    }

    /// <summary>Layers as PNG on white, exactly the size of their sheet, rounded up to whole pixels.</summary>
    /// <exception cref="ArgumentOutOfRangeException">The picture would have more than <see cref="MostPixels"/>.</exception>
    public static byte[] Png(Length width, Length height, double dpi, IReadOnlyList<Layer> layers) =>
        Png(width, height, dpi, SKColors.White, canvas => Canvas.Layers(canvas, layers)).Png;

    /// <summary>The finest line that is still seen, in the colour of an operation.</summary>
    public static Ink Hairline(Operation operation) => new(null, FillRule.EvenOdd,
        new(Colour.FromHex(operation.ColourHex()), Length.FromMm(0.1), LineCap.Butt, LineJoin.Miter, 4, [], Length.Zero));

    private static byte[] Pdf(IEnumerable<(Length Width, Length Height)> pages, Action<SKCanvas, int> draw)
    {
        using var buffer = new System.IO.MemoryStream();
        using (var document = SKDocument.CreatePdf(buffer, new SKDocumentPdfMetadata { RasterDpi = 2540, EncodingQuality = 101, Creator = "Falzkunst" }))
        {
            foreach (var ((width, height), k) in pages.Select((p, k) => (p, k)))
            {
                var canvas = document.BeginPage((float)(width.Mm * PtPerMm), (float)(height.Mm * PtPerMm));
                canvas.Scale((float)PtPerMm);
                draw(canvas, k);
                document.EndPage();
            }
        }

        return buffer.ToArray();
    }

    private static void Draw(SKCanvas canvas, Design design, DrawAs how, double hairline)
    {
        var items = design.Pieces.Select(p => (Order: p.Origin?.Order ?? -1, Kind: 0, Item: (object)p))
            .Concat(design.Artwork.Select(a => (Order: a.Artwork.Origin?.Order ?? int.MaxValue, Kind: 1, Item: (object)a)))
            .Concat(design.Lines.Select(l => (Order: l.Line.Origin?.Order ?? int.MaxValue, Kind: 2, Item: (object)l)))
            .OrderBy(t => t.Order).ThenBy(t => t.Kind);
        foreach (var (_, _, item) in items)
        {
            switch (item)
            {
                case Piece p when how == DrawAs.Artwork:
                    ArtworkOf(canvas, p);
                    break;
                case Piece p:
                    for (var i = 0; i < p.Edges.Length; i++)
                        Line(canvas, new([p.OnCard.Subpaths[i]]), how == DrawAs.Outline ? Colour.Black
                            : Colour.FromHex(p.Edges[i].Operation.ColourHex()), hairline);
                    break;
                case LaidArtwork { By: { Origin.Ink.IsPainted: true } piece } a when how == DrawAs.Artwork && piece.Origin!.Order == a.Artwork.Origin?.Order:
                    Canvas.Within(canvas, piece.OnCard, FillRule.EvenOdd, () => Picture(a));
                    break;
                case LaidArtwork { Artwork.IsTiled: true, By: { } on } a when how == DrawAs.Artwork:
                    Canvas.Layers(canvas, [new(on.OnCard, on.Place.Map, [.. a.Artwork.Drawn(on.Outline.Bounds)])]);
                    break;
                case LaidArtwork { Artwork.Picture: not null } a when how == DrawAs.Artwork:
                    Picture(a);
                    break;
                case LaidLine { Operation: Operation.Print } l when how == DrawAs.Artwork:
                    Canvas.Inked(canvas, l.Path, l.Line.InkPrinted, l.Line.InkPrinted.Rule);
                    break;
                case LaidLine l when how == DrawAs.Artwork:
                    Canvas.Inked(canvas, l.Path, l.Ink with { Fill = null });
                    break;
                case LaidLine l:
                    Line(canvas, l.Path, how == DrawAs.Outline ? Colour.Black : Colour.FromHex(l.Operation.ColourHex()), hairline);
                    break;
            }
        }

        void Picture(LaidArtwork a) => Canvas.Picture(canvas, a.Artwork.Picture!.Bytes.AsSpan(), a.Map, a.Artwork.Opacity);
    }

    private static void ArtworkOf(SKCanvas canvas, Piece piece)
    {
        // What nobody drew is plain paper; what is painted with a picture has that picture above it.
        var ink = piece.Origin?.Ink ?? new(piece.Colour, FillRule.EvenOdd, null);
        if (ink.IsPainted) ink = ink with { Fill = null };
        var own = new VectorPath([.. piece.OnCard.Subpaths.Where((_, i) => piece.Edges[i].Origin is null)]);
        Canvas.Inked(canvas, own, ink);
        for (var i = 0; i < piece.Edges.Length; i++)
            if (piece.Edges[i].Origin is { } drawn) Canvas.Inked(canvas, new([piece.OnCard.Subpaths[i]]), drawn.Ink);
    }

    private static void Line(SKCanvas canvas, VectorPath path, Colour colour, double widthMm)
    {
        using var sk = Canvas.ToSkia(path);
        using var pen = new SKPaint { IsAntialias = true, Style = SKPaintStyle.Stroke, Color = Canvas.ToSkia(colour), StrokeWidth = (float)widthMm };
        canvas.DrawPath(sk, pen);
    }
}
