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
            var layout = SheetPlans.LayOut(of, [snow], new(1, 1, TimeSpan.FromSeconds(0.2)) { Rounds = 1 }, TimeProvider.System);
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
}
