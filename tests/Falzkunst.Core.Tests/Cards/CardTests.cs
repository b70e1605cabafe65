using System.Collections.Immutable;
using CsCheck;
using Falzkunst.Core.Cards;
using Falzkunst.Core.Documents;
using Falzkunst.Core.Findings;
using Falzkunst.Core.Reading;
using Falzkunst.Core.Regions;

namespace Falzkunst.Core.Tests.Cards;

/// <summary>The model of a card: what holds for every edit there is, and for places, shapes and treatments.</summary>
public sealed class CardTests
{
    /// <summary>Runs a row of random edits of every kind, with undo and redo; gives every design on the way.</summary>
    internal static void Rows(int rows, int length, int seed, Action<Design, Edit?, Design> each)
    {
        for (var row = 0; row < rows; row++)
        {
            var r = new Random(seed * 100_003 + row);
            var design = AnyEdit.Start.Example(r);
            each(design, null, design);
            var (undone, done) = (new Stack<Design>(), new Stack<Design>());
            for (var i = 0; i < length; i++)
            {
                switch (r.Next(10))
                {
                    case 0 when done.Count > 0:
                        undone.Push(design);
                        design = done.Pop();
                        break;
                    case 1 when undone.Count > 0:
                        done.Push(design);
                        design = undone.Pop();
                        break;
                    default:
                        // Every kind comes up as often as any other, and each at the start of some row.
                        var edit = AnyEdit.Make(AnyEdit.Kinds[(row + i * 7 + r.Next(3)) % AnyEdit.Kinds.Count], design, r);
                        // Designs that double with each file would only test patience.
                        if (edit is BringBeside or TraceAgain && design.AllPieces.Length > 60) edit = new TakeRulesBack();
                        Assert.NotEmpty(edit.Describe(design));
                        var next = edit.Make(design);
                        each(design, edit, next);
                        done.Push(design);
                        undone.Clear();
                        design = next;
                        break;
                }
            }
        }
    }

    [Fact]
    public void Whatever_edits_are_made_the_design_holds_together_and_reads_back_equal_with_its_edits()
    {
        var seen = new HashSet<Type>();
        Rows(Cases.Seeds("FALZKUNST_CARDS", "80@1", "160@1").Count, 24, 1, (before, edit, after) =>
        {
            Assert.True(after.Check() is null, $"{edit}: {after.Check()}");
            Assert.True(after.LastId >= before.LastId);
            var written = DesignDocument.Write(after);
            Assert.Equal(after, DesignDocument.ReadDesign(DesignDocument.Open(written.Text), Bytes(written)));
            if (edit is null) return;
            seen.Add(edit.GetType());
            var kept = DesignDocument.Write(edit);
            Assert.Equal(after, DesignDocument.ReadEdit(DesignDocument.Open(kept.Text), Bytes(kept)).Make(before));
        });
        Assert.Equal(AnyEdit.Kinds.Select(k => k.Name), seen.Select(k => k.Name).Order(StringComparer.Ordinal));
    }

    [Fact]
    public void What_an_edit_does_not_touch_stays_the_very_same() => Rows(40, 12, 2, (before, edit, after) =>
    {
        if (edit is null or SetScale or BringBeside or TraceAgain) return;
        var was = before.AllPieces.ToDictionary(p => p.Id);
        foreach (var piece in after.AllPieces)
        {
            var named = edit.About.Contains(piece.Id) || piece.AllLines.Any(l => edit.About.Contains(l.Id))
                || piece.AllArtwork.Any(a => edit.About.Contains(a.Id));
            if (!named && was.TryGetValue(piece.Id, out var old) && old.Equals(piece))
                Assert.True(ReferenceEquals(old, piece), $"{edit} made {piece.Id} anew.");
        }
    });

    [Fact]
    public void A_file_of_ours_reads_back_to_the_same_bytes_whatever_was_done() => Rows(30, 10, 3, (_, _, after) =>
    {
        var file = FalzFile.Write(after);
        Assert.Equal(file, FalzFile.Write(FalzFile.Read(file)));
    });

    [Fact]
    public void Blobs_are_read_exactly_even_where_nothing_is_in_memory()
    {
        var design = Cases.DemoCard();
        var written = DesignDocument.Write(design);
        var bytes = Bytes(written);
        Assert.True(written.Text.Length < 40_000);
        // Another process has none of these paths in memory: each is read from its bytes.
        foreach (var (hash, blob) in bytes) Assert.Equal(hash, DesignDocument.HashOf(blob));
        var paths = design.Pieces.Select(p => p.Outline).ToList();
        Assert.Contains(paths, p => p.Subpaths.Sum(s => s.Segments.Length) > 10);
        foreach (var broken in new[] { written.Text[..(written.Text.Length / 2)], System.Text.Encoding.UTF8.GetBytes(System.Text.RegularExpressions.Regex
            .Replace(System.Text.Encoding.UTF8.GetString(written.Text), "#[0-9a-f]{64}", "#" + new string('0', 64))) })
            Assert.Throws<Falzkunst.Core.Files.UnreadableFileException>(() => DesignDocument.ReadDesign(DesignDocument.Open(broken), bytes));
    }

    /// <summary>What is in memory is not fetched; so it must not be thrown away before it is read.</summary>
    [Fact]
    public void What_was_in_memory_when_a_document_was_opened_is_there_when_it_is_read()
    {
        var document = OpenedAndForgotten();
        Assert.Equal((1, 0), (document.Names.Count, document.Wanted.Count));
        for (var i = 0; i < 3; i++)
        {
            GC.Collect();
            GC.WaitForPendingFinalizers();
        }

        Assert.NotEmpty(DesignDocument.ReadDesign(document, new Dictionary<string, byte[]>()).Pieces);

        [System.Runtime.CompilerServices.MethodImpl(System.Runtime.CompilerServices.MethodImplOptions.NoInlining)]
        static NamingDocument OpenedAndForgotten() =>
            DesignDocument.Open(DesignDocument.Write(Cases.Read("<svg xmlns='http://www.w3.org/2000/svg' width='90mm' height='90mm' viewBox='0 0 90 90'><path "
                + $"d='M0 0{string.Concat(Enumerable.Range(1, 40).Select(i => $"L{i * 2.01} {i % 7}"))}V80H0Z' fill='#eee'/></svg>")).Text);
    }

    [Fact]
    public void Moving_turning_and_mirroring_change_the_place_and_nothing_else_and_have_a_way_back() =>
        Gen.Select(Gen.Double[-200, 200], Gen.Double[-200, 200], Gen.Double[-720, 720], Gen.Bool, Gen.Bool).Sample((x, y, degrees, upright, about) =>
        {
            var start = Cases.DemoCard();
            ImmutableArray<string> ids = ["p1", "p3"];
            var axis = upright ? MirrorAxis.Upright : MirrorAxis.Level;
            Point? at = about ? new Point(x, y) : null;
            foreach (var (on, back) in new (Edit, Edit)[]
            {
                (new Move(ids, Length.FromMm(x), Length.FromMm(y)), new Move(ids, Length.FromMm(-x), Length.FromMm(-y))),
                (new Turn(ids, Angle.FromDegrees(degrees), new(x, y)), new Turn(ids, Angle.FromDegrees(-degrees), new(x, y))),
                (new Mirror(ids, axis, at ?? new(3, 4)), new Mirror(ids, axis, at ?? new(3, 4))),
            })
            {
                var after = on.Apply(start);
                foreach (var (p, q) in start.Pieces.Zip(after.Pieces))
                {
                    Assert.Equal(p with { Place = default }, q with { Place = default });
                    Assert.Equal(p.AreaMm2, Math.Abs(q.OnCard.SignedAreaMm2), 1e-6 * p.AreaMm2 + 1e-6);
                    if (x != 0 || y != 0) Assert.Equal(!ids.Contains(p.Id), ReferenceEquals(p, q));
                    Assert.Same(p.Outline, q.Outline);
                }

                var again = back.Apply(after).Piece("p1")!;
                foreach (var (p, q) in start.Piece("p1")!.OnCard.Rings[0].Zip(again.OnCard.Rings[0])) Assert.InRange(p.DistanceTo(q), 0, 1e-9);
            }

            // A design that only lies otherwise, as a whole, has the same findings.
            var based = new AddPiece(new Made("ellipse", ImmutableSortedDictionary<string, double>.Empty.Add("width", 80).Add("height", 40)),
                Place.Own.Moved(new(100, 150)), "Cloud").Apply(start);
            based = new AddLine(null, new(new("von der Hütte", "EMS Tech", 400, Length.FromMm(6), Length.Zero), Place.Own.Moved(new(20, 40))), Operation.Draw)
                .Apply(based);
            based = new NamePanel("p1", new(70, 50), "back").Apply(new NamePanel("p1", new(70, 160), "front").Apply(based));
            ImmutableArray<string> all = [.. based.Pieces.Select(p => p.Id), .. based.Loose.Select(l => l.Id)];
            Assert.Contains(Codes(based), c => c.StartsWith("hangs-over", StringComparison.Ordinal));
            Assert.Contains(Codes(based), c => c.StartsWith("words-upside-down", StringComparison.Ordinal));
            foreach (var moved in new Edit[]
            {
                new Move(all, Length.FromMm(x), Length.FromMm(y)), new Turn(all, Angle.FromDegrees(degrees)), new Mirror(all, axis),
            })
                Assert.Equal(Codes(based).Order(), Codes(moved.Apply(based)).Order());

            static HashSet<string> Codes(Design design) =>
                [.. FindingList.Of(new(design, [])).Where(f => f.Code != "outside").Select(f => $"{f.Code} {f.About[0]}")];
        }, iter: 30);

    [Fact]
    public void Holes_that_were_lines_for_a_while_are_holes_again_and_ids_are_never_given_twice()
    {
        var design = Cases.Read("<svg xmlns='http://www.w3.org/2000/svg' width='100mm' height='60mm' viewBox='0 0 100 60'><g fill='none' stroke='#000'><rect "
            + "x='10' y='5' width='80' height='50'/><circle cx='30' cy='30' r='9' stroke='#00f'/><circle cx='70' cy='30' r='9' stroke='#c00'/></g></svg>");
        var (blue, red) = (design.Pieces[0].Edges[1].Origin!.Look, design.Pieces[0].Edges[2].Origin!.Look);
        var lines = new SetLookOperation(red, Operation.Draw).Apply(new SetLookOperation(blue, Operation.Foil).Apply(design));
        Assert.Null(lines.Check());
        Assert.Equal(2, lines.Lines.Select(l => l.Id).Distinct().Count());
        Assert.Equal(0, lines.Pieces[0].HoleCount);
        var back = new SetLookOperation(blue, Operation.Cut).Apply(new SetLookOperation(red, Operation.Cut).Apply(lines));
        Assert.Equal(design.Pieces[0].Outline, back.Pieces[0].Outline);
        Assert.Empty(back.Lines);
        // Rules that drew the holes are taken back.
        var rules = SourceRules.From(lines, "Hut press");
        var ruled = new ApplyRules(rules).Apply(design);
        Assert.Equal(2, ruled.Lines.Length);
        Assert.Equal(design.Pieces[0].Outline, new TakeRulesBack().Apply(ruled).Pieces[0].Outline);
    }

    [Fact]
    public void What_comes_after_something_was_left_out_never_takes_its_name()
    {
        var design = Cases.Read("<svg xmlns='http://www.w3.org/2000/svg' width='100mm' height='60mm' viewBox='0 0 100 60'><rect width='40' height='40' "
            + "fill='#f4ead2'/><rect x='50' width='20' height='20' fill='#900'/><path d='M75 5H95V25H75V5.9' fill='none' stroke='#00f'/></svg>");
        var last = design.Pieces[^1].Id;
        var after = new PutBack(new LeaveOut([last]).Apply(design).LeftOut[0].Id)
            .Apply(new MakePieces([design.Lines[0].Id]).Apply(new LeaveOut([last]).Apply(design)));
        Assert.Null(after.Check());
        Assert.Equal(3, after.Pieces.Length);
        Assert.Contains(after.Pieces, p => p.Id == last);
    }

    [Fact]
    public void Looks_grow_with_their_lines_when_the_size_is_settled()
    {
        var design = Cases.Read("<svg xmlns='http://www.w3.org/2000/svg' width='400' height='240' viewBox='0 0 400 240'><rect width='300' height='200' "
            + "fill='#f4ead2'/><path d='M10 10H90' stroke='#00f' stroke-width='4' fill='none'/></svg>");
        var twice = new SetScale(48).Apply(design);
        var look = twice.LookOf(twice.Lines[0].Look)!;
        Assert.Equal(2 * design.LookOf(design.Lines[0].Look)!.Width.Mm, look.Width.Mm, 0.002);
        Assert.Equal(look.Width.Mm, twice.Lines[0].Ink.Stroke!.Width.Mm, 0.002);
    }

    [Fact]
    public void Treatments_are_derived_anew_at_a_new_size_and_can_be_taken_off()
    {
        var design = Cases.Read("<svg xmlns='http://www.w3.org/2000/svg' width='96' height='96' viewBox='0 0 96 96'><path d='M8 8H88V88H8ZM20 "
            + "20H24V24H20ZM40 40H70V70H40Z' fill='#900' fill-rule='evenodd'/></svg>");
        var id = design.Pieces[0].Id;
        var treated = new Treat([id], new Outset(Length.FromMm(0.5))).Apply(new Treat([id], new FilledHoles(4)).Apply(design));
        var piece = treated.Piece(id)!;
        Assert.Equal((1, 2), (piece.HoleCount, piece.Edges.Length));
        var expected = Region.Of(new Core.Shapes
            .VectorPath([.. design.Pieces[0].Outline.Subpaths.Where((_, i) => i == 0 || design.Pieces[0].Outline.Parts().ElementAt(i).Bounds.Width > 5)]))
            .Outset(Length.FromMm(0.5)).AreaMm2;
        Assert.Equal(expected, piece.AreaMm2, 0.01 * expected);
        Assert.Same(piece.Outline, new Treat([id], new Outset(Length.FromMm(0.5))).Apply(new Treat([id], new FilledHoles(4)).Apply(design)).Piece(id)!.Outline);
        // Twice as large, the small hole is no longer under 4 mm²; the outset is still half a mm.
        var large = new SetScale(48).Apply(treated).Piece(id)!;
        Assert.Equal((2, 3), (large.HoleCount, large.Edges.Length));
        Assert.Equal(design.Pieces[0].Outline.Bounds.Width * 2 + 1, large.Outline.Bounds.Width, 0.01);
        Assert.Equal(design.Pieces[0].Outline, new Untreat(id, 0).Apply(new Untreat(id, 1).Apply(treated)).Piece(id)!.Outline);
        Assert.Equal(treated, new Treat([id], new Outset(Length.FromMm(-400))).Apply(treated));
    }

    [Fact]
    public void A_made_and_a_lettered_piece_follow_from_their_numbers()
    {
        var start = Cases.DemoCard();
        var made = start.Pieces[0] with
        {
            Shape =
            new Made("rectangle", ImmutableSortedDictionary<string, double>.Empty.Add("width", 40).Add("height", 20).Add("corner", 5)),
            Edges = [new(Operation.Cut)],
        };
        Assert.Equal(800 - (4 - Math.PI) * 25, made.AreaMm2, 0.01);
        var lettered = start.Pieces[0] with { Shape = new Lettered("Hi hut", "Alegreya Sans", 400, Length.FromMm(10), Length.Zero) };
        lettered = lettered with { Edges = [.. lettered.Outline.Subpaths.Select(_ => new Edge(Operation.Cut))] };
        Assert.Equal(10, -lettered.Outline.Bounds.Top, 1.5);
        Assert.Equal(6, Enumerable.Range(0, lettered.Edges.Length).Count(lettered.IsOuter));
        foreach (var piece in new[] { made, lettered })
        {
            var design = start with { AllPieces = [piece with { AllLines = [], Folds = [] }, .. start.AllPieces[1..]] };
            Assert.Null(design.Check());
            var twice = new SetScale(start.Scale.PxPerInch / 2).Apply(design).Pieces[0];
            Assert.Equal(4 * piece.AreaMm2, twice.AreaMm2, 0.01 * piece.AreaMm2);
        }

        Assert.NotNull((start with
        {
            AllPieces =
            [made with { Shape = new Made("cloud", ImmutableSortedDictionary<string, double>.Empty) }, .. start.AllPieces[1..]],
        }).Check());
        Assert.NotNull((start with
        {
            AllPieces =
            [lettered with { Shape = new Lettered("x", "Nowhere Sans", 400, Length.FromMm(9), Length.Zero) }, .. start.AllPieces[1..]],
        }).Check());
    }

    [Fact]
    public void Folds_divide_a_base_into_panels_that_can_be_named()
    {
        var design = Cases.Read("<svg xmlns='http://www.w3.org/2000/svg' width='148mm' height='210mm' viewBox='0 0 148 210'><rect width='148' height='210' "
            + "fill='#f4ead2'/><path d='M2 105H146' stroke='#00f' fill='none'/></svg>");
        var piece = design.Pieces[0];
        Assert.Equal(FoldSide.Valley, Assert.Single(piece.Folds).Side);
        var named = new NamePanel(piece.Id, new(20, 20), "back").Apply(new NamePanel(piece.Id, new(70, 150), "front").Apply(design)).Pieces[0];
        Assert.Equal([("back", 105.0), ("front", 105.0)], Panels.Of(named).Select(p => (p.Name, Math.Round(p.Bounds.Height, 6))));
        // A fold that rests is one still; one that is removed is none.
        Assert.Single(new SetLineOperation([piece.Folds[0].LineId], Operation.Rest).Apply(design).Pieces[0].Folds);
        Assert.Empty(new Remove([piece.Folds[0].LineId]).Apply(design).Pieces[0].Folds);
    }

    [Fact]
    public void A_picture_traced_again_replaces_what_came_from_it_and_nothing_else()
    {
        var r = new Random(5);
        var picture = AnyEdit.Start.Where(d => d.Sources.Any(s => s.Tracing is not null)).Example(r);
        var beside = new BringBeside(Cases.DemoCard(), "card").Apply(picture);
        var changed = new Rename(beside.Pieces[^1].Id, "Mine").Apply(new Move([beside.Pieces[0].Id], Length.FromMm(3), Length.Zero).Apply(beside));
        var again = new TraceAgain("s1", picture).Apply(changed);
        Assert.Null(again.Check());
        Assert.Equal(changed.Pieces.Length, again.Pieces.Length);
        Assert.Equal(changed.Pieces.Where(p => p.Origin!.Source != "s1"), again.Pieces.Where(p => p.Origin!.Source != "s1"));
        Assert.Equal(picture.Pieces.Length, again.Pieces.Count(p => p.Origin!.Source == "s1"));
        Assert.Equal(changed.Sources.Select(s => s.Id), again.Sources.Select(s => s.Id));
    }

    /// <summary>Two people change one card: whatever each did is done, or neither is lost unsaid; and either takes his own back without the other's.
    /// FALZKUNST_BOTH ("2000@500000") says how many.</summary>
    [Fact]
    public void Of_two_people_who_change_different_things_both_are_done_and_each_takes_back_his_own()
    {
        var (count, first) = Cases.Seeds("FALZKUNST_BOTH", "120@1", "600@1");
        int apart = 0, taken = 0;
        Parallel.For(first, first + count, seed =>
        {
            var r = new Random(seed);
            var seen = AnyEdit.Start.Example(r);
            Edit Any() => AnyEdit.Make(AnyEdit.Kinds[r.Next(AnyEdit.Kinds.Count)], seen, r);
            // Her change is there already when he makes his.
            Edit hers = Any(), his = Any();
            if (hers.Refusal(seen) is not null) return;
            var now = hers.Make(seen);
            if (now.Check() is not null) return;
            if (Meanwhile.IsApart(seen, now, his))
            {
                Interlocked.Increment(ref apart);
                Design both = his.Make(now), alone = his.Make(seen);
                Assert.Null(both.Check());
                // Each piece is as she left it, as he did, or as it was; what is new has other ids.
                foreach (var id in seen.AllPieces.Select(p => p.Id))
                    if (Like(now, id, seen)) Assert.True(Like(both, id, alone), $"{seed}: {his} on {id}");
                    else if (Like(alone, id, seen)) Assert.True(Like(both, id, now), $"{seed}: {hers} on {id}");
                // She takes hers back: what he did to all else stays.
                if (Meanwhile.Without(seen, now, both) is { } left)
                {
                    Interlocked.Increment(ref taken);
                    Assert.Null(left.Check());
                    Assert.All(seen.AllPieces, p => Assert.True(Like(left, p.Id, alone), $"{seed}: {p.Id} after {hers} was taken back from {his}"));
                }
            }

            Assert.Equal(seen with { LastId = now.LastId }, Meanwhile.Without(seen, now, now) ?? seen with { LastId = now.LastId });
        });
        Assert.True(apart > count / 10 && taken > apart / 2, $"{apart} of {count} apart, {taken} taken back");
    }

    [Fact]
    public void Two_looks_on_one_piece_are_two_things()
    {
        var seen = DesignReader.Read(File.ReadAllBytes(Path.Combine(Cases.Demo, "room-key-tags.svg")));
        var looks = seen.Looks.Where(l => seen.OperationOf(l.Key) is Operation.Score).Select(l => l.Key).ToList();
        Assert.True(looks.Count > 1);
        var now = new SetLookOperation(looks[0], Operation.Draw).Make(seen);
        Assert.True(Meanwhile.IsApart(seen, now, new SetLookOperation(looks[1], Operation.Perforate)));
        Assert.False(Meanwhile.IsApart(seen, now, new SetLookOperation(looks[0], Operation.Perforate)));
    }

    private static bool Like(Design one, string id, Design other)
    {
        Piece? a = Of(one), b = Of(other);
        return Equals(a, b) || (a is not null && b is not null && Shell(a).Equals(Shell(b))
            && (a.AllLines.Length, a.AllArtwork.Length, a.Folds.Length) == (b.AllLines.Length, b.AllArtwork.Length, b.Folds.Length));

        // A ply that is new has another id, and what is held lies where that lies which holds it.
        static Piece Shell(Piece p) => p with { AllLines = [], AllArtwork = [], Folds = [], PlyId = "", Place = p.Held is null ? p.Place : default };

        Piece? Of(Design d) => d.AllPieces.FirstOrDefault(p => p.Id == id);
    }

    internal static Dictionary<string, byte[]> Bytes(WrittenDocument written) => written.Blobs.ToDictionary(b => b.Key, b => b.Value().ToArray());
}
