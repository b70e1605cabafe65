using System.Text;
using Falzkunst.Core.Cards;
using Falzkunst.Core.Runs;

namespace Falzkunst.Core.Writing;

/// <summary>Writes SVG of true size: one group for each operation, named after it, in the order of work. Curves stay curves.</summary>
public static class SvgFile
{
    public static string Write(SheetRun sheet)
    {
        var text = new StringBuilder();
        text.Append(CultureInfo.InvariantCulture, $"<svg xmlns=\"http://www.w3.org/2000/svg\" width=\"{sheet.WidthMm:0.###}mm\" height=\"{sheet.HeightMm:0.###}mm\" viewBox=\"0 0 {sheet.WidthMm:0.###} {sheet.HeightMm:0.###}\">\n");
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
}
