using Falzkunst.Core.Pictures;
using System.Text.RegularExpressions;
using Falzkunst.Core.Cards;
using Falzkunst.Core.Regions;

namespace Falzkunst.Core.Reading.Recognition;

/// <summary>
/// Turns a drawing into pieces and lines, each with the reason for what it became. Filled shapes are pieces, stacked by paint order; where nothing is
/// filled, the outermost closed outlines are pieces and closed ones inside are holes. What is open is a line, carried by the piece that holds it.
/// Costs about n log n in the items; a region with crossing edges costs more (see <see cref="Region"/>).
/// </summary>
public sealed partial class Recogniser
{
    /// <summary>Paper of which nothing is known but that something is on it.</summary>
    internal static Colour PaperWhite { get; } = new(250, 250, 247);

    /// <summary>What is noted of a shape that can't be taken apart.</summary>
    internal const string TangledCode = "tangled";

    internal static string TangledText { get; } =
        $"A shape crosses itself more than {Region.MostCrossings:N0} times, and no paper could be cut like that; it is left out. Draw it as lines, or "
        + "simplify it.";

    private static readonly Length StrokeOfRow = Length.FromMm(12), MostOverhang = Length.FromMm(0.6);
    private const string SourceId = "s1";
    private const int LongestProducer = 4000;

    private readonly Drawing _drawing;
    private readonly CancellationToken _cancel;
    private readonly List<Piece> _pieces = [];
    private readonly List<(Line Line, string? By)> _lines = [];
    private readonly List<(Artwork Artwork, string? By)> _artwork = [];
    private readonly Dictionary<string, (Operation Operation, string Word)?> _names = new(StringComparer.Ordinal);
    private readonly HashSet<VectorPath> _written = new(ReferenceEqualityComparer.Instance);
    private readonly List<Ply> _plies = [];
    private readonly Dictionary<string, Look> _looks = [];
    private readonly Dictionary<string, string> _layerOf = [];
    private readonly System.Collections.Concurrent.ConcurrentBag<ReadingNote> _tangled = [];

    private Recogniser(Drawing drawing, CancellationToken cancel) => (_drawing, _cancel) = (drawing, cancel);

    /// <summary>Recognises a drawing. Deterministic; ids are stable from one reading of the same file to the next.</summary>
    public static Design Recognise(Drawing drawing, CancellationToken cancel = default) => new Recogniser(drawing, cancel).Run();

    private Design Run()
    {
        var parts = new IReadOnlyList<VectorPath>[_drawing.Items.Length];
        // Each item on its own, so that all cores can help; the order of the results is the order of the items.
        Parallel.For(0, parts.Length, new ParallelOptions { CancellationToken = _cancel },
            i => parts[i] = _drawing.Items[i] is DrawnPath { Ink.Fill: not null } d ? PartsOf(d) : []);
        var pages = Pages(parts);
        // What is only the page says nothing of what lies on it.
        foreach (var i in pages) parts[i] = [];
        var anyFilled = parts.Any(p => p.Count > 0);
        var filled = new Lazy<BoxGrid<(VectorPath Path, int Order)>>(() =>
        {
            var grid = new BoxGrid<(VectorPath Path, int Order)>(20);
            for (var i = 0; i < parts.Length; i++)
                foreach (var part in parts[i]) grid.Add(part.Bounds, (part, i));
            return grid;
        });
        var closed = new List<Outline>();
        var thin = new List<(DrawnPath Item, VectorPath Outline, VectorPath Middle, Length Width, int Order)>();
        var open = new List<(DrawnPath Item, VectorPath Path, int Order)>();
        for (var i = 0; i < parts.Length; i++)
        {
            switch (_drawing.Items[i])
            {
                case DrawnPath page when pages.Contains(i):
                    AddLine(page, page.Path, i, Operation.Rest, "as large as the page, and what lies on it is folded: it is only the page");
                    break;
                case DrawnPicture picture:
                    AddArtwork(picture, i, null, "a picture in the file");
                    break;
                case DrawnPath item when parts[i].Count > 0:
                    foreach (var part in parts[i])
                    {
                        if (part.Subpaths.Length == 1 && ThinRectangles.MiddleOf(part.Subpaths[0]) is { } t) thin.Add((item, part, t.Middle, t.Width, i));
                        else AddPiece(item, part, i, item.Ink.IsPainted ? "a shape filled with a gradient or pattern, which is printed" : "a filled shape");
                    }

                    break;
                case DrawnPath { Ink.Stroke: not null } item:
                    foreach (var sub in item.Path.Subpaths.Select(ThereAndBack))
                    {
                        var path = new VectorPath([sub]);
                        if (Said(item) is { Operation: Operation.Score or Operation.Perforate } && ThinRectangles.MiddleOf(sub) is { } fold)
                            thin.Add((item, path, fold.Middle, fold.Width, i));
                        else if (Said(item) is null or { Operation: Operation.Cut } && IsOutline(sub) && (!anyFilled || IsPaper(path, i, filled.Value)))
                        {
                            if (ThinRectangles.MiddleOf(sub) is { } t) thin.Add((item, path, t.Middle, t.Width, i));
                            else closed.Add(new(item, new([sub with { Closed = true }]), i));
                        }
                        else open.Add((item, path, i));
                    }

                    break;
            }
        }

        FindWritten(open, closed);
        if (!anyFilled)
        {
            JoinSegments(open, closed);
            LeaveLoops(open, closed);
        }

        // What closes in something written is a stroke too.
        open.AddRange(closed.Where(o => _written.Contains(o.Path)).Select(o => (o.Item, o.Path, o.Order)));
        closed.RemoveAll(o => _written.Contains(o.Path));

        if (closed.Count > 0) NestOutlines(closed);
        AddThin(thin);
        Stack();
        AddLines(open);
        CarryArtwork();
        var design = new Design
        {
            LastId = Math.Max(Math.Max(_plies.Count, _pieces.Count), Math.Max(_lines.Count, Math.Max(_artwork.Count, 1))),
            Width = _drawing.Width,
            Height = _drawing.Height,
            Scale = _drawing.Scale,
            AllPlies = [.. _plies],
            AllPieces = Carried(),
            AllLoose = [.. _lines.Where(l => l.By is null).Select(l => l.Line)],
            AllLooseArtwork = [.. _artwork.Where(a => a.By is null).Select(a => a.Artwork)],
            Looks = [.. _looks.Values],
            Sources = [new(SourceId, "") { Producer = _drawing.Producer.Length > LongestProducer ? _drawing.Producer[..LongestProducer] : _drawing.Producer }],
            Notes = [.. _drawing.Notes, .. _tangled.OrderBy(n => n.At.X).ThenBy(n => n.At.Y)],
        };
        // It can be put back by whoever knows better.
        return pages.Count == 0 ? design : new LeaveOut([.. design.AllLoose.Concat(design.AllPieces.SelectMany(p => p.AllLines))
            .Where(l => pages.Contains(l.Origin!.Order)).Select(l => l.Id)]).Apply(design);
    }

    /// <summary>The items that are only the page that was drawn on.</summary>
    private HashSet<int> Pages(IReadOnlyList<VectorPath>[] parts)
    {
        bool IsPage(int i) => _drawing.Items[i] is DrawnPath { Path.Subpaths.Length: 1 } item && PageGround.IsAsThePage(item.Path, _drawing)
            && (item.Ink.Fill is null || parts[i].Count == 1) && item.Ink is not { IsPainted: true };
        var pages = Enumerable.Range(0, parts.Length).Where(IsPage).ToHashSet();
        if (pages.Count == 0) return pages;
        var rest = Enumerable.Range(0, parts.Length).Where(i => !pages.Contains(i)).ToList();
        var strokes = rest.Select(i => _drawing.Items[i]).OfType<DrawnPath>().Where(d => d.Ink.Stroke is not null)
            .SelectMany(d => d.Path.Subpaths.Select(s => (Path: new VectorPath([ThereAndBack(s)]), Look: LookOf(d.Ink, d.Layer, false)))).ToList();
        var outlines = rest.SelectMany(i => parts[i]).Concat(strokes.Select(s => s.Path).Where(p => IsOutline(p.Subpaths[0]))).ToList();
        var lines = strokes.Select(s => s.Path).Where(p => !p.IsClosed)
            .Concat(StrokeRows.Find(strokes, StrokeOfRow).Select(r => r.Joined))
            .Concat(outlines.Select(o => ThinRectangles.MiddleOf(o.Subpaths[0])?.Middle).OfType<VectorPath>());
        if (!PageGround.HoldsFolded(outlines, lines, _cancel)) pages.Clear();
        return pages;
    }

    /// <summary>The pieces in paint order, each with what it carries.</summary>
    private ImmutableArray<Piece> Carried()
    {
        var lines = _lines.ToLookup(l => l.By, l => l.Line);
        var artwork = _artwork.ToLookup(a => a.By, a => a.Artwork);
        return [.. _pieces.OrderBy(p => OrderOf(p)).Select(p => Carrying.WithFolds(p with { AllLines = [.. lines[p.Id]], AllArtwork = [.. artwork[p.Id]] }))];
    }

    private static int OrderOf(Piece piece) => piece.Origin!.Order;

    private void AddArtwork(DrawnPicture picture, int order, string? by, string why) =>
        _artwork.Add((new($"a{_artwork.Count + 1}", new(picture.Bytes), picture.Place,
            picture.Opacity)
        { Origin = new("", Ink.None, order, why) { Source = SourceId } }, by));

    /// <summary>A path that goes straight to a point and is closed from there is one line, not two.</summary>
    private static Subpath ThereAndBack(Subpath sub) => sub is { Closed: true, Segments.Length: <= 2 }
        && sub.Flatten() is { Count: >= 2 } points && Math.Abs(Polygons.SignedArea(points)) < 1e-6 && points.MaxBy(p => p.DistanceTo(sub.Start)) is var far
        && far.DistanceTo(sub.Start) > 1e-6 ? VectorPath.Polyline(sub.Start, far).Subpaths[0] : sub;

    /// <summary>
    /// Whether a closed outline without fill is paper beside what is filled: it lies on nothing that is filled (there it is a line), and was not drawn around
    /// what was there already.
    /// </summary>
    private static bool IsPaper(VectorPath outline, int order, BoxGrid<(VectorPath Path, int Order)> filled)
    {
        foreach (var (part, at) in filled.Touching(outline.Bounds))
            if (Inside(outline, part) || (at < order && Inside(part, outline))) return false;
        return true;
    }

    private IReadOnlyList<VectorPath> PartsOf(DrawnPath item)
    {
        try
        {
            return Region.Parts(item.Path, item.Ink.Rule);
        }
        catch (TangledException)
        {
            _tangled.Add(new(TangledCode, TangledText, item.Path.Bounds.Centre));
            return [];
        }
    }

    private sealed record Outline(DrawnPath Item, VectorPath Path, int Order, string Why = "");

    /// <summary>Open segments of one look that close to an outline are one.</summary>
    private void JoinSegments(List<(DrawnPath Item, VectorPath Path, int Order)> open, List<Outline> closed)
    {
        var used = new HashSet<int>();
        var loops = new List<(Outline Outline, IEnumerable<int> Members)>();
        // What is dashed is a fold, and four folds may well meet at their ends.
        var able = Enumerable.Range(0, open.Count)
            .Where(i => !open[i].Path.IsClosed && open[i].Item.Ink.Stroke is { Dashes.IsEmpty: true }
            && Said(open[i].Item) is null or { Operation: Operation.Cut } && !_written.Contains(open[i].Path));
        foreach (var look in able.GroupBy(i => LookOf(open[i].Item.Ink, open[i].Item.Layer, false), StringComparer.Ordinal))
        {
            var members = look.ToList();
            foreach (var loop in JoinedEnds.Find(members.ConvertAll(i => open[i].Path.Subpaths[0])))
            {
                if (!IsOutline(loop.Outline)) continue;
                var first = open[members[loop.Members.Min()]];
                loops.Add((new(first.Item, new([loop.Outline]), first.Order, $"{loop.Members.Count} separate lines, joined by their ends"),
                    loop.Members.Select(m => members[m]).ToList()));
            }
        }

        // Inside another outline they may be folds that meet, as on an envelope, and must not become a hole.
        foreach (var (outline, members) in loops)
        {
            if (closed.Concat(loops.Select(l => l.Outline)).Any(o => o != outline && Inside(outline.Path, o.Path))) continue;
            used.UnionWith(members);
            closed.Add(outline);
        }

        if (used.Count == 0) return;
        var left = open.Where((_, i) => !used.Contains(i)).ToList();
        open.Clear();
        open.AddRange(left);
    }

    /// <summary>Marks what is written in single strokes.</summary>
    private void FindWritten(List<(DrawnPath Item, VectorPath Path, int Order)> open, List<Outline> closed)
    {
        var able = open.Where(o => o.Item.Ink.Stroke is { Dashes.IsEmpty: true } && Said(o.Item) is null)
            .Concat(closed.Where(o => Said(o.Item) is null).Select(o => (o.Item, o.Path, o.Order)))
            .Select(o => (o.Path, LookOf(o.Item.Ink, o.Item.Layer, false))).ToList();
        var rows = StrokeRows.Find(able, StrokeOfRow).SelectMany(r => r.Members).ToHashSet();
        able = [.. able.Where((_, i) => !rows.Contains(i))];
        foreach (var i in WrittenWords.Find(able, _cancel)) _written.Add(able[i].Path);
    }

    /// <summary>What closes in a drawing of strokes, such as the o of single-line letters, is a stroke too.</summary>
    private void LeaveLoops(List<(DrawnPath Item, VectorPath Path, int Order)> open, List<Outline> closed)
    {
        var strokes = open.ToLookup(o => LookOf(o.Item.Ink, o.Item.Layer, false), o => o.Path, StringComparer.Ordinal);
        var loops = new HashSet<Outline>(ReferenceEqualityComparer.Instance);
        foreach (var look in closed.GroupBy(o => LookOf(o.Item.Ink, o.Item.Layer, false), StringComparer.Ordinal))
        {
            _cancel.ThrowIfCancellationRequested();
            if (!LetterLoops.Are([.. look.Select(o => o.Path)], [.. strokes[look.Key]])) continue;
            loops.UnionWith(look);
        }

        closed.RemoveAll(loops.Contains);
        open.AddRange(loops.OrderBy(l => l.Order).Select(l => (l.Item, l.Path, l.Order)));
    }

    /// <summary>A thin rectangle that spans a piece is a fold; any other stays what it was drawn as.</summary>
    private void AddThin(List<(DrawnPath Item, VectorPath Outline, VectorPath Middle, Length Width, int Order)> thin)
    {
        var grid = new BoxGrid<Piece>(20);
        foreach (var piece in _pieces) grid.Add(piece.Outline.Bounds.Grown(Tolerances.Carried), piece);
        foreach (var (item, outline, middle, width, order) in thin)
        {
            var carrier = Carrier(grid, middle, order, item.Layer);
            if (carrier is not null && Folds.Spans(middle, carrier))
                AddLine(item, middle, order, Operation.Score,
                    string.Create(CultureInfo.InvariantCulture,
                    $"a rectangle only {width} wide that reaches both edges of {(carrier.Label.Length > 0 ? carrier.Label : "its piece")}"));
            else if (carrier is not null && Said(item) is { Operation: Operation.Score or Operation.Perforate } said)
                AddLine(item, middle, order, said.Operation, string.Create(CultureInfo.InvariantCulture,
                    $"a rectangle only {width} wide, called “{said.Word}”"));
            else if (item.Ink.Fill is not null)
                AddPiece(item, outline, order, "a filled shape");
            else
                AddLine(item, outline, order, Operation.Cut, "closed, and too thin to be a piece");
        }
    }

    /// <summary>Closed, or with ends so close that they are meant to meet, and with some area.</summary>
    private static bool IsOutline(Subpath sub) =>
        sub.Segments.Length > 0 && (sub.Closed || sub.Start.DistanceTo(sub.End) <= Tolerances.Closes)
        && sub.Flatten() is { Count: >= 3 } ring && Math.Abs(Polygons.SignedArea(ring)) > 0.01;

    private string LookOf(Ink ink, string layer, bool closed)
    {
        var look = Look.Of(ink, layer, closed);
        _looks.TryAdd(look.Key, look);
        return look.Key;
    }

    private Piece AddPiece(DrawnPath item, VectorPath outline, int order, string why)
    {
        var piece = new Piece
        {
            Id = $"p{_pieces.Count + 1}",
            Label = "",
            PlyId = "",
            Shape = new Drawn(outline),
            Edges = [.. outline.Subpaths.Select(_ => PlainEdge)],
            Colour = (item.Ink.Fill ?? PaperWhite) with { Alpha = 1 },
            Origin = new(LookOf(item.Ink, item.Layer, true), item.Ink, order, why) { Source = SourceId },
        };
        if (item.Paint is { } paint) AddArtwork(paint, order, piece.Id, "the gradient or pattern of its shape");
        _layerOf[piece.Id] = item.Layer;
        _pieces.Add(piece with { Label = GivenName(item.Name) ?? GivenName(item.Layer) ?? "" });
        return piece;
    }

    /// <summary>Outlines without fill: even depth of nesting is paper, odd depth is a hole of the outline around it.</summary>
    private void NestOutlines(List<Outline> outlines)
    {
        var areas = outlines.Select(o => Math.Abs(Polygons.SignedArea(o.Path.Rings[0]))).ToArray();
        var byArea = Enumerable.Range(0, outlines.Count).OrderByDescending(i => areas[i]).ThenBy(i => i).ToArray();
        var grid = new BoxGrid<int>(20);
        var depth = new int[outlines.Count];
        var parent = new int[outlines.Count];
        var twins = new bool[outlines.Count];
        foreach (var i in byArea)
        {
            _cancel.ThrowIfCancellationRequested();
            parent[i] = -1;
            foreach (var j in grid.Touching(outlines[i].Path.Bounds).Distinct())
            {
                if (twins[j] || !Inside(outlines[i].Path, outlines[j].Path)) continue;
                // The same outline once more is no hole; it is kept as a line, and found as doubled.
                if (areas[i] > 0.98 * areas[j] && PathLikeness.Same(outlines[i].Path, outlines[j].Path)) twins[i] = true;
                if (parent[i] < 0 || areas[j] < areas[parent[i]]) parent[i] = j;
            }

            depth[i] = parent[i] < 0 ? 0 : depth[parent[i]] + 1;
            grid.Add(outlines[i].Path.Bounds, i);
        }

        var holes = Enumerable.Range(0, outlines.Count).Where(i => depth[i] % 2 == 1 && !twins[i]).ToLookup(i => parent[i]);
        for (var i = 0; i < outlines.Count; i++)
        {
            var o = outlines[i];
            if (twins[i])
            {
                AddLine(o.Item, o.Path, o.Order, Operation.Cut, "the same outline a second time");
                continue;
            }

            if (depth[i] % 2 == 1) continue;
            var outer = Clockwise(o.Path, true);
            var inner = holes[i].ToList();
            var why = o.Why.Length > 0 ? o.Why : depth[i] == 0 ? "an outermost closed outline" : "a closed outline inside a hole";
            AddPiece(o.Item, new([outer, .. inner.Select(h => Clockwise(outlines[h].Path, false))]), o.Order, why);
            _pieces[^1] = _pieces[^1] with
            {
                Edges = [PlainEdge, .. inner.Select(h =>
                    new Edge(Operation.Cut, new(LookOf(outlines[h].Item.Ink, outlines[h].Item.Layer, true), outlines[h].Item.Ink, outlines[h].Order,
                    "a closed outline inside a piece") { Source = SourceId, IsHole = true }))],
            };
        }
    }

    private static Subpath Clockwise(VectorPath ring, bool clockwise) =>
        Polygons.SignedArea(ring.Rings[0]) > 0 == clockwise ? ring.Subpaths[0] : ring.Subpaths[0].Reverse();

    private static Edge PlainEdge { get; } = new(Operation.Cut);

    private static Ink InkOf(Piece piece) => piece.Origin!.Ink;

    private static bool Inside(VectorPath inner, VectorPath outer)
    {
        if (!outer.Bounds.Grown(Tolerances.Doubled).Holds(inner.Bounds)) return false;
        foreach (var p in inner.Rings[0])
            if (!outer.Encloses(p) && outer.DistanceTo(p) > Tolerances.Doubled) return false;
        return true;
    }

    /// <summary>
    /// Plies by paint order, the same look together: a piece joins the ply of its look unless something of another look lies between, that is, on a
    /// higher ply and under the piece.
    /// </summary>
    private void Stack()
    {
        const int MostPlies = 60;
        var plyOfLook = new Dictionary<string, int>();
        var placed = new BoxGrid<int>(10);
        for (var i = 0; i < _pieces.Count; i++)
        {
            var piece = _pieces[i];
            var box = piece.Outline.Bounds.Grown(-0.01);
            var key = InkOf(piece).Fill is null ? "outline" : InkOf(piece).Fill!.Value.Hex;
            var at = plyOfLook.GetValueOrDefault(key, -1);
            // With very many looks the stack is a picture, not a card; then a look is a ply.
            if (at >= 0 && _plies.Count < MostPlies)
            {
                // Outlines show nothing of what they cover, so one that overlaps another lies above it.
                var lowest = InkOf(piece).Fill is null ? at : at + 1;
                foreach (var ply in placed.Touching(box))
                {
                    if (ply < lowest) continue;
                    at = -1;
                    break;
                }
            }

            if (at < 0)
            {
                at = _plies.Count;
                plyOfLook[key] = at;
                _plies.Add(new($"y{at + 1}", "", piece.Colour));
            }

            placed.Add(box, at);
            _pieces[i] = piece with { PlyId = _plies[at].Id };
        }

        NameThem();
    }

    private void NameThem()
    {
        var counts = new Dictionary<string, int>();
        for (var y = 0; y < _plies.Count; y++)
        {
            var ply = _plies[y];
            // Outlines have no colour that says anything.
            var name = _pieces.Find(p => p.PlyId == ply.Id)?.Origin!.Ink.Fill is { } fill ? ColourNames.Of(fill) : "piece";
            _plies[y] = ply with { Label = char.ToUpperInvariant(name[0]) + name[1..] };
        }

        var byPly = _pieces.Select((p, i) => (p, i)).GroupBy(t => t.p.PlyId, StringComparer.Ordinal);
        foreach (var group in byPly)
        {
            var y = _plies.FindIndex(p => p.Id == group.Key);
            // The largest piece names its ply, if it has a name.
            if (group.MaxBy(t => t.p.Outline.Bounds.Area).p.Label is { Length: > 0 } name) _plies[y] = _plies[y] with { Label = name };
        }

        var plyLabels = _plies.ToDictionary(p => p.Id, p => p.Label);
        for (var i = 0; i < _pieces.Count; i++)
        {
            var label = _pieces[i].Label.Length > 0 ? _pieces[i].Label : plyLabels[_pieces[i].PlyId];
            var n = counts[label] = counts.GetValueOrDefault(label) + 1;
            _pieces[i] = _pieces[i] with { Label = n == 1 ? label : $"{label} {n}" };
        }
    }

    private void AddLines(List<(DrawnPath Item, VectorPath Path, int Order)> open)
    {
        var grid = new BoxGrid<Piece>(20);
        foreach (var piece in _pieces) grid.Add(piece.Outline.Bounds.Grown(Tolerances.Carried), piece);
        // Outlines met twice were added as lines before there were plies; they are carried like all others.
        for (var i = 0; i < _lines.Count; i++) _lines[i] = _lines[i] with { By = Carrier(grid, _lines[i].Line.Path, _lines[i].Line.Origin!.Order, "")?.Id };
        var used = new bool[open.Count];
        foreach (var row in StrokeRows.Find(open.Select(o => (o.Path, LookOf(o.Item.Ink, o.Item.Layer, false))).ToList(), StrokeOfRow))
        {
            foreach (var i in row.Members) used[i] = true;
            var (item, _, order) = open[row.Members[0]];
            AddLine(item, row.Joined, order, Operation.Score, $"{row.Members.Count} little strokes on one straight line, joined",
                Carrier(grid, row.Joined, order, item.Layer)?.Id);
        }

        for (var i = 0; i < open.Count; i++)
        {
            if (used[i]) continue;
            if (i % 64 == 0) _cancel.ThrowIfCancellationRequested();
            var (item, path, order) = open[i];
            var carrier = Carrier(grid, path, order, item.Layer);
            if (carrier is null && WithoutOverhang(grid, path) is var (under, trimmed)) (carrier, path) = (under, trimmed);
            var (operation, why) = Propose(item, path, carrier);
            AddLine(item, path, order, operation, why, carrier?.Id);
        }

        var ordered = _lines.OrderBy(l => l.Line.Origin!.Order).ToList();
        _lines.Clear();
        foreach (var (line, by) in ordered) _lines.Add((line with { Id = $"l{_lines.Count + 1}" }, by));
    }

    /// <summary>A fold that was drawn a little past the edges of its piece, cut off there; null where it is none.</summary>
    private static (Piece Piece, VectorPath Path)? WithoutOverhang(BoxGrid<Piece> grid, VectorPath path)
    {
        if (path.IsClosed || !Folds.IsStraight(path, out _, out _)) return null;
        foreach (var piece in grid.Touching(path.Bounds).Distinct())
        {
            if (!piece.Outline.Bounds.Grown(MostOverhang.Mm).Holds(path.Bounds) || !Folds.Spans(path, piece)) continue;
            var trimmed = Folds.SetBack(path, piece, Length.FromMm(0));
            if ((path.Length - trimmed.Length).Mm <= 2 * MostOverhang.Mm && piece.Carries(trimmed)) return (piece, trimmed);
        }

        return null;
    }

    private void AddLine(DrawnPath item, VectorPath path, int order, Operation operation, string why, string? carriedBy = null) => _lines.Add((new()
    {
        Id = "",
        Label = GivenName(item.Name) ?? "",
        Path = path,
        Operation = operation,
        Pen = item.Ink.Stroke?.Colour,
        Origin = new(LookOf(item.Ink, item.Layer, path.IsClosed), item.Ink, order, why) { Source = SourceId },
    }, carriedBy));

    /// <summary>Of the pieces that hold the path: one of its own layer first, then the one painted last before it, then the smallest.</summary>
    private Piece? Carrier(BoxGrid<Piece> grid, VectorPath path, int order, string layer) => grid.Touching(path.Bounds)
        .Distinct()
        .Where(p => p.Carries(path))
        .OrderByDescending(p => layer.Length > 0 && _layerOf.GetValueOrDefault(p.Id) == layer && OrderOf(p) < order)
        .ThenByDescending(p => OrderOf(p) < order ? OrderOf(p) : -1)
        .ThenBy(p => p.Outline.Bounds.Area)
        .FirstOrDefault();

    private (Operation Operation, string Why) Propose(DrawnPath item, VectorPath path, Piece? carrier)
    {
        if (Named(item.Name) is { } byName) return (byName.Operation, $"it is called “{byName.Word}”");
        if (Named(item.Layer) is { } byLayer) return (byLayer.Operation, $"its layer is called “{byLayer.Word}”");
        if (carrier is not null && _written.Contains(path)) return (Operation.Draw, "strokes of about one size close together: something written");
        if (path.IsClosed) return (Operation.Cut, "closed; everything starts as a cut");
        if (item.Ink.Stroke is { Dashes.IsEmpty: false }) return (Operation.Score, "open and dashed");
        if (carrier is not null && Folds.Spans(path, carrier))
            return (Operation.Score, $"open, straight, reaches both edges of {(carrier.Label.Length > 0 ? carrier.Label : "its piece")}");
        return (Operation.Cut, "open; everything starts as a cut");
    }

    /// <summary>The operation that the name of an item, or of its layer, says.</summary>
    private (Operation Operation, string Word)? Said(DrawnPath item) => Named(item.Name) ?? Named(item.Layer);

    /// <summary>What a name says, read once: it is asked for of every stroke, several times.</summary>
    private (Operation Operation, string Word)? Named(string name) =>
        _names.TryGetValue(name, out var known) ? known : _names[name] = OperationNames.Read(name);

    private void CarryArtwork()
    {
        for (var i = 0; i < _artwork.Count; i++)
        {
            if (_artwork[i].By is not null) continue;
            var (box, order) = (_artwork[i].Artwork.Bounds, _artwork[i].Artwork.Origin!.Order);
            var middle = box.Centre;
            // A picture may hang over the edge of its piece; its middle tells where it belongs.
            var carrier = _pieces.Where(p => p.Outline.Encloses(middle)).OrderByDescending(p => OrderOf(p) < order ? OrderOf(p) : -1).FirstOrDefault();
            _artwork[i] = _artwork[i] with { By = carrier?.Id };
        }
    }

    /// <summary>A name that a person gave, not one that a program counted up ("path1234", "Vector 7").</summary>
    private static string? GivenName(string name)
    {
        var trimmed = name.Trim();
        return trimmed.Length is 0 or > 60 || Counted().IsMatch(trimmed) ? null
            : char.ToUpperInvariant(trimmed[0]) + trimmed[1..].Replace('_', ' ').Replace('-', ' ');
    }

    [GeneratedRegex(@"^(svg|path|rect|circle|ellipse|line|polygon|polyline|g|group|layer|vector|shape|union|subtract|use|image|use|icon|_)?"
        + @"[\s_\-\.]*[\d\s_\-\.]*$", RegexOptions.IgnoreCase | RegexOptions.ExplicitCapture, 100)]
    private static partial Regex Counted();
}
