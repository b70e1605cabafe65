using System.Buffers;

namespace Falzkunst.Core.Shapes;

/// <summary>
/// The edges of some rings, sorted by their left ends, so that the pairs whose boxes touch are found by a sweep: n log n plus the pairs for outlines
/// as they occur, n² at worst. Edge i of a ring runs from its point i to the next. The arrays are borrowed, and longer than there are edges, since many small
/// outlines are looked at one after another; disposing gives them back.
/// </summary>
internal sealed class EdgeSweep : IDisposable
{
    // In the order of the left ends.
    private readonly int[] _order;
    private readonly double[] _left;

    public EdgeSweep(IReadOnlyList<List<Point>> rings)
    {
        var n = 0;
        foreach (var r in rings) n += r.Count;
        Count = n;
        A = ArrayPool<Point>.Shared.Rent(n);
        B = ArrayPool<Point>.Shared.Rent(n);
        Next = ArrayPool<int>.Shared.Rent(n);
        _order = ArrayPool<int>.Shared.Rent(n);
        _left = ArrayPool<double>.Shared.Rent(n);
        var at = 0;
        foreach (var ring in rings)
        {
            var first = at;
            for (var i = 0; i < ring.Count; i++, at++)
            {
                Point a = ring[i], b = i + 1 < ring.Count ? ring[i + 1] : ring[0];
                (A[at], B[at], _order[at], _left[at]) = (a, b, at, Math.Min(a.X, b.X));
                Next[at] = i + 1 < ring.Count ? at + 1 : first;
            }
        }

        Array.Sort(_left, _order, 0, n);
    }

    public int Count { get; }

    public Point[] A { get; }

    public Point[] B { get; }

    /// <summary>The edge that follows in the same ring.</summary>
    public int[] Next { get; }

    /// <summary>Visits the pairs whose boxes touch, neighbours too, until the visitor says false. True when all were visited.</summary>
    public bool VisitPairs(Func<int, int, bool> visit)
    {
        for (var p = 0; p < Count; p++)
        {
            var i = _order[p];
            var right = Math.Max(A[i].X, B[i].X);
            var (top, bottom) = A[i].Y < B[i].Y ? (A[i].Y, B[i].Y) : (B[i].Y, A[i].Y);
            for (var q = p + 1; q < Count && _left[q] <= right; q++)
            {
                var j = _order[q];
                double y = A[j].Y, z = B[j].Y;
                if ((y > bottom && z > bottom) || (y < top && z < top)) continue;
                if (!visit(i, j)) return false;
            }
        }

        return true;
    }

    public void Dispose()
    {
        ArrayPool<Point>.Shared.Return(A);
        ArrayPool<Point>.Shared.Return(B);
        ArrayPool<int>.Shared.Return(Next);
        ArrayPool<int>.Shared.Return(_order);
        ArrayPool<double>.Shared.Return(_left);
    }
}
