using Falzkunst.Core.Cards;

namespace Falzkunst.Core.Layout;

/// <summary>A piece to place <paramref name="Count"/> times. The path is even-odd: holes are holes, and a small piece may lie in one.</summary>
/// <param name="Flip">Whether it may be laid on its face.</param>
public sealed record NestPiece(string Id, VectorPath Path, int Count, Turns Turns = Turns.Quarter, bool Flip = false)
{
    private (VectorPath Of, double AreaMm2)? _area;

    /// <summary>Which card it belongs to, where those of several are laid out: what repeats is looked for of each.</summary>
    public int Set { get; init; }

    internal double AreaMm2
    {
        get
        {
            // A copy with another path takes this field along.
            if (_area is not { } known || !ReferenceEquals(known.Of, Path)) _area = known = (Path, Regions.Region.Of(Path).AreaMm2);
            return known.AreaMm2;
        }
    }

    /// <summary>The turns it may have, in degrees; empty where it may have any.</summary>
    internal double[] Angles => Turns switch { Turns.None => [0], Turns.Half => [0, 180], Turns.Quarter => [0, 90, 180, 270], _ => [] };

    /// <summary>On which faces it may lie: turned over or not.</summary>
    internal bool[] Faces => Flip ? [false, true] : [false];
}

/// <summary>Sheets of one size: at most <paramref name="Count"/> of them, nothing within the margin, nothing within the gap of a keep-out.</summary>
public sealed record NestSheet(string Id, Length Width, Length Height, Length Margin, int Count, ImmutableArray<VectorPath> KeepOut)
{
    public Length UsableWidth => Width - Margin * 2;

    public Length UsableHeight => Height - Margin * 2;

    /// <summary>What a sheet costs; only how it stands to others matters.</summary>
    public double Price { get; init; } = 1;

    /// <summary>Its outline, where it is no rectangle (an off-cut): pieces keep the margin from that too. Null for a rectangle.</summary>
    public VectorPath? Outline { get; init; }

    public double AreaMm2 => Outline is null ? Width.Mm * Height.Mm : Regions.Region.Of(Outline).AreaMm2;

    /// <summary>The area that pieces can fill, with half the gap around each of them, in mm².</summary>
    internal double RoomFor(Length gap) => Math.Min(AreaMm2, (UsableWidth + gap).Mm * (UsableHeight + gap).Mm);

    /// <summary>Where pieces may lie, in mm of the sheet.</summary>
    internal Box Room => new(Margin.Mm, Margin.Mm, (Width - Margin).Mm, (Height - Margin).Mm);

    /// <summary>The shapes of what pieces have to keep the gap from, each where it lies.</summary>
    internal IEnumerable<(Turned Turned, Point At)> Obstacles(Length gap) => Blocked(gap).Select(path => Footprint.Of(path, gap)).Where(shape => !shape.IsEmpty)
        .Select(shape => (shape.In(0), shape.Centre));

    /// <summary>What pieces have to keep the gap from: the keep-outs, and all around an outline that pieces have to keep the margin from.</summary>
    internal IEnumerable<VectorPath> Blocked(Length gap)
    {
        if (Outline is null) return KeepOut;
        const double Beyond = 10;
        var outline = Regions.Region.Of(Outline, Tolerances.Measure);
        var inner = outline.Outset(gap - Margin);
        var around = Regions.Region.Of(VectorPath.Rectangle(-Beyond, -Beyond, Width.Mm + 2 * Beyond, Height.Mm + 2 * Beyond)).TakeAway(inner);
        if (gap <= Margin) return KeepOut.AddRange(around.ToPaths());
        // In a corner that goes inwards, what keeps the gap from all around may still reach over the outline: what lies between is kept free too.
        var between = inner.Outset(-gap).TakeAway(outline.Outset(Length.FromMm(0.003) - Margin));
        return KeepOut.AddRange(around.ToPaths()).AddRange(between.ToPaths());
    }
}

public sealed record NestRequest(Length Gap, ImmutableArray<NestSheet> Sheets, ImmutableArray<NestPiece> Pieces)
{
    /// <summary>Makes the search take other turns.</summary>
    public int Seed { get; init; } = 1;

    /// <summary>How much to look for a better layout: the counted work that a slow machine does in this time. The same request gives the same layout on each
    /// machine, sooner or later, unless <see cref="Until"/> ends it.</summary>
    public TimeSpan Effort { get; init; } = TimeSpan.FromSeconds(5);

    /// <summary>How many rounds of the search instead of all that the effort allows, each a fortieth of it. Null for the whole effort.</summary>
    public int? Rounds { get; init; }

    /// <summary>Once this is cancelled it is enough: what is not placed yet is placed in a hurry, and nothing better is looked for. For those who have so much
    /// time and no more.</summary>
    public CancellationToken Until { get; init; }

    /// <summary>Whether whole sets (see <see cref="Repeats"/>) stay together on their sheets, whatever that costs.</summary>
    public bool SetsTogether { get; init; }

    /// <summary>Whether the search ends as soon as all pieces have a place.</summary>
    public bool StopsWhenAllFit { get; init; }
}

/// <summary>
/// Where a copy lies: a point (x, y) of the piece lands at R·F·(x, y) + Shift, where F mirrors x when flipped and R turns by Turn.
/// </summary>
public sealed record Placement(string Piece, int Copy, int Sheet, string SheetId, Angle Turn, bool Flipped, Point Shift)
{
    public Affine ToSheet => new Place(Turn, Shift, Flipped).Map;

    /// <summary>A copy of a piece whose footprint lies in this turn, with its middle at a point.</summary>
    internal static Placement Of(string piece, int copy, int sheet, string sheetId, Turned turned, Point at)
    {
        var turn = Angle.FromDegrees(turned.Degrees);
        var from = new Place(turn, default, turned.Flipped).Map.Apply(turned.Shape.Centre);
        return new(piece, copy, sheet, sheetId, turn, turned.Flipped, at - from);
    }
}

public sealed record Unplaced(string Piece, int Copy, string Why)
{
    internal const string NoRoom = "no sheet is left that has room for it", Stopped = "the layout was stopped before it was placed";
}

/// <param name="SheetIds">The sheets used, in order: the size of each.</param>
/// <param name="Utilisation">The area of the placed pieces by the area of the sheets used, 0 to 1.</param>
/// <param name="LastSheetPart">How far down the last sheet is used, or how far across where that is less, 0 to 1.</param>
/// <param name="Price">What the sheets cost.</param>
public sealed record NestResult(ImmutableArray<Placement> Placements, ImmutableArray<Unplaced> Unplaced, ImmutableArray<string> SheetIds, double Utilisation,
    double LastSheetPart, double Price)
{
    /// <summary>Less is better: first what could not be placed, then the price of the sheets, then the part of the last sheet that is used.</summary>
    public double Cost => Unplaced.Length * 1e6 + Price + LastSheetPart;

    /// <summary>What was wrong with a layout that a search found, which is why the first fill is given instead; empty where nothing was.</summary>
    public ImmutableArray<string> Discarded { get; init; } = [];

    /// <summary>The sheets to look for room on next, by their number in the request: the same where something has no place yet; otherwise without the one that
    /// holds least for its price.</summary>
    /// <param name="tooLarge">How many copies fit on no sheet at all.</param>
    /// <returns>The sheets, and which of those in use is left out; a number beyond them where none is.</returns>
    internal (ImmutableArray<int> Kinds, int Without) Next(NestRequest request, int tooLarge)
    {
        var kinds = SheetIds.Select(id => request.Sheets.IndexOf(request.Sheets.First(s => s.Id == id))).ToImmutableArray();
        if (Unplaced.Length > tooLarge)
        {
            // Where nothing lies anywhere, a search may still find room on a sheet.
            if (kinds.IsEmpty && request.Sheets.Where(s => s.Count > 0).MinBy(s => s.Price / s.AreaMm2) is { } any) kinds = [request.Sheets.IndexOf(any)];
            return (kinds, kinds.Length);
        }

        if (kinds.IsEmpty) return (kinds, 0);
        var areas = request.Pieces.ToDictionary(p => p.Id, p => p.AreaMm2);
        var used = new double[kinds.Length];
        foreach (var p in Placements) used[p.Sheet] += areas[p.Piece];
        var emptiest = Enumerable.Range(0, kinds.Length).MinBy(b => used[b] / request.Sheets[kinds[b]].Price);
        return (kinds.RemoveAt(emptiest), emptiest);
    }

    /// <summary>What placements come to. Sheets on which nothing lies are not used; the last is the one of which the smallest part is.</summary>
    public static NestResult Of(NestRequest request, ImmutableArray<Placement> placements, ImmutableArray<Unplaced> unplaced, ImmutableArray<string> sheetIds)
    {
        var used = new bool[sheetIds.Length];
        foreach (var p in placements) used[p.Sheet] = true;
        if (used.Contains(false))
        {
            var to = new int[used.Length];
            for (var i = 1; i < to.Length; i++) to[i] = to[i - 1] + (used[i - 1] ? 1 : 0);
            placements = [.. placements.Select(p => p with { Sheet = to[p.Sheet] })];
            sheetIds = [.. sheetIds.Where((_, i) => used[i])];
        }

        var sheets = request.Sheets.ToDictionary(s => s.Id);
        var pieces = request.Pieces.ToDictionary(p => p.Id);
        double[] down = new double[sheetIds.Length], across = new double[sheetIds.Length];
        double area = 0;
        // Copies lie in few turns; the shift only moves their box.
        var boxes = new Dictionary<(string, Angle, bool), Box>();
        foreach (var p in placements)
        {
            var turn = (p.Piece, p.Turn, p.Flipped);
            if (!boxes.TryGetValue(turn, out var box)) boxes[turn] = box = pieces[p.Piece].Path.Transform(new Place(p.Turn, default, p.Flipped).Map).Bounds;
            var sheet = sheets[p.SheetId];
            down[p.Sheet] = Math.Max(down[p.Sheet], (box.Bottom + p.Shift.Y) / sheet.Height.Mm);
            across[p.Sheet] = Math.Max(across[p.Sheet], (box.Right + p.Shift.X) / sheet.Width.Mm);
            area += pieces[p.Piece].AreaMm2;
        }

        double[] low = [.. down.Zip(across, Math.Min)];
        var last = low.Length - 1;
        for (var i = last - 1; i >= 0; i--)
            if (low[i] < low[last] - 1e-9) last = i;
        var part = low.Length == 0 ? 0 : Math.Min(0.999, low[last]);
        if (last < low.Length - 1)
        {
            placements = [.. placements.Select(p => p with { Sheet = p.Sheet == last ? low.Length - 1 : p.Sheet > last ? p.Sheet - 1 : p.Sheet })];
            sheetIds = sheetIds.RemoveAt(last).Add(sheetIds[last]);
        }

        var whole = sheetIds.Sum(s => sheets[s].AreaMm2);
        return new(placements, unplaced, sheetIds, whole > 0 ? area / whole : 0, part,
            sheetIds.Sum(s => sheets[s].Price));
    }
}

/// <summary>How a search stands.</summary>
public sealed record NestProgress(double Fraction, NestResult? Best, string Text)
{
    /// <summary>How the best so far stands, and what is done now.</summary>
    internal static NestProgress Of(double fraction, NestResult best, string does) => new(Math.Min(1, fraction), best,
        $"{best.SheetIds.Length} {(best.SheetIds.Length == 1 ? "sheet" : "sheets")}, {best.Utilisation:P0} used, {does}");
}
