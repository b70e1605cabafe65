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
            Cards.Add(new(docket, design is null ? "" : PileSvg.Of(design, false),
                $"{Words.Count(docket.Copies, "copy", "copies")}, {Words.Count(design?.Pieces.Length ?? 0, "piece")} on {Words.Count(design?.Plies.Length ?? 0, "ply", "plies")}"));
        }
    }

    public async Task<IActionResult> OnPostAsync(IFormFile? file, CancellationToken cancel)
    {
        if (file is null || file.Length == 0)
        {
            Problem = file is null ? "Choose a file first." : $"“{file.FileName}” was not brought in: it is empty.";
        }
        else
        {
            using var bytes = new MemoryStream();
            await file.CopyToAsync(bytes, cancel);
            var (docket, problem) = await parts.Incoming.NewDocket(Path.GetFileName(file.FileName), bytes.ToArray(), User.FindFirstValue(StudioClaims.Name) ?? "", cancel);
            if (docket is not null) return Redirect($"/dockets/{docket.Number}/bring-in");
            Problem = problem;
        }

        await OnGetAsync(cancel);
        return Page();
    }
}
