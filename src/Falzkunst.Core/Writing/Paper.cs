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
    public static (byte[] Png, int WidthPx, int HeightPx) Render(Design design, double dpi, DrawAs how)
    {
        var scale = dpi / Length.MmPerInch;
        double w = Math.Ceiling(design.Width.Mm * scale - 1e-6), h = Math.Ceiling(design.Height.Mm * scale - 1e-6);
        if (!(w * h <= MostPixels) || !(w * h > 0)) throw new ArgumentOutOfRangeException(nameof(dpi),
            $"The picture would have {w:0} × {h:0} pixels; take fewer dots an inch.");
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
    public static byte[] Pdf(IReadOnlyList<(Length Width, Length Height, IReadOnlyList<(Operation Operation, VectorPath Path)> Lines)> pages) =>
        Pdf(pages.Select(p => (p.Width, p.Height)), (canvas, k) =>
        {
            foreach (var (operation, path) in pages[k].Lines) Line(canvas, path, Colour.FromHex(operation.ColourHex()), 0.1);
        });

    /// <summary>A PDF of true size with areas in black.</summary>
    public static byte[] Inked(IReadOnlyList<(Length Width, Length Height, IReadOnlyList<VectorPath> Ink)> pages) =>
        Pdf(pages.Select(p => (p.Width, p.Height)), (canvas, k) =>
        {
            foreach (var ink in pages[k].Ink) Canvas.Inked(canvas, ink, new(Colour.Black, FillRule.NonZero, null));
        });

    private static byte[] Pdf(IEnumerable<(Length Width, Length Height)> pages, Action<SKCanvas, int> draw)
    {
        using var buffer = new System.IO.MemoryStream();
        using (var document = SKDocument.CreatePdf(buffer, new SKDocumentPdfMetadata { RasterDpi = 2540, EncodingQuality = 100, Creator = "Falzkunst" }))
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
                case LaidArtwork a when how == DrawAs.Artwork:
                    Picture(a);
                    break;
                case LaidLine l when how == DrawAs.Artwork:
                    Canvas.Inked(canvas, l.Path, l.Ink with { Fill = null });
                    break;
                case LaidLine l:
                    Line(canvas, l.Path, how == DrawAs.Outline ? Colour.Black : Colour.FromHex(l.Operation.ColourHex()), hairline);
                    break;
            }
        }

        void Picture(LaidArtwork a) => Canvas.Picture(canvas, a.Artwork.Picture.Bytes.AsSpan(), a.Map, a.Artwork.Opacity);
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
