using System.Text;
using Falzkunst.Core.Runs;

namespace Falzkunst.Core.Writing;

/// <summary>
/// Writes HPGL (Hewlett-Packard Graphics Language; the commands IN, PA, SP, PU, PD that all plotters know, and VS and FS, which those without a velocity or
/// a force skip): 40 units a mm, y up from the lower left corner of the sheet. Curves become chords within half a unit of them. Velocity is in cm/s, as the
/// language has it; force in grams, as cutters take it, and left to the machine where none is set.
/// </summary>
public static class HpglFile
{
    private const int PairsPerCommand = 256;
    private const double LeastVelocityCmS = 0.1;

    /// <summary>One step: its pen with velocity and force, and each path as many times as it has passes.</summary>
    public static MachineJob WriteStep(SheetRun sheet, RunStep step)
    {
        var text = new StringBuilder("IN;PA;\n");
        var ends = Add(text, sheet, step);
        return new(text.Append("PU;SP0;\n").ToString(), ends);
    }

    /// <summary>A whole run: all steps of a sheet, a pen for each tool; a plotter waits at SP where it has to be changed.</summary>
    public static string WriteRun(SheetRun sheet)
    {
        var text = new StringBuilder("IN;PA;\n");
        foreach (var step in sheet.Steps) Add(text, sheet, step);
        return text.Append("PU;SP0;\n").ToString();
    }

    /// <summary>A move to a place with the tool up.</summary>
    public static string Move(SheetRun sheet, Point place)
    {
        var (x, y) = Units(sheet, place);
        return string.Create(CultureInfo.InvariantCulture, $"IN;PA;PU{x},{y};");
    }

    private static ImmutableArray<int> Add(StringBuilder text, SheetRun sheet, RunStep step)
    {
        var ends = ImmutableArray.CreateBuilder<int>();
        text.Append(CultureInfo.InvariantCulture, $"SP{step.Pen};VS{Math.Max(LeastVelocityCmS, step.SpeedMmS / 10):0.#};");
        if (step.ForceTold > 0) text.Append(CultureInfo.InvariantCulture, $"FS{step.ForceTold:0};");
        text.Append('\n');
        var (turnIn, strokes) = step.Driven();
        if (turnIn is not null) AddPolyline(text, sheet, turnIn);
        foreach (var stroke in strokes)
        {
            AddPolyline(text, sheet, stroke);
            ends.Add(text.Length);
        }

        return ends.ToImmutable();
    }

    private static void AddPolyline(StringBuilder text, SheetRun sheet, List<Point> points)
    {
        var (x, y) = Units(sheet, points[0]);
        text.Append(CultureInfo.InvariantCulture, $"PU{x},{y};PD");
        var count = 0;
        for (var i = 1; i < points.Count; i++)
        {
            var (nx, ny) = Units(sheet, points[i]);
            // Two chords that end on the same unit are one; the last point is always said, so that a dot stays a dot.
            if (nx == x && ny == y && (i < points.Count - 1 || count > 0)) continue;
            if (count > 0) text.Append(count % PairsPerCommand == 0 ? ";PD" : ",");
            text.Append(CultureInfo.InvariantCulture, $"{nx},{ny}");
            (x, y) = (nx, ny);
            count++;
        }

        text.Append(";PU;\n");
    }

    private static (long X, long Y) Units(SheetRun sheet, Point p) =>
        ((long)Math.Round(p.X * Plotter.UnitsPerMm), (long)Math.Round((sheet.Height.Mm - p.Y) * Plotter.UnitsPerMm));
}
