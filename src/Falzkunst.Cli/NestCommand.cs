using System.CommandLine;
using System.Diagnostics;
using System.Globalization;
using System.Text;
using System.Text.Json.Serialization;
using Falzkunst.Core.Cards;
using Falzkunst.Core.Layout;

namespace Falzkunst.Cli;

internal static class NestCommand
{
    public static Command Make()
    {
        var request = new Argument<string>("REQUEST.json")
        {
            Description = "the gap, the sheets and the pieces: "
                + """{"gapMm":2,"sheets":[{"id":"s","widthMm":300,"heightMm":200,"marginMm":5,"count":9,"keepOut":[path]}]"""
                + ""","pieces":[{"id":"a","path":path,"count":3,"turns":"any|quarter|half|none","flip":false}]}; a path is SVG path data in mm, even-odd. """
                + """A sheet may have an "outline" (an off-cut: a path within its width and height, the margin is kept from it) and a "price" (1); """
                + "the cheapest sheets are taken, and then the fewest",
        };
        var seconds = new Option<double>("--seconds")
        {
            HelpName = "S",
            Description = "how long to look for a better layout (10)",
            DefaultValueFactory = _ => 10,
        };
        var seed = new Option<int>("--seed")
        {
            HelpName = "N",
            Description = "with the same seed and --rounds the layout is the same (1)",
            DefaultValueFactory = _ => 1,
        };
        var rounds = new Option<int?>("--rounds") { HelpName = "N", Description = "so many rounds of the search instead of all that the time allows" };
        var untilAllFit = new Option<bool>("--until-all-fit") { Description = "end as soon as every piece has a place" };
        var output = new Option<string?>("--out") { HelpName = "LAYOUT.json", Description = "also write the result to a file" };
        var svg = new Option<string?>("--svg") { HelpName = "DIR", Description = "also draw each sheet as SVG" };
        var equal = new Option<bool>("--equal-sheets")
        {
            Description = "lay out what is asked for many times as sheets that repeat, wherever that takes no sheet more",
        };
        var progress = new Option<bool>("--progress") { Description = "say on stderr how far it is" };
        var command = new Command("nest", "Places pieces on sheets: fewest sheets, then the smallest part of the last one.") { request, seconds, seed, rounds,
            untilAllFit, equal, output, svg, progress, };
        command.Answers(parsed =>
        {
            var time = parsed.GetValue(seconds);
            if (!(time is > 0 and <= 86_400)) throw new WrongInputException("--seconds takes a number over 0, at most 86400.");
            if (parsed.GetValue(rounds) is <= 0 or > 100_000) throw new WrongInputException("--rounds takes a number from 1 to 100000.");
            var path = parsed.GetValue(request)!;
            using var until = parsed.GetValue(rounds) is null ? new CancellationTokenSource(TimeSpan.FromSeconds(time)) : new();
            var asked = CommandLine.Try(path, b => Parse(path, b)) with
            {
                Seed = parsed.GetValue(seed),
                Effort = TimeSpan.FromSeconds(time),
                // The search goes on until the time is over; sheets that repeat are looked for with counted work, at most until then.
                Rounds = parsed.GetValue(rounds) ?? (parsed.GetValue(equal) ? null : int.MaxValue),
                Until = until.Token,
                StopsWhenAllFit = parsed.GetValue(untilAllFit),
            };
            var clock = Stopwatch.StartNew();
            var say = parsed.GetValue(progress) ? new Say() : null;
            var result = parsed.GetValue(equal) ? Repeats.Run(asked, say) : NestEngine.Run(asked, say);
            var answer = new Answer(
                result.Placements.Select(p => new Placed(p.Piece, p.Copy, p.Sheet, p.SheetId, p.Turn.Degrees, p.Flipped, p.Shift.X, p.Shift.Y)),
                result.Unplaced, result.SheetIds.Length, result.Utilisation, Math.Round(clock.Elapsed.TotalSeconds, 1));
            if (parsed.GetValue(output) is { } file) CommandLine.WriteWhole(file, AnswerJson.Write(answer));
            if (parsed.GetValue(svg) is { } folder) Draw(folder, asked, result);
            return answer;
        });
        return command;
    }

    private sealed record Answer(IEnumerable<Placed> Placements, IEnumerable<Unplaced> Unplaced, int SheetsUsed, double Utilisation, double Seconds);

    private sealed record Placed(string Piece, int Copy, int Sheet, string SheetId, double RotateDeg, bool Flipped, double DxMm, double DyMm);

    private sealed record Asked(OneSheet[] Sheets, OnePiece[] Pieces, double GapMm = 0);

    // Structs, so that a null among them is no piece; they are made by their constructor, for what it takes where nothing is said.
    [method: JsonConstructor]
    private readonly record struct OneSheet(string Id, double WidthMm, double HeightMm, double MarginMm = 0, int Count = 1, string[]? KeepOut = null,
        double Price = 1, string? Outline = null);

    [method: JsonConstructor]
    private readonly record struct OnePiece(string Id, string Path, int Count = 1, Turns Turns = Turns.Any, bool Flip = false);

    private sealed class Say : IProgress<NestProgress>
    {
        public void Report(NestProgress p) => CommandLine.Error.WriteLine($"{p.Fraction:P0} {p.Text}");
    }

    private static NestRequest Parse(string name, byte[] bytes)
    {
        var asked = AnswerJson.Read<Asked>(name, bytes, "nest request", "nest");
        if (asked.Pieces.DistinctBy(p => p.Id).Count() != asked.Pieces.Length) throw new WrongInputException($"{name}: two pieces have the same id.");
        if (asked.Sheets.DistinctBy(s => s.Id).Count() != asked.Sheets.Length) throw new WrongInputException($"{name}: two sheets have the same id.");
        if (asked.Pieces.Sum(p => (long)p.Count) > 20_000) throw new WrongInputException($"{name}: more than 20,000 pieces can't be laid out at once.");
        return new(Distance(asked.GapMm, "gapMm"),
            [.. asked.Sheets.Select(s => new NestSheet(s.Id, Side(s.WidthMm, "widthMm"), Side(s.HeightMm, "heightMm"), Distance(s.MarginMm, "marginMm"),
                Count(s.Count), [.. (s.KeepOut ?? []).Select(k => PathOf(k, "a keep-out"))])
            {
                Price = s.Price is >= 0 and < 1e6 ? s.Price : throw new WrongInputException($"{name}: a price of {s.Price.Text()} is not from 0 to a million."),
                Outline = s.Outline is null ? null : OutlineOf(s),
            })],
            [.. asked.Pieces.Select(p => new NestPiece(p.Id, PathOf(p.Path, $"piece \"{p.Id}\""), Count(p.Count), p.Turns, p.Flip))]);

        int Count(int n) => n is >= 0 and <= 100_000 ? n : throw new WrongInputException($"{name}: a count of {n} is not from 0 to 100000.");

        Length Distance(double mm, string key) => mm is >= 0 and < 100_000 ? Length.FromMm(mm)
            : throw new WrongInputException($"{name}: {key} of {mm.Text()} is not from 0 to 100000.");

        Length Side(double mm, string key) => mm == 0 ? throw new WrongInputException($"{name}: {key} is 0.") : Distance(mm, key);

        VectorPath OutlineOf(OneSheet s)
        {
            var path = PathOf(s.Outline!, $"the outline of sheet \"{s.Id}\"");
            var whole = new Box(0, 0, s.WidthMm, s.HeightMm).Grown(Tolerances.Flatten);
            return whole.Holds(path.Bounds) ? path
                : throw new WrongInputException($"{name}: the outline of sheet \"{s.Id}\" goes beyond its {s.WidthMm.Text()} × {s.HeightMm.Text()} mm.");
        }

        VectorPath PathOf(string text, string of)
        {
            var path = PathText.Read(text, out var complete);
            if (!complete) throw new WrongInputException($"{name}: the path of {of} has an error.");
            var box = path.Bounds;
            if (Core.Regions.Region.Of(path).AreaMm2 < 1e-6) throw new WrongInputException($"{name}: the path of {of} encloses nothing.");
            return Math.Max(Math.Max(-box.Left, -box.Top), Math.Max(box.Right, box.Bottom)) < 1e6 ? path
                : throw new WrongInputException($"{name}: {of} lies a kilometre away.");
        }
    }

    private static void Draw(string folder, NestRequest request, NestResult result)
    {
        for (var i = 0; i < result.SheetIds.Length; i++)
        {
            var sheet = request.Sheets.First(s => s.Id == result.SheetIds[i]);
            var text = new StringBuilder();
            text.Append(CultureInfo.InvariantCulture,
                $"<svg xmlns=\"http://www.w3.org/2000/svg\" width=\"{sheet.Width.Mm}mm\" height=\"{sheet.Height.Mm}mm\" viewBox=\"0 0 {sheet.Width.Mm} "
                + $"{sheet.Height.Mm}\">\n<rect width=\"{sheet.Width.Mm}\" height=\"{sheet.Height.Mm}\" fill=\"#fbf8f2\"/>\n");
            foreach (var keep in sheet.KeepOut) text.Append(CultureInfo.InvariantCulture, $"<path fill=\"#c9c2b4\" d=\"{keep.ToSvg()}\"/>\n");
            foreach (var p in result.Placements.Where(p => p.Sheet == i))
                text.Append(CultureInfo.InvariantCulture,
                    $"<path fill=\"#7fa6ad\" fill-rule=\"evenodd\" stroke=\"#23262e\" stroke-width=\"0.2\" "
                    + $"d=\"{request.Pieces.First(q => q.Id == p.Piece).Path.Transform(p.ToSheet).ToSvg()}\"/>\n");
            CommandLine.WriteWhole(Path.Combine(folder, $"sheet-{i + 1}.svg"), Encoding.UTF8.GetBytes(text.Append("</svg>\n").ToString()));
        }
    }
}
