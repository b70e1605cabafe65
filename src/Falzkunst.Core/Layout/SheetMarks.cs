using System.Text.Json.Serialization;
using Falzkunst.Core.Cards;
using Falzkunst.Core.Regions;

namespace Falzkunst.Core.Layout;

/// <summary>A printed mark.</summary>
/// <param name="Id">Where it is: "upper-left".</param>
/// <param name="At">Its reference point on the sheet, in mm: the outer corner of a bracket's elbow, the middle of a square or dot.</param>
/// <param name="Ink">What is printed.</param>
/// <param name="KeepOut">What has to stay empty, so that the mark is found: a rectangle around it that reaches to the sheet's edges.</param>
public sealed record Mark(string Id, Point At, VectorPath Ink, VectorPath KeepOut);

/// <summary>The marks of a sheet, and what they leave of it. The sheet's origin is its upper left corner.</summary>
/// <param name="Inset">From the sheet's edges to the nearest ink of a mark, on both sides of its corner.</param>
public sealed record SheetMarks(MarkKind Kind, Length Width, Length Height, Length Inset)
{
    /// <summary>How long a bracket's arms are, how wide a square is, how wide a dot.</summary>
    public static Length Size(MarkKind kind) => Length.FromMm(kind switch { MarkKind.Brackets => 14, MarkKind.Squares => 6, _ => 5 });

    /// <summary>How wide the lines of brackets and of the open square are.</summary>
    public static Length Line { get; } = Length.FromMm(1);

    /// <summary>What stays empty around the ink of a mark.</summary>
    public static Length Clear { get; } = Length.FromMm(4);

    /// <summary>A border that most printers leave white.</summary>
    public static Length UsualPrinterBorder { get; } = Length.FromMm(4.2);

    /// <summary>A border that the printer leaves white.</summary>
    public Length PrinterBorder { get; init; } = UsualPrinterBorder;

    /// <summary>How near to the edges of a sheet a machine cuts.</summary>
    public Length CutBorder { get; init; } = Length.FromMm(3);

    /// <summary>What is wrong with them, as a sentence that says what to do; null where all is well.</summary>
    public string? Fault()
    {
        const double most = 2000, room = 20;
        var least = 2 * (Inset.Mm + Size(Kind).Mm + Clear.Mm) + room;
        return !(Width.Mm is > 0 and <= most && Height.Mm is > 0 and <= most) ? "A sheet is up to 2 m wide and high."
            : !(Inset.Mm >= PrinterBorder.Mm) ? $"Marks nearer to the edge than {PrinterBorder} are not printed; give an inset of that or more."
            : Math.Min(Width.Mm, Height.Mm) < least
                ? $"With an inset of {Inset}, marks need {Length.FromMm(least)} on each side; take a larger sheet or a smaller inset."
            : null;
    }

    /// <summary>The marks, in the order in which a reader goes to them.</summary>
    [JsonIgnore]
    public ImmutableArray<Mark> All => Kind switch
    {
        MarkKind.Brackets => [Bracket("upper-left", 1, 1), Bracket("upper-right", -1, 1), Bracket("lower-left", 1, -1)],
        MarkKind.Squares =>
        [
            Square("upper-left", 1, 1, true), Square("upper-right", -1, 1, false), Square("lower-left", 1, -1, false), Square("lower-right", -1, -1, false),
        ],
        _ =>
        [
            Dot("upper-left", 1, 1, 0), Dot("upper-left-second", 1, 1, 2), Dot("upper-right", -1, 1, 0), Dot("lower-left", 1, -1, 0),
            Dot("lower-right", -1, -1, 0),
        ],
    };

    /// <summary>Where the name of the sheet is printed: beside the first mark, in the printer's reach; nothing lies there.</summary>
    [JsonIgnore]
    public Box Label
    {
        get
        {
            const double most = 90, high = 3.2;
            var all = All;
            double left = all.Where(m => m.Id.StartsWith("upper-left", StringComparison.Ordinal)).Max(m => m.KeepOut.Bounds.Right),
                right = all.First(m => m.Id == "upper-right").KeepOut.Bounds.Left;
            return new(left, PrinterBorder.Mm, Math.Min(right, left + most), PrinterBorder.Mm + high);
        }
    }

    /// <summary>What pieces keep out of: the surroundings of the marks, and the name of the sheet with what lies before it.</summary>
    [JsonIgnore]
    public ImmutableArray<VectorPath> KeptFree =>
        [.. All.Select(m => m.KeepOut), VectorPath.Rectangle(Label.Left, 0, Label.Width, Label.Bottom)];

    /// <summary>What a printer reaches.</summary>
    [JsonIgnore]
    public VectorPath PrintArea => Within(PrinterBorder.Mm);

    /// <summary>What the machine may cut: what it reaches, without what marks keep empty.</summary>
    [JsonIgnore]
    public VectorPath CutArea => VectorPath.Joined(Together.TakeAway(Within(CutBorder.Mm), [.. All.Select(m => m.KeepOut)]));

    private VectorPath Within(double border) => VectorPath.Rectangle(border, border, Width.Mm - 2 * border, Height.Mm - 2 * border);

    /// <summary>A point so far in from a corner of the sheet.</summary>
    /// <param name="right">1 where the corner is on the left, and what is in from it lies to its right; otherwise -1.</param>
    private Point From(int right, int down, double x, double y) => new(right > 0 ? x : Width.Mm - x, down > 0 ? y : Height.Mm - y);

    private Mark Bracket(string id, int right, int down)
    {
        double inset = Inset.Mm, arm = Size(Kind).Mm, line = Line.Mm;
        Point P(double x, double y) => From(right, down, inset + x, inset + y);
        return Of(id, P(0, 0), VectorPath.Polygon(P(0, 0), P(arm, 0), P(arm, line), P(line, line), P(line, arm), P(0, arm)), right, down);
    }

    private Mark Square(string id, int right, int down, bool isOpen)
    {
        double size = Size(Kind).Mm, middle = Inset.Mm + size / 2;
        var at = From(right, down, middle, middle);
        var ink = Around(at, size);
        return Of(id, at, isOpen ? new([ink.Subpaths[0], Around(at, size - 2 * Line.Mm).Subpaths[0].Reverse()]) : ink, right, down);

        static VectorPath Around(Point c, double size) => VectorPath.Rectangle(c.X - size / 2, c.Y - size / 2, size, size);
    }

    private Mark Dot(string id, int right, int down, int along)
    {
        double radius = Size(Kind).Mm / 2, middle = Inset.Mm + radius;
        var at = From(right, down, middle + along * 2 * radius, middle);
        return Of(id, at, VectorPath.Disc(at, radius), right, down);
    }

    /// <summary>A mark with what it keeps empty: on to the sheet's edges, since what lies behind it there is seen by the reader too.</summary>
    private Mark Of(string id, Point at, VectorPath ink, int right, int down)
    {
        var box = ink.Bounds.Grown(Clear.Mm);
        double left = right > 0 ? 0 : box.Left, top = down > 0 ? 0 : box.Top, end = right > 0 ? box.Right : Width.Mm, low = down > 0 ? box.Bottom : Height.Mm;
        return new(id, at, ink.Upright, VectorPath.Rectangle(left, top, end - left, low - top));
    }
}
