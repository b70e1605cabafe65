using System.Collections.Immutable;
using Falzkunst.Core.Cards;
using Falzkunst.Core.Findings;
using Falzkunst.Core.Measures;

namespace Falzkunst.Core.Tests.Cards;

/// <summary>What came in wrongly, or nobody could know, is set right by one edit each.</summary>
public sealed class WaysOutTests
{
    private static Design Read(string body) =>
        Cases.Read("<svg xmlns='http://www.w3.org/2000/svg' width='200mm' height='120mm' viewBox='0 0 200 120'><g stroke='#000' stroke-width='.3'>"
            + $"{body}</g></svg>");

    private const string Base = "<path fill='none' d='M10 10H110V90H10Z'/>", Window = "<rect fill='none' x='30' y='30' width='20' height='20'/>",
        Sun = "<circle cx='80' cy='50' r='10' fill='#c96b4b' stroke='none'/>";

    private static Design Sound(Design design)
    {
        Assert.Null(design.Check());
        return design;
    }

    [Fact]
    public void A_piece_becomes_a_hole_and_the_hole_a_piece_again()
    {
        var design = Read(Base + Sun);
        var sun = design.Pieces[1];
        var area = design.Pieces[0].AreaMm2;
        var open = Sound(new Become([sun.Id], Meaning.Hole).Apply(design));
        Assert.Equal(area - sun.AreaMm2, Assert.Single(open.Pieces).AreaMm2, 6);
        var hole = RingId.Of(open.Pieces[0].Id, 1);
        var again = Sound(new Become([hole], Meaning.Paper).Apply(open));
        Assert.Equal(2, again.Pieces.Length);
        Assert.Equal(area, again.Pieces[0].AreaMm2, 6);
        Assert.Equal(area, Assert.Single(Sound(new Become([hole], Meaning.Rest).Apply(open)).Pieces).AreaMm2, 6);
    }

    [Theory]
    [InlineData(Meaning.Pen, Operation.Draw)]
    [InlineData(Meaning.Printed, Operation.Print)]
    [InlineData(Meaning.Fold, Operation.Score)]
    public void A_piece_or_a_hole_becomes_a_line_on_the_paper_there(Meaning meaning, Operation operation)
    {
        var design = Read(Base + Window + Sun);
        foreach (var id in new[] { design.Pieces[1].Id, RingId.Of(design.Pieces[0].Id, 1) })
        {
            var next = Sound(new Become([id], meaning).Apply(design));
            var line = Assert.Single(next.Lines);
            Assert.Equal((operation, design.Pieces[0].Id), (line.Operation, line.CarriedBy));
        }
    }

    [Fact]
    public void One_picture_lies_over_several_pieces_however_they_lie_and_another_takes_its_place()
    {
        var design = Read("<rect x='10' y='10' width='40' height='40' fill='#c96b4b'/><rect x='60' y='20' width='40' height='40' fill='#c96b4b'/>");
        string[] ids = [.. design.Pieces.Select(p => p.Id)];
        design = new Mirror([ids[1]], MirrorAxis.Upright, null).Apply(new Turn([ids[1]], Angle.FromDegrees(30), null).Apply(design));
        var picture = AnyEdit.APicture;
        var over = Sound(new FillWith([.. ids], null, picture, false, null) { AsOne = true }.Apply(design));
        Affine OnCard(LaidArtwork a) => a.Artwork.Map.Then(a.By!.Place.Map);
        Assert.Equal(2, over.Artwork.Length);
        Assert.All(over.Artwork, a => Assert.True(OnCard(a).Apply(new(0.3, 0.6)).DistanceTo(OnCard(over.Artwork[0]).Apply(new(0.3, 0.6))) < 1e-9));
        Box all = over.Artwork[0].Bounds, around = Align.Around(over, [.. ids]);
        Assert.True(all.Left < around.Left + 1e-9 && all.Right > around.Right - 1e-9 && all.Top < around.Top + 1e-9 && all.Bottom > around.Bottom - 1e-9);
        // On one of them alone, and then on both again, it lies where it lay.
        var first = over.Artwork[0];
        var one = Sound(new PrintOn(first.Id, [ids[1]]).Apply(new Remove([over.Artwork[1].Id]).Apply(over)));
        Assert.Equal((ids[1], first.Id), (Assert.Single(one.Artwork).CarriedBy, one.Artwork[0].Id));
        var both = Sound(new PrintOn(first.Id, [.. ids]).Apply(one));
        Assert.All(both.Artwork, a => Assert.True(OnCard(a).Apply(new(0.3, 0.6)).DistanceTo(OnCard(first).Apply(new(0.3, 0.6))) < 1e-9));
        var other = new Picture([.. new Falzkunst.Core.Pictures.Raster(20, 60, [.. Enumerable.Repeat((byte)200, 4800)], null).ToPng()]);
        var replaced = Sound(new ReplacePicture(first.Id, other).Apply(both)).Artwork.Single(a => a.Id == first.Id);
        Assert.Equal(first.Artwork.TileWidth.Mm, replaced.Artwork.TileWidth.Mm, 9);
        Assert.Equal(3 * first.Artwork.TileWidth.Mm, replaced.Artwork.TileHeight.Mm, 6);
        Assert.True(OnCard(replaced).Apply(new(0.5, 0.5)).DistanceTo(OnCard(first).Apply(new(0.5, 0.5))) < 1e-9);
    }

    [Fact]
    public void What_a_piece_carried_goes_to_the_paper_below_it()
    {
        var design = Read(Base + "<rect x='30' y='30' width='40' height='40' fill='#c96b4b' stroke='none'/>"
            + "<path fill='none' stroke='#00f' d='M35 40C45 35 50 45 60 40'/>");
        Assert.Equal(design.Pieces[1].Id, design.Lines.Single().CarriedBy);
        var next = Sound(new Become([design.Pieces[1].Id], Meaning.Printed).Apply(design));
        Assert.All(next.Lines, l => Assert.Equal(design.Pieces[0].Id, l.CarriedBy));
        Assert.Equal(2, next.Lines.Length);
    }

    /// <summary>Any shape anywhere on a base, turned, mirrored, hanging over, filled with a pattern, tiles or one picture: once it is only printed, the base
    /// shows at each place what the piece showed there. FALZKUNST_PRINTED ("600@1000") says how many.</summary>
    [Fact]
    public void Only_printed_it_looks_as_it_did()
    {
        var (count, first) = Cases.Seeds("FALZKUNST_PRINTED", "40@1", "400@1");
        var (seen, wrong, said) = (0, 0, 0);
        var pictures = new System.Collections.Concurrent.ConcurrentDictionary<ImmutableArray<byte>, SkiaSharp.SKBitmap>();
        for (var seed = first; seed < first + count; seed++)
        {
            var r = new Random(seed);
            double Mm(double from, double to) => from + (to - from) * r.NextDouble();
            Design Add(Design on, string kind, double width, double height) => new AddPiece(new Made(kind, ImmutableSortedDictionary<string, double>.Empty
                .Add("width", width).Add("height", height)), new(Angle.FromDegrees(r.Next(360)).Normal, new(Mm(10, 110), Mm(10, 80)), r.Next(2) == 0), "")
                .Apply(on);
            var design = new AddPiece(new Drawn(VectorPath.Rectangle(0, 0, 120, 90)), Place.Own, "Base").Apply(Design.Blank(Length.FromMm(120),
                Length.FromMm(90)));
            for (var n = r.Next(1, 4); n > 0; n--)
            {
                design = Add(design, r.Next(2) == 0 ? "ellipse" : "rectangle", Mm(8, 50), Mm(8, 50));
                var last = design.Pieces[^1];
                last = last with { Colour = new((byte)r.Next(256), (byte)r.Next(256), (byte)r.Next(256)) };
                design = design with { AllPieces = design.AllPieces.SetItem(design.AllPieces.Length - 1, last) };
                if (r.Next(3) > 0) design = Filled(design, last.Id, r);
                last = design.Pieces[^1];
                var become = new Become([last.Id], Meaning.Printed);
                var next = Sound(become.Apply(design));
                if (next.Equals(design)) continue;
                if (become.Loses(design) is not null) said++;
                else Assert.True(design.Pieces[0].OnCard.Bounds.Grown(Tolerances.Carried).Holds(last.OnCard.Bounds), $"{seed}: it hangs over, unsaid");
                Assert.Equal(design.Pieces.Length - 1, next.Pieces.Length);
                var host = next.Pieces.First(p => p != design.Piece(p.Id));
                for (var k = 0; k < 40; k++)
                {
                    var at = new Point(Mm(0, 120), Mm(0, 90));
                    if (!Deep(last, at) || !Deep(host, at)) continue;
                    seen++;
                    if (Far(Seen(last, at), Seen(host, at))) wrong++;
                }

                design = next;
            }
        }

        Assert.True(seen > 20 * count / 10 && wrong <= 0.03 * seen, $"{wrong} of {seen} places differ");
        Assert.True(said > count / 10);

        static bool Deep(Piece piece, Point at) => piece.OnCard.Encloses(at) && piece.OnCard.DistanceTo(at) > 0.5;

        // What one sees at a place of the card that a piece covers, from the topmost thing down; its own colour where nothing is printed.
        Colour Seen(Piece piece, Point at)
        {
            var own = piece.Place.Map.Inverse().Apply(at);
            foreach (var item in Core.Printing.PrintedArt.Of(piece).Reverse())
            {
                if (item is Core.Pictures.DrawnPath { Ink.Fill: { } fill } path && path.Path.Encloses(own)) return fill;
                if (item is not Core.Pictures.DrawnPicture picture || picture.Place.Inverse().Apply(own) is not { X: > 0 and < 1, Y: > 0 and < 1 } on) continue;
                var bits = pictures.GetOrAdd(picture.Bytes, b => SkiaSharp.SKBitmap.Decode([.. b]));
                var pixel = bits.GetPixel((int)(on.X * bits.Width), (int)(on.Y * bits.Height));
                if (pixel.Alpha > 127) return new(pixel.Red, pixel.Green, pixel.Blue);
            }

            return piece.Colour;
        }

        static bool Far(Colour a, Colour b) => Math.Max(Math.Abs(a.R - b.R), Math.Max(Math.Abs(a.G - b.G), Math.Abs(a.B - b.B))) > 60;

        static Design Filled(Design design, string id, Random r) => r.Next(3) switch
        {
            0 => new FillWith([id], new Pattern((PatternKind)r.Next(12), new(20, 60, 90), new(230, 220, 200)), null, true, Length.FromMm(12)).Apply(design),
            1 => new FillWith([id], null, new Picture([.. Core.Writing.Paper.Render(Read(Sun), 60, Core.Writing.DrawAs.Artwork).Png]), true,
                Length.FromMm(15)).Apply(design),
            _ => new FillWith([id], null, new Picture([.. Core.Writing.Paper.Render(Read(Sun), 60, Core.Writing.DrawAs.Artwork).Png]), false, null)
                .Apply(design),
        };
    }

    [Fact]
    public void What_has_no_paper_around_it_stays_what_it_is()
    {
        var design = Read(Base + "<circle cx='150' cy='50' r='10' fill='#c96b4b' stroke='none'/>");
        Assert.Equal(design, new Become([design.Pieces[1].Id], Meaning.Hole).Apply(design));
        Assert.Equal(design, new Become([RingId.Of(design.Pieces[0].Id, 0), "p77/1", "l1/2", "p1/x"], Meaning.Hole).Apply(design));
    }

    [Fact]
    public void Panels_become_one_base_with_all_their_paper_and_a_fold_for_each_common_side()
    {
        var design = Read("<rect fill='none' x='10' y='10' width='30' height='60'/><rect fill='none' x='40' y='10' width='30' height='60'/>"
            + "<rect fill='none' x='70' y='10' width='30' height='60'/><circle fill='none' cx='55' cy='40' r='8'/>");
        var doubt = Assert.Single(Doubts.Of(design));
        Assert.Equal(3, doubt.About.Length);
        var next = Sound(doubt.With(design, doubt.Choices.Single(c => c.Meaning == Meaning.Panel)));
        var piece = Assert.Single(next.Pieces);
        Assert.Equal(design.Pieces.Sum(p => p.AreaMm2), piece.AreaMm2, 3);
        Assert.Equal((2, 3, 1), (piece.Folds.Length, Panels.Of(piece).Count, piece.HoleCount));
        Assert.Empty(Doubts.Of(next));
        // Leaving it as it came in settles it too.
        Assert.Empty(Doubts.Of(Sound(doubt.With(design, doubt.Choices[0]))));
    }

    [Fact]
    public void Sides_that_do_not_meet_become_one_outline_with_its_corners()
    {
        var design = Read("<rect x='150' y='10' width='20' height='20' fill='#246' stroke='none'/><g fill='none'><path d='M12 10H68'/><path d='M70 12V48'/>"
            + "<path d='M68 50H12'/><path d='M10 48V12'/></g>");
        var finding = FindingList.Of(new(design, [])).First(f => f.Code == "loose");
        // What could be a piece is never offered to be forgotten first.
        Assert.IsType<JoinLines>(finding.Remedies.First().Edit);
        Assert.Equal("Let them rest", finding.Remedies.Last().Label);
        var next = Sound(finding.Remedy!.Edit.Apply(design));
        Assert.Equal(60 * 40, next.Pieces[^1].AreaMm2, 3);
        Assert.Empty(next.Loose);
    }

    [Fact]
    public void Two_lines_become_one_fold_only_where_paper_lies_between_them()
    {
        var design = Read(Base + "<g fill='none' stroke='#a0f'><path d='M60 20V40'/><path d='M60 50V70'/></g>");
        var lines = design.Lines.Select(l => l.Id).ToArray();
        var next = Sound(new JoinFolds([.. lines]).Apply(design));
        Assert.Equal((Operation.Score, 50.0), (next.Lines.Single().Operation, Math.Round(next.Lines.Single().Path.Length.Mm, 6)));
        var parted = Read(Base + Window + "<g fill='none' stroke='#a0f'><path d='M40 15V25'/><path d='M40 55V70'/></g>");
        Assert.Equal(parted, new JoinFolds([.. parted.Lines.Select(l => l.Id)]).Apply(parted));
    }

    [Fact]
    public void A_line_belongs_to_the_piece_that_one_says_and_is_cut_off_at_its_edge()
    {
        var design = Read(Base + "<path fill='none' stroke='#a0f' d='M90 50C100 40 120 60 130 50'/>");
        var line = Assert.Single(design.Loose);
        var next = Sound(new CarryBy([line.Id], design.Pieces[0].Id).Apply(design));
        Assert.Equal(design.Pieces[0].Id, next.Lines.Single().CarriedBy);
        Assert.InRange(next.Lines.Single().Path.Bounds.Right, 109.9, 110.1);
    }

    [Fact]
    public void Two_pieces_swap_which_lies_below()
    {
        var design = Read(Base + Sun);
        var (a, b) = (design.Pieces[0], design.Pieces[1]);
        var next = Sound(new SwapBelow(a.Id, b.Id).Apply(design));
        Assert.Equal((b.PlyId, a.PlyId), (next.Piece(a.Id)!.PlyId, next.Piece(b.Id)!.PlyId));
        Assert.Equal(design, new SwapBelow(a.Id, b.Id).Apply(next));
    }

    [Fact]
    public void Whoever_says_in_the_look_table_what_is_done_has_answered()
    {
        var design = Read(Base + "<circle cx='60' cy='50' r='20' fill='none' stroke='#c00'/><path fill='none' stroke='#0a0' d='M20 20L40 25'/>");
        Assert.Equal(2, Doubts.Of(design).Length);
        foreach (var look in new[] { design.Pieces[0].Edges[1].Origin!.Look, design.Lines[0].Look })
            design = Sound(new SetLookOperation(look, Operation.Draw).Apply(design));
        Assert.Empty(Doubts.Of(design));
    }

    [Fact]
    public void Rules_keep_what_a_look_is_and_are_taken_back()
    {
        var first = Read(Base + "<circle cx='60' cy='50' r='20' fill='none' stroke='#c00'/>");
        Assert.NotEmpty(Doubts.Of(first));
        var look = first.Pieces[0].Edges[1].Origin!.Look;
        var rules = SourceRules.From(new Become(LookMembers.Of(first, look), Meaning.Pen).Apply(first), "Hut press");
        Assert.Contains(rules.Looks, l => l.Describe().EndsWith("drawn", StringComparison.Ordinal));
        var second = Read(Base + "<circle cx='50' cy='40' r='15' fill='none' stroke='#c00'/>");
        var ruled = Sound(new ApplyRules(rules).Apply(second));
        Assert.Equal((0, Operation.Draw), (ruled.Pieces[0].HoleCount, ruled.Lines.Single().Operation));
        Assert.Empty(Doubts.Of(ruled));
        var back = Sound(new TakeRulesBack().Apply(ruled));
        Assert.Equal((1, 0), (back.Pieces[0].HoleCount, back.Lines.Length));
    }
}
