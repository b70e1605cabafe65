using CsCheck;
using Falzkunst.Core.Tests.Cards;
using System.Text;
using System.Text.Json.Nodes;
using Falzkunst.Core.Cards;
using Falzkunst.Core.Documents;
using Falzkunst.Core.Files;
using Falzkunst.Core.Findings;
using Falzkunst.Core.Layout;
using Falzkunst.Core.Writing;

namespace Falzkunst.Core.Tests.Documents;

/// <summary>Files of ours that somebody made by hand: whatever stands in whichever field, it is one sentence or a design that everything can be done
/// with.</summary>
public sealed class ForgedFiles
{
    private static readonly string[] Wrong =
    [
        "null", "true", "-1", "0", "1e300", "1e999", "3000000000", "0.5", "\"\"", "\"x\"", "\"<script>alert(1)</script>\"", "\"p1\"", "\"M0 0L9 9\"",
            "\"M0 0H1e300V9Z\"", "\"M0 0L1 1 2 2Z\"", "\"#12345\"", "\"#zzzzzz\"", "\"#ffffff/NaN\"",
        "\"image/svg+xml\"", "\"PHN2Zz48c2NyaXB0Lz48L3N2Zz4=\"", "[]", "{}", "[null]", "[{}]", "[[]]", "\"cut\"", "\"7\"", "7",
    ];

    /// <summary>A design with something in every list.</summary>
    internal static Design Whole()
    {
        var design = AnyEdit.Start.Where(d => d.Sources.Any(s => s.Tracing is not null)).Example(new Random(3));
        design = new BringBeside(Cases.Read("<svg xmlns='http://www.w3.org/2000/svg' width='100mm' height='100mm' viewBox='0 0 100 100'><rect width='60' "
            + "height='40' fill='#f4ead2'/><path d='M30 0V40' stroke='#00f' stroke-dasharray='2 1' fill='none'/><path d='M70 70L90 90' stroke='#0c0' "
            + "fill='none'/><g filter='url(#f)'><path d='M1 1H4V4Z'/></g></svg>"), "card").Apply(design);
        var sheet = design.Pieces[^2];
        design = new NamePanel(sheet.Id, new(5, 5), "front")
            .Apply(new Treat([sheet.Id], new Outset(Length.FromMm(1))).Apply(new LayOnPaper(Length.FromMm(4)).Apply(design)));
        design = new ApplyRules(SourceRules
            .From(design, "Hut press") with
        { Looks = [.. design.Looks.Select(l => new LookRule(SourceRules.RuleOf(l), Operation.Draw))], }).Apply(design);
        design = new SetFoldSide([design.Lines[0].Id], FoldSide.Mountain).Apply(new AssignStock([sheet.Id], "snow").Apply(design));
        return new LeaveOut([design.Pieces[1].Id]).Apply(design);
    }

    [Fact]
    public void Every_field_with_every_wrong_value_is_a_sentence_or_a_sound_design()
    {
        foreach (var file in new[] { FalzFile.Write(Whole()),
            File.ReadAllBytes(Path.Combine(Cases.Folder, "schema-1", "id-of-a-left-out-piece-given-again.falz.json")),
            File.ReadAllBytes(Path.Combine(Cases.Folder, "schema-1", "two-lines-of-one-id.falz.json")), })
        {
            Assert.NotNull(FalzFile.Read(file));
            var fields = Fields(JsonNode.Parse(file)!, "$").Distinct().ToList();
            Assert.True(fields.Count > 30);
            var random = new Random(7);
            Parallel.ForEach(fields.SelectMany(f => Wrong.Select(w => (f, w))), pair =>
            {
                var root = JsonNode.Parse(file)!;
                Put(root, pair.f, pair.w);
                Try(Encoding.UTF8.GetBytes(root.ToJsonString()), $"{pair.f} = {pair.w}");
            });
            Parallel.ForEach(fields.Where(f => !f.EndsWith(']')), field =>
            {
                var root = JsonNode.Parse(file)!;
                Put(root, field, null);
                Try(Encoding.UTF8.GetBytes(root.ToJsonString()), $"{field} taken away");
            });
        }
    }

    [Fact]
    public void A_quarter_of_a_million_of_anything_is_refused_in_a_sentence()
    {
        var file = Encoding.UTF8.GetString(FalzFile
            .Write(Cases.Read("<svg xmlns='http://www.w3.org/2000/svg' width='9mm' height='9mm' viewBox='0 0 9 9'><rect width='9' height='9' "
            + "fill='#f4ead2'/></svg>")));
        foreach (var (list, item) in new[]
        {
            ("plies", """{"id":"y%","label":"","colour":"#ffffff"}"""), ("notes", """{"code":"a","text":"b","at":{"x":1,"y":2}}"""),
            ("sources", """{"id":"s%","name":""}"""),
        })
        {
            var many = string.Join(',', Enumerable.Range(2, 250_000).Select(i => item.Replace("%", i.ToString(), StringComparison.Ordinal)));
            var root = file.Contains($"\"{list}\":[", StringComparison.Ordinal)
                ? file.Replace($"\"{list}\":[", $"\"{list}\":[{many},", StringComparison.Ordinal) : file[..^1] + $",\"{list}\":[{many}]}}";
            var said = Assert.Throws<UnreadableFileException>(() => FalzFile.Read(Encoding.UTF8.GetBytes(root)));
            Assert.True(said.Message.Contains("more in it than", StringComparison.Ordinal), $"{list}: {said}");
        }
    }

    private static void Try(byte[] file, string what)
    {
        Design design;
        try
        {
            design = FalzFile.Read(file);
        }
        catch (UnreadableFileException e)
        {
            Assert.DoesNotContain("Exception", e.Message);
            return;
        }

        try
        {
            Assert.Null(design.Check());
            FindingList.Of(new(design, []));
            LookTable.Of(design);
            Parts.Of(design);
            CardFormats.Guesses(design);
            Assert.DoesNotContain("<script", string.Join(' ', design.AllPieces.Select(p => p.Id + p.PlyId)));
            Assert.NotEmpty(FalzFile.Write(new SetScale(50).Apply(design)));
            Assert.NotEmpty(DesignDocument.Write(new LeaveOut([.. design.Pieces.Take(1).Select(p => p.Id)]).Apply(design)).Text);
            if (Math.Max(design.Width.Mm, design.Height.Mm) < 1000) Assert.NotEmpty(Paper.Render(design, 10, DrawAs.Artwork).Png);
            foreach (var piece in design.Pieces) Panels.Of(piece);
        }
        catch (Exception e) when (e is not Xunit.Sdk.XunitException)
        {
            Assert.Fail($"{what}: {e.GetType().Name} {e.Message} {e.StackTrace?.Split('\n').FirstOrDefault()}");
        }
    }

    /// <summary>The way to every value, one item of each list.</summary>
    private static IEnumerable<string> Fields(JsonNode? node, string at)
    {
        if (node is JsonObject o)
        {
            foreach (var (name, value) in o)
            {
                yield return $"{at}.{name}";
                foreach (var f in Fields(value, $"{at}.{name}")) yield return f;
            }
        }
        else if (node is JsonArray { Count: > 0 } a)
        {
            // The fullest item says most.
            var i = Enumerable.Range(0, a.Count).MaxBy(k => a[k]?.ToJsonString().Length ?? 0);
            yield return $"{at}[{i}]";
            foreach (var f in Fields(a[i], $"{at}[{i}]")) yield return f;
        }
    }

    private static void Put(JsonNode root, string path, string? value)
    {
        var steps = path[2..].Replace("[", ".[", StringComparison.Ordinal).Split('.');
        var at = root;
        foreach (var step in steps[..^1]) at = step[0] == '[' ? at[int.Parse(step[1..^1])]! : at[step]!;
        var last = steps[^1];
        // JsonNode refuses numbers that no double holds; as raw text they pass.
        JsonNode? node = value is null ? null : JsonNode.Parse(value);
        if (value is null) ((JsonObject)at).Remove(last);
        else if (last[0] == '[') at[int.Parse(last[1..^1])] = node;
        else at[last] = node;
    }
}
