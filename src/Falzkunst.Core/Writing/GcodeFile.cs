using System.Text;
using Falzkunst.Core.Runs;

namespace Falzkunst.Core.Writing;

/// <summary>
/// Writes G-code (ISO 6983-1, as RS-274 controllers read it): millimetres, absolute, y up from the lower left corner of the sheet. A tool is down at Z 0 and up
/// at Z 2; feeds are in mm a minute; S is the force in grams, which a controller without one skips. The program stops (M0) where a person acts, with what to
/// do beside it. Curves become chords, as in <see cref="HpglFile"/>.
/// </summary>
public static class GcodeFile
{
    private const string Up = "G0 Z2\n", Down = "G1 Z0\n";

    /// <summary>One step, without the stop before it.</summary>
    public static string WriteStep(SheetRun sheet, RunStep step)
    {
        var text = Begin();
        Add(text, sheet, step);
        return End(text);
    }

    /// <summary>A whole sheet: all its steps, and before each that needs somebody a stop.</summary>
    public static string WriteRun(SheetRun sheet)
    {
        var text = Begin();
        foreach (var step in sheet.Steps)
        {
            if (step.Stop is { } stop) text.Append("M0 (").Append(Comment(stop.Text)).Append(")\n");
            Add(text, sheet, step);
        }

        return End(text);
    }

    private static StringBuilder Begin() => new StringBuilder("G21 G90\n").Append(Up);

    private static string End(StringBuilder text) => text.Append(Up).Append("M2\n").ToString();

    private static void Add(StringBuilder text, SheetRun sheet, RunStep step)
    {
        text.Append(CultureInfo.InvariantCulture, $"({Comment(step.Kind)})\nT{step.Pen} M6\nF{Math.Max(1, step.SpeedMmS * 60):0}");
        text.Append(CultureInfo.InvariantCulture, $"{(step.ForceGrams > 0 ? $" S{step.ForceGrams:0}" : "")}\n");
        var (turnIn, strokes) = step.Driven();
        foreach (var stroke in turnIn is null ? strokes : strokes.Prepend(turnIn))
        {
            text.Append("G0 ");
            At(stroke[0]);
            text.Append(Down);
            foreach (var p in stroke.Skip(1))
            {
                text.Append("G1 ");
                At(p);
            }

            text.Append(Up);
        }

        void At(Point p) => text.Append(CultureInfo.InvariantCulture, $"X{p.X:0.###} Y{sheet.Height.Mm - p.Y:0.###}\n");
    }

    /// <summary>A comment ends at the first bracket, and holds plain letters only.</summary>
    private static string Comment(string text) => new([.. text.Replace('×', 'x').Select(c => c is '(' or ')' ? '/' : char.IsAscii(c) && !char.IsControl(c) ? c
        : '?')]);
}
