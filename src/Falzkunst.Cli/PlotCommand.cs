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
        command.Answers(parsed =>
        {
            if (!Enum.TryParse<ProductionFormat>(parsed.GetValue(format), true,
                out var wanted)) throw new WrongInputException($"--format takes hpgl, svg, dxf or pdf, not \"{parsed.GetValue(format)}\".");
            var run = PlanCommand.Plan(parsed.GetValue(design)!, parsed.GetValue(machine)!, parsed.GetValue(copies));
            var files = new List<OneFile>();
            foreach (var file in ProductionFiles.Write(run, wanted))
            {
                var path = Path.Combine(parsed.GetValue(folder)!, file.Name);
                CommandLine.WriteWhole(path, file.Bytes);
                files.Add(new(path, file.Sheet, wanted, file.Bytes.Length));
            }

            return new Answer(files);
        });
        return command;
    }

    private sealed record Answer(List<OneFile> Files);

    private sealed record OneFile(string Path, int Sheet, ProductionFormat Format, int Bytes);
}
