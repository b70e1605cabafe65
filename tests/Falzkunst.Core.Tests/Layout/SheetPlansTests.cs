using Falzkunst.Core.Cards;
using Falzkunst.Core.Findings;
using Falzkunst.Core.Layout;
using Falzkunst.Core.Reading;

namespace Falzkunst.Core.Tests.Layout;

public sealed class SheetPlansTests
{
    private static Stock Paper(string id, string hex, double w = 210, double h = 297, int count = 20) =>
        new(id, id, Colour.FromHex(hex), 220, Length.FromMm(0.25), [new SheetSize(Length.FromMm(w), Length.FromMm(h), count, Length.FromMm(5))]);

    private static readonly Stock[] Drawer =
        [Paper("snow", "#fbfbf7"), Paper("slate", "#5f7c95", 305, 305, 8), Paper("pine", "#2f5d46", 215.9, 279.4, 10), Paper("ivory", "#f4ead2", 210, 297, 15),
        Paper("copper", "#b86842", 148, 210, 6)];

    private sealed class Seen : IProgress<LayoutProgress>
    {
        public List<LayoutProgress> All { get; } = [];

        public void Report(LayoutProgress value) => All.Add(value);
    }

    [Fact]
    public void The_demo_docket_lies_on_its_stocks_whole_and_valid()
    {
        var design = Cases.DemoCard();
        var seen = new Seen();
        var settings = new LayoutSettings(12, 1, TimeSpan.FromSeconds(1));
        var layout = SheetPlans.LayOut(design, Drawer, settings, seen);
        Assert.Empty(layout.Unplaced);
        Assert.Equal(12 * design.Pieces.Length, layout.Sheets.Sum(s => s.Pieces.Length));
        // Every piece lies on the stock that is nearest in colour, inside of its margins, and clear of all others.
        foreach (var sheet in layout.Sheets)
        {
            var placed = sheet.Pieces.Select(p =>
                (Piece: design.Piece(p.PieceId)!, Region: Core.Regions.Region.Of(design.Piece(p.PieceId)!.Outline, 0.002).Transform(p.ToSheet))).ToList();
            for (var i = 0; i < placed.Count; i++)
            {
                Assert.Equal(sheet.StockId, Stocks.For(placed[i].Piece, Drawer)!.Id);
                var box = placed[i].Region.Bounds;
                Assert.True(box.Left >= 4.99 && box.Top >= 4.99 && box.Right <= sheet.Size.Width.Mm - 4.99 && box.Bottom <= sheet.Size.Height.Mm - 4.99);
                for (var j = 0; j < i; j++) Assert.True(placed[i].Region.DistanceTo(placed[j].Region) >= 2 - LayoutCheck.Tolerance);
            }
        }

        // Progress only goes forward, and the best so far never loses pieces.
        Assert.Equal(seen.All.Select(p => p.Fraction).Order(), seen.All.Select(p => p.Fraction));
        Assert.All(seen.All, p => Assert.NotEmpty(p.Text));
    }

    [Fact]
    public void A_piece_goes_to_the_stock_that_was_chosen_for_it()
    {
        var design = Cases.DemoCard();
        var hut = design.Pieces.First(p => p.Label == "Hut");
        Assert.Equal("ivory", Stocks.For(hut, Drawer)!.Id);
        design = new AssignStock([hut.Id], "copper").Apply(design);
        Assert.Equal("copper", Stocks.For(design.Piece(hut.Id)!, Drawer)!.Id);
        design = new AssignStock([hut.Id], "").Apply(design);
        Assert.Equal("ivory", Stocks.For(design.Piece(hut.Id)!, Drawer)!.Id);
        // A stock that is gone from the drawer counts as none chosen.
        Assert.Equal("ivory", Stocks.For(hut with { StockId = "gone" }, Drawer)!.Id);
    }

    [Fact]
    public void An_empty_drawer_is_said_piece_by_piece()
    {
        var design = Cases.DemoCard();
        var layout = SheetPlans.LayOut(design, [], new(2, 1, TimeSpan.FromSeconds(0.1)));
        Assert.Equal(2 * design.Pieces.Length, layout.Unplaced.Length);
        Assert.Equal(0, layout.Utilisation);
    }

    [Fact]
    public void Too_few_sheets_leave_pieces_that_say_so()
    {
        var design = Cases.DemoCard();
        var drawer = Drawer.Select(s => s with { Sheets = [s.Sheets[0] with { Count = 1 }] }).ToList();
        var layout = SheetPlans.LayOut(design, drawer, new(12, 1, TimeSpan.FromSeconds(0.5)));
        Assert.Contains(layout.Unplaced, u => u.Piece == "p1");
        Assert.All(layout.Unplaced, u => Assert.Contains("no sheet is left", u.Why));
        Assert.Equal(12 * design.Pieces.Length, layout.Unplaced.Length + layout.Sheets.Sum(s => s.Pieces.Length));
    }

    [Fact]
    public void A_layout_that_an_earlier_version_kept_reads_as_it_was()
    {
        const string Kept = """
            {"Copies":12,"GapMm":2.5,"Sheets":[{"StockId":"s","StockName":"Snow",
             "Size":{"WidthMm":210,"HeightMm":297,"Count":3,"MarginMm":5,"UsableWidthMm":200,"UsableHeightMm":287},
             "Pieces":[{"PieceId":"p1","Copy":2,"ToSheet":{"A":1,"B":0,"C":0,"D":1,"E":5,"F":6}}],"Utilisation":0.5}],"Unplaced":[],"Utilisation":0.5}
            """;
        var layout = System.Text.Json.JsonSerializer.Deserialize<DocketLayout>(Kept)!;
        Assert.Equal((12, 2.5, 210.0, 297.0, 5.0),
            (layout.Copies, layout.Gap.Mm, layout.Sheets[0].Size.Width.Mm, layout.Sheets[0].Size.Height.Mm, layout.Sheets[0].Size.Margin.Mm));
        Assert.Equal(new Affine(1, 0, 0, 1, 5, 6), layout.Sheets[0].Pieces[0].ToSheet);
        Assert.Contains("\"GapMm\":2.5", System.Text.Json.JsonSerializer.Serialize(layout));
    }

    [Fact]
    public void A_fold_goes_along_the_grain()
    {
        var design = Cases.DemoCard();
        var folded = design.Papers.Where(p => p.Lines.Any(l => l.Operation == Operation.Score)).ToList();
        Assert.NotEmpty(folded);
        foreach (var grain in new[] { Grain.Down, Grain.Across })
        {
            Stock[] drawer = [.. Drawer.Select(s => s with { Sheets = [.. s.Sheets.Select(q => q with { Width = Length.FromMm(305), Height = Length.FromMm(305),
                Grain = grain })] })];
            var layout = SheetPlans.LayOut(design, drawer, new LayoutSettings(3, 1, TimeSpan.FromSeconds(0.5)));
            Assert.Empty(LayoutCheck.Faults(design, drawer, layout));
            foreach (var placed in layout.Sheets.SelectMany(s => s.Pieces))
            {
                if (folded.Find(p => p.Id == placed.PieceId) is not { } piece) continue;
                Assert.False(Grains.IsAcross(piece, placed.ToSheet, grain));
                Assert.True(Grains.IsAcross(piece, placed.ToSheet, grain == Grain.Down ? Grain.Across : Grain.Down));
                // Seen without the code that is tested.
                var fold = piece.Lines.First(l => l.Operation == Operation.Score).Path.Transform(placed.ToSheet).Bounds;
                Assert.True(grain == Grain.Down ? fold.Height > 20 * fold.Width : fold.Width > 20 * fold.Height);
            }
        }
    }
}
