using System.Collections.Concurrent;
using System.Runtime.InteropServices;
using Falzkunst.Core.Files;
using Falzkunst.Core.Pictures;

namespace Falzkunst.Core.Tracing;

/// <summary>A picture in few colours: a label for each pixel, 0 for the paper, the others from the largest colour to the smallest.</summary>
/// <param name="Place">Where between two neighbouring pixels one colour goes over into the other, 0 to 1.</param>
internal sealed record ColourLabels(byte[] Labels, ImmutableArray<Colour> Colours, Func<int, int, double> Place)
{
    private const float FlatStep = 7;
    private const int Samples = 12_000, Rounds = 20, Starts = 3;

    /// <summary>
    /// Groups the colours by k-means in CIE L*a*b*, begun as in Arthur and Vassilvitskii 2007 (k-means++) with a fixed seed. Only pixels whose neighbours look
    /// alike are
    /// grouped; those on edges, which mix two colours, take the nearest of the colours around them, so that no seam of a third colour appears.
    /// </summary>
    public static ColourLabels Of(Raster picture, int wanted, bool cutOut, CancellationToken cancel)
    {
        int w = picture.Width, h = picture.Height;
        var rgba = picture.Rgba;
        Lab At(int i) => Lab.Of(rgba[i * 4], rgba[i * 4 + 1], rgba[i * 4 + 2]);
        var flat = new bool[w * h];
        Parallel.ForEach(Partitioner.Create(0, h), rows =>
        {
            var pixels = MemoryMarshal.Cast<byte, int>(rgba.AsSpan());
            for (var y = rows.Item1; y < rows.Item2; y++)
            {
                for (var x = 0; x < w; x++)
                {
                    var i = y * w + x;
                    if (cutOut && rgba[i * 4 + 3] < 128) continue;
                    flat[i] = (x == 0 || Like(pixels, i, i - 1)) && (x == w - 1 || Like(pixels, i, i + 1)) && (y == 0 || Like(pixels, i, i - w))
                        && (y == h - 1 || Like(pixels, i, i + w));
                }
            }
        });
        bool Like(ReadOnlySpan<int> pixels, int i, int j) => pixels[i] == pixels[j]
            || ((!cutOut || rgba[j * 4 + 3] >= 128) && At(i).DistanceTo(At(j)) < FlatStep);
        var sample = Sample(flat, At);
        if (sample.Count == 0) sample = Sample([.. Enumerable.Range(0, flat.Length).Select(i => !cutOut || rgba[i * 4 + 3] >= 128)], At);
        if (sample.Count == 0) throw new UnreadableFileException("there is nothing but see-through in this picture");
        var centres = Group(sample, wanted + (cutOut ? 0 : 1), cancel);
        var paper = cutOut || Matte.RimColour(picture) is not { } rim ? -1 : Nearest(centres, rim);
        var nearest = new byte[Lab.All.Count];
        Parallel.For(0, nearest.Length, i => nearest[i] = (byte)Nearest(centres, Lab.All[i]));
        var raw = new byte[w * h];
        for (var i = 0; i < raw.Length; i++) raw[i] = cutOut && rgba[i * 4 + 3] < 128 ? byte.MaxValue
            : nearest[Lab.Index(rgba[i * 4], rgba[i * 4 + 1], rgba[i * 4 + 2])];
        var labels = new byte[w * h];
        Parallel.For(0, h, y =>
        {
            for (var x = 0; x < w; x++)
            {
                var i = y * w + x;
                labels[i] = flat[i] || raw[i] == byte.MaxValue ? raw[i] : Around(i, x, y);
            }
        });

        // From the largest to the smallest, so that small colours lie above large ones; the paper is 0.
        var counts = new long[centres.Count];
        foreach (var l in labels)
            if (l != byte.MaxValue) counts[l]++;
        var order = Enumerable.Range(0, centres.Count).Where(c => c != paper && counts[c] > 0).OrderByDescending(c => counts[c]).ThenBy(c => c).ToList();
        var renumber = new byte[256];
        for (var k = 0; k < order.Count; k++) renumber[order[k]] = (byte)(k + 1);
        var sums = new long[order.Count + 1, 4];
        for (var i = 0; i < labels.Length; i++) labels[i] = renumber[labels[i]];
        // The mean of a part of them is as good, and pixels on edges are none of it.
        for (int i = 0, step = Math.Max(1, labels.Length / 500_000) | 1; i < labels.Length; i += step)
        {
            if (!flat[i] && sample.Count > 100) continue;
            for (var c = 0; c < 3; c++) sums[labels[i], c] += rgba[i * 4 + c];
            sums[labels[i], 3]++;
        }

        var colours = ImmutableArray.CreateBuilder<Colour>();
        for (var k = 1; k <= order.Count; k++)
        {
            var n = Math.Max(1, sums[k, 3]);
            colours.Add(new((byte)(sums[k, 0] / n), (byte)(sums[k, 1] / n), (byte)(sums[k, 2] / n)));
        }

        var axis = new Lab[order.Count + 1];
        axis[0] = paper >= 0 ? centres[paper] : default;
        for (var k = 0; k < order.Count; k++) axis[k + 1] = centres[order[k]];
        return new(labels, colours.ToImmutable(), (p, q) =>
        {
            if (cutOut && (labels[p] == 0 || labels[q] == 0)) return Between(rgba[p * 4 + 3] / 255.0, rgba[q * 4 + 3] / 255.0);
            Lab a = axis[labels[p]], b = axis[labels[q]];
            return Between(Share(At(p), a, b), Share(At(q), a, b));
        });

        byte Around(int i, int x, int y)
        {
            // The nearest ring that has flat pixels at all decides.
            byte best = raw[i];
            var least = float.PositiveInfinity;
            for (var reach = 1; reach <= 3 && float.IsPositiveInfinity(least); reach++)
            {
                for (var v = Math.Max(0, y - reach); v <= Math.Min(h - 1, y + reach); v++)
                {
                    for (var u = Math.Max(0, x - reach); u <= Math.Min(w - 1, x + reach); u++)
                    {
                        var j = v * w + u;
                        if (!flat[j] || raw[j] == byte.MaxValue) continue;
                        var d = At(i).DistanceTo(centres[raw[j]]);
                        if (d < least) (least, best) = (d, raw[j]);
                    }
                }
            }

            // A thin line has no flat pixels of its own: what is much nearer to its own colour than to those around stays.
            return At(i).DistanceTo(centres[raw[i]]) < least * 0.35f ? raw[i] : best;
        }
    }

    private static double Between(double p, double q) => Math.Abs(q - p) < 1e-6 ? 0.5 : Math.Clamp((0.5 - p) / (q - p), 0, 1);

    /// <summary>How far a colour lies on the way from one to the other.</summary>
    internal static double Share(Lab at, Lab from, Lab to)
    {
        float l = to.L - from.L, a = to.A - from.A, b = to.B - from.B;
        var d = l * l + a * a + b * b;
        return d < 1e-6 ? 0.5 : Math.Clamp(((at.L - from.L) * l + (at.A - from.A) * a + (at.B - from.B) * b) / d, 0, 1);
    }

    private static List<Lab> Sample(bool[] take, Func<int, Lab> at)
    {
        var step = Math.Max(1, take.Length / Samples);
        var sample = new List<Lab>(Samples);
        // An odd step walks across columns as well as rows.
        for (var i = 0; i < take.Length; i += step | 1)
            if (take[i]) sample.Add(at(i));
        return sample;
    }

    private static int Nearest(List<Lab> centres, Lab colour)
    {
        var best = 0;
        for (var c = 1; c < centres.Count; c++)
            if (centres[c].DistanceTo(colour) < centres[best].DistanceTo(colour)) best = c;
        return best;
    }

    private static List<Lab> Group(List<Lab> sample, int count, CancellationToken cancel)
    {
        List<Lab> best = [];
        var least = double.PositiveInfinity;
        for (var start = 0; start < Starts; start++)
        {
            cancel.ThrowIfCancellationRequested();
            var random = new Random(17 + start);
            var centres = new List<Lab> { sample[random.Next(sample.Count)] };
            var away = new double[sample.Count];
            Array.Fill(away, double.PositiveInfinity);
            while (centres.Count < count)
            {
                double sum = 0;
                for (var i = 0; i < away.Length; i++)
                {
                    var d = (double)sample[i].DistanceTo(centres[^1]);
                    away[i] = Math.Min(away[i], d * d);
                    sum += away[i];
                }

                // Fewer colours than asked for.
                if (sum < 1e-6 * sample.Count) break;
                var pick = random.NextDouble() * sum;
                var at = 0;
                while (at < away.Length - 1 && (pick -= away[at]) > 0) at++;
                centres.Add(sample[at]);
            }

            double spread = 0;
            for (var round = 0; round < Rounds; round++)
            {
                var sums = new (double L, double A, double B, int N)[centres.Count];
                spread = 0;
                foreach (var s in sample)
                {
                    var c = Nearest(centres, s);
                    var d = (double)s.DistanceTo(centres[c]);
                    spread += d * d;
                    sums[c] = (sums[c].L + s.L, sums[c].A + s.A, sums[c].B + s.B, sums[c].N + 1);
                }

                var moved = false;
                for (var c = 0; c < centres.Count; c++)
                {
                    if (sums[c].N == 0) continue;
                    var next = new Lab((float)(sums[c].L / sums[c].N), (float)(sums[c].A / sums[c].N), (float)(sums[c].B / sums[c].N));
                    moved |= next.DistanceTo(centres[c]) > 0.05f;
                    centres[c] = next;
                }

                if (!moved) break;
            }

            if (spread < least) (least, best) = (spread, centres);
        }

        return best;
    }
}
