using Falzkunst.Core.Cards;
using Falzkunst.Core.Runs;

namespace Falzkunst.Core.Tests.Cards;

public sealed class OnlyThisTests
{
    [Fact]
    public void One_action_leaves_the_outer_edges_and_one_what_is_chosen()
    {
        var design = Cases.DemoCard();
        var edges = OnlyThis.OuterEdges(design, design.Pieces)!.Apply(design);
        Assert.All(Work.Of(edges.Pieces, edges.Loose).Where(w => w.Operation.UsesTool()),
            w => Assert.Equal((Operation.Cut, 0), (w.Operation, w.Holes + w.Lines)));
        Assert.Equal(design.Papers.Sum(p => p.Edges.Where((_, i) => p.IsOuter(i)).Count()),
            Work.Of(edges.Pieces, []).First(w => w.Operation == Operation.Cut).Edges);
        Assert.Null(OnlyThis.OuterEdges(edges, edges.Pieces));
        var piece = design.Pieces.First(p => p.Lines.Length > 0);
        var only = OnlyThis.Chosen(design, new HashSet<string> { piece.Id })!.Apply(design);
        Assert.Equal(Work.Of([piece], []).Where(w => w.Operation.UsesTool()), Work.Of(only.Pieces, only.Loose).Where(w => w.Operation.UsesTool()));
    }

    [Fact]
    public void A_card_takes_about_as_long_as_its_sheets()
    {
        var (design, plan) = Runs.RunTests.Demo(Machines.Kammer30);
        var one = WorkTime.Of(design, Machines.Kammer30, Tool.Standard);
        foreach (var work in plan.Sheets.SelectMany(s => s.Steps).GroupBy(s => s.Operation))
            Assert.InRange(2 * one[work.Key] / work.Sum(s => s.Seconds), 0.5, 1.6);
    }
}
