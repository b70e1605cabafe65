using System.Text.Json.Serialization;
using Falzkunst.Core.Lettering;
using Falzkunst.Core.Regions;

namespace Falzkunst.Core.Cards;

/// <summary>What a piece is before its treatments, in the piece's own coordinates and at its true size.</summary>
[JsonPolymorphic(TypeDiscriminatorPropertyName = "is")]
[JsonDerivedType(typeof(Drawn), "drawn")]
[JsonDerivedType(typeof(Made), "made")]
[JsonDerivedType(typeof(Lettered), "lettered")]
public abstract record Shape
{
    /// <summary>Its outline, without treatments: outer edges clockwise on the screen, holes counter-clockwise. Pure.</summary>
    internal abstract VectorPath Derive();

    /// <summary>The same shape so many times as large.</summary>
    internal abstract Shape Scaled(double by);

    /// <summary>What is wrong with its numbers, as a part of a sentence; null where all is well.</summary>
    public abstract string? Fault();
}

/// <summary>A shape that somebody or a file drew.</summary>
public sealed record Drawn(VectorPath Path) : Shape
{
    internal override VectorPath Derive() => Path;

    internal override Shape Scaled(double by) => new Drawn(Path.Transform(Affine.Scale(by, by)));

    public override string? Fault() => null;
}

/// <summary>A shape that a maker makes from numbers, which stay what is stored.</summary>
/// <param name="Maker">One of <see cref="Makers.All"/>.</param>
/// <param name="Numbers">By name, lengths in mm.</param>
public sealed record Made(string Maker, ImmutableSortedDictionary<string, double> Numbers) : Shape
{
    internal override VectorPath Derive() => Makers.Find(Maker)?.Make(Numbers) ?? VectorPath.Empty;

    internal override Shape Scaled(double by) => Sized(by, by, by);

    /// <summary>The same by the maker at other sizes across and down; all its other lengths by a third.</summary>
    internal Made Sized(double across, double down, double others) => this with
    {
        Numbers = Numbers.ToImmutableSortedDictionary(n => n.Key, n => n.Value * n.Key switch
        {
            "width" => across,
            "height" => down,
            _ => Makers.Find(Maker)?.Takes.FirstOrDefault(t => t.Name == n.Key)?.IsLength == false ? 1 : others,
        }, Numbers.KeyComparer),
    };

    public override string? Fault() => Makers.Find(Maker) is { } maker ? maker.Fault(Numbers) : $"there is no maker “{Maker}”";

    public bool Equals(Made? other) => other is not null && Maker == other.Maker && Numbers.SequenceEqual(other.Numbers);

    public override int GetHashCode() => HashCode.Combine(Maker, Numbers.Count, Numbers.Count > 0 ? Numbers.First().Value : 0);
}

/// <summary>Where the lines of a text begin or end alike.</summary>
public enum TextAlign
{
    Left,
    Centre,
    Right,
}

/// <summary>
/// Words, set in a face that ships. The first base line is y = 0, and the block of lines begins at x = 0. With outlines, letters are one outline where they
/// overlap (as those of a script do), or are kept apart; a face of single lines gives strokes, which are no outline of a piece but the path of a line.
/// </summary>
/// <param name="Text">Lines are parted by line feeds.</param>
/// <param name="Face">One of <see cref="Faces.All"/>.</param>
/// <param name="CapHeight">How far a capital H rises above the base line.</param>
/// <param name="Spacing">What is added between letters.</param>
public sealed record Lettered(string Text, string Face, int Weight, Length CapHeight, Length Spacing) : Shape
{
    /// <summary>More than a card holds, and what is set in a second or two.</summary>
    public const int MostSigns = 2000;

    /// <summary>From one base line to the next, unless something is added: so many times the height of a capital.</summary>
    private const double Leading = 1.9;

    /// <summary>What is added between words.</summary>
    [JsonIgnore(Condition = JsonIgnoreCondition.WhenWritingDefault)]
    public Length WordSpacing { get; init; }

    /// <summary>What is added between lines.</summary>
    [JsonIgnore(Condition = JsonIgnoreCondition.WhenWritingDefault)]
    public Length LineSpacing { get; init; }

    [JsonIgnore(Condition = JsonIgnoreCondition.WhenWritingDefault)]
    public TextAlign Align { get; init; }

    /// <summary>The radius of the circle that the first base line runs along, over its top; negative runs along its bottom. Zero is straight.</summary>
    [JsonIgnore(Condition = JsonIgnoreCondition.WhenWritingDefault)]
    public Length Bend { get; init; }

    /// <summary>What the words run along, instead of a straight line or a circle; null where there is no such line.</summary>
    [JsonIgnore(Condition = JsonIgnoreCondition.WhenWritingNull)]
    public BaseLine? Along { get; init; }

    /// <summary>The least gap between outlines of letters that follow one another; zero lets them join.</summary>
    [JsonIgnore(Condition = JsonIgnoreCondition.WhenWritingDefault)]
    public Length Apart { get; init; }

    /// <summary>The beginning of a text, for a sentence about it.</summary>
    public static string Short(string text) => text.ReplaceLineEndings(" ") is var line && line.Length > 30 ? line[..29] + "…" : line;

    /// <summary>The same words as large as makes them so wide; spacing keeps its amounts. As they are, where letters of no size would.</summary>
    public Lettered AsWide(Length width)
    {
        var words = this;
        for (var round = 0; round < 8; round++)
        {
            if (words.Fault() is not null || words.Derive().Bounds.Width is not (> 1e-9 and var now)) return this;
            if (Math.Abs(now - width.Mm) < 1e-4) break;
            words = words with { CapHeight = words.CapHeight * (width.Mm / now) };
        }

        return words.Fault() is null ? words : this;
    }

    /// <summary>The least height of a capital at which letters can be read: 2 mm, and of single lines as much as keeps strokes of a pen apart.</summary>
    /// <param name="pen">How wide the pen draws; zero for letters that are cut.</param>
    public static Length LeastCapHeight(Length pen) => Length.FromMm(Math.Max(2, 4 * pen.Mm));

    /// <summary>The same words with a new line wherever one would be wider; lines that were parted stay so. A wider word has a line of its own.</summary>
    public Lettered Broken(Length width)
    {
        var lines = new List<string>();
        foreach (var line in Text.Split('\n'))
        {
            var now = "";
            foreach (var word in line.Split(' ', StringSplitOptions.RemoveEmptyEntries))
            {
                var longer = now.Length == 0 ? word : $"{now} {word}";
                if (now.Length > 0 && (this with { Text = longer }).Path.Bounds.Width > width.Mm)
                {
                    lines.Add(now);
                    longer = word;
                }

                now = longer;
            }

            lines.Add(now);
        }

        return this with { Text = string.Join('\n', lines) };
    }

    /// <summary>The same words in a place: as they are where they fit, otherwise in lines, and smaller, but never smaller than a height.</summary>
    /// <param name="least">The height of a capital that they keep.</param>
    /// <returns>Null where they don't fit even so.</returns>
    public Lettered? Within(Length width, Length height, Length least)
    {
        const double smaller = 0.92;
        for (var words = this; ; words = words with { CapHeight = Length.FromMm(Math.Max(least.Mm, words.CapHeight.Mm * smaller)) })
        {
            // Along a curve there is one line.
            var set = words.Path.Bounds.Width <= width.Mm || Bend != Length.Zero ? words : words.Broken(width);
            if (set.Path.Bounds is var box && box.Width <= width.Mm + Tolerances.Same && box.Height <= height.Mm + Tolerances.Same) return set;
            if (words.CapHeight <= least) return null;
        }
    }

    /// <summary>The same words along the outer edge of an area, inside of it, in the coordinates of that.</summary>
    /// <param name="gap">From the edge to the tops of capitals at the upper edge, to the base line at the lower one.</param>
    /// <returns>Null where a line of them is longer than that.</returns>
    public Lettered? AlongEdge(VectorPath area, Length gap, WordsEdge edge)
    {
        var straight = this with { Bend = Length.Zero, Along = null };
        return BaseLine.Inside(area, edge == WordsEdge.Upper ? gap + CapHeight : gap, edge) is { } along && straight.Path.Bounds.Width < along.Path.Length.Mm
            ? straight with { Along = along, Align = TextAlign.Centre } : null;
    }

    /// <summary>The letters: outlines of their paper, or strokes. Remembered by content.</summary>
    public VectorPath Path => Outlines.Derive(this, []);

    /// <summary>Whether it is made of strokes.</summary>
    [JsonIgnore]
    public bool IsSingleLine => Faces.Find(Face, Weight)?.IsSingleLine == true;

    internal override VectorPath Derive()
    {
        if (Faces.Find(Face, Weight) is not { } face) return VectorPath.Empty;
        var size = CapHeight.Mm / face.CapHeight;
        var lines = Text.ReplaceLineEndings("\n").Split('\n').Select(l => Set(face, l, size)).ToList();
        var width = lines.Max(l => l.Width);
        var letters = ImmutableArray.CreateBuilder<Subpath>();
        var run = Along is { } along ? new BaseLine.Run(along.Path.Subpaths[0]) : null;
        var part = Align switch { TextAlign.Centre => 0.5, TextAlign.Right => 1, _ => 0 };
        for (var k = 0; k < lines.Count; k++)
        {
            var indent = part * (width - lines[k].Width);
            var down = k * (CapHeight.Mm * Leading + LineSpacing.Mm);
            foreach (var (path, x, middle) in lines[k].Letters)
            {
                var place = run?.Placed(Along!.At.Mm + x + middle - part * lines[k].Width, middle, down) ?? Placed(x + indent, middle, down, width);
                letters.AddRange(path.Transform(place).Subpaths);
            }
        }

        return face.IsSingleLine ? new(letters.ToImmutable())
            : VectorPath.Joined(Region.Parts(new(letters.ToImmutable()), FillRule.NonZero).OrderBy(p => p.Bounds.Left));
    }

    /// <summary>The letters of a line at their size, each with where it begins and the middle of its width.</summary>
    private (List<(VectorPath Path, double X, double Middle)> Letters, double Width) Set(IFace face, string line, double size)
    {
        var letters = new List<(VectorPath, double, double)>();
        var (added, end) = (0.0, 0.0);
        Region? before = null;
        foreach (var letter in face.Letters(line, Spacing == Length.Zero && Apart == Length.Zero))
        {
            var path = letter.Path.Transform(Affine.Scale(size, size).Then(Affine.Move(0, letter.Y * size)));
            var x = letter.X * size + added;
            if (Apart > Length.Zero && !face.IsSingleLine && !path.IsEmpty)
            {
                var area = Region.Of(path.Transform(Affine.Move(x, 0)));
                for (var round = 0; before is not null && round < 40; round++)
                {
                    var gap = before.DistanceTo(area);
                    if (gap >= Apart.Mm - 1e-3) break;
                    var by = Math.Max(Apart.Mm - gap, 0.005);
                    (x, added) = (x + by, added + by);
                    area = area.Transform(Affine.Move(by, 0));
                }

                before = area;
            }

            letters.Add((path, x, letter.Advance * size / 2));
            end = x + letter.Advance * size;
            added += Spacing.Mm + (letter.IsSpace ? WordSpacing.Mm : 0);
        }

        return (letters, end);
    }

    /// <summary>Where a letter goes that begins at x on a base line so far below the first.</summary>
    private Affine Placed(double x, double middle, double down, double width)
    {
        if (Bend == Length.Zero) return Affine.Move(x, down);
        var sign = Math.Sign(Bend.Mm);
        var radius = Math.Abs(Bend.Mm) - sign * down;
        var turn = (x + middle - width / 2) / Math.Abs(Bend.Mm);
        var (sin, cos) = Math.SinCos(turn);
        return Affine.Move(-middle, 0).Then(Affine.Turn(Angle.FromRadians(sign * turn)))
            .Then(Affine.Move(width / 2 + radius * sin, sign * (Math.Abs(Bend.Mm) - radius * cos)));
    }

    internal override Shape Scaled(double by) => this with
    {
        CapHeight = CapHeight * by,
        Spacing = Spacing * by,
        WordSpacing = WordSpacing * by,
        LineSpacing = LineSpacing * by,
        Bend = Bend * by,
        Along = Along?.Scaled(by),
        Apart = Apart * by,
    };

    public override string? Fault() =>
        Text is null || Text.Length is 0 or > MostSigns ? $"a text has 1 to {MostSigns} signs"
        : CapHeight.Mm is not (>= 0.1 and <= 2000) ? "letters are 0.1 mm to 2 m high"
        : Math.Abs(Spacing.Mm) > 1000 || Math.Abs(WordSpacing.Mm) > 1000 || Math.Abs(LineSpacing.Mm) > 1000 ? "letters and lines are at most 1 m apart"
        : Apart.Mm is not (>= 0 and <= 100) ? "letters are kept apart by 0 to 100 mm"
        : Math.Abs(Bend.Mm) is > 0 and < 1 or > 100_000 ? "the circle of a base line has a radius of 1 mm to 100 m"
        : !Enum.IsDefined(Align) ? "lines are set left, centred or right"
        : Along?.Fault() is { } along ? along
        : Faces.Find(Face, Weight) is null ? $"the typeface “{Face}” does not ship with the application" : null;
}
