namespace Falzkunst.Core.Runs;

/// <summary>The doors of all lines of a <see cref="Tour"/> on a square grid.</summary>
internal sealed class DoorGrid
{
    private readonly Point[][] _doors;
    private readonly Box _box;
    private readonly double _cell;
    private readonly int _wide, _high;
    private readonly List<(int Line, int Door)>[] _cells;

    public DoorGrid(Point[][] doors)
    {
        _doors = doors;
        _box = doors.SelectMany(d => d).Aggregate(Box.Empty, (b, p) => b.With(p));
        var count = doors.Sum(d => d.Length);
        // Two doors in a cell, more or less; a row of them is no plane.
        _cell = Math.Max(1e-6, Math.Max(Math.Sqrt(_box.Area * 2 / count), Math.Max(_box.Width, _box.Height) * 2 / count));
        (_wide, _high) = ((int)(_box.Width / _cell) + 1, (int)(_box.Height / _cell) + 1);
        _cells = new List<(int, int)>[_wide * _high];
        for (var line = 0; line < doors.Length; line++)
            for (var door = 0; door < doors[line].Length; door++)
                (_cells[IndexOf(doors[line][door])] ??= []).Add((line, door));
    }

    private int IndexOf(Point p) => Math.Clamp((int)((p.Y - _box.Top) / _cell), 0, _high - 1) * _wide
        + Math.Clamp((int)((p.X - _box.Left) / _cell), 0, _wide - 1);

    /// <summary>The door nearest to a point; its line is gone from the grid then.</summary>
    public (int Line, int Door) Take(Point at)
    {
        (int Line, int Door) best = (-1, 0);
        var least = double.PositiveInfinity;
        for (var ring = 0; best.Line < 0 || (ring - 1) * _cell < least; ring++)
            foreach (var cell in Ring(at, ring))
                foreach (var (line, door) in cell)
                    if (_doors[line][door].DistanceTo(at) is var d && d < least) (best, least) = ((line, door), d);
        foreach (var p in _doors[best.Line]) _cells[IndexOf(p)].RemoveAll(c => c.Line == best.Line);
        return best;
    }

    /// <summary>Of each line the lines that are nearest to some of its doors, the nearest first.</summary>
    public (int Line, double Far)[][] Neighbours(int most)
    {
        const int Asked = 4;
        var all = new (int, double)[_doors.Length][];
        var found = new Dictionary<int, double>();
        for (var line = 0; line < all.Length; line++)
        {
            found.Clear();
            var doors = _doors[line];
            for (var k = 0; k < Math.Min(Asked, doors.Length); k++)
            {
                var at = doors[k * doors.Length / Math.Min(Asked, doors.Length)];
                var (seen, far) = (0, _wide + _high);
                for (var ring = 0; ring <= far; ring++)
                {
                    foreach (var cell in Ring(at, ring))
                        foreach (var (other, door) in cell)
                        {
                            if (other == line) continue;
                            var d = _doors[other][door].DistanceTo(at);
                            if (!found.TryGetValue(other, out var known)) seen++;
                            else if (known <= d) continue;
                            found[other] = d;
                        }

                    // One ring more, since a corner of the ring is farther than the next ring's side.
                    if (seen >= most && far > ring + 1) far = ring + 1;
                }
            }

            all[line] = [.. found.OrderBy(f => f.Value).ThenBy(f => f.Key).Take(most * (_doors[line].Length > 2 ? 2 : 1) + 3)
                .Select(f => (f.Key, f.Value))];
        }

        return all;
    }

    /// <summary>The cells at so many steps from that of a point.</summary>
    private IEnumerable<List<(int Line, int Door)>> Ring(Point at, int ring)
    {
        int x = (int)Math.Floor((at.X - _box.Left) / _cell), y = (int)Math.Floor((at.Y - _box.Top) / _cell);
        for (var j = Math.Max(0, y - ring); j <= Math.Min(_high - 1, y + ring); j++)
        {
            var step = Math.Abs(j - y) == ring ? 1 : Math.Max(1, 2 * ring);
            for (var i = x - ring; i <= x + ring; i += step)
                if (i >= 0 && i < _wide && _cells[j * _wide + i] is { Count: > 0 } cell) yield return cell;
        }
    }
}
