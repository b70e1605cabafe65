using Falzkunst.Store;
using Microsoft.AspNetCore.Identity;
using Microsoft.AspNetCore.Mvc;
using Microsoft.AspNetCore.Mvc.RazorPages;
using Microsoft.EntityFrameworkCore;

namespace Falzkunst.Web.Pages;

public sealed class SignInModel(SignInManager<Account> signIn, UserManager<Account> users, SignInLimits limits) : PageModel
{
    /// <summary>The hash of a password that nobody has, so that an unknown address takes as long as a known one.</summary>
    private static readonly Lazy<string> Nobody = new(() => new PasswordHasher<Account>().HashPassword(new(), Guid.NewGuid().ToString()));

    public string Email { get; private set; } = "";

    public string ReturnUrl { get; private set; } = "/dockets";

    public string Problem { get; private set; } = "";

    public async Task<IActionResult> OnGetAsync(string? returnUrl)
    {
        ReturnUrl = Url.IsLocalUrl(returnUrl) ? returnUrl! : "/dockets";
        return await users.Users.AnyAsync() ? Page() : LocalRedirect("/first");
    }

    public async Task<IActionResult> OnPostAsync(string? email, string? password, string? returnUrl, CancellationToken cancel)
    {
        ReturnUrl = Url.IsLocalUrl(returnUrl) ? returnUrl! : "/dockets";
        Email = email?.Trim() ?? "";
        var done = await limits.Try(HttpContext.Connection.RemoteIpAddress, Email, async () =>
        {
            var account = await users.FindByEmailAsync(Email);
            if (account is not null) return (await signIn.PasswordSignInAsync(account, password ?? "", true, false)).Succeeded;
            users.PasswordHasher.VerifyHashedPassword(new(), Nobody.Value, password ?? "");
            return false;
        }, cancel);
        if (done == true) return LocalRedirect(ReturnUrl);
        Problem = done is null ? SignInLimits.TooMany
            : "This e-mail and password do not belong together. Check both; capital letters matter in the password.";
        return Page();
    }

    public async Task<IActionResult> OnPostOutAsync()
    {
        await signIn.SignOutAsync();
        return LocalRedirect("/sign-in");
    }
}
