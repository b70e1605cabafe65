using Falzkunst.Core.Strength;

namespace Falzkunst.Core.Cards;

/// <summary>A strength to choose: what it is called, and how pieces are strengthened by it.</summary>
/// <param name="Key">For a form: "just", "more", "apart", "spaced", "round", "holes", "typed".</param>
/// <param name="IsSpaced">Whether letters are set farther apart first, as little as it takes.</param>
public sealed record StrengthChoice(string Key, string Name, Strengthened How, bool IsSpaced = false)
{
    /// <summary>The edit that does it. To find out how far letters have to be set apart takes some strengthenings of the words.</summary>
    /// <exception cref="OperationCanceledException">It was given up.</exception>
    public Edit For(Design design, ImmutableArray<string> ids, CancellationToken cancel = default)
    {
        var strengthen = new Strengthen(ids, How);
        var spaced = !IsSpaced ? [] : ids.Select(design.Piece).OfType<Piece>().Where(p => p.Shape is Lettered)
            .Select(p => (Edit)new SetWords(p.Id, WordSpacing.Roomy((Lettered)p.Shape, How.Limits, cancel))).ToList();
        return spaced.Count == 0 ? strengthen : new Series([.. spaced, strengthen], strengthen.Describe(design) + ", letters farther apart");
    }
}

/// <summary>What of a strength can be told before it is chosen.</summary>
/// <param name="Seen">The pieces as they would be, each inspected.</param>
/// <param name="Growth">The farthest that an edge moves.</param>
/// <param name="Loose">How many lines would not lie in the paper any more.</param>
public sealed record StrengthOutcome(StrengthChoice Choice, Design After, ImmutableArray<InspectedPiece> Seen, Length Growth, int Loose)
{
    /// <summary>The narrowest place that is left; null where nothing is narrower than twice what is asked for.</summary>
    public Length? Narrowest => Least(Seen.Select(s => s.Seen.MinWidth));

    /// <summary>The narrowest gap, where that is told.</summary>
    public Length? Gap => Least(Seen.Select(s => s.Seen.MinGap));

    /// <summary>How many places stay thinner than is asked for.</summary>
    public int StillThin => Seen.Sum(s => s.Seen.Thin.Count);

    /// <summary>Whether two strengths come to the same: as much is left thin and to cut, and edges move alike, to a hundredth of a millimetre.</summary>
    public bool IsLike(StrengthOutcome other) => StillThin == other.StillThin && Math.Abs(Growth.Mm - other.Growth.Mm) < 0.01
        && Math.Abs(ToCut.Mm - other.ToCut.Mm) < 0.1 && Near(Narrowest, other.Narrowest) && Near(Gap, other.Gap)
        && Seen.Length == other.Seen.Length && Seen.Zip(other.Seen).All(s => Near(s.First.Piece, s.Second.Piece));

    private static bool Near(Piece a, Piece b)
    {
        Box one = a.OnCard.Bounds, two = b.OnCard.Bounds;
        return Math.Abs(a.AreaMm2 - b.AreaMm2) < 0.1 && Math.Abs(one.Left - two.Left) < 0.01 && Math.Abs(one.Right - two.Right) < 0.01
            && Math.Abs(one.Top - two.Top) < 0.01 && Math.Abs(one.Bottom - two.Bottom) < 0.01
            && a.OnCard.Parts().Zip(b.OnCard.Parts()).All(p => p.First.Bounds.Centre.DistanceTo(p.Second.Bounds.Centre) < 0.01);
    }

    private static bool Near(Length? a, Length? b) => a is null == b is null && Math.Abs((a?.Mm ?? 0) - (b?.Mm ?? 0)) < 0.01;

    /// <summary>All outlines to cut.</summary>
    public Length ToCut => Length.FromMm(Seen.Sum(s => s.Piece.Outline.Length.Mm));

    private static Length? Least(IEnumerable<Length?> of) => of.OfType<Length>().OrderBy(w => w.Mm).Cast<Length?>().FirstOrDefault();
}

/// <summary>The strengths that a card offers for some of its pieces.</summary>
public static class Strengths
{
    /// <summary>Just enough, a little more, with parts or letters apart where there are such, and by an even growth; behind them what was typed.</summary>
    /// <param name="asked">The most that any of the papers asks for, so that all match.</param>
    /// <param name="pieces">The pieces to be strengthened.</param>
    /// <param name="typed">A width that was typed; null where none was.</param>
    public static ImmutableArray<StrengthChoice> Of(Limits asked, IReadOnlyList<Piece> pieces, Length? typed)
    {
        Length even = Length.FromMm(Math.Round(asked.Width.Mm / 4, 2)), apart = asked.Width;
        var just = new Strengthened(StrengthenWay.OnlyThin, asked) { OfStock = 1 };
        var all = ImmutableArray.CreateBuilder<StrengthChoice>();
        all.Add(new("just", "just enough", just));
        all.Add(new("more", "a little more", just with { Limits = asked with { Width = asked.Width * 1.25 }, OfStock = 1.25 }));
        // One part has nothing to go away from.
        if (pieces.Any(p => p.Outline.Outer.Subpaths.Length > 1)) all.Add(new("apart", $"parts up to {apart} apart", just with { Apart = apart }));
        if (pieces.Any(p => p.Shape is Lettered { Text.Length: > 1 })) all.Add(new("spaced", "letters set apart", just, true));
        all.Add(new("round", $"{even} all round", new(StrengthenWay.AllRound, asked) { By = even }));
        if (pieces.Any(p => p.Outline.Outer.Subpaths.Length < p.Outline.Subpaths.Length))
            all.Add(new("holes", $"holes {even} smaller", new(StrengthenWay.HolesOnly, asked) { By = even }));
        if (typed is { } width) all.Add(new("typed", $"{width} where thin", new(StrengthenWay.OnlyThin, asked with { Width = width })));
        return all.ToImmutable();
    }

    /// <summary>The most that papers ask for.</summary>
    public static Limits Most(IEnumerable<Limits> all) => all.Aggregate((Limits?)null, (m, l) => m is null ? l
        : new(Length.FromMm(Math.Max(m.Width.Mm, l.Width.Mm)), Length.FromMm(Math.Max(m.Gap.Mm, l.Gap.Mm)))) ?? Limits.Usual;

    /// <summary>Gives pieces another stock; what was strengthened as much as its stock asks for is strengthened as the new one asks.</summary>
    /// <param name="stockId">Empty for the one that is nearest in colour.</param>
    public static Edit OnStock(Design design, ImmutableArray<string> ids, string stockId, IReadOnlyList<Stock> drawer)
    {
        var assign = new AssignStock(ids, stockId);
        var after = assign.Apply(design);
        var again = ids.Select(after.Piece).OfType<Piece>()
            .Select(p => (Piece: p, How: p.Treatments.OfType<Strengthened>().FirstOrDefault(), Asked: Stocks.Bears(after, p, drawer)))
            .Where(t => t.How?.OfStock is not null)
            .GroupBy(t => t.How! with { Beside = null, Limits = t.Asked with { Width = t.Asked.Width * t.How.OfStock!.Value } })
            .Where(g => g.Any(t => t.How!.Limits != g.Key.Limits)).Select(g => (Edit)new Strengthen([.. g.Select(t => t.Piece.Id)], g.Key)).ToList();
        return again.Count == 0 ? assign : new Series([assign, .. again], assign.Describe(design) + ", and strengthen for it");
    }

    /// <summary>What would come of a strength. It costs as much as to do it; done, it is remembered.</summary>
    /// <exception cref="OperationCanceledException">It was given up; what was done by then is remembered.</exception>
    public static StrengthOutcome Try(Design design, ImmutableArray<string> ids, StrengthChoice choice, Limits asked, CancellationToken cancel = default)
    {
        var edit = choice.For(design, ids, cancel);
        if (edit is Strengthen only) only.Prepare(design, cancel);
        var after = edit.Apply(design);
        var seen = ids.Select(after.Piece).OfType<Piece>().Select(p => new InspectedPiece(p, Inspection.Of(p.Outline, asked, cancel))).ToImmutableArray();
        var growth = seen.Max(s => design.Piece(s.Piece.Id) is { } was ? Strengthening.FarthestMoved(Strengthened.Before(was), s.Piece.Outline) : 0);
        return new(choice, after, seen, Length.FromMm(growth), Math.Max(0, after.Loose.Count() - design.Loose.Count()));
    }

    /// <summary>What would be added to pieces by a width, on the card, by the even-odd rule; about, and soon (<see cref="Strengthening.Draft"/>).</summary>
    public static VectorPath Draft(IReadOnlyList<Piece> pieces, Limits limits, CancellationToken cancel = default) => VectorPath.Joined(pieces.Select(p =>
    {
        var before = Strengthened.Before(p);
        var after = Strengthening.Draft(before, limits, p.Treatments.OfType<Strengthened>().FirstOrDefault()?.Beside, cancel);
        // Rings that stay cancel each other; they need not be sent.
        var (was, now) = (before.Subpaths.ToHashSet(), after.Subpaths.ToHashSet());
        VectorPath changed = new([.. before.Subpaths.Where(s => !now.Contains(s)), .. after.Subpaths.Where(s => !was.Contains(s))]);
        return changed.Transform(p.Place.Map);
    }));
}
