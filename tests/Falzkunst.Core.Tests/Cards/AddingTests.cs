using System.Collections.Immutable;
using Falzkunst.Core.Cards;
using Falzkunst.Core.Documents;
using Falzkunst.Core.Findings;
using Falzkunst.Core.Lettering;

namespace Falzkunst.Core.Tests.Cards;

public sealed class AddingTests
{
    private static readonly Design Empty = Design.Blank(Length.FromMm(210), Length.FromMm(148));

    private static Lettered Words(string text, string face, double capHeight = 8) => new(text, face, 400, Length.FromMm(capHeight), Length.Zero);

    [Theory]
    [InlineData(BaseKind.Tent, 148, 210, 1)]
    [InlineData(BaseKind.SideFold, 296, 105, 1)]
    [InlineData(BaseKind.GateFold, 296, 105, 2)]
    [InlineData(BaseKind.TriFold, 444, 105, 2)]
    [InlineData(BaseKind.Accordion, 592, 105, 3)]
    public void A_base_has_panels_with_names_and_folds_that_nothing_is_said_against(BaseKind kind, double width, double height, int folds)
    {
        var made = CardBase.Of(kind, Length.FromMm(148), Length.FromMm(105));
        var design = new AddBase(made, new(0, 0)).Apply(Empty);
        Assert.Null(design.Check());
        var piece = Assert.Single(design.Pieces);
        Assert.Equal((width, height), (piece.Outline.Bounds.Width, piece.Outline.Bounds.Height));
        Assert.Equal(folds, piece.Folds.Length);
        Assert.Equal(made.Panels.Select(p => p.Name), Panels.Of(piece).Select(p => p.Name));
        Assert.DoesNotContain(FindingList.Of(new(design, [])), f => f.Severity != Severity.Note);
        Assert.Equal(made, CardBase.Flat(kind, made.FlatWidth, made.FlatHeight));
    }

    [Fact]
    public void Words_stay_words_wherever_they_go_and_whatever_size_they_get()
    {
        var design = new AddBase(CardBase.Of(BaseKind.SideFold, Length.FromMm(105), Length.FromMm(148)), new(0, 0)).Apply(Empty);
        design = new AddLine(null, new(Words("from the hut", "EMS Tech"), Place.Own.Moved(new(120, 60))), Operation.Draw).Apply(design);
        var id = design.Lines.Single(l => l.Line.Words is not null).Id;
        Assert.Equal("p3", design.Line(id)!.CarriedBy);
        var before = design.Line(id)!.Path;
        Assert.All(before.Subpaths, s => Assert.False(s.Closed));
        var turned = new Turn(["p3"], Angle.FromDegrees(30)).Apply(design);
        turned = new Resize(["p3"], Length.FromMm(300), null, true, Anchor.Centre).Apply(new Mirror(["p3"], MirrorAxis.Level).Apply(turned));
        Assert.NotNull(turned.Line(id)!.Line.Words);
        // The same shape: lengths have one ratio.
        Assert.Equal(before.Length.Mm * turned.Line(id)!.Line.Words!.Words.CapHeight.Mm / 8, turned.Line(id)!.Path.Length.Mm, 0.02);
        var longer = new SetWords(id, Words("with thanks from the hut", "EMS Felix", 5)).Apply(design);
        Assert.Equal(design.Line(id)!.Line.Words!.Place, longer.Line(id)!.Line.Words!.Place);
        Assert.Equal(longer, FalzFile.Read(FalzFile.Write(longer)));
    }

    [Fact]
    public void Words_run_along_an_edge_at_one_distance_upright_at_its_middle()
    {
        var paper = new PathBuilder().MoveTo(new(60, 0)).ArcTo(60, 40, Angle.Zero, false, true, new(60, 80)).ArcTo(60, 40, Angle.Zero, false, true, new(60, 0))
            .Close().Build();
        var words = Words("from the hut above the pines", "EMS Tech", 5);
        foreach (var edge in Enum.GetValues<WordsEdge>())
        {
            var bent = words.AlongEdge(paper, Length.FromMm(4), edge)!;
            Assert.Equal(60, bent.Path.Bounds.Centre.X, 1.5);
            var distances = bent.Path.Rings.SelectMany(r => r).Select(paper.DistanceTo).ToList();
            // Capitals' tops at the upper edge, the base line at the lower; ascenders are a little higher, descenders lower.
            Assert.InRange(distances.Min(), edge == WordsEdge.Upper ? 2.5 : 1, 4.3);
            Assert.All(bent.Path.Rings.SelectMany(r => r), p => Assert.True(paper.Encloses(p)));
            Assert.Equal(edge == WordsEdge.Upper, bent.Path.Bounds.Centre.Y < 40);
            Assert.Equal(words.Path.Length.Mm, bent.Path.Length.Mm, 0.01);
        }

        Assert.Null(Words(new string('w', 90), "EMS Tech", 5).AlongEdge(paper, Length.FromMm(4), WordsEdge.Upper));
    }

    [Fact]
    public void A_line_stays_where_it_was_aligned_when_it_is_written_anew_or_its_paper_is_sized_until_it_is_moved()
    {
        var design = new AddBase(CardBase.Of(BaseKind.SideFold, Length.FromMm(105), Length.FromMm(148)), new(0, 0)).Apply(Empty);
        design = new AddLine(null, new(Words("from the hut", "EMS Tech"), Place.Own.Moved(new(120, 60))), Operation.Draw).Apply(design);
        var id = design.Lines.Single(l => l.Line.Words is not null).Id;
        design = new Align([id], "p3#1", AlignAt.Middle, AlignAt.End, Length.FromMm(6)).Make(design);
        IsThere(148 - 6);
        design = new SetWords(id, Words("with thanks", "EMS Felix", 6)).Make(design);
        IsThere(148 - 6);
        design = new Move(["p3"], Length.FromMm(10), Length.FromMm(10)).Make(design);
        Assert.NotNull(design.Line(id)!.Line.Held);
        design = new Resize(["p3"], null, Length.FromMm(100), false, new(0, 0)).Make(design);
        IsThere(110 - 6);
        Assert.Equal(design.Line(id)!.Line.Held, FalzFile.Read(FalzFile.Write(design)).Line(id)!.Line.Held);
        design = new Move([id], Length.FromMm(1), Length.FromMm(-3)).Make(design);
        Assert.Null(design.Line(id)!.Line.Held);

        void IsThere(double bottom)
        {
            var (box, panel) = (design.Line(id)!.Path.Bounds, Align.BoxOf(design, "p3#1")!.Value);
            Assert.Equal(bottom, box.Bottom, 0.01);
            Assert.Equal(panel.Centre.X, box.Centre.X, 0.01);
        }
    }

    [Fact]
    public void A_piece_is_cut_apart_along_the_edge_of_another_which_stays()
    {
        var design = Empty;
        foreach (var (shape, x) in new[] { ("rectangle", 0.0), ("ellipse", 40.0) })
        {
            var numbers = ImmutableSortedDictionary<string, double>.Empty.Add("width", 60).Add("height", 40);
            design = new AddPiece(new Made(shape, numbers), Place.Own.Moved(new(x, 0)), shape).Apply(design);
        }

        var (paper, edge) = (design.Pieces[0], design.Pieces[1]);
        var cut = new CutAlong([paper.Id], edge.Id).Apply(design);
        Assert.Equal(3, cut.Pieces.Count());
        Assert.Same(edge, cut.Piece(edge.Id));
        Assert.Equal(paper.AreaMm2, cut.Pieces.Where(p => p.Id != edge.Id).Sum(p => p.AreaMm2), 1e-3);
        Assert.Contains(cut.Pieces, p => p.Id != edge.Id && p.OnCard.Bounds.Left > 39.9);
    }

    [Theory]
    [InlineData(40, 0.4)]
    [InlineData(25, 1.5)]
    [InlineData(12, -2.8)]
    public void A_trembling_hand_draws_the_arc_that_it_means(double radius, double half)
    {
        var r = new Random(4);
        var points = Enumerable.Range(0, 80).Select(i => -half + 2 * half * i / 79)
            .Select(t => new Point(radius * Math.Sin(t), -radius * Math.Cos(t)) + new Point(r.NextDouble() - 0.5, r.NextDouble() - 0.5) * 0.6).ToList();
        var arc = new VectorPath([CurveFit.Arc(points)!]);
        Assert.All(points, p => Assert.True(arc.DistanceTo(p) < 1, $"{arc.DistanceTo(p)}"));
        Assert.All(arc.Rings[0], p => Assert.Equal(radius, p.DistanceTo(new(0, 0)), radius * 0.05));
        Assert.Null(CurveFit.Arc([new(1, 1), new(3, 2), new(1, 1)]));
    }

    [Fact]
    public void Every_face_has_the_letters_of_these_languages_at_their_height()
    {
        foreach (var face in Faces.All)
        {
            Assert.Null(Faces.Missing("Danke schön, Grüße! à bientôt 0123456789 & ?", face));
            Assert.Equal(8, -Words("H", face.Name).Path.Bounds.Top, 0.15);
        }

        Assert.True(Faces.All.Where(f => !f.IsSingleLine).Select(f => f.Name).Distinct().Count() >= 6 && Faces.All.Count(f => f.IsSingleLine) >= 4);
        Assert.Contains("has no sign “ツ”", Faces.Missing("ツ", Faces.All[0]));
    }

    [Fact]
    public void Letters_keep_their_gap_are_as_wide_as_asked_and_are_aligned()
    {
        var apart = (Words("HÜTTE", "Abril Fatface") with { Apart = Length.FromMm(1.5) }).Path;
        var parts = Core.Regions.Region.Parts(apart, FillRule.EvenOdd).Where(p => p.Bounds.Height > 5).OrderBy(p => p.Bounds.Left).ToList();
        for (var k = 1; k < parts.Count; k++)
            Assert.InRange(Core.Regions.Region.Of(parts[k]).DistanceTo(Core.Regions.Region.Of(parts[k - 1])), 1.49, 4);
        Assert.Equal(90, Words("thank you", "Courgette").AsWide(Length.FromMm(90)).Path.Bounds.Width, 3);
        var lines = Words("a long line of words\nshort", "EMS Readability");
        double Left(TextAlign align) => (lines with { Align = align }).Path.Subpaths.Where(s => s.Start.Y > 6).Min(s => new VectorPath([s]).Bounds.Left);
        Assert.True(Left(TextAlign.Left) < Left(TextAlign.Centre) - 20 && Left(TextAlign.Centre) < Left(TextAlign.Right) - 20);
        // On a circle every letter stands as far from its centre.
        var bent = (Words("oooooooooo", "EMS Readability") with { Bend = Length.FromMm(40) }).Path;
        var middle = new Point(bent.Bounds.Centre.X, 40);
        Assert.All(bent.Subpaths, s => Assert.InRange(s.Flatten().Min(p => p.DistanceTo(middle)), 39, 41));
    }

    [Fact]
    public void Frames_lie_on_plies_of_their_own_and_what_has_no_outcome_is_refused()
    {
        var design = new AddPiece(new Made("rectangle", ImmutableNumbers(60, 40)), Place.Own, "Frame").Apply(Empty);
        var frames = new LayTreated(["p2"], [new Outset(Length.FromMm(-6))], 3, "inner", false).Apply(design);
        Assert.Equal([2400.0, 48 * 28, 36 * 16, 24 * 4], frames.Pieces.OrderBy(p => frames.PlyNumber(p.PlyId)).Select(p => Math.Round(p.AreaMm2, 3)));
        Assert.Equal("Nothing of “Frame” would be left the fourth time.".Replace("fourth", "4th", StringComparison.Ordinal),
            new LayTreated(["p2"], [new Outset(Length.FromMm(-6))], 4, "inner", false).Refusal(design));
        var backing = new LayTreated(["p2"], [new Outset(Length.FromMm(3))], 1, "backing", true).Apply(frames);
        Assert.Equal(1, backing.PlyNumber(backing.Pieces.Single(p => p.Label == "Frame backing").PlyId));
        foreach (var wrong in new Edit[]
        {
            new AddPiece(new Made("rectangle", ImmutableNumbers(0, 40)), Place.Own, "x"),
            new AddPiece(new Made("rectangle", ImmutableNumbers(1e6, 40)), Place.Own, "x"),
            new AddPiece(Words(new('a', 10_000), "Courgette"), Place.Own, "x"), new AddPiece(Words("a", "EMS Tech"), Place.Own, "x"),
            new AddLine(VectorPath.Polyline(new(0, 0), new(1e-9, 0)), null, Operation.Draw), new AddBase(CardBase.Of(BaseKind.Tent, default, default), default),
            new Treat(["p2"], new Outset(Length.FromMm(-30))), new Treat(["p2"], new RoundedCorners(Length.FromMm(-1))),
        })
        {
            Assert.NotNull(wrong.Refusal(design));
            Assert.Equal(design, wrong.Apply(design));
        }
    }

    [Fact]
    public void What_is_aligned_with_an_inset_stays_so_until_it_is_moved_by_hand()
    {
        var design = new AddPiece(new Made("rectangle", ImmutableNumbers(100, 60)), Place.Own, "Mat").Apply(Empty);
        design = new AddPiece(new Made("ellipse", ImmutableNumbers(20, 20)), Place.Own.Moved(new(150, 90)), "Sun").Apply(design);
        var held = new Align(["p4"], "p2", AlignAt.End, AlignAt.Start, Length.FromMm(6)).Make(design);
        Assert.Equal(new Box(74, 6, 94, 26), held.Piece("p4")!.OnCard.Bounds);
        // It follows a larger mat, a mat that is moved, and grows inwards when it is sized itself.
        var larger = new Resize(["p2"], Length.FromMm(120), null, false, new(0, 0)).Make(held);
        Assert.Equal(114, larger.Piece("p4")!.OnCard.Bounds.Right, 9);
        var moved = new Move(["p2"], Length.FromMm(10), Length.FromMm(5)).Make(larger);
        Assert.Equal((124.0, 11.0), (moved.Piece("p4")!.OnCard.Bounds.Right, moved.Piece("p4")!.OnCard.Bounds.Top));
        var sized = new Resize(["p4"], Length.FromMm(30), null, true, Anchor.Centre).Make(moved);
        Assert.Equal((124.0, 11.0), (Math.Round(sized.Piece("p4")!.OnCard.Bounds.Right, 9), Math.Round(sized.Piece("p4")!.OnCard.Bounds.Top, 9)));
        Assert.NotNull(new Move(["p2", "p4"], Length.FromMm(1), Length.FromMm(1)).Make(sized).Piece("p4")!.Held);
        var free = new Move(["p4"], Length.FromMm(-3), Length.Zero).Make(sized);
        Assert.Null(free.Piece("p4")!.Held);
        Assert.Equal(free.Piece("p4"), new Move(["p2"], Length.FromMm(9), Length.Zero).Make(free).Piece("p4"));
        Assert.Null(new Remove(["p2"]).Make(sized).Piece("p4")!.Held);
        Assert.Equal(sized, FalzFile.Read(FalzFile.Write(sized)));
    }

    [Fact]
    public void A_thing_that_goes_on_the_card_is_not_cut_and_what_lies_under_it_is_told()
    {
        var design = new AddBase(CardBase.Of(BaseKind.SideFold, Length.FromMm(105), Length.FromMm(148)), new(0, 0)).Apply(Empty);
        design = new AddPiece(new Made("ellipse", ImmutableNumbers(24, 24)), Place.Own.Moved(new(145, 60)), "Coin") { IsThing = true }.Apply(design);
        Assert.DoesNotContain(FindingList.Of(new(design, [])), f => f.Code == "under-thing");
        Assert.Single(design.Papers);
        Assert.Equal(1, Core.Cards.Work.Of(design.Pieces, []).Single(w => w.Operation == Operation.Cut).Edges);
        var words = new AddLine(null, new(Words("with thanks", "EMS Tech"), Place.Own.Moved(new(130, 74))), Operation.Draw).Apply(design);
        Assert.Equal("p3", words.Lines.Single(l => l.Line.Words is not null).CarriedBy);
        Assert.Contains(FindingList.Of(new(words, [])), f => f.Code == "under-thing" && f.Text == "A line lies under Coin, which goes there.");
        // A hole for it is placed from it.
        var hole = new TakeAway(["p3"], [design.Pieces.Single(p => p.IsThing).Id]).Apply(design);
        Assert.Equal(210 * 148 - Math.PI * 144, hole.Papers.Single().AreaMm2, 0.05);
    }

    [Fact]
    public void Envelopes_take_what_slides_in_and_thick_cards_need_more_room()
    {
        Length Mm(double mm) => Length.FromMm(mm);
        Assert.Equal("C6", Envelopes.For(Mm(105), Mm(148), Length.Zero)[0].Envelope.Name);
        Assert.Equal(6, Envelopes.Find("C6")!.ToSpare(Mm(148), Mm(105), Length.Zero).Mm, 9);
        Assert.DoesNotContain(Envelopes.For(Mm(105), Mm(148), Mm(3.5)), e => e.Envelope.Name == "C6");
        foreach (var e in Envelopes.All)
            Assert.Equal(0, e.ToSpare(e.LargestFront(Mm(2)).Width, e.LargestFront(Mm(2)).Height, Mm(2)).Mm, 9);
    }

    [Fact]
    public void A_strip_that_lies_on_a_sheet_at_an_angle_is_too_large_only_where_pieces_do_not_turn_so()
    {
        var stock = new Stock("s", "Card", Looks.Colour.White, 220, Length.FromMm(0.3), [new(Length.FromMm(305), Length.FromMm(305), 5, Length.FromMm(5))]);
        var design = new AddPiece(new Drawn(VectorPath.Rectangle(0, 0, 380, 20)), Place.Own, "").Apply(Design.Blank(Length.FromMm(400), Length.FromMm(100)));
        Findings.Finding? Of(Design d) => Findings.FindingList.Of(new(d, [stock])).FirstOrDefault(f => f.Code == "too-large");
        var turned = Of(design)!.Remedy!.Edit.Apply(design);
        Assert.Null(Of(turned));
        Assert.NotNull(Of(new Resize([design.Pieces[0].Id], Length.FromMm(440), null, false, Anchor.Centre).Apply(turned)));
    }

    [Fact]
    public void An_accordion_folds_away_from_its_front_whatever_its_panels()
    {
        for (var panels = 3; panels <= 9; panels++)
        {
            var piece = new Begin(CardBase.Of(BaseKind.Accordion, Length.FromMm(60), Length.FromMm(90)) with { PanelCount = panels }).First!.Pieces.Single();
            var sides = piece.Folds.OrderBy(f => piece.Lines.First(l => l.Id == f.LineId).Path.Bounds.Left).Select(f => f.Side).ToList();
            Assert.Equal(FoldSide.Mountain, sides[^1]);
            Assert.All(Enumerable.Range(1, sides.Count - 1), k => Assert.NotEqual(sides[k - 1], sides[k]));
        }
    }

    /// <summary>Any words in any place: in lines where one is too long, never smaller than was asked, and all the words are there.</summary>
    [Fact]
    public void Words_are_set_in_lines_in_their_place()
    {
        var (fit, not) = (0, 0);
        for (var seed = 1; seed <= 60; seed++)
        {
            var random = new Random(seed);
            var text = string.Join(' ', Enumerable.Range(0, random.Next(1, 20)).Select(_ => new string((char)('a' + random.Next(26)), random.Next(1, 9))));
            var words = new Lettered(text, Core.Lettering.Faces.Usual.Name, 400, Length.FromMm(3 + 12 * random.NextDouble()), Length.Zero);
            var (width, height, least) = (Length.FromMm(20 + 100 * random.NextDouble()), Length.FromMm(10 + 90 * random.NextDouble()),
                random.Next(2) == 0 ? words.CapHeight : Length.FromMm(2));
            if (words.Within(width, height, least) is not { } set)
            {
                not++;
                continue;
            }

            fit++;
            Assert.True(set.CapHeight >= least && set.Path.Bounds.Width <= width.Mm + 0.01 && set.Path.Bounds.Height <= height.Mm + 0.01);
            Assert.Equal(text, set.Text.Replace('\n', ' '));
        }

        Assert.True(fit > 20 && not > 3, $"{fit} {not}");
    }

    /// <summary>A base made for an envelope fits it, however it is folded and of whatever paper, whatever lies on it, standing or lying.</summary>
    [Fact]
    public void A_base_that_is_made_for_an_envelope_fits_it()
    {
        for (var seed = 1; seed <= 200; seed++)
        {
            var random = new Random(seed);
            var stock = new Stock("s", "Card", Fresh(random), 200 + random.Next(200), Length.FromMm(0.1 + 0.5 * random.NextDouble()), []);
            var envelope = Envelopes.All[random.Next(Envelopes.All.Count)];
            var (kind, panels, upright) = ((BaseKind)random.Next(1, 6), random.Next(3, 7), random.Next(2) == 0);
            var before = random.Next(2) == 0 ? null : new AddPiece(new Drawn(VectorPath.Rectangle(5, 5, 30, 30)), Place.Own, "").Apply(
                Design.Blank(Length.FromMm(297), Length.FromMm(210)));
            var (width, height) = envelope.FrontOf(kind, panels, before, [stock], upright);
            Assert.True(upright ? height >= width : width >= height);
            var made = CardBase.Of(kind, width, height) with { PanelCount = panels };
            var design = before is null ? new Begin(made).First! : new AddBase(made, default).Apply(before);
            var front = Panels.Of(design.Pieces.First(p => p.Folds.Length > 0)).MaxBy(p => p.AreaMm2)!.Bounds;
            var fits = Envelopes.For(Length.FromMm(front.Width), Length.FromMm(front.Height), Envelopes.ThicknessOf(design, [stock]));
            Assert.InRange(Assert.Single(fits, f => f.Envelope == envelope).ToSpare.Mm, 0, 0.21);
        }

        static Looks.Colour Fresh(Random random) => new((byte)random.Next(256), 240, 230);
    }

    [Fact]
    public void Copies_fill_a_panel_and_go_round_in_a_ring()
    {
        var design = new AddPiece(new Made("ellipse", ImmutableNumbers(20, 10)), Place.Own.Moved(new(100, 10)), "Seed").Apply(Empty);
        var filled = Copies.Filling(design, ["p2"], new(0, 0, 105, 58), Length.FromMm(2))!.Apply(design);
        Assert.Equal(4 * 5, filled.Pieces.Length);
        var all = filled.Pieces.Aggregate(Box.Empty, (b, p) => b.With(p.OnCard.Bounds));
        Assert.Equal((52.5, 29.0), (Math.Round(all.Centre.X, 9), Math.Round(all.Centre.Y, 9)));
        Assert.Null(Copies.Filling(design, ["p2"], new(0, 0, 30, 12), Length.FromMm(2)));
        var ring = new RingOfCopies(["p2"], 8, new(60, 60), true).Apply(design);
        Assert.All(ring.Pieces, p => Assert.Equal(ring.Pieces[0].OnCard.Bounds.Centre.DistanceTo(new(60, 60)),
            p.Place.Map.Apply(p.Outline.Bounds.Centre).DistanceTo(new(60, 60)), 1e-6));
        Assert.Equal(8, ring.Pieces.Select(p => Math.Round(p.Place.Turn.Degrees)).Distinct().Count());
    }

    [Fact]
    public void Joining_centres_pushes_together_and_smooths_what_a_seam_leaves()
    {
        var design = new AddPiece(new Made("rectangle", ImmutableNumbers(60, 40)), Place.Own, "Box").Apply(Empty);
        design = new AddPiece(new Made("ellipse", ImmutableNumbers(20, 20)), Place.Own.Moved(new(15, -30)), "Top").Apply(design);
        Assert.NotNull(new JoinPieces(["p2", "p4"]).Refusal(design));
        var one = Assert.Single(new JoinPieces(["p2", "p4"]) { PushTogether = true, CentreFirst = true }.Apply(design).Pieces);
        Assert.Equal((30.0, 60 - 0.05), (Math.Round(one.OnCard.Bounds.Centre.X, 3), Math.Round(one.OnCard.Bounds.Height, 3)));
        // Two boxes whose sides miss each other by a hair leave a slit, which is told of beforehand.
        var slit = new AddPiece(new Made("rectangle", ImmutableNumbers(20, 40)), Place.Own.Moved(new(60.2, 0)), "Side").Apply(design);
        slit = new AddPiece(new Made("rectangle", ImmutableNumbers(30, 10)), Place.Own.Moved(new(50, 30)), "Foot").Apply(slit);
        var choices = Combination.Choices(slit, [slit.Piece("p2")!, slit.Piece("p6")!, slit.Piece("p8")!]);
        Assert.Contains(choices, c => c.Edit is JoinPieces { SmoothUnder.Mm: > 0 });
        var smooth = choices.First(c => c.Edit is JoinPieces { SmoothUnder.Mm: > 0 });
        Assert.Equal(80.2 * 40, smooth.AreaMm2, 1);
    }

    /// <summary>What a maker made keeps its round corners when it becomes wider; also when it lies on its side.</summary>
    [Theory]
    [InlineData(0)]
    [InlineData(90)]
    [InlineData(180)]
    public void A_rounded_box_that_becomes_wider_keeps_its_corners(double turn)
    {
        var design = new AddPiece(new Made("rectangle", ImmutableNumbers(60, 40).Add("corner", 5)), Place.Own, "Box").Apply(Empty);
        design = new Turn(["p2"], Angle.FromDegrees(turn)).Apply(design);
        var wide = new Resize(["p2"], Length.FromMm(100), null, false, new(0, 0)).Apply(design);
        var (was, now) = (design.Pieces[0].OnCard.Bounds, wide.Pieces[0].OnCard.Bounds);
        Assert.Equal((was.Left, was.Top, 100, was.Height),
            (Math.Round(now.Left, 9), Math.Round(now.Top, 9), Math.Round(now.Width, 9), Math.Round(now.Height, 9)));
        Assert.Equal(100 * was.Height - (4 - Math.PI) * 25, wide.Pieces[0].AreaMm2, 3);
    }

    private static System.Collections.Immutable.ImmutableSortedDictionary<string, double> ImmutableNumbers(double width, double height) =>
        System.Collections.Immutable.ImmutableSortedDictionary<string, double>.Empty.Add("width", width).Add("height", height);

    [Theory]
    [InlineData(true)]
    [InlineData(false)]
    public void What_its_maker_can_not_make_so_small_is_drawn_then(bool keepsRatio)
    {
        var maker = Makers.All.First(m => m.Name == "waves");
        var design = new AddPiece(new Made(maker.Name, maker.Takes.ToImmutableSortedDictionary(t => t.Name, t => t.Usual)), default, "Waves")
            .Apply(Design.Blank(Length.FromMm(100), Length.FromMm(100)));
        var small = new Resize([design.Pieces[0].Id], Length.FromMm(0.7), keepsRatio ? null : Length.FromMm(0.7), keepsRatio, Anchor.Centre).Apply(design);
        Assert.Null(small.Check());
        Assert.IsType<Drawn>(small.Pieces[0].Shape);
        Assert.Equal(0.7, small.Pieces[0].OnCard.Bounds.Width, 3);
    }

    /// <summary>On any edge of a piece that is turned anyhow; a fold that only ends there, or runs beside it, is none.</summary>
    [Fact]
    public void A_fold_along_an_edge_is_found_and_left_out()
    {
        for (var seed = 1; seed <= 40; seed++)
        {
            var random = new Random(seed);
            Point[] corners = [new(10, 10), new(90, 12), new(85, 70), new(14, 66)];
            var turn = Affine.Turn(Angle.FromRadians(6 * random.NextDouble()));
            corners = [.. corners.Select(turn.Apply)];
            var card = new AddPiece(new Drawn(VectorPath.Polygon(corners)), Place.Own, "").Apply(Design.Blank(Length.FromMm(200), Length.FromMm(200)));
            // Where it lies on the card after that.
            var rings = card.Pieces[0].OnCard.Rings[0];
            var k = random.Next(4);
            var (a, b, across) = (rings[k], rings[(k + 1) % 4], (rings[(k + 2) % 4] + rings[(k + 3) % 4]) * 0.5);
            Design With(Point from, Point to)
            {
                var drawn = new AddLine(VectorPath.Polyline(from, to), null, Operation.Score).Apply(card);
                return new SetLineOperation([drawn.Lines[^1].Id], Operation.Score).Apply(drawn);
            }

            var on = With(a + (b - a) * 0.05, b);
            var found = Assert.Single(FindingList.Of(new(on, [])), f => f.Code == "fold-on-edge");
            Assert.DoesNotContain(FindingList.Of(new(found.Remedy!.Edit.Apply(on), [])), f => f.Code == "fold-on-edge");
            Assert.DoesNotContain(FindingList.Of(new(With((a + b) * 0.5, across), [])), f => f.Code == "fold-on-edge");
        }
    }

    [Fact]
    public void Findings_of_one_kind_are_mended_by_one_edit()
    {
        var design = Empty;
        for (var k = 0; k < 4; k++)
        {
            design = new AddPiece(new Made("rectangle", ImmutableSortedDictionary<string, double>.Empty.Add("width", 40).Add("height", 60)),
                Place.Own.Moved(new(50 * k, 10)), "Leaf").Apply(design);
            design = new AddFold(design.Pieces[^1].Id, BoxSide.Top, null, Operation.Score, FoldSide.Valley, default).Apply(design);
        }

        List<Finding> Of(Design d) => [.. FindingList.Of(new(d, [])).Where(f => f.Code == "fold-edge")];
        var findings = Of(design);
        Assert.Equal(4, FindingList.Alike(findings, findings[2]).Count);
        var mended = FindingList.MendAll(design, FindingList.Alike(findings, findings[0]))!;
        Assert.Empty(Of(mended.Make(design)));
        Assert.Equal("Stop 1.5 mm short, 4 times", mended.Describe(design));
    }

    /// <summary>A fold is measured from where the paper ends, not from what was joined to it and stands out; also on a piece that is turned, and in one panel.
    /// FALZKUNST_FOLDS ("2000@500000") says how many.</summary>
    [Fact]
    public void A_fold_lies_where_it_was_asked_for_from_the_papers_own_edge_however_the_piece_lies()
    {
        var (count, first) = Cases.Seeds("FALZKUNST_FOLDS", "60@1", "400@1");
        Parallel.For(first, first + count, seed =>
        {
            var r = new Random(seed);
            double w = 60 + 80 * r.NextDouble(), h = 60 + 80 * r.NextDouble(), off = 8 + 12 * r.NextDouble();
            var side = (BoxSide)r.Next(4);
            var design = new AddPiece(new Made("rectangle", ImmutableSortedDictionary<string, double>.Empty.Add("width", w).Add("height", h)),
                Place.Own.Moved(new(40, 40)), "Sheet").Apply(Design.Blank(Length.FromMm(300), Length.FromMm(300)));
            var id = design.Pieces[0].Id;
            // Circles stand out over any side, and leave more than a third of it.
            foreach (var edge in Enum.GetValues<BoxSide>().Where(_ => r.Next(2) == 0))
            {
                double length = edge is BoxSide.Top or BoxSide.Bottom ? w : h, across = length / 6 * (0.5 + r.NextDouble());
                var round = new Made("ellipse", ImmutableSortedDictionary<string, double>.Empty.Add("width", across).Add("height", across));
                (double, double)[] sizes = [.. Enumerable.Repeat((across, across), r.Next(1, 3))];
                var at = Placing.Along(new(40, 40, 40 + w, 40 + h), edge, sizes, OverEdge.Across, r.Next(2) == 0);
                design = new AddJoined(id, [.. at.Select(p => new PlacedShape(round, p))]).Apply(design);
            }

            var turn = r.Next(4);
            design = new Turn([id], Angle.FromDegrees(90 * turn), new(100, 100)).Apply(design);
            if (r.Next(2) == 0) design = new Mirror([id], r.Next(2) == 0 ? MirrorAxis.Upright : MirrorAxis.Level, new(100, 100)).Apply(design);
            // What the sheet alone is, on the card.
            var sheet = VectorPath.Rectangle(40, 40, w, h).Transform(Place.Own.Moved(new(-40, -40)).Map).Transform(design.Pieces[0].Place.Map).Bounds;
            var own = AddFold.OwnSide(design.Pieces[0], side);
            var folded = new AddFold(id, own, Length.FromMm(off), Operation.Score, FoldSide.Valley, Length.FromMm(1)).Apply(design);
            Assert.Null(folded.Check());
            Assert.NotEmpty(folded.Lines);
            foreach (var line in folded.Lines)
            {
                var box = line.Path.Bounds;
                var lies = Math.Abs(Placing.At(box, side) - Placing.At(sheet, side));
                Assert.True(Math.Abs(lies - off) < 0.051, $"{seed}: {lies} for {off} from the {side}");
            }

            // A second one across it, in one panel alone, ends at the first.
            var panel = r.Next(2);
            var other = own is BoxSide.Top or BoxSide.Bottom ? BoxSide.Left : BoxSide.Top;
            var twice = new AddFold(id, other, null, Operation.Score, FoldSide.Valley, default) { Panel = panel }.Apply(folded);
            var within = Panels.OnCard(twice.Pieces[0], Panels.Of(folded.Pieces[0])[panel]).Grown(0.05);
            foreach (var box in twice.Lines.Skip(folded.Lines.Length).Select(l => l.Path.Bounds))
                Assert.True(box.Left >= within.Left && box.Right <= within.Right && box.Top >= within.Top && box.Bottom <= within.Bottom, $"{seed}: {box}");
        });
    }
}
