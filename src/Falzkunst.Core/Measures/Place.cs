namespace Falzkunst.Core.Measures;

/// <summary>The two ways a thing is mirrored as it lies before a person.</summary>
public enum MirrorAxis
{
    /// <summary>The axis stands upright: left and right are exchanged.</summary>
    Upright,

    /// <summary>The axis lies level: top and bottom are exchanged.</summary>
    Level,
}

/// <summary>
/// How a thing lies: mirrored or not (left and right of its own coordinates exchanged), then turned about its own origin, then shifted. Rigid: it keeps every
/// length.
/// </summary>
/// <param name="Turn">From 0 up to 360 degrees.</param>
/// <param name="Shift">Where its own origin comes to lie, in mm.</param>
public readonly record struct Place(Angle Turn, Point Shift, bool Mirrored)
{
    /// <summary>Its own coordinates are those of the card.</summary>
    public static Place Own => default;

    public bool IsOwn => this == Own;

    /// <summary>Maps a point of the thing to where it lies.</summary>
    public Affine Map => IsOwn ? Affine.Identity
        : (Mirrored ? Affine.Scale(-1, 1) : Affine.Identity).Then(Affine.Turn(Turn)).Then(Affine.Move(Shift.X, Shift.Y));

    public bool IsFinite => double.IsFinite(Shift.X) && double.IsFinite(Shift.Y);

    /// <example>A thing at (10, 0) moved by (5, 5) lies at (15, 5).</example>
    public Place Moved(Point by) => this with { Shift = Shift + by };

    /// <summary>Turned about a point of the card.</summary>
    /// <example>A thing at (10, 0) turned by 90° about (0, 0) lies at (0, 10) and has turned itself by 90°.</example>
    public Place Turned(Angle by, Point about) => this with { Turn = (Turn + by).Normal, Shift = Affine.Turn(by).Apply(Shift - about) + about };

    /// <summary>Mirrored at an axis through a point of the card. Twice at the same axis is as before, but for rounding.</summary>
    public Place MirroredAt(MirrorAxis axis, Point at) => axis == MirrorAxis.Upright
        ? new((-Turn).Normal, Shift with { X = 2 * at.X - Shift.X }, !Mirrored)
        : new((Angle.Half - Turn).Normal, Shift with { Y = 2 * at.Y - Shift.Y }, !Mirrored);
}
