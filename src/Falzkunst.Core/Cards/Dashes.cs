using System.Text.Json.Serialization;

namespace Falzkunst.Core.Cards;

/// <summary>
/// How a perforation is cut: dashes, and the paper that is left between them. Both ends stay closed, so that it does not tear from there: a line begins and
/// ends with a gap. Dashes and gaps are made longer or shorter alike, so that they go into the line evenly: 2 mm and 1 mm on a line of 21 mm are 7 dashes of
/// 1.91 mm with gaps of 0.95 mm.
/// </summary>
public sealed record Dashes(Length Dash, Length Gap)
{
    public static Dashes Usual { get; } = new(Length.FromMm(2), Length.FromMm(1));

    /// <summary>What is wrong with them, as a sentence; null where all is well.</summary>
    public string? Fault() => Dash.Mm is >= 0.3 and <= 50 && Gap.Mm is >= 0.2 and <= 50 ? null
        : "Dashes of a perforation are 0.3 to 50 mm long, with 0.2 to 50 mm of paper between them.";

    /// <summary>Whether not even one dash with a gap at both ends goes into a line, so that it has to be shorter.</summary>
    public bool AreLongerThan(Length line) => line.Mm < Dash.Mm + 2 * Gap.Mm - Tolerances.Same;

    /// <summary>How they go into a line.</summary>
    /// <param name="isClosed">Whether it has no ends.</param>
    public (int Number, Length Dash, Length Gap) On(Length line, bool isClosed)
    {
        var both = Dash.Mm + Gap.Mm;
        var number = Math.Max(1, (int)Math.Round((line.Mm - (isClosed ? 0 : Gap.Mm)) / both));
        var scale = line.Mm / (number * both + (isClosed ? 0 : Gap.Mm));
        return (number, Dash * scale, Gap * scale);
    }

    /// <summary>What is cut of a line, from its start to its end: one open path for each dash, within 0.002 mm of it.</summary>
    public ImmutableArray<VectorPath> Along(VectorPath line)
    {
        var all = ImmutableArray.CreateBuilder<VectorPath>();
        foreach (var sub in line.Subpaths)
        {
            var points = sub.Walk(Tolerances.Measure);
            var length = VectorPath.PolylineLength(points, false);
            if (length <= Tolerances.Same) continue;
            var (number, dash, gap) = On(Length.FromMm(length), sub.Closed);
            var walk = new PathWalk(points);
            for (var i = 0; i < number; i++)
            {
                var from = gap.Mm * (sub.Closed ? 0.5 : 1) + i * (dash.Mm + gap.Mm);
                all.Add(VectorPath.Polyline([.. walk.Between(from, from + dash.Mm)]));
            }
        }

        return all.ToImmutable();
    }
}

/// <summary>Says how lines are perforated, and the edges of pieces.</summary>
/// <param name="Ids">Of lines and pieces; kept under the name that they had while it was lines only.</param>
public sealed record SetDashes([property: JsonPropertyName("LineIds")] ImmutableArray<string> Ids, Dashes Dashes) : Edit
{
    public override ImmutableArray<string> About => Ids;

    public override string Describe(Design before) => $"Perforate {Count(Ids.Length, "thing")}: {Dashes.Dash} cut, {Dashes.Gap} left";

    public override string? Refusal(Design before) => Dashes is null ? "It says nothing." : Dashes.Fault();

    public override Design Apply(Design design) => Refusal(design) is not null ? design : design
        .ChangeLines(Ids, (l, _) => l.Operation == Operation.Perforate ? l with { Dashes = Kept } : l)
        .ChangePieces(Ids, p => p with
        {
            Edges = p.Edges.Change((e, _) => e.Operation == Operation.Perforate && e.PerforatedBy != Dashes ? e with { Dashes = Kept } : e),
        });

    private Dashes? Kept => Dashes == Dashes.Usual ? null : Dashes;
}
