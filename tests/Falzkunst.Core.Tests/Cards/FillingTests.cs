using System.Collections.Immutable;
using Falzkunst.Core.Cards;
using Falzkunst.Core.Documents;
using Falzkunst.Core.Pictures;
using Falzkunst.Core.Printing;
using Falzkunst.Core.Writing;

namespace Falzkunst.Core.Tests.Cards;

public sealed class FillingTests
{
    private static readonly Colour Blue = new(15, 92, 107), Snow = new(251, 248, 242);

    public static TheoryData<PatternKind> Kinds { get; } = [.. Enum.GetValues<PatternKind>()];

    private const string One = "p2";

    private static Design Badge(VectorPath outline) =>
        new AddPiece(new Drawn(outline), default, "badge").Apply(Design.Blank(Length.FromMm(100), Length.FromMm(80)));

    private static GreyPicture Painted(double size, double pxPerMm, IEnumerable<DrawnItem> items) => GreyPicture.Read(Paper.Png(Length.FromMm(size),
        Length.FromMm(size), pxPerMm * Length.MmPerInch, [new(null, Affine.Identity, [.. items])]), Files.ReadingLimits.Default);

    /// <summary>A pattern is the same one tile on, in both directions, with no seam between; and is neither all ground nor all figure.</summary>
    [Theory]
    [MemberData(nameof(Kinds))]
    public void A_pattern_goes_on_without_a_seam(PatternKind kind)
    {
        const int tile = 200;
        var art = new Artwork("a1", null, Affine.Scale(20, 20).Then(Affine.Move(3, 5)), 1) { Pattern = new(kind, Blue, Snow) };
        var seen = Painted(60, tile / 20.0, art.Drawn(new(0, 0, 60, 60)));
        var dark = 0;
        for (var y = 0; y < 2 * tile; y++)
            for (var x = 0; x < 2 * tile; x++)
            {
                // Edges are drawn in steps of a sixteenth; a seam would be of the other colour.
                double here = seen.At(x + 0.5, y + 0.5);
                Assert.Equal(here, seen.At(x + tile + 0.5, y + 0.5), 60.0);
                Assert.Equal(here, seen.At(x + 0.5, y + tile + 0.5), 60.0);
                if (here < 200) dark++;
            }

        Assert.InRange(dark / (4.0 * tile * tile), 0.03, 0.8);
    }

    [Fact]
    public void What_is_filled_bleeds_in_its_own_pattern_and_is_printed()
    {
        var design = new FillWith([One], new(PatternKind.Stripes, Blue, Snow), null, false, Length.FromMm(8)).Apply(Badge(VectorPath.Disc(new(50, 40), 20)));
        var piece = design.Pieces[0];
        Assert.True(piece.IsPrinted);
        var art = PrintedArt.Of(piece, new PrintSettings());
        Assert.Null(art.Beyond);
        // Stripes of a quarter of 8 mm, half of them printed, also beyond the edge.
        Assert.All(art.Items.OfType<DrawnPath>(), p => Assert.True(p.Path.Bounds.Holds(art.Grown.Bounds) || p.Ink.Fill == Blue));
        Assert.Equal(Blue, Seen.ColourAt(design, new(50 - 4 + 1, 40), _ => Colour.White));
        Assert.Equal(Snow, Seen.ColourAt(design, new(48, 40), _ => Colour.White));
        Assert.Null(Seen.ColourAt(design, new(5, 5), _ => Colour.White));
    }

    [Fact]
    public void Another_pattern_lies_as_the_first_did_and_is_moved_sized_and_turned_like_any_thing()
    {
        var design = new FillWith([One], new(PatternKind.Dots, Blue, null), null, false, null).Apply(Badge(VectorPath.Rectangle(10, 10, 60, 40)));
        var id = design.Pieces[0].Artwork[0].Id;
        design = new Turn([id], Angle.FromDegrees(30)).Apply(new Move([id], Length.FromMm(7), Length.FromMm(-2)).Apply(design));
        var was = design.Pieces[0].Artwork[0];
        design = new FillWith([One], new(PatternKind.Checks, Snow, Blue), null, false, null).Apply(design);
        var now = Assert.Single(design.Pieces[0].Artwork);
        Assert.Equal(id, now.Id);
        Assert.Equal(new Point(47, 28), now.Map.Apply(new(0.5, 0.5)), (a, b) => a.DistanceTo(b) < 1e-9);
        Assert.Equal(was.Map.A, now.Map.A, 9);
        design = new Resize([id], Length.FromMm(5), null, true, Anchor.Centre).Apply(design);
        Assert.Equal(5, design.Pieces[0].Artwork[0].Bounds.Width, 6);
        // A tile too small to be printed is not made.
        Assert.Same(design.Pieces[0].Artwork[0], new Resize([id], Length.FromMm(0.5), null, true, Anchor.Centre).Apply(design).Pieces[0].Artwork[0]);
        Assert.Empty(new LeaveOut([id]).Apply(design).Pieces[0].Artwork);
        Assert.NotNull(new FillWith([One], new(PatternKind.Dots, Blue, null), null, false, Length.FromMm(1)).Refusal(design));
        Assert.NotNull(new FillWith([One], null, new([1, 2, 3]), true, null).Refusal(design));
    }

    [Fact]
    public void A_picture_covers_the_piece_once_or_is_set_as_tiles()
    {
        var picture = new Picture([.. new Raster(40, 20, [.. Enumerable.Repeat(new byte[] { 200, 30, 40, 255 }, 800).SelectMany(p => p)], null).ToPng()]);
        var design = Badge(VectorPath.Rectangle(10, 10, 60, 40));
        var once = new FillWith([One], null, picture, false, null).Apply(design).Pieces[0].Artwork[0];
        Assert.Equal(new Box(0, 10, 80, 50), once.Bounds, (a, b) => Math.Abs(a.Left - b.Left) + Math.Abs(a.Bottom - b.Bottom) < 1e-9);
        var tiles = new FillWith([One], null, picture, true, Length.FromMm(10)).Apply(design).Pieces[0].Artwork[0];
        Assert.InRange(tiles.Drawn(new(10, 10, 70, 50)).Count(), 6 * 8, 8 * 10);
    }

    /// <summary>Three pieces on three plies become one that is cut once and shows the same, and pieces again.</summary>
    [Fact]
    public void Pieces_become_one_printed_picture_and_pieces_again()
    {
        var design = Badge(VectorPath.Rectangle(10, 10, 60, 40));
        design = new AddPiece(new Drawn(VectorPath.Disc(new(0, 0), 12)), Place.Own.Moved(new(60, 30)), "sun").Apply(design);
        design = new AddPiece(new Drawn(VectorPath.Rectangle(0, 0, 20, 8)), Place.Own.Moved(new(15, 20)), "hut").Apply(design);
        var ids = design.Pieces.Select(p => p.Id).ToImmutableArray();
        Colour[] colours = [Snow, new(230, 180, 40), Blue];
        design = design with { AllPieces = [.. design.AllPieces.Select((p, k) => p with { Colour = colours[k] })] };
        design = new FillWith([ids[2]], new(PatternKind.Stripes, Colour.Black, null), null, false, Length.FromMm(8)).Apply(design);
        Point[] places = [new(12, 45), new(60, 30), new(70, 30), new(25, 24), new(24.2, 24), new(34.9, 20.1)];
        var seen = places.Select(p => Seen.ColourAt(design, p, q => q.Colour)).ToList();

        var one = new PrintTogether(ids).Apply(design);
        var piece = Assert.Single(one.Pieces);
        Assert.Single(piece.Edges);
        Assert.Equal(seen, places.Select(p => Seen.ColourAt(one, p, q => q.Colour)));
        Assert.Equal(FalzFile.Write(one), FalzFile.Write(FalzFile.Read(FalzFile.Write(one))));

        var again = new CutAgain(piece.Id).Apply(one);
        Assert.Equal(["badge", "sun", "hut"], again.Pieces.Select(p => p.Label));
        Assert.Equal(design.Pieces.Select(p => p.AreaMm2), again.Pieces.Select(p => p.AreaMm2), (a, b) => Math.Abs(a - b) < 0.01);
        Assert.Equal(seen, places.Select(p => Seen.ColourAt(again, p, q => q.Colour)));
        Assert.NotNull(new PrintTogether([ids[1], ids[2]]).Refusal(design));
    }
}
