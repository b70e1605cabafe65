using System.IO.Compression;
using System.Text;
using CsCheck;
using Falzkunst.Core.Documents;
using Falzkunst.Core.Files;
using Falzkunst.Core.Reading;
using Falzkunst.Core.Reading.Svg;

namespace Falzkunst.Core.Tests.Reading;

/// <summary>Files that are broken or mean harm: one plain sentence each, or a drawing without the harm; soon, and in little memory.</summary>
public sealed class HostileFiles
{
    private const string Head = "<svg xmlns='http://www.w3.org/2000/svg' width='100mm' height='100mm' viewBox='0 0 100 100'>";

    public static TheoryData<string, string> Refused => new()
    {
        { "empty", "" },
        { "only space", "  \n " },
        { "words", "this is only text" },
        { "html", "<!doctype html><html><body>no</body></html>" },
        { "other xml", "<rss version='2.0'></rss>" },
        { "cut off", Head + "<g><path d='M0 0H9V9Z'/><path d='M0 0H9V" },
        { "not well-formed", Head + "<g></svg>" },
        { "zero-sized", "<svg xmlns='http://www.w3.org/2000/svg' width='0' height='10'/>" },
        { "view box without size", "<svg xmlns='http://www.w3.org/2000/svg' viewBox='0 0 0 0'/>" },
        { "as large as the world", "<svg xmlns='http://www.w3.org/2000/svg' width='1e300mm' height='1e300mm'/>" },
        { "entity bomb", Bomb() },
        { "nested without end", Head + string.Concat(Enumerable.Repeat("<g>", 5000)) + string.Concat(Enumerable.Repeat("</g>", 5000)) + "</svg>" },
        { "uses that multiply", Head + "<defs><path id='u0' d='M0 0H1V1Z'/>"
            + string.Concat(Enumerable.Range(1, 30).Select(i => $"<g id='u{i}'>{string.Concat(Enumerable.Repeat($"<use href='#u{i - 1}'/>", 10))}</g>"))
            + "</defs><use href='#u30'/></svg>" },
        { "json that is not ours", "{\"a\":1}" },
        { "json cut off", "{\"schema\":1,\"widthMm\":10," },
        { "a newer schema", "{\"schema\":99,\"widthMm\":10,\"heightMm\":10,\"scale\":{\"pxPerInch\":96,\"isKnown\":true,\"reason\":\"\"}}" },
    };

    [Theory]
    [MemberData(nameof(Refused))]
    public void Is_refused_with_one_sentence(string what, string file)
    {
        var e = Assert.Throws<UnreadableFileException>(() => DesignReader.Read(Encoding.UTF8.GetBytes(file)));
        Assert.NotEmpty(what);
        Assert.DoesNotContain("\n", e.Message);
        Assert.DoesNotContain("Exception", e.Message);
        Assert.InRange(e.Message.Length, 5, 200);
    }

    public static TheoryData<string, string> Harmless => new()
    {
        { "itself", "<g id='a'><use href='#a'/></g><use href='#a'/>" },
        { "itself by two", "<g id='a'><use href='#b'/></g><g id='b'><use href='#a'/></g>" },
        { "not a number", "<path d='MNaN 0H9V9Z'/><rect width='NaN' height='5'/>" },
        { "far numbers", "<path d='M0 0H1e308V1e308Z'/><path d='M0 0H1e9V1e9Z'/>" },
        { "strokes of every kind", "<path d='M0 0H9' stroke='#000' stroke-width='1e308in' stroke-dasharray='1e308in' stroke-dashoffset='1e308in'/>"
            + "<g transform='scale(1e200)'><path d='M0 0H1e-200' stroke='#000' stroke-width='1e200' stroke-dasharray='1e200 1' stroke-dashoffset='1e200'/></g>"
            + "<path d='M0 0H9' stroke='#000' stroke-width='-1' stroke-dasharray='-1' stroke-dashoffset='-3'/>" },
        { "radii of every kind", "<path d='M0 0A0 0 0 0 1 5 5A1e300 1 0 0 1 9 9A1e-300 1e-300 0 0 1 3 3'/>" },
        { "transforms of every kind", "<g transform='scale(0)'><path d='M0 0H9V9Z'/></g><g transform='matrix(1e308 0 0 1e308 0 0)'><path d='M0 "
            + "0H9V9Z'/></g><g transform='rotate(NaN)'><path d='M0 0H1V1Z'/></g>" },
        { "outside", "<image href='http://somewhere.example/a.png' width='5' height='5'/><use href='other.svg#a'/>" },
        { "script", "<script>alert(1)</script><path d='M0 0H9V9Z' onclick='alert(1)'/>" },
        { "a picture that is none", "<image width='9' height='9' href='data:image/png;base64,AAAA'/>" },
        { "dashes without end", "<path fill='none' stroke='#000' stroke-dasharray='1e-9 1e-9' d='M0 0H99'/>" },
        { "a clip that is a tangle", $"<clipPath id='c'><path d='{Tangle()}'/></clipPath><rect width='90' height='90' clip-path='url(#c)'/><path "
            + $"d='{Tangle()}'/><path d='M0 0H9V9Z'/>" },
        { "css of every kind", "<style>@import url(http://somewhere.example/a.css); }}}{ .a{fill:url( ; } * * * *{fill:red}</style><path class='a' d='M0 "
            + "0H9V9Z'/>" },
    };

    [Theory]
    [MemberData(nameof(Harmless))]
    public void Is_read_without_the_harm(string what, string inside)
    {
        var design = Cases.Read(Head + inside + "</svg>");
        Assert.True(design.Extent.Width < 1e7, what);
        Writing_does_not_fail(design);
    }

    private static void Writing_does_not_fail(Core.Cards.Design design)
    {
        Assert.NotEmpty(Core.Writing.Paper.Render(design, 20, Core.Writing.DrawAs.Artwork).Png);
        Assert.NotEmpty(Core.Documents.FalzFile.Write(design));
    }

    [Fact]
    public void A_zip_that_unpacks_beyond_the_limit_is_refused_before_it_is_whole()
    {
        using var buffer = new MemoryStream();
        using (var zip = new ZipArchive(buffer, ZipArchiveMode.Create, true))
        {
            using var entry = zip.CreateEntry("a.svg").Open();
            var zeros = new byte[1 << 20];
            for (var i = 0; i < 64; i++) entry.Write(zeros);
        }

        Assert.Contains("MB", Assert.Throws<UnreadableFileException>(() => DesignReader.Read(buffer.ToArray())).Message);
    }

    [Fact]
    public void What_takes_too_much_work_is_given_up_after_just_that_much()
    {
        var file = Encoding.UTF8.GetBytes(Head + string.Concat(Enumerable.Repeat("<path d='M0 0H9V9Z'/>", 2000)) + "</svg>");
        DesignReader.Read(file);
        var before = Steps.Done;
        DesignReader.Read(file);
        // On any thread, and however often it is read: what is remembered counts as well.
        var needed = Steps.Done - before;
        foreach (var (work, isEnough) in new[] { (needed, true), (needed / 2, false), (0L, false) })
        {
            Exception? wrong = null;
            var other = new Thread(() => wrong = Record.Exception(() => DesignReader.Read(file, new() { Work = work })));
            other.Start();
            other.Join();
            Assert.Equal(isEnough ? null : typeof(TooMuchWorkException), wrong?.GetType());
        }
    }

    public static TheoryData<string, string> Slow => new()
    {
        { "selectors among siblings", "<style>x ~ rect{fill:red}</style>" + string.Concat(Enumerable.Repeat("<rect width='9' height='9'/>", 60_000)) },
        { "rules for everything", $"<style>{string.Concat(Enumerable.Range(0, 20_000).Select(i => $"[a{i}]{{fill:red}}"))}</style>"
            + string.Concat(Enumerable.Repeat("<rect width='9' height='9'/>", 20_000)) },
        { "letters one by one", $"<text font-family='Alegreya Sans' x='{string.Concat(Enumerable.Range(0, 90_000).Select(i => $"{i % 100} "))}'>"
            + new string('w', 90_000) + "</text>" },
        { "a stack of hundreds of layers", string.Concat(Enumerable.Range(0, 300).Select(i => $"<g id='layer{i}'><path fill='none' stroke='#000' d='M"
            + string.Join(' ', Enumerable.Range(0, 500).Select(t => FormattableString.Invariant(
                $"{50 + (45 + i % 7 * 0.001) * Math.Cos(t / 79.6):0.###},{50 + 45 * Math.Sin(t / 79.6):0.###}"))) + "Z'/></g>")) },
    };

    [Theory]
    [MemberData(nameof(Slow))]
    public void Is_given_up_when_its_work_is_done(string what, string inside)
    {
        // Whole, each would take minutes. How soon is for bench/limits.mjs: here other tests may have the processor.
        Assert.NotEmpty(what);
        Assert.Throws<TooMuchWorkException>(() =>
            DesignReader.Read(Encoding.UTF8.GetBytes(Head + inside + "</svg>"), new() { Work = ReadingLimits.Default.Work / 40 }));
    }

    [Fact]
    public void A_doctype_from_outside_is_not_fetched_and_does_no_harm() =>
        Assert.Single(Cases.Read("<?xml version='1.0' standalone='no'?><!DOCTYPE svg PUBLIC '-//W3C//DTD SVG 1.1//EN' 'http://somewhere.example/svg11.dtd'>"
            + Head + "<path d='M0 0H9V9Z'/></svg>").Pieces);

    [Fact]
    public void A_huge_file_is_refused_at_once() =>
        Assert.Contains("50 MB", Assert.Throws<UnreadableFileException>(() => DesignReader.Read(new byte[50_000_001])).Message);

    [Fact]
    public void Any_bytes_at_all_end_in_a_design_or_a_sentence() => Gen.Byte.Array[0, 300].Sample(bytes =>
    {
        try
        {
            DesignReader.Read(bytes);
        }
        catch (UnreadableFileException e)
        {
            Assert.NotEmpty(e.Message);
        }
    }, iter: 2000);

    [Fact]
    public void Any_path_data_is_drawn_up_to_its_error() => Gen.String[Gen.Char["MmLlHhVvCcSsQqTtAaZz0123456789.-+eE, x"], 0, 60].Sample(text =>
    {
        var path = PathText.Read(text, out _);
        foreach (var sub in path.Subpaths) Assert.True(double.IsFinite(sub.End.X) || Math.Abs(sub.End.X) > 0);
    }, iter: 5000);

    private static string Tangle() => "M0 0" + string.Concat(Enumerable.Range(0, 1500).Select(i => $"L{i * 37 % 101} {i * 61 % 97}")) + "Z";

    private static string Bomb()
    {
        var text = new StringBuilder("<!DOCTYPE svg [<!ENTITY a0 'MMMMMMMMMM'>");
        for (var i = 1; i < 12; i++) text.Append($"<!ENTITY a{i} '{string.Concat(Enumerable.Repeat($"&a{i - 1};", 10))}'>");
        return text.Append("]><svg xmlns='http://www.w3.org/2000/svg' width='1' height='1'><path d='&a11;'/></svg>").ToString();
    }
}
