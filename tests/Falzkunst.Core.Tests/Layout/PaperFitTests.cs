using Falzkunst.Core.Cards;
using Falzkunst.Core.Findings;
using Falzkunst.Core.Looks;

namespace Falzkunst.Core.Tests.Layout;

public sealed class PaperFitTests
{
    private static Stock Paper(string name, string colour, double gsm) =>
        new(name, name, Colour.FromHex(colour), gsm, Length.FromMm(gsm / 900),
            [new(Length.FromMm(210), Length.FromMm(297), 9, Length.FromMm(5))]);

    private static readonly Stock[] Drawer =
    [
        Paper("Snow 220 g", "#fbfbf7", 220), Paper("Slate blue textured 270 g", "#5f7c95", 270), Paper("Pine green 220 g", "#2f5d46", 220),
        Paper("Vellum 100 g", "#e9e6dd", 100), Paper("Ivory 300 g", "#f4ead2", 300), Paper("Copper mirror card 250 g", "#b86842", 250),
        Paper("Photo matte 240 g", "#f6f6f6", 240),
    ];

    private static Design Of(string label, string colour, Operation? line = null)
    {
        var design = new AddPiece(new Drawn(VectorPath.Rectangle(0, 0, 90, 70)), Place.Own, label)
            .Apply(Design.Blank(Length.FromMm(200), Length.FromMm(100)));
        design = design with { AllPieces = [design.Pieces[0] with { Label = label, Colour = Colour.FromHex(colour) }] };
        if (line is not { } operation) return design;
        design = new AddLine(VectorPath.Polyline(new Point(45, 0), new(45, 70)), null, Operation.Draw).Apply(design);
        return new SetLineOperation([design.Lines[^1].Id], operation).Apply(design);
    }

    [Theory]
    [InlineData("Base", "#e8e4da", Operation.Score, "Ivory 300 g", false)]
    [InlineData("Base", "#fbfbf7", Operation.Score, "Snow 220 g", false)]
    [InlineData("Lantern", "#e9e6dd", Operation.Deboss, "Vellum 100 g", false)]
    [InlineData("Vellum window", "#e9e6dd", null, "Vellum 100 g", false)]
    [InlineData("Heart", "#c0392b", null, "Copper mirror card 250 g", true)]
    [InlineData("Mirror heart", "#b87333", null, "Copper mirror card 250 g", false)]
    [InlineData("Night sky", "#1f2f54", null, "Slate blue textured 270 g", true)]
    [InlineData("Sky", "#73a0c8", null, "Slate blue textured 270 g", false)]
    [InlineData("Ivory", "#f6f6f6", null, "Ivory 300 g", false)]
    [InlineData("Ivory", "#d72828", null, "Ivory 300 g", false)]
    [InlineData("Mat", "#f6f6f6", null, "Snow 220 g", false)]
    [InlineData("Photo of the hut", "#f6f6f6", null, "Photo matte 240 g", false)]
    [InlineData("Star", "#d72828", null, "Copper mirror card 250 g", true)]
    [InlineData("Sun", "#f5d732", null, "Ivory 300 g", true)]
    [InlineData("Leaves", "#2f5d46", Operation.Score, "Pine green 220 g", false)]
    [InlineData("Outline", "#000000", null, "Snow 220 g", false)]
    public void A_paper_is_chosen_by_name_use_finish_and_colour(string label, string colour, Operation? line, string paper, bool isAsked)
    {
        var design = Of(label, colour, line);
        Assert.Equal((paper, isAsked), (Stocks.For(design.Pieces[0], Drawer)!.Name, Stocks.Asked(design, Drawer).Any()));
        // What is asked is asked once.
        if (Stocks.Asked(design, Drawer).FirstOrDefault() is not { } asked) return;
        Assert.StartsWith($"No paper in the drawer suits {label} (", asked.Why);
        var finding = Assert.Single(FindingList.Of(new(design, Drawer)), f => f.Code == "far-from-stocks");
        Assert.Empty(Stocks.Asked(finding.Remedies.First().Edit.Apply(design), Drawer));
    }

    /// <summary>Whatever comes into the drawer or leaves it: the papers of a card that was laid out stay, or are asked for.</summary>
    [Fact]
    public void What_is_settled_stays_whatever_comes_or_goes()
    {
        for (var seed = 1; seed <= 200; seed++)
        {
            var random = new Random(seed);
            string Any() => $"#{random.Next(0x1000000):x6}";
            var design = Of("Base", Any(), random.Next(2) == 0 ? Operation.Score : null);
            for (var k = random.Next(3); k > 0; k--)
            {
                design = new AddPiece(new Drawn(VectorPath.Rectangle(100, 0, 20, 20)), Place.Own, $"Tag {k}").Apply(design);
                design = design with { AllPieces = [.. design.AllPieces.SkipLast(1), design.Pieces[^1] with { Colour = Colour.FromHex(Any()) }] };
            }

            var drawer = Drawer.OrderBy(_ => random.Next()).Take(random.Next(1, 7)).ToList();
            var settled = Stocks.Settled(design, drawer)!.Apply(design);
            Assert.All(settled.Papers, p => Assert.Equal(Stocks.For(design.Piece(p.Id)!, drawer)!.Id, p.StockId));
            Assert.Null(Stocks.Settled(settled, drawer));
            List<Stock> later = [.. drawer.Where(_ => random.Next(3) > 0), Paper("New", Any(), 90 + random.Next(300))];
            var asked = Stocks.Asked(settled, later).SelectMany(a => a.Pieces).Select(p => p.Id).ToHashSet();
            foreach (var p in settled.Papers)
                Assert.True(asked.Contains(p.Id) ? later.TrueForAll(s => s.Id != p.StockId) : Stocks.For(p, later)!.Id == p.StockId,
                    $"seed {seed}: {p.Label}");
        }
    }
}
