using System.Net;
using System.Security.Claims;
using System.Threading.RateLimiting;
using Falzkunst.Store;
using Microsoft.AspNetCore.Authentication;
using Microsoft.AspNetCore.Authentication.Cookies;
using Microsoft.AspNetCore.Authorization;
using Microsoft.AspNetCore.Identity;
using Microsoft.EntityFrameworkCore;

namespace Falzkunst.Web;

/// <summary>
/// How often somebody may try to sign in in vain: thirty times in five minutes from an address, ten of them at one account, and two at once. It counts tries
/// whether or not there is such an account, and never by the account alone: no stranger can lock a person out from elsewhere.
/// </summary>
public sealed class SignInLimits : IDisposable
{
    public const string TooMany = "There were too many tries from here. Wait five minutes, then try again.";

    private static readonly TimeSpan Window = TimeSpan.FromMinutes(5);

    private readonly PartitionedRateLimiter<(string Address, string Email)> _turns =
        PartitionedRateLimiter.Create<(string Address, string Email), (string, string)>(t => RateLimitPartition.GetConcurrencyLimiter(t,
            _ => new() { PermitLimit = 2, QueueLimit = 20 }));

    private readonly PartitionedRateLimiter<(string Address, string Email)> _vain = PartitionedRateLimiter.CreateChained(
        PartitionedRateLimiter.Create<(string Address, string Email), string>(t => RateLimitPartition.GetSlidingWindowLimiter(t.Address,
            _ => new() { PermitLimit = 30, Window = Window, SegmentsPerWindow = 5 })),
        PartitionedRateLimiter.Create<(string Address, string Email), (string, string)>(t => RateLimitPartition.GetSlidingWindowLimiter(t,
            _ => new() { PermitLimit = 10, Window = Window, SegmentsPerWindow = 5 })));

    /// <summary>Lets somebody try. Null where there were too many tries in vain; then nothing was tried.</summary>
    public async Task<bool?> Try(IPAddress? address, string email, Func<Task<bool>> signIn, CancellationToken cancel)
    {
        var who = (address?.ToString() ?? "here", email.ToUpperInvariant());
        // One after the other, so that a hundred at once are not all let through before the first is counted.
        using var turn = await _turns.AcquireAsync(who, 1, cancel);
        if (!turn.IsAcquired) return null;
        using (var left = _vain.AttemptAcquire(who, 0))
            if (!left.IsAcquired) return null;
        if (await signIn()) return true;
        using var counted = _vain.AttemptAcquire(who);
        return false;
    }

    public void Dispose()
    {
        _turns.Dispose();
        _vain.Dispose();
    }
}

/// <summary>Ends sign-ins at once when the account is gone or its security stamp is another: a changed password, sign-out everywhere. Whether it is an owner's
/// is asked of the database, and never believed of a cookie.</summary>
public static class SignInCheck
{
    /// <summary>Whether somebody who signed in is an owner now; null where the sign-in has ended.</summary>
    public static async Task<bool?> Of(ClaimsPrincipal claims, IServiceProvider services, CancellationToken cancel)
    {
        if (!Guid.TryParse(claims.FindFirstValue(ClaimTypes.NameIdentifier), out var id)) return null;
        var stamp = services.GetRequiredService<Microsoft.Extensions.Options.IOptions<IdentityOptions>>().Value.ClaimsIdentity.SecurityStampClaimType;
        var now = await services.GetRequiredService<FalzkunstContext>().Users.Where(u => u.Id == id).Select(u => new { u.SecurityStamp, u.IsOwner })
            .FirstOrDefaultAsync(cancel);
        return now?.SecurityStamp is { } current && current == claims.FindFirstValue(stamp) ? now.IsOwner : null;
    }

    public static async Task Validate(CookieValidatePrincipalContext context)
    {
        // What everybody may see is not looked up.
        if (context.HttpContext.GetEndpoint()?.Metadata.GetMetadata<IAllowAnonymous>() is not null) return;
        var claims = context.Principal!;
        if (await Of(claims, context.HttpContext.RequestServices, context.HttpContext.RequestAborted) is { } isOwner)
        {
            var identity = (ClaimsIdentity)claims.Identity!;
            foreach (var role in identity.FindAll(identity.RoleClaimType).ToList()) identity.RemoveClaim(role);
            if (isOwner) identity.AddClaim(new(identity.RoleClaimType, OwnersOnlyAttribute.Owner));
            return;
        }

        context.RejectPrincipal();
        await context.HttpContext.SignOutAsync(IdentityConstants.ApplicationScheme);
    }
}
