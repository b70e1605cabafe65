using System.Text.Json;
using Falzkunst.Core.Cards;
using Falzkunst.Core.Documents;
using Falzkunst.Core.Reading;

namespace Falzkunst.Core.Tests.Documents;

/// <summary>Files as version 0.3 wrote them open as before; those that it locked itself out of, too.</summary>
public sealed class SchemaOneTests
{
    public static TheoryData<string> Files =>
        [.. Directory.GetFiles(Path.Combine(Cases.Folder, "schema-1"), "*.falz.json").Select(f => Path.GetFileName(f)!).Order()];

    [Theory]
    [MemberData(nameof(Files))]
    public void A_design_of_the_first_schema_opens_as_it_was(string name)
    {
        var bytes = File.ReadAllBytes(Path.Combine(Cases.Folder, "schema-1", name));
        var design = DesignReader.Read(bytes);
        Assert.Null(design.Check());
        using var old = JsonDocument.Parse(bytes);
        var root = old.RootElement;
        // Each piece and line of the card is there, where it was, with what happens along it; so is what was left out.
        Assert.Equal(root.GetProperty("pieces").EnumerateArray()
            .Select(p => (Text(p, "label"), Text(p, "outline"), Text(p, "colour"), Text(p, "outerOperation"))).Order(),
            design.Pieces.Select(p => (p.Label, p.OnCard.ToSvg(), p.Colour.Hex, p.OuterOperation.Word())).Order());
        Assert.Equal(Lines(root).Order(), design.Lines.Select(l => (l.Path.ToSvg(), l.Operation.Word(), l.Why, l.By?.Label ?? "")).Order());
        Assert.Equal(root.GetProperty("artwork").GetArrayLength(), design.Artwork.Length);
        Assert.Equal(root.GetProperty("plies").EnumerateArray().Select(y => Text(y, "id")), design.Plies.Select(y => y.Id));
        Assert.Equal(root.GetProperty("leftOut").EnumerateArray().Select(o => Text(o, "label")), design.LeftOut.Select(o => o.Label));
        foreach (var part in design.LeftOut) design = new PutBack(part.Id).Apply(design);
        Assert.Null(design.Check());
        Assert.Empty(design.LeftOut);
        Assert.Equal(root.GetProperty("pieces").GetArrayLength()
            + root.GetProperty("leftOut").EnumerateArray().Sum(o => o.GetProperty("pieces").GetArrayLength()), design.Pieces.Length);
        Assert.Equal(design, FalzFile.Read(FalzFile.Write(design)) with { Width = design.Width, Height = design.Height });

        static string Text(JsonElement e, string name) => e.GetProperty(name).GetString()!;

        static IEnumerable<(string, string, string, string)> Lines(JsonElement root)
        {
            var labels = root.GetProperty("pieces").EnumerateArray().Select(p => (Id: Text(p, "id"), Label: Text(p, "label")))
                .ToLookup(p => p.Id, p => p.Label);
            return root.GetProperty("lines").EnumerateArray()
                .Select(l => (Text(l, "path"), Text(l, "operation"), Text(l, "why"), l.TryGetProperty("carriedBy", out var by) && by.GetString() is { } id
                ? labels[id].First() : ""));
        }
    }

    [Fact]
    public void A_picture_that_was_traced_can_be_traced_again() =>
        Assert.NotNull(DesignReader.Read(File.ReadAllBytes(Path.Combine(Cases.Folder, "schema-1", "traced-picture.falz.json"))).Sources.Single().Tracing);
}
