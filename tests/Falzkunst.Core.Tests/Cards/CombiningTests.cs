using Falzkunst.Core.Cards;

namespace Falzkunst.Core.Tests.Cards;

public sealed class CombiningTests
{
    // A base with a fold, a drawn line and a hole; a round that lies half over its right edge, with a line of its own; and one far away.
    private static readonly Design Card = Cases.Read("<svg xmlns='http://www.w3.org/2000/svg' width='100mm' height='100mm' viewBox='0 0 100 100'>"
        + "<path d='M0 0H60V40H0ZM10 10V20H20V10Z' fill='#f4ead2'/><path d='M30 0V40' stroke='#00f' stroke-dasharray='3 1' fill='none'/>"
        + "<path d='M40 30C44 34 56 34 58 30' stroke='#c0c' fill='none'/><circle cx='60' cy='20' r='12' fill='#335544'/>"
        + "<path d='M64 16C66 20 68 24 69 20' stroke='#fff' fill='none'/><rect x='80' y='80' width='9' height='9' fill='#335544'/></svg>");

    private static string Id(string colour) => Card.Pieces.First(p => p.Colour.Hex == colour).Id;

    private static readonly string Base = Id("#f4ead2"), Round = Id("#335544"), Far = Card.Pieces.Last(p => p.Colour.Hex == "#335544").Id;

    [Fact]
    public void Joined_pieces_are_one_that_carries_all_their_lines()
    {
        var joined = Sound(new JoinPieces([Base, Round]));
        var piece = joined.Piece(Base)!;
        Assert.Null(joined.Piece(Round));
        Assert.Equal(Card.Lines.Length, piece.Lines.Length);
        Assert.Equal(2, piece.Edges.Length);
        Assert.Equal(60 * 40 - 100 + Math.PI * 72, piece.AreaMm2, 0.1);
        Assert.Single(piece.Folds);
    }

    [Fact]
    public void What_does_not_touch_is_not_joined_and_the_reason_is_said()
    {
        Assert.Equal("They don't all touch: joined, they would stay 2 parts. Move them together first.", new JoinPieces([Base, Far]).Refusal(Card));
        Assert.Same(Card, new JoinPieces([Base, Far]).Apply(Card));
        Assert.NotNull(new KeepOverlap([Base, Far]).Refusal(Card));
        Assert.NotNull(new Divide([Base, Far]).Refusal(Card));
        Assert.NotNull(new TakeAway([Base], [Far]).Refusal(Card));
        Assert.NotNull(new TakeAway([Round], [Base, Round, Far]).Apply(Card) == Card ? "same" : null);
    }

    [Fact]
    public void Nothing_would_be_left()
    {
        var over = new Move([Base], Length.FromMm(20), Length.FromMm(0)).Apply(Card);
        Assert.Equal($"Nothing of “{over.Piece(Round)!.Label}” would be left.", new TakeAway([Round], [Base]).Refusal(over));
    }

    [Fact]
    public void A_line_over_a_new_edge_is_cut_off_there()
    {
        var left = Sound(new TakeAway([Base], [Round]));
        Assert.NotNull(left.Piece(Round));
        var piece = left.Piece(Base)!;
        Assert.Equal(60 * 40 - 100 - Math.PI * 72, piece.AreaMm2, 0.1);
        var drawn = left.Lines.Single(l => l.Look == Card.Lines.Single(o => o.Path.Bounds.Top is > 29 and < 31).Look);
        Assert.Equal(Base, drawn.By?.Id);
        Assert.True(drawn.Path.Length < Card.Line(drawn.Id)!.Path.Length);
    }

    [Fact]
    public void Cut_apart_each_part_keeps_what_lies_on_it()
    {
        var parts = Sound(new CutApart([Base], VectorPath.Polyline(new(35, 10), new(35, 30))));
        Assert.Equal(Card.Pieces.Length + 1, parts.Pieces.Length);
        Assert.Equal(35 * 40 - 100, parts.Piece(Base)!.AreaMm2, 6);
        var fresh = Assert.Single(parts.Pieces, p => Card.Piece(p.Id) is null);
        Assert.Single(fresh.Lines);
        Assert.Single(parts.Piece(Base)!.Folds);
        Assert.Equal(25 * 40, fresh.AreaMm2, 6);
        Assert.NotNull(new CutApart([Base], VectorPath.Polyline(new(300, 10), new(300, 30))).Refusal(Card));
    }

    [Fact]
    public void Divided_pieces_are_all_parts_and_what_both_share_belongs_to_the_first()
    {
        var parts = Sound(new Divide([Base, Round]));
        Assert.Equal(Card.Pieces.Length + 1, parts.Pieces.Length);
        Assert.Equal(60 * 40 - 100 + Math.PI * 72, parts.Pieces.Where(p => p.Id != Far).Sum(p => p.AreaMm2), 0.1);
        Assert.Equal(parts.Piece(Base)!.PlyId, Assert.Single(parts.Pieces, p => Card.Piece(p.Id) is null).PlyId);
    }

    [Fact]
    public void A_turned_piece_is_combined_where_it_lies_and_keeps_its_own_coordinates()
    {
        var turned = new Turn([Base], Angle.FromDegrees(90), new(60, 20)).Apply(Card);
        var joined = new JoinPieces([Base, Round]).Apply(turned);
        Assert.Null(joined.Check());
        Assert.Equal(turned.Piece(Base)!.Place, joined.Piece(Base)!.Place);
        Assert.Equal(turned.Piece(Base)!.AreaMm2 + turned.Piece(Round)!.AreaMm2
            - new KeepOverlap([Base, Round]).Apply(turned).Piece(Base)!.AreaMm2, joined.Piece(Base)!.AreaMm2, 1e-4);
    }

    [Fact]
    public void A_punch_goes_through_all_plies_below()
    {
        var punched = Sound(new Punch(Round));
        Assert.NotNull(punched.Piece(Round));
        Assert.True(punched.Piece(Base)!.AreaMm2 < Card.Piece(Base)!.AreaMm2 - 200);
        Assert.Equal("Nothing lies below “" + Card.Piece(Base)!.Label + "”.", new Punch(Base).Refusal(Card));
    }

    [Fact]
    public void Sized_in_one_ratio_all_that_a_piece_carries_grows_with_it_and_the_corner_stays()
    {
        var wide = Sound(new Resize([Base], Length.FromMm(90), null, true, new(0, 0)));
        var piece = wide.Piece(Base)!;
        Assert.Equal(Card.Piece(Base)!.AreaMm2 * 2.25, piece.AreaMm2, 6);
        Assert.Equal((0.0, 0.0, 90.0, 60.0), (piece.OnCard.Bounds.Left, piece.OnCard.Bounds.Top, piece.OnCard.Bounds.Right, piece.OnCard.Bounds.Bottom));
        Assert.Equal(60, piece.Lines.Max(l => l.Path.Bounds.Height), 6);
        var turned = new Turn([Base], Angle.FromDegrees(30)).Apply(Card);
        var sized = new Resize([Base, Round], Length.FromMm(50), Length.FromMm(120), false, new(1, 1)).Apply(turned);
        var box = sized.Pieces.Where(p => p.Id == Base || p.Id == Round).Aggregate(Box.Empty, (b, p) => b.With(p.OnCard.Bounds));
        Assert.Equal((50, 120), (Math.Round(box.Width, 6), Math.Round(box.Height, 6)));
        Assert.Null(sized.Check());
    }

    [Theory]
    [InlineData(0, null)]
    [InlineData(-3, 9.0)]
    [InlineData(1e6, null)]
    [InlineData(1e-9, null)]
    [InlineData(5000, 5000.0)]
    public void A_size_that_is_none_is_refused_and_nothing_changes(double width, double? height)
    {
        var edit = new Resize([Base], Length.FromMm(width), height is { } h ? Length.FromMm(h) : null, height is null, Anchor.Centre);
        if (width == 5000)
        {
            Assert.Null(edit.Refusal(Card));
            return;
        }

        Assert.EndsWith("nothing was changed.", edit.Refusal(Card));
        Assert.Same(Card, edit.Apply(Card));
    }

    [Fact]
    public void Copies_are_pieces_of_their_own_in_rows_and_columns()
    {
        var many = Sound(new Copies([Base], 2, 3, Length.FromMm(70), Length.FromMm(50)));
        Assert.Equal(Card.Pieces.Length + 5, many.Pieces.Length);
        var last = many.Pieces.Last(p => p.Label.EndsWith(" 6", StringComparison.Ordinal));
        Assert.Equal(new Point(140, 50), last.Place.Shift);
        Assert.Equal(Card.Piece(Base)!.Lines.Length, last.Lines.Length);
        Assert.Single(last.Folds);
        Assert.Equal("That would be more than 2000 pieces; nothing was changed.", new Copies([Base], 200, 200, default, default).Refusal(Card));
    }

    [Fact]
    public void A_mirrored_piece_is_joined_and_taken_away_as_any_other()
    {
        var shape = new Made("rectangle", System.Collections.Immutable.ImmutableSortedDictionary<string, double>.Empty.Add("width", 20).Add("height", 20));
        foreach (var mirrored in new[] { false, true })
        {
            var design = new AddPiece(shape, Place.Own.Moved(new(30, 30)), "Other").Apply(Design.Blank(Length.FromMm(90), Length.FromMm(90)));
            design = new AddPiece(shape, new(Angle.FromDegrees(0).Normal, new(mirrored ? 40 : 20, 20), mirrored), "One").Apply(design);
            string one = design.Pieces[1].Id, other = design.Pieces[0].Id;
            var common = 400 - Assert.Single(new TakeAway([one], [other]).Apply(design).Pieces, p => p.Id == one).AreaMm2;
            Assert.InRange(common, 1, 399);
            Assert.Equal(800 - common, Assert.Single(new JoinPieces([one, other]).Apply(design).Pieces).AreaMm2, 6);
            Assert.Equal(common, Assert.Single(new KeepOverlap([one, other]).Apply(design).Pieces).AreaMm2, 6);
        }
    }

    [Fact]
    public void A_punch_goes_through_as_many_plies_as_are_wanted_and_only_what_lies_there()
    {
        var design = Design.Blank(Length.FromMm(200), Length.FromMm(100));
        foreach (var (x, width) in new[] { (0, 100), (0, 100), (40, 60), (120, 50), (10, 10), (70, 10) })
            design = new AddPiece(new Drawn(VectorPath.Rectangle(0, 0, width, 50)), Place.Own.Moved(new(x, x is 10 or 70 ? 20 : 10)), "").Apply(design);
        string[] ids = [.. design.Pieces.Select(p => p.Id)];
        int[] Cut(Punch punch) => [.. Enumerable.Range(0, 4).Where(i => Sound(design, punch).Piece(ids[i])!.AreaMm2 < design.Piece(ids[i])!.AreaMm2 - 1)];
        Assert.Equal([0, 1], Cut(new(ids[4])));
        Assert.Equal([1], Cut(new(ids[4]) { Through = 1 }));
        Assert.Equal([1, 2], Cut(new(ids[4]) { Also = [ids[5]], Through = 2 }));
        Assert.Equal([0], Cut(new(ids[4]) { But = [design.Piece(ids[1])!.PlyId] }));
        Assert.Equal(4, Punch.Under(design, [design.Piece(ids[4])!, design.Piece(ids[5])!], []).Sum(p => p.Count) + 1);

        static Design Sound(Design before, Edit edit)
        {
            var next = edit.Make(before);
            Assert.Null(next.Check());
            return next;
        }
    }

    [Fact]
    public void What_is_joined_to_a_held_piece_does_not_push_it_aside()
    {
        var held = new Align([Round], "page", AlignAt.Middle, AlignAt.Middle, default).Make(Card);
        var joined = new AddJoined(Round, [new(new Drawn(VectorPath.Rectangle(0, 0, 40, 6)), Place.Own.Moved(held.Piece(Round)!.OnCard.Bounds.Centre))]);
        var next = joined.Make(held);
        Assert.NotEqual(held.Piece(Round)!.Outline, next.Piece(Round)!.Outline);
        Assert.Equal(held.Piece(Round)!.Place, next.Piece(Round)!.Place);
        Assert.Null(next.Piece(Round)!.Held);
    }

    [Fact]
    public void A_line_that_ends_a_little_beyond_what_it_is_drawn_on_stays_there()
    {
        var design = Design.Blank(Length.FromMm(200), Length.FromMm(100));
        design = new AddPiece(new Drawn(VectorPath.Rectangle(0, 0, 100, 80)), Place.Own, "Body").Apply(design);
        design = new AddPiece(new Drawn(VectorPath.Rectangle(10, 10, 30, 30)), Place.Own, "Head").Apply(design);
        var (body, head) = (design.Pieces[0].Id, design.Pieces[1].Id);
        string? By(double x) => new AddLine(VectorPath.Polyline(new(15, 20), new(x, 20)), null, Operation.Draw).Apply(design).Lines.Single().CarriedBy;
        Assert.Equal([head, head, body], new[] { By(39), By(40.3), By(60) });
    }

    [Fact]
    public void Several_are_aligned_as_they_lie_to_one_another_unless_each_is_meant()
    {
        var design = Card;
        foreach (var x in new[] { 10, 30, 50 })
            design = new AddPiece(new Drawn(VectorPath.Rectangle(0, 0, 8, 8)), Place.Own.Moved(new(x, 100 + x)), "").Apply(design);
        System.Collections.Immutable.ImmutableArray<string> ids = [.. design.Pieces[^3..].Select(p => p.Id)];
        var one = new Align(ids, "page", AlignAt.Middle, AlignAt.Middle, default) { AsOne = true }.Make(design);
        var (before, after) = (Align.Around(design, ids), Align.Around(one, ids));
        Assert.Equal((design.Width.Mm / 2, design.Height.Mm / 2), (Math.Round(after.Centre.X, 6), Math.Round(after.Centre.Y, 6)));
        Assert.Equal((before.Width, before.Height), (Math.Round(after.Width, 6), Math.Round(after.Height, 6)));
        var each = new Align(ids, "page", AlignAt.Middle, AlignAt.Middle, default).Make(design);
        Assert.Equal(8, Align.Around(each, ids).Width, 6);
    }

    [Fact]
    public void Aligned_to_the_second_panel_of_a_base_with_an_inset()
    {
        var aligned = Sound(new Align([Round], $"{Base}#1", AlignAt.End, AlignAt.Middle, Length.FromMm(6)));
        var box = aligned.Piece(Round)!.OnCard.Bounds;
        Assert.Equal((54, 20), (Math.Round(box.Right, 6), Math.Round(box.Centre.Y, 6)));
        Assert.Equal("What it would be aligned to is gone.", new Align([Round], $"{Base}#7", AlignAt.End, null, default).Refusal(Card));
        var page = Sound(new Align([Base, Round], "page", AlignAt.Middle, AlignAt.End, Length.Zero));
        Assert.All(new[] { Base, Round }, id => Assert.Equal((50, 100), (Math.Round(page.Piece(id)!.OnCard.Bounds.Centre.X, 6),
            Math.Round(page.Piece(id)!.OnCard.Bounds.Bottom, 6))));
    }

    [Fact]
    public void Spread_pieces_have_equal_gaps_and_the_outermost_stay()
    {
        var spread = Sound(new Spread([Base, Far, Round], true));
        double Left(string id) => spread.Piece(id)!.OnCard.Bounds.Left;
        double Right(string id) => spread.Piece(id)!.OnCard.Bounds.Right;
        Assert.Equal((0.0, 80.0), (Left(Base), Left(Far)));
        Assert.Equal(Left(Round) - Right(Base), Left(Far) - Right(Round), 6);
        Assert.NotNull(new Spread([Base, Far], true).Refusal(Card));
    }

    private static Design Sound(Edit edit)
    {
        Assert.Null(edit.Refusal(Card));
        var next = edit.Apply(Card);
        Assert.Null(next.Check());
        return next;
    }
}
