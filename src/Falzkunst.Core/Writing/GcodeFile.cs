using System.Text;
using Falzkunst.Core.Runs;

namespace Falzkunst.Core.Writing;

/// <summary>
/// Writes G-code (ISO 6983-1, as RS-274 controllers read it): millimetres, absolute, y up from the lower left corner of the sheet. A tool is down at Z 0 and up
/// by its lift; feeds are in mm a minute; S is the force in grams, which a controller without one skips. The program stops (M0) where a person acts, with
/// what to do beside it. Curves become chords, as in <see cref="HpglFile"/>.
/// </summary>
public static class GcodeFile
{
    private const string Down = "G1 Z0\n";

    /// <summary>One step, without the stop before it.</summary>
    public static string WriteStep(SheetRun sheet, RunStep step) => Written(sheet, step, "").Text;

    /// <summary>One step as it is sent to a machine. After each stroke the machine waits until it stands (a dwell, G4, of no time), so that the answer to
    /// that says that the stroke is made.</summary>
    public static MachineJob Job(SheetRun sheet, RunStep step) => Written(sheet, step, "G4 P0\n");

    /// <summary>A whole sheet: all its steps, and before each that needs somebody a stop.</summary>
    public static string WriteRun(SheetRun sheet)
    {
        var text = Begin(sheet.Steps.FirstOrDefault());
        foreach (var step in sheet.Steps)
        {
            if (step.Stop is { } stop) text.Append("M0 (").Append(Comment(stop.Text)).Append(")\n");
            Add(text, sheet, step, "");
        }

        return End(text, sheet.Steps.LastOrDefault());
    }

    /// <summary>A move to a place with the tool up, which is answered when it is there.</summary>
    public static string Move(SheetRun sheet, Point place) =>
        Begin(null).Append(CultureInfo.InvariantCulture, $"G0 X{place.X:0.###} Y{sheet.Height.Mm - place.Y:0.###}\nG4 P0\n").ToString();

    private static MachineJob Written(SheetRun sheet, RunStep step, string afterStroke)
    {
        var text = Begin(step);
        var ends = Add(text, sheet, step, afterStroke);
        return new(End(text, step), ends);
    }

    private static string UpBy(RunStep? step) =>
        string.Create(CultureInfo.InvariantCulture, $"G0 Z{(step?.Lift ?? MaterialSetting.UsualLift).Mm:0.###}\n");

    private static StringBuilder Begin(RunStep? first) => new StringBuilder("G21 G90\n").Append(UpBy(first));

    private static string End(StringBuilder text, RunStep? last) => text.Append(UpBy(last)).Append("M2\n").ToString();

    private static ImmutableArray<int> Add(StringBuilder text, SheetRun sheet, RunStep step, string afterStroke)
    {
        var ends = ImmutableArray.CreateBuilder<int>();
        var up = UpBy(step);
        text.Append(CultureInfo.InvariantCulture, $"({Comment(step.Kind)})\nT{step.Pen} M6\nF{Math.Max(1, step.SpeedMmS * 60):0}");
        text.Append(CultureInfo.InvariantCulture, $"{(step.ForceTold > 0 ? $" S{step.ForceTold:0}" : "")}\n");
        var (turnIn, strokes) = step.Driven();
        if (turnIn is not null) Stroke(turnIn);
        foreach (var stroke in strokes)
        {
            Stroke(stroke);
            text.Append(afterStroke);
            ends.Add(text.Length);
        }

        return ends.ToImmutable();

        void Stroke(List<Point> points)
        {
            text.Append("G0 ");
            At(points[0]);
            text.Append(Down);
            foreach (var p in points.Skip(1))
            {
                text.Append("G1 ");
                At(p);
            }

            text.Append(up);
        }

        void At(Point p) => text.Append(CultureInfo.InvariantCulture, $"X{p.X:0.###} Y{sheet.Height.Mm - p.Y:0.###}\n");
    }

    /// <summary>A comment ends at the first bracket, and holds plain letters only.</summary>
    private static string Comment(string text) => new([.. text.Replace('×', 'x').Select(c => c is '(' or ')' ? '/' : char.IsAscii(c) && !char.IsControl(c) ? c
        : '?')]);
}
