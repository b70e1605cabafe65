using System.Diagnostics;
using Falzkunst.Core.Cards;
using Falzkunst.Core.Lettering;
using Falzkunst.Core.Strength;
using Xunit.Abstractions;
namespace Falzkunst.Core.Tests.Strength;
public sealed class DbgTests(ITestOutputHelper o)
{
    [Fact]
    public void Dbg()
    {
        Limits limits = new(Length.FromMm(KnownWidths.Limit), Length.FromMm(KnownWidths.Gap));
        foreach (var lines in new[] { 1, 4, 38 })
        {
            var text = string.Join('\n', Enumerable.Range(0, lines).Select(i => "Bergwiese & hut" + (char)('a' + i % 26)));
            var outline = new Lettered(text, "Courgette", 400, Length.FromMm(9), Length.Zero).Path;
            // Not known yet.
            outline = outline.Transform(Affine.Move(lines * 0.001, 0.5));
            var c = Stopwatch.StartNew();
            var i = Inspection.Of(outline, limits);
            var a = c.ElapsedMilliseconds;
            c.Restart();
            var s = Strengthening.Of(outline, StrengthenWay.OnlyThin, limits, 0);
            var b = c.ElapsedMilliseconds; c.Restart();
            var s2 = Strengthening.Of(outline, StrengthenWay.AllRound, limits, 0.1);
            o.WriteLine($"{outline.Subpaths.Sum(p => p.Segments.Length)} nodes, {outline.Length}: inspect {a} ms, thin {i.Thin.Count}, strengthen {b} ms, all round {c.ElapsedMilliseconds}, {s.Subpaths.Sum(p => p.Segments.Length)} {s2.Subpaths.Sum(p => p.Segments.Length)}");
            var j = Inspection.Of(s2, limits);
            o.WriteLine($"   all round: {i.MinWidth} -> {j.MinWidth}, {i.MinGap} -> {j.MinGap} {i.Parts}/{i.Holes} {j.Parts}/{j.Holes} tight {i.Tight.Count} {j.Tight.Count}");
            var s3 = Strengthening.Of(outline, StrengthenWay.HolesOnly, limits, 0.15);
            j = Inspection.Of(s3, limits);
            o.WriteLine($"   holes: {i.MinWidth} -> {j.MinWidth}, {i.MinGap} -> {j.MinGap} {i.Parts}/{i.Holes} {j.Parts}/{j.Holes} tight {i.Tight.Count} {j.Tight.Count}");
        }
    }
}
