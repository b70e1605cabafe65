using Falzkunst.Core.Pictures;
using System.Text;
using Falzkunst.Core.Files;
using Falzkunst.Core.Reading;
using Falzkunst.Core.Reading.Svg;

namespace Falzkunst.Core.Tests.Reading;

/// <summary>Where markers stand, which way they look, and how large they are.</summary>
public sealed class MarkerTests
{
    // An arrow of 2 × 1 whose tip lies at its reference point, pointing along x.
    private const string Arrow = "<marker id='m' viewBox='-2 -.5 2 1' markerWidth='2' markerHeight='1' refX='0' refY='0' orient='auto' "
        + "markerUnits='userSpaceOnUse' overflow='visible'><path d='M-2 -.5L0 0L-2 .5Z'/></marker>";

    /// <summary>The tips of the arrows: of each filled triangle the corner farthest from its longest opposite side's middle.</summary>
    private static List<(Point Tip, Point Tail)> Arrows(string body)
    {
        var drawing = SvgReader.Read(new MemoryStream(Encoding.UTF8.GetBytes("<svg xmlns='http://www.w3.org/2000/svg' width='100mm' height='100mm' "
            + $"viewBox='0 0 100 100'>{Arrow}{body}</svg>")), ReadingLimits.Default);
        return [.. drawing.Items.Cast<DrawnPath>().Where(p => p.Ink.Fill is not null && p.Path.Rings[0].Count == 3)
            .Select(p => (p.Path.Rings[0][1], (p.Path.Rings[0][0] + p.Path.Rings[0][2]) * 0.5))];
    }

    private static void Points(Point tip, double x, double y, double dx, double dy, (Point Tip, Point Tail) arrow)
    {
        Assert.Equal(tip.X, x, 6);
        Assert.Equal(tip.Y, y, 6);
        var way = arrow.Tip - arrow.Tail;
        Assert.Equal(dx, way.X / way.Norm, 4);
        Assert.Equal(dy, way.Y / way.Norm, 4);
    }

    [Theory]
    [InlineData("M10 10H50", "end", 50, 10, 1, 0)]
    [InlineData("M10 10H50", "start", 10, 10, 1, 0)]
    [InlineData("M50 10H10", "end", 10, 10, -1, 0)]
    [InlineData("M10 10V50", "end", 10, 50, 0, 1)]
    [InlineData("M10 10C10 40 20 50 50 50", "end", 50, 50, 1, 0)]
    [InlineData("M10 10C10 40 20 50 50 50", "start", 10, 10, 0, 1)]
    // Control points on the ends say nothing; the next ones do.
    [InlineData("M10 10C10 10 50 10 50 10", "start", 10, 10, 1, 0)]
    // Closed: the mean of how it comes and goes.
    [InlineData("M10 10H50V50H10Z", "start", 10, 10, 0.7071, -0.7071)]
    public void At_an_end_a_marker_looks_along_the_line(string d, string where, double x, double y, double dx, double dy)
    {
        var arrow = Assert.Single(Arrows($"<path d='{d}' fill='none' stroke='#000' marker-{where}='url(#m)'/>"));
        Points(arrow.Tip, x, y, dx, dy, arrow);
    }

    [Fact]
    public void In_between_a_marker_looks_half_way_round_the_corner()
    {
        var arrow = Assert.Single(Arrows("<polyline points='10,10 50,10 50,50' fill='none' stroke='#000' marker-mid='url(#m)'/>"));
        Points(arrow.Tip, 50, 10, 0.7071, 0.7071, arrow);
    }

    [Fact]
    public void A_start_can_look_outwards()
    {
        var body = "<path d='M30 50H70' fill='none' stroke='#000' marker='url(#m)'/>";
        Assert.Equal(2, Arrows(body).Count);
        var drawing = SvgReader.Read(new MemoryStream(Encoding.UTF8.GetBytes("<svg xmlns='http://www.w3.org/2000/svg' width='100mm' height='100mm' "
            + $"viewBox='0 0 100 100'>{Arrow.Replace("orient='auto'", "orient='auto-start-reverse'", StringComparison.Ordinal)}{body}</svg>")),
            ReadingLimits.Default);
        var heads = drawing.Items.Cast<DrawnPath>().Where(p => p.Ink.Fill is not null).Select(p => p.Path.Bounds).OrderBy(b => b.Left).ToList();
        Assert.Equal((30, 70), (Math.Round(heads[0].Left, 6), Math.Round(heads[1].Right, 6)));
    }

    [Theory]
    [InlineData("orient='90'", "stroke-width='3'", 2)]
    [InlineData("markerUnits='strokeWidth'", "stroke-width='3'", 6)]
    [InlineData("markerUnits='strokeWidth'", "", 2)]
    public void It_is_as_large_as_its_units_say(string instead, string stroke, double length)
    {
        var name = instead[..instead.IndexOf('=')];
        var marker = System.Text.RegularExpressions.Regex.Replace(Arrow, $"{name}='[^']*'", instead);
        var drawing = SvgReader.Read(new MemoryStream(Encoding.UTF8.GetBytes("<svg xmlns='http://www.w3.org/2000/svg' width='100mm' height='100mm' "
            + $"viewBox='0 0 100 100'>{marker}<path d='M30 50H70' fill='none' stroke='#000' {stroke} marker-end='url(#m)'/></svg>")), ReadingLimits.Default);
        var head = drawing.Items.Cast<DrawnPath>().Single(p => p.Ink.Fill is not null).Path.Bounds;
        Assert.Equal(length, name == "orient" ? head.Height : head.Width, 6);
    }

    [Theory]
    [InlineData("marker-end='url(#nowhere)'")]
    [InlineData("marker-end='none'")]
    [InlineData("marker-end='url(#m)' visibility='hidden'")]
    public void Where_none_is_wanted_there_is_none(string how) => Assert.Empty(Arrows($"<path d='M30 50H70' fill='none' stroke='#000' {how}/>"));

    [Fact]
    public void Shapes_that_are_no_lines_have_none() =>
        Assert.Empty(Arrows("<rect x='10' y='10' width='30' height='20' fill='none' stroke='#000' marker-start='url(#m)'/>"));
}
