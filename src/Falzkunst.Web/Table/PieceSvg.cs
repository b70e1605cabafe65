using System.Globalization;
using Falzkunst.Core.Cards;
using Falzkunst.Core.Measures;
using Falzkunst.Core.Runs;
using Falzkunst.Core.Shapes;

namespace Falzkunst.Web.Table;

/// <summary>How things on a table are shown, beside what they are.</summary>
/// <param name="Address">Of the stage; choosing something leads there, with what was chosen in the query.</param>
/// <param name="Pictures">Where pictures are, by their hash.</param>
/// <param name="Looks">The number of each look.</param>
/// <param name="Mark">How large marks are, in mm: as large on a tag as on a poster.</param>
public sealed record TableDress(string Address, string Pictures, IReadOnlyDictionary<string, int> Looks, double Mark, bool IsSmall)
{
    /// <summary>What was chosen when the page was asked for.</summary>
    public IReadOnlySet<string> Chosen { get; init; } = new HashSet<string>();

    public string ChosenLook { get; init; } = "";

    /// <summary>What alone is shown, as of <see cref="Pages.Dockets.LooksPage.Only"/>.</summary>
    public string Only { get; init; } = "";

    /// <summary>The stocks that pieces are filled with; empty where they have the colour that they came in with.</summary>
    public IReadOnlyList<Stock> Stocks { get; init; } = [];

    /// <summary>Whether the card is seen from behind: mirrored, its lowest ply on top, and what is made on the inner face in full.</summary>
    public bool FromBehind { get; init; }

    /// <summary>How wide the lines of each operation are made; what is not in it is shown as a line.</summary>
    public IReadOnlyDictionary<Operation, Length> Widths { get; init; } = Tool.Standard.ToDictionary(t => t.Operation, t => t.Width);

    internal string Paper(Piece piece) => (Stocks.Count > 0 ? Core.Cards.Stocks.For(piece, Stocks)?.Colour : null)?.Hex ?? piece.Colour.Hex;

    internal bool IsChosen(string id, string look) => Chosen.Contains(id) || (ChosenLook.Length > 0 && look == ChosenLook);

    internal string Look(string key) => (key.Length == 0 ? -1 : Looks.GetValueOrDefault(key, -1)).ToString(CultureInfo.InvariantCulture);

    internal string Link(string what, string id) =>
        $"{Address}{(Address.Contains('?', StringComparison.Ordinal) ? '&' : '?')}{what}={Uri.EscapeDataString(id)}";
}

/// <summary>A piece on the table, with what it carries, in its own coordinates under its place.</summary>
internal static class PieceSvg
{
    private const int MostRings = 60;

    private static readonly Point Shade = new(0.35, 0.6), SmallShade = new(0.1, 0.18);

    public static void Write(SvgWriter w, Piece piece, TableDress dress)
    {
        var paper = "paper-" + piece.Id;
        w.Start("g").Set("class", (piece.IsThing ? "piece is-thing" : "piece") + (dress.IsChosen(piece.Id, piece.Look) ? " chosen" : ""))
            .Set("data-id", piece.Id)
            .Set("data-look", dress.Look(piece.Look))
            .Set("data-box", piece.OnCard.Bounds).Set("data-name", piece.Label);
        if (piece.Folds.Length > 0) w.Set("data-panels", Panels(piece));
        if (!piece.Place.IsOwn) w.Set("transform", piece.Place.Map);
        w.Start("a").Set("class", "choose").Set("fill", dress.Paper(piece)).Set("stroke", "none").Set("href", dress.Link("piece", piece.Id))
            .Set("aria-label", piece.Label).SetIf(piece.Why.Length > 0, "data-why", piece.Why);
        // The shade falls the same way however the piece lies.
        var shade = ShadeOf(piece.Place, dress.IsSmall ? SmallShade : Shade);
        w.Start("use").Set("class", "shade").Set("href", "#" + paper).Set("x", shade.X, 3).Set("y", shade.Y, 3).End();
        w.Start("path").Set("class", "paper").Set("id", paper).Set("fill-rule", "evenodd").Path(piece.Outline).End().End();
        // Only what lies on the paper will be seen.
        var clip = "clip-" + piece.Id;
        if (piece.Artwork.Length > 0) w.Start("clipPath").Set("id", clip).Start("use").Set("href", "#" + paper).Set("clip-rule", "evenodd").End().End();
        foreach (var (art, line) in piece.Printed)
        {
            if (line is not null)
            {
                LineSvg.Write(w, line, piece, dress);
                continue;
            }

            w.Start("g").Set("class", "artwork").Set("clip-path", $"url(#{clip})");
            Print(w, art!, piece, dress);
            w.End();
        }

        var edges = piece.Edges;
        if (edges.All(e => e.Operation == edges[0].Operation && e.Origin is null))
        {
            w.Start("use").Set("class", $"op-{edges[0].Operation.Word()} edge").Dashes(edges[0], piece.Outline).Set("href", "#" + paper).End();
        }
        else
        {
            foreach (var group in edges.Select((e, i) => (Edge: e, Ring: i)).Where(t => t.Edge.Origin is null).GroupBy(t => t.Edge.Operation))
                w.Start("path").Set("class", $"op-{group.Key.Word()} edge")
                    .Dashes(group.First().Edge, new([piece.Outline.Subpaths[group.First().Ring]]))
                    .Path(new([.. group.Select(t => piece.Outline.Subpaths[t.Ring])])).End();
            for (var i = 0; i < edges.Length; i++)
                if (edges[i].Origin is { } drawn) w.Start("path").Set("class", $"op-{edges[i].Operation.Word()} hole").Set("data-look", dress.Look(drawn.Look))
                    .Path(piece.Outline.Parts()[i]).End();
        }

        w.Bridges(piece);
        // The holes of lace are too many to choose one by one; the look table has them together.
        if (edges.Length <= MostRings)
            for (var i = 1; i < edges.Length; i++)
                if (!piece.IsOuter(i)) Ring(w, piece, i, dress);

        foreach (var line in piece.Lines.Where(l => l.Operation != Operation.Print)) LineSvg.Write(w, line, piece, dress);
        w.End();
    }

    /// <summary>The bridges that hold what is cut out.</summary>
    internal static SvgWriter Bridges(this SvgWriter w, Piece piece)
    {
        for (var i = 0; i < piece.Edges.Length; i++)
            if (piece.Edges[i] is { Operation: Operation.Cut, Bridges: { } bridges })
                w.Start("path").Set("class", "bridge").Paths(bridges.Left(piece.Outline.Parts()[i])).End();
        return w;
    }

    /// <summary>A hole, to choose.</summary>
    private static void Ring(SvgWriter w, Piece piece, int ring, TableDress dress)
    {
        var id = RingId.Of(piece.Id, ring);
        w.Start("a").Set("class", dress.Chosen.Contains(id) ? "ring chosen" : "ring").Set("data-id", id).Set("href", dress.Link("ring", id)).Set("tabindex",
            "-1")
            .Set("aria-label", $"hole {ring} of {piece.Label}").SetIf(piece.Edges[ring].Origin is not null, "data-why", piece.Edges[ring].Origin?.Why ?? "")
            .Start("path").Set("class", "hit").Path(piece.Outline.Parts()[ring]).End().End();
    }

    /// <summary>What is printed on a piece, to be chosen from its card, and moved then.</summary>
    private static void Print(SvgWriter w, Artwork art, Piece piece, TableDress dress)
    {
        w.Start("a").Set("class", dress.IsChosen(art.Id, "") ? "line is-print chosen" : "line is-print").Set("data-id", art.Id)
            .Set("data-box", new LaidArtwork(art, piece).Bounds).Set("tabindex", "-1").Set("href", dress.Link("line", art.Id))
            .Set("aria-label", $"{(art.Pattern is { } p ? p.Word : "picture")} printed on {piece.Label}");
        if (art.IsTiled)
        {
            w.Start("pattern").Set("id", "tile-" + art.Id).Set("width", "1").Set("height", "1").Set("patternUnits", "userSpaceOnUse")
                .Set("patternTransform", Exactly(art.Map));
            if (art.Pattern is { } pattern) Tile(w, pattern);
            else Picture(w, art with { Map = Affine.Identity }, dress);
            w.End().Start("use").Set("href", "#paper-" + piece.Id).Set("fill", $"url(#tile-{art.Id})").End();
        }
        else
        {
            Picture(w, art, dress);
        }

        w.End();
    }

    /// <summary>One tile of a pattern, the unit square.</summary>
    internal static void Tile(SvgWriter w, Pattern pattern)
    {
        foreach (var (path, colour) in pattern.Tile) w.Start("path").Set("fill", colour.Hex).Set("opacity", colour.Alpha).Path(path).End();
    }

    internal static void Picture(SvgWriter w, Artwork art, TableDress dress)
    {
        if (art.Picture is not { } picture) return;
        w.Start("image").Set("href", $"{dress.Pictures}/{picture.Hash}").Set("width", "1").Set("height", "1").Set("preserveAspectRatio", "none")
            .Set("transform", Exactly(art.Map)).Set("opacity", art.Opacity).End();
    }

    /// <summary>A map of the unit square needs more decimals than one of paths.</summary>
    private static string Exactly(Affine m) => string.Create(CultureInfo.InvariantCulture, $"matrix({m.A:R} {m.B:R} {m.C:R} {m.D:R} {m.E:R} {m.F:R})");

    private static Point ShadeOf(Place place, Point on)
    {
        if (place is { Turn.Degrees: 0, Mirrored: false }) return on;
        var m = place.Map;
        return (m with { E = 0, F = 0 }).Inverse().Apply(on);
    }

    /// <summary>The panels' names and boxes on the card, for snapping to them: "front panel|0 105 148 105;…".</summary>
    private static string Panels(Piece piece)
    {
        var areas = Core.Cards.Panels.Of(piece);
        if (areas.Count < 2) return "";
        return string.Join(';', areas.Select(a =>
        {
            var box = Core.Cards.Panels.OnCard(piece, a);
            return string.Create(CultureInfo.InvariantCulture,
                $"{a.Called.Replace(';', ',').Replace('|', '/')}|{box.Left:0.###} {box.Top:0.###} {box.Width:0.###} "
                + $"{box.Height:0.###}");
        }));
    }
}

/// <summary>A line on the table.</summary>
internal static class LineSvg
{
    private const double LeastFoldMm = 20;

    /// <param name="by">The piece that carries it; null where it is loose.</param>
    public static void Write(SvgWriter w, Line line, Piece? by, TableDress dress)
    {
        var (look, path) = (line.Origin?.Look ?? "", "line-" + line.Id);
        var kind = $"line{(by is null ? " is-loose" : "")}{(line.Words is not null ? " is-words" : "")}{(line.Face == Face.Inner ? " is-inner" : "")}"
            + (dress.IsChosen(line.Id, look) ? " chosen" : "");
        w.Start("a").Set("class", kind).Set("data-id", line.Id).Set("data-look", dress.Look(look));
        if (by is null || line.Words is not null) w.Set("data-box", (by is null ? line.Path : line.Path.Transform(by.Place.Map)).Bounds);
        w.Set("href", dress.Link("line", line.Id)).Set("aria-label", $"{line.Operation.Word()} line{(line.Face == Face.Inner ? " on the inner face" : "")}")
            .SetIf(line.Origin is not null, "data-why", line.Origin?.Why ?? "");
        w.Start("use").Set("class", "hit").Set("href", "#" + path).End();
        // Letters are thin; words are caught by their whole box.
        if (line.Words is not null && line.Path.Bounds is var box) w.Start("rect").Set("class", "catch").Set("x", box.Left, 3).Set("y", box.Top, 3)
            .Set("width", box.Width, 3).Set("height", box.Height, 3).End();
        // How it looks is inherited, so that the wider line that it is caught by looks like nothing.
        w.Start("g").Set("class", $"op-{line.Operation.Word()}").Start("path").Set("id", path);
        if (line.Operation == Operation.Print)
        {
            // As it is printed.
            var ink = line.InkPrinted;
            w.SetIf(ink.Fill is not null, "fill", ink.Fill?.Hex ?? "").SetIf(ink.Rule == FillRule.EvenOdd, "fill-rule", "evenodd");
            if (ink.Stroke is { } s)
            {
                w.Set("stroke", s.Colour.Hex).Set("stroke-width", s.Width.Mm, 3).SetIf(s.Cap == LineCap.Round, "stroke-linecap", "round");
                w.SetIf(!s.Dashes.IsEmpty, "stroke-dasharray", string.Join(' ', s.Dashes.Select(d => d.Mm.ToString("0.###", CultureInfo.InvariantCulture))));
            }
        }

        w.Dashes(line).Path(line.Path).End();
        if (line is { Operation: Operation.Score, ScoredTwice: not null })
            w.Start("path").Set("class", "twice").Paths(line.WorkedBy(default)).End();
        if (line.FilledBy is not null && dress.Widths.GetValueOrDefault(line.Operation) is { Mm: > 0 } width)
            w.Start("path").Set("class", "infill").Set("stroke-width", line.WidthBy(width).Mm, 3).SetIf(line.Pen is not null, "stroke", line.Pen?.Hex ?? "")
                .Paths(line.WorkedBy(width)).End();
        w.End();
        if (line.Operation is Operation.Score or Operation.Perforate && Folds.IsStraight(line.Path, out var a, out var b) && a.DistanceTo(b) > LeastFoldMm)
            FoldEnds(w, a, b, by?.SideOf(line.Id) ?? FoldSide.Valley, dress.Mark);
        w.End();
    }

    /// <summary>The dashes that a perforated line is cut in, in the place of those that stand for any.</summary>
    internal static SvgWriter Dashes(this SvgWriter w, Line line) => w.Dashes(line.Operation, line.PerforatedBy, line.Path);

    /// <summary>The same for an edge.</summary>
    /// <param name="outline">The first of its rings has them as they go into it.</param>
    internal static SvgWriter Dashes(this SvgWriter w, Edge edge, VectorPath outline) => w.Dashes(edge.Operation, edge.PerforatedBy, outline);

    private static SvgWriter Dashes(this SvgWriter w, Operation operation, Dashes dashes, VectorPath path)
    {
        if (operation != Operation.Perforate || path.IsEmpty) return w;
        var part = path.Parts()[0];
        var (_, dash, gap) = dashes.On(part.Length, part.IsClosed);
        return w.Set("stroke-dasharray", string.Create(CultureInfo.InvariantCulture, $"{dash.Mm:0.####} {gap.Mm:0.####}"))
            .Set("stroke-dashoffset", -gap.Mm * (part.IsClosed ? 0.5 : 1), 4);
    }

    private static void FoldEnds(SvgWriter w, Point a, Point b, FoldSide side, double mark)
    {
        // Small triangles just outside the ends: a peak for a mountain, a dip for a valley, whichever way the line runs.
        var along = (b - a) * (1 / a.DistanceTo(b));
        var up = (side == FoldSide.Mountain ? -1.6 : 1.6) * mark;
        foreach (var at in new[] { a - along * (3 * mark), b + along * (3 * mark) })
            w.Start("path").Set("class", "fold-end")
                .Path(VectorPath.Polygon(new(at.X, at.Y + up), new(at.X - 1.9 * mark, at.Y - up), new(at.X + 1.9 * mark, at.Y - up))).End();
    }
}
