using System.Collections.Immutable;
using Falzkunst.Core.Regions;

namespace Falzkunst.Core.Tests.Strength;

/// <summary>Shapes whose widths and gaps are known from how they were made.</summary>
/// <param name="Thin">The places narrower than the limit: where about, and how narrow.</param>
/// <param name="Tight">The gaps narrower than the limit.</param>
/// <remarks>How narrow a flat end is that a limb tapers to, is the length of that end; it counts as thin where no ball as wide as the limit gets there, and
/// either answer is right where one does.</remarks>
internal sealed record KnownWidths(string Kind, VectorPath Outline, IReadOnlyList<(Point At, double Width, bool IsSure)> Thin,
    IReadOnlyList<(Point At, double Gap)> Tight)
{
    public const double Limit = 0.8, Gap = 0.5;

    public static readonly string[] Kinds = ["taper", "ring", "dumbbell", "comb", "lace", "gear", "snowflake", "wave", "waist"];

    /// <summary>One of a kind, turned and moved anyhow. Widths keep away from the limit by a hundredth, where either answer is right.</summary>
    public static KnownWidths Make(string kind, Random r)
    {
        var (thin, tight) = (new List<(Point, double, bool)>(), new List<(Point, double)>());
        var shape = kind switch
        {
            "taper" => Taper(r, thin),
            "ring" => Ring(r, thin),
            "dumbbell" => Dumbbell(r, thin),
            "comb" => Comb(r, thin, tight),
            "lace" => Lace(r, thin),
            "gear" => Gear(r, thin),
            "snowflake" => Snowflake(r, thin),
            "wave" => Wave(r, thin),
            _ => Waist(r, thin),
        };
        var map = Affine.Turn(Angle.FromDegrees(r.NextDouble() * 360)).Then(Affine.Move(r.NextDouble() * 50, r.NextDouble() * 50));
        return new(kind, VectorPath.Joined(Together.Clean(shape.Transform(map))), [.. thin.Select(t => (map.Apply(t.Item1), t.Item2, t.Item3))],
            [.. tight.Select(t => (map.Apply(t.Item1), t.Item2))]);
    }

    /// <summary>A length that is clearly on one side of a limit.</summary>
    private static double Clear(Random r, double least, double most, double limit = Limit)
    {
        double v;
        do v = least + (most - least) * r.NextDouble();
        while (Math.Abs(v - limit) < 0.01);
        return v;
    }

    private static VectorPath Bar(Point a, Point b, double width)
    {
        var n = new Point(-(b - a).Y, (b - a).X) * (width / 2 / a.DistanceTo(b));
        return VectorPath.Polygon(a - n, b - n, b + n, a + n);
    }

    private static VectorPath Join(params IEnumerable<VectorPath> parts) => VectorPath.Joined(Together.Join([.. parts]));

    /// <summary>How large a ball is that touches the flat end of a taper and both of its sides.</summary>
    private static double BallAtEnd(double foot, double tip, double length)
    {
        var lean = Math.Atan2((foot - tip) / 2, length);
        return tip * (1 + Math.Sin(lean)) / Math.Cos(lean);
    }

    private static VectorPath Taper(Random r, List<(Point, double, bool)> thin)
    {
        double from = Clear(r, 0.9, 4), to = Clear(r, 0.2, 1.2), length = 5 + 30 * r.NextDouble();
        if (to < Limit) thin.Add((new(length, 0), to, BallAtEnd(from, to, length) < Limit - 0.01));
        return VectorPath.Polygon(new(0, -from / 2), new(length, -to / 2), new(length, to / 2), new(0, from / 2));
    }

    private static VectorPath Ring(Random r, List<(Point, double, bool)> thin)
    {
        double radius = 2 + 10 * r.NextDouble(), width = Clear(r, 0.2, 1.4), off = r.Next(2) == 0 ? 0 : r.NextDouble() * 0.5;
        if (width < Limit) thin.Add((new(radius - width / 2, 0), width, true));
        return VectorPath.Joined(Together.TakeAway(VectorPath.Disc(default, radius), [VectorPath.Disc(new(off, 0), radius - width - off)]));
    }

    private static VectorPath Dumbbell(Random r, List<(Point, double, bool)> thin)
    {
        double width = Clear(r, 0.2, 1.4), length = 8 + 10 * r.NextDouble();
        if (width < Limit) thin.Add((new(length / 2, 0), width, true));
        return Join(VectorPath.Disc(default, 1 + 2 * r.NextDouble()), VectorPath.Disc(new(length, 0), 1 + 2 * r.NextDouble()),
            Bar(default, new(length, 0), width));
    }

    private static VectorPath Comb(Random r, List<(Point, double, bool)> thin, List<(Point, double)> tight)
    {
        var parts = new List<VectorPath>();
        var x = 0.0;
        for (var k = r.Next(3, 12); k > 0; k--)
        {
            double width = Clear(r, 0.3, 1.5), gap = Clear(r, 0.15, 1.2, Gap), height = 4 + 4 * r.NextDouble();
            parts.Add(VectorPath.Rectangle(x, 1, width, height));
            if (width < Limit) thin.Add((new(x + width / 2, 2 + height / 2), width, true));
            x += width;
            if (k > 1 && gap < Gap) tight.Add((new(x + gap / 2, 4), gap));
            x += gap;
        }

        parts.Add(VectorPath.Rectangle(0, -2, x, 4));
        return Join(parts);
    }

    private static VectorPath Lace(Random r, List<(Point, double, bool)> thin)
    {
        int n = r.Next(2, 7), m = r.Next(2, 5);
        double pitch = 3 + 3 * r.NextDouble();
        var radii = new double[n, m];
        var holes = new List<VectorPath>();
        for (var i = 0; i < n; i++)
        {
            for (var j = 0; j < m; j++)
            {
                do radii[i, j] = pitch / 2 - 0.1 - 0.5 * r.NextDouble();
                while ((i > 0 && Near(pitch - radii[i, j] - radii[i - 1, j])) || (j > 0 && Near(pitch - radii[i, j] - radii[i, j - 1])));
                holes.Add(VectorPath.Disc(new(i * pitch, j * pitch), radii[i, j]));
                if (i > 0) Add(pitch - radii[i, j] - radii[i - 1, j], new((i - 0.5) * pitch, j * pitch));
                if (j > 0) Add(pitch - radii[i, j] - radii[i, j - 1], new(i * pitch, (j - 0.5) * pitch));
            }
        }

        return VectorPath.Joined(Together.TakeAway(VectorPath.Rectangle(-pitch, -pitch, (n + 1) * pitch, (m + 1) * pitch), holes));

        static bool Near(double width) => Math.Abs(width - Limit) < 0.01;

        void Add(double width, Point at)
        {
            if (width < Limit) thin.Add((at, width, true));
        }
    }

    private static VectorPath Gear(Random r, List<(Point, double, bool)> thin)
    {
        var n = r.Next(6, 24);
        double radius = 6 + 6 * r.NextDouble(), tip = Clear(r, 0.25, 1.2), foot = tip + 0.4 + 0.6 * r.NextDouble(), height = 1.5 + r.NextDouble();
        foot = Math.Min(foot, 2 * Math.PI * radius / n - 0.6);
        var parts = new List<VectorPath> { VectorPath.Disc(default, radius) };
        for (var k = 0; k < n; k++)
        {
            var map = Affine.Turn(Angle.FromRadians(2 * Math.PI * k / n));
            parts.Add(VectorPath.Polygon(new(radius - 0.5, -foot / 2), new(radius + height, -tip / 2), new(radius + height, tip / 2),
                new(radius - 0.5, foot / 2)).Transform(map));
            if (Math.Min(tip, foot) < Limit) thin.Add((map.Apply(new(radius + height, 0)), tip, BallAtEnd(foot, tip, height + 0.5) < Limit - 0.01));
        }

        return Join(parts);
    }

    private static VectorPath Snowflake(Random r, List<(Point, double, bool)> thin)
    {
        double arm = 1 + r.NextDouble(), side = Clear(r, 0.25, 1.2), length = 10 + 6 * r.NextDouble();
        var parts = new List<VectorPath>();
        for (var k = 0; k < 6; k++)
        {
            var map = Affine.Turn(Angle.FromDegrees(60 * k));
            parts.Add(Bar(default, new(length, 0), arm).Transform(map));
            for (var s = -1; s <= 1; s += 2)
            {
                Point foot = new(length * 0.55, 0), end = foot + new Point(Math.Cos(1), s * Math.Sin(1)) * (1.6 + arm);
                parts.Add(Bar(foot, end, side).Transform(map));
                if (side < Limit) thin.Add((map.Apply(foot + (end - foot) * 0.8), side, true));
            }
        }

        return Join(parts);
    }

    /// <summary>A stroke along a wave, as wide as a slower wave says.</summary>
    private static VectorPath Wave(Random r, List<(Point, double, bool)> thin)
    {
        double mean = 0.8 + 0.3 * r.NextDouble(), swing = Clear(r, 0.1, 0.5, mean - Limit), length = 40, high = 2 + 2 * r.NextDouble();
        const int n = 400;
        var (left, right) = (new List<Point>(), new List<Point>());
        Point At(double t) => new(length * t, high * Math.Sin(4 * Math.PI * t));
        double Wide(double t) => mean + swing * Math.Cos(6 * Math.PI * t);
        for (var i = 0; i <= n; i++)
        {
            var t = (double)i / n;
            var way = new Point(length, high * 4 * Math.PI * Math.Cos(4 * Math.PI * t));
            var normal = new Point(-way.Y, way.X) * (1 / way.Norm);
            left.Add(At(t) + normal * (Wide(t) / 2));
            right.Add(At(t) - normal * (Wide(t) / 2));
        }

        foreach (var k in new[] { 1, 3, 5 }) if (mean - swing < Limit) thin.Add((At(k / 6.0), mean - swing, true));
        right.Reverse();
        return VectorPath.Polygon([.. left, .. right]);
    }

    /// <summary>A block with a round bite from each side.</summary>
    private static VectorPath Waist(Random r, List<(Point, double, bool)> thin)
    {
        double a = 2 + 4 * r.NextDouble(), b = 2 + 4 * r.NextDouble(), width = Clear(r, 0.15, 1.3), off = r.NextDouble();
        // The middles lie on one line through the waist, which leans a little.
        var along = new Point(off, Math.Sqrt(Math.Pow(a + b + width, 2) - off * off));
        Point up = new(20, 0), down = up + along;
        if (width < Limit) thin.Add((up + along * ((a + width / 2) / along.Norm), width, true));
        return VectorPath.Joined(Together.TakeAway(VectorPath.Rectangle(0, 0, 40, along.Y), [VectorPath.Disc(up, a), VectorPath.Disc(down, b)]));
    }
}
