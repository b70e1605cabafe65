using System.Globalization;
using System.Text;
using System.Text.RegularExpressions;
using Falzkunst.Core.Cards;

namespace Falzkunst.Core.Reading.Recognition;

/// <summary>
/// Which operation the name of a layer, a group or an element says, in English, German, French, Spanish and Dutch. A name says one when all its words do, or
/// say nothing ("fold lines", "Falzlinien 2", "cut layer"), or when it begins with a word of the trade that means nothing else ("deboss lantern"); any other
/// word among others is only a word ("tri-fold card", "mountain cabin").
/// </summary>
internal static partial class OperationNames
{
    private static readonly Dictionary<string, Operation> Words = Of(
        (Operation.Score, "fold folds folded folding score scores scored scoring crease creases mountain valley falz falze falzen falten rille rillen rill "
            + "bergfalz talfalz pli plis pliure pliures pliage rainage rainages pliegue pliegues plegado doblez dobleces hendido hendidos vouw vouwen ril "
            + "rillen plooi"),
        (Operation.Perforate, "perforate perforated perforation perforations perf perfs perforieren perforiert perforacion perforaciones perforar perforatie "
            + "perforaties perforer"),
        (Operation.Foil, "foil foils foiled foiling folie heissfolie heisfolie dorure dorures foliefolie"),
        (Operation.Draw, "draw drawn pen pens write writing written words schreiben schrift schriften zeichnen stift stifte worter stylo stylos ecrire "
            + "ecriture dessin dessiner pluma escribir escritura dibujar schrijven tekenen woorden"),
        (Operation.Deboss, "deboss debossed debossing emboss embossed embossing pragen pragung gaufrage gofrado"),
        (Operation.Cut, "cut cuts cutting schneiden schnitt schnitte couper coupe coupes decoupe decoupes cortar corte cortes snijden snij snit"));

    private static readonly HashSet<string> Nothing = [.. ("line lines layer layers linie linien ebene ebenen ligne lignes calque calques linea lineas "
        + "capa capas lijn lijnen laag lagen path paths group gruppe groupe grupo groep hot tool only all the of on inner outer inside outside and und "
        + "et y en x copy").Split(' ')];

    /// <summary>Words that are at home elsewhere too: among others they say nothing.</summary>
    private static readonly HashSet<string> Common = [.. ("fold folds folded folding mountain valley falz falze falten pli plis pliage pliegue pliegues "
        + "plegado doblez vouw vouwen plooi foil foils folie words written pen pens stift stifte schrift schriften worter stylo stylos dessin pluma woorden "
        + "cut cuts schnitt schnitte coupe coupes corte cortes snit").Split(' ')];

    private static Dictionary<string, Operation> Of(params (Operation Operation, string Words)[] all) =>
        all.SelectMany(o => o.Words.Split(' ').Select(w => (w, o.Operation))).DistinctBy(w => w.w)
            .ToDictionary(w => w.w, w => w.Operation, StringComparer.Ordinal);

    /// <summary>Null where the name says none, or several.</summary>
    public static (Operation Operation, string Word)? Read(string name)
    {
        if (name.Length is 0 or > 200) return null;
        Operation? said = null;
        var isFirst = true;
        foreach (Match match in Word().Matches(Plain(name)))
        {
            var word = match.Value.ToLowerInvariant();
            if (isFirst && !Common.Contains(word) && Words.TryGetValue(word, out var trade)) return (trade, name);
            isFirst = false;
            if (Nothing.Contains(word)) continue;
            if (Meaning(word) is not { } operation || (said is { } before && before != operation)) return null;
            said = operation;
        }

        return said is { } one ? (one, name) : null;
    }

    /// <summary>Of a word, also of one that runs together with a word that says nothing: "cutlines", "falzlinien".</summary>
    private static Operation? Meaning(string word)
    {
        if (Words.TryGetValue(word, out var operation)) return operation;
        for (var i = 3; i <= word.Length - 3; i++)
            if (Nothing.Contains(word[i..]) && Words.TryGetValue(word[..i], out var first)) return first;
        return null;
    }

    /// <summary>Without accents.</summary>
    private static string Plain(string name) => string.Concat(name.Replace("ß", "ss", StringComparison.Ordinal).Normalize(NormalizationForm.FormD)
        .Where(c => CharUnicodeInfo.GetUnicodeCategory(c) != UnicodeCategory.NonSpacingMark));

    [GeneratedRegex(@"\p{Lu}?\p{Ll}+|\p{Lu}+")]
    private static partial Regex Word();
}
