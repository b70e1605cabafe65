using System.Diagnostics;
using System.Text.Json;

namespace Falzkunst.Core.Tests.CommandLine;

/// <summary>The second door, as scripts use it: its exit code, one JSON object on stdout, one sentence on stderr. Most of it within this process, which saves
/// its start each time; what a process has besides in one of its own.</summary>
public sealed class CommandLineTests : IDisposable
{
    private readonly string _folder = Directory.CreateTempSubdirectory("falz-cli-").FullName;
    private static readonly string Demo = Path.Combine(Cases.Demo, "fernblick-thank-you.svg");

    public void Dispose() => Directory.Delete(_folder, true);

    private static (int Code, string Out, string Error) Run(params string[] arguments)
    {
        using var output = new MemoryStream();
        using var error = new StringWriter();
        var code = Cli.CommandLine.Run(arguments, output, error);
        return (code, System.Text.Encoding.UTF8.GetString(output.ToArray()), error.ToString());
    }

    private static (int Code, string Out, string Error) RunAsProcess(params string[] arguments)
    {
        using var process = Start(arguments);
        var error = process.StandardError.ReadToEndAsync();
        var output = process.StandardOutput.ReadToEnd();
        process.WaitForExit();
        return (process.ExitCode, output, error.Result);
    }

    private static Process Start(params string[] arguments)
    {
        var configuration = AppContext.BaseDirectory.Contains("/Release/", StringComparison.Ordinal) ? "Release" : "Debug";
        var program = Path.GetFullPath(Path
            .Combine(Cases.Folder, "..", "..", "src", "Falzkunst.Cli", "bin", configuration, "net10.0", "linux-x64", "falzkunst-cli"));
        // A shell that runs the tests behind itself has them ignore Ctrl+C, which they would hand on.
        return Process.Start(new ProcessStartInfo("env", ["--default-signal=INT", program, .. arguments])
        {
            RedirectStandardOutput = true,
            RedirectStandardError = true,
            UseShellExecute = false,
        })!;
    }

    private static JsonElement Json(params string[] arguments)
    {
        var (code, output, error) = Run(arguments);
        Assert.True(code == 0, error);
        Assert.Empty(error);
        return JsonDocument.Parse(output).RootElement;
    }

    private string At(string name) => Path.Combine(_folder, name);

    private string Save(string name, string text)
    {
        File.WriteAllText(At(name), text);
        return At(name);
    }

    [Fact]
    public void Edit_does_steps_and_names_what_each_made()
    {
        var card = Save("two.svg", "<svg xmlns='http://www.w3.org/2000/svg' width='100mm' height='50mm' viewBox='0 0 100 50'><rect width='40' height='40' "
            + "fill='#f4ead2'/><circle cx='40' cy='20' r='10' fill='#335544'/></svg>");
        var steps = Save("steps.json", """
            [{"do":"join","of":["p1","p2"]}, {"do":"cutApart","of":["$0"],"along":"M20 10L20 20"}, {"do":"move","of":["$1.1"],"by":[-5,0]}, {"do":"undo"}]
            """);
        var edited = Json("edit", card, "--do", steps, "--out", At("out.falz.json"), "--svg", At("out.svg"));
        Assert.Equal(2, edited.GetProperty("pieces").GetArrayLength());
        var done = edited.GetProperty("steps").EnumerateArray().ToList();
        Assert.Equal(["p1"], done[0].GetProperty("made").EnumerateArray().Select(e => e.GetString()!));
        Assert.Equal(["p2"], done[0].GetProperty("gone").EnumerateArray().Select(e => e.GetString()!));
        Assert.Equal(2, done[1].GetProperty("made").GetArrayLength());
        Assert.Equal("Undo", done[3].GetProperty("text").GetString());
        Assert.Equal(1600 + Math.PI * 50, edited.GetProperty("pieces").EnumerateArray().Sum(p => p.GetProperty("areaMm2").GetDouble()), 0.1);
        Assert.Equal(2, Json("read", At("out.falz.json")).GetProperty("pieces").GetArrayLength());
        Assert.Equal(2, Json("read", At("out.svg")).GetProperty("pieces").GetArrayLength());
    }

    [Fact]
    public void Make_and_edit_build_a_card_from_nothing()
    {
        var made = Json("make", "base", "--kind", "gate", "--width", "125", "--height", "125", "--out", At("base.falz.json"));
        Assert.Equal(["left door", "back", "right door"], made.GetProperty("panels").EnumerateArray().Select(p => p.GetProperty("name").GetString()!));
        Assert.Equal(2, made.GetProperty("folds").GetArrayLength());
        Assert.Equal((2, ""), Run("make", "base", "--kind", "tent", "--width", "0", "--height", "90") is var (code, output, _) ? (code, output) : default);
        var steps = Save("steps.json", """
            [{"do":"add","shape":"rectangle","at":[70,10],"width":40,"height":30},
             {"do":"outset","of":["$0"],"by":2,"asNew":true}, {"do":"outset","of":["$0"],"by":-2,"corners":"sharp","asNew":true},
             {"do":"rim","of":["$0"],"width":4}, {"do":"backing","of":["$0"],"by":3}, {"do":"roundCorners","of":["$0"],"radius":3},
             {"do":"add","shape":"path","path":"M80 60H100V80H80.1"}, {"do":"close","of":["$6"],"within":25,"asPiece":true},
             {"do":"text","words":"thank you","face":"EMS Tech","capHeight":6,"at":[70,100],"is":"foil"},
             {"do":"text","words":"hut","face":"Courgette","capHeight":9,"at":[75,118],"asWideAs":30}]
            """);
        var edited = Json("edit", At("base.falz.json"), "--do", steps, "--out", At("out.falz.json"));
        double Area(int step) => edited.GetProperty("pieces").EnumerateArray().First(p => p.GetProperty("id").GetString()
            == edited.GetProperty("steps")[step].GetProperty("made")[0].GetString()).GetProperty("areaMm2").GetDouble();
        Assert.Equal(1200 + 140 * 2 + Math.PI * 4, Area(1), 0.01);
        Assert.Equal(36 * 26, Area(2), 0.001);
        Assert.Equal(1200 - 32 * 22, Area(3), 0.001);
        Assert.Equal(1200 + 140 * 3 + Math.PI * 9, Area(4), 0.01);
        Assert.Equal(1200 - (4 - Math.PI) * 9, Area(5), 0.001);
        Assert.InRange(Area(7), 398, 400);
        var line = edited.GetProperty("lines").EnumerateArray().Single(l => l.GetProperty("id").GetString()
            == edited.GetProperty("steps")[8].GetProperty("made")[0].GetString());
        Assert.Equal("foil", line.GetProperty("operation").GetString());
        var word = edited.GetProperty("pieces").EnumerateArray().Single(p => p.GetProperty("id").GetString()
            == edited.GetProperty("steps")[9].GetProperty("made")[0].GetString());
        Assert.Equal(30, word.GetProperty("bounds")[2].GetDouble(), 0.01);
    }

    [Theory]
    [InlineData("""[{"do":"join","of":["p8","p9"]}]""", "step 0: they don't all touch: joined, they would stay 2 parts. Move them together first.")]
    [InlineData("""[{"do":"move","of":["p1"],"by":[1,1]},{"do":"turn","of":["p99"],"degrees":3}]""", "step 1: there is no piece \"p99\".")]
    [InlineData("""[{"do":"outset","of":["p1"],"by":1e300}]""", "step 0: \"by\" is larger than 10000.")]
    [InlineData("""[{"do":"cutApart","of":["$3"],"along":"M0 0L9 9"}]""", "step 0: \"$3\" names no piece that a step before made.")]
    [InlineData("""[{"do":7}]""", "step 0: \"do\" is missing or no text.")]
    [InlineData("[{\"do\":\"add\",\"shape\":\"rectangle\",\"at\":[0,0],\"width\":0,\"height\":9}]",
        "step 0: it can't be made: the width of a rectangle is from 0.01 to 10000 mm.")]
    [InlineData("[{\"do\":\"text\",\"words\":\"ツ\",\"face\":\"EMS Tech\",\"capHeight\":8,\"at\":[0,0]}]", "step 0: EMS Tech has no sign “ツ”.")]
    [InlineData("[{\"do\":\"outset\",\"of\":\"p1\",\"by\":-900}]", "step 0: nothing of “Base” would be left.")]
    [InlineData("[{\"do\":\"outset\",\"of\":\"p1\",\"by\":2,\"corners\":\"7\"}]", "step 0: \"corners\" is one of round, sharp, bevel.")]
    [InlineData("{", "it is not a list of steps (line 1 can't be read). See ./falzkunst help edit.")]
    public void Edit_refuses_what_cant_be_done_by_the_number_of_the_step_and_writes_nothing(string steps, string sentence)
    {
        var (code, output, error) = Run("edit", Demo, "--do", Save("wrong.json", steps), "--out", At("none.falz.json"));
        Assert.Equal((2, ""), (code, output));
        Assert.EndsWith($"wrong.json: {sentence}", error.TrimEnd());
        Assert.False(File.Exists(At("none.falz.json")));
    }

    [Fact]
    public void Read_gives_what_callers_rely_on_and_reads_its_own_file_again()
    {
        var read = Json("read", Demo, "--out", At("card.falz.json"));
        Assert.Equal(148, read.GetProperty("size").GetProperty("widthMm").GetDouble());
        Assert.Equal(96, read.GetProperty("scale").GetProperty("pxPerInch").GetDouble());
        var piece = read.GetProperty("pieces")[0];
        foreach (var field in new[] { "id", "label", "ply", "colour", "areaMm2", "bounds", "outline", "carries" })
            Assert.True(piece.TryGetProperty(field, out _), field);
        Assert.Equal(148 * 210, piece.GetProperty("areaMm2").GetDouble());
        foreach (var field in new[] { "id", "operation", "why", "closed", "lengthMm", "path", "carriedBy" })
            Assert.True(read.GetProperty("lines")[0].TryGetProperty(field, out _), field);
        var found = Json("read", Path.Combine(Cases.Demo, "lantern-vellum.svg")).GetProperty("findings")[0];
        foreach (var field in new[] { "code", "severity", "at", "text", "remedy" }) Assert.True(found.TryGetProperty(field, out _), field);
        Assert.Equal(read.GetProperty("pieces").GetRawText(), Json("read", At("card.falz.json")).GetProperty("pieces").GetRawText());
    }

    [Theory]
    [InlineData("outline", 9)]
    [InlineData("flat", 9)]
    [InlineData("colours", 9)]
    [InlineData("centreline", 1)]
    public void Trace_makes_paths_that_are_read_again(string mode, int least)
    {
        var traced = Json("trace", Path.Combine(Cases.Demo, "hut-badges.png"), "--mode", mode, "--colours", "6", "--dpi", "127", "--out", At("badges.svg"));
        Assert.InRange(traced.GetProperty("paths").GetInt32(), least, 400);
        Assert.InRange(traced.GetProperty("nodes").GetInt32(), least, 4000);
        Assert.Equal(mode == "colours" ? 6 : 1, traced.GetProperty("colours").GetInt32());
        Assert.InRange(traced.GetProperty("widthMm").GetDouble(), 179.9, 180.1);
        var size = Json("read", At("badges.svg")).GetProperty("size");
        Assert.Equal(traced.GetProperty("heightMm").GetDouble(), size.GetProperty("heightMm").GetDouble(), 3);
        Assert.Equal(File.ReadAllText(At("badges.svg")), Retraced());

        string Retraced()
        {
            Json("trace", Path.Combine(Cases.Demo, "hut-badges.png"), "--mode", mode, "--colours", "6", "--dpi", "127", "--out", At("again.svg"));
            return File.ReadAllText(At("again.svg"));
        }
    }

    [Fact]
    public void Trace_says_what_is_wrong_and_writes_nothing()
    {
        Assert.Contains("--mode takes", Run("trace", Demo, "--mode", "guess", "--out", At("x.svg")).Error);
        Assert.Contains("--colours takes", Run("trace", Demo, "--mode", "colours", "--colours", "13", "--out", At("x.svg")).Error);
        var (code, output, error) = Run("trace", Demo, "--mode", "flat", "--out", At("x.svg"));
        Assert.Equal((2, ""), (code, output));
        Assert.Contains("fernblick-thank-you.svg", error);
        Assert.False(File.Exists(At("x.svg")));
    }

    [Fact]
    public void An_archive_is_read_with_its_files_beside_one_another()
    {
        using (var zip = System.IO.Compression.ZipFile.Open(At("hut.zip"), System.IO.Compression.ZipArchiveMode.Create))
        {
            foreach (var name in new[] { "room-key-tags.svg", "lantern-vellum.svg" })
            {
                using var entry = zip.CreateEntry(name).Open();
                entry.Write(File.ReadAllBytes(Path.Combine(Cases.Demo, name)));
            }

            using var broken = zip.CreateEntry("broken.dxf").Open();
        }

        var read = Json("read", At("hut.zip"));
        Assert.Equal(10, read.GetProperty("pieces").GetArrayLength());
        Assert.Contains("broken.dxf", read.GetProperty("findings").GetRawText());
    }

    [Fact]
    public void The_same_input_gives_the_same_bytes_also_from_a_process()
    {
        var read = Run("read", Demo);
        Assert.Equal(read, RunAsProcess("read", Demo));
        Assert.Equal(read, Run("read", Demo));
        foreach (string[] arguments in new string[][] { ["help", "read"], ["read", "no-such-file.svg"], ["fold", "x"] })
            Assert.Equal(Run(arguments), RunAsProcess(arguments));
    }

    [Theory]
    [InlineData("artwork")]
    [InlineData("outline")]
    [InlineData("operations")]
    public void Render_is_exactly_its_size(string how)
    {
        var said = Json("render", Demo, "--png", At("a.png"), "--dpi", "25.4", "--as", how);
        Assert.Equal((148, 210), (said.GetProperty("widthPx").GetInt32(), said.GetProperty("heightPx").GetInt32()));
        using var picture = SkiaSharp.SKBitmap.Decode(At("a.png"));
        Assert.Equal((148, 210), (picture.Width, picture.Height));
    }

    [Fact]
    public void Nest_places_everything_and_draws_its_sheets()
    {
        var request = Save("r.json", """
            {"gapMm":2,"sheets":[{"id":"s","widthMm":100,"heightMm":100,"marginMm":5,"count":9}],
             "pieces":[{"id":"a","path":"m5 5h40v40h-40z","count":5,"turns":"quarter"}]}
            """);
        var said = Json("nest", request, "--seconds", "0.5", "--seed", "3", "--out", At("layout.json"), "--svg", At("sheets"));
        Assert.Equal(5, said.GetProperty("placements").GetArrayLength());
        Assert.Equal(2, said.GetProperty("sheetsUsed").GetInt32());
        Assert.InRange(said.GetProperty("utilisation").GetDouble(), 0.399, 0.401);
        Assert.True(File.Exists(At("layout.json")) && File.Exists(At("sheets/sheet-2.svg")));
        // A point of the piece lands at R·F·(x, y) + (dx, dy): all corners lie on the sheet, inside the margin.
        foreach (var p in said.GetProperty("placements").EnumerateArray())
        {
            var turn = Measures.Affine(p.GetProperty("rotateDeg").GetDouble(), p.GetProperty("dxMm").GetDouble(), p.GetProperty("dyMm").GetDouble());
            foreach (var corner in new Core.Measures.Point[] { new(5, 5), new(45, 45) })
            {
                var at = turn.Apply(corner);
                Assert.InRange(at.X, 4.99, 95.01);
                Assert.InRange(at.Y, 4.99, 95.01);
            }
        }
    }

    [Fact]
    public async Task Interrupted_it_ends_at_once_and_leaves_nothing_half()
    {
        var request = Save("long.json", """
            {"sheets":[{"id":"s","widthMm":300,"heightMm":300,"count":99}],"pieces":[{"id":"a","path":"M0 0H30L15 40Z","count":400}]}
            """);
        using var process = Start("nest", request, "--seconds", "3600", "--progress", "--out", At("never.json"));
        // In the middle of its search.
        while (await process.StandardError.ReadLineAsync() is { } said && !said.Contains("sheet", StringComparison.Ordinal))
            Assert.NotEmpty(said);
        Assert.False(process.HasExited);
        var rest = process.StandardError.ReadToEndAsync();
        using (var interrupt = Process.Start("kill", ["-INT", process.Id.ToString(System.Globalization.CultureInfo.InvariantCulture)]))
            await interrupt.WaitForExitAsync();
        // At once, and not in an hour.
        await process.WaitForExitAsync();
        await rest;
        Assert.NotEqual(0, process.ExitCode);
        Assert.Equal("", await process.StandardOutput.ReadToEndAsync());
        Assert.Empty(Directory.GetFiles(_folder, "never.json*"));
    }

    [Theory]
    [InlineData("""{"sheets":[]}""", "something is missing")]
    [InlineData("{", "line 2 can't be read")]
    [InlineData("""{"sheets":[null],"pieces":[]}""", "sheets[0] is missing something")]
    [InlineData("""{"sheets":[],"pieces":[{"id":"a","path":"M0 0H9V9Z","turns":"some"}]}""", "pieces[0].turns is missing something")]
    [InlineData("""{"sheets":[{"id":"s","widthMm":9}],"pieces":[]}""", "sheets[0] is missing something")]
    [InlineData("""{"sheets":[{"id":"s","widthMm":9,"heightMm":9,"outline":"M0 0H10V9Z"}],"pieces":[]}""", "goes beyond its 9 × 9 mm")]
    [InlineData("""{"sheets":[],"pieces":[{"id":"a","path":"M0 0H9V9Z"},{"id":"a","path":"M0 0H9V9Z"}]}""", "two pieces have the same id")]
    public void Nest_says_where_a_request_is_none(string text, string expected)
    {
        var (code, output, error) = Run("nest", Save("r.json", text + "\n"));
        Assert.Equal((2, ""), (code, output));
        Assert.Contains(expected, error);
    }

    [Fact]
    public void Nest_takes_an_off_cut_that_costs_nothing_and_stays_inside_its_outline()
    {
        var said = Json("nest", Save("r.json", """
            {"sheets":[{"id":"whole","widthMm":100,"heightMm":100,"count":9},
             {"id":"rest","widthMm":100,"heightMm":100,"price":0,"outline":"M0 0H100V20H20V100H0Z"}],"pieces":[{"id":"a","path":"M0 0H90V18H0Z","count":2}]}
            """), "--seconds", "0.5", "--equal-sheets");
        // One lies along a limb of it; for the other there is no room in the corner.
        var sheets = said.GetProperty("placements").EnumerateArray().Select(p => p.GetProperty("sheetId").GetString()).ToList();
        Assert.Contains("rest", sheets);
        Assert.Equal(2, sheets.Count);
    }

    [Fact]
    public void Nest_takes_what_is_not_said_as_its_help_says_it()
    {
        var said = Json("nest", Save("r.json", """{"sheets":[{"id":"s","widthMm":60,"heightMm":12}],"pieces":[{"id":"a","path":"M0 0H10V50H0Z"}]}"""),
            "--seconds", "0.2");
        Assert.Equal(1, said.GetProperty("sheetsUsed").GetInt32());
        Assert.Contains(said.GetProperty("placements")[0].GetProperty("rotateDeg").GetDouble(), new double[] { 90, 270 });
    }

    private static class Measures
    {
        public static Core.Measures.Affine Affine(double degrees, double dx, double dy) => Core.Measures.Affine.Turn(Angle.FromDegrees(degrees))
            .Then(Core.Measures.Affine.Move(dx, dy));
    }

    [Theory]
    [InlineData("hpgl")]
    [InlineData("svg")]
    [InlineData("dxf")]
    [InlineData("pdf")]
    public void Plot_writes_the_files_that_it_names(string format)
    {
        var card = Save("c.svg", "<svg xmlns='http://www.w3.org/2000/svg' width='90mm' height='50mm' viewBox='0 0 90 50'><rect width='90' height='50' "
            + "fill='#eee'/></svg>");
        var files = Json("plot", card, "--machine", "kammer-15", "--format", format, "--out", At("files")).GetProperty("files");
        Assert.NotEmpty(files.EnumerateArray());
        foreach (var f in files.EnumerateArray()) Assert.Equal(f.GetProperty("bytes").GetInt64(), new FileInfo(f.GetProperty("path").GetString()!).Length);
    }

    [Fact]
    public void Plan_adds_up()
    {
        var plan = Json("plan", Demo, "--machine", "Kammer 60");
        var sheets = plan.GetProperty("sheets").EnumerateArray().ToList();
        Assert.Equal(plan.GetProperty("seconds").GetDouble(), sheets.Sum(s => s.GetProperty("seconds").GetDouble()), 1e-3);
        foreach (var s in sheets)
            Assert.Equal(s.GetProperty("seconds").GetDouble(), s.GetProperty("steps").EnumerateArray().Sum(t => t.GetProperty("seconds").GetDouble()), 1e-3);
    }

    public static TheoryData<string[]> Wrong => new()
    {
        new[] { "read", "no-such-file.svg" }, new[] { "read" }, new[] { "fold", "x" }, new[] { "render", Demo, "--png", "/dev/null/x.png" },
            new[] { "render", Demo, "--png", "x.png", "--dpi", "0" },
        new[] { "render", Demo, "--png", "x.png", "--dpi", "9999" }, new[] { "render", Demo, "--png", "x.png", "--as", "oil" }, new[] { "nest", Demo },
            new[] { "plan", Demo, "--machine", "Other 99" },
        new[] { "plan", Demo, "--machine", "30", "--copies", "0" }, new[] { "plot", Demo, "--machine", "30", "--format", "exe", "--out", "x" },
            new[] { "plan", Demo, "--machine", "Kammer 15" }, new[] { "help", "fold" },
    };

    [Theory]
    [MemberData(nameof(Wrong))]
    public void What_is_wrong_is_said_in_one_sentence_with_exit_code_2(string[] arguments)
    {
        var (code, output, error) = Run(arguments);
        Assert.Equal((2, ""), (code, output));
        Assert.Single(error.Trim().Split('\n'));
        Assert.DoesNotContain("Exception", error);
        Assert.DoesNotContain("   at ", error);
        Assert.False(File.Exists("x.png"));
    }

    [Fact]
    public void Help_explains_every_command_with_an_example()
    {
        var help = Run("help").Out;
        foreach (var command in new[] { "read", "render", "nest", "plan", "plot" })
        {
            Assert.Contains($"./falzkunst {command}", help);
            Assert.Contains($"./falzkunst {command}", Run("help", command).Out);
        }
    }

    /// <summary>Any card, with any options: what is cut lies where it is printed. Both files are read by others: the print by Poppler, as SVG.</summary>
    [Fact]
    public void The_cut_of_the_same_options_fits_the_print()
    {
        for (var seed = 1; seed <= 4; seed++)
        {
            var r = new Random(seed);
            var shapes = string.Concat(Enumerable.Range(0, r.Next(1, 6)).Select(i => FormattableString.Invariant(
                $"<rect x='{5 + 50 * i}' y='5' width='{15 + 25 * r.NextDouble()}' height='{15 + 40 * r.NextDouble()}' fill='#f4ead2'/>")
                + (r.Next(2) == 0 ? "" : $"<circle id='print' cx='{12 + 50 * i}' cy='12' r='3' fill='url(#g)'/>")));
            var card = Save($"fit{seed}.svg", "<svg xmlns='http://www.w3.org/2000/svg' width='300mm' height='80mm' viewBox='0 0 300 80'><defs><linearGradient "
                + $"id='g'><stop stop-color='#c33'/><stop offset='1' stop-color='#237'/></linearGradient></defs>{shapes}</svg>");
            string[] options = r.Next(3) switch { 0 => [], 1 => ["--bleed", "3"], _ => ["--marks", "squares", "--inset", "9"] };
            string[] plot = ["plot", card, "--machine", "kammer-30", "--copies", "4", "--out", At($"fit{seed}"), .. options, "--format"];
            var cut = Json([.. plot, "svg"]).GetProperty("files")[0].GetProperty("path").GetString()!;
            var pdf = Json([.. plot, "pdf", "--lines"]).GetProperty("files")[0].GetProperty("path").GetString()!;
            using var poppler = Process.Start("pdftoppm", ["-r", "200", "-gray", "-f", "1", "-l", "1", "-singlefile", pdf, At($"fit{seed}")])!;
            poppler.WaitForExit();
            // "P5", width, height, 255, and the pixels (Netpbm, PGM).
            var file = File.ReadAllBytes(At($"fit{seed}.pgm"));
            var head = System.Text.Encoding.ASCII.GetString(file, 0, 40).Split((char[])[' ', '\n'], 5);
            int wide = int.Parse(head[1]), pixels = wide * int.Parse(head[2]);
            var page = (Bytes: file[^pixels..], Wide: wide);
            var boxes = Cases.Read(File.ReadAllText(cut)).Pieces.Select(p => p.OnCard.Bounds).ToList();
            Assert.NotEmpty(boxes);
            Assert.All(boxes, b => Assert.True(IsInked(page.Bytes, page.Wide, b.Left, b.Centre.Y) && IsInked(page.Bytes, page.Wide, b.Centre.X, b.Top),
                $"{seed}: {b}"));
        }

        // Whether there is a line within 0.15 mm of a place.
        static bool IsInked(byte[] grey, int wide, double x, double y)
        {
            const double perMm = 200 / 25.4;
            for (var dx = -1; dx <= 1; dx++)
                for (var dy = -1; dy <= 1; dy++)
                    if (grey[((int)(y * perMm) + dy) * wide + (int)(x * perMm) + dx] < 250) return true;
            return false;
        }
    }

    /// <summary>From marks to a cut that lies on the print: what is plotted is printed by the stand-in, and read again.</summary>
    [Fact]
    public async Task Marks_are_printed_plotted_and_read_again()
    {
        string[] sheet = ["--sheet", "150x210", "--inset", "9", "--kind", "squares"];
        var marks = Json(["marks", .. sheet, "--pdf", At("marks.pdf")]);
        Assert.Equal(4, marks.GetProperty("keepOut").GetArrayLength());
        var card = Save("badges.svg", "<svg xmlns='http://www.w3.org/2000/svg' width='60mm' height='40mm' viewBox='0 0 60 40'><defs><linearGradient id='g'>"
            + "<stop stop-color='#c33'/><stop offset='1' stop-color='#237'/></linearGradient></defs><circle cx='20' cy='20' r='18' fill='url(#g)'/></svg>");
        string[] plot = ["plot", card, "--machine", "kammer-15", "--copies", "3", "--format", "pdf", "--inset", "9", "--out", At("out")];
        var file = Json([.. plot, "--marks", "squares", "--lines"]).GetProperty("files")[0];
        foreach (var pdf in new[] { At("marks.pdf"), file.GetProperty("path").GetString()! })
        {
            var paper = await StandIns.Printer.Print(File.ReadAllBytes(pdf), 1, new StandIns.PrintErrors { OffsetX = 1, OffsetY = -0.5, Turn = 0.8 }, 4,
                300, false);
            File.WriteAllBytes(At("scan.png"), paper.Picture.Png());
            var read = Json(["register", .. sheet, "--scan", At("scan.png"), "--dpi", "300"]);
            var map = read.GetProperty("transform").EnumerateArray().Select(v => v.GetDouble()).ToArray();
            var (x, y) = paper.Truth(140, 200);
            Assert.Equal(x, map[0] * 140 + map[2] * 200 + map[4], 0.03);
            Assert.Equal(y, map[1] * 140 + map[3] * 200 + map[5], 0.03);
            Assert.InRange(read.GetProperty("residualMm").GetDouble(), 0, 0.05);
        }

        foreach (var (arguments, says) in new (string[], string)[]
        {
            (["register", .. sheet, "--scan", card, "--dpi", "300"], "the picture is damaged"),
            (["register", .. sheet, "--scan", At("scan.png"), "--dpi", "0"], "--dpi takes"),
            (["register", "--sheet", "210x297", "--inset", "9", "--scan", At("scan.png"), "--dpi", "300"], "scan.png: "),
            ([.. plot, "--marks", "stars"], "--marks takes brackets, squares or dots"), ([.. plot, "--bleed", "-1"], "A bleed is 0 to 20 mm"),
        })
        {
            var (code, output, error) = Run(arguments);
            Assert.Equal((2, ""), (code, output));
            Assert.Contains(says, error);
        }
    }

    [Fact]
    public void Parts_are_set_apart_and_joined_by_bridges()
    {
        var card = Save("parts.svg", "<svg xmlns='http://www.w3.org/2000/svg' width='60mm' height='40mm' viewBox='0 0 60 40'><path d='M5 5h20v.4h-20z'/>"
            + "<path d='M40 5h9v9h-9z'/></svg>");
        var steps = Save("steps.json", """
            [{"do":"text","words":"i","face":"Alegreya Sans","capHeight":6,"at":[5,30]}, {"do":"bridge","of":["$0"],"width":0.8,"within":5},
             {"do":"strengthen","of":["p1"],"minWidth":0.8,"minGap":0.5,"apart":0.6}]
            """);
        var said = Json("edit", card, "--do", steps, "--out", At("x.falz.json"), "--svg", At("x.svg")).GetProperty("steps");
        Assert.Contains("joined by bridges 0.8 mm wide", said[1].GetProperty("text").GetString());
        Assert.Contains("strengthened to 0.8 mm where thin", said[2].GetProperty("text").GetString());
        var after = Json("strengthen", card, "--min-width", "0.8", "--min-gap", "0.5", "--apart", "0.6", "--out", At("o.svg")).GetProperty("after");
        Assert.Equal(0, after.GetProperty("thin").GetArrayLength());
    }
}
