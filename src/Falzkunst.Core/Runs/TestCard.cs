using Falzkunst.Core.Cards;
using Falzkunst.Core.Layout;

namespace Falzkunst.Core.Runs;

/// <summary>
/// A grid of small shapes, each made with other numbers, in a corner of a sheet where no piece lies: a column for each force, and below it a row for each way
/// the blade is set out, which a person does between the rows; what has no blade has rows of one, two and three passes. Each shape stands over its force in
/// tens of grams, in single-line digits.
/// </summary>
public sealed record TestCard(Box Place, ImmutableArray<double> Forces, ImmutableArray<TestRow> Rows)
{
    private const double CellMm = 12, ShapeMm = 8, DigitMm = 2;

    /// <summary>Each force is so much of the one that is set now.</summary>
    private static readonly double[] Shares = [0.6, 0.8, 1, 1.2, 1.45];

    /// <summary>The strokes of the digits on a field of 2 × 4, as a clerk writes them on a form.</summary>
    private static readonly string[] Digits =
    [
        "M0 0H2V4H0Z", "M0 1L1 0V4", "M0 0H2V2H0V4H2", "M0 0H2V4H0M0 2H2", "M0 0V2H2M2 0V4", "M2 0H0V2H2V4H0", "M2 0H0V4H2V2H0", "M0 0H2L1 4",
        "M0 0H2V4H0ZM0 2H2", "M2 2H0V0H2V4H0",
    ];

    /// <summary>The card for a tool on a sheet; null where no corner of that is free.</summary>
    /// <param name="pieces">What lies on the sheet, as paths on it.</param>
    public static TestCard? For(SheetPlan sheet, IReadOnlyList<VectorPath> pieces, Tool tool, MaterialSetting setting)
    {
        var cuts = tool.Operation is Operation.Cut or Operation.Perforate;
        ImmutableArray<TestRow> rows = cuts
            ? [.. new[] { -0.1, 0, 0.1 }.Select(d => new TestRow(Length.FromMm(Math.Max(0.05, Math.Round(((setting.Depth?.Mm ?? 0.3) + d) / 0.05) * 0.05)),
                setting.Passes)).DistinctBy(r => r.Depth)]
            : [.. Enumerable.Range(1, 3).Select(p => new TestRow(null, p))];
        ImmutableArray<double> forces = [.. Shares.Select(s => Math.Round(setting.ForceGrams * s / 10) * 10).Distinct()];
        var (wide, high) = (forces.Length * CellMm, rows.Length * (CellMm + 2));
        double left = sheet.Size.Margin.Mm, top = left, right = sheet.Size.Width.Mm - left, bottom = sheet.Size.Height.Mm - left;
        // Corners first, those low on the mat before the others; then along the edges.
        var places = from y in Steps(bottom - high, top) from x in Steps(right - wide, left) select new Box(x, y, x + wide, y + high);
        var boxes = pieces.Select(p => p.Bounds.Grown(2)).ToList();
        foreach (var place in places)
            if (place.Left >= left - 1e-6 && place.Top >= top - 1e-6 && !boxes.Exists(b => b.Touches(place))) return new(place, forces, rows);
        return null;

        static IEnumerable<double> Steps(double from, double to) =>
            from < to ? [] : Enumerable.Range(0, (int)((from - to) / 4) + 1).Select(k => from - 4 * k).Append(to);
    }

    /// <summary>The plan of the card: one step for each shape, on a sheet where nothing else is done.</summary>
    /// <param name="pieces">What lies on the sheet, as paths on it.</param>
    public RunPlan Plan(SheetPlan sheet, IReadOnlyList<VectorPath> pieces, int number, int sheets, Tool tool, MaterialSetting setting, Machine machine)
    {
        var steps = ImmutableArray.CreateBuilder<RunStep>();
        var turnedInAt = tool.Swivel.Mm <= 0 ? null : new TurningPlace(sheet,
            [.. pieces, VectorPath.Rectangle(Place.Left, Place.Top, Place.Width, Place.Height)], Box.Empty).For(tool.Swivel.Mm, Place.Centre, machine);
        for (var r = 0; r < Rows.Length; r++)
            for (var c = 0; c < Forces.Length; c++)
            {
                var at = new Point(Place.Left + c * CellMm + (CellMm - ShapeMm) / 2, Place.Top + r * (CellMm + 2) + 1);
                ImmutableArray<VectorPath> paths = [.. Shape(at), .. Written((int)(Forces[c] / 10), new(at.X, at.Y + ShapeMm + 1))];
                var its = setting with { ForceGrams = Forces[c], Passes = Rows[r].Passes, Depth = Rows[r].Depth };
                var holder = tool.OnlyHolder is { } only && only <= machine.Holders ? only : 1;
                var stop = steps.Count == 0 ? new RunStop(Tool.PutIn(tool.Name, holder, machine.Holders, null), [new(holder, tool.Id, null)]) : null;
                steps.Add(RunPlanner.StepOf(steps.Count + 1, tool, $"shape with {Forces[c]:0} g", paths, machine, its, stop, sheet.Size, turnedInAt));
            }

        // All shapes lie under one patch.
        if (tool.Operation == Operation.Foil)
        {
            var patches = FoilPatches.For(steps.SelectMany(s => s.Paths), sheet.Size);
            for (var i = 0; i < steps.Count; i++) steps[i] = steps[i] with { Patches = patches };
        }

        SheetRun card = new(number, sheet.StockName, sheet.Size.Width, sheet.Size.Height, steps.ToImmutable()) { Part = SheetPart.Test };
        return new(machine.Id, machine.Name, machine.Holders,
            [.. Enumerable.Range(0, sheets).Select(i => i == number ? card : card with { Sheet = i, Steps = [] })], [])
        { IsRoll = machine.IsRoll };
    }

    /// <summary>A square with a notch of sharp corners, and a small round hole: what shows first that a setting is wrong.</summary>
    private static IEnumerable<VectorPath> Shape(Point at) =>
    [
        VectorPath.Disc(at + new Point(ShapeMm * 0.7, ShapeMm * 0.3), 1.2),
        VectorPath.Polygon(at, at + new Point(ShapeMm, 0), at + new Point(ShapeMm, ShapeMm), at + new Point(ShapeMm * 0.6, ShapeMm),
            at + new Point(ShapeMm * 0.4, ShapeMm * 0.55), at + new Point(ShapeMm * 0.2, ShapeMm), at + new Point(0, ShapeMm)),
    ];

    private static IEnumerable<VectorPath> Written(int number, Point at) => number.ToString(CultureInfo.InvariantCulture)
        .SelectMany((c, k) => PathText.Read(Digits[c - '0'])
            .Transform(Affine.Scale(DigitMm / 4, DigitMm / 4).Then(Affine.Move(at.X + k * DigitMm * 0.75, at.Y))).Parts());
}

/// <summary>A row of a test card.</summary>
/// <param name="Depth">How far the blade is set out; null for what has none.</param>
public sealed record TestRow(Length? Depth, int Passes);
