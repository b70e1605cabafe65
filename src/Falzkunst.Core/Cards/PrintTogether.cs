using Falzkunst.Core.Pictures;
using Falzkunst.Core.Regions;

namespace Falzkunst.Core.Cards;

/// <summary>
/// Makes one printed picture of several pieces, on one outline that is cut: the outline around all of them. Each becomes ink in the colour of its paper, with
/// what was printed on it; lines that something else is done to stay lines. <see cref="CutAgain"/> is the way back.
/// </summary>
public sealed record PrintTogether(ImmutableArray<string> PieceIds) : Edit
{
    /// <summary>What is printed of one piece comes before what is printed of the next.</summary>
    internal const int OrdersOfOne = 1000;

    public override ImmutableArray<string> About => PieceIds;

    public override string Describe(Design before) => $"Print {Names(before, PieceIds)} as one picture";

    public override string? Refusal(Design before)
    {
        var pieces = Of(before);
        if (pieces.Count < 2) return "Choose two pieces or more to print as one picture.";
        try
        {
            return Together.Join([.. pieces.Select(p => p.OnCard)]).Count switch
            {
                0 => "They are too small to be one piece.",
                1 => null,
                _ => "They lie apart: one outline needs pieces that lie on one another, or touch.",
            };
        }
        catch (TangledException)
        {
            return "Their outlines cross too often; simplify them first.";
        }
    }

    public override Design Apply(Design design)
    {
        if (Refusal(design) is not null) return design;
        var pieces = Of(design);
        var below = pieces[0];
        var outline = VectorPath.Joined(Together.Join([.. pieces.Select(p => p.OnCard)]));
        var (lines, artwork) = (ImmutableArray.CreateBuilder<Line>(), ImmutableArray.CreateBuilder<Artwork>());
        for (var k = 0; k < pieces.Count; k++)
        {
            var (piece, map, order) = (pieces[k], pieces[k].Place.Map, k * OrdersOfOne);
            design = design.WithId("l", out var id);
            lines.Add(new()
            {
                Id = id,
                Label = piece.Label,
                Path = piece.OnCard,
                Operation = Operation.Print,
                PrintedAs = new(piece.Origin?.Ink.Fill ?? piece.Colour, FillRule.EvenOdd, null),
                Origin = At(order),
            });
            // What was left out goes along as it is, to be put back.
            foreach (var art in piece.AllArtwork)
            {
                var own = art.LeftOut is null ? Within(piece, art) with { Origin = (art.Origin ?? At(0)) with { Order = ++order } } : art;
                artwork.Add(own with { Map = own.Map.Then(map) });
            }

            foreach (var line in piece.AllLines)
            {
                var isPrinted = line is { LeftOut: null, Operation: Operation.Print };
                lines.Add(line.Through(map) with { Held = null, Origin = isPrinted ? (line.Origin ?? At(0)) with { Order = ++order } : line.Origin });
            }
        }

        design = design.WithId("p", out var whole);
        var one = new Piece
        {
            Id = whole,
            Label = below.Label,
            PlyId = below.PlyId,
            StockId = below.StockId,
            Colour = Fresh.Paper,
            Shape = new Drawn(outline),
            Edges = [],
            AllLines = lines.ToImmutable(),
            AllArtwork = artwork.ToImmutable(),
        };
        var gone = pieces.Select(p => p.Id).ToHashSet(StringComparer.Ordinal);
        one = Carrying.WithFolds(one with { Edges = Fresh.Edges(one) });
        var all = design.AllPieces.Insert(design.AllPieces.IndexOf(below), one).RemoveAll(p => gone.Contains(p.Id));
        return design with { AllPieces = all, AllPlies = Remove.InUse(design.AllPlies, all) };
    }

    /// <summary>From the lowest to the topmost.</summary>
    private List<Piece> Of(Design design) =>
        [.. design.Papers.Where(p => PieceIds.Contains(p.Id)).OrderBy(p => design.PlyNumber(p.PlyId))];

    internal static Origin At(int order) => new("", Ink.None, order, "printed as one picture");

    /// <summary>What is seen of a picture on a piece: one that hangs over ends at its edge, and tiles become one picture.</summary>
    internal static Artwork Within(Piece piece, Artwork art)
    {
        if (!art.IsTiled)
        {
            if (piece.Carries(VectorPath.Rectangle(0, 0, 1, 1).Transform(art.Map))) return art;
            return Canvas.Clipped(art.Picture!.Bytes.AsSpan(), art.Map, [piece.Outline]) is { } clipped ? art with { Picture = new([.. clipped]) } : art;
        }

        const double pxPerMm = 600 / Length.MmPerInch, mostPixels = 24e6;
        var box = piece.Outline.Bounds;
        var scale = Math.Min(pxPerMm, Math.Sqrt(mostPixels / Math.Max(1, box.Area)));
        int w = Math.Max(1, (int)Math.Ceiling(box.Width * scale)), h = Math.Max(1, (int)Math.Ceiling(box.Height * scale));
        var toPx = Affine.Move(-box.Left, -box.Top).Then(Affine.Scale(scale, scale));
        var painted = Canvas.Painted(w, h, [new(piece.Outline.Transform(toPx), toPx, [.. art.Drawn(box)])]);
        return new(art.Id, new([.. new Raster(w, h, painted, null).ToPng()]), Affine.Scale(w, h).Then(toPx.Inverse()), 1) { Origin = art.Origin };
    }
}

/// <summary>
/// Makes pieces of the filled shapes that are printed on one, each with what was printed above it and before the next: what <see cref="PrintTogether"/> made
/// one picture of, or a drawing that came in as print. The sheet below them is gone where they cover it and nothing else is on it.
/// </summary>
public sealed record CutAgain(string PieceId) : Edit
{
    public override ImmutableArray<string> About => [PieceId];

    public override string Describe(Design before) => $"Cut what is printed on {Names(before, [PieceId])} as pieces again";

    public override string? Refusal(Design before) => before.Piece(PieceId) is not { } piece ? "The piece is gone."
        : Shapes(piece).Count == 0 ? "No filled shape is printed on it that could be a piece." : null;

    /// <summary>The filled shapes that are printed on a piece, from bottom to top.</summary>
    public static IReadOnlyList<Line> Shapes(Piece piece) => [.. piece.Lines.Where(l => l is { Operation: Operation.Print, IsClosed: true, Words: null }
        && l.InkPrinted.Fill is not null && Math.Abs(l.Path.SignedAreaMm2) > 1e-3).OrderBy(OrderOf)];

    private static int OrderOf(Line line) => line.Origin?.Order ?? int.MaxValue;

    public override Design Apply(Design design)
    {
        if (Refusal(design) is not null) return design;
        var whole = design.Piece(PieceId)!;
        var shapes = Shapes(whole);
        var ids = shapes.Select(s => s.Id).ToHashSet(StringComparer.Ordinal);
        var made = new List<Piece>();
        var others = design with { AllPieces = design.AllPieces.Remove(whole) };
        foreach (var shape in shapes)
        {
            design = design.WithId("p", out var id);
            var piece = new Piece
            {
                Id = id,
                Label = Fresh.Label(others, shape.Label.Length > 0 ? shape.Label : $"On {whole.Label}"),
                PlyId = whole.PlyId,
                Colour = shape.InkPrinted.Fill!.Value,
                Place = whole.Place,
                Shape = new Drawn(VectorPath.Joined(Together.Clean(shape.Path))),
                Edges = [],
            };
            made.Add(piece with { Edges = Fresh.Edges(piece) });
        }

        int? Above(int order) => Enumerable.Range(0, shapes.Count).Where(k => OrderOf(shapes[k]) <= order).Select(k => (int?)k).LastOrDefault();
        var rest = whole with { AllLines = whole.AllLines.RemoveAll(l => ids.Contains(l.Id)), Folds = whole.Folds.RemoveAll(f => ids.Contains(f.LineId)) };
        foreach (var art in whole.Artwork.Where(a => !a.IsTiled))
        {
            if (Above(art.Origin?.Order ?? int.MaxValue) is not { } k || !art.LiesIn(made[k].Outline.Bounds)) continue;
            made[k] = made[k] with { AllArtwork = made[k].AllArtwork.Add(art) };
            rest = rest with { AllArtwork = rest.AllArtwork.Remove(art) };
        }

        foreach (var line in rest.Lines)
        {
            var on = made.FindLastIndex(m => m.Carries(line.Path));
            if (on < 0) continue;
            made[on] = Carrying.WithFolds(made[on] with { AllLines = made[on].AllLines.Add(line) });
            rest = Carrying.Without(rest, [line.Id]);
        }

        var covered = Together.TakeAway(whole.Outline, [.. made.Select(m => m.Outline)]).Sum(p => p.SignedAreaMm2) < 0.01 * whole.AreaMm2;
        var at = design.AllPieces.IndexOf(whole);
        var isGone = covered && rest.AllLines.IsEmpty && rest.AllArtwork.IsEmpty;
        var all = design.AllPieces.RemoveAt(at).InsertRange(at, isGone ? made : [rest, .. made]);
        return design with { AllPieces = all };
    }
}
