using System.Security.Claims;
using Falzkunst.Store;
using Falzkunst.Store.Cutters;
using Microsoft.AspNetCore.Mvc;
using Microsoft.AspNetCore.Mvc.RazorPages;
using Microsoft.EntityFrameworkCore;

namespace Falzkunst.Web.Pages;

public sealed class MachinesModel(FalzkunstContext db, Drawer drawer) : PageModel
{
    public List<(MachineRow Machine, string State)> Machines { get; private set; } = [];

    public List<ToolRow> Tools { get; private set; } = [];

    public string Problem { get; private set; } = "";

    public string Unit => User.FindFirstValue(StudioClaims.Unit) == "in" ? "in" : "mm";

    /// <summary>What the form for a new machine begins with.</summary>
    public static MachineRow Fresh => new() { WidthMm = 305, HeightMm = 305, Holders = 1, SpeedMmS = 100, TravelMmS = 200, Port = 9100 };

    public async Task OnGetAsync(CancellationToken cancel)
    {
        var rows = await drawer.Machines(cancel);
        // All at once: each that is switched off would cost a second.
        Machines = [.. rows.Zip(await Task.WhenAll(rows.Select(m => StateOf(m, cancel))))];
        Tools = await db.Tools.OrderBy(t => t.Pen).ToListAsync(cancel);
    }

    /// <summary>Changes a machine, or puts a new one into the workshop.</summary>
    public async Task<IActionResult> OnPostSaveAsync(Guid id, string? name, string? width, string? height, int holders, double speed, double travel, int port,
        CancellationToken cancel)
    {
        var unit = Unit == "in" ? LengthUnit.Inch : LengthUnit.Millimetre;
        name = name?.Trim() ?? "";
        if (name.Length is 0 or > 60) return await Say("A machine has a name of 1 to 60 letters.", cancel);
        if (!LengthText.TryRead(width, unit, out var w, out var error) || !LengthText.TryRead(height, unit, out var h, out error))
            return await Say(error, cancel);
        if (w.Mm is < 50 or > 5000 || h.Mm is < 50 or > 50_000) return await Say("A machine takes sheets from 50 mm to 5 m wide, and up to 50 m long.", cancel);
        if (holders is < 1 or > 8) return await Say("A machine has 1 to 8 holders.", cancel);
        if (!(speed is >= 1 and <= 5000 && travel is >= 1 and <= 5000)) return await Say("Speeds go from 1 to 5,000 mm in a second.", cancel);
        if (port is < 1 or > 65_535) return await Say("A port is a number from 1 to 65,535; the machine's manual says which.", cancel);
        var row = await db.Machines.FirstOrDefaultAsync(m => m.Id == id, cancel);
        if (id != Guid.Empty && row is null) return NotFound();
        if (row is null)
        {
            db.Machines.Add(row = new()
            {
                Id = Guid.CreateVersion7(),
                StudioId = db.StudioId,
                AccelerationMmS2 = 1500,
                LiftSeconds = 0.1,
                Place = await db.Machines.CountAsync(cancel),
            });
        }

        // Another place to listen is another machine, which can't tell what it did until somebody knows how.
        if (row.Port != port) row.RecordPort = null;
        (row.Name, row.WidthMm, row.HeightMm, row.Holders, row.SpeedMmS, row.TravelMmS, row.Port) = (name, w.Mm, h.Mm, holders, speed, travel, port);
        await db.SaveChangesAsync(cancel);
        return RedirectToPage();
    }

    public async Task<IActionResult> OnPostRemoveAsync(Guid id, CancellationToken cancel)
    {
        if (await db.Runs.AnyAsync(r => r.MachineId == id
            && (r.State == WorkState.Waiting || r.State == WorkState.Working || r.State == WorkState.Asking), cancel))
            return await Say("It has a run that is not over. Stop that first.", cancel);
        await db.Machines.Where(m => m.Id == id).ExecuteDeleteAsync(cancel);
        return RedirectToPage();
    }

    private async Task<IActionResult> Say(string problem, CancellationToken cancel)
    {
        Problem = problem + " Nothing was changed.";
        await OnGetAsync(cancel);
        return Page();
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
