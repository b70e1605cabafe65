using System.Collections.Immutable;
using System.Globalization;
using Falzkunst.Core.Cards;
using Falzkunst.Core.Layout;
using Falzkunst.Core.Measures;
using Falzkunst.Core.Runs;
using Falzkunst.Core.Shapes;

namespace Falzkunst.Web.Table;

/// <summary>What somebody does by hand on a sheet.</summary>
/// <param name="Address">Of the page on which a piece is chosen.</param>
public sealed record SheetHand(PieceCopy? Chosen, Func<PieceCopy, string> Address);

/// <summary>Sheets, with what lies on them, and what a machine did there.</summary>
public static class SheetSvg
{
    /// <summary>One sheet of a layout, and what is left of it.</summary>
    /// <param name="offCut">The rectangle that is worth keeping; empty where none is.</param>
    /// <param name="pxPerMm">How large it is shown; 0 where it fills what it stands in.</param>
    /// <param name="papers">The drawer, which says the colour of the sheet.</param>
    public static string Of(Design design, IReadOnlyList<Stock> papers, SheetPlan sheet, Box offCut, string label, double pxPerMm = 0, SheetHand? hand = null)
    {
        var w = Open(new(0, 0, sheet.Size.Width.Mm, sheet.Size.Height.Mm), label, pxPerMm);
        Laid(w, design, ColourOf(design, papers, sheet), sheet, offCut, hand);
        return w.End().ToString();
    }

    /// <summary>A sheet as it has to lie on the mat of a machine: in the corner where the tool begins, the edge that is loaded first at the top.</summary>
    /// <param name="hand">What can be chosen and moved; null for a picture only.</param>
    public static string OnMat(Design design, IReadOnlyList<Stock> papers, SheetPlan sheet, Box offCut, Machine? machine, string label, SheetHand? hand = null)
    {
        if (machine is null) return Of(design, papers, sheet, offCut, label, hand: hand);

        const double Rim = 12, Roll = 3;
        // Of a roll only so much is shown as the sheet is long.
        var (wide, high) = (machine.Width.Mm, machine.Height.Mm > Roll * machine.Width.Mm ? sheet.Size.Height.Mm + Rim : machine.Height.Mm);
        var w = Open(new(-Rim, -Rim, Math.Max(wide, sheet.Size.Width.Mm) + Rim, Math.Max(high, sheet.Size.Height.Mm) + Rim), label, 0);
        w.Start("rect").Set("class", "mat").Set("x", -Rim).Set("y", -Rim).Set("width", wide + 2 * Rim).Set("height", high + 2 * Rim).Set("rx", 6).End();
        w.Start("rect").Set("class", "mat-reach").Set("width", wide).Set("height", high).End();
        var middle = wide / 2;
        w.Start("path").Set("class", "mat-arrow").Set("d", FormattableString.Invariant($"M{middle - 6} {-2.5}L{middle} {-9}L{middle + 6} {-2.5}Z")).End();
        Laid(w, design, ColourOf(design, papers, sheet), sheet, offCut, hand);
        return w.End().ToString();
    }

    /// <summary>Which way the fibres run, as an arrow with two heads in the sheet's lower right corner.</summary>
    private static void GrainArrow(SvgWriter w, SheetSize size)
    {
        if (size.Grain == Grain.Unknown) return;
        const double Inside = 5;
        // Drawn for a grain that runs down, about its middle.
        w.Start("path").Set("class", "grain").Set("d", "M0 -4.5V4.5M-1.1 -2.3L0 -4.5L1.1 -2.3M-1.1 2.3L0 4.5L1.1 2.3")
            .Set("transform", Affine.Turn(Angle.FromDegrees(size.Grain == Grain.Down ? 0 : 90))
                .Then(Affine.Move(size.Width.Mm - Inside, size.Height.Mm - Inside)))
            .Say("title", $"the grain runs {(size.Grain == Grain.Down ? "down" : "across")}").End();
    }

    /// <summary>The colour of a sheet: that of its paper; where that was retired, what its pieces were drawn in.</summary>
    private static string ColourOf(Design design, IReadOnlyList<Stock> papers, SheetPlan sheet) => (papers.FirstOrDefault(s => s.Id == sheet.StockId)?.Colour
        ?? design.Piece(sheet.Pieces.Length > 0 ? sheet.Pieces[0].PieceId : "")?.Colour)?.Hex ?? "#fbf8f2";

    private static void Laid(SvgWriter w, Design design, string colour, SheetPlan sheet, Box offCut, SheetHand? hand = null)
    {
        if (sheet.Size.Outline is { } left) w.Start("path").Set("class", "sheet-paper").Set("fill", colour).Set("fill-rule", "evenodd").Path(left).End();
        else Paper(w, sheet.Size.Width.Mm, sheet.Size.Height.Mm, colour);
        w.Start("rect").Set("class", "sheet-margin").Set("x", sheet.Size.Margin.Mm).Set("y", sheet.Size.Margin.Mm).Set("width", sheet.Size.UsableWidth.Mm)
            .Set("height", sheet.Size.UsableHeight.Mm).End();
        if (!offCut.IsEmpty)
        {
            const double Inside = 1;
            var b = offCut.Grown(-Inside);
            w.Start("rect").Set("class", "off-cut").Set("x", b.Left).Set("y", b.Top).Set("width", b.Width).Set("height", b.Height).End();
        }

        if (sheet.Printed?.Marks is { } marks)
        {
            PrintSvg.Hatched(w, marks.KeptFree);
            w.Start("path").Set("class", "print-mark").Paths(marks.All.Select(m => m.Ink)).End();
        }

        GrainArrow(w, sheet.Size);
        foreach (var placed in sheet.Pieces)
        {
            if (design.Piece(placed.PieceId) is not { } piece) continue;
            if (hand is not null)
            {
                w.Start("a").Set("class", "laid-piece").SetIf(hand.Chosen == placed.Which, "aria-current", "true").Set("href", hand.Address(placed.Which))
                    .Set("data-laid", placed.Which.ToString()).Set("aria-label",
                        $"{piece.Label}, copy {placed.Copy}{(placed.Pinned ? ", pinned" : "")}");
            }

            w.Start("g").Set("transform", placed.ToSheet).Say("title", $"{piece.Label}, copy {placed.Copy}");
            w.Start("path").Set("class", $"laid op-{piece.OuterOperation.Word()}").Set("fill-rule", "evenodd").Path(piece.Outline).End();
            w.Bridges(piece);
            foreach (var line in piece.Lines) w.Start("path").Set("class", $"op-{line.Operation.Word()}").Dashes(line).Path(line.Path).End();
            w.End();
            if (placed.Pinned)
            {
                var at = placed.ToSheet.Apply(piece.Outline.Bounds.Centre);
                w.Start("circle").Set("class", "pin").Set("cx", at.X).Set("cy", at.Y).Set("r", 2).End();
            }

            if (hand is not null) w.End();
        }
    }

    /// <summary>A piece that lies beside the sheets, small ones larger than they are among the others.</summary>
    public static string Beside(Piece piece)
    {
        const double Usual = 44, Least = 0.3, Most = 2;
        var path = piece.Outline.Transform(piece.FaceUp);
        var view = path.Bounds.Grown(1);
        var pxPerMm = Math.Clamp(Usual / Math.Max(view.Width, view.Height), Least, Most);
        var w = new SvgWriter(1024).Start("svg").Set("xmlns", "http://www.w3.org/2000/svg").Set("viewBox", view).Set("aria-hidden", "true")
            .Set("width", view.Width * pxPerMm).Set("height", view.Height * pxPerMm);
        w.Start("path").Set("class", "beside-paper").Set("fill", piece.Colour.Hex).Set("fill-rule", "evenodd").Path(path).End();
        return w.End().ToString();
    }

    /// <summary>An off-cut, as large as fits into a square.</summary>
    public static string OffCut(SheetSize size, string colour, double px)
    {
        var view = new Box(0, 0, size.Width.Mm, size.Height.Mm).Grown(1);
        var scale = px / Math.Max(view.Width, view.Height);
        var w = new SvgWriter(1024).Start("svg").Set("xmlns", "http://www.w3.org/2000/svg").Set("viewBox", view).Set("aria-hidden", "true")
            .Set("width", view.Width * scale).Set("height", view.Height * scale);
        w.Start("path").Set("class", "off-cut-paper").Set("fill", colour).Set("fill-rule", "evenodd")
            .Path(size.Outline ?? VectorPath.Rectangle(0, 0, size.Width.Mm, size.Height.Mm)).End();
        return w.End().ToString();
    }

    /// <summary>All sheets of a layout in rows, equal ones once, as a picture that stands alone.</summary>
    public static string Small(Design design, IReadOnlyList<Stock> papers, DocketLayout layout)
    {
        const double Between = 14, RowWidth = 1100, Letters = 24;
        double x = 0, y = 0, row = 0, wide = 0;
        var sheets = new SvgWriter(1 << 14);
        foreach (var stack in layout.Stacks)
        {
            var (size, below) = (stack.Sheet.Size, 0.0);
            if (x > 0 && x + size.Width.Mm > RowWidth) (x, y, row) = (0, y + row + Between, 0);
            sheets.Start("g").Set("transform", Affine.Move(x, y));
            // More than one lie below.
            for (var under = Math.Min(2, stack.Numbers.Length - 1); under >= 0; under--)
                sheets.Start("rect").Set("x", 3 * under).Set("y", -3 * under).Set("width", size.Width.Mm).Set("height", size.Height.Mm)
                    .Set("fill", ColourOf(design, papers, stack.Sheet)).Set("stroke", "#23262e").Set("stroke-width", 0.6).End();
            foreach (var placed in stack.Sheet.Pieces)
            {
                if (design.Piece(placed.PieceId) is not { } piece) continue;
                sheets.Start("path").Set("transform", placed.ToSheet).Set("fill", "#fff").Set("fill-opacity", "0.4").Set("fill-rule", "evenodd")
                    .Set("stroke", "#23262e").Set("stroke-width", 0.5).Path(piece.Outline).End();
            }

            if (stack.Numbers.Length > 1)
            {
                sheets.Start("text").Set("x", 4).Set("y", size.Height.Mm + Letters).Set("font-family", "sans-serif").Set("font-size", Letters)
                    .Set("fill", "#23262e").Text($"{stack.Numbers.Length} ×").End();
                below = Letters * 1.3;
            }

            sheets.End();
            x += size.Width.Mm + Between;
            (row, wide) = (Math.Max(row, size.Height.Mm + below), Math.Max(wide, x - Between));
        }

        var view = new Box(0, 0, wide, y + row).Grown(8);
        return new SvgWriter(1 << 14).Start("svg").Set("xmlns", "http://www.w3.org/2000/svg").Set("viewBox", view).Set("width", view.Width)
            .Set("height", view.Height).Add(sheets).End().ToString();
    }

    /// <summary>What is planned for a sheet, and over it what the machine says that it did, as it lies: of what is made on the other side, where it shows
    /// through.</summary>
    /// <param name="now">The step under way, from 1; 0 where it does not run.</param>
    /// <param name="strokes">How many of its strokes are done.</param>
    /// <param name="chosen">Lines that somebody chose.</param>
    /// <param name="foil">Where the foil of a step really lies, and which of its lines reach beyond it.</param>
    /// <param name="tool">Where the tool was driven, or is to be; null where that is not looked for.</param>
    /// <param name="side">The side that lies up; null for that of the step.</param>
    public static string Run(SheetRun sheet, string paperHex, IReadOnlyList<Store.Cutters.CutterMark>? done, string label,
        int now = 0, int strokes = 0, IReadOnlySet<SheetLine>? chosen = null,
        (int Step, IReadOnlyList<Box> Patches, ImmutableArray<int> Beyond)? foil = null, Point? tool = null, Face? side = null)
    {
        var up = side ?? UpAt(sheet, now);
        var whole = sheet;
        sheet = sheet.SeenFrom(up);
        var w = Open(new(0, 0, sheet.Width.Mm, sheet.Height.Mm), label, 0, Core.Looks.Colour.FromHex(paperHex).IsDark ? " on-dark" : "");
        Paper(w, sheet.Width.Mm, sheet.Height.Mm, paperHex);
        foreach (var patch in sheet.Steps.SelectMany(s => s.Number == foil?.Step ? foil.Value.Patches : s.Patches))
            w.Start("rect").Set("class", "patch").Set("x", patch.Left).Set("y", patch.Top).Set("width", patch.Width).Set("height", patch.Height).End();
        w.Start("g").SetIf(done is not null, "class", "planned");
        foreach (var step in sheet.Steps)
        {
            // In parts, so that it is seen how far it is; so many are enough to see.
            const int MostParts = 200;
            var each = Math.Max(1, (int)Math.Ceiling(step.Paths.Length / (double)MostParts));
            for (var from = 0; from < step.Paths.Length; from += each)
            {
                var lines = step.Paths.AsSpan(from, Math.Min(each, step.Paths.Length - from)).ToArray();
                var over = step.StrokesFor(from + lines.Length - 1);
                var state = now == 0 ? "" : step.Number < now || (step.Number == now && over <= strokes) ? " is-done"
                    : step.Number == now ? " is-now" : " is-ahead";
                w.Start("path").Set("class", $"as-cut op-{step.Operation.Word()}{(step.Face != up ? " is-through" : "")}{state}")
                    .Set("data-step", step.Number.ToString(CultureInfo.InvariantCulture)).Set("data-over", over.ToString(CultureInfo.InvariantCulture))
                    .Paths(lines).End();
            }
        }

        w.End();
        foreach (var group in done?.GroupBy(m => m.Pen) ?? [])
        {
            var operation = sheet.Steps.FirstOrDefault(s => s.Pen == group.Key)?.Operation ?? Operation.Cut;
            var over = SheetRun.Over(sheet.Width);
            w.Start("path").Set("class", $"done as-cut op-{operation.Word()}").Paths(group.Select(m => m.On(whole))
                .Select(m => (Path: VectorPath.Polyline([.. m.Points]), Face: whole.FaceOf(m)))
                .Select(m => m.Face == up ? m.Path : m.Path.Transform(over))).End();
        }

        if (tool is { } at)
            w.Start("path").Set("class", "probe").Set("d", string.Create(CultureInfo.InvariantCulture,
                $"M{at.X - 9:0.##} {at.Y:0.##}h18M{at.X:0.##} {at.Y - 9:0.##}v18m3 -9a3 3 0 1 1 -6 0a3 3 0 1 1 6 0")).End();
        if (foil is { Beyond.Length: > 0 } f)
            w.Start("path").Set("class", "is-beyond").Paths(f.Beyond.Select(i => sheet.Steps.First(s => s.Number == f.Step).Paths[i])).End();
        if (chosen is { Count: > 0 })
            w.Start("path").Set("class", "is-picked").Paths(chosen.Select(c => sheet.Steps.First(s => s.Number == c.Step).Paths[c.Line])).End();
        return w.End().ToString();
    }

    /// <summary>The side that lies up at a step; at the end it is the outer one.</summary>
    /// <param name="now">From 1; 0 where none is under way.</param>
    public static Face UpAt(SheetRun sheet, int now) => now == 0 ? Face.Outer : sheet.Steps[Math.Clamp(now, 1, sheet.Steps.Length) - 1].Face;

    private static SvgWriter Open(Box all, string label, double pxPerMm, string more = "")
    {
        const double Around = 3;
        var view = all.Grown(Around);
        var w = new SvgWriter(1 << 14).Start("svg").Set("class", "sheet-svg" + more).Set("xmlns", "http://www.w3.org/2000/svg").Set("viewBox", view)
            .Set("data-home", view).Set("role", "group").Set("aria-label", label);
        return pxPerMm > 0 ? w.Set("width", view.Width * pxPerMm).Set("height", view.Height * pxPerMm) : w;
    }

    private static void Paper(SvgWriter w, double width, double height, string colour) =>
        w.Start("rect").Set("class", "sheet-paper").Set("fill", colour).Set("width", width).Set("height", height).End();
}
