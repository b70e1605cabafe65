using System.CommandLine;
using Falzkunst.Core.Writing;

namespace Falzkunst.Cli;

internal static class PlotCommand
{
    public static Command Make()
    {
        var design = Arguments.Design();
        var machine = Arguments.Machine();
        var copies = Arguments.Copies();
        var format = new Option<string>("--format") { HelpName = "hpgl|svg|dxf|pdf", Description = "the format of the files", Required = true };
        var folder = new Option<string>("--out") { HelpName = "DIR", Description = "the folder for the files", Required = true };
        var command = new Command("plot", "Writes the production files: for each sheet, and in HPGL also for each step.") { design, machine, copies, format,
            folder, };
        command.Answers((parsed, json) =>
        {
            if (!Enum.TryParse<ProductionFormat>(parsed.GetValue(format), true,
                out var wanted)) throw new WrongInputException($"--format takes hpgl, svg, dxf or pdf, not \"{parsed.GetValue(format)}\".");
            var files = ProductionFiles.Write(PlanCommand.Plan(parsed.GetValue(design)!, parsed.GetValue(machine)!, parsed.GetValue(copies)), wanted).ToList();
            json.WriteStartArray("files");
            foreach (var file in files)
            {
                var path = Path.Combine(parsed.GetValue(folder)!, file.Name);
                CommandLine.WriteWhole(path, file.Bytes);
                json.WriteStartObject();
                json.WriteString("path", path);
                json.WriteNumber("sheet", file.Sheet);
                json.WriteString("format", wanted.ToString().ToLowerInvariant());
                json.WriteNumber("bytes", file.Bytes.Length);
                json.WriteEndObject();
            }

            json.WriteEndArray();
        });
        return command;
    }
}
