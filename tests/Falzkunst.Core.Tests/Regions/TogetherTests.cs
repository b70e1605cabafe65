using CsCheck;
using Falzkunst.Core.Regions;

namespace Falzkunst.Core.Tests.Regions;

public sealed class TogetherTests
{
    private static readonly Gen<Random> Any = Gen.Int[0, int.MaxValue].Select(seed => new Random(seed));

    [Fact]
    public void Areas_add_up() => Any.Sample(random =>
    {
        var (a, b) = AnyArea.Pair(random);
        var (both, over, left) = (Together.Join([a, b]), Together.Overlap([a, b]), Together.TakeAway(a, [b]));
        Same(a.SignedAreaMm2 + b.SignedAreaMm2, Area(both) + Area(over));
        Same(a.SignedAreaMm2, Area(left) + Area(over));
        Assert.All(both.Concat(over).Concat(left), IsValid);
    }, iter: 400);

    [Fact]
    public void Joining_does_not_depend_on_the_order() => Any.Sample(random =>
    {
        var (a, b) = AnyArea.Pair(random);
        var c = AnyArea.One(random);
        var all = Together.Join([a, b, c]);
        foreach (var other in new[] { Together.Join([c, a, b]), Together.Join([AnyArea.Whole(Together.Join([a, b])), c]),
            Together.Join([a, AnyArea.Whole(Together.Join([b, c]))]) })
        {
            Same(Area(all), Area(other));
            Assert.Equal(all.Count, other.Count);
            Assert.True(Area(Together.TakeAway(AnyArea.Whole(all), [AnyArea.Whole(other)])) < 1e-4);
        }
    }, iter: 150);

    [Fact]
    public void What_was_taken_away_and_is_joined_again_gives_back() => Any.Sample(random =>
    {
        var (a, b) = AnyArea.Pair(random);
        VectorPath[] parts = [.. Together.TakeAway(a, [b]), .. Together.Overlap([a, b])];
        var again = Together.Join(parts);
        Same(a.SignedAreaMm2, Area(again));
        // No sliver and no notch is left at the seam.
        Assert.Equal(a.Subpaths.Length, again.Sum(p => p.Subpaths.Length));
        Assert.Equal(a.Length.Mm, again.Sum(p => p.Length.Mm), 1e-3 + 1e-5 * a.Length.Mm);
    }, iter: 300);

    [Fact]
    public void Segments_that_nothing_crosses_stay_bit_for_bit() => Any.Sample(random =>
    {
        var (a, b) = AnyArea.Pair(random);
        var joined = Together.Join([a, b]).SelectMany(p => p.Subpaths).SelectMany(s => s.Segments).Where(s => s.IsCurve).ToHashSet();
        foreach (var sub in a.Subpaths)
        {
            var from = sub.Start;
            foreach (var s in sub.Segments)
            {
                var box = new Cubic(from, s.C1, s.C2, s.End).Bounds().Grown(1e-3);
                if (s.IsCurve && !box.Touches(b.Bounds)) Assert.Contains(s, joined);
                from = s.End;
            }
        }
    }, iter: 200);

    [Fact]
    public void Dividing_leaves_nothing_out_and_tells_whose_each_part_is() => Any.Sample(random =>
    {
        var (a, b) = AnyArea.Pair(random);
        VectorPath[] all = [a, b, AnyArea.One(random)];
        var parts = Together.Divide(all);
        Same(Area(Together.Join(all)), parts.Sum(p => p.Part.SignedAreaMm2));
        for (var i = 0; i < all.Length; i++) Same(all[i].SignedAreaMm2, parts.Where(p => p.Of.Contains(i)).Sum(p => p.Part.SignedAreaMm2));
    }, iter: 150);

    [Fact]
    public void A_cut_takes_nothing_away() => Any.Sample(random =>
    {
        var area = AnyArea.One(random);
        Point At() => new(area.Bounds.Left + random.NextDouble() * area.Bounds.Width, area.Bounds.Top + random.NextDouble() * area.Bounds.Height);
        Point from = At(), to = At();
        var line = random.Next(2) == 0 ? VectorPath.Polyline(from, to) : new([new(from, [Segment.Cubic(At(), At(), to)], false)]);
        var parts = Together.CutApart(area, line);
        Same(area.SignedAreaMm2, Area(parts));
        if (area.Encloses(from) && from.DistanceTo(to) > 0.1 && area.Subpaths.Length == 1) Assert.True(parts.Count >= 2, $"{area.ToSvg()} {line.ToSvg()}");
    }, iter: 200);

    [Fact]
    public void Boxes_edge_on_edge_become_one_without_a_seam()
    {
        var joined = Assert.Single(Together.Join([VectorPath.Rectangle(0, 0, 10.1, 20.2), VectorPath.Rectangle(10.1, 5, 7, 10)]));
        Assert.Equal(8, joined.Subpaths[0].Segments.Length + 1);
        Assert.Equal(10.1 * 20.2 + 70, joined.SignedAreaMm2, 9);
    }

    private static double Area(IEnumerable<VectorPath> parts) => parts.Sum(p => p.SignedAreaMm2);

    private static void Same(double expected, double actual) => Assert.Equal(expected, actual, 1e-4 + 1e-6 * Math.Abs(expected));

    private static void IsValid(VectorPath part)
    {
        Assert.Single(Region.Parts(part, FillRule.EvenOdd));
        Assert.True(part.Subpaths[0].SignedAreaMm2 > 0);
        Assert.All(part.Subpaths.Skip(1), s => Assert.True(s.SignedAreaMm2 < 0));
    }
}
