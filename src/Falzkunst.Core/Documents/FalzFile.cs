using System.Text.Json;
using System.Text.Json.Serialization;
using Falzkunst.Core.Cards;
using Falzkunst.Core.Files;
using Falzkunst.Core.Reading;
using Falzkunst.Core.Reading.Svg;

namespace Falzkunst.Core.Documents;

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
            var design = JsonSerializer.Deserialize<Design>(file, Options) ?? throw new JsonException();
            if (design.Schema > Design.CurrentSchema)
                throw new UnreadableFileException($"it was written by a newer version (schema {design.Schema}, this one reads up to {Design.CurrentSchema})");
            return WrongWith(design) is { } wrong ? throw new UnreadableFileException($"this is not a whole design of Falzkunst (.falz.json): {wrong}; export it again") : design;
        }
        catch (JsonException)
        {
            throw new UnreadableFileException("this is not a whole design of Falzkunst (.falz.json); export it again");
        }
    }

    /// <summary>What in a design does not hold together, so that nothing behind this place has to ask; null where all is well.</summary>
    private static string? WrongWith(Design d)
    {
        const double LargestMm = 1e6;
        if (d.Schema < 1) return "its schema is none";
        if (!(d.WidthMm is > 0 and < LargestMm && d.HeightMm is > 0 and < LargestMm)) return "its page has no size";
        if (d.Scale is not { PxPerInch: > 0 and < 1e6, Reason: not null }) return "its scale is missing";
        if (Missing(d.Plies) || Missing(d.Pieces) || Missing(d.Lines) || Missing(d.Artwork) || Missing(d.Looks) || Missing(d.Notes) || Missing(d.LeftOut)) return "a list in it is missing";
        var plies = new HashSet<string>(StringComparer.Ordinal);
        if (!d.Plies.All(y => plies.Add(y.Id))) return "two plies have the same id";
        var ids = new HashSet<string>(StringComparer.Ordinal);
        foreach (var p in d.Pieces)
        {
            if (!ids.Add(p.Id)) return $"“{p.Id}” is there twice";
            if (p.Ink is null || p.Holes.IsDefault || p.Holes.Any(h => h?.Ink is null)) return $"the piece “{p.Id}” lacks something";
            if (Whole(p.Outline) is not { } box || box.IsEmpty || !p.Outline.IsClosed) return $"the outline of the piece “{p.Id}” is none";
            if (!plies.Contains(p.PlyId)) return $"the piece “{p.Id}” lies on no ply";
            if (p.Holes.Length > 0 && p.Holes.Length != p.HoleCount) return $"the holes of the piece “{p.Id}” are not its own";
        }

        var pieces = ids.ToHashSet(StringComparer.Ordinal);
        foreach (var l in d.Lines)
        {
            if (!ids.Add(l.Id)) return $"“{l.Id}” is there twice";
            if (l.Ink is null || Whole(l.Path) is null) return $"the line “{l.Id}” lacks something";
            if (l.CarriedBy is { } by && !pieces.Contains(by)) return $"the line “{l.Id}” is carried by a piece that is not there";
        }

        foreach (var a in d.Artwork)
        {
            if (!ids.Add(a.Id)) return $"“{a.Id}” is there twice";
            if (a.Bytes.IsDefaultOrEmpty || !a.Place.IsFinite || a.Place.Determinant == 0 || !double.IsFinite(a.Opacity)) return $"the picture “{a.Id}” is none";
            if (a.CarriedBy is { } by && !pieces.Contains(by)) return $"the picture “{a.Id}” is carried by a piece that is not there";
        }

        return null;

        static bool Missing<T>(ImmutableArray<T> list) => list.IsDefault || list.Any(item => item is null);

        static Box? Whole(VectorPath path) => path is { IsEmpty: false, Bounds: var b } && double.IsFinite(b.Left + b.Right + b.Top + b.Bottom) && Math.Abs(b.Left) + Math.Abs(b.Right) + Math.Abs(b.Top) + Math.Abs(b.Bottom) < 4 * LargestMm ? b : null;
    }

    private sealed class PathConverter : JsonConverter<VectorPath>
    {
        public override VectorPath Read(ref Utf8JsonReader reader, Type type, JsonSerializerOptions options)
        {
            var path = PathText.Read(reader.GetString() ?? "", out var complete);
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
