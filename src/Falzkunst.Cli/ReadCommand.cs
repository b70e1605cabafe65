using System.CommandLine;
using Falzkunst.Core.Cards;
using Falzkunst.Core.Documents;
using Falzkunst.Core.Findings;

namespace Falzkunst.Cli;

internal static class ReadCommand
{
    public static Command Make()
    {
        var design = Arguments.Design();
        var output = new Option<string?>("--out") { HelpName = "X.falz.json", Description = "also write the design in our own format" };
        var command = new Command("read", "Reads a file into pieces, lines and artwork.") { design, output };
        command.Answers(parsed =>
        {
            var read = CommandLine.ReadDesign(parsed.GetValue(design)!);
            if (parsed.GetValue(output) is { } path) CommandLine.WriteWhole(path, FalzFile.Write(read));
            return ReadAnswer.Of(read);
        });
        return command;
    }
}

/// <summary>
/// A design as it was read: what stands on which ply, what is carried by what, and what was found. Outlines and paths are SVG path data in mm.
/// </summary>
internal sealed record ReadAnswer(ReadAnswer.PageSize Size, ReadAnswer.PageScale Scale, IEnumerable<ReadAnswer.OnePiece> Pieces,
    IEnumerable<ReadAnswer.OneLine> Lines, IEnumerable<ReadAnswer.OnePicture> Artwork, IEnumerable<ReadAnswer.OneFinding> Findings)
{
    public sealed record PageSize(double WidthMm, double HeightMm);

    public sealed record PageScale(double PxPerInch, string Reason);

    /// <param name="Ply">From 1, the lowest.</param>
    /// <param name="Carries">The ids of its lines.</param>
    public sealed record OnePiece(string Id, string Label, int Ply, string Colour, double AreaMm2, Box Bounds, string Outline, string? Why,
        IEnumerable<string> Carries);

    public sealed record OneLine(string Id, string Operation, string? Why, bool Closed, double LengthMm, string Path, string? CarriedBy);

    public sealed record OnePicture(string Id, Box Bounds, string? CarriedBy);

    public sealed record OneFinding(string Code, Severity Severity, Point At, string Text, string? Remedy);

    public static ReadAnswer Of(Design design)
    {
        var number = design.Plies.Select((p, i) => (p.Id, i)).ToDictionary(t => t.Id, t => t.i + 1);
        return new(new(design.Width.Mm, design.Height.Mm), new(design.Scale.PxPerInch, design.Scale.Reason),
            design.Pieces.AsParallel().AsOrdered().Select(p => new OnePiece(p.Id, p.Label, number.GetValueOrDefault(p.PlyId), p.Colour.Hex, p.AreaMm2,
                p.OnCard.Bounds, p.OnCard.ToSvg(), p.Why, p.Lines.Select(l => l.Id))),
            design.Lines.Select(l => new OneLine(l.Id, l.Operation.Word(), l.Why, l.IsClosed, l.Path.Length.Mm, l.Path.ToSvg(), l.CarriedBy)),
            design.Artwork.Select(a => new OnePicture(a.Id, a.Bounds, a.CarriedBy)),
            FindingList.Of(new(design, [])).Select(f => new OneFinding(f.Code, f.Severity, f.At, f.Text, f.Remedy?.Label)));
    }
}

/// <summary>Arguments that several commands share.</summary>
internal static class Arguments
{
    public static Argument<string> Design() =>
        new("DESIGN") { Description = "any file the application reads: SVG, DXF, PNG, JPEG, WebP, a ZIP of these, or its own .falz.json" };

    public static Option<string> Machine() => new("--machine") { HelpName = "M", Description = "Kammer 30, Kammer 60 or Kammer 15", Required = true };

    public static Option<int> Copies() => new("--copies") { HelpName = "N", Description = "how many of the card (1)", DefaultValueFactory = _ => 1 };
}
