namespace Falzkunst.Core.Cards;

/// <summary>What a look does in files from one source; the look without its width, which changes with the size of a drawing.</summary>
public sealed record LookRule(string Look, Operation Operation);

/// <summary>Choices made for one file, kept for the next one from the same source: "from this designer blue lines are scores".</summary>
/// <param name="Producer">The comment that the drawing program leaves in the file; empty where there is none.</param>
/// <param name="PxPerInch">The size that was settled; null where the file says it itself.</param>
public sealed record SourceRules(string Name, string Producer, ImmutableArray<LookRule> Looks, double? PxPerInch)
{
    // A half of the looks must be known, or some of them where the producer is the same too.
    private const double LeastShare = 0.5, LeastShareOfProducer = 0.25;

    /// <summary>The rules that the design as it stands would give.</summary>
    public static SourceRules From(Design design, string name)
    {
        var looks = new Dictionary<string, Operation>(StringComparer.Ordinal);
        foreach (var piece in design.Pieces)
            if (design.LookOf(piece.Look) is { } look) looks[RuleOf(look)] = piece.OuterOperation;
        foreach (var line in design.Lines)
            if (design.LookOf(line.Look) is { } look) looks[RuleOf(look)] = line.Operation;
        return new(name, design.Producer, [.. looks.OrderBy(l => l.Key, StringComparer.Ordinal).Select(l => new LookRule(l.Key, l.Value))], design.Scale.Reason.StartsWith("chosen", StringComparison.Ordinal) ? design.Scale.PxPerInch : null);
    }

    /// <summary>How well the design's look table fits these rules: the share of its looks that they know, or 0 where that is too few.</summary>
    public double Fits(Design design)
    {
        var present = design.Looks.Select(RuleOf).Distinct(StringComparer.Ordinal).ToList();
        if (present.Count == 0) return 0;
        var known = Looks.Select(l => l.Look).ToHashSet(StringComparer.Ordinal);
        var share = present.Count(known.Contains) / (double)present.Count;
        return share >= (Producer.Length > 0 && Producer == design.Producer ? LeastShareOfProducer : LeastShare) ? share : 0;
    }

    /// <summary>A look's name in rules.</summary>
    public static string RuleOf(Look look) =>
        $"{look.Fill?.Hex ?? "-"}/{look.Stroke?.Hex ?? "-"}/{(look.Dashed ? "dashed" : "solid")}/{(look.Closed ? "closed" : "open")}/{look.Layer}";
}

/// <summary>The rules that were applied to a design, and what its looks did before, so that they can be taken back.</summary>
public sealed record AppliedRules(string Name, ImmutableArray<LookRule> Before);

/// <summary>Applies the rules of a source: each look that they know and that does something else gets their operation, and the size that they settle is taken.</summary>
public sealed record ApplyRules(SourceRules Rules) : Edit
{
    public override string Describe(Design before) => $"Rules of “{Rules.Name}”";

    public override Design Apply(Design design)
    {
        if (Rules.PxPerInch is { } px && !design.Scale.IsKnown) design = new SetScale(px).Apply(design);
        var before = ImmutableArray.CreateBuilder<LookRule>();
        foreach (var look in design.Looks)
        {
            var rule = Rules.Looks.FirstOrDefault(r => r.Look == SourceRules.RuleOf(look));
            if (rule is null || design.OperationOf(look.Key) is not { } now || now == rule.Operation) continue;
            before.Add(new(look.Key, now));
            design = new SetLookOperation(look.Key, rule.Operation) { Reason = $"a rule of “{Rules.Name}”" }.Apply(design);
        }

        return design with { Rules = new(Rules.Name, before.ToImmutable()) };
    }
}

/// <summary>Takes the rules of a source back: the looks that they changed do again what was recognised.</summary>
public sealed record TakeRulesBack : Edit
{
    public override string Describe(Design before) => $"Take back the rules of “{before.Rules?.Name}”";

    public override Design Apply(Design design)
    {
        if (design.Rules is not { } rules) return design;
        foreach (var look in rules.Before) design = new SetLookOperation(look.Look, look.Operation) { Reason = $"as it was before the rules of “{rules.Name}”" }.Apply(design);
        return design with { Rules = null };
    }
}
