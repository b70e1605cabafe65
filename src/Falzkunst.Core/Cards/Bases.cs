using System.Text.Json.Serialization;

namespace Falzkunst.Core.Cards;

/// <summary>How a card base is folded.</summary>
public enum BaseKind
{
    /// <summary>One panel, without a fold.</summary>
    Flat,

    /// <summary>The fold lies on top; the card stands like a tent.</summary>
    Tent,

    /// <summary>The fold stands at the left; the card opens like a book.</summary>
    SideFold,

    /// <summary>Two half doors meet in front.</summary>
    GateFold,

    /// <summary>Three panels, folded in on one another.</summary>
    TriFold,

    /// <summary>Panels in zigzag.</summary>
    Accordion,
}

/// <summary>A panel of a base before it is folded: its name, and its box with the outer face up.</summary>
public sealed record BasePanel(string Name, Box Box);

/// <summary>
/// A folded card base from numbers. Lies with its outer face up; folds stop short of the edge, so that the paper does not tear there.
/// </summary>
/// <param name="Width">Of the front, as it lies folded.</param>
/// <param name="Height">Of the front, as it lies folded.</param>
/// <param name="PanelCount">Of an accordion: 3 to 12.</param>
/// <param name="Corner">The radius of its four corners.</param>
/// <param name="Setback">How far folds stop short of the edge.</param>
public sealed record CardBase(BaseKind Kind, Length Width, Length Height, int PanelCount, Operation Folded, Length Corner, Length Setback)
{
    private const double LeastMm = 10, MostMm = 2000;

    /// <summary>A base whose numbers are the usual ones.</summary>
    public static CardBase Of(BaseKind kind, Length width, Length height) =>
        new(kind, width, height, 4, Operation.Score, Length.Zero, Folds.DefaultSetback);

    /// <summary>The base of a flat size: a tent card of 148 × 210 flat has a front of 148 × 105.</summary>
    public static CardBase Flat(BaseKind kind, Length width, Length height, int panels = 4)
    {
        var whole = Of(kind, width, height) with { PanelCount = panels };
        return whole with { Width = width * (1.0 / whole.Across.X), Height = height * (1.0 / whole.Across.Y) };
    }

    /// <summary>How many fronts lie side by side, and one above the other.</summary>
    private (int X, int Y) Across => Kind switch
    {
        BaseKind.Flat => (1, 1),
        BaseKind.Tent => (1, 2),
        BaseKind.TriFold => (3, 1),
        BaseKind.Accordion => (PanelCount, 1),
        _ => (2, 1),
    };

    /// <summary>What it is called in a sentence, with its size as it is used.</summary>
    internal string InWords => Kind == BaseKind.Flat ? $"flat base, {Width} × {Height}" : $"base, {Width} × {Height} folded";

    public Length FlatWidth => Width * Across.X;

    public Length FlatHeight => Height * Across.Y;

    /// <summary>The panels in reading order.</summary>
    public IReadOnlyList<BasePanel> Panels
    {
        get
        {
            double w = Width.Mm, h = Height.Mm;
            Box At(double x, double y, double width) => new(x, y, x + width, y + h);
            return Kind switch
            {
                BaseKind.Flat => [new("front", At(0, 0, w))],
                BaseKind.Tent => [new("back", At(0, 0, w)), new("front", At(0, h, w))],
                BaseKind.SideFold => [new("back", At(0, 0, w)), new("front", At(w, 0, w))],
                BaseKind.GateFold => [new("left door", At(0, 0, w / 2)), new("back", At(w / 2, 0, w)), new("right door", At(w * 1.5, 0, w / 2))],
                BaseKind.TriFold => [new("inner flap", At(0, 0, w)), new("back", At(w, 0, w)), new("front", At(2 * w, 0, w))],
                _ => [.. Enumerable.Range(0, PanelCount).Select(k =>
                    new BasePanel(k == PanelCount - 1 ? "front" : k == 0 ? "back" : $"panel {k + 1}", At(k * w, 0, w)))],
            };
        }
    }

    /// <summary>What is wrong with its numbers, as a part of a sentence; null where all is well.</summary>
    internal string? Fault() =>
        !Enum.IsDefined(Kind) ? "there is no such base"
        : !(Width.Mm is >= LeastMm and <= MostMm && Height.Mm is >= LeastMm and <= MostMm) ? "the front of a card is 10 mm to 2 m wide and high"
        : Kind == BaseKind.Accordion && PanelCount is < 3 or > 12 ? "an accordion has 3 to 12 panels"
        : Folded is not (Operation.Score or Operation.Perforate) ? "folds are scored or perforated"
        : !(Corner.Mm >= 0 && Corner.Mm <= Math.Min(Width.Mm, Height.Mm) / 4) ? "its corners are rounded by at most a quarter of the front"
        : !(Setback.Mm >= 0 && Setback.Mm <= Math.Min(Width.Mm, Height.Mm) / 4) ? "folds stop short of the edge by at most a quarter of the front"
        : null;

    /// <summary>Puts it on a design, with its upper left corner at a place.</summary>
    internal Design Put(Design design, Point at)
    {
        var panels = Panels;
        var numbers = ImmutableSortedDictionary<string, double>.Empty.Add("width", FlatWidth.Mm).Add("height", FlatHeight.Mm);
        if (Corner > Length.Zero) numbers = numbers.Add("corner", Corner.Mm);
        var (lines, folds) = (ImmutableArray.CreateBuilder<Line>(), ImmutableArray.CreateBuilder<Fold>());
        for (var k = 1; k < panels.Count; k++)
        {
            design = design.WithId("l", out var id);
            var box = panels[k].Box;
            var isLevel = Kind == BaseKind.Tent;
            var from = isLevel ? new Point(Setback.Mm, box.Top) : new(box.Left, Setback.Mm);
            var to = isLevel ? new Point(FlatWidth.Mm - Setback.Mm, box.Top) : new(box.Left, FlatHeight.Mm - Setback.Mm);
            lines.Add(new() { Id = id, Path = VectorPath.Polyline(from, to), Operation = Folded, Label = panels.Count == 2 ? "fold" : $"fold {k}" });
            // The outer face is up: what folds away from it is a mountain. So does the front, which is the last, or closing would cover it.
            folds.Add(new(id, Kind == BaseKind.Accordion && (panels.Count - 1 - k) % 2 == 1 ? FoldSide.Valley : FoldSide.Mountain));
        }

        return Fresh.Put(design, new Piece
        {
            Id = "",
            Label = Fresh.Label(design, "Base"),
            PlyId = "",
            Place = Place.Own.Moved(at),
            Shape = new Made("rectangle", numbers),
            Edges = [],
            Colour = Fresh.Paper,
            AllLines = lines.ToImmutable(),
            Folds = folds.ToImmutable(),
            Panels = [.. panels.Select(p => new Panel(p.Name, p.Box.Centre))],
        }, 0);
    }
}

/// <summary>Adds a card base, below all that is there.</summary>
/// <param name="At">Its upper left corner on the card.</param>
public sealed record AddBase(CardBase Base, Point At) : Edit
{
    public override string Describe(Design before) => $"Add a {Base.InWords}";

    public override string? Refusal(Design before) => Base.Fault() is { } fault ? $"It can't be made: {fault}." : Fresh.Fault(Place.Own.Moved(At));

    public override Design Apply(Design design) => Refusal(design) is not null ? design : Base.Put(design, At).WithPageOver(At.X + Base.FlatWidth.Mm,
        At.Y + Base.FlatHeight.Mm);
}

/// <summary>Begins a docket with a card base, or with an empty page. Changes nothing of a card that is there.</summary>
public sealed record Begin(CardBase? Base) : Edit
{
    // An A4 sheet on its side.
    private const double EmptyWidthMm = 297, EmptyHeightMm = 210;

    public override Design? First => Base is null ? Design.Blank(Length.FromMm(EmptyWidthMm), Length.FromMm(EmptyHeightMm))
        : Base.Fault() is null ? Base.Put(Design.Blank(Base.FlatWidth, Base.FlatHeight), default) : null;

    public override string Describe(Design before) => Base is null ? "Begin with an empty card" : $"Begin with a {Base.InWords}";

    public override Design Apply(Design design) => design;
}

/// <summary>Adds a straight fold from edge to edge of a piece, or of one of its panels, parallel to a side of its own box.</summary>
/// <param name="From">The edge that it is measured from: where the paper ends on that side with most of its straight edge, whatever stands out beyond; the
/// side of the box where no straight edge to speak of is there.</param>
/// <param name="Distance">From that edge; null folds in the middle.</param>
public sealed record AddFold(string PieceId, BoxSide From, Length? Distance, Operation Folded, FoldSide Side, Length Setback) : Edit
{
    // A straight edge that is shorter than this share of the side says nothing of where the paper ends.
    private const double LeastOfSide = 0.2;

    /// <summary>The panel that it is in, by its number in reading order from 0; null for all of the piece.</summary>
    [JsonIgnore(Condition = JsonIgnoreCondition.WhenWritingNull)]
    public int? Panel { get; init; }

    public override ImmutableArray<string> About => [PieceId];

    public override string Describe(Design before) => $"Fold {Names(before, [PieceId])}";

    public override string? Refusal(Design before) => before.Piece(PieceId) is not { } piece ? "The piece is gone."
        : Folded is not (Operation.Score or Operation.Perforate) ? "Folds are scored or perforated."
        : !Enum.IsDefined(From) || !Enum.IsDefined(Side) ? "That edge is not known."
        : Runs(piece).Count == 0 ? "No paper lies there that could be folded; nothing was added." : null;

    public override Design Apply(Design design)
    {
        if (Refusal(design) is not null) return design;
        foreach (var run in Runs(design.Piece(PieceId)!))
        {
            design = design.WithId("l", out var id);
            design = design.ChangePieces([PieceId], p => p with
            {
                AllLines = p.AllLines.Add(new() { Id = id, Path = run, Operation = Folded, Label = "fold" }),
                Folds = p.Folds.Add(new(id, Side)),
            });
        }

        return design;
    }

    /// <summary>The side of a piece's own box that shows towards a side of the card, however the piece is turned or mirrored.</summary>
    public static BoxSide OwnSide(Piece piece, BoxSide onCard)
    {
        var map = piece.Place.Map with { E = 0, F = 0 };
        return Enum.GetValues<BoxSide>().MaxBy(own => map.Apply(Placing.Outwards(own)).Dot(Placing.Outwards(onCard)));
    }

    /// <summary>The stretches of the fold, in the piece's coordinates: more than one where a window lies between. Each stops short of the edge.</summary>
    private List<VectorPath> Runs(Piece piece)
    {
        var panels = Panel is null ? [] : Panels.PathsOf(piece);
        if (Panel is { } n && (n < 0 || n >= panels.Count)) return [];
        var paper = Panel is { } k ? panels[k] : piece.Outline;
        var box = paper.Bounds;
        var isLevel = From is BoxSide.Top or BoxSide.Bottom;
        BoxSide opposite = (BoxSide)(((int)From + 2) % 4);
        double start = EdgeOf(paper, From), end = EdgeOf(paper, opposite), inwards = From is BoxSide.Top or BoxSide.Left ? 1 : -1;
        var whole = (end - start) * inwards;
        var off = Distance?.Mm ?? whole / 2;
        if (!(off > 0 && off < whole) || !(Setback.Mm >= 0)) return [];
        var at = start + off * inwards;
        var (a, b) = isLevel ? (new Point(box.Left - 1, at), new Point(box.Right + 1, at)) : (new(at, box.Top - 1), new Point(at, box.Bottom + 1));
        var along = (b - a) * (1 / a.DistanceTo(b));
        return [.. Folds.Inside(paper, a, b).Where(r => r.To - r.From > 2 * Setback.Mm + 1)
            .Select(r => VectorPath.Polyline(a + along * (r.From + Setback.Mm), a + along * (r.To - Setback.Mm)))];
    }

    /// <summary>Where paper ends on a side: across for the left and right, down for the others. Linear in the points of its outer edges.</summary>
    private static double EdgeOf(VectorPath paper, BoxSide side)
    {
        const double level = 0.01, nearby = 0.02;
        var isLevel = side is BoxSide.Top or BoxSide.Bottom;
        var outwards = Placing.Outwards(side);
        var lengths = new Dictionary<long, double>();
        foreach (var ring in paper.Outer.Rings)
        {
            for (var i = 0; i < ring.Count; i++)
            {
                Point a = ring[i], b = ring[(i + 1) % ring.Count], along = b - a;
                if (Math.Abs(isLevel ? along.Y : along.X) > level * along.Norm || along.Norm < nearby) continue;
                var middle = a + along * 0.5;
                if (paper.Encloses(middle + outwards * nearby) || !paper.Encloses(middle - outwards * nearby)) continue;
                var at = (long)Math.Round((isLevel ? middle.Y : middle.X) * 20);
                lengths[at] = lengths.GetValueOrDefault(at) + along.Norm;
            }
        }

        var box = paper.Bounds;
        var most = lengths.Count == 0 ? 0 : lengths.Values.Max();
        if (most < LeastOfSide * (isLevel ? box.Width : box.Height)) return Placing.At(box, side);
        // Of edges that are as long, the one farther out.
        var best = lengths.Where(l => l.Value > 0.99 * most).Select(l => l.Key / 20.0).ToList();
        return side is BoxSide.Top or BoxSide.Left ? best.Min() : best.Max();
    }
}

/// <summary>Lays a mat on each panel of a base, smaller by so much on each side, together on a ply of their own.</summary>
/// <param name="Less">On each side.</param>
public sealed record AddMats(string PieceId, Length Less) : Edit
{
    public override ImmutableArray<string> About => [PieceId];

    public override string Describe(Design before) => $"Mats on {Names(before, [PieceId])}, {Less} less on each side";

    public override string? Refusal(Design before) => before.Piece(PieceId) is not { } piece ? "The piece is gone."
        : !(Less.Mm is >= 0 and <= 1000) ? "A mat is smaller by 0 mm to 1 m."
        : Mats(piece).Count == 0 ? "Nothing would be left of them; nothing was added." : null;

    public override Design Apply(Design design)
    {
        if (Refusal(design) is not null || design.Piece(PieceId) is not { } piece) return design;
        return Fresh.Put(design, Mats(piece).ConvertAll(m => Mat(piece, m.Name, m.Area)), design.PlyNumber(piece.PlyId), "Mats");
    }

    private static Piece Mat(Piece piece, string name, VectorPath area)
    {
        // From its own corner, so that its numbers are those of a mat.
        var box = area.Bounds;
        var isBox = Math.Abs(area.SignedAreaMm2 - box.Area) < 1e-6;
        return new()
        {
            Id = "",
            PlyId = "",
            Label = name.Length > 0 ? $"{Capital(name)} mat" : "Mat",
            Place = piece.Place with { Shift = piece.Place.Map.Apply(new(box.Left, box.Top)) },
            Shape = isBox ? new Made("rectangle", ImmutableSortedDictionary<string, double>.Empty.Add("width", box.Width).Add("height", box.Height))
                : new Drawn(area.Transform(Affine.Move(-box.Left, -box.Top))),
            Edges = [],
            Colour = Fresh.Paper,
        };
    }

    private static string Capital(string name) => char.ToUpperInvariant(name[0]) + name[1..];

    private List<(string Name, VectorPath Area)> Mats(Piece piece)
    {
        var mats = new List<(string, VectorPath)>();
        foreach (var panel in Panels.Of(piece))
        {
            var box = panel.Bounds;
            // A panel of a base with round corners has them too.
            foreach (var part in Regions.Together.Overlap([piece.Outline.Outer, VectorPath.Rectangle(box.Left, box.Top, box.Width, box.Height)]).Take(1))
                mats.AddRange(Regions.Outsets.Of(part, -Less.Mm, Regions.CornerStyle.Sharp).Take(1).Select(m => (panel.Name, m)));
        }

        return mats;
    }
}
