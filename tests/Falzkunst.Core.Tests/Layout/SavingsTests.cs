using Falzkunst.Core.Cards;
using Falzkunst.Core.Layout;
using Falzkunst.Core.Printing;
using Falzkunst.Core.Regions;

namespace Falzkunst.Core.Tests.Layout;

public sealed class SavingsTests
{
    private static Stock Paper(double width, double height, double margin) => new("s", "Snow", Colour.White, 220, Length.FromMm(0.3),
        [new(Length.FromMm(width), Length.FromMm(height), 20, Length.FromMm(margin))]);

    private static Design Card(double width, double height, PrintSettings? print = null)
    {
        var design = new AddPiece(new Drawn(VectorPath.Rectangle(0, 0, width, height)), default, "Base")
            .Apply(Design.Blank(Length.FromMm(300), Length.FromMm(300)));
        return print is null ? design
            : new FillWith([design.Pieces[0].Id], new(PatternKind.Dots, Colour.Black, null), null, false, null).Apply(design) with { Print = print };
    }

    private static DocketLayout LaidOut(Design design, Stock stock, int copies)
    {
        var layout = SheetPlans.LayOut(design, [stock], LayoutSettings.For(copies) with { Effort = TimeSpan.FromSeconds(0.5) });
        Assert.Empty(LayoutCheck.Faults(design, [stock], layout));
        return layout;
    }

    /// <summary>Each saving, taken, gives as many sheets as it said.</summary>
    private static void Holds(Saving saving, Design design, Stock stock, int copies)
    {
        var next = Savings.EditOf(saving.Key, design)?.Make(design) ?? design;
        if (Savings.MarginOf(saving.Key) is { } margin) stock = stock with { Sheets = [.. stock.Sheets.Select(s => s with { Margin = margin })] };
        Assert.True(LaidOut(next, stock, copies).Sheets.Length <= saving.Sheets, saving.Key);
    }

    [Fact]
    public void Two_bases_go_on_one_sheet_if_its_margin_is_a_millimetre_or_they_are_smaller()
    {
        // 2 × 146 and a gap of 2 need 294 mm of A4; 291 lie within margins of 3 mm, 295 within those of 1 mm.
        var (design, stock) = (Card(204, 146), Paper(210, 297, 3));
        var layout = LaidOut(design, stock, 2);
        Assert.Equal(2, layout.Sheets.Length);
        var savings = Savings.Of(design, [stock], layout, Box.Empty);
        Assert.Equal(["margin 1", "size 2"], savings.Select(r => r.Key));
        Assert.All(savings, r => Assert.Equal((1, 2), r.OnOne));
        Assert.All(savings, r => Holds(r, design, stock, 2));
        Assert.Contains("143.1 mm", savings[1].Text);
    }

    [Fact]
    public void Marks_nearer_to_the_edge_or_of_another_kind_make_room()
    {
        var (design, stock) = (Card(120, 172, new() { Marks = MarkKind.Squares, Bleed = Length.FromMm(1) }), Paper(148, 210, 3));
        var layout = LaidOut(design, stock, 1);
        Assert.Single(layout.Unplaced);
        var savings = Savings.Of(design, [stock], layout, Box.Empty);
        Assert.Contains(savings, r => r.Key == "inset 5");
        Assert.All(savings, r => Assert.Equal(0, r.Unplaced));
        Assert.All(savings, r => Holds(r, design, stock, 1));
    }

    [Fact]
    public void Nothing_is_offered_where_nothing_could_be_saved()
    {
        var (design, stock) = (Card(100, 100), Paper(210, 297, 3));
        Assert.Empty(Savings.Of(design, [stock], LaidOut(design, stock, 2), Box.Empty));
        // Twelve fill six sheets as far as area goes.
        var full = Card(203, 140);
        Assert.DoesNotContain(Savings.Of(full, [stock], LaidOut(full, stock, 12), Box.Empty), r => r.Sheets < 6);
    }

    /// <summary>What is only printed shares its cuts: three by three tags of 60 × 90 lie on A4 without a gap, with crop marks at their ends alone.</summary>
    [Fact]
    public void Rectangles_that_are_only_printed_share_their_cuts()
    {
        var design = Card(65, 90, new() { Marks = null, Bleed = Length.FromMm(2) });
        var stock = Paper(210, 297, 3);
        var layout = LaidOut(design, stock, 9);
        var sheet = Assert.Single(layout.Sheets);
        Assert.Equal(9, sheet.Pieces.Length);
        var boxes = sheet.Pieces.Select(p => design.Pieces[0].Outline.Transform(p.ToSheet).Bounds).ToList();
        Assert.Equal(3, boxes.Select(b => Math.Round(b.Left, 6)).Distinct().Count());
        Assert.Contains(boxes, b => boxes.Any(o => Math.Abs(o.Left - b.Right) < 1e-9));
        var printed = PrintFile.Sheets(design, layout, "tags")[0];
        // The bleed goes beyond the outer edges only.
        foreach (var p in printed.Pieces)
            Assert.All(printed.Pieces.Where(o => o != p), o => Assert.InRange(Region.Of(p.Clip).Overlap(Region.Of(o.Outline)).AreaMm2, 0, 1e-3));
        Assert.Equal(2, printed.Pieces.Min(p => p.Outline.Bounds.Left) - printed.Pieces.Min(p => p.Clip.Bounds.Left), 2);
    }

    [Fact]
    public void Other_sheets_are_offered_as_far_as_the_machine_takes_them()
    {
        var (design, stock) = (Card(95, 140), Paper(148, 210, 5));
        var layout = LaidOut(design, stock, 6);
        Assert.Equal(6, layout.Sheets.Length);
        var found = Savings.Of(design, [stock], layout, new(0, 0, 305, 305)).Where(s => Savings.SheetsOf(s.Key) is not null).ToList();
        // Four on A4, six on 12 × 12 in; A3 is too long for the mat.
        Assert.Contains(found, s => s is { Key: "sheets 210 297", Sheets: 2 });
        Assert.Contains(found, s => s is { Key: "sheets 304.8 304.8", Sheets: 1 });
        Assert.DoesNotContain(found, s => s.Key == "sheets 297 420");
        Assert.DoesNotContain(Savings.Of(design, [stock], layout, Box.Empty), s => Savings.SheetsOf(s.Key) is not null);
    }

    [Fact]
    public void As_many_as_fit_go_on_the_sheets_that_are_begun()
    {
        var (design, stock) = (Card(95, 140), Paper(210, 297, 5));
        var layout = LaidOut(design, stock, 5);
        Assert.Equal(8, Fuller.Of(design, [stock], layout, 1000));
        Assert.Equal(6, Fuller.Of(design, [stock], layout, 6));
        // One in a row of two more for each card, and two to spare: 2 × 3 + 2 of it.
        var twice = new SetNumber([design.Pieces[0].Id], new(1, 2)).Apply(design);
        Assert.Equal(8, LaidOut(twice, stock, 3).Sheets.Sum(s => s.Pieces.Length));
        Assert.Equal(3, Fuller.Of(twice, [stock], LaidOut(twice, stock, 3), 1000));
    }
}
