using Falzkunst.Core.Cards;
using Falzkunst.Core.Layout;
using Falzkunst.Core.Runs;
using Falzkunst.Store;
using Falzkunst.Store.Cutters;
using Microsoft.AspNetCore.Mvc;
using Microsoft.EntityFrameworkCore;
using Microsoft.Extensions.Caching.Memory;

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

    /// <summary>The sheet as it lay on the mat in its last run; null where it was not run.</summary>
    public SheetRun? OnMat { get; private set; }

    public HashSet<int> DoneSheets { get; private set; } = [];

    public List<MachineRow> Machines { get; private set; } = [];

    /// <summary>The colour of the sheet that is looked at.</summary>
    public string StockColour => Stocks.Find(s => s.Name == Plan?.Sheets[Sheet].StockName)?.Colour.Hex ?? "#fbf8f2";

    public bool CanRun => Plan is { CanRun: true };

    /// <summary>The plan of the last run of the sheet, where that was another.</summary>
    private RunPlan? LastPlan { get; set; }

    /// <summary>How well what was done lies on what was planned.</summary>
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
        Active = runs.FindLast(r => r.IsActive);
        DoneSheets = await Parts.ByHand.CutSheets(found.Layout, cancel);
        Sheet = Math.Clamp(sheet ?? Active?.Sheet
            ?? Enumerable.Range(0, Plan.Sheets.Length).FirstOrDefault(i => !DoneSheets.Contains(i)), 0, Plan.Sheets.Length - 1);
        Last = runs.FindLast(r => r.Sheet == Sheet);
        // What runs is its own plan, also where another would be made by now; its sheets are the same, since the layout is.
        if ((Active ?? Last)?.PlanId is { } its && its != found.PlanId && await Parts.Runs.PlanOf(its, cancel) is { } plan)
        {
            if (Active is not null) Plan = plan;
            LastPlan = plan;
        }

        if (Last is { State: WorkState.Done } cut && Laid is { } laid && Layout?.Id == found.Layout.Id
            && await Parts.Together.DesignOf(found.Layout, cancel) is { } design)
        {
            KeptOff = await Parts.Db.Set<SheetRow>().AsNoTracking().FirstOrDefaultAsync(s => s.LeftByRunId == cut.Id, cancel);
            if (KeptOff is null) LeftOf = (OffCuts.Kept(design, laid.Sheets[Sheet], false), OffCuts.Kept(design, laid.Sheets[Sheet], true));
        }

        if (Last is not { IsActive: false } last) return;
        OnMat = last.Placed((LastPlan ?? Plan).Sheets[Sheet]);
        Done = [.. Runs.DoneOf(last, OnMat)];
        Agreement = AgreementOf(last, OnMat, Done, last.Record.Length > 0);
    }

    /// <summary>What could be kept of the sheet that was cut last: a rectangle, or all that hangs together; null where nothing is worth it.</summary>
    public (SheetSize? Strip, SheetSize? Whole)? LeftOf { get; private set; }

    /// <summary>What was kept of it; null where nothing was.</summary>
    public SheetRow? KeptOff { get; private set; }

    /// <summary>Puts what is left of a sheet that was cut into the drawer.</summary>
    public async Task<IActionResult> OnPostKeepAsync(Guid run, bool whole, CancellationToken cancel)
    {
        if (await Parts.Db.Runs.AsNoTracking().FirstOrDefaultAsync(r => r.Id == run && r.DocketId == Docket.Id && r.State == WorkState.Done, cancel)
            is not { } row || await Parts.Db.Layouts.AsNoTracking().FirstOrDefaultAsync(l => l.Id == row.LayoutId, cancel) is not { } layout
            || LayoutJob.Read(layout) is not { } laid || await Parts.Together.DesignOf(layout, cancel) is not { } design
            || OffCuts.Kept(design, laid.Sheets[row.Sheet], whole) is not { } left) return Back("Nothing of that sheet is worth keeping.");
        await Parts.Drawer.Keep(laid.Sheets[row.Sheet].StockId, run, left, cancel);
        return Back();
    }

    public async Task<IActionResult> OnPostStartAsync(int sheet, bool loaded, CancellationToken cancel) =>
        await Start(sheet, loaded, cancel);

    public async Task<IActionResult> OnPostConfirmAsync(Guid run, int asked, CancellationToken cancel)
    {
        await Parts.Runs.Confirm(Docket.Id, run, asked, cancel);
        return Back();
    }

    public async Task<IActionResult> OnPostStopAsync(Guid run, CancellationToken cancel)
    {
        await Parts.Runs.Stop(Docket.Id, run, cancel);
        return Back();
    }

    public async Task<IActionResult> OnPostMachineAsync(Guid machine, CancellationToken cancel)
    {
        if (await Parts.Db.Machines.AnyAsync(m => m.Id == machine, cancel))
            await Parts.Db.Dockets.Where(d => d.Id == Docket.Id).ExecuteUpdateAsync(u => u.SetProperty(d => d.MachineId, machine), cancel);

        return Back();
    }

    private string AgreementOf(RunRow run, SheetRun sheet, CutterMark[] done, bool isTold)
    {
        // Comparing takes its time on a full sheet, and what is over stays as it is.
        if (Parts.Memory.TryGetValue((nameof(RunAgreement), run.Id), out string? known)) return known!;
        var agreement = RunAgreement.Of(sheet, [.. done.Select(m => m.On(sheet))]);
        var said = run.State == WorkState.Done ? agreement.Describe()
            : agreement.Missing == 0 ? "All of it was done." : $"{Words.Run(agreement.MissingLength)} of it were not done any more.";
        if (!isTold) said += " The machine can't tell what it did: this is what it was sent.";
        return Parts.Memory.Set((nameof(RunAgreement), run.Id), said, new MemoryCacheEntryOptions { Size = 1000 });
    }
}
