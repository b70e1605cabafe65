using System.Globalization;
using System.Text;

namespace Falzkunst.StandIns;

/// <param name="SpeedMmS">The fastest it goes with the tool down, whatever it is told; with the tool up it goes twice as fast.</param>
/// <param name="Factor">How many times faster than real time it works.</param>
public sealed record CutterSettings(double MatWidthMm, double MatHeightMm, int Holders, double SpeedMmS, double Factor)
{
    public double AccelerationMmS2 { get; init; } = 2200;

    /// <summary>The time to put the tool down or take it up.</summary>
    public double LiftSeconds { get; init; } = 0.09;

    /// <summary>From where the tool is told to come down to where it does, in mm on the sheet, to the right and down: the machine does not know it.</summary>
    public (double Right, double Down) ToolOff { get; init; }

    /// <summary>Whether somebody stands beside it who puts in the mat and the tools that it asks for.</summary>
    public bool Hands { get; init; }
}

/// <summary>What a cutter can be doing.</summary>
public enum CutterState
{
    Idle,
    Working,

    /// <summary>The plot asks for a tool that is in no holder.</summary>
    WaitingForTool,

    /// <summary>There is work, but no mat.</summary>
    WaitingForMat,

    /// <summary>It ran into something and takes nothing until it is reset.</summary>
    Failed,
}

/// <summary>One stroke with the tool down: the pen number, and x, y, x, y … in HPGL units (0.025 mm), y up.</summary>
public sealed record CutterStroke(int Pen, double[] Units);

/// <summary>A look at the cutter from outside.</summary>
public sealed record CutterReport(string State, int Pen, int[] Holders, bool Mat, double X, double Y, int BufferFree, double DownMm, double TravelMm,
    int Strokes, long Jobs, string Problem);

/// <summary>
/// A cutter that is not there: takes HPGL into a buffer, moves as a thing with mass does (times a factor), asks for tools and a mat, and keeps what it did.
/// It understands IN, PA, PR, PU, PD, SP, VS and FS; other two-letter commands are skipped, as plotters do.
/// </summary>
public sealed class Cutter(CutterSettings settings)
{
    /// <summary>The size of the buffer in bytes; a sender asks how much is free.</summary>
    public const int BufferBytes = 16_384;

    private const double MmPerUnit = 0.025;

    // What a person beside it takes to see what it wants, and to do it.
    private const double HandsSeconds = 3;

    private readonly Lock _lock = new();
    private readonly Queue<string> _commands = [];
    private readonly StringBuilder _partial = new();
    private readonly List<CutterStroke> _strokes = [];
    private readonly List<double> _stroke = [];
    private readonly int[] _holders = new int[settings.Holders];
    private int _queuedBytes;
    private int _pen;
    private readonly Queue<(double X, double Y)> _moves = [];
    private readonly SemaphoreSlim _wake = new(0, 1);
    private TaskCompletionSource _drop = new(TaskCreationOptions.RunContinuationsAsynchronously);
    private bool _down, _relative, _mat, _paused, _busy;
    private double _x, _y, _downMm, _travelMm, _owedSeconds, _dropAfterMm = double.PositiveInfinity;
    private double _speed, _velocity = double.PositiveInfinity, _dx, _dy;
    private CutterState _state = CutterState.Idle;
    private string _problem = "";
    private long _jobs;

    public CutterSettings Settings => settings;

    /// <summary>The force that it was last told, in grams; 0 leaves it to the machine.</summary>
    public double Force { get; private set; }

    /// <summary>The velocity that it was last told, in mm/s; endless while it was told none.</summary>
    public double VelocityMmS => _velocity;

    /// <summary>How long it has worked since it was made, in seconds of real time.</summary>
    public double WorkedSeconds { get; private set; }

    /// <summary>Ends when the connection is to be cut off, as asked for by a test.</summary>
    public Task Drop
    {
        get
        {
            lock (_lock) return _drop.Task;
        }
    }

    public int BufferFree
    {
        get
        {
            lock (_lock) return Math.Max(0, BufferBytes - _queuedBytes - _partial.Length);
        }
    }

    /// <summary>What ESC.O answers: 8 when the buffer is empty and nothing moves, 16 while it waits for a person, 32 after a failure, else 0.</summary>
    public int ExtendedStatus
    {
        get
        {
            lock (_lock)
            {
                if (_state == CutterState.Failed) return 32;
                if (_state is CutterState.WaitingForMat or CutterState.WaitingForTool || _paused) return 16;
                return IsIdle ? 8 : 0;
            }
        }
    }

    private bool IsIdle => _commands.Count == 0 && _moves.Count == 0 && !_busy && _owedSeconds <= 0;

    /// <summary>Takes bytes from the line; whole commands are queued.</summary>
    public void Take(ReadOnlySpan<char> text)
    {
        lock (_lock)
        {
            Wake();
            foreach (var c in text)
            {
                if (c is ';' or '\n' or '\r')
                {
                    Flush();
                    continue;
                }

                // A letter after numbers begins the next command, with or without a semicolon between.
                if (char.IsAsciiLetter(c) && _partial.Length >= 2) Flush();
                if (_partial.Length < 100_000) _partial.Append(c);
            }
        }

        void Flush()
        {
            if (_partial.Length > 0)
            {
                var command = _partial.ToString().Trim();
                if (command.Length >= 2)
                {
                    _commands.Enqueue(command);
                    _queuedBytes += command.Length + 1;
                }
            }

            _partial.Clear();
        }
    }

    public CutterReport Look()
    {
        lock (_lock)
        {
            var state = _paused ? "paused" : _state switch
            {
                CutterState.WaitingForTool => "waiting-for-tool",
                CutterState.WaitingForMat => "waiting-for-mat",
                CutterState.Failed => "failed",
                _ => IsIdle ? "idle" : "working",
            };
            return new(state, _pen, [.. _holders], _mat, _x, _y, Math.Max(0, BufferBytes - _queuedBytes), _downMm, _travelMm, _strokes.Count, _jobs, _problem);
        }
    }

    public CutterStroke[] Record(int from)
    {
        lock (_lock) return [.. _strokes.Skip(Math.Max(0, from))];
    }

    /// <summary>A person's hands: puts a tool (by its pen number; 0 empties) in a holder (from 1).</summary>
    public bool Put(int holder, int pen)
    {
        lock (_lock)
        {
            if (holder < 1 || holder > _holders.Length || pen < 0) return false;
            _holders[holder - 1] = pen;
            Wake();
            return true;
        }
    }

    public void LoadMat(bool there)
    {
        lock (_lock) _mat = there;
        Wake();
    }

    public void Pause(bool paused)
    {
        lock (_lock) _paused = paused;
        Wake();
    }

    /// <summary>Lifts the tool, and forgets all work and the failure (ESC.K); what was done, tools and mat stay.</summary>
    public void Forget()
    {
        lock (_lock)
        {
            EndStroke();
            _commands.Clear();
            _moves.Clear();
            _partial.Clear();
            _queuedBytes = 0;
            (_down, _relative, _paused, _busy) = (false, false, false, false);
            (_owedSeconds, _speed, _pen, _velocity, Force) = (0, 0, 0, double.PositiveInfinity, 0);
            (_state, _problem) = (CutterState.Idle, "");
        }

        Wake();
    }

    /// <summary>As when it is switched off and on: nothing is left of anything but tools and mat.</summary>
    public void Reset()
    {
        Forget();
        lock (_lock)
        {
            _strokes.Clear();
            (_x, _y, _downMm, _travelMm, _dropAfterMm) = (0, 0, 0, 0, double.PositiveInfinity);
        }
    }

    /// <summary>For tests: the connection is lost once so many mm were worked.</summary>
    public void FailAfter(double downMm)
    {
        lock (_lock) _dropAfterMm = _downMm + downMm;
    }

    /// <summary>Works until cancelled. Time is owed for each move and slept off in portions; with nothing to do it sleeps until something comes.</summary>
    public async Task WorkAsync(CancellationToken cancel)
    {
        while (true)
        {
            if (Next() is not { } wait) await _wake.WaitAsync(cancel);
            else if (wait > TimeSpan.Zero) await Task.Delay(wait, cancel);
            else cancel.ThrowIfCancellationRequested();
        }
    }

    private void Wake()
    {
        lock (_wake)
            if (_wake.CurrentCount == 0) _wake.Release();
    }

    /// <summary>Does the next thing. How long to wait before the one after; null where there is none until something comes from outside.</summary>
    private TimeSpan? Next()
    {
        lock (_lock)
        {
            if (_owedSeconds > 0.02 || (_owedSeconds > 0 && _commands.Count == 0 && _moves.Count == 0))
            {
                var owed = Math.Min(_owedSeconds, 0.1);
                _owedSeconds = Math.Max(0, _owedSeconds - owed);
                return TimeSpan.FromSeconds(owed);
            }

            if (_paused || _state == CutterState.Failed) return null;
            if (_moves.Count > 0)
            {
                var (x, y) = _moves.Dequeue();
                Move(x, y);
                if (_moves.Count == 0) Over();
                return TimeSpan.Zero;
            }

            if (_commands.Count == 0)
            {
                _busy = false;
                _state = CutterState.Idle;
                return null;
            }

            var command = _commands.Peek();
            if (!_mat && command[..2].ToUpperInvariant() is "PD" or "PU" or "SP" && !command.Equals("SP0", StringComparison.OrdinalIgnoreCase))
            {
                if (Helped(CutterState.WaitingForMat)) _mat = true;
                return settings.Hands ? TimeSpan.Zero : null;
            }

            if (command.StartsWith("SP", StringComparison.OrdinalIgnoreCase) && int.TryParse(command.AsSpan(2), CultureInfo.InvariantCulture, out var pen)
                && pen > 0 && !_holders.Contains(pen))
            {
                _pen = pen;
                if (Helped(CutterState.WaitingForTool)) _holders[Array.IndexOf(_holders, 0) is >= 0 and var free ? free : _holders.Length - 1] = pen;
                return settings.Hands ? TimeSpan.Zero : null;
            }

            _state = CutterState.Working;
            _busy = true;
            Do(command);
            // It is out of the buffer when it is done, so that a full buffer is work still to come.
            if (_moves.Count == 0) Over();
            return TimeSpan.Zero;
        }

        void Over()
        {
            if (_commands.Count > 0) _queuedBytes -= _commands.Dequeue().Length + 1;
        }

        // Hands see what is wanted, take their time, and then it is there.
        bool Helped(CutterState wanted)
        {
            var seen = _state == wanted;
            _state = wanted;
            if (settings.Hands && !seen) Owe(HandsSeconds);
            return settings.Hands && seen;
        }
    }

    private void Do(string command)
    {
        var name = command[..2].ToUpperInvariant();
        switch (name)
        {
            case "IN":
                EndStroke();
                Lift(false);
                (_relative, _velocity, Force) = (false, double.PositiveInfinity, 0);
                _jobs++;
                break;
            case "PA" or "PR":
                _relative = name == "PR";
                Moves(command);
                break;
            case "PU":
                Lift(false);
                EndStroke();
                Moves(command);
                break;
            case "PD":
                Lift(true);
                if (_stroke.Count == 0) _stroke.AddRange([_x, _y]);
                Moves(command);
                break;
            case "SP":
                Lift(false);
                EndStroke();
                _ = int.TryParse(command.AsSpan(2), CultureInfo.InvariantCulture, out _pen);
                break;
            case "VS":
                // In cm/s; without a number it is its own again.
                _velocity = double.TryParse(command.AsSpan(2), CultureInfo.InvariantCulture, out var cm) && cm > 0 ? cm * 10 : double.PositiveInfinity;
                break;
            case "FS":
                Force = double.TryParse(command.AsSpan(2), CultureInfo.InvariantCulture, out var grams) && grams > 0 ? grams : 0;
                break;
        }
    }

    private void Owe(double seconds)
    {
        WorkedSeconds += seconds;
        _owedSeconds += seconds / settings.Factor;
    }

    private void Lift(bool down)
    {
        if (_down == down) return;
        // It stands still for that.
        Owe(_speed / settings.AccelerationMmS2 + settings.LiftSeconds);
        (_down, _speed) = (down, 0);
    }

    private void Moves(string command)
    {
        var numbers = command[2..].Split([',', ' '], StringSplitOptions.RemoveEmptyEntries);
        for (var i = 0; i + 1 < numbers.Length; i += 2)
        {
            if (!double.TryParse(numbers[i], CultureInfo.InvariantCulture, out var x)
                || !double.TryParse(numbers[i + 1], CultureInfo.InvariantCulture, out var y)) return;
            _moves.Enqueue((x, y));
        }
    }

    private void Move(double x, double y)
    {
        if (_relative) (x, y) = (_x + x, _y + y);
        // Rounding to units may reach one unit over the edge.
        if (x < -1 || y < -1 || x * MmPerUnit > settings.MatWidthMm + 0.03 || y * MmPerUnit > settings.MatHeightMm + 0.03)
        {
            EndStroke();
            _state = CutterState.Failed;
            _problem = string.Create(CultureInfo.InvariantCulture, $"the plot leaves the mat at {x * MmPerUnit:0.#}, {y * MmPerUnit:0.#} mm");
            _commands.Clear();
            _moves.Clear();
            _queuedBytes = 0;
            return;
        }

        double dx = (x - _x) * MmPerUnit, dy = (y - _y) * MmPerUnit, mm = Math.Sqrt(dx * dx + dy * dy);
        if (mm > 0) Owe(Seconds(dx / mm, dy / mm, mm));
        (_x, _y) = (x, y);
        if (!_down)
        {
            _travelMm += mm;
            return;
        }

        _downMm += mm;
        _stroke.AddRange([x, y]);
        if (_downMm < _dropAfterMm) return;
        _dropAfterMm = double.PositiveInfinity;
        _drop.TrySetResult();
        _drop = new(TaskCreationOptions.RunContinuationsAsynchronously);
    }

    /// <summary>
    /// The time for a straight piece. Around a corner it keeps as much of its speed as goes on in the new direction, squared; then it gains speed up to what
    /// it may. It brakes only where it stops, which is when the tool is lifted.
    /// </summary>
    private double Seconds(double dirX, double dirY, double mm)
    {
        var most = _down ? Math.Min(settings.SpeedMmS, _velocity) : 2 * settings.SpeedMmS;
        var on = Math.Max(0, _dx * dirX + _dy * dirY);
        var from = Math.Min(most, _speed * on * on);
        (_dx, _dy) = (dirX, dirY);
        var gain = (most * most - from * from) / (2 * settings.AccelerationMmS2);
        if (mm >= gain)
        {
            _speed = most;
            return (most - from) / settings.AccelerationMmS2 + (mm - gain) / most;
        }

        _speed = Math.Sqrt(from * from + 2 * settings.AccelerationMmS2 * mm);
        return (_speed - from) / settings.AccelerationMmS2;
    }

    private void EndStroke()
    {
        (_dx, _dy) = (0, 0);
        if (_stroke.Count >= 4) _strokes.Add(new(_pen, [.. _stroke]));
        _stroke.Clear();
    }
}
