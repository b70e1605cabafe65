using System.Collections.Immutable;
using Falzkunst.Core.Cards;
using Falzkunst.Core.Files;
using Falzkunst.Core.Layout;
using Falzkunst.Core.Pictures;
using Falzkunst.Core.Printing;
using Falzkunst.Core.Reading;
using Falzkunst.Core.Regions;
using Falzkunst.Core.Tests.Regions;

namespace Falzkunst.Core.Tests.Printing;

public sealed class PrintFileTests(ITestOutputHelper output)
{
    private static readonly Stock Photo = new("photo", "photo", Colour.White, 240, Length.FromMm(0.3),
        [new(Length.FromMm(148), Length.FromMm(210), 9, Length.FromMm(3))]);

    /// <summary>A picture of one colour, so that it is known where it was printed.</summary>
    private static Picture Plain(byte r, byte g, byte b) =>
        new([.. new Raster(40, 40, [.. Enumerable.Repeat(new byte[] { r, g, b, 255 }, 1600).SelectMany(p => p)], null).ToPng()]);

    /// <summary>A JPEG that nobody else made.</summary>
    private static byte[] Waves()
    {
        var data = new byte[300 * 200 * 3];
        for (var i = 0; i < data.Length; i++) data[i] = (byte)(128 + 90 * Math.Sin(i % 900 * 0.004 + i % 3) * Math.Cos(i / 900 * 0.05));
        return new StandIns.Pixels(300, 200, 3, data).Jpeg(90);
    }

    /// <summary>A card of printed pieces, each with a picture that ends where the piece does.</summary>
    private static Design Card(PrintSettings print, params (VectorPath Outline, Picture Picture)[] pieces)
    {
        var design = Design.Blank(Length.FromMm(148), Length.FromMm(210));
        foreach (var (outline, _) in pieces) design = new AddPiece(new Drawn(outline), default, "badge").Apply(design);
        return design with
        {
            Print = print,
            AllPieces = [.. design.AllPieces.Select((p, i) =>
            {
                var box = p.Outline.Bounds;
                return p with { AllArtwork = [new($"a{i + 1}", pieces[i].Picture, new(box.Width, 0, 0, box.Height, box.Left, box.Top), 1)] };
            })],
        };
    }

    private static ImmutableArray<PrintSheet> Printed(Design design, int copies = 1, double gap = 2)
    {
        var settings = LayoutSettings.For(copies) with { Effort = TimeSpan.FromSeconds(0.2) };
        var layout = SheetPlans.LayOut(design = design with { AskedLaying = new(Length.FromMm(gap), Turns.Quarter) }, [Photo], settings);
        Assert.Empty(layout.Unplaced);
        Assert.Empty(LayoutCheck.Faults(design, [Photo], layout));
        return PrintFile.Sheets(design, layout, "Hut badges");
    }

    private static VectorPath AnyOutline(Random random)
    {
        var area = Region.Parts(AnyArea.One(random), FillRule.EvenOdd)[0];
        var size = (18 + 40 * random.NextDouble()) / Math.Max(area.Bounds.Width, area.Bounds.Height);
        return VectorPath.Joined(Together.Clean(area.Transform(Affine.Scale(size, size))));
    }

    /// <summary>Wherever a cut may lie that is off by no more than the bleed, there is ink; nothing is printed on a neighbour, nor near a mark.
    /// FALZKUNST_BLEEDS reports on others.</summary>
    [Fact]
    public void Ink_reaches_as_far_as_the_bleed_and_stays_off_neighbours_and_marks()
    {
        var (count, from) = Cases.Seeds("FALZKUNST_BLEEDS", "3@400", "8@400");
        const double dpi = 200, mm = dpi / 25.4;
        var asked = 0;
        for (var seed = from; seed < from + count; seed++)
        {
            var random = new Random(seed);
            var print = new PrintSettings
            {
                Marks = (MarkKind)random.Next(3),
                Bleed = Length.FromMm(0.5 + 2.5 * random.NextDouble()),
                BleedBy = (BleedBy)random.Next(2),
            };
            var design = Card(print, (AnyOutline(random), Plain(200, 30, 30)), (AnyOutline(random), Plain(30, 30, 200)));
            foreach (var sheet in Printed(design))
            {
                var seen = Raster.Read(PrintFile.Png(sheet, dpi), ReadingLimits.Default);
                (byte R, byte G, byte B) At(Point p)
                {
                    var i = 4 * ((int)(p.Y * mm) * seen.Width + (int)(p.X * mm));
                    return (seen.Rgba[i], seen.Rgba[i + 1], seen.Rgba[i + 2]);
                }

                foreach (var piece in sheet.Pieces)
                {
                    var isRed = piece.Piece.Id == design.AllPieces[0].Id;
                    // Tips of less than a tenth of a millimetre are no paper.
                    var body = VectorPath.Joined(Outsets.Of(piece.Outline, -0.05));
                    foreach (var part in Outsets.Of(body, 0.05 + print.Bleed.Mm - 0.25))
                    {
                        foreach (var p in part.Rings.SelectMany(r => r))
                        {
                            var (r, g, b) = At(p);
                            asked++;
                            Assert.True(isRed ? r > 150 && b < 90 : b > 150 && r < 90,
                                $"seed {seed}: at {p.X:0.00}, {p.Y:0.00}, {piece.Outline.DistanceTo(p):0.00} from the cut, it is {r} {g} {b}");
                        }
                    }
                }

                foreach (var mark in sheet.Marks!.All)
                {
                    foreach (var p in mark.KeepOut.Rings[0].Select(p => (p * 0.9) + mark.KeepOut.Bounds.Centre * 0.1))
                        if (p.X > 0 && p.Y > 0 && p.X < 148 && p.Y < 210) Assert.Equal((255, 255, 255), At(p));
                }
            }
        }

        output.WriteLine($"bleed: {asked} places of {count} cards, none white");
    }

    /// <summary>By an independent renderer: the file has what the picture has, at true size, and a JPEG as it came.</summary>
    [Fact]
    public void The_file_shows_what_the_picture_shows_and_takes_a_JPEG_as_it_came()
    {
        var jpeg = Waves();
        var design = Card(new(), (VectorPath.Rectangle(0, 0, 60, 45), new([.. jpeg])), (AnyArea.Ellipse(15, 10), Plain(30, 30, 200)));
        var sheets = Printed(design, 3);
        var folder = Directory.CreateTempSubdirectory().FullName;
        File.WriteAllBytes(Path.Combine(folder, "a.pdf"), PrintFile.Pdf(sheets));
        Outside.Run("pdftoppm", "-r", "150", "-png", Path.Combine(folder, "a.pdf"), Path.Combine(folder, "page"));
        var pages = Directory.GetFiles(folder, "page*.png").Order().ToList();
        Assert.Equal(sheets.Length, pages.Count);
        for (var k = 0; k < pages.Count; k++)
        {
            Raster a = Raster.Read(File.ReadAllBytes(pages[k]), ReadingLimits.Default), b = Raster.Read(PrintFile.Png(sheets[k], 150), ReadingLimits.Default);
            var off = 0;
            for (var y = 4; y < Math.Min(a.Height, b.Height) - 4; y += 3)
                for (var x = 4; x < Math.Min(a.Width, b.Width) - 4; x += 3)
                    if (Enumerable.Range(0, 3).Any(c => Math.Abs(a.Rgba[4 * (y * a.Width + x) + c] - b.Rgba[4 * (y * b.Width + x) + c]) > 60)) off++;
            Assert.InRange(off, 0, 0.004 * a.Width * a.Height / 9);
        }

        Outside.Run("pdfimages", "-all", Path.Combine(folder, "a.pdf"), Path.Combine(folder, "image"));
        Assert.Contains(Directory.GetFiles(folder, "image*.jpg"), f => File.ReadAllBytes(f).AsSpan().SequenceEqual(jpeg));
        Directory.Delete(folder, true);
    }

    /// <summary>What a higher ply covers is left out, but for the margin under its edge.</summary>
    [Fact]
    public void What_others_cover_is_not_printed_but_for_a_margin()
    {
        var print = new PrintSettings { UnderOthers = Length.FromMm(6), Bleed = Length.Zero };
        var design = Card(print, (VectorPath.Rectangle(0, 0, 80, 80), Plain(200, 30, 30)), (VectorPath.Rectangle(20, 20, 40, 40), Plain(30, 30, 200)));
        var (below, above) = (design.AllPieces[0], design.AllPieces[1]);
        var hidden = Seen.Hidden(design, below, print.UnderOthers.Value);
        var (a, b) = (above.OnCard.Bounds, hidden.Single().Transform(below.Place.Map).Bounds);
        Assert.Equal(a.Left + 6, b.Left, 0.01);
        Assert.Equal(a.Bottom - 6, b.Bottom, 0.01);
        Assert.Equal(28.0 * 28 / (80 * 80 + 40 * 40), Seen.Saved(design, print), 0.001);
        Assert.Empty(Seen.Hidden(design, above, print.UnderOthers.Value));
    }

    /// <summary>From picture to proof: badges printed by the stand-in with errors are read and lie where they are cut; a cut that is shifted is told by how
    /// much, and where it would leave white.</summary>
    [Fact]
    public async Task The_proof_tells_how_far_each_print_lies_off_its_cut_and_where_white_would_be_left()
    {
        var badges = PictureDesign.Read(File.ReadAllBytes(Path.Combine(Cases.Demo, "hut-badges.png")), new()
        {
            Mode = TraceMode.Outline,
            KeepPicture =
            true
        }, ReadingLimits.Default);
        var design = badges with { Print = new() { Bleed = Length.FromMm(1) } };
        // Not as near as the bleeds allow: where two of them meet, a cut that is off comes upon the pixel between.
        var sheet = Printed(design, gap: 3)[0];
        var errors = StandIns.PrintErrors.Of(11) with { Smudges = 0, Stripe = 0 };
        var paper = await StandIns.Printer.Print(PrintFile.Pdf([sheet]), 1, errors, 11, 300, false);
        var seen = new GreyPicture(paper.Picture.Width, paper.Picture.Height, paper.Picture.Data);
        var read = MarkReader.Read(sheet.Marks!, [new(seen, 300 / Length.MmPerInch, new(0, 0))]);
        Assert.Null(read.Why);
        var proof = Proof.Of(sheet, seen, 300 / Length.MmPerInch, read.Map!.Value);
        output.WriteLine($"proof: {proof.Pieces.Length} badges, off by {proof.TypicalMm:0.000}, at most {proof.LargestMm:0.000} mm");
        Assert.True(proof.Pieces.Length >= 7);
        Assert.InRange(proof.LargestMm!.Value, 0, 0.06);
        Assert.Empty(proof.Slivers);

        var shifted = read.Map!.Value with { E = read.Map!.Value.E + 0.4, F = read.Map!.Value.F - 0.3 };
        var off = Proof.Of(sheet, seen, 300 / Length.MmPerInch, shifted);
        Assert.All(off.Pieces, p => Assert.InRange(p.Off.DistanceTo(new(-0.4, 0.3)), 0, 0.07));
        Assert.Empty(off.Slivers);
        var far = Proof.Of(sheet, seen, 300 / Length.MmPerInch, read.Map!.Value with { E = read.Map!.Value.E + 1.6 });
        Assert.NotEmpty(far.Slivers);
    }
}
