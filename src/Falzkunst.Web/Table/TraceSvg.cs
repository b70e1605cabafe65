using Falzkunst.Core.Cards;
using Falzkunst.Core.Files;
using Falzkunst.Core.Measures;
using Falzkunst.Core.Pictures;
using Falzkunst.Core.Shapes;
using Falzkunst.Core.Tracing;

namespace Falzkunst.Web.Table;

/// <summary>A picture on the table with what tracing makes of it, in mm from where the design begins.</summary>
public static class TraceSvg
{
    /// <summary>The picture, what is taken away of it, and the paths, traced on the small picture.</summary>
    /// <param name="width">Of the picture in the file, in px.</param>
    /// <param name="pictureUrl">Where the picture itself is.</param>
    public static SvgWriter Preview(Raster small, int width, int height, TraceSettings settings, string pictureUrl, CancellationToken cancel)
    {
        var mm = Length.MmPerInch / settings.Dpi!.Value;
        double left = -(settings.Crop?.X ?? 0) * mm, top = -(settings.Crop?.Y ?? 0) * mm, w = width * mm, h = height * mm;
        var g = new SvgWriter(1 << 14).Start("g").Set("class", "trace-preview").Set("data-left", left, 4).Set("data-top", top, 4).Set("data-mm", mm, 8)
            .Set("data-width", width).Set("data-height", height);
        var body = new SvgWriter(1 << 14);
        try
        {
            var prepared = Prepared.From(small, settings);
            if (prepared.TakenAway() is { } taken)
                body.Start("image").Set("class", "taken").Set("width", prepared.Width.Mm, 4).Set("height", prepared.Height.Mm, 4)
                    .Set("preserveAspectRatio", "none").Set("href", $"data:image/png;base64,{Convert.ToBase64String(taken.ToPng())}").End();
            var traced = Tracer.Trace(prepared, settings, cancel);
            foreach (var layer in traced.Layers)
                body.Start("path").Set("class", layer.IsStrokes ? "stroke" : "area").SetIf(!layer.IsStrokes, "fill", layer.Colour.Hex)
                    .Set("fill-rule", "evenodd").Path(layer.Path).End();
            g.Set("data-found", $"{Words.Count(traced.Paths, "path")}, {Words.Count(traced.Nodes, "node")}").Set("data-threshold", traced.Threshold, 0);
            if (settings.Crop is not null)
                body.Start("path").Set("class", "outside").Set("fill-rule", "evenodd")
                    .Path(VectorPath.Rectangle(left, top, w, h).With(VectorPath.Rectangle(0, 0, prepared.Width.Mm, prepared.Height.Mm))).End();
        }
        catch (UnreadableFileException e)
        {
            g.Set("data-found", Words.Big(e.Message));
        }

        return g.Start("image").Set("class", "original").Set("href", pictureUrl).Set("x", left, 4).Set("y", top, 4).Set("width", w, 4).Set("height", h, 4)
            .Set("preserveAspectRatio", "none").End().Add(body).End();
    }

    /// <summary>What tracing would make of a picture, as a small picture of its own; empty where there would be nothing.</summary>
    public static string Plate(Raster small, TraceSettings settings, CancellationToken cancel)
    {
        const int PlatePixels = 60_000;
        // Nothing is known of the crop here but its share of the whole, and a plate shows the whole.
        while (small.Width * small.Height > PlatePixels) small = small.Halved();
        // A pixel of the plate is a millimetre.
        small = small with { Halvings = 0 };
        settings = settings with { Dpi = Length.MmPerInch, Crop = null, Touched = [], SpeckMm2 = 4, Border = Length.Zero };
        var svg = new SvgWriter(1 << 14).Start("svg").Set("xmlns", "http://www.w3.org/2000/svg")
            .Set("viewBox", new Box(-2, -2, small.Width + 2, small.Height + 2)).Set("width", small.Width + 4).Set("height", small.Height + 4);
        try
        {
            var prepared = Prepared.From(small, settings);
            var traced = Tracer.Trace(prepared, settings, cancel);
            var isPrinted = settings.KeepPicture;
            if (isPrinted) svg.Start("image").Set("width", prepared.Width.Mm, 1).Set("height", prepared.Height.Mm, 1)
                .Set("href", $"data:image/png;base64,{Convert.ToBase64String(prepared.Picture.ToPng())}").End();
            foreach (var layer in traced.Layers)
            {
                var isLine = isPrinted || layer.IsStrokes;
                svg.Start("path").Set("fill", isLine ? "none" : layer.Colour.Hex).SetIf(isLine, "stroke", isPrinted ? "#8c2f39" : layer.Colour.Hex)
                    .Set("stroke-width", "1.5").Set("vector-effect", "non-scaling-stroke").Set("fill-rule", "evenodd").Path(layer.Path).End();
            }
        }
        catch (UnreadableFileException)
        {
            // An empty plate says it.
        }

        return svg.End().ToString();
    }

    /// <summary>The whole table with nothing on it but the picture.</summary>
    public static string Table(SvgWriter preview, int width, int height, TraceSettings settings)
    {
        var mm = Length.MmPerInch / settings.Dpi!.Value;
        var around = Math.Max(width, height) * mm * 0.06;
        double left = -(settings.Crop?.X ?? 0) * mm - around, top = -(settings.Crop?.Y ?? 0) * mm - around;
        var view = new Box(left, top, left + width * mm + 2 * around, top + height * mm + 3.2 * around);
        return new SvgWriter(preview.Length + 300).Start("svg").Set("class", "table-svg is-picture").Set("xmlns", "http://www.w3.org/2000/svg")
            .Set("viewBox", view).Set("data-home", view)
            .Set("role", "group").Set("aria-label", "The picture, and what is traced of it").Add(preview).End().ToString();
    }
}
