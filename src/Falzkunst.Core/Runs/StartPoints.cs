namespace Falzkunst.Core.Runs;

/// <summary>
/// Where closed lines that are cut may begin: away from their corners, since the paper is torn most easily there, and a tool comes down and up where it
/// begins.
/// </summary>
internal static class StartPoints
{
    /// <summary>So far from the next corner along the line, in mm, is far enough; where nothing is, what is farthest is taken.</summary>
    private const double FarMm = 2;

    /// <summary>A turn by more than this is a corner; in radians.</summary>
    private const double Corner = 0.35;

    /// <summary>The same line, with a place to begin at in the middle of each longer segment, unless it has no corners.</summary>
    public static VectorPath With(VectorPath path) => path.Subpaths.All(s => !s.Closed || !Corners(s).Contains(true)) ? path
        : new([.. path.Subpaths.Select(s => s.Closed ? Halved(s) : s)]);

    private static Subpath Halved(Subpath line)
    {
        var segments = ImmutableArray.CreateBuilder<Segment>(2 * line.Segments.Length + 2);
        var from = line.Start;
        foreach (var s in line.Segments) Add(s);
        if (from.DistanceTo(line.Start) > Tolerances.Same) Add(Segment.Line(line.Start));
        return line with { Segments = segments.ToImmutable() };

        void Add(Segment s)
        {
            if (from.DistanceTo(s.End) < FarMm)
            {
                segments.Add(s);
            }
            else if (!s.IsCurve)
            {
                segments.Add(Segment.Line(from + (s.End - from) * 0.5));
                segments.Add(s);
            }
            else
            {
                var whole = new Cubic(from, s.C1, s.C2, s.End);
                foreach (var half in new[] { whole.Between(0, 0.5), whole.Between(0.5, 1) }) segments.Add(Segment.Cubic(half.C1, half.C2, half.To));
            }

            from = s.End;
        }
    }

    /// <summary>The places where a closed line may begin: −1 is its start, otherwise the end of that segment. At least one.</summary>
    public static int[] Of(Subpath line)
    {
        var corners = Corners(line);
        var n = corners.Length;
        if (n == 0 || !corners.Contains(true)) return [.. Enumerable.Range(-1, Math.Max(1, n))];
        // How far it is from each place back to the last corner and on to the next: twice around, so that the first corner counts for those before it.
        var far = new double[n];
        Array.Fill(far, double.PositiveInfinity);
        foreach (var onward in new[] { true, false })
        {
            var since = double.PositiveInfinity;
            for (var step = 0; step < 2 * n; step++)
            {
                var k = onward ? step % n : n - 1 - step % n;
                far[k] = Math.Min(far[k], since = corners[k] ? 0 : since);
                since += Place(line, k).DistanceTo(Place(line, (k + (onward ? 1 : n - 1)) % n));
            }
        }

        var enough = Math.Min(FarMm, far.Max() * 0.99);
        return [.. Enumerable.Range(0, n).Where(k => far[k] >= enough).Select(k => k - 1)];
    }

    /// <summary>The place with a number from 0: the start, then the ends of the segments; a last segment that comes back to the start makes none.</summary>
    private static Point Place(Subpath line, int k) => k == 0 ? line.Start : line.Segments[k - 1].End;

    private static bool[] Corners(Subpath line)
    {
        var count = line.Segments.Length + (line.End.DistanceTo(line.Start) > Tolerances.Same ? 1 : 0);
        var corners = new bool[count];
        for (var k = 0; k < count; k++)
        {
            Point before = Leg((k + count - 1) % count).End, after = Leg(k).Start;
            corners[k] = Math.Abs(Math.Atan2(before.Cross(after), before.Dot(after))) > Corner;
        }

        return corners;

        // The ways in which the segment behind a place starts, and ends.
        (Point Start, Point End) Leg(int k)
        {
            var from = Place(line, k);
            if (k >= line.Segments.Length) return (line.Start - from, line.Start - from);
            var s = line.Segments[k];
            if (!s.IsCurve) return (s.End - from, s.End - from);
            var cubic = new Cubic(from, s.C1, s.C2, s.End);
            return (cubic.StartWay, cubic.EndWay);
        }
    }
}
