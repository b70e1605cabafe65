using Falzkunst.Core.Cards;

namespace Falzkunst.Core.Runs;

/// <summary>
/// All sheets with one tool first, then all with the next: each sheet is laid in once a round, and in a round no tool is changed. The best split of the tools,
/// in the order of work, into rounds that the holders have room for (dynamic programming; cost: the tools squared).
/// </summary>
/// <param name="Rounds">The ids of the tools of each round, each in its holder, from 1.</param>
/// <param name="SavesSeconds">What a person saves by it; see <see cref="ChangeSeconds"/> and <see cref="LaySeconds"/>.</param>
public sealed record ToolRounds(ImmutableArray<ImmutableDictionary<string, int>> Rounds, double SavesSeconds)
{
    /// <summary>What it takes a person to put another tool in, and to take a sheet off and lay another in; reckoned, not measured.</summary>
    public const double ChangeSeconds = 40, LaySeconds = 30;

    /// <summary>Less is not worth a word.</summary>
    private const double LeastSeconds = 60;

    /// <summary>How the sheets of a plan could be done by rounds; null where nothing is saved, or where a sheet must not be unloaded between its tools: with
    /// foil on it, with work on both sides, or where it is cut on its print.</summary>
    public static ToolRounds? Of(RunPlan plan)
    {
        List<RunStep> steps = [.. plan.Sheets.SelectMany(s => s.Steps)];
        if (plan.Sheets.Length < 2 || plan.Sheets.Any(s => s.Marks is not null)
            || steps.Exists(s => s.Operation == Operation.Foil || s.Face == Face.Inner)) return null;
        List<RunStep> tools = [.. steps.DistinctBy(s => s.ToolId).OrderBy(s => s.Operation == Operation.Cut ? int.MaxValue : (int)s.Operation)
            .ThenBy(s => s.Pen)];
        // best[k]: the least cost of the first k tools, and where the last round of it begins.
        var best = new (double Cost, int From)[tools.Count + 1];
        for (var k = 1; k <= tools.Count; k++)
        {
            best[k] = (double.PositiveInfinity, -1);
            for (var from = k - 1; from >= 0 && k - from <= Math.Max(1, plan.Holders); from--)
            {
                if (Holders(tools[from..k], plan.Holders) is null) continue;
                HashSet<string> ids = [.. tools[from..k].Select(t => t.ToolId)];
                var sheets = plan.Sheets.Count(s => s.Steps.Any(t => ids.Contains(t.ToolId)));
                var cost = best[from].Cost + ChangeSeconds * (k - from) + LaySeconds * sheets + tools[from..k].Sum(t => t.HeatSeconds);
                if (cost < best[k].Cost) best[k] = (cost, from);
            }
        }

        var usual = ChangeSeconds * steps.Sum(s => s.Stop?.Changes.Length ?? 0) + LaySeconds * plan.Sheets.Length + steps.Sum(s => s.WaitSeconds);
        if (!(usual - best[^1].Cost >= LeastSeconds)) return null;
        var rounds = new List<ImmutableDictionary<string, int>>();
        for (var k = tools.Count; k > 0; k = best[k].From) rounds.Insert(0, Holders(tools[best[k].From..k], plan.Holders)!);
        return rounds.Count < 2 ? null : new([.. rounds], usual - best[^1].Cost);
    }

    /// <summary>The round that a step belongs to, from 1.</summary>
    public int RoundOf(RunStep step) => 1 + Rounds.ToList().FindIndex(r => r.ContainsKey(step.ToolId));

    /// <summary>Of what is left to do on a sheet, what belongs to the first round that any of it does; and whether there are others.</summary>
    /// <param name="left">At least one step.</param>
    public (ImmutableArray<RunStep> Steps, bool LeavesRest) FirstOf(IReadOnlyCollection<RunStep> left)
    {
        var first = left.Min(RoundOf);
        return ([.. left.Where(s => RoundOf(s) == first)], left.Any(s => RoundOf(s) > first));
    }

    /// <summary>Which holder each of some tools goes into; null where they are too many.</summary>
    private static ImmutableDictionary<string, int>? Holders(List<RunStep> tools, int holders)
    {
        var taken = ImmutableDictionary.CreateBuilder<string, int>(StringComparer.Ordinal);
        // Those that go into one only choose first.
        foreach (var tool in tools.OrderBy(t => t.OnlyHolder is null))
        {
            var free = Enumerable.Range(1, holders).Where(h => !taken.ContainsValue(h) && (tool.OnlyHolder ?? h) == h).ToList();
            if (free.Count == 0) return null;
            taken[tool.ToolId] = free[0];
        }

        return taken.ToImmutable();
    }
}
