using System.IO;
using Falzkunst.Core.Cards;
using Falzkunst.Core.Files;
using Falzkunst.Core.Pictures;
using Falzkunst.Core.Reading.Recognition;

namespace Falzkunst.Core.Reading.Svg;

/// <summary>
/// Reads SVG into a <see cref="Drawing"/>: shapes, paths, groups, <c>use</c> and <c>symbol</c>, nested <c>svg</c>, transforms, view boxes, units,
/// style sheets, strokes, clips, masks of plain shapes, gradients, patterns, markers, embedded pictures, text in the typefaces that ship. What is left out
/// (other typefaces, filters, masks with greys) becomes a note with its place. Nothing outside the file is ever fetched.
/// </summary>
public sealed partial class SvgReader
{
    private const double FarAway = 1e6;

    private const int MostCss = 8_000_000;

    private readonly ReadingLimits _limits;
    private readonly ReadingWork _work;
    private readonly SvgStyles _styles;
    private readonly Dictionary<string, SvgNode> _byId = [];
    private ImmutableArray<DrawnItem>.Builder _items = ImmutableArray.CreateBuilder<DrawnItem>();
    private readonly List<ReadingNote> _notes = [];
    private readonly List<DrawnText> _texts = [];
    private readonly HashSet<SvgNode> _inUse = [];
    private int _segments;
    private int _elements;

    private SvgReader(ReadingLimits limits, ReadingWork work) => (_limits, _work, _styles) = (limits, work, new(work));

    /// <summary>The size of what percentages refer to, and the map from here to mm.</summary>
    private readonly record struct Frame(double Width, double Height, Affine ToMm, string Layer, double Opacity, int Depth);

    /// <summary>Reads an SVG file.</summary>
    /// <exception cref="UnreadableFileException">The file is not SVG, is damaged, or goes beyond a limit.</exception>
    /// <param name="work">What is counted; null where nobody waits or asks.</param>
    /// <exception cref="TooMuchWorkException">The limit of work is reached.</exception>
    /// <exception cref="OperationCanceledException">Cancelled.</exception>
    public static Drawing Read(Stream file, ReadingLimits limits, ReadingWork? work = null)
    {
        work ??= new(limits, CancellationToken.None);
        var root = SvgNode.Load(file, limits, work);
        return new SvgReader(limits, work).ReadRoot(root);
    }

    private Drawing ReadRoot(SvgNode root)
    {
        Index(root);
        var view = ViewBox(root["viewBox"]);
        var style = _styles.Compute(root, new SvgStyle());
        double defaultWidth = view?.Width ?? 300, defaultHeight = view?.Height ?? 150;
        var width = SvgLengths.ReadPage(root["width"], out var unitX);
        var height = SvgLengths.ReadPage(root["height"], out var unitY);
        if (width <= 0 || height <= 0) throw new UnreadableFileException("its page has no size (width or height is 0)");
        // One side given: the other follows from the view box, as browsers do.
        if (width is null && height is { } h && view is { } v1) width = h * v1.Width / v1.Height;
        if (height is null && width is { } w && view is { } v2) height = w * v2.Height / v2.Width;
        double pxWidth = width ?? defaultWidth, pxHeight = height ?? defaultHeight;
        var known = unitX || unitY;
        var scale = known
            ? new ScaleFacts(SvgLengths.PxPerInch, true, $"the file says it is {root["width"]} × {root["height"]}")
            : new ScaleFacts(SvgLengths.PxPerInch, false, "the file gives no physical size; 96 pixels in an inch were taken");
        const double mmPerPx = Length.MmPerInch / SvgLengths.PxPerInch;
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
        return new(Length.FromMm(widthMm), Length.FromMm(heightMm), scale, _items.ToImmutable(), [.. _notes], root.Producer)
        { Texts = [.. _texts] };
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

        // They are read in one go, which nothing can interrupt.
        if (sheets.Sum(s => (long)s.Length) > MostCss) throw new UnreadableFileException($"its style sheets hold more than {MostCss / 1_000_000} MB");
        foreach (var css in sheets.Where(s => s.Length > 0)) _styles.Add(css);
    }

    private void Walk(SvgNode node, SvgStyle parent, Frame frame)
    {
        _elements++;
        _work.Go(200);
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
                // The id of a group within a layer is only a name, unless it says what is done.
                var label = node["label"] ?? (node["groupmode"] == "layer" || frame.Layer.Length == 0 || OperationNames.Read(node["id"] ?? "") is not null
                    ? node["id"] : null);
                var inside = label is { Length: > 0 } ? frame with { Layer = label } : frame;
                foreach (var child in node.Name == "switch" ? node.Children.Where(c => c["requiredFeatures"] is null && c.Name != "foreignObject").Take(1)
                    : node.Children)
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
                Text(node, style, frame);
                break;
            case "foreignObject":
                Note("foreign", "Foreign content (such as a web page) is left out.", Place(node, frame));
                break;
            default:
                if (Shape(node, style, frame) is not { IsEmpty: false } path) break;
                Draw(node, path, style, frame);
                if (node.Name is "path" or "line" or "polyline" or "polygon") Markers(path, style, frame);
                break;
        }

        if (_items.Count == first) return;
        if (style.Clip is { } clip && _byId.TryGetValue(clip, out var clipNode) && clipNode.Name == "clipPath"
            && !ClipsNothing(clipNode, style, frame)) Clip(first, clipNode, frame, false);
        if (style.Mask is { } mask && _byId.TryGetValue(mask, out var maskNode) && maskNode.Name == "mask" && !Clip(first, maskNode, frame, true))
            Note("mask", $"The mask of{Named(node)} is more than a plain shape and is not applied.", Place(node, frame));
    }

    private void NestedView(SvgNode node, SvgStyle style, Frame frame, string? widthText, string? heightText)
    {
        double w = SvgLengths.Read(widthText, style, frame.Width) ?? frame.Width, h = SvgLengths.Read(heightText, style, frame.Height) ?? frame.Height;
        if (w <= 0 || h <= 0) return;
        var view = ViewBox(node["viewBox"]);
        var place = node.Name == "svg"
            ? Affine.Move(SvgLengths.Read(node["x"], style, frame.Width) ?? 0, SvgLengths.Read(node["y"], style, frame.Height) ?? 0)
            : Affine.Identity;
        var inner = frame with
        {
            ToMm = Fit(view, w, h, node["preserveAspectRatio"]).Then(place).Then(frame.ToMm),
            Width = view?.Width ?? w,
            Height = view?.Height ?? h,
        };
        var first = _items.Count;
        foreach (var child in node.Children) Walk(child, style, inner);
        ClipToView(first, style, new(0, 0, w, h), place.Then(frame.ToMm));
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

        var moved = frame with
        {
            ToMm = Affine.Move(SvgLengths.Read(node["x"], style, frame.Width) ?? 0, SvgLengths.Read(node["y"], style, frame.Height) ?? 0)
            .Then(frame.ToMm),
        };
        if (target.Name == "symbol")
        {
            var own = _styles.Compute(target, style);
            if (own.Displayed) NestedView(target, own, moved with { Opacity = moved.Opacity * own.Opacity, Depth = frame.Depth + 1 }, node["width"]
                ?? target["width"], node["height"] ?? target["height"]);
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
        double x = SvgLengths.Read(node["x"], style, frame.Width) ?? 0, y = SvgLengths.Read(node["y"], style, frame.Height) ?? 0;
        double w = SvgLengths.Read(node["width"], style, frame.Width) ?? 0, h = SvgLengths.Read(node["height"], style, frame.Height) ?? 0;
        var comma = href.IndexOf(',');
        var head = comma > 0 ? href[..comma] : "";
        if (!head.StartsWith("data:", StringComparison.OrdinalIgnoreCase))
        {
            Note("external", "A picture that lies in another file is left out: embed it and export again.", Place(node, frame));
            return;
        }

        if (BytesOf(head, href[(comma + 1)..]) is not { } bytes || PictureFacts.Read(bytes) is not { } facts)
        {
            Note("picture", "An embedded picture is damaged, or neither PNG, JPEG nor WebP, and is left out.", Place(node, frame));
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

    /// <summary>The bytes of a data address (RFC 2397); null where they are damaged.</summary>
    private static byte[]? BytesOf(string head, string text)
    {
        try
        {
            var plain = Uri.UnescapeDataString(text);
            return head.EndsWith(";base64", StringComparison.OrdinalIgnoreCase) ? Convert.FromBase64String(plain) : System.Text.Encoding.Latin1.GetBytes(plain);
        }
        catch (FormatException)
        {
            return null;
        }
    }

    private VectorPath? Shape(SvgNode node, SvgStyle style, Frame frame)
    {
        double X(string name) => SvgLengths.Read(node[name], style, frame.Width) ?? 0;
        double Y(string name) => SvgLengths.Read(node[name], style, frame.Height) ?? 0;
        var diagonal = Math.Sqrt((frame.Width * frame.Width + frame.Height * frame.Height) / 2);
        switch (node.Name)
        {
            case "path":
                if (node["d"] is not { } d) return null;
                var path = PathText.Read(d, out var complete, _limits.Segments - _segments);
                if (!complete) Note("path-error", $"The path{Named(node)} has an error; it is drawn up to there.", path.IsEmpty ? new(0, 0)
                    : frame.ToMm.Apply(path.Subpaths[^1].End));
                return path;
            case "rect":
                double w = X("width"), h = Y("height");
                if (w <= 0 || h <= 0) return null;
                double? rx = SvgLengths.Read(node["rx"], style, frame.Width), ry = SvgLengths.Read(node["ry"], style, frame.Height);
                return SvgShapes.Rectangle(X("x"), Y("y"), w, h, rx ?? ry ?? 0, ry ?? rx ?? 0);
            case "circle":
                var r = SvgLengths.Read(node["r"], style, diagonal) ?? 0;
                return r > 0 ? SvgShapes.Ellipse(X("cx"), Y("cy"), r, r) : null;
            case "ellipse":
                double ex = SvgLengths.Read(node["rx"], style, frame.Width) ?? SvgLengths.Read(node["ry"], style, frame.Height)
                    ?? 0, ey = SvgLengths.Read(node["ry"], style, frame.Height) ?? ex;
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
        var box = path.Bounds;
        var fill = node.Name == "line" ? default : Resolve(style.Fill, style.FillOpacity * frame.Opacity, style, node, frame, box);
        var line = Resolve(style.Stroke, style.StrokeOpacity * frame.Opacity, style, node, frame, box);
        var stroke = line.Colour is { } colour ? StrokeOf(style, colour, frame) : null;
        if (stroke is not null && line.Brush is not null) Note("gradient",
            $"The line of{Named(node)} is drawn with a gradient or pattern; its mean colour is taken.", Place(node, frame));
        if (fill.Colour is null && stroke is null) return;
        var placed = path.Transform(frame.ToMm);
        var bounds = placed.Bounds;
        if (!(Math.Abs(bounds.Left) < FarAway && Math.Abs(bounds.Right) < FarAway && Math.Abs(bounds.Top) < FarAway && Math.Abs(bounds.Bottom) < FarAway))
        {
            Note("far-away", $"The path{Named(node)} reaches more than a kilometre away and is left out.", new(0, 0));
            return;
        }

        DrawnPicture? paint = null;
        if (fill.Brush is not null && (paint = PictureOf(fill.Brush, placed, frame, style.FillOpacity * frame.Opacity)) is null)
            Note("gradient", "The file has so many gradients and patterns that some are taken as their mean colour.", bounds.Centre);
        _items.Add(new DrawnPath(node["label"] ?? node["id"]
            ?? "", frame.Layer, placed, new(fill.Colour, style.FillRule, stroke) { IsPainted = paint is not null })
        { Paint = paint });
    }

    private static Stroke? StrokeOf(SvgStyle style, Colour colour, Frame frame)
    {
        var diagonal = Math.Sqrt((frame.Width * frame.Width + frame.Height * frame.Height) / 2);
        var width = SvgLengths.Read(style.StrokeWidth, style, diagonal) ?? 1;
        var scale = style.ThinStroke ? Length.MmPerInch / SvgLengths.PxPerInch : frame.ToMm.MeanScale;
        if (!(width > 0 && width * scale < FarAway)) return null;
        var dashes = ImmutableArray<Length>.Empty;
        if (style.Dashes != "none")
        {
            var parts = style.Dashes.Split([',', ' ', '\t', '\n'], StringSplitOptions.RemoveEmptyEntries)
                .Select(p => (SvgLengths.Read(p, style, diagonal) ?? -1) * scale).ToArray();
            if (parts.Length is > 0 and < 1000 && parts.All(p => p is >= 0 and < FarAway) && parts.Sum() > 1e-6) dashes =
                [.. (parts.Length % 2 == 0 ? parts : [.. parts, .. parts]).Select(Length.FromMm)];
        }

        var offset = (SvgLengths.Read(style.DashOffset, style, diagonal) ?? 0) * scale;
        return new(colour, Length.FromMm(width * scale), style.Cap, style.Join, style.MiterLimit, dashes,
            Math.Abs(offset) < FarAway ? Length.FromMm(offset) : Length.Zero);
    }

    private void NoteUnsupported(SvgNode node, SvgStyle style, Frame frame)
    {
        if (style.Filter is not null) Note("filter", $"The filter (blur, shadow) of{Named(node)} is left out.", Place(node, frame));
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
        var scan = new PathText.Scanner(text);
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
}
