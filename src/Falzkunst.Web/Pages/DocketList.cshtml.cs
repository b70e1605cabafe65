using System.Security.Claims;
using Falzkunst.Store;
using Microsoft.AspNetCore.Mvc;
using Microsoft.AspNetCore.Mvc.RazorPages;

namespace Falzkunst.Web.Pages;

public sealed class DocketListModel(DocketParts parts, DocketShelf shelf) : PageModel
{
    public Shelf Shelf { get; private set; } = new([], 0, 1);

    public string StudioName { get; private set; } = "";

    public string Problem { get; private set; } = "";

    /// <summary>What a docket holds, in words, by what was counted when it was last changed.</summary>
    public static string Facts(ShelvedDocket d)
    {
        var holds = d.Revision is null ? "nothing chosen yet" : d.Pieces < 0 ? "" : Words.Holds(d.Pieces, d.Plies, d.Lines, d.Pictures);
        return Words.Count(d.Copies, "copy", "copies") + (holds.Length > 0 ? ", " + holds : "");
    }

    public async Task OnGetAsync(int? list, CancellationToken cancel)
    {
        StudioName = await shelf.StudioName(cancel);
        Shelf = await shelf.Of(list ?? 1, cancel);
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

        await OnGetAsync(1, cancel);
        return Page();
    }
}
