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

    /// <summary>Printed on the piece below, and not cut.</summary>
    Printed,
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
        Meaning.Printed => Operation.Print,
        Meaning.Ground or Meaning.Sample or Meaning.Double or Meaning.Rest => Operation.Rest,
        _ => Operation.Cut,
    };

    /// <summary>Whether it is something along a line, and not where paper ends or what is no part of the card.</summary>
    public static bool IsLine(this Meaning meaning) =>
        meaning is not (Meaning.Paper or Meaning.Hole or Meaning.Panel or Meaning.Ground or Meaning.Sample or Meaning.Double);

    /// <summary>In words, as a choice: "cut out", "drawn", "a piece".</summary>
    public static string Phrase(this Meaning meaning) => meaning switch
    {
        Meaning.Paper => "a piece of paper",
        Meaning.Hole => "a hole, cut out",
        Meaning.Panel => "panels of one base",
        Meaning.Fold => "a fold, scored",
        Meaning.Perforation => "perforated",
        Meaning.Slit => "cut",
        Meaning.Pen => "drawn",
        Meaning.Foil => "foiled",
        Meaning.Deboss => "debossed",
        Meaning.Printed => "only printed",
        Meaning.Ground => "only the page",
        Meaning.Sample => "only a legend",
        Meaning.Double => "a double",
        _ => "nothing happens",
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
        Operation.Print => Meaning.Printed,
        _ => Meaning.Rest,
    };
}
