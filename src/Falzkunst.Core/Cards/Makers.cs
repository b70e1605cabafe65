namespace Falzkunst.Core.Cards;

/// <summary>A number that a maker takes, with the bounds that it must keep; lengths in mm.</summary>
/// <param name="IsLength">Whether it grows with the shape; what is counted, and a part of something, does not.</param>
public sealed record MakerNumber(string Name, double Least, double Most, double Usual, bool IsLength = true);

/// <summary>Makes an outline from numbers. Pure: the same numbers give the same outline.</summary>
public sealed class Maker(string name, ImmutableArray<MakerNumber> takes, Func<Func<string, double>, VectorPath> make)
{
    public string Name => name;

    /// <summary>Whether it stands with its foot on an edge that it is joined to; otherwise its middle lies there.</summary>
    public bool StandsOnEdges { get; init; }

    public ImmutableArray<MakerNumber> Takes => takes;

    public VectorPath Make(IReadOnlyDictionary<string, double> numbers) =>
        make(n => numbers.TryGetValue(n, out var v) ? v : takes.First(t => t.Name == n).Usual);

    /// <summary>What is wrong with the numbers, as a part of a sentence; null where all is well.</summary>
    public string? Fault(IReadOnlyDictionary<string, double> numbers)
    {
        foreach (var (key, value) in numbers)
        {
            if (takes.FirstOrDefault(t => t.Name == key) is not { } known) return $"a {name} has no “{key}”";
            if (!(value >= known.Least && value <= known.Most))
                return string.Create(CultureInfo.InvariantCulture,
                    $"the {key} of a {name} is from {known.Least:0.##} to {known.Most:0.##}{(known.IsLength ? " mm" : "")}");
        }

        return null;
    }
}

/// <summary>What the program draws by itself.</summary>
public static class Makers
{
    private const double LargestMm = 10_000;

    /// <summary>As wide as a ribbon is thick.</summary>
    private const double SlitMm = 0.8;

    public static ImmutableArray<Maker> All { get; } =
    [
        new("rectangle", [new("width", 0.01, LargestMm, 100), new("height", 0.01, LargestMm, 100), new("corner", 0, LargestMm / 2, 0)],
            n => Rectangle(n("width"), n("height"), n("corner"))) { StandsOnEdges = true },
        new("ellipse", [new("width", 0.01, LargestMm, 50), new("height", 0.01, LargestMm, 50)], n => Ellipse(n("width"), n("height"))),
        new("polygon", [new("width", 0.01, LargestMm, 50), new("height", 0.01, LargestMm, 50), new("sides", 3, 200, 6, false)],
            n => Corners(n("width"), n("height"), (int)n("sides"), 1)),
        new("star", [new("width", 0.01, LargestMm, 50), new("height", 0.01, LargestMm, 50), new("sides", 3, 100, 5, false),
            new("depth", 0.01, 0.99, 0.5, false)],
            n => Corners(n("width"), n("height"), (int)n("sides"), 1 - n("depth"))),
        new("waves", [new("width", 1, LargestMm, 100), new("height", 0.1, LargestMm, 12), new("sides", 1, 200, 5, false)],
            n => Waves(n("width"), n("height"), (int)n("sides"))) { StandsOnEdges = true },
        new("slits", [new("width", 0.1, LargestMm, 10), new("height", 1, LargestMm, 12)], n => Slits(n("width"), n("height"))),
        new("slot", [new("width", 0.01, LargestMm, 12), new("height", 0.01, LargestMm, 3)], n => Rectangle(n("width"), n("height"), LargestMm)),
    ];

    public static Maker? Find(string name) => All.FirstOrDefault(m => m.Name == name);

    /// <summary>In four arcs, from its upper left corner at the origin.</summary>
    private static VectorPath Ellipse(double width, double height)
    {
        double a = width / 2, b = height / 2;
        return new PathBuilder().MoveTo(new(a, 0)).ArcAround(new(a, b), new(0, -b), new(a, 0), 0, 2 * Math.PI, new(a, 0)).Close().Build();
    }

    /// <summary>A star of so many points, the first on top, or a polygon where all its corners lie outside; stretched to touch its box.</summary>
    /// <param name="inner">How near to the centre the inner corners lie, as a part of the outer radius; 1 has none.</param>
    private static VectorPath Corners(double width, double height, int sides, double inner)
    {
        var n = inner < 1 ? 2 * sides : sides;
        var ring = VectorPath.Polygon([.. Enumerable.Range(0, n).Select(i => 2 * Math.PI * i / n)
            .Select((t, i) => new Point(Math.Sin(t), -Math.Cos(t)) * (inner < 1 && i % 2 == 1 ? inner : 1))]);
        var box = ring.Bounds;
        return ring.Transform(Affine.Move(-box.Left, -box.Top).Then(Affine.Scale(width / box.Width, height / box.Height)));
    }

    /// <summary>A strip with so many waves along its upper edge, which go a third of its height down.</summary>
    private static VectorPath Waves(double width, double height, int waves)
    {
        double long_ = width / waves, low = height / 3;
        var build = new PathBuilder().MoveTo(new(0, low));
        for (var k = 0; k < waves; k++)
        {
            // A hump up, as steep at its feet as the dip between two.
            double x = k * long_, middle = x + long_ / 2, end = k == waves - 1 ? width : x + long_;
            build.CubicTo(new(x + long_ * 0.18, low), new(middle - long_ * 0.18, 0), new(middle, 0))
                .CubicTo(new(middle + long_ * 0.18, 0), new(end - long_ * 0.18, low), new(end, low));
        }

        return build.LineTo(new(width, height)).LineTo(new(0, height)).Close().Build();
    }

    /// <summary>Two narrow slits, one above the other, that a ribbon goes in by and out of.</summary>
    private static VectorPath Slits(double width, double height)
    {
        var narrow = Math.Min(SlitMm, height / 3);
        return new([.. VectorPath.Rectangle(0, 0, width, narrow).Subpaths, .. VectorPath.Rectangle(0, height - narrow, width, narrow).Subpaths]);
    }

    /// <summary>From its upper left corner at the origin; a corner that is too large is made as large as fits.</summary>
    private static VectorPath Rectangle(double width, double height, double corner)
    {
        var r = Math.Min(corner, Math.Min(width, height) / 2);
        if (r <= 0) return VectorPath.Rectangle(0, 0, width, height);
        var build = new PathBuilder();
        build.MoveTo(new(r, 0));
        Side(new(width - r, 0), new(width, r));
        Side(new(width, height - r), new(width - r, height));
        Side(new(r, height), new(0, height - r));
        Side(new(0, r), new(r, 0));
        return build.Close().Build();

        // Where the side before ended there already, the corners meet.
        void Side(Point to, Point round)
        {
            if (build.Current.DistanceTo(to) > Tolerances.Same) build.LineTo(to);
            build.ArcTo(r, r, Angle.Zero, false, true, round);
        }
    }
}
