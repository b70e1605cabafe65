using System.Text.RegularExpressions;

namespace Falzkunst.Core.Tests;

/// <summary>Dependencies point one way: Web and Cli to Store to Core; the stand-ins stand alone; the computation knows no disk, clock, web or database.</summary>
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
        foreach (var file in Directory.GetFiles(Path.Combine(Source, "Falzkunst.Core"), "*.cs", SearchOption.AllDirectories).Where(f => !f.Contains("/obj/", StringComparison.Ordinal)))
        {
            var text = File.ReadAllText(file);
            Assert.DoesNotMatch(@"\b(File|Directory)\.\w|DateTime\.|DateTimeOffset\.|Environment\.|HttpClient", text);
            if (!file.EndsWith("Regions/Region.cs", StringComparison.Ordinal)) Assert.DoesNotContain("NetTopologySuite", text);
            if (!(file.EndsWith("Writing/Paper.cs", StringComparison.Ordinal) || file.Contains("Reading/Pictures/", StringComparison.Ordinal) || file.EndsWith("Lettering/Typeface.cs", StringComparison.Ordinal)))
                Assert.DoesNotContain("SkiaSharp", text);
            if (!file.EndsWith("Lettering/Typeface.cs", StringComparison.Ordinal)) Assert.DoesNotContain("HarfBuzz", text);
        }
    }
}
