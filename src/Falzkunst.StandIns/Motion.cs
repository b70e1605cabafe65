namespace Falzkunst.StandIns;

/// <summary>How a machine moves.</summary>
/// <param name="SpeedMmS">The fastest with the tool down, whatever it is told.</param>
/// <param name="TravelMmS">With the tool up.</param>
/// <param name="LiftSeconds">The time to put the tool down or take it up.</param>
/// <param name="CornerMm">By how much a corner may be rounded off in thought: the speed there is that of a circle that touches both legs and comes so near to
/// the corner, at the acceleration that there is.</param>
public sealed record Motion(double SpeedMmS, double TravelMmS, double AccelerationMmS2, double LiftSeconds, double CornerMm = 0.05)
{
    /// <summary>A straight piece of a way: how far, and in which direction.</summary>
    public readonly record struct Leg(double Mm, double DirX, double DirY);

    /// <summary>The speed at the end of the first leg that lets all that comes behind it be gone through without too much speed at any corner, with a stop at
    /// the end.</summary>
    public double ExitSpeed(IReadOnlyList<Leg> legs, double most)
    {
        double speed = double.PositiveInfinity, far = 0;
        for (var i = 0; i < legs.Count; i++)
        {
            var corner = i + 1 < legs.Count ? Math.Min(most, Around(legs[i], legs[i + 1])) : 0;
            speed = Math.Min(speed, Math.Sqrt(corner * corner + 2 * AccelerationMmS2 * far));
            // What is farther than it takes to brake from full speed does not matter now.
            if (i + 1 < legs.Count) far += legs[i + 1].Mm;
            if (2 * AccelerationMmS2 * far > most * most) break;
        }

        return Math.Min(speed, most);
    }

    /// <summary>The time for a leg that is begun and ended with these speeds, and the speed that it ends with in truth: it may be too short to slow down or to
    /// gain as much.</summary>
    public (double Seconds, double Speed) Go(double mm, double from, double to, double most)
    {
        to = Math.Min(to, Math.Sqrt(from * from + 2 * AccelerationMmS2 * mm));
        var top = Math.Min(most, Math.Sqrt(AccelerationMmS2 * mm + (from * from + to * to) / 2));
        top = Math.Max(top, Math.Max(from, to));
        var even = mm - (2 * top * top - from * from - to * to) / (2 * AccelerationMmS2);
        return ((2 * top - from - to) / AccelerationMmS2 + (even > 0 ? even / top : 0), to);
    }

    private double Around(Leg a, Leg b)
    {
        // Half the angle between the legs: 90° goes straight on.
        var cosine = -(a.DirX * b.DirX + a.DirY * b.DirY);
        var sine = Math.Sqrt(Math.Max(0, (1 - cosine) / 2));
        return sine >= 0.9999 ? double.PositiveInfinity : Math.Sqrt(AccelerationMmS2 * CornerMm * sine / (1 - sine));
    }
}
