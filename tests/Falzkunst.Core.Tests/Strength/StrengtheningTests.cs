using Falzkunst.Core.Cards;
using Falzkunst.Core.Lettering;
using Falzkunst.Core.Reading;
using Falzkunst.Core.Regions;
using Falzkunst.Core.Strength;
using Falzkunst.Core.Tests.Regions;

namespace Falzkunst.Core.Tests.Strength;

public sealed class StrengtheningTests(ITestOutputHelper output)
{
    private static readonly Limits Limits = new(Length.FromMm(KnownWidths.Limit), Length.FromMm(KnownWidths.Gap));

    private static readonly (int Count, int Seed) Asked = Cases.Seeds("FALZKUNST_STRENGTHS", "3@900", "6@900");

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

    /// <summary>Islands in holes that shrink; holes a hair beside each other; curves that go into one another with hardly a turn, where moved edges left
    /// slits.</summary>
    private static readonly int[] Surprises = [4434, 6275, 53146, 53180, 109662];

    /// <summary>Shapes that nobody made for this: of their kinds, of words, and these taken from, joined to and cut by one another; with any limits.
    /// "10000@1" is how many and from which seed.</summary>
    [Fact]
    public void No_valid_shape_gives_an_invalid_one_in_any_way()
    {
        var (count, first) = Cases.Seeds("FALZKUNST_ANY_STRONG", "25@31", "60@31");
        var (faults, closer, done) = (new List<string>(), new List<string>(), 0);
        foreach (var seed in Enumerable.Range(first, count).Concat(Surprises))
        {
            var r = new Random(seed);
            var outline = AnyOutline(r);
            if (outline.IsEmpty) continue;
            var width = Math.Exp(Math.Log(0.15) + r.NextDouble() * Math.Log(40));
            var limits = new Limits(Length.FromMm(width), Length.FromMm(width * (0.2 + r.NextDouble())));
            var way = (StrengthenWay)r.Next(3);
            done++;
            try
            {
                var clock = System.Diagnostics.Stopwatch.StartNew();
                var strong = Strengthening.Of(outline, way, limits, width * r.NextDouble());
                var took = clock.ElapsedMilliseconds;
                if (Fault(outline, strong, way) is { } fault) faults.Add($"{seed} {way} {limits.Width} {limits.Gap}: {fault}");
                if (Closer(outline, strong, limits) is { } less) closer.Add($"{seed} {way} {limits.Width} {limits.Gap}: {less}");
                if (took > 5000) output.WriteLine($"{seed} {way}: {took} ms, {outline.Subpaths.Sum(s => s.Segments.Length)} nodes");
            }
            catch (Exception e)
            {
                faults.Add($"{seed} {way}: {e.GetType().Name} {e.Message} {e.StackTrace?.Split('\n')[0]}");
            }
        }

        foreach (var fault in faults.Concat(closer)) output.WriteLine(fault);
        output.WriteLine($"{done} shapes, {faults.Count} faults, {closer.Count} with a gap that is narrower");
        Assert.Empty(faults);
        Assert.True(closer.Count <= 0.02 * done);
    }

    /// <summary>Our own files; or those that a list names, a line each.</summary>
    [Fact]
    public void No_outline_of_a_file_becomes_invalid_in_any_way()
    {
        var list = Environment.GetEnvironmentVariable("FALZKUNST_SVGS");
        var files = list is null ? Directory.GetFiles(Cases.Demo, "*.svg").Concat(Directory.GetFiles(Path.Combine(Cases.Folder, "messy"), "*.svg"))
            : File.ReadAllLines(list);
        var (faults, done) = (new List<string>(), 0);
        foreach (var file in files.Order(StringComparer.Ordinal))
        {
            var (slowest, clock) = (0L, new System.Diagnostics.Stopwatch());
            var pieces = DesignReader.Read(File.ReadAllBytes(file)).Papers.ToList();
            foreach (var outline in pieces.Select(p => p.Outline))
            {
                foreach (var way in Enum.GetValues<StrengthenWay>())
                {
                    done++;
                    clock.Restart();
                    try
                    {
                        if (Fault(outline, Strengthening.Of(outline, way, Limits, 0.15), way) is { } fault) faults.Add($"{file} {way}: {fault}");
                    }
                    catch (Exception e)
                    {
                        faults.Add($"{file} {way}: {e.GetType().Name} {e.Message} {e.StackTrace?.Split('\n')[0]}");
                    }

                    slowest = Math.Max(slowest, clock.ElapsedMilliseconds);
                }
            }

            if (slowest > 2000) output.WriteLine($"{file}: {slowest} ms, {pieces.Sum(p => p.Outline.Subpaths.Sum(s => s.Segments.Length))} nodes");
        }

        foreach (var fault in faults) output.WriteLine(fault);
        output.WriteLine($"{done} outlines, {faults.Count} faults");
        Assert.Empty(faults);
        Assert.True(done > 50);
    }

    /// <summary>No gap may be narrower than it was, or than the least that is asked for.</summary>
    private static string? Closer(VectorPath outline, VectorPath strong, Limits limits)
    {
        foreach (var t in Inspection.Of(strong, limits).Tight)
        {
            if (t.Gap.Mm > limits.Gap.Mm - 0.02 || (outline.DistanceTo(t.From) < 0.01 && outline.DistanceTo(t.To) < 0.01)) continue;
            if (IsWhereTheyPart(strong, t, 4 * limits.Gap.Mm)) continue;
            // As wide as it was: the ball between the edges that were there.
            var room = 2 * outline.DistanceTo(t.At);
            if (t.Gap.Mm < room - 0.03) return $"a gap was {room:0.000}, now {t.Gap.Mm:0.000} at {t.At.X:0.00} {t.At.Y:0.00}";
        }

        return null;
    }

    /// <summary>Where two limbs part, the gap between them begins from nothing, wherever that is.</summary>
    private static bool IsWhereTheyPart(VectorPath path, TightPlace t, double within) => path.Rings.Any(ring =>
    {
        int Nearest(Point p) => Enumerable.Range(0, ring.Count).MinBy(i => ring[i].DistanceTo(p));
        int a = Nearest(t.From), b = Nearest(t.To);
        if (ring[a].DistanceTo(t.From) > 1 || ring[b].DistanceTo(t.To) > 1 || a == b) return false;
        double Way(int from, int to) => Enumerable.Range(0, (to - from + ring.Count) % ring.Count)
            .Sum(k => ring[(from + k) % ring.Count].DistanceTo(ring[(from + k + 1) % ring.Count]));
        return Math.Min(Way(a, b), Way(b, a)) < within + t.Gap.Mm;
    });

    private static string? Fault(VectorPath outline, VectorPath strong, StrengthenWay way)
    {
        if (strong.Equals(outline)) return null;
        (int, int) Count(VectorPath p) => (p.Subpaths.Count(s => s.SignedAreaMm2 > 0), p.Subpaths.Count(s => s.SignedAreaMm2 < 0));
        if (Count(outline) != Count(strong)) return $"{Count(outline)} became {Count(strong)}";
        if (strong.Subpaths.SelectMany(s => s.Segments).Any(s => !double.IsFinite(s.End.X + s.End.Y + s.C1.X + s.C2.Y))) return "not finite";
        // Judged by another: what the even-odd rule makes of it has the same area and the same parts.
        var parts = Region.Parts(strong, FillRule.EvenOdd).ToList();
        var area = parts.Sum(p => p.SignedAreaMm2);
        if (Math.Abs(area - strong.SignedAreaMm2) > 0.002 + 1e-4 * Math.Abs(area)) return $"area {strong.SignedAreaMm2:0.0000} is {area:0.0000}";
        return strong.SignedAreaMm2 < outline.SignedAreaMm2 - 0.01 - 0.002 * outline.Length.Mm ? "smaller" : null;
    }

    private static VectorPath AnyOutline(Random r)
    {
        var one = One();
        return r.Next(4) switch
        {
            0 => VectorPath.Joined(Together.TakeAway(one, [One()])),
            1 => VectorPath.Joined(Together.Join([one, One()])),
            2 => VectorPath.Joined(Together.Clean(one.With(One()))),
            _ => one,
        };

        VectorPath One() => r.Next(5) switch
        {
            0 => AnyArea.One(r),
            1 or 2 => KnownWidths.Make(KnownWidths.Kinds[r.Next(KnownWidths.Kinds.Length)], r).Outline,
            3 => Word(Scripts[r.Next(Scripts.Length)], 4 + 16 * r.NextDouble(), Texts[r.Next(Texts.Length)]),
            _ => AnyArea.Whole(Together.Join([.. Enumerable.Range(0, 2 + r.Next(12)).Select(_ => Scratch())])),
        };

        // A long thin scrap that may cross others.
        VectorPath Scratch()
        {
            Point a = new(r.NextDouble() * 20, r.NextDouble() * 20), b = new(r.NextDouble() * 20, r.NextDouble() * 20), d = b - a;
            var n = new Point(-d.Y, d.X) * (1 / Math.Max(d.Norm, 0.1));
            return VectorPath.Polygon(a - n * r.NextDouble(), b - n * r.NextDouble(), b + n * r.NextDouble(), a + n * r.NextDouble());
        }
    }

    private static readonly string[] Scripts = ["Sacramento", "Courgette", "Fraunces", "Abril Fatface", "Josefin Sans", "Amatic SC"];

    private static readonly string[] Texts = ["hut", "with thanks", "Ærø & %8", "i", "Bergwiese", "ÄÖÜ ïj;", "@"];

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
