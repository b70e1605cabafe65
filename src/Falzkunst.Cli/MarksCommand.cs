using System.CommandLine;
using System.Globalization;
using Falzkunst.Core.Measures;
using Falzkunst.Core.Cards;
using Falzkunst.Core.Layout;
using Falzkunst.Core.Printing;

namespace Falzkunst.Cli;

/// <summary><c>marks</c>: a sheet with registration marks and nothing else.</summary>
internal static class MarksCommand
{
    public static Command Make()
    {
        var (sheet, inset, kind) = Options();
        var pdf = new Option<string>("--pdf") { HelpName = "OUT.pdf", Description = "the sheet, in true size", Required = true };
        var command = new Command("marks", "A sheet with registration marks only: where they are, and what they leave of it.") { sheet, inset, kind, pdf };
        command.Answers(parsed =>
        {
            var marks = Read(parsed, sheet, inset, kind);
            CommandLine.WriteWhole(parsed.GetValue(pdf)!, PrintFile.MarksOnly(marks));
            return new Answer([.. marks.All.Select(m => new At(m.Id, m.At.X, m.At.Y))], [.. marks.All.Select(m => m.KeepOut.ToSvg())],
                marks.CutArea.ToSvg(), marks.PrintArea.ToSvg());
        });
        return command;
    }

    internal static (Option<string> Sheet, Option<double> Inset, Option<string> Kind) Options() =>
        (new("--sheet") { HelpName = "WxH", Description = "the sheet's width and height: 210x297", Required = true },
            new("--inset")
            {
                HelpName = "I",
                Description = "from the sheet's edges to the nearest ink of a mark, on both sides of its corner",
                Required = true,
            },
            new("--kind")
            {
                HelpName = "brackets|squares|dots",
                Description = "three brackets, four squares, or five dots (brackets)",
                DefaultValueFactory = _ => "brackets",
            });

    internal static SheetMarks Read(ParseResult parsed, Option<string> sheet, Option<double> inset, Option<string> kind)
    {
        var sides = parsed.GetValue(sheet)!.Split('x', 'X', '×');
        if (sides.Length != 2 || !double.TryParse(sides[0], NumberStyles.Float, CultureInfo.InvariantCulture, out var width)
            || !double.TryParse(sides[1], NumberStyles.Float, CultureInfo.InvariantCulture, out var height))
            throw new WrongInputException($"--sheet takes a width and a height in mm, as in 210x297, not \"{parsed.GetValue(sheet)}\".");
        var of = Kind("--kind", parsed.GetValue(kind)!);
        if (!double.IsFinite(width) || !double.IsFinite(height) || !double.IsFinite(parsed.GetValue(inset)))
            throw new WrongInputException("--sheet and --inset take numbers in mm.");
        var marks = new SheetMarks(of, Length.FromMm(width), Length.FromMm(height), Length.FromMm(parsed.GetValue(inset)));
        return marks.Fault() is { } fault ? throw new WrongInputException($"--sheet {parsed.GetValue(sheet)}: {char.ToLowerInvariant(fault[0])}{fault[1..]}")
            : marks;
    }

    internal static MarkKind Kind(string option, string text) =>
        MarkKinds.Find(text) ?? throw new WrongInputException($"{option} takes brackets, squares or dots, not \"{text}\".");

    internal sealed record At(string Id, double XMm, double YMm);

    private sealed record Answer(IReadOnlyList<At> Marks, IReadOnlyList<string> KeepOut, string CutArea, string PrintArea);
}
