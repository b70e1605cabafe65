using Falzkunst.Core.Cards;

namespace Falzkunst.Core.Runs;

/// <summary>Pieces of a foil that are at hand, of one size.</summary>
public sealed record Foil(string Name, SheetSize Size)
{
    /// <summary>The sizes of a foil; of all where no name is asked for.</summary>
    public static IReadOnlyList<SheetSize> Of(IEnumerable<Foil> all, string? name) =>
        [.. all.Where(f => string.IsNullOrEmpty(name) || f.Name == name).Select(f => f.Size)];
}

/// <summary>How much of the foil at hand the patches of a plan take.</summary>
/// <param name="Patches">How many patches there are.</param>
/// <param name="Pieces">How many pieces of foil they are cut from.</param>
/// <param name="Short">How many patches no piece is left for.</param>
/// <param name="TooLarge">How many are larger than any piece.</param>
public sealed record FoilNeed(int Patches, int Pieces, int Short, int TooLarge)
{
    /// <summary>A piece that was begun: how much of its height is free, and its rows.</summary>
    private sealed record Begun(double Width)
    {
        public double Free { get; set; }

        public List<(double High, double Free)> Rows { get; } = [];
    }

    /// <summary>
    /// Cuts the patches from pieces in rows, the highest first, as a guillotine does (Coffman, Garey, Johnson and Tarjan, Performance Bounds for Level-Oriented
    /// Two-Dimensional Packing Algorithms, 1980: first fit, decreasing height); each may lie either way. A new piece is the smallest that is large enough.
    /// </summary>
    /// <param name="foils">The sizes at hand, with how many there are of each.</param>
    public static FoilNeed Of(IEnumerable<Box> patches, IEnumerable<SheetSize> foils)
    {
        var left = foils.OrderBy(f => f.Width.Mm * f.Height.Mm).Select(f => (Wide: Math.Max(f.Width.Mm, f.Height.Mm),
            High: Math.Min(f.Width.Mm, f.Height.Mm), f.Count)).ToList();
        var begun = new List<Begun>();
        var (many, without, large) = (0, 0, 0);
        foreach (var (wide, high) in patches.Select(p => (Wide: Math.Max(p.Width, p.Height), High: Math.Min(p.Width, p.Height))).OrderByDescending(p => p.High))
        {
            many++;
            if (!left.Exists(f => Fits(f.Wide, wide) && Fits(f.High, high)))
            {
                large++;
                continue;
            }

            if (begun.Exists(b => Put(b, wide, high))) continue;
            var next = left.FindIndex(f => f.Count > 0 && Fits(f.Wide, wide) && Fits(f.High, high));
            if (next < 0)
            {
                without++;
                continue;
            }

            left[next] = left[next] with { Count = left[next].Count - 1 };
            begun.Add(new(left[next].Wide) { Free = left[next].High });
            Put(begun[^1], wide, high);
        }

        return new(many, begun.Count, without, large);
    }

    private static bool Fits(double room, double mm) => mm <= room + Tolerances.Same;

    private static bool Put(Begun piece, double wide, double high)
    {
        var row = piece.Rows.FindIndex(r => Fits(r.High, high) && Fits(r.Free, wide));
        if (row < 0)
        {
            if (!Fits(piece.Free, high) || !Fits(piece.Width, wide)) return false;
            piece.Free -= high;
            piece.Rows.Add((high, piece.Width));
            row = piece.Rows.Count - 1;
        }

        piece.Rows[row] = piece.Rows[row] with { Free = piece.Rows[row].Free - wide };
        return true;
    }
}
