using Falzkunst.Core.Cards;

namespace Falzkunst.Core.Runs;

/// <summary>
/// Which tool goes into which holder when, and in which order tools that may change places do, so that as few as possible have to be put in over all sheets:
/// the best way through all that holders can hold, step by step (dynamic programming over sheets). Then tools are put in as early as their holders are free,
/// where a person stands at the machine anyway.
/// </summary>
/// <remarks>Guarantee: the fewest changes there are, while no more than <see cref="MostStates"/> ways to fill the holders matter at once and no more than
/// <see cref="MostFree"/> tools of a sheet may change places. Cost: sheets, times those, times the orders of the tools.</remarks>
public static class ToolChanges
{
    public const int MostStates = 4000, MostFree = 5;

    /// <summary>A tool's work on a sheet; those of a group may be done in any order.</summary>
    public readonly record struct Need(Tool Tool, int Group);

    /// <summary>The order of each sheet's needs, by their indices, and for each of them in that order what is put in before it.</summary>
    public sealed record Result(ImmutableArray<ImmutableArray<int>> Orders, ImmutableArray<ImmutableArray<ImmutableArray<(int Holder, Tool Tool)>>> Puts);

    /// <param name="Cost">Of ways with as many changes the one is better that takes fewer tools out: what goes into a free holder can go in early.</param>
    private sealed record State(Tool?[] Holders, (int Changes, int Swaps) Cost, State? Before, ImmutableArray<int> Order,
        ImmutableArray<(int Need, int Holder)> Puts);

    /// <param name="sheets">The needs of each sheet, in an order in which they may be done.</param>
    /// <param name="holders">How many there are; a tool whose only holder is not among them goes into any.</param>
    public static Result Of(IReadOnlyList<IReadOnlyList<Need>> sheets, int holders)
    {
        var states = new Dictionary<string, State> { [""] = new(new Tool?[holders], default, null, [], []) };
        foreach (var needs in sheets)
        {
            var next = new Dictionary<string, State>(StringComparer.Ordinal);
            foreach (var order in Orders(needs))
                foreach (var state in states.Values)
                    foreach (var done in Through(state, needs, order, holders))
                    {
                        var key = string.Join('|', done.Holders.Select(t => t?.Id));
                        if (!next.TryGetValue(key, out var known) || done.Cost.CompareTo(known.Cost) < 0) next[key] = done;
                    }

            states = next.Count <= MostStates ? next : next.OrderBy(s => s.Value.Cost).Take(MostStates)
                .ToDictionary(s => s.Key, s => s.Value, StringComparer.Ordinal);
        }

        var steps = new Stack<State>();
        for (var s = states.OrderBy(s => s.Value.Cost).First().Value; s.Before is not null; s = s.Before)
            steps.Push(s);
        return Early(sheets, [.. steps], holders);
    }

    /// <summary>The orders that a sheet's needs may be done in: the one that is given first.</summary>
    private static List<ImmutableArray<int>> Orders(IReadOnlyList<Need> needs)
    {
        List<ImmutableArray<int>> all = [[]];
        foreach (var group in Enumerable.Range(0, needs.Count).GroupBy(i => needs[i].Group))
        {
            ImmutableArray<int> members = [.. group];
            var ways = members.Length is 1 or > MostFree ? [members] : Permuted(members);
            all = [.. all.SelectMany(a => ways.Select(w => a.AddRange(w)))];
        }

        return all;
    }

    private static List<ImmutableArray<int>> Permuted(ImmutableArray<int> items) => items.Length < 2 ? [items]
        : [.. items.SelectMany(first => Permuted(items.Remove(first)).Select(rest => rest.Insert(0, first)))];

    private static IEnumerable<State> Through(State from, IReadOnlyList<Need> needs, ImmutableArray<int> order, int holders)
    {
        var now = new List<(Tool?[] Holders, (int Changes, int Swaps) Cost, ImmutableArray<(int, int)> Puts)> { (from.Holders, from.Cost, []) };
        foreach (var need in order)
        {
            var tool = needs[need].Tool;
            var then = new List<(Tool?[], (int, int), ImmutableArray<(int, int)>)>();
            foreach (var (held, cost, puts) in now)
            {
                if (Array.Exists(held, t => t?.Id == tool.Id))
                {
                    then.Add((held, cost, puts));
                    continue;
                }

                // A free holder is not always better: a tool may come that goes into no other.
                for (var at = 0; at < holders; at++)
                {
                    if (tool.OnlyHolder is { } only && only <= holders && only != at + 1) continue;
                    var filled = (Tool?[])held.Clone();
                    filled[at] = tool;
                    then.Add((filled, (cost.Changes + 1, cost.Swaps + (held[at] is null ? 0 : 1)), puts.Add((need, at))));
                }
            }

            now = then;
        }

        return now.Select(n => new State(n.Holders, n.Cost, from, order, n.Puts));
    }

    /// <summary>Each tool is put in at the last stop that there is anyway while its holder is not needed for another; a sheet is such a stop.</summary>
    private static Result Early(IReadOnlyList<IReadOnlyList<Need>> sheets, ImmutableArray<State> steps, int holders)
    {
        // All steps in a row: what they need, and whether a sheet begins with them.
        var row = new List<(Tool Tool, bool Begins)>();
        var puts = new List<List<(int Holder, Tool Tool)>>();
        for (var s = 0; s < sheets.Count; s++)
            for (var k = 0; k < steps[s].Order.Length; k++)
            {
                var need = steps[s].Order[k];
                row.Add((sheets[s][need].Tool, k == 0));
                puts.Add([.. steps[s].Puts.Where(p => p.Need == need).Select(p => (p.Holder, sheets[s][need].Tool))]);
            }

        var held = new Tool?[holders];
        for (var i = 0; i < row.Count; i++)
        {
            foreach (var (holder, tool) in puts[i].ToList())
            {
                var stop = row[i].Begins ? i : -1;
                for (var k = i - 1; stop < 0 && k >= 0 && row[k].Tool.Id != held[holder]?.Id && !puts[k].Exists(p => p.Holder == holder); k--)
                    if (row[k].Begins || puts[k].Count > 0) stop = k;
                if (stop >= 0 && stop != i)
                {
                    puts[i].Remove((holder, tool));
                    puts[stop].Add((holder, tool));
                }

                held[holder] = tool;
            }
        }

        var (at, all) = (0, ImmutableArray.CreateBuilder<ImmutableArray<ImmutableArray<(int, Tool)>>>());
        foreach (var step in steps)
        {
            all.Add([.. puts.Skip(at).Take(step.Order.Length).Select(p => p.ToImmutableArray())]);
            at += step.Order.Length;
        }

        return new([.. steps.Select(s => s.Order)], all.ToImmutable());
    }
}
