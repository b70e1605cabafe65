using System.IO;

namespace Falzkunst.Core.Reading.Svg;

/// <summary>
/// Reads SVG into a <see cref="Drawing"/>: shapes, paths, groups, <c>use</c> and <c>symbol</c>, nested <c>svg</c>, transforms, view boxes, units,
/// style sheets, strokes, clips, masks of plain shapes, embedded pictures. What is not understood yet (text, filters, gradients, patterns, markers) becomes a
/// note with its place. Nothing outside the file is ever fetched.
/// </summary>
public sealed class SvgReader
{
    private const double PxPerInch = 96;
    private const double FarAway = 1e6;

    private readonly ReadingLimits _limits;
    private readonly CancellationToken _cancel;
    private readonly SvgStyles _styles = new();
    private readonly Dictionary<string, SvgNode> _byId = [];
    private ImmutableArray<DrawnItem>.Builder _items = ImmutableArray.CreateBuilder<DrawnItem>();
    private readonly List<ReadingNote> _notes = [];
    private readonly HashSet<SvgNode> _inUse = [];
    private int _segments;
    private int _elements;

    private SvgReader(ReadingLimits limits, CancellationToken cancel) => (_limits, _cancel) = (limits, cancel);

    /// <summary>The size of what percentages refer to, and the map from here to mm.</summary>
    private readonly record struct Frame(double Width, double Height, Affine ToMm, string Layer, double Opacity, int Depth);

    /// <summary>Reads an SVG file.</summary>
    /// <exception cref="UnreadableFileException">The file is not SVG, is damaged, or goes beyond a limit.</exception>
    /// <exception cref="OperationCanceledException">Cancelled, or out of time.</exception>
    public static Drawing Read(Stream file, ReadingLimits limits, CancellationToken cancel = default)
    {
        var root = SvgNode.Load(file, limits, cancel);
        return new SvgReader(limits, cancel).ReadRoot(root);
    }

    private Drawing ReadRoot(SvgNode root)
    {
        Index(root);
        var view = ViewBox(root["viewBox"]);
        var style = _styles.Compute(root, new SvgStyle());
        double defaultWidth = view?.Width ?? 300, defaultHeight = view?.Height ?? 150;
        var width = RootLength(root["width"], out var unitX);
        var height = RootLength(root["height"], out var unitY);
        if (width <= 0 || height <= 0) throw new UnreadableFileException("its page has no size (width or height is 0)");
        // One side given: the other follows from the view box, as browsers do.
        if (width is null && height is { } h && view is { } v1) width = h * v1.Width / v1.Height;
        if (height is null && width is { } w && view is { } v2) height = w * v2.Height / v2.Width;
        double pxWidth = width ?? defaultWidth, pxHeight = height ?? defaultHeight;
        var known = unitX || unitY;
        var scale = known
            ? new ScaleFacts(PxPerInch, true, $"the file says it is {root["width"]} × {root["height"]}")
            : new ScaleFacts(PxPerInch, false, "the file gives no physical size; 96 pixels in an inch were taken");
        const double mmPerPx = Length.MmPerInch / PxPerInch;
        double widthMm = pxWidth * mmPerPx, heightMm = pxHeight * mmPerPx;
        if (!(widthMm < FarAway && heightMm < FarAway)) throw new UnreadableFileException("its page is larger than a kilometre, or not a number");
        var toMm = Fit(view, pxWidth, pxHeight, root["preserveAspectRatio"]).Then(Affine.Scale(mmPerPx, mmPerPx));
        var frame = new Frame(view?.Width ?? pxWidth, view?.Height ?? pxHeight, toMm, "", style.Opacity, 0);
        if (style.Displayed)
        {
            NoteUnsupported(root, style, frame);
            foreach (var child in root.Children) Walk(child, style, frame);
        }

        if (_items.Count == 0 && _notes.Count == 0) Note("empty", "The file holds nothing that can be seen.", new(0, 0));
        return new(widthMm, heightMm, scale, _items.ToImmutable(), [.. _notes], root.Producer);
    }

    private void Index(SvgNode node)
    {
        var pending = new Stack<SvgNode>();
        pending.Push(node);
        var sheets = new List<string>();
        while (pending.TryPop(out var at))
        {
            if (at["id"] is { } id) _byId.TryAdd(id, at);
            if (at.Name == "style" && at["type"] is null or "" or "text/css") sheets.Add(at.Text);
            for (var i = at.Children.Count - 1; i >= 0; i--) pending.Push(at.Children[i]);
        }

        foreach (var css in sheets.Where(s => s.Length > 0)) _styles.Add(css);
    }

    private void Walk(SvgNode node, SvgStyle parent, Frame frame)
    {
        if (++_elements % 256 == 0) _cancel.ThrowIfCancellationRequested();
        if (_elements > _limits.Elements) throw new UnreadableFileException($"it draws more than {_limits.Elements:N0} elements");
        if (frame.Depth > _limits.Nesting) throw new UnreadableFileException($"its elements are nested more than {_limits.Nesting} deep");
        if (node.Name is "defs" or "symbol" or "style" or "title" or "desc" or "metadata" or "clipPath" or "mask" or "filter" or "marker"
            or "linearGradient" or "radialGradient" or "pattern" or "script" or "namedview") return;
        var style = _styles.Compute(node, parent);
        if (!style.Displayed) return;
        var transform = node["transform"] is { } t ? SvgTransforms.Read(t) : Affine.Identity;
        if (!transform.IsFinite || transform.Determinant == 0) return;
        frame = frame with { ToMm = transform.Then(frame.ToMm), Opacity = frame.Opacity * style.Opacity, Depth = frame.Depth + 1 };
        NoteUnsupported(node, style, frame);
        var first = _items.Count;
        switch (node.Name)
        {
            case "g" or "a" or "switch":
                var label = node["label"] ?? (node["groupmode"] == "layer" || frame.Layer.Length == 0 ? node["id"] : null);
                var inside = label is { Length: > 0 } ? frame with { Layer = label } : frame;
                foreach (var child in node.Name == "switch" ? node.Children.Where(c => c["requiredFeatures"] is null && c.Name != "foreignObject").Take(1) : node.Children)
                    Walk(child, style, inside);
                break;
            case "svg":
                NestedView(node, style, frame, node["width"], node["height"]);
                break;
            case "use":
                Use(node, style, frame);
                break;
            case "image":
                Picture(node, style, frame);
                break;
            case "text":
                if (style.Visible) Note("text", "Text is not read yet: convert it to outlines (paths) in the program it was drawn in.", Place(node, frame));
                break;
            case "foreignObject":
                Note("foreign", "Foreign content (such as a web page) is left out.", Place(node, frame));
                break;
            default:
                if (Shape(node, style, frame) is { IsEmpty: false } path) Draw(node, path, style, frame);
                break;
        }

        if (_items.Count == first) return;
        if (style.Clip is { } clip && _byId.TryGetValue(clip, out var clipNode) && clipNode.Name == "clipPath" && !ClipsNothing(clipNode, style, frame)) Clip(first, clipNode, frame, false);
        if (style.Mask is { } mask && _byId.TryGetValue(mask, out var maskNode) && maskNode.Name == "mask" && !Clip(first, maskNode, frame, true))
            Note("mask", $"The mask of{Named(node)} is more than a plain shape and is not applied.", Place(node, frame));
    }

    /// <summary>
    /// Cuts what was drawn since an item down to a clip path, or to a mask that is nothing but white shapes. Filled shapes become what lies inside, with straight edges within
    /// the flattening tolerance where they are cut; lines likewise; pictures stay whole, and that is noted.
    /// </summary>
    /// <returns>False where a mask is no plain shape; then nothing was changed.</returns>
    private bool Clip(int first, SvgNode clip, Frame frame, bool isMask)
    {
        if (!_inUse.Add(clip)) return true;
        var drawn = _items.ToImmutable();
        var box = drawn[first..].Aggregate(Box.Empty, (b, i) => b.With(i is DrawnPath p ? p.Path.Bounds : VectorPath.Rectangle(0, 0, 1, 1).Transform(((DrawnPicture)i).Place).Bounds));
        var inside = clip[isMask ? "maskContentUnits" : "clipPathUnits"] == "objectBoundingBox"
            ? frame with { ToMm = Affine.Scale(box.Width, box.Height).Then(Affine.Move(box.Left, box.Top)), Width = 1, Height = 1 }
            : frame;
        if (clip["transform"] is { } t) inside = inside with { ToMm = SvgTransforms.Read(t).Then(inside.ToMm) };
        _items = ImmutableArray.CreateBuilder<DrawnItem>();
        // A clip's shapes count by their form alone, black as they are without a style.
        foreach (var child in clip.Children)
            Walk(child, new SvgStyle { FillRule = (child["clip-rule"] ?? clip["clip-rule"]) == "evenodd" ? FillRule.EvenOdd : FillRule.NonZero }, inside with { Opacity = 1 });
        var shapes = _items.OfType<DrawnPath>().ToList();
        var plain = _items.All(i => i is DrawnPath { Ink: { Stroke: null, Fill: { Alpha: > 0.98 } fill } } && (!isMask || fill.DistanceTo(Colour.White) < 20));
        _items = ImmutableArray.CreateBuilder<DrawnItem>();
        _items.AddRange(drawn[..first]);
        _inUse.Remove(clip);
        if (isMask && !plain)
        {
            _items.AddRange(drawn[first..]);
            return false;
        }

        var region = Regions.Region.Empty;
        foreach (var shape in shapes)
            foreach (var part in Regions.Region.Parts(shape.Path, shape.Ink.Rule)) region = region.IsEmpty ? Regions.Region.Of(part) : region.Join(Regions.Region.Of(part));
        foreach (var item in drawn[first..])
        {
            _cancel.ThrowIfCancellationRequested();
            if (item is not DrawnPath path)
            {
                _items.Add(item);
                if (!region.Holds(Regions.Region.Of(VectorPath.Rectangle(0, 0, 1, 1).Transform(((DrawnPicture)item).Place)))) Note("clip", "A picture is shown whole, though it is clipped in the file.", ((DrawnPicture)item).Place.Apply(new(0, 0)));
                continue;
            }

            var bounds = path.Path.Bounds;
            if (region.IsEmpty || !region.Bounds.Touches(bounds)) continue;
            if (region.Holds(Regions.Region.Of(VectorPath.Rectangle(bounds.Left, bounds.Top, Math.Max(bounds.Width, 1e-6), Math.Max(bounds.Height, 1e-6)))))
            {
                _items.Add(path);
                continue;
            }

            if (path.Ink.Fill is not null)
            {
                var kept = Regions.Region.Parts(path.Path, path.Ink.Rule).SelectMany(p => Regions.Region.Of(p).Overlap(region).ToPaths()).SelectMany(p => p.Subpaths).ToImmutableArray();
                if (!kept.IsEmpty) _items.Add(path with { Path = new(kept), Ink = path.Ink with { Stroke = null, Rule = FillRule.NonZero } });
            }

            if (path.Ink.Stroke is not null && region.Within(path.Path) is { IsEmpty: false } lines) _items.Add(path with { Path = lines, Ink = path.Ink with { Fill = null } });
        }

        return true;
    }

    private void NestedView(SvgNode node, SvgStyle style, Frame frame, string? widthText, string? heightText)
    {
        double w = Number(widthText, style, frame.Width) ?? frame.Width, h = Number(heightText, style, frame.Height) ?? frame.Height;
        if (w <= 0 || h <= 0) return;
        var view = ViewBox(node["viewBox"]);
        var place = node.Name == "svg"
            ? Affine.Move(Number(node["x"], style, frame.Width) ?? 0, Number(node["y"], style, frame.Height) ?? 0)
            : Affine.Identity;
        var inner = frame with
        {
            ToMm = Fit(view, w, h, node["preserveAspectRatio"]).Then(place).Then(frame.ToMm),
            Width = view?.Width ?? w,
            Height = view?.Height ?? h,
        };
        foreach (var child in node.Children) Walk(child, style, inner);
    }

    private void Use(SvgNode node, SvgStyle style, Frame frame)
    {
        var href = node["href"];
        if (href is not { Length: > 1 } || href[0] != '#')
        {
            if (href is { Length: > 0 }) Note("external", "A part that lies in another file is left out: embed it and export again.", Place(node, frame));
            return;
        }

        if (!_byId.TryGetValue(href[1..], out var target)) return;
        if (!_inUse.Add(target))
        {
            Note("self-use", $"\"{href}\" uses itself; that repetition is left out.", Place(node, frame));
            return;
        }

        var moved = frame with { ToMm = Affine.Move(Number(node["x"], style, frame.Width) ?? 0, Number(node["y"], style, frame.Height) ?? 0).Then(frame.ToMm) };
        if (target.Name == "symbol")
        {
            var own = _styles.Compute(target, style);
            if (own.Displayed) NestedView(target, own, moved with { Opacity = moved.Opacity * own.Opacity, Depth = frame.Depth + 1 }, node["width"] ?? target["width"], node["height"] ?? target["height"]);
        }
        else
        {
            Walk(target, style, moved);
        }

        _inUse.Remove(target);
    }

    private void Picture(SvgNode node, SvgStyle style, Frame frame)
    {
        if (!style.Visible) return;
        var href = node["href"] ?? "";
        double x = Number(node["x"], style, frame.Width) ?? 0, y = Number(node["y"], style, frame.Height) ?? 0;
        double w = Number(node["width"], style, frame.Width) ?? 0, h = Number(node["height"], style, frame.Height) ?? 0;
        var comma = href.IndexOf(',');
        var head = comma > 0 ? href[..comma] : "";
        if (!head.StartsWith("data:", StringComparison.OrdinalIgnoreCase))
        {
            Note("external", "A picture that lies in another file is left out: embed it and export again.", Place(node, frame));
            return;
        }

        if (!(head.Contains("image/png", StringComparison.OrdinalIgnoreCase) || head.Contains("image/jpeg", StringComparison.OrdinalIgnoreCase) || head.Contains("image/jpg", StringComparison.OrdinalIgnoreCase))
            || !head.EndsWith(";base64", StringComparison.OrdinalIgnoreCase))
        {
            Note("picture", "An embedded picture is neither PNG nor JPEG and is left out.", Place(node, frame));
            return;
        }

        byte[] bytes;
        try
        {
            bytes = Convert.FromBase64String(href[(comma + 1)..].Replace("%2B", "+", StringComparison.OrdinalIgnoreCase).Replace("%3D", "=", StringComparison.OrdinalIgnoreCase).Replace("%2F", "/", StringComparison.OrdinalIgnoreCase));
        }
        catch (FormatException)
        {
            Note("picture", "An embedded picture is damaged and is left out.", Place(node, frame));
            return;
        }

        if (Pictures.PictureFacts.Read(bytes) is not { } facts)
        {
            Note("picture", "An embedded picture is damaged and is left out.", Place(node, frame));
            return;
        }

        if (facts.WidthPx * (long)facts.HeightPx > _limits.PicturePixels)
            throw new UnreadableFileException($"it holds a picture of more than {_limits.PicturePixels / 1_000_000} megapixels");
        if (w == 0) w = h > 0 ? h * facts.WidthPx / facts.HeightPx : facts.WidthPx;
        if (h == 0) h = w * facts.HeightPx / facts.WidthPx;
        var fit = Fit(new(0, 0, facts.WidthPx, facts.HeightPx), w, h, node["preserveAspectRatio"]);
        var place = Affine.Scale(facts.WidthPx, facts.HeightPx).Then(fit).Then(Affine.Move(x, y)).Then(frame.ToMm);
        if (place.IsFinite && place.Determinant != 0)
            _items.Add(new DrawnPicture(node["id"] ?? "", frame.Layer, facts.MediaType, [.. bytes], place, frame.Opacity));
    }

    private VectorPath? Shape(SvgNode node, SvgStyle style, Frame frame)
    {
        double X(string name) => Number(node[name], style, frame.Width) ?? 0;
        double Y(string name) => Number(node[name], style, frame.Height) ?? 0;
        var diagonal = Math.Sqrt((frame.Width * frame.Width + frame.Height * frame.Height) / 2);
        switch (node.Name)
        {
            case "path":
                if (node["d"] is not { } d) return null;
                var path = SvgPathText.Read(d, out var complete, _limits.Segments - _segments);
                if (!complete) Note("path-error", $"The path{Named(node)} has an error; it is drawn up to there.", path.IsEmpty ? new(0, 0) : frame.ToMm.Apply(path.Subpaths[^1].End));
                return path;
            case "rect":
                double w = X("width"), h = Y("height");
                if (w <= 0 || h <= 0) return null;
                double? rx = Number(node["rx"], style, frame.Width), ry = Number(node["ry"], style, frame.Height);
                return SvgShapes.Rectangle(X("x"), Y("y"), w, h, rx ?? ry ?? 0, ry ?? rx ?? 0);
            case "circle":
                var r = Number(node["r"], style, diagonal) ?? 0;
                return r > 0 ? SvgShapes.Ellipse(X("cx"), Y("cy"), r, r) : null;
            case "ellipse":
                double ex = Number(node["rx"], style, frame.Width) ?? Number(node["ry"], style, frame.Height) ?? 0, ey = Number(node["ry"], style, frame.Height) ?? ex;
                return ex > 0 && ey > 0 ? SvgShapes.Ellipse(X("cx"), Y("cy"), ex, ey) : null;
            case "line":
                return VectorPath.Polyline(new Point(X("x1"), Y("y1")), new Point(X("x2"), Y("y2")));
            case "polyline" or "polygon":
                return SvgShapes.Points(node["points"] ?? "", node.Name == "polygon");
            default:
                return null;
        }
    }

    private void Draw(SvgNode node, VectorPath path, SvgStyle style, Frame frame)
    {
        foreach (var s in path.Subpaths) _segments += s.Segments.Length;
        if (_segments > _limits.Segments) throw new UnreadableFileException($"it has more than {_limits.Segments:N0} path segments");
        if (!style.Visible) return;
        var fill = Resolve(style.Fill, style.FillOpacity * frame.Opacity, style, node, frame);
        var stroke = Resolve(style.Stroke, style.StrokeOpacity * frame.Opacity, style, node, frame) is { } colour
            ? StrokeOf(style, colour, frame)
            : null;
        if (node.Name == "line") fill = null;
        if (fill is null && stroke is null) return;
        var placed = path.Transform(frame.ToMm);
        var box = placed.Bounds;
        if (!(Math.Abs(box.Left) < FarAway && Math.Abs(box.Right) < FarAway && Math.Abs(box.Top) < FarAway && Math.Abs(box.Bottom) < FarAway))
        {
            Note("far-away", $"The path{Named(node)} reaches more than a kilometre away and is left out.", new(0, 0));
            return;
        }

        _items.Add(new DrawnPath(node["label"] ?? node["id"] ?? "", frame.Layer, placed, new(fill, style.FillRule, stroke)));
    }

    private Stroke? StrokeOf(SvgStyle style, Colour colour, Frame frame)
    {
        var diagonal = Math.Sqrt((frame.Width * frame.Width + frame.Height * frame.Height) / 2);
        var width = Number(style.StrokeWidth, style, diagonal) ?? 1;
        if (!(width > 0)) return null;
        var scale = style.ThinStroke ? Length.MmPerInch / PxPerInch : frame.ToMm.MeanScale;
        var dashes = ImmutableArray<double>.Empty;
        if (style.Dashes != "none")
        {
            var parts = style.Dashes.Split([',', ' ', '\t', '\n'], StringSplitOptions.RemoveEmptyEntries).Select(p => (Number(p, style, diagonal) ?? -1) * scale).ToArray();
            if (parts.Length is > 0 and < 1000 && parts.All(p => p >= 0) && parts.Sum() > 1e-6) dashes = [.. parts.Length % 2 == 0 ? parts : [.. parts, .. parts]];
        }

        return new(colour, width * scale, style.Cap, style.Join, style.MiterLimit, dashes, (Number(style.DashOffset, style, diagonal) ?? 0) * scale);
    }

    private Colour? Resolve(SvgPaint paint, double opacity, SvgStyle style, SvgNode node, Frame frame)
    {
        var colour = paint.IsCurrentColour ? style.Colour : paint.Colour;
        if (paint.Reference is { } reference)
        {
            if (_byId.TryGetValue(reference, out var server) && server.Name is "linearGradient" or "radialGradient")
            {
                Note("gradient", $"The gradient of{Named(node)} is taken as its first colour for now.", Place(node, frame));
                colour = FirstStop(server, 0) ?? colour;
            }
            else if (_byId.ContainsKey(reference))
            {
                Note("pattern", $"The pattern of{Named(node)} is not read yet; grey is taken.", Place(node, frame));
                colour = new Colour(128, 128, 128);
            }
        }

        if (colour is not { } c) return null;
        var alpha = c.Alpha * opacity;
        return alpha > 0 ? c with { Alpha = alpha } : null;
    }

    private Colour? FirstStop(SvgNode gradient, int depth)
    {
        foreach (var stop in gradient.Children.Where(c => c.Name == "stop"))
        {
            var text = stop["stop-color"];
            var opacity = stop["stop-opacity"];
            foreach (var declaration in (stop["style"] ?? "").Split(';'))
            {
                var pair = declaration.Split(':', 2);
                if (pair.Length == 2 && pair[0].Trim() == "stop-color") text = pair[1].Trim();
                if (pair.Length == 2 && pair[0].Trim() == "stop-opacity") opacity = pair[1].Trim();
            }

            var alpha = double.TryParse(opacity, NumberStyles.Float, CultureInfo.InvariantCulture, out var a) ? Math.Clamp(a, 0, 1) : 1;
            var colour = SvgColours.TryRead(text ?? "black", out var c) ? c : Colour.Black;
            return colour with { Alpha = colour.Alpha * alpha };
        }

        return depth < 8 && gradient["href"] is { Length: > 1 } href && _byId.TryGetValue(href[1..], out var next) ? FirstStop(next, depth + 1) : null;
    }

    private void NoteUnsupported(SvgNode node, SvgStyle style, Frame frame)
    {
        if (style.Filter is not null) Note("filter", $"The filter (blur, shadow) of{Named(node)} is left out.", Place(node, frame));
        if ((node["marker-start"] ?? node["marker-mid"] ?? node["marker-end"]) is { } m && m != "none")
            Note("marker", $"The arrow heads (markers) of{Named(node)} are left out.", Place(node, frame));
    }

    /// <summary>Many programs clip everything to the page: one rectangle at least as large as what is shown changes nothing.</summary>
    private bool ClipsNothing(SvgNode clip, SvgStyle style, Frame frame)
    {
        if (clip["clipPathUnits"] == "objectBoundingBox") return false;
        foreach (var shape in clip.Children)
        {
            if (Shape(shape, style, frame) is not { IsEmpty: false } path || path.Subpaths[0].Segments.Any(s => s.IsCurve)) continue;
            var box = (shape["transform"] is { } t ? path.Transform(SvgTransforms.Read(t)) : path).Bounds;
            if (path.Subpaths[0].Segments.Length is 3 or 4 && box.Grown(1e-3).Holds(new Box(0, 0, frame.Width, frame.Height))) return true;
        }

        return false;
    }

    private static string Named(SvgNode node) => (node["label"] ?? node["id"]) is { Length: > 0 and < 60 } name ? $" \"{name}\"" : "";

    private static Point Place(SvgNode node, Frame frame)
    {
        static double Read(string? t) => double.TryParse(t, NumberStyles.Float, CultureInfo.InvariantCulture, out var v) ? v : 0;
        var at = frame.ToMm.Apply(new(Read(node["x"] ?? node["cx"]), Read(node["y"] ?? node["cy"])));
        return double.IsFinite(at.X) && double.IsFinite(at.Y) ? at : new(0, 0);
    }

    /// <summary>One note for each kind of thing and name, so that a file with ten thousand gradients is not ten thousand findings.</summary>
    private void Note(string code, string text, Point at)
    {
        if (_notes.Count < 200 && !_notes.Exists(n => n.Code == code && n.Text == text)) _notes.Add(new(code, text, at));
    }

    private static Box? ViewBox(string? text)
    {
        if (text is null) return null;
        var scan = new SvgPathText.Scanner(text);
        if (!scan.Number(out var x) || !scan.Number(out var y) || !scan.Number(out var w) || !scan.Number(out var h)) return null;
        return w > 0 && h > 0 ? new Box(x, y, x + w, y + h) : throw new UnreadableFileException("its view box has no size");
    }

    /// <summary>The map from a view box to a viewport (SVG 2, section 8.2).</summary>
    private static Affine Fit(Box? view, double width, double height, string? aspect)
    {
        if (view is not { } v) return Affine.Identity;
        double sx = width / v.Width, sy = height / v.Height;
        var how = (aspect ?? "xMidYMid meet").Trim();
        if (how.StartsWith("none", StringComparison.Ordinal))
            return Affine.Move(-v.Left, -v.Top).Then(Affine.Scale(sx, sy));
        var s = how.EndsWith("slice", StringComparison.Ordinal) ? Math.Max(sx, sy) : Math.Min(sx, sy);
        var ax = how.Contains("xMin", StringComparison.Ordinal) ? 0 : how.Contains("xMax", StringComparison.Ordinal) ? 1 : 0.5;
        var ay = how.Contains("YMin", StringComparison.Ordinal) ? 0 : how.Contains("YMax", StringComparison.Ordinal) ? 1 : 0.5;
        return Affine.Move(-v.Left, -v.Top).Then(Affine.Scale(s, s)).Then(Affine.Move((width - v.Width * s) * ax, (height - v.Height * s) * ay));
    }

    private static double? RootLength(string? text, out bool physical)
    {
        physical = false;
        if (text is null || text.Trim() is "" or "auto" || text.TrimEnd().EndsWith('%')) return null;
        var scan = new SvgPathText.Scanner(text);
        if (!scan.Number(out var v)) return null;
        var unit = UnitOf(text);
        physical = unit is "mm" or "cm" or "in" or "pt" or "pc" or "q";
        return v * PxOf(unit, 16);
    }

    private static string UnitOf(string text) => new string([.. text.Where(c => char.IsAsciiLetter(c) || c == '%')]).ToLowerInvariant() is var u && u.StartsWith('e') && u is not ("em" or "ex") ? u.TrimStart('e') : u;

    private static double PxOf(string unit, double em) => unit switch
    {
        "mm" => PxPerInch / 25.4,
        "cm" => PxPerInch / 2.54,
        "q" => PxPerInch / 101.6,
        "in" => PxPerInch,
        "pt" => PxPerInch / 72,
        "pc" => PxPerInch / 6,
        "em" or "rem" => em,
        "ex" => em / 2,
        _ => 1,
    };

    /// <summary>A length or percentage in user units; null where there is none or it is no number.</summary>
    private static double? Number(string? text, SvgStyle style, double hundredPercent)
    {
        if (text is null) return null;
        var scan = new SvgPathText.Scanner(text);
        if (!scan.Number(out var v)) return null;
        if (scan.AtEnd) return v;
        var unit = UnitOf(text);
        if (unit == "%") return v / 100 * hundredPercent;
        var em = 16.0;
        if (unit is "em" or "ex" && double.TryParse(style.FontSize.TrimEnd('p', 'x'), NumberStyles.Float, CultureInfo.InvariantCulture, out var size)) em = size;
        return v * PxOf(unit, em);
    }
}
