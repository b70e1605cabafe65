using System.Text.Json;
using System.Text.Json.Serialization;

namespace Falzkunst.Core.Measures;

/// <summary>The two units that people type and read. Everything inside is millimetres.</summary>
public enum LengthUnit
{
    Millimetre,
    Inch,
}

/// <summary>A length. Kept in millimetres; one inch is exactly 25.4 mm.</summary>
/// <example><c>Length.FromInches(4.25).Mm</c> is 107.95.</example>
[JsonConverter(typeof(LengthNumber))]
public readonly record struct Length : IComparable<Length>
{
    /// <summary>Millimetres in an inch, by definition.</summary>
    public const double MmPerInch = 25.4;

    private Length(double mm) => Mm = mm;

    /// <summary>The length in millimetres.</summary>
    public double Mm { get; }

    /// <summary>The length in inches.</summary>
    public double Inches => Mm / MmPerInch;

    public static Length Zero => default;

    /// <exception cref="ArgumentOutOfRangeException">The number is not finite.</exception>
    public static Length FromMm(double mm) =>
        double.IsFinite(mm) ? new(mm) : throw new ArgumentOutOfRangeException(nameof(mm), mm, "A length is a finite number.");

    /// <exception cref="ArgumentOutOfRangeException">The number is not finite.</exception>
    public static Length FromInches(double inches) => FromMm(inches * MmPerInch);

    public static Length operator +(Length a, Length b) => new(a.Mm + b.Mm);

    public static Length operator -(Length a, Length b) => new(a.Mm - b.Mm);

    public static Length operator -(Length a) => new(-a.Mm);

    public static Length operator *(Length a, double by) => FromMm(a.Mm * by);

    public static Length Sum(IEnumerable<Length> lengths) => FromMm(lengths.Sum(l => l.Mm));

    public static bool operator <(Length a, Length b) => a.Mm < b.Mm;

    public static bool operator >(Length a, Length b) => a.Mm > b.Mm;

    public static bool operator <=(Length a, Length b) => a.Mm <= b.Mm;

    public static bool operator >=(Length a, Length b) => a.Mm >= b.Mm;

    public int CompareTo(Length other) => Mm.CompareTo(other.Mm);

    /// <summary>The length with its unit, as <see cref="LengthText.Write"/> gives it in millimetres.</summary>
    public override string ToString() => LengthText.Write(this, LengthUnit.Millimetre);
}

/// <summary>In documents a length is a number, in mm.</summary>
internal sealed class LengthNumber : JsonConverter<Length>
{
    public override Length Read(ref Utf8JsonReader reader, Type type, JsonSerializerOptions options) => Length.FromMm(reader.GetDouble());

    public override void Write(Utf8JsonWriter writer, Length value, JsonSerializerOptions options) => writer.WriteNumberValue(value.Mm);
}
