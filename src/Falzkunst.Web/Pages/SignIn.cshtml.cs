using Falzkunst.Store;
using Microsoft.AspNetCore.Identity;
using Microsoft.AspNetCore.Mvc;
using Microsoft.AspNetCore.Mvc.RazorPages;

namespace Falzkunst.Web.Pages;

public sealed class SignInModel(SignInManager<Account> signIn, UserManager<Account> users) : PageModel
{
    public string Email { get; private set; } = "";

    public string ReturnUrl { get; private set; } = "/dockets";

    public string Problem { get; private set; } = "";

    public void OnGet(string? returnUrl) => ReturnUrl = Url.IsLocalUrl(returnUrl) ? returnUrl! : "/dockets";

    public async Task<IActionResult> OnPostAsync(string? email, string? password, string? returnUrl)
    {
        OnGet(returnUrl);
        Email = email?.Trim() ?? "";
        var account = await users.FindByEmailAsync(Email);
        var result = account is null ? Microsoft.AspNetCore.Identity.SignInResult.Failed
            : await signIn.PasswordSignInAsync(account, password ?? "", true, true);
        if (result.Succeeded) return LocalRedirect(ReturnUrl);
        Problem = result.IsLockedOut
            ? "There were too many tries. Wait five minutes, then try again."
            : "This e-mail and password do not belong together. Check both; capital letters matter in the password.";
        return Page();
    }

    public async Task<IActionResult> OnPostOutAsync()
    {
        await signIn.SignOutAsync();
        return LocalRedirect("/sign-in");
    }
}
