using System.Net;
using System.Text;
using System.Text.RegularExpressions;
using Falzkunst.Store;
using Microsoft.EntityFrameworkCore;
using Microsoft.Extensions.DependencyInjection;

namespace Falzkunst.Web.Tests;

[Collection(Studio.Name)]
public sealed class DocketTests(Studio studio)
{
    private const string Card = "<svg xmlns='http://www.w3.org/2000/svg' width='100mm' height='60mm' viewBox='0 0 100 60'><rect id='base' width='100' "
        + "height='60' fill='#f4ead2'/><path d='M50 0V60' stroke='blue' fill='none'/><g id='pen'><path d='M10 10L30 20' stroke='#603' fill='none'/></g></svg>";

    private async Task<Visitor> WithDocket(string email = Studio.Vreni)
    {
        var visitor = await studio.SignIn(email);
        await visitor.Get("/dockets");
        await visitor.Bring("hut-card.svg", Encoding.UTF8.GetBytes(Card));
        Assert.EndsWith("/bring-in", visitor.Url);
        return visitor;
    }

    private static string Stage(Visitor v, string stage) => Regex.Replace(v.Url, @"/dockets/(\d+)/.*", $"/dockets/$1/{stage}");

    [Fact]
    public async Task Nobody_gets_in_without_signing_in()
    {
        var http = studio.CreateClient(new() { AllowAutoRedirect = false });
        foreach (var page in new[] { "/dockets", "/stock", "/machines", "/dockets/1/build", "/dockets/1/design.falz.json", "/dockets/1/lay-out/progress/"
            + Guid.NewGuid(), })
            Assert.Contains((await http.GetAsync(page)).StatusCode, new[] { HttpStatusCode.Redirect, HttpStatusCode.Unauthorized });
        var visitor = new Visitor(studio.CreateClient());
        await visitor.Get("/sign-in");
        await visitor.Post("/sign-in", ("email", Studio.Vreni), ("password", "wrong wrong wrong"));
        Assert.Contains("do not belong together", visitor.Text);
    }

    [Fact]
    public async Task A_file_becomes_a_docket_whose_every_stage_is_a_page()
    {
        var v = await WithDocket();
        Assert.Contains("open, straight, reaches both edges of Base", v.Text);
        foreach (var stage in new[] { "bring-in", "build", "strengthen", "print", "lay-out", "run", "assemble", "build?view=apart", "build?piece=" + v.Id('p'),
            "build?line=" + v.Id('l'), "build?pieces=p1,gone", "build?piece=gone", "build?finding=99", })
        {
            await v.Get(Stage(v, stage));
            Assert.Equal(HttpStatusCode.OK, v.Status);
            Assert.Contains("Hut card", v.Text);
            Assert.Equal(7, Regex.Count(v.Page, "slip-number"));
        }
    }

    [Fact]
    public async Task Another_studio_finds_nothing()
    {
        var v = await WithDocket();
        var build = Stage(v, "build");
        var stranger = await studio.SignIn(Studio.Stranger);
        foreach (var url in new[] { build, Stage(v, "design.falz.json"), Stage(v, "files/svg.zip") })
        {
            await stranger.Get(url);
            Assert.Equal(HttpStatusCode.NotFound, stranger.Status);
            Assert.DoesNotContain("Hut card", stranger.Text);
        }

        await stranger.Get("/dockets");
        Assert.DoesNotContain("Hut card", stranger.Text);
        await stranger.Post(build + "?handler=Copies", ("copies", "77"));
        Assert.Equal(HttpStatusCode.NotFound, stranger.Status);
    }

    [Fact]
    public async Task A_change_is_kept_undone_and_done_again()
    {
        var v = await WithDocket();
        var build = Stage(v, "build");
        await v.Get(build);
        await v.Post(build + "?handler=Line", ("line", v.Id('l')), ("operation", "perforate"));
        Assert.Contains("g class=\"op-perforate", v.Page);
        await v.Post(build + "?handler=Undo");
        Assert.DoesNotContain("g class=\"op-perforate", v.Page);
        await v.Post(build + "?handler=Redo");
        Assert.Contains("g class=\"op-perforate", v.Page);
        await v.Post(build + "?handler=Redo");
        Assert.Contains("nothing to redo", v.Text);
        // A change after undo leads on from there; what was undone is not lost from the history.
        await v.Post(build + "?handler=Undo");
        await v.Post(build + "?handler=Rename", ("id", v.Id('p')), ("label", "Card base"));
        Assert.Contains("Card base", v.Text);
        await v.Post(build + "?handler=Redo");
        Assert.Contains("nothing to redo", v.Text);
    }

    [Fact]
    public async Task The_second_writer_is_told_and_loses_nothing()
    {
        var v = await WithDocket();
        var build = Stage(v, "build");
        var tobias = await studio.SignIn(Studio.Tobias);
        await tobias.Get(build);
        await v.Get(build);
        await v.Post(build + "?handler=Line", ("line", v.Id('l')), ("operation", "perforate"));
        Assert.Contains("g class=\"op-perforate", v.Page);
        await tobias.Post(build + "?handler=Line", ("line", tobias.Id('l')), ("operation", "foil"));
        // Whatever she is called by now: another test sends any form with any values.
        Assert.Contains(" changed this docket in the meantime", tobias.Text);
        Assert.Contains("Change it all the same", tobias.Text);
        Assert.Contains("g class=\"op-perforate", tobias.Page);
        Assert.DoesNotContain("g class=\"op-foil", tobias.Page);
        await tobias.Post(build + "?handler=Line", ("line", tobias.Id('l')), ("operation", "foil"));
        Assert.Contains("g class=\"op-foil", tobias.Page);
        // What she has not touched since is changed without asking, and hers stays.
        await v.Get(build);
        await tobias.Post(build + "?handler=Line", ("line", tobias.Id('l')), ("operation", "perforate"));
        await v.Post(build + "?handler=Line", ("line", v.Id('l', 1)), ("operation", "foil"));
        Assert.Contains("you see both", v.Text);
        Assert.Contains("g class=\"op-foil", v.Page);
        Assert.Contains("g class=\"op-perforate", v.Page);
        // Her undo takes hers back, and leaves his; once she has none left, it says whose the last is.
        await tobias.Get(build);
        await tobias.Post(build + "?handler=Line", ("line", tobias.Id('l')), ("operation", "draw"));
        await v.Get(build);
        await v.Post(build + "?handler=Undo");
        Assert.DoesNotContain("g class=\"op-foil", v.Page);
        Assert.Contains("g class=\"op-draw", v.Page);
        await v.Post(build + "?handler=Redo");
        Assert.Contains("g class=\"op-foil", v.Page);
        Assert.Contains("g class=\"op-draw", v.Page);
    }

    [Fact]
    public async Task Two_writers_at_the_same_instant_never_overwrite_each_other()
    {
        var v = await WithDocket();
        var build = Stage(v, "build");
        await v.Get(build);
        var visitors = await Task.WhenAll(Enumerable.Range(0, 6).Select(async _ =>
        {
            var one = await studio.SignIn();
            return await one.Get(build);
        }));
        var (basedOn, piece) = (v.BasedOn, v.Id('p'));
        await Task.WhenAll(visitors.Select((one, i) => one.PostAs(basedOn, build + "?handler=Rename", ("id", piece), ("label", $"Name {i}"))));
        Assert.All(visitors, one => Assert.Equal(HttpStatusCode.OK, one.Status));
        await using var scope = studio.Services.CreateAsyncScope();
        var db = scope.ServiceProvider.GetRequiredService<FalzkunstContext>();
        var parent = Guid.Parse(basedOn);
        var current = await db.Dockets.IgnoreQueryFilters().Where(d => d.CurrentRevisionId != null).Select(d => d.CurrentRevisionId).ToListAsync();
        Assert.Single(await db.Revisions.IgnoreQueryFilters().Where(r => r.ParentId == parent && current.Contains(r.Id)).ToListAsync());
        Assert.Equal(1, await db.Revisions.IgnoreQueryFilters().CountAsync(r => r.ParentId == parent));
    }

    [Fact]
    public async Task The_real_size_is_settled_by_a_click_or_by_a_width()
    {
        var v = await studio.SignIn();
        await v.Get("/dockets");
        const string Pixels = "<svg xmlns='http://www.w3.org/2000/svg' width='96' height='48'><rect width='96' height='48'/></svg>";
        await v.Bring("pixels.svg", Encoding.UTF8.GetBytes(Pixels));
        Assert.Contains("Which is it?", v.Text);
        var url = Stage(v, "bring-in");
        await v.Post(url + "?handler=Width", ("width", "2*1.5in"));
        Assert.Contains("76.2 × 38.1 mm", v.Text);
        await v.Post(url + "?handler=Width", ("width", "wide"));
        Assert.Contains("is not a number", v.Text);
    }

    [Fact]
    public async Task The_drawer_is_kept_and_folds_stop_as_far_from_the_edge_as_the_studio_says()
    {
        var v = await WithDocket(Studio.Stranger);
        var build = Stage(v, "build");
        Assert.Contains("Stop 1.5 mm short", v.Text);
        await v.Get("/stock");
        await v.Post("/stock?handler=Setback", ("setback", "2*1.5"));
        await v.Post("/stock?handler=Setback", ("setback", "much"));
        Assert.Contains("is not a number", v.Text);
        await v.Post("/stock?handler=Add", ("name", "Moss 240 g"), ("colour", "#55702C"), ("weight", "240"), ("thickness", "0.3"), ("width", "6in"),
            ("height", "6 in"), ("count", "4"));
        Assert.Contains("152.4 × 152.4 mm", v.Text);
        await v.Get(build);
        Assert.Contains("Stop 3 mm short", v.Text);
    }

    [Theory]
    [InlineData("empty.svg", "")]
    [InlineData("words.svg", "hello")]
    [InlineData("cut.svg", "<svg xmlns='http://www.w3.org/2000/svg'><g><path d='M0 0")]
    [InlineData("nothing.svg", "<svg xmlns='http://www.w3.org/2000/svg' width='5' height='5'/>")]
    [InlineData("archive.zip", "PK\u0003\u0004")]
    public async Task A_bad_file_gets_one_sentence_and_no_docket(string name, string content)
    {
        var v = await studio.SignIn();
        await v.Get("/dockets");
        var before = Regex.Match(v.Text, @"(\d+) cards? to produce").Value;
        await v.Bring(name, Encoding.UTF8.GetBytes(content));
        Assert.Equal(HttpStatusCode.OK, v.Status);
        Assert.Contains($"“{name}” was not brought in", v.Text);
        Assert.Equal(before, Regex.Match(v.Text, @"(\d+) cards? to produce").Value);
    }

    [Fact]
    public async Task Nonsense_in_a_form_is_answered_with_a_sentence()
    {
        var v = await WithDocket();
        var build = Stage(v, "build");
        await v.Get(build);
        foreach (var (handler, fields) in new (string, (string, string)[])[]
        {
            ("Copies", [("copies", "-4")]), ("Copies", [("copies", "many")]), ("Line", [("line", v.Id('l')), ("operation", "glue")]),
                ("Rename", [("id", v.Id('p')), ("label", "")]),
            ("Remedy", [("key", "none")]), ("MovePly", [("ply", v.Id('y')), ("to", "99999")]), ("Ply", [("pieces", v.Id('p')), ("ply", "nowhere")]),
                ("Stock", []), ("Look", [("look", "x")]),
        })
        {
            await v.Post(build + "?handler=" + handler, fields);
            Assert.True((int)v.Status < 500, $"{handler}: {v.Status}");
        }

        await v.PostAs("not a revision", build + "?handler=Undo");
        Assert.True((int)v.Status < 500);
        await v.Get(build);
        Assert.Equal(HttpStatusCode.OK, v.Status);
    }

    [Fact]
    public async Task A_docket_of_500_pieces_is_a_page()
    {
        var text = new StringBuilder("<svg xmlns='http://www.w3.org/2000/svg' width='500mm' height='500mm' viewBox='0 0 500 500'>");
        for (var i = 0; i < 500; i++) text.Append($"<circle cx='{10 + i % 25 * 20}' cy='{10 + i / 25 * 20}' r='8' fill='#2f5d46'/>");
        var v = await studio.SignIn();
        await v.Get("/dockets");
        await v.Bring("many.svg", Encoding.UTF8.GetBytes(text.Append("</svg>").ToString()));
        await v.Get(Stage(v, "build"));
        Assert.Equal(500, Regex.Count(v.Page, "id=\"paper-"));
    }
}
