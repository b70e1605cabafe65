using System.Diagnostics;
using System.Globalization;
using System.Text;
using System.Text.RegularExpressions;
using Falzkunst.Core.Cards;
using Falzkunst.Core.Reading;
using Falzkunst.Core.Runs;
using Falzkunst.Core.Tests.Runs;
using Falzkunst.Core.Writing;

namespace Falzkunst.Core.Tests.Writing;

/// <summary>Every format is read back, and once more by a reader from Debian's packages that knows nothing of us.</summary>
public sealed class WritingTests : IDisposable
{
    private readonly string _folder = Directory.CreateTempSubdirectory("falz-writing-").FullName;
    private static readonly RunPlan Plan = RunTests.Demo(Machines.Kammer30).Plan;

    public void Dispose() => Directory.Delete(_folder, true);

    [Fact]
    public void Hpgl_says_what_the_plan_says()
    {
        foreach (var sheet in Plan.Sheets.Select(Fixed))
        {
            var pens = Strokes(HpglFile.WriteRun(sheet)).GroupBy(s => s.Pen).ToDictionary(g => g.Key, g => g.Sum(s => s.LengthMm));
            foreach (var tool in sheet.Steps.GroupBy(s => s.Pen))
                Assert.Equal(tool.Sum(s => s.Work.Mm), pens[tool.Key], 0.005 * tool.Sum(s => s.Work.Mm) + 0.5);
            Assert.Equal(sheet.Steps.Select(s => s.Pen).Distinct().Count(), pens.Count);
        }
    }

    /// <summary>The same with a knife that does not swivel: its axis goes where its tip does.</summary>
    private static SheetRun Fixed(SheetRun sheet) => sheet with
    {
        Steps = [.. sheet.Steps.Select(s => s with { Swivel = default, Overcut = default, TurnedInAt = null })],
    };

    [Fact]
    public void Hpgl_is_drawn_by_another_reader_where_we_drew_it()
    {
        var sheet = Fixed(Plan.Sheets[0]);
        var file = Save("a.hpgl", HpglFile.WriteRun(sheet));
        var said = Outside.Run("hp2xx", "-m", "svg", "-t", "-f", Path.Combine(_folder, "a.svg"), file);
        Assert.True(File.Exists(Path.Combine(_folder, "a.svg")), said);
        // Its summary gives the size of what it drew.
        var box = sheet.Steps.SelectMany(s => s.Paths).Aggregate(Box.Empty, (b, p) => b.With(p.Bounds));
        var size = Regex.Match(said, @"height:\s*([\d.]+) x ([\d.]+) mm");
        Assert.True(size.Success, said);
        Assert.Equal(box.Width, double.Parse(size.Groups[1].Value, CultureInfo.InvariantCulture), 0.1);
        Assert.Equal(box.Height, double.Parse(size.Groups[2].Value, CultureInfo.InvariantCulture), 0.1);
    }

    [Fact]
    public void Svg_comes_back_as_the_same_lines()
    {
        var sheet = Plan.Sheets[0];
        var back = DesignReader.Read(Encoding.UTF8.GetBytes(SvgFile.Write(sheet)));
        Assert.Equal((210.0, 297.0), (Math.Round(back.Width.Mm, 6), Math.Round(back.Height.Mm, 6)));
        Assert.Equal(sheet.Steps.Sum(s => s.Work.Mm / s.Passes), back.Pieces.Sum(p => p.Outline.Length.Mm) + back.Lines.Sum(l => l.Path.Length.Mm), 0.5);
        Assert.Contains(back.Lines, l => l.Operation == Operation.Score);
    }

    [Fact]
    public void Dxf_is_read_by_another_reader_with_the_same_lengths()
    {
        var sheet = Plan.Sheets[0];
        var file = Save("a.dxf", DxfFile.Write(sheet));
        const string Script = """
            import ezdxf, math, sys
            d = ezdxf.readfile(sys.argv[1]); total = {}
            for e in d.modelspace():
                p = [(v.dxf.location.x, v.dxf.location.y) for v in e.vertices]
                if e.is_closed: p.append(p[0])
                total[e.dxf.layer] = total.get(e.dxf.layer, 0) + sum(math.dist(a, b) for a, b in zip(p, p[1:]))
            print(d.dxfversion, ' '.join(f'{k}={v:.2f}' for k, v in sorted(total.items())))
            """;
        var said = Outside.Run("/usr/bin/python3", "-c", Script, file);
        Assert.StartsWith("AC1009", said);
        foreach (var group in sheet.Steps.GroupBy(s => s.Operation))
        {
            var word = group.Key.Word().ToUpperInvariant() + "=";
            var length = double.Parse(said.Split(' ').Single(w => w.StartsWith(word, StringComparison.Ordinal))[word.Length..], CultureInfo.InvariantCulture);
            Assert.Equal(group.Sum(s => s.Work.Mm / s.Passes), length, 0.002 * length);
        }
    }

    [Fact]
    public void Pdf_has_pages_of_true_size()
    {
        var pdf = ProductionFiles.Write(Plan, ProductionFormat.Pdf).Single();
        var file = Path.Combine(_folder, "a.pdf");
        File.WriteAllBytes(file, pdf.Bytes);
        var said = Outside.Run("pdfinfo", file);
        Assert.Contains($"Pages:           {Plan.Sheets.Length}", said);
        Assert.Contains("595.2", said);
        Assert.Contains("841.8", said);
    }

    [Fact]
    public void Names_of_files_are_told_apart()
    {
        foreach (var format in Enum.GetValues<ProductionFormat>())
        {
            var files = ProductionFiles.Write(Plan, format).ToList();
            Assert.Equal(files.Count, files.Select(f => f.Name).Distinct().Count());
            Assert.All(files, f => Assert.NotEmpty(f.Bytes));
        }
    }

    private static List<(int Pen, double LengthMm)> Strokes(string hpgl)
    {
        var strokes = new List<(int, double)>();
        int pen = 0;
        (double X, double Y) at = default;
        foreach (var command in hpgl.Split([';', '\n'], StringSplitOptions.RemoveEmptyEntries))
        {
            var numbers = command[2..].Split(',', StringSplitOptions.RemoveEmptyEntries).Select(n => double.Parse(n, CultureInfo.InvariantCulture) * 0.025)
                .ToArray();
            switch (command[..2])
            {
                case "SP":
                    pen = int.Parse(command[2..], CultureInfo.InvariantCulture);
                    break;
                case "PU" or "PD":
                    for (var i = 0; i + 1 < numbers.Length; i += 2)
                    {
                        var to = (numbers[i], numbers[i + 1]);
                        if (command[1] == 'D') strokes.Add((pen, Math.Sqrt(Math.Pow(to.Item1 - at.X, 2) + Math.Pow(to.Item2 - at.Y, 2))));
                        at = to;
                    }

                    break;
                default:
                    Assert.Contains(command[..2], new[] { "IN", "PA", "VS", "FS" });
                    break;
            }
        }

        return strokes;
    }

    private string Save(string name, string text)
    {
        var path = Path.Combine(_folder, name);
        File.WriteAllText(path, text);
        return path;
    }
}
