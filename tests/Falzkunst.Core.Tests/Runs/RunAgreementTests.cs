using CsCheck;
using Falzkunst.Core.Cards;
using Falzkunst.Core.Documents;
using Falzkunst.Core.Layout;
using Falzkunst.Core.Runs;
using Falzkunst.Core.Writing;

namespace Falzkunst.Core.Tests.Runs;

/// <summary>What was done, laid on what was planned: a generator damages what was done, and knows how.</summary>
public sealed class RunAgreementTests
{
    private static readonly RunPlan Demo = RunTests.Demo(Machines.Kammer30).Plan;

    private static List<DoneStroke> AsPlanned(SheetRun sheet) => [.. sheet.UpTo(int.MaxValue, 0)];

    [Fact]
    public void A_plan_is_kept_as_it_is_and_done_as_it_is()
    {
        var kept = RunDocument.Read(RunDocument.Write(Demo));
        Assert.Equal(RunDocument.Write(Demo), RunDocument.Write(kept));
        foreach (var (a, b) in Demo.Sheets.Zip(kept.Sheets)) Assert.Equal(HpglFile.WriteRun(a), HpglFile.WriteRun(b));
        foreach (var sheet in kept.Sheets)
        {
            var agreement = RunAgreement.Of(sheet, AsPlanned(sheet));
            Assert.True(agreement.IsWhole, agreement.Describe());
            Assert.True(agreement.LargestDeviation.Mm < 0.001);
        }
    }

    [Fact]
    public void What_is_missing_twice_or_astray_is_counted() =>
        Gen.Select(Gen.Int[0, Demo.Sheets.Length - 1], Gen.Int, Gen.Int[0, 2], Gen.Int[0, 2], Gen.Int[0, 2]).Sample((index, seed, gone, twice, astray) =>
        {
            var sheet = Demo.Sheets[index];
            var random = new Random(seed);
            var done = AsPlanned(sheet);
            // In another order, and half of them the other way round: only the place counts.
            random.Shuffle(System.Runtime.InteropServices.CollectionsMarshal.AsSpan(done));
            for (var i = 0; i < done.Count; i += 2) done[i] = done[i] with { Points = [.. done[i].Points.Reverse()] };
            var length = done.Take(gone).Sum(s => VectorPath.PolylineLength(s.Points, false));
            // Shapes that lie on one another would stand in for each other.
            var apart = done.Skip(gone).Where(s => s.Points.Max(p => p.DistanceTo(s.Points[0])) > 8).Take(astray).ToList();
            gone = Math.Min(gone, done.Count);
            var again = done.Skip(gone).Take(twice).ToList();
            done.AddRange(again);
            done.AddRange(apart.Select(s => s with { Points = [.. s.Points.Select(p => p + new Point(1000, 0))] }));
            var agreement = RunAgreement.Of(sheet, done[gone..]);
            Assert.Equal((gone, again.Count, apart.Count), (agreement.Missing, agreement.Twice, agreement.Strays));
            Assert.Equal(length, agreement.MissingLength.Mm, 0.02 * length + 0.05);
            if (apart.Count > 0) Assert.True(agreement.LargestDeviation.Mm > 500);
        }, iter: 60, seed: "0000KWDTsnv3");

    [Fact]
    public void A_stroke_that_was_broken_off_is_missing_by_its_rest()
    {
        var sheet = Demo.Sheets.First(s => AsPlanned(s).Exists(IsLong));
        var done = AsPlanned(sheet);
        var at = done.FindIndex(IsLong);
        var whole = VectorPath.PolylineLength(done[at].Points, false);
        done[at] = done[at] with { Points = done[at].Points[..(done[at].Points.Length / 2)] };
        var rest = whole - VectorPath.PolylineLength(done[at].Points, false);
        var agreement = RunAgreement.Of(sheet, done);
        Assert.Equal(1, agreement.Missing);
        Assert.Equal(rest, agreement.MissingLength.Mm, 1.5);

        static bool IsLong(DoneStroke s) => VectorPath.PolylineLength(s.Points, false) > 60 && s.Points.Length > 8;
    }

    [Fact]
    public void A_step_knows_which_strokes_are_over_and_how_it_is_set()
    {
        var step = Demo.Sheets[0].Steps[0] with { SpeedMmS = 45, ForceGrams = 120, Passes = 2 };
        var job = HpglFile.WriteStep(Demo.Sheets[0], step);
        Assert.Contains($"SP{step.Pen};VS4.5;FS120;", job.Text);
        Assert.Equal(step.Strokes().Count(), job.Ends.Length);
        Assert.Equal((0, 1, job.Ends.Length), (job.StrokesUpTo(job.Ends[0] - 1), job.StrokesUpTo(job.Ends[0]), job.StrokesUpTo(job.Text.Length)));
        Assert.All(job.Ends, e => Assert.EndsWith(";PU;\n", job.Text[..e]));
    }

    [Fact]
    public void Settings_reach_pens_of_every_colour_and_a_sheet_can_be_begun_alone()
    {
        var design = Cases.Read("<svg xmlns='http://www.w3.org/2000/svg' width='90mm' height='60mm' viewBox='0 0 90 60'><rect width='90' height='60' "
            + "fill='#eee'/><g id='pen'><path d='M9 9H50' stroke='#c00' fill='none'/><path d='M9 19H50' stroke='#00c' fill='none'/></g></svg>");
        var stock = new Stock("s", "Snow", Colour.White, 200, Length.FromMm(0.2), [new(Length.FromMm(105), Length.FromMm(70), 9, Length.FromMm(5))]);
        var layout = SheetPlans.LayOut(design, [stock], new(2, 1, TimeSpan.FromSeconds(0.2)));
        var plan = RunPlanner.Plan(design, layout, Machines.Kammer30, [new("s", "pen", 3, 77, 12)]);
        var pens = plan.Sheets.SelectMany(s => s.Steps).Where(s => s.Operation == Operation.Draw).ToList();
        Assert.Equal(2, pens.Select(s => s.ToolId).Distinct().Count());
        Assert.All(pens, s => Assert.Equal((3, 77.0, 12.0), (s.Passes, s.ForceGrams, s.SpeedMmS)));
        for (var i = 0; i < plan.Sheets.Length; i++) Assert.Contains(plan.Sheets[i].Steps[0].ToolId, plan.HoldersFor(i));
    }

    [Fact]
    public void A_paper_is_worked_with_the_tool_that_is_chosen_for_it_and_otherwise_with_the_first()
    {
        var design = Cases.Read("<svg xmlns='http://www.w3.org/2000/svg' width='90mm' height='60mm' viewBox='0 0 90 60'><rect width='40' height='60' "
            + "fill='#fff'/><rect x='50' width='40' height='60' fill='#000'/><g id='pen'><path d='M9 9H30' stroke='#c00' fill='none'/></g></svg>");
        var drawer = new[] { Colour.White, Colour.Black }.Select(c => new Stock(c.Hex, ColourNames.Of(c), c, 200, Length.FromMm(0.2),
            [new(Length.FromMm(105), Length.FromMm(70), 9, Length.FromMm(5))])).ToList();
        var layout = SheetPlans.LayOut(design, drawer, new(1, 1, TimeSpan.FromSeconds(0.2)));
        Tool[] tools = [.. Tool.Standard, new("deep", "Deep knife", Operation.Cut, 9, 40), new("fine", "Anna's Pen", Operation.Draw, 12, 60)];
        MaterialSetting[] settings = [new(Colour.Black.Hex, "deep", 2, 300, 0, true), new(Colour.White.Hex, "deep", 2, 300, 0),
            new(Colour.White.Hex, "fine", 1, 0, 0, true)];
        var plan = RunPlanner.Plan(design, layout, Machines.Kammer30, settings, tools);
        foreach (var sheet in plan.Sheets)
        {
            var isBlack = layout.Sheets[sheet.Sheet].StockId == Colour.Black.Hex;
            Assert.All(sheet.Steps.Where(s => s.Operation == Operation.Cut),
                s => Assert.Equal(isBlack ? ("deep", 9, 40.0, 2) : ("knife", 6, 100.0, 1), (s.ToolId, s.Pen, s.SpeedMmS, s.Passes)));
            Assert.All(sheet.Steps.Where(s => s.Operation == Operation.Draw), s => Assert.Equal(("Red Anna's Pen", 12), (s.ToolName, s.Pen)));
        }

        // Names are said as they are written, except where they are plain words.
        var said = string.Join(' ', plan.Sheets.SelectMany(s => s.Steps).Select(s => s.Stop?.Text));
        Assert.Contains("the Red Anna's Pen in holder 1", said);
        Assert.Contains("the deep knife", said);
    }

    [Fact]
    public void The_check_of_a_layout_sees_what_is_wrong_with_it()
    {
        var design = Cases.DemoCard();
        var drawer = design.Pieces.Select(p => p.Colour).Distinct().Select(c => new Stock(c.Hex, ColourNames.Of(c), c, 200, Length.FromMm(0.25),
            [new SheetSize(Length.FromMm(210), Length.FromMm(297), 99, Length.FromMm(5))])).ToList();
        var layout = SheetPlans.LayOut(design, drawer, new(2, 1, TimeSpan.FromSeconds(0.3)));
        Assert.Empty(LayoutCheck.Faults(design, drawer, layout));
        var sheet = layout.Sheets.First(s => s.Pieces.Length > 1);
        DocketLayout With(SheetPlan changed) => layout with { Sheets = layout.Sheets.Replace(sheet, changed) };
        var moved = sheet.Pieces[0] with { ToSheet = sheet.Pieces[0].ToSheet.Then(Affine.Move(-150, 0)) };
        Assert.Contains("edge of sheet", LayoutCheck.Faults(design, drawer, With(sheet with { Pieces = sheet.Pieces.SetItem(0, moved) }))[0]);
        Assert.Contains("is there 0 times", LayoutCheck.Faults(design, drawer, With(sheet with { Pieces = sheet.Pieces.RemoveAt(0) }))[0]);
        Assert.Contains(LayoutCheck.Faults(design, drawer, With(sheet with { Pieces = sheet.Pieces.Add(sheet.Pieces[0]) })), f => f.Contains("apart"));
        Assert.Contains(LayoutCheck.Faults(design, [.. drawer.Select(s => s with { Sheets = [s.Sheets[0] with { Count = 0 }] })], layout),
            f => f.Contains("there are 0"));
        var other = drawer.First(s => s.Id != sheet.StockId);
        Assert.Contains("does not belong", LayoutCheck.Faults(design, drawer, With(sheet with { StockId = other.Id }))[0]);
    }
}
