using System.Collections.Immutable;
using Falzkunst.Core.Cards;
using Falzkunst.Core.Runs;

namespace Falzkunst.Core.Tests.Runs;

public sealed class ToolRoundsTests
{
    /// <summary>Every split of the tools is tried: none costs a person less time.</summary>
    [Fact]
    public void No_split_into_rounds_saves_more()
    {
        var proposed = 0;
        for (var seed = 1; seed <= 300; seed++)
        {
            var random = new Random(seed);
            var (holders, count) = (random.Next(1, 4), random.Next(2, 6));
            RunStep[] tools = [.. Enumerable.Range(0, count).Select(n => new RunStep(n + 1, $"t{n}", $"Tool {n}", n + 1, Operation.Score, "score", 1, [],
                default, default, 0, null, 100, 0)
            {
                OnlyHolder = random.Next(5) == 0 ? random.Next(1, holders + 1) : null,
                HeatSeconds = random.Next(4) == 0 ? 300 : 0,
            })];
            ImmutableArray<SheetRun> sheets = [.. Enumerable.Range(0, random.Next(2, 12)).Select(i => new SheetRun(i, "paper", Length.FromMm(200),
                Length.FromMm(200), [.. tools.Where(_ => random.Next(3) > 0).Select(t => t with
                {
                    Stop = random.Next(3) > 0 ? new("", [new(1, t.ToolId, null)]) : null, WaitSeconds = random.Next(2) * t.HeatSeconds,
                })]))];
            var plan = new RunPlan("m", "M", holders, sheets, []);
            var all = plan.Sheets.SelectMany(s => s.Steps).ToList();
            var usual = 40 * all.Count(s => s.Stop is not null) + 30 * sheets.Length + all.Sum(s => s.WaitSeconds);
            RunStep[] used = [.. tools.Where(t => all.Exists(s => s.ToolId == t.ToolId))];
            var best = Enumerable.Range(0, 1 << Math.Max(0, used.Length - 1)).Select(cuts => Split(used, cuts)).Where(s => s.TrueForAll(r => Fit(r, holders)))
                .Select(s => (s.Count, Cost: s.Sum(r => r.Sum(t => 40 + t.HeatSeconds)
                    + 30 * sheets.Count(h => h.Steps.Any(step => r.Exists(t => t.ToolId == step.ToolId))))))
                .OrderBy(s => s.Cost).FirstOrDefault();
            var rounds = ToolRounds.Of(plan);
            if (rounds is null)
            {
                Assert.True(best.Count < 2 || usual - best.Cost < 60, $"seed {seed}");
                continue;
            }

            proposed++;
            Assert.Equal(usual - best.Cost, rounds.SavesSeconds, 6);
            Assert.All(rounds.Rounds, r => Assert.Equal(r.Count, r.Values.Distinct().Count()));
            foreach (var sheet in sheets) Assert.Equal(sheet.Steps.Select(rounds.RoundOf).Order(), sheet.Steps.Select(rounds.RoundOf));
        }

        Assert.InRange(proposed, 60, 280);
    }

    private static List<List<RunStep>> Split(RunStep[] tools, int cuts)
    {
        var rounds = new List<List<RunStep>>();
        for (var i = 0; i < tools.Length; i++)
        {
            if (i == 0 || (cuts >> (i - 1) & 1) == 1) rounds.Add([]);
            rounds[^1].Add(tools[i]);
        }

        return rounds;
    }

    private static bool Fit(List<RunStep> tools, int holders) => tools.Count <= holders
        && tools.Where(t => t.OnlyHolder is not null).GroupBy(t => t.OnlyHolder).All(g => g.Count() == 1);

    [Fact]
    public void Foil_is_counted_by_the_pieces_that_it_is_cut_from()
    {
        Box Patch(double wide, double high) => new(10, 10, 10 + wide, 10 + high);
        var drawer = new[] { new SheetSize(Length.FromMm(90), Length.FromMm(60), 12, Length.Zero) };
        Assert.Equal(new FoilNeed(12, 6, 0, 0), FoilNeed.Of(Enumerable.Repeat(Patch(32, 32), 12), drawer));
        Assert.Equal(new FoilNeed(14, 12, 2, 0), FoilNeed.Of(Enumerable.Repeat(Patch(60, 90), 14), drawer));
        Assert.Equal(new FoilNeed(2, 1, 0, 1), FoilNeed.Of([Patch(100, 20), Patch(20, 80)], drawer));
    }

    [Fact]
    public void What_lies_beyond_the_foil_is_found_and_measured()
    {
        ImmutableArray<VectorPath> lines = [PathText.Read("M10 10H50"), PathText.Read("M20 20H30"), PathText.Read("M38 30H42")];
        var (outside, mm) = FoilPatches.Outside(lines, [new(5, 5, 40, 40), new(39, 25, 60, 40)]);
        Assert.Equal(0, Assert.Single(outside));
        Assert.Equal(10, mm.Mm, 0.3);
    }

    /// <summary>Lines that each lie under a piece of the foil at hand, and far enough from each other, are never put under one that there is none of.</summary>
    [Fact]
    public void Patches_are_not_joined_beyond_the_foil_there_is()
    {
        SheetSize Size(double wide, double high) => new(Length.FromMm(wide), Length.FromMm(high), 9, Length.Zero);
        var joined = 0;
        for (var seed = 1; seed <= 300; seed++)
        {
            var random = new Random(seed);
            SheetSize[] foils = [.. Enumerable.Range(0, random.Next(1, 3)).Select(_ => Size(60 + 60 * random.NextDouble(), 45 + 40 * random.NextDouble()))];
            var lines = new List<VectorPath>();
            for (double y = 10; y < 200; y += 60)
                for (double x = 10; x < 230; x += 62)
                    if (random.Next(2) == 0) lines.Add(VectorPath.Rectangle(x, y, 44 * random.NextDouble(), 28 * random.NextDouble()));
            var free = FoilPatches.For(lines, Size(300, 300));
            var patches = FoilPatches.For(lines, Size(300, 300), foils);
            Assert.Equal(0, FoilNeed.Of(patches, foils).TooLarge);
            Assert.All(lines, l => Assert.Contains(patches, p => p.Holds(l.Bounds)));
            if (FoilNeed.Of(free, foils).TooLarge > 0) joined++;
        }

        Assert.True(joined > 20, $"only {joined} were joined beyond it");
    }

    /// <summary>Any lines and any foil: all lie under foil with room for the tape, no two pieces overlap, and none is larger than there is but around lines
    /// that can't be taped one by one.</summary>
    [Fact]
    public void Where_no_piece_is_large_enough_there_are_several_beside_one_another()
    {
        SheetSize Size(double wide, double high) => new(Length.FromMm(wide), Length.FromMm(high), 9, Length.Zero);
        var (count, first) = Cases.Seeds("FALZKUNST_FOILED", "200@1", "2000@1");
        var divided = 0;
        for (var seed = first; seed < first + count; seed++)
        {
            var random = new Random(seed);
            SheetSize[] foils = [.. Enumerable.Range(0, random.Next(1, 3)).Select(_ => Size(60 + 60 * random.NextDouble(), 45 + 40 * random.NextDouble()))];
            var lines = Enumerable.Range(0, random.Next(2, 14)).Select(_ => VectorPath.Rectangle(10 + 220 * random.NextDouble(),
                10 + 220 * random.NextDouble(), 40 * random.NextDouble(), 25 * random.NextDouble())).ToList();
            var patches = FoilPatches.For(lines, Size(300, 300), foils);
            Assert.All(lines, l => Assert.Contains(patches, p => p.Holds(l.Bounds.Grown(FoilPatches.LeastMargin.Mm - 1e-6))));
            for (var i = 0; i < patches.Length; i++)
                Assert.DoesNotContain(patches.Skip(i + 1), p => p.Grown(-1e-6).Touches(patches[i]));
            foreach (var large in patches.Where(p => FoilNeed.Of([p], foils).TooLarge > 0))
                Assert.True(AreClose([.. lines.Select(l => l.Bounds).Where(large.Holds)]), $"{seed}: {large}");

            if (FoilPatches.For(lines, Size(300, 300)).Length < patches.Length) divided++;
        }

        Assert.True(divided > count / 20, $"only {divided} were divided");

        // Boxes that become one when two that are nearer than the tape of both become one, again and again.
        static bool AreClose(List<Box> boxes)
        {
            for (var i = 0; i < boxes.Count; i++)
                for (var k = i + 1; k < boxes.Count; k++)
                    if (boxes[i].Grown(2 * FoilPatches.LeastMargin.Mm).Touches(boxes[k]))
                        return AreClose([.. boxes.Where((_, n) => n != i && n != k), boxes[i].With(boxes[k])]);
            return boxes.Count == 1;
        }
    }
}
