using System.Text.RegularExpressions;
using Falzkunst.Core.Cards;
using Falzkunst.Core.Files;
using Falzkunst.Core.Pictures;

namespace Falzkunst.Core.Reading.Recognition;

/// <summary>Puts the card together from what was judged: pieces with their holes, plies by paint order, lines and pictures on the pieces that carry
/// them.</summary>
internal sealed partial class CardBuilder
{
    private const string SourceId = "s1";

    private readonly List<Piece> _pieces = [];
    private readonly List<string> _layers = [];
    private readonly Dictionary<Element, int> _pieceOf = new(ReferenceEqualityComparer.Instance);
    private readonly List<(Line Line, string? By, Meaning Meaning)> _lines = [];
    private readonly List<(Artwork Artwork, string? By)> _artwork = [];
    private readonly List<Ply> _plies = [];
    private readonly List<string> _plyKeys = [];
    private readonly Dictionary<string, Look> _looks = new(StringComparer.Ordinal);

    private (DrawnPath? Item, bool Closed, string Key) _lastLook;

    private static Edge PlainEdge { get; } = new(Operation.Cut);

    public IEnumerable<(Piece Piece, string Layer)> Pieces => _pieces.Zip(_layers);

    /// <summary>A piece; outlines without fill give its holes, which are edges of their own.</summary>
    public void AddPiece(Element e, IReadOnlyList<Element> holes, bool isPly)
    {
        var (item, outline) = (e.Item, e.Path);
        if (e.Kind == ElementKind.Ring) outline = new([Clockwise(outline, true)]);
        if (holes.Count > 0) outline = new(outline.Subpaths.AddRange(holes.Select(h => Clockwise(h.Path, false))));
        var piece = new Piece
        {
            Id = $"p{_pieces.Count + 1}",
            Label = GivenName(item.Name) ?? GivenName(item.Layer) ?? "",
            PlyId = "",
            Shape = new Cards.Drawn(outline),
            Edges = [.. e.Path.Subpaths.Select(_ => PlainEdge), .. holes.Select(h => new Edge(Operation.Cut, OriginOf(h, h.Path.IsClosed)
                with { IsHole = true }))],
            Colour = (item.Ink.Fill ?? Fresh.Paper) with { Alpha = 1 },
            Origin = OriginOf(e, true),
        };
        if (item.Paint is { } paint) Add(paint, e.Order, piece.Id, "the gradient or pattern of its shape");
        _layers.Add(item.Layer);
        _plyKeys.Add(item.Ink.Fill is { } fill ? fill.Hex : isPly ? "layer " + item.Layer : "outline");
        _pieceOf[e] = _pieces.Count;
        _pieces.Add(piece);
    }

    /// <summary>Says what pieces may be as well.</summary>
    public void Doubt(IEnumerable<Element> pieces, Meaning meaning)
    {
        foreach (var i in pieces.Select(e => _pieceOf[e])) _pieces[i] = _pieces[i] with { Origin = _pieces[i].Origin! with { Or = meaning } };
    }

    public void AddLine(Element e, string? carriedBy)
    {
        var operation = e.Meaning.ToOperation();
        // An outline whose ends nearly meet was closed for paper; on paper it stays as it was drawn.
        var path = e.GapMm > Tolerances.Closes && operation is Operation.Draw or Operation.Foil or Operation.Deboss
            ? new([.. e.Path.Subpaths.Select(s => s with { Closed = false })]) : e.Path;
        _lines.Add((new()
        {
            Id = "",
            Label = GivenName(e.Item.Name) ?? "",
            Path = path,
            Operation = operation,
            Pen = e.Item.Ink.Stroke?.Colour,
            Origin = OriginOf(e, path.IsClosed),
        }, carriedBy, e.Meaning));
    }

    public void Add(DrawnPicture picture, int order, string? by, string why) =>
        _artwork.Add((new($"a{_artwork.Count + 1}", new(picture.Bytes), picture.Place, picture.Opacity)
        { Origin = new("", Ink.None, order, why) { Source = SourceId } }, by));

    /// <summary>A picture may hang over the edge of its piece; its middle tells where it belongs.</summary>
    public void CarryArtwork()
    {
        for (var i = 0; i < _artwork.Count; i++)
        {
            if (_artwork[i].By is not null) continue;
            var (middle, order) = (_artwork[i].Artwork.Bounds.Centre, _artwork[i].Artwork.Origin!.Order);
            var carrier = _pieces.Where(p => p.Outline.Encloses(middle)).OrderByDescending(p => OrderOf(p) < order ? OrderOf(p) : -1).FirstOrDefault();
            _artwork[i] = _artwork[i] with { By = carrier?.Id };
        }
    }

    public Design Build(Drawing drawing, ImmutableArray<ReadingNote> notes)
    {
        var ordered = _lines.OrderBy(l => l.Line.Origin!.Order).Select((l, i) => l with { Line = l.Line with { Id = $"l{i + 1}" } }).ToList();
        var lines = ordered.ToLookup(l => l.By, l => l.Line);
        var artwork = _artwork.ToLookup(a => a.By, a => a.Artwork);
        var design = new Design
        {
            LastId = Math.Max(Math.Max(_plies.Count, _pieces.Count), Math.Max(_lines.Count, Math.Max(_artwork.Count, 1))),
            Width = drawing.Width,
            Height = drawing.Height,
            Scale = drawing.Scale,
            AllPlies = [.. _plies],
            AllPieces = [.. _pieces.OrderBy(OrderOf).Select(p => !lines.Contains(p.Id) && !artwork.Contains(p.Id) ? p
                : Carrying.WithFolds(p with { AllLines = [.. lines[p.Id]], AllArtwork = [.. artwork[p.Id]] }))],
            AllLoose = [.. lines[null]],
            AllLooseArtwork = [.. artwork[null]],
            Looks = [.. _looks.Values],
            Sources = [new(SourceId, "") { Producer = drawing.Producer }],
            Notes = notes,
        };
        // Each kind together, so that it can be put back by whoever knows better.
        foreach (var kind in ordered.Where(l => l.Meaning is Meaning.Ground or Meaning.Sample or Meaning.Double).GroupBy(l => l.Meaning).OrderBy(g => g.Key))
            design = new LeaveOut([.. kind.Select(l => l.Line.Id)]).Apply(design);
        return design;
    }

    private Origin OriginOf(Element e, bool closed) => new(LookOf(e.Item, closed), e.Item.Ink, e.Order, e.Verdict.Why) { Source = SourceId, Or = e.Verdict.Or };

    private string LookOf(DrawnPath item, bool closed)
    {
        // The parts of one item come one after another.
        if (ReferenceEquals(_lastLook.Item, item) && _lastLook.Closed == closed) return _lastLook.Key;
        var look = Look.Of(item.Ink, item.Layer, closed);
        _looks.TryAdd(look.Key, look);
        _lastLook = (item, closed, look.Key);
        return look.Key;
    }

    private static int OrderOf(Piece piece) => piece.Origin!.Order;

    private static Subpath Clockwise(VectorPath ring, bool clockwise) =>
        Polygons.SignedArea(ring.Rings[0]) > 0 == clockwise ? ring.Subpaths[0] : ring.Subpaths[0].Reverse();

    /// <summary>
    /// Plies by paint order, the same look together: a piece joins the ply of its look unless something of another look lies between, that is, on a
    /// higher ply and under the piece. With very many looks the stack is a picture, not a card; from then on a piece lies on the lowest ply above all that it
    /// covers.
    /// </summary>
    public void Stack(ReadingWork work)
    {
        const int MostPlies = 60, MostLevels = 1000;
        var plyOfLook = new Dictionary<string, int>();
        var placed = new BoxGrid<int>(10);
        var plyOf = new int[_pieces.Count];
        for (var i = 0; i < _pieces.Count; i++)
        {
            work.Go();
            var piece = _pieces[i];
            var box = piece.Outline.Bounds.Grown(-0.01);
            var key = _plyKeys[i];
            var at = plyOfLook.GetValueOrDefault(key, -1);
            if (_plies.Count >= MostPlies)
            {
                at = Math.Min(placed.Touching(box).DefaultIfEmpty(-1).Max() + 1, MostLevels);
                if (at == _plies.Count) at = -1;
            }
            else if (at >= 0)
            {
                // Outlines show nothing of what they cover, so one that overlaps another lies above it.
                var lowest = piece.Origin!.Ink.Fill is null ? at : at + 1;
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
            plyOf[i] = at;
        }

        PlaceAndName(plyOf);
    }

    private void PlaceAndName(int[] plyOf)
    {
        var counts = new Dictionary<string, int>();
        var onPly = Enumerable.Range(0, _pieces.Count).ToLookup(i => plyOf[i], i => _pieces[i]);
        for (var y = 0; y < _plies.Count; y++)
        {
            var its = onPly[y];
            // The largest piece names its ply, if it has a name; outlines have no colour that says anything.
            var name = its.MaxBy(p => p.Outline.Bounds.Area)!.Label is { Length: > 0 } label ? label
                : its.First().Origin!.Ink.Fill is { } fill ? ColourNames.Of(fill) : "piece";
            _plies[y] = _plies[y] with { Label = char.ToUpperInvariant(name[0]) + name[1..] };
        }

        for (var i = 0; i < _pieces.Count; i++)
        {
            var ply = _plies[plyOf[i]];
            var label = _pieces[i].Label.Length > 0 ? _pieces[i].Label : ply.Label;
            var n = counts[label] = counts.GetValueOrDefault(label) + 1;
            _pieces[i] = _pieces[i] with { PlyId = ply.Id, Label = n == 1 ? label : $"{label} {n}" };
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
        + @"[\d\s_\-\.]*$", RegexOptions.IgnoreCase | RegexOptions.ExplicitCapture)]
    private static partial Regex Counted();
}
