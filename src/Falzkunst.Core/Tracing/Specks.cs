namespace Falzkunst.Core.Tracing;

/// <summary>Connected areas of a picture whose pixels have labels.</summary>
internal static class Specks
{
    private readonly record struct Run(int Row, int From, int To, byte Label);

    /// <summary>
    /// Gives every area (of one label, joined by edges, those of labels over 0 also by corners) with fewer pixels than <paramref name="least"/> the label that it borders
    /// on most. A speck in a speck goes in the next round; three rounds at most. Areas are found by joining the runs of neighbouring rows (union and find), linear in
    /// the pixels with a small factor.
    /// </summary>
    public static void Remove(byte[] labels, int width, int height, int least)
    {
        if (least <= 1) return;
        for (var round = 0; round < 3; round++)
            if (!RemoveOnce(labels, width, height, least)) return;
    }

    private static bool RemoveOnce(byte[] labels, int width, int height, int least)
    {
        var runs = new List<Run>();
        var rowStart = new int[height + 1];
        for (var y = 0; y < height; y++)
        {
            rowStart[y] = runs.Count;
            var row = labels.AsSpan(y * width, width);
            for (var x = 0; x < width;)
            {
                var label = row[x];
                var more = row[x..].IndexOfAnyExcept(label);
                var end = more < 0 ? width : x + more;
                runs.Add(new(y, x, end, label));
                x = end;
            }
        }

        rowStart[height] = runs.Count;
        var parent = new int[runs.Count];
        for (var i = 0; i < parent.Length; i++) parent[i] = i;
        EachPair((a, b, touch) =>
        {
            if (runs[a].Label != runs[b].Label || (touch == 0 && runs[a].Label == 0)) return;
            int ra = Root(a), rb = Root(b);
            if (ra != rb) parent[Math.Max(ra, rb)] = Math.Min(ra, rb);
        });
        var size = new long[runs.Count];
        for (var i = 0; i < runs.Count; i++) size[Root(i)] += runs[i].To - runs[i].From;
        // How much of its edge a small area shares with each label; the picture's rim counts as paper.
        var beside = new Dictionary<int, int[]>();
        for (var i = 0; i < runs.Count; i++)
        {
            if (size[Root(i)] >= least) continue;
            var r = runs[i];
            Count(i, r.From > 0 ? runs[i - 1].Label : 0, 1);
            Count(i, r.To < width ? runs[i + 1].Label : 0, 1);
            if (r.Row == 0 || r.Row == height - 1) Count(i, 0, r.To - r.From);
        }

        if (beside.Count == 0) return false;
        EachPair((a, b, touch) =>
        {
            if (runs[a].Label == runs[b].Label || touch == 0) return;
            Count(a, runs[b].Label, touch);
            Count(b, runs[a].Label, touch);
        });
        var changed = false;
        for (var i = 0; i < runs.Count; i++)
        {
            if (!beside.TryGetValue(Root(i), out var counts)) continue;
            var most = -1;
            for (var l = 0; l < counts.Length; l++)
                if (l != runs[i].Label && counts[l] > 0 && (most < 0 || counts[l] > counts[most])) most = l;
            if (most < 0) continue;
            labels.AsSpan(runs[i].Row * width + runs[i].From, runs[i].To - runs[i].From).Fill((byte)most);
            changed = true;
        }

        return changed;

        int Root(int i)
        {
            while (parent[i] != i) i = parent[i] = parent[parent[i]];
            return i;
        }

        void Count(int run, int label, int pixels)
        {
            var root = Root(run);
            if (size[root] >= least) return;
            if (!beside.TryGetValue(root, out var counts)) beside[root] = counts = new int[256];
            counts[label] += pixels;
        }

        // Runs of neighbouring rows that share pixels side by side, or (touch 0) only a corner.
        void EachPair(Action<int, int, int> see)
        {
            for (var y = 1; y < height; y++)
            {
                int a = rowStart[y - 1], b = rowStart[y];
                while (a < rowStart[y] && b < rowStart[y + 1])
                {
                    Run ra = runs[a], rb = runs[b];
                    var touch = Math.Min(ra.To, rb.To) - Math.Max(ra.From, rb.From);
                    if (touch >= 0) see(a, b, touch);
                    if (ra.To < rb.To) a++;
                    else if (rb.To < ra.To) b++;
                    else
                    {
                        // Both end here: the two that follow meet these at a corner.
                        if (b + 1 < rowStart[y + 1]) see(a, b + 1, 0);
                        if (a + 1 < rowStart[y]) see(a + 1, b, 0);
                        a++;
                        b++;
                    }
                }
            }
        }
    }
}
