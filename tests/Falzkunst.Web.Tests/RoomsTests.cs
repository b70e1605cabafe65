using System.Net;
using System.Text.RegularExpressions;
using Microsoft.EntityFrameworkCore;

namespace Falzkunst.Web.Tests;

/// <summary>The pages beside the dockets: the drawer, machines, tools.</summary>
[Collection(Studio.Name)]
public sealed class RoomsTests(Studio studio)
{
    private async Task<(Visitor Visitor, string Settings)> AtSettings(string email = Studio.Vreni)
    {
        var v = await studio.SignIn(email);
        await v.Get("/stock");
        var settings = Regex.Match(v.Page, "/stock/[0-9a-f-]{36}").Value;
        if (settings.Length > 0) await v.Get(settings);
        return (v, settings);
    }

    private static (string, string)[] Fields(string score) =>
        [.. new[] { "pen", "foil", "deboss", "score", "perforate", "knife" }.Select(t => ("passes-" + t, t == "score" ? score : "1")), ("force-knife", "180"),
            ("speed-knife", "40")];

    [Fact]
    public async Task How_a_tool_works_a_paper_is_kept()
    {
        var (v, settings) = await AtSettings();
        await v.Post(settings + "?handler=Tools", Fields("3"));
        Assert.Contains("knife: 1 pass, 180 g", v.Text);
        await v.Get(settings);
        Assert.Matches("name=\"passes-score\"[^>]*value=\"3\"", v.Page);
        Assert.Matches("name=\"speed-knife\"[^>]*value=\"40\"", v.Page);
        Assert.Matches("name=\"passes-pen\"[^>]*value=\"1\"", v.Page);
    }

    [Theory]
    [InlineData("0")]
    [InlineData("1.5")]
    [InlineData("many")]
    public async Task A_wrong_number_of_passes_is_said_and_changes_nothing(string passes)
    {
        var (v, settings) = await AtSettings();
        await v.Post(settings + "?handler=Tools", Fields("2"));
        await v.Get(settings);
        await v.Post(settings + "?handler=Tools", Fields(passes));
        Assert.Equal(HttpStatusCode.OK, v.Status);
        Assert.Contains("Scoring tool: passes go from 1 to 20. Nothing was changed.", v.Text);
        await v.Get(settings);
        Assert.Matches("name=\"passes-score\"[^>]*value=\"2\"", v.Page);
    }

    [Fact]
    public async Task Another_studios_paper_is_not_there()
    {
        var (_, settings) = await AtSettings();
        var stranger = await studio.SignIn(Studio.Stranger);
        await stranger.Get(settings);
        Assert.Equal(HttpStatusCode.NotFound, stranger.Status);
    }

    [Fact]
    public async Task A_machine_that_is_there_says_what_it_does()
    {
        var v = await studio.SignIn();
        await v.Get("/machines");
        Assert.Contains("idle", v.Text);
        Assert.Contains("Scoring tool", v.Text);
    }

    [Fact]
    public Task Tools_are_added_and_changed_and_each_operation_keeps_one() => Studio.Alone(async own =>
    {
        // A maker may.
        var v = await own.SignIn(Studio.Tobias);
        await v.Get("/machines");
        foreach (var (name, pen, speed, says) in new[] { ("", "9", "40", "1 to 60 letters"), ("Deep knife", "6", "40", "Another tool has the number 6"),
            ("Deep knife", "0", "40", "from 1 to 99"), ("Deep knife", "9", "NaN", "1 to 2,000"), ("Deep knife", "9", "40", "Deep knife") })
        {
            await v.Post("/machines?handler=SaveTool", ("name", name), ("operation", "cut"), ("pen", pen), ("speed", speed));
            Assert.Contains(says, v.Text);
        }

        await v.Get("/stock");
        var stock = Regex.Match(v.Page, "/stock/[0-9a-f-]{36}").Value;
        await v.Get(stock);
        var key = Regex.Match(v.Page, "name=\"take-cut\" value=\"(t[0-9a-f]+)\"").Groups[1].Value;
        await v.Post(stock + "?handler=Tools", ("take-cut", key), ($"passes-{key}", "3"));
        await v.Get(stock);
        Assert.Matches($"value=\"{key}\"[^>]*checked", v.Page);
        await v.Get("/machines");
        var tools = Regex.Matches(v.Page, "/machines\\?tool=([0-9a-f-]+)#tool\">([^<]+)<").ToDictionary(m => m.Groups[2].Value, m => m.Groups[1].Value);
        await v.Post("/machines?handler=SaveTool", ("id", tools["Deep knife"]), ("name", "Deepest knife"), ("pen", "11"), ("speed", "30"));
        Assert.Contains("Deepest knife cut 11 30 mm/s", v.Text);
        await v.Post("/machines?handler=RemoveTool", ("id", tools["Deep knife"]));
        await v.Post("/machines?handler=RemoveTool", ("id", tools["Knife"]));
        Assert.Contains("It is the only tool to cut", v.Text);
        Assert.Equal(0, await own.In(db => db.Stocks.IgnoreQueryFilters().SelectMany(s => s.Settings).CountAsync(s => s.ToolKey == key)));
    });

    [Fact]
    public Task A_stock_is_changed_retired_and_taken_up_again() => Studio.Alone(async own =>
    {
        var v = await own.SignIn(Studio.Tobias);
        await v.Get("/dockets");
        await v.Bring("white.svg", "<svg xmlns='http://www.w3.org/2000/svg' width='80mm' height='60mm'><rect width='80' height='60' fill='#fff'/></svg>"u8
            .ToArray());
        var root = Regex.Match(v.Url, @"/dockets/\d+").Value;
        await v.Get("/stock");
        var stock = Regex.Match(v.Page, "/stock/[0-9a-f-]{36}").Value;
        await v.Get(root + "/build");
        await v.Post(root + "/build?handler=Stock", ("pieces", "p1"), ("stock", Guid.Parse(stock[7..]).ToString("N")));
        await v.Get(stock);
        var sheet = Regex.Match(v.Page, "name=\"sheet\" value=\"([^\"]+)\"").Groups[1].Value;
        foreach (var (handler, fields, says) in new (string, (string, string)[], string)[]
        {
            ("Facts", [("name", ""), ("colour", "#ffffff"), ("weight", "200"), ("thickness", "0.2")], "1 to 60 letters"),
            ("Facts", [("name", "Snowy"), ("colour", "#ffffff"), ("weight", "NaN"), ("thickness", "0.2")], "Weight goes from"),
            ("Facts", [("name", "Snowy"), ("colour", "#fffff0"), ("weight", "240"), ("thickness", "0.3 mm")], "Snowy"),
            ("Sheet", [("sheet", sheet), ("count", "7"), ("width", "210mm"), ("height", "297mm"), ("margin", "120mm")], "leaves nothing of the sheet"),
            ("Sheet", [("count", "7"), ("width", "210mm"), ("height", "297mm"), ("margin", "5mm")], "sheets of that size already"),
            ("RemoveSheet", [("sheet", sheet)], "one size at least"),
            ("Sheet", [("count", "7"), ("width", "6in"), ("height", "2*3in"), ("margin", "5mm")], "152.4"),
            ("RemoveSheet", [("sheet", sheet)], "152.4"),
            ("Retire", [("retired", "true")], "Take it up again"),
        })
        {
            await v.Post($"{stock}?handler={handler}", fields);
            Assert.True(v.Page.Contains(says, StringComparison.Ordinal), $"{handler}: {says}; {v.Text}");
        }

        await v.Get("/stock");
        Assert.Contains("Retired: Snowy", v.Text);
        // What was to be cut from it says so, and by what it would be replaced.
        await v.Get(root + "/build");
        Assert.Contains("is not in the drawer any more; Ivory 300 g would be taken", v.Text);
        await v.Post(root + "/build?handler=Remedy", ("key", "stock-gone:p1"));
        Assert.DoesNotContain("not in the drawer any more", v.Text);
        await v.Get(stock);
        await v.Post(stock + "?handler=Retire", ("retired", "false"));
        Assert.Contains("Retire this stock", v.Text);
    });

    [Theory]
    [InlineData("", "#ffffff", "210 mm", "A paper needs a name")]
    [InlineData("Straw", "straw", "210 mm", "Choose a colour")]
    [InlineData("Straw", "#ffeeaa", "wide", "Nothing was changed")]
    [InlineData("Straw", "#ffeeaa", "9 m", "Nothing was changed")]
    public async Task A_paper_that_cannot_be_is_not_put_in_the_drawer(string name, string colour, string width, string says)
    {
        var v = await studio.SignIn();
        await v.Get("/stock");
        await v.Post("/stock?handler=Add", ("name", name), ("colour", colour), ("weight", "200"), ("thickness", "0.2 mm"), ("width", width),
            ("height", "297 mm"), ("count", "4"));
        Assert.Equal(HttpStatusCode.OK, v.Status);
        Assert.Contains(says, v.Text);
        await v.Get("/stock");
        Assert.DoesNotContain("Straw", v.Text);
    }
}
