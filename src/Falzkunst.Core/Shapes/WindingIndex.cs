namespace Falzkunst.Core.Shapes;

/// <summary>
/// Winding numbers of many points about the same rings (Sunday 2001). The edges are kept in strips across the longer side of the rings, so that each question
/// looks only at the edges in one strip: as many as cross it, instead of all.
/// </summary>
public sealed class WindingIndex
{
    private const int MostStrips = 1 << 16;

    private readonly bool _upright;
    private readonly double _from, _perStrip;
    private readonly List<(Point A, Point B)>[] _strips;

    /// <summary>Costs the edges, each once for every strip that it runs through.</summary>
    public WindingIndex(IReadOnlyList<List<Point>> rings)
    {
        var box = Box.Empty;
        var n = 0;
        foreach (var ring in rings)
        {
            foreach (var p in ring) box = box.With(p);
            n += ring.Count;
        }

        // Rays run across the longer side, so that strips are many and edges in each are few.
        _upright = box.Width > box.Height;
        (_from, var length) = _upright ? (box.Left, box.Width) : (box.Top, box.Height);
        _strips = new List<(Point, Point)>[Math.Clamp(n / 4, 1, MostStrips)];
        _perStrip = Math.Max(length, 1e-12) / _strips.Length;
        foreach (var ring in rings)
        {
            for (int i = 0, j = ring.Count - 1; i < ring.Count; j = i++)
            {
                Point a = Turned(ring[j]), b = Turned(ring[i]);
                for (var s = Strip(Math.Min(a.Y, b.Y)); s <= Strip(Math.Max(a.Y, b.Y)); s++) (_strips[s] ??= []).Add((a, b));
            }
        }
    }

    /// <summary>How often the rings run round the point, clockwise on the screen counting up; of no meaning for a point on an edge.</summary>
    public int At(Point p)
    {
        p = Turned(p);
        var winding = 0;
        foreach (var (a, b) in _strips[Strip(p.Y)] ?? [])
        {
            if (a.Y <= p.Y == b.Y <= p.Y) continue;
            var side = (b - a).Cross(p - a);
            if (a.Y <= p.Y && side > 0) winding++;
            else if (a.Y > p.Y && side < 0) winding--;
        }

        // Turned, what ran clockwise runs the other way.
        return _upright ? -winding : winding;
    }

    private Point Turned(Point p) => _upright ? new(p.Y, p.X) : p;

    private int Strip(double y) => (int)Math.Clamp((y - _from) / _perStrip, 0, _strips.Length - 1);
}
