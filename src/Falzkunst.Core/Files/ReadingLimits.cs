namespace Falzkunst.Core.Files;

/// <summary>The file can't be read; the message is one plain sentence for the person who brought it.</summary>
public class UnreadableFileException(string message, Exception? inner = null) : Exception(message, inner);

/// <summary>The file took longer to read than the limit allows.</summary>
public sealed class OutOfTimeException(TimeSpan limit)
    : UnreadableFileException($"it takes longer than {limit.TotalSeconds:0} seconds to read; take it apart into smaller files");

/// <summary>How much of a file is read before it is refused.</summary>
public sealed record ReadingLimits
{
    public static ReadingLimits Default { get; } = new();

    public long FileBytes { get; init; } = 50_000_000;

    public long UnzippedBytes { get; init; } = 200_000_000;

    public int Segments { get; init; } = 2_000_000;

    /// <summary>Elements drawn, each use of one counted.</summary>
    public int Elements { get; init; } = 500_000;

    public long PicturePixels { get; init; } = 60_000_000;

    public int Nesting { get; init; } = 200;

    public long EntityCharacters { get; init; } = 1_000_000;

    /// <summary>Until it is given up; a step that can't be interrupted may still end, so that ten seconds are kept.</summary>
    public TimeSpan Time { get; init; } = TimeSpan.FromSeconds(9);
}
