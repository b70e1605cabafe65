using Falzkunst.Core.Cards;
using Falzkunst.Core.Layout;

namespace Falzkunst.Core.Tests.Layout;

public sealed class RepeatsTests
{
    private static readonly Stock Snow = new("snow", "Snow", Colour.FromHex("#fbfbf7"), 220, Length.FromMm(0.25),
        [new SheetSize(Length.FromMm(210), Length.FromMm(297), 400, Length.FromMm(5))]);

    private static DocketLayout LaidOut(int copies, Stock stock, double seconds = 1) =>
        SheetPlans.LayOut(Cases.DemoCard(), [stock], new(copies, 1, TimeSpan.FromSeconds(seconds)) { Rounds = 2 });

    [Fact]
    public void The_pieces_of_a_card_stay_together_on_demand()
    {
        // Without, the small ones of all fill up the sheets of the first large ones.
        var request = new NestRequest(Length.FromMm(1), [new("s", Length.FromMm(100), Length.FromMm(100), Length.Zero, 99, [])],
            [new("large", VectorPath.Rectangle(0, 0, 70, 60), 5), new("small", VectorPath.Rectangle(0, 0, 25, 12), 20)])
        { Effort = TimeSpan.FromSeconds(0.5), Rounds = 2, SetsTogether = true };
        var result = Repeats.Run(request);
        Assert.Empty(result.Unplaced);
        Assert.Empty(LayoutCheck.Faults(request, result));
        Assert.Equal(5, result.SheetIds.Length);
        foreach (var on in result.Placements.GroupBy(p => p.Sheet)) Assert.Equal(4, on.Count(p => p.Piece == "small"));
        // What no sheet takes whole gets sheets of its own.
        var wide = request with { Pieces = [new("large", VectorPath.Rectangle(0, 0, 70, 60), 6), new("small", VectorPath.Rectangle(0, 0, 60, 38), 3)] };
        var apart = Repeats.Run(wide);
        Assert.Empty(LayoutCheck.Faults(wide, apart));
        Assert.Equal(6, apart.SheetIds.Length);
        foreach (var on in apart.Placements.GroupBy(p => p.Sheet / 2)) Assert.Equal(["large", "large", "small"], on.Select(p => p.Piece).Order());
    }

    [Fact]
    public void Of_many_copies_sheets_are_equal()
    {
        // Four on a sheet; five sheets are the least that their area allows, and one is left over.
        var card = new AddPiece(new Drawn(VectorPath.Rectangle(0, 0, 95, 140)), default, "Front").Apply(Design.Blank(Length.FromMm(300), Length.FromMm(300)));
        var layout = SheetPlans.LayOut(card, [Snow], new(21, 1, TimeSpan.FromSeconds(0.5)));
        Assert.Empty(LayoutCheck.Faults(card, [Snow], layout));
        Assert.Equal([[1, 2, 3, 4, 5], [6]], layout.Stacks.Select(s => s.Numbers.ToArray()));
        Assert.Equal([4, 1], layout.Stacks.Select(s => s.Sheet.Pieces.Length));
    }

    [Fact]
    public void Many_copies_of_a_whole_card_are_planned_and_valid()
    {
        var layout = LaidOut(200, Snow);
        Assert.Empty(layout.Unplaced);
        Assert.Empty(LayoutCheck.Faults(Cases.DemoCard(), [Snow], layout));
    }

    [Fact]
    public void Equal_sheets_cost_no_sheet()
    {
        // Two frames and a strip that fits into the room beside them: as sets of one, a sheet each; all at once, fewer.
        var request = new NestRequest(Length.Zero, [new("s", Length.FromMm(100), Length.FromMm(100), Length.Zero, 99, [])],
            [new("a", VectorPath.Rectangle(0, 0, 60, 50), 10, Turns.None), new("b", VectorPath.Rectangle(0, 0, 40, 50), 10, Turns.None)])
        { Effort = TimeSpan.FromSeconds(0.5) };
        var result = Repeats.Run(request);
        Assert.Equal(5, result.SheetIds.Length);
        Assert.Empty(LayoutCheck.Faults(request, result));
    }

    [Fact]
    public void What_is_missing_in_the_drawer_is_said()
    {
        var few = Snow with { Sheets = [Snow.Sheets[0] with { Count = 3 }] };
        var (enough, layout) = (LaidOut(8, Snow), LaidOut(8, few));
        Assert.NotEmpty(layout.Unplaced);
        // With these bought, all lies somewhere, in about as many sheets.
        Assert.InRange(layout.Missing.Sum(m => m.Count), enough.Sheets.Length - 3, enough.Sheets.Length);
        Assert.Empty(enough.Missing);
    }

    [Fact]
    public void The_largest_free_rectangle_is_free_and_the_largest()
    {
        for (var seed = 1; seed <= 30; seed++)
        {
            var random = new Random(seed);
            var used = Enumerable.Range(0, random.Next(0, 6)).Select(_ =>
                VectorPath.Rectangle(random.Next(0, 40), random.Next(0, 40), random.Next(1, 20), random.Next(1, 20))).ToList();
            var found = OffCuts.Largest(Length.FromMm(50), Length.FromMm(40), used);
            Assert.All(used, u => Assert.False(found.Grown(-1e-9).Touches(u.Bounds), $"{seed}"));
            double best = 0;
            for (var left = 0; left < 50; left++)
                for (var top = 0; top < 40; top++)
                {
                    var bottom = 40.0;
                    for (var right = left + 1; right <= 50; right++)
                    {
                        // The lowest that a rectangle from here to there goes.
                        foreach (var u in used.Select(u => u.Bounds).Where(u => u.Left < right && u.Right > left && u.Bottom > top))
                            bottom = Math.Min(bottom, Math.Max(top, u.Top));
                        best = Math.Max(best, (right - left) * (bottom - top));
                    }
                }

            Assert.Equal(best, found.Area, 6);
        }
    }
}
