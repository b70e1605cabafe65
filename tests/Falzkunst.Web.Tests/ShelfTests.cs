using System.Net;
using System.Text.RegularExpressions;
using Falzkunst.Store;
using Microsoft.EntityFrameworkCore;
using Microsoft.Extensions.DependencyInjection;

namespace Falzkunst.Web.Tests;

/// <summary>What is done with whole dockets.</summary>
[Collection(Studio.Name)]
public sealed class ShelfTests(Studio studio)
{
    private async Task<(Visitor Visitor, string Number)> Docket(string name)
    {
        var v = await studio.SignIn();
        await v.Get("/dockets");
        await v.Bring(name + ".svg", "<svg xmlns='http://www.w3.org/2000/svg' width='80mm' height='60mm'><rect width='80' height='60'/></svg>"u8.ToArray());
        return (v, Regex.Match(v.Url, @"\d+").Value);
    }

    private static Task<Visitor> Do(Visitor v, string what, string number) => v.Post("/dockets?handler=" + what, ("number", number));

    [Fact]
    public async Task A_copy_has_its_own_number_and_history_and_the_files()
    {
        var (v, number) = await Docket("heron");
        await v.Get($"/dockets/{number}/build");
        await v.Post($"/dockets/{number}/build?handler=Copies", ("copies", "7"));
        await v.Post($"/dockets/{number}/build?handler=Rename", ("id", "p1"), ("label", "the heron"));
        await Do(v, "Copy", number);
        var copy = Regex.Match(v.Url, @"\d+").Value;
        Assert.NotEqual(number, copy);
        Assert.Contains("This is a copy of docket", v.Text);
        Assert.Contains("Heron, copy", v.Text);
        Assert.Contains("the heron", v.Page);
        Assert.Contains("7 copies", v.Text);
        await v.Get($"/dockets/{copy}/bring-in");
        Assert.Contains("heron.svg", v.Text);
        var file = Regex.Match(v.Page, $"/dockets/{copy}/source/[0-9a-f-]+").Value;
        Assert.Equal(HttpStatusCode.OK, (await v.Http.GetAsync(file)).StatusCode);
        // Each goes its own way, and what one throws away the other keeps.
        await v.Get($"/dockets/{copy}/build");
        await v.Post($"/dockets/{copy}/build?handler=Rename", ("id", "p1"), ("label", "an egret"));
        await v.Get($"/dockets/{number}/build");
        Assert.Contains("the heron", v.Page);
        await v.Get("/dockets");
        await Do(v, "Delete", number);
        await Age(number, 31);
        await v.Get($"/dockets/{copy}/build");
        Assert.Contains("an egret", v.Page);
        Assert.Equal(HttpStatusCode.OK, (await v.Http.GetAsync(file)).StatusCode);
    }

    [Fact]
    public async Task What_is_archived_or_deleted_lies_there_and_comes_back()
    {
        var (_, other) = await Docket("siskin");
        var (v, number) = await Docket("wagtail");
        await v.Get("/dockets");
        await Do(v, "Archive", number);
        Assert.Contains("lies in the archive now", v.Text);
        await v.Get("/dockets");
        Assert.DoesNotContain("Wagtail", v.Text);
        await v.Get("/dockets?place=archive");
        Assert.Contains("Wagtail", v.Text);
        await v.Get($"/dockets/{number}/build");
        Assert.Equal(HttpStatusCode.OK, v.Status);
        await v.Get("/dockets?place=archive");
        await Do(v, "TakeOut", number);
        await v.Get("/dockets");
        Assert.Contains("Wagtail", v.Text);
        await v.Get($"/dockets/{number}/bring-in");
        var file = Regex.Match(v.Page, "/dockets/\\d+(/source/[0-9a-f-]+)").Groups[1].Value;
        var state = Regex.Match(v.Page, "data-revision=\"([^\"]+)\"").Groups[1].Value;
        async Task<HttpStatusCode> Of(string docket, string address) => (await v.Http.GetAsync($"/dockets/{docket}{address}")).StatusCode;
        string[] files = [file, file.Replace("source", "archive", StringComparison.Ordinal) + "/0.svg", $"/state/{state}.svg"];
        Assert.Equal((HttpStatusCode.OK, HttpStatusCode.OK), (await Of(number, files[0]), await Of(number, files[2])));
        // By the number of another docket they are not there either.
        foreach (var its in files) Assert.Equal(HttpStatusCode.NotFound, await Of(other, its));
        await v.Get("/dockets");
        await Do(v, "Delete", number);
        Assert.Contains("can be restored", v.Text);
        foreach (var its in files) Assert.Equal(HttpStatusCode.NotFound, await Of(number, its));
        foreach (var address in new[] { "build", "design.falz.json", "run" })
        {
            await v.Get($"/dockets/{number}/{address}");
            Assert.Equal(HttpStatusCode.NotFound, v.Status);
        }

        var stranger = await studio.SignIn(Studio.Stranger);
        await stranger.Get("/dockets?place=deleted");
        Assert.DoesNotContain("Wagtail", stranger.Text);
        await Do(stranger, "Restore", number);
        Assert.Equal(HttpStatusCode.NotFound, stranger.Status);
        await Age(number, 29);
        await v.Get("/dockets?place=deleted");
        Assert.Contains("Wagtail", v.Text);
        await Do(v, "Restore", number);
        await v.Get($"/dockets/{number}/build");
        Assert.Equal(HttpStatusCode.OK, v.Status);
        await v.Get("/dockets");
        await Do(v, "Delete", number);
        await Age(number, 31);
        await v.Get("/dockets?place=deleted");
        Assert.DoesNotContain("Wagtail", v.Text);
    }

    [Fact]
    public async Task A_docket_with_a_run_is_not_deleted_and_a_deleted_one_is_not_run()
    {
        var (v, number) = await Docket("dipper");
        var root = $"/dockets/{number}";
        await v.Get(root + "/lay-out");
        await v.Post(root + "/lay-out?handler=LayOut");
        await v.WaitFor(root + "/lay-out", "Go on to Run");
        await v.Get(root + "/run");
        await v.Post(root + "/run?handler=Start", ("sheet", "0"));
        await v.WaitFor(root + "/run?sheet=0", "load the mat");
        await Do(v, "Delete", number);
        Assert.Contains("has a run that is not over", v.Text);
        await v.Get(root + "/run?sheet=0");
        await v.Post(root + "/run?handler=Stop", ("run", Regex.Match(v.Page, "name=\"run\" value=\"([^\"]+)\"").Groups[1].Value));
        await v.Get("/dockets");
        var plan = await In(async (db, of) => (await db.RunPlans.FirstAsync(p => p.DocketId == of.Id)).Id, number);
        await Do(v, "Delete", number);
        Assert.Contains("is deleted", v.Text);
        await using var scope = studio.Services.CreateAsyncScope();
        scope.ServiceProvider.GetRequiredService<FalzkunstContext>().StudioId = await In((_, of) => Task.FromResult(of.StudioId), number);
        Assert.Null(await scope.ServiceProvider.GetRequiredService<Runs>().Start(plan, 0, false, CancellationToken.None));
    }

    private Task<T> In<T>(Func<FalzkunstContext, Docket, Task<T>> work, string number) => studio.In(async db =>
    {
        var wanted = int.Parse(number, System.Globalization.CultureInfo.InvariantCulture);
        db.StudioId = await db.Users.Where(u => u.Email == Studio.Vreni).Select(u => u.StudioId).FirstAsync();
        var of = await db.Dockets.IgnoreQueryFilters().AsNoTracking().FirstAsync(d => d.Number == wanted && d.StudioId == db.StudioId);
        return await work(db, of);
    });

    /// <summary>So many days after a docket was deleted, the night comes.</summary>
    private async Task Age(string number, int days)
    {
        await In((db, of) => db.Dockets.IgnoreQueryFilters().Where(d => d.Id == of.Id)
            .ExecuteUpdateAsync(u => u.SetProperty(d => d.DeletedAt, DateTimeOffset.UtcNow.AddDays(-days))), number);
        await using var scope = studio.Services.CreateAsyncScope();
        await scope.ServiceProvider.GetRequiredService<DocketShelf>().ThrowAway();
        await scope.ServiceProvider.GetRequiredService<Blobs>().Collect();
    }
}
