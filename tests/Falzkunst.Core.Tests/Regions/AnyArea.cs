using Falzkunst.Core.Regions;

namespace Falzkunst.Core.Tests.Regions;

/// <summary>Areas as cards have them, from a seed: boxes, rounds, stars, smooth blobs, wavy strips, rings; often on a grid of 5 mm, turned by 15 degrees, edge
/// on edge or cut from one another, since that is where it gets difficult.</summary>
internal static class AnyArea
{
    private const double Round = 0.5522847498307936;

    /// <summary>Two that may overlap, touch, fit, or lie apart.</summary>
    public static (VectorPath A, VectorPath B) Pair(Random random)
    {
        VectorPath a = One(random), b = One(random);
        return random.Next(6) switch
        {
            0 when Together.TakeAway(b, [a]) is { Count: > 0 } cut => (a, Whole(cut)),
            1 => (a, b.Transform(Affine.Move(a.Bounds.Right - b.Bounds.Left, 0))),
            2 => (a, a.Transform(Affine.Move(random.Next(3) * 5, random.Next(2) * 5))),
            _ => (a, b),
        };
    }

    public static VectorPath Whole(IEnumerable<VectorPath> parts) => new([.. parts.SelectMany(p => p.Subpaths)]);

    public static VectorPath One(Random random)
    {
        double x = Place(), y = Place(), s = random.Next(2) == 0 ? 5 * (1 + random.Next(6)) : 3 + random.NextDouble() * 30;
        var shape = random.Next(7) switch
        {
            0 => VectorPath.Rectangle(-s, -s * 0.6, 2 * s, 1.2 * s),
            1 => Ellipse(s, s),
            2 => Ellipse(s, s * (0.3 + random.NextDouble())),
            3 => Star(3 + random.Next(8), s),
            4 => Blob(random, 3 + random.Next(6), s),
            5 => Waves(2 + random.Next(6), s),
            _ => new([.. Ellipse(s, s).Subpaths, Ellipse(s * 0.5, s * 0.4).Subpaths[0].Reverse()]),
        };
        var turn = random.Next(4) switch { 0 => 15 * random.Next(24), 1 => random.NextDouble() * 360, _ => 0 };
        return Whole(Together.Clean(shape.Transform(Affine.Turn(Angle.FromDegrees(turn)).Then(Affine.Move(x, y)))));

        double Place() => random.Next(3) == 0 ? random.Next(6) * 10 : random.NextDouble() * 60;
    }

    public static VectorPath Ellipse(double a, double b) => new([new(new(a, 0),
    [
        Segment.Cubic(new(a, Round * b), new(Round * a, b), new(0, b)), Segment.Cubic(new(-Round * a, b), new(-a, Round * b), new(-a, 0)),
        Segment.Cubic(new(-a, -Round * b), new(-Round * a, -b), new(0, -b)), Segment.Cubic(new(Round * a, -b), new(a, -Round * b), new(a, 0)),
    ], true)]);

    private static VectorPath Star(int n, double s) => VectorPath.Polygon([.. Enumerable.Range(0, 2 * n).Select(i =>
        new Point(Math.Sin(Math.PI * i / n), -Math.Cos(Math.PI * i / n)) * (i % 2 == 0 ? s : s * 0.45))]);

    public static VectorPath Blob(Random random, int n, double s)
    {
        var p = Enumerable.Range(0, n).Select(i => 2 * Math.PI * i / n)
            .Select(t => new Point(Math.Cos(t), Math.Sin(t)) * (s * (0.5 + 0.6 * random.NextDouble()))).ToArray();
        return new([new(p[0], [.. Enumerable.Range(0, n).Select(i =>
        {
            Point a = p[(i + n - 1) % n], b = p[i], c = p[(i + 1) % n], d = p[(i + 2) % n];
            return Segment.Cubic(b + (c - a) * (1 / 6.0), c - (d - b) * (1 / 6.0), c);
        })], true)]);
    }

    private static VectorPath Waves(int n, double s)
    {
        var w = 2 * s / n;
        return new([new(new(-s, 0), [.. Enumerable.Range(0, n).Select(i => -s + i * w)
            .Select(x => Segment.Cubic(new(x + w * 0.35, -s * 0.5), new(x + w * 0.65, s * 0.5), new(x + w, 0))),
            Segment.Line(new(s, s * 0.8)), Segment.Line(new(-s, s * 0.8))], true)]);
    }
}
