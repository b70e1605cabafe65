namespace Falzkunst.Core.Findings;

/// <summary>
/// A picture with few pixels. When: it is printed, and has fewer than 150 pixels on an inch of paper. Why: its pixels are seen as steps. Making the piece
/// smaller, or bringing in a larger picture, mends it.
/// </summary>
public static class CoarsePicture
{
    /// <summary>What is 150 but for rounding is enough.</summary>
    public const double Least = 149.5;

    public static IEnumerable<Finding> In(FindingContext c)
    {
        if (c.Design.Print is null) yield break;
        foreach (var art in c.Design.Artwork)
        {
            if (art.By is not { } piece || art.PxPerInch is not { } px || px >= Least) continue;
            yield return new("coarse-picture", Severity.Warn, art.Bounds.Centre,
                string.Create(CultureInfo.InvariantCulture,
                    $"The picture on {piece.Label} has {px:0} pixels an inch at this size: on paper its steps are seen. "
                + $"Bring in a larger one, or make the piece smaller."), [piece.Id]);
        }
    }
}
