using System.Collections.Immutable;
using CsCheck;
using Falzkunst.Core.Cards;
using Falzkunst.Core.Layout;
using Falzkunst.Core.Runs;
using Falzkunst.Core.Writing;

namespace Falzkunst.Core.Tests.Runs;

public sealed class RunTests
{
    public static (Design Design, RunPlan Plan) Demo(Machine machine)
    {
        var design = Cases.DemoCard();
        design = new SetLineOperation([.. design.Lines.Where(l => Folds.IsStraight(l.Path, out _, out _) && l.Path.Bounds.Width > 100).Select(l => l.Id)],
            Operation.Score).Apply(design);
        var drawer = design.Pieces.Select(p => p.Colour).Distinct()
            .Select(c => new Stock(c.Hex, ColourNames.Of(c), c, 200, Length.FromMm(0.25),
            [new SheetSize(Length.FromMm(210), Length.FromMm(297), 99, Length.FromMm(5))])).ToList();
        var layout = SheetPlans.LayOut(design, drawer, new(2, 1, TimeSpan.FromSeconds(0.5)));
        Assert.Empty(layout.Unplaced);
        return (design, RunPlanner.Plan(design, layout, machine));
    }

    [Fact]
    public void Every_sheet_is_worked_in_order_and_ends_with_its_outer_edges()
    {
        var (design, plan) = Demo(Machines.Kammer30);
        Assert.Empty(plan.Problems);
        foreach (var sheet in plan.Sheets)
        {
            Assert.Equal(sheet.Steps.Select(s => s.Operation).Order(), sheet.Steps.Select(s => s.Operation));
            Assert.Equal("cut outer edges", sheet.Steps[^1].Kind);
        }

        // Nothing is forgotten: the work of all sheets is the work of both copies.
        var once = design.Pieces.Sum(p => p.Outline.Length.Mm)
            + design.Lines.Where(l => l.CarriedBy is not null && l.Operation.UsesTool()).Sum(l => l.Path.Length.Mm);
        Assert.Equal(2 * once, plan.Sheets.Sum(s => s.Steps.Sum(t => t.Work.Mm)), 0.002 * once);
    }

    [Fact]
    public void With_fewer_holders_there_are_more_stops_and_every_tool_is_in_when_it_is_needed()
    {
        var (_, two) = Demo(Machines.Kammer30);
        var (_, one) = Demo(Machines.Kammer60);
        Assert.True(one.Stops > two.Stops);
        foreach (var plan in new[] { one, two })
        {
            var holders = new Dictionary<int, string>();
            // What hands do is first said in twelve words at most.
            Assert.All(plan.Sheets.Select(s => plan.Loading(s.Sheet)).Concat(plan.Sheets.SelectMany(s => s.Steps).Select(s => s.Stop?.Text ?? "")),
                text => Assert.InRange(text.Split(". ")[0].Split(' ').Length, 1, 12));
            foreach (var step in plan.Sheets.SelectMany(s => s.Steps))
            {
                foreach (var change in step.Stop?.Changes ?? [])
                {
                    Assert.InRange(change.Holder, 1, plan.Holders);
                    Assert.Equal(change.Out, holders.GetValueOrDefault(change.Holder));
                    holders[change.Holder] = change.ToolId;
                }

                Assert.Contains(step.ToolId, holders.Values);
            }
        }
    }

    /// <summary>A card of one piece with some lines, on a sheet of its own.</summary>
    private static (Design Design, DocketLayout Layout) OnOneSheet(double margin, params ReadOnlySpan<Func<string, Edit[]>> lines)
    {
        var design = new AddPiece(new Drawn(VectorPath.Polygon(new(0, 0), new Point(120, 0), new(120, 80), new(30, 80))), Place.Own, "").Apply(
            Design.Blank(Length.FromMm(200), Length.FromMm(100)));
        foreach (var change in lines)
        {
            design = new AddLine(PathText.Read("M40 20L60 25L62 40Z"), null, Operation.Draw).Apply(design);
            foreach (var edit in change(design.Lines[^1].Id)) design = edit.Apply(design);
        }

        var size = new SheetSize(Length.FromMm(200), Length.FromMm(150), 1, Length.FromMm(margin));
        return (design, new(1, Length.FromMm(2), [new("s", "paper", size, [new(design.Pieces[0].Id, 1, Affine.Move(31, 17))], 0.5)], []));
    }

    /// <summary>What a docket asks of its runs goes before what its papers say, and for the next run only before that.</summary>
    [Fact]
    public void A_docket_is_run_as_it_wishes()
    {
        MaterialSetting[] papers =
        [
            new("s", "knife", 2, 230, 100, true) { Depth = Length.FromMm(0.45) }, new("s", "pen", 1, 40, 120), new("t", "knife", 1, 90, 0),
        ];
        var wishes = RunWishes.None.With(new("s", "knife", 3, 300, 50), false).With(new("s", "pen", 1, 65, 120), false)
            .With(new("s", "knife", 1, 350, 20), true);
        wishes = Core.Documents.RunDocument.ReadWishes(Core.Documents.RunDocument.WriteWishes(wishes with { First = FirstMade.Foiled }));
        Assert.Equal(FirstMade.Foiled, wishes.First);
        Assert.Equal([new("s", "knife", 1, 350, 20, true), new("s", "pen", 1, 65, 120), papers[2]], wishes.Over(papers));
        Assert.Equal([new("s", "knife", 3, 300, 50, true), new("s", "pen", 1, 65, 120), papers[2]], (wishes with { Once = [] }).Over(papers));
        Assert.Equal(papers, wishes.Without("s", "knife").Without("s", "pen").Over(papers));
        Assert.True(RunWishes.None.With(papers[0], true).Without("s", "knife").IsNone);
        Assert.Equal(RunWishes.None.First, Core.Documents.RunDocument.ReadWishes("{").First);
    }

    /// <summary>A machine that is told a level from 1 to 33 is told the one that comes nearest to what the paper asks in grams; all others are told
    /// grams.</summary>
    [Fact]
    public void A_machine_with_levels_of_force_is_told_a_level()
    {
        var (design, layout) = OnOneSheet(5, l => []);
        foreach (var (grams, level) in new[] { (1.0, 1), (9.0, 1), (100.0, 11), (230.0, 25), (300.0, 33), (900.0, 33) })
            foreach (var machine in new[] { Machines.Kammer30, Machines.Kammer60 })
            {
                var levels = machine with { MostForceGrams = 300, ForceLevels = 33 };
                string Told(Machine m)
                {
                    var sheet = RunPlanner.Plan(design, layout, m, [new("s", "pen", 1, grams, 0), new("s", "knife", 1, grams, 0)]).Sheets[0];
                    Assert.Equal(m.ForceLevels > 0 ? $"force {level} of 33" : $"{Math.Min(grams, m.MostForceGrams):0} g", sheet.Steps[^1].ForceSays);
                    var step = sheet.Steps[^1];
                    return m.Language == MachineLanguage.Hpgl ? HpglFile.WriteStep(sheet, step).Text : GcodeFile.WriteStep(sheet, step);
                }

                var mark = machine.Language == MachineLanguage.Hpgl ? "FS" : " S";
                Assert.Matches($"{mark}{level}[;\n]", Told(levels));
                Assert.Matches($"{mark}{Math.Min(grams, machine.MostForceGrams):0}[;\n]", Told(machine));
            }
    }

    /// <summary>On each side drawing or foiling comes first, as it is asked, and all else where it was.</summary>
    [Fact]
    public void What_is_to_come_first_comes_first()
    {
        Operation[] kinds = [Operation.Draw, Operation.Foil, Operation.Deboss, Operation.Score];
        for (var seed = 1; seed <= 60; seed++)
        {
            var random = new Random(seed);
            var (design, layout) = OnOneSheet(5, [.. Enumerable.Range(0, random.Next(2, 6)).Select(_ => (Func<string, Edit[]>)(l =>
                [new SetLineOperation([l], kinds[random.Next(4)]), .. random.Next(3) == 0 ? [new SetFace([l], Face.Inner)] : (Edit[])[]]))]);
            string[] Steps(FirstMade first) => [.. RunPlanner.Plan(design, layout, Machines.Kammer30, first: first).Sheets[0].Steps
                .Select(s => $"{s.Face} {s.Operation} {s.Work}")];
            var (drawn, foiled) = (Steps(FirstMade.Drawn), Steps(FirstMade.Foiled));
            Assert.Equal(Steps(FirstMade.Either).Order(), drawn.Order());
            Assert.Equal(drawn.Order(), foiled.Order());
            foreach (var face in new[] { "Outer", "Inner" })
            {
                int At(string[] steps, Operation of) => Array.FindIndex(steps, s => s.StartsWith($"{face} {of}", StringComparison.Ordinal));
                if (At(drawn, Operation.Draw) < 0 || At(drawn, Operation.Foil) < 0) continue;
                Assert.True(At(drawn, Operation.Draw) < At(drawn, Operation.Foil), $"seed {seed}");
                Assert.True(At(foiled, Operation.Foil) < At(foiled, Operation.Draw), $"seed {seed}");
            }
        }
    }

    /// <summary>What is made on the back of a sheet that lies face down is, seen from its face, where it was drawn, words the right way round; and nothing is
    /// cut before both sides are done.</summary>
    [Fact]
    public void Two_loads_of_a_sheet_fit_each_other()
    {
        var (design, layout) = OnOneSheet(5, l => [new SetLineOperation([l], Operation.Deboss), new SetFace([l], Face.Inner)], l => []);
        var steps = RunPlanner.Plan(design, layout, Machines.Kammer30).Sheets[0].Steps;
        Assert.Equal([Operation.Deboss, Operation.Draw, Operation.Cut], steps.Select(s => s.Operation));
        Assert.Equal([false, true, false], steps.Select(s => s.Stop?.TurnsSheet ?? false));
        // Turned over left to right, what lay at x from the left lies at x from the right.
        var over = new Affine(-1, 0, 0, 1, 200, 0);
        var (made, drawn) = (steps[0].Paths.Single().Transform(over), steps[1].Paths.Single());
        Assert.Equal(drawn.Bounds, made.Bounds);
        Assert.Equal(0, drawn.Rings[0].Max(made.DistanceTo), 6);
        // Mirrored where it is made.
        Assert.True(steps[0].Paths.Single().SignedAreaMm2 * drawn.SignedAreaMm2 < 0);
    }

    [Fact]
    public void Lines_with_passes_or_a_pen_of_their_own_are_steps_of_their_own()
    {
        var (design, layout) = OnOneSheet(5, l => [], l => [new SetPen([l], null, Length.FromMm(0.3))],
            l => [new SetLineOperation([l], Operation.Cut), new SetPasses([l], 3)], l => [new SetLineOperation([l], Operation.Cut)]);
        var steps = RunPlanner.Plan(new SetPasses([design.Pieces[0].Id], 2).Apply(design), layout, Machines.Kammer30).Sheets[0].Steps;
        Assert.Equal([("Pen", 1), ("Pen, 0.3 mm", 1), ("Knife", 1), ("Knife", 3), ("Knife", 2)], steps.Select(s => (s.ToolName, s.Passes)));
        Assert.Equal(3, steps.Select(s => s.Pen).Distinct().Count());
        Assert.All(steps.Take(2), s => Assert.Equal("pen", s.ToolKind));
    }

    [Fact]
    public void A_tool_is_lifted_as_its_paper_is_set()
    {
        var (design, layout) = OnOneSheet(5);
        string Text(params MaterialSetting[] settings)
        {
            var sheet = RunPlanner.Plan(design, layout, Machines.Kammer60, settings).Sheets[0];
            return Core.Writing.GcodeFile.WriteStep(sheet, sheet.Steps[0]);
        }

        Assert.Contains("G0 Z2\n", Text());
        var high = Text(new MaterialSetting("s", "knife", 1, 0, 0) { Lift = Length.FromMm(4.5) });
        Assert.Contains("G0 Z4.5\n", high);
        Assert.DoesNotContain("G0 Z2\n", high);
    }

    /// <summary>It can be peeled off there without unloading.</summary>
    [Fact]
    public void Foil_lies_low_on_the_sheet()
    {
        var design = OnOneSheet(5, l => [new SetLineOperation([l], Operation.Foil)]).Design;
        var drawer = new[] { new Stock("s", "paper", design.Pieces[0].Colour, 200, Length.FromMm(0.25),
            [new(Length.FromMm(200), Length.FromMm(297), 9, Length.FromMm(5))]) };
        foreach (var turns in new[] { Turns.None, Turns.Half })
        {
            var laid = SheetPlans.LayOut(new SetLaying(design.Laying with { Turns = turns }).Apply(design), drawer, new(1, 1, TimeSpan.FromSeconds(0.2)));
            var foil = RunPlanner.Plan(design, laid, Machines.Kammer30).Sheets[0].Steps.Single(s => s.Operation == Operation.Foil);
            Assert.Equal(turns == Turns.Half, foil.Paths[0].Bounds.Centre.Y > 297 / 2.0);
        }
    }

    [Fact]
    public void Rollers_are_fed_and_a_mat_is_loaded()
    {
        var (design, layout) = OnOneSheet(5);
        Assert.StartsWith("Feed a sheet of paper in. ", RunPlanner.Plan(design, layout, Machines.Kammer60).Loading(0));
        Assert.Contains("then load the mat", RunPlanner.Plan(design, layout, Machines.Kammer30).Loading(0));
    }

    [Fact]
    public void Each_foil_is_taped_by_itself()
    {
        var (design, layout) = OnOneSheet(5, l => [new SetLineOperation([l], Operation.Foil), new SetFoil([l], "Copper foil", null)],
            l => [new SetLineOperation([l], Operation.Foil), new SetFoil([l], "Gold foil", null)]);
        var steps = RunPlanner.Plan(design, layout, Machines.Kammer30).Sheets[0].Steps;
        Assert.Equal(["Copper foil", "Gold foil", null], steps.Select(s => s.Foil));
        Assert.Contains("copper foil", RunPlan.Taping(steps[0]));
        Assert.Contains("Peel the foil off", steps[1].Stop!.Text);
        Assert.Contains("gold foil", steps[1].Stop!.Text);
    }

    [Fact]
    public void What_a_machine_cannot_do_is_said_and_not_asked_of_it()
    {
        var (design, layout) = OnOneSheet(3);
        var plan = RunPlanner.Plan(design, layout, Machines.Kammer15 with { Width = Length.FromMm(300) }, [new("s", "knife", 1, 900, 400)]);
        Assert.Equal(2, plan.Warnings.Length);
        Assert.Contains(plan.Warnings, w => w.Contains("900 g") && w.Contains("350 g"));
        Assert.Contains(plan.Warnings, w => w.Contains("400 mm/s"));
        Assert.Equal((350, 100), (plan.Sheets[0].Steps[^1].ForceGrams, plan.Sheets[0].Steps[^1].SpeedMmS));
        Assert.True(plan.CanRun);
    }

    [Fact]
    public void Ordering_keeps_every_path_and_never_travels_farther_than_the_order_given() =>
        Gen.Select(Gen.Double[0, 300], Gen.Double[0, 300], Gen.Double[-20, 20], Gen.Double[-20, 20], Gen.Bool).Array[0, 60].Sample(strokes =>
        {
            var paths = strokes.Select(s => s.Item5
                ? VectorPath.Polygon(new Point(s.Item1, s.Item2), new(s.Item1 + s.Item3, s.Item2), new(s.Item1, s.Item2 + s.Item4))
                : VectorPath.Polyline(new Point(s.Item1, s.Item2), new(s.Item1 + s.Item3, s.Item2 + s.Item4))).ToList();
            var ordered = PathOrder.Order(paths, default);
            Assert.Equal(paths.Count, ordered.Length);
            Assert.Equal(paths.Sum(p => p.Length.Mm), ordered.Sum(p => p.Length.Mm), 1e-4);
            Assert.True(PathOrder.Travel(ordered, default) <= PathOrder.Travel(paths, default) + Length.FromMm(1e-6));
        }, iter: 60);

    /// <summary>Every order, every end and every corner: for few lines the shortest way is known.</summary>
    [Fact]
    public void Few_lines_are_nearly_always_walked_in_the_shortest_way()
    {
        var longer = new List<double>();
        for (var seed = 1; seed <= 150; seed++)
        {
            var random = new Random(seed);
            Point At() => new(100 * random.NextDouble(), 100 * random.NextDouble());
            VectorPath[] paths = [.. Enumerable.Range(0, random.Next(1, 6)).Select(_ => random.Next(2) == 0 ? VectorPath.Polyline(At(), At())
                : VectorPath.Polygon([.. Enumerable.Range(0, random.Next(3, 5)).Select(_ => At())]))];
            double Shortest(Point from, ImmutableHashSet<int> left) => left.IsEmpty ? 0 : left.Min(i => Doors(paths[i].Subpaths[0])
                .Min(d => from.DistanceTo(d.In) + Shortest(d.Out, left.Remove(i))));
            var way = PathOrder.Travel(PathOrder.Order(paths, default), default).Mm;
            var shortest = Shortest(default, [.. Enumerable.Range(0, paths.Length)]);
            if (way > shortest + 1e-6) longer.Add(way / shortest);
        }

        Assert.InRange(longer.Count, 0, 3);
        Assert.All(longer, l => Assert.InRange(l, 1, 1.05));

        static IEnumerable<(Point In, Point Out)> Doors(Subpath sub) => sub.Closed ? sub.Flatten().Select(p => (p, p))
            : [(sub.Start, sub.End), (sub.End, sub.Start)];
    }

    [Fact]
    public void What_is_closed_is_walked_all_around_from_wherever_it_begins()
    {
        // A loop of one curve, a ring whose last segment comes back, one that is closed by a line, two runs in one path; and a dot.
        var paths = new[] { "M50 50C90 20 90 80 50 50Z", "M10 80H30V95H10V80Z", "M70 5L95 5L80 30Z", "M5 40L15 45M20 60L5 62" }
            .Select(PathText.Read).Append(new([new Subpath(new(9, 9), [], true)])).ToList();
        var ordered = PathOrder.Order(paths, new(100, 100));
        Assert.Equal(6, ordered.Length);
        Assert.Equal(paths.Sum(p => p.Length.Mm), ordered.Sum(p => p.Length.Mm), 9);
        Assert.Equal(paths.Sum(p => Math.Abs(p.SignedAreaMm2)), ordered.Sum(p => Math.Abs(p.SignedAreaMm2)), 6);
    }

    [Fact]
    public void A_straight_line_takes_the_time_of_a_trapezoid()
    {
        // 100 mm at 100 mm/s and 1000 mm/s²: 0.1 s up, 0.1 s down, 90 mm at full speed.
        Assert.Equal(1.1, MotionModel.Seconds(100, 100, 1000), 9);
        // Halving a straight line with a point changes nothing; a corner costs time.
        Assert.Equal(1.1, MotionModel.Seconds([new(0, 0), new(50, 0), new(100, 0)], 100, 1000), 9);
        Assert.True(MotionModel.Seconds([new(0, 0), new(50, 0), new(50, 50)], 100, 1000) > 1.15);
        Assert.Equal(0.2, MotionModel.Seconds(10, 1000, 1000), 9);
    }
}
