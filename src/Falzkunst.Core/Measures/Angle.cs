using System.Text.Json;
using System.Text.Json.Serialization;

namespace Falzkunst.Core.Measures;

/// <summary>A turn. Positive is clockwise on the screen, where y points down. Kept in degrees, so that quarter turns are exact.</summary>
/// <example><c>Angle.FromDegrees(450).Degrees</c> is 450; <c>Angle.FromDegrees(450).Normal.Degrees</c> is 90, and that of −90° is 270.</example>
[JsonConverter(typeof(AngleNumber))]
public readonly record struct Angle : IComparable<Angle>
{
    private Angle(double degrees) => Degrees = degrees;

    public double Degrees { get; }

    public double Radians => Degrees * Math.PI / 180;

    public static Angle Zero => default;

    public static Angle Half => new(180);

    /// <summary>The same direction, from 0 up to but not including 360 degrees.</summary>
    public Angle Normal
    {
        get
        {
            var rest = Degrees % 360;
            if (rest < 0) rest += 360;
            // What is a hair less than nothing becomes 360 by rounding, and that is 0. Adding 0 makes −0 plain.
            return new(rest >= 360 ? 0 : rest + 0.0);
        }
    }

    /// <exception cref="ArgumentOutOfRangeException">The number is not finite.</exception>
    public static Angle FromDegrees(double degrees) =>
        double.IsFinite(degrees) ? new(degrees) : throw new ArgumentOutOfRangeException(nameof(degrees), degrees, "An angle is a finite number.");

    /// <exception cref="ArgumentOutOfRangeException">The number is not finite.</exception>
    public static Angle FromRadians(double radians) => FromDegrees(radians * 180 / Math.PI);

    public static Angle operator +(Angle a, Angle b) => FromDegrees(a.Degrees + b.Degrees);

    public static Angle operator -(Angle a, Angle b) => FromDegrees(a.Degrees - b.Degrees);

    public static Angle operator -(Angle a) => new(-a.Degrees);

    public static bool operator <(Angle a, Angle b) => a.Degrees < b.Degrees;

    public static bool operator >(Angle a, Angle b) => a.Degrees > b.Degrees;

    public static bool operator <=(Angle a, Angle b) => a.Degrees <= b.Degrees;

    public static bool operator >=(Angle a, Angle b) => a.Degrees >= b.Degrees;

    public int CompareTo(Angle other) => Degrees.CompareTo(other.Degrees);

    /// <example>"12.5°".</example>
    public override string ToString() => Degrees.ToString("0.##", CultureInfo.InvariantCulture) + "°";
}

/// <summary>In documents an angle is a number, in degrees.</summary>
internal sealed class AngleNumber : JsonConverter<Angle>
{
    public override Angle Read(ref Utf8JsonReader reader, Type type, JsonSerializerOptions options) => Angle.FromDegrees(reader.GetDouble());

    public override void Write(Utf8JsonWriter writer, Angle value, JsonSerializerOptions options) => writer.WriteNumberValue(value.Degrees);
}
