using Falzkunst.Core.Reading;

namespace Falzkunst.Core.Cards;

/// <summary>
/// A change to a design, as a record. <see cref="Apply"/> is pure: the design before stays as it is, which is what undo returns to.
/// An edit that names something that is gone changes nothing there.
/// </summary>
public abstract record Edit
{
    /// <summary>What it did, for the history: "Score 3 lines".</summary>
    public abstract string Describe(Design before);

    public abstract Design Apply(Design design);

    private protected static string Count(int n, string one) => n == 1 ? $"1 {one}" : $"{n} {one}s";
}

/// <summary>Gives lines an operation, one by one.</summary>
public sealed record SetLineOperation(ImmutableArray<string> LineIds, Operation Operation) : Edit
{
    public override string Describe(Design before) => $"{Operation} {Count(LineIds.Length, "line")}";

    public override Design Apply(Design design) => design with
    {
        Lines = [.. design.Lines.Select(l => LineIds.Contains(l.Id) ? l with { Operation = Operation, Why = "chosen by you" } : l)],
    };
}

/// <summary>
/// Gives everything of one look an operation: lines, outer edges, and holes that were drawn as outlines. A hole that is no longer cut becomes a line
/// on its piece; its paper stays.
/// </summary>
public sealed record SetLookOperation(string LookKey, Operation Operation) : Edit
{
    /// <summary>Why, as it will stand beside each line.</summary>
    public string Reason { get; init; } = "chosen by you for this look";

    public override string Describe(Design before) => $"{Operation}: {before.LookOf(LookKey)?.Describe() ?? "a look"}";

    public override Design Apply(Design design)
    {
        var pieces = ImmutableArray.CreateBuilder<Piece>(design.Pieces.Length);
        var lines = design.Lines.Select(l => l.Look == LookKey ? l with { Operation = Operation, Why = Reason } : l).ToList();
        foreach (var piece in design.Pieces)
        {
            var p = piece.Look == LookKey ? piece with { OuterOperation = Operation } : piece;
            if (p.Holes.IsEmpty)
            {
                if (piece.Look == LookKey) p = p with { HoleOperation = Operation };
            }
            else if (Operation != Operation.Cut && p.Holes.Any(h => h.Look == LookKey))
            {
                var keptPaths = ImmutableArray.CreateBuilder<Subpath>();
                var kept = ImmutableArray.CreateBuilder<HoleFacts>();
                keptPaths.Add(p.Outline.Subpaths[0]);
                for (var i = 0; i < p.Holes.Length; i++)
                {
                    var hole = p.Outline.Subpaths[i + 1];
                    if (p.Holes[i].Look != LookKey)
                    {
                        keptPaths.Add(hole);
                        kept.Add(p.Holes[i]);
                        continue;
                    }

                    lines.Add(new()
                    {
                        Id = $"{p.Id}-h{i + 1}",
                        Path = new([hole]),
                        Operation = Operation,
                        Look = LookKey,
                        Ink = p.Holes[i].Ink,
                        Order = p.Order,
                        Why = Reason,
                        CarriedBy = p.Id,
                    });
                }

                p = p with { Outline = new(keptPaths.ToImmutable()), Holes = kept.ToImmutable() };
            }

            pieces.Add(p);
        }

        return design with { Pieces = pieces.ToImmutable(), Lines = [.. lines] };
    }
}

/// <summary>Gives the outer edge, the holes, or both of some pieces an operation.</summary>
public sealed record SetOutlineOperation(ImmutableArray<string> PieceIds, Operation Operation, bool Outer, bool Holes) : Edit
{
    public override string Describe(Design before) => $"{Operation} {(Outer && Holes ? "outlines" : Outer ? "outer edges" : "holes")} of {Count(PieceIds.Length, "piece")}";

    public override Design Apply(Design design) => design with
    {
        Pieces = [.. design.Pieces.Select(p => PieceIds.Contains(p.Id)
            ? p with { OuterOperation = Outer ? Operation : p.OuterOperation, HoleOperation = Holes ? Operation : p.HoleOperation }
            : p)],
    };
}

/// <summary>Puts a plain piece under all loose lines, larger than they are by a margin on each side.</summary>
public sealed record LayOnPaper(Length Margin) : Edit
{
    public override string Describe(Design before) => "Lay the lines on paper";

    public override Design Apply(Design design)
    {
        var box = Box.Empty;
        foreach (var l in design.Lines.Where(l => l.CarriedBy is null)) box = box.With(l.Path.Bounds);
        if (box.IsEmpty) return design;
        box = box.Grown(Margin.Mm);
        var paper = new Colour(250, 250, 247);
        var look = new Look("paper", paper, null, 0, false, "", true);
        var ply = new Ply(Design.NextId("y", design.Plies.Select(p => p.Id)), "Paper", paper);
        var piece = new Piece
        {
            Id = Design.NextId("p", design.Pieces.Select(p => p.Id)),
            Label = "Paper",
            PlyId = ply.Id,
            Outline = VectorPath.Rectangle(box.Left, box.Top, box.Width, box.Height),
            Colour = paper,
            Look = look.Key,
            Ink = new(paper, FillRule.EvenOdd, null),
            Order = -1,
            Why = "laid under the lines by you",
        };
        return design with
        {
            Plies = design.Plies.Insert(0, ply),
            Pieces = design.Pieces.Insert(0, piece),
            Looks = design.Looks.Any(l => l.Key == look.Key) ? design.Looks : design.Looks.Add(look),
            Lines = [.. design.Lines.Select(l => l.CarriedBy is null ? l with { CarriedBy = piece.Id } : l)],
        };
    }
}

/// <summary>Says which way folds go.</summary>
public sealed record SetFoldSide(ImmutableArray<string> LineIds, FoldSide Side) : Edit
{
    public override string Describe(Design before) => $"{Side} fold";

    public override Design Apply(Design design) => design with
    {
        Lines = [.. design.Lines.Select(l => LineIds.Contains(l.Id) ? l with { FoldSide = Side } : l)],
    };
}

/// <summary>Makes folds shorter so that they stop short of the edge of their piece.</summary>
public sealed record SetFoldsBack(ImmutableArray<string> LineIds, Length Setback) : Edit
{
    public override string Describe(Design before) => $"Shorten {Count(LineIds.Length, "fold")}";

    public override Design Apply(Design design) => design with
    {
        Lines = [.. design.Lines.Select(l => LineIds.Contains(l.Id) && l.CarriedBy is { } id && design.Piece(id) is { } piece
            ? l with { Path = Folds.SetBack(l.Path, piece, Setback.Mm) }
            : l)],
    };
}

/// <summary>Removes lines and pieces. What a removed piece carried goes with it.</summary>
public sealed record Remove(ImmutableArray<string> Ids) : Edit
{
    public override string Describe(Design before) => $"Remove {Count(Ids.Length, "item")}";

    public override Design Apply(Design design)
    {
        var pieces = design.Pieces.RemoveAll(p => Ids.Contains(p.Id));
        var plies = design.Plies.RemoveAll(ply => pieces.All(p => p.PlyId != ply.Id));
        return design with
        {
            Pieces = pieces,
            Plies = plies,
            Lines = design.Lines.RemoveAll(l => Ids.Contains(l.Id) || (l.CarriedBy is { } by && Ids.Contains(by))),
            Artwork = design.Artwork.RemoveAll(a => Ids.Contains(a.Id) || (a.CarriedBy is { } by && Ids.Contains(by))),
        };
    }
}

/// <summary>
/// Makes pieces of lines: a closed or almost closed one becomes its outline, one that is drawn thick becomes what its stroke covers. Loose lines inside are carried by the new piece.
/// </summary>
public sealed record MakePieces(ImmutableArray<string> LineIds) : Edit
{
    /// <summary>From here on a line's thickness is likely to be meant.</summary>
    internal const double ThickMm = 1.2;

    public override string Describe(Design before) => $"Make {Count(LineIds.Length, "piece")} of lines";

    public override Design Apply(Design design)
    {
        var pieces = design.Pieces.ToBuilder();
        var plies = design.Plies;
        var lines = design.Lines.Where(l => !LineIds.Contains(l.Id)).ToList();
        foreach (var line in design.Lines.Where(l => LineIds.Contains(l.Id)))
        {
            var thick = line.Ink.Stroke is { WidthMm: >= ThickMm } s ? s.WidthMm : 0;
            var outlines = thick > 0 ? Regions.Region.Along(line.Path, thick).ToPaths() : [Closed(line.Path)];
            foreach (var outline in outlines)
            {
                var colour = (thick > 0 ? line.Ink.Stroke!.Colour : new Colour(250, 250, 247)) with { Alpha = 1 };
                var ply = plies.FirstOrDefault(y => y.Colour == colour);
                if (ply is null) plies = plies.Add(ply = new(Design.NextId("y", plies.Select(y => y.Id)), ColourNames.Of(colour) is { } name ? char.ToUpperInvariant(name[0]) + name[1..] : "Piece", colour));
                var id = Design.NextId("p", pieces.Select(p => p.Id));
                pieces.Add(new()
                {
                    Id = id,
                    Label = line.Label.Length > 0 ? line.Label : "Piece " + id[1..],
                    PlyId = ply.Id,
                    Outline = outline,
                    Colour = colour,
                    Look = line.Look,
                    Ink = line.Ink,
                    Order = line.Order,
                    Why = thick > 0 ? "what a thick line covers, chosen by you" : "an outline that was closed by you",
                });
            }
        }

        var fresh = pieces.Skip(design.Pieces.Length).ToList();
        return design with
        {
            Plies = plies,
            Pieces = pieces.ToImmutable(),
            Lines = [.. lines.Select(l => l.CarriedBy is null && fresh.Find(p => p.Carries(l.Path)) is { } by ? l with { CarriedBy = by.Id } : l)],
        };

        static VectorPath Closed(VectorPath path)
        {
            var sub = path.Subpaths[0] with { Closed = true };
            return new([Polygons.SignedArea(new VectorPath([sub]).Rings[0]) > 0 ? sub : sub.Reverse()]);
        }
    }
}

/// <summary>Takes pieces (with what they carry), lines and pictures out of the card; they are kept, and can be put back where they were.</summary>
public sealed record LeaveOut(ImmutableArray<string> Ids) : Edit
{
    public override string Describe(Design before) => $"Leave out {Count(Ids.Length, "item")}";

    public override Design Apply(Design design)
    {
        var gone = Ids.ToHashSet(StringComparer.Ordinal);
        var after = new Remove(Ids).Apply(design);
        var pieces = design.Pieces.Where(p => gone.Contains(p.Id)).ToImmutableArray();
        var lines = design.Lines.Where(l => gone.Contains(l.Id) || (l.CarriedBy is { } by && gone.Contains(by))).ToImmutableArray();
        var artwork = design.Artwork.Where(a => gone.Contains(a.Id) || (a.CarriedBy is { } by && gone.Contains(by))).ToImmutableArray();
        if (pieces.IsEmpty && lines.IsEmpty && artwork.IsEmpty) return design;
        var label = pieces.Length == 1 ? pieces[0].Label : pieces.Length > 1 ? $"{pieces[0].Label} and {Count(pieces.Length - 1, "more piece")}" : lines.Length > 0 ? Count(lines.Length, "line") : "a picture";
        var plies = design.Plies.Where(y => pieces.Any(p => p.PlyId == y.Id)).ToImmutableArray();
        return after with { LeftOut = design.LeftOut.Add(new(Design.NextId("o", design.LeftOut.Select(o => o.Id)), label, plies, pieces, lines, artwork)) };
    }
}

/// <summary>Puts back what was left out, where it was; a ply that is gone since lies on top.</summary>
public sealed record PutBack(string PartId) : Edit
{
    public override string Describe(Design before) => $"Put back {before.LeftOut.FirstOrDefault(o => o.Id == PartId)?.Label ?? "a part"}";

    public override Design Apply(Design design)
    {
        if (design.LeftOut.FirstOrDefault(o => o.Id == PartId) is not { } part) return design;
        // Parts of one path have one place in the order, and are told apart by their ids.
        var pieces = design.Pieces.AddRange(part.Pieces).OrderBy(p => (p.Order, p.Id.Length, p.Id)).ToImmutableArray();
        var there = pieces.Select(p => p.Id).ToHashSet(StringComparer.Ordinal);
        return design with
        {
            LeftOut = design.LeftOut.Remove(part),
            Plies = design.Plies.AddRange(part.Plies.Where(y => design.Plies.All(d => d.Id != y.Id))),
            Pieces = pieces,
            // Its piece may itself have been left out meanwhile.
            Lines = [.. design.Lines.AddRange(part.Lines.Select(l => l.CarriedBy is { } by && !there.Contains(by) ? l with { CarriedBy = null } : l)).OrderBy(l => (l.Order, l.Id.Length, l.Id))],
            Artwork = design.Artwork.AddRange(part.Artwork.Select(a => a.CarriedBy is { } by && !there.Contains(by) ? a with { CarriedBy = null } : a)),
        };
    }
}

/// <summary>Places another design to the right of this one, as it is, on plies of its own above.</summary>
public sealed record BringBeside(Design Other, string Name) : Edit
{
    private const double BetweenMm = 10;

    public override string Describe(Design before) => $"Bring in {Name}";

    public override Design Apply(Design design)
    {
        // Ids of the newcomer get a mark of their own, so that none meets one that is there.
        var n = 2;
        while (design.Pieces.Any(p => p.Id.StartsWith(Mark(n), StringComparison.Ordinal)) || design.Lines.Any(l => l.Id.StartsWith(Mark(n), StringComparison.Ordinal)) || design.LeftOut.Any(o => o.Pieces.Any(p => p.Id.StartsWith(Mark(n), StringComparison.Ordinal)))) n++;
        var mark = Mark(n);
        Box here = design.Extent, there = Other.Extent;
        var by = Affine.Move(here.Right + BetweenMm - there.Left, here.Top - there.Top);
        var above = design.Pieces.Select(p => p.Order).Concat(design.Lines.Select(l => l.Order)).Append(0).Max() + 1;
        var next = design with
        {
            Plies = design.Plies.AddRange(Other.Plies.Select(y => y with { Id = mark + y.Id })),
            Pieces = design.Pieces.AddRange(Other.Pieces.Select(p => p with { Id = mark + p.Id, PlyId = mark + p.PlyId, Outline = p.Outline.Transform(by), Order = p.Order + above })),
            Lines = design.Lines.AddRange(Other.Lines.Select(l => l with { Id = mark + l.Id, CarriedBy = l.CarriedBy is null ? null : mark + l.CarriedBy, Path = l.Path.Transform(by), Order = l.Order + above })),
            Artwork = design.Artwork.AddRange(Other.Artwork.Select(a => a with { Id = mark + a.Id, CarriedBy = a.CarriedBy is null ? null : mark + a.CarriedBy, Place = a.Place.Then(by), Order = a.Order + above })),
            Looks = design.Looks.AddRange(Other.Looks.Where(l => design.LookOf(l.Key) is null)),
            Notes = design.Notes.AddRange(Other.Notes.Select(x => x with { At = by.Apply(x.At) })),
        };
        var all = next.Extent;
        return next with { WidthMm = Math.Max(design.WidthMm, all.Right), HeightMm = Math.Max(design.HeightMm, all.Bottom) };

        static string Mark(int n) => $"f{n}";
    }
}

/// <summary>Moves a ply to another place in the stack; 0 is the bottom.</summary>
public sealed record MovePly(string PlyId, int To) : Edit
{
    public override string Describe(Design before) => $"Move ply “{before.Plies.FirstOrDefault(p => p.Id == PlyId)?.Label}”";

    public override Design Apply(Design design)
    {
        var ply = design.Plies.FirstOrDefault(p => p.Id == PlyId);
        if (ply is null) return design;
        var rest = design.Plies.Remove(ply);
        return design with { Plies = rest.Insert(Math.Clamp(To, 0, rest.Length), ply) };
    }
}

/// <summary>Puts pieces on another ply.</summary>
public sealed record PutOnPly(ImmutableArray<string> PieceIds, string PlyId) : Edit
{
    public override string Describe(Design before) => $"Put {Count(PieceIds.Length, "piece")} on “{before.Plies.FirstOrDefault(p => p.Id == PlyId)?.Label}”";

    public override Design Apply(Design design)
    {
        if (design.Plies.All(p => p.Id != PlyId)) return design;
        var pieces = design.Pieces.Select(p => PieceIds.Contains(p.Id) ? p with { PlyId = PlyId } : p).ToImmutableArray();
        return design with { Pieces = pieces, Plies = design.Plies.RemoveAll(ply => pieces.All(p => p.PlyId != ply.Id)) };
    }
}

/// <summary>Gives a piece or a ply another name.</summary>
public sealed record Rename(string Id, string Label) : Edit
{
    public override string Describe(Design before) => $"Name “{Label}”";

    public override Design Apply(Design design) => design with
    {
        Pieces = [.. design.Pieces.Select(p => p.Id == Id ? p with { Label = Label } : p)],
        Plies = [.. design.Plies.Select(p => p.Id == Id ? p with { Label = Label } : p)],
    };
}

/// <summary>Sends pieces to a stock; an empty id goes back to matching by colour.</summary>
public sealed record AssignStock(ImmutableArray<string> PieceIds, string StockId) : Edit
{
    public override string Describe(Design before) => $"Change the stock of {Count(PieceIds.Length, "piece")}";

    public override Design Apply(Design design) => design with
    {
        Pieces = [.. design.Pieces.Select(p => PieceIds.Contains(p.Id) ? p with { StockId = StockId.Length == 0 ? null : StockId } : p)],
    };
}

/// <summary>
/// Settles how many pixels of the file make an inch, and rescales everything to it.
/// At 72 instead of 96, everything becomes a third larger.
/// </summary>
public sealed record SetScale(double PxPerInch) : Edit
{
    public override string Describe(Design before) => string.Create(CultureInfo.InvariantCulture, $"Size at {PxPerInch:0.##} pixels in an inch");

    public override Design Apply(Design design)
    {
        var by = Affine.Scale(design.Scale.PxPerInch / PxPerInch, design.Scale.PxPerInch / PxPerInch);
        var factor = by.A;
        return design with
        {
            WidthMm = design.WidthMm * factor,
            HeightMm = design.HeightMm * factor,
            Scale = new(PxPerInch, true, string.Create(CultureInfo.InvariantCulture, $"chosen by you: {PxPerInch:0.##} pixels in an inch")),
            Pieces = [.. design.Pieces.Select(ScaledPiece)],
            Lines = [.. design.Lines.Select(ScaledLine)],
            Artwork = [.. design.Artwork.Select(a => a with { Place = a.Place.Then(by) })],
            LeftOut = [.. design.LeftOut.Select(o => o with { Pieces = [.. o.Pieces.Select(ScaledPiece)], Lines = [.. o.Lines.Select(ScaledLine)], Artwork = [.. o.Artwork.Select(a => a with { Place = a.Place.Then(by) })] })],
            Notes = [.. design.Notes.Select(n => n with { At = n.At * factor })],
        };

        Piece ScaledPiece(Piece p) => p with { Outline = p.Outline.Transform(by), Ink = Scaled(p.Ink), Holes = [.. p.Holes.Select(h => h with { Ink = Scaled(h.Ink) })] };

        Line ScaledLine(Line l) => l with { Path = l.Path.Transform(by), Ink = Scaled(l.Ink) };

        Ink Scaled(Ink ink) => ink.Stroke is not { } s ? ink : ink with
        {
            Stroke = s with { WidthMm = s.WidthMm * factor, DashesMm = [.. s.DashesMm.Select(d => d * factor)], DashOffsetMm = s.DashOffsetMm * factor },
        };
    }
}
