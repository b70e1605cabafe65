using System.Text.Json.Serialization;

namespace Falzkunst.Core.Cards;

/// <summary>Which turns a piece may be given on its sheet.</summary>
public enum Turns
{
    None,
    Half,
    Quarter,
    Any,
}

/// <summary>What a docket asks of how its pieces are laid out.</summary>
/// <param name="Gap">What they keep from each other, at least.</param>
/// <param name="Turns">How they may be turned; what is folded along the grain is turned head to foot at most.</param>
public sealed record LayingRules(Length Gap, Turns Turns)
{
    public static LayingRules Usual { get; } = new(Length.FromMm(2), Turns.Quarter);

    /// <summary>Whether all pieces of a card lie on the same sheet of each stock, or on sheets that bear nothing else.</summary>
    [JsonIgnore(Condition = JsonIgnoreCondition.WhenWritingDefault)]
    public bool CardsTogether { get; init; }

    /// <summary>Whether pieces without lines and artwork may lie on their outer face: paper that is the same on both.</summary>
    [JsonIgnore(Condition = JsonIgnoreCondition.WhenWritingDefault)]
    public bool FaceDown { get; init; }

    /// <summary>What is wrong with them, as a sentence; null where all is well.</summary>
    public string? Fault() => !(Gap.Mm is >= 0 and <= 50) ? "Pieces keep 0 to 50 mm from each other."
        : !Enum.IsDefined(Turns) ? "Pieces are turned not at all, by halves, by quarters, or by any angle." : null;

    /// <summary>"2 mm apart, quarter turns".</summary>
    public override string ToString() => string.Create(CultureInfo.InvariantCulture, $"{Gap} apart, {Turns switch
    {
        Turns.None => "no turns",
        Turns.Half => "half turns",
        Turns.Quarter => "quarter turns",
        _ => "any turns",
    }}{(CardsTogether ? ", cards together" : "")}{(FaceDown ? ", face down too" : "")}");
}

/// <summary>Changes how the pieces of the docket are laid out.</summary>
public sealed record SetLaying(LayingRules Rules) : Edit
{
    public override string Describe(Design before) => $"Lay out {Rules}";

    public override string? Refusal(Design before) => Rules is null ? "It says nothing." : Rules.Fault();

    public override Design Apply(Design design) => Refusal(design) is null ? design with { AskedLaying = Rules == LayingRules.Usual ? null : Rules } : design;
}
