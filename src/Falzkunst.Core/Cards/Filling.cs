using System.Text.Json.Serialization;

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
    internal const string NoPicture = "That is no picture that can be read: PNG, JPEG or WebP.";
    private const double MostMm = 2000;

    /// <summary>Whether one picture that is not tiled lies over all of the pieces, each showing its part; otherwise each has one of its own.</summary>
    [JsonIgnore(Condition = JsonIgnoreCondition.WhenWritingDefault)]
    public bool AsOne { get; init; }

    public override ImmutableArray<string> About => PieceIds;

    public override string Describe(Design before) =>
        $"Fill {Names(before, PieceIds)} with {(Pattern is { } p ? p.Word : Tiled ? "a tiled picture" : "a picture")}";

    public override string? Refusal(Design before) => (Pattern is null) == (Picture is null) ? "Choose a pattern, or a picture."
        : Pattern?.Fault() is { } fault ? fault
        : Picture is { } picture && Pictures.PictureFacts.Read(picture.Bytes.AsSpan()) is null ? NoPicture
        : Width is { Mm: not (>= Artwork.LeastTileMm and <= MostMm) } ? $"A tile is {Artwork.LeastTileMm} mm to 2 m wide."
        : PieceIds.All(id => before.Piece(id) is null or { IsThing: true }) ? "Choose the pieces that it is to fill." : null;

    public override Design Apply(Design design)
    {
        if (Refusal(design) is not null) return design;
        var all = AsOne && Picture is not null && !Tiled ? Covering(Align.Around(design, [.. PieceIds.Where(id => design.Piece(id) is { IsThing: false })]))
            : (Affine?)null;
        foreach (var id in PieceIds.Distinct(StringComparer.Ordinal))
        {
            if (design.Piece(id) is not { IsThing: false } piece) continue;
            var was = piece.Artwork.FirstOrDefault(a => a.IsTiled);
            design = design.WithId("a", out var fresh);
            var fill = new Artwork(was?.Id ?? fresh, Picture, all?.Then(piece.Place.Map.Inverse()) ?? MapOf(piece, was), 1)
            { Pattern = Pattern, PictureIsTiled = Tiled && Picture is not null, };
            var rest = was is null ? piece.AllArtwork : piece.AllArtwork.Remove(was);
            // What fills it lies below all that is on it.
            design = design.ChangePieces([id], p => p with { AllArtwork = rest.Insert(0, fill) });
        }

        return design;
    }

    private Affine MapOf(Piece piece, Artwork? was)
    {
        var box = piece.Outline.Bounds;
        if (Picture is not null && !Tiled) return Covering(box);
        var ratio = RatioOf(Picture);
        var (at, turn, wide) = was is null ? (box.Centre, 0.0, Pattern is null ? Math.Max(Artwork.LeastTileMm, box.Width / 3) : Pattern.UsualTile.Mm)
            : (was.Map.Apply(new(0.5, 0.5)), Math.Atan2(was.Map.B, was.Map.A), was.TileWidth.Mm);
        var width = Width?.Mm ?? wide;
        return Affine.Move(-0.5, -0.5).Then(Affine.Scale(width, Math.Max(Artwork.LeastTileMm, width * ratio))).Then(Affine.Turn(Angle.FromRadians(turn)))
            .Then(Affine.Move(at.X, at.Y));
    }

    /// <summary>How high a picture is to its width.</summary>
    internal static double RatioOf(Picture? picture) =>
        picture is not null && Pictures.PictureFacts.Read(picture.Bytes.AsSpan()) is { } facts ? (double)facts.HeightPx / facts.WidthPx : 1;

    /// <summary>As large as the picture must be to cover a box, in its middle.</summary>
    private Affine Covering(Box box)
    {
        var ratio = RatioOf(Picture);
        var covers = Math.Max(box.Width, box.Height / ratio);
        return Affine.Scale(covers, covers * ratio).Then(Affine.Move(box.Centre.X - covers / 2, box.Centre.Y - covers * ratio / 2));
    }
}

/// <summary>Puts another picture in the place of one: as wide, about the same middle, turned the same.</summary>
public sealed record ReplacePicture(string Id, Picture Picture) : Edit
{
    public override ImmutableArray<string> About => [Id];

    public override string Describe(Design before) => "Put another picture in its place";

    public override string? Refusal(Design before) => before.Artwork.All(a => a.Id != Id) ? "The picture is gone."
        : Pictures.PictureFacts.Read(Picture.Bytes.AsSpan()) is null ? FillWith.NoPicture : null;

    public override Design Apply(Design design)
    {
        if (Refusal(design) is not null) return design;
        return design with
        {
            AllPieces = design.AllPieces.Change(p => p.Artwork.Any(a => a.Id == Id) ? p with { AllArtwork = p.AllArtwork.Change(Other) } : p),
            AllLooseArtwork = design.AllLooseArtwork.Change(Other),
        };

        Artwork Other(Artwork a)
        {
            if (a.Id != Id || a.LeftOut is not null) return a;
            // Only its height follows the new picture.
            var higher = FillWith.RatioOf(Picture) * a.TileWidth.Mm / Math.Max(1e-9, a.TileHeight.Mm);
            var map = Affine.Move(0, -0.5).Then(Affine.Scale(1, higher)).Then(Affine.Move(0, 0.5)).Then(a.Map);
            return a with { Picture = Picture, Pattern = null, PictureIsTiled = a.IsTiled, Map = map };
        }
    }
}

/// <summary>Prints a picture, where it lies on the card, on these pieces and no others: each shows the part that lies on it.</summary>
public sealed record PrintOn(string Id, ImmutableArray<string> PieceIds) : Edit
{
    public override ImmutableArray<string> About => [Id, .. PieceIds];

    public override string Describe(Design before) => $"Print a picture on {Names(before, PieceIds)}";

    public override string? Refusal(Design before) => before.Artwork.FirstOrDefault(a => a.Id == Id) is not { } art ? "The picture is gone."
        : art.Artwork.IsTiled ? "What fills a piece is of that piece alone; fill the others as well."
        : Under(before, art).Any(p => PieceIds.Contains(p.Id)) ? null : "Choose a piece that the picture lies on.";

    /// <summary>The pieces that a picture lies on, or could, from the topmost down.</summary>
    public static IEnumerable<Piece> Under(Design design, LaidArtwork art) =>
        design.Pieces.Where(p => !p.IsThing && p.OnCard.Bounds.Touches(art.Bounds)).Reverse();

    /// <summary>How far a picture hangs over the box of the piece that carries it, on the side where that is most; not at all where it is tiled.</summary>
    public static Length Over(Artwork art, Piece piece)
    {
        Box its = art.Bounds, paper = piece.Outline.Bounds;
        double across = Math.Max(paper.Left - its.Left, its.Right - paper.Right), down = Math.Max(paper.Top - its.Top, its.Bottom - paper.Bottom);
        return art.IsTiled ? Length.Zero : Length.FromMm(Math.Max(0, Math.Max(across, down)));
    }

    public override Design Apply(Design design)
    {
        if (Refusal(design) is not null) return design;
        var laid = design.Artwork.First(a => a.Id == Id);
        var targets = Under(design, laid).Select(p => p.Id).Where(PieceIds.Contains).ToList();
        design = design with { AllLooseArtwork = laid.By is null ? design.AllLooseArtwork.Remove(laid.Artwork) : design.AllLooseArtwork };
        if (laid.By is { } was && !targets.Remove(was.Id))
            design = design.ChangePieces([was.Id], p => p with { AllArtwork = p.AllArtwork.Remove(laid.Artwork) });
        var isFree = laid.By is null || !PieceIds.Contains(laid.By.Id);
        foreach (var id in targets)
        {
            var name = Id;
            if (!isFree) design = design.WithId("a", out name);
            isFree = false;
            design = design.ChangePieces([id], p => p with
            {
                AllArtwork = p.AllArtwork.Add(laid.Artwork with { Id = name, Map = laid.Map.Then(p.Place.Map.Inverse()) }),
            });
        }

        return design;
    }
}
