using System.Globalization;
using Falzkunst.Core.Cards;
using Falzkunst.Core.Findings;

namespace Falzkunst.Core.Tests.Reading;

/// <summary>Each file says in its first line what must be recognised in it.</summary>
public sealed class RecognitionCases
{
    public static TheoryData<string> Names => Cases.Names("recognition");

    [Theory]
    [MemberData(nameof(Names))]
    public void Is_recognised(string name)
    {
        var text = Cases.Text("recognition", name);
        var design = Cases.Read(text);
        var findings = FindingList.Of(new(design, []));
        var expected = text[4..text.IndexOf("-->", StringComparison.Ordinal)].Split(' ', StringSplitOptions.RemoveEmptyEntries);
        Assert.NotEmpty(expected);
        foreach (var pair in expected.Select(e => e.Split('=')))
        {
            if (pair[0] == "finding")
            {
                Assert.Contains(findings, f => f.Code == pair[1]);
                continue;
            }

            var count = pair[0] switch
            {
                "pieces" => design.Pieces.Length,
                "plies" => design.Plies.Length,
                "lines" => design.Lines.Length,
                "holes" => design.Pieces.Sum(p => p.HoleCount),
                "artwork" => design.Artwork.Length,
                "left-out" => design.LeftOut.Length,
                "doubts" => Doubts.Of(design).Length,
                "open" => design.Lines.Count(l => !l.IsClosed),
                "known" => design.Scale.IsKnown ? 1 : 0,
                "carried" => design.Lines.Count(l => l.CarriedBy is not null),
                "carried-by-top" => design.Lines.Count(l => l.CarriedBy == design.Pieces[^1].Id),
                _ => Operations.TryRead(pair[0], out var o) ? design.Lines.Count(l => l.Operation == o) : throw new InvalidOperationException(pair[0]),
            };
            Assert.Equal($"{pair[0]} {pair[1]}", string.Create(CultureInfo.InvariantCulture, $"{pair[0]} {count}"));
        }

        Assert.All(design.Lines, l => Assert.NotEmpty(l.Why));
        Assert.All(design.Pieces, p => Assert.Contains(design.Plies, y => y.Id == p.PlyId));
        // Outer edges run clockwise on the screen, holes the other way.
        foreach (var p in design.Pieces)
            for (var i = 0; i < p.Outline.Subpaths.Length; i++) Assert.Equal(i == 0, Core.Shapes.Polygons.SignedArea(p.Outline.Rings[i]) > 0);
    }
}
