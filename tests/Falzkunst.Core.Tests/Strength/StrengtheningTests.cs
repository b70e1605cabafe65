using Falzkunst.Core.Cards;
using Falzkunst.Core.Lettering;
using Falzkunst.Core.Regions;
using Falzkunst.Core.Strength;
using Xunit.Abstractions;

namespace Falzkunst.Core.Tests.Strength;

public sealed class StrengtheningTests(ITestOutputHelper output)
{
    private static readonly Limits Limits = new(Length.FromMm(KnownWidths.Limit), Length.FromMm(KnownWidths.Gap));

    private static (int Count, int Seed) Asked =>
        (Environment.GetEnvironmentVariable("FALZKUNST_STRENGTHS") ?? "6@900").Split('@') is [var n, var s] ? (int.Parse(n), int.Parse(s)) : (6, 900);

    private static VectorPath Word(string face, double capHeight, string text) => new Lettered(text, face,
        Faces.All.OfType<Typeface>().First(f => f.Name == face).Weight, Length.FromMm(capHeight), Length.Zero).Path;

    [Fact]
    public void What_is_thin_grows_to_the_least_width_parts_and_holes_stay_and_nothing_far_from_it_moves()
    {
        var (places, left, blocked) = (0, 0, 0);
        for (var k = 0; k < Asked.Count; k++)
        {
            foreach (var kind in KnownWidths.Kinds)
            {
                var name = $"{kind} {Asked.Seed + k}";
                var outline = KnownWidths.Make(kind, new(Asked.Seed + k)).Outline;
                var (before, strong) = (Inspection.Of(outline, Limits), Strengthening.Of(outline, StrengthenWay.OnlyThin, Limits, 0));
                var after = Inspection.Of(strong, Limits);
                IsSound(name, outline, strong, before, after);
                places += before.Thin.Count;
                foreach (var thin in after.Thin.Where(t => t.Width.Mm < KnownWidths.Limit - 0.02))
                {
                    // Only where a gap stands in the way.
                    if (outline.Subpaths.Length > 0 && new[] { thin.From, thin.To }.Any(p => IsNearGap(before, after, p))) blocked++;
                    else
                    {
                        left++;
                        output.WriteLine($"{name}: {thin.Width.Mm:0.000} at {thin.At.X:0.00} {thin.At.Y:0.00}");
                    }
                }

                StaysFarOff(name, outline, strong, before);
            }
        }

        output.WriteLine($"{places} thin places; {left} left thin, {blocked} between gaps");
        Assert.True(places > 100 && left <= 0.01 * places, $"{left} of {places}");
    }

    /// <summary>Whether a gap is so near that both sides of the limb have to share what there is.</summary>
    private static bool IsNearGap(Inspection before, Inspection after, Point p) =>
        before.Tight.Concat(after.Tight).Concat(Inspection.Of(after.Outline, new(Limits.Width, Limits.Gap * 1.3)).Tight)
            .Any(t => t.At.DistanceTo(p) < t.Length.Mm + 2);

    private static void StaysFarOff(string name, VectorPath outline, VectorPath strong, Inspection before)
    {
        // The farthest that the middle of a thin place goes on from where it is narrowest is its length.
        foreach (var p in strong.Subpaths.SelectMany(s => s.Flatten()))
        {
            var moved = outline.DistanceTo(p);
            if (moved < 0.02) continue;
            Assert.True(before.Thin.Any(t => t.At.DistanceTo(p) < t.Length.Mm + 1.5 * KnownWidths.Limit + 0.1), $"{name}: moved by {moved:0.000} at {p}");
        }
    }

    private void IsSound(string name, VectorPath outline, VectorPath strong, Inspection before, Inspection after)
    {
        Assert.True((before.Parts, before.Holes) == (after.Parts, after.Holes),
            $"{name}: {before.Parts} parts and {before.Holes} holes were, now {after.Parts} and {after.Holes}");
        // What the even-odd rule makes of it is the very same: no edge crosses another.
        Assert.Equal(strong.SignedAreaMm2, Together.Clean(strong).Sum(p => p.SignedAreaMm2), 1e-3);
        Assert.True(strong.SignedAreaMm2 > outline.SignedAreaMm2 - 0.05, name);
        int Nodes(VectorPath path) => path.Subpaths.Sum(s => s.Segments.Length);
        Assert.True(Nodes(strong) < 2 * Nodes(outline) + 40 * (before.Thin.Count + 1), $"{name}: {Nodes(outline)} nodes became {Nodes(strong)}");
    }

    public static TheoryData<string, double> Words => new()
    {
        { "Sacramento", 14 }, { "Courgette", 9 }, { "Fraunces", 12 }, { "Abril Fatface", 20 }, { "Josefin Sans", 8 },
    };

    [Theory]
    [MemberData(nameof(Words))]
    public void Letters_get_strong_in_all_three_ways_and_stay_letters(string face, double capHeight)
    {
        var outline = Word(face, capHeight, "Bergwiese & hut");
        var before = Inspection.Of(outline, Limits);
        foreach (var (way, by) in new[] { (StrengthenWay.OnlyThin, 0.0), (StrengthenWay.AllRound, 0.12), (StrengthenWay.HolesOnly, 0.12) })
        {
            var strong = Strengthening.Of(outline, way, Limits, by);
            var after = Inspection.Of(strong, Limits);
            output.WriteLine($"{face} {way}: thin {before.Thin.Count} → {after.Thin.Count}, narrowest {before.MinWidth} → {after.MinWidth}, "
                + $"gaps {before.MinGap} → {after.MinGap}");
            IsSound($"{face} {way}", outline, strong, before, after);
            if (way == StrengthenWay.OnlyThin) Assert.True(after.Thin.Count(t => t.Width.Mm < KnownWidths.Limit - 0.02) <= before.Thin.Count / 4);
            if (way == StrengthenWay.HolesOnly) Assert.Equal(outline.Outer.Subpaths.ToHashSet(), strong.Outer.Subpaths.ToHashSet());
        }
    }

    [Fact]
    public void Nothing_thin_is_the_very_same_and_limits_larger_than_the_piece_are_answered()
    {
        var square = VectorPath.Rectangle(0, 0, 10, 10);
        Assert.Same(square, Strengthening.Of(square, StrengthenWay.OnlyThin, Limits, 0));
        var large = Strengthening.Of(square, StrengthenWay.OnlyThin, new(Length.FromMm(20), Length.FromMm(20)), 0);
        Assert.True(large.SignedAreaMm2 >= 100);
        Assert.NotNull(new Limits(Length.Zero, Length.FromMm(1)).Fault());
        Assert.NotNull(new Limits(Length.FromMm(1), Length.FromMm(-1)).Fault());
    }

    [Fact]
    public void Strengthened_words_stay_so_at_another_size_and_letters_beside_each_other_leave_half_of_the_gap()
    {
        var design = Design.Blank(Length.FromMm(200), Length.FromMm(100));
        design = new AddPiece(new Lettered("hut", "Sacramento", 400, Length.FromMm(14), Length.Zero), Place.Own.Moved(new(10, 40)), "hut").Make(design);
        var id = design.Pieces.Single().Id;
        design = new Strengthen([id], new(StrengthenWay.OnlyThin, Limits)).Make(design);
        Assert.True(Inspection.Of(design.Pieces.Single().Outline, Limits).MinWidth!.Value.Mm > 0.68);
        design = new Resize([id], Length.FromMm(18), null, true, Anchor.Centre).Make(design);
        Assert.Equal(18, design.Pieces.Single().Outline.Bounds.Width, 0.02);
        Assert.Contains(design.Pieces.Single().Treatments, t => t is Strengthened);
        // Again, by more: not twice.
        design = new Strengthen([id], new(StrengthenWay.OnlyThin, Limits.Times(1.25))).Make(design);
        Assert.Single(design.Pieces.Single().Treatments);

        // On paper that asks for more it is strengthened by as much more.
        Stock Of(string name, double width) => new(name, name, Colour.White, 200, Length.FromMm(0.2), [])
        {
            Bears = new(Length.FromMm(width), Length.FromMm(0.5)),
        };
        design = new Strengthen([id], new(StrengthenWay.OnlyThin, Limits) { OfStock = 1.25 }).Make(design);
        design = Strengths.OnStock(design, [id], "textured", [Of("snow", 0.8), Of("textured", 1.2)]).Make(design);
        Assert.Equal(1.5, Assert.IsType<Strengthened>(Assert.Single(design.Pieces.Single().Treatments)).Limits.Width.Mm, 1e-9);

        var two = Design.Blank(Length.FromMm(100), Length.FromMm(100));
        foreach (var x in new[] { 0.0, 1.1 })
            two = new AddPiece(new Drawn(VectorPath.Rectangle(0, 0, 0.4, 20)), Place.Own.Moved(new(x, 0)), "leg").Make(two);
        two = two.Pieces.Skip(1).Aggregate(two, (d, p) => new PutOnPly([p.Id], two.Pieces.First().PlyId).Make(d));
        two = new Strengthen([.. two.Pieces.Select(p => p.Id)], new(StrengthenWay.OnlyThin, Limits)).Make(two);
        var pieces = two.Pieces.ToList();
        Assert.InRange(SetGap.Between(pieces[0], pieces[1]).Length.Mm, 0.5, 0.56);
        Assert.All(pieces, p => Assert.True(Inspection.Of(p.Outline, Limits).MinWidth!.Value.Mm > 0.78));
    }
}
