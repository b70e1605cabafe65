using Falzkunst.Core.Cards;
using Falzkunst.Core.Layout;
using Falzkunst.Core.Pictures;
using Falzkunst.Core.Printing;
using Falzkunst.StandIns;

namespace Falzkunst.Core.Tests.Printing;

public sealed class CalibrationTests(ITestOutputHelper output)
{
    private static SheetMarks Marks(int k) => new((MarkKind)(k % 3), Length.FromMm(k % 2 == 0 ? 148 : 210), Length.FromMm(k % 2 == 0 ? 210 : 297),
        Length.FromMm(8));

    /// <summary>The page as it is after a machine cut it whose tool is off by so much.</summary>
    private static async Task<(GreyPicture Scan, double PxPerMm)> Cut(SheetMarks marks, PrintErrors errors, int seed, Point off, double gain)
    {
        var paper = await Printer.Print(CalibrationPage.Pdf(marks), 1, errors, seed, 300, false);
        var perMm = paper.Dpi / Length.MmPerInch;
        foreach (var cut in CalibrationPage.Cuts(marks))
        {
            var (a, b) = (paper.Truth(cut.Rings[0][0].X, cut.Rings[0][0].Y), paper.Truth(cut.Rings[0][^1].X, cut.Rings[0][^1].Y));
            paper.Picture.Line((a.X + off.X) * perMm, (a.Y + off.Y) * perMm, (b.X + off.X) * perMm, (b.Y + off.Y) * perMm, 0.13 * perMm, gain);
        }

        return (new(paper.Picture.Width, paper.Picture.Height, paper.Picture.Data), perMm);
    }

    /// <summary>Whatever the printer did, and however faint cuts are, where the tool comes down is read within 0.05 mm, or it is said why not.
    /// FALZKUNST_CALIBRATIONS reports on others.</summary>
    [Fact]
    public async Task Where_the_tool_comes_down_is_read_from_a_scan()
    {
        var (count, from) = Cases.Seeds("FALZKUNST_CALIBRATIONS", "2@500", "4@500");
        var offs = new List<double>();
        for (var seed = from; seed < from + count; seed++)
        {
            var r = new Random(seed);
            var (marks, off, gain) = (Marks(seed), new Point(2 * r.NextDouble() - 1, 2 * r.NextDouble() - 1), 0.3 + 0.4 * r.NextDouble());
            var (scan, perMm) = await Cut(marks, PrintErrors.Of(seed), seed, off, gain);
            var read = CalibrationPage.Read(marks, scan, perMm);
            if (read.Why is { } why) output.WriteLine($"{seed}: {why}");
            else offs.Add(read.Off!.Value.DistanceTo(off));
            Assert.True(read.Why is not null || offs[^1] < 0.05, $"seed {seed}: {read.Off} for {off}, spread {read.SpreadMm:0.000}");
        }

        output.WriteLine($"calibrations: {offs.Count} of {count} read, "
            + $"off by {offs.Order().ElementAt(offs.Count / 2):0.000} mm in the middle, {offs.Max():0.000} at most");
        Assert.True(offs.Count >= 0.85 * count);
    }

    [Fact]
    public async Task A_page_that_was_not_cut_or_has_no_room_is_refused_with_what_to_do()
    {
        var marks = Marks(0);
        var paper = await Printer.Print(CalibrationPage.Pdf(marks), 1, new(), 1, 300, false);
        var read = CalibrationPage.Read(marks, new(paper.Picture.Width, paper.Picture.Height, paper.Picture.Data), paper.Dpi / Length.MmPerInch);
        Assert.Contains("The cuts can't be seen", read.Why);
        Assert.Contains("A5", CalibrationPage.Fault(marks with { Width = Length.FromMm(105), Height = Length.FromMm(148) }));
        Assert.Contains("100 %", new Calibration(default, Length.FromMm(94), Length.FromMm(100)).Fault());
        Assert.Contains("holder", new Calibration(new(4, 0), Length.FromMm(100), Length.FromMm(100)).Fault());
    }

    /// <summary>A printer that makes 100 mm to 101 across and 99 along prints a corrected page at its true size.</summary>
    [Fact]
    public async Task A_print_file_makes_up_for_its_printer()
    {
        var marks = Marks(0);
        var known = new Calibration(default, Length.FromMm(101), Length.FromMm(99));
        var plan = new SheetPlan("s", "s", new(marks.Width, marks.Height, 1, Length.Zero), [], 0) { Printed = new(marks, Length.Zero) };
        var pdf = PrintFile.Pdf([new(1, 1, "", plan, [], [])], printer: known);
        var paper = await Printer.Print(pdf, 1, new PrintErrors().With(["stretchX=0.01", "stretchY=-0.01"]), 3, 300, false);
        var map = MarkReader.Read(marks, [new(new(paper.Picture.Width, paper.Picture.Height, paper.Picture.Data), paper.Dpi / Length.MmPerInch, default)])
            .Map!.Value;
        Assert.Equal(100, map.Apply(new(120, 50)).DistanceTo(map.Apply(new(20, 50))), 0.03);
        Assert.Equal(100, map.Apply(new(50, 150)).DistanceTo(map.Apply(new(50, 50))), 0.03);
    }
}
