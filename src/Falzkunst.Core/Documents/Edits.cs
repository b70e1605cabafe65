using System.Reflection;
using System.Text.Json;
using System.Text.Json.Serialization;
using Falzkunst.Core.Cards;

namespace Falzkunst.Core.Documents;

/// <summary>Edits as documents call them.</summary>
public static class Edits
{
    private static readonly Dictionary<Type, string> Names = typeof(Edit).GetCustomAttributes<JsonDerivedTypeAttribute>()
        .ToDictionary(a => a.DerivedType, a => (string)a.TypeDiscriminator!);

    /// <summary>The name of its kind: "move".</summary>
    public static string NameOf(Edit edit) => Names[edit.GetType()];

    public static string NameOf<T>()
        where T : Edit => Names[typeof(T)];

    /// <summary>The ids that a written edit names, read without its blobs; empty where it names none.</summary>
    public static IReadOnlyList<string> AboutOf(ReadOnlySpan<byte> text)
    {
        try
        {
            var reader = new Utf8JsonReader(text);
            using var document = JsonDocument.ParseValue(ref reader);
            return [.. document.RootElement.EnumerateObject().Where(p => p.Name is "ids" or "pieceIds" or "lineIds" or "pieceId" or "id")
                .SelectMany(p => p.Value.ValueKind == JsonValueKind.Array ? p.Value.EnumerateArray().Select(v => v.GetString()!) : [p.Value.GetString()!])];
        }
        catch (JsonException)
        {
            return [];
        }
    }
}
