
namespace Falzkunst.Core.Reading.Svg;

/// <summary>Colours as CSS writes them (CSS Color 4, the parts that drawings use).</summary>
internal static class SvgColours
{
    public static bool TryRead(ReadOnlySpan<char> text, out Colour colour)
    {
        text = text.Trim();
        colour = Colour.Black;
        if (text.IsEmpty) return false;
        if (text[0] == '#') return Hex(text[1..], out colour);
        if (text.StartsWith("rgb", StringComparison.OrdinalIgnoreCase) || text.StartsWith("hsl", StringComparison.OrdinalIgnoreCase))
            return Function(text, out colour);
        if (text.Equals("transparent", StringComparison.OrdinalIgnoreCase))
        {
            colour = new(0, 0, 0, 0);
            return true;
        }

        if (!char.IsAsciiLetter(text[0]) || text.Length > 24) return false;
        // The framework's table of names is CSS's, plus system colours, plus the British spellings that CSS has too.
        var named = System.Drawing.Color.FromName(text.ToString().Replace("grey", "gray", StringComparison.OrdinalIgnoreCase));
        if (!named.IsKnownColor || named.IsSystemColor) return false;
        colour = new(named.R, named.G, named.B);
        return true;
    }

    private static bool Hex(ReadOnlySpan<char> t, out Colour colour)
    {
        colour = Colour.Black;
        Span<int> v = stackalloc int[8];
        if (t.Length is not (3 or 4 or 6 or 8)) return false;
        for (var i = 0; i < t.Length; i++)
        {
            if (!char.IsAsciiHexDigit(t[i])) return false;
            v[i] = char.IsAsciiDigit(t[i]) ? t[i] - '0' : (t[i] | 32) - 'a' + 10;
        }

        colour = t.Length < 6
            ? new((byte)(v[0] * 17), (byte)(v[1] * 17), (byte)(v[2] * 17), t.Length == 4 ? v[3] / 15.0 : 1)
            : new((byte)(v[0] * 16 + v[1]), (byte)(v[2] * 16 + v[3]), (byte)(v[4] * 16 + v[5]), t.Length == 8 ? (v[6] * 16 + v[7]) / 255.0 : 1);
        return true;
    }

    private static bool Function(ReadOnlySpan<char> t, out Colour colour)
    {
        colour = Colour.Black;
        var open = t.IndexOf('(');
        var close = t.IndexOf(')');
        if (open < 0 || close < open) return false;
        var isHsl = (t[0] | 32) == 'h';
        var parts = t[(open + 1)..close].ToString().Split([',', ' ', '/'], StringSplitOptions.RemoveEmptyEntries);
        if (parts.Length < 3) return false;
        Span<double> v = [0, 0, 0, 1];
        for (var i = 0; i < Math.Min(4, parts.Length); i++)
        {
            var p = parts[i];
            var percent = p.EndsWith('%');
            if (p.EndsWith("deg", StringComparison.OrdinalIgnoreCase)) p = p[..^3];
            if (!double.TryParse(p.TrimEnd('%'), NumberStyles.Float, CultureInfo.InvariantCulture, out v[i]) || !double.IsFinite(v[i])) return false;
            if (percent && i == 3) v[i] /= 100;
            else if (percent && !isHsl) v[i] *= 2.55;
        }

        var alpha = Math.Clamp(v[3], 0, 1);
        colour = isHsl ? FromHsl(v[0], Math.Clamp(v[1] / 100, 0, 1), Math.Clamp(v[2] / 100, 0, 1), alpha) : new(Byte(v[0]), Byte(v[1]), Byte(v[2]), alpha);
        return true;
    }

    private static Colour FromHsl(double h, double s, double l, double alpha)
    {
        return new(Byte(255 * Channel(0)), Byte(255 * Channel(8)), Byte(255 * Channel(4)), alpha);

        // CSS Color 4, section 7.1.
        double Channel(double n)
        {
            var k = ((n + h / 30) % 12 + 12) % 12;
            return l - s * Math.Min(l, 1 - l) * Math.Max(-1, Math.Min(Math.Min(k - 3, 9 - k), 1));
        }
    }

    private static byte Byte(double v) => (byte)Math.Clamp(Math.Round(v), 0, 255);
}
