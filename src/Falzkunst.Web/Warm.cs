using System.Security.Claims;
using Falzkunst.Store;
using Microsoft.EntityFrameworkCore;
using Serilog;

namespace Falzkunst.Web;

/// <summary>What would take its time for the first who asks is done once before anybody does: the list of dockets is written, for nobody.</summary>
public static class Warm
{
    public static async Task Up(WebApplication app)
    {
        var list = ((IEndpointRouteBuilder)app).DataSources.SelectMany(d => d.Endpoints).OfType<RouteEndpoint>()
            .First(e => e.RoutePattern.RawText == "dockets");
        await using var scope = app.Services.CreateAsyncScope();
        try
        {
            var db = scope.ServiceProvider.GetRequiredService<FalzkunstContext>();
            db.StudioId = await db.Studios.OrderBy(s => s.Id).Select(s => s.Id).FirstOrDefaultAsync();
            var nobody = new DefaultHttpContext
            {
                RequestServices = scope.ServiceProvider,
                User = new(new ClaimsIdentity([new(StudioClaims.Name, "Nobody")], "warming up")),
            };
            nobody.Request.Method = HttpMethods.Get;
            nobody.Request.Path = "/dockets";
            nobody.SetEndpoint(list);
            await list.RequestDelegate!(nobody);
        }
        catch (Exception e)
        {
            // Nothing that goes wrong here is a reason not to start: the first who asks is told.
            Log.Warning(e, "The list of dockets was not warmed up");
        }
    }
}
