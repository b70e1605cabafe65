namespace Falzkunst.Core.Findings;

/// <summary>What the reader left out or changed; each note of the reading is a finding with its place.</summary>
internal static class LeftOut
{
    public static IEnumerable<Finding> In(FindingContext c) =>
        c.Design.Notes.Select(n => new Finding(n.Code, n.Code is "text" or "clip" or "external" or "mask" or "tangled" ? Severity.Warn
            : Severity.Note, n.At, n.Text, [n.Text]));
}
