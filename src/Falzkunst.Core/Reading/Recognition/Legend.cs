using Falzkunst.Core.Cards;
using Falzkunst.Core.Pictures;

namespace Falzkunst.Core.Reading.Recognition;

/// <summary>
/// What a file itself says that its looks mean: short samples of lines or colours, each with a word beside it. Samples and words are no part of the card.
/// </summary>
internal sealed class Legend
{
    private const double LongestSample = 40, Farthest = 25, SameHeight = 5;

    private readonly Dictionary<(string Colour, bool Dashed), (Operation Operation, string Word)> _said = [];

    public static Legend None { get; } = new();

    /// <summary>The items that are part of it.</summary>
    public HashSet<int> Items { get; } = [];

    /// <summary>The words that were read, to say nothing more of them.</summary>
    public List<Point> Words { get; } = [];

    /// <summary>What it says of a look.</summary>
    public (Operation Operation, string Word)? Of(Ink ink) => _said.Count > 0 && ColourOf(ink) is { } colour && _said.TryGetValue((colour, IsDashed(ink)),
        out var said)
        ? said : null;

    /// <summary>
    /// Reads it: a text that says an operation and has a short drawn thing just before or behind it, at its height. One word alone is a label; it takes two, or
    /// one that says a fold.
    /// </summary>
    public static Legend Read(Drawing drawing)
    {
        var legend = new Legend();
        var found = new List<(DrawnText Text, int Sample, Operation Operation)>();
        foreach (var text in drawing.Texts)
        {
            if (OperationNames.Read(text.Text.Trim().TrimEnd(':', '.')) is not { } said) continue;
            var sample = -1;
            var best = Farthest;
            for (var i = 0; i < drawing.Items.Length; i++)
            {
                if (drawing.Items[i] is not DrawnPath { IsTextOf: null } item) continue;
                var box = item.Path.Bounds;
                if (Math.Max(box.Width, box.Height) > LongestSample || Math.Abs(box.Centre.Y - text.At.Y) > SameHeight) continue;
                var gap = text.At.X >= box.Centre.X ? text.At.X - box.Right : box.Left - text.At.X;
                if (gap < -1 || gap >= best) continue;
                (sample, best) = (i, gap);
            }

            if (sample >= 0) found.Add((text, sample, said.Operation));
        }

        if (found.Count == 0 || (found.Count == 1 && found[0].Operation == Operation.Cut)) return None;
        foreach (var (text, sample, operation) in found)
        {
            var ink = ((DrawnPath)drawing.Items[sample]).Ink;
            if (ColourOf(ink) is { } colour) legend._said[(colour, IsDashed(ink))] = (operation, text.Text.Trim());
            legend.Items.Add(sample);
            legend.Words.Add(text.At);
            for (var i = 0; i < drawing.Items.Length; i++)
                if (drawing.Items[i] is DrawnPath { IsTextOf: { } of } && ReferenceEquals(of, text)) legend.Items.Add(i);
        }

        return legend;
    }

    private static string? ColourOf(Ink ink) => ink.Stroke?.Colour.Hex ?? ink.Fill?.Hex;

    private static bool IsDashed(Ink ink) => ink.Stroke is { Dashes.IsEmpty: false };
}
