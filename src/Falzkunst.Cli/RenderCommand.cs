using System.CommandLine;
using Falzkunst.Core.Writing;

namespace Falzkunst.Cli;

internal static class RenderCommand
{
    public static Command Make()
    {
        var design = Arguments.Design();
        var png = new Option<string>("--png") { HelpName = "OUT", Description = "the picture to write", Required = true };
        var dpi = new Option<double>("--dpi") { HelpName = "N", Description = "dots in an inch (96)", DefaultValueFactory = _ => 96 };
        var how = new Option<string>("--as")
        {
            HelpName = "artwork|outline|operations",
            Description = "as it looks in its file, as hairlines, or by operation (artwork)",
            DefaultValueFactory = _ => "artwork",
        };
        var command = new Command("render", "Draws the design as the application understood it, on a transparent ground, exactly its size.") { design, png,
            dpi, how, };
        command.Answers(parsed =>
        {
            if (!Enum.TryParse<DrawAs>(parsed.GetValue(how), true,
                out var drawAs)) throw new WrongInputException($"--as takes artwork, outline or operations, not \"{parsed.GetValue(how)}\".");
            var dots = parsed.GetValue(dpi);
            if (!(dots is > 0 and <= 10_000)) throw new WrongInputException("--dpi takes a number from 1 to 10000.");
            var read = CommandLine.ReadDesign(parsed.GetValue(design)!);
            try
            {
                var (bytes, width, height) = Paper.Render(read, dots, drawAs);
                CommandLine.WriteWhole(parsed.GetValue(png)!, bytes);
                return new Answer(width, height);
            }
            catch (ArgumentOutOfRangeException e)
            {
                throw new WrongInputException($"{parsed.GetValue(design)}: {e.Message.Split('(')[0].Trim()}");
            }
        });
        return command;
    }

    private sealed record Answer(int WidthPx, int HeightPx);
}
