using System.Runtime.CompilerServices;
using Falzkunst.Core.Cards;
using Falzkunst.Core.Findings;
using Falzkunst.Core.Printing;
using Falzkunst.Core.Runs;
using Falzkunst.Core.Strength;
using Falzkunst.Store;
using Hangfire;
using Microsoft.EntityFrameworkCore;
using Microsoft.Extensions.Caching.Memory;

namespace Falzkunst.Web;

/// <summary>What the pages of a docket work with; one for each request.</summary>
public sealed class DocketParts(FalzkunstContext db, Revisions revisions, Drawer drawer, LayoutJob layouts, Runs runs, Incoming incoming,
    KeptThings kept, Calibrations calibrations, IBackgroundJobClient queue, IMemoryCache memory, TimeProvider clock, Inspector inspector, HandLayouts byHand,
    LaidTogether together, SettingsPast settings, IServiceScopeFactory scopes, Presence presence)
{
    // Findings follow from the design and the drawer alone, and designs are immutable: found once, shown on every page.
    private static readonly ConditionalWeakTable<Design, Found> Findings = [];

    public FalzkunstContext Db => db;

    public Revisions Revisions => revisions;

    public Drawer Drawer => drawer;

    public Inspector Inspector => inspector;

    public LayoutJob Layouts => layouts;

    public HandLayouts ByHand => byHand;

    public LaidTogether Together => together;

    public SettingsPast Settings => settings;

    public Runs Runs => runs;

    public Incoming Incoming => incoming;

    public KeptThings OnShelf => kept;

    public Calibrations Calibrations => calibrations;

    public IBackgroundJobClient Queue => queue;

    public IMemoryCache Memory => memory;

    public TimeProvider Clock => clock;

    public IServiceScopeFactory Scopes => scopes;

    public Presence Presence => presence;

    /// <summary>What a file chooser offers.</summary>
    public const string Accepted = ".svg,.svgz,.dxf,.png,.jpg,.jpeg,.webp,.zip,.json,image/svg+xml,image/png,image/jpeg,image/webp,application/zip";

    /// <summary>The files of a form, in memory.</summary>
    public static async Task<List<BroughtFile>> Brought(IEnumerable<IFormFile> files, CancellationToken cancel)
    {
        var brought = new List<BroughtFile>();
        foreach (var file in files)
        {
            using var bytes = new MemoryStream();
            await file.CopyToAsync(bytes, cancel);
            // Browsers send the path within a folder that was chosen or dropped as a whole.
            var path = file.FileName.Replace('\\', '/');
            brought.Add(new(Path.GetFileName(path), bytes.ToArray(), Path.GetFileName(Path.GetDirectoryName(path)) ?? ""));
        }

        return brought;
    }

    /// <summary>The look table of a design, made once.</summary>
    public static IReadOnlyList<LookRow> LooksOf(Design design) => LookTables.GetValue(design, LookTable.Of);

    private static readonly ConditionalWeakTable<Design, IReadOnlyList<LookRow>> LookTables = [];

    /// <summary>The separate designs on a page, where it is a collection; found once.</summary>
    public static IReadOnlyList<Part> CollectionOf(Design design) => Collections.GetValue(design, Core.Cards.Parts.Of);

    private static readonly ConditionalWeakTable<Design, IReadOnlyList<Part>> Collections = [];

    /// <summary>What is in doubt of a design; found once.</summary>
    public static IReadOnlyList<Doubt> DoubtsOf(Design design) => Doubts.GetValue(design, static d => new(Core.Cards.Doubts.Of(d))).Value;

    private sealed record Kept(IReadOnlyList<Doubt> Value);

    private static readonly ConditionalWeakTable<Design, Kept> Doubts = [];

    private sealed record Found(string Drawer, IReadOnlyList<Finding> Findings);

    /// <param name="waiting">How many pieces were not inspected yet.</param>
    public static IReadOnlyList<Finding> FindingsOf(Design design, IReadOnlyList<Stock> stocks, Length foldSetback, int waiting)
    {
        // What is inspected in the meantime is found too.
        var key = $"{LayoutJob.Drawer(stocks)}{foldSetback.Mm}{string.Join(';', stocks.Select(s => s.Bears))}{waiting}";
        if (Findings.TryGetValue(design, out var known) && known.Drawer == key) return known.Findings;
        var found = new Found(key, FindingList.Of(new(design, stocks, foldSetback)));
        Findings.AddOrUpdate(design, found);
        return found.Findings;
    }

    /// <summary>The pieces that were not inspected yet.</summary>
    public static IReadOnlyList<Piece> Waiting(Design design, IReadOnlyList<Stock> stocks) =>
        [.. design.Papers.Where(p => !Inspection.IsKnown(p.Outline, Core.Cards.Stocks.Bears(design, p, stocks)))];

    /// <summary>The newest layout of a docket that has something to show.</summary>
    public Task<LayoutRow?> LatestLayout(Guid docketId, CancellationToken cancel) =>
        LayoutJob.Newest(db, docketId).FirstOrDefaultAsync(cancel);

    /// <summary>The machine of a docket; the first where it has none; null where there is none at all.</summary>
    public async Task<MachineRow?> MachineOf(Docket docket, CancellationToken cancel)
    {
        var machines = await drawer.Machines(cancel);
        return machines.Find(m => m.Id == docket.MachineId) ?? machines.FirstOrDefault();
    }

    /// <summary>What was found out of a docket's machine and printer; null where nothing was.</summary>
    public async Task<CalibrationRow?> CalibrationOf(Docket docket, CancellationToken cancel) =>
        await MachineOf(docket, cancel) is { } machine ? await calibrations.Of(machine.Id, docket.Printer, cancel) : null;

    /// <summary>The sheets of a layout as they are printed; null where there is no layout yet, or its design is gone. Remembered for a while.</summary>
    public async Task<IReadOnlyList<PrintSheet>?> PrintSheets(Docket docket, LayoutRow layout, CancellationToken cancel)
    {
        var key = ("print", layout.Id, layout.State, docket.Name);
        if (memory.TryGetValue(key, out IReadOnlyList<PrintSheet>? known)) return known;
        if (LayoutJob.Read(layout) is not { } laid || await together.DesignOf(layout, cancel) is not { } design) return null;
        var sheets = await Task.Run(() => PrintFile.Sheets(design, laid, docket.Name), cancel);
        return memory.Set(key, (IReadOnlyList<PrintSheet>)sheets, new MemoryCacheEntryOptions { Size = 3_000_000 });
    }

    /// <summary>The plan of the newest finished layout on the docket's machine; null where its pieces lie on another docket's sheets.</summary>
    public async Task<(LayoutRow Layout, Guid PlanId, RunPlan Plan)?> PlanOf(Docket docket, CancellationToken cancel)
    {
        if (await together.LeaderOf(docket, cancel) is not null) return null;
        var layout = await LatestLayout(docket.Id, cancel);
        if (layout is not { State: WorkState.Done or WorkState.Stopped, Document.Length: > 0 }) return null;
        if (await MachineOf(docket, cancel) is not { } machine) return null;
        return await runs.PlanOf(layout, machine, cancel) is { } plan ? (layout, plan.Id, plan.Plan) : null;
    }
}
