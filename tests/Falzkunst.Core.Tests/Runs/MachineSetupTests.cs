using System.Collections.Immutable;
using Falzkunst.Core.Cards;
using Falzkunst.Core.Documents;
using Falzkunst.Core.Layout;
using Falzkunst.Core.Runs;

namespace Falzkunst.Core.Tests.Runs;

/// <summary>Whatever is run on a machine, from whatever state: hands that do what is said have everything as it must be whenever a tool works.</summary>
public sealed class MachineSetupTests(ITestOutputHelper output)
{
    /// <summary>Whole sheets, rests, touch-ups, test cards and rounds of two dockets on one machine, in any order, stopped anywhere; FALZKUNST_SETUPS
    /// ("2000@100000") says how many rows of deeds, and the first seed.</summary>
    [Fact]
    public void No_tool_works_that_was_not_asked_for_whatever_is_run()
    {
        var (count, first) = Cases.Seeds("FALZKUNST_SETUPS", "60@1", "400@1");
        var (worked, deeds, rounds) = (0, 0, 0);
        for (var seed = first; seed < first + count; seed++)
        {
            var row = new Row(seed);
            try
            {
                row.Go();
            }
            catch (Exception e)
            {
                throw new InvalidOperationException($"seed {seed}: {e.Message}\n{string.Join("\n", row.Story.TakeLast(30))}", e);
            }

            (worked, deeds, rounds) = (worked + row.Worked, deeds + row.Deeds, rounds + row.LaidInRounds);
        }

        output.WriteLine($"setups: {count} rows, {worked} steps worked, {deeds} deeds of hands, {rounds} sheets laid in by rounds");
        Assert.True(worked > 5 * count && rounds > count / 4, $"{worked} steps, {rounds} by rounds");
    }

    private sealed class Row
    {
        private readonly Random _random;
        private readonly Hands _hands = new();
        private readonly Machine _machine;
        private readonly List<RunPlan> _plans = [];
        private readonly List<DocketLayout> _layouts = [];
        private readonly ImmutableArray<Tool> _tools;
        private readonly List<Sheet> _sheets = [];
        private MachineSetup _setup;
        private bool _knows = true;

        public Row(int seed)
        {
            _random = new(seed);
            _machine = Machines.Kammer30 with { Holders = _random.Next(1, 4), IsRoll = _random.Next(4) == 0 };
            _tools = [.. Tool.Standard.Select(t => t with
            {
                OnlyHolder = _random.Next(3) == 0 ? _random.Next(1, 1 + _machine.Holders) : null,
                DrySeconds = t.Operation == Operation.Draw && _random.Next(2) == 0 ? 20 : 0,
            })];
            foreach (var (plan, layout) in Enumerable.Range(0, 2).Select(_ => AnyPlan.Of(_random, _machine, _tools)))
            {
                _plans.Add(plan);
                _layouts.Add(layout);
            }

            _setup = MachineSetup.Unknown(_machine.Holders);
        }

        public int Worked { get; private set; }

        public int LaidInRounds { get; private set; }

        public int Deeds => _hands.Deeds;

        public List<string> Story { get; } = [];

        /// <summary>A sheet of paper, and what is left to do on it.</summary>
        private sealed record Sheet(Guid Paper, int Docket, int Number)
        {
            public List<DoneStroke> Done { get; } = [];

            public bool IsTested { get; set; }
        }

        public void Go()
        {
            for (var deed = 0; deed < 12; deed++)
            {
                var docket = _random.Next(2);
                var plan = _plans[docket];
                var number = _random.Next(plan.Sheets.Length);
                switch (_random.Next(11))
                {
                    case 0 or 1 or 2:
                        Run(plan, Fresh(docket, number), "whole");
                        break;
                    case 3 or 4 when Known() is { } sheet:
                        var left = RunAgreement.Rest(_plans[sheet.Docket].Sheets[sheet.Number], sheet.Done);
                        if (!left.IsEmpty) Run(RunPlanner.Part(_plans[sheet.Docket], sheet.Number, left, _machine, SheetPart.Rest), sheet, "rest");
                        break;
                    case 5 or 6 when Known() is { } sheet:
                        var steps = _plans[sheet.Docket].Sheets[sheet.Number].Steps.Where(_ => _random.Next(2) == 0).ToList();
                        if (steps.Count > 0)
                            Run(RunPlanner.Part(_plans[sheet.Docket], sheet.Number, steps, _machine, SheetPart.TouchUp), sheet, "touch-up", false);
                        break;
                    case 7:
                        var (tool, laid) = (_tools[_random.Next(_tools.Length)], _layouts[docket].Sheets[number]);
                        var setting = new MaterialSetting(laid.StockId, tool.Id, 1, 120, 0)
                        {
                            Depth = tool.Operation is Operation.Cut ? Length.FromMm(0.3) : null,
                        };
                        VectorPath[] lies = [VectorPath.Rectangle(20, 20, 90, 70)];
                        var card = TestCard.For(laid, lies, tool, setting)!;
                        var tested = Fresh(docket, number);
                        tested.IsTested = true;
                        Run(card.Plan(laid, lies, number, plan.Sheets.Length, tool, setting, _machine), tested, "test card", false);
                        break;
                    case 8 or 9 when ToolRounds.Of(plan) is { } rounds:
                        Rounds(plan, docket, rounds);
                        break;
                    default:
                        if (_random.Next(3) > 0) break;
                        Story.Add("somebody else was here");
                        _setup = MachineSetup.Unknown(_machine.Holders);
                        _hands.Forget();
                        break;
                }

                // What is kept comes back as it was.
                var kept = RunDocument.WriteSetup(_setup);
                Assert.Equal(kept, RunDocument.WriteSetup(_setup = RunDocument.ReadSetup(kept)!));
            }
        }

        /// <summary>One tool on all sheets first: each sheet is laid in once for each round, until somebody stops; another docket may be run between
        /// them.</summary>
        private void Rounds(RunPlan plan, int docket, ToolRounds rounds)
        {
            var papers = plan.Sheets.Select((s, i) => new Sheet(Guid.NewGuid(), docket, i)).ToList();
            for (var round = 1; round <= rounds.Rounds.Length; round++)
                foreach (var paper in papers)
                {
                    var left = RunAgreement.Rest(plan.Sheets[paper.Number], paper.Done);
                    if (left.IsEmpty) continue;
                    var (now, _) = rounds.FirstOf(left);
                    if (rounds.RoundOf(now[0]) != round) continue;
                    LaidInRounds++;
                    Run(RunPlanner.Round(plan, paper.Number, now, _machine, rounds, paper.Done.Count == 0), paper, $"round {round}");
                    if (_random.Next(8) == 0) Run(_plans[1 - docket], Fresh(1 - docket, 0), "whole, between rounds");
                    if (_random.Next(12) == 0) return;
                }
        }

        private Sheet? Known() => _sheets.Where(s => s.Done.Count > 0).OrderBy(_ => _random.Next()).FirstOrDefault();

        /// <summary>The paper for a sheet that is begun: what lies there, where nothing was made on it but a test card; otherwise a new one.</summary>
        private Sheet Fresh(int docket, int number)
        {
            if (_sheets.Find(s => _setup.Has(s.Paper)) is { Done.Count: 0 } lying && (lying.Docket, lying.Number) == (docket, number)) return lying;
            _sheets.Add(new(Guid.NewGuid(), docket, number));
            return _sheets[^1];
        }

        /// <summary>Runs a plan on some paper, to its end or to any stroke of it.</summary>
        private void Run(RunPlan plan, Sheet paper, string what, bool counts = true)
        {
            var sheet = plan.Sheets[paper.Number];
            var again = paper.Done.Count > 0;
            var (end, within) = _random.Next(2) == 0 ? (sheet.Steps.Length + 1, 0) : (_random.Next(1, sheet.Steps.Length + 1), _random.Next(3));
            Story.Add($"{what} of sheet {paper.Number + 1}, docket {paper.Docket}");
            for (var step = 1; step <= sheet.Steps.Length; step++)
            {
                var its = sheet.Steps[step - 1];
                if (_setup.Before(plan, paper.Number, step, paper.Paper, again) is { } stop)
                {
                    Story.Add($"  {stop.Text}");
                    if (step == end && within == 0) return;
                    _hands.Obey(stop.Text, paper.Paper, _knows);
                    _setup = _setup.Prepared(plan, paper.Number, step, paper.Paper);
                    Assert.Null(_setup.Before(plan, paper.Number, step, paper.Paper, again));
                }

                Story.Add($"  {its.Kind} with {its.ToolName}, {its.Face}");
                _hands.Work(its, paper.Paper, sheet.Part);
                _setup = _setup.Worked(its);
                Worked++;
                // What is over of the step when it is stopped: some of its strokes, or all.
                var strokes = its.Strokes().ToList();
                var over = step == end && within == 1 ? _random.Next(strokes.Count) : strokes.Count;
                if (counts)
                    paper.Done.AddRange(strokes.Take(over).Select(s => new DoneStroke(its.Pen, [.. s.Walk(RunPlanner.Chord.Mm)])));
                if (step == end) return;
            }
        }
    }
}
