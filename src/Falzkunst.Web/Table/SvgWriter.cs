using System.Globalization;
using System.Net;
using System.Runtime.CompilerServices;
using System.Text;
using Falzkunst.Core.Measures;
using Falzkunst.Core.Shapes;

namespace Falzkunst.Web.Table;

/// <summary>
/// The one writer of SVG. Every value and text that goes through it is escaped, so that nothing in a design can end an attribute or begin an element; there is
/// no way around it
/// but <see cref="Add(SvgWriter)"/> of another of its kind.
/// </summary>
public sealed class SvgWriter(int capacity = 1024)
{
    private readonly StringBuilder _text = new(capacity);
    private readonly Stack<string> _open = new();
    private bool _inTag;

    public int Length => _text.Length;

    /// <param name="name">Of the element; a word of the program, never of a design.</param>
    public SvgWriter Start(string name)
    {
        CloseTag();
        _text.Append('<').Append(name);
        _open.Push(name);
        _inTag = true;
        return this;
    }

    public SvgWriter End()
    {
        var name = _open.Pop();
        if (_inTag)
        {
            _text.Append("/>");
            _inTag = false;
        }
        else
        {
            _text.Append("</").Append(name).Append('>');
        }

        return this;
    }

    public SvgWriter Set(string name, string value)
    {
        _text.Append(' ').Append(name).Append("=\"").Append(WebUtility.HtmlEncode(value)).Append('"');
        return this;
    }

    /// <summary>An attribute that is there only where it says something.</summary>
    public SvgWriter SetIf(bool there, string name, string value) => there ? Set(name, value) : this;

    /// <summary>A number with at most so many decimals.</summary>
    public SvgWriter Set(string name, double value, int decimals = 2)
    {
        _text.Append(' ').Append(name).Append("=\"");
        Number(value, decimals);
        _text.Append('"');
        return this;
    }

    public SvgWriter Set(string name, Box box) =>
        Set(name, string.Create(CultureInfo.InvariantCulture, $"{box.Left:0.###} {box.Top:0.###} {box.Width:0.###} {box.Height:0.###}"));

    public SvgWriter Set(string name, Affine m) =>
        Set(name, string.Create(CultureInfo.InvariantCulture,
            $"matrix({m.A:0.########} {m.B:0.########} {m.C:0.########} {m.D:0.########} {m.E:0.#####} {m.F:0.#####})"));

    /// <summary>The path as an attribute d, as screens need it; its text is made once, however often it is written.</summary>
    public SvgWriter Path(VectorPath path)
    {
        _text.Append(" d=\"").Append(PathTexts.Of(path)).Append('"');
        return this;
    }

    /// <summary>Several paths as one attribute d.</summary>
    public SvgWriter Paths(IEnumerable<VectorPath> paths)
    {
        _text.Append(" d=\"");
        foreach (var path in paths) _text.Append(PathTexts.Of(path));
        _text.Append('"');
        return this;
    }

    public SvgWriter Text(string text)
    {
        CloseTag();
        _text.Append(WebUtility.HtmlEncode(text));
        return this;
    }

    public SvgWriter Add(SvgWriter other)
    {
        CloseTag();
        _text.Append(other._text);
        return this;
    }

    /// <summary>A small element of text, such as a title.</summary>
    public SvgWriter Say(string element, string text) => Start(element).Text(text).End();

    public override string ToString() => _open.Count == 0 ? _text.ToString() : throw new InvalidOperationException($"<{_open.Peek()}> was not ended.");

    private void CloseTag()
    {
        if (!_inTag) return;
        _text.Append('>');
        _inTag = false;
    }

    private void Number(double value, int decimals) =>
        _text.Append((double.IsFinite(value) ? Math.Round(value, decimals) : 0).ToString("0.########", CultureInfo.InvariantCulture));
}

/// <summary>
/// Paths as text for screens: to a hundredth of a millimetre, small ones to a thousandth, each step told from the one before, which is a third of the length of
/// plain coordinates.
/// </summary>
internal static class PathTexts
{
    private const double SmallMm = 25;

    private static readonly ConditionalWeakTable<VectorPath, string> Made = [];

    public static string Of(VectorPath path) => Made.GetValue(path, static p => Make(p));

    private static string Make(VectorPath path)
    {
        var text = new StringBuilder(path.Subpaths.Sum(s => 16 + s.Segments.Length * 20));
        var (decimals, grain) = Math.Max(path.Bounds.Width, path.Bounds.Height) > SmallMm ? (2, 100L) : (3, 1000L);
        foreach (var sub in path.Subpaths)
        {
            // On the grain, so that no error adds up along the way.
            var (x, y) = On(sub.Start);
            text.Append('M');
            Number(x, true);
            Number(y, false);
            var last = 'M';
            foreach (var s in sub.Segments)
            {
                var letter = s.IsCurve ? 'c' : 'l';
                var first = letter != last;
                if (first) text.Append(letter);
                last = letter;
                if (s.IsCurve)
                {
                    Step(s.C1, first);
                    Step(s.C2, false);
                }

                var end = On(s.End);
                Number(end.X - x, first && !s.IsCurve);
                Number(end.Y - y, false);
                (x, y) = end;
            }

            if (sub.Closed) text.Append('z');

            void Step(Point p, bool begins)
            {
                var (px, py) = On(p);
                Number(px - x, begins);
                Number(py - y, false);
            }
        }

        return text.ToString();

        (long X, long Y) On(Point p) => ((long)Math.Round(p.X * grain), (long)Math.Round(p.Y * grain));

        void Number(long n, bool first)
        {
            if (n < 0) text.Append('-');
            else if (!first) text.Append(' ');
            var (whole, rest) = Math.DivRem(Math.Abs(n), grain);
            if (whole > 0 || rest == 0) text.Append(whole);
            if (rest == 0) return;
            var digits = decimals;
            for (; rest % 10 == 0; digits--) rest /= 10;
            text.Append('.');
            for (var unit = (long)Math.Pow(10, digits - 1); unit > 0; unit /= 10) text.Append((char)('0' + rest / unit % 10));
        }
    }
}
