using Falzkunst.Core.Cards;

namespace Falzkunst.Core.Reading.Recognition;

/// <summary>Finds folds that were drawn as many little strokes: at least four of one look on one straight line, with small gaps.</summary>
internal static class StrokeRows
{
    private const int Fewest = 4;
    private const double OffLineMm = 0.15;

    public sealed record Row(List<int> Members, VectorPath Joined);

    /// <summary>
    /// Groups the strokes that are shorter than <paramref name="longest"/>. Strokes are put in buckets by the line they lie on (direction and
    /// distance from the origin), then walked along it; a gap longer than two and a half strokes ends a row. About n log n.
    /// </summary>
    public static List<Row> Find(IReadOnlyList<(VectorPath Path, string Look)> lines, Length longest)
    {
        var strokes = new List<Stroke>();
        for (var i = 0; i < lines.Count; i++)
        {
            var (path, look) = lines[i];
            if (path.Subpaths.Length != 1 || path.Subpaths[0].Closed || path.Bounds.Width > longest.Mm || path.Bounds.Height > longest.Mm) continue;
            var points = path.Rings[0];
            Point a = points[0], b = points[^1];
            var length = a.DistanceTo(b);
            if (length < 0.05 || length > longest.Mm || points.Any(p => p.DistanceToSegment(a, b) > 0.05)) continue;
            if (a.X > b.X + 1e-9 || (Math.Abs(a.X - b.X) <= 1e-9 && a.Y > b.Y)) (a, b) = (b, a);
            strokes.Add(new(i, look, a, b, length));
        }

        var rows = new List<Row>();
        var taken = new HashSet<int>();
        foreach (var look in strokes.GroupBy(s => s.Look, StringComparer.Ordinal))
        {
            // A direction within 2° and a common line; the longest strokes tell the direction best, so they lead.
            var rest = look.OrderByDescending(s => s.Length).ThenBy(s => s.Index).ToList();
            if (rest.Count < Fewest) continue;
            var buckets = rest.GroupBy(s => (int)Math.Round(Math.Atan2(s.B.Y - s.A.Y, s.B.X - s.A.X) / Math.PI * 90)).ToList();
            foreach (var bucket in buckets.Where(b => b.Count() >= Fewest))
            {
                var pool = bucket.ToList();
                var leader = pool[0];
                var along = (leader.B - leader.A) * (1 / leader.Length);
                var byOffset = pool.OrderBy(s => along.Cross((s.A + s.B) * 0.5)).ToList();
                for (var i = 0; i < byOffset.Count;)
                {
                    var from = i;
                    var first = along.Cross((byOffset[i].A + byOffset[i].B) * 0.5);
                    while (i < byOffset.Count && along.Cross((byOffset[i].A + byOffset[i].B) * 0.5) - first <= 2 * OffLineMm) i++;
                    if (i - from >= Fewest) AddRows(byOffset.GetRange(from, i - from), along, taken, rows);
                }
            }
        }

        return rows;
    }

    private static void AddRows(List<Stroke> onLine, Point along, HashSet<int> taken, List<Row> rows)
    {
        var sorted = onLine.Where(s => !taken.Contains(s.Index)).OrderBy(s => along.Dot(s.A)).ToList();
        var row = new List<Stroke>();
        foreach (var s in sorted)
        {
            if (row.Count > 0)
            {
                var gap = along.Dot(s.A) - along.Dot(row[^1].B);
                var mean = row.Average(r => r.Length);
                if (gap > 2.5 * Math.Max(mean, s.Length) || gap < -0.1)
                {
                    Emit();
                    row = [];
                }
            }

            row.Add(s);
        }

        Emit();

        void Emit()
        {
            if (row.Count < Fewest) return;
            var joined = VectorPath.Polyline(row[0].A, row[^1].B);
            if (!Folds.IsStraight(joined, out _, out _)) return;
            foreach (var s in row) taken.Add(s.Index);
            rows.Add(new([.. row.Select(s => s.Index)], joined));
        }
    }

    private sealed record Stroke(int Index, string Look, Point A, Point B, double Length);
}
