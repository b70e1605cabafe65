using System.Net;
using System.Text.RegularExpressions;

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
