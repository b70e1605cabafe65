using System.Globalization;
using System.Text;
using Falzkunst.Core.Cards;

namespace Falzkunst.Core.Tests.Reading;

/// <summary>A piece that a careful person is sure of: its outer edge and its holes, in mm on the page.</summary>
public sealed record TruePiece(string Name, VectorPath Outer, List<VectorPath> Holes);

/// <summary>A line, or the strokes of a word, that a careful person is sure of: what is done, and on which piece. A fold has ends.</summary>
public sealed record TrueLine(Operation Operation, int Piece, Box Within, (Point A, Point B)? Fold = null);

/// <summary>
/// A file as somebody might hand it over, made from a card model, with what a careful person would be sure of. The model says what the card is; the ways of
/// handing over (fills, colours, layers, kinds of folds and holes, transforms, doubles, gaps, pages) say how it is drawn, and are drawn from the seed
/// one by one, so that every combination comes.
/// </summary>
public sealed record AnyFile(string Svg, string Ways, List<TruePiece> Pieces, List<TrueLine> Lines)
{
    public static AnyFile Make(int seed) => new Maker(new(seed)).Run();

    private enum Style { Stroked, Filled, FilledAndStroked, Mixed }

    private enum FoldKind { Edge, Short, Dashed, Strokes, ThinRectangle, ManyNodes, Over, ClosedTwoPoints, PathOfStrokes, DashedByCss }

    private enum Naming { None, Layers, RunTogether, InnerIds, Misleading }

    private sealed class Maker(Random r)
    {
        private static readonly string[] Scores = ["score", "Falz", "pli", "pliegue", "vouw", "fold lines", "Falzlinien", "Rillen", "plis"],
            Draws = ["pen", "Schreiben", "stylo", "words", "pluma", "schrijven", "draw", "Zeichnen", "dessin"],
            Cuts = ["cut", "Schneiden", "couper", "cortar", "snijden", "cut lines", "coupe"], Foils = ["foil", "Folie", "dorure", "folie", "Heissfolie"],
            Papers = ["#f4ead2", "#5f7c95", "#2f5d46", "#e9e6dd", "#c96b4b", "#f2f2f2", "#334455", "#ffffff"];

        private readonly StringBuilder _cut = new(), _score = new(), _draw = new(), _foil = new(), _css = new();
        private readonly List<TruePiece> _pieces = [];
        private readonly List<TrueLine> _lines = [];
        private readonly List<string> _ways = [];
        private Style _style;
        private FoldKind _fold;
        private Naming _naming;
        private bool _foldsOwnLook, _separateHoles, _classes, _segments;
        private double _width, _height;
        private int _classNumber;

        private bool Chance(double p) => r.NextDouble() < p;

        private double Between(double a, double b) => Math.Round(a + r.NextDouble() * (b - a), 2);

        private T One<T>(IReadOnlyList<T> of) => of[r.Next(of.Count)];

        public AnyFile Run()
        {
            _style = One(Enum.GetValues<Style>());
            _fold = One(Enum.GetValues<FoldKind>());
            _naming = Chance(0.5) ? Naming.None : One(Enum.GetValues<Naming>());
            // Without a look of their own, or a name, only their place tells folds.
            _foldsOwnLook = _fold is FoldKind.ClosedTwoPoints || Chance(0.5);
            (_separateHoles, _classes) = (Chance(0.5), Chance(0.3));
            _segments = _style == Style.Stroked && Chance(0.12);
            _ways.AddRange([_style.ToString(), _fold.ToString(), _naming.ToString(), _foldsOwnLook ? "folds of their own look" : "folds look like cuts",
                _separateHoles ? "separate holes" : "compound holes"]);
            if (_segments) _ways.Add("outlines in segments");
            double x = Between(8, 20), y = Between(8, 20);
            var count = 1 + r.Next(3);
            for (var i = 0; i < count; i++)
            {
                var (w, h) = r.Next(6) switch
                {
                    0 or 1 or 2 => Base(x, y, i),
                    3 => Tag(x, y),
                    4 => Frame(x, y),
                    _ => Shape(x, y),
                };
                x += w + Between(6, 15);
                _height = Math.Max(_height, y + h + Between(8, 20));
            }

            _width = x;
            return new(Svg(), string.Join(", ", _ways), _pieces, _lines);
        }

        /// <summary>A card base with one to three folds, perhaps a window, words, and shapes stacked on its front.</summary>
        private (double, double) Base(double x, double y, int index)
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
                    () => Heart(c.X, c.Y - a * 0.1, a * 0.4)])());
            }

            if (Chance(0.15))
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

            var piece = Piece("base", Rect(x, y, w, h), holes, One(Papers));
            for (var i = 1; i < panels; i++)
                if (upright) Fold(piece, new(x + i * step, y), new(x + i * step, y + h));
                else Fold(piece, new(x, y + i * step), new(x + w, y + i * step));
            if (Chance(0.4)) Words(piece, front.Left + front.Width * 0.15, front.Bottom - front.Height * 0.2, front.Width * 0.7);
            if (_style is Style.Filled or Style.FilledAndStroked or Style.Mixed && Chance(0.6))
            {
                var n = 1 + r.Next(3);
                for (var i = 0; i < n; i++)
                    Piece("ornament", One<Func<string>>([() => Circle(front.Left + front.Width * (0.25 + 0.25 * i), front.Top + front.Height * 0.55, 4 + i),
                        () => Star(front.Left + front.Width * (0.25 + 0.25 * i), front.Top + front.Height * 0.55, 6)])(), [], One(Papers), true);
                _ways.Add("ornaments on it");
            }

            if (_naming is Naming.Layers && Chance(0.3)) FoilLine(piece, front);
            return (w, h);
        }

        private (double, double) Tag(double x, double y)
        {
            double w = Between(25, 45), h = Between(45, 80), c = Between(4, 9);
            Piece("tag", $"M{N(x + c)} {N(y)}H{N(x + w - c)}L{N(x + w)} {N(y + c)}V{N(y + h)}H{N(x)}V{N(y + c)}Z", [Circle(x + w / 2, y + 6, 2.2)],
                One(Papers));
            if (Chance(0.3)) Words(_pieces.Count - 1, x + w * 0.15, y + h * 0.6, w * 0.7);
            return (w, h);
        }

        private (double, double) Frame(double x, double y)
        {
            double w = Between(50, 90), h = Between(50, 90), t = Between(5, 12);
            Piece("frame", Rect(x, y, w, h), [Rect(x + t, y + t, w - 2 * t, h - 2 * t)], One(Papers));
            return (w, h);
        }

        private (double, double) Shape(double x, double y)
        {
            var s = Between(20, 50);
            Piece("shape", Chance(0.5) ? Star(x + s / 2, y + s / 2, s / 2) : Heart(x + s / 2, y + s / 2, s), [], One(Papers));
            return (s, s);
        }

        private int Piece(string name, string outer, List<string> holes, string paper, bool isOrnament = false)
        {
            var filled = _style is Style.Filled or Style.FilledAndStroked || (_style == Style.Mixed && isOrnament);
            var stroked = _style is Style.Stroked or Style.FilledAndStroked || (_style == Style.Mixed && !isOrnament);
            var look = (filled ? $"fill:{paper}" : "fill:none") + (stroked ? ";stroke:#000;stroke-width:.3" : "");
            _pieces.Add(new(name, PathText.Read(outer), [.. holes.Select(PathText.Read)]));
            if (_segments && !filled)
            {
                foreach (var line in Sides(outer)) _cut.Append(Element(line, look));
                foreach (var hole in holes) _cut.Append(Element(hole, look));
            }
            else if (filled || !_separateHoles)
            {
                _cut.Append(Element(outer + string.Concat(holes), look + ";fill-rule:evenodd"));
            }
            else
            {
                foreach (var ring in holes.Prepend(outer)) _cut.Append(Element(ring, look));
            }

            return _pieces.Count - 1;
        }

        /// <summary>The sides of a polygon as open paths, whose ends meet within a hundredth or two.</summary>
        private IEnumerable<string> Sides(string outer)
        {
            var ring = PathText.Read(outer).Subpaths[0];
            if (ring.Segments.Length > 8) return [outer];
            var points = ring.Flatten(0.01);
            return points.Select((p, i) => (p, q: points[(i + 1) % points.Count]))
                .Select(s => $"M{N(s.p.X + Between(-0.02, 0.02))} {N(s.p.Y)}L{N(s.q.X)} {N(s.q.Y + Between(-0.02, 0.02))}").ToList();
        }

        private void Fold(int piece, Point a, Point b)
        {
            _lines.Add(new(Operation.Score, piece, new(Math.Min(a.X, b.X), Math.Min(a.Y, b.Y), Math.Max(a.X, b.X), Math.Max(a.Y, b.Y)), (a, b)));
            var along = (b - a) * (1 / a.DistanceTo(b));
            var inset = _fold switch { FoldKind.Short => Between(0.5, 2.8), FoldKind.Over => Between(-0.4, -0.05), _ => 0 };
            var (from, to) = (a + along * inset, b - along * inset);
            var look = $"fill:none;stroke:{(_foldsOwnLook ? "#1c6dd0" : "#000")};stroke-width:.3";
            var length = from.DistanceTo(to);
            Point At(double t) => from + along * (length * t);
            string Line(Point p, Point q) => $"M{N(p.X)} {N(p.Y)}L{N(q.X)} {N(q.Y)}";
            var n = Math.Max(6, (int)(length / Between(3, 6)));
            IEnumerable<string> strokes() => Enumerable.Range(0, n).Select(i => Line(At((i + 0.2) / n), At((i + 0.75) / n)));
            _score.Append(_fold switch
            {
                FoldKind.Dashed => Element(Line(from, to), look + ";stroke-dasharray:3 2"),
                FoldKind.DashedByCss => Element(Line(from, to), look + ";stroke-dasharray:1.5,1.5"),
                FoldKind.Strokes => string.Concat(strokes().Select(s => Element(s, look))),
                FoldKind.PathOfStrokes => Element(string.Concat(strokes()), look),
                FoldKind.ThinRectangle => Element(Thin(from, to, along), _style is Style.Stroked or Style.Mixed ? look : "fill:#1c6dd0"),
                FoldKind.ManyNodes => Element("M" + string.Join("L", Enumerable.Range(0, 9).Select(i => $"{N(At(i / 8.0).X)} {N(At(i / 8.0).Y)}")), look),
                FoldKind.ClosedTwoPoints => Element(Line(from, to) + "Z", look),
                _ => Element(Line(from, to), look),
            });
        }

        private static string Thin(Point a, Point b, Point along)
        {
            var side = new Point(-along.Y, along.X) * 0.2;
            return $"M{N(a.X + side.X)} {N(a.Y + side.Y)}L{N(b.X + side.X)} {N(b.Y + side.Y)}L{N(b.X - side.X)} {N(b.Y - side.Y)}L{N(a.X - side.X)} "
                + $"{N(a.Y - side.Y)}Z";
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
            if (Chance(0.4)) _draw.Append(Element(string.Concat(paths), look));
            else foreach (var p in paths) _draw.Append(Element(p, look));
            _lines.Add(new(Operation.Draw, piece, new(x - 1, y - size - 1, x + n * pitch + size, y + size * 0.4)));
            _ways.Add("words");
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

        private void FoilLine(int piece, Box front)
        {
            double y = front.Top + 6, a = front.Left + 8, b = front.Right - 8;
            _foil.Append(Element($"M{N(a)} {N(y)}C{N(a + 8)} {N(y - 4)} {N(b - 8)} {N(y + 4)} {N(b)} {N(y)}", "fill:none;stroke:#b4623a;stroke-width:.4"));
            _lines.Add(new(Operation.Foil, piece, new(a - 1, y - 3, b + 1, y + 3)));
            _ways.Add("foil");
        }

        private string Svg()
        {
            var body = new StringBuilder();
            // Where the first thing has a fold, nobody takes the page for paper.
            var page = _lines.Count == 0 || _lines[0].Fold is null ? "" : Chance(0.1) ? "white" : Chance(0.1) ? "frame" : "";
            if (page == "white") body.Append(Element(Rect(0, 0, _width, _height), "fill:#ffffff"));
            if (page == "frame") body.Append(Element(Rect(0, 0, _width, _height), "fill:none;stroke:#bbb;stroke-width:.2"));
            if (page.Length > 0) _ways.Add("page " + page);
            body.Append(Layer(_cut, Cuts, "cutLines")).Append(Layer(_score, Scores, "foldLines")).Append(Layer(_draw, Draws, "penWriting"))
                .Append(Layer(_foil, Foils, "hotFoil"));
            var inside = body.ToString();
            if (_naming == Naming.Misleading) inside = $"<g id='{One(["tri-fold card", "mountain cabin", "foldable", "scorecard"])}'>{inside}</g>";
            var style = _css.Length > 0 ? $"<style>{_css}</style>" : "";
            var px = Chance(0.3);
            if (px) _ways.Add("in pixels");
            if (Chance(0.3))
            {
                inside = $"<g transform='translate(10 20)'><g transform='matrix(2 0 0 2 0 0)'><g transform='scale(.5) translate(-10 -20)'>{inside}</g>"
                    + "</g></g>";
                _ways.Add("nested transforms");
            }

            const double perMm = 96 / 25.4;
            const string head = "<svg xmlns='http://www.w3.org/2000/svg'";
            return px
                ? $"{head} viewBox='0 0 {N(_width * perMm)} {N(_height * perMm)}'>{style}<g transform='scale({perMm:R})'>{inside}</g></svg>"
                : $"{head} width='{N(_width)}mm' height='{N(_height)}mm' viewBox='0 0 {N(_width)} {N(_height)}'>{style}{inside}</svg>";
        }

        private string Layer(StringBuilder what, string[] names, string together) => what.Length == 0 ? "" : _naming switch
        {
            Naming.Layers => $"<g id='{One(names)}'>{what}</g>",
            Naming.RunTogether => $"<g id='{together}'>{what}</g>",
            Naming.InnerIds => $"<g id='Layer_1'><g id='{One(names)}'>{what}</g></g>",
            _ => what.ToString(),
        };

        private string Element(string d, string look)
        {
            if (_classes)
            {
                _css.Append(CultureInfo.InvariantCulture, $".s{++_classNumber}{{{look}}}");
                return $"<path class='s{_classNumber}' d='{d}'/>";
            }

            return Chance(0.5) ? $"<path style='{look}' d='{d}'/>"
                : $"<path {string.Join(' ', look.Split(';').Select(p => p.Split(':')).Select(p => $"{p[0]}='{p[1]}'"))} d='{d}'/>";
        }

        private static string N(double v) => Math.Round(v, 4).ToString(CultureInfo.InvariantCulture);

        private static string Rect(double x, double y, double w, double h) => $"M{N(x)} {N(y)}H{N(x + w)}V{N(y + h)}H{N(x)}Z";

        private static string Circle(double x, double y, double r) =>
            $"M{N(x - r)} {N(y)}A{N(r)} {N(r)} 0 1 1 {N(x + r)} {N(y)}A{N(r)} {N(r)} 0 1 1 {N(x - r)} {N(y)}Z";

        private static string Heart(double x, double y, double s) =>
            $"M{N(x)} {N(y + s * 0.45)}C{N(x - s)} {N(y - s * 0.2)} {N(x - s * 0.3)} {N(y - s * 0.6)} {N(x)} {N(y - s * 0.2)}"
                + $"C{N(x + s * 0.3)} {N(y - s * 0.6)} {N(x + s)} {N(y - s * 0.2)} {N(x)} {N(y + s * 0.45)}Z";

        private static string Star(double x, double y, double s) => "M" + string.Join("L", Enumerable.Range(0, 10).Select(i =>
        {
            var (a, d) = (i * Math.PI / 5, i % 2 == 0 ? s : s * 0.45);
            return $"{N(x + d * Math.Sin(a))} {N(y - d * Math.Cos(a))}";
        })) + "Z";
    }
}
