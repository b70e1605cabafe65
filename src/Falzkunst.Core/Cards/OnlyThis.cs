namespace Falzkunst.Core.Cards;

/// <summary>One action that leaves work to a few things: all else stays where it is, and nothing happens to it.</summary>
public static class OnlyThis
{
    /// <summary>Of some pieces only the outer edges are cut; holes and lines on them rest, what is printed stays printed. Null where it is so
    /// already.</summary>
    public static Edit? OuterEdges(Design design, IReadOnlyList<Piece> pieces)
    {
        ImmutableArray<string> ids = [.. pieces.Where(p => !p.IsThing).Select(p => p.Id)];
        ImmutableArray<string> lines = [.. pieces.SelectMany(p => p.Lines).Where(Works).Select(l => l.Id)];
        return Together(design, $"Cut only the outer edges of {(ids.Length == 1 ? "one piece" : $"{ids.Length} pieces")}",
            new SetOutlineOperation(ids, Operation.Cut, true, false),
            new SetOutlineOperation(ids, Operation.Rest, false, true), new SetLineOperation(lines, Operation.Rest));
    }

    /// <summary>Only what is chosen is worked: a piece with all that it carries, or a line by itself. Null where nothing else is.</summary>
    public static Edit? Chosen(Design design, IReadOnlySet<string> chosen)
    {
        ImmutableArray<string> pieces = [.. design.Papers.Where(p => !chosen.Contains(p.Id)).Select(p => p.Id)];
        ImmutableArray<string> lines = [.. design.Lines.Where(l => !chosen.Contains(l.Id) && (l.CarriedBy is not { } by || !chosen.Contains(by))
            && Works(l.Line)).Select(l => l.Id)];
        return Together(design, "Make only what is chosen", new SetOutlineOperation(pieces, Operation.Rest, true, true),
            new SetLineOperation(lines, Operation.Rest));
    }

    private static bool Works(Line line) => line.Operation is not (Operation.Rest or Operation.Print);

    private static Edit? Together(Design design, string says, params ReadOnlySpan<Edit> edits)
    {
        var (next, needed) = (design, ImmutableArray.CreateBuilder<Edit>());
        foreach (var edit in edits)
        {
            var then = edit.Apply(next);
            if (then == next) continue;
            needed.Add(edit);
            next = then;
        }

        return needed.Count == 0 ? null : new Series(needed.ToImmutable(), says);
    }
}
