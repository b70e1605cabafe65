using ExCSS;
using Falzkunst.Core.Files;
using FillRule = Falzkunst.Core.Shapes.FillRule;

namespace Falzkunst.Core.Reading.Svg;

/// <summary>A paint as the cascade leaves it: nothing, a colour, or a reference with what to take instead.</summary>
internal readonly record struct SvgPaint(Colour? Colour, string? Reference, bool IsCurrentColour)
{
    public static SvgPaint None => default;
}

/// <summary>The computed properties of an element that matter to a drawing. Copied at each element that changes one.</summary>
internal sealed record SvgStyle
{
    public SvgPaint Fill { get; set; } = new(Looks.Colour.Black, null, false);
    public double FillOpacity { get; set; } = 1;
    public FillRule FillRule { get; set; }
    public SvgPaint Stroke { get; set; }
    public double StrokeOpacity { get; set; } = 1;
    public string StrokeWidth { get; set; } = "1";
    public LineCap Cap { get; set; }
    public LineJoin Join { get; set; }
    public double MiterLimit { get; set; } = 4;
    public string Dashes { get; set; } = "none";
    public string DashOffset { get; set; } = "0";
    public Colour Colour { get; set; } = Looks.Colour.Black;
    public bool Visible { get; set; } = true;
    public double FontSize { get; set; } = 16;
    public string FontFamily { get; set; } = "";
    public int FontWeight { get; set; } = 400;
    public bool Italic { get; set; }
    public string LetterSpacing { get; set; } = "normal";
    public string WordSpacing { get; set; } = "normal";
    public string Anchor { get; set; } = "start";
    public string Baseline { get; set; } = "auto";
    public string? MarkerStart { get; set; }
    public string? MarkerMid { get; set; }
    public string? MarkerEnd { get; set; }

    // Not inherited: set afresh at each element.
    public bool Displayed { get; set; } = true;
    public double Opacity { get; set; } = 1;
    public string? Clip { get; set; }
    public string? Mask { get; set; }
    public string? Filter { get; set; }
    public bool ThinStroke { get; set; }
    public bool Overflows { get; set; }
    public Colour StopColour { get; set; } = Looks.Colour.Black;
    public double StopOpacity { get; set; } = 1;

    public SvgStyle ForChild() => this with
    {
        Displayed = true,
        Opacity = 1,
        Clip = null,
        Mask = null,
        Filter = null,
        ThinStroke = false,
        Overflows = false,
        StopColour = Looks.Colour.Black,
        StopOpacity = 1,
    };
}

/// <summary>
/// The cascade of SVG: presentation attributes, then style sheets by specificity and order, then the style attribute.
/// Rules are found by the last part of their selector (id, class or element), so that many elements cost no more than their own rules. Selectors that look far
/// and wide ("a b c d", "a ~ b") can cost any time, so each step of a match may end the reading.
/// </summary>
internal sealed class SvgStyles(ReadingWork work)
{
    private readonly Dictionary<string, List<Rule>> _rules = [];
    private int _count;
    private int _steps;

    private sealed record Rule(ISelector Selector, Priority Priority, int Order, (string Name, string Value, bool Important)[] Declarations);

    public void Add(string css)
    {
        var sheet = new StylesheetParser(true, true, true, true).Parse(css);
        foreach (var rule in sheet.StyleRules)
        {
            var declarations = rule.Style.Where(d => d.Value.Length > 0).Select(d => (d.Name.ToLowerInvariant(), d.Value, d.IsImportant)).ToArray();
            foreach (var selector in rule.Selector is ListSelector list ? (IEnumerable<ISelector>)list : [rule.Selector])
            {
                var key = Key(selector);
                if (!_rules.TryGetValue(key, out var rules)) _rules[key] = rules = [];
                rules.Add(new(selector, selector.Specificity, _count++, declarations));
                Step();
            }
        }
    }

    /// <summary>The style of an element, from its parent's.</summary>
    public SvgStyle Compute(SvgNode node, SvgStyle parent)
    {
        var style = parent.ForChild();
        foreach (var (name, value) in node.Attributes) Apply(style, parent, name, value);
        List<Rule> matching = _rules.Count > 0 ? [.. Matching(node).OrderBy(r => r.Priority).ThenBy(r => r.Order)] : [];
        foreach (var rule in matching)
            foreach (var (name, value, important) in rule.Declarations)
                if (!important) Apply(style, parent, name, value);
        var last = new List<(string Name, string Value)>();

        if (node["style"] is { Length: > 0 } inline)
        {
            foreach (var declaration in Split(inline))
            {
                var colon = declaration.IndexOf(':');
                if (colon < 0) continue;
                var value = declaration[(colon + 1)..];
                var important = value.IndexOf('!');
                var name = declaration[..colon].Trim().ToLowerInvariant();
                if (important < 0) Apply(style, parent, name, value);
                else last.Add((name, value[..important]));
            }
        }

        // What is important wins over the style attribute, and there what is important over that.
        foreach (var rule in matching)
            foreach (var (name, value, important) in rule.Declarations)
                if (important) Apply(style, parent, name, value);
        foreach (var (name, value) in last) Apply(style, parent, name, value);

        return style;
    }

    private List<Rule> Matching(SvgNode node)
    {
        var found = new List<Rule>();
        Collect("*");
        Collect(node.Name);
        if (node["id"] is { } id) Collect("#" + id);
        foreach (var c in node.Classes) Collect("." + c);
        return found;

        void Collect(string key)
        {
            if (!_rules.TryGetValue(key, out var rules)) return;
            foreach (var r in rules)
                if (Matches(r.Selector, node)) found.Add(r);
        }
    }

    private static string Key(ISelector selector) => selector switch
    {
        ComplexSelector c => Key(c.Last().Selector),
        CompoundSelector c => c.Select(Key).Where(k => k != "*").DefaultIfEmpty("*").First(),
        ClassSelector c => "." + c.Class,
        IdSelector i => "#" + i.Id,
        TypeSelector t => t.Name,
        _ => "*",
    };

    private void Step()
    {
        if (++_steps % 1024 == 0) work.Go(2048);
    }

    private bool Matches(ISelector selector, SvgNode node)
    {
        Step();
        return selector switch
        {
            AllSelector => true,
            TypeSelector t => t.Name == node.Name,
            ClassSelector c => node.Classes.Contains(c.Class),
            IdSelector i => node["id"] == i.Id,
            CompoundSelector c => c.All(s => Matches(s, node)),
            ListSelector l => l.Any(s => Matches(s, node)),
            ComplexSelector c => MatchesChain(c.ToList(), c.Length - 1, node, []),
            AttrAvailableSelector a => node[a.Attribute] is not null,
            AttrMatchSelector a => node[a.Attribute] == a.Value,
            AttrBeginsSelector a => node[a.Attribute]?.StartsWith(a.Value, StringComparison.Ordinal) == true,
            AttrEndsSelector a => node[a.Attribute]?.EndsWith(a.Value, StringComparison.Ordinal) == true,
            AttrContainsSelector a => node[a.Attribute]?.Contains(a.Value, StringComparison.Ordinal) == true,
            AttrListSelector a => node[a.Attribute]?.Split(' ').Contains(a.Value) == true,
            FirstChildSelector f => IsNth(node.Index + 1, f.Step, f.Offset),
            PseudoClassSelector { Class: "first-child" } => node.Index == 0,
            PseudoClassSelector { Class: "last-child" } => node.Parent is null || node.Index == node.Parent.Children.Count - 1,
            PseudoClassSelector { Class: "root" } => node.Parent is null,
            NotSelector n => !Matches(n.Inner, node),
            _ => false,
        };
    }

    private static bool IsNth(int position, int step, int offset) =>
        step == 0 ? position == offset : (position - offset) % step == 0 && (position - offset) / step >= 0;

    /// <summary>Each part carries the combinator that stands behind it; matched from the right, with backtracking for "anywhere above". What was tried in vain
    /// is tried once only.</summary>
    private bool MatchesChain(List<CombinatorSelector> parts, int at, SvgNode node, HashSet<(int, SvgNode)> inVain)
    {
        if (inVain.Contains((at, node)) || !Matches(parts[at].Selector, node)) return false;
        if (at == 0) return true;
        switch (parts[at - 1].Delimiter)
        {
            case ">":
                if (node.Parent is { } parent && MatchesChain(parts, at - 1, parent, inVain)) return true;
                break;
            case "+":
                if (node.Parent is { } p && node.Index > 0 && MatchesChain(parts, at - 1, p.Children[node.Index - 1], inVain)) return true;
                break;
            case "~":
                if (node.Parent is { } q && q.Children.Take(node.Index).Any(sibling => MatchesChain(parts, at - 1, sibling, inVain))) return true;
                break;
            default:
                for (var up = node.Parent; up is not null; up = up.Parent)
                    if (MatchesChain(parts, at - 1, up, inVain)) return true;
                break;
        }

        inVain.Add((at, node));
        return false;
    }

    private static IEnumerable<string> Split(string declarations)
    {
        int start = 0, bracket = 0;
        for (var i = 0; i < declarations.Length; i++)
        {
            if (declarations[i] == '(') bracket++;
            else if (declarations[i] == ')') bracket--;
            else if (declarations[i] == ';' && bracket <= 0)
            {
                yield return declarations[start..i];
                start = i + 1;
            }
        }

        if (start < declarations.Length) yield return declarations[start..];
    }

    private static void Apply(SvgStyle style, SvgStyle parent, string name, string value)
    {
        value = value.Trim();
        var inherit = value == "inherit";
        switch (name)
        {
            case "fill":
                if (inherit) style.Fill = parent.Fill;
                else if (Paint(value) is { } fill) style.Fill = fill;
                break;
            case "stroke":
                if (inherit) style.Stroke = parent.Stroke;
                else if (Paint(value) is { } stroke) style.Stroke = stroke;
                break;
            case "color" when SvgColours.TryRead(value, out var colour):
                style.Colour = colour;
                break;
            case "fill-opacity" when Number(value) is { } v:
                style.FillOpacity = v;
                break;
            case "stroke-opacity" when Number(value) is { } v:
                style.StrokeOpacity = v;
                break;
            case "opacity" when Number(value) is { } v:
                style.Opacity = v;
                break;
            case "fill-rule":
                style.FillRule = value == "evenodd" ? FillRule.EvenOdd : inherit ? parent.FillRule : FillRule.NonZero;
                break;
            case "stroke-width" when !inherit:
                style.StrokeWidth = value;
                break;
            case "stroke-linecap" when !inherit:
                style.Cap = value switch { "round" => LineCap.Round, "square" => LineCap.Square, _ => LineCap.Butt };
                break;
            case "stroke-linejoin" when !inherit:
                style.Join = value switch { "round" => LineJoin.Round, "bevel" => LineJoin.Bevel, _ => LineJoin.Miter };
                break;
            case "stroke-miterlimit" when double.TryParse(value, NumberStyles.Float, CultureInfo.InvariantCulture, out var m) && m >= 1:
                style.MiterLimit = m;
                break;
            case "stroke-dasharray" when !inherit:
                style.Dashes = value;
                break;
            case "stroke-dashoffset" when !inherit:
                style.DashOffset = value;
                break;
            case "visibility" when !inherit:
                style.Visible = value is not ("hidden" or "collapse");
                break;
            case "display":
                style.Displayed = value != "none";
                break;
            case "font-size" when !inherit && FontSize(value, parent.FontSize) is { } size:
                style.FontSize = size;
                break;
            case "font" when !inherit && Font(value, parent.FontSize) is var (slope, heft, height, family):
                Apply(style, parent, "font-style", slope);
                Apply(style, parent, "font-weight", heft);
                Apply(style, parent, "font-size", height);
                Apply(style, parent, "font-family", family);
                break;
            case "font-family" when !inherit:
                style.FontFamily = value;
                break;
            case "font-weight" when !inherit:
                style.FontWeight = value switch
                {
                    "normal" => 400,
                    "bold" => 700,
                    "bolder" => Math.Min(900, parent.FontWeight + 300),
                    "lighter" => Math.Max(100, parent.FontWeight - 300),
                    _ => double.TryParse(value, NumberStyles.Float, CultureInfo.InvariantCulture, out var weight) && weight is >= 1 and <= 1000 ? (int)weight
                        : style.FontWeight,
                };
                break;
            case "font-style" when !inherit:
                style.Italic = value is "italic" || value.StartsWith("oblique", StringComparison.Ordinal);
                break;
            case "letter-spacing" when !inherit:
                style.LetterSpacing = value;
                break;
            case "word-spacing" when !inherit:
                style.WordSpacing = value;
                break;
            case "text-anchor" when !inherit:
                style.Anchor = value;
                break;
            case "dominant-baseline" when !inherit:
                style.Baseline = value;
                break;
            case "marker" when !inherit:
                style.MarkerStart = style.MarkerMid = style.MarkerEnd = Reference(value);
                break;
            case "marker-start" when !inherit:
                style.MarkerStart = Reference(value);
                break;
            case "marker-mid" when !inherit:
                style.MarkerMid = Reference(value);
                break;
            case "marker-end" when !inherit:
                style.MarkerEnd = Reference(value);
                break;
            case "overflow":
                style.Overflows = value is "visible" or "auto";
                break;
            case "stop-color" when SvgColours.TryRead(value, out var stop):
                style.StopColour = stop;
                break;
            case "stop-color" when value.Equals("currentColor", StringComparison.OrdinalIgnoreCase):
                style.StopColour = style.Colour;
                break;
            case "stop-opacity" when Number(value) is { } v:
                style.StopOpacity = v;
                break;
            case "clip-path":
                style.Clip = Reference(value);
                break;
            case "mask":
                style.Mask = Reference(value);
                break;
            case "filter":
                style.Filter = value == "none" ? null : value;
                break;
            case "vector-effect":
                style.ThinStroke = value == "non-scaling-stroke";
                break;
        }
    }

    internal static string? Reference(string value)
    {
        if (!value.StartsWith("url(", StringComparison.Ordinal)) return null;
        var close = value.IndexOf(')');
        return close < 0 ? null : value[4..close].Trim(' ', '"', '\'').TrimStart('#');
    }

    private static double? FontSize(string value, double parent) => value switch
    {
        "xx-small" => 9,
        "x-small" => 10,
        "small" => 13,
        "medium" => 16,
        "large" => 18,
        "x-large" => 24,
        "xx-large" => 32,
        "smaller" => parent / 1.2,
        "larger" => parent * 1.2,
        _ => SvgLengths.Read(value, parent, parent) is { } size and >= 0 and < 1e6 ? size : null,
    };

    /// <summary>Reads "font": words in any order, the size with or without a height of lines, the family. Null where it has no size or
    /// no family.</summary>
    private static (string Style, string Weight, string Size, string Family)? Font(string value, double parent)
    {
        var (style, weight) = ("normal", "normal");
        var rest = value.AsSpan().Trim();
        while (rest.IndexOfAny(" \t\n\r\f") is > 0 and var end)
        {
            var word = rest[..end].ToString();
            rest = rest[end..].TrimStart();
            if (word is "italic" or "oblique") style = word;
            else if (word is "bold" or "bolder" or "lighter" || (word.Length == 3 && word.All(char.IsAsciiDigit))) weight = word;
            else if (word.Split('/')[0] is var size && FontSize(size, parent) is not null) return (style, weight, size, rest.ToString());
        }

        return null;
    }

    private static double? Number(string value)
    {
        var percent = value.EndsWith('%');
        return double.TryParse(percent ? value[..^1] : value, NumberStyles.Float, CultureInfo.InvariantCulture, out var v) && double.IsFinite(v)
            ? Math.Clamp(percent ? v / 100 : v, 0, 1)
            : null;
    }

    private static SvgPaint? Paint(string value)
    {
        if (value == "none") return SvgPaint.None;
        if (value.Equals("currentColor", StringComparison.OrdinalIgnoreCase)) return new(null, null, true);
        if (Reference(value) is { } reference)
        {
            var rest = value[(value.IndexOf(')') + 1)..].Trim();
            return new(SvgColours.TryRead(rest, out var fallback) ? fallback : null, reference, false);
        }

        return SvgColours.TryRead(value, out var colour) ? new(colour, null, false) : null;
    }
}
