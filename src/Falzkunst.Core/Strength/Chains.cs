namespace Falzkunst.Core.Strength;

/// <summary>
/// Balls in a row along the middle of a limb, or of a gap. What they cover together is their chain's area: its two sides are the envelope of the balls, its
/// ends are round.
/// </summary>
internal static class Chains
{
    private static readonly FitSettings Fit = new(0.003, 0.3, 0.06, Angle.FromDegrees(40));

    /// <summary>One ball of a chain.</summary>
    internal readonly record struct Link(Point Centre, double Radius);

    /// <summary>The areas that chains of balls cover: one or more a chain, which overlap.</summary>
    /// <param name="spacing">Balls closer than this say the same, in mm.</param>
    public static IEnumerable<VectorPath> Areas(IReadOnlyList<Link> chain, double spacing)
    {
        var links = Thinned(chain, spacing);
        var begin = 0;
        for (var i = 1; i <= links.Count; i++)
        {
            // A chain that bends within the width of a ball would fold; it is parted there, and both parts hold that ball.
            if (i < links.Count - 1 && !Bends(links, begin, i)) continue;
            if (i >= links.Count - 1) i = links.Count - 1;
            yield return Area(links[begin..(i + 1)]);
            if (i >= links.Count - 1) yield break;
            begin = i;
        }
    }

    /// <summary>Balls so far apart that their directions are known, the first and the last among them; the smallest of those between counts.</summary>
    private static List<Link> Thinned(IReadOnlyList<Link> chain, double spacing)
    {
        var links = new List<Link> { chain[0] };
        for (var i = 1; i < chain.Count; i++)
        {
            var away = chain[i].Centre.DistanceTo(links[^1].Centre);
            if (away >= spacing) links.Add(chain[i]);
            else if (i == chain.Count - 1 && links.Count > 1) links[^1] = chain[i];
            else if (i == chain.Count - 1 && away > spacing / 4) links.Add(chain[i]);
        }

        return links;
    }

    private static bool Bends(List<Link> links, int begin, int i)
    {
        if (i - begin < 1) return false;
        var (turn, reach) = (0.0, 0.0);
        for (var k = i; k > begin; k--)
        {
            Point before = links[k].Centre - links[k - 1].Centre, after = links[Math.Min(k + 1, links.Count - 1)].Centre - links[k].Centre;
            if (k + 1 < links.Count) turn += Math.Atan2(before.Cross(after), before.Dot(after));
            reach += before.Norm;
            if (reach > links[i].Radius) break;
        }

        return Math.Abs(turn) > 0.7;
    }

    /// <summary>What balls in a row cover that hardly bends.</summary>
    private static VectorPath Area(List<Link> links)
    {
        if (links.Count == 1) return Disc(links[0]);
        List<Point> left = [], right = [];
        var n = links.Count;
        for (var i = 0; i < n; i++)
        {
            Link before = links[Math.Max(0, i - 1)], after = links[Math.Min(n - 1, i + 1)], at = links[i];
            var way = after.Centre - before.Centre;
            var length = way.Norm;
            if (length < 1e-9) continue;
            way *= 1 / length;
            // The envelope of balls that grow leans forward by as much.
            var lean = Math.Clamp((after.Radius - before.Radius) / length, -0.9, 0.9);
            Point side = new Point(-way.Y, way.X) * Math.Sqrt(1 - lean * lean), back = way * -lean;
            Add(left, at.Centre + (back - side) * at.Radius, way);
            Add(right, at.Centre + (back + side) * at.Radius, way);
        }

        if (left.Count < 2 || right.Count < 2) return Disc(links.MaxBy(l => l.Radius));
        right.Reverse();
        var build = new PathBuilder().MoveTo(left[0]);
        Along(left);
        Cap(links[^1].Radius, right[0], links[^1].Radius > links[^2].Radius);
        Along(right);
        Cap(links[0].Radius, left[0], links[0].Radius > links[1].Radius);
        return build.Close().Build();

        // Where balls of a bend overlap, their inner side goes on only forwards.
        static void Add(List<Point> side, Point p, Point way)
        {
            if (side.Count == 0 || (p - side[^1]).Dot(way) > 1e-4) side.Add(p);
        }

        void Along(List<Point> points)
        {
            foreach (var s in CurveFit.Open(points, Fit).Segments)
            {
                if (s.IsCurve) build.CubicTo(s.C1, s.C2, s.End);
                else build.LineTo(s.End);
            }
        }

        // Round a ball that is larger than the one before it goes more than half of a circle.
        void Cap(double radius, Point to, bool large)
        {
            var half = build.Current.DistanceTo(to) / 2;
            build.ArcTo(Math.Max(radius, half), Math.Max(radius, half), Angle.Zero, large && half < radius, true, to);
        }
    }

    private static VectorPath Disc(Link ball) => VectorPath.Disc(ball.Centre, ball.Radius);
}
