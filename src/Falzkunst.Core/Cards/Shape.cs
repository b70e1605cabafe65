using System.Text.Json.Serialization;
using Falzkunst.Core.Lettering;
using Falzkunst.Core.Regions;

namespace Falzkunst.Core.Cards;

/// <summary>What a piece is before its treatments, in the piece's own coordinates and at its true size.</summary>
[JsonPolymorphic(TypeDiscriminatorPropertyName = "is")]
[JsonDerivedType(typeof(Drawn), "drawn")]
[JsonDerivedType(typeof(Made), "made")]
[JsonDerivedType(typeof(Lettered), "lettered")]
public abstract record Shape
{
    /// <summary>Its outline, without treatments: outer edges clockwise on the screen, holes counter-clockwise. Pure.</summary>
    internal abstract VectorPath Derive();

    /// <summary>The same shape so many times as large.</summary>
    internal abstract Shape Scaled(double by);

    /// <summary>What is wrong with its numbers, as a part of a sentence; null where all is well.</summary>
    internal abstract string? Fault();
}

/// <summary>A shape that somebody or a file drew.</summary>
public sealed record Drawn(VectorPath Path) : Shape
{
    internal override VectorPath Derive() => Path;

    internal override Shape Scaled(double by) => new Drawn(Path.Transform(Affine.Scale(by, by)));

    internal override string? Fault() => null;
}

/// <summary>A shape that a maker makes from numbers, which stay what is stored.</summary>
/// <param name="Maker">One of <see cref="Makers.All"/>.</param>
/// <param name="Numbers">By name, lengths in mm.</param>
public sealed record Made(string Maker, ImmutableSortedDictionary<string, double> Numbers) : Shape
{
    internal override VectorPath Derive() => Makers.Find(Maker)?.Make(Numbers) ?? VectorPath.Empty;

    internal override Shape Scaled(double by) =>
        this with { Numbers = Numbers.ToImmutableSortedDictionary(n => n.Key, n => n.Value * by, Numbers.KeyComparer) };

    internal override string? Fault() => Makers.Find(Maker) is { } maker ? maker.Fault(Numbers) : $"there is no maker “{Maker}”";

    public bool Equals(Made? other) => other is not null && Maker == other.Maker && Numbers.SequenceEqual(other.Numbers);

    public override int GetHashCode() => HashCode.Combine(Maker, Numbers.Count, Numbers.Count > 0 ? Numbers.First().Value : 0);
}

/// <summary>A line of text, set in a typeface that ships; its letters are one outline where they touch. The base line is y = 0, the first letter begins at x =
/// 0.</summary>
/// <param name="CapHeight">The height of a capital H.</param>
/// <param name="Spacing">What is added between letters.</param>
public sealed record Lettered(string Text, string Face, int Weight, Length CapHeight, Length Spacing) : Shape
{
    private const int MostSigns = 2000;

    internal override VectorPath Derive()
    {
        if (Typeface.Find(Face, Weight) is not { } face) return VectorPath.Empty;
        var capital = face.Outline(face.Set("H")[0].Id).Bounds.Height;
        var size = CapHeight.Mm / capital;
        var letters = ImmutableArray.CreateBuilder<Subpath>();
        var n = 0;
        foreach (var glyph in face.Set(Text, Spacing == Length.Zero))
            letters.AddRange(face.Outline(glyph.Id)
                .Transform(Affine.Scale(size, size).Then(Affine.Move(glyph.X * size + n++ * Spacing.Mm, glyph.Y * size))).Subpaths);
        return new([.. Region.Parts(new(letters.ToImmutable()), FillRule.NonZero).OrderBy(p => p.Bounds.Left).SelectMany(p => p.Subpaths)]);
    }

    internal override Shape Scaled(double by) => this with { CapHeight = CapHeight * by, Spacing = Spacing * by };

    internal override string? Fault() =>
        Text.Length is 0 or > MostSigns ? $"a text has 1 to {MostSigns} signs"
        : CapHeight.Mm is not (>= 0.1 and <= 2000) ? "letters are 0.1 mm to 2 m high"
        : Math.Abs(Spacing.Mm) > 1000 ? "letters are at most 1 m apart"
        : Typeface.Find(Face, Weight) is null ? $"the typeface “{Face}” does not ship with the application" : null;
}
