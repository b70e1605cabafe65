using System.IO.Compression;
using System.Net;
using System.Net.Sockets;
using System.Text.Json;
using System.Text.RegularExpressions;
using Falzkunst.Core.Reading;
using Falzkunst.Store;
using Microsoft.EntityFrameworkCore;

namespace Falzkunst.Web.Tests;

/// <summary>Who works in a workshop, how they come and go, and what they take along. Each with a studio of its own.</summary>
[Collection(Studio.Name)]
public sealed class PeopleTests
{
    private static string LinkIn(Visitor v) => Regex.Match(v.Page, "value=\"https?://[^/\"]+(/enter/[^\"]+)\"").Groups[1].Value;

    private static async Task<string> Invite(Visitor owner, string whom, bool isOwner = false)
    {
        await owner.Get("/workshop");
        await owner.Post("/workshop?handler=Invite", ("for", whom), ("owner", isOwner ? "true" : "false"));
        return LinkIn(owner);
    }

    private static async Task<bool> IsIn(Visitor v)
    {
        await v.Get("/dockets");
        return v.Url == "/dockets";
    }

    private static Task<Guid> IdOf(Studio studio, string email) => studio.In(db => db.Users.Where(u => u.Email == email).Select(u => u.Id).FirstAsync());

    [Fact]
    public Task An_invitation_lets_one_person_in_once() => Studio.Alone(async studio =>
    {
        var owner = await studio.SignIn();
        var link = await Invite(owner, "leo@hut.example");
        Assert.Contains("leo@hut.example", owner.Text);
        var people = new[] { studio.Somebody(), studio.Somebody() };
        foreach (var p in people)
        {
            await p.Get(link);
            Assert.Contains("invited as a maker", p.Text);
            Assert.Contains("value=\"leo@hut.example\"", p.Page);
        }

        // What is wrong is said, and the link stays good.
        await people[0].Post(link, ("name", "Leo"), ("email", Studio.Tobias), ("password", "folded paper"));
        Assert.Contains("signs in with that address already", people[0].Text);
        await people[0].Post(link, ("name", "Leo"), ("email", "leo@hut.example"), ("password", "short"));
        Assert.Contains("at least 10 letters", people[0].Text);
        await Task.WhenAll(people.Select((p, i) => p.Post(link, ("name", $"Leo {i}"), ("email", $"leo{i}@hut.example"), ("password", "folded paper"))));
        var inside = await Task.WhenAll(people.Select(IsIn));
        Assert.Single(inside, i => i);
        Assert.Equal(1, await studio.In(db => db.Users.CountAsync(u => u.FullName.StartsWith("Leo") && !u.IsOwner)));
        await people[0].Get(link);
        Assert.Contains("lets nobody in", people[0].Text);
        // One that ended, one that was taken back, and one of somebody who was removed since.
        var ended = await Invite(owner, "late");
        await studio.In(db => db.EntryLinks.IgnoreQueryFilters().ExecuteUpdateAsync(u => u.SetProperty(e => e.EndsAt, DateTimeOffset.UtcNow.AddSeconds(-1))));
        var back = await Invite(owner, "back");
        await owner.Post("/workshop?handler=Withdraw", ("id",
            Regex.Match(owner.Page, "handler=Withdraw[^>]*>\\s*<input type=\"hidden\" name=\"id\" value=\"([^\"]+)").Groups[1].Value));
        await owner.Post("/workshop?handler=Role", ("id", (await IdOf(studio, Studio.Tobias)).ToString()), ("owner", "true"));
        var tobias = await studio.SignIn(Studio.Tobias);
        var his = await Invite(tobias, "mine", true);
        await owner.Get("/workshop");
        await owner.Post("/workshop?handler=Remove", ("id", (await IdOf(studio, Studio.Tobias)).ToString()));
        Assert.False(await IsIn(tobias));
        foreach (var gone in new[] { ended, back, his, "/enter/nothing" })
        {
            Assert.NotEqual("", gone);
            var v = studio.Somebody();
            await v.Get(gone);
            Assert.Contains("lets nobody in", v.Text);
        }
    });

    [Fact]
    public Task There_is_always_one_owner() => Studio.Alone(async studio =>
    {
        var (vreni, id) = (await studio.SignIn(), (await IdOf(studio, Studio.Vreni)).ToString());
        await vreni.Get("/workshop");
        foreach (var handler in new[] { "Role", "Remove" })
        {
            await vreni.Post("/workshop?handler=" + handler, ("id", id), ("owner", "false"));
            Assert.Contains("one owner at least", vreni.Text);
        }

        // A role is the database's, not the cookie's: it holds for who is signed in already.
        var tobias = await studio.SignIn(Studio.Tobias);
        await tobias.Get("/workshop");
        Assert.Equal(HttpStatusCode.Forbidden, tobias.Status);
        var his = (await IdOf(studio, Studio.Tobias)).ToString();
        await vreni.Post("/workshop?handler=Role", ("id", his), ("owner", "true"));
        await tobias.Get("/workshop");
        Assert.Contains("Invite somebody", tobias.Text);
        await vreni.Get("/workshop");
        await Task.WhenAll(vreni.Post("/workshop?handler=Role", ("id", his), ("owner", "false")),
            tobias.Post("/workshop?handler=Role", ("id", id), ("owner", "false")));
        var of = await studio.In(db => db.Users.Where(u => u.Email == Studio.Vreni).Select(u => u.StudioId).FirstAsync());
        Assert.Equal(1, await studio.In(db => db.Users.CountAsync(u => u.StudioId == of && u.IsOwner)));
        // Nobody of another workshop is found.
        var stranger = await studio.SignIn(Studio.Stranger);
        await stranger.Get("/workshop");
        foreach (var handler in new[] { "Role", "Remove", "Password" })
        {
            await stranger.Post("/workshop?handler=" + handler, ("id", id), ("owner", "false"));
            Assert.Equal(HttpStatusCode.NotFound, stranger.Status);
            await stranger.Get("/workshop");
        }
    });

    [Fact]
    public Task A_lost_password_is_replaced_by_link_from_an_owner_or_by_command() => Studio.Alone(async studio =>
    {
        var (owner, tobias) = (await studio.SignIn(), await studio.SignIn(Studio.Tobias));
        await owner.Get("/workshop");
        await owner.Post("/workshop?handler=Password", ("id", (await IdOf(studio, Studio.Tobias)).ToString()));
        var link = LinkIn(owner);
        var said = new StringWriter();
        Assert.False(await Prepare.NewPassword(studio.Services, "nobody@nowhere.example", said));
        Assert.True(await Prepare.NewPassword(studio.Services, Studio.Vreni, said));
        var byCommand = Regex.Match(said.ToString(), "/enter/\\S+").Value;
        var lost = studio.Somebody();
        await lost.Get(link);
        Assert.Contains("For Tobias Lechleitner", lost.Text);
        await lost.Post(link, ("password", "short"));
        Assert.Contains("at least 10 letters", lost.Text);
        await lost.Post(link, ("password", "quite fresh paper"));
        Assert.True(await IsIn(lost));
        Assert.False(await IsIn(tobias));
        Assert.True(await IsIn(owner));
        await lost.Get(link);
        Assert.Contains("lets nobody in", lost.Text);
        var again = studio.Somebody();
        await again.Get(byCommand);
        await again.Post(byCommand, ("password", "and this one too"));
        Assert.False(await IsIn(owner));
        Assert.True(await IsIn(again));
        // Without a mail server the page says whom to ask.
        await again.Get("/lost");
        Assert.Contains("--new-password", again.Text);
    });

    [Fact]
    public async Task Where_there_is_a_mail_server_links_go_by_mail_and_strangers_learn_nothing()
    {
        using var server = new MailSink();
        await Studio.Alone(async studio =>
        {
            var v = studio.Somebody();
            await v.Get("/lost");
            await v.Post("/lost", ("email", "nobody@nowhere.example"));
            var unknown = v.Text;
            await v.Post("/lost", ("email", Studio.Vreni));
            Assert.Equal(unknown, v.Text);
            var mail = await server.Next();
            Assert.Contains(Studio.Vreni, mail);
            // By what is configured, never by what a request says of itself.
            Assert.Contains("https://paper.example/enter/", mail);
            // One mailbox is not filled.
            await v.Post("/lost", ("email", Studio.Vreni));
            var owner = await studio.SignIn();
            await Invite(owner, "leo@hut.example");
            Assert.Contains("on its way to leo@hut.example", owner.Text);
            Assert.Contains("leo@hut.example", await server.Next());
            Assert.Equal(2, server.Count);
        }, new()
        {
            ["Smtp:Host"] = "127.0.0.1",
            ["Smtp:Port"] = $"{server.Port}",
            ["Smtp:Tls"] = "false",
            ["FALZKUNST_ADDRESS"] = "https://paper.example",
        });
        await Studio.Alone(async studio =>
        {
            var owner = await studio.SignIn();
            Assert.NotEqual("", await Invite(owner, "leo@hut.example"));
            Assert.Contains("could not be sent: give the link yourself", owner.Text);
        }, new() { ["Smtp:Host"] = "127.0.0.1", ["Smtp:Port"] = "9", ["Smtp:Tls"] = "false" });
    }

    [Fact]
    public Task A_studio_is_taken_along_and_deleted_and_others_keep_theirs() => Studio.Alone(async studio =>
    {
        var (owner, stranger) = (await studio.SignIn(), await studio.SignIn(Studio.Stranger));
        var file = "<svg xmlns='http://www.w3.org/2000/svg' width='9mm' height='9mm'><rect width='9' height='9'/></svg>"u8.ToArray();
        foreach (var v in new[] { owner, stranger })
        {
            await v.Get("/dockets");
            await v.Bring("a: small? one.svg", file);
        }

        await owner.Get("/dockets");
        await owner.Bring("b.svg", file);
        var root = Regex.Match(owner.Url, @"/dockets/\d+").Value;
        await owner.Get(root + "/lay-out");
        await owner.Post(root + "/lay-out?handler=LayOut");
        await owner.WaitFor(root + "/lay-out", "Go on to Run");
        await owner.Get(root + "/run");
        await owner.Post(root + "/run?handler=Start", ("sheet", "0"));
        using var zip = new ZipArchive(await owner.Http.GetStreamAsync("/workshop/everything.zip"));
        using (var json = await JsonDocument.ParseAsync(zip.GetEntry("workshop.json")!.Open()))
        {
            Assert.Equal(8, json.RootElement.GetProperty("stocks").GetArrayLength());
            Assert.Equal(2, json.RootElement.GetProperty("people").GetArrayLength());
        }

        var designs = zip.Entries.Where(e => e.Name == "design.falz.json").ToList();
        Assert.Equal(2, designs.Count);
        foreach (var entry in designs)
        {
            using var bytes = new MemoryStream();
            await (await entry.OpenAsync()).CopyToAsync(bytes);
            Assert.Single(DesignReader.Read(bytes.ToArray()).Pieces);
        }

        Assert.Contains(zip.Entries, e => e.FullName.EndsWith("files/a_ small_ one.svg", StringComparison.Ordinal));
        await owner.Get("/workshop");
        foreach (var (name, password, says) in new[] { ("Murmeltier", Studio.Password, "not the workshop's name"),
            ("Papierwerkstatt Murmeltier", "not this one", "not your password"), ("Papierwerkstatt Murmeltier", Studio.Password, "A run is not over") })
        {
            await owner.Post("/workshop?handler=Delete", ("name", name), ("password", password));
            Assert.Contains(says, owner.Text);
        }

        await owner.WaitFor(root + "/run?sheet=0", "load the mat");
        // Whoever looks on and is removed meanwhile sees no more of it.
        var tobias = await studio.SignIn(Studio.Tobias);
        await tobias.Get(root + "/run?sheet=0");
        using (var looksOn = new StreamReader(await tobias.Http.GetStreamAsync(Regex.Match(tobias.Page, "/dockets/\\d+/run/progress/[^\"]+").Value
            .Replace("&amp;", "&", StringComparison.Ordinal))))
        {
            Assert.Contains("progress", await looksOn.ReadLineAsync());
            await owner.Get("/workshop");
            await owner.Post("/workshop?handler=Remove", ("id", (await IdOf(studio, Studio.Tobias)).ToString()));
            Assert.EndsWith("data: done", (await looksOn.ReadToEndAsync()).Trim());
        }

        await owner.Get(root + "/run?sheet=0");
        await owner.Post(root + "/run?handler=Stop", ("run", Regex.Match(owner.Page, "name=\"run\" value=\"([^\"]+)\"").Groups[1].Value));
        await owner.Get("/workshop");
        await owner.Post("/workshop?handler=Delete", ("name", "Papierwerkstatt Murmeltier"), ("password", Studio.Password));
        Assert.False(await IsIn(owner));
        Assert.Equal((1, 1, 1, 1), await studio.In(async db => (await db.Studios.CountAsync(), await db.Users.CountAsync(),
            await db.Dockets.IgnoreQueryFilters().CountAsync(), await db.Blobs.IgnoreQueryFilters().Select(b => b.StudioId).Distinct().CountAsync())));
        Assert.True(await IsIn(stranger));
    });

    /// <summary>A mail server that keeps what it is sent.</summary>
    private sealed class MailSink : IDisposable
    {
        private readonly TcpListener _listener = new(IPAddress.Loopback, 0);
        private readonly System.Threading.Channels.Channel<string> _mails = System.Threading.Channels.Channel.CreateUnbounded<string>();

        public MailSink()
        {
            _listener.Start();
            _ = Task.Run(async () =>
            {
                while (true) await Take(await _listener.AcceptTcpClientAsync());
            });
        }

        public int Port => ((IPEndPoint)_listener.LocalEndpoint).Port;

        public int Count { get; private set; }

        public async Task<string> Next()
        {
            using var soon = new CancellationTokenSource(Studio.Patience);
            return await _mails.Reader.ReadAsync(soon.Token);
        }

        private async Task Take(TcpClient client)
        {
            using var reader = new StreamReader(client.GetStream());
            await using var writer = new StreamWriter(client.GetStream()) { NewLine = "\r\n", AutoFlush = true };
            await writer.WriteLineAsync("220 sink");
            var (mail, isData) = ("", false);
            while (await reader.ReadLineAsync() is { } line)
            {
                if (isData && line != ".")
                {
                    // Quoted-printable: soft line ends.
                    mail += line.EndsWith('=') ? line[..^1] : line + "\n";
                    continue;
                }

                if (isData)
                {
                    Count++;
                    await _mails.Writer.WriteAsync(mail);
                }

                isData = line == "DATA";
                if (line.StartsWith("MAIL", StringComparison.OrdinalIgnoreCase)) mail = "";
                await writer.WriteLineAsync(isData ? "354 go on" : line == "QUIT" ? "221 bye" : "250 fine");
            }
        }

        public void Dispose() => _listener.Dispose();
    }
}
