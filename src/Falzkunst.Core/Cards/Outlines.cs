using System.Collections.Concurrent;

namespace Falzkunst.Core.Cards;

/// <summary>Derives outlines from shapes and their treatments.</summary>
internal static class Outlines
{
    private const int MostKept = 2000;

    // By content: the same text at the same size on a hundred tags is derived once, and an undone treatment is there again at once.
    private static readonly ConcurrentDictionary<Recipe, VectorPath> Derived = new();

    /// <summary>The outline: pure, and the same instance for the same content while it is remembered.</summary>
    /// <exception cref="OperationCanceledException">It was given up; nothing is remembered then.</exception>
    public static VectorPath Derive(Shape shape, ImmutableArray<Treatment> treatments, CancellationToken cancel = default)
    {
        if (Drawn(shape, treatments) is { } drawn) return drawn;
        var recipe = new Recipe(shape, treatments);
        if (Derived.TryGetValue(recipe, out var known)) return known;
        var outline = shape.Derive();
        foreach (var treatment in treatments) outline = treatment.Treat(outline, cancel);
        if (Derived.Count >= MostKept) Derived.Clear();
        return Derived.GetOrAdd(recipe, outline);
    }

    /// <summary>The outline where nothing is derived: a path as it was drawn. Null for all others.</summary>
    public static VectorPath? Drawn(Shape shape, ImmutableArray<Treatment> treatments) => shape is Drawn drawn && treatments.IsEmpty ? drawn.Path : null;

    private readonly record struct Recipe(Shape Shape, ImmutableArray<Treatment> Treatments)
    {
        public bool Equals(Recipe o) => Shape == o.Shape && Treatments.Same(o.Treatments);

        public override int GetHashCode() => HashCode.Combine(Shape, Treatments.Length, Treatments.IsEmpty ? null : Treatments[^1]);
    }
}
