using System.Reflection;
using System.Text.Json;
using System.Text.Json.Serialization;
using System.Text.Json.Serialization.Metadata;
using Falzkunst.Core.Cards;
using Falzkunst.Core.Files;

namespace Falzkunst.Core.Documents;

/// <summary>How designs are written as JSON (RFC 8259), for all documents; they differ only in where paths and pictures go.</summary>
internal static class Dress
{
    /// <param name="path">Writes and reads paths.</param>
    /// <param name="picture">Writes and reads pictures.</param>
    public static JsonSerializerOptions With(JsonConverter<VectorPath> path, JsonConverter<Picture> picture) => new(JsonSerializerDefaults.Web)
    {
        Converters = { path, picture, new ColourConverter(),
            new JsonStringEnumConverter(JsonNamingPolicy.CamelCase, allowIntegerValues: false), },
        DefaultIgnoreCondition = JsonIgnoreCondition.WhenWritingNull,
        IgnoreReadOnlyProperties = true,
        Encoder = System.Text.Encodings.Web.JavaScriptEncoder.UnsafeRelaxedJsonEscaping,
        MaxDepth = 32,
        NumberHandling = JsonNumberHandling.Strict,
        PropertyNameCaseInsensitive = false,
        RespectNullableAnnotations = true,
        RespectRequiredConstructorParameters = true,
        AllowOutOfOrderMetadataProperties = true,
        AllowDuplicateProperties = false,
        TypeInfoResolver = new DefaultJsonTypeInfoResolver { Modifiers = { WithoutEmptyLists } },
    };

    /// <summary>What is thrown for text that is no such document; whatever it is, it is one sentence for the person who brought it.</summary>
    public static bool IsUnreadable(Exception e) => e is JsonException or FormatException or ArgumentException or OverflowException
        or InvalidOperationException or NotSupportedException or NullReferenceException or IndexOutOfRangeException;

    /// <summary>Half of the words in a design would be names of lists with nothing in them.</summary>
    private static void WithoutEmptyLists(JsonTypeInfo type)
    {
        if (type.Kind != JsonTypeInfoKind.Object) return;
        // What a constructor asks for must be there when it is read.
        var asked = type.Type.GetConstructors().SelectMany(c => c.GetParameters()).Select(p => p.Name).ToHashSet(StringComparer.OrdinalIgnoreCase);
        foreach (var property in type.Properties)
        {
            // What may be null is left out where it is.
            if (property.IsSetNullable) property.IsRequired = false;
            if (!asked.Contains((property.AttributeProvider as MemberInfo)?.Name) && property.PropertyType is { IsGenericType: true } t
                && t.GetGenericTypeDefinition() == typeof(ImmutableArray<>))
                property.ShouldSerialize = static (_, list) => list is System.Collections.ICollection { Count: > 0 };
        }
    }

    private sealed class ColourConverter : JsonConverter<Colour>
    {
        public override Colour Read(ref Utf8JsonReader reader, Type type, JsonSerializerOptions options)
        {
            var text = reader.GetString() ?? "";
            return text.Length == 7 && text[0] == '#' ? Colour.FromHex(text)
                : text.Length is > 8 and < 40 && text[0] == '#' && text[7] == '/'
                ? Colour.FromHex(text[..7]) with { Alpha = double.Parse(text.AsSpan(8), CultureInfo.InvariantCulture) }
                : throw new JsonException();
        }

        public override void Write(Utf8JsonWriter writer, Colour value, JsonSerializerOptions options) =>
            writer.WriteStringValue(value.Alpha == 1 ? value.Hex : string.Create(CultureInfo.InvariantCulture, $"{value.Hex}/{value.Alpha:R}"));
    }
}

/// <summary>Paths as SVG path data in mm, to 1e-5 mm.</summary>
internal sealed class PathTextConverter : JsonConverter<VectorPath>
{
    public override VectorPath Read(ref Utf8JsonReader reader, Type type, JsonSerializerOptions options)
    {
        var path = PathText.Read(reader.GetString() ?? "", out var complete, ReadingLimits.Default.Segments);
        return complete ? path : throw new JsonException();
    }

    public override void Write(Utf8JsonWriter writer, VectorPath value, JsonSerializerOptions options) => writer.WriteStringValue(value.ToSvg());
}

/// <summary>Pictures as base64; what is no picture is refused.</summary>
internal sealed class PictureTextConverter : JsonConverter<Picture>
{
    public override Picture Read(ref Utf8JsonReader reader, Type type, JsonSerializerOptions options) => new([.. reader.GetBytesFromBase64()]);

    public override void Write(Utf8JsonWriter writer, Picture value, JsonSerializerOptions options) => writer.WriteBase64StringValue(value.Bytes.AsSpan());
}
