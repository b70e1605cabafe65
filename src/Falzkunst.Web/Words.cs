using Falzkunst.Core.Cards;

namespace Falzkunst.Web;

/// <summary>Numbers as the pages write them.</summary>
public static class Words
{
    public static string Count(int n, string one, string? many = null) => n == 1 ? $"1 {one}" : $"{n:N0} {many ?? one + "s"}";

    public static string Size(Length width, Length height, string unit) => unit == "in"
        ? $"{width.Inches:0.##} × {height.Inches:0.##} in"
        : $"{width.Mm:0.#} × {height.Mm:0.#} mm";

    public static string Measure(Length length, string unit) => LengthText.Write(length, unit == "in" ? LengthUnit.Inch : LengthUnit.Millimetre);

    /// <summary>How much paper: "24.1 cm²", "3.74 in²".</summary>
    public static string Area(double mm2, string unit) => unit == "in" ? $"{mm2 / 645.16:0.##} in²" : $"{mm2 / 100:0.#} cm²";

    /// <summary>A length worked by a tool, short: "412 mm", "3.2 m".</summary>
    public static string Run(Length length) => length.Mm < 1000 ? $"{length.Mm:0} mm" : $"{length.Mm / 1000:0.0} m";

    /// <summary>How a tool works a stock: "2 passes, 190 g, 50 mm/s, blade 0.35 mm out".</summary>
    public static string Setting(Core.Runs.MaterialSetting m) => string.Join(", ", new[]
    {
        Count(m.Passes, "pass", "passes") + (m.PassesTogether ? " all together" : ""), m.ForceGrams > 0 ? $"{m.ForceGrams:0} g" : "usual force",
        m.SpeedMmS > 0 ? $"{m.SpeedMmS:0} mm/s" : "", m.Depth is { } depth ? $"blade {Measure(depth, "mm")} out" : "",
        m.Lift is { } lift ? $"lifted by {Measure(lift, "mm")}" : "",
    }.Where(t => t.Length > 0));

    /// <summary>A time as it is read: "5 s", "4 min", "4 min 20 s", "1 h 5 min".</summary>
    public static string Time(double seconds)
    {
        var s = (long)Math.Max(1, Math.Round(seconds));
        var m = (s + 30) / 60;
        return s < 60 ? $"{s} s" : s < 3600 ? $"{s / 60} min{Then(s % 60, "s")}" : $"{m / 60} h{Then(m % 60, "min")}";

        static string Then(long rest, string unit) => rest == 0 ? "" : $" {rest} {unit}";
    }

    /// <summary>A way of tracing, in words.</summary>
    public static string OfOverEdge(OverEdge over) => over switch
    {
        OverEdge.In => "inside",
        OverEdge.Across => "across",
        _ => "outside",
    };

    public static string OfMode(TraceMode mode) => mode switch
    {
        TraceMode.Whole => "a rectangle, the whole picture on it",
        TraceMode.Outline => "outer edge",
        TraceMode.Flat => "one colour",
        TraceMode.Colours => "several colours",
        _ => "pen strokes",
    };

    /// <summary>What holds a piece: "6 mm inside of the left edge of front of Base".</summary>
    public static string OfHold(Hold hold, Design design, string unit)
    {
        var parts = hold.To.Split('#');
        var piece = design.Piece(parts[0]);
        var panel = piece is not null && parts.Length == 2 && int.TryParse(parts[1], out var n) ? Panels.Of(piece).ElementAtOrDefault(n) : null;
        var on = piece is null ? "the page" : panel is { Name.Length: > 0 } ? $"{panel.Name} of {piece.Label}" : panel is not null ? $"a panel of {piece.Label}"
            : piece.Label;
        string? Side(AlignAt? at, string start, string end) => at switch { AlignAt.Start => start, AlignAt.End => end, AlignAt.Middle => "middle", _ => null };
        var sides = new[] { Side(hold.Across, "left edge", "right edge"), Side(hold.Down, "upper edge", "lower edge") }.OfType<string>().Distinct();
        return $"{(hold.Inset == Length.Zero ? "at" : $"{Measure(hold.Inset, unit)} inside of")} the {string.Join(" and ", sides)} of {on}";
    }

    /// <summary>How a card base is folded, in words.</summary>
    public static string OfBase(BaseKind kind) => kind switch
    {
        BaseKind.Flat => "flat, no fold",
        BaseKind.Tent => "tent, fold on top",
        BaseKind.SideFold => "fold at the side",
        BaseKind.GateFold => "two doors",
        BaseKind.TriFold => "three panels, folded in",
        _ => "zigzag",
    };

    /// <summary>The formats that a front can have.</summary>
    public static IReadOnlyList<CardFormat> Fronts { get; } = [.. CardFormats.All.Where(f => f.Name.Contains("card", StringComparison.Ordinal)
        && !f.Name.EndsWith("open", StringComparison.Ordinal))];

    public static string OfGround(Ground ground) => ground switch
    {
        Ground.JoinedToRim => "what is joined to the rim",
        Ground.LikeRim => "all that looks like the rim",
        _ => "nothing but what is see-through",
    };

    /// <summary>What a design holds, in words: "14 pieces on 9 plies, 56 lines".</summary>
    public static string Holds(Design design) => Holds(design.Pieces.Length, design.Plies.Length, design.Lines.Length, design.Artwork.Length);

    public static string Holds(int pieces, int plies, int lines, int pictures)
    {
        var parts = new List<string>();
        if (pieces > 0) parts.Add($"{Count(pieces, "piece")} on {Count(plies, "ply", "plies")}");
        if (lines > 0) parts.Add(Count(lines, "line"));
        if (pictures > 0) parts.Add($"{Count(pictures, "picture")} to print");
        return string.Join(", ", parts);
    }

    /// <summary>What an operation would do, as the beginning of a sentence: "Would be cut".</summary>
    public static string Does(Operation operation) => operation switch
    {
        Operation.Cut => "Would be cut",
        Operation.Score => "Would be scored",
        Operation.Perforate => "Would be perforated",
        Operation.Draw => "Would be drawn",
        Operation.Foil => "Would be foiled",
        Operation.Deboss => "Would be debossed",
        Operation.Print => "Is printed",
        _ => "Rests",
    };

    /// <summary>What work is done along: "3 outlines, 2 holes, 14 lines".</summary>
    public static string Parts(Work work) => string.Join(", ", new[] { (work.Edges, "outline"), (work.Holes, "hole"), (work.Lines, "line") }
        .Where(p => p.Item1 > 0).Select(p => Count(p.Item1, p.Item2)));

    /// <summary>The most letters that go into a cookie, which has room for some 4,000 bytes after encryption.</summary>
    public const int LongestNotice = 700;

    /// <summary>A text of several sentences, cut at one of them where it is long.</summary>
    public static string Short(string text)
    {
        if (text.Length <= LongestNotice) return text;
        var end = text.LastIndexOf(". ", LongestNotice, StringComparison.Ordinal);
        return (end > 0 ? text[..(end + 1)] : text[..LongestNotice] + "…") + " There is more of this kind.";
    }

    public static string Big(string text) => text.Length == 0 ? text : char.ToUpperInvariant(text[0]) + text[1..];
}
