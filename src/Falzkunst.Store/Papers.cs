using System.Text.Json;
using Falzkunst.Core.Files;
using Falzkunst.Core.Layout;
using Falzkunst.Core.Pictures;
using Falzkunst.Core.Printing;
using Falzkunst.Store.Cutters;
using Microsoft.EntityFrameworkCore;

namespace Falzkunst.Store;

/// <summary>Printed sheets as they were seen: their marks are read, the cut is held against the print, and both are kept with the picture.</summary>
public sealed class Papers(FalzkunstContext db, Blobs blobs, TimeProvider clock)
{
    /// <summary>What a reader sees at a time, in mm each way: a mark that lies several millimetres off is still in it.</summary>
    private const double Window = 44;

    /// <summary>The last picture of each sheet of a layout, by the sheet.</summary>
    public async Task<Dictionary<int, PaperRow>> Of(Guid layoutId, CancellationToken cancel) =>
        (await db.Papers.AsNoTracking().Where(p => p.LayoutId == layoutId).OrderBy(p => p.At).ToListAsync(cancel)).GroupBy(p => p.Sheet)
            .ToDictionary(g => g.Key, g => g.Last());

    /// <summary>Reads a picture that somebody brought.</summary>
    /// <param name="dpi">Of a scan; null takes what the picture says.</param>
    /// <exception cref="UnreadableFileException">It is no picture, or too large, or does not say its resolution.</exception>
    public async Task<PaperRow> Read(Docket docket, Guid layoutId, PrintSheet sheet, byte[] file, SeenBy by, double? dpi, CancellationToken cancel)
    {
        var (reading, picture) = await Task.Run(() =>
        {
            var seen = GreyPicture.Read(file, ReadingLimits.Default);
            if (by == SeenBy.Camera) return (MarkReader.ReadPhotograph(MarksOf(sheet), seen, cancel), seen);
            var perInch = dpi ?? Raster.Density(file)
                ?? throw new UnreadableFileException("the scan does not say how many pixels are in an inch; type it beside the file");
            return (MarkReader.Read(MarksOf(sheet), [new(seen, perInch / Length.MmPerInch, new(0, 0))], cancel), seen);
        }, cancel);
        return await Keep(docket, layoutId, sheet, by == SeenBy.Camera ? "photograph" : "scan", file, picture,
            reading.PxPerMm > 0 ? reading.PxPerMm : (dpi ?? 300) / Length.MmPerInch, new(0, 0), reading, cancel);
    }

    /// <summary>Has a sheet printed by the printer beside a machine and laid on its mat, and reads the marks with the machine's eye.</summary>
    /// <exception cref="IOException">Printer or machine could not; the message is a part of a sentence.</exception>
    public async Task<PaperRow> PrintAndRead(Docket docket, Guid layoutId, MachineRow machine, PrintSheet sheet, int seed, Calibration printer,
        CancellationToken cancel)
    {
        var eye = new MarkEye(machine);
        await Runs.Holds(db, machine.Id, machine.Setup with { Sheet = null }, cancel);
        await eye.Print(await Task.Run(() => PrintFile.Pdf([sheet], printer: printer), cancel), MarkEye.NameOf(layoutId, sheet.Number), seed, cancel);
        var reading = await ReadOnMat(eye, MarksOf(sheet), cancel);
        var all = await eye.Photograph(cancel);
        var picture = await Task.Run(() => GreyPicture.Read(all.Picture, ReadingLimits.Default), cancel);
        return await Keep(docket, layoutId, sheet, "machine", all.Picture, picture, all.PerMm, new(all.X, all.Y), reading, cancel);
    }

    /// <summary>Goes to each mark with a machine's eye, and reads how the sheet on its mat lies.</summary>
    /// <exception cref="IOException">The machine could not.</exception>
    public static async Task<MarkReading> ReadOnMat(MarkEye eye, SheetMarks marks, CancellationToken cancel)
    {
        var windows = new List<Glimpse>();
        foreach (var mark in marks.All)
        {
            var middle = mark.Ink.Bounds.Centre;
            if (windows.Exists(w => new Box(w.At.X, w.At.Y, w.At.X + Window, w.At.Y + Window).Grown(-12).Holds(middle))) continue;
            var part = await eye.Glimpse(middle.X - Window / 2, middle.Y - Window / 2, Window, Window, cancel);
            windows.Add(new(GreyPicture.Read(part.Picture, ReadingLimits.Default), part.PerMm, new(part.X, part.Y)));
        }

        return await Task.Run(() => MarkReader.Read(marks, windows, cancel), cancel);
    }

    public static Projective? MapOf(PaperRow row) => row.Map is [var a, var b, var c, var d, var e, var f, var g, var h] ? new(a, b, c, d, e, f, g, h) : null;

    public static Proof? ProofOf(PaperRow row) => row.Proof.Length > 0 ? JsonSerializer.Deserialize<Proof>(row.Proof) : null;

    private static SheetMarks MarksOf(PrintSheet sheet) => sheet.Marks ?? throw new InvalidOperationException("A sheet without marks is not read.");

    private async Task<PaperRow> Keep(Docket docket, Guid layoutId, PrintSheet sheet, string by, byte[] file, GreyPicture seen, double pxPerMm, Point at,
        MarkReading reading, CancellationToken cancel)
    {
        var proof = reading.Map is not { } map ? ""
            : JsonSerializer.Serialize(await Task.Run(() => Proof.Of(sheet, seen, pxPerMm, map.Then(Affine.Move(-at.X, -at.Y)), cancel), cancel));
        var row = new PaperRow
        {
            Id = Guid.CreateVersion7(),
            StudioId = docket.StudioId,
            DocketId = docket.Id,
            LayoutId = layoutId,
            Sheet = sheet.Number - 1,
            By = by,
            Picture = await blobs.KeepFile(docket.StudioId, docket.Id, file, cancel),
            PxPerMm = pxPerMm,
            LeftMm = at.X,
            TopMm = at.Y,
            Why = reading.Why ?? "",
            Map = reading.Map is { } m ? [m.A, m.B, m.C, m.D, m.E, m.F, m.G, m.H] : [],
            ResidualMm = reading.ResidualMm,
            UncertainMm = reading.UncertainMm,
            Proof = proof,
            At = clock.GetUtcNow(),
        };
        db.Papers.Add(row);
        await db.SaveChangesAsync(cancel);
        return row;
    }
}
