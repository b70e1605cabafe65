using System.IO.Pipelines;
using System.Text.Json;
using System.Text.Json.Serialization;
using System.Text.Json.Serialization.Metadata;

namespace Falzkunst.Cli;

/// <summary>
/// How answers are written as JSON (RFC 8259), and requests read. The names of an answer's properties are what callers rely on. Numbers are rounded to
/// 6 decimals; a point is [x, y] and a box [x, y, width, height], to 4 decimals, in mm.
/// </summary>
internal static class AnswerJson
{
    private const int Decimals = 6, PlaceDecimals = 4;

    private static readonly JsonSerializerOptions Answers = new(JsonSerializerDefaults.Web)
    {
        Converters = { new NumberConverter(), new PointConverter(), new BoxConverter(), new JsonStringEnumConverter(JsonNamingPolicy.CamelCase) },
        Encoder = System.Text.Encodings.Web.JavaScriptEncoder.UnsafeRelaxedJsonEscaping,
        // What most callers ask for is made ready by the compiler: finding out at run time takes as long as reading a small file.
        TypeInfoResolver = JsonTypeInfoResolver.Combine(AnswerTypes.Default, new DefaultJsonTypeInfoResolver()),
    };

    private static readonly JsonSerializerOptions Requests = new(JsonSerializerDefaults.Web)
    {
        Converters = { new JsonStringEnumConverter(JsonNamingPolicy.CamelCase, allowIntegerValues: false) },
        MaxDepth = 16,
        NumberHandling = JsonNumberHandling.Strict,
        PropertyNameCaseInsensitive = false,
        AllowDuplicateProperties = false,
        RespectNullableAnnotations = true,
        RespectRequiredConstructorParameters = true,
    };

    public static byte[] Write<T>(T answer) => JsonSerializer.SerializeToUtf8Bytes(answer, Answers);

    /// <summary>The whole answer in memory, in pieces of a megabyte, since one array would be copied each time that it grows.</summary>
    public static PipeReader Held<T>(T answer)
    {
        var pipe = new Pipe(new(pauseWriterThreshold: 0, minimumSegmentSize: 1 << 20, useSynchronizationContext: false));
        JsonSerializer.SerializeAsync(pipe.Writer, answer, Answers).GetAwaiter().GetResult();
        pipe.Writer.Complete();
        return pipe.Reader;
    }

    /// <exception cref="WrongInputException">It is no such request; the message names the file and the place in it.</exception>
    public static T Read<T>(string name, byte[] request, string what, string help)
    {
        try
        {
            return JsonSerializer.Deserialize<T>(request, Requests) ?? throw new JsonException();
        }
        catch (JsonException e)
        {
            // What wraps another of its kind is no JSON at all; otherwise a value is none of what is asked for at its place.
            var at = e is { InnerException: JsonException, LineNumber: { } line } ? $"line {line + 1} can't be read"
                : e.Path is { Length: > 2 } path ? $"{path[2..]} is missing something or can't be read" : "something is missing";
            throw new WrongInputException($"{name}: it is not a {what} ({at}). See ./falzkunst help {help}.");
        }
    }

    private sealed class NumberConverter : JsonConverter<double>
    {
        public override double Read(ref Utf8JsonReader reader, Type type, JsonSerializerOptions options) => reader.GetDouble();

        public override void Write(Utf8JsonWriter writer, double value, JsonSerializerOptions options) => WriteNumber(writer, value, Decimals);
    }

    private sealed class PointConverter : JsonConverter<Point>
    {
        public override Point Read(ref Utf8JsonReader reader, Type type, JsonSerializerOptions options) => throw new NotSupportedException();

        public override void Write(Utf8JsonWriter writer, Point value, JsonSerializerOptions options) => WriteAll(writer, [value.X, value.Y]);
    }

    private sealed class BoxConverter : JsonConverter<Box>
    {
        public override Box Read(ref Utf8JsonReader reader, Type type, JsonSerializerOptions options) => throw new NotSupportedException();

        public override void Write(Utf8JsonWriter writer, Box value, JsonSerializerOptions options) =>
            WriteAll(writer, [value.Left, value.Top, value.Width, value.Height]);
    }

    private static void WriteAll(Utf8JsonWriter writer, ReadOnlySpan<double> numbers)
    {
        writer.WriteStartArray();
        foreach (var n in numbers) WriteNumber(writer, n, PlaceDecimals);
        writer.WriteEndArray();
    }

    private static void WriteNumber(Utf8JsonWriter writer, double v, int decimals)
    {
        Span<byte> digits = stackalloc byte[FixedPoint.Longest];
        writer.WriteRawValue(digits[FixedPoint.Write(v, decimals, digits)..], skipInputValidation: true);
    }
}

[JsonSerializable(typeof(ReadAnswer))]
[JsonSerializable(typeof(EditAnswer))]
internal sealed partial class AnswerTypes : JsonSerializerContext;
