using Falzkunst.Store;
using Microsoft.AspNetCore.Identity;
using Microsoft.AspNetCore.Mvc;
using Microsoft.AspNetCore.Mvc.RazorPages;
using Microsoft.EntityFrameworkCore;

namespace Falzkunst.Web.Pages;

/// <summary>Where a link leads that lets somebody in once: into a studio, or to a new password.</summary>
[ResponseCache(NoStore = true)]
public sealed class EnterModel(FalzkunstContext db, People people, SignInManager<Account> signIn) : PageModel
{
    /// <summary>Null where the link lets nobody in.</summary>
    public EntryLink? Link { get; private set; }

    public string Workshop { get; private set; } = "";

    public string FullName { get; private set; } = "";

    public string Email { get; private set; } = "";

    public string Problem { get; private set; } = "";

    public async Task OnGetAsync(string? secret, CancellationToken cancel)
    {
        Link = await people.Find(secret ?? "", cancel);
        // An invitation that says for whom it is has the address already.
        if (Link is { AccountId: null } && People.MailFault(Link.For) is null) Email = Link.For;
        if (Link is not null) Workshop = await db.Studios.Where(s => s.Id == Link.StudioId).Select(s => s.Name).FirstAsync(cancel);
    }

    public async Task<IActionResult> OnPostAsync(string? secret, string? name, string? email, string? password, CancellationToken cancel)
    {
        await OnGetAsync(secret, cancel);
        if (Link is null) return Page();
        (FullName, Email) = (name?.Trim() ?? "", email?.Trim() ?? "");
        var (account, problem) = Link.AccountId is null ? await people.Join(secret!, FullName, Email, password, cancel)
            : await people.SetPassword(secret!, password, cancel);
        if (account is null)
        {
            Problem = problem;
            return Page();
        }

        await signIn.SignInAsync(account, true);
        return LocalRedirect("/dockets");
    }
}
