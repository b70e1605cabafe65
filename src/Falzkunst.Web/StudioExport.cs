using System.Globalization;
using System.IO.Compression;
using System.Text.Encodings.Web;
using System.Text.Json;
using Falzkunst.Core.Documents;
using Falzkunst.Core.Files;
using Falzkunst.Core.Writing;
using Falzkunst.Store;
using Microsoft.EntityFrameworkCore;

namespace Falzkunst.Web;

/// <summary>
/// All that a studio has, as one ZIP in open formats: workshop.json (people, stocks, machines, tools, rules), and a folder for each docket with its design,
/// its history and runs, and the files that were brought in. Read and written a docket at a time.
/// </summary>
public sealed class StudioExport(FalzkunstContext db, Revisions revisions, Drawer drawer, TimeProvider clock)
{
    private static readonly JsonSerializerOptions Json = new(JsonSerializerDefaults.Web)
    {
        WriteIndented = true,
        Encoder = JavaScriptEncoder.UnsafeRelaxedJsonEscaping,
    };

    /// <summary>The ZIP, whole, as a file that is gone when it is closed.</summary>
    public async Task<Stream> Write(CancellationToken cancel)
    {
        var file = new FileStream(Path.GetTempFileName(), FileMode.Open, FileAccess.ReadWrite, FileShare.None, 1 << 16, FileOptions.DeleteOnClose
            | FileOptions.Asynchronous);
        try
        {
            await using (var zip = await ZipArchive.CreateAsync(file, ZipArchiveMode.Create, true, null, cancel))
            {
                await Put(zip, "workshop.json", await Workshop(cancel), cancel);
                foreach (var k in await db.Kept.AsNoTracking().Where(k => k.DeletedAt == null).OrderBy(k => k.At).ToListAsync(cancel))
                    await Put(zip, $"shelf/{Plain(k.Name)} {k.Id.ToString()[^6..]}.falz.json", KeptThings.FileOf(k), cancel);
                foreach (var docket in await db.Dockets.AsNoTracking().OrderBy(d => d.Number).ToListAsync(cancel)) await Put(zip, docket, cancel);
            }

            file.Position = 0;
            return file;
        }
        catch
        {
            await file.DisposeAsync();
            throw;
        }
    }

    private async Task<object> Workshop(CancellationToken cancel)
    {
        var studio = await db.Studios.AsNoTracking().FirstAsync(s => s.Id == db.StudioId, cancel);
        return new
        {
            studio.Name,
            ExportedAt = clock.GetUtcNow(),
            studio.FoldSetbackMm,
            People = await db.Users.Where(u => u.StudioId == db.StudioId).OrderBy(u => u.FullName).Select(u => new { u.FullName, u.Email, u.IsOwner })
                .ToListAsync(cancel),
            Stocks = (await db.Stocks.AsNoTracking().Include(s => s.Sheets).Include(s => s.Settings).AsSplitQuery().OrderBy(s => s.Place).ToListAsync(cancel))
                .Select(s => new
                {
                    s.Name,
                    s.Kind,
                    s.ColourHex,
                    s.WeightGsm,
                    s.ThicknessMm,
                    s.MinWidthMm,
                    s.MinGapMm,
                    s.RetiredAt,
                    Sheets = s.Sheets.Select(q => new { q.WidthMm, q.HeightMm, q.Count, q.MarginMm, q.Grain, q.Price, q.LeftByRunId, q.Left }),
                    Settings = s.Settings.Select(m => new
                    {
                        Tool = m.ToolKey,
                        m.Passes,
                        m.ForceGrams,
                        m.SpeedMmS,
                        m.Chosen,
                        m.OvercutMm,
                        m.DepthMm,
                        m.PassesTogether,
                    }),
                }),
            Machines = (await drawer.Machines(cancel)).Select(m => new
            {
                m.Name,
                m.WidthMm,
                m.HeightMm,
                m.Holders,
                m.SpeedMmS,
                m.TravelMmS,
                m.AccelerationMmS2,
                m.LiftSeconds,
                m.Port,
            }),
            Tools = await db.Tools.AsNoTracking().OrderBy(t => t.Pen).Select(t => new
            {
                t.Key,
                t.Name,
                t.Operation,
                t.Pen,
                t.SpeedMmS,
                t.SwivelMm,
                t.WidthMm,
                t.HeatSeconds,
                t.DrySeconds,
                t.OnlyHolder,
            }).ToListAsync(cancel),
            Rules = (await db.Rules.AsNoTracking().OrderBy(r => r.Name).ToListAsync(cancel))
                .Select(r => new { r.Name, Rules = JsonSerializer.Deserialize<JsonElement>(r.Document) }),
        };
    }

    private async Task Put(ZipArchive zip, Docket docket, CancellationToken cancel)
    {
        var folder = string.Create(CultureInfo.InvariantCulture, $"dockets/{docket.Number:0000} {Plain(docket.Name)}");
        var problem = "";
        try
        {
            if (await revisions.DesignOf(docket.CurrentRevisionId, cancel) is { } design)
                await Put(zip, $"{folder}/design.falz.json", FalzFile.Write(design), cancel);
        }
        catch (UnreadableFileException e)
        {
            // Said in its place; the rest is not held up by it.
            problem = $"The design could not be read: {e.Message}.";
        }

        var runs = await db.Runs.AsNoTracking().Include(r => r.Events).Where(r => r.DocketId == docket.Id).OrderBy(r => r.StartedAt).ToListAsync(cancel);
        await Put(zip, $"{folder}/docket.json", new
        {
            docket.Number,
            docket.Name,
            docket.Copies,
            docket.CreatedAt,
            docket.ChangedAt,
            docket.ArchivedAt,
            problem,
            History = (await revisions.History(docket, 10_000, cancel)).Select(h => new { h.At, By = h.ByName, h.What }),
            Runs = runs.Select(r => new
            {
                Sheet = r.Sheet + 1,
                r.StartedAt,
                r.EndedAt,
                State = r.State.ToString().ToLowerInvariant(),
                Events = r.Events.OrderBy(e => e.At).Select(e => new { e.At, e.Step, e.Text }),
            }),
        }, cancel);
        var names = new HashSet<string>(StringComparer.OrdinalIgnoreCase);
        foreach (var file in await db.SourceFiles.AsNoTracking().Where(f => f.DocketId == docket.Id).OrderBy(f => f.At).ToListAsync(cancel))
        {
            var (plain, n) = (Plain(file.Name), 1);
            while (!names.Add(plain)) plain = string.Create(CultureInfo.InvariantCulture, $"{++n} {Plain(file.Name)}");
            if (await db.Blobs.Where(b => b.Hash == file.Content).Select(b => b.Bytes).FirstOrDefaultAsync(cancel) is { } bytes)
                await Put(zip, $"{folder}/files/{plain}", bytes, cancel);
        }
    }

    /// <summary>A name that is one on every disk.</summary>
    private static string Plain(string name)
    {
        var plain = string.Concat(name.Select(c => char.IsControl(c) || char.IsSurrogate(c) || "\\/:*?\"<>|".Contains(c, StringComparison.Ordinal) ? '_' : c))
            .Trim(' ', '.');
        return plain.Length == 0 ? "untitled" : plain[..Math.Min(plain.Length, 80)].TrimEnd();
    }

    private static Task Put(ZipArchive zip, string name, object what, CancellationToken cancel) =>
        Put(zip, name, JsonSerializer.SerializeToUtf8Bytes(what, Json), cancel);

    private static async Task Put(ZipArchive zip, string name, byte[] bytes, CancellationToken cancel)
    {
        await using var entry = await zip.CreateEntry(name).OpenAsync(cancel);
        await entry.WriteAsync(bytes, cancel);
    }
}
