using Falzkunst.Core.Cards;

namespace Falzkunst.Core.Reading.Recognition;

/// <summary>What something is for, why, and what it is nearly as likely for.</summary>
internal readonly record struct Verdict(Meaning Meaning, string Why, Meaning? Or = null);

/// <summary>
/// What speaks for and against each meaning of one outline or line. Weights are added up, as logarithms of odds are when facts say something independent of
/// each other (naive Bayes; Hand and Yu 2001, "Idiot's Bayes, not so stupid after all?"); the heaviest meaning wins, and gives the reason of its heaviest fact.
/// </summary>
internal sealed class Evidence
{
    private static readonly int Count = Enum.GetValues<Meaning>().Length;
    private readonly double[] _weights = new double[Count], _heaviest = new double[Count];
    private readonly string?[] _reasons = new string?[Count];

    /// <summary>Nothing has spoken yet.</summary>
    public void Clear()
    {
        Array.Clear(_weights);
        Array.Clear(_heaviest);
        Array.Clear(_reasons);
    }

    /// <param name="weight">Positive speaks for it, negative against it.</param>
    /// <param name="reason">As a part of a sentence, for whoever asks why.</param>
    public void Speak(Meaning meaning, double weight, string reason)
    {
        var i = (int)meaning;
        _weights[i] += weight;
        if (weight <= _heaviest[i]) return;
        (_heaviest[i], _reasons[i]) = (weight, reason);
    }

    /// <summary>The heaviest meaning that anything speaks for; a second one that is close makes it a doubt.</summary>
    public Verdict Decide()
    {
        int best = -1, second = -1;
        for (var i = 0; i < Count; i++)
        {
            if (_reasons[i] is null) continue;
            if (best < 0 || _weights[i] > _weights[best]) (best, second) = (i, best);
            else if (second < 0 || _weights[i] > _weights[second]) second = i;
        }

        return new((Meaning)best, _reasons[best]!, second >= 0 && _weights[best] - _weights[second] < Weights.Close ? (Meaning)second : null);
    }
}

/// <summary>One thing that can be seen of an outline or a line, and what it says.</summary>
internal abstract class Fact
{
    public abstract void Weigh(Element e, Scene scene, Evidence evidence);
}

/// <summary>
/// How much each fact says. One is a hint, three is what people rely on where nothing speaks against it, six is what somebody wrote down, and nine what can't
/// be otherwise. Tuned on generated files with seeds under 100,000 (AnyFile in the tests).
/// </summary>
internal static class Weights
{
    /// <summary>Nearer than this to each other, two meanings are a doubt.</summary>
    public const double Close = 1;

    // Outlines.
    public const double Filled = 3, Outermost = 3, InPaper = 3, InHole = 3, InPaperOfOwnLook = 2.2, OnFilled = 1.2, OnFilledInLookOfOutlines = 3,
        OnFilledOfOwnLook = 1.6,
        DrawnWithLines = 5, AroundEarlier = -4, AroundEarlierAsLine = 0.5, Folded = 5, PageSize = 2, PageHoldsFolded = 4, ColouredPageHoldsFolded = 0.5,
            PageHoldsSeveral = 1.5,
        PageOfOwnLook = 1, PageIsWhite = 0.5, PageUnderLines = 2, PageIsNamed = 4, PageIsFolded = -6, SameAgain = 9, DashedInside = 5, Gap = 2.5,
            PageIsPale = 1.5, PageHoldsNested = 2,
        WhiteInColour = 2.3, WhiteManyAlike = 3, WhiteRound = 1, WhiteElsewhere = -4, WhiteCarries = -4;

    // Lines.
    public const double AnyLine = 1, Named = 12, InLegend = 11, CutInLegend = 4, Spans = 4, NearlySpans = 1.5, EvenlyShort = 1, EndsAtCuts = 3.5,
        SpansTogether = 3.5, ClosesAStep = 4, Dashed = 3, Row = 4, LooksLikeFolds = 2.5, LooksLikeOutlines = 1, Written = 5,
        Loop = 4, BentInside = 1.2, BentOfOwnLook = 1.5, Scrawled = 4, Meets = 2.5, StraightOfOwnLook = 0.5, LooksLikePen = 2, Thick = 4, PartsPiece = 1.5,
            Cornered = 1.5;
}
