namespace Falzkunst.Core.Shapes;

/// <summary>
/// Edges in strips of one height (or width), each edge in all strips that it runs through, so that those near a line are found without looking at all. As many
/// strips as edges allow that are no longer than one strip on average, so that an edge lies in one or two. Linear in the edges.
/// </summary>
internal sealed class EdgeStrips
{
    private readonly double _low, _perStrip;
    private readonly int[] _starts, _members;

    /// <param name="order">Numbers of all edges; those in a strip have the same order.</param>
    /// <param name="level">Strips across the screen; otherwise from top to bottom.</param>
    public EdgeStrips(ReadOnlySpan<Point> a, ReadOnlySpan<Point> b, ReadOnlySpan<int> order, bool level)
    {
        const int mostStrips = 1 << 15, fewest = 32;
        double low = double.PositiveInfinity, high = double.NegativeInfinity, heights = 0;
        for (var i = 0; i < a.Length; i++)
        {
            var (top, bottom) = Reach(a[i], b[i], level);
            (low, high, heights) = (Math.Min(low, top), Math.Max(high, bottom), heights + bottom - top);
        }

        Count = (int)Math.Clamp(Math.Min((double)a.Length / fewest, (high - low) / Math.Max(2 * heights / a.Length, 1e-9)), 1, mostStrips);
        (_low, _perStrip) = (low, Math.Max((high - low) / Count, 1e-12));
        _starts = new int[Count + 1];
        for (var i = 0; i < a.Length; i++)
        {
            var (top, bottom) = Reach(a[i], b[i], level);
            for (int s = At(top), last = At(bottom); s <= last; s++) _starts[s + 1]++;
        }

        for (var s = 0; s < Count; s++) _starts[s + 1] += _starts[s];
        var at = _starts[..^1];
        _members = new int[_starts[^1]];
        foreach (var i in order)
        {
            var (top, bottom) = Reach(a[i], b[i], level);
            for (int s = At(top), last = At(bottom); s <= last; s++) _members[at[s]++] = i;
        }
    }

    public int Count { get; }

    /// <summary>The strip that holds a height.</summary>
    public int At(double y) => (int)Math.Clamp((y - _low) / _perStrip, 0, Count - 1);

    /// <summary>The edges that run through a strip.</summary>
    public ReadOnlySpan<int> this[int strip] => _members.AsSpan(_starts[strip], _starts[strip + 1] - _starts[strip]);

    private static (double Low, double High) Reach(Point a, Point b, bool level)
    {
        double p = level ? a.Y : a.X, q = level ? b.Y : b.X;
        return p < q ? (p, q) : (q, p);
    }
}
