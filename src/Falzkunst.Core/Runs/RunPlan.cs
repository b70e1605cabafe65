using System.Text.Json.Serialization;
using Falzkunst.Core.Cards;
using Falzkunst.Core.Layout;

namespace Falzkunst.Core.Runs;

/// <summary>Where a person must act before a step.</summary>
/// <param name="Text">What to do, for somebody who stands at the machine: "Put the knife in holder 2. The pen comes out.".</param>
public sealed record RunStop(string Text, ImmutableArray<HolderChange> Changes)
{
    /// <summary>Whether the sheet is turned over, left to right, before the step.</summary>
    public bool TurnsSheet { get; init; }

    /// <summary>Whether a sheet is laid in before the step.</summary>
    [JsonIgnore]
    public bool LaysSheet { get; init; }
}

/// <summary>A tool that goes into a holder (from 1), and what comes out for it.</summary>
public sealed record HolderChange(int Holder, string ToolId, string? Out);

/// <summary>One tool's work on one sheet.</summary>
/// <param name="Kind">In words: "score", "cut inside", "cut outer edges".</param>
/// <param name="SpeedMmS">How fast the tool moves on the paper.</param>
/// <param name="ForceGrams">The force on the paper; 0 leaves it to the machine.</param>
/// <param name="Paths">In the order of work, in mm on the sheet.</param>
public sealed record RunStep(int Number, string ToolId, string ToolName, int Pen, Operation Operation, string Kind, int Passes,
    ImmutableArray<VectorPath> Paths, Length Work, Length Travel, double Seconds, RunStop? Stop, double SpeedMmS, double ForceGrams)
{
    /// <summary>What the tool draws from down to up, one after the other: each line of the paths in each pass.</summary>
    public IEnumerable<Subpath> Strokes()
    {
        var once = Paths.SelectMany(p => p.Subpaths);
        return PassesTogether ? Enumerable.Repeat(once, Passes).SelectMany(s => s) : once.SelectMany(s => Enumerable.Repeat(s, Passes));
    }

    /// <summary>How many of the <see cref="Strokes"/> are over once a path is done in all its passes.</summary>
    /// <param name="line">Its index.</param>
    public int StrokesFor(int line)
    {
        var before = Paths.Take(line + 1).Sum(p => p.Subpaths.Length);
        return PassesTogether ? (Passes - 1) * Paths.Sum(p => p.Subpaths.Length) + before : Passes * before;
    }

    /// <summary>Whether all lines are done once before any is done again.</summary>
    [JsonIgnore(Condition = JsonIgnoreCondition.WhenWritingDefault)]
    public bool PassesTogether { get; init; }

    /// <summary>The standard tool that its tool is a kind of: settings are kept by it. See <see cref="Tool.Kind"/>.</summary>
    public string ToolKind { get; init; } = "";

    /// <summary>How finely the machine moves that it was planned for; see <see cref="Machine.StepsPerMm"/>.</summary>
    [JsonIgnore(Condition = JsonIgnoreCondition.WhenWritingDefault)]
    public double StepsPerMm { get; init; }

    /// <summary>The only holder that takes its tool, from 1; null where all do.</summary>
    [JsonIgnore(Condition = JsonIgnoreCondition.WhenWritingNull)]
    public int? OnlyHolder { get; init; }

    /// <summary>How wide a line its tool makes; zero for what cuts.</summary>
    [JsonIgnore(Condition = JsonIgnoreCondition.WhenWritingDefault)]
    public Length Width { get; init; }

    /// <summary>The colour that its tool draws with; null for any.</summary>
    [JsonIgnore(Condition = JsonIgnoreCondition.WhenWritingNull)]
    public Colour? Ink { get; init; }

    /// <summary>How far the tool is lifted between lines, where the machine can be told.</summary>
    [JsonIgnore(Condition = JsonIgnoreCondition.WhenWritingNull)]
    public Length? Lift { get; init; }

    /// <summary>The level of the machine's force that comes nearest to it, and how many there are; zeros where it is told grams.</summary>
    [JsonIgnore(Condition = JsonIgnoreCondition.WhenWritingDefault)]
    public int ForceLevel { get; init; }

    [JsonIgnore(Condition = JsonIgnoreCondition.WhenWritingDefault)]
    public int ForceLevels { get; init; }

    /// <summary>The force as a person sets and reads it: "190 g", "force 12 of 33"; empty where it is left to the machine.</summary>
    [JsonIgnore]
    public string ForceSays => ForceLevel > 0 ? $"force {ForceLevel} of {ForceLevels}" : ForceGrams > 0 ? $"{ForceGrams:0} g" : "";

    /// <summary>The number that the machine is told; 0 where that is left to it.</summary>
    [JsonIgnore]
    public double ForceTold => ForceLevel > 0 ? ForceLevel : ForceGrams;

    /// <summary>From the tip of the tool to its axis, where it swivels.</summary>
    [JsonIgnore(Condition = JsonIgnoreCondition.WhenWritingDefault)]
    public Length Swivel { get; init; }

    /// <summary>How far closed lines are gone along beyond their start.</summary>
    [JsonIgnore(Condition = JsonIgnoreCondition.WhenWritingDefault)]
    public Length Overcut { get; init; }

    /// <summary>How far the blade is set out by hand; null where that is not said.</summary>
    [JsonIgnore(Condition = JsonIgnoreCondition.WhenWritingNull)]
    public Length? Depth { get; init; }

    /// <summary>How long its tool heats up from when it is put in; 0 for one that is cold.</summary>
    [JsonIgnore(Condition = JsonIgnoreCondition.WhenWritingDefault)]
    public double HeatSeconds { get; init; }

    /// <summary>How long what it made dries before anything else comes near; 0 where it need not.</summary>
    [JsonIgnore(Condition = JsonIgnoreCondition.WhenWritingDefault)]
    public double DrySeconds { get; init; }

    /// <summary>How much of the heating is left when the step is come to.</summary>
    [JsonIgnore(Condition = JsonIgnoreCondition.WhenWritingDefault)]
    public double WaitSeconds { get; init; }

    /// <summary>What the foil is called that it is made with; null for any.</summary>
    [JsonIgnore(Condition = JsonIgnoreCondition.WhenWritingNull)]
    public string? Foil { get; init; }

    /// <summary>The foil that is taped to the sheet for it: where, in mm on the sheet.</summary>
    [JsonIgnore(Condition = JsonIgnoreCondition.WhenWritingDefault)]
    public ImmutableArray<Box> Patches { get; init; } = [];

    /// <summary>Where on the sheet a tool that swivels is turned before the first stroke; null where it is not. See <see cref="TurningPlace"/>.</summary>
    [JsonIgnore(Condition = JsonIgnoreCondition.WhenWritingNull)]
    public Point? TurnedInAt { get; init; }

    /// <summary>Where the machine is sent, in mm on the sheet, on its own steps: for each of the <see cref="Strokes"/> from where the tool comes down to
    /// where it goes up. Before them, where there is one, the way by which it is turned in.</summary>
    public (List<Point>? TurnIn, IEnumerable<List<Point>> Strokes) Driven()
    {
        var turned = TurnedInAt is { } at ? SwivelKnife.TurnedIn(at, Swivel.Mm) : null;
        var steps = StepsPerMm > 0 ? StepsPerMm : Plotter.UnitsPerMm;
        return (turned is null ? null : Plotter.Rounded(turned.Points, steps), Strokes());

        IEnumerable<List<Point>> Strokes()
        {
            var heading = turned?.Heading ?? new(1, 0);
            foreach (var stroke in this.Strokes())
            {
                var line = stroke.Flatten(Swivel.Mm > 0 ? SwivelKnife.ChordMm : RunPlanner.Chord.Mm);
                var drive = SwivelKnife.Along(line, stroke.Closed, Swivel.Mm, Overcut.Mm, heading);
                heading = drive.Heading;
                var points = Plotter.Rounded(drive.Points, steps);
                // A dot stays a dot.
                yield return points.Count == 1 && drive.Points.Count > 1 ? [points[0], points[0]] : points;
            }
        }
    }

    /// <summary>The side of the paper that lies up. What is made on the inner face is mirrored: its paths are where the tool goes on the sheet that was turned
    /// over, left to right.</summary>
    public Face Face { get; init; }
}

/// <summary>What a run does of a sheet.</summary>
public enum SheetPart
{
    Whole,

    /// <summary>What a run before it, which was broken off, left undone.</summary>
    Rest,

    /// <summary>Chosen lines once more.</summary>
    TouchUp,

    /// <summary>What some tools do, the others later: see <see cref="ToolRounds"/>. With a sheet that was not worked before, and with one that was.</summary>
    FirstRound,
    LaterRound,

    /// <summary>A test card in a free corner of it: see <see cref="TestCard"/>.</summary>
    Test,
}

/// <summary>A line of a sheet.</summary>
/// <param name="Step">The number of its step.</param>
/// <param name="Line">Which of the step's paths it is, from 0.</param>
public readonly record struct SheetLine(int Step, int Line);

/// <summary>One sheet through the machine.</summary>
public sealed record SheetRun(int Sheet, string StockName, Length Width, Length Height, ImmutableArray<RunStep> Steps)
{
    /// <summary>How long the machine works.</summary>
    public double Seconds => Steps.Sum(s => s.Seconds);

    /// <summary>How long it waits for tools to heat up besides.</summary>
    [JsonIgnore]
    public double WaitSeconds => Steps.Sum(s => s.WaitSeconds);

    /// <summary>Whether it is all that is done on the sheet, or goes on with one that lies on the mat already.</summary>
    [JsonIgnore(Condition = JsonIgnoreCondition.WhenWritingDefault)]
    public SheetPart Part { get; init; }

    /// <summary>The marks that tell where the print lies before anything is cut; null where nothing is printed.</summary>
    [JsonIgnore(Condition = JsonIgnoreCondition.WhenWritingNull)]
    public SheetMarks? Marks { get; init; }

    /// <summary>The same work on a sheet that lies elsewhere, and whose print was stretched.</summary>
    /// <param name="map">From the sheet as it was planned to where it lies on the mat.</param>
    public SheetRun Placed(Affine map) => this with
    {
        Steps = [.. Steps.Select(s => s with
        {
            Paths = [.. s.Paths.Select(p => p.Transform(map))],
            TurnedInAt = s.TurnedInAt is { } at ? map.Apply(at) : null,
        })],
    };

    /// <summary>From one side of a sheet to the other: it is turned over left to right, into the same corner.</summary>
    public static Affine Over(Length width) => new(-1, 0, 0, 1, width.Mm, 0);

    /// <summary>The sheet as it is seen with a side of it up: what is made on the other side is where it shows through.</summary>
    public SheetRun SeenFrom(Face up)
    {
        var over = Over(Width);
        return Steps.All(s => s.Face == up) ? this : this with
        {
            Steps = [.. Steps.Select(s => s.Face == up ? s : s with { Paths = [.. s.Paths.Select(p => p.Transform(over))] })],
        };
    }

    /// <summary>The side that a stroke was made on; that of the step with its pen, and where those are on both, of the one that has a line there.</summary>
    public Face FaceOf(DoneStroke stroke)
    {
        List<RunStep> steps = [.. Steps.Where(s => s.Pen == stroke.Pen)];
        return steps.Count > 0 && steps.TrueForAll(s => s.Face == steps[0].Face) ? steps[0].Face
            : (this with { Steps = [.. steps] }).LineAt(stroke.Points[0], Length.FromMm(1)) is { } at ? steps.Find(s => s.Number == at.Step)!.Face : Face.Outer;
    }

    /// <summary>All lines, step by step, each with its number in the step, from 0.</summary>
    private IEnumerable<(SheetLine At, VectorPath Path)> Lines => Steps.SelectMany(s => s.Paths.Select((p, i) => (new SheetLine(s.Number, i), p)));

    /// <summary>The line nearest to a place; null where none is within reach. Linear in the chords of what is near.</summary>
    public SheetLine? LineAt(Point place, Length reach) => Lines.Where(l => l.Path.Bounds.Grown(reach.Mm).Holds(place))
        .Select(l => (l.At, Far: l.Path.DistanceTo(place))).Where(l => l.Far <= reach.Mm).OrderBy(l => l.Far).Select(l => (SheetLine?)l.At).FirstOrDefault();

    /// <summary>The lines that reach into a frame.</summary>
    public IEnumerable<SheetLine> LinesIn(Box frame) =>
        Lines.Where(l => l.Path.Bounds.Touches(frame) && l.Path.Rings.Any(r => r.Exists(frame.Holds))).Select(l => l.At);

    /// <summary>What is done when so many strokes of a step are, by the plan.</summary>
    public IEnumerable<DoneStroke> UpTo(int step, int strokes) => Steps.Where(s => s.Number <= step)
        .SelectMany(s => s.Strokes().Take(s.Number < step ? int.MaxValue : strokes)
            .Select(stroke => new DoneStroke(s.Pen, [.. stroke.Walk(RunPlanner.Chord.Mm)])));

    /// <summary>The sheet once for each side that is worked on, in the order of work, with the steps of that side.</summary>
    public IEnumerable<SheetRun> Sides() => Steps.GroupBy(s => s.Face).Select(g => this with { Steps = [.. g] }).DefaultIfEmpty(this);
}

/// <summary>All sheets of a docket on one machine.</summary>
public sealed record RunPlan(string MachineId, string MachineName, int Holders, ImmutableArray<SheetRun> Sheets, ImmutableArray<string> Problems)
{
    /// <summary>What is not as somebody set it, or may come out worse than it could, and why; nothing of it stops a run.</summary>
    public ImmutableArray<string> Warnings { get; init; } = [];

    /// <summary>Whether sheets are fed in between rollers, instead of lying on a mat.</summary>
    [JsonIgnore(Condition = JsonIgnoreCondition.WhenWritingDefault)]
    public bool IsRoll { get; init; }

    /// <summary>What must be mended in the design, and laid out again, before any of it may be run.</summary>
    public ImmutableArray<string> ToMend { get; init; } = [];

    public bool CanRun => Problems.IsEmpty && ToMend.IsEmpty;

    public double Seconds => Sheets.Sum(s => s.Seconds);

    public int Stops => Sheets.Sum(s => 1 + s.Steps.Count(t => t.Stop is not null));

    /// <summary>What is in the holders when a sheet is begun, by the ids of the tools (null where a holder is free): whatever was run before it, a sheet can
    /// be begun when these are in.</summary>
    /// <param name="step">The step that they are to be in for, from 1.</param>
    public ImmutableArray<string?> HoldersFor(int sheet, int step = 1) => [.. Held(sheet, step)];

    /// <summary>What is done before a sheet is begun on a machine of which nothing is known, as sentences: the sheet is laid in, and every tool has to be
    /// in.</summary>
    public string Loading(int index) => Sheets[index].Steps.IsEmpty ? Laying(index, Face.Outer, false)
        : MachineSetup.Unknown(Holders).Before(this, index, 1, null, false)!.Text;

    /// <summary>How a sheet is laid in, as sentences.</summary>
    /// <param name="up">The side that lies up then.</param>
    /// <param name="again">Whether it was in a machine before.</param>
    internal string Laying(int index, Face up, bool again)
    {
        var (sheet, isFaceDown) = (Sheets[index], up == Face.Inner);
        if (again)
            return $"Lay sheet {index + 1} in again, {sheet.StockName}{(isFaceDown ? ", face down. Its inner side is up. " : ". ")}"
                + (IsRoll ? "Its upper left corner is where it was, and it runs in straight."
                : "It lies in its corner as before, and is pressed down well; then load the mat.");
        var paper = sheet.Marks is not null ? $"printed sheet {index + 1}, {sheet.StockName}" : isFaceDown ? sheet.StockName : $"a sheet of {sheet.StockName}";
        var size = $"It is {sheet.Width.Mm:0.#} × {sheet.Height.Mm:0.#} mm, and ";
        return (IsRoll ? $"Feed {paper} in" : $"Put {paper} on the mat") + (isFaceDown ? ", face down. Its inner side is up. " : ". ") + size
            + (IsRoll ? "its upper left corner goes to where the machine begins, its edge along the rollers."
                : "lies in the upper left corner; then load the mat.");
    }

    /// <summary>What is said of a sheet when all is done that was asked for, as sentences.</summary>
    /// <param name="leavesRest">Whether the rest is left for another load.</param>
    public string Ending(int index, bool leavesRest)
    {
        var sheet = Sheets[index];
        if (sheet.Part == SheetPart.Test) return "The test card is made. Choose the best shape.";
        if (leavesRest) return $"Done for now. Write {index + 1} on its edge, and keep the sheet flat: it comes in again.";
        if (sheet.Steps.Any(s => s.Operation == Operation.Foil))
            return $"Finished. {(sheet.Steps[^1].Operation == Operation.Foil ? "Peel the foil off, and look at it" : "Look at the foil")} before you unload: "
                + "what failed can be done again.";
        return (IsRoll ? "Finished. Take the sheet out" : "Finished. Unload the mat")
            + (!sheet.Steps.Any(s => s.Operation == Operation.Cut) ? "." : IsRoll ? ", and the pieces off." : " and take the pieces off.");
    }

    /// <summary>What is taped to a sheet before it is foiled.</summary>
    public static string Taping(RunStep step)
    {
        var sizes = step.Patches.Select(p => $"{p.Width:0} × {p.Height:0} mm").ToList();
        var foil = step.Foil is { } name ? Tool.InSentence(name) : "foil";
        return sizes.Count == 1 ? $"Tape {foil} down: {sizes[0]}."
            : $"Tape {sizes.Count} pieces of {foil} down{(sizes.Distinct().Count() == 1 ? $", each {sizes[0]}" : $": {string.Join(", ", sizes)}")}.";
    }

    /// <summary>What is in the holders when so many steps of a sheet are done.</summary>
    private string?[] Held(int sheet, int steps)
    {
        var holders = new string?[Math.Max(1, Holders)];
        foreach (var change in Sheets.Take(sheet).SelectMany(s => s.Steps).Concat(Sheets[sheet].Steps.Take(steps)).SelectMany(s => s.Stop?.Changes ?? []))
            holders[change.Holder - 1] = change.ToolId;
        return holders;
    }

    /// <summary>A tool of the plan as it is called in a sentence.</summary>
    public string NameOf(string toolId) => Tool.InSentence(Sheets.SelectMany(s => s.Steps).First(s => s.ToolId == toolId).ToolName);
}
