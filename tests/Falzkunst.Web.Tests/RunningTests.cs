using System.Net;
using System.Text;
using System.Text.RegularExpressions;
using Falzkunst.Core.Runs;
using Falzkunst.Store;
using Microsoft.EntityFrameworkCore;
using Microsoft.Extensions.DependencyInjection;

namespace Falzkunst.Web.Tests;

/// <summary>Laying out and running, with the stand-in at the other end of a real connection.</summary>
[Collection(Studio.Name)]
public sealed class RunningTests(Studio studio)
{
    private async Task<(Visitor Visitor, string Base)> LaidOut(int copies = 1)
    {
        var v = await studio.SignIn();
        await v.Get("/dockets");
        await v.Bring("hut.svg", Encoding.UTF8.GetBytes("<svg xmlns='http://www.w3.org/2000/svg' width='100mm' height='60mm' viewBox='0 0 100 60'><rect "
            + "id='base' width='100' height='60' fill='#f4ead2'/><circle cx='20' cy='20' r='9' fill='#2f5d46'/><path d='M50 2V58' stroke='blue' "
            + "fill='none'/><g id='pen'><path d='M60 10L90 20' stroke='#603' fill='none'/></g></svg>"));
        var root = Regex.Replace(v.Url, @"(/dockets/\d+)/.*", "$1");
        // Whatever other tests left in the machine.
        await In(root, (db, _) => db.Machines.ExecuteUpdateAsync(u => u.SetProperty(m => m.Held, "")));
        if (copies > 1) await In(root, (db, d) => db.Dockets.Where(o => o.Id == d.Id).ExecuteUpdateAsync(u => u.SetProperty(o => o.Copies, copies)));
        await v.Get(root + "/lay-out");
        await v.Post(root + "/lay-out?handler=LayOut");
        await v.WaitFor(root + "/lay-out", "Go on to Run");
        return (v, root);
    }

    private static async Task Confirm(Visitor v, string root)
    {
        await v.WaitFor(root + "/run", "Done, go on");
        await v.Post(root + "/run?handler=Confirm", Shown(v));
    }

    /// <summary>What the form for the run that is shown holds.</summary>
    private static (string, string)[] Shown(Visitor v) =>
        [.. new[] { "run", "asked" }.Select(n => (n, Regex.Match(v.Page, $"name=\"{n}\" value=\"([^\"]+)\"").Groups[1].Value))];

    private static int Number(string root) => int.Parse(root.Split('/')[^1], System.Globalization.CultureInfo.InvariantCulture);

    private async Task<T> In<T>(string root, Func<FalzkunstContext, Docket, Task<T>> work)
    {
        await using var scope = studio.Services.CreateAsyncScope();
        var db = scope.ServiceProvider.GetRequiredService<FalzkunstContext>();
        var docket = await db.Dockets.IgnoreQueryFilters().FirstAsync(d => d.Number == Number(root));
        db.StudioId = docket.StudioId;
        return await work(db, docket);
    }

    /// <summary>What a tool is set to for the ivory card.</summary>
    private Task<double> ForceOf(string root, string tool) => In(root, (db, _) => db.Stocks.Where(s => s.Name.StartsWith("Ivory"))
        .SelectMany(s => s.Settings).Where(s => s.ToolKey == tool).Select(s => s.ForceGrams).SingleOrDefaultAsync());

    private Task<RunRow> LastRun(string root) => In(root, (db, d) => db.Runs.Include(r => r.Events).Where(r => r.DocketId == d.Id)
        .OrderByDescending(r => r.StartedAt).FirstAsync());

    private async Task<RunRow> Ended(string root)
    {
        for (var i = 0; i < Studio.Tries; i++)
        {
            if (await LastRun(root) is { IsActive: false } run) return run;
            await Task.Delay(100);
        }

        throw new InvalidOperationException("The run does not end.");
    }

    [Fact]
    public async Task From_layout_to_a_finished_run_to_files()
    {
        var (v, root) = await LaidOut();
        var before = studio.Cutter.Record(0).Length;
        // The picture of the best so far, asked for when that is over.
        var layout = await In(root, (db, d) => db.Layouts.Where(l => l.DocketId == d.Id).Select(l => l.Id).SingleAsync());
        Assert.Equal(HttpStatusCode.OK, (await v.Http.GetAsync($"{root}/lay-out/best/{layout}.svg")).StatusCode);
        await v.Get(root + "/run");
        Assert.Contains("Run sheet 1", v.Text);
        await v.Post(root + "/run?handler=Start", ("sheet", "0"));
        await v.WaitFor(root + "/run?sheet=0", "load the mat");
        Assert.Contains("holder 1", v.Text);
        await Confirm(v, root);
        await v.WaitFor(root + "/run?sheet=0", "comes out");
        await Confirm(v, root);
        await v.WaitFor(root + "/run?sheet=0", "Finished.");
        Assert.Contains("Done as planned", v.Text);
        // The stand-in drew before it scored before it cut.
        Assert.Equal([1, 4, 6], studio.Cutter.Record(before).Select(s => s.Pen).Distinct());
        foreach (var format in new[] { "svg", "pdf", "dxf", "hpgl" })
        {
            var zip = await v.Http.GetAsync($"{root}/files/{format}.zip");
            Assert.Equal(HttpStatusCode.OK, zip.StatusCode);
            Assert.True((await zip.Content.ReadAsByteArrayAsync()).Length > 300);
        }

        await v.Get(root + "/files/exe.zip");
        Assert.Equal(HttpStatusCode.NotFound, v.Status);
        // A change makes the layout out of date, and says so; from Run it is one click to sheets that can be run.
        await v.Get(root + "/build");
        await v.Post(root + "/build?handler=Copies", ("copies", "3"));
        await v.Get(root + "/lay-out");
        Assert.Contains("out of date", v.Text);
        await v.Get(root + "/run");
        await v.Post(root + "/run?handler=LayOut");
        Assert.StartsWith(root + "/run", v.Url, StringComparison.Ordinal);
        await v.WaitFor(root + "/run", "Run sheet 1");
        Assert.DoesNotContain("out of date", v.Text);
    }

    [Fact]
    public async Task A_part_is_done_again_while_the_sheet_lies_there_and_its_setting_is_remembered()
    {
        var (v, root) = await LaidOut();
        await v.Get(root + "/run");
        await v.Post(root + "/run?handler=Start", ("sheet", "0"), ("loaded", "true"));
        await Confirm(v, root);
        var whole = await Ended(root);
        var left = await In(root, (db, _) => db.Set<SheetRow>().SumAsync(s => s.Count));
        await v.Get(root + "/run?sheet=0");
        Assert.Contains("Do a part of it again", v.Text);
        // The drawn line lies in a frame at its place; nothing else that the pen made does.
        await v.Post(root + "/run?handler=TouchUp", ("run", whole.Id.ToString()), ("steps", "1"), ("force", "65"));
        // The sheet lies there, and the knife is where the pen was.
        await v.WaitFor(root + "/run", "Put the wine pen in");
        Assert.Matches("<p class=\"ask\"[^>]*>Put the wine pen in", v.Page);
        await Confirm(v, root);
        var touched = await Ended(root);
        Assert.Equal((WorkState.Done, true, whole.Id), (touched.State, touched.IsTouchUp, touched.AfterId));
        Assert.Equal(65, studio.Cutter.Force);
        Assert.Equal(left, await In(root, (db, _) => db.Set<SheetRow>().SumAsync(s => s.Count)));
        await v.Get(root + "/run?sheet=0");
        Assert.Contains("Remember for Ivory", v.Text);
        await v.Post(root + "/run?handler=Remember", ("run", touched.Id.ToString()));
        Assert.Equal(65, await ForceOf(root, "pen"));
        var past = await In(root, (db, _) => db.SettingPasts.OrderBy(p => p.At).Select(p => new { p.ToolKey, p.Worked, p.ForceGrams }).ToListAsync());
        Assert.Contains(past, p => p is { ToolKey: "knife", Worked: true });
        Assert.Contains(past, p => p is { ToolKey: "pen", Worked: false, ForceGrams: 65 });
        // A frame with nothing in it, and no frame at all.
        await v.Post(root + "/run?handler=TouchUp", ("run", whole.Id.ToString()), ("x", "150"), ("y", "200"), ("wide", "5"), ("high", "5"));
        Assert.Contains("No line lies there", v.Text);
        await v.Post(root + "/run?handler=TouchUp", ("run", whole.Id.ToString()));
        Assert.Contains("Draw a frame on the sheet", v.Text);
    }

    /// <summary>Numbers of this docket, and of its next run, stand in place of those of the paper, which stays as it is.</summary>
    [Fact]
    public async Task A_step_is_set_otherwise_for_this_docket_or_once()
    {
        var (v, root) = await LaidOut();
        Task Set(string of, string force, string passes = "1") => v.Post(root + "/run?handler=SetStep", ("sheet", "0"), ("tool", "pen"), ("passes", passes),
            ("force", force), ("speed", "80"), ("depth", ""), ("of", of));
        await v.Get(root + "/run?sheet=0");
        var before = await ForceOf(root, "pen");
        await Set("docket", "70");
        Assert.Contains("70\u00a0g, 80\u00a0mm/s; for this docket only", v.Text);
        await Set("run", "90");
        Assert.Contains("90\u00a0g, 80\u00a0mm/s; for the next run only", v.Text);
        await v.Post(root + "/run?handler=Start", ("sheet", "0"), ("loaded", "true"));
        await Confirm(v, root);
        await Ended(root);
        Assert.Contains("90", (await In(root, (db, _) => db.SettingPasts.Where(p => p.ToolKey == "pen" && p.Worked).OrderBy(p => p.At)
            .Select(p => p.ForceGrams).LastAsync())).ToString(System.Globalization.CultureInfo.InvariantCulture));
        // What was for one run is spent.
        Task<RunWishes> Wishes() => In(root, async (db, d) => (await db.Dockets.AsNoTracking().FirstAsync(o => o.Id == d.Id)).Wishes);
        Assert.True(await Wishes() is { Once.IsEmpty: true, Settings: [{ ToolId: "pen", ForceGrams: 70 }] });
        await Set("run", "5000");
        Assert.Contains("the force from 0 to 2000 g", v.Text);
        await Set("docket", "70", "0");
        Assert.Contains("Passes go from 1 to 20", v.Text);
        await Set("none", "");
        Assert.True((await Wishes()).IsNone);
        Assert.Equal(before, await ForceOf(root, "pen"));
        await Set("paper", "55");
        Assert.Equal(55, await ForceOf(root, "pen"));
    }

    /// <summary>With one holder, all sheets are done with one tool first: each in as many loads as there are rounds, each line once.</summary>
    [Fact]
    public async Task One_tool_does_all_sheets_first()
    {
        var (v, root) = await LaidOut(30);
        Task<int> Holders(int n) => In(root, (db, _) => db.Machines.Where(m => m.Place == 0).ExecuteUpdateAsync(u => u.SetProperty(m => m.Holders, n)));
        await Holders(1);
        try
        {
            await v.Get(root + "/run");
            Assert.Contains("Do one tool first", v.Text);
            await v.Post(root + "/run?handler=ByTool", ("on", "true"));
            var loads = new List<string>();
            while (Regex.Match(v.Page,
                "handler=Round[\\s\\S]*?name=\"sheet\" value=\"(\\d+)\"[\\s\\S]*?name=\"after\"(?: value=\"([^\"]*)\")?") is { Success: true } form)
            {
                loads.Add(Regex.Match(v.Text, @"Round (\d) of 3").Groups[1].Value);
                Assert.InRange(loads.Count, 1, 20);
                await v.Post(root + "/run?handler=Round", ("sheet", form.Groups[1].Value), ("after", form.Groups[2].Value));
                var done = await Ended(root);
                Assert.Equal(WorkState.Done, done.State);
                // The same answer once more begins nothing.
                await v.Post(root + "/run?handler=Round", ("sheet", form.Groups[1].Value), ("after", form.Groups[2].Value));
                Assert.Equal(done.Id, (await LastRun(root)).Id);
                await v.Get(root + "/run");
            }

            Assert.Contains("sheets are done", v.Text);
            Assert.Equal(loads.Order(), loads);
            Assert.Equal(["1", "2", "3"], loads.Distinct());
            await using var scope = studio.Services.CreateAsyncScope();
            scope.ServiceProvider.GetRequiredService<FalzkunstContext>().StudioId = await In(root, (_, d) => Task.FromResult(d.StudioId));
            var runs = scope.ServiceProvider.GetRequiredService<Runs>();
            var (docket, last) = await In(root, async (db, d) => (d.Id,
                (await db.Runs.Where(r => r.DocketId == d.Id).OrderBy(r => r.StartedAt).ToListAsync()).GroupBy(r => r.Sheet).Select(g => g.Last()).ToList()));
            foreach (var run in last)
            {
                var (chain, plan, _) = (await runs.ChainOf(docket, run.Id, default))!.Value;
                Assert.True(Core.Runs.RunAgreement.Of(plan.Sheets[run.Sheet], await runs.DoneIn(chain, default)).IsWhole);
                Assert.Equal(plan.Sheets[run.Sheet].Steps.Select(s => s.ToolId).Distinct().Count(), chain.Count);
            }
        }
        finally
        {
            await Holders(2);
        }
    }

    [Fact]
    public async Task Paper_that_tears_ends_the_run_with_what_to_do()
    {
        var (v, root) = await LaidOut();
        Task<int> Force(double grams) => In(root, (db, _) => db.Stocks.SelectMany(s => s.Settings).Where(s => s.ToolKey == "knife")
            .ExecuteUpdateAsync(u => u.SetProperty(s => s.ForceGrams, grams)));
        var before = await ForceOf(root, "knife");
        await Force(900);
        try
        {
            await v.Get(root + "/run");
            Assert.Contains("presses with 600 g at most", v.Text);
            await v.Post(root + "/run?handler=Start", ("sheet", "0"), ("loaded", "true"));
            for (var i = 0; i < Studio.Tries && await LastRun(root) is { IsActive: true } run; i++)
            {
                if (run.State == WorkState.Asking) await Confirm(v, root);
                await Task.Delay(50);
            }

            var torn = await LastRun(root);
            Assert.Equal(WorkState.Failed, torn.State);
            Assert.Contains(torn.Events, e => e.Text.Contains("tore under the knife with 600 g"));
        }
        finally
        {
            await Force(before);
        }
    }

    [Fact]
    public async Task A_test_card_is_made_in_a_free_corner_and_its_best_shape_becomes_the_setting()
    {
        var (v, root) = await LaidOut();
        await v.Get(root + "/run");
        Assert.Contains("Try a setting first", v.Text);
        var before = studio.Cutter.Record(0).Length;
        await v.Post(root + "/run?handler=Test", ("sheet", "0"), ("operation", "cut"));
        for (var stops = 0; stops < 3; stops++) await Confirm(v, root);
        var run = await Ended(root);
        Assert.Equal((WorkState.Done, true), (run.State, run.IsTouchUp));
        // Fifteen shapes with their digits, each with its own force; the sheet is not done by that.
        Assert.True(studio.Cutter.Record(before).Length >= 15 * 4);
        await v.Get(root + "/run?sheet=0");
        Assert.Contains("Which shape is best?", v.Text);
        Assert.Contains("Run sheet 1", v.Text);
        var force = Regex.Match(v.Page, "value=\"7\">\\s*(\\d+) g").Groups[1].Value;
        await v.Post(root + "/run?handler=TakeTest", ("run", run.Id.ToString()), ("step", "7"));
        Assert.Equal(double.Parse(force, System.Globalization.CultureInfo.InvariantCulture), await ForceOf(root, "knife"));
        await v.Post(root + "/run?handler=TakeTest", ("run", run.Id.ToString()), ("step", "99"));
        Assert.Contains("not there any more", v.Text);
        // The weakest force is nobody's choice; and the sheet is in the machine.
        await v.Get(root + "/run?sheet=0");
        Assert.DoesNotContain("Remember for", v.Text);
        Assert.Matches("<p class=\"ask\">Put the [a-z ]+ in holder", v.Page);
        var there = await In(root, (db, _) => db.Set<SheetRow>().SumAsync(s => s.Count));
        await v.Post(root + "/run?handler=Start", ("sheet", "0"), ("loaded", "true"));
        while (await LastRun(root) is { IsActive: true } now)
        {
            if (now.State == WorkState.Asking) await Confirm(v, root);
            else await Task.Delay(50);
        }

        // One sheet of paper was used, once; and what is left of it is what no shape was cut into.
        var whole = await LastRun(root);
        Assert.Equal((WorkState.Done, run.PaperId, there - 1), (whole.State, whole.PaperId,
            await In(root, (db, _) => db.Set<SheetRow>().SumAsync(s => s.Count))));
        var kept = await In(root, async (db, d) => await db.Layouts.SingleAsync(l => l.DocketId == d.Id));
        await using var scope = studio.Services.CreateAsyncScope();
        scope.ServiceProvider.GetRequiredService<FalzkunstContext>().StudioId = kept.StudioId;
        var design = (await scope.ServiceProvider.GetRequiredService<LaidTogether>().DesignOf(kept, default))!;
        Assert.NotEmpty(await scope.ServiceProvider.GetRequiredService<Runs>().SpoiledBy(whole, design, LayoutJob.Read(kept)!.Sheets[0], default));
    }

    [Fact]
    public async Task A_docket_runs_again_in_another_number_and_of_another_paper()
    {
        var (v, root) = await LaidOut();
        await v.Get(root + "/again");
        var ivory = Regex.Match(v.Page, "value=\"([0-9a-f]+):\\1\" selected").Groups[1].Value;
        var snow = await In(root, (db, _) => db.Stocks.Where(s => s.Name.StartsWith("Snow")).Select(s => s.Id).SingleAsync());
        await v.Post(root + "/again?handler=Again", ("copies", "3"), ("papers", $"{ivory}:{snow:N}"));
        await v.WaitFor(root + "/again?begun=true", "Run sheet 1");
        Assert.Contains("Snow 220 g", v.Text);
        await v.Post(root + "/again?handler=Again", ("copies", "0"));
        Assert.Contains("Copies go from 1 to 1000", v.Text);
    }

    [Fact]
    public Task What_a_run_leaves_of_its_sheet_goes_into_the_drawer_and_is_used_first() => Studio.Alone(async own =>
    {
        var tests = new RunningTests(own);
        var (v, root) = await tests.LaidOut();
        async Task<SheetRow[]> Ivory() => await tests.In(root, (db, _) =>
            db.Stocks.Where(s => s.Name.StartsWith("Ivory")).SelectMany(s => s.Sheets).OrderBy(s => s.Id).AsNoTracking().ToArrayAsync());
        var there = Assert.Single(await Ivory()).Count;
        Assert.Contains($"1 of {there}", v.Text);
        await v.Get(root + "/run");
        Assert.DoesNotContain("What is left of it", v.Text);
        await v.Post(root + "/run?handler=Start", ("sheet", "0"));
        await v.WaitFor(root + "/run?sheet=0", "load the mat");
        await Confirm(v, root);
        await v.WaitFor(root + "/run?sheet=0", "comes out");
        await Confirm(v, root);
        await v.WaitFor(root + "/run?sheet=0", "What is left of it");
        Assert.Equal(there - 1, Assert.Single(await Ivory()).Count);
        // Kept once, however often it is asked for; and the layout that was cut stays what it was.
        var run = (await tests.LastRun(root)).Id.ToString();
        await v.Post(root + "/run?handler=Keep&sheet=0", ("run", run), ("whole", "true"));
        await v.Post(root + "/run?handler=Keep&sheet=0", ("run", run), ("whole", "false"));
        var kept = Assert.Single(await Ivory(), s => s.LeftByRunId is not null);
        Assert.StartsWith("M", kept.Left);
        Assert.Contains("lie in the drawer", v.Text);
        await v.Get($"/stock/{kept.StockId}");
        Assert.Contains("Off-cuts, used before whole sheets", v.Text);
        await v.Get(root + "/lay-out");
        Assert.DoesNotContain("out of date", v.Text);
        // What was cut can't be changed by hand, nor undone.
        await v.Get(root + "/lay-out?sheet=1&laid=p1.1");
        var layout = Regex.Match(v.Page, "name=\"layout\" value=\"([^\"]+)\"").Groups[1].Value;
        await v.Post(root + "/lay-out?sheet=1&laid=p1.1&handler=MovePiece", ("layout", layout), ("right", "20 mm"));
        Assert.Contains("That sheet is cut already", v.Text);
        // The same card once more goes on what is left of its first sheet.
        var (again, second) = await tests.LaidOut();
        Assert.Contains("1 of 1, an off-cut", again.Text);
        await again.Get(second + "/lay-out?sheet=1");
        Assert.Contains("from the left", (await again.Get(second + "/lay-out?sheet=1&laid=p1.1")).Text);
        // Each of both knows what the other wants.
        Assert.Contains($"1 wanted for docket {Number(root)}", again.Text);
        // Thrown away, it is missed.
        await v.Get($"/stock/{kept.StockId}");
        await v.Post($"/stock/{kept.StockId}?handler=RemoveSheet", ("sheet", kept.Id.ToString()));
        Assert.Contains("gone: lay out again", (await again.Get(second + "/lay-out")).Text);
    });

    [Fact]
    public async Task What_is_done_by_hand_is_undone_and_redone_and_nothing_of_it_is_lost_to_a_second_writer()
    {
        var (v, root) = await LaidOut();
        var page = root + "/lay-out?sheet=1&laid=p1.1";
        string Layout() => Regex.Match(v.Page, "name=\"layout\" value=\"([^\"]+)\"").Groups[1].Value;
        string Left() => Regex.Match(v.Text, "from the left ([0-9.]+) mm").Groups[1].Value;
        await v.Get(page);
        var (before, first) = (Left(), Layout());
        await v.Post(page + "&handler=MovePiece", ("layout", first), ("right", "20 mm"), ("down", "10 mm"));
        Assert.NotEqual(before, Left());
        var moved = Left();
        await v.Post(page + "&handler=Pin", ("layout", Layout()), ("pinned", "true"));
        Assert.Contains("sheet 1, pinned", v.Text);
        // Who still sees the first layout is told, and changes nothing.
        await v.Post(page + "&handler=Beside", ("layout", first));
        Assert.Contains("Somebody changed this layout in the meantime", v.Text);
        Assert.DoesNotContain("piece, not cut", v.Text);
        foreach (var nonsense in new[] { "1e400", "three", "-" })
        {
            await v.Post(page + "&handler=MovePiece", ("layout", Layout()), ("right", nonsense));
            Assert.Equal(HttpStatusCode.OK, v.Status);
            Assert.Equal(moved, Left());
        }

        await v.Post(page + "&handler=Undo");
        Assert.DoesNotContain("pinned", v.Text);
        await v.Post(page + "&handler=Undo");
        Assert.Equal(before, Left());
        await v.Post(page + "&handler=Redo");
        Assert.Equal(moved, Left());
        await v.Post(page + "&handler=Beside", ("layout", Layout()));
        Assert.Contains("1 piece, not cut", v.Text);
        Assert.Contains("disabled", Regex.Match(v.Page, "<button[^>]*data-key=\"redo\"[^>]*>").Value);
        Assert.Contains("1 piece set beside the sheets: not cut", (await v.Get(root + "/run")).Text);
    }

    [Fact]
    public async Task A_lost_connection_ends_the_run_with_a_sentence_and_it_can_be_run_again()
    {
        var (v, root) = await LaidOut();
        await v.Get(root + "/run");
        await v.Post(root + "/run?handler=Start", ("sheet", "0"));
        await v.WaitFor(root + "/run?sheet=0", "load the mat");
        studio.Cutter.FailAfter(5);
        await Confirm(v, root);
        for (var i = 0; i < Studio.Tries && !v.Text.Contains("go on with it", StringComparison.Ordinal); i++)
        {
            await v.Get(root + "/run?sheet=0");
            if (v.Text.Contains("Done, go on", StringComparison.Ordinal)) await Confirm(v, root);
            await Task.Delay(100);
        }

        Assert.Contains("connection to the machine was lost", v.Text);
        Assert.Matches("mm of it are left to do", v.Text);
        // What was done is kept all the same: it was asked on another line.
        Assert.NotEmpty((await LastRun(root)).Record);
        await v.Post(root + "/run?handler=Start", ("sheet", "0"));
        await v.WaitFor(root + "/run?sheet=0", "load the mat");
        await v.Post(root + "/run?handler=Stop", Shown(v));
        Assert.Contains("Stopped by you", v.Text);
    }

    [Fact]
    public async Task The_stops_of_what_was_laid_out_block_the_run_until_it_is_laid_out_again()
    {
        var (v, root) = await LaidOut();
        await v.Get(root + "/build");
        await v.Post(root + "/build?handler=Line", ("line", v.Id('l')), ("operation", "cut"));
        Assert.Contains("1 stop", v.Text);
        // What lies on the sheets has no stop.
        await v.Get(root + "/run");
        Assert.DoesNotContain("must be mended", v.Text);
        await v.Get(root + "/lay-out");
        await v.Post(root + "/lay-out?handler=LayOut");
        await v.WaitFor(root + "/lay-out", "Go on to Run");
        await v.Get(root + "/build");
        await v.Post(root + "/build?handler=Remedy", ("key", Regex.Match(v.Page, "name=\"key\" value=\"([^\"]+)\"").Groups[1].Value));
        Assert.Contains("0 stops", v.Text);
        // Now the design has none, and what lies on the sheets has: the fold would be cut.
        await v.Get(root + "/run");
        Assert.Contains("must be mended", v.Text);
        await v.Post(root + "/run?handler=Start", ("sheet", "0"));
        Assert.Contains("Mend the stops", v.Text);
        Assert.Equal(0, await In(root, (db, d) => db.Runs.CountAsync(r => r.DocketId == d.Id)));
    }

    [Fact]
    public async Task Of_two_starts_at_once_one_gets_the_machine_and_the_other_is_told()
    {
        var (v, root) = await LaidOut();
        var w = await studio.SignIn(Studio.Tobias);
        await v.Get(root + "/run");
        await w.Get(root + "/run");
        await Task.WhenAll(v.Post(root + "/run?handler=Start", ("sheet", "0")), w.Post(root + "/run?handler=Start", ("sheet", "0")));
        Assert.Equal(1, await In(root, (db, d) => db.Runs.CountAsync(r => r.DocketId == d.Id)));
        Assert.Single(new[] { v, w }, x => x.Text.Contains("Wait for it, or stop that run", StringComparison.Ordinal));
        // An answer to what is not asked any more, and one that is given twice, change nothing.
        await v.WaitFor(root + "/run", "Done, go on");
        var form = Shown(v);
        await v.Post(root + "/run?handler=Confirm", form[0], ("asked", "7"));
        Assert.Equal(WorkState.Asking, (await LastRun(root)).State);
        await Task.WhenAll(v.Post(root + "/run?handler=Confirm", form), w.Post(root + "/run?handler=Confirm", form));
        Assert.Single((await LastRun(root)).Events, e => e.Text.StartsWith("Done: Put a sheet", StringComparison.Ordinal));
        await v.WaitFor(root + "/run", "comes out");
        await v.Post(root + "/run?handler=Stop", Shown(v));
        Assert.Equal(WorkState.Stopped, (await Ended(root)).State);
    }

    /// <summary>Stopped in the very moment in which it comes to a stop of its own: it does not wait for hands for ever, and keep its machine.</summary>
    [Fact]
    public async Task A_stop_in_the_moment_in_which_hands_are_asked_for_ends_the_run()
    {
        var (v, root) = await LaidOut();
        Task<int> Sql(string sql) => studio.In(db => db.Database.ExecuteSqlRawAsync(sql));
        await Sql($"""
            CREATE FUNCTION stop_then() RETURNS trigger LANGUAGE plpgsql AS 'BEGIN NEW."StopAsked" := true; RETURN NEW; END';
            CREATE TRIGGER stop_then BEFORE UPDATE ON "Runs" FOR EACH ROW
            WHEN (OLD."State" = {(int)WorkState.Working} AND NEW."State" = {(int)WorkState.Asking}) EXECUTE FUNCTION stop_then();
            """);
        try
        {
            await v.Post(root + "/run?handler=Start", ("sheet", "0"));
            Assert.Equal(WorkState.Stopped, (await Ended(root)).State);
        }
        finally
        {
            await Sql("DROP FUNCTION stop_then CASCADE");
        }
    }

    /// <summary>Who stops a run whose machine says nothing has stopped it.</summary>
    [Fact]
    public async Task A_stop_at_a_silent_machine_is_a_stop()
    {
        var (_, root) = await LaidOut();
        await using var machine = new BadMachine("silent");
        var port = await In(root, (db, _) => db.Machines.Where(m => m.Place == 0).Select(m => m.Port).SingleAsync());
        Task<int> Port(int at) => In(root, (db, _) => db.Machines.Where(m => m.Place == 0).ExecuteUpdateAsync(u => u.SetProperty(m => m.Port, at)));
        await Port(machine.Port);
        try
        {
            var v = await studio.SignIn();
            await v.Get(root + "/run");
            await v.Post(root + "/run?handler=Start", ("sheet", "0"), ("loaded", "true"));
            var run = await LastRun(root);
            await v.Post(root + "/run?handler=Stop", ("run", run.Id.ToString()));
            run = await Ended(root);
            Assert.Equal(WorkState.Stopped, run.State);
            Assert.Contains(run.Events, e => e.Text.StartsWith("Stopped by you", StringComparison.Ordinal));
        }
        finally
        {
            await Port(port);
        }
    }

    [Theory]
    [InlineData("silent", "does not answer")]
    [InlineData("nonsense", "what nobody can read")]
    [InlineData("digits without end", "what nobody can read")]
    [InlineData("a digit a second", "does not answer")]
    [InlineData("hangs up", "connection to the machine was lost")]
    [InlineData("failed", "ran into something")]
    [InlineData("stuck", "Stopped by you")]
    [InlineData("nobody", "does not answer")]
    public async Task Whatever_a_machine_does_the_run_ends_in_a_sentence(string kind, string expected)
    {
        var (v, root) = await LaidOut();
        await using var machine = new BadMachine(kind);
        await In(root, async (db, d) =>
        {
            var row = new MachineRow
            {
                Id = Guid.CreateVersion7(),
                StudioId = d.StudioId,
                Name = $"Bad {kind}",
                WidthMm = 305,
                HeightMm = 305,
                Holders = 2,
                SpeedMmS = 100,
                TravelMmS = 100,
                AccelerationMmS2 = 1000,
                LiftSeconds = 0.1,
                Port = machine.Port,
                Place = 90,
            };
            db.Machines.Add(row);
            d.MachineId = row.Id;
            return await db.SaveChangesAsync();
        });
        await v.Get(root + "/run");
        await v.Post(root + "/run?handler=Start", ("sheet", "0"));
        if (kind is "failed" or "stuck") await Confirm(v, root);
        if (kind == "stuck")
        {
            await v.WaitFor(root + "/run", "Sheet 1 is running");
            await v.Post(root + "/run?handler=Stop", Shown(v));
            var clock = System.Diagnostics.Stopwatch.StartNew();
            await Ended(root);
            // Long before a machine is given up that says nothing.
            Assert.InRange(clock.Elapsed.TotalSeconds, 0, 50);
        }

        var run = await Ended(root);
        Assert.Contains(expected, run.Events.MaxBy(e => e.At)!.Text);
        await v.Get(root + "/run");
        // One that took all that it was sent, and hung then, may have done some of it.
        Assert.Contains(kind == "stuck" ? "Begin it anew on another sheet" : "Run sheet 1", v.Text);
    }

    [Fact]
    public async Task What_hangs_is_swept_and_waiting_runs_hold_up_no_layout()
    {
        var (v, root) = await LaidOut();
        var ids = await In(root, async (db, d) =>
        {
            var layout = await db.Layouts.FirstAsync(l => l.DocketId == d.Id);
            var runs = new List<RunRow>();
            for (var i = 0; i < 11; i++)
            {
                var machine = new MachineRow { Id = Guid.CreateVersion7(), StudioId = d.StudioId, Name = $"Waiting {i}", Port = 9, Place = 80 };
                db.Machines.Add(machine);
                runs.Add(new()
                {
                    Id = Guid.CreateVersion7(),
                    StudioId = d.StudioId,
                    DocketId = d.Id,
                    LayoutId = layout.Id,
                    MachineId = machine.Id,
                    Asks = "Put it in.",
                    // The last was in the hands of a worker that is gone.
                    State = i == 10 ? WorkState.Working : WorkState.Asking,
                    Owner = i == 10 ? Guid.NewGuid() : null,
                    Step = 1,
                    SeenAt = DateTimeOffset.UtcNow.AddSeconds(-20),
                });
            }

            db.Runs.AddRange(runs);
            await db.SaveChangesAsync();
            return runs.ConvertAll(r => r.Id);
        });
        await v.Get(root + "/lay-out");
        await v.Post(root + "/lay-out?handler=LayOut");
        await v.WaitFor(root + "/lay-out", "Go on to Run");
        for (var i = 0; i < Studio.Tries && await State(10) == WorkState.Working; i++) await Task.Delay(100);
        Assert.Equal((WorkState.Failed, WorkState.Asking), (await State(10), await State(0)));
        await In(root, (db, _) => db.Runs.Where(r => ids.Contains(r.Id)).ExecuteDeleteAsync());

        Task<WorkState> State(int i) => In(root, (db, _) => db.Runs.Where(r => r.Id == ids[i]).Select(r => r.State).FirstAsync());
    }

    [Fact]
    public async Task A_layout_that_was_under_way_is_laid_out_afresh_and_one_that_breaks_a_rule_is_not_shown()
    {
        var (_, root) = await LaidOut();
        await using var scope = studio.Services.CreateAsyncScope();
        var db = scope.ServiceProvider.GetRequiredService<FalzkunstContext>();
        var docket = await db.Dockets.IgnoreQueryFilters().FirstAsync(d => d.Number == Number(root));
        db.StudioId = docket.StudioId;
        var layout = await db.Layouts.FirstAsync(l => l.DocketId == docket.Id);
        layout.State = WorkState.Working;
        layout.Document = "";
        await db.SaveChangesAsync();
        await scope.ServiceProvider.GetRequiredService<LayoutJob>().Work(docket.StudioId, layout.Id, CancellationToken.None);
        Assert.Equal(WorkState.Done, layout.State);
        Assert.NotEmpty(layout.Document);
    }

    /// <summary>A docket whose single line is foiled with what there are only small pieces of; another foil is large enough.</summary>
    [Fact]
    public async Task Foil_that_is_larger_than_any_piece_stops_a_run_until_another_is_taken()
    {
        var (v, root) = await LaidOut();
        StockRow[] foils = [.. new[] { ("Tiny foil", 30.0), ("Wide foil", 290) }.Select(f => new StockRow
        {
            Id = Guid.CreateVersion7(), Name = f.Item1, Kind = "foil", Place = 900,
            Sheets = [new() { Id = Guid.CreateVersion7(), WidthMm = f.Item2, HeightMm = f.Item2, Count = 2 }],
        })];
        await In(root, async (db, d) =>
        {
            foreach (var foil in foils) foil.StudioId = d.StudioId;
            db.Stocks.AddRange(foils);
            return await db.SaveChangesAsync();
        });
        await v.Get(root + "/build");
        var line = v.Id('l', 1);
        await v.Post(root + "/build?handler=Line", ("line", line), ("operation", "foil"));
        await v.Post(root + "/build?handler=Foil", ("ids", line), ("foil", "Tiny foil"), ("width", ""));
        await v.Get(root + "/lay-out");
        await v.Post(root + "/lay-out?handler=LayOut");
        await v.WaitFor(root + "/lay-out", "Go on to Run");
        await v.Get(root + "/run");
        Assert.Contains("larger than any piece in the drawer", v.Text);
        Assert.Matches("href=\"/stock\"[^>]* hx-boost=\"false\"", v.Page);
        Assert.Contains("Foil them with wide foil", Regex.Replace(v.Text, @"\s+", " "), StringComparison.OrdinalIgnoreCase);
        await v.Post(root + "/run?handler=Start", ("sheet", "0"), ("loaded", "false"));
        Assert.DoesNotContain("Done, go on", v.Page);
        await v.Post(root + "/run?handler=OtherFoil", ("foil", "Tiny foil"), ("other", "Wide foil"));
        Assert.DoesNotContain("larger than any piece in the drawer", v.Text);
        await v.Post(root + "/run?handler=Start", ("sheet", "0"), ("loaded", "false"));
        await v.WaitFor(root + "/run", "Done, go on");
        Assert.Contains("wide foil", v.Text, StringComparison.OrdinalIgnoreCase);
        await v.Post(root + "/run?handler=Stop", Shown(v));
        await In(root, (db, d) => db.Stocks.Where(s => s.StudioId == d.StudioId && s.Kind == "foil" && s.Place == 900).ExecuteDeleteAsync());
    }

    [Fact]
    public async Task Words_are_drawn_with_the_pen_that_is_in_the_holder()
    {
        var (v, root) = await LaidOut();
        var setup = MachineSetup.Unknown(2).Holding(Tool.Standard[0] with { Width = Core.Measures.Length.FromMm(0.3), Ink = new(18, 52, 86) });
        await In(root, (db, d) => db.Machines.Where(m => m.StudioId == d.StudioId).ExecuteUpdateAsync(u => u.SetProperty(m => m.Held,
            Core.Documents.RunDocument.WriteSetup(setup))));
        await v.Get(root + "/build?add=write");
        var face = Core.Lettering.Faces.All.First(f => f.IsSingleLine).Name;
        await v.Post(root + "/build?handler=Write", ("text", "Hut"), ("face", face), ("size", "9"), ("operation", "draw"), ("pen", "1"));
        await v.Get(v.Url);
        var file = await v.Http.GetStringAsync(root + "/design.falz.json");
        Assert.Contains("#123456", file);
        Assert.Contains("\"penMm\":0.3", Regex.Replace(file, @"\s", ""));
    }

    [Fact]
    public async Task While_the_database_is_down_a_page_says_so_and_afterwards_all_is_well()
    {
        // Of its own, since every connection is thrown out and kept out for a while.
        var other = new Studio();
        await other.InitializeAsync();
        try
        {
            var v = await other.SignIn();
            await v.Get("/dockets");
            Assert.Equal(HttpStatusCode.OK, v.Status);
            var name = new Npgsql.NpgsqlConnectionStringBuilder(other.Connection).Database!;
            await Admin($"ALTER DATABASE {name} WITH ALLOW_CONNECTIONS false; SELECT pg_terminate_backend(pid) FROM pg_stat_activity WHERE datname = '{name}'");
            await v.Get("/dockets");
            Assert.Equal(HttpStatusCode.ServiceUnavailable, v.Status);
            Assert.Contains("Nothing is lost", v.Text);
            await Admin($"ALTER DATABASE {name} WITH ALLOW_CONNECTIONS true");
            await v.WaitFor("/dockets", "New docket");
        }
        finally
        {
            await other.DisposeAsync();
        }

        static async Task Admin(string sql)
        {
            await using var connection = new Npgsql.NpgsqlConnection(Studio.Postgres);
            await connection.OpenAsync();
            await using var command = new Npgsql.NpgsqlCommand(sql, connection);
            await command.ExecuteNonQueryAsync();
        }
    }
}
