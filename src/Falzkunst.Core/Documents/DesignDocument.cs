using System.Collections.Concurrent;
using System.Runtime.CompilerServices;
using System.Security.Cryptography;
using System.Text;
using System.Text.Json;
using System.Text.Json.Serialization;
using System.Text.RegularExpressions;
using Falzkunst.Core.Cards;
using Falzkunst.Core.Files;

namespace Falzkunst.Core.Documents;

/// <summary>A document as text, and the blobs that it refers to by their SHA-256 (64 hexadecimal digits), each to be made when it is wanted.</summary>
public sealed record WrittenDocument(byte[] Text, IReadOnlyDictionary<string, Func<ReadOnlyMemory<byte>>> Blobs);

/// <summary>
/// A document that is about to be read. It holds on to what it names and is in memory already, so that nothing that was not fetched is gone when it is read.
/// </summary>
public sealed class NamingDocument
{
    // Only held: what is shared by its hash lives as long as somebody holds it.
    private readonly IReadOnlyList<object> _held;

    internal NamingDocument(byte[] text, IReadOnlySet<string> names, IReadOnlySet<string> wanted, IReadOnlyList<object> held) =>
        (Text, Names, Wanted, _held) = (text, names, wanted, held);

    public byte[] Text { get; }

    /// <summary>The hashes of all blobs that it names.</summary>
    public IReadOnlySet<string> Names { get; }

    /// <summary>Those that are not in memory anyway: what <c>Read…</c> needs.</summary>
    public IReadOnlySet<string> Wanted { get; }

    /// <summary>Says that up to here what it holds is needed.</summary>
    internal void KeepAlive() => GC.KeepAlive(_held);
}

/// <summary>
/// A design, or an edit, as a small document: outlines of some size and pictures are blobs that it only names, so that the documents of a docket share them.
/// Exact: what is read
/// equals what was written.
/// </summary>
public static partial class DesignDocument
{
    /// <summary>Shorter paths, in bytes, are written into the document: a name would be as long.</summary>
    private const int ShortestBlob = 160;

    private const char BlobMark = '#', InlineMark = '=';

    private static readonly JsonSerializerOptions Options = Dress.With(new PathBlobs(), new PictureBlobs());

    private static readonly ConditionalWeakTable<VectorPath, string> Known = [];

    // What is in memory already is shared with what is read, however it got there.
    private static readonly Shared<VectorPath> Paths = new();
    private static readonly Shared<Picture> Pictures = new();

    // The serializer walks a document on one thread; its options are made once, so what differs from call to call is told this way.
    [ThreadStatic]
    private static Dictionary<string, Func<ReadOnlyMemory<byte>>>? _writing;

    [ThreadStatic]
    private static IReadOnlyDictionary<string, byte[]>? _reading;

    public static WrittenDocument Write(Design design) => WriteAs(design);

    public static WrittenDocument Write(Edit edit) => WriteAs(edit);

    /// <summary>Looks through a document for what it names, so that it can be fetched before it is read.</summary>
    public static NamingDocument Open(byte[] text)
    {
        var (names, wanted, held) = (new HashSet<string>(StringComparer.Ordinal), new HashSet<string>(StringComparer.Ordinal), new List<object>());
        foreach (Match m in Name().Matches(Encoding.UTF8.GetString(text)))
        {
            var hash = m.Value[2..^1];
            if (!names.Add(hash)) continue;
            if (((object?)Paths.Find(hash) ?? Pictures.Find(hash)) is { } thing) held.Add(thing);
            else wanted.Add(hash);
        }

        return new(text, names, wanted, held);
    }

    /// <exception cref="UnreadableFileException">The document is damaged, or a blob is missing or is not what its name says.</exception>
    public static Design ReadDesign(NamingDocument document, IReadOnlyDictionary<string, byte[]> blobs)
    {
        var design = ReadAs<Design>(document, blobs);
        return design.Check() is { } wrong ? throw new UnreadableFileException(wrong) : design;
    }

    /// <inheritdoc cref="ReadDesign"/>
    public static Edit ReadEdit(NamingDocument document, IReadOnlyDictionary<string, byte[]> blobs) => ReadAs<Edit>(document, blobs);

    /// <summary>The name of some bytes.</summary>
    public static string HashOf(ReadOnlySpan<byte> bytes) => Convert.ToHexStringLower(SHA256.HashData(bytes));

    private static WrittenDocument WriteAs<T>(T what)
    {
        var blobs = _writing = new(StringComparer.Ordinal);
        try
        {
            return new(JsonSerializer.SerializeToUtf8Bytes(what, Options), blobs);
        }
        finally
        {
            _writing = null;
        }
    }

    private static T ReadAs<T>(NamingDocument document, IReadOnlyDictionary<string, byte[]> blobs)
    {
        _reading = blobs;
        try
        {
            return JsonSerializer.Deserialize<T>(document.Text, Options) ?? throw new JsonException();
        }
        catch (Exception e) when (Dress.IsUnreadable(e))
        {
            throw new UnreadableFileException("the document is damaged", e);
        }
        finally
        {
            _reading = null;
            document.KeepAlive();
        }
    }

    private static byte[] BytesOf(string hash)
    {
        if (_reading?.GetValueOrDefault(hash) is not { } bytes) throw new JsonException($"The blob {hash} is missing.");
        return HashOf(bytes) == hash ? bytes : throw new JsonException($"The blob {hash} is damaged.");
    }

    [GeneratedRegex("\"#[0-9a-f]{64}\"", RegexOptions.ExplicitCapture | RegexOptions.CultureInvariant)]
    private static partial Regex Name();

    private sealed class PathBlobs : JsonConverter<VectorPath>
    {
        public override VectorPath Read(ref Utf8JsonReader reader, Type type, JsonSerializerOptions options)
        {
            var text = reader.GetString() ?? "";
            if (text.Length == 0) throw new JsonException();
            if (text[0] == InlineMark) return PathBytes.Read(Convert.FromBase64String(text[1..]));
            if (text[0] != BlobMark) throw new JsonException();
            var hash = text[1..];
            if (Paths.Find(hash) is { } shared) return shared;
            var path = PathBytes.Read(BytesOf(hash));
            Known.AddOrUpdate(path, text);
            return Paths.Add(hash, path);
        }

        public override void Write(Utf8JsonWriter writer, VectorPath value, JsonSerializerOptions options)
        {
            if (!Known.TryGetValue(value, out var name))
            {
                var bytes = PathBytes.Write(value);
                name = bytes.Length < ShortestBlob ? InlineMark + Convert.ToBase64String(bytes) : BlobMark + HashOf(bytes);
                Known.AddOrUpdate(value, name);
            }

            if (name[0] == BlobMark)
            {
                Paths.Add(name[1..], value);
                _writing!.TryAdd(name[1..], () => PathBytes.Write(value));
            }

            writer.WriteStringValue(name);
        }
    }

    private sealed class PictureBlobs : JsonConverter<Picture>
    {
        public override Picture Read(ref Utf8JsonReader reader, Type type, JsonSerializerOptions options)
        {
            var text = reader.GetString() ?? "";
            if (text.Length == 0 || text[0] != BlobMark) throw new JsonException();
            var hash = text[1..];
            return Pictures.Find(hash) ?? Pictures.Add(hash, new([.. BytesOf(hash)]));
        }

        public override void Write(Utf8JsonWriter writer, Picture value, JsonSerializerOptions options)
        {
            Pictures.Add(value.Hash, value);
            _writing!.TryAdd(value.Hash, () => value.Bytes.AsMemory());
            writer.WriteStringValue(BlobMark + value.Hash);
        }
    }

    /// <summary>Things by their hash for as long as somebody else holds them.</summary>
    private sealed class Shared<T>
        where T : class
    {
        private readonly ConcurrentDictionary<string, WeakReference<T>> _all = new(StringComparer.Ordinal);
        private int _sweepAt = 4096;

        public T? Find(string hash) => _all.TryGetValue(hash, out var held) && held.TryGetTarget(out var thing) ? thing : null;

        public T Add(string hash, T thing)
        {
            if (Find(hash) is { } known) return known;
            _all[hash] = new(thing);
            if (_all.Count > _sweepAt)
            {
                foreach (var (name, held) in _all)
                    if (!held.TryGetTarget(out _)) _all.TryRemove(KeyValuePair.Create(name, held));
                _sweepAt = Math.Max(4096, _all.Count * 2);
            }

            return thing;
        }
    }
}
