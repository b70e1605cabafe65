using System.Text.Json.Serialization;
using Falzkunst.Core.Cards;

namespace Falzkunst.Core.Layout;

/// <summary>What a layout of a docket is made with, besides what its design asks.</summary>
public sealed record LayoutSettings(int Copies, int Seed, TimeSpan Effort)
{
    public static LayoutSettings For(int copies) => new(copies, 1, TimeSpan.FromSeconds(6));

    /// <summary>Whether every sheet of a card that is printed has marks, also those on which nothing is.</summary>
    public bool MarksOnAll { get; init; }

    /// <inheritdoc cref="NestRequest.Rounds"/>
    public int? Rounds { get; init; }

    /// <summary>A layout of the same copies, of which what is pinned stays where it lies, and what was set beside stays there; null for none.</summary>
    public DocketLayout? Kept { get; init; }
}

/// <summary>One copy of a piece.</summary>
/// <param name="Copy">From 1.</param>
public readonly record struct PieceCopy(string PieceId, int Copy)
{
    /// <summary>Reads what <see cref="ToString"/> writes: "p3.1".</summary>
    public static PieceCopy? Read(string? text) => text?.LastIndexOf('.') is > 0 and var dot
        && int.TryParse(text.AsSpan(dot + 1), NumberStyles.None, CultureInfo.InvariantCulture, out var copy) ? new(text[..dot], copy) : null;

    public override string ToString() => string.Create(CultureInfo.InvariantCulture, $"{PieceId}.{Copy}");
}

/// <summary>A piece on a sheet.</summary>
/// <param name="ToSheet">Maps the piece's own coordinates to the sheet.</param>
public sealed record PlacedPiece(string PieceId, int Copy, Affine ToSheet)
{
    /// <summary>Whether it stays where it lies when the rest is laid out again.</summary>
    [JsonIgnore(Condition = JsonIgnoreCondition.WhenWritingDefault)]
    public bool Pinned { get; init; }

    [JsonIgnore]
    public PieceCopy Which => new(PieceId, Copy);
}

/// <summary>What lies on one sheet of a stock.</summary>
public sealed record SheetPlan(string StockId, string StockName, SheetSize Size, ImmutableArray<PlacedPiece> Pieces, double Utilisation)
{
    /// <summary>What is asked of the sheet since it is printed; null where it is only cut.</summary>
    [JsonIgnore(Condition = JsonIgnoreCondition.WhenWritingNull)]
    public PrintedSheet? Printed { get; init; }

    /// <summary>What its pieces were asked to keep from each other, where that is more than on other sheets: they are of several dockets.</summary>
    [JsonIgnore(Condition = JsonIgnoreCondition.WhenWritingNull)]
    [JsonPropertyName("GapMm")]
    public Length? Wider { get; init; }

    /// <summary>What its pieces keep from each other.</summary>
    /// <param name="usual">Of the layout that it is of.</param>
    public Length GapOf(Length usual) => Printed?.GapOf(Wider ?? usual) ?? Wider ?? usual;

    /// <summary>Whether another sheet is of the same stock and size, and its pieces match these one by one.</summary>
    public bool Matches(SheetPlan other, Func<PlacedPiece, PlacedPiece, bool> areLike) => StockId == other.StockId && Size == other.Size
        && Pieces.Length == other.Pieces.Length && Pieces.Zip(other.Pieces).All(t => areLike(t.First, t.Second));

    /// <summary>The same with its use worked out anew.</summary>
    internal SheetPlan Measured(Design design) => this with
    {
        Utilisation = Pieces.Sum(p => design.Piece(p.PieceId)?.AreaMm2 ?? 0) / (Size.Width.Mm * Size.Height.Mm),
    };
}

/// <summary>Sheets that are the same, but for the numbers of the copies on them: one is looked at, all are loaded.</summary>
/// <param name="Numbers">Of the sheets, from 1.</param>
public sealed record SheetStack(SheetPlan Sheet, ImmutableArray<int> Numbers);

/// <summary>Sheets that are missing in the drawer.</summary>
public sealed record ToBuy(string StockId, SheetSize Size, int Count);

/// <summary>What printing asks of a sheet.</summary>
/// <param name="Marks">What is printed in its corners; null where it is trimmed by hand.</param>
public sealed record PrintedSheet(SheetMarks? Marks, [property: JsonPropertyName("BleedMm")] Length Bleed)
{
    /// <summary>Whether pieces lie edge to edge and are parted by one straight cut: rectangles that are only printed, and trimmed by hand.</summary>
    [JsonIgnore(Condition = JsonIgnoreCondition.WhenWritingDefault)]
    public bool SharesCuts { get; init; }

    /// <summary>What it asks of a sheet that pieces of a card go on; null where none of them is printed, or the card is not.</summary>
    /// <param name="always">Whether it has marks also where none of its pieces is printed.</param>
    public static PrintedSheet? Of(PrintSettings? print, IEnumerable<Piece> pieces, SheetSize size, bool always = false) =>
        print is null || !(always || pieces.Any(p => p.IsPrinted)) ? null
        : new(print.Marks is { } kind ? new(kind, size.Width, size.Height, print.Inset) : null, print.Bleed)
        {
            SharesCuts = print.Marks is null && pieces.All(p => Rows.IsRectangle(p.Outline)),
        };

    /// <summary>What pieces keep from the edges of the sheet: the bleed has to be in the printer's reach.</summary>
    public Length MarginOn(SheetSize size) => Length.FromMm(Math.Max(size.Margin.Mm, (Marks?.PrinterBorder ?? SheetMarks.UsualPrinterBorder).Mm + Bleed.Mm));

    /// <summary>What pieces keep from each other: neither bleeds onto the other.</summary>
    public Length GapOf(Length gap) => SharesCuts ? Length.Zero : Length.FromMm(Math.Max(gap.Mm, 2 * Bleed.Mm));

    [JsonIgnore]
    public ImmutableArray<VectorPath> KeptFree => Marks?.KeptFree ?? [];
}

/// <summary>All sheets of a docket, with what could not be laid out.</summary>
public sealed record DocketLayout(int Copies, [property: JsonPropertyName("GapMm")] Length Gap, ImmutableArray<SheetPlan> Sheets,
    ImmutableArray<Unplaced> Unplaced)
{
    /// <summary>What has to be bought so that everything finds a place.</summary>
    public ImmutableArray<ToBuy> Missing { get; init; } = [];

    /// <summary>What somebody set beside the sheets: it is not cut.</summary>
    public ImmutableArray<PieceCopy> Beside { get; init; } = [];

    /// <summary>How much of their outer edges lies against another piece, and is cut once for both.</summary>
    public Length SharedCuts(Design design) => Length.FromMm(Stacks.Where(s => SharedEdges.Allows(s.Sheet.GapOf(Gap))).Sum(s =>
        s.Numbers.Length * SharedEdges.Saved(s.Sheet.Pieces.SelectMany(p => design.Piece(p.PieceId)?.OuterEdgesOn(p.ToSheet) ?? [])).Mm));

    /// <summary>What lies on no sheet and is not cut: what somebody set beside, then what found no place.</summary>
    [JsonIgnore]
    public IEnumerable<PieceCopy> NotCut => Beside.Concat(Unplaced.Select(u => new PieceCopy(u.Piece, u.Copy)));

    /// <summary>On which sheet a piece lies, from 0, and which of its pieces it is; null where it lies on none.</summary>
    public (int Sheet, int Index)? Find(PieceCopy which)
    {
        for (var s = 0; s < Sheets.Length; s++)
            for (var i = 0; i < Sheets[s].Pieces.Length; i++)
                if (Sheets[s].Pieces[i].Which == which) return (s, i);
        return null;
    }

    /// <summary>The sheets, equal ones together, in the order of the first of each.</summary>
    [JsonIgnore]
    public IReadOnlyList<SheetStack> Stacks =>
        [.. Sheets.Select((s, i) => (Sheet: s, Number: i + 1)).GroupBy(t => t.Sheet, SameSheet.Instance)
            .Select(g => new SheetStack(g.Key, [.. g.Select(t => t.Number)]))];

    private sealed class SameSheet : IEqualityComparer<SheetPlan>
    {
        public static SameSheet Instance { get; } = new();

        public bool Equals(SheetPlan? a, SheetPlan? b) => a is not null && b is not null && a.Matches(b, (p, q) => p with { Copy = q.Copy } == q);

        public int GetHashCode(SheetPlan sheet) => HashCode.Combine(sheet.StockId, sheet.Size, sheet.Pieces.Length);
    }

    public double Utilisation
    {
        get
        {
            var area = Sheets.Sum(s => s.Size.Width.Mm * s.Size.Height.Mm);
            return area > 0 ? Sheets.Sum(s => s.Utilisation * s.Size.Width.Mm * s.Size.Height.Mm) / area : 0;
        }
    }
}

/// <param name="Best">The best so far of the stocks that are finished or under way.</param>
public sealed record LayoutProgress(double Fraction, string Text, DocketLayout Best);

/// <summary>Lays out a whole docket: every piece of every copy on the sheets of its stock.</summary>
public static class SheetPlans
{
    /// <summary>
    /// One request to the engine for each stock, one after the other; the effort is shared by the number of pieces. Cancelled, it gives the best so far.
    /// </summary>
    public static DocketLayout LayOut(Design design, IReadOnlyList<Stock> drawer, LayoutSettings settings,
        IProgress<LayoutProgress>? progress = null, CancellationToken cancel = default)
    {
        var sheets = ImmutableArray.CreateBuilder<SheetPlan>();
        var unplaced = ImmutableArray.CreateBuilder<Unplaced>();
        var missing = ImmutableArray.CreateBuilder<ToBuy>();
        var papers = design.Papers;
        var byStock = papers.GroupBy(p => Stocks.For(p, drawer)).ToList();
        var done = 0;
        var far = 0.0;
        foreach (var group in byStock)
        {
            var stock = group.Key;
            if (stock is null)
            {
                unplaced.AddRange(group.SelectMany(p => Enumerable.Range(1, p.NumberFor(settings.Copies))
                    .Select(c => new Unplaced(p.Id, c, "there is no stock in the drawer"))));
                continue;
            }

            var share = (double)group.Count() / papers.Length;
            if (Unmarked(design.Print, stock, group, settings) is { } fault)
            {
                unplaced.AddRange(group.SelectMany(p => Enumerable.Range(1, p.NumberFor(settings.Copies)).Select(c => new Unplaced(p.Id, c, fault))));
                continue;
            }

            var pinned = new PinnedSheets(settings.Kept, stock, design);
            var request = pinned.Rest(RequestFor(design, stock, group, settings) with { Effort = settings.Effort * share });
            var before = sheets.ToImmutable();
            // Parts of the work may take more than they were given; what is told only goes forward.
            var relay = progress is null ? null : new Relay<NestProgress>(p => progress.Report(new(
                far = Math.Max(far, Math.Min(1, (done + p.Fraction * group.Count()) / papers.Length)), $"{stock.Name}: {p.Text}",
                new(settings.Copies, design.Laying.Gap, p.Best is null ? before
                    : before.AddRange(Plans(design, stock, group, settings, request, p.Best, pinned)), unplaced.ToImmutable()))));
            var sharesCuts = request.Sheets.Length > 0 && PrintedSheet.Of(design.Print, group, stock.Sheets[0], settings.MarksOnAll) is { SharesCuts: true };
            var result = WithOffCuts(request, stock, r => sharesCuts && pinned.IsEmpty ? Rows.Run(r)
                : pinned.IsEmpty ? Repeats.Run(r, relay, cancel) : NestEngine.Run(r, relay, cancel));
            sheets.AddRange(Plans(design, stock, group, settings, request, result, pinned));
            unplaced.AddRange(result.Unplaced.Select(u => u with { Copy = pinned.CopyOf(u.Piece, u.Copy) }));
            missing.AddRange(MissingFor(stock, request, result, cancel));
            done += group.Count();
        }

        return new(settings.Copies, design.Laying.Gap, [.. sheets.Select(s => FoilLow.Turned(s, design))], unplaced.ToImmutable())
        {
            Missing = missing.ToImmutable(),
            Beside = settings.Kept?.Beside ?? [],
        };
    }

    /// <summary>Lays out on off-cuts and whole sheets; on whole sheets alone where the off-cuts save none of them.</summary>
    private static NestResult WithOffCuts(NestRequest request, Stock stock, Func<NestRequest, NestResult> layOut)
    {
        ImmutableArray<NestSheet> whole = [.. request.Sheets.Where(s => !IsOffCut(s.Id))];
        if (whole.Length == request.Sheets.Length) return layOut(request);
        var all = layOut(request with { Effort = request.Effort * 0.6 });
        if (!all.SheetIds.Any(IsOffCut)) return all;
        var plain = layOut(request with { Sheets = whole, Effort = request.Effort * 0.4 });
        var saves = all.SheetIds.Where(id => !IsOffCut(id)).Sum(id => whole.First(s => s.Id == id).Price) < plain.Price - 1e-9;
        return saves || all.Unplaced.Length < plain.Unplaced.Length ? all : plain;

        bool IsOffCut(string id) => PinnedSheets.IsOfDrawer(id) && SizeOf(stock, id).IsOffCut;
    }

    /// <summary>How many sheets more, of the sizes in the drawer, take what found no place.</summary>
    private static IEnumerable<ToBuy> MissingFor(Stock stock, NestRequest request, NestResult result, CancellationToken cancel)
    {
        if (result.Unplaced.IsEmpty || cancel.IsCancellationRequested) return [];
        var left = result.Unplaced.CountBy(u => u.Piece).ToDictionary();
        var more = Repeats.Run(request with
        {
            Pieces = [.. request.Pieces.Where(p => left.ContainsKey(p.Id)).Select(p => p with { Count = left[p.Id] })],
            Sheets = [.. request.Sheets.Where(s => PinnedSheets.IsOfDrawer(s.Id) && !SizeOf(stock, s.Id).IsOffCut).Select(s => s with { Count = 1000 })],
            Effort = request.Effort / 4,
        }, null, cancel);
        return more.SheetIds.CountBy(id => id).Select(c => new ToBuy(stock.Id, SizeOf(stock, c.Key), c.Value));
    }

    /// <summary>Why no sheet of a stock can have the marks that are asked for; null where one can.</summary>
    private static string? Unmarked(PrintSettings? print, Stock stock, IEnumerable<Piece> pieces, LayoutSettings settings)
    {
        var faults = stock.Sheets.Select(s => PrintedSheet.Of(print, pieces, s, settings.MarksOnAll)?.Marks?.Fault()).ToList();
        return faults.Count > 0 && faults.TrueForAll(f => f is not null) ? $"{char.ToLowerInvariant(faults[0]![0])}{faults[0]![1..^1]}" : null;
    }

    /// <summary>What the engine is asked for one stock; also what an independent check of the result needs. Sheets that are too small for their marks are not
    /// in it.</summary>
    public static NestRequest RequestFor(Design design, Stock stock, IEnumerable<Piece> pieces, LayoutSettings settings)
    {
        var sheets = ImmutableArray.CreateBuilder<NestSheet>();
        var (print, asked) = (design.Print, GapOn(design, pieces));
        var gap = asked;
        for (var i = 0; i < stock.Sheets.Length; i++)
        {
            var size = stock.Sheets[i];
            var printed = PrintedSheet.Of(print, pieces, size, settings.MarksOnAll);
            if (printed?.Marks?.Fault() is not null) continue;
            gap = printed?.GapOf(asked) ?? asked;
            // What is printed needs a whole sheet: a printer takes no other.
            if (printed is not null && size.IsOffCut) continue;
            sheets.Add(SheetOf($"{i}", size, printed) with { Count = size.Count, Price = PriceOf(size, stock) });
        }

        return new(gap, sheets.ToImmutable(), [.. pieces.Select(p => PieceOf(p, stock, RulesOf(design, p), p.NumberFor(settings.Copies)))])
        {
            Seed = settings.Seed,
            Effort = settings.Effort,
            Rounds = settings.Rounds,
            SetsTogether = pieces.Any(p => RulesOf(design, p).CardsTogether),
        };
    }

    private static LayingRules RulesOf(Design design, Piece piece) => piece.Guest?.Laying ?? design.Laying;

    /// <summary>What pieces that share sheets keep from each other: the most that one of their dockets asks.</summary>
    private static Length GapOn(Design design, IEnumerable<Piece> pieces) => pieces.Max(p => RulesOf(design, p).Gap);

    /// <summary>A piece as the engine knows it: what is folded keeps its fold along the grain, and is turned head to foot at most.</summary>
    private static NestPiece PieceOf(Piece piece, Stock stock, LayingRules rules, int count) =>
        new(piece.Id, piece.Outline.Transform(Grains.Lie(piece, stock.Grain)), count,
            Grains.Keeps(piece, stock.Grain) && rules.Turns != Turns.None ? Turns.Half : rules.Turns, rules.FaceDown && piece.IsPlain)
        {
            Set = piece.Guest?.Docket ?? 0,
        };

    /// <summary>A sheet as the engine knows it, one of it.</summary>
    internal static NestSheet SheetOf(string id, SheetSize size, PrintedSheet? printed) =>
        new(id, size.Width, size.Height, printed?.MarginOn(size) ?? size.Margin, 1, printed?.KeptFree ?? []) { Outline = size.Outline };

    /// <summary>The size that the engine knows by a name, of those in the drawer.</summary>
    internal static SheetSize SizeOf(Stock stock, string id) => stock.Sheets[int.Parse(id, CultureInfo.InvariantCulture)];

    /// <summary>What a sheet counts for. Off-cuts come first: they cost next to nothing. Where every size of a stock has a price, whole sheets count by that,
    /// otherwise each as one.</summary>
    private static double PriceOf(SheetSize size, Stock stock)
    {
        const double OfOffCut = 0.1;
        if (size.IsOffCut) return OfOffCut;
        var whole = stock.Sheets.Where(s => !s.IsOffCut).ToList();
        return whole.TrueForAll(s => s.Price > 0) ? size.Price!.Value / whole.Max(s => s.Price!.Value) : 1;
    }

    private static IEnumerable<SheetPlan> Plans(Design design, Stock stock, IEnumerable<Piece> pieces, LayoutSettings settings, NestRequest request,
        NestResult result, PinnedSheets pinned)
    {
        var areas = request.Pieces.ToDictionary(p => p.Id, p => p.AreaMm2);
        var on = result.Placements.ToLookup(p => p.Sheet, p => new PlacedPiece(p.Piece, pinned.CopyOf(p.Piece, p.Copy),
            (design.Piece(p.Piece) is { } piece ? Grains.Lie(piece, stock.Grain) : Affine.Identity).Then(p.ToSheet)));
        // Sheets on which something is pinned come first, in their order, whether anything else found a place on them or not.
        var added = result.SheetIds.Select((id, i) => (id, i)).Where(t => !PinnedSheets.IsOfDrawer(t.id)).ToDictionary(t => t.id, t => t.i);
        foreach (var (id, sheet) in pinned.Sheets)
            yield return (added.TryGetValue(id, out var i) ? sheet with { Pieces = sheet.Pieces.AddRange(on[i]) } : sheet).Measured(design);
        for (var i = 0; i < result.SheetIds.Length; i++)
        {
            if (!PinnedSheets.IsOfDrawer(result.SheetIds[i])) continue;
            var size = SizeOf(stock, result.SheetIds[i]);
            yield return new(stock.Id, stock.Name, size, [.. on[i]], on[i].Sum(p => areas[p.PieceId]) / (size.Width.Mm * size.Height.Mm))
            {
                Printed = PrintedSheet.Of(design.Print, pieces, size, settings.MarksOnAll),
                Wider = GapOn(design, pieces) is var gap && gap == design.Laying.Gap ? null : gap,
            };
        }
    }

    /// <summary>Reports at once, on the thread that works; the framework's own class would post each report elsewhere, out of order.</summary>
    private sealed class Relay<T>(Action<T> to) : IProgress<T>
    {
        public void Report(T value) => to(value);
    }
}
