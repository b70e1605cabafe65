using CsCheck;
using Falzkunst.Core.Cards;
using Falzkunst.Core.Layout;
using Falzkunst.Core.Reading.Svg;

namespace Falzkunst.Core.Tests.Layout;

public sealed class NestTests
{
    private static NestPiece Piece(string id, string path, int count = 1, Turns turns = Turns.Quarter, bool flip = false) =>
        new(id, PathText.Read(path), count, turns, flip);

    private static NestSheet Sheet(double w, double h, double margin = 5, int count = 99, params string[] keepOut) =>
        new("s", Length.FromMm(w), Length.FromMm(h), Length.FromMm(margin), count, [.. keepOut.Select(PathText.Read)]);

    private static NestResult Run(NestRequest request) => NestEngine.Run(request with { Effort = TimeSpan.FromSeconds(0.2) });

    /// <summary>Star-shaped pieces of any size, some with a hole, some bent.</summary>
    private static readonly Gen<string> AnyShape = Gen.Select(Gen.Double[3, 40].Array[3, 9], Gen.Bool, Gen.Double[-50, 50]).Select((radii, hole, at) =>
    {
        string Ring(double by) => "M" + string.Join("L", radii.Select((r, i) => At(by * r, i * 2 * Math.PI / radii.Length))) + "Z";
        string At(double far, double angle) => FormattableString.Invariant($"{at + far * Math.Cos(angle)} {-at + far * Math.Sin(angle)}");
        return Ring(1) + (hole ? Ring(0.5) : "");
    });

    [Fact]
    public void Every_layout_is_valid() =>
        Gen.Select(AnyShape.Array[1, 6], Gen.Double[0, 4], Gen.Double[0, 8], Cases.Any(Turns.None, Turns.Half, Turns.Quarter, Turns.Any), Gen.Bool,
        Gen.Int[1, 3])
        .Sample((shapes, gap, margin, turns, flip, count) =>
        {
            var request = new NestRequest(Length.FromMm(gap), [Sheet(160, 120, margin, 3, "M60 50H90V70H60Z")],
                [.. shapes.Select((s, i) => Piece($"p{i}", s, count, turns, flip))]);
            var result = Run(request);
            var faults = LayoutCheck.Faults(request, result);
            Assert.True(faults.IsEmpty, $"{string.Join(' ', faults)} gap {gap} margin {margin} {string.Join(" | ", shapes)}");
            // No layout is better than what is held to be the best that there can be.
            Assert.False(LeastLayout.Of(request, request.Pieces, result) > result.Price + result.LastSheetPart + 1e-6);
        }, iter: 40);

    [Theory]
    [InlineData(1, true), InlineData(3, true), InlineData(4, false)]
    public void Nothing_better_is_looked_for_where_nothing_can_be(int count, bool isBest)
    {
        // Three lie beside each other, and reach down as far as one does; a fourth lies below.
        var heard = new Heard();
        NestEngine.Run(new(Length.FromMm(2), [Sheet(160, 200)], [Piece("a", "M0 0H45V60H0Z", count, Turns.Half)]) { Rounds = 2 }, heard);
        Assert.Equal(isBest, heard.All.TrueForAll(t => t.EndsWith("reading shapes", StringComparison.Ordinal)
            || t.EndsWith("a first fill", StringComparison.Ordinal) || t.EndsWith("in a lattice", StringComparison.Ordinal)));
    }

    private sealed class Heard : IProgress<NestProgress>
    {
        public List<string> All { get; } = [];

        public void Report(NestProgress value) => All.Add(value.Text);
    }

    [Fact]
    public void The_check_sees_what_is_wrong()
    {
        var request = new NestRequest(Length.FromMm(2), [Sheet(100, 100)], [Piece("a", "M0 0H20V20H0Z", 2)]);
        NestResult At(double x, double y) => new([new("a", 1, 0, "s", Angle.Zero, false, new(10, 10)), new("a", 2, 0, "s", Angle.Zero, false, new(x, y))],
            [], ["s"], 0, 0, 1);
        Assert.Empty(LayoutCheck.Faults(request, At(32, 10)));
        Assert.Single(LayoutCheck.Faults(request, At(31.9, 10)));
        Assert.Single(LayoutCheck.Faults(request, At(15, 15)));
        Assert.Single(LayoutCheck.Faults(request, At(76, 50)));
    }

    [Fact]
    public void A_small_piece_goes_into_a_hole()
    {
        var request = new NestRequest(Length.FromMm(2), [Sheet(110, 110, 5, 1)],
            [Piece("frame", "M0 0H100V100H0ZM20 20H80V80H20Z"), Piece("small", "M0 0H50V50H0Z")]);
        Assert.Empty(Run(request).Unplaced);
    }

    [Fact]
    public void Sheets_are_filled_to_the_millimetre()
    {
        // 4 × 3 of 45 × 60 with gaps of 2 in 186 × 184: nothing to spare.
        var request = new NestRequest(Length.FromMm(2), [Sheet(196, 194)], [Piece("a", "M0 0H45V60H0Z", 12, Turns.None)]);
        Assert.Single(Run(request).SheetIds);
    }

    [Fact]
    public void What_does_not_fit_says_why()
    {
        var request = new NestRequest(Length.FromMm(2), [Sheet(100, 100, 5, 1)], [Piece("large", "M0 0H200V20H0Z"), Piece("many", "M0 0H80V80H0Z", 2)]);
        var result = Run(request);
        Assert.Equal(["larger than every sheet", "no sheet is left"],
            result.Unplaced.Select(u => u.Why.Contains("larger", StringComparison.Ordinal) ? "larger than every sheet" : u.Why[..16]));
    }

    [Fact]
    public void A_sheet_that_takes_nothing_is_not_used()
    {
        // It fits into the margins, but not beside the keep-out.
        var request = new NestRequest(Length.FromMm(2), [Sheet(100, 100, 5, 3, "M45 45H55V55H45Z")], [Piece("a", "M0 0H60V60H0Z")]);
        var result = Run(request);
        Assert.Single(result.Unplaced);
        Assert.Empty(result.SheetIds);
    }

    /// <summary>Whatever else the processors have to do meanwhile.</summary>
    [Theory]
    [InlineData(3), InlineData(null)]
    public void The_same_request_gives_the_same_layout(int? rounds)
    {
        var request = new NestRequest(Length.FromMm(1), [Sheet(200, 200)],
            [Piece("a", "M0 0H30L15 40Z", 9), Piece("b", "M0 0C30 0 30 30 0 30Z", 9)])
        { Seed = 5, Rounds = rounds };
        var alone = Run(request).Placements;
        Assert.All(Enumerable.Range(0, 4).AsParallel().WithDegreeOfParallelism(4).Select(_ => Run(request).Placements).ToList(),
            placements => Assert.Equal(alone.AsEnumerable(), placements.AsEnumerable()));
    }

    [Fact]
    public void Whose_time_is_over_gets_a_place_for_every_piece()
    {
        using var over = new CancellationTokenSource();
        over.Cancel();
        var request = new NestRequest(Length.FromMm(1), [Sheet(200, 200, 0, 9)], [Piece("a", "M0 0H30L15 40Z", 90)])
        {
            Effort = TimeSpan.FromSeconds(3600),
            Rounds = int.MaxValue,
            Until = over.Token,
        };
        var result = NestEngine.Run(request);
        Assert.Empty(result.Unplaced);
        Assert.Empty(LayoutCheck.Faults(request, result));
    }

    [Fact]
    public void Stopped_it_keeps_the_best_so_far()
    {
        using var cancel = new CancellationTokenSource();
        var request = new NestRequest(Length.FromMm(1), [Sheet(200, 200)], [Piece("a", "M0 0H30L15 40Z", 40)]) { Effort = TimeSpan.FromSeconds(60) };
        var result = NestEngine.Run(request, new Stop(cancel), cancel.Token);
        Assert.Empty(result.Unplaced);
        Assert.Empty(LayoutCheck.Faults(request, result));
        // Stopped before there is one, it says so of each.
        var none = NestEngine.Run(request, cancel: cancel.Token);
        Assert.Equal(40, none.Unplaced.Count(u => u.Why.Contains("stopped", StringComparison.Ordinal)));
        Assert.Empty(LayoutCheck.Faults(request, none));
    }

    [Fact]
    public void Pieces_are_brought_together_and_as_much_as_can_be_is_left_in_one_rectangle()
    {
        var request = new NestRequest(Length.FromMm(2), [Sheet(200, 200)], [Piece("a", "M0 0H40V30H0Z", 7), Piece("b", "M0 0H20L10 25Z", 5)])
        { Effort = TimeSpan.FromSeconds(0.6), Rounds = 3 };
        var result = NestEngine.Run(request);
        Assert.Empty(LayoutCheck.Faults(request, result));
        var laid = result.Placements.Select(p => (p, Region: Falzkunst.Core.Regions.Region.Of(request.Pieces.First(q => q.Id == p.Piece).Path)
            .Transform(p.ToSheet))).ToList();
        foreach (var (p, region) in laid)
        {
            // Up by a tenth of a millimetre, it would be too near to something.
            var up = region.Transform(Affine.Move(0, -0.1));
            Assert.True(up.Bounds.Top < 5 || laid.Exists(o => o.p != p && o.Region.DistanceTo(up) < 2), $"{p.Piece} {p.Copy} could go up");
        }
    }

    [Fact]
    public void The_demo_card_is_laid_out_whole_and_denser_than_its_boxes()
    {
        var design = Cases.DemoCard();
        var pieces = design.Pieces.Where(p => p.Label is "Hut" or "Roof" or "Pines" or "Slope" or "Snow ridge" or "Cloud").ToList();
        NestRequest Request(Func<VectorPath, VectorPath> shape) => new(Length.FromMm(2), [Sheet(305, 305)],
            [.. pieces.Select(p => new NestPiece(p.Id, shape(p.Outline), 6))]);
        var real = Request(p => p);
        var result = Run(real);
        Assert.Empty(result.Unplaced);
        Assert.Empty(LayoutCheck.Faults(real, result));
        var boxes = Run(Request(p => VectorPath.Rectangle(p.Bounds.Left, p.Bounds.Top, p.Bounds.Width, p.Bounds.Height)));
        Assert.True(result.Cost < boxes.Cost, $"{result.Cost} against {boxes.Cost}");
    }

    [Theory]
    [InlineData(Turns.None, 20)]
    [InlineData(Turns.Quarter, 14)]
    [InlineData(Turns.Any, 9)]
    public void What_a_sheet_was_cut_into_finds_together_again(Turns turns, int parts)
    {
        for (var seed = 1; seed <= 2; seed++)
        {
            // As files say it, to a hundredth of a millimetre; the sheet is 2 % larger on each side.
            var random = new Random(seed);
            var pieces = Parts(random, parts).Select((part, i) =>
            {
                var by = turns == Turns.None ? 0 : turns == Turns.Quarter ? 90 * random.Next(4) : 360 * random.NextDouble();
                var at = Affine.Turn(Angle.FromDegrees(by));
                return new NestPiece($"p{i}", VectorPath.Polygon([.. part.Select(at.Apply).Select(p => new Point(Math.Round(p.X, 3), Math.Round(p.Y, 3)))]), 1,
                    turns);
            });
            var request = new NestRequest(Length.Zero, [new("s", Length.FromMm(204), Length.FromMm(285.6), Length.Zero, 1, [])], [.. pieces])
            { Effort = TimeSpan.FromSeconds(8), Rounds = 1, StopsWhenAllFit = true };
            var result = NestEngine.Run(request);
            Assert.Empty(result.Unplaced);
            Assert.Empty(LayoutCheck.Faults(request, result));
        }
    }

    /// <summary>A sheet of 200 × 280 mm in parts: the largest is cut in two, again and again.</summary>
    private static List<List<Point>> Parts(Random random, int parts)
    {
        var all = new List<List<Point>> { new() { new(0, 0), new(200, 0), new(200, 280), new(0, 280) } };
        while (all.Count < parts)
        {
            var part = all.MaxBy(p => Falzkunst.Core.Regions.Region.Of(VectorPath.Polygon([.. p])).AreaMm2)!;
            all.Remove(part);
            var box = VectorPath.Polygon([.. part]).Bounds;
            var angle = (box.Width > box.Height ? Math.PI / 2 : 0) + random.NextDouble() - 0.5;
            var (way, at) = (new Point(Math.Cos(angle), Math.Sin(angle)), part.Aggregate((a, b) => a + b) * (1.0 / part.Count));
            foreach (var sign in new[] { -1, 1 })
            {
                var side = new List<Point>();
                for (var i = 0; i < part.Count; i++)
                {
                    var (a, b) = (part[i], part[(i + 1) % part.Count]);
                    double s = sign * (a - at).Cross(way), t = sign * (b - at).Cross(way);
                    if (s >= 0) side.Add(a);
                    if (s * t < 0) side.Add(a + (b - a) * (s / (s - t)));
                }

                all.Add(side);
            }
        }

        return all;
    }

    private sealed class Stop(CancellationTokenSource cancel) : IProgress<NestProgress>
    {
        public void Report(NestProgress value)
        {
            if (value.Best is not null) cancel.Cancel();
        }
    }

    [Fact]
    public void Many_copies_lie_in_each_other_as_in_a_lattice()
    {
        // Side by side, two sheets take them. In the second case others go around them.
        var corner = new NestPiece("corner", VectorPath.Polygon(new(0, 0), new(50, 0), new(50, 9), new(9, 9), new(9, 40), new(0, 40)), 60, Turns.Quarter);
        var dot = new NestPiece("dot", VectorPath.Disc(default, 4), 20, Turns.None);
        foreach (var pieces in new[] { System.Collections.Immutable.ImmutableArray.Create(corner), [corner with { Count = 55 }, dot] })
        {
            var request = new NestRequest(Length.FromMm(1), [new("s", Length.FromMm(305), Length.FromMm(305), Length.FromMm(5), 9, [])], pieces)
            { Effort = TimeSpan.FromSeconds(3), Rounds = 1 };
            var result = NestEngine.Run(request);
            Assert.Empty(LayoutCheck.Faults(request, result));
            Assert.Single(result.SheetIds);
        }
    }
}
