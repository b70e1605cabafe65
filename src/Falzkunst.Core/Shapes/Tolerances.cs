namespace Falzkunst.Core.Shapes;

/// <summary>The few distances, in mm, that the whole core agrees on.</summary>
public static class Tolerances
{
    /// <summary>Chords stay this close to the curve they stand for.</summary>
    public const double Flatten = 0.01;

    /// <summary>As <see cref="Flatten"/>, where a length or an area is reported.</summary>
    public const double Measure = 0.002;

    /// <summary>Points this close are one point.</summary>
    public const double Same = 1e-6;

    /// <summary>An outline whose ends are this close is closed.</summary>
    public const double Closes = 0.1;

    /// <summary>A line that leaves its piece by no more than this is still carried by it.</summary>
    public const double Carried = 0.25;

    /// <summary>Two lines nowhere farther apart than this are the same line twice.</summary>
    public const double Doubled = 0.05;
}
