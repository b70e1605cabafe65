using System.Runtime.CompilerServices;

namespace Falzkunst.Core.Strength;

/// <summary>A ball that touches the boundary at a place from one side: the largest that has nothing in it.</summary>
/// <param name="At">The place that it touches.</param>
/// <param name="Edge">The chord of that.</param>
/// <param name="Way">From there to its centre, of length 1.</param>
/// <param name="Radius">In mm; no more than was looked for.</param>
/// <param name="Across">The other place that it touches; where it touches none, it is larger than was looked for.</param>
/// <param name="AcrossEdge">The chord of that; -1 where there is none.</param>
internal readonly record struct Ball(Point At, int Edge, Point Way, double Radius, Point Across, int AcrossEdge)
{
    public Point Centre => At + Way * Radius;

    public bool Touches => AcrossEdge >= 0;

    /// <summary>Whether both places lie across from each other, and not beside a corner: seen from the centre by 135° or more.</summary>
    public bool IsLimb => Touches && Facing <= -0.7071;

    /// <summary>The cosine of the angle between both places, seen from the centre: -1 where they lie opposite.</summary>
    public double Facing
    {
        get
        {
            if (!Touches) return 1;
            var c = Centre;
            return (At - c).Dot(Across - c) / (Radius * Radius);
        }
    }
}

/// <summary>
/// The largest balls inside of an area, or outside of it, that touch its boundary at places along all of it: together they are its medial axis, and their
/// diameters its width there (Ma, Bae and Choi, "3D medial axis point approximation using nearest neighbors and the normal field", 2012: a ball shrinks to the
/// nearest place in it until it holds none). Each chord has one at its middle; a vertex that bends into the area has several, since none of those at its sides
/// touches it. Costs a few looks into the grid for each.
/// </summary>
internal sealed class Balls
{
    /// <summary>Where chords meet at less, those beside them are enough.</summary>
    private static readonly double Fan = Angle.FromDegrees(8).Radians;

    // The same is asked for a picture, for findings, and to strengthen; it is large, and forgotten where there is no room for it.
    private static readonly ConditionalWeakTable<VectorPath, WeakReference<Balls>> Known = [], Drafts = [];

    private readonly Boundary _boundary;

    /// <summary>So many work at once; what they find does not depend on it.</summary>
    public const int Workers = 4;

    /// <param name="inside">Inside of the area; otherwise outside of it.</param>
    /// <param name="largest">The radius from which on it does not matter how large one is, in mm.</param>
    /// <param name="isMeant">Whether those at a chord are looked for; others touch nothing. Null looks for all.</param>
    public Balls(Boundary boundary, bool inside, double largest, CancellationToken cancel = default, Func<int, bool>? isMeant = null)
    {
        (_boundary, IsInside, Largest) = (boundary, inside, largest);
        var (places, rings) = (new List<(Point At, int Edge, Point Way, bool IsCorner)>(boundary.Count), new int[boundary.Rings.Length]);
        for (var ring = 0; ring + 1 < boundary.Rings.Length; ring++)
        {
            rings[ring] = places.Count;
            for (var i = boundary.Rings[ring]; i < boundary.Rings[ring + 1]; i++)
            {
                AddFan(places, i);
                places.Add((boundary.Middle(i), i, Normal(i), false));
            }
        }

        rings[^1] = places.Count;
        (Rings, All) = (rings, new Ball[places.Count]);
        const int portion = 512;
        var options = new ParallelOptions { CancellationToken = cancel, MaxDegreeOfParallelism = Workers };
        Parallel.For(0, (places.Count + portion - 1) / portion, options, k =>
        {
            for (var i = k * portion; i < Math.Min(places.Count, (k + 1) * portion); i++)
            {
                var (at, edge, way, isCorner) = places[i];
                All[i] = isMeant?.Invoke(edge) == false ? new(at, edge, way, largest, default, -1) : At(at, edge, way, largest, isCorner);
            }
        });
    }

    private Balls(Balls of) => (_boundary, IsInside, Largest, Rings, All) = (of._boundary, of.IsInside, of.Largest, of.Rings, [.. of.All]);

    /// <summary>Those inside of an outline up to as wide as a limit on both sides, on chords of an eighth of that or less; looked for once while there is
    /// room to remember them.</summary>
    /// <param name="width">In mm.</param>
    /// <param name="step">How long chords are at the most, in mm.</param>
    /// <returns>For the caller alone, to be changed at will.</returns>
    public static Balls Inside(VectorPath outline, double width, double step, CancellationToken cancel) =>
        Remembered(Known, outline, b => b.Largest == width && b._boundary.Step == step, width, step, Tolerances.Measure, cancel);

    /// <summary>Fewer of them, on longer chords, which serve widths up to half as large again without being looked for anew.</summary>
    /// <inheritdoc cref="Inside"/>
    public static Balls DraftInside(VectorPath outline, double width, CancellationToken cancel) =>
        Remembered(Drafts, outline, b => b.Largest >= width && b.Largest < 4 * width, 1.5 * width, width / 4, Tolerances.Flatten, cancel);

    private static Balls Remembered(ConditionalWeakTable<VectorPath, WeakReference<Balls>> all, VectorPath outline, Predicate<Balls> serves, double width,
        double step, double tolerance, CancellationToken cancel)
    {
        if (all.TryGetValue(outline, out var weak) && weak.TryGetTarget(out var known) && serves(known)) return new(known);
        var made = new Balls(new Boundary(outline, step, width / 3, tolerance), true, width, cancel);
        all.AddOrUpdate(outline, new(made));
        return new(made);
    }

    public Boundary Boundary => _boundary;

    public bool IsInside { get; }

    /// <summary>The radius that was looked for, in mm.</summary>
    public double Largest { get; }

    /// <summary>In the order of the chords that they touch.</summary>
    public Ball[] All { get; }

    /// <summary>The first of each ring, and behind the last the number of all.</summary>
    public int[] Rings { get; }

    /// <summary>The largest ball that touches at a place from a direction.</summary>
    /// <param name="corner">Whether it is where the chord begins, and the chord before it ends.</param>
    public Ball At(Point at, int edge, Point way, double largest, bool corner)
    {
        var orBut = corner ? _boundary.Before(edge) : edge;
        // Most are small: where something lies in a small one, there is no need to look as far as a large one reaches.
        const double small = 0.4;
        var ball = new Ball(at, edge, way, small * largest, default, -1);
        if (!_boundary.Nearest(ball.Centre, ball.Radius * (1 - 1e-9), edge, orBut, out _, out _)) ball = ball with { Radius = largest };
        for (var round = 0; round < 40; round++)
        {
            var radius = ball.Radius;
            if (!_boundary.Nearest(ball.Centre, radius * (1 - 1e-9), edge, orBut, out var other, out var place)) break;
            var to = place - at;
            var ahead = to.Dot(way);
            // Another place in the ball lies ahead of the one that is touched.
            if (!(ahead > 0)) break;
            var next = to.Dot(to) / (2 * ahead);
            if (next >= radius) break;
            ball = ball with { Radius = next, Across = place, AcrossEdge = other };
            if (radius - next < 1e-7) break;
        }

        return ball;
    }

    private Point Normal(int edge)
    {
        var way = _boundary.Way(edge);
        return IsInside ? new(-way.Y, way.X) : new(way.Y, -way.X);
    }

    /// <summary>The directions between both sides of a vertex, where it bends into what the balls lie in.</summary>
    private void AddFan(List<(Point, int, Point, bool)> places, int edge)
    {
        Point before = _boundary.Way(_boundary.Before(edge)), after = _boundary.Way(edge);
        var turn = Math.Atan2(before.Cross(after), before.Dot(after));
        if (IsInside) turn = -turn;
        if (turn < Fan) return;
        var n = (int)Math.Ceiling(turn / Fan);
        var from = Normal(_boundary.Before(edge));
        for (var k = 0; k <= n; k++)
        {
            var (sin, cos) = Math.SinCos((IsInside ? -turn : turn) * k / n);
            places.Add((_boundary.From[edge], edge, new(from.X * cos - from.Y * sin, from.X * sin + from.Y * cos), true));
        }
    }
}
