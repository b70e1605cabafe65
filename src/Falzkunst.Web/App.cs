using System.Security.Claims;
using Falzkunst.Store;
using Hangfire;
using Hangfire.PostgreSql;
using Microsoft.AspNetCore.Authentication;
using Microsoft.AspNetCore.Authorization;
using Microsoft.AspNetCore.DataProtection;
using Microsoft.AspNetCore.Http.Features;
using Microsoft.AspNetCore.Identity;
using Microsoft.AspNetCore.Mvc;
using Microsoft.AspNetCore.ResponseCompression;
using Microsoft.EntityFrameworkCore;
using Microsoft.Extensions.Options;
using Serilog;

namespace Falzkunst.Web;

/// <summary>Puts the application together.</summary>
public static class App
{
    /// <summary>The largest upload in bytes: a file, and a little for the form around it.</summary>
    public const long MostUpload = 52_000_000;

    public static WebApplication Build(string[] args)
    {
        var builder = WebApplication.CreateBuilder(args);
        builder.WebHost.ConfigureKestrel(k => k.Limits.MaxRequestBodySize = MostUpload);
        // It runs from its build output; the assets lie in the source folder then.
        builder.WebHost.UseStaticWebAssets();
        // A database that does not answer is told to people by DatabaseDown; the keys' folder is readable by its owner alone.
        builder.Host.UseSerilog((_, log) => log.MinimumLevel.Warning()
            .MinimumLevel.Override("Microsoft.EntityFrameworkCore.Database.Connection", Serilog.Events.LogEventLevel.Fatal)
            // What failed is told by whoever asked for it; that somebody else was faster is no fault at all.
            .MinimumLevel.Override("Microsoft.EntityFrameworkCore.Database.Command", Serilog.Events.LogEventLevel.Fatal)
            .MinimumLevel.Override("Microsoft.EntityFrameworkCore.Update", Serilog.Events.LogEventLevel.Fatal)
            // Why it did not start is said by whoever starts it.
            .MinimumLevel.Override("Microsoft.Extensions.Hosting.Internal.Host", Serilog.Events.LogEventLevel.Fatal)
            // It says for each page with a form that nobody may keep it, which is so.
            .MinimumLevel.Override("Microsoft.AspNetCore.Antiforgery", Serilog.Events.LogEventLevel.Error)
            .MinimumLevel.Override("Microsoft.AspNetCore.DataProtection", Serilog.Events.LogEventLevel.Error)
            .WriteTo.Console());
        Services(builder.Services, builder.Configuration);
        PublicAddress.Configure(builder.Services, builder.Configuration);
        var app = builder.Build();
        if (builder.Configuration["FALZKUNST_PROXY"] is { Length: > 0 }) app.UseForwardedHeaders();
        // Only told to those who come by https, and never of this computer's own name.
        app.UseHsts();
        app.Use(async (context, next) =>
        {
            var h = context.Response.Headers;
            h.ContentSecurityPolicy = "default-src 'self'; img-src 'self' data:; style-src 'self'; script-src 'self'; font-src 'self'; connect-src 'self'; "
                + "object-src 'none'; base-uri 'none'; frame-ancestors 'none'; form-action 'self'";
            h.XContentTypeOptions = "nosniff";
            h["Referrer-Policy"] = "same-origin";
            await next();
        });
        // A script that sends files itself is told where to go, so that it does not fetch the page in vain.
        app.Use(async (context, next) =>
        {
            if (context.Request.Headers.ContainsKey("X-Sends-Itself"))
            {
                context.Response.OnStarting(() =>
                {
                    if (context.Response.StatusCode != StatusCodes.Status302Found) return Task.CompletedTask;
                    context.Response.StatusCode = StatusCodes.Status204NoContent;
                    context.Response.Headers["HX-Redirect"] = context.Response.Headers.Location;
                    return Task.CompletedTask;
                });
            }

            await next();
        });
        app.UseResponseCompression();
        app.UseStatusCodePagesWithReExecute("/problem/{0}");
        app.UseExceptionHandler("/problem/500");
        app.UseMiddleware<DatabaseDown>();
        app.MapStaticAssets().AllowAnonymous();
        app.UseAuthentication();
        app.Use(async (context, next) =>
        {
            if (Guid.TryParse(context.User.FindFirstValue(StudioClaims.Studio), out var studio))
                context.RequestServices.GetRequiredService<FalzkunstContext>().StudioId = studio;
            await next();
        });
        app.UseAuthorization();
        app.UseMiddleware<PlainInput>();
        app.MapRazorPages().WithStaticAssets();
        Endpoints.Map(app);
        app.Lifetime.ApplicationStarted.Register(() => Collecting(app.Services));
        return app;
    }

    /// <summary>Once a night, what nothing refers to is thrown away. Without a database there is nothing to collect; the next start asks again.</summary>
    private static void Collecting(IServiceProvider services)
    {
        try
        {
            services.GetRequiredService<IRecurringJobManager>().AddOrUpdate<Blobs>("collect", b => b.Collect(CancellationToken.None), Cron.Daily(3));
            services.GetRequiredService<IRecurringJobManager>().AddOrUpdate<DocketShelf>("throw away", d => d.ThrowAway(CancellationToken.None), Cron.Daily(2));
        }
        catch (Exception e) when (Database.IsDown(e))
        {
            Log.Warning("The database does not answer: what is not needed any more is collected after the next start");
        }
    }

    private static void Services(IServiceCollection services, IConfiguration configuration)
    {
        var connection = configuration["FALZKUNST_DB"] ?? "Host=127.0.0.1;Port=7432;Username=falzkunst;Database=falzkunst;Timeout=5";
        services.AddSingleton(TimeProvider.System);
        // Small pictures for previews: what is in use, and no more.
        services.AddMemoryCache(o => o.SizeLimit = 60_000_000);
        services.AddDbContext<FalzkunstContext>(o => o.UseNpgsql(connection));
        services.AddSingleton<OpenDesigns>(_ => new());
        services.AddSingleton(new LayoutRounds(int.TryParse(configuration["FALZKUNST_ROUNDS"], out var rounds) && rounds > 0 ? rounds : null));
        services.AddScoped<Blobs>().AddScoped<KeptThings>().AddScoped<DocketShelf>().AddScoped<Revisions>().AddScoped<Drawer>().AddScoped<SettingsPast>()
            .AddScoped<LayoutJob>().AddScoped<PressJob>()
            .AddScoped<HandLayouts>().AddScoped<LaidTogether>()
            .AddScoped<Runs>().AddScoped<Papers>().AddScoped<Calibrations>()
            .AddScoped<Incoming>().AddScoped<DocketParts>().AddScoped<Watch>();
        services.AddHangfire(h => h.UsePostgreSqlStorage(p => p.UseNpgsqlConnection(connection), new PostgreSqlStorageOptions
        {
            // The database tells when there is a job; looking now and then only covers for a signal that was lost.
            EnableLongPolling = true,
            QueuePollInterval = TimeSpan.FromSeconds(10),
            UseSlidingInvisibilityTimeout = true,
            InvisibilityTimeout = TimeSpan.FromSeconds(30),
        }));
        services.AddSingleton(_ => new Signals(connection)).AddHostedService(s => s.GetRequiredService<Signals>()).AddHostedService<RunKeeper>();
        services.AddSingleton<Inspector>().AddHostedService(s => s.GetRequiredService<Inspector>());
        services.AddHangfireServer(o => o.WorkerCount = 4);
        services.AddResponseCompression(o => o.MimeTypes = [.. ResponseCompressionDefaults.MimeTypes, "image/svg+xml"]);
        services.Configure<BrotliCompressionProviderOptions>(o => o.Level = System.IO.Compression.CompressionLevel.Optimal);
        var keys = configuration["FALZKUNST_KEYS"];
        var protection = services.AddDataProtection().SetApplicationName("Falzkunst");
        if (keys is not null) protection.PersistKeysToFileSystem(new(keys));
        services.AddIdentityCore<Account>(o =>
        {
            o.User.RequireUniqueEmail = true;
            o.Password.RequiredLength = 10;
            o.Password.RequireNonAlphanumeric = o.Password.RequireUppercase = o.Password.RequireDigit = false;
        }).AddEntityFrameworkStores<FalzkunstContext>().AddDefaultTokenProviders().AddSignInManager().AddClaimsPrincipalFactory<StudioClaims>();
        services.AddAuthentication(IdentityConstants.ApplicationScheme).AddCookie(IdentityConstants.ApplicationScheme, o =>
        {
            o.LoginPath = "/sign-in";
            o.Cookie.Name = "falzkunst";
            o.ExpireTimeSpan = TimeSpan.FromDays(14);
            o.Events.OnValidatePrincipal = SignInCheck.Validate;
            o.Events.OnRedirectToAccessDenied = context =>
            {
                context.Response.StatusCode = StatusCodes.Status403Forbidden;
                return Task.CompletedTask;
            };
        });
        services.AddAuthorization(o =>
        {
            o.FallbackPolicy = new AuthorizationPolicyBuilder().RequireAuthenticatedUser().Build();
            o.AddPolicy(OwnersOnlyAttribute.Owner, p => p.RequireRole(OwnersOnlyAttribute.Owner));
        });
        services.AddAntiforgery(o =>
        {
            o.HeaderName = "RequestVerificationToken";
            o.Cookie.SecurePolicy = CookieSecurePolicy.SameAsRequest;
        });
        services.Configure<CookieTempDataProviderOptions>(o => o.Cookie.SecurePolicy = CookieSecurePolicy.SameAsRequest);
        services.Configure<SmtpSettings>(configuration.GetSection("Smtp"));
        services.AddSingleton<Letters>().AddScoped<People>().AddScoped<StudioExport>();
        services.Configure<FormOptions>(o => o.MultipartBodyLengthLimit = MostUpload);
        services.Configure<RouteOptions>(o => o.LowercaseUrls = true);
        services.Configure<RouteHandlerOptions>(o => o.ThrowOnBadRequest = false);
        services.AddRazorPages(o =>
        {
            foreach (var page in new[] { "/SignIn", "/First", "/Enter", "/Lost", "/Problem" }) o.Conventions.AllowAnonymousToPage(page);
        }).AddMvcOptions(o => o.Filters.Add<OwnersOnlyFilter>());
        services.AddSingleton<SignInLimits>().AddSingleton<Presence>();
        services.AddHttpContextAccessor();
        // Whoever stops it does not wait for those who look on.
        services.Configure<HostOptions>(o => o.ShutdownTimeout = TimeSpan.FromSeconds(2.5));
    }
}

/// <summary>Puts the studio and the person's name into the sign-in.</summary>
public sealed class StudioClaims(UserManager<Account> users, IOptions<IdentityOptions> options) : UserClaimsPrincipalFactory<Account>(users, options)
{
    public const string Studio = "studio", Name = "full-name", Unit = "unit";

    /// <summary>What a person sees lengths in: "mm" or "in".</summary>
    public static string UnitOf(ClaimsPrincipal person) => person.FindFirstValue(Unit) == "in" ? "in" : "mm";

    public static LengthUnit LengthUnitOf(ClaimsPrincipal person) => UnitOf(person) == "in" ? LengthUnit.Inch : LengthUnit.Millimetre;

    protected override async Task<ClaimsIdentity> GenerateClaimsAsync(Account user)
    {
        var identity = await base.GenerateClaimsAsync(user);
        identity.AddClaim(new(Studio, user.StudioId.ToString()));
        identity.AddClaim(new(Name, user.FullName));
        identity.AddClaim(new(Unit, user.Unit));
        return identity;
    }
}

/// <summary>While the database does not answer, every page says so in one sentence, tries again by itself, and nothing is lost. So it does while a disk is
/// full.</summary>
public sealed class DatabaseDown(RequestDelegate next, TimeProvider clock)
{
    /// <summary>So long after something found no room, the application is not called well.</summary>
    private static readonly TimeSpan Wary = TimeSpan.FromMinutes(2);

    private static DateTimeOffset _full;

    /// <summary>Whether something found no room on a disk a moment ago.</summary>
    public static bool WasFull(TimeProvider clock) => clock.GetUtcNow() - _full < Wary;

    public async Task InvokeAsync(HttpContext context)
    {
        try
        {
            await next(context);
        }
        catch (Exception e) when (Database.IsDown(e) && !context.Response.HasStarted)
        {
            await Say(context, StatusCodes.Status503ServiceUnavailable, "The database does not answer", """
                <p>Nothing is lost: what was saved is safe, and your last change was not half made. This page tries again every five seconds.</p>
                <p>If it stays like this, start the application again with <code>./start</code>.</p>
                """, "<meta http-equiv=\"refresh\" content=\"5\">");
        }
        catch (Exception e) when (Database.IsFull(e) && !context.Response.HasStarted)
        {
            _full = clock.GetUtcNow();
            await Say(context, StatusCodes.Status507InsufficientStorage, "The disk is full", """
                <p>Nothing is lost: what was saved is safe, and your last change was not half made. Make room on the computer that the application runs on,
                then go back and do the last step again.</p>
                """, "");
        }
    }

    private static Task Say(HttpContext context, int status, string heading, string text, string head)
    {
        context.Response.Clear();
        context.Response.StatusCode = status;
        context.Response.ContentType = "text/html; charset=utf-8";
        if (status == StatusCodes.Status503ServiceUnavailable) context.Response.Headers.RetryAfter = "5";
        return context.Response.WriteAsync($"""
            <!doctype html><html lang="en"><head><meta charset="utf-8"><title>{heading} – Falzkunst</title>{head}
            <link rel="stylesheet" href="/falzkunst.css"></head><body class="plain"><main class="leaf"><h1>{heading}</h1>
            {text}</main></body></html>
            """);
    }
}
