using Falzkunst.Store;
using Microsoft.AspNetCore.Identity;
using Microsoft.AspNetCore.Mvc.RazorPages;

namespace Falzkunst.Web.Pages;

/// <summary>For whoever does not know his password any more. It answers alike, and as fast, whether or not there is such an account.</summary>
public sealed class LostModel(Letters letters, SignInLimits limits, IServiceScopeFactory scopes, IConfiguration configuration) : PageModel
{
    public bool CanSend => letters.CanSend;

    public string Said { get; private set; } = "";

    public string Problem { get; private set; } = "";

    public async Task OnPostAsync(string? email, CancellationToken cancel)
    {
        email = email?.Trim() ?? "";
        if (!CanSend) return;
        if (People.MailFault(email) is { } fault)
        {
            Problem = fault;
            return;
        }

        // Counted as a try to sign in in vain is.
        if (await limits.Try(HttpContext.Connection.RemoteIpAddress, "lost " + email, () => Task.FromResult(false), cancel) is null)
        {
            Problem = SignInLimits.TooMany;
            return;
        }

        _ = Task.Run(() => Send(scopes, email, PublicAddress.Of(configuration)), CancellationToken.None);
        Said = "If somebody signs in with that address here, a link is on its way to it. It works once, until tomorrow.";
    }

    private static async Task Send(IServiceScopeFactory scopes, string email, string address)
    {
        try
        {
            await using var scope = scopes.CreateAsyncScope();
            var people = scope.ServiceProvider.GetRequiredService<People>();
            if (await scope.ServiceProvider.GetRequiredService<UserManager<Account>>().FindByEmailAsync(email) is not { Email: { } to } account
                || await people.WasJustGiven(account)) return;
            var secret = await people.NewPassword(account, null);
            await scope.ServiceProvider.GetRequiredService<Letters>().Send(to, "A new password for Falzkunst",
                $"With this link you choose a new password, once, until tomorrow:\n{address}/enter/{secret}\n\nIf you did not ask for it, do nothing: "
                    + "your password stays as it is.");
        }
        catch (Exception e) when (Database.IsDown(e))
        {
            Serilog.Log.Warning("The database does not answer: no link was sent to {Email}", email);
        }
    }
}
