using System.Globalization;
using System.Net;
using System.Runtime.CompilerServices;
using System.Text;
using Falzkunst.Core.Cards;
using Falzkunst.Core.Findings;
using Falzkunst.Core.Layout;
using Falzkunst.Core.Runs;

namespace Falzkunst.Web.Table;

/// <summary>The table as SVG, one unit a millimetre. What stands in it is the core's answer; the browser only moves the view.</summary>
public static class TableSvg
{
    private const double AroundMm = 14, SmallMm = 50;

    // The paths of a design as text, made once: a page of many pieces is mostly this.
    private static readonly ConditionalWeakTable<VectorPath, string> PathText = [];

    /// <param name="apart">Plies side by side instead of on one another.</param>
    /// <param name="link">Where choosing a piece or line leads, with {0} for "piece=p1".</param>
    public static string Design(Design design, IReadOnlyList<Finding> findings, bool apart, string pieceId, string lookKey, string lineId, string link, string artworkUrl)
    {
        var text = new StringBuilder(4096);
        var extent = design.Extent;
        var offsets = apart ? Apart(design, ref extent) : [];
        var view = extent;

        view = view.Grown(Math.Min(AroundMm, Math.Max(view.Width, view.Height) * 0.3 + 0.5));
        // Marks are as large on a tag as on a poster.
        var mark = Math.Clamp(Math.Max(view.Width, view.Height) / 230, 0.05, 2);
        // On what is no larger than a stamp, lines as wide as a pen's would hide the paper.
        Open(text, Math.Max(view.Width, view.Height) < SmallMm ? "is-small table" : "table", view, "Design on the table, in true size");
        var carried = design.Lines.ToLookup(l => l.CarriedBy);
        var pieces = design.Pieces.ToLookup(p => p.PlyId);
        var artwork = design.Artwork.ToLookup(a => a.CarriedBy);
        var looks = design.Looks.Select((l, i) => (l.Key, i)).ToDictionary(t => t.Key, t => t.i, StringComparer.Ordinal);
        foreach (var ply in design.Plies)
        {
            text.Append(CultureInfo.InvariantCulture, $"<g class=\"ply\" data-ply=\"{ply.Id}\"");
            if (offsets.TryGetValue(ply.Id, out var move)) text.Append(CultureInfo.InvariantCulture, $" transform=\"translate({move.X:0.##} {move.Y:0.##})\"");
            text.Append('>');
            foreach (var piece in pieces[ply.Id].OrderBy(p => p.Order))
            {
                var chosen = piece.Id == pieceId || (lookKey.Length > 0 && piece.Look == lookKey);
                text.Append(CultureInfo.InvariantCulture, $"<g class=\"piece{(chosen ? " chosen" : "")}\" id=\"{piece.Id}\" data-look=\"{Look(piece.Look)}\"><a fill=\"{piece.Colour.Hex}\" href=\"{Link(link, "piece=" + piece.Id)}\" aria-label=\"{Html(piece.Label)}\"><use class=\"shade\" href=\"#{piece.Id}-paper\"/><path class=\"paper\" id=\"{piece.Id}-paper\" fill-rule=\"evenodd\" d=\"{D(piece.Outline)}\"/></a>");
                var pictures = artwork[piece.Id].ToList();
                if (pictures.Count > 0)
                {
                    // Only what lies on the paper will be seen.
                    text.Append(CultureInfo.InvariantCulture, $"<clipPath id=\"{piece.Id}-clip\"><path clip-rule=\"evenodd\" d=\"{D(piece.Outline)}\"/></clipPath><g class=\"artwork\" clip-path=\"url(#{piece.Id}-clip)\">");
                    foreach (var art in pictures) Picture(art);
                    text.Append("</g>");
                }

                if (!piece.Holes.IsEmpty)
                {
                    Path(piece.OuterOperation, new VectorPath([piece.Outline.Subpaths[0]]).ToSvg(), "edge");
                    for (var i = 0; i < piece.Holes.Length; i++) Path(piece.HoleOperation, new VectorPath([piece.Outline.Subpaths[i + 1]]).ToSvg(), "hole", $" data-look=\"{Look(piece.Holes[i].Look)}\"");
                }
                else if (piece.OuterOperation == piece.HoleOperation || piece.Outline.Subpaths.Length == 1)
                {
                    Path(piece.OuterOperation, D(piece.Outline), "edge");
                }
                else
                {
                    Path(piece.OuterOperation, new VectorPath([piece.Outline.Subpaths[0]]).ToSvg(), "edge");
                    Path(piece.HoleOperation, new VectorPath(piece.Outline.Subpaths.RemoveAt(0)).ToSvg(), "edge");
                }

                foreach (var line in carried[piece.Id]) Line(line);
                text.Append("</g>");
            }

            text.Append("</g>");
        }

        text.Append("<g class=\"loose\">");
        foreach (var art in artwork[null]) Picture(art);
        foreach (var line in carried[null]) Line(line);
        text.Append("</g><g class=\"places\">");
        if (!apart)
        {
            foreach (var f in findings.Where(f => f.Severity != Severity.Note))
                text.Append(CultureInfo.InvariantCulture, $"<circle class=\"place {Tone(f.Severity)}\" cx=\"{f.At.X:0.##}\" cy=\"{f.At.Y:0.##}\" r=\"{3 * mark:0.##}\" stroke-width=\"{0.7 * mark:0.##}\"><title>{Html(f.Text)}</title></circle>");
        }

        return text.Append("</g></svg>").ToString();

        int Look(string key) => looks.GetValueOrDefault(key, -1);

        void Path(Operation operation, string d, string more, string attributes = "") =>
            text.Append(CultureInfo.InvariantCulture, $"<path class=\"op-{operation.Word()} {more}\"{attributes} d=\"{d}\"/>");

        void Line(Line line)
        {
            var chosen = line.Id == lineId || (lookKey.Length > 0 && line.Look == lookKey);
            var d = D(line.Path);
            text.Append(CultureInfo.InvariantCulture, $"<a class=\"line{(chosen ? " chosen" : "")}{(line.CarriedBy is null ? " is-loose" : "")}\" id=\"{line.Id}\" data-look=\"{Look(line.Look)}\" href=\"{Link(link, "line=" + line.Id)}\" aria-label=\"{line.Operation.Word()} line\"><path class=\"hit\" d=\"{d}\"/>");
            Path(line.Operation, d, "");
            if (line.Operation is Operation.Score or Operation.Perforate && Folds.IsStraight(line.Path, out var a, out var b) && a.DistanceTo(b) > 20) FoldEnds(a, b, line.FoldSide);
            text.Append("</a>");
        }

        void FoldEnds(Point a, Point b, FoldSide side)
        {
            // Small triangles just outside the ends: a peak for a mountain, a dip for a valley, whichever way the line runs.
            var along = (b - a) * (1 / a.DistanceTo(b));
            var up = (side == FoldSide.Mountain ? -1.6 : 1.6) * mark;
            foreach (var at in new[] { a - along * (3 * mark), b + along * (3 * mark) })
                text.Append(CultureInfo.InvariantCulture, $"<path class=\"fold-end\" d=\"M{at.X:0.##} {at.Y + up:0.##}L{at.X - 1.9 * mark:0.##} {at.Y - up:0.##} {at.X + 1.9 * mark:0.##} {at.Y - up:0.##}Z\"/>");
        }

        void Picture(Artwork art)
        {
            var m = art.Place;
            text.Append(CultureInfo.InvariantCulture, $"<image href=\"{artworkUrl}/{art.Id}\" width=\"1\" height=\"1\" preserveAspectRatio=\"none\" transform=\"matrix({m.A:R} {m.B:R} {m.C:R} {m.D:R} {m.E:R} {m.F:R})\" opacity=\"{art.Opacity:0.##}\"/>");
        }
    }

    /// <summary>How far each ply moves to lie beside the others, in rows about as wide as the table is; and what they then cover.</summary>
    private static Dictionary<string, Point> Apart(Design design, ref Box extent)
    {
        const double Between = 10, WiderThanHigh = 1.05;
        var boxes = design.Plies.Select(ply => (ply.Id, Box: design.Pieces.Where(p => p.PlyId == ply.Id).Aggregate(Box.Empty, (b, p) => b.With(p.Outline.Bounds)))).Where(t => !t.Box.IsEmpty).ToList();
        var moves = new Dictionary<string, Point>(StringComparer.Ordinal);
        if (boxes.Count == 0) return moves;
        var wide = Math.Max(boxes.Max(t => t.Box.Width), Math.Sqrt(boxes.Sum(t => (t.Box.Width + Between) * (t.Box.Height + Between)) * WiderThanHigh));
        double x = 0, y = 0, high = 0;
        extent = Box.Empty;
        foreach (var (id, box) in boxes)
        {
            if (x > 0 && x + box.Width > wide + 1)
            {
                (x, y) = (0, y + high + Between);
                high = 0;
            }

            moves[id] = new(x - box.Left, y - box.Top);
            extent = extent.With(new Box(x, y, x + box.Width, y + box.Height));
            x += box.Width + Between;
            high = Math.Max(high, box.Height);
        }

        return moves;
    }

    /// <summary>A small picture of a design, or of a part of it; nothing in it can be chosen.</summary>
    /// <param name="ids">The pieces and loose lines to show; null shows all.</param>
    /// <param name="window">As large as the window that it is seen in, where several are to be to one scale; null fits it.</param>
    public static string Small(Design design, IReadOnlySet<string>? ids = null, Box? window = null)
    {
        var box = Box.Empty;
        var body = new StringBuilder();
        foreach (var ply in design.Plies)
        {
            foreach (var p in design.Pieces.Where(p => p.PlyId == ply.Id && (ids is null || ids.Contains(p.Id))).OrderBy(p => p.Order))
            {
                box = box.With(p.Outline.Bounds);
                body.Append(CultureInfo.InvariantCulture, $"<path fill=\"{p.Colour.Hex}\" fill-rule=\"evenodd\" stroke=\"#23262e\" stroke-width=\"1\" vector-effect=\"non-scaling-stroke\" d=\"{D(p.Outline)}\"/>");
            }
        }

        foreach (var l in design.Lines.Where(l => ids is null || ids.Contains(l.Id) || (l.CarriedBy is { } by && ids.Contains(by))))
        {
            box = box.With(l.Path.Bounds);
            body.Append(CultureInfo.InvariantCulture, $"<path fill=\"none\" stroke=\"{l.Operation.ColourHex()}\" stroke-width=\"1\" vector-effect=\"non-scaling-stroke\" d=\"{D(l.Path)}\"/>");
        }

        if (box.IsEmpty) box = new(0, 0, design.WidthMm, design.HeightMm);
        if (window is { } w) box = new(box.Centre.X - w.Width / 2, box.Centre.Y - w.Height / 2, box.Centre.X + w.Width / 2, box.Centre.Y + w.Height / 2);
        box = box.Grown(Math.Max(box.Width, box.Height) * 0.03 + 0.1);
        return string.Create(CultureInfo.InvariantCulture, $"<svg class=\"small\" xmlns=\"http://www.w3.org/2000/svg\" viewBox=\"{box.Left:0.##} {box.Top:0.##} {box.Width:0.##} {box.Height:0.##}\" aria-hidden=\"true\">{body}</svg>");
    }

    /// <summary>A small picture of all that has a look, as it was drawn; null where that would be more than a small picture can show.</summary>
    public static string? Look(LookRow row)
    {
        const int MostPaths = 150, MostLetters = 15_000;
        if (row.Paths.Length > MostPaths) return null;
        var body = new StringBuilder();
        var box = Box.Empty;
        foreach (var path in row.Paths)
        {
            box = box.With(path.Bounds);
            body.Append(D(path));
            if (body.Length > MostLetters) return null;
        }

        if (box.IsEmpty) return null;
        box = box.Grown(Math.Max(box.Width, box.Height) * 0.06 + 0.05);
        var (fill, stroke) = (row.Look.Fill?.Hex ?? "none", row.Look.Stroke?.Hex ?? (row.Look.Fill is null ? "#23262e" : "#8d887d"));
        return string.Create(CultureInfo.InvariantCulture, $"<svg viewBox=\"{box.Left:0.##} {box.Top:0.##} {box.Width:0.##} {box.Height:0.##}\" aria-hidden=\"true\"><path fill=\"{fill}\" fill-rule=\"evenodd\" stroke=\"{stroke}\"{(row.Look.Dashed ? " stroke-dasharray=\"4 2.5\"" : "")} d=\"{body}\"/></svg>");
    }

    /// <summary>One sheet of a layout, with what lies on it.</summary>
    public static string Sheet(Design design, SheetPlan sheet, string label)
    {
        var text = new StringBuilder();
        Open(text, "sheet", new(-3, -3, sheet.Size.WidthMm + 3, sheet.Size.HeightMm + 3), label);
        var colour = design.Piece(sheet.Pieces.Length > 0 ? sheet.Pieces[0].PieceId : "")?.Colour.Hex ?? "#fbf8f2";
        text.Append(CultureInfo.InvariantCulture, $"<rect class=\"sheet-paper\" fill=\"{colour}\" width=\"{sheet.Size.WidthMm:0.##}\" height=\"{sheet.Size.HeightMm:0.##}\"/>");
        var m = sheet.Size.MarginMm;
        text.Append(CultureInfo.InvariantCulture, $"<rect class=\"sheet-margin\" x=\"{m}\" y=\"{m}\" width=\"{sheet.Size.UsableWidthMm:0.##}\" height=\"{sheet.Size.UsableHeightMm:0.##}\"/>");
        var pieces = design.Pieces.ToDictionary(p => p.Id, StringComparer.Ordinal);
        var lines = design.Lines.ToLookup(l => l.CarriedBy);
        foreach (var placed in sheet.Pieces)
        {
            if (!pieces.TryGetValue(placed.PieceId, out var piece)) continue;
            var t = placed.ToSheet;
            text.Append(CultureInfo.InvariantCulture, $"<g transform=\"matrix({t.A:0.######} {t.B:0.######} {t.C:0.######} {t.D:0.######} {t.E:0.####} {t.F:0.####})\"><title>{Html(piece.Label)}, copy {placed.Copy}</title><path class=\"laid op-{piece.OuterOperation.Word()}\" fill-rule=\"evenodd\" d=\"{D(piece.Outline)}\"/>");
            foreach (var line in lines[piece.Id]) text.Append(CultureInfo.InvariantCulture, $"<path class=\"op-{line.Operation.Word()}\" d=\"{D(line.Path)}\"/>");
            text.Append("</g>");
        }

        return text.Append("</svg>").ToString();
    }

    /// <summary>What is planned for a sheet, and over it what the machine says that it did.</summary>
    public static string Run(SheetRun sheet, string paperHex, IReadOnlyList<Falzkunst.Store.CutterMark>? done, string label)
    {
        var text = new StringBuilder();
        Open(text, "sheet", new(-3, -3, sheet.WidthMm + 3, sheet.HeightMm + 3), label);
        text.Append(CultureInfo.InvariantCulture, $"<rect class=\"sheet-paper\" fill=\"{paperHex}\" width=\"{sheet.WidthMm:0.##}\" height=\"{sheet.HeightMm:0.##}\"/>");
        text.Append(done is null ? "<g>" : "<g class=\"planned\">");
        foreach (var step in sheet.Steps)
        {
            text.Append(CultureInfo.InvariantCulture, $"<path class=\"op-{step.Operation.Word()}\" d=\"");
            foreach (var path in step.Paths) path.AppendSvg(text);
            text.Append("\"/>");
        }

        text.Append("</g>");
        foreach (var group in done?.GroupBy(m => m.Pen) ?? [])
        {
            var operation = sheet.Steps.FirstOrDefault(s => s.Pen == group.Key)?.Operation ?? Operation.Cut;
            text.Append(CultureInfo.InvariantCulture, $"<path class=\"done op-{operation.Word()}\" d=\"");
            foreach (var mark in group)
            {
                for (var i = 0; i + 1 < mark.Units.Length; i += 2)
                    text.Append(CultureInfo.InvariantCulture, $"{(i == 0 ? 'M' : 'L')}{mark.Units[i] * 0.025:0.###} {sheet.HeightMm - mark.Units[i + 1] * 0.025:0.###}");
            }

            text.Append("\"/>");
        }

        return text.Append("</svg>").ToString();
    }

    public static string Tone(Severity severity) => severity switch { Severity.Stop => "is-stop", Severity.Warn => "is-warn", _ => "is-note" };

    private static string D(VectorPath path) => PathText.GetValue(path, static p => p.ToSvg());

    private static void Open(StringBuilder text, string kind, Box view, string label) => text.Append(CultureInfo.InvariantCulture,
        $"<svg class=\"{kind}-svg\" xmlns=\"http://www.w3.org/2000/svg\" viewBox=\"{view.Left:0.##} {view.Top:0.##} {view.Width:0.##} {view.Height:0.##}\" data-home=\"{view.Left:0.##} {view.Top:0.##} {view.Width:0.##} {view.Height:0.##}\" role=\"group\" aria-label=\"{Html(label)}\">");

    private static string Link(string link, string what) => Html(link.Replace("{0}", what, StringComparison.Ordinal));

    private static string Html(string text) => WebUtility.HtmlEncode(text);
}
