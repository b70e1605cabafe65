using System.Runtime.CompilerServices;
using Falzkunst.Core.Regions;

namespace Falzkunst.Core.Cards;

/// <summary>A part of a base between its folds, in the piece's coordinates.</summary>
/// <param name="Name">The name that was given to it; empty where none was.</param>
/// <param name="Number">Its place in reading order, from 1.</param>
public sealed record PanelArea(string Name, Box Bounds, double AreaMm2, int Number)
{
    /// <summary>As it is called everywhere: "front panel", and without a name "panel 2".</summary>
    public string Called => Name.Length == 0 ? $"panel {Number}" : Name.EndsWith("panel", StringComparison.OrdinalIgnoreCase) ? Name : $"{Name} panel";

    /// <summary>As it is called in a sentence: "the front panel", "panel 2".</summary>
    public string InSentence => Name.Length == 0 ? Called : $"the {Called}";
}

/// <summary>The panels of a base: what its folds divide its paper into.</summary>
public static class Panels
{
    private const double LeastAreaMm2 = 1;

    /// <summary>The box around a panel where its piece lies on the card.</summary>
    public static Box OnCard(Piece piece, PanelArea area) =>
        VectorPath.Rectangle(area.Bounds.Left, area.Bounds.Top, area.Bounds.Width, area.Bounds.Height).Transform(piece.Place.Map).Bounds;

    /// <summary>
    /// The panels, in reading order; one where nothing folds. Each fold is continued to the edges (it stops short of them) and divides what it crosses. Curves
    /// are taken as chords.
    /// Costs an overlap for each fold and panel.
    /// </summary>
    public static IReadOnlyList<PanelArea> Of(Piece piece) => Known.GetValue(piece, Find).Areas;

    /// <summary>The paper of each of them, with its holes, in the same order.</summary>
    public static IReadOnlyList<VectorPath> PathsOf(Piece piece) => Known.GetValue(piece, Find).Paths;

    // Pieces are immutable, and after an edit most are the very same.
    private static readonly ConditionalWeakTable<Piece, Found> Known = [];

    private sealed record Found(IReadOnlyList<PanelArea> Areas, IReadOnlyList<VectorPath> Paths);

    private static Found Find(Piece piece)
    {
        var parts = new List<Region> { Region.Of(piece.Outline) };
        // A panel is named by a place in it, which may be in its window.
        foreach (var fold in piece.Folds)
        {
            if (piece.Lines.FirstOrDefault(l => l.Id == fold.LineId) is not { } line || !Cards.Folds.IsStraight(line.Path, out var from, out var to)) continue;
            var reach = piece.Outline.Bounds.Width + piece.Outline.Bounds.Height + from.DistanceTo(to);
            var along = (to - from) * (1 / from.DistanceTo(to));
            var side = new Point(-along.Y, along.X) * reach;
            Point a = from - along * reach, b = to + along * reach;
            var half = Region.Of(VectorPath.Polygon(a, b, b + side, a + side));
            parts = [.. parts.SelectMany(p => new[] { p.TakeAway(half), p.Overlap(half) }).Where(p => p.AreaMm2 > LeastAreaMm2)];
        }

        parts = [.. parts.OrderBy(p => Math.Round(p.Bounds.Top)).ThenBy(p => p.Bounds.Left)];
        return new([.. parts.Select((p, i) =>
            new PanelArea(piece.Panels.FirstOrDefault(n => p.WithoutHoles().Holds(n.At))?.Name ?? "", p.Bounds, p.AreaMm2, i + 1))],
            [.. parts.Select(p => VectorPath.Joined(p.ToPaths()))]);
    }
}
