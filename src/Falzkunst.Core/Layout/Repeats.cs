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

    /// <summary>Lays out, in about the time of the request. Cancelled, it gives the best so far.</summary>
    public static NestResult Run(NestRequest request, TimeProvider clock, IProgress<NestProgress>? progress = null, CancellationToken cancel = default)
    {
        var sets = request.Pieces.Aggregate(0, (g, p) => Gcd(g, p.Count));
        if (sets < 2 || request.Sheets.IsEmpty) return NestEngine.Run(request, clock, progress, cancel);
        var started = clock.GetTimestamp();
        NestResult? best = null;
        progress?.Report(new(0, null, "looking for sheets that repeat"));
        if (Most(request, sets, clock, cancel) is var (_, one, many) && many > 0)
            best = Times(one, many);
        // No sheet takes a whole one: each gets sheets of its own.
        else if (request.SetsTogether && !cancel.IsCancellationRequested && Own() is { Unplaced.IsEmpty: true } own)
            best = Times(own, 1);
        if (best is not null) progress?.Report(NestProgress.Of(clock.GetElapsedTime(started) / request.Time, best, "sheets that repeat"));
        // What all areas together need can't be beaten.
        if (best is not null && (request.SetsTogether || cancel.IsCancellationRequested || best.SheetIds.Length <= Least(request))) return best;
        var whole = NestEngine.Run(request with { Time = request.Time * (best is null ? 0.7 : 0.4) }, clock, new Share(progress, 0.6, 0.4), cancel);
        // Equal sheets are worth more than a shorter last one, but not a sheet.
        return best is null || whole.Unplaced.Length < best.Unplaced.Length
            || (whole.Unplaced.Length == best.Unplaced.Length && whole.Price < best.Price - 1e-9)
            ? whole : best;

        NestResult Own() => NestEngine.Run(Sets(request, sets, 1) with { Time = request.Time / 2 }, clock, new Share(progress, 0.2, 0.4), cancel);

        // Sheets that take some sets, as often as there are both, and the rest after them.
        NestResult Times(NestResult these, int many)
        {
            const double Rest = 0.2;
            var uses = these.SheetIds.CountBy(id => id).ToDictionary();
            var times = Math.Min(sets / many, uses.Min(u => request.Sheets.First(s => s.Id == u.Key).Count / u.Value));
            var left = sets - times * many;
            var rest = left == 0 ? null : NestEngine.Run(Sets(request, sets, left) with
            {
                Sheets = [.. request.Sheets.Select(s => s with { Count = s.Count - times * uses.GetValueOrDefault(s.Id) })],
                Time = request.Time * Rest,
            }, clock, new Share(progress, 0.4, Rest), cancel);
            return Repeated(request, these, times, rest);
        }
    }

    /// <summary>The request for some of its sets.</summary>
    private static NestRequest Sets(NestRequest request, int of, int many) =>
        request with { Pieces = [.. request.Pieces.Select(p => p with { Count = p.Count / of * many })] };

    private static int Gcd(int a, int b) => b == 0 ? a : Gcd(b, a % b);

    /// <summary>How many sheets the pieces need by their area alone, on the largest of them.</summary>
    private static int Least(NestRequest request)
    {
        var room = request.Sheets.Max(s => s.RoomFor(request.Gap));
        return (int)Math.Ceiling(request.Pieces.Sum(p => p.AreaMm2 * p.Count) / room - 1e-9);
    }

    /// <summary>The most sets that one sheet takes, of the kind of sheets that costs least for what it takes; null where none takes one.</summary>
    private static (NestSheet Sheet, NestResult One, int Many)? Most(NestRequest request, int sets, TimeProvider clock, CancellationToken cancel)
    {
        (NestSheet Sheet, NestResult One, int Many)? best = null;
        var perSet = request.Pieces.Sum(p => p.Count / sets);
        var area = request.Pieces.Sum(p => p.AreaMm2 * (p.Count / sets));
        // Searched for with what is left of its share, once; each more is half as likely.
        var share = request.Time * (0.2 / request.Sheets.Length);
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

            for (var time = share; many < most && !cancel.IsCancellationRequested; time /= 2)
            {
                if (Fits(sheet, many + 1, time) is not { } found) break;
                (one, many) = (found, many + 1);
            }

            if (one is not null && (best is not { } b || sheet.Price / many < b.Sheet.Price / b.Many - 1e-9)) best = (sheet, one, many);
        }

        return best;

        NestResult? Fits(NestSheet sheet, int times, TimeSpan time)
        {
            var found = NestEngine.Run(Sets(request, sets, times) with
            {
                Sheets = [sheet with { Count = 1 }],
                Time = time,
                StopsWhenAllFit = true,
            }, clock, null, cancel);
            return found.Unplaced.IsEmpty ? found : null;
        }
    }

    /// <summary>Sheets so many times, and the rest after them.</summary>
    private static NestResult Repeated(NestRequest request, NestResult one, int times, NestResult? rest)
    {
        var copies = request.Pieces.ToDictionary(p => p.Id, _ => 0);
        var placements = ImmutableArray.CreateBuilder<Placement>();
        var (each, first) = (one.SheetIds.Length, times * one.SheetIds.Length);
        for (var time = 0; time < times; time++)
            foreach (var p in one.Placements) placements.Add(p with { Sheet = time * each + p.Sheet, Copy = ++copies[p.Piece] });
        foreach (var p in rest?.Placements ?? []) placements.Add(p with { Sheet = first + p.Sheet, Copy = ++copies[p.Piece] });
        var unplaced = rest?.Unplaced.Select(u => u with { Copy = ++copies[u.Piece] }).ToImmutableArray() ?? [];
        return NestResult.Of(request, placements.ToImmutable(), unplaced,
            [.. Enumerable.Repeat(one.SheetIds, times).SelectMany(ids => ids), .. rest?.SheetIds ?? []])
            with
        { Discarded = [.. one.Discarded, .. rest?.Discarded ?? []] };
    }

    /// <summary>The progress of a part of the work.</summary>
    private sealed class Share(IProgress<NestProgress>? whole, double from, double part) : IProgress<NestProgress>
    {
        public void Report(NestProgress value) => whole?.Report(value with { Fraction = from + part * value.Fraction, Best = null });
    }
}
