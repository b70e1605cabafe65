using System.Text.Json.Serialization;
using Falzkunst.Core.Cards;
using Falzkunst.Core.Looks;

namespace Falzkunst.Core.Runs;

/// <summary>A tool that is in a holder.</summary>
/// <param name="Depth">How far its blade was set out by hand; null where nobody knows, or it has none.</param>
public sealed record HeldTool(string Id, string Name, Operation Operation, Length? Depth)
{
    /// <summary>How wide a line it makes; zero for what cuts.</summary>
    [JsonIgnore(Condition = JsonIgnoreCondition.WhenWritingDefault)]
    public Length Width { get; init; }

    /// <summary>The colour that it draws with; null for any.</summary>
    [JsonIgnore(Condition = JsonIgnoreCondition.WhenWritingNull)]
    public Colour? Ink { get; init; }
}

/// <summary>Foil that is taped to a sheet.</summary>
/// <param name="Patches">Where it was asked for, in mm on the sheet.</param>
/// <param name="IsFresh">Whether nothing was made through it yet.</param>
public sealed record TapedFoil(string? Name, ImmutableArray<Box> Patches, bool IsFresh);

/// <summary>The sheet that lies in a machine.</summary>
/// <param name="Paper">Which one it is: the id of the run that it was taken for.</param>
/// <param name="Up">The side of it that lies up.</param>
public sealed record LyingSheet(Guid Paper, Face Up)
{
    [JsonIgnore(Condition = JsonIgnoreCondition.WhenWritingNull)]
    public TapedFoil? Foil { get; init; }

    /// <summary>The tool whose ink is wet yet; null where all is dry.</summary>
    [JsonIgnore(Condition = JsonIgnoreCondition.WhenWritingNull)]
    public string? WetBy { get; init; }

    /// <summary>How long that dries.</summary>
    [JsonIgnore(Condition = JsonIgnoreCondition.WhenWritingDefault)]
    public double DrySeconds { get; init; }
}

/// <summary>
/// What a machine holds: its tools, and the sheet that lies in it with the foil on it. Whatever is run, from whatever state: what hands do before a step is
/// what this lacks for it, so that no tool works that was not asked for, on a side that was not, and nothing is asked for twice.
/// </summary>
/// <param name="Holders">What is in each; null where nobody knows, or nothing is.</param>
/// <param name="Sheet">Null where nobody knows, or none lies in it.</param>
public sealed record MachineSetup(ImmutableArray<HeldTool?> Holders, LyingSheet? Sheet)
{
    /// <summary>Blades are set by a scale that is no finer.</summary>
    private const double SameDepthMm = 0.005;

    /// <summary>A machine of which nothing is known.</summary>
    public static MachineSetup Unknown(int holders) => new([.. new HeldTool?[Math.Max(1, holders)]], null);

    /// <summary>The same on a machine with so many holders: one that is not there any more holds nothing.</summary>
    public MachineSetup On(int holders) => Holders.Length == Math.Max(1, holders) ? this
        : this with { Holders = [.. Enumerable.Range(0, Math.Max(1, holders)).Select(i => Holders.ElementAtOrDefault(i))] };

    /// <summary>Whether a sheet lies in it; never where it was not taken for any run yet.</summary>
    public bool Has(Guid? paper) => paper is { } p && Sheet?.Paper == p;

    /// <summary>What hands do so that a tool is in, as a sentence; null where it is.</summary>
    public string? Lacks(Tool tool) => Holders.Any(h => h?.Id == tool.Id) ? null
        : Tool.PutIn(tool.Name, HolderFor(tool) + 1, Holders.Length, Holders[HolderFor(tool)]?.Name);

    /// <summary>The machine once that is done.</summary>
    public MachineSetup Holding(Tool tool) => Lacks(tool) is null ? this
        : this with { Holders = Holders.SetItem(HolderFor(tool), new(tool.Id, tool.Name, tool.Operation, null) { Width = tool.Width, Ink = tool.Ink }) };

    /// <summary>Its only holder, or the first that is free, or the last.</summary>
    private int HolderFor(Tool tool) => tool.OnlyHolder is { } only && only <= Holders.Length ? only - 1
        : Holders.IndexOf(null) is var free && free >= 0 ? free : Holders.Length - 1;

    /// <summary>What hands do before a step; null where all is as it must be.</summary>
    /// <param name="sheet">Of the plan, from 0.</param>
    /// <param name="step">From 1.</param>
    /// <param name="paper">Which sheet of paper is worked; null for one that is still in the drawer.</param>
    /// <param name="again">Whether that paper was in a machine before.</param>
    public RunStop? Before(RunPlan plan, int sheet, int step, Guid? paper, bool again)
    {
        var (whole, its, lies, puts) = (plan.Sheets[sheet], plan.Sheets[sheet].Steps[step - 1], Has(paper), Puts(plan, sheet, step));
        var turns = lies && Sheet!.Up != its.Face;
        var tapes = Tapes(its, whole.Part, lies && !turns ? Sheet!.Foil : null);
        var peels = lies && Sheet!.Foil is not null && (turns || tapes || its.Operation != Operation.Foil);
        var dries = lies && Sheet!.WetBy is { } wet && wet != its.ToolId ? Sheet.DrySeconds : 0;
        var blades = Blades(plan, sheet, step, puts);
        if (lies && !turns && !tapes && !peels && dries <= 0 && !puts.Exists(p => p.For.ToolId == its.ToolId) && !blades.Exists(b => b.ToolId == its.ToolId))
            return null;

        var says = new List<string>();
        if (!lies) says.Add(plan.Laying(sheet, its.Face, again));
        else says.AddRange(Deeds(dries, peels, turns, plan.IsRoll));
        if (tapes && lies) says.Add(RunPlan.Taping(its));
        if (puts.Count > 0 && Holders.All(h => h is null))
            says.Add($"Have {string.Join(" and ", puts.Select(p => Tool.InHolder(p.For.ToolName, p.Holder + 1, Holders.Length, p.For.Depth)))}.");
        else
            says.AddRange(puts.Select(p => Tool.PutIn(p.For.ToolName, p.Holder + 1, Holders.Length,
                // One that goes into another holder does not come out.
                Holders[p.Holder] is { } there && !puts.Exists(o => o.For.ToolId == there.Id) ? there.Name : null, p.For.Depth)));
        says.AddRange(blades.Select(b => $"Set the blade of the {Tool.InSentence(b.ToolName)} {b.Depth} out"
            + $"{(lies ? ", and leave the sheet where it is" : "")}."));
        if (tapes && !lies) says.Add(RunPlan.Taping(its));
        return new(string.Join(' ', says), [.. puts.Select(p => new HolderChange(p.Holder + 1, p.For.ToolId, Holders[p.Holder]?.Id))])
        {
            TurnsSheet = turns,
            LaysSheet = !lies,
        };
    }

    /// <summary>The machine once hands have done what <see cref="Before"/> asks for.</summary>
    public MachineSetup Prepared(RunPlan plan, int sheet, int step, Guid paper)
    {
        var its = plan.Sheets[sheet].Steps[step - 1];
        var (puts, lies) = (Puts(plan, sheet, step), Has(paper));
        var blades = Blades(plan, sheet, step, puts);
        var held = Holders.Select(h => puts.Exists(p => p.For.ToolId == h?.Id) ? null
            : blades.Find(b => b.ToolId == h?.Id) is { } set ? h! with { Depth = set.Depth } : h).ToArray();
        foreach (var (holder, tool) in puts)
            held[holder] = new(tool.ToolId, tool.ToolName, tool.Operation, tool.Depth) { Width = tool.Width, Ink = tool.Ink };
        var foil = lies && Sheet!.Up == its.Face && its.Operation == Operation.Foil ? Sheet.Foil : null;
        return new([.. held], new(paper, its.Face) { Foil = Tapes(its, plan.Sheets[sheet].Part, foil) ? new(its.Foil, its.Patches, true) : foil });
    }

    /// <summary>The machine once a step is begun.</summary>
    public MachineSetup Worked(RunStep step) => Sheet is null ? this : this with
    {
        Sheet = Sheet with
        {
            Foil = step.Operation == Operation.Foil && Sheet.Foil is { } foil ? foil with { IsFresh = false } : Sheet.Foil,
            WetBy = step.DrySeconds > 0 ? step.ToolId : null,
            DrySeconds = step.DrySeconds,
        },
    };

    /// <summary>What hands will do before each step of a sheet, from one on, if all goes well.</summary>
    public ImmutableArray<RunStop?> Ahead(RunPlan plan, int sheet, int step, Guid? paper, bool again)
    {
        var (now, stops) = (this, ImmutableArray.CreateBuilder<RunStop?>());
        for (; step <= plan.Sheets[sheet].Steps.Length; step++)
        {
            stops.Add(now.Before(plan, sheet, step, paper, again));
            paper ??= Guid.NewGuid();
            now = (stops[^1] is null ? now : now.Prepared(plan, sheet, step, paper.Value)).Worked(plan.Sheets[sheet].Steps[step - 1]);
        }

        return stops.ToImmutable();
    }

    /// <summary>What a person does to a sheet that lies in the machine, in order.</summary>
    /// <param name="drySeconds">How long its ink dries before.</param>
    internal static IEnumerable<string> Deeds(double drySeconds, bool peels, bool turns, bool isRoll)
    {
        if (drySeconds > 0) yield return $"Let the ink dry for {drySeconds:0} s.";
        if (peels) yield return turns ? "Peel the foil off." : $"Peel the foil off, and leave the {(isRoll ? "sheet where it is" : "mat in the machine")}.";
        if (turns) yield return "Turn the sheet over, left to right, into the same corner. The edge that lay to the right lies to the left now.";
    }

    /// <summary>Whether foil is taped down for a step. Where it was made through, only the rest of what it was taped down for finds something of it, and the
    /// next shape of a test card.</summary>
    private static bool Tapes(RunStep step, SheetPart part, TapedFoil? foil) => step.Operation == Operation.Foil && !step.Patches.IsEmpty
        && !(foil is not null && foil.Name == step.Foil && (foil.IsFresh || part is SheetPart.Rest or SheetPart.Test)
            && step.Patches.All(p => foil.Patches.Any(f => f.Grown(Tolerances.Same).Holds(p))));

    /// <summary>The steps from one on whose tools are to be in by then: its own, and those that the plan puts in early, each once.</summary>
    private static List<RunStep> Wanted(RunPlan plan, int sheet, int step)
    {
        var planned = plan.HoldersFor(sheet, step);
        return [.. plan.Sheets[sheet].Steps.Skip(step - 1).DistinctBy(s => s.ToolId).Where((s, i) => i == 0 || planned.Contains(s.ToolId))];
    }

    /// <summary>The tools that stay in, with their blades set out otherwise than they must be.</summary>
    private List<RunStep> Blades(RunPlan plan, int sheet, int step, List<(int Holder, RunStep For)> puts) => Wanted(plan, sheet, step).FindAll(s =>
        s.Depth is { } depth && !puts.Exists(p => p.For.ToolId == s.ToolId)
        && Holders.Any(h => h?.Id == s.ToolId && h.Depth is { } set && Math.Abs(set.Mm - depth.Mm) > SameDepthMm));

    /// <summary>Which tools go into which holders, from 0: where the plan has them, unless one that stays lies there.</summary>
    private List<(int Holder, RunStep For)> Puts(RunPlan plan, int sheet, int step)
    {
        var (planned, wanted) = (plan.HoldersFor(sheet, step), Wanted(plan, sheet, step));
        var taken = Enumerable.Range(0, Holders.Length).Where(h => wanted.Exists(w => w.ToolId == Holders[h]?.Id)).ToHashSet();
        var puts = new List<(int Holder, RunStep For)>();
        foreach (var tool in wanted.Where(w => !Holders.Any(h => h?.Id == w.ToolId)))
        {
            var at = planned.IndexOf(tool.ToolId);
            if (at < 0 || at >= Holders.Length || taken.Contains(at))
                at = Enumerable.Range(0, Holders.Length)
                    .Where(h => !taken.Contains(h) && (tool.OnlyHolder is not { } only || only > Holders.Length || only == h + 1))
                    .OrderBy(h => Holders[h] is not null).Cast<int?>().FirstOrDefault() ?? -1;
            // One that stays lies in the only holder that takes it: all as it was planned.
            if (at < 0) return [.. wanted.Select(w => (planned.IndexOf(w.ToolId), w)).Where(p => p.Item1 >= 0 && Holders[p.Item1]?.Id != p.w.ToolId)
                .OrderBy(p => p.Item1)];
            taken.Add(at);
            puts.Add((at, tool));
        }

        return [.. puts.OrderBy(p => p.Holder)];
    }
}
