using System.Text;
using System.Xml;
using System.Xml.Linq;

namespace Falzkunst.Core.Lettering;

/// <summary>
/// A face whose letters are single strokes, for pens, foil and debossing; read from an SVG font (SVG 1.1, chapter 20) that ships with the application. Letters
/// that would come twice as wide for being outlines of strokes are not among them.
/// </summary>
public sealed class StrokeFace : IFace
{
    private static readonly Lazy<IReadOnlyList<StrokeFace>> Shipped = new(() =>
        [new("EMS Readability"), new("EMS Tech"), new("EMS Felix"), new("EMS Allure"), new("EMS Nixish")]);

    private readonly Dictionary<Rune, (VectorPath Path, double Advance)> _letters = [];

    private StrokeFace(string name)
    {
        Name = name;
        using var file = typeof(StrokeFace).Assembly.GetManifestResourceStream($"{name.ToLowerInvariant().Replace(' ', '-')}.svg")!;
        using var reader = XmlReader.Create(file, new() { DtdProcessing = DtdProcessing.Ignore, XmlResolver = null });
        var font = XDocument.Load(reader).Descendants().First(e => e.Name.LocalName == "font");
        var em = Number(font.Elements().First(e => e.Name.LocalName == "font-face"), "units-per-em", 1000);
        var usual = Number(font, "horiz-adv-x", em / 2);
        var flip = Affine.Scale(1 / em, -1 / em);
        foreach (var glyph in font.Elements().Where(e => e.Name.LocalName == "glyph"))
        {
            if (glyph.Attribute("unicode")?.Value is not { Length: > 0 } sign || Rune.DecodeFromUtf16(sign, out var rune, out var used)
                != System.Buffers.OperationStatus.Done || used != sign.Length) continue;
            _letters.TryAdd(rune, (PathText.Read(glyph.Attribute("d")?.Value ?? "").Transform(flip), Number(glyph, "horiz-adv-x", usual) / em));
        }

        // What the file says of its height is not so; a letter is measured.
        CapHeight = -_letters[new('H')].Path.Bounds.Top;
    }

    public static IReadOnlyList<StrokeFace> All => Shipped.Value;

    public string Name { get; }

    public bool IsSingleLine => true;

    public double CapHeight { get; }

    public bool Has(Rune sign) => _letters.ContainsKey(sign);

    public IReadOnlyList<SetLetter> Letters(string text, bool isJoined)
    {
        var letters = new List<SetLetter>(text.Length);
        var pen = 0.0;
        foreach (var sign in text.EnumerateRunes())
        {
            var (path, advance) = _letters.TryGetValue(sign, out var letter) ? letter : (VectorPath.Empty, _letters[new(' ')].Advance);
            letters.Add(new(path, pen, 0, advance, Rune.IsWhiteSpace(sign)));
            pen += advance;
        }

        return letters;
    }

    private static double Number(XElement element, string name, double usual) =>
        double.TryParse(element.Attribute(name)?.Value, NumberStyles.Float, CultureInfo.InvariantCulture, out var n) ? n : usual;
}
