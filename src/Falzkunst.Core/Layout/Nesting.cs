namespace Falzkunst.Core.Layout;

/// <summary>Which turns a piece may be given on its sheet.</summary>
public enum Turns
{
    None,
    Half,
    Quarter,
    Any,
}

/// <summary>A piece to place <paramref name="Count"/> times. The path is even-odd: holes are holes, and a small piece may lie in one.</summary>
/// <param name="Flip">Whether it may be laid on its face.</param>
public sealed record NestPiece(string Id, VectorPath Path, int Count, Turns Turns = Turns.Quarter, bool Flip = false);

/// <summary>Sheets of one size: at most <paramref name="Count"/> of them, nothing within the margin, nothing within the gap of a keep-out.</summary>
public sealed record NestSheet(string Id, Length Width, Length Height, Length Margin, int Count, ImmutableArray<VectorPath> KeepOut)
{
    public Length UsableWidth => Width - Margin * 2;

    public Length UsableHeight => Height - Margin * 2;
}

public sealed record NestRequest(Length Gap, ImmutableArray<NestSheet> Sheets, ImmutableArray<NestPiece> Pieces)
{
    /// <summary>Makes the search take other turns; the same seed gives the same layout.</summary>
    public int Seed { get; init; } = 1;

    /// <summary>How long to go on looking for a better layout.</summary>
    public TimeSpan Time { get; init; } = TimeSpan.FromSeconds(5);
}

/// <summary>
/// Where a copy lies: a point (x, y) of the piece lands at R·F·(x, y) + Shift, where F mirrors x when flipped and R turns by Turn.
/// </summary>
public sealed record Placement(string Piece, int Copy, int Sheet, string SheetId, Angle Turn, bool Flipped, Point Shift)
{
    public Affine ToSheet => new Place(Turn, Shift, Flipped).Map;
}

public sealed record Unplaced(string Piece, int Copy, string Why);

/// <param name="SheetIds">The sheets used, in order: the size of each.</param>
/// <param name="Utilisation">The area of the placed pieces by the area of the sheets used, 0 to 1.</param>
public sealed record NestResult(ImmutableArray<Placement> Placements, ImmutableArray<Unplaced> Unplaced, ImmutableArray<string> SheetIds, double Utilisation,
    double LastSheetPart)
{
    /// <summary>Less is better: first what could not be placed, then sheets, then the part of the last sheet that is used.</summary>
    public double Cost => Unplaced.Length * 1e6 + SheetIds.Length + LastSheetPart;
}

/// <summary>How a search stands.</summary>
public sealed record NestProgress(double Fraction, NestResult? Best, string Text);
