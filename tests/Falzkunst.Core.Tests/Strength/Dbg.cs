using Falzkunst.Core.Cards;
using Falzkunst.Core.Lettering;
using Falzkunst.Core.Strength;
using Xunit.Abstractions;
namespace Falzkunst.Core.Tests.Strength;
public sealed class DbgTests
{
    [Fact]
    public void Dbg()
    {
        var (kind, seed) = (Environment.GetEnvironmentVariable("DBG") ?? "comb 2").Split(' ') is [var a, var b] ? (a, int.Parse(b)) : default;
        var outline = KnownWidths.Kinds.Contains(kind) ? KnownWidths.Make(kind, new(seed)).Outline
            : new Lettered("Bergwiese & hut", kind.Replace('_', ' '), Faces.All.OfType<Typeface>().First(f => f.Name == kind.Replace('_', ' ')).Weight, Length.FromMm(seed), Length.Zero).Path;
        Limits limits = new(Length.FromMm(KnownWidths.Limit), Length.FromMm(KnownWidths.Gap));
        var strong = Strengthening.Of(outline, StrengthenWay.OnlyThin, limits, 0);
        var box = strong.Bounds.Grown(1);
        var after = Inspection.Of(strong, limits);
        string Dots(Func<Inspection, IEnumerable<(Point, Point)>> of, string c) => string.Concat(of(after).Select(t => $"<path d='M{t.Item1.X} {t.Item1.Y}L{t.Item2.X} {t.Item2.Y}' stroke='{c}' stroke-width='.05'/><circle cx='{t.Item1.X}' cy='{t.Item1.Y}' r='.3' stroke='{c}' fill='none' stroke-width='.02'/>"));
        File.WriteAllText("/tmp/shots/dbg.svg", $"<svg xmlns='http://www.w3.org/2000/svg' viewBox='{box.Left} {box.Top} {box.Width} {box.Height}' width='{box.Width * 40}' height='{box.Height * 40}'>"
            + $"<path d='{strong.ToSvg()}' fill='#8bc' stroke='#046' stroke-width='.01' fill-rule='evenodd'/><path d='{outline.ToSvg()}' fill='#0003' stroke='#000' stroke-width='.01' fill-rule='evenodd'/>"
            + Dots(i => i.Thin.Select(t => (t.From, t.To)), "red") + Dots(i => i.Tight.Select(t => (t.From, t.To)), "green") + "</svg>");
    }
}
