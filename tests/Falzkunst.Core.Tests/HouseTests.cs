using System.Text.RegularExpressions;

namespace Falzkunst.Core.Tests;

/// <summary>Dependencies point one way: Web and Cli to Store to Core; the stand-ins stand alone; the computation knows no disk, clock, web or
/// database.</summary>
public sealed class HouseTests
{
    private static readonly string Source = Path.Combine(Cases.Folder, "..", "..", "src");

    [Theory]
    [InlineData("Falzkunst.Core", "")]
    [InlineData("Falzkunst.Store", "Falzkunst.Core")]
    [InlineData("Falzkunst.Web", "Falzkunst.Store")]
    [InlineData("Falzkunst.Cli", "Falzkunst.Core")]
    [InlineData("Falzkunst.StandIns", "")]
    public void A_project_knows_only_the_one_below(string project, string below)
    {
        var text = File.ReadAllText(Path.Combine(Source, project, project + ".csproj"));
        Assert.Equal(below, string.Join(',', Regex.Matches(text, "ProjectReference Include=\"../([^/]+)/").Select(m => m.Groups[1].Value)));
    }

    [Fact]
    public void The_core_touches_no_disk_and_no_clock_and_one_place_each_knows_the_big_libraries()
    {
        foreach (var file in Directory.GetFiles(Path.Combine(Source, "Falzkunst.Core"), "*.cs", SearchOption.AllDirectories)
            .Where(f => !f.Contains("/obj/", StringComparison.Ordinal)))
        {
            var text = File.ReadAllText(file);
            Assert.DoesNotMatch(@"\b(File|Directory)\.\w|DateTime\.|DateTimeOffset\.|TimeProvider|Stopwatch|Environment\.|HttpClient", text);
            // A pattern's time limit is a clock as well: patterns are such that the time they take follows the length of the text.
            Assert.DoesNotMatch(@"GeneratedRegex\([^\]]*, [0-9]+\)|matchTimeout|new Regex\(", text);
            if (!file.EndsWith("Regions/Region.cs", StringComparison.Ordinal)) Assert.DoesNotContain("NetTopologySuite", text);
            if (!(file.EndsWith("Writing/Paper.cs", StringComparison.Ordinal) || file.Contains("Core/Pictures/", StringComparison.Ordinal)
                || file.EndsWith("Lettering/Typeface.cs", StringComparison.Ordinal)))
                Assert.DoesNotContain("SkiaSharp", text);
            if (!file.EndsWith("Lettering/Typeface.cs", StringComparison.Ordinal)) Assert.DoesNotContain("HarfBuzz", text);
        }
    }

    [Fact]
    public void No_line_is_longer_than_160_columns()
    {
        string[] kinds = [".cs", ".cshtml", ".js", ".mjs", ".css"], made = ["/bin/", "/obj/", "/node_modules/", "/lib/", "/samples/"];
        var files = new[] { "src", "tests", "bench", "demo",
            "docs", }.SelectMany(f => Directory.EnumerateFiles(Path.Combine(Source, "..", f), "*", SearchOption.AllDirectories))
            .Where(f => kinds.Contains(Path.GetExtension(f)) && !made.Any(f.Contains)).ToList();
        Assert.True(files.Count > 200);
        Assert.Empty(files.SelectMany(f => File.ReadLines(f).Select((l, i) => (l.Length, Text: $"{Path.GetFileName(f)}:{i + 1}"))).Where(l => l.Length > 160)
            .Select(l => l.Text));
    }

    [Fact]
    public void A_file_has_one_namespace_without_braces_and_fields_are_named_without_this()
    {
        var files = new[] { "src", "tests", "bench" }
            .SelectMany(f => Directory.EnumerateFiles(Path.Combine(Source, "..", f), "*.cs", SearchOption.AllDirectories))
            .Where(f => !f.Contains("/obj/", StringComparison.Ordinal) && !f.Contains("/Migrations/", StringComparison.Ordinal)).ToList();
        Assert.True(files.Count > 200);
        Assert.DoesNotContain(files, f => Regex.IsMatch(File.ReadAllText(f), @"^namespace [\w.]+\s*\{|\bthis\._\w", RegexOptions.Multiline));
    }

    [Fact]
    public void The_folders_of_the_core_depend_one_way()
    {
        var root = Path.Combine(Source, "Falzkunst.Core");
        var folders = Directory.GetDirectories(root).Select(d => Path.GetFileName(d)!).Where(d => d is not ("bin" or "obj")).ToList();
        // Namespaces that the project gives to every file count where a type of theirs is named.
        var typesOf = folders.ToDictionary(f => f,
            f => Files(f).SelectMany(t =>
                Regex.Matches(t,
                    @"^(?:public|internal) (?:(?:static|sealed|abstract|readonly|partial) )*(?:record struct|record|class|struct|enum|interface) (\w+)",
            RegexOptions.Multiline | RegexOptions.ExplicitCapture).Select(m => m.Groups[1].Value)).ToHashSet());
        var graph = folders.ToDictionary(f => f, f => folders.Where(o => o != f && Files(f).Any(t => Uses(t, f, o))).ToList());
        Assert.True(graph.Values.Sum(v => v.Count) > 30);
        Assert.Empty(graph["Measures"]);
        var order = new List<string>();
        while (order.Count < folders.Count)
        {
            var next = folders.Where(f => !order.Contains(f) && graph[f].TrueForAll(order.Contains)).ToList();
            Assert.True(next.Count > 0, "These folders depend on one another in a circle: "
                + string.Join("; ", folders.Except(order).Select(f => $"{f} on {string.Join(", ", graph[f].Except(order))}")));
            order.AddRange(next);
        }

        IEnumerable<string> Files(string folder) => Directory.GetFiles(Path.Combine(root, folder), "*.cs", SearchOption.AllDirectories)
            .Select(f => Regex.Replace(File.ReadAllText(f), "//.*", ""));

        bool Uses(string text, string from, string other) => text.Contains($"using Falzkunst.Core.{other}", StringComparison.Ordinal)
            || (other is "Measures" or "Shapes" or "Looks" ? from is not "Measures" && typesOf[other].Any(t => Regex.IsMatch(text, $@"\b{t}\b"))
            && !(from == "Shapes" && other == "Looks")
                : Regex.IsMatch(text, $@"\b{other}\.[A-Z]\w+") && typesOf[other].Any(t => text.Contains($"{other}.{t}", StringComparison.Ordinal)));
    }
}
