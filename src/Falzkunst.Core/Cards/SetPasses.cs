namespace Falzkunst.Core.Cards;

/// <summary>Has lines, and the edges of pieces, worked so many times whatever is set for their paper: a detail that must come through. Null leaves it to the
/// setting.</summary>
public sealed record SetPasses(ImmutableArray<string> Ids, int? Passes) : Edit
{
    public const int Most = 20;

    public override ImmutableArray<string> About => Ids;

    public override string Describe(Design before) => Passes is { } n ? $"{n} {(n == 1 ? "pass" : "passes")} along {Count(Ids.Length, "thing")}"
        : $"Passes of {Count(Ids.Length, "thing")} as the paper is set";

    public override string? Refusal(Design before) => Passes is null or (>= 1 and <= Most) ? null : "Passes go from 1 to 20.";

    public override Design Apply(Design design) => Refusal(design) is not null ? design : design
        .ChangeLines(Ids, (l, _) => l with { Passes = Passes })
        .ChangePieces(Ids, p => p with { Edges = p.Edges.Change((e, _) => e.Passes == Passes ? e : e with { Passes = Passes }) });
}
