using System.Globalization;
using System.Text;
using Falzkunst.Core.Cards;
using Falzkunst.Core.Documents;
using Falzkunst.Core.Files;
using Falzkunst.Core.Pictures;
using Falzkunst.Core.Reading;
using Falzkunst.Core.Reading.Svg;
using Falzkunst.Core.Writing;

namespace Falzkunst.Core.Tests.Reading;

/// <summary>Gradients and patterns: which colour lies where, what the piece is coloured, and what becomes of very many.</summary>
public sealed class PaintTests
{
    private static string Svg(string body) => $"<svg xmlns='http://www.w3.org/2000/svg' width='100mm' height='50mm' viewBox='0 0 100 50'>{body}</svg>";

    private static Drawing Read(string body) => SvgReader.Read(new MemoryStream(Encoding.UTF8.GetBytes(Svg(body))), ReadingLimits.Default);

    /// <summary>The colour that is printed at a place, in mm.</summary>
    private static Colour At(Design design, double x, double y)
    {
        const double Dpi = 127;
        var picture = Raster.Read(Paper.Render(design, Dpi, DrawAs.Artwork).Png, ReadingLimits.Default);
        var i = ((int)(y * Dpi / 25.4) * picture.Width + (int)(x * Dpi / 25.4)) * 4;
        return new(picture.Rgba[i], picture.Rgba[i + 1], picture.Rgba[i + 2], picture.Rgba[i + 3] / 255.0);
    }

    private const string BlackToWhite = "<stop stop-color='#000'/><stop offset='1' stop-color='#fff'/>";

    [Theory]
    [InlineData("<linearGradient id='g'>{0}</linearGradient>", 25, 10, 64)]
    [InlineData("<linearGradient id='g' x1='1' x2='0'>{0}</linearGradient>", 25, 10, 191)]
    [InlineData("<linearGradient id='g' x2='0' y2='1'>{0}</linearGradient>", 25, 40, 204)]
    [InlineData("<linearGradient id='g' gradientUnits='userSpaceOnUse' x1='20' x2='40'>{0}</linearGradient>", 10, 10, 0)]
    [InlineData("<linearGradient id='g' gradientUnits='userSpaceOnUse' x1='20' x2='40' spreadMethod='reflect'>{0}</linearGradient>", 50, 10, 128)]
    [InlineData("<linearGradient id='g' gradientUnits='userSpaceOnUse' x1='20' x2='40' spreadMethod='repeat'>{0}</linearGradient>", 45, 10, 64)]
    [InlineData("<linearGradient id='g' gradientTransform='rotate(90)'>{0}</linearGradient>", 25, 40, 204)]
    [InlineData("<radialGradient id='g' gradientUnits='userSpaceOnUse' cx='50' cy='25' r='20'>{0}</radialGradient>", 60, 25, 128)]
    [InlineData("<radialGradient id='g' gradientUnits='userSpaceOnUse' cx='50' cy='25' r='20' fx='40'>{0}</radialGradient>", 40, 25, 0)]
    [InlineData("<linearGradient id='s'>{0}</linearGradient><linearGradient id='g' href='#s' x1='1' x2='0'/>", 25, 10, 191)]
    public void A_gradient_has_its_colour_at_each_place(string gradient, double x, double y, int grey)
    {
        var design = Cases.Read(Svg(string.Format(CultureInfo.InvariantCulture, gradient, BlackToWhite) + "<rect width='100' height='50' fill='url(#g)'/>"));
        Assert.InRange((int)At(design, x, y).R, grey - 3, grey + 3);
    }

    [Fact]
    public void A_pattern_repeats_and_colours_its_piece_by_its_mean()
    {
        var design = Cases.Read(Svg("<pattern id='p' width='10' height='10' patternUnits='userSpaceOnUse'><rect width='10' height='10' fill='#fff'/><rect "
            + "width='5' height='10' fill='#f00'/></pattern><rect width='100' height='50' fill='url(#p)'/>"));
        Assert.Equal(("#ff0000", "#ffffff"), (At(design, 42, 7).Hex, At(design, 48, 33).Hex));
        var piece = Assert.Single(design.Pieces);
        Assert.InRange(piece.Colour.DistanceTo(new(255, 128, 128)), 0, 12);
        Assert.Equal(piece.Id, Assert.Single(design.Artwork).CarriedBy);
        // Paint goes on a little beyond the edge, so that a small error of the cut shows no white.
        Assert.True(design.Artwork[0].Bounds.Holds(piece.Outline.Bounds.Grown(0.9)));
        var file = FalzFile.Write(design);
        Assert.Equal(file, FalzFile.Write(FalzFile.Read(file)));
    }

    [Theory]
    [InlineData("<linearGradient id='g'/>", 0)]
    [InlineData("<linearGradient id='g' x2='0'><stop stop-color='#f00'/><stop offset='1' stop-color='#00f'/></linearGradient>", 1)]
    [InlineData("<radialGradient id='g' r='0'><stop stop-color='#f00'/><stop offset='1' stop-color='#00f'/></radialGradient>", 1)]
    [InlineData("<linearGradient id='g'><stop stop-color='#00f'/></linearGradient>", 1)]
    [InlineData("<pattern id='g' width='0' height='5'><rect width='1' height='1'/></pattern>", 0)]
    [InlineData("<pattern id='g' width='1' height='1'/>", 0)]
    public void Paints_without_an_extent_are_a_colour_or_nothing(string paint, int pieces)
    {
        var design = Cases.Read(Svg(paint + "<rect width='50' height='50' fill='url(#g)'/><circle cx='80' cy='20' r='9' fill='#123'/>"));
        Assert.Equal(pieces + 1, design.Pieces.Length);
        Assert.Empty(design.Artwork);
        if (pieces > 0) Assert.Equal("#0000ff", design.Pieces.Single(p => p.Outline.Bounds.Left < 1).Colour.Hex);
    }

    [Fact]
    public void A_paint_that_is_not_there_gives_way_to_the_colour_behind_it() =>
        Assert.Equal("#00aa77", Assert.Single(Cases.Read(Svg("<rect width='50' height='50' fill='url(#nowhere) #0a7'/>")).Pieces).Colour.Hex);

    [Fact]
    public void So_many_paints_that_memory_would_suffer_become_their_mean_colours_and_that_is_said()
    {
        var drawing = Read($"<linearGradient id='g'>{BlackToWhite}</linearGradient>"
            + string.Concat(Enumerable.Repeat("<rect width='100' height='50' fill='url(#g)'/>", 200)));
        var paths = drawing.Items.Cast<DrawnPath>().ToList();
        Assert.Equal(200, paths.Count);
        Assert.InRange(paths.Count(p => p.Paint is not null), 10, 150);
        Assert.All(paths, p => Assert.Equal(p.Paint is not null, p.Ink.IsPainted));
        Assert.Contains(drawing.Notes, n => n.Code == "gradient");
    }

    [Fact]
    public void A_line_drawn_with_a_gradient_takes_its_mean_colour_and_that_is_said()
    {
        var drawing = Read($"<linearGradient id='g' gradientUnits='userSpaceOnUse' x2='100'>{BlackToWhite}</linearGradient><path d='M0 10H99V40' fill='none' "
            + "stroke='url(#g)'/>");
        Assert.InRange((int)Assert.IsType<DrawnPath>(drawing.Items.Single()).Ink.Stroke!.Colour.R, 110, 145);
        Assert.Contains(drawing.Notes, n => n.Code == "gradient");
    }
}
