using NetTopologySuite.Geometries;
using NetTopologySuite.Geometries.Utilities;
using NetTopologySuite.Operation.Overlay;
using NetTopologySuite.Operation.OverlayNG;
using NetTopologySuite.Operation.Polygonize;
using NetTopologySuite.Operation.Buffer;
using Simplify = NetTopologySuite.Simplify;
using Point = Falzkunst.Core.Measures.Point;

namespace Falzkunst.Core.Regions;

/// <summary>A path crosses itself so often that its parts are not looked for.</summary>
public sealed class TangledException() : Exception($"The path crosses itself more than {Region.MostCrossings:N0} times.");

/// <summary>
/// An area of the plane with straight edges, valid in the sense of the OGC. The only place that knows the geometry library. Curves are taken at
/// <see cref="Tolerances.Flatten"/>; operations are robust (they fall back from floating to snapping to a fixed grid, the library's "robust" overlay).
/// Immutable; operations cost about n log n in the vertices.
/// </summary>
public sealed class Region
{
    /// <summary>Areas under this, in mm², are what rounding leaves between edges that nearly coincide.</summary>
    private const double Sliver = 1e-6;

    /// <summary>Paths that cross themselves more often have no parts that anybody could cut, and would take minutes.</summary>
    public const int MostCrossings = 30_000;

    /// <summary>What the library does for each corner of two areas that it overlays, about.</summary>
    private const long StepsOfOverlay = 500;

    private static readonly GeometryFactory Factory = new(new PrecisionModel(PrecisionModels.Floating));
    private readonly Geometry _shape;

    private Region(Geometry shape) => _shape = shape;

    public static Region Empty { get; } = new(Factory.CreatePolygon());

    public bool IsEmpty => _shape.IsEmpty;

    public double AreaMm2 => _shape.Area;

    public Box Bounds => _shape.IsEmpty
        ? Box.Empty
        : new(_shape.EnvelopeInternal.MinX, _shape.EnvelopeInternal.MinY, _shape.EnvelopeInternal.MaxX, _shape.EnvelopeInternal.MaxY);

    /// <summary>The area that a path encloses by the even-odd rule; all its subpaths count as closed.</summary>
    public static Region Of(VectorPath path, double tolerance = Tolerances.Flatten)
    {
        var rings = path.Subpaths.Select(s => Chords.Flat(s, tolerance)).Where(r => r.Count >= 3).ToList();
        return rings.Count == 0 ? Empty : new(FromClean(Polygons.AnyCrossing(rings)
            ? Boundary(rings, _ => 0, (w, _) => w % 2 != 0).FindAll(r => !IsSliver(r)) : rings));
    }

    /// <summary>
    /// The physical parts of a filled path: each has one outer subpath (clockwise on the screen) and its holes (counter-clockwise), largest first.
    /// Where no edges cross, the curves are kept exactly as they are; otherwise the part is made of chords within <see cref="Tolerances.Flatten"/>.
    /// Parts without area are left out.
    /// </summary>
    /// <exception cref="TangledException">Its edges cross more than <see cref="MostCrossings"/> times.</exception>
    public static IReadOnlyList<VectorPath> Parts(VectorPath path, FillRule rule)
    {
        var flat = new List<List<Point>>(path.Subpaths.Length);
        var kept = new List<Subpath>(path.Subpaths.Length);
        // Small drawings (icons) are not card size yet; their chords are finer, so that nothing in them is missed.
        var tolerance = Math.Clamp(Math.Max(path.Bounds.Width, path.Bounds.Height) * 2.5e-3, 1e-5, Tolerances.Flatten);
        foreach (var sub in path.Subpaths)
        {
            var ring = Chords.Flat(sub, tolerance);
            // The signed area tells nothing here: the two lobes of an eight cancel.
            if (ring.Count < 3) continue;
            flat.Add(ring);
            kept.Add(sub);
        }

        if (flat.Count <= 1) return PartsOf(kept, flat, rule, tolerance);
        // What lies apart is looked at apart.
        var clusters = BoxGroups.Touching(flat.ConvertAll(r => r.Aggregate(Box.Empty, (b, p) => b.With(p))));
        if (clusters.Count == 1) return PartsOf(kept, flat, rule, tolerance);
        return [.. clusters.SelectMany(c => PartsOf(c.ConvertAll(k => kept[k]), c.ConvertAll(k => flat[k]), rule, tolerance))
            .OrderByDescending(p => Math.Abs(Polygons.SignedArea(p.Rings[0])))];
    }

    private static IReadOnlyList<VectorPath> PartsOf(List<Subpath> kept, List<List<Point>> flat, FillRule rule, double tolerance)
    {
        if (flat.Count == 0) return [];
        if ((flat.Count > 1 || !Polygons.IsConvex(flat[0])) && WhereCrossing(kept, flat, rule, tolerance) is { } parts) return parts;
        if (flat.Count == 1) return [new([Oriented(kept[0], flat[0], true)])];
        return Nest(flat, rule)
            .Select(g => new VectorPath([Oriented(kept[g.Outer], flat[g.Outer], true), .. g.Holes.Select(h => Oriented(kept[h], flat[h], false))]))
            .ToList();
    }

    /// <summary>The parts of what crosses; null where nothing does.</summary>
    private static List<VectorPath>? WhereCrossing(List<Subpath> kept, List<List<Point>> flat, FillRule rule, double tolerance)
    {
        using var edges = new EdgeSweep(flat);
        var filled = new Arrangement(edges, _ => 0, MostCrossings);
        if (filled.IsTangled) throw new TangledException();
        if (!filled.Meets) return null;
        var chords = new Chords(kept, tolerance, edges);
        return Built(flat, _ => 0, chords, filled, rule == FillRule.EvenOdd ? (w, _) => w % 2 != 0 : (w, _) => w != 0, IsSliver);
    }

    /// <summary>The parts of what is filled, in the curves of the chords.</summary>
    /// <param name="kindOf">0 or 1 for each ring.</param>
    /// <param name="filled">Whether a place is, about which the rings of both kinds wind so often.</param>
    internal static List<VectorPath> Built(IReadOnlyList<List<Point>> rings, Func<int, int> kindOf, Chords chords, Arrangement arrangement,
        Func<int, int, bool> filled, Func<List<Point>, bool> isNothing)
    {
        if (arrangement.Boundary(filled) is { } boundary)
        {
            boundary.RemoveAll(r => isNothing(r.Points));
            return PathsOf(boundary.ConvertAll(r => r.Points), boundary.ConvertAll(r => KeptCurves.Of(r.Parts, chords, arrangement.At)));
        }

        var careful = Boundary(rings, kindOf, filled);
        careful.RemoveAll(r => isNothing(r));
        return PathsOf(careful, careful.ConvertAll(r => KeptCurves.Of(chords.PartsAlong(r), chords, v => r[v])));
    }

    /// <summary>Rings that bound an area on their right, as its parts.</summary>
    private static List<VectorPath> PathsOf(List<List<Point>> flat, List<Subpath> rings) => Nest(flat, FillRule.EvenOdd)
        .Select(g => new VectorPath([.. g.Holes.Prepend(g.Outer).Select(i => Oriented(rings[i], flat[i], i == g.Outer))]))
        .ToList();

    /// <summary>The area as paths of straight edges, one for each connected part, largest first, oriented as in <see cref="Parts"/>.</summary>
    public IReadOnlyList<VectorPath> ToPaths()
    {
        var parts = new List<(double Area, VectorPath Path)>();
        foreach (var p in Polygonal(_shape))
        {
            if (p.Area < Sliver) continue;
            var subs = ImmutableArray.CreateBuilder<Subpath>(1 + p.NumInteriorRings);
            subs.Add(ToSubpath(p.ExteriorRing, true));
            foreach (var hole in p.InteriorRings)
                if (Factory.CreatePolygon((LinearRing)hole).Area >= Sliver) subs.Add(ToSubpath(hole, false));
            parts.Add((p.Area, new(subs.ToImmutable())));
        }

        return parts.OrderByDescending(p => p.Area).Select(p => p.Path).ToList();
    }

    public Region Join(Region other) => new(Areas(Overlaid(_shape, other._shape, SpatialFunction.Union)));

    public Region TakeAway(Region other) => new(Areas(Overlaid(_shape, other._shape, SpatialFunction.Difference)));

    public Region Overlap(Region other) => new(Areas(Overlaid(_shape, other._shape, SpatialFunction.Intersection)));

    private static Geometry Overlaid(Geometry one, Geometry? other, SpatialFunction function)
    {
        Steps.Count(StepsOfOverlay * (one.NumPoints + (other?.NumPoints ?? 0) + 100));
        return OverlayNGRobust.Overlay(one, other, function);
    }

    /// <summary>Everything within <paramref name="by"/> of the area (or, when negative, what is left when its edge comes in by so much). Corners are rounded,
    /// by chords of 5.6° that lie at most 0.12 % of the distance inside.</summary>
    public Region Outset(Length by) => new(_shape.Buffer(by.Mm, new BufferParameters(16)));

    /// <summary>Grown, with corners that stay corners, unless they are sharper than about 12°.</summary>
    public Region OutsetSharp(Length by) => new(_shape.Buffer(by.Mm, new BufferParameters(16, EndCapStyle.Round, JoinStyle.Mitre, 10)));

    /// <summary>The area with fewer corners: no edge lies farther than <paramref name="within"/> from where it was (Douglas and Peucker 1973). Parts and holes
    /// stay, where they are not smaller than that.</summary>
    public Region Simplified(Length within) => new(Areas(Simplify.DouglasPeuckerSimplifier.Simplify(_shape, within.Mm)));

    /// <summary>What a stroke of this width covers along a path; ends and corners are round. Chords as <see cref="Outset"/>.</summary>
    public static Region Along(VectorPath path, Length width)
    {
        var lines = path.Subpaths.Select(s => (Points: s.Flatten(), s.Closed)).Where(s => s.Points.Count >= 2)
            .Select(s => (Geometry)Factory.CreateLineString([.. (s.Closed ? s.Points.Append(s.Points[0]) : s.Points).Select(p => new Coordinate(p.X, p.Y))]))
            .ToList();
        return lines.Count == 0 ? Empty : new(Factory.BuildGeometry(lines).Buffer(width.Mm / 2, new BufferParameters(16)));
    }

    /// <summary>All that lines enclose between them, without regard to what divides it: the faces of their arrangement, joined. Ends that enclose nothing count
    /// for nothing.</summary>
    public static Region EnclosedBy(IEnumerable<IReadOnlyList<Point>> lines)
    {
        var all = Factory.BuildGeometry(lines.Select(l => (Geometry)Factory.CreateLineString([.. l.Select(p => new Coordinate(p.X, p.Y))])).ToList());
        var polygonizer = new Polygonizer();
        polygonizer.Add(Overlaid(all, null, SpatialFunction.Union));
        var faces = polygonizer.GetPolygons().ToList();
        return faces.Count == 0 ? Empty : new(OverlayNGRobust.Union(faces));
    }

    /// <summary>What of the lines lies in the area, as straight edges within <see cref="Tolerances.Flatten"/> of them; a line that lies in it altogether stays
    /// as it is.</summary>
    public VectorPath Within(VectorPath lines)
    {
        var kept = ImmutableArray.CreateBuilder<Subpath>();
        foreach (var sub in lines.Subpaths)
        {
            var points = sub.Walk();
            if (points.Count < 2) continue;
            var line = Factory.CreateLineString([.. points.Select(p => new Coordinate(p.X, p.Y))]);
            if (_shape.Covers(line))
            {
                kept.Add(sub);
                continue;
            }

            var inside = Overlaid(line, _shape, SpatialFunction.Intersection);
            for (var i = 0; i < inside.NumGeometries; i++)
                if (inside.GetGeometryN(i) is LineString { IsEmpty: false } part) kept
                    .AddRange(VectorPath.Polyline([.. part.Coordinates.Select(c => new Point(c.X, c.Y))]).Subpaths);
        }

        return new(kept.ToImmutable());
    }

    /// <summary>The triangles between points in whose circles no other point lies (Delaunay), three corners each; n log n.</summary>
    internal static IEnumerable<Point[]> Triangles(IEnumerable<Point> points)
    {
        var builder = new NetTopologySuite.Triangulate.DelaunayTriangulationBuilder();
        builder.SetSites(Factory.CreateMultiPointFromCoords([.. points.Select(p => new Coordinate(p.X, p.Y))]));
        return builder.GetSubdivision().GetTriangleCoordinates(false).Select(t => t.Take(3).Select(c => new Point(c.X, c.Y)).ToArray());
    }

    /// <summary>The area without its holes.</summary>
    public Region WithoutHoles() =>
        new(Factory.BuildGeometry(Polygonal(_shape).Select(p => (Geometry)Factory.CreatePolygon((LinearRing)p.ExteriorRing.Copy())).ToList()));

    public Region Transform(Affine by) => new(AffineOf(by).Transform(_shape));

    /// <summary>The smallest distance between the two areas in mm; 0 where they touch or overlap.</summary>
    public double DistanceTo(Region other) => _shape.Distance(other._shape);

    /// <summary>Where this area and the other come nearest to each other; neither may be empty.</summary>
    public (Point On, Point OnOther) Nearest(Region other)
    {
        var at = NetTopologySuite.Operation.Distance.DistanceOp.NearestPoints(_shape, other._shape);
        return (new(at[0].X, at[0].Y), new(at[1].X, at[1].Y));
    }

    /// <summary>The smallest distance from any edge of this area to any edge of the other; unlike <see cref="DistanceTo"/> also inside.</summary>
    public double EdgeDistanceTo(Region other) => _shape.Boundary.Distance(other._shape.Boundary);

    public bool Holds(Point p) => _shape.Covers(Factory.CreatePoint(new Coordinate(p.X, p.Y)));

    public bool Holds(Region other)
    {
        Steps.Count(100L * (_shape.NumPoints + other._shape.NumPoints));
        return _shape.Covers(other._shape);
    }

    private static AffineTransformation AffineOf(Affine m) => new(m.A, m.C, m.E, m.B, m.D, m.F);

    /// <summary>Without the lines and points in which areas only touch: the library takes no mixture again.</summary>
    private static Geometry Areas(Geometry g) => g is Polygon or MultiPolygon ? g : Factory.BuildGeometry([.. Polygonal(g)]);

    private static IEnumerable<Polygon> Polygonal(Geometry g)
    {
        for (var i = 0; i < g.NumGeometries; i++)
            if (g.GetGeometryN(i) is Polygon { IsEmpty: false } p) yield return p;
    }

    private static Subpath ToSubpath(LineString ring, bool clockwise)
    {
        var points = ring.Coordinates.Take(ring.NumPoints - 1).Select(c => new Point(c.X, c.Y)).ToList();
        var sub = VectorPath.Polygon(points.ToArray()).Subpaths[0];
        return Oriented(sub, points, clockwise);
    }

    private static Subpath Oriented(Subpath sub, List<Point> ring, bool clockwise)
    {
        var closed = sub.Closed ? sub : sub with { Closed = true };
        return Polygons.SignedArea(ring) > 0 == clockwise ? closed : closed.Reverse();
    }

    private static LinearRing ToRing(List<Point> ring)
    {
        var c = new Coordinate[ring.Count + 1];
        for (var i = 0; i < ring.Count; i++) c[i] = new(ring[i].X, ring[i].Y);
        c[^1] = c[0].Copy();
        return Factory.CreateLinearRing(c);
    }

    private static Geometry FromClean(List<List<Point>> rings)
    {
        var polygons = Nest(rings, FillRule.EvenOdd)
            .Select(g => (Geometry)Factory.CreatePolygon(ToRing(rings[g.Outer]), g.Holes.Select(h => ToRing(rings[h])).ToArray())).ToList();
        return Factory.BuildGeometry(polygons);
    }

    /// <summary>Which rings bound what is filled, and which hole belongs to which outer edge. No two rings may cross. Quadratic in the rings.</summary>
    private static List<(int Outer, List<int> Holes)> Nest(List<List<Point>> rings, FillRule rule)
    {
        if (rings.Count == 1) return [(0, [])];
        var area = rings.Select(Polygons.SignedArea).ToArray();
        var boxes = rings.Select(r => r.Aggregate(Box.Empty, (b, p) => b.With(p))).ToArray();
        // Rings may touch, so a corner of one may lie on another; a point just inside of it does not.
        var inside = rings.Select((r, i) => JustInside(r, area[i])).ToArray();
        var order = Enumerable.Range(0, rings.Count).OrderByDescending(i => Math.Abs(area[i])).ToArray();
        var outers = new Dictionary<int, List<int>>();
        for (var o = 0; o < order.Length; o++)
        {
            var i = order[o];
            int windings = 0, crossings = 0, nearestOuter = -1;
            for (var q = 0; q < o; q++)
            {
                var j = order[q];
                if (!boxes[j].Holds(boxes[i]) || Polygons.Winding(rings[j], inside[i]) == 0) continue;
                windings += Math.Sign(area[j]);
                crossings++;
                if (outers.ContainsKey(j)) nearestOuter = j;
            }

            var outside = rule == FillRule.EvenOdd ? crossings % 2 == 1 : windings != 0;
            var within = rule == FillRule.EvenOdd ? crossings % 2 == 0 : windings + Math.Sign(area[i]) != 0;
            if (within && !outside) outers[i] = [];
            else if (outside && !within && nearestOuter >= 0) outers[nearestOuter].Add(i);
        }

        return outers.Select(g => (g.Key, g.Value)).ToList();
    }

    /// <summary>A point inside of the ring, beside the middle of its longest edge.</summary>
    private static Point JustInside(List<Point> ring, double signedArea)
    {
        Point a = default, b = default;
        for (int i = 0, j = ring.Count - 1; i < ring.Count; j = i++)
            if (ring[j].DistanceTo(ring[i]) > a.DistanceTo(b)) (a, b) = (ring[j], ring[i]);
        var d = (b - a) * (1e-6 * Math.Sign(signedArea));
        return (a + b) * 0.5 + new Point(-d.Y, d.X);
    }

    /// <summary>The boundary of what crossing rings enclose: all edges are cut at their crossings, the faces between them are built, and those that are filled
    /// are joined.</summary>
    private static List<List<Point>> Boundary(IReadOnlyList<List<Point>> rings, Func<int, int> kindOf, Func<int, int, bool> isFilled)
    {
        var lines = Factory.CreateMultiLineString(rings.Select(r => (LineString)ToRing(r)).ToArray());
        var polygonizer = new Polygonizer();
        polygonizer.Add(OverlayNGRobust.Overlay(lines, null, SpatialFunction.Union));
        WindingIndex[] windings = [new([.. rings.Where((_, r) => kindOf(r) == 0)]), new([.. rings.Where((_, r) => kindOf(r) == 1)])];
        var filled = polygonizer.GetPolygons().Cast<Polygon>().Where(face =>
        {
            var inside = face.InteriorPoint.Coordinate;
            return isFilled(windings[0].At(new(inside.X, inside.Y)), windings[1].At(new(inside.X, inside.Y)));
        }).ToList();
        return filled.Count == 0 ? [] : [.. Polygonal(OverlayNGRobust.Union(filled)).SelectMany(p => p.InteriorRings.Prepend(p.ExteriorRing))
            .Select(r => Chords.OnGrid(r.Coordinates.Select(c => new Point(c.X, c.Y)).ToList())).Where(r => r.Count >= 3)];
    }

    /// <summary>What rounding leaves between edges that nearly coincide: no area to speak of, or nowhere wider than the grid.</summary>
    private static bool IsSliver(List<Point> ring) => IsThinner(ring, 1e-5);

    /// <summary>Whether a ring encloses no more than an area with edges so far apart would.</summary>
    internal static bool IsThinner(List<Point> ring, double mm)
    {
        return Math.Abs(Polygons.SignedArea(ring)) <= Math.Max(Sliver, mm / 2 * VectorPath.PolylineLength(ring, true));
    }
}
