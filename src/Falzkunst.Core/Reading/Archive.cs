using System.IO;
using System.IO.Compression;
using Falzkunst.Core.Files;

namespace Falzkunst.Core.Reading;

/// <summary>A file in an archive; its name is the last part of its path there, its folder the part before, or empty.</summary>
public sealed record ArchivedFile(string Name, byte[] Bytes, string Folder);

/// <summary>Unpacks archives, never more than the limit allows, whatever they say of their size.</summary>
public static class Archive
{
    private const int MostFiles = 500;
    private static readonly string[] Kinds = [".svg", ".svgz", ".dxf", ".png", ".jpg", ".jpeg", ".webp", ".json"];

    public static bool IsZip(ReadOnlySpan<byte> file) => file.StartsWith("PK"u8);

    /// <summary>The files of a ZIP that could be designs, in the order of their names; archives in it are left alone.</summary>
    /// <exception cref="UnreadableFileException">It is damaged, holds nothing to read, or more than the limit.</exception>
    public static IReadOnlyList<ArchivedFile> Files(ReadOnlyMemory<byte> zip, ReadingLimits limits) => Opened(zip, entries =>
    {
        var left = limits.UnzippedBytes;
        return entries.ConvertAll(e =>
        {
            var file = Unpacked(e, left, limits);
            left -= file.Bytes.Length;
            return file;
        });
    });

    /// <summary>The names of those files, without unpacking them.</summary>
    /// <exception cref="UnreadableFileException">As <see cref="Files"/>.</exception>
    public static IReadOnlyList<string> Names(ReadOnlyMemory<byte> zip) => Opened(zip, entries => entries.ConvertAll(e => e.Name));

    /// <summary>One of those files, by its place among them; null where there is none.</summary>
    /// <exception cref="UnreadableFileException">As <see cref="Files"/>.</exception>
    public static ArchivedFile? File(ReadOnlyMemory<byte> zip, int index, ReadingLimits limits) =>
        Opened(zip, entries => index >= 0 && index < entries.Count ? Unpacked(entries[index], limits.UnzippedBytes, limits) : null);

    private static T Opened<T>(ReadOnlyMemory<byte> zip, Func<List<ZipArchiveEntry>, T> take)
    {
        try
        {
            using var archive = new ZipArchive(new MemoryStream(zip.ToArray(), false), ZipArchiveMode.Read);
            // Folders that some systems add hold nothing that a person put there.
            var entries = archive.Entries.OrderBy(e => e.FullName, StringComparer.OrdinalIgnoreCase)
                .Where(e => e.Name.Length > 0 && e.Name[0] != '.' && !e.FullName.StartsWith("__MACOSX", StringComparison.Ordinal)
                && Kinds.Contains(Path.GetExtension(e.Name).ToLowerInvariant())).ToList();
            if (entries.Count > MostFiles) throw new UnreadableFileException($"it holds more than {MostFiles} files; take it apart");
            if (entries.Count == 0) throw new UnreadableFileException("there is no SVG, DXF or picture in this archive");
            return take(entries);
        }
        catch (Exception e) when (e is InvalidDataException or IOException or NotSupportedException)
        {
            throw new UnreadableFileException("the archive is damaged or locked by a password; unpack it, and bring the files inside");
        }
    }

    private static ArchivedFile Unpacked(ZipArchiveEntry entry, long left, ReadingLimits limits)
    {
        using var stream = entry.Open();
        using var buffer = new MemoryStream();
        Copy(stream, buffer, Math.Min(left, limits.FileBytes + 1), limits);
        return buffer.Length > limits.FileBytes
            ? throw new UnreadableFileException($"“{entry.Name}” in it is larger than {limits.FileBytes / 1_000_000} MB")
            : new(entry.Name, buffer.ToArray(), Path.GetFileName(Path.GetDirectoryName(entry.FullName)) ?? "");
    }

    /// <summary>What a file compressed by gzip holds, such as a compressed SVG.</summary>
    /// <exception cref="UnreadableFileException">It is damaged or holds more than the limit.</exception>
    public static byte[] Unpack(ReadOnlyMemory<byte> gzip, ReadingLimits limits)
    {
        try
        {
            using var unpack = new GZipStream(new MemoryStream(gzip.ToArray(), false), CompressionMode.Decompress);
            using var buffer = new MemoryStream();
            Copy(unpack, buffer, limits.FileBytes, limits);
            var bytes = buffer.ToArray();
            return bytes.AsSpan().StartsWith((ReadOnlySpan<byte>)[0x1F, 0x8B]) ? throw new UnreadableFileException("it is compressed more than once") : bytes;
        }
        catch (InvalidDataException)
        {
            throw new UnreadableFileException("the compressed file is damaged; fetch it again");
        }
    }

    private static void Copy(Stream from, MemoryStream to, long most, ReadingLimits limits)
    {
        var part = new byte[81_920];
        int n;
        while ((n = from.Read(part)) > 0)
        {
            if (to.Length + n > most)
            {
                // What is left of a limit is not the limit.
                var limit = most == limits.FileBytes ? limits.FileBytes : limits.UnzippedBytes;
                throw new UnreadableFileException($"it unpacks to more than {limit / 1_000_000} MB");
            }

            to.Write(part, 0, n);
        }
    }
}
