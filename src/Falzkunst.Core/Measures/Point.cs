namespace Falzkunst.Core.Measures;

/// <summary>A point or a displacement, in millimetres; x to the right, y down.</summary>
public readonly record struct Point(double X, double Y)
{
    public double Norm => Math.Sqrt(X * X + Y * Y);

    public static Point operator +(Point a, Point b) => new(a.X + b.X, a.Y + b.Y);

    public static Point operator -(Point a, Point b) => new(a.X - b.X, a.Y - b.Y);

    public static Point operator *(Point a, double by) => new(a.X * by, a.Y * by);

    public double Dot(Point b) => X * b.X + Y * b.Y;

    /// <summary>Positive when <paramref name="b"/> points clockwise (on the screen) of this.</summary>
    public double Cross(Point b) => X * b.Y - Y * b.X;

    public double DistanceTo(Point b) => (this - b).Norm;

    /// <summary>The distance from this point to the segment from <paramref name="a"/> to <paramref name="b"/>.</summary>
    public double DistanceToSegment(Point a, Point b)
    {
        var d = b - a;
        var along = d.Dot(d);
        var t = along > 0 ? Math.Clamp((this - a).Dot(d) / along, 0, 1) : 0;
        return DistanceTo(a + d * t);
    }
}

/// <summary>An upright box. An empty one has <see cref="IsEmpty"/> and joins neutrally.</summary>
public readonly record struct Box(double Left, double Top, double Right, double Bottom)
{
    public static Box Empty { get; } = new(double.PositiveInfinity, double.PositiveInfinity, double.NegativeInfinity, double.NegativeInfinity);

    public bool IsEmpty => !(Left <= Right && Top <= Bottom);

    public double Width => IsEmpty ? 0 : Right - Left;

    public double Height => IsEmpty ? 0 : Bottom - Top;

    public double Area => Width * Height;

    public Point Centre => new((Left + Right) / 2, (Top + Bottom) / 2);

    public Box With(Point p) => new(Math.Min(Left, p.X), Math.Min(Top, p.Y), Math.Max(Right, p.X), Math.Max(Bottom, p.Y));

    public Box With(Box o) => o.IsEmpty ? this : new(Math.Min(Left, o.Left), Math.Min(Top, o.Top), Math.Max(Right, o.Right), Math.Max(Bottom, o.Bottom));

    public Box Grown(double by) => IsEmpty ? this : new(Left - by, Top - by, Right + by, Bottom + by);

    public Box Moved(double x, double y) => new(Left + x, Top + y, Right + x, Bottom + y);

    public bool Touches(Box o) => Left <= o.Right && o.Left <= Right && Top <= o.Bottom && o.Top <= Bottom;

    public bool Holds(Box o) => Left <= o.Left && Top <= o.Top && Right >= o.Right && Bottom >= o.Bottom;

    public bool Holds(Point p) => p.X >= Left && p.X <= Right && p.Y >= Top && p.Y <= Bottom;
}
