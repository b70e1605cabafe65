using Falzkunst.Core.Cards;
using Falzkunst.Core.Layout;
using Falzkunst.Core.Pictures;

namespace Falzkunst.Core.Printing;

/// <summary>How a picture of a sheet came to be.</summary>
public enum SeenBy
{
    /// <summary>A flat scan, or a reader that travels over the sheet: its resolution is known, and straight lines keep their directions.</summary>
    Scanner,

    /// <summary>A camera somewhere above it: neither its resolution nor its slant is known.</summary>
    Camera,
}

/// <summary>A picture of a sheet, or of a part of it.</summary>
/// <param name="PxPerMm">Its resolution.</param>
/// <param name="At">Where its upper left corner lies, in mm of what the reader measures in.</param>
public sealed record Glimpse(GreyPicture Picture, double PxPerMm, Point At)
{
    internal double LightAt(Point p) => Picture.At((p.X - At.X) * PxPerMm, (p.Y - At.Y) * PxPerMm);

    internal Box Bounds => new(At.X, At.Y, At.X + Picture.Width / PxPerMm, At.Y + Picture.Height / PxPerMm);
}

/// <summary>A mark that was found.</summary>
/// <param name="At">Where its reference point is, in mm of what the reader measures in.</param>
public sealed record FoundMark(string Id, Point At);

/// <summary>What was read of the marks of a sheet. Where it is refused, <see cref="Why"/> says so and what to do, and there is no map.</summary>
/// <param name="Map">From the sheet, as it was planned, to what was seen; both in mm.</param>
/// <param name="ResidualMm">How far, in the root mean square over the edges of all marks, what was seen lies from where the map says.</param>
/// <param name="UncertainMm">How far the map may be off at the worst corner of the sheet (twice the standard deviation).</param>
/// <param name="Why">A sentence; null where the marks were read.</param>
public sealed record MarkReading(ImmutableArray<FoundMark> Found, Projective? Map, double ResidualMm, double UncertainMm, string? Why)
{
    /// <summary>How much wider than planned ink stands, in mm on each side.</summary>
    public double SpreadMm { get; init; }

    /// <summary>The resolution that was taken; what a camera saw is scaled by it.</summary>
    public double PxPerMm { get; init; }

    internal static MarkReading Refused(string why, params ImmutableArray<FoundMark> found) => new(found, null, 0, 0, why);
}

/// <summary>
/// Finds the marks of a sheet in pictures of it, and from them how the sheet lies and how its print was stretched.
/// <para>
/// Marks are first looked for as connected ink of the right shape on a reduced picture, thresholded against the light around, anywhere and in any direction
/// (<see cref="MarkSearch"/>), and matched as a constellation. Then the picture is asked across each edge of their ink where the edge is, to a fraction of a
/// pixel, by the area under the profile (as Tabatabai and Mitchell 1984 do by its moments), and one map is fitted to all edges at once by least squares with
/// Tukey's weights, together with how far ink spreads, so that this can't shift anything (<see cref="MapFit"/>). A scan takes an affine map: three brackets
/// give it, and what their arms say besides is the residual. A photograph takes a projective one.
/// </para>
/// <para>Measured in <c>docs/print.md</c>. It takes time in the pixels, once, and memory of one byte a pixel.</para>
/// </summary>
public static class MarkReader
{
    /// <summary>Coarser pictures don't show a line of a mark.</summary>
    public const double LeastPxPerMm = 3;

    /// <summary>A print that is stretched, or skewed, by more than this was not made at true size.</summary>
    private const double MostStretch = 0.025, MostSkew = 0.007;

    /// <summary>A sheet that lies farther turned than this lies another way round.</summary>
    private const double MostTurn = 20;

    /// <summary>How far what was seen may be off what the map says, and the map from the truth, in mm.</summary>
    private const double MostResidual = 0.15, MostUncertain = 0.15;

    /// <summary>The same for three brackets that a camera saw at a slant, of which the fit knows less than it takes itself to: off by up to three times as
    /// much.</summary>
    private const double MostUncertainOfThree = 0.05;

    /// <summary>Reads the marks in pictures whose resolution is known.</summary>
    /// <param name="glimpses">One of the whole sheet, or one around each mark.</param>
    public static MarkReading Read(SheetMarks marks, IReadOnlyList<Glimpse> glimpses, CancellationToken cancel = default)
    {
        if (glimpses.Any(g => !(g.PxPerMm >= LeastPxPerMm)))
            return MarkReading.Refused("The picture is too coarse for the lines of the marks; scan it at 150 an inch or more.");
        var search = new MarkSearch(marks, SeenBy.Scanner);
        var ways = search.Constellations(glimpses, cancel);
        if (ways.Count == 0) return MarkReading.Refused(search.Seen == 0 && OtherScale(marks, glimpses) is { } other ? other : search.Nothing());
        return Best(marks, glimpses, ways, SeenBy.Scanner, cancel);
    }

    /// <summary>Reads the marks in a photograph of the whole sheet.</summary>
    public static MarkReading ReadPhotograph(SheetMarks marks, GreyPicture picture, CancellationToken cancel = default)
    {
        MarkReading? refused = null;
        foreach (var scale in Scales(marks, picture))
        {
            if (scale < LeastPxPerMm) break;
            Glimpse[] seen = [new(picture, scale, new(0, 0))];
            var search = new MarkSearch(marks, SeenBy.Camera);
            var ways = search.Constellations(seen, cancel);
            if (ways.Count == 0)
            {
                refused ??= MarkReading.Refused(search.Nothing());
                continue;
            }

            // Three marks show too little of how the camera was tilted; the edges of their sheet show it.
            var read = marks.Kind == MarkKind.Brackets && ByEdges(marks, seen[0], ways[0], cancel) is { } straightened ? straightened
                : Best(marks, seen, ways, SeenBy.Camera, cancel);
            if (read.Why is null) return read;
            refused = read;
        }

        return refused ?? MarkReading.Refused("The picture is too coarse for the lines of the marks; take it from nearer, so that the sheet fills it.");
    }

    /// <summary>Reads a photograph as a scan, once it is straightened by the edges of the sheet; null where these are not seen, or that does not do.</summary>
    private static MarkReading? ByEdges(SheetMarks marks, Glimpse seen, Constellation way, CancellationToken cancel)
    {
        const double around = 3;
        if (Lies(way.Turn) is not null || SheetEdges.Find(marks, seen, way.Map) is not { } sheet) return null;
        var read = Read(marks, [SheetEdges.Straightened(marks, seen, sheet, around)], cancel);
        if (read.Map is not { } onSheet) return null;
        var map = sheet.After(onSheet.Near(new(marks.Width.Mm / 2, marks.Height.Mm / 2)));
        return read with { Map = map, Found = [.. read.Found.Select(f => f with { At = sheet.Apply(f.At) })], PxPerMm = seen.PxPerMm };
    }

    /// <summary>The resolutions that a photograph may have where the sheet fills all of it, or less and less.</summary>
    private static IEnumerable<double> Scales(SheetMarks marks, GreyPicture picture)
    {
        double longer = Math.Max(picture.Width, picture.Height) / Math.Max(marks.Width.Mm, marks.Height.Mm),
            shorter = Math.Min(picture.Width, picture.Height) / Math.Min(marks.Width.Mm, marks.Height.Mm);
        for (var scale = Math.Min(longer, shorter) * 0.95; scale > Math.Min(longer, shorter) * 0.35; scale *= 0.84) yield return scale;
    }

    /// <summary>What is said where marks are there, but at another size than the resolution says; null where they are not.</summary>
    private static string? OtherScale(SheetMarks marks, IReadOnlyList<Glimpse> glimpses)
    {
        if (glimpses is not [var whole] || ReadPhotograph(marks, whole.Picture) is not { Why: null, Map: { } map } read) return null;
        var seen = map.Near(new(marks.Width.Mm / 2, marks.Height.Mm / 2)).MeanScale * read.PxPerMm;
        return string.Create(CultureInfo.InvariantCulture,
            $"The marks are there, but as if scanned at {seen * Length.MmPerInch:0} an inch, not {whole.PxPerMm * Length.MmPerInch:0}; "
            + $"say at how many it was scanned, or print it again with scaling off.");
    }

    private static MarkReading Best(SheetMarks marks, IReadOnlyList<Glimpse> glimpses, IReadOnlyList<Constellation> ways, SeenBy by, CancellationToken cancel)
    {
        var read = new List<MarkReading>();
        MarkReading? refused = null;
        foreach (var way in ways)
        {
            cancel.ThrowIfCancellationRequested();
            var one = Refined(marks, glimpses, way, by);
            if (one.Why is not null) refused ??= one;
            else if (read.TrueForAll(r => Apart(marks, r.Map!.Value, one.Map!.Value) > 1)) read.Add(one);
        }

        return read switch
        {
            [] => refused!,
            [var one] => one,
            _ => MarkReading.Refused("There are marks for more than one sheet in the picture; leave one sheet in it."),
        };
    }

    private static double Apart(SheetMarks marks, Projective a, Projective b) => Corners(marks).Max(c => a.Apply(c).DistanceTo(b.Apply(c)));

    private static Point[] Corners(SheetMarks marks) => [new(0, 0), new(marks.Width.Mm, 0), new(0, marks.Height.Mm), new(marks.Width.Mm, marks.Height.Mm)];

    /// <summary>One way in which the sheet may lie, measured at the edges of its marks; or why it can't be that.</summary>
    private static MarkReading Refined(SheetMarks marks, IReadOnlyList<Glimpse> glimpses, Constellation way, SeenBy by)
    {
        var all = marks.All;
        if (Lies(way.Turn) is { } lies) return MarkReading.Refused(lies);
        var edges = all.Select(MarkEdges.Of).ToArray();
        var map = way.Map;
        var off = new Point[all.Length];
        var fit = new MapFit(marks, by == SeenBy.Camera);
        var seen = new List<EdgePoint>();
        for (var round = 0; round < 4; round++)
        {
            seen.Clear();
            for (var k = 0; k < all.Length; k++)
            {
                var at = map.Apply(all[k].At) + off[k];
                var glimpse = glimpses.FirstOrDefault(g => g.Bounds.Grown(-0.5).Holds(at));
                if (glimpse is null) return MarkReading.Refused(CutOff(all[k]));
                // The first look is a wide one, and only moves each mark: its neighbours know little yet of how it is turned.
                var points = MarkEdges.Measured(edges[k], k, glimpse, map, off[k], round == 0);
                if (round == 0)
                {
                    off[k] += MapFit.Shift(points, map, off[k]);
                    points = MarkEdges.Measured(edges[k], k, glimpse, map, off[k], false);
                }

                if (points.Count < edges[k].Length * 0.4) return MarkReading.Refused(Smudged(all[k]), [.. Found(all, map, off)]);
                seen.AddRange(points);
            }

            map = fit.To(seen, map);
            if (!map.IsFinite) return MarkReading.Refused(Wrong);
            Array.Clear(off);
            if (round == 0 && by == SeenBy.Scanner && Distorted(map, marks) is { } not) return MarkReading.Refused(not);
        }

        for (var k = 0; k < all.Length; k++)
        {
            var kept = seen.Where(p => p.Mark == k && fit.IsKept(p)).ToList();
            if (kept.Count < edges[k].Length * 0.45 || !MarkEdges.Hold(kept, edges[k])) return MarkReading.Refused(Smudged(all[k]), [.. Found(all, map, off)]);
            off[k] = MapFit.Shift(kept, map, default, fit.Spread);
        }

        var (residual, uncertain) = (fit.Residual, fit.Uncertain(Corners(marks)));
        var found = Found(all, map, off);
        if (Distorted(map, marks) is { } distorted && by == SeenBy.Scanner) return MarkReading.Refused(distorted, [.. found]);
        if (residual > MostResidual || off.Any(o => o.Norm > 2 * MostResidual))
            return MarkReading.Refused(string.Create(CultureInfo.InvariantCulture,
                $"The marks don't fit each other: they are {Math.Max(residual, off.Max(o => o.Norm)):0.00} mm off; "
                + $"the sheet is not flat, or of another print."),
                [.. found]);
        if (by == SeenBy.Camera && marks.Kind == MarkKind.Brackets && uncertain > MostUncertainOfThree)
            return MarkReading.Refused("Three brackets show too little of how the camera was tilted, and the edges of the sheet are not seen: "
                + "lay it on something darker, or scan it.", [.. found]);
        if (uncertain > MostUncertain)
            return MarkReading.Refused(string.Create(CultureInfo.InvariantCulture,
                $"From this picture the sheet is only known to {uncertain:0.0} mm; take it from straight above and nearer, or scan it."), [.. found]);
        return new([.. found], map, residual, uncertain, null) { SpreadMm = fit.Spread, PxPerMm = glimpses[0].PxPerMm };
    }

    private const string Wrong = "What looks like marks does not make a sheet; look whether the whole sheet is in the picture.";

    private static IEnumerable<FoundMark> Found(ImmutableArray<Mark> all, Projective map, Point[] off) =>
        all.Select((m, k) => new FoundMark(m.Id, map.Apply(m.At) + off[k]));

    /// <summary>What is said of a sheet that lies another way round; null where it lies as it should.</summary>
    private static string? Lies(double turn) => Math.Abs(turn) switch
    {
        <= MostTurn => null,
        > 180 - MostTurn => "The sheet lies upside down; turn it by half.",
        > 90 - MostTurn and < 90 + MostTurn => $"The sheet lies on its side; turn it by a quarter, {(turn > 0 ? "against the clock" : "with the clock")}.",
        _ => string.Create(CultureInfo.InvariantCulture, $"The sheet lies askew by {Math.Abs(turn):0}°; lay it straight."),
    };

    internal static string CutOff(Mark mark) =>
        $"The mark at the {Place(mark)} is missing: it would lie outside the picture. Take the whole sheet into it; "
        + "if it was printed off the sheet, print it again.";

    internal static string Smudged(Mark mark) => $"The mark at the {Place(mark)} is missing, smudged or covered; look at the sheet, and print it again.";

    private static string Place(Mark mark) => mark.Id.Replace("-second", "", StringComparison.Ordinal).Replace('-', ' ');

    /// <summary>What is said of a print that is not of true size; null where it is, or nearly.</summary>
    private static string? Distorted(Projective map, SheetMarks marks)
    {
        var near = map.Near(new(marks.Width.Mm / 2, marks.Height.Mm / 2));
        Point right = new(near.A, near.B), down = new(near.C, near.D);
        if (near.Determinant <= 0) return "The sheet is seen from behind; turn it over.";
        var skew = Math.Abs(right.Dot(down)) / (right.Norm * down.Norm);
        var stretch = Math.Max(Math.Abs(right.Norm - 1), Math.Abs(down.Norm - 1));
        return skew > MostSkew ? "What looks like marks is skewed as no printer prints; look whether something printed was taken for a mark."
            : stretch > MostStretch ? string.Create(CultureInfo.InvariantCulture,
                $"The sheet is printed at {right.Norm:0.0 %} across and {down.Norm:0.0 %} down; print it again with scaling off.")
            : null;
    }
}
