namespace Falzkunst.Core.Tracing;

/// <summary>Takes away what is too small to be meant.</summary>
internal static class Specks
{
    /// <summary>
    /// Gives every area with fewer pixels than <paramref name="least"/> the label that it borders on most. A speck in a speck goes in the next round; three rounds at most.
    /// </summary>
    public static void Remove(byte[] labels, int width, int height, int least)
    {
        if (least <= 1) return;
        for (var round = 0; round < 3; round++)
            if (!RemoveOnce(labels, width, height, least)) return;
    }

    private static bool RemoveOnce(byte[] labels, int width, int height, int least)
    {
        var areas = new Areas(labels, width, height);
        var runs = areas.Runs;
        var size = new long[runs.Count];
        for (var i = 0; i < runs.Count; i++) size[areas.Of(i)] += runs[i].To - runs[i].From;
        // How much of its edge a small area shares with each label; the picture's rim counts as paper.
        var beside = new Dictionary<int, int[]>();
        for (var i = 0; i < runs.Count; i++)
        {
            if (size[areas.Of(i)] >= least) continue;
            var r = runs[i];
            Count(i, r.From > 0 ? runs[i - 1].Label : 0, 1);
            Count(i, r.To < width ? runs[i + 1].Label : 0, 1);
            if (r.Row == 0 || r.Row == height - 1) Count(i, 0, r.To - r.From);
        }

        if (beside.Count == 0) return false;
        areas.EachPair((a, b, touch) =>
        {
            if (runs[a].Label == runs[b].Label || touch == 0) return;
            Count(a, runs[b].Label, touch);
            Count(b, runs[a].Label, touch);
        });
        var changed = false;
        for (var i = 0; i < runs.Count; i++)
        {
            if (!beside.TryGetValue(areas.Of(i), out var counts)) continue;
            var most = -1;
            for (var l = 0; l < counts.Length; l++)
                if (l != runs[i].Label && counts[l] > 0 && (most < 0 || counts[l] > counts[most])) most = l;
            if (most < 0) continue;
            labels.AsSpan(runs[i].Row * width + runs[i].From, runs[i].To - runs[i].From).Fill((byte)most);
            changed = true;
        }

        return changed;

        void Count(int run, int label, int pixels)
        {
            var area = areas.Of(run);
            if (size[area] >= least) return;
            if (!beside.TryGetValue(area, out var counts)) beside[area] = counts = new int[256];
            counts[label] += pixels;
        }
    }
}
