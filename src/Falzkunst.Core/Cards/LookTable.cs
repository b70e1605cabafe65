
namespace Falzkunst.Core.Cards;

/// <summary>One row of the look table: everything that looks alike, and what it does.</summary>
/// <param name="Length">Of its lines and edges together.</param>
/// <param name="Operation">What it does, or what the first of it does where <paramref name="IsMixed"/>.</param>
/// <param name="Why">Why the first of it does that.</param>
/// <param name="Paths">Its edges, holes and lines, each in the coordinates of its piece.</param>
public sealed record LookRow(Look Look, int Pieces, int Holes, int Lines, Length Length, Operation Operation, bool IsMixed, string Why,
    ImmutableArray<VectorPath> Paths)
{
    /// <summary>How many there are, in words: "2 pieces", "48 lines", "3 holes, 1 line".</summary>
    public string Counted =>
        string.Join(", ", new[] { (Pieces, "piece"), (Holes, "hole"), (Lines, "line") }.Where(t => t.Item1 > 0)
        .Select(t => $"{t.Item1} {t.Item2}{(t.Item1 == 1 ? "" : "s")}"));
}

/// <summary>The looks of a design as a table.</summary>
public static class LookTable
{
    /// <summary>
    /// A row for each look that something still has: lines first, since their operations are what is most often still to be decided, then pieces; otherwise in
    /// the order of the file.
    /// </summary>
    public static IReadOnlyList<LookRow> Of(Design design)
    {
        var found = new Dictionary<string, List<(char Kind, Operation Operation, string Why, VectorPath Path)>>(StringComparer.Ordinal);
        void Add(string look, char kind, Operation operation, string why, VectorPath path)
        {
            if (!found.TryGetValue(look, out var its)) found[look] = its = [];
            its.Add((kind, operation, why, path));
        }

        foreach (var p in design.Pieces)
        {
            // Rings that were drawn as outlines of their own have their own look; others belong to the piece.
            var own = Enumerable.Range(0, p.Edges.Length).Where(i => p.Edges[i].Origin is null).ToList();
            if (p.Origin is { } origin) Add(origin.Look, 'p', p.OuterOperation, origin.Why, own.Count == p.Edges.Length ? p.Outline
                : new([.. own.Select(i => p.Outline.Subpaths[i])]));
            for (var i = 0; i < p.Edges.Length; i++)
                if (p.Edges[i].Origin is { } drawn) Add(drawn.Look, 'h', p.Edges[i].Operation, drawn.Why, p.Outline.Parts()[i]);
        }

        foreach (var l in design.Lines)
            if (l.Line.Origin is { } origin) Add(origin.Look, 'l', l.Operation, origin.Why, l.Line.Path);
        return [.. design.Looks.Where(l => found.ContainsKey(l.Key)).Select(look =>
        {
            var its = found[look.Key];
            // What a look was made to do says more than how its first piece came about.
            var first = its.Find(i => i.Kind == 'p') is { Path: not null } piece ? piece : its[0];
            int Count(char kind) => its.Count(i => i.Kind == kind);
            return new LookRow(look, Count('p'), Count('h'), Count('l'), Length.Sum(its.Select(i => i.Path.Length)), first.Operation,
                its.Exists(i => i.Operation != first.Operation), first.Why, [.. its.Select(i => i.Path)]);
        }).OrderBy(r => r.Pieces > 0)];
    }
}
