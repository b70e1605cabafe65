using Falzkunst.Core.Strength;

namespace Falzkunst.Core.Cards;

/// <summary>How far letters have to be set apart so that all of them can grow strong.</summary>
internal static class WordSpacing
{
    /// <summary>Words with the least more between their letters from which on more of it does not help; the same where none helps. Looks for it by
    /// halving, within a quarter of the letters' height.</summary>
    public static Lettered Roomy(Lettered words, Limits limits, CancellationToken cancel)
    {
        const double enoughMm = 0.02;
        var most = Math.Max(words.CapHeight.Mm / 4, 2 * limits.Width.Mm);
        int now = Close(0), best = Close(most);
        // Letters that touch would come apart: the word is one part, and stays one.
        if (best >= now || Parts(0) != Parts(most)) return words;
        double low = 0, high = most;
        while (high - low > enoughMm)
        {
            var middle = (low + high) / 2;
            if (Close(middle) <= best) high = middle;
            else low = middle;
        }

        return With(high);

        Lettered With(double more) => words with { Spacing = words.Spacing + Length.FromMm(Math.Ceiling(more * 100) / 100) };

        int Close(double more) => Strengthening.CloseParts(With(more).Path, limits, cancel);

        int Parts(double more) => With(more).Path.Outer.Subpaths.Length;
    }
}
