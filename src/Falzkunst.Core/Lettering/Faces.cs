namespace Falzkunst.Core.Lettering;

/// <summary>A letter that was set: its path around its own origin, and where that lies on the base line. In em, y down.</summary>
/// <param name="Advance">How far the pen goes on behind it.</param>
/// <param name="IsSpace">Whether it stands between words.</param>
public readonly record struct SetLetter(VectorPath Path, double X, double Y, double Advance, bool IsSpace);

/// <summary>A face that words can be set in: with outlines, or with single strokes.</summary>
public interface IFace
{
    string Name { get; }

    /// <summary>Whether its letters are strokes of a pen, which enclose nothing.</summary>
    bool IsSingleLine { get; }

    /// <summary>How far a capital H rises above the base line, in em.</summary>
    double CapHeight { get; }

    /// <summary>Sets one line of text.</summary>
    /// <param name="isJoined">Whether letters may be joined to ligatures; letters that are spaced must not be.</param>
    IReadOnlyList<SetLetter> Letters(string text, bool isJoined);

    /// <summary>Whether it has a sign.</summary>
    bool Has(System.Text.Rune sign);
}

/// <summary>All faces that ship with the application.</summary>
public static class Faces
{
    /// <summary>By name and weight; those with outlines first.</summary>
    public static IReadOnlyList<IFace> All { get; } = [.. Typeface.All, .. StrokeFace.All];

    /// <summary>What is written in where nobody says: single lines, which any pen draws.</summary>
    public static IFace Usual => StrokeFace.All[0];

    /// <summary>The face of a name whose weight is nearest; null where none ships.</summary>
    public static IFace? Find(string name, int weight) =>
        (IFace?)Typeface.Find(name, weight) ?? StrokeFace.All.FirstOrDefault(f => f.Name.Equals(name, StringComparison.OrdinalIgnoreCase));

    /// <summary>The first sign of a text that a face lacks, as a part of a sentence with a face of the same kind that has it; null where it has all.</summary>
    public static string? Missing(string text, IFace face)
    {
        foreach (var sign in text.EnumerateRunes())
        {
            if (sign.Value is '\n' or '\r' || face.Has(sign)) continue;
            var other = All.FirstOrDefault(f => f.IsSingleLine == face.IsSingleLine && text.EnumerateRunes().All(r => r.Value is '\n' or '\r' || f.Has(r)))
                ?? All.FirstOrDefault(f => f.IsSingleLine == face.IsSingleLine && f.Has(sign));
            return $"{face.Name} has no sign “{sign}”" + (other is null ? "" : $"; {other.Name} has it");
        }

        return null;
    }
}
