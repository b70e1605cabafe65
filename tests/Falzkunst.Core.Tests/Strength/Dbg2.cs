using Falzkunst.Core.Cards;
using Falzkunst.Core.Lettering;
using Falzkunst.Core.Regions;
using Falzkunst.Core.Strength;
using Xunit.Abstractions;
namespace Falzkunst.Core.Tests.Strength;
public sealed class Dbg2Tests(ITestOutputHelper o)
{
    [Fact]
    public void Dbg()
    {
        var outline = new Lettered("Bergwiese & hut", "Josefin Sans", Faces.All.OfType<Typeface>().First(f => f.Name == "Josefin Sans").Weight, Length.FromMm(8), Length.Zero).Path;
        Limits limits = new(Length.FromMm(KnownWidths.Limit), Length.FromMm(KnownWidths.Gap));
        Strengthening.Of(outline, StrengthenWay.OnlyThin, limits, 0);
        var all = Strengthening.Debug!.Take(23).ToList();
        for (var i = 0; i < all.Count; i++)
        {
            var one = Together.Join([all[i]]);
            o.WriteLine($"{i} {all[i].SignedAreaMm2} -> {one.Count} {one.Sum(a => a.SignedAreaMm2)}");
            for (var j = 0; j < i; j++) if (Together.Join([all[j], all[i]]).Sum(a => a.SignedAreaMm2) is var s && s < all[i].SignedAreaMm2 - 0.01) o.WriteLine($"   with {j}: {s}");
        }
        var set = all.ToList();
        for (var again = true; again;)
        {
            again = false;
            for (var i = 0; i < set.Count && !again; i++)
            {
                var less = set.Where((_, k) => k != i).ToList();
                if (Together.Join(less).Sum(a => a.SignedAreaMm2) < less.Max(l => l.SignedAreaMm2) - 0.01) (set, again) = (less, true);
            }
        }
        o.WriteLine($"{set.Count}: {Together.Join(set).Count}");
        o.WriteLine(string.Join("\n", set.Select(a => a.ToSvg())));
    }
}
