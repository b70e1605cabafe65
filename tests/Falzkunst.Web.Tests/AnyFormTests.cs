using System.Net;
using System.Text;
using System.Text.RegularExpressions;
using Falzkunst.Store;
using Microsoft.AspNetCore.Mvc.Infrastructure;
using Microsoft.AspNetCore.Mvc.RazorPages;
using Microsoft.AspNetCore.Mvc.RazorPages.Infrastructure;
using Microsoft.AspNetCore.Http;
using Microsoft.AspNetCore.Routing;
using Microsoft.EntityFrameworkCore;
using Microsoft.Extensions.DependencyInjection;

namespace Falzkunst.Web.Tests;

/// <summary>
/// Every form there is, found in the application and not listed by hand, with values that nobody would type, and two at the same instant. FALZKUNST_FORMS
/// ("20000@7") and FALZKUNST_PAIRS ("500@7") say how many, and the seed.
/// </summary>
[Collection(Studio.Name)]
public sealed class AnyFormTests(Studio studio) : IAsyncLifetime
{
    public ValueTask InitializeAsync() => ValueTask.CompletedTask;

    public async ValueTask DisposeAsync() => await studio.EndRuns();

    private sealed record Handler(string Route, string Name, IReadOnlyList<string> Fields);

    private static readonly byte[] Small =
        "<svg xmlns='http://www.w3.org/2000/svg' width='9mm' height='9mm'><rect width='9' height='9'/></svg>"u8.ToArray();

    private static readonly string[] Odd =
    [
        "", " ", "NaN", "Infinity", "-1", "0", "1e400", "99999999999999999999", "a\0b", "\0", "p1", "p1,p2,p999", "l1", "y1", "l1,l1", "score",
        "cut", "nothing", "true", "00000000-0000-0000-0000-000000000000", "<script>alert(1)</script>", "☃ 𝄞 ́", "../../etc/passwd", "1/0", "12mm", "4.25in",
        "-3", "2.5",
        "M0 0L9 9", "#ff0000", "\ud800", "on", "mm", "%00", "a=b&c=d", "{\"x\":1}", "' OR 1=1 --", "all", "0.0001", "1000", "1001",
    ];

    private async Task<List<Handler>> Handlers()
    {
        var loader = studio.Services.GetRequiredService<PageLoader>();
        var found = new List<Handler>();
        foreach (var page in studio.Services.GetRequiredService<IActionDescriptorCollectionProvider>().ActionDescriptors.Items.OfType<PageActionDescriptor>())
        {
            var compiled = await loader.LoadAsync(page, EndpointMetadataCollection.Empty);
            found.AddRange(compiled.HandlerMethods.Where(h => h.HttpMethod == "Post")
                .Select(h => new Handler(page.AttributeRouteInfo!.Template!, h.Name ?? "",
                    [.. h.Parameters.Where(p => p.ParameterInfo.ParameterType != typeof(CancellationToken)).Select(p => p.Name)])));
        }

        return found;
    }

    private static async Task<string> Docket(Visitor v)
    {
        await v.Get("/dockets");
        await v.Bring("any.svg", Encoding.UTF8.GetBytes("<svg xmlns='http://www.w3.org/2000/svg' width='100mm' height='60mm' viewBox='0 0 100 60'><rect "
            + "width='100' height='60' fill='#f4ead2'/><circle cx='20' cy='20' r='9' fill='#2f5d46'/><path d='M50 2V58' stroke='blue' fill='none'/></svg>"));
        return Regex.Match(v.Url, @"^/dockets/\d+").Value;
    }

    private static async Task<string> Traced(Visitor v)
    {
        using var picture = new SkiaSharp.SKBitmap(60, 40);
        using (var canvas = new SkiaSharp.SKCanvas(picture))
        {
            canvas.Clear(SkiaSharp.SKColors.White);
            canvas.DrawCircle(20, 20, 12, new() { Color = SkiaSharp.SKColors.Black });
            canvas.DrawRect(40, 8, 12, 20, new() { Color = SkiaSharp.SKColors.Red });
        }

        await v.Get("/dockets");
        await v.Bring("any.png", picture.Encode(SkiaSharp.SKEncodedImageFormat.Png, 100).ToArray());
        return Regex.Match(v.Url, @"^/dockets/\d+").Value;
    }

    [Fact]
    public async Task No_form_with_any_values_is_more_than_refused()
    {
        var (count, seed) = Cases.Seeds("FALZKUNST_FORMS", "200@1", "600@1");
        var random = new Random(seed);
        var handlers = (await Handlers()).FindAll(h => h.Name != "Out");
        Assert.True(handlers.Count > 40, $"{handlers.Count} handlers");
        var v = await studio.SignIn();
        string root = "", basedOn = "", token = "";
        List<string> known = [];
        for (var i = 0; i < count; i++)
        {
            if (i % 40 == 0)
            {
                root = i % 80 == 0 ? await Docket(v) : await Traced(v);
                // Some handlers read fields by themselves; their names stand in the pages.
                await v.Get(root + "/bring-in");
                known = [.. Regex.Matches(v.Page, "name=\"([a-z]\\w*)\"").Select(m => m.Groups[1].Value).Distinct()];
                await v.Get(root + "/build");
                (basedOn, token) = (v.BasedOn, v.Token);
            }

            var handler = handlers[random.Next(handlers.Count)];
            var url = "/" + Regex.Replace(handler.Route, @"\{number(:\w+)?\}", root.Split('/')[^1]);
            url = Regex.Replace(url, @"\{[^}]*\}", _ => Guid.NewGuid().ToString()) + (handler.Name.Length > 0 ? "?handler=" + handler.Name : "");
            var names = handler.Fields.Concat(random.Next(3) == 0 ? known.Where(_ => random.Next(3) == 0) : []);
            var fields = names.Where(_ => random.Next(8) > 0).SelectMany(f => Enumerable.Range(0, random.Next(9) == 0 ? 2 : 1)
                .Select(_ => KeyValuePair.Create(f, random.Next(60) == 0 ? new string('x', 70_000) : Odd[random.Next(Odd.Length)]))).ToList();
            if (random.Next(4) > 0) fields.RemoveAll(f => f.Key == "basedOn");
            if (!fields.Exists(f => f.Key == "basedOn")) fields.Add(new("basedOn", basedOn));
            fields.Add(new("__RequestVerificationToken", token));
            if (random.Next(6) == 0)
                url += (url.Contains('?') ? "&" : "?") + $"piece={Uri.EscapeDataString(Odd[random.Next(Odd.Length)])}&sheet=-7&finding=NaN";
            using var request = new HttpRequestMessage(HttpMethod.Post, url) { Content = new FormUrlEncodedContent(fields) };
            if (random.Next(2) == 0) request.Headers.Add("X-Part", "changes");
            using var answer = await v.Http.SendAsync(request);
            var sent = string.Join('&', fields.Select(f => $"{f.Key}={f.Value[..Math.Min(40, f.Value.Length)]}"));
            Assert.True((int)answer.StatusCode < 500, $"{i}: {(int)answer.StatusCode} {url} {sent}");
            // What is said goes with a cookie, which must never grow so large that nobody is let in.
            var page = await v.Http.GetAsync(root + "/build");
            Assert.True(page.StatusCode is HttpStatusCode.OK or HttpStatusCode.NotFound, $"{i}: afterwards {(int)page.StatusCode}; {url}");
            if (Regex.Match(await page.Content.ReadAsStringAsync(), "name=\"basedOn\" value=\"([^\"]*)\"") is { Success: true } now)
                basedOn = now.Groups[1].Value;
        }
    }

    /// <summary>Every address, with odd values in each of its places and in every parameter that its code names.</summary>
    [Fact]
    public async Task No_address_with_any_values_is_more_than_refused()
    {
        var (count, seed) = Cases.Seeds("FALZKUNST_ADDRESSES", "6@1", "20@1");
        var random = new Random(seed);
        var v = await studio.SignIn();
        var number = (await Docket(v)).Split('/')[^1];
        string Any() => Odd[random.Next(Odd.Length)];
        foreach (var endpoint in studio.Services.GetRequiredService<EndpointDataSource>().Endpoints.OfType<RouteEndpoint>())
        {
            var asked = endpoint.Metadata.GetMetadata<System.Reflection.MethodInfo>()?.GetParameters()
                .Where(p => p.ParameterType.IsValueType || p.ParameterType == typeof(string)).Select(p => p.Name!).ToList() ?? [];
            if (endpoint.RoutePattern.RawText!.Contains("progress", StringComparison.Ordinal) || endpoint.RoutePattern.RawText.Contains('*')) continue;
            for (var i = 0; i < count; i++)
            {
                var url = "/" + Regex.Replace(endpoint.RoutePattern.RawText!.TrimStart('/'), @"\{(\w+)(:[^}]*)?\}", m =>
                    m.Groups[1].Value == "number" && random.Next(4) > 0 ? number : Uri.EscapeDataString(Any().Replace("\0", "", StringComparison.Ordinal)));
                string[] known = ["list", "place", "piece", "line", "look", "sheet", "finding", "machine", "tool", "plies", "handler"];
                url += "?" + string.Join('&', asked.Concat(known)
                    .Where(_ => random.Next(3) > 0).Select(name => $"{name}={Uri.EscapeDataString(Any())}"));
                using var answer = await v.Http.GetAsync(url);
                Assert.True((int)answer.StatusCode < 500, $"{(int)answer.StatusCode} {url}");
            }
        }
    }

    [Fact]
    public async Task Many_unreadable_files_are_said_and_lock_nobody_out()
    {
        var v = await studio.SignIn();
        await v.Get("/dockets");
        using var form = new MultipartFormDataContent { { new StringContent(v.Token), "__RequestVerificationToken" } };
        form.Add(new ByteArrayContent(Small), "file", "fine.svg");
        for (var i = 0; i < 300; i++) form.Add(new ByteArrayContent("nothing"u8.ToArray()), "file", $"a file with a long name that nobody can read {i}.svg");
        var answer = await v.Http.PostAsync("/dockets", form);
        Assert.Equal(HttpStatusCode.OK, answer.StatusCode);
        Assert.Contains("There is more of this kind", await answer.Content.ReadAsStringAsync());
        // More files than a form can hold, and a character that no text has.
        using var more = new MultipartFormDataContent { { new StringContent(v.Token), "__RequestVerificationToken" } };
        for (var i = 0; i < 1200; i++) more.Add(new ByteArrayContent(Small), "file", $"{i}.svg");
        var tooMany = await v.Http.PostAsync("/dockets", more);
        Assert.Equal(HttpStatusCode.RequestEntityTooLarge, tooMany.StatusCode);
        Assert.Contains("That is too much at once", await tooMany.Content.ReadAsStringAsync());
        await v.Get("/dockets");
        await v.Post("/workshop?handler=Name", ("name", "Murmeltier\r\nBcc: everybody"));
        Assert.Equal(HttpStatusCode.BadRequest, v.Status);
        await v.Get("/dockets");
        Assert.Equal(HttpStatusCode.OK, v.Status);
        await v.Get("/dockets?list=%00");
        Assert.Equal(HttpStatusCode.BadRequest, v.Status);
    }

    /// <summary>Something that a person does, and how one sees that it was done.</summary>
    private sealed record Deed(string Name, Func<Visitor, string, string, Task> Do, Func<FalzkunstContext, Guid, string, Task<bool>> Seen);

    private static Deed Form(string name, string path, Func<string, (string, string)[]> fields, Func<FalzkunstContext, Guid, string, Task<bool>> seen) =>
        new(name, (v, root, mark) => v.Post($"{root}/{path}", fields(mark)), seen);

    private const string Delete = "delete";

    private static Deed Room(string name, string path, Func<string, (string, string)[]> fields, Func<FalzkunstContext, string, Task<bool>> seen) =>
        new(name, (v, _, mark) => v.Post(path, fields(mark)), (db, _, mark) => seen(db, mark));

    private static Deed Whole(string name, string handler, Func<FalzkunstContext, Guid, Task<bool>> seen) =>
        new(name, (v, root, _) => v.Post("/dockets?handler=" + handler, ("number", root.Split('/')[^1])), (db, docket, _) => seen(db, docket));

    private static readonly Deed[] Deeds =
    [
        Form("name", "build?handler=Name", m => [("name", m)], (db, d, m) => db.Dockets.AnyAsync(x => x.Id == d && x.Name == m)),
        Form("copies", "build?handler=Copies", m => [("copies", $"{Number(m)}")],
            (db, d, m) => db.Dockets.AnyAsync(x => x.Id == d && x.Copies == Number(m))),
        Form("rename", "build?handler=Rename", m => [("id", "p1"), ("label", m)], IsInHistory),
        Form("rename another", "build?handler=Rename", m => [("id", "p2"), ("label", m)], IsInHistory),
        Form("rules", "bring-in?handler=KeepRules", m => [("name", m)], (db, _, m) => db.Rules.AnyAsync(x => x.Name == m)),
        Form("rules of one name", "bring-in?handler=KeepRules", _ => [("name", "Nordwerk")], (db, _, _) => db.Rules.AnyAsync(x => x.Name == "Nordwerk")),
        new("upload", async (v, _, m) => await v.Bring(m + ".svg", Small),
            (db, _, m) => db.Dockets.AnyAsync(x => EF.Functions.ILike(x.Name, m))),
        Form("lay out", "lay-out?handler=LayOut", _ => [], (db, d, _) => db.Layouts.AnyAsync(l => l.DocketId == d)),
        Form("run", "run?handler=Start", _ => [("sheet", "0")], (_, _, _) => Task.FromResult(true)),
        Form("unit", "build?handler=Unit", _ => [("unit", "mm")], (_, _, _) => Task.FromResult(true)),
        Form("undo", "build?handler=Undo", _ => [], (_, _, _) => Task.FromResult(true)),
        Form("redo", "build?handler=Redo", _ => [], (_, _, _) => Task.FromResult(true)),
        Form("move", "build?handler=Move", _ => [("ids", "p1"), ("right", "3"), ("down", "4")], (_, _, _) => Task.FromResult(true)),
        Form("machine", "run?handler=Machine", _ => [], (_, _, _) => Task.FromResult(true)),
        Whole("copy", "Copy", (db, _) => db.Dockets.AnyAsync(x => EF.Functions.ILike(x.Name, "%, copy"))),
        Whole("archive", "Archive", (db, d) => db.Dockets.AnyAsync(x => x.Id == d && x.ArchivedAt != null)),
        Whole(Delete, "Delete", (_, _) => Task.FromResult(true)),
        Room("stock", "/stock?handler=Add", m => [("name", m), ("colour", "#ff00ff"), ("weight", "200"), ("thickness", "0.2"), ("width", "99"),
            ("height", "99"), ("count", "0")], (db, m) => db.Stocks.AnyAsync(s => s.Name == m)),
        Room("tool", "/machines?handler=SaveTool", m => [("name", m), ("operation", "foil"), ("pen", $"{50 + Number(m) % 50}"), ("speed", "20")],
            (db, m) => db.Tools.AnyAsync(t => t.Name == m)),
        Room("invitation", "/workshop?handler=Invite", m => [("for", m)], (db, m) => db.EntryLinks.AnyAsync(e => e.For == m)),
        Room("workshop", "/workshop?handler=Name", _ => [("name", "Papierwerkstatt Murmeltier")], (_, _) => Task.FromResult(true)),
    ];

    private static Task<bool> IsInHistory(FalzkunstContext db, Guid docket, string mark) =>
        db.Revisions.AnyAsync(r => r.DocketId == docket && r.What.Contains(mark));

    private static int Number(string mark) => Math.Abs(mark.GetHashCode(StringComparison.Ordinal)) % 900 + 2;

    [Fact]
    public async Task Two_at_the_same_instant_are_both_done_or_told()
    {
        var (count, seed) = Cases.Seeds("FALZKUNST_PAIRS", "30@1", "80@1");
        var random = new Random(seed);
        var people = new[] { await studio.SignIn(), await studio.SignIn(Studio.Tobias) };
        var root = "";
        for (var i = 0; i < count; i++)
        {
            if (i % 10 == 0) root = await Docket(people[0]);
            foreach (var v in people) await v.Get(root + "/build");
            // Every deed beside itself, and then whatever comes.
            var deeds = i < Deeds.Length ? new[] { Deeds[i], Deeds[i] } : [Deeds[random.Next(Deeds.Length)], Deeds[random.Next(Deeds.Length)]];
            var marks = new[] { $"m{seed}x{i}a", $"m{seed}x{i}b" };
            using var line = new Barrier(2);
            await Task.WhenAll(deeds.Select((deed, k) => Task.Run(async () =>
            {
                line.SignalAndWait();
                await deed.Do(people[k], root, marks[k]);
            })));
            await using var scope = studio.Services.CreateAsyncScope();
            var db = scope.ServiceProvider.GetRequiredService<FalzkunstContext>();
            var number = int.Parse(root.Split('/')[^1], System.Globalization.CultureInfo.InvariantCulture);
            var docket = await db.Dockets.IgnoreQueryFilters().AsNoTracking().FirstAsync(d => d.Number == number);
            db.StudioId = docket.StudioId;
            // What was deleted is restored, with all that was done to it.
            if (deeds.Any(d => d.Name == Delete))
                await db.Dockets.IgnoreQueryFilters().Where(d => d.Id == docket.Id)
                    .ExecuteUpdateAsync(u => u.SetProperty(d => d.DeletedAt, (DateTimeOffset?)null));
            for (var k = 0; k < 2; k++)
            {
                var what = $"{i}: {deeds[0].Name} beside {deeds[1].Name}";
                Assert.True((int)people[k].Status < 500, $"{what}: {(int)people[k].Status}");
                var told = Regex.IsMatch(people[k].Text, "in the meantime|busy with another sheet|Lay out first|Mend the stops|Nothing lies here|not over"
                    + "|Only an owner|Another tool");
                // Of two that set the same, the later one holds, and its person sees it.
                var same = deeds[0] == deeds[1] && deeds[k].Name is "name" or "copies";
                Assert.True(told || same || await deeds[k].Seen(db, docket.Id, marks[k]), $"{what}: {deeds[k].Name} is lost; {people[k].Text}");
            }
        }
    }
}
