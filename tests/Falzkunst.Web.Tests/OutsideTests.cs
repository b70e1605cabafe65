using System.Net;
using Microsoft.AspNetCore.Http;
using Microsoft.AspNetCore.TestHost;

namespace Falzkunst.Web.Tests;

/// <summary>The application behind a proxy, and on this computer: whose word it takes, and whom it answers.</summary>
[Collection(Studio.Name)]
public sealed class OutsideTests(Studio plain)
{
    private static Task<HttpContext> Ask(Studio studio, string host, string from, string path = "/sign-in", params (string Name, string Value)[] headers) =>
        studio.Server.SendAsync(c =>
        {
            (c.Request.Method, c.Request.Scheme, c.Request.Host, c.Request.Path) = ("GET", "http", new(host), path);
            c.Connection.RemoteIpAddress = IPAddress.Parse(from);
            foreach (var (name, value) in headers) c.Request.Headers[name] = value;
        });

    private static string Cookies(HttpContext c) => string.Join('\n', c.Response.Headers.SetCookie.ToArray());

    [Fact]
    public Task Behind_a_proxy_cookies_are_secure_and_strict_transport_is_asked_for() => Studio.Alone(async studio =>
    {
        (string, string)[] said = [("X-Forwarded-Proto", "https"), ("X-Forwarded-For", "203.0.113.9"), ("X-Forwarded-Host", "paper.example")];
        var by = await Ask(studio, "127.0.0.1:7400", "10.0.0.7", headers: said);
        Assert.Equal(200, by.Response.StatusCode);
        Assert.Contains("secure", Cookies(by));
        Assert.Contains("max-age", by.Response.Headers.StrictTransportSecurity.ToString());
        // The same words of somebody else are nobody's.
        var liar = await Ask(studio, "127.0.0.1:7400", "203.0.113.4", headers: said);
        Assert.DoesNotContain("secure", Cookies(liar));
        Assert.Empty(liar.Response.Headers.StrictTransportSecurity.ToString());
        Assert.Equal(400, (await Ask(studio, "evil.example", "10.0.0.7")).Response.StatusCode);
        // A host that the proxy was told, and is not ours, is not believed.
        var told = await Ask(studio, "127.0.0.1:7400", "10.0.0.7", "/dockets", ("X-Forwarded-Host", "evil.example"));
        Assert.DoesNotContain("evil.example", told.Response.Headers.Location.ToString());
    }, new() { ["FALZKUNST_ADDRESS"] = "https://paper.example", ["FALZKUNST_PROXY"] = "10.0.0.7, ::1" });

    [Fact]
    public async Task Without_a_proxy_nobodys_word_is_taken()
    {
        var c = await Ask(plain, "127.0.0.1:7400", "127.0.0.1", headers: ("X-Forwarded-Proto", "https"));
        Assert.Equal(200, c.Response.StatusCode);
        Assert.DoesNotContain("secure", Cookies(c));
    }
}
