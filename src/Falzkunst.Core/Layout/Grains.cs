using Falzkunst.Core.Cards;

namespace Falzkunst.Core.Layout;

/// <summary>How pieces lie to the grain of their paper: a fold goes along it.</summary>
public static class Grains
{
    /// <summary>What a fold may lie off the grain, in degrees.</summary>
    private const double Askew = 10;

    /// <summary>Whether a piece is turned head to foot at most on sheets with this grain: where it has folds, and all of them go one way.</summary>
    public static bool Keeps(Piece piece, Grain grain) => grain != Grain.Unknown && FoldOf(piece) is not null;

    /// <summary>How a piece lies on the sheet before it is turned: its outer face up, and its folds along the grain.</summary>
    public static Affine Lie(Piece piece, Grain grain) => Keeps(piece, grain) && OffGrain(FoldOf(piece)!.Value, grain) > 45
        ? piece.FaceUp.Then(Affine.Turn(Angle.FromDegrees(90))) : piece.FaceUp;

    /// <summary>Whether a piece that lies on a sheet would be folded across its grain.</summary>
    public static bool IsAcross(Piece piece, Affine toSheet, Grain grain)
    {
        if (!Keeps(piece, grain)) return false;
        var way = FoldOf(piece)!.Value;
        var back = piece.FaceUp.Inverse().Then(toSheet);
        return OffGrain(back.Apply(way) - back.Apply(default), grain) > Askew;
    }

    /// <summary>The way that the folds of a piece go, its outer face up; null where it has none, or they go several ways.</summary>
    private static Point? FoldOf(Piece piece)
    {
        Point? first = null;
        foreach (var line in piece.Lines)
        {
            if (line.Operation != Operation.Score || line.Path.Subpaths is not [var sub, ..]) continue;
            var way = piece.FaceUp.Apply(sub.End) - piece.FaceUp.Apply(sub.Start);
            if (way.Norm < 1) continue;
            if (first is { } known && Math.Abs(known.Cross(way)) > Math.Sin(Askew * Math.PI / 180) * known.Norm * way.Norm) return null;
            first ??= way;
        }

        return first;
    }

    /// <summary>How far a direction lies off the grain, 0 to 90 degrees.</summary>
    private static double OffGrain(Point way, Grain grain) =>
        Math.Atan2(Math.Abs(grain == Grain.Down ? way.X : way.Y), Math.Abs(grain == Grain.Down ? way.Y : way.X)) * 180 / Math.PI;
}
