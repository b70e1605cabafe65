using Microsoft.AspNetCore.Mvc;
using Microsoft.AspNetCore.Mvc.RazorPages;

namespace Falzkunst.Web.Pages;

/// <summary>What the pages beside the dockets share: the person's unit, and saying what was not done and why.</summary>
public abstract class RoomPage : PageModel
{
    /// <summary>What was not done and why; empty where nothing went wrong.</summary>
    public string Problem { get; private set; } = "";

    public string Unit => StudioClaims.UnitOf(User);

    protected LengthUnit LengthUnit => StudioClaims.LengthUnitOf(User);

    /// <summary>Reads what the page shows.</summary>
    protected virtual Task Show(CancellationToken cancel) => Task.CompletedTask;

    /// <summary>The page again, with what was not done and why.</summary>
    protected async Task<IActionResult> Say(string problem, CancellationToken cancel)
    {
        Problem = problem + " Nothing was changed.";
        await Show(cancel);
        return Page();
    }
}
