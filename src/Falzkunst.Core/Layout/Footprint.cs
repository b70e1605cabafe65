using System.Numerics;
using Falzkunst.Core.Regions;

namespace Falzkunst.Core.Layout;

/// <summary>
/// What a search knows of a shape: straight edges about a point in its middle, grown by half the gap, so that two of them keep the gap as long as they do not
/// overlap; and circles in it. Two of them are never nearer than the gap less 0.009 mm, and at most 0.04 mm farther apart than they have to be.
/// </summary>
internal sealed class Footprint
{
    /// <summary>Circles to a shape: two or four vectors of them at once.</summary>
    private const int MostPoles = 8;

    private readonly Dictionary<(double, bool), Turned> _turns = [];
    private readonly List<List<Point>> _rings;
    private readonly List<Pole> _poles;

    private Footprint(Region grown, Box bounds, double edge)
    {
        (Centre, Edge) = (bounds.Centre, edge);
        var toOrigin = Affine.Move(-Centre.X, -Centre.Y);
        _rings = [.. grown.ToPaths().SelectMany(p => p.Transform(toOrigin).Rings).Where(r => r.Count > 2)];
        AreaMm2 = grown.AreaMm2;
        var box = grown.Bounds;
        Diameter = Math.Sqrt(box.Width * box.Width + box.Height * box.Height);
        _poles = Poles.Of(_rings, AreaMm2, MostPoles);
        // How much a shape matters: the root of the side of its box, rather than of its hull, which differs little for what is cut from paper.
        Weight = Math.Sqrt(Math.Sqrt(Math.Max(1e-6, bounds.Area)));
    }

    /// <summary>The point of the shape's own coordinates that turns are made about.</summary>
    public Point Centre { get; }

    public double AreaMm2 { get; }

    /// <summary>How far its edges lie outside of the true ones, at least.</summary>
    public double Edge { get; }

    public double Diameter { get; }

    public double Weight { get; }

    /// <summary>Whether it has edges at all.</summary>
    public bool IsEmpty => _rings.Count == 0 || _poles.Count == 0;

    /// <summary>A shape that has to keep a gap from others. Its true edges keep to <paramref name="path"/>.</summary>
    public static Footprint Of(VectorPath path, Length gap)
    {
        var (region, bounds) = (Region.Of(path, Tolerances.Measure), path.Bounds);
        // A gap that nobody can measure is none.
        var half = gap.Mm < 1e-4 ? 0 : gap.Mm / 2;
        // Few corners are kept as they are, but for the arcs around them; of many, those go that lie within a hundredth of a millimetre, and all others move
        // out by as much. Chords of the arcs lie inside by 0.12 % (Outset).
        var isPlain = path.Subpaths.Sum(s => s.Segments.Length) <= 40 && path.Subpaths.All(s => s.Segments.All(g => !g.IsCurve));
        var within = !isPlain ? 0.01 : half > 0.01 ? 0.002 : 0;
        var by = isPlain ? half > 0.01 ? half - 0.001 : half : half * 1.0013 + (half > 0.01 ? 0.008 : 0.013);
        var grown = by > 0 ? region.Outset(Length.FromMm(by)) : region;
        if (within > 0) grown = grown.Simplified(Length.FromMm(within));
        return new(grown, bounds, Math.Max(0, by - within));
    }

    /// <summary>The same, with corners that stay sharp: what is straight stays straight to its end. Farther apart than it has to be where corners meet
    /// edges.</summary>
    /// <param name="less">What it is smaller by all around, in mm.</param>
    public static Footprint Sharp(VectorPath path, Length gap, double less = 0)
    {
        var by = (gap.Mm > 0.02 ? gap.Mm / 2 - 0.001 : 0) - less;
        var region = Region.Of(path, Tolerances.Measure);
        return new(by != 0 ? region.OutsetSharp(Length.FromMm(by)) : region, path.Bounds, by);
    }

    /// <summary>Makes the turns that are asked for again and again; not while others ask for some.</summary>
    public Footprint Prepared(IEnumerable<double> angles, bool flip)
    {
        foreach (var angle in angles)
        {
            _turns[(angle, false)] = new(this, angle, false, _rings, _poles);
            if (flip) _turns[(angle, true)] = new(this, angle, true, _rings, _poles);
        }

        return this;
    }

    /// <summary>The shape in a turn.</summary>
    public Turned In(double degrees, bool flipped = false) =>
        _turns.TryGetValue((degrees, flipped), out var known) ? known : new(this, degrees, flipped, _rings, _poles);
}

/// <summary>A footprint in one turn, about the origin: edges in the order of its rings, in runs of eight with a box each, and its circles, in
/// vectors.</summary>
internal sealed class Turned
{
    private const int Run = 8;

    /// <summary>Edges that are compared at once.</summary>
    private const int MostAtOnce = 128;

    /// <summary>More than sums of coordinates are rounded by, in mm.</summary>
    private const double Rounding = 1e-9;

    /// <summary>With more edges, circles tell as much for less.</summary>
    private const int MostConvex = 16;

    private readonly float[] _poleX, _poleY, _poleR;
    private readonly double[] _x0, _y0, _x1, _y1, _runBoxes;

    /// <summary>The first edge of each ring.</summary>
    private readonly int[] _rings;

    /// <summary>Of a convex shape of few edges, the direction out of each, and how far out it lies; otherwise empty.</summary>
    private readonly double[] _outX = [], _outY = [], _out = [];

    public Turned(Footprint shape, double degrees, bool flipped, List<List<Point>> rings, List<Pole> poles)
    {
        (Shape, Degrees, Flipped) = (shape, degrees, flipped);
        var map = new Place(Angle.FromDegrees(degrees), default, flipped).Map;
        var count = rings.Sum(r => r.Count);
        (_x0, _y0, _x1, _y1) = (new double[count], new double[count], new double[count], new double[count]);
        var (n, box) = (0, Box.Empty);
        _rings = new int[rings.Count];
        for (var r = 0; r < rings.Count; r++)
        {
            var ring = rings[r];
            _rings[r] = n;
            var last = map.Apply(ring[^1]);
            foreach (var corner in ring)
            {
                var p = map.Apply(corner);
                (_x0[n], _y0[n], _x1[n], _y1[n]) = (last.X, last.Y, p.X, p.Y);
                box = box.With(p);
                last = p;
                n++;
            }
        }

        Bounds = box;
        _runBoxes = new double[(count + Run - 1) / Run * 4];
        for (var r = 0; r * Run < count; r++)
        {
            var b = Box.Empty;
            for (var i = r * Run; i < Math.Min(count, (r + 1) * Run); i++) b = b.With(new Point(_x0[i], _y0[i])).With(new Point(_x1[i], _y1[i]));
            (_runBoxes[4 * r], _runBoxes[4 * r + 1], _runBoxes[4 * r + 2], _runBoxes[4 * r + 3]) = (b.Left, b.Top, b.Right, b.Bottom);
        }

        // Filled up with circles of no size, far away: they add nothing.
        var room = (poles.Count + Vector<float>.Count - 1) / Vector<float>.Count * Vector<float>.Count;
        (_poleX, _poleY, _poleR) = (new float[room], new float[room], new float[room]);
        Array.Fill(_poleX, 1e6f);
        Array.Fill(_poleY, 1e6f);
        for (var i = 0; i < poles.Count; i++)
        {
            var at = map.Apply(poles[i].Centre);
            (_poleX[i], _poleY[i], _poleR[i]) = ((float)at.X, (float)at.Y, (float)poles[i].Radius);
        }

        if (rings.Count == 1 && count <= MostConvex)
        {
            // Mirrored, it runs the other way about.
            double area = 0;
            for (var i = 0; i < count; i++) area += _x0[i] * _y1[i] - _x1[i] * _y0[i];
            var sign = Math.Sign(area);
            var (outX, outY, far) = (new double[count], new double[count], new double[count]);
            var convex = sign != 0;
            for (var i = 0; i < count && convex; i++)
            {
                double dx = _x1[i] - _x0[i], dy = _y1[i] - _y0[i], length = Math.Sqrt(dx * dx + dy * dy);
                if (length < 1e-9) length = 1e-9;
                (outX[i], outY[i]) = (sign * dy / length, -sign * dx / length);
                far[i] = outX[i] * _x0[i] + outY[i] * _y0[i];
                for (var j = 0; j < count && convex; j++) convex = outX[i] * _x0[j] + outY[i] * _y0[j] <= far[i] + 1e-6;
            }

            if (convex) (_outX, _outY, _out) = (outX, outY, far);
        }

        PoleCount = poles.Count;
    }

    public Footprint Shape { get; }

    public double Degrees { get; }

    public bool Flipped { get; }

    public Box Bounds { get; }

    public int PoleCount { get; }

    public int EdgeCount => _x0.Length;

    public int RingCount => _rings.Length;

    /// <summary>The end of an edge.</summary>
    public Point End(int edge) => new(_x1[edge], _y1[edge]);

    /// <summary>The start of an edge.</summary>
    public Point Start(int edge) => new(_x0[edge], _y0[edge]);

    /// <summary>The direction of an edge.</summary>
    public Point Way(int edge) => new(_x1[edge] - _x0[edge], _y1[edge] - _y0[edge]);

    /// <summary>
    /// How much two shapes overlap, this one at (x, y) from the other; 0 where they do not. What touches overlaps. A guess by circles, never nothing where
    /// edges cross; grows about as the way that they have to be parted by, more for large ones.
    /// </summary>
    /// <param name="work">Counts what was compared.</param>
    public double Overlap(Turned other, double x, double y, ref long work)
    {
        if (_out.Length > 0 && other._out.Length > 0)
        {
            work += (EdgeCount * other.EdgeCount >> 2) + 4;
            var push = Apart(other, x, y);
            return push == default ? 0 : Loss(other, push.Norm * Math.Min(_poleR[0], other._poleR[0]));
        }

        var epsilon = (float)(0.01 * Math.Max(Shape.Diameter, other.Shape.Diameter));
        var (sum, deepest) = Depth(other, (float)x, (float)y, epsilon);
        work += 12 + PoleCount * other.PoleCount / 2;
        if (deepest <= 1e-4f && !Meets(other, x, y, ref work)) return 0;
        return Loss(other, sum);
    }

    private double Loss(Turned other, double sum)
    {
        var epsilon = 0.01 * Math.Max(Shape.Diameter, other.Shape.Diameter);
        return Math.Sqrt(sum + epsilon * epsilon) * Math.Sqrt(Shape.Weight * other.Shape.Weight);
    }

    /// <summary>The way that this shape has to go to part from another: the shortest for convex shapes of few edges, otherwise a guess from the circles that
    /// overlap most. Nothing where they do not overlap.</summary>
    public Point Push(Turned other, double x, double y, ref long work)
    {
        if (_out.Length > 0 && other._out.Length > 0)
        {
            work += (EdgeCount * other.EdgeCount >> 2) + 4;
            return Apart(other, x, y);
        }

        work += 12 + PoleCount * other.PoleCount;
        var (most, way) = (double.NegativeInfinity, default(Point));
        for (var i = 0; i < PoleCount; i++)
        {
            for (var j = 0; j < other.PoleCount; j++)
            {
                double dx = _poleX[i] + x - other._poleX[j], dy = _poleY[i] + y - other._poleY[j], far = Math.Sqrt(dx * dx + dy * dy);
                var depth = _poleR[i] + other._poleR[j] - far;
                if (depth <= most) continue;
                (most, way) = (depth, far > 1e-9 ? new Point(dx / far, dy / far) : new Point(1, 0));
            }
        }

        if (most > 1e-4) return way * most;
        return Meets(other, x, y, ref work) ? way * Math.Max(0.05, 0.002 * Math.Min(Shape.Diameter, other.Shape.Diameter)) : default;
    }

    /// <summary>The shortest way out of a convex shape (separating axes: Gottschalk 1996), with a hair beyond; nothing where they are apart.</summary>
    private Point Apart(Turned other, double x, double y)
    {
        const double Hair = 1e-5;
        var (least, way) = (double.PositiveInfinity, default(Point));
        for (var i = 0; i < _out.Length; i++)
        {
            double nx = _outX[i], ny = _outY[i], near = double.PositiveInfinity;
            for (var j = 0; j < other.EdgeCount; j++) near = Math.Min(near, nx * other._x0[j] + ny * other._y0[j]);
            var depth = _out[i] + nx * x + ny * y - near;
            if (depth < 0) return default;
            if (depth < least) (least, way) = (depth, new Point(-nx, -ny));
        }

        for (var j = 0; j < other._out.Length; j++)
        {
            double nx = other._outX[j], ny = other._outY[j], near = double.PositiveInfinity;
            for (var i = 0; i < EdgeCount; i++) near = Math.Min(near, nx * _x0[i] + ny * _y0[i]);
            var depth = other._out[j] - (near + nx * x + ny * y);
            if (depth < 0) return default;
            if (depth < least) (least, way) = (depth, new Point(nx, ny));
        }

        return way * (least + Hair);
    }

    /// <summary>Whether two shapes overlap or touch, this one at (x, y) from the other: edges that cross, or one inside the other.</summary>
    public bool Meets(Turned other, double x, double y, ref long work)
    {
        double left = Math.Max(Bounds.Left + x, other.Bounds.Left), top = Math.Max(Bounds.Top + y, other.Bounds.Top),
            right = Math.Min(Bounds.Right + x, other.Bounds.Right), bottom = Math.Min(Bounds.Bottom + y, other.Bounds.Bottom);
        if (left > right || top > bottom) return false;
        // An edge that lies on the side of its own box is in it, whatever rounding says.
        (left, top, right, bottom) = (left - Rounding, top - Rounding, right + Rounding, bottom + Rounding);
        // Only edges that come into what both boxes have in common can cross.
        Span<int> mine = stackalloc int[Math.Min(EdgeCount, MostAtOnce)], its = stackalloc int[Math.Min(other.EdgeCount, MostAtOnce)];
        work += (EdgeCount + other.EdgeCount) >> 4;
        for (var from = 0; from < EdgeCount;)
        {
            var count = Within(left - x, top - y, right - x, bottom - y, mine, ref from);
            if (count == 0) continue;
            for (var otherFrom = 0; otherFrom < other.EdgeCount;)
            {
                var otherCount = other.Within(left, top, right, bottom, its, ref otherFrom);
                work += count * otherCount >> 3;
                if (Cross(mine[..count], other, its[..otherCount], x, y)) return true;
            }
        }

        // No edges cross: either they are apart, or a ring of one lies whole inside the other. With holes it may be any ring: of two rings of like size one may
        // lie around the hole of the other.
        foreach (var i in _rings)
            if (other.Holds(_x0[i] + x, _y0[i] + y, ref work)) return true;
        foreach (var i in other._rings)
            if (Holds(other._x0[i] - x, other._y0[i] - y, ref work)) return true;
        return false;
    }

    private (float Sum, float Deepest) Depth(Turned other, float x, float y, float epsilon)
    {
        var sum = Vector<float>.Zero;
        var deepest = new Vector<float>(float.MinValue);
        var shallow = new Vector<float>(epsilon);
        var square = shallow * shallow;
        for (var v = 0; v < other._poleX.Length; v += Vector<float>.Count)
        {
            Vector<float> bx = new(other._poleX, v), by = new(other._poleY, v), br = new(other._poleR, v);
            for (var i = 0; i < PoleCount; i++)
            {
                var dx = bx - new Vector<float>(_poleX[i] + x);
                var dy = by - new Vector<float>(_poleY[i] + y);
                var r = new Vector<float>(_poleR[i]);
                var depth = r + br - Vector.SquareRoot(dx * dx + dy * dy);
                deepest = Vector.Max(deepest, depth);
                var faded = Vector.ConditionalSelect(Vector.GreaterThanOrEqual(depth, shallow), depth,
                    square / (shallow + shallow - Vector.Min(depth, shallow)));
                sum += faded * Vector.Min(r, br);
            }
        }

        var most = float.MinValue;
        for (var i = 0; i < Vector<float>.Count; i++) most = Math.Max(most, deepest[i]);
        return (Vector.Sum(sum), most);
    }

    /// <summary>The edges from one on that come into a box, as many as there is room for.</summary>
    private int Within(double left, double top, double right, double bottom, Span<int> into, ref int from)
    {
        var count = 0;
        while (from < EdgeCount)
        {
            if ((from & (Run - 1)) == 0)
            {
                var r = from / Run * 4;
                if (_runBoxes[r] > right || _runBoxes[r + 2] < left || _runBoxes[r + 1] > bottom || _runBoxes[r + 3] < top)
                {
                    from += Run;
                    continue;
                }
            }

            double ax = _x0[from], ay = _y0[from], bx = _x1[from], by = _y1[from];
            if ((ax <= right || bx <= right) && (ax >= left || bx >= left) && (ay <= bottom || by <= bottom) && (ay >= top || by >= top)) into[count++] = from;
            from++;
            if (count == into.Length) break;
        }

        from = Math.Min(from, EdgeCount);
        return count;
    }

    private bool Cross(ReadOnlySpan<int> mine, Turned other, ReadOnlySpan<int> its, double x, double y)
    {
        foreach (var i in mine)
        {
            double ax = _x0[i] + x, ay = _y0[i] + y, bx = _x1[i] + x, by = _y1[i] + y;
            double left = Math.Min(ax, bx), right = Math.Max(ax, bx), top = Math.Min(ay, by), bottom = Math.Max(ay, by);
            foreach (var j in its)
            {
                double cx = other._x0[j], cy = other._y0[j], dx = other._x1[j], dy = other._y1[j];
                if ((cx < left && dx < left) || (cx > right && dx > right) || (cy < top && dy < top) || (cy > bottom && dy > bottom)) continue;
                double c = (bx - ax) * (cy - ay) - (by - ay) * (cx - ax), d = (bx - ax) * (dy - ay) - (by - ay) * (dx - ax);
                if (c * d > 0) continue;
                double a = (dx - cx) * (ay - cy) - (dy - cy) * (ax - cx), b = (dx - cx) * (by - cy) - (dy - cy) * (bx - cx);
                if (a * b <= 0) return true;
            }
        }

        return false;
    }

    private bool Holds(double px, double py, ref long work)
    {
        if (px < Bounds.Left || px > Bounds.Right || py < Bounds.Top || py > Bounds.Bottom) return false;
        work += EdgeCount / 4;
        var inside = false;
        for (var i = 0; i < EdgeCount; i++)
        {
            double ay = _y0[i], by = _y1[i];
            if (ay > py != by > py && px < _x0[i] + (_x1[i] - _x0[i]) * (py - ay) / (by - ay)) inside = !inside;
        }

        return inside;
    }
}
