using Falzkunst.Core.Regions;

namespace Falzkunst.Core.Tests.Regions;

public sealed class SmoothingTests
{
    [Fact]
    public void Rounded_corners_touch_both_edges_and_leave_the_rest_as_it_was() => TogetherTests.Each(200, random =>
    {
        var area = AnyArea.One(random);
        var radius = 0.2 + random.NextDouble() * 6;
        var rounded = Fillets.Round(area, radius, _ => true);
        Assert.Equal(area.Subpaths.Length, rounded.Subpaths.Length);
        // No corner is left, and it turns nowhere abruptly.
        if (Fillets.CornersOf(area).Count == 0)
        {
            Assert.Equal(area, rounded);
            return;
        }

        Assert.All(Fillets.CornersOf(rounded), p => Assert.Contains(Fillets.CornersOf(area), q => q.DistanceTo(p) < 1e-3));
        foreach (var ring in rounded.Subpaths)
        {
            var sides = ring.Cubics().ToList();
            for (var k = 0; k < sides.Count; k++) Assert.True(sides[k].To.DistanceTo(sides[(k + 1) % sides.Count].From) < 1e-6);
        }

        // Away from corners nothing moved.
        foreach (var p in rounded.Rings.SelectMany(r => r).Where(p => area.DistanceTo(p) > 0.011))
            Assert.Contains(Fillets.CornersOf(area), q => q.DistanceTo(p) < 12 * radius);
    });

    [Fact]
    public void A_box_with_round_corners_has_its_area_and_one_corner_alone_can_be_meant()
    {
        var box = VectorPath.Rectangle(0, 0, 40, 20);
        Assert.Equal(800 - (4 - Math.PI) * 25, Fillets.Round(box, 5, _ => true).SignedAreaMm2, 3);
        Assert.Equal(800 - (1 - Math.PI / 4) * 25, Fillets.Round(box, 5, k => k == 2).SignedAreaMm2, 3);
        // As large as fits: half of the short side.
        Assert.Equal(800 - (4 - Math.PI) * 100, Fillets.Round(box, 90, _ => true).SignedAreaMm2, 1);
    }

    [Fact]
    public void A_notch_is_filled_and_a_spike_goes_and_corners_and_bridges_stay()
    {
        var box = VectorPath.Rectangle(0, 0, 60, 30);
        var spoiled = Together.Join([AnyArea.Whole(Together.TakeAway(box, [VectorPath.Rectangle(20, -1, 0.3, 6)])), VectorPath.Rectangle(40, -4, 0.2, 5)]);
        var (smooth, away) = Smoothing.Of(AnyArea.Whole(spoiled), 0.5);
        Assert.Equal(1800, smooth.SignedAreaMm2, 3);
        Assert.Equal((1, 1), (away.Gone.Count, away.Filled.Count));
        var bridged = Together.Join([VectorPath.Rectangle(0, 0, 10, 10), VectorPath.Rectangle(9, 4, 12, 0.3), VectorPath.Rectangle(20, 0, 10, 10)])[0];
        Assert.True(Smoothing.Of(bridged, 0.5).Away.IsNothing);
    }

    [Fact]
    public void Smoothing_leaves_whole_what_has_nothing_small() => TogetherTests.Each(60, random =>
    {
        var area = Outsets.Of(AnyArea.Whole(Outsets.Of(AnyArea.One(random), -1)), 1);
        if (area.Count != 1) return;
        var (smooth, away) = Smoothing.Of(area[0], 0.3);
        if (away.IsNothing) Assert.Equal(area[0], smooth);
        Assert.InRange(away.Gone.Concat(away.Filled).Sum(p => p.SignedAreaMm2), 0, 0.6);
    });

    [Fact]
    public void A_simpler_outline_has_fewer_nodes_and_stays_within_its_tolerance() => TogetherTests.Each(40, random =>
    {
        var smooth = Together.Clean(AnyArea.Blob(random, 6, 30));
        if (smooth.Count != 1) return;
        var jagged = VectorPath.Polygon([.. smooth[0].Subpaths[0].Flatten(0.01)
            .Select(p => new Point(p.X + random.NextDouble() * 0.02, p.Y + random.NextDouble() * 0.02))]);
        var simple = Smoothing.Simplified(jagged, 0.1);
        Assert.True(simple.Subpaths[0].Segments.Length < jagged.Subpaths[0].Segments.Length / 2);
        Assert.All(simple.Rings[0], p => Assert.True(jagged.DistanceTo(p) < 0.11));
        Assert.All(jagged.Rings[0], p => Assert.True(simple.DistanceTo(p) < 0.11));
    });
}
