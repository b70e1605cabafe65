using Falzkunst.Core.Cards;

namespace Falzkunst.Core.Reading.Recognition;

/// <summary>The last resort: everything starts as a cut.</summary>
internal sealed class IsALine : Fact
{
    public override void Weigh(Element e, Scene scene, Evidence evidence)
    {
        if (e.Kind == ElementKind.Stroke) evidence.Speak(Meaning.Slit, Weights.AnyLine, e.Thin is null ? "open; everything starts as a cut"
            : "closed, and too thin to be a piece");
    }
}

/// <summary>What its name, or its layer's, says.</summary>
internal sealed class IsNamed : Fact
{
    public override void Weigh(Element e, Scene scene, Evidence evidence)
    {
        if (e.Said is not { } said) return;
        // A filled shape is no fold whatever its group is called, and an outline in a layer of cuts is what it is among outlines.
        if (e.Kind == ElementKind.Filled ? e.Around is null || !CanBeFilled(said.Operation)
            : e.Kind == ElementKind.Ring && said.Operation == Operation.Cut) return;
        evidence.Speak(said.Operation.ToMeaning(), Weights.Named, OperationNames.Read(e.Item.Name) is not null ? $"it is called “{said.Word}”"
            : $"its layer is called “{said.Word}”");
    }

    /// <summary>Whether what is done along outlines may be shown by filling them.</summary>
    public static bool CanBeFilled(Operation operation) => operation is Operation.Foil or Operation.Draw or Operation.Deboss;
}

/// <summary>What the file's own legend says of its look.</summary>
internal sealed class IsInLegend : Fact
{
    public override void Weigh(Element e, Scene scene, Evidence evidence)
    {
        if (e.Kind == ElementKind.Filled || scene.Legend.Of(e.Item.Ink) is not { } said || (e.Kind == ElementKind.Ring
            && said.Operation == Operation.Cut)) return;
        // Everything is cut where nothing speaks against it, so that a legend says little by it.
        evidence.Speak(said.Operation.ToMeaning(), said.Operation == Operation.Cut ? Weights.CutInLegend : Weights.InLegend,
            $"the legend in the file says “{said.Word}” of this look");
    }
}

/// <summary>A line straight across its piece, from edge to edge, is a fold: cut, it would part the piece.</summary>
internal sealed class SpansItsPiece : Fact
{
    private const double EvenlyMm = 0.5;

    public override void Weigh(Element e, Scene scene, Evidence evidence)
    {
        if (e.Kind != ElementKind.Stroke || !e.IsStraight || scene.CarrierOf(e) is not { } carrier) return;
        if (Folds.SpanOf(e.Path, carrier.Outline) is not { } span) return;
        if (span.MostShort > Folds.Reaches)
        {
            if (!Folds.NearlySpans(span)) return;
            evidence.Speak(Meaning.Fold, Weights.NearlySpans, $"open, straight, and nearly reaches {EdgesOf(carrier)}");
            if ((span.MostShort - span.LeastShort).Mm <= EvenlyMm)
                evidence.Speak(Meaning.Fold, Weights.EvenlyShort, $"open, straight, and stops as far from both edges of {NameOf(carrier)}");
            return;
        }

        var edges = EdgesOf(carrier);
        evidence.Speak(Meaning.Fold, Weights.Spans, e.Thin is { } thin ? string.Create(CultureInfo.InvariantCulture,
            $"a rectangle only {thin.Width} wide that reaches {edges}")
            : e.MadeOf.Length > 0 ? e.MadeOf : $"open, straight, reaches {edges}");
    }

    private static string EdgesOf(Piece piece) => $"both edges of {NameOf(piece)}";

    private static string NameOf(Piece piece) => piece.Label.Length > 0 ? piece.Label : "its piece";
}

/// <summary>Lines on one straight line that together go from edge to edge are one fold with gaps.</summary>
internal sealed class SpansTogether : Fact
{
    private const double OffLineMm = 0.2, MostGaps = 0.35;

    public override void Weigh(Element e, Scene scene, Evidence evidence)
    {
        if (e.Kind != ElementKind.Stroke || !e.IsStraight || e.IsRow || scene.CarrierOf(e) is not { } carrier) return;
        var sub = e.Path.Subpaths[0];
        var length = sub.Start.DistanceTo(sub.End);
        var along = (sub.End - sub.Start) * (1 / length);
        var reach = carrier.Outline.Bounds.Width + carrier.Outline.Bounds.Height;
        var at = Folds.Inside(carrier.Outline, sub.Start - along * reach, sub.Start + along * reach)
            .FirstOrDefault(i => i.From <= reach + length / 2 && i.To >= reach + length / 2);
        if (at.To - at.From < 10) return;
        double from = at.From - reach, to = at.To - reach, first = 0, last = length, covered = length;
        foreach (var o in scene.StraightAt(carrier.Outline.Bounds).Distinct())
        {
            if (o == e || o.Look != e.Look || o.IsRow) continue;
            var line = o.Path.Subpaths[0];
            Point a = line.Start - sub.Start, b = line.End - sub.Start;
            if (Math.Abs(along.Cross(a)) > OffLineMm || Math.Abs(along.Cross(b)) > OffLineMm) continue;
            double p = Math.Min(along.Dot(a), along.Dot(b)), q = Math.Max(along.Dot(a), along.Dot(b));
            if (q < from - 1 || p > to + 1) continue;
            (first, last, covered) = (Math.Min(first, p), Math.Max(last, q), covered + q - p);
        }

        if (covered > length && first - from <= Folds.Reaches.Mm && to - last <= Folds.Reaches.Mm && covered >= (1 - MostGaps) * (to - from))
            evidence.Speak(Meaning.Fold, Weights.SpansTogether, "on one straight line with others, together from edge to edge");
    }
}

/// <summary>A fold of a step that pops up ends at the edge on one side, and in the middle of a slit of another look on the other.</summary>
internal sealed class EndsAtCuts : Fact
{
    private const double FromEndsMm = 2;

    public override void Weigh(Element e, Scene scene, Evidence evidence)
    {
        if (e.Kind != ElementKind.Stroke || !e.IsStraight || scene.CarrierOf(e) is not { } carrier) return;
        var sub = e.Path.Subpaths[0];
        if ((IsAtEdge(sub.Start) && IsAtSlit(sub.End)) || (IsAtEdge(sub.End) && IsAtSlit(sub.Start)))
            evidence.Speak(Meaning.Fold, Weights.EndsAtCuts, "straight from the edge to a slit");

        bool IsAtEdge(Point p) => carrier.Outline.DistanceTo(p) <= Folds.Reaches.Mm;

        bool IsAtSlit(Point p) => scene.StraightAt(new Box(p.X, p.Y, p.X, p.Y).Grown(Folds.Reaches.Mm)).Any(o => o.Look != e.Look && !o.IsRow
            && IsInMiddle(p, o));
    }

    /// <summary>Whether a point lies at a line, but not near its ends.</summary>
    public static bool IsInMiddle(Point p, Element line)
    {
        var sub = line.Path.Subpaths[0];
        return p.DistanceToSegment(sub.Start, sub.End) <= Folds.Reaches.Mm && Math.Min(p.DistanceTo(sub.Start),
            p.DistanceTo(sub.End)) > Folds.Reaches.Mm + FromEndsMm;
    }
}

/// <summary>The slits at both sides of such a step have a fold of another look that ends in the middle of them.</summary>
internal sealed class IsASlitOfAStep : Fact
{
    public override void Weigh(Element e, Scene scene, Evidence evidence)
    {
        if (e.Kind != ElementKind.Stroke || !e.IsStraight || e.IsRow || scene.CarrierOf(e) is not { } carrier || Folds.Spans(e.Path, carrier.Outline)) return;
        if (scene.StraightAt(e.Path.Bounds.Grown(Folds.Reaches.Mm)).Any(o => o.Look != e.Look && o.Path.Subpaths[0] is var fold
            && (EndsAtCuts.IsInMiddle(fold.Start, e) || EndsAtCuts.IsInMiddle(fold.End, e))))
            evidence.Speak(Meaning.Slit, Weights.ClosesAStep, "a slit that folds end at");
    }
}

/// <summary>Dashes stand for folds.</summary>
internal sealed class IsDashedLine : Fact
{
    public override void Weigh(Element e, Scene scene, Evidence evidence)
    {
        if (e.Kind == ElementKind.Stroke && e.IsDashed) evidence.Speak(Meaning.Fold, Weights.Dashed, "open and dashed");
    }
}

/// <summary>So do little strokes in a row.</summary>
internal sealed class IsARow : Fact
{
    public override void Weigh(Element e, Scene scene, Evidence evidence)
    {
        if (e.IsRow) evidence.Speak(Meaning.Fold, Weights.Row, e.MadeOf);
    }
}

/// <summary>A straight line in the look of folds, which no outline has, is a fold too, also where it ends within its piece.</summary>
internal sealed class LooksLikeFolds : Fact
{
    public override void Weigh(Element e, Scene scene, Evidence evidence)
    {
        if (e.Kind == ElementKind.Stroke && e.IsStraight && scene.LooksLike(e, Meaning.Fold) && !scene.IsOfOutlines(e.Look))
            evidence.Speak(Meaning.Fold, Weights.LooksLikeFolds, "straight, and drawn as the folds are");
    }
}

/// <summary>What outlines look like is cut.</summary>
internal sealed class LooksLikeOutlines : Fact
{
    public override void Weigh(Element e, Scene scene, Evidence evidence)
    {
        if (e.Kind == ElementKind.Stroke && e.Thin is null && scene.IsOfOutlines(e.Look))
            evidence.Speak(Meaning.Slit, Weights.LooksLikeOutlines, "drawn as the outlines are");
    }
}

/// <summary>A line as thick as a shape is no pen's: its thickness is likely to be meant, which is a finding for lines that are cut.</summary>
internal sealed class IsThick : Fact
{
    public override void Weigh(Element e, Scene scene, Evidence evidence)
    {
        if (e is { Kind: ElementKind.Stroke, Thin: null } && e.Item.Ink.Stroke is { } stroke && stroke.Width >= MakePieces.Thick)
            evidence.Speak(Meaning.Slit, Weights.Thick, "drawn as thick as a shape");
    }
}

/// <summary>What goes from edge to edge without being straight parts the piece, or is a wave drawn on it.</summary>
internal sealed class PartsItsPiece : Fact
{
    public override void Weigh(Element e, Scene scene, Evidence evidence)
    {
        if (e.Kind != ElementKind.Stroke || e.IsStraight || e.Thin is not null || scene.CarrierOf(e) is not { } carrier) return;
        var sub = e.Path.Subpaths[0];
        if (sub.Start.DistanceTo(sub.End) > 1 && carrier.Outline.DistanceTo(sub.Start) < 0.5 && carrier.Outline.DistanceTo(sub.End) < 0.5)
            evidence.Speak(Meaning.Slit, Weights.PartsPiece, "from edge to edge, and not straight");
        // Three sides of a door.
        if (sub.Segments.Length is 2 or 3 or 4 && sub.Segments.All(s => !s.IsCurve)) evidence.Speak(Meaning.Slit, Weights.Cornered,
            "a few straight sides, as of a flap");
    }
}

/// <summary>Strokes of one size in a row are letters.</summary>
internal sealed class IsWritten : Fact
{
    public override void Weigh(Element e, Scene scene, Evidence evidence)
    {
        if (e.IsWritten) evidence.Speak(Meaning.Pen, Weights.Written, "strokes of about one size close together: something written");
        else if (e.IsLoop) evidence.Speak(Meaning.Pen, Weights.Loop, "a loop among many open strokes of its look");
    }
}

/// <summary>Lines that wander inside a piece are drawn more often than cut, above all in a look that no outline has.</summary>
internal sealed class WandersInside : Fact
{
    private const double MostTurns = 4 * Math.PI;

    public override void Weigh(Element e, Scene scene, Evidence evidence)
    {
        if (e.Kind != ElementKind.Stroke || e.IsDashed || e.IsRow || e.Thin is not null || scene.CarrierOf(e) is null) return;
        var own = !scene.IsOfOutlines(e.Look);
        if (scene.MeetsBent(e)) evidence.Speak(Meaning.Pen, Weights.Meets, "it meets other lines inside a piece: a drawing");
        if (e.IsStraight)
        {
            if (!own || scene.LooksLike(e, Meaning.Fold)) return;
            evidence.Speak(Meaning.Pen, Weights.StraightOfOwnLook, "in a look that no outline has");
            if (scene.LooksLike(e, Meaning.Pen)) evidence.Speak(Meaning.Pen, Weights.LooksLikePen, "drawn as what is written or drawn here");
            return;
        }

        evidence.Speak(Meaning.Pen, Weights.BentInside, "not straight, and inside a piece");
        if (own) evidence.Speak(Meaning.Pen, Weights.BentOfOwnLook, "not straight, inside a piece, in a look that no outline has: a drawing");
        if (Turning(e.Path) > MostTurns) evidence.Speak(Meaning.Pen, Weights.Scrawled, "one long stroke with many turns: something written or drawn");
    }

    /// <summary>How far the direction of a line turns along it, in radians, whichever way.</summary>
    private static double Turning(VectorPath path)
    {
        var points = path.Rings[0];
        double sum = 0;
        for (var i = 2; i < points.Count; i++)
        {
            Point u = points[i - 1] - points[i - 2], v = points[i] - points[i - 1];
            sum += Math.Abs(Math.Atan2(u.Cross(v), u.Dot(v)));
        }

        return sum;
    }
}
