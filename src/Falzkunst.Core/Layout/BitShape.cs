using System.Numerics;

namespace Falzkunst.Core.Layout;

/// <summary>
/// An area as the cells of a square grid that it touches: a cell is set when any part of the area lies in it, so two areas whose cells are disjoint
/// are themselves disjoint. Rows of 64-bit words. <see cref="Left"/> and <see cref="Top"/> are the cell of the first bit, relative to the shape's origin.
/// </summary>
internal sealed class BitShape
{
    private BitShape(int left, int top, int rows, int words)
    {
        (Left, Top, Rows, Words) = (left, top, rows, words);
        Bits = new ulong[rows * words];
    }

    public int Left { get; }

    public int Top { get; }

    public int Rows { get; }

    public int Words { get; }

    public ulong[] Bits { get; }

    /// <summary>
    /// Sets the cells that the rings (even-odd) touch: those that an edge passes, found row by row, and those whose middle lies inside.
    /// Linear in the edges times the rows each spans, plus the cells.
    /// </summary>
    public static BitShape Of(IReadOnlyList<List<Point>> rings, double cell)
    {
        var box = Box.Empty;
        foreach (var ring in rings)
            foreach (var p in ring) box = box.With(p);
        if (box.IsEmpty) return new(0, 0, 0, 0);
        // Slightly outward, so that an edge on a grid line does not fall out by rounding; a cell touched only there costs nothing but room.
        const double Skin = 1e-7;
        int left = Floor(box.Left / cell + Skin), right = Floor(box.Right / cell - Skin), top = Floor(box.Top / cell + Skin),
            bottom = Floor(box.Bottom / cell - Skin);
        var shape = new BitShape(left, top, bottom - top + 1, (right - left) / 64 + 1);
        var crossings = new List<double>[shape.Rows];
        for (var r = 0; r < crossings.Length; r++) crossings[r] = [];
        foreach (var ring in rings)
        {
            for (int i = 0, j = ring.Count - 1; i < ring.Count; j = i++)
            {
                Point a = ring[j], b = ring[i];
                if (a.Y > b.Y) (a, b) = (b, a);
                int r0 = Math.Clamp(Floor(a.Y / cell + Skin) - top, 0, shape.Rows - 1), r1 = Math.Clamp(Floor(b.Y / cell - Skin) - top, 0, shape.Rows - 1);
                for (var r = r0; r <= r1; r++)
                {
                    double y0 = Math.Max(a.Y, (r + top) * cell), y1 = Math.Min(b.Y, (r + top + 1) * cell);
                    double x0 = X(a, b, y0), x1 = X(a, b, y1);
                    if (a.Y == b.Y) (x0, x1) = (a.X, b.X);
                    if (x0 > x1) (x0, x1) = (x1, x0);
                    shape.Set(r, Floor(x0 / cell + Skin) - left, Floor(x1 / cell - Skin) - left);
                    var middle = (r + top + 0.5) * cell;
                    if (a.Y <= middle && b.Y > middle) crossings[r].Add(X(a, b, middle));
                }
            }
        }

        for (var r = 0; r < shape.Rows; r++)
        {
            var row = crossings[r];
            row.Sort();
            for (var i = 0; i + 1 < row.Count; i += 2)
                shape.Set(r, (int)Math.Ceiling(row[i] / cell - 0.5) - left, Floor(row[i + 1] / cell - 0.5) - left);
        }

        return shape;
    }

    /// <summary>An empty sheet of so many cells.</summary>
    public static BitShape Blank(int columns, int rows) => new(0, 0, rows, (columns + 63) / 64 + 1);

    /// <summary>
    /// By how many cells the shape, with its origin at cell (x, y) of this sheet, has to move to the right until it may be free: 0 where it
    /// hits no set cell. Every place in between hits: a run of the shape's cells that covers a set cell covers it until its left end has
    /// passed. What lies outside of the sheet hits nothing.
    /// </summary>
    /// <param name="hint">A row of the shape that hit last time; tried first, and set to the row that hits.</param>
    /// <param name="work">Counts the words looked at.</param>
    public int Hits(BitShape shape, int x, int y, ref int hint, ref long work)
    {
        var step = HitsRow(shape, hint, x, y, ref work);
        for (var r = 0; step == 0 && r < shape.Rows; r++)
        {
            if (r == hint) continue;
            step = HitsRow(shape, r, x, y, ref work);
            if (step > 0) hint = r;
        }

        return step;
    }

    private int HitsRow(BitShape shape, int row, int x, int y, ref long work)
    {
        var sheetRow = y + shape.Top + row;
        if ((uint)sheetRow >= (uint)Rows) return 0;
        var start = x + shape.Left;
        int word = start >> 6, shift = start & 63;
        var mine = Bits.AsSpan(sheetRow * Words, Words);
        var its = shape.Bits.AsSpan(row * shape.Words, shape.Words);
        work += its.Length;
        for (var w = 0; w < its.Length; w++, word++)
        {
            var v = its[w];
            if (v == 0) continue;
            // Of the shape's cells in this word, those that hit.
            var hit = (uint)word < (uint)mine.Length ? mine[word] >> shift & v : 0;
            if (shift != 0 && (uint)(word + 1) < (uint)mine.Length) hit |= mine[word + 1] << (64 - shift) & v;
            if (hit != 0) return FromLeftEnd(its, w, 63 - BitOperations.LeadingZeroCount(hit));
        }

        return 0;
    }

    /// <summary>How many cells there are from the left end of the run that a set cell lies in to that cell, both counted.</summary>
    private static int FromLeftEnd(ReadOnlySpan<ulong> row, int word, int bit)
    {
        var gaps = ~row[word] & ((1UL << bit) - 1);
        if (gaps != 0) return bit - (63 - BitOperations.LeadingZeroCount(gaps));
        var cells = bit + 1;
        while (--word >= 0)
        {
            gaps = ~row[word];
            if (gaps != 0) return cells + BitOperations.LeadingZeroCount(gaps);
            cells += 64;
        }

        return cells;
    }

    /// <summary>Sets the shape's cells, with its origin at cell (x, y); what lies outside is left out.</summary>
    public void Add(BitShape shape, int x, int y)
    {
        for (var r = 0; r < shape.Rows; r++)
        {
            var sheetRow = y + shape.Top + r;
            if ((uint)sheetRow >= (uint)Rows) continue;
            var start = x + shape.Left;
            int word = start >> 6, shift = start & 63;
            for (var w = 0; w < shape.Words; w++, word++)
            {
                var v = shape.Bits[r * shape.Words + w];
                if ((uint)word < (uint)Words) Bits[sheetRow * Words + word] |= v << shift;
                if (shift != 0 && (uint)(word + 1) < (uint)Words) Bits[sheetRow * Words + word + 1] |= v >> (64 - shift);
            }
        }
    }

    /// <summary>Whether a cell of this sheet is set.</summary>
    public bool Has(int x, int y) => (Bits[y * Words + (x >> 6)] >> (x & 63) & 1) != 0;

    public bool SameAs(BitShape other) => Left == other.Left && Top == other.Top && Rows == other.Rows && Words == other.Words
        && Bits.AsSpan().SequenceEqual(other.Bits);

    private static double X(Point a, Point b, double y) => a.Y == b.Y ? a.X : a.X + (b.X - a.X) * (y - a.Y) / (b.Y - a.Y);

    private static int Floor(double v) => (int)Math.Floor(v);

    private void Set(int row, int from, int to)
    {
        from = Math.Clamp(from, 0, Words * 64 - 1);
        to = Math.Clamp(to, from - 1, Words * 64 - 1);
        for (var i = from; i <= to;)
        {
            // Whole words at once where the run covers them.
            if ((i & 63) == 0 && i + 63 <= to)
            {
                Bits[row * Words + (i >> 6)] = ulong.MaxValue;
                i += 64;
            }
            else
            {
                Bits[row * Words + (i >> 6)] |= 1UL << (i & 63);
                i++;
            }
        }
    }
}
