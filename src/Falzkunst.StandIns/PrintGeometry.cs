namespace Falzkunst.StandIns;

/// <summary>Where the errors of a printer, and of the hands that laid the sheet, bring a place of the page; and back. All in mm.</summary>
public sealed class PrintGeometry(PrintErrors errors, (double Width, double Height) page)
{
    private readonly (double Sin, double Cos) _print = Math.SinCos(Radians(errors.Turn));
    private readonly (double Sin, double Cos) _lay = Math.SinCos(Radians(errors.LaidTurn));
    private readonly double _lean = Math.Tan(Radians(errors.Skew));
    private readonly (double X, double Y) _middle = (page.Width / 2, page.Height / 2);

    /// <summary>From the page as it was planned to the sheet: stretched, leaning, bowed, turned about the middle, and moved.</summary>
    public (double X, double Y) Printed(double x, double y)
    {
        double dx = x - _middle.X, dy = y - _middle.Y;
        double sx = (1 + errors.StretchX) * (dx + _lean * dy), sy = (1 + errors.StretchY) * (dy + Sag(dx));
        return (_middle.X + errors.OffsetX + _print.Cos * sx - _print.Sin * sy, _middle.Y + errors.OffsetY + _print.Sin * sx + _print.Cos * sy);
    }

    /// <summary>The way back of <see cref="Printed"/>.</summary>
    public (double X, double Y) Unprinted(double x, double y)
    {
        double tx = x - _middle.X - errors.OffsetX, ty = y - _middle.Y - errors.OffsetY;
        double sx = (_print.Cos * tx + _print.Sin * ty) / (1 + errors.StretchX), sy = (_print.Cos * ty - _print.Sin * tx) / (1 + errors.StretchY);
        // The bow depends on where it was across, which the lean depends on; both are slight, and a few rounds are exact to a thousandth of a mm.
        double dx = sx, dy = sy;
        for (var round = 0; round < (errors.Bow == 0 && errors.Skew == 0 ? 0 : 3); round++)
        {
            dy = sy - Sag(dx);
            dx = sx - _lean * dy;
        }

        return (_middle.X + dx, _middle.Y + dy);
    }

    /// <summary>From the sheet to the picture of it, as it was laid: turned about its middle, moved, and with the margin around.</summary>
    public (double X, double Y) Laid(double x, double y)
    {
        double dx = x - _middle.X, dy = y - _middle.Y;
        return (_middle.X + errors.Margin + errors.LaidX + _lay.Cos * dx - _lay.Sin * dy, _middle.Y + errors.Margin + errors.LaidY + _lay.Sin * dx
            + _lay.Cos * dy);
    }

    /// <summary>The way back of <see cref="Laid"/>.</summary>
    public (double X, double Y) Unlaid(double x, double y)
    {
        double dx = x - _middle.X - errors.Margin - errors.LaidX, dy = y - _middle.Y - errors.Margin - errors.LaidY;
        return (_middle.X + _lay.Cos * dx + _lay.Sin * dy, _middle.Y + _lay.Cos * dy - _lay.Sin * dx);
    }

    private double Sag(double dx)
    {
        var across = dx / _middle.X;
        return errors.Bow * (1 - across * across);
    }

    private static double Radians(double degrees) => degrees * Math.PI / 180;
}
