using System.Collections.Immutable;
using System.Security.Claims;
using System.Text.Json;
using Falzkunst.Core.Cards;
using Falzkunst.Core.Files;
using Falzkunst.Core.Findings;
using Falzkunst.Core.Layout;
using Falzkunst.Core.Measures;
using Falzkunst.Core.Runs;
using Falzkunst.Store;
using Microsoft.AspNetCore.Authentication;
using Microsoft.AspNetCore.Identity;
using Microsoft.AspNetCore.Mvc;
using Microsoft.AspNetCore.Mvc.Filters;
using Microsoft.AspNetCore.Mvc.RazorPages;
using Microsoft.EntityFrameworkCore;

namespace Falzkunst.Web.Pages.Dockets;

/// <summary>A line of the slip.</summary>
/// <param name="Tone">As of <see cref="StageState"/>, or "is-here".</param>
public sealed record SlipLine(int Number, string Name, string Url, string State, string Tone);

/// <summary>What is chosen on the table after a change.</summary>
public enum Choosing
{
    /// <summary>What was chosen before.</summary>
    Same,

    /// <summary>What the change added.</summary>
    New,

    /// <summary>What it added, with what it was made of.</summary>
    WithNew,
}

/// <summary>
/// What every stage of a docket shares: the docket itself, its slip, its findings, undo, and telling a second writer. A change is one round trip: a script gets
/// the parts that changed, a browser without scripts is sent back to the page.
/// </summary>
public abstract class DocketPage(DocketParts parts) : PageModel
{
    /// <summary>What a script asks for that needs only a part of the page: "card", or "changes" after an edit.</summary>
    private const string PartHeader = "X-Part";

    protected DocketParts Parts => parts;

    public Docket Docket { get; private set; } = null!;

    /// <summary>The docket on whose sheets the pieces of this one go; null where it has its own.</summary>
    public Docket? Leader { get; private set; }

    /// <summary>The dockets whose pieces go on the same sheets, besides the one that has them.</summary>
    public IReadOnlyList<Docket> Companions { get; private set; } = [];

    /// <summary>The docket that has the sheets which the pieces of this one go on.</summary>
    protected Docket OfSheets => Leader ?? Docket;

    public Design? Design { get; private set; }

    public List<Stock> Stocks { get; private set; } = [];

    public List<Tool> Tools { get; private set; } = [];

    /// <summary>The machine that the docket is run on; null where there is none.</summary>
    public MachineRow? UsualMachine { get; private set; }

    /// <summary>How wide the lines of each operation are made, by the tool that is usually taken.</summary>
    public IReadOnlyDictionary<Operation, Length> ToolWidths => Tools.GroupBy(t => t.Operation).ToDictionary(g => g.Key, g => g.First().Width);

    public IReadOnlyList<Finding> Findings { get; private set; } = [];

    public int FindingIndex { get; private set; }

    /// <summary>The newest layout of the sheets that its pieces go on.</summary>
    public LayoutRow? Layout { get; private set; }

    /// <summary>The layout itself, read once.</summary>
    public DocketLayout? Laid { get; private set; }

    public bool LayoutIsCurrent { get; private set; }

    public List<SlipLine> Slip { get; } = [];

    /// <summary>Whether pieces are looked at in the background, so that the slip and the findings will know more soon.</summary>
    public bool IsInspecting { get; private set; }

    /// <summary>What stops the work at this stage besides the findings, as a sentence; null where nothing does.</summary>
    public virtual string? StageStop => null;

    /// <summary>The slip and the findings as they are now.</summary>
    public IActionResult OnGetLooked() => Partial("_Looked", this);

    public string? UndoWhat { get; protected set; }

    public string? RedoWhat { get; protected set; }

    public string Unit => StudioClaims.UnitOf(User);

    public string Me => User.FindFirstValue(StudioClaims.Name) ?? "";

    /// <summary>The stage's number, 1 to 7.</summary>
    public abstract int Stage { get; }

    public string StageName => Dockets.Stage.All[Stage - 1].Name;

    public string StagePath => Dockets.Stage.All[Stage - 1].Path;

    /// <summary>The partial of the card at hand; empty where this stage's card does not follow from what is chosen.</summary>
    public virtual string Card => "";

    /// <summary>What changed on the table, as SVG for the script; empty where there is no table.</summary>
    public string Changes { get; private set; } = "";

    /// <summary>What is said on the next page. It goes with a cookie, so there is a limit to it.</summary>
    [TempData]
    public string? Notice
    {
        get;
        set => field = value is null ? null : Words.Short(value);
    }

    /// <summary>A change that was not made because somebody else was faster, or that is asked about first, as a form to send again.</summary>
    [TempData]
    public string? Again { get; set; }

    /// <summary>What is said with an answer, which no later page repeats.</summary>
    public string? Said { get; protected set; }

    public Dictionary<string, string> AgainFields => Again is null ? [] : JsonSerializer.Deserialize<Dictionary<string, string>>(Again) ?? [];

    /// <summary>Who else had this docket in hand within the last minutes.</summary>
    public IReadOnlyList<string> Others { get; private set; } = [];

    public int Stops => Findings.Count(f => f.Severity == Severity.Stop);

    public int Warnings => Findings.Count(f => f.Severity == Severity.Warn);

    public string Address(string stage) => $"/dockets/{Docket.Number}/{stage}";

    /// <summary>This page's address with one thing in its query changed; what is chosen stays chosen.</summary>
    public string With(string key, string value) => Request.Path + QueryString.Create(QueryNow().Where(q => q.Key != "finding" && q.Key != key)
        .Append(KeyValuePair.Create(key, (string?)value)).Where(q => !string.IsNullOrEmpty(q.Value) && !IsGone(q.Key, q.Value)));

    /// <summary>Whether what a query names is not there any more.</summary>
    protected virtual bool IsGone(string key, string value) => false;

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
        Others = parts.Presence.Here(docket.Id, Me);
        try
        {
            Design = await parts.Revisions.DesignOf(Docket.CurrentRevisionId, cancel);
        }
        catch (UnreadableFileException)
        {
            context.Result = LocalRedirect($"/dockets/{number}/damaged");
            return;
        }

        Stocks = await parts.Drawer.Stocks(cancel);
        Tools = await parts.Drawer.Tools(cancel);
        UsualMachine = await parts.MachineOf(Docket, cancel);
        Leader = await parts.Together.LeaderOf(Docket, cancel);
        Companions = await parts.Together.With(OfSheets.Id, cancel);
        var cardOnly = HttpMethods.IsGet(Request.Method) && Request.Headers[PartHeader] == "card" && Card.Length > 0;
        if (!cardOnly) await Find(cancel);
        if (HttpMethods.IsGet(Request.Method) && !cardOnly) await Show(cancel);
        var done = await next();
        if (cardOnly && done.Result is PageResult) done.Result = Partial(Card, this);
    }

    /// <summary>What the card at hand says, by what the query says is chosen.</summary>
    protected virtual Task ShowCard(CancellationToken cancel) => Task.CompletedTask;

    /// <summary>What changed on this stage's table since a design; null where the whole page is the better answer.</summary>
    protected virtual string? TableChanges(Design before) => null;

    /// <param name="others">Whether the last change is undone, whoever made it.</param>
    public Task<IActionResult> OnPostUndoAsync(Guid basedOn, bool others, CancellationToken cancel) => Step(basedOn, true, others, cancel);

    public Task<IActionResult> OnPostRedoAsync(Guid basedOn, CancellationToken cancel) => Step(basedOn, false, false, cancel);

    /// <param name="way">Which remedy of the finding; -1 is the first of all that are alike.</param>
    public async Task<IActionResult> OnPostRemedyAsync(Guid basedOn, string key, int way, CancellationToken cancel)
    {
        var finding = Findings.FirstOrDefault(f => f.Key == key);
        if (way == -1 && finding is not null && Design is not null && FindingList.MendAll(Design, FindingList.Alike(Findings, finding)) is { } all)
            return await Change(basedOn, all, cancel);
        return finding?.Remedies.ElementAtOrDefault(way) is { } remedy ? await Change(basedOn, remedy.Edit, cancel)
            : await Say("That finding is gone already.", cancel);
    }

    /// <summary>More copies than these are another docket.</summary>
    protected const int MostOfDocket = 1000;

    public async Task<IActionResult> OnPostCopiesAsync(int copies, CancellationToken cancel)
    {
        if (copies is < 1 or > MostOfDocket) return Back("Copies go from 1 to 1000.");
        await SetCopies(copies, cancel);
        return Back();
    }

    protected async Task SetCopies(int copies, CancellationToken cancel)
    {
        var now = parts.Clock.GetUtcNow();
        await parts.Db.Dockets.Where(d => d.Id == Docket.Id)
            .ExecuteUpdateAsync(u => u.SetProperty(d => d.Copies, copies).SetProperty(d => d.ChangedAt, now), cancel);
        Docket.Copies = copies;
    }

    /// <summary>How many of some pieces each card takes, and how many are made to spare.</summary>
    public Task<IActionResult> OnPostNumberAsync(Guid basedOn, string? pieces, int perCard, int spare, CancellationToken cancel) =>
        Change(basedOn, new SetNumber([.. (pieces ?? "").Split(',', StringSplitOptions.RemoveEmptyEntries)], new(perCard - 1, spare)), cancel);

    public async Task<IActionResult> OnPostNameAsync(string name, CancellationToken cancel)
    {
        name = (name ?? "").Trim();
        if (name.Length is 0 or > 80) return Back("A docket's name has 1 to 80 letters.");
        await parts.Db.Dockets.Where(d => d.Id == Docket.Id).ExecuteUpdateAsync(u => u.SetProperty(d => d.Name, name), cancel);
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

    /// <summary>Starts a run of a sheet of the layout, from 0.</summary>
    /// <param name="loaded">Whether the sheet lies on the mat already, and the tools are in.</param>
    protected async Task<IActionResult> Start(int sheet, bool loaded, CancellationToken cancel)
    {
        if (await Parts.PlanOf(Docket, cancel) is not { } found || sheet < 0 || sheet >= found.Plan.Sheets.Length) return Back("Lay out first.");
        if (!found.Plan.ToMend.IsEmpty) return Back("Mend the stops of what was laid out, then lay out again.");
        if (!found.Plan.Problems.IsEmpty) return Back(found.Plan.Problems[0]);
        if (await Parts.Runs.Start(found.PlanId, sheet, loaded, cancel) is null)
            return Back($"{found.Plan.MachineName} is {(UsualMachine is { } machine ? await Parts.Runs.BusyWith(machine.Id, cancel) : "at another sheet")}. "
                + "Wait for it, or stop that run.");
        return LocalRedirect(Address("run") + "?sheet=" + sheet);
    }

    /// <summary>Makes a change, or tells that somebody else was faster and offers to make it all the same.</summary>
    /// <param name="gesture">What small steps of one gesture have in common; they become one change.</param>
    /// <param name="chooses">What is chosen then.</param>
    protected async Task<IActionResult> Change(Guid basedOn, Edit edit, CancellationToken cancel, string gesture = "", Choosing chooses = Choosing.Same)
    {
        if (Design is not { } before) return Back("Bring in a file first.");
        if (edit.Refusal(before) is { } why) return await Say(why, cancel);
        // Where somebody else changed other things meanwhile, both are done.
        var (meant, seen) = await parts.Revisions.Meant(Docket, basedOn, before, edit, cancel);
        var (outcome, now) = await parts.Revisions.Change(Docket, meant, before, edit, Me, gesture.Length <= 40 ? gesture : "", cancel);
        if (outcome == ChangeOutcome.Done && meant != basedOn) Said = "Somebody else changed other things of this docket meanwhile: you see both.";
        if (outcome == ChangeOutcome.Nothing && edit.About.Length > 0 && edit.About.All(id => !before.Holds(id)))
            return await Say("What it would change is not there any more: somebody took it away. Undo brings it back.", cancel);
        if (outcome == ChangeOutcome.Done && edit is Combination
            && now!.AllPieces.FirstOrDefault(p => p.Held is null && before.Piece(p.Id)?.Held is not null) is { } free)
            Said = $"“{free.Label}” is another shape now: it stays where it lies, and is not held where it was aligned any more.";
        if (outcome == ChangeOutcome.Done && chooses != Choosing.Same) ChooseNew(before, now!, chooses == Choosing.WithNew ? edit.About : []);
        return outcome switch
        {
            ChangeOutcome.Done or ChangeOutcome.Nothing => await Answer(seen, now!, cancel),
            ChangeOutcome.Unsound => await Say($"“{edit.Describe(before)}” can't be done: nothing sound would come of it. Nothing was changed.", cancel),
            _ => await TellSecond(edit.Describe(before), cancel),
        };
    }

    /// <summary>Makes a change, and chooses what it made.</summary>
    protected Task<IActionResult> ChangeAndChoose(Guid basedOn, Edit edit, CancellationToken cancel) => Change(basedOn, edit, cancel, "", Choosing.New);

    /// <summary>What is chosen by a change instead of what the address says; null where the address holds.</summary>
    private (string Key, string Ids)? _chosenNow;

    private void ChooseNew(Design before, Design now, ImmutableArray<string> also)
    {
        var pieces = now.Pieces.Where(p => before.Piece(p.Id) is null || also.Contains(p.Id)).Select(p => p.Id).ToList();
        var lines = pieces.Count > 0 ? [] : now.Lines.Where(l => before.Line(l.Id) is null).Select(l => l.Id).ToList();
        _chosenNow = pieces.Count == 1 ? ("piece", pieces[0]) : pieces.Count > 1 ? ("pieces", string.Join(',', pieces))
            : lines.Count > 0 ? ("line", string.Join(',', lines)) : null;
    }

    /// <summary>What the address says beside the handler, with what a change chose instead of what was chosen.</summary>
    private IEnumerable<KeyValuePair<string, string?>> QueryNow()
    {
        var query = Request.Query.Where(q => q.Key is not ("handler" or "group")
                && (_chosenNow is null || q.Key is not ("piece" or "pieces" or "line" or "ring" or "look")))
            .SelectMany(q => q.Value.Select(v => KeyValuePair.Create(q.Key, v)));
        return _chosenNow is var (key, ids) ? query.Append(KeyValuePair.Create(key, (string?)ids)) : query;
    }

    /// <summary>What the address says is chosen of a kind, or a change chose.</summary>
    protected string ChosenOf(string key) => _chosenNow is not { } now ? Request.Query[key].ToString() : now.Key == key ? now.Ids : "";

    public LengthUnit LengthUnit => StudioClaims.LengthUnitOf(User);

    /// <summary>A typed length; nothing typed is none.</summary>
    protected bool ReadWay(string? text, out Length length, out string error) =>
        LengthText.TryRead(string.IsNullOrWhiteSpace(text) ? "0" : text, LengthUnit, out length, out error);

    /// <summary>Whether a layout is of what the docket, those with it, and the drawer are now.</summary>
    protected bool IsCurrent(LayoutRow layout) => LayoutJob.IsOf(layout, OfSheets.CurrentRevisionId, OfSheets.Copies, Stocks, Companions);

    /// <summary>To the page that was looked at, so that a reload never repeats a change.</summary>
    protected IActionResult Back(string? notice = null)
    {
        if (notice is not null) Notice = notice;
        return LocalRedirect(Request.Path + QueryString.Create(QueryNow()));
    }

    /// <summary>Says something, and changes nothing.</summary>
    protected Task<IActionResult> Say(string sentence, CancellationToken cancel)
    {
        if (Design is null || !TakesChanges) return Task.FromResult(Back(sentence));
        Said = sentence;
        return Answer(Design, Design, cancel);
    }

    /// <summary>Whether the page that asks has a table, and a script that puts what changed onto it.</summary>
    private bool TakesChanges => Request.Headers[PartHeader] == "changes" && Card.Length > 0;

    /// <summary>What changed, for a script; for a browser without, the page again.</summary>
    private async Task<IActionResult> Answer(Design before, Design now, CancellationToken cancel)
    {
        if (!TakesChanges) return Back(Said);
        Design = now;
        await Find(cancel);
        if (TableChanges(before) is not { } changes) return Back(Said);
        Changes = changes;
        await Show(cancel);
        await ShowCard(cancel);
        // Only the parts that stand in the answer are swapped; the address stays what it was.
        Response.Headers["HX-Reswap"] = "none";
        Response.Headers["HX-Push-Url"] = "false";
        if (_chosenNow is var (key, ids)) Response.Headers["X-Chosen"] = $"{key}={ids}";
        return Partial("_Answer", this);
    }

    /// <summary>Undoes a change of the design, one's own first, or takes that back.</summary>
    protected virtual async Task<IActionResult> Step(Guid basedOn, bool undo, bool others, CancellationToken cancel)
    {
        if (!undo) return await Show(await parts.Revisions.Redo(Docket, basedOn, cancel), "Redo", cancel);
        if (!others && await parts.Revisions.UndoableBy(Docket, Me, cancel) is { IsTheirs: false } last)
        {
            Ask($"The last change is of {last.ByName}: “{last.What}”. You changed nothing here that is not taken back.", "Undo it all the same",
                new() { ["others"] = "true" });
            return Back();
        }

        var (outcome, why) = await parts.Revisions.Undo(Docket, basedOn, Me, others, cancel);
        if (outcome != ChangeOutcome.Unsound) return await Show(outcome, "Undo", cancel);
        Ask(why, "Undo the last change of all", new() { ["others"] = "true" });
        return Back();
    }

    /// <summary>Shows what the docket shows since another of its revisions was gone to.</summary>
    /// <param name="what">What was done, as on its button.</param>
    protected async Task<IActionResult> Show(ChangeOutcome outcome, string what, CancellationToken cancel)
    {
        var before = Design;
        return outcome switch
        {
            ChangeOutcome.Done when before is not null
                && await parts.Revisions.DesignOf(Docket.CurrentRevisionId, cancel) is { } now => await Answer(before, now, cancel),
            ChangeOutcome.Nothing => await Say($"There is nothing to {what.ToLowerInvariant()}{(what == "Go back" ? " to" : "")}.", cancel),
            ChangeOutcome.Done => Back(),
            _ => await TellSecond(what, cancel),
        };
    }

    protected async Task<IActionResult> TellSecond(string what, CancellationToken cancel)
    {
        // Deleted in the meantime: the address says so.
        if (await parts.Db.Dockets.AsNoTracking().FirstOrDefaultAsync(d => d.Id == Docket.Id, cancel) is not { CurrentRevisionId: var newest })
            return NotFound();
        var other = await parts.Db.Revisions.AsNoTracking().Where(r => r.Id == newest).Select(r => new { r.ByName, r.What }).FirstOrDefaultAsync(cancel);
        Ask($"{other?.ByName ?? "Somebody"} changed this docket in the meantime (“{other?.What}”). Your change (“{what}”) has not been made; you see the "
            + "newest state now.", "Change it all the same",
            new() { ["basedOn"] = newest?.ToString() ?? "" });
        return Back();
    }

    /// <summary>Says something with a button that sends the form again, with some fields changed.</summary>
    protected void Ask(string sentence, string button, Dictionary<string, string> changed)
    {
        Notice = sentence;
        var fields = Request.Form.Where(f => f.Key is not ("basedOn" or "__RequestVerificationToken")).ToDictionary(f => f.Key, f => f.Value.ToString());
        fields["basedOn"] = Docket.CurrentRevisionId?.ToString() ?? "";
        foreach (var (key, value) in changed) fields[key] = value;
        fields["handler"] = Request.Query["handler"].ToString();
        fields["button"] = button;
        var again = JsonSerializer.Serialize(fields);
        // What is too long to come back with a cookie is repeated by hand.
        if (again.Length <= Words.LongestNotice) Again = again;
    }

    private Length? _foldSetback;

    private async Task Find(CancellationToken cancel)
    {
        _foldSetback ??= await parts.Drawer.FoldSetback(cancel);
        var waiting = Design is null ? [] : DocketParts.Waiting(Design, Stocks);
        IsInspecting = waiting.Count > 0;
        Findings = Design is null ? [] : DocketParts.FindingsOf(Design, Stocks, _foldSetback.Value, waiting.Count);
        if (Design is not null) parts.Inspector.Look(Design, Stocks, waiting);
        if (int.TryParse(Request.Query["finding"], out var index)) FindingIndex = Math.Clamp(index, 0, Math.Max(0, Findings.Count - 1));
    }

    private async Task Show(CancellationToken cancel)
    {
        Layout = await parts.LatestLayout(OfSheets.Id, cancel);
        Laid = LayoutJob.Read(Layout);
        LayoutIsCurrent = Layout is not null && IsCurrent(Layout);
        (UndoWhat, RedoWhat) = await parts.Revisions.Steps(Docket, Me, cancel);
        var lastRun = await parts.Db.Runs.AsNoTracking().Where(r => r.DocketId == OfSheets.Id).OrderByDescending(r => r.StartedAt).FirstOrDefaultAsync(cancel);
        var doneSheets = Layout is null ? 0 : (await parts.ByHand.DoneSheets(Layout, cancel)).Count;
        var facts = new DocketFacts(Design, await parts.Db.SourceFiles.CountAsync(f => f.DocketId == Docket.Id, cancel), Stops, Layout, Laid, LayoutIsCurrent,
            lastRun, doneSheets, Stocks, IsInspecting, Leader?.Number);
        foreach (var stage in Dockets.Stage.All)
        {
            var state = stage.Of(facts);
            Slip.Add(new(stage.Number, stage.Name, Address(stage.Path), state.Words, stage.Number == Stage ? "is-here" : state.Tone));
        }
    }
}
