using Microsoft.AspNetCore.Identity;
using Microsoft.AspNetCore.Mvc;

namespace Falzkunst.Web.Pages;

/// <summary>One's own account: name, mail, password, and the sign-ins elsewhere.</summary>
public sealed class AccountModel(UserManager<Store.Account> users, SignInManager<Store.Account> signIn) : RoomPage
{
    public string FullName { get; private set; } = "";

    public string Email { get; private set; } = "";

    [TempData]
    public string? Notice { get; set; }

    public async Task<IActionResult> OnGetAsync() => await Mine() is null ? Challenge() : Page();

    public async Task<IActionResult> OnPostNameAsync(string? name)
    {
        if (await Mine() is not { } me) return Challenge();
        name = name?.Trim() ?? "";
        if (People.NameFault(name) is { } fault) return await Say(fault, default);
        me.FullName = name;
        return await Done(me, await users.UpdateAsync(me), "From now on you are called that.");
    }

    public async Task<IActionResult> OnPostMailAsync(string? email, string? password)
    {
        if (await Mine() is not { } me) return Challenge();
        email = email?.Trim() ?? "";
        if (People.MailFault(email) is { } fault) return await Say(fault, default);
        if (!await users.CheckPasswordAsync(me, password ?? "")) return await Say("That is not your password.", default);
        (me.Email, me.UserName) = (email, email);
        // A new stamp with it: what was signed in with the old address elsewhere ends.
        return await Done(me, await users.UpdateSecurityStampAsync(me), "From now on you sign in with that address.");
    }

    public async Task<IActionResult> OnPostPasswordAsync(string? password, string? next)
    {
        if (await Mine() is not { } me) return Challenge();
        if (!await users.CheckPasswordAsync(me, password ?? "")) return await Say("That is not your password.", default);
        return await Done(me, await users.ChangePasswordAsync(me, password ?? "", next ?? ""),
            "Your password is changed. Wherever else you were signed in, you are not any more.");
    }

    public async Task<IActionResult> OnPostEverywhereAsync()
    {
        if (await Mine() is not { } me) return Challenge();
        return await Done(me, await users.UpdateSecurityStampAsync(me), "Wherever else you were signed in, you are not any more.");
    }

    private async Task<Store.Account?> Mine()
    {
        var me = await users.GetUserAsync(User);
        (FullName, Email) = (me?.FullName ?? "", me?.Email ?? "");
        return me;
    }

    private async Task<IActionResult> Done(Store.Account me, IdentityResult result, string notice)
    {
        if (!result.Succeeded) return await Say(People.FaultOf(result), default);
        await signIn.RefreshSignInAsync(me);
        Notice = notice;
        return RedirectToPage();
    }
}
