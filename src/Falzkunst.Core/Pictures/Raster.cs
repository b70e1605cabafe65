using Falzkunst.Core.Files;
using SkiaSharp;

namespace Falzkunst.Core.Pictures;

/// <summary>A decoded picture: four bytes a pixel (red, green, blue, alpha, not premultiplied), row by row.</summary>
/// <param name="PxPerInch">What the file says; null where it says nothing that could be true.</param>
public sealed record Raster(int Width, int Height, byte[] Rgba, double? PxPerInch)
{
    /// <summary>How many times the picture was halved since it was read.</summary>
    public int Halvings { get; init; }

    /// <summary>Whether its pixels are those of the file in their order, neither turned, cut nor halved.</summary>
    public bool IsAsStored { get; init; }

    /// <summary>Decodes PNG, JPEG or WebP, turned as the camera's note in it says.</summary>
    /// <param name="mostPixels">A picture of more is halved while it is decoded where its kind allows that, so that it is never whole in memory.</param>
    /// <exception cref="UnreadableFileException">It is none of these, damaged, or has too many pixels.</exception>
    public static Raster Read(ReadOnlySpan<byte> file, ReadingLimits limits, long mostPixels = long.MaxValue)
    {
        using var data = SKData.CreateCopy(file);
        using var codec = SKCodec.Create(data);
        if (codec is null) throw new UnreadableFileException("the picture is damaged or of a kind that is not read; save it as PNG");
        var info = codec.Info;
        if ((long)info.Width * info.Height > limits.PicturePixels)
            throw new UnreadableFileException($"the picture has {(long)info.Width * info.Height / 1_000_000} megapixels, and at most "
                + $"{limits.PicturePixels / 1_000_000} are read; make it smaller");
        if (info.Width < 2 || info.Height < 2) throw new UnreadableFileException("the picture has no size to speak of");
        var raster = ((long)info.Width * info.Height > mostPixels ? HalfOf(codec) : null) ?? Decoded(codec, info.Width, info.Height);
        raster = raster with { PxPerInch = Density(file) / (1 << raster.Halvings) };
        return codec.EncodedOrigin switch
        {
            SKEncodedOrigin.RightTop => raster.Turned(true),
            SKEncodedOrigin.LeftBottom => raster.Turned(false),
            SKEncodedOrigin.BottomRight => raster.Turned(true).Turned(true),
            _ => raster with { IsAsStored = raster.Halvings == 0 && codec.EncodedOrigin == SKEncodedOrigin.TopLeft },
        };
    }

    private static Raster Decoded(SKCodec codec, int width, int height)
    {
        // Beside what is left of an earlier picture of this size there would not be room enough: it is given back first.
        const long Large = 24_000_000;
        if ((long)width * height > Large) GC.Collect();
        Check(codec.GetPixels(new(width, height, SKColorType.Rgba8888, SKAlphaType.Unpremul), out var rgba));
        return new(width, height, rgba, null);
    }

    /// <summary>The picture decoded at half its size, as JPEG and WebP can be; null for other kinds, and where a side is odd.</summary>
    private static Raster? HalfOf(SKCodec codec)
    {
        int w = codec.Info.Width / 2, h = codec.Info.Height / 2;
        var smaller = codec.GetScaledDimensions(0.5f);
        return (smaller.Width, smaller.Height) == (w, h) && (2 * w, 2 * h) == (codec.Info.Width, codec.Info.Height)
            ? Decoded(codec, w, h) with { Halvings = 1 } : null;
    }

    private static void Check(SKCodecResult result)
    {
        if (result == SKCodecResult.IncompleteInput) throw new UnreadableFileException("the picture is cut off; fetch it again");
        if (result != SKCodecResult.Success) throw new UnreadableFileException("the picture is damaged; save it again");
    }

    /// <summary>A part of the picture, in px; clipped to it.</summary>
    public Raster Crop(int x, int y, int width, int height)
    {
        (x, y) = (Math.Clamp(x, 0, Width - 1), Math.Clamp(y, 0, Height - 1));
        (width, height) = (Math.Clamp(width, 1, Width - x), Math.Clamp(height, 1, Height - y));
        var part = new byte[width * height * 4];
        for (var row = 0; row < height; row++) Array.Copy(Rgba, ((y + row) * Width + x) * 4, part, row * width * 4, width * 4);
        return this with { Width = width, Height = height, Rgba = part, IsAsStored = IsAsStored && part.Length == Rgba.Length };
    }

    /// <summary>The picture at half its size: each pixel the mean of four, colours weighted by how much they cover.</summary>
    public Raster Halved()
    {
        int w = Width / 2, h = Height / 2;
        var half = new byte[w * h * 4];
        Parallel.For(0, h, y =>
        {
            for (var x = 0; x < w; x++)
            {
                int r = 0, g = 0, b = 0, a = 0;
                for (var k = 0; k < 4; k++)
                {
                    var from = ((2 * y + k / 2) * Width + 2 * x + k % 2) * 4;
                    int alpha = Rgba[from + 3];
                    r += Rgba[from] * alpha;
                    g += Rgba[from + 1] * alpha;
                    b += Rgba[from + 2] * alpha;
                    a += alpha;
                }

                var to = (y * w + x) * 4;
                if (a > 0) (half[to], half[to + 1], half[to + 2]) = ((byte)((r + a / 2) / a), (byte)((g + a / 2) / a), (byte)((b + a / 2) / a));
                half[to + 3] = (byte)((a + 2) / 4);
            }
        });
        return this with { Width = w, Height = h, Rgba = half, PxPerInch = PxPerInch / 2, Halvings = Halvings + 1, IsAsStored = false };
    }

    /// <summary>The picture as PNG.</summary>
    public byte[] ToPng()
    {
        using var image = SKImage.FromPixelCopy(new SKImageInfo(Width, Height, SKColorType.Rgba8888, SKAlphaType.Unpremul), Rgba);
        using var data = image.Encode(SKEncodedImageFormat.Png, 100);
        return data.ToArray();
    }

    private Raster Turned(bool clockwise)
    {
        var turned = new byte[Rgba.Length];
        for (var y = 0; y < Height; y++)
        {
            for (var x = 0; x < Width; x++)
            {
                var to = clockwise ? x * Height + (Height - 1 - y) : (Width - 1 - x) * Height + y;
                Array.Copy(Rgba, (y * Width + x) * 4, turned, to * 4, 4);
            }
        }

        return this with { Width = Height, Height = Width, Rgba = turned };
    }

    /// <summary>Pixels in an inch, as the head of a file says; null where it says nothing that could be true: PNG's pHYs (pixels a metre) or the
    /// density in JPEG's JFIF head.</summary>
    public static double? Density(ReadOnlySpan<byte> b)
    {
        double? found = null;
        if (b.Length > 33 && b[0] == 0x89)
        {
            for (var at = 8; at + 21 <= b.Length;)
            {
                var length = (long)b[at] << 24 | (long)b[at + 1] << 16 | (long)b[at + 2] << 8 | b[at + 3];
                var type = b.Slice(at + 4, 4);
                if (type.SequenceEqual("IDAT"u8)) break;
                if (type.SequenceEqual("pHYs"u8) && b[at + 16] == 1) found =
                    ((long)b[at + 8] << 24 | (long)b[at + 9] << 16 | (long)b[at + 10] << 8 | b[at + 11]) * 0.0254;
                if (length > b.Length) break;
                at += 12 + (int)length;
            }
        }
        else if (b.Length > 18 && b[0] == 0xFF && b[1] == 0xD8 && b[2] == 0xFF && b[3] == 0xE0 && b.Slice(6, 4).SequenceEqual("JFIF"u8))
        {
            var per = b[13];
            var density = b[14] << 8 | b[15];
            found = per == 1 ? density : per == 2 ? density * 2.54 : null;
        }

        // 72 and 96 are what programs write that know nothing.
        return found is >= 99 and <= 4800 ? Math.Round(found.Value, 2) : null;
    }
}
