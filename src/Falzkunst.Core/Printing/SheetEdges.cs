using Falzkunst.Core.Layout;
using Falzkunst.Core.Pictures;

namespace Falzkunst.Core.Printing;

/// <summary>
/// The edges of a sheet in a photograph of it. Its opposite edges run side by side, whatever was printed on it, so that they show how the camera was tilted
/// (the line on which they meet, Criminisi, Reid and Zisserman 2000), which three marks alone show too little of.
/// </summary>
internal static class SheetEdges
{
    /// <summary>How far the edges may be from where three marks say, of a tilted sheet, and then from where they were seen; and how far beyond the table is
    /// looked at. In mm.</summary>
    private const double Far = 34, Near = 4, Beyond = 5, Step = 0.1;

    private const int Samples = 72;

    /// <summary>Paper is lighter than what it lies on by at least this, of 255.</summary>
    private const double LeastContrast = 7;

    /// <summary>From a sheet, in mm, to the picture, in mm of the glimpse, by its edges; null where they are not all seen as straight lines.</summary>
    /// <param name="near">About where the print lies.</param>
    public static Projective? Find(SheetMarks marks, Glimpse glimpse, Projective near) =>
        Find(marks, glimpse, near, Far) is { } about ? Find(marks, glimpse, about, Near) : null;

    private static Projective? Find(SheetMarks marks, Glimpse glimpse, Projective near, double reach)
    {
        double w = marks.Width.Mm, h = marks.Height.Mm;
        // Clockwise from the upper edge; each from its first corner to its second.
        Point[] corners = [new(0, 0), new(w, 0), new(w, h), new(0, h)];
        var lines = new (Point At, Point Along)[4];
        for (var k = 0; k < 4; k++)
        {
            if (Edge(corners[k], corners[(k + 1) % 4]) is not { } line) return null;
            lines[k] = line;
        }

        var seen = new Point[4];
        for (var k = 0; k < 4; k++)
        {
            if (Meet(lines[(k + 3) % 4], lines[k]) is not { } at) return null;
            seen[k] = at;
        }

        return Projective.OfUnitSquare(seen[0], seen[1], seen[2], seen[3]).After(Affine.Scale(1 / w, 1 / h));

        (Point At, Point Along)? Edge(Point a, Point b)
        {
            var along = (b - a) * (1 / a.DistanceTo(b));
            var outwards = new Point(along.Y, -along.X);
            var points = new List<Point>();
            for (var i = 0; i < Samples; i++)
            {
                var on = a + (b - a) * (0.06 + 0.88 * i / (Samples - 1));
                if (Crossing(on, along, outwards) is { } at) points.Add(near.Apply(on + outwards * at));
            }

            return points.Count >= Samples / 2 ? Straight(points) : null;
        }

        // Where, going in from the table, it is first half as light as paper is.
        double? Crossing(Point on, Point along, Point outwards)
        {
            const double beside = 0.5;
            var light = new double[(int)((2 * reach + Beyond) / Step) + 1];
            for (var i = 0; i < light.Length; i++)
            {
                var at = on + outwards * (reach + Beyond - i * Step);
                if (!glimpse.Bounds.Holds(near.Apply(at))) light[i] = double.NaN;
                else for (var k = -2; k <= 2; k++) light[i] += glimpse.LightAt(near.Apply(at + along * (k * beside))) / 5;
            }

            var known = light.Where(l => !double.IsNaN(l)).Order().ToList();
            if (known.Count < light.Length / 2) return null;
            var first = Array.FindIndex(light, l => !double.IsNaN(l));
            var table = light.Skip(first).Take((int)(1.5 / Step)).Order().ElementAt((int)(0.75 / Step));
            var paper = known[(int)(known.Count * 0.9)];
            if (paper - table < LeastContrast) return null;
            var half = (paper + table) / 2;
            for (var i = first + 1; i + 4 < light.Length; i++)
            {
                // Light for good, and not a speck on the table.
                if (light[i] < half || light[i + 2] < half || light[i + 4] < half) continue;
                var part = (half - light[i - 1]) / (light[i] - light[i - 1]);
                return reach + Beyond - (i - 1 + part) * Step;
            }

            return null;
        }
    }

    /// <summary>The line through most of some points, by least squares over those within a fifth of a millimetre of it (Fischler and Bolles 1981); null where
    /// they are too few.</summary>
    private static (Point At, Point Along)? Straight(List<Point> points)
    {
        const double within = 0.2;
        var (best, kept) = (0, new List<Point>());
        for (var i = 0; i < points.Count; i += 2)
            for (var j = points.Count - 1; j > i + points.Count / 4; j -= 2)
            {
                var along = (points[j] - points[i]) * (1 / points[i].DistanceTo(points[j]));
                var near = points.FindAll(p => Math.Abs((p - points[i]).Cross(along)) < within);
                if (near.Count > best) (best, kept) = (near.Count, near);
            }

        if (kept.Count < 0.6 * points.Count) return null;
        var middle = kept.Aggregate(new Point(0, 0), (s, p) => s + p) * (1.0 / kept.Count);
        double xx = kept.Sum(p => (p.X - middle.X) * (p.X - middle.X)), yy = kept.Sum(p => (p.Y - middle.Y) * (p.Y - middle.Y)),
            xy = kept.Sum(p => (p.X - middle.X) * (p.Y - middle.Y));
        var angle = 0.5 * Math.Atan2(2 * xy, xx - yy);
        return (middle, new(Math.Cos(angle), Math.Sin(angle)));
    }

    private static Point? Meet((Point At, Point Along) a, (Point At, Point Along) b)
    {
        var across = a.Along.Cross(b.Along);
        return Math.Abs(across) < 0.2 ? null : a.At + a.Along * ((b.At - a.At).Cross(b.Along) / across);
    }

    /// <summary>The sheet as if it had been scanned: straightened by its edges, with so much of the table around.</summary>
    /// <param name="map">From the sheet to the picture, in mm of the glimpse.</param>
    public static Glimpse Straightened(SheetMarks marks, Glimpse glimpse, Projective map, double around)
    {
        var perMm = glimpse.PxPerMm;
        int w = (int)((marks.Width.Mm + 2 * around) * perMm), h = (int)((marks.Height.Mm + 2 * around) * perMm);
        var light = new byte[w * h];
        Parallel.For(0, h, y =>
        {
            for (var x = 0; x < w; x++)
                light[y * w + x] = (byte)Math.Round(glimpse.LightAt(map.Apply(new((x + 0.5) / perMm - around, (y + 0.5) / perMm - around))));
        });
        return new(new(w, h, light), perMm, new(-around, -around));
    }
}
