using System.Text.Json.Serialization;
using Falzkunst.Core.Pictures;

namespace Falzkunst.Core.Cards;

/// <summary>What is only known because something was drawn in a file. Nothing but recognition, the look table and drawing the file as it was reads
/// it.</summary>
/// <param name="Look">The key of its look.</param>
/// <param name="Order">Its place in the file's paint order.</param>
/// <param name="Why">Why it became what it is.</param>
public sealed record Origin(string Look, Ink Ink, int Order, string Why)
{
    /// <summary>The id of the source that it came from; empty where a person made it.</summary>
    public string Source { get; init; } = "";

    /// <summary>Whether it was drawn as an outline of its own inside a piece: cut, it is a hole; otherwise it is a line on the paper there.</summary>
    [JsonIgnore(Condition = JsonIgnoreCondition.WhenWritingDefault)]
    public bool IsHole { get; init; }

    /// <summary>The same for something of which a person, or a rule, has said what it is; nothing more is asked about it.</summary>
    internal Origin Settled(string why) => this with { Why = why, Or = null };

    /// <summary>What it is nearly as likely to be; null where that is not in doubt, or was settled by a person.</summary>
    [JsonIgnore(Condition = JsonIgnoreCondition.WhenWritingDefault)]
    public Meaning? Or { get; init; }
}

/// <summary>What happens along one closed ring of a piece's outline.</summary>
/// <param name="Origin">Where the ring was drawn as an outline of its own; otherwise it is of the piece's origin.</param>
public sealed record Edge(Operation Operation, Origin? Origin = null)
{
    /// <summary>The bridges of paper that are left in it where it is cut; null where it is cut all around.</summary>
    [JsonIgnore(Condition = JsonIgnoreCondition.WhenWritingNull)]
    public CutBridges? Bridges { get; init; }

    /// <summary>How it is cut where it is perforated; null for <see cref="Dashes.Usual"/>.</summary>
    [JsonIgnore(Condition = JsonIgnoreCondition.WhenWritingNull)]
    public Dashes? Dashes { get; init; }

    /// <summary>How it is cut where it is perforated.</summary>
    [JsonIgnore]
    public Dashes PerforatedBy => Dashes ?? Dashes.Usual;

    /// <summary>How many times it is worked; null for as many as are set for its paper.</summary>
    [JsonIgnore(Condition = JsonIgnoreCondition.WhenWritingNull)]
    public int? Passes { get; init; }

    /// <summary>What a tool goes along of it: all of the ring, what lies between bridges, or the dashes of a perforation.</summary>
    /// <param name="ring">The ring of the outline that it is.</param>
    public IReadOnlyList<VectorPath> Worked(VectorPath ring) => Operation switch
    {
        Operation.Perforate => PerforatedBy.Along(ring),
        Operation.Cut when Bridges is { } bridges => bridges.Between(ring),
        _ => [ring],
    };
}

/// <summary>Words that a line writes, and how they lie in the coordinates of whatever carries the line.</summary>
public sealed record Written(Lettered Words, Place Place)
{
    internal VectorPath Path => Words.Path.Transform(Place.Map);

    /// <summary>The same after a map that keeps shapes (it may turn, mirror, move and size); null after one that does not.</summary>
    internal Written? Through(Affine by)
    {
        if (by == Affine.Identity) return this;
        var size = by.MeanScale;
        var map = Affine.Scale(1 / size, 1 / size).Then(Place.Map).Then(by);
        var mirrored = map.Determinant < 0;
        // What is mirrored is so before it is turned: its own x runs the other way.
        var turn = Angle.FromRadians(mirrored ? Math.Atan2(-map.B, -map.A) : Math.Atan2(map.B, map.A)).Normal;
        var place = new Place(turn, new(map.E, map.F), mirrored);
        Affine is_ = place.Map;
        if (Math.Abs(is_.A - map.A) + Math.Abs(is_.B - map.B) + Math.Abs(is_.C - map.C) + Math.Abs(is_.D - map.D) > 1e-9) return null;
        return new(Math.Abs(size - 1) < 1e-12 ? Words : (Lettered)Words.Scaled(size), place);
    }
}

/// <summary>A path with an operation, in the coordinates of the piece that carries it, or of the card where it is loose.</summary>
public sealed record Line : ICanBeLeftOut
{
    private readonly VectorPath? _drawn;
    private Kept<Written, VectorPath>? _written;

    public required string Id { get; init; }

    /// <summary>Where it runs. Given a path of its own, it is drawn from then on, also where it wrote words before.</summary>
    [JsonIgnore]
    public VectorPath Path
    {
        get => Words is { } words ? Kept.Of(ref _written, words, static w => w.Path) : _drawn ?? VectorPath.Empty;
        init => (_drawn, Words) = (value, null);
    }

    /// <summary>The path that is stored: none where it follows from words.</summary>
    [JsonInclude]
    [JsonPropertyName("path")]
    internal VectorPath? Drawn
    {
        get => Words is null ? _drawn : null;
        init => _drawn = value;
    }

    /// <summary>The words that it writes, which stay editable; null where it is drawn.</summary>
    public Written? Words { get; init; }

    public required Operation Operation { get; init; }
    public string Label { get; init; } = "";

    /// <summary>The side of the paper that it is made on. What is made on the inner face is made on a sheet that is turned over.</summary>
    [JsonIgnore(Condition = JsonIgnoreCondition.WhenWritingDefault)]
    public Face Face { get; init; } = Face.Outer;

    /// <summary>What of the piece that carries it it is aligned to, and stays so; null where it lies freely.</summary>
    [JsonIgnore(Condition = JsonIgnoreCondition.WhenWritingNull)]
    public Hold? Held { get; init; }

    /// <summary>The colour of the pen that draws it; null takes any.</summary>
    public Colour? Pen { get; init; }

    /// <summary>What the foil is called in the drawer that it is made with; null takes any.</summary>
    [JsonIgnore(Condition = JsonIgnoreCondition.WhenWritingNull)]
    public string? Foil { get; init; }

    /// <summary>How wide a line the pen or the foil tip makes; null takes the one that is usual.</summary>
    [JsonIgnore(Condition = JsonIgnoreCondition.WhenWritingNull)]
    [JsonPropertyName("penMm")]
    public Length? PenWidth { get; init; }

    /// <summary>How many times it is worked; null for as many as are set for its paper.</summary>
    [JsonIgnore(Condition = JsonIgnoreCondition.WhenWritingNull)]
    public int? Passes { get; init; }

    /// <summary>How it is cut where it is perforated; null for <see cref="Dashes.Usual"/>.</summary>
    [JsonIgnore(Condition = JsonIgnoreCondition.WhenWritingNull)]
    public Dashes? Dashes { get; init; }

    /// <summary>How it is cut where it is perforated.</summary>
    [JsonIgnore]
    public Dashes PerforatedBy => Dashes ?? Dashes.Usual;

    /// <summary>How far apart it is scored twice, for a stack that is thick; null scores it once.</summary>
    [JsonIgnore(Condition = JsonIgnoreCondition.WhenWritingNull)]
    [JsonPropertyName("twiceMm")]
    public Length? ScoredTwice { get; init; }

    /// <summary>How it is filled where it is closed, and drawn, foiled or debossed; null makes its outline alone.</summary>
    [JsonIgnore(Condition = JsonIgnoreCondition.WhenWritingNull)]
    public Infill? Infill { get; init; }

    /// <summary>How it is printed, where a person said; null prints it as it was drawn.</summary>
    [JsonIgnore(Condition = JsonIgnoreCondition.WhenWritingNull)]
    public Ink? PrintedAs { get; init; }
    public Origin? Origin { get; init; }

    /// <summary>The part that it was left out with; null where it belongs to the card.</summary>
    public string? LeftOut { get; init; }

    public bool IsClosed => Path.IsClosed;

    /// <summary>The ink it is printed with: as a person said, as it was drawn, or black and as wide as a pen's line.</summary>
    [JsonIgnore]
    public Ink InkPrinted => PrintedAs ?? (Origin?.Ink is { } drawn && (drawn.Fill is not null || drawn.Stroke is not null) ? drawn
        : new(null, FillRule.EvenOdd, new(Pen ?? Colour.Black, Length.FromMm(0.35), LineCap.Round, LineJoin.Round, 4, [], Length.Zero)));

    /// <summary>How it is filled; null where it is not, or can't be any more.</summary>
    [JsonIgnore]
    public Infill? FilledBy => Infill is not null && Infill.Suits(Operation) && IsClosed ? Infill : null;

    /// <summary>What a tool goes along, in the coordinates of the line: its path, the dashes of a perforation, or the strokes of an infill.</summary>
    /// <param name="tool">How wide a line the usual tool makes.</param>
    public IReadOnlyList<VectorPath> WorkedBy(Length tool) => Operation == Operation.Perforate ? PerforatedBy.Along(Path)
        : Operation == Operation.Score && ScoredTwice is { } apart ? ScoreTwice.Along(Path, apart)
        : FilledBy is { } infill && WidthBy(tool) is { Mm: > 0 } width ? InfillStrokes.Of(Path, infill, width) : Path.Parts();

    /// <summary>How wide it is made.</summary>
    /// <param name="tool">How wide a line the usual tool makes.</param>
    public Length WidthBy(Length tool) => Operation is Operation.Draw or Operation.Foil ? PenWidth ?? tool : tool;

    /// <summary>The line elsewhere. Words stay words where the map keeps shapes.</summary>
    public Line Through(Affine by) => by == Affine.Identity ? this
        : Words is { } words && words.Through(by) is { } moved ? this with { Words = moved } : this with { Path = Path.Transform(by) };

    public bool Equals(Line? o) => o is not null && (ReferenceEquals(this, o) || (Id == o.Id && Operation == o.Operation && Label == o.Label && Face == o.Face
        && Pen == o.Pen && PenWidth == o.PenWidth && Foil == o.Foil && Passes == o.Passes && Dashes == o.Dashes && Infill == o.Infill
        && ScoredTwice == o.ScoredTwice && PrintedAs == o.PrintedAs && Held == o.Held
        && Origin == o.Origin && LeftOut == o.LeftOut && Words == o.Words && (Words is not null || Path.Equals(o.Path))));

    public override int GetHashCode() => HashCode.Combine(Id, Operation, Face, LeftOut);
}

/// <summary>A picture by its bytes; two of the same bytes are the same picture.</summary>
public sealed class Picture : IEquatable<Picture>
{
    private string? _hash;

    public Picture(ImmutableArray<byte> bytes) => Bytes = bytes;

    public ImmutableArray<byte> Bytes { get; }

    /// <summary>What its bytes are, whatever a file called them (RFC 6838); empty where they are no PNG, JPEG or WebP.</summary>
    public string MediaType => Falzkunst.Core.Pictures.PictureFacts.Read(Bytes.AsSpan())?.MediaType ?? "";

    /// <summary>The SHA-256 of its bytes, as 64 hexadecimal digits.</summary>
    public string Hash => _hash ??= Convert.ToHexStringLower(System.Security.Cryptography.SHA256.HashData(Bytes.AsSpan()));

    public bool Equals(Picture? other) => other is not null && (ReferenceEquals(this, other) || Hash == other.Hash);

    public override bool Equals(object? obj) => Equals(obj as Picture);

    public override int GetHashCode() => Hash.GetHashCode(StringComparison.Ordinal);
}

/// <summary>A picture or a pattern that is printed on a piece. <see cref="Map"/> maps the unit square to the piece's coordinates, or the card's where it is
/// loose.</summary>
/// <param name="Picture">Null where it is a pattern.</param>
public sealed record Artwork(string Id, Picture? Picture, Affine Map, double Opacity) : ICanBeLeftOut
{
    /// <summary>The sides of the smallest tile, in mm.</summary>
    public const double LeastTileMm = 2;

    /// <summary>Null where it is a picture.</summary>
    [JsonIgnore(Condition = JsonIgnoreCondition.WhenWritingNull)]
    public Pattern? Pattern { get; init; }

    /// <summary>Whether the picture is a tile that is set again and again over all of the piece; a pattern always is.</summary>
    [JsonInclude]
    [JsonPropertyName("tiled")]
    [JsonIgnore(Condition = JsonIgnoreCondition.WhenWritingDefault)]
    internal bool PictureIsTiled { get; init; }

    /// <summary>Whether it is set again and again over all of the piece, as tiles.</summary>
    [JsonIgnore]
    public bool IsTiled => PictureIsTiled || Pattern is not null;

    public Origin? Origin { get; init; }

    /// <summary>The part that it was left out with; null where it belongs to the card.</summary>
    public string? LeftOut { get; init; }

    /// <summary>The box around it, or around one tile.</summary>
    public Box Bounds => VectorPath.Rectangle(0, 0, 1, 1).Transform(Map).Bounds;

    /// <summary>How wide it is, or one tile of it, along its own x.</summary>
    public Length TileWidth => Length.FromMm(new Point(Map.A, Map.B).Norm);

    /// <summary>How high, along its own y.</summary>
    public Length TileHeight => Length.FromMm(new Point(Map.C, Map.D).Norm);

    /// <summary>Whether something of it lies in a box of the same coordinates.</summary>
    public bool LiesIn(Box box) => IsTiled || Bounds.Touches(box);

    /// <summary>The same elsewhere. A tile is not made too small to be printed.</summary>
    public Artwork Through(Affine by)
    {
        var moved = this with { Map = Map.Then(by) };
        return IsTiled && Math.Min(moved.TileWidth.Mm, moved.TileHeight.Mm) < LeastTileMm ? this : moved;
    }

    /// <summary>What is drawn of it in a box, from bottom to top, in its coordinates: as many tiles as it takes, or the picture alone.</summary>
    public IEnumerable<DrawnItem> Drawn(Box over)
    {
        if (!IsTiled)
        {
            yield return Of(Map);
            yield break;
        }

        var back = Map.Inverse();
        var seen = VectorPath.Rectangle(over.Left, over.Top, over.Width, over.Height).Transform(back).Bounds;
        int left = (int)Math.Floor(seen.Left), right = (int)Math.Ceiling(seen.Right), top = (int)Math.Floor(seen.Top), bottom = (int)Math.Ceiling(seen.Bottom);
        var tiles = new List<Affine>();
        for (var y = top; y < bottom; y++)
            for (var x = left; x < right; x++)
                if (VectorPath.Rectangle(x, y, 1, 1).Transform(Map).Bounds.Touches(over)) tiles.Add(Affine.Move(x, y).Then(Map));
        if (Pattern is not { } pattern)
        {
            foreach (var tile in tiles) yield return Of(tile);
            yield break;
        }

        foreach (var (path, colour) in pattern.Tile)
            yield return new DrawnPath("", "", VectorPath.Joined(tiles.Select(path.Transform)), new(colour with { Alpha = colour.Alpha * Opacity },
                FillRule.NonZero, null));

        DrawnItem Of(Affine map) => new DrawnPicture("", "", Picture!.MediaType, Picture.Bytes, map, Opacity);
    }
}

/// <summary>Which way one of the lines that a piece carries folds.</summary>
public sealed record Fold(string LineId, FoldSide Side);

/// <summary>How many of a piece are made: one for each card, where nothing else is said.</summary>
/// <param name="More">For each card, besides the one: a card with two equal hinges has one more.</param>
/// <param name="Spare">In all, for those that tear.</param>
public readonly record struct PieceNumber(int More, int Spare)
{
    public const int Most = 99;

    /// <summary>For each card.</summary>
    [JsonIgnore]
    public int PerCard => 1 + More;

    [JsonIgnore]
    public bool IsPossible => More is >= 0 and < Most && Spare is >= 0 and <= Most;

    /// <summary>For so many cards: of 12 cards with 2 of it each and 3 to spare, 27.</summary>
    public int For(int cards) => cards * PerCard + Spare;
}

/// <summary>A name for the panel that a point of the piece lies in; the panels themselves follow from the outline and the folds
/// (<see cref="Panels"/>).</summary>
public sealed record Panel(string Name, Point At);

/// <summary>
/// One physical bit of paper. What it is made of lies in coordinates of its own; where it lies on the card is its <see cref="Place"/> alone.
/// </summary>
public sealed record Piece : ICanBeLeftOut
{
    private Kept<(Shape, ImmutableArray<Treatment>), VectorPath>? _outline;
    private Kept<(VectorPath, Place), VectorPath>? _onCard;
    private Kept<ImmutableArray<Line>, ImmutableArray<Line>>? _lines;
    private Kept<ImmutableArray<Artwork>, ImmutableArray<Artwork>>? _artwork;

    public required string Id { get; init; }
    public required string Label { get; init; }
    [JsonPropertyName("ply")]
    public required string PlyId { get; init; }

    /// <summary>The stock chosen by a person; null takes the nearest in colour.</summary>
    [JsonPropertyName("stock")]
    public string? StockId { get; init; }

    /// <summary>The colour of its paper on the screen, and what its stock is matched by.</summary>
    public required Colour Colour { get; init; }
    [JsonIgnore(Condition = JsonIgnoreCondition.WhenWritingDefault)]
    public Place Place { get; init; }
    public required Shape Shape { get; init; }

    /// <summary>What is done to the shape, the first first.</summary>
    public ImmutableArray<Treatment> Treatments { get; init; } = [];

    /// <summary>One for each ring of the outline, in its order.</summary>
    public required ImmutableArray<Edge> Edges { get; init; }

    /// <summary>All lines that it carries, also those that are left out.</summary>
    [JsonPropertyName("lines")]
    public ImmutableArray<Line> AllLines { get; init; } = [];

    /// <summary>All pictures that it carries, also those that are left out; the first lies lowest.</summary>
    [JsonPropertyName("artwork")]
    public ImmutableArray<Artwork> AllArtwork { get; init; } = [];
    public ImmutableArray<Fold> Folds { get; init; } = [];
    public ImmutableArray<Panel> Panels { get; init; } = [];

    /// <summary>How many of it are made.</summary>
    [JsonIgnore(Condition = JsonIgnoreCondition.WhenWritingDefault)]
    public PieceNumber Number { get; init; }

    /// <summary>The docket that it came from, where that is not the design's own: see <see cref="Lots"/>. Never stored.</summary>
    [JsonIgnore]
    public Guest? Guest { get; init; }

    /// <summary>Whether it is no paper but stands for a real thing of its size that goes there (a bottle, a plant, a coin): it is neither cut nor laid
    /// out.</summary>
    [JsonIgnore(Condition = JsonIgnoreCondition.WhenWritingDefault)]
    public bool IsThing { get; init; }

    /// <summary>What it stays aligned to until a person moves it; null where it lies by itself.</summary>
    public Hold? Held { get; init; }
    public Origin? Origin { get; init; }

    /// <summary>The part that it was left out with; null where it belongs to the card.</summary>
    public string? LeftOut { get; init; }

    /// <summary>
    /// Outer edges (clockwise on the screen) and holes (counter-clockwise) in mm, in the piece's own coordinates; the first is an outer edge. Derived from
    /// shape and treatments, and remembered by their content.
    /// </summary>
    public VectorPath Outline => Outlines.Drawn(Shape, Treatments)
        ?? Kept.Of(ref _outline, (Shape, Treatments), static k => Outlines.Derive(k.Item1, k.Item2));

    /// <summary>The outline where it lies on the card.</summary>
    public VectorPath OnCard => Place == default ? Outline : Kept.Of(ref _onCard, (Outline, Place), static k => k.Item1.Transform(k.Item2.Map));

    /// <summary>How it lies on a sheet before it is turned there: its own coordinates, mirrored where it is mirrored on the card.</summary>
    public Affine FaceUp => Place.Mirrored ? Affine.Scale(-1, 1) : Affine.Identity;

    [JsonIgnore]
    public ImmutableArray<Line> Lines => AllLines.IsEmpty ? AllLines : Kept.Of(ref _lines, AllLines, static all => all.OfCard());

    [JsonIgnore]
    public ImmutableArray<Artwork> Artwork => AllArtwork.IsEmpty ? AllArtwork : Kept.Of(ref _artwork, AllArtwork, static all => all.OfCard());

    /// <summary>How many of it are made of so many cards; of a piece of another docket, of as many as that one makes.</summary>
    public int NumberFor(int cards) => Number.For(Guest?.Copies ?? cards);

    /// <summary>Whether there is something on it that is printed: a picture, or a line that is.</summary>
    [JsonIgnore]
    public bool IsPrinted => !Artwork.IsEmpty || Lines.Any(l => l.Operation == Operation.Print);

    /// <summary>Whether nothing is on its faces, so that paper that is the same on both may lie either way.</summary>
    [JsonIgnore]
    public bool IsPlain => Lines.IsEmpty && Artwork.IsEmpty;

    /// <summary>What is printed on it, from bottom to top: tiles lie below all else, the rest as it was drawn, and what a person added on top.</summary>
    [JsonIgnore]
    public IEnumerable<(Artwork? Art, Line? Line)> Printed => Artwork.Select(a => (Order: a.IsTiled ? int.MinValue : a.Origin?.Order ?? int.MaxValue,
            Item: ((Artwork?)a, (Line?)null)))
        .Concat(Lines.Where(l => l.Operation == Operation.Print).Select(l => (Order: l.Origin?.Order ?? int.MaxValue, Item: ((Artwork?)null, (Line?)l))))
        .OrderBy(t => t.Order).Select(t => t.Item);

    public string Look => Origin?.Look ?? "";

    public string Why => Origin?.Why ?? "";

    /// <summary>Whether a ring of the outline has its paper inside.</summary>
    public bool IsOuter(int ring) => ring == 0 || Polygons.SignedArea(Outline.Rings[ring]) > 0;

    /// <summary>What is cut of the outer edges, where the piece lies on a sheet.</summary>
    internal IEnumerable<VectorPath> OuterEdgesOn(Affine toSheet) => Enumerable.Range(0, Edges.Length)
        .Where(i => IsOuter(i) && Edges[i].Operation == Operation.Cut).SelectMany(i => Edges[i].Worked(new([Outline.Subpaths[i]])))
        .Select(p => p.Transform(toSheet));

    public int HoleCount => Enumerable.Range(0, Outline.Subpaths.Length).Count(i => !IsOuter(i));

    /// <summary>Its paper, without the holes; exact for curves.</summary>
    public double AreaMm2 => Outline.SignedAreaMm2;

    /// <summary>What happens along its first outer edge.</summary>
    public Operation OuterOperation => Edges[0].Operation;

    /// <summary>What happens along its first hole; where it has none, along its outer edge.</summary>
    public Operation HoleOperation => Enumerable.Range(0, Edges.Length).FirstOrDefault(i => !IsOuter(i)) is > 0 and var hole ? Edges[hole].Operation
        : OuterOperation;

    /// <summary>Which way a line that it carries folds; a valley where nothing was said.</summary>
    public FoldSide SideOf(string lineId) => Folds.FirstOrDefault(f => f.LineId == lineId)?.Side ?? FoldSide.Valley;

    /// <summary>Whether the path, in the piece's coordinates, lies in the paper, but for <paramref name="tolerance"/> mm; what lies in a hole does
    /// not.</summary>
    public bool Carries(VectorPath path, double tolerance = Tolerances.Carried)
    {
        if (!Outline.Bounds.Grown(tolerance).Holds(path.Bounds)) return false;
        for (var i = 0; i < path.Subpaths.Length; i++)
        {
            var points = path.Rings[i];
            for (var j = 0; j < points.Count; j++)
            {
                if (!Near(points[j]) || (j > 0 && !Near((points[j] + points[j - 1]) * 0.5))) return false;
            }
        }

        return true;

        bool Near(Point p) => Outline.Encloses(p) || Outline.DistanceTo(p) <= tolerance;
    }

    public bool Equals(Piece? o) => o is not null
        && (ReferenceEquals(this, o) || (Id == o.Id && Label == o.Label && PlyId == o.PlyId && StockId == o.StockId && Colour == o.Colour && Place == o.Place
        && Shape == o.Shape && Treatments.Same(o.Treatments) && Edges.Same(o.Edges) && AllLines.Same(o.AllLines) && AllArtwork.Same(o.AllArtwork)
        && Folds.Same(o.Folds) && Panels.Same(o.Panels) && Held == o.Held && IsThing == o.IsThing
        && Number == o.Number && Guest == o.Guest
        && Origin == o.Origin && LeftOut == o.LeftOut));

    public override int GetHashCode() => HashCode.Combine(Id, PlyId, Place);
}
