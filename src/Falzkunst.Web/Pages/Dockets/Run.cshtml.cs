using System.Text.Json;
using Falzkunst.Core.Runs;
using Falzkunst.Store;
using Microsoft.AspNetCore.Mvc;
using Microsoft.EntityFrameworkCore;

namespace Falzkunst.Web.Pages.Dockets;

public sealed class RunModel(DocketParts parts) : DocketPage(parts)
{
    public override int Stage => 6;

    public RunPlan? Plan { get; private set; }

    /// <summary>The sheet that is looked at, from 0.</summary>
    public int Sheet { get; private set; }

    /// <summary>The run under way for this docket.</summary>
    public RunRow? Active { get; private set; }

    /// <summary>The last run of the sheet that is looked at.</summary>
    public RunRow? Last { get; private set; }

    public CutterMark[]? Done { get; private set; }

    public HashSet<int> DoneSheets { get; private set; } = [];

    public List<MachineRow> Machines { get; private set; } = [];

    /// <summary>The colour of the sheet that is looked at.</summary>
    public string StockColour => Stocks.Find(s => s.Name == Plan?.Sheets[Sheet].StockName)?.Colour.Hex ?? "#fbf8f2";

    public bool CanRun => Stops == 0 && Plan is { Problems.IsEmpty: true };

    /// <summary>How well what was done agrees with what was planned, by the length of the strokes.</summary>
    public string Agreement { get; private set; } = "";

    /// <summary>How a step of the sheet stands while that runs.</summary>
    public string StateOf(RunStep step) => Active is not { } a || a.Sheet != Sheet ? "" : a.Step > step.Number ? "is-done" : a.Step == step.Number
        ? "is-now" : "";

    /// <summary>The tool of a step and how it is set, in words.</summary>
    public static string Settings(RunStep step) =>
        step.ToolName.ToLowerInvariant() + (step.Passes > 1 ? $", {step.Passes} passes" : "") + (step.ForceGrams > 0 ? $", {step.ForceGrams:0} g" : "");

    public async Task OnGetAsync(int? sheet, CancellationToken cancel)
    {
        Machines = await Parts.Drawer.Machines(cancel);
        if (await Parts.PlanOf(Docket, cancel) is not { } found || found.Plan.Sheets.IsEmpty) return;
        Plan = found.Plan;
        var runs = await Parts.Db.Runs.AsNoTracking().Include(r => r.Events).Where(r => r.LayoutId == found.Layout.Id).OrderBy(r => r.StartedAt)
            .ToListAsync(cancel);
        Active = runs.FindLast(r => r.State is WorkState.Waiting or WorkState.Working);
        DoneSheets = [.. runs.Where(r => r.State == WorkState.Done).Select(r => r.Sheet)];
        Sheet = Math.Clamp(sheet ?? Active?.Sheet
            ?? Enumerable.Range(0, Plan.Sheets.Length).FirstOrDefault(i => !DoneSheets.Contains(i)), 0, Plan.Sheets.Length - 1);
        Last = runs.FindLast(r => r.Sheet == Sheet);
        if (Last is { Record.Length: > 0, State: WorkState.Done })
        {
            Done = JsonSerializer.Deserialize<CutterMark[]>(Last.Record);
            var planned = Length.Sum(Plan.Sheets[Sheet].Steps.Select(s => s.Work));
            var done = Length.Sum((Done ?? []).Select(LengthOf));
            Agreement = $"{Words.Run(done)} done of {Words.Run(planned)} planned.";
        }
    }

    public async Task<IActionResult> OnPostStartAsync(int sheet, CancellationToken cancel)
    {
        if (Stops > 0) return Back("Mend the stops first; they stand below.");
        if (await Parts.PlanOf(Docket, cancel) is not { } found || sheet < 0 || sheet >= found.Plan.Sheets.Length) return Back("Lay out first.");
        if (await Parts.Db.Runs.AnyAsync(r => r.MachineId == found.Machine.Id && (r.State == WorkState.Waiting || r.State == WorkState.Working), cancel))
            return Back($"{found.Machine.Name} is busy with another sheet. Wait for it, or stop that run.");
        await Parts.Runs.Ask(Docket, found.Layout, found.Machine, sheet, Parts.Queue, cancel);
        return LocalRedirect(Address("run") + "?sheet=" + sheet);
    }

    public async Task<IActionResult> OnPostConfirmAsync(Guid run, CancellationToken cancel)
    {
        // "Asks" goes with it, so that a second click answers nothing that was not asked yet.
        await Parts.Db.Runs.Where(r => r.Id == run && r.DocketId == Docket.Id && r.Asks != "")
            .ExecuteUpdateAsync(u => u.SetProperty(r => r.Confirmed, r => r.Confirmed + 1).SetProperty(r => r.Asks, ""), cancel);
        return Back();
    }

    public async Task<IActionResult> OnPostStopAsync(Guid run, CancellationToken cancel)
    {
        await Parts.Db.Runs.Where(r => r.Id == run && r.DocketId == Docket.Id).ExecuteUpdateAsync(u => u.SetProperty(r => r.StopAsked, true), cancel);
        return Back();
    }

    public async Task<IActionResult> OnPostMachineAsync(Guid machine, CancellationToken cancel)
    {
        if (await Parts.Db.Machines.AnyAsync(m => m.Id == machine, cancel))
        {
            Docket.MachineId = machine;
            await Parts.Db.SaveChangesAsync(cancel);
        }

        return Back();
    }

    private static Length LengthOf(CutterMark mark)
    {
        double sum = 0;
        for (var i = 2; i + 1 < mark.Units.Length; i += 2)
            sum += Math.Sqrt(Math.Pow(mark.Units[i] - mark.Units[i - 2], 2) + Math.Pow(mark.Units[i + 1] - mark.Units[i - 1], 2));
        return Length.FromMm(sum * Plotter.MmPerUnit);
    }
}
