using Falzkunst.Core.Cards;

namespace Falzkunst.Core.Findings;

/// <summary>
/// Lines that lie in no piece, one finding for each look. Why: only pieces are laid out, so these lines would be forgotten.
/// Remedy: let them rest, which keeps them and says that nothing happens.
/// </summary>
internal static class LooseLines
{
    public static IEnumerable<Finding> In(FindingContext c)
    {
        // Said once by NoPiece.
        if (c.Design.Pieces.IsEmpty) yield break;
        foreach (var look in c.Design.Lines.Where(l => l.By is null && l.Operation != Operation.Rest).GroupBy(l => l.Look, StringComparer.Ordinal))
        {
            var ids = look.Select(l => l.Id).ToImmutableArray();
            var what = c.Design.LookOf(look.Key)?.Describe() ?? "line";
            var text = ids.Length == 1
                ? $"A loose line ({what}) lies in no piece and would be forgotten."
                : $"{ids.Length} loose lines ({what}) lie in no piece and would be forgotten.";
            yield return new("loose", Severity.Warn, look.First().Path.Bounds.Centre, text, ids,
                new(ids.Length == 1 ? "Let it rest" : "Let them rest", new SetLineOperation(ids, Operation.Rest)));
        }
    }
}
