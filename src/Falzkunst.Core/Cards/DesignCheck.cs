using System.Runtime.CompilerServices;
using System.Text.RegularExpressions;

namespace Falzkunst.Core.Cards;

/// <summary>Whether a design holds together, so that nothing behind has to ask.</summary>
internal static partial class DesignCheck
{
    private const double LargestMm = 1e6;
    private const int MostPlies = 2000, MostPieces = 100_000, MostLines = 500_000, MostLooks = 200_000, MostNotes = 100_000, MostSegments = 4_000_000,
        LongestLabel = 500, LongestText = 4000;

    // Pieces are immutable, so what was looked at once is well for ever: after an edit only the changed ones are looked at.
    private static readonly ConditionalWeakTable<Piece, PieceFacts> Known = [];

    private sealed record PieceFacts(string? Fault, int Segments);

    /// <summary>
    /// The first fault, as a part of a sentence: ids unique and well formed, the counter beyond them, everything carried and folded there, plies in use,
    /// numbers finite,
    /// outlines closed, with area and an edge for each ring. Linear in the things, and in the nodes of pieces that were not looked at before.
    /// </summary>
    public static string? Fault(Design d)
    {
        if (d.Schema != Design.CurrentSchema) return "its schema is not this program's";
        if (!(d.Width.Mm is > 0 and < LargestMm && d.Height.Mm is > 0 and < LargestMm)) return "its page has no size";
        if (IsNoScale(d.Scale) || d.Sources.Any(s => s.Scale is { } scale && IsNoScale(scale))) return "its scale is missing";
        if (Missing(d.AllPlies) || Missing(d.AllPieces) || Missing(d.AllLoose) || Missing(d.AllLooseArtwork) || Missing(d.Looks) || Missing(d.Sources)
            || Missing(d.Notes)) return "a list in it is missing";
        if (d.AllPlies.Length > MostPlies || d.AllPieces.Length > MostPieces || d.Looks.Length > MostLooks || d.Notes.Length > MostNotes
            || d.Sources.Length > 1000) return "there is more in it than one card could hold";
        var ids = new HashSet<string>(StringComparer.Ordinal);
        var highest = 0;
        foreach (var y in d.AllPlies)
        {
            if (Id(y.Id, y.Label) is { } fault) return fault;
            if (!(y.Foam.Mm is >= 0 and <= SetFoam.MostMm)) return $"the foam beneath the ply “{y.Id}” is none";
        }

        var plies = ids.ToHashSet(StringComparer.Ordinal);
        long segments = 0;
        var lines = 0;
        foreach (var p in d.AllPieces)
        {
            if (Id(p.Id, p.Label) is { } fault) return fault;
            var facts = Known.GetValue(p, Look);
            if (facts.Fault is { } inside) return inside;
            if (!plies.Contains(p.PlyId)) return $"the piece “{p.Id}” lies on no ply";
            foreach (var l in p.AllLines)
                if (Id(l.Id, l.Label) is { } wrong) return wrong;
            foreach (var a in p.AllArtwork)
                if (Id(a.Id, "") is { } wrong) return wrong;
            segments += facts.Segments;
            lines += p.AllLines.Length;
        }

        var used = d.AllPieces.Select(p => p.PlyId).ToHashSet(StringComparer.Ordinal);
        if (d.AllPlies.FirstOrDefault(y => !used.Contains(y.Id)) is { } idle) return $"no piece lies on the ply “{idle.Id}”";
        foreach (var l in d.AllLoose)
        {
            if ((Id(l.Id, l.Label) ?? Line(l)) is { } fault) return fault;
            segments += Segments(l.Path);
        }

        foreach (var a in d.AllLooseArtwork)
            if ((Id(a.Id, "") ?? Artwork(a)) is { } fault) return fault;
        if (lines + d.AllLoose.Length > MostLines || segments > MostSegments) return "there is more in it than one card could hold";
        foreach (var s in d.Sources)
        {
            if (Id(s.Id, s.Name) is { } fault) return fault;
            if (s.Content is { } hash && !Hash().IsMatch(hash)) return $"the source “{s.Id}” has no file";
            if (TooLong(s.Producer) || s.Tracing is { } t && Tracing(t) is not null) return $"how the source “{s.Id}” was traced is not known";
        }

        if (highest > d.LastId) return "its counter of ids lags behind";
        var looks = new HashSet<string>(StringComparer.Ordinal);
        foreach (var l in d.Looks)
            if (!looks.Add(l.Key) || l.Key.Length > LongestText || !double.IsFinite(l.Width.Mm)
                || TooLong(l.Layer)) return "a look in it is there twice, or is none";
        foreach (var n in d.Notes)
            if (TooLong(n.Code) || TooLong(n.Text) || !Finite(n.At)) return "a note of the reading is none";
        return d.Rules is { } rules && (TooLong(rules.Name) || TooLong(rules.By) || Missing(rules.Before)
            || rules.Before.Any(r => r.Look is null || !Enum.IsDefined(r.Operation))) ? "the rules that were applied are none" : null;

        string? Id(string id, string label)
        {
            if (id is null || id.Length > 60 || !WellFormed().IsMatch(id)) return "an id in it is not made of small letters, digits and hyphens";
            if (label is null || label.Length > LongestLabel) return $"the name of “{id}” is too long";
            if (Number(id) is { } n) highest = Math.Max(highest, n);
            return ids.Add(id) ? null : $"“{id}” is there twice";
        }
    }

    private static PieceFacts Look(Piece p)
    {
        var segments = 0;
        return new(Fault(), segments);

        string? Fault()
        {
            if (p.Shape is null || Missing(p.Treatments) || Missing(p.Edges) || Missing(p.AllLines) || Missing(p.AllArtwork) || Missing(p.Folds)
                || Missing(p.Panels)) return $"the piece “{p.Id}” lacks something";
            if ((p.Shape.Fault() ?? p.Treatments.Select(t => t.Fault())
                .FirstOrDefault(f => f is not null)) is { } number) return $"the piece “{p.Id}” can't be made: {number}";
            if (!p.Place.IsFinite || Math.Abs(p.Place.Shift.X) > LargestMm || Math.Abs(p.Place.Shift.Y) > LargestMm
                || p.Place.Turn != p.Place.Turn.Normal) return $"the piece “{p.Id}” lies nowhere";
            if (!p.Number.IsPossible) return $"the piece “{p.Id}” is made in a number that is none";
            if (p.Held?.Fault() is not null) return $"what holds the piece “{p.Id}” is none";
            if (p.StockId is { } stock && stock.Length > 100) return $"the stock of the piece “{p.Id}” is none";
            if (p.Origin is { } o && Origin(o) is { } origin) return $"where the piece “{p.Id}” came from is not known: {origin}";
            var outline = p.Outline;
            segments = Segments(outline);
            if (Whole(outline) is not { } box || box.IsEmpty || !outline.IsClosed
                || outline.Subpaths.Any(s => s.Segments.IsEmpty)) return $"the outline of the piece “{p.Id}” is none";
            if (p.Edges.Length != outline.Subpaths.Length) return $"the edges of the piece “{p.Id}” are not its own";
            if (p.Edges.Any(e => !Enum.IsDefined(e.Operation) || e.Origin is { } eo && Origin(eo) is not null)) return $"an edge of the piece “{p.Id}” is none";
            foreach (var l in p.AllLines)
            {
                if (Line(l) is { } line) return line;
                segments += Segments(l.Path);
            }

            if (p.AllArtwork.Select(Artwork).FirstOrDefault(f => f is not null) is { } art) return art;
            if (p.Folds.Any(f => !Enum.IsDefined(f.Side) || p.AllLines.All(l => l.Id != f.LineId))) return $"a fold of the piece “{p.Id}” is none of its lines";
            return p.Panels.Any(n => n.Name is null or { Length: > 100 } || !Finite(n.At)) ? $"a panel of the piece “{p.Id}” is none" : null;
        }
    }

    private static string? Line(Line l) =>
        Whole(l.Path) is null ? $"the line “{l.Id}” lacks something"
        : !Enum.IsDefined(l.Operation) || !Enum.IsDefined(l.Face) ? $"what happens along the line “{l.Id}” is not known"
        : l.Pen is { } pen && !double.IsFinite(pen.Alpha) ? $"the pen of the line “{l.Id}” is none"
        : l.Origin is { } o && Origin(o) is { } origin ? $"where the line “{l.Id}” came from is not known: {origin}"
        : Part(l.LeftOut, l.Id);

    private static bool IsNoScale(ScaleFacts? scale) => scale is not { PxPerInch: > 0 and < 1e6 } || TooLong(scale.Reason);

    private static string? Artwork(Artwork a) =>
        (a.Picture is null) == (a.Pattern is null) || a.Picture is { Bytes.IsDefaultOrEmpty: true } or { MediaType.Length: 0 } ? $"the picture “{a.Id}” is none"
        : a.Pattern?.Fault() is not null ? $"the pattern “{a.Id}” is none"
        : !a.Map.IsFinite || a.Map.Determinant == 0 || Math.Abs(a.Map.E) + Math.Abs(a.Map.F) > 4 * LargestMm || !(a.Opacity is >= 0 and <= 1)
        ? $"the picture “{a.Id}” lies nowhere"
        : a.Origin is { } o && Origin(o) is { } origin ? $"where the picture “{a.Id}” came from is not known: {origin}"
        : Part(a.LeftOut, a.Id);

    private static string? Part(string? leftOut, string id) => leftOut is not null && (leftOut.Length > 60 || !WellFormed().IsMatch(leftOut))
        ? $"“{id}” was left out with nothing" : null;

    private static string? Origin(Origin o) =>
        o.Look is null || o.Look.Length > LongestText || TooLong(o.Why) || o.Source is null || o.Source.Length > 60 ? "its words are missing or too long"
        : o.Or is { } or && !Enum.IsDefined(or) ? "what else it may be is not known"
        : o.Ink is null || !Enum.IsDefined(o.Ink.Rule) ? "it has no ink"
        : o.Ink.Fill is { } f && !double.IsFinite(f.Alpha) ? "its colour is none"
        : o.Ink.Stroke is { } s && (s.Dashes.IsDefault || s.Dashes.Length > 1000 || !(s.Width.Mm is >= 0 and < LargestMm)
        || !double.IsFinite(s.MiterLimit + s.DashOffset.Mm + s.Colour.Alpha) || s.Dashes.Any(x => !(x.Mm is >= 0 and < LargestMm))
            || !Enum.IsDefined(s.Cap) || !Enum.IsDefined(s.Join)) ? "its stroke is none" : null;

    private static string? Tracing(TracingFacts t) => TooLong(t.Why) || t.Settings is null || !double.IsFinite(t.Threshold) ? "none"
        : TraceLimits.Fault(t.Settings)?.Takes;

    /// <summary>The number at the end of an id that the counter gives.</summary>
    internal static int? Number(string id)
    {
        var at = id.Length;
        while (at > 0 && char.IsAsciiDigit(id[at - 1])) at--;
        return at < id.Length && id.Length - at < 10 && int.TryParse(id.AsSpan(at), CultureInfo.InvariantCulture, out var n) ? n : null;
    }

    private static int Segments(VectorPath path) => path.Subpaths.Sum(s => s.Segments.Length + 1);

    private static bool TooLong(string? text) => text is null or { Length: > LongestText };

    private static bool Missing<T>(ImmutableArray<T> list)
        where T : class => list.IsDefault || list.Any(item => item is null);

    private static bool Finite(Point p) => double.IsFinite(p.X) && double.IsFinite(p.Y) && Math.Abs(p.X) + Math.Abs(p.Y) < 4 * LargestMm;

    private static Box? Whole(VectorPath? path) => path is { IsEmpty: false, Bounds: var b } && double.IsFinite(b.Left + b.Right + b.Top + b.Bottom)
        && Finite(new(b.Left, b.Top)) && Finite(new(b.Right, b.Bottom)) ? b : null;

    [GeneratedRegex("^[a-z][a-z0-9-]*$", RegexOptions.ExplicitCapture | RegexOptions.CultureInvariant)]
    private static partial Regex WellFormed();

    [GeneratedRegex("^[0-9a-f]{64}$", RegexOptions.ExplicitCapture | RegexOptions.CultureInvariant)]
    private static partial Regex Hash();
}
