using Falzkunst.Core.Cards;

namespace Falzkunst.Core.Runs;

/// <summary>Where foil is taped to a sheet: rectangles that cover all lines with a margin for the tape around, as few as are useful.</summary>
public static class FoilPatches
{
    /// <summary>Foil is taped down outside of the lines, by so much on each side.</summary>
    public static readonly Length Margin = Length.FromMm(8);

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
        List<Box> boxes = [.. lines.Select(l => l.Bounds.Grown(Margin.Mm))];
        // Those that overlap are one, which leaves few of many lines.
        var patches = BoxGroups.Touching(boxes).ConvertAll(g => g.Aggregate(Box.Empty, (b, i) => b.With(boxes[i])));

        while (patches.Count > 1)
        {
            var (best, first, second) = (0.0, -1, -1);
            for (var i = 0; i < patches.Count; i++)
                for (var k = i + 1; k < patches.Count; k++)
                {
                    var more = patches[i].With(patches[k]).Area - patches[i].Area - patches[k].Area;
                    var gain = Math.Max((Worth - 1) * (patches[i].Area + patches[k].Area), WorthMm2) - more;
                    if (gain > best && (IsThere(patches[i].With(patches[k])) || !IsThere(patches[i]) || !IsThere(patches[k])))
                        (best, first, second) = (gain, i, k);
                }

            if (first < 0) break;
            patches[first] = patches[first].With(patches[second]);
            patches.RemoveAt(second);
        }

        // Beyond the sheet there is nothing to tape it to.
        return [.. patches.Select(Taped).OrderByDescending(p => p.Bottom).ThenBy(p => p.Left)];
    }
}
