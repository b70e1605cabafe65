using System.Text;
using Falzkunst.Core.Cards;
using Falzkunst.Core.Pictures;
using Falzkunst.Core.Runs;

namespace Falzkunst.Core.Writing;

public enum ProductionFormat
{
    Hpgl,
    Gcode,
    Svg,
    Dxf,
    Pdf,
}

/// <param name="Sheet">From 1; 0 for a file that holds all sheets.</param>
public sealed record ProductionFile(string Name, string MediaType, int Sheet, ProductionFormat Format, byte[] Bytes)
{
    /// <summary>The step that it holds, by its number on the sheet; 0 for a file that holds all of a sheet.</summary>
    public int Step { get; init; }
}

/// <summary>The files that a run is made with elsewhere: for each sheet, for each step, and in PDF for all.</summary>
public static class ProductionFiles
{
    /// <summary>The usual files of a format: each sheet (each side of it that is worked), the steps of it in HPGL and G-code, which are run one by one, and
    /// in PDF all sheets in one.</summary>
    public static IEnumerable<ProductionFile> Write(RunPlan run, ProductionFormat format)
    {
        if (format == ProductionFormat.Pdf)
        {
            if (!run.Sheets.IsEmpty) yield return new("sheets.pdf", "application/pdf", 0, format, Pdf(run.Sheets.SelectMany(s => s.Sides())));
            yield break;
        }

        foreach (var sheet in run.Sheets.SelectMany(s => s.Sides()))
        {
            yield return Of(sheet, format);
            if (format is not (ProductionFormat.Hpgl or ProductionFormat.Gcode)) continue;
            foreach (var step in sheet.Steps) yield return Of(sheet, step, format);
        }
    }

    /// <summary>All files there are of a format: the docket where a file can hold that, each sheet, and each step.</summary>
    public static IEnumerable<ProductionFile> WriteAll(RunPlan run, ProductionFormat format)
    {
        if (format == ProductionFormat.Pdf)
            foreach (var file in Write(run, format)) yield return file;
        foreach (var sheet in run.Sheets.SelectMany(s => s.Sides()))
        {
            yield return Of(sheet, format);
            foreach (var step in sheet.Steps) yield return Of(sheet, step, format);
        }
    }

    private static ProductionFile Of(SheetRun sheet, ProductionFormat format) => new($"{NameOf(sheet)}.{EndingOf(format)}", MediaOf(format), sheet.Sheet + 1,
        format, format switch
        {
            ProductionFormat.Pdf => Pdf([sheet]),
            ProductionFormat.Svg => Encoding.UTF8.GetBytes(SvgFile.Write(sheet)),
            ProductionFormat.Dxf => Encoding.ASCII.GetBytes(DxfFile.Write(sheet)),
            ProductionFormat.Gcode => Encoding.ASCII.GetBytes(GcodeFile.WriteRun(sheet)),
            _ => Encoding.ASCII.GetBytes(HpglFile.WriteRun(sheet)),
        });

    private static ProductionFile Of(SheetRun sheet, RunStep step, ProductionFormat format)
    {
        var alone = sheet with { Steps = [step] };
        var file = Of(alone, format);
        return file with
        {
            Name = $"{NameOf(sheet)}-step-{step.Number}-{step.ToolId}.{EndingOf(format)}",
            Step = step.Number,
            Bytes = format switch
            {
                ProductionFormat.Gcode => Encoding.ASCII.GetBytes(GcodeFile.WriteStep(sheet, step)),
                ProductionFormat.Hpgl => Encoding.ASCII.GetBytes(HpglFile.WriteStep(sheet, step).Text),
                _ => file.Bytes,
            },
        };
    }

    private static string NameOf(SheetRun sheet) => $"sheet-{sheet.Sheet + 1}{(sheet.Steps.Any(s => s.Face == Face.Inner) ? "-inner" : "")}";

    private static string EndingOf(ProductionFormat format) => format == ProductionFormat.Gcode ? "nc" : format.ToString().ToLowerInvariant();

    private static string MediaOf(ProductionFormat format) => format switch
    {
        ProductionFormat.Pdf => "application/pdf",
        ProductionFormat.Svg => "image/svg+xml",
        ProductionFormat.Dxf => "image/vnd.dxf",
        ProductionFormat.Gcode => "text/x-gcode",
        _ => "application/vnd.hp-hpgl",
    };

    private static byte[] Pdf(IEnumerable<SheetRun> sheets) => Paper.Pdf([.. sheets.Select(s => (s.Width, s.Height,
        Layers: (IReadOnlyList<Layer>)[new(null, Affine.Identity,
            [.. s.Steps.SelectMany(t => t.Paths.Select(p => new DrawnPath("", "", p, Paper.Hairline(t.Operation))))])]))]);

    /// <summary>A page for the machine's side, to be printed or read: what goes in when, sheet by sheet, and which file each step is in.</summary>
    /// <param name="title">The name of the docket.</param>
    public static string Page(RunPlan run, string title, IReadOnlyList<ProductionFile> files)
    {
        static string Text(string t) => System.Net.WebUtility.HtmlEncode(t);
        static string Time(double s) => s < 90 ? $"{Math.Max(1, s):0} s" : $"{s / 60:0} min";
        const string Look = "body{font:16px/1.4 sans-serif;max-width:44em;margin:2em auto;padding:0 1em;color:#23262e}"
            + "h2{margin:1.6em 0 .3em;break-after:avoid}td,th{padding:.25em .8em .25em 0;text-align:left;vertical-align:top;border-top:1px solid #c9c2b4}"
            + "table{border-collapse:collapse;width:100%}.do{font-weight:bold}small{color:#5c5a54}@media print{section{break-inside:avoid}}";
        var text = new StringBuilder("<!doctype html>\n<html lang=\"en\"><meta charset=\"utf-8\">").Append(CultureInfo.InvariantCulture,
            $"<title>{Text(title)}: what goes in when</title><style>{Look}</style>").Append(CultureInfo.InvariantCulture,
            $"<h1>{Text(title)}</h1><p>{run.Sheets.Length} {(run.Sheets.Length == 1 ? "sheet" : "sheets")} on {Text(run.MachineName)}, "
                + $"about {Time(run.Seconds)} in all.</p>");
        foreach (var (sheet, index) in run.Sheets.Select((s, i) => (s, i)))
        {
            if (sheet.Steps.IsEmpty) continue;
            text.Append(CultureInfo.InvariantCulture, $"<section><h2>Sheet {sheet.Sheet + 1}</h2><p class=\"do\">{Text(run.Loading(index))}</p>")
                .Append("<table><tr><th>step</th><th>what</th><th>with</th><th>time</th><th>file</th></tr>");
            foreach (var step in sheet.Steps)
            {
                if (step.Stop is { } stop && step.Number > 1)
                    text.Append(CultureInfo.InvariantCulture, $"<tr><td colspan=\"5\" class=\"do\">{Text(stop.Text)}");
                var its = files.FirstOrDefault(f => f.Sheet == sheet.Sheet + 1 && f.Step == step.Number)
                    ?? files.FirstOrDefault(f => f.Sheet == sheet.Sheet + 1) ?? files.FirstOrDefault();
                text.Append(CultureInfo.InvariantCulture, $"<tr><td>{step.Number}<td>{Text(step.Kind)}<td>{Text(step.ToolName)}")
                    .Append(step.Passes > 1 ? $", {step.Passes} passes" : "").Append(step.ForceSays.Length > 0 ? $", {step.ForceSays}" : "")
                    .Append(step.Depth is { } depth ? $", blade {depth} out" : "").Append(CultureInfo.InvariantCulture, $", {step.SpeedMmS:0} mm/s")
                    .Append(CultureInfo.InvariantCulture, $"<td>{Time(step.Seconds)}<td><small>{Text(its?.Name ?? "")}</small>");
            }

            text.Append("</table></section>\n");
        }

        return text.Append("</html>\n").ToString();
    }
}
