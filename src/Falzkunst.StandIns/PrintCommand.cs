using System.Globalization;
using System.Text.Json;

namespace Falzkunst.StandIns;

/// <summary>
/// The printer and the camera from a shell: <c>print SHEETS.pdf --out PAPER.png [--page 1] [--seed N] [--dpi 300] [--colour 1] [--set turn=1.5,noise=4]</c>,
/// and <c>photograph</c> with the same and <c>--tilt</c>, <c>--towards</c>, <c>--blur</c>. Without a seed it is a printer without errors. The answer is one
/// JSON object with where nine places of the page came to lie, in mm of the picture (of a photograph: in pixels).
/// </summary>
internal static class PrintCommand
{
    public static async Task<int> Run(string verb, string file, Dictionary<string, string> options)
    {
        try
        {
            int Whole(string name, int otherwise) => options.TryGetValue(name, out var t) ? int.Parse(t, CultureInfo.InvariantCulture) : otherwise;
            var hasSeed = options.ContainsKey("--seed");
            var seed = Whole("--seed", 0);
            var errors = (hasSeed ? PrintErrors.Of(seed) : new()).With(options.GetValueOrDefault("--set", "").Split(',',
                StringSplitOptions.RemoveEmptyEntries));
            if (verb == "photograph" && !options.GetValueOrDefault("--set", "").Contains("margin", StringComparison.Ordinal)) errors = errors with
            {
                Margin = 0
            };
            var sheet = await Printer.Print(await File.ReadAllBytesAsync(file), Whole("--page", 1), errors, seed, Whole("--dpi", 300), Whole("--colour",
                0) == 1);
            var map = Array.Empty<double>();
            var picture = Array.Empty<byte>();
            if (verb == "print")
            {
                picture = sheet.Picture.Png();
            }
            else
            {
                var shot = Shot.Of(seed, sheet.Page);
                double Number(string name, double otherwise) =>
                    options.TryGetValue(name, out var t) ? double.Parse(t, CultureInfo.InvariantCulture) : otherwise;
                (picture, map) = Camera.Photograph(sheet, shot with
                {
                    Tilt = Number("--tilt", shot.Tilt),
                    Towards = Number("--towards", shot.Towards),
                    Blur = Number("--blur", shot.Blur),
                }, seed);
            }

            var path = options.GetValueOrDefault("--out", verb == "print" ? "paper.png" : "photograph.jpg");
            await File.WriteAllBytesAsync(path + ".part", picture);
            File.Move(path + ".part", path, true);
            var places = from y in (double[])[0, 0.5, 1] from x in (double[])[0, 0.5, 1] select (X: x * sheet.Page.Width, Y: y * sheet.Page.Height);
            Console.WriteLine(JsonSerializer.Serialize(new
            {
                page = new[] { sheet.Page.Width, sheet.Page.Height },
                truth = places.Select(p => (double[])[p.X, p.Y, .. At(p)]),
                errors,
            }, JsonSerializerOptions.Web));
            return 0;

            double[] At((double X, double Y) p)
            {
                var (x, y) = sheet.Truth(p.X, p.Y);
                if (map.Length == 0) return [x, y];
                var w = map[6] * x + map[7] * y + 1;
                return [(map[0] * x + map[2] * y + map[4]) / w, (map[1] * x + map[3] * y + map[5]) / w];
            }
        }
        catch (Exception e) when (e is IOException or FormatException or InvalidDataException)
        {
            Console.Error.WriteLine($"printer stand-in: {e.Message}");
            return 2;
        }
    }
}
