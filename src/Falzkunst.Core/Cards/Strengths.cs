using Falzkunst.Core.Strength;

namespace Falzkunst.Core.Cards;

/// <summary>A strength to choose: what it is called, and how pieces are strengthened by it.</summary>
/// <param name="Key">For a form: "just", "more", "much", "round", "holes".</param>
public sealed record StrengthChoice(string Key, string Name, Strengthened How);

/// <summary>What of a strength can be told before it is chosen.</summary>
/// <param name="Seen">The pieces as they would be, each inspected.</param>
public sealed record StrengthOutcome(StrengthChoice Choice, Design After, ImmutableArray<InspectedPiece> Seen)
{
    /// <summary>The narrowest place that is left; null where nothing is narrower than twice what is asked for.</summary>
    public Length? Narrowest => Seen.Select(s => s.Seen.MinWidth).Where(w => w is not null).OrderBy(w => w!.Value.Mm).FirstOrDefault();

    /// <summary>The narrowest gap, where that is told.</summary>
    public Length? Gap => Seen.Select(s => s.Seen.MinGap).Where(w => w is not null).OrderBy(w => w!.Value.Mm).FirstOrDefault();

    /// <summary>How many places stay thinner than is asked for.</summary>
    public int StillThin => Seen.Sum(s => s.Seen.Thin.Count);

    /// <summary>All outlines to cut.</summary>
    public Length ToCut => Length.FromMm(Seen.Sum(s => s.Piece.Outline.Length.Mm));
}

/// <summary>The strengths that a card offers for some of its pieces.</summary>
public static class Strengths
{
    /// <summary>Just enough, a little more, and by an even growth; behind them what was typed.</summary>
    /// <param name="asked">The most that any of the papers asks for, so that all match.</param>
    /// <param name="typed">A width that was typed; null where none was.</param>
    public static ImmutableArray<StrengthChoice> Of(Limits asked, Length? typed)
    {
        var even = Length.FromMm(Math.Round(asked.Width.Mm / 4, 2));
        ImmutableArray<StrengthChoice> all =
        [
            new("just", "just enough", new(StrengthenWay.OnlyThin, asked) { OfStock = 1 }),
            new("more", "a little more", new(StrengthenWay.OnlyThin, asked with { Width = asked.Width * 1.25 }) { OfStock = 1.25 }),
            new("round", $"{even} all round", new(StrengthenWay.AllRound, asked) { By = even }),
            new("holes", $"holes {even} smaller", new(StrengthenWay.HolesOnly, asked) { By = even }),
        ];
        return typed is { } width ? all.Add(new("typed", $"{width} where thin", new(StrengthenWay.OnlyThin, asked with { Width = width }))) : all;
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
    public static StrengthOutcome Try(Design design, ImmutableArray<string> ids, StrengthChoice choice, Limits asked, CancellationToken cancel = default)
    {
        var after = new Strengthen(ids, choice.How).Apply(design);
        return new(choice, after, [.. ids.Select(after.Piece).OfType<Piece>().Select(p => new InspectedPiece(p, Inspection.Of(p.Outline, asked, cancel)))]);
    }
}
