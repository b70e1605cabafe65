using Falzkunst.Core.Cards;
using Falzkunst.Core.Regions;

namespace Falzkunst.Core.Tests.Cards;

/// <summary>Strokes that fill an area, looked at place by place, without the geometry that made them.</summary>
public sealed class InfillTests(ITestOutputHelper output)
{
    /// <summary>FALZKUNST_INFILLS ("500@7000") says how many areas are generated, and the first seed.</summary>
    public static TheoryData<int> Seeds => Cases.EachSeed("FALZKUNST_INFILLS", "8@1", "16@1");

    [Theory]
    [MemberData(nameof(Seeds))]
    public void Fills_what_the_tool_reaches_and_nothing_outside(int seed)
    {
        var random = new Random(seed);
        var width = 0.3 + 1.2 * random.NextDouble();
        var (area, narrows) = AnyArea(random, width);
        var infill = new Infill((InfillKind)(seed % 4), Angle.FromDegrees(random.Next(180)));
        var strokes = InfillStrokes.Of(area, infill, Length.FromMm(width));
        var chords = new BoxGrid<(Point A, Point B)>(2 * width);
        foreach (var s in strokes)
            foreach (var (a, b) in s.Rings[0].Zip(s.Rings[0].Skip(1))) chords.Add(Box.Empty.With(a).With(b), (a, b));
        double Far(Point p, double within) => chords.Touching(Box.Empty.With(p).Grown(within)).Select(c => p.DistanceToSegment(c.A, c.B))
            .DefaultIfEmpty(double.PositiveInfinity).Min();

        // What a round tool can't come to without leaving the area is nobody's.
        var reach = Region.Of(area).Outset(Length.FromMm(-width / 2)).Outset(Length.FromMm(width / 2));
        // Where it is narrower than the tool between wider parts, that goes along the middle.
        var narrow = !narrows ? Region.Empty : Region.Of(area).TakeAway(reach.Outset(Length.FromMm(0.02))).Outset(Length.FromMm(width / 2));
        var (inside, covered, outside) = (0, 0, 0.0);
        var box = area.Bounds.Grown(width);
        for (var k = 0; k < 6000; k++)
        {
            var p = new Point(box.Left + box.Width * random.NextDouble(), box.Top + box.Height * random.NextDouble());
            if (area.Encloses(p))
            {
                if (!reach.Holds(p)) continue;
                inside++;
                if (Far(p, width) <= width / 2) covered++;
            }
            else if (area.DistanceTo(p) is var off and > 0.05)
            {
                if (Far(p, width) <= width / 2 && !narrow.Holds(p)) outside = Math.Max(outside, off);
            }
        }

        var length = strokes.Sum(s => s.Length.Mm);
        output.WriteLine($"{seed} {infill.Kind} {width:0.00}: {100.0 * covered / inside:0.00} % of {inside}, {strokes.Length} strokes, {length:0} mm "
            + $"({length * width / Math.Abs(area.SignedAreaMm2):0.00} of the area), {outside:0.000} mm outside");
        Assert.Equal(0, outside);
        Assert.InRange((double)covered / inside, 0.97, 1);
    }

    /// <summary>Whether it may be narrower than the tool between wider parts; the spikes of a star are narrow at their tips alone.</summary>
    private static (VectorPath Area, bool Narrows) AnyArea(Random random, double width)
    {
        Point At(double turn, double far) => new(Math.Cos(turn) * far, Math.Sin(turn) * far);
        var radius = width * (3 + 12 * random.NextDouble());
        switch (random.Next(5))
        {
            case 0:
                var spikes = random.Next(3, 9);
                return (VectorPath.Polygon([.. Enumerable.Range(0, 2 * spikes).Select(i => At(Math.PI * i / spikes, radius * (i % 2 == 0 ? 1 : 0.5)))]), false);
            case 1:
                return (VectorPath.Disc(default, radius).With(VectorPath.Disc(At(1, radius / 4), radius * (0.1 + 0.5 * random.NextDouble()))), true);
            case 2:
                // A comb: limbs that a hatch has to leave and come back to.
                var teeth = random.Next(2, 6);
                var (tooth, gap, high) = (width * (1.2 + 3 * random.NextDouble()), width * (0.5 + 2 * random.NextDouble()), radius);
                var comb = new List<Point> { new(0, 0) };
                for (var i = 0; i < teeth; i++)
                {
                    var x = i * (tooth + gap);
                    comb.AddRange([new(x, -high), new(x + tooth, -high), new(x + tooth, 0)]);
                }

                comb.AddRange([new(teeth * (tooth + gap), 0), new(teeth * (tooth + gap), 2 * width), new(0, 2 * width)]);
                return (VectorPath.Polygon([.. comb]), false);
            case 3:
                var n = random.Next(3, 8);
                var path = new PathBuilder().MoveTo(At(0, radius));
                for (var i = 0; i < n; i++)
                    path.CubicTo(At(2 * Math.PI * (i + 0.3) / n, radius * (0.6 + random.NextDouble())),
                        At(2 * Math.PI * (i + 0.7) / n, radius * (0.6 + random.NextDouble())), At(2 * Math.PI * (i + 1) / n, radius));
                return (path.Close().Build(), true);
            default:
                var (w, h) = (radius * 2, radius * (0.4 + random.NextDouble()));
                return (VectorPath.Rectangle(0, 0, w, h).With(VectorPath.Rectangle(w / 5, h / 4, w / 4, h / 3))
                    .With(VectorPath.Rectangle(w * 0.6, h / 4, w / 6, h / 2)), true);
        }
    }

    /// <summary>What differs in anything that is kept is not the same: the table would not show it.</summary>
    [Fact]
    public void A_line_that_is_filled_or_scored_twice_is_another()
    {
        var line = new Line { Id = "l", Path = VectorPath.Disc(default, 5), Operation = Operation.Foil };
        Assert.NotEqual(line, line with { Infill = Infill.Choices[0] });
        Assert.NotEqual(line, line with { ScoredTwice = Length.FromMm(1) });
    }

    [Fact]
    public void What_is_narrower_than_the_tool_is_gone_along_its_middle()
    {
        // A ring, a bar and two discs that a bar joins; a spike stays bare at its tip.
        foreach (var (path, least) in new[] { ("M0 0H20V0.6H0Z", 17.0), ("M0 0A5 5 0 1 1 0 0.01ZM0.3 0A4.7 4.7 0 1 1 0.3 0.01Z", 25),
            ("M0 0A3 3 0 0 1 5.9 -0.3H14A3 3 0 1 1 14 0.3H5.9A3 3 0 0 1 0 0Z", 30) })
            Assert.True(InfillStrokes.Of(PathText.Read(path), Infill.Choices[0], Length.FromMm(0.9)).Sum(s => s.Length.Mm) > least, path);
    }
}
