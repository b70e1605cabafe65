using System.Collections.Immutable;
using System.CommandLine;
using Falzkunst.Core.Cards;
using Falzkunst.Core.Layout;
using Falzkunst.Core.Runs;

namespace Falzkunst.Cli;

internal static class PlanCommand
{
    public static Command Make()
    {
        var design = Arguments.Design();
        var machine = Arguments.Machine();
        var copies = Arguments.Copies();
        var command = new Command("plan", "Lays the design out on the machine's mat, a stock for each colour, and plans the run step by step.") { design,
            machine, copies, };
        command.Answers(parsed =>
        {
            var run = Plan(parsed.GetValue(design)!, parsed.GetValue(machine)!, parsed.GetValue(copies));
            return new Answer(run.Sheets.Select(sheet => new OneSheet(sheet.StockName,
                sheet.Steps.Select(step => new OneStep(step.ToolName, step.Operation.Word(), step.Kind, step.Passes, step.Work.Mm, step.Travel.Mm,
                    step.Seconds, step.WaitSeconds, step.Stop?.Text)), sheet.Seconds)), run.Seconds, run.Warnings);
        });
        return command;
    }

    /// <param name="Warnings">What is not as it was set, or may come out worse than it could.</param>
    private sealed record Answer(IEnumerable<OneSheet> Sheets, double Seconds, IEnumerable<string> Warnings);

    private sealed record OneSheet(string Stock, IEnumerable<OneStep> Steps, double Seconds);

    /// <param name="WaitSeconds">Until the tool is hot, besides.</param>
    /// <param name="Stop">What a person does before it; null where nothing is to be done.</param>
    private sealed record OneStep(string Tool, string Operation, string Kind, int Passes, double CutMm, double TravelMm, double Seconds,
        double WaitSeconds, string? Stop);

    public static RunPlan Plan(string path, string machineName, int copies)
    {
        var (design, layout, machine) = LaidOut(path, machineName, copies, null, false);
        return RunPlanner.Plan(design, layout, machine);
    }

    /// <summary>Without a drawer at hand, each colour is a stock of sheets as large as the machine takes.</summary>
    /// <param name="print">How it is printed; null takes what the design says, and the usual without marks where something is printed on it.</param>
    /// <param name="marksOnAll">Whether also sheets on which nothing is printed have marks.</param>
    public static (Design Design, DocketLayout Layout, Machine Machine) LaidOut(string path, string machineName, int copies, PrintSettings? print,
        bool marksOnAll)
    {
        var machine = Machines.Find(machineName)
            ?? throw new WrongInputException($"There is no machine \"{machineName}\". There are {string.Join(", ", Machines.All.Select(m => m.Name))}.");
        if (copies is < 1 or > 1000) throw new WrongInputException("--copies takes a number from 1 to 1000.");
        var design = CommandLine.ReadDesign(path);
        if (design.Pieces.IsEmpty) throw new WrongInputException($"{path}: it has no closed outline, so there is no piece to cut.");
        design = design with { Print = print ?? design.Print ?? (design.Pieces.Any(p => p.IsPrinted) ? new() { Marks = null } : null) };
        var drawer = design.Pieces.Select(p => p.Colour).Distinct().Select(c => new Stock(
            c.Hex, ColourNames.Of(c), c, 200, Length.FromMm(0.25),
                [new SheetSize(machine.Width, machine.Height, 999, Length.FromMm(5))])).ToImmutableArray();
        var layout = SheetPlans.LayOut(design, drawer, LayoutSettings.For(copies) with { MarksOnAll = marksOnAll });
        if (!layout.Unplaced.IsEmpty)
            throw new WrongInputException($"{path}: “{design.Piece(layout.Unplaced[0].Piece)?.Label}” does not fit {machine.Name}: {layout.Unplaced[0].Why}.");
        return (design, layout, machine);
    }
}
