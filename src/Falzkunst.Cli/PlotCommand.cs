using System.CommandLine;
using Falzkunst.Core.Cards;
using Falzkunst.Core.Layout;
using Falzkunst.Core.Measures;
using Falzkunst.Core.Printing;
using Falzkunst.Core.Runs;
using Falzkunst.Core.Writing;

namespace Falzkunst.Cli;

internal static class PlotCommand
{
    public static Command Make()
    {
        var design = Arguments.Design();
        var machine = Arguments.Machine();
        var copies = Arguments.Copies();
        var format = new Option<string>("--format") { HelpName = "hpgl|gcode|svg|dxf|pdf", Description = "the format of the files", Required = true };
        var folder = new Option<string>("--out") { HelpName = "DIR", Description = "the folder for the files", Required = true };
        var marks = new Option<string?>("--marks") { HelpName = "brackets|squares|dots", Description = "registration marks on every sheet (none)" };
        var inset = new Option<double?>("--inset") { HelpName = "I", Description = "with --marks: from the sheet's edges to the nearest ink of a mark (8)" };
        var bleed = new Option<double?>("--bleed") { HelpName = "MM", Description = "how far what is printed goes on beyond the cut (2)" };
        var seen = new Option<double?>("--under") { HelpName = "MM", Description = "what others cover is printed so far under them (all of it)" };
        var lines = new Option<bool>("--lines") { Description = "with pdf: the cut lines as hairlines too" };
        var steps = new Option<bool>("--steps")
        {
            Description = "for each step a file too, and a page that says what goes in when; with pdf the lines, not the print",
        };
        var command = new Command("plot", "Writes the production files: for each sheet, in HPGL and G-code also for each step; PDF is what is printed. "
            + "The same options give one layout in every format, so that the cut fits the print.")
        {
            design, machine, copies, format, folder, marks, inset, bleed, seen, lines, steps,
        };
        command.Answers(parsed =>
        {
            if (!Enum.TryParse<ProductionFormat>(parsed.GetValue(format), true,
                out var wanted)) throw new WrongInputException($"--format takes hpgl, gcode, svg, dxf or pdf, not \"{parsed.GetValue(format)}\".");
            var files = new List<OneFile>();
            foreach (var file in Wanted(parsed, wanted))
            {
                var path = Path.Combine(parsed.GetValue(folder)!, file.Name);
                CommandLine.WriteWhole(path, file.Bytes);
                files.Add(new(path, file.Sheet, wanted, file.Bytes.Length));
            }

            return new Answer(files);
        });
        return command;

        IReadOnlyList<ProductionFile> Wanted(ParseResult parsed, ProductionFormat wanted)
        {
            if (wanted == ProductionFormat.Pdf && !parsed.GetValue(steps)) return [Printed(parsed)];
            var (card, layout, cutter) = LaidOut(parsed);
            var plan = RunPlanner.Plan(card, layout, cutter);
            if (!parsed.GetValue(steps)) return [.. ProductionFiles.Write(plan, wanted)];
            List<ProductionFile> all = [.. ProductionFiles.WriteAll(plan, wanted)];
            var title = Path.GetFileName(parsed.GetValue(design)!).Split('.')[0];
            return [.. all, new("read-me-first.html", "text/html", 0, wanted, System.Text.Encoding.UTF8.GetBytes(ProductionFiles.Page(plan, title, all)))];
        }

        (Design Card, DocketLayout Layout, Machine Machine) LaidOut(ParseResult parsed) => PlanCommand.LaidOut(parsed.GetValue(design)!,
            parsed.GetValue(machine)!, parsed.GetValue(copies), Settings(parsed), parsed.GetValue(marks) is not null);

        // Null where no option says anything of it.
        PrintSettings? Settings(ParseResult parsed)
        {
            if (parsed.GetValue(marks) is null && new[] { inset, bleed, seen }.All(o => parsed.GetValue(o) is null)) return null;
            var print = new PrintSettings
            {
                Marks = parsed.GetValue(marks) is { } kind ? MarksCommand.Kind("--marks", kind) : null,
                Inset = parsed.GetValue(inset) is { } from ? Length.FromMm(from) : PrintSettings.UsualInset,
                Bleed = parsed.GetValue(bleed) is { } by ? Length.FromMm(by) : PrintSettings.UsualBleed,
                UnderOthers = parsed.GetValue(seen) is { } under ? Length.FromMm(under) : null,
            };
            return print.Fault() is { } fault ? throw new WrongInputException(fault) : print;
        }

        ProductionFile Printed(ParseResult parsed)
        {
            var (card, layout, _) = LaidOut(parsed);
            var sheets = PrintFile.Sheets(card, layout, Path.GetFileName(parsed.GetValue(design)!).Split('.')[0]);
            return new("print.pdf", "application/pdf", 0, ProductionFormat.Pdf, PrintFile.Pdf(sheets, parsed.GetValue(lines)));
        }
    }

    private sealed record Answer(List<OneFile> Files);

    private sealed record OneFile(string Path, int Sheet, ProductionFormat Format, int Bytes);
}
