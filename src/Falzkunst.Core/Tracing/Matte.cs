using Falzkunst.Core.Cards;
using Falzkunst.Core.Pictures;

namespace Falzkunst.Core.Tracing;

/// <summary>
/// Parts a picture from the ground that it lies on, by colour. A ground is what differs from a colour by less than the tolerance and is joined, by edges, to
/// the picture's
/// rim or to a place that was touched. At its edge a pixel is as much inside as its difference from the ground has to that of the nearest pixel that no ground
/// touches, so
/// that the edge lies where a pixel is half covered. Two passes over the pixels for the rim and one for each touched place; a byte for each pixel.
/// </summary>
internal sealed class Matte
{
    private const int Near = 3;
    private const byte Alike = 0, Unlike = 1, FirstGround = 2, AtEdge = 0x80, Touching = 0x40, Marks = AtEdge | Touching;

    private readonly Raster _picture;
    private readonly int _w, _h;

    // For each pixel the number of its ground, or what lies below the first; with marks where ground and not ground are near, and where ground is next to what
    // is none.
    private readonly byte[] _state;

    // For each ground how far each colour of the table lies from it.
    private readonly List<float[]> _from = [];
    private readonly List<Lab> _colours = [];

    /// <param name="everywhere">Whether what looks like the rim is ground even where it is enclosed.</param>
    /// <param name="touched">Places that are ground, in px of this picture; those beside it count for nothing.</param>
    /// <param name="rim">Whether what is joined to the rim is ground at all.</param>
    public Matte(Raster picture, double tolerance, bool everywhere, ImmutableArray<Pixel> touched, bool rim = true)
    {
        (_picture, _w, _h) = (picture, picture.Width, picture.Height);
        _state = new byte[_w * _h];
        Array.Fill(_state, Unlike);
        if (rim && RimColour(picture) is { } paper)
            Take(paper, tolerance, run => everywhere || run.From == 0 || run.To == _w || run.Row == 0 || run.Row == _h - 1, null);
        foreach (var t in touched)
        {
            if (t.X < 0 || t.Y < 0 || t.X >= _w || t.Y >= _h || _state[t.Y * _w + t.X] >= FirstGround || picture.Rgba[(t.Y * _w + t.X) * 4 + 3] < 128) continue;
            Take(Lab.All[Colour(t.Y * _w + t.X)], tolerance, null, t);
        }

        if (_from.Count > 1) CloseSeams(tolerance);
        MarkEdges();
    }

    /// <summary>Positive inside, zero at the edge, negative in the ground.</summary>
    public float[] Field()
    {
        var field = new float[_w * _h];
        Parallel.For(0, _h, y =>
        {
            for (var x = 0; x < _w; x++) field[y * _w + x] = Share(x, y).Share;
        });
        return field;
    }

    /// <summary>The picture, see-through where its ground was; at the edges the ground's colour is taken out of those that are mixed with it.</summary>
    public Raster Cleared()
    {
        var rgba = (byte[])_picture.Rgba.Clone();
        Parallel.For(0, _h, y =>
        {
            for (var x = 0; x < _w; x++)
            {
                var (share, ground) = Share(x, y);
                if (share >= 1) continue;
                var p = (y * _w + x) * 4;
                var alpha = (share + 1) / 2;
                rgba[p + 3] = (byte)Math.Min(rgba[p + 3], (int)Math.Round(alpha * 255));
                if (alpha < 0.1f || ground < 0) continue;
                for (var c = 0; c < 3; c++)
                {
                    var under = _picture.Rgba[ground * 4 + c];
                    rgba[p + c] = (byte)Math.Clamp(under + (_picture.Rgba[p + c] - under) / alpha, 0, 255);
                }
            }
        });
        return _picture with { Rgba = rgba };
    }

    /// <summary>Whether a picture has no ground that it lies on: a ground is much of the rim and three corners at least. A sky has two.</summary>
    public static bool FillsItsFrame(Raster picture)
    {
        const double LeastOfGround = 0.4, Tolerance = 10;
        if (RimColour(picture) is not { } ground) return false;
        bool IsGround(int i) => Lab.All[Lab.Index(picture.Rgba[i], picture.Rgba[i + 1], picture.Rgba[i + 2])].DistanceTo(ground) <= Tolerance;
        var rim = Rim(picture).ToList();
        int last = picture.Width - 1, below = (picture.Height - 1) * picture.Width;
        return rim.Count(IsGround) < rim.Count * LeastOfGround || new[] { 0, last, below, below + last }.Count(p => IsGround(4 * p)) < 3;
    }

    /// <summary>The commonest colour along the picture's rim; null where it is all see-through.</summary>
    public static Lab? RimColour(Raster picture)
    {
        var counts = new Dictionary<int, int>();
        foreach (var i in Rim(picture))
        {
            var key = Lab.Index(picture.Rgba[i], picture.Rgba[i + 1], picture.Rgba[i + 2]);
            counts[key] = counts.GetValueOrDefault(key) + 1;
        }

        return counts.Count == 0 ? null : Lab.All[counts.MaxBy(c => (c.Value, -c.Key)).Key];
    }

    /// <summary>Where the bytes of the opaque pixels along the rim begin.</summary>
    private static IEnumerable<int> Rim(Raster picture)
    {
        int w = picture.Width, h = picture.Height;
        var all = Enumerable.Range(0, w).SelectMany(x => new[] { x, (h - 1) * w + x })
            .Concat(Enumerable.Range(1, Math.Max(0, h - 2)).SelectMany(y => new[] { y * w, y * w + w - 1 }));
        return all.Select(p => 4 * p).Where(i => picture.Rgba[i + 3] >= 128);
    }

    private int Colour(int pixel) => Lab.Index(_picture.Rgba[pixel * 4], _picture.Rgba[pixel * 4 + 1], _picture.Rgba[pixel * 4 + 2]);

    /// <summary>Takes as ground what is like a colour and lies in areas that are wanted, or in the area of a place.</summary>
    private void Take(Lab colour, double tolerance, Func<PixelRun, bool>? wanted, Pixel? place)
    {
        var from = new float[Lab.All.Count];
        for (var i = 0; i < from.Length; i++) from[i] = Lab.All[i].DistanceTo(colour);
        var ground = (byte)(FirstGround + _from.Count);
        _from.Add(from);
        _colours.Add(colour);
        Parallel.For(0, _h, y =>
        {
            for (int i = y * _w, end = i + _w; i < end; i++)
                if (_state[i] < FirstGround) _state[i] = from[Colour(i)] <= tolerance && _picture.Rgba[i * 4 + 3] >= 128 ? Alike : Unlike;
        });
        var areas = new Areas(_state, _w, _h);
        var chosen = new HashSet<int>();
        if (place is { } at) chosen.Add(areas.At(at.X, at.Y));
        for (var r = 0; wanted is not null && r < areas.Runs.Count; r++)
            if (areas.Runs[r].Label == Alike && wanted(areas.Runs[r])) chosen.Add(areas.Of(r));
        for (var r = 0; r < areas.Runs.Count; r++)
        {
            var run = areas.Runs[r];
            if (run.Label == Alike && chosen.Contains(areas.Of(r))) _state.AsSpan(run.Row * _w + run.From, run.To - run.From).Fill(ground);
        }
    }

    /// <summary>Between two grounds lies a seam of pixels that are mixed of both; it is ground as well.</summary>
    private void CloseSeams(double tolerance)
    {
        const int Reach = 2;
        for (var y = 0; y < _h; y++)
        {
            for (var x = 0; x < _w; x++)
            {
                var i = y * _w + x;
                if (IsGround(i)) continue;
                int first = -1, second = -1;
                for (var v = Math.Max(0, y - Reach); v <= Math.Min(_h - 1, y + Reach) && second < 0; v++)
                {
                    for (var u = Math.Max(0, x - Reach); u <= Math.Min(_w - 1, x + Reach); u++)
                    {
                        int g = _state[v * _w + u] - FirstGround;
                        if (g < 0 || g == first) continue;
                        if (first >= 0) second = g;
                        else first = g;
                    }
                }

                if (second < 0) continue;
                Lab a = _colours[first], b = _colours[second], here = Lab.All[Colour(i)];
                var t = (float)ColourLabels.Share(here, a, b);
                if (here.DistanceTo(new(a.L + (b.L - a.L) * t, a.A + (b.A - a.A) * t, a.B + (b.B - a.B) * t)) <= Math.Max(tolerance, 6)) _state[i] =
                    (byte)(FirstGround + (t < 0.5 ? first : second));
            }
        }
    }

    /// <summary>Marks what lies within two pixels of a place where ground meets what is none.</summary>
    private void MarkEdges()
    {
        for (var y = 0; y < _h; y++)
        {
            for (var x = 0; x < _w; x++)
            {
                var i = y * _w + x;
                if ((x == 0 || IsGround(i) == IsGround(i - 1)) && (y == 0 || IsGround(i) == IsGround(i - _w))) continue;
                for (var v = Math.Max(0, y - 2); v <= Math.Min(_h - 1, y + 2); v++)
                    for (var u = Math.Max(0, x - 2); u <= Math.Min(_w - 1, x + 2); u++) _state[v * _w + u] |= AtEdge;
                for (var v = Math.Max(0, y - 1); v <= Math.Min(_h - 1, y + 1); v++)
                    for (var u = Math.Max(0, x - 1); u <= Math.Min(_w - 1, x + 1); u++) _state[v * _w + u] |= Touching;
            }
        }
    }

    private bool IsGround(int i) => (_state[i] & ~Marks) >= FirstGround;

    /// <summary>How much a pixel is inside, from -1 to 1, and a pixel of the ground near it (-1 where it is not at an edge).</summary>
    private (float Share, int Ground) Share(int x, int y)
    {
        var i = y * _w + x;
        var outside = IsGround(i);
        if ((_state[i] & AtEdge) == 0) return (outside ? -1 : 1, -1);
        // The nearest ground is the one that this pixel is mixed with, and the nearest pixel that is none of it and does not touch it says with what.
        int ground = -1, pure = -1, nearestGround = int.MaxValue, nearestPure = int.MaxValue;
        int top = Math.Max(0, y - Near), bottom = Math.Min(_h - 1, y + Near), left = Math.Max(0, x - Near), right = Math.Min(_w - 1, x + Near);
        for (var v = top; v <= bottom; v++)
        {
            for (var u = left; u <= right; u++)
            {
                var j = v * _w + u;
                var d = (u - x) * (u - x) + (v - y) * (v - y);
                if (IsGround(j))
                {
                    if (d < nearestGround) (nearestGround, ground) = (d, j);
                }
                else if ((_state[j] & Touching) == 0 && d < nearestPure)
                {
                    (nearestPure, pure) = (d, j);
                }
            }
        }

        if (ground < 0) return (1, -1);
        var from = _from[(_state[ground] & ~Marks) - FirstGround];
        float most = pure < 0 ? 0 : from[Colour(pure)];
        // Of a thin line all pixels touch the ground; the one that differs most is the most of it.
        for (var v = top; v <= bottom && pure < 0; v++)
            for (var u = left; u <= right; u++) most = Math.Max(most, from[Colour(v * _w + u)]);
        var share = Math.Min(1, (most > 0 ? from[Colour(i)] / most : 0) * 2 - 1);
        return (outside ? Math.Min(share, -0.01f) : share == 0 ? 0.001f : share, ground);
    }
}
