using Falzkunst.Core.Cards;
using Falzkunst.Core.Writing;
using SkiaSharp;

namespace Falzkunst.Core.Tests.Reading;

/// <summary>Each file draws one picture twice: on the left by what it tests, on the right by a plain path. Both must look alike.</summary>
public sealed class ReadingCases
{
    public static TheoryData<string> Names => Cases.Names("reading");

    [Theory]
    [MemberData(nameof(Names))]
    public void Left_looks_like_right(string name)
    {
        var design = Cases.Read(Cases.Text("reading", name));
        var (png, width, height) = Paper.Render(design, 96, DrawAs.Artwork);
        using var picture = SKBitmap.Decode(png);
        long low = 0, high = 0;
        var half = width / 2;
        for (var y = 0; y < height; y++)
        {
            for (var x = 0; x < half; x++)
            {
                int left = picture.GetPixel(x, y).Alpha, right = picture.GetPixel(x + half, y).Alpha;
                low += Math.Min(left, right);
                high += Math.Max(left, right);
            }
        }

        Assert.True(high > 0, "nothing was drawn");
        Assert.True((double)low / high > 0.985, $"only {(double)low / high:P1} alike");
    }
}
