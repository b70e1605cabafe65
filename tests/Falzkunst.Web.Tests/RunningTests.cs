using System.Net;
using System.Text;
using System.Text.RegularExpressions;
using Falzkunst.Store;
using Microsoft.EntityFrameworkCore;
using Microsoft.Extensions.DependencyInjection;

namespace Falzkunst.Web.Tests;

/// <summary>Laying out and running, with the stand-in at the other end of a real connection.</summary>
[Collection(Studio.Name)]
public sealed class RunningTests(Studio studio)
{
    private async Task<(Visitor Visitor, string Base)> LaidOut()
    {
        var v = await studio.SignIn();
        await v.Get("/dockets");
        await v.Bring("hut.svg", Encoding.UTF8.GetBytes("<svg xmlns='http://www.w3.org/2000/svg' width='100mm' height='60mm' viewBox='0 0 100 60'><rect "
            + "id='base' width='100' height='60' fill='#f4ead2'/><circle cx='20' cy='20' r='9' fill='#2f5d46'/><path d='M50 2V58' stroke='blue' "
            + "fill='none'/><g id='pen'><path d='M60 10L90 20' stroke='#603' fill='none'/></g></svg>"));
        var root = Regex.Replace(v.Url, @"(/dockets/\d+)/.*", "$1");
        await v.Get(root + "/lay-out");
        await v.Post(root + "/lay-out?handler=LayOut");
        await v.WaitFor(root + "/lay-out", "Go on to Run");
        return (v, root);
    }

    private static async Task Confirm(Visitor v, string root)
    {
        await v.WaitFor(root + "/run", "Done, go on");
        await v.Post(root + "/run?handler=Confirm", ("run", Regex.Match(v.Page, "name=\"run\" value=\"([^\"]+)\"").Groups[1].Value));
    }

    [Fact]
    public async Task From_layout_to_a_finished_run_to_files()
    {
        var (v, root) = await LaidOut();
        await v.Get(root + "/run");
        Assert.Contains("Run sheet 1", v.Text);
        await v.Post(root + "/run?handler=Start", ("sheet", "0"));
        await v.WaitFor(root + "/run?sheet=0", "load the mat");
        Assert.Contains("holder 1", v.Text);
        await Confirm(v, root);
        await v.WaitFor(root + "/run?sheet=0", "in place of");
        await Confirm(v, root);
        await v.WaitFor(root + "/run?sheet=0", "Finished.");
        var (done, planned) = (Regex.Match(v.Text, @"(\d+) mm done of (\d+) mm planned") is { Success: true } m ? (m.Groups[1].Value, m.Groups[2].Value)
            : ("0", "1"));
        Assert.Equal(double.Parse(planned, System.Globalization.CultureInfo.InvariantCulture),
            double.Parse(done, System.Globalization.CultureInfo.InvariantCulture), 2.0);
        // The stand-in drew before it scored before it cut.
        Assert.Equal([1, 4, 6], studio.Cutter.Record(0).Select(s => s.Pen).Distinct());
        foreach (var format in new[] { "svg", "pdf", "dxf", "hpgl" })
        {
            var zip = await v.Http.GetAsync($"{root}/files/{format}.zip");
            Assert.Equal(HttpStatusCode.OK, zip.StatusCode);
            Assert.True((await zip.Content.ReadAsByteArrayAsync()).Length > 300);
        }

        await v.Get(root + "/files/exe.zip");
        Assert.Equal(HttpStatusCode.NotFound, v.Status);
        // A change makes the layout out of date, and says so.
        await v.Get(root + "/build");
        await v.Post(root + "/build?handler=Copies", ("copies", "3"));
        await v.Get(root + "/lay-out");
        Assert.Contains("out of date", v.Text);
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
        for (var i = 0; i < 100 && !v.Text.Contains("run the sheet again", StringComparison.Ordinal); i++)
        {
            await v.Get(root + "/run?sheet=0");
            if (v.Text.Contains("Done, go on", StringComparison.Ordinal)) await Confirm(v, root);
            await Task.Delay(100);
        }

        Assert.Contains("connection to the cutter was lost", v.Text);
        await v.Post(root + "/run?handler=Start", ("sheet", "0"));
        await v.WaitFor(root + "/run?sheet=0", "load the mat");
        await v.Post(root + "/run?handler=Stop", ("run", Regex.Match(v.Page, "name=\"run\" value=\"([^\"]+)\"").Groups[1].Value));
        await v.WaitFor(root + "/run?sheet=0", "Stopped by you");
    }

    [Fact]
    public async Task A_stop_finding_blocks_the_run_and_only_the_run()
    {
        var (v, root) = await LaidOut();
        await v.Get(root + "/build");
        await v.Post(root + "/build?handler=Line", ("line", v.Id('l')), ("operation", "cut"));
        Assert.Contains("1 stop", v.Text);
        await v.Get(root + "/run");
        Assert.Contains("must be mended", v.Text);
        await v.Post(root + "/run?handler=Start", ("sheet", "0"));
        Assert.Contains("Mend the stops first", v.Text);
        await v.Get(root + "/build");
        await v.Post(root + "/build?handler=Remedy", ("key", Regex.Match(v.Page, "name=\"key\" value=\"([^\"]+)\"").Groups[1].Value));
        Assert.Contains("0 stops", v.Text);
    }

    [Fact]
    public async Task A_run_that_was_broken_off_by_a_restart_is_not_taken_up_by_itself()
    {
        var (_, root) = await LaidOut();
        await using var scope = studio.Services.CreateAsyncScope();
        var db = scope.ServiceProvider.GetRequiredService<FalzkunstContext>();
        var number = int.Parse(root.Split('/')[^1], System.Globalization.CultureInfo.InvariantCulture);
        var docket = await db.Dockets.IgnoreQueryFilters().FirstAsync(d => d.Number == number);
        db.StudioId = docket.StudioId;
        var layout = await db.Layouts.FirstAsync(l => l.DocketId == docket.Id);
        var run = new RunRow
        {
            Id = Guid.CreateVersion7(),
            StudioId = docket.StudioId,
            DocketId = docket.Id,
            LayoutId = layout.Id,
            MachineId = (await db.Machines.FirstAsync()).Id,
            State = WorkState.Working,
            StartedAt = DateTimeOffset.UtcNow,
            SeenAt = DateTimeOffset.UtcNow,
        };
        db.Runs.Add(run);
        await db.SaveChangesAsync();
        await scope.ServiceProvider.GetRequiredService<RunJob>().Work(docket.StudioId, run.Id, CancellationToken.None);
        Assert.Equal(WorkState.Failed, run.State);
        Assert.Contains("restarted", run.Events.Single().Text);
        // A layout that was under way is laid out afresh when the queue takes it up again.
        layout.State = WorkState.Working;
        layout.Document = "";
        await db.SaveChangesAsync();
        await scope.ServiceProvider.GetRequiredService<LayoutJob>().Work(docket.StudioId, layout.Id, CancellationToken.None);
        Assert.Equal(WorkState.Done, layout.State);
        Assert.NotEmpty(layout.Document);
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
            await ((IAsyncLifetime)other).DisposeAsync();
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
