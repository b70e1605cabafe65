using System.Text.Json;
using System.Text.Json.Serialization;
using Falzkunst.Core.Cards;
using Falzkunst.Core.Reading;
using Falzkunst.Core.Reading.Svg;

namespace Falzkunst.Core.Writing;

/// <summary>
/// Our own file, <c>.falz.json</c>: a design as JSON (RFC 8259) with a schema version. Paths are SVG path data in mm, to 1e-5 mm; colours are
/// <c>#rrggbb</c> or <c>#rrggbb/alpha</c>; pictures are base64. Writing what was read gives the same bytes.
/// </summary>
public static class FalzFile
{
    private static readonly JsonSerializerOptions Options = new(JsonSerializerDefaults.Web)
    {
        Converters = { new PathConverter(), new ColourConverter(), new BytesConverter(), new LengthConverter(), new JsonStringEnumConverter(JsonNamingPolicy.CamelCase) },
        DefaultIgnoreCondition = JsonIgnoreCondition.WhenWritingNull,
        IgnoreReadOnlyProperties = true,
        Encoder = System.Text.Encodings.Web.JavaScriptEncoder.UnsafeRelaxedJsonEscaping,
        MaxDepth = 32,
    };

    /// <summary>Rules of a source, in the same dress as designs.</summary>
    public static string WriteRules(SourceRules rules) => JsonSerializer.Serialize(rules, Options);

    /// <summary>Null where it is damaged: rules are a convenience, and never stand in the way.</summary>
    public static SourceRules? ReadRules(string text)
    {
        try
        {
            return JsonSerializer.Deserialize<SourceRules>(text, Options) is { Looks.IsDefault: false } rules ? rules : null;
        }
        catch (JsonException)
        {
            return null;
        }
    }

    public static byte[] Write(Design design) => JsonSerializer.SerializeToUtf8Bytes(design, Options);

    /// <exception cref="UnreadableFileException">Not our file, damaged, or written by a newer version.</exception>
    public static Design Read(ReadOnlySpan<byte> file)
    {
        try
        {
            var design = JsonSerializer.Deserialize<Design>(file, Options);
            if (design is null || design.WidthMm <= 0 || !double.IsFinite(design.WidthMm) || !double.IsFinite(design.HeightMm)
                || design.Pieces.IsDefault || design.Lines.IsDefault || design.Plies.IsDefault || design.Pieces.Any(p => p.Outline.IsEmpty))
                throw new UnreadableFileException("this is JSON, but not a design of Falzkunst");
            return design.Schema <= Design.CurrentSchema
                ? design
                : throw new UnreadableFileException($"it was written by a newer version (schema {design.Schema}, this one reads up to {Design.CurrentSchema})");
        }
        catch (JsonException)
        {
            throw new UnreadableFileException("this is not a whole design of Falzkunst (.falz.json); export it again");
        }
    }

    private sealed class PathConverter : JsonConverter<VectorPath>
    {
        public override VectorPath Read(ref Utf8JsonReader reader, Type type, JsonSerializerOptions options)
        {
            var path = SvgPathText.Read(reader.GetString() ?? "", out var complete);
            return complete ? path : throw new JsonException();
        }

        public override void Write(Utf8JsonWriter writer, VectorPath value, JsonSerializerOptions options) => writer.WriteStringValue(value.ToSvg());
    }

    private sealed class ColourConverter : JsonConverter<Colour>
    {
        public override Colour Read(ref Utf8JsonReader reader, Type type, JsonSerializerOptions options)
        {
            var text = reader.GetString() ?? "";
            try
            {
                return text.Length == 7 ? Colour.FromHex(text) : Colour.FromHex(text[..7]) with { Alpha = double.Parse(text[8..], CultureInfo.InvariantCulture) };
            }
            catch (Exception e) when (e is FormatException or ArgumentException or IndexOutOfRangeException)
            {
                throw new JsonException();
            }
        }

        public override void Write(Utf8JsonWriter writer, Colour value, JsonSerializerOptions options) =>
            writer.WriteStringValue(value.Alpha >= 1 ? value.Hex : string.Create(CultureInfo.InvariantCulture, $"{value.Hex}/{value.Alpha:0.####}"));
    }

    private sealed class LengthConverter : JsonConverter<Length>
    {
        public override Length Read(ref Utf8JsonReader reader, Type type, JsonSerializerOptions options) => Length.FromMm(reader.GetDouble());

        public override void Write(Utf8JsonWriter writer, Length value, JsonSerializerOptions options) => writer.WriteNumberValue(value.Mm);
    }

    private sealed class BytesConverter : JsonConverter<ImmutableArray<byte>>
    {
        public override ImmutableArray<byte> Read(ref Utf8JsonReader reader, Type type, JsonSerializerOptions options) => [.. reader.GetBytesFromBase64()];

        public override void Write(Utf8JsonWriter writer, ImmutableArray<byte> value, JsonSerializerOptions options) => writer.WriteBase64StringValue(value.AsSpan());
    }
}
