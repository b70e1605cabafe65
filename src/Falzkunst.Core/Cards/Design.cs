using System.Text.Json.Serialization;
using Falzkunst.Core.Strength;

namespace Falzkunst.Core.Cards;

/// <summary>A level of the layered card; a design lists its plies from bottom to top.</summary>
public sealed record Ply(string Id, string Label, Colour Colour)
{
    /// <summary>The foam, or the pads, that it stands on above the ply below; zero where it is glued flat.</summary>
    [JsonIgnore(Condition = JsonIgnoreCondition.WhenWritingDefault)]
    public Length Foam { get; init; }
}

/// <summary>A file or picture that something of the design came from.</summary>
/// <param name="Name">Of the file; empty where it is not known.</param>
public sealed record Source(string Id, string Name)
{
    /// <summary>The SHA-256 of the file's bytes, as 64 hexadecimal digits; null where the file was not kept.</summary>
    public string? Content { get; init; }

    /// <summary>The comment that the program which wrote the file left in it; empty where there is none.</summary>
    public string Producer { get; init; } = "";

    /// <summary>How it was traced; null where it is a drawing.</summary>
    public TracingFacts? Tracing { get; init; }

    /// <summary>How large it says it is, where it came beside others; null where the card's own scale is of it.</summary>
    [JsonIgnore(Condition = JsonIgnoreCondition.WhenWritingNull)]
    public ScaleFacts? Scale { get; init; }
}

/// <summary>How a picture became paths: the settings, why these, the threshold that was found, and how many nodes it took.</summary>
public sealed record TracingFacts(TraceSettings Settings, string Why, double Threshold, int Nodes);

/// <summary>What can be left out of the card, and stays in its place.</summary>
public interface ICanBeLeftOut
{
    /// <summary>The part that it was left out with; null where it belongs to the card.</summary>
    string? LeftOut { get; }
}

/// <summary>What was left out at one time; it stays where it was, and is no part of the card until it is put back.</summary>
public sealed record LeftOutPart(string Id, string Label);

/// <summary>A line where it lies on the card.</summary>
/// <param name="By">The piece that carries it; null where it is loose.</param>
public sealed class LaidLine(Line line, Piece? by)
{
    private VectorPath? _path;

    public Line Line => line;

    public Piece? By => by;

    public string Id => line.Id;

    public string? CarriedBy => by?.Id;

    /// <summary>In the card's coordinates.</summary>
    public VectorPath Path => _path ??= by is null ? line.Path : line.Path.Transform(by.Place.Map);

    public Operation Operation => line.Operation;

    public string Label => line.Label;

    public bool IsClosed => line.IsClosed;

    public string Look => line.Origin?.Look ?? "";

    public Ink Ink => line.Origin?.Ink ?? Ink.None;

    public string Why => line.Origin?.Why ?? "";

    public FoldSide FoldSide => by?.SideOf(line.Id) ?? FoldSide.Valley;
}

/// <summary>A picture where it lies on the card.</summary>
/// <param name="By">The piece that carries it; null where it is loose.</param>
public sealed class LaidArtwork(Artwork artwork, Piece? by)
{
    public Artwork Artwork => artwork;

    public Piece? By => by;

    public string Id => artwork.Id;

    public string? CarriedBy => by?.Id;

    /// <summary>Maps the unit square to the card.</summary>
    public Affine Map => by is null ? artwork.Map : artwork.Map.Then(by.Place.Map);

    public Box Bounds => VectorPath.Rectangle(0, 0, 1, 1).Transform(Map).Bounds;

    /// <summary>How many of its pixels lie on an inch, where there are fewest; null where the picture can't be read.</summary>
    public double? PxPerInch => artwork.Picture is { } picture && Falzkunst.Core.Pictures.PictureFacts.Read(picture.Bytes.AsSpan()) is { } facts
        ? Math.Min(facts.WidthPx / artwork.TileWidth.Mm, facts.HeightPx / artwork.TileHeight.Mm) * Length.MmPerInch : null;
}

/// <summary>
/// A layered card as the application understands it. Immutable: <see cref="Edit.Apply"/> gives the next one, and shares what did not change.
/// All lengths in mm, from the upper left corner of the page. What is stored are the properties named All…; the others are the card without what is left out.
/// </summary>
public sealed record Design
{
    /// <summary>The version of the document format; raised when an older program could misread it.</summary>
    public const int CurrentSchema = 2;

    private Kept<ImmutableArray<Piece>, ImmutableArray<Piece>>? _pieces;
    private Kept<ImmutableArray<Line>, ImmutableArray<Line>>? _loose;
    private Kept<ImmutableArray<Artwork>, ImmutableArray<Artwork>>? _looseArtwork;
    private Kept<(ImmutableArray<Ply>, ImmutableArray<Piece>), ImmutableArray<Ply>>? _plies;
    private Kept<(ImmutableArray<Piece>, ImmutableArray<Line>), ImmutableArray<LaidLine>>? _lines;
    private Kept<ImmutableArray<Piece>, Dictionary<string, Piece>>? _byId;
    private Kept<ImmutableArray<Look>, Dictionary<string, Look>>? _byKey;
    private Kept<(ImmutableArray<Piece>, ImmutableArray<Line>), Dictionary<string, Operation>>? _operations;

    /// <summary>A card with nothing on it yet, on a page of a size.</summary>
    public static Design Blank(Length width, Length height) =>
        new() { Width = width, Height = height, Scale = new(96, true, "drawn here, at its true size") };

    /// <summary>The design on a page that reaches to a place at least.</summary>
    internal Design WithPageOver(double right, double bottom) => right <= Width.Mm && bottom <= Height.Mm ? this
        : this with { Width = Length.FromMm(Math.Max(Width.Mm, right)), Height = Length.FromMm(Math.Max(Height.Mm, bottom)) };

    /// <summary>Whether a piece, a ring of one, a line, a picture or a ply of that id is part of the card.</summary>
    public bool Holds(string id) => Piece(id.Split('/', '#')[0]) is not null || Line(id) is not null || Plies.Any(y => y.Id == id)
        || Artwork.Any(a => a.Id == id);

    /// <summary>How large a source says it is.</summary>
    public ScaleFacts ScaleOf(Source source) => source.Scale ?? Scale;

    public int Schema { get; init; } = CurrentSchema;

    /// <summary>The number in the newest id. It never goes back, so that an id means one thing for ever.</summary>
    public int LastId { get; init; }
    public required Length Width { get; init; }
    public required Length Height { get; init; }
    public required ScaleFacts Scale { get; init; }

    /// <summary>From bottom to top, also those of which everything is left out.</summary>
    [JsonPropertyName("plies")]
    public ImmutableArray<Ply> AllPlies { get; init; } = [];

    /// <summary>On one ply the first lies lowest.</summary>
    [JsonPropertyName("pieces")]
    public ImmutableArray<Piece> AllPieces { get; init; } = [];

    /// <summary>Lines in no piece.</summary>
    [JsonPropertyName("loose")]
    public ImmutableArray<Line> AllLoose { get; init; } = [];

    /// <summary>Pictures on no piece.</summary>
    [JsonPropertyName("looseArtwork")]
    public ImmutableArray<Artwork> AllLooseArtwork { get; init; } = [];
    public ImmutableArray<Look> Looks { get; init; } = [];
    public ImmutableArray<Source> Sources { get; init; } = [];

    /// <summary>What was left out or changed when the file was read.</summary>
    public ImmutableArray<ReadingNote> Notes { get; init; } = [];

    /// <summary>What this card asks of all its papers, whatever they bear; null leaves it to each stock.</summary>
    [JsonIgnore(Condition = JsonIgnoreCondition.WhenWritingNull)]
    public Limits? Asked { get; init; }

    /// <summary>How it is printed before it is cut; null where it is only cut.</summary>
    [JsonIgnore(Condition = JsonIgnoreCondition.WhenWritingNull)]
    public PrintSettings? Print { get; init; }

    /// <summary>What it asks of how it is laid out; null where that is the usual.</summary>
    [JsonIgnore(Condition = JsonIgnoreCondition.WhenWritingNull)]
    [JsonPropertyName("laying")]
    public LayingRules? AskedLaying { get; init; }

    [JsonIgnore]
    public LayingRules Laying => AskedLaying ?? LayingRules.Usual;

    /// <summary>The rules of its source that were applied; null where none were.</summary>
    public AppliedRules? Rules { get; init; }

    [JsonIgnore]
    public ImmutableArray<Piece> Pieces => Kept.Of(ref _pieces, AllPieces, static all => all.OfCard());

    /// <summary>The pieces that are paper: all but those that stand for things.</summary>
    [JsonIgnore]
    public ImmutableArray<Piece> Papers => Pieces.All(p => !p.IsThing) ? Pieces : Pieces.RemoveAll(p => p.IsThing);

    [JsonIgnore]
    public ImmutableArray<Ply> Plies => Kept.Of(ref _plies, (AllPlies, AllPieces), static k =>
    {
        var used = k.Item2.Where(p => p.LeftOut is null).Select(p => p.PlyId).ToHashSet(StringComparer.Ordinal);
        return k.Item1.All(y => used.Contains(y.Id)) ? k.Item1 : k.Item1.RemoveAll(y => !used.Contains(y.Id));
    });

    [JsonIgnore]
    public ImmutableArray<Line> Loose => Kept.Of(ref _loose, AllLoose, static all => all.OfCard());

    [JsonIgnore]
    public ImmutableArray<Artwork> LooseArtwork => Kept.Of(ref _looseArtwork, AllLooseArtwork, static all => all.OfCard());

    /// <summary>All lines of the card where they lie, by the age of their ids.</summary>
    [JsonIgnore]
    public ImmutableArray<LaidLine> Lines => Kept.Of(ref _lines, (Pieces, Loose), static k =>
        [.. k.Item1.SelectMany(p => p.Lines.Select(l => new LaidLine(l, p))).Concat(k.Item2.Select(l => new LaidLine(l, null))).OrderBy(l => l.Id.Length)
            .ThenBy(l => l.Id, StringComparer.Ordinal)]);

    /// <summary>All pictures of the card where they lie.</summary>
    [JsonIgnore]
    public ImmutableArray<LaidArtwork> Artwork =>
        [.. Pieces.SelectMany(p => p.Artwork.Select(a => new LaidArtwork(a, p))), .. LooseArtwork.Select(a => new LaidArtwork(a, null))];

    /// <summary>What is left out, by the part that it was left out with, the oldest first.</summary>
    [JsonIgnore]
    public ImmutableArray<LeftOutPart> LeftOut => LeaveOut.PartsOf(this);

    /// <summary>The comment of the program that wrote its first file; empty where there is none.</summary>
    public string Producer => Sources.IsEmpty ? "" : Sources[0].Producer;

    public Piece? Piece(string id) => Kept.Of(ref _byId, Pieces, static all => all.ToDictionary(p => p.Id, StringComparer.Ordinal)).GetValueOrDefault(id);

    public LaidLine? Line(string id) => Lines.FirstOrDefault(l => l.Id == id);

    public Ply? Ply(string id) => Plies.FirstOrDefault(p => p.Id == id);

    /// <summary>What a look does: what the edge of its first piece does, or its first line, or the first hole drawn in it; null where nothing has it.</summary>
    public Operation? OperationOf(string lookKey) => Kept.Of(ref _operations, (Pieces, Loose), k =>
    {
        var all = new Dictionary<string, Operation>(StringComparer.Ordinal);
        foreach (var p in k.Item1) all.TryAdd(p.Look, p.OuterOperation);
        foreach (var l in Lines) all.TryAdd(l.Look, l.Operation);
        foreach (var e in k.Item1.SelectMany(p => p.Edges))
            if (e.Origin is { } drawn) all.TryAdd(drawn.Look, e.Operation);
        return all;
    }).TryGetValue(lookKey, out var does) ? does : null;

    public Look? LookOf(string key) => Kept.Of(ref _byKey, Looks, static all => all.ToDictionary(l => l.Key, StringComparer.Ordinal)).GetValueOrDefault(key);

    /// <summary>The number of the ply from the bottom, from 1; 0 where it is not there.</summary>
    public int PlyNumber(string plyId)
    {
        for (var i = 0; i < Plies.Length; i++)
            if (Plies[i].Id == plyId) return i + 1;
        return 0;
    }

    /// <summary>The box around all pieces, lines and pictures; the page where there are none.</summary>
    public Box Extent
    {
        get
        {
            var box = Box.Empty;
            foreach (var p in Pieces) box = box.With(p.OnCard.Bounds);
            foreach (var l in Lines) box = box.With(l.Path.Bounds);
            foreach (var a in Artwork) box = box.With(a.Bounds);
            return box.IsEmpty ? new(0, 0, Width.Mm, Height.Mm) : box;
        }
    }

    /// <summary>The first thing that does not hold together, as a part of a sentence; null where all is well. See <see cref="DesignCheck"/>.</summary>
    public string? Check() => DesignCheck.Fault(this);

    /// <summary>Some of its pieces and lines alone, where they lie; what a piece carries goes with it. Everything where none is named.</summary>
    public Design Only(IReadOnlyCollection<string> ids)
    {
        var pieces = Pieces.RemoveAll(p => ids.Count > 0 && !ids.Contains(p.Id));
        ImmutableArray<Line> loose = ids.Count == 0 ? Loose
            : [.. Lines.Where(l => ids.Contains(l.Id) && (l.CarriedBy is null || !ids.Contains(l.CarriedBy)))
                .Select(l => l.By is { } by ? l.Line.Through(by.Place.Map) : l.Line)];
        return this with
        {
            AllPieces = pieces.Change(p => p with { AllLines = p.Lines, AllArtwork = p.Artwork }),
            AllPlies = Remove.InUse(AllPlies, pieces),
            AllLoose = loose,
            AllLooseArtwork = ids.Count == 0 ? LooseArtwork : [],
            Notes = [],
            Rules = null,
        };
    }

    /// <summary>The design with a new id: "p57".</summary>
    internal Design WithId(string letter, out string id)
    {
        id = string.Create(CultureInfo.InvariantCulture, $"{letter}{LastId + 1}");
        return this with { LastId = LastId + 1 };
    }

    /// <summary>Changes the named pieces of the card; all others stay the very same.</summary>
    internal Design ChangePieces(IEnumerable<string> ids, Func<Piece, Piece> change)
    {
        var named = ids.ToHashSet(StringComparer.Ordinal);
        return this with { AllPieces = AllPieces.Change(p => p.LeftOut is null && named.Contains(p.Id) ? change(p) : p) };
    }

    /// <summary>Changes the named lines of the card, carried and loose; pieces without such a line stay the very same.</summary>
    internal Design ChangeLines(IEnumerable<string> ids, Func<Line, Piece?, Line> change)
    {
        var named = ids.ToHashSet(StringComparer.Ordinal);
        return this with
        {
            AllPieces = AllPieces.Change(p => p.LeftOut is null && p.AllLines.Any(l => named.Contains(l.Id))
                ? p with { AllLines = p.AllLines.Change(l => Changed(l, p)) } : p),
            AllLoose = AllLoose.Change(l => Changed(l, null)),
        };

        Line Changed(Line l, Piece? by) => l.LeftOut is null && named.Contains(l.Id) ? change(l, by) : l;
    }

    public bool Equals(Design? o) => o is not null
        && (ReferenceEquals(this, o) || (Schema == o.Schema && LastId == o.LastId && Width == o.Width && Height == o.Height && Scale == o.Scale
        && AllPlies.Same(o.AllPlies) && AllPieces.Same(o.AllPieces) && AllLoose.Same(o.AllLoose) && AllLooseArtwork.Same(o.AllLooseArtwork)
        && Looks.Same(o.Looks) && Sources.Same(o.Sources)
        && Notes.Same(o.Notes) && Rules == o.Rules && Asked == o.Asked && Print == o.Print && AskedLaying == o.AskedLaying));

    public override int GetHashCode() => HashCode.Combine(LastId, Width, Height, AllPieces.Length);
}

internal static class ImmutableArrays
{
    /// <summary>The list without what is left out; the very same list where nothing is.</summary>
    public static ImmutableArray<T> OfCard<T>(this ImmutableArray<T> all)
        where T : ICanBeLeftOut => all.All(t => t.LeftOut is null) ? all : all.RemoveAll(t => t.LeftOut is not null);

    /// <summary>The list with each item changed; the very same list where none was.</summary>
    public static ImmutableArray<T> Change<T>(this ImmutableArray<T> all, Func<T, T> change)
        where T : class => all.Change((item, _) => change(item));

    /// <inheritdoc cref="Change{T}(ImmutableArray{T}, Func{T, T})"/>
    /// <param name="change">Gets the index too.</param>
    public static ImmutableArray<T> Change<T>(this ImmutableArray<T> all, Func<T, int, T> change)
        where T : class
    {
        ImmutableArray<T>.Builder? changed = null;
        for (var i = 0; i < all.Length; i++)
        {
            var next = change(all[i], i);
            if (ReferenceEquals(next, all[i])) continue;
            changed ??= all.ToBuilder();
            changed[i] = next;
        }

        return changed?.MoveToImmutable() ?? all;
    }
}
