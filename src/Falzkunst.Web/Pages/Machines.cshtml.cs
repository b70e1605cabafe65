using Falzkunst.Core.Runs;
using Falzkunst.Store;
using Falzkunst.Store.Cutters;
using Microsoft.AspNetCore.Mvc;
using Microsoft.EntityFrameworkCore;

namespace Falzkunst.Web.Pages;

public sealed class MachinesModel(FalzkunstContext db, Drawer drawer) : RoomPage
{
    public List<(MachineRow Machine, string State)> Machines { get; private set; } = [];

    public List<ToolRow> Tools { get; private set; } = [];

    /// <summary>The machine, and the tool, that are being changed; null where none is.</summary>
    public MachineRow? Machine { get; private set; }

    public ToolRow? Tool { get; private set; }

    public bool IsOwner => User.IsInRole(OwnersOnlyAttribute.Owner);

    /// <summary>What the form for a new tool begins with: the next number.</summary>
    public ToolRow FreshTool => new() { Operation = "cut", Pen = Tools.Count == 0 ? 1 : Math.Min(Tools.Max(t => t.Pen) + 1, MostPens), SpeedMmS = 100 };

    private const int MostPens = 99;

    public static IReadOnlyList<(MachineLanguage Language, string Says)> Languages { get; } =
        [(MachineLanguage.Hpgl, "HPGL"), (MachineLanguage.Gcode, "G-code")];

    /// <summary>What the form for a new machine begins with.</summary>
    public static MachineRow Fresh => new() { WidthMm = 305, HeightMm = 305, Holders = 1, SpeedMmS = 100, TravelMmS = 200, Port = 9100 };

    public Task OnGetAsync(CancellationToken cancel) => Show(cancel);

    protected override async Task Show(CancellationToken cancel)
    {
        var rows = await drawer.Machines(cancel);
        // All at once: each that is switched off would cost a second.
        Machines = [.. rows.Zip(await Task.WhenAll(rows.Select(m => StateOf(m, cancel))))];
        Tools = await db.Tools.OrderBy(t => t.Pen).ToListAsync(cancel);
        if (Guid.TryParse(Request.Query["machine"], out var machine)) Machine = rows.Find(m => m.Id == machine);
        if (Guid.TryParse(Request.Query["tool"], out var tool)) Tool = Tools.Find(t => t.Id == tool);
    }

    /// <summary>Changes a machine, or puts a new one into the workshop.</summary>
    [OwnersOnly]
    public async Task<IActionResult> OnPostSaveAsync(Guid id, string? name, string? width, string? height, int holders, double speed, double travel, int port,
        double force, MachineLanguage language, CancellationToken cancel, double steps = Plotter.UnitsPerMm, bool roll = false,
        int levels = 0)
    {
        name = name?.Trim() ?? "";
        if (name.Length is 0 or > 60) return await Say("A machine has a name of 1 to 60 letters.", cancel);
        if (!LengthText.TryRead(width, LengthUnit, out var w, out var error) || !LengthText.TryRead(height, LengthUnit, out var h, out error))
            return await Say(error, cancel);
        if (w.Mm is < 50 or > 5000 || h.Mm is < 50 or > 50_000) return await Say("A machine takes sheets from 50 mm to 5 m wide, and up to 50 m long.", cancel);
        if (holders is < 1 or > 8) return await Say("A machine has 1 to 8 holders.", cancel);
        if (!(speed is >= 1 and <= 5000 && travel is >= 1 and <= 5000)) return await Say("Speeds go from 1 to 5,000 mm in a second.", cancel);
        if (!(force is >= 0 and <= 5000)) return await Say("A machine presses with up to 5,000 g; 0 where you don't know.", cancel);
        if (levels is < 0 or > 1000 || (levels > 0 && force <= 0))
            return await Say("A force has up to 1,000 levels, and the highest is so many grams: say both. 0 levels where the machine is told grams.", cancel);
        if (!(steps is >= 1 and <= 1000)) return await Say("A machine makes 1 to 1,000 steps in a mm.", cancel);
        if (!Enum.IsDefined(language)) return await Say("A machine takes HPGL or G-code; its manual says which.", cancel);
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
        (row.MostForceGrams, row.ForceLevels, row.StepsPerMm, row.Language, row.IsRoll) = (force, levels, steps, language, roll);
        await db.SaveChangesAsync(cancel);
        return LocalRedirect("/machines");
    }

    [OwnersOnly]
    public async Task<IActionResult> OnPostRemoveAsync(Guid id, CancellationToken cancel)
    {
        if (await db.Runs.AnyAsync(r => r.MachineId == id && RunRow.Active.Contains(r.State), cancel))
            return await Say("It has a run that is not over. Stop that first.", cancel);
        await db.Machines.Where(m => m.Id == id).ExecuteDeleteAsync(cancel);
        return LocalRedirect("/machines");
    }

    /// <summary>Changes a tool, or puts a new one into the drawer. What a tool does stays as it is.</summary>
    public async Task<IActionResult> OnPostSaveToolAsync(Guid id, string? name, string? operation, int pen, double speed, string? swivel, string? wide,
        int heat, int dry, int only, CancellationToken cancel)
    {
        name = name?.Trim() ?? "";
        if (name.Length is 0 or > 60) return await Say("A tool has a name of 1 to 60 letters.", cancel);
        if (pen is < 1 or > MostPens) return await Say("A tool's number in plot files goes from 1 to 99.", cancel);
        if (!(speed is >= 1 and <= 2000)) return await Say("A tool's speed goes from 1 to 2,000 mm in a second.", cancel);
        if (!LengthText.TryRead(Said(swivel), LengthUnit.Millimetre, out var trails, out var wrong)
            || !LengthText.TryRead(Said(wide), LengthUnit.Millimetre, out var width, out wrong)) return await Say(wrong, cancel);
        if (trails.Mm is < 0 or > 3) return await Say("The tip of a blade trails its axis by 0 to 3 mm; its packet says how much.", cancel);
        if (width.Mm is < 0 or > 20) return await Say("A tool makes lines of 0 to 20 mm.", cancel);
        if (heat is < 0 or > 3600) return await Say("A tool heats up in an hour at most.", cancel);
        if (dry is < 0 or > 3600) return await Say("Ink dries in an hour at most.", cancel);
        if (only is < 0 or > 8) return await Say("A machine has 1 to 8 holders.", cancel);
        var row = await db.Tools.FirstOrDefaultAsync(t => t.Id == id, cancel);
        if (id != Guid.Empty && row is null) return NotFound();
        if (row is null)
        {
            if (!Core.Cards.Operations.TryRead(operation, out var does) || !Core.Cards.Operations.UsesTool(does)) return await Say("Say what the tool does.",
                cancel);
            if (await db.Tools.CountAsync(cancel) >= MostPens) return await Say("There are 99 tools already, and no more numbers.", cancel);
            id = Guid.CreateVersion7();
            db.Tools.Add(row = new() { Id = id, StudioId = db.StudioId, Key = $"t{id:N}", Operation = Core.Cards.Operations.Word(does) });
        }

        (row.Name, row.Pen, row.SpeedMmS, row.OnlyHolder) = (name, pen, speed, only == 0 ? null : only);
        (row.SwivelMm, row.WidthMm, row.HeatSeconds, row.DrySeconds) = (trails.Mm, width.Mm, heat, dry);
        try
        {
            await db.SaveChangesAsync(cancel);
        }
        catch (DbUpdateException e) when (Database.IsTaken(e))
        {
            db.ChangeTracker.Clear();
            return await Say($"Another tool has the number {pen}. The machine tells tools apart by it.", cancel);
        }

        return LocalRedirect("/machines");
    }

    private static string Said(string? text) => string.IsNullOrWhiteSpace(text) ? "0" : text;

    public async Task<IActionResult> OnPostRemoveToolAsync(Guid id, CancellationToken cancel)
    {
        await using var all = await db.Database.BeginTransactionAsync(cancel);
        // Of the last two of an operation, one stays, whoever removes them at the same instant.
        await People.Hold(db, cancel);
        if (await db.Tools.FirstOrDefaultAsync(t => t.Id == id, cancel) is not { } row) return NotFound();
        if (!await db.Tools.AnyAsync(t => t.Operation == row.Operation && t.Id != id, cancel))
            return await Say($"It is the only tool to {row.Operation}.", cancel);
        await db.Stocks.SelectMany(s => s.Settings).Where(s => s.ToolKey == row.Key).ExecuteDeleteAsync(cancel);
        await db.Tools.Where(t => t.Id == id).ExecuteDeleteAsync(cancel);
        await all.CommitAsync(cancel);
        return LocalRedirect("/machines");
    }

    private static async Task<string> StateOf(MachineRow machine, CancellationToken cancel)
    {
        if (CutterLine.IsTaken(machine)) return new CutterStatus(CutterState.Working, 0).Word;
        using var soon = CancellationTokenSource.CreateLinkedTokenSource(cancel);
        soon.CancelAfter(TimeSpan.FromSeconds(1));
        try
        {
            await using var line = await CutterLine.Open(machine, soon.Token);
            return (await line.Status(soon.Token)).Word;
        }
        catch (Exception e) when (e is IOException or OperationCanceledException)
        {
            return "does not answer";
        }
    }
}
