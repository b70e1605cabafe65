using System.Collections.Immutable;
using System.CommandLine;
using Falzkunst.Core.Cards;
using Falzkunst.Core.Documents;
using Falzkunst.Core.Writing;

namespace Falzkunst.Cli;

/// <summary>Makes what the program draws by itself from numbers.</summary>
internal static class MakeCommand
{
    private static readonly ImmutableSortedDictionary<string, BaseKind> Kinds = ImmutableSortedDictionary.CreateRange<string, BaseKind>(
        [new("flat", BaseKind.Flat), new("tent", BaseKind.Tent), new("side", BaseKind.SideFold), new("gate", BaseKind.GateFold),
        new("trifold", BaseKind.TriFold),
        new("accordion", BaseKind.Accordion)]);

    public static Command Make()
    {
        var what = new Argument<string>("WHAT") { Description = "base" };
        var kind = new Option<string>("--kind") { HelpName = "K", Description = string.Join(", ", Kinds.Keys), DefaultValueFactory = _ => "side" };
        var format = new Option<string?>("--format") { HelpName = "NAME", Description = "the size of the front by name: A6, \"5 × 7 in\"" };
        var width = new Option<double?>("--width") { HelpName = "MM", Description = "of the front, as it lies folded" };
        var height = new Option<double?>("--height") { HelpName = "MM", Description = "of the front, as it lies folded" };
        var flat = new Option<bool>("--flat") { Description = "width, height and format are those of the base laid flat" };
        var panels = new Option<int>("--panels") { HelpName = "N", Description = "of an accordion (4)", DefaultValueFactory = _ => 4 };
        var folds = new Option<string>("--folds") { HelpName = "OP", Description = "score or perforate (score)", DefaultValueFactory = _ => "score" };
        var corner = new Option<double>("--corner") { HelpName = "MM", Description = "radius of the corners (0)" };
        var setback = new Option<double>("--setback")
        {
            HelpName = "MM",
            Description = "how far folds stop short of the edge (1.5)",
            DefaultValueFactory = _ => Folds.DefaultSetback.Mm,
        };
        var output = new Option<string?>("--out") { HelpName = "X.falz.json", Description = "write the design in our own format" };
        var svg = new Option<string?>("--svg") { HelpName = "OUT.svg", Description = "also draw it as SVG" };
        var command = new Command("make", "Makes a card base from numbers.")
            { what, kind, format, width, height, flat, panels, folds, corner, setback, output, svg };
        command.Answers(parsed =>
        {
            if (parsed.GetValue(what) is var asked && asked != "base")
                throw new WrongInputException($"There is nothing to make called \"{asked}\"; there is: base.");
            if (!Kinds.TryGetValue(parsed.GetValue(kind)!, out var of))
                throw new WrongInputException($"There is no base \"{parsed.GetValue(kind)}\"; there are {string.Join(", ", Kinds.Keys)}.");
            var known = parsed.GetValue(format) is not { } name ? null : CardFormats.Find(name)
                ?? throw new WrongInputException($"There is no format \"{name}\"; there are {string.Join(", ", CardFormats.All.Select(f => f.Name))}.");
            Length Side(Option<double?> option, Length? usual) => parsed.GetValue(option) is { } mm ? Length.FromMm(mm)
                : usual ?? throw new WrongInputException($"{option.Name} is missing: give both sides, or a --format.");
            var (w, h) = (Side(width, known?.Width), Side(height, known?.Height));
            if (!Core.Cards.Operations.TryRead(parsed.GetValue(folds)!, out var folded)) throw new WrongInputException("--folds is score or perforate.");
            var made = (parsed.GetValue(flat) ? CardBase.Flat(of, w, h, parsed.GetValue(panels)) : CardBase.Of(of, w, h)) with
            {
                PanelCount = parsed.GetValue(panels),
                Folded = folded,
                Corner = Length.FromMm(parsed.GetValue(corner)),
                Setback = Length.FromMm(parsed.GetValue(setback)),
            };
            var page = Design.Blank(made.FlatWidth, made.FlatHeight);
            var edit = new AddBase(made, new(0, 0));
            if (edit.Refusal(page) is { } why) throw new WrongInputException(why);
            var design = edit.Apply(page);
            if (parsed.GetValue(output) is { } path) CommandLine.WriteWhole(path, FalzFile.Write(design));
            if (parsed.GetValue(svg) is { } drawing) CommandLine.WriteWhole(drawing, System.Text.Encoding.UTF8.GetBytes(SvgFile.Write(design)));
            var read = ReadAnswer.Of(design);
            return new MakeAnswer(read.Size, read.Scale, read.Pieces, read.Lines, read.Artwork, read.Findings,
                made.Panels.Select(p => new MakeAnswer.OnePanel(p.Name, p.Box)),
                design.Lines.Select(l => new MakeAnswer.OneFold(l.Id, l.FoldSide.ToString().ToLowerInvariant(), l.Path.ToSvg())));
        });
        return command;
    }
}

/// <summary>As <see cref="ReadAnswer"/>, with the panels of a base and its folds.</summary>
internal sealed record MakeAnswer(ReadAnswer.PageSize Size, ReadAnswer.PageScale Scale, IEnumerable<ReadAnswer.OnePiece> Pieces,
    IEnumerable<ReadAnswer.OneLine> Lines, IEnumerable<ReadAnswer.OnePicture> Artwork, IEnumerable<ReadAnswer.OneFinding> Findings,
    IEnumerable<MakeAnswer.OnePanel> Panels, IEnumerable<MakeAnswer.OneFold> Folds)
{
    public sealed record OnePanel(string Name, Box Bounds);

    /// <param name="Fold">mountain or valley, seen from the outer face.</param>
    public sealed record OneFold(string Id, string Fold, string Path);
}
