namespace Falzkunst.Core.Cards;

/// <summary>A place of a box that stays where it is when the box changes.</summary>
/// <param name="X">0 at its left side, 1 at its right.</param>
/// <param name="Y">0 at its top, 1 at its bottom.</param>
public readonly record struct Anchor(double X, double Y)
{
    public static Anchor Centre => new(0.5, 0.5);

    public Point In(Box box) => new(box.Left + X * box.Width, box.Top + Y * box.Height);
}

/// <summary>
/// Sizes pieces and lines, together as they lie on the card, with all that they carry. In one ratio a maker's numbers and letters stay what they are, at
/// another size; in two, what a maker made stays its own where it does not lie askew, and any other shape becomes drawn. Treatments keep their amounts.
/// </summary>
/// <param name="Width">Of the box around them; null where it follows the height, or stays.</param>
/// <param name="Height">Of the box around them; null where it follows the width, or stays.</param>
/// <param name="KeepRatio">Whether one length gives the other; with both, they are made to fit into them.</param>
/// <param name="From">What stays in its place.</param>
public sealed record Resize(ImmutableArray<string> PieceIds, Length? Width, Length? Height, bool KeepRatio, Anchor From) : Edit
{
    private const double LeastMm = 0.1, MostMm = 5000;

    public override ImmutableArray<string> About => PieceIds;

    public override string Describe(Design before) => $"Size {Names(before, PieceIds)}: "
        + (Width is { } w && Height is { } h ? $"{w} × {h}" : Width is { } wide ? $"{wide} wide" : $"{Height} high");

    public override string? Refusal(Design before)
    {
        var box = Align.Around(before, PieceIds);
        if (box.IsEmpty) return "The piece is gone.";
        if (Width is null && Height is null) return "Type a width or a height.";
        if (Width is { Mm: not (>= LeastMm and <= MostMm) } || Height is { Mm: not (>= LeastMm and <= MostMm) })
            return $"A piece is {LeastMm} mm to {MostMm / 1000} m wide and high; nothing was changed.";
        var (x, y) = Factors(box);
        return IsSize(box.Width, x) && IsSize(box.Height, y) ? null
            : $"It would be {Length.FromMm(box.Width * x)} × {Length.FromMm(box.Height * y)}; nothing was changed.";

        static bool IsSize(double was, double by) => was <= Tolerances.Same || was * by is >= LeastMm / 10 and <= MostMm;
    }

    public override Design Apply(Design design)
    {
        if (Refusal(design) is not null) return design;
        var next = Once(design);
        // Treatments keep their amounts, so that what they add is not sized with the rest: what is off then is sized again.
        var isTreated = PieceIds.Any(id => design.Piece(id)?.Treatments.IsEmpty == false);
        for (var round = 0; isTreated && round < 4 && Factors(Align.Around(next, PieceIds)) is var (x, y) && Math.Abs(x - 1) + Math.Abs(y - 1) > 1e-4; round++)
            next = Once(next);
        return next;
    }

    private Design Once(Design design)
    {
        var box = Align.Around(design, PieceIds);
        var ((x, y), at) = (Factors(box), From.In(box));
        if (x == 1 && y == 1) return design;
        design = Carrying.MoveCarried(design, PieceIds, Affine.Move(-at.X, -at.Y).Then(Affine.Scale(x, y)).Then(Affine.Move(at.X, at.Y)));
        foreach (var id in PieceIds.Distinct(StringComparer.Ordinal))
        {
            if (design.Piece(id) is not { } piece) continue;
            var isEven = Math.Abs(x - y) < 1e-12 * x;
            // What a maker made wider or higher, as it lies, stays its own: a rounded corner stays round.
            var quarters = piece.Place.Turn.Degrees / 90;
            var stretched = !isEven && piece.Shape is Made made && quarters == Math.Round(quarters)
                ? (quarters % 2 == 0 ? made.Sized(x, y, 1) : made.Sized(y, x, 1)) : null;
            if (stretched?.Fault() is not null) stretched = null;
            // In one ratio it stays what it is, at another size and place; in two the map of the card, as its own coordinates see it.
            var by = isEven ? Affine.Scale(x, x) : stretched is not null ? (quarters % 2 == 0 ? Affine.Scale(x, y) : Affine.Scale(y, x))
                : piece.Place.Map.Then(Affine.Move(-at.X, -at.Y)).Then(Affine.Scale(x, y)).Then(Affine.Move(at.X, at.Y)).Then(piece.Place.Map.Inverse());
            var shape = isEven ? piece.Shape.Scaled(x) : (Shape?)stretched ?? new Drawn(piece.Shape.Derive().Transform(by));
            // What its maker can't make so small or large any more is drawn from then on.
            if (shape.Fault() is not null) shape = new Drawn(piece.Shape.Derive().Transform(by));
            var (off, keepsShape) = (piece.Place.Shift - at, isEven || stretched is not null);
            var moved = piece with
            {
                Place = keepsShape ? piece.Place with { Shift = at + new Point(off.X * x, off.Y * y) } : piece.Place,
                Shape = shape,
                AllLines = piece.AllLines.Change(l => l.Through(by)),
                AllArtwork = piece.AllArtwork.Change(a => a with { Map = a.Map.Then(by) }),
                Panels = [.. piece.Panels.Select(n => n with { At = by.Apply(n.At) })],
            };
            if (piece.Treatments.IsEmpty)
            {
                design = design.ChangePieces([id], _ => moved);
                continue;
            }

            if (Outlines.Derive(shape, piece.Treatments).IsEmpty) continue;
            var bare = moved with { Treatments = [], Edges = Carrying.EdgesOf(moved with { Treatments = [] }, [piece]) };
            design = Carrying.Reshape(design, bare, shape, piece.Treatments);
        }

        return design;
    }

    private (double X, double Y) Factors(Box box)
    {
        // A level line has no height that could be another.
        double? x = box.Width > Tolerances.Same ? Width?.Mm / box.Width : null, y = box.Height > Tolerances.Same ? Height?.Mm / box.Height : null;
        if (!KeepRatio) return (x ?? 1, y ?? 1);
        var one = x is { } a && y is { } b ? Math.Min(a, b) : x ?? y ?? 1;
        return (one, one);
    }
}

/// <summary>Copies pieces with all that they carry in rows and columns, the original counted; each copy lies above its original.</summary>
/// <param name="Right">From one column to the next.</param>
/// <param name="Down">From one row to the next.</param>
public sealed record Copies(ImmutableArray<string> PieceIds, int Rows, int Columns, Length Right, Length Down) : Edit
{
    private const int Most = 2000, FarthestMm = 10_000;

    public override ImmutableArray<string> About => PieceIds;

    public override string Describe(Design before) => Rows * Columns == 2 ? $"Double {Names(before, PieceIds)}"
        : $"{Count(Rows, "row")} of {Columns} of {Names(before, PieceIds)}";

    public override string? Refusal(Design before)
    {
        var all = PieceIds.Distinct(StringComparer.Ordinal).Count(id => before.Piece(id) is not null);
        if (all == 0) return "The piece is gone.";
        if (Rows < 1 || Columns < 1 || (long)Rows * Columns < 2) return "Copies are at least two, the original counted.";
        if (Rows > Most || Columns > Most || (long)Rows * Columns * all > Most) return $"That would be more than {Most} pieces; nothing was changed.";
        return Math.Abs(Right.Mm) * Columns > FarthestMm || Math.Abs(Down.Mm) * Rows > FarthestMm
            ? "That is farther than ten metres; nothing was changed." : null;
    }

    public override Design Apply(Design design)
    {
        if (Refusal(design) is not null) return design;
        return Copied(design, PieceIds, piece => Enumerable.Range(1, Rows * Columns - 1)
            .Select(k => piece.Place.Moved(new(k % Columns * Right.Mm, k / Columns * Down.Mm))));
    }

    /// <summary>The design with copies of some pieces, each right above its original.</summary>
    /// <param name="places">Where the copies of a piece lie.</param>
    internal static Design Copied(Design design, ImmutableArray<string> ids, Func<Piece, IEnumerable<Place>> places)
    {
        var taken = design.AllPieces.Select(p => p.Label).ToHashSet(StringComparer.Ordinal);
        var all = ImmutableArray.CreateBuilder<Piece>();
        foreach (var piece in design.AllPieces)
        {
            all.Add(piece);
            if (piece.LeftOut is not null || !ids.Contains(piece.Id)) continue;
            foreach (var at in places(piece)) all.Add(Of(piece, at, ref design, taken));
        }

        return design with { AllPieces = all.ToImmutable() };
    }

    /// <summary>A copy of a piece at another place, with ids of its own.</summary>
    private static Piece Of(Piece piece, Place at, ref Design design, HashSet<string> taken)
    {
        design = design.WithId("p", out var id);
        var lineIds = new Dictionary<string, string>(StringComparer.Ordinal);
        var lines = ImmutableArray.CreateBuilder<Line>();
        foreach (var line in piece.Lines)
        {
            design = design.WithId("l", out var fresh);
            lineIds[line.Id] = fresh;
            lines.Add(line with { Id = fresh });
        }

        var artwork = ImmutableArray.CreateBuilder<Artwork>();
        foreach (var art in piece.Artwork)
        {
            design = design.WithId("a", out var fresh);
            artwork.Add(art with { Id = fresh });
        }

        return piece with
        {
            Id = id,
            Label = FreeLabel(piece.Label, taken),
            Place = at,
            Held = null,
            AllLines = lines.ToImmutable(),
            AllArtwork = artwork.ToImmutable(),
            Folds = [.. piece.Folds.Where(f => lineIds.ContainsKey(f.LineId)).Select(f => f with { LineId = lineIds[f.LineId] })],
        };
    }

    /// <summary>Copies that fill a box: as many rows and columns as lie in it so far apart, centred in it. Null where not even two do.</summary>
    /// <param name="gap">Between one and the next.</param>
    public static Edit? Filling(Design design, ImmutableArray<string> ids, Box on, Length gap)
    {
        var box = Align.Around(design, ids);
        if (box.IsEmpty || !(gap.Mm >= 0) || box.Width + gap.Mm <= 0 || box.Height + gap.Mm <= 0) return null;
        var columns = (int)Math.Min(Most, Math.Floor((on.Width + gap.Mm + Tolerances.Same) / (box.Width + gap.Mm)));
        var rows = (int)Math.Min(Most, Math.Floor((on.Height + gap.Mm + Tolerances.Same) / (box.Height + gap.Mm)));
        if (columns < 1 || rows < 1 || (long)columns * rows is < 2 or > Most) return null;
        double wide = columns * (box.Width + gap.Mm) - gap.Mm, high = rows * (box.Height + gap.Mm) - gap.Mm;
        return new Series(
        [
            new Move(ids, Length.FromMm(on.Centre.X - wide / 2 - box.Left), Length.FromMm(on.Centre.Y - high / 2 - box.Top)),
            new Copies(ids, rows, columns, Length.FromMm(box.Width + gap.Mm), Length.FromMm(box.Height + gap.Mm)),
        ], $"Fill with {rows} × {columns} of {Names(design, ids)}");
    }

    /// <summary>A label that nothing has yet, "Cloud 2", which is taken from now on.</summary>
    internal static string FreeLabel(string label, HashSet<string> taken)
    {
        for (var n = 2; ; n++)
            if (taken.Add($"{label} {n}")) return $"{label} {n}";
    }
}

/// <summary>Copies pieces in a ring about a place of the card, the original counted, each turned on with the ring or all as they lie.</summary>
public sealed record RingOfCopies(ImmutableArray<string> PieceIds, int Number, Point Middle, bool Turns) : Edit
{
    private const int Most = 500;

    public override ImmutableArray<string> About => PieceIds;

    public override string Describe(Design before) => $"A ring of {Number} of {Names(before, PieceIds)}";

    public override string? Refusal(Design before) => Number is < 2 or > Most ? $"A ring has 2 to {Most}, the original counted."
        : PieceIds.All(id => before.Piece(id) is null) ? "The piece is gone." : null;

    public override Design Apply(Design design)
    {
        if (Refusal(design) is not null) return design;
        return Copies.Copied(design, PieceIds, piece => Enumerable.Range(1, Number - 1).Select(k =>
        {
            var by = Angle.FromDegrees(360.0 * k / Number);
            var middle = piece.OnCard.Bounds.Centre;
            return Turns ? piece.Place.Turned(by, Middle) : piece.Place.Moved(Affine.Turn(by).Apply(middle - Middle) + Middle - middle);
        }));
    }
}
