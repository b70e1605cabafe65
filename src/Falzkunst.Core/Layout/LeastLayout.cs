namespace Falzkunst.Core.Layout;

/// <summary>What any layout takes at least: a bound for those that need as few sheets as their areas do.</summary>
public static class LeastLayout
{
    /// <summary>
    /// What the price and the part of the last sheet can't go below, for what has a place; null where a layout may do with fewer or cheaper sheets, or pieces
    /// turn freely. On one sheet all pieces lie, so it is used as far as the largest of them reaches in its best turn; of several, the last bears at least the
    /// smallest. Linear in the pieces.
    /// </summary>
    /// <param name="fitting">The pieces that fit on a sheet.</param>
    public static double? Of(NestRequest request, IEnumerable<NestPiece> fitting, NestResult result)
    {
        ImmutableArray<NestPiece> pieces = [.. fitting];
        ImmutableArray<NestSheet> sheets = [.. request.Sheets.Where(s => s.Count > 0)];
        if (pieces.IsEmpty || sheets.IsEmpty || pieces.Any(p => p.Angles.Length == 0)) return null;
        var cheapest = sheets.Min(s => s.Price);
        var number = Math.Max(1, SheetsByArea(request.Gap, sheets, pieces));
        var price = number * cheapest;
        // What costs as little as that many of the cheapest is such sheets.
        if (result.SheetIds.Length != number || result.Price > price + 1e-9) return null;
        return price + sheets.Where(s => s.Price <= cheapest + 1e-9).Min(Part);

        double Part(NestSheet sheet)
        {
            var reaches = pieces.Select(p => p.Angles.Min(a => Reach(p.Path.Transform(Affine.Turn(Angle.FromDegrees(a))).Bounds)));
            return number == 1 ? reaches.Max() : reaches.Min();

            double Reach(Box box) => Math.Min((sheet.Margin.Mm + box.Height) / sheet.Height.Mm, (sheet.Margin.Mm + box.Width) / sheet.Width.Mm);
        }
    }

    /// <summary>How many sheets pieces need by their area alone, on the largest of them.</summary>
    public static int SheetsByArea(Length gap, IEnumerable<NestSheet> sheets, IEnumerable<NestPiece> pieces) =>
        (int)Math.Ceiling(pieces.Sum(p => p.AreaMm2 * p.Count) / sheets.Max(s => s.RoomFor(gap)) - 1e-9);
}
