using Falzkunst.Core.Cards;

namespace Falzkunst.Core.Findings;

/// <summary>
/// A perforated line that is shorter than one dash with paper at both ends. Why: with shorter dashes and gaps than were asked for it tears too soon, or not at
/// all. Remedy: score it instead.
/// </summary>
internal static class PerforationTooLong
{
    public static IEnumerable<Finding> In(Piece piece, FindingContext c)
    {
        foreach (var line in piece.Lines.Where(l => l.Operation == Operation.Perforate))
        {
            var dashes = line.PerforatedBy;
            if (line.Path.Parts().FirstOrDefault(p => !p.IsClosed && dashes.AreLongerThan(p.Length)) is not { } part) continue;
            yield return new("perforation-long", Severity.Warn, piece.Place.Map.Apply(part.Subpaths[0].Start),
                $"A perforation on {piece.Label} is {part.Length} long: too short for a cut of {dashes.Dash} with {dashes.Gap} of paper at both ends.",
                [line.Id, piece.Id], new("Score it instead", new SetLineOperation([line.Id], Operation.Score)));
        }
    }
}
