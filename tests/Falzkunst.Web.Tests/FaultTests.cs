using System.Text;
using System.Text.RegularExpressions;
using Falzkunst.Core.Runs;
using Falzkunst.StandIns;
using Falzkunst.Store;
using Microsoft.EntityFrameworkCore;
using Microsoft.Extensions.DependencyInjection;
using Xunit.Abstractions;

namespace Falzkunst.Web.Tests;

/// <summary>Runs in which something goes wrong, again and again, until the sheet is done: every line is made, and none twice.</summary>
[Collection(Studio.Name)]
public sealed class FaultTests(Studio studio, ITestOutputHelper output)
{
    private const int MostFaults = 3;

    [Fact]
    public async Task Whatever_goes_wrong_each_line_is_made_and_made_once()
    {
        // FALZKUNST_FAULTS ("1000@5000") says how many runs, and the first seed.
        var (count, first) = (Environment.GetEnvironmentVariable("FALZKUNST_FAULTS") ?? "6@1").Split('@').Select(int.Parse).ToArray() is [var n, var f]
            ? (n, f) : default;
        var number = await LaidOut();
        var happened = new Dictionary<string, int>();
        for (var seed = first; seed < first + count; seed++)
        {
            try
            {
                await Once(number, new(seed), happened);
            }
            catch (Exception e) when (e is Xunit.Sdk.XunitException or InvalidOperationException)
            {
                throw new InvalidOperationException($"seed {seed}: {e.Message}", e);
            }
        }

        await In(number, (_, db, d) => db.Machines.Where(m => m.StudioId == d.StudioId && m.Place == 0)
            .ExecuteUpdateAsync(u => u.SetProperty(m => m.Language, MachineLanguage.Hpgl)));
        output.WriteLine($"{count} runs: {string.Join(", ", happened.OrderBy(h => h.Key).Select(h => $"{h.Value} {h.Key}"))}");
    }

    /// <summary>A machine that can't tell what it did begins the line anew that it was at; all others are made once.</summary>
    [Fact]
    public async Task A_machine_that_tells_nothing_is_gone_on_with_line_by_line()
    {
        var number = await LaidOut();
        Task<int> Tells(int? port) => In(number, (_, db, d) => db.Machines.Where(m => m.StudioId == d.StudioId && m.Place == 0)
            .ExecuteUpdateAsync(u => u.SetProperty(m => m.RecordPort, port)));
        var port = await In(number, (_, db, d) => db.Machines.Where(m => m.StudioId == d.StudioId && m.Place == 0).Select(m => m.RecordPort).SingleAsync());
        var planId = await In(number, (_, db, d) => db.RunPlans.Where(p => p.DocketId == d.Id).OrderBy(p => p.At).Select(p => p.Id).FirstAsync());
        await Tells(null);
        try
        {
            studio.Cutter.Reset();
            var run = (await In(number, (runs, _, _) => runs.Start(planId, 0, true, default)))!.Id;
            for (var faults = 0; faults < 3; faults++)
            {
                studio.Cutter.FailAfter(250, Fault.PowerOff);
                if ((await Ended(number, run, new(8))).State == WorkState.Done) break;
                run = (await In(number, (runs, _, d) => runs.GoOn(d.Id, run, default)))!.Id;
            }

            Assert.Equal(WorkState.Done, (await Ended(number, run, new(8))).State);
            var (_, plan, _) = (await In(number, (runs, _, d) => runs.ChainOf(d.Id, run, default)))!.Value;
            var agreement = RunAgreement.Of(plan.Sheets[0], [.. studio.Cutter.Record(0)
                .Select(s => new Store.Cutters.CutterMark(s.Pen, s.Units).On(plan.Sheets[0]))]);
            Assert.True(agreement is { Missing: 0, Strays: 0, Twice: <= 3 }, agreement.Describe());
        }
        finally
        {
            await Tells(port);
        }
    }

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

    private async Task Once(int number, Random random, Dictionary<string, int> happened)
    {
        var planId = await In(number, (_, db, d) => db.RunPlans.Where(p => p.DocketId == d.Id).OrderBy(p => p.At).Select(p => p.Id).FirstAsync());
        var language = (MachineLanguage)random.Next(2);
        await In(number, (_, db, d) => db.Machines.Where(m => m.StudioId == d.StudioId && m.Place == 0)
            .ExecuteUpdateAsync(u => u.SetProperty(m => m.Language, language)));
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
        for (var i = 0; i < 1500; i++)
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
