using Falzkunst.Core.Regions;

namespace Falzkunst.Core.Strength;

/// <summary>One connected part of an outline with its holes, and questions to it: is a point inside, what of its edge is nearest?</summary>
internal sealed class Body
{
    private readonly Boundary _edge;
    private readonly WindingIndex _inside;

    /// <param name="area">One outer ring, and its holes.</param>
    /// <param name="step">Chords of its edge are no longer than this, in mm.</param>
    public Body(VectorPath area, double step)
    {
        (Area, Bounds, AreaMm2) = (area, area.Bounds, area.SignedAreaMm2);
        _edge = new(area, step, 2 * step);
        _inside = new([.. Enumerable.Range(0, area.Subpaths.Length).Select(r => _edge.From[_edge.Rings[r].._edge.Rings[r + 1]].ToList())]);
    }

    public VectorPath Area { get; }

    public Box Bounds { get; }

    public double AreaMm2 { get; }

    /// <summary>Points along its edge, no farther from each other than was asked for.</summary>
    public ReadOnlySpan<Point> Points => _edge.From;

    /// <summary>The bodies of an outline, the largest first; their rings are the outline's own.</summary>
    public static IReadOnlyList<VectorPath> Of(VectorPath outline) => outline.Subpaths.Length < 2 ? [outline] : Region.Parts(outline, FillRule.EvenOdd);

    public bool Encloses(Point p) => Bounds.Holds(p) && _inside.At(p) != 0;

    /// <summary>The place of its edge nearest to a point, nearer than a distance, and the direction from its paper outwards there, of length 1.</summary>
    public bool Nearest(Point to, double within, out Point place, out Point outwards)
    {
        var found = _edge.Nearest(to, within, -1, -1, out var edge, out place);
        var way = found ? _edge.Way(edge) : default;
        outwards = new(way.Y, -way.X);
        return found;
    }
}
