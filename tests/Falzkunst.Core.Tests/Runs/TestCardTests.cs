using System.Collections.Immutable;
using Falzkunst.Core.Cards;
using Falzkunst.Core.Layout;
using Falzkunst.Core.Runs;

namespace Falzkunst.Core.Tests.Runs;

public sealed class TestCardTests
{
    [Fact]
    public void Lies_where_no_piece_does_and_has_a_shape_for_each_force_and_depth()
    {
        var size = new SheetSize(Length.FromMm(210), Length.FromMm(297), 1, Length.FromMm(5));
        var (knife, pen) = (Tool.Standard[5], Tool.Standard[0]);
        var setting = new MaterialSetting("s", "knife", 2, 200, 0) { Depth = Length.FromMm(0.35) };
        for (var seed = 1; seed <= 60; seed++)
        {
            var random = new Random(seed);
            var pieces = Enumerable.Range(0, random.Next(1, 30)).Select(_ => VectorPath.Rectangle(5 + 140 * random.NextDouble(), 5 + 220 * random.NextDouble(),
                60 * random.NextDouble(), 60 * random.NextDouble())).ToList();
            var sheet = new SheetPlan("s", "paper", size, [], 0);
            if (TestCard.For(sheet, pieces, knife, setting) is not { } card) continue;
            var plan = card.Plan(sheet, pieces, 0, 1, knife, setting, Machines.Kammer30);
            var steps = plan.Sheets[0].Steps;
            Assert.Equal(15, steps.Select(s => (s.ForceGrams, s.Depth)).Distinct().Count());
            foreach (var path in steps.SelectMany(s => s.Paths))
            {
                Assert.True(card.Place.Grown(0.5).Holds(path.Bounds), $"{path.Bounds} is outside of {card.Place}");
                Assert.DoesNotContain(pieces, p => p.Bounds.Grown(1).Touches(path.Bounds));
            }

            // The blade is set by hand between the rows, and nowhere else.
            Assert.Equal(3, MachineSetup.Unknown(2).Ahead(plan, 0, 1, null, false).Count(s => s is not null));
        }

        var all = new SheetPlan("s", "paper", size, [], 0);
        Assert.Null(TestCard.For(all, [VectorPath.Rectangle(5, 5, 200, 287)], knife, setting));
        Assert.Equal([1, 2, 3], TestCard.For(all, [], pen, setting with { Depth = null })!.Rows.Select(r => r.Passes));
    }

    /// <summary>What is kept of a sheet holds nothing that was ever made on it, be it pieces or test cards anywhere.</summary>
    [Fact]
    public void What_is_kept_of_a_sheet_was_never_worked()
    {
        var size = new SheetSize(Length.FromMm(210), Length.FromMm(297), 1, Length.FromMm(5));
        var design = new AddPiece(new Drawn(VectorPath.Rectangle(0, 0, 60, 45)), Place.Own, "").Apply(Design.Blank(Length.FromMm(200), Length.FromMm(100)));
        var setting = new MaterialSetting("s", "knife", 2, 200, 0) { Depth = Length.FromMm(0.35) };
        for (var seed = 1; seed <= 12; seed++)
        {
            var random = new Random(seed);
            var sheet = new SheetPlan("s", "paper", size, [.. Enumerable.Range(1, 2).Select(n => new PlacedPiece(design.Pieces[0].Id, n,
                Affine.Turn(Angle.FromRadians(random.NextDouble()))
                    .Then(Affine.Move(70 + 60 * random.NextDouble(), 20 + 110 * n * random.NextDouble()))))], 0.2);
            List<VectorPath> lies = [.. sheet.Pieces.Select(p => design.Pieces[0].Outline.Transform(p.ToSheet))];
            var done = lies.SelectMany(p => p.Subpaths).Select(s => s.Walk().ToImmutableArray()).ToList();
            for (var cards = random.Next(1, 4); cards > 0 && TestCard.For(sheet, lies, Tool.Standard[5], setting) is { } card; cards--)
            {
                var strokes = card.Plan(sheet, lies, 0, 1, Tool.Standard[5], setting, Machines.Kammer30).Sheets[0].Steps.SelectMany(s => s.Strokes()).ToList();
                done.AddRange(strokes.Select(s => s.Walk().ToImmutableArray()));
                lies.Add(VectorPath.Rectangle(card.Place.Left, card.Place.Top, card.Place.Width, card.Place.Height));
            }

            var spoiled = OffCuts.Spoiled(design, sheet, done);
            var strip = OffCuts.Of(design, sheet, spoiled);
            Assert.DoesNotContain(done, d => d.Any(p => strip.Grown(-0.01).Holds(p)));
            Assert.True(strip.IsEmpty || OffCuts.Of(design, sheet).Area >= strip.Area);
            if (OffCuts.Kept(design, sheet, true, spoiled) is not { } whole) continue;
            // Where its corner lies on the sheet is not told: what is cut off it is as much as what was made.
            Assert.True(Core.Regions.Region.Of(whole.Outline!).AreaMm2 <= size.Width.Mm * size.Height.Mm - spoiled.Sum(b => b.Area) + 1);
        }
    }
}
