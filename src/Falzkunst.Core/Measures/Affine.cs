namespace Falzkunst.Core.Measures;

/// <summary>An affine map of the plane: x' = A·x + C·y + E, y' = B·x + D·y + F (the order SVG writes them in).</summary>
public readonly record struct Affine(double A, double B, double C, double D, double E, double F)
{
    public static Affine Identity { get; } = new(1, 0, 0, 1, 0, 0);

    public static Affine Move(double dx, double dy) => new(1, 0, 0, 1, dx, dy);

    public static Affine Scale(double sx, double sy) => new(sx, 0, 0, sy, 0, 0);

    /// <summary>A turn about the origin; positive is clockwise on the screen (y points down). Quarter turns are exact.</summary>
    public static Affine Turn(Angle by)
    {
        var quarter = by.Degrees / 90;
        if (quarter == Math.Floor(quarter))
        {
            return ((int)(((long)quarter % 4) + 4) % 4) switch
            {
                0 => Identity,
                1 => new(0, 1, -1, 0, 0, 0),
                2 => new(-1, 0, 0, -1, 0, 0),
                _ => new(0, -1, 1, 0, 0, 0),
            };
        }

        var (sin, cos) = Math.SinCos(by.Radians);
        return new(cos, sin, -sin, cos, 0, 0);
    }

    public double Determinant => A * D - B * C;

    /// <summary>The scale of lengths that keeps areas right: the square root of |determinant|.</summary>
    public double MeanScale => Math.Sqrt(Math.Abs(Determinant));

    /// <summary>This map first, then <paramref name="next"/>.</summary>
    public Affine Then(Affine next) => new(
        next.A * A + next.C * B, next.B * A + next.D * B,
        next.A * C + next.C * D, next.B * C + next.D * D,
        next.A * E + next.C * F + next.E, next.B * E + next.D * F + next.F);

    /// <summary>The map back.</summary>
    /// <exception cref="InvalidOperationException">Its determinant is 0: it presses the plane flat.</exception>
    public Affine Inverse()
    {
        var d = Determinant;
        if (d == 0) throw new InvalidOperationException("A map that presses the plane flat has no way back.");
        return new(D / d, -B / d, -C / d, A / d, (C * F - D * E) / d, (B * E - A * F) / d);
    }

    public Point Apply(Point p) => new(A * p.X + C * p.Y + E, B * p.X + D * p.Y + F);

    public bool IsFinite => double.IsFinite(A) && double.IsFinite(B) && double.IsFinite(C) && double.IsFinite(D) && double.IsFinite(E) && double.IsFinite(F);
}
