using CsCheck;
using Falzkunst.Core.Cards;
using Falzkunst.Core.Files;
using Falzkunst.Core.Pictures;
using Falzkunst.Core.Reading;
using Falzkunst.Core.Tracing;
using Falzkunst.Core.Writing;

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

    private static (Raster Picture, VectorPath True) Draw(string shapes, bool stairs = false, string ground = "<rect width='40' height='40' fill='#fff'/>",
        string? truthOnly = null)
    {
        var design = Cases.Read($"<svg xmlns='http://www.w3.org/2000/svg' width='40mm' height='40mm' viewBox='0 0 40 40'>{ground}{shapes}</svg>");
        var (png, _, _) = Paper.Render(design, Dpi, DrawAs.Artwork);
        // The last row and column of pixels are only partly on the page.
        var picture = Raster.Read(png, ReadingLimits.Default).Crop(0, 0, 472, 472);
        if (stairs)
        {
            for (var i = 0; i < picture.Rgba.Length; i++)
                if (i % 4 != 3) picture.Rgba[i] = picture.Rgba[i] < 128 ? (byte)0 : (byte)255;
        }

        var truth = Cases.Read($"<svg xmlns='http://www.w3.org/2000/svg' width='40mm' height='40mm' viewBox='0 0 40 40'>{truthOnly ?? shapes}</svg>");
        return (picture, new([.. truth.Pieces.SelectMany(p => p.Outline.Subpaths), .. truth.Lines.SelectMany(l => l.Path.Subpaths)]));
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
            output.WriteLine($"{name}{(stairs ? ", stairs" : "")}: 95 % {Error(truth, path, 0.95):0.0000}, all {Error(truth, path, 1):0.000}, nodes "
                + $"{traced.Nodes} for {truth.Subpaths.Sum(s => s.Segments.Length)}");
            Assert.Equal(truth.Subpaths.Length, path.Subpaths.Length);
            Assert.InRange(Error(truth, path, 0.95), 0, 0.06);
        }
    }

    public static TheoryData<string, string, double> Strokes => new()
    {
        { "a wave", "M3 20C9 2 15 2 20 20S31 38 37 20", 0.5 },
        { "a cross", "M5 5L35 33M6 34L33 4", 0.6 },
        { "a fork", "M20 36V18M20 18L8 4M20 18L33 6", 0.8 },
        { "a loop that crosses itself", "M4 34C50 -10 -10 -10 36 34", 0.4 },
        { "a ring", "M20 8A12 12 0 1 1 19.99 8Z", 0.5 },
        { "writing", "M4 24C8 10 12 10 10 24C14 8 18 10 16 24M20 20C26 18 26 10 22 12S18 24 26 24M30 6V24M27 12H34", 0.35 },
        { "a bent corner", "M6 34V8H33", 0.7 },
    };

    [Theory]
    [MemberData(nameof(Strokes))]
    public void Pen_strokes_become_their_middle(string name, string path, double width)
    {
        var (picture, truth) = Draw(FormattableString
            .Invariant($"<path d='{path}' fill='none' stroke='#114' stroke-width='{width}' stroke-linecap='round' stroke-linejoin='round'/>"),
            truthOnly: $"<path d='{path}' fill='none' stroke='#000'/>");
        var traced = Tracer.Trace(picture, new() { Mode = TraceMode.CentreLine, Dpi = Dpi });
        var lines = traced.Layers.Single().Path;
        var mean = Along(lines, 0.05).Average(truth.DistanceTo);
        var covered = Along(truth, 0.05).ToList() is var all ? all.Count(p => lines.DistanceTo(p) < 0.15) / (double)all.Count : 0;
        output.WriteLine($"{name}: mean {mean:0.0000}, covered {covered:P1}, lines {lines.Subpaths.Length} for {truth.Subpaths.Length}, nodes "
            + $"{traced.Nodes}, width {traced.Layers[0].StrokeWidth.Mm:0.00}");
        Assert.InRange(mean, 0, 0.1);
        Assert.InRange(covered, 0.95, 1);
        Assert.InRange(traced.Layers[0].StrokeWidth.Mm, width - 0.05, width + 0.05);
    }

    [Fact]
    public void Strokes_that_cross_run_straight_on()
    {
        var (picture, _) = Draw("<path d='M5 5L35 33M6 34L33 4' stroke='#000' stroke-width='.6' fill='none'/>");
        Assert.Equal(2, Tracer.Trace(picture, new() { Mode = TraceMode.CentreLine, Dpi = Dpi }).Layers[0].Path.Subpaths.Length);
    }

    [Fact]
    public void Neighbouring_colours_share_their_border()
    {
        const string Flag = "<rect x='5' y='8' width='30' height='24' fill='#0f5c6b'/><path d='M5 8L22 20 5 32Z' fill='#b7791f'/><circle cx='28' cy='20' "
            + "r='5' fill='#8c2f39'/>";
        var (picture, _) = Draw(Flag);
        var beside = Tracer.Trace(picture, new() { Mode = TraceMode.Colours, Colours = 3, Dpi = Dpi, Stacked = false });
        var stacked = Tracer.Trace(picture, new() { Mode = TraceMode.Colours, Colours = 3, Dpi = Dpi });
        Assert.Equal(3, beside.Layers.Length);
        Assert.Equal(["#0f5c6b", "#b7791f", "#8c2f39"], beside.Layers.Select(l => l.Colour.Hex));
        // Side by side they cover the whole once; stacked the lowest covers it alone.
        Assert.InRange(beside.Layers.Sum(l => l.Path.SignedAreaMm2), 719, 721);
        Assert.InRange(stacked.Layers[0].Path.SignedAreaMm2, 719, 721);
        Assert.InRange(beside.Layers[1].Path.SignedAreaMm2, 203, 205);
        // The hole for the disc is the disc, point for point.
        var disc = beside.Layers[2].Path.Subpaths.Single();
        Assert.Contains(beside.Layers[0].Path.Subpaths, s => s.Reverse().Segments.Length == disc.Segments.Length
            && s.Segments.Select(x => x.End).Order(ByPlace).SequenceEqual(disc.Segments.Select(x => x.End).Order(ByPlace)));
    }

    private static readonly Comparer<Point> ByPlace = Comparer<Point>.Create((a, b) => (a.X, a.Y).CompareTo((b.X, b.Y)));

    [Fact]
    public void The_outline_has_no_holes_takes_a_border_and_is_joined_on_demand()
    {
        const string Two = "<path fill-rule='evenodd' d='M4 10H18V30H4ZM8 14V26H14V14Z' fill='#55702c'/><circle cx='30' cy='20' r='6' fill='#eecc44'/>";
        var (picture, _) = Draw(Two);
        var plain = Tracer.Trace(picture, new() { Mode = TraceMode.Outline, Dpi = Dpi });
        Assert.Equal(2, plain.Layers[0].Path.Subpaths.Length);
        Assert.InRange(plain.Layers[0].Path.SignedAreaMm2, 280 + Math.PI * 36 - 1, 280 + Math.PI * 36 + 1);
        var border = Tracer.Trace(picture, new() { Mode = TraceMode.Outline, Dpi = Dpi, Border = Falzkunst.Core.Measures.Length.FromMm(2) });
        Assert.InRange(border.Layers[0].Path.SignedAreaMm2, 280 + 68 * 2 + Math.PI * 4 + Math.PI * 64 - 1.5, 280 + 68 * 2 + Math.PI * 4 + Math.PI * 64 + 1.5);
        Assert.Single(Tracer.Trace(picture, new() { Mode = TraceMode.Outline, Dpi = Dpi, Join = true }).Layers[0].Path.Subpaths);
    }

    [Fact]
    public void What_is_see_through_is_no_paper_and_a_white_shape_on_it_is_found()
    {
        var (picture, truth) = Draw("<circle cx='20' cy='20' r='9' fill='#fff'/>", ground: "");
        foreach (var mode in new[] { TraceMode.Flat, TraceMode.Outline, TraceMode.Colours })
            Assert.InRange(Error(truth, Tracer.Trace(picture, new() { Mode = mode, Colours = 1, Dpi = Dpi }).Layers.Single().Path, 0.95), 0, 0.06);
    }

    private const string Framed = "<rect width='40' height='40' fill='#e8e2d0'/><path fill-rule='evenodd' d='M6 6H34V34H6ZM10 10V30H30V10Z' "
        + "fill='#0f5c6b'/><circle cx='20' cy='20' r='4' fill='#8c2f39'/>";

    public static TheoryData<Ground, int[], double, int> Grounds => new()
    {
        // The frame alone stands away from the rim; what it encloses is ground only when asked for, or when it is touched.
        { Ground.JoinedToRim, [], 28 * 28, 1 },
        { Ground.LikeRim, [], 28 * 28 - 20 * 20 + Math.PI * 16, 3 },
        { Ground.JoinedToRim, [150, 150], 28 * 28 - 20 * 20 + Math.PI * 16, 3 },
        { Ground.JoinedToRim, [150, 150, 236, 236], 28 * 28 - 20 * 20, 2 },
        { Ground.SeeThrough, [5, 5, 236, 236], 28 * 28 - Math.PI * 16, 2 },
    };

    [Theory]
    [MemberData(nameof(Grounds))]
    public void Ground_is_taken_away_from_the_rim_everywhere_or_where_it_was_touched(Ground ground, int[] touched, double areaMm2, int rings)
    {
        var (picture, _) = Draw("", ground: Framed);
        var traced = Tracer.Trace(picture,
            new() { Mode = TraceMode.Flat, Dpi = Dpi, Ground = ground, Touched = [.. touched.Chunk(2).Select(t => new Pixel(t[0], t[1]))] });
        Assert.Equal(rings, traced.Layers[0].Path.Subpaths.Length);
        Assert.InRange(traced.Layers[0].Path.SignedAreaMm2, areaMm2 - 1.5, areaMm2 + 1.5);
    }

    [Fact]
    public void The_edge_of_a_cleared_picture_lies_where_it_was_and_has_nothing_of_the_grounds_colour()
    {
        var (picture, truth) = Draw("<circle cx='20' cy='20' r='12.3' fill='#0f5c6b'/>", ground: "<rect width='40' height='40' fill='#ffe9a0'/>");
        var cleared = Prepared.From(picture, new() { Mode = TraceMode.Flat, Dpi = Dpi, Ground = Ground.JoinedToRim }).Picture;
        Assert.InRange(Error(truth, Tracer.Trace(cleared, new() { Mode = TraceMode.Flat, Dpi = Dpi }).Layers[0].Path, 0.95), 0, 0.06);
        for (var i = 0; i < cleared.Rgba.Length; i += 4)
            if (cleared.Rgba[i + 3] > 100) Assert.True(cleared.Rgba[i] < 90, $"red {cleared.Rgba[i]} at alpha {cleared.Rgba[i + 3]}");
    }

    [Fact]
    public void A_crop_is_traced_alone_and_counts_in_pixels_of_the_file_even_when_the_picture_was_halved()
    {
        var (picture, _) = Draw("<circle cx='10' cy='10' r='6'/><rect x='24' y='22' width='10' height='8'/>");
        var crop = new TraceSettings { Mode = TraceMode.Flat, Dpi = Dpi, Crop = new(240, 220, 200, 160) };
        foreach (var from in new[] { picture, picture.Halved() })
        {
            var traced = Tracer.Trace(from, crop);
            Assert.Equal((200 * 25.4 / 300, 160 * 25.4 / 300), (traced.Width.Mm, traced.Height.Mm));
            Assert.InRange(Error(VectorPath.Rectangle(24 - 240 * 25.4 / 300, 22 - 220 * 25.4 / 300, 10, 8), traced.Layers[0].Path, 0.95), 0, 0.06);
        }

        Assert.Throws<UnreadableFileException>(() => Tracer.Trace(picture, crop with { Crop = new(471, 471, 1, 1) }));
    }

    [Fact]
    public void Corners_are_kept_as_sharp_as_is_asked_for()
    {
        var (picture, _) = Draw("<path d='M20 4L37 16 30 35H10L3 16Z'/>");
        int Nodes(double degrees) => Tracer.Trace(picture, new() { Mode = TraceMode.Flat, Dpi = Dpi, Corner = Angle.FromDegrees(degrees) }).Nodes;
        Assert.Equal(5, Nodes(32));
        Assert.True(Nodes(110) > 5, "corners of 72 degrees were rounded");
    }

    [Fact]
    public void Uneven_light_is_taken_away()
    {
        var (picture, truth) = Draw("<circle cx='8' cy='8' r='5'/><circle cx='32' cy='32' r='5'/><rect x='25' y='5' width='10' height='10'/>");
        for (var y = 0; y < picture.Height; y++)
        {
            for (var x = 0; x < picture.Width; x++)
            {
                // Ink of 60, in light that falls off to a quarter.
                var light = 1 - 0.75 * (x + y) / (picture.Width + picture.Height);
                for (var c = 0; c < 3; c++) picture.Rgba[(y * picture.Width + x) * 4 + c] =
                    (byte)((60 + picture.Rgba[(y * picture.Width + x) * 4 + c] * 195 / 255) * light);
            }
        }

        var path = Tracer.Trace(picture, new() { Mode = TraceMode.Flat, Dpi = Dpi }).Layers.Single().Path;
        Assert.Equal(3, path.Subpaths.Length);
        Assert.InRange(Error(truth, path, 0.95), 0, 0.06);
    }

    [Fact]
    public void A_very_large_picture_is_halved_and_keeps_its_size_and_place()
    {
        const int W = 5000, H = 5000;
        var rgba = new byte[W * H * 4];
        rgba.AsSpan().Fill(255);
        for (var y = 1000; y < 3000; y++)
        {
            for (var x = 500; x < 4500; x++) rgba.AsSpan((y * W + x) * 4, 3).Clear();
        }

        var traced = Tracer.Trace(new Raster(W, H, rgba, null), new() { Mode = TraceMode.Flat, Dpi = 1000 });
        Assert.Equal((127, 127, 1000), (traced.Width.Mm, traced.Height.Mm, traced.Dpi));
        Assert.InRange(Error(VectorPath.Rectangle(12.7, 25.4, 101.6, 50.8), traced.Layers[0].Path, 1), 0, 0.03);
    }

    [Fact]
    public void Specks_and_pinholes_are_left_out()
    {
        var (picture, _) = Draw("<rect x='5' y='5' width='30' height='30'/><circle cx='20' cy='20' r='.1' fill='#fff'/><circle cx='38' cy='38' r='.1'/>");
        Assert.Single(Tracer.Trace(picture, new() { Mode = TraceMode.Flat, Dpi = Dpi, SpeckMm2 = 0.12 }).Layers[0].Path.Subpaths);
        Assert.Equal(3, Tracer.Trace(picture, new() { Mode = TraceMode.Flat, Dpi = Dpi, SpeckMm2 = 0 }).Layers[0].Path.Subpaths.Length);
    }

    [Fact]
    public void Any_picture_of_noise_gives_closed_rings_that_cover_what_is_ink() =>
        Gen.Select(Gen.Int[2, 24], Gen.Int[2, 24], Gen.Int).Sample((w, h, seed) =>
        {
            var random = new Random(seed);
            var labels = new byte[w * h];
            for (var i = 0; i < labels.Length; i++) labels[i] = (byte)random.Next(4);
            var borders = Borders.Trace(labels, w, h, (_, _) => 0.5);
            for (byte l = 1; l < 4; l++)
            {
                var label = l;
                double area = 0;
                foreach (var ring in borders.RingsOf(x => x == label))
                {
                    var points = ring.Parts.SelectMany(p => p.Forward ? borders.All[p.Border].Points : Enumerable.Reverse(borders.All[p.Border].Points))
                        .ToList();
                    area += Polygons.SignedArea(points);
                }

                // Each ring cuts the corners of its pixels off, at most half a pixel at each.
                Assert.InRange(area, -1, labels.Count(x => x == label) + w * h);
            }

            Assert.Equal(borders.All.Count(b => b.A != b.B), borders.All.Count);
        });
}
