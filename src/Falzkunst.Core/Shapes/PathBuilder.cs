namespace Falzkunst.Core.Shapes;

/// <summary>Builds a path step by step, from the commands that drawing formats share.</summary>
public sealed class PathBuilder
{
    private readonly ImmutableArray<Subpath>.Builder _subpaths = ImmutableArray.CreateBuilder<Subpath>();
    private readonly ImmutableArray<Segment>.Builder _segments = ImmutableArray.CreateBuilder<Segment>();
    private Point _start;
    private bool _open;

    /// <summary>Where the next step begins.</summary>
    public Point Current { get; private set; }

    /// <summary>The segments so far.</summary>
    public int Count { get; private set; }

    public PathBuilder MoveTo(Point p)
    {
        Finish(false);
        _start = Current = p;
        return this;
    }

    public PathBuilder LineTo(Point p) => Add(Segment.Line(p));

    public PathBuilder CubicTo(Point c1, Point c2, Point p) => Add(Segment.Cubic(c1, c2, p));

    /// <summary>A quadratic curve, raised to the same curve as a cubic.</summary>
    public PathBuilder QuadraticTo(Point c, Point p) => CubicTo(Current + (c - Current) * (2.0 / 3), p + (c - p) * (2.0 / 3), p);

    /// <summary>
    /// An elliptical arc by SVG's end point rules (SVG 2, appendix B.2), in cubics of at most 45°. Radii that are too small grow as they must;
    /// a zero radius is a straight line.
    /// </summary>
    public PathBuilder ArcTo(double rx, double ry, Angle turn, bool large, bool sweep, Point end)
    {
        var from = Current;
        rx = Math.Abs(rx);
        ry = Math.Abs(ry);
        if (from == end) return this;
        if (rx < 1e-12 || ry < 1e-12) return LineTo(end);
        var (sin, cos) = Math.SinCos(turn.Normal.Radians);
        var h = (from - end) * 0.5;
        var p = new Point(cos * h.X + sin * h.Y, -sin * h.X + cos * h.Y);
        var grow = p.X * p.X / (rx * rx) + p.Y * p.Y / (ry * ry);
        if (grow > 1)
        {
            rx *= Math.Sqrt(grow);
            ry *= Math.Sqrt(grow);
        }

        double rx2 = rx * rx, ry2 = ry * ry, k = rx2 * p.Y * p.Y + ry2 * p.X * p.X;
        var f = Math.Sqrt(Math.Max(0, (rx2 * ry2 - k) / k)) * (large == sweep ? -1 : 1);
        var c = new Point(f * rx * p.Y / ry, -f * ry * p.X / rx);
        var centre = new Point(cos * c.X - sin * c.Y, sin * c.X + cos * c.Y) + (from + end) * 0.5;
        var a0 = Math.Atan2((p.Y - c.Y) / ry, (p.X - c.X) / rx);
        var a1 = Math.Atan2((-p.Y - c.Y) / ry, (-p.X - c.X) / rx);
        var span = a1 - a0;
        if (sweep && span < 0) span += 2 * Math.PI;
        if (!sweep && span > 0) span -= 2 * Math.PI;
        return ArcAround(centre, new(cos * rx, sin * rx), new(-sin * ry, cos * ry), a0, span, end);
    }

    /// <summary>
    /// An arc of an ellipse from where the path stands, in cubics of at most 45°, each within 5e-6 of the radius. The ellipse is centre + u·cos t + v·sin t.
    /// </summary>
    /// <param name="from">The angle t at the start, in radians; <paramref name="sweep"/> is added to it.</param>
    /// <param name="end">Where it ends exactly.</param>
    public PathBuilder ArcAround(Point centre, Point u, Point v, double from, double sweep, Point end)
    {
        var n = Math.Max(1, (int)Math.Ceiling(Math.Abs(sweep) / (Math.PI / 4) - 1e-9));
        var step = sweep / n;
        // Goldapp 1991: so far along its tangents a cubic touches the arc in its middle, too.
        var reach = 4.0 / 3 * Math.Tan(step / 4);
        for (var i = 0; i < n; i++)
        {
            var (s0, c0) = Math.SinCos(from + i * step);
            var (s1, c1) = Math.SinCos(from + (i + 1) * step);
            CubicTo(On(c0 - reach * s0, s0 + reach * c0), On(c1 + reach * s1, s1 - reach * c1), i == n - 1 ? end : On(c1, s1));
        }

        return this;

        Point On(double x, double y) => centre + u * x + v * y;
    }

    public PathBuilder Close()
    {
        if (_open)
        {
            Finish(true);
            Current = _start;
        }

        return this;
    }

    public VectorPath Build()
    {
        Finish(false);
        return _subpaths.Count == 0 ? VectorPath.Empty : new(_subpaths.ToImmutable());
    }

    private PathBuilder Add(Segment s)
    {
        // After a close, drawing goes on from the start of the subpath that was closed.
        if (!_open) _start = Current;
        _open = true;
        _segments.Add(s);
        Current = s.End;
        Count++;
        return this;
    }

    private void Finish(bool closed)
    {
        if (_open) _subpaths.Add(new(_start, _segments.ToImmutable(), closed));
        _segments.Clear();
        _open = false;
    }
}
