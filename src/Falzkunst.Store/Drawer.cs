using Falzkunst.Core.Cards;
using Falzkunst.Core.Reading;
using Falzkunst.Core.Runs;
using Microsoft.EntityFrameworkCore;

namespace Falzkunst.Store;

/// <summary>The studio's stocks, machines and settings, as the core knows them.</summary>
public sealed class Drawer(FalzkunstContext db)
{
    /// <summary>The papers that are not retired; foil is no stock that a piece could be cut from.</summary>
    public async Task<List<Stock>> Stocks(CancellationToken cancel = default) =>
        [.. (await db.Stocks.Where(s => s.Kind == "paper" && s.RetiredAt == null).Include(s => s.Sheets).OrderBy(s => s.Place).AsNoTracking()
            .ToListAsync(cancel)).Select(ToCore)];

    /// <summary>The foil that is there: what it is called, and how much there is of each size.</summary>
    public async Task<List<Core.Runs.Foil>> Foils(CancellationToken cancel = default) =>
        [.. (await db.Stocks.Where(s => s.Kind == "foil" && s.RetiredAt == null).Include(s => s.Sheets).OrderBy(s => s.Place).AsNoTracking()
            .ToListAsync(cancel)).SelectMany(s => s.Sheets.Select(q => new Core.Runs.Foil(s.Name, ToCore(q))))];

    public static Stock ToCore(StockRow s) => new(s.Id.ToString("N"), s.Name, Colour.FromHex(s.ColourHex), s.WeightGsm, Length.FromMm(s.ThicknessMm),
        // Whole sheets first; an off-cut that was used is none any more.
        [.. s.Sheets.Where(q => q.LeftByRunId is null || q.Count > 0).OrderBy(q => q.LeftByRunId is not null).ThenBy(q => q.Id).Select(ToCore)])
    {
        Bears = new(Length.FromMm(s.MinWidthMm), Length.FromMm(s.MinGapMm)),
    };

    /// <summary>Takes the margins of some stocks' sheets down to a width; narrower ones stay.</summary>
    public Task<int> SetMargins(IReadOnlyList<string> stockIds, Length margin, CancellationToken cancel = default)
    {
        var ids = stockIds.Select(Guid.Parse).ToList();
        return db.Set<SheetRow>().Where(s => ids.Contains(s.StockId) && s.MarginMm > margin.Mm && db.Stocks.Any(t => t.Id == s.StockId))
            .ExecuteUpdateAsync(u => u.SetProperty(s => s.MarginMm, margin.Mm), cancel);
    }

    public async Task<List<MaterialSetting>> Settings(CancellationToken cancel = default) =>
        [.. (await db.Stocks.Include(s => s.Settings).AsNoTracking().ToListAsync(cancel))
            .SelectMany(s => s.Settings.Select(m => m.ToCore()))];

    public async Task<List<Tool>> Tools(CancellationToken cancel = default) =>
        [.. (await db.Tools.OrderBy(t => t.Pen).AsNoTracking().ToListAsync(cancel)).Select(ToCore).OfType<Tool>()];

    /// <summary>How far this studio's folds stop short of the edge.</summary>
    public async Task<Length> FoldSetback(CancellationToken cancel = default) =>
        (await db.Studios.Where(s => s.Id == db.StudioId).Select(s => (double?)s.FoldSetbackMm).FirstOrDefaultAsync(cancel) is { } mm ? Length.FromMm(mm)
            : Folds.DefaultSetback);

    public Task<List<MachineRow>> Machines(CancellationToken cancel = default) => db.Machines.OrderBy(m => m.Place).ToListAsync(cancel);

    public static SheetSize ToCore(SheetRow q) =>
        new(Length.FromMm(q.WidthMm), Length.FromMm(q.HeightMm), q.Count, Length.FromMm(q.MarginMm))
        {
            Price = q.Price,
            Grain = Enum.TryParse<Grain>(q.Grain, true, out var grain) ? grain : Grain.Unknown,
            IsOffCut = q.LeftByRunId is not null,
            Left = q.Left.Length > 0 ? q.Left : null,
        };

    /// <summary>A grain as it is kept.</summary>
    public static string WordOf(Grain grain) => grain == Grain.Unknown ? "" : grain.ToString().ToLowerInvariant();

    /// <summary>Puts what a run left of its sheet into the drawer; not a second time.</summary>
    public async Task Keep(string stockId, Guid runId, SheetSize left, CancellationToken cancel = default)
    {
        var id = Guid.Parse(stockId);
        if (!await db.Stocks.AnyAsync(s => s.Id == id, cancel) || await db.Set<SheetRow>().AnyAsync(s => s.LeftByRunId == runId, cancel)) return;
        db.Add(new SheetRow
        {
            Id = Guid.CreateVersion7(),
            StockId = id,
            WidthMm = left.Width.Mm,
            HeightMm = left.Height.Mm,
            Count = 1,
            MarginMm = left.Margin.Mm,
            LeftByRunId = runId,
            Grain = WordOf(left.Grain),
            Left = left.Left ?? "",
        });
        try
        {
            await db.SaveChangesAsync(cancel);
        }
        catch (DbUpdateException e) when (Database.IsTaken(e))
        {
            // Asked twice in the same moment: it is there.
            db.ChangeTracker.Clear();
        }
    }

    /// <summary>Takes the sheet out of the drawer that a run has worked on, once. One that nobody counted is not missed.</summary>
    /// <param name="isWorked">Whether anything was done on it; a test card leaves room for what it was made for.</param>
    internal static async Task Take(FalzkunstContext db, Guid runId, bool isWorked)
    {
        var run = await db.Runs.IgnoreQueryFilters().AsNoTracking().FirstAsync(r => r.Id == runId);
        if (!isWorked || run.IsTouchUp || await db.Runs.IgnoreQueryFilters().AnyAsync(r => r.PaperId == run.PaperId && r.TookSheet)) return;
        await db.Runs.IgnoreQueryFilters().Where(r => r.Id == runId).ExecuteUpdateAsync(u => u.SetProperty(r => r.TookSheet, true));
        var document = await db.Layouts.IgnoreQueryFilters().Where(l => l.Id == run.LayoutId).Select(l => l.Document).FirstOrDefaultAsync();
        if (LayoutJob.Read(document)?.Sheets.ElementAtOrDefault(run.Sheet) is not { Size: var size } sheet
            || !Guid.TryParse(sheet.StockId, out var stock)) return;
        var piles = await db.Set<SheetRow>().AsNoTracking().Where(s => s.StockId == stock && s.Count > 0).ToListAsync();
        if (piles.Find(s => ToCore(s).IsLike(size)) is not { } pile) return;
        await db.Set<SheetRow>().Where(s => s.Id == pile.Id && s.Count > 0).ExecuteUpdateAsync(u => u.SetProperty(s => s.Count, s => s.Count - 1));
    }

    /// <summary>Null where its operation is none that a tool does.</summary>
    public static Tool? ToCore(ToolRow t) => Operations.TryRead(t.Operation, out var operation) && operation.UsesTool()
        ? new(t.Key, t.Name, operation, t.Pen, t.SpeedMmS)
        {
            Swivel = Length.FromMm(t.SwivelMm),
            Width = Length.FromMm(t.WidthMm),
            HeatSeconds = t.HeatSeconds,
            DrySeconds = t.DrySeconds,
            OnlyHolder = t.OnlyHolder,
        } : null;

    /// <summary>A tool as it is kept.</summary>
    public static ToolRow RowOf(Tool t, Guid studioId) => new()
    {
        Id = Guid.CreateVersion7(),
        StudioId = studioId,
        Key = t.Id,
        Name = t.Name,
        Operation = t.Operation.Word(),
        Pen = t.Pen,
        SpeedMmS = t.SpeedMmS,
        SwivelMm = t.Swivel.Mm,
        WidthMm = t.Width.Mm,
        HeatSeconds = (int)t.HeatSeconds,
        DrySeconds = (int)t.DrySeconds,
        OnlyHolder = t.OnlyHolder,
    };

    public static Machine ToCore(MachineRow m) =>
        new(m.Id.ToString("N"), m.Name, Length.FromMm(m.WidthMm), Length.FromMm(m.HeightMm), m.Holders, m.SpeedMmS, m.TravelMmS, m.AccelerationMmS2,
            m.LiftSeconds)
        {
            ReadsMarks = m.ReadsMarks,
            IsRoll = m.IsRoll,
            Language = m.Language,
            MostForceGrams = m.MostForceGrams,
            ForceLevels = m.ForceLevels,
            StepsPerMm = m.StepsPerMm,
        };

    /// <summary>A machine as it is kept.</summary>
    /// <param name="port">Where it listens.</param>
    /// <param name="recordPort">Where it can be asked what it did; null for one that can't tell.</param>
    public static MachineRow RowOf(Machine m, Guid studioId, int port, int? recordPort, int place) => new()
    {
        Id = Guid.CreateVersion7(),
        StudioId = studioId,
        Name = m.Name,
        WidthMm = m.Width.Mm,
        HeightMm = m.Height.Mm,
        Holders = m.Holders,
        SpeedMmS = m.SpeedMmS,
        TravelMmS = m.TravelMmS,
        AccelerationMmS2 = m.AccelerationMmS2,
        LiftSeconds = m.LiftSeconds,
        ReadsMarks = m.ReadsMarks,
        IsRoll = m.IsRoll,
        Language = m.Language,
        MostForceGrams = m.MostForceGrams,
        ForceLevels = m.ForceLevels,
        StepsPerMm = m.StepsPerMm,
        Port = port,
        RecordPort = recordPort,
        Place = place,
    };
}
