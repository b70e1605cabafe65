using System.Text.Json.Serialization;
using Falzkunst.Core.Regions;
using Falzkunst.Core.Strength;

namespace Falzkunst.Core.Cards;

/// <summary>Something done to a shape that can be taken off or changed later. Treatments are derived anew at a new size; their numbers stay as they
/// are.</summary>
[JsonPolymorphic(TypeDiscriminatorPropertyName = "is")]
[JsonDerivedType(typeof(Outset), "outset")]
[JsonDerivedType(typeof(FilledHoles), "filledHoles")]
[JsonDerivedType(typeof(SizedHoles), "sizedHoles")]
[JsonDerivedType(typeof(RoundedCorners), "roundedCorners")]
[JsonDerivedType(typeof(Rim), "rim")]
[JsonDerivedType(typeof(Smoothed), "smoothed")]
[JsonDerivedType(typeof(Simplified), "simplified")]
[JsonDerivedType(typeof(Strengthened), "strengthened")]
[JsonDerivedType(typeof(WithoutSpecks), "withoutSpecks")]
[JsonDerivedType(typeof(Bridged), "bridged")]
public abstract record Treatment
{
    /// <summary>The outline after it. Pure. Empty where nothing is left.</summary>
    /// <exception cref="OperationCanceledException">It was given up; only what takes long listens.</exception>
    internal abstract VectorPath Treat(VectorPath outline, CancellationToken cancel = default);

    /// <summary>The treatments of a piece with this one, in the order in which they are done: behind all others, where nothing else is said.</summary>
    internal virtual ImmutableArray<Treatment> AddedTo(ImmutableArray<Treatment> all) => all.Add(this);

    /// <summary>What is wrong with its numbers, as a part of a sentence; null where all is well.</summary>
    internal abstract string? Fault();

    /// <summary>What it does, in words: "2 mm larger all round".</summary>
    public abstract string Describe();
}

/// <summary>Every edge moved out by a distance; negative moves it in. Holes move too.</summary>
public sealed record Outset(Length By) : Treatment
{
    /// <summary>What becomes of corners that open.</summary>
    [JsonIgnore(Condition = JsonIgnoreCondition.WhenWritingDefault)]
    public CornerStyle Corners { get; init; }

    internal override VectorPath Treat(VectorPath outline, CancellationToken cancel = default) =>
        By == Length.Zero ? outline : VectorPath.Joined(Outsets.Of(outline, By.Mm, Corners));

    internal override string? Fault() => !(Math.Abs(By.Mm) <= 1000) ? "an outset is at most 1 m"
        : !Enum.IsDefined(Corners) ? "corners are round, sharp or bevel" : null;

    public override string Describe() => $"{Length.FromMm(Math.Abs(By.Mm))} {(By >= Length.Zero ? "larger" : "smaller")} all round"
        + Corners switch { CornerStyle.Sharp => ", corners sharp", CornerStyle.Bevel => ", corners bevelled", _ => "" };
}

/// <summary>Holes under a size are paper again; or certain ones, whatever their size.</summary>
public sealed record FilledHoles(double UnderMm2) : Treatment
{
    /// <summary>Under this size are all that a piece can have.</summary>
    public const double All = 1e8;

    /// <summary>The holes to fill, as rings of the outline before it, from 0; empty fills all under the size.</summary>
    public ImmutableArray<int> Rings { get; init; } = [];

    internal override VectorPath Treat(VectorPath outline, CancellationToken cancel = default) => new([.. outline.Subpaths.Where((s, i) => Rings.IsEmpty
        ? Polygons.SignedArea(outline.Rings[i]) is var area && (area > 0 || -area >= UnderMm2) : s.SignedAreaMm2 > 0 || !Rings.Contains(i))]);

    internal override string? Fault() => UnderMm2 is >= 0 and <= All && !Rings.IsDefault ? null : "holes are filled under 0 to 100,000,000 mm²";

    public override string Describe() => !Rings.IsEmpty ? $"{(Rings.Length == 1 ? "1 hole" : $"{Rings.Length} holes")} filled"
        : UnderMm2 >= All ? "all holes filled"
        : string.Create(CultureInfo.InvariantCulture, $"holes under {UnderMm2:0.##} mm² filled");

    public bool Equals(FilledHoles? o) => o is not null && UnderMm2 == o.UnderMm2 && Rings.Same(o.Rings);

    public override int GetHashCode() => HashCode.Combine(UnderMm2, Rings.Length);
}

/// <summary>The edges of holes moved out by a distance; negative makes holes smaller, so that what lies between them is wider. The outer edge stays.</summary>
public sealed record SizedHoles(Length By) : Treatment
{
    internal override VectorPath Treat(VectorPath outline, CancellationToken cancel = default)
    {
        if (By == Length.Zero) return outline;
        var outer = outline.Outer;
        var holes = outline.Subpaths.Where(s => s.SignedAreaMm2 <= 0).SelectMany(s => Outsets.Of(new([s.Reverse()]), By.Mm)).ToList();
        if (holes.Count == 0 || By < Length.Zero) return outer.With(new([.. holes.SelectMany(h => h.Subpaths).Select(s => s.Reverse())]));
        return VectorPath.Joined(Together.TakeAway(outer, holes));
    }

    internal override string? Fault() => Math.Abs(By.Mm) <= 1000 ? null : "holes are made larger by at most 1 m";

    public override string Describe() => $"holes {Length.FromMm(Math.Abs(By.Mm))} {(By >= Length.Zero ? "larger" : "smaller")} all round";
}

/// <summary>Corners rounded, outward and inward ones; one that is too near to the next is rounded as far as fits.</summary>
public sealed record RoundedCorners(Length Radius) : Treatment
{
    /// <summary>The corners to round, as <see cref="Fillets.CornersOf"/> counts them on the outline before it; empty rounds all.</summary>
    public ImmutableArray<int> Only { get; init; } = [];

    internal override VectorPath Treat(VectorPath outline, CancellationToken cancel = default) =>
        Fillets.Round(outline, Radius.Mm, k => Only.IsEmpty || Only.Contains(k));

    internal override string? Fault() => Radius.Mm is >= 0.01 and <= 5000 && !Only.IsDefault ? null : "corners are rounded by 0.01 mm to 5 m";

    public override string Describe() => $"{(Only.IsEmpty ? "corners" : Only.Length == 1 ? "1 corner" : $"{Only.Length} corners")} rounded by {Radius}";

    public bool Equals(RoundedCorners? o) => o is not null && Radius == o.Radius && Only.Same(o.Only);

    public override int GetHashCode() => HashCode.Combine(Radius, Only.Length);
}

/// <summary>Only a rim of some width along the outer edge is left, with what holes there are in it.</summary>
public sealed record Rim(Length Width) : Treatment
{
    internal override VectorPath Treat(VectorPath outline, CancellationToken cancel = default)
    {
        var inner = Outsets.Of(outline.Outer, -Width.Mm);
        return VectorPath.Joined(Together.TakeAway(outline, inner));
    }

    internal override string? Fault() => Width.Mm is >= 0.1 and <= 5000 ? null : "a rim is 0.1 mm to 5 m wide";

    public override string Describe() => $"a rim {Width} wide";
}

/// <summary>Without spikes, slivers, notches and slits narrower than a size.</summary>
public sealed record Smoothed(Length Size) : Treatment
{
    internal override VectorPath Treat(VectorPath outline, CancellationToken cancel = default) => Smoothing.Of(outline, Size.Mm).Outline;

    internal override string? Fault() => Size.Mm is >= 0.02 and <= 100 ? null : "what is smoothed away is 0.02 to 100 mm wide";

    public override string Describe() => $"what is narrower than {Size} smoothed away";
}

/// <summary>Of fewer nodes, within a tolerance.</summary>
public sealed record Simplified(Length Tolerance) : Treatment
{
    internal override VectorPath Treat(VectorPath outline, CancellationToken cancel = default) => Smoothing.Simplified(outline, Tolerance.Mm);

    internal override string? Fault() => Tolerance.Mm is >= 0.001 and <= 10 ? null : "an outline is simplified within 0.001 to 10 mm";

    public override string Describe() => $"simpler, within {Tolerance}";
}

/// <summary>Made strong enough for a paper, with parts, holes and gaps kept (<see cref="Strengthening"/>). Its limits stay at another size, and what grows is
/// derived anew.</summary>
public sealed record Strengthened(StrengthenWay Way, Limits Limits) : Treatment
{
    /// <summary>How far edges go, where all of them do; zero where only thin places grow.</summary>
    [JsonIgnore(Condition = JsonIgnoreCondition.WhenWritingDefault)]
    public Length By { get; init; }

    /// <summary>So many times as much as its stock asks for: other limits follow from another stock. Null where the limits were typed.</summary>
    [JsonIgnore(Condition = JsonIgnoreCondition.WhenWritingNull)]
    public double? OfStock { get; init; }

    /// <summary>What lay so near beside it on its ply that both could grow together, in the piece's coordinates; half of the gap is left to that.</summary>
    [JsonIgnore(Condition = JsonIgnoreCondition.WhenWritingNull)]
    public VectorPath? Beside { get; init; }

    /// <summary>How far its parts may be moved apart first, so that all can grow; zero where they stay.</summary>
    [JsonIgnore(Condition = JsonIgnoreCondition.WhenWritingDefault)]
    public Length Apart { get; init; }

    /// <summary>Whether a piece is strengthened.</summary>
    public static bool IsOn(Piece piece) => piece.Treatments.Any(t => t is Strengthened);

    /// <summary>The outline of a piece, in its own coordinates, as it was before it was strengthened; its own where it was not.</summary>
    public static VectorPath Before(Piece piece) => IsOn(piece) ? Outlines.Derive(piece.Shape, Without(piece)) : piece.Outline;

    /// <summary>What else is done to a piece.</summary>
    internal static ImmutableArray<Treatment> Without(Piece piece) => piece.Treatments.RemoveAll(t => t is Strengthened);

    internal override VectorPath Treat(VectorPath outline, CancellationToken cancel = default) =>
        Strengthening.Of(outline, Way, Limits, By.Mm, Beside, Apart.Mm, cancel);

    internal override string? Fault() => Limits?.Fault() is { } fault ? fault[..1].ToLowerInvariant() + fault[1..fault.IndexOf(';', StringComparison.Ordinal)]
        : !Enum.IsDefined(Way) ? "an outline is strengthened where it is thin, all round, or at its holes"
        : Limits is null || By.Mm is not (>= 0 and <= 20) ? "edges go out by up to 20 mm"
        : Apart.Mm is not (>= 0 and <= 20) ? "parts are moved apart by up to 20 mm" : null;

    public override string Describe() => Way switch
    {
        StrengthenWay.OnlyThin => $"strengthened to {Limits.Width} where thin",
        StrengthenWay.AllRound => $"strengthened by {By} all round",
        _ => $"holes strengthened by {By}",
    } + (Apart > Length.Zero ? $", parts up to {Apart} apart" : "");
}

/// <summary>Parts that were joined to no other, joined to their neighbours (<see cref="Bridges"/>).</summary>
/// <param name="Width">Of each bridge.</param>
/// <param name="Within">The longest that one may be.</param>
/// <param name="UnderMm2">Only smaller parts are joined; null joins all.</param>
public sealed record Bridged(Length Width, Length Within, double? UnderMm2 = null) : Treatment
{
    /// <summary>Before it is strengthened, so that bridges are too.</summary>
    internal override ImmutableArray<Treatment> AddedTo(ImmutableArray<Treatment> all) =>
        all.Insert(all.TakeWhile(t => t is not Strengthened).Count(), this);

    internal override VectorPath Treat(VectorPath outline, CancellationToken cancel = default) =>
        Bridges.Of(outline, Width.Mm, Within.Mm, UnderMm2, cancel);

    internal override string? Fault() => Width.Mm is not (>= 0.1 and <= 100) ? "a bridge is 0.1 to 100 mm wide"
        : Within.Mm is not (>= 0.1 and <= 1000) ? "a bridge is up to 1 m long"
        : UnderMm2 is { } under && under is not (> 0 and <= 1e6) ? "parts are joined by their area in mm²" : null;

    public override string Describe() => $"{(UnderMm2 is null ? "loose parts" : "dots")} joined by bridges {Width} wide";
}

/// <summary>Without parts and holes that are too small to be worth cutting; a piece that is nothing else stays.</summary>
/// <param name="PartsMm2">Smaller parts go.</param>
/// <param name="HolesMm2">Smaller holes are filled.</param>
public sealed record WithoutSpecks(double PartsMm2, double HolesMm2) : Treatment
{
    internal override VectorPath Treat(VectorPath outline, CancellationToken cancel = default)
    {
        VectorPath kept = new([.. outline.Subpaths.Where(s => s.SignedAreaMm2 is var a && (a > 0 ? a >= PartsMm2 : -a >= HolesMm2))]);
        return kept.SignedAreaMm2 > 0 ? kept : outline;
    }

    internal override string? Fault() => PartsMm2 is >= 0 and <= 1e4 && HolesMm2 is >= 0 and <= 1e4 ? null : "specks are up to 10,000 mm²";

    public override string Describe() => string.Create(CultureInfo.InvariantCulture, $"without specks under {Math.Max(PartsMm2, HolesMm2):0.##} mm²");
}
