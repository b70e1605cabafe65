using Falzkunst.Core.Cards;
using Falzkunst.Core.Files;
using Falzkunst.Core.Lettering;
using Falzkunst.Core.Pictures;
using Falzkunst.Core.Reading;
using Falzkunst.Core.Regions;
using Falzkunst.Core.Strength;
using Falzkunst.Core.Tracing;
using Falzkunst.Core.Writing;

namespace Falzkunst.Core.Tests.Strength;

public sealed class InspectionTests(ITestOutputHelper output)
{
    private static readonly Limits Limits = new(Length.FromMm(KnownWidths.Limit), Length.FromMm(KnownWidths.Gap));

    private static readonly (int Count, int Seed) Asked = Cases.Seeds("FALZKUNST_WIDTHS", "6@700", "12@700");

    [Fact]
    public void Thin_places_and_tight_gaps_of_shapes_with_known_widths_are_found_at_their_width()
    {
        var (hits, missed, false_, tightHits, tightMissed, tightFalse, worst) = (0, 0, 0, 0, 0, 0, 0.0);
        foreach (var kind in KnownWidths.Kinds)
        {
            for (var k = 0; k < Asked.Count; k++)
            {
                var known = KnownWidths.Make(kind, new(Asked.Seed + k));
                var seen = Inspection.Of(known.Outline, Limits);
                var left = seen.Thin.ToList();
                foreach (var (at, width, isSure) in known.Thin)
                {
                    var near = left.Where(p => p.At.DistanceTo(at) < Math.Max(1.2, p.Length.Mm)).MinBy(p => Math.Abs(p.Width.Mm - width));
                    if (near is null)
                    {
                        if (!isSure) continue;
                        missed++;
                        output.WriteLine($"{kind} {Asked.Seed + k}: missed {width:0.000} at {at.X:0.0} {at.Y:0.0}");
                        continue;
                    }

                    hits++;
                    left.Remove(near);
                    if (Math.Abs(near.Width.Mm - width) > worst) worst = Math.Abs(near.Width.Mm - width);
                    if (Math.Abs(near.Width.Mm - width) > 0.02) output.WriteLine($"{kind} {Asked.Seed + k}: {near.Width.Mm:0.000} is {width:0.000}");
                }

                false_ += left.Count;
                foreach (var p in left)
                    output.WriteLine($"{kind} {Asked.Seed + k}: {p.Width.Mm:0.000} × {p.Length.Mm:0.00} at {p.At.X:0.0} {p.At.Y:0.0} is none");
                var gaps = seen.Tight.ToList();
                foreach (var (at, gap) in known.Tight)
                {
                    if (gaps.Find(g => g.At.DistanceTo(at) < 6 && Math.Abs(g.Gap.Mm - gap) < 0.01) is not { } near) tightMissed++;
                    else (tightHits, _) = (tightHits + 1, gaps.Remove(near));
                }

                tightFalse += gaps.Count;
                foreach (var g in gaps) output.WriteLine($"{kind} {Asked.Seed + k}: gap {g.Gap.Mm:0.000} at {g.At.X:0.0} {g.At.Y:0.0} is none");
            }
        }

        output.WriteLine($"thin: {hits} found, {missed} missed, {false_} false, worst {worst:0.0000} mm; "
            + $"gaps: {tightHits} found, {tightMissed} missed, {tightFalse} false");
        Assert.True(hits > 100 && missed <= 0.02 * hits && false_ <= 0.02 * hits);
        Assert.True(tightHits > 10 && tightMissed <= 0.02 * tightHits && tightFalse <= 0.02 * tightHits);
        Assert.InRange(worst, 0, 0.02);
    }

    /// <summary>Drawn at 600 dpi and traced, widths are known to what tracing makes of them: within a third of a pixel.</summary>
    [Fact]
    public void Thin_places_of_shapes_that_were_drawn_and_traced_are_found_about_at_their_width()
    {
        const double dpi = 600, clear = 0.04;
        var (hits, missed, none, worst) = (0, 0, 0, 0.0);
        foreach (var kind in new[] { "ring", "dumbbell", "lace", "snowflake", "wave", "waist" })
        {
            for (var seed = Asked.Seed; seed < Asked.Seed + Math.Min(Asked.Count, 30); seed++)
            {
                var known = KnownWidths.Make(kind, new(seed));
                var box = known.Outline.Bounds.Grown(2);
                var svg = FormattableString.Invariant($"<svg xmlns='http://www.w3.org/2000/svg' width='{box.Width}mm' height='{box.Height}mm' ")
                    + FormattableString.Invariant($"viewBox='{box.Left} {box.Top} {box.Width} {box.Height}'><path d='{known.Outline.ToSvg()}'/></svg>");
                var picture = Raster.Read(Paper.Render(Cases.Read(svg), dpi, DrawAs.Artwork).Png, ReadingLimits.Default);
                var layer = Assert.Single(Tracer.Trace(picture, new() { Mode = TraceMode.Flat, Dpi = dpi }).Layers);
                var seen = Inspection.Of(VectorPath.Joined(Together.Clean(layer.Path.Transform(Affine.Move(box.Left, box.Top)))), Limits);
                var left = seen.Thin.ToList();
                foreach (var (at, width, isSure) in known.Thin)
                {
                    if (left.Where(p => p.At.DistanceTo(at) < Math.Max(1.2, p.Length.Mm)).MinBy(p => Math.Abs(p.Width.Mm - width)) is { } near)
                    {
                        hits++;
                        left.Remove(near);
                        worst = Math.Max(worst, Math.Abs(near.Width.Mm - width));
                    }
                    else if (isSure && width < KnownWidths.Limit - clear)
                    {
                        missed++;
                        output.WriteLine($"{kind} {seed}: missed {width:0.000} at {at.X:0.0} {at.Y:0.0}");
                    }
                }

                foreach (var p in left.Where(p => p.Width.Mm < KnownWidths.Limit - clear))
                {
                    none++;
                    output.WriteLine($"{kind} {seed}: {p.Width.Mm:0.000} × {p.Length.Mm:0.00} at {p.At.X:0.0} {p.At.Y:0.0} is none");
                }
            }
        }

        output.WriteLine($"traced: {hits} found, {missed} missed, {none} false, worst {worst:0.000} mm");
        Assert.True(hits > 60 && missed <= 0.02 * hits && none <= 0.02 * hits && worst < 0.03);
    }

    /// <summary>
    /// The judge is slow and knows no balls: places inside of a letter that are nearer to two facing edges than the limit allows, found by measuring to all
    /// edges.
    /// </summary>
    [Theory]
    [InlineData("Sacramento", 6)]
    [InlineData("Courgette", 9)]
    [InlineData("Fraunces", 12)]
    [InlineData("Abril Fatface", 20)]
    [InlineData("Amatic SC", 10)]
    public void What_a_slow_judge_finds_thin_in_letters_is_found_and_nothing_else(string face, double capHeight)
    {
        var outline = new Lettered("Bergwiese & hut", Faces.All.First(f => f.Name == face).Name, Faces.All.OfType<Typeface>().First(f => f.Name == face).Weight,
            Length.FromMm(capHeight), Length.Zero).Path;
        var seen = Inspection.Of(outline, Limits);
        var edges = outline.Subpaths.SelectMany(s => s.Flatten(0.002) is var p ? p.Select((a, i) => (A: a, B: p[(i + 1) % p.Count])) : []).ToArray();
        var (most, seed) = Cases.Seeds("FALZKUNST_JUDGED", "60@9", "150@9");
        var (r, asked, thin) = (new Random(seed), 0, 0);
        for (var k = 0; k < 400 * most && thin < most; k++)
        {
            var box = outline.Bounds;
            var p = new Point(box.Left + box.Width * r.NextDouble(), box.Top + box.Height * r.NextDouble());
            if (!outline.Encloses(p)) continue;
            asked++;
            var places = edges.Select(e => Foot(p, e.A, e.B)).ToArray();
            var near = places.Min(q => q.DistanceTo(p));
            // On the middle between two edges that face each other, well under the limit.
            if (near > Limits.Width.Mm / 2 - 0.04 || near < 0.03) continue;
            var first = places.MinBy(q => q.DistanceTo(p));
            if (!places.Any(q => q.DistanceTo(p) < near + 0.004 && (q - p).Dot(first - p) < -0.92 * near * near)) continue;
            thin++;
            Assert.True(seen.Thin.Any(t => t.At.DistanceTo(p) < t.Length.Mm + 0.5) || seen.Sharp.Any(s => s.At.DistanceTo(p) < 2.5),
                $"{face}: {2 * near:0.000} mm at {p.X:0.00} {p.Y:0.00}");
        }

        output.WriteLine($"{face}: {seen.Thin.Count} places, {thin} of {asked} asked are thin");
        var ends = 0;
        foreach (var t in seen.Thin)
        {
            // At the flat end of a taper the middle lies near that; nowhere is more room than is said.
            Assert.True(outline.Encloses(t.At) || outline.DistanceTo(t.At) < 0.03, $"{t}");
            Assert.InRange(outline.DistanceTo(t.At), 0, t.Width.Mm / 2 + 0.012);
            if (outline.DistanceTo(t.At) < t.Width.Mm / 2 - 0.03) ends++;
        }

        output.WriteLine($"{ends} at ends");

        static Point Foot(Point p, Point a, Point b)
        {
            var d = b - a;
            return a + d * Math.Clamp((p - a).Dot(d) / Math.Max(d.Dot(d), 1e-300), 0, 1);
        }
    }
}
