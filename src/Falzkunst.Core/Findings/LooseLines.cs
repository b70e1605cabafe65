using Falzkunst.Core.Cards;

namespace Falzkunst.Core.Findings;

/// <summary>
/// Lines that lie in no piece, one finding for each look. Why: only pieces are laid out, so these lines would be forgotten.
/// Remedies: what closes is a piece; what lies on a piece in part belongs to it; last of all, let them rest, which keeps them and says that nothing happens.
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
            ImmutableArray<Remedy> remedies = [.. Likely(c.Design, [.. look]), new(ids.Length == 1 ? "Let it rest" : "Let them rest",
                new SetLineOperation(ids, Operation.Rest))];
            yield return new("loose", Severity.Warn, look.First().Path.Bounds.Centre, text, ids, remedies[0]) { More = remedies[1..] };
        }
    }

    private static IEnumerable<Remedy> Likely(Design design, ImmutableArray<LaidLine> lines)
    {
        var closed = lines.Where(l => l.IsClosed).Select(l => l.Id).ToImmutableArray();
        if (!closed.IsEmpty) yield return new(closed.Length == 1 ? "Cut a piece of it" : $"Cut {closed.Length} pieces of them", new Become(closed,
            Meaning.Paper));
        if (closed.Length == lines.Length) yield break;
        if (JoinLines.IsLikely(lines)) yield return new("Join them to a piece", new JoinLines([.. lines.Select(l => l.Id)]));
        // The one piece that all of them lie on, in part.
        var box = lines.Aggregate(Box.Empty, (b, l) => b.With(l.Path.Bounds));
        var on = design.Pieces.Where(p => p.OnCard.Bounds.Touches(box) && lines.All(l => l.Path.Rings.Any(r => r.Any(p.OnCard.Encloses)))).Take(2).ToList();
        if (on is [var only]) yield return new($"Cut {(lines.Length == 1 ? "it" : "them")} off at {only.Label}", new CarryBy([.. lines.Select(l => l.Id)],
            only.Id));
    }
}
