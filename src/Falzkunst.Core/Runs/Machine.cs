using Falzkunst.Core.Cards;
using Falzkunst.Core.Looks;

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

    /// <summary>Whether sheets are fed in between rollers, instead of lying on a mat.</summary>
    public bool IsRoll { get; init; }

    /// <summary>What it is told its work in.</summary>
    public MachineLanguage Language { get; init; }

    /// <summary>The most that it presses with, in grams; 0 where nobody said.</summary>
    public double MostForceGrams { get; init; }

    /// <summary>How many levels its force has, where it is told a number from 1 on instead of grams; 0 for grams. The highest is
    /// <see cref="MostForceGrams"/>, which has to be known.</summary>
    public int ForceLevels { get; init; }

    /// <summary>The level that comes nearest to a force; 0 where it is told grams, or no force.</summary>
    public int LevelOf(double grams) => ForceLevels <= 0 || MostForceGrams <= 0 || grams <= 0 ? 0
        : Math.Clamp((int)Math.Round(grams / MostForceGrams * ForceLevels), 1, ForceLevels);

    /// <summary>The force of a level, in grams.</summary>
    public double GramsOf(int level) => ForceLevels <= 0 ? 0 : MostForceGrams * level / ForceLevels;

    /// <summary>How finely it moves: the ends of its moves are on whole steps.</summary>
    public double StepsPerMm { get; init; } = Plotter.UnitsPerMm;
}

/// <summary>The languages that cutting machines take.</summary>
public enum MachineLanguage
{
    /// <summary>Hewlett-Packard Graphics Language: moves in whole units of 0.025 mm.</summary>
    Hpgl,

    /// <summary>ISO 6983: moves in mm, line by line.</summary>
    Gcode,
}

/// <summary>A tool that a holder takes.</summary>
/// <param name="Pen">The pen number that plotter files call it by, from 1.</param>
/// <param name="SpeedMmS">The fastest it may move on paper.</param>
public sealed record Tool(string Id, string Name, Operation Operation, int Pen, double SpeedMmS)
{
    /// <summary>From the tip of a blade that swivels to its axis; zero for what does not swivel.</summary>
    public Length Swivel { get; init; }

    /// <summary>How wide a line it makes; zero for what cuts.</summary>
    public Length Width { get; init; }

    /// <summary>The colour that it draws with; null for any.</summary>
    public Colour? Ink { get; init; }

    /// <summary>How long it heats up before it can work; 0 for what is cold.</summary>
    public double HeatSeconds { get; init; }

    /// <summary>How long what it makes dries before the next tool; 0 where nobody waits for it.</summary>
    public double DrySeconds { get; init; }

    /// <summary>The only holder that takes it, from 1; null where all do.</summary>
    public int? OnlyHolder { get; init; }

    /// <summary>The id of the standard tool that it is a kind of: a pen of another colour is set as the pen is.</summary>
    public string Kind { get; } = Id;

    /// <summary>As it is called in a sentence: "the knife"; a name with more than plain words in it stays as it is written.</summary>
    public static string InSentence(string name) => name.Skip(1).All(c => char.IsLower(c) || c == ' ') ? name.ToLowerInvariant() : name;

    /// <summary>Where a tool goes, in a sentence: "the knife in holder 2", and on a machine of one holder "the knife in the holder".</summary>
    /// <param name="depth">How far its blade is set out; null where that is not said.</param>
    public static string InHolder(string name, int holder, int holders, Length? depth = null) =>
        $"the {InSentence(name)} in {(holders == 1 ? "the holder" : $"holder {holder}")}{(depth is { } d ? $", its blade {d} out" : "")}";

    /// <summary>What hands do with a tool and what was there before: "Put the knife in holder 2. The pen comes out."</summary>
    /// <param name="depth">How far its blade is set out; null where that is not said.</param>
    public static string PutIn(string name, int holder, int holders, string? before, Length? depth = null) =>
        $"Put {InHolder(name, holder, holders, depth)}.{(before is null ? "" : $" The {InSentence(before)} comes out.")}";

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
        new("pen", "Pen", Operation.Draw, 1, 120) { Width = Length.FromMm(0.5) },
        new("foil", "Foil tip", Operation.Foil, 2, 25) { Width = Length.FromMm(0.6), HeatSeconds = 300 },
        new("deboss", "Embossing ball", Operation.Deboss, 3, 60) { Width = Length.FromMm(1) },
        new("score", "Scoring tool", Operation.Score, 4, 120),
        new("perforate", "Perforating blade", Operation.Perforate, 5, 60),
        new("knife", "Knife", Operation.Cut, 6, 100) { Swivel = Length.FromMm(0.9) },
    ];
}

/// <summary>How a tool works a stock; what is not set takes one pass at the tool's speed.</summary>
/// <param name="ForceGrams">The force on the paper.</param>
/// <param name="Chosen">Whether this stock is worked with this tool where there are several for the same operation.</param>
public sealed record MaterialSetting(string StockId, string ToolId, int Passes, double ForceGrams, double SpeedMmS, bool Chosen = false)
{
    /// <summary>How far closed lines are cut on beyond their start. Null: <see cref="UsualOvercut"/> with a blade that swivels, nothing otherwise.</summary>
    public Length? Overcut { get; init; }

    public static Length UsualOvercut { get; } = Length.FromMm(0.5);

    /// <summary>Whether all lines are done once before any is done again; otherwise each is done in all its passes before the next.</summary>
    public bool PassesTogether { get; init; }

    /// <summary>How far the blade is set out, which a person does by hand; null where that is not said.</summary>
    public Length? Depth { get; init; }

    /// <summary>How far the tool is lifted between lines, where the machine can be told; null for the usual.</summary>
    public Length? Lift { get; init; }

    public static Length UsualLift { get; } = Length.FromMm(2);

    /// <summary>Cutters and blades as they are sold for paper take force in this range, in grams.</summary>
    private const double LeastForce = 40, MostForce = 600;

    /// <summary>
    /// The settings, and in them for each stock and tool the numbers that nobody set: what paper of that weight and thickness usually takes. 220 g card of
    /// 0.27 mm is cut with 170 g in one pass, the blade 0.35 mm out.
    /// </summary>
    public static List<MaterialSetting> Completed(IReadOnlyList<MaterialSetting> settings, IEnumerable<Stock> stocks, IReadOnlyList<Tool> tools) =>
        [.. from stock in stocks from tool in tools let usual = Usual(stock, tool)
            select settings.FirstOrDefault(s => s.StockId == stock.Id && s.ToolId == tool.Kind) is not { } set ? usual : set with
            {
                ForceGrams = set.ForceGrams > 0 ? set.ForceGrams : usual.ForceGrams,
                SpeedMmS = set.SpeedMmS > 0 ? set.SpeedMmS : usual.SpeedMmS,
                Depth = set.Depth ?? usual.Depth,
            }];

    /// <summary>What paper of that weight and thickness usually takes.</summary>
    public static MaterialSetting Usual(Stock stock, Tool tool)
    {
        var (weight, thick) = (stock.WeightGsm, stock.Thickness.Mm);
        var cuts = tool.Operation is Operation.Cut or Operation.Perforate;
        var force = tool.Operation switch
        {
            Operation.Cut or Operation.Perforate => 60 + weight / 2,
            Operation.Score => 80 + weight / 3,
            Operation.Deboss => 140 + weight / 3,
            Operation.Foil => 120,
            _ => LeastForce,
        };
        // A blade that goes through half a millimetre at once pushes the sheet about; thick card is gone through slowly.
        return new(stock.Id, tool.Kind, cuts ? Math.Clamp((int)Math.Ceiling(thick / 0.45), 1, 4) : 1,
            Math.Round(Math.Clamp(force, LeastForce, MostForce) / 5) * 5,
            cuts && thick > 0.4 ? Math.Max(5, tool.SpeedMmS / 2) : 0)
        {
            Depth = cuts ? Length.FromMm(Math.Ceiling((thick + 0.05) / 0.05) * 0.05) : null,
        };
    }
}
