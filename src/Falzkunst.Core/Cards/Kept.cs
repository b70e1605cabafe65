namespace Falzkunst.Core.Cards;

/// <summary>
/// Something derived from a part of an immutable record, with what it was derived from. A copy made by <c>with</c> takes it along, and derives it anew only
/// where that part changed.
/// </summary>
internal sealed class Kept<TFrom, TValue>(TFrom from, TValue value)
{
    public TFrom From => from;

    public TValue Value => value;
}

internal static class Kept
{
    /// <summary>What follows from <paramref name="from"/>, remembered. Safe for readers side by side: each sees a whole one.</summary>
    public static TValue Of<TFrom, TValue>(ref Kept<TFrom, TValue>? kept, TFrom from, Func<TFrom, TValue> derive)
    {
        var known = kept;
        if (known is not null && EqualityComparer<TFrom>.Default.Equals(known.From, from)) return known.Value;
        var value = derive(from);
        kept = new(from, value);
        return value;
    }

    /// <summary>Whether two lists hold equal things in the same order.</summary>
    public static bool Same<T>(this ImmutableArray<T> a, ImmutableArray<T> b) => a == b || a.AsSpan().SequenceEqual(b.AsSpan(), EqualityComparer<T>.Default);
}
