using CsCheck;
using Falzkunst.Core.Cards;
using Falzkunst.Core.Documents;
using Falzkunst.Core.Findings;
using Falzkunst.Core.Reading;
using Falzkunst.Core.Writing;

namespace Falzkunst.Core.Tests.Cards;

public sealed class EditTests
{
    [Fact]
    public void Any_row_of_edits_leaves_the_design_before_as_it_was_and_survives_its_file()
    {
        var start = Cases.DemoCard();
        var bytes = FalzFile.Write(start);
        var ids = start.Lines.Select(l => l.Id).Concat(start.Pieces.Select(p => p.Id)).Append("gone").ToArray();
        var id = Cases.Any(ids);
        var operation = Cases.Any([.. Operations.All]);
        var edit = Gen.OneOf<Edit>(
            Gen.Select(id, operation, (i, o) => (Edit)new SetLineOperation([i], o)),
            Gen.Select(Cases.Any([.. start.Looks.Select(l => l.Key)]), operation, (l, o) => (Edit)new SetLookOperation(l, o)),
            Gen.Select(id, operation, Gen.Bool, (i, o, b) => (Edit)new SetOutlineOperation([i], o, b, !b)),
            Gen.Select(id, Gen.Bool, (i, b) => (Edit)new SetFoldSide([i], b ? FoldSide.Mountain : FoldSide.Valley)),
            id.Select(i => (Edit)new Remove([i])),
            Gen.Select(Cases.Any("y1", "y3", "y99"), Gen.Int[-2, 12], (y, to) => (Edit)new MovePly(y, to)),
            Gen.Select(id, Cases.Any("y1", "y2", "y99"), (i, y) => (Edit)new PutOnPly([i], y)),
            Gen.Double[20, 400].Select(px => (Edit)new SetScale(px)),
            Gen.Select(id, Gen.String[Gen.Char.AlphaNumeric, 1, 9], (i, s) => (Edit)new Rename(i, s)));
        edit.Array[1, 8].Sample(edits =>
        {
            var design = start;
            foreach (var e in edits)
            {
                Assert.NotEmpty(e.Describe(design));
                design = e.Apply(design);
            }

            var written = FalzFile.Write(design);
            Assert.Equal(written, FalzFile.Write(FalzFile.Read(written)));
            // What is carried is carried by a piece that is there, and every piece lies on a ply that is there.
            Assert.All(design.Lines, l => Assert.True(l.CarriedBy is null || design.Piece(l.CarriedBy) is not null));
            Assert.All(design.Pieces, p => Assert.True(design.PlyNumber(p.PlyId) > 0));
        }, iter: 120);
        Assert.Equal(bytes, FalzFile.Write(start));
    }

    [Fact]
    public void The_remedy_of_every_finding_mends_it()
    {
        var design = Cases.DemoCard();
        for (var i = 0; i < 20; i++)
        {
            var finding = FindingList.Of(new(design, [])).FirstOrDefault(f => f.Remedy is not null);
            if (finding is null) return;
            design = finding.Remedy!.Edit.Apply(design);
            Assert.DoesNotContain(FindingList.Of(new(design, [])), f => f.Key == finding.Key);
        }

        Assert.Fail("There is no end of findings.");
    }

    [Fact]
    public void A_hole_that_is_no_longer_cut_becomes_a_line_and_its_paper_stays()
    {
        var design = Cases.Read("<svg xmlns='http://www.w3.org/2000/svg' width='100mm' height='100mm' viewBox='0 0 100 100'><g fill='none' "
            + "stroke='#000'><path d='M0 0H100V100H0Z'/><path stroke='#b63' d='M40 40H60V60H40Z'/></g></svg>");
        Assert.Equal(9600, design.Pieces[0].AreaMm2, 6);
        design = new SetLookOperation(design.Pieces[0].Edges[1].Origin!.Look, Operation.Foil).Apply(design);
        Assert.Equal(10000, design.Pieces[0].AreaMm2, 6);
        Assert.Equal((Operation.Foil, "p1"), (design.Lines[0].Operation, design.Lines[0].CarriedBy));
    }

    [Theory]
    [InlineData("M-0.2 50H100.2")]
    [InlineData("M0 50H100")]
    [InlineData("M1 50L99 50.2")]
    public void A_fold_set_back_stops_short_on_both_sides(string d)
    {
        var design = Cases.Read("<svg xmlns='http://www.w3.org/2000/svg' width='100mm' height='100mm' viewBox='0 0 100 100'><rect width='100' height='100' "
            + $"fill='#eee'/><path fill='none' stroke='#00f' d='{d}'/></svg>");
        design = new SetFoldsBack([design.Lines[0].Id], Length.FromMm(1.5)).Apply(design);
        var span = Folds.SpanOf(design.Lines[0].Path, design.Pieces[0].Outline)!;
        Assert.Equal(1.5, span.LeastShort.Mm, 0.01);
        Assert.Equal(1.5, span.MostShort.Mm, 0.01);
    }

    [Fact]
    public void A_piece_too_large_for_its_stock_can_go_to_another()
    {
        var design = Cases.DemoCard();
        Stock Of(string id, Colour colour, double w, double h) =>
            new(id, id, colour, 200, Length.FromMm(0.2), [new SheetSize(Length.FromMm(w), Length.FromMm(h), 5, Length.FromMm(5))]);
        Stock[] drawer = [Of("small", design.Pieces[0].Colour, 100, 100), Of("large", Colour.Black, 300, 300)];
        var finding = FindingList.Of(new(design, drawer)).First(f => f.Code == "too-large" && f.About[0] == design.Pieces[0].Id);
        Assert.Equal(Severity.Stop, finding.Severity);
        Assert.Equal("large", finding.Remedy!.Edit.Apply(design).Pieces[0].StockId);
    }
}
