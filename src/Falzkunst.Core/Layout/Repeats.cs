namespace Falzkunst.Core.Layout;

/// <summary>
/// Lays out what is asked for many times: as many whole sets as one sheet takes are laid out once, and that sheet is repeated; what is left over gets sheets of
/// its own. A set is the pieces by the greatest number that all their counts are multiples of: those of one card. People load sheets by hand and think in
/// repeats, so it is taken wherever it costs no sheet more than laying out all at once.
/// </summary>
public static class Repeats
{
    /// <summary>Sets on a sheet are not tried beyond this many pieces.</summary>
    private const int MostOnSheet = 300;

    /// <summary>What a few pieces more are laid out by, at a time, while a sheet still takes them.</summary>
    private static readonly TimeSpan Quick = TimeSpan.FromSeconds(0.05);

    /// <summary>Lays out, with about the effort of the request. Cancelled, it gives the best so far.</summary>
    public static NestResult Run(NestRequest request, IProgress<NestProgress>? progress = null, CancellationToken cancel = default)
    {
        if (request.Sheets.IsEmpty) return NestEngine.Run(request, progress, cancel);
        var cards = request.Pieces.GroupBy(p => p.Set).Select(g => request with { Pieces = [.. g] }).ToList();
        return cards.Count > 1 ? OfSeveral(request, cards, progress, cancel) : OfOne(request, progress, cancel);
    }

    private static NestResult OfOne(NestRequest request, IProgress<NestProgress>? progress, CancellationToken cancel)
    {
        var sets = SetsOf(request);
        if (sets < 2) return NestEngine.Run(request, progress, cancel);
        NestResult? best = null;
        progress?.Report(new(0, null, "looking for sheets that repeat"));
        if (Most(request, sets, cancel) is var (_, one, many) && many > 0)
            best = Times(one, many);
        // No sheet takes a whole one: each gets sheets of its own.
        else if (request.SetsTogether && !cancel.IsCancellationRequested && Own() is { Unplaced.IsEmpty: true } own)
            best = Times(own, 1);
        if (best is not null) progress?.Report(NestProgress.Of(0.2, best, "sheets that repeat"));
        // What all areas together need can't be beaten.
        if (best is not null && (request.SetsTogether || cancel.IsCancellationRequested || best.SheetIds.Length <= Least(request))) return best;
        var whole = NestEngine.Run(request with { Effort = request.Effort * (best is null ? 0.7 : 0.4) }, new Share(progress, 0.6, 0.4), cancel);
        return best is null ? whole : Better(best, whole);

        NestResult Own() => NestEngine.Run(Sets(request, sets, 1) with { Effort = request.Effort / 2 }, new Share(progress, 0.2, 0.4), cancel);

        // Sheets that take some sets, as often as there are both, and the rest after them.
        NestResult Times(NestResult these, int many)
        {
            const double Rest = 0.2;
            var times = Math.Min(sets / many, TimesOf(these, request.Sheets));
            var left = sets - times * many;
            var rest = left == 0 ? null : NestEngine.Run(Sets(request, sets, left) with
            {
                Sheets = Without(request.Sheets, these, times),
                Effort = request.Effort * Rest,
            }, new Share(progress, 0.4, Rest), cancel);
            return Joined(request, [(these, times), .. rest is null ? [] : new[] { (rest, 1) }]);
        }
    }

    /// <summary>Lays out the cards of several dockets: sheets full of each of them that repeat, and what is left over of all together; or all at once, where
    /// that takes fewer.</summary>
    private static NestResult OfSeveral(NestRequest request, List<NestRequest> cards, IProgress<NestProgress>? progress,
        CancellationToken cancel)
    {
        const double Rest = 0.3, Whole = 0.4;
        if (request.SetsTogether) return WholeCards(request, cards, progress, cancel);
        var parts = new List<(NestResult Of, int Times)>();
        var (sheets, over) = (request.Sheets, ImmutableArray.CreateBuilder<NestPiece>());
        progress?.Report(new(0, null, "looking for sheets that repeat"));
        foreach (var card in cards)
        {
            var (sets, taken) = (SetsOf(card), 0);
            // Where one sheet takes them all, others may share it.
            if (sets > 1 && Most(card with { Sheets = sheets, Effort = request.Effort / cards.Count }, sets, cancel) is var (_, one, many)
                && many > 0 && many < sets && Math.Min(sets / many, TimesOf(one, sheets)) is > 0 and var times)
            {
                taken = times * many;
                parts.Add((one, times));
                sheets = Without(sheets, one, times);
            }

            if (taken < sets) over.AddRange(Sets(card, sets, sets - taken).Pieces);
        }

        var rest = over.Count == 0 ? null : NestEngine.Run(request with { Pieces = over.ToImmutable(), Sheets = sheets, Effort = request.Effort * Rest },
            new Share(progress, 0.2, Rest), cancel);
        if (rest is not null) parts.Add((rest, 1));
        var best = Joined(request, parts);
        progress?.Report(NestProgress.Of(0.2 + Rest, best, "sheets that repeat"));
        if (cancel.IsCancellationRequested || best.SheetIds.Length <= Least(request)) return best;
        return Better(best, OfOne(request with { Effort = request.Effort * Whole }, new Share(progress, 0.2 + Rest, Whole), cancel));
    }

    /// <summary>Sheets that bear whole cards, of one docket or several: each takes as many of the first as it has room for, then of the next, and is repeated
    /// as often as there are so many. A card that no sheet takes whole gets sheets of its own.</summary>
    private static NestResult WholeCards(NestRequest request, List<NestRequest> cards, IProgress<NestProgress>? progress,
        CancellationToken cancel)
    {
        var parts = new List<(NestResult Of, int Times)>();
        var sheets = request.Sheets;
        var sets = cards.ConvertAll(SetsOf);
        int[] left = [.. sets];
        while (left.Sum() > 0 && !cancel.IsCancellationRequested)
        {
            var full = sheets.Where(s => s.Count > 0).Select(Full).Where(f => f.One is not null).OrderByDescending(f => f.Area / f.Sheet.Price)
                .FirstOrDefault();
            if (full.One is null) break;
            var one = NestEngine.Tidied(Alone(request with { Pieces = full.Pieces }, full.Sheet), full.One);
            var times = Math.Min(full.Sheet.Count, Enumerable.Range(0, left.Length).Where(i => full.Many[i] > 0).Min(i => left[i] / full.Many[i]));
            parts.Add((one, times));
            sheets = Without(sheets, one, times);
            for (var i = 0; i < left.Length; i++) left[i] -= times * full.Many[i];
            progress?.Report(new(1 - left.Sum() / (double)sets.Sum(), null, "whole cards on each sheet"));
        }

        for (var i = 0; i < cards.Count; i++)
        {
            if (left[i] == 0) continue;
            var own = OfOne(Sets(cards[i], sets[i], left[i]) with { Sheets = sheets, Effort = request.Effort / cards.Count }, null, cancel);
            parts.Add((own, 1));
            sheets = Without(sheets, own, 1);
        }

        return Joined(request, parts);

        (NestSheet Sheet, int[] Many, ImmutableArray<NestPiece> Pieces, NestResult? One, double Area) Full(NestSheet sheet)
        {
            var (many, area, on) = (new int[left.Length], 0.0, ImmutableArray<NestPiece>.Empty);
            NestResult? one = null;
            for (var i = 0; i < left.Length; i++)
            {
                for (; many[i] < left[i] && !cancel.IsCancellationRequested; many[i]++)
                {
                    ImmutableArray<NestPiece> pieces =
                        [.. cards.SelectMany((c, k) => Sets(c, Math.Max(1, sets[k]), many[k] + (k == i ? 1 : 0)).Pieces).Where(p => p.Count > 0)];
                    if (OnOne(request with { Pieces = pieces }, sheet, Quick, cancel) is not { } found) break;
                    (one, on, area) = (found, pieces, pieces.Sum(p => p.AreaMm2 * p.Count));
                }
            }

            return (sheet, many, on, one, area);
        }
    }

    /// <summary>All that is asked for on one sheet; null where it does not take it.</summary>
    private static NestResult? OnOne(NestRequest request, NestSheet sheet, TimeSpan effort, CancellationToken cancel)
    {
        var found = NestEngine.Run(Alone(request, sheet) with { Effort = effort, StopsWhenAllFit = true }, null, cancel);
        return found.Unplaced.IsEmpty ? found : null;
    }

    /// <summary>The request for one sheet.</summary>
    private static NestRequest Alone(NestRequest request, NestSheet sheet) => request with { Sheets = [sheet with { Count = 1 }] };

    /// <summary>Equal sheets are worth more than a shorter last one, but not a sheet.</summary>
    private static NestResult Better(NestResult repeated, NestResult whole) => whole.Unplaced.Length < repeated.Unplaced.Length
        || (whole.Unplaced.Length == repeated.Unplaced.Length && whole.Price < repeated.Price - 1e-9) ? whole : repeated;

    private static int SetsOf(NestRequest request) => request.Pieces.Aggregate(0, (g, p) => Gcd(g, p.Count));

    /// <summary>How often there are the sheets that a layout takes.</summary>
    private static int TimesOf(NestResult these, ImmutableArray<NestSheet> sheets) =>
        these.SheetIds.CountBy(id => id).Min(u => sheets.First(s => s.Id == u.Key).Count / u.Value);

    /// <summary>What is left of the sheets when a layout took some, so many times.</summary>
    private static ImmutableArray<NestSheet> Without(ImmutableArray<NestSheet> sheets, NestResult these, int times)
    {
        var uses = these.SheetIds.CountBy(id => id).ToDictionary();
        return [.. sheets.Select(s => s with { Count = s.Count - times * uses.GetValueOrDefault(s.Id) })];
    }

    /// <summary>The request for some of its sets.</summary>
    private static NestRequest Sets(NestRequest request, int of, int many) =>
        request with { Pieces = [.. request.Pieces.Select(p => p with { Count = p.Count / of * many })] };

    private static int Gcd(int a, int b) => b == 0 ? a : Gcd(b, a % b);

    private static int Least(NestRequest request) => LeastLayout.SheetsByArea(request.Gap, request.Sheets, request.Pieces);

    /// <summary>The most sets that one sheet takes, of the kind of sheets that costs least for what it takes; null where none takes one.</summary>
    private static (NestSheet Sheet, NestResult One, int Many)? Most(NestRequest request, int sets, CancellationToken cancel)
    {
        (NestSheet Sheet, NestResult One, int Many)? best = null;
        var perSet = request.Pieces.Sum(p => p.Count / sets);
        var area = request.Pieces.Sum(p => p.AreaMm2 * (p.Count / sets));
        // Searched for with what is left of its share, once; each more is half as likely.
        var share = request.Effort * (0.2 / request.Sheets.Length);
        foreach (var sheet in request.Sheets.Where(s => s.Count > 0))
        {
            var most = (int)Math.Min(sets, Math.Min(MostOnSheet / perSet, Math.Floor(sheet.AreaMm2 / area)));
            // The most that a first fill takes: twice as many each time, then by halves.
            NestResult? one = null;
            int many = 0, tooMany = most + 1;
            for (var next = Math.Min(1, most); next > many && next < tooMany && !cancel.IsCancellationRequested;)
            {
                if (Fits(sheet, next, Quick) is { } found) (one, many) = (found, next);
                else tooMany = next;
                next = tooMany > most ? Math.Min(most, many * 2) : (many + tooMany) / 2;
            }

            for (var effort = share; many < most && !cancel.IsCancellationRequested; effort /= 2)
            {
                if (Fits(sheet, many + 1, effort) is not { } found) break;
                (one, many) = (found, many + 1);
            }

            if (one is not null && (best is not { } b || sheet.Price / many < b.Sheet.Price / b.Many - 1e-9)) best = (sheet, one, many);
        }

        if (best is not var (kind, loose, number)) return null;
        return (kind, NestEngine.Tidied(Alone(Sets(request, sets, number), kind), loose), number);

        NestResult? Fits(NestSheet sheet, int times, TimeSpan effort) => OnOne(Sets(request, sets, times), sheet, effort, cancel);
    }

    /// <summary>Layouts one after the other, each so many times; copies are numbered as they come.</summary>
    private static NestResult Joined(NestRequest request, IReadOnlyList<(NestResult Of, int Times)> parts)
    {
        var copies = request.Pieces.ToDictionary(p => p.Id, _ => 0);
        var placements = ImmutableArray.CreateBuilder<Placement>();
        var sheets = ImmutableArray.CreateBuilder<string>();
        foreach (var (of, times) in parts)
        {
            for (var time = 0; time < times; time++)
            {
                foreach (var p in of.Placements) placements.Add(p with { Sheet = sheets.Count + p.Sheet, Copy = ++copies[p.Piece] });
                sheets.AddRange(of.SheetIds);
            }
        }

        ImmutableArray<Unplaced> unplaced = [.. parts.SelectMany(p => p.Of.Unplaced).Select(u => u with { Copy = ++copies[u.Piece] })];
        return NestResult.Of(request, placements.ToImmutable(), unplaced, sheets.ToImmutable()) with
        {
            Discarded = [.. parts.SelectMany(p => p.Of.Discarded)],
        };
    }

    /// <summary>The progress of a part of the work.</summary>
    private sealed class Share(IProgress<NestProgress>? whole, double from, double part) : IProgress<NestProgress>
    {
        public void Report(NestProgress value) => whole?.Report(value with { Fraction = from + part * value.Fraction, Best = null });
    }
}
