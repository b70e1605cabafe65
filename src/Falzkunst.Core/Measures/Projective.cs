namespace Falzkunst.Core.Measures;

/// <summary>
/// A map of the plane that keeps lines straight: x' = (A·x + C·y + E) / w, y' = (B·x + D·y + F) / w, where w = G·x + H·y + 1. Without G and H it is an affine
/// map; with them it is what a camera sees of a sheet that it does not look at from straight above.
/// </summary>
public readonly record struct Projective(double A, double B, double C, double D, double E, double F, double G, double H)
{
    public static Projective Of(Affine map) => new(map.A, map.B, map.C, map.D, map.E, map.F, 0, 0);

    /// <summary>The map that takes the corners of the unit square, clockwise on the screen from (0, 0), to four points of which no three lie on a line
    /// (Heckbert 1989, section 2.2.3).</summary>
    public static Projective OfUnitSquare(Point a, Point b, Point c, Point d)
    {
        Point one = b - c, two = d - c, sum = a - b + c - d;
        var det = one.Cross(two);
        double g = sum.Cross(two) / det, h = one.Cross(sum) / det;
        Point across = b - a + b * g, down = d - a + d * h;
        return new(across.X, across.Y, down.X, down.Y, a.X, a.Y, g, h);
    }

    public bool IsAffine => G == 0 && H == 0;

    public Point Apply(Point p)
    {
        var w = G * p.X + H * p.Y + 1;
        return new((A * p.X + C * p.Y + E) / w, (B * p.X + D * p.Y + F) / w);
    }

    /// <summary>The affine map that does the same near a point; the map itself where it is affine.</summary>
    public Affine Near(Point p)
    {
        var w = G * p.X + H * p.Y + 1;
        var q = Apply(p);
        double a = (A - G * q.X) / w, b = (B - G * q.Y) / w, c = (C - H * q.X) / w, d = (D - H * q.Y) / w;
        return new(a, b, c, d, q.X - a * p.X - c * p.Y, q.Y - b * p.X - d * p.Y);
    }

    /// <summary>This map, after another: <paramref name="first"/> first, then this.</summary>
    public Projective After(Affine first)
    {
        // The denominator at the new origin, by which all is divided so that it is 1 there again.
        var w = G * first.E + H * first.F + 1;
        return new((A * first.A + C * first.B) / w, (B * first.A + D * first.B) / w, (A * first.C + C * first.D) / w, (B * first.C + D * first.D) / w,
            (A * first.E + C * first.F + E) / w, (B * first.E + D * first.F + F) / w, (G * first.A + H * first.B) / w, (G * first.C + H * first.D) / w);
    }

    /// <summary>This map first, then <paramref name="next"/>.</summary>
    public Projective Then(Affine next) => new(next.A * A + next.C * B + next.E * G, next.B * A + next.D * B + next.F * G,
        next.A * C + next.C * D + next.E * H, next.B * C + next.D * D + next.F * H, next.A * E + next.C * F + next.E, next.B * E + next.D * F + next.F, G, H);

    public bool IsFinite => Near(new(0, 0)).IsFinite && double.IsFinite(G) && double.IsFinite(H);
}
