using Falzkunst.Core.Cards;
using Falzkunst.Core.Layout;
using Falzkunst.Core.Runs;

namespace Falzkunst.Core.Tests.Layout;

public sealed class SharedEdgesTests
{
    /// <summary>A rectangle that is parted again and again: what is cut is its edge, and each line that parts it.</summary>
    private static (List<Box> Parts, double Lines) Parted(Random random, Box whole, int times)
    {
        var (parts, lines) = (new List<Box> { whole }, 2 * (whole.Width + whole.Height));
        for (var i = 0; i < times; i++)
        {
            var at = random.Next(parts.Count);
            var part = parts[at];
            var upright = part.Width > part.Height;
            if ((upright ? part.Width : part.Height) < 16) continue;
            var by = 0.25 + 0.5 * random.NextDouble();
            var (x, y) = (part.Left + by * part.Width, part.Top + by * part.Height);
            parts[at] = upright ? part with { Right = x } : part with { Bottom = y };
            parts.Add(upright ? part with { Left = x } : part with { Top = y });
            lines += upright ? part.Height : part.Width;
        }

        return (parts, lines);
    }

    [Theory]
    [MemberData(nameof(Seeds))]
    public void Each_line_of_a_parted_rectangle_is_cut_once(int seed)
    {
        var random = new Random(seed);
        var (parts, lines) = Parted(random, new(10, 20, 150, 230), random.Next(1, 40));
        var turn = new Place(Angle.FromDegrees(random.Next(2) * 360 * random.NextDouble()), new(5, 3), false).Map;
        // As pieces lie that were brought together: not quite against each other.
        var off = seed % 3 == 0 ? 0 : 0.02;
        var outlines = parts.Select(b => b.Grown(-off * random.NextDouble())).OrderBy(_ => random.Next())
            .Select(b => VectorPath.Rectangle(b.Left, b.Top, b.Width, b.Height).Transform(turn)).ToList();
        var cut = SharedEdges.Once(outlines);
        Assert.InRange(cut.Sum(c => c.Length.Mm), lines - 0.12 * (1 + parts.Count * 4), lines + 0.12 * (1 + parts.Count * 4));
        Assert.Equal(outlines.Sum(o => o.Length.Mm) - cut.Sum(c => c.Length.Mm), SharedEdges.Saved(outlines).Mm, 6);
        // Each piece is cut all around.
        var all = cut.SelectMany(c => c.Subpaths).SelectMany(s => s.Cubics()).ToList();
        foreach (var (from, to) in outlines.SelectMany(o => o.Subpaths[0].Cubics()).Select(e => (e.At(0), e.At(1))))
            for (var t = 0.0; t <= 1; t += 0.05)
            {
                var p = from + (to - from) * t;
                Assert.True(all.Exists(e => p.DistanceToSegment(e.At(0), e.At(1)) <= 2 * SharedEdges.Near), $"{p} of {seed}");
            }

        // Open paths end on cuts: nothing hangs on by a hair.
        foreach (var path in cut.Where(c => !c.IsClosed))
            foreach (var end in new[] { path.Subpaths[0].Start, path.Subpaths[0].End })
                Assert.True(cut.Where(c => !ReferenceEquals(c, path)).SelectMany(c => c.Subpaths[0].Cubics())
                    .Any(e => end.DistanceToSegment(e.At(0), e.At(1)) < 1e-6)
                    || path.Subpaths[0].Start.DistanceTo(path.Subpaths[0].End) < 1e-6, $"{end} of {seed} hangs");
    }

    public static TheoryData<int> Seeds => [.. Enumerable.Range(1, 30)];

    [Fact]
    public void What_only_touches_or_is_bent_is_left_as_it_is()
    {
        VectorPath[] outlines = [VectorPath.Disc(new(20, 20), 20), VectorPath.Rectangle(40, 0, 30, 40), VectorPath.Disc(new(90, 20), 20),
            // A corner on an edge, and an edge at a slant to one.
            VectorPath.Polygon(new(55, 40), new(65, 60), new(45, 60)), VectorPath.Polygon(new(40, 40), new(0, 50), new(0, 41))];
        Assert.Equal(outlines, SharedEdges.Once(outlines));
        Assert.Equal(0, SharedEdges.Saved(outlines).Mm);
    }

    [Fact]
    public void Pieces_without_a_gap_are_parted_by_one_cut_in_the_run()
    {
        var snow = new Stock("snow", "Snow", Colour.FromHex("#fbfbf7"), 220, Length.FromMm(0.25),
            [new SheetSize(Length.FromMm(210), Length.FromMm(297), 4, Length.FromMm(5))]);
        var card = new AddPiece(new Drawn(VectorPath.Rectangle(0, 0, 60, 40)), default, "Tag").Apply(Design.Blank(Length.FromMm(60), Length.FromMm(40)));
        double Cut(Length gap)
        {
            var design = new SetLaying(LayingRules.Usual with { Gap = gap }).Apply(card);
            var layout = SheetPlans.LayOut(design, [snow], new(9, 1, TimeSpan.FromSeconds(0.3)) { Rounds = 2 });
            var work = RunPlanner.Plan(design, layout, Machines.Kammer30).Sheets.Sum(s => s.Steps.Sum(t => t.Work.Mm));
            Assert.Equal(9 * 200, work + layout.SharedCuts(design).Mm, 1);
            return work;
        }

        Assert.Equal(9 * 200, Cut(Length.FromMm(2)), 6);
        // Nine of three by three have six lines between them that are as long as three edges.
        Assert.InRange(Cut(Length.Zero), 9 * 200 - 6 * 3 * 50 - 1, 9 * 200 - 400);
    }
}
