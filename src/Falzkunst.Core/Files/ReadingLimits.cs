namespace Falzkunst.Core.Files;

/// <summary>The file can't be read; the message is one plain sentence for the person who brought it.</summary>
public class UnreadableFileException(string message, Exception? inner = null) : Exception(message, inner);

/// <summary>The file takes more work to read than the limit allows.</summary>
public sealed class TooMuchWorkException()
    : UnreadableFileException("it takes too much work to read, more than a card ever needs; take it apart into smaller files");

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

    /// <summary>Steps of work (see <see cref="Steps"/>) until it is given up: on the machines of 2026 some nine seconds. A slow machine reads the same files,
    /// later.</summary>
    public long Work { get; init; } = 1_200_000_000;
}

/// <summary>
/// The work of reading one file, on one thread. It is asked in every loop whose length a file decides, and ends the reading where there was too much.
/// </summary>
/// <param name="cancel">Of who does not want to wait any more.</param>
public sealed class ReadingWork(ReadingLimits limits, CancellationToken cancel)
{
    private readonly long _end = Steps.Done + limits.Work;

    /// <summary>For what is not read from a file.</summary>
    public static ReadingWork Unlimited => new(ReadingLimits.Default with { Work = long.MaxValue / 2 }, CancellationToken.None);

    public CancellationToken Cancel => cancel;

    /// <summary>Goes on, or does not.</summary>
    /// <param name="steps">What is about to be done and is not counted where it is done, such as a library's work.</param>
    /// <exception cref="TooMuchWorkException">The limit is reached.</exception>
    /// <exception cref="OperationCanceledException">Nobody waits any more.</exception>
    public void Go(long steps = 0)
    {
        Steps.Count(steps);
        if (Steps.Done > _end) throw new TooMuchWorkException();
        cancel.ThrowIfCancellationRequested();
    }
}
