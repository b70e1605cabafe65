using System.Globalization;
using Falzkunst.Core.Cards;
using Falzkunst.Core.Measures;
using Falzkunst.Core.Runs;
using Falzkunst.Core.Shapes;

namespace Falzkunst.Web.Table;

/// <summary>What hands do at the machine, as a picture from above: the mat with the sheet in its corner, and the holders with the tools that are in.</summary>
public static class HandsSvg
{
    private const double Wide = 240, High = 150, HolderWide = 84, HolderHigh = 34;

    /// <param name="held">What is in each holder by then: the name of a tool and its operation; null where one is free.</param>
    /// <param name="changed">The holders, from 1, that something is put into now.</param>
    /// <param name="loads">Whether the sheet is laid on the mat now.</param>
    /// <param name="turns">Whether it is turned over.</param>
    public static string Of(SheetRun sheet, string paperHex, IReadOnlyList<(string Name, Operation Operation)?> held, IReadOnlySet<int> changed, bool loads,
        bool turns, Machine? machine)
    {
        var w = new SvgWriter().Start("svg").Set("class", "hands-svg").Set("xmlns", "http://www.w3.org/2000/svg").Set("viewBox", new Box(0, 0, Wide, High))
            .Set("aria-hidden", "true");
        // The holders on their rail.
        w.Start("path").Set("class", "rail").Set("d", $"M6 26H{Wide - 6}").End();
        for (var i = 0; i < held.Count; i++)
        {
            var x = 14 + i * (HolderWide + 12);
            var isNew = changed.Contains(i + 1);
            w.Start("g").Set("class", $"holder{(isNew ? " is-new" : "")}{(held[i] is null ? " is-free" : "")}");
            w.Start("rect").Set("x", x, 1).Set("y", 9, 1).Set("width", HolderWide, 1).Set("height", HolderHigh, 1).Set("rx", 3, 1).End();
            Text(w, x + 7, 20, "where", held.Count == 1 ? "the holder" : $"holder {i + 1}");
            Text(w, x + 7, 35, "what", held[i] is { } tool ? Short(tool.Name) : "free");
            // The tip, as wide as it matters to the eye alone.
            if (held[i] is { } there) w.Start("path").Set("class", $"tip op-{there.Operation.Word()}").Set("d", Tip(x + HolderWide / 2)).End();
            if (isNew) w.Start("path").Set("class", "arrow").Set("d", string.Create(CultureInfo.InvariantCulture,
                $"M{x + HolderWide - 12} 0v7m-3 -3l3 3l3 -3")).End();
            w.End();
        }

        // The mat, and the sheet in the corner where it belongs.
        const double Top = 58;
        var matWide = machine?.Width.Mm ?? sheet.Width.Mm;
        // Of a roll a part is enough.
        var matHigh = Math.Min(machine?.Height.Mm ?? sheet.Height.Mm, 1.4 * matWide);
        var scale = Math.Min((Wide - 28) / matWide, (High - Top - 4) / matHigh);
        w.Start("rect").Set("class", "mat").Set("x", 14, 1).Set("y", Top, 1).Set("width", matWide * scale, 1).Set("height", matHigh * scale, 1).End();
        w.Start("rect").Set("class", loads || turns ? "on-mat is-new" : "on-mat").Set("fill", paperHex).Set("x", 14, 1).Set("y", Top, 1)
            .Set("width", Math.Min(matWide, sheet.Width.Mm) * scale, 1).Set("height", Math.Min(matHigh, sheet.Height.Mm) * scale, 1).End();
        var middle = 14 + Math.Min(matWide, sheet.Width.Mm) * scale / 2;
        if (turns) w.Start("path").Set("class", "arrow").Set("d", string.Create(CultureInfo.InvariantCulture,
            $"M{middle - 16:0.#} {Top + 26}a16 10 0 0 1 32 0m-4 -4l4 4l4 -4")).End();
        else if (loads) w.Start("path").Set("class", "arrow").Set("d", string.Create(CultureInfo.InvariantCulture, $"M14 {Top}m26 26l-18 -18m0 8v-8h8")).End();
        Text(w, 24 + matWide * scale, Top + 12, "where", turns ? "turned over," : loads ? "the sheet lies" : "the sheet stays");
        Text(w, 24 + matWide * scale, Top + 24, "where", turns ? "in the same corner" : loads ? "in this corner" : "where it is");
        return w.End().ToString();
    }

    private static string Tip(double x) => string.Create(CultureInfo.InvariantCulture, $"M{x - 4:0.#} 43h8l-4 9z");

    private static string Short(string name) => name.Length <= 15 ? name : name[..14] + "…";

    private static void Text(SvgWriter w, double x, double y, string kind, string text) =>
        w.Start("text").Set("class", kind).Set("x", x, 1).Set("y", y, 1).Text(text).End();
}
