using System.Collections.Immutable;
using Falzkunst.Core.Cards;
using Falzkunst.Core.Measures;
using Falzkunst.Core.Runs;
using Falzkunst.Core.Shapes;
using Falzkunst.Core.Strength;
using Falzkunst.Store;
using Microsoft.AspNetCore.Mvc;
using Microsoft.Extensions.Caching.Memory;

namespace Falzkunst.Web.Pages.Dockets;

/// <summary>Where pieces are too weak for their papers, and strengths to choose from.</summary>
public sealed class StrengthenModel(DocketParts parts) : LooksPage(parts)
{
    public const int ShownPlaces = 60;

    private CardInspection? _seen;

    private IReadOnlyList<(InspectedPiece Of, ThinPlace Place)>? _places;

    public override int Stage => 3;

    public override string Card => "_StrengthenCard";

    /// <summary>How well all pieces are borne. Made once.</summary>
    public CardInspection Inspected => _seen ??= Design is { } d ? CardInspection.Of(d, BearsOf, true, HttpContext.RequestAborted) : new([], []);

    /// <summary>The thin places of what is chosen, or of the whole card; the narrowest first. Sorted once.</summary>
    public IReadOnlyList<(InspectedPiece Of, ThinPlace Place)> Places => _places ??=
        [.. Inspected.Thin.Where(t => ChosenPieces.Count == 0 || ChosenPieces.Contains(t.Of.Piece))];

    /// <summary>Which of them is looked at, from 0.</summary>
    public int PlaceIndex => int.TryParse(Request.Query["place"], out var k) && Places.Count > 0 ? Math.Clamp(k, 0, Places.Count - 1) : 0;

    /// <summary>What strengths are for: the chosen pieces; where none are, all that have thin places, or were strengthened.</summary>
    public IReadOnlyList<Piece> ToStrengthen => ChosenPieces.Count > 0 ? ChosenPieces
        : [.. Inspected.Pieces.Where(p => p.Seen.Thin.Count > 0 || Strengthened.IsOn(p.Piece)).Select(p => p.Piece)];

    public string TargetIds => string.Join(',', ToStrengthen.Select(p => p.Id));

    /// <summary>The most that any of their papers asks for, so that all match.</summary>
    public Limits Asked => Strengths.Most((ToStrengthen.Count > 0 ? ToStrengthen : [.. Inspected.Pieces.Select(p => p.Piece)]).Select(BearsOf));

    /// <summary>The strength that was worked out for its plate.</summary>
    public StrengthOutcome Outcome { get; private set; } = null!;

    /// <summary>What was typed for that, to be sent with it.</summary>
    public string Typed { get; private set; } = "";

    /// <summary>How long the docket's machine would cut what comes of it, in seconds; null where there is no machine.</summary>
    public double? CutSeconds { get; private set; }

    /// <summary>The strengths that are offered, before any is worked out.</summary>
    public IReadOnlyList<StrengthChoice> Choices => Strengths.Of(Asked, ToStrengthen, null);

    /// <summary>How many thin places pieces had before they were strengthened.</summary>
    public int ThinBefore(IEnumerable<Piece> strong) => strong.Sum(p => Inspection.Of(Strengthened.Before(p), BearsOf(p)).Thin.Count);

    /// <summary>What belongs together, to be chosen at once: its name and its pieces.</summary>
    public IReadOnlyList<(string Name, IReadOnlyList<Piece> Pieces)> Together
    {
        get
        {
            if (Design is not { } d) return [];
            var all = new List<(string, IReadOnlyList<Piece>)> { ("all words", [.. d.Papers.Where(p => p.Shape is Lettered)]) };
            foreach (var ply in d.Plies) all.Add(($"all of {ply.Label}", [.. d.Papers.Where(p => p.PlyId == ply.Id)]));
            foreach (var look in d.Looks) all.Add(($"all of {look.Describe()}", [.. d.Papers.Where(p => p.Look == look.Key)]));
            return [.. all.Where(t => t.Item2.Count > 0).DistinctBy(t => string.Join(',', t.Item2.Select(p => p.Id))).Take(12)];
        }
    }

    public Limits BearsOf(Piece piece) => Core.Cards.Stocks.Bears(Design!, piece, Stocks);

    public Task OnGetAsync(CancellationToken cancel) => ShowCard(cancel);

    /// <summary>Colours and marks change with the pieces: the whole page is the better answer.</summary>
    protected override string? TableChanges(Design before) => null;

    /// <summary>One of the strengths that lie beside each other; it takes as long as that takes to be made, and ends where nobody waits for it.</summary>
    public async Task<IActionResult> OnGetPlateAsync(string? key, string? typed, CancellationToken cancel)
    {
        await ShowCard(cancel);
        if (Design is not { } design || ToStrengthen.Count == 0) return Content("");
        Length? width = null;
        if (!string.IsNullOrWhiteSpace(typed))
        {
            if (!LengthText.TryRead(typed, LengthUnit, out var read, out var error)) return Sentence(error);
            (width, Typed) = (read, typed);
        }

        if (Strengths.Of(Asked, ToStrengthen, width).FirstOrDefault(c => c.Key == key) is not { } choice) return Content("");
        var ids = ToStrengthen.Select(p => p.Id).ToImmutableArray();
        if (new Strengthen(ids, choice.How).Refusal(design) is { } fault) return Sentence(fault);
        try
        {
            Outcome = await Task.Run(() => Strengths.Try(design, ids, choice, Asked, cancel), cancel);
        }
        catch (OperationCanceledException)
        {
            return new EmptyResult();
        }

        // What comes to the same as one before it is said to, instead of being offered twice. Plates come one after another.
        foreach (var before in Strengths.Of(Asked, ToStrengthen, width).TakeWhile(c => c.Key != key))
        {
            if (key != "typed" && Parts.Memory.TryGetValue(Known(before.Key), out StrengthOutcome? known) && known is not null && Outcome.IsLike(known))
                return Content($"<p class=\"plate-same\"><b>{Web.Words.Big(Outcome.Choice.Name)}</b> comes to the same as {before.Name}.</p>", "text/html");
        }

        if (key != "typed") Parts.Memory.Set(Known(key!), Outcome, new MemoryCacheEntryOptions { Size = 100_000, SlidingExpiration = TimeSpan.FromMinutes(5) });
        await TimeIt(design, cancel);
        return Partial("_Strength", this);

        (string, Guid?, string, string) Known(string of) => ("strength", Docket.CurrentRevisionId, of, string.Join(',', ids));

        ContentResult Sentence(string text) => Content($"<p class=\"plate-waits\">{System.Net.WebUtility.HtmlEncode(text)}</p>", "text/html");
    }

    private async Task TimeIt(Design design, CancellationToken cancel)
    {
        if (UsualMachine is not { } row) return;
        var (machine, settings) = (Drawer.ToCore(row), await Parts.Drawer.Settings(cancel));
        CutSeconds = Outcome.Seen.GroupBy(s => Core.Cards.Stocks.For(s.Piece, Stocks)?.Id).Sum(g => RunPlanner.SecondsToCut(
            [.. g.Select(s => s.Piece.OnCard)], machine, settings.Find(m => m.StockId == g.Key && m.ToolId == "knife")));
    }

    /// <summary>What a width would give, soon, for who moves the slider; as the table's script wants it.</summary>
    public async Task<IActionResult> OnGetDraftAsync(string? typed, CancellationToken cancel)
    {
        await ShowCard(cancel);
        if (Design is null || !LengthText.TryRead(typed ?? "", LengthUnit, out var width, out var error)) return new JsonResult(new { says = "" });
        var limits = Asked with { Width = width };
        if (limits.Fault() is { } fault) return new JsonResult(new { says = fault });
        return new JsonResult(new { comes = Strengths.Draft(ToStrengthen, limits, cancel).ToSvg(), says = $"Limbs at least {Words.Measure(width, Unit)}." });
    }

    /// <summary>Strengthens what is named.</summary>
    /// <param name="how">The key of a strength.</param>
    /// <param name="typed">The width, where it was typed.</param>
    public async Task<IActionResult> OnPostStrengthenAsync(Guid basedOn, string? ids, string? how, string? typed, CancellationToken cancel)
    {
        await ShowCard(cancel);
        Length? width = null;
        if (!string.IsNullOrWhiteSpace(typed))
        {
            if (!LengthText.TryRead(typed, LengthUnit, out var read, out var error)) return await Say(error, cancel);
            width = read;
        }

        var named = Named(ids).Where(id => Design?.Piece(id) is not null).ToImmutableArray();
        if (named.IsEmpty) return await Say("What was to be strengthened is gone.", cancel);
        var asked = Strengths.Most(named.Select(id => BearsOf(Design!.Piece(id)!)));
        return Strengths.Of(asked, [.. named.Select(id => Design!.Piece(id)!)], width).FirstOrDefault(c => c.Key == how) is { } choice
            ? await Change(basedOn, choice.For(Design!, named, cancel), cancel) : await Say("That strength is not known.", cancel);
    }

    public Task<IActionResult> OnPostUnstrengthenAsync(Guid basedOn, string? ids, CancellationToken cancel) =>
        Change(basedOn, new Unstrengthen(Named(ids)), cancel);

    /// <summary>Joins loose parts to their neighbours by bridges.</summary>
    /// <param name="how">"dots" for small parts alone, "all" for all.</param>
    public async Task<IActionResult> OnPostBridgeAsync(Guid basedOn, string? ids, string? how, string? width, string? within, CancellationToken cancel)
    {
        var edit = Bridging(ids, how, width, within, out var error);
        return edit is null ? await Say(error, cancel) : await Change(basedOn, edit, cancel);
    }

    /// <summary>What bridges would come of it, as the table's script wants it.</summary>
    public IActionResult OnGetBridged(string? ids, string? how, string? width, string? within)
    {
        if (Design is not { } design || Bridging(ids, how, width, within, out var error) is not { } edit) return new JsonResult(new { says = "" });
        if (edit.Refusal(design) is { } refusal) return new JsonResult(new { says = refusal });
        var after = edit.Apply(design);
        int Parts(Design of) => Named(ids).Select(of.Piece).OfType<Piece>().Sum(p => p.Outline.Outer.Subpaths.Length);
        return new JsonResult(new
        {
            comes = Comes(design, after),
            says = $"{Words.Count(Parts(design), "part")} would become {Parts(after)}.",
        });
    }

    private Edit? Bridging(string? ids, string? how, string? width, string? within, out string error)
    {
        if (!LengthText.TryRead(width ?? "", LengthUnit, out var wide, out error) || !LengthText.TryRead(within ?? "", LengthUnit, out var far, out error))
            return null;
        var pieces = Named(ids).Select(id => Design?.Piece(id)).OfType<Piece>().Where(p => p.Outline.Outer.Subpaths.Length > 1).ToList();
        if (pieces.Count == 0)
        {
            error = "All is in one part already.";
            return null;
        }

        Edit Of(Piece p) => new Treat([p.Id], new Bridged(wide, far, how == "dots" ? Bridges.DotsUnderMm2(p.Outline) : null));
        return pieces.Count == 1 ? Of(pieces[0]) : new Series([.. pieces.Select(Of)], $"Join the loose parts of {pieces.Count} pieces by bridges");
    }

    /// <summary>What this docket asks for, whatever its papers bear; empty fields leave it to them.</summary>
    public Task<IActionResult> OnPostAskAsync(Guid basedOn, string? width, string? gap, CancellationToken cancel)
    {
        if (string.IsNullOrWhiteSpace(width) && string.IsNullOrWhiteSpace(gap)) return Change(basedOn, new AskOfPaper(null), cancel);
        if (!LengthText.TryRead(string.IsNullOrWhiteSpace(width) ? "0.8 mm" : width, LengthUnit, out var least, out var error)
            || !LengthText.TryRead(string.IsNullOrWhiteSpace(gap) ? "0.5 mm" : gap, LengthUnit, out var between, out error)) return Say(error, cancel);
        return Change(basedOn, new AskOfPaper(new(least, between)), cancel);
    }
}
