namespace Falzkunst.Core.Runs;

/// <summary>In which order pieces are set free, so that the paper holds for as long as something is still to be cut in it.</summary>
internal static class FreeingOrder
{
    /// <summary>A piece that is nowhere longer than this is small: it is cut while all around it still holds.</summary>
    private const double SmallMm = 20;

    /// <summary>A piece whose parts are narrower than this on the average tears when something beside it is cut, so it comes last.</summary>
    private const double WeakMm = 2.5;

    /// <summary>Small pieces come first, weak ones last. The mean width of a shape is twice its area over its perimeter (a long strip's is its own).</summary>
    public static int RankOf(VectorPath outline) =>
        2 * Math.Abs(outline.SignedAreaMm2) / Math.Max(1e-9, outline.Length.Mm) < WeakMm ? 2
        : Math.Max(outline.Bounds.Width, outline.Bounds.Height) <= SmallMm ? 0 : 1;

    /// <summary>For each outline in how many others it lies, in their holes. Outlines do not overlap. Cost: the pairs whose boxes do.</summary>
    public static int[] Nested(ImmutableArray<VectorPath> outlines)
    {
        var depth = new int[outlines.Length];
        var around = outlines.Select(o => o.Subpaths.Length > 1 ? o : null).ToList();
        for (var i = 0; i < outlines.Length; i++)
        {
            if (outlines[i].IsEmpty) continue;
            var (box, at) = (outlines[i].Bounds, outlines[i].Subpaths[0].Start);
            for (var k = 0; k < around.Count; k++)
                if (k != i && around[k] is { } other && other.Bounds.Width >= box.Width && other.Bounds.Height >= box.Height && other.Bounds.Holds(at)
                    && other.Rings.Any(r => Polygons.Winding(r, at) != 0)) depth[i]++;
        }

        return depth;
    }
}
