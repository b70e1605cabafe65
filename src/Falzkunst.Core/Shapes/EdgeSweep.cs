namespace Falzkunst.Core.Shapes;

/// <summary>
/// The edges of some rings, sorted by their left ends, so that the pairs whose boxes touch are found by a sweep: n log n plus the pairs for outlines
/// as they occur, n² at worst. Edge i of a ring runs from its point i to the next.
/// </summary>
internal sealed class EdgeSweep
{
    private readonly int[] _order;
    private readonly double[] _left, _right, _top, _bottom;

    public EdgeSweep(IReadOnlyList<List<Point>> rings)
    {
        var n = 0;
        foreach (var r in rings) n += r.Count;
        A = new Point[n];
        B = new Point[n];
        Next = new int[n];
        _order = new int[n];
        _left = new double[n];
        _right = new double[n];
        _top = new double[n];
        _bottom = new double[n];
        var at = 0;
        foreach (var ring in rings)
        {
            var first = at;
            for (var i = 0; i < ring.Count; i++, at++)
            {
                Point a = ring[i], b = i + 1 < ring.Count ? ring[i + 1] : ring[0];
                (A[at], B[at], _order[at]) = (a, b, at);
                Next[at] = i + 1 < ring.Count ? at + 1 : first;
                (_left[at], _right[at]) = a.X < b.X ? (a.X, b.X) : (b.X, a.X);
                (_top[at], _bottom[at]) = a.Y < b.Y ? (a.Y, b.Y) : (b.Y, a.Y);
            }
        }

        Array.Sort((double[])_left.Clone(), _order);
    }

    public int Count => A.Length;

    public Point[] A { get; }

    public Point[] B { get; }

    /// <summary>The edge that follows in the same ring.</summary>
    public int[] Next { get; }

    /// <summary>Visits the pairs whose boxes touch, neighbours too, until the visitor says false. True when all were visited.</summary>
    public bool VisitPairs(Func<int, int, bool> visit)
    {
        for (var p = 0; p < _order.Length; p++)
        {
            var i = _order[p];
            double right = _right[i], top = _top[i], bottom = _bottom[i];
            for (var q = p + 1; q < _order.Length; q++)
            {
                var j = _order[q];
                if (_left[j] > right) break;
                if (_top[j] > bottom || _bottom[j] < top) continue;
                if (!visit(i, j)) return false;
            }
        }

        return true;
    }
}
