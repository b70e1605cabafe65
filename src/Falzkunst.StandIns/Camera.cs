namespace Falzkunst.StandIns;

/// <summary>How a photograph is taken: held askew, near or far, in bad light.</summary>
/// <param name="Tilt">How far the camera looks past straight down, in degrees, and towards which side.</param>
/// <param name="Fill">How much of the picture's width or height the sheet takes, up to 1.</param>
/// <param name="Blur">The standard deviation of the blur, in pixels.</param>
public sealed record Shot(int Width, int Height, double Tilt, double Towards, double Turn, double Fill, double Blur, double Noise, int Quality)
{
    /// <summary>An ordinary photograph of a page, by its seed: tilted to 15°, turned to 6°.</summary>
    public static Shot Of(int seed, (double Width, double Height) page)
    {
        var random = new Random(seed ^ 0xca3e7a);
        var (longer, shorter) = (4032, 3024);
        var upright = page.Height >= page.Width;
        return new(upright ? shorter : longer, upright ? longer : shorter, random.NextDouble() * 15, random.NextDouble() * 360,
            (2 * random.NextDouble() - 1) * 6,
            0.72 + 0.16 * random.NextDouble(), 0.6 + 1.6 * random.NextDouble(), 1 + 4 * random.NextDouble(), 80 + random.Next(16));
    }
}

/// <summary>Photographs a printed sheet: a pinhole camera, blur, noise, and what JPEG leaves of it.</summary>
public static class Camera
{
    /// <summary>The photograph as JPEG, and the map from mm of the sheet's picture to pixels: a, b, c, d, e, f, g, h of x' = (a·x + c·y + e) / (g·x + h·y +
    /// 1).</summary>
    public static (byte[] Jpeg, double[] Map) Photograph(PrintedPaper sheet, Shot shot, int seed)
    {
        var map = MapOf(sheet, shot);
        var back = Inverse(map);
        var perMm = sheet.Dpi / 25.4;
        var photo = Pixels.Blank(shot.Width, shot.Height, sheet.Picture.Channels, 0);
        Parallel.For(0, shot.Height, row =>
        {
            for (var column = 0; column < shot.Width; column++)
            {
                var (x, y) = Through(back, column + 0.5, row + 0.5);
                var (u, v) = (x * perMm, y * perMm);
                var inside = u >= 0 && v >= 0 && u < sheet.Picture.Width && v < sheet.Picture.Height;
                for (var c = 0; c < photo.Channels; c++)
                    photo.Data[(row * shot.Width + column) * photo.Channels + c] = inside ? (byte)sheet.Picture.At(u, v, c) : (byte)sheet.Errors.MatLight;
            }
        });
        return (Blurred(photo, shot, seed).Jpeg(shot.Quality), map);
    }

    /// <summary>From the sheet's picture, in mm, to pixels of a camera that looks at its middle from so far that it fills as much as wanted.</summary>
    private static double[] MapOf(PrintedPaper sheet, Shot shot)
    {
        double w = sheet.Picture.Width / sheet.Dpi * 25.4, h = sheet.Picture.Height / sheet.Dpi * 25.4, tilt = shot.Tilt * Math.PI / 180,
            towards = shot.Towards * Math.PI / 180, turn = shot.Turn * Math.PI / 180;
        // As far off as a hand holds it, which the focal length makes up for.
        var distance = 1.6 * Math.Max(w, h);
        var perMm = shot.Fill * Math.Min(shot.Width / w, shot.Height / h);
        // The sheet is turned so that it tilts about its x axis, shortened across that by the cosine, and turned to where the camera holds it. What lies
        // farther off by k times its y is seen smaller by as much.
        var (s, c) = Math.SinCos(towards);
        var (st, ct) = Math.SinCos(turn - towards);
        double k = Math.Sin(tilt) / distance, shorter = Math.Cos(tilt);
        double[] r1 = [c, -s, s, c], r2 = [ct, -st, st, ct];
        double a = perMm * (r2[0] * r1[0] + r2[1] * shorter * r1[2]), cc = perMm * (r2[0] * r1[1] + r2[1] * shorter * r1[3]);
        double b = perMm * (r2[2] * r1[0] + r2[3] * shorter * r1[2]), d = perMm * (r2[2] * r1[1] + r2[3] * shorter * r1[3]);
        double g = k * r1[2], hh = k * r1[3], mx = shot.Width / 2.0, my = shot.Height / 2.0;
        // About the middle of the picture, then with the sheet's corner as origin.
        (a, cc, b, d) = (a + mx * g, cc + mx * hh, b + my * g, d + my * hh);
        double e = mx - a * w / 2 - cc * h / 2, f = my - b * w / 2 - d * h / 2, one = 1 - g * w / 2 - hh * h / 2;
        return [a / one, b / one, cc / one, d / one, e / one, f / one, g / one, hh / one];
    }

    private static (double X, double Y) Through(double[] m, double x, double y)
    {
        var w = m[6] * x + m[7] * y + 1;
        return ((m[0] * x + m[2] * y + m[4]) / w, (m[1] * x + m[3] * y + m[5]) / w);
    }

    /// <summary>The map back: the adjugate of the 3 × 3 matrix, divided so that its last number is 1.</summary>
    private static double[] Inverse(double[] m)
    {
        double a = m[0], b = m[1], c = m[2], d = m[3], e = m[4], f = m[5], g = m[6], h = m[7];
        double last = a * d - b * c;
        return
        [
            (d - f * h) / last, (f * g - b) / last, (e * h - c) / last, (a - e * g) / last, (c * f - d * e) / last, (b * e - a * f) / last,
            (b * h - d * g) / last, (c * g - a * h) / last,
        ];
    }

    private static Pixels Blurred(Pixels p, Shot shot, int seed)
    {
        var reach = (int)Math.Ceiling(2.5 * shot.Blur);
        var kernel = Enumerable.Range(-reach, 2 * reach + 1).Select(i => Math.Exp(-i * i / (2 * shot.Blur * shot.Blur))).ToArray();
        var sum = kernel.Sum();
        for (var i = 0; i < kernel.Length; i++) kernel[i] /= sum;
        var across = new float[p.Data.Length];
        var n = p.Channels;
        Parallel.For(0, p.Height, y =>
        {
            for (var x = 0; x < p.Width; x++)
            {
                for (var c = 0; c < n; c++)
                {
                    double v = 0;
                    for (var k = -reach; k <= reach; k++) v += kernel[k + reach] * p.Data[(y * p.Width + Math.Clamp(x + k, 0, p.Width - 1)) * n + c];
                    across[(y * p.Width + x) * n + c] = (float)v;
                }
            }
        });
        var to = new byte[p.Data.Length];
        Parallel.For(0, p.Height, y =>
        {
            var random = new Random(unchecked(seed * 83492791 ^ y * 19349663));
            for (var x = 0; x < p.Width; x++)
            {
                var noise = shot.Noise * (random.NextDouble() + random.NextDouble() + random.NextDouble() - 1.5) * 2;
                for (var c = 0; c < n; c++)
                {
                    double v = noise;
                    for (var k = -reach; k <= reach; k++) v += kernel[k + reach] * across[(Math.Clamp(y + k, 0, p.Height - 1) * p.Width + x) * n + c];
                    to[(y * p.Width + x) * n + c] = (byte)Math.Clamp(Math.Round(v), 0, 255);
                }
            }
        });
        return p with { Data = to };
    }
}
