using System.IO;
using Falzkunst.Core.Cards;
using Falzkunst.Core.Reading.Recognition;
using Falzkunst.Core.Reading.Svg;
using Falzkunst.Core.Writing;

namespace Falzkunst.Core.Reading;

/// <summary>The one way in: tells by its first bytes what a file is, reads it, and recognises what it holds.</summary>
public static class DesignReader
{
    /// <summary>Reads a whole file that is in memory. Bounded by <paramref name="limits"/> in size, depth and time.</summary>
    /// <exception cref="UnreadableFileException">One plain sentence, without the file's name, that says what is wrong and what to do.</exception>
    /// <exception cref="OperationCanceledException"><paramref name="cancel"/> was called.</exception>
    public static Design Read(ReadOnlyMemory<byte> file, ReadingLimits? limits = null, CancellationToken cancel = default)
    {
        limits ??= ReadingLimits.Default;
        if (file.Length == 0) throw new UnreadableFileException("it is empty");
        if (file.Length > limits.FileBytes) throw new UnreadableFileException($"it is larger than {limits.FileBytes / 1_000_000} MB");
        using var time = CancellationTokenSource.CreateLinkedTokenSource(cancel);
        time.CancelAfter(limits.Time);
        try
        {
            var head = file.Span[..Math.Min(16, file.Length)];
            if (head.StartsWith("PK"u8)) throw new UnreadableFileException("ZIP files are not read yet: unpack it, and bring the SVG files inside");
            if (Pictures.PictureFacts.Read(file.Span) is not null || head.StartsWith((ReadOnlySpan<byte>)[0x89, 0x50]) || head.StartsWith((ReadOnlySpan<byte>)[0xFF, 0xD8]))
                throw new UnreadableFileException("pictures are not traced yet: bring an SVG file");
            if (head.StartsWith((ReadOnlySpan<byte>)[0x1F, 0x8B])) throw new UnreadableFileException("compressed SVG is not read yet: save it as plain SVG");
            if (FirstSign(file.Span) == '{') return FalzFile.Read(file.Span);
            using var stream = new MemoryStream(file.ToArray(), false);
            return Recogniser.Recognise(SvgReader.Read(stream, limits, time.Token), time.Token);
        }
        catch (OperationCanceledException) when (!cancel.IsCancellationRequested)
        {
            throw new OutOfTimeException(limits.Time);
        }
    }

    private static char FirstSign(ReadOnlySpan<byte> file)
    {
        foreach (var b in file)
            if (b is not (0x20 or 0x09 or 0x0A or 0x0D or 0xEF or 0xBB or 0xBF)) return (char)b;
        return '\0';
    }
}
