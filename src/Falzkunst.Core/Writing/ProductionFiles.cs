using System.Text;
using Falzkunst.Core.Pictures;
using Falzkunst.Core.Runs;

namespace Falzkunst.Core.Writing;

public enum ProductionFormat
{
    Hpgl,
    Svg,
    Dxf,
    Pdf,
}

/// <param name="Sheet">From 1; 0 for a file that holds all sheets.</param>
public sealed record ProductionFile(string Name, string MediaType, int Sheet, ProductionFormat Format, byte[] Bytes);

/// <summary>The files that a run is made with elsewhere: for each sheet, and in HPGL also for each step.</summary>
public static class ProductionFiles
{
    public static IEnumerable<ProductionFile> Write(RunPlan run, ProductionFormat format)
    {
        if (format == ProductionFormat.Pdf)
        {
            if (run.Sheets.IsEmpty) yield break;
            var pages = run.Sheets.SelectMany(s => s.Sides()).Select(s => (s.Width, s.Height, Layers: (IReadOnlyList<Layer>)[new(null, Affine.Identity,
                [.. s.Steps.SelectMany(t => t.Paths.Select(p => new DrawnPath("", "", p, Paper.Hairline(t.Operation))))])])).ToList();
            yield return new("sheets.pdf", "application/pdf", 0, format, Paper.Pdf(pages));
            yield break;
        }

        foreach (var sheet in run.Sheets.SelectMany(s => s.Sides()))
        {
            var name = $"sheet-{sheet.Sheet + 1}{(sheet.Steps.Any(s => s.Face == Cards.Face.Inner) ? "-inner" : "")}";
            switch (format)
            {
                case ProductionFormat.Svg:
                    yield return new($"{name}.svg", "image/svg+xml", sheet.Sheet + 1, format, Encoding.UTF8.GetBytes(SvgFile.Write(sheet)));
                    break;
                case ProductionFormat.Dxf:
                    yield return new($"{name}.dxf", "image/vnd.dxf", sheet.Sheet + 1, format, Encoding.ASCII.GetBytes(DxfFile.Write(sheet)));
                    break;
                default:
                    yield return new($"{name}.hpgl", "application/vnd.hp-hpgl", sheet.Sheet + 1, format, Encoding.ASCII.GetBytes(HpglFile.WriteRun(sheet)));
                    foreach (var step in sheet.Steps)
                        yield return new($"{name}-step-{step.Number}-{step.ToolId}.hpgl", "application/vnd.hp-hpgl", sheet.Sheet + 1, format,
                            Encoding.ASCII.GetBytes(HpglFile.WriteStep(sheet, step).Text));
                    break;
            }
        }
    }
}
