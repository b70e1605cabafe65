namespace Falzkunst.Core.Cards;

/// <summary>The pattern that fills a closed line.</summary>
public enum InfillKind
{
    /// <summary>The outline again and again, ever smaller.</summary>
    Echo,

    /// <summary>One line from the outline to the middle, where the shape allows it; otherwise as <see cref="Echo"/>.</summary>
    Spiral,

    /// <summary>Parallel lines, to and fro.</summary>
    Hatch,

    /// <summary>Parallel lines, and others across them.</summary>
    Crossed,
}

/// <summary>How closed lines that are drawn, foiled or debossed are filled; <see cref="InfillStrokes"/> derives the strokes for the tool at hand.</summary>
/// <param name="Angle">Of the lines of a hatch, from level, clockwise; nothing for the others.</param>
/// <param name="Overlap">How much of a line's width lies on the one beside it, from 0 to 0.6.</param>
public sealed record Infill(InfillKind Kind, Angle Angle, double Overlap = Infill.UsualOverlap)
{
    public const double UsualOverlap = 0.1;

    /// <summary>The choices that are offered, each at its usual angle.</summary>
    public static ImmutableArray<Infill> Choices { get; } =
    [
        new(InfillKind.Echo, Angle.Zero), new(InfillKind.Spiral, Angle.Zero), new(InfillKind.Hatch, Angle.FromDegrees(45)),
        new(InfillKind.Crossed, Angle.FromDegrees(45)),
    ];

    /// <summary>What is wrong with it, as a sentence; null where all is well.</summary>
    public string? Fault() => !Enum.IsDefined(Kind) ? "That way to fill is not known."
        : Overlap is >= 0 and <= 0.6 ? null : "Lines of an infill overlap by 0 to 60 % of their width.";

    /// <summary>As it is called in a sentence: "with echo lines", "with a hatch of 45°".</summary>
    public string InWords() => Kind switch
    {
        InfillKind.Echo => "with echo lines",
        InfillKind.Spiral => "with a spiral",
        InfillKind.Hatch => $"with a hatch of {Angle}",
        _ => $"with a crossed hatch of {Angle}",
    };

    /// <summary>Whether what an operation makes can be filled.</summary>
    public static bool Suits(Operation operation) => operation is Operation.Draw or Operation.Foil or Operation.Deboss;
}

/// <summary>Says how closed lines are filled; null leaves their outlines alone.</summary>
public sealed record SetInfill(ImmutableArray<string> LineIds, Infill? Infill) : Edit
{
    public override ImmutableArray<string> About => LineIds;

    public override string Describe(Design before) => Infill is { } infill ? $"Fill {Count(LineIds.Length, "line")} {infill.InWords()}"
        : $"Leave {Count(LineIds.Length, "line")} unfilled";

    public override string? Refusal(Design before) => Infill?.Fault();

    public override Design Apply(Design design) => Refusal(design) is not null ? design
        : design.ChangeLines(LineIds, (l, _) => l.IsClosed && Cards.Infill.Suits(l.Operation) ? l with { Infill = Infill } : l);
}
