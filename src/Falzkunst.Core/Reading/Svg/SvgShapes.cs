namespace Falzkunst.Core.Reading.Svg;

/// <summary>The basic shapes of SVG as paths (SVG 2, chapter 10: where each starts and which way it runs).</summary>
internal static class SvgShapes
{
    public static VectorPath Rectangle(double x, double y, double w, double h, double rx, double ry)
    {
        rx = Math.Min(rx, w / 2);
        ry = Math.Min(ry, h / 2);
        if (!(rx > 0 && ry > 0)) return VectorPath.Rectangle(x, y, w, h);
        var b = new PathBuilder().MoveTo(new(x + rx, y)).LineTo(new(x + w - rx, y)).ArcTo(rx, ry, Angle.Zero, false, true, new(x + w, y + ry));
        b.LineTo(new(x + w, y + h - ry)).ArcTo(rx, ry, Angle.Zero, false, true, new(x + w - rx, y + h));
        b.LineTo(new(x + rx, y + h)).ArcTo(rx, ry, Angle.Zero, false, true, new(x, y + h - ry));
        return b.LineTo(new(x, y + ry)).ArcTo(rx, ry, Angle.Zero, false, true, new(x + rx, y)).Close().Build();
    }

    public static VectorPath Ellipse(double cx, double cy, double rx, double ry) => new PathBuilder()
        .MoveTo(new(cx + rx, cy))
        .ArcTo(rx, ry, Angle.Zero, false, true, new(cx, cy + ry)).ArcTo(rx, ry, Angle.Zero, false, true, new(cx - rx, cy))
        .ArcTo(rx, ry, Angle.Zero, false, true, new(cx, cy - ry)).ArcTo(rx, ry, Angle.Zero, false, true, new(cx + rx, cy)).Close().Build();

    /// <summary>A list of points; an odd number at the end is left out.</summary>
    public static VectorPath Points(string text, bool closed)
    {
        var scan = new PathText.Scanner(text);
        var b = new PathBuilder();
        var first = true;
        while (scan.Pair(out var p))
        {
            if (first) b.MoveTo(p);
            else b.LineTo(p);
            first = false;
        }

        return (closed ? b.Close() : b).Build();
    }
}
