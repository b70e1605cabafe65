using System.CommandLine;
using System.Text.Json;
using Falzkunst.Core.Cards;
using Falzkunst.Core.Documents;
using Falzkunst.Core.Writing;

namespace Falzkunst.Cli;

/// <summary>The edits of the table for scripts: one after the other, each refused with the number of its step, and nothing written then.</summary>
internal static class EditCommand
{
    public static Command Make()
    {
        var design = Arguments.Design();
        var steps = new Option<string>("--do") { HelpName = "STEPS.json", Description = "the steps, a JSON list (see help)", Required = true };
        var output = new Option<string>("--out") { HelpName = "X.falz.json", Description = "the design that comes of it", Required = true };
        var svg = new Option<string?>("--svg") { HelpName = "OUT.svg", Description = "also draw it as SVG" };
        var command = new Command("edit", "Does edits, one after the other, exactly as the table does.") { design, steps, output, svg };
        command.Answers(parsed =>
        {
            var file = parsed.GetValue(steps)!;
            var (after, done) = Run(CommandLine.ReadDesign(parsed.GetValue(design)!), file, CommandLine.Try(file, bytes => bytes));
            CommandLine.WriteWhole(parsed.GetValue(output)!, FalzFile.Write(after));
            if (parsed.GetValue(svg) is { } path) CommandLine.WriteWhole(path, System.Text.Encoding.UTF8.GetBytes(SvgFile.Write(after)));
            return new EditAnswer(ReadAnswer.Of(after), done);
        });
        return command;
    }

    /// <summary>What a step did: "Join “Sky” and “Hut”", the pieces (behind them the lines) that it made or changed in kind, and the pieces that are
    /// gone.</summary>
    public sealed record Step(string Text, IReadOnlyList<string> Made, IReadOnlyList<string> Gone);

    private static (Design After, List<Step> Steps) Run(Design design, string file, byte[] bytes)
    {
        using var document = Parse(file, bytes);
        if (document.RootElement.ValueKind != JsonValueKind.Array) throw new WrongInputException($"{file}: it is not a list of steps.");
        var history = new List<Design> { design };
        var at = 0;
        var done = new List<Step>();
        foreach (var (element, number) in document.RootElement.EnumerateArray().Select((e, i) => (e, i)))
        {
            var before = history[at];
            var step = new StepReader(element, done, $"{file}: step {number}: ");
            var word = step.Text("do");
            if (word is "undo" or "redo")
            {
                at += word == "undo" ? -1 : 1;
                if (at < 0 || at >= history.Count) throw step.Wrong($"there is nothing to {word}");
                done.Add(new(word == "undo" ? "Undo" : "Redo", Changed(before, history[at], Reshaped), Gone(before, history[at])));
                continue;
            }

            var edit = step.Edit(word, before);
            if (edit.Refusal(before) is { } why) throw step.Wrong($"{char.ToLowerInvariant(why[0])}{why[1..].TrimEnd('.')}");
            var next = edit.Make(before);
            if (next == before) throw step.Wrong("it would change nothing");
            if (next.Check() is { } fault) throw step.Wrong($"nothing sound would come of it ({fault})");
            history.RemoveRange(at + 1, history.Count - at - 1);
            history.Add(next);
            at++;
            var made = Changed(before, next, edit is Combination ? (_, _) => true : Reshaped);
            if (edit is AddLine or AddBase or CloseLines) made.AddRange(next.Lines.Where(l => before.Line(l.Id)?.Line != l.Line).Select(l => l.Id));
            done.Add(new(edit.Describe(before), made, Gone(before, next)));
        }

        return (history[at], done);
    }

    private static bool Reshaped(Piece was, Piece piece) => was.Shape != piece.Shape || !was.Treatments.SequenceEqual(piece.Treatments);

    private static List<string> Changed(Design before, Design after, Func<Piece, Piece, bool> isMade) =>
        [.. after.Pieces.Where(p => before.Piece(p.Id) is not { } was || (was != p && isMade(was, p))).Select(p => p.Id)];

    private static List<string> Gone(Design before, Design after) => [.. before.Pieces.Where(p => after.Piece(p.Id) is null).Select(p => p.Id)];

    private static JsonDocument Parse(string file, byte[] bytes)
    {
        try
        {
            return JsonDocument.Parse(bytes, new() { MaxDepth = 8 });
        }
        catch (JsonException e)
        {
            throw new WrongInputException($"{file}: it is not a list of steps (line {(e.LineNumber ?? 0) + 1} can't be read). See ./falzkunst help edit.");
        }
    }
}

/// <summary>As <see cref="ReadAnswer"/>, and the steps.</summary>
internal sealed record EditAnswer(ReadAnswer.PageSize Size, ReadAnswer.PageScale Scale, IEnumerable<ReadAnswer.OnePiece> Pieces,
    IEnumerable<ReadAnswer.OneLine> Lines, IEnumerable<ReadAnswer.OnePicture> Artwork, IEnumerable<ReadAnswer.OneFinding> Findings,
    IReadOnlyList<EditCommand.Step> Steps)
{
    public EditAnswer(ReadAnswer read, IReadOnlyList<EditCommand.Step> steps)
        : this(read.Size, read.Scale, read.Pieces, read.Lines, read.Artwork, read.Findings, steps)
    {
    }
}
