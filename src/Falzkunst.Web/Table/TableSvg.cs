using System.Globalization;
using Falzkunst.Core.Cards;
using Falzkunst.Core.Findings;
using Falzkunst.Core.Measures;

namespace Falzkunst.Web.Table;

/// <summary>Where the plies lie: on one another, or beside one another.</summary>
public sealed record PlyLayout(IReadOnlyDictionary<string, Point> Moves, Box Extent)
{
    private const double Between = 10, WiderThanHigh = 1.05;

    public static PlyLayout Of(Design design, bool apart)
    {
        if (!apart) return new(new Dictionary<string, Point>(), design.Extent);
        var pieces = design.Pieces.ToLookup(p => p.PlyId);
        var boxes = design.Plies.Select(ply => (ply.Id, Box: pieces[ply.Id].Aggregate(Box.Empty, (b, p) => b.With(p.OnCard.Bounds)))).Where(t => !t.Box.IsEmpty)
            .ToList();
        var moves = new Dictionary<string, Point>(StringComparer.Ordinal);
        if (boxes.Count == 0) return new(moves, design.Extent);
        // In rows about as wide as the table is.
        var wide = Math.Max(boxes.Max(t => t.Box.Width), Math.Sqrt(boxes.Sum(t => (t.Box.Width + Between) * (t.Box.Height + Between)) * WiderThanHigh));
        double x = 0, y = 0, high = 0;
        var extent = Box.Empty;
        foreach (var (id, box) in boxes)
        {
            if (x > 0 && x + box.Width > wide + 1)
            {
                (x, y) = (0, y + high + Between);
                high = 0;
            }

            moves[id] = new(x - box.Left, y - box.Top);
            extent = extent.With(new Box(x, y, x + box.Width, y + box.Height));
            x += box.Width + Between;
            high = Math.Max(high, box.Height);
        }

        return new(moves, extent);
    }
}

/// <summary>The table as SVG, one unit a millimetre. What stands in it is the core's answer; the browser only moves the view, and pieces while they are
/// dragged.</summary>
public static class TableSvg
{
    private const double AroundMm = 14, SmallMm = 50;

    /// <summary>How a design is shown at an address.</summary>
    public static TableDress Dress(Design design, string address, int docket)
    {
        var view = View(design.Extent);
        var most = Math.Max(view.Width, view.Height);
        return new(address, $"/dockets/{docket}/artwork", design.Looks.Select((l, i) => (l.Key, i)).ToDictionary(t => t.Key, t => t.i, StringComparer.Ordinal),
            Math.Clamp(most / 230, 0.05, 2), most < SmallMm);
    }

    /// <param name="over">What lies over it, as SVG.</param>
    public static string Design(Design design, IReadOnlyList<Finding> findings, bool apart, TableDress dress, SvgWriter? over = null)
    {
        var layout = PlyLayout.Of(design, apart);
        var w = new SvgWriter(1 << 16);
        var view = View(layout.Extent);
        // On what is no larger than a stamp, lines as wide as a pen's would hide the paper.
        w.Start("svg").Set("class", $"{(dress.IsSmall ? "is-small " : "")}{(dress.FromBehind ? "is-over " : "")}table-svg")
            .Set("xmlns", "http://www.w3.org/2000/svg").Set("viewBox", view)
            .Set("data-home", view).SetIf(dress.Only.Length > 0, "data-only", dress.Only)
            .Set("role", "group").Set("aria-label", "Design on the table, in true size").Set("hx-boost", "false");
        if (dress.FromBehind) w.Start("g").Set("transform", new Affine(-1, 0, 0, 1, 2 * layout.Extent.Centre.X, 0));
        w.Start("g").Set("class", "all-plies");
        var pieces = design.Pieces.ToLookup(p => p.PlyId);
        foreach (var ply in dress.FromBehind ? design.Plies.Reverse() : design.Plies)
        {
            w.Start("g").Set("class", "ply").Set("data-ply", ply.Id);
            if (layout.Moves.TryGetValue(ply.Id, out var move)) w.Set("transform", Translate(move));
            foreach (var piece in pieces[ply.Id]) PieceSvg.Write(w, piece, dress);
            w.End();
        }

        w.End();
        Loose(w, design, dress);
        Places(w, findings, apart, dress);
        if (over is not null) w.Add(over);
        if (dress.FromBehind) w.End();
        return w.End().ToString();
    }

    /// <summary>
    /// What changed from one design to the next, for a table that shows the first: the changed pieces, loose things and places of findings, and the order of
    /// things where that
    /// changed. Null where so much did that the whole page is the better answer.
    /// </summary>
    public static string? Changes(Design before, Design after, IReadOnlyList<Finding> findings, bool apart, TableDress dress, Guid revision)
    {
        if (!before.Looks.SequenceEqual(after.Looks) || dress.IsSmall != Dress(before, dress.Address, 0).IsSmall) return null;
        var w = new SvgWriter(4096);
        var (was, now) = (PlyLayout.Of(before, apart), PlyLayout.Of(after, apart));
        w.Start("svg").Set("id", "changes").Set("hx-swap-oob", "outerHTML").Set("hidden", "").Set("data-revision", revision.ToString())
            .Set("data-home", View(now.Extent));
        var (orderBefore, orderAfter) = (Order(before, was), Order(after, now));
        if (orderBefore != orderAfter) w.Set("data-order", orderAfter);
        // Marks are as large as the card is; where that changed, so did they.
        var marks = Dress(before, dress.Address, 0).Mark != dress.Mark;
        foreach (var piece in after.Pieces)
        {
            var same = before.Piece(piece.Id) is { } old && (ReferenceEquals(old, piece) || old.Equals(piece));
            if (!same || (marks && piece.Lines.Any(HasMarks))) PieceSvg.Write(w, piece, dress);
        }

        if (before.Loose != after.Loose || before.LooseArtwork != after.LooseArtwork || (marks && after.Loose.Any(HasMarks))) Loose(w, after, dress);
        Places(w, findings, apart, dress);
        return w.End().ToString();
    }

    private static bool HasMarks(Line line) => line.Operation is Operation.Score or Operation.Perforate;

    /// <summary>The plies from bottom to top, each with its move and its pieces: "y1@0 0:p1 p2;y2…".</summary>
    private static string Order(Design design, PlyLayout layout)
    {
        var pieces = design.Pieces.ToLookup(p => p.PlyId, p => p.Id);
        return string.Join(';', design.Plies
            .Select(y => $"{y.Id}@{(layout.Moves.TryGetValue(y.Id, out var m) ? Translate(m) : "")}:{string.Join(' ', pieces[y.Id])}"));
    }

    private static void Loose(SvgWriter w, Design design, TableDress dress)
    {
        w.Start("g").Set("class", "loose");
        foreach (var art in design.LooseArtwork) PieceSvg.Picture(w, art, dress);
        foreach (var line in design.Loose) LineSvg.Write(w, line, null, dress);
        w.End();
    }

    private static void Places(SvgWriter w, IReadOnlyList<Finding> findings, bool apart, TableDress dress)
    {
        w.Start("g").Set("class", "places");
        foreach (var f in apart ? [] : findings.Where(f => f.Severity != Severity.Note))
            w.Start("circle").Set("class", $"place {Tone(f.Severity)}").Set("cx", f.At.X).Set("cy", f.At.Y).Set("r", 3 * dress.Mark)
                .Set("stroke-width", 0.7 * dress.Mark).Say("title", f.Text).End();
        w.End();
    }

    private static Box View(Box extent) => extent.Grown(Math.Min(AroundMm, Math.Max(extent.Width, extent.Height) * 0.3 + 0.5));

    private static string Translate(Point by) => string.Create(CultureInfo.InvariantCulture, $"translate({by.X:0.###} {by.Y:0.###})");

    public static string Tone(Severity severity) => severity switch { Severity.Stop => "is-stop", Severity.Warn => "is-warn", _ => "is-note" };
}
