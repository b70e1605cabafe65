using System.Collections.Immutable;
using Falzkunst.Core.Cards;
using Falzkunst.Core.Layout;
using Falzkunst.Core.Looks;
using Falzkunst.Core.Measures;
using Falzkunst.Core.Runs;
using Falzkunst.Core.Shapes;
using Falzkunst.Core.Writing;
using Falzkunst.StandIns;

namespace Falzkunst.Web.Tests;

/// <summary>What is planned against what a machine makes of it that has mass, and a knife that swivels.</summary>
public sealed class MachineTests(ITestOutputHelper output)
{
    /// <summary>FALZKUNST_SHEETS ("200@5000") says how many sheets are generated, and the first seed.</summary>
    public static TheoryData<int> Seeds => Cases.EachSeed("FALZKUNST_SHEETS", "3@1", "5@1");

    [Theory]
    [MemberData(nameof(Seeds))]
    public void Takes_the_time_and_goes_the_way_that_were_planned(int seed)
    {
        var machine = Machines.All[seed % 3];
        var sheet = AnySheet(new(seed), machine);
        var done = Worked(sheet, machine, 0.9);
        var agreement = RunAgreement.Of(sheet, done.Strokes);
        output.WriteLine($"{seed}: {done.Seconds:0.0} s, planned {sheet.Seconds:0.0} ({sheet.Seconds / done.Seconds - 1:0.0 %}), "
            + $"{agreement.LargestDeviation.Mm:0.000} mm off");
        Assert.True(agreement.IsWhole, agreement.Describe());
        Assert.InRange(agreement.LargestDeviation.Mm, 0, 0.05);
        Assert.InRange(sheet.Seconds / done.Seconds, 0.97, 1.03);
    }

    /// <summary>So that the other test can fail: a knife whose swivel nobody knows of rounds corners off.</summary>
    [Fact]
    public void A_knife_that_is_taken_for_a_fixed_one_misses_corners()
    {
        var sheet = AnySheet(new(3), Machines.Kammer30);
        var unaware = sheet with { Steps = [.. sheet.Steps.Select(s => s with { Swivel = default, TurnedInAt = null })] };
        Assert.True(RunAgreement.Of(sheet, Worked(unaware, Machines.Kammer30, 0.9).Strokes).LargestDeviation.Mm > 0.3);
        Assert.True(RunAgreement.Of(sheet, Worked(sheet, Machines.Kammer30, 0).Strokes).LargestDeviation.Mm > 0.3);
    }

    /// <summary>A sheet of shapes with corners and curves of all sizes, holes in them, lines on them, and stocks that are worked in several passes.</summary>
    private static SheetRun AnySheet(Random random, Machine machine)
    {
        var (width, height) = (Math.Min(300, machine.Width.Mm), Math.Min(300, machine.Height.Mm));
        var design = Design.Blank(Length.FromMm(width), Length.FromMm(height));
        var placed = ImmutableArray.CreateBuilder<PlacedPiece>();
        const double Cell = 36;
        for (var y = 6.0; y + Cell < height - 5; y += Cell)
            for (var x = 6.0; x + Cell < width - 5; x += Cell)
            {
                if (random.Next(4) == 0) continue;
                design = new AddPiece(new Drawn(AnyRing(random, 6 + 10 * random.NextDouble())), Place.Own, "").Apply(design);
                placed.Add(new(design.Pieces[^1].Id, 1, Affine.Move(x + Cell / 2, y + Cell / 2)));
            }

        var size = new SheetSize(Length.FromMm(width), Length.FromMm(height), 1, Length.FromMm(5));
        var layout = new DocketLayout(1, Length.FromMm(2), [new("s", "paper", size, placed.ToImmutable(), 0.5)], []);
        var setting = new MaterialSetting("s", "knife", random.Next(1, 3), 0, random.Next(2) == 0 ? 0 : 20 + random.Next(100))
        {
            PassesTogether = random.Next(2) == 0,
        };
        return RunPlanner.Plan(design, layout, machine, [setting]).Sheets[0];
    }

    private static VectorPath AnyRing(Random random, double radius)
    {
        Point At(double turn, double far) => new(Math.Cos(turn) * far, Math.Sin(turn) * far);
        switch (random.Next(4))
        {
            case 0:
                // Spikes, some of them sharp.
                var spikes = random.Next(3, 12);
                return VectorPath.Polygon([.. Enumerable.Range(0, 2 * spikes)
                    .Select(i => At(Math.PI * i / spikes, radius * (i % 2 == 0 ? 1 : 0.35 + 0.6 * random.NextDouble())))]);
            case 1:
                return VectorPath.Disc(default, radius).With(VectorPath.Disc(new(radius / 3, 0), 0.4 + radius / 4 * random.NextDouble()));
            case 2:
                // A blob of curves that meet at all angles.
                var n = random.Next(2, 7);
                var path = new PathBuilder().MoveTo(At(0, radius));
                for (var i = 0; i < n; i++)
                    path.CubicTo(At(2 * Math.PI * (i + 0.3) / n, radius * (0.5 + random.NextDouble())),
                        At(2 * Math.PI * (i + 0.7) / n, radius * (0.5 + random.NextDouble())), At(2 * Math.PI * (i + 1) / n, radius));
                return path.Close().Build();
            default:
                var (w, h, r) = (radius, radius * (0.3 + random.NextDouble() * 0.7), 0.2 + 3 * random.NextDouble());
                return PathText.Read(FormattableString.Invariant(
                    $"M{-w + r} {-h}H{w - r}A{r} {r} 0 0 1 {w} {-h + r}V{h}H{-w}V{-h + r}A{r} {r} 0 0 1 {-w + r} {-h}Z"));
        }
    }

    private static (double Seconds, List<DoneStroke> Strokes) Worked(SheetRun sheet, Machine machine, double swivel)
    {
        var cutter = new Cutter(new(machine.Width.Mm, machine.Height.Mm, machine.Holders,
            new(machine.SpeedMmS, machine.TravelMmS, machine.AccelerationMmS2, machine.LiftSeconds), 1e9)
        {
            Swivels = new Dictionary<int, double> { [6] = swivel },
        });
        cutter.LoadMat(true);
        foreach (var step in sheet.Steps)
        {
            cutter.Put(1, step.Pen);
            cutter.Take(machine.Language == MachineLanguage.Gcode ? new Gcode().Take(GcodeFile.WriteStep(sheet, step))
                : HpglFile.WriteStep(sheet, step).Text);
            cutter.WorkNow();
        }

        return (cutter.WorkedSeconds, [.. cutter.Record(0).Select(s => new Store.Cutters.CutterMark(s.Pen, s.Units).On(sheet))]);
    }
}
