using System.Collections.Immutable;
using Falzkunst.Core.Cards;
using Falzkunst.Core.Measures;
using Falzkunst.Core.Strength;
using Microsoft.AspNetCore.Mvc;

namespace Falzkunst.Web.Pages.Dockets;

/// <summary>Where pieces are too weak for their papers, and strengths to choose from.</summary>
public sealed class StrengthenModel(DocketParts parts) : LooksPage(parts)
{
    public const int ShownPlaces = 60;

    private CardInspection? _seen;

    private IReadOnlyList<(InspectedPiece Of, ThinPlace Place)>? _places;

    private Length? _typed;

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

    public IReadOnlyList<StrengthOutcome> Outcomes { get; private set; } = [];

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

    /// <summary>The strengths beside each other; it takes as long as they take to be made.</summary>
    public async Task<IActionResult> OnGetPlatesAsync(string? typed, CancellationToken cancel)
    {
        await ShowCard(cancel);
        if (Design is not { } design || ToStrengthen.Count == 0) return Content("");
        _typed = !string.IsNullOrWhiteSpace(typed) && LengthText.TryRead(typed, LengthUnit, out var width, out _) ? width : null;
        var ids = ToStrengthen.Select(p => p.Id).ToImmutableArray();
        Outcomes = [.. Strengths.Of(Asked, _typed).Where(c => c.How.Limits.Fault() is null).Select(c => Strengths.Try(design, ids, c, Asked, cancel))];
        return Partial("_Strengths", this);
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
        return Strengths.Of(asked, width).FirstOrDefault(c => c.Key == how) is { } choice
            ? await Change(basedOn, new Strengthen(named, choice.How), cancel) : await Say("That strength is not known.", cancel);
    }

    public Task<IActionResult> OnPostUnstrengthenAsync(Guid basedOn, string? ids, CancellationToken cancel) =>
        Change(basedOn, new Unstrengthen(Named(ids)), cancel);

    /// <summary>What this docket asks for, whatever its papers bear; empty fields leave it to them.</summary>
    public Task<IActionResult> OnPostAskAsync(Guid basedOn, string? width, string? gap, CancellationToken cancel)
    {
        if (string.IsNullOrWhiteSpace(width) && string.IsNullOrWhiteSpace(gap)) return Change(basedOn, new AskOfPaper(null), cancel);
        if (!LengthText.TryRead(string.IsNullOrWhiteSpace(width) ? "0.8 mm" : width, LengthUnit, out var least, out var error)
            || !LengthText.TryRead(string.IsNullOrWhiteSpace(gap) ? "0.5 mm" : gap, LengthUnit, out var between, out error)) return Say(error, cancel);
        return Change(basedOn, new AskOfPaper(new(least, between)), cancel);
    }
}
