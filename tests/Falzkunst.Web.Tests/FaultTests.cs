using System.Collections.Concurrent;
using System.Text;
using System.Text.RegularExpressions;
using Falzkunst.Core.Cards;
using Falzkunst.Core.Runs;
using Falzkunst.StandIns;
using Falzkunst.Store;
using Microsoft.EntityFrameworkCore;
using Microsoft.Extensions.DependencyInjection;

namespace Falzkunst.Web.Tests;

/// <summary>Runs in which something goes wrong, again and again, until the sheet is done: every line is made, and none twice.</summary>
[Collection(Studio.Name)]
public sealed class FaultTests(Studio studio, ITestOutputHelper output)
{
    private const int MostFaults = 3;

    [Fact]
    public Task Whatever_goes_wrong_each_line_is_made_and_made_once() =>
        // FALZKUNST_FAULTS ("1000@5000") says how many runs, and the first seed.
        OfSeeds("FALZKUNST_FAULTS", "4@1", "6@1", (number, seed, happened) => Once(number, new(seed), happened));

    /// <summary>Two people at one run: they answer, hold, stop, go on and drive the tool about, at any time and at once. FALZKUNST_DEEDS ("200@7") says how
    /// many times, and the first seed.</summary>
    [Fact]
    public Task Whatever_two_people_do_at_once_each_line_is_made_and_made_once() => OfSeeds("FALZKUNST_DEEDS", "2@1", "3@1", Together);

    /// <summary>One laid-out docket, run for each seed; what happened is counted, and told.</summary>
    private async Task OfSeeds(string variable, string few, string large, Func<int, int, ConcurrentDictionary<string, int>, Task> run)
    {
        var (count, first) = Cases.Seeds(variable, few, large);
        var number = await LaidOut();
        var happened = new ConcurrentDictionary<string, int>();
        for (var seed = first; seed < first + count; seed++)
        {
            try
            {
                await run(number, seed, happened);
            }
            catch (Exception e) when (e is Xunit.Sdk.XunitException or InvalidOperationException)
            {
                throw new InvalidOperationException($"seed {seed}: {e.Message}", e);
            }
        }

        await Speaks(number, MachineLanguage.Hpgl);
        output.WriteLine($"{count} runs: {string.Join(", ", happened.OrderBy(h => h.Key).Select(h => $"{h.Value} {h.Key}"))}");
    }

    private async Task Together(int number, int seed, ConcurrentDictionary<string, int> done)
    {
        var random = new Random(seed);
        var planId = await PlanOf(number);
        await Speaks(number, (MachineLanguage)random.Next(2));
        studio.Cutter.Reset();
        await In(number, (runs, _, _) => runs.Start(planId, 0, random.Next(2) == 0, default));
        await Task.WhenAll(Enumerable.Range(1, 2).Select(person => Task.Run(() => Person(new(seed * 10 + person)))));
        var last = (await In(number, (_, db, d) => LastOf(db, d))).Id;
        for (var rounds = 0; ; rounds++)
        {
            Assert.InRange(rounds, 0, 12);
            await Ended(number, last, random);
            var next = await In(number, (runs, _, d) => runs.GoOn(d.Id, last, default));
            if (next is null) break;
            last = next.Id;
        }

        var (chain, plan, _) = (await In(number, (runs, _, d) => runs.ChainOf(d.Id, last, default)))!.Value;
        var sheet = chain[0].Placed(plan.Sheets[0]);
        var agreement = RunAgreement.Of(sheet, await In(number, (runs, _, _) => runs.DoneIn(chain, default)));
        Assert.True(agreement is { Missing: 0, Twice: 0, Strays: 0 } && agreement.LargestDeviation.Mm < 0.1, agreement.Describe());
        // What the machine itself remembers, since it was new: nothing was made that no run knows of.
        var made = RunAgreement.Of(sheet, [.. studio.Cutter.Record(0).Select(s => new Store.Cutters.CutterMark(s.Pen, s.Units).On(sheet))]);
        Assert.True(made is { Missing: 0, Twice: 0, Strays: 0 }, made.Describe());

        static Task<RunRow> LastOf(FalzkunstContext db, Docket docket) =>
            db.Runs.AsNoTracking().Where(r => r.DocketId == docket.Id).OrderByDescending(r => r.StartedAt).FirstAsync();

        async Task Person(Random chance)
        {
            for (var i = 0; i < 25; i++)
            {
                await Task.Delay(chance.Next(25));
                await In(number, async (runs, db, d) =>
                {
                    var row = await LastOf(db, d);
                    var deed = row.State == WorkState.Asking ? One("answer", "answer", "answer", "drive", "drive", "drive", "stop")
                        : One("answer", "hold", "on", "stop", "go on", "drive");
                    done.AddOrUpdate(deed, 1, (_, n) => n + 1);
                    switch (deed)
                    {
                        case "answer":
                            await runs.Confirm(d.Id, row.Id, row.Asked - chance.Next(8) / 7, default);
                            break;
                        case "hold" or "on":
                            await runs.Hold(d.Id, row.Id, deed == "hold", default);
                            break;
                        case "stop":
                            await runs.Stop(d.Id, row.Id, default);
                            break;
                        case "go on":
                            await runs.GoOn(d.Id, row.Id, default);
                            break;
                        default:
                            await runs.Drive(d.Id, row.Id, new(150 * chance.NextDouble(), 90 * chance.NextDouble()), default);
                            break;
                    }

                    return true;
                });
            }

            string One(params string[] of) => of[chance.Next(of.Length)];
        }
    }

    /// <summary>Two dockets on one machine: whole sheets, what is left of them, lines once more and test cards, in any order and stopped anywhere. Hands that
    /// do what the history says find everything as it must be at every step that it tells of. FALZKUNST_ROWS_OF_RUNS ("200@500") says how many rows.</summary>
    [Fact]
    public async Task Whatever_is_run_no_tool_works_that_was_not_asked_for()
    {
        var (count, first) = Cases.Seeds("FALZKUNST_ROWS_OF_RUNS", "3@1", "12@1");
        int[] numbers = [await LaidOut(), await LaidOut()];
        await Speaks(numbers[0], MachineLanguage.Hpgl);
        var happened = new ConcurrentDictionary<string, int>();
        for (var seed = first; seed < first + count; seed++)
        {
            var story = new List<string>();
            try
            {
                await Row(new(seed), numbers, happened, story);
            }
            catch (Exception e) when (e is Xunit.Sdk.XunitException or InvalidOperationException)
            {
                throw new InvalidOperationException($"seed {seed}: {e.Message}\n{string.Join('\n', story)}", e);
            }
        }

        output.WriteLine($"{count} rows: {string.Join(", ", happened.OrderBy(h => h.Key).Select(h => $"{h.Value} {h.Key}"))}");
    }

    private async Task Row(Random random, int[] numbers, ConcurrentDictionary<string, int> happened, List<string> story)
    {
        var (hands, plans, over) = (new Core.Tests.Runs.Hands(), new List<(int Number, Guid Plan, int Sheets)>(), new List<(int Number, RunRow Run)>());
        studio.Cutter.Reset();
        var machine = await In(numbers[0], (_, db, d) => db.Machines.AsNoTracking().FirstAsync(m => m.StudioId == d.StudioId && m.Place == 0));
        await In(numbers[0], (runs, _, _) => runs.Forget(machine.Id, default));
        foreach (var number in numbers)
        {
            var (plan, _) = Core.Tests.Runs.AnyPlan.Of(random, Drawer.ToCore(machine), Tool.Standard);
            plans.Add((number, await In(number, async (runs, db, d) =>
                await runs.Kept(plan, d.Id, await db.Layouts.Where(l => l.DocketId == d.Id).Select(l => l.Id).FirstAsync(), machine.Id,
                default)), plan.Sheets.Length));
        }

        for (var deed = 0; deed < 7; deed++)
        {
            var (number, planId, sheets) = plans[random.Next(2)];
            var (sheet, prepared, what) = (random.Next(sheets), random.Next(3) == 0, random.Next(8));
            if (what > 3 && over.Count == 0) what = 0;
            if (what > 3) number = over[random.Next(over.Count)].Number;
            var past = over.LastOrDefault(o => o.Number == number).Run;
            var run = await In(number, async (runs, db, d) => what switch
            {
                < 3 => await runs.Start(planId, sheet, prepared, default),
                3 => await Card(runs, db, d),
                < 6 => await runs.GoOn(d.Id, past.Id, default),
                6 => await runs.TouchUp(d.Id, past.Id, s => s.LinesIn(new(0, 0, 200, 150)).Where(_ => random.Next(2) == 0), null, null, default),
                _ => await runs.Forget(machine.Id, default) ? null : throw new InvalidOperationException("It was not forgotten."),
            });
            if (what == 7)
            {
                hands.Forget();
                story.Add("forgotten");
            }

            if (run is null) continue;
            var kind = what switch { < 3 => "whole", 3 => "test card", < 6 => "rest", _ => "touch-up" };
            happened.AddOrUpdate(kind, 1, (_, n) => n + 1);
            story.Add($"{kind} of sheet {run.Sheet + 1}, docket {number}");
            var ended = await EndedSomehow(number, run.Id, random);
            happened.AddOrUpdate(ended.State.ToString(), 1, (_, n) => n + 1);
            if (!ended.IsTest && !ended.IsTouchUp) over.Add((number, ended));
            var steps = (await In(number, (runs, _, _) => runs.PlanOf(ended.PlanId!.Value, default)))!.Sheets[ended.Sheet];
            foreach (var e in ended.Events.OrderBy(e => e.At).ThenBy(e => e.Id))
            {
                story.Add($"  {e.Text}");
                if (e.Text.StartsWith("Done: ", StringComparison.Ordinal)) hands.Obey(e.Text["Done: ".Length..], ended.PaperId);
                else if (e.Text.StartsWith("Step ", StringComparison.Ordinal)) hands.Work(steps.Steps[e.Step - 1], ended.PaperId, steps.Part);
            }
        }

        async Task<RunRow?> Card(Runs runs, FalzkunstContext db, Docket docket)
        {
            var layout = await db.Layouts.FirstAsync(l => l.DocketId == docket.Id);
            Operation[] all = [Operation.Cut, Operation.Draw, Operation.Foil];
            return await runs.Test(layout, machine, 0, all[random.Next(3)], default) is not null ? null
                : await db.Runs.AsNoTracking().OrderByDescending(r => r.StartedAt).FirstAsync(r => r.DocketId == docket.Id);
        }
    }

    /// <summary>Answers what a run asks, or stops it, at any moment.</summary>
    private async Task<RunRow> EndedSomehow(int number, Guid id, Random random)
    {
        for (var i = 0; i < 5 * Studio.Tries; i++)
        {
            var row = await In(number, (_, db, _) => db.Runs.AsNoTracking().Include(r => r.Events).FirstAsync(r => r.Id == id));
            if (!row.IsActive) return row;
            if (random.Next(row.State == WorkState.Asking ? 8 : 30) == 0) await In(number, async (runs, _, d) =>
            {
                await runs.Stop(d.Id, id, default);
                return true;
            });
            else if (row.State == WorkState.Asking) await In(number, async (runs, _, d) =>
            {
                await runs.Confirm(d.Id, id, row.Asked, default);
                return true;
            });
            await Task.Delay(20);
        }

        throw new InvalidOperationException($"The run does not end: {System.Text.Json.JsonSerializer.Serialize(studio.Cutter.Look())}");
    }

    /// <summary>A run waits until nobody else speaks to its machine: what two say at once would be one drawing.</summary>
    [Fact]
    public async Task Whoever_speaks_to_a_machine_is_alone_with_it()
    {
        var number = await LaidOut();
        var planId = await PlanOf(number);
        studio.Cutter.Reset();
        var machine = await In(number, (_, db, d) => db.Machines.AsNoTracking().FirstAsync(m => m.StudioId == d.StudioId && m.Place == 0));
        RunRow run;
        await using (await Store.Cutters.CutterLine.Open(machine, default))
        {
            Assert.True(Store.Cutters.CutterLine.IsTaken(machine));
            run = (await In(number, (runs, _, _) => runs.Start(planId, 0, true, default)))!;
            await Task.Delay(700);
            Assert.Empty(studio.Cutter.Record(0));
        }

        Assert.Equal(WorkState.Done, (await Ended(number, run.Id, new(8))).State);
        Assert.False(Store.Cutters.CutterLine.IsTaken(machine));
    }

    /// <summary>A machine that can't tell what it did begins the line anew that it was at; all others are made once. FALZKUNST_UNTOLD ("40@500") says how
    /// many runs, and the first seed.</summary>
    [Fact]
    public Task A_machine_that_tells_nothing_is_gone_on_with_line_by_line() => OfSeeds("FALZKUNST_UNTOLD", "2@1", "6@1", Untold);

    private async Task Untold(int number, int seed, ConcurrentDictionary<string, int> happened)
    {
        var random = new Random(seed);
        Task<int> Tells(int? port) => In(number, (_, db, d) => db.Machines.Where(m => m.StudioId == d.StudioId && m.Place == 0)
            .ExecuteUpdateAsync(u => u.SetProperty(m => m.RecordPort, port)));
        var port = await In(number, (_, db, d) => db.Machines.Where(m => m.StudioId == d.StudioId && m.Place == 0).Select(m => m.RecordPort).SingleAsync());
        var planId = await PlanOf(number);
        await Tells(null);
        try
        {
            studio.Cutter.Reset();
            var run = (await In(number, (runs, _, _) => runs.Start(planId, 0, true, default)))!.Id;
            var (untold, made) = (0, 0);
            for (var faults = 0; ; faults++)
            {
                if (faults < 3) studio.Cutter.FailAfter(10 + random.NextDouble() * 400, Fault.PowerOff);
                var ended = await Ended(number, run, random);
                happened.AddOrUpdate(ended.State.ToString(), 1, (_, n) => n + 1);
                if (ended.State == WorkState.Done) break;
                // Lines made between the last look at the machine and the fault: few here, many where looks are far apart.
                var known = (await In(number, (runs, _, _) => runs.DoneIn([ended], default))).Count;
                untold += studio.Cutter.Record(0).Length - made - known;
                made = studio.Cutter.Record(0).Length;
                if (await In(number, (runs, _, d) => runs.GoOn(d.Id, run, default)) is not { } rest) break;
                run = rest.Id;
            }

            var (_, plan, _) = (await In(number, (runs, _, d) => runs.ChainOf(d.Id, run, default)))!.Value;
            var agreement = RunAgreement.Of(plan.Sheets[0], [.. studio.Cutter.Record(0)
                .Select(s => new Store.Cutters.CutterMark(s.Pen, s.Units).On(plan.Sheets[0]))]);
            Assert.True(agreement is { Missing: 0, Strays: 0 } && agreement.Twice <= untold, $"{agreement.Describe()} {untold} made untold.");
        }
        finally
        {
            await Tells(port);
        }
    }

    /// <summary>A sheet that was stopped anywhere before it was cut, and lines that come to its card then: what is new is done on the sheet that lies there,
    /// no line twice and none left out, and no other sheet is taken. FALZKUNST_THERE ("60@500") says how many, and the first seed.</summary>
    [Fact]
    public async Task What_is_new_is_done_on_the_sheet_that_lies_there()
    {
        var (count, first) = Cases.Seeds("FALZKUNST_THERE", "3@1", "10@1");
        var happened = new ConcurrentDictionary<string, int>();
        for (var seed = first; seed < first + count; seed++)
        {
            try
            {
                var what = await There(await LaidOut(), new(seed));
                happened.AddOrUpdate(what, 1, (_, n) => n + 1);
            }
            catch (Exception e) when (e is Xunit.Sdk.XunitException or InvalidOperationException)
            {
                throw new InvalidOperationException($"seed {seed}: {e.Message}", e);
            }
        }

        output.WriteLine($"{count} sheets: {string.Join(", ", happened.OrderBy(h => h.Key).Select(h => $"{h.Value} {h.Key}"))}");
    }

    private async Task<string> There(int number, Random random)
    {
        studio.Cutter.Reset();
        var planId = await PlanOf(number);
        // So that the knife is asked for.
        await In(number, async (runs, db, d) => await runs.Forget((await db.Machines.FirstAsync(m => m.StudioId == d.StudioId && m.Place == 0)).Id, default));
        var run = (await In(number, (runs, _, _) => runs.Start(planId, 0, false, default)))!;
        // Until the knife is asked for, mostly, or anything else.
        var asks = random.Next(4) == 0 ? random.Next(6) : 99;
        await Until(run.Id, row => row.State == WorkState.Asking && (row.Asks.Contains("nife", StringComparison.Ordinal) || asks-- <= 0));
        await In(number, async (runs, _, d) =>
        {
            await runs.Stop(d.Id, run.Id, default);
            return true;
        });
        await Until(run.Id, row => !row.IsActive);
        var nothing = (await In(number, (runs, _, _) => runs.DoneOn(run.PaperId, default))).Count == 0;
        await In(number, async (_, db, d) =>
        {
            await using var scope = studio.Services.CreateAsyncScope();
            scope.ServiceProvider.GetRequiredService<FalzkunstContext>().StudioId = d.StudioId;
            var revisions = scope.ServiceProvider.GetRequiredService<Revisions>();
            for (var lines = random.Next(1, 4); lines > 0; lines--)
            {
                var design = (await revisions.DesignOf(d.CurrentRevisionId))!;
                double x = 55 + 15 * random.NextDouble(), y = 10 + 60 * random.NextDouble();
                Core.Cards.Edit edit = new Core.Cards.AddLine(Core.Shapes.VectorPath.Polyline(new Point(x, y), new(x + 10, y + 8)), null,
                    Core.Cards.Operation.Draw);
                Assert.Equal(ChangeOutcome.Done, (await revisions.Change(d, d.CurrentRevisionId, design, edit, "Wilma")).Outcome);
            }

            return true;
        });
        Assert.True(await In(number, (runs, _, d) => runs.Stay(d, "Wilma", default)));
        var sheets = await In(number, (_, db, _) => db.Set<SheetRow>().SumAsync(s => s.Count));
        var (layout, machine) = await In(number, async (_, db, d) => (await LayoutJob.Newest(db, d.Id).FirstAsync(),
            await db.Machines.AsNoTracking().FirstAsync(m => m.StudioId == d.StudioId && m.Place == 0)));
        var (now, plan) = (await In(number, (runs, _, _) => runs.PlanOf(layout, machine, default)))!.Value;
        var begun = await In(number, (runs, _, d) => runs.StartThere(d.Id, now, 0, default));
        if (begun is null)
        {
            Assert.True(nothing, "What is new can't be done on the sheet that lies there.");
            return "with nothing done";
        }

        await Until(begun.Id, row => !row.IsActive);
        Assert.Equal(sheets, await In(number, (_, db, _) => db.Set<SheetRow>().SumAsync(s => s.Count)));
        var made = RunAgreement.Of(plan.Sheets[0], [.. studio.Cutter.Record(0).Select(s => new Store.Cutters.CutterMark(s.Pen, s.Units).On(plan.Sheets[0]))]);
        Assert.True(made is { Missing: 0, Twice: 0, Strays: 0 }, made.Describe());
        // It is cut out now: nothing can be done on it any more.
        Assert.Null(await In(number, (runs, _, d) => runs.StartThere(d.Id, now, 0, default)));
        return "done where they lay";

        async Task Until(Guid id, Func<RunRow, bool> isThat)
        {
            for (var i = 0; i < 5 * Studio.Tries; i++)
            {
                var row = await In(number, (_, db, _) => db.Runs.AsNoTracking().FirstAsync(r => r.Id == id));
                if (isThat(row)) return;
                Assert.True(row.IsActive, $"The run ended: {row.State}.");
                if (row.State == WorkState.Asking) await In(number, async (runs, _, d) =>
                {
                    await runs.Confirm(d.Id, id, row.Asked, default);
                    return true;
                });
                await Task.Delay(20);
            }

            throw new InvalidOperationException("That did not happen.");
        }
    }

    private Task<Guid> PlanOf(int number) =>
        In(number, (_, db, d) => db.RunPlans.Where(p => p.DocketId == d.Id).OrderBy(p => p.At).Select(p => p.Id).FirstAsync());

    private Task<int> Speaks(int number, MachineLanguage language) => In(number, (_, db, d) => db.Machines
        .Where(m => m.StudioId == d.StudioId && m.Place == 0).ExecuteUpdateAsync(u => u.SetProperty(m => m.Language, language)));

    private async Task<int> LaidOut()
    {
        var v = await studio.SignIn();
        await v.Get("/dockets");
        await v.Bring("hut.svg", Encoding.UTF8.GetBytes("<svg xmlns='http://www.w3.org/2000/svg' width='150mm' height='90mm' viewBox='0 0 150 90'><rect "
            + "width='150' height='90' fill='#f4ead2'/><path d='M75 2V88' stroke='blue' fill='none'/><g id='pen'><path d='M90 10L120 20M90 20Q110 40 130 20' "
            + "stroke='#603' fill='none'/><circle cx='110' cy='60' r='12' stroke='#603' fill='none'/></g>"
            + "<path fill='#fff' d='M10 10h40v30h-40z'/><path fill='#fff' d='M15 50l12 30l12 -30z'/></svg>"));
        var root = Regex.Replace(v.Url, @"(/dockets/\d+)/.*", "$1");
        await v.Get(root + "/lay-out");
        await v.Post(root + "/lay-out?handler=LayOut");
        await v.WaitFor(root + "/lay-out", "Go on to Run");
        await v.Get(root + "/run");
        return int.Parse(root.Split('/')[^1], System.Globalization.CultureInfo.InvariantCulture);
    }

    private async Task<T> In<T>(int number, Func<Runs, FalzkunstContext, Docket, Task<T>> work)
    {
        await using var scope = studio.Services.CreateAsyncScope();
        var db = scope.ServiceProvider.GetRequiredService<FalzkunstContext>();
        var docket = await db.Dockets.IgnoreQueryFilters().AsNoTracking().FirstAsync(d => d.Number == number);
        db.StudioId = docket.StudioId;
        return await work(scope.ServiceProvider.GetRequiredService<Runs>(), db, docket);
    }

    private async Task Once(int number, Random random, ConcurrentDictionary<string, int> happened)
    {
        var planId = await PlanOf(number);
        var language = (MachineLanguage)random.Next(2);
        await Speaks(number, language);
        studio.Cutter.Reset();
        var left = random.Next(1, MostFaults + 1);
        Arm();
        var run = (await In(number, (runs, _, _) => runs.Start(planId, 0, random.Next(2) == 0, default)))!.Id;
        for (var rounds = 0; ; rounds++)
        {
            Assert.InRange(rounds, 0, 12);
            var row = await Ended(number, run, random);
            var (chain, plan, _) = (await In(number, (runs, _, d) => runs.ChainOf(d.Id, run, default)))!.Value;
            var sheet = chain[0].Placed(plan.Sheets[0]);
            var agreement = RunAgreement.Of(sheet, await In(number, (runs, _, _) => runs.DoneIn(chain, default)));
            Assert.True(agreement is { Twice: 0, Strays: 0 } && agreement.LargestDeviation.Mm < 0.1, $"{agreement.Describe()} after {row.State}");
            if (agreement.Missing == 0 && row.State == WorkState.Done) return;
            happened[row.State.ToString()] = happened.GetValueOrDefault(row.State.ToString()) + 1;
            if (--left > 0) Arm();
            var next = await In(number, (runs, _, d) => runs.GoOn(d.Id, run, default));
            // All was done when it broke off: then nothing is left to go on with.
            if (next is null && agreement.Missing == 0) return;
            Assert.NotNull(next);
            run = next.Id;
        }

        void Arm()
        {
            // A machine that takes G-code and falls silent is told from one that works by nothing but the time it takes.
            Fault fault;
            do fault = (Fault)random.Next(Enum.GetValues<Fault>().Length);
            while (fault == Fault.Silence && language == MachineLanguage.Gcode);
            happened[fault.ToString()] = happened.GetValueOrDefault(fault.ToString()) + 1;
            studio.Cutter.FailAfter(900 * random.NextDouble(), fault);
        }
    }

    /// <summary>Waits for the end of a run, does what it asks for, and now and then holds or stops it.</summary>
    private async Task<RunRow> Ended(int number, Guid id, Random random)
    {
        bool stops = random.Next(8) == 0, stopped = false;
        for (var i = 0; i < 5 * Studio.Tries; i++)
        {
            var row = await In(number, (_, db, _) => db.Runs.AsNoTracking().FirstAsync(r => r.Id == id));
            if (!row.IsActive) return row;
            Assert.False(stopped && row.State == WorkState.Asking, "A run that was to stop asks for somebody.");
            if (row.State == WorkState.Asking) await In(number, async (runs, _, d) =>
            {
                await runs.Confirm(d.Id, id, row.Asked, default);
                return true;
            });
            else if (stops && row.Step > 0 && random.Next(6) == 0) await In(number, async (runs, _, d) =>
            {
                stopped |= random.Next(2) == 0;
                await (stopped ? runs.Stop(d.Id, id, default) : runs.Hold(d.Id, id, !row.HoldAsked, default));
                return true;
            });
            else if (row.HoldAsked) await In(number, async (runs, _, d) =>
            {
                await runs.Hold(d.Id, id, false, default);
                return true;
            });
            await Task.Delay(20);
        }

        throw new InvalidOperationException($"The run does not end: {System.Text.Json.JsonSerializer.Serialize(studio.Cutter.Look())}");
    }
}
