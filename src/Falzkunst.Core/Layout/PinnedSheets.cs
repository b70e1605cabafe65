using Falzkunst.Core.Cards;

namespace Falzkunst.Core.Layout;

/// <summary>What of a layout stays when the rest is laid out again: the sheets of a stock on which something is pinned, and what was set beside.</summary>
internal sealed class PinnedSheets
{
    private const string Mark = "pinned ";

    private readonly Dictionary<string, ImmutableArray<int>> _left = [];
    private readonly ImmutableDictionary<string, VectorPath> _outlines;
    private readonly Stock _stock;

    public PinnedSheets(DocketLayout? kept, Stock stock, Design design)
    {
        Sheets = [.. (kept?.Sheets ?? []).Where(s => s.StockId == stock.Id && s.Pieces.Any(p => p.Pinned))
            .Select((s, i) => ($"{Mark}{i}", s with { Pieces = [.. s.Pieces.Where(p => p.Pinned)] }))];
        _stock = stock;
        _outlines = design.Papers.ToImmutableDictionary(p => p.Id, p => p.Outline);
        if (kept is null) return;
        var taken = Sheets.SelectMany(s => s.Sheet.Pieces.Select(p => p.Which)).Concat(kept.Beside).ToLookup(w => w.PieceId, w => w.Copy);
        foreach (var of in taken) _left[of.Key] = [.. Enumerable.Range(1, design.Piece(of.Key)?.NumberFor(kept.Copies) ?? 0).Except(of)];
    }

    /// <summary>Each with what is pinned on it, and the name that the engine knows it by.</summary>
    public ImmutableArray<(string Id, SheetPlan Sheet)> Sheets { get; }

    public bool IsEmpty => Sheets.IsEmpty;

    /// <summary>Whether the engine knows sheets of the drawer by this name.</summary>
    public static bool IsOfDrawer(string id) => !id.StartsWith(Mark, StringComparison.Ordinal);

    /// <summary>The number of a copy, of the engine's number of it among those that are left.</summary>
    public int CopyOf(string piece, int copy) => _left.TryGetValue(piece, out var left) ? left[copy - 1] : copy;

    /// <summary>What is left to lay out: pinned sheets cost nothing more, and nothing comes nearer to what lies on them than the gap.</summary>
    public NestRequest Rest(NestRequest request)
    {
        var used = Sheets.Select(s => s.Sheet).ToList();
        var drawer = request.Sheets.ToBuilder();
        for (var i = 0; i < drawer.Count; i++)
        {
            var like = used.Where(s => s.Size.IsLike(SheetPlans.SizeOf(_stock, drawer[i].Id))).Take(drawer[i].Count).ToList();
            foreach (var s in like) used.Remove(s);
            drawer[i] = drawer[i] with { Count = drawer[i].Count - like.Count };
        }

        return request with
        {
            Pieces = [.. request.Pieces.Select(p => _left.TryGetValue(p.Id, out var left) ? p with { Count = left.Length } : p)],
            Sheets = [.. Sheets.Select(s => Around(SheetPlans.SheetOf(s.Id, s.Sheet.Size, s.Sheet.Printed), s.Sheet)), .. drawer],
        };
    }

    private NestSheet Around(NestSheet sheet, SheetPlan plan) => sheet with
    {
        Price = 0,
        KeepOut = sheet.KeepOut.AddRange(plan.Pieces.Where(p => _outlines.ContainsKey(p.PieceId)).Select(p => _outlines[p.PieceId].Transform(p.ToSheet))),
    };
}
