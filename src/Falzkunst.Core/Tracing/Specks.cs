using Falzkunst.Core.Files;

namespace Falzkunst.Core.Tracing;

/// <summary>Takes away what is too small to be meant.</summary>
internal static class Specks
{
    private const int MostSpecks = 1_000_000;

    /// <summary>
    /// Gives every area with fewer pixels than <paramref name="least"/> the label that it borders on most. A speck in a speck goes in the next round; three
    /// rounds at most.
    /// </summary>
    /// <exception cref="Reading.UnreadableFileException">There is hardly anything but specks.</exception>
    public static void Remove(byte[] labels, int width, int height, int least, CancellationToken cancel)
    {
        if (least <= 1) return;
        for (var round = 0; round < 3; round++)
        {
            cancel.ThrowIfCancellationRequested();
            if (!RemoveOnce(labels, width, height, least)) return;
        }
    }

    private static bool RemoveOnce(byte[] labels, int width, int height, int least)
    {
        var areas = new Areas(labels, width, height);
        var runs = areas.Runs;
        var size = new long[runs.Count];
        for (var i = 0; i < runs.Count; i++) size[areas.Of(i)] += runs[i].To - runs[i].From;
        // Small areas counted through, and how much of its edge each shares with each label; the picture's rim counts as paper.
        var small = new int[runs.Count];
        var (smallAreas, kinds) = (0, 1);
        for (var i = 0; i < runs.Count; i++)
        {
            kinds = Math.Max(kinds, runs[i].Label + 1);
            if (areas.Of(i) == i && size[i] < least) small[i] = ++smallAreas;
        }

        if (smallAreas == 0) return false;
        if (smallAreas > MostSpecks) throw Areas.Grain();
        var beside = new int[smallAreas * kinds];
        for (var i = 0; i < runs.Count; i++)
        {
            if (size[areas.Of(i)] >= least) continue;
            var r = runs[i];
            Count(i, r.From > 0 ? runs[i - 1].Label : 0, 1);
            Count(i, r.To < width ? runs[i + 1].Label : 0, 1);
            if (r.Row == 0 || r.Row == height - 1) Count(i, 0, r.To - r.From);
        }

        areas.EachPair((a, b, touch) =>
        {
            if (runs[a].Label == runs[b].Label || touch == 0) return;
            Count(a, runs[b].Label, touch);
            Count(b, runs[a].Label, touch);
        });
        var changed = false;
        for (var i = 0; i < runs.Count; i++)
        {
            if (small[areas.Of(i)] is not (> 0 and var speck)) continue;
            var counts = beside.AsSpan((speck - 1) * kinds, kinds);
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
            if (small[areas.Of(run)] is > 0 and var speck) beside[(speck - 1) * kinds + label] += pixels;
        }
    }
}
