using Falzkunst.Core.Reading;
using Falzkunst.Core.Reading.Pictures;
using Falzkunst.Core.Shapes;
using Falzkunst.Core.Tracing;
using Falzkunst.Core.Writing;
using Xunit.Abstractions;

namespace Falzkunst.Core.Tests.Tracing;

/// <summary>Known shapes are drawn at 300 dpi, traced, and laid over one another.</summary>
public sealed class TracingTests(ITestOutputHelper output)
{
    private const double Dpi = 300;

    public static TheoryData<string, string> Shapes => new()
    {
        { "disc", "<circle cx='20' cy='20' r='12.3'/>" },
        { "small discs", "<circle cx='10' cy='10' r='0.6'/><circle cx='20' cy='20' r='1'/><circle cx='30.03' cy='12.7' r='1.7'/>" },
        { "star", "<path d='M20 3L24.2 15.1H37L26.8 22.9 30.6 35 20 27.7 9.4 35 13.2 22.9 3 15.1H15.8Z'/>" },
        { "turned square with a hole", "<path fill-rule='evenodd' transform='rotate(17 20 20)' d='M8 8H32V32H8ZM14 14V26H26V14Z'/>" },
        { "rounded bar", "<rect x='4.3' y='12' width='31' height='9' rx='3' transform='rotate(-8 20 20)'/>" },
        { "wave", "<path d='M2 20C8 4 14 4 20 20S32 36 38 20V30C32 38 26 38 20 30S8 22 2 30Z'/>" },
        { "gear", "<path d='" + Gear() + "'/>" },
        { "thin arms", "<path d='M5 5L35 34.4 35.5 34 6 4.6Z'/><path d='M6 35.2H34V35.8H6Z'/>" },
    };

    private static string Gear() => "M" + string.Join('L', Enumerable.Range(0, 48).Select(i =>
    {
        var a = (i + (i % 2 == 0 ? 0 : 0.15)) * Math.PI / 24;
        var r = i / 2 % 2 == 0 ? 15 : 12;
        return FormattableString.Invariant($"{20 + r * Math.Cos(a):0.####} {20 + r * Math.Sin(a):0.####}");
    })) + "Z";

    private static (Raster Picture, VectorPath True) Draw(string shapes, bool stairs = false, string ground = "<rect width='40' height='40' fill='#fff'/>")
    {
        var design = Cases.Read($"<svg xmlns='http://www.w3.org/2000/svg' width='40mm' height='40mm' viewBox='0 0 40 40'>{ground}{shapes}</svg>");
        var (png, _, _) = Paper.Render(design, Dpi, DrawAs.Artwork);
        var picture = Raster.Read(png, ReadingLimits.Default);
        if (stairs)
        {
            for (var i = 0; i < picture.Rgba.Length; i++)
                if (i % 4 != 3) picture.Rgba[i] = picture.Rgba[i] < 128 ? (byte)0 : (byte)255;
        }

        var truth = Cases.Read($"<svg xmlns='http://www.w3.org/2000/svg' width='40mm' height='40mm' viewBox='0 0 40 40'>{shapes}</svg>");
        return (picture, new([.. truth.Pieces.SelectMany(p => p.Outline.Subpaths)]));
    }

    /// <summary>The given share of the distances between the two boundaries, seen from both.</summary>
    private static double Error(VectorPath truth, VectorPath traced, double share)
    {
        var all = Along(truth, 0.05).Select(traced.DistanceTo).Concat(Along(traced, 0.05).Select(truth.DistanceTo)).Order().ToList();
        return all[(int)Math.Min(all.Count - 1, all.Count * share)];
    }

    private static IEnumerable<Point> Along(VectorPath path, double step)
    {
        for (var s = 0; s < path.Subpaths.Length; s++)
        {
            var ring = path.Rings[s];
            for (var i = path.Subpaths[s].Closed ? 0 : 1; i < ring.Count; i++)
            {
                Point a = ring[i == 0 ? ring.Count - 1 : i - 1], b = ring[i];
                var n = Math.Max(1, (int)(a.DistanceTo(b) / step));
                for (var k = 0; k < n; k++) yield return a + (b - a) * ((double)k / n);
            }
        }
    }

    [Theory]
    [MemberData(nameof(Shapes))]
    public void A_known_shape_comes_back_within_six_hundredths_of_a_millimetre(string name, string shapes)
    {
        foreach (var stairs in new[] { false, true })
        {
            var (picture, truth) = Draw(shapes, stairs);
            var traced = Tracer.Trace(picture, new() { Mode = TraceMode.Flat, Dpi = Dpi });
            var path = traced.Layers.Single().Path;
            output.WriteLine($"{name}{(stairs ? ", stairs" : "")}: 95 % {Error(truth, path, 0.95):0.0000}, all {Error(truth, path, 1):0.000}, nodes {traced.Nodes} for {truth.Subpaths.Sum(s => s.Segments.Length)}");
            Assert.Equal(truth.Subpaths.Length, path.Subpaths.Length);
            Assert.InRange(Error(truth, path, 0.95), 0, 0.06);
        }
    }
}
