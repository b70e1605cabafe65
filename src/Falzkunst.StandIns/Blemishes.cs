namespace Falzkunst.StandIns;

/// <summary>Smudges, a shiny stripe, and light that is not even.</summary>
internal sealed class Blemishes
{
    /// <summary>In mm.</summary>
    private const double Cell = 8;

    /// <summary>The square of how far a smudge reaches, in its own lengths.</summary>
    private const double Reach = 2.3;

    private readonly List<(double X, double Y, double A, double B, (double Sin, double Cos) Turn, double Dark, double Tone)> _smudges = [];

    /// <summary>For each cell of the page the smudges that may reach into it, in their order.</summary>
    private readonly List<int>[,] _near;
    private readonly PrintErrors _errors;
    private readonly (double Sin, double Cos) _shade;
    private readonly (double At, double Sin, double Cos, double Gain) _stripe;

    public Blemishes(PrintErrors errors, (double Width, double Height) page, int seed)
    {
        var random = new Random(seed ^ 0x5eed);
        _errors = errors;
        for (var i = 0; i < errors.Smudges; i++)
            _smudges.Add((random.NextDouble() * page.Width, random.NextDouble() * page.Height, errors.SmudgeSize * (0.2 + 0.8 * random.NextDouble()),
                errors.SmudgeSize * (0.2 + 0.8 * random.NextDouble()), Math.SinCos(random.NextDouble() * Math.PI), 0.2 + 0.6 * random.NextDouble(),
                    random.NextDouble() * 140));
        _near = new List<int>[(int)(page.Width / Cell) + 1, (int)(page.Height / Cell) + 1];
        for (var column = 0; column < _near.GetLength(0); column++)
        {
            for (var row = 0; row < _near.GetLength(1); row++)
            {
                var (middleX, middleY) = ((column + 0.5) * Cell, (row + 0.5) * Cell);
                _near[column, row] = [.. Enumerable.Range(0, _smudges.Count).Where(i => _smudges[i] is var s
                    && Math.Max(Math.Abs(s.X - middleX), Math.Abs(s.Y - middleY)) <= Cell / 2 + Math.Sqrt(Reach) * Math.Max(s.A, s.B))];
            }
        }

        _shade = Math.SinCos(errors.ShadeFrom * Math.PI / 180);
        var (at, along) = (random.NextDouble() * Math.Max(page.Width, page.Height), Math.SinCos(random.NextDouble() * Math.PI));
        _stripe = (at, along.Sin, along.Cos, 60 + 60 * random.NextDouble());
    }

    /// <summary>What the light does at a place, each coordinate from 0 to 1.</summary>
    public double Light(double x, double y)
    {
        var along = ((x - 0.5) * _shade.Cos + (y - 0.5) * _shade.Sin) / Math.Sqrt(0.5);
        return 1 - _errors.Shade * (0.5 + 0.5 * along) * (0.7 + 0.3 * x * (1 - y));
    }

    /// <summary>What becomes of a tone at a place of the sheet.</summary>
    public double On(double x, double y, double light)
    {
        foreach (var i in _near[(int)(x / Cell), (int)(y / Cell)])
        {
            var (sx, sy, a, b, turn, dark, tone) = _smudges[i];
            double dx = x - sx, dy = y - sy;
            if (dx * dx + dy * dy > Reach * Math.Max(a, b) * Math.Max(a, b)) continue;
            double u = (turn.Cos * dx + turn.Sin * dy) / a, v = (turn.Cos * dy - turn.Sin * dx) / b, r = u * u + v * v;
            if (r < 2) light += (tone - light) * dark * Math.Clamp(2 - r, 0, 1);
        }

        if (_errors.Stripe > 0)
        {
            var off = Math.Abs(x * _stripe.Cos + y * _stripe.Sin - _stripe.At) / (_errors.Stripe / 2);
            if (off < 1) light += _stripe.Gain * (1 - off * off);
        }

        return light;
    }
}
