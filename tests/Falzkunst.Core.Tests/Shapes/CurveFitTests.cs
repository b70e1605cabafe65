using CsCheck;

namespace Falzkunst.Core.Tests.Shapes;

public sealed class CurveFitTests
{
    private static readonly FitSettings Settings = new(0.3, 5, 1.2, Angle.FromDegrees(32));

    private static List<Point> Dense(IReadOnlyList<Point> corners, bool closed, double step = 1)
    {
        var points = new List<Point>();
        for (var i = 0; i < (closed ? corners.Count : corners.Count - 1); i++)
        {
            Point a = corners[i], b = corners[(i + 1) % corners.Count];
            var n = Math.Max(1, (int)(a.DistanceTo(b) / step));
            for (var k = 0; k < n; k++) points.Add(a + (b - a) * ((double)k / n));
        }

        if (!closed) points.Add(corners[^1]);
        return points;
    }

    private static double Furthest(IEnumerable<Point> points, Subpath curve)
    {
        var path = new VectorPath([curve]);
        return points.Max(path.DistanceTo);
    }

    [Fact]
    public void Any_smooth_loop_is_followed_within_the_tolerance_by_few_curves() =>
        Gen.Select(Gen.Double[20, 120], Gen.Double[0, 0.25], Gen.Int[2, 5], Gen.Double[0, 6]).Sample((radius, wobble, waves, turn) =>
        {
            var n = (int)(radius * 2 * Math.PI);
            var points = Enumerable.Range(0, n).Select(i =>
            {
                var a = i * 2 * Math.PI / n + turn;
                var r = radius * (1 + wobble * Math.Cos(waves * a) / waves);
                return new Point(200 + r * Math.Cos(a), 200 + r * Math.Sin(a));
            }).ToList();
            var curve = CurveFit.Closed(points, Settings);
            Assert.True(curve.Closed);
            // What is smoothed at a joint may add a little.
            Assert.InRange(Furthest(points, curve), 0, Settings.Tolerance * 1.25);
            Assert.InRange(curve.Segments.Length, 2, 6 * waves + 6);
            Assert.InRange(curve.End.DistanceTo(curve.Start), 0, 1e-9);
        });

    [Fact]
    public void The_corners_of_a_polygon_are_kept_and_its_sides_are_lines() =>
        Gen.Select(Gen.Int[3, 8], Gen.Double[40, 90], Gen.Double[0, 6]).Sample((n, radius, turn) =>
        {
            var corners = Enumerable.Range(0, n)
                .Select(i => new Point(100 + radius * Math.Cos(turn + i * 2 * Math.PI / n), 100 + radius * Math.Sin(turn + i * 2 * Math.PI / n))).ToList();
            var curve = CurveFit.Closed(Dense(corners, true), Settings);
            Assert.Equal(n, curve.Segments.Length);
            Assert.All(curve.Segments, s => Assert.False(s.IsCurve));
            Assert.All(corners, c => Assert.InRange(curve.Segments.Min(s => s.End.DistanceTo(c)), 0, 0.05));
        });

    [Fact]
    public void An_open_line_begins_and_ends_where_its_points_do() =>
        Gen.Select(Gen.Double[-0.3, 0.3], Gen.Double[-40, 40], Gen.Double[30, 90]).Sample((bend, lean, length) =>
        {
            // As dense as the borders of pictures are.
            var points = Dense([.. Enumerable.Range(0, (int)length * 8).Select(i => i / 8.0)
                .Select(x => new Point(x, bend * length * Math.Sin(x / length * 3) + lean * x / length))], false);
            var curve = CurveFit.Open(points, Settings);
            Assert.Equal(points[0], curve.Start);
            Assert.Equal(points[^1], curve.End);
            Assert.False(curve.Closed);
            Assert.InRange(Furthest(points, curve), 0, Settings.Tolerance * 1.5);
        });

    [Fact]
    public void Two_points_are_a_line() => Assert.Equal(new Point(5, 5), Assert.Single(CurveFit.Open([new(0, 0), new(5, 5)], Settings).Segments).End);

    [Fact]
    public void An_angle_of_an_open_line_stays_an_angle()
    {
        var curve = CurveFit.Open(Dense([new(0, 0), new(40, 0), new(40, 30)], false), Settings);
        Assert.Equal(2, curve.Segments.Length);
        Assert.InRange(curve.Segments[0].End.DistanceTo(new(40, 0)), 0, 0.05);
    }

    [Fact]
    public void A_half_disc_is_an_arc_and_a_line()
    {
        var arc = Enumerable.Range(0, 126).Select(i => new Point(100 + 40 * Math.Cos(Math.PI * i / 125), 100 + 40 * Math.Sin(Math.PI * i / 125)));
        var curve = CurveFit.Closed([.. arc, .. Enumerable.Range(1, 79).Select(i => new Point(60 + i, 100))], Settings);
        Assert.Equal(1, curve.Segments.Count(s => !s.IsCurve));
        Assert.InRange(curve.Segments.Length, 3, 4);
    }
}
