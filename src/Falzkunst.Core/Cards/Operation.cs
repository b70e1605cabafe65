namespace Falzkunst.Core.Cards;

/// <summary>What happens along a line. The order is the order in which a run does it: nothing may move between the first and the last.</summary>
public enum Operation
{
    Draw,
    Foil,
    Deboss,
    Score,
    Perforate,
    Cut,
    Print,

    /// <summary>Nothing happens, but the line stays in the docket.</summary>
    Rest,
}

/// <summary>The side of the paper that a line is made on.</summary>
public enum Face
{
    Outer,
    Inner,
}

/// <summary>Which way a fold goes, seen from its line's face: a valley closes towards the viewer, a mountain away.</summary>
public enum FoldSide
{
    Valley,
    Mountain,
}

public static class Operations
{
    public static IReadOnlyList<Operation> All { get; } = Enum.GetValues<Operation>();

    /// <summary>Whether a machine runs a tool along lines of this operation.</summary>
    public static bool UsesTool(this Operation operation) => operation is not (Operation.Print or Operation.Rest);

    /// <summary>The lower-case word for files and screens.</summary>
    public static string Word(this Operation operation) => operation switch
    {
        Operation.Draw => "draw",
        Operation.Foil => "foil",
        Operation.Deboss => "deboss",
        Operation.Score => "score",
        Operation.Perforate => "perforate",
        Operation.Cut => "cut",
        Operation.Print => "print",
        _ => "rest",
    };

    /// <summary>The one-letter code that stands beside the colour, so that the table reads without colour.</summary>
    public static string Letter(this Operation operation) => operation switch
    {
        Operation.Draw => "D",
        Operation.Foil => "F",
        Operation.Deboss => "B",
        Operation.Score => "S",
        Operation.Perforate => "P",
        Operation.Cut => "C",
        Operation.Print => "A",
        _ => "–",
    };

    /// <summary>The colour of the operation's code.</summary>
    public static string ColourHex(this Operation operation) => operation switch
    {
        Operation.Draw => "#6b3fa0",
        Operation.Foil => "#a65a3a",
        Operation.Deboss => "#4a6572",
        Operation.Score => "#b45f06",
        Operation.Rest => "#9a958b",
        _ => "#23262e",
    };

    public static bool TryRead(string? word, out Operation operation)
    {
        foreach (var o in All)
        {
            if (!string.Equals(o.Word(), word, StringComparison.OrdinalIgnoreCase)) continue;
            operation = o;
            return true;
        }

        operation = Operation.Cut;
        return false;
    }
}
