using Falzkunst.Core.Files;
using Falzkunst.Store;
using Microsoft.AspNetCore.Mvc;
using Microsoft.AspNetCore.Mvc.RazorPages;
using Microsoft.EntityFrameworkCore;

namespace Falzkunst.Web.Pages.Dockets;

/// <summary>A docket whose newest revision can't be read: says so, and offers the one before it.</summary>
public sealed class DamagedModel(FalzkunstContext db, Revisions revisions) : PageModel
{
    public Docket Docket { get; private set; } = null!;

    /// <summary>What is wrong, as a part of a sentence.</summary>
    public string Fault { get; private set; } = "";

    public Step? Readable { get; private set; }

    public List<(Guid Id, string Name)> Files { get; private set; } = [];

    public async Task<IActionResult> OnGetAsync(int number, CancellationToken cancel)
    {
        if (await db.Dockets.FirstOrDefaultAsync(d => d.Number == number, cancel) is not { } docket) return NotFound();
        Docket = docket;
        try
        {
            await revisions.DesignOf(docket.CurrentRevisionId, cancel);
            return LocalRedirect($"/dockets/{number}/build");
        }
        catch (UnreadableFileException e)
        {
            Fault = e.Message;
        }

        Readable = await revisions.LastReadable(docket, cancel);
        Files = (await db.SourceFiles.Where(f => f.DocketId == docket.Id).OrderBy(f => f.At).Select(f => new { f.Id, f.Name }).ToListAsync(cancel))
            .ConvertAll(f => (f.Id, f.Name));
        return Page();
    }

    public async Task<IActionResult> OnPostAsync(int number, Guid basedOn, Guid to, CancellationToken cancel)
    {
        if (await db.Dockets.FirstOrDefaultAsync(d => d.Number == number, cancel) is not { } docket) return NotFound();
        var outcome = await revisions.GoBack(docket, basedOn, to, cancel);
        if (outcome == ChangeOutcome.Done) TempData["Notice"] = "Gone back to the last state that can be read.";
        return LocalRedirect($"/dockets/{number}/{(outcome == ChangeOutcome.Done ? "build" : "damaged")}");
    }
}
