using System.Collections.Immutable;
using Falzkunst.Core.Cards;
using Falzkunst.Core.Files;
using Falzkunst.Core.Layout;
using Falzkunst.Core.Pictures;
using Falzkunst.Core.Printing;
using Falzkunst.Core.Runs;
using Falzkunst.Core.Writing;
using Falzkunst.Store.Cutters;
using Microsoft.EntityFrameworkCore;

namespace Falzkunst.Store;

/// <summary>How machines and printers were calibrated, and what is done for it at the machine. What was found out stays in a list; the newest holds.</summary>
public sealed class Calibrations(FalzkunstContext db, Drawer drawer, TimeProvider clock)
{
    private const int LongestName = 60;

    // For 42 short cuts; a machine that takes longer has stopped.
    private static readonly TimeSpan Patience = TimeSpan.FromSeconds(120);

    /// <summary>What holds for a machine with a printer; null where nothing was found out.</summary>
    public Task<CalibrationRow?> Of(Guid machineId, string printer, CancellationToken cancel) => Of(db, machineId, printer, cancel);

    /// <summary>The same for whoever has no studio of his own.</summary>
    public static Task<CalibrationRow?> Of(FalzkunstContext db, Guid machineId, string printer, CancellationToken cancel) =>
        db.Calibrations.IgnoreQueryFilters().AsNoTracking().Where(c => c.MachineId == machineId && c.Printer == printer).OrderByDescending(c => c.At)
            .FirstOrDefaultAsync(cancel);

    /// <summary>The names of the printers that were calibrated with a machine.</summary>
    public Task<List<string>> Printers(Guid machineId, CancellationToken cancel) =>
        db.Calibrations.AsNoTracking().Where(c => c.MachineId == machineId && c.Printer != "").Select(c => c.Printer).Distinct().OrderBy(p => p)
            .ToListAsync(cancel);

    public static Calibration ToCore(CalibrationRow? row) =>
        row is null ? Calibration.None : new(new(row.RightMm, row.DownMm), Length.FromMm(row.AcrossMm), Length.FromMm(row.AlongMm));

    /// <summary>What is wrong with the name of a printer, as a sentence; null where all is well.</summary>
    public static string? NameFault(string printer) => printer.Length > LongestName ? $"A printer's name has up to {LongestName} letters." : null;

    /// <summary>Whether it is time for it: it never was, or it is too long ago.</summary>
    public bool IsDue(CalibrationRow? row) => row is null || clock.GetUtcNow() - row.At > Calibration.Lasts;

    /// <summary>How many days ago it was.</summary>
    public int Days(CalibrationRow row) => (int)(clock.GetUtcNow() - row.At).TotalDays;

    /// <summary>Keeps what was found out; the sentence says why it is not kept.</summary>
    /// <param name="by">"typed", "scan" or "machine".</param>
    public async Task<string?> Keep(Guid machineId, string printer, Calibration found, string by, CancellationToken cancel)
    {
        if ((found.Fault() ?? NameFault(printer)) is { } fault) return fault;
        db.Calibrations.Add(new()
        {
            Id = Guid.CreateVersion7(),
            StudioId = db.StudioId,
            MachineId = machineId,
            Printer = printer,
            RightMm = found.Off.X,
            DownMm = found.Off.Y,
            AcrossMm = found.Across.Mm,
            AlongMm = found.Along.Mm,
            By = by,
            At = clock.GetUtcNow(),
        });
        await db.SaveChangesAsync(cancel);
        return null;
    }

    /// <summary>Keeps what was read off the page; what that means, or why it is not kept, as a sentence.</summary>
    /// <param name="by">"scan" or "machine".</param>
    public async Task<string> KeepRead(MachineRow machine, string printer, CalibrationReading read, string by, CancellationToken cancel)
    {
        if (read.Off is not { } off) return read.Why ?? "The cuts can't be seen.";
        // What was measured with rulers is not told by ladders.
        var known = ToCore(await Of(machine.Id, printer, cancel));
        return await Keep(machine.Id, printer, known with { Off = off }, by, cancel)
            ?? $"{machine.Name} cuts {Side(off.X, "too far right", "too far left")} and {Side(off.Y, "too far down", "too far up")}; "
            + "from now on every cut on a print is corrected by that.";

        static string Side(double mm, string plus, string minus) =>
            string.Create(System.Globalization.CultureInfo.InvariantCulture, $"{Math.Round(Math.Abs(mm), 2):0.##} mm {(mm < 0 ? minus : plus)}");
    }

    /// <summary>Has the page printed by the printer beside a machine and laid on its mat.</summary>
    /// <exception cref="IOException">There is no such printer, or it could not; the message is a part of a sentence.</exception>
    public static async Task Print(MachineRow machine, SheetMarks marks, int seed, CancellationToken cancel) =>
        await new MarkEye(machine).Print(await Task.Run(() => CalibrationPage.Pdf(marks), cancel), "calibration", seed, cancel);

    /// <summary>
    /// Reads the marks of the page that lies on a machine's mat, and makes its cuts where the machine, as it is, takes them to belong. The sentence says why
    /// that was not done.
    /// </summary>
    /// <exception cref="IOException">The machine could not; the message is a part of a sentence.</exception>
    public async Task<string?> Cut(MachineRow machine, SheetMarks marks, CancellationToken cancel)
    {
        Task<bool> IsAtWork() => db.Runs.AnyAsync(r => r.MachineId == machine.Id && RunRow.Active.Contains(r.State), cancel);
        var atWork = $"{machine.Name} is at work on another sheet; wait until that is done.";
        if (await IsAtWork()) return atWork;
        var read = await Papers.ReadOnMat(new(machine), marks, cancel);
        if (read.Map is not { } map) return read.Why;
        var lies = map.Near(new(marks.Width.Mm / 2, marks.Height.Mm / 2));
        var knife = Tool.Taken(await drawer.Tools(cancel), [], Operation.Cut, "");
        var sheet = new SheetRun(0, "", marks.Width, marks.Height,
            [new(1, knife.Id, knife.Name, knife.Pen, Operation.Cut, "cut", 1, CalibrationPage.Cuts(marks), default, default, 0, null, knife.SpeedMmS / 2, 0)]);
        await using var line = await CutterLine.Open(machine, cancel);
        // A run that began meanwhile has its sheet on the mat.
        if (await IsAtWork()) return atWork;
        var job = line.Job(sheet, sheet.Placed(lies).Steps[0]);
        await Runs.Holds(db, machine.Id, machine.Setup with { Sheet = null }, cancel);
        using var patience = CancellationTokenSource.CreateLinkedTokenSource(cancel);
        patience.CancelAfter(Patience);
        try
        {
            await line.Abort(patience.Token);
            await line.Do(job.Text, patience.Token);
            return null;
        }
        catch (OperationCanceledException e) when (!cancel.IsCancellationRequested)
        {
            await line.Abort(CancellationToken.None);
            throw new IOException("the machine did not finish the cuts of the page; see whether it waits for its knife", e);
        }
        catch (OperationCanceledException)
        {
            await line.Abort(CancellationToken.None);
            throw;
        }
    }

    /// <summary>Reads the scan of the page after its cuts, by the scanner beside a machine; null where there is none.</summary>
    /// <exception cref="IOException">It could not.</exception>
    public static async Task<CalibrationReading?> Scan(MachineRow machine, SheetMarks marks, CancellationToken cancel) =>
        await new MarkEye(machine).Scan(cancel) is { } scan
            ? await Task.Run(() => CalibrationPage.Read(marks, GreyPicture.Read(scan.Picture, ReadingLimits.Default), scan.PerMm, cancel), cancel) : null;
}
