namespace Falzkunst.Core.Cards;

/// <summary>A side of an upright box.</summary>
public enum BoxSide
{
    Top,
    Right,
    Bottom,
    Left,
}

/// <summary>Where new things go, so that nobody has to push them there.</summary>
public static class Placing
{
    /// <summary>New words stay this far inside of what they are written on, unless a margin is typed.</summary>
    public static readonly Length Margin = Length.FromMm(8);

    private const double ClearMm = 4, StepMm = 1;

    /// <summary>
    /// The place that "front", or an empty name, means: the front panel of the lowest base, or on the inner face the panel that is read inside (the one behind
    /// the front); the largest piece where there is no base, and the page where there is none.
    /// </summary>
    public static string Usual(Design design, bool inner) =>
        design.Pieces.Where(p => !p.Folds.IsEmpty).OrderBy(p => design.PlyNumber(p.PlyId)).Select(p => UsualOn(p, inner)).FirstOrDefault(t => t.Contains('#'))
            ?? design.Pieces.MaxBy(p => p.AreaMm2)?.Id ?? "page";

    /// <summary>The place that "front" means on one piece: that panel of a base, or all of what has none.</summary>
    public static string UsualOn(Piece piece, bool inner)
    {
        var at = piece.Folds.IsEmpty ? -1 : Panels.Of(piece).Select(p => p.Name).ToList().IndexOf(inner ? "back" : "front");
        return at >= 0 ? $"{piece.Id}#{at}" : piece.Id;
    }

    /// <summary>The middle of a box, or as near above or below it as a thing of a size lies clear of windows and of what is written; the middle where nothing
    /// is clear.</summary>
    /// <param name="inner">Whether it is on the inner face, where only windows are in the way.</param>
    public static Point Clear(Design design, Box on, double width, double height, bool inner)
    {
        var taken = design.Pieces.Where(p => p.OnCard.Bounds.Touches(on)).SelectMany(p => p.OnCard.Parts().Where((_, k) => !p.IsOuter(k)).Select(r => r.Bounds))
            .Concat(design.Lines.Where(l => l.Line.Words is not null && (l.Line.Face == Face.Inner) == inner).Select(l => l.Path.Bounds))
            .Select(b => b.Grown(ClearMm)).ToList();
        var most = (on.Height - height) / 2 - ClearMm;
        for (var off = 0.0; off <= most; off += StepMm)
        {
            // Below before above: words stand under a picture.
            foreach (var y in new[] { on.Centre.Y + off, on.Centre.Y - off })
            {
                var box = new Box(on.Centre.X - width / 2, y - height / 2, on.Centre.X + width / 2, y + height / 2);
                if (!taken.Exists(box.Touches)) return box.Centre;
            }
        }

        return on.Centre;
    }

    /// <summary>Where a side of a box lies: across for those left and right, down for the others.</summary>
    public static double At(Box box, BoxSide side) => side switch
    {
        BoxSide.Top => box.Top,
        BoxSide.Right => box.Right,
        BoxSide.Bottom => box.Bottom,
        _ => box.Left,
    };

    /// <summary>One millimetre out of a box through a side.</summary>
    public static Point Outwards(BoxSide side) => side switch
    {
        BoxSide.Top => new(0, -1),
        BoxSide.Right => new(1, 0),
        BoxSide.Bottom => new(0, 1),
        _ => new(-1, 0),
    };

    /// <summary>Where a shape lies that is made from its upper left corner, in the middle of a box.</summary>
    public static Place Middle(Box on, double width, double height) => Place.Own.Moved(on.Centre - new Point(width / 2, height / 2));

    /// <summary>How a shape lies at an edge where nobody says: what is made to stand on edges outside of it, a hole (a notch) or what is joined across it, and
    /// all else inside.</summary>
    public static OverEdge Usually(Maker maker, string? becomes) => maker.StandsOnEdges ? OverEdge.Out
        : becomes is "hole" or "joined" ? OverEdge.Across : OverEdge.In;

    /// <summary>Shapes in a row along a side of a box, with equal gaps.</summary>
    /// <param name="sizes">Of each, before it is turned.</param>
    /// <param name="turns">Whether they are turned so that their tops point outwards; otherwise they stay upright.</param>
    public static ImmutableArray<Place> Along(Box on, BoxSide side, IReadOnlyList<(double Width, double Height)> sizes, OverEdge over, bool turns)
    {
        var (from, along, turn) = side switch
        {
            BoxSide.Top => (new Point(on.Left, on.Top), new Point(1, 0), 0),
            BoxSide.Right => (new(on.Right, on.Top), new(0, 1), 90),
            BoxSide.Bottom => (new(on.Right, on.Bottom), new(-1, 0), 180),
            _ => (new(on.Left, on.Bottom), new Point(0, -1), 270),
        };
        var isLevel = side is BoxSide.Top or BoxSide.Bottom;
        var away = over switch { OverEdge.Out => 0.5, OverEdge.In => -0.5, _ => 0 };
        // How long each is along the side, and how far it reaches away from it.
        var reach = sizes.Select(s => turns || isLevel ? (Along: s.Width, Away: s.Height) : (Along: s.Height, Away: s.Width)).ToList();
        var gap = ((isLevel ? on.Width : on.Height) - reach.Sum(s => s.Along)) / (sizes.Count + 1);
        var (at, places) = (gap, ImmutableArray.CreateBuilder<Place>(sizes.Count));
        for (var i = 0; i < sizes.Count; i++)
        {
            var middle = from + along * (at + reach[i].Along / 2) + Outwards(side) * (reach[i].Away * away);
            var placed = turns ? Angle.FromDegrees(turn) : Angle.Zero;
            places.Add(new(placed, middle - Affine.Turn(placed).Apply(new(sizes[i].Width / 2, sizes[i].Height / 2)), false));
            at += reach[i].Along + gap;
        }

        return places.MoveToImmutable();
    }
}

/// <summary>How a shape lies at an edge.</summary>
public enum OverEdge
{
    /// <summary>Inside, touching it.</summary>
    In,

    /// <summary>Half over it.</summary>
    Across,

    /// <summary>Outside, its foot on it.</summary>
    Out,
}

/// <summary>Several edits that are one for whoever makes them: done in order, or not at all.</summary>
/// <param name="What">What they are together, for the history.</param>
public sealed record Series(ImmutableArray<Edit> Edits, string What) : Edit
{
    /// <summary>More are not done as one.</summary>
    public const int Most = 100;

    public override ImmutableArray<string> About => [.. Edits.SelectMany(e => e.About).Distinct(StringComparer.Ordinal)];

    public override string Describe(Design before) => What;

    public override string? Refusal(Design before)
    {
        if (Edits.Length is 0 or > Most) return $"That is 1 to {Most} things at once.";
        foreach (var edit in Edits)
        {
            if (edit.Refusal(before) is { } why) return why;
            before = edit.Apply(before);
        }

        return null;
    }

    public override Design Apply(Design design)
    {
        var now = design;
        foreach (var edit in Edits)
        {
            if (edit.Refusal(now) is not null) return design;
            now = edit.Apply(now);
        }

        return now;
    }

    public bool Equals(Series? o) => o is not null && What == o.What && Edits.Same(o.Edits);

    public override int GetHashCode() => HashCode.Combine(What, Edits.Length);
}
