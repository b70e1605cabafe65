namespace Falzkunst.Core.Cards;

/// <summary>Scores lines twice, so that a thick stack folds between them; null scores them once again.</summary>
public sealed record ScoreTwice(ImmutableArray<string> LineIds, Length? Apart) : Edit
{
    public override ImmutableArray<string> About => LineIds;

    public override string Describe(Design before) => Apart is { } apart ? $"Score {Count(LineIds.Length, "line")} twice, {apart} apart"
        : $"Score {Count(LineIds.Length, "line")} once";

    public override string? Refusal(Design before) => Apart is null or { Mm: >= 0.3 and <= 20 } ? null : "Two scores lie 0.3 to 20 mm apart.";

    public override Design Apply(Design design) => Refusal(design) is not null ? design
        : design.ChangeLines(LineIds, (l, by) => l.Operation == Operation.Score && Folds.IsStraight(l.Path, out _, out _) ? l with { ScoredTwice = Apart } : l);

    /// <summary>Where a line is scored: on both sides of it where it is straight, half the distance away, and otherwise along it.</summary>
    internal static IReadOnlyList<VectorPath> Along(VectorPath line, Length apart)
    {
        if (!Folds.IsStraight(line, out var a, out var b) || a.DistanceTo(b) <= Tolerances.Same) return line.Parts();
        var across = new Point(a.Y - b.Y, b.X - a.X) * (apart.Mm / 2 / a.DistanceTo(b));
        return [VectorPath.Polyline(a + across, b + across), VectorPath.Polyline(a - across, b - across)];
    }
}
