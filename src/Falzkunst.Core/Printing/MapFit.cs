using Falzkunst.Core.Layout;

namespace Falzkunst.Core.Printing;

/// <summary>
/// The map that brings the edges of marks to where they were seen, by least squares over all of them, across each edge. Gauss and Newton's steps; what lies
/// far from the others is weighed down and left out in the end (Beaton and Tukey 1974, with the scale from the median). That ink spreads is one more unknown.
/// </summary>
internal sealed class MapFit(SheetMarks marks, bool isProjective)
{
    /// <summary>Tukey's constant, for 95 % efficiency; and the least scale of it, in mm.</summary>
    private const double Tukey = 4.685, LeastScale = 0.008;

    /// <summary>Neighbouring profiles see the same pixels; so many of them know as much as one.</summary>
    private const double Alike = 3;

    private readonly int _unknowns = isProjective ? 9 : 7;

    /// <summary>From half a sheet's side about its middle to mm: so all unknowns are alike in size.</summary>
    private readonly Affine _into = new(Half(marks), 0, 0, Half(marks), marks.Width.Mm / 2, marks.Height.Mm / 2);
    private Projective _map;
    private double _cut = double.PositiveInfinity;
    private double[,] _information = new double[0, 0];
    private double _variance;

    /// <summary>Whether what was seen are edges of ink, which spreads; otherwise they are points.</summary>
    public bool HasSpread { get; init; } = true;

    /// <summary>Whether what lies far from the others is weighed down.</summary>
    public bool IsRobust { get; init; } = true;

    /// <summary>How far ink reaches beyond where it was planned, in mm.</summary>
    public double Spread { get; private set; }

    /// <summary>The root mean square of how far edges lie from where the map has them; a row of places along an edge is one.</summary>
    public double Residual { get; private set; }

    public Projective To(List<EdgePoint> seen, Projective start)
    {
        var back = _into.Inverse();
        var map = start.After(_into);
        for (var round = 0; round < 12; round++)
        {
            var residuals = seen.ConvertAll(p => p.Normal.Dot(p.Seen - map.Apply(back.Apply(p.Sheet))) - Spread);
            var scale = Math.Max(LeastScale, 1.4826 * Median(residuals.ConvertAll(Math.Abs)));
            _cut = IsRobust ? Tukey * scale : double.PositiveInfinity;
            var (information, right) = (new double[_unknowns, _unknowns], new double[_unknowns]);
            double squares = 0, weights = 0;
            for (var i = 0; i < seen.Count; i++)
            {
                var u = residuals[i] / _cut;
                if (Math.Abs(u) >= 1) continue;
                var weight = (1 - u * u) * (1 - u * u);
                var row = Row(seen[i].Normal, back.Apply(seen[i].Sheet), map);
                for (var a = 0; a < _unknowns; a++)
                {
                    right[a] += weight * row[a] * residuals[i];
                    for (var b = 0; b <= a; b++) information[a, b] += weight * row[a] * row[b];
                }

                squares += weight * residuals[i] * residuals[i];
                weights += weight;
            }

            _information = information;
            _variance = squares / Math.Max(1, weights - _unknowns);
            if (!HasSpread) information[6, 6] += 1e9;
            if (Cholesky.Solved(information, right) is not { } step) break;
            map = new(map.A + step[0], map.B + step[1], map.C + step[2], map.D + step[3], map.E + step[4], map.F + step[5],
                isProjective ? map.G + step[7] : 0, isProjective ? map.H + step[8] : 0);
            Spread += step[6];
            if (step.Max(Math.Abs) < 1e-7) break;
        }

        _map = map.After(back);
        // Along an edge noise is averaged, and what is left is what the map can't do.
        var groups = seen.Where(IsKept).GroupBy(p => (p.Mark, X: Math.Round(p.Out.X * 2), Y: Math.Round(p.Out.Y * 2)))
            .Select(g => g.Average(Off)).ToList();
        Residual = groups.Count == 0 ? double.PositiveInfinity : Math.Sqrt(groups.Average(m => m * m));
        return _map;
    }

    /// <summary>Whether a point was taken for what it seems, and not weighed down to nothing.</summary>
    public bool IsKept(EdgePoint p) => Math.Abs(Off(p)) < _cut;

    /// <summary>How far the map may be off at the worst of some places of the sheet: twice the standard deviation, in mm.</summary>
    public double Uncertain(IEnumerable<Point> places)
    {
        var back = _into.Inverse();
        var map = _map.After(_into);
        double worst = 0;
        foreach (var q in places)
        {
            double sum = 0;
            foreach (var n in (Point[])[new(1, 0), new(0, 1)])
            {
                var row = Row(n, back.Apply(q), map);
                row[6] = 0;
                if (Cholesky.Solved(_information, row) is not { } x) return double.PositiveInfinity;
                sum += x.Zip(row, (a, b) => a * b).Sum();
            }

            worst = Math.Max(worst, sum);
        }

        return 2 * Math.Sqrt(worst * _variance * Alike);
    }

    /// <summary>How far a mark lies from where a map has it, from its own edges alone.</summary>
    public static Point Shift(List<EdgePoint> points, Projective map, Point off, double spread = 0)
    {
        double xx = 0, xy = 0, yy = 0, x = 0, y = 0;
        var residuals = points.ConvertAll(p => p.Normal.Dot(p.Seen - map.Apply(p.Sheet) - off) - spread);
        // Opposite edges that spread, or a line that is wide, cancel; what lies far from the others is not of this mark.
        var most = Math.Max(0.1, 3 * Median(residuals.ConvertAll(Math.Abs)));
        for (var i = 0; i < points.Count; i++)
        {
            if (Math.Abs(residuals[i]) > most) continue;
            var n = points[i].Normal;
            (xx, xy, yy) = (xx + n.X * n.X, xy + n.X * n.Y, yy + n.Y * n.Y);
            (x, y) = (x + n.X * residuals[i], y + n.Y * residuals[i]);
        }

        var d = xx * yy - xy * xy;
        return d < 1e-9 ? default : new((yy * x - xy * y) / d, (xx * y - xy * x) / d);
    }

    private static double Half(SheetMarks marks) => Math.Max(marks.Width.Mm, marks.Height.Mm) / 2;

    private double Off(EdgePoint p) => p.Normal.Dot(p.Seen - _map.Apply(p.Sheet)) - Spread;

    /// <summary>How what is measured across an edge changes with each unknown: A to F, the spread, G and H.</summary>
    private double[] Row(Point n, Point q, Projective map)
    {
        var w = map.G * q.X + map.H * q.Y + 1;
        double[] row = new double[_unknowns];
        (row[0], row[1], row[2], row[3], row[4], row[5], row[6]) =
            (n.X * q.X / w, n.Y * q.X / w, n.X * q.Y / w, n.Y * q.Y / w, n.X / w, n.Y / w, 1);
        if (!isProjective) return row;
        var along = -n.Dot(map.Apply(q)) / w;
        (row[7], row[8]) = (along * q.X, along * q.Y);
        return row;
    }

    private static double Median(List<double> values)
    {
        if (values.Count == 0) return 0;
        values.Sort();
        return values[values.Count / 2];
    }
}
