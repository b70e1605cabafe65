using Falzkunst.Core.Cards;
using Falzkunst.Core.Runs;

namespace Falzkunst.Core.Tests.Runs;

public sealed class ToolChangesTests
{
    /// <summary>Every order and every holder are tried: the fewest changes are known.</summary>
    [Fact]
    public void No_way_through_the_sheets_takes_fewer_changes()
    {
        for (var seed = 1; seed <= 200; seed++)
        {
            var random = new Random(seed);
            var holders = random.Next(1, 4);
            Tool[] tools = [.. Enumerable.Range(1, 5).Select(n => new Tool($"t{n}", $"Tool {n}", Operation.Draw, n, 100)
            {
                OnlyHolder = random.Next(4) == 0 ? random.Next(1, holders + 1) : null,
            })];
            List<List<ToolChanges.Need>> sheets = [.. Enumerable.Range(0, random.Next(1, 4)).Select(_ => tools.OrderBy(_ => random.Next())
                .Take(random.Next(1, 4)).Select((t, k) => new ToolChanges.Need(t, random.Next(2) == 0 ? -1 : k)).OrderBy(n => n.Group).ToList())];
            var result = ToolChanges.Of(sheets, holders);
            Assert.Equal(Fewest(sheets, 0, [], new Tool?[holders]), result.Puts.Sum(s => s.Sum(p => p.Length)));
            var held = new Tool?[holders];
            for (var s = 0; s < sheets.Count; s++)
            {
                Assert.Equal(Enumerable.Range(0, sheets[s].Count), result.Orders[s].Order());
                Assert.Equal(sheets[s].Select(n => n.Group), result.Orders[s].Select(i => sheets[s][i].Group));
                for (var k = 0; k < sheets[s].Count; k++)
                {
                    foreach (var (holder, tool) in result.Puts[s][k])
                    {
                        Assert.True(tool.OnlyHolder is null || tool.OnlyHolder == holder + 1);
                        held[holder] = tool;
                    }

                    Assert.Contains(sheets[s][result.Orders[s][k]].Tool, held);
                }
            }
        }
    }

    private static int Fewest(List<List<ToolChanges.Need>> sheets, int at, List<int> done, Tool?[] held)
    {
        if (at == sheets.Count) return 0;
        if (done.Count == sheets[at].Count) return Fewest(sheets, at + 1, [], held);
        var best = int.MaxValue;
        var group = sheets[at].Where((_, i) => !done.Contains(i)).Min(n => n.Group);
        for (var i = 0; i < sheets[at].Count; i++)
        {
            var (tool, its) = sheets[at][i];
            if (done.Contains(i) || its != group) continue;
            if (held.Contains(tool))
            {
                best = Math.Min(best, Fewest(sheets, at, [.. done, i], held));
                continue;
            }

            for (var h = 0; h < held.Length; h++)
            {
                if (tool.OnlyHolder is { } only && only != h + 1) continue;
                var then = (Tool?[])held.Clone();
                then[h] = tool;
                best = Math.Min(best, 1 + Fewest(sheets, at, [.. done, i], then));
            }
        }

        return best;
    }

    [Fact]
    public void A_tool_goes_in_with_the_sheet_where_its_holder_is_free()
    {
        var (pen, foil, knife) = (Tool.Standard[0], Tool.Standard[1], Tool.Standard[5]);
        ToolChanges.Need[] sheet = [new(pen, 0), new(foil, 1), new(knife, 2)];
        var puts = ToolChanges.Of([sheet, sheet], 2).Puts;
        // The pen and the foil tip together; the knife in place of one of them, so that the next sheet has two of its three at hand.
        Assert.Equal([2, 0, 1], puts[0].Select(p => p.Length));
        Assert.Equal(1, puts[1].Sum(p => p.Length));
    }
}
