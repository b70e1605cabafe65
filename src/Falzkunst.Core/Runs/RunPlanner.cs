using Falzkunst.Core.Cards;
using Falzkunst.Core.Layout;

namespace Falzkunst.Core.Runs;

/// <summary>Plans runs: what is made on the inner face first, on the mirrored sheet; then draw and foil, deboss, score, perforate, inner cuts, outer cuts;
/// nothing moves between.</summary>
public static class RunPlanner
{
    /// <summary>A chord of a tool path stays this close to its curve: half a step of a usual plotter.</summary>
    public static readonly Length Chord = Length.FromMm(Plotter.MmPerUnit / 2);

    /// <param name="tools">The tools in the drawer, at least one for each operation; the first of an operation is taken, unless a setting of the stock
    /// chooses another.</param>
    /// <param name="foils">The foil that is there; null where nobody knows.</param>
    /// <param name="first">Whether drawing or foiling comes first on a side.</param>
    public static RunPlan Plan(Design design, DocketLayout layout, Machine machine, IReadOnlyList<MaterialSetting>? settings = null,
        IReadOnlyList<Tool>? tools = null, IReadOnlyList<Foil>? foils = null, FirstMade first = default,
        CancellationToken cancel = default)
    {
        var sheets = ImmutableArray.CreateBuilder<SheetRun>();
        var problems = ImmutableArray.CreateBuilder<string>();
        var warnings = ImmutableArray.CreateBuilder<string>();
        var pieces = design.Pieces.ToDictionary(p => p.Id);
        var drawer = new ToolDrawer(tools ?? Tool.Standard, settings ?? []);
        var work = new List<StepWork>[layout.Sheets.Length];
        var turning = new Turning[layout.Sheets.Length];
        // Equal sheets are worked alike: what is done on them is put in order once.
        foreach (var stack in layout.Stacks)
        {
            cancel.ThrowIfCancellationRequested();
            var ordered = Ordered(Work(stack.Sheet, stack.Sheet.GapOf(layout.Gap), pieces, drawer, first), Home(stack.Sheet));
            var turnings = new Turning(design, stack.Sheet, machine, ordered);
            foreach (var number in stack.Numbers) (work[number - 1], turning[number - 1]) = (ordered, turnings);
        }

        var holders = Math.Max(1, machine.Holders);
        foreach (var tool in work.SelectMany(w => w.Select(step => step.Tool)).Where(t => t.OnlyHolder > holders).DistinctBy(t => t.Id))
            problems.Add($"The {Tool.InSentence(tool.Name)} goes into holder {tool.OnlyHolder} only, and {machine.Name} has {holders}.");
        var changes = ToolChanges.Of([.. work.Select(w => w
            .Select((step, k) => new ToolChanges.Need(step.Tool, GroupOf(step.Face, step.Tool, k, first))).ToList())], holders);
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
                var (face, tool, kind, passes, foil, paths) = work[i][changes.Orders[i][k]];
                var (put, changed) = Put(held, changes.Puts[i][k]);
                foreach (var change in changed) heatedFor[change.ToolId] = 0;
                var setting = settings?.FirstOrDefault(m => m.StockId == sheet.StockId && m.ToolId == tool.Kind);
                if (passes is { } own) setting = (setting ?? new(sheet.StockId, tool.Kind, 1, 0, 0)) with { Passes = own };
                var step = Step(steps.Count + 1, tool, kind, paths, machine, setting, at, null, turning[i].For(tool, face)) with { Face = face };
                Warn(warnings, sheet, tool, setting, machine, step);
                if (tool.HeatSeconds > 0) step = step with { WaitSeconds = Math.Max(0, tool.HeatSeconds - heatedFor.GetValueOrDefault(tool.Id)) };
                if (tool.Operation == Operation.Foil)
                    step = step with { Foil = foil, Patches = FoilPatches.For(paths, sheet.Size, Foil.Of(foils ?? [], foil)) };
                var text = string.Join(' ', Before(k == 0 ? null : steps[^1], step, face != side, machine.IsRoll).Concat(put));
                if (text.Length > 0) step = step with { Stop = new(text, changed) { TurnsSheet = face != side } };
                side = face;
                steps.Add(step);
                foreach (var hot in heatedFor.Keys.ToList()) heatedFor[hot] += step.WaitSeconds + step.Seconds;
                at = End(paths[^1]);
            }

            sheets.Add(new(i, sheet.StockName, sheet.Size.Width, sheet.Size.Height, steps.ToImmutable()) { Marks = sheet.Printed?.Marks });
        }

        return new(machine.Id, machine.Name, machine.Holders, sheets.ToImmutable(), problems.ToImmutable())
        {
            Warnings = [.. warnings.Distinct()],
            IsRoll = machine.IsRoll,
        };
    }

    /// <summary>What is set and the machine can't do, and knives that can't be turned in.</summary>
    private static void Warn(ImmutableArray<string>.Builder warnings, SheetPlan sheet, Tool tool, MaterialSetting? setting, Machine machine, RunStep step)
    {
        var name = Tool.InSentence(tool.Name);
        if (setting is not null && setting.ForceGrams > step.ForceGrams)
            warnings.Add($"The {name} is set to {setting.ForceGrams:0} g on {sheet.StockName}; {machine.Name} presses with {step.ForceGrams:0} g at most, and "
                + "does that. Set more passes, or take another machine.");
        if (setting is not null && setting.SpeedMmS > machine.SpeedMmS)
            warnings.Add($"The {name} is set to {setting.SpeedMmS:0} mm/s on {sheet.StockName}; {machine.Name} goes at {machine.SpeedMmS:0} mm/s at most.");
        if (tool.Swivel.Mm > 0 && step.TurnedInAt is null)
        {
            string Mm(double mm) => string.Create(CultureInfo.InvariantCulture, $"{mm:0.#} mm");
            var room = SwivelKnife.Room(tool.Swivel.Mm);
            warnings.Add($"The {name} can't be turned in on {sheet.StockName}: between the pieces nothing of {Mm(room.Width)} by {Mm(room.Height)} is free, "
                + $"and {machine.Name} doesn't reach beside the sheet. Its first cut may begin up to {Mm(tool.Swivel.Mm)} off. Set a wider gap, and lay out "
                + "again.");
        }
    }

    /// <summary>Where cuts come among the steps: behind all other operations, those that set pieces free last.</summary>
    private const int InnerCuts = 100, OuterCuts = 101;

    private static bool FitsMachine(SheetSize s, Machine m) => s.Width.Mm <= m.Width.Mm + 1e-6 && s.Height.Mm <= m.Height.Mm + 1e-6;

    /// <summary>Where a machine stands before a sheet: at the origin of what it is sent.</summary>
    private static Point Home(SheetPlan sheet) => new(0, sheet.Size.Height.Mm);

    private static Point End(VectorPath p) => p.Subpaths[^1].Closed ? p.Subpaths[^1].Start : p.Subpaths[^1].End;

    /// <summary>The lines of each step in an order of little travel, those of a lower rank first; a step goes on where the one before it ends.</summary>
    private static List<StepWork> Ordered(IEnumerable<Unordered> steps, Point at)
    {
        var all = new List<StepWork>();
        foreach (var step in steps)
        {
            var ordered = ImmutableArray.CreateBuilder<VectorPath>(step.Paths.Count);
            foreach (var rank in step.Paths.GroupBy(p => p.Rank, p => p.Path).OrderBy(g => g.Key))
            {
                ordered.AddRange(step.Tool.Operation == Operation.Cut ? PathOrder.OrderCuts([.. rank], at) : PathOrder.Order([.. rank], at));
                at = End(ordered[^1]);
            }

            all.Add(new(step.Face, step.Tool, step.Kind, step.Passes, step.Foil, PathOrder.Joined(ordered.ToImmutable())));
        }

        return all;
    }

    /// <summary>What a tool does on a side of a sheet.</summary>
    /// <param name="Passes">Null for as many as are set for the paper.</param>
    private sealed record StepWork(Face Face, Tool Tool, string Kind, int? Passes, string? Foil, ImmutableArray<VectorPath> Paths);

    /// <summary>The same, not in order yet.</summary>
    private sealed record Unordered(Face Face, Tool Tool, string Kind, int? Passes, string? Foil, List<(int Rank, VectorPath Path)> Paths);

    /// <summary>Where the knives of a sheet are turned in: each once, wherever and however often it is put in.</summary>
    private sealed class Turning(Design design, SheetPlan sheet, Machine machine, List<StepWork> work)
    {
        private readonly Dictionary<Face, TurningPlace> _places = [];
        private readonly Dictionary<(Length Swivel, Face Face), Point?> _known = [];

        public Point? For(Tool tool, Face face)
        {
            if (tool.Swivel.Mm <= 0) return null;
            if (_known.TryGetValue((tool.Swivel, face), out var known)) return known;
            var first = work.First(w => w.Face == face && w.Tool.Swivel == tool.Swivel).Paths[0].Subpaths[0].Start;
            return _known[(tool.Swivel, face)] = Places(face).For(tool.Swivel.Mm, first, machine);
        }

        private TurningPlace Places(Face face)
        {
            if (_places.TryGetValue(face, out var places)) return places;
            var (taken, strip) = (OffCuts.Outlines(design, sheet), OffCuts.Of(design, sheet));
            if (face == Face.Inner)
            {
                var width = sheet.Size.Width;
                taken = taken.Select(p => p.Transform(SheetRun.Over(width)));
                strip = strip with { Left = width.Mm - strip.Right, Right = width.Mm - strip.Left };
            }

            return _places[face] = new(sheet, taken, strip);
        }
    }

    /// <summary>What is done on a sheet, in the order of work.</summary>
    private static List<Unordered> Work(SheetPlan sheet, Length gap, Dictionary<string, Piece> pieces, ToolDrawer drawer, FirstMade first)
    {
        var byStep = new SortedDictionary<(int Side, int Rank, string Tool, int Passes, string Foil), Unordered>();
        var turnedOver = SheetRun.Over(sheet.Size.Width);
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
                    Add(piece.Edges[i].Operation, outer, null, piece.Edges[i].Passes, part.Transform(placed.ToSheet), rank);
            }

            foreach (var line in piece.Lines)
                foreach (var part in line.WorkedBy(drawer.WidthFor(line, sheet.StockId)))
                    Add(line.Operation, false, line, line.Passes, part.Transform(line.Face == Face.Inner ? placed.ToSheet.Then(turnedOver) : placed.ToSheet),
                        -2 * nested[n] - 1);
        }

        return [.. byStep.Select(s => s.Key.Rank == OuterCuts && SharedEdges.Allows(gap)
            ? s.Value with { Paths = [.. SharedEdges.Once([.. s.Value.Paths.Select(p => p.Path)]).Select(p => (0, p))] } : s.Value)];

        void Add(Operation operation, bool outer, Line? line, int? passes, VectorPath path, int freed)
        {
            if (!operation.UsesTool()) return;
            var tool = drawer.For(operation, line, sheet.StockId);
            var cuts = operation == Operation.Cut;
            var rank = cuts ? (outer ? OuterCuts : InnerCuts) : (int)InOrder(operation, first);
            var kind = !cuts ? operation.Word() : outer ? "cut outer edges" : "cut inside";
            // What is cut falls out, so the face with the cuts comes last.
            var face = line?.Face ?? Face.Outer;
            var foil = operation == Operation.Foil ? line?.Foil : null;
            var key = (face == Face.Inner ? 0 : 1, rank, tool.Id, passes ?? 0, foil ?? "");
            if (!byStep.TryGetValue(key, out var step)) byStep[key] = step = new(face, tool, kind, passes, foil, []);
            step.Paths.Add((cuts ? freed : 0, path));
        }
    }

    /// <summary>Which tool works a line. A pen of another colour or width is another tool, with a number of its own: the first is that of the pen, the others
    /// follow all tools.</summary>
    private sealed class ToolDrawer(IReadOnlyList<Tool> tools, IReadOnlyList<MaterialSetting> settings)
    {
        private const double SameWidthMm = 0.005;

        private readonly Dictionary<(string Tool, string Kind), int> _numbers = [];
        private readonly HashSet<string> _numbered = new(StringComparer.Ordinal);

        /// <summary>How wide a line the usual tool makes.</summary>
        public Length WidthFor(Line line, string stockId) =>
            line.Operation.UsesTool() ? Tool.Taken(tools, settings, line.Operation, stockId).Width : default;

        public Tool For(Operation operation, Line? line, string stockId)
        {
            var tool = Tool.Taken(tools, settings, operation, stockId);
            if (operation is not (Operation.Draw or Operation.Foil) || line is null) return tool;
            var width = line.WidthBy(tool.Width);
            if (Math.Abs(width.Mm - tool.Width.Mm) > SameWidthMm)
                tool = tools.FirstOrDefault(t => t.Operation == operation && Math.Abs(t.Width.Mm - width.Mm) <= SameWidthMm) ?? tool;
            var ofWidth = Math.Abs(width.Mm - tool.Width.Mm) > SameWidthMm;
            var colour = line.Pen is { } pen && operation == Operation.Draw ? ColourNames.Of(pen) : "";
            if (colour.Length == 0 && !ofWidth) return Numbered(tool, "", tool.Name);
            var name = colour.Length == 0 ? tool.Name : $"{char.ToUpperInvariant(colour[0])}{colour[1..]} {Tool.InSentence(tool.Name)}";
            var wide = ofWidth ? string.Create(CultureInfo.InvariantCulture, $"{width.Mm:0.##}") : "";
            return Numbered(tool with { Width = width, Ink = colour.Length > 0 ? line.Pen : tool.Ink },
                string.Join('-', new[] { colour.Replace(' ', '-'), wide }.Where(k => k.Length > 0)),
                wide.Length == 0 ? name : $"{name}, {wide} mm");
        }

        private Tool Numbered(Tool tool, string kind, string name)
        {
            if (!_numbers.TryGetValue((tool.Id, kind), out var pen))
                _numbers[(tool.Id, kind)] = pen = _numbered.Add(tool.Id) ? tool.Pen : tools.Max(t => t.Pen) + 1 + _numbers.Count - _numbered.Count;
            return tool with { Id = kind.Length == 0 ? tool.Id : $"{tool.Id}-{kind}", Name = name, Pen = pen };
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
            var its = step with { Number = made.Count + 1, Stop = null, WaitSeconds = 0 };
            // What was foiled is foiled again through foil of its own, none larger than was there; of the rest of it the foil may lie there yet.
            if (part == SheetPart.TouchUp && step.Operation == Operation.Foil)
                its = its with { Patches = FoilPatches.For(step.Paths, new(whole.Width, whole.Height, 1, Length.Zero), [.. step.Patches.Select(Size)]) };
            var turns = made.Count > 0 && step.Face != made[^1].Face;
            var says = Before(made.Count == 0 ? null : made[^1], its, turns, plan.IsRoll);
            ImmutableArray<HolderChange> changes = [];
            if (!now.TryGetValue(holder, out var there) || there.ToolId != step.ToolId)
            {
                says = says.Append(Tool.PutIn(step.ToolName, holder, plan.Holders, there?.ToolName));
                changes = [new(holder, step.ToolId, there?.ToolId)];
            }

            now[holder] = step;
            if (string.Join(' ', says) is { Length: > 0 } text) its = its with { Stop = new(text, changes) { TurnsSheet = turns } };
            made.Add(Timed(its, machine, at));
            at = End(step.Paths[^1]);
        }

        return plan with
        {
            Sheets = [.. plan.Sheets.Select((s, i) => i == sheet ? s with { Steps = made.ToImmutable(), Part = part } : s with { Steps = [] })],
        };

        static SheetSize Size(Box patch) => new(Length.FromMm(patch.Width), Length.FromMm(patch.Height), 1, Length.Zero);
    }

    /// <summary>The plan of what a round does on a sheet. Its tools go in before the first sheet of the round, and stay; all other sheets of the plan are
    /// empty.</summary>
    /// <param name="steps">Steps of the sheet that belong to one round.</param>
    /// <param name="isNew">Whether the sheet was not worked before.</param>
    public static RunPlan Round(RunPlan plan, int sheet, IReadOnlyList<RunStep> steps, Machine machine, ToolRounds rounds, bool isNew)
    {
        var holders = rounds.Rounds[rounds.RoundOf(steps[0]) - 1];
        var part = Part(plan, sheet, steps, machine, isNew ? SheetPart.FirstRound : SheetPart.LaterRound);
        var tools = holders.OrderBy(h => h.Value).Select(h => (h.Key, Holder: h.Value)).ToList();
        var put = new RunStop(string.Join(' ', tools.Select(t => Tool.PutIn(plan.NameOf(t.Key), t.Holder, plan.Holders, null))),
            [.. tools.Select(t => new HolderChange(t.Holder, t.Key, null))]);
        return part with
        {
            Sheets = part.Sheets.SetItem(sheet, part.Sheets[sheet] with
            {
                Steps = [.. part.Sheets[sheet].Steps.Select((s, i) => s with { Stop = i == 0 ? put : null })],
            }),
        };
    }

    /// <summary>The operation whose place in the order of work one takes: drawing and foiling may change theirs.</summary>
    private static Operation InOrder(Operation operation, FirstMade first) => first != FirstMade.Foiled ? operation
        : operation switch { Operation.Draw => Operation.Foil, Operation.Foil => Operation.Draw, _ => operation };

    /// <summary>What is drawn and what is foiled on a face may be done in any order, unless one is to come first; all else stays where it is.</summary>
    private static int GroupOf(Face face, Tool tool, int step, FirstMade first) => tool.Operation is not (Operation.Draw or Operation.Foil) ? step
        : -1 - 2 * (int)face - (first != FirstMade.Either && tool.Operation == Operation.Foil ? 1 : 0);

    /// <summary>What a person does to the sheet before a step, in order.</summary>
    /// <param name="before">The step before it; null for the first, before which all that is needed is said where the sheet is loaded.</param>
    /// <param name="turns">Whether it is turned over.</param>
    /// <param name="isRoll">Whether the machine has rollers instead of a mat.</param>
    private static IEnumerable<string> Before(RunStep? before, RunStep step, bool turns, bool isRoll) => before is null ? []
        : [.. MachineSetup.Deeds(before.ToolId == step.ToolId ? 0 : before.DrySeconds, before.Operation == Operation.Foil, turns, isRoll),
            .. step.Patches.IsEmpty ? (string[])[] : [RunPlan.Taping(step)]];

    /// <summary>Tools are put in, each with a sentence.</summary>
    private static (IEnumerable<string> Says, ImmutableArray<HolderChange> Changes) Put(Tool?[] held, ImmutableArray<(int Holder, Tool Tool)> puts)
    {
        var says = new List<string>();
        var changes = ImmutableArray.CreateBuilder<HolderChange>(puts.Length);
        foreach (var (holder, tool) in puts.OrderBy(p => p.Holder))
        {
            says.Add(Tool.PutIn(tool.Name, holder + 1, held.Length, held[holder]?.Name));
            changes.Add(new(holder + 1, tool.Id, held[holder]?.Id));
            held[holder] = tool;
        }

        return (says, changes.ToImmutable());
    }

    /// <summary>A step by itself, at the start of a sheet.</summary>
    /// <param name="turnedInAt">Where its knife is turned in; null where it is not.</param>
    internal static RunStep StepOf(int number, Tool tool, string kind, ImmutableArray<VectorPath> paths, Machine machine, MaterialSetting setting,
        RunStop? stop, SheetSize sheet, Point? turnedInAt) => Step(number, tool, kind, paths, machine, setting, new(0, sheet.Height.Mm), stop, turnedInAt);

    /// <summary>How long a machine cuts along paths, one after the other, with the travel between them; in seconds.</summary>
    /// <param name="setting">Of the knife on the stock; null where none is kept.</param>
    public static double SecondsToCut(ImmutableArray<VectorPath> paths, Machine machine, MaterialSetting? setting) =>
        SecondsFor(paths, Tool.Standard.First(t => t.Operation == Operation.Cut), machine, setting);

    /// <summary>How long a machine works along paths with a tool, one after the other, with the travel between them; in seconds.</summary>
    /// <param name="setting">Of the tool on the stock; null where none is kept.</param>
    public static double SecondsFor(ImmutableArray<VectorPath> paths, Tool tool, Machine machine, MaterialSetting? setting) =>
        Step(0, tool, "", PathOrder.Order(paths, default), machine, setting, default, null, null).Seconds;

    private static RunStep Step(int number, Tool tool, string kind, ImmutableArray<VectorPath> paths, Machine machine, MaterialSetting? setting, Point from,
        RunStop? stop, Point? turnedInAt)
    {
        var passes = Math.Max(1, setting?.Passes ?? 1);
        var speed = Math.Min(machine.SpeedMmS, setting is { SpeedMmS: > 0 } s ? s.SpeedMmS : tool.SpeedMmS);
        var force = setting?.ForceGrams ?? 0;
        var step = new RunStep(number, tool.Id, tool.Name, tool.Pen, tool.Operation, kind, passes, paths, default, default, 0, stop, speed,
            machine.MostForceGrams > 0 ? Math.Min(force, machine.MostForceGrams) : force)
        {
            ToolKind = tool.Kind,
            StepsPerMm = machine.Language == MachineLanguage.Hpgl ? Math.Min(machine.StepsPerMm, Plotter.UnitsPerMm) : machine.StepsPerMm,
            Lift = setting?.Lift,
            OnlyHolder = tool.OnlyHolder,
            Width = tool.Width,
            Ink = tool.Ink,
            PassesTogether = passes > 1 && setting!.PassesTogether,
            Swivel = tool.Swivel,
            Overcut = tool.Operation != Operation.Cut ? default : setting?.Overcut ?? (tool.Swivel.Mm > 0 ? MaterialSetting.UsualOvercut : default),
            Depth = setting?.Depth,
            HeatSeconds = tool.HeatSeconds,
            DrySeconds = tool.DrySeconds,
            TurnedInAt = turnedInAt,
        };
        return Timed(step, machine, from);
    }

    /// <summary>The step with its work, travel and time, as it is sent.</summary>
    private static RunStep Timed(RunStep step, Machine machine, Point from)
    {
        double travel = 0, seconds = 0;
        var (turnIn, strokes) = step.Driven();
        foreach (var points in turnIn is null ? strokes : strokes.Prepend(turnIn))
        {
            var hop = from.DistanceTo(points[0]);
            travel += hop;
            seconds += MotionModel.Seconds(hop, machine.TravelMmS, machine.AccelerationMmS2)
                + MotionModel.Seconds(points, step.SpeedMmS, machine.AccelerationMmS2) + 2 * machine.LiftSeconds;
            from = points[^1];
        }

        var work = step.Paths.SelectMany(p => p.Subpaths).Sum(s => VectorPath.PolylineLength(s.Flatten(Chord.Mm), s.Closed));
        var level = machine.LevelOf(step.ForceGrams);
        return step with
        {
            Work = Length.FromMm(work * step.Passes),
            Travel = Length.FromMm(travel),
            Seconds = seconds,
            ForceLevel = level,
            ForceLevels = level > 0 ? machine.ForceLevels : 0,
        };
    }
}
