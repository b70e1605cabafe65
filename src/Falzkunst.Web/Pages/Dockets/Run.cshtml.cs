using System.Collections.Immutable;
using System.Globalization;
using System.Security.Cryptography;
using System.Text;
using Falzkunst.Core.Cards;
using Falzkunst.Core.Layout;
using Falzkunst.Core.Measures;
using Falzkunst.Core.Runs;
using Falzkunst.Store;
using Falzkunst.Store.Cutters;
using Falzkunst.Web.Table;
using Microsoft.AspNetCore.Mvc;
using Microsoft.EntityFrameworkCore;
using Microsoft.Extensions.Caching.Memory;

namespace Falzkunst.Web.Pages.Dockets;

public sealed class RunModel(DocketParts parts) : SheetsPage(parts)
{
    public override int Stage => 6;

    /// <summary>Whether there are no sheets to be shown yet: where a run is under way, those that it is of are.</summary>
    public bool WaitsForSheets => Plan is null || (Working && Active is null);

    protected override Task ReadPage(CancellationToken cancel) => OnGetAsync(null, cancel);

    public RunPlan? Plan { get; private set; }

    /// <summary>The sheet that is looked at, from 0.</summary>
    public int Sheet { get; private set; }

    /// <summary>The run under way for this docket.</summary>
    public RunRow? Active { get; private set; }

    /// <summary>The last run of the sheet that is looked at.</summary>
    public RunRow? Last { get; private set; }

    /// <summary>All runs of the sheet that is looked at, the newest first.</summary>
    public List<RunRow> Past { get; private set; } = [];

    /// <summary>What a run was for, in a word or two.</summary>
    public static string KindOf(RunRow run) => run.IsTest ? "test card" : run.IsTouchUp ? "done again" : run.AfterId is not null ? "the rest" : "the sheet";

    /// <summary>The step whose side of the sheet lies up: the one under way or asked for; 0 where nothing is.</summary>
    public int ShownStep => Active is not { } run || run.Sheet != Sheet ? 0 : Math.Max(1, run.Step);

    /// <summary>The side of the sheet that lies up: in the machine, where it was broken off there; otherwise as it is at the step.</summary>
    public Face UpOf(SheetRun sheet) => IsBrokenOff && StillLies ? Setup.Sheet!.Up : SheetSvg.UpAt(sheet, ShownStep);

    public CutterMark[]? Done { get; private set; }

    /// <summary>The sheet as it lay on the mat in its last run; null where it was not run.</summary>
    public SheetRun? OnMat { get; private set; }

    public HashSet<int> DoneSheets { get; private set; } = [];

    public List<MachineRow> Machines { get; private set; } = [];

    /// <summary>The colour of the sheet that is looked at.</summary>
    public string StockColour => Plan is { } plan ? ColourOf(plan.Sheets[Sheet]) : "#fbf8f2";

    private string ColourOf(SheetRun sheet) => Stocks.Find(s => s.Name == sheet.StockName)?.Colour.Hex ?? "#fbf8f2";

    public bool CanRun => Plan is { CanRun: true } && !Foil.Any(f => f.Need.TooLarge > 0);

    /// <summary>How well what was done lies on what was planned.</summary>
    public string Agreement { get; private set; } = "";

    /// <summary>How a step of the sheet stands while that runs.</summary>
    public string StateOf(RunStep step) => Active is not { } a || a.Sheet != Sheet ? "" : a.Step > step.Number ? "is-done" : a.Step == step.Number
        ? "is-now" : "";

    /// <summary>The tool of a step and how it is set, in words.</summary>
    public static string Settings(RunStep step)
    {
        var parts = new List<string> { Tool.InSentence(step.ToolName) };
        if (step.Passes > 1) parts.Add($"{step.Passes} passes");
        if (step.ForceSays.Length > 0) parts.Add(step.ForceSays);
        parts.Add($"{step.SpeedMmS:0.#} mm/s");
        if (step.Depth is { } depth) parts.Add($"blade {depth} out");
        if (step.Overcut.Mm > 0) parts.Add($"overcut {step.Overcut}");
        // A number stays with its unit.
        return string.Join(", ", parts.Select(p => p.Replace(' ', '\u00a0')));
    }

    public async Task OnGetAsync(int? sheet, CancellationToken cancel)
    {
        Machines = await Parts.Drawer.Machines(cancel);
        if (await Parts.PlanOf(Docket, cancel) is not { } found || found.Plan.Sheets.IsEmpty) return;
        Plan = found.Plan;
        var runs = await Parts.Db.Runs.AsNoTracking().Include(r => r.Events).Where(r => r.LayoutId == found.Layout.Id).OrderBy(r => r.StartedAt)
            .ToListAsync(cancel);
        Active = runs.FindLast(r => r.IsActive);
        DoneSheets = await Parts.ByHand.DoneSheets(found.Layout, cancel);
        await ShowRounds(runs, cancel);
        var foiled = Plan.Sheets.Where((_, i) => !DoneSheets.Contains(i)).SelectMany(p => p.Steps).Where(p => !p.Patches.IsEmpty).ToLookup(p => p.Foil);
        if (foiled.Count > 0)
        {
            var foils = await Parts.Drawer.Foils(cancel);
            Foil = [.. foiled.Select(g => (g.Key ?? "", NeedOf([.. g.SelectMany(p => p.Patches)],
                [.. Falzkunst.Core.Runs.Foil.Of(foils, g.Key)])))];
            // Another that is large enough for all of it, for lines of this docket.
            OtherFoils = Foil.Where(f => f.Need.TooLarge > 0 && FoiledWith(f.Name).Any()).SelectMany(f => foils.Select(o => o.Name).Distinct()
                    .Where(o => FoilNeed.Of(foiled[f.Name].SelectMany(p => p.Patches), Falzkunst.Core.Runs.Foil.Of(foils, o)).TooLarge == 0)
                    .Select(o => (f.Name, Other: o))).ToLookup(f => f.Name, f => f.Other);
        }

        Sheet = Math.Clamp(sheet ?? Active?.Sheet
            ?? (ByTool ? NextRound?.Sheet ?? 0 : Enumerable.Range(0, Plan.Sheets.Length).FirstOrDefault(i => !DoneSheets.Contains(i))),
            0, Plan.Sheets.Length - 1);
        StockId = (Laid ?? LayoutJob.Read(found.Layout))?.Sheets[Sheet].StockId ?? "";
        Last = runs.FindLast(r => r.Sheet == Sheet);
        Past = [.. runs.Where(r => r.Sheet == Sheet && r.Events.Count > 0).Reverse()];
        Stacked = Laid?.Stacks.Select(t => t.Numbers).FirstOrDefault(n => n.Contains(Sheet + 1)) ?? [];
        // What runs is its own plan, also where another would be made by now; its sheets are the same, since the layout is.
        if (Active?.PlanId is { } its && its != found.PlanId && await Parts.Runs.PlanOf(its, cancel) is { } plan)
            (Plan, Whole) = (plan, Active.AfterId is null && Active.WholeId is null ? plan : Plan);
        Whole ??= Plan;
        await ReadSetup(found.Layout.Id, cancel);
        if (!LayoutIsCurrent && Active is null && Layout is { } stale) MayStay = await MayStayAs(stale, cancel);
        if (Last is not null && await Parts.Runs.ChainOf(Docket.Id, Last.Id, cancel) is var (chain, first, _))
        {
            if (Active is null || Active.AfterId is not null || Active.WholeId is not null) Whole = first;
            Chain = chain;
        }

        if (Last is { State: WorkState.Done, IsTouchUp: true }) Better = await Parts.Runs.BetterOf(Docket.Id, Last.Id, cancel);
        if (Last is { State: WorkState.Done, IsTest: true, PlanId: { } tried } && await Parts.Runs.PlanOf(tried, cancel) is { } card
            && card.Sheets[Sheet].Part == SheetPart.Test) TestCells = card.Sheets[Sheet].Steps;
        if (Cut is { } cut && IsCutOut && Laid is { } laid && Layout?.Id == found.Layout.Id
            && await Parts.Together.DesignOf(found.Layout, cancel) is { } design)
        {
            KeptOff = await Parts.Db.Set<SheetRow>().AsNoTracking().FirstOrDefaultAsync(s => s.LeftByRunId == cut.Id, cancel);
            if (KeptOff is null)
            {
                // What was worked on it until now stays as it is.
                if (!Parts.Memory.TryGetValue((nameof(LeftOf), cut.Id, Last!.Id), out (SheetSize?, SheetSize?) left))
                {
                    var spoiled = await Parts.Runs.SpoiledBy(cut, design, laid.Sheets[Sheet], cancel);
                    left = Parts.Memory.Set((nameof(LeftOf), cut.Id, Last.Id), (OffCuts.Kept(design, laid.Sheets[Sheet], false, spoiled),
                        OffCuts.Kept(design, laid.Sheets[Sheet], true, spoiled)), new MemoryCacheEntryOptions { Size = 20_000 });
                }

                LeftOf = left;
            }
        }

        if (Last is not { IsActive: false } last || Chain.Count == 0) return;
        OnMat = Chain[0].Placed(Whole.Sheets[Sheet]);
        var done = await Parts.Runs.DoneIn(Chain, cancel);
        Done = [.. done.Select(d => CutterMark.Of(d, OnMat))];
        Pick = Request.Query["pick"].ToString();
        Clicked = [.. Picked(OnMat.SeenFrom(Face.Outer), PlacesIn(Pick))];
        (Agreement, IsWhole) = AgreementOf(last, OnMat, done, Chain.TrueForAll(r => r.Record.Length > 0 || r.Strokes == 0));
    }

    /// <summary>The plan of all that is done on the sheet that is looked at, also while only a part of it runs.</summary>
    public RunPlan Whole { get; private set; } = null!;

    /// <summary>The last run of the sheet with those that it went on from, the first first.</summary>
    public List<RunRow> Chain { get; private set; } = [];

    /// <summary>The numbers of the sheets that are as the one that is looked at, from 1.</summary>
    public ImmutableArray<int> Stacked { get; private set; } = [];

    /// <summary>Whether all of the sheet that is looked at was done, and nothing else.</summary>
    public bool IsWhole { get; private set; }

    /// <summary>Whether something of the sheet that is looked at was done, and not all.</summary>
    public bool IsBrokenOff => Active is null && Last is { State: WorkState.Failed or WorkState.Stopped, IsTouchUp: false } && !IsWhole
        && Done is { Length: > 0 };

    /// <summary>Of foil that nobody counted there is none, rather than none that is large enough.</summary>
    private static FoilNeed NeedOf(ImmutableArray<Box> patches, ImmutableArray<SheetSize> foils) =>
        foils.IsEmpty ? new(patches.Length, 0, patches.Length, 0) : FoilNeed.Of(patches, foils);

    /// <summary>The foil that the sheets that are not done take, by what it is called; "" is any.</summary>
    public ImmutableArray<(string Name, FoilNeed Need)> Foil { get; private set; } = [];

    public override string? StageStop => Foil.Any(f => f.Need.TooLarge > 0) ? "There is no piece of foil that is large enough: see what can be done."
        : base.StageStop;

    /// <summary>For foil of which no piece is large enough: those that are in the drawer in larger pieces.</summary>
    public ILookup<string, string> OtherFoils { get; private set; } = Array.Empty<string>().ToLookup(f => f);

    private IEnumerable<Line> FoiledWith(string foil) => Design?.Lines.Select(l => l.Line).Where(l => l.Operation == Operation.Foil && l.Foil == foil) ?? [];

    /// <summary>Foils with another foil what was to be foiled with one; its sheets stay as they lie.</summary>
    public async Task<IActionResult> OnPostOtherFoilAsync(Guid basedOn, string? foil, string? other, CancellationToken cancel)
    {
        var before = Docket.CurrentRevisionId;
        var edits = FoiledWith(foil ?? "").GroupBy(l => l.PenWidth).Select(g => (Edit)new SetFoil([.. g.Select(l => l.Id)], other, g.Key));
        var done = await Change(basedOn, new Series([.. edits], $"Foil with {other} instead of {foil}"), cancel);
        if (Docket.CurrentRevisionId == before) return done;
        await Parts.Runs.Stay(OfSheets, Me, cancel);
        return LocalRedirect(Address("run"));
    }

    /// <summary>The foil step that is asked for now; null where none is.</summary>
    public RunStep? FoilAsked => Active is { State: WorkState.Asking } a && Plan is { } plan
        && plan.Sheets[a.Sheet].Steps.ElementAtOrDefault(Math.Max(0, a.Step - 1)) is { Operation: Operation.Foil, Patches.IsEmpty: false } step ? step : null;

    /// <summary>Which corner of the foil is looked for, and where the tool is, as far as it was driven; the corners of each patch are its upper left and its
    /// lower right one, patch after patch.</summary>
    public (int Corner, Point At, bool IsThere) Probe
    {
        get
        {
            var boxes = Active!.PatchesOf(FoilAsked!);
            var corner = Math.Clamp(int.TryParse(Request.Query["corner"], CultureInfo.InvariantCulture, out var c) ? c : 0, 0, 2 * boxes.Count);
            if (corner == 2 * boxes.Count) return (corner, default, false);
            var box = boxes[corner / 2];
            return PlacesIn(Request.Query["at"]) is [var at] ? (corner, at, true)
                : (corner, corner % 2 == 0 ? new(box.Left, box.Top) : new(box.Right, box.Bottom), false);
        }
    }

    /// <summary>What of the foil step that is asked for reaches beyond the foil.</summary>
    public (ImmutableArray<int> Lines, Length Long) BeyondFoil => _beyondFoil ??= FoilAsked is { } step
        ? FoilPatches.Outside(step.Paths, Active!.PatchesOf(step)) : ([], default);

    private (ImmutableArray<int> Lines, Length Long)? _beyondFoil;

    private string ProbeAddress(int corner, Point? at) => FormattableString.Invariant($"{Address("run")}?corner={corner}")
        + (at is { } p ? FormattableString.Invariant($"&at={p.X:0.###},{p.Y:0.###}") : "");

    /// <summary>Drives the tool over where a corner of the foil is looked for.</summary>
    /// <param name="by">So much farther to the right and down, in mm: "0.5,0".</param>
    public async Task<IActionResult> OnPostDriveAsync(Guid run, int corner, double x, double y, string? by, CancellationToken cancel)
    {
        var way = PlacesIn(by) is [var b] ? b : default;
        var to = new Point(x, y) + way;
        return await Parts.Runs.Drive(Docket.Id, run, to, cancel) is { } why ? await Say(why, cancel) : LocalRedirect(ProbeAddress(corner, to));
    }

    /// <summary>Tells that the tool is over a corner of the foil.</summary>
    public async Task<IActionResult> OnPostFoilCornerAsync(Guid run, int corner, double x, double y, CancellationToken cancel)
    {
        if (await Parts.Db.Runs.AsNoTracking().FirstOrDefaultAsync(r => r.Id == run && r.DocketId == Docket.Id, cancel) is not { PlanId: { } planId } row
            || await Parts.Runs.PlanOf(planId, cancel) is not { } plan
            || plan.Sheets[row.Sheet].Steps.ElementAtOrDefault(Math.Max(0, row.Step - 1)) is not { Patches: { IsEmpty: false } } step
            || corner < 0 || corner >= 2 * step.Patches.Length || !double.IsFinite(x + y)) return Back("That run does not wait for you any more.");
        var boxes = row.PatchesOf(step).ToList();
        var box = boxes[corner / 2];
        boxes[corner / 2] = corner % 2 == 0 ? new(x, y, box.Right, box.Bottom) : new(box.Left, box.Top, x, y);
        if (corner % 2 == 1 && (x <= box.Left || y <= box.Top)) return await Say("The lower right corner lies to the right of the upper left one, and below.",
            cancel);
        await Parts.Runs.TellFoil(Docket.Id, run, boxes, cancel);
        return LocalRedirect(ProbeAddress(corner + 1, null));
    }

    /// <summary>How all sheets could be done with one tool first; null where nothing would be saved.</summary>
    public ToolRounds? Rounds { get; private set; }

    /// <summary>Whether they are done so.</summary>
    public bool ByTool => Docket.ByTool && Rounds is not null;

    /// <summary>The next round that something is left in, with the sheet and the last run of that; null where all is done, or they are not done so.</summary>
    public (int Round, int Sheet, Guid? After)? NextRound { get; private set; }

    /// <summary>How far the sheets are by rounds. A sheet of which a round is left is not done.</summary>
    private async Task ShowRounds(List<RunRow> runs, CancellationToken cancel)
    {
        Rounds = ToolRounds.Of(Plan!);
        var last = runs.Where(r => r.State == WorkState.Done && !r.IsTouchUp).GroupBy(r => r.Sheet).ToDictionary(g => g.Key, g => g.Last());
        if (Rounds is not { } rounds || !Docket.ByTool) return;
        var done = new Dictionary<int, int>();
        foreach (var (sheet, run) in last)
            if (run is { LeavesRest: true, PlanId: { } planId } && await Parts.Runs.PlanOf(planId, cancel) is { } part)
                done[sheet] = part.Sheets[sheet].Steps.Max(rounds.RoundOf);
        // The first round that any sheet is still to be in; in it the sheets in their order.
        NextRound = Enumerable.Range(0, Plan!.Sheets.Length).Where(i => !DoneSheets.Contains(i) && Plan.Sheets[i].Steps.Length > 0)
            .Select(i => (Round: Plan.Sheets[i].Steps.Select(rounds.RoundOf).Where(r => r > done.GetValueOrDefault(i)).DefaultIfEmpty(0).Min(), Sheet: i))
            .Where(n => n.Round > 0).Order().Select(n => ((int, int, Guid?)?)(n.Round, n.Sheet, last.GetValueOrDefault(n.Sheet)?.Id)).FirstOrDefault();
    }

    public async Task<IActionResult> OnPostByToolAsync(bool on, CancellationToken cancel)
    {
        await Parts.Db.Dockets.Where(d => d.Id == Docket.Id).ExecuteUpdateAsync(u => u.SetProperty(d => d.ByTool, on), cancel);
        return Back();
    }

    /// <summary>Does a round's share of a sheet.</summary>
    /// <param name="after">The last run of the sheet, where it was worked before.</param>
    /// <param name="seen">What somebody was asked for, and did.</param>
    public async Task<IActionResult> OnPostRoundAsync(int sheet, Guid? after, string? seen, CancellationToken cancel)
    {
        await ReadPage(cancel);
        if (await Parts.PlanOf(Docket, cancel) is not { Plan.CanRun: true } found) return Back("Lay out first, or choose another machine.");
        return await Parts.Runs.StartRound(Docket.Id, found.PlanId, sheet, after, IsPrepared(seen), cancel) is null
            ? Back(Busy is { } busy ? $"{found.Plan.MachineName} is at sheet {busy.Run.Sheet + 1} of docket {busy.Docket}. Wait for it, or stop that run."
                : "Nothing is left of this sheet.")
            : LocalRedirect(Address("run") + "?sheet=" + sheet);
    }

    /// <summary>The sheet that comes next: the one that is looked at, or where that is done, the first that is not. Null where all are.</summary>
    public int? Next => Plan is null || Active is not null ? null : ByTool ? NextRound?.Sheet : !DoneSheets.Contains(Sheet) ? Sheet
        : Enumerable.Range(0, Plan.Sheets.Length).Select(i => (Sheet + i) % Plan.Sheets.Length).Where(i => !DoneSheets.Contains(i)).Cast<int?>()
            .FirstOrDefault();

    /// <summary>The run of another docket that the machine is at; null where it is at none.</summary>
    public (RunRow Run, int Docket)? Busy { get; private set; }

    /// <summary>What the machine holds.</summary>
    public MachineSetup Setup { get; private set; } = MachineSetup.Unknown(1);

    /// <summary>The sheet that lies in it, in words; empty where nobody knows of any.</summary>
    public string Lying { get; private set; } = "";

    /// <summary>Whether the sheet that is looked at still lies in the machine, as far as anybody knows.</summary>
    public bool StillLies => Last is { } last && Setup.Has(last.PaperId);

    /// <summary>What is asked of hands now, the first sentence first, and a picture of it; null where nothing is going to be run.</summary>
    public (string First, string[] More, string Picture, string Seen)? Hands { get; private set; }

    /// <summary>What hands do before the steps of the sheet that is looked at, by their numbers.</summary>
    public IReadOnlyDictionary<int, string> HandsBefore { get; private set; } = new Dictionary<int, string>();

    /// <summary>What is run next where nothing runs: its plan, its sheet, and the paper that it takes.</summary>
    private async Task<(RunPlan Plan, int Sheet, Guid? Paper, bool Again)?> Upcoming(Guid layoutId, CancellationToken cancel)
    {
        if (!CanRun || Plan is not { } plan || UsualMachine is not { } machine || Active is not null) return null;
        if (ByTool && NextRound is { } round && Rounds is { } rounds)
        {
            ImmutableArray<RunStep> steps = [.. plan.Sheets[round.Sheet].Steps.Where(s => rounds.RoundOf(s) == round.Round)];
            return (RunPlanner.Round(plan, round.Sheet, steps, Drawer.ToCore(machine), rounds, round.After is null), round.Sheet,
                round.After is { } after ? await Parts.Db.Runs.Where(r => r.Id == after).Select(r => (Guid?)r.PaperId).FirstOrDefaultAsync(cancel)
                : await Parts.Runs.FreePaper(machine.Id, layoutId, round.Sheet, cancel), round.After is not null);
        }

        return Next is { } next && plan.Sheets[next].Steps.Length > 0
            ? (plan, next, await Parts.Runs.FreePaper(machine.Id, layoutId, next, cancel), false) : null;
    }

    /// <summary>Looks up what the machine holds, and what it lacks for what is run now or next.</summary>
    private async Task ReadSetup(Guid layoutId, CancellationToken cancel)
    {
        if (Plan is not { } plan || (Active is { } a ? Machines.Find(m => m.Id == a.MachineId) : UsualMachine) is not { } machine) return;
        Setup = machine.Setup;
        if (Active is null) Busy = await Parts.Runs.At(machine.Id, cancel);
        if (Setup.Sheet is { } lying && await Parts.Db.Runs.AsNoTracking().Where(r => r.PaperId == lying.Paper).OrderByDescending(r => r.StartedAt)
            .Join(Parts.Db.Dockets, r => r.DocketId, d => d.Id, (r, d) => new { r.Sheet, d.Number }).FirstOrDefaultAsync(cancel) is { } its)
            Lying = $"sheet {its.Sheet + 1} of {(its.Number == Docket.Number ? "this docket" : $"docket {its.Number}")}, its "
                + $"{(lying.Up == Face.Inner ? "inner" : "outer")} side up";
        if (Active is { } run)
        {
            var step = Math.Clamp(run.Step, 1, plan.Sheets[run.Sheet].Steps.Length);
            Show(plan, run.Sheet, step, run.PaperId, run.PaperId != run.Id, run.State == WorkState.Asking ? run.Asks : null);
        }
        else if (await Upcoming(layoutId, cancel) is { } next)
        {
            if (!ByTool && await Parts.Runs.OnSheetThere(plan, layoutId, machine.Id, next.Sheet, cancel) is var (_, left))
                There = left.Sum(s => s.Paths.Length);
            Show(next.Plan, next.Sheet, 1, next.Paper, next.Again, null);
        }

        void Show(RunPlan of, int index, int number, Guid? paper, bool again, string? asks)
        {
            var ahead = Setup.Ahead(of, index, number, paper, again);
            if (index == Sheet)
                HandsBefore = ahead.Select((s, i) => (s?.Text, At: number + i)).Where(s => s.Text is not null && s.At > number)
                    .ToDictionary(s => s.At, s => s.Text!);
            Hands = HandsFor(of, index, number, ahead[0], paper, asks ?? ahead[0]?.Text ?? $"Sheet {index + 1} lies in the machine, and all it needs is in.",
                machine);
        }
    }

    private (string First, string[] More, string Picture, string Seen) HandsFor(RunPlan plan, int index, int number, RunStop? stop, Guid? paper, string text,
        MachineRow machine)
    {
        var held = stop is null ? Setup.Holders : Setup.Prepared(plan, index, number, paper ?? Guid.NewGuid()).Holders;
        var at = text.IndexOf(". ", StringComparison.Ordinal);
        var first = at < 0 ? text : text[..(at + 1)];
        string[] more = at < 0 ? [] : text[(at + 2)..].Split(". ");
        more = [.. more.Select((m, i) => i < more.Length - 1 ? m + "." : m)];
        return (first, more, HandsSvg.Of(plan.Sheets[index], ColourOf(plan.Sheets[index]), [.. held.Select(h => h is null ? ((string, Operation)?)null
            : (h.Name, h.Operation))], stop?.Changes.Select(c => c.Holder).ToHashSet() ?? [], stop?.LaysSheet ?? false, stop?.TurnsSheet ?? false,
            Drawer.ToCore(machine)), SeenOf(text));
    }

    /// <summary>What somebody read who answers, in short.</summary>
    private static string SeenOf(string text) => Convert.ToHexStringLower(SHA256.HashData(Encoding.UTF8.GetBytes(text)))[..12];

    /// <summary>Whether hands did what is needed now: where something else was read, it is asked for.</summary>
    private bool IsPrepared(string? seen) => Hands is { } hands && (seen is null || seen == hands.Seen);

    /// <summary>Forgets what the machine holds, so that all is asked for.</summary>
    public async Task<IActionResult> OnPostForgetAsync(CancellationToken cancel) => UsualMachine is { } machine
        && await Parts.Runs.Forget(machine.Id, cancel) ? Back() : Back("The machine is at work: what it holds is known.");

    /// <summary>Goes on with a sheet where it was broken off.</summary>
    public async Task<IActionResult> OnPostGoOnAsync(Guid run, CancellationToken cancel) =>
        await Parts.Runs.GoOn(Docket.Id, run, cancel) is { } row ? LocalRedirect(Address("run") + "?sheet=" + row.Sheet)
            : Back("It can't be gone on with: nothing of it is left, or the machine has another sheet.");

    /// <summary>Does a part of a finished sheet again.</summary>
    /// <param name="steps">The numbers of the steps; none takes all.</param>
    /// <param name="x">Of the frame, in mm from the sheet's left; a line that reaches into it is done again. Without a size, all of the steps is.</param>
    /// <param name="pick">The places of lines that were chosen one by one, see <see cref="Picked"/>.</param>
    public async Task<IActionResult> OnPostTouchUpAsync(Guid run, int[] steps, string? x, string? y, string? wide, string? high, string? pick, int? passes,
        double? force, CancellationToken cancel)
    {
        if (passes is < 1 or > 20) return await Say("Passes go from 1 to 20.", cancel);
        if (force is < 0 or > 2000) return await Say("The force goes from 0 to 2,000 g.", cancel);
        Box? frame = null;
        if (!string.IsNullOrWhiteSpace(wide) || !string.IsNullOrWhiteSpace(high))
        {
            if (!LengthText.TryRead(x ?? "", LengthUnit, out var left, out var error) || !LengthText.TryRead(y ?? "", LengthUnit, out var top, out error)
                || !LengthText.TryRead(wide ?? "", LengthUnit, out var across, out error)
                || !LengthText.TryRead(high ?? "", LengthUnit, out var down, out error)) return await Say(error, cancel);
            frame = new(left.Mm, top.Mm, left.Mm + across.Mm, top.Mm + down.Mm);
        }

        var places = PlacesIn(pick);
        if (frame is null && steps.Length == 0 && places.Count == 0)
            return await Say("Draw a frame on the sheet, click its lines, or choose what is to be done again.", cancel);
        IEnumerable<SheetLine> Chosen(SheetRun sheet)
        {
            sheet = sheet.SeenFrom(Face.Outer);
            var all = frame is { } f ? sheet.LinesIn(f) : steps.Length > 0 ? sheet.LinesIn(new(0, 0, sheet.Width.Mm, sheet.Height.Mm)) : [];
            return all.Where(l => steps.Length == 0 || steps.Contains(l.Step)).Concat(Picked(sheet, places));
        }

        return await Parts.Runs.TouchUp(Docket.Id, run, Chosen, passes, force, cancel) is { } row ? LocalRedirect(Address("run") + "?sheet=" + row.Sheet)
            : await Say("No line lies there, or the machine has another sheet.", cancel);
    }

    /// <summary>How near to a line it is clicked.</summary>
    private static readonly Length Reach = Length.FromMm(5);

    /// <summary>Places on a sheet as they are in an address: "12.5,80;30,41", in mm.</summary>
    private static List<Point> PlacesIn(string? pick) => [.. (pick ?? "").Split(';').Select(p => p.Split(',')).Where(p => p.Length == 2)
        .Select(p => (Left: Number(p[0]), Top: Number(p[1]))).Where(p => double.IsFinite(p.Left + p.Top)).Select(p => new Point(p.Left, p.Top))];

    private static double Number(string text) => double.TryParse(text, CultureInfo.InvariantCulture, out var number) ? number : double.NaN;

    /// <summary>The lines at some places; one that is clicked twice is left out again.</summary>
    private static IEnumerable<SheetLine> Picked(SheetRun sheet, IEnumerable<Point> places) => places.Select(p => sheet.LineAt(p, Reach)).OfType<SheetLine>()
        .GroupBy(l => l).Where(g => g.Count() % 2 == 1).Select(g => g.Key);

    /// <summary>The lines of the sheet that were clicked, and are done again if somebody wants it.</summary>
    public ImmutableHashSet<SheetLine> Clicked { get; private set; } = [];

    /// <summary>The places of <see cref="Clicked"/>, as they are in an address.</summary>
    public string Pick { get; private set; } = "";

    public async Task<IActionResult> OnPostHoldAsync(Guid run, bool held, CancellationToken cancel)
    {
        await Parts.Runs.Hold(Docket.Id, run, held, cancel);
        return Back();
    }

    /// <summary>The settings of a finished touch-up that are not those of its stock yet.</summary>
    public ImmutableArray<MaterialSetting> Better { get; private set; } = [];

    /// <summary>Keeps the settings of a touch-up for its stock.</summary>
    public async Task<IActionResult> OnPostRememberAsync(Guid run, CancellationToken cancel)
    {
        foreach (var setting in await Parts.Runs.BetterOf(Docket.Id, run, cancel))
            await Parts.Settings.Set(setting, $"touch-up of docket {Docket.Number}", cancel);
        return Back();
    }

    /// <summary>The run that the sheet that is looked at was finished by; null where it is not.</summary>
    public RunRow? Cut => Active is null && Chain is [.., { State: WorkState.Done, LeavesRest: false } last] ? last : null;

    /// <summary>Whether something is cut out of the sheet that is looked at.</summary>
    private bool IsCutOut => Whole.Sheets[Sheet].Steps.Any(s => s.Operation == Operation.Cut);

    /// <summary>The shapes of the test card that was just made on the sheet; empty where none was.</summary>
    public ImmutableArray<RunStep> TestCells { get; private set; } = [];

    /// <summary>Runs a test card in a free corner of a sheet.</summary>
    public async Task<IActionResult> OnPostTestAsync(int sheet, string? operation, CancellationToken cancel)
    {
        if (!Operations.TryRead(operation, out var wanted) || !wanted.UsesTool()) return await Say("That operation is not known.", cancel);
        if (await Parts.PlanOf(Docket, cancel) is not { } found || UsualMachine is not { } machine) return Back("Lay out first.");
        return await Parts.Runs.Test(found.Layout, machine, sheet, wanted, cancel) is { } why ? await Say(why, cancel)
            : LocalRedirect(Address("run") + "?sheet=" + sheet);
    }

    /// <summary>Keeps what a shape of a test card was made with.</summary>
    public async Task<IActionResult> OnPostTakeTestAsync(Guid run, int step, CancellationToken cancel)
    {
        if (await Parts.Runs.OfTest(Docket.Id, run, step, cancel) is not { } setting) return Back("That shape is not there any more.");
        await Parts.Settings.Set(setting, $"test card, docket {Docket.Number}", cancel);
        return Back($"Kept: {Words.Setting(setting)}. Sheets are planned with it from now on.");
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
            || OffCuts.Kept(design, laid.Sheets[row.Sheet], whole, await Parts.Runs.SpoiledBy(row, design, laid.Sheets[row.Sheet], cancel))
                is not { } left) return Back("Nothing of that sheet is worth keeping.");
        await Parts.Drawer.Keep(laid.Sheets[row.Sheet].StockId, run, left, cancel);
        return Back();
    }

    /// <summary>Whether drawing or foiling comes first.</summary>
    public FirstMade First => Wishes.First;

    /// <summary>Read once: each step asks.</summary>
    private RunWishes Wishes => field ??= OfSheets.Wishes;

    /// <summary>The stock of the sheet that is looked at; empty where there is none.</summary>
    private string StockId { get; set; } = "";

    /// <summary>How a tool is set otherwise than the paper says; null where it is not.</summary>
    public (MaterialSetting Set, bool IsOnce)? OwnOf(RunStep step) => Wishes.Of(StockId, step.ToolKind);

    /// <summary>Sets how a tool works the paper of a sheet: for this docket, for its next run, or whenever that paper is worked; or as the paper
    /// says.</summary>
    /// <param name="of">"docket", "run", "paper" or "none".</param>
    public async Task<IActionResult> OnPostSetStepAsync(int sheet, string? tool, int passes, double force, double speed, string? depth, string? of,
        CancellationToken cancel)
    {
        await OnGetAsync(sheet, cancel);
        if (Active is not null || Plan?.Sheets.ElementAtOrDefault(sheet)?.Steps.FirstOrDefault(s => s.ToolKind == tool) is not { } step || StockId.Length == 0)
            return Back("That can't be set now: wait until the run is over.");
        var wishes = Wishes;
        if (of == "none")
        {
            await Parts.Runs.Wish(OfSheets.Id, wishes.Without(StockId, step.ToolKind), cancel);
            return Back();
        }

        if (passes is < 1 or > 20 || force is < 0 or > 2000 || speed is < 1 or > 2000)
            return Back("Passes go from 1 to 20, the force from 0 to 2000 g, the speed from 1 to 2000 mm/s.");
        if (!ReadWay(depth, out var blade, out var error)) return Back(error);
        // What is typed is a level of the machine's, where it has such.
        if (step.ForceLevels > 0 && UsualMachine is { } machine) force = Drawer.ToCore(machine).GramsOf((int)Math.Min(force, step.ForceLevels));
        var set = new MaterialSetting(StockId, step.ToolKind, passes, force, speed)
        {
            Depth = blade.Mm > 0 ? blade : null,
            Overcut = step.Operation == Core.Cards.Operation.Cut ? step.Overcut : null,
            Lift = step.Lift,
            PassesTogether = step.PassesTogether && passes > 1,
        };
        if (of != "paper")
        {
            await Parts.Runs.Wish(OfSheets.Id, wishes.With(set, of == "run"), cancel);
            return Back();
        }

        await Parts.Settings.Set(set, $"docket {Docket.Number}", cancel);
        await Parts.Runs.Wish(OfSheets.Id, wishes.Without(StockId, step.ToolKind), cancel);
        return Back($"Kept: {Words.Setting(set)}. Sheets of this paper are planned with it from now on.");
    }

    /// <summary>Says whether drawing or foiling comes first.</summary>
    public async Task<IActionResult> OnPostOrderAsync(FirstMade first, CancellationToken cancel)
    {
        if (!Enum.IsDefined(first)) return Back();
        await Parts.Runs.Wish(OfSheets.Id, Wishes with { First = first }, cancel);
        return Back();
    }

    /// <summary>Whether the sheets can stay as they lie although the docket was changed since.</summary>
    public bool MayStay { get; private set; }

    private Task<bool> MayStayAs(LayoutRow layout, CancellationToken cancel) => Parts.Memory.GetOrCreateAsync(
        ("stay", layout.Id, LayoutJob.Drawer(Stocks), string.Join(' ', Companions.Prepend(OfSheets).Select(d => (d.CurrentRevisionId, d.Copies)))), entry =>
        {
            entry.Size = 100;
            return Parts.Runs.CanStay(layout, OfSheets, cancel);
        });

    /// <summary>How many lines are new on the next sheet, which lies in the machine as an earlier layout had it; 0 where it does not.</summary>
    public int There { get; private set; }

    /// <summary>Keeps the sheets as they lie for what the docket is now.</summary>
    public async Task<IActionResult> OnPostStayAsync(CancellationToken cancel) => await Parts.Runs.Stay(OfSheets, Me, cancel) ? Back()
        : Back("The pieces don't lie well there any more: lay out again.");

    /// <summary>Does what is new on the sheet that lies in the machine.</summary>
    public async Task<IActionResult> OnPostThereAsync(int sheet, CancellationToken cancel)
    {
        await OnGetAsync(sheet, cancel);
        if (!CanRun || await Parts.PlanOf(Docket, cancel) is not { } found) return Back("Lay out first.");
        return await Parts.Runs.StartThere(Docket.Id, found.PlanId, sheet, cancel) is not null ? LocalRedirect(Address("run") + "?sheet=" + sheet)
            : Back(Busy is null ? "That sheet does not lie in the machine any more, or nothing is new on it." : $"{found.Plan.MachineName} is busy.");
    }

    /// <param name="loaded">Whether hands did what the sheet needs.</param>
    /// <param name="seen">What they were asked for.</param>
    public async Task<IActionResult> OnPostStartAsync(int sheet, bool loaded, string? seen, CancellationToken cancel)
    {
        await OnGetAsync(sheet, cancel);
        if (Plan is { CanRun: true } && !CanRun) return Back("A patch of foil is larger than any in the drawer. Get larger foil, or change its lines, first.");
        return await Start(sheet, loaded && Next == sheet && IsPrepared(seen), cancel);
    }

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

    private (string Says, bool IsWhole) AgreementOf(RunRow run, SheetRun sheet, List<DoneStroke> done, bool isTold)
    {
        // Comparing takes its time on a full sheet, and what is over stays as it is.
        if (Parts.Memory.TryGetValue((nameof(RunAgreement), run.Id), out (string, bool) known)) return known;
        var agreement = RunAgreement.Of(sheet, done);
        var said = run.LeavesRest && run.State == WorkState.Done ? "The rest comes in a later round." : run.State == WorkState.Done ? agreement.Describe()
            : agreement.Missing == 0 ? "All of it was done." : $"{Words.Run(agreement.MissingLength)} of it are left to do.";
        if (!isTold) said += " The machine can't tell what it did: this is what it was sent.";
        return Parts.Memory.Set((nameof(RunAgreement), run.Id), (said, agreement.Missing == 0), new MemoryCacheEntryOptions { Size = 1000 });
    }
}
