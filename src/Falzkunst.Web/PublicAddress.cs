using System.Net;
using Microsoft.AspNetCore.HostFiltering;
using Microsoft.AspNetCore.HttpOverrides;

namespace Falzkunst.Web;

/// <summary>
/// Where the application is reached, by its configuration: FALZKUNST_ADDRESS ("https://paper.example") is what links are made of and the only host, besides
/// this computer, that is answered; FALZKUNST_PROXY names the addresses of the proxies in front of it, by commas, whose word is taken for who asks, and how.
/// </summary>
public static class PublicAddress
{
    /// <summary>The address that links begin with, without a slash at its end: as it is configured, otherwise where the application listens. Never what a
    /// request says: a stranger could have links to a place of his own made in our name.</summary>
    public static string Of(IConfiguration configuration)
    {
        if (configuration["FALZKUNST_ADDRESS"] is { Length: > 0 } address) return address.TrimEnd('/');
        var listens = configuration["urls"]?.Split(';', StringSplitOptions.TrimEntries | StringSplitOptions.RemoveEmptyEntries).FirstOrDefault();
        return Uri.TryCreate(listens?.Replace("://*", "://127.0.0.1", StringComparison.Ordinal).Replace("://+", "://127.0.0.1", StringComparison.Ordinal)
            .Replace("://0.0.0.0", "://127.0.0.1", StringComparison.Ordinal), UriKind.Absolute, out var uri)
            ? $"{uri.Scheme}://{uri.Authority}" : "http://127.0.0.1:7400";
    }

    /// <exception cref="InvalidOperationException">What is configured is no address.</exception>
    public static void Configure(IServiceCollection services, IConfiguration configuration)
    {
        string[] hosts = [];
        if (configuration["FALZKUNST_ADDRESS"] is { Length: > 0 } address)
        {
            if (!Uri.TryCreate(address, UriKind.Absolute, out var uri) || uri.Scheme is not ("http" or "https"))
                throw new InvalidOperationException($"FALZKUNST_ADDRESS is an address such as https://paper.example, not {address}.");
            hosts = [uri.Host, "localhost", "127.0.0.1", "[::1]"];
            // AllowedHosts, the framework's own setting, goes before.
            if (configuration["AllowedHosts"] is null or "" or "*") services.PostConfigure<HostFilteringOptions>(o => o.AllowedHosts = hosts);
        }

        if (configuration["FALZKUNST_PROXY"] is not { Length: > 0 } proxies) return;
        services.Configure<ForwardedHeadersOptions>(o =>
        {
            o.ForwardedHeaders = ForwardedHeaders.XForwardedFor | ForwardedHeaders.XForwardedProto | ForwardedHeaders.XForwardedHost;
            o.AllowedHosts = hosts;
            o.KnownProxies.Clear();
            o.KnownIPNetworks.Clear();
            foreach (var proxy in proxies.Split(',', StringSplitOptions.TrimEntries | StringSplitOptions.RemoveEmptyEntries))
                o.KnownProxies.Add(IPAddress.TryParse(proxy, out var ip) ? ip
                    : throw new InvalidOperationException($"FALZKUNST_PROXY holds addresses such as 127.0.0.1, not {proxy}."));
        });
    }
}
