using System.Net;
using System.Text.RegularExpressions;
using Falzkunst.StandIns;
using Falzkunst.Store;
using Falzkunst.Web.Pages;
using Microsoft.AspNetCore.Hosting;
using Microsoft.AspNetCore.Identity;
using Microsoft.AspNetCore.Mvc.Testing;
using Microsoft.EntityFrameworkCore;
using Microsoft.Extensions.DependencyInjection;
using Npgsql;

namespace Falzkunst.Web.Tests;

/// <summary>
/// The application against a real PostgreSQL (the server in FALZKUNST_TEST_DB), in a database of its own, with a cutter stand-in a thousand times
/// faster than life. Two studios: the first has the demo drawer.
/// </summary>
public sealed class Studio : WebApplicationFactory<Program>, IAsyncLifetime
{
    private readonly string _database = "falz_test_" + Guid.NewGuid().ToString("N");
    private readonly CancellationTokenSource _stop = new();
    private readonly CutterServer _cutterServer;

    public Studio()
    {
        Cutter = new(new(305, 305, 2, new(150, 300, 2500, 0.08), 1000)
        {
            Hands = true,
            ToolOff = (0.3, -0.2),
            Swivels = new Dictionary<int, double> { [6] = 0.9 },
            TearsAtGrams = 595,
        });
        _cutterServer = new(Cutter, FreePair());
        Connection = new NpgsqlConnectionStringBuilder(Postgres) { Database = _database, Timeout = 3, MaxPoolSize = 30 }.ConnectionString;
    }

    public static string Postgres => Environment.GetEnvironmentVariable("FALZKUNST_TEST_DB")
        ?? throw new InvalidOperationException("Run the tests by ./test, which starts PostgreSQL and sets FALZKUNST_TEST_DB.");

    /// <summary>What the application is configured with, besides what every test needs.</summary>
    public Dictionary<string, string> Settings { get; init; } = [];

    public Cutter Cutter { get; }

    /// <summary>The studio of Vreni and Tobias, whose name a test may change.</summary>
    public Guid Own { get; } = Guid.CreateVersion7();

    public string Connection { get; }

    /// <summary>How often something that has to come is looked for, ten times a second or more: only what never comes is given up, however slow the
    /// machine is.</summary>
    public const int Tries = 3000;

    /// <summary>The same where a wait is a wait.</summary>
    public static readonly TimeSpan Patience = TimeSpan.FromMinutes(5);

    /// <summary>All tests share one application, one after the other: its queue of jobs is a global of the process.</summary>
    public const string Name = "studio";

    public const string Vreni = "vreni@murmeltier.example", Tobias = "tobias@murmeltier.example", Stranger = "someone@elsewhere.example",
        Password = "fernblick hut";

    protected override void ConfigureWebHost(IWebHostBuilder builder)
    {
        builder.UseSetting("FALZKUNST_DB", Connection);
        builder.UseSetting("FALZKUNST_CUTTER_PORT", _cutterServer.Port.ToString(System.Globalization.CultureInfo.InvariantCulture));
        builder.UseSetting("FALZKUNST_ROUNDS", "3");
        foreach (var (name, value) in Settings) builder.UseSetting(name, value);
        builder.UseSetting("FALZKUNST_DEMO", Path.GetFullPath(Path.Combine(AppContext.BaseDirectory, "../../../../../../demo")));
    }

    /// <summary>An empty database with all migrations in it, made once in a process: each studio has a copy of it.</summary>
    private static readonly Lazy<Task<string>> Template = new(async () =>
    {
        var name = "falz_template_" + Guid.NewGuid().ToString("N");
        await Create(name);
        var connection = new NpgsqlConnectionStringBuilder(Postgres) { Database = name, Pooling = false }.ConnectionString;
        await using var db = new FalzkunstContext(new DbContextOptionsBuilder<FalzkunstContext>().UseNpgsql(connection).Options);
        await db.Database.MigrateAsync();
        return name;
    });

    private static async Task Create(string database, string? like = null)
    {
        await using var admin = new NpgsqlConnection(Postgres);
        await admin.OpenAsync();
        await using var create = new NpgsqlCommand($"CREATE DATABASE {database}" + (like is null ? "" : $" TEMPLATE {like}"), admin);
        await create.ExecuteNonQueryAsync();
    }

    public async ValueTask InitializeAsync()
    {
        _ = Task.Run(() => _cutterServer.RunAsync(_stop.Token));
        await Create(_database, await Template.Value);
        await using var scope = Services.CreateAsyncScope();
        var context = scope.ServiceProvider.GetRequiredService<FalzkunstContext>();
        var people = scope.ServiceProvider.GetRequiredService<People>();
        var own = new Store.Studio { Id = Own, Name = "Papierwerkstatt Murmeltier" };
        var other = new Store.Studio { Id = Guid.CreateVersion7(), Name = "Elsewhere" };
        context.AddRange(own, other);
        context.StudioId = own.Id;
        await Prepare.AddDrawer(context, own.Id, _cutterServer.Port);
        // Its tests use up paper one after the other: none of them is to find the drawer empty.
        await context.SaveChangesAsync();
        await context.Stocks.SelectMany(k => k.Sheets).ExecuteUpdateAsync(u => u.SetProperty(h => h.Count, h => h.Count * 100));
        foreach (var (name, email, of, isOwner) in new[] { ("Vreni Aumann", Vreni, own, true), ("Tobias Lechleitner", Tobias, own, false),
            ("Someone", Stranger, other, true) }) Assert.NotNull((await people.Make(of.Id, isOwner, name, email, Password)).Account);
    }

    /// <summary>With people, and settings, of its own: where some are locked out, removed and made anew.</summary>
    public static async Task Alone(Func<Studio, Task> test, Dictionary<string, string>? settings = null)
    {
        var studio = new Studio { Settings = settings ?? [] };
        await studio.InitializeAsync();
        try
        {
            await test(studio);
        }
        finally
        {
            await studio.DisposeAsync();
        }
    }

    public Visitor Somebody() => new(CreateClient(new() { HandleCookies = true }));

    public async Task<T> In<T>(Func<FalzkunstContext, Task<T>> work)
    {
        await using var scope = Services.CreateAsyncScope();
        return await work(scope.ServiceProvider.GetRequiredService<FalzkunstContext>());
    }

    /// <summary>Stops all runs, and waits for that: a run that a test begins by chance, and leaves, keeps the machine from all that come after it.</summary>
    public async Task EndRuns()
    {
        for (var i = 0; i < Tries; i++)
        {
            await using var scope = Services.CreateAsyncScope();
            var db = scope.ServiceProvider.GetRequiredService<FalzkunstContext>();
            var active = await db.Runs.IgnoreQueryFilters().AsNoTracking().Where(r => RunRow.Active.Contains(r.State)).ToListAsync();
            if (active.Count == 0) return;
            foreach (var run in active)
            {
                db.StudioId = run.StudioId;
                await scope.ServiceProvider.GetRequiredService<Runs>().Stop(run.DocketId, run.Id, default);
            }

            await Task.Delay(100);
        }

        Assert.Fail("A run does not stop.");
    }

    public override async ValueTask DisposeAsync()
    {
        await _stop.CancelAsync();
        await base.DisposeAsync();
        await _cutterServer.DisposeAsync();
        NpgsqlConnection.ClearAllPools();
        await Drop(_database);
    }

    public static async Task Drop(string database)
    {
        await using var admin = new NpgsqlConnection(Postgres);
        await admin.OpenAsync();
        for (var i = 0; ; i++)
        {
            try
            {
                await using var drop = new NpgsqlCommand($"DROP DATABASE IF EXISTS {database} WITH (FORCE)", admin);
                await drop.ExecuteNonQueryAsync();
                return;
            }
            catch (PostgresException e) when (e.SqlState == PostgresErrorCodes.InsufficientPrivilege && i < Tries)
            {
                // The server is tidying it up just now, and we are no superuser who could end that.
                await Task.Delay(200);
            }
        }
    }

    public async Task<Visitor> SignIn(string email = Vreni)
    {
        var visitor = new Visitor(CreateClient(new() { AllowAutoRedirect = true, HandleCookies = true }));
        await visitor.Get("/sign-in");
        await visitor.Post("/sign-in", ("email", email), ("password", Password));
        return visitor;
    }

    internal static int FreePair()
    {
        for (var port = 17_440; ; port += 2)
        {
            try
            {
                using var a = new System.Net.Sockets.TcpListener(IPAddress.Loopback, port);
                using var b = new System.Net.Sockets.TcpListener(IPAddress.Loopback, port + 1);
                a.Start();
                b.Start();
                return port;
            }
            catch (System.Net.Sockets.SocketException)
            {
                // Taken: the next pair.
            }
        }
    }
}

/// <summary>Somebody with a browser without scripts: loads pages, and sends the forms that stand in them.</summary>
public sealed class Visitor(HttpClient http)
{
    public HttpStatusCode Status { get; private set; }

    public string Page { get; private set; } = "";

    public string Url { get; private set; } = "";

    public HttpClient Http => http;

    /// <summary>The page as text without markup.</summary>
    public string Text => WebUtility.HtmlDecode(Regex.Replace(Regex.Replace(Page, "<[^>]+>", " "), @"\s+", " "));

    public async Task<Visitor> Get(string url) => await Take(await http.GetAsync(url));

    /// <summary>Sends a form with the page's antiforgery token and the revision that the page shows.</summary>
    public Task<Visitor> Post(string url, params (string Name, string Value)[] fields) => PostAs(BasedOn, url, fields);

    /// <summary>The id of a thing on the table or in the card: the first (or a later) of a letter, in the order of the page.</summary>
    public string Id(char letter, int nth = 0) => Regex.Matches(Page, $"data-(?:id|ply)=\"({letter}[0-9]+)\"").Select(m => m.Groups[1].Value).Distinct()
        .ElementAt(nth);

    public string BasedOn => Regex.Match(Page, "name=\"basedOn\" value=\"([^\"]*)\"").Groups[1].Value;

    public async Task<Visitor> PostAs(string basedOn, string url, params (string Name, string Value)[] fields)
    {
        var all = fields.Select(f => KeyValuePair.Create(f.Name, f.Value)).Append(new("__RequestVerificationToken", Token)).Append(new("basedOn", basedOn));
        return await Take(await http.PostAsync(url, new FormUrlEncodedContent(all)));
    }

    public async Task<Visitor> Bring(string name, byte[] file)
    {
        using var form = new MultipartFormDataContent { { new StringContent(Token), "__RequestVerificationToken" } };
        form.Add(new ByteArrayContent(file), "file", name);
        return await Send("/dockets", form);
    }

    public async Task<Visitor> Send(string url, MultipartFormDataContent form) => await Take(await http.PostAsync(url, form));

    public async Task WaitFor(string url, string text)
    {
        for (var i = 0; i < Studio.Tries; i++)
        {
            await Get(url);
            if (Text.Contains(text, StringComparison.Ordinal)) return;
            await Task.Delay(100);
        }

        Assert.Fail($"“{text}” did not come at {url}; there is: {Text}");
    }

    public string Token => Regex.Match(Page, "name=\"__RequestVerificationToken\" type=\"hidden\" value=\"([^\"]*)\"").Groups[1].Value;

    private async Task<Visitor> Take(HttpResponseMessage response)
    {
        Status = response.StatusCode;
        Page = await response.Content.ReadAsStringAsync();
        Url = response.RequestMessage!.RequestUri!.PathAndQuery;
        return this;
    }
}

[CollectionDefinition(Studio.Name)]
public sealed class StudioCollection : ICollectionFixture<Studio>;
