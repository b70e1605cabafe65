using Falzkunst.Core.Cards;
using Falzkunst.Core.Documents;
using Falzkunst.Core.Files;
using Falzkunst.Core.Reading;
using Falzkunst.Core.Tracing;
using Falzkunst.Store;
using Falzkunst.Web.Table;
using Microsoft.AspNetCore.Mvc;
using Microsoft.EntityFrameworkCore;

namespace Falzkunst.Web.Pages.Dockets;

public sealed class BringInModel(DocketParts parts) : LooksPage(parts)
{
    public sealed record FileFacts(Guid Id, string Name, int Size, string MediaType);

    public override int Stage => 1;

    public override string Card => "_BringInCard";

    public List<FileFacts> Files { get; private set; } = [];

    /// <summary>The files in an archive that waits for a choice, or that more can be taken from.</summary>
    public List<(Guid Source, string Archive, IReadOnlyList<string> Names)> Archives { get; } = [];

    /// <summary>The separate designs on this page, where it is a collection.</summary>
    public IReadOnlyList<Part> Collection { get; private set; } = [];

    /// <summary>What is chosen on the table, why it became that, and all that looks alike.</summary>
    public sealed record ChosenFacts(string Id, string Name, string Why, string Look, IReadOnlyList<string> Alike);

    public ChosenFacts? Chosen => Design is null ? null
        : Piece is { } p && Lines.Count + Rings.Count == 0 ? new(p.Id, p.Label, p.Why, Design.LookOf(p.Look)?.Describe()
        ?? "", Alike(Design.Pieces.Where(q => q.Look == p.Look).Select(q => q.Id), p.Look))
        : Line is { } l ? new(l.Id, l.Label.Length > 0 ? l.Label : Words.Big(l.Operation.Word()) + " line", l.Why, Design.LookOf(l.Look)?.Describe()
        ?? "", Alike(Design.Lines.Where(q => q.Look == l.Look).Select(q => q.Id), l.Look))
        : ThingIds.Length > 0 ? new(ThingIds, ThingsInWords, Rings is [var (of, ring)] && Lines.Count + ChosenPieces.Count == 0
            ? of.Edges[ring].Origin?.Why ?? $"a hole of {of.Label}" : "chosen together", "", [])
        : null;

    /// <summary>How the table is looked at: "" with all in its place, "apart" with the plies beside one another, "picture", or "parts".</summary>
    public string View => Request.Query["view"].ToString() is var view && view is "apart" or "picture" or "parts" ? view : "";

    /// <summary>The ways to look at the table that say something of this design.</summary>
    public IReadOnlyList<(string View, string Name)> Views =>
    [
        ("", Design is { Plies.Length: > 1 } ? "together" : "pieces"),
        .. Design is { Plies.Length: > 1 } ? [("apart", "plies apart")] : Array.Empty<(string, string)>(),
        .. Traced is not null ? [("picture", "picture")] : Array.Empty<(string, string)>(),
    ];

    /// <summary>Whether those are shown as a contact sheet, to choose some of them.</summary>
    public bool ShowsParts => View == "parts" && Collection.Count > 0;

    /// <summary>The sources that the studio has rules of.</summary>
    public List<RulesRow> Sources { get; private set; } = [];

    /// <summary>The pictures that the docket came from, each of which can be traced anew.</summary>
    public IReadOnlyList<TracedPicture> Pictures { get; private set; } = [];

    /// <summary>The one of them that is looked at; null where there is none.</summary>
    public TracedPicture? Traced { get; private set; }

    /// <summary>How many pixels wide that is, and whether nothing of it is see-through.</summary>
    public (int Width, bool IsOpaque) TracedFacts { get; private set; }

    /// <summary>How a picture of the design was traced; null where it was drawn.</summary>
    public TracingFacts? Tracing => Traced?.Tracing ?? Design?.Sources.FirstOrDefault(s => s.Tracing is not null)?.Tracing;

    /// <summary>The picture on the table, where it is looked at instead of the pieces.</summary>
    public string? PictureTable { get; private set; }

    public Task OnGetAsync(CancellationToken cancel) => ShowCard(cancel);

    protected override async Task ShowCard(CancellationToken cancel)
    {
        await base.ShowCard(cancel);
        Files = await Parts.Db.SourceFiles.Where(f => f.DocketId == Docket.Id).OrderBy(f => f.At).Select(f => new FileFacts(f.Id, f.Name, f.Size, f.MediaType))
            .ToListAsync(cancel);
        Sources = await Parts.Db.Rules.AsNoTracking().OrderBy(r => r.Name).ToListAsync(cancel);
        if (Design is not null) Collection = DocketParts.CollectionOf(Design);
        Pictures = await Parts.Incoming.PicturesOf(Docket, Design, cancel);
        Traced = Incoming.OneOf(Pictures, Request.Query["picture"]);
        try
        {
            if (Traced is { } traced) await LookAt(traced, cancel);
        }
        catch (UnreadableFileException)
        {
            // How it was traced is still said; it can't be traced anew.
            Traced = null;
        }

        var zips = Files.FindAll(f => f.MediaType == "application/zip");
        var names = await Parts.Incoming.NamesIn(zips.ConvertAll(f => f.Id), cancel);
        Archives.AddRange(zips.Where(z => names.ContainsKey(z.Id)).Select(z => (z.Id, z.Name, names[z.Id])));
    }

    private async Task LookAt(TracedPicture traced, CancellationToken cancel)
    {
        var (small, width, height) = await Parts.Incoming.SmallPicture(traced.File, cancel);
        TracedFacts = (width, !Tracer.IsCutOut(small));
        if (View != "picture") return;
        var settings = traced.Tracing.Settings with { Dpi = traced.Scale.PxPerInch };
        var preview = TraceSvg.Preview(small, width, height, settings, $"/dockets/{Docket.Number}/picture/{traced.File}", cancel);
        PictureTable = TraceSvg.Table(preview, width, height, settings);
    }

    protected override string? TableChanges(Design before) => View is "picture" or "parts" || before.Sources != Design?.Sources ? null
        : base.TableChanges(before);

    public Task<IActionResult> OnPostScaleAsync(Guid basedOn, double pxPerInch, CancellationToken cancel) =>
        pxPerInch is >= TraceLimits.LeastDpi and <= TraceLimits.MostDpi ? Change(basedOn, new SetScale(pxPerInch), cancel)
            : Say("Pixels in an inch go from 1 to 10000.", cancel);

    public async Task<IActionResult> OnPostWidthAsync(Guid basedOn, string width, CancellationToken cancel)
    {
        if (!LengthText.TryRead(width, LengthUnit, out var wanted, out var error)) return await Say(error, cancel);
        if (Design is null) return Back();
        if (wanted.Mm is < 1 or > 5000) return await Say("A page is from 1 mm to 5 m wide.", cancel);
        return await Change(basedOn, new SetScale(Design.Scale.PxPerInch * Design.Width.Mm / wanted.Mm), cancel);
    }

    /// <summary>More files, beside what is there.</summary>
    public async Task<IActionResult> OnPostAddAsync(Guid? basedOn, List<IFormFile> file, CancellationToken cancel) =>
        file.Count == 0 ? Back("Choose a file first.") : await Take(basedOn, await DocketParts.Brought(file, cancel), true, cancel);

    /// <summary>Some files of an archive.</summary>
    public async Task<IActionResult> OnPostTakeAsync(Guid? basedOn, Guid source, int[] take, bool all, CancellationToken cancel)
    {
        if (await Parts.Db.SourceFiles.AsNoTracking()
            .FirstOrDefaultAsync(f => f.Id == source && f.DocketId == Docket.Id, cancel) is not { } row) return Back("That archive is gone.");
        var zip = await Parts.Incoming.BytesOf(source, cancel);
        if (all) take = [.. Enumerable.Range(0, Archive.Names(zip).Count)];
        var chosen = take.Distinct().Select(i => Archive.File(zip, i, ReadingLimits.Default)).OfType<ArchivedFile>()
            .Select(f => new BroughtFile(f.Name, f.Bytes, f.Folder.Length > 0 ? f.Folder : row.Folder)).ToList();
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

        var kept = keep.OfType<string>().SelectMany(k => k.Split(',')).ToHashSet(StringComparer.Ordinal);
        var rest = DocketParts.CollectionOf(Design).SelectMany(p => p.Ids).Where(id => !kept.Contains(id)).ToArray();
        return rest.Length == 0 ? Back() : await Change(basedOn, new LeaveOut([.. rest]), cancel);
    }

    public Task<IActionResult> OnPostPutBackAsync(Guid basedOn, string part, CancellationToken cancel) => Change(basedOn, new PutBack(part ?? ""), cancel);

    /// <summary>Traces a picture anew. What was done to its pieces since would be gone, so that is asked about first.</summary>
    public async Task<IActionResult> OnPostTraceAsync(Guid basedOn, string? picture, bool sure, CancellationToken cancel)
    {
        if (Design is not { } design || await Parts.Incoming.PictureOf(Docket, design, picture, cancel) is not { } its)
            return await Say("This docket has no picture of its own to trace.", cancel);
        string? Field(string name) => Request.Form.TryGetValue(name, out var v) ? v.ToString() : null;
        int width;
        try
        {
            (_, width, _) = await Parts.Incoming.SmallPicture(its.File, cancel);
        }
        catch (UnreadableFileException e)
        {
            return await Say(Incoming.NotTraced(e), cancel);
        }

        var (settings, problem) = TraceForm.Read(its, width, LengthUnit, Field);
        if (problem.Length > 0) return await Say(problem, cancel);
        if (!sure && await Parts.Revisions.WhenTraced(Docket, design.Sources.First(s => s.Id == its.SourceId), cancel) is { } then
            && TraceAgain.Loses(then, design, its.SourceId))
        {
            Ask("The picture has been traced, and its pieces were worked on since. Tracing it again puts new pieces in their place; all else stays. Undo "
                + "brings them back.", "Trace it again", new() { ["sure"] = "true" });
            return Back();
        }

        var (traced, why) = await Parts.Incoming.Retrace(its, settings, cancel);
        return traced is null ? await Say(why, cancel) : await Change(basedOn, new TraceAgain(its.SourceId, traced), cancel);
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
        return row is not null && FalzFile.ReadRules(row.Document) is { } found ? await Change(basedOn, new ApplyRules(found), cancel)
            : Back("Those rules are gone.");
    }

    public async Task<IActionResult> OnPostForgetRulesAsync(Guid rules, CancellationToken cancel)
    {
        await Parts.Db.Rules.Where(r => r.Id == rules).ExecuteDeleteAsync(cancel);
        return Back("Forgotten. What they did in dockets stays as it is.");
    }

    /// <summary>What the rules of a source decide, by what: "blue line, open: a fold, scored; …".</summary>
    public static string RulesIn(RulesRow row)
    {
        const int shown = 12;
        return FalzFile.ReadRules(row.Document) is { } rules ? string.Join("; ", rules.Looks.Take(shown).Select(r => r.Describe())) : "";
    }

    private static IReadOnlyList<string> Alike(IEnumerable<string> ids, string look) => look.Length == 0 ? [] : [.. ids];

    private async Task<IActionResult> Take(Guid? basedOn, IReadOnlyList<BroughtFile> files, bool keep, CancellationToken cancel)
    {
        var (outcome, problem) = await Parts.Incoming.Add(Docket, basedOn == Guid.Empty ? null : basedOn, files, keep, Me, cancel);
        return outcome == ChangeOutcome.Done ? Back(problem.Length > 0 ? problem : null) : await TellSecond("Bring in a file", cancel);
    }
}
