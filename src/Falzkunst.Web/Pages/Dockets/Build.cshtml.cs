using Falzkunst.Core.Cards;
using Microsoft.AspNetCore.Mvc;

namespace Falzkunst.Web.Pages.Dockets;

public sealed class BuildModel(DocketParts parts) : LooksPage(parts)
{
    public override int Stage => 2;

    public bool Apart { get; private set; }

    public void OnGet(string? piece, string? line, string? look, string? view)
    {
        Choose(piece, line, look);
        Apart = view == "apart";
    }

    /// <summary>In one line: "cut, 1 outline, 412 mm; draw, 2 lines, 1.2 m".</summary>
    public string WouldHappen(Piece piece, IReadOnlyList<Line> carried)
    {
        var words = new List<string>();
        foreach (var group in piece.Outline.Subpaths.Select((s, i) => (Operation: i == 0 ? piece.OuterOperation : piece.HoleOperation, Path: new Core.Shapes.VectorPath([s]))).GroupBy(t => t.Operation))
            words.Add($"{group.Key.Word()} {Words.Count(group.Count(), "outline")}, {Words.Run(group.Sum(t => t.Path.LengthMm))}");
        foreach (var group in carried.GroupBy(l => l.Operation))
            words.Add($"{group.Key.Word()} {Words.Count(group.Count(), "line")}, {Words.Run(group.Sum(l => l.Path.LengthMm))}");
        return string.Join("; ", words);
    }

    public Task<IActionResult> OnPostLineAsync(Guid basedOn, string line, string operation, CancellationToken cancel) =>
        Operations.TryRead(operation, out var wanted) ? Change(basedOn, new SetLineOperation([line], wanted), cancel) : Task.FromResult(Back("That operation is not known."));

    public Task<IActionResult> OnPostFoldSideAsync(Guid basedOn, string line, FoldSide side, CancellationToken cancel) =>
        Change(basedOn, new SetFoldSide([line], side), cancel);

    public Task<IActionResult> OnPostOutlineAsync(Guid basedOn, string piece, string part, string operation, CancellationToken cancel) =>
        Operations.TryRead(operation, out var wanted) ? Change(basedOn, new SetOutlineOperation([piece], wanted, part == "outer", part == "holes"), cancel) : Task.FromResult(Back("That operation is not known."));

    public Task<IActionResult> OnPostPlyAsync(Guid basedOn, string piece, string ply, CancellationToken cancel) => Change(basedOn, new PutOnPly([piece], ply), cancel);

    public Task<IActionResult> OnPostMovePlyAsync(Guid basedOn, string ply, int to, CancellationToken cancel) => Change(basedOn, new MovePly(ply, to), cancel);

    public Task<IActionResult> OnPostStockAsync(Guid basedOn, string pieces, string? stock, CancellationToken cancel) =>
        Change(basedOn, new AssignStock([.. (pieces ?? "").Split(',')], stock ?? ""), cancel);

    public Task<IActionResult> OnPostRenameAsync(Guid basedOn, string id, string label, CancellationToken cancel)
    {
        label = (label ?? "").Trim();
        return label.Length is 0 or > 60 ? Task.FromResult(Back("A name has 1 to 60 letters.")) : Change(basedOn, new Rename(id, label), cancel);
    }
}
