using System.Text.Json.Serialization;
using Falzkunst.Core.Lettering;

namespace Falzkunst.Core.Cards;

/// <summary>What new things on the card have in common.</summary>
internal static class Fresh
{
    /// <summary>The colour of paper of which nothing is known, until a person chooses a stock.</summary>
    public static readonly Colour Paper = new(250, 250, 247);

    private const double FarthestMm = 100_000;

    /// <summary>Puts a piece on a ply of its own, above a number of plies of the card (all, where none is given). Loose lines that lie in it are its
    /// own.</summary>
    public static Design Put(Design design, Piece piece, int? above = null)
    {
        design = design.WithId("y", out var ply).WithId("p", out var id);
        piece = piece with { Id = id, PlyId = ply, Edges = Edges(piece) };
        var at = above is not { } n || n >= design.Plies.Length ? design.AllPlies.Length : design.AllPlies.IndexOf(design.Plies[n]);
        design = design with { AllPlies = design.AllPlies.Insert(at, new(ply, piece.Label, piece.Colour)), AllPieces = design.AllPieces.Add(piece) };
        return piece.IsThing ? design : Carrying.TakeIn(design, [id]);
    }

    /// <summary>Puts pieces on one ply of their own, as <see cref="Put(Design, Piece, int?)"/> puts one. The ply is called as the first, unless it is given a
    /// name.</summary>
    public static Design Put(Design design, IReadOnlyList<Piece> pieces, int above, string? plyLabel = null)
    {
        string? ply = null;
        foreach (var piece in pieces)
        {
            // Each label is free of those before it.
            var named = piece with { Label = Label(design, piece.Label) };
            if (ply is null)
            {
                design = Put(design, named, above);
                ply = design.AllPieces[^1].PlyId;
                continue;
            }

            design = design.WithId("p", out var id);
            design = design with { AllPieces = design.AllPieces.Add(named with { Id = id, PlyId = ply, Edges = Edges(named) }) };
        }

        return plyLabel is null ? design : design with { AllPlies = design.AllPlies.Change(y => y.Id == ply ? y with { Label = plyLabel } : y) };
    }

    /// <summary>All its rings cut, or, where it is no paper, at rest.</summary>
    public static ImmutableArray<Edge> Edges(Piece piece) =>
        [.. piece.Outline.Subpaths.Select(_ => new Edge(piece.IsThing ? Operation.Rest : Operation.Cut))];

    /// <summary>Puts a line on the topmost piece that it lies in; it is loose where there is none. Of an open line as much as runs a little over the edge of a
    /// piece is left out.</summary>
    /// <param name="line">In the card's coordinates.</param>
    /// <param name="wanted">The piece that is asked first.</param>
    public static Design Put(Design design, Line line, string? wanted = null)
    {
        design = design.WithId("l", out var id);
        return Lay(design, line with { Id = id }, wanted, line.Words is null && !line.IsClosed);
    }

    /// <summary>What a line runs over an edge by oversight: so many mm at most, and such a part of it.</summary>
    private const double MostOverMm = 2, MostOver = 0.2;

    /// <summary>As <see cref="Put(Design, Line, string)"/>, for a line that has its id already.</summary>
    /// <param name="mayEndOver">Whether one that runs a little over the edge of a piece ends there, and does not go to what lies below.</param>
    public static Design Lay(Design design, Line line, string? wanted = null, bool mayEndOver = false)
    {
        // Of one ply the last lies on top; the sort keeps that order.
        foreach (var piece in design.Papers.Reverse().OrderByDescending(p => p.Id == wanted).ThenByDescending(p => design.PlyNumber(p.PlyId)))
        {
            var inside = line.Through(piece.Place.Map.Inverse());
            if (piece.Carries(inside.Path)) return On(piece, inside);
            if (mayEndOver && WithoutOver(piece, inside.Path) is { } kept) return On(piece, inside with { Path = kept });
        }

        return design with { AllLoose = design.AllLoose.Add(line) };

        Design On(Piece piece, Line inside) =>
            design.ChangePieces([piece.Id], p => Carrying.WithFolds(p with { AllLines = p.AllLines.Add(inside) }));
    }

    /// <summary>The longest stretch of a path that lies in a piece, where only a little of it does not; null where more than that does not.</summary>
    private static VectorPath? WithoutOver(Piece piece, VectorPath path)
    {
        if (!piece.Outline.Bounds.Touches(path.Bounds)) return null;
        var kept = Regions.Region.Of(piece.Outline, Tolerances.Measure).Within(path).Parts().MaxBy(p => p.Length);
        return kept is not null && path.Length.Mm - kept.Length.Mm <= Math.Min(MostOverMm, MostOver * path.Length.Mm) ? kept : null;
    }

    /// <summary>A name for something new, that nothing has yet.</summary>
    public static string Label(Design design, string label)
    {
        var taken = design.AllPieces.Select(p => p.Label).ToHashSet(StringComparer.Ordinal);
        return taken.Contains(label) ? Copies.FreeLabel(label, taken) : label;
    }

    /// <summary>Why a thing can't lie there, as a sentence; null where it can.</summary>
    public static string? Fault(Place at) => at.IsFinite && Math.Abs(at.Shift.X) <= FarthestMm && Math.Abs(at.Shift.Y) <= FarthestMm ? null
        : "That is farther than 100 m away; nothing was added.";
}

/// <summary>Adds a piece, on top of all others and on a ply of its own.</summary>
public sealed record AddPiece(Shape Shape, Place At, string Label) : Edit
{
    /// <summary>Whether it stands for a real thing that goes there.</summary>
    [JsonIgnore(Condition = JsonIgnoreCondition.WhenWritingDefault)]
    public bool IsThing { get; init; }

    public override string Describe(Design before) => $"Add {(Label.Length > 0 ? $"“{Label}”" : "a piece")}";

    public override string? Refusal(Design before) => Fresh.Fault(At) ?? (Shape.Fault() is { } fault ? $"It can't be made: {fault}."
        : Shape is Lettered { IsSingleLine: true } ? "Letters of single lines are no piece; add them as a line."
        : Outlines.Derive(Shape, []) is var outline && (outline.IsEmpty || !outline.IsClosed || outline.SignedAreaMm2 < 1e-3)
        ? "It encloses nothing; nothing was added." : null);

    public override Design Apply(Design design) => Refusal(design) is not null ? design
        : Fresh.Put(design, new Piece
        {
            Id = "",
            Label = Fresh.Label(design, Label),
            PlyId = "",
            Place = At,
            Shape = Shape,
            Edges = [],
            Colour = Fresh.Paper,
            IsThing = IsThing,
        });
}

/// <summary>Adds a line, which the topmost piece that it lies in carries.</summary>
/// <param name="Path">In the card's coordinates; null where it writes words.</param>
public sealed record AddLine(VectorPath? Path, Written? Words, Operation Operation) : Edit
{
    public Face Face { get; init; }

    /// <summary>The piece that is to carry it where it lies in that; the topmost that it lies in does otherwise.</summary>
    public string? PieceId { get; init; }

    /// <summary>The colour of the pen that draws it; null takes any.</summary>
    [JsonIgnore(Condition = JsonIgnoreCondition.WhenWritingNull)]
    public Colour? Pen { get; init; }

    /// <summary>How wide that pen draws; null for the usual.</summary>
    [JsonIgnore(Condition = JsonIgnoreCondition.WhenWritingNull)]
    public Length? PenWidth { get; init; }

    public override string Describe(Design before) => Words is { } w ? $"Write “{Lettered.Short(w.Words.Text)}”" : $"Add a line to {Operation}";

    public override string? Refusal(Design before) => SetPen.Fault(PenWidth) is { } pen ? pen : Words is { } w
        ? Fresh.Fault(w.Place) ?? (w.Words.Fault() is { } fault ? $"It can't be written: {fault}." : Made.Path.IsEmpty ? "There is nothing to write." : null)
        : Path is null || Path.IsEmpty || Path.Length.Mm < 1e-3 ? "The line has no length; nothing was added."
        : Fresh.Fault(Place.Own.Moved(new(Path.Bounds.Left, Path.Bounds.Bottom)));

    public override Design Apply(Design design) => Refusal(design) is not null ? design : Fresh.Put(design, Made, PieceId);

    private Line Made => (Words is { } words ? new Line { Id = "", Operation = Operation, Words = words }
        : new() { Id = "", Operation = Operation, Path = Path ?? VectorPath.Empty }) with
    { Face = Face, Pen = Pen, PenWidth = PenWidth };
}

/// <summary>Changes the words of a piece or a line: what they say, their face, size and spacing. They keep their place.</summary>
public sealed record SetWords(string Id, Lettered Words) : Edit
{
    public override ImmutableArray<string> About => [Id];

    public override string Describe(Design before) => $"Write “{Lettered.Short(Words.Text)}”";

    public override string? Refusal(Design before)
    {
        if (Words.Fault() is { } fault) return $"It can't be written: {fault}.";
        if (before.Piece(Id) is { Shape: Lettered } piece)
        {
            return Words.IsSingleLine ? "These letters are a piece; a face of single lines would not be one. Choose a face with outlines."
                : Outlines.Derive(Words, piece.Treatments).IsEmpty ? $"Nothing of “{piece.Label}” would be left." : null;
        }

        if (before.Line(Id)?.Line.Words is null) return "The words are gone, or were taken apart.";
        return Words.Path.IsEmpty ? "There is nothing to write." : null;
    }

    public override Design Apply(Design design)
    {
        if (Refusal(design) is not null) return design;
        return design.Piece(Id) is { } piece ? Carrying.Reshape(design, piece, Words, piece.Treatments)
            : design.ChangeLines([Id], (l, _) => l with { Words = new(Words, l.Words!.Place) });
    }
}

/// <summary>Takes words apart: what they write stays as it is, drawn, and can't be written otherwise any more.</summary>
public sealed record TakeApart(string Id) : Edit
{
    public override ImmutableArray<string> About => [Id];

    public override string Describe(Design before) => "Take words apart";

    public override string? Refusal(Design before) => before.Line(Id)?.Line.Words is null && before.Piece(Id)?.Shape is not Lettered
        ? "The words are gone, or were taken apart." : null;

    public override Design Apply(Design design) =>
        design.ChangeLines([Id], (l, _) => l.Words is null ? l : l with { Path = l.Path })
            .ChangePieces([Id], p => p.Shape is Lettered ? p with { Shape = new Drawn(p.Shape.Derive()) } : p);
}

/// <summary>Makes new pieces of others, treated: a backing, a rim, a frame a little smaller each time. The originals stay; what they carry stays with
/// them.</summary>
/// <param name="Treatments">Done to each, after its own.</param>
/// <param name="Times">How many of each, every one on a ply of its own; outsets count once for the first, twice for the second, and so on.</param>
/// <param name="Name">What they are: "backing".</param>
public sealed record LayTreated(ImmutableArray<string> PieceIds, ImmutableArray<Treatment> Treatments, int Times, string Name, bool Below) : Edit
{
    private const int Most = 50;

    public override ImmutableArray<string> About => PieceIds;

    public override string Describe(Design before) =>
        $"{(Times == 1 ? $"A {Name}" : Count(Times, Name))} of {Names(before, PieceIds)}";

    public override string? Refusal(Design before)
    {
        if (Times is < 1 or > Most) return $"It is done 1 to {Most} times.";
        if (Treatments.Select(t => t.Fault()).FirstOrDefault(f => f is not null) is { } fault) return $"It can't be made: {fault}.";
        var pieces = PieceIds.Select(before.Piece).OfType<Piece>().ToList();
        if (pieces.Count == 0) return "The piece is gone.";
        for (var k = 1; k <= Times; k++)
        {
            if (pieces.Find(p => Outlines.Derive(p.Shape, All(p, k)).IsEmpty) is { } none)
                return Times == 1 ? $"Nothing of “{none.Label}” would be left." : $"Nothing of “{none.Label}” would be left the {Ordinal(k)} time.";
        }

        return null;
    }

    public override Design Apply(Design design)
    {
        if (Refusal(design) is not null) return design;
        var pieces = PieceIds.Distinct(StringComparer.Ordinal).Select(design.Piece).OfType<Piece>().ToList();
        var plies = pieces.Select(p => design.PlyNumber(p.PlyId)).ToList();
        for (var k = 1; k <= Times; k++)
        {
            // Below, the second lies under the first; above, on top of it.
            design = Fresh.Put(design, pieces.ConvertAll(piece => piece with
            {
                Label = Times == 1 ? $"{piece.Label} {Name}" : $"{piece.Label} {Name} {k}",
                Treatments = All(piece, k),
                AllLines = [],
                AllArtwork = [],
                Folds = [],
                Panels = [],
                Held = null,
                Origin = null,
            }), Below ? plies.Min() - 1 : plies.Max() + k - 1);
        }

        return design;
    }

    private ImmutableArray<Treatment> All(Piece piece, int k) =>
        piece.Treatments.AddRange(Treatments.Select(t => t is Outset o ? o with { By = o.By * k } : t));

    private static string Ordinal(int k) => k switch { 1 => "first", 2 => "second", 3 => "third", _ => $"{k}th" };
}

/// <summary>Closes open lines whose ends lie near each other: within <see cref="Tolerances.Closes"/> the last point is moved onto the first, otherwise a
/// straight line joins them.</summary>
/// <param name="AsPieces">Whether each becomes a piece in its stead.</param>
public sealed record CloseLines(ImmutableArray<string> LineIds, Length Within, bool AsPieces) : Edit
{
    /// <summary>Ends that lie no farther apart may have been meant to meet, in mm.</summary>
    internal const double SlipMm = 1;

    public override ImmutableArray<string> About => LineIds;

    public override string Describe(Design before) => $"Close {Count(LineIds.Length, "line")}";

    public override string? Refusal(Design before)
    {
        var lines = LineIds.Select(before.Line).OfType<LaidLine>().ToList();
        if (lines.Count == 0) return "The line is gone.";
        if (lines.TrueForAll(l => l.IsClosed) && !AsPieces) return "It is closed already.";
        var widest = lines.SelectMany(l => l.Path.Subpaths).Where(s => !s.Closed).Select(s => s.Start.DistanceTo(s.End)).DefaultIfEmpty(0).Max();
        return widest <= Within.Mm ? null
            : $"The ends are {Length.FromMm(Math.Ceiling(widest * 100) / 100)} apart, farther than {Within}; nothing was closed.";
    }

    public override Design Apply(Design design)
    {
        if (Refusal(design) is not null) return design;
        design = design.ChangeLines(LineIds, (l, _) => l.IsClosed ? l : l with { Path = new([.. l.Path.Subpaths.Select(Closed)]) });
        return AsPieces ? new MakePieces(LineIds).Apply(design) : design;
    }

    private static Subpath Closed(Subpath s)
    {
        if (s.Closed || s.Segments.IsEmpty) return s;
        if (s.Start.DistanceTo(s.End) > Tolerances.Closes) return s with { Closed = true };
        var last = s.Segments[^1];
        return new(s.Start, s.Segments.SetItem(s.Segments.Length - 1, last.IsCurve ? Segment.Cubic(last.C1, last.C2, s.Start) : Segment.Line(s.Start)), true);
    }
}
