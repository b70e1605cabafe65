using System.Net;
using System.Net.Http.Headers;
using System.Text;
using System.Text.RegularExpressions;
using Falzkunst.StandIns;
using Falzkunst.Store;
using Microsoft.EntityFrameworkCore;
using Microsoft.Extensions.DependencyInjection;

namespace Falzkunst.Web.Tests;

/// <summary>From a picture to pieces that are cut on their print, with the stand-ins at the other end of a real connection.</summary>
[Collection(Studio.Name)]
public sealed class PrintTests(Studio studio)
{
    private static readonly string Badges = Path.Combine(AppContext.BaseDirectory, "../../../../../../demo/hut-badges.png");

    private async Task<(Visitor Visitor, string Root)> Chosen(string marks = "squares")
    {
        var v = await studio.SignIn();
        await v.Get("/dockets");
        await v.Bring("hut-badges.png", await File.ReadAllBytesAsync(Badges));
        var root = Regex.Replace(v.Url, @"(/dockets/\d+)/.*", "$1");
        await v.Get(root + "/print");
        Assert.Contains("Print 9 pieces, then cut on the print", v.Text);
        await v.Post(root + "/print?handler=Choose", ("marks", marks));
        await v.WaitFor(root + "/print", "Save the print file");
        return (v, root);
    }

    private static string PdfAddress(Visitor v) => Regex.Match(v.Page, "href=\"([^\"]+print\\.pdf)\"").Groups[1].Value;

    private static Task Bring(Visitor v, string root, byte[] picture, string dpi) =>
        BringTo(v, root + "/print?handler=Picture", picture, ("sheet", "1"), ("by", "scan"), ("dpi", dpi));

    private static async Task BringTo(Visitor v, string address, byte[] picture, params (string Name, string Value)[] fields)
    {
        var form = new MultipartFormDataContent { { new StringContent(v.Token), "__RequestVerificationToken" }, { new StringContent(v.BasedOn), "basedOn" } };
        foreach (var (name, value) in fields) form.Add(new StringContent(value), name);
        var file = new ByteArrayContent(picture);
        file.Headers.ContentType = new MediaTypeHeaderValue("image/png");
        form.Add(file, "file", "scan.png");
        await v.Send(address, form);
    }

    /// <summary>Runs the first sheet, which was printed, to its end.</summary>
    private static async Task CutFirst(Visitor v, string root)
    {
        await v.Get(root + "/run");
        await v.Post(root + "/run?handler=Start", ("sheet", "0"));
        await v.WaitFor(root + "/run?sheet=0", "Put printed sheet 1");
        (string, string)[] shown = [.. new[] { "run", "asked" }.Select(n => (n, Regex.Match(v.Page, $"name=\"{n}\" value=\"([^\"]+)\"").Groups[1].Value))];
        await v.Post(root + "/run?handler=Confirm", shown);
        await v.WaitFor(root + "/run?sheet=0", "Finished.");
    }

    [Fact]
    public async Task From_a_picture_to_pieces_that_are_cut_on_their_print()
    {
        var (v, root) = await Chosen();
        await v.Post(root + "/print?handler=Try", ("sheet", "1"));
        await v.WaitFor(root + "/print", "measured at 9 pieces");
        Assert.Contains("The cut lies on the print, and no white would be left.", v.Text);
        Assert.Contains("measured at 9 pieces", v.Text);
        await CutFirst(v, root);
        Assert.Contains("Done as planned", v.Text);
        // What was cut does not lie where the sheet was planned: the print was off, and the cut went after it.
        Assert.Contains("Marks read: the print lies", v.Text);
        // A change makes the sheets out of date, and says so.
        await v.Get(root + "/print");
        await v.Post(root + "/print?handler=Set", ("bleed", "3 mm"), ("inset", "8 mm"));
        await v.WaitFor(root + "/print", "Save the print file");
        Assert.Contains("3 mm", v.Text);
        Assert.DoesNotContain("The cut lies on the print", v.Text);
    }

    [Fact]
    public async Task A_scan_of_a_real_sheet_is_read_or_refused_with_what_to_do()
    {
        var (v, root) = await Chosen("brackets");
        var pdf = await v.Http.GetByteArrayAsync(PdfAddress(v));
        Assert.Equal("%PDF", Encoding.ASCII.GetString(pdf, 0, 4));
        async Task<byte[]> Paper(PrintErrors errors) => (await Printer.Print(pdf, 1, errors, 3, 300, true)).Picture.Png();
        await Bring(v, root, await Paper(new() { LaidTurn = 180 }), "300");
        Assert.Contains("The sheet lies upside down; turn it by half.", v.Text);
        await Bring(v, root, await Paper(new() { OffsetX = 1.5, Turn = 0.7, StretchY = 0.004, Noise = 3 }), "300");
        Assert.Contains("no white would be left", v.Text);
        await Bring(v, root, await Paper(new()), "");
        Assert.Contains("does not say how many pixels are in an inch", v.Text);
        await Bring(v, root, Encoding.ASCII.GetBytes("no picture"), "300");
        Assert.Contains("could not be read: the picture is damaged", v.Text);
        await Bring(v, root, [], "300");
        Assert.Contains("Choose a picture of the printed sheet first", v.Text);
    }

    [Fact]
    public async Task Settings_that_can_not_be_are_said_and_change_nothing()
    {
        var (v, root) = await Chosen("dots");
        foreach (var (bleed, inset, says) in new[] { ("-1 mm", "8 mm", "A bleed is 0 to 20 mm."), ("wide", "8 mm", "wide"), ("2 mm", "300 mm",
            "Marks stand"), })
        {
            await v.Post(root + "/print?handler=Set", ("bleed", bleed), ("inset", inset));
            Assert.Contains(says, v.Text);
        }

        await v.Post(root + "/print?handler=Choose", ("marks", "stars"));
        Assert.Contains("Marks are brackets, squares or dots.", v.Text);
        var pdf = PdfAddress(v);
        await v.Get(Regex.Replace(pdf, "print\\.pdf", "sheet-1.png?dpi=9"));
        Assert.Equal(HttpStatusCode.UnprocessableEntity, v.Status);
        await v.Get(Regex.Replace(pdf, "print\\.pdf", "sheet-7.png"));
        Assert.Equal(HttpStatusCode.NotFound, v.Status);
        var stranger = await studio.SignIn(Studio.Stranger);
        await stranger.Get(pdf);
        Assert.Equal(HttpStatusCode.NotFound, stranger.Status);
    }

    /// <summary>What is printed is work of its own: it can be stopped, a second one waits for the first, and one that was interrupted goes on or says
    /// so.</summary>
    [Fact]
    public async Task What_is_printed_can_be_stopped_and_survives()
    {
        var (v, root) = await Chosen();
        await using var scope = studio.Services.CreateAsyncScope();
        var (db, job) = (scope.ServiceProvider.GetRequiredService<FalzkunstContext>(), scope.ServiceProvider.GetRequiredService<PressJob>());
        var number = int.Parse(root.Split('/')[^1], System.Globalization.CultureInfo.InvariantCulture);
        var docket = await db.Dockets.IgnoreQueryFilters().AsNoTracking().FirstAsync(d => d.Number == number);
        db.StudioId = docket.StudioId;
        var layout = await LayoutJob.Newest(db, docket.Id).FirstAsync();
        var machine = await db.Machines.FirstAsync(m => m.Place == 0);
        async Task<PressRow> After(WorkState state, bool stop, int done, params int[] sheets)
        {
            var row = new PressRow { Id = Guid.CreateVersion7(), StudioId = docket.StudioId, DocketId = docket.Id, LayoutId = layout.Id };
            (row.MachineId, row.Sheets, row.State, row.StopAsked, row.Done) = (machine.Id, sheets, state, stop, done);
            row.At = row.SeenAt = DateTimeOffset.UtcNow;
            db.Press.Add(row);
            await db.SaveChangesAsync();
            if (state == WorkState.Waiting)
            {
                await v.Post(root + "/print?handler=Try", ("sheet", "1"));
                Assert.Contains("Something is printed beside Kammer 30 already", v.Text);
                await v.Get(root + "/print");
                Assert.Contains("Stop, keep what is read", v.Text);
            }

            await job.Work(docket.StudioId, row.Id, default);
            return await db.Press.AsNoTracking().FirstAsync(p => p.Id == row.Id);
        }

        Assert.Equal(WorkState.Stopped, (await After(WorkState.Waiting, true, 0, 1)).State);
        // The first was done before the application went down; the second is done now.
        Assert.True(await After(WorkState.Working, false, 1, 1, 1) is { State: WorkState.Done, Done: 2, Text: "" });
        Assert.True(await After(WorkState.Working, false, 0) is { State: WorkState.Failed, Text: ['T', 'h', 'e', ' ', 'c', ..] });
        Assert.True(await After(WorkState.Working, false, 0, 99) is { State: WorkState.Failed });
    }

    /// <summary>One page finds out where a machine's tool comes down; after that, what is cut on a print is corrected by it.</summary>
    [Fact]
    public async Task A_machine_is_calibrated_by_its_page_by_a_scan_and_by_typing()
    {
        var (v, root) = await Chosen("dots");
        Assert.Contains("not done yet", v.Text);
        await v.Post(root + "/print?handler=Printer", ("printer", "Hut printer"));
        // Nobody cuts with what is in by chance.
        await v.Get(root + "/run");
        await v.Post(root + "/run?handler=Forget");
        await v.Get(root + "/print");
        await v.Post(root + "/print?handler=Calibrate", ("print", "true"));
        Assert.Contains("The page is cut with it.", v.Text);
        await v.Post(root + "/print?handler=Calibrate", ("print", "true"), ("knife", "true"));
        await v.WaitFor(root + "/print", "is corrected by that");
        // The stand-in's tool is off by 0.3 and -0.2 mm.
        var found = Regex.Match(v.Text, @"cuts 0\.([0-9]+) mm too far right and 0\.([0-9]+) mm too far up");
        Assert.True(found.Success, v.Text);
        Assert.InRange(double.Parse("0." + found.Groups[1].Value), 0.26, 0.34);
        Assert.InRange(double.Parse("0." + found.Groups[2].Value), 0.16, 0.24);
        Assert.Contains("of today", v.Text);
        await v.Post(root + "/print?handler=Try", ("sheet", "1"));
        await v.WaitFor(root + "/print", "measured at");
        await CutFirst(v, root);
        Assert.Contains(", as calibrated", v.Text);

        await v.Get(root + "/print");
        var page = await v.Http.GetByteArrayAsync(Regex.Replace(PdfAddress(v), "print\\.pdf", "calibration.pdf"));
        var paper = await Printer.Print(page, 1, new() { Turn = 0.4 }, 3, 300, false);
        await BringTo(v, root + "/print?handler=CalibrationScan", paper.Picture.Png(), ("dpi", "300"));
        Assert.Contains("The cuts can't be seen", v.Text);
        await BringTo(v, root + "/print?handler=CalibrationScan", paper.Picture.Png());
        Assert.Contains("does not say how many pixels are in an inch", v.Text);
        foreach (var (across, ruler, says) in new[] { ("5", "100 mm", "holder"), ("0", "94 mm", "97 to 103 mm"), ("far", "100 mm", "far"),
            ("+0.25", "100.5 mm", "+0.25 mm across"), })
        {
            await v.Post(root + "/print?handler=Calibrated", ("across", across), ("along", "-0.1"), ("rulerAcross", ruler), ("rulerAlong", "100 mm"));
            Assert.Contains(says, v.Text);
        }

        Assert.Contains("100.5 mm across", v.Text);
        // Another printer is another matter.
        await v.Post(root + "/print?handler=Printer", ("printer", ""));
        Assert.DoesNotContain("+0.25 mm across", v.Text);
    }

    /// <summary>Patterns, own pictures, tiles that are kept for other cards, ink; several pieces as one picture; and what would save a sheet.</summary>
    [Fact]
    public async Task Pieces_are_filled_and_printed_together()
    {
        var v = await studio.SignIn();
        await v.Get("/dockets");
        await v.Bring("two.svg", Encoding.UTF8.GetBytes("<svg xmlns='http://www.w3.org/2000/svg' width='90mm' height='90mm' viewBox='0 0 90 90'>"
            + "<rect x='5' y='5' width='80' height='80' fill='#fbf8f2'/><circle cx='45' cy='45' r='20' fill='#0f5c6b'/></svg>"));
        var root = Regex.Replace(v.Url, @"(/dockets/\d+)/.*", "$1");
        await v.Get(root + "/build");
        var (below, above) = (v.Id('p'), v.Id('p', 1));
        (string, string)[] colours = [("figure", "#aa3311"), ("ground", "#ffffff")];
        await v.Post($"{root}/build?handler=Pattern", [("ids", below), ("kind", "Stripes"), ("tile", "8"), .. colours]);
        await v.Get($"{root}/build?piece={below}");
        Assert.Contains("printed on it Stripes", v.Text);
        Assert.Equal("#aa3311", await v.Http.GetStringAsync($"{root}/build?handler=Colour&x=42&y=10"));
        Assert.Equal("#ffffff", await v.Http.GetStringAsync($"{root}/build?handler=Colour&x=43&y=10"));
        var art = Regex.Match(v.Page, "line=(a[0-9]+)").Groups[1].Value;
        await v.Get($"{root}/build?line={art}");
        Assert.Contains("a tile is 8 × 8 mm", v.Text);
        await v.Post($"{root}/build?line={art}&handler=KeepTile", ("id", art), ("name", "Hut stripes"));
        Assert.Contains("is kept", v.Text);
        foreach (var (kind, tile, figure, says) in new[] { ("Dots", "1", "#000000", "A tile is 2 mm"), ("Dots", "8", "red", "#rrggbb") })
        {
            await v.Post($"{root}/build?handler=Pattern", ("ids", above), ("kind", kind), ("tile", tile), ("figure", figure), ("ground", "#ffffff"));
            Assert.Contains(says, v.Text);
        }

        await BringTo(v, $"{root}/build?handler=Picture", Encoding.ASCII.GetBytes("none"), ("ids", above), ("once", "true"));
        Assert.Contains("no picture that can be read", v.Text);
        await BringTo(v, $"{root}/build?handler=Picture", await File.ReadAllBytesAsync(Badges), ("ids", above), ("once", "true"));
        await v.Get($"{root}/build?piece={above}");
        Assert.Contains("printed on it Picture", v.Text);
        var kept = Regex.Match(v.Page, "name=\"kept\" value=\"([0-9a-f-]+)\" title=\"Hut stripes").Groups[1].Value;
        Assert.Equal("image/png", (await v.Http.GetAsync($"/shelf/{kept}.svg")).Content.Headers.ContentType!.MediaType);
        await v.Post($"{root}/build?handler=Picture", ("ids", above), ("kept", kept));
        await v.Get($"{root}/build?piece={above}");
        Assert.Contains("Stripes", v.Text);

        await v.Post($"{root}/build?handler=PrintTogether", ("ids", $"{below},{above}"));
        await v.Get(root + "/build");
        Assert.Matches("1 piece", v.Text);
        var one = v.Id('p');
        var line = v.Id('l');
        await v.Get($"{root}/build?line={line}");
        Assert.Contains("Printed as", v.Text);
        await v.Post($"{root}/build?line={line}&handler=Ink", ("ids", line), ("drawn", "true"), ("stroke", "#112233"), ("fill", "#445566"), ("width", "1.5 mm"),
            ("dashes", "dotted"));
        Assert.Contains("value=\"#112233\"", v.Page);
        Assert.Contains("selected=\"selected\">dotted", v.Page);
        await v.Post($"{root}/build?handler=CutAgain", ("id", one));
        await v.Get(root + "/build");
        Assert.Contains("2 pieces", v.Text);
    }

    [Fact]
    public async Task What_would_save_a_sheet_is_asked_and_taken()
    {
        var v = await studio.SignIn();
        await v.Get("/dockets");
        await v.Bring("base.svg", Encoding.UTF8.GetBytes("<svg xmlns='http://www.w3.org/2000/svg' width='204mm' height='145mm' viewBox='0 0 204 145'>"
            + "<rect width='204' height='145' fill='#fbf8f2'/></svg>"));
        var root = Regex.Replace(v.Url, @"(/dockets/\d+)/.*", "$1");
        await v.Post(root + "/bring-in?handler=Copies", ("copies", "2"));
        await v.Get(root + "/lay-out");
        await v.Post(root + "/lay-out?handler=LayOut");
        await v.WaitFor(root + "/lay-out", "What would save a sheet?");
        await v.Get(root + "/lay-out?handler=Savings");
        Assert.Contains("Everything 2 % smaller", v.Text);
        Assert.Contains("1 sheet instead of 2", v.Text);
        await v.Post(root + "/lay-out?handler=Saving", ("key", "size 2"));
        await v.WaitFor(root + "/lay-out", "Go on to Run");
        Assert.Contains("sheets 1 ", v.Text);
        await v.Post(root + "/lay-out?handler=Saving", ("key", "nonsense"));
        Assert.Contains("That can't be done any more", v.Text);
    }
}
