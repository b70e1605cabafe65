namespace Falzkunst.Core.Reading.Recognition;

/// <summary>An outline that was drawn as separate segments.</summary>
internal sealed record JoinedLoop(IReadOnlyList<int> Members, Subpath Outline);

/// <summary>Joins open lines whose ends meet to closed outlines, as drawings from construction programs need it.</summary>
internal static class JoinedEnds
{
    /// <summary>
    /// The loops in which every end (within 0.1 mm) is met by exactly one other; lines that fork or stay open are left as they are, since they may be folds.
    /// Linear in the lines.
    /// </summary>
    public static List<JoinedLoop> Find(IReadOnlyList<Subpath> open)
    {
        var ends = new BoxGrid<int>(5);
        for (var i = 0; i < open.Count; i++)
        {
            ends.Add(Around(open[i].Start, 0), 2 * i);
            ends.Add(Around(open[i].End, 0), 2 * i + 1);
        }

        var partner = new int[open.Count * 2];
        for (var e = 0; e < partner.Length; e++)
        {
            var at = EndOf(open, e);
            partner[e] = -1;
            var count = 0;
            foreach (var other in ends.Touching(Around(at, Tolerances.Closes)).Distinct())
            {
                if (other == e || EndOf(open, other).DistanceTo(at) > Tolerances.Closes) continue;
                count++;
                partner[e] = other;
            }

            if (count != 1) partner[e] = -1;
        }

        var used = new bool[open.Count];
        var loops = new List<JoinedLoop>();
        for (var start = 0; start < open.Count; start++)
        {
            if (used[start]) continue;
            var members = new List<int>();
            var segments = ImmutableArray.CreateBuilder<Segment>();
            var end = 2 * start;
            while (true)
            {
                var i = end / 2;
                members.Add(i);
                var sub = end % 2 == 0 ? open[i] : open[i].Reverse();
                segments.AddRange(sub.Segments);
                var next = partner[end ^ 1];
                // Each must see the other, or the places where three meet would be taken for two.
                if (next < 0 || partner[next] != (end ^ 1) || (next / 2 != start && members.Contains(next / 2)))
                {
                    members.Clear();
                    break;
                }

                if (next == 2 * start) break;
                end = next;
            }

            if (members.Count < 2) continue;
            foreach (var m in members) used[m] = true;
            loops.Add(new(members, new(open[start].Start, segments.ToImmutable(), true)));
        }

        return loops;
    }

    private static Point EndOf(IReadOnlyList<Subpath> open, int end) => end % 2 == 0 ? open[end / 2].Start : open[end / 2].End;

    private static Box Around(Point p, double by) => new(p.X - by, p.Y - by, p.X + by, p.Y + by);
}
