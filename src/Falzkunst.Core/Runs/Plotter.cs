namespace Falzkunst.Core.Runs;

/// <summary>The unit that plotters count in (HPGL): 40 to a millimetre.</summary>
public static class Plotter
{
    public const double UnitsPerMm = 40;

    public const double MmPerUnit = 1 / UnitsPerMm;

    /// <summary>Points as they are driven to: on the grid of whole steps, each other than the one before.</summary>
    public static List<Point> Rounded(IEnumerable<Point> points, double stepsPerMm)
    {
        var rounded = new List<Point>();
        foreach (var p in points)
        {
            var at = new Point(Math.Round(p.X * stepsPerMm) / stepsPerMm, Math.Round(p.Y * stepsPerMm) / stepsPerMm);
            if (rounded.Count == 0 || rounded[^1] != at) rounded.Add(at);
        }

        return rounded;
    }
}
