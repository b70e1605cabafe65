using Falzkunst.Core.Strength;

namespace Falzkunst.Core.Cards;

/// <summary>Makes pieces strong enough, all by the same limits, so that what belongs together matches. What strengthened them before is taken off.</summary>
/// <param name="How">The way, limits and amount; what lies beside each is found anew.</param>
public sealed record Strengthen(ImmutableArray<string> PieceIds, Strengthened How) : Edit
{
    public override ImmutableArray<string> About => PieceIds;

    public override string Describe(Design before) => $"{Names(before, PieceIds)}: {How.Describe()}";

    public override string? Refusal(Design before) => How.Limits.Fault() ?? (How.Fault() is { } fault ? $"It can't be done: {fault}."
        : PieceIds.All(id => before.Piece(id) is null) ? "The piece is gone." : null);

    public override Design Apply(Design design) => Refusal(design) is not null ? design
        : Treat.Reshaped(design, PieceIds, p => Treatments(design, p));

    /// <summary>Derives what it makes of pieces, so that it is remembered when it is applied. It takes as long as the strengthening takes.</summary>
    /// <exception cref="OperationCanceledException">It was given up.</exception>
    internal void Prepare(Design design, CancellationToken cancel)
    {
        if (Refusal(design) is not null) return;
        foreach (var piece in PieceIds.Select(design.Piece).OfType<Piece>()) Outlines.Derive(piece.Shape, Treatments(design, piece), cancel);
    }

    private ImmutableArray<Treatment> Treatments(Design design, Piece piece) => Strengthened.Without(piece).Add(How with { Beside = BesideOf(design, piece) });

    /// <summary>What lies beside a piece on its ply, nearer than both could grow, in the piece's coordinates; null where nothing does.</summary>
    private VectorPath? BesideOf(Design design, Piece piece)
    {
        // Before it was strengthened, as its neighbours are seen.
        var reach = How.Limits.Width.Mm + How.Limits.Gap.Mm + 2 * How.By.Mm + How.Apart.Mm;
        var box = Plain(piece).Bounds.Grown(reach);
        var near = design.Papers.Where(p => p.PlyId == piece.PlyId && p.Id != piece.Id).Select(Plain)
            .Where(o => o.Bounds.Touches(box)).ToList();
        return near.Count == 0 ? null : VectorPath.Joined(near).Transform(piece.Place.Map.Inverse());
    }

    private static VectorPath Plain(Piece piece) => Strengthened.Before(piece).Transform(piece.Place.Map);
}

/// <summary>What a card asks of all its papers, whatever their stocks bear; null leaves it to each stock again.</summary>
public sealed record AskOfPaper(Limits? Limits) : Edit
{
    public override string Describe(Design before) => Limits is { } l ? $"Ask for {l.Width} and gaps of {l.Gap}" : "Ask for what each stock bears";

    public override string? Refusal(Design before) => Limits?.Fault();

    public override Design Apply(Design design) => Refusal(design) is null ? design with { Asked = Limits } : design;
}

/// <summary>Takes off what strengthened pieces.</summary>
public sealed record Unstrengthen(ImmutableArray<string> PieceIds) : Edit
{
    public override ImmutableArray<string> About => PieceIds;

    public override string Describe(Design before) => $"{Names(before, PieceIds)}: as it was before it was strengthened";

    public override string? Refusal(Design before) => PieceIds.Select(before.Piece).OfType<Piece>().Any(Strengthened.IsOn) ? null
        : "Nothing strengthened it.";

    public override Design Apply(Design design) => Treat.Reshaped(design, PieceIds, Strengthened.Without);
}
