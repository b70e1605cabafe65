using Falzkunst.Core.Files;
using SkiaSharp;

namespace Falzkunst.Core.Pictures;

/// <summary>A picture as a reader sees it: how light each pixel is, from 0 (black) to 255, row by row.</summary>
public sealed record GreyPicture(int Width, int Height, byte[] Light)
{
    /// <summary>Decodes PNG, JPEG or WebP as <see cref="Raster.Read"/> does; what is see-through lies on white.</summary>
    /// <exception cref="UnreadableFileException">It is none of these, damaged, or has too many pixels.</exception>
    public static GreyPicture Read(ReadOnlySpan<byte> file, ReadingLimits limits)
    {
        if (PictureFacts.Read(file) is { } facts && (long)facts.WidthPx * facts.HeightPx <= limits.PicturePixels && OfGrey(file) is { } grey) return grey;
        var raster = Raster.Read(file, limits);
        var light = new byte[raster.Width * raster.Height];
        Parallel.For(0, raster.Height, y =>
        {
            for (var i = y * raster.Width; i < (y + 1) * raster.Width; i++)
            {
                // The luma of ITU-R BT.601, in 1,024ths.
                var luma = (306 * raster.Rgba[4 * i] + 601 * raster.Rgba[4 * i + 1] + 117 * raster.Rgba[4 * i + 2] + 512) >> 10;
                light[i] = (byte)(255 + (luma - 255) * raster.Rgba[4 * i + 3] / 255);
            }
        });
        return new(raster.Width, raster.Height, light);
    }

    /// <summary>A picture that is stored grey, a quarter of the memory that colours take; null where it is not, or asks for more than that.</summary>
    private static GreyPicture? OfGrey(ReadOnlySpan<byte> file)
    {
        using var data = SKData.CreateCopy(file);
        using var codec = SKCodec.Create(data);
        if (codec is not { Info.ColorType: SKColorType.Gray8, EncodedOrigin: SKEncodedOrigin.TopLeft }) return null;
        var (w, h) = (codec.Info.Width, codec.Info.Height);
        return w >= 2 && h >= 2 && codec.GetPixels(new(w, h, SKColorType.Gray8, SKAlphaType.Opaque), out var light) == SKCodecResult.Success
            ? new(w, h, light) : null;
    }

    /// <summary>How light it is at a place, between pixels in proportion; the middle of the first pixel is at (0.5, 0.5). Outside it is as at its
    /// rim.</summary>
    public double At(double x, double y)
    {
        double u = Math.Clamp(x - 0.5, 0, Width - 1), v = Math.Clamp(y - 0.5, 0, Height - 1);
        int i = Math.Min((int)u, Width - 2), j = Math.Min((int)v, Height - 2);
        double fx = u - i, fy = v - j;
        var k = j * Width + i;
        return (Light[k] * (1 - fx) + Light[k + 1] * fx) * (1 - fy) + (Light[k + Width] * (1 - fx) + Light[k + Width + 1] * fx) * fy;
    }

    /// <summary>The picture so many times smaller: each pixel the mean of a square of them. What is left over at the right and below is dropped.</summary>
    public GreyPicture Reduced(int times)
    {
        if (times <= 1) return this;
        int w = Math.Max(2, Width / times), h = Math.Max(2, Height / times);
        var light = new byte[w * h];
        Parallel.For(0, h, y =>
        {
            var sums = new int[w];
            int rows = Math.Min(times, Height - y * times), columns = Math.Min(times, Width);
            for (var row = y * times; row < y * times + rows; row++)
            {
                for (var x = 0; x < w; x++)
                {
                    var from = row * Width + Math.Min(x * times, Width - columns);
                    for (var k = 0; k < columns; k++) sums[x] += Light[from + k];
                }
            }

            for (var x = 0; x < w; x++) light[y * w + x] = (byte)(sums[x] / Math.Max(1, rows * columns));
        });
        return new(w, h, light);
    }
}
