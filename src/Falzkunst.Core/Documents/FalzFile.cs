using System.Text.Json;
using Falzkunst.Core.Cards;
using Falzkunst.Core.Files;

namespace Falzkunst.Core.Documents;

/// <summary>
/// Our own file, <c>.falz.json</c>: a whole design as JSON with a schema version. Paths are SVG path data in mm, to 1e-5 mm; colours are
/// <c>#rrggbb</c> or <c>#rrggbb/alpha</c>; pictures are base64. Writing what was read gives the same bytes.
/// </summary>
public static class FalzFile
{
    internal static readonly JsonSerializerOptions Options = Dress.With(new PathTextConverter(), new PictureTextConverter());

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

    /// <summary>Reads a design of this schema or of an earlier one.</summary>
    /// <exception cref="UnreadableFileException">Not our file, damaged, forged, or written by a newer version.</exception>
    public static Design Read(ReadOnlySpan<byte> file)
    {
        try
        {
            var schema = JsonSerializer.Deserialize<SchemaOf>(file, Options)?.Schema ?? throw new JsonException();
            if (schema > Design.CurrentSchema)
                throw new UnreadableFileException($"it was written by a newer version (schema {schema}, this one reads up to {Design.CurrentSchema})");
            var design = schema == 1 ? SchemaOne.Read(file, Options) : JsonSerializer.Deserialize<Design>(file, Options) ?? throw new JsonException();
            return design.Check() is { } wrong
                ? throw new UnreadableFileException($"this is not a whole design of Falzkunst (.falz.json): {wrong}; export it again") : design;
        }
        catch (Exception e) when (Dress.IsUnreadable(e))
        {
            throw new UnreadableFileException("this is not a whole design of Falzkunst (.falz.json); export it again", e);
        }
    }

    /// <summary>Files of the first version may lack the number.</summary>
    private sealed record SchemaOf
    {
        public int Schema { get; init; } = 1;
    }
}
