using System.Runtime.CompilerServices;
using Falzkunst.Core.Looks;

namespace Falzkunst.Core.Cards;

/// <summary>What a paper is beside its colour and weight, as far as its name says.</summary>
public enum Finish
{
    Plain,
    Translucent,
    Mirror,
    Glitter,
    Photo,
    Adhesive,
    Clear,
    Stuff,
}

/// <summary>
/// How well a paper suits a piece for which nobody chose one: the nearness of the colours, where hue counts more than lightness, what the piece is called,
/// what is done with it, and what else the paper is. 0 suits entirely; over <see cref="Poor"/> somebody is asked.
/// </summary>
public static class PaperFit
{
    /// <summary>A paper that suits a piece less than this is asked about.</summary>
    public const double Poor = 1;

    /// <summary>Colours this far apart in Oklab, with lightness counted by <see cref="Lightness"/>, are those of different papers: red and copper, ivory and
    /// yellow.</summary>
    private const double FarApart = 0.08, Lightness = 0.35;

    /// <summary>What a finish that nothing speaks for counts, and a paper too light for what is done with it.</summary>
    private const double Special = 0.7, TooLight = 0.7;

    /// <summary>What it counts that a file says no colour.</summary>
    private const double Unsaid = 0.5;

    /// <summary>Card that bears a fold, in grams a square metre.</summary>
    private const double FoldsFrom = 150;

    private static readonly (Finish Finish, string[] Words)[] Finishes =
    [
        (Finish.Translucent, ["vellum", "translucent", "tracing", "parchment", "pergament", "pergamin", "transparent", "calque", "velin"]),
        (Finish.Mirror, ["mirror", "spiegel", "miroir", "espejo", "specchio", "chrome"]),
        (Finish.Glitter, ["glitter", "glimmer", "glitzer", "pailleté"]),
        (Finish.Photo, ["photo", "foto"]),
        (Finish.Adhesive, ["sticker", "adhesive", "label", "klebe", "selbstklebend", "aufkleber", "vinyl"]),
        (Finish.Clear, ["acetate", "film", "folie", "clear", "klar"]),
        (Finish.Stuff, ["wood", "veneer", "holz", "furnier", "cork", "kork", "felt", "filz", "leather", "leder", "foam", "magnet", "fabric", "stoff"]),
    ];

    /// <summary>Words that many papers have in their names.</summary>
    private static readonly string[] Common =
    [
        "card", "cardstock", "cardboard", "paper", "papier", "karton", "sheet", "sheets", "textured", "matte", "matt", "smooth", "thick", "thin", "gsm", "for",
        "the",
    ];

    /// <summary>What a name and a colour say, of a piece or of a paper.</summary>
    private sealed record Said(ImmutableArray<string> Words, (double L, double A, double B) Oklab, Finish Finish);

    // Both are immutable, and each piece is weighed against each paper on every page: found once.
    private static readonly ConditionalWeakTable<object, Said> Known = [];

    private static Said Of(Piece piece) => Known.GetValue(piece, static o => Of(((Piece)o).Label, ((Piece)o).Colour));

    private static Said Of(Stock stock) => Known.GetValue(stock, static o => Of(((Stock)o).Name, ((Stock)o).Colour));

    private static Said Of(string name, Colour colour)
    {
        ImmutableArray<string> words = [.. WordsOf(name)];
        return new(words, colour.Oklab, Array.Find(Finishes, f => words.Any(w => f.Words.Any(w.StartsWith))).Finish);
    }

    /// <summary>How badly a paper suits a piece.</summary>
    public static double Of(Piece piece, Stock stock)
    {
        var called = Called(piece, stock);
        // Who calls a piece as a paper is called means that, whatever colour it was drawn in.
        var colour = Apart(piece, stock) / FarApart;
        // Plain black is what files are that say nothing of colour: where no paper is black, it is none.
        if (piece.Colour == Colour.Black && colour > Poor) colour = Unsaid;
        colour = colour * (called >= 1 ? 0.25 : 1) - called / 4;
        return colour + (IsTooLight(piece, stock) ? TooLight : 0) + (SpeaksFor(piece, Of(stock).Finish) ? 0 : Special);
    }

    /// <summary>Why a paper does not suit a piece, as parts of a sentence; empty where it does.</summary>
    public static IEnumerable<string> Against(Piece piece, Stock stock)
    {
        if (Apart(piece, stock) > FarApart && piece.Colour != Colour.Black) yield return "it has another colour";
        if (IsTooLight(piece, stock)) yield return string.Create(CultureInfo.InvariantCulture, $"{stock.WeightGsm:0} g bears no fold");
        if (!SpeaksFor(piece, Of(stock).Finish)) yield return Of(stock).Finish switch
        {
            Finish.Translucent => "one sees through it",
            Finish.Mirror => "it is mirror card",
            Finish.Glitter => "it glitters",
            Finish.Photo => "it is coated for photographs",
            Finish.Adhesive => "it sticks",
            Finish.Clear => "it is a clear film",
            _ => "it is no paper",
        };
    }

    private static bool IsTooLight(Piece piece, Stock stock) =>
        stock.WeightGsm is > 0 and < FoldsFrom && piece.Lines.Any(l => l.Operation is Operation.Score);

    private static bool SpeaksFor(Piece piece, Finish finish) => finish == Finish.Plain
        || (finish == Finish.Photo && piece.IsPrinted) || (finish == Finish.Translucent && piece.Lines.Any(l => l.Operation is Operation.Deboss))
        || Of(piece).Words.Any(w => Finishes.First(f => f.Finish == finish).Words.Any(w.StartsWith));

    /// <summary>How much of a paper's name is in that of a piece: 0 to 1.</summary>
    private static double Called(Piece piece, Stock stock)
    {
        var (own, its) = (Of(piece).Words, Of(stock).Words.Except(Common).ToList());
        return its.Count == 0 ? 0 : its.Count(own.Contains) / (double)its.Count;
    }

    private static IEnumerable<string> WordsOf(string name)
    {
        var from = 0;
        for (var i = 0; i <= name.Length; i++)
        {
            if (i < name.Length && char.IsLetter(name[i])) continue;
            if (i - from > 2) yield return name[from..i].ToLowerInvariant();
            from = i + 1;
        }
    }

    private static double Apart(Piece piece, Stock stock)
    {
        var ((l, m, s), (x, y, z)) = (Of(piece).Oklab, Of(stock).Oklab);
        return Math.Sqrt((l - x) * (l - x) * Lightness * Lightness + (m - y) * (m - y) + (s - z) * (s - z));
    }
}
