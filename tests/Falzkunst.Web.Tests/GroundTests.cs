using System.IO.Compression;
using System.Net;
using System.Text;
using System.Text.RegularExpressions;
using Falzkunst.Core.Cards;
using Falzkunst.Core.Tests.Cards;
using Falzkunst.Store;
using Microsoft.EntityFrameworkCore;
using Microsoft.Extensions.Caching.Memory;
using Microsoft.Extensions.DependencyInjection;
using Npgsql;

namespace Falzkunst.Web.Tests;

/// <summary>What is kept, by content, and what an edit sends: nothing is lost, and no more goes over the wire than changed.</summary>
[Collection(Studio.Name)]
public sealed class GroundTests(Studio studio)
{
    private const string Card = "<svg xmlns='http://www.w3.org/2000/svg' width='100mm' height='60mm' viewBox='0 0 100 60'><rect id='base' width='100' "
        + "height='60' fill='#f4ead2'/>"
        + "<circle id='sun' cx='20' cy='20' r='9' fill='#b7791f'/><path d='M60 10L80 30' stroke='#0a7' fill='none'/></svg>";

    private static readonly byte[] Dot = Convert
        .FromBase64String("iVBORw0KGgoAAAANSUhEUgAAAAEAAAABCAYAAAAfFcSJAAAADUlEQVR42mNk+M/wHwAEBgIApD5fRAAAAABJRU5ErkJggg==");

    private async Task<(Visitor V, string Root)> WithDocket(string svg = Card, string email = Studio.Vreni)
    {
        var v = await studio.SignIn(email);
        await v.Get("/dockets");
        await v.Bring("ground.svg", Encoding.UTF8.GetBytes(svg));
        var root = v.Url.Replace("/bring-in", "", StringComparison.Ordinal);
        await v.Get(root + "/build");
        return (v, root);
    }

    private AsyncServiceScope Scope(out FalzkunstContext db, out Docket docket, string root)
    {
        var scope = studio.Services.CreateAsyncScope();
        var context = db = scope.ServiceProvider.GetRequiredService<FalzkunstContext>();
        var number = int.Parse(Regex.Match(root, "[0-9]+").Value, System.Globalization.CultureInfo.InvariantCulture);
        docket = db.Dockets.IgnoreQueryFilters().OrderByDescending(d => d.CreatedAt).First(d => d.Number == number);
        context.StudioId = docket.StudioId;
        return scope;
    }

    /// <summary>Sends a form as the page's script does, which takes what changed.</summary>
    private static async Task<(HttpResponseMessage Answer, string Text)> Change(Visitor v, string root, string handler, params (string, string)[] fields)
    {
        using var request = new HttpRequestMessage(HttpMethod.Post, $"{root}/build?handler={handler}")
        {
            Content = new FormUrlEncodedContent(fields.Select(f => KeyValuePair.Create(f.Item1, f.Item2)).Append(new("__RequestVerificationToken", v.Token))
                .Append(new("basedOn", Revision(v.Page)))),
            Headers = { { "HX-Request", "true" }, { "X-Part", "changes" } },
        };
        var answer = await v.Http.SendAsync(request);
        return (answer, await answer.Content.ReadAsStringAsync());
    }

    private static string Revision(string page) => Regex.Match(page, "data-revision=\"([^\"]+)\"").Groups[1].Value;

    /// <summary>Somebody has a database of each of these: what landed is never renamed or changed, and what is new comes behind it.</summary>
    [Fact]
    public Task Migrations_that_landed_stay_as_they_are() => studio.In(db =>
    {
        string[] landed =
        [
            "20261124001906_First", "20261124031131_Rules", "20261124225252_Folders", "20261125051108_ByContent", "20261125121209_Runs",
            "20261125144618_Accounts", "20261126021828_Shelf", "20261126060034_Bears", "20261126123326_Papers", "20261126124758_Lies",
            "20261126151227_Calibrations", "20261126233025_ByHand", "20261127054058_Together", "20261127094058_Settings", "20261127130643_HowMachinesSpeak",
        ];
        Assert.Equal(landed, db.Database.GetMigrations().Take(landed.Length));
        return Task.FromResult(true);
    });

    [Fact]
    public async Task A_database_of_schema_1_opens_with_all_its_dockets_also_those_that_were_locked()
    {
        var name = "falz_old_" + Guid.NewGuid().ToString("N");
        await Execute(Studio.Postgres, $"CREATE DATABASE {name}");
        var connection = new NpgsqlConnectionStringBuilder(Studio.Postgres) { Database = name, Pooling = false }.ConnectionString;
        try
        {
            var dump = new StreamReader(new GZipStream(File.OpenRead(Path.Combine(AppContext.BaseDirectory, "../../../../../cases/schema-1/database.sql.gz")),
                CompressionMode.Decompress));
            await Execute(connection, string.Join('\n', (await dump.ReadToEndAsync()).Split('\n').Where(l => !l.StartsWith('\\'))));
            var options = new DbContextOptionsBuilder<FalzkunstContext>().UseNpgsql(connection).Options;
            await using var db = new FalzkunstContext(options);
            await db.Database.MigrateAsync();
            var (blobs, open) = (new Blobs(db, TimeProvider.System), new OpenDesigns());
            var revisions = new Revisions(db, blobs, open, TimeProvider.System);
            await revisions.CountOld();
            db.StudioId = (await db.Studios.FirstAsync()).Id;
            var all = await db.Revisions.Select(r => r.Id).ToListAsync();
            Assert.Equal(20, all.Count);
            foreach (var id in all) Assert.Null((await revisions.DesignOf(id))!.Check());
            var shelf = await new DocketShelf(db, revisions, TimeProvider.System).Of(1, ShelfPlace.Worktop);
            Assert.Equal(Enumerable.Range(41, 7).Reverse(), shelf.Dockets.Select(d => d.Number));
            Assert.All(shelf.Dockets, d => Assert.True(d is { IsWhole: true, Pieces: >= 0 }));
            foreach (var docket in await db.Dockets.ToListAsync())
            {
                var before = await revisions.DesignOf(docket.CurrentRevisionId);
                var (outcome, now) = await revisions
                    .Change(docket, docket.CurrentRevisionId, before, new LeaveOut([before!.Pieces.Length > 0 ? before.Pieces[0].Id : before.Lines[0].Id]),
                    "Vreni");
                Assert.Equal(ChangeOutcome.Done, outcome);
                // As after a restart: nothing is in memory.
                Assert.Equal(now, await new Revisions(db, blobs, new(), TimeProvider.System).DesignOf(docket.CurrentRevisionId));
                Assert.Equal(ChangeOutcome.Done, (await revisions.Undo(docket, docket.CurrentRevisionId, "", true)).Outcome);
                Assert.Equal(before, await revisions.DesignOf(docket.CurrentRevisionId));
            }

            foreach (var file in await db.SourceFiles.ToListAsync()) Assert.Equal(file.Size, (await blobs.Of(file.Content))!.Length);
        }
        finally
        {
            await Studio.Drop(name);
        }

        static async Task Execute(string connection, string sql)
        {
            await using var source = NpgsqlDataSource.Create(connection);
            await using var command = source.CreateCommand(sql);
            await command.ExecuteNonQueryAsync();
        }
    }

    /// <summary>FALZKUNST_ROWS="1000x50@77" asks for so many rows of so many steps from another seed.</summary>
    [Fact]
    public async Task Any_row_of_edits_with_undo_and_redo_reads_back_equal_after_a_restart()
    {
        var asked = (Environment.GetEnvironmentVariable("FALZKUNST_ROWS") ?? "24x24@5").Split('x', '@').Select(int.Parse).ToArray();
        await using var scope = studio.Services.CreateAsyncScope();
        var studioId = (await scope.ServiceProvider.GetRequiredService<FalzkunstContext>().Studios.FirstAsync(s => s.Name == "Elsewhere")).Id;
        await Parallel.ForAsync(0, asked[0], new ParallelOptions { MaxDegreeOfParallelism = 2 }, async (row, cancel) =>
        {
            var options = new DbContextOptionsBuilder<FalzkunstContext>().UseNpgsql(studio.Connection).Options;
            await using var db = new FalzkunstContext(options) { StudioId = studioId };
            var (r, open) = (new Random(asked[2] * 100_003 + row), new OpenDesigns(4_000_000));
            var revisions = new Revisions(db, new Blobs(db, TimeProvider.System), open, TimeProvider.System);
            var docket = new Docket { Id = Guid.CreateVersion7(), StudioId = studioId, Number = 900_000 + row, Name = $"Row {row}", Copies = 1 };
            db.Dockets.Add(docket);
            var design = AnyEdit.Start.Example(r);
            Assert.Equal(ChangeOutcome.Done, (await revisions.Change(docket, null, null, new BringBeside(design, "a row"), "Row", "", cancel)).Outcome);
            var known = new Dictionary<Guid, Design> { [docket.CurrentRevisionId!.Value] = design };
            for (var i = 0; i < asked[1]; i++)
            {
                var (at, step) = (docket.CurrentRevisionId, r.Next(10));
                if (step < 2)
                {
                    var outcome = step == 0 ? (await revisions.Undo(docket, at, "", true, cancel)).Outcome : await revisions.Redo(docket, at, cancel);
                    Assert.Contains(outcome, new[] { ChangeOutcome.Done, ChangeOutcome.Nothing });
                    design = known[docket.CurrentRevisionId!.Value];
                    continue;
                }

                var edit = AnyEdit.Make(AnyEdit.Kinds[(row + i * 7 + r.Next(3)) % AnyEdit.Kinds.Count], design, r);
                if (edit is BringBeside or TraceAgain && design.AllPieces.Length > 60) continue;
                var (made, now) = await revisions.Change(docket, at, design, edit, "Row", "", cancel);
                Assert.True(made is ChangeOutcome.Done or ChangeOutcome.Nothing, $"row {row}, step {i}: {edit.GetType().Name} was {made}");
                design = now!;
                known[docket.CurrentRevisionId!.Value] = design;
            }

            // A process that has never seen any of it.
            var fresh = new Revisions(db, new Blobs(db, TimeProvider.System), new(), TimeProvider.System);
            foreach (var (id, was) in known) Assert.Equal(was, await fresh.DesignOf(id, cancel));
        });
    }

    [Fact]
    public async Task A_damaged_revision_is_said_and_the_one_before_is_offered_while_the_list_goes_on()
    {
        var (v, root) = await WithDocket(email: Studio.Stranger);
        await v.Post(root + "/build?handler=Rename", ("id", v.Id('p')), ("label", "Card base"));
        await v.Post(root + "/build?handler=Rename", ("id", v.Id('p')), ("label", "Spoilt"));
        await using (Scope(out var db, out var docket, root))
        {
            studio.Services.GetRequiredService<OpenDesigns>().Forget(docket.CurrentRevisionId!.Value);
            await db.Revisions.Where(r => r.Id == docket.CurrentRevisionId).ExecuteUpdateAsync(u => u.SetProperty(r => r.Document, [1, 2, 3]));
        }

        Assert.Contains("Can't be read as it is", await List());
        foreach (var stage in new[] { "bring-in", "build", "lay-out", "run", "assemble" })
        {
            await v.Get($"{root}/{stage}");
            Assert.Equal((HttpStatusCode.OK, root + "/damaged"), (v.Status, v.Url));
        }

        Assert.Contains("can't be read as it is", v.Text);
        await v.Post(v.Url, ("to", Regex.Match(v.Page, "name=\"to\" value=\"([^\"]+)\"").Groups[1].Value));
        Assert.Equal(root + "/build", v.Url);
        Assert.Contains("Card base", v.Text);
        Assert.DoesNotContain("Can't be read", await List());

        // Both pages: other tests have put rows of dockets with high numbers there.
        async Task<string> List()
        {
            await v.Get("/dockets");
            Assert.Equal(HttpStatusCode.OK, v.Status);
            var first = v.Text;
            await v.Get("/dockets?list=2");
            return first + v.Text;
        }
    }

    [Fact]
    public async Task An_edit_is_one_answer_with_what_changed_and_nothing_else()
    {
        var text = new StringBuilder("<svg xmlns='http://www.w3.org/2000/svg' width='500mm' height='500mm' viewBox='0 0 500 500'>");
        for (var i = 0; i < 300; i++) text.Append($"<circle cx='{10 + i % 25 * 20}' cy='{10 + i / 25 * 20}' r='8' fill='#2f5d46'/>");
        var (v, root) = await WithDocket(text + "</svg>");
        var (first, third) = (v.Id('p'), v.Id('p', 2));
        var (answer, parts) = await Change(v, root, "Move", ("ids", $"{first},{third}"), ("right", "3"), ("down", "-1.5"), ("gesture", "g1"));
        Assert.Equal((HttpStatusCode.OK, $"{root}/build?handler=Move"), (answer.StatusCode, answer.RequestMessage!.RequestUri!.PathAndQuery));
        Assert.True(parts.Length < 60_000, $"{parts.Length} characters");
        Assert.Equal([first, third], Regex.Matches(parts, "<g class=\"piece\" data-id=\"([^\"]+)\"").Select(m => m.Groups[1].Value));
        foreach (var part in new[] { "tools", "slip", "card", "findings" }) Assert.Contains($"<div id=\"{part}\" hx-swap-oob", parts);
        Assert.DoesNotContain("<html", parts);
        // The page itself shows the same.
        await v.Get(root + "/build");
        Assert.Equal(Revision(v.Page), Revision(parts));
        Assert.Contains(Regex.Match(parts, $"<g class=\"piece\" data-id=\"{first}\".*?</g>", RegexOptions.Singleline).Value, v.Page);
        var (_, order) = await Change(v, root, "LeaveOut", ("ids", third));
        Assert.Matches("data-order=\"y[0-9]+@:", order);
        Assert.DoesNotContain($"data-id=\"{third}\"", order);
    }

    [Fact]
    public async Task Small_steps_of_one_gesture_are_one_change_and_the_history_says_what_was_done()
    {
        var (v, root) = await WithDocket();
        var sun = v.Id('p', 1);
        foreach (var gesture in new[] { "a", "a", "a", "b" })
        {
            await Change(v, root, "Move", ("ids", sun), ("right", "0.5"), ("down", "0"), ("gesture", gesture));
            await v.Get(root + "/build");
        }

        Assert.Equal(2, Regex.Count(v.Page, "<span>Move Sun<small>"));
        Assert.Matches($"data-about=\"{sun}\"", v.Page);
        await v.Post(root + "/build?handler=Undo");
        await v.Post(root + "/build?handler=Undo");
        Assert.Contains("Nothing to undo", v.Page);
        // What was undone stays in the list, and can be gone to, past what lies between; done over, it is left beside.
        await v.Get(root + "/build");
        Assert.Equal(2, Regex.Count(v.Page, ", undone</small>"));
        var newest = Regex.Match(v.Page, "name=\"to\" value=\"([0-9a-f-]{36})\"").Groups[1].Value;
        await v.Post(root + "/build?handler=GoBack", ("to", newest));
        using var picture = await v.Http.GetAsync($"{root}/state/{newest}.svg");
        Assert.Equal("image/svg+xml", picture.Content.Headers.ContentType?.MediaType);
        await v.Get(root + "/build");
        Assert.Equal(0, Regex.Count(v.Page, ", undone</small>"));
        await v.Post(root + "/build?handler=Undo");
        await Change(v, root, "Turn", ("ids", sun), ("degrees", "15"));
        await v.Get(root + "/build");
        Assert.Equal(1, Regex.Count(v.Page, ", left for something else</small>"));
        await v.Post(root + "/build?handler=Undo");
        await v.Post(root + "/build?handler=Undo");
        await v.Get($"{root}/build?piece={sun}");
        Assert.Contains("11 mm from the left", v.Text);
    }

    [Fact]
    public async Task What_is_on_the_shelf_is_the_studios_alone_and_comes_back_at_its_size()
    {
        var (v, root) = await WithDocket();
        var (other, far) = await WithDocket(Card, Studio.Stranger);
        await v.Get(root + "/build");
        var sun = v.Id('p', 1);
        var name = $"50% sun_{Guid.NewGuid():N}";
        await v.Post(root + "/build?handler=Keep", ("ids", sun), ("name", name));
        await v.Get($"{root}/build?handler=Shelf&text=50%25 sun_{name[^6..]}");
        Assert.DoesNotContain("class=\"plate\"", v.Page);
        await v.Get($"{root}/build?handler=Shelf&text=50%25 {name[^6..]}");
        var id = Regex.Match(v.Page, "/shelf/([0-9a-f-]{36})").Groups[1].Value;
        Assert.Single(Regex.Matches(v.Page, "class=\"plate\""));
        await other.Get($"/shelf/{id}.svg");
        Assert.Equal(HttpStatusCode.NotFound, other.Status);
        await other.Get($"{far}/build?handler=Shelf&text={name[^6..]}");
        Assert.DoesNotContain(id, other.Page);
        await other.Get(far + "/build");
        await other.Post(far + "/build?handler=Take", ("kept", id));
        Assert.Contains("not on the shelf any more", other.Page);
        await v.Get(root + "/build");
        var pieces = Regex.Count(v.Page, "class=\"piece\"");
        await v.Post(root + "/build?handler=Take", ("kept", id));
        await v.Get(root + "/build");
        Assert.Equal(pieces + 1, Regex.Count(v.Page, "class=\"piece\""));
        await v.Post(root + "/build?handler=ShelfOff", ("kept", id));
        Assert.Contains("is off the shelf", v.Page);
        await v.Get($"{root}/build?handler=Shelf&text={name[^6..]}");
        Assert.DoesNotContain(id, v.Page);
    }

    [Fact]
    public async Task Outlines_and_pictures_are_kept_once_and_what_nothing_refers_to_is_collected()
    {
        var svg = Card.Replace("</svg>", $"<image href='data:image/png;base64,{Convert.ToBase64String(Dot)}' x='4' y='40' width='9' height='9'/></svg>",
            StringComparison.Ordinal);
        var (v, root) = await WithDocket(svg);
        var (w, other) = await WithDocket(svg);
        await using var scope = Scope(out var db, out var docket, root);
        var blobs = scope.ServiceProvider.GetRequiredService<Blobs>();
        var mine = await db.BlobUses.Where(u => u.DocketId == docket.Id).Select(u => u.Hash).ToListAsync();
        await using (Scope(out var again, out var twin, other))
            Assert.Equal(mine.Order(), (await again.BlobUses.Where(u => u.DocketId == twin.Id).Select(u => u.Hash).ToListAsync()).Order());
        // A hundred moves bring no outline.
        for (var i = 0; i < 5; i++)
        {
            await v.Get(root + "/build");
            await v.Post(root + "/build?handler=Move", ("ids", v.Id('p', 1)), ("right", "1"), ("down", "0"));
        }

        Assert.Equal(mine.Count, await db.BlobUses.CountAsync(u => u.DocketId == docket.Id));
        // What is referred to stays; what is not, and is old, goes.
        var stray = await blobs.KeepFile(docket.StudioId, docket.Id, Guid.NewGuid().ToByteArray());
        await db.BlobUses.Where(u => u.Hash == stray).ExecuteDeleteAsync();
        await blobs.Collect();
        Assert.NotNull(await blobs.Of(stray));
        await db.Blobs.Where(b => b.Hash == stray || mine.Contains(b.Hash))
            .ExecuteUpdateAsync(u => u.SetProperty(b => b.At, DateTimeOffset.UtcNow.AddDays(-2)));
        await blobs.Collect();
        Assert.Null(await blobs.Of(stray));
        Assert.Equal(mine.Count, (await blobs.Of(mine)).Count);
        // A picture has the address of its bytes, and only within its docket.
        await w.Get(other + "/build");
        var picture = Regex.Match(w.Page, "href=\"(/dockets/[0-9]+/artwork/[0-9a-f]{64})\"").Groups[1].Value;
        using var answer = await w.Http.GetAsync(picture);
        Assert.Equal(("image/png", true),
            (answer.Content.Headers.ContentType!.MediaType, answer.Headers.CacheControl!.ToString().Contains("immutable", StringComparison.Ordinal)));
        Assert.Equal(HttpStatusCode.NotFound, (await (await studio.SignIn(Studio.Stranger)).Get(picture)).Status);
    }

    [Fact]
    public async Task Nothing_in_a_hand_made_file_runs_in_the_next_readers_browser()
    {
        var (v, root) = await WithDocket();
        var file = await v.Http.GetStringAsync(root + "/design.falz.json");
        const string Script = "\\u0022\\u003e\\u003c/svg\\u003e\\u003cscript\\u003ealert(1)\\u003c/script\\u003e";
        // In every text there is, one at a time: what is taken in shows as text, what is not is one sentence.
        foreach (var match in Regex.Matches(file, "\"([^\"\\\\]*)\"(?=\\s*[,}\\]])").DistinctBy(m => m.Value).Take(40))
        {
            var forged = file[..match.Index] + $"\"{Script}\"" + file[(match.Index + match.Length)..];
            await v.Get("/dockets");
            await v.Bring("forged.falz.json", Encoding.UTF8.GetBytes(forged));
            Assert.Equal(HttpStatusCode.OK, v.Status);
            if (v.Url == "/dockets") Assert.Contains("was not brought in", v.Text);
            else foreach (var stage in new[] { "bring-in", "build", "assemble" })
                Assert.DoesNotContain("<script>alert", (await v.Get(v.Url.Split("/bring-in")[0].Split("/build")[0].Split("/assemble")[0] + "/" + stage)).Page);
        }
    }

    [Fact]
    public async Task A_long_list_is_paged()
    {
        var v = await studio.SignIn();
        await using (var scope = studio.Services.CreateAsyncScope())
        {
            var db = scope.ServiceProvider.GetRequiredService<FalzkunstContext>();
            var own = await db.Studios.FirstAsync(s => s.Id == studio.Own);
            db.StudioId = own.Id;
            for (var i = 0; i < 30; i++) db.Dockets
                .Add(new() { Id = Guid.CreateVersion7(), StudioId = own.Id, Number = ++own.LastDocketNumber, Name = $"Listed {i}", Copies = 1 });
            await db.SaveChangesAsync();
        }

        await v.Get("/dockets");
        Assert.Equal(Shelf.PerPage, Regex.Count(v.Page, "docket-number"));
        var pages = Regex.Matches(v.Page, "href=\"(/dockets\\?list=[0-9]+)\"").Select(m => m.Groups[1].Value).Distinct().ToList();
        Assert.True(pages.Count >= 2);
        var names = new List<string>();
        foreach (var page in pages) names.AddRange(Regex.Matches((await v.Get(page)).Page, "<strong>(Listed [0-9]+)</strong>").Select(m => m.Groups[1].Value));
        Assert.Equal(30, names.Distinct().Count());
        Assert.Equal(HttpStatusCode.OK, (await v.Get("/dockets?list=999")).Status);
        Assert.Equal(HttpStatusCode.OK, (await v.Get("/dockets?list=x")).Status);
    }

    [Fact]
    public async Task Tracing_again_asks_first_and_replaces_only_what_came_from_the_picture()
    {
        var badge = Core.Writing.Paper.Render(Core.Reading.DesignReader
            .Read(Encoding.UTF8.GetBytes(Card.Replace("<rect", "<rect opacity='0'", StringComparison.Ordinal))), 150, Core.Writing.DrawAs.Artwork).Png;
        var v = await studio.SignIn();
        await v.Get("/dockets");
        await v.Bring("sun.png", badge);
        var root = v.Url.Replace("/bring-in", "", StringComparison.Ordinal);
        using (var form = new MultipartFormDataContent { { new StringContent(v.Token), "__RequestVerificationToken" },
            { new StringContent(v.BasedOn), "basedOn" }, })
        {
            form.Add(new ByteArrayContent(Encoding.UTF8.GetBytes(Card.Replace("sun", "moon", StringComparison.Ordinal))), "file", "moon.svg");
            await v.Http.PostAsync(root + "/bring-in?handler=Add", form);
        }

        await v.Get(root + "/bring-in");
        await v.Post(root + "/bring-in?handler=Trace", ("mode", "Flat"), ("smoothing", "2"));
        Assert.DoesNotContain("Trace it again", v.Text);
        await v.Get(root + "/build");
        Assert.Contains("aria-label=\"Moon\"", v.Page);
        await v.Post(root + "/build?handler=Rename", ("id", Regex.Matches(v.Page, "class=\"piece\" data-id=\"([^\"]+)\"")[^1].Groups[1].Value),
            ("label", "Worked on"));
        await v.Get(root + "/bring-in");
        await v.Post(root + "/bring-in?handler=Trace", ("mode", "Flat"), ("smoothing", "0"));
        Assert.Contains("Trace it again", v.Text);
        await v.Get(root + "/build");
        Assert.Contains("Worked on", v.Text);
        await v.Get(root + "/bring-in");
        await v.Post(root + "/bring-in?handler=Trace", ("mode", "Flat"), ("smoothing", "0"), ("sure", "true"));
        await v.Get(root + "/build");
        Assert.Contains("aria-label=\"Moon\"", v.Page);
        Assert.DoesNotContain("aria-label=\"Worked on\"", v.Page);
    }

    [Fact]
    public async Task A_picture_beside_a_drawing_is_traced_again_at_its_own_size_unasked_and_is_as_wide_as_is_typed()
    {
        var v = await studio.SignIn();
        await v.Get("/dockets");
        await v.Bring("card.svg", Encoding.UTF8.GetBytes(Card));
        var root = v.Url.Replace("/bring-in", "", StringComparison.Ordinal);
        var rgba = Enumerable.Range(0, 120 * 80).SelectMany(i => new[] { (byte)(2 * (i % 120)), (byte)(3 * (i / 120)), (byte)140, (byte)255 }).ToArray();
        var dusk = new Core.Pictures.Raster(120, 80, rgba, null).ToPng();
        using (var form = new MultipartFormDataContent { { new StringContent(v.Token), "__RequestVerificationToken" },
            { new StringContent(v.BasedOn), "basedOn" }, })
        {
            form.Add(new ByteArrayContent(dusk), "file", "dusk.png");
            await v.Http.PostAsync(root + "/bring-in?handler=Add", form);
        }

        await v.Get(root + "/bring-in");
        Assert.Contains("value=\"Whole\" checked", v.Page);
        Assert.Contains("value=\"10.16 mm\"", v.Page);
        await v.Post(root + "/bring-in?handler=Trace", ("mode", "Whole"), ("wide", "10.16 mm"), ("border", "2 mm"));
        Assert.DoesNotContain("Trace it again", v.Text);
        Assert.Contains("value=\"2 mm\"", v.Page);
        Assert.Contains("value=\"10.16 mm\"", v.Page);
        await v.Post(root + "/bring-in?handler=Trace", ("mode", "Whole"), ("wide", "90"), ("border", "0"));
        Assert.Contains("value=\"90 mm\"", v.Page);
        await v.Get(root + "/build");
        await v.Get(root + "/build?piece=" + Regex.Matches(v.Page, "class=\"piece\" data-id=\"([^\"]+)\"")[^1].Groups[1].Value);
        Assert.Contains("90 × 60 mm", v.Text);
        var plate = await v.Http.GetAsync(root + "/trace-plate?mode=Outline");
        Assert.Equal("image/svg+xml", plate.Content.Headers.ContentType?.MediaType);
        // Where its bytes are gone the page stands all the same, and says so when it is to be traced.
        using var scope = studio.Services.CreateScope();
        ((MemoryCache)scope.ServiceProvider.GetRequiredService<IMemoryCache>()).Clear();
        var gone = Convert.ToHexStringLower(System.Security.Cryptography.SHA256.HashData(dusk));
        await studio.In(db => db.Blobs.IgnoreQueryFilters().Where(b => b.Hash == gone).ExecuteUpdateAsync(u => u.SetProperty(b => b.Bytes, new byte[1])));
        await v.Get(root + "/bring-in");
        Assert.Equal(HttpStatusCode.OK, v.Status);
        await v.Post(root + "/bring-in?handler=Trace", ("mode", "Whole"));
        Assert.Contains("It was not traced", v.Text);
    }
}
