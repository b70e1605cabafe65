using System.Net;
using System.Net.Http.Headers;
using System.Text;
using System.Text.RegularExpressions;
using Falzkunst.StandIns;

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

    private static async Task<Visitor> Bring(Visitor v, string root, byte[] picture, string dpi)
    {
        var form = new MultipartFormDataContent
        {
            { new StringContent(v.Token), "__RequestVerificationToken" }, { new StringContent(v.BasedOn), "basedOn" }, { new StringContent("1"), "sheet" },
            { new StringContent("scan"), "by" }, { new StringContent(dpi), "dpi" },
        };
        var file = new ByteArrayContent(picture);
        file.Headers.ContentType = new MediaTypeHeaderValue("image/png");
        form.Add(file, "file", "scan.png");
        return await v.Send(root + "/print?handler=Picture", form);
    }

    [Fact]
    public async Task From_a_picture_to_pieces_that_are_cut_on_their_print()
    {
        var (v, root) = await Chosen();
        await v.Post(root + "/print?handler=Try", ("sheet", "1"));
        await v.Get(root + "/print");
        Assert.Contains("The cut lies on the print, and no white would be left.", v.Text);
        Assert.Contains("measured at 9 pieces", v.Text);
        await v.Get(root + "/run");
        await v.Post(root + "/run?handler=Start", ("sheet", "0"));
        await v.WaitFor(root + "/run?sheet=0", "Put printed sheet 1");
        (string, string)[] shown = [.. new[] { "run", "asked" }.Select(n => (n, Regex.Match(v.Page, $"name=\"{n}\" value=\"([^\"]+)\"").Groups[1].Value))];
        await v.Post(root + "/run?handler=Confirm", shown);
        await v.WaitFor(root + "/run?sheet=0", "Finished.");
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
}
