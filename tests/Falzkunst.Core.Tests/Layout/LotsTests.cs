using Falzkunst.Core.Cards;
using Falzkunst.Core.Layout;

namespace Falzkunst.Core.Tests.Layout;

/// <summary>Dockets that share sheets.</summary>
public sealed class LotsTests
{
    private static readonly Stock Snow = new("snow", "Snow", Colour.FromHex("#fbfbf7"), 220, Length.FromMm(0.25),
        [new SheetSize(Length.FromMm(210), Length.FromMm(297), 400, Length.FromMm(5))]);

    private static Design Card(params (double Wide, double High)[] pieces) => pieces.Aggregate(Design.Blank(Length.FromMm(300), Length.FromMm(300)),
        (design, p) => new AddPiece(new Drawn(VectorPath.Rectangle(0, 0, p.Wide, p.High)), default, "Front").Apply(design));

    private static DocketLayout LaidOut(Design design, int copies) =>
        SheetPlans.LayOut(design, [Snow], new(copies, 1, TimeSpan.FromSeconds(0.25)) { Rounds = 2 });

    [Fact]
    public void What_is_left_over_of_each_shares_a_sheet()
    {
        // Four of the one on a sheet, eight of the other: 5 and 9 leave one of each over.
        Lot[] lots = [new(41, Card((95, 140)), 5), new(46, Card((95, 66)), 9)];
        var both = Lots.Together(lots);
        var layout = LaidOut(both, 5);
        Assert.Empty(LayoutCheck.Faults(both, [Snow], layout));
        Assert.Equal(4, lots.Sum(l => LaidOut(l.Design, l.Copies).Sheets.Length));
        Assert.Equal(3, layout.Sheets.Length);
        // Those that are full bear one card alone, as by themselves.
        Assert.Equal([1, 1, 2], layout.Sheets.Select(s => s.Pieces.Select(p => p.PieceId).Distinct().Count()));
    }

    [Fact]
    public void Cards_that_stay_together_do_so_on_shared_sheets()
    {
        Lot[] lots = [new(41, Card((95, 140), (40, 20)), 6), new(46, new SetLaying(LayingRules.Usual with { CardsTogether = true })
            .Apply(Card((120, 120), (60, 30))), 3)];
        var both = Lots.Together(lots);
        var layout = LaidOut(both, 6);
        Assert.Empty(LayoutCheck.Faults(both, [Snow], layout));
        foreach (var sheet in layout.Sheets)
            foreach (var of in sheet.Pieces.GroupBy(p => both.Piece(p.PieceId)!.Guest?.Docket)) Assert.Single(of.CountBy(p => p.PieceId).GroupBy(c => c.Value));
    }

    [Theory]
    [MemberData(nameof(Seeds))]
    public void Dockets_together_are_each_of_their_pieces_as_often_as_alone(int seed)
    {
        var random = new Random(seed);
        Lot[] lots = [.. Enumerable.Range(0, random.Next(1, 5)).Select(i => new Lot(40 + i, Changed(i), random.Next(1, 7)))];
        var all = Lots.Together(lots);
        Assert.Null(all.Check());
        Assert.Null(Lots.Fault(lots));
        Assert.Equal(all, Lots.Together(lots));
        // The first is as it was, so that what is known of its pieces holds.
        Assert.Equal(lots[0].Design.Pieces, all.Pieces.Take(lots[0].Design.Pieces.Length));
        foreach (var (docket, design, copies) in lots.Skip(1))
        {
            var its = all.Papers.Where(p => p.Guest?.Docket == docket).ToList();
            Assert.Equal(design.Papers.Select(p => p.NumberFor(copies)), its.Select(p => p.NumberFor(lots[0].Copies)));
            Assert.Equal(design.Papers.Select(p => p.Outline), its.Select(p => p.Outline));
        }

        // None lies over another: what is printed of one is not covered by another.
        for (var i = 1; i < lots.Length; i++)
            Assert.True(all.Pieces.Where(p => p.Guest?.Docket == 40 + i).Min(p => p.OnCard.Bounds.Left)
                > all.Pieces.Where(p => (p.Guest?.Docket ?? 40) < 40 + i).Max(p => p.OnCard.Bounds.Right));
        var layout = LaidOut(all, lots[0].Copies);
        Assert.Empty(LayoutCheck.Faults(all, [Snow], layout));
        // What shares sheets keeps the largest gap that one asks, and each turns as its own docket asks.
        Assert.All(layout.Sheets, s => Assert.Equal(lots.Max(l => l.Design.Laying.Gap), s.GapOf(layout.Gap)));
        foreach (var laid in layout.Sheets.SelectMany(s => s.Pieces))
            if ((all.Piece(laid.PieceId)!.Guest?.Laying ?? all.Laying).Turns == Turns.None) Assert.Equal(1, laid.ToSheet.A, 6);
        Assert.True(layout.Sheets.Length <= lots.Sum(l => LaidOut(l.Design, l.Copies).Sheets.Length), $"{layout.Sheets.Length} sheets");

        Design Changed(int i)
        {
            Edit[] edits = [new SetLaying(new(Length.FromMm(random.Next(1, 5)), (Turns)random.Next(4))), new SetNumber([.. Card0(i).Papers.Take(1)
                .Select(p => p.Id)], new(random.Next(3), random.Next(4)))];
            return edits.Aggregate(Card0(i), (d, e) => e.Apply(d));
        }

        Design Card0(int i) => (seed + i) % 3 == 0 ? Cases.DemoCard()
            : Card([.. Enumerable.Range(0, 1 + (seed + i) % 4).Select(k => (30.0 + 17 * ((seed + k) % 5), 20.0 + 23 * ((seed + i + k) % 4)))]);
    }

    public static TheoryData<int> Seeds => Cases.EachSeed("FALZKUNST_LOTS", "2@1", "4@1");

    [Fact]
    public void Dockets_that_are_printed_in_other_ways_are_refused()
    {
        var plain = Card((40, 40));
        var printed = plain with { AllPieces = [plain.AllPieces[0] with { AllArtwork = [new("a9", null, Affine.Scale(20, 20), 1)] }] };
        var dots = new SetPrinting(new() { Marks = MarkKind.Dots }).Apply(printed);
        var brackets = new SetPrinting(new()).Apply(printed);
        Assert.Null(Lots.Fault([new(41, brackets, 1), new(42, brackets, 2), new(43, plain, 1)]));
        Assert.Contains("in different ways", Lots.Fault([new(41, brackets, 1), new(42, dots, 2)]));
        Assert.Contains("in different ways", Lots.Fault([new(41, brackets, 1), new(42, printed, 2)]));
        // With pictures that neither prints, both are only cut.
        Assert.Null(Lots.Fault([new(41, plain, 1), new(42, printed, 2)]));
        // The docket that has the sheets is the one that is printed.
        Assert.Contains("choose docket 41 there", Lots.Fault([new(41, plain, 1), new(42, dots, 2)]));
        Assert.NotNull(Lots.Fault([.. Enumerable.Range(1, Lots.Most + 1).Select(n => new Lot(n, plain, 1))]));
    }
}
