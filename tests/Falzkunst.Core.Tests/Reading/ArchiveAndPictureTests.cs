using System.IO.Compression;
using System.Text;
using Falzkunst.Core.Cards;
using Falzkunst.Core.Documents;
using Falzkunst.Core.Files;
using Falzkunst.Core.Findings;
using Falzkunst.Core.Pictures;
using Falzkunst.Core.Reading;
using Falzkunst.Core.Tracing;
using Falzkunst.Core.Writing;

namespace Falzkunst.Core.Tests.Reading;

public sealed class ArchiveAndPictureTests
{
    private const string Card = "<svg xmlns='http://www.w3.org/2000/svg' width='40mm' height='30mm' viewBox='0 0 40 30'><rect width='40' height='30' "
        + "fill='#f4ead2'/><circle cx='20' cy='15' r='9' fill='#123'/></svg>";

    private static byte[] Zip(params (string Name, byte[] Bytes)[] files)
    {
        using var buffer = new MemoryStream();
        using (var zip = new ZipArchive(buffer, ZipArchiveMode.Create, true))
        {
            foreach (var (name, bytes) in files)
            {
                using var entry = zip.CreateEntry(name).Open();
                entry.Write(bytes);
            }
        }

        return buffer.ToArray();
    }

    private static byte[] Gzip(byte[] bytes)
    {
        using var buffer = new MemoryStream();
        using (var pack = new GZipStream(buffer, CompressionLevel.Optimal)) pack.Write(bytes);
        return buffer.ToArray();
    }

    private static byte[] Png(string svg, double dpi = 150) => Paper.Render(Cases.Read(svg), dpi, DrawAs.Artwork).Png;

    [Fact]
    public void An_archive_gives_the_files_that_could_be_designs()
    {
        var files = Archive.Files(Zip(("b/card.svg", Encoding.UTF8.GetBytes(Card)), ("a.dxf", [1]), ("read me.txt", [2]), ("__MACOSX/._card.svg", [3]),
            (".hidden.svg", [4]), ("b/", [])), ReadingLimits.Default);
        Assert.Equal(["a.dxf", "card.svg"], files.Select(f => f.Name));
        Assert.Equal(2, DesignReader.Read(files[1].Bytes).Pieces.Length);
    }

    [Fact]
    public void An_archive_that_unpacks_beyond_all_bounds_is_refused_in_time()
    {
        // 60 MB of nothing in 60 kB, four times.
        var bomb = Zip([.. Enumerable.Range(0, 4).Select(i => ($"{i}.svg", new byte[60_000_000]))]);
        Assert.InRange(bomb.Length, 0, 1_000_000);
        Assert.Throws<UnreadableFileException>(() => Archive.Files(bomb, ReadingLimits.Default));
        Assert.Throws<UnreadableFileException>(() => DesignReader.Read(Gzip(new byte[60_000_000])));
        Assert.Throws<UnreadableFileException>(() => DesignReader.Read(Gzip(Gzip(Encoding.UTF8.GetBytes(Card)))));
    }

    [Theory]
    [InlineData(40)]
    [InlineData(400)]
    public void A_damaged_archive_gets_a_sentence(int keep)
    {
        var zip = Zip(("card.svg", Encoding.UTF8.GetBytes(Card)));
        Assert.Throws<UnreadableFileException>(() => Archive.Files(zip.AsMemory(0, Math.Min(keep, zip.Length - 30)), ReadingLimits.Default));
        Assert.Throws<UnreadableFileException>(() => Archive.Files(Zip(("notes.txt", [1, 2])), ReadingLimits.Default));
    }

    [Fact]
    public void Compressed_and_wide_text_is_read_like_plain()
    {
        var plain = FalzFile.Write(Cases.Read(Card));
        Assert.Equal(plain, FalzFile.Write(DesignReader.Read(Gzip(Encoding.UTF8.GetBytes(Card)))));
        Assert.Equal(plain, FalzFile.Write(DesignReader.Read((byte[])[.. Encoding.Unicode.GetPreamble(), .. Encoding.Unicode.GetBytes(Card)])));
        Assert.Equal(plain, FalzFile.Write(DesignReader
            .Read((byte[])[.. Encoding.BigEndianUnicode.GetPreamble(), .. Encoding.BigEndianUnicode.GetBytes(Card)])));
    }

    [Theory]
    [InlineData("<rect width='40' height='30' fill='#fff'/><circle cx='20' cy='15' r='9'/>", TraceMode.Flat, 1)]
    [InlineData("<rect width='40' height='30' fill='#fff'/><circle cx='20' cy='15' r='9' fill='#0a6'/><rect x='2' y='2' width='9' height='8' fill='#c22'/>",
        TraceMode.Colours, 2)]
    [InlineData("<circle cx='20' cy='15' r='9' fill='#0a6'/>", TraceMode.Colours, 1)]
    public void A_picture_is_traced_by_what_it_looks_like(string shapes, TraceMode mode, int plies)
    {
        var design = DesignReader.Read(Png($"<svg xmlns='http://www.w3.org/2000/svg' width='40mm' height='30mm' viewBox='0 0 40 30'>{shapes}</svg>"));
        Assert.Equal(mode, design.Sources[0].Tracing!.Settings.Mode);
        Assert.Equal(plies, design.Plies.Length);
        Assert.False(design.Scale.IsKnown);
        var file = FalzFile.Write(design);
        Assert.Equal(file, FalzFile.Write(FalzFile.Read(file)));
    }

    [Fact]
    public void Each_piece_carries_its_own_part_of_a_picture_that_is_kept()
    {
        var png = Png("<svg xmlns='http://www.w3.org/2000/svg' width='60mm' height='30mm' viewBox='0 0 60 30'><rect width='60' height='30' "
            + "fill='#fff'/><circle cx='15' cy='15' r='9' fill='#0a6'/><rect x='36' y='6' width='18' height='18' fill='#c22'/></svg>");
        var design = PictureDesign.Read(png, new() { Mode = TraceMode.Outline, KeepPicture = true, Dpi = 150 }, ReadingLimits.Default);
        Assert.Equal(2, design.Artwork.Length);
        foreach (var piece in design.Pieces)
        {
            var art = design.Artwork.Single(a => a.CarriedBy == piece.Id);
            Assert.True(art.Bounds.Grown(0.01).Holds(piece.Outline.Bounds));
            Assert.InRange(art.Bounds.Width, 18, 26);
            var part = Raster.Read([.. art.Artwork.Picture!.Bytes], ReadingLimits.Default);
            var middle = (part.Height / 2 * part.Width + part.Width / 2) * 4;
            Assert.Equal(piece.Outline.Bounds.Left < 30, part.Rgba[middle + 1] > 100);
        }
    }

    [Fact]
    public void Lines_drawn_on_nothing_are_laid_on_paper_with_one_click()
    {
        var design = Cases.Read("<svg xmlns='http://www.w3.org/2000/svg' width='40mm' height='30mm' viewBox='0 0 40 30'><path d='M5 5C9 9 20 2 30 20M8 "
            + "20H20' stroke='#114' fill='none'/></svg>");
        var finding = FindingList.Of(new(design, [])).Single(f => f.Code == "no-piece");
        Assert.Equal(Severity.Stop, finding.Severity);
        var next = finding.Remedy!.Edit.Apply(design);
        Assert.All(next.Lines, l => Assert.Equal(next.Pieces.Single().Id, l.CarriedBy));
        Assert.DoesNotContain(FindingList.Of(new(next, [])), f => f.Code is "no-piece" or "loose");
    }

    [Theory]
    [InlineData(new byte[] { 0x89, 0x50, 0x4E, 0x47, 0x0D, 0x0A, 0x1A, 0x0A, 1, 2, 3 })]
    [InlineData(new byte[] { 0xFF, 0xD8, 0xFF, 0xE0, 0, 16, 9, 9, 9 })]
    [InlineData(new byte[] { 0x52, 0x49, 0x46, 0x46, 9, 9, 9, 9, 0x57, 0x45, 0x42, 0x50, 1 })]
    public void A_damaged_picture_gets_a_sentence(byte[] file) =>
        Assert.Contains("picture", Assert.Throws<UnreadableFileException>(() => DesignReader.Read(file)).Message);

    [Fact]
    public void A_picture_that_is_cut_off_or_empty_or_huge_gets_a_sentence()
    {
        var png = Png(Card);
        Assert.Throws<UnreadableFileException>(() => DesignReader.Read(png.AsMemory(0, png.Length / 2)));
        var white = Png("<svg xmlns='http://www.w3.org/2000/svg' width='40mm' height='30mm'><rect width='200' height='200' fill='#fff'/></svg>");
        Assert.Contains("nothing to trace", Assert.Throws<UnreadableFileException>(() => DesignReader.Read(white)).Message);
        // The head says 30,000 × 30,000; nothing is decoded.
        var huge = (byte[])png.Clone();
        foreach (var at in new[] { 16, 20 }) (huge[at], huge[at + 1], huge[at + 2], huge[at + 3]) = (0, 0, 0x75, 0x30);
        Assert.Throws<UnreadableFileException>(() => DesignReader.Read(huge));
    }

    [Theory]
    [InlineData(SkiaSharp.SKEncodedImageFormat.Jpeg)]
    [InlineData(SkiaSharp.SKEncodedImageFormat.Webp)]
    public void A_large_picture_halved_while_it_is_decoded_is_the_picture_halved_afterwards(SkiaSharp.SKEncodedImageFormat kind)
    {
        var png = Png("<svg xmlns='http://www.w3.org/2000/svg' width='40.64mm' height='30.48mm' viewBox='0 0 41 31'><rect width='41' height='31' "
            + "fill='#eed'/><circle cx='20' cy='15' r='9' fill='#a23'/><path d='M2 2L30 28L12 29Z' fill='#246' opacity='.7'/></svg>", 200);
        using var bitmap = SkiaSharp.SKBitmap.Decode(png);
        using var data = bitmap.Encode(kind, 95);
        var file = data.ToArray();
        var whole = Raster.Read(file, ReadingLimits.Default);
        var half = Raster.Read(file, ReadingLimits.Default, 1000);
        var expected = whole.Halved();
        Assert.Equal((expected.Width, expected.Height, 1, expected.PxPerInch), (half.Width, half.Height, half.Halvings, half.PxPerInch));
        var off = half.Rgba.Zip(expected.Rgba).Average(p => Math.Abs(p.First - p.Second));
        // Each kind has its own way of decoding to half the size.
        Assert.InRange(off, 0, 3);
        Assert.Equal(whole, Raster.Read(file, ReadingLimits.Default, long.MaxValue) with { Rgba = whole.Rgba });
    }

    [Fact]
    public void The_head_of_each_kind_of_picture_says_its_size()
    {
        using var bitmap = new SkiaSharp.SKBitmap(37, 21);
        bitmap.Erase(SkiaSharp.SKColors.Teal);
        foreach (var (format, quality, type) in new[] { (SkiaSharp.SKEncodedImageFormat.Png, 100, "image/png"),
            (SkiaSharp.SKEncodedImageFormat.Jpeg, 80, "image/jpeg"), (SkiaSharp.SKEncodedImageFormat.Webp, 80, "image/webp"),
            (SkiaSharp.SKEncodedImageFormat.Webp, 100, "image/webp"), })
        {
            using var data = bitmap.Encode(format, quality);
            Assert.Equal(new PictureFacts(type, 37, 21), PictureFacts.Read(data.ToArray()));
            Assert.Null(PictureFacts.Read(data.ToArray().AsSpan(0, 10)));
        }

        foreach (var file in Directory.GetFiles(Path.Combine(Cases.Folder, "hostile", "webp"))) PictureFacts.Read(File.ReadAllBytes(file));
    }

    [Theory]
    [InlineData("path", "M0 0 9")]
    [InlineData("path", "M0 0L9 9")]
    [InlineData("ply", "nowhere")]
    public void A_design_that_does_not_hold_together_is_refused_with_the_place(string field, string value)
    {
        var file = Encoding.UTF8.GetString(FalzFile.Write(Cases.Read(Card)));
        var broken = System.Text.RegularExpressions.Regex.Replace(file, $"(\"id\":\"p2\".*?\"{field}\":)\"[^\"]*\"", $"$1\"{value}\"");
        Assert.NotEqual(file, broken);
        Assert.Contains("not a whole design", Assert.Throws<UnreadableFileException>(() => FalzFile.Read(Encoding.UTF8.GetBytes(broken))).Message);
    }
}
