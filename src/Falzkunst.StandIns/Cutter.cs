using System.Diagnostics;
using System.Globalization;
using System.Text;

namespace Falzkunst.StandIns;

/// <param name="Factor">How many times faster than real time it works.</param>
public sealed record CutterSettings(double MatWidthMm, double MatHeightMm, int Holders, Motion Motion, double Factor)
{
    /// <summary>The tools that swivel, by their pen numbers: from the tip to the axis, in mm.</summary>
    public IReadOnlyDictionary<int, double> Swivels { get; init; } = new Dictionary<int, double>();

    /// <summary>The tools that are heated, by their pen numbers: how long that takes, in seconds. It waits for them.</summary>
    public IReadOnlyDictionary<int, double> Heats { get; init; } = new Dictionary<int, double>();

    /// <summary>From where the tool is told to come down to where it does, in mm on the sheet, to the right and down: the machine does not know it.</summary>
    public (double Right, double Down) ToolOff { get; init; }

    /// <summary>Whether somebody stands beside it who puts in the mat and the tools that it asks for.</summary>
    public bool Hands { get; init; }

    /// <summary>From this force on, in grams, the paper tears; and from this speed on, in mm/s, it shifts on the mat.</summary>
    public double TearsAtGrams { get; init; } = double.PositiveInfinity;

    public double ShiftsAtMmS { get; init; } = double.PositiveInfinity;

    /// <summary>Something goes wrong by chance, every so many mm of work on the average.</summary>
    public double FaultsEveryMm { get; init; } = double.PositiveInfinity;

    /// <summary>Of that chance.</summary>
    public int Seed { get; init; }
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

    /// <summary>The tool is not hot yet.</summary>
    WaitingForHeat,

    /// <summary>It ran into something and takes nothing until it is reset.</summary>
    Failed,
}

/// <summary>What can go wrong, for tests and at random.</summary>
public enum Fault
{
    /// <summary>The connection is lost; it works on with what it has.</summary>
    Cable,

    /// <summary>It runs into something and stops.</summary>
    Jam,

    /// <summary>The tool comes down and leaves nothing behind, for as long as it is down.</summary>
    Faint,

    /// <summary>The mat comes out, and must be put in again.</summary>
    MatOut,

    /// <summary>It is switched off and on: it forgets its work and its place, and the connection is lost.</summary>
    PowerOff,

    /// <summary>It answers nonsense, once.</summary>
    Nonsense,

    /// <summary>It answers nothing any more, until it is spoken to anew.</summary>
    Silence,
}

/// <summary>One stroke with the tool down, as it is seen on the paper: the pen number, and x, y, x, y … of its tip in HPGL units (0.025 mm), y up.</summary>
public sealed record CutterStroke(int Pen, double[] Units);

/// <summary>A look at the cutter from outside.</summary>
public sealed record CutterReport(string State, int Pen, int[] Holders, bool Mat, double X, double Y, int BufferFree, double DownMm, double TravelMm,
    int Strokes, long Jobs, string Problem)
{
    /// <summary>What the paper went through: "lies", "shifted" or "torn".</summary>
    public string Paper { get; init; } = "lies";
}

/// <summary>
/// A cutter that is not there: takes HPGL into a buffer, moves as a thing with mass does (times a factor), asks for tools and a mat, and keeps what it did.
/// A drag knife swivels, a heated tool is waited for, paper tears and shifts, and faults come when they are asked for.
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
    private readonly List<Place> _moves = [];
    private readonly Dictionary<int, Blade> _blades = [];
    private readonly Dictionary<int, long> _heatedSince = [];
    private readonly SemaphoreSlim _wake = new(0, 1);
    private TaskCompletionSource _drop = new(TaskCreationOptions.RunContinuationsAsynchronously);
    private bool _down, _relative, _mat, _paused, _busy;
    private readonly Random _chance = new(settings.Seed);
    private double _x, _y, _downMm, _travelMm, _owedSeconds, _faultAfterMm = Next(settings, new(settings.Seed));
    private double _speed, _velocity = double.PositiveInfinity, _shiftX, _shiftY;
    private Fault? _fault;
    private Fault? _answersWith;
    private bool _faint, _torn;
    private int _puts;
    private CutterState _state = CutterState.Idle;
    private string _problem = "";
    private long _jobs;

    public CutterSettings Settings => settings;

    /// <summary>Where a move goes, and how many bytes of the buffer are free when it is over.</summary>
    private readonly record struct Place(double X, double Y, bool Relative, int Frees);

    /// <summary>The force that it was last told, in grams; 0 leaves it to the machine.</summary>
    public double Force { get; private set; }

    /// <summary>The velocity that it was last told, in mm/s; endless while it was told none.</summary>
    public double VelocityMmS => _velocity;

    /// <summary>How long it has worked since it was made, in seconds of real time.</summary>
    public double WorkedSeconds { get; private set; }

    /// <summary>How its next answer comes out, where that is otherwise than it should be; it is over then, but for silence.</summary>
    public Fault? Answer()
    {
        lock (_lock)
        {
            var how = _answersWith;
            if (how == Fault.Nonsense) _answersWith = null;
            return how;
        }
    }

    /// <summary>Whoever connects anew is heard.</summary>
    public void Greeted()
    {
        lock (_lock) _answersWith = null;
    }

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
                if (_state is CutterState.WaitingForMat or CutterState.WaitingForTool or CutterState.WaitingForHeat || _paused) return 16;
                return IsIdle ? 8 : 0;
            }
        }
    }

    private bool IsIdle => _commands.Count == 0 && _moves.Count == 0 && !_busy && _owedSeconds <= 0;

    /// <summary>Takes bytes from the line; whole commands are queued.</summary>
    /// <param name="drop">Of the connection that they came over, see <see cref="Drop"/>: what comes over one that is lost is lost with it.</param>
    public void Take(ReadOnlySpan<char> text, Task? drop = null)
    {
        lock (_lock)
        {
            if (drop is { IsCompleted: true }) return;
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
                CutterState.WaitingForHeat => "waiting-for-heat",
                CutterState.Failed => "failed",
                _ => IsIdle ? "idle" : "working",
            };
            return new(state, _pen, [.. _holders], _mat, _x, _y, Math.Max(0, BufferBytes - _queuedBytes), _downMm, _travelMm, _strokes.Count, _jobs, _problem)
            {
                Paper = _torn ? "torn" : _shiftX != 0 || _shiftY != 0 ? "shifted" : "lies",
            };
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
            Hold(holder - 1, pen);
            Wake();
            return true;
        }
    }

    private void Hold(int holder, int pen)
    {
        _holders[holder] = pen;
        // As it comes to hand: a golden angle on from the knife before it.
        _blades[pen] = new(settings.Swivels.GetValueOrDefault(pen), 2.4 * ++_puts);
        _heatedSince.TryAdd(pen, Stopwatch.GetTimestamp());
    }

    /// <summary>Puts a mat with paper in, or takes it out. What is put in lies as it should.</summary>
    public void LoadMat(bool there)
    {
        lock (_lock)
        {
            if (there && !_mat) (_shiftX, _shiftY, _torn) = (0, 0, false);
            _mat = there;
        }

        Wake();
    }

    /// <summary>A new sheet on the mat, which stays in or out.</summary>
    public void LayFresh()
    {
        lock (_lock) (_shiftX, _shiftY, _torn) = (0, 0, false);
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
            ForgetWork();
            (_state, _problem) = (CutterState.Idle, "");
        }

        Wake();
    }

    private void ForgetWork()
    {
        EndStroke();
        _commands.Clear();
        _moves.Clear();
        _partial.Clear();
        _queuedBytes = 0;
        (_down, _relative, _paused, _busy, _faint) = (false, false, false, false, false);
        (_owedSeconds, _speed, _pen, _velocity, Force) = (0, 0, 0, double.PositiveInfinity, 0);
    }

    /// <summary>As for somebody new: nothing is left of anything but tools and mat.</summary>
    public void Reset()
    {
        Forget();
        lock (_lock)
        {
            _strokes.Clear();
            (_x, _y, _downMm, _travelMm, _answersWith) = (0, 0, 0, 0, null);
            (_shiftX, _shiftY, _torn) = (0, 0, false);
            _faultAfterMm = Next(settings, _chance);
        }
    }

    /// <summary>For tests: something goes wrong once so many mm were worked.</summary>
    public void FailAfter(double downMm, Fault fault = Fault.Cable)
    {
        lock (_lock) (_faultAfterMm, _fault) = (_downMm + downMm, fault);
    }

    /// <summary>How many mm it is to the next fault by chance: as long as it may be after any that was.</summary>
    private static double Next(CutterSettings settings, Random chance) =>
        double.IsFinite(settings.FaultsEveryMm) ? -settings.FaultsEveryMm * Math.Log(1 - chance.NextDouble()) : double.PositiveInfinity;

    /// <summary>Something goes wrong now: what a test asked for, and otherwise anything.</summary>
    private void GoWrong()
    {
        _faultAfterMm = _downMm + Next(settings, _chance);
        var fault = _fault ?? (Fault)_chance.Next(Enum.GetValues<Fault>().Length);
        _fault = null;
        switch (fault)
        {
            case Fault.Jam:
                Fail("it ran into something");
                break;
            case Fault.Faint:
                EndStroke();
                _faint = true;
                break;
            case Fault.MatOut:
                // It is put in again where it lay.
                _mat = false;
                break;
            case Fault.Nonsense or Fault.Silence:
                _answersWith = fault;
                break;
            case Fault.PowerOff:
                ForgetWork();
                (_x, _y, _state) = (0, 0, CutterState.Idle);
                _heatedSince.Clear();
                goto case Fault.Cable;
            case Fault.Cable:
                _drop.TrySetResult();
                _drop = new(TaskCreationOptions.RunContinuationsAsynchronously);
                break;
        }
    }

    private void Fail(string problem)
    {
        EndStroke();
        (_state, _problem) = (CutterState.Failed, problem);
        _commands.Clear();
        _moves.Clear();
        _queuedBytes = 0;
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

    /// <summary>Works off what it has without waiting for its time to pass, until there is nothing or somebody is needed.</summary>
    public void WorkNow()
    {
        while (Next() is not null)
        {
            // The time is counted, not waited for.
            lock (_lock) _owedSeconds = 0;
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
                if (!_mat)
                {
                    if (Helped(CutterState.WaitingForMat)) _mat = true;
                    return settings.Hands ? TimeSpan.Zero : null;
                }

                _state = CutterState.Working;
                LookAhead();
                Move();
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
                && pen > 0)
            {
                if (!_holders.Contains(pen))
                {
                    _pen = pen;
                    if (Helped(CutterState.WaitingForTool)) Hold(Array.IndexOf(_holders, 0) is >= 0 and var free ? free : _holders.Length - 1, pen);
                    return settings.Hands ? TimeSpan.Zero : null;
                }

                // A tool that lost its heat warms up from when it is asked for.
                _heatedSince.TryAdd(pen, Stopwatch.GetTimestamp());
                var cold = settings.Heats.GetValueOrDefault(pen) / settings.Factor - Stopwatch.GetElapsedTime(_heatedSince[pen]).TotalSeconds;
                if (cold > 0)
                {
                    _state = CutterState.WaitingForHeat;
                    return TimeSpan.FromSeconds(Math.Min(cold, 0.1));
                }
            }

            _state = CutterState.Working;
            _busy = true;
            // It is out of the buffer when it is done, so that a full buffer is work still to come.
            Do(command);
            return TimeSpan.Zero;
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

    /// <summary>Takes the moves of the commands behind this one with it, as long as the tool stays down: so far can be seen ahead.</summary>
    private void LookAhead()
    {
        const int Enough = 400;
        while (_down && _moves.Count < Enough && _commands.TryPeek(out var next) && next.StartsWith("PD", StringComparison.OrdinalIgnoreCase)) Moves(next);
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
                return;
            case "PU":
                Lift(false);
                EndStroke();
                Moves(command);
                return;
            case "PD":
                Lift(true);
                Moves(command);
                return;
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

        _queuedBytes -= _commands.Dequeue().Length + 1;
    }

    private void Owe(double seconds)
    {
        WorkedSeconds += seconds;
        _owedSeconds += seconds / settings.Factor;
    }

    private void Lift(bool down)
    {
        if (_down == down) return;
        Owe(settings.Motion.LiftSeconds);
        (_down, _speed) = (down, 0);
        if (!down) return;
        if (Force >= settings.TearsAtGrams) _torn = true;
        _stroke.AddRange(OnPaper(_blades.GetValueOrDefault(_pen)?.Tip(_x * MmPerUnit, _y * MmPerUnit) ?? (_x * MmPerUnit, _y * MmPerUnit)));
    }

    /// <summary>Queues where a command goes; without a place it is done at once.</summary>
    private void Moves(string command)
    {
        var bytes = _commands.Dequeue().Length + 1;
        var numbers = command[2..].Split([',', ' '], StringSplitOptions.RemoveEmptyEntries);
        var before = _moves.Count;
        for (var i = 0; i + 1 < numbers.Length; i += 2)
        {
            if (!double.TryParse(numbers[i], CultureInfo.InvariantCulture, out var x)
                || !double.TryParse(numbers[i + 1], CultureInfo.InvariantCulture, out var y)) break;
            _moves.Add(new(x, y, _relative, 0));
        }

        if (_moves.Count > before) _moves[^1] = _moves[^1] with { Frees = bytes };
        else _queuedBytes -= bytes;
    }

    private (double X, double Y) Target(Place place, double fromX, double fromY) => place.Relative ? (fromX + place.X, fromY + place.Y) : (place.X, place.Y);

    /// <summary>Makes the first of the moves that are queued.</summary>
    private void Move()
    {
        var (x, y) = Target(_moves[0], _x, _y);
        // Rounding to units may reach one unit over the edge.
        if (x < -1 || y < -1 || x * MmPerUnit > settings.MatWidthMm + 0.03 || y * MmPerUnit > settings.MatHeightMm + 0.03)
        {
            Fail(string.Create(CultureInfo.InvariantCulture, $"the plot leaves the mat at {x * MmPerUnit:0.#}, {y * MmPerUnit:0.#} mm"));
            return;
        }

        var legs = Legs();
        var mm = legs.Count > 0 ? legs[0].Mm : 0;
        var most = _down ? Math.Min(settings.Motion.SpeedMmS, _velocity) : settings.Motion.TravelMmS;
        if (mm > 0)
        {
            // With the tool up it stops at each place.
            var (seconds, speed) = settings.Motion.Go(mm, _speed, _down ? settings.Motion.ExitSpeed(legs, most) : 0, most);
            Owe(seconds);
            _speed = speed;
        }

        var (wasX, wasY) = (_x, _y);
        (_x, _y) = (x, y);
        _queuedBytes -= _moves[0].Frees;
        _moves.RemoveAt(0);
        if (!_down)
        {
            _travelMm += mm;
            return;
        }

        if (mm > 0 && _speed > settings.ShiftsAtMmS) (_shiftX, _shiftY) = (_shiftX + 0.3 * legs[0].DirX, _shiftY + 0.3 * legs[0].DirY);
        if (_blades.GetValueOrDefault(_pen) is { } blade)
            foreach (var tip in blade.Drag(wasX * MmPerUnit, wasY * MmPerUnit, x * MmPerUnit, y * MmPerUnit)) _stroke.AddRange(OnPaper(tip));
        else _stroke.AddRange(OnPaper((x * MmPerUnit, y * MmPerUnit)));
        _downMm += mm;
        if (_downMm >= _faultAfterMm) GoWrong();
    }

    /// <summary>Where something of the mat is on the paper, in units: paper that shifted is not where it was.</summary>
    private double[] OnPaper((double X, double Y) at) => [Math.Round((at.X - _shiftX) / MmPerUnit, 3), Math.Round((at.Y - _shiftY) / MmPerUnit, 3)];

    /// <summary>The next move and those behind it, as far as it takes to brake from full speed; a move to where it is already is none.</summary>
    private List<Motion.Leg> Legs()
    {
        var legs = new List<Motion.Leg>();
        double x = _x, y = _y, far = 0, enough = settings.Motion.SpeedMmS * settings.Motion.SpeedMmS / settings.Motion.AccelerationMmS2;
        for (var i = 0; i < _moves.Count && far <= enough; i++)
        {
            var (nextX, nextY) = Target(_moves[i], x, y);
            double dx = (nextX - x) * MmPerUnit, dy = (nextY - y) * MmPerUnit, mm = Math.Sqrt(dx * dx + dy * dy);
            if (mm > 0 || i == 0) legs.Add(mm > 0 ? new(mm, dx / mm, dy / mm) : default);
            if (!_down) break;
            if (i > 0) far += mm;
            (x, y) = (nextX, nextY);
        }

        return legs;
    }

    private void EndStroke()
    {
        if (_stroke.Count >= 4 && !_faint) _strokes.Add(new(_pen, [.. _stroke]));
        if (!_down) _faint = false;
        _stroke.Clear();
    }
}
