namespace Falzkunst.Core.Cards;

/// <summary>A part of a collection: what lies close together, far from the rest.</summary>
public sealed record Part(ImmutableArray<string> Ids, Box Bounds);

/// <summary>Tells a collection of separate designs (a sheet of sayings, of tags) from one design.</summary>
public static class Parts
{
    private const int MostItems = 3000, FewestParts = 4, MostParts = 120;

    // Things closer than this are never taken apart; a gap must be so much wider than those within parts.
    private const double LeastGapMm = 2, Wider = 1.7;

    /// <summary>
    /// The parts, in reading order; empty where the design is one. Single linkage (the minimum spanning tree of the gaps between boxes, cut where the gaps
    /// jump),
    /// at a cost of the square of the items, which are at most 3000.
    /// </summary>
    public static IReadOnlyList<Part> Of(Design design)
    {
        var items = design.Pieces.Select(p => (p.Id, Box: p.OnCard.Bounds))
            .Concat(design.Loose.Select(l => (l.Id, Box: l.Path.Bounds)))
            .Concat(design.LooseArtwork.Select(a => (a.Id, Box: a.Bounds))).ToList();
        if (items.Count is < FewestParts or > MostItems) return [];
        var links = Tree(items.ConvertAll(i => i.Box));
        links.Sort((a, b) => a.Gap.CompareTo(b.Gap));
        var cut = -1;
        var most = Wider;
        for (var i = Math.Max(0, links.Count - MostParts); i <= links.Count - FewestParts + 1 && i < links.Count; i++)
        {
            if (links[i].Gap < LeastGapMm) continue;
            var ratio = links[i].Gap / Math.Max(0.5, i == 0 ? 0.5 : links[i - 1].Gap);
            if (ratio > most) (most, cut) = (ratio, i);
        }

        if (cut < 0) return [];
        var sets = new DisjointSets(items.Count);
        foreach (var (a, b, _) in links.Take(cut)) sets.Join(a, b);
        var parts = sets.Sets()
            .Select(g => new Part([.. g.Select(i => items[i].Id)], g.Aggregate(Box.Empty, (box, i) => box.With(items[i].Box)))).ToList();
        // By rows: what begins within half its height of another lies beside it.
        var row = parts.Average(p => p.Bounds.Height) / 2;
        return [.. parts.OrderBy(p => Math.Floor(p.Bounds.Centre.Y / Math.Max(1, row * 2))).ThenBy(p => p.Bounds.Left)];
    }

    /// <summary>Prim's tree over the gaps between boxes.</summary>
    private static List<(int A, int B, double Gap)> Tree(List<Box> boxes)
    {
        var n = boxes.Count;
        var nearest = new double[n];
        var from = new int[n];
        var inside = new bool[n];
        Array.Fill(nearest, double.PositiveInfinity);
        var links = new List<(int, int, double)>();
        var at = 0;
        for (var round = 1; round < n; round++)
        {
            inside[at] = true;
            var next = -1;
            for (var i = 0; i < n; i++)
            {
                if (inside[i]) continue;
                var gap = Gap(boxes[at], boxes[i]);
                if (gap < nearest[i]) (nearest[i], from[i]) = (gap, at);
                if (next < 0 || nearest[i] < nearest[next]) next = i;
            }

            links.Add((from[next], next, nearest[next]));
            at = next;
        }

        return links;
    }

    private static double Gap(Box a, Box b)
    {
        var dx = Math.Max(0, Math.Max(a.Left - b.Right, b.Left - a.Right));
        var dy = Math.Max(0, Math.Max(a.Top - b.Bottom, b.Top - a.Bottom));
        return Math.Sqrt(dx * dx + dy * dy);
    }
}
