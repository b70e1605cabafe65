using SkiaSharp;

namespace Falzkunst.Core.Pictures;

/// <summary>A paint that is more than a colour: a gradient or a pattern, in the units of what it fills.</summary>
internal sealed class Brush
{
    private readonly Func<SKShader> _shader;

    private Brush(Func<SKShader> shader, bool isTiled = false) => (_shader, IsTiled) = (shader, isTiled);

    /// <summary>Whether it is a pattern, with edges of its own.</summary>
    public bool IsTiled { get; }

    /// <summary>A colour at a place of a gradient, from 0 to 1.</summary>
    public readonly record struct Stop(double At, Colour Colour);

    /// <summary>What lies beyond the ends of a gradient.</summary>
    public enum Spread
    {
        Last,
        Mirrored,
        Repeated,
    }

    public static Brush Linear(Point from, Point to, IReadOnlyList<Stop> stops, Spread spread, Affine place) =>
        new(() => SKShader.CreateLinearGradient(At(from), At(to), Colours(stops), Places(stops), Tile(spread), Canvas.ToSkia(place)));

    public static Brush Radial(Point focus, double focusRadius, Point centre, double radius, IReadOnlyList<Stop> stops, Spread spread, Affine place) =>
        new(() =>
    {
        // A focus outside its circle is moved onto it (SVG 2, 14.2.3).
        var off = focus - centre;
        if (off.Norm > radius) focus = centre + off * (radius / off.Norm * 0.9999);
        return SKShader.CreateTwoPointConicalGradient(At(focus), (float)focusRadius, At(centre), (float)radius, Colours(stops), Places(stops), Tile(spread),
            Canvas.ToSkia(place));
    });

    /// <param name="items">What is drawn in each tile, in the units of the tile.</param>
    public static Brush Tiled(ImmutableArray<DrawnItem> items, Box tile, Affine place) => new(() =>
    {
        // The shader takes the tile's corner for its origin.
        var edge = new SKRect(0, 0, (float)tile.Width, (float)tile.Height);
        using var recorder = new SKPictureRecorder();
        var canvas = recorder.BeginRecording(edge);
        canvas.Translate((float)-tile.Left, (float)-tile.Top);
        foreach (var item in items) Canvas.Item(canvas, item);
        using var picture = recorder.EndRecording();
        return picture.ToShader(SKShaderTileMode.Repeat, SKShaderTileMode.Repeat, SKFilterMode.Linear,
            Canvas.ToSkia(Affine.Move(tile.Left, tile.Top).Then(place)), edge);
    }, true);

    /// <summary>The paint as PNG.</summary>
    /// <param name="place">Maps the unit square to where the picture lies, in mm.</param>
    /// <param name="toMm">Maps the units of the paint to mm.</param>
    public byte[] Picture(int widthPx, int heightPx, Affine place, Affine toMm)
    {
        using var surface = SKSurface.Create(new SKImageInfo(widthPx, heightPx, SKColorType.Rgba8888, SKAlphaType.Premul));
        surface.Canvas.Scale(widthPx, heightPx);
        surface.Canvas.Concat(Canvas.ToSkia(place).Invert());
        surface.Canvas.Concat(Canvas.ToSkia(toMm));
        Fill(surface.Canvas);
        return Canvas.Png(surface);
    }

    /// <summary>The mean colour over a box, in the units of the paint.</summary>
    public Colour Mean(Box box)
    {
        const int Side = 24;
        using var bitmap = new SKBitmap(new SKImageInfo(Side, Side, SKColorType.Rgba8888, SKAlphaType.Premul));
        using var canvas = new SKCanvas(bitmap);
        canvas.Scale((float)(Side / Math.Max(box.Width, 1e-9)), (float)(Side / Math.Max(box.Height, 1e-9)));
        canvas.Translate((float)-box.Left, (float)-box.Top);
        Fill(canvas);
        long r = 0, g = 0, b = 0, a = 0;
        var px = bitmap.GetPixelSpan();
        for (var i = 0; i < px.Length; i += 4) (r, g, b, a) = (r + px[i], g + px[i + 1], b + px[i + 2], a + px[i + 3]);
        byte Of(long sum) => (byte)Math.Min(255, a > 0 ? sum * 255 / a : 0);
        return new(Of(r), Of(g), Of(b), a / (255.0 * Side * Side));
    }

    private void Fill(SKCanvas canvas)
    {
        using var shader = _shader();
        using var paint = new SKPaint { Shader = shader, IsAntialias = true };
        canvas.DrawPaint(paint);
    }

    private static SKPoint At(Point p) => new((float)p.X, (float)p.Y);

    private static SKColor[] Colours(IReadOnlyList<Stop> stops) => [.. stops.Select(s => Canvas.ToSkia(s.Colour))];

    private static float[] Places(IReadOnlyList<Stop> stops) => [.. stops.Select(s => (float)s.At)];

    private static SKShaderTileMode Tile(Spread spread) =>
        spread switch { Spread.Mirrored => SKShaderTileMode.Mirror, Spread.Repeated => SKShaderTileMode.Repeat, _ => SKShaderTileMode.Clamp };
}
