using Falzkunst.Core.Cards;
using Falzkunst.Core.Files;

namespace Falzkunst.Core.Reading.Recognition;

/// <summary>What facts look at beside the one element that they are about: the elements of the file, and what is known of them so far.</summary>
internal sealed class Scene(Drawing drawing, ReadingWork work)
{
    private readonly Dictionary<string, (int Paper, int Hole, int BentLines)> _looks = new(StringComparer.Ordinal);
    private readonly Dictionary<(string Look, Meaning Meaning), int> _found = [];
    private readonly HashSet<Element> _sure = [];
    private readonly BoxGrid<Element> _outlines = new(20), _straight = new(20), _bent = new(20);
    private readonly List<Element> _all = [];
    private bool? _hasWhitePaper;
    private Dictionary<(double Width, double Height), int>? _whites;
    private readonly List<Piece> _pieces = [];
    private BoxGrid<Piece>? _pieceGrid;
    private readonly Dictionary<string, (string Layer, int Order)> _pieceFacts = new(StringComparer.Ordinal);
    private readonly Dictionary<Element, Piece?> _carriers = [];

    /// <summary>What is drawn this close, in mm, was meant to lie on one another; a hair more than <see cref="Tolerances.Doubled"/>, so that what is off by
    /// just that much counts.</summary>
    public const double SameWithin = 2 * Tolerances.Doubled;

    public Drawing Drawing => drawing;

    public Legend Legend { get; init; } = Legend.None;

    /// <summary>Layers that are the plies of a stack: an outline in one of them is the same line as one in another.</summary>
    public HashSet<string> StackedLayers { get; } = new(StringComparer.Ordinal);

    // Outlines.

    /// <summary>Whether an element is as large as the page, but for a little.</summary>
    public bool IsPage(Element e) => IsAsThePage.IsPage(e.Path.Bounds, drawing);

    /// <summary>All outlines, whatever they will be.</summary>
    public void Add(IEnumerable<Element> outlines)
    {
        foreach (var e in outlines)
        {
            _outlines.Add(e.Path.Bounds, e);
            _all.Add(e);
        }
    }

    /// <summary>Whether something white and filled lies on nothing of another colour: then white is paper.</summary>
    public bool HasWhitePaper => _hasWhitePaper ??= _all.Exists(e => e.Kind == ElementKind.Filled && IsPaintedOver.IsWhite(e)
        && !IsPage(e)
        && !OutlinesAt(e.Path.Bounds).Any(o => o.Kind == ElementKind.Filled && o.Order < e.Order && !IsPaintedOver.IsWhite(o) && Inside(e.Path, o.Path)));

    /// <summary>How many white and filled things are as large as this one, itself among them.</summary>
    public int WhitesLike(Element e)
    {
        _whites ??= _all.Where(o => o.Kind == ElementKind.Filled && IsPaintedOver.IsWhite(o)).CountBy(SizeOf).ToDictionary();
        return _whites.GetValueOrDefault(SizeOf(e));

        static (double, double) SizeOf(Element o) => (Math.Round(o.Path.Bounds.Width, 1), Math.Round(o.Path.Bounds.Height, 1));
    }

    /// <summary>Open lines, of which the straight ones may be folds, and what closes among those of a drawing.</summary>
    public void AddLines(IEnumerable<Element> lines)
    {
        foreach (var e in lines) (e.Kind == ElementKind.Stroke && e.IsStraight ? _straight : _bent).Add(e.Path.Bounds, e);
    }

    /// <summary>Whether a line that is not straight ends at this one, or this one at such a line, in the same look: lines of a drawing meet, and nobody cuts
    /// what meets inside a piece. Looks at so many neighbours and no more.</summary>
    public bool MeetsBent(Element e)
    {
        const double at = 0.3;
        const int most = 60;
        foreach (var o in _bent.Touching(e.Path.Bounds.Grown(at)).Take(most))
        {
            if (o == e || o.Look != e.Look || o.IsDashed) continue;
            var line = o.Path.Subpaths[0];
            if (e.Path.DistanceTo(line.Start) <= at || e.Path.DistanceTo(line.End) <= at) return true;
            // Its ends; of a ring the corners, since it has no ends.
            var sub = e.Path.Subpaths[0];
            if (o.Path.DistanceTo(sub.Start) <= at || (e.Kind == ElementKind.Stroke ? o.Path.DistanceTo(sub.End) <= at
                : sub.Segments.Length <= 12 && sub.Segments.Any(s => o.Path.DistanceTo(s.End) <= at))) return true;
        }

        return false;
    }

    /// <summary>The straight lines at a place; one may come several times.</summary>
    public IEnumerable<Element> StraightAt(Box box) => _straight.Touching(box);

    public IEnumerable<Element> OutlinesAt(Box box) => _outlines.Touching(box).Distinct();

    /// <summary>Whether a line goes across the outline from edge to edge, or nearly so. About the lines at it.</summary>
    public bool IsFolded(VectorPath outline, bool nearly = false)
    {
        foreach (var line in _straight.Touching(outline.Bounds))
        {
            work.Go();
            if (Folds.SpanOf(line.Path, outline) is { } span && (nearly ? Folds.NearlySpans(span) : span.MostShort <= Folds.Reaches)) return true;
            // Drawn past the edge, or over several pieces at once.
            if (outline.Bounds.Holds(line.Path.Bounds)) continue;
            Folds.IsStraight(line.Path, out var a, out var b);
            var along = (b - a) * (1 / a.DistanceTo(b));
            foreach (var (from, to) in Folds.Inside(outline, a, b))
                if (to - from > 3 && Folds.Spans(VectorPath.Polyline(a + along * from, a + along * to), outline)) return true;
        }

        return false;
    }

    /// <summary>Whether inner lies in outer, edges included.</summary>
    public static bool Inside(VectorPath inner, VectorPath outer)
    {
        if (!outer.Bounds.Grown(SameWithin).Holds(inner.Bounds)) return false;
        foreach (var p in inner.Rings[0])
            if (!outer.Encloses(p) && outer.DistanceTo(p) > SameWithin) return false;
        return true;
    }

    // Looks.

    /// <summary>How often lines of a look are what, as far as it is known.</summary>
    public void Count(Element e)
    {
        if (e.Item.Ink.Stroke is null) return;
        var (paper, hole, bent) = _looks.GetValueOrDefault(e.Look);
        _looks[e.Look] = e.Kind switch
        {
            ElementKind.Stroke => (paper, hole, bent + (e.IsStraight ? 0 : 1)),
            _ => (paper + (e.Meaning == Meaning.Paper ? 1 : 0), hole + (e.Meaning == Meaning.Hole ? 1 : 0), bent),
        };
    }

    /// <summary>Whether an outline of paper is drawn in the look.</summary>
    public bool IsOfPaper(string look) => _looks.GetValueOrDefault(look).Paper > 0;

    public bool IsOfOutlines(string look) => _looks.GetValueOrDefault(look) is { Paper: > 0 } or { Hole: > 0 };

    /// <summary>Whether open lines that are not straight are drawn in the look.</summary>
    public bool HasBentLines(string look) => _looks.GetValueOrDefault(look).BentLines > 0;

    /// <summary>Notes that a line is surely that.</summary>
    public void Found(Element e, Meaning meaning)
    {
        _found[(e.Look, meaning)] = _found.GetValueOrDefault((e.Look, meaning)) + 1;
        _sure.Add(e);
    }

    /// <summary>Whether other lines of its look were found to be that, for sure.</summary>
    public bool LooksLike(Element e, Meaning meaning) => _found.GetValueOrDefault((e.Look, meaning)) > (_sure.Contains(e) ? 1 : 0);

    // Pieces.

    public void Add(Piece piece, string layer)
    {
        _pieces.Add(piece);
        _pieceFacts[piece.Id] = (layer, piece.Origin!.Order);
    }

    public IEnumerable<Piece> PiecesAt(Box box)
    {
        if (_pieceGrid is null)
        {
            _pieceGrid = new(20);
            foreach (var piece in _pieces) _pieceGrid.Add(piece.Outline.Bounds.Grown(Tolerances.Carried), piece);
        }

        return _pieceGrid.Touching(box).Distinct();
    }

    /// <summary>Of the pieces that hold the path: one of its own layer first, then the one painted last before it, then the smallest.</summary>
    public Piece? CarrierOf(VectorPath path, int order, string layer)
    {
        Piece? best = null;
        (bool Own, int Painted, double Area) rank = default;
        foreach (var p in PiecesAt(path.Bounds))
        {
            if (!p.Carries(path)) continue;
            var (of, at) = _pieceFacts[p.Id];
            var mine = (layer.Length > 0 && of == layer && at < order, at < order ? at : -1, -p.Outline.Bounds.Area);
            if (best is null || mine.CompareTo(rank) > 0) (best, rank) = (p, mine);
        }

        return best;
    }

    /// <summary>The piece that carries an element, looked for once, since facts ask for it again and again; only when all pieces are there.</summary>
    public Piece? CarrierOf(Element e) =>
        _carriers.TryGetValue(e, out var known) ? known : _carriers[e] = CarrierOf(e.Path, e.Order, e.Item.Layer);
}
