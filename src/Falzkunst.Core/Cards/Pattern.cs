namespace Falzkunst.Core.Cards;

/// <summary>The patterns that the program draws.</summary>
public enum PatternKind
{
    Dots,
    Rings,
    Confetti,
    Stripes,
    Pinstripes,
    Checks,
    Gingham,
    Waves,
    Zigzag,
    Lattice,
    Crosses,
    Triangles,
}

/// <summary>A pattern in two colours, which goes on in all directions.</summary>
/// <param name="Ground">What lies under it; null leaves the paper as it is.</param>
public sealed record Pattern(PatternKind Kind, Colour Figure, Colour? Ground)
{
    /// <summary>What a tile is wide where nothing is said.</summary>
    public static Length UsualTile { get; } = Length.FromMm(20);

    // Beyond the tile by so much, so that no seam is seen between one and the next.
    private const double Over = 0.004;

    /// <summary>What is drawn in one tile, the unit square, from bottom to top. Set beside each other in rows and columns, tiles go on without a
    /// seam.</summary>
    public ImmutableArray<(VectorPath Path, Colour Colour)> Tile
    {
        get
        {
            var all = ImmutableArray.CreateBuilder<(VectorPath, Colour)>();
            if (Ground is { } ground) all.Add((Bar(0, 0, 1, 1), ground));
            // Where two bars of gingham do not cross, half of the ground is seen.
            if (Kind == PatternKind.Gingham) all.Add((VectorPath.Joined([.. Grid(4).SelectMany(Bands)]), Halfway(Figure, Ground ?? Colour.White)));
            all.Add((VectorPath.Joined([.. Figures(Kind)]), Figure));
            return all.ToImmutable();

            static IEnumerable<VectorPath> Bands((double X, double Y) at) => at.X > 0 ? [] : [Bar(at.Y, 0, 0.125, 1), Bar(0, at.Y, 1, 0.125)];
        }
    }

    /// <summary>The lower-case word for files and screens.</summary>
    public string Word => Kind.ToString().ToLowerInvariant();

    /// <summary>What is wrong with it, as a sentence; null where all is well.</summary>
    public string? Fault() => !Enum.IsDefined(Kind) ? "That pattern is not known."
        : !(Figure.Alpha is >= 0 and <= 1) || Ground is { Alpha: not (>= 0 and <= 1) } ? "A colour is none." : null;

    private static IEnumerable<VectorPath> Figures(PatternKind kind) => kind switch
    {
        PatternKind.Dots => Grid(4).Select(p => VectorPath.Disc(new(p.X + 0.125, p.Y + 0.125), 0.06)),
        PatternKind.Rings => Grid(2).Select(p => Ring(new(p.X + 0.25, p.Y + 0.25), 0.2, 0.15)).Concat(Grid(2)
            .Select(p => VectorPath.Disc(new(p.X + 0.25, p.Y + 0.25), 0.05))),
        // As far from each other as they can be without standing in rows (the first points of the plastic-number sequence).
        PatternKind.Confetti => Enumerable.Range(1, 14).SelectMany(n => Wrapped(new(n * 0.7548776662 % 1, n * 0.5698402910 % 1), 0.035 + 0.015 * (n % 3))),
        PatternKind.Stripes => Grid(4).Where(p => p.Y == 0).Select(p => Bar(p.X + 0.0625, 0, 0.125, 1)),
        PatternKind.Pinstripes => Grid(8).Where(p => p.Y == 0).Select(p => Bar(p.X + 0.05, 0, 0.025, 1)),
        PatternKind.Checks => Grid(4).Where(p => (p.X + p.Y) * 4 % 2 == 0).Select(p => VectorPath.Rectangle(p.X, p.Y, 0.25, 0.25)),
        PatternKind.Gingham => Grid(4).Select(p => VectorPath.Rectangle(p.X, p.Y, 0.125, 0.125)),
        PatternKind.Waves => Rows(4).Select(y => Band(y + 0.125, 0.05, [.. Enumerable.Range(-2, 37).Select(k => (k / 32.0,
            0.05 * Math.Sin(4 * Math.PI * k / 32)))])),
        PatternKind.Zigzag => Rows(4).Select(y => Band(y + 0.125, 0.06, [.. Enumerable.Range(-1, 11).Select(k => (k / 8.0, (k & 1) == 0 ? 0.06 : -0.06))])),
        PatternKind.Lattice => Grid(4).Select(p => Frame(new(p.X + 0.125, p.Y + 0.125), 0.125 + Over, 0.1)),
        PatternKind.Crosses => Grid(4).SelectMany(p => (VectorPath[])[VectorPath.Rectangle(p.X + 0.045, p.Y + 0.105, 0.16, 0.04),
            VectorPath.Rectangle(p.X + 0.105, p.Y + 0.045, 0.04, 0.16)]),
        _ => Grid(4).Select(p => VectorPath.Polygon(new(p.X + 0.125, p.Y + 0.03), new(p.X + 0.225, p.Y + 0.2), new(p.X + 0.025, p.Y + 0.2))),
    };

    private static IEnumerable<(double X, double Y)> Grid(int n) => Enumerable.Range(0, n * n).Select(k => (k % n / (double)n, k / n / (double)n));

    private static IEnumerable<double> Rows(int n) => Enumerable.Range(0, n).Select(k => k / (double)n);

    /// <summary>A rectangle that goes beyond the tile where it reaches its edge.</summary>
    private static VectorPath Bar(double x, double y, double width, double height)
    {
        var (w, h) = (width >= 1 ? Over : 0, height >= 1 ? Over : 0);
        return VectorPath.Rectangle(x - w, y - h, width + 2 * w, height + 2 * h);
    }

    private static VectorPath Ring(Point centre, double outer, double inner) => Without(centre, VectorPath.Disc(centre, outer), VectorPath.Disc(centre, inner));

    private static VectorPath Frame(Point centre, double outer, double inner) =>
        Without(centre, Diamond(centre, outer), Diamond(centre, inner));

    /// <summary>A shape with a hole that is the same from both sides: mirrored, it runs the other way.</summary>
    private static VectorPath Without(Point centre, VectorPath shape, VectorPath hole) =>
        shape.With(hole.Transform(Affine.Move(-centre.X, 0).Then(Affine.Scale(-1, 1)).Then(Affine.Move(centre.X, 0))));

    private static VectorPath Diamond(Point c, double r) => VectorPath.Polygon(new(c.X, c.Y - r), new(c.X + r, c.Y), new(c.X, c.Y + r), new(c.X - r, c.Y));

    /// <summary>A dot, and the same on the other side where it reaches over the edge.</summary>
    private static IEnumerable<VectorPath> Wrapped(Point at, double radius)
    {
        for (var dx = -1; dx <= 1; dx++)
            for (var dy = -1; dy <= 1; dy++)
                if (at.X + dx > -radius && at.X + dx < 1 + radius && at.Y + dy > -radius && at.Y + dy < 1 + radius)
                    yield return VectorPath.Disc(at + new Point(dx, dy), radius);
    }

    /// <summary>A band about a level line, as high everywhere, which follows some steps from it.</summary>
    private static VectorPath Band(double y, double high, IReadOnlyList<(double X, double Off)> steps) =>
        VectorPath.Polygon([.. steps.Select(s => new Point(s.X, y + s.Off - high / 2)), .. steps.Reverse().Select(s => new Point(s.X, y + s.Off + high / 2))]);

    private static Colour Halfway(Colour a, Colour b) => new((byte)((a.R + b.R) / 2), (byte)((a.G + b.G) / 2), (byte)((a.B + b.B) / 2));
}
