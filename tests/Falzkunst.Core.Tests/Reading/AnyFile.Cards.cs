using Falzkunst.Core.Cards;

namespace Falzkunst.Core.Tests.Reading;

/// <summary>The cards that people make: what is drawn, and what of it one is sure of.</summary>
internal sealed partial class AnyFileMaker
{
    /// <summary>A card base with one to three folds, perhaps a window, words, and shapes stacked on its front.</summary>
    private (double, double) Base(double x, double y)
    {
        var panels = Chance(0.7) ? 2 : 3 + r.Next(2);
        double pw = Between(55, 105), ph = Between(75, 150);
        var upright = Chance(0.7);
        var (w, h) = upright ? (pw * panels, ph) : (pw, ph);
        if (!upright) (w, h) = (pw, ph * panels / 2);
        var step = (upright ? w : h) / panels;
        var front = upright ? new Box(x + w - step, y, x + w, y + h) : new Box(x, y + h - step, x + w, y + h);
        var holes = new List<string>();
        if (Chance(0.35))
        {
            var c = front.Centre;
            double a = Math.Min(front.Width, front.Height);
            holes.Add(One<Func<string>>([() => Circle(c.X, c.Y - a * 0.12, a * 0.2), () => Rect(c.X - a * 0.22, c.Y - a * 0.3, a * 0.44, a * 0.36),
                // A heart that is painted white is as well a heart of white paper.
                () => _paintedHoles ? Circle(c.X, c.Y - a * 0.1, a * 0.15) : Heart(c.X, c.Y - a * 0.1, a * 0.4)])());
        }

        // A window that the first fold runs through leaves two halves of the fold.
        var through = panels == 2 && Chance(0.12);
        double gap = Between(8, 16);
        if (through)
        {
            holes.Clear();
            holes.Add(upright ? Circle(x + step, y + h * 0.45, gap) : Circle(x + w * 0.45, y + step, gap));
            _ways.Add("fold around a window");
        }

        var waved = Chance(0.15) && !_segments;
        if (!waved && Chance(0.15))
        {
            // Lace along one edge.
            var n = 8 + r.Next(20);
            for (var i = 0; i < n; i++)
            {
                // None lies in a fold.
                var at = x + 4 + (w - 8) * i / (n - 1);
                if (!upright || Math.Abs((at - x) / step - Math.Round((at - x) / step)) * step > 2.5)
                    holes.Add(Circle(at, y + h - 3, Math.Min(1.2, (w - 8) / n / 3)));
            }

            _ways.Add("lace");
        }

        var outer = Rect(x, y, w, h);
        if (!waved && Chance(0.15) && !_segments)
        {
            outer = Rounded(x, y, w, h, Between(3, 9));
            _ways.Add("round corners");
        }

        // Letters that are cut out of the first panel.
        if (holes.Count == 0 && !through && upright && Chance(0.1))
        {
            var s = Math.Min(step / 5, 18);
            for (var i = 0; i < 3; i++)
            {
                double lx = x + step * 0.15 + i * s * 1.1, ly = y + h * 0.3;
                holes.Add(i == 1 ? T(lx, ly, s) : L(lx, ly, s));
            }

            _ways.Add("letters cut out");
        }

        if (waved)
        {
            outer = Waved(x, y, w, h);
            _ways.Add("waved edge");
        }

        var piece = Piece("base", outer, holes);
        for (var i = 1; i < panels; i++)
        {
            Point a = upright ? new(x + i * step, y) : new(x, y + i * step), b = upright ? new(x + i * step, y + h) : new(x + w, y + i * step);
            if (!through)
            {
                Fold(piece, a, b);
                continue;
            }

            var along = (b - a) * (1 / a.DistanceTo(b));
            var middle = a + (b - a) * 0.45;
            Fold(piece, a, middle - along * gap);
            Fold(piece, middle + along * gap, b);
        }

        if (Chance(0.4)) Words(piece, front.Left + front.Width * 0.15, front.Bottom - front.Height * 0.2, front.Width * 0.7);
        else if (holes.Count == 0 && Chance(0.2)) Drawing(piece, front);
        else if (Chance(0.1)) Handwriting(piece, front.Left + front.Width * 0.15, front.Bottom - front.Height * 0.2, front.Width * 0.7);
        if (!through && _style is Style.Filled or Style.FilledAndStroked or Style.Mixed && Chance(0.6))
        {
            var n = 1 + r.Next(3);
            for (var i = 0; i < n; i++)
            {
                // Nor is a white one sure to be paper.
                do _paper = One(Papers);
                while (_paper == "#ffffff");
                Piece("ornament", One<Func<string>>([() => Circle(front.Left + front.Width * (0.25 + 0.25 * i), front.Top + front.Height * 0.55, 4 + i),
                    () => Star(front.Left + front.Width * (0.25 + 0.25 * i), front.Top + front.Height * 0.55, 6)])(), [], true);
            }

            _ways.Add("ornaments on it");
        }

        if (_naming is Naming.Layers && Chance(0.3)) FoilLine(piece, front);
        if (_style is Style.Stroked or Style.FilledAndStroked && holes.Count == 0 && Chance(0.1)) Slits(piece, front);
        return (w, h);
    }

    private (double, double) Tag(double x, double y)
    {
        double w = Between(25, 45), h = Between(45, 80), c = Between(4, 9);
        var piece = Piece("tag", $"M{N(x + c)} {N(y)}H{N(x + w - c)}L{N(x + w)} {N(y + c)}V{N(y + h)}H{N(x)}V{N(y + c)}Z", [Circle(x + w / 2, y + 6, 2.2)]);
        if (Chance(0.3)) Words(piece, x + w * 0.15, y + h * 0.6, w * 0.7);
        else if (_naming is Naming.Layers or Naming.InnerIds && Chance(0.4)) Perforation(piece, new(x, y + h * 0.8), new(x + w, y + h * 0.8));
        return (w, h);
    }

    private (double, double) Frame(double x, double y)
    {
        double w = Between(50, 90), h = Between(50, 90), t = Between(5, 12);
        Piece("frame", Rect(x, y, w, h), [Rect(x + t, y + t, w - 2 * t, h - 2 * t)]);
        return (w, h);
    }

    private (double, double) Shape(double x, double y)
    {
        var s = Between(20, 50);
        Piece("shape", Chance(0.5) ? Star(x + s / 2, y + s / 2, s / 2) : Heart(x + s / 2, y + s / 2, s), []);
        return (s, s);
    }

    /// <summary>A middle with four flaps; its folds meet in the corners.</summary>
    private (double, double) Envelope(double x, double y)
    {
        _ways.Add("envelope");
        double w = Between(90, 130), h = Between(60, 90), side = Between(15, 22), top = Between(35, 50), foot = Between(30, 45);
        double l = x + side, rt = l + w, t = y + top, b = t + h;
        var piece = Piece("envelope", $"M{N(l)} {N(t)}L{N(l + w * 0.5)} {N(y)}L{N(rt)} {N(t)}L{N(rt + side)} {N(t + 8)}V{N(b - 8)}L{N(rt)} {N(b)}"
            + $"L{N(rt - 10)} {N(b + foot)}H{N(l + 10)}L{N(l)} {N(b)}L{N(x)} {N(b - 8)}V{N(t + 8)}Z", []);
        Fold(piece, new(l, t), new(rt, t));
        Fold(piece, new(rt, t), new(rt, b));
        Fold(piece, new(l, b), new(rt, b));
        Fold(piece, new(l, t), new(l, b));
        return (w + 2 * side, top + h + foot);
    }

    /// <summary>Four walls and a strip to glue; two lids hang on the second wall, so that folds lie in line with the walls beside them.</summary>
    private (double, double) BoxNet(double x, double y)
    {
        _ways.Add("box net");
        double a = Between(22, 35), c = Between(22, 35), h = Between(40, 70), glue = Between(8, 12), lid = c;
        double top = y + lid, foot = top + h;
        var xs = new[] { x, x + a, x + a + c, x + 2 * a + c, x + 2 * a + 2 * c };
        var end = xs[4] + glue;
        var piece = Piece("box", $"M{N(xs[0])} {N(top)}H{N(xs[1])}V{N(y)}H{N(xs[2])}V{N(top)}H{N(xs[4])}L{N(end)} {N(top + 4)}V{N(foot - 4)}"
            + $"L{N(xs[4])} {N(foot)}" + $"H{N(xs[2])}V{N(foot + lid)}H{N(xs[1])}V{N(foot)}H{N(xs[0])}Z", []);
        for (var i = 1; i < 5; i++) Fold(piece, new(xs[i], top), new(xs[i], foot));
        Fold(piece, new(xs[1], top), new(xs[2], top));
        Fold(piece, new(xs[1], foot), new(xs[2], foot));
        return (end - x, h + 2 * lid);
    }

    /// <summary>A card with a step that pops up: two slits across the fold, joined by folds above and below in the look of the main fold.</summary>
    private (double, double) PopUp(double x, double y)
    {
        _ways.Add("pop-up");
        _foldsOwnLook = true;
        double w = Between(80, 120), h = Between(110, 160), s = Between(18, 30), d = Between(14, 26);
        var piece = Piece("pop-up", Rect(x, y, w, h), []);
        double m = y + h / 2, l = x + w / 2 - s / 2, rt = l + s;
        var look = CutLook;
        Emit(_cut, $"M{N(l)} {N(m - d)}V{N(m + d)}", look);
        Emit(_cut, $"M{N(rt)} {N(m - d)}V{N(m + d)}", look);
        _lines.Add(new(Operation.Cut, piece, OnPage(new(l - 0.5, m - d - 0.5, l + 0.5, m + d + 0.5))));
        _lines.Add(new(Operation.Cut, piece, OnPage(new(rt - 0.5, m - d - 0.5, rt + 0.5, m + d + 0.5))));
        Fold(piece, new(x, m), new(l, m));
        Fold(piece, new(rt, m), new(x + w, m));
        Fold(piece, new(l, m - d), new(rt, m - d));
        Fold(piece, new(l, m + d), new(rt, m + d));
        return (w, h);
    }

    /// <summary>A mat with many round or square holes.</summary>
    private (double, double) Mat(double x, double y)
    {
        _ways.Add("mat");
        int columns = 3 + r.Next(6), rows = 3 + r.Next(6);
        double p = Between(7, 12), s = p * Between(0.2, 0.38), w = p * (columns + 1), h = p * (rows + 1);
        var round = Chance(0.6);
        var holes = from i in Enumerable.Range(1, columns)
                    from j in Enumerable.Range(1, rows)
                    select round ? Circle(x + i * p, y + j * p, s) : Rect(x + i * p - s, y + j * p - s, 2 * s, 2 * s);
        Piece("mat", Rect(x, y, w, h), [.. holes]);
        return (w, h);
    }

    /// <summary>A word in thick letters, each a piece; an O has a counter.</summary>
    private (double, double) Letters(double x, double y)
    {
        _ways.Add("letters");
        double s = Between(14, 26), at = x;
        var n = 3 + r.Next(4);
        for (var i = 0; i < n; i++, at += s * 0.95)
        {
            switch (r.Next(4))
            {
                case 0:
                    Piece("L", L(at, y, s), []);
                    break;
                case 1:
                    Piece("O", Circle(at + s * 0.42, y + s * 0.5, s * 0.42), [Circle(at + s * 0.42, y + s * 0.5, s * 0.2)]);
                    break;
                case 2:
                    Piece("T", T(at, y, s), []);
                    break;
                default:
                    Piece("D", $"M{N(at)} {N(y)}H{N(at + s * 0.3)}C{N(at + s)} {N(y)} {N(at + s)} {N(y + s)} {N(at + s * 0.3)} {N(y + s)}H{N(at)}Z",
                        [Rect(at + s * 0.22, y + s * 0.25, s * 0.25, s * 0.5)]);
                    break;
            }
        }

        return (at - x, s);
    }

    private static string L(double x, double y, double s) => $"M{N(x)} {N(y)}H{N(x + s * 0.25)}V{N(y + s * 0.75)}H{N(x + s * 0.7)}V{N(y + s)}H{N(x)}Z";

    private static string T(double x, double y, double s) => $"M{N(x)} {N(y)}H{N(x + s * 0.8)}V{N(y + s * 0.25)}H{N(x + s * 0.53)}V{N(y + s)}H{N(x + s * 0.27)}"
        + $"V{N(y + s * 0.25)}H{N(x)}Z";

    /// <summary>Two or three equal bases whose common fold is drawn as one line or one row over all of them.</summary>
    private (double, double) RowOfBases(double x, double y)
    {
        _ways.Add("fold over several pieces");
        _paper = One(Papers);
        double w = Between(50, 80), h = Between(90, 140), between = Between(2, 10);
        var n = 2 + r.Next(2);
        var (from, to) = (new Point(x, y + h / 2), new Point(x + n * w + (n - 1) * between, y + h / 2));
        if (_fold is not (FoldKind.Strokes or FoldKind.PathOfStrokes)) _fold = One([FoldKind.Edge, FoldKind.Strokes, FoldKind.Dashed, FoldKind.PathOfStrokes]);
        for (var i = 0; i < n; i++)
        {
            var left = x + i * (w + between);
            var piece = Piece("base", Rect(left, y, w, h), []);
            _lines.Add(new(Operation.Score, piece, new(left, y + h / 2, left + w, y + h / 2), (new(left, y + h / 2), new(left + w, y + h / 2))));
        }

        DrawFold(from, to);
        return (to.X + Between(6, 15), y + h + Between(8, 20));
    }

    /// <summary>Panels that share their edges, each drawn as a closed rectangle: one base with folds, or several pieces? Nobody knows.</summary>
    private (double, double) Panels(double x, double y)
    {
        _ways.Add("panels that share an edge");
        _asks = "panel";
        double w = Between(50, 90), h = Between(70, 130);
        var n = 2 + r.Next(2);
        for (var i = 0; i < n; i++) Piece("panel", Rect(x + i * w, y, w, h), []);
        return (x + n * w + Between(6, 15), y + h + Between(8, 20));
    }

    /// <summary>The plies of a card, one in each layer, each drawn where it lies: their outer edges are the same line.</summary>
    private (double, double) StackInLayers(double x, double y)
    {
        _ways.Add("stack in layers");
        double w = Between(70, 110), h = Between(90, 130);
        var n = 2 + r.Next(3);
        for (var i = 0; i < n; i++)
        {
            _cut.Append($"<g id='{One(["ply", "Layer", "Lage"])} {i + 1}'>");
            Piece("ply", Rect(x, y, w, h), i == 0 ? [] : [Rect(x + 8 + 5 * i, y + 8 + 5 * i, w - 16 - 10 * i, h - 16 - 10 * i)]);
            _cut.Append("</g>");
        }

        return (x + w + Between(6, 15), y + h + Between(8, 20));
    }

    /// <summary>Single-line letters along a line; an o among them closes.</summary>
    private void Words(int piece, double x, double y, double width)
    {
        var size = Math.Min(width / 6, 9);
        var look = $"fill:none;stroke:{One(["#000", "#6b3fa0", "#333"])};stroke-width:.25";
        var paths = new List<string>();
        // Narrow or wide, as letters are set.
        var pitch = size * Between(0.5, 0.85);
        var n = Math.Max(4, (int)(width / pitch) - 1);
        for (var i = 0; i < n; i++) paths.Add(Letter(r.Next(8), x + i * pitch, y, size * 0.7));
        if (Chance(0.4)) Emit(_draw, string.Concat(paths), look);
        else foreach (var p in paths) Emit(_draw, p, look);
        _lines.Add(new(Operation.Draw, piece, OnPage(new(x - 1, y - size - 1, x + n * pitch + size, y + size * 0.4))));
        _ways.Add("words");
    }

    /// <summary>A sprig: a stem with leaves, some of which close.</summary>
    private void Drawing(int piece, Box front)
    {
        // In a colour of its own, or as everything else, and still no one would cut it.
        var look = Chance(0.4) ? CutLook : $"fill:none;stroke:{One(["#6b3fa0", "#2f7d46", "#c0392b"])};stroke-width:.3";
        double x = front.Centre.X, h = Math.Min(front.Height * 0.5, 40), y = front.Centre.Y + h / 2;
        Emit(_draw, $"M{N(x)} {N(y)}C{N(x - 3)} {N(y - h * 0.3)} {N(x + 3)} {N(y - h * 0.6)} {N(x)} {N(y - h)}", look);
        var n = 3 + r.Next(4);
        for (var i = 0; i < n; i++)
        {
            // On the stem, which is a cubic.
            double t = (i + 1.0) / (n + 1), u = 1 - t, s = (i % 2 == 0 ? 1 : -1) * Between(5, 9);
            double on = x - 9 * u * u * t + 9 * u * t * t, at = y - h * (0.9 * u * u * t + 1.8 * u * t * t + t * t * t);
            Emit(_draw, $"M{N(on)} {N(at)}C{N(on + s * 0.3)} {N(at - 4)} {N(on + s)} {N(at - 4)} {N(on + s)} {N(at - 5)}"
                + $"C{N(on + s)} {N(at)} {N(on + s * 0.5)} {N(at + 1)} {N(on)} {N(at)}" + (Chance(0.5) ? "Z" : ""), look);
        }

        _lines.Add(new(Operation.Draw, piece, OnPage(new(x - 12, y - h - 6, x + 12, y + 3))));
        _ways.Add("drawing");
    }

    /// <summary>A word in one long stroke with loops.</summary>
    private void Handwriting(int piece, double x, double y, double width)
    {
        var s = Math.Min(width / 8, 6);
        var d = $"M{N(x)} {N(y)}";
        var n = (int)(width / s) - 1;
        for (var i = 0; i < n; i++)
            d += $"c{N(s * 0.6)} 0 {N(s * 1.1)} {N(-s * Between(0.9, 1.8))} {N(s * 0.5)} {N(-s * 0.9)}"
                + $"c{N(-s * 0.5)} 0 {N(-s * 0.3)} {N(s * 0.9)} {N(s * 0.5)} {N(s * 0.9)}";
        Emit(_draw, d, $"fill:none;stroke:{One(["#000", "#6b3fa0", "#333"])};stroke-width:.25");
        _lines.Add(new(Operation.Draw, piece, OnPage(new(x - 3, y - 3 * s, x + width + s, y + s))));
        _ways.Add("handwriting");
    }

    /// <summary>Slits for a ribbon, side by side.</summary>
    private void Slits(int piece, Box front)
    {
        var n = 2 + r.Next(5);
        double y = front.Top + front.Height * 0.12, h = Between(5, 9), apart = Between(4, 8);
        for (var i = 0; i < n; i++)
        {
            var at = front.Left + front.Width * 0.2 + i * apart;
            Emit(_cut, $"M{N(at)} {N(y)}V{N(y + h)}", CutLook);
            _lines.Add(new(Operation.Cut, piece, OnPage(new(at - 0.3, y - 0.3, at + 0.3, y + h + 0.3))));
        }

        _ways.Add("slits");
    }

    private void FoilLine(int piece, Box front)
    {
        double y = front.Top + 6, a = front.Left + 8, b = front.Right - 8;
        Emit(_foil, $"M{N(a)} {N(y)}C{N(a + 8)} {N(y - 4)} {N(b - 8)} {N(y + 4)} {N(b)} {N(y)}", "fill:none;stroke:#b4623a;stroke-width:.4");
        _lines.Add(new(Operation.Foil, piece, OnPage(new(a - 1, y - 3, b + 1, y + 3))));
        _ways.Add("foil");
    }

    private static string Letter(int which, double x, double y, double s) => which switch
    {
        0 => $"M{N(x)} {N(y - s)}V{N(y)}",
        1 => $"M{N(x)} {N(y - s * 0.6)}L{N(x + s * 0.3)} {N(y)}L{N(x + s * 0.6)} {N(y - s * 0.6)}",
        2 => Circle(x + s * 0.3, y - s * 0.3, s * 0.3),
        3 => $"M{N(x)} {N(y)}V{N(y - s * 0.6)}C{N(x)} {N(y - s * 0.75)} {N(x + s * 0.5)} {N(y - s * 0.75)} {N(x + s * 0.5)} {N(y - s * 0.5)}V{N(y)}",
        4 => $"M{N(x)} {N(y - s * 0.3)}H{N(x + s * 0.5)}C{N(x + s * 0.5)} {N(y - s * 0.7)} {N(x)} {N(y - s * 0.7)} {N(x)} {N(y - s * 0.3)}"
            + $"C{N(x)} {N(y + s * 0.05)} {N(x + s * 0.4)} {N(y + s * 0.05)} {N(x + s * 0.5)} {N(y - s * 0.1)}",
        5 => $"M{N(x + s * 0.2)} {N(y - s)}V{N(y - s * 0.1)}C{N(x + s * 0.2)} {N(y)} {N(x + s * 0.4)} {N(y)} {N(x + s * 0.45)} {N(y - s * 0.1)}"
            + $"M{N(x)} {N(y - s * 0.6)}H{N(x + s * 0.4)}",
        6 => $"M{N(x)} {N(y - s * 0.6)}V{N(y - s * 0.2)}C{N(x)} {N(y + s * 0.05)} {N(x + s * 0.5)} {N(y + s * 0.05)} {N(x + s * 0.5)} {N(y - s * 0.2)}"
            + $"V{N(y - s * 0.6)}",
        _ => $"M{N(x)} {N(y - s)}V{N(y)}M{N(x)} {N(y - s * 0.3)}L{N(x + s * 0.4)} {N(y - s * 0.6)}M{N(x + s * 0.15)} {N(y - s * 0.42)}"
            + $"L{N(x + s * 0.45)} {N(y)}",
    };
}
