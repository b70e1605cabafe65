using Falzkunst.Core.Cards;

namespace Falzkunst.Core.Runs;

/// <summary>Where foil is taped to a sheet: rectangles that cover all lines with a margin for the tape around, as few as are useful.</summary>
public static class FoilPatches
{
    /// <summary>Foil is taped down outside of the lines, by so much on each side.</summary>
    public static readonly Length Margin = Length.FromMm(8);

    /// <summary>Where two pieces lie beside one another, because there is none for both, the tape has at least so much of each.</summary>
    public static readonly Length LeastMargin = Length.FromMm(3);

    /// <summary>Two patches become one while that takes no more than so much more foil than both: it is worth the time to tape one more.</summary>
    private const double Worth = 1.25;

    /// <summary>And so much more foil, in mm², is worth a patch less in any case.</summary>
    private const double WorthMm2 = 600;

    /// <summary>How densely lines are looked at, in mm.</summary>
    private const double LookMm = 0.25;

    /// <summary>What of some lines reaches beyond all of some patches: which lines, by their index, and how long it is. Linear in the length of the
    /// lines.</summary>
    public static (ImmutableArray<int> Lines, Length Long) Outside(ImmutableArray<VectorPath> lines, IReadOnlyList<Box> patches)
    {
        var (outside, mm) = (ImmutableArray.CreateBuilder<int>(), 0.0);
        for (var i = 0; i < lines.Length; i++)
        {
            var before = mm;
            foreach (var line in lines[i].Subpaths)
            {
                var points = line.Walk();
                for (var k = 1; k < points.Count; k++)
                {
                    var (from, way) = (points[k - 1], points[k] - points[k - 1]);
                    var looks = Math.Max(1, (int)Math.Ceiling(way.Norm / LookMm));
                    for (var n = 0; n < looks; n++)
                    {
                        var at = from + way * ((n + 0.5) / looks);
                        if (!patches.Any(p => p.Holds(at))) mm += way.Norm / looks;
                    }
                }
            }

            if (mm > before) outside.Add(i);
        }

        return (outside.ToImmutable(), Length.FromMm(mm));
    }

    /// <summary>The patches of a sheet, the lowest on the mat first: those can be peeled without unloading. Cost: cubic in what lies apart.</summary>
    /// <param name="foils">The pieces of foil at hand: patches that can be cut from one never become one that can't. Empty where nobody knows.</param>
    public static ImmutableArray<Box> For(IEnumerable<VectorPath> lines, SheetSize sheet, params IReadOnlyList<SheetSize> foils)
    {
        Box Taped(Box p) => new(Math.Max(0, p.Left), Math.Max(0, p.Top), Math.Min(sheet.Width.Mm, p.Right), Math.Min(sheet.Height.Mm, p.Bottom));
        bool IsThere(Box patch) => foils.Count == 0 || FoilNeed.Of([Taped(patch)], foils).TooLarge == 0;
        // Those that overlap are one, which leaves few of many lines.
        List<Box> patches = [.. Groups([.. lines.Select(l => l.Bounds)], Margin.Mm)
            .SelectMany(g => g.Bounds.Grown(Margin.Mm) is var whole && IsThere(whole) ? [whole] : Divided(g.Lines))];

        while (patches.Count > 1)
        {
            var (best, first, second) = (0.0, -1, -1);
            for (var i = 0; i < patches.Count; i++)
                for (var k = i + 1; k < patches.Count; k++)
                {
                    var more = patches[i].With(patches[k]).Area - patches[i].Area - patches[k].Area;
                    var gain = Math.Max((Worth - 1) * (patches[i].Area + patches[k].Area), WorthMm2) - more;
                    if (gain > best && MayJoin(i, k)) (best, first, second) = (gain, i, k);
                }

            if (first < 0) break;
            patches[first] = patches[first].With(patches[second]);
            patches.RemoveAt(second);
        }

        // Beyond the sheet there is nothing to tape it to.
        return [.. patches.Select(Taped).OrderByDescending(p => p.Bottom).ThenBy(p => p.Left)];

        // There is such a piece, and it does not come to lie on a third.
        bool MayJoin(int i, int k) => foils.Count == 0 || (patches[i].With(patches[k]) is var both && IsThere(both)
            && !patches.Where((p, n) => n != i && n != k).Any(p => p.Grown(-Tolerances.Same).Touches(both)));
    }

    /// <summary>Lines by their bounds, in groups whose boxes lie apart, also when each has a margin.</summary>
    private static List<(Box Bounds, List<Box> Lines)> Groups(List<Box> lines, double margin)
    {
        var groups = lines.ConvertAll(l => (Bounds: l, Lines: new List<Box> { l }));
        // A box around some may reach another that touched none of them.
        for (var before = int.MaxValue; groups.Count < before;)
        {
            before = groups.Count;
            groups = BoxGroups.Touching(groups.ConvertAll(g => g.Bounds.Grown(margin))).ConvertAll(g =>
                (g.Aggregate(Box.Empty, (b, i) => b.With(groups[i].Bounds)), g.SelectMany(i => groups[i].Lines).ToList()));
        }

        return groups;
    }

    /// <summary>
    /// The patches of lines that there is no single piece of foil for: as many as lie apart when each has no more than <see cref="LeastMargin"/>. Those
    /// that lie beside one another share what is between them.
    /// </summary>
    private static List<Box> Divided(List<Box> lines)
    {
        var bare = Groups(lines, LeastMargin.Mm).ConvertAll(g => g.Bounds);
        var patches = bare.ConvertAll(b => b.Grown(Margin.Mm));
        for (var i = 0; i < bare.Count; i++)
            for (var k = i + 1; k < bare.Count; k++)
                if (patches[i].Touches(patches[k]))
                    (patches[i], patches[k]) = Apart(patches[i], patches[k], bare[i], bare[k]);
        return patches;
    }

    /// <summary>Two patches that overlap in their margins, cut in the middle of the wider gap between their lines.</summary>
    private static (Box A, Box B) Apart(Box a, Box b, Box linesA, Box linesB)
    {
        var across = Math.Max(linesB.Left - linesA.Right, linesA.Left - linesB.Right);
        var down = Math.Max(linesB.Top - linesA.Bottom, linesA.Top - linesB.Bottom);
        if (across >= down)
        {
            if (linesA.Left > linesB.Left) return Swapped(Apart(b, a, linesB, linesA));
            var x = (linesA.Right + linesB.Left) / 2;
            return (a with { Right = Math.Min(a.Right, x) }, b with { Left = Math.Max(b.Left, x) });
        }

        if (linesA.Top > linesB.Top) return Swapped(Apart(b, a, linesB, linesA));
        var y = (linesA.Bottom + linesB.Top) / 2;
        return (a with { Bottom = Math.Min(a.Bottom, y) }, b with { Top = Math.Max(b.Top, y) });

        static (Box A, Box B) Swapped((Box A, Box B) p) => (p.B, p.A);
    }
}
