namespace Falzkunst.Core.Runs;

/// <summary>
/// How long a machine takes along a path: each chord a trapezoid of speed, joined at corners by the speed that a small deviation (0.05 mm) allows for the
/// corner's angle, looking ahead over the whole path (junction deviation, as in open motion controllers; Biagiotti and Melchiorri,
/// Trajectory Planning for Automatic Machines, 2008, chapter 3). Linear in the chords.
/// </summary>
public static class MotionModel
{
    private const double DeviationMm = 0.05;

    /// <summary>Seconds for one walk along the points, from rest to rest.</summary>
    public static double Seconds(IReadOnlyList<Point> points, double speedMmS, double accelerationMmS2)
    {
        var n = points.Count - 1;
        if (n < 1) return 0;
        var length = new double[n];
        var limit = new double[n + 1];
        for (var i = 0; i < n; i++) length[i] = points[i].DistanceTo(points[i + 1]);
        for (var i = 1; i < n; i++) limit[i] = JunctionSpeed(points[i - 1], points[i], points[i + 1], speedMmS, accelerationMmS2);
        // No faster than can be braked from, then no faster than can be reached.
        for (var i = n - 1; i >= 0; i--) limit[i] = Math.Min(limit[i], Math.Sqrt(limit[i + 1] * limit[i + 1] + 2 * accelerationMmS2 * length[i]));
        double seconds = 0;
        for (var i = 0; i < n; i++)
        {
            limit[i + 1] = Math.Min(limit[i + 1], Math.Sqrt(limit[i] * limit[i] + 2 * accelerationMmS2 * length[i]));
            seconds += Trapezoid(length[i], limit[i], limit[i + 1], speedMmS, accelerationMmS2);
        }

        return seconds;
    }

    /// <summary>Seconds for a straight move from rest to rest.</summary>
    public static double Seconds(double lengthMm, double speedMmS, double accelerationMmS2) => Trapezoid(lengthMm, 0, 0, speedMmS, accelerationMmS2);

    private static double JunctionSpeed(Point before, Point at, Point after, double speed, double acceleration)
    {
        Point u = at - before, v = after - at;
        double nu = u.Norm, nv = v.Norm;
        if (nu == 0 || nv == 0) return speed;
        // The angle between the legs: 180° goes straight on, 0° turns back.
        var cos = Math.Clamp(-u.Dot(v) / (nu * nv), -1, 1);
        var half = Math.Sqrt((1 - cos) / 2);
        return half > 0.9999 ? speed : Math.Min(speed, Math.Sqrt(acceleration * DeviationMm * half / (1 - half)));
    }

    private static double Trapezoid(double length, double from, double to, double speed, double acceleration)
    {
        if (length <= 0) return 0;
        var peak = Math.Min(speed, Math.Sqrt(acceleration * length + (from * from + to * to) / 2));
        peak = Math.Max(peak, Math.Max(from, to));
        var ramps = (2 * peak * peak - from * from - to * to) / (2 * acceleration);
        return (2 * peak - from - to) / acceleration + Math.Max(0, length - ramps) / peak;
    }
}
