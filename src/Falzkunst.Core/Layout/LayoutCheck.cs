using Falzkunst.Core.Regions;

namespace Falzkunst.Core.Layout;

/// <summary>
/// Checks a layout without anything of the engine that made it: true shapes, exact distances. Quadratic in the pieces of a sheet whose boxes are near.
/// </summary>
public static class LayoutCheck
{
    /// <summary>What a gap or margin may fall short by, in mm.</summary>
    public const double Tolerance = 0.01;

    /// <summary>What is wrong with the layout, in sentences; empty when it is valid.</summary>
    public static ImmutableArray<string> Faults(NestRequest request, NestResult result)
    {
        var faults = ImmutableArray.CreateBuilder<string>();
        var regions = request.Pieces.ToDictionary(p => p.Id, p => Region.Of(p.Path, 0.002));
        foreach (var group in result.Placements.GroupBy(p => p.Sheet))
        {
            var sheet = request.Sheets.First(s => s.Id == group.First().SheetId);
            var placed = group.Select(p => (Placement: p, Region: regions[p.Piece].Transform(p.ToSheet))).ToList();
            var keepOuts = sheet.KeepOut.Select(k => Region.Of(k)).ToList();
            for (var i = 0; i < placed.Count; i++)
            {
                var (p, region) = placed[i];
                var box = region.Bounds;
                var edge = Math.Min(Math.Min(box.Left, box.Top), Math.Min(sheet.Width.Mm - box.Right, sheet.Height.Mm - box.Bottom));
                if (edge < sheet.Margin.Mm - Tolerance) faults.Add($"{p.Piece} {p.Copy} lies {edge:0.###} mm from the edge of sheet {p.Sheet}.");
                foreach (var keep in keepOuts)
                    if (region.DistanceTo(keep) < request.Gap.Mm - Tolerance) faults.Add($"{p.Piece} {p.Copy} lies in a keep-out of sheet {p.Sheet}.");
                for (var j = 0; j < i; j++)
                {
                    if (!box.Grown(request.Gap.Mm).Touches(placed[j].Region.Bounds)) continue;
                    var distance = region.DistanceTo(placed[j].Region);
                    if (distance < request.Gap.Mm - Tolerance || (request.Gap.Mm <= Tolerance && region.Overlap(placed[j].Region).AreaMm2 > Tolerance))
                        faults.Add($"{p.Piece} {p.Copy} and {placed[j].Placement.Piece} {placed[j].Placement.Copy} are {distance:0.###} mm apart on sheet "
                            + $"{p.Sheet}.");
                }
            }
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
}
