namespace Falzkunst.Core.Cards;

/// <summary>One thing that could be meant: what it is called, and the change that makes it so.</summary>
public sealed record DoubtChoice(Meaning Meaning, string Label, Edit Edit);

/// <summary>A question about what came in, asked once for everything that shares it.</summary>
/// <param name="Key">Tells the doubts of a design apart.</param>
/// <param name="About">The ids of the pieces and lines that it is about; those of rings name their piece.</param>
/// <param name="Choices">What it is taken for comes first, so that leaving the question open and choosing the first come to the same.</param>
public sealed record Doubt(string Key, string Question, ImmutableArray<string> About, ImmutableArray<DoubtChoice> Choices)
{
    /// <summary>The design that a choice would give.</summary>
    public Design With(Design design, DoubtChoice choice) => choice.Edit.Apply(design);
}

/// <summary>What is still in doubt of a design; it follows from the origins of its things (<see cref="Origin.Or"/>).</summary>
public static class Doubts
{
    /// <summary>The doubts, what costs paper first, then in the order in which the file was drawn. Linear in the things.</summary>
    public static ImmutableArray<Doubt> Of(Design design)
    {
        var found = new Dictionary<(Meaning Is, Meaning Or, string Look), List<(string Id, int Order)>>();
        foreach (var p in design.Pieces)
        {
            Note(p.Id, p.Origin, Meaning.Paper);
            for (var i = 1; i < p.Edges.Length; i++) Note(RingId.Of(p.Id, i), p.Edges[i].Origin, Meaning.Hole);
            foreach (var l in p.Lines) Note(l.Id, l.Origin, l.Operation.ToMeaning());
        }

        foreach (var l in design.Loose) Note(l.Id, l.Origin, l.Operation.ToMeaning());
        return [.. found.OrderBy(f => f.Key.Or is Meaning.Panel ? 0 : f.Key.Is is Meaning.Paper ? 1 : f.Key.Is is Meaning.Hole ? 2 : 3).ThenBy(f =>
            f.Value[0].Order)
            .Select(f => Ask(design, f.Key, [.. f.Value.Select(v => v.Id)]))];

        void Note(string id, Origin? origin, Meaning meaning)
        {
            if (origin is not { Or: { } or }) return;
            if (!found.TryGetValue((meaning, or, origin.Look), out var ids)) found[(meaning, or, origin.Look)] = ids = [];
            ids.Add((id, origin.Order));
        }
    }

    private static Doubt Ask(Design design, (Meaning Is, Meaning Or, string Look) key, ImmutableArray<string> ids)
    {
        var n = ids.Length;
        var look = design.LookOf(key.Look)?.Describe() ?? "line";
        var what = (key.Is, key.Or) switch
        {
            (_, Meaning.Panel) => $"{n} pieces lie edge on edge. Are they panels of one base, or apart?",
            (_, Meaning.Ground) => n == 1 ? "One shape is as large as the page. Is it paper, or only the page that was drawn on?"
                : $"{n} shapes are as large as the page. Are they paper?",
            (Meaning.Paper, Meaning.Slit) => n == 1 ? "Is this outline a piece of paper, or only a line?"
                : $"Are these {n} outlines pieces of paper, or only lines?",
            (Meaning.Paper, Meaning.Hole) or (Meaning.Hole, Meaning.Paper) => n == 1 ? "A white spot lies on other paper. Is it a hole, or white paper?"
                : $"{n} white spots lie on other paper. Are they holes, or white paper?",
            _ => n == 1 ? $"One {look} lies on a piece. What is it for?" : $"{n} of one look ({look}) lie on pieces. What are they for?",
        };
        var enclose = ids.All(id => design.Line(id) is { } line && Encloses(line.Path));
        var choices = new[] { key.Is, key.Or }.Concat(enclose ? [Meaning.Paper] : []).Concat(More(key)).Distinct()
            .Select(m => new DoubtChoice(m, Named(m, key.Or, n), m == key.Is ? new Settle(ids)
            : m == Meaning.Panel ? new JoinPanels(ids) : new Become(ids, m)));
        return new($"{key.Is}-{key.Or}-{ids[0]}".ToLowerInvariant(), what, RingId.ToPieces(ids), [.. choices]);
    }

    /// <summary>Whether a line is an outline, or would be one if a slip of a millimetre were closed.</summary>
    private static bool Encloses(VectorPath path)
    {
        const double leastMm = 6;
        return path.Subpaths is [var sub] && (sub.Closed || sub.Start.DistanceTo(sub.End) <= CloseLines.SlipMm) && path.Length.Mm > leastMm;
    }

    private static string Named(Meaning meaning, Meaning or, int count) => meaning switch
    {
        Meaning.Paper when or == Meaning.Panel => "apart, as pieces of their own",
        Meaning.Paper when count > 1 => "pieces of paper",
        Meaning.Hole when count > 1 => "holes, cut out",
        Meaning.Fold when count > 1 => "folds, scored",
        _ => meaning.Phrase(),
    };

    /// <summary>What people mean besides, where one asks anyway.</summary>
    private static IEnumerable<Meaning> More((Meaning Is, Meaning Or, string Look) key) => (key.Is, key.Or) switch
    {
        (Meaning.Hole, Meaning.Pen) or (Meaning.Pen, Meaning.Hole) => [Meaning.Paper],
        (Meaning.Slit, Meaning.Pen) or (Meaning.Pen, Meaning.Slit) or (Meaning.Slit, Meaning.Fold) or (Meaning.Fold, Meaning.Slit) => [Meaning.Fold,
            Meaning.Pen],
        _ => [],
    };
}
