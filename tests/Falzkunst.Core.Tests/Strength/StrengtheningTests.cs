using System.Diagnostics;
using Falzkunst.Core.Cards;
using Falzkunst.Core.Lettering;
using Falzkunst.Core.Regions;
using Falzkunst.Core.Strength;
using Xunit.Abstractions;

namespace Falzkunst.Core.Tests.Strength;

public sealed class StrengtheningTests(ITestOutputHelper output)
{
    private static readonly Limits Limits = new(Length.FromMm(KnownWidths.Limit), Length.FromMm(KnownWidths.Gap));

    private static VectorPath Word(string face, double capHeight, string text = "Bergwiese & hut") => new Lettered(text, face,
        Faces.All.OfType<Typeface>().First(f => f.Name == face).Weight, Length.FromMm(capHeight), Length.Zero).Path;

    public static TheoryData<string, double> Faces5 => new() { { "Sacramento", 6 }, { "Courgette", 9 }, { "Fraunces", 12 }, { "Abril Fatface", 20 }, { "Amatic SC", 10 },
        { "Sacramento", 14 }, { "Josefin Sans", 8 } };

    [Theory]
    [MemberData(nameof(Faces5))]
    public void Letters(string face, double capHeight) => Check(face, Word(face, capHeight), 0);

    [Fact]
    public void Shapes()
    {
        foreach (var kind in KnownWidths.Kinds)
            for (var k = 0; k < 10; k++) Check(kind + k, KnownWidths.Make(kind, new(k + 1)).Outline, 0);
    }

    private void Check(string name, VectorPath outline, int _)
    {
        var clock = Stopwatch.StartNew();
        var before = Inspection.Of(outline, Limits);
        var seen = clock.ElapsedMilliseconds;
        clock.Restart();
        var strong = Strengthening.Of(outline, StrengthenWay.OnlyThin, Limits, 0);
        var made = clock.ElapsedMilliseconds;
        var after = Inspection.Of(strong, Limits);
        int Nodes(VectorPath p) => p.Subpaths.Sum(s => s.Segments.Length);
        var kept = outline.Subpaths.SelectMany(s => s.Segments).ToHashSet();
        output.WriteLine($"{name}: {Nodes(outline)} nodes {seen} ms {made} ms -> {Nodes(strong)} ({strong.Subpaths.SelectMany(s => s.Segments).Count(kept.Contains)} same); thin {before.Thin.Count} -> {after.Thin.Count}"
            + $" {before.MinWidth} -> {after.MinWidth}; tight {before.Tight.Count} -> {after.Tight.Count} {before.MinGap} -> {after.MinGap}; parts {before.Parts}/{before.Holes} -> {after.Parts}/{after.Holes}"
            + $" area {outline.SignedAreaMm2:0.0} -> {strong.SignedAreaMm2:0.0}");
        foreach (var t in after.Thin.Take(12)) output.WriteLine($"    thin {t.Width} × {t.Length} at {t.At.X:0.00} {t.At.Y:0.00}");
        foreach (var t in after.Tight.Take(6)) output.WriteLine($"    tight {t.Gap} × {t.Length} at {t.At.X:0.00} {t.At.Y:0.00}");
    }
}
