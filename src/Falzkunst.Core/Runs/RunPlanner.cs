using System.Text.Json.Serialization;
using Falzkunst.Core.Cards;
using Falzkunst.Core.Layout;

namespace Falzkunst.Core.Runs;

/// <summary>Where a person must act before a step.</summary>
/// <param name="Text">What to do, for somebody who stands at the machine: "Put the knife in holder 2, in place of the pen".</param>
public sealed record RunStop(string Text, ImmutableArray<HolderChange> Changes)
{
    /// <summary>Whether the sheet is turned over, left to right, before the step.</summary>
    public bool TurnsSheet { get; init; }
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

    /// <summary>Whether all lines are done once before any is done again.</summary>
    [JsonIgnore(Condition = JsonIgnoreCondition.WhenWritingDefault)]
    public bool PassesTogether { get; init; }

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

    /// <summary>The foil that is taped to the sheet for it: where, in mm on the sheet.</summary>
    [JsonIgnore(Condition = JsonIgnoreCondition.WhenWritingDefault)]
    public ImmutableArray<Box> Patches { get; init; } = [];

    /// <summary>Where on the sheet, in its waste, a tool that swivels is turned before the first stroke; null where it is not.</summary>
    [JsonIgnore(Condition = JsonIgnoreCondition.WhenWritingNull)]
    public Point? TurnedInAt { get; init; }

    /// <summary>Where the machine is sent, in mm on the sheet: for each of the <see cref="Strokes"/> from where the tool comes down to where it goes up. Before
    /// them, where there is one, the way by which it is turned in.</summary>
    public (List<Point>? TurnIn, IEnumerable<List<Point>> Strokes) Driven()
    {
        var turned = TurnedInAt is { } at ? SwivelKnife.TurnedIn(at, Swivel.Mm) : null;
        return (turned?.Points, Strokes());

        IEnumerable<List<Point>> Strokes()
        {
            var heading = turned?.Heading ?? new(1, 0);
            foreach (var stroke in this.Strokes())
            {
                var line = stroke.Flatten(Swivel.Mm > 0 ? SwivelKnife.ChordMm : RunPlanner.Chord.Mm);
                var drive = SwivelKnife.Along(line, stroke.Closed, Swivel.Mm, Overcut.Mm, heading);
                heading = drive.Heading;
                yield return drive.Points;
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

    /// <summary>A test card in a free corner of it: see <see cref="TestCard"/>.</summary>
    Test,
}

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
        Steps = [.. Steps.Select(s => s with { Paths = [.. s.Paths.Select(p => p.Transform(map))] })],
    };

    /// <summary>What is done when so many strokes of a step are, by the plan.</summary>
    public IEnumerable<DoneStroke> UpTo(int step, int strokes) => Steps.Where(s => s.Number <= step)
        .SelectMany(s => s.Strokes().Take(s.Number < step ? int.MaxValue : strokes).Select(stroke =>
        {
            var points = stroke.Flatten(RunPlanner.Chord.Mm);
            if (stroke.Closed) points.Add(points[0]);
            return new DoneStroke(s.Pen, [.. points]);
        }));

    /// <summary>The sheet once for each side that is worked on, in the order of work, with the steps of that side.</summary>
    public IEnumerable<SheetRun> Sides() => Steps.GroupBy(s => s.Face).Select(g => this with { Steps = [.. g] }).DefaultIfEmpty(this);
}

/// <summary>All sheets of a docket on one machine.</summary>
public sealed record RunPlan(string MachineId, string MachineName, int Holders, ImmutableArray<SheetRun> Sheets, ImmutableArray<string> Problems)
{
    /// <summary>What must be mended in the design, and laid out again, before any of it may be run.</summary>
    public ImmutableArray<string> ToMend { get; init; } = [];

    public bool CanRun => Problems.IsEmpty && ToMend.IsEmpty;

    public double Seconds => Sheets.Sum(s => s.Seconds);

    public int Stops => Sheets.Sum(s => 1 + s.Steps.Count(t => t.Stop is not null));

    /// <summary>What is in the holders when a sheet is begun, by the ids of the tools (null where a holder is free): whatever was run before it, a sheet can
    /// be begun when these are in.</summary>
    /// <param name="step">The step that they are to be in for, from 1.</param>
    public ImmutableArray<string?> HoldersFor(int sheet, int step = 1) => [.. Held(sheet, step)];

    /// <summary>What is done before a sheet is begun, as sentences: the sheet goes on the mat, and every tool has to be in, whatever was run before.</summary>
    /// <param name="after">The sheet that was run just before, whose tools are in; null where nobody knows.</param>
    public string Loading(int index, int? after = null)
    {
        var sheet = Sheets[index];
        string In(string? toolId, int holder) => $"the {NameOf(toolId!)} in {(Holders == 1 ? "the holder" : $"holder {holder}")}";
        if (sheet.Part is SheetPart.Rest or SheetPart.TouchUp)
            return $"See that the sheet still lies as it did, and that {Listed(sheet.Steps[0].Stop?.Changes.Select(c => In(c.ToolId, c.Holder)) ?? [])}.";
        var side = sheet.Steps.FirstOrDefault()?.Face == Face.Inner ? ", its inner side up" : "";
        var known = after == index - 1 && index > 0 && Sheets[index - 1].Steps.Length > 0 ? Held(index - 1, Sheets[index - 1].Steps.Length) : null;
        var tools = HoldersFor(index).Select((tool, i) => (tool, i)).Where(t => t.tool is not null && t.tool != known?[t.i])
            .Select(t => In(t.tool, t.i + 1)).ToList();
        var paper = sheet.Marks is null ? $"a sheet of {sheet.StockName}" : $"printed sheet {index + 1}, {sheet.StockName}";
        return $"Put {paper} on the mat{side}. It is {sheet.Width.Mm:0.#} × {sheet.Height.Mm:0.#} mm, and lies in the upper left corner; then load the mat."
            + (tools.Count == 0 ? "" : known is null ? $" Have {Listed(tools)}." : $" Put {Listed(tools)}.")
            + (Sheets[index].Steps.FirstOrDefault() is { Patches.IsEmpty: false } first ? $" {Taping(first)}" : "");
    }

    private static string Listed(IEnumerable<string> things) => string.Join(" and ", things);

    /// <summary>What is taped to a sheet before it is foiled.</summary>
    public static string Taping(RunStep step) => step.Patches.Length == 1
        ? $"Tape foil down: {step.Patches[0].Width:0} × {step.Patches[0].Height:0} mm."
        : $"Tape {step.Patches.Length} pieces of foil down: {string.Join(", ", step.Patches.Select(p => $"{p.Width:0} × {p.Height:0} mm"))}.";

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

/// <summary>Plans runs: what is made on the inner face first, on the mirrored sheet; then draw and foil, deboss, score, perforate, inner cuts, outer cuts;
/// nothing moves between.</summary>
public static class RunPlanner
{
    /// <summary>A chord of a tool path stays this close to its curve: half a step of a usual plotter.</summary>
    public static readonly Length Chord = Length.FromMm(Plotter.MmPerUnit / 2);

    /// <param name="tools">The tools in the drawer, at least one for each operation; the first of an operation is taken, unless a setting of the stock
    /// chooses another.</param>
    public static RunPlan Plan(Design design, DocketLayout layout, Machine machine, IReadOnlyList<MaterialSetting>? settings = null,
        IReadOnlyList<Tool>? tools = null, CancellationToken cancel = default)
    {
        var sheets = ImmutableArray.CreateBuilder<SheetRun>();
        var problems = ImmutableArray.CreateBuilder<string>();
        var pieces = design.Pieces.ToDictionary(p => p.Id);
        var drawer = new ToolDrawer(tools ?? Tool.Standard, settings ?? []);
        var work = new List<(Face Face, Tool Tool, string Kind, ImmutableArray<VectorPath> Paths)>[layout.Sheets.Length];
        // Equal sheets are worked alike: what is done on them is put in order once.
        foreach (var stack in layout.Stacks)
        {
            cancel.ThrowIfCancellationRequested();
            var ordered = Ordered(Work(stack.Sheet, stack.Sheet.GapOf(layout.Gap), pieces, drawer), Home(stack.Sheet));
            foreach (var number in stack.Numbers) work[number - 1] = ordered;
        }

        var holders = Math.Max(1, machine.Holders);
        foreach (var tool in work.SelectMany(w => w.Select(step => step.Tool)).Where(t => t.OnlyHolder > holders).DistinctBy(t => t.Id))
            problems.Add($"The {Tool.InSentence(tool.Name)} goes into holder {tool.OnlyHolder} only, and {machine.Name} has {holders}.");
        var changes = ToolChanges.Of([.. work.Select(w => w.Select((step, k) => new ToolChanges.Need(step.Tool, GroupOf(step.Face, step.Tool, k))).ToList())],
            holders);
        var held = new Tool?[holders];
        // How long each tool is in, as far as the machine works meanwhile.
        var heatedFor = new Dictionary<string, double>(StringComparer.Ordinal);
        for (var i = 0; i < layout.Sheets.Length; i++)
        {
            cancel.ThrowIfCancellationRequested();
            var sheet = layout.Sheets[i];
            if (!FitsMachine(sheet.Size, machine))
                problems.Add($"Sheet {i + 1} ({sheet.Size.Width.Mm:0.#} × {sheet.Size.Height.Mm:0.#} mm) is larger than what {machine.Name} takes "
                    + $"({machine.Width.Mm:0.#} × {machine.Height.Mm:0.#} mm).");
            if (sheet.Printed?.Marks is not null && !machine.ReadsMarks)
                problems.Add($"Sheet {i + 1} is cut on its print, and {machine.Name} has no eye for marks: choose another machine, or print without marks.");
            var steps = ImmutableArray.CreateBuilder<RunStep>();
            var at = Home(sheet);
            var side = work[i].Count > 0 ? work[i][0].Face : Face.Outer;
            for (var k = 0; k < work[i].Count; k++)
            {
                var (face, tool, kind, paths) = work[i][changes.Orders[i][k]];
                var stop = Stop(held, changes.Puts[i][k]);
                if (face != side)
                {
                    side = face;
                    stop = new($"Turn the sheet over, left to right, and lay it into the same corner.{(stop is null ? "" : " " + stop.Text)}", stop?.Changes
                        ?? [])
                    { TurnsSheet = true };
                }

                else if (k > 0 && (stop is not null || steps[^1].DrySeconds > 0 || steps[^1].Operation == Operation.Foil))
                {
                    stop = OnTheMat(steps[^1], stop);
                }

                foreach (var change in stop?.Changes ?? []) heatedFor[change.ToolId] = 0;
                var setting = settings?.FirstOrDefault(m => m.StockId == sheet.StockId && m.ToolId == tool.Kind);
                var step = Step(steps.Count + 1, tool, kind, paths, machine, setting, at, stop, sheet.Size) with { Face = face };
                if (tool.HeatSeconds > 0) step = step with { WaitSeconds = Math.Max(0, tool.HeatSeconds - heatedFor.GetValueOrDefault(tool.Id)) };
                if (tool.Operation == Operation.Foil)
                {
                    step = step with { Patches = FoilPatches.For(paths, sheet.Size) };
                    // With the sheet it is said where that is loaded.
                    if (k > 0) step = step with
                    {
                        Stop = new($"{RunPlan.Taping(step)}{(stop is null ? "" : " " + stop.Text)}", stop?.Changes ?? [])
                        {
                            TurnsSheet
                        = stop?.TurnsSheet ?? false
                        }
                    };
                }

                steps.Add(step);
                foreach (var hot in heatedFor.Keys.ToList()) heatedFor[hot] += step.WaitSeconds + step.Seconds;
                at = End(paths[^1]);
            }

            sheets.Add(new(i, sheet.StockName, sheet.Size.Width, sheet.Size.Height, steps.ToImmutable()) { Marks = sheet.Printed?.Marks });
        }

        return new(machine.Id, machine.Name, machine.Holders, sheets.ToImmutable(), problems.ToImmutable());
    }

    /// <summary>Where cuts come among the steps: behind all other operations, those that set pieces free last.</summary>
    private const int InnerCuts = 100, OuterCuts = 101;

    private static bool FitsMachine(SheetSize s, Machine m) => s.Width.Mm <= m.Width.Mm + 1e-6 && s.Height.Mm <= m.Height.Mm + 1e-6;

    /// <summary>Where a machine stands before a sheet: at the origin of what it is sent.</summary>
    private static Point Home(SheetPlan sheet) => new(0, sheet.Size.Height.Mm);

    private static Point End(VectorPath p) => p.Subpaths[^1].Closed ? p.Subpaths[^1].Start : p.Subpaths[^1].End;

    /// <summary>The lines of each step in an order of little travel, those of a lower rank first; a step goes on where the one before it ends.</summary>
    private static List<(Face Face, Tool Tool, string Kind, ImmutableArray<VectorPath> Paths)> Ordered(IEnumerable<StepWork> steps, Point at)
    {
        var all = new List<(Face, Tool, string, ImmutableArray<VectorPath>)>();
        foreach (var step in steps)
        {
            var ordered = ImmutableArray.CreateBuilder<VectorPath>(step.Paths.Count);
            foreach (var rank in step.Paths.GroupBy(p => p.Rank, p => p.Path).OrderBy(g => g.Key))
            {
                ordered.AddRange(step.Tool.Operation == Operation.Cut ? PathOrder.OrderCuts([.. rank], at) : PathOrder.Order([.. rank], at));
                at = End(ordered[^1]);
            }

            all.Add((step.Face, step.Tool, step.Kind, PathOrder.Joined(ordered.ToImmutable())));
        }

        return all;
    }

    /// <summary>What a tool does on a side of a sheet, not in order yet.</summary>
    private sealed record StepWork(Face Face, Tool Tool, string Kind, List<(int Rank, VectorPath Path)> Paths);

    /// <summary>What is done on a sheet, in the order of work.</summary>
    private static List<StepWork> Work(SheetPlan sheet, Length gap, Dictionary<string, Piece> pieces, ToolDrawer drawer)
    {
        var byStep = new SortedDictionary<(int Side, int Rank, string Tool), StepWork>();
        var turnedOver = new Affine(-1, 0, 0, 1, sheet.Size.Width.Mm, 0);
        ImmutableArray<PlacedPiece> placedPieces = [.. sheet.Pieces.Where(p => pieces.ContainsKey(p.PieceId))];
        var nested = FreeingOrder.Nested([.. placedPieces.Select(p => pieces[p.PieceId].Outline.Transform(p.ToSheet))]);
        for (var n = 0; n < placedPieces.Length; n++)
        {
            var (placed, piece) = (placedPieces[n], pieces[placedPieces[n].PieceId]);
            for (var i = 0; i < piece.Edges.Length; i++)
            {
                // What lies in a hole of another piece is set free before the hole is.
                var outer = piece.IsOuter(i) && nested[n] == 0;
                var rank = outer ? (SharedEdges.Allows(gap) ? 0 : FreeingOrder.RankOf(piece.Outline)) : -2 * nested[n] - (piece.IsOuter(i) ? 0 : 1);
                foreach (var part in piece.Edges[i].Worked(new([piece.Outline.Subpaths[i]])))
                    Add(piece.Edges[i].Operation, outer, null, part.Transform(placed.ToSheet), rank);
            }

            foreach (var line in piece.Lines)
                foreach (var part in line.WorkedBy(drawer.WidthFor(line, sheet.StockId)))
                    Add(line.Operation, false, line, part.Transform(line.Face == Face.Inner ? placed.ToSheet.Then(turnedOver) : placed.ToSheet),
                        -2 * nested[n] - 1);
        }

        return [.. byStep.Select(s => s.Key.Rank == OuterCuts && SharedEdges.Allows(gap)
            ? s.Value with { Paths = [.. SharedEdges.Once([.. s.Value.Paths.Select(p => p.Path)]).Select(p => (0, p))] } : s.Value)];

        void Add(Operation operation, bool outer, Line? line, VectorPath path, int freed)
        {
            if (!operation.UsesTool()) return;
            var tool = drawer.For(operation, line, sheet.StockId);
            var cuts = operation == Operation.Cut;
            var rank = cuts ? (outer ? OuterCuts : InnerCuts) : (int)operation;
            var kind = !cuts ? operation.Word() : outer ? "cut outer edges" : "cut inside";
            // What is cut falls out, so the face with the cuts comes last.
            var face = line?.Face ?? Face.Outer;
            var key = (face == Face.Inner ? 0 : 1, rank, tool.Id);
            if (!byStep.TryGetValue(key, out var step)) byStep[key] = step = new(face, tool, kind, []);
            step.Paths.Add((cuts ? freed : 0, path));
        }
    }

    /// <summary>Which tool works a line. A pen of another colour is another tool, with a number of its own: the first is that of the pen, the others follow
    /// all tools.</summary>
    private sealed class ToolDrawer(IReadOnlyList<Tool> tools, IReadOnlyList<MaterialSetting> settings)
    {
        private readonly List<string> _colours = [];

        /// <summary>How wide a line is made.</summary>
        public Length WidthFor(Line line, string stockId) =>
            line.Operation.UsesTool() ? Tool.Taken(tools, settings, line.Operation, stockId).Width : default;

        public Tool For(Operation operation, Line? line, string stockId)
        {
            var tool = Tool.Taken(tools, settings, operation, stockId);
            if (operation != Operation.Draw || line?.Pen is not { } pen) return tool;
            var colour = ColourNames.Of(pen);
            if (!_colours.Contains(colour)) _colours.Add(colour);
            var index = _colours.IndexOf(colour);
            return tool with
            {
                Id = $"{tool.Id}-{colour.Replace(' ', '-')}",
                Name = $"{char.ToUpperInvariant(colour[0])}{colour[1..]} {Tool.InSentence(tool.Name)}",
                Pen = index == 0 ? tool.Pen : tools.Max(t => t.Pen) + index,
            };
        }
    }

    /// <summary>
    /// The plan of a part of a sheet that lies on the mat: the same steps with other paths, passes or force, the times anew. Their tools go into the holders
    /// that they had; all other sheets of the plan are empty.
    /// </summary>
    /// <param name="steps">Some of the steps of the sheet, by their numbers; a step may be there twice.</param>
    public static RunPlan Part(RunPlan plan, int sheet, IReadOnlyList<RunStep> steps, Machine machine, SheetPart part)
    {
        var whole = plan.Sheets[sheet];
        var held = plan.Sheets.Take(sheet).SelectMany(s => s.Steps).SelectMany(s => s.Stop?.Changes ?? []).ToList();
        var places = new Dictionary<(int Step, string Tool), int>();
        foreach (var step in whole.Steps)
        {
            held.AddRange(step.Stop?.Changes ?? []);
            places[(step.Number, step.ToolId)] = held.Last(c => c.ToolId == step.ToolId).Holder;
        }

        var made = ImmutableArray.CreateBuilder<RunStep>(steps.Count);
        var now = new Dictionary<int, RunStep>();
        var at = new Point(0, whole.Height.Mm);
        foreach (var step in steps)
        {
            var holder = places[(step.Number, step.ToolId)];
            RunStop? stop = null;
            if (made.Count > 0 && step.Face != made[^1].Face) stop = step.Stop;
            else if (!now.TryGetValue(holder, out var there) || there.ToolId != step.ToolId)
            {
                stop = new($"Put the {Tool.InSentence(step.ToolName)} in {(plan.Holders == 1 ? "the holder" : $"holder {holder}")}"
                    + $"{(there is null ? "" : $" in place of the {Tool.InSentence(there.ToolName)}")}.", [new(holder, step.ToolId, there?.ToolId)]);
            }

            now[holder] = step;
            var its = step with { Number = made.Count + 1, Stop = stop, WaitSeconds = 0, Patches = part == SheetPart.Rest ? step.Patches : [] };
            made.Add(Timed(its, machine, at));
            at = End(step.Paths[^1]);
        }

        return plan with
        {
            Sheets = [.. plan.Sheets.Select((s, i) => i == sheet ? s with { Steps = made.ToImmutable(), Part = part } : s with { Steps = [] })],
        };
    }

    /// <summary>What is drawn and what is foiled on a face may be done in any order; all else stays where it is.</summary>
    private static int GroupOf(Face face, Tool tool, int step) => tool.Operation is Operation.Draw or Operation.Foil ? -1 - (int)face : step;

    /// <summary>What a person does between two steps while the sheet stays where it is.</summary>
    private static RunStop OnTheMat(RunStep before, RunStop? stop)
    {
        var parts = new List<string>();
        if (before.DrySeconds > 0) parts.Add($"Let the ink dry for {before.DrySeconds:0} s.");
        if (before.Operation == Operation.Foil) parts.Add("Peel the foil off, and leave the mat in the machine.");
        if (stop is not null) parts.Add(stop.Text);
        return new(string.Join(' ', parts), stop?.Changes ?? []);
    }

    /// <summary>Tools are put in; null where none are.</summary>
    private static RunStop? Stop(Tool?[] held, ImmutableArray<(int Holder, Tool Tool)> puts)
    {
        if (puts.IsEmpty) return null;
        var parts = new List<string>();
        var changes = ImmutableArray.CreateBuilder<HolderChange>(puts.Length);
        foreach (var (holder, tool) in puts.OrderBy(p => p.Holder))
        {
            parts.Add($"the {Tool.InSentence(tool.Name)} in {(held.Length == 1 ? "the holder" : $"holder {holder + 1}")}"
                + (held[holder] is { } before ? $" in place of the {Tool.InSentence(before.Name)}" : ""));
            changes.Add(new(holder + 1, tool.Id, held[holder]?.Id));
            held[holder] = tool;
        }

        return new("Put " + string.Join(", and ", parts) + ".", changes.ToImmutable());
    }

    /// <summary>A step by itself, at the start of a sheet.</summary>
    internal static RunStep StepOf(int number, Tool tool, string kind, ImmutableArray<VectorPath> paths, Machine machine, MaterialSetting setting,
        RunStop? stop, SheetSize sheet) => Step(number, tool, kind, paths, machine, setting, new(0, sheet.Height.Mm), stop, sheet);

    /// <summary>How long a machine cuts along paths, one after the other, with the travel between them; in seconds.</summary>
    /// <param name="setting">Of the knife on the stock; null where none is kept.</param>
    public static double SecondsToCut(ImmutableArray<VectorPath> paths, Machine machine, MaterialSetting? setting) =>
        SecondsFor(paths, Tool.Standard.First(t => t.Operation == Operation.Cut), machine, setting);

    /// <summary>How long a machine works along paths with a tool, one after the other, with the travel between them; in seconds.</summary>
    /// <param name="setting">Of the tool on the stock; null where none is kept.</param>
    public static double SecondsFor(ImmutableArray<VectorPath> paths, Tool tool, Machine machine, MaterialSetting? setting) =>
        Step(0, tool, "", PathOrder.Order(paths, default), machine, setting, default, null, null).Seconds;

    /// <param name="sheet">Null where the paths lie on none.</param>
    private static RunStep Step(int number, Tool tool, string kind, ImmutableArray<VectorPath> paths, Machine machine, MaterialSetting? setting, Point from,
        RunStop? stop, SheetSize? sheet)
    {
        var passes = Math.Max(1, setting?.Passes ?? 1);
        var speed = Math.Min(machine.SpeedMmS, setting is { SpeedMmS: > 0 } s ? s.SpeedMmS : tool.SpeedMmS);
        var step = new RunStep(number, tool.Id, tool.Name, tool.Pen, tool.Operation, kind, passes, paths, default, default, 0, stop, speed,
            setting?.ForceGrams ?? 0)
        {
            PassesTogether = passes > 1 && setting!.PassesTogether,
            Swivel = tool.Swivel,
            Overcut = tool.Operation != Operation.Cut ? default : setting?.Overcut ?? (tool.Swivel.Mm > 0 ? MaterialSetting.UsualOvercut : default),
            Depth = setting?.Depth,
            HeatSeconds = tool.HeatSeconds,
            DrySeconds = tool.DrySeconds,
            TurnedInAt = sheet is null ? null : SwivelKnife.TurningPlace(sheet.Height, sheet.Margin, tool.Swivel.Mm),
        };
        return Timed(step, machine, from);
    }

    /// <summary>The step with its work, travel and time, as it is sent.</summary>
    private static RunStep Timed(RunStep step, Machine machine, Point from)
    {
        double travel = 0, seconds = 0;
        var (turnIn, strokes) = step.Driven();
        foreach (var stroke in turnIn is null ? strokes : strokes.Prepend(turnIn))
        {
            // As it is sent: the corners of short chords depend on how their ends are rounded.
            var points = Plotter.Rounded(stroke);
            var hop = from.DistanceTo(points[0]);
            travel += hop;
            seconds += MotionModel.Seconds(hop, machine.TravelMmS, machine.AccelerationMmS2)
                + MotionModel.Seconds(points, step.SpeedMmS, machine.AccelerationMmS2) + 2 * machine.LiftSeconds;
            from = points[^1];
        }

        var work = step.Paths.SelectMany(p => p.Subpaths).Sum(s => VectorPath.PolylineLength(s.Flatten(Chord.Mm), s.Closed));
        return step with { Work = Length.FromMm(work * step.Passes), Travel = Length.FromMm(travel), Seconds = seconds };
    }
}
