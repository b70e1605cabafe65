using Microsoft.AspNetCore.Identity;
using Microsoft.AspNetCore.Identity.EntityFrameworkCore;
using Microsoft.EntityFrameworkCore;
using Microsoft.EntityFrameworkCore.Design;

namespace Falzkunst.Store;

/// <summary>
/// The database. A studio is set by whoever opens it; what belongs to another studio is then not found, whatever is asked for.
/// </summary>
public sealed class FalzkunstContext(DbContextOptions<FalzkunstContext> options) : IdentityDbContext<Account, IdentityRole<Guid>, Guid>(options)
{
    internal const string OneRunPerMachine = "IX_Runs_OnePerMachine";

    /// <summary>The studio whose rows are seen; empty sees none of any studio's.</summary>
    public Guid StudioId { get; set; }

    public DbSet<Studio> Studios => Set<Studio>();

    public DbSet<EntryLink> EntryLinks => Set<EntryLink>();

    public DbSet<Docket> Dockets => Set<Docket>();

    public DbSet<Revision> Revisions => Set<Revision>();

    public DbSet<BlobRow> Blobs => Set<BlobRow>();

    public DbSet<BlobUse> BlobUses => Set<BlobUse>();

    public DbSet<SourceFile> SourceFiles => Set<SourceFile>();

    public DbSet<RulesRow> Rules => Set<RulesRow>();

    public DbSet<KeptRow> Kept => Set<KeptRow>();

    public DbSet<StockRow> Stocks => Set<StockRow>();

    public DbSet<MachineRow> Machines => Set<MachineRow>();

    public DbSet<ToolRow> Tools => Set<ToolRow>();
    public DbSet<SettingPastRow> SettingPasts => Set<SettingPastRow>();

    public DbSet<LayoutRow> Layouts => Set<LayoutRow>();

    public DbSet<PaperRow> Papers => Set<PaperRow>();

    public DbSet<PressRow> Press => Set<PressRow>();

    public DbSet<CalibrationRow> Calibrations => Set<CalibrationRow>();

    public DbSet<RunPlanRow> RunPlans => Set<RunPlanRow>();

    public DbSet<RunRow> Runs => Set<RunRow>();

    public DbSet<RunEvent> RunEvents => Set<RunEvent>();

    protected override void OnModelCreating(ModelBuilder builder)
    {
        base.OnModelCreating(builder);
        builder.Entity<Studio>().Property(s => s.FoldSetbackMm).HasDefaultValue(Core.Cards.Folds.DefaultSetback.Mm);
        builder.Entity<Account>().HasOne<Studio>().WithMany().HasForeignKey(a => a.StudioId).OnDelete(DeleteBehavior.Cascade);
        var entry = Scoped<EntryLink>(builder);
        entry.HasIndex(e => e.Hash).IsUnique();
        entry.HasOne<Account>().WithMany().HasForeignKey(e => e.AccountId).OnDelete(DeleteBehavior.Cascade);
        entry.HasOne<Account>().WithMany().HasForeignKey(e => e.MadeById).OnDelete(DeleteBehavior.Cascade);
        var docket = Scoped<Docket>(builder);
        docket.HasIndex(d => new { d.StudioId, d.Number }).IsUnique();
        docket.Property(d => d.RunAs).HasDefaultValue("");
        docket.Ignore(d => d.Wishes);
        docket.HasQueryFilter(d => d.StudioId == StudioId && d.DeletedAt == null);
        docket.HasOne<Docket>().WithMany().HasForeignKey(d => d.LaidWithId).OnDelete(DeleteBehavior.SetNull);
        var revision = Scoped<Revision>(builder);
        revision.HasIndex(r => new { r.DocketId, r.At });
        revision.HasIndex(r => r.ParentId);
        revision.Property(r => r.Seal).HasDefaultValue(Array.Empty<byte>());
        revision.Property(r => r.Edit).HasDefaultValue(Array.Empty<byte>());
        revision.Property(r => r.Kind).HasDefaultValue("");
        revision.Property(r => r.Gesture).HasDefaultValue("");
        revision.Property(r => r.Pieces).HasDefaultValue(-1).HasSentinel(-1);
        Scoped<BlobRow>(builder).HasKey(b => new { b.StudioId, b.Hash });
        var use = builder.Entity<BlobUse>();
        use.HasKey(u => new { u.DocketId, u.Hash });
        use.HasIndex(u => new { u.StudioId, u.Hash });
        use.HasOne<BlobRow>().WithMany().HasForeignKey(u => new { u.StudioId, u.Hash }).OnDelete(DeleteBehavior.Restrict);
        use.HasOne<Docket>().WithMany().HasForeignKey(u => u.DocketId).OnDelete(DeleteBehavior.Cascade);
        use.HasQueryFilter(u => u.StudioId == StudioId);
        Scoped<SourceFile>(builder).HasIndex(f => new { f.DocketId, f.At });
        Scoped<RulesRow>(builder).HasIndex(r => new { r.StudioId, r.Name }).IsUnique();
        Scoped<KeptRow>(builder).HasIndex(k => new { k.StudioId, k.At });
        var stock = Scoped<StockRow>(builder);
        stock.HasMany(s => s.Sheets).WithOne().HasForeignKey(s => s.StockId);
        var sheet = builder.Entity<SheetRow>();
        sheet.Property(s => s.Left).HasDefaultValue("");
        sheet.Property(s => s.Grain).HasDefaultValue("");
        sheet.HasIndex(s => s.LeftByRunId).IsUnique();
        stock.HasMany(s => s.Settings).WithOne().HasForeignKey(s => s.StockId);
        var machine = Scoped<MachineRow>(builder);
        machine.Property(m => m.ReadsMarks).HasDefaultValue(true).HasSentinel(true);
        machine.Property(m => m.StepsPerMm).HasDefaultValue(Core.Runs.Plotter.UnitsPerMm);
        var tool = Scoped<ToolRow>(builder);
        tool.HasIndex(t => new { t.StudioId, t.Pen }).IsUnique();
        tool.HasIndex(t => new { t.StudioId, t.Key }).IsUnique();
        var past = Scoped<SettingPastRow>(builder);
        past.HasIndex(p => new { p.StockId, p.ToolKey, p.At });
        past.HasOne<StockRow>().WithMany().HasForeignKey(p => p.StockId).OnDelete(DeleteBehavior.Cascade);
        var layout = Scoped<LayoutRow>(builder);
        layout.HasIndex(l => new { l.DocketId, l.At });
        layout.Property(l => l.Best).HasDefaultValue("");
        layout.Property(l => l.BestDocument).HasDefaultValue("");
        layout.Property(l => l.What).HasDefaultValue("");
        layout.Property(l => l.CutBefore).HasDefaultValueSql("'{}'");
        layout.HasIndex(l => l.ParentId);
        layout.OwnsMany(l => l.With).ToJson();
        var paper = Scoped<PaperRow>(builder);
        paper.HasIndex(p => new { p.LayoutId, p.Sheet, p.At });
        paper.HasOne<LayoutRow>().WithMany().HasForeignKey(p => p.LayoutId).OnDelete(DeleteBehavior.Cascade);
        var calibration = Scoped<CalibrationRow>(builder);
        calibration.HasIndex(c => new { c.MachineId, c.Printer, c.At });
        calibration.HasOne<MachineRow>().WithMany().HasForeignKey(c => c.MachineId).OnDelete(DeleteBehavior.Cascade);
        var press = Scoped<PressRow>(builder);
        press.HasIndex(p => new { p.DocketId, p.At });
        press.HasOne<MachineRow>().WithMany().HasForeignKey(p => p.MachineId).OnDelete(DeleteBehavior.Cascade);
        press.HasOne<LayoutRow>().WithMany().HasForeignKey(p => p.LayoutId).OnDelete(DeleteBehavior.Cascade);
        var run = Scoped<RunRow>(builder);
        run.HasIndex(r => new { r.DocketId, r.StartedAt });
        run.HasIndex(r => new { r.LayoutId, r.State });
        // One run per machine: whoever comes second is told so by the database.
        run.HasIndex(r => r.MachineId).IsUnique().HasDatabaseName(OneRunPerMachine)
            .HasFilter($"\"State\" IN ({string.Join(", ", RunRow.Active.Select(s => (int)s))})");
        run.HasIndex(r => r.State);
        run.Property(r => r.Lies).HasDefaultValueSql("'{}'");
        run.Property(r => r.FoilLies).HasDefaultValueSql("'{}'");
        run.HasOne<RunPlanRow>().WithMany().HasForeignKey(r => r.PlanId).OnDelete(DeleteBehavior.NoAction);
        run.HasOne<RunPlanRow>().WithMany().HasForeignKey(r => r.WholeId).OnDelete(DeleteBehavior.NoAction);
        Scoped<RunPlanRow>(builder).HasIndex(p => new { p.LayoutId, p.MachineId, p.MadeFrom }).IsUnique();
        run.HasIndex(r => r.PaperId);
        run.HasOne<RunRow>().WithMany().HasForeignKey(r => r.AfterId).OnDelete(DeleteBehavior.SetNull);
        run.HasMany(r => r.Events).WithOne().HasForeignKey(e => e.RunId);
        builder.Entity<RunEvent>().HasIndex(e => e.RunId);
        Type[] all = [typeof(Revision), typeof(SourceFile), typeof(LayoutRow), typeof(PaperRow), typeof(PressRow), typeof(RunPlanRow), typeof(RunRow)];
        foreach (var owned in all)
            builder.Entity(owned).HasOne(typeof(Docket)).WithMany().HasForeignKey("DocketId").OnDelete(DeleteBehavior.Cascade);
    }

    private Microsoft.EntityFrameworkCore.Metadata.Builders.EntityTypeBuilder<T> Scoped<T>(ModelBuilder builder)
        where T : class, IOfStudio
    {
        var entity = builder.Entity<T>();
        entity.HasQueryFilter(e => e.StudioId == StudioId);
        entity.HasOne<Studio>().WithMany().HasForeignKey(nameof(IOfStudio.StudioId)).OnDelete(DeleteBehavior.Cascade);
        return entity;
    }
}

/// <summary>Lets the migrations tool make a context without the web application.</summary>
public sealed class DesignTimeFactory : IDesignTimeDbContextFactory<FalzkunstContext>
{
    public FalzkunstContext CreateDbContext(string[] args) =>
        new(new DbContextOptionsBuilder<FalzkunstContext>().UseNpgsql("Host=127.0.0.1;Database=falzkunst").Options);
}
