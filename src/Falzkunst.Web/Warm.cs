using System.Security.Claims;
using Falzkunst.Store;
using Microsoft.EntityFrameworkCore;
using Serilog;

namespace Falzkunst.Web;

/// <summary>What would take its time for the first who asks is done once before anybody does: pages are written, for nobody.</summary>
public static class Warm
{
    /// <summary>The stages whose first page takes longest.</summary>
    private static readonly string[] Stages = ["bring-in", "build", "strengthen"];

    /// <summary>Writes the list of dockets at once, and pages of the first docket as soon as it listens: nobody waits for those.</summary>
    public static async Task Up(WebApplication app)
    {
        await Write(app, "dockets", null);
        app.Lifetime.ApplicationStarted.Register(() => _ = Task.Run(async () =>
        {
            await using var scope = app.Services.CreateAsyncScope();
            var db = scope.ServiceProvider.GetRequiredService<FalzkunstContext>();
            try
            {
                db.StudioId = await First(db);
                var number = await db.Dockets.OrderBy(d => d.Number).Select(d => (int?)d.Number).FirstOrDefaultAsync();
                foreach (var stage in number is null ? [] : Stages) await Write(app, $"dockets/{{number:int}}/{stage}", number);
            }
            catch (Exception e) when (Database.IsDown(e))
            {
                Log.Warning("The database does not answer: the first pages take their time");
            }
        }));
    }

    private static Task<Guid> First(FalzkunstContext db) => db.Studios.OrderBy(s => s.Id).Select(s => s.Id).FirstOrDefaultAsync();

    private static async Task Write(WebApplication app, string route, int? number)
    {
        var page = ((IEndpointRouteBuilder)app).DataSources.SelectMany(d => d.Endpoints).OfType<RouteEndpoint>().First(e => e.RoutePattern.RawText == route);
        await using var scope = app.Services.CreateAsyncScope();
        try
        {
            var db = scope.ServiceProvider.GetRequiredService<FalzkunstContext>();
            db.StudioId = await First(db);
            var nobody = new DefaultHttpContext
            {
                RequestServices = scope.ServiceProvider,
                User = new(new ClaimsIdentity([new(StudioClaims.Name, "Nobody")], "warming up")),
            };
            nobody.Request.Method = HttpMethods.Get;
            nobody.Request.Path = $"/{route.Replace("{number:int}", $"{number}", StringComparison.Ordinal)}";
            // Partial pages are looked for beside the one that these name.
            foreach (var (name, value) in page.RoutePattern.RequiredValues) nobody.Request.RouteValues[name] = value;
            if (number is not null) nobody.Request.RouteValues["number"] = $"{number}";
            nobody.SetEndpoint(page);
            await page.RequestDelegate!(nobody);
        }
        catch (Exception e)
        {
            // Nothing that goes wrong here is a reason not to start: the first who asks is told.
            Log.Warning(e, "The page {Route} was not warmed up", route);
        }
    }
}
