using Falzkunst.Core.Cards;
using Falzkunst.Core.Documents;
using Falzkunst.Core.Files;
using Falzkunst.Core.Reading;
using Falzkunst.Core.Tracing;
using Falzkunst.Core.Writing;
using Falzkunst.Store;
using Falzkunst.Web.Table;
using Microsoft.AspNetCore.Mvc;
using Microsoft.AspNetCore.Mvc.Filters;
using Microsoft.EntityFrameworkCore;

namespace Falzkunst.Web.Pages.Dockets;

public sealed class BringInModel(DocketParts parts) : LooksPage(parts)
{
    public sealed record FileFacts(Guid Id, string Name, int Size, string MediaType);

    public override int Stage => 1;

    public List<FileFacts> Files { get; private set; } = [];

    /// <summary>The files in an archive that waits for a choice, or that more can be taken from.</summary>
    public List<(Guid Source, string Archive, IReadOnlyList<string> Names)> Archives { get; } = [];

    /// <summary>The separate designs on this page, where it is a collection.</summary>
    public IReadOnlyList<Part> Collection { get; private set; } = [];

    /// <summary>What is chosen on the table, why it became that, and all that looks alike.</summary>
    public sealed record ChosenFacts(string Id, string Name, string Why, string Look, IReadOnlyList<string> Alike);

    public ChosenFacts? Chosen => Design is null ? null
        : Piece is { } p ? new(p.Id, p.Label, p.Why, Design.LookOf(p.Look)?.Describe() ?? "", [.. Design.Pieces.Where(q => q.Look == p.Look).Select(q => q.Id)])
        : Line is { } l ? new(l.Id, l.Label.Length > 0 ? l.Label : Words.Big(l.Operation.Word()) + " line", l.Why, Design.LookOf(l.Look)?.Describe() ?? "", [.. Design.Lines.Where(q => q.Look == l.Look).Select(q => q.Id)])
        : null;

    /// <summary>How the table is looked at: "" with all in its place, "apart" with the plies beside one another, "picture", or "parts".</summary>
    public string View { get; private set; } = "";

    public bool Apart => View == "apart";

    /// <summary>The ways to look at the table that say something of this design.</summary>
    public IReadOnlyList<(string View, string Name)> Views =>
    [
        ("", Design is { Plies.Length: > 1 } ? "together" : "pieces"),
        .. Design is { Plies.Length: > 1 } ? [("apart", "plies apart")] : Array.Empty<(string, string)>(),
        .. CanRetrace ? [("picture", "picture")] : Array.Empty<(string, string)>(),
    ];

    /// <summary>Whether those are shown as a contact sheet, to choose some of them.</summary>
    public bool ShowsParts { get; private set; }

    /// <summary>The sources that the studio has rules of.</summary>
    public List<RulesRow> Sources { get; private set; } = [];

    /// <summary>Whether the docket came from one picture, which can be traced anew.</summary>
    public bool CanRetrace { get; private set; }

    /// <summary>The picture on the table, where it is looked at instead of the pieces.</summary>
    public string? PictureTable { get; private set; }

    public override async Task OnPageHandlerExecutionAsync(PageHandlerExecutingContext context, PageHandlerExecutionDelegate next)
    {
        var cancel = HttpContext.RequestAborted;
        await base.OnPageHandlerExecutionAsync(context, async () =>
        {
            Files = await Parts.Db.SourceFiles.Where(f => f.DocketId == Docket.Id).OrderBy(f => f.At).Select(f => new FileFacts(f.Id, f.Name, f.Bytes.Length, f.MediaType)).ToListAsync(cancel);
            return await next();
        });
    }

    public async Task OnGetAsync(string? piece, string? line, string? look, string? view, CancellationToken cancel)
    {
        Choose(piece, line, look);
        View = view is "apart" or "picture" or "parts" ? view : "";
        Sources = await Parts.Db.Rules.AsNoTracking().OrderBy(r => r.Name).ToListAsync(cancel);
        if (Design is not null) Collection = Core.Cards.Parts.Of(Design);
        ShowsParts = View == "parts" && Collection.Count > 0;
        if (Design?.Tracing is { } tracing && await Parts.Incoming.PictureOf(Docket, cancel) is { } picture)
        {
            CanRetrace = true;
            if (View == "picture")
            {
                var settings = tracing.Settings with { Dpi = Design.Scale.PxPerInch };
                var (small, width, height) = await Parts.Incoming.SmallPicture(picture, cancel);
                PictureTable = TraceSvg.Table(TraceSvg.Preview(small, width, height, settings, $"/dockets/{Docket.Number}/picture/{picture}", cancel), width, height, settings);
            }
        }

        foreach (var file in Files.Where(f => f.MediaType == "application/zip"))
        {
            var bytes = await Parts.Db.SourceFiles.Where(f => f.Id == file.Id).Select(f => f.Bytes).FirstAsync(cancel);
            Archives.Add((file.Id, file.Name, Archive.Names(bytes)));
        }
    }

    public async Task<IActionResult> OnPostScaleAsync(Guid basedOn, double pxPerInch, CancellationToken cancel) =>
        pxPerInch is >= 1 and <= 10_000 ? await Change(basedOn, new SetScale(pxPerInch), cancel) : Back("Pixels in an inch go from 1 to 10000.");

    public async Task<IActionResult> OnPostWidthAsync(Guid basedOn, string width, CancellationToken cancel)
    {
        if (!LengthText.TryRead(width, LengthUnit, out var wanted, out var error)) return Back(error);
        if (Design is null) return Back();
        if (wanted.Mm is < 1 or > 5000) return Back("A page is from 1 mm to 5 m wide.");
        return await Change(basedOn, new SetScale(Design.Scale.PxPerInch * Design.WidthMm / wanted.Mm), cancel);
    }

    /// <summary>More files, beside what is there.</summary>
    public async Task<IActionResult> OnPostAddAsync(Guid? basedOn, List<IFormFile> file, CancellationToken cancel) =>
        file.Count == 0 ? Back("Choose a file first.") : await Take(basedOn, await DocketParts.Brought(file, cancel), true, cancel);

    /// <summary>Some files of an archive.</summary>
    public async Task<IActionResult> OnPostTakeAsync(Guid? basedOn, Guid source, int[] take, bool all, CancellationToken cancel)
    {
        if (await Parts.Db.SourceFiles.FirstOrDefaultAsync(f => f.Id == source && f.DocketId == Docket.Id, cancel) is not { } zip) return Back("That archive is gone.");
        if (all) take = [.. Enumerable.Range(0, Archive.Names(zip.Bytes).Count)];
        var chosen = take.Distinct().Select(i => Archive.File(zip.Bytes, i, ReadingLimits.Default)).OfType<ArchivedFile>().Select(f => new BroughtFile(f.Name, f.Bytes, f.Folder.Length > 0 ? f.Folder : zip.Folder)).ToList();
        return chosen.Count == 0 ? Back("Choose at least one file of the archive.") : await Take(basedOn, chosen, false, cancel);
    }

    public async Task<IActionResult> OnPostKeepAsync(Guid basedOn, string[] keep, CancellationToken cancel)
    {
        if (Design is null) return Back();
        if (keep.Length == 0)
        {
            Notice = "Choose at least one part to keep.";
            return LocalRedirect(Address("bring-in") + "?view=parts");
        }

        var kept = keep.SelectMany(k => k.Split(',')).ToHashSet(StringComparer.Ordinal);
        var rest = Core.Cards.Parts.Of(Design).SelectMany(p => p.Ids).Where(id => !kept.Contains(id)).ToArray();
        return rest.Length == 0 ? Back() : await Change(basedOn, new LeaveOut([.. rest]), cancel);
    }

    public Task<IActionResult> OnPostPutBackAsync(Guid basedOn, string part, CancellationToken cancel) => Change(basedOn, new PutBack(part), cancel);

    public async Task<IActionResult> OnPostTraceAsync(Guid basedOn, CancellationToken cancel)
    {
        if (Design?.Tracing is not { } before) return Back("This docket has no picture of its own to trace.");
        var (settings, problem) = TraceForm.Read(before.Settings, Design.Scale.PxPerInch, LengthUnit, name => Request.Form.TryGetValue(name, out var v) ? v.ToString() : null);
        if (problem.Length > 0) return Back(problem);
        var (design, why) = await Parts.Incoming.Retrace(Docket, settings, cancel);
        if (design is null) return Back(why);
        design = design with { Scale = Design.Scale };
        return await Parts.Revisions.Change(Docket, basedOn, design, $"Trace: {Words.OfMode(settings.Mode)}", Me, cancel) == ChangeOutcome.Done ? Back() : await TellSecond("Trace", cancel);
    }

    public async Task<IActionResult> OnPostKeepRulesAsync(string name, CancellationToken cancel)
    {
        name = (name ?? "").Trim();
        if (Design is null || name.Length is 0 or > 60) return Back("The name of a source has 1 to 60 letters.");
        await Parts.Incoming.KeepRules(Docket.Id, Design, name, cancel);
        return Back($"Kept. The next file that looks like this one gets the rules of “{name}” by itself.");
    }

    public Task<IActionResult> OnPostTakeRulesBackAsync(Guid basedOn, CancellationToken cancel) => Change(basedOn, new TakeRulesBack(), cancel);

    public async Task<IActionResult> OnPostUseRulesAsync(Guid basedOn, Guid rules, CancellationToken cancel)
    {
        var row = await Parts.Db.Rules.AsNoTracking().FirstOrDefaultAsync(r => r.Id == rules, cancel);
        return row is not null && FalzFile.ReadRules(row.Document) is { } found ? await Change(basedOn, new ApplyRules(found), cancel) : Back("Those rules are gone.");
    }

    public async Task<IActionResult> OnPostForgetRulesAsync(Guid rules, CancellationToken cancel)
    {
        await Parts.Db.Rules.Where(r => r.Id == rules).ExecuteDeleteAsync(cancel);
        return Back("Forgotten. What they did in dockets stays as it is.");
    }

    private async Task<IActionResult> Take(Guid? basedOn, IReadOnlyList<BroughtFile> files, bool keep, CancellationToken cancel)
    {
        var (outcome, problem) = await Parts.Incoming.Add(Docket, basedOn == Guid.Empty ? null : basedOn, files, keep, Me, cancel);
        return outcome == ChangeOutcome.Done ? Back(problem.Length > 0 ? problem : null) : await TellSecond("Bring in a file", cancel);
    }
}
