using Falzkunst.Core.Cards;
using Microsoft.AspNetCore.Mvc;

namespace Falzkunst.Web.Pages.Dockets;

/// <summary>One row of the look table.</summary>
/// <param name="Mixed">Whether the lines of this look do different things.</param>
public sealed record LookRow(Look Look, int Count, double LengthMm, Operation Operation, bool Mixed, string Why, bool IsPieces);

/// <summary>A stage that shows the look table, and what is chosen on the table.</summary>
public abstract class LooksPage(DocketParts parts) : DocketPage(parts)
{
    public string Look { get; private set; } = "";

    public Piece? Piece { get; private set; }

    public Line? Line { get; private set; }

    public List<LookRow> Looks { get; private set; } = [];

    protected void Choose(string? piece, string? line, string? look)
    {
        Look = look ?? "";
        if (Design is null) return;
        Piece = piece is null ? null : Design.Piece(piece);
        Line = line is null ? null : Design.Line(line);
        var lines = Design.Lines.ToLookup(l => l.Look);
        var pieces = Design.Pieces.ToLookup(p => p.Look);
        foreach (var l in Design.Looks)
        {
            var its = lines[l.Key].ToList();
            var paper = pieces[l.Key].ToList();
            if (its.Count == 0 && paper.Count == 0) continue;
            var first = paper.Count > 0 ? paper[0].OuterOperation : its[0].Operation;
            var mixed = its.Any(x => x.Operation != first) || paper.Any(x => x.OuterOperation != first);
            Looks.Add(new(l, its.Count + paper.Count, its.Sum(x => x.Path.LengthMm), first, mixed, paper.Count > 0 ? paper[0].Why : its[0].Why, paper.Count > 0));
        }

        // Lines first: their operations are what is still to be decided.
        Looks = [.. Looks.OrderBy(r => r.IsPieces)];
    }

    public Task<IActionResult> OnPostLookAsync(Guid basedOn, string look, string operation, CancellationToken cancel) =>
        Operations.TryRead(operation, out var wanted) ? Change(basedOn, new SetLookOperation(look, wanted), cancel) : Task.FromResult(Back("That operation is not known."));
}
