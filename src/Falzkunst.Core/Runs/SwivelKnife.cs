using System.Diagnostics;

namespace Falzkunst.Core.Runs;

/// <summary>
/// Where the axis of a swivel knife is driven so that its tip, which trails behind the axis by some offset, goes along a line: ahead of the tip by the offset
/// all along, and around the tip in an arc where the line has a corner. A tip that is dragged follows its axis on a tractrix (Struik, Lectures on
/// Classical Differential Geometry, 1950, section 1-3), whose steady state this is.
/// </summary>
/// <remarks>
/// Guarantee: a tip that comes down with the heading that it is said to have goes along the line within two hundredths of a millimetre. Cost: linear in the
/// points.
/// </remarks>
public static class SwivelKnife
{
    /// <summary>A chord of an arc around the tip stays as close to it as those of the line do.</summary>
    private const double ArcMm = 0.005;

    /// <summary>Chords of a line that a swivel knife is driven along stay so close to it: its corners are not to be taken for the line's.</summary>
    public const double ChordMm = 0.005;

    /// <summary>Chords whose corner could be rounded within this are of a curve: walked along its tangents. Somewhat more than flattening leaves.</summary>
    private const double RoundedMm = 0.006;

    /// <summary>A turn that is no corner, however long its legs are, and one that always is one; in radians.</summary>
    private const double NoCorner = 0.01, Corner = 0.5;

    /// <summary>The way of the axis, and where the tip points when it is over.</summary>
    /// <param name="Heading">From the tip to the axis, of length 1.</param>
    public sealed record Drive(List<Point> Points, Point Heading);

    /// <param name="line">Where the tip is to go, as points; a closed line does not repeat its start.</param>
    /// <param name="offset">From the tip to the axis, in mm; 0 drives along the line.</param>
    /// <param name="overcut">How far a closed line is cut on beyond its start, in mm, so that it comes loose there.</param>
    /// <param name="heading">Where the tip points when it comes down, from the tip to the axis.</param>
    public static Drive Along(IReadOnlyList<Point> line, bool closed, double offset, double overcut, Point heading)
    {
        var tip = Walked(line, closed, overcut);
        if (offset <= 0 || tip.Count < 2) return new(tip, tip.Count < 2 ? heading : Way(tip, tip.Count - 2));
        var axis = new List<Point>(2 * tip.Count);
        axis.Add(tip[0] + heading * offset);
        Swing(axis, tip[0], heading, Way(tip, 0), offset);
        for (var i = 1; i < tip.Count; i++)
        {
            var before = Way(tip, i - 1);
            if (i == tip.Count - 1)
            {
                axis.Add(tip[i] + before * offset);
                return new(axis, before);
            }

            var after = Way(tip, i);
            var turn = Math.Abs(Math.Atan2(before.Cross(after), before.Dot(after)));
            var longer = Math.Max(tip[i - 1].DistanceTo(tip[i]), tip[i].DistanceTo(tip[i + 1]));
            if (turn < NoCorner || (turn < Corner && turn * longer / 8 < RoundedMm))
            {
                var along = before + after;
                axis.Add(tip[i] + along * (offset / along.Norm));
                continue;
            }

            axis.Add(tip[i] + before * offset);
            Swing(axis, tip[i], before, after, offset);
        }

        throw new UnreachableException();
    }

    /// <summary>
    /// A short way in the waste by which a knife of unknown heading is turned up the sheet: around a corner, since one that is pushed straight backwards
    /// stays so. From any heading but a hundredth of a degree it is within one degree in the end. Where its tip goes is not known but for the end.
    /// </summary>
    /// <param name="at">Where its axis comes down. The tip stays within twice the offset to the left of it, and five times to the right.</param>
    public static Drive TurnedIn(Point at, double offset) => new([at, at + new Point(3 * offset, 0), at + new Point(3 * offset, -13 * offset)], new(0, -1));

    /// <summary>What the tip may pass while it is turned in, around the place where its axis comes down, in mm.</summary>
    public static Box Room(double offset) => new(-2 * offset, -13 * offset, 5 * offset, 2 * offset);

    /// <summary>The points that the tip goes through, without those that are the same as the one before.</summary>
    private static List<Point> Walked(IReadOnlyList<Point> line, bool closed, double overcut)
    {
        var tip = new List<Point>(line.Count + 2) { line[0] };
        foreach (var p in line.Skip(1)) Add(p);
        if (!closed) return tip;
        Add(line[0]);
        for (var i = 1; overcut > 0 && tip.Count > 1; i = i % line.Count + 1)
        {
            var next = line[i % line.Count];
            var far = tip[^1].DistanceTo(next);
            Add(far <= overcut ? next : tip[^1] + (next - tip[^1]) * (overcut / far));
            overcut -= Math.Max(far, Tolerances.Same);
        }

        return tip;

        void Add(Point p)
        {
            if (p.DistanceTo(tip[^1]) > Tolerances.Same) tip.Add(p);
        }
    }

    private static Point Way(List<Point> points, int chord)
    {
        var way = points[chord + 1] - points[chord];
        return way * (1 / way.Norm);
    }

    /// <summary>Turns the axis around the tip from one heading to another, by the shorter way.</summary>
    private static void Swing(List<Point> axis, Point tip, Point from, Point to, double offset)
    {
        var turn = Math.Atan2(from.Cross(to), from.Dot(to));
        var step = 2 * Math.Acos(Math.Max(0, 1 - ArcMm / offset));
        var count = (int)Math.Ceiling(Math.Abs(turn) / step);
        for (var k = 1; k <= count; k++)
        {
            var (sin, cos) = Math.SinCos(turn * k / count);
            axis.Add(tip + new Point(from.X * cos - from.Y * sin, from.X * sin + from.Y * cos) * offset);
        }
    }
}
