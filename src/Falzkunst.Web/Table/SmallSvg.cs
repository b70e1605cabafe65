using System.Collections.Concurrent;
using System.Globalization;
using System.Runtime.CompilerServices;
using Falzkunst.Core.Cards;
using Falzkunst.Core.Looks;
using Falzkunst.Core.Measures;
using Falzkunst.Core.Shapes;

namespace Falzkunst.Web.Table;

/// <summary>Small pictures of designs, of parts of them, and of looks; nothing in them can be chosen.</summary>
public static class SmallSvg
{
    private static readonly ConditionalWeakTable<LookRow, string> Looks = [];

    /// <summary>Two tiles of a pattern side by side, filling their frame.</summary>
    public static string OfPattern(Pattern pattern)
    {
        var w = new SvgWriter(4000).Start("svg").Set("class", "small").Set("xmlns", "http://www.w3.org/2000/svg").Set("viewBox", new Box(0, 0, 2, 1))
            .Set("preserveAspectRatio", "xMidYMid slice").Set("aria-hidden", "true");
        for (var x = 0; x < 2; x++)
        {
            w.Start("g").Set("transform", Affine.Move(x, 0));
            PieceSvg.Tile(w, pattern);
            w.End();
        }

        return w.End().ToString();
    }

    /// <param name="ids">The pieces and loose lines to show; null shows all.</param>
    /// <param name="window">As large as the window that it is seen in, where several are to be to one scale; null fits it.</param>
    public static string Of(Design design, IReadOnlySet<string>? ids = null, Box? window = null)
    {
        var box = Box.Empty;
        var body = new SvgWriter();
        foreach (var ply in design.Plies)
            foreach (var p in design.Pieces.Where(p => p.PlyId == ply.Id && (ids is null || ids.Contains(p.Id))))
            {
                box = box.With(p.OnCard.Bounds);
                Hairline(body, "#23262e").Set("fill", p.Colour.Hex).Set("fill-rule", "evenodd").Path(p.OnCard).End();
            }

        foreach (var l in design.Lines.Where(l => ids is null || ids.Contains(l.Id) || (l.CarriedBy is { } by && ids.Contains(by))))
        {
            box = box.With(l.Path.Bounds);
            Hairline(body, l.Operation.ColourHex()).Set("fill", "none").Path(l.Path).End();
        }

        if (box.IsEmpty) box = new(0, 0, design.Width.Mm, design.Height.Mm);
        if (window is { } w) box = new(box.Centre.X - w.Width / 2, box.Centre.Y - w.Height / 2, box.Centre.X + w.Width / 2, box.Centre.Y + w.Height / 2);
        box = box.Grown(Math.Max(box.Width, box.Height) * 0.03 + 0.1);
        return new SvgWriter(body.Length + 200).Start("svg").Set("class", "small").Set("xmlns", "http://www.w3.org/2000/svg").Set("viewBox", box)
            .Set("aria-hidden", "true").Add(body).End().ToString();
    }

    /// <summary>What of a design is seen through a window, as small pictures of what would become of a card.</summary>
    /// <param name="ids">The pieces to show; null shows all, loose lines too.</param>
    public static string Through(Design design, Box window, IReadOnlySet<string>? ids = null)
    {
        const int most = 400;
        var w = new SvgWriter(4096);
        w.Start("svg").Set("class", "small").Set("xmlns", "http://www.w3.org/2000/svg").Set("viewBox", window).Set("aria-hidden", "true");
        var order = design.Plies.Select((y, i) => (y.Id, i)).ToDictionary(t => t.Id, t => t.i);
        var pieces = design.Pieces.Where(p => (ids is null || ids.Contains(p.Id)) && p.OnCard.Bounds.Touches(window)).OrderBy(p => order[p.PlyId])
            .Take(most).ToList();
        foreach (var p in pieces)
        {
            Hairline(w, "#23262e").Set("fill", p.Colour.Hex).Set("fill-rule", "evenodd").Path(p.OnCard).End();
            foreach (var l in p.Lines.Take(most)) Line(l.Operation, l.Path.Transform(p.Place.Map), l.Origin?.Ink.Fill);
        }

        foreach (var l in design.Loose.Where(l => ids is null && l.Path.Bounds.Touches(window)).Take(most)) Line(l.Operation, l.Path, null);
        return w.End().ToString();

        void Line(Operation operation, VectorPath path, Colour? fill) => w.Start("path").Set("class", $"op-{operation.Word()}").Set("vector-effect",
            "non-scaling-stroke")
            .SetIf(operation == Operation.Print && fill is not null, "fill", fill?.Hex ?? "").Path(path).End();
    }

    /// <summary>How a base lies open, with its folds.</summary>
    public static string OfBase(BaseKind kind) => Bases.GetOrAdd(kind, static k =>
        Of(new Begin(CardBase.Of(k, Length.FromMm(105), Length.FromMm(148))).First!));

    /// <summary>A shape that a maker makes.</summary>
    public static string OfMaker(Maker maker) => Shapes.GetOrAdd(maker.Name, static n => Of(new AddPiece(new Made(n, System.Collections.Immutable
        .ImmutableSortedDictionary<string, double>.Empty), Place.Own, "").Apply(Design.Blank(Length.FromMm(60), Length.FromMm(60)))));

    private static readonly ConcurrentDictionary<BaseKind, string> Bases = new();
    private static readonly ConcurrentDictionary<string, string> Shapes = new(StringComparer.Ordinal);

    /// <summary>What a tool makes along strokes, in its true width.</summary>
    public static string OfStrokes(IReadOnlyList<VectorPath> strokes, Length width, string colour)
    {
        var box = strokes.Aggregate(Box.Empty, (b, p) => b.With(p.Bounds));
        box = box.IsEmpty ? new(0, 0, 1, 1) : box.Grown(width.Mm / 2 + Math.Max(box.Width, box.Height) * 0.04);
        return new SvgWriter().Start("svg").Set("class", "small").Set("xmlns", "http://www.w3.org/2000/svg").Set("viewBox", box).Set("aria-hidden", "true")
            .Start("path").Set("fill", "none").Set("stroke", colour).Set("stroke-width", Math.Max(0.05, width.Mm), 3).Set("stroke-linecap", "round")
            .Set("stroke-linejoin", "round").Set("stroke-opacity", ".5").Paths(strokes).End()
            // Where the tool goes, so that ways to fill can be told apart.
            .Start("path").Set("fill", "none").Set("stroke", colour).Set("stroke-width", Math.Max(0.05, width.Mm) * 0.3, 3).Paths(strokes).End().End()
            .ToString();
    }

    /// <summary>A picture that says that there is none.</summary>
    public static string None(string why) => new SvgWriter().Start("svg").Set("xmlns", "http://www.w3.org/2000/svg").Set("viewBox", "0 0 40 30")
        .Say("title", why)
        .Start("path").Set("d", "M14 10l12 10M26 10L14 20").Set("stroke", "#8c2f39").Set("fill", "none").End().End().ToString();

    /// <summary>All that has a look, as it was drawn; null where that would be more than a small picture can show.</summary>
    public static string? Look(LookRow row) => Looks.GetValue(row, static r => Make(r)) is { Length: > 0 } made ? made : null;

    private static string Make(LookRow row)
    {
        const int MostPaths = 150, MostLetters = 6_000;
        if (row.Paths.Length > MostPaths || row.Paths.Sum(p => PathTexts.Of(p).Length) > MostLetters) return "";
        var box = row.Paths.Aggregate(Box.Empty, (b, p) => b.With(p.Bounds));
        if (box.IsEmpty) return "";
        box = box.Grown(Math.Max(box.Width, box.Height) * 0.06 + 0.05);
        var (fill, stroke) = (row.Look.Fill?.Hex ?? "none", row.Look.Stroke?.Hex ?? (row.Look.Fill is null ? "#23262e" : "#8d887d"));
        return new SvgWriter().Start("svg").Set("viewBox", box).Set("aria-hidden", "true").Start("path").Set("fill", fill).Set("fill-rule", "evenodd")
            .Set("stroke", stroke)
            .SetIf(row.Look.Dashed, "stroke-dasharray", "4 2.5").Paths(row.Paths).End().End().ToString();
    }

    private static SvgWriter Hairline(SvgWriter w, string colour) => w.Start("path").Set("stroke", colour).Set("stroke-width", "1")
        .Set("vector-effect", "non-scaling-stroke");
}
