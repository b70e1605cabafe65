using Falzkunst.Core.Regions;

namespace Falzkunst.Core.Tests.Regions;

public sealed class OutsetTests
{
    private const double NearMm = 0.0035;

    /// <summary>The truth, by distances: what is near enough to the area is in its outset, and nothing else is.</summary>
    [Fact]
    public void An_outset_holds_all_within_its_distance_and_nothing_else() => TogetherTests.Each(250, random =>
    {
        var area = AnyArea.One(random);
        var by = (random.Next(2) == 0 ? 1 : -1) * (random.Next(3) == 0 ? 1 + random.Next(6) : random.NextDouble() * 8);
        var moved = Outsets.Of(area, by);
        var whole = AnyArea.Whole(moved);
        Assert.All(moved, TogetherTests.IsValid);
        var edges = Fine(area);
        foreach (var ring in whole.Subpaths.Select(s => s.Flatten(0.0005)))
            foreach (var p in ring) Assert.InRange(Distance(edges, p), Math.Abs(by) - NearMm, Math.Abs(by) + NearMm);
        var box = area.Bounds.Grown(Math.Max(1, by * 1.2));
        for (var k = 0; k < 300; k++)
        {
            var p = new Point(box.Left + random.NextDouble() * box.Width, box.Top + random.NextDouble() * box.Height);
            var distance = Distance(edges, p) * (area.Encloses(p) ? -1 : 1);
            if (Math.Abs(distance - by) > 0.02 && Math.Abs(distance) > 0.02)
                Assert.True(whole.Encloses(p) == distance < by, $"{by} {p} {distance} {area.ToSvg()}");
        }
    });

    [Fact]
    public void Out_and_in_again_gives_a_smooth_shape_back() => TogetherTests.Each(100, random =>
    {
        var smooth = Together.Clean(AnyArea.Blob(random, 5 + random.Next(4), 40));
        if (smooth.Count != 1) return;
        var back = AnyArea.Whole(Outsets.Of(AnyArea.Whole(Outsets.Of(smooth[0], 1.5)), -1.5));
        var edges = Fine(back);
        // Where a hollow is narrower than the distance, it is filled for good.
        if (back.Subpaths.Length != 1 || Math.Abs(back.SignedAreaMm2 - smooth[0].SignedAreaMm2) > 0.02 * smooth[0].Length.Mm) return;
        foreach (var p in smooth[0].Subpaths[0].Flatten(0.001)) Assert.InRange(Distance(edges, p), 0, 0.02);
    });

    [Theory]
    [InlineData(CornerStyle.Sharp, 44 * 24)]
    [InlineData(CornerStyle.Bevel, 44 * 24 - 4 * 2)]
    [InlineData(CornerStyle.Round, 44 * 24 - 4 * (4 - Math.PI))]
    public void Corners_of_a_box(CornerStyle style, double area)
    {
        var moved = Assert.Single(Outsets.Of(VectorPath.Rectangle(0, 0, 40, 20), 2, style));
        Assert.Equal(area, moved.SignedAreaMm2, 4);
        Assert.Equal(40 * 20, Assert.Single(Outsets.Of(VectorPath.Rectangle(-2, -2, 44, 24), -2, style)).SignedAreaMm2, 6);
    }

    [Fact]
    public void A_corner_of_29_degrees_is_not_made_sharp_and_one_of_31_is()
    {
        VectorPath Wedge(double degrees) => VectorPath.Polygon(new(0, 0), new(50, -50 * Math.Tan(degrees * Math.PI / 360)),
            new(50, 50 * Math.Tan(degrees * Math.PI / 360)));
        Assert.InRange(Outsets.Of(Wedge(29), 2, CornerStyle.Sharp)[0].Bounds.Left, -2, 0);
        Assert.Equal(-2 / Math.Sin(15.5 * Math.PI / 180), Outsets.Of(Wedge(31), 2, CornerStyle.Sharp)[0].Bounds.Left, 3);
    }

    /// <summary>A ring of lettering: few segments come of few.</summary>
    [Fact]
    public void Curves_stay_few()
    {
        var round = AnyArea.Ellipse(20, 12);
        Assert.InRange(Assert.Single(Outsets.Of(round, 3)).Subpaths[0].Segments.Length, 4, 12);
        Assert.Empty(Outsets.Of(round, -12.01));
        var twoParts = Together.Join([VectorPath.Rectangle(0, 0, 10, 10), VectorPath.Rectangle(9, 4, 12, 2), VectorPath.Rectangle(20, 0, 10, 10)]);
        Assert.Equal(2, Outsets.Of(twoParts[0], -1.5).Count);
    }

    private static List<(Point A, Point B)> Fine(VectorPath area) =>
        [.. area.Subpaths.Select(s => s.Flatten(0.0002)).SelectMany(r => r.Select((p, i) => (p, r[(i + 1) % r.Count])))];

    private static double Distance(List<(Point A, Point B)> edges, Point p)
    {
        var best = double.PositiveInfinity;
        foreach (var (a, b) in edges) best = Math.Min(best, p.DistanceToSegment(a, b));
        return best;
    }
}
