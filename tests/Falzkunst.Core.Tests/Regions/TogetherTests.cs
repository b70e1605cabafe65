using System.Globalization;
using Falzkunst.Core.Regions;

namespace Falzkunst.Core.Tests.Regions;

public sealed class TogetherTests
{
    /// <summary>For so many seeds, from 1, or from where FALZKUNST_AREAS ("2000@9000") begins, and so many as it says.</summary>
    internal static void Each(int count, Action<Random> holds)
    {
        var asked = Asked(count);
        for (var seed = asked.First; seed < asked.First + asked.Count; seed++)
        {
            try
            {
                holds(new Random(seed));
            }
            catch (Xunit.Sdk.XunitException e)
            {
                throw new Xunit.Sdk.XunitException($"seed {seed}: {e.Message}", e);
            }
        }
    }

    private static (int Count, int First) Asked(int count) => Cases.Seeds("FALZKUNST_AREAS", $"{count}@1");

    [Fact]
    public void Areas_add_up() => Each(400, random =>
    {
        var (a, b) = AnyArea.Pair(random);
        var (both, over, left) = (Together.Join([a, b]), Together.Overlap([a, b]), Together.TakeAway(a, [b]));
        Same(a.SignedAreaMm2 + b.SignedAreaMm2, Area(both) + Area(over));
        Same(a.SignedAreaMm2, Area(left) + Area(over));
        Assert.All(both.Concat(over).Concat(left), IsValid);
    });

    /// <summary>FALZKUNST_AREAS ("2000@9000") says how many, and the first seed; FALZKUNST_AREAS_OUT a file for an independent library
    /// (bench/together.cpp).</summary>
    [Fact]
    public void Many_areas_add_up()
    {
        using var to = Environment.GetEnvironmentVariable("FALZKUNST_AREAS_OUT") is { } path ? new StreamWriter(path) : null;
        var asked = Asked(200);
        for (var seed = asked.First; seed < asked.First + asked.Count; seed++)
        {
            var (a, b) = AnyArea.Pair(new Random(seed));
            var (join, take, over) = (Together.Join([a, b]), Together.TakeAway(a, [b]), Together.Overlap([a, b]));
            Same(a.SignedAreaMm2 + b.SignedAreaMm2, Area(join) + Area(over));
            Same(a.SignedAreaMm2, Area(take) + Area(over));
            foreach (var (name, result) in new[] { ("join", join), ("take", take), ("over", over) }) Tell(name, b, result);
            var divided = Together.Divide([a, b]);
            Tell("over", b, [.. divided.Where(p => p.Of.Length == 2).Select(p => p.Part)]);
            Tell("take", b, [.. divided.Where(p => p.Of is [0]).Select(p => p.Part)]);
            // Straight through the middle of the box, and what lies to the right of that.
            var (middle, way) = (a.Bounds.Centre, new Point(Math.Cos(seed), Math.Sin(seed)) * 500);
            var right = VectorPath.Polygon(middle - way, middle + way, middle + way + new Point(-way.Y, way.X), middle - way + new Point(-way.Y, way.X));
            var cut = Together.CutApart(a, VectorPath.Polyline(middle, middle + way * 0.001));
            Same(a.SignedAreaMm2, Area(cut));
            Tell("over", right, [.. cut.Where(p => p.Rings[0].Max(q => way.Cross(q - middle)) > -p.Rings[0].Min(q => way.Cross(q - middle)))]);
            var by = new Random(seed).NextDouble() * 12 - 6;
            Tell(string.Create(CultureInfo.InvariantCulture, $"outset:{by}"), VectorPath.Empty, Outsets.Of(a, by));

            void Tell(string name, VectorPath with, IReadOnlyList<VectorPath> result)
            {
                to?.WriteLine($"{seed} {name}");
                foreach (var area in new[] { [a], [with], result }) Write(to, area);
            }
        }
    }

    /// <summary>The rings as chords within 2e-5 mm, in units of 1e-7 mm.</summary>
    private static void Write(StreamWriter? to, IReadOnlyList<VectorPath> area)
    {
        if (to is null) return;
        var rings = area.SelectMany(p => p.Subpaths).Select(Fine).ToList();
        to.WriteLine(rings.Count);
        foreach (var ring in rings)
            to.WriteLine($"{ring.Count} {string.Join(' ', ring.Select(p => string.Create(CultureInfo.InvariantCulture, $"{p.X * 1e7:0} {p.Y * 1e7:0}")))}");
    }

    private static List<Point> Fine(Subpath sub)
    {
        var points = new List<Point> { sub.Start };
        foreach (var s in sub.Segments)
        {
            if (s.IsCurve)
            {
                var curve = new Cubic(points[^1], s.C1, s.C2, s.End);
                var bend = Math.Max((curve.From - curve.C1 * 2 + curve.C2).Norm, (curve.C1 - curve.C2 * 2 + curve.To).Norm);
                var n = (int)Math.Clamp(Math.Ceiling(Math.Sqrt(0.75 * bend / 2e-5)), 1, 1500);
                for (var i = 1; i < n; i++) points.Add(curve.At((double)i / n));
            }

            points.Add(s.End);
        }

        return points;
    }

    [Fact]
    public void Joining_does_not_depend_on_the_order() => Each(150, random =>
    {
        var (a, b) = AnyArea.Pair(random);
        var c = AnyArea.One(random);
        var all = Together.Join([a, b, c]);
        foreach (var other in new[] { Together.Join([c, a, b]), Together.Join([AnyArea.Whole(Together.Join([a, b])), c]),
            Together.Join([a, AnyArea.Whole(Together.Join([b, c]))]) })
        {
            Same(Area(all), Area(other));
            Assert.Equal(all.Count, other.Count);
            Assert.True(Area(Together.TakeAway(AnyArea.Whole(all), [AnyArea.Whole(other)])) < 0.02);
        }
    });

    [Fact]
    public void What_was_taken_away_and_is_joined_again_gives_back() => Each(300, random =>
    {
        var (a, b) = AnyArea.Pair(random);
        VectorPath[] parts = [.. Together.TakeAway(a, [b]), .. Together.Overlap([a, b])];
        var again = Together.Join(parts);
        Same(a.SignedAreaMm2, Area(again));
        // No sliver and no notch is left at the seam.
        Assert.Equal(a.Subpaths.Length, again.Sum(p => p.Subpaths.Length));
        Assert.Equal(a.Length.Mm, again.Sum(p => p.Length.Mm), 1e-3 + 1e-5 * a.Length.Mm);
    });

    [Fact]
    public void Segments_that_nothing_crosses_stay_bit_for_bit() => Each(200, random =>
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
    });

    [Fact]
    public void Dividing_leaves_nothing_out_and_tells_whose_each_part_is() => Each(150, random =>
    {
        var (a, b) = AnyArea.Pair(random);
        VectorPath[] all = [a, b, AnyArea.One(random)];
        var parts = Together.Divide(all);
        Same(Area(Together.Join(all)), parts.Sum(p => p.Part.SignedAreaMm2));
        for (var i = 0; i < all.Length; i++) Same(all[i].SignedAreaMm2, parts.Where(p => p.Of.Contains(i)).Sum(p => p.Part.SignedAreaMm2));
    });

    [Fact]
    public void A_cut_takes_nothing_away() => Each(200, random =>
    {
        var area = AnyArea.One(random);
        Point At() => new(area.Bounds.Left + random.NextDouble() * area.Bounds.Width, area.Bounds.Top + random.NextDouble() * area.Bounds.Height);
        Point from = At(), to = At();
        var line = random.Next(2) == 0 ? VectorPath.Polyline(from, to) : new([new(from, [Segment.Cubic(At(), At(), to)], false)]);
        var parts = Together.CutApart(area, line);
        Same(area.SignedAreaMm2, Area(parts));
        if (area.Encloses(from) && from.DistanceTo(to) > 0.1 && area.Subpaths.Length == 1) Assert.True(parts.Count >= 2, $"{area.ToSvg()} {line.ToSvg()}");
    });

    [Fact]
    public void Boxes_edge_on_edge_become_one_without_a_seam()
    {
        var joined = Assert.Single(Together.Join([VectorPath.Rectangle(0, 0, 10.1, 20.2), VectorPath.Rectangle(10.1, 5, 7, 10)]));
        Assert.Equal(8, joined.Subpaths[0].Segments.Length + 1);
        Assert.Equal(10.1 * 20.2 + 70, joined.SignedAreaMm2, 9);
    }

    private static double Area(IEnumerable<VectorPath> parts) => parts.Sum(p => p.SignedAreaMm2);

    /// <summary>Mostly within 1e-6; where curves touch at a small angle for a millimetre or two, a chord's thousandth of a millimetre is an area.</summary>
    private static void Same(double expected, double actual) => Assert.Equal(expected, actual, 0.02 + 1e-6 * Math.Abs(expected));

    internal static void IsValid(VectorPath part)
    {
        Assert.Single(Region.Parts(part, FillRule.EvenOdd));
        Assert.True(part.Subpaths[0].SignedAreaMm2 > 0);
        Assert.All(part.Subpaths.Skip(1), s => Assert.True(s.SignedAreaMm2 < 0));
    }
}
