using System.Net;
using System.Reflection;
using System.Text.RegularExpressions;
using Falzkunst.Store;
using Microsoft.AspNetCore.Authorization;
using Microsoft.AspNetCore.Http.Metadata;
using Microsoft.AspNetCore.Mvc.RazorPages;
using Microsoft.AspNetCore.Routing;
using Microsoft.EntityFrameworkCore;
using Microsoft.Extensions.DependencyInjection;

namespace Falzkunst.Web.Tests;

/// <summary>Who gets in, and who does not any more. Each with people of its own, since they are locked out, removed and made anew.</summary>
[Collection(Studio.Name)]
public sealed class AccountTests(Studio shared)
{
    private static async Task<bool> IsIn(Visitor v)
    {
        await v.Get("/dockets");
        return v.Url == "/dockets";
    }

    [Fact]
    public Task A_changed_password_and_sign_out_everywhere_end_the_other_sign_ins_at_once() => Studio.Alone(async studio =>
    {
        var (here, there) = (await studio.SignIn(), await studio.SignIn());
        Assert.True(await IsIn(here) && await IsIn(there));
        await here.Get("/account");
        await here.Post("/account?handler=Password", ("password", "not this one"), ("next", "fresh paper hut"));
        Assert.Contains("not your password", here.Text);
        Assert.True(await IsIn(there));
        await here.Get("/account");
        await here.Post("/account?handler=Password", ("password", Studio.Password), ("next", "fresh paper hut"));
        Assert.Contains("is changed", here.Text);
        Assert.True(await IsIn(here));
        Assert.False(await IsIn(there));
        await there.Post("/sign-in", ("email", Studio.Vreni), ("password", "fresh paper hut"));
        Assert.True(await IsIn(there));
        await here.Get("/account");
        await here.Post("/account?handler=Everywhere");
        Assert.True(await IsIn(here));
        Assert.False(await IsIn(there));
        // A name is nobody's sign-in; a mail that another has is refused.
        await here.Get("/account");
        await here.Post("/account?handler=Name", ("name", "Vreni A."));
        Assert.Contains("Vreni A.", here.Text);
        await here.Post("/account?handler=Mail", ("email", Studio.Tobias), ("password", "fresh paper hut"));
        Assert.Contains("Nothing was changed", here.Text);
        // An account that is removed is out, whatever cookie somebody has kept.
        await using var scope = studio.Services.CreateAsyncScope();
        await scope.ServiceProvider.GetRequiredService<FalzkunstContext>().Users.Where(u => u.Email == Studio.Vreni).ExecuteDeleteAsync();
        Assert.False(await IsIn(here));
    });

    [Fact]
    public Task Tries_to_sign_in_have_a_limit_that_is_the_same_for_known_and_unknown() => Studio.Alone(async studio =>
    {
        foreach (var email in new[] { Studio.Vreni, "nobody@nowhere.example" })
        {
            var v = studio.Somebody();
            await v.Get("/sign-in");
            for (var i = 0; i < 10; i++)
            {
                await v.Post("/sign-in", ("email", email), ("password", $"try {i}"));
                Assert.Contains("do not belong together", v.Text);
            }

            await v.Post("/sign-in", ("email", email), ("password", Studio.Password));
            Assert.Contains("too many tries from here", v.Text);
        }

        // Others at the same place come in.
        Assert.True(await IsIn(await studio.SignIn(Studio.Tobias)));
    });

    [Fact]
    public Task The_first_account_is_made_once_and_only_here() => Studio.Alone(async studio =>
    {
        await using (var scope = studio.Services.CreateAsyncScope())
        {
            var db = scope.ServiceProvider.GetRequiredService<FalzkunstContext>();
            await db.Users.ExecuteDeleteAsync();
            await db.Studios.ExecuteDeleteAsync();
        }

        var people = Enumerable.Range(0, 2).Select(_ => studio.Somebody()).ToList();
        foreach (var p in people)
        {
            await p.Get("/dockets");
            Assert.Contains("A workshop of your own", p.Text);
        }

        var far = new Visitor(studio.CreateClient());
        far.Http.DefaultRequestHeaders.Add("X-Forwarded-For", "203.0.113.9");
        await far.Get("/first");
        Assert.Contains("on the computer that Falzkunst runs on", far.Text);
        await people[0].Post("/first", ("workshop", "Hut"), ("name", "Nora"), ("email", "nora@hut.example"), ("password", "short"));
        Assert.Contains("at least 10", people[0].Text);
        await Task.WhenAll(people.Select((p, i) => p.Post("/first", ("workshop", $"Hut {i}"), ("name", "Nora"), ("email", $"nora{i}@hut.example"),
            ("password", "folded paper"))));
        await using var after = studio.Services.CreateAsyncScope();
        var now = after.ServiceProvider.GetRequiredService<FalzkunstContext>();
        Assert.Equal((1, 1), (await now.Users.CountAsync(), await now.Studios.CountAsync()));
        Assert.Single(await Task.WhenAll(people.Select(IsIn)), inside => inside);
        await far.Get("/first");
        Assert.Contains("Sign in", far.Text);
        // Its workshop has tools and no machine, and says what to do.
        var owner = await IsIn(people[0]) ? people[0] : people[1];
        await owner.Get("/machines");
        Assert.Contains("There is no machine yet", owner.Text);
        await owner.Post("/machines?handler=Save", ("name", "Nora's cutter"), ("width", "12in"), ("height", "24in"), ("holders", "1"), ("speed", "80"),
            ("travel", "160"), ("port", "99999"));
        Assert.Contains("A port is a number", owner.Text);
        await owner.Post("/machines?handler=Save", ("name", "Nora's cutter"), ("width", "12in"), ("height", "24in"), ("holders", "1"), ("speed", "80"),
            ("travel", "160"), ("port", "9"));
        Assert.Contains("does not answer", owner.Text);
        await owner.Post("/machines?handler=Remove", ("id", Regex.Match(owner.Page, "\\?machine=([0-9a-f-]+)").Groups[1].Value));
        Assert.Contains("There is no machine yet", owner.Text);
    });

    [Fact]
    public async Task Every_address_refuses_strangers_and_those_who_are_not_signed_in()
    {
        var v = await shared.SignIn();
        await v.Get("/dockets");
        await v.Bring("mine.svg", "<svg xmlns='http://www.w3.org/2000/svg' width='9mm' height='9mm'><rect width='9' height='9'/></svg>"u8.ToArray());
        var number = Regex.Match(v.Url, @"\d+").Value;
        var (stranger, maker) = (await shared.SignIn(Studio.Stranger), await shared.SignIn(Studio.Tobias));
        var nobody = shared.CreateClient(new() { AllowAutoRedirect = false });
        // Somebody who was removed, and still has the cookie.
        await using (var scope = shared.Services.CreateAsyncScope())
        {
            var people = scope.ServiceProvider.GetRequiredService<People>();
            Assert.NotNull((await people.Make(shared.Own, true, "Gone", "gone@murmeltier.example", Studio.Password)).Account);
        }

        var gone = await shared.SignIn("gone@murmeltier.example");
        Assert.True(await IsIn(gone));
        await shared.In(db => db.Users.Where(u => u.Email == "gone@murmeltier.example").ExecuteDeleteAsync());
        var (seen, forOwners) = (0, 0);
        foreach (var endpoint in shared.Services.GetRequiredService<EndpointDataSource>().Endpoints.OfType<RouteEndpoint>())
        {
            if (endpoint.Metadata.GetMetadata<IAllowAnonymous>() is not null) continue;
            var route = endpoint.RoutePattern.RawText!;
            var url = "/" + Regex.Replace(route, @"\{(\w+)(:[^}]*)?\}", m => m.Groups[1].Value switch
            {
                "number" => number,
                "format" => "svg",
                "index" => "0",
                "hash" => new string('a', 64),
                "name" => "sheet-1.svg",
                _ => Guid.NewGuid().ToString(),
            }).TrimStart('/');
            seen++;
            foreach (var method in new[] { HttpMethod.Get, HttpMethod.Post })
            {
                using var closed = await nobody.SendAsync(new(method, url));
                Assert.True(closed.StatusCode is HttpStatusCode.Redirect or HttpStatusCode.Unauthorized or HttpStatusCode.MethodNotAllowed,
                    $"{method} {url}: {closed.StatusCode}");
                if (closed.StatusCode == HttpStatusCode.Redirect) Assert.Contains("/sign-in", closed.Headers.Location!.ToString());
            }

            await gone.Get(url);
            Assert.True(gone.Url.StartsWith("/sign-in", StringComparison.Ordinal)
                || gone.Status is HttpStatusCode.Unauthorized or HttpStatusCode.MethodNotAllowed, $"{url}: {gone.Status}");

            forOwners += await RefusesMakers(maker, endpoint, url);
            if (!route.Contains("{number", StringComparison.Ordinal)) continue;
            await stranger.Get(url);
            Assert.True(stranger.Status is HttpStatusCode.NotFound or HttpStatusCode.BadRequest or HttpStatusCode.NoContent
                || stranger.Page.Contains("event: done", StringComparison.Ordinal), $"{url}: {stranger.Status}");
            if (endpoint.Metadata.GetMetadata<PageActionDescriptor>() is null) continue;
            await stranger.Get("/dockets");
            await stranger.Post(url + "?handler=Name", ("name", "taken"));
            Assert.Equal(HttpStatusCode.NotFound, stranger.Status);
        }

        Assert.True(seen > 20 && forOwners > 10, $"{seen} addresses, {forOwners} for owners");
    }

    /// <summary>Tries, as a maker, all that is only for owners at an address; finds it by what the application itself says of it.</summary>
    private static async Task<int> RefusesMakers(Visitor maker, RouteEndpoint endpoint, string url)
    {
        var page = endpoint.Metadata.GetMetadata<CompiledPageActionDescriptor>();
        var whole = page?.HandlerTypeInfo.GetCustomAttribute<OwnersOnlyAttribute>() is not null
            || endpoint.Metadata.GetOrderedMetadata<IAuthorizeData>().Any(a => a.Policy == OwnersOnlyAttribute.Owner);
        // All that this page is about is for owners; elsewhere it is single things.
        Assert.Equal(url.StartsWith("/workshop", StringComparison.Ordinal), whole);
        var handlers = page?.HandlerMethods.Where(h => h.HttpMethod == "Post"
            && (whole || h.MethodInfo.GetCustomAttribute<OwnersOnlyAttribute>() is not null)).ToList() ?? [];
        foreach (var handler in handlers)
        {
            await maker.Get("/machines");
            await maker.Post($"{url}?handler={handler.Name}", ("id", Guid.NewGuid().ToString()), ("name", "Mine now"), ("owner", "true"));
            Assert.True(maker.Status == HttpStatusCode.Forbidden, $"{url} {handler.Name}: {maker.Status}");
            Assert.Contains("Only an owner", maker.Text);
        }

        if (!whole) return handlers.Count;
        await maker.Get(url);
        Assert.Equal(HttpStatusCode.Forbidden, maker.Status);
        return handlers.Count + 1;
    }
}
