namespace Falzkunst.Core.Cards;

/// <summary>
/// Fills pieces with a pattern, or with a picture as a tile or once; it is printed, and goes on beyond the edge. What filled a piece before is replaced, and
/// lies as that did.
/// </summary>
/// <param name="Picture">Null where a pattern fills them.</param>
/// <param name="Tiled">Whether the picture is set again and again; otherwise it is as large as it must be to cover the piece.</param>
/// <param name="Width">Of a tile; null takes what is usual, or what it was.</param>
public sealed record FillWith(ImmutableArray<string> PieceIds, Pattern? Pattern, Picture? Picture, bool Tiled, Length? Width) : Edit
{
    private const double MostMm = 2000;

    public override ImmutableArray<string> About => PieceIds;

    public override string Describe(Design before) =>
        $"Fill {Names(before, PieceIds)} with {(Pattern is { } p ? p.Word : Tiled ? "a tiled picture" : "a picture")}";

    public override string? Refusal(Design before) => (Pattern is null) == (Picture is null) ? "Choose a pattern, or a picture."
        : Pattern?.Fault() is { } fault ? fault
        : Picture is { } picture && Pictures.PictureFacts.Read(picture.Bytes.AsSpan()) is null ? "That is no picture that can be read: PNG, JPEG or WebP."
        : Width is { Mm: not (>= Artwork.LeastTileMm and <= MostMm) } ? $"A tile is {Artwork.LeastTileMm} mm to 2 m wide."
        : PieceIds.All(id => before.Piece(id) is null or { IsThing: true }) ? "Choose the pieces that it is to fill." : null;

    public override Design Apply(Design design)
    {
        if (Refusal(design) is not null) return design;
        foreach (var id in PieceIds.Distinct(StringComparer.Ordinal))
        {
            if (design.Piece(id) is not { IsThing: false } piece) continue;
            var was = piece.Artwork.FirstOrDefault(a => a.IsTiled);
            design = design.WithId("a", out var fresh);
            var fill = new Artwork(was?.Id ?? fresh, Picture, MapOf(piece, was), 1) { Pattern = Pattern, PictureIsTiled = Tiled && Picture is not null };
            var rest = was is null ? piece.AllArtwork : piece.AllArtwork.Remove(was);
            // What fills it lies below all that is on it.
            design = design.ChangePieces([id], p => p with { AllArtwork = rest.Insert(0, fill) });
        }

        return design;
    }

    private Affine MapOf(Piece piece, Artwork? was)
    {
        var box = piece.Outline.Bounds;
        var ratio = Picture is { } picture && Pictures.PictureFacts.Read(picture.Bytes.AsSpan()) is { } facts ? (double)facts.HeightPx / facts.WidthPx : 1;
        if (Picture is not null && !Tiled)
        {
            var covers = Math.Max(box.Width, box.Height / ratio);
            return Affine.Scale(covers, covers * ratio).Then(Affine.Move(box.Centre.X - covers / 2, box.Centre.Y - covers * ratio / 2));
        }

        var (at, turn, wide) = was is null ? (box.Centre, 0.0, Pattern is null ? Math.Max(Artwork.LeastTileMm, box.Width / 3) : Pattern.UsualTile.Mm)
            : (was.Map.Apply(new(0.5, 0.5)), Math.Atan2(was.Map.B, was.Map.A), was.TileWidth.Mm);
        var width = Width?.Mm ?? wide;
        return Affine.Move(-0.5, -0.5).Then(Affine.Scale(width, Math.Max(Artwork.LeastTileMm, width * ratio))).Then(Affine.Turn(Angle.FromRadians(turn)))
            .Then(Affine.Move(at.X, at.Y));
    }
}
