using System.Globalization;
using System.Security.Claims;
using Falzkunst.Core.Cards;
using Falzkunst.Core.Files;
using Falzkunst.Store;
using Microsoft.AspNetCore.Mvc;
using Microsoft.AspNetCore.Mvc.RazorPages;

namespace Falzkunst.Web.Pages;

public sealed class DocketListModel(DocketParts parts, DocketShelf shelf) : PageModel
{
    public Shelf Shelf { get; private set; } = new([], ShelfPlace.Worktop, 1, new Dictionary<ShelfPlace, int>());

    public string StudioName { get; private set; } = "";

    public string Problem { get; private set; } = "";

    /// <summary>What a docket holds, in words, by what was counted when it was last changed.</summary>
    public static string Facts(ShelvedDocket d)
    {
        var holds = d.Revision is null ? "nothing chosen yet" : d.Pieces < 0 ? "" : Words.Holds(d.Pieces, d.Plies, d.Lines, d.Pictures);
        return Words.Count(d.Copies, "copy", "copies") + (holds.Length > 0 ? ", " + holds : "");
    }

    [TempData]
    public string? Notice { get; set; }

    /// <summary>The number of a docket that was just deleted, and can be restored at once.</summary>
    [TempData]
    public int? Deleted { get; set; }

    public string Line => StudioName + " · " + Shelf.Place switch
    {
        ShelfPlace.Archive => Words.Count(Shelf.All, "card") + " that can be produced again",
        ShelfPlace.Deleted => "each can be restored for thirty days",
        _ => Words.Count(Shelf.All, "card") + " to produce",
    };

    public static string Title(ShelfPlace place) => place switch
    {
        ShelfPlace.Archive => "Archive",
        ShelfPlace.Deleted => "Deleted",
        _ => "Dockets",
    };

    public static string Address(ShelfPlace place) => place == ShelfPlace.Worktop ? "/dockets" : $"/dockets?place={place.ToString().ToLowerInvariant()}";

    public static string Day(DateTimeOffset at) => at.ToLocalTime().ToString("d MMMM", CultureInfo.InvariantCulture);

    public async Task OnGetAsync(int? list, string? place, CancellationToken cancel)
    {
        StudioName = await shelf.StudioName(cancel);
        var isPlace = Enum.TryParse<ShelfPlace>(place, true, out var wanted) && Enum.IsDefined(wanted);
        Shelf = await shelf.Of(list ?? 1, isPlace ? wanted : ShelfPlace.Worktop, cancel);
    }

    public async Task<IActionResult> OnPostCopyAsync(int number, CancellationToken cancel)
    {
        try
        {
            if (await shelf.Copy(number, User.FindFirstValue(StudioClaims.Name) ?? "", cancel) is not { } copy) return NotFound();
            TempData["Notice"] = $"This is a copy of docket {number:0000}, with files, without its runs.";
            return Redirect($"/dockets/{copy.Number}/build");
        }
        catch (UnreadableFileException e)
        {
            Problem = $"It was not copied: {e.Message}. Nothing was changed.";
            await OnGetAsync(1, null, cancel);
            return Page();
        }
    }

    public async Task<IActionResult> OnPostArchiveAsync(int number, CancellationToken cancel) => await shelf.Archive(number, true, cancel)
        ? Done($"Docket {number:0000} lies in the archive now.") : NotFound();

    public async Task<IActionResult> OnPostTakeOutAsync(int number, CancellationToken cancel) => await shelf.Archive(number, false, cancel)
        ? Done($"Docket {number:0000} lies on the worktop again.") : NotFound();

    public async Task<IActionResult> OnPostDeleteAsync(int number, CancellationToken cancel)
    {
        if (await shelf.Delete(number, cancel) is not { } deleted) return NotFound();
        if (!deleted) return Done($"Docket {number:0000} has a run that is not over. Stop that first; nothing was changed.");
        Deleted = number;
        return Done($"Docket {number:0000} is deleted. For thirty days it can be restored.");
    }

    public async Task<IActionResult> OnPostRestoreAsync(int number, CancellationToken cancel) => await shelf.Restore(number, cancel)
        ? Done($"Docket {number:0000} is back.") : NotFound();

    private RedirectResult Done(string notice)
    {
        Notice = notice;
        return Redirect("/dockets");
    }

    /// <summary>Starts a docket without a file.</summary>
    public async Task<IActionResult> OnPostBeginAsync(string? kind, string? format, bool lies, bool empty, CancellationToken cancel)
    {
        CardFormat? size = null;
        if (Enum.TryParse<BaseKind>(kind, true, out var of) && !empty)
            size = BaseForm.FrontOf(format, of, 4, lies, null, await parts.Drawer.Stocks(cancel));
        var begin = new Begin(size is null ? null : CardBase.Of(of, size.Width, size.Height) with { Setback = await parts.Drawer.FoldSetback(cancel) });
        if (begin.First is null) return BadRequest();
        var docket = await parts.Incoming.Begin(begin, begin.Base is null ? "New card" : $"{size!.Name}, {Words.OfBase(begin.Base.Kind)}",
            User.FindFirstValue(StudioClaims.Name) ?? "", cancel);
        return Redirect($"/dockets/{docket.Number}/build");
    }

    public async Task<IActionResult> OnPostAsync(List<IFormFile> file, CancellationToken cancel)
    {
        if (file.Count == 0)
        {
            Problem = "Choose a file first.";
        }
        else
        {
            var (docket, problem) = await parts.Incoming
                .NewDocket(await DocketParts.Brought(file, cancel), User.FindFirstValue(StudioClaims.Name) ?? "", cancel);
            if (docket is not null)
            {
                // What was left out is said where the rest is shown.
                if (problem.Length > 0) TempData["Notice"] = Words.Short(problem);
                return Redirect($"/dockets/{docket.Number}/bring-in");
            }

            Problem = problem;
        }

        await OnGetAsync(1, null, cancel);
        return Page();
    }
}
