using System.Globalization;
using System.Text;
using Falzkunst.Core.Cards;

namespace Falzkunst.Core.Tests.Reading;

/// <summary>A piece that a careful person is sure of: its outer edge and its holes, in mm on the page.</summary>
public sealed record TruePiece(string Name, VectorPath Outer, List<VectorPath> Holes);

/// <summary>A line, or the strokes of a word, that a careful person is sure of: what is done, and on which piece. A fold has ends.</summary>
public sealed record TrueLine(Operation Operation, int Piece, Box Within, (Point A, Point B)? Fold = null);

/// <summary>
/// A file as somebody might hand it over, made from a card model, with what a careful person would be sure of. The model says what the card is
/// (AnyFile.Cards.cs); the ways of handing over (AnyFile.Ways.cs: fills, colours, layers, kinds of folds and holes, transforms, doubles, gaps, pages) say how
/// it is drawn, and are drawn from the seed one by one, so that every combination comes.
/// </summary>
public sealed record AnyFile(string Svg, string Ways, List<TruePiece> Pieces, List<TrueLine> Lines)
{
    /// <summary>What must be asked, where nobody could be sure: "panel" where two panels share an edge; empty where nothing must.</summary>
    public string Asks { get; init; } = "";

    public static AnyFile Make(int seed) => new AnyFileMaker(new(seed)).Run();
}

/// <summary>Makes one file. This part holds what is drawn from the seed for the whole file, and puts the file together.</summary>
internal sealed partial class AnyFileMaker(Random r)
{
    private enum Style { Stroked, Filled, FilledAndStroked, Mixed }

    private enum FoldKind { Edge, Short, Dashed, Strokes, ThinRectangle, ManyNodes, Over, ClosedTwoPoints, PathOfStrokes, DashedByCss, DefaultFill, FarOver }

    private enum Naming { None, Layers, RunTogether, InnerIds, Misleading }

    private readonly StringBuilder _cut = new(), _score = new(), _draw = new(), _foil = new(), _perforate = new(), _css = new(), _defs = new();
    private readonly List<TruePiece> _pieces = [];
    private readonly List<TrueLine> _lines = [];
    private readonly List<string> _ways = [];
    private Style _style;
    private FoldKind _fold;
    private Naming _naming;
    private bool _foldsOwnLook, _separateHoles, _paintedHoles, _classes, _segments, _doubles, _gaps, _over, _use;
    private double _width, _height;
    private int _classNumber;
    private string _asks = "", _paper = "";

    // How what is drawn at the moment lies on the page.
    private Affine _map = Affine.Identity;

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
        (_separateHoles, _classes, _use) = (Chance(0.5), Chance(0.3), Chance(0.1));
        _segments = _style == Style.Stroked && Chance(0.15);
        _over = _segments && Chance(0.4);
        _paintedHoles = _style == Style.Filled && Chance(0.3);
        (_doubles, _gaps) = (Chance(0.1), _style == Style.Stroked && Chance(0.1));
        _ways.AddRange([_style.ToString(), _fold.ToString(), _naming.ToString(), _foldsOwnLook ? "folds of their own look" : "folds look like cuts",
            _paintedHoles ? "painted holes" : _separateHoles ? "separate holes" : "compound holes"]);
        if (_segments) _ways.Add(_over ? "segments that overshoot" : "outlines in segments");
        if (_doubles) _ways.Add("doubles");
        if (_gaps) _ways.Add("gaps");
        if (_use) _ways.Add("use");
        double x = Between(8, 20), y = Between(8, 20);
        if (_style == Style.Stroked && !_segments && _naming == Naming.None && Chance(0.08)) (x, y) = Panels(x, y);
        else if (_style == Style.Stroked && _naming == Naming.None && Chance(0.06)) (x, y) = StackInLayers(x, y);
        else if (Chance(0.06)) (x, y) = RowOfBases(x, y);
        else (x, y) = Several(x, y);
        (_width, _height) = (x, y);
        return new(Svg(), string.Join(", ", _ways), _pieces, _lines) { Asks = _asks };
    }

    private (double, double) Several(double x, double y)
    {
        var count = 1 + r.Next(3);
        var low = 0.0;
        for (var i = 0; i < count; i++)
        {
            _paper = One(Papers);
            if (Chance(0.12))
            {
                // Turned about its own middle, and set down beside what is there.
                var angle = One<double>([45, 30, 90, Between(3, 87)]);
                _ways.Add("turned");
                var before = (_pieces.Count, _lines.Count);
                _map = Affine.Move(-60, -60).Then(Affine.Turn(Angle.FromDegrees(angle))).Then(Affine.Move(x + 160, y + 160));
                Any(0, 0);
                _map = Affine.Identity;
                var box = _pieces.Skip(before.Item1).Aggregate(Box.Empty, (b, p) => b.With(p.Outer.Bounds));
                x = Math.Max(x, box.Right) + Between(8, 15);
                low = Math.Max(low, box.Bottom + Between(8, 20));
                continue;
            }

            var (w, h) = Any(x, y);
            x += w + Between(6, 15);
            low = Math.Max(low, y + h + Between(8, 20));
        }

        return (x, low);
    }

    private (double, double) Any(double x, double y) => r.Next(14) switch
    {
        0 or 1 or 2 or 3 or 4 => Base(x, y),
        5 or 6 => Tag(x, y),
        7 => Frame(x, y),
        8 => Shape(x, y),
        9 => Envelope(x, y),
        10 => BoxNet(x, y),
        11 => PopUp(x, y),
        12 => Mat(x, y),
        _ => Letters(x, y),
    };

    private string Svg()
    {
        var body = new StringBuilder();
        var legend = _foldsOwnLook && _lines.Exists(l => l.Fold is not null) && Chance(0.08) ? Legend() : "";
        // Where the first thing has a fold, nobody takes the page for paper.
        var page = _lines.Count == 0 || _lines[0].Fold is null || _asks.Length > 0 ? "" : Chance(0.1) ? "white" : Chance(0.1) ? "frame" : "";
        var off = Chance(0.3) ? Between(-1.2, 1.2) : 0;
        if (page == "white") body.Append(Element(Rect(-off, -off, _width + 2 * off, _height + 2 * off), "fill:#ffffff"));
        if (page == "frame") body.Append(Element(Rect(-off, -off, _width + 2 * off, _height + 2 * off), "fill:none;stroke:#bbb;stroke-width:.2"));
        if (page.Length > 0) _ways.Add("page " + page);
        if (page == "frame" && Chance(0.3)) body.Append(Element(Rect(1, 1, _width - 2, _height - 2), "fill:none;stroke:#bbb;stroke-width:.2"));
        List<string> layers = [Layer(_cut, Cuts, "cutLines"), Layer(_score, Scores, "foldLines"), Layer(_draw, Draws, "penWriting"), Layer(_foil, Foils,
            "hotFoil")];
        // What nothing hides may lie in any order.
        if (_style == Style.Stroked && Chance(0.3))
        {
            layers.Reverse();
            _ways.Add("folds before outlines");
        }

        body.AppendJoin("", layers);
        if (_perforate.Length > 0) body.Append($"<g id='{One(Perforations)}'>{_perforate}</g>");
        body.Append(legend);
        var inside = body.ToString();
        if (_naming == Naming.Misleading) inside = $"<g id='{One(["tri-fold card", "mountain cabin", "foldable", "scorecard"])}'>{inside}</g>";
        var style = (_css.Length > 0 ? $"<style>{_css}</style>" : "") + (_defs.Length > 0 ? $"<defs>{_defs}</defs>" : "");
        var px = Chance(0.3);
        if (px) _ways.Add("in pixels");
        if (Chance(0.3))
        {
            inside = $"<g transform='translate(10 20)'><g transform='matrix(2 0 0 2 0 0)'><g transform='scale(.5) translate(-10 -20)'>{inside}</g>"
                + "</g></g>";
            _ways.Add("nested transforms");
        }

        const double perMm = 96 / 25.4;
        const string head = "<svg xmlns='http://www.w3.org/2000/svg' xmlns:xlink='http://www.w3.org/1999/xlink'";
        return px
            ? $"{head} viewBox='0 0 {N(_width * perMm)} {N(_height * perMm)}'>{style}<g transform='scale({perMm:R})'>{inside}</g></svg>"
            : $"{head} width='{N(_width)}mm' height='{N(_height)}mm' viewBox='0 0 {N(_width)} {N(_height)}'>{style}{inside}</svg>";
    }

    /// <summary>What the looks mean, beside the card: a sample of each, and a word.</summary>
    private string Legend()
    {
        _ways.Add("legend");
        double x = _width, y = 12;
        _width += 60;
        string Row(string colour, string word)
        {
            y += 8;
            return Element($"M{N(x)} {N(y)}H{N(x + 14)}", $"fill:none;stroke:{colour};stroke-width:.3")
                + $"<text x='{N(x + 18)}' y='{N(y + 1.2)}' font-family='Arial' font-size='4'>{word}</text>";
        }

        return Row(FoldColour, One(["score", "fold", "Falz", "pli"])) + (_style is Style.Filled ? "" : Row("#000", One(["cut", "Schneiden", "couper"])));
    }
}
