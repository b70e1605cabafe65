using Falzkunst.Core.Files;
using Falzkunst.Core.Layout;
using Falzkunst.Core.Measures;
using Falzkunst.Core.Pictures;
using Falzkunst.Core.Printing;
using Falzkunst.Store;
using Microsoft.AspNetCore.Mvc;
using Microsoft.EntityFrameworkCore;

namespace Falzkunst.Web.Pages.Dockets;

/// <summary>Where a machine really cuts, and how long a printer really prints.</summary>
public sealed partial class PrintModel
{
    /// <summary>What was found out of this machine with this printer; null where nothing was.</summary>
    public CalibrationRow? Calibrated { get; private set; }

    public bool CalibrationIsDue { get; private set; }

    /// <summary>The other printers that were calibrated with this machine.</summary>
    public IReadOnlyList<string> Printers { get; private set; } = [];

    /// <summary>What stands of the calibration in one line.</summary>
    public string CalibrationSays => Calibrated is not { } row ? "not done yet"
        : (Parts.Calibrations.Days(row) is var days && days > 0 ? Words.Count(days, "day") + " old" : "of today") + (CalibrationIsDue ? ", due" : "");

    private async Task ReadCalibration(CancellationToken cancel)
    {
        if (Machine is { } machine)
        {
            Calibrated = await Parts.Calibrations.Of(machine.Id, Docket.Printer, cancel);
            Printers = await Parts.Calibrations.Printers(machine.Id, cancel);
        }

        // Without marks nothing is cut on its print.
        CalibrationIsDue = Settings?.Marks is not null && Parts.Calibrations.IsDue(Calibrated);
    }

    /// <summary>Says which printer it is printed with.</summary>
    public async Task<IActionResult> OnPostPrinterAsync(string? printer, CancellationToken cancel)
    {
        var name = (printer ?? "").Trim();
        if (Calibrations.NameFault(name) is { } fault) return Back(fault);
        await Parts.Db.Dockets.Where(d => d.Id == Docket.Id).ExecuteUpdateAsync(u => u.SetProperty(d => d.Printer, name), cancel);
        return Back();
    }

    /// <summary>Makes the cuts of the calibration page, which lies on the mat, or is printed and laid there first; then has it scanned and read, where there is
    /// a scanner.</summary>
    /// <param name="knife">Whether hands say that the knife is in.</param>
    public async Task<IActionResult> OnPostCalibrateAsync(bool print, bool knife, CancellationToken cancel)
    {
        if (await ForCalibration(cancel) is not var (layout, machine, marks, why)) return Back(NoCalibration);
        if (why is not null) return Back(why);
        var tool = Core.Runs.Tool.Taken(await Parts.Drawer.Tools(cancel), [], Core.Cards.Operation.Cut, "");
        if (!knife && machine.Setup.Lacks(tool) is { } first)
        {
            Ask($"{first} The page is cut with it.", "It is in: go on", new() { ["knife"] = "true" });
            return Back();
        }

        if (knife) await Parts.Runs.ToolIsIn(machine, tool, cancel);
        return Back(await PressJob.Ask(Parts, Docket, layout, machine, [], print, cancel));
    }

    /// <summary>Reads a scan of the page that somebody brought.</summary>
    public async Task<IActionResult> OnPostCalibrationScanAsync(IFormFile? file, string? dpi, CancellationToken cancel)
    {
        if (await ForCalibration(cancel) is not var (_, machine, marks, why)) return Back(NoCalibration);
        if (why is not null) return Back(why);
        if (file is null || file.Length == 0) return Back("Choose a scan of the calibration page first: PNG or JPEG.");
        var brought = await DocketParts.Brought([file], cancel);
        try
        {
            var (read, dense) = await Task.Run(() =>
            {
                var perInch = ReadPerInch(dpi) ?? Raster.Density(brought[0].Bytes);
                return perInch is { } known ? (CalibrationPage.Read(marks, GreyPicture.Read(brought[0].Bytes, ReadingLimits.Default),
                    known / Length.MmPerInch, cancel), true) : (null!, false);
            }, cancel);
            return dense ? await Keep(machine, read, cancel)
                : Back("The scan does not say how many pixels are in an inch; type it beside the file.");
        }
        catch (UnreadableFileException e)
        {
            return Back($"“{Words.Short(brought[0].Name)}” could not be read: {e.Message}. Nothing was changed.");
        }
    }

    /// <summary>Keeps what a person read: where cuts go on straight from their rungs, and how long the rulers of the test page are.</summary>
    public async Task<IActionResult> OnPostCalibratedAsync(string? across, string? along, string? rulerAcross, string? rulerAlong, CancellationToken cancel)
    {
        if (await Parts.MachineOf(Docket, cancel) is not { } machine) return Back("There is no machine in this workshop yet.");
        if (!Read(across, "0", out var right, out var error) || !Read(along, "0", out var down, out error)
            || !Read(rulerAcross, "100 mm", out var wide, out error) || !Read(rulerAlong, "100 mm", out var high, out error)) return Back(error);
        return Back(await Parts.Calibrations.Keep(machine.Id, Docket.Printer, new(new(right.Mm, down.Mm), wide, high), "typed", cancel));

        bool Read(string? text, string otherwise, out Length length, out string error) =>
            LengthText.TryRead(string.IsNullOrWhiteSpace(text) ? otherwise : text.Trim().TrimStart('+'), LengthUnit, out length, out error);
    }

    private async Task<IActionResult> Keep(MachineRow machine, CalibrationReading read, CancellationToken cancel) =>
        Back(await Parts.Calibrations.KeepRead(machine, Docket.Printer, read, "scan", cancel));

    private const string NoCalibration = "Lay out first: the page takes the sheet and the marks of this card.";

    /// <summary>The layout, the machine and the marks of the docket's sheets; why the page can't be made with them. Null where nothing is laid out.</summary>
    private async Task<(LayoutRow Layout, MachineRow Machine, SheetMarks Marks, string? Why)?> ForCalibration(CancellationToken cancel)
    {
        if (await AtHand(null, cancel) is not var (layout, sheets) || await Parts.MachineOf(Docket, cancel) is not { } machine) return null;
        var marks = sheets[0].Marks!;
        return (layout, machine, marks, machine.ReadsMarks ? CalibrationPage.Fault(marks)
            : $"{machine.Name} has no eye for marks. Choose another machine under Run.");
    }
}
