using Falzkunst.Core.Cards;
using Falzkunst.Core.Regions;

namespace Falzkunst.Core.Layout;

/// <summary>
/// Checks a layout without anything of the engine that made it: true shapes, exact distances. Quadratic in the pieces of a sheet whose boxes are near.
/// </summary>
public static class LayoutCheck
{
    /// <summary>What a gap or margin may fall short by, in mm.</summary>
    public const double Tolerance = 0.01;

    private sealed record Laid(string Name, int Copy, Region Region);

    /// <summary>What is wrong with what the engine answered, in sentences; empty when it is valid.</summary>
    public static ImmutableArray<string> Faults(NestRequest request, NestResult result)
    {
        var faults = ImmutableArray.CreateBuilder<string>();
        var regions = request.Pieces.ToDictionary(p => p.Id, p => Region.Of(p.Path, 0.002));
        foreach (var group in result.Placements.GroupBy(p => p.Sheet))
        {
            var sheet = request.Sheets.First(s => s.Id == group.First().SheetId);
            OnSheet(faults, $"sheet {group.Key}", sheet.Width, sheet.Height, sheet.Margin, request.Gap,
                [.. sheet.KeepOut.Select(k => Region.Of(k))], sheet.Outline,
                [.. group.Select(p => new Laid(p.Piece, p.Copy, regions[p.Piece].Transform(p.ToSheet)))]);
        }

        foreach (var id in request.Sheets)
            if (result.SheetIds.Count(s => s == id.Id) > id.Count) faults.Add($"More sheets of {id.Id} are used than there are.");
        foreach (var piece in request.Pieces)
        {
            var seen = result.Placements.Count(p => p.Piece == piece.Id) + result.Unplaced.Count(p => p.Piece == piece.Id);
            if (seen != piece.Count) faults.Add($"{piece.Id} is there {seen} times instead of {piece.Count}.");
        }

        return faults.ToImmutable();
    }

    /// <summary>What is wrong with a docket's layout, in sentences; empty when it is valid: every piece of every copy once, on its stock, and no more sheets
    /// than there are.</summary>
    /// <param name="drawer">The stocks that it was laid out on.</param>
    public static ImmutableArray<string> Faults(Design design, IReadOnlyList<Stock> drawer, DocketLayout layout, CancellationToken cancel = default)
    {
        var faults = Misfits(design, drawer, layout, cancel).ToBuilder();
        faults.AddRange(TooMany(drawer, layout));
        return faults.ToImmutable();
    }

    /// <summary>What is wrong with where the pieces lie, in sentences; empty where every piece of every copy lies once, on its stock, clear of the
    /// others.</summary>
    public static ImmutableArray<string> Misfits(Design design, IReadOnlyList<Stock> drawer, DocketLayout layout, CancellationToken cancel = default)
    {
        var faults = Lying(design, drawer, layout, cancel).ToBuilder();
        var seen = layout.Sheets.SelectMany(s => s.Pieces.Select(p => p.Which)).Concat(layout.NotCut).GroupBy(p => p)
            .ToDictionary(g => g.Key, g => g.Count());
        foreach (var piece in design.Papers)
            for (var copy = 1; copy <= piece.NumberFor(layout.Copies); copy++)
                if (seen.GetValueOrDefault(new(piece.Id, copy)) is not 1 and var n) faults.Add($"{piece.Label}, copy {copy}, is there {n} times.");
        return faults.ToImmutable();
    }

    /// <summary>What is wrong with the sheets of a layout, of which something may still be missing.</summary>
    public static ImmutableArray<string> SheetFaults(Design design, IReadOnlyList<Stock> drawer, DocketLayout layout, CancellationToken cancel = default) =>
        [.. Lying(design, drawer, layout, cancel), .. TooMany(drawer, layout)];

    private static ImmutableArray<string> Lying(Design design, IReadOnlyList<Stock> drawer, DocketLayout layout, CancellationToken cancel)
    {
        var faults = ImmutableArray.CreateBuilder<string>();
        var regions = design.Pieces.ToDictionary(p => p.Id, p => Region.Of(p.Outline, 0.002));
        for (var i = 0; i < layout.Sheets.Length; i++)
        {
            cancel.ThrowIfCancellationRequested();
            var sheet = layout.Sheets[i];
            foreach (var p in sheet.Pieces.Where(p => design.Piece(p.PieceId) is not { } piece || Stocks.For(piece, drawer)?.Id != sheet.StockId))
                faults.Add($"{p.PieceId} does not belong on sheet {i + 1}.");
            OnSheet(faults, $"sheet {i + 1}", sheet, layout.Gap, [.. sheet.Pieces.Where(p => regions.ContainsKey(p.PieceId))
                .Select(p => new Laid(design.Piece(p.PieceId)!.Label, p.Copy, regions[p.PieceId].Transform(p.ToSheet)))]);
        }

        return faults.ToImmutable();
    }

    private static IEnumerable<string> TooMany(IReadOnlyList<Stock> drawer, DocketLayout layout)
    {
        foreach (var stock in drawer)
            foreach (var size in stock.Sheets.DistinctBy(s => s with { Count = 0 }))
            {
                // Two rows of one size are one pile.
                var there = stock.Sheets.Where(s => s.IsLike(size)).Sum(s => s.Count);
                var used = layout.Sheets.Count(s => s.StockId == stock.Id && s.Size.IsLike(size));
                if (used > there) yield return $"{used} sheets of {stock.Name} are used, and there are {there}.";
            }
    }

    /// <summary>What is wrong with where one piece of a sheet lies, as a sentence; null where nothing is.</summary>
    /// <param name="index">Which of the sheet's pieces.</param>
    public static string? Fault(Design design, SheetPlan sheet, Length gap, int index)
    {
        var faults = ImmutableArray.CreateBuilder<string>();
        var reach = Box.Empty;
        var laid = new List<Laid>();
        // The one that is asked for comes last: it is compared with those before it, as far as they are near.
        foreach (var p in sheet.Pieces.Where((_, i) => i != index).Prepend(sheet.Pieces[index]))
        {
            if (design.Piece(p.PieceId) is not { } piece) continue;
            var path = piece.Outline.Transform(p.ToSheet);
            if (reach.IsEmpty) reach = path.Bounds.Grown(sheet.GapOf(gap).Mm + 1);
            if (reach.Touches(path.Bounds)) laid.Insert(0, new(piece.Label, p.Copy, Region.Of(path, 0.002)));
        }

        OnSheet(faults, "the sheet", sheet, gap, laid, laid.Count - 1);
        return faults.Count > 0 ? faults[0] : null;
    }

    private static void OnSheet(ImmutableArray<string>.Builder faults, string name, SheetPlan sheet, Length gap, List<Laid> laid, int from = 0)
    {
        var (size, printed) = (sheet.Size, sheet.Printed);
        OnSheet(faults, name, size.Width, size.Height, printed?.MarginOn(size) ?? size.Margin, sheet.GapOf(gap),
            [.. (printed?.KeptFree ?? []).Select(k => Region.Of(k))], size.Outline, laid, from);
    }

    private static void OnSheet(ImmutableArray<string>.Builder faults, string name, Length width, Length height, Length margin, Length gap,
        List<Region> keepOuts, VectorPath? outline, List<Laid> laid, int from = 0)
    {
        var whole = outline is null ? null : Region.Of(outline, 0.002).Outset(Length.FromMm(Tolerance) - margin);
        for (var i = from; i < laid.Count; i++)
        {
            var (piece, copy, region) = laid[i];
            var box = region.Bounds;
            var edge = Math.Min(Math.Min(box.Left, box.Top), Math.Min(width.Mm - box.Right, height.Mm - box.Bottom));
            if (edge < margin.Mm - Tolerance) faults.Add($"{piece} {copy} lies {edge:0.###} mm from the edge of {name}.");
            if (whole is not null && !whole.Holds(region))
                faults.Add($"{piece} {copy} lies too near to the outline of {name}, or outside.");
            foreach (var keep in keepOuts)
                if (region.DistanceTo(keep) < gap.Mm - Tolerance) faults.Add($"{piece} {copy} lies in a keep-out of {name}.");
            for (var j = 0; j < i; j++)
            {
                if (!box.Grown(gap.Mm).Touches(laid[j].Region.Bounds)) continue;
                var distance = region.DistanceTo(laid[j].Region);
                if (distance < gap.Mm - Tolerance || (gap.Mm <= Tolerance && region.Overlap(laid[j].Region).AreaMm2 > Tolerance))
                    faults.Add($"{piece} {copy} and {laid[j].Name} {laid[j].Copy} are {distance:0.###} mm apart on {name}.");
            }
        }
    }
}
