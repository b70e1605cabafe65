using System.Security.Claims;
using Falzkunst.Store;
using Falzkunst.Store.Cutters;
using Microsoft.AspNetCore.Mvc.RazorPages;
using Microsoft.EntityFrameworkCore;

namespace Falzkunst.Web.Pages;

public sealed class MachinesModel(FalzkunstContext db, Drawer drawer) : PageModel
{
    public List<(MachineRow Machine, string State)> Machines { get; } = [];

    public List<ToolRow> Tools { get; private set; } = [];

    public string Unit => User.FindFirstValue(StudioClaims.Unit) == "in" ? "in" : "mm";

    public async Task OnGetAsync(CancellationToken cancel)
    {
        foreach (var m in await drawer.Machines(cancel)) Machines.Add((m, await StateOf(m, cancel)));
        Tools = await db.Tools.OrderBy(t => t.Pen).ToListAsync(cancel);
    }

    private static async Task<string> StateOf(MachineRow machine, CancellationToken cancel)
    {
        using var soon = CancellationTokenSource.CreateLinkedTokenSource(cancel);
        soon.CancelAfter(TimeSpan.FromSeconds(1));
        try
        {
            await using var line = await HpglLine.Open(machine, soon.Token);
            return (await line.Status(soon.Token)).Word;
        }
        catch (Exception e) when (e is IOException or OperationCanceledException)
        {
            return "does not answer";
        }
    }
}
