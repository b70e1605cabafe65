using System.Runtime.InteropServices;

namespace Falzkunst.Core.Shapes;

/// <summary>
/// A growing index of boxes on a square grid: which boxes may touch this one? Adding and asking cost the cells that a box covers;
/// a box over more than 1024 cells is kept apart and always asked.
/// </summary>
public sealed class BoxGrid<T>(double cellMm)
{
    private readonly Dictionary<(int, int), List<(Box Box, T Item)>> _cells = [];
    private readonly List<(Box Box, T Item)> _large = [];

    public void Add(Box box, T item)
    {
        var (l, t, r, b) = Cells(box);
        if ((long)(r - l + 1) * (b - t + 1) > 1024)
        {
            _large.Add((box, item));
            return;
        }

        for (var x = l; x <= r; x++)
        {
            for (var y = t; y <= b; y++)
            {
                (CollectionsMarshal.GetValueRefOrAddDefault(_cells, (x, y), out _) ??= []).Add((box, item));
            }
        }
    }

    /// <summary>The items whose boxes touch; one that covers several cells may come several times.</summary>
    public IEnumerable<T> Touching(Box box)
    {
        Steps.Count(_large.Count);
        foreach (var (other, item) in _large)
            if (other.Touches(box)) yield return item;
        var (l, t, r, b) = Cells(box);
        if ((long)(r - l + 1) * (b - t + 1) > _cells.Count)
        {
            foreach (var list in _cells.Values)
            {
                Steps.Count(list.Count);
                foreach (var (other, item) in list)
                    if (other.Touches(box)) yield return item;
            }

            yield break;
        }

        for (var x = l; x <= r; x++)
        {
            for (var y = t; y <= b; y++)
            {
                Steps.Count(1);
                if (!_cells.TryGetValue((x, y), out var list)) continue;
                Steps.Count(list.Count);
                foreach (var (other, item) in list)
                    if (other.Touches(box)) yield return item;
            }
        }
    }

    private (int L, int T, int R, int B) Cells(Box b) => (Cell(b.Left), Cell(b.Top), Cell(b.Right), Cell(b.Bottom));

    private int Cell(double v) => (int)Math.Clamp(Math.Floor(v / cellMm), -1e8, 1e8);
}

/// <summary>What lies together.</summary>
internal static class BoxGroups
{
    /// <summary>The numbers of boxes that touch one another, directly or by way of others, in the order of their first. Costs the grid's questions.</summary>
    public static List<List<int>> Touching(IReadOnlyList<Box> boxes)
    {
        if (boxes.Count == 0) return [];
        var grid = new BoxGrid<int>(Math.Max(1e-3, boxes.Average(b => Math.Max(b.Width, b.Height))));
        var sets = new DisjointSets(boxes.Count);
        for (var i = 0; i < boxes.Count; i++)
        {
            foreach (var j in grid.Touching(boxes[i])) sets.Join(i, j);
            grid.Add(boxes[i], i);
        }

        return [.. sets.Sets().Select(g => g.ToList())];
    }
}
