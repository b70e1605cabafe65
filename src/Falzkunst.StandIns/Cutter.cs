using System.Globalization;
using System.Text;

namespace Falzkunst.StandIns;

/// <param name="Factor">How many times faster than real time it works.</param>
public sealed record CutterSettings(double MatWidthMm, double MatHeightMm, int Holders, double SpeedMmS, double Factor);

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
/// A cutter that is not there: takes HPGL into a buffer, moves at its speed (times a factor), asks for tools and a mat, and keeps what it did.
/// It understands IN, PA, PR, PU, PD, SP and VS; other two-letter commands are skipped, as plotters do.
/// </summary>
public sealed class Cutter(CutterSettings settings)
{
    /// <summary>The size of the buffer in bytes; a sender asks how much is free.</summary>
    public const int BufferBytes = 16_384;

    private const double MmPerUnit = 0.025;

    private readonly Lock _lock = new();
    private readonly Queue<string> _commands = [];
    private readonly StringBuilder _partial = new();
    private readonly List<CutterStroke> _strokes = [];
    private readonly List<double> _stroke = [];
    private readonly int[] _holders = new int[settings.Holders];
    private int _queuedBytes;
    private int _pen;
    private bool _down, _relative, _mat, _paused, _busy;
    private double _x, _y, _downMm, _travelMm, _owedSeconds, _dropAfterMm = double.PositiveInfinity;
    private CutterState _state = CutterState.Idle;
    private string _problem = "";
    private long _jobs;

    public CutterSettings Settings => settings;

    /// <summary>Set when the connection is to be cut off, as asked for by a test.</summary>
    public bool DropConnection { get; private set; }

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
                return _commands.Count == 0 && !_busy ? 8 : 0;
            }
        }
    }

    /// <summary>Takes bytes from the line; whole commands are queued.</summary>
    public void Take(ReadOnlySpan<char> text)
    {
        lock (_lock)
        {
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
                _ => _commands.Count > 0 || _busy ? "working" : "idle",
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
            return true;
        }
    }

    public void LoadMat(bool there)
    {
        lock (_lock) _mat = there;
    }

    public void Pause(bool paused)
    {
        lock (_lock) _paused = paused;
    }

    /// <summary>Forgets all work, the record and the failure; tools and mat stay.</summary>
    public void Reset()
    {
        lock (_lock)
        {
            _commands.Clear();
            _partial.Clear();
            _strokes.Clear();
            _stroke.Clear();
            _queuedBytes = 0;
            (_down, _relative, _paused, _busy) = (false, false, false, false);
            (_x, _y, _downMm, _travelMm, _owedSeconds, _pen) = (0, 0, 0, 0, 0, 0);
            (_state, _problem, DropConnection, _dropAfterMm) = (CutterState.Idle, "", false, double.PositiveInfinity);
        }
    }

    /// <summary>For tests: the connection is lost once so many mm were worked.</summary>
    public void FailAfter(double downMm)
    {
        lock (_lock) _dropAfterMm = _downMm + downMm;
    }

    public void Dropped()
    {
        lock (_lock)
        {
            DropConnection = false;
            _dropAfterMm = double.PositiveInfinity;
        }
    }

    /// <summary>Works until cancelled. Time is owed for each move and slept off in small portions.</summary>
    public async Task WorkAsync(CancellationToken cancel)
    {
        while (true)
        {
            var wait = Next();
            if (wait > TimeSpan.Zero) await Task.Delay(wait, cancel);
            else cancel.ThrowIfCancellationRequested();
        }
    }

    private TimeSpan Next()
    {
        lock (_lock)
        {
            if (_owedSeconds > 0.02)
            {
                var owed = Math.Min(_owedSeconds, 0.1);
                _owedSeconds -= owed;
                return TimeSpan.FromSeconds(owed);
            }

            if (_paused || _state == CutterState.Failed) return TimeSpan.FromMilliseconds(20);
            if (_commands.Count == 0)
            {
                _busy = false;
                _state = CutterState.Idle;
                return TimeSpan.FromMilliseconds(10);
            }

            var command = _commands.Peek();
            if (!_mat && command[..2].ToUpperInvariant() is "PD" or "PU" or "SP" && !command.Equals("SP0", StringComparison.OrdinalIgnoreCase))
            {
                _state = CutterState.WaitingForMat;
                return TimeSpan.FromMilliseconds(20);
            }

            if (command.StartsWith("SP", StringComparison.OrdinalIgnoreCase) && int.TryParse(command.AsSpan(2), CultureInfo.InvariantCulture, out var pen)
                && pen > 0 && !_holders.Contains(pen))
            {
                (_state, _pen) = (CutterState.WaitingForTool, pen);
                return TimeSpan.FromMilliseconds(20);
            }

            _state = CutterState.Working;
            _busy = true;
            _commands.Dequeue();
            _queuedBytes -= command.Length + 1;
            Do(command);
            return TimeSpan.Zero;
        }
    }

    private void Do(string command)
    {
        var name = command[..2].ToUpperInvariant();
        switch (name)
        {
            case "IN":
                EndStroke();
                (_down, _relative) = (false, false);
                _jobs++;
                break;
            case "PA" or "PR":
                _relative = name == "PR";
                Moves(command);
                break;
            case "PU":
                EndStroke();
                _down = false;
                Moves(command);
                break;
            case "PD":
                if (!_down) _stroke.AddRange([_x, _y]);
                _down = true;
                Moves(command);
                break;
            case "SP":
                EndStroke();
                _down = false;
                _ = int.TryParse(command.AsSpan(2), CultureInfo.InvariantCulture, out _pen);
                break;
        }
    }

    private void Moves(string command)
    {
        var numbers = command[2..].Split([',', ' '], StringSplitOptions.RemoveEmptyEntries);
        for (var i = 0; i + 1 < numbers.Length; i += 2)
        {
            if (!double.TryParse(numbers[i], CultureInfo.InvariantCulture, out var x)
                || !double.TryParse(numbers[i + 1], CultureInfo.InvariantCulture, out var y)) return;
            if (_relative) (x, y) = (_x + x, _y + y);
            // Rounding to units may reach one unit over the edge.
            if (x < -1 || y < -1 || x * MmPerUnit > settings.MatWidthMm + 0.03 || y * MmPerUnit > settings.MatHeightMm + 0.03)
            {
                EndStroke();
                _state = CutterState.Failed;
                _problem = string.Create(CultureInfo.InvariantCulture, $"the plot leaves the mat at {x * MmPerUnit:0.#}, {y * MmPerUnit:0.#} mm");
                _commands.Clear();
                _queuedBytes = 0;
                return;
            }

            var mm = Math.Sqrt((x - _x) * (x - _x) + (y - _y) * (y - _y)) * MmPerUnit;
            (_x, _y) = (x, y);
            _owedSeconds += mm / (settings.SpeedMmS * settings.Factor);
            if (!_down)
            {
                _travelMm += mm;
                continue;
            }

            _downMm += mm;
            _stroke.AddRange([x, y]);
            if (_downMm >= _dropAfterMm) DropConnection = true;
        }
    }

    private void EndStroke()
    {
        if (_stroke.Count >= 4) _strokes.Add(new(_pen, [.. _stroke]));
        _stroke.Clear();
    }
}
