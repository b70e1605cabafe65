using System.Buffers;

namespace Falzkunst.Core.Shapes;

/// <summary>
/// The edges of some rings, sorted by their left ends, so that the pairs whose boxes touch are found by a sweep: n log n plus the pairs for outlines
/// as they occur, n² at worst. Edge i of a ring runs from its point i to the next. The arrays are borrowed, and longer than there are edges, since many small
/// outlines are looked at one after another; disposing gives them back.
/// </summary>
internal sealed class EdgeSweep : IDisposable
{
    private const int Many = 1000;

    // In the order of the left ends.
    private readonly int[] _order;
    private readonly double[] _left;
    private EdgeStrips? _level, _upright;

    private EdgeSweep(int n)
    {
        Count = n;
        A = ArrayPool<Point>.Shared.Rent(n);
        B = ArrayPool<Point>.Shared.Rent(n);
        Next = ArrayPool<int>.Shared.Rent(n);
        _order = ArrayPool<int>.Shared.Rent(n);
        _left = ArrayPool<double>.Shared.Rent(n);
    }

    /// <summary>The diagonals of boxes, to find which of them touch; none follows another.</summary>
    public EdgeSweep(IReadOnlyList<Box> boxes)
        : this(boxes.Count)
    {
        for (var i = 0; i < boxes.Count; i++)
            (A[i], B[i], Next[i], _order[i], _left[i]) = (new(boxes[i].Left, boxes[i].Top), new(boxes[i].Right, boxes[i].Bottom), i, i, boxes[i].Left);
        Array.Sort(_left, _order, 0, Count);
    }

    public EdgeSweep(IReadOnlyList<List<Point>> rings)
        : this(rings.Sum(r => r.Count))
    {
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

        Array.Sort(_left, _order, 0, Count);
    }

    public int Count { get; }

    public Point[] A { get; }

    public Point[] B { get; }

    /// <summary>The edge that follows in the same ring.</summary>
    public int[] Next { get; }

    /// <summary>Visits the pairs whose boxes touch, neighbours too, until the visitor says false. True when all were visited.</summary>
    public bool VisitPairs(Func<int, int, bool> visit)
    {
        Steps.Count(Count * 10L);
        if (Count > Many) return VisitInStrips(visit);
        for (var p = 0; p < Count; p++)
        {
            var i = _order[p];
            var right = Math.Max(A[i].X, B[i].X);
            var (top, bottom) = UpDown(i);
            var q = p + 1;
            for (; q < Count && _left[q] <= right; q++)
            {
                var j = _order[q];
                double y = A[j].Y, z = B[j].Y;
                if ((y > bottom && z > bottom) || (y < top && z < top)) continue;
                if (!visit(i, j)) return false;
            }

            Steps.Count(q - p);
        }

        return true;
    }

    private (double Top, double Bottom) UpDown(int i) => A[i].Y < B[i].Y ? (A[i].Y, B[i].Y) : (B[i].Y, A[i].Y);

    /// <summary>Strips of all edges, in the order of their left ends.</summary>
    public EdgeStrips Strips(bool level) => level ? _level ??= Make(true) : _upright ??= Make(false);

    private EdgeStrips Make(bool level) => new(A.AsSpan(0, Count), B.AsSpan(0, Count), _order.AsSpan(0, Count), level);

    /// <summary>The same, strip by strip: where there are very many edges, most that are level with one another are far above or below.</summary>
    private bool VisitInStrips(Func<int, int, bool> visit)
    {
        var strips = Strips(true);
        for (var s = 0; s < strips.Count; s++)
        {
            var members = strips[s];
            for (var p = 0; p < members.Length; p++)
            {
                var i = members[p];
                var right = Math.Max(A[i].X, B[i].X);
                var (top, bottom) = UpDown(i);
                var looked = 0;
                foreach (var j in members[(p + 1)..])
                {
                    looked++;
                    if (Math.Min(A[j].X, B[j].X) > right) break;
                    var (first, last) = UpDown(j);
                    // Two that share several strips meet in the first of these.
                    if (first > bottom || last < top || strips.At(Math.Max(top, first)) != s) continue;
                    if (!visit(i, j)) return false;
                }

                Steps.Count(looked);
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
