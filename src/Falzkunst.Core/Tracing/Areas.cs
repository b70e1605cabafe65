using Falzkunst.Core.Files;

namespace Falzkunst.Core.Tracing;

/// <summary>Pixels of one label side by side in a row.</summary>
internal readonly record struct PixelRun(int Row, int From, int To, byte Label);

/// <summary>
/// The connected areas of a picture whose pixels have labels: of one label, joined by edges, those of labels over 0 also by corners. Found by joining the runs
/// of
/// neighbouring rows (union and find); linear in the pixels with a small factor.
/// </summary>
internal sealed class Areas
{
    /// <summary>More runs than this are grain, and would only cost memory.</summary>
    private const int MostRuns = 5_000_000;

    private readonly int[] _rowStart;
    private readonly DisjointSets _sets;

    /// <exception cref="UnreadableFileException">There is hardly anything but specks.</exception>
    public Areas(ReadOnlySpan<byte> labels, int width, int height)
    {
        var runs = new List<PixelRun>();
        _rowStart = new int[height + 1];
        for (var y = 0; y < height; y++)
        {
            _rowStart[y] = runs.Count;
            if (runs.Count > MostRuns) throw Grain();
            var row = labels.Slice(y * width, width);
            for (var x = 0; x < width;)
            {
                var label = row[x];
                var more = row[x..].IndexOfAnyExcept(label);
                var end = more < 0 ? width : x + more;
                runs.Add(new(y, x, end, label));
                x = end;
            }
        }

        _rowStart[height] = runs.Count;
        Runs = runs;
        _sets = new(runs.Count);
        EachPair((a, b, touch) =>
        {
            if (Runs[a].Label != Runs[b].Label || (touch == 0 && Runs[a].Label == 0)) return;
            _sets.Join(a, b);
        });
    }

    /// <summary>What is said of a picture that is nothing but specks.</summary>
    public static UnreadableFileException Grain() => new("the picture is made of millions of specks; trace a part of it, or one that is less grainy");

    public IReadOnlyList<PixelRun> Runs { get; }

    /// <summary>The area of a run: the number of its first run.</summary>
    public int Of(int run) => _sets.Of(run);

    /// <summary>The area that a pixel lies in.</summary>
    public int At(int x, int y)
    {
        int low = _rowStart[y], high = _rowStart[y + 1] - 1;
        while (low < high)
        {
            var middle = (low + high + 1) / 2;
            if (Runs[middle].From <= x) low = middle;
            else high = middle - 1;
        }

        return Of(low);
    }

    /// <summary>Runs of neighbouring rows that share pixels side by side (how many), or (0) only a corner.</summary>
    public void EachPair(Action<int, int, int> see)
    {
        for (var y = 1; y < _rowStart.Length - 1; y++)
        {
            int a = _rowStart[y - 1], b = _rowStart[y];
            while (a < _rowStart[y] && b < _rowStart[y + 1])
            {
                PixelRun ra = Runs[a], rb = Runs[b];
                var touch = Math.Min(ra.To, rb.To) - Math.Max(ra.From, rb.From);
                if (touch >= 0) see(a, b, touch);
                if (ra.To < rb.To) a++;
                else if (rb.To < ra.To) b++;
                else
                {
                    // Both end here: the two that follow meet these at a corner.
                    if (b + 1 < _rowStart[y + 1]) see(a, b + 1, 0);
                    if (a + 1 < _rowStart[y]) see(a + 1, b, 0);
                    a++;
                    b++;
                }
            }
        }
    }
}
