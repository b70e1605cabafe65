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
    /// <summary>The studio whose rows are seen; empty sees none of any studio's.</summary>
    public Guid StudioId { get; set; }

    public DbSet<Studio> Studios => Set<Studio>();

    public DbSet<Docket> Dockets => Set<Docket>();

    public DbSet<Revision> Revisions => Set<Revision>();

    public DbSet<SourceFile> SourceFiles => Set<SourceFile>();

    public DbSet<RulesRow> Rules => Set<RulesRow>();

    public DbSet<StockRow> Stocks => Set<StockRow>();

    public DbSet<MachineRow> Machines => Set<MachineRow>();

    public DbSet<ToolRow> Tools => Set<ToolRow>();

    public DbSet<LayoutRow> Layouts => Set<LayoutRow>();

    public DbSet<RunRow> Runs => Set<RunRow>();

    public DbSet<RunEvent> RunEvents => Set<RunEvent>();

    protected override void OnModelCreating(ModelBuilder builder)
    {
        base.OnModelCreating(builder);
        builder.Entity<Studio>().Property(s => s.FoldSetbackMm).HasDefaultValue(Core.Cards.Folds.DefaultSetbackMm);
        Scoped<Docket>(builder).HasIndex(d => new { d.StudioId, d.Number }).IsUnique();
        builder.Entity<Docket>().Property(d => d.Version).IsRowVersion();
        Scoped<Revision>(builder).HasIndex(r => r.DocketId);
        Scoped<SourceFile>(builder).HasIndex(f => f.DocketId);
        Scoped<RulesRow>(builder).HasIndex(r => new { r.StudioId, r.Name }).IsUnique();
        var stock = Scoped<StockRow>(builder);
        stock.HasMany(s => s.Sheets).WithOne().HasForeignKey(s => s.StockId);
        stock.HasMany(s => s.Settings).WithOne().HasForeignKey(s => s.StockId);
        Scoped<MachineRow>(builder);
        Scoped<ToolRow>(builder);
        Scoped<LayoutRow>(builder).HasIndex(l => new { l.DocketId, l.At });
        var run = Scoped<RunRow>(builder);
        run.HasIndex(r => new { r.DocketId, r.StartedAt });
        run.HasMany(r => r.Events).WithOne().HasForeignKey(e => e.RunId);
        builder.Entity<RunEvent>().HasIndex(e => e.RunId);
        foreach (var owned in new[] { typeof(Revision), typeof(SourceFile), typeof(LayoutRow), typeof(RunRow) })
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
