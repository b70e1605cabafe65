using Falzkunst.Core.Cards;

namespace Falzkunst.Core.Findings;

/// <summary>A file without a physical size. Why: at another resolution everything would be a third larger or smaller. Remedy: settle it.</summary>
internal static class UnknownSize
{
    public static IEnumerable<Finding> In(FindingContext c)
    {
        var d = c.Design;
        if (d.Scale.IsKnown) yield break;
        var size = string.Create(CultureInfo.InvariantCulture, $"{d.WidthMm:0.#} × {d.HeightMm:0.#} mm");
        yield return new("unknown-size", Severity.Warn, new(0, 0),
            $"The file does not say how large it is; {size} was taken. Choose another size under Bring in.",
            [], new($"It is {size}", new SetScale(d.Scale.PxPerInch)));
    }
}
