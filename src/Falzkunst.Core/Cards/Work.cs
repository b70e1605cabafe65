namespace Falzkunst.Core.Cards;

/// <summary>What one operation would do now: along how many outer edges, holes and lines, and how far.</summary>
public sealed record Work(Operation Operation, int Edges, int Holes, int Lines, Length Run)
{
    /// <summary>What would happen to some pieces and what they carry, in the order of the operations; operations that do nothing are left out. Linear in the
    /// things.</summary>
    public static IReadOnlyList<Work> Of(IEnumerable<Piece> pieces, IEnumerable<Line> loose)
    {
        var (edges, holes, lines, run) = (new int[Count], new int[Count], new int[Count], new Length[Count]);
        foreach (var p in pieces)
        {
            if (p.IsThing) continue;
            for (var i = 0; i < p.Edges.Length; i++)
            {
                var operation = (int)p.Edges[i].Operation;
                (p.IsOuter(i) ? edges : holes)[operation]++;
                run[operation] += p.Outline.Parts()[i].Length;
            }

            foreach (var l in p.Lines) Add(l);
        }

        foreach (var l in loose) Add(l);
        return [.. Operations.All.Where(o => edges[(int)o] + holes[(int)o] + lines[(int)o] > 0)
            .Select(o => new Work(o, edges[(int)o], holes[(int)o], lines[(int)o], run[(int)o]))];

        void Add(Line l)
        {
            lines[(int)l.Operation]++;
            run[(int)l.Operation] += l.Path.Length;
        }
    }

    private static int Count => Operations.All.Count;

    /// <summary>How many outlines, holes and lines together.</summary>
    public int All => Edges + Holes + Lines;
}

/// <summary>Everything of one look, whatever it is.</summary>
public static class LookMembers
{
    /// <summary>The ids of its pieces, of its holes (as <see cref="Become"/> takes them) and of its lines. Linear in the design.</summary>
    public static ImmutableArray<string> Of(Design design, string lookKey)
    {
        var ids = ImmutableArray.CreateBuilder<string>();
        foreach (var p in design.Pieces)
        {
            if (p.Look == lookKey) ids.Add(p.Id);
            for (var i = 1; i < p.Edges.Length; i++)
                if (p.Edges[i].Origin?.Look == lookKey) ids.Add(RingId.Of(p.Id, i));
        }

        foreach (var l in design.Lines)
            if (l.Look == lookKey) ids.Add(l.Id);
        return ids.ToImmutable();
    }

    /// <summary>What all things of a look are; null where they are not all the same, or there is none.</summary>
    public static Meaning? MeaningOf(Design design, string lookKey) => MeaningsOf(design).GetValueOrDefault(lookKey);

    /// <summary>What all things of each look are, null for a look whose things are not all the same; looks that nothing has are not in it. Linear in the
    /// design.</summary>
    public static IReadOnlyDictionary<string, Meaning?> MeaningsOf(Design design)
    {
        var all = new Dictionary<string, Meaning?>(StringComparer.Ordinal);
        foreach (var p in design.Pieces)
        {
            Note(p.Look, Meaning.Paper);
            foreach (var e in p.Edges.Skip(1))
                if (e.Origin is { } drawn) Note(drawn.Look, Meaning.Hole);
        }

        foreach (var l in design.Lines) Note(l.Look, l.Operation.ToMeaning());
        return all;

        void Note(string look, Meaning meaning) => all[look] = !all.TryGetValue(look, out var known) || known == meaning ? meaning : null;
    }

    /// <summary>Whether everything of a look is left out of the card.</summary>
    public static bool IsLeftOut(Design design, string lookKey) => Of(design, lookKey).IsEmpty && LeftOutParts(design, lookKey).Count > 0;

    /// <summary>The parts that things of a look were left out with.</summary>
    public static IReadOnlyList<string> LeftOutParts(Design design, string lookKey) =>
        [.. design.AllPieces.Where(p => p.Look == lookKey).Select(p => p.LeftOut)
            .Concat(design.AllPieces.SelectMany(p => p.AllLines).Concat(design.AllLoose).Where(l => l.Origin?.Look == lookKey).Select(l => l.LeftOut))
            .OfType<string>().Distinct(StringComparer.Ordinal)];
}
