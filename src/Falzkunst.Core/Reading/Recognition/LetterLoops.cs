namespace Falzkunst.Core.Reading.Recognition;

/// <summary>
/// Tells loops in drawn lettering (the o of a single-line font) from outlines of paper. They belong to many open strokes of the same look, and hardly any of
/// them
/// has a stroke inside, as a card has its folds.
/// </summary>
internal static class LetterLoops
{
    private const int FewestStrokes = 5;
    private const double MostHolding = 0.1;

    // As deep inside as a tenth of its smaller side: a stem that leans on its bowl is not in it.
    private const double Deep = 0.1;

    /// <summary>Whether the closed paths of a look are loops among its open ones. Costs about n log n in them where strokes lie spread out.</summary>
    public static bool Are(IReadOnlyList<VectorPath> closed, IReadOnlyList<VectorPath> open)
    {
        if (open.Count < FewestStrokes || open.Count < closed.Count) return false;
        var grid = new BoxGrid<VectorPath>(20);
        foreach (var o in open) grid.Add(o.Bounds, o);
        var holding = 0;
        foreach (var loop in closed)
        {
            var depth = Deep * Math.Min(loop.Bounds.Width, loop.Bounds.Height);
            if (grid.Touching(loop.Bounds).Any(o => HasDeepInside(loop, o, depth)) && ++holding > closed.Count * MostHolding) return false;
        }

        return true;
    }

    private static bool HasDeepInside(VectorPath loop, VectorPath stroke, double depth)
    {
        var points = stroke.Rings[0];
        for (var i = 1; i < points.Count; i++)
        {
            var middle = (points[i - 1] + points[i]) * 0.5;
            if (loop.Encloses(middle) && loop.DistanceTo(middle) > depth) return true;
        }

        return false;
    }
}
