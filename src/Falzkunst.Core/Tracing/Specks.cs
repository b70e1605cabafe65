namespace Falzkunst.Core.Tracing;

/// <summary>Connected areas of a picture whose pixels have labels.</summary>
internal static class Specks
{
    /// <summary>
    /// Gives every area (of one label, joined by edges, higher labels also by corners) with fewer pixels than <paramref name="least"/> the label that it borders on most.
    /// Small ones go first, so that a speck in a speck goes with it. Linear in the pixels for each round; three rounds at most.
    /// </summary>
    public static void Remove(byte[] labels, int width, int height, int least)
    {
        if (least <= 1) return;
        var stack = new Stack<int>();
        Span<int> beside = stackalloc int[256];
        for (var round = 0; round < 3; round++)
        {
            var seen = new System.Collections.BitArray(labels.Length);
            var area = new List<int>();
            var changed = false;
            for (var start = 0; start < labels.Length; start++)
            {
                if (seen[start]) continue;
                var label = labels[start];
                area.Clear();
                var size = 0;
                stack.Push(start);
                seen[start] = true;
                beside.Clear();
                while (stack.Count > 0)
                {
                    var i = stack.Pop();
                    size++;
                    if (size < least) area.Add(i);
                    var x = i % width;
                    var y = i / width;
                    for (var dy = -1; dy <= 1; dy++)
                    {
                        for (var dx = -1; dx <= 1; dx++)
                        {
                            if ((dx == 0 && dy == 0) || (label == 0 && dx != 0 && dy != 0)) continue;
                            int u = x + dx, v = y + dy;
                            if (u < 0 || v < 0 || u >= width || v >= height)
                            {
                                if (dx == 0 || dy == 0) beside[0]++;
                                continue;
                            }

                            var j = v * width + u;
                            if (labels[j] == label)
                            {
                                if (seen[j]) continue;
                                seen[j] = true;
                                stack.Push(j);
                            }
                            else if (dx == 0 || dy == 0)
                            {
                                beside[labels[j]]++;
                            }
                        }
                    }
                }

                if (size >= least) continue;
                var most = -1;
                for (var l = 0; l < 256; l++)
                    if (l != label && beside[l] > 0 && (most < 0 || beside[l] > beside[most])) most = l;
                if (most < 0) continue;
                foreach (var i in area) labels[i] = (byte)most;
                changed = true;
            }

            if (!changed) return;
        }
    }
}
