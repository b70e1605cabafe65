using Falzkunst.Core.Cards;
using Falzkunst.Core.Layout;
using Falzkunst.Core.Measures;
using Falzkunst.Core.Runs;
using Falzkunst.Core.Shapes;

namespace Falzkunst.Web.Table;

/// <summary>Sheets, with what lies on them, and what a machine did there.</summary>
public static class SheetSvg
{
    /// <summary>One sheet of a layout, and what is left of it.</summary>
    /// <param name="offCut">The rectangle that is worth keeping; empty where none is.</param>
    /// <param name="pxPerMm">How large it is shown; 0 where it fills what it stands in.</param>
    public static string Of(Design design, SheetPlan sheet, Box offCut, string label, double pxPerMm = 0)
    {
        var w = Open(new(0, 0, sheet.Size.Width.Mm, sheet.Size.Height.Mm), label, pxPerMm);
        Laid(w, design, sheet, offCut);
        return w.End().ToString();
    }

    /// <summary>A sheet as it has to lie on the mat of a machine: in the corner where the tool begins, the edge that is loaded first at the top.</summary>
    public static string OnMat(Design design, SheetPlan sheet, Box offCut, Machine machine, string label)
    {
        const double Rim = 12, Roll = 3;
        // Of a roll only so much is shown as the sheet is long.
        var (wide, high) = (machine.Width.Mm, machine.Height.Mm > Roll * machine.Width.Mm ? sheet.Size.Height.Mm + Rim : machine.Height.Mm);
        var w = Open(new(-Rim, -Rim, Math.Max(wide, sheet.Size.Width.Mm) + Rim, Math.Max(high, sheet.Size.Height.Mm) + Rim), label, 0);
        w.Start("rect").Set("class", "mat").Set("x", -Rim).Set("y", -Rim).Set("width", wide + 2 * Rim).Set("height", high + 2 * Rim).Set("rx", 6).End();
        w.Start("rect").Set("class", "mat-reach").Set("width", wide).Set("height", high).End();
        var middle = wide / 2;
        w.Start("path").Set("class", "mat-arrow").Set("d", FormattableString.Invariant($"M{middle - 6} {-2.5}L{middle} {-9}L{middle + 6} {-2.5}Z")).End();
        Laid(w, design, sheet, offCut);
        return w.End().ToString();
    }

    private static void Laid(SvgWriter w, Design design, SheetPlan sheet, Box offCut)
    {
        Paper(w, sheet.Size.Width.Mm, sheet.Size.Height.Mm, design.Piece(sheet.Pieces.Length > 0 ? sheet.Pieces[0].PieceId : "")?.Colour.Hex ?? "#fbf8f2");
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

        foreach (var placed in sheet.Pieces)
        {
            if (design.Piece(placed.PieceId) is not { } piece) continue;
            w.Start("g").Set("transform", placed.ToSheet).Say("title", $"{piece.Label}, copy {placed.Copy}");
            w.Start("path").Set("class", $"laid op-{piece.OuterOperation.Word()}").Set("fill-rule", "evenodd").Path(piece.Outline).End();
            foreach (var line in piece.Lines) w.Start("path").Set("class", $"op-{line.Operation.Word()}").Path(line.Path).End();
            w.End();
        }
    }

    /// <summary>What is planned for a sheet, and over it what the machine says that it did; the inner face where the tool goes, mirrored.</summary>
    public static string Run(SheetRun sheet, string paperHex, IReadOnlyList<Store.Cutters.CutterMark>? done, string label)
    {
        var w = Open(new(0, 0, sheet.Width.Mm, sheet.Height.Mm), label, 0);
        Paper(w, sheet.Width.Mm, sheet.Height.Mm, paperHex);
        w.Start("g").SetIf(done is not null, "class", "planned");
        foreach (var step in sheet.Steps) w.Start("path").Set("class", $"op-{step.Operation.Word()}{(step.Face == Face.Inner ? " is-inner" : "")}")
            .Paths(step.Paths).End();
        w.End();
        foreach (var group in done?.GroupBy(m => m.Pen) ?? [])
        {
            var operation = sheet.Steps.FirstOrDefault(s => s.Pen == group.Key)?.Operation ?? Operation.Cut;
            w.Start("path").Set("class", $"done op-{operation.Word()}").Paths(group.Select(m => VectorPath.Polyline([.. m.On(sheet).Points]))).End();
        }

        return w.End().ToString();
    }

    private static SvgWriter Open(Box all, string label, double pxPerMm)
    {
        const double Around = 3;
        var view = all.Grown(Around);
        var w = new SvgWriter(1 << 14).Start("svg").Set("class", "sheet-svg").Set("xmlns", "http://www.w3.org/2000/svg").Set("viewBox", view)
            .Set("data-home", view).Set("role", "group").Set("aria-label", label);
        return pxPerMm > 0 ? w.Set("width", view.Width * pxPerMm).Set("height", view.Height * pxPerMm) : w;
    }

    private static void Paper(SvgWriter w, double width, double height, string colour) =>
        w.Start("rect").Set("class", "sheet-paper").Set("fill", colour).Set("width", width).Set("height", height).End();
}
