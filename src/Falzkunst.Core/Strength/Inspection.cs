using System.Runtime.CompilerServices;

namespace Falzkunst.Core.Strength;

/// <summary>What a thin place is a part of.</summary>
public enum ThinKind
{
    /// <summary>A leg, a stem, a stroke of a letter.</summary>
    Limb,

    /// <summary>What is left between two holes.</summary>
    Bridge,

    /// <summary>What is left between a hole and the outer edge.</summary>
    Border,
}

/// <summary>A place that is narrower than a paper bears.</summary>
/// <param name="Width">Where it is narrowest.</param>
/// <param name="Length">Along its middle.</param>
/// <param name="From">On one side, where it is narrowest.</param>
/// <param name="To">On the other.</param>
/// <param name="HangingMm2">What hangs by it alone, where it is the neck of a part; null where it is none.</param>
public sealed record ThinPlace(Length Width, Length Length, Point From, Point To, ThinKind Kind, double? HangingMm2)
{
    /// <summary>Its middle, where it is narrowest.</summary>
    public Point At => (From + To) * 0.5;
}

/// <summary>Two edges closer together than a blade can cut them, or paper between them would hold.</summary>
public sealed record TightPlace(Length Gap, Length Length, Point From, Point To)
{
    public Point At => (From + To) * 0.5;
}

/// <summary>A part, or a hole, too small to be worth cutting.</summary>
/// <param name="Ring">Of the outline, from 0.</param>
public sealed record Speck(Point At, double AreaMm2, bool IsHole, int Ring);

/// <summary>A point that will tear.</summary>
public sealed record SharpPoint(Point At, Angle Angle);

/// <summary>A part that is joined to no other.</summary>
/// <param name="Ring">Of the outline, from 0.</param>
public sealed record Island(Point At, double AreaMm2, int Ring);

/// <summary>A stretch along the boundary where it is about as wide everywhere, as a shape to be coloured: what lies between the edge and the middle.</summary>
/// <param name="Part">The width in parts of the limit.</param>
public sealed record WidthBand(double Part, VectorPath Area);

/// <summary>
/// How well an outline is borne by a paper: where it is too thin, too tight, too small. The local width is exact: twice the radius of the largest ball inside,
/// at every place of its boundary (<see cref="Balls"/>), on chords within 0.002 mm of the curves; narrowest widths are measured between the curves themselves.
/// Costs about n log n in the chords, of which there are eight or more to the limit; n is bounded.
/// </summary>
public sealed class Inspection
{
    /// <summary>Sharper corners tear.</summary>
    private static readonly Angle Tears = Angle.FromDegrees(35);

    private static readonly ConditionalWeakTable<VectorPath, List<Inspection>> Known = [];

    private Inspection(VectorPath outline, Limits limits, CancellationToken cancel)
    {
        (Outline, Limits) = (outline, limits);
        var (width, gap) = (limits.Width.Mm, limits.Gap.Mm);
        var inner = Balls.Inside(outline, width, width / 8, cancel);
        var boundary = inner.Boundary;
        var thin = new NarrowRuns(boundary, inner, width);
        // Gaps want chords as short as they are.
        var outer = gap < width / 2 ? new Boundary(outline, gap / 8, gap / 3) : boundary;
        var tight = new NarrowRuns(outer, new(outer, false, gap * 0.75, cancel), gap);
        var areas = outline.Parts().Select(p => p.SignedAreaMm2).ToArray();
        Thin = [.. thin.Places.Select(p => new ThinPlace(Length.FromMm(p.Width), Length.FromMm(p.Length), p.From, p.To,
            p.FromRing == p.ToRing ? ThinKind.Limb : areas[p.FromRing] < 0 && areas[p.ToRing] < 0 ? ThinKind.Bridge : ThinKind.Border,
            Hanging(boundary, p)))];
        ThinAreaMm2 = thin.Places.Sum(p => p.AreaMm2);
        Specks = [.. areas.Select((a, k) => (Area: a, Ring: k)).Where(r => r.Area < 0 ? -r.Area < limits.PinholeMm2 : r.Area < limits.SpeckMm2)
            .Where(r => outline.Parts()[r.Ring].Bounds is var box && Math.Max(box.Width, box.Height) < 4 * (r.Area < 0 ? gap : width))
            .Select(r => new Speck(outline.Parts()[r.Ring].Bounds.Centre, Math.Abs(r.Area), r.Area < 0, r.Ring))];
        // A pinhole is no gap.
        var pinholes = Specks.Where(s => s.IsHole).Select(s => s.Ring).ToHashSet();
        var gaps = tight.Places.Where(p => p.FromRing != p.ToRing || !pinholes.Contains(p.FromRing)).ToList();
        Tight = [.. gaps.Select(p => new TightPlace(Length.FromMm(p.Width), Length.FromMm(p.Length), p.From, p.To))];
        Sharp = [.. thin.Tips.Where(t => t.Angle.Radians < Tears.Radians).Select(t => new SharpPoint(t.At, t.Angle))];
        var largestPart = Array.IndexOf(areas, areas.DefaultIfEmpty(0).Max());
        Islands = [.. areas.Select((a, k) => (Area: a, Ring: k)).Where(r => r.Area > 0 && r.Ring != largestPart)
            .Select(r => new Island(outline.Parts()[r.Ring].Bounds.Centre, r.Area, r.Ring))];
        (Parts, Holes) = (areas.Count(a => a > 0), areas.Count(a => a <= 0));
        MinWidth = Thin.Count > 0 ? Thin[0].Width : Narrowest(thin, inner, width, []);
        MinGap = Tight.Count > 0 ? Tight[0].Gap : Narrowest(tight, tight.Balls, gap, pinholes);
    }

    public VectorPath Outline { get; }

    public Limits Limits { get; }

    /// <summary>The narrowest first.</summary>
    public IReadOnlyList<ThinPlace> Thin { get; }

    /// <summary>What of the area lies in thin places.</summary>
    public double ThinAreaMm2 { get; }

    /// <summary>The narrowest first.</summary>
    public IReadOnlyList<TightPlace> Tight { get; }

    public IReadOnlyList<Speck> Specks { get; }

    public IReadOnlyList<SharpPoint> Sharp { get; }

    /// <summary>All parts but the largest.</summary>
    public IReadOnlyList<Island> Islands { get; }

    public int Parts { get; }

    public int Holes { get; }

    /// <summary>The narrowest place of all, corners left out; null where nothing is narrower than twice the limit.</summary>
    public Length? MinWidth { get; }

    /// <summary>The narrowest gap; null where none is narrower than one and a half times the limit.</summary>
    public Length? MinGap { get; }

    /// <summary>The inspection of an outline; remembered with it, so that nothing is looked at twice.</summary>
    /// <param name="outline">Outer edges clockwise, holes counter-clockwise.</param>
    /// <exception cref="OperationCanceledException">It was given up.</exception>
    public static Inspection Of(VectorPath outline, Limits limits, CancellationToken cancel = default)
    {
        const int mostKept = 6;
        var kept = Known.GetOrCreateValue(outline);
        lock (kept) if (kept.Find(i => i.Limits == limits) is { } known) return known;
        var made = new Inspection(outline, limits, cancel);
        lock (kept)
        {
            if (kept.Count >= mostKept) kept.RemoveAt(0);
            kept.Add(made);
        }

        return made;
    }

    /// <summary>Whether the outline was inspected before, so that asking costs nothing.</summary>
    public static bool IsKnown(VectorPath outline, Limits limits)
    {
        if (!Known.TryGetValue(outline, out var kept)) return false;
        lock (kept) return kept.Exists(i => i.Limits == limits);
    }

    /// <summary>The area near its boundary in classes of one width, the narrowest first; what is wider than all of them is left out.</summary>
    /// <param name="steps">Where one class ends and the next begins, in parts of the limit, up to 2.</param>
    public IReadOnlyList<WidthBand> Bands(ReadOnlySpan<double> steps)
    {
        var inner = Balls.Inside(Outline, Limits.Width.Mm, Limits.Width.Mm / 8, default);
        var bands = new ImmutableArray<Subpath>.Builder[steps.Length];
        for (var k = 0; k < steps.Length; k++) bands[k] = ImmutableArray.CreateBuilder<Subpath>();
        for (var ring = 0; ring + 1 < inner.Rings.Length; ring++)
        {
            int first = inner.Rings[ring], end = inner.Rings[ring + 1], n = end - first;
            for (var i = first; i < end;)
            {
                var of = Class(inner.All[i], steps);
                var last = i;
                while (last < end && Class(inner.All[last], steps) == of) last++;
                if (of >= 0)
                {
                    // Along the edge from the middle before the first to the middle behind the last, and back along the middle of the area.
                    var points = new List<Point> { Between(i - 1, i, b => b.At) };
                    for (var k = i; k < last; k++) points.Add(inner.All[k].At);
                    points.Add(Between(last - 1, last, b => b.At));
                    for (var k = last - 1; k >= i; k--) points.Add(inner.All[k].Centre);
                    bands[of].Add(VectorPath.Polygon([.. points]).Subpaths[0]);
                }

                i = last;
            }

            Point Between(int a, int b, Func<Ball, Point> of) =>
                (of(inner.All[first + (a - first + n) % n]) + of(inner.All[first + (b - first) % n])) * 0.5;
        }

        var all = new List<WidthBand>();
        for (var k = 0; k < steps.Length; k++) if (bands[k].Count > 0) all.Add(new(steps[k], new(bands[k].ToImmutable())));
        return all;
    }

    private int Class(Ball ball, ReadOnlySpan<double> steps)
    {
        if (!ball.IsLimb) return -1;
        var part = 2 * ball.Radius / Limits.Width.Mm;
        // What is as wide as a step says is of the next class, whatever its last digits are.
        for (var k = 0; k < steps.Length; k++) if (part < steps[k] - 0.005) return k;
        return -1;
    }

    /// <summary>The narrowest of what is at least as wide as a limit.</summary>
    private static Length? Narrowest(NarrowRuns runs, Balls balls, double limit, HashSet<int> butRings)
    {
        var least = double.PositiveInfinity;
        for (var ring = 0; ring + 1 < balls.Rings.Length; ring++)
        {
            if (butRings.Contains(ring)) continue;
            for (var i = balls.Rings[ring]; i < balls.Rings[ring + 1]; i++)
                if (balls.All[i] is { IsLimb: true } b && !runs.IsTip[i] && 2 * b.Radius < least && 2 * b.Radius >= limit) least = 2 * b.Radius;
        }

        return double.IsFinite(least) ? Length.FromMm(least) : null;
    }

    /// <summary>What hangs by a neck: the smaller part of its ring, where that is a part of some size, and joined by nothing else.</summary>
    private static double? Hanging(Boundary boundary, NarrowPlace place)
    {
        if (place.FromRing != place.ToRing) return null;
        int first = boundary.Rings[place.FromRing], end = boundary.Rings[place.FromRing + 1];
        int a = Math.Min(place.Edge, place.AcrossEdge), b = Math.Max(place.Edge, place.AcrossEdge);
        double whole = 0, part = 0;
        for (var i = first; i < end; i++)
        {
            var cross = boundary.From[i].Cross(boundary.To[i]) / 2;
            whole += cross;
            if (i > a && i <= b) part += cross;
        }

        part += boundary.To[b].Cross(boundary.To[a]) / 2;
        // A hole's ring encloses no paper.
        if (whole <= 0) return null;
        var hanging = Math.Min(part, whole - part);
        return hanging > 20 * place.Width * place.Width && hanging > 4 ? hanging : null;
    }
}
