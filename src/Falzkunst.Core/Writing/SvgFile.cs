using System.Text;
using Falzkunst.Core.Cards;
using Falzkunst.Core.Runs;
using Falzkunst.Core.Tracing;

namespace Falzkunst.Core.Writing;

/// <summary>Writes SVG of true size: one group for each operation, named after it, in the order of work. Curves stay curves.</summary>
public static class SvgFile
{
    public static string Write(SheetRun sheet)
    {
        var text = Begin(sheet.Width, sheet.Height);
        foreach (var group in sheet.Steps.GroupBy(s => s.Operation))
        {
            text.Append(CultureInfo.InvariantCulture, $"<g id=\"{group.Key.Word()}\" fill=\"none\" stroke=\"{group.Key.ColourHex()}\" stroke-width=\"0.1\">\n");
            foreach (var path in group.SelectMany(s => s.Paths))
            {
                text.Append("<path d=\"");
                path.AppendSvg(text);
                text.Append("\"/>\n");
            }

            text.Append("</g>\n");
        }

        return text.Append("</svg>\n").ToString();
    }

    /// <summary>A traced picture: one path for each colour, the first lying lowest; centre-lines as strokes of their width.</summary>
    public static string Write(Traced traced)
    {
        var text = Begin(traced.Width, traced.Height);
        foreach (var layer in traced.Layers)
        {
            text.Append(layer.IsStrokes
                ? string.Create(CultureInfo.InvariantCulture,
                $"<path fill=\"none\" stroke=\"{layer.Colour.Hex}\" stroke-width=\"{layer.StrokeWidth.Mm:0.###}\" stroke-linecap=\"round\" "
                + $"stroke-linejoin=\"round\" d=\"")
                : $"<path fill=\"{layer.Colour.Hex}\" fill-rule=\"evenodd\" d=\"");
            layer.Path.AppendSvg(text);
            text.Append("\"/>\n");
        }

        return text.Append("</svg>\n").ToString();
    }

    private static StringBuilder Begin(Length width, Length height) => new StringBuilder().Append(CultureInfo.InvariantCulture,
        $"<svg xmlns=\"http://www.w3.org/2000/svg\" width=\"{width.Mm:0.####}mm\" height=\"{height.Mm:0.####}mm\" viewBox=\"0 0 {width.Mm:0.####} "
            + $"{height.Mm:0.####}\">\n");
}
