namespace Falzkunst.Core.Cards;

/// <summary>Says which pen draws lines.</summary>
/// <param name="Pen">Its colour; null takes any.</param>
/// <param name="Width">Of its line; null takes the pen that is usual.</param>
public sealed record SetPen(ImmutableArray<string> LineIds, Colour? Pen, Length? Width) : Edit
{
    public override ImmutableArray<string> About => LineIds;

    public override string Describe(Design before) => $"{Count(LineIds.Length, "line")} with "
        + $"{(Pen is { } pen ? $"a {ColourNames.Of(pen)} pen" : "any pen")}{(Width is { } width ? $" of {width}" : "")}";

    public override string? Refusal(Design before) => Fault(Width);

    /// <summary>Why no pen makes lines of a width, as a sentence; null where one does.</summary>
    internal static string? Fault(Length? width) => width is null or { Mm: >= 0.05 and <= 10 } ? null : "Pens make lines of 0.05 to 10 mm.";

    public override Design Apply(Design design) => Refusal(design) is not null ? design
        : design.ChangeLines(LineIds, (l, _) => l.Operation == Operation.Draw ? l with { Pen = Pen, PenWidth = Width } : l);
}

/// <summary>Says what lines are foiled with.</summary>
/// <param name="Foil">As it is called in the drawer; null takes any.</param>
/// <param name="Width">Of the tip's line; null takes the tip that is usual.</param>
public sealed record SetFoil(ImmutableArray<string> LineIds, string? Foil, Length? Width) : Edit
{
    public override ImmutableArray<string> About => LineIds;

    public override string Describe(Design before) =>
        $"{Count(LineIds.Length, "line")} with {Foil ?? "any foil"}{(Width is { } width ? $", {width} wide" : "")}";

    public override string? Refusal(Design before) => Foil is { Length: 0 or > 60 } ? "A foil has a name of 1 to 60 letters."
        : Width is null or { Mm: >= 0.05 and <= 10 } ? null : "Tips make lines of 0.05 to 10 mm.";

    public override Design Apply(Design design) => Refusal(design) is not null ? design
        : design.ChangeLines(LineIds, (l, _) => l.Operation == Operation.Foil ? l with { Foil = Foil, PenWidth = Width } : l);
}
