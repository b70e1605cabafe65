namespace Falzkunst.Core.Layout;

/// <summary>
/// Brings the items of a sheet together at its upper left: each in turn goes up as far as nothing is in its way, and to the left, until none moves any more
/// (compaction by translation: Bennell and Oliveira 2008, without the linear programme: what is in the way is never pushed).
/// Guarantee: what kept the gap keeps it; nothing comes to lie lower or farther to the right. Linear in the items times those near each.
/// </summary>
internal static class Compaction
{
    /// <summary>The longest step, and the shortest, in mm.</summary>
    private const double Longest = 64, Shortest = 0.004;

    /// <summary>Rounds that are enough for all that was seen; most need three.</summary>
    private const int Most = 12;

    /// <summary>Moves the items of one sheet.</summary>
    /// <param name="spots">Where all items lie; changed.</param>
    /// <param name="upFirst">Whether all go up before any goes left.</param>
    public static void Of(Item[] items, Bay bay, int number, Spot[] spots, bool upFirst)
    {
        int[] on = [.. Enumerable.Range(0, spots.Length).Where(i => spots[i].Bay == number)];
        for (var round = 0; round < Most; round++)
        {
            var moved = 0.0;
            foreach (var goesUp in new[] { upFirst, !upFirst })
            {
                Array.Sort([.. on.Select(i => goesUp ? spots[i].Box.Top : spots[i].Box.Left)], on);
                foreach (var i in on) moved = Math.Max(moved, Go(items, bay, on, spots, i, goesUp));
            }

            if (moved < 10 * Shortest) break;
        }
    }

    /// <summary>Moves one item as far as it goes; how far that was.</summary>
    private static double Go(Item[] items, Bay bay, int[] on, Spot[] spots, int item, bool up)
    {
        var box = spots[item].Box;
        var room = Math.Max(0, up ? box.Top + items[item].Shape.Edge - bay.Room.Top : box.Left + items[item].Shape.Edge - bay.Room.Left);
        // Only what lies before it can be in its way.
        var way = up ? box with { Top = box.Top - room } : box with { Left = box.Left - room };
        int[] near = [.. on.Where(j => j != item && spots[j].Box.Touches(way))];
        Spot[] fixedNear = [.. bay.Obstacles.Where(o => o.Box.Touches(way))];
        var gone = 0.0;
        for (var step = Longest; step >= Shortest; step /= 2)
            while (gone + step <= room && IsFree(gone + step)) gone += step;
        if (gone > 0) spots[item] = At(gone);
        return gone;

        Spot At(double by) => up ? spots[item] with { Y = spots[item].Y - by } : spots[item] with { X = spots[item].X - by };

        bool IsFree(double by)
        {
            var there = At(by);
            return !Array.Exists(near, j => Overlap(there, spots[j])) && !Array.Exists(fixedNear, o => Overlap(there, o));
        }
    }

    private static bool Overlap(in Spot a, in Spot b)
    {
        long work = 0;
        return a.Box.Touches(b.Box) && a.Turned.Overlap(b.Turned, a.X - b.X, a.Y - b.Y, ref work) > 0;
    }
}
