using CsCheck;
using Falzkunst.Core.Regions;

namespace Falzkunst.Core.Tests.Shapes;

public sealed class WindingIndexTests
{
    private static readonly Gen<List<List<Point>>> Rings =
        Gen.Select(Gen.Double[0, 100], Gen.Double[0, 100], (x, y) => new Point(x, y)).List[3, 30].List[1, 6];

    [Fact]
    public void It_counts_like_going_round_each_ring() => Gen.Select(Rings, Gen.Double[-5, 105].Array[2, 20]).Sample((rings, at) =>
    {
        var index = new WindingIndex(rings);
        for (var i = 0; i + 1 < at.Length; i++)
        {
            var p = new Point(at[i], at[i + 1]);
            if (rings.Any(r => Polygons.DistanceToEdges(r, p) < 1e-6)) continue;
            var expected = rings.Sum(r => Polygons.Winding(r, p));
            // Turned shapes are counted the other way round.
            Assert.Equal(Math.Abs(expected), Math.Abs(index.At(p)));
        }
    }, iter: 500);

    [Theory]
    [InlineData(FillRule.NonZero)]
    [InlineData(FillRule.EvenOdd)]
    public void The_parts_of_a_tangle_hold_what_the_rule_fills_and_nothing_else(FillRule rule) => Gen.Select(Gen.Int[0, 100_000], Gen.Int[310, 420])
        .Sample((seed, edges) =>
    {
        // More edges than the small arrangement takes, so that the general way is tried.
        var random = new Random(seed);
        var points = Enumerable.Range(0, edges).Select(_ => new Point(Math.Round(random.NextDouble() * 100, 3), Math.Round(random.NextDouble() * 40, 3)))
            .ToArray();
        var parts = Region.Parts(VectorPath.Polygon(points), rule);
        for (var k = 0; k < 60; k++)
        {
            var p = new Point(random.NextDouble() * 100, random.NextDouble() * 40);
            var winding = Polygons.Winding(points, p);
            var filled = rule == FillRule.EvenOdd ? winding % 2 != 0 : winding != 0;
            if (parts.Any(q => q.DistanceTo(p) < 1e-4)) continue;
            Assert.Equal(filled ? 1 : 0, parts.Count(q => q.Encloses(p)));
        }

        Assert.All(parts, q => Assert.True(Polygons.SignedArea(q.Rings[0]) > 0 && q.Rings.Skip(1).All(h => Polygons.SignedArea(h) < 0)));
    }, iter: 3);

    [Fact]
    public void What_lies_apart_in_one_path_is_found_apart_however_much_there_is()
    {
        // 4,000 rings with a hole each, and a bow tie among them.
        var path = VectorPath.Polygon(new Point(-10, -10), new(-5, -5), new(-5, -10), new(-10, -5));
        for (var i = 0; i < 4000; i++)
        {
            double x = i % 80 * 3, y = i / 80 * 3;
            path = path.With(VectorPath.Rectangle(x, y, 2, 2))
                .With(VectorPath.Polygon(new Point(x + 0.5, y + 0.5), new(x + 0.5, y + 1.5), new(x + 1.5, y + 1.5), new(x + 1.5, y + 0.5)));
        }

        var parts = Region.Parts(path, FillRule.NonZero);
        Assert.Equal(4002, parts.Count);
        Assert.Equal(4000, parts.Count(p => p.Subpaths.Length == 2));
        Assert.Equal(4000 * 3 + 12.5, parts.Sum(p => p.SignedAreaMm2), 4);
        Assert.True(parts.Zip(parts.Skip(1)).All(t => Polygons.SignedArea(t.First.Rings[0]) >= Polygons.SignedArea(t.Second.Rings[0]) - 1e-9));
    }

    [Fact]
    public void A_path_that_crosses_itself_without_end_is_refused_and_not_tried()
    {
        var random = new Random(3);
        Assert.Throws<TangledException>(() =>
            Region.Parts(VectorPath.Polygon([.. Enumerable.Range(0, 3000).Select(_ => new Point(random.NextDouble() * 100, random.NextDouble() * 100))]),
            FillRule.NonZero));
    }
}
