namespace Falzkunst.Core.Runs;

/// <summary>What a tool did between going down and coming up: the pen number, and where it went, in mm on the sheet.</summary>
public sealed record DoneStroke(int Pen, ImmutableArray<Point> Points);

/// <summary>How what was done lies on what was planned, by place and not by order.</summary>
/// <param name="LargestDeviation">The farthest that anything that was done lies from what was planned for its pen.</param>
/// <param name="Missing">How many planned strokes were not done, or only in part.</param>
/// <param name="MissingLength">How long what is missing is.</param>
/// <param name="Twice">How many strokes were done, in more than a few mm, more often than planned.</param>
/// <param name="Strays">How many strokes were done that were planned nowhere near.</param>
public sealed record RunAgreement(Length LargestDeviation, int Missing, Length MissingLength, int Twice, int Strays)
{
    /// <summary>What lies no farther than this from a planned line is that line: ten steps of a usual plotter.</summary>
    public static readonly Length Reach = Length.FromMm(10 * Plotter.MmPerUnit);

    private const double StepMm = 0.5;

    public bool IsWhole => Missing == 0 && Twice == 0 && Strays == 0;

    /// <summary>
    /// Compares what was done with what was planned on a sheet. Each stroke is given to the planned one that it lies on best (of several, to one that is not
    /// done yet); then every planned stroke is walked, and what has nothing done beside it is missing. Places are looked at every half mm. Strokes times the
    /// chords of those whose boxes are near.
    /// </summary>
    public static RunAgreement Of(SheetRun sheet, IReadOnlyList<DoneStroke> done)
    {
        var (planned, strays, farthest) = Matched(sheet, done);
        var missing = planned.Select(p => p.MissingMm()).Where(mm => mm > 0).ToList();
        return new(Length.FromMm(farthest), missing.Count, Length.FromMm(missing.Sum()), planned.Count(p => p.IsOverdone()), strays);
    }

    /// <summary>What of a sheet is not done yet: whole strokes in all their passes, and parts of those that were broken off, each in the passes that it lacks,
    /// begun a little before where they end. Steps with nothing left are gone; the others keep their numbers.</summary>
    public static ImmutableArray<RunStep> Rest(SheetRun sheet, IReadOnlyList<DoneStroke> done)
    {
        var byStep = Matched(sheet, done).Planned.ToLookup(p => p.Step);
        var rest = ImmutableArray.CreateBuilder<RunStep>();
        foreach (var step in sheet.Steps)
        {
            var whole = byStep[step.Number].Where(p => p.Done.Count == 0).Select(p => new VectorPath([p.Path])).ToImmutableArray();
            if (!whole.IsEmpty) rest.Add(step with { Paths = whole });
            var broken = byStep[step.Number].Where(p => p.Done.Count > 0).SelectMany(p => p.Left()).ToImmutableArray();
            if (!broken.IsEmpty) rest.Add(step with { Paths = broken, Passes = 1, PassesTogether = false, Stop = whole.IsEmpty ? step.Stop : null });
        }

        return rest.ToImmutable();
    }

    /// <summary>Gives each stroke that was done to the planned one that it lies on best.</summary>
    private static (List<Planned> Planned, int Strays, double Farthest) Matched(SheetRun sheet, IReadOnlyList<DoneStroke> done)
    {
        var planned = sheet.Steps.SelectMany(s => s.Paths.SelectMany(p => p.Subpaths).Select(sub => new Planned(s, sub))).ToList();
        // How a knife came round to its heading is nobody's plan, but where it did is.
        var turnedIn = sheet.Steps.Where(s => s.TurnedInAt is not null).Select(s => (s.Pen, Room: s.Driven().TurnIn!
            .Aggregate(Box.Empty, (b, p) => b.With(p)).Grown(2 * s.Swivel.Mm + Reach.Mm))).ToList();
        double farthest = 0;
        var strays = 0;
        foreach (var byPen in planned.GroupBy(p => p.Pen))
        {
            var near = new BoxGrid<Planned>(20);
            foreach (var p in byPen) near.Add(p.Box, p);
            foreach (var stroke in done.Where(d => d.Pen == byPen.Key && d.Points.Length > 1))
            {
                var places = Places(stroke.Points);
                var box = stroke.Points.Aggregate(Box.Empty, (b, p) => b.With(p)).Grown(Reach.Mm);
                var best = Best(near.Touching(box));
                if ((best.Planned is null || best.Off > Reach.Mm) && turnedIn.Exists(t => t.Pen == stroke.Pen && stroke.Points.All(p => t.Room.Holds(p))))
                    continue;
                if (best.Planned is null || best.Off > Reach.Mm)
                {
                    strays++;
                    farthest = Math.Max(farthest, Best(byPen).Off);
                    continue;
                }

                farthest = Math.Max(farthest, best.Off);
                best.Planned.Done.Add(stroke.Points);

                (Planned? Planned, double Off) Best(IEnumerable<Planned> among)
                {
                    (Planned? Planned, double Off, bool IsFull) found = (null, double.PositiveInfinity, true);
                    foreach (var p in among)
                    {
                        // What is farther than the best can be left as soon as that shows; one that is full already yields to one that is not.
                        var limit = found.IsFull ? Math.Max(found.Off, Reach.Mm) : found.Off;
                        double off = 0;
                        foreach (var place in places)
                            if ((off = Math.Max(off, Polygons.DistanceToEdges(p.Points, place, false))) > limit && found.Planned is not null) break;
                        var better = found.Planned is null || (off <= Reach.Mm && found.Off <= Reach.Mm
                            ? (p.IsFull, off).CompareTo((found.IsFull, found.Off)) < 0 : off < found.Off);
                        if (better) found = (p, off, p.IsFull);
                    }

                    return (found.Planned, found.Off);
                }
            }
        }

        strays += done.Count(d => d.Points.Length > 1 && !planned.Exists(p => p.Pen == d.Pen));
        return (planned, strays, farthest);
    }

    /// <summary>In a sentence, for the person at the machine.</summary>
    public string Describe()
    {
        if (IsWhole) return $"Done as planned; nowhere more than {LargestDeviation} beside it.";
        var parts = new List<string>();
        if (Missing > 0) parts.Add($"{Count(Missing, "line is", "lines are")} missing ({MissingLength.Mm:0.#} mm)");
        if (Twice > 0) parts.Add($"{Count(Twice, "line was", "lines were")} done too often");
        if (Strays > 0) parts.Add($"{Count(Strays, "line lies", "lines lie")} where nothing was planned, up to {LargestDeviation} away");
        return string.Join("; ", parts) + ".";

        static string Count(int n, string one, string many) => string.Create(CultureInfo.InvariantCulture, $"{n} {(n == 1 ? one : many)}");
    }

    private static List<Point> Places(IReadOnlyList<Point> points)
    {
        var places = new List<Point> { points[0] };
        for (var i = 1; i < points.Count; i++)
        {
            Point a = points[i - 1], b = points[i];
            var steps = Math.Max(1, (int)Math.Ceiling(a.DistanceTo(b) / StepMm));
            for (var k = 1; k <= steps; k++) places.Add(a + (b - a) * ((double)k / steps));
        }

        return places;
    }

    private sealed class Planned
    {
        // What was done is this near to where it was planned, with what the machine's steps and the knife are off; lines of an infill are not much farther.
        private static readonly double Near = Reach.Mm / 2;

        // How much of a line may be done again without being wrong: where it was broken off, and where a cut goes on beyond its start.
        private const double MayOverlapMm = 4 * StepMm;

        private readonly List<Point> _places;
        private readonly double _each;

        public Planned(RunStep step, Subpath path)
        {
            (Step, Pen, Passes, Path) = (step.Number, step.Pen, step.Passes, path);
            Points = path.Walk(RunPlanner.Chord.Mm);
            Box = Points.Aggregate(Box.Empty, (b, p) => b.With(p));
            _places = Places(Points);
            _each = VectorPath.PolylineLength(Points, false) / Math.Max(1, _places.Count - 1);
        }

        public int Step { get; }

        public int Pen { get; }

        public int Passes { get; }

        public Subpath Path { get; }

        public List<Point> Points { get; }

        public Box Box { get; }

        public List<ImmutableArray<Point>> Done { get; } = [];

        public bool IsFull => Done.Count >= Passes;

        /// <summary>How often each place was come by.</summary>
        private int[] Counts() => [.. _places.Select(p => Done.Count(d => Polygons.DistanceToEdges(d, p, false) <= Near))];

        /// <summary>How much of it, in all passes, has nothing done beside it.</summary>
        public double MissingMm()
        {
            var bare = Done.Count == 0 ? _places.Count * Passes : Counts().Sum(c => Math.Max(0, Passes - c));
            // A dot has no length, and is missing all the same.
            return bare == 0 ? 0 : Math.Max(Plotter.MmPerUnit, Math.Min(_each * (_places.Count - 1) * Passes, bare * _each));
        }

        /// <summary>Whether more than a little of it, in one stretch, was done more often than planned.</summary>
        public bool IsOverdone()
        {
            if (Done.Count <= Passes) return false;
            var (longest, over) = (0, 0);
            foreach (var count in Counts()) longest = Math.Max(longest, over = count > Passes ? over + 1 : 0);
            return longest * _each > Math.Min(MayOverlapMm, _each * _places.Count / 2);
        }

        /// <summary>The parts that lack a pass, once for each that they lack.</summary>
        public IEnumerable<VectorPath> Left()
        {
            var counts = Counts();
            var n = counts.Length;
            for (var pass = 1; pass <= Passes; pass++)
            {
                if (counts.All(c => c < pass))
                {
                    yield return new([Path]);
                    continue;
                }

                // Of a closed line the first and the last place are one; a part may go across them.
                var from = Path.Closed ? Array.FindIndex(counts, c => c >= pass) : 0;
                var run = new List<Point>();
                for (var k = 0; k < n + (Path.Closed ? 0 : 1); k++)
                {
                    var at = (from + k) % n;
                    if (k < n && counts[at] < pass)
                    {
                        if (run.Count == 0 && k > 0) run.Add(_places[(at + n - 1) % n]);
                        run.Add(_places[at]);
                        continue;
                    }

                    if (run.Count > 0 && k < n) run.Add(_places[at]);
                    if (run.Count > 1) yield return VectorPath.Polyline([.. run]);
                    run.Clear();
                }

                if (run.Count > 1) yield return VectorPath.Polyline([.. run, _places[from]]);
            }
        }
    }
}
