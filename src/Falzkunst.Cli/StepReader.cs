using System.Collections.Immutable;
using System.Text.Json;
using Falzkunst.Core.Cards;
using Falzkunst.Core.Lettering;
using Falzkunst.Core.Regions;
using Falzkunst.Core.Shapes;
using Falzkunst.Core.Strength;

namespace Falzkunst.Cli;

/// <summary>Reads one step of <c>edit</c>; what is wrong with it is said with its number.</summary>
/// <param name="done">The steps before, whose pieces it may name: "$0" is the first piece that step 0 made, "$0.1" its second.</param>
/// <param name="prefix">What every sentence about it begins with.</param>
internal sealed class StepReader(JsonElement step, IReadOnlyList<EditCommand.Step> done, string prefix)
{
    private const double MostMm = 1e4;

    public WrongInputException Wrong(string why) => new($"{prefix}{why}.");

    public string Text(string name) => step.ValueKind == JsonValueKind.Object && step.TryGetProperty(name, out var value)
        && value.ValueKind == JsonValueKind.String ? value.GetString()! : throw Wrong($"\"{name}\" is missing or no text");

    /// <summary>The edit that the step asks for.</summary>
    public Edit Edit(string word, Design design) => word switch
    {
        "move" => Two("by") is var (right, down) ? new Move(Things("of", design), Length.FromMm(right), Length.FromMm(down)) : throw Wrong("\"by\" is missing"),
        "turn" => new Turn(Pieces("of", design), Angle.FromDegrees(Number("degrees")), Point("about")),
        "mirror" => new Mirror(Pieces("of", design), Text("axis") switch
        {
            "upright" => MirrorAxis.Upright,
            "level" => MirrorAxis.Level,
            _ => throw Wrong("\"axis\" is upright or level"),
        }, Point("at")),
        "size" => new Resize(Pieces("of", design), Optional("width"), Optional("height"), Flag("keepRatio"), From()),
        "copy" => Two("by") is var (right, down) ? new Copies(Pieces("of", design), Whole("rows"), Whole("columns"), Length.FromMm(right), Length.FromMm(down))
            : throw Wrong("\"by\" is missing"),
        "align" => Align.Read(Text("where")) is var (across, down) ? new Align(Pieces("of", design), Text("to") is "page" ? "page" : Pieces("to", design)[0],
            across, down, Optional("inset") ?? Length.Zero) : throw Wrong("\"where\" is left, centre or right, and top, middle or bottom"),
        "join" => new JoinPieces(Pieces("of", design)),
        "takeAway" => new TakeAway(Pieces("from", design), Pieces("what", design)),
        "overlap" => new KeepOverlap(Pieces("of", design)),
        "divide" => new Divide(Pieces("of", design)),
        "cutApart" when Has("edgeOf") => new CutAlong(Pieces("of", design), Pieces("edgeOf", design)[0]),
        "cutApart" => new CutApart(Pieces("of", design), Path("along")),
        "punch" => new Punch(Pieces("with", design)[0]),
        "outset" when IsNew => new LayTreated(Pieces("of", design), [Outset()], Times(), "frame", Number("by") > 0),
        "outset" => new Treat(Pieces("of", design), Outset()),
        "fillHoles" => new Treat(Pieces("of", design), new FilledHoles(Number("underMm2"))),
        "resizeHoles" => new Treat(Pieces("of", design), new SizedHoles(Length.FromMm(Number("by")))),
        "roundCorners" => new Treat(Pieces("of", design), new RoundedCorners(Length.FromMm(Number("radius")))),
        "simplify" => new Treat(Pieces("of", design), new Simplified(Length.FromMm(Number("tolerance")))),
        "smooth" => new Treat(Pieces("of", design), new Smoothed(Length.FromMm(Number("under")))),
        "strengthen" => new Strengthen(Pieces("of", design), new(StrengthenWay.OnlyThin,
            new(Length.FromMm(Number("minWidth")), Length.FromMm(Number("minGap"))))
        { Apart = Optional("apart") ?? Length.Zero }),
        "bridge" => new Treat(Pieces("of", design), new Bridged(Length.FromMm(Number("width")), Length.FromMm(Number("within")), Optional("underMm2")?.Mm)),
        "rim" => new LayTreated(Pieces("of", design), [new Rim(Length.FromMm(Number("width")))], 1, "rim", false),
        "backing" => new LayTreated(Pieces("of", design), [new FilledHoles(FilledHoles.All), new Outset(Length.FromMm(Number("by")))], 1, "backing", true),
        "close" => new CloseLines(Lines("of", design), Optional("within") ?? Length.FromMm(Tolerances.Closes), Flag("asPiece")),
        "add" => Add(),
        "text" => Words(design),
        "operation" => new SetLineOperation(Lines("of", design), Operations.TryRead(Text("is"), out var operation) ? operation
            : throw Wrong($"there is no operation \"{Text("is")}\"")),
        _ => throw Wrong($"there is no \"{word}\"; see ./falzkunst help edit"),
    };

    private Length? Optional(string name) => step.TryGetProperty(name, out _) ? Length.FromMm(Number(name)) : null;

    private bool Flag(string name) => step.TryGetProperty(name, out var value) && value.ValueKind switch
    {
        JsonValueKind.True => true,
        JsonValueKind.False => false,
        _ => throw Wrong($"\"{name}\" is true or false"),
    };

    private int Whole(string name) => Number(name) is var n && n == Math.Round(n) ? (int)n : throw Wrong($"\"{name}\" is a whole number");

    /// <summary>"left top", "centre", "right middle": what of the box stays where it is.</summary>
    private Anchor From()
    {
        if (!step.TryGetProperty("from", out _)) return Anchor.Centre;
        return Align.Read(Text("from")) is var (across, down) ? new(Part(across), Part(down))
            : throw Wrong("\"from\" is left, centre or right, and top, middle or bottom");

        static double Part(AlignAt? at) => at switch { AlignAt.Start => 0, AlignAt.End => 1, _ => 0.5 };
    }

    private bool IsNew => Flag("asNew");

    private int Times() => Has("times") ? Whole("times") : 1;

    private bool Has(string name) => step.TryGetProperty(name, out _);

    private Outset Outset()
    {
        var outset = new Outset(Length.FromMm(Number("by"))) { Corners = OneOf("corners", CornerStyle.Round) };
        return outset.By == Length.Zero ? throw Wrong("an outset by 0 changes nothing") : outset;
    }

    /// <summary>One of the words that an enumeration is written with: "round", "bevel".</summary>
    private T OneOf<T>(string name, T usual)
        where T : struct, Enum
    {
        if (!Has(name)) return usual;
        return Enum.TryParse<T>(Text(name), true, out var value) && Enum.IsDefined(value) && !int.TryParse(Text(name), out _) ? value
            : throw Wrong($"\"{name}\" is one of {string.Join(", ", Enum.GetNames<T>()).ToLowerInvariant()}");
    }

    private Operation Is(Operation usual) => !Has("is") ? usual
        : Operations.TryRead(Text("is"), out var operation) ? operation : throw Wrong($"there is no operation \"{Text("is")}\"");

    private Edit Add()
    {
        var kind = Text("shape");
        var label = Has("label") ? Text("label") : "";
        if (kind == "path")
        {
            var path = Path("path");
            if (Point("at") is { } corner) path = path.Transform(Affine.Move(corner.X - path.Bounds.Left, corner.Y - path.Bounds.Top));
            if (!path.IsClosed) return new AddLine(path, null, Is(Operation.Draw));
            var area = VectorPath.Joined(Together.Clean(path));
            return area.IsEmpty ? throw Wrong("the path encloses nothing") : new AddPiece(new Drawn(area), Place.Own, label.Length > 0 ? label : "Shape");
        }

        if (Makers.Find(kind) is not { } maker) throw Wrong($"\"shape\" is one of {string.Join(", ", Makers.All.Select(m => m.Name))}, path");
        var numbers = ImmutableSortedDictionary<string, double>.Empty;
        foreach (var number in maker.Takes)
        {
            if (Has(number.Name)) numbers = numbers.Add(number.Name, number.Name == "sides" ? Whole("sides") : Number(number.Name));
            else if (number.Name is "width" or "height") throw Wrong($"\"{number.Name}\" is missing");
        }

        var at = Point("at") ?? throw Wrong("\"at\" is missing");
        return new AddPiece(new Made(kind, numbers), Place.Own.Moved(at), label.Length > 0 ? label : char.ToUpperInvariant(kind[0]) + kind[1..]);
    }

    private Edit Words(Design design)
    {
        var weight = Has("weight") ? Whole("weight") : 400;
        var face = !Has("face") ? Faces.Usual : Faces.Find(Text("face"), weight)
            ?? throw Wrong($"there is no face \"{Text("face")}\"; there are {string.Join(", ", Faces.All.Select(f => f.Name).Distinct())}");
        var words = new Lettered(Text("words"), face.Name, weight, Length.FromMm(Number("capHeight")), Optional("spacing") ?? Length.Zero)
        {
            WordSpacing = Optional("wordSpacing") ?? Length.Zero,
            LineSpacing = Optional("lineSpacing") ?? Length.Zero,
            Align = OneOf("align", TextAlign.Left),
            Bend = Optional("bend") ?? Length.Zero,
            Apart = Optional("apart") ?? Length.Zero,
        };
        if (words.Text.Length <= Lettered.MostSigns && Faces.Missing(words.Text, face) is { } missing) throw Wrong(missing);
        if (Optional("asWideAs") is { } width) words = words.AsWide(width);
        if (Has("along"))
        {
            var piece = design.Piece(Pieces("along", design)[0])!;
            words = words.AlongEdge(piece.OnCard, Optional("gap") ?? Placing.Margin, OneOf("edge", WordsEdge.Upper))
                ?? throw Wrong($"the words are longer than the edge of \"{piece.Id}\"");
        }

        var at = Place.Own.Moved(Point("at") ?? (Has("along") ? default(Point) : throw Wrong("\"at\" is missing")));
        // The middle, or the end, of the lines lies there.
        if (words.Align != TextAlign.Left && !Has("along"))
            at = at.Moved(new(-(words.Align == TextAlign.Centre ? words.Path.Bounds.Centre.X : words.Path.Bounds.Right), 0));
        return face.IsSingleLine ? new AddLine(null, new(words, at), Is(Operation.Draw)) : new AddPiece(words, at, Lettered.Short(words.Text));
    }

    private double Number(string name) => step.TryGetProperty(name, out var value) && value.ValueKind == JsonValueKind.Number
        && value.TryGetDouble(out var number) ? Measured(name, number) : throw Wrong($"\"{name}\" is missing or no number");

    private double Measured(string name, double number) => Math.Abs(number) <= MostMm ? number : throw Wrong($"\"{name}\" is larger than {MostMm:0}");

    private (double, double)? Two(string name)
    {
        if (!step.TryGetProperty(name, out var value)) return null;
        return value.ValueKind == JsonValueKind.Array && value.GetArrayLength() == 2 && value[0].ValueKind == JsonValueKind.Number
            && value[1].ValueKind == JsonValueKind.Number ? (Measured(name, value[0].GetDouble()), Measured(name, value[1].GetDouble()))
            : throw Wrong($"\"{name}\" is two numbers, [x, y]");
    }

    private Point? Point(string name) => Two(name) is var (x, y) ? new(x, y) : null;

    private VectorPath Path(string name)
    {
        var path = PathText.Read(Text(name), out var isWhole);
        return isWhole && !path.IsEmpty ? path : throw Wrong($"\"{name}\" is no path data");
    }

    private ImmutableArray<string> Pieces(string name, Design design) => Ids(name, id => design.Piece(id) is not null ? null : $"there is no piece \"{id}\"");

    private ImmutableArray<string> Lines(string name, Design design) => Ids(name, id => design.Line(id) is not null ? null : $"there is no line \"{id}\"");

    private ImmutableArray<string> Things(string name, Design design) =>
        Ids(name, id => design.Piece(id) is not null || design.Line(id) is not null ? null : $"there is no piece or line \"{id}\"");

    /// <summary>One name, or a list of them.</summary>
    private ImmutableArray<string> Ids(string name, Func<string, string?> fault)
    {
        if (!step.TryGetProperty(name, out var value)) throw Wrong($"\"{name}\" is missing");
        var names = value.ValueKind == JsonValueKind.Array ? value.EnumerateArray().ToList() : [value];
        if (names.Count == 0 || names.Exists(n => n.ValueKind != JsonValueKind.String)) throw Wrong($"\"{name}\" is a list of ids");
        ImmutableArray<string> ids = [.. names.Select(n => Known(n.GetString()!))];
        foreach (var id in ids)
            if (fault(id) is { } why) throw Wrong(why);
        return ids;
    }

    private string Known(string id)
    {
        if (!id.StartsWith('$')) return id;
        var parts = id[1..].Split('.');
        return parts.Length <= 2 && int.TryParse(parts[0], out var n) && n >= 0 && n < done.Count
            && int.TryParse(parts.Length == 2 ? parts[1] : "0", out var k) && k >= 0 && k < done[n].Made.Count ? done[n].Made[k]
            : throw Wrong($"\"{id}\" names no piece that a step before made");
    }
}
