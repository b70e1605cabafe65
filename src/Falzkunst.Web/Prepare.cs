using Falzkunst.Core.Runs;
using Falzkunst.Store;
using Microsoft.AspNetCore.Identity;
using Microsoft.EntityFrameworkCore;

namespace Falzkunst.Web;

/// <summary>Brings the database up to date, and fills an empty one with the demo scenario. Both can be done again without harm.</summary>
public static class Prepare
{
    public const string DemoEmail = "vreni@murmeltier.example", DemoPassword = "fernblick hut";

    public static async Task Run(WebApplication app, bool demo)
    {
        await using var scope = app.Services.CreateAsyncScope();
        var services = scope.ServiceProvider;
        var db = services.GetRequiredService<FalzkunstContext>();
        await db.Database.MigrateAsync();
        await services.GetRequiredService<Revisions>().CountOld();
        if (!demo) return;
        var port = int.TryParse(app.Configuration["FALZKUNST_CUTTER_PORT"], out var given) ? given : 7440;
        if (await db.Studios.AnyAsync())
        {
            await Follow(db, port);
            return;
        }

        var studio = new Studio { Id = Guid.CreateVersion7(), Name = "Papierwerkstatt Murmeltier", LastDocketNumber = 40 };
        db.Studios.Add(studio);
        db.StudioId = studio.Id;
        await AddDrawer(db, studio.Id, port);
        var people = services.GetRequiredService<People>();
        foreach (var (name, email, isOwner) in new[] { ("Vreni Aumann", DemoEmail, true), ("Tobias Lechleitner", "tobias@murmeltier.example", false) })
        {
            var (account, fault) = await people.Make(studio.Id, isOwner, name, email, DemoPassword);
            if (account is null) throw new InvalidOperationException(fault);
        }

        var folder = app.Configuration["FALZKUNST_DEMO"] ?? Path.Combine(app.Environment.ContentRootPath, "..", "..", "demo");
        await AddDockets(services.GetRequiredService<Incoming>(), folder, Console.Error);
    }

    /// <summary>The dockets of the demo scenario. One that can't be made is left out, and it is said why.</summary>
    public static async Task AddDockets(Incoming incoming, string folder, TextWriter say)
    {
        foreach (var (file, name, copies) in new[]
        {
            ("fernblick-thank-you.svg", "Fernblick thank-you card", 12),
            ("lantern-vellum.svg", "Lantern on vellum", 6),
            ("room-key-tags.svg", "Room-key tags", 2),
            ("hut-badges.png", "Hut badges", 3),
            ("hut-sayings.svg", "Sayings of the hut", 1),
            ("gentian-window.svg", "Gentian window card", 4),
        })
        {
            var problem = "";
            try
            {
                (_, problem) = await incoming.NewDocket([new(file, await File.ReadAllBytesAsync(Path.Combine(folder, file)))], "Vreni Aumann",
                    CancellationToken.None, name, copies);
            }
            catch (Exception e) when (e is IOException or UnauthorizedAccessException)
            {
                problem = e.Message;
            }

            if (problem.Length > 0) await say.WriteLineAsync($"The demo docket “{name}” is left out: {problem}");
        }
    }

    /// <summary>The stand-ins listen where there was room this time; their machines follow.</summary>
    private static async Task Follow(FalzkunstContext db, int port)
    {
        foreach (var machine in await db.Machines.IgnoreQueryFilters().Where(m => m.RecordPort != null).ToListAsync())
        {
            var place = Machines.All.ToList().FindIndex(m => m.Name == machine.Name);
            if (place >= 0) (machine.Port, machine.RecordPort) = (port + 2 * place, port + 2 * place + 1);
        }

        await db.SaveChangesAsync();
    }

    /// <summary>Makes a link by which somebody whose password is lost gives himself a new one, and says it.</summary>
    /// <returns>Whether there is such an account.</returns>
    public static async Task<bool> NewPassword(IServiceProvider application, string email, TextWriter say)
    {
        await using var scope = application.CreateAsyncScope();
        if (await scope.ServiceProvider.GetRequiredService<UserManager<Account>>().FindByEmailAsync(email) is not { } account)
        {
            await say.WriteLineAsync($"Nobody signs in with {email} here. Nothing was changed.");
            return false;
        }

        var secret = await scope.ServiceProvider.GetRequiredService<People>().NewPassword(account, null);
        await say.WriteLineAsync($"With this link {account.FullName} can choose a new password, once, until tomorrow:\n"
            + PublicAddress.Of(application.GetRequiredService<IConfiguration>()) + "/enter/" + secret);
        return true;
    }

    /// <summary>The stock, machines and tools of the demo scenario.</summary>
    public static async Task AddDrawer(FalzkunstContext db, Guid studioId, int cutterPort)
    {
        (string Name, string Colour, double Gsm, double Thick, double W, double H, int Count)[] stocks =
        [
            ("Snow 220 g", "#fbfbf7", 220, 0.26, 210, 297, 20),
            ("Slate blue textured 270 g", "#5f7c95", 270, 0.34, 305, 305, 8),
            ("Pine green 220 g", "#2f5d46", 220, 0.26, 215.9, 279.4, 10),
            ("Ivory 300 g", "#f4ead2", 300, 0.36, 210, 297, 15),
            ("Vellum 100 g", "#e9e6dd", 100, 0.12, 210, 297, 10),
            ("Copper mirror card 250 g", "#b86842", 250, 0.3, 148, 210, 6),
            ("Photo matte 240 g", "#f6f6f6", 240, 0.25, 210, 297, 20),
            ("Copper foil", "#b4623a", 0, 0.02, 90, 60, 12),
        ];
        for (var i = 0; i < stocks.Length; i++)
        {
            var s = stocks[i];
            var id = Guid.CreateVersion7();
            db.Stocks.Add(new()
            {
                Id = id,
                StudioId = studioId,
                Name = s.Name,
                ColourHex = s.Colour,
                WeightGsm = s.Gsm,
                ThicknessMm = s.Thick,
                // Texture breaks fine details, and a blade frays its gaps.
                MinWidthMm = s.Name.Contains("textured", StringComparison.Ordinal) ? 1.2 : 0.8,
                MinGapMm = s.Name.Contains("textured", StringComparison.Ordinal) ? 0.8 : 0.5,
                Place = i,
                Kind = s.Gsm > 0 ? "paper" : "foil",
                Sheets = [new() { Id = Guid.CreateVersion7(), StockId = id, WidthMm = s.W, HeightMm = s.H, Count = s.Count, MarginMm = s.Gsm > 0 ? 5 : 0 }],
                Settings = s.Gsm == 0 ? [] : [new() { Id = Guid.CreateVersion7(), StockId = id, ToolKey = "knife", Passes = s.Gsm >= 300 ? 2
                    : 1, ForceGrams = 80 + s.Gsm / 2, SpeedMmS = 0, }],
            });
        }

        foreach (var (place, m) in Machines.All.Index())
            db.Machines.Add(Drawer.RowOf(m, studioId, cutterPort + 2 * place, cutterPort + 2 * place + 1, place));
        AddTools(db, studioId);
        await db.SaveChangesAsync();
    }

    /// <summary>The tools that every workshop has.</summary>
    public static void AddTools(FalzkunstContext db, Guid studioId)
    {
        foreach (var t in Tool.Standard) db.Tools.Add(Drawer.RowOf(t, studioId));
    }
}
