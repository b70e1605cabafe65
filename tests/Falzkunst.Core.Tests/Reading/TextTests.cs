using Falzkunst.Core.Pictures;
using System.Text;
using Falzkunst.Core.Files;
using Falzkunst.Core.Lettering;
using Falzkunst.Core.Reading;
using Falzkunst.Core.Reading.Svg;

namespace Falzkunst.Core.Tests.Reading;

/// <summary>Where text comes to stand, and what is said of text that can't be set. (That it looks right is judged by tests/cases/reading.)</summary>
public sealed class TextTests
{
    private static Drawing Read(string body) =>
        SvgReader.Read(new MemoryStream(Encoding.UTF8.GetBytes("<svg xmlns='http://www.w3.org/2000/svg' width='200mm' height='100mm' viewBox='0 0 200 "
        + $"100'>{body}</svg>")), ReadingLimits.Default);

    private static Box BoundsOf(string body) => Read(body).Items.Cast<DrawnPath>().Aggregate(Box.Empty, (b, p) => b.With(p.Path.Bounds));

    private static double Wide(string text, double size, int weight = 400) => Typeface.Find("Alegreya Sans", weight)!.Set(text).Sum(g => g.Advance) * size;

    private const string Sans = "font-family='Alegreya Sans' font-size='10'";

    [Theory]
    [InlineData("start", 0)]
    [InlineData("middle", 0.5)]
    [InlineData("end", 1)]
    public void Anchors_shift_a_chunk_by_its_whole_width(string anchor, double share)
    {
        var at = BoundsOf($"<text x='100' y='50' {Sans} text-anchor='{anchor}'>hut</text>");
        var plain = BoundsOf($"<text x='100' y='50' {Sans}>hut</text>");
        Assert.Equal(plain.Left - share * Wide("hut", 10), at.Left, 6);
    }

    [Fact]
    public void A_place_of_its_own_begins_a_chunk_that_is_anchored_by_itself()
    {
        var both = Read($"<text y='50' {Sans} text-anchor='end'><tspan x='50'>hut</tspan><tspan x='150'>hut</tspan></text>").Items.Cast<DrawnPath>().ToList();
        Assert.Equal(2, both.Count);
        Assert.Equal(100, both[1].Path.Bounds.Left - both[0].Path.Bounds.Left, 6);
    }

    [Fact]
    public void What_stands_farther_in_has_the_last_word_about_its_own_letters_only()
    {
        var items = Read($"<text y='50' {Sans}><tspan x='10 30'><tspan x='50' fill='#a33'>a</tspan>b<tspan dx='5' fill='#036'>c</tspan></tspan></text>").Items
            .Cast<DrawnPath>().ToList();
        Assert.Equal(BoundsOf($"<text x='50' y='50' {Sans}>a</text>").Left, items[0].Path.Bounds.Left, 5);
        Assert.Equal(BoundsOf($"<text x='30' y='50' {Sans}>b</text>").Left, items[1].Path.Bounds.Left, 5);
        Assert.Equal(BoundsOf($"<text x='{35 + Wide("b", 10):R}' y='50' {Sans}>c</text>").Left, items[2].Path.Bounds.Left, 5);
    }

    [Fact]
    public void Text_goes_on_behind_what_was_set_and_where_the_last_chunk_ended()
    {
        var items = Read($"<text x='10' y='50' {Sans}>by<tspan font-weight='700'>the</tspan></text>").Items.Cast<DrawnPath>().ToList();
        var the = BoundsOf($"<text x='{10 + Wide("by", 10):R}' y='50' {Sans} font-weight='700'>the</text>");
        Assert.Equal(the.Left, items[1].Path.Bounds.Left, 5);
        // Only y is new: x goes on.
        var raised = Read($"<text x='10' y='50' {Sans}>by<tspan y='40'>by</tspan></text>").Items.Cast<DrawnPath>().ToList();
        Assert.Equal(Wide("by", 10), raised[1].Path.Bounds.Left - raised[0].Path.Bounds.Left, 5);
        Assert.Equal(-10, raised[1].Path.Bounds.Top - raised[0].Path.Bounds.Top, 5);
    }

    [Theory]
    [InlineData("a  b", "a b")]
    [InlineData("\n   a\n\t b  ", "a b")]
    [InlineData("a<tspan> </tspan> b", "a b")]
    [InlineData("<tspan xml:space='preserve'>a  b</tspan>", "a  b")]
    public void White_space_runs_together_unless_it_is_to_be_kept(string written, string meant) =>
        Assert.Equal(Wide(meant[..meant.LastIndexOf('b')], 10),
            BoundsOf($"<text y='50' {Sans}>{written}</text>").Right - BoundsOf($"<text y='50' {Sans}>b</text>").Right, 5);

    [Theory]
    [InlineData("font-size='2em'", 20)]
    [InlineData("font-size='150%'", 15)]
    [InlineData("font-size='larger'", 12)]
    [InlineData("style='font:700 7px Fraunces'", 7)]
    [InlineData("style='font: italic 7px Fraunces'", 0)]
    [InlineData("style='font: small-caps 600 semi-condensed 7px/1.2 Fraunces'", 7)]
    [InlineData("style='font: 7px'", 10)]
    [InlineData("font-size='1mm'", 96 / 25.4)]
    [InlineData("font-size='-3'", 10)]
    public void Sizes_are_read_in_all_the_ways_of_css(string how, double size)
    {
        var box = BoundsOf($"<g {Sans}><text y='50' {how}>x</text></g>");
        if (size == 0) Assert.True(box.IsEmpty);
        else Assert.InRange(box.Height, size * 0.4, size * 0.56);
    }

    [Fact]
    public void Letters_are_spaced_and_words_too()
    {
        double Right(string more) => BoundsOf($"<text y='50' {Sans} {more}>a a</text>").Right;
        Assert.Equal(2 * 3, Right("letter-spacing='3'") - Right(""), 5);
        Assert.Equal(4, Right("word-spacing='4'") - Right(""), 5);
        Assert.Equal(2 * 5, Right("letter-spacing='.5em'") - Right(""), 5);
    }

    [Fact]
    public void Along_a_path_letters_stand_on_it_and_what_has_no_room_is_left_out()
    {
        const string Path = "<path id='p' d='M10 80H60' fill='none'/>";
        var straight = BoundsOf(Path + $"<text {Sans}><textPath href='#p'>hut</textPath></text>");
        var plain = BoundsOf($"<text x='10' y='80' {Sans}>hut</text>");
        Assert.Equal(plain.Left, straight.Left, 6);
        Assert.Equal(plain.Bottom, straight.Bottom, 6);
        Assert.Equal(BoundsOf($"<text x='35' y='80' {Sans} text-anchor='middle'>hut</text>").Left,
            BoundsOf(Path + $"<text {Sans} text-anchor='middle'><textPath href='#p' startOffset='50%'>hut</textPath></text>").Left, 6);
        // The path turned: up the page.
        var up = BoundsOf($"<path id='p' d='M100 90V10' fill='none'/><text {Sans}><textPath href='#p'>hut</textPath></text>");
        Assert.True(up.Height > up.Width && up.Right <= 100.3);
        var longer = Read(Path + $"<text {Sans}><textPath href='#p'>{string.Concat(Enumerable.Repeat("hut ", 30))}</textPath></text>").Items.Cast<DrawnPath>();
        Assert.All(longer, p => Assert.True(p.Path.Bounds.Right <= 62));
        Assert.Empty(Read(Path + $"<text {Sans}><textPath href='#p' startOffset='200%'>hut</textPath></text>").Items);
    }

    [Theory]
    [InlineData("font-family='Sundry Script, Fraunces'", "Text is set in Sundry Script, which does not ship")]
    [InlineData("font-family='serif'", "Text is set in serif, which does not ship")]
    [InlineData("", "Text names no typeface")]
    public void Another_typeface_is_left_out_and_asked_for_as_outlines(string font, string says)
    {
        var drawing = Read($"<text y='20' {font}>under the old stone roof of the hut</text>");
        Assert.Empty(drawing.Items);
        var note = Assert.Single(drawing.Notes);
        Assert.StartsWith(says, note.Text);
        Assert.Contains("“under the old stone roof of t…”", note.Text);
        Assert.Contains("convert it to outlines", note.Text);
    }

    [Fact]
    public void What_was_set_otherwise_than_asked_is_said()
    {
        Assert.Contains("set in weight 600", Assert.Single(Read("<text y='20' font-family='Fraunces' font-weight='300'>hut</text>").Notes).Text);
        Assert.Empty(Read("<text y='20' font-family='Fraunces' font-weight='500'>hut</text>").Notes);
        Assert.Contains("natural length", Assert.Single(Read($"<text y='20' {Sans} textLength='90'>hut</text>").Notes).Text);
    }

    [Theory]
    [InlineData("<text y='20' font-family='Fraunces' visibility='hidden'>hut</text>")]
    [InlineData("<text y='20' font-family='Sundry' display='none'>hut</text>")]
    [InlineData("<text y='20' font-family='Fraunces' font-size='0'>hut</text>")]
    [InlineData("<text y='20' font-family='Fraunces'>   </text>")]
    [InlineData("<text/>")]
    public void Text_that_is_not_seen_is_not_drawn(string text) => Assert.Empty(Read(text).Items);

    [Fact]
    public void Letters_take_the_paint_and_the_stroke_of_their_span()
    {
        var items = Read($"<text y='50' {Sans} fill='#a33'>a<tspan fill='none' stroke='#036' stroke-width='.4'>b</tspan></text>").Items.Cast<DrawnPath>()
            .ToList();
        Assert.Equal("#aa3333", items[0].Ink.Fill!.Value.Hex);
        Assert.Equal((null, "#003366", 0.4), (items[1].Ink.Fill, items[1].Ink.Stroke!.Colour.Hex, items[1].Ink.Stroke!.Width.Mm));
    }
}
