using Falzkunst.Core.Cards;
using Falzkunst.Core.Layout;
using Falzkunst.Core.Pictures;
using Falzkunst.Core.Writing;
using Falzkunst.Core.Regions;

namespace Falzkunst.Core.Printing;

/// <summary>A piece as it is printed on its sheet.</summary>
/// <param name="ToSheet">Maps the piece's own coordinates to the sheet.</param>
/// <param name="Clip">Where on the sheet it may be printed: its outline with bleed, without what is kept free, and without its neighbours.</param>
public sealed record PieceOnSheet(Piece Piece, Affine ToSheet, PrintedArt Art, VectorPath Clip)
{
    /// <summary>Where it is cut, on the sheet.</summary>
    public VectorPath Outline { get; } = Piece.Outline.Transform(ToSheet);
}

/// <summary>A sheet as it is printed: in mm from its upper left corner.</summary>
/// <param name="Number">From 1.</param>
/// <param name="Pieces">Those on which something is printed.</param>
/// <param name="Cut">The outlines of all pieces of the sheet that are cut.</param>
public sealed record PrintSheet(int Number, int Of, string Title, SheetPlan Plan, ImmutableArray<PieceOnSheet> Pieces, ImmutableArray<VectorPath> Cut)
{
    public Length Width => Plan.Size.Width;

    public Length Height => Plan.Size.Height;

    public SheetMarks? Marks => Plan.Printed?.Marks;
}

/// <summary>
/// What is printed of a docket: PDF of true size with a page for each sheet, colours and pictures as they came (JPEG stays the very same JPEG, nothing is
/// resampled), text as outlines; or PNG. The stock's colour is never printed.
/// </summary>
public static class PrintFile
{
    /// <summary>The sheets of a layout as they are printed, also those on which nothing is.</summary>
    /// <param name="design">That the layout was made of.</param>
    public static ImmutableArray<PrintSheet> Sheets(Design design, DocketLayout layout, string title)
    {
        var print = design.Print ?? new();
        var hidden = new Dictionary<string, IReadOnlyList<VectorPath>>(StringComparer.Ordinal);
        // What bleeds is worked out once for each piece, each by itself.
        Parallel.ForEach(layout.Sheets.SelectMany(s => s.Pieces).Select(p => p.PieceId).Distinct().Select(design.Piece).OfType<Piece>()
            .Where(p => p.IsPrinted), p => PrintedArt.Of(p, print));
        return [.. layout.Sheets.Select((plan, k) => Sheet(plan, k))];

        PrintSheet Sheet(SheetPlan plan, int k)
        {
            var placed = plan.Pieces.Select(p => (design.Piece(p.PieceId), p.ToSheet)).Where(p => p.Item1 is not null)
                .Select(p => (Piece: p.Item1!, p.ToSheet, Outline: p.Item1!.Outline.Transform(p.ToSheet))).ToList();
            // Half of what lies between two pieces is each one's own.
            var half = Math.Min(print.Bleed.Mm, plan.GapOf(layout.Gap).Mm / 2);
            var own = placed.ConvertAll(p => new Lazy<VectorPath>(() => VectorPath.Joined(Outsets.Of(p.Outline, half))));
            var pieces = ImmutableArray.CreateBuilder<PieceOnSheet>();
            var free = plan.Printed?.KeptFree ?? [];
            for (var i = 0; i < placed.Count; i++)
            {
                var (piece, toSheet, _) = placed[i];
                if (!piece.IsPrinted) continue;
                var art = PrintedArt.Of(piece, print);
                var clip = art.Grown.Transform(toSheet);
                var box = clip.Bounds;
                var away = free.Where(f => f.Bounds.Touches(box)).ToList();
                for (var j = 0; j < placed.Count; j++)
                {
                    if (j != i && placed[j].Outline.Bounds.Grown(print.Bleed.Mm).Touches(box)) away.Add(own[j].Value);
                }

                if (print.UnderOthers is { } margin)
                {
                    if (!hidden.TryGetValue(piece.Id, out var covered)) hidden[piece.Id] = covered = Seen.Hidden(design, piece, margin);
                    away.AddRange(covered.Select(c => c.Transform(toSheet)));
                }

                if (away.Count > 0) clip = VectorPath.Joined(Together.TakeAway(clip, away));
                if (!clip.IsEmpty) pieces.Add(new(piece, toSheet, art, clip));
            }

            return new(k + 1, layout.Sheets.Length, title, plan, pieces.ToImmutable(), [.. placed.SelectMany(p => CutOf(p.Piece, p.Outline))]);
        }
    }

    /// <param name="lines">Whether the cut lines are drawn as hairlines too.</param>
    /// <param name="printer">What is known of the printer: where it prints too long or too short, pages are so much shorter or longer.</param>
    public static byte[] Pdf(IReadOnlyList<PrintSheet> sheets, bool lines = false, Calibration? printer = null) =>
        Paper.Pdf([.. sheets.Select(s => (s.Width, s.Height, (IReadOnlyList<Layer>)[.. Layers(s, lines).Select(l => Through(l,
            (printer ?? Calibration.None).OnPage(s.Width, s.Height)))]))]);

    private static Layer Through(Layer layer, Affine map) =>
        map == Affine.Identity ? layer : new(layer.Within?.Transform(map), layer.Map.Then(map), layer.Items);

    /// <summary>A sheet as PNG, exactly its size, on white.</summary>
    /// <exception cref="ArgumentOutOfRangeException">The picture would be larger than <see cref="Paper.MostPixels"/>.</exception>
    public static byte[] Png(PrintSheet sheet, double dpi, bool lines = false) => Paper.Png(sheet.Width, sheet.Height, dpi, Layers(sheet, lines));

    /// <summary>A PDF with the marks of a sheet and nothing else.</summary>
    public static byte[] MarksOnly(SheetMarks marks) => Paper.Pdf([(marks.Width, marks.Height, [MarksOf(marks)])]);

    /// <summary>A page of the size of a sheet with a ruler of 100 mm each way, to see whether a printer keeps true size.</summary>
    public static byte[] TestPage(Length width, Length height)
    {
        var (w, h) = (width.Mm, height.Mm);
        double left = Math.Max(0, w / 2 - 50), top = Math.Max(0, h / 2 - 50);
        var lines = new List<VectorPath> { VectorPath.Polyline(new(left, top), new(left + 100, top)), VectorPath.Polyline(new(left, top), new(left, top
            + 100)) };
        var words = new List<VectorPath>();
        for (var mm = 0; mm <= 100; mm++)
        {
            var tick = mm % 10 == 0 ? 5 : mm % 5 == 0 ? 3.5 : 2;
            lines.Add(VectorPath.Polyline(new(left + mm, top), new(left + mm, top + tick)));
            lines.Add(VectorPath.Polyline(new(left, top + mm), new(left + tick, top + mm)));
            if (mm % 10 != 0 || mm == 0) continue;
            var text = mm.ToString(CultureInfo.InvariantCulture);
            words.Add(Set(text, left + mm, top + 8.5, 0.5));
            words.Add(Set(text, left + 6.5, top + mm + 1, 0));
        }

        words.Add(Set("Each ruler is 100 mm long.", left + 30, top + 36, 0));
        words.Add(Set("Is it longer or shorter here, scaling is on:", left + 30, top + 42, 0));
        words.Add(Set("print again with “actual size”, or 100 %.", left + 30, top + 48, 0));
        var hairline = new Ink(null, FillRule.EvenOdd, new(Colour.Black, Length.FromMm(0.12), LineCap.Butt, LineJoin.Miter, 4, [], Length.Zero));
        return Paper.Pdf([(width, height, [Inked(lines, hairline), Inked(words, new(Colour.Black, FillRule.NonZero, null))])]);
    }

    /// <summary>Small words on a page, for whoever reads it.</summary>
    /// <param name="part">Which part of their width lies to the left of the place: 0 begins there, 1 ends there.</param>
    internal static VectorPath Set(string text, double x, double y, double part)
    {
        var path = new Lettered(text, "Alegreya Sans", 500, Length.FromMm(2), Length.Zero).Path;
        return path.Transform(Affine.Move(x - part * path.Bounds.Width, y));
    }

    /// <summary>Crop marks for a hand trimmer: at each corner of a piece's box two short lines beyond its bleed, in line with its sides. They end before the
    /// next piece begins.</summary>
    private static IEnumerable<VectorPath> Crop(Box box, double bleed)
    {
        var (near, far) = (bleed + 0.2, 2 * Math.Max(1, bleed) - 0.2);
        foreach (var (x, side) in new[] { (box.Left, -1), (box.Right, 1) })
        {
            foreach (var (y, upright) in new[] { (box.Top, -1), (box.Bottom, 1) })
            {
                yield return VectorPath.Polyline(new(x + side * near, y), new(x + side * far, y));
                yield return VectorPath.Polyline(new(x, y + upright * near), new(x, y + upright * far));
            }
        }
    }

    private static Layer MarksOf(SheetMarks marks) => Inked(marks.All.Select(m => m.Ink), new(Colour.Black, FillRule.NonZero, null));

    internal static Layer Inked(IEnumerable<VectorPath> paths, Ink ink) => new(null, Affine.Identity, [.. paths.Select(p => new DrawnPath("", "", p, ink))]);

    private static IEnumerable<VectorPath> CutOf(Piece piece, VectorPath outline) =>
        piece.Edges.Select((e, i) => (e.Operation, Path: new VectorPath([outline.Subpaths[i]]))).Where(e => e.Operation == Operation.Cut).Select(e => e.Path);

    private static IReadOnlyList<Layer> Layers(PrintSheet sheet, bool lines)
    {
        var layers = sheet.Pieces.Select(p => new Layer(p.Clip, p.ToSheet, p.Art.Beyond is { } beyond ? p.Art.Items.Insert(0, beyond) : p.Art.Items)).ToList();
        if (sheet.Marks is { } marks)
        {
            layers.Add(MarksOf(marks));
            if (Named(sheet, marks.Label) is { } label) layers.Add(Inked([label], new(new(90, 90, 90), FillRule.NonZero, null)));
        }

        else if (sheet.Plan.Printed is { } printed)
        {
            // Never on a piece: where two share a cut, the marks of both stand at its ends.
            var crop = Inked(sheet.Pieces.SelectMany(p => Crop(p.Outline.Bounds, printed.Bleed.Mm)), Paper.Hairline(Operation.Cut));
            layers.Add(crop with { Within = VectorPath.Joined(Together.TakeAway(VectorPath.Rectangle(0, 0, sheet.Width.Mm, sheet.Height.Mm), sheet.Cut)) });
        }

        if (lines) layers.Add(Inked(sheet.Cut, Paper.Hairline(Operation.Cut)));
        return layers;
    }

    /// <summary>An arrow to the edge that goes in first, the docket and its sheet, and what must be so at the printer; null where there is no room.</summary>
    private static VectorPath? Named(PrintSheet sheet, Box label)
    {
        const double capital = 1.9;
        var title = sheet.Title.Length > 40 ? $"{sheet.Title[..39]}…" : sheet.Title;
        string[] texts = [$"{title}{(title.Length > 0 ? ", " : "")}sheet {sheet.Number} of {sheet.Of}. Print at 100 %.",
            $"sheet {sheet.Number} of {sheet.Of}. Print at 100 %."];
        var arrow = VectorPath.Polygon(new(label.Left + 1.6, label.Top + 0.3), new(label.Left + 2.8, label.Top + 2.4), new(label.Left + 0.4, label.Top + 2.4));
        foreach (var text in texts)
        {
            var shown = new string([.. text.Where(c => !char.IsControl(c))]);
            var words = new Lettered(shown, "Alegreya Sans", 500, Length.FromMm(capital), Length.Zero).Path
                .Transform(Affine.Move(label.Left + 4.2, label.Top + 2.4));
            if (words.Bounds.Right <= label.Right) return arrow.With(words);
        }

        return label.Width > 4 ? arrow : null;
    }
}
