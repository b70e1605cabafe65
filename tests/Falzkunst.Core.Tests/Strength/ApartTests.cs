using Falzkunst.Core.Cards;
using Falzkunst.Core.Findings;
using Falzkunst.Core.Regions;
using Falzkunst.Core.Strength;
using Falzkunst.Core.Tests.Regions;

namespace Falzkunst.Core.Tests.Strength;

/// <summary>Parts moved apart, and parts joined by bridges.</summary>
public sealed class ApartTests(ITestOutputHelper output)
{
    private static readonly Limits Limits = new(Length.FromMm(KnownWidths.Limit), Length.FromMm(KnownWidths.Gap));

    private static readonly (int Count, int Seed) Asked = Cases.Seeds("FALZKUNST_APART", "20@70", "40@70");

    /// <summary>Parts that lie apart by any little, as letters and dots do.</summary>
    private static VectorPath Scattered(Random r)
    {
        var parts = new List<VectorPath>();
        for (var k = r.Next(2, 12); k > 0; k--)
        {
            double s = 0.3 + 2.5 * r.NextDouble(), x = 12 * r.NextDouble(), y = 8 * r.NextDouble();
            var part = Together.Clean((r.Next(3) switch
            {
                0 => AnyArea.Ellipse(s, s),
                1 => VectorPath.Rectangle(-s, -0.2, 2 * s, 0.4),
                _ => AnyArea.Blob(r, 4, s),
            }).Transform(Affine.Turn(Angle.FromDegrees(360 * r.NextDouble())).Then(Affine.Move(x, y))))[0];
            if (parts.TrueForAll(p => Together.Overlap([p, part]).Count == 0 && Gap(p, part) > 0.05)) parts.Add(part);
        }

        return VectorPath.Joined(parts);
    }

    private static double Gap(VectorPath a, VectorPath b) =>
        Math.Min(a.Rings.SelectMany(r => r).Min(b.DistanceTo), b.Rings.SelectMany(r => r).Min(a.DistanceTo));

    private static double LeastGap(VectorPath outline)
    {
        var parts = Region.Parts(outline, FillRule.EvenOdd);
        return parts.SelectMany((a, i) => parts.Skip(i + 1).Select(b => Gap(a, b))).DefaultIfEmpty(double.PositiveInfinity).Min();
    }

    [Fact]
    public void Parts_go_apart_until_all_can_grow_and_no_farther_than_they_may()
    {
        var (narrow, stuck, thin) = (0, 0, 0);
        for (var seed = Asked.Seed; seed < Asked.Seed + Asked.Count; seed++)
        {
            var outline = Scattered(new(seed));
            var most = 2.0;
            var strong = Strengthening.Of(outline, StrengthenWay.OnlyThin, Limits, 0, null, most);
            Assert.Equal(outline.Subpaths.Length, strong.Subpaths.Length);
            Assert.InRange(Strengthening.FarthestMoved(outline, strong), 0, most + KnownWidths.Limit);
            if (LeastGap(outline) < KnownWidths.Gap) narrow++;
            // Only where one is at its end may a gap stay.
            if (LeastGap(strong) < KnownWidths.Gap - 0.01)
            {
                stuck++;
                output.WriteLine($"{seed}: gap {LeastGap(strong):0.000} of {outline.Subpaths.Length} parts");
            }

            foreach (var t in Inspection.Of(strong, Limits).Thin.Where(t => t.Width.Mm < KnownWidths.Limit - 0.02))
            {
                thin++;
                output.WriteLine($"{seed}: {t.Width.Mm:0.000} × {t.Length.Mm:0.00} at {t.At.X:0.00} {t.At.Y:0.00} was {2 * outline.DistanceTo(t.At):0.00}");
            }
        }

        output.WriteLine($"{Asked.Count} with {narrow} too near: {stuck} still are, {thin} places thin");
        Assert.True(narrow > Asked.Count / 3 && stuck <= Asked.Count / 20 && thin <= Asked.Count / 10, $"{narrow} {stuck} {thin}");
    }

    [Fact]
    public void Bridges_join_all_parts_in_one_and_make_no_ring()
    {
        var (one, rings) = (0, 0);
        for (var seed = Asked.Seed; seed < Asked.Seed + Asked.Count; seed++)
        {
            var outline = Scattered(new(seed));
            var joined = Bridges.Of(outline, 1, 100);
            var (parts, holes) = (joined.Subpaths.Count(s => s.SignedAreaMm2 > 0), joined.Subpaths.Count(s => s.SignedAreaMm2 < 0));
            Assert.Equal(joined.SignedAreaMm2, Region.Parts(joined, FillRule.EvenOdd).Sum(p => p.SignedAreaMm2), 1e-3);
            Assert.True(joined.SignedAreaMm2 > outline.SignedAreaMm2 - 1e-3);
            if (parts == 1) one++;
            else output.WriteLine($"{seed}: {parts} parts left");
            // A bridge that is wider than a third part is far away may touch that too.
            if (holes > 0) rings++;
            Assert.Same(joined, Bridges.Of(joined, 1, 100));
        }

        output.WriteLine($"{one} of {Asked.Count} in one, {rings} with a ring");
        Assert.Equal(Asked.Count, one);
        Assert.True(rings <= Asked.Count / 10);
    }

    [Fact]
    public void A_bridge_lies_in_the_middle_of_where_it_is_shortest_and_only_dots_are_joined_where_that_is_asked()
    {
        // A foot 10 wide over a floor: in its middle; a dot above a stem: upright.
        var foot = VectorPath.Rectangle(0, 0, 10, 3).With(VectorPath.Rectangle(-20, 4, 50, 3));
        Assert.Equal(1 * 2, Bridges.Of(foot, 2, 5).SignedAreaMm2 - foot.SignedAreaMm2, 1e-6);
        Assert.Contains(Bridges.Of(foot, 2, 5).Subpaths[0].Segments, s => Math.Abs(s.End.X - 4) < 0.3);
        Assert.Same(foot, Bridges.Of(foot, 2, 0.9));
        var dot = Together.Clean(AnyArea.Ellipse(1, 1).Transform(Affine.Move(1, 3)))[0];
        var letters = VectorPath.Joined([VectorPath.Rectangle(0, 5, 2, 10), dot, VectorPath.Rectangle(4, 5, 2, 10)]);
        Assert.Equal(2, Bridges.Of(letters, 1, 5, 10).Subpaths.Length);
        Assert.Single(Bridges.Of(letters, 1, 5).Subpaths);
    }

    [Fact]
    public void Letters_are_set_apart_as_little_as_it_takes_and_what_no_longer_lies_in_the_paper_is_told()
    {
        var design = Design.Blank(Length.FromMm(200), Length.FromMm(100));
        // So close together that they hardly have a gap.
        var words = Enumerable.Range(0, 40).Select(k => new Lettered("illit", "Josefin Sans", 400, Length.FromMm(9), Length.FromMm(-0.1 * k)))
            .Last(w => w.Path.Outer.Subpaths.Length == 7 && LeastGap(w.Path) > 0.3);
        design = new AddPiece(words, Place.Own.Moved(new(10, 40)), "illit").Make(design);
        var piece = design.Pieces.Single();
        var asked = new Limits(Length.FromMm(1.2), Length.FromMm(0.8));
        var all = Strengths.Of(asked, [piece], null).ToDictionary(c => c.Key);
        var (just, apart, spaced) = (Strengths.Try(design, [piece.Id], all["just"], asked), Strengths.Try(design, [piece.Id], all["apart"], asked),
            Strengths.Try(design, [piece.Id], all["spaced"], asked));
        output.WriteLine($"still thin: {just.StillThin}, parts apart {apart.StillThin}, letters apart {spaced.StillThin}, moved {spaced.Growth}");
        Assert.True(just.StillThin > 0 && apart.StillThin < just.StillThin && spaced.StillThin < just.StillThin);
        var more = ((Lettered)spaced.After.Pieces.Single().Shape).Spacing.Mm - words.Spacing.Mm;
        Assert.InRange(more, 0.1, 2.4);

        // Two bars with a line each: the thin one goes aside, and leaves its line where it was.
        var two = Design.Blank(Length.FromMm(60), Length.FromMm(60));
        two = new AddPiece(new Drawn(VectorPath.Rectangle(0, 0, 20, 20).With(VectorPath.Rectangle(20.2, 0, 0.9, 20))), Place.Own, "bars").Make(two);
        two = new AddLine(VectorPath.Polyline(new(20.3, 2), new(20.3, 18)), null, Operation.Draw).Make(two);
        Assert.Empty(two.Loose);
        var bars = two.Pieces.Single();
        var outcome = Strengths.Try(two, [bars.Id], Strengths.Of(asked, [bars], null).Single(c => c.Key == "apart"), asked);
        Assert.Equal(1, outcome.Loose);
        Assert.True(outcome.Growth.Mm > 0.6);
    }

    [Fact]
    public void A_bridge_is_done_before_what_strengthens_and_what_stays_thin_between_gaps_is_a_finding_of_its_own()
    {
        var design = Design.Blank(Length.FromMm(60), Length.FromMm(60));
        var legs = Enumerable.Range(0, 4).Select(k => VectorPath.Rectangle(k * 0.9, 0, 0.3, 20));
        design = new AddPiece(new Drawn(VectorPath.Joined(legs)), Place.Own.Moved(new(10, 10)), "legs").Make(design);
        var id = design.Pieces.Single().Id;
        design = new Strengthen([id], new(StrengthenWay.OnlyThin, Limits)).Make(design);
        Stock snow = new("snow", "snow", Colour.White, 200, Length.FromMm(0.2), []) { Bears = Limits };
        Inspection.Of(design.Pieces.Single().Outline, Limits);
        var finding = Assert.Single(FindingList.Of(new(design, [snow], Length.Zero)), f => f.Code is "still-thin" or "too-thin");
        Assert.Equal("still-thin", finding.Code);
        var mended = Assert.Single(finding.Remedies).Edit.Make(design);
        Assert.Empty(Inspection.Of(mended.Pieces.Single().Outline, Limits).Thin);
        var bridged = new Treat([id], new Bridged(Length.FromMm(1), Length.FromMm(5))).Make(design).Pieces.Single();
        Assert.IsType<Bridged>(bridged.Treatments[0]);
        Assert.Single(bridged.Outline.Outer.Subpaths);
    }
}
