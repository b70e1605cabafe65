using Falzkunst.Core.Cards;
using Falzkunst.Core.Files;
using Falzkunst.Core.Pictures;
using Falzkunst.Core.Regions;

namespace Falzkunst.Core.Reading.Recognition;

/// <summary>
/// Turns a drawing into pieces and lines. Each outline and each line is judged by itself, by the facts that speak for and against what it may be
/// (<see cref="Weights"/>): outlines from the largest to the smallest, since what one is depends on what it lies in; then lines, by the pieces that they lie
/// on. Each carries the reason for what it became, and what it is nearly as likely to be. Costs about n log n in the items; a region with crossing edges costs
/// more (see <see cref="Region"/>).
/// </summary>
public sealed class Recogniser
{
    /// <summary>What is noted of a shape that can't be taken apart.</summary>
    internal const string TangledCode = "tangled";

    internal static string TangledText { get; } =
        $"A shape crosses itself more than {Region.MostCrossings:N0} times, and no paper could be cut like that; it is left out. Draw it as lines, or "
        + "simplify it.";

    private static readonly Fact[] OfOutlines = [new IsFilled(), new IsOutermost(), new LiesInAnother(), new IsNamed(), new IsInLegend(), new IsWritten(),
        new IsDrawnWithLines(), new IsDashedInside(), new WasDrawnAround(), new AlmostCloses(), new IsTheSameAgain(), new IsAsThePage(), new IsPaintedOver()];

    private static readonly Fact[] OfLines = [new IsALine(), new IsNamed(), new IsInLegend(), new SpansItsPiece(), new SpansTogether(), new EndsAtCuts(),
        new IsASlitOfAStep(), new IsDashedLine(), new IsARow(),
        new LooksLikeFolds(), new LooksLikeOutlines(), new IsWritten(), new WandersInside(), new IsThick(),
        new PartsItsPiece()];

    private const int LongestProducer = 4000;

    private readonly Drawing _drawing;
    private readonly ReadingWork _work;
    private readonly Dictionary<string, (Operation Operation, string Word)?> _names = new(StringComparer.Ordinal);
    private readonly System.Collections.Concurrent.ConcurrentBag<ReadingNote> _tangled = [];
    private readonly Scene _scene;
    private readonly CardBuilder _card;
    private readonly Evidence _evidence = new();

    private Recogniser(Drawing drawing, ReadingWork work)
    {
        (_drawing, _work) = (drawing, work);
        _scene = new(drawing, work) { Legend = Legend.Read(drawing) };
        _card = new();
    }

    /// <summary>Recognises a drawing. Deterministic; ids are stable from one reading of the same file to the next.</summary>
    public static Design Recognise(Drawing drawing, ReadingWork? work = null) =>
        new Recogniser(drawing, work ?? ReadingWork.Unlimited).Run();

    private Design Run()
    {
        var (outlines, strokes) = Gather();
        strokes = WithoutDoubles(strokes);
        var rows = Rows(strokes, out strokes);
        Join(outlines, strokes);
        FindWritten(outlines, strokes);
        _scene.Add(outlines);
        _scene.AddLines(strokes.Concat(rows));
        foreach (var s in strokes) _scene.Count(s);
        JudgeOutlines(outlines, strokes);
        _scene.AddLines(outlines.Where(o => o is { Kind: ElementKind.Ring, Meaning: Meaning.Pen }));
        KeepStrips(outlines, strokes);
        BuildPieces(outlines);
        strokes.AddRange(rows);
        JudgeLines(strokes, outlines);
        var notes = _drawing.Notes.RemoveAll(n => n.Code == "text" && _scene.Legend.Words.Contains(n.At));
        return _card.Build(_drawing with { Producer = _drawing.Producer.Length > LongestProducer ? _drawing.Producer[..LongestProducer] : _drawing.Producer },
            [.. notes, .. _tangled.OrderBy(n => n.At.X).ThenBy(n => n.At.Y)]);
    }

    // What there is.

    private (List<Element> Outlines, List<Element> Strokes) Gather()
    {
        var parts = new IReadOnlyList<VectorPath>[_drawing.Items.Length];
        // Each item on its own, so that all cores can help; the order of the results is the order of the items.
        var steps = 0L;
        Parallel.For(0, parts.Length, new ParallelOptions { CancellationToken = _work.Cancel }, i =>
        {
            var before = Steps.Done;
            parts[i] = _drawing.Items[i] is DrawnPath { Ink.Fill: not null } d && !IsOnlyStroked(d) ? PartsOf(d) : [];
            // Counted on this thread for the one that reads, which may be the same.
            var own = Steps.Done - before;
            Steps.Count(-own);
            Interlocked.Add(ref steps, own);
        });
        _work.Go(steps);
        var (outlines, strokes) = (new List<Element>(), new List<Element>());
        for (var i = 0; i < parts.Length; i++)
        {
            if (_drawing.Items[i] is DrawnPicture picture) _card.Add(picture, i, null, "a picture in the file");
            if (_drawing.Items[i] is not DrawnPath item) continue;
            var (look, said) = (LookOf(item), Said(item));
            if (_scene.Legend.Items.Contains(i))
            {
                foreach (var sub in item.Path.Parts())
                    _card.AddLine(new(item, sub, i, ElementKind.Stroke, look, null) { Verdict = new(Meaning.Sample, "a part of the legend") }, null);
            }
            else if (parts[i].Count > 0)
            {
                foreach (var part in parts[i]) Add(part, ElementKind.Filled);
            }
            else if (item.Ink.Stroke is not null)
            {
                foreach (var sub in item.Path.Subpaths.Select(ThereAndBack))
                    if (IsOutline(sub, said?.Operation)) Add(new([sub with { Closed = true }]), ElementKind.Ring, GapOf(sub));
                    else Add(new([sub]), ElementKind.Stroke);
            }

            void Add(VectorPath path, ElementKind kind, double gap = 0)
            {
                if (kind != ElementKind.Stroke && ThinRectangles.MiddleOf(path) is { } t)
                    strokes.Add(new(item, t.Middle, i, ElementKind.Stroke, look, said) { Thin = (path, t.Width) });
                else (kind == ElementKind.Stroke ? strokes : outlines).Add(new(item, path, i, kind, look, said) { GapMm = gap });
            }
        }

        return (outlines, strokes);
    }

    /// <summary>Whether a path is an open line that has a fill only because nobody took it away: it encloses next to nothing.</summary>
    private static bool IsOnlyStroked(DrawnPath item) => item.Ink.Stroke is not null && item.Path.Subpaths.All(s => !s.Closed
        && (s.Segments.IsEmpty || Folds.IsStraight(new([s]), out _, out _)));

    /// <summary>A path that goes straight to a point and is closed from there is one line, not two.</summary>
    private static Subpath ThereAndBack(Subpath sub) => sub is { Closed: true, Segments.Length: <= 2 }
        && sub.Flatten() is { Count: >= 2 } points && Math.Abs(Polygons.SignedArea(points)) < 1e-6 && points.MaxBy(p => p.DistanceTo(sub.Start)) is var far
        && far.DistanceTo(sub.Start) > 1e-6 ? VectorPath.Polyline(sub.Start, far).Subpaths[0] : sub;

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

    /// <summary>Closed, or with ends so close that they are meant to meet, and with some area. What is said to be drawn by a pen stays open as it is.</summary>
    private static bool IsOutline(Subpath sub, Operation? said = null) =>
        sub.Segments.Length > 0 && (sub.Closed || GapOf(sub) <= Tolerances.Closes || (IsOfPaper(said) && AlmostCloses(sub)))
        && sub.Flatten() is { Count: >= 3 } ring && Math.Abs(Polygons.SignedArea(ring)) > 0.01;

    private static double GapOf(Subpath sub) => sub.Closed ? 0 : sub.Start.DistanceTo(sub.End);

    /// <summary>Ends so near for its length that nobody left the gap on purpose.</summary>
    private static bool AlmostCloses(Subpath sub) => GapOf(sub) <= 0.6 && VectorPath.PolylineLength(sub.Flatten(), false) > 15 * GapOf(sub);

    /// <summary>Whether what is said to be done along a line can be an edge or a fold of paper; nothing said can.</summary>
    private static bool IsOfPaper(Operation? said) => said is null or Operation.Cut or Operation.Perforate or Operation.Score;

    /// <summary>How its line looks, whatever it is filled with.</summary>
    private static string LookOf(DrawnPath item) => Looks.Look.Of(item.Ink.Stroke is null ? item.Ink : item.Ink with { Fill = null }, item.Layer, false).Key;

    /// <summary>The operation that the name of an item, or of its layer, says.</summary>
    private (Operation Operation, string Word)? Said(DrawnPath item) => Named(item.Name) ?? Named(item.Layer);

    /// <summary>What a name says, read once: it is asked for of every stroke, several times.</summary>
    private (Operation Operation, string Word)? Named(string name) =>
        _names.TryGetValue(name, out var known) ? known : _names[name] = OperationNames.Read(name);

    // What belongs together.

    /// <summary>Takes out lines that were drawn twice in one look; they are left out of the card.</summary>
    private List<Element> WithoutDoubles(List<Element> strokes)
    {
        const double cell = 0.2;
        var kept = new List<Element>(strokes.Count);
        var known = new Dictionary<(string Look, long X, long Y), List<Element>>();
        foreach (var s in strokes)
        {
            var (box, centre) = (s.Path.Bounds, s.Path.Bounds.Centre);
            long x = (long)Math.Floor(centre.X / cell), y = (long)Math.Floor(centre.Y / cell);
            for (var k = 0; k < 9 && s.SameAs is null; k++)
            {
                if (known.TryGetValue((s.Look, x + k % 3 - 1, y + k / 3 - 1), out var near))
                    s.SameAs = near.Find(o => Math.Abs(o.Path.Bounds.Width - box.Width) <= cell && PathLikeness.Same(o.Path, s.Path, Scene.SameWithin));
            }

            if (s.SameAs is null)
            {
                kept.Add(s);
                if (!known.TryGetValue((s.Look, x, y), out var here)) known[(s.Look, x, y)] = here = [];
                here.Add(s);
                continue;
            }

            s.Verdict = Judge(s, [new IsTheSameAgain()]);
            _card.AddLine(s, null);
        }

        return kept;
    }

    /// <summary>Little strokes on one line become one line; those that a pen draws stay as they are.</summary>
    private List<Element> Rows(List<Element> strokes, out List<Element> rest)
    {
        var used = new HashSet<Element>(ReferenceEqualityComparer.Instance);
        var rows = new List<Element>();
        var able = strokes.FindAll(s => IsOfPaper(s.Said?.Operation));
        foreach (var row in StrokeRows.Find(able.ConvertAll(s => (s.Path, s.Look)), _work))
        {
            foreach (var i in row.Members) used.Add(able[i]);
            rows.Add(able[row.Members.Min()] with
            {
                Path = row.Joined,
                IsRow = true,
                MadeOf = $"{row.Members.Count} little strokes on one straight line, joined",
            });
        }

        rest = strokes.FindAll(s => !used.Contains(s));
        return rows;
    }

    /// <summary>Open lines of one look that close to an outline are one. Those of letters are none.</summary>
    private void Join(List<Element> outlines, List<Element> strokes)
    {
        const double largestLetter = 25;
        var used = new HashSet<Element>(ReferenceEqualityComparer.Instance);
        var loops = new List<(Element Outline, List<Element> Members, List<Element> Across)>();
        // What is dashed is a fold, and four folds may well meet at their ends.
        foreach (var look in strokes.Where(s => s.Thin is null && !s.IsDashed && s.Said is null or { Operation: Operation.Cut }).GroupBy(s => s.Look,
            StringComparer.Ordinal))
        {
            var members = look.ToList();
            foreach (var loop in JoinedEnds.Find(members.ConvertAll(m => m.Path.Subpaths[0])))
                if (IsOutline(loop.Outline)) Found(loop.Members.Select(m => members[m]).ToList(), loop.Outline, []);
            members.RemoveAll(used.Contains);
            foreach (var face in StrokeFaces.Find(members.ConvertAll(m => m.Path.Subpaths[0]), _work))
                Found(face.Members.ConvertAll(m => members[m]), face.Outline, face.Across.ConvertAll(a => members[a.Member] with { Path = a.Line }));
        }

        if (loops.Count == 0) return;
        var written = Written(outlines.Concat(strokes)).ToHashSet(ReferenceEqualityComparer.Instance);
        used.Clear();
        var held = new BoxGrid<Element>(20);
        foreach (var o in outlines) held.Add(o.Path.Bounds, o);
        foreach (var (o, _, _) in loops) held.Add(o.Path.Bounds, o);
        foreach (var (outline, members, across) in loops)
        {
            // Inside another outline they may be folds that meet, as on an envelope, and must not become a hole.
            if (held.Touching(outline.Path.Bounds).Any(o => o != outline && !_scene.IsPage(o) && Scene.Inside(outline.Path, o.Path)
                && !PathLikeness.Same(outline.Path, o.Path)))
                continue;
            // Nobody writes an o in four straight strokes or more.
            if (Math.Max(outline.Path.Bounds.Width, outline.Path.Bounds.Height) <= largestLetter && members.TrueForAll(written.Contains)
                && (members.Count < 4 || members.Exists(m => !m.IsStraight))) continue;
            used.UnionWith(members);
            outlines.Add(outline);
            strokes.AddRange(across);
        }

        strokes.RemoveAll(used.Contains);

        void Found(List<Element> members, Subpath outline, List<Element> across)
        {
            used.UnionWith(members);
            var first = members.MinBy(m => m.Order)!;
            loops.Add((first with
            {
                Path = new([outline]),
                Kind = ElementKind.Ring,
                MadeOf = $"{members.Count - across.Count} separate lines, joined by their ends"
            },
                members, across));
        }
    }

    private void FindWritten(List<Element> outlines, List<Element> strokes)
    {
        foreach (var e in Written(outlines.Concat(strokes))) e.IsWritten = true;
        // What closes in a drawing of strokes, such as the o of single-line letters, is a stroke too.
        var open = strokes.Where(s => s.Thin is null).ToLookup(s => s.Look, s => s.Path, StringComparer.Ordinal);
        foreach (var look in outlines.Where(o => o.Kind == ElementKind.Ring && o.MadeOf.Length == 0).GroupBy(o => o.Look, StringComparer.Ordinal))
        {
            _work.Go();
            if (!LetterLoops.Are([.. look.Select(o => o.Path)], [.. open[look.Key]])) continue;
            foreach (var o in look) o.IsLoop = true;
        }
    }

    private IEnumerable<Element> Written(IEnumerable<Element> elements)
    {
        var able = elements.Where(e => e.Kind != ElementKind.Filled && e.Thin is null && !e.IsDashed && e.Said is null).ToList();
        return WrittenWords.Find(able.ConvertAll(e => (e.Path, e.Look)), _work).Select(i => able[i]);
    }

    // What it is.

    private Verdict Judge(Element e, Fact[] facts)
    {
        _evidence.Clear();
        foreach (var fact in facts) fact.Weigh(e, _scene, _evidence);
        return _evidence.Decide();
    }

    /// <summary>From the largest to the smallest, so that each knows what it lies in.</summary>
    private void JudgeOutlines(List<Element> outlines, List<Element> strokes)
    {
        FindStacks(outlines);
        var order = outlines.Select((e, i) => (e, i)).OrderByDescending(t => t.e.Area).ThenBy(t => t.i).Select(t => t.e).ToList();
        var judged = new BoxGrid<Element>(20);
        foreach (var e in order)
        {
            _work.Go();
            if (e.Kind == ElementKind.Ring || IsPaintedOver.IsWhite(e) || (e.Said is { } said && IsNamed.CanBeFilled(said.Operation))) FindAround(e, judged);
            if (e.SharesEdge && TakenApart(e) is { Count: > 0 } sides)
            {
                strokes.AddRange(sides);
                outlines.Remove(e);
                continue;
            }

            e.Verdict = Judge(e, OfOutlines);
            _scene.Count(e);
            if (e.Meaning is Meaning.Paper or Meaning.Hole) judged.Add(e.Path.Bounds, e);
        }
    }

    /// <summary>Layers that hold the same outline are the plies of a stack.</summary>
    private void FindStacks(List<Element> outlines)
    {
        const double cell = 1;
        var known = new Dictionary<(long X, long Y), List<Element>>();
        foreach (var o in outlines.Where(o => o.Kind == ElementKind.Ring && o.Item.Layer.Length > 0 && o.Said is null))
        {
            _work.Go();
            var centre = o.Path.Bounds.Centre;
            long x = (long)Math.Floor(centre.X / cell), y = (long)Math.Floor(centre.Y / cell);
            for (var k = 0; k < 9; k++)
            {
                foreach (var first in known.GetValueOrDefault((x + k % 3 - 1, y + k / 3 - 1)) ?? [])
                    if (first.Item.Layer != o.Item.Layer && PathLikeness.Same(o.Path, first.Path, Scene.SameWithin))
                        _scene.StackedLayers.UnionWith([o.Item.Layer, first.Item.Layer]);
            }

            if (!known.TryGetValue((x, y), out var here)) known[(x, y)] = here = [];
            if (here.Count < MostAtOnePlace) here.Add(o);
        }
    }

    /// <summary>More plies than this are no stack.</summary>
    private const int MostAtOnePlace = 50;

    private void FindAround(Element e, BoxGrid<Element> judged)
    {
        var layer = e.Kind == ElementKind.Ring && _scene.StackedLayers.Contains(e.Item.Layer) ? e.Item.Layer : null;
        foreach (var o in judged.Touching(e.Path.Bounds).Distinct())
        {
            if ((layer is not null && o.Item.Layer != layer) || (e.Kind == ElementKind.Filled && (o.Kind != ElementKind.Filled
                || o.Order >= e.Order))) continue;
            if (!Scene.Inside(e.Path, o.Path)) continue;
            if (e.Kind == ElementKind.Ring && e.Area > 0.98 * o.Area && PathLikeness.Same(e.Path, new([o.Path.Subpaths[0]]), Scene.SameWithin)) e.SameAs = o;
            if (e.Around is null || o.Area < e.Around.Area || (o.Area == e.Around.Area && o.Order > e.Around.Order)) e.Around = o;
        }

        e.SharesEdge = e.Kind == ElementKind.Ring && e.SameAs is null && e.Around is { Kind: ElementKind.Ring, Meaning: Meaning.Paper } around
            && !e.IsWritten && !e.IsLoop && SidesOn(e.Path, around.Path).Any(s => s);
    }

    /// <summary>Of each side of an outline, whether it lies along another; nothing where that is not worth asking.</summary>
    private static IReadOnlyList<bool> SidesOn(VectorPath path, VectorPath other)
    {
        const int mostSides = 40, mostPoints = 2000;
        var ring = path.Rings[0];
        if (ring.Count > mostSides || other.Rings.Sum(r => r.Count) > mostPoints) return [];
        bool On(Point p) => other.DistanceTo(p) <= Tolerances.Closes;
        return [.. ring.Select((p, i) => (p, q: ring[(i + 1) % ring.Count])).Select(s => s.p.DistanceTo(s.q) > 2 && On(s.p) && On((s.p + s.q) * 0.5)
            && On(s.q))];
    }

    /// <summary>A panel was drawn inside of its base, edge on edge: what of it lies within are lines.</summary>
    private static List<Element> TakenApart(Element e)
    {
        var ring = e.Path.Rings[0];
        var on = SidesOn(e.Path, e.Around!.Path);
        return [.. ring.Select((p, i) => (p, q: ring[(i + 1) % ring.Count], i)).Where(s => !on[s.i])
            .Select(s => e with { Path = VectorPath.Polyline(s.p, s.q), Kind = ElementKind.Stroke, MadeOf = "a side of a panel, within its base" })];
    }

    /// <summary>A filled strip on paper is a fold where it goes across, or ends at the edge, or is drawn as such a one; else it is a piece.</summary>
    private void KeepStrips(List<Element> outlines, List<Element> strokes)
    {
        var strips = strokes.FindAll(s => s.Thin is not null && s.Item.Ink.Fill is not null
            && s.Said is not { Operation: Operation.Score or Operation.Perforate });
        var folds = strips.Where(s => PaperAt(s).Any(o => Folds.Spans(s.Path, o.Path) || EndsAt(s, o))).Select(s => s.Look).ToHashSet(StringComparer.Ordinal);
        foreach (var e in strips)
        {
            if (folds.Contains(e.Look) && PaperAt(e).Any(o => Scene.Inside(e.Path, o.Path) || Folds.Spans(e.Path, o.Path))) continue;
            strokes.Remove(e);
            outlines.Add(e with
            {
                Path = e.Thin!.Value.Outline,
                Kind = ElementKind.Filled,
                Thin = null,
                Verdict = new(Meaning.Paper, "a filled shape"),
            });
        }

        IEnumerable<Element> PaperAt(Element e) => _scene.OutlinesAt(e.Path.Bounds).Where(o => o.Meaning == Meaning.Paper);

        static bool EndsAt(Element e, Element paper) => Scene.Inside(e.Path, paper.Path)
            && (paper.Path.DistanceTo(e.Path.Subpaths[0].Start) <= Folds.Reaches.Mm || paper.Path.DistanceTo(e.Path.Subpaths[0].End) <= Folds.Reaches.Mm);
    }

    private void BuildPieces(List<Element> outlines)
    {
        var holes = outlines.Where(o => o.Meaning == Meaning.Hole && o.Around is { Meaning: Meaning.Paper }).ToLookup(o => o.Around!,
            ReferenceEqualityComparer.Instance);
        foreach (var e in outlines.Where(o => o.Meaning == Meaning.Paper)) _card.AddPiece(e, [.. holes[e]], _scene.StackedLayers.Contains(e.Item.Layer));
        foreach (var (a, b) in SharedEdges.Find([.. outlines.Where(o => o.Meaning == Meaning.Paper)], _work)) _card.Doubt([a, b], Meaning.Panel);
        _card.Stack(_work);
        foreach (var (piece, layer) in _card.Pieces) _scene.Add(piece, layer);
    }

    private void JudgeLines(List<Element> strokes, List<Element> outlines)
    {
        var lines = strokes.SelectMany(AtPieces).ToList();
        // Rings that are none become lines as they were drawn.
        foreach (var e in outlines.Where(o => o.Meaning is not (Meaning.Paper or Meaning.Hole)))
            _card.AddLine(e, e.Meaning is Meaning.Ground or Meaning.Double ? null : _scene.CarrierOf(e)?.Id);
        // What is sure tells of its look.
        foreach (var e in lines)
            if (Judge(e, OfLines) is { Or: null, Meaning: Meaning.Fold or Meaning.Pen } sure) _scene.Found(e, sure.Meaning);
        foreach (var e in lines)
        {
            _work.Go();
            e.Verdict = Judge(e, OfLines);
            var line = e;
            if (e.Thin is { } thin && e.Meaning is not (Meaning.Fold or Meaning.Perforation)) line = e with { Path = thin.Outline };
            _card.AddLine(line, _scene.CarrierOf(line)?.Id);
        }

        _card.CarryArtwork();
    }

    /// <summary>
    /// A straight line that no piece holds, cut off at the edges of those that it crosses: a fold drawn a little past them, through a window, or over several
    /// pieces in a row. As it was where that does not explain it.
    /// </summary>
    private IEnumerable<Element> AtPieces(Element e)
    {
        const double past = 6, pastOfLength = 0.12;
        if (!e.IsStraight || e.Thin is { Outline: var outline } && _scene.CarrierOf(outline, e.Order, e.Item.Layer) is not null
            || _scene.CarrierOf(e) is not null) return [e];
        Folds.IsStraight(e.Path, out var a, out var b);
        var length = a.DistanceTo(b);
        var isFoldLike = e.IsDashed || e.IsRow || !_scene.IsOfOutlines(e.Look);
        var parts = new List<(double From, double To, Box By)>();
        foreach (var piece in _scene.PiecesAt(e.Path.Bounds).OrderByDescending(p => p.Outline.Bounds.Area))
        {
            // What lies on a piece that it crosses has nothing to do with it.
            if (parts.Exists(p => p.By.Holds(piece.Outline.Bounds))) continue;
            var inside = Folds.Inside(piece.Outline, a, b);
            foreach (var (from, to) in inside)
                if (to - from > 3 && (Folds.Spans(Between(from, to), piece.Outline) || (isFoldLike && inside.Count == 1 && length - (to - from) <= past)))
                    parts.Add((from, to, piece.Outline.Bounds));
        }

        if (parts.Count == 0) return [e];
        parts.Sort((p, q) => p.From.CompareTo(q.From));
        var allowed = Math.Max(past, Math.Min(pastOfLength * length, 15));
        if (parts[0].From > allowed || length - parts.Max(p => p.To) > allowed) return [e];
        return parts.Select(p => e with { Path = Between(p.From, p.To) });

        VectorPath Between(double from, double to) => VectorPath.Polyline(a + (b - a) * (from / length), a + (b - a) * (to / length));
    }
}
