using System.Collections.Immutable;
using Falzkunst.Core.Cards;
using Falzkunst.Core.Layout;

namespace Falzkunst.Core.Tests.Layout;

public sealed class ByHandTests
{
    private static readonly Stock[] Drawer = [Paper("snow", "#fbfbf7", 305, 305, 4), Paper("slate", "#5f7c95", 210, 297, 9)];

    private static Stock Paper(string id, string hex, double width, double height, int count) => new(id, id, Colour.FromHex(hex), 220, Length.FromMm(0.25),
        [new SheetSize(Length.FromMm(width), Length.FromMm(height), count, Length.FromMm(5))]);

    private static readonly Design Two = Squares(2);

    private static readonly PieceCopy First = new(Two.Pieces[0].Id, 1), Second = new(Two.Pieces[1].Id, 1);

    /// <summary>Two squares of 40 mm, 30 mm apart, on a sheet of 305 mm: the first at 10, 10.</summary>
    private static (Design Design, DocketLayout Layout) TwoSquares()
    {
        return (Two, new(1, Length.FromMm(2), [new SheetPlan("snow", "snow", Drawer[0].Sheets[0],
            [new(First.PieceId, 1, At(Two, First.PieceId, 10, 10)), new(Second.PieceId, 1, At(Two, Second.PieceId, 80, 20))], 0)], []));
    }

    private static Design Squares(int count) => Enumerable.Range(0, count).Aggregate(Design.Blank(Length.FromMm(300), Length.FromMm(300)), (d, i) =>
        new AddPiece(new Drawn(VectorPath.Rectangle(0, 0, 40, 40)), new(default, new(60 * i, 0), false), $"Square {i + 1}").Apply(d));

    private static Affine At(Design design, string piece, double left, double top)
    {
        var box = design.Piece(piece)!.Outline.Bounds;
        return Affine.Move(left - box.Left, top - box.Top);
    }

    private static Box BoxOf(Design design, DocketLayout layout, PieceCopy which) => layout.Find(which) is var (sheet, index)
        ? design.Piece(which.PieceId)!.Outline.Transform(layout.Sheets[sheet].Pieces[index].ToSheet).Bounds : Box.Empty;

    [Fact]
    public void A_piece_that_is_pushed_stops_at_its_neighbour_and_slides_along_it()
    {
        var (design, layout) = TwoSquares();
        var moved = ByHand.Move(design, layout, First, default, new(40, 25));
        Assert.Equal("Move “Square 1”", moved.Text);
        var box = BoxOf(design, moved.Layout!, First);
        // It wanted to 50: the neighbour begins at 80, with a gap of 2 before it. Down it went all the way.
        Assert.InRange(box.Right, 77.9, 78.01);
        Assert.InRange(box.Top, 34.99, 35.01);
        // Far beyond, it lies behind.
        Assert.InRange(BoxOf(design, ByHand.Move(design, layout, First, default, new(85, 10)).Layout!, First).Left, 121.99, 122.1);
        // The edge holds it too.
        Assert.InRange(BoxOf(design, ByHand.Move(design, layout, First, default, new(-90, 40)).Layout!, First).Left, 4.99, 5.01);
        Assert.Contains("can't go that way", ByHand.Move(design, moved.Layout!, First, default, new(1, 0)).Text, StringComparison.Ordinal);
    }

    [Fact]
    public void What_is_moved_on_equal_sheets_is_moved_on_all_and_what_is_set_beside_leaves_one()
    {
        var (design, one) = TwoSquares();
        var again = one.Sheets[0] with { Pieces = [.. one.Sheets[0].Pieces.Select(p => p with { Copy = 2 })] };
        var layout = one with { Copies = 2, Sheets = [one.Sheets[0], again] };
        var moved = ByHand.Move(design, layout, First, Angle.FromDegrees(45), default).Layout!;
        Assert.Single(moved.Stacks);
        Assert.True(BoxOf(design, moved, First with { Copy = 2 }).Width > 55);
        var beside = ByHand.SetBeside(design, moved, Second).Layout!;
        Assert.Equal(2, beside.Stacks.Count);
        Assert.Equal(Second, Assert.Single(beside.Beside));
        Assert.Empty(LayoutCheck.Faults(design, Drawer, beside));
        // Back on the other sheet, and onto one of its own.
        var back = ByHand.PutOn(design, Drawer, beside, Second, 1, new(200, 200)).Layout!;
        Assert.Equal(1, back.Find(Second)?.Sheet);
        Assert.InRange(BoxOf(design, back, Second).Centre.X, 199.9, 200.1);
        var own = ByHand.PutOn(design, Drawer, back, Second, 2).Layout!;
        Assert.Equal(2, own.Find(Second)?.Sheet);
        // A sheet that nothing lies on goes back to the drawer.
        Assert.Equal(2, ByHand.SetBeside(design, own, Second).Layout!.Sheets.Length);
        Assert.Contains("No sheet is left", ByHand.PutOn(design, [Drawer[0] with { Sheets = [Drawer[0].Sheets[0] with { Count = 2 }] }], back, Second, 2).Text,
            StringComparison.Ordinal);
    }

    [Fact]
    public void Whatever_is_done_by_hand_the_layout_stays_valid_and_pins_stay()
    {
        var (count, first) = Cases.Seeds("FALZKUNST_HANDS", "2@1", "3@1");
        var design = Cases.DemoCard();
        for (var seed = first; seed < first + count; seed++)
        {
            var random = new Random(seed);
            var settings = new LayoutSettings(4, seed, TimeSpan.FromSeconds(0.4));
            Stock[] drawer = [Drawer[0] with { Sheets = [Drawer[0].Sheets[0] with { Count = 30 }] }];
            var layout = SheetPlans.LayOut(design, drawer, settings);
            var done = 0;
            for (var step = 0; step < 40; step++)
            {
                var all = layout.Sheets.SelectMany(s => s.Pieces.Select(p => p.Which)).Concat(layout.Beside).ToList();
                var which = all[random.Next(all.Count)];
                var by = new Point(80 * random.NextDouble() - 40, 80 * random.NextDouble() - 40);
                var result = random.Next(5) switch
                {
                    0 => ByHand.Move(design, layout, which, default, by),
                    1 => ByHand.Move(design, layout, which, Angle.FromDegrees(360 * random.NextDouble()), by),
                    2 => ByHand.SetBeside(design, layout, which),
                    3 => ByHand.PutOn(design, drawer, layout, which, random.Next(layout.Sheets.Length + 1)),
                    _ => ByHand.Pin(design, layout, which, random.Next(4) > 0),
                };
                Assert.NotEmpty(result.Text);
                // What the engine's own footprints got wrong would be refused by the check, and told apart here.
                Assert.DoesNotContain("apart on", result.Text, StringComparison.Ordinal);
                if (result.Layout is null) continue;
                layout = result.Layout;
                done++;
            }

            Assert.True(done > 10, $"{seed}: only {done} of 40 were done.");
            Assert.True(LayoutCheck.Faults(design, drawer, layout) is [], $"{seed}: {LayoutCheck.Faults(design, drawer, layout).FirstOrDefault()}");
            var rest = SheetPlans.LayOut(design, drawer, settings with { Kept = layout });
            Assert.True(LayoutCheck.Faults(design, drawer, rest) is [], $"{seed}: {LayoutCheck.Faults(design, drawer, rest).FirstOrDefault()}");
            var pins = layout.Sheets.SelectMany(s => s.Pieces).Where(p => p.Pinned).ToList();
            Assert.NotEmpty(pins);
            Assert.All(pins, pin => Assert.Contains(rest.Sheets, s => s.Pieces.Contains(pin)));
            Assert.Equal(layout.Beside.AsEnumerable(), rest.Beside);
        }
    }

    [Fact]
    public void What_is_kept_of_a_sheet_is_laid_out_on_without_touching_a_hole()
    {
        var design = Cases.DemoCard();
        Stock[] drawer = [Drawer[0]];
        var settings = new LayoutSettings(1, 1, TimeSpan.FromSeconds(0.4));
        var cut = SheetPlans.LayOut(design, drawer, settings);
        var sheet = cut.Sheets[^1];
        var whole = OffCuts.Kept(design, sheet, true)!;
        var (outline, taken) = (Core.Regions.Region.Of(whole.Outline!), sheet.Pieces.Select(p =>
            Core.Regions.Region.Of(design.Piece(p.PieceId)!.Outline).Transform(p.ToSheet)));
        // It begins at its own corner, which here is the sheet's.
        Assert.All(taken, t => Assert.True(outline.Overlap(t).AreaMm2 < 0.01));
        Assert.True(outline.AreaMm2 > 0.9 * (305 * 305 * (1 - sheet.Utilisation) - 2000 * sheet.Pieces.Length));
        // Small things go on it, and no whole sheet is used.
        var small = new AddPiece(new Drawn(VectorPath.Disc(default, 12)), default, "Dot").Apply(Design.Blank(Length.FromMm(100), Length.FromMm(100)));
        drawer = [Drawer[0] with { Sheets = [.. Drawer[0].Sheets, whole] }];
        var dots = SheetPlans.LayOut(small, drawer, settings with { Copies = 6 });
        Assert.True(Assert.Single(dots.Sheets).Size.IsOffCut);
        Assert.Empty(LayoutCheck.Faults(small, drawer, dots));
        var on = dots.Sheets[0].Pieces.Select(p => Core.Regions.Region.Of(small.Pieces[0].Outline).Transform(p.ToSheet));
        Assert.All(on, dot => Assert.True(outline.Holds(dot)));
        // Where a whole sheet is needed anyway and takes all, the off-cut stays in the drawer.
        var more = SheetPlans.LayOut(small, drawer, settings with { Copies = 80 });
        Assert.False(Assert.Single(more.Sheets).Size.IsOffCut);
        // By hand they keep to it too.
        var dragged = ByHand.Move(small, dots, dots.Sheets[0].Pieces[0].Which, default, new(150, 150));
        Assert.Empty(LayoutCheck.Faults(small, drawer, dragged.Layout ?? dots));
    }
}
