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

    /// <summary>The card as it lies on the table: pieces by ply, filled with their colour, each with its id, the lines on them by operation. Pictures are not
    /// in it.</summary>
    public static string Write(Design design)
    {
        var text = Begin(design.Width, design.Height);
        foreach (var piece in design.Plies.SelectMany(y => design.Papers.Where(p => p.PlyId == y.Id)))
        {
            text.Append(CultureInfo.InvariantCulture, $"<path id=\"{piece.Id}\" fill=\"{piece.Colour.Hex}\" fill-rule=\"evenodd\" d=\"");
            piece.OnCard.AppendSvg(text);
            text.Append("\"/>\n");
            foreach (var line in piece.Lines) Line(line.Id, line.Operation, line.Path.Transform(piece.Place.Map));
        }

        foreach (var line in design.Loose) Line(line.Id, line.Operation, line.Path);
        return text.Append("</svg>\n").ToString();

        void Line(string id, Operation operation, VectorPath path)
        {
            text.Append(CultureInfo.InvariantCulture, $"<path id=\"{id}\" class=\"{operation.Word()}\" fill=\"none\" stroke=\"{operation.ColourHex()}\" ")
                .Append("stroke-width=\"0.2\" d=\"");
            path.AppendSvg(text);
            text.Append("\"/>\n");
        }
    }

    private static StringBuilder Begin(Length width, Length height) => new StringBuilder().Append(CultureInfo.InvariantCulture,
        $"<svg xmlns=\"http://www.w3.org/2000/svg\" width=\"{width.Mm:0.####}mm\" height=\"{height.Mm:0.####}mm\" viewBox=\"0 0 {width.Mm:0.####} "
            + $"{height.Mm:0.####}\">\n");
}
