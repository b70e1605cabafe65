using System.IO;
using System.IO.Compression;

namespace Falzkunst.Core.Reading;

/// <summary>A file in an archive; its name is the last part of its path there.</summary>
public sealed record ArchivedFile(string Name, byte[] Bytes);

/// <summary>Unpacks archives, never more than the limit allows, whatever they say of their size.</summary>
public static class Archive
{
    private const int MostFiles = 500;
    private static readonly string[] Kinds = [".svg", ".svgz", ".dxf", ".png", ".jpg", ".jpeg", ".webp", ".json"];

    public static bool IsZip(ReadOnlySpan<byte> file) => file.StartsWith("PK"u8);

    /// <summary>The files of a ZIP that could be designs, in the order of their names; archives in it are left alone.</summary>
    /// <exception cref="UnreadableFileException">It is damaged, holds nothing to read, or more than the limit.</exception>
    public static IReadOnlyList<ArchivedFile> Files(ReadOnlyMemory<byte> zip, ReadingLimits limits)
    {
        try
        {
            using var archive = new ZipArchive(new MemoryStream(zip.ToArray(), false), ZipArchiveMode.Read);
            var files = new List<ArchivedFile>();
            var left = limits.UnzippedBytes;
            foreach (var entry in archive.Entries.OrderBy(e => e.FullName, StringComparer.OrdinalIgnoreCase))
            {
                // Folders that some systems add hold nothing that a person put there.
                if (entry.Name.Length == 0 || entry.Name[0] == '.' || entry.FullName.StartsWith("__MACOSX", StringComparison.Ordinal)) continue;
                if (!Kinds.Contains(Path.GetExtension(entry.Name).ToLowerInvariant())) continue;
                if (files.Count >= MostFiles) throw new UnreadableFileException($"it holds more than {MostFiles} files; take it apart");
                using var stream = entry.Open();
                var bytes = Take(stream, Math.Min(left, limits.FileBytes + 1));
                left -= bytes.Length;
                if (bytes.Length > limits.FileBytes) throw new UnreadableFileException($"“{entry.Name}” in it is larger than {limits.FileBytes / 1_000_000} MB");
                files.Add(new(entry.Name, bytes));
            }

            return files.Count > 0 ? files : throw new UnreadableFileException("there is no SVG, DXF or picture in this archive");
        }
        catch (Exception e) when (e is InvalidDataException or IOException or NotSupportedException)
        {
            throw new UnreadableFileException("the archive is damaged or locked by a password; unpack it, and bring the files inside");
        }

        byte[] Take(Stream from, long most)
        {
            using var buffer = new MemoryStream();
            Copy(from, buffer, most, limits);
            return buffer.ToArray();
        }
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
            if (to.Length + n > most) throw new UnreadableFileException($"it unpacks to more than {Math.Min(most, limits.UnzippedBytes) / 1_000_000} MB");
            to.Write(part, 0, n);
        }
    }
}
