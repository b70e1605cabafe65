namespace Falzkunst.Core.Cards;

/// <summary>How a straight open line lies across its piece: how far its ends stop short of the piece's edge along its own direction, and how long it
/// is.</summary>
public sealed record FoldSpan(Length ShortAtStart, Length ShortAtEnd, Length Length)
{
    public Length MostShort => ShortAtStart > ShortAtEnd ? ShortAtStart : ShortAtEnd;

    public Length LeastShort => ShortAtStart < ShortAtEnd ? ShortAtStart : ShortAtEnd;
}

/// <summary>Tells folds by their shape.</summary>
public static class Folds
{
    /// <summary>A fold stops this far from the edge unless the settings say otherwise, so that the paper does not tear there.</summary>
    public static readonly Length DefaultSetback = Length.FromMm(1.5);

    /// <summary>A line that stops no farther from the edges than this reaches them.</summary>
    public static readonly Length Reaches = Length.FromMm(3);

    /// <summary>Whether an open line is straight: nowhere farther from its chord than 0.2 mm or 0.4 % of its length.</summary>
    public static bool IsStraight(VectorPath path, out Point from, out Point to)
    {
        from = to = default;
        if (path.Subpaths.Length != 1 || path.Subpaths[0].Closed) return false;
        var points = path.Rings[0];
        (from, to) = (points[0], points[^1]);
        var allowed = Math.Max(0.2, 0.004 * from.DistanceTo(to));
        foreach (var p in points)
            if (p.DistanceToSegment(from, to) > allowed) return false;
        return from.DistanceTo(to) > 1;
    }

    /// <summary>
    /// How the line spans the paper that an outline encloses, both in the same coordinates; null when it is not straight, runs along the edge instead of
    /// across, or is shorter than half of the way across.
    /// </summary>
    public static FoldSpan? SpanOf(VectorPath line, VectorPath paper)
    {
        if (!IsStraight(line, out var a, out var b)) return null;
        var length = a.DistanceTo(b);
        var along = (b - a) * (1 / length);
        var middle = (a + b) * 0.5;
        // A fold has paper on both sides; a line along the edge is something else.
        if (!paper.Encloses(middle) || paper.DistanceTo(middle) < Math.Min(1, length / 20)) return null;
        double back = Exit(paper, middle, along * -1), on = Exit(paper, middle, along);
        if (back + on < 10 || length < 0.5 * (back + on)) return null;
        return new(Length.FromMm(Math.Max(0, back - length / 2)), Length.FromMm(Math.Max(0, on - length / 2)), Length.FromMm(length));
    }

    /// <summary>Whether the line goes straight across the paper, from edge to edge or nearly so, as a fold does.</summary>
    public static bool Spans(VectorPath line, VectorPath paper) => SpanOf(line, paper) is { } span && span.MostShort <= Reaches;

    /// <summary>Whether the line goes nearly across: its ends stop short of the edges by no more than 12 % of its length, at most 15 mm. Cut, it would leave
    /// the piece hanging by little.</summary>
    public static bool NearlySpans(FoldSpan span) => span.MostShort.Mm <= Math.Min(15, Math.Max(Reaches.Mm, 0.12 * span.Length.Mm));

    /// <summary>The stretches of a straight line that lie in the paper of an outline, as distances along it from its start. Linear in the outline's
    /// points.</summary>
    public static IReadOnlyList<(double From, double To)> Inside(VectorPath paper, Point a, Point b)
    {
        var length = a.DistanceTo(b);
        var line = b - a;
        var at = new List<double> { 0, length };
        foreach (var t in Meets(paper, a, line))
            if (t is > 0 and < 1) at.Add(t * length);
        at.Sort();
        var inside = new List<(double From, double To)>();
        for (var i = 1; i < at.Count; i++)
        {
            // Along an edge is not inside.
            var middle = a + line * ((at[i] + at[i - 1]) / 2 / length);
            if (at[i] - at[i - 1] < 1e-6 || !paper.Encloses(middle) || paper.DistanceTo(middle) < Math.Min(0.05,
                (at[i] - at[i - 1]) / 4)) continue;
            if (inside.Count > 0 && at[i - 1] - inside[^1].To < 1e-6) inside[^1] = (inside[^1].From, at[i]);
            else inside.Add((at[i - 1], at[i]));
        }

        return inside;
    }

    /// <summary>Where the straight way from a point meets edges, in steps of so much; what runs along the way meets it nowhere.</summary>
    private static IEnumerable<double> Meets(VectorPath paper, Point from, Point step)
    {
        foreach (var ring in paper.Rings)
        {
            for (int i = 0, j = ring.Count - 1; i < ring.Count; j = i++)
            {
                var edge = ring[i] - ring[j];
                var d = step.Cross(edge);
                if (Math.Abs(d) < 1e-12) continue;
                var w = ring[j] - from;
                if (w.Cross(step) / d is >= -1e-9 and <= 1 + 1e-9) yield return w.Cross(edge) / d;
            }
        }
    }

    private const double AtCorner = 0.05;

    /// <summary>How far from a point inside to the first edge in a direction.</summary>
    private static double Exit(VectorPath paper, Point from, Point direction)
    {
        var best = double.PositiveInfinity;
        foreach (var t in Meets(paper, from, direction))
            if (t > 1e-9) best = Math.Min(best, t);
        // A corner on the way is an edge, too: behind it the way may run on along a wall, as of a box.
        foreach (var corner in paper.Rings.SelectMany(r => r).Select(p => p - from))
            if (Math.Abs(direction.Cross(corner)) <= AtCorner && direction.Dot(corner) is > 1e-9 and var at) best = Math.Min(best, at);
        return double.IsFinite(best) ? best : 0;
    }

    /// <summary>The straight line, made shorter so that it stops <paramref name="setback"/> from the piece's edge at both ends.</summary>
    public static VectorPath SetBack(VectorPath line, VectorPath paper, Length setback)
    {
        if (!IsStraight(line, out var a, out var b) || SpanOf(line, paper) is not { } span) return line;
        var along = (b - a) * (1 / a.DistanceTo(b));
        var start = a + along * Math.Max(0, setback.Mm - SignedShort(paper, a, along, span.ShortAtStart.Mm));
        var end = b - along * Math.Max(0, setback.Mm - SignedShort(paper, b, along * -1, span.ShortAtEnd.Mm));
        return VectorPath.Polyline(start, end);
    }

    /// <summary>Negative where the end sticks out of the piece.</summary>
    private static double SignedShort(VectorPath paper, Point end, Point inward, double shortMm)
    {
        if (paper.Encloses(end)) return shortMm;
        var inside = end + inward * 5;
        return paper.Encloses(inside) ? Exit(paper, inside, inward * -1) - 5 : 0;
    }
}
