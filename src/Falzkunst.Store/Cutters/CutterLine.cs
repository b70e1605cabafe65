using System.Collections.Concurrent;
using System.Globalization;
using System.Net;
using System.Net.Sockets;
using Falzkunst.Core.Runs;
using Falzkunst.Core.Writing;

namespace Falzkunst.Store.Cutters;

/// <summary>What a cutter can be doing, as far as it tells.</summary>
public enum CutterState
{
    /// <summary>It has nothing to do.</summary>
    Idle,
    Working,

    /// <summary>It waits for somebody at the machine: for a tool, for the mat, or at its own pause button.</summary>
    Waiting,

    /// <summary>It ran into something, and takes nothing until it is told to forget its work.</summary>
    Failed,
}

/// <param name="FreeBytes">How much it has room for.</param>
public sealed record CutterStatus(CutterState State, int FreeBytes)
{
    public string Word => State.ToString().ToLower(CultureInfo.InvariantCulture);
}

/// <summary>A stroke as a cutter remembers it: the pen number, and x, y … in HPGL units (0.025 mm), y up.</summary>
public sealed record CutterMark(int Pen, double[] Units)
{
    public static CutterMark Of(DoneStroke stroke, SheetRun sheet) => new(stroke.Pen,
        [.. stroke.Points.SelectMany(p => new[] { Math.Round(p.X * Plotter.UnitsPerMm), Math.Round((sheet.Height.Mm - p.Y) * Plotter.UnitsPerMm) })]);

    public DoneStroke On(SheetRun sheet) => new(Pen, [.. Enumerable.Range(0, Units.Length / 2)
        .Select(i => new Point(Units[2 * i] * Plotter.MmPerUnit, sheet.Height.Mm - Units[2 * i + 1] * Plotter.MmPerUnit))]);
}

/// <summary>
/// The line to a cutter. Every wait on it has a limit; whatever is wrong with the line, or with what comes over it, is an <see cref="IOException"/> whose
/// message ends a sentence. What the machine did is asked on a port of its own, where it has one.
/// </summary>
public abstract class CutterLine : IAsyncDisposable
{
    /// <summary>A machine takes what two say at once as one: whoever speaks to it is alone with it. By its port, which is one of this computer.</summary>
    private static readonly ConcurrentDictionary<int, SemaphoreSlim> Turns = [];

    /// <summary>The longest wait for one's turn: longer than a tool is driven somewhere.</summary>
    private static readonly TimeSpan TurnPatience = TimeSpan.FromSeconds(12);

    private int? _recordPort;

    private SemaphoreSlim? _turn;

    // Short questions that wait for an answer: gathering them into larger packets costs 40 ms each.
    private protected TcpClient Client { get; } = new() { NoDelay = true };

    private protected NetworkStream Stream { get; private set; } = null!;

    /// <summary>Whether somebody speaks to a machine just now.</summary>
    public static bool IsTaken(MachineRow machine) => Turns.TryGetValue(machine.Port, out var turn) && turn.CurrentCount == 0;

    /// <summary>Speaks to a machine in its language, as soon as nobody else does.</summary>
    /// <exception cref="IOException">There is no machine, or somebody else goes on speaking to it.</exception>
    public static async Task<CutterLine> Open(MachineRow machine, CancellationToken cancel)
    {
        CutterLine line = machine.Language == MachineLanguage.Gcode ? new GcodeLine() : new HpglLine();
        line._recordPort = machine.RecordPort;
        try
        {
            var turn = Turns.GetOrAdd(machine.Port, _ => new(1, 1));
            if (!await turn.WaitAsync(TurnPatience, cancel)) throw new IOException("the machine at this place is at work on something else");
            line._turn = turn;
            await Wire.Within(c => line.Client.ConnectAsync(IPAddress.Loopback, machine.Port, c).AsTask(), cancel);
            line.Stream = line.Client.GetStream();
            return line;
        }
        catch (Exception e)
        {
            await line.DisposeAsync();
            if (e is IOException { InnerException: SocketException }) throw new IOException("the machine does not answer", e);
            throw;
        }
    }

    /// <summary>A step as it is said to this machine.</summary>
    public abstract MachineJob Job(SheetRun sheet, RunStep step);

    /// <summary>A move in the air to a place on a sheet, as it is said to this machine.</summary>
    public abstract string MoveTo(SheetRun sheet, Point place);

    public abstract Task<CutterStatus> Status(CancellationToken cancel);

    /// <summary>Sends as much of a step, from a place on, as the cutter has room for, and returns the new place once the cutter has it.</summary>
    public abstract Task<int> Send(string text, int from, CancellationToken cancel);

    /// <summary>Sends a text, and waits until the cutter has done it.</summary>
    /// <exception cref="IOException">It ran into something.</exception>
    public async Task Do(string text, CancellationToken cancel)
    {
        var sent = 0;
        while (true)
        {
            if (sent < text.Length) sent = await Send(text, sent, cancel);
            var status = await Status(cancel);
            if (status.State == CutterState.Failed) throw new IOException("the machine reports that it ran into something");
            if (sent >= text.Length && status.State == CutterState.Idle) return;
            await Task.Delay(25, cancel);
        }
    }

    /// <summary>The cutter lifts the tool, and forgets what it was sent and any failure.</summary>
    public abstract Task Abort(CancellationToken cancel);

    /// <summary>What the cutter remembers; null where it can't tell.</summary>
    public Task<CutterMemory?> Remembered(CancellationToken cancel) => Asked<CutterMemory>(new { @do = "look" }, cancel);

    /// <summary>The strokes that it remembers, without the first so many; null where it can't tell.</summary>
    public Task<CutterMark[]?> Record(int from, CancellationToken cancel) => Asked<CutterMark[]>(new { @do = "record", from }, cancel);

    /// <summary>A new sheet goes on the mat, where somebody stands by who does that; otherwise a person has done so.</summary>
    public Task LayFresh(CancellationToken cancel) => Asked<CutterMemory>(new { @do = "fresh" }, cancel);

    public ValueTask DisposeAsync()
    {
        Client.Dispose();
        Interlocked.Exchange(ref _turn, null)?.Release();
        return ValueTask.CompletedTask;
    }

    private async Task<T?> Asked<T>(object request, CancellationToken cancel)
        where T : class => _recordPort is { } port ? await Wire.Told<T>(port, request, Wire.Patience, cancel) : null;
}

/// <param name="Strokes">How many strokes it remembers.</param>
/// <param name="Paper">How the sheet looks to an eye beside it: "lies", "shifted" or "torn".</param>
public sealed record CutterMemory(int Strokes, string Paper = "lies");
