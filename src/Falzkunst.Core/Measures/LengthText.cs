namespace Falzkunst.Core.Measures;

/// <summary>Reads lengths as people type them, and writes them as people read them.</summary>
public static class LengthText
{
    /// <summary>
    /// Reads a typed length: a number, a fraction, a sum or a product, with or without a unit.
    /// A number without a unit is in <paramref name="unit"/>.
    /// </summary>
    /// <example>
    /// In inches: <c>5 1/2</c> is 139.7 mm, <c>2*4.25</c> is 215.9 mm. In millimetres: <c>148 - 2*6</c> is 136 mm,
    /// <c>4.25in</c> is 107.95 mm, <c>1/2in + 3</c> is 15.7 mm, <c>12,5</c> is 12.5 mm.
    /// </example>
    /// <param name="error">Why it could not be read, as a sentence for the person who typed it; otherwise empty.</param>
    /// <returns>Whether the text is a length.</returns>
    public static bool TryRead(string? text, LengthUnit unit, out Length length, out string error)
    {
        length = Length.Zero;
        if (string.IsNullOrWhiteSpace(text))
        {
            error = "Type a length, such as 108mm or 4 1/4in.";
            return false;
        }

        var parser = new Parser(text, unit);
        var value = parser.Sum();
        parser.SkipSpace();
        if (parser.Error is null && !parser.AtEnd)
            parser.Fail($"\"{text.Trim()}\" stops making sense at \"{text[parser.At..].Trim()}\".");
        if (parser.Error is null && !double.IsFinite(value.Number))
            parser.Fail("That divides by nothing, or is far too large.");
        if (parser.Error is not null)
        {
            error = parser.Error;
            return false;
        }

        length = Length.FromMm(value.IsLength ? value.Number : parser.ToMm(value.Number));
        error = "";
        return true;
    }

    /// <summary>Writes a length with its unit: millimetres to a hundredth, inches to a thousandth, without idle zeros.</summary>
    /// <example>107.95 mm gives <c>107.95 mm</c> and <c>4.25 in</c>.</example>
    public static string Write(Length length, LengthUnit unit) => unit == LengthUnit.Inch
        ? length.Inches.ToString("0.###", CultureInfo.InvariantCulture) + " in"
        : length.Mm.ToString("0.##", CultureInfo.InvariantCulture) + " mm";

    private readonly record struct Value(double Number, bool IsLength);

    private sealed class Parser(string text, LengthUnit unit)
    {
        public int At { get; private set; }

        public string? Error { get; private set; }

        public bool AtEnd => At >= text.Length;

        public void Fail(string why) => Error ??= why;

        public double ToMm(double number) => unit == LengthUnit.Inch ? number * Length.MmPerInch : number;

        public void SkipSpace()
        {
            while (!AtEnd && char.IsWhiteSpace(text[At])) At++;
        }

        public Value Sum()
        {
            var left = Product();
            while (Error is null)
            {
                SkipSpace();
                if (AtEnd || text[At] is not ('+' or '-')) break;
                var sign = text[At++] == '+' ? 1 : -1;
                var right = Product();
                // A bare number beside a length is a length in the unit of the field: "1/2in + 3".
                if (left.IsLength || right.IsLength)
                    left = new(AsMm(left) + sign * AsMm(right), true);
                else
                    left = new(left.Number + sign * right.Number, false);
            }

            return left;
        }

        private double AsMm(Value v) => v.IsLength ? v.Number : ToMm(v.Number);

        private Value Product()
        {
            var left = Factor();
            while (Error is null)
            {
                SkipSpace();
                if (AtEnd || text[At] is not ('*' or '/' or '×' or 'x')) break;
                var times = text[At++] != '/';
                var right = Factor();
                if (times && left.IsLength && right.IsLength)
                    Fail("A length times a length is an area, not a length.");
                else if (!times && right.IsLength)
                    Fail("A length can be divided by a number, not by a length.");
                left = new(times ? left.Number * right.Number : left.Number / right.Number, left.IsLength || right.IsLength);
            }

            return left;
        }

        private Value Factor()
        {
            SkipSpace();
            if (AtEnd)
            {
                Fail($"Something is missing at the end of \"{text.Trim()}\".");
                return default;
            }

            if (text[At] == '-')
            {
                At++;
                var v = Factor();
                return v with { Number = -v.Number };
            }

            double number;
            if (text[At] == '(')
            {
                At++;
                var inner = Sum();
                SkipSpace();
                if (AtEnd || text[At] != ')')
                    Fail("A bracket is not closed.");
                else
                    At++;
                return inner;
            }

            if (!Number(out number)) return default;
            number = WithFraction(number);
            SkipSpace();
            return Unit(out var mmPerUnit) ? new(number * mmPerUnit, true) : new(number, false);
        }

        /// <summary>"1/2" and "5 1/2" are one number, so that a unit after them holds for all of it.</summary>
        private double WithFraction(double first)
        {
            var back = At;
            SkipSpace();
            if (!AtEnd && text[At] == '/')
            {
                At++;
                SkipSpace();
                if (!AtEnd && char.IsAsciiDigit(text[At]) && Number(out var below)) return first / below;
            }
            else if (At > back && !AtEnd && char.IsAsciiDigit(text[At]) && Number(out var above))
            {
                SkipSpace();
                if (!AtEnd && text[At] == '/')
                {
                    At++;
                    SkipSpace();
                    if (!AtEnd && Number(out var below)) return first + above / below;
                }
            }

            At = back;
            return first;
        }

        private bool Number(out double number)
        {
            var start = At;
            while (!AtEnd && (char.IsAsciiDigit(text[At]) || text[At] is '.' or ',')) At++;
            var digits = text[start..At].Replace(',', '.');
            if (double.TryParse(digits, NumberStyles.AllowDecimalPoint, CultureInfo.InvariantCulture, out number)) return true;
            Fail($"\"{text[start..].Trim()}\" is not a number. Try 108mm, 4.25in, 5 1/2 or 2*4.25.");
            return false;
        }

        private bool Unit(out double mmPerUnit)
        {
            foreach (var (name, mm) in Units)
            {
                if (string.Compare(text, At, name, 0, name.Length, StringComparison.OrdinalIgnoreCase) != 0) continue;
                var end = At + name.Length;
                if (end < text.Length && char.IsAsciiLetter(name[^1]) && char.IsAsciiLetter(text[end])) continue;
                At = end;
                mmPerUnit = mm;
                return true;
            }

            mmPerUnit = 1;
            return false;
        }

        private static readonly (string Name, double Mm)[] Units =
        [
            ("inches", Length.MmPerInch), ("inch", Length.MmPerInch), ("in", Length.MmPerInch), ("\"", Length.MmPerInch), ("″", Length.MmPerInch),
            ("mm", 1), ("cm", 10), ("pt", Length.MmPerInch / 72),
        ];
    }
}
