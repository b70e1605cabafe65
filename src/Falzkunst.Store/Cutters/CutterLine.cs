using System.Globalization;
using Falzkunst.Core.Runs;

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
/// message ends a sentence.
/// </summary>
public interface ICutterLine : IAsyncDisposable
{
    Task<CutterStatus> Status(CancellationToken cancel);

    /// <summary>Sends as much of a step, from a place on, as the cutter has room for, and returns the new place once the cutter has it.</summary>
    Task<int> Send(string text, int from, CancellationToken cancel);

    /// <summary>The cutter lifts the tool, and forgets what it was sent and any failure.</summary>
    Task Abort(CancellationToken cancel);

    /// <summary>How many strokes the cutter remembers; null where it can't tell.</summary>
    Task<int?> Remembered(CancellationToken cancel);

    /// <summary>The strokes that it remembers, without the first so many; null where it can't tell.</summary>
    Task<CutterMark[]?> Record(int from, CancellationToken cancel);
}
