using System.CommandLine;
using System.Diagnostics;
using System.Globalization;
using System.Text;
using System.Text.Json;
using Falzkunst.Core.Layout;
using Falzkunst.Core.Reading.Svg;

namespace Falzkunst.Cli;

internal static class NestCommand
{
    public static Command Make()
    {
        var request = new Argument<string>("REQUEST.json")
        {
            Description = "the gap, the sheets and the pieces: "
                + """{"gapMm":2,"sheets":[{"id":"s","widthMm":300,"heightMm":200,"marginMm":5,"count":9,"keepOut":[path]}]"""
                + ""","pieces":[{"id":"a","path":path,"count":3,"turns":"any|quarter|half|none","flip":false}]}; a path is SVG path data in mm, even-odd""",
        };
        var seconds = new Option<double>("--seconds")
        {
            HelpName = "S",
            Description = "how long to look for a better layout (10)",
            DefaultValueFactory = _ => 10,
        };
        var seed = new Option<int>("--seed") { HelpName = "N", Description = "the same seed gives the same layout (1)", DefaultValueFactory = _ => 1 };
        var output = new Option<string?>("--out") { HelpName = "LAYOUT.json", Description = "also write the result to a file" };
        var svg = new Option<string?>("--svg") { HelpName = "DIR", Description = "also draw each sheet as SVG" };
        var progress = new Option<bool>("--progress") { Description = "say on stderr how far it is" };
        var command = new Command("nest", "Places pieces on sheets: fewest sheets, then the smallest part of the last one.") { request, seconds, seed, output,
            svg, progress, };
        command.Answers((parsed, json) =>
        {
            var time = parsed.GetValue(seconds);
            if (!(time is > 0 and <= 86_400)) throw new WrongInputException("--seconds takes a number over 0, at most 86400.");
            var path = parsed.GetValue(request)!;
            var asked = CommandLine.Try(path, b => Parse(path, b)) with { Seed = parsed.GetValue(seed), Time = TimeSpan.FromSeconds(time) };
            var clock = Stopwatch.StartNew();
            var result = NestEngine.Run(asked, TimeProvider.System, parsed.GetValue(progress) ? new Say() : null);
            var spent = clock.Elapsed.TotalSeconds;
            Write(json, result, spent);
            if (parsed.GetValue(output) is { } file)
            {
                using var buffer = new MemoryStream();
                using (var copy = new Utf8JsonWriter(buffer))
                {
                    copy.WriteStartObject();
                    Write(copy, result, spent);
                    copy.WriteEndObject();
                }

                CommandLine.WriteWhole(file, buffer.ToArray());
            }

            if (parsed.GetValue(svg) is { } folder) Draw(folder, asked, result);
        });
        return command;
    }

    private sealed class Say : IProgress<NestProgress>
    {
        public void Report(NestProgress p) => Console.Error.WriteLine($"{p.Fraction:P0} {p.Text}");
    }

    private static NestRequest Parse(string name, byte[] bytes)
    {
        try
        {
            using var document = JsonDocument.Parse(bytes, new JsonDocumentOptions { MaxDepth = 16 });
            var root = document.RootElement;
            var gap = Number(root, "gapMm", 0);
            var sheets = root.GetProperty("sheets").EnumerateArray().Select(s => new NestSheet(
                Id(s), Positive(s, "widthMm"), Positive(s, "heightMm"), Number(s, "marginMm", 0), Count(s),
                s.TryGetProperty("keepOut", out var keep) ? [.. keep.EnumerateArray().Select(k => PathOf(k.GetString() ?? "", "a keep-out"))] : [])).ToArray();
            var pieces = root.GetProperty("pieces").EnumerateArray().Select(p => new NestPiece(
                Id(p), PathOf(p.GetProperty("path").GetString() ?? "", $"piece \"{Id(p)}\""), Count(p), TurnsOf(p), p.TryGetProperty("flip", out var f)
                    && f.GetBoolean())).ToArray();
            if (pieces.Select(p => p.Id).Distinct().Count() != pieces.Length) throw new WrongInputException($"{name}: two pieces have the same id.");
            if (sheets.Select(p => p.Id).Distinct().Count() != sheets.Length) throw new WrongInputException($"{name}: two sheets have the same id.");
            if (pieces.Sum(p => (long)p.Count) > 20_000) throw new WrongInputException($"{name}: more than 20,000 pieces can't be laid out at once.");
            return new(gap, [.. sheets], [.. pieces]);
        }
        catch (Exception e) when (e is JsonException or KeyNotFoundException or InvalidOperationException or FormatException)
        {
            throw new WrongInputException($"{name}: it is not a nest request ({e.Message.TrimEnd('.')}). See ./falzkunst help nest.");
        }

        string Id(JsonElement e) => e.GetProperty("id").GetString() ?? "";

        int Count(JsonElement e)
        {
            var n = e.TryGetProperty("count", out var c) ? c.GetInt32() : 1;
            return n is >= 0 and <= 100_000 ? n : throw new WrongInputException($"{name}: a count of {n} is not from 0 to 100000.");
        }

        double Number(JsonElement e, string key, double otherwise)
        {
            var v = e.TryGetProperty(key, out var n) ? n.GetDouble() : otherwise;
            return v is >= 0 and < 100_000 ? v : throw new WrongInputException($"{name}: {key} of {v.Text()} is not from 0 to 100000.");
        }

        double Positive(JsonElement e, string key)
        {
            var v = Number(e, key, 0);
            return v > 0 ? v : throw new WrongInputException($"{name}: {key} is missing or 0.");
        }

        Turns TurnsOf(JsonElement e) => e.TryGetProperty("turns", out var t)
            ? Enum.TryParse<Turns>(t.GetString(), true, out var turns) ? turns
            : throw new WrongInputException($"{name}: turns takes any, quarter, half or none.")
            : Turns.Any;

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

    private static void Write(Utf8JsonWriter json, NestResult result, double seconds)
    {
        json.WriteStartArray("placements");
        foreach (var p in result.Placements)
        {
            json.WriteStartObject();
            json.WriteString("piece", p.Piece);
            json.WriteNumber("copy", p.Copy);
            json.WriteNumber("sheet", p.Sheet);
            json.WriteString("sheetId", p.SheetId);
            json.WriteNumber("rotateDeg", p.RotateDeg);
            json.WriteBoolean("flipped", p.Flipped);
            json.WriteNumber("dxMm", p.DxMm);
            json.WriteNumber("dyMm", p.DyMm);
            json.WriteEndObject();
        }

        json.WriteEndArray();
        json.WriteStartArray("unplaced");
        foreach (var u in result.Unplaced)
        {
            json.WriteStartObject();
            json.WriteString("piece", u.Piece);
            json.WriteNumber("copy", u.Copy);
            json.WriteString("why", u.Why);
            json.WriteEndObject();
        }

        json.WriteEndArray();
        json.WriteNumber("sheetsUsed", result.SheetIds.Length);
        json.WriteRounded("utilisation", result.Utilisation);
        json.WriteNumber("seconds", Math.Round(seconds, 1));
    }

    private static void Draw(string folder, NestRequest request, NestResult result)
    {
        for (var i = 0; i < result.SheetIds.Length; i++)
        {
            var sheet = request.Sheets.First(s => s.Id == result.SheetIds[i]);
            var text = new StringBuilder();
            text.Append(CultureInfo.InvariantCulture,
                $"<svg xmlns=\"http://www.w3.org/2000/svg\" width=\"{sheet.WidthMm}mm\" height=\"{sheet.HeightMm}mm\" viewBox=\"0 0 {sheet.WidthMm} "
                + $"{sheet.HeightMm}\">\n<rect width=\"{sheet.WidthMm}\" height=\"{sheet.HeightMm}\" fill=\"#fbf8f2\"/>\n");
            foreach (var keep in sheet.KeepOut) text.Append(CultureInfo.InvariantCulture, $"<path fill=\"#c9c2b4\" d=\"{keep.ToSvg()}\"/>\n");
            foreach (var p in result.Placements.Where(p => p.Sheet == i))
                text.Append(CultureInfo.InvariantCulture,
                    $"<path fill=\"#7fa6ad\" fill-rule=\"evenodd\" stroke=\"#23262e\" stroke-width=\"0.2\" "
                    + $"d=\"{request.Pieces.First(q => q.Id == p.Piece).Path.Transform(p.ToSheet).ToSvg()}\"/>\n");
            CommandLine.WriteWhole(Path.Combine(folder, $"sheet-{i + 1}.svg"), Encoding.UTF8.GetBytes(text.Append("</svg>\n").ToString()));
        }
    }
}
