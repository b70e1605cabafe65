using System.Globalization;
using System.Text;
using Falzkunst.Core.Cards;

namespace Falzkunst.Core.Tests.Reading;

/// <summary>The ways in which people draw what they mean.</summary>
internal sealed partial class AnyFileMaker
{
    private const string FoldColour = "#1c6dd0";

    private static readonly string[] Scores = ["score", "Falz", "pli", "pliegue", "vouw", "fold lines", "Falzlinien", "Rillen", "plis"],
        Draws = ["pen", "Schreiben", "stylo", "words", "pluma", "schrijven", "draw", "Zeichnen", "dessin"],
        Cuts = ["cut", "Schneiden", "couper", "cortar", "snijden", "cut lines", "coupe"], Foils = ["foil", "Folie", "dorure", "folie", "Heissfolie"],
        Perforations = ["perforation", "perf", "Perforieren", "perforaties"],
        Papers = ["#f4ead2", "#5f7c95", "#2f5d46", "#e9e6dd", "#c96b4b", "#f2f2f2", "#334455", "#ffffff"];

    private static string CutLook => "fill:none;stroke:#000;stroke-width:.3";

    private int Piece(string name, string outer, List<string> holes, bool isOrnament = false)
    {
        if (_paper.Length == 0) _paper = One(Papers);
        // A hole is painted in the page's white, which must then be no paper.
        // Of a large one nobody would be sure.
        var painted = _paintedHoles && holes.Count > 0 && !isOrnament && !_ways.Contains("letters cut out") && holes.TrueForAll(h => PathText.Read(h)
            .Bounds.Area < 0.03 * PathText.Read(outer)
            .Bounds.Area);
        var paper = _paintedHoles && _paper == "#ffffff" ? "#5f7c95" : _paper;
        var filled = _style is Style.Filled or Style.FilledAndStroked || (_style == Style.Mixed && isOrnament);
        var stroked = _style is Style.Stroked or Style.FilledAndStroked || (_style == Style.Mixed && !isOrnament);
        var look = (filled ? $"fill:{paper}" : "fill:none") + (stroked ? ";stroke:#000;stroke-width:.3" : "");
        _pieces.Add(new(name, PathText.Read(outer).Transform(_map), [.. holes.Select(h => PathText.Read(h).Transform(_map))]));
        if (_segments && !filled)
        {
            foreach (var line in Sides(outer)) Emit(_cut, line, look);
            foreach (var hole in holes) Emit(_cut, hole, look);
        }
        else if (painted)
        {
            Emit(_cut, outer, look);
            foreach (var hole in holes) Emit(_cut, hole, "fill:#ffffff");
        }
        else if (filled || !_separateHoles)
        {
            Emit(_cut, outer + string.Concat(holes), look + ";fill-rule:evenodd");
        }
        else
        {
            foreach (var ring in holes.Prepend(outer)) Emit(_cut, _gaps ? WithGap(ring) : ring, look);
        }

        if (_doubles && !filled && !_segments && Chance(0.5)) Emit(_cut, Shifted(outer), look);
        return _pieces.Count - 1;
    }

    /// <summary>The same line once more, or a hair beside itself.</summary>
    private string Shifted(string d) => Chance(0.5) ? d : PathText.Read(d).Transform(Affine.Move(One([0.05, 0.03]), One([0, -0.03]))).ToSvg();

    /// <summary>Its end does not quite come back to its start, and nobody closed it.</summary>
    private string WithGap(string d)
    {
        var path = PathText.Read(d).Subpaths[0];
        var last = path.Segments[^1];
        var by = Chance(0.3) ? new Point(0.3, 0.2) : new Point(0.05, 0.04);
        var end = path.Start + by;
        var segments = path.End.DistanceTo(path.Start) < 1e-6
            ? path.Segments.SetItem(path.Segments.Length - 1, last.IsCurve ? Segment.Cubic(last.C1, last.C2, end) : Segment.Line(end))
            : path.Segments.Add(Segment.Line(end));
        return new VectorPath([path with { Segments = segments, Closed = false }]).ToSvg();
    }

    /// <summary>The sides of a polygon as open paths, whose ends meet within a hundredth or two, or run on past each other.</summary>
    private IEnumerable<string> Sides(string outer)
    {
        var ring = PathText.Read(outer).Subpaths[0];
        if (ring.Segments.Length > 8) return [outer];
        var points = ring.Flatten(0.01);
        // What is round stays whole.
        if (points.Count > 12) return [outer];
        return points.Select((p, i) => (p, q: points[(i + 1) % points.Count])).Select(s =>
        {
            var along = (s.q - s.p) * (1 / s.p.DistanceTo(s.q));
            var (a, b) = _over ? (s.p - along * Between(0, 0.8), s.q + along * Between(0, 0.8)) : (s.p, s.q);
            return $"M{N(a.X + (_over ? 0 : Between(-0.02, 0.02)))} {N(a.Y)}L{N(b.X)} {N(b.Y + (_over ? 0 : Between(-0.02, 0.02)))}";
        }).ToList();
    }

    private void Fold(int piece, Point a, Point b)
    {
        var (p, q) = (_map.Apply(a), _map.Apply(b));
        _lines.Add(new(Operation.Score, piece, new(Math.Min(p.X, q.X), Math.Min(p.Y, q.Y), Math.Max(p.X, q.X), Math.Max(p.Y, q.Y)), (p, q)));
        DrawFold(a, b);
        if (_doubles && _fold is FoldKind.Edge or FoldKind.Short && Chance(0.3)) DrawFold(a, b);
    }

    private void DrawFold(Point a, Point b)
    {
        var along = (b - a) * (1 / a.DistanceTo(b));
        var inset = _fold switch
        {
            FoldKind.Short => Math.Min(Between(0.5, 2.8), a.DistanceTo(b) / 12),
            FoldKind.Over => Between(-0.4, -0.05),
            FoldKind.FarOver => Between(-3, -0.7),
            _ => 0,
        };
        var (from, to) = (a + along * inset, b - along * inset);
        var colour = $"stroke:{(_foldsOwnLook ? FoldColour : "#000")};stroke-width:.3";
        var look = "fill:none;" + colour;
        var length = from.DistanceTo(to);
        Point At(double t) => from + along * (length * t);
        string Line(Point p, Point q) => $"M{N(p.X)} {N(p.Y)}L{N(q.X)} {N(q.Y)}";
        var n = Math.Max(6, (int)(length / Between(3, 6)));
        var uneven = Chance(0.3);
        List<string> strokes() => [.. Enumerable.Range(0, n).Select(i => Line(At((i + (i == 0 ? 0 : uneven ? Between(0.1, 0.4) : 0.2)) / n),
            At((i + (i == n - 1 ? 1 : uneven ? Between(0.6, 0.9) : 0.75)) / n)))];
        switch (_fold)
        {
            case FoldKind.Dashed:
                Emit(_score, Line(from, to), look + ";stroke-dasharray:3 2");
                break;
            case FoldKind.DashedByCss:
                Emit(_score, Line(from, to), look + ";stroke-dasharray:1.5,1.5");
                break;
            case FoldKind.Strokes:
                foreach (var s in strokes()) Emit(_score, s, look);
                break;
            case FoldKind.PathOfStrokes:
                Emit(_score, string.Concat(strokes()), look);
                break;
            case FoldKind.ThinRectangle:
                Emit(_score, Thin(from, to, along), _style is Style.Stroked or Style.Mixed ? look : "fill:#1c6dd0");
                break;
            case FoldKind.ManyNodes or FoldKind.DefaultFill:
                // Rounded on the way, so that it is not quite straight; whoever forgets the fill leaves it black.
                var off = new Point(-along.Y, along.X);
                Emit(_score, "M" + string.Join("L", Enumerable.Range(0, 9).Select(i => At(i / 8.0) + off * (i % 2 == 1 ? 0.01 : 0)).Select(p =>
                    $"{N(p.X)} {N(p.Y)}")),
                    _fold == FoldKind.DefaultFill ? colour : look);
                break;
            case FoldKind.ClosedTwoPoints:
                Emit(_score, Line(from, to) + "Z", look);
                break;
            default:
                Emit(_score, Line(from, to), look);
                break;
        }
    }

    private void Perforation(int piece, Point a, Point b)
    {
        var n = (int)(a.DistanceTo(b) / 2);
        var along = (b - a) * (1.0 / n);
        for (var i = 0; i < n; i++)
        {
            Point p = a + along * (i + 0.2), q = a + along * (i + 0.7);
            Emit(_perforate, $"M{N(p.X)} {N(p.Y)}L{N(q.X)} {N(q.Y)}", CutLook);
        }

        _lines.Add(new(Operation.Perforate, piece, OnPage(new(a.X - 1, a.Y - 1, b.X + 1, b.Y + 1))));
        _ways.Add("perforation");
    }

    private static string Thin(Point a, Point b, Point along)
    {
        var side = new Point(-along.Y, along.X) * 0.2;
        return $"M{N(a.X + side.X)} {N(a.Y + side.Y)}L{N(b.X + side.X)} {N(b.Y + side.Y)}L{N(b.X - side.X)} {N(b.Y - side.Y)}L{N(a.X - side.X)} "
            + $"{N(a.Y - side.Y)}Z";
    }

    private string Layer(StringBuilder what, string[] names, string together) => what.Length == 0 ? "" : _naming switch
    {
        Naming.Layers => $"<g id='{One(names)}'>{what}</g>",
        Naming.RunTogether => $"<g id='{together}'>{what}</g>",
        Naming.InnerIds => $"<g id='Layer_1'><g id='{One(names)}'>{what}</g></g>",
        _ => what.ToString(),
    };

    private void Emit(StringBuilder into, string d, string look) =>
        into.Append(Element(_map == Affine.Identity ? d : PathText.Read(d).Transform(_map).ToSvg(), look));

    private Box OnPage(Box box) => VectorPath.Rectangle(box.Left, box.Top, box.Width, box.Height).Transform(_map).Bounds;

    private string Element(string d, string look)
    {
        if (_use && Chance(0.5))
        {
            _defs.Append(CultureInfo.InvariantCulture, $"<path id='u{++_classNumber}' d='{d}'/>");
            return $"<use xlink:href='#u{_classNumber}' style='{look}'/>";
        }

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

    private static string Rounded(double x, double y, double w, double h, double r) =>
        $"M{N(x + r)} {N(y)}H{N(x + w - r)}A{N(r)} {N(r)} 0 0 1 {N(x + w)} {N(y + r)}"
        + $"V{N(y + h - r)}A{N(r)} {N(r)} 0 0 1 {N(x + w - r)} {N(y + h)}H{N(x + r)}A{N(r)} {N(r)} 0 0 1 {N(x)} {N(y + h - r)}V{N(y + r)}"
        + $"A{N(r)} {N(r)} 0 0 1 {N(x + r)} {N(y)}Z";

    /// <summary>A rectangle whose lower edge is a wave.</summary>
    private static string Waved(double x, double y, double w, double h)
    {
        const int waves = 6;
        var d = $"M{N(x)} {N(y)}H{N(x + w)}V{N(y + h)}";
        for (var i = 0; i < waves; i++) d += $"q{N(-w / waves / 2)} {N(i % 2 == 0 ? -5 : 4)} {N(-w / waves)} 0";
        return d + "Z";
    }

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
