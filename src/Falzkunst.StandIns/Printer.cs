using System.Diagnostics;
using System.Globalization;

namespace Falzkunst.StandIns;

/// <summary>A printed sheet as it is seen, and where on it a place of the page came to lie (which nobody at a real machine knows).</summary>
/// <param name="Page">The size of the page, in mm.</param>
public sealed record PrintedPaper(Pixels Picture, double Dpi, (double Width, double Height) Page, PrintErrors Errors)
{
    /// <summary>From mm of the page to mm of the picture.</summary>
    public (double X, double Y) Truth(double x, double y)
    {
        var geometry = new PrintGeometry(Errors, Page);
        var (px, py) = geometry.Printed(x, y);
        return geometry.Laid(px, py);
    }
}

/// <summary>
/// The printer: takes a PDF, has it rendered by Debian's poppler, which knows nothing of us, and gives a picture of a paper with the errors that it is told
/// to make. The same PDF, seed and errors give the same picture.
/// </summary>
public static class Printer
{
    private const double MmPerInch = 25.4;

    /// <param name="dpi">Of the picture: 300 or 600.</param>
    /// <exception cref="InvalidDataException">The PDF can't be rendered; the message says why.</exception>
    public static async Task<PrintedPaper> Print(byte[] pdf, int page, PrintErrors errors, int seed, double dpi, bool colour, CancellationToken cancel =
        default)
    {
        // Rendered finer than it is seen: renderers move edges to their own pixels.
        var fine = dpi <= 300 ? 2 * dpi : dpi;
        var ink = Softened(Spread(await Render(pdf, page, fine, colour, cancel), errors.Spread * fine / MmPerInch));
        var size = (Width: ink.Width / fine * MmPerInch, Height: ink.Height / fine * MmPerInch);
        return new(Seen(ink, fine, size, errors, seed, dpi), dpi, size, errors);
    }

    /// <summary>A page as the renderer draws it.</summary>
    private static async Task<Pixels> Render(byte[] pdf, int page, double dpi, bool colour, CancellationToken cancel)
    {
        var number = page.ToString(CultureInfo.InvariantCulture);
        var start = new ProcessStartInfo("pdftoppm")
        {
            UseShellExecute = false,
            RedirectStandardInput = true,
            RedirectStandardOutput = true,
            RedirectStandardError = true
        };
        foreach (var a in (string[])["-r", dpi.ToString(CultureInfo.InvariantCulture), "-f", number, "-l", number, "-"]) start.ArgumentList.Add(a);
        if (!colour) start.ArgumentList.Insert(0, "-gray");
        using var process = Process.Start(start) ?? throw new InvalidDataException("The renderer pdftoppm does not start.");
        var errors = process.StandardError.ReadToEndAsync(cancel);
        var writing = Task.Run(async () =>
        {
            try
            {
                await process.StandardInput.BaseStream.WriteAsync(pdf, cancel);
                process.StandardInput.Close();
            }
            catch (IOException)
            {
                // It has read enough, or is gone; what it gave says which.
            }
        }, cancel);
        try
        {
            var pixels = Pixels.Pnm(process.StandardOutput.BaseStream);
            await writing;
            await process.WaitForExitAsync(cancel);
            return pixels;
        }
        catch (Exception e) when (e is FormatException or InvalidDataException or EndOfStreamException)
        {
            throw new InvalidDataException($"Page {page} of the PDF can't be rendered: {(await errors).Trim()}", e);
        }
    }

    /// <summary>Ink that runs: each pixel as dark as the darkest within a distance in pixels, which may be a fraction.</summary>
    private static Pixels Spread(Pixels p, double by)
    {
        if (by <= 0.01) return p;
        return Darkest(Darkest(p, by, p.Channels), by, p.Width * p.Channels);

        // Along rows, or along columns: neighbours are so many bytes apart.
        static Pixels Darkest(Pixels p, double by, int apart)
        {
            var near = (int)Math.Floor(by);
            var part = (int)(256 * (by - near));
            var to = new byte[p.Data.Length];
            Parallel.For(0, p.Height, y =>
            {
                int from = y * p.Width * p.Channels, end = from + p.Width * p.Channels;
                for (var i = from; i < end; i++)
                {
                    int less = p.Data[i];
                    for (var k = 1; k <= near; k++) less = Math.Min(less, Ends(i, k));
                    to[i] = (byte)(less + (Math.Min(less, Ends(i, near + 1)) - less) * part / 256);
                }
            });
            return p with { Data = to };

            int Ends(int i, int k)
            {
                int before = i - k * apart, after = i + k * apart;
                return Math.Min(before < 0 ? 255 : p.Data[before], after >= p.Data.Length ? 255 : p.Data[after]);
            }
        }
    }

    /// <summary>As a scanner's glass has it: each pixel the mean of itself and the eight around.</summary>
    private static Pixels Softened(Pixels p)
    {
        var to = new byte[p.Data.Length];
        int stride = p.Width * p.Channels, n = p.Channels;
        Parallel.For(0, p.Height, y =>
        {
            int here = y * stride, above = Math.Max(0, y - 1) * stride, below = Math.Min(p.Height - 1, y + 1) * stride;
            // The sums of the columns, with those at the ends once more beyond them.
            var sums = new int[stride + 2 * n];
            for (var i = 0; i < stride; i++) sums[n + i] = p.Data[above + i] + p.Data[here + i] + p.Data[below + i];
            sums.AsSpan(n, n).CopyTo(sums);
            sums.AsSpan(stride, n).CopyTo(sums.AsSpan(stride + n));
            var row = to.AsSpan(here, stride);
            for (var i = 0; i < row.Length; i++) row[i] = (byte)((sums[i] + sums[i + n] + sums[i + 2 * n] + 4) / 9);
        });
        return p with { Data = to };
    }

    private static Pixels Seen(Pixels ink, double fine, (double Width, double Height) page, PrintErrors errors, int seed, double dpi)
    {
        double perMm = dpi / MmPerInch, finePerMm = fine / MmPerInch;
        var picture = Pixels.Blank((int)Math.Round((page.Width + 2 * errors.Margin) * perMm), (int)Math.Round((page.Height + 2 * errors.Margin) * perMm),
            ink.Channels, 0);
        var marks = new Blemishes(errors, page, seed);
        var geometry = new PrintGeometry(errors, page);
        Parallel.For(0, picture.Height, row =>
        {
            // A generator for each row, so that rows can be made in any order.
            var random = new Random(unchecked(seed * 73856093 ^ row * 19349663));
            for (var column = 0; column < picture.Width; column++)
            {
                double mx = (column + 0.5) / perMm, my = (row + 0.5) / perMm;
                var (sx, sy) = geometry.Unlaid(mx, my);
                var onSheet = sx >= 0 && sy >= 0 && sx <= page.Width && sy <= page.Height;
                var (px, py) = geometry.Unprinted(sx, sy);
                var isPrinted = px >= 0 && py >= 0 && px <= page.Width && py <= page.Height;
                var gain = marks.Light(mx / (page.Width + 2 * errors.Margin), my / (page.Height + 2 * errors.Margin));
                var noise = errors.Noise > 0 ? errors.Noise * Gauss(random) : 0;
                for (var c = 0; c < picture.Channels; c++)
                {
                    double light = !onSheet ? errors.MatLight : !isPrinted ? 244 : 18 + 226 * ink.At(px * finePerMm, py * finePerMm, c) / 255;
                    if (onSheet) light = marks.On(sx, sy, light);
                    picture.Data[(row * picture.Width + column) * picture.Channels + c] = (byte)Math.Clamp(Math.Round(light * gain + noise), 0, 255);
                }
            }
        });
        return picture;
    }

    /// <summary>A number of the normal distribution (Box and Muller 1958).</summary>
    private static double Gauss(Random random) =>
        Math.Sqrt(-2 * Math.Log(1 - random.NextDouble())) * Math.Cos(2 * Math.PI * random.NextDouble());
}
