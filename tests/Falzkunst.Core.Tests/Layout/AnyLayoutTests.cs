using System.Collections.Immutable;
using Falzkunst.Core.Cards;
using Falzkunst.Core.Layout;

namespace Falzkunst.Core.Tests.Layout;

/// <summary>Requests of any kind, laid out in a short time, and checked by what knows nothing of the engine.</summary>
public sealed class AnyLayoutTests
{
    /// <summary>FALZKUNST_LAYOUTS ("2000@50000") says how many, and the first seed.</summary>
    [Fact]
    public void Layouts_of_anything_are_valid()
    {
        var (count, first) = Cases.Seeds("FALZKUNST_LAYOUTS", "6@1", "16@1");
        var faults = Enumerable.Range(first, count).SelectMany(Faults).ToList();
        Assert.True(faults.Count == 0, string.Join('\n', faults));
    }

    [Theory]
    // Edges on the side of their own shape's box, which rounding left out.
    [InlineData(90212)]
    [InlineData(90227)]
    // A piece in a corner of an off-cut that goes inwards.
    [InlineData(90478)]
    public void A_layout_that_was_wrong_once_is_valid(int seed) => Assert.Empty(Faults(seed));

    /// <summary>What a search got wrong counts too, though it is not given.</summary>
    private static IEnumerable<string> Faults(int seed)
    {
        var request = Any(seed);
        var result = Repeats.Run(request);
        var faults = LayoutCheck.Faults(request, result).Concat(result.Discarded).Select(fault => $"{seed}: {fault}");
        if (seed % 4 != 0) return faults;
        // The same, as the pieces of several cards.
        var several = request with
        {
            Pieces = [.. request.Pieces.Select((p, i) => p with { Set = i % 3, Count = p.Count * (1 + i % 2) })],
            SetsTogether = seed % 8 == 0,
        };
        var shared = Repeats.Run(several);
        return faults.Concat(LayoutCheck.Faults(several, shared).Concat(shared.Discarded).Select(fault => $"{seed}, several: {fault}"));
    }

    private static NestRequest Any(int seed)
    {
        var random = new Random(seed);
        var gap = random.Next(4) == 0 ? 0 : Math.Round(4 * random.NextDouble(), 2);
        ImmutableArray<NestSheet> sheets = [.. Enumerable.Range(0, random.Next(1, 4)).Select(i =>
        {
            double wide = random.Next(80, 320), high = random.Next(80, 320), margin = random.Next(8);
            return new NestSheet($"s{i}", Length.FromMm(wide), Length.FromMm(high), Length.FromMm(margin), random.Next(0, 6),
                random.Next(3) == 0 ? [Turned(random, Shape(random, 30), wide / 2, high / 2)] : [])
            {
                Price = random.Next(1, 4),
                // What a run left: a sheet without a corner, or with a wavy edge.
                Outline = random.Next(3) != 0 ? null : random.Next(2) == 0
                    ? VectorPath.Polygon(new(0, 0), new(wide, 0), new(wide, high / 2), new(wide / 2, high / 2), new(wide / 2, high), new(0, high))
                    : PathText.Read(FormattableString.Invariant(
                        $"M0 0H{wide}C{wide * 0.6} {high * 0.3} {wide * 0.6} {high * 0.6} {wide} {high}H0Z")),
            };
        })];
        var turns = (Turns)random.Next(4);
        var times = random.Next(1, 5);
        return new(Length.FromMm(gap), sheets, [.. Enumerable.Range(0, random.Next(1, 9)).Select(i =>
            new NestPiece($"p{i}", Turned(random, Shape(random, random.Next(6, 60)), random.Next(-50, 50), random.Next(-50, 50)),
                times * random.Next(0, 4), turns,
                random.Next(4) == 0))])
        {
            Seed = seed,
            Effort = TimeSpan.FromSeconds(0.25),
        };
    }

    private static VectorPath Turned(Random random, VectorPath path, double x, double y) =>
        path.Transform(new Place(Angle.FromDegrees(random.Next(3) == 0 ? 0 : 360 * random.NextDouble()), new(x, y), false).Map);

    private static VectorPath Shape(Random random, double size)
    {
        switch (random.Next(6))
        {
            case 0: return VectorPath.Rectangle(0, 0, size, size * (0.1 + random.NextDouble()));
            case 1: return VectorPath.Disc(default, size / 2);
            case 2: return VectorPath.Disc(default, size / 2).With(VectorPath.Disc(new(size / 30, 0), size * 0.4));
            case 3:
                var thin = size / random.Next(3, 12);
                return VectorPath.Polygon(new(0, 0), new(size, 0), new(size, thin), new(thin, thin), new(thin, size), new(0, size));
            default:
                // A star of any radii, with straight or bent edges.
                var corners = Enumerable.Range(0, random.Next(3, 14)).ToList();
                var at = corners.ConvertAll(i => new Point(Math.Cos(2 * Math.PI * i / corners.Count), Math.Sin(2 * Math.PI * i / corners.Count))
                    * (size * (0.15 + 0.5 * random.NextDouble())));
                if (random.Next(2) == 0) return VectorPath.Polygon([.. at]);
                return new([new(at[0], [.. corners.Select(i => Segment.Cubic(at[i] * 0.9, at[(i + 1) % at.Count] * 0.9, at[(i + 1) % at.Count]))], true)]);
        }
    }
}
