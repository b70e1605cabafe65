using System.IO;
using Falzkunst.Core.Cards;
using Falzkunst.Core.Documents;
using Falzkunst.Core.Files;
using Falzkunst.Core.Pictures;
using Falzkunst.Core.Reading.Dxf;
using Falzkunst.Core.Reading.Recognition;
using Falzkunst.Core.Reading.Svg;
using Falzkunst.Core.Writing;

namespace Falzkunst.Core.Reading;

/// <summary>The one way in: tells by its first bytes what a file is, reads it, and recognises what it holds.</summary>
public static class DesignReader
{
    /// <summary>Reads a whole file that is in memory. Bounded by <paramref name="limits"/> in size, depth and work; all files of an archive
    /// together have the work of one.</summary>
    /// <exception cref="UnreadableFileException">One plain sentence, without the file's name, that says what is wrong and what to do.</exception>
    /// <exception cref="OperationCanceledException"><paramref name="cancel"/> was called.</exception>
    public static Design Read(ReadOnlyMemory<byte> file, ReadingLimits? limits = null, CancellationToken cancel = default)
    {
        limits ??= ReadingLimits.Default;
        return Read(file, limits, new ReadingWork(limits, cancel));
    }

    private static Design Read(ReadOnlyMemory<byte> file, ReadingLimits limits, ReadingWork work)
    {
        if (file.Length == 0) throw new UnreadableFileException("it is empty");
        if (file.Length > limits.FileBytes) throw new UnreadableFileException($"it is larger than {limits.FileBytes / 1_000_000} MB");
        var head = file.Span[..Math.Min(16, file.Length)];
        if (Archive.IsZip(file.Span)) return Together(Archive.Files(file, limits), limits, work);
        if (IsPicture(head)) return PictureDesign.Read(file, null, limits, work);
        if (head.StartsWith((ReadOnlySpan<byte>)[0x1F, 0x8B])) return Read(Archive.Unpack(file, limits), limits, work);
        if (FirstSign(file.Span) == '{') return FalzFile.Read(file.Span);
        if (DxfReader.IsDxf(file.Span)) return Recogniser.Recognise(DxfReader.Read(file.Span, limits, work), work);
        if (head.StartsWith("AutoCAD Binary DXF"u8[..16])) throw new UnreadableFileException("it is a binary DXF file; export it as text (ASCII)");
        using var stream = new MemoryStream(file.ToArray(), false);
        return Recogniser.Recognise(SvgReader.Read(stream, limits, work), work);
    }

    /// <summary>The files of an archive beside one another; those that can't be read are noted.</summary>
    private static Design Together(IReadOnlyList<ArchivedFile> files, ReadingLimits limits, ReadingWork work)
    {
        Design? all = null;
        var notes = new List<ReadingNote>();
        foreach (var file in files)
        {
            try
            {
                if (Archive.IsZip(file.Bytes)) throw new UnreadableFileException("it is an archive in an archive");
                var design = Read(file.Bytes, limits, work);
                all = all is null ? design : new BringBeside(design, file.Name).Apply(all);
            }
            catch (UnreadableFileException e)
            {
                notes.Add(new("archived", $"“{file.Name}” in the archive is left out: {e.Message}.", new(0, 0)));
            }
        }

        return all is null ? throw new UnreadableFileException($"nothing in this archive can be read ({notes[0].Text.TrimEnd('.')})")
            : all with { Notes = all.Notes.AddRange(notes) };
    }

    /// <summary>Whether the first bytes are those of PNG, JPEG or WebP.</summary>
    public static bool IsPicture(ReadOnlySpan<byte> head) => head.StartsWith((ReadOnlySpan<byte>)[0x89, 0x50, 0x4E, 0x47])
        || head.StartsWith((ReadOnlySpan<byte>)[0xFF, 0xD8])
        || (head.Length >= 12 && head.StartsWith("RIFF"u8) && head[8..].StartsWith("WEBP"u8));

    /// <summary>The media type of a file by its first bytes (RFC 6838); DXF has none of its own.</summary>
    public static string MediaType(ReadOnlySpan<byte> file) =>
        Archive.IsZip(file) ? "application/zip"
        : IsPicture(file) ? file[0] switch { 0x89 => "image/png", 0xFF => "image/jpeg", _ => "image/webp" }
        : FirstSign(file) switch { '{' => "application/json", '<' => "image/svg+xml", _ => "application/octet-stream" };

    private static char FirstSign(ReadOnlySpan<byte> file)
    {
        foreach (var b in file)
            if (b is not (0x20 or 0x09 or 0x0A or 0x0D or 0xEF or 0xBB or 0xBF)) return (char)b;
        return '\0';
    }
}
