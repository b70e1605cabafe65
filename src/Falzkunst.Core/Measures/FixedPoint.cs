using System.Numerics;

namespace Falzkunst.Core.Measures;

/// <summary>Numbers in fixed point, without idle zeros: "12.5", "-0.00003", "7". Several times faster than the general formatting, and files are mostly
/// numbers.</summary>
public static class FixedPoint
{
    /// <summary>So many signs are enough for any number.</summary>
    public const int Longest = 32;

    /// <summary>Writes a number at the end of <paramref name="to"/> and tells where it begins. What is too large for fixed point, and what is no number, is
    /// written as the general formatting does.</summary>
    /// <param name="decimals">At most 9; further ones are rounded.</param>
    /// <param name="to">At least <see cref="Longest"/> signs, ASCII or UTF-16.</param>
    public static int Write<T>(double v, int decimals, Span<T> to)
        where T : unmanaged, IBinaryInteger<T>
    {
        var at = to.Length;
        if (!(Math.Abs(v) < 1e9))
        {
            var general = v.ToString("R", CultureInfo.InvariantCulture);
            for (var i = general.Length - 1; i >= 0; i--) to[--at] = T.CreateTruncating(general[i]);
            return at;
        }

        var n = (long)Math.Round(v * Scale(decimals));
        var negative = n < 0;
        if (negative) n = -n;
        while (decimals > 0 && n % 10 == 0)
        {
            n /= 10;
            decimals--;
        }

        for (var i = 0; i < decimals; i++)
        {
            to[--at] = T.CreateTruncating('0' + n % 10);
            n /= 10;
        }

        if (decimals > 0) to[--at] = T.CreateTruncating('.');
        do
        {
            to[--at] = T.CreateTruncating('0' + n % 10);
            n /= 10;
        }
        while (n > 0);
        if (negative) to[--at] = T.CreateTruncating('-');
        return at;
    }

    private static double Scale(int decimals) => decimals switch { 4 => 1e4, 5 => 1e5, 6 => 1e6, _ => Math.Pow(10, decimals) };
}
