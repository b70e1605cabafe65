using Falzkunst.Core.Lettering;

namespace Falzkunst.Core.Tests.Lettering;

public sealed class TypefaceTests
{
    private const string Words = "with thanks from the hut";

    private static double Width(Typeface face, string text) => face.Set(text).Sum(g => g.Advance);

    [Fact]
    public void Many_at_once_set_the_same()
    {
        foreach (var face in Typeface.All)
        {
            var expected = Said(face);
            Assert.All(Enumerable.Range(0, 400).AsParallel().WithDegreeOfParallelism(8).Select(_ => Said(face)).ToList(), s => Assert.Equal(expected, s));
        }

        static string Said(Typeface face) => string.Join(' ', face.Set(Words).Select(g => $"{g.Id}@{g.X}:{face.Outline(g.Id).ToSvg()}"));
    }

    [Fact]
    public void Letters_stay_what_they_were_after_the_memory_was_tidied()
    {
        var before = Typeface.All.Select(f => f.Set(Words).Last()).ToList();
        for (var i = 0; i < 3; i++)
        {
            // What is not held fast would be moved or overwritten now.
            var rubbish = Enumerable.Range(0, 200).Select(_ => new byte[90_000]).ToList();
            rubbish.ForEach(r => Array.Fill(r, (byte)0xA5));
            GC.Collect(2, GCCollectionMode.Forced, true, true);
        }

        Assert.Equal(before, Typeface.All.Select(f => f.Set(Words).Last()));
    }

    [Theory]
    [InlineData("alegreya sans", 400, 400)]
    [InlineData("Alegreya Sans", 600, 500)]
    [InlineData("Alegreya Sans", 900, 700)]
    [InlineData("Fraunces", 100, 600)]
    public void The_nearest_weight_of_a_family_is_found(string family, int asked, int weight) => Assert.Equal(weight, Typeface.Find(family, asked)!.Weight);

    [Fact]
    public void A_family_that_does_not_ship_is_not_found() => Assert.Null(Typeface.Find("Sans-serif", 400));

    [Fact]
    public void Letters_are_kerned_joined_and_kept_apart()
    {
        var face = Typeface.Find("Alegreya Sans", 400)!;
        Assert.True(Width(face, "AV") < Width(face, "A") + Width(face, "V") - 0.02);
        Assert.Equal(2, face.Set("fi", false).Length);
        Assert.Equal([0, 1, 2, 3], face.Set("rope", false).Select(g => g.Cluster));
        // An accent is one letter, however it is written.
        Assert.Equal(Width(face, "é"), Width(face, "e\u0301"), 3);
    }

    [Fact]
    public void Outlines_stand_on_the_base_line_and_are_as_high_as_they_say()
    {
        // The faces for reading; those for show stand on no line.
        foreach (var face in Typeface.All.Where(f => f.Family is "Alegreya Sans" or "Fraunces"))
        {
            Box Of(string letter) => face.Outline(face.Set(letter).Single().Id).Bounds;
            Assert.InRange(Of("x").Bottom, -0.01, 0.02);
            Assert.InRange(-Of("x").Top, face.XHeight - 0.03, face.XHeight + 0.03);
            Assert.True(Of("g").Bottom > 0.1 && Of("g").Bottom < face.Descent);
            Assert.True(face.Outline(face.Set(" ").Single().Id).IsEmpty);
            // The counter of an o runs against its edge.
            var o = face.Outline(face.Set("o").Single().Id);
            Assert.Equal(2, o.Subpaths.Length);
            Assert.True(Polygons.SignedArea(o.Rings[0]) * Polygons.SignedArea(o.Rings[1]) < 0);
        }
    }
}
