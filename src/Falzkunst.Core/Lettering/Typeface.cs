using System.Collections.Concurrent;
using HarfBuzzSharp;
using SkiaSharp;

namespace Falzkunst.Core.Lettering;

/// <summary>A letter in its place: which one, where its origin lies, how far the pen goes on behind it, and which characters of the text it stands
/// for.</summary>
/// <param name="Cluster">The index of the first character (UTF-16) that it stands for.</param>
public readonly record struct Glyph(uint Id, int Cluster, double X, double Y, double Advance);

/// <summary>
/// An outline typeface that ships with the application. Measures are in em, y down, from the base line. Shaping (kerning, ligatures) is HarfBuzz's;
/// nothing is ever taken from the machine's own fonts, so that a card looks the same wherever it is prepared.
/// </summary>
public sealed class Typeface : IFace
{
    private static readonly Lazy<ImmutableArray<Typeface>> Shipped = new(() =>
    [
        new("Alegreya Sans", 400), new("Alegreya Sans", 500), new("Alegreya Sans", 700), new("Fraunces", 600), new("Josefin Sans", 400),
        new("Josefin Sans", 700), new("Courgette", 400), new("Sacramento", 400), new("Amatic SC", 700), new("Abril Fatface", 400),
    ]);

    private readonly SKTypeface _outlines;
    private readonly Font _shapes;
    private readonly int _unitsPerEm;
    private readonly ConcurrentDictionary<uint, VectorPath> _letters = new();
    private readonly Lock _shaping = new();

    private Typeface(string family, int weight)
    {
        (Family, Weight) = (family, weight);
        using var file = typeof(Typeface).Assembly.GetManifestResourceStream($"{family.ToLowerInvariant().Replace(' ', '-')}-{weight}.ttf")!;
        // Both libraries read the one copy outside the collected heap, which lives as long as they do. (Blob.FromStream lets its copy be moved.)
        var data = SKData.Create(file);
        _outlines = SKTypeface.FromData(data);
        using var blob = new Blob(data.Data, (int)data.Size, MemoryMode.ReadOnly, data.Dispose);
        _shapes = new(new Face(blob, 0));
        _unitsPerEm = _outlines.UnitsPerEm;
        _shapes.SetScale(_unitsPerEm, _unitsPerEm);
        using var font = Sized();
        (Ascent, Descent, XHeight) = (-font.Metrics.Ascent / _unitsPerEm, font.Metrics.Descent / _unitsPerEm, font.Metrics.XHeight / _unitsPerEm);
        CapHeight = -Outline(Set("H")[0].Id).Bounds.Top;
    }

    public static ImmutableArray<Typeface> All => Shipped.Value;

    public string Family { get; }

    /// <summary>From 100 (thin) to 900 (black), as in CSS.</summary>
    public int Weight { get; }

    public string Name => Family;

    public bool IsSingleLine => false;

    public double CapHeight { get; }

    public bool Has(System.Text.Rune sign)
    {
        lock (_shaping) return _shapes.TryGetNominalGlyph((uint)sign.Value, out _);
    }

    public IReadOnlyList<SetLetter> Letters(string text, bool isJoined) =>
        [.. Set(text, isJoined).Select(g => new SetLetter(Outline(g.Id), g.X, g.Y, g.Advance, char.IsWhiteSpace(text[g.Cluster])))];

    public double Ascent { get; }

    public double Descent { get; }

    public double XHeight { get; }

    /// <summary>The shipped typeface of a family whose weight is nearest; null where the family does not ship.</summary>
    public static Typeface? Find(string family, int weight) =>
        All.Where(t => t.Family.Equals(family, StringComparison.OrdinalIgnoreCase)).MinBy(t => Math.Abs(t.Weight - weight));

    /// <summary>Sets one run of text from the pen at 0; nothing is broken into lines.</summary>
    /// <param name="joined">Whether letters may be joined to ligatures; letters that are spaced must not be.</param>
    public ImmutableArray<Glyph> Set(string text, bool joined = true)
    {
        using var buffer = new HarfBuzzSharp.Buffer();
        buffer.AddUtf16(text);
        buffer.GuessSegmentProperties();
        lock (_shaping) _shapes.Shape(buffer, joined ? [] : [new Feature(Tag.Parse("liga"), 0), new Feature(Tag.Parse("clig"), 0)]);
        var (infos, places) = (buffer.GlyphInfos, buffer.GlyphPositions);
        var glyphs = ImmutableArray.CreateBuilder<Glyph>(infos.Length);
        double pen = 0, em = _unitsPerEm;
        for (var i = 0; i < infos.Length; i++)
        {
            glyphs.Add(new(infos[i].Codepoint, (int)infos[i].Cluster, pen + places[i].XOffset / em, -places[i].YOffset / em, places[i].XAdvance / em));
            pen += places[i].XAdvance / em;
        }

        return glyphs.MoveToImmutable();
    }

    /// <summary>The outline of a letter, filled by the non-zero rule; empty for a space.</summary>
    public VectorPath Outline(uint glyph) => _letters.GetOrAdd(glyph, id =>
    {
        using var font = Sized();
        using var path = font.GetGlyphPath((ushort)id);
        if (path is null) return VectorPath.Empty;
        var build = new PathBuilder();
        using var walk = path.CreateRawIterator();
        var points = new SKPoint[4];
        Point At(int i) => new((double)points[i].X / _unitsPerEm, (double)points[i].Y / _unitsPerEm);
        for (var verb = walk.Next(points); verb != SKPathVerb.Done; verb = walk.Next(points))
        {
            switch (verb)
            {
                case SKPathVerb.Move:
                    build.MoveTo(At(0));
                    break;
                case SKPathVerb.Line:
                    build.LineTo(At(1));
                    break;
                case SKPathVerb.Quad:
                    build.QuadraticTo(At(1), At(2));
                    break;
                case SKPathVerb.Cubic:
                    build.CubicTo(At(1), At(2), At(3));
                    break;
                case SKPathVerb.Close:
                    build.Close();
                    break;
            }
        }

        return build.Build();
    });

    private SKFont Sized() => new(_outlines, _unitsPerEm) { Hinting = SKFontHinting.None, Subpixel = true, LinearMetrics = true };
}
