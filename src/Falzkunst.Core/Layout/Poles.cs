namespace Falzkunst.Core.Layout;

/// <summary>A circle inside an area.</summary>
internal readonly record struct Pole(Point Centre, double Radius);

/// <summary>
/// Circles that stand for an area: the largest that lies in it (its pole of inaccessibility: Garcia-Castellanos and Lombardo 2007), then the largest beside
/// that, and so on. Two areas whose circles overlap do overlap, and how deep they do is a good guess of how far the areas have to part (Gardeyn, Vanden Berghe
/// and Wauters 2025).
/// Each circle is found by dividing squares, the most promising first, to within 1 % of the largest possible; n edges times some hundred squares a circle.
/// </summary>
internal static class Poles
{
    /// <summary>At most <paramref name="most"/> circles, fewer where they cover nine tenths of the area, or would be too small to tell anything.</summary>
    public static List<Pole> Of(IReadOnlyList<List<Point>> rings, double areaMm2, int most)
    {
        var box = Box.Empty;
        foreach (var ring in rings)
            foreach (var p in ring) box = box.With(p);
        var poles = new List<Pole>(most);
        double covered = 0;
        while (poles.Count < most && (poles.Count == 0 || covered < 0.9 * areaMm2))
        {
            if (Largest(rings, box, poles) is not { Radius: > 1e-6 } next || (poles.Count > 0 && next.Radius < poles[0].Radius * 0.06)) break;
            poles.Add(next);
            covered += Math.PI * next.Radius * next.Radius;
        }

        return poles;
    }

    private static Pole Largest(IReadOnlyList<List<Point>> rings, Box box, List<Pole> before)
    {
        var best = new Pole(box.Centre, 0);
        var queue = new PriorityQueue<(Point Centre, double Half), double>();
        var size = Math.Max(Math.Min(box.Width, box.Height), Math.Max(box.Width, box.Height) / 20);
        if (!(size > 0)) return best;
        for (var x = box.Left; x < box.Right; x += size)
            for (var y = box.Top; y < box.Bottom; y += size) Look(new(x + size / 2, y + size / 2), size / 2);
        while (queue.TryDequeue(out var square, out var negative))
        {
            if (-negative <= best.Radius * 1.01 + 1e-9) break;
            var half = square.Half / 2;
            foreach (var (dx, dy) in ((double, double)[])[(-half, -half), (half, -half), (-half, half), (half, half)])
                Look(square.Centre + new Point(dx, dy), half);
        }

        return best;

        void Look(Point centre, double half)
        {
            var room = Room(rings, centre, before);
            if (room > best.Radius) best = new(centre, room);
            var most = room + half * Math.Sqrt(2);
            if (most > best.Radius * 1.01) queue.Enqueue((centre, half), -most);
        }
    }

    /// <summary>How large a circle about a point may be; negative outside.</summary>
    private static double Room(IReadOnlyList<List<Point>> rings, Point p, List<Pole> before)
    {
        double nearest = double.PositiveInfinity;
        var inside = false;
        foreach (var ring in rings)
        {
            for (int i = 0, j = ring.Count - 1; i < ring.Count; j = i++)
            {
                Point a = ring[j], b = ring[i];
                nearest = Math.Min(nearest, p.DistanceToSegment(a, b));
                if (a.Y > p.Y != b.Y > p.Y && p.X < a.X + (b.X - a.X) * (p.Y - a.Y) / (b.Y - a.Y)) inside = !inside;
            }
        }

        var room = inside ? nearest : -nearest;
        foreach (var q in before) room = Math.Min(room, p.DistanceTo(q.Centre) - q.Radius);
        return room;
    }
}
