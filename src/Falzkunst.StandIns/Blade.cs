namespace Falzkunst.StandIns;

/// <summary>
/// The tip of a tool and where it goes when its holder moves, in mm. The tip of a drag knife trails behind the axis that it swivels on by some offset. While
/// the axis goes straight, the angle between its way and the knife decays: tan(φ/2) with every offset that it goes by the factor e (the tractrix).
/// </summary>
public sealed class Blade
{
    private const double StepMm = 0.1, SmallAngle = 0.004;

    private double _heading;

    /// <param name="offset">From the tip to the axis; 0 for a tool that does not swivel.</param>
    /// <param name="heading">Where it happens to point, in radians: whoever puts a knife in does not see that.</param>
    public Blade(double offset, double heading) => (Offset, _heading) = (offset, heading);

    public double Offset { get; }

    /// <summary>Where the tip is when the axis is at a place.</summary>
    public (double X, double Y) Tip(double x, double y) => (x - Offset * Math.Cos(_heading), y - Offset * Math.Sin(_heading));

    /// <summary>Drags the tip while the axis goes straight from one place to another; where the tip comes by, without where it was.</summary>
    public IEnumerable<(double X, double Y)> Drag(double x, double y, double toX, double toY)
    {
        double dx = toX - x, dy = toY - y, mm = Math.Sqrt(dx * dx + dy * dy);
        if (mm == 0) yield break;
        if (Offset <= 0)
        {
            yield return (toX, toY);
            yield break;
        }

        var way = Math.Atan2(dy, dx);
        var off = Math.IEEERemainder(_heading - way, 2 * Math.PI);
        var steps = Math.Abs(off) < SmallAngle ? 1 : Math.Max(1, (int)Math.Ceiling(Math.Min(mm, 10 * Offset) / StepMm));
        var tan = Math.Tan(off / 2);
        for (var k = 1; k <= steps; k++)
        {
            // Beyond ten offsets it is straight: the last step takes the rest.
            var gone = k == steps ? mm : Math.Min(mm, 10 * Offset) * k / steps;
            _heading = way + 2 * Math.Atan(tan * Math.Exp(-gone / Offset));
            yield return Tip(x + dx * gone / mm, y + dy * gone / mm);
        }
    }
}
