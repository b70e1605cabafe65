using CsCheck;
using Falzkunst.Core.Cards;

namespace Falzkunst.Core.Tests.Cards;

public sealed class NearestTests
{
    private static readonly Design Card = Cases
        .Read("<svg xmlns='http://www.w3.org/2000/svg' width='100mm' height='60mm' viewBox='0 0 100 60'><rect width='100' height='60' fill='#eed'/><circle "
        + "cx='30' cy='30' r='10' fill='#900'/></svg>");

    [Theory]
    [InlineData(1, 1, 0, 0, Caught.Corner)]
    [InlineData(50, 1, 50, 0, Caught.Edge)]
    [InlineData(51, 32, 51, 32, Caught.Nothing)]
    [InlineData(30, 19, 30, 20, Caught.Corner)]
    public void A_corner_wins_over_the_edges_beside_it(double x, double y, double atX, double atY, Caught what)
    {
        var (at, caught) = Nearest.To(Card, new(x, y), Length.FromMm(2));
        Assert.Equal(what, caught);
        Assert.InRange(at.DistanceTo(new(atX, atY)), 0, 1e-9);
    }

    [Fact]
    public void What_is_caught_lies_on_an_outline_and_is_never_further_than_asked() =>
        Gen.Select(Gen.Double[-5, 105], Gen.Double[-5, 65], Gen.Double[0.1, 8]).Sample((x, y, within) =>
        {
            var (at, caught) = Nearest.To(Card, new(x, y), Length.FromMm(within));
            Assert.InRange(at.DistanceTo(new(x, y)), 0, within);
            if (caught != Caught.Nothing) Assert.InRange(Card.Pieces.Min(p => p.Outline.DistanceTo(at)), 0, 0.011);
        });
}
