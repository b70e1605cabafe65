using System.IO.Compression;
using System.Net;
using System.Text;
using System.Text.RegularExpressions;
using Falzkunst.Core.Reading;
using Falzkunst.Core.Writing;
using Falzkunst.Store;
using Microsoft.EntityFrameworkCore;
using Microsoft.Extensions.DependencyInjection;

namespace Falzkunst.Web.Tests;

/// <summary>Bringing files in: archives, several, pictures, rules, what is left out.</summary>
[Collection(Studio.Name)]
public sealed class BringInTests(Studio studio)
{
    private const string Card = "<svg xmlns='http://www.w3.org/2000/svg' width='100mm' height='60mm' viewBox='0 0 100 60'><rect id='base' width='100' "
        + "height='60' fill='#f4ead2'/><circle id='sun' cx='20' cy='20' r='9' fill='#b7791f'/><path d='M60 10L80 30' stroke='#0a7' fill='none'/></svg>";
    private const string Badge = "<svg xmlns='http://www.w3.org/2000/svg' width='30mm' height='30mm' viewBox='0 0 30 30'><rect width='30' height='30' "
        + "fill='#fff'/><circle cx='15' cy='15' r='11' fill='#123'/><circle cx='15' cy='15' r='5' fill='#fff'/></svg>";

    [Fact]
    public Task A_demo_docket_that_can_not_be_made_is_left_out_and_said() => Studio.Alone(async own =>
    {
        var folder = Directory.CreateTempSubdirectory("falz-demo-").FullName;
        try
        {
            // One is missing, one is none, the others are there.
            foreach (var file in Directory.GetFiles(Cases.Demo).Where(f => !f.EndsWith("room-key-tags.svg", StringComparison.Ordinal)))
                File.Copy(file, Path.Combine(folder, Path.GetFileName(file)));
            File.WriteAllText(Path.Combine(folder, "lantern-vellum.svg"), "only words");
            using var said = new StringWriter();
            await using var scope = own.Services.CreateAsyncScope();
            scope.ServiceProvider.GetRequiredService<FalzkunstContext>().StudioId = await own.In(db => db.Studios.Select(s => s.Id).FirstAsync());
            await Prepare.AddDockets(scope.ServiceProvider.GetRequiredService<Incoming>(), folder, said);
            Assert.Matches("“Lantern on vellum” is left out: .*not an SVG file", said.ToString());
            Assert.Matches("“Room-key tags” is left out: ", said.ToString());
            Assert.Equal(4, await own.In(db => db.Dockets.IgnoreQueryFilters().CountAsync()));
        }
        finally
        {
            Directory.Delete(folder, true);
        }
    });

    private static byte[] Bytes(string svg) => Encoding.UTF8.GetBytes(svg);

    private static byte[] Png() => Paper.Render(DesignReader.Read(Bytes(Badge)), 200, DrawAs.Artwork).Png;

    private static byte[] Zip(params (string Name, byte[] Bytes)[] files)
    {
        using var buffer = new MemoryStream();
        using (var zip = new ZipArchive(buffer, ZipArchiveMode.Create, true))
        {
            foreach (var (name, bytes) in files)
            {
                using var entry = zip.CreateEntry(name).Open();
                entry.Write(bytes);
            }
        }

        return buffer.ToArray();
    }

    private async Task<Visitor> Brought(string name, byte[] file)
    {
        var v = await studio.SignIn();
        await v.Get("/dockets");
        await v.Bring(name, file);
        return v;
    }

    private static string Handler(Visitor v, string handler) => v.Url.Split('?')[0] + "?handler=" + handler;

    [Fact]
    public async Task An_archive_waits_for_a_choice_and_the_rest_can_be_taken_later()
    {
        var v = await Brought("hut.zip", Zip(("card.svg", Bytes(Card)), ("badge.png", Png()), ("broken.svg", Bytes("<svg")), ("notes.txt", [1])));
        Assert.Contains("It holds 3 files", v.Text);
        var source = Regex.Match(v.Page, "name=\"source\" value=\"([^\"]+)\"").Groups[1].Value;
        Assert.Contains("<svg", await v.Http.GetStringAsync(Regex.Match(v.Page, "/dockets/\\d+/archive/[^\"]+/2.svg").Value));
        await v.Post(Handler(v, "Take"), ("source", source));
        Assert.Contains("Choose at least one", v.Text);
        await v.Post(Handler(v, "Take"), ("source", source), ("take", "1"), ("take", "2"));
        Assert.Contains("“broken.svg” was not brought in", v.Text.Replace("“card.svg”", "", StringComparison.Ordinal));
        Assert.Contains("1 ply", v.Text.Replace("2 plies", "1 ply", StringComparison.Ordinal));
        Assert.Contains("From hut.zip", v.Text);
        await v.Post(Handler(v, "Take"), ("source", source), ("take", "0"));
        Assert.Equal(HttpStatusCode.OK, v.Status);
        Assert.Matches("[34] pieces", v.Text);
    }

    [Fact]
    public async Task An_archive_of_one_file_is_that_file_and_one_without_any_is_refused()
    {
        Assert.Contains("2 pieces", (await Brought("one.zip", Zip(("card.svg", Bytes(Card))))).Text);
        Assert.Contains("no SVG, DXF or picture in this archive", (await Brought("none.zip", Zip(("a.txt", [1])))).Text);
    }

    [Fact]
    public async Task A_picture_is_traced_explained_and_traced_anew()
    {
        var v = await Brought("badge.png", Png());
        Assert.Contains("Only light and dark", v.Text);
        Assert.Contains("1 piece", v.Text);
        await v.Post(Handler(v, "Trace"), ("mode", "Outline"), ("colours", "4"), ("smoothing", "1"), ("speck", "0.06"), ("border", "2 mm"),
            ("keepPicture", "true"));
        Assert.Contains("Chosen by you", v.Text);
        Assert.Contains("1 picture", v.Text);
        Assert.Contains("Undo: Trace the picture again", v.Page);
        await v.Post(Handler(v, "Trace"), ("mode", "Outline"), ("colours", "4"), ("smoothing", "1"), ("border", "wide"));
        Assert.Contains("wide", v.Text);
        await v.Post(Handler(v, "Trace"), ("mode", "Flat"), ("colours", "4"), ("smoothing", "1"), ("threshold", "1"), ("speck", "5000"));
        Assert.Contains("It was not traced", v.Text);
        await v.Post(Handler(v, "Undo"));
        Assert.Contains("Only light and dark", v.Text);
    }

    [Fact]
    public async Task What_the_tracing_form_would_do_is_shown_without_doing_it_and_bad_fields_are_named()
    {
        var v = await Brought("badge.png", Png());
        var preview = v.Url.Replace("bring-in", "trace-preview", StringComparison.Ordinal);
        Assert.Matches("data-found=\"1 path, \\d+ nodes?\".*<image class=\"original\".*<image class=\"taken\"",
            await v.Http.GetStringAsync(preview + "?mode=Outline&ground=JoinedToRim"));
        Assert.Contains("there is nothing to trace", await v.Http.GetStringAsync(preview + "?mode=Flat&threshold=1&speck=9000"),
            StringComparison.OrdinalIgnoreCase);
        foreach (var (fields, says) in new[] { ("crop=1,2,3", "four numbers"), ("crop=0,0,1,1", "four numbers"), ("touched=4", "pairs of pixels"),
            ("touched=a,b", "pairs of pixels"), ("border=wide", "wide"), ("speck=-1", "speck"), })
        {
            using var answer = await v.Http.GetAsync(preview + "?" + fields);
            Assert.Equal((HttpStatusCode.UnprocessableEntity, true),
                (answer.StatusCode, (await answer.Content.ReadAsStringAsync()).Contains(says, StringComparison.Ordinal)));
        }

        Assert.Contains("Only light and dark", v.Text);
        await v.Post(Handler(v, "Trace"), ("mode", "Outline"), ("ground", "LikeRim"), ("crop", "0, 0, 118, 236"), ("touched", "118, 118; 3, 3"),
            ("tolerance", "12"));
        Assert.Contains("15 × 30 mm", v.Text);
        await v.Get(v.Url + "?view=picture");
        Assert.Contains("data-left=\"0\"", v.Page);
        Assert.Contains("value=\"118, 118; 3, 3\"", v.Page);
        await v.Post(Handler(v, "Trace"), ("mode", "Flat"), ("crop", ""), ("touched", ""));
        Assert.Matches("30(\\.[0-9])? × 30(\\.[0-9])? mm", v.Text);
    }

    [Fact]
    public async Task Kept_rules_are_applied_to_the_next_file_said_and_taken_back()
    {
        var v = await Brought("first.svg", Bytes(Card));
        var look = WebUtility.HtmlDecode(Regex.Match(v.Page, "name=\"look\" value=\"([^\"]*0a7|[^\"]*00aa77[^\"]*)\"").Groups[1].Value);
        Assert.NotEmpty(look);
        await v.Post(Handler(v, "Look"), ("look", look), ("operation", "draw"));
        await v.Post(Handler(v, "KeepRules"), ("name", "Alpine paper"));
        Assert.Contains("Kept.", v.Text);
        await v.Get("/dockets");
        await v.Bring("second.svg", Bytes(Card.Replace("M60 10L80 30", "M50 10L80 40", StringComparison.Ordinal)));
        Assert.Contains("The rules of “Alpine paper” were applied to 1 look", v.Text);
        Assert.Contains("a rule of “Alpine paper”", v.Text);
        await v.Post(Handler(v, "TakeRulesBack"));
        Assert.Contains("as it was before the rules", v.Text);
        var id = Regex.Match(v.Page, "name=\"rules\" value=\"([^\"]+)\"").Groups[1].Value;
        await v.Post(Handler(v, "ForgetRules"), ("rules", id));
        Assert.Contains("Forgotten", v.Text);
        await v.Post(Handler(v, "UseRules"), ("rules", id));
        Assert.Contains("Those rules are gone", v.Text);
    }

    [Fact]
    public async Task A_source_is_known_again_by_the_folder_that_its_files_come_in()
    {
        var v = await Brought("hut.zip", Zip(("Alpine cards/card.svg", Bytes(Card))));
        await v.Post(Handler(v, "Look"), ("look", WebUtility.HtmlDecode(Regex.Match(v.Page, "name=\"look\" value=\"([^\"]*00aa77[^\"]*)\"").Groups[1].Value)),
            ("operation", "draw"));
        await v.Post(Handler(v, "KeepRules"), ("name", "By folder"));
        // One look of four is the same: too few, unless the folder tells.
        const string Strange = "<circle cx='20' cy='20' r='5' fill='#0cc'/><circle cx='40' cy='20' r='5' fill='#c0c'/><circle cx='60' cy='20' r='5' "
            + "fill='#cc0'/>";
        var other = Regex.Replace(Card, "<(rect|circle)[^>]*>", "").Replace("</svg>", Strange + "</svg>", StringComparison.Ordinal);
        await v.Get("/dockets");
        await v.Bring("elsewhere.zip", Zip(("Elsewhere/card.svg", Bytes(other))));
        Assert.DoesNotContain("“By folder” were applied", v.Text);
        await v.Get("/dockets");
        await v.Bring("next.zip", Zip(("Alpine cards/next.svg", Bytes(other))));
        Assert.Contains("The rules of “By folder” were applied", v.Text);
        Assert.Contains("it came in the folder “Alpine cards”", v.Text);
    }

    [Fact]
    public async Task Of_an_archive_all_can_be_taken_at_once_and_pictures_in_it_show_themselves()
    {
        var v = await Brought("hut.zip", Zip(("a.svg", Bytes(Card)), ("b.png", Png()), ("c.svg", Bytes(Card))));
        Assert.Contains("waits for your choice", v.Text);
        var source = Regex.Match(v.Page, "name=\"source\" value=\"([^\"]+)\"").Groups[1].Value;
        using var picture = await v.Http.GetAsync(v.Url.Replace("bring-in", $"archive/{source}/1.svg", StringComparison.Ordinal));
        Assert.Equal("image/png", picture.Content.Headers.ContentType!.MediaType);
        using var drawing = await v.Http.GetAsync(v.Url.Replace("bring-in", $"archive/{source}/0.svg", StringComparison.Ordinal));
        Assert.Equal("image/svg+xml", drawing.Content.Headers.ContentType!.MediaType);
        await v.Post(Handler(v, "Take"), ("source", source));
        Assert.Contains("Choose at least one file", v.Text);
        await v.Post(Handler(v, "Take"), ("source", source), ("all", "true"));
        Assert.Matches("It became [56] pieces", v.Text);
    }

    [Fact]
    public async Task A_collection_is_a_contact_sheet_to_keep_some_of()
    {
        var marks = string.Concat(Enumerable.Range(0, 12).Select(i => $"<circle cx='{20 + i % 4 * 40}' cy='{20 + i / 4 * 40}' r='6' fill='#246'/>"));
        var v = await Brought("marks.svg", Bytes($"<svg xmlns='http://www.w3.org/2000/svg' width='180mm' height='140mm' viewBox='0 0 180 140'>{marks}</svg>"));
        Assert.Contains("12 groups lie apart from each other on this page", v.Text);
        await v.Get(v.Url + "?view=parts");
        var boxes = Regex.Matches(v.Page, "name=\"keep\" value=\"([^\"]+)\"");
        Assert.Equal(12, boxes.Count);
        await v.Post(Handler(v, "Keep"));
        Assert.Contains("Choose at least one part", v.Text);
        await v.Post(Handler(v, "Keep"), ("keep", boxes[0].Groups[1].Value), ("keep", boxes[5].Groups[1].Value));
        Assert.Contains("It became 2 pieces", v.Text);
    }

    [Fact]
    public async Task A_script_that_sends_files_is_told_where_to_go()
    {
        var v = await Brought("card.svg", Bytes(Card));
        await v.Get("/dockets");
        using var form = new MultipartFormDataContent { { new StringContent(v.Token), "__RequestVerificationToken" },
            { new ByteArrayContent(Bytes(Card)), "file", "Alpine cards/card.svg" }, };
        using var request = new HttpRequestMessage(HttpMethod.Post, "/dockets") { Content = form, Headers = { { "X-Sends-Itself", "1" } } };
        using var answer = await v.Http.SendAsync(request);
        Assert.Equal(HttpStatusCode.NoContent, answer.StatusCode);
        var there = Assert.Single(answer.Headers.GetValues("HX-Redirect"));
        Assert.Matches("/dockets/\\d+/bring-in", there);
        await v.Get(there);
        Assert.Contains("card.svg", v.Text);
    }

    [Fact]
    public async Task What_is_left_out_is_listed_and_put_back()
    {
        var v = await Brought("card.svg", Bytes(Card));
        await v.Post(v.Url.Replace("bring-in", "build?handler=LeaveOut", StringComparison.Ordinal), ("ids", v.Id('p', 1)));
        await v.Get(v.Url.Replace("build", "bring-in", StringComparison.Ordinal));
        Assert.Contains("Left out", v.Text);
        await v.Post(Handler(v, "PutBack"), ("part", Regex.Match(v.Page, "name=\"part\" value=\"([^\"]+)\"").Groups[1].Value));
        Assert.DoesNotContain("Left out", v.Text);
        Assert.Contains("2 pieces", v.Text);
    }
}
