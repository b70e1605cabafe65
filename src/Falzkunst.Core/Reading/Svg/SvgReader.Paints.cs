using Falzkunst.Core.Pictures;

namespace Falzkunst.Core.Reading.Svg;

// Gradients and patterns (SVG 2, chapter 14). What they fill is a piece in their mean colour, with a picture of the paint to be printed on it.
public sealed partial class SvgReader
{
    // What goes over softly needs fewer pixels than a pattern, whose edges are seen.
    private const double GradientDpi = 150, PatternDpi = 300;
    private const double MostPaintPx = 2000;

    /// <summary>Pixels of paint that one file may ask for; what comes after is filled with one colour.</summary>
    private const long PaintBudgetPx = 24_000_000;

    /// <summary>As far as paint goes on beyond its shape, so that a small error of the cut shows no white.</summary>
    private const double PaintBleedMm = 1;

    /// <summary>What it takes to draw a paint small, for its mean colour; and for each pixel of a larger picture.</summary>
    private const long StepsOfMean = 10_000, StepsOfPixel = 10;

    private long _paintPx;

    /// <summary>A paint as it comes out: one colour, or a mean colour with a brush.</summary>
    private readonly record struct Paint(Colour? Colour, Brush? Brush);

    /// <param name="box">The bounds of the shape in user units, which gradients may refer to.</param>
    private Paint Resolve(SvgPaint paint, double opacity, SvgStyle style, SvgNode node, Frame frame, Box box)
    {
        var colour = paint.IsCurrentColour ? style.Colour : paint.Colour;
        Brush? brush = null;
        if (paint.Reference is { } reference && _byId.TryGetValue(reference, out var server))
        {
            switch (server.Name)
            {
                case "linearGradient" or "radialGradient":
                    (colour, brush) = Gradient(server, style, frame, box);
                    break;
                case "pattern":
                    (colour, brush) = Pattern(server, style, frame, box);
                    break;
            }

            if (brush is not null)
            {
                _work.Go(StepsOfMean);
                colour = brush.Mean(box);
            }
        }

        if (colour is not { } c) return default;
        var alpha = c.Alpha * opacity;
        return alpha > 0 ? new(c with { Alpha = alpha }, brush) : default;
    }

    private Paint Gradient(SvgNode server, SvgStyle style, Frame frame, Box box)
    {
        var chain = ChainOf(server);
        string? Of(string name) => chain.Select(n => n[name]).FirstOrDefault(v => v is not null);
        var stops = new List<Brush.Stop>();
        if (chain.Find(n => n.Children.Any(c => c.Name == "stop")) is { } holder)
        {
            var own = _styles.Compute(holder, new SvgStyle { Colour = style.Colour });
            foreach (var stop in holder.Children.Where(c => c.Name == "stop"))
            {
                var look = _styles.Compute(stop, own);
                var at = Math.Clamp(SvgLengths.Read(stop["offset"], look, 1) ?? 0, 0, 1);
                stops.Add(new(stops.Count > 0 ? Math.Max(at, stops[^1].At) : at, look.StopColour with { Alpha = look.StopColour.Alpha * look.StopOpacity }));
            }
        }

        if (stops.Count == 0) return default;
        if (stops.Count == 1) return new(stops[0].Colour, null);
        var inBox = Of("gradientUnits") != "userSpaceOnUse";
        // Of a shape without width or height there is no box to refer to.
        if (inBox && (box.Width <= 0 || box.Height <= 0)) return new(stops[^1].Colour, null);
        var (wide, high) = inBox ? (1.0, 1.0) : (frame.Width, frame.Height);
        var place = Of("gradientTransform") is { } t ? SvgTransforms.Read(t) : Affine.Identity;
        if (inBox) place = place.Then(Affine.Scale(box.Width, box.Height)).Then(Affine.Move(box.Left, box.Top));
        if (!place.IsFinite || place.Determinant == 0) return new(stops[^1].Colour, null);
        double X(string name, string otherwise) => SvgLengths.Read(Of(name) ?? otherwise, style, wide) ?? 0;
        double Y(string name, string otherwise) => SvgLengths.Read(Of(name) ?? otherwise, style, high) ?? 0;
        var spread = Of("spreadMethod") switch { "reflect" => Brush.Spread.Mirrored, "repeat" => Brush.Spread.Repeated, _ => Brush.Spread.Last };
        if (server.Name == "linearGradient")
        {
            Point from = new(X("x1", "0%"), Y("y1", "0%")), to = new(X("x2", "100%"), Y("y2", "0%"));
            return from == to ? new(stops[^1].Colour, null) : new(null, Brush.Linear(from, to, stops, spread, place));
        }

        Point centre = new(X("cx", "50%"), Y("cy", "50%"));
        double R(string name, string otherwise) => SvgLengths.Read(Of(name) ?? otherwise, style, inBox ? 1 : Math.Sqrt((wide * wide + high * high) / 2)) ?? 0;
        var radius = R("r", "50%");
        if (!(radius > 0)) return new(stops[^1].Colour, null);
        var focus = new Point(Of("fx") is null ? centre.X : X("fx", "50%"), Of("fy") is null ? centre.Y : Y("fy", "50%"));
        return new(null, Brush.Radial(focus, Math.Max(0, R("fr", "0%")), centre, radius, stops, spread, place));
    }

    private Paint Pattern(SvgNode server, SvgStyle style, Frame frame, Box box)
    {
        var chain = ChainOf(server);
        string? Of(string name) => chain.Select(n => n[name]).FirstOrDefault(v => v is not null);
        if (chain.Find(n => n.Children.Count > 0) is not { } holder || !_inUse.Add(holder)) return default;
        try
        {
            var inBox = Of("patternUnits") != "userSpaceOnUse";
            var (wide, high) = inBox ? (1.0, 1.0) : (frame.Width, frame.Height);
            double X(string name) => SvgLengths.Read(Of(name), style, wide) ?? 0;
            double Y(string name) => SvgLengths.Read(Of(name), style, high) ?? 0;
            var tile = inBox
                ? new Box(box.Left + X("x") * box.Width, box.Top + Y("y") * box.Height, box.Left + (X("x") + X("width")) * box.Width, box.Top
                + (Y("y") + Y("height")) * box.Height)
                : new Box(X("x"), Y("y"), X("x") + X("width"), Y("y") + Y("height"));
            if (!(tile.Width > 0 && tile.Height > 0)) return default;
            var view = ViewBox(Of("viewBox"));
            var content = view is not null ? Fit(view, tile.Width, tile.Height, Of("preserveAspectRatio")).Then(Affine.Move(tile.Left, tile.Top))
                : Of("patternContentUnits") == "objectBoundingBox" ? Affine.Scale(box.Width, box.Height).Then(Affine.Move(box.Left, box.Top))
                : Affine.Identity;
            var own = _styles.Compute(holder, new SvgStyle());
            var items = Drawn(() =>
            {
                foreach (var child in holder.Children) Walk(child, own, frame with { ToMm = content, Opacity = 1, Depth = frame.Depth + 1 });
            });
            var place = Of("patternTransform") is { } t ? SvgTransforms.Read(t) : Affine.Identity;
            return items.IsEmpty || !place.IsFinite || place.Determinant == 0 ? default : new(null, Brush.Tiled(items, tile, place));
        }
        finally
        {
            _inUse.Remove(holder);
        }
    }

    /// <summary>A paint and those that it refers to for what it does not say itself, nearest first.</summary>
    private List<SvgNode> ChainOf(SvgNode server)
    {
        var chain = new List<SvgNode> { server };
        while (chain[^1]["href"] is ['#', .. var id] && _byId.TryGetValue(id, out var next) && !chain.Contains(next)) chain.Add(next);
        return chain;
    }

    /// <summary>The picture of a paint on a path; null where so many were asked for that the mean colour must do.</summary>
    private DrawnPicture? PictureOf(Brush brush, VectorPath placed, Frame frame, double opacity)
    {
        var box = placed.Bounds.Grown(PaintBleedMm);
        var pxPerMm = Math.Min((brush.IsTiled ? PatternDpi : GradientDpi) / Length.MmPerInch, MostPaintPx / Math.Max(box.Width, box.Height));
        int w = Math.Max(8, (int)Math.Ceiling(box.Width * pxPerMm)), h = Math.Max(8, (int)Math.Ceiling(box.Height * pxPerMm));
        _paintPx += (long)w * h;
        if (_paintPx > PaintBudgetPx) return null;
        _work.Go(StepsOfPixel * w * h);
        var place = new Affine(box.Width, 0, 0, box.Height, box.Left, box.Top);
        return new("", frame.Layer, "image/png", [.. brush.Picture(w, h, place, frame.ToMm)], place, opacity);
    }

    /// <summary>Counts a picture's pixels among those that are painted anew; false where it would be too many.</summary>
    private bool Spend(DrawnPicture picture)
    {
        if (PictureFacts.Read(picture.Bytes.AsSpan()) is not { } facts) return false;
        _paintPx += (long)facts.WidthPx * facts.HeightPx;
        return _paintPx <= PaintBudgetPx;
    }
}
