using System.Text.Json.Serialization;

namespace Falzkunst.Core.Cards;

/// <summary>What marks look like.</summary>
public enum MarkKind
{
    /// <summary>A bracket in three corners of the sheet; the corner without one tells which way round it lies.</summary>
    Brackets,

    /// <summary>A square in each corner; the one at the upper left is open in its middle.</summary>
    Squares,

    /// <summary>A dot in each corner, and a fifth beside the one at the upper left.</summary>
    Dots,
}

public static class MarkKinds
{
    /// <summary>The lower-case word for files and screens.</summary>
    public static string Word(this MarkKind kind) => kind switch { MarkKind.Brackets => "brackets", MarkKind.Squares => "squares", _ => "dots" };

    /// <summary>The kind of a word, however it is written; null where it is none.</summary>
    public static MarkKind? Find(string word) => Enum.GetValues<MarkKind>().Cast<MarkKind?>()
        .FirstOrDefault(k => string.Equals(k!.Value.Word(), word, StringComparison.OrdinalIgnoreCase));
}

/// <summary>How what is printed goes on beyond the edge that is cut.</summary>
public enum BleedBy
{
    /// <summary>Mirrored at the edge, so that patterns go on.</summary>
    Mirror,

    /// <summary>In the colour that it has at the edge.</summary>
    Edge,
}

/// <summary>How a docket is printed before it is cut; a docket without them is only cut.</summary>
public sealed record PrintSettings
{
    public static Length UsualBleed { get; } = Length.FromMm(2);

    public static Length UsualInset { get; } = Length.FromMm(8);

    public static Length UsualUnderOthers { get; } = Length.FromMm(6);

    /// <summary>The marks by which the machine finds the print; null where the sheets are only printed, and trimmed by hand.</summary>
    [JsonIgnore(Condition = JsonIgnoreCondition.Never)]
    public MarkKind? Marks { get; init; } = MarkKind.Brackets;

    /// <summary>From the sheet's edges to the nearest ink of a mark.</summary>
    public Length Inset { get; init; } = UsualInset;

    /// <summary>How far what is printed goes on beyond the edge that is cut.</summary>
    public Length Bleed { get; init; } = UsualBleed;

    [JsonIgnore(Condition = JsonIgnoreCondition.WhenWritingDefault)]
    public BleedBy BleedBy { get; init; }

    /// <summary>What a higher ply covers is printed no farther than this under it; null prints all of it.</summary>
    [JsonIgnore(Condition = JsonIgnoreCondition.WhenWritingNull)]
    public Length? UnderOthers { get; init; }

    /// <summary>What is wrong with them, as a sentence; null where all is well.</summary>
    public string? Fault() => !(Bleed.Mm is >= 0 and <= 20) ? "A bleed is 0 to 20 mm."
        : !(Inset.Mm is > 0 and <= 100) ? "Marks stand 4.2 to 100 mm in from the edges of the sheet."
        : UnderOthers is { } under && !(under.Mm is >= 0 and <= 100) ? "What is printed under others goes 0 to 100 mm."
        : Marks is { } kind && !Enum.IsDefined(kind) ? "Marks are brackets, squares or dots."
        : !Enum.IsDefined(BleedBy) ? "A bleed is mirrored, or of the edge's colour." : null;
}

/// <summary>Prints the docket before it is cut, or changes how; null only cuts it again.</summary>
public sealed record SetPrinting(PrintSettings? Print) : Edit
{
    public override string Describe(Design before) => (before.Print, Print) switch
    {
        (_, null) => "Print nothing, only cut",
        (null, { Marks: { } kind }) => $"Print it, with {kind.Word()}",
        (null, _) => "Print it, without marks",
        ({ } was, { } now) when was.Bleed != now.Bleed => $"Bleed {now.Bleed}",
        ({ } was, { } now) when was.Marks != now.Marks => now.Marks is { } kind ? $"Marks: {kind.Word()}" : "Print without marks",
        ({ } was, { } now) when was.UnderOthers != now.UnderOthers =>
            now.UnderOthers is { } under ? $"Print what is seen, and {under} under others" : "Print also what others cover",
        ({ } was, { } now) when was.Inset != now.Inset => $"Marks {now.Inset} from the edges",
        _ => "Change how it is printed",
    };

    public override string? Refusal(Design before) => Print?.Fault();

    public override Design Apply(Design design) => Refusal(design) is null ? design with { Print = Print } : design;
}

/// <summary>How printed lines look: their colour, width and dashes, and what fills them.</summary>
public sealed record SetInk(ImmutableArray<string> LineIds, Ink Ink) : Edit
{
    public override ImmutableArray<string> About => LineIds;

    public override string Describe(Design before) => $"{Count(LineIds.Length, "printed line")}: another ink";

    public override string? Refusal(Design before) => Ink is null || (Ink.Fill is null && Ink.Stroke is null) ? "Ink fills a shape, or draws a line."
        : Ink.Stroke is { } s && !(s.Width.Mm is > 0 and <= 100) ? "A printed line is up to 100 mm wide."
        : Ink.Stroke is { } d && d.Dashes.Any(l => !(l.Mm is > 0 and <= 1000)) ? "Dashes are up to 1 m long." : null;

    public override Design Apply(Design design) => Refusal(design) is not null ? design
        : design.ChangeLines(LineIds, (l, _) => l.Operation == Operation.Print ? l with { PrintedAs = Ink } : l);
}
