using System.Text.Json;

namespace Falzkunst.StandIns;

/// <summary>
/// The mat of a machine with a printed sheet on it, and the reader that sees it through a small window as it travels. A printer stands beside it:
/// {"do":"print","pdf":"base64","page":1,"name":"one","seed":3,"set":"turn=1.5,smudges=4"} prints a page with that printer's errors and lays it on the mat;
/// {"do":"lay","name":"one","turn":180,"x":0,"y":0} lays one of the last twenty, otherwise or as it was, {"do":"take"} takes it away;
/// {"do":"glimpse","x":0,"y":0,"width":30,"height":30} gives what the
/// reader sees there (mm from the corner of the mat where the sheet's upper left corner belongs), {"do":"photograph"} all of the sheet in colour,
/// {"do":"scan"} a scan of it with the cuts that were made since it was laid, as fine dark lines where the tool really came down.
/// </summary>
public sealed class Mat(Cutter cutter)
{
    private const double Dpi = 300, PerMm = Dpi / 25.4, Around = 8;

    private readonly SemaphoreSlim _one = new(1);
    private PrintedPaper? _paper;
    private readonly Dictionary<string, Sheet> _stack = new(StringComparer.Ordinal);
    private Sheet? _printed;

    private sealed record Sheet(byte[] Pdf, int Page, int Seed, PrintErrors Errors);

    /// <summary>Whether a sheet was laid by what was done last.</summary>
    public bool WasLaid { get; private set; }

    /// <summary>How many strokes the machine had made when the sheet was laid.</summary>
    public int LaidAt { get; set; }

    /// <summary>Does what is asked; null where that is nothing for the mat.</summary>
    /// <exception cref="InvalidDataException">It can't be done; the message says why.</exception>
    public async Task<object?> Act(JsonElement request, CancellationToken cancel)
    {
        await _one.WaitAsync(cancel);
        try
        {
            WasLaid = false;
            double Number(string name) => request.TryGetProperty(name, out var v) ? v.GetDouble() : 0;
            switch (request.GetProperty("do").GetString())
            {
                case "print":
                    var seed = request.TryGetProperty("seed", out var s) ? s.GetInt32() : 0;
                    var errors = PrintErrors.Usual(seed) with { Margin = Around };
                    if (request.TryGetProperty("set", out var set)) errors = errors.With(set.GetString()!.Split(',', StringSplitOptions.RemoveEmptyEntries));
                    _printed = new(request.GetProperty("pdf").GetBytesFromBase64(), request.TryGetProperty("page", out var page) ? page.GetInt32() : 1, seed,
                        errors);
                    if (request.TryGetProperty("name", out var name))
                    {
                        if (_stack.Count >= 20) _stack.Remove(_stack.Keys.First());
                        _stack[name.GetString()!] = _printed;
                    }

                    return await Lay(cancel);
                case "lay":
                    if (request.TryGetProperty("name", out var wanted))
                    {
                        if (!_stack.TryGetValue(wanted.GetString()!, out var known)) throw new InvalidDataException("no printed sheet of that name");
                        if (_printed == known && _paper is not null) return new { laid = true };
                        _printed = known;
                    }

                    if (_printed is null) throw new InvalidDataException("no printed sheet");
                    if (request.TryGetProperty("turn", out _) || request.TryGetProperty("x", out _) || request.TryGetProperty("y", out _))
                        _printed = _printed with { Errors = _printed.Errors with { LaidTurn = Number("turn"), LaidX = Number("x"), LaidY = Number("y") } };
                    return await Lay(cancel);
                case "take":
                    _paper = null;
                    return new { taken = true };
                case "glimpse":
                    return Seen(Number("x"), Number("y"), Number("width"), Number("height"), true);
                case "photograph":
                    return Seen(-Around, -Around, 1e4, 1e4, false);
                case "scan":
                    return Scanned();
                default:
                    return null;
            }
        }
        finally
        {
            _one.Release();
        }
    }

    private async Task<object> Lay(CancellationToken cancel)
    {
        var (pdf, page, seed, errors) = _printed!;
        _paper = await Printer.Print(pdf, page, errors, seed, Dpi, true, cancel);
        WasLaid = true;
        return new { widthMm = _paper.Page.Width, heightMm = _paper.Page.Height };
    }

    private object Scanned()
    {
        if (_paper is not { } paper) throw new InvalidDataException("no printed sheet on the mat");
        var picture = paper.Picture.Grey();
        picture = picture with { Data = [.. picture.Data] };
        var (right, down) = cutter.Settings.ToolOff;
        foreach (var stroke in cutter.Record(LaidAt))
            for (var i = 0; i + 3 < stroke.Units.Length; i += 2)
            {
                var (a, b) = (At(stroke, i), At(stroke, i + 2));
                picture.Line(a.X * PerMm, a.Y * PerMm, b.X * PerMm, b.Y * PerMm, 0.13 * PerMm, 0.45);
            }

        return new { picture = picture.Png(), x = -Around, y = -Around, perMm = PerMm };

        (double X, double Y) At(CutterStroke stroke, int i) =>
            (stroke.Units[i] * 0.025 + right + Around, paper.Page.Height - stroke.Units[i + 1] * 0.025 + down + Around);
    }

    /// <summary>A part of what lies on the mat; of what lies beyond the picture there is nothing.</summary>
    private object Seen(double x, double y, double width, double height, bool grey)
    {
        if (_paper is not { } paper) throw new InvalidDataException("no printed sheet on the mat");
        int Px(double mm) => (int)Math.Round((mm + Around) * PerMm);
        int left = Math.Clamp(Px(x), 0, paper.Picture.Width), top = Math.Clamp(Px(y), 0, paper.Picture.Height);
        int right = Math.Clamp(Px(x + width), left, paper.Picture.Width), bottom = Math.Clamp(Px(y + height), top, paper.Picture.Height);
        if (right - left < 8 || bottom - top < 8) throw new InvalidDataException("nothing of a sheet there");
        var part = paper.Picture.Part(left, top, right - left, bottom - top);
        return new { picture = grey ? part.Grey().Png() : part.Jpeg(93), x = left / PerMm - Around, y = top / PerMm - Around, perMm = PerMm };
    }
}
