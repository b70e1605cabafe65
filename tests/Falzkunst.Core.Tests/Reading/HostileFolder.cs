using Falzkunst.Core.Cards;
using Falzkunst.Core.Documents;
using Falzkunst.Core.Files;
using Falzkunst.Core.Findings;
using Falzkunst.Core.Reading;
using Falzkunst.Core.Writing;

namespace Falzkunst.Core.Tests.Reading;

/// <summary>
/// The files of tests/cases/hostile, thirty and more of every kind, each named after what is wrong with it or meant to do harm. What can be read is read and
/// can be worked with; the rest gets one plain sentence. (bench/limits.mjs measures their time, which is under 10 s on an idle machine, and their memory.)
/// </summary>
public sealed class HostileFolder
{
    // What would be given up is given up sooner here; FALZKUNST_HOSTILE asks for all of it (1), or a part (10: a tenth).
    private static readonly ReadingLimits Limits = new()
    {
        Work = ReadingLimits.Default.Work / int.Parse(Environment.GetEnvironmentVariable("FALZKUNST_HOSTILE") ?? "40"),
    };

    public static TheoryData<string> Kinds => [.. Directory.GetDirectories(Path.Combine(Cases.Folder, "hostile")).Select(d => Path.GetFileName(d)).Order()];

    [Theory]
    [MemberData(nameof(Kinds))]
    public void Is_read_or_refused_with_one_sentence(string kind)
    {
        var files = Directory.GetFiles(Path.Combine(Cases.Folder, "hostile", kind)).Order().ToList();
        Assert.True(files.Count >= 30);
        Assert.All(files, file =>
        {
            try
            {
                var design = DesignReader.Read(File.ReadAllBytes(file), Limits);
                CanBeWorkedWith(design);
            }
            catch (UnreadableFileException e)
            {
                Assert.InRange(e.Message.Length, 5, 300);
                Assert.DoesNotContain('\n', e.Message);
                Assert.DoesNotMatch(@"Exception|System\.|\bnull\b|   at ", e.Message);
            }
        });
    }

    private static void CanBeWorkedWith(Design design)
    {
        FindingList.Of(new(design, []));
        LookTable.Of(design);
        var file = FalzFile.Write(design);
        Assert.Equal(file, FalzFile.Write(FalzFile.Read(file)));
        var size = Math.Max(design.Width.Mm, design.Height.Mm);
        Assert.NotEmpty(Paper.Render(design, Math.Min(20, 25.4 * 800 / size), DrawAs.Artwork).Png);
    }
}
