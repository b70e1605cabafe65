using Falzkunst.Core.Cards;
using Falzkunst.Core.Pictures;
using Falzkunst.Core.Regions;

namespace Falzkunst.Core.Printing;

/// <summary>What of a printed piece is seen in the assembled card.</summary>
public static class Seen
{
    /// <summary>
    /// What need not be printed of a piece, in its coordinates: what pieces above it cover, but for a margin along their edges that hides shifts and holds
    /// glue. Above are the pieces of higher plies, and those of its own that lie on it; things that stand for real ones cover nothing.
    /// </summary>
    /// <param name="margin">How far under others it is printed.</param>
    public static IReadOnlyList<VectorPath> Hidden(Design design, Piece piece, Length margin)
    {
        var ply = design.PlyNumber(piece.PlyId);
        var at = design.Pieces.IndexOf(piece);
        var box = piece.OnCard.Bounds;
        var above = design.Papers.Where(p => p.Id != piece.Id && p.OnCard.Bounds.Touches(box)
            && (design.PlyNumber(p.PlyId) > ply || (p.PlyId == piece.PlyId && design.Pieces.IndexOf(p) > at))).Select(p => p.OnCard).ToList();
        if (above.Count == 0) return [];
        var covered = VectorPath.Joined(Together.Join(above));
        var back = piece.Place.Map.Inverse();
        return [.. Outsets.Of(covered, -margin.Mm).Select(p => p.Transform(back))];
    }

    /// <summary>The colour that is seen at a place of the card: of what is printed there on the topmost piece, or of its paper; null where no piece
    /// lies.</summary>
    /// <param name="paper">The colour of a piece's paper.</param>
    public static Colour? ColourAt(Design design, Point at, Func<Piece, Colour> paper)
    {
        if (design.Papers.Where(p => p.OnCard.Encloses(at)).OrderBy(p => design.PlyNumber(p.PlyId)).LastOrDefault() is not { } piece) return null;
        // A pixel as large as the eye tells apart on paper.
        const double side = 0.1;
        var here = piece.Place.Map.Inverse().Apply(at);
        var toPx = Affine.Move(side / 2 - here.X, side / 2 - here.Y).Then(Affine.Scale(1 / side, 1 / side));
        var ground = new DrawnPath("", "", VectorPath.Rectangle(here.X - 1, here.Y - 1, 2, 2), new(paper(piece) with { Alpha = 1 }, FillRule.NonZero, null));
        var seen = Canvas.Painted(1, 1, [new(null, toPx, [ground, .. PrintedArt.Of(piece)])]);
        return new(seen[0], seen[1], seen[2]);
    }

    /// <summary>How much of what would be printed need not be, as a part of it; 0 where nothing is printed.</summary>
    public static double Saved(Design design, PrintSettings print)
    {
        double all = 0, hidden = 0;
        foreach (var piece in design.Papers.Where(p => p.IsPrinted))
        {
            var inked = Together.Overlap([piece.Outline, VectorPath.Joined(Together.Join([.. PrintedArt.Of(piece).Select(Area)]))]);
            all += inked.Sum(p => p.SignedAreaMm2);
            if (print.UnderOthers is { } margin && inked.Count > 0)
                hidden += Hidden(design, piece, margin).Sum(h => Together.Overlap([h, VectorPath.Joined(inked)]).Sum(p => p.SignedAreaMm2));
        }

        return all > 0 ? hidden / all : 0;

        // A picture counts with all that it covers.
        static VectorPath Area(DrawnItem item) => item switch
        {
            DrawnPicture picture => VectorPath.Rectangle(0, 0, 1, 1).Transform(picture.Place),
            DrawnPath { Ink.Fill: not null } path => VectorPath.Joined(Together.Clean(path.Path)),
            _ => VectorPath.Empty,
        };
    }
}
