namespace Falzkunst.Core.Regions;

/// <summary>
/// Gives a ring of straight parts back as the curves that they stand for. A segment that is there as a whole comes out as the very same; one that is cut
/// comes out as its own stretch (de Casteljau), cut where the two curves truly meet, which is found from where their chords do (Newton). What stands for no
/// curve stays straight. Linear in the parts.
/// </summary>
internal static class KeptCurves
{
    private const int NoSegment = -1;

    /// <summary>Where curves meet at a small angle their chords may meet this far away.</summary>
    private const double FarthestMm = 0.5;

    /// <summary>A run of parts along one segment, from one of its parameters to another (backwards when the second is the smaller).</summary>
    private sealed class Run(int segment, double begin, int from)
    {
        public int Segment => segment;

        /// <summary>The vertex where it begins, unless that is a corner of its own segment.</summary>
        public int From => from;

        public double Begin { get; set; } = begin;

        public double End { get; set; }

        public bool IsWhole => Math.Min(Begin, End) == 0 && Math.Max(Begin, End) == 1;
    }

    /// <param name="parts">A closed ring, each part beginning where the one before ends; edge −1 for what stands for no curve.</param>
    public static Subpath Of(IReadOnlyList<Arrangement.Part> parts, Chords chords, Func<int, Point> at)
    {
        var runs = new List<Run>(parts.Count * 2);
        foreach (var part in parts)
        {
            if (part.First < 0)
            {
                runs.Add(new(NoSegment, 0.5, part.From) { End = 0.5 });
                continue;
            }

            for (int k = 0, n = part.Last - part.First; k <= n; k++)
            {
                var edge = part.IsBack ? part.Last - k : part.First + k;
                var stretch = chords[edge];
                var begin = edge == part.First && part.Begin > 0 ? Along(stretch, part.Begin) : stretch.From;
                var end = edge == part.Last && part.End < 1 ? Along(stretch, part.End) : stretch.To;
                if (part.IsBack) (begin, end) = (end, begin);
                if (runs.Count == 0 || !GoesOn(runs[^1], stretch.Segment, begin, end)) runs.Add(new(stretch.Segment, begin, k == 0 ? part.From : -1));
                runs[^1].End = end;
            }
        }

        // The ring may have been entered in the middle of a segment.
        if (runs.Count > 1 && GoesOn(runs[^1], runs[0].Segment, runs[0].Begin, runs[0].End))
        {
            runs[^1].End = runs[0].End;
            runs.RemoveAt(0);
        }

        var joints = new Point[runs.Count];
        for (var k = 0; k < runs.Count; k++) joints[k] = Joint(runs[(k + runs.Count - 1) % runs.Count], runs[k], chords, at);
        var segments = ImmutableArray.CreateBuilder<Segment>(runs.Count);
        for (var k = 0; k < runs.Count; k++)
        {
            var run = runs[k];
            Point from = joints[k], to = joints[(k + 1) % runs.Count];
            if (IsStraight(run, chords))
            {
                // The closing line needs no segment.
                if (k < runs.Count - 1) segments.Add(Segment.Line(to));
                continue;
            }

            var curve = chords.Curve(run.Segment);
            if (run.IsWhole)
            {
                segments.Add(run.Begin == 0 ? Segment.Cubic(curve.C1, curve.C2, to) : Segment.Cubic(curve.C2, curve.C1, to));
                continue;
            }

            var cut = curve.Between(run.Begin, run.End);
            segments.Add(Segment.Cubic(cut.C1 + (from - cut.From), cut.C2 + (to - cut.To), to));
        }

        return new(joints[0], segments.DrainToImmutable(), true);
    }

    private static double Along(Chords.Stretch s, double f) => s.From + (s.To - s.From) * f;

    /// <summary>Whether a part goes on along the run's segment, the same way, from where the run ends.</summary>
    private static bool GoesOn(Run run, int segment, double begin, double end) => run.Segment == segment && segment != NoSegment && run.End == begin
        && end > begin == run.End > run.Begin;

    private static bool IsStraight(Run run, Chords chords) => run.Segment == NoSegment || chords.IsStraight(run.Segment);

    /// <summary>Where one run gives over to the next: the corner that one of them ends at, or where both curves meet, near the place where their chords
    /// do.</summary>
    private static Point Joint(Run before, Run after, Chords chords, Func<int, Point> at)
    {
        if (before.Segment == NoSegment || after.Segment == NoSegment) return at(after.From);
        Cubic a = chords.Curve(before.Segment), b = chords.Curve(after.Segment);
        if (before.End == 1) return a.To;
        if (before.End == 0) return a.From;
        if (after.Begin == 0) return b.From;
        if (after.Begin == 1) return b.To;
        var near = at(after.From);
        if (IsStraight(before, chords) && IsStraight(after, chords)) return near;
        // From the same side whoever asks, so that two rings that meet here meet exactly.
        var swap = after.Segment < before.Segment;
        if (Meet(swap ? b : a, swap ? a : b, swap ? after.Begin : before.End, swap ? before.End : after.Begin) is not { } met) return near;
        var (s, t) = swap ? (met.T, met.S) : (met.S, met.T);
        // Not beyond the other end of either run, and not elsewhere.
        if (met.At.DistanceTo(near) > FarthestMm || before.End > before.Begin != s > before.Begin || after.End > after.Begin != after.End > t)
            return near;
        (before.End, after.Begin) = (s, t);
        return met.At;
    }

    /// <summary>Where two curves meet, beginning at their parameters where the chords do.</summary>
    private static (Point At, double S, double T)? Meet(Cubic a, Cubic b, double s0, double t0)
    {
        var (s, t) = (s0, t0);
        for (var round = 0; round < 8; round++)
        {
            Point off = b.At(t) - a.At(s), u = a.SpeedAt(s), v = b.SpeedAt(t);
            if (off.Norm < 1e-10) break;
            var cross = u.Cross(v);
            if (Math.Abs(cross) < 1e-9 * u.Norm * v.Norm) return null;
            s += off.Cross(v) / cross;
            t += off.Cross(u) / cross;
            if (s is not (> 0 and < 1) || t is not (> 0 and < 1)) return null;
        }

        Point p = a.At(s), q = b.At(t);
        if (p.DistanceTo(q) >= 1e-8) return null;
        // On the way there the curves come together; where they part first, that is another crossing.
        var gap = a.At(s0).DistanceTo(b.At(t0)) * 1.2 + 1e-5;
        for (var f = 0.125; f < 1; f += 0.125)
            if (a.At(s0 + (s - s0) * f).DistanceTo(b.At(t0 + (t - t0) * f)) > gap) return null;
        return (p, s, t);
    }
}
