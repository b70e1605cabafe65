using CsCheck;
using Falzkunst.Core.Cards;
using Falzkunst.Core.Documents;
using Falzkunst.Core.Writing;

namespace Falzkunst.Core.Tests.Cards;

/// <summary>Files beside one another, what is left out, collections, sizes, and rules of a source.</summary>
public sealed class BringingTests
{
    private static string Svg(string body, string size = "width='100mm' height='60mm'", string before = "") =>
        $"{before}<svg xmlns='http://www.w3.org/2000/svg' {size} viewBox='0 0 100 60'>{body}</svg>";

    private const string Folded = "<rect width='100' height='60' fill='#f4ead2'/><path d='M50 8V20' stroke='#00f' fill='none'/><path d='M10 10C20 0 30 20 40 "
        + "10' stroke='#c00' fill='none'/>";

    [Fact]
    public void What_is_left_out_comes_back_just_as_it_was() =>
        Gen.Int[1, 12].Array[1, 6].Sample(picks =>
        {
            var start = Cases.DemoCard();
            var design = start;
            foreach (var p in picks) design = new LeaveOut([$"p{p}"]).Apply(design);
            foreach (var part in design.LeftOut.Reverse()) design = new PutBack(part.Id).Apply(design);
            Assert.Empty(design.LeftOut);
            // The demo's doubled line, too.
            start = new PutBack(start.LeftOut[0].Id).Apply(start);
            Assert.Equal(start.Pieces.Select(p => (p.Id, p.PlyId, p.Outline)), design.Pieces.Select(p => (p.Id, p.PlyId, p.Outline)));
            Assert.Equal(start.Lines.Select(l => (l.Id, l.CarriedBy)), design.Lines.Select(l => (l.Id, l.CarriedBy)));
            Assert.Equal(start.Plies.Select(y => y.Id).Order(), design.Plies.Select(y => y.Id).Order());
        });

    [Fact]
    public void What_is_left_out_grows_with_the_rest()
    {
        var start = Cases.Read(Svg(Folded, "width='400' height='240'"));
        var there = new SetScale(72).Apply(start);
        var around = new PutBack(new LeaveOut(["p1"]).Apply(start).LeftOut.Single().Id).Apply(new SetScale(72).Apply(new LeaveOut(["p1"]).Apply(start)));
        Assert.Equal(there.Pieces.Single().Outline, around.Pieces.Single().Outline);
        Assert.Equal(there.Lines.Select(l => l.Path), around.Lines.Select(l => l.Path));
    }

    [Fact]
    public void A_file_is_placed_beside_what_is_there_and_touches_nothing()
    {
        var one = Cases.Read(Svg(Folded));
        var both = new BringBeside(one, "again").Apply(new BringBeside(Cases.DemoCard(), "card").Apply(one));
        Assert.Equal(2 + Cases.DemoCard().Pieces.Length, both.Pieces.Length);
        Assert.Equal(both.Pieces.Length, both.Pieces.Select(p => p.Id).Distinct().Count());
        Assert.Equal(both.Lines.Length, both.Lines.Select(l => l.Id).Distinct().Count());
        Assert.All(both.Pieces, p => Assert.All(p.Lines, l => Assert.True(p.Carries(l.Path))));
        var (first, last) = (both.Pieces[0].OnCard.Bounds, both.Pieces[^1].OnCard.Bounds);
        Assert.True(last.Left > first.Right + 9.9);
        Assert.Equal(FalzFile.Write(both), FalzFile.Write(FalzFile.Read(FalzFile.Write(both))));
    }

    [Theory]
    [InlineData(3, 4, 12)]
    [InlineData(6, 4, 24)]
    public void A_sheet_of_sayings_is_a_collection(int columns, int rows, int parts)
    {
        var body = string.Concat(Enumerable.Range(0, columns * rows).Select(i =>
        {
            double x = 4 + i % columns * 30, y = 4 + i / columns * 18;
            var paths = Enumerable.Range(0, 6).Select(k => x + k * 3).Select(at =>
                FormattableString.Invariant($"<path d='M{at} {y}C{at + 3} {y - 3} {at} {y + 8} {at + 2} {y + 6}' fill='none' stroke='#114'/>"));
            return string.Concat(paths);
        }));
        var design = Cases.Read($"<svg xmlns='http://www.w3.org/2000/svg' width='200mm' height='90mm' viewBox='0 0 200 90'>{body}</svg>");
        var found = Parts.Of(design);
        Assert.Equal(parts, found.Count);
        Assert.All(found, p => Assert.Equal(6, p.Ids.Length));
        Assert.True(found[0].Bounds.Left < found[1].Bounds.Left && found[0].Bounds.Top <= found[^1].Bounds.Top);
    }

    [Fact]
    public void A_card_is_no_collection() => Assert.Empty(Parts.Of(Cases.DemoCard()));

    [Theory]
    [InlineData(419.5, 595.3, 72, "A6 card, open")]
    [InlineData(396.9, 559.4, 96, "A6 card")]
    [InlineData(1080, 1080, 90, "12 × 12 in sheet")]
    [InlineData(864, 864, 72, "12 × 12 in sheet")]
    public void The_likely_size_is_that_of_a_known_format(double w, double h, double px, string format)
    {
        var design = Cases.Read(FormattableString
            .Invariant($"<svg xmlns='http://www.w3.org/2000/svg' width='{w}' height='{h}'><rect width='{w}' height='{h}' fill='#f4ead2'/></svg>"));
        var guess = CardFormats.Guesses(design)[0];
        Assert.Equal((px, format), (guess.PxPerInch, guess.Format?.Name));
    }

    [Fact]
    public void Rules_of_a_source_do_for_the_next_file_what_was_chosen_in_this_and_are_taken_back()
    {
        var chosen = new SetLookOperation(Cases.Read(Svg(Folded)).Lines[0].Look, Operation.Perforate).Apply(Cases.Read(Svg(Folded)));
        var rules = SourceRules.From(chosen, "Hut press");
        // Another width, another place, one look that the rules don't know.
        var next = Cases.Read(Svg(Folded.Replace("M50 8V20", "M30 8V20", StringComparison.Ordinal)
            .Replace("stroke='#00f'", "stroke='#00f' stroke-width='0.3'", StringComparison.Ordinal) + "<path d='M60 30L80 40' stroke='#0c0' fill='none'/>"));
        Assert.InRange(rules.Fits(next).Fit, 0.5, 0.99);
        var after = new ApplyRules(rules).Apply(next);
        Assert.Equal(Operation.Perforate, after.Lines[0].Operation);
        Assert.Equal("a rule of “Hut press”", after.Lines[0].Why);
        Assert.Single(after.Rules!.Before);
        var back = new TakeRulesBack().Apply(after);
        Assert.Equal(next.Lines.Select(l => l.Operation), back.Lines.Select(l => l.Operation));
        Assert.Equal(FalzFile.WriteRules(rules), FalzFile.WriteRules(FalzFile.ReadRules(FalzFile.WriteRules(rules))!));
        Assert.Null(FalzFile.ReadRules("{"));
    }

    [Fact]
    public void Rules_fit_only_files_that_look_alike_unless_the_producer_is_the_same()
    {
        const string Strange = "<rect width='100' height='60' fill='#f4ead2'/><path d='M9 9L20 20M30 9L50 20' stroke='#0c0' fill='none'/><circle cx='50' "
            + "cy='40' r='9' fill='#0cc'/><circle cx='20' cy='40' r='9' fill='#c0c'/>";
        const string By = "<!-- drawn with Hut Draw 3 -->";
        Assert.Equal((0, ""), SourceRules.From(Cases.Read(Svg(Folded)), "a").Fits(Cases.Read(Svg(Strange))));
        Assert.Equal("drawn with Hut Draw 3", Cases.Read(Svg(Folded, before: By)).Producer);
        var (fit, by) = SourceRules.From(Cases.Read(Svg(Folded, before: By)), "a").Fits(Cases.Read(Svg(Strange, before: By)));
        Assert.InRange(fit, 0.7, 0.8);
        Assert.Equal("the same program wrote it, and 1 of its 4 looks are known", by);
    }

    [Fact]
    public void Rules_fit_a_file_from_their_folder_if_they_know_one_of_its_looks()
    {
        const string Strange = "<rect width='100' height='60' fill='#f4ead2'/><path d='M9 9L20 20' stroke='#0c0' fill='none'/><circle cx='50' cy='40' r='9' "
            + "fill='#0cc'/><circle cx='20' cy='40' r='9' fill='#c0c'/><circle cx='80' cy='40' r='9' fill='#cc0'/>";
        var rules = SourceRules.From(Cases.Read(Svg(Folded)), "a") with { Folders = ["Alpine paper"] };
        var design = Cases.Read(Svg(Strange));
        Assert.Equal(0, rules.Fits(design).Fit);
        Assert.Equal(0, rules.Fits(design, "Elsewhere").Fit);
        var (fit, by) = rules.Fits(design, "ALPINE paper");
        Assert.True(fit > 1);
        Assert.Contains("folder “ALPINE paper”", by, StringComparison.Ordinal);
        Assert.Equal(0, rules.Fits(Cases.Read(Svg("<circle cx='20' cy='40' r='9' fill='#c0c'/>")), "Alpine paper").Fit);
        Assert.Equal(rules.Folders.AsEnumerable(), FalzFile.ReadRules(FalzFile.WriteRules(rules))!.Folders);
    }

    [Fact]
    public void Holes_of_a_look_of_their_own_stand_in_the_look_table_and_are_given_operations_by_it()
    {
        var design = Cases.Read(Svg("<g fill='none' stroke='#000'><rect x='10' y='5' width='80' height='50'/><circle cx='30' cy='30' r='9' "
            + "stroke='#00f'/><circle cx='70' cy='30' r='9' stroke='#00f'/></g>"));
        var row = LookTable.Of(design).Single(r => r.Look.Stroke!.Value.B == 255);
        Assert.Equal(("2 holes", Operation.Cut, false, 2), (row.Counted, row.Operation, row.IsMixed, row.Paths.Length));
        var after = new SetLookOperation(row.Look.Key, Operation.Draw).Apply(design);
        Assert.Equal("2 lines", LookTable.Of(after).Single(r => r.Look.Key == row.Look.Key).Counted);
        Assert.Contains(SourceRules.From(design, "a").Looks, r => r.Look.Contains("#0000ff", StringComparison.Ordinal));
        // Every edge, hole and line stands in one row, and no row is empty.
        var demo = Cases.DemoCard();
        var rows = LookTable.Of(demo);
        Assert.Equal(demo.Pieces.Length, rows.Sum(r => r.Pieces));
        Assert.Equal(demo.Lines.Length, rows.Sum(r => r.Lines));
        Assert.All(rows, r => Assert.True(r.Paths.Length > 0 && r.Why.Length > 0 && r.Length.Mm > 0));
        Assert.Equal(rows.OrderBy(r => r.Pieces > 0), rows);
    }

    [Fact]
    public void Thick_and_almost_closed_lines_become_pieces_that_carry_what_lies_in_them()
    {
        var design = Cases.Read(Svg("<g fill='none' stroke='#c00'><path d='M10 10H40V40H10V10.8'/><path d='M20 20L30 30' stroke='#00f'/><path d='M60 30H90' "
            + "stroke-width='4'/></g>"));
        var open = design.Lines.Single(l => l.Path.Length.Mm > 80);
        var made = new MakePieces([open.Id, design.Lines.Single(l => l.Ink.Stroke!.Width.Mm > 3).Id]).Apply(design);
        Assert.Equal(2, made.Pieces.Length);
        Assert.InRange(made.Pieces[0].AreaMm2, 899, 901);
        Assert.InRange(made.Pieces[1].AreaMm2, 120 + 12.4, 120 + 12.6);
        Assert.Equal(made.Pieces[0].Id, made.Lines.Single().CarriedBy);
    }
}
