using Falzkunst.Core.Cards;

namespace Falzkunst.Core.Tests.Reading;

/// <summary>Closed outlines among open strokes: letters, or paper with folds on it?</summary>
public sealed class LetterLoopsTests
{
    private static Design Read(string strokes) =>
        Cases.Read("<svg xmlns='http://www.w3.org/2000/svg' width='200mm' height='100mm' viewBox='0 0 200 100'><g fill='none' "
        + $"stroke='#114'>{strokes}</g></svg>");

    private static string Strokes(int n, Func<int, string> d) => string.Concat(Enumerable.Range(0, n).Select(i => $"<path d='{d(i)}'/>"));

    [Theory]
    // Seven stems beside one loop: a word.
    [InlineData(7, 1, 0)]
    // As many loops as stems: still a word.
    [InlineData(6, 6, 0)]
    // More loops than stems: shapes.
    [InlineData(5, 9, 9)]
    // So few strokes say nothing.
    [InlineData(4, 1, 1)]
    public void Loops_are_strokes_where_strokes_are_the_most(int stems, int loops, int pieces) =>
        Assert.Equal(pieces, Read(Strokes(stems, i => $"M{10 + i * 8} 20V40") + Strokes(loops, i => $"M{14 + i * 8} 60h4v4h-4z")).Pieces.Length);

    [Fact]
    public void A_stem_that_leans_on_its_bowl_is_not_in_it() =>
        Assert.Empty(Read(Strokes(8, i => $"M{20 + i * 15} 20V40") + Strokes(8, i => $"M{20 + i * 15} 30a4 4 0 1 0 -8 0a4 4 0 1 0 8 0Z")).Pieces);

    [Fact]
    public void Outlines_that_hold_strokes_are_paper()
    {
        var design = Read("<rect x='5' y='5' width='90' height='90'/><rect x='105' y='5' width='90' height='90'/>"
            + Strokes(8, i => $"M{15 + i * 8} 20L{18 + i * 8} 60"));
        Assert.Equal(2, design.Pieces.Length);
        Assert.Equal(8, design.Lines.Count(l => l.CarriedBy == "p1"));
    }

    [Fact]
    public void Another_look_among_them_stays_what_it_is()
    {
        // Words in one colour, a tag in another.
        var design = Read("<rect x='5' y='5' width='190' height='90' stroke='#a00'/>" + Strokes(7, i => $"M{20 + i * 8} 20V40")
            + "<circle cx='100' cy='30' r='4'/>");
        Assert.Single(design.Pieces);
        Assert.Equal(8, design.Lines.Length);
        Assert.All(design.Lines, l => Assert.Equal("p1", l.CarriedBy));
    }

    [Fact]
    public void The_sheet_of_sayings_is_strokes_alone_and_taken_apart_saying_by_saying()
    {
        var design = Core.Reading.DesignReader.Read(File.ReadAllBytes(Path.Combine(Cases.Demo, "hut-sayings.svg")));
        Assert.Empty(design.Pieces);
        var parts = Parts.Of(design);
        Assert.Equal(24, parts.Count);
        Assert.Equal(design.Lines.Length, parts.Sum(p => p.Ids.Length));
        // Row by row, from the left.
        Assert.All(parts.Zip(parts.Skip(1)), t => Assert.True(t.Second.Bounds.Left > t.First.Bounds.Left || t.Second.Bounds.Top > t.First.Bounds.Bottom));
    }
}
