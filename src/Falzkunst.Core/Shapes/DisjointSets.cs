namespace Falzkunst.Core.Shapes;

/// <summary>
/// The numbers from 0 as sets that are joined one by one; the smallest number of a set stands for it (Tarjan 1975, by path halving). Nearly constant time a
/// question.
/// </summary>
public sealed class DisjointSets
{
    private readonly int[] _parent;

    public DisjointSets(int count)
    {
        _parent = new int[count];
        for (var i = 0; i < count; i++) _parent[i] = i;
    }

    /// <summary>The smallest number of the set that <paramref name="i"/> is in.</summary>
    public int Of(int i)
    {
        while (_parent[i] != i) i = _parent[i] = _parent[_parent[i]];
        return i;
    }

    public void Join(int a, int b)
    {
        (a, b) = (Of(a), Of(b));
        _parent[Math.Max(a, b)] = Math.Min(a, b);
    }

    /// <summary>The sets, each from small to large, in the order of their first.</summary>
    public IEnumerable<IGrouping<int, int>> Sets() => Enumerable.Range(0, _parent.Length).GroupBy(Of);
}
