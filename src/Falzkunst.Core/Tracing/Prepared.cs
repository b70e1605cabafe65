using Falzkunst.Core.Cards;
using Falzkunst.Core.Files;
using Falzkunst.Core.Pictures;

namespace Falzkunst.Core.Tracing;

/// <summary>A picture that is ready to be traced: cropped, made smaller where it has more pixels than paper can show, and without its ground.</summary>
/// <param name="PixelSide">How wide and high a pixel is.</param>
/// <param name="Dpi">Pixels of the file in an inch.</param>
public sealed record Prepared(Raster Picture, Length PixelSide, Length Width, Length Height, double Dpi, bool DpiIsKnown)
{
    /// <summary>What is taken where a picture does not say how large it is: what scanners and makers of clip art use.</summary>
    public const double UsualDpi = 300;

    /// <summary>Larger pictures are halved until they have no more pixels than this.</summary>
    public const long MostPixels = 24_000_000;

    /// <summary>Prepares a picture. Where its ground is taken away it becomes see-through, half where a pixel was half covered.</summary>
    /// <exception cref="UnreadableFileException">The size would be beyond all reason, or nothing is left of the picture.</exception>
    public static Prepared From(Raster picture, TraceSettings settings)
    {
        // A picture that was halved already counts its places in px of the file all the same.
        var perPx = 1 << picture.Halvings;
        var dpi = settings.Dpi ?? (picture.PxPerInch is { } own ? own * perPx : UsualDpi);
        if (!(dpi is >= 10 and <= 10_000)) throw new UnreadableFileException("the pixels in an inch go from 10 to 10,000");
        var known = settings.Dpi is not null || picture.PxPerInch is not null;
        var touched = settings.Touched;
        if (settings.Crop is { } crop)
        {
            picture = picture.Crop(crop.X / perPx, crop.Y / perPx, Math.Max(1, crop.Width / perPx), Math.Max(1, crop.Height / perPx));
            touched = [.. touched.Select(t => new Pixel(t.X - crop.X / perPx * perPx, t.Y - crop.Y / perPx * perPx))];
        }

        if (picture.Width < 2 || picture.Height < 2) throw new UnreadableFileException("the part of the picture that is to be traced is too small");
        var mm = Length.MmPerInch / dpi * perPx;
        Length width = Length.FromMm(picture.Width * mm), height = Length.FromMm(picture.Height * mm);
        while ((long)picture.Width * picture.Height > MostPixels) (picture, mm, perPx) = (picture.Halved(), mm * 2, perPx * 2);
        if (settings.Mode != TraceMode.Whole && (settings.Ground != Ground.SeeThrough || !touched.IsEmpty))
            picture = new Matte(picture, settings.PaperTolerance, settings.Ground == Ground.LikeRim,
                [.. touched.Take(TraceLimits.MostTouched).Select(t => new Pixel(t.X / perPx, t.Y / perPx))], settings.Ground != Ground.SeeThrough).Cleared();
        return new(picture, Length.FromMm(mm), width, height, dpi, known);
    }

    /// <summary>What was taken away, as a hatch over an otherwise see-through picture; null where nothing was.</summary>
    public Raster? TakenAway()
    {
        const int Stripe = 10;
        var hatch = new byte[Picture.Rgba.Length];
        var any = false;
        for (var i = 0; i < hatch.Length; i += 4)
        {
            if (Picture.Rgba[i + 3] >= 128) continue;
            any = true;
            int pixel = i / 4, x = pixel % Picture.Width, y = pixel / Picture.Width;
            // The felt shows, and a stripe in the colour of what stops.
            var (r, g, b, a) = (x + y) % Stripe < 1 ? (140, 47, 57, 255) : (218, 213, 203, 225);
            (hatch[i], hatch[i + 1], hatch[i + 2], hatch[i + 3]) = ((byte)r, (byte)g, (byte)b, (byte)a);
        }

        return any ? Picture with { Rgba = hatch } : null;
    }
}
