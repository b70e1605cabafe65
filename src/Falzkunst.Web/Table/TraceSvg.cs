using System.Globalization;
using System.Text;
using Falzkunst.Core.Cards;
using Falzkunst.Core.Files;
using Falzkunst.Core.Pictures;
using Falzkunst.Core.Reading;
using Falzkunst.Core.Tracing;

namespace Falzkunst.Web.Table;

/// <summary>A picture on the table with what tracing makes of it, in mm from where the design begins.</summary>
public static class TraceSvg
{
    /// <summary>The picture, what is taken away of it, and the paths, traced on the small picture.</summary>
    /// <param name="width">Of the picture in the file, in px.</param>
    /// <param name="pictureUrl">Where the picture itself is.</param>
    public static string Preview(Raster small, int width, int height, TraceSettings settings, string pictureUrl, CancellationToken cancel)
    {
        var mm = Length.MmPerInch / settings.Dpi!.Value;
        double left = -(settings.Crop?.X ?? 0) * mm, top = -(settings.Crop?.Y ?? 0) * mm, w = width * mm, h = height * mm;
        var text = new StringBuilder();
        text.Append(CultureInfo.InvariantCulture, $"<g class=\"trace-preview\" data-left=\"{left:0.####}\" data-top=\"{top:0.####}\" data-mm=\"{mm:0.########}\" data-width=\"{width}\" data-height=\"{height}\"");
        var body = new StringBuilder();
        try
        {
            var prepared = Prepared.From(small, settings);
            if (prepared.TakenAway() is { } taken)
                body.Append(CultureInfo.InvariantCulture, $"<image class=\"taken\" width=\"{prepared.WidthMm:0.####}\" height=\"{prepared.HeightMm:0.####}\" preserveAspectRatio=\"none\" href=\"data:image/png;base64,{Convert.ToBase64String(taken.ToPng())}\"/>");
            var traced = Tracer.Trace(prepared, settings, cancel);
            foreach (var layer in traced.Layers)
                body.Append(CultureInfo.InvariantCulture, $"<path class=\"{(layer.IsStrokes ? "stroke" : "area")}\" {(layer.IsStrokes ? "" : $"fill=\"{layer.Colour.Hex}\" ")}fill-rule=\"evenodd\" d=\"{layer.Path.ToSvg()}\"/>");
            text.Append(CultureInfo.InvariantCulture, $" data-found=\"{Words.Count(traced.Paths, "path")}, {Words.Count(traced.Nodes, "node")}\" data-threshold=\"{traced.Threshold:0}\"");
            if (settings.Crop is not null)
                body.Append(CultureInfo.InvariantCulture, $"<path class=\"outside\" fill-rule=\"evenodd\" d=\"M{left:0.##} {top:0.##}h{w:0.##}v{h:0.##}h{-w:0.##}ZM0 0h{prepared.WidthMm:0.##}v{prepared.HeightMm:0.##}h{-prepared.WidthMm:0.##}Z\"/>");
        }
        catch (UnreadableFileException e)
        {
            text.Append(CultureInfo.InvariantCulture, $" data-found=\"{System.Net.WebUtility.HtmlEncode(Words.Big(e.Message))}\"");
        }

        return text.Append(CultureInfo.InvariantCulture, $"><image class=\"original\" href=\"{pictureUrl}\" x=\"{left:0.####}\" y=\"{top:0.####}\" width=\"{w:0.####}\" height=\"{h:0.####}\" preserveAspectRatio=\"none\"/>{body}</g>").ToString();
    }

    /// <summary>The whole table with nothing on it but the picture.</summary>
    public static string Table(string preview, int width, int height, TraceSettings settings)
    {
        var mm = Length.MmPerInch / settings.Dpi!.Value;
        var around = Math.Max(width, height) * mm * 0.06;
        var view = string.Create(CultureInfo.InvariantCulture, $"{-(settings.Crop?.X ?? 0) * mm - around:0.##} {-(settings.Crop?.Y ?? 0) * mm - around:0.##} {width * mm + 2 * around:0.##} {height * mm + 3.2 * around:0.##}");
        return $"<svg class=\"table-svg is-picture\" xmlns=\"http://www.w3.org/2000/svg\" viewBox=\"{view}\" data-home=\"{view}\" role=\"group\" aria-label=\"The picture, and what is traced of it\">{preview}</svg>";
    }
}
