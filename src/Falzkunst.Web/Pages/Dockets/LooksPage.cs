using System.Collections.Immutable;
using System.Globalization;
using Falzkunst.Core.Cards;
using Falzkunst.Store;
using Falzkunst.Web.Table;
using Microsoft.AspNetCore.Mvc;

namespace Falzkunst.Web.Pages.Dockets;

/// <summary>A stage with the design on the table, the look table, and what is chosen.</summary>
public abstract class LooksPage(DocketParts parts) : DocketPage(parts)
{
    private const int MostChosen = 20_000, LongestWayMm = 10_000;

    public string Look { get; private set; } = "";

    /// <summary>The one piece that is chosen; null where none is, or several are.</summary>
    public Piece? Piece { get; private set; }

    public LaidLine? Line { get; private set; }

    /// <summary>The pieces that are chosen, where they are several.</summary>
    public IReadOnlyList<Piece> Several { get; private set; } = [];

    /// <summary>The chosen pieces, however many.</summary>
    public IReadOnlyList<Piece> ChosenPieces => Piece is null ? Several : [Piece];

    /// <summary>The ids of what is chosen, as forms send them.</summary>
    public string ChosenIds => Line?.Id ?? string.Join(',', ChosenPieces.Select(p => p.Id));

    public IReadOnlyList<LookRow> Looks { get; private set; } = [];

    /// <summary>Whether the plies lie beside one another.</summary>
    public bool Apart => Request.Query["view"] == "apart";

    /// <summary>The address of the stage as it is looked at, with nothing chosen.</summary>
    public string Here => Address(StagePath) + (Apart ? "?view=apart" : "");

    /// <summary>The address where one thing is chosen.</summary>
    public string Choose(string what, string id) => $"{Here}{(Apart ? '&' : '?')}{what}={Uri.EscapeDataString(id)}";

    public string ChooseAll(IEnumerable<Piece> pieces) => Choose("pieces", string.Join(',', pieces.Select(p => p.Id)));

    /// <summary>How the table is dressed: small things, links, and what was chosen.</summary>
    public TableDress Dress(Design design) => TableSvg.Dress(design, Here, Docket.Number) with
    {
        Chosen = Several.Select(p => p.Id).Concat(new[] { Piece?.Id, Line?.Id }.OfType<string>()).ToHashSet(StringComparer.Ordinal),
        ChosenLook = Look,
    };

    protected override Task ShowCard(CancellationToken cancel)
    {
        Look = Request.Query["look"].ToString();
        if (Design is null) return Task.CompletedTask;
        var named = Named(Request.Query["pieces"]).Select(Design.Piece).OfType<Piece>().Distinct().ToList();
        Piece = Design.Piece(Request.Query["piece"].ToString()) ?? (named.Count == 1 ? named[0] : null);
        Several = named.Count > 1 ? named : [];
        Line = Request.Query["line"].ToString() is { Length: > 0 } line ? Design.Line(line) : null;
        Looks = DocketParts.LooksOf(Design);
        return Task.CompletedTask;
    }

    protected override bool IsGone(string key, string value) => Design is { } d && key switch
    {
        "piece" => d.Piece(value) is null,
        "pieces" => !value.Split(',').Any(id => d.Piece(id) is not null),
        "line" => d.Line(value) is null,
        _ => false,
    };

    protected override string? TableChanges(Design before) =>
        Design is null ? null : TableSvg
            .Changes(before, Design, Findings, Apart, TableSvg.Dress(Design, Here, Docket.Number), Docket.CurrentRevisionId ?? Guid.Empty);

    /// <summary>Leaves out what is named, its carried things too; each can be put back just as it was.</summary>
    public Task<IActionResult> OnPostLeaveOutAsync(Guid basedOn, string ids, CancellationToken cancel) => Change(basedOn, new LeaveOut(Named(ids)), cancel);

    public Task<IActionResult> OnPostLookAsync(Guid basedOn, string look, string operation, CancellationToken cancel) =>
        Operations.TryRead(operation, out var wanted) ? Change(basedOn, new SetLookOperation(look ?? "", wanted), cancel)
            : Say("That operation is not known.", cancel);

    /// <summary>Moves what is named by so much: a drag or arrow keys send millimetres and their gesture, a person types lengths.</summary>
    public Task<IActionResult> OnPostMoveAsync(Guid basedOn, string ids, string right, string down, string? gesture, CancellationToken cancel)
    {
        if (!Read(right, out var x, out var error) || !Read(down, out var y, out error)) return Say(error, cancel);
        if (Math.Abs(x.Mm) > LongestWayMm || Math.Abs(y.Mm) > LongestWayMm) return Say("That is farther than ten metres; it was not moved.", cancel);
        return Change(basedOn, new Move(Named(ids), x, y), cancel, gesture ?? "");

        bool Read(string? text, out Length length, out string error)
        {
            // What a script sends is millimetres, whatever the unit of the person.
            if (gesture is { Length: > 0 } && double.TryParse(text, CultureInfo.InvariantCulture, out var mm) && double.IsFinite(mm))
            {
                (length, error) = (Length.FromMm(mm), "");
                return true;
            }

            return LengthText.TryRead(string.IsNullOrWhiteSpace(text) ? "0" : text, LengthUnit, out length, out error);
        }
    }

    protected static ImmutableArray<string> Named(string? ids) => [.. (ids ?? "").Split(',', MostChosen, StringSplitOptions.RemoveEmptyEntries)];
}
