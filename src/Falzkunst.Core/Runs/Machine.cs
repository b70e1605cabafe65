using Falzkunst.Core.Cards;

namespace Falzkunst.Core.Runs;

/// <summary>A cutting machine as far as planning needs it. A roll machine has a height of the longest sheet it takes.</summary>
/// <param name="Holders">How many tools are in at once.</param>
/// <param name="SpeedMmS">The fastest a tool moves on paper; tools may be slower.</param>
/// <param name="TravelMmS">The fastest it moves with the tool up.</param>
/// <param name="AccelerationMmS2">How fast it gains speed.</param>
/// <param name="LiftSeconds">The time to put a tool down or take it up.</param>
public sealed record Machine(string Id, string Name, Length Width, Length Height, int Holders, double SpeedMmS, double TravelMmS, double AccelerationMmS2,
    double LiftSeconds)
{
    /// <summary>Whether it has an eye that finds printed marks.</summary>
    public bool ReadsMarks { get; init; } = true;
}

/// <summary>A tool that a holder takes.</summary>
/// <param name="Pen">The pen number that plotter files call it by, from 1.</param>
/// <param name="SpeedMmS">The fastest it may move on paper.</param>
public sealed record Tool(string Id, string Name, Operation Operation, int Pen, double SpeedMmS)
{
    /// <summary>The id of the standard tool that it is a kind of: a pen of another colour is set as the pen is.</summary>
    public string Kind { get; } = Id;

    /// <summary>As it is called in a sentence: "the knife"; a name with more than plain words in it stays as it is written.</summary>
    public static string InSentence(string name) => name.Skip(1).All(c => char.IsLower(c) || c == ' ') ? name.ToLowerInvariant() : name;

    /// <summary>Which of the tools works a stock: the one of the operation that a setting of the stock chooses, and otherwise the first.</summary>
    /// <param name="tools">At least one for the operation.</param>
    public static Tool Taken(IReadOnlyList<Tool> tools, IReadOnlyList<MaterialSetting> settings, Operation operation, string stockId)
    {
        var able = tools.Where(t => t.Operation == operation).ToList();
        return able.Find(t => settings.Any(s => s.Chosen && s.StockId == stockId && s.ToolId == t.Id)) ?? able[0];
    }

    /// <summary>The tools that the application knows without being told.</summary>
    public static ImmutableArray<Tool> Standard { get; } =
    [
        new("pen", "Pen", Operation.Draw, 1, 120),
        new("foil", "Foil tip", Operation.Foil, 2, 25),
        new("deboss", "Embossing ball", Operation.Deboss, 3, 60),
        new("score", "Scoring tool", Operation.Score, 4, 120),
        new("perforate", "Perforating blade", Operation.Perforate, 5, 60),
        new("knife", "Knife", Operation.Cut, 6, 100),
    ];
}

/// <summary>How a tool works a stock; what is not set takes one pass at the tool's speed.</summary>
/// <param name="ForceGrams">The force on the paper.</param>
/// <param name="Chosen">Whether this stock is worked with this tool where there are several for the same operation.</param>
public sealed record MaterialSetting(string StockId, string ToolId, int Passes, double ForceGrams, double SpeedMmS, bool Chosen = false);
