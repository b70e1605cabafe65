using Falzkunst.Core.Reading.Pictures;

namespace Falzkunst.Core.Tracing;

/// <summary>Parts a picture from the paper that it lies on, where nothing in it is see-through.</summary>
internal static class Matte
{
    private const int Near = 3;

    /// <summary>
    /// Positive inside, zero at the edge. The paper is what is joined to the picture's rim and differs from the rim's colour by less than the tolerance;
    /// at its edge a pixel is as much inside as its difference from the paper has to the largest one near it, so that the edge lies where it is half covered.
    /// </summary>
    public static float[] Of(Raster picture, double tolerance)
    {
        int w = picture.Width, h = picture.Height;
        var paper = RimColour(picture);
        var far = new float[w * h];
        var from = Lab.All.Select(l => l.DistanceTo(paper)).ToArray();
        Parallel.For(0, h, y =>
        {
            for (int i = y * w, end = i + w; i < end; i++) far[i] = from[Lab.Index(picture.Rgba[i * 4], picture.Rgba[i * 4 + 1], picture.Rgba[i * 4 + 2])];
        });
        var outside = Flood(far, w, h, tolerance);
        var near = NearEdge(outside, w, h);
        var field = new float[w * h];
        Parallel.For(0, h, y =>
        {
            for (var x = 0; x < w; x++)
            {
                var i = y * w + x;
                if (!near[i])
                {
                    field[i] = outside[i] ? -1 : 1;
                    continue;
                }

                float most = 0;
                for (var v = Math.Max(0, y - Near); v <= Math.Min(h - 1, y + Near); v++)
                    for (var u = Math.Max(0, x - Near); u <= Math.Min(w - 1, x + Near); u++) most = Math.Max(most, far[v * w + u]);
                var share = (most > 0 ? far[i] / most : 0) * 2 - 1;
                field[i] = outside[i] ? Math.Min(share, -0.01f) : share == 0 ? 0.001f : share;
            }
        });
        return field;
    }

    /// <summary>The commonest colour along the picture's rim.</summary>
    public static Lab RimColour(Raster picture)
    {
        int w = picture.Width, h = picture.Height;
        var counts = new Dictionary<int, int>();
        void Count(int x, int y)
        {
            var i = (y * w + x) * 4;
            var key = Lab.Index(picture.Rgba[i], picture.Rgba[i + 1], picture.Rgba[i + 2]);
            counts[key] = counts.GetValueOrDefault(key) + 1;
        }

        for (var x = 0; x < w; x++)
        {
            Count(x, 0);
            Count(x, h - 1);
        }

        for (var y = 1; y < h - 1; y++)
        {
            Count(0, y);
            Count(w - 1, y);
        }

        return Lab.All[counts.MaxBy(c => (c.Value, -c.Key)).Key];
    }

    /// <summary>What looks like the paper and is joined to the rim by edges.</summary>
    private static bool[] Flood(float[] far, int w, int h, double tolerance)
    {
        var mask = new byte[w * h];
        for (var i = 0; i < mask.Length; i++) mask[i] = far[i] > tolerance ? (byte)1 : (byte)0;
        var areas = new Areas(mask, w, h);
        var rim = new HashSet<int>();
        for (var r = 0; r < areas.Runs.Count; r++)
        {
            var run = areas.Runs[r];
            if (run.Label == 0 && (run.From == 0 || run.To == w || run.Row == 0 || run.Row == h - 1)) rim.Add(areas.Of(r));
        }

        var outside = new bool[w * h];
        for (var r = 0; r < areas.Runs.Count; r++)
        {
            var run = areas.Runs[r];
            if (run.Label == 0 && rim.Contains(areas.Of(r))) outside.AsSpan(run.Row * w + run.From, run.To - run.From).Fill(true);
        }

        return outside;
    }

    /// <summary>What lies within two pixels of a place where outside meets inside.</summary>
    private static bool[] NearEdge(bool[] outside, int w, int h)
    {
        var near = new bool[w * h];
        for (var y = 0; y < h; y++)
        {
            for (var x = 0; x < w; x++)
            {
                var i = y * w + x;
                if ((x == 0 || outside[i] == outside[i - 1]) && (y == 0 || outside[i] == outside[i - w])) continue;
                for (var v = Math.Max(0, y - 2); v <= Math.Min(h - 1, y + 2); v++) near.AsSpan(v * w + Math.Max(0, x - 2), Math.Min(w, x + 3) - Math.Max(0, x - 2)).Fill(true);
            }
        }

        return near;
    }
}
