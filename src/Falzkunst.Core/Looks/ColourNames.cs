
namespace Falzkunst.Core.Looks;

/// <summary>Plain words for colours, for labels only.</summary>
public static class ColourNames
{
    private const int Greys = 5;

    private static readonly (string Name, Colour Colour)[] Known =
    [
        ("black", new(20, 20, 20)), ("dark grey", new(75, 75, 75)), ("grey", new(140, 140, 140)), ("light grey", new(205, 205, 205)),
            ("white", new(250, 250, 250)),
        ("red", new(215, 40, 40)), ("wine", new(130, 30, 45)), ("orange", new(235, 125, 30)), ("copper", new(184, 104, 66)), ("brown", new(110, 70, 40)),
        ("yellow", new(245, 215, 50)), ("ivory", new(245, 236, 214)), ("sand", new(215, 190, 145)), ("green", new(40, 160, 60)),
            ("dark green", new(40, 85, 60)),
        ("light green", new(160, 215, 140)), ("teal", new(20, 130, 135)), ("blue", new(40, 80, 215)), ("light blue", new(140, 185, 230)),
            ("slate blue", new(95, 125, 150)),
        ("dark blue", new(30, 45, 95)), ("purple", new(115, 60, 160)), ("pink", new(240, 160, 190)), ("magenta", new(215, 40, 160)),
    ];

    /// <example><c>#ff0000</c> is "red".</example>
    public static string Of(Colour colour)
    {
        // What has hardly any hue is a grey, however near a dark green may lie.
        var spread = Math.Max(colour.R, Math.Max(colour.G, colour.B)) - Math.Min(colour.R, Math.Min(colour.G, colour.B));
        return (spread < 12 ? Known.Take(Greys) : Known).MinBy(k => k.Colour.DistanceTo(colour)).Name;
    }
}
