using System.CommandLine;
using System.Text;
using Falzkunst.Core.Cards;
using Falzkunst.Core.Measures;
using Falzkunst.Core.Regions;
using Falzkunst.Core.Strength;
using Falzkunst.Core.Writing;

namespace Falzkunst.Cli;

/// <summary><c>check</c>: what is too thin or too close for a paper. <c>strengthen</c>: makes it strong enough.</summary>
internal static class StrengthCommands
{
    public static Command Check()
    {
        var design = Arguments.Design();
        var (width, gap) = Limits();
        var command = new Command("check", "Finds what is too thin, too tight or too small for a paper.") { design, width, gap };
        command.Answers(parsed => Answer.Of(CardInspection.Of(CommandLine.ReadDesign(parsed.GetValue(design)!), Always(Read(parsed, width, gap)))));
        return command;
    }

    public static Command Strengthen()
    {
        var design = Arguments.Design();
        var (width, gap) = Limits();
        var only = new Option<bool>("--only-thin") { Description = "thin places grow to the least width, all else stays (what is done where nothing is said)" };
        var all = new Option<double?>("--all-round") { HelpName = "D", Description = "every edge goes out by D, as far as gaps allow" };
        var holes = new Option<double?>("--holes") { HelpName = "D", Description = "the edges of holes go in by D, as far as gaps allow" };
        var apart = new Option<double?>("--apart") { HelpName = "D", Description = "parts may be moved apart by up to D first, so that all can grow" };
        var output = new Option<string>("--out") { HelpName = "OUT.svg", Description = "the design that comes of it", Required = true };
        var command = new Command("strengthen", "Thickens fine details, and keeps separate what was separate.")
        {
            design, width, gap, only, all, holes, apart, output,
        };
        command.Answers(parsed =>
        {
            var (by, narrow) = (parsed.GetValue(all), parsed.GetValue(holes));
            if ((parsed.GetValue(only) ? 1 : 0) + (by is null ? 0 : 1) + (narrow is null ? 0 : 1) > 1)
                throw new WrongInputException("--only-thin, --all-round and --holes are three ways: give one of them.");
            var amount = by ?? narrow ?? 0;
            if (!(amount is >= 0 and <= 20) || by is 0 || narrow is 0)
                throw new WrongInputException("--all-round and --holes take a number above 0, up to 20.");
            var moved = parsed.GetValue(apart) ?? 0;
            if (!(moved is >= 0 and <= 20)) throw new WrongInputException("--apart takes a number from 0 to 20.");
            var limits = Read(parsed, width, gap);
            var before = CommandLine.ReadDesign(parsed.GetValue(design)!);
            var way = by is not null ? StrengthenWay.AllRound : narrow is not null ? StrengthenWay.HolesOnly : StrengthenWay.OnlyThin;
            var how = new Strengthened(way, limits) { By = Length.FromMm(amount), Apart = Length.FromMm(moved) };
            var edit = new Core.Cards.Strengthen([.. before.Papers.Select(p => p.Id)], how);
            if (before.Papers.Any() && edit.Refusal(before) is { } why) throw new WrongInputException($"{parsed.GetValue(design)}: {why}");
            var after = edit.Make(before);
            CommandLine.WriteWhole(parsed.GetValue(output)!, Encoding.UTF8.GetBytes(SvgFile.Write(after)));
            CardInspection was = CardInspection.Of(before, Always(limits)), seen = CardInspection.Of(after, Always(limits));
            return new StrengthenAnswer(Answer.Of(was), Answer.Of(seen), was.Pieces.Sum(p => p.Seen.Parts), seen.Pieces.Sum(p => p.Seen.Parts),
                was.Pieces.Sum(p => p.Seen.Holes), seen.Pieces.Sum(p => p.Seen.Holes),
                seen.Pieces.Sum(p => p.Piece.AreaMm2) - was.Pieces.Sum(p => p.Piece.AreaMm2),
                was.Pieces.Zip(seen.Pieces).Select(p => Strengthening.FarthestMoved(p.First.Piece.Outline, p.Second.Piece.Outline)).DefaultIfEmpty(0).Max());
        });
        return command;
    }

    private static (Option<double>, Option<double>) Limits() =>
        (new("--min-width") { HelpName = "W", Description = "the narrowest that the paper bears, 0.05 to 20", Required = true },
            new("--min-gap") { HelpName = "G", Description = "the narrowest gap that can be cut, 0.02 to 20", Required = true });

    private static Func<Piece, Limits> Always(Limits limits) => _ => limits;

    private static Limits Read(ParseResult parsed, Option<double> width, Option<double> gap)
    {
        var limits = new Limits(Length.FromMm(parsed.GetValue(width)), Length.FromMm(parsed.GetValue(gap)));
        return limits.Fault() is { } fault ? throw new WrongInputException($"--min-width or --min-gap: t{fault.Split(';')[0][1..]}.") : limits;
    }

    private sealed record ThinAnswer(string Piece, double[] At, double WidthMm, double LengthMm);

    private sealed record TightAnswer(string[] Pieces, double[] At, double GapMm);

    private sealed record SpeckAnswer(string Piece, double[] At, double AreaMm2);

    /// <param name="MinWidthMm">Null where nothing is narrower than twice the limit.</param>
    private sealed record Answer(IEnumerable<ThinAnswer> Thin, IEnumerable<TightAnswer> Tight, IEnumerable<SpeckAnswer> Specks, double ThinAreaMm2,
        double? MinWidthMm)
    {
        public static Answer Of(CardInspection seen) => new(
            [.. seen.Thin.Select(t => new ThinAnswer(t.Of.Piece.Id, On(t.Of.OnCard(t.Place.At)), t.Place.Width.Mm, t.Place.Length.Mm))],
            [.. seen.Tight.Select(t => new TightAnswer([t.Of.Piece.Id], On(t.Of.OnCard(t.Place.At)), t.Place.Gap.Mm))
                .Concat(seen.Between.Select(b => new TightAnswer([b.Piece.Id, b.Other.Id], On(b.At), b.Gap.Mm))).OrderBy(t => t.GapMm)],
            [.. seen.Specks.Select(s => new SpeckAnswer(s.Of.Piece.Id, On(s.Of.OnCard(s.Speck.At)), s.Speck.AreaMm2))],
            seen.Pieces.Sum(p => p.Seen.ThinAreaMm2), seen.Pieces.Min(p => p.Seen.MinWidth?.Mm));

        private static double[] On(Point at) => [at.X, at.Y];
    }

    private sealed record StrengthenAnswer(Answer Before, Answer After, int PartsBefore, int PartsAfter, int HolesBefore, int HolesAfter, double AreaGainMm2,
        double MaxShiftMm);
}
