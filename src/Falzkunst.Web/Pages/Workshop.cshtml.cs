using System.Globalization;
using System.Security.Claims;
using Falzkunst.Store;
using Microsoft.AspNetCore.Identity;
using Microsoft.AspNetCore.Mvc;
using Microsoft.EntityFrameworkCore;

namespace Falzkunst.Web.Pages;

/// <summary>Who works in the workshop, its name, and its end.</summary>
[OwnersOnly]
public sealed class WorkshopModel(FalzkunstContext db, People people, UserManager<Account> users, SignInManager<Account> signIn, Letters letters,
    IConfiguration configuration) : RoomPage
{
    public string Name { get; private set; } = "";

    public List<Account> People { get; private set; } = [];

    public List<EntryLink> Links { get; private set; } = [];

    [TempData]
    public string? Notice { get; set; }

    /// <summary>A link that was just made. It is shown with the answer that made it, and never again.</summary>
    public string? Fresh { get; private set; }

    public string? FreshFor { get; private set; }

    /// <summary>What became of the mail with it; null where none was to be sent.</summary>
    public string? Sent { get; private set; }

    public bool IsDeleting { get; private set; }

    public bool IsLastOwner(Account person) => person.IsOwner && People.Count(p => p.IsOwner) == 1;

    public bool CanSend => letters.CanSend;

    public Guid Me => Guid.Parse(User.FindFirstValue(ClaimTypes.NameIdentifier)!);

    public static string Day(DateTimeOffset at) => at.ToLocalTime().ToString("d MMMM, HH:mm", CultureInfo.InvariantCulture);

    public Task OnGetAsync(CancellationToken cancel) => Show(cancel);

    protected override async Task Show(CancellationToken cancel)
    {
        Name = await db.Studios.Where(s => s.Id == db.StudioId).Select(s => s.Name).FirstAsync(cancel);
        People = await db.Users.AsNoTracking().Where(u => u.StudioId == db.StudioId).OrderBy(u => u.FullName).ThenBy(u => u.Id).ToListAsync(cancel);
        var now = DateTimeOffset.UtcNow;
        Links = await db.EntryLinks.AsNoTracking().Where(e => e.EndsAt > now).OrderBy(e => e.EndsAt).ToListAsync(cancel);
    }

    public async Task<IActionResult> OnPostNameAsync(string? name, CancellationToken cancel)
    {
        name = name?.Trim() ?? "";
        if (name.Length is 0 or > 80) return await Say("A workshop has a name of 1 to 80 letters.", cancel);
        await db.Studios.Where(s => s.Id == db.StudioId).ExecuteUpdateAsync(u => u.SetProperty(s => s.Name, name), cancel);
        return Done("The workshop is called that from now on.");
    }

    public async Task<IActionResult> OnPostInviteAsync([FromForm(Name = "for")] string? whom, bool owner, CancellationToken cancel)
    {
        whom = whom?.Trim() ?? "";
        if (whom.Length is 0 or > 200) return await Say("Say for whom the link is, in 1 to 200 letters.", cancel);
        return await Show(await people.Invite(owner, whom, Me, cancel), whom, Web.People.MailFault(whom) is null ? whom : null, cancel);
    }

    public async Task<IActionResult> OnPostPasswordAsync(Guid id, CancellationToken cancel)
    {
        if (await db.Users.FirstOrDefaultAsync(u => u.Id == id && u.StudioId == db.StudioId, cancel) is not { } account) return NotFound();
        return await Show(await people.NewPassword(account, Me, cancel), account.FullName, account.Email, cancel);
    }

    public async Task<IActionResult> OnPostWithdrawAsync(Guid id, CancellationToken cancel)
    {
        await db.EntryLinks.Where(e => e.Id == id).ExecuteDeleteAsync(cancel);
        return Done("That link lets nobody in any more.");
    }

    public async Task<IActionResult> OnPostRoleAsync(Guid id, bool owner, CancellationToken cancel) =>
        await After(await people.SetOwner(id, owner, cancel), id, owner ? "An owner from now on." : "A maker from now on.", cancel);

    public async Task<IActionResult> OnPostRemoveAsync(Guid id, CancellationToken cancel) =>
        await After(await people.Remove(id, cancel), id, "Removed. Wherever they were signed in, they are not any more; what they made stays.", cancel);

    public async Task<IActionResult> OnPostDeleteAsync(string? name, string? password, CancellationToken cancel)
    {
        IsDeleting = true;
        await OnGetAsync(cancel);
        if (name?.Trim() != Name) return await Say("That is not the workshop's name.", cancel);
        if (await users.GetUserAsync(User) is not { } me || !await users.CheckPasswordAsync(me, password ?? "")) return await Say("That is not your password.",
            cancel);
        await using (var all = await db.Database.BeginTransactionAsync(cancel))
        {
            await Web.People.Hold(db, cancel);
            if (await db.Runs.AnyAsync(r => RunRow.Active.Contains(r.State), cancel))
                return await Say("A run is not over. Finish or stop it first.", cancel);
            // Dockets first: what they refer to goes only after they do.
            await db.Dockets.IgnoreQueryFilters().Where(d => d.StudioId == db.StudioId).ExecuteDeleteAsync(cancel);
            await db.Studios.Where(s => s.Id == db.StudioId).ExecuteDeleteAsync(cancel);
            await all.CommitAsync(cancel);
        }

        await signIn.SignOutAsync();
        return LocalRedirect("/sign-in");
    }

    private async Task<IActionResult> After(string? outcome, Guid whom, string notice, CancellationToken cancel)
    {
        if (outcome is null) return NotFound();
        if (outcome.Length > 0) return await Say(outcome, cancel);
        // Who is no owner any more, or gone, sees this page no more.
        return whom == Me ? LocalRedirect("/dockets") : Done(notice);
    }

    private async Task<IActionResult> Show(string secret, string whom, string? email, CancellationToken cancel)
    {
        (Fresh, FreshFor) = ($"{PublicAddress.Of(configuration)}/enter/{secret}", whom);
        await OnGetAsync(cancel);
        if (CanSend && email is not null)
        {
            Sent = await letters.Send(email, $"Come to {Name}", $"With this link you come to {Name} at Falzkunst. It works once:\n{Fresh}")
                ? $"It is on its way to {email} too." : $"The mail to {email} could not be sent: give the link yourself.";
        }

        return Page();
    }

    private RedirectToPageResult Done(string notice)
    {
        Notice = notice;
        return RedirectToPage();
    }
}
