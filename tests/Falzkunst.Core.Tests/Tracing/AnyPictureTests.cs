using Falzkunst.Core.Cards;
using Falzkunst.Core.Files;
using Falzkunst.Core.Pictures;
using Falzkunst.Core.Reading;

namespace Falzkunst.Core.Tests.Tracing;

/// <summary>Any opaque picture comes in with nothing lost that nobody was told of: one that fills its frame is whole, one on a ground is cut around.
/// FALZKUNST_PICTURES ("2000@500000") says how many.</summary>
public sealed class AnyPictureTests
{
    [Fact]
    public void A_picture_that_fills_its_frame_is_taken_whole_and_one_on_a_ground_is_not()
    {
        var (count, first) = Cases.Seeds("FALZKUNST_PICTURES", "60@1", "400@1");
        var wrong = new List<string>();
        Parallel.For(first, first + count, seed =>
        {
            var r = new Random(seed);
            var (picture, fills, kind) = AnyPicture(r);
            var file = picture.ToPng();
            var design = PictureDesign.Read(file, null, ReadingLimits.Default);
            var settings = design.Sources[0].Tracing!.Settings;
            var isWhole = settings.Mode == TraceMode.Whole;
            if (isWhole != fills) lock (wrong) wrong.Add($"{seed}: {kind} became {settings.Mode}");
            if (!isWhole) return;
            var piece = Assert.Single(design.Pieces);
            Assert.Equal(file, Assert.Single(piece.Artwork).Picture!.Bytes.AsSpan());
            var mm = Length.MmPerInch / design.Scale.PxPerInch;
            Assert.Equal((picture.Width * mm, picture.Height * mm), (piece.OnCard.Bounds.Width, piece.OnCard.Bounds.Height));
            Assert.Equal(piece.Outline.Bounds, piece.Artwork[0].Bounds);
        });
        Assert.True(wrong.Count <= count / 200, $"{wrong.Count} of {count}\n{string.Join('\n', wrong.Order().Take(20))}");
    }

    [Theory]
    [InlineData(TraceMode.Whole)]
    [InlineData(TraceMode.Outline)]
    public void Beside_something_else_a_picture_keeps_its_size_when_it_is_traced_again_or_sized_or_all_is_scaled(TraceMode mode)
    {
        var r = new Random(3);
        Raster picture;
        bool fills;
        do (picture, fills, _) = AnyPicture(r);
        while (fills);
        var file = picture.ToPng();
        var settings = new TraceSettings { Mode = mode, Ground = Ground.JoinedToRim };
        var beside = new BringBeside(PictureDesign.Read(file, settings, ReadingLimits.Default), "picture").Apply(Cases.DemoCard());
        double Wide(Design d) => Align.Around(d, [.. d.Pieces.Where(p => p.Origin!.Source == d.Sources[^1].Id).Select(p => p.Id)]).Width;
        Design Again(Design d, double dpi, double border = 0) =>
            new TraceAgain(d.Sources[^1].Id,
                PictureDesign.Read(file, settings with { Dpi = dpi, Border = Length.FromMm(border) }, ReadingLimits.Default)).Apply(d);
        Assert.Equal(300, beside.ScaleOf(beside.Sources[^1]).PxPerInch);
        Assert.Equal(96, beside.Scale.PxPerInch);
        Assert.Equal(Wide(beside), Wide(Again(beside, 300)), 6);
        Assert.Equal(Wide(beside) + 6, Wide(Again(beside, 300, 3)), 0.2);
        var twice = Again(beside, 150);
        Assert.Equal(2 * Wide(beside), Wide(twice), 0.05 * Wide(beside));
        Assert.Equal((150, 96), (twice.ScaleOf(twice.Sources[^1]).PxPerInch, twice.Scale.PxPerInch));
        var half = new SetScale(192).Apply(twice);
        Assert.Equal((300, Wide(twice) / 2), (half.ScaleOf(half.Sources[^1]).PxPerInch, Wide(half)));
        Assert.Null(half.Check());
    }

    [Fact]
    public void What_is_moved_as_a_whole_is_not_worked_on_and_all_else_is()
    {
        var two = new BringBeside(Cases.DemoCard(), "again").Apply(Cases.DemoCard());
        var id = two.Sources[^1].Id;
        string[] its = [.. two.Pieces.Where(p => p.Origin!.Source == id).Select(p => p.Id)];
        bool Loses(Edit edit) => TraceAgain.Loses(two, edit.Make(two), id);
        Assert.False(Loses(new Move([.. its], Length.FromMm(12), Length.FromMm(-3))));
        Assert.False(Loses(new Rename(two.Pieces[0].Id, "Another's")));
        Assert.False(Loses(new SetScale(two.Scale.PxPerInch / 2)));
        Assert.True(Loses(new Move([its[0]], Length.FromMm(12), Length.Zero)));
        Assert.True(Loses(new Rename(its[1], "Mine")));
        Assert.True(Loses(new Remove([its[2]])));
        Assert.True(Loses(new Turn([its[0]], Angle.FromDegrees(5), null)));
    }

    private static (Raster Picture, bool Fills, string Kind) AnyPicture(Random r)
    {
        int w = r.Next(50, 160), h = r.Next(50, 160), noise = r.Next(3);
        Colour Vivid() => r.Next(2) == 0 ? new((byte)r.Next(180, 256), (byte)r.Next(0, 120), (byte)r.Next(0, 256))
            : new((byte)r.Next(0, 120), (byte)r.Next(0, 256), (byte)r.Next(180, 256));
        var rgba = new byte[w * h * 4];
        void Paint(Func<int, int, Colour?> colour)
        {
            for (var i = 0; i < w * h; i++)
            {
                if (colour(i % w, i / w) is not { } c) continue;
                byte N(byte v) => (byte)Math.Clamp(v + r.Next(-noise, noise + 1), 0, 255);
                (rgba[4 * i], rgba[4 * i + 1], rgba[4 * i + 2], rgba[4 * i + 3]) = (N(c.R), N(c.G), N(c.B), 255);
            }
        }

        void Blobs(int count, double within)
        {
            for (var k = 0; k < count; k++)
            {
                double x = w * (0.5 + within * (r.NextDouble() - 0.5)), y = h * (0.5 + within * (r.NextDouble() - 0.5));
                var by = Math.Min(w, h) * (0.1 + 0.12 * r.NextDouble());
                var c = Vivid();
                Paint((px, py) => (px - x) * (px - x) + (py - y) * (py - y) < by * by ? c : null);
            }
        }

        Colour Mixed(Colour a, Colour b, double t) => new((byte)(a.R + (b.R - a.R) * t), (byte)(a.G + (b.G - a.G) * t),
            (byte)(a.B + (b.B - a.B) * t));
        switch (r.Next(6))
        {
            case 0:
                // A sky, even or paler towards the horizon, and hills.
                Colour sky = new(90, 160, 230), below = r.Next(2) == 0 ? sky : new(200, 225, 245);
                Colour hill = new((byte)r.Next(30, 110), (byte)r.Next(120, 180), 40);
                double horizon = 0.3 + 0.35 * r.NextDouble(), wave = 0.1 * r.NextDouble();
                Paint((x, y) => (double)y / h < horizon + wave * Math.Sin(x * 6.0 / w) ? Mixed(sky, below, y / (horizon * h)) : hill);
                Blobs(r.Next(4), 0.7);
                return (new(w, h, rgba, null), true, "a landscape");
            case 1:
                Colour a = new(230, 40, 60), b = new(40, 60, 230), d = new(250, 230, 40);
                Paint((x, y) => Mixed(Mixed(a, b, (double)x / w), d, (double)y / h));
                return (new(w, h, rgba, null), true, "a gradient");
            case 2:
                var stripes = Enumerable.Range(0, r.Next(3, 7)).Select(_ => Vivid()).ToList();
                var upright = r.Next(2) == 0;
                Paint((x, y) => stripes[(upright ? x * stripes.Count / w : y * stripes.Count / h)]);
                var differ = stripes[0].Hex != stripes[^1].Hex;
                return (new(w, h, rgba, null), differ, "stripes");
            case 3:
                var cells = Enumerable.Range(0, r.Next(14, 40)).Select(_ => (X: r.Next(w), Y: r.Next(h), Colour: Vivid())).ToList();
                Paint((x, y) => cells.MinBy(c => (c.X - x) * (c.X - x) + (c.Y - y) * (c.Y - y)).Colour);
                return (new(w, h, rgba, null), true, "a mosaic");
            default:
                var ground = r.Next(3) == 0 ? Vivid() : r.Next(2) == 0 ? Colour.White : new(235, 230, 220);
                Paint((_, _) => ground);
                Blobs(r.Next(3, 9), 0.45);
                if (r.Next(3) == 0)
                {
                    var foot = Vivid();
                    Paint((x, y) => y > h / 2 && Math.Abs(x - w / 2) < w / 5 ? foot : null);
                }

                return (new(w, h, rgba, null), false, "things on a ground");
        }
    }
}
