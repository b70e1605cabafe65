using Falzkunst.Core.Cards;
using Microsoft.AspNetCore.Mvc;

namespace Falzkunst.Web.Pages.Dockets;

/// <summary>A stage that shows the look table, and what is chosen on the table.</summary>
public abstract class LooksPage(DocketParts parts) : DocketPage(parts)
{
    public string Look { get; private set; } = "";

    public Piece? Piece { get; private set; }

    public Line? Line { get; private set; }

    public IReadOnlyList<LookRow> Looks { get; private set; } = [];

    protected void Choose(string? piece, string? line, string? look)
    {
        Look = look ?? "";
        if (Design is null) return;
        Piece = piece is null ? null : Design.Piece(piece);
        Line = line is null ? null : Design.Line(line);
        Looks = DocketParts.LooksOf(Design);
    }

    /// <summary>Leaves out what is named, its carried things too; each can be put back just as it was.</summary>
    public Task<IActionResult> OnPostLeaveOutAsync(Guid basedOn, string ids, CancellationToken cancel) => Change(basedOn, new LeaveOut([.. (ids ?? "").Split(',')]), cancel);

    public Task<IActionResult> OnPostLookAsync(Guid basedOn, string look, string operation, CancellationToken cancel) =>
        Operations.TryRead(operation, out var wanted) ? Change(basedOn, new SetLookOperation(look, wanted), cancel) : Task.FromResult(Back("That operation is not known."));
}
