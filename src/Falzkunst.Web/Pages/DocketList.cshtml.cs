using System.Security.Claims;
using Falzkunst.Store;
using Falzkunst.Web.Table;
using Microsoft.AspNetCore.Mvc;
using Microsoft.AspNetCore.Mvc.RazorPages;
using Microsoft.EntityFrameworkCore;

namespace Falzkunst.Web.Pages;

public sealed class DocketListModel(DocketParts parts) : PageModel
{
    public sealed record Card(Docket Docket, string Pile, string Facts);

    public List<Card> Cards { get; } = [];

    public string StudioName { get; private set; } = "";

    public string Problem { get; private set; } = "";

    public async Task OnGetAsync(CancellationToken cancel)
    {
        StudioName = await parts.Db.Studios.Where(s => s.Id == parts.Db.StudioId).Select(s => s.Name).FirstOrDefaultAsync(cancel) ?? "";
        foreach (var docket in await parts.Db.Dockets.AsNoTracking().OrderBy(d => d.Number).ToListAsync(cancel))
        {
            var design = await parts.Revisions.DesignOf(docket.CurrentRevisionId, cancel);
            Cards.Add(new(docket, design is null ? "" : design.Plies.Length > 1 ? PileSvg.Of(design, false) : TableSvg.Small(design),
                $"{Words.Count(docket.Copies, "copy", "copies")}, {(design is null ? "nothing chosen yet" : Words.Holds(design))}"));
        }
    }

    public async Task<IActionResult> OnPostAsync(List<IFormFile> file, CancellationToken cancel)
    {
        if (file.Count == 0)
        {
            Problem = "Choose a file first.";
        }
        else
        {
            var (docket, problem) = await parts.Incoming.NewDocket(await DocketParts.Brought(file, cancel), User.FindFirstValue(StudioClaims.Name) ?? "", cancel);
            if (docket is not null)
            {
                // What was left out is said where the rest is shown.
                if (problem.Length > 0) TempData["Notice"] = problem;
                return Redirect($"/dockets/{docket.Number}/bring-in");
            }

            Problem = problem;
        }

        await OnGetAsync(cancel);
        return Page();
    }
}
