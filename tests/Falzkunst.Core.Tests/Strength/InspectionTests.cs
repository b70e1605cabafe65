using Falzkunst.Core.Strength;
using Xunit.Abstractions;

namespace Falzkunst.Core.Tests.Strength;

public sealed class InspectionTests(ITestOutputHelper output)
{
    private static readonly Limits Limits = new(Length.FromMm(KnownWidths.Limit), Length.FromMm(KnownWidths.Gap));

    /// <summary>How many shapes of each kind, and from which seed: "40@1". Those that were tuned with come from other seeds than those that are
    /// reported.</summary>
    private static (int Count, int Seed) Asked =>
        (Environment.GetEnvironmentVariable("FALZKUNST_WIDTHS") ?? "12@700").Split('@') is [var n, var s] ? (int.Parse(n), int.Parse(s)) : (12, 700);

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
                foreach (var p in left) output.WriteLine($"{kind} {Asked.Seed + k}: {p.Width.Mm:0.000} × {p.Length.Mm:0.00} at {p.At.X:0.0} {p.At.Y:0.0} is none");
                var gaps = seen.Tight.ToList();
                foreach (var (at, gap) in known.Tight)
                {
                    if (gaps.Find(g => g.At.DistanceTo(at) < 6 && Math.Abs(g.Gap.Mm - gap) < 0.01) is { } g) (tightHits, _) = (tightHits + 1, gaps.Remove(g));
                    else tightMissed++;
                }

                tightFalse += gaps.Count;
                foreach (var g in gaps) output.WriteLine($"{kind} {Asked.Seed + k}: gap {g.Gap.Mm:0.000} at {g.At.X:0.0} {g.At.Y:0.0} is none");
            }
        }

        output.WriteLine($"thin: {hits} found, {missed} missed, {false_} false, worst {worst:0.0000} mm; gaps: {tightHits} found, {tightMissed} missed, {tightFalse} false");
        Assert.True(hits > 100 && missed <= 0.02 * hits && false_ <= 0.02 * hits);
        Assert.True(tightHits > 10 && tightMissed <= 0.02 * tightHits && tightFalse <= 0.02 * tightHits);
        Assert.InRange(worst, 0, 0.02);
    }
}
