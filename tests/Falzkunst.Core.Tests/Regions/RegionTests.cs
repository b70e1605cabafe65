using CsCheck;
using Falzkunst.Core.Regions;

namespace Falzkunst.Core.Tests.Regions;

public sealed class RegionTests
{
    private static readonly Gen<Point> AnyPoint = Gen.Select(Gen.Double[0, 100], Gen.Double[0, 100], (x, y) => new Point(x, y));

    /// <summary>Scribbles: up to three closed rings that cross themselves and each other as they like.</summary>
    private static readonly Gen<VectorPath> Scribble = AnyPoint.Array[3, 14].Array[1, 3]
        .Select(rings => new VectorPath([.. rings.SelectMany(r => VectorPath.Polygon(r).Subpaths)]));

    [Fact]
    public void Parts_enclose_what_the_rule_fills() => Gen.Select(Scribble, Gen.Bool, AnyPoint.Array[40]).Sample((path, nonZero, probes) =>
    {
        var rule = nonZero ? FillRule.NonZero : FillRule.EvenOdd;
        var parts = Region.Parts(path, rule);
        foreach (var p in probes)
        {
            if (path.DistanceTo(p) < 0.01) continue;
            var winding = path.Rings.Sum(r => Polygons.Winding(r, p));
            var filled = nonZero ? winding != 0 : winding % 2 != 0;
            Assert.Equal(filled ? 1 : 0, parts.Count(part => part.Encloses(p)));
        }
    }, iter: 400);

    [Fact]
    public void Parts_are_one_outer_edge_and_its_holes() => Gen.Select(Scribble, Gen.Bool).Sample((path, nonZero) =>
    {
        foreach (var part in Region.Parts(path, nonZero ? FillRule.NonZero : FillRule.EvenOdd))
        {
            Assert.True(Polygons.SignedArea(part.Rings[0]) > 0, path.ToSvg());
            for (var i = 1; i < part.Rings.Count; i++) Assert.True(Polygons.SignedArea(part.Rings[i]) < 0, path.ToSvg());
        }
    }, iter: 300);

    [Theory]
    [InlineData("M0 0L0 0 0 0.03333 58.003 0 10 0 0 2ZM0 0.00001L0.00003 0 0 0.00003 1.5 99.69898 0 0 62.86627 0.55556 19.49348 45.4129 0.75 0.03846Z")]
    [InlineData("M33 58.46914L0.19565 9 9 0.00871 94.44444 0.1134 0 66.22599 52 0.02128 0 0 0 67.83696 37.17391 14 0 0.01149 0 50.85508 19.66816 14 0 0ZM0 "
        + "18L80.01045 1 0 0.55682 97.96589 0 0.2551 0 0 0 3 18.58481 0 0 20 69.37292 0 0.00001 0 0Z")]
    public void Slivers_between_edges_that_nearly_coincide_are_no_parts(string d)
    {
        foreach (var rule in new[] { FillRule.NonZero, FillRule.EvenOdd })
            Assert.All(Region.Parts(Core.Shapes.PathText.Read(d), rule).SelectMany(p => p.Rings), r => Assert.True(Math.Abs(Polygons.SignedArea(r)) > 1e-6));
    }

    [Fact]
    public void The_quick_way_and_the_careful_way_agree() => Scribble.Sample(path =>
    {
        // Many rings more than the quick way takes, all far away, force the careful way; a frame of 1 mm around all keeps them together.
        var far = string.Concat(Enumerable.Range(0, 120).Select(i => $"M{1000 + i * 3} 0h2v2z")) + "M-50 -50H2000V200H-50ZM-49 -49V199H1999V-49Z";
        var long_ = new VectorPath([.. path.Subpaths, .. Core.Shapes.PathText.Read(far).Subpaths]);
        var quick = Region.Parts(path, FillRule.NonZero).Sum(Area);
        var careful = Region.Parts(long_, FillRule.NonZero).Sum(Area) - 120 * 2 - (2050 * 250 - 2048 * 248);
        Assert.True(Math.Abs(quick - careful) < 0.01, $"{quick} {careful} {path.ToSvg()}");
    }, iter: 150);

    /// <summary>Closed curves that cross themselves and each other.</summary>
    private static readonly Gen<VectorPath> Tangle = AnyPoint.Array[7, 7].Array[1, 3].Select(rings => new VectorPath([.. rings.Select(p =>
        new Subpath(p[0], [Segment.Cubic(p[1], p[2], p[3]), Segment.Cubic(p[3] * 2 - p[2], p[4], p[5]), Segment.Line(p[6])], true))]));

    [Fact]
    public void Parts_of_crossing_curves_are_made_of_the_same_curves() => Gen.Select(Tangle, Gen.Bool).Sample((path, nonZero) =>
    {
        var rule = nonZero ? FillRule.NonZero : FillRule.EvenOdd;
        var parts = Region.Parts(path, rule);
        // The same with chords so fine that they are as good as the curves.
        var fine = new VectorPath([.. path.Subpaths.SelectMany(s => VectorPath.Polygon([.. Chords(s, 3000)]).Subpaths)]);
        // Where curves nearly touch for a while, chords within the tolerance of them may or may not meet.
        Assert.Equal(Region.Parts(fine, rule).Sum(p => p.SignedAreaMm2), parts.Sum(p => p.SignedAreaMm2), path.Length.Mm * Tolerances.Flatten / 4);
        foreach (var sub in parts.SelectMany(p => p.Subpaths))
        {
            // Every place of every part lies on a curve of the path.
            foreach (var p in sub.Flatten().Where((_, i) => i % 5 == 0))
                Assert.True(fine.DistanceTo(p) < Tolerances.Flatten + 0.001, $"{fine.DistanceTo(p)} {p} {path.ToSvg()}");
        }
    }, iter: 60);

    private static IEnumerable<Point> Chords(Subpath sub, int each)
    {
        var from = sub.Start;
        foreach (var s in sub.Segments)
        {
            var curve = s.IsCurve ? new Cubic(from, s.C1, s.C2, s.End) : Cubic.Line(from, s.End);
            for (var i = 0; i < (s.IsCurve ? each : 1); i++) yield return curve.At((double)i / each);
            from = s.End;
        }

        yield return from;
    }

    [Fact]
    public void What_crosses_nothing_stays_bit_for_bit()
    {
        var leaf = Core.Shapes.PathText.Read("M10.123456789 10C40 0 60 0 90.1 10C95 40 95 60 90.7 90.3L10 90Z");
        var cut = Core.Shapes.PathText.Read("M0 70H50.5V120H0Z");
        var both = Assert.Single(Region.Parts(leaf.With(cut), FillRule.NonZero));
        var segments = Assert.Single(both.Subpaths).Segments;
        Assert.All(leaf.Subpaths[0].Segments.Where(s => s.IsCurve), s => Assert.Contains(s, segments));
    }

    [Fact]
    public void Curves_that_do_not_cross_are_kept()
    {
        var path = Core.Shapes.PathText.Read("M10 10C40 0 60 0 90 10L90 90L10 90Z");
        var part = Assert.Single(Region.Parts(path, FillRule.NonZero));
        Assert.Equal(path.ToSvg(), part.ToSvg());
    }

    [Fact]
    public void The_area_of_curves_is_exact()
    {
        // A cubic that is a parabola: y = x² from 0 to 1 with the box around it leaves a third below.
        var parabola = new PathBuilder().MoveTo(new(0, 0)).QuadraticTo(new(0.5, 0), new(1, 1)).LineTo(new(1, 0)).Close().Build();
        Assert.Equal(1.0 / 3, Math.Abs(parabola.SignedAreaMm2), 12);
        // Points nearer than that are one on the rings, and the area of a sliver as long as the path apart.
        Scribble.Sample(path => Assert.Equal(path.Rings.Sum(Polygons.SignedArea), path.SignedAreaMm2,
            Tolerances.Same * (1 + path.Bounds.Width + path.Bounds.Height)), iter: 50);
    }

    [Fact]
    public void Outset_grows_a_square_by_its_rim() =>
        Assert.Equal(100 * 100 + 4 * 100 * 2 + Math.PI * 4, Region.Of(VectorPath.Rectangle(0, 0, 100, 100)).Outset(Length.FromMm(2)).AreaMm2, 0.1);

    private static double Area(VectorPath part) => part.Rings.Sum(Polygons.SignedArea);
}
