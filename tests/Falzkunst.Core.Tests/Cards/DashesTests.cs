using Falzkunst.Core.Cards;
using Falzkunst.Core.Findings;
using Falzkunst.Core.Layout;
using Falzkunst.Core.Runs;

namespace Falzkunst.Core.Tests.Cards;

public sealed class DashesTests
{
    [Theory]
    [MemberData(nameof(Seeds))]
    public void Any_line_is_cut_in_equal_dashes_on_it_and_its_ends_stay_closed(int seed)
    {
        var random = new Random(seed);
        Point At() => new(60 * random.NextDouble(), 60 * random.NextDouble());
        var line = (seed % 4) switch
        {
            0 => VectorPath.Polyline(At(), At()),
            1 => VectorPath.Polyline([.. Enumerable.Range(0, 6).Select(_ => At())]),
            2 => VectorPath.Polygon([.. Enumerable.Range(0, 4).Select(_ => At())]),
            _ => new VectorPath([new(At(), [Segment.Cubic(At(), At(), At()), Segment.Cubic(At(), At(), At())], false)]),
        };
        var dashes = new Dashes(Length.FromMm(0.3 + 5 * random.NextDouble()), Length.FromMm(0.2 + 3 * random.NextDouble()));
        var cut = dashes.Along(line);
        var (number, dash, gap) = dashes.On(line.Length, line.IsClosed);
        Assert.Equal(number, cut.Length);
        Assert.Equal(line.Length.Mm, number * (dash.Mm + gap.Mm) + (line.IsClosed ? 0 : gap.Mm), 6);
        // As asked, but for what it takes to go in evenly: at most half a dash and gap more or less in all.
        if (number > 3) Assert.InRange(dash.Mm / dashes.Dash.Mm, 1 - 0.6 / number, 1 + 0.6 / number);
        foreach (var path in cut)
        {
            Assert.Equal(dash.Mm, path.Length.Mm, 2);
            Assert.True(path.Subpaths[0].Flatten().TrueForAll(p => line.DistanceTo(p) < 0.01));
        }

        if (line.IsClosed) return;
        // On a line that does not cross itself, nothing comes nearer to an end than the gap.
        if (seed % 4 == 0)
            foreach (var end in new[] { line.Subpaths[0].Start, line.Subpaths[0].End })
                Assert.Equal(gap.Mm, cut.Min(c => c.DistanceTo(end)), 4);
    }

    public static TheoryData<int> Seeds => [.. Enumerable.Range(1, 40)];

    [Fact]
    public void A_perforation_is_run_in_its_dashes_and_too_short_a_line_is_told()
    {
        var design = new AddPiece(new Drawn(VectorPath.Rectangle(0, 0, 60, 40)), default, "Tag").Apply(Design.Blank(Length.FromMm(60), Length.FromMm(40)));
        var line = new Line { Id = "l9", Operation = Operation.Perforate, Path = VectorPath.Polyline(new Point(30, 5), new(30, 35)) };
        design = design with { AllPieces = [design.Pieces[0] with { AllLines = [line] }] };
        var snow = new Stock("snow", "Snow", Colour.FromHex("#fbfbf7"), 220, Length.FromMm(0.25),
            [new SheetSize(Length.FromMm(210), Length.FromMm(297), 4, Length.FromMm(5))]);
        RunStep Step(Design of)
        {
            var layout = SheetPlans.LayOut(of, [snow], new(1, 1, TimeSpan.FromSeconds(0.2)) { Rounds = 1 });
            return RunPlanner.Plan(of, layout, Machines.Kammer30).Sheets[0].Steps.Single(s => s.Operation == Operation.Perforate);
        }

        // 30 mm: ten of 2 mm with eleven gaps of 1 mm are 31, made shorter by a little.
        Assert.Equal(10, Step(design).Paths.Length);
        Assert.Equal(10 * 2 * 30 / 31.0, Step(design).Work.Mm, 6);
        var other = new SetDashes(["l9"], new(Length.FromMm(4), Length.FromMm(2))).Apply(design);
        Assert.Equal(5, Step(other).Paths.Length);
        Assert.Empty(FindingList.Of(new(other, [snow])).Where(f => f.Code == "perforation-long"));
        var most = new SetDashes(["l9"], new(Length.FromMm(20), Length.FromMm(6))).Apply(design);
        var found = Assert.Single(FindingList.Of(new(most, [snow])), f => f.Code == "perforation-long");
        Assert.Single(Step(most).Paths);
        Assert.Equal(Operation.Score, found.Remedies.First().Edit.Apply(most).Lines.Single().Operation);
        Assert.NotNull(new SetDashes(["l9"], new(Length.Zero, Length.FromMm(1))).Refusal(design));
    }

    [Theory]
    [MemberData(nameof(Seeds))]
    public void Bridges_leave_so_much_of_an_edge_away_from_its_corners(int seed)
    {
        var random = new Random(seed);
        var edge = seed % 2 == 0 ? VectorPath.Disc(new(40, 40), 5 + 30 * random.NextDouble())
            : VectorPath.Polygon([.. Enumerable.Range(0, 3 + seed % 5).Select(i => 2 * Math.PI * i / (3 + seed % 5)).Select(a =>
                new Point(40 + 30 * Math.Cos(a), 40 + 25 * Math.Sin(a)))]);
        var bridges = new CutBridges(random.Next(1, 9), Length.FromMm(0.1 + random.NextDouble()));
        var cut = bridges.Between(edge);
        Assert.Equal(bridges.Number, cut.Length);
        Assert.Equal(edge.Length.Mm - bridges.Number * bridges.Width.Mm, cut.Sum(c => c.Length.Mm), 1);
        Assert.True(cut.All(c => c.Subpaths[0].Flatten().TrueForAll(p => edge.DistanceTo(p) < 0.01)));
        Assert.Equal(bridges.Number, bridges.Left(edge).Count());
        // From the end of each cut to the start of the next is one bridge, and no corner is in it.
        for (var i = 0; i < cut.Length; i++)
        {
            var (end, start) = (cut[i].Subpaths[0].End, cut[(i + 1) % cut.Length].Subpaths[0].Start);
            Assert.Equal(bridges.Width.Mm, end.DistanceTo(start), seed % 2 == 0 ? 2 : 6);
        }
    }

    [Fact]
    public void Bridges_hold_in_the_run_and_too_many_are_told()
    {
        var design = new AddPiece(new Drawn(VectorPath.Rectangle(0, 0, 60, 40)), default, "Tag").Apply(Design.Blank(Length.FromMm(60), Length.FromMm(40)));
        var id = design.Pieces[0].Id;
        var held = new SetBridges([id], new(4, Length.FromMm(0.5)), true, false).Apply(design);
        Assert.Equal(198, held.Pieces[0].Edges[0].Worked(held.Pieces[0].Outline).Sum(p => p.Length.Mm), 6);
        Assert.Empty(FindingList.Of(new(held, [])).Where(f => f.Code == "bridges-wide"));
        var many = new SetBridges([id], new(30, Length.FromMm(5)), true, true).Apply(design);
        var found = Assert.Single(FindingList.Of(new(many, [])), f => f.Code == "bridges-wide");
        Assert.Equal(20, found.Remedies.First().Edit.Apply(many).Pieces[0].Edges[0].Bridges!.Number);
        // Half of it is cut all the same.
        Assert.Equal(100, many.Pieces[0].Edges[0].Worked(many.Pieces[0].Outline).Sum(p => p.Length.Mm), 6);
        Assert.Null(new SetBridges([id], null, true, true).Apply(held).Pieces[0].Edges[0].Bridges);
        Assert.NotNull(new SetBridges([id], new(0, Length.FromMm(1)), true, true).Refusal(design));
    }
}
