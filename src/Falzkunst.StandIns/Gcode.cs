using System.Globalization;
using System.Text;

namespace Falzkunst.StandIns;

/// <summary>
/// G-code (ISO 6983) as the commands that the cutter queues: G0 and G1 with X, Y, Z and F, G20, G21, G90, G91, T with M6, S. The tool is down at or below
/// Z 0. Anything else is skipped, as controllers skip what they have no part for.
/// </summary>
public sealed class Gcode
{
    private const double UnitsPerMm = 40;

    private readonly StringBuilder _line = new();
    private double _x, _y, _scale = 1;
    private int _tool;
    private bool _down, _relative;

    /// <summary>Takes text; what its whole lines say as HPGL.</summary>
    public string Take(ReadOnlySpan<char> text)
    {
        var said = new StringBuilder();
        foreach (var c in text)
        {
            if (c is not ('\n' or '\r'))
            {
                _line.Append(c);
                continue;
            }

            Line(_line.ToString(), said);
            _line.Clear();
        }

        return said.ToString();
    }

    private void Line(string line, StringBuilder said)
    {
        double? x = null, y = null, z = null;
        var moves = false;
        foreach (var (letter, number) in Words(line))
        {
            switch (letter)
            {
                case 'G':
                    if (number is 0 or 1) moves = true;
                    else if (number is 20 or 21) _scale = number == 20 ? 25.4 : 1;
                    else if (number is 90 or 91) _relative = number == 91;
                    break;
                case 'X': x = number * _scale; break;
                case 'Y': y = number * _scale; break;
                case 'Z': z = number * _scale; break;
                case 'F': said.Append(CultureInfo.InvariantCulture, $"VS{number * _scale / 600:0.####};"); break;
                case 'S': said.Append(CultureInfo.InvariantCulture, $"FS{number:0};"); break;
                case 'T': _tool = (int)number; break;
                case 'M' when number == 6: said.Append(CultureInfo.InvariantCulture, $"SP{_tool};"); break;
                case 'M' when number is 2 or 30: said.Append("PU;SP0;"); break;
            }
        }

        if (!moves) return;
        if (z is { } height) _down = height <= 0;
        if (x is not null || y is not null)
        {
            (_x, _y) = _relative ? (_x + (x ?? 0), _y + (y ?? 0)) : (x ?? _x, y ?? _y);
            said.Append(CultureInfo.InvariantCulture, $"{(_down ? "PD" : "PU")}{_x * UnitsPerMm:0.##},{_y * UnitsPerMm:0.##};");
        }
        else if (z is not null)
        {
            said.Append(_down ? "PD;" : "PU;");
        }
    }

    private static IEnumerable<(char Letter, double Number)> Words(string line)
    {
        var inComment = false;
        for (var i = 0; i < line.Length; i++)
        {
            if (line[i] == ';') yield break;
            if (line[i] == '(') inComment = true;
            if (line[i] == ')') inComment = false;
            if (inComment || !char.IsAsciiLetter(line[i])) continue;
            var end = i + 1;
            while (end < line.Length && (char.IsAsciiDigit(line[end]) || line[end] is '.' or '-' or '+' or ' ')) end++;
            if (double.TryParse(line[(i + 1)..end].Replace(" ", "", StringComparison.Ordinal), CultureInfo.InvariantCulture, out var number))
                yield return (char.ToUpperInvariant(line[i]), number);
            i = end - 1;
        }
    }
}
