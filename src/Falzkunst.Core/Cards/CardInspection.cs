using Falzkunst.Core.Strength;

namespace Falzkunst.Core.Cards;

/// <summary>How well a piece is borne by its paper.</summary>
public sealed record InspectedPiece(Piece Piece, Inspection Seen)
{
    /// <summary>A place of the piece's coordinates, on the card.</summary>
    public Point OnCard(Point at) => Piece.Place.Map.Apply(at);
}

/// <summary>Two pieces of one ply that lie closer together than a blade can cut.</summary>
public sealed record TightPieces(Piece Piece, Piece Other, Point At, Length Gap);

/// <summary>How well all pieces of a card are borne by their papers.</summary>
public sealed record CardInspection(ImmutableArray<InspectedPiece> Pieces, ImmutableArray<TightPieces> Between)
{
    /// <summary>All thin places, the narrowest first.</summary>
    public IEnumerable<(InspectedPiece Of, ThinPlace Place)> Thin =>
        Pieces.SelectMany(p => p.Seen.Thin.Select(t => (p, t))).OrderBy(t => t.t.Width.Mm);

    public IEnumerable<(InspectedPiece Of, TightPlace Place)> Tight =>
        Pieces.SelectMany(p => p.Seen.Tight.Select(t => (p, t))).OrderBy(t => t.t.Gap.Mm);

    public IEnumerable<(InspectedPiece Of, Speck Speck)> Specks => Pieces.SelectMany(p => p.Seen.Specks.Select(s => (p, s)));

    /// <summary>Inspects the papers of a design; each outline is looked at once, wherever it lies and however often it is there.</summary>
    /// <param name="limitsOf">What the paper of a piece bears.</param>
    /// <param name="between">Whether also gaps between pieces of one ply are measured.</param>
    public static CardInspection Of(Design design, Func<Piece, Limits> limitsOf, bool between = true, CancellationToken cancel = default)
    {
        var papers = design.Papers.ToList();
        var seen = ImmutableArray.CreateBuilder<InspectedPiece>(papers.Count);
        foreach (var piece in papers)
        {
            cancel.ThrowIfCancellationRequested();
            seen.Add(new(piece, Inspection.Of(piece.Outline, limitsOf(piece), cancel)));
        }

        return new(seen.ToImmutable(), between ? [.. Closer(papers, limitsOf)] : []);
    }

    private static IEnumerable<TightPieces> Closer(List<Piece> papers, Func<Piece, Limits> limitsOf)
    {
        foreach (var ply in papers.GroupBy(p => p.PlyId))
        {
            var grid = new BoxGrid<Piece>(20);
            foreach (var piece in ply)
            {
                var gap = limitsOf(piece).Gap.Mm;
                foreach (var other in grid.Touching(piece.OnCard.Bounds.Grown(gap)).Distinct())
                {
                    // What overlaps is no gap.
                    if (SetGap.Between(piece, other) is { Length.Mm: > 1e-6 } near && near.Length.Mm < gap)
                        yield return new(other, piece, (near.At + near.From) * 0.5, near.Length);
                }

                grid.Add(piece.OnCard.Bounds, piece);
            }
        }
    }
}
