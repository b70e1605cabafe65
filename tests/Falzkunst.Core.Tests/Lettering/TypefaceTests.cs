using Falzkunst.Core.Lettering;

namespace Falzkunst.Core.Tests.Lettering;

public sealed class TypefaceTests
{
    private const string Words = "with thanks from the hut";

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
}
