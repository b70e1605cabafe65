using Falzkunst.Core.Cards;
using Falzkunst.Core.Layout;
using Falzkunst.Core.Measures;
using Falzkunst.Core.Runs;
using Falzkunst.Core.Shapes;

namespace Falzkunst.Web.Table;

/// <summary>Sheets, with what lies on them, and what a machine did there.</summary>
public static class SheetSvg
{
    /// <summary>One sheet of a layout.</summary>
    public static string Of(Design design, SheetPlan sheet, string label)
    {
        var w = Open(sheet.Size.Width.Mm, sheet.Size.Height.Mm, design.Piece(sheet.Pieces.Length > 0 ? sheet.Pieces[0].PieceId : "")?.Colour.Hex
            ?? "#fbf8f2", label);
        w.Start("rect").Set("class", "sheet-margin").Set("x", sheet.Size.Margin.Mm).Set("y", sheet.Size.Margin.Mm).Set("width", sheet.Size.UsableWidth.Mm)
            .Set("height", sheet.Size.UsableHeight.Mm).End();
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

        return w.End().ToString();
    }

    /// <summary>What is planned for a sheet, and over it what the machine says that it did; the inner face where the tool goes, mirrored.</summary>
    public static string Run(SheetRun sheet, string paperHex, IReadOnlyList<Store.Cutters.CutterMark>? done, string label)
    {
        var w = Open(sheet.Width.Mm, sheet.Height.Mm, paperHex, label);
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

    private static SvgWriter Open(double width, double height, string colour, string label)
    {
        const double Around = 3;
        var view = new Box(-Around, -Around, width + Around, height + Around);
        return new SvgWriter(1 << 14).Start("svg").Set("class", "sheet-svg").Set("xmlns", "http://www.w3.org/2000/svg").Set("viewBox", view)
            .Set("data-home", view).Set("role", "group").Set("aria-label", label)
            .Start("rect").Set("class", "sheet-paper").Set("fill", colour).Set("width", width).Set("height", height).End();
    }
}
