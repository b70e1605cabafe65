using System.ComponentModel.DataAnnotations;
using System.Security.Cryptography;
using System.Text;
using Falzkunst.Store;
using Microsoft.AspNetCore.Identity;
using Microsoft.AspNetCore.WebUtilities;
using Microsoft.EntityFrameworkCore;

namespace Falzkunst.Web;

/// <summary>
/// Who works in a studio: links that let somebody in once, roles, and taking people out. A link's secret is 256 random bits, shown once; the database keeps its
/// hash. Whoever made a link takes it along when he goes.
/// </summary>
public sealed class People(FalzkunstContext db, UserManager<Account> users, TimeProvider clock)
{
    private static readonly TimeSpan InvitationLasts = TimeSpan.FromDays(7), PasswordLinkLasts = TimeSpan.FromDays(1), BetweenMails = TimeSpan.FromMinutes(5);

    public const string LastOwner = "A workshop has one owner at least. Let somebody else be an owner first.";

    /// <summary>What is wrong with a person's name; null where nothing is.</summary>
    public static string? NameFault(string name) => name.Length is 0 or > 80 ? "Your name has 1 to 80 letters." : null;

    /// <summary>What is wrong with an address; null where nothing is.</summary>
    public static string? MailFault(string email) => email.Length > 200 || !new EmailAddressAttribute().IsValid(email) ? "That is no e-mail address." : null;

    /// <summary>What is wrong with an account that was not made or changed, in sentences.</summary>
    public static string FaultOf(IdentityResult result) => string.Join(' ', result.Errors.Select(e => e.Code switch
    {
        nameof(IdentityErrorDescriber.DuplicateEmail) or nameof(IdentityErrorDescriber.DuplicateUserName) => "Somebody signs in with that address already.",
        nameof(IdentityErrorDescriber.PasswordTooShort) => "A password has at least 10 letters.",
        _ => e.Description,
    }).Distinct());

    /// <summary>The account of whoever founds a studio, or comes to one.</summary>
    public async Task<(Account? Account, string Problem)> Make(Guid studioId, bool isOwner, string name, string email, string? password)
    {
        if (NameFault(name) is { } nameless) return (null, nameless);
        if (MailFault(email) is { } unreachable) return (null, unreachable);
        var account = new Account { Id = Guid.CreateVersion7(), UserName = email, Email = email, FullName = name, StudioId = studioId, IsOwner = isOwner };
        try
        {
            var made = await users.CreateAsync(account, password ?? "");
            return made.Succeeded ? (account, "") : (null, FaultOf(made));
        }
        catch (DbUpdateException e) when (Database.IsTaken(e))
        {
            // Two at the same instant; the other was faster.
            return (null, FaultOf(IdentityResult.Failed(new IdentityErrorDescriber().DuplicateEmail(email))));
        }
    }

    /// <summary>A link by which somebody comes to the studio.</summary>
    /// <returns>Its secret.</returns>
    public Task<string> Invite(bool isOwner, string forWhom, Guid madeBy, CancellationToken cancel = default) =>
        Keep(new() { StudioId = db.StudioId, IsOwner = isOwner, For = forWhom, MadeById = madeBy, EndsAt = clock.GetUtcNow() + InvitationLasts }, cancel);

    /// <summary>A link by which a person whose password is lost gives himself a new one. It takes the place of an earlier one.</summary>
    /// <param name="madeBy">The owner who made it; null where it was asked for by command, or by mail.</param>
    /// <returns>Its secret.</returns>
    public async Task<string> NewPassword(Account account, Guid? madeBy, CancellationToken cancel = default)
    {
        await db.EntryLinks.IgnoreQueryFilters().Where(e => e.AccountId == account.Id).ExecuteDeleteAsync(cancel);
        return await Keep(new()
        {
            StudioId = account.StudioId,
            AccountId = account.Id,
            For = account.FullName,
            MadeById = madeBy,
            EndsAt = clock.GetUtcNow() + PasswordLinkLasts,
        }, cancel);
    }

    /// <summary>Whether a person was given a link a moment ago, so that nobody can fill his mailbox.</summary>
    public Task<bool> WasJustGiven(Account account, CancellationToken cancel = default)
    {
        var ends = clock.GetUtcNow() + PasswordLinkLasts - BetweenMails;
        return db.EntryLinks.IgnoreQueryFilters().AnyAsync(e => e.AccountId == account.Id && e.EndsAt > ends, cancel);
    }

    /// <summary>The link of a secret; null where there is none, it was used, or it has ended.</summary>
    public Task<EntryLink?> Find(string secret, CancellationToken cancel = default)
    {
        var (hash, now) = (HashOf(secret), clock.GetUtcNow());
        return db.EntryLinks.IgnoreQueryFilters().AsNoTracking().FirstOrDefaultAsync(e => e.Hash == hash && e.EndsAt > now, cancel);
    }

    /// <summary>Uses an invitation up: makes an account in its studio. Without an account, the problem; the link is then still good.</summary>
    public Task<(Account? Account, string Problem)> Join(string secret, string name, string email, string? password, CancellationToken cancel) =>
        Use(secret, link => Make(link.StudioId, link.IsOwner, name, email, password), cancel);

    /// <summary>Uses a link up for a new password; what is signed in with the old one ends. Without an account, the problem; the link is then still
    /// good.</summary>
    public Task<(Account? Account, string Problem)> SetPassword(string secret, string? password, CancellationToken cancel) => Use(secret, async link =>
    {
        var account = (await users.FindByIdAsync(link.AccountId!.Value.ToString()))!;
        var done = await users.ResetPasswordAsync(account, await users.GeneratePasswordResetTokenAsync(account), password ?? "");
        return done.Succeeded ? (account, "") : (null, FaultOf(done));
    }, cancel);

    /// <summary>Lets a person be an owner, or a maker only.</summary>
    /// <returns>The problem; empty where it was done. Null where there is no such person in the studio.</returns>
    public Task<string?> SetOwner(Guid account, bool isOwner, CancellationToken cancel) => Change(account, !isOwner, async person =>
    {
        await person.ExecuteUpdateAsync(u => u.SetProperty(a => a.IsOwner, isOwner), cancel);
        if (!isOwner) await db.EntryLinks.Where(e => e.MadeById == account).ExecuteDeleteAsync(cancel);
    }, cancel);

    /// <summary>Takes a person out of the studio; wherever he is signed in, he is not any more.</summary>
    /// <returns>As of <see cref="SetOwner"/>.</returns>
    public Task<string?> Remove(Guid account, CancellationToken cancel) => Change(account, true, person => person.ExecuteDeleteAsync(cancel), cancel);

    private async Task<string?> Change(Guid account, bool isOneLess, Func<IQueryable<Account>, Task> change, CancellationToken cancel)
    {
        await using var all = await db.Database.BeginTransactionAsync(cancel);
        await Hold(db, cancel);
        var people = db.Users.Where(a => a.StudioId == db.StudioId);
        if (!await people.AnyAsync(a => a.Id == account, cancel)) return null;
        if (isOneLess && !await people.AnyAsync(a => a.IsOwner && a.Id != account, cancel)) return LastOwner;
        await change(people.Where(a => a.Id == account));
        await all.CommitAsync(cancel);
        return "";
    }

    /// <summary>Holds the studio's row until the transaction ends: of two owners who part at the same instant, the second sees that he is the last.</summary>
    internal static Task Hold(FalzkunstContext db, CancellationToken cancel) =>
        db.Database.SqlQuery<Guid>($"SELECT \"Id\" AS \"Value\" FROM \"Studios\" WHERE \"Id\" = {db.StudioId} FOR UPDATE").ToListAsync(cancel);

    private async Task<(Account? Account, string Problem)> Use(string secret, Func<EntryLink, Task<(Account? Account, string Problem)>> use,
        CancellationToken cancel)
    {
        await using var all = await db.Database.BeginTransactionAsync(cancel);
        // Whoever deletes it has used it; a second one at the same instant finds none.
        if (await Find(secret, cancel) is not { } link || await db.EntryLinks.IgnoreQueryFilters().Where(e => e.Id == link.Id).ExecuteDeleteAsync(cancel) == 0)
            return (null, "This link was used already, or has ended.");
        var done = await use(link);
        if (done.Account is not null) await all.CommitAsync(cancel);
        return done;
    }

    private async Task<string> Keep(EntryLink link, CancellationToken cancel)
    {
        var secret = WebEncoders.Base64UrlEncode(RandomNumberGenerator.GetBytes(32));
        (link.Id, link.Hash) = (Guid.CreateVersion7(), HashOf(secret));
        db.EntryLinks.Add(link);
        await db.SaveChangesAsync(cancel);
        return secret;
    }

    private static string HashOf(string secret) => Convert.ToHexStringLower(SHA256.HashData(Encoding.UTF8.GetBytes(secret)));
}
