using System.Text;
using Falzkunst.Core.Cards;
using Falzkunst.Core.Runs;

namespace Falzkunst.Core.Writing;

/// <summary>
/// Writes DXF R12 (AC1009), which every program reads: POLYLINE entities on a layer for each operation, in mm, y up. R12 has no splines,
/// so curves become chords within the flattening tolerance.
/// </summary>
public static class DxfFile
{
    public static string Write(SheetRun sheet)
    {
        var text = new StringBuilder();
        var operations = sheet.Steps.Select(s => s.Operation).Distinct().ToList();
        Pair(0, "SECTION");
        Pair(2, "HEADER");
        Pair(9, "$ACADVER");
        Pair(1, "AC1009");
        Pair(9, "$EXTMIN");
        At(10, 20, 0, 0);
        Pair(9, "$EXTMAX");
        At(10, 20, sheet.Width.Mm, sheet.Height.Mm);
        Pair(0, "ENDSEC");
        Pair(0, "SECTION");
        Pair(2, "TABLES");
        Pair(0, "TABLE");
        Pair(2, "LAYER");
        Pair(70, $"{operations.Count}");
        foreach (var operation in operations)
        {
            Pair(0, "LAYER");
            Pair(2, operation.Word().ToUpperInvariant());
            Pair(70, "0");
            Pair(62, $"{1 + (int)operation}");
            Pair(6, "CONTINUOUS");
        }

        Pair(0, "ENDTAB");
        Pair(0, "ENDSEC");
        Pair(0, "SECTION");
        Pair(2, "ENTITIES");
        foreach (var step in sheet.Steps)
            foreach (var path in step.Paths)
                foreach (var sub in path.Subpaths) Polyline(step.Operation.Word().ToUpperInvariant(), sub);
        Pair(0, "ENDSEC");
        Pair(0, "EOF");
        return text.ToString();

        void Polyline(string layer, Subpath sub)
        {
            Pair(0, "POLYLINE");
            Pair(8, layer);
            Pair(66, "1");
            At(10, 20, 0, 0, 30);
            Pair(70, sub.Closed ? "1" : "0");
            foreach (var p in sub.Flatten())
            {
                Pair(0, "VERTEX");
                Pair(8, layer);
                At(10, 20, p.X, sheet.Height.Mm - p.Y, 30);
            }

            Pair(0, "SEQEND");
            Pair(8, layer);
        }

        void At(int codeX, int codeY, double x, double y, int codeZ = 0)
        {
            Pair(codeX, x.ToString("0.0####", CultureInfo.InvariantCulture));
            Pair(codeY, y.ToString("0.0####", CultureInfo.InvariantCulture));
            if (codeZ > 0) Pair(codeZ, "0.0");
        }

        void Pair(int code, string value) => text.Append(code.ToString(CultureInfo.InvariantCulture).PadLeft(3)).Append('\n').Append(value).Append('\n');
    }
}
