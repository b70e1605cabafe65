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
/// <param name="At">The place in mm.</param>
/// <param name="About">The ids of the pieces and lines that it is about.</param>
public sealed record Finding(string Code, Severity Severity, Point At, string Text, ImmutableArray<string> About, Remedy? Remedy = null)
{
    /// <summary>Tells findings of one design apart.</summary>
    public string Key => $"{Code}:{string.Join(',', About.Take(8))}";
}

/// <summary>What findings are looked for in.</summary>
/// <param name="Drawer">The stocks at hand; empty where none are known, and then sheets are not asked for.</param>
public sealed record FindingContext(Design Design, IReadOnlyList<Stock> Drawer, Length FoldSetback)
{
    public FindingContext(Design design, IReadOnlyList<Stock> drawer)
        : this(design, drawer, Length.FromMm(Folds.DefaultSetbackMm))
    {
    }

    internal string NameOf(string? pieceId) => pieceId is not null && Design.Piece(pieceId) is { } p ? p.Label : "its piece";
}

public static class FindingList
{
    private static readonly Func<FindingContext, IEnumerable<Finding>>[] All =
    [
        NoPiece.In, FoldWouldBeCut.In, PieceTooLarge.In, UnknownSize.In, FoldReachesEdge.In, AlmostClosed.In, LooseLines.In, DoubledLines.In, OutsidePage.In, PageBackground.In, ThickLines.In, LeftOut.In,
    ];

    /// <summary>Everything that is found in the design, the worst first.</summary>
    public static ImmutableArray<Finding> Of(FindingContext context) => [.. All.SelectMany(find => find(context)).OrderBy(f => f.Severity)];
}
