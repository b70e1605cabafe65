using System.CommandLine;
using System.Text.Json;
using Falzkunst.Core.Cards;
using Falzkunst.Core.Documents;
using Falzkunst.Core.Findings;
using Falzkunst.Core.Writing;

namespace Falzkunst.Cli;

internal static class ReadCommand
{
    public static Command Make()
    {
        var design = Arguments.Design();
        var output = new Option<string?>("--out") { HelpName = "X.falz.json", Description = "also write the design in our own format" };
        var command = new Command("read", "Reads a file into pieces, lines and artwork.") { design, output };
        command.Answers((parsed, json) =>
        {
            var read = CommandLine.ReadDesign(parsed.GetValue(design)!);
            if (parsed.GetValue(output) is { } path) CommandLine.WriteWhole(path, FalzFile.Write(read));
            Write(json, read);
        });
        return command;
    }

    private static void Write(Utf8JsonWriter json, Design design)
    {
        json.WriteStartObject("size");
        json.WriteRounded("widthMm", design.Width.Mm);
        json.WriteRounded("heightMm", design.Height.Mm);
        json.WriteEndObject();
        json.WriteStartObject("scale");
        json.WriteRounded("pxPerInch", design.Scale.PxPerInch);
        json.WriteString("reason", design.Scale.Reason);
        json.WriteEndObject();
        var number = design.Plies.Select((p, i) => (p.Id, i)).ToDictionary(t => t.Id, t => t.i + 1);
        json.WriteStartArray("pieces");
        foreach (var p in design.Pieces)
        {
            json.WriteStartObject();
            json.WriteString("id", p.Id);
            json.WriteString("label", p.Label);
            json.WriteNumber("ply", number.GetValueOrDefault(p.PlyId));
            json.WriteString("colour", p.Colour.Hex);
            json.WriteRounded("areaMm2", p.AreaMm2);
            json.WriteBox("bounds", p.OnCard.Bounds);
            json.WriteString("outline", p.OnCard.ToSvg());
            json.WriteString("why", p.Why);
            json.WriteStartArray("carries");
            foreach (var l in p.Lines) json.WriteStringValue(l.Id);
            json.WriteEndArray();
            json.WriteEndObject();
        }

        json.WriteEndArray();
        json.WriteStartArray("lines");
        foreach (var l in design.Lines)
        {
            json.WriteStartObject();
            json.WriteString("id", l.Id);
            json.WriteString("operation", l.Operation.Word());
            json.WriteString("why", l.Why);
            json.WriteBoolean("closed", l.IsClosed);
            json.WriteRounded("lengthMm", l.Path.LengthMm);
            json.WriteString("path", l.Path.ToSvg());
            json.WriteString("carriedBy", l.CarriedBy);
            json.WriteEndObject();
        }

        json.WriteEndArray();
        json.WriteStartArray("artwork");
        foreach (var a in design.Artwork)
        {
            json.WriteStartObject();
            json.WriteString("id", a.Id);
            json.WriteBox("bounds", a.Bounds);
            json.WriteString("carriedBy", a.CarriedBy);
            json.WriteEndObject();
        }

        json.WriteEndArray();
        json.WriteStartArray("findings");
        foreach (var f in FindingList.Of(new(design, [])))
        {
            json.WriteStartObject();
            json.WriteString("code", f.Code);
            json.WriteString("severity", f.Severity.ToString().ToLowerInvariant());
            json.WritePoint("at", f.At);
            json.WriteString("text", f.Text);
            json.WriteString("remedy", f.Remedy?.Label);
            json.WriteEndObject();
        }

        json.WriteEndArray();
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
