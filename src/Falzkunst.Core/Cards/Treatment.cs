using System.Text.Json.Serialization;
using Falzkunst.Core.Regions;

namespace Falzkunst.Core.Cards;

/// <summary>Something done to a shape that can be taken off or changed later. Treatments are derived anew at a new size; their numbers stay as they
/// are.</summary>
[JsonPolymorphic(TypeDiscriminatorPropertyName = "is")]
[JsonDerivedType(typeof(Outset), "outset")]
[JsonDerivedType(typeof(FilledHoles), "filledHoles")]
public abstract record Treatment
{
    /// <summary>The outline after it. Pure. Empty where nothing is left.</summary>
    internal abstract VectorPath Treat(VectorPath outline);

    /// <summary>What is wrong with its numbers, as a part of a sentence; null where all is well.</summary>
    internal abstract string? Fault();

    /// <summary>What it does, in words: "2 mm larger all round".</summary>
    public abstract string Describe();
}

/// <summary>Everything within a distance of the outline; negative is what is left when its edge comes in. Corners are round.</summary>
public sealed record Outset(Length By) : Treatment
{
    /// <summary>Its edges are chords (see <see cref="Region.Outset"/>).</summary>
    internal override VectorPath Treat(VectorPath outline) =>
        By == Length.Zero ? outline : new([.. Region.Of(outline, Tolerances.Measure).Outset(By).ToPaths().SelectMany(p => p.Subpaths)]);

    internal override string? Fault() => Math.Abs(By.Mm) <= 1000 ? null : "an outset is at most 1 m";

    public override string Describe() => $"{Length.FromMm(Math.Abs(By.Mm))} {(By >= Length.Zero ? "larger" : "smaller")} all round";
}

/// <summary>Holes under a size are paper again.</summary>
public sealed record FilledHoles(double UnderMm2) : Treatment
{
    internal override VectorPath Treat(VectorPath outline) =>
        new([.. outline.Subpaths.Where((_, i) => Polygons.SignedArea(outline.Rings[i]) is var area && (area > 0 || -area >= UnderMm2))]);

    internal override string? Fault() => UnderMm2 is >= 0 and <= 1e8 ? null : "holes are filled under 0 to 100,000,000 mm²";

    public override string Describe() => string.Create(CultureInfo.InvariantCulture, $"holes under {UnderMm2:0.##} mm² filled");
}
