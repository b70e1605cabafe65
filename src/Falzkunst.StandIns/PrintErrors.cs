using System.Globalization;

namespace Falzkunst.StandIns;

/// <summary>How a printer, a sheet and the light on it are not as they should be. Lengths in mm, angles in degrees; everything can be set by its
/// name.</summary>
public sealed record PrintErrors
{
    /// <summary>How far the print lies from its place on the sheet.</summary>
    public double OffsetX { get; init; }

    public double OffsetY { get; init; }

    /// <summary>How far it is turned, clockwise, about the sheet's middle.</summary>
    public double Turn { get; init; }

    /// <summary>How much longer it is than planned, as a part: 0.01 is 1 %.</summary>
    public double StretchX { get; init; }

    public double StretchY { get; init; }

    /// <summary>How far what is upright leans.</summary>
    public double Skew { get; init; }

    /// <summary>How far the middle of a line across the sheet sinks.</summary>
    public double Bow { get; init; }

    /// <summary>How far ink runs beyond its edge.</summary>
    public double Spread { get; init; }

    /// <summary>The standard deviation of the noise, of 255.</summary>
    public double Noise { get; init; }

    /// <summary>How much darker the dark side of the light is, as a part, and where that side is.</summary>
    public double Shade { get; init; }

    public double ShadeFrom { get; init; }

    /// <summary>How many smudges there are, and how large they are at most.</summary>
    public double Smudges { get; init; }

    public double SmudgeSize { get; init; } = 6;

    /// <summary>How wide a shiny stripe across the sheet is; 0 for none.</summary>
    public double Stripe { get; init; }

    /// <summary>How far the sheet itself is turned, clockwise, where it lies, and how far from the corner; 180 is upside down.</summary>
    public double LaidTurn { get; init; }

    public double LaidX { get; init; }

    public double LaidY { get; init; }

    /// <summary>What is seen around the sheet on each side, and how light it is.</summary>
    public double Margin { get; init; }

    public double MatLight { get; init; } = 120;

    /// <summary>The errors of an ordinary paper, by its seed: offset to 4 mm, turn to 2°, stretch to 1 %, and what else papers and scanners do.</summary>
    public static PrintErrors Of(int seed)
    {
        var random = new Random(seed);
        double Some(double most) => (2 * random.NextDouble() - 1) * most;
        return new()
        {
            OffsetX = Some(2.8),
            OffsetY = Some(2.8),
            Turn = Some(2),
            StretchX = Some(0.01),
            StretchY = Some(0.01),
            Spread = random.NextDouble() * 0.06,
            Noise = random.NextDouble() * 9,
            Shade = random.NextDouble() * 0.35,
            ShadeFrom = random.NextDouble() * 360,
            Smudges = random.Next(0, 6),
            SmudgeSize = 2 + random.NextDouble() * 5,
            Stripe = random.Next(3) == 0 ? 4 + random.NextDouble() * 12 : 0,
            Margin = random.Next(2) == 0 ? 0 : random.NextDouble() * 12,
            MatLight = 40 + random.NextDouble() * 215,
        };
    }

    /// <summary>Those of a printer in good order and a hand that lays a sheet with care, by the seed of the sheet: a millimetre, a third of a degree. How it
    /// stretches is the printer's own, and the same for all sheets.</summary>
    public static PrintErrors Usual(int seed)
    {
        var random = new Random(seed * 7 + 1);
        double Some(double most) => (2 * random.NextDouble() - 1) * most;
        return new()
        {
            OffsetX = Some(1),
            OffsetY = Some(1),
            Turn = Some(0.3),
            StretchX = 0.0021,
            StretchY = -0.0013,
            Spread = 0.02,
            Noise = 2.5,
            Shade = 0.06,
            ShadeFrom = 30,
            LaidTurn = Some(0.4),
            LaidX = Some(0.6),
            LaidY = Some(0.6),
            MatLight = 150,
        };
    }

    /// <summary>The same, with one of them set.</summary>
    /// <returns>Null where there is none of that name.</returns>
    public PrintErrors? With(string name, double value)
    {
        var property = typeof(PrintErrors).GetProperty(name, System.Reflection.BindingFlags.IgnoreCase | System.Reflection.BindingFlags.Public
            | System.Reflection.BindingFlags.Instance);
        if (property is null || !double.IsFinite(value)) return null;
        var changed = this with { };
        property.SetValue(changed, value);
        return changed;
    }

    /// <summary>As settings: "turn=1.5".</summary>
    /// <exception cref="FormatException">One of them is not known, or no number.</exception>
    public PrintErrors With(IEnumerable<string> settings) => settings.Aggregate(this, (errors, setting) =>
        setting.Split('=') is [var name, var value] && double.TryParse(value, CultureInfo.InvariantCulture, out var number)
            ? errors.With(name, number) ?? throw new FormatException($"There is no error \"{name}\".")
            : throw new FormatException($"\"{setting}\" is not a name and a number, as in turn=1.5."));
}
