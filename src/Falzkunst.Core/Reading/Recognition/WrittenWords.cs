using Falzkunst.Core.Files;

namespace Falzkunst.Core.Reading.Recognition;

/// <summary>
/// Finds what was written in single strokes: strokes of one look and about one size that stand close together in a row, and are not all alike. An o, which
/// closes, belongs to its word; a row of equal slits does not, nor do little strokes on one straight line, which are a fold.
/// </summary>
internal static class WrittenWords
{
    private const int FewestStrokes = 4, FewestStraight = 10;
    private const long MostNeighbours = 100;
    private const double LargestMm = 25, ReachOfSize = 1.1, SpaceOfSize = 2;

    /// <summary>
    /// Joins strokes that are nearer to each other than about their size, and keeps the groups that look written. About n log n where strokes lie spread out.
    /// </summary>
    /// <returns>The indices of all strokes that are part of something written.</returns>
    public static HashSet<int> Find(IReadOnlyList<(VectorPath Path, string Look)> strokes, ReadingWork work)
    {
        var written = new HashSet<int>();
        var able = Enumerable.Range(0, strokes.Count).Where(i => Size(strokes[i].Path) is > 0.3 and <= LargestMm);
        foreach (var look in able.GroupBy(i => strokes[i].Look, StringComparer.Ordinal))
        {
            work.Go();
            var members = look.ToList();
            if (members.Count < FewestStrokes) continue;
            var group = Enumerable.Range(0, members.Count).ToArray();
            int Root(int i)
            {
                while (group[i] != i) i = group[i] = group[group[i]];
                return i;
            }

            var grid = new BoxGrid<int>(10);
            var left = MostNeighbours * members.Count;
            for (var i = 0; i < members.Count && left > 0; i++)
            {
                var (box, size) = (strokes[members[i]].Path.Bounds, Size(strokes[members[i]].Path));
                // Each is kept with its reach around it, so that only those are met that it reaches, or that reach it.
                var around = box.Grown(ReachOfSize * size);
                foreach (var j in grid.Touching(around))
                {
                    if (--left < 0) break;
                    var other = strokes[members[j]].Path.Bounds;
                    // Nearer than the larger one's size, which a space between two words is too.
                    if (Gap(box, other) <= ReachOfSize * Math.Max(size, Size(strokes[members[j]].Path))) group[Root(i)] = Root(j);
                }

                grid.Add(around, i);
            }

            // Nobody writes so densely.
            if (left <= 0) continue;

            foreach (var word in Enumerable.Range(0, members.Count).GroupBy(Root))
            {
                var paths = word.Select(i => strokes[members[i]].Path).ToList();
                if (LooksWritten(paths)) written.UnionWith(WithItsEnds(word, paths, i => strokes[members[i]].Path, grid).Select(i => members[i]));
            }
        }

        return written;
    }

    /// <summary>A word with what stands before and behind it, no farther than a wide space away and about of its size.</summary>
    private static HashSet<int> WithItsEnds(IEnumerable<int> word, List<VectorPath> paths, Func<int, VectorPath> pathOf, BoxGrid<int> grid)
    {
        var all = word.ToHashSet();
        var usual = paths.Select(Size).Order().ElementAt(paths.Count / 2);
        var bounds = paths.Aggregate(Box.Empty, (b, p) => b.With(p.Bounds));
        for (var grew = true; grew;)
        {
            grew = false;
            foreach (var i in grid.Touching(bounds.Grown(SpaceOfSize * usual)).Distinct().ToList())
            {
                var path = pathOf(i);
                if (all.Contains(i) || Size(path) > 2.5 * usual || Gap(bounds, path.Bounds) > SpaceOfSize * usual) continue;
                all.Add(i);
                bounds = bounds.With(path.Bounds);
                grew = true;
            }
        }

        return all;
    }

    private static double Size(VectorPath path) => Math.Max(path.Bounds.Width, path.Bounds.Height);

    private static double Gap(Box a, Box b) =>
        Math.Max(Math.Max(a.Left - b.Right, b.Left - a.Right), Math.Max(Math.Max(a.Top - b.Bottom, b.Top - a.Bottom), 0));

    private static bool LooksWritten(List<VectorPath> strokes)
    {
        // Most letters do not close; where most do, they are shapes, or holes.
        if (strokes.Count < FewestStrokes || strokes.Count(s => s.IsClosed) > strokes.Count / 2) return false;
        // Few straight strokes alone are folds or slits.
        if (strokes.Count < FewestStraight && strokes.TrueForAll(s => s.Subpaths.All(t => t is { Closed: false, Segments.Length: 1 }
            && !t.Segments[0].IsCurve))) return false;
        var sizes = strokes.Select(Size).Order().ToList();
        var usual = sizes[sizes.Count / 2];
        if (strokes.Count(s => Size(s) >= usual / 3 && Size(s) <= usual * 3) < 0.8 * strokes.Count) return false;
        // Many of one form are a pattern.
        double InSizes(double mm) => Math.Round(mm / usual * 8);
        var forms = strokes.GroupBy(s => (InSizes(s.Bounds.Width), InSizes(s.Bounds.Height), InSizes(s.Length.Mm))).ToList();
        if (forms.Count < 3 || forms.Max(f => f.Count()) > 0.7 * strokes.Count) return false;
        // In a row: all of it, of a line; of more lines, each is as long as several letters.
        double width = strokes.Max(s => s.Bounds.Right) - strokes.Min(s => s.Bounds.Left), height = strokes.Max(s => s.Bounds.Bottom)
            - strokes.Min(s => s.Bounds.Top);
        return Math.Max(width, height) >= 2 * usual;
    }
}
