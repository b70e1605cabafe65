using System.Globalization;
using SkiaSharp;

namespace Falzkunst.StandIns;

/// <summary>A picture in colour, or grey: one or three bytes a pixel, row by row.</summary>
public sealed record Pixels(int Width, int Height, int Channels, byte[] Data)
{
    public static Pixels Blank(int width, int height, int channels, byte light)
    {
        var data = new byte[width * height * channels];
        Array.Fill(data, light);
        return new(width, height, channels, data);
    }

    /// <summary>Reads binary PGM or PPM (Netpbm), as renderers write it.</summary>
    /// <exception cref="InvalidDataException">It is neither.</exception>
    public static Pixels Pnm(Stream from)
    {
        var channels = Word() switch { "P5" => 1, "P6" => 3, _ => throw new InvalidDataException("The renderer gave no picture.") };
        int width = int.Parse(Word(), CultureInfo.InvariantCulture), height = int.Parse(Word(), CultureInfo.InvariantCulture);
        Word();
        var data = new byte[width * height * channels];
        from.ReadExactly(data);
        return new(width, height, channels, data);

        string Word()
        {
            var text = "";
            for (int c; (c = from.ReadByte()) >= 0;)
            {
                if (c is ' ' or '\n' or '\t' or '\r')
                {
                    if (text.Length > 0) return text;
                }
                else
                {
                    text += (char)c;
                }
            }

            return text;
        }
    }

    /// <summary>A channel at a place, between pixels in proportion; the middle of the first pixel is at (0.5, 0.5).</summary>
    public double At(double x, double y, int channel)
    {
        double u = Math.Clamp(x - 0.5, 0, Width - 1), v = Math.Clamp(y - 0.5, 0, Height - 1);
        int i = Math.Min((int)u, Width - 2), j = Math.Min((int)v, Height - 2);
        double fx = u - i, fy = v - j;
        int k = (j * Width + i) * Channels + channel, below = k + Width * Channels;
        return (Data[k] * (1 - fx) + Data[k + Channels] * fx) * (1 - fy) + (Data[below] * (1 - fx) + Data[below + Channels] * fx) * fy;
    }

    /// <summary>Darkens a straight line, in proportion to how much of each pixel it covers.</summary>
    /// <param name="wide">In pixels.</param>
    /// <param name="gain">What is left of the light under it.</param>
    public void Line(double ax, double ay, double bx, double by, double wide, double gain)
    {
        double dx = bx - ax, dy = by - ay, length = Math.Max(1e-9, Math.Sqrt(dx * dx + dy * dy)), reach = wide / 2 + 1;
        for (var y = (int)Math.Max(0, Math.Min(ay, by) - reach); y < Math.Min(Height, Math.Max(ay, by) + reach); y++)
            for (var x = (int)Math.Max(0, Math.Min(ax, bx) - reach); x < Math.Min(Width, Math.Max(ax, bx) + reach); x++)
            {
                double px = x + 0.5 - ax, py = y + 0.5 - ay, along = Math.Clamp((px * dx + py * dy) / length, 0, length);
                double ex = px - along * dx / length, ey = py - along * dy / length, off = Math.Sqrt(ex * ex + ey * ey);
                var covered = Math.Clamp(wide / 2 + 0.5 - off, 0, Math.Min(1, wide));
                if (covered <= 0) continue;
                for (var c = 0; c < Channels; c++)
                {
                    var i = (y * Width + x) * Channels + c;
                    Data[i] = (byte)(Data[i] * (1 - covered * (1 - gain)));
                }
            }
    }

    public Pixels Part(int left, int top, int width, int height)
    {
        var data = new byte[width * height * Channels];
        for (var y = 0; y < height; y++) Array.Copy(Data, ((top + y) * Width + left) * Channels, data, y * width * Channels, width * Channels);
        return new(width, height, Channels, data);
    }

    /// <summary>As light as it is to the eye (ITU-R BT.601).</summary>
    public Pixels Grey() => Channels == 1 ? this
        : new(Width, Height, 1, [.. Enumerable.Range(0, Width * Height).Select(i => (byte)(0.299 * Data[3 * i] + 0.587 * Data[3 * i + 1]
            + 0.114 * Data[3 * i + 2]))]);

    public byte[] Png() => Encoded(SKEncodedImageFormat.Png, 100);

    public byte[] Jpeg(int quality) => Encoded(SKEncodedImageFormat.Jpeg, quality);

    private byte[] Encoded(SKEncodedImageFormat format, int quality)
    {
        using var image = Channels == 1 ? SKImage.FromPixelCopy(new SKImageInfo(Width, Height, SKColorType.Gray8, SKAlphaType.Opaque), Data)
            : SKImage.FromPixelCopy(new SKImageInfo(Width, Height, SKColorType.Rgba8888, SKAlphaType.Opaque), WithAlpha());
        using var pixels = image.PeekPixels();
        using var data = format == SKEncodedImageFormat.Png ? pixels.Encode(new SKPngEncoderOptions(SKPngEncoderFilterFlags.Sub, 2)) : image.Encode(format,
            quality);
        if (data is null) throw new InvalidDataException("The picture can't be written.");
        return data.ToArray();
    }

    private byte[] WithAlpha()
    {
        var rgba = new byte[Width * Height * 4];
        for (var i = 0; i < Width * Height; i++)
        {
            Data.AsSpan(3 * i, 3).CopyTo(rgba.AsSpan(4 * i));
            rgba[4 * i + 3] = 255;
        }

        return rgba;
    }
}
