using Falzkunst.Core.Pictures;
using System.Globalization;
using System.Text;
using Falzkunst.Core.Cards;
using Falzkunst.Core.Files;
using Falzkunst.Core.Reading;
using Falzkunst.Core.Reading.Dxf;

namespace Falzkunst.Core.Tests.Reading;

/// <summary>The files of tests/cases/dxf, against what geometry says that they measure.</summary>
public sealed class DxfCases
{
    private static Design Read(string name) => DesignReader.Read(File.ReadAllBytes(Path.Combine(Cases.Folder, "dxf", name + ".dxf")));

    [Theory]
    [InlineData("ellipse-turned", Math.PI * 250)]
    [InlineData("inches", 8 * 25.4 * 25.4)]
    [InlineData("insert-with-scale-turn-and-rows", (24 + 3 * 4) * Math.PI)]
    [InlineData("lwpolyline-with-a-bulge", 800 + 50 * Math.PI)]
    [InlineData("r12-polyline-arc-circle", 1500 - 25 * Math.PI)]
    [InlineData("layers-colours-and-text", 600)]
    public void Areas_are_right_within_a_thousandth(string name, double mm2) =>
        Assert.InRange(Read(name).Pieces.Sum(p => p.AreaMm2), mm2 * 0.999, mm2 * 1.001);

    [Theory]
    [InlineData("r12-polyline-arc-circle", 15 * Math.PI)]
    [InlineData("insert-with-scale-turn-and-rows", 8 + 12)]
    [InlineData("spline-open-cubic", 63.1306)]
    [InlineData("spline-rational-quarter-circle", 5 * Math.PI)]
    public void Lengths_are_right_within_a_thousandth(string name, double mm) =>
        Assert.InRange(Read(name).Lines.Sum(l => l.Path.Length.Mm), mm * 0.999, mm * 1.001);

    /// <summary>Random drawings of every version, entity and unit, written and measured by a library from elsewhere.</summary>
    [Fact]
    public void Drawings_of_another_writer_measure_what_it_says()
    {
        var (count, _) = Cases.Seeds("FALZKUNST_DXF", "28@0", "70@0");
        var folder = Directory.CreateTempSubdirectory("falz-dxf-").FullName;
        try
        {
            var script = Path.Combine(Cases.Folder, "..", "Falzkunst.Core.Tests", "Reading", "dxf_samples.py");
            var said = Outside.Run("/usr/bin/python3", script, folder, $"{count}");
            var rows = said.Split('\n', StringSplitOptions.RemoveEmptyEntries);
            Assert.Equal(count, rows.Length);
            Assert.All(rows, row =>
            {
                var numbers = row.Split(' ').Select(n => double.Parse(n, CultureInfo.InvariantCulture)).ToArray();
                var (mm, length, area) = (numbers[1], numbers[2] * numbers[1], numbers[3] * numbers[1] * numbers[1]);
                var drawing = DxfReader.Read(File.ReadAllBytes(Path.Combine(folder, $"{numbers[0]}.dxf")), ReadingLimits.Default);
                var paths = drawing.Items.Cast<DrawnPath>().Select(i => i.Path).ToList();
                Assert.Equal(25.4 / mm, drawing.Scale.PxPerInch, 9);
                Assert.InRange(paths.Sum(p => p.Length.Mm), length * 0.999, length * 1.001);
                if (double.IsNaN(area)) return;
                Assert.Equal((int)numbers[4], paths.Count);
                var closed = paths.Where(p => p.IsClosed || p.Subpaths[0].Start.DistanceTo(p.Subpaths[0].End) < 1e-6 * mm).Sum(p => Math.Abs(p.SignedAreaMm2));
                Assert.InRange(closed, area * 0.999 - 1e-6, area * 1.001 + 1e-6);
            });
        }
        finally
        {
            Directory.Delete(folder, true);
        }
    }

    [Fact]
    public void Layers_name_folds_hide_lines_and_what_is_left_out_is_said()
    {
        var design = Read("layers-colours-and-text");
        var fold = Assert.Single(design.Lines);
        Assert.Equal((Operation.Score, "its layer is called “fold”"), (fold.Operation, fold.Why));
        Assert.Equal("#0000ff", fold.Ink.Stroke!.Colour.Hex);
        Assert.Equal("#ff0000", design.Pieces.Single().Origin!.Ink.Stroke!.Colour.Hex);
        Assert.Contains("outlines", Assert.Single(design.Notes).Text);
        Assert.True(design.Scale.IsKnown);
        Assert.False(Read("r12-polyline-arc-circle").Scale.IsKnown);
    }

    [Fact]
    public void What_points_up_in_the_file_points_up_on_the_table()
    {
        // The arc is open to the right and below; its bulge lies to the left.
        var arc = Read("r12-polyline-arc-circle").Lines.Single().Path;
        Assert.InRange(arc.Subpaths[0].Start.Y - arc.Bounds.Top, 4.9, 5.1);
    }

    private static string Entities(string body) => $"0\nSECTION\n2\nENTITIES\n{body}0\nENDSEC\n0\nEOF\n";

    [Theory]
    [InlineData("0\nLINE\n10\n", "cut off")]
    [InlineData("0\nLINE\nten\n0\n", "damaged near line")]
    [InlineData("0\nTEXT\n1\nhello\n", "only TEXT")]
    [InlineData("", "nothing that is drawn")]
    [InlineData("0\nLINE\n10\nNaN\n20\n1e308\n11\n1e400\n21\n-1e308\n", "nothing that is drawn")]
    [InlineData("0\nCIRCLE\n10\n0\n20\n0\n40\n-4\n", "nothing that is drawn")]
    public void Bad_files_get_a_sentence(string body, string says)
    {
        var e = Assert.Throws<UnreadableFileException>(() =>
            DesignReader.Read(Encoding.UTF8.GetBytes(body.EndsWith("10\n", StringComparison.Ordinal) ? "0\nSECTION\n2\nENTITIES\n" + body : Entities(body))));
        Assert.Contains(says, e.Message);
    }

    [Fact]
    public void Blocks_that_hold_one_another_are_refused()
    {
        const string Loop = "0\nSECTION\n2\nBLOCKS\n0\nBLOCK\n2\na\n10\n0\n20\n0\n0\nINSERT\n2\na\n70\n1000\n71\n1000\n0\nENDBLK\n0\nENDSEC\n";
        Assert.Throws<UnreadableFileException>(() => DesignReader.Read(Encoding.UTF8.GetBytes(Loop + Entities("0\nINSERT\n2\na\n10\n0\n20\n0\n"))));
    }

    [Fact]
    public void Numbers_of_colours_are_hues_in_order()
    {
        foreach (var (number, hex) in new[] { (10, "#ff0000"), (50, "#ffff00"), (90, "#00ff00"), (170, "#0000ff"), (30, "#ff7f00") })
        {
            var line = DesignReader.Read(Encoding.UTF8.GetBytes(Entities($"0\nLINE\n62\n{number}\n10\n0\n20\n0\n11\n9\n21\n9\n"))).Lines.Single();
            Assert.InRange(line.Ink.Stroke!.Colour.DistanceTo(Colour.FromHex(hex)), 0, 4);
        }
    }
}
