using System.Net;
using Falzkunst.Core.Runs;
using Falzkunst.Store;
using Microsoft.AspNetCore.Identity;
using Microsoft.AspNetCore.Mvc;
using Microsoft.AspNetCore.Mvc.RazorPages;
using Microsoft.EntityFrameworkCore;

namespace Falzkunst.Web.Pages;

/// <summary>The first page of a workshop of one's own: asks for the owner's account, once, and only from this machine.</summary>
public sealed class FirstModel(FalzkunstContext db, People people, SignInManager<Account> signIn) : PageModel
{
    // Two who do it at the same instant come one after the other, and the second finds that it is done.
    private const long LockOfFirst = 0x46616C7A;

    public string Workshop { get; private set; } = "";

    public string FullName { get; private set; } = "";

    public string Email { get; private set; } = "";

    public string Problem { get; private set; } = "";

    /// <summary>Whether who asks sits at this machine; a proxy in front says for whom it asks.</summary>
    public bool IsHere => (HttpContext.Connection.RemoteIpAddress is not { } ip || IPAddress.IsLoopback(ip))
        && !Request.Headers.ContainsKey("X-Forwarded-For") && !Request.Headers.ContainsKey("Forwarded");

    public async Task<IActionResult> OnGetAsync() => await db.Users.AnyAsync() ? LocalRedirect("/sign-in") : Page();

    public async Task<IActionResult> OnPostAsync(string? workshop, string? name, string? email, string? password, CancellationToken cancel)
    {
        (Workshop, FullName, Email) = (workshop?.Trim() ?? "", name?.Trim() ?? "", email?.Trim() ?? "");
        if (!IsHere) return Page();
        if (Workshop.Length is 0 or > 80) return Say("A workshop has a name of 1 to 80 letters.");
        await using var both = await db.Database.BeginTransactionAsync(cancel);
        await db.Database.ExecuteSqlAsync($"SELECT pg_advisory_xact_lock({LockOfFirst})", cancel);
        if (await db.Users.AnyAsync(cancel)) return LocalRedirect("/sign-in");
        var studio = new Studio { Id = Guid.CreateVersion7(), Name = Workshop };
        db.StudioId = studio.Id;
        db.Studios.Add(studio);
        Prepare.AddTools(db, studio.Id);
        await db.SaveChangesAsync(cancel);
        var (account, problem) = await people.Make(studio.Id, true, FullName, Email, password);
        if (account is null) return Say(problem);
        await both.CommitAsync(cancel);
        await signIn.SignInAsync(account, true);
        return LocalRedirect("/dockets");
    }

    private PageResult Say(string problem)
    {
        Problem = problem;
        return Page();
    }
}
