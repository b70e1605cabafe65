using System.Runtime.CompilerServices;
using Falzkunst.Core.Cards;

namespace Falzkunst.Core.Findings;

/// <summary>How bad a finding is. Only a stop blocks a run, and only the run.</summary>
public enum Severity
{
    Stop,
    Warn,
    Note,
}

/// <summary>One click that mends a finding; named by what it does.</summary>
public sealed record Remedy(string Label, Edit Edit);

/// <summary>Something that will go wrong: where, how bad, why, and a remedy where one exists.</summary>
/// <param name="Code">Names the kind of finding, for scripts: "fold-cut".</param>
/// <param name="At">The place on the card, in mm.</param>
/// <param name="About">The ids of the pieces and lines that it is about.</param>
public sealed record Finding(string Code, Severity Severity, Point At, string Text, ImmutableArray<string> About, Remedy? Remedy = null)
{
    /// <summary>Other ways to mend it, the likelier first; what forgets something comes last.</summary>
    public ImmutableArray<Remedy> More { get; init; } = [];

    /// <summary>All ways to mend it, the likeliest first.</summary>
    public IEnumerable<Remedy> Remedies => Remedy is null ? More : More.Prepend(Remedy);

    /// <summary>Tells findings of one design apart.</summary>
    public string Key => $"{Code}:{string.Join(',', About.Take(8))}";
}

/// <summary>What findings are looked for in.</summary>
/// <param name="Drawer">The stocks at hand; empty where none are known, and then sheets are not asked for.</param>
public sealed record FindingContext(Design Design, IReadOnlyList<Stock> Drawer, Length FoldSetback)
{
    public FindingContext(Design design, IReadOnlyList<Stock> drawer)
        : this(design, drawer, Folds.DefaultSetback)
    {
    }
}

public static class FindingList
{
    /// <summary>The findings that are of the kind of one, and mended by the same kind of edit, that one among them.</summary>
    public static IReadOnlyList<Finding> Alike(IEnumerable<Finding> all, Finding one) => one.Remedy is not { } remedy ? []
        : [.. all.Where(f => f.Code == one.Code && f.Remedy?.Edit.GetType() == remedy.Edit.GetType())];

    /// <summary>The remedies of findings as one edit; what an earlier one has mended already is left out. Null where none can be done.</summary>
    public static Edit? MendAll(Design design, IReadOnlyList<Finding> alike)
    {
        var edits = ImmutableArray.CreateBuilder<Edit>();
        foreach (var edit in alike.Select(f => f.Remedy!.Edit).Distinct())
        {
            if (edits.Count == Series.Most || edit.Refusal(design) is not null) continue;
            var next = edit.Apply(design);
            if (ReferenceEquals(next, design)) continue;
            edits.Add(edit);
            design = next;
        }

        return edits.Count == 0 ? null : edits.Count == 1 ? edits[0] : new Series(edits.ToImmutable(), $"{alike[0].Remedy!.Label}, {edits.Count} times");
    }

    /// <summary>What depends on one piece alone. What a piece was found to have is remembered with it, since it never changes.</summary>
    private static readonly Func<Piece, FindingContext, IEnumerable<Finding>>[] OfPiece = [FoldWouldBeCut.In, PieceTooLarge.In, FoldReachesEdge.In,
        FoldOnEdge.In, PerforationTooLong.In, BridgesTooWide.In, WordsUpsideDown.In];

    /// <summary>What depends on the whole card.</summary>
    private static readonly Func<FindingContext, IEnumerable<Finding>>[] OfCard =
        [NoPiece.In, UnknownSize.In, AlmostClosed.In, LooseLines.In, DoubledLines.In, OutsidePage.In, PageBackground.In, StockGone.In, FarFromStocks.In,
            ThickLines.In,
            LeftOut.In, HangsOver.In, UnderThing.In, TooWeak.In, CoarsePicture.In];

    private static readonly ConditionalWeakTable<Piece, Found> Known = [];

    private sealed record Found(ImmutableArray<Stock> Drawer, Length FoldSetback, Turns Turns, ImmutableArray<Finding> Findings);

    /// <summary>Everything that is found in the design, the worst first. After an edit only the changed pieces, and the card as a whole, are looked
    /// at.</summary>
    public static ImmutableArray<Finding> Of(FindingContext context)
    {
        var drawer = context.Drawer.ToImmutableArray();
        return
        [
            .. OfCard.SelectMany((find, i) => find(context).Select(f => (Finding: f, Rank: i + 1)))
                .Concat(context.Design.Pieces.SelectMany(p => OfOne(p)).Select(f => (Finding: f, Rank: f.Code == "fold-edge" ? 3 : 1)))
                .OrderBy(f => f.Finding.Severity).ThenBy(f => f.Rank).Select(f => f.Finding),
        ];

        ImmutableArray<Finding> OfOne(Piece piece)
        {
            // A piece without lines and bridges has nothing else, and is looked at as fast as it is remembered.
            if (piece.AllLines.IsEmpty && piece.Edges.All(e => e.Bridges is null)) return drawer.IsEmpty ? [] : [.. PieceTooLarge.In(piece, context)];
            if (Known.TryGetValue(piece, out var known) && known.FoldSetback == context.FoldSetback && known.Turns == context.Design.Laying.Turns
                && known.Drawer.AsSpan().SequenceEqual(drawer.AsSpan())) return known.Findings;
            var found = new Found(drawer, context.FoldSetback, context.Design.Laying.Turns, [.. OfPiece.SelectMany(find => find(piece, context))]);
            Known.AddOrUpdate(piece, found);
            return found.Findings;
        }
    }
}
