using Falzkunst.Core.Cards;
using Falzkunst.Core.Strength;

namespace Falzkunst.Core.Findings;

/// <summary>
/// Places that a piece's paper does not bear. When: a limb is narrower than its stock bears, or a part or hole is too small to be cut. Why: it tears when it is
/// weeded, or comes off on the blade. Looked for only in pieces that were inspected, since that takes longer than an edit may.
/// </summary>
internal static class TooWeak
{
    public static IEnumerable<Finding> In(FindingContext c)
    {
        if (c.Drawer.Count == 0) yield break;
        var thin = new List<(Piece Piece, Inspection Seen)>();
        var specks = new List<(Piece Piece, Inspection Seen)>();
        foreach (var piece in c.Design.Papers)
        {
            var limits = Stocks.Bears(c.Design, piece, c.Drawer);
            if (!Inspection.IsKnown(piece.Outline, limits)) continue;
            var seen = Inspection.Of(piece.Outline, limits);
            if (seen.Thin.Count > 0) thin.Add((piece, seen));
            if (seen.Specks.Count > 0) specks.Add((piece, seen));
        }

        // What was strengthened by as much as is asked for, and is thin all the same: its outcome is another than it was meant to be.
        var blocked = thin.Where(t => HowOf(t.Piece) is { Way: StrengthenWay.OnlyThin } how && how.Limits.Width >= t.Seen.Limits.Width * 0.999).ToList();
        foreach (var (piece, seen) in blocked) yield return StillThin(piece, seen);

        // By stock, so that one sentence says what does not bear.
        foreach (var of in thin.Except(blocked).GroupBy(t => Stocks.For(t.Piece, c.Drawer)?.Name ?? ""))
        {
            var worst = of.MinBy(t => t.Seen.Thin[0].Width.Mm);
            var count = of.Sum(t => t.Seen.Thin.Count);
            var asked = Strengths.Most(of.Select(t => t.Seen.Limits));
            yield return new("too-thin", Severity.Warn, worst.Piece.Place.Map.Apply(worst.Seen.Thin[0].At),
                $"{(count == 1 ? "1 place is" : $"{count} places are")} thinner than {(of.Key.Length > 0 ? of.Key : "the paper")} bears ({asked.Width}); "
                + $"the narrowest is {Length.FromMm(Math.Round(worst.Seen.Thin[0].Width.Mm, 2))}.", [.. of.Select(t => t.Piece.Id)],
                new("Strengthen just enough", new Strengthen([.. of.Select(t => t.Piece.Id)], new(StrengthenWay.OnlyThin, asked) { OfStock = 1 })));
        }

        if (specks.Count == 0) yield break;
        var first = specks[0];
        var all = specks.Sum(s => s.Seen.Specks.Count);
        var most = Strengths.Most(specks.Select(s => s.Seen.Limits));
        // A piece that is a speck itself stays; who wants to can leave it out.
        var droppable = specks.Where(s => s.Seen.Parts + s.Seen.Holes > 1).Select(s => s.Piece.Id).ToImmutableArray();
        yield return new("specks", Severity.Note, first.Piece.Place.Map.Apply(first.Seen.Specks[0].At),
            $"{(all == 1 ? "1 part or hole is" : $"{all} parts and holes are")} too small to be cut well.", [.. specks.Select(s => s.Piece.Id)],
            droppable.IsEmpty ? null : new($"Drop {(all == 1 ? "1 speck" : $"{all} specks")}", new Treat(droppable, new WithoutSpecks(most.SpeckMm2,
                most.PinholeMm2))));
    }

    private static Strengthened? HowOf(Piece piece) => piece.Treatments.OfType<Strengthened>().FirstOrDefault();

    private static Finding StillThin(Piece piece, Inspection seen)
    {
        var (how, count) = (HowOf(piece)!, seen.Thin.Count);
        var hasParts = seen.Parts > 1 && how.Apart == Length.Zero;
        return new("still-thin", Severity.Warn, piece.Place.Map.Apply(seen.Thin[0].At),
            $"{piece.Label} was strengthened, and stays thinner than its paper bears ({seen.Limits.Width}) at {(count == 1 ? "1 place" : $"{count} places")}: "
            + "gaps leave no room.", [piece.Id], !hasParts ? null : new($"Set its parts up to {seen.Limits.Width} apart",
                new Strengthen([piece.Id], how with { Apart = seen.Limits.Width })));
    }
}
