using System.Security.Claims;
using System.Text.Json;
using Falzkunst.Core.Cards;
using Falzkunst.Core.Findings;
using Falzkunst.Store;
using Microsoft.AspNetCore.Authentication;
using Microsoft.AspNetCore.Identity;
using Microsoft.AspNetCore.Mvc;
using Microsoft.AspNetCore.Mvc.Filters;
using Microsoft.AspNetCore.Mvc.RazorPages;
using Microsoft.EntityFrameworkCore;

namespace Falzkunst.Web.Pages.Dockets;

/// <param name="Tone">"is-here", "is-open", "is-warn" or "is-waiting".</param>
public sealed record SlipLine(int Number, string Name, string Url, string State, string Tone);

/// <summary>What every stage of a docket shares: the docket itself, its slip, its findings, undo, and telling a second writer.</summary>
public abstract class DocketPage(DocketParts parts) : PageModel
{
    private static readonly string[] Names = ["Bring in", "Build", "Strengthen", "Print", "Lay out", "Run", "Assemble"];

    protected DocketParts Parts => parts;

    public Docket Docket { get; private set; } = null!;

    public Design? Design { get; private set; }

    public List<Stock> Stocks { get; private set; } = [];

    public IReadOnlyList<Finding> Findings { get; private set; } = [];

    public int FindingIndex { get; private set; }

    public LayoutRow? Layout { get; private set; }

    public bool LayoutIsCurrent { get; private set; }

    public List<SlipLine> Slip { get; } = [];

    public string? UndoWhat { get; private set; }

    public string? RedoWhat { get; private set; }

    public string Unit => User.FindFirstValue(StudioClaims.Unit) == "in" ? "in" : "mm";

    public string Me => User.FindFirstValue(StudioClaims.Name) ?? "";

    /// <summary>The stage's number, 1 to 7.</summary>
    public abstract int Stage { get; }

    public string StageName => Names[Stage - 1];

    [TempData]
    public string? Notice { get; set; }

    /// <summary>A change that was not made because somebody else was faster, as a form to send again.</summary>
    [TempData]
    public string? Again { get; set; }

    public Dictionary<string, string> AgainFields => Again is null ? [] : JsonSerializer.Deserialize<Dictionary<string, string>>(Again) ?? [];

    public int Stops => Findings.Count(f => f.Severity == Severity.Stop);

    public int Warnings => Findings.Count(f => f.Severity == Severity.Warn);

    public string Address(string stage) => $"/dockets/{Docket.Number}/{stage}";

    /// <summary>This page's address with one thing in its query changed; what is chosen stays chosen.</summary>
    public string With(string key, string value) => Request.Path + QueryString.Create(Request.Query
        .Where(q => q.Key != "handler" && q.Key != "finding" && q.Key != key)
        .SelectMany(q => q.Value.Select(v => KeyValuePair.Create(q.Key, v)))
        .Append(KeyValuePair.Create(key, (string?)value)).Where(q => !string.IsNullOrEmpty(q.Value)));

    /// <summary>Where a form of this page is sent for one of its handlers.</summary>
    public string Post(string handler) => With("handler", handler);

    public override async Task OnPageHandlerExecutionAsync(PageHandlerExecutingContext context, PageHandlerExecutionDelegate next)
    {
        var cancel = HttpContext.RequestAborted;
        var number = int.Parse((string)RouteData.Values["number"]!);
        var docket = await parts.Db.Dockets.FirstOrDefaultAsync(d => d.Number == number, cancel);
        if (docket is null)
        {
            context.Result = NotFound();
            return;
        }

        Docket = docket;
        await Show(cancel);
        await next();
    }

    public Task<IActionResult> OnPostUndoAsync(Guid basedOn, CancellationToken cancel) => Step(basedOn, true, cancel);

    public Task<IActionResult> OnPostRedoAsync(Guid basedOn, CancellationToken cancel) => Step(basedOn, false, cancel);

    public async Task<IActionResult> OnPostRemedyAsync(Guid basedOn, string key, CancellationToken cancel)
    {
        var finding = Findings.FirstOrDefault(f => f.Key == key);
        return finding?.Remedy is { } remedy ? await Change(basedOn, remedy.Edit, cancel) : Back("That finding is gone already.");
    }

    public async Task<IActionResult> OnPostCopiesAsync(int copies, CancellationToken cancel)
    {
        if (copies is < 1 or > 1000) return Back("Copies go from 1 to 1000.");
        Docket.Copies = copies;
        Docket.ChangedAt = parts.Clock.GetUtcNow();
        await parts.Db.SaveChangesAsync(cancel);
        return Back();
    }

    public async Task<IActionResult> OnPostNameAsync(string name, CancellationToken cancel)
    {
        name = (name ?? "").Trim();
        if (name.Length is 0 or > 80) return Back("A docket's name has 1 to 80 letters.");
        Docket.Name = name;
        await parts.Db.SaveChangesAsync(cancel);
        return Back();
    }

    public async Task<IActionResult> OnPostUnitAsync(string unit, [FromServices] UserManager<Account> users, [FromServices] SignInManager<Account> signIn)
    {
        if (await users.GetUserAsync(User) is { } account)
        {
            account.Unit = unit == "in" ? "in" : "mm";
            await users.UpdateAsync(account);
            await signIn.RefreshSignInAsync(account);
        }

        return Back();
    }

    /// <summary>Makes a change, or tells that somebody else was faster and offers to make it all the same.</summary>
    protected async Task<IActionResult> Change(Guid basedOn, Edit edit, CancellationToken cancel)
    {
        if (Design is null) return Back("Bring in a file first.");
        var next = edit.Apply(Design);
        var what = edit.Describe(Design);
        return await parts.Revisions.Change(Docket, basedOn, next, what, Me, cancel) == ChangeOutcome.Done ? Back() : await TellSecond(what, cancel);
    }

    protected LengthUnit LengthUnit => Unit == "in" ? LengthUnit.Inch : LengthUnit.Millimetre;

    /// <summary>To the page that was looked at, so that a reload never repeats a change.</summary>
    protected IActionResult Back(string? notice = null)
    {
        if (notice is not null) Notice = notice;
        var query = Request.Query.Where(q => q.Key != "handler").ToList();
        return LocalRedirect(Request.Path + QueryString.Create(query.SelectMany(q => q.Value.Select(v => KeyValuePair.Create(q.Key, v)))));
    }

    private async Task<IActionResult> Step(Guid basedOn, bool undo, CancellationToken cancel)
    {
        var outcome = undo ? await parts.Revisions.Undo(Docket, basedOn, cancel) : await parts.Revisions.Redo(Docket, basedOn, cancel);
        return outcome switch
        {
            ChangeOutcome.Done => Back(),
            ChangeOutcome.Nothing => Back(undo ? "There is nothing to undo." : "There is nothing to redo."),
            _ => await TellSecond(undo ? "Undo" : "Redo", cancel),
        };
    }

    protected async Task<IActionResult> TellSecond(string what, CancellationToken cancel)
    {
        var newest = await parts.Db.Dockets.AsNoTracking().Where(d => d.Id == Docket.Id).Select(d => d.CurrentRevisionId).FirstAsync(cancel);
        var other = await parts.Db.Revisions.AsNoTracking().Where(r => r.Id == newest).Select(r => new { r.ByName, r.What }).FirstOrDefaultAsync(cancel);
        Notice = $"{other?.ByName ?? "Somebody"} changed this docket in the meantime (“{other?.What}”). Your change (“{what}”) has not been made; you see the newest state now.";
        var fields = Request.Form.Where(f => f.Key is not ("basedOn" or "__RequestVerificationToken")).ToDictionary(f => f.Key, f => f.Value.ToString());
        fields["basedOn"] = newest?.ToString() ?? "";
        fields["handler"] = Request.Query["handler"].ToString();
        Again = JsonSerializer.Serialize(fields);
        return Back();
    }

    private async Task Show(CancellationToken cancel)
    {
        Design = await parts.Revisions.DesignOf(Docket.CurrentRevisionId, cancel);
        Stocks = await parts.Drawer.Stocks(cancel);
        Findings = Design is null ? [] : DocketParts.FindingsOf(Design, Stocks, await parts.Drawer.FoldSetback(cancel));
        if (int.TryParse(Request.Query["finding"], out var index)) FindingIndex = Math.Clamp(index, 0, Math.Max(0, Findings.Count - 1));
        Layout = await parts.LatestLayout(Docket.Id, cancel);
        LayoutIsCurrent = Layout is not null && Layout.MadeFrom == LayoutJob.MadeFrom(Docket.CurrentRevisionId, Docket.Copies, Stocks);
        (UndoWhat, RedoWhat) = await parts.Revisions.Steps(Docket, cancel);
        var lastRun = await parts.Db.Runs.AsNoTracking().Where(r => r.DocketId == Docket.Id).OrderByDescending(r => r.StartedAt).FirstOrDefaultAsync(cancel);
        var doneRuns = Layout is null ? 0 : await parts.Db.Runs.Where(r => r.LayoutId == Layout.Id && r.State == WorkState.Done).Select(r => r.Sheet).Distinct().CountAsync(cancel);
        BuildSlip(lastRun, doneRuns, await parts.Db.SourceFiles.CountAsync(f => f.DocketId == Docket.Id, cancel));
    }

    private void BuildSlip(RunRow? lastRun, int doneRuns, int files)
    {
        var layout = LayoutJob.Read(Layout);
        Add(1, "bring-in", Design is null ? (files > 0 ? "waits for your choice" : "no file yet") : Design.Scale.IsKnown ? $"{Words.Count(files, "file")}, {Words.Count(Design.Looks.Length, "look")}" : "size is not settled", Design is { Scale.IsKnown: false } ? "is-warn" : "");
        Add(2, "build", Design is null ? "waits for 1" : Stops > 0 ? Words.Count(Stops, "stop") + " to mend" : $"{Words.Count(Design.Plies.Length, "ply", "plies")}, {Words.Count(Design.Pieces.Length, "piece")}", Stops > 0 ? "is-stop" : "");
        Add(3, "strengthen", "not built yet", "is-waiting");
        Add(4, "print", Design is { Artwork.Length: > 0 } ? Words.Count(Design.Artwork.Length, "picture") : "nothing printed", "is-waiting");
        var working = Layout is { State: WorkState.Waiting or WorkState.Working };
        Add(5, "lay-out", working ? "laying out …" : layout is null ? "not yet" : !LayoutIsCurrent ? "out of date" : $"{Words.Count(layout.Sheets.Length, "sheet")}, {layout.Utilisation:P0}",
            layout is null ? "is-waiting" : working || LayoutIsCurrent ? "" : "is-warn");
        var ready = layout is not null && LayoutIsCurrent && !working;
        Add(6, "run", lastRun is { State: WorkState.Working or WorkState.Waiting } ? (lastRun.Asks.Length > 0 ? "waits for you" : $"sheet {lastRun.Sheet + 1} is running")
            : !ready ? "waits for 5" : doneRuns > 0 ? $"{doneRuns} of {layout!.Sheets.Length} sheets done" : "ready", ready ? "" : "is-waiting");
        Add(7, "assemble", "not built yet", "is-waiting");

        void Add(int n, string url, string state, string tone) => Slip.Add(new(n, Names[n - 1], Address(url), state, n == Stage ? "is-here" : tone));
    }
}
