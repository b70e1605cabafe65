using CsCheck;
using Falzkunst.Core.Reading.Svg;

namespace Falzkunst.Core.Tests.Shapes;

public sealed class ShapeTests
{
    private static readonly Gen<Point> AnyPoint = Gen.Select(Gen.Double[-200, 200], Gen.Double[-200, 200], (x, y) => new Point(x, y));

    private static readonly Gen<VectorPath> AnyPath = Gen.Select(AnyPoint, Gen.Select(AnyPoint, AnyPoint, AnyPoint, Gen.Bool).Array[1, 8], Gen.Bool)
        .Select((start, steps, closed) =>
    {
        var b = new PathBuilder().MoveTo(start);
        foreach (var (c1, c2, end, curve) in steps) _ = curve ? b.CubicTo(c1, c2, end) : b.LineTo(end);
        return (closed ? b.Close() : b).Build();
    });

    [Fact]
    public void A_path_survives_its_text() => AnyPath.Sample(path =>
    {
        var text = path.ToSvg();
        var again = PathText.Read(text, out var complete);
        Assert.True(complete);
        Assert.Equal(text, again.ToSvg());
        Assert.Equal(path.Length.Mm, again.Length.Mm, 0.01);
    });

    [Fact]
    public void Chords_stay_near_their_curve() => Gen.Select(AnyPath, Gen.OneOf(Gen.Const(0.01), Gen.Const(0.5))).Sample((path, tolerance) =>
    {
        var fine = path.Subpaths[0].Flatten(tolerance / 50);
        var coarse = path.Subpaths[0].Flatten(tolerance);
        foreach (var p in fine.Where((_, i) => i % 7 == 0))
            Assert.True(Polygons.DistanceToEdges(coarse, p, path.Subpaths[0].Closed) <= tolerance * 1.02 + 1e-9);
    }, iter: 60);

    [Fact]
    public void The_box_holds_the_curve_and_touches_it() => AnyPath.Sample(path =>
    {
        var points = path.Subpaths[0].Flatten(0.001);
        var box = points.Aggregate(Box.Empty, (b, p) => b.With(p));
        Assert.True(path.Bounds.Grown(1e-9).Holds(box));
        Assert.True(box.Grown(0.0011).Holds(path.Bounds));
    }, iter: 200);

    [Fact]
    public void Walked_backwards_it_is_the_same_curve() => AnyPath.Sample(path =>
    {
        var back = new VectorPath([path.Subpaths[0].Reverse()]);
        Assert.Equal(path.Length.Mm, back.Length.Mm, 0.01);
        Assert.Equal(path.SignedAreaMm2, -back.SignedAreaMm2, 1e-6);
        Assert.Equal(path.Subpaths[0].Start, back.Subpaths[0].End);
    });

    [Fact]
    public void Maps_follow_one_another() => Gen.Select(AnyPoint, Gen.Double[-720, 720], AnyPoint, Gen.Double[-3, 3]).Sample((p, degrees, move, scale) =>
    {
        var map = Affine.Turn(Angle.FromDegrees(degrees)).Then(Affine.Move(move.X, move.Y)).Then(Affine.Scale(scale, 2));
        var (sin, cos) = Math.SinCos(degrees * Math.PI / 180);
        var expected = new Point((cos * p.X - sin * p.Y + move.X) * scale, (sin * p.X + cos * p.Y + move.Y) * 2);
        Assert.True(map.Apply(p).DistanceTo(expected) < 1e-8);
        Assert.Equal(scale * 2, map.Determinant, 9);
    });

    [Fact]
    public void Quarter_turns_are_exact() => Assert.Equal(new Point(-3, 7), Affine.Turn(Angle.FromDegrees(90)).Apply(new(7, 3)));

    [Theory]
    [InlineData(10, 10, 0, false, true)]
    [InlineData(10, 10, 0, true, false)]
    [InlineData(20, 8, 30, true, true)]
    [InlineData(20, 8, -75, false, false)]
    public void Arcs_lie_on_their_ellipse(double rx, double ry, double turn, bool large, bool sweep)
    {
        var path = new PathBuilder().MoveTo(new(3, 4)).ArcTo(rx, ry, Angle.FromDegrees(turn), large, sweep, new(12, 9)).Build();
        Assert.Equal(new Point(12, 9), path.Subpaths[0].End);
        // Turned back and stretched to a circle, all points have one distance from one centre: that of three of them.
        var circle = path.Transform(Affine.Turn(Angle.FromDegrees(-turn))).Transform(Affine.Scale(1, rx / ry)).Subpaths[0].Flatten(1e-5);
        Point a = circle[0], b = circle[circle.Count / 2], c = circle[^1];
        Point u = b - a, v = c - a;
        var d = 2 * u.Cross(v);
        var centre = a + new Point((v.Y * u.Dot(u) - u.Y * v.Dot(v)) / d, (u.X * v.Dot(v) - v.X * u.Dot(u)) / d);
        foreach (var p in circle) Assert.Equal(rx, p.DistanceTo(centre), 1e-3);
    }

    [Fact]
    public void The_index_finds_every_box_that_touches() =>
        Gen.Select(Gen.Select(AnyPoint, Gen.Double[0, 90], Gen.Double[0, 90]).Array[0, 80], AnyPoint, Gen.Double[0, 400]).Sample((boxes, at, size) =>
    {
        var grid = new BoxGrid<int>(7);
        var all = boxes.Select(t => new Box(t.Item1.X, t.Item1.Y, t.Item1.X + t.Item2, t.Item1.Y + t.Item3)).ToList();
        for (var i = 0; i < all.Count; i++) grid.Add(all[i], i);
        var asked = new Box(at.X, at.Y, at.X + size, at.Y + size / 3);
        Assert.Equal(Enumerable.Range(0, all.Count).Where(i => all[i].Touches(asked)), grid.Touching(asked).Distinct().Order());
    }, iter: 200);
}
