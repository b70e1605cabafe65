namespace Falzkunst.Core.Layout;

/// <summary>
/// Lays pieces out on sheets: a quick fill first (<see cref="BottomLeft"/>), then a search that goes on from it (<see cref="Packing"/>): a sheet is taken away,
/// and its pieces find room on the others; or the last sheet is made shorter, a little at a time, and its pieces part or move elsewhere. Two searches side by
/// side, the better of which is taken after each round.
/// The best so far is always valid, whenever it ends. All of it is measured in counted work, so that a request always gives the same layout, on a slow machine
/// only later.
/// </summary>
public static class NestEngine
{
    /// <summary>Counted work that a slow machine does in a second, on one thread: shapes compared in the search, and words of cells in the first
    /// fill.</summary>
    private const double WorkPerSecond = 1.8e7, WordsPerSecond = 2e8;

    /// <summary>The part of the time that lattices are looked for: one in so many.</summary>
    private const int InLattice = 8;

    /// <summary>The part of the time that pieces with straight edges are laid corner into corner: one in so many.</summary>
    private const int InCorners = 4;

    /// <summary>Counted work of a round, at least.</summary>
    private const long LeastRound = 2_000_000;

    /// <summary>With less effort shapes are hardly read.</summary>
    private static readonly TimeSpan LeastForLattice = TimeSpan.FromSeconds(0.5);

    /// <summary>What a first fill may take beyond the effort before it hurries.</summary>
    private static readonly TimeSpan Late = TimeSpan.FromSeconds(0.2);

    /// <summary>More pieces than these are filled in, but not searched for: the search keeps something for each pair.</summary>
    private const int MostSearched = 1500;

    /// <summary>A fill this much above what a layout takes at least, as a part of a sheet, may come to it; and what nobody can tell from it.</summary>
    private const double Near = 0.02, Least = 2e-4;

    /// <summary>With more pieces the first fill would take too long.</summary>
    private const int MostAtOnce = 200;

    /// <summary>A layout in which all has a place, with its pieces brought together; the same where that can't be told of them.</summary>
    internal static NestResult Tidied(NestRequest request, NestResult result)
    {
        var tidy = new NestSearch(request, request.Pieces, []).Tidy(result);
        return LayoutCheck.Faults(request, tidy).IsEmpty ? tidy : result;
    }

    /// <param name="cancel">Ends it at once, with what was not placed yet left without a place.</param>
    /// <exception cref="ArgumentException">There are more than 20,000 pieces.</exception>
    public static NestResult Run(NestRequest request, IProgress<NestProgress>? progress = null, CancellationToken cancel = default)
    {
        if (request.Pieces.Sum(p => (long)p.Count) > 20_000) throw new ArgumentException("More than 20,000 pieces can't be laid out at once.", nameof(request));
        using var either = CancellationTokenSource.CreateLinkedTokenSource(request.Until, cancel);
        progress?.Report(new(0, null, "reading shapes"));
        var (effort, ofWords) = (WorkPerSecond * request.Effort.TotalSeconds, WordsPerSecond * request.Effort.TotalSeconds);
        long words = 0, allowed = (long)(ofWords / 7), inHurry = (long)(ofWords + WordsPerSecond * Late.TotalSeconds);
        // Counted work of the search, without the first fill.
        double work = 0;
        NestResult? filled = null;
        NestSearch? search = null;
        // Of many pieces there is a fill by coarse cells first, so that there is something soon; then by fine ones, where there is time for that.
        const int Finer = 12;
        var isMany = request.Pieces.Sum(p => p.Count) > MostAtOnce;
        BottomLeft fill;
        try
        {
            fill = new(request, isMany, cancel);
        }
        catch (OperationCanceledException)
        {
            return NestResult.Of(request, [], [.. request.Pieces.SelectMany(p => Enumerable.Range(1, p.Count).Select(c =>
                new Unplaced(p.Id, c, Unplaced.Stopped)))], []);
        }

        Fill(isMany ? 1 : int.MaxValue);
        if (isMany && words * Finer <= allowed * 7)
        {
            fill = new(request, false, CancellationToken.None);
            Fill(int.MaxValue);
        }

        if (request.Effort >= LeastForLattice && fill.Fitting.Sum(p => p.Count) <= MostSearched)
        {
            if (GoesOn()) FillAround();
            FillCorners();
        }

        var first = filled!;
        if (fill.Fitting.Sum(p => p.Count) is 0 or > MostSearched || !GoesOn()) return first;
        if (!Search().CanSearch) return first;
        // One piece on one sheet, a row of some: where nothing can be better, nothing better is looked for.
        if (IsNearLeast(first, Near) && search!.Tidy(first) is var tidy && IsNearLeast(tidy, Least) && LayoutCheck.Faults(request, tidy).IsEmpty) return tidy;
        var share = (long)Math.Min(Math.Max(LeastRound, effort / 40), effort);
        var before = work;
        var best = search!.Run(first, share, round =>
        {
            work = before + (double)round * share;
            return request.Rounds is { } most ? round >= most : Spent() >= 1;
        }, Say, either.Token);
        best = search.Tidy(best);
        // What the search found is checked by code that knows nothing of it; should it ever be wrong, the first fill is still there.
        var faults = LayoutCheck.Faults(request, best);
        return faults.IsEmpty ? best : first with { Discarded = faults };

        // Two ways at a time, at least the first two, and for a seventh of the time.
        void Fill(int most)
        {
            foreach (var pair in fill.FirstWays().Chunk(2).Take(most))
            {
                var results = new (NestResult Result, long Work)[pair.Length];
                var token = filled is null ? cancel : either.Token;
                Parallel.For(0, pair.Length, k => results[k] = fill.Fill(pair[k], token, hurryAfter: inHurry, hurry: request.Until));
                foreach (var (result, work) in results)
                {
                    words += work;
                    if (filled is null || result.Cost < filled.Cost - 1e-9) filled = result;
                }

                Say(filled!, "a first fill");
                if (words > allowed || either.IsCancellationRequested) break;
            }
        }

        // With many copies of a piece in a lattice, and the others around them. What comes of it is checked before it is taken.
        void FillAround()
        {
            var there = fill.InLattice((long)(effort / InLattice), out var lattice, either.Token);
            work += lattice;
            if (there.IsEmpty) return;
            foreach (var way in fill.FirstWays().Take(2))
            {
                var (result, more) = fill.Fill(way, either.Token, there);
                words += more;
                if (result.Cost < filled!.Cost - 1e-9 && LayoutCheck.Faults(request, result).IsEmpty) filled = result;
            }

            Say(filled!, "in a lattice");
        }

        // Corner in corner, on ever fewer sheets.
        void FillCorners()
        {
            var most = (long)(effort / InCorners);
            while (most > 0 && GoesOn())
            {
                var (kinds, _) = filled!.Next(request, fill.TooLarge.Length);
                var fewer = CornerFill.On(request, [.. fill.Fitting], kinds, most, out var corners, either.Token);
                most -= corners;
                work += corners;
                if (fewer is null || Search().Parted(fewer, either.Token) is not { } parted) break;
                if (!LayoutCheck.Faults(request, parted).IsEmpty) break;
                filled = parted;
                Say(filled, "corner in corner");
            }
        }

        bool IsNearLeast(NestResult result, double within) => result.Unplaced.Length == fill.TooLarge.Length
            && LeastLayout.Of(request, fill.Fitting, result) is { } least && result.Price + result.LastSheetPart <= least + within;

        bool GoesOn() => !either.IsCancellationRequested && !(request.StopsWhenAllFit && filled!.Unplaced.IsEmpty);

        // Made when it is asked for first: it reads all shapes once more.
        NestSearch Search() => search ??= new(request, fill.Fitting, fill.TooLarge);

        // The part of the effort that is spent.
        double Spent() => words / ofWords + work / effort;

        void Say(NestResult now, string does) => progress?.Report(NestProgress.Of(Spent(), now, does));
    }
}
