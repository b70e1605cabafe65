using Falzkunst.Core.Cards;

namespace Falzkunst.Core.Reading.Recognition;

/// <summary>What is filled was meant as a shape.</summary>
internal sealed class IsFilled : Fact
{
    public override void Weigh(Element e, Scene scene, Evidence evidence)
    {
        if (e.Kind == ElementKind.Filled) evidence.Speak(Meaning.Paper, Weights.Filled, e.Item.Ink.IsPainted
            ? "a shape filled with a gradient or pattern, which is printed" : "a filled shape");
    }
}

/// <summary>An outline in no other is where paper ends.</summary>
internal sealed class IsOutermost : Fact
{
    public override void Weigh(Element e, Scene scene, Evidence evidence)
    {
        if (e.Kind == ElementKind.Ring && e.Around is null) evidence.Speak(Meaning.Paper, Weights.Outermost,
            e.MadeOf.Length > 0 ? e.MadeOf : "an outermost closed outline");
    }
}

/// <summary>An outline in paper opens it, and one in a hole is paper again. In a colour of its own it may as well be drawn there.</summary>
internal sealed class LiesInAnother : Fact
{
    public override void Weigh(Element e, Scene scene, Evidence evidence)
    {
        if (e.Kind != ElementKind.Ring || e.Around is not { } around) return;
        if (around.Meaning == Meaning.Hole)
        {
            evidence.Speak(Meaning.Paper, Weights.InHole, "a closed outline inside a hole");
            return;
        }

        var own = !scene.IsOfPaper(e.Look);
        if (around.Kind == ElementKind.Ring)
        {
            evidence.Speak(Meaning.Hole, Weights.InPaper, "a closed outline inside a piece");
            if (own && e.Item.Ink.Stroke?.Colour.Hex != around.Item.Ink.Stroke?.Colour.Hex)
                evidence.Speak(Meaning.Pen, Weights.InPaperOfOwnLook, "in a colour that no edge of paper has");
            return;
        }

        // What is filled is whole; a line on it may be a window or a picture.
        if (own && around.Item.Ink.Stroke?.Colour.Hex != e.Item.Ink.Stroke?.Colour.Hex)
        {
            evidence.Speak(Meaning.Hole, Weights.OnFilled, "a closed outline on a filled shape");
            evidence.Speak(Meaning.Pen, Weights.OnFilledOfOwnLook, "a closed line on a filled shape, in a look that no edge of paper has");
        }
        else
        {
            evidence.Speak(Meaning.Hole, Weights.OnFilledInLookOfOutlines, "a closed outline on a filled shape, drawn as the edges of paper are");
        }
    }
}

/// <summary>Lines that are not straight, in a look that no paper has or meeting each other, are a drawing; what closes in it belongs to it.</summary>
internal sealed class IsDrawnWithLines : Fact
{
    public override void Weigh(Element e, Scene scene, Evidence evidence)
    {
        if (e.Kind != ElementKind.Ring || e.Around is null || !scene.HasBentLines(e.Look)) return;
        if (!scene.IsOfPaper(e.Look) || scene.MeetsBent(e)) evidence.Speak(Meaning.Pen, Weights.DrawnWithLines, "closed, among lines of a drawing");
    }
}

/// <summary>Nobody cuts along dashes inside of a piece, even where they close.</summary>
internal sealed class IsDashedInside : Fact
{
    public override void Weigh(Element e, Scene scene, Evidence evidence)
    {
        if (e.Kind == ElementKind.Ring && e.IsDashed && e.Around is not null) evidence.Speak(Meaning.Fold, Weights.DashedInside,
            "closed and dashed, inside a piece");
    }
}

/// <summary>What was drawn around something that was there already is a line around it, unless it is folded: nobody folds a line.</summary>
internal sealed class WasDrawnAround : Fact
{
    public override void Weigh(Element e, Scene scene, Evidence evidence)
    {
        if (e.Kind != ElementKind.Ring || e.Around is not null) return;
        if (!scene.OutlinesAt(e.Path.Bounds).Any(o => o.Kind == ElementKind.Filled && o.Order < e.Order && Scene.Inside(o.Path, e.Path))) return;
        if (scene.IsFolded(e.Path))
        {
            evidence.Speak(Meaning.Paper, Weights.Folded, "an outline that is folded");
            return;
        }

        evidence.Speak(Meaning.Paper, Weights.AroundEarlier, "");
        evidence.Speak(Meaning.Slit, Weights.AroundEarlierAsLine, "drawn around what was there already");
    }
}

/// <summary>An outline whose ends do not quite meet is closed, but that is a guess.</summary>
internal sealed class AlmostCloses : Fact
{
    public override void Weigh(Element e, Scene scene, Evidence evidence)
    {
        if (e.GapMm > Tolerances.Closes) evidence.Speak(Meaning.Slit, Weights.Gap, string.Create(CultureInfo.InvariantCulture,
            $"its ends are {e.GapMm:0.##} mm apart"));
    }
}

/// <summary>The same line once more is a slip, unless layers are the plies of a stack.</summary>
internal sealed class IsTheSameAgain : Fact
{
    public override void Weigh(Element e, Scene scene, Evidence evidence)
    {
        if (e.SameAs is not { } first) return;
        // In another look it says something, if only how the edge is drawn; it stays, and nothing happens along it.
        if (first.Look == e.Look) evidence.Speak(Meaning.Double, Weights.SameAgain, e.IsClosed ? "the same outline a second time"
            : "the same line a second time");
        else evidence.Speak(Meaning.Rest, Weights.SameAgain, "an edge of paper once more, in another look");
    }
}

/// <summary>A rectangle as large as the page may be the page that was drawn on.</summary>
internal sealed class IsAsThePage : Fact
{
    private const double WithinMm = 1.5, Pale = 330, LeastShare = 0.04;
    private const int MostInPage = 300;

    private static readonly HashSet<string> Names = [.. "background bg page canvas artboard hintergrund seite fond fondo pagina achtergrond lienzo".Split(' ')];

    /// <summary>Whether a box is that of the page, but for so much on each side.</summary>
    public static bool IsPage(Box box, Drawing drawing) => Math.Abs(box.Left) <= WithinMm && Math.Abs(box.Top) <= WithinMm
        && Math.Abs(box.Right - drawing.Width.Mm) <= WithinMm && Math.Abs(box.Bottom - drawing.Height.Mm) <= WithinMm;

    public override void Weigh(Element e, Scene scene, Evidence evidence)
    {
        if (!e.IsClosed || e.Item.Ink.IsPainted || e.Path.Subpaths.Length != 1) return;
        var box = e.Path.Bounds;
        if (!scene.IsPage(e) || e.Area < 0.999 * box.Area) return;
        evidence.Speak(Meaning.Ground, Weights.PageSize, "as large as the page");
        var others = scene.OutlinesAt(box).Where(o => o != e && o.Area < 0.9 * e.Area).Take(MostInPage).ToList();
        // A line across a small ornament is no fold of a card.
        var foldsOthers = others.Any(o => o.Area > LeastShare * e.Area && scene.IsFolded(o.Path));
        if (scene.IsFolded(e.Path, !foldsOthers)) evidence.Speak(Meaning.Ground, Weights.PageIsFolded, "");
        else if (foldsOthers)
            evidence.Speak(Meaning.Ground, e.Kind == ElementKind.Ring || IsPaintedOver.IsWhite(e) ? Weights.PageHoldsFolded : Weights.ColouredPageHoldsFolded,
                "as large as the page, and what lies on it is folded: it is only the page");
        if (Names.Contains(e.Item.Name.Trim().ToLowerInvariant()) || Names.Contains(e.Item.Layer.Trim().ToLowerInvariant()))
            evidence.Speak(Meaning.Ground, Weights.PageIsNamed, $"as large as the page, and called “{(e.Item.Name.Length > 0 ? e.Item.Name : e.Item.Layer)}”");
        if (e.Kind == ElementKind.Ring && others.Count > 0 && others.All(o => o.Look != e.Look))
        {
            evidence.Speak(Meaning.Ground, Weights.PageOfOwnLook, "a frame in a look of its own");
            if (e.Item.Ink.Stroke!.Colour.DistanceTo(Colour.White) < Pale) evidence.Speak(Meaning.Ground, Weights.PageIsPale,
                "a pale frame as large as the page");
            if (others.Count > 1) evidence.Speak(Meaning.Ground, Weights.PageHoldsSeveral,
                "as large as the page, in a look of its own, and several outlines lie in it: it is only a frame");
        }

        if (e.Kind == ElementKind.Ring && others.Count > 2 && others.Any(o => others.Any(i => i != o && i.Area < o.Area && Scene.Inside(i.Path, o.Path)))
            && others.Any(o => others.Any(i => i != o && !i.Path.Bounds.Touches(o.Path.Bounds))))
            evidence.Speak(Meaning.Ground, Weights.PageHoldsNested, "as large as the page, and several pieces with holes lie in it: it is only the page");

        if (!IsPaintedOver.IsWhite(e) || others.Count == 0) return;
        evidence.Speak(Meaning.Ground, Weights.PageIsWhite, "white");
        if (others.Any(o => o.Kind == ElementKind.Ring && o.Order > e.Order && o.Area > LeastShare * e.Area) && !scene.IsFolded(e.Path, !foldsOthers))
            evidence.Speak(Meaning.Ground, Weights.PageUnderLines, "as large as the page, white, and outlines lie on it: it is only the page");
    }
}

/// <summary>A white spot on paper of another colour is often a hole that somebody painted over it.</summary>
internal sealed class IsPaintedOver : Fact
{
    private const int Many = 4;
    private const double SmallShare = 0.04;

    public override void Weigh(Element e, Scene scene, Evidence evidence)
    {
        if (e.Kind != ElementKind.Filled || !IsWhite(e) || e.Item.Ink.Stroke is not null || e.Around is not { } around || IsWhite(around)) return;
        evidence.Speak(Meaning.Hole, Weights.WhiteInColour, "white on paper of another colour: a hole that was painted");
        if (scene.HasWhitePaper) evidence.Speak(Meaning.Hole, Weights.WhiteElsewhere, "");
        if (scene.OutlinesAt(e.Path.Bounds).Any(o => o.Order > e.Order && Scene.Inside(o.Path, e.Path)))
        {
            evidence.Speak(Meaning.Hole, Weights.WhiteCarries, "");
            return;
        }

        if (scene.WhitesLike(e) > Many) evidence.Speak(Meaning.Hole, Weights.WhiteManyAlike,
            "white, like many others on the same paper: holes that were painted");
        if (IsSimple(e) && e.Area < SmallShare * around.Area) evidence.Speak(Meaning.Hole, Weights.WhiteRound, "a plain round or square spot");
    }

    public static bool IsWhite(Element e) => e.Item.Ink is { IsPainted: false, Fill: { } fill } && fill.DistanceTo(Colour.White) <= 1;

    /// <summary>Four corners, or about as round as a circle (by the isoperimetric quotient).</summary>
    private static bool IsSimple(Element e) => e.Path.Subpaths.Length == 1
        && (e.Path.Rings[0].Count == 4 || 4 * Math.PI * e.Area > 0.9 * e.Path.Length.Mm * e.Path.Length.Mm);
}
