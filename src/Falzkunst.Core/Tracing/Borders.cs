using Falzkunst.Core.Cards;

namespace Falzkunst.Core.Tracing;

/// <summary>A border line between two labels: <paramref name="Points"/> in px, with the lower-numbered label on one side and the other across. Closed when it
/// meets no third label.</summary>
public sealed record Border(int A, int B, Point[] Points, bool Closed);

/// <summary>A ring of borders around an area: each border with whether it runs forward.</summary>
public sealed record BorderRing(ImmutableArray<(int Border, bool Forward)> Parts);

/// <summary>
/// The borders of a picture whose pixels have labels, each traced once, so that neighbours share it exactly. A border runs along the cracks between
/// pixels and passes each crack at a place between the two pixels' middles that the caller knows (for two labels these are the points of marching
/// squares, Lorensen and Cline 1987). Where three labels meet there is a junction, where borders end. Outside the picture is label 0. One pass over
/// the pixels and one over the cracks.
/// </summary>
public sealed class Borders
{
    // Directions of a walk along cracks from corner to corner: right, down, left, up.
    private static readonly int[] StepX = [1, 0, -1, 0];
    private static readonly int[] StepY = [0, 1, 0, -1];

    private readonly byte[] _labels;
    private readonly int _w, _h;
    private readonly Func<int, int, double> _place;
    private readonly Dictionary<long, (int Border, bool Forward)> _start = [];
    private readonly List<Border> _all = [];
    private readonly List<(int X, int Y, int FirstStep, int EndX, int EndY, int LastStep)> _ends = [];

    private Borders(byte[] labels, int width, int height, Func<int, int, double> place) => (_labels, _w, _h, _place) = (labels, width, height, place);

    public IReadOnlyList<Border> All => _all;

    /// <param name="labels">One for each pixel; 0 is the paper.</param>
    /// <param name="place">For two neighbouring pixels (their indices), how far from the first's middle to the second's the border passes, 0 to 1.</param>
    public static Borders Trace(byte[] labels, int width, int height, Func<int, int, double> place, CancellationToken cancel = default)
    {
        var borders = new Borders(labels, width, height, place);
        borders.Walk(cancel);
        return borders;
    }

    /// <summary>
    /// The rings around everything whose label is in the set, with the inside on the right of the walk: outer rings clockwise on the screen, holes
    /// counter-clockwise.
    /// Areas that only touch at a corner are apart, unless they are joined there because the other two pixels differ.
    /// </summary>
    public List<BorderRing> RingsOf(Func<int, bool> inside)
    {
        var rings = new List<BorderRing>();
        var used = new HashSet<(int, bool)>();
        for (var b = 0; b < _all.Count; b++)
        {
            foreach (var forward in new[] { true, false })
            {
                var (right, left) = Sides(b, forward);
                if (!inside(right) || inside(left) || !used.Add((b, forward))) continue;
                var parts = ImmutableArray.CreateBuilder<(int, bool)>();
                parts.Add((b, forward));
                if (!_all[b].Closed)
                {
                    var at = (Border: b, Forward: forward);
                    while (true)
                    {
                        at = Next(at.Border, at.Forward, inside);
                        if (at == (b, forward)) break;
                        used.Add(at);
                        parts.Add(at);
                    }
                }

                rings.Add(new(parts.ToImmutable()));
            }
        }

        return rings;
    }

    /// <summary>A pixel inside the ring, beside its first crack.</summary>
    public (int X, int Y) PixelIn(BorderRing ring)
    {
        var (border, forward) = ring.Parts[0];
        var e = _ends[border];
        return Pixel(e.X, e.Y, e.FirstStep, forward);
    }

    // Borders are walked with A on the right when forward.
    private (int Right, int Left) Sides(int border, bool forward) => forward ? (_all[border].A, _all[border].B) : (_all[border].B, _all[border].A);

    private (int Border, bool Forward) Next(int border, bool forward, Func<int, bool> inside)
    {
        var e = _ends[border];
        var (x, y, came) = forward ? (e.EndX, e.EndY, e.LastStep) : (e.X, e.Y, (e.FirstStep + 2) % 4);
        // The sharpest right turn first, so that what only touches at a corner stays apart.
        foreach (var turn in new[] { 1, 0, 3 })
        {
            var d = (came + turn) % 4;
            if (!inside(Label(x, y, d, true)) || inside(Label(x, y, d, false))) continue;
            return _start[Key(x, y, d)];
        }

        throw new InvalidOperationException("A ring of borders is open.");
    }

    private static long Key(int x, int y, int d) => ((long)y << 32 | (uint)x) << 2 | (uint)d;

    /// <summary>The pixel on the right (or left) of the crack that leaves corner (x, y) in direction d.</summary>
    private static (int X, int Y) Pixel(int x, int y, int d, bool right) => (d, right) switch
    {
        (0, true) => (x, y),
        (0, false) => (x, y - 1),
        (1, true) => (x - 1, y),
        (1, false) => (x, y),
        (2, true) => (x - 1, y - 1),
        (2, false) => (x - 1, y),
        (_, true) => (x, y - 1),
        _ => (x - 1, y - 1),
    };

    private int Label(int x, int y, int d, bool right)
    {
        var (px, py) = Pixel(x, y, d, right);
        return px < 0 || py < 0 || px >= _w || py >= _h ? 0 : _labels[py * _w + px];
    }

    private bool IsCrack(int x, int y, int d)
    {
        var (tx, ty) = (x + StepX[d], y + StepY[d]);
        return tx >= 0 && ty >= 0 && tx <= _w && ty <= _h && Label(x, y, d, true) != Label(x, y, d, false);
    }

    /// <summary>Where the border passes the crack; cracks at the picture's edge are passed on the edge.</summary>
    private Point Cross(int x, int y, int d)
    {
        var (rx, ry) = Pixel(x, y, d, true);
        var (lx, ly) = Pixel(x, y, d, false);
        var t = rx < 0 || ry < 0 || rx >= _w || ry >= _h || lx < 0 || ly < 0 || lx >= _w || ly >= _h ? 0.5 : _place(ry * _w + rx, ly * _w + lx);
        return new(rx + 0.5 + (lx - rx) * t, ry + 0.5 + (ly - ry) * t);
    }

    private void Walk(CancellationToken cancel)
    {
        // Horizontal cracks are marked when they were walked; every closed border has one, and one between junctions begins at a junction.
        var doneH = new System.Collections.BitArray((_w + 1) * (_h + 1));
        var doneV = new System.Collections.BitArray((_w + 1) * (_h + 1));
        // A junction of three labels lies at an end of a horizontal crack.
        foreach (var (x, y) in HorizontalCracks())
        {
            for (var end = x; end <= x + 1; end++)
            {
                if (!IsJunction(end, y)) continue;
                for (var d = 0; d < 4; d++)
                    if (IsCrack(end, y, d) && !Done(end, y, d)) Follow(end, y, d, true);
            }
        }

        foreach (var (x, y) in HorizontalCracks())
            if (!doneH[y * (_w + 1) + x]) Follow(x, y, 0, false);

        bool Done(int x, int y, int d) => d switch
        {
            0 => doneH[y * (_w + 1) + x],
            1 => doneV[y * (_w + 1) + x],
            2 => doneH[y * (_w + 1) + x - 1],
            _ => doneV[(y - 1) * (_w + 1) + x],
        };

        void Mark(int x, int y, int d)
        {
            switch (d)
            {
                case 0: doneH[y * (_w + 1) + x] = true; break;
                case 1: doneV[y * (_w + 1) + x] = true; break;
                case 2: doneH[y * (_w + 1) + x - 1] = true; break;
                default: doneV[(y - 1) * (_w + 1) + x] = true; break;
            }
        }

        void Follow(int x, int y, int d, bool fromJunction)
        {
            if (_all.Count % 1024 == 0) cancel.ThrowIfCancellationRequested();
            var points = new List<Point>();
            var (startX, startY, startD) = (x, y, d);
            int a = Label(x, y, d, true), b = Label(x, y, d, false);
            while (true)
            {
                Mark(x, y, d);
                points.Add(Cross(x, y, d));
                (x, y) = (x + StepX[d], y + StepY[d]);
                if (fromJunction && IsJunction(x, y)) break;
                if (!fromJunction && (x, y) == (startX, startY) && Turn(x, y, d) == startD) break;
                d = Turn(x, y, d);
            }

            var index = _all.Count;
            if (fromJunction)
            {
                points.Insert(0, JunctionAt(startX, startY));
                points.Add(JunctionAt(x, y));
                _start[Key(startX, startY, startD)] = (index, true);
                _start[Key(x, y, (d + 2) % 4)] = (index, false);
            }

            _all.Add(new(a, b, [.. points], !fromJunction));
            _ends.Add((startX, startY, startD, x, y, d));
        }
    }

    /// <summary>The left ends of all cracks between a pixel and the one below it, row by row.</summary>
    private IEnumerable<(int X, int Y)> HorizontalCracks()
    {
        var outside = new byte[_w];
        for (var y = 0; y <= _h; y++)
        {
            for (var x = 0; (x += Alike(x, y)) < _w; x++) yield return (x, y);
        }

        int Alike(int x, int y)
        {
            var above = y > 0 ? _labels.AsSpan((y - 1) * _w, _w) : outside;
            var here = y < _h ? _labels.AsSpan(y * _w, _w) : outside;
            return above[x..].CommonPrefixLength(here[x..]);
        }
    }

    private bool IsJunction(int x, int y)
    {
        var count = 0;
        for (var d = 0; d < 4; d++)
            if (IsCrack(x, y, d)) count++;
        if (count < 3) return false;
        if (count == 3) return true;
        // Four cracks: a chequer of two labels is two borders that touch; any third label makes it a junction.
        return !(Label(x, y, 0, true) == Label(x, y, 2, true) && Label(x, y, 0, false) == Label(x, y, 2, false));
    }

    /// <summary>The way on from a corner that is no junction. At a chequer the higher label stays joined, thin strokes being what people draw.</summary>
    private int Turn(int x, int y, int came)
    {
        var right = (came + 1) % 4;
        var left = (came + 3) % 4;
        var isRight = IsCrack(x, y, right);
        var isLeft = IsCrack(x, y, left);
        if (isRight && isLeft) return Label(x - StepX[came], y - StepY[came], came, true) > Label(x - StepX[came], y - StepY[came], came, false) ? left : right;
        return isRight ? right : isLeft ? left : came;
    }

    /// <summary>The middle of where the borders that end at a junction last passed a crack.</summary>
    private Point JunctionAt(int x, int y)
    {
        var sum = new Point(0, 0);
        var count = 0;
        for (var d = 0; d < 4; d++)
        {
            if (!IsCrack(x, y, d)) continue;
            sum += Cross(x, y, d);
            count++;
        }

        return sum * (1.0 / count);
    }
}
