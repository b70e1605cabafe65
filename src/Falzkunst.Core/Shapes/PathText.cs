namespace Falzkunst.Core.Shapes;

/// <summary>
/// The grammar of SVG path data (SVG 2, chapter 9). Its error rule holds: what stands before the first error is drawn, the rest is not.
/// </summary>
public static class PathText
{
    /// <summary>Reads path data; never throws for bad text.</summary>
    /// <param name="complete">False when the text ended in an error.</param>
    /// <param name="maxSegments">Reading ends, as at an error, when the path has more segments.</param>
    public static VectorPath Read(ReadOnlySpan<char> text, out bool complete, int maxSegments = int.MaxValue)
    {
        var build = new PathBuilder();
        var scan = new Scanner(text);
        Steps.Count(text.Length);
        complete = ReadInto(build, ref scan, maxSegments);
        return build.Build();
    }

    public static VectorPath Read(string text) => Read(text, out _);

    private static bool ReadInto(PathBuilder build, ref Scanner scan, int maxSegments)
    {
        var command = '\0';
        var first = true;
        Point control = default;
        var previous = '\0';
        while (true)
        {
            scan.SkipSpace();
            if (scan.AtEnd) return true;
            var c = scan.Peek;
            if (char.IsAsciiLetter(c))
            {
                command = c;
                scan.Skip();
                if (first && command is not ('M' or 'm')) return false;
                if (!"MmLlHhVvCcSsQqTtAaZz".Contains(command)) return false;
            }
            else if (command is '\0' or 'Z' or 'z')
            {
                return false;
            }
            else
            {
                scan.SkipComma();
                // A repeated moveto is a lineto.
                if (command == 'M') command = 'L';
                else if (command == 'm') command = 'l';
            }

            if (build.Count > maxSegments) return false;
            var rel = char.IsAsciiLetterLower(command);
            var at = build.Current;
            var o = rel ? at : default;
            switch (char.ToUpperInvariant(command))
            {
                case 'M':
                    if (!scan.Pair(out var p)) return false;
                    build.MoveTo(o + p);
                    first = false;
                    break;
                case 'Z':
                    build.Close();
                    break;
                case 'L':
                    if (!scan.Pair(out p)) return false;
                    build.LineTo(o + p);
                    break;
                case 'H':
                    if (!scan.Number(out var x)) return false;
                    build.LineTo(new(o.X + x, at.Y));
                    break;
                case 'V':
                    if (!scan.Number(out var y)) return false;
                    build.LineTo(new(at.X, o.Y + y));
                    break;
                case 'C':
                    if (!scan.Pair(out var c1) || !scan.Pair(out var c2) || !scan.Pair(out p)) return false;
                    build.CubicTo(o + c1, control = o + c2, o + p);
                    break;
                case 'S':
                    if (!scan.Pair(out c2) || !scan.Pair(out p)) return false;
                    c1 = previous is 'C' or 'S' ? at * 2 - control : at;
                    build.CubicTo(c1, control = o + c2, o + p);
                    break;
                case 'Q':
                    if (!scan.Pair(out var q) || !scan.Pair(out p)) return false;
                    control = o + q;
                    build.QuadraticTo(control, o + p);
                    break;
                case 'T':
                    if (!scan.Pair(out p)) return false;
                    control = previous is 'Q' or 'T' ? at * 2 - control : at;
                    build.QuadraticTo(control, o + p);
                    break;
                default:
                    if (!scan.Number(out var rx) || !scan.Number(out var ry) || !scan.Number(out var turn)
                        || !scan.Flag(out var large) || !scan.Flag(out var sweep) || !scan.Pair(out p)) return false;
                    build.ArcTo(rx, ry, Angle.FromDegrees(turn), large, sweep, o + p);
                    break;
            }

            previous = char.ToUpperInvariant(command);
        }
    }

    /// <summary>Reads numbers as SVG's grammar separates them: "1.5.5-2e3" is three numbers.</summary>
    internal ref struct Scanner(ReadOnlySpan<char> text)
    {
        private readonly ReadOnlySpan<char> _text = text;
        private int _at;

        public readonly bool AtEnd => _at >= _text.Length;

        public readonly char Peek => _text[_at];

        public void Skip() => _at++;

        public void SkipSpace()
        {
            while (_at < _text.Length && _text[_at] is ' ' or '\t' or '\n' or '\r' or '\f')
            {
                _at++;
            }
        }

        public void SkipComma()
        {
            SkipSpace();
            if (AtEnd || _text[_at] != ',') return;
            _at++;
            SkipSpace();
        }

        public bool Pair(out Point p)
        {
            var ok = Number(out var x) & Number(out var y);
            p = new(x, y);
            return ok;
        }

        public bool Flag(out bool flag)
        {
            SkipComma();
            flag = !AtEnd && _text[_at] == '1';
            if (AtEnd || _text[_at] is not ('0' or '1')) return false;
            _at++;
            return true;
        }

        public bool Number(out double value)
        {
            SkipComma();
            var start = _at;
            var negative = false;
            if (!AtEnd && _text[_at] is '+' or '-') negative = _text[_at++] == '-';
            long mantissa = 0;
            int digits = 0, scale = 0;
            while (!AtEnd && char.IsAsciiDigit(_text[_at]))
            {
                if (digits < 18) mantissa = mantissa * 10 + (_text[_at] - '0');
                else scale++;
                if (mantissa > 0 || digits > 0) digits++;
                _at++;
            }

            var any = _at > start && char.IsAsciiDigit(_text[_at - 1]);
            if (!AtEnd && _text[_at] == '.')
            {
                var dot = _at++;
                while (!AtEnd && char.IsAsciiDigit(_text[_at]))
                {
                    if (digits < 18)
                    {
                        mantissa = mantissa * 10 + (_text[_at] - '0');
                        scale--;
                        if (mantissa > 0) digits++;
                    }

                    _at++;
                }

                any |= _at > dot + 1;
            }

            if (!any)
            {
                value = 0;
                return false;
            }

            // An exponent only where digits follow, so that "2em" keeps its unit.
            if (_at + 1 < _text.Length && _text[_at] is 'e' or 'E')
            {
                var e = _at + 1;
                var down = false;
                if (_text[e] is '+' or '-') down = _text[e++] == '-';
                if (e < _text.Length && char.IsAsciiDigit(_text[e]))
                {
                    var power = 0;
                    while (e < _text.Length && char.IsAsciiDigit(_text[e])) power = Math.Min(power * 10 + (_text[e++] - '0'), 9999);
                    scale += down ? -power : power;
                    _at = e;
                }
            }

            // Exact for up to 15 digits and small powers (Clinger 1990, the fast case); else the library decides.
            if (mantissa < 1L << 53 && scale is >= -22 and <= 22)
                value = scale < 0 ? mantissa / Powers[-scale] : mantissa * Powers[scale];
            else
                value = double.Parse(_text[start.._at].TrimStart('+').TrimStart('-'), NumberStyles.Float, CultureInfo.InvariantCulture);
            if (negative) value = -value;
            return double.IsFinite(value);
        }

        private static readonly double[] Powers =
        [
            1e0, 1e1, 1e2, 1e3, 1e4, 1e5, 1e6, 1e7, 1e8, 1e9, 1e10, 1e11, 1e12, 1e13, 1e14, 1e15, 1e16, 1e17, 1e18, 1e19, 1e20, 1e21, 1e22,
        ];
    }
}
