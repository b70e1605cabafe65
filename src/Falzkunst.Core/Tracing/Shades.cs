using Falzkunst.Core.Pictures;

namespace Falzkunst.Core.Tracing;

/// <summary>The picture as numbers: how much ink, where the paper ends. All linear in the pixels.</summary>
internal static class Shades
{
    /// <summary>Whether a part of the picture is see-through, so that its edge is known without guessing.</summary>
    public static bool IsCutOut(Raster picture)
    {
        long clear = 0;
        // The rim is often half covered by what was drawn, and says nothing.
        for (var y = 1; y < picture.Height - 1; y++)
        {
            for (var x = 1; x < picture.Width - 1; x++)
                if (picture.Rgba[(y * picture.Width + x) * 4 + 3] < 128) clear++;
        }

        return clear > picture.Rgba.Length / 4 / 200;
    }

    /// <summary>How much each pixel covers, from 0 to 255, less <paramref name="zero"/>.</summary>
    public static float[] Alpha(Raster picture, double zero)
    {
        var alpha = new float[picture.Width * picture.Height];
        for (var i = 0; i < alpha.Length; i++) alpha[i] = picture.Rgba[i * 4 + 3] - (float)zero;
        return alpha;
    }

    /// <summary>Lightness from 0 to 255 (luma of ITU-R BT.601), on white where the picture is see-through.</summary>
    public static float[] Lightness(Raster picture)
    {
        var light = new float[picture.Width * picture.Height];
        var rgba = picture.Rgba;
        Parallel.For(0, picture.Height, y =>
        {
            for (int i = y * picture.Width, end = i + picture.Width; i < end; i++)
            {
                var p = i * 4;
                var luma = 0.299f * rgba[p] + 0.587f * rgba[p + 1] + 0.114f * rgba[p + 2];
                light[i] = rgba[p + 3] == 255 ? luma : 255 + (luma - 255) * rgba[p + 3] / 255;
            }
        });
        return light;
    }

    /// <summary>The threshold that best parts light from dark (N. Otsu 1979: the largest variance between the two classes), between 1 and 254.</summary>
    public static double Otsu(float[] light)
    {
        var counts = new long[256];
        foreach (var l in light) counts[(int)Math.Clamp(l, 0, 255)]++;
        double all = 0;
        for (var i = 0; i < 256; i++) all += i * (double)counts[i];
        double below = 0, sumBelow = 0, most = -1, sum = 0, ties = 0;
        for (var t = 0; t < 255; t++)
        {
            below += counts[t];
            sumBelow += t * (double)counts[t];
            var above = light.Length - below;
            if (below == 0 || above == 0) continue;
            var d = sumBelow / below - (all - sumBelow) / above;
            var between = below * above * d * d;
            if (between > most * (1 + 1e-12)) (most, sum, ties) = (between, t + 0.5, 1);
            else if (between >= most * (1 - 1e-12)) (sum, ties) = (sum + t + 0.5, ties + 1);
        }

        // In a gap between two shades every threshold is as good; the middle is where a blurred edge is half covered.
        return ties > 0 ? Math.Clamp(sum / ties, 1, 254) : 128;
    }

    /// <summary>
    /// Takes uneven light away: the paper's lightness is found in blocks (its light end, the lightest of the neighbours where a block is all ink), smoothed,
    /// and each pixel is seen in proportion to it. Returns the same array when the light is even.
    /// </summary>
    public static float[] Evened(float[] light, int width, int height, bool? wanted)
    {
        const int Blocks = 24, Reach = 3;
        var size = Math.Max(16, (Math.Max(width, height) + Blocks - 1) / Blocks);
        int bw = (width + size - 1) / size, bh = (height + size - 1) / size;
        var paper = new float[bw * bh];
        Parallel.For(0, bh, by =>
        {
            var counts = new int[256];
            for (var bx = 0; bx < bw; bx++)
            {
                Array.Clear(counts);
                var n = 0;
                for (var y = by * size; y < Math.Min(height, (by + 1) * size); y++)
                {
                    for (var x = bx * size; x < Math.Min(width, (bx + 1) * size); x++, n++) counts[(int)Math.Clamp(light[y * width + x], 0, 255)]++;
                }

                // The lightest twentieth is paper, if there is any.
                int t = 255, seen = 0;
                while (t > 0 && (seen += counts[t]) < n / 20 + 1) t--;
                paper[by * bw + bx] = t;
            }
        });
        // A block much darker than those about it is ink all over, and is given the lightest paper around.
        float[] beside = Around(paper, bw, bh, 1, true), about = Around(paper, bw, bh, Reach, true);
        var spread = paper.Select((p, i) => p < 0.8f * beside[i] || p < 0.6f * about[i] ? about[i] : p).ToArray();
        var ordered = spread.Order().ToArray();
        var uneven = ordered[^1] > 0 && ordered[ordered.Length / 20] < 0.85 * ordered[^1];
        if (!(wanted ?? uneven)) return light;
        var smooth = Around(spread, bw, bh, 1, false);
        var even = new float[light.Length];
        Parallel.For(0, height, y =>
        {
            var gy = Math.Clamp((y + 0.5f) / size - 0.5f, 0, bh - 1);
            var y0 = (int)gy;
            var y1 = Math.Min(bh - 1, y0 + 1);
            for (var x = 0; x < width; x++)
            {
                var gx = Math.Clamp((x + 0.5f) / size - 0.5f, 0, bw - 1);
                var x0 = (int)gx;
                var x1 = Math.Min(bw - 1, x0 + 1);
                float fx = gx - x0, fy = gy - y0;
                var ground = (smooth[y0 * bw + x0] * (1 - fx) + smooth[y0 * bw + x1] * fx) * (1 - fy)
                    + (smooth[y1 * bw + x0] * (1 - fx) + smooth[y1 * bw + x1] * fx) * fy;
                even[y * width + x] = Math.Min(255, light[y * width + x] / Math.Max(16, ground) * 255);
            }
        });
        return even;
    }

    /// <summary>A Gaussian blur in place, for pictures of pure black and white, whose edges are stairs.</summary>
    public static void Blur(float[] field, int width, int height, double sigma)
    {
        const int Strip = 256;
        var reach = (int)Math.Ceiling(sigma * 3);
        var kernel = new float[reach * 2 + 1];
        for (var i = -reach; i <= reach; i++) kernel[i + reach] = (float)Math.Exp(-i * i / (2 * sigma * sigma));
        var sum = kernel.Sum();
        for (var i = 0; i < kernel.Length; i++) kernel[i] /= sum;
        Parallel.For(0, height, () => new float[width], (y, _, before) =>
        {
            var row = field.AsSpan(y * width, width);
            row.CopyTo(before);
            for (var x = 0; x < width; x++)
            {
                float v = 0;
                for (var k = -reach; k <= reach; k++) v += kernel[k + reach] * before[Math.Clamp(x + k, 0, width - 1)];
                row[x] = v;
            }

            return before;
        }, _ => { });
        // Down in strips: of the rows above only as many are kept as the blur reaches.
        Parallel.For(0, (width + Strip - 1) / Strip, s =>
        {
            int left = s * Strip, n = Math.Min(Strip, width - left), kept = reach * 2 + 1;
            var before = new float[kept][];
            for (var k = 0; k < kept; k++) before[k] = new float[n];
            for (var y = 0; y < Math.Min(height, reach); y++) field.AsSpan(y * width + left, n).CopyTo(before[y % kept]);
            for (var y = 0; y < height; y++)
            {
                if (y + reach < height) field.AsSpan((y + reach) * width + left, n).CopyTo(before[(y + reach) % kept]);
                var to = field.AsSpan(y * width + left, n);
                to.Clear();
                for (var k = -reach; k <= reach; k++)
                {
                    var from = before[Math.Clamp(y + k, 0, height - 1) % kept];
                    for (var x = 0; x < n; x++) to[x] += kernel[k + reach] * from[x];
                }
            }
        });
    }

    /// <summary>Whether edges are stairs: almost no pixel beside an edge has a shade between the two sides.</summary>
    public static bool HasStairs(float[] field, int width, int height)
    {
        long edges = 0, between = 0;
        var (low, high) = (field.Min(), field.Max());
        var (dark, bright) = (low + (high - low) * 0.12f, high - (high - low) * 0.12f);
        for (var y = 0; y < height; y++)
        {
            for (var x = 1; x < width; x++)
            {
                float a = field[y * width + x - 1], b = field[y * width + x];
                if (a > 0 == b > 0) continue;
                edges++;
                if ((a > dark && a < bright) || (b > dark && b < bright)) between++;
            }
        }

        return edges > 0 && between < edges * 0.1;
    }

    private static float[] Around(float[] from, int width, int height, int reach, bool most)
    {
        var to = new float[from.Length];
        for (var y = 0; y < height; y++)
        {
            for (var x = 0; x < width; x++)
            {
                float best = 0, sum = 0;
                var n = 0;
                for (var v = Math.Max(0, y - reach); v <= Math.Min(height - 1, y + reach); v++)
                {
                    for (var u = Math.Max(0, x - reach); u <= Math.Min(width - 1, x + reach); u++, n++)
                    {
                        best = Math.Max(best, from[v * width + u]);
                        sum += from[v * width + u];
                    }
                }

                to[y * width + x] = most ? best : sum / n;
            }
        }

        return to;
    }
}
