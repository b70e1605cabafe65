using System.Collections.Concurrent;
using System.Globalization;
using System.IO.Compression;
using System.Net;
using System.Net.ServerSentEvents;
using System.Runtime.CompilerServices;
using Falzkunst.Core.Cards;
using Falzkunst.Core.Documents;
using Falzkunst.Core.Files;
using Falzkunst.Core.Layout;
using Falzkunst.Core.Measures;
using Falzkunst.Core.Pictures;
using Falzkunst.Core.Printing;
using Falzkunst.Core.Reading;
using Falzkunst.Core.Writing;
using Falzkunst.Store;
using Falzkunst.Web.Table;
using Microsoft.EntityFrameworkCore;
using Microsoft.Extensions.Caching.Memory;

namespace Falzkunst.Web;

/// <summary>What is not a page: pictures, files, progress.</summary>
public static class Endpoints
{
    public static void Map(WebApplication app)
    {
        app.MapGet("/", () => Results.Redirect("/dockets"));
        app.MapGet("/healthz", async (FalzkunstContext db, TimeProvider clock, CancellationToken cancel) =>
            !await db.Database.CanConnectAsync(cancel) ? Results.Text("the database does not answer", statusCode: 503)
            : DatabaseDown.WasFull(clock) ? Results.Text("the disk is full", statusCode: 507) : Results.Text("fine")).AllowAnonymous();
        app.MapGet("/workshop/everything.zip", Everything).RequireAuthorization(OwnersOnlyAttribute.Owner);
        app.MapGet("/shelf/{id:guid}.svg", Kept);
        app.MapGet("/length", (string? text, HttpContext context) => LengthText.TryRead(text ?? "", StudioClaims.LengthUnitOf(context.User), out var length,
            out var error) ? Results.Json(new { mm = length.Mm }) : Results.Json(new { error }, statusCode: 422));
        var docket = app.MapGroup("/dockets/{number:int}");
        docket.MapGet("/artwork/{hash}", Artwork);
        docket.MapGet("/pile/{revision:guid}.svg", Pile);
        docket.MapGet("/state/{revision:guid}.svg", State);
        docket.MapGet("/weak", Weak);
        docket.MapGet("/source/{id:guid}", Source);
        docket.MapGet("/design.falz.json", Design);
        docket.MapGet("/near", Near);
        docket.MapGet("/picture/{id:guid}", Picture);
        docket.MapGet("/trace-preview", TracePreview);
        docket.MapGet("/trace-plate", TracePlate);
        docket.MapGet("/archive/{id:guid}/{index:int}.svg", Archived);
        docket.MapGet("/print/{layout:guid}/print.pdf", PrintPdf);
        docket.MapGet("/print/{layout:guid}/test-page.pdf", TestPage);
        docket.MapGet("/print/{layout:guid}/calibration.pdf", CalibrationPdf);
        docket.MapGet("/print/{layout:guid}/sheet-{sheet:int}.png", PrintPng);
        docket.MapGet("/files/{format}.zip", Zip);
        docket.MapGet("/files/{format}/{name}", OneFile);
        docket.MapGet("/lay-out/would/{layout:guid}", Would);
        docket.MapGet("/lay-out/best/{layout:guid}.svg", Best);
        docket.MapGet("/lay-out/progress/{id:guid}", (int number, Guid id, Watch watch, CancellationToken cancel) =>
            TypedResults.ServerSentEvents(LayoutProgress(number, id, watch, cancel)));
        docket.MapGet("/print/progress/{id:guid}", (Guid id, string? shown, Watch watch, TimeProvider clock, CancellationToken cancel) =>
            TypedResults.ServerSentEvents(watch.While(id, db => db.Press.AsNoTracking().FirstOrDefaultAsync(p => p.Id == id, cancel),
                row => PressJob.IsUnderWay(row, clock.GetUtcNow()) && (row.IsCalibration || row.Done.ToString(CultureInfo.InvariantCulture) == shown)
                    ? $"<p role=\"status\">{WebUtility.HtmlEncode(PressJob.Says(row))}</p>" : null, cancel)));
        docket.MapGet("/run/progress/{id:guid}", (Guid id, string? shown, int? step, int? seconds, Watch watch, CancellationToken cancel) =>
            TypedResults.ServerSentEvents(RunProgress(id, shown ?? "", step, seconds ?? 0, watch, cancel)));
    }

    private static async Task<IResult> Everything(StudioExport export, CancellationToken cancel) =>
        Results.Stream(await export.Write(cancel), "application/zip", "workshop.zip");

    /// <summary>What of a docket's pieces its papers don't bear, for the list of dockets: asked for when its card is seen, and again while pieces are looked at
    /// in the background. Nothing where all is well, nor where somebody deleted the docket since the list was sent.</summary>
    private static async Task<IResult> Weak(int number, FalzkunstContext db, Revisions revisions, Drawer drawer, Inspector inspector, CancellationToken cancel)
    {
        if (await Find(number, db, revisions, cancel) is not var (_, design)) return Results.NoContent();
        var stocks = await drawer.Stocks(cancel);
        if (DocketParts.Waiting(design, stocks) is { Count: > 0 } waiting)
        {
            inspector.Look(design, stocks, waiting);
            var again = FormattableString.Invariant($"hx-get=\"/dockets/{number}/weak\" hx-trigger=\"load delay:2s\" hx-swap=\"outerHTML\"");
            return Results.Content($"<span class=\"quiet\" {again} hx-target=\"this\">is looked at …</span>", "text/html");
        }

        var thin = CardInspection.Of(design, p => Stocks.Bears(design, p, stocks), false).Thin.Count();
        return Results.Content(thin == 0 ? "" : $"<span class=\"warn-text\">{Words.Count(thin, "place")} thinner than paper bears</span>", "text/html");
    }

    /// <summary>A docket and its design; null where there is none, or it can't be read.</summary>
    private static async Task<(Docket Docket, Design Design)?> Find(int number, FalzkunstContext db, Revisions revisions, CancellationToken cancel)
    {
        if (await db.Dockets.AsNoTracking().FirstOrDefaultAsync(d => d.Number == number, cancel) is not { } docket) return null;
        try
        {
            return await revisions.DesignOf(docket.CurrentRevisionId, cancel) is { } design ? (docket, design) : null;
        }
        catch (UnreadableFileException)
        {
            return null;
        }
    }

    /// <summary>The answer for what its address says the content of: it never changes.</summary>
    private static void ForEver(HttpContext context) => context.Response.Headers.CacheControl = "private, max-age=31536000, immutable";

    /// <summary>A picture by its hash, with the type of its bytes. One that is not in the database yet is in the design that an earlier version
    /// wrote.</summary>
    private static async Task<IResult> Artwork(int number, string hash, FalzkunstContext db, Blobs blobs, Revisions revisions, HttpContext context,
        CancellationToken cancel)
    {
        var kept = await db.Dockets.Where(d => d.Number == number)
            .Join(db.BlobUses.Where(u => u.Hash == hash), d => d.Id, u => u.DocketId, (d, u) => u.Hash).AnyAsync(cancel) ? await blobs.Of(hash, cancel) : null;
        var bytes = kept ?? (await Find(number, db, revisions, cancel))?.Design.Artwork
            .FirstOrDefault(a => a.Artwork.Picture?.Hash == hash)?.Artwork.Picture?.Bytes.ToArray();
        if (bytes is null || PictureFacts.Read(bytes) is not { } facts) return Results.NotFound();
        ForEver(context);
        return Results.Bytes(bytes, facts.MediaType);
    }

    /// <summary>A file that was brought to a docket which is still there.</summary>
    private static Task<SourceFile?> FileOf(int number, Guid id, FalzkunstContext db, CancellationToken cancel) =>
        db.SourceFiles.AsNoTracking().FirstOrDefaultAsync(f => f.Id == id && db.Dockets.Any(d => d.Id == f.DocketId && d.Number == number), cancel);

    private static async Task<IResult> Source(int number, Guid id, FalzkunstContext db, Incoming incoming, CancellationToken cancel) =>
        await FileOf(number, id, db, cancel) is { } file
            ? Results.Bytes(await incoming.BytesOf(id, cancel), "application/octet-stream", file.Name)
            : Results.NotFound();

    private static async Task<IResult> Design(int number, FalzkunstContext db, Revisions revisions, CancellationToken cancel) =>
        await Find(number, db, revisions, cancel) is { } found ? Results.Bytes(FalzFile.Write(found.Design), "application/json", $"docket-{number}.falz.json")
            : Results.NotFound();

    /// <summary>The small picture of a docket in the list, as it was with a revision.</summary>
    private static Task<IResult> Pile(int number, Guid revision, Revisions revisions, HttpContext context, CancellationToken cancel) =>
        Shown(revision, design => design.Plies.Length > 1 ? PileSvg.Of(design, false) : SmallSvg.Of(design), revisions, context, cancel);

    /// <summary>Something on the shelf.</summary>
    private static async Task<IResult> Kept(Guid id, KeptThings things, HttpContext context, CancellationToken cancel)
    {
        try
        {
            if (await things.Take(id, cancel) is not var (_, design)) return Results.NotFound();
            ForEver(context);
            const double wide = 160;
            // A tile is seen as it is printed.
            return design.Artwork is [{ Artwork.IsTiled: true }]
                ? Results.Bytes(Paper.Render(design, wide / design.Width.Mm * Length.MmPerInch, DrawAs.Artwork).Png, "image/png")
                : Results.Text(SmallSvg.Of(design), "image/svg+xml");
        }
        catch (UnreadableFileException e)
        {
            return Results.Text(SmallSvg.None(e.Message), "image/svg+xml");
        }
    }

    /// <summary>The card as it was at some point of its history, seen from above.</summary>
    private static async Task<IResult> State(int number, Guid revision, FalzkunstContext db, Revisions revisions, HttpContext context,
        CancellationToken cancel) =>
        await db.Revisions.AnyAsync(r => r.Id == revision && db.Dockets.Any(d => d.Id == r.DocketId && d.Number == number), cancel)
            ? await Shown(revision, design => SmallSvg.Of(design), revisions, context, cancel) : Results.NotFound();

    private static async Task<IResult> Shown(Guid revision, Func<Design, string> picture, Revisions revisions, HttpContext context, CancellationToken cancel)
    {
        try
        {
            if (await revisions.DesignOf(revision, cancel) is not { } design) return Results.NotFound();
            ForEver(context);
            return Results.Text(picture(design), "image/svg+xml");
        }
        catch (UnreadableFileException e)
        {
            return Results.Text(SmallSvg.None(e.Message), "image/svg+xml");
        }
    }

    /// <summary>A small picture of a file in an archive; of one that can't be read, an empty one.</summary>
    private static async Task<IResult> Archived(int number, Guid id, int index, FalzkunstContext db, Incoming incoming, HttpContext context,
        CancellationToken cancel)
    {
        if (await FileOf(number, id, db, cancel) is null) return Results.NotFound();
        try
        {
            var file = await incoming.BytesOf(id, cancel);
            if (!Archive.IsZip(file)) return Results.NotFound();
            ForEver(context);
            if (Archive.File(file, index, ReadingLimits.Default) is not { } one) return Results.NotFound();
            // A picture shows itself better than its tracing does.
            if (DesignReader.IsPicture(one.Bytes)) return Results.Bytes(one.Bytes, DesignReader.MediaType(one.Bytes));
            return Results.Text(SmallSvg.Of(DesignReader.Read(one.Bytes, cancel: cancel)), "image/svg+xml");
        }
        catch (UnreadableFileException e)
        {
            return Results.Text(SmallSvg.None(e.Message), "image/svg+xml");
        }
    }

    /// <summary>What a pointer at (x, y) catches, all in mm.</summary>
    private static async Task<IResult> Near(int number, double x, double y, double within, FalzkunstContext db, Revisions revisions, CancellationToken cancel)
    {
        if (!(double.IsFinite(x) && double.IsFinite(y) && double.IsFinite(within))) return Results.BadRequest();
        if (await Find(number, db, revisions, cancel) is not { } found) return Results.NotFound();
        var (at, what) = Nearest.To(found.Design, new(x, y), Length.FromMm(Math.Clamp(within, 0, 50)));
        return Results.Json(new { x = at.X, y = at.Y, what = what.ToString().ToLowerInvariant() });
    }

    /// <summary>A picture that somebody brought, to be looked at.</summary>
    private static async Task<IResult> Picture(int number, Guid id, FalzkunstContext db, Incoming incoming, HttpContext context, CancellationToken cancel)
    {
        if (await FileOf(number, id, db, cancel) is null || await incoming.BytesOf(id, cancel) is not { } file
            || !DesignReader.IsPicture(file)) return Results.NotFound();
        ForEver(context);
        return Results.Bytes(file, DesignReader.MediaType(file));
    }

    /// <summary>What the fields of the tracing form, as they stand, would make of the docket's picture; nothing is changed.</summary>
    private static async Task<IResult> TracePreview(int number, FalzkunstContext db, Revisions revisions, Incoming incoming, HttpContext context,
        CancellationToken cancel)
    {
        if (await Find(number, db, revisions, cancel) is not var (docket, design)
            || await incoming.PictureOf(docket, design, context.Request.Query["picture"], cancel) is not { } picture) return Results.NotFound();
        var (small, width, height) = await incoming.SmallPicture(picture.File, cancel);
        var unit = StudioClaims.LengthUnitOf(context.User);
        var (settings, problem) = TraceForm.Read(picture, width, unit, name => context.Request.Query.TryGetValue(name, out var v) ? v.ToString() : null);
        if (problem.Length > 0) return Results.Text(problem, statusCode: StatusCodes.Status422UnprocessableEntity);
        return Results.Text(TraceSvg.Preview(small, width, height, settings, $"/dockets/{number}/picture/{picture.File}", cancel).ToString(), "image/svg+xml");
    }

    /// <summary>What another way would make of a picture, small.</summary>
    private static async Task<IResult> TracePlate(int number, string? picture, TraceMode mode, FalzkunstContext db, Revisions revisions, Incoming incoming,
        CancellationToken cancel)
    {
        if (await Find(number, db, revisions, cancel) is not var (docket, design)
            || await incoming.PictureOf(docket, design, picture, cancel) is not { } traced) return Results.NotFound();
        var (small, _, _) = await incoming.SmallPicture(traced.File, cancel);
        return Results.Text(TraceSvg.Plate(small, traced.Tracing.Settings.By(mode), cancel), "image/svg+xml");
    }

    /// <summary>What is printed of a layout: a page for each sheet on which something is, as long as the docket's printer makes it right.</summary>
    private static async Task<IResult> PrintPdf(int number, Guid layout, DocketParts parts, CancellationToken cancel)
    {
        if (await Printed(number, layout, parts, cancel) is not var (docket, sheets)) return Results.NotFound();
        var printer = Calibrations.ToCore(await parts.CalibrationOf(docket, cancel));
        return Results.Bytes(await Task.Run(() => PrintFile.Pdf([.. sheets.Where(s => s.Pieces.Length > 0)], printer: printer), cancel), "application/pdf",
            $"docket-{number}-print.pdf");
    }

    private static async Task<IResult> TestPage(int number, Guid layout, DocketParts parts, CancellationToken cancel) =>
        await Printed(number, layout, parts, cancel) is var (_, sheets) && sheets.FirstOrDefault(s => s.Pieces.Length > 0) is { } sheet
            ? Results.Bytes(PrintFile.TestPage(sheet.Width, sheet.Height), "application/pdf", "test-page.pdf") : Results.NotFound();

    private static async Task<IResult> CalibrationPdf(int number, Guid layout, DocketParts parts, CancellationToken cancel)
    {
        if (await Printed(number, layout, parts, cancel) is not var (_, sheets) || sheets.FirstOrDefault(s => s.Marks is not null)?.Marks is not { } marks)
            return Results.NotFound();
        return CalibrationPage.Fault(marks) is { } fault ? Results.Text(fault, statusCode: StatusCodes.Status422UnprocessableEntity)
            : Results.Bytes(CalibrationPage.Pdf(marks), "application/pdf", "calibration-page.pdf");
    }

    /// <summary>A sheet as it is printed. It never changes: a layout is kept as it was made.</summary>
    /// <param name="dpi">Pixels in an inch; without, so many as a screen shows. With, it is saved as a file.</param>
    private static async Task<IResult> PrintPng(int number, Guid layout, int sheet, int? dpi, DocketParts parts, HttpContext context, CancellationToken cancel)
    {
        if ((await Printed(number, layout, parts, cancel))?.Sheets.FirstOrDefault(s => s.Number == sheet) is not { } found) return Results.NotFound();
        if (dpi is < 30 or > 1200) return Results.Text("Pixels in an inch go from 30 to 1,200.", statusCode: StatusCodes.Status422UnprocessableEntity);
        try
        {
            var png = await Task.Run(() => PrintFile.Png(found, dpi ?? 110), cancel);
            if (dpi is not null) return Results.Bytes(png, "image/png", $"docket-{number}-sheet-{sheet}.png");
            ForEver(context);
            return Results.Bytes(png, "image/png");
        }
        catch (ArgumentOutOfRangeException)
        {
            return Results.Text("That is too large for one picture; take fewer pixels in an inch, or the PDF.",
                statusCode: StatusCodes.Status422UnprocessableEntity);
        }
    }

    private static async Task<(Docket Docket, IReadOnlyList<PrintSheet> Sheets)?> Printed(int number, Guid layout, DocketParts parts, CancellationToken cancel)
    {
        if (await parts.Db.Dockets.AsNoTracking().FirstOrDefaultAsync(d => d.Number == number, cancel) is not { } docket) return null;
        return await parts.Db.Layouts.AsNoTracking().FirstOrDefaultAsync(l => l.Id == layout && l.DocketId == docket.Id, cancel) is { } row
            && await parts.PrintSheets(docket, row, cancel) is { } sheets ? (docket, sheets) : null;
    }

    /// <summary>Where a piece would come to lie that is moved by hand, and what is in its way, while it is dragged. The sheet is remembered from one question
    /// to the next; a layout is never changed.</summary>
    private static async Task<IResult> Would(int number, Guid layout, string? laid, double turn, double right, double down, DocketParts parts,
        CancellationToken cancel)
    {
        if (PieceCopy.Read(laid) is not { } which || !double.IsFinite(right + down + turn)) return Results.NotFound();
        var key = ("by hand", parts.Db.StudioId, layout, number);
        if (!parts.Memory.TryGetValue(key, out HandLayout? known))
        {
            if (await parts.Db.Dockets.AsNoTracking().FirstOrDefaultAsync(d => d.Number == number, cancel) is not { } docket
                || await parts.Db.Layouts.AsNoTracking().FirstOrDefaultAsync(l => l.Id == layout && l.DocketId == docket.Id, cancel) is not { } row
                || LayoutJob.Read(row) is not { } plan || await parts.Together.DesignOf(row, cancel) is not { } design) return Results.NotFound();
            known = parts.Memory.Set(key, new HandLayout(design, plan),
                new MemoryCacheEntryOptions { Size = 2_000_000, SlidingExpiration = TimeSpan.FromMinutes(5) });
        }

        if (known!.Layout.Find(which) is not var (sheet, index)) return Results.NotFound();
        var on = known.On(sheet);
        var from = on.MiddleOf(index);
        var settled = on.Settle(index, Angle.FromDegrees(turn), from + new Point(right, down));
        return Results.Json(new
        {
            right = settled.At?.X - from.X,
            down = settled.At?.Y - from.Y,
            inTheWay = settled.InTheWay.Select(i => known.Layout.Sheets[sheet].Pieces[i].Which.ToString()),
        });
    }

    /// <summary>A layout that somebody moves pieces of, with what is known of its sheets.</summary>
    private sealed class HandLayout(Core.Cards.Design design, DocketLayout layout)
    {
        private readonly ConcurrentDictionary<int, HandSheet> _sheets = [];

        public DocketLayout Layout => layout;

        public HandSheet On(int sheet) => _sheets.GetOrAdd(sheet, i => HandSheet.Of(design, layout.Sheets[i], layout.Gap));
    }

    /// <summary>The best layout so far; of one that was finished before its picture was asked for, what it came to.</summary>
    private static async Task<IResult> Best(Guid layout, DocketParts parts, CancellationToken cancel)
    {
        if (await parts.Db.Layouts.AsNoTracking().FirstOrDefaultAsync(l => l.Id == layout, cancel) is not { } row
            || (LayoutJob.Read(row.BestDocument) ?? LayoutJob.Read(row)) is not { } best || await parts.Together.DesignOf(row, cancel) is not { } design)
            return Results.NotFound();
        return Results.Content(SheetSvg.Small(design, await parts.Drawer.Stocks(cancel), best), "image/svg+xml");
    }

    private static async Task<List<ProductionFile>?> Files(int number, string format, DocketParts parts, CancellationToken cancel)
    {
        if (!Enum.TryParse<ProductionFormat>(format, true, out var wanted)) return null;
        var docket = await parts.Db.Dockets.AsNoTracking().FirstOrDefaultAsync(d => d.Number == number, cancel);
        return docket is not null && await parts.PlanOf(docket, cancel) is { } found
            ? WithPage(docket, found.Plan, [.. ProductionFiles.WriteAll(found.Plan, wanted)], wanted) : null;
    }

    private static async Task<IResult> OneFile(int number, string format, string name, DocketParts parts, CancellationToken cancel) =>
        (await Files(number, format, parts, cancel))?.Find(f => f.Name == name) is { } file ? Results.Bytes(file.Bytes, file.MediaType, file.Name)
            : Results.NotFound();

    /// <summary>The files, and behind them the page that says what goes in when.</summary>
    private static List<ProductionFile> WithPage(Docket docket, Core.Runs.RunPlan plan, List<ProductionFile> files, ProductionFormat format) =>
        [.. files, new("read-me-first.html", "text/html", 0, format, System.Text.Encoding.UTF8.GetBytes(ProductionFiles.Page(plan, docket.Name, files)))];

    private static async Task<IResult> Zip(int number, string format, DocketParts parts, CancellationToken cancel)
    {
        if (await Files(number, format, parts, cancel) is not { } files) return Results.NotFound();
        using var buffer = new MemoryStream();
        using (var zip = new ZipArchive(buffer, ZipArchiveMode.Create, true))
        {
            foreach (var file in files)
            {
                await using var entry = await zip.CreateEntry(file.Name).OpenAsync(cancel);
                await entry.WriteAsync(file.Bytes, cancel);
            }
        }

        return Results.Bytes(buffer.ToArray(), "application/zip", $"docket-{number}-{format.ToLowerInvariant()}.zip");
    }

    private static IAsyncEnumerable<SseItem<string>> LayoutProgress(int number, Guid id, Watch watch, CancellationToken cancel) =>
        watch.While(id, db => db.Layouts.AsNoTracking().FirstOrDefaultAsync(l => l.Id == id, cancel),
            row => row.State is WorkState.Done or WorkState.Stopped or WorkState.Failed ? null
                : Bar(row.Fraction, row.Text.Length > 0 ? row.Text : "waiting to begin", row.Best) + BestPicture(number, row), cancel);

    /// <summary>The best so far as a picture, as long as it is the same at the same address.</summary>
    private static string BestPicture(int number, LayoutRow row) => row.BestDocument.Length == 0 ? "" : string.Create(CultureInfo.InvariantCulture,
        $"<img class=\"best-so-far\" alt=\"The best layout so far\" src=\"/dockets/{number}/lay-out/best/{row.Id}.svg?of="
        + $"{row.BestDocument.GetHashCode(StringComparison.Ordinal):x}\">");

    private static IAsyncEnumerable<SseItem<string>> RunProgress(Guid id, string shown, int? step, int seconds, Watch watch, CancellationToken cancel) =>
        watch.While(id, db => db.Runs.AsNoTracking().FirstOrDefaultAsync(r => r.Id == id, cancel),
            // What a person can do now, or what is done, is not what the page shows: it is fetched afresh.
            row => !row.IsActive || row.Asks != shown || row.Step != (step ?? row.Step) ? null
                : Bar(row.Fraction, row.Asks.Length > 0 ? "waiting for you" : row.Step == 0 ? "connecting to the machine" : $"step {row.Step}",
                    seconds > 0 && row.Fraction is > 0 and < 1 ? $"about {Words.Time(seconds * (1 - row.Fraction))} left" : "", row.Step, row.Strokes), cancel);

    /// <param name="step">The step under way, which the page shows as such; 0 where there is none.</param>
    /// <param name="strokes">How many strokes of it are done.</param>
    private static string Bar(double fraction, string text, string more, int step = 0, int strokes = 0) =>
        $"<progress class=\"bar\" data-at=\"{step}\" data-strokes=\"{strokes}\" max=\"100\" value=\"{fraction * 100:0}\""
            + $" aria-label=\"Progress\">{fraction:P0}</progress>"
            + $"<p>{WebUtility.HtmlEncode(text)} <span class=\"quiet\">{WebUtility.HtmlEncode(more)}</span></p>";
}
