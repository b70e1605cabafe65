using Falzkunst.Core.Cards;
using Falzkunst.Core.Files;

namespace Falzkunst.Core.Reading.Recognition;

/// <summary>
/// Finds folds that were drawn as many little strokes: at least four of one look on one straight line, with small gaps, equal or not. A shorter row goes with
/// one on the same line, as where a window lies between.
/// </summary>
internal static class StrokeRows
{
    private const int Fewest = 4, FewestBeside = 2;
    private const double OffLineMm = 0.15, GapOfStroke = 2.5, ParallelWithin = 0.12;
    private static readonly Length Longest = Length.FromMm(12);

    /// <param name="Members">Their indices, from one end to the other.</param>
    public sealed record Row(List<int> Members, VectorPath Joined);

    /// <summary>
    /// Strokes of a row take each other for the next one ahead on their line, or the one behind. About n log n where strokes lie spread out; where they lie
    /// densely, only so many neighbours are looked at.
    /// </summary>
    public static List<Row> Find(IReadOnlyList<(VectorPath Path, string Look)> lines, ReadingWork work)
    {
        var strokes = new List<Stroke>();
        for (var i = 0; i < lines.Count; i++)
            if (Short(i, lines[i].Path, lines[i].Look) is { } stroke) strokes.Add(stroke);
        var corners = Corners(lines);
        strokes.RemoveAll(s => IsSide(s, corners));
        var (rows, byLook) = (new List<Row>(), lines.Select((l, i) => (l.Path, l.Look, Index: i)).ToLookup(l => l.Look, StringComparer.Ordinal));
        foreach (var look in strokes.GroupBy(s => s.Look, StringComparer.Ordinal))
        {
            work.Go();
            var members = look.ToList();
            if (members.Count < Fewest) continue;
            var near = new BoxGrid<int>(20);
            foreach (var line in byLook[look.Key]) near.Add(line.Path.Bounds, line.Index);
            rows.AddRange(WithShortOnes(Chains(members, work)).Where(r => !AreParts(r, lines, near, work)));
        }

        return [.. rows.OrderBy(r => r.Members.Min())];
    }

    /// <summary>Whether a half of the strokes or more end on other lines of their look: they are the bars of letters, or rungs, and no strokes of a
    /// fold.</summary>
    /// <param name="near">The lines of their look.</param>
    private static bool AreParts(Row row, IReadOnlyList<(VectorPath Path, string Look)> lines, BoxGrid<int> near, ReadingWork work)
    {
        var own = row.Members.ToHashSet();
        var others = near.Touching(row.Joined.Bounds.Grown(Tolerances.Closes)).Distinct().Where(i => !own.Contains(i)).ToList();
        if (others.Count == 0) return false;
        work.Go();
        return row.Members.Count(m => others.Exists(o => Meets(lines[m].Path.Rings[0][0], o) || Meets(lines[m].Path.Rings[0][^1], o))) * 2 >= row.Members.Count;

        bool Meets(Point p, int other) => lines[other].Path.DistanceTo(p) <= Tolerances.Closes;
    }

    /// <summary>How many lines of a look end at a place, on a grid of what closes.</summary>
    private static Dictionary<(string Look, long X, long Y), int> Corners(IReadOnlyList<(VectorPath Path, string Look)> lines)
    {
        var corners = new Dictionary<(string, long, long), int>();
        foreach (var (path, look) in lines)
            foreach (var sub in path.Subpaths.Where(s => !s.Closed))
                foreach (var p in (ReadOnlySpan<Point>)[sub.Start, sub.End])
                    corners[Cell(look, p)] = corners.GetValueOrDefault(Cell(look, p)) + 1;
        return corners;
    }

    /// <summary>Whether other lines begin at both ends of a stroke: then it is a side of something, and no stroke of a row.</summary>
    private static bool IsSide(Stroke s, Dictionary<(string Look, long X, long Y), int> corners)
    {
        return Meets(s.A) && Meets(s.B);

        bool Meets(Point p)
        {
            var (_, x, y) = Cell(s.Look, p);
            var ends = 0;
            for (var k = 0; k < 9; k++) ends += corners.GetValueOrDefault((s.Look, x + k % 3 - 1, y + k / 3 - 1));
            return ends > 1;
        }
    }

    private static (string Look, long X, long Y) Cell(string look, Point p) =>
        (look, (long)Math.Floor(p.X / Tolerances.Closes), (long)Math.Floor(p.Y / Tolerances.Closes));

    private static Stroke? Short(int index, VectorPath path, string look)
    {
        if (path.Subpaths.Length != 1 || path.Subpaths[0].Closed || path.Bounds.Width > Longest.Mm || path.Bounds.Height > Longest.Mm) return null;
        var points = path.Rings[0];
        Point a = points[0], b = points[^1];
        var length = a.DistanceTo(b);
        if (length < 0.05 || length > Longest.Mm || points.Any(p => p.DistanceToSegment(a, b) > 0.05)) return null;
        // From left to right, or down.
        if (a.X > b.X + 1e-6 || (Math.Abs(a.X - b.X) <= 1e-6 && a.Y > b.Y)) (a, b) = (b, a);
        return new(index, look, a, b, length);
    }

    private static List<List<Stroke>> Chains(List<Stroke> strokes, ReadingWork work)
    {
        const int MostNeighbours = 200;
        var ends = new BoxGrid<(int Stroke, bool IsStart)>(4);
        for (var i = 0; i < strokes.Count; i++)
        {
            ends.Add(new(strokes[i].A.X, strokes[i].A.Y, strokes[i].A.X, strokes[i].A.Y), (i, true));
            ends.Add(new(strokes[i].B.X, strokes[i].B.Y, strokes[i].B.X, strokes[i].B.Y), (i, false));
        }

        var usual = strokes.Select(s => s.Length).Order().ElementAt(strokes.Count / 2);
        // The next one beyond the end of each, and the one before its start.
        int[] ahead = new int[strokes.Count], behind = new int[strokes.Count];
        for (var i = 0; i < strokes.Count; i++)
        {
            work.Go();
            var s = strokes[i];
            var along = (s.B - s.A) * (1 / s.Length);
            (ahead[i], behind[i]) = (Next(i, s.B, along), Next(i, s.A, along * -1));
        }

        var sets = new DisjointSets(strokes.Count);
        for (var i = 0; i < strokes.Count; i++)
            foreach (var next in (ReadOnlySpan<int>)[ahead[i], behind[i]])
                if (next >= 0 && (ahead[next] == i || behind[next] == i)) sets.Join(i, next);
        return [.. sets.Sets().Select(c => c.Select(i => strokes[i]).ToList()).Where(c => c.Count >= FewestBeside)];

        int Next(int i, Point end, Point along)
        {
            var s = strokes[i];
            var reach = GapOfStroke * Math.Max(s.Length, usual);
            var (best, nearest, left) = (-1, double.PositiveInfinity, MostNeighbours);
            foreach (var (j, isStart) in ends.Touching(Around(end, Math.Max(reach, 1))))
            {
                if (--left < 0) break;
                if (j == i) continue;
                var o = strokes[j];
                var (near, far) = isStart ? (o.A, o.B) : (o.B, o.A);
                var gap = along.Dot(near - end);
                if (gap < -0.1 || gap > GapOfStroke * Math.Max(Math.Max(s.Length, o.Length), usual) || gap >= nearest) continue;
                if (along.Dot(far - end) < gap || Math.Abs(along.Cross((far - near) * (1 / o.Length))) > ParallelWithin) continue;
                if (Math.Abs(along.Cross(near - end)) > OffLineMm || Math.Abs(along.Cross(far - end)) > OffLineMm + ParallelWithin * o.Length) continue;
                (best, nearest) = (j, gap);
            }

            return best;
        }
    }

    /// <summary>The rows that are long enough, and the shorter ones in line with them.</summary>
    private static IEnumerable<Row> WithShortOnes(List<List<Stroke>> chains)
    {
        const int MostRows = 200;
        var straight = chains.Select(c => (Row: new Row([.. c.Select(s => s.Index)], Joined(c) ?? VectorPath.Empty), c.Count)).Where(c => !c.Row.Joined.IsEmpty)
            .ToList();
        var rows = straight.Where(c => c.Count >= Fewest).Select(c => c.Row).ToList();
        if (rows.Count > MostRows) return rows;
        return [.. rows, .. straight.Where(c => c.Count < Fewest && rows.Exists(r => InLine(r.Joined.Subpaths[0], c.Row.Joined.Subpaths[0]))).Select(c =>
            c.Row)];
    }

    /// <summary>Whether the other lies on the line of a row, no farther off than that is long.</summary>
    private static bool InLine(Subpath row, Subpath other)
    {
        var length = row.Start.DistanceTo(row.End);
        var along = (row.End - row.Start) * (1 / length);
        return On(other.Start) && On(other.End);

        bool On(Point p) => Math.Abs(along.Cross(p - row.Start)) < OffLineMm && along.Dot(p - row.Start) > -length && along.Dot(p - row.Start) < 2 * length;
    }

    /// <summary>From its first end to its last; null where they do not lie on one straight line.</summary>
    private static VectorPath? Joined(List<Stroke> chain)
    {
        var longest = chain.MaxBy(s => s.Length)!;
        var along = longest.B - longest.A;
        var ends = chain.SelectMany(s => new[] { s.A, s.B }).ToList();
        Point a = ends.MinBy(p => along.Dot(p)), b = ends.MaxBy(p => along.Dot(p));
        return ends.TrueForAll(p => p.DistanceToSegment(a, b) <= OffLineMm) ? VectorPath.Polyline(a, b) : null;
    }

    private static Box Around(Point p, double by) => new(p.X - by, p.Y - by, p.X + by, p.Y + by);

    private sealed record Stroke(int Index, string Look, Point A, Point B, double Length);
}
