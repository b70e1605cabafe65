using System.Text.Json.Serialization;

namespace Falzkunst.Core.Runs;

/// <summary>What is made first of what may be made in any order.</summary>
public enum FirstMade
{
    /// <summary>Whichever needs fewer changes of tools.</summary>
    Either,
    Drawn,
    Foiled,
}

/// <summary>How a docket is run otherwise than its papers say.</summary>
/// <param name="Settings">Numbers that stand in place of those of a paper and a tool, on all its sheets.</param>
/// <param name="Once">The same for its next run only; those go before the others.</param>
public sealed record RunWishes(ImmutableArray<MaterialSetting> Settings, ImmutableArray<MaterialSetting> Once, FirstMade First = FirstMade.Either)
{
    public static RunWishes None { get; } = new([], []);

    [JsonIgnore]
    public bool IsNone => Settings.IsEmpty && Once.IsEmpty && First == FirstMade.Either;

    /// <summary>What is set for a paper and a tool, and whether for the next run only; null where the paper says all.</summary>
    public (MaterialSetting Set, bool IsOnce)? Of(string stockId, string toolId)
    {
        MaterialSetting? Find(ImmutableArray<MaterialSetting> of) => of.FirstOrDefault(s => s.StockId == stockId && s.ToolId == toolId);
        return Find(Once) is { } once ? (once, true) : Find(Settings) is { } set ? (set, false) : null;
    }

    /// <summary>The settings of the papers with what is set here in their place. Which tool is taken stays as the paper says.</summary>
    public List<MaterialSetting> Over(IEnumerable<MaterialSetting> papers) =>
        [.. papers.Select(p => Of(p.StockId, p.ToolId) is var (set, _) ? set with { Chosen = p.Chosen } : p)];

    /// <summary>With other numbers for a paper and a tool.</summary>
    /// <param name="once">Whether for the next run only.</param>
    public RunWishes With(MaterialSetting set, bool once)
    {
        var left = Without(set.StockId, set.ToolId, once);
        return once ? left with { Once = left.Once.Add(set) } : left with { Settings = left.Settings.Add(set) };
    }

    /// <summary>As the paper says.</summary>
    public RunWishes Without(string stockId, string toolId) => Without(stockId, toolId, false);

    private RunWishes Without(string stockId, string toolId, bool onlyOnce) => this with
    {
        Once = Once.RemoveAll(s => s.StockId == stockId && s.ToolId == toolId),
        Settings = onlyOnce ? Settings : Settings.RemoveAll(s => s.StockId == stockId && s.ToolId == toolId),
    };
}
