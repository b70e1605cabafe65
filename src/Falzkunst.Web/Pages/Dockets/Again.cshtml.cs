using System.Collections.Immutable;
using Falzkunst.Core.Cards;
using Microsoft.AspNetCore.Mvc;

namespace Falzkunst.Web.Pages.Dockets;

/// <summary>A docket once more: another number, other papers, and straight to its sheets.</summary>
public sealed class AgainModel(DocketParts parts) : SheetsPage(parts)
{
    public override int Stage => 6;

    /// <summary>The papers that it takes now, each with its pieces; those that stand for things take none.</summary>
    public IReadOnlyList<(Stock Stock, ImmutableArray<string> Pieces)> Papers => Design is not { } design ? [] :
        [.. design.Papers.Select(p => (Stock: Core.Cards.Stocks.For(p, Stocks), p.Id)).Where(p => p.Stock is not null).GroupBy(p => p.Stock!.Id)
            .Select(g => (g.First().Stock!, g.Select(p => p.Id).ToImmutableArray()))];

    protected override Task ReadPage(CancellationToken cancel) => ReadLayout(cancel);

    /// <param name="begun">Whether it was asked for: then its sheets are shown as soon as they are there.</param>
    public async Task<IActionResult> OnGetAsync(bool begun, CancellationToken cancel)
    {
        await ReadLayout(cancel);
        return begun && !Working ? LocalRedirect(Address("run")) : Page();
    }

    /// <param name="papers">For each of the papers that it takes now the one that it is to take, by their ids, parted by a colon.</param>
    public async Task<IActionResult> OnPostAgainAsync(Guid basedOn, int copies, string[] papers, CancellationToken cancel)
    {
        if (Design is not { Pieces.IsEmpty: false }) return Back("There is no piece to make.");
        if (copies is < 1 or > MostOfDocket) return Back("Copies go from 1 to 1000.");
        await SetCopies(copies, cancel);
        var takes = Papers.ToDictionary(p => p.Stock.Id, p => p.Pieces);
        var edits = papers.Select(p => p.Split(':')).Where(p => p.Length == 2 && p[0] != p[1] && takes.ContainsKey(p[0]) && Stocks.Exists(s => s.Id == p[1]))
            .Select(p => (Edit)new AssignStock(takes[p[0]], p[1])).ToImmutableArray();
        if (!edits.IsEmpty)
        {
            var before = Docket.CurrentRevisionId;
            var done = await Change(basedOn, edits.Length == 1 ? edits[0] : new Series(edits, "Take other papers"), cancel);
            if (Docket.CurrentRevisionId == before) return done;
        }

        // All papers were shown, and could be chosen.
        await LayOut(false, cancel);
        return LocalRedirect(Address("again") + "?begun=true");
    }
}
