using Falzkunst.Core.Cards;

namespace Falzkunst.Core.Findings;

/// <summary>A file without a physical size. Why: at another resolution everything would be a third larger or smaller. Remedy: settle it.</summary>
internal static class UnknownSize
{
    public static IEnumerable<Finding> In(FindingContext c)
    {
        var d = c.Design;
        if (d.Scale.IsKnown) yield break;
        var best = CardFormats.Guesses(d)[0];
        string taken = Size(d.Width.Mm, d.Height.Mm), size = Size(best.Width.Mm, best.Height.Mm);
        yield return new("unknown-size", Severity.Warn, new(0, 0),
            $"The file does not say how large it is; {taken} was taken. "
                + $"{(best.Format is { } f ? $"At {size} it is {An(f.Name)}." : "Choose another size under Bring in.")}",
            [], new($"It is {size}", new SetScale(best.PxPerInch)));

        static string Size(double w, double h) => string.Create(CultureInfo.InvariantCulture, $"{w:0.#} × {h:0.#} mm");

        static string An(string name) => (name[0] is 'A' or '8' ? "an " : "a ") + name;
    }
}
