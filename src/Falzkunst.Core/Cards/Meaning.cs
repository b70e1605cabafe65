namespace Falzkunst.Core.Cards;

/// <summary>What an outline or a line in a file is for. Recognition decides it by evidence; where a second one is nearly as likely, it is asked.</summary>
public enum Meaning
{
    /// <summary>The outer edge of a piece.</summary>
    Paper,

    /// <summary>The edge of a hole in the piece around it.</summary>
    Hole,

    /// <summary>A panel of the base that its neighbours belong to as well.</summary>
    Panel,

    Fold,
    Perforation,

    /// <summary>A cut that opens no hole, or whatever else is cut along a line.</summary>
    Slit,

    Pen,
    Foil,
    Deboss,

    /// <summary>The page that was drawn on.</summary>
    Ground,

    /// <summary>A part of the legend, which says what the looks mean.</summary>
    Sample,

    /// <summary>The same line once more.</summary>
    Double,

    Rest,
}

public static class Meanings
{
    /// <summary>What is done along a line of that meaning.</summary>
    public static Operation ToOperation(this Meaning meaning) => meaning switch
    {
        Meaning.Fold => Operation.Score,
        Meaning.Perforation => Operation.Perforate,
        Meaning.Pen => Operation.Draw,
        Meaning.Foil => Operation.Foil,
        Meaning.Deboss => Operation.Deboss,
        Meaning.Ground or Meaning.Sample or Meaning.Double or Meaning.Rest => Operation.Rest,
        _ => Operation.Cut,
    };

    /// <summary>What a line is for along which that is done.</summary>
    public static Meaning ToMeaning(this Operation operation) => operation switch
    {
        Operation.Score => Meaning.Fold,
        Operation.Perforate => Meaning.Perforation,
        Operation.Draw => Meaning.Pen,
        Operation.Foil => Meaning.Foil,
        Operation.Deboss => Meaning.Deboss,
        Operation.Cut => Meaning.Slit,
        _ => Meaning.Rest,
    };
}
