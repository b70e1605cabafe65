namespace Falzkunst.Core.Cards;

/// <summary>A docket of several that are laid out together.</summary>
/// <param name="Docket">Its number.</param>
public sealed record Lot(int Docket, Design Design, int Copies);

/// <summary>The docket that a piece came from, how many of its card are made, and how they are laid out, where the designs of several dockets are
/// joined.</summary>
public sealed record Guest(int Docket, int Copies, LayingRules Laying);

/// <summary>
/// Dockets that share sheets. Their designs joined are a design like any other, so that what lays out, prints and runs one card does it for all of them; it is
/// derived, never stored, and the same for the same dockets in the same order.
/// </summary>
public static class Lots
{
    /// <summary>More are not joined.</summary>
    public const int Most = 12;

    /// <summary>Between the designs, so that none lies on another.</summary>
    private const double ApartMm = 100;

    /// <summary>Why they can't be laid out together, as a sentence; null where they can. The first has the sheets, so that it is the one that is
    /// printed.</summary>
    public static string? Fault(IReadOnlyList<Lot> lots)
    {
        if (lots.Count > Most) return $"Up to {Most} dockets are laid out together.";
        var first = lots[0];
        foreach (var other in lots.Where(HasPrints))
        {
            if (other.Design.Print is not null && !HasPrints(first))
                return $"Docket {other.Docket} is printed and docket {first.Docket} is not: choose docket {first.Docket} there, under Lay out.";
            if (other.Design.Print != first.Design.Print)
                return $"Dockets {first.Docket} and {other.Docket} are printed in different ways. Give both the same marks and bleed under Print first.";
        }

        return null;
    }

    /// <summary>One design with all of them. The first stays as it is; of the others, all that comes gets new ids and says where it came from.</summary>
    public static Design Together(IReadOnlyList<Lot> lots)
    {
        var all = lots[0].Design;
        foreach (var (docket, design, copies) in lots.Skip(1))
        {
            var (had, guest) = (all.AllPieces.Length, new Guest(docket, copies, design.Laying));
            Box here = all.Extent, there = design.Extent;
            all = BringBeside.TakeIn(all, design, new(here.Right + ApartMm - there.Left, here.Top - there.Top));
            all = all with
            {
                AllPieces = [.. all.AllPieces.Select((p, i) => i < had ? p : p with { Label = $"{p.Label}, docket {docket}", Guest = guest })],
            };
        }

        return all;
    }

    private static bool HasPrints(Lot lot) => lot.Design.Papers.Any(p => p.IsPrinted);
}
