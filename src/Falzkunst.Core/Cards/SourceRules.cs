
namespace Falzkunst.Core.Cards;

/// <summary>What a look does in files from one source; the look without its width, which changes with the size of a drawing.</summary>
/// <param name="Is">What everything of the look is (pieces, holes, no part of the card, a line with its operation), where it is all one; null where only its
/// operation is known.</param>
public sealed record LookRule(string Look, Operation Operation, Meaning? Is = null)
{
    /// <summary>The decision and what it is known again by: "blue line, open: folds, scored".</summary>
    public string Describe()
    {
        var facts = Look.Split('/', 5);
        if (facts.Length < 5) return Operation.Word();
        var by = new List<string>();
        if (facts[0] != "-") by.Add($"{ColourNames.Of(Colour.FromHex(facts[0]))} shape");
        if (facts[1] != "-") by.Add($"{ColourNames.Of(Colour.FromHex(facts[1]))} line");
        if (facts[2] == "dashed") by.Add("dashed");
        if (facts[0] == "-") by.Add(facts[3]);
        if (facts[4].Length > 0) by.Add($"in “{facts[4]}”");
        return $"{string.Join(", ", by)}: {Is?.Phrase() ?? Operation.Word()}";
    }
}

/// <summary>Choices made for one file, kept for the next one from the same source: "from this designer blue lines are scores".</summary>
/// <param name="Producer">The comment that the drawing program leaves in the file; empty where there is none.</param>
/// <param name="Looks">What each look does.</param>
/// <param name="PxPerInch">The size that was settled; null where the file says it itself.</param>
public sealed record SourceRules(string Name, string Producer, ImmutableArray<LookRule> Looks, double? PxPerInch)
{
    // A half of the looks must be known, or some of them where the producer is the same too, or a single one where the folder is.
    private const double LeastShare = 0.5, LeastShareOfProducer = 0.25;

    /// <summary>The folders that files of this source came in, each the last name of a path.</summary>
    public ImmutableArray<string> Folders { get; init; } = [];

    /// <summary>The rules that the design as it stands would give.</summary>
    public static SourceRules From(Design design, string name)
    {
        var looks = new Dictionary<string, LookRule>(StringComparer.Ordinal);
        var meanings = LookMembers.MeaningsOf(design);
        foreach (var look in design.Looks)
            if (design.OperationOf(look.Key) is { } does) looks[RuleOf(look)] = new(RuleOf(look), does, meanings.GetValueOrDefault(look.Key));
            else if (LookMembers.IsLeftOut(design, look.Key)) looks[RuleOf(look)] = new(RuleOf(look), Operation.Rest, Meaning.Ground);
        return new(name, design.Producer, [.. looks.OrderBy(l => l.Key, StringComparer.Ordinal).Select(l => l.Value)],
            design.Scale.Reason.StartsWith("chosen", StringComparison.Ordinal) ? design.Scale.PxPerInch : null);
    }

    /// <summary>
    /// How well a design fits these rules: the share of its looks that they know, one more where it came in a folder of theirs, and half of one more where the
    /// same program wrote it; 0 where too little is known. The words say by what the source was recognised.
    /// </summary>
    /// <param name="folder">The folder that the file came in; empty where it came alone.</param>
    public (double Fit, string By) Fits(Design design, string folder = "")
    {
        var present = design.Looks.Select(RuleOf).Distinct(StringComparer.Ordinal).ToList();
        if (present.Count == 0) return (0, "");
        var known = Looks.Select(l => l.Look).ToHashSet(StringComparer.Ordinal);
        var shared = present.Count(known.Contains);
        var share = shared / (double)present.Count;
        var byLooks = $"{shared} of its {present.Count} looks are known";
        if (shared > 0 && folder.Length > 0
            && Folders.Contains(folder, StringComparer.OrdinalIgnoreCase)) return (share + 1, $"it came in the folder “{folder}”, and {byLooks}");
        if (Producer.Length > 0 && Producer == design.Producer
            && share >= LeastShareOfProducer) return (share + 0.5, $"the same program wrote it, and {byLooks}");
        return share >= LeastShare ? (share, byLooks) : (0, "");
    }

    /// <summary>A look's name in rules.</summary>
    public static string RuleOf(Look look) =>
        $"{look.Fill?.Hex ?? "-"}/{look.Stroke?.Hex ?? "-"}/{(look.Dashed ? "dashed" : "solid")}/{(look.Closed ? "closed" : "open")}/{look.Layer}";
}

/// <summary>The rules that were applied to a design, and what its looks did before, so that they can be taken back.</summary>
/// <param name="By">By what the source was recognised; empty where a person chose it.</param>
public sealed record AppliedRules(string Name, ImmutableArray<LookRule> Before, string By = "")
{
    public bool Equals(AppliedRules? o) => o is not null && Name == o.Name && By == o.By && Before.Same(o.Before);

    public override int GetHashCode() => HashCode.Combine(Name, By, Before.Length);
}

/// <summary>Applies the rules of a source: each look that they know and that does something else gets their operation, and the size that they settle is
/// taken.</summary>
public sealed record ApplyRules(SourceRules Rules) : Edit
{
    /// <summary>By what the source was recognised; empty where a person chose it.</summary>
    public string By { get; init; } = "";

    public override string Describe(Design before) => $"Rules of “{Rules.Name}”";

    public override Design Apply(Design design)
    {
        if (Rules.PxPerInch is { } px && !design.Scale.IsKnown) design = new SetScale(px).Apply(design);
        var before = ImmutableArray.CreateBuilder<LookRule>();
        foreach (var look in design.Looks)
        {
            var rule = Rules.Looks.FirstOrDefault(r => r.Look == SourceRules.RuleOf(look));
            if (rule is null || design.OperationOf(look.Key) is not { } now) continue;
            var is_ = LookMembers.MeaningOf(design, look.Key);
            if (rule.Is is { } wanted && is_ is { } current && current != wanted && !(current.IsLine() && wanted.IsLine()))
            {
                var next = new Become(LookMembers.Of(design, look.Key), wanted) { Reason = $"a rule of “{Rules.Name}”" }.Apply(design);
                if (next.Equals(design)) continue;
                before.Add(new(look.Key, now, is_));
                design = next;
                continue;
            }

            // What was settled for this source is not asked again.
            if (rule.Is is not null && rule.Is == is_) design = new Settle(LookMembers.Of(design, look.Key)).Apply(design);
            if (now == rule.Operation || (rule.Is is not null && rule.Is == is_)) continue;
            before.Add(new(look.Key, now, is_));
            design = new SetLookOperation(look.Key, rule.Operation) { Reason = $"a rule of “{Rules.Name}”" }.Apply(design);
        }

        return design with { Rules = new(Rules.Name, before.ToImmutable(), By) };
    }
}

/// <summary>Takes the rules of a source back: the looks that they changed do again what was recognised.</summary>
public sealed record TakeRulesBack : Edit
{
    public override string Describe(Design before) => $"Take back the rules of “{before.Rules?.Name}”";

    public override Design Apply(Design design)
    {
        if (design.Rules is not { } rules) return design;
        foreach (var look in rules.Before)
        {
            // What was left out of the card is put back first.
            if (look.Is is not null && LookMembers.IsLeftOut(design, look.Look))
                foreach (var part in LookMembers.LeftOutParts(design, look.Look)) design = new PutBack(part).Apply(design);
            if (look.Is is { } was && LookMembers.MeaningOf(design, look.Look) is var now && now != was && !(was.IsLine() && now is { } line && line.IsLine()))
                design = new Become(LookMembers.Of(design, look.Look), was)
                {
                    Reason = $"as it was before the rules of “{rules.Name}”",
                }.Apply(design);
            if (design.OperationOf(look.Look) != look.Operation)
                design = new SetLookOperation(look.Look, look.Operation) { Reason = $"as it was before the rules of “{rules.Name}”" }.Apply(design);
        }

        return design with { Rules = null };
    }
}
