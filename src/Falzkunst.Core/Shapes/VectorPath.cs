using System.Text;

namespace Falzkunst.Core.Shapes;

/// <summary>How a path that crosses or repeats itself encloses area; the terms and meaning of SVG.</summary>
public enum FillRule
{
    NonZero,
    EvenOdd,
}

/// <summary>One step of a path: a straight line or a cubic curve from the end of the step before.</summary>
public readonly record struct Segment
{
    private Segment(bool curve, Point c1, Point c2, Point end) => (IsCurve, C1, C2, End) = (curve, c1, c2, end);

    public bool IsCurve { get; }

    /// <summary>The control point beside the start; meaningless for a straight line.</summary>
    public Point C1 { get; }

    /// <summary>The control point beside the end; meaningless for a straight line.</summary>
    public Point C2 { get; }

    public Point End { get; }

    public static Segment Line(Point end) => new(false, default, default, end);

    public static Segment Cubic(Point c1, Point c2, Point end) => new(true, c1, c2, end);

    internal Segment Transform(Affine by) => IsCurve ? Cubic(by.Apply(C1), by.Apply(C2), by.Apply(End)) : Line(by.Apply(End));
}

/// <summary>One connected run of segments. Closed means that the end is joined to the start by a straight line.</summary>
public sealed record Subpath(Point Start, ImmutableArray<Segment> Segments, bool Closed)
{
    public Point End => Segments.Length == 0 ? Start : Segments[^1].End;

    /// <summary>
    /// The subpath as points no farther than <paramref name="tolerance"/> (mm) from it. The number of chords of a cubic is Wang's bound
    /// from its second differences (Wang 1984; Farin, Curves and Surfaces for CAGD, section 6.8). A closed subpath does not repeat its start.
    /// Cost: linear in the points made, at most 512 a segment.
    /// </summary>
    public List<Point> Flatten(double tolerance = Tolerances.Flatten)
    {
        var points = new List<Point>(Segments.Length + 1) { Start };
        var from = Start;
        foreach (var s in Segments)
        {
            if (s.IsCurve)
            {
                var cubic = new Cubic(from, s.C1, s.C2, s.End);
                var n = cubic.Chords(tolerance);
                for (var i = 1; i < n; i++) points.Add(cubic.At((double)i / n));
            }

            if (s.End != points[^1]) points.Add(s.End);
            from = s.End;
        }

        Steps.Count(points.Count);
        if (Closed && points.Count > 1 && points[^1].DistanceTo(points[0]) < Tolerances.Same) points.RemoveAt(points.Count - 1);
        return points;
    }

    /// <summary>As <see cref="Flatten"/>, as far as something goes along it: a closed one comes back to its start.</summary>
    public List<Point> Walk(double tolerance = Tolerances.Flatten)
    {
        var points = Flatten(tolerance);
        if (Closed) points.Add(points[0]);
        return points;
    }

    /// <summary>
    /// The area that it encloses when it is closed: positive where it runs clockwise on the screen. Exact: the integral of x dy − y dx along a cubic is a
    /// sum of cross products of its control points (Green's theorem, term by term in the Bernstein basis).
    /// </summary>
    public double SignedAreaMm2
    {
        get
        {
            double sum = 0;
            var a = Start;
            foreach (var s in Segments)
            {
                sum += s.IsCurve
                    ? (6 * a.Cross(s.C1) + 3 * a.Cross(s.C2) + a.Cross(s.End) + 3 * s.C1.Cross(s.C2) + 3 * s.C1.Cross(s.End) + 6 * s.C2.Cross(s.End)) / 10
                    : a.Cross(s.End);
                a = s.End;
            }

            return (sum + a.Cross(Start)) / 2;
        }
    }

    /// <summary>Its segments as cubics, with the closing line of a closed one; lines run evenly (<see cref="Cubic.Line"/>), and what has no length is left
    /// out.</summary>
    public IEnumerable<Cubic> Cubics()
    {
        var from = Start;
        foreach (var s in Segments)
        {
            if (s.IsCurve) yield return new(from, s.C1, s.C2, s.End);
            else if (from.DistanceTo(s.End) > Tolerances.Same) yield return Cubic.Line(from, s.End);
            from = s.End;
        }

        if (Closed && from.DistanceTo(Start) > Tolerances.Same) yield return Cubic.Line(from, Start);
    }

    /// <summary>The same run, walked from its end to its start.</summary>
    public Subpath Reverse()
    {
        var back = ImmutableArray.CreateBuilder<Segment>(Segments.Length);
        for (var i = Segments.Length - 1; i >= 0; i--)
        {
            var s = Segments[i];
            var to = i == 0 ? Start : Segments[i - 1].End;
            back.Add(s.IsCurve ? Segment.Cubic(s.C2, s.C1, to) : Segment.Line(to));
        }

        return new(End, back.MoveToImmutable(), Closed);
    }

    internal Subpath Transform(Affine by)
    {
        var moved = ImmutableArray.CreateBuilder<Segment>(Segments.Length);
        foreach (var s in Segments) moved.Add(s.Transform(by));
        return new(by.Apply(Start), moved.MoveToImmutable(), Closed);
    }

    public bool Equals(Subpath? other) => other is not null && Closed == other.Closed && Start == other.Start
        && Segments.AsSpan().SequenceEqual(other.Segments.AsSpan());

    public override int GetHashCode() => HashCode.Combine(Start, Segments.Length, Closed, End);
}

/// <summary>
/// A path of straight lines and cubic curves, in millimetres. Elliptical arcs become cubics when they are read (at most 45° each, which is within
/// 5e-6 of the radius), so that any affine map of a path is again a path.
/// </summary>
public sealed class VectorPath : IEquatable<VectorPath>
{
    private Box? _bounds;
    private List<List<Point>>? _rings;
    private VectorPath[]? _parts;
    private double _length = double.NaN;

    public VectorPath(ImmutableArray<Subpath> subpaths) => Subpaths = subpaths;

    public static VectorPath Empty { get; } = new([]);

    public ImmutableArray<Subpath> Subpaths { get; }

    public bool IsEmpty => Subpaths.Length == 0;

    /// <summary>The box around the path itself (not around its control points), to the flattening tolerance.</summary>
    public Box Bounds => _bounds ??= Measure();

    /// <summary>The subpaths as points at the usual tolerance, made once.</summary>
    public IReadOnlyList<List<Point>> Rings => _rings ??= [.. Subpaths.Select(s => s.Flatten())];

    /// <summary>Whether the point lies inside by the even-odd rule; linear in the points.</summary>
    public bool Encloses(Point p)
    {
        if (!Bounds.Holds(p)) return false;
        var inside = false;
        foreach (var ring in Rings) inside ^= Polygons.Winding(ring, p) % 2 != 0;
        return inside;
    }

    /// <summary>The distance from the point to the nearest place on the path.</summary>
    public double DistanceTo(Point p)
    {
        var best = double.PositiveInfinity;
        for (var i = 0; i < Subpaths.Length; i++) best = Math.Min(best, Polygons.DistanceToEdges(Rings[i], p, Subpaths[i].Closed));
        return best;
    }

    public bool IsClosed => Subpaths.Length > 0 && Subpaths.All(s => s.Closed);

    public static VectorPath Polygon(params ReadOnlySpan<Point> points) => Of(points, true);

    public static VectorPath Polyline(params ReadOnlySpan<Point> points) => Of(points, false);

    /// <summary>A circle as two arcs, clockwise on the screen.</summary>
    public static VectorPath Disc(Point centre, double radius)
    {
        Point up = centre + new Point(0, -radius), down = centre + new Point(0, radius);
        return new PathBuilder().MoveTo(up).ArcTo(radius, radius, Angle.Zero, false, true, down).ArcTo(radius, radius, Angle.Zero, false, true, up)
            .Close().Build();
    }

    public static VectorPath Rectangle(double x, double y, double width, double height) =>
        Polygon(new(x, y), new(x + width, y), new(x + width, y + height), new(x, y + height));

    /// <summary>The length along the path, closing lines included, measured on chords 0.002 mm from it.</summary>
    public Length Length
    {
        get
        {
            // Measured once; NaN until then.
            if (!double.IsNaN(_length)) return Length.FromMm(_length);
            double sum = 0;
            foreach (var s in Subpaths) sum += PolylineLength(s.Flatten(Tolerances.Measure), s.Closed);
            return Length.FromMm(_length = sum);
        }
    }

    /// <summary>The area that the closed subpaths enclose, as <see cref="Subpath.SignedAreaMm2"/>.</summary>
    public double SignedAreaMm2
    {
        get
        {
            double sum = 0;
            foreach (var sub in Subpaths) sum += sub.SignedAreaMm2;
            return sum;
        }
    }

    public VectorPath Transform(Affine by)
    {
        if (by == Affine.Identity) return this;
        var moved = ImmutableArray.CreateBuilder<Subpath>(Subpaths.Length);
        foreach (var s in Subpaths) moved.Add(s.Transform(by));
        return new(moved.MoveToImmutable());
    }

    /// <summary>The path with the subpaths of <paramref name="other"/> behind its own.</summary>
    public VectorPath With(VectorPath other) => new(Subpaths.AddRange(other.Subpaths));

    /// <summary>All subpaths of some paths, in their order, as one.</summary>
    public static VectorPath Joined(IEnumerable<VectorPath> paths) => new([.. paths.SelectMany(p => p.Subpaths)]);

    /// <summary>Of an area, its outer edges alone: the subpaths that run clockwise on the screen.</summary>
    public VectorPath Outer => new([.. Subpaths.Where(s => s.SignedAreaMm2 > 0)]);

    /// <summary>Of an area, the same the right way round where a mirroring map turned it: its first outer edge clockwise on the screen.</summary>
    internal VectorPath Upright => SignedAreaMm2 < 0 ? new([.. Subpaths.Select(s => s.Reverse())]) : this;

    /// <summary>Each subpath as its own path, made once, so that what is measured or written of them is too.</summary>
    public IReadOnlyList<VectorPath> Parts() => _parts ??= [.. Subpaths.Select(s => new VectorPath([s]))];

    /// <summary>SVG path data in mm, absolute, to 1e-5 mm.</summary>
    public string ToSvg()
    {
        var text = new StringBuilder(Subpaths.Length * 40);
        AppendSvg(text);
        return text.ToString();
    }

    public void AppendSvg(StringBuilder text)
    {
        foreach (var sub in Subpaths)
        {
            text.Append('M');
            Add(text, sub.Start);
            var last = 'M';
            foreach (var s in sub.Segments)
            {
                var letter = s.IsCurve ? 'C' : 'L';
                text.Append(letter == last ? ' ' : letter);
                last = letter;
                if (s.IsCurve)
                {
                    Add(text, s.C1);
                    text.Append(' ');
                    Add(text, s.C2);
                    text.Append(' ');
                }

                Add(text, s.End);
            }

            if (sub.Closed) text.Append('Z');
        }
    }

    public static double PolylineLength(IReadOnlyList<Point> points, bool closed)
    {
        double sum = 0;
        for (var i = 1; i < points.Count; i++) sum += points[i].DistanceTo(points[i - 1]);
        if (closed && points.Count > 1) sum += points[^1].DistanceTo(points[0]);
        return sum;
    }

    public bool Equals(VectorPath? other) => ReferenceEquals(this, other) || (other is not null && Subpaths.AsSpan().SequenceEqual(other.Subpaths.AsSpan()));

    public override bool Equals(object? obj) => Equals(obj as VectorPath);

    public override int GetHashCode() => Subpaths.Length == 0 ? 0 : HashCode.Combine(Subpaths.Length, Subpaths[0]);

    private static VectorPath Of(ReadOnlySpan<Point> points, bool closed)
    {
        if (points.Length == 0) return Empty;
        var segments = ImmutableArray.CreateBuilder<Segment>(points.Length - 1);
        foreach (var p in points[1..]) segments.Add(Segment.Line(p));
        return new([new Subpath(points[0], segments.MoveToImmutable(), closed)]);
    }

    private Box Measure()
    {
        var box = Box.Empty;
        foreach (var sub in Subpaths)
        {
            box = box.With(sub.Start);
            var from = sub.Start;
            foreach (var s in sub.Segments)
            {
                box = s.IsCurve ? box.With(new Cubic(from, s.C1, s.C2, s.End).Bounds()) : box.With(s.End);
                from = s.End;
            }
        }

        return box;
    }

    private static void Add(StringBuilder text, Point p)
    {
        Add(text, p.X);
        text.Append(' ');
        Add(text, p.Y);
    }

    private static void Add(StringBuilder text, double v)
    {
        Span<char> digits = stackalloc char[FixedPoint.Longest];
        text.Append(digits[FixedPoint.Write(v, 5, digits)..]);
    }
}
