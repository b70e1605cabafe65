using Falzkunst.Core.Reading;
using Falzkunst.Core.Tracing;

namespace Falzkunst.Core.Cards;

/// <summary>A level of the layered card; a design lists its plies from bottom to top.</summary>
public sealed record Ply(string Id, string Label, Colour Colour);

/// <summary>A hole that was drawn as an outline of its own, with its look.</summary>
public sealed record HoleFacts(string Look, Ink Ink);

/// <summary>
/// One physical bit of paper. <see cref="Outline"/> has the outer edge first (clockwise on the screen), then the holes (counter-clockwise), in mm.
/// </summary>
public sealed record Piece
{
    public required string Id { get; init; }
    public required string Label { get; init; }
    public required string PlyId { get; init; }
    public required VectorPath Outline { get; init; }

    /// <summary>The colour of its paper on the screen, and what its stock is matched by.</summary>
    public required Colour Colour { get; init; }
    public required string Look { get; init; }
    public required Ink Ink { get; init; }

    /// <summary>Its place in the file's paint order.</summary>
    public required int Order { get; init; }

    /// <summary>Why this became a piece.</summary>
    public required string Why { get; init; }
    public Operation OuterOperation { get; init; } = Operation.Cut;
    public Operation HoleOperation { get; init; } = Operation.Cut;

    /// <summary>Where holes were drawn as outlines of their own, one entry for each subpath after the first; otherwise empty.</summary>
    public ImmutableArray<HoleFacts> Holes { get; init; } = [];

    /// <summary>The stock chosen by a person; null takes the nearest in colour.</summary>
    public string? StockId { get; init; }

    public int HoleCount => Outline.Subpaths.Length - 1;

    /// <summary>Its paper, without the holes; exact for curves.</summary>
    public double AreaMm2 => Outline.SignedAreaMm2;

    /// <summary>Whether the path lies in the paper, but for <paramref name="tolerance"/> mm; what lies in a hole does not.</summary>
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
}

/// <summary>A path with an operation.</summary>
public sealed record Line
{
    public required string Id { get; init; }
    public required VectorPath Path { get; init; }
    public required Operation Operation { get; init; }
    public required string Look { get; init; }
    public required Ink Ink { get; init; }
    public required int Order { get; init; }

    /// <summary>Why it has its operation.</summary>
    public required string Why { get; init; }
    public string Label { get; init; } = "";
    public Face Face { get; init; } = Face.Outer;

    /// <summary>Which way it folds; says nothing where the line is no fold.</summary>
    public FoldSide FoldSide { get; init; } = FoldSide.Valley;

    /// <summary>The piece it lies in and travels with; null when it is loose.</summary>
    public string? CarriedBy { get; init; }

    public bool IsClosed => Path.IsClosed;
}

/// <summary>Pieces, with what they carried and the plies they lay on, and lines, that were left out at one time.</summary>
public sealed record LeftOutPart(string Id, string Label, ImmutableArray<Ply> Plies, ImmutableArray<Piece> Pieces, ImmutableArray<Line> Lines, ImmutableArray<Artwork> Artwork);

/// <summary>How a picture became this design: the settings, why these, the threshold that was found, and how many nodes it took.</summary>
public sealed record TracingFacts(TraceSettings Settings, string Why, double Threshold, int Nodes);

/// <summary>A picture that is printed on a piece. <see cref="Place"/> maps the unit square to mm.</summary>
public sealed record Artwork(string Id, string MediaType, ImmutableArray<byte> Bytes, Affine Place, double Opacity, int Order, string? CarriedBy)
{
    public Box Bounds => VectorPath.Rectangle(0, 0, 1, 1).Transform(Place).Bounds;
}

/// <summary>
/// A layered card as the application understands it. Immutable: <see cref="Edit.Apply"/> gives the next one, and shares what did not change.
/// All lengths in mm, from the upper left corner of the page.
/// </summary>
public sealed record Design
{
    /// <summary>The version of the document format; raised when an older program could misread it.</summary>
    public const int CurrentSchema = 1;

    public int Schema { get; init; } = CurrentSchema;
    public required double WidthMm { get; init; }
    public required double HeightMm { get; init; }
    public required ScaleFacts Scale { get; init; }

    /// <summary>From bottom to top.</summary>
    public ImmutableArray<Ply> Plies { get; init; } = [];
    public ImmutableArray<Piece> Pieces { get; init; } = [];
    public ImmutableArray<Line> Lines { get; init; } = [];
    public ImmutableArray<Artwork> Artwork { get; init; } = [];
    public ImmutableArray<Look> Looks { get; init; } = [];

    /// <summary>What was left out or changed when the file was read.</summary>
    public ImmutableArray<ReadingNote> Notes { get; init; } = [];

    /// <summary>What is not needed for this card, but can be put back.</summary>
    public ImmutableArray<LeftOutPart> LeftOut { get; init; } = [];

    /// <summary>The comment that the program which wrote the file left in it; empty where there is none.</summary>
    public string Producer { get; init; } = "";

    /// <summary>The rules of its source that were applied; null where none were.</summary>
    public AppliedRules? Rules { get; init; }

    /// <summary>How its picture was traced; null where it came from a drawing.</summary>
    public TracingFacts? Tracing { get; init; }

    public Piece? Piece(string id) => Pieces.FirstOrDefault(p => p.Id == id);

    public Line? Line(string id) => Lines.FirstOrDefault(l => l.Id == id);

    /// <summary>What a look does: what the edge of its first piece does, or its first line, or the first hole drawn in it; null where nothing has it.</summary>
    public Operation? OperationOf(string lookKey) =>
        Pieces.FirstOrDefault(p => p.Look == lookKey)?.OuterOperation ?? Lines.FirstOrDefault(l => l.Look == lookKey)?.Operation
        ?? Pieces.FirstOrDefault(p => p.Holes.Any(h => h.Look == lookKey))?.HoleOperation;

    public Look? LookOf(string key) => Looks.FirstOrDefault(l => l.Key == key);

    /// <summary>The number of the ply from the bottom, from 1.</summary>
    public int PlyNumber(string plyId)
    {
        for (var i = 0; i < Plies.Length; i++)
            if (Plies[i].Id == plyId) return i + 1;
        return 0;
    }

    /// <summary>An id that none of these has: "p7".</summary>
    internal static string NextId(string letter, IEnumerable<string> taken)
    {
        var all = taken.ToHashSet(StringComparer.Ordinal);
        var n = all.Count + 1;
        while (all.Contains(letter + n)) n++;
        return letter + n;
    }

    public IEnumerable<Line> CarriedBy(string pieceId) => Lines.Where(l => l.CarriedBy == pieceId);

    /// <summary>The box around all pieces and lines; the page where there are none.</summary>
    public Box Extent
    {
        get
        {
            var box = Box.Empty;
            foreach (var p in Pieces) box = box.With(p.Outline.Bounds);
            foreach (var l in Lines) box = box.With(l.Path.Bounds);
            foreach (var a in Artwork) box = box.With(a.Bounds);
            return box.IsEmpty ? new(0, 0, WidthMm, HeightMm) : box;
        }
    }
}
