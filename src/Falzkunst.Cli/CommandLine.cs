using System.CommandLine;
using System.Globalization;
using Falzkunst.Core.Files;
using Falzkunst.Core.Reading;

namespace Falzkunst.Cli;

/// <summary>What was asked for can't be done; the message is the one sentence that goes to stderr, and the exit code is 2 unless it says otherwise.</summary>
internal sealed class WrongInputException(string message, int exitCode = CommandLine.Wrong) : Exception(message)
{
    public int ExitCode { get; } = exitCode;
}

/// <summary>The second door to the core: parses arguments, and sees to exit codes and to what goes where.</summary>
internal static class CommandLine
{
    private static readonly AsyncLocal<Doors?> Own = new();
    private static string? _half;

    /// <summary>Where a command says what came of it, and where what is wrong.</summary>
    private sealed record Doors(Stream Output, TextWriter Error);

    /// <summary>Sentences for people: stderr.</summary>
    public static TextWriter Error => Own.Value?.Error ?? Console.Error;

    /// <summary>The answer: stdout.</summary>
    public static Stream Output => Own.Value?.Output ?? Console.OpenStandardOutput();

    /// <summary>The same as <see cref="Run(string[])"/> within a process that does other things as well.</summary>
    public static int Run(string[] args, Stream output, TextWriter error)
    {
        Own.Value = new(output, error);
        try
        {
            return Run(args);
        }
        finally
        {
            Own.Value = null;
        }
    }

    public const int Done = 0, Wrong = 2, TooMuchWork = 3;

    public static int Run(string[] args)
    {
        var root = new RootCommand("Prepares layered card designs for a cutting machine. Lengths are millimetres, angles degrees, y points down.");
        foreach (var command in new[] { ReadCommand.Make(), RenderCommand.Make(), EditCommand.Make(), MakeCommand.Make(), TraceCommand.Make(),
            StrengthCommands.Check(), StrengthCommands.Strengthen(), NestCommand.Make(), PlanCommand.Make(), PlotCommand.Make(),
            MarksCommand.Make(), RegisterCommand.Make(), }) root.Add(command);
        if (args.Length == 0) args = ["help"];
        if (args[0] == "help") return Help.Write(root, args.Skip(1).FirstOrDefault());
        var parsed = root.Parse(args);
        if (parsed.Errors.Count > 0)
        {
            Error.WriteLine($"{parsed.Errors[0].Message.TrimEnd('.')}. See ./falzkunst help"
                + (parsed.CommandResult.Command == root ? "." : $" {parsed.CommandResult.Command.Name}."));
            return Wrong;
        }

        try
        {
            return parsed.Invoke(new InvocationConfiguration { EnableDefaultExceptionHandler = false, ProcessTerminationTimeout = null });
        }
        catch (WrongInputException e)
        {
            Error.WriteLine(e.Message);
            return e.ExitCode;
        }
        catch (Exception e) when (e is IOException or UnauthorizedAccessException)
        {
            Error.WriteLine(e.Message);
            return Wrong;
        }
    }

    /// <summary>An action whose result is one JSON object on stdout; nothing is written before it is whole.</summary>
    public static void Answers<T>(this Command command, Func<ParseResult, T> answer) => command.SetAction(parsed =>
    {
        var json = AnswerJson.Held(answer(parsed));
        var output = Output;
        json.CopyToAsync(output).GetAwaiter().GetResult();
        output.WriteByte((byte)'\n');
        output.Flush();
        return Done;
    });

    public static Core.Cards.Design ReadDesign(string path) => Try(path, bytes => DesignReader.Read(bytes));

    /// <summary>Reads a file and makes something of it; what is wrong with it is said with its name.</summary>
    public static T Try<T>(string path, Func<byte[], T> read)
    {
        try
        {
            var file = new FileInfo(path);
            if (!file.Exists) throw new WrongInputException($"{path}: there is no such file.");
            if (file.Length > ReadingLimits.Default.FileBytes) throw new WrongInputException($"{path}: it is larger than "
                + $"{ReadingLimits.Default.FileBytes / 1_000_000} MB.");
            return read(File.ReadAllBytes(path));
        }
        catch (UnreadableFileException e)
        {
            throw new WrongInputException($"{path}: {e.Message}.", e is TooMuchWorkException ? TooMuchWork : Wrong);
        }
        catch (Exception e) when (e is IOException or UnauthorizedAccessException)
        {
            throw new WrongInputException($"{path}: it can't be opened ({e.Message}).");
        }
    }

    /// <summary>Ctrl+C ends it at once, in the middle of whatever it reckons; only a file that is half written must not stay.</summary>
    public static void LeavesNothingHalf() => Console.CancelKeyPress += (_, _) =>
    {
        if (_half is { } part) File.Delete(part);
    };

    /// <summary>Writes a whole file or none: under another name first, then moved into place.</summary>
    public static void WriteWhole(string path, byte[] bytes)
    {
        var full = Path.GetFullPath(path);
        Directory.CreateDirectory(Path.GetDirectoryName(full)!);
        var part = _half = full + ".part";
        File.WriteAllBytes(part, bytes);
        File.Move(part, full, true);
        _half = null;
    }

    public static string Text(this double v) => v.ToString("0.###", CultureInfo.InvariantCulture);
}
