using Falzkunst.Core.Cards;
using Falzkunst.Core.Layout;
using Falzkunst.Core.Regions;
using Falzkunst.Core.Runs;

namespace Falzkunst.Core.Tests.Runs;

public sealed class TurningPlaceTests(ITestOutputHelper output)
{
    /// <summary>A tip that is dragged, from any heading, by steps of its axis of a fiftieth of the offset.</summary>
    [Fact]
    public void A_tip_that_is_turned_in_stays_in_its_room()
    {
        const double offset = 0.35;
        var way = SwivelKnife.TurnedIn(default, offset).Points;
        var room = SwivelKnife.Room(offset);
        for (var heading = 0.02; heading < 2 * Math.PI; heading += 0.1)
        {
            var (tip, end) = (way[0] - new Point(Math.Cos(heading), Math.Sin(heading)) * offset, default(Point));
            for (var i = 1; i < way.Count; i++)
            {
                var steps = (int)(way[i - 1].DistanceTo(way[i]) / offset * 50);
                for (var k = 1; k <= steps; k++)
                {
                    end = way[i - 1] + (way[i] - way[i - 1]) * ((double)k / steps);
                    tip = end + (tip - end) * (offset / tip.DistanceTo(end));
                    Assert.True(room.Holds(tip), $"{heading:0.00}: {tip}");
                }
            }

            Assert.InRange((end - tip).Y / offset, -1, -0.999);
        }
    }

    /// <summary>Sheets full or nearly empty, whole or what was left of one, with marks and without, under any machine: where the tip goes no piece lies,
    /// no mark, nothing that is not paper, and the machine reaches it; where none is found, none of many places tried is free. FALZKUNST_TURNINGS
    /// ("2000@5000") says how many sheets, and the first seed.</summary>
    [Fact]
    public void A_knife_is_turned_in_where_nothing_lies()
    {
        var (count, first) = Cases.Seeds("FALZKUNST_TURNINGS", "40@1", "400@1");
        int inside = 0, beside = 0, none = 0, strips = 0;
        for (var seed = first; seed < first + count; seed++)
        {
            var random = new Random(seed);
            double wide = 60 + 150 * random.NextDouble(), high = 60 + 230 * random.NextDouble(), margin = 8 * random.NextDouble();
            double side = 8 + 40 * random.NextDouble(), gap = 6 * random.NextDouble();
            // Half of them have no more room than the pieces take.
            double Filled(double length) => 2 * margin + Math.Max(1, Math.Floor((length - 2 * margin + gap) / (side + gap))) * (side + gap) - gap + 0.01;
            if (random.Next(2) == 0) (wide, high) = (Filled(wide), Filled(high));
            var offset = 0.2 + 0.4 * random.NextDouble();
            var size = new SheetSize(Length.FromMm(wide), Length.FromMm(high), 1, Length.FromMm(margin))
            {
                Left = random.Next(4) != 0 ? null : VectorPath.Polygon(new(0, 0), new Point(wide, 0), new(wide, high * random.NextDouble()),
                    new(wide * random.NextDouble(), high), new(0, high)).ToSvg(),
            };
            // In rows with little between them, or anywhere.
            var (design, places) = (Design.Blank(Length.FromMm(400), Length.FromMm(400)), new List<PlacedPiece>());
            var full = random.Next(3) > 0;
            design = new AddPiece(new Drawn(random.Next(2) == 0 ? VectorPath.Rectangle(0, 0, side, side)
                : VectorPath.Disc(new(side / 2, side / 2), side / 2)), Place.Own, "").Apply(design);
            for (var y = margin; y + side <= high - margin; y += side + gap)
                for (var x = margin; x + side <= wide - margin; x += side + gap)
                    if (full || random.Next(5) == 0) places.Add(new(design.Pieces[0].Id, places.Count + 1, Affine.Move(x, y)));
            if (places.Count == 0) continue;
            var sheet = new SheetPlan("s", "paper", size, [.. places], 0.5)
            {
                Printed = random.Next(3) > 0 || size.Left is not null ? null
                    : new(new SheetMarks(MarkKind.Brackets, size.Width, size.Height, Length.FromMm(8)), Length.FromMm(random.NextDouble())),
            };
            var machine = Machines.All[random.Next(3)] with
            {
                Width = Length.FromMm(wide + 12 * random.NextDouble()),
                Height = Length.FromMm(high + 20 * random.NextDouble()),
            };
            var tools = Tool.Standard.Select(t => t.Swivel.Mm > 0 ? t with { Swivel = Length.FromMm(offset) } : t).ToList();
            var plan = RunPlanner.Plan(design, new(1, Length.FromMm(gap), [sheet], []), machine, [], tools);
            var step = plan.Sheets[0].Steps[^1];
            var room = SwivelKnife.Room(offset);
            var lies = OffCuts.Outlines(design, sheet).Concat(sheet.Printed?.KeptFree ?? []).Select(p => Region.Of(p)).ToList();
            var paper = Region.Of(size.Outline ?? VectorPath.Rectangle(0, 0, wide, high));
            var reach = (sheet.Printed?.MarginOn(size) ?? size.Margin).Mm;
            bool IsFree(Box box) => new Box(reach, reach, wide - reach, high - reach).Grown(1e-6).Holds(box)
                && Region.Of(VectorPath.Rectangle(box.Left, box.Top, box.Width, box.Height)) is var its && paper.Holds(its)
                && lies.TrueForAll(p => p.Overlap(its).IsEmpty);
            Assert.Equal(step.TurnedInAt is null, plan.Warnings.Any(w => w.Contains("can't be turned in", StringComparison.Ordinal)));
            if (step.TurnedInAt is not { } at)
            {
                none++;
                for (var tries = 0; tries < 300; tries++)
                {
                    var there = room.Moved(wide * random.NextDouble(), high * random.NextDouble()).Grown(size.Left is null ? 1 : 1 + margin);
                    Assert.False(IsFree(there), $"seed {seed}: there is room at {there}");
                }

                continue;
            }

            var box = room.Moved(at.X, at.Y);
            if (box.Right <= wide && box.Top >= 0)
            {
                inside++;
                Assert.True(IsFree(box), $"seed {seed}: {box} of {wide:0.#} × {high:0.#}");
                var strip = OffCuts.Of(design, sheet);
                if (!strip.IsEmpty && strip.Touches(box)) strips++;
            }
            else
            {
                beside++;
                Assert.False(machine.IsRoll);
                Assert.True(box.Left >= wide || box.Bottom <= 0);
                Assert.True(box.Right <= machine.Width.Mm && box.Top >= high - machine.Height.Mm, $"seed {seed}: {box} is beyond {machine.Name}");
            }
        }

        output.WriteLine($"{count} sheets: {inside} in the waste ({strips} in a strip to keep), {beside} beside the sheet, {none} nowhere");
        Assert.True(inside > 0 && beside > 0 && none > 0);
    }
}
