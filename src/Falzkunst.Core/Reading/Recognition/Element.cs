using System.Runtime.CompilerServices;
using Falzkunst.Core.Cards;
using Falzkunst.Core.Pictures;

namespace Falzkunst.Core.Reading.Recognition;

/// <summary>How an outline or a line was drawn.</summary>
internal enum ElementKind
{
    /// <summary>A connected part of what is filled.</summary>
    Filled,

    /// <summary>A closed line without fill.</summary>
    Ring,

    /// <summary>An open line.</summary>
    Stroke,
}

/// <summary>One outline or one line of the file: how it was drawn, what lies around it, and in the end what it is for.</summary>
/// <param name="Look">Of lines like it, whether open or closed; what is filled is told apart by its item.</param>
internal sealed record Element(DrawnPath Item, VectorPath Path, int Order, ElementKind Kind, string Look, (Operation Operation, string Word)? Said)
{
    private double? _area;
    private bool? _straight;

    /// <summary>How it came about, where it was not drawn as it is: "7 little strokes on one straight line, joined".</summary>
    public string MadeOf { get; init; } = "";

    public bool IsRow { get; init; }

    /// <summary>How far apart the ends of a ring were.</summary>
    public double GapMm { get; init; }

    /// <summary>The rectangle that a line was drawn as, and its width.</summary>
    public (VectorPath Outline, Length Width)? Thin { get; init; }

    /// <summary>Whether it is a stroke among others of something written.</summary>
    public bool IsWritten { get; set; }

    /// <summary>Whether it closes among many open strokes, as the o of a word does.</summary>
    public bool IsLoop { get; set; }

    /// <summary>The smallest outline that it lies in, of paper or of a hole; null where there is none.</summary>
    public Element? Around { get; set; }

    /// <summary>The outline that is the same line.</summary>
    public Element? SameAs { get; set; }

    /// <summary>Whether a part of its edge is the edge of the outline around it.</summary>
    public bool SharesEdge { get; set; }

    public Verdict Verdict { get; set; }

    public Meaning Meaning => Verdict.Meaning;

    public bool IsDashed => Item.Ink.Stroke is { Dashes.IsEmpty: false };

    public bool IsClosed => Kind != ElementKind.Stroke;

    /// <summary>Of what its outer edge encloses, in mm².</summary>
    public double Area => _area ??= IsClosed ? Math.Abs(Path.Subpaths[0].SignedAreaMm2) : 0;

    public bool IsStraight => _straight ??= Folds.IsStraight(Path, out _, out _);

    /// <summary>Two that were drawn alike are still two.</summary>
    public bool Equals(Element? other) => ReferenceEquals(this, other);

    public override int GetHashCode() => RuntimeHelpers.GetHashCode(this);
}
