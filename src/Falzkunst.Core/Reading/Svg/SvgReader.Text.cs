using System.Text;
using Falzkunst.Core.Files;
using Falzkunst.Core.Lettering;
using Falzkunst.Core.Pictures;

namespace Falzkunst.Core.Reading.Svg;

// Text becomes the outlines of its letters (SVG 2, chapter 11), as long as its typeface ships with the application.
public sealed partial class SvgReader
{
    /// <summary>A character of text with its style and where the file wants it; what is null follows from the character before.</summary>
    private sealed record Sign(char Char, SvgStyle Style, SvgNode Owner)
    {
        public double? X { get; set; }
        public double? Y { get; set; }
        public double Dx { get; set; }
        public double Dy { get; set; }
        public double? Turn { get; set; }

        /// <summary>The way that it runs along, in user units, and how far from its start the text begins.</summary>
        public (Way Way, double Start)? Along { get; set; }

        public bool StartsRun => X is not null || Y is not null || Dx != 0 || Dy != 0 || Turn is not null;
    }

    /// <summary>A path by the distance along it.</summary>
    private sealed class Way
    {
        private readonly List<Point> _points;
        private readonly double[] _upTo;

        public Way(Subpath path)
        {
            _points = path.Walk(Tolerances.Measure);
            _upTo = new double[_points.Count];
            for (var i = 1; i < _upTo.Length; i++) _upTo[i] = _upTo[i - 1] + _points[i].DistanceTo(_points[i - 1]);
        }

        public double Length => _upTo[^1];

        /// <summary>The place so far from the start, and the step of the path there; null before its start and behind its end.</summary>
        public (Point At, Point Step)? At(double distance)
        {
            if (!(distance >= 0 && distance <= Length) || Length == 0) return null;
            var i = Array.BinarySearch(_upTo, distance);
            i = Math.Clamp(i < 0 ? ~i : i, 1, _upTo.Length - 1);
            while (i < _upTo.Length - 1 && _upTo[i] == _upTo[i - 1]) i++;
            var step = _points[i] - _points[i - 1];
            return step.Norm > 0 ? (_points[i - 1] + step * ((distance - _upTo[i - 1]) / step.Norm), step) : null;
        }
    }

    /// <summary>A letter's outline in user units, still at the pen of its chunk.</summary>
    private readonly record struct Letter(VectorPath Outline, Point At, double Scale, double Turn, double Advance, Sign Sign);

    private void Text(SvgNode node, SvgStyle style, Frame frame)
    {
        var signs = new List<Sign>();
        Collect(node, style, frame, signs, null);
        Tidy(signs);
        Place(node, style, frame, signs);
        if (signs.Count > _limits.Segments / 20) throw TooLong();
        var first = _items.Count;
        var missing = signs.Where(s => s.Style.Visible && !char.IsWhiteSpace(s.Char) && FaceOf(s.Style) is null).Select(s => FirstFamily(s.Style.FontFamily))
            .Distinct(StringComparer.OrdinalIgnoreCase).Take(MostFamilies).ToList();
        foreach (var family in missing)
        {
            Note("text", (family.Length == 0 ? "Text names no typeface" : $"Text is set in {family}, which does not ship with Falzkunst")
                + $" (“{Excerpt(signs, family)}”), so it is left out: convert it to outlines in the program that it was drawn in.", Place(node, frame));
        }

        foreach (var (asked, face) in signs.Select(s => (s.Style.FontWeight, FaceOf(s.Style))).Distinct())
            if (face is not null && Math.Abs(face.Weight - asked) >= 150) Note("text-weight",
                $"Text in {face.Family} of weight {asked} is set in weight {face.Weight}, the nearest that ships.", Place(node, frame));
        if (signs.Exists(s => s.Owner["textLength"] is not null)) Note("text-length", "Text that is stretched to a length is set at its natural length.",
            Place(node, frame));
        for (var from = 0; from < signs.Count;)
        {
            _work.Go();
            var to = from + 1;
            while (to < signs.Count && signs[to].X is null && signs[to].Y is null && ReferenceEquals(signs[to].Along?.Way, signs[from].Along?.Way)) to++;
            var at = Chunk(signs[from..to], frame);
            // What follows without a place of its own goes on where this chunk ended.
            if (to < signs.Count)
            {
                signs[to].X ??= at.X;
                signs[to].Y ??= at.Y;
            }

            from = to;
        }

        Keep(signs, first, frame);
    }

    /// <summary>Keeps what a short text says, and which letters are its own.</summary>
    private void Keep(List<Sign> signs, int first, Frame frame)
    {
        var said = string.Concat(signs.Take(LongestKept + 1).Select(s => s.Char)).Trim();
        if (said.Length is 0 or > LongestKept || _texts.Count >= MostTexts) return;
        var text = new DrawnText(said, frame.ToMm.Apply(new(signs[0].X ?? 0, signs[0].Y ?? 0)));
        _texts.Add(text);
        for (var i = first; i < _items.Count; i++)
            if (_items[i] is DrawnPath letters) _items[i] = letters with { IsTextOf = text };
    }

    /// <summary>Longer texts are no words of a legend, and of so many it is none.</summary>
    private const int LongestKept = 60, MostTexts = 200;

    /// <summary>Of more typefaces than this that do not ship nobody reads.</summary>
    private const int MostFamilies = 20;

    private static UnreadableFileException TooLong() => new("it holds more text than a book");

    private void Collect(SvgNode node, SvgStyle style, Frame frame, List<Sign> signs, (Way, double)? along)
    {
        if (++_elements > _limits.Elements) throw new UnreadableFileException($"it draws more than {_limits.Elements:N0} elements");
        if (node.Name == "textPath" && node["href"] is ['#', .. var id] && _byId.TryGetValue(id, out var target)
            && Shape(target, style, frame) is { IsEmpty: false } path)
        {
            if (target["transform"] is { } t) path = path.Transform(SvgTransforms.Read(t));
            var way = new Way(path.Subpaths[0]);
            along = (way, SvgLengths.Read(node["startOffset"], style, way.Length) ?? 0);
        }

        foreach (var part in node.Content)
        {
            if (part.Name.Length == 0)
            {
                var kept = Inherited(part, "space") == "preserve";
                foreach (var c in part.Text)
                {
                    var sign = c is '\n' or '\t' or '\r' ? kept ? ' ' : '\n' : c;
                    // It runs together anyway.
                    if (!kept && IsLoose(sign) && signs.Count > 0 && IsLoose(signs[^1].Char) && ReferenceEquals(signs[^1].Owner, part.Parent)) continue;
                    signs.Add(new(sign, style, part.Parent!) { Along = along });
                    if (signs.Count > _limits.Segments / 10) throw TooLong();
                    if (signs.Count % 1024 == 0) _work.Go(10_240);
                }
            }
            else if (part.Name is "tspan" or "a" or "textPath" && _styles.Compute(part, style) is { Displayed: true } own)
            {
                Collect(part, own, frame, signs, along);
            }
        }
    }

    private static bool IsLoose(char c) => char.IsWhiteSpace(c) && c != '\u00A0';

    /// <summary>White space runs together as in HTML: one space for many, none at the ends.</summary>
    private static void Tidy(List<Sign> signs)
    {
        var spaceBefore = true;
        var kept = new List<Sign>(signs.Count);
        foreach (var s in signs)
        {
            var preserve = Inherited(s.Owner, "space") == "preserve";
            if (!preserve && IsLoose(s.Char))
            {
                if (!spaceBefore) kept.Add(s with { Char = ' ' });
                spaceBefore = true;
                continue;
            }

            kept.Add(s);
            spaceBefore = false;
        }

        if (kept.Count > 0 && kept[^1].Char == ' ' && Inherited(kept[^1].Owner, "space") != "preserve") kept.RemoveAt(kept.Count - 1);
        signs.Clear();
        signs.AddRange(kept);
    }

    /// <summary>Gives the characters the places that their elements list; an inner element's list wins.</summary>
    private void Place(SvgNode text, SvgStyle style, Frame frame, List<Sign> signs)
    {
        // The characters of an element follow one another; here is which.
        var spans = new Dictionary<SvgNode, (int From, int To, int Depth)>();
        for (int from = 0, to = 0; from < signs.Count; from = to)
        {
            for (to = from + 1; to < signs.Count && ReferenceEquals(signs[to].Owner, signs[from].Owner);) to++;
            var line = new List<SvgNode>();
            for (var up = signs[from].Owner; up != text && up is not null; up = up.Parent) line.Add(up);
            for (var i = 0; i < line.Count; i++)
                spans[line[i]] = (spans.TryGetValue(line[i], out var known) ? known.From : from, to, line.Count - i);
            _work.Go(10 * line.Count);
        }

        Give(text, style, 0, signs.Count);
        // The outermost first, so that what stands farther in has the last word.
        foreach (var (owner, span) in spans.OrderBy(s => s.Value.Depth)) Give(owner, signs[span.From].Style, span.From, span.To);
        if (signs.Count > 0)
        {
            signs[0].X ??= 0;
            signs[0].Y ??= 0;
        }

        void Give(SvgNode owner, SvgStyle own, int from, int to)
        {
            double[] xs = List(owner["x"], frame.Width), ys = List(owner["y"], frame.Height), dxs = List(owner["dx"], frame.Width),
                dys = List(owner["dy"], frame.Height), turns = List(owner["rotate"], 0);
            // The last turn holds for all that follow; of anything else, as many as there are.
            var last = turns.Length > 0 ? to : Math.Min(to, from + Math.Max(Math.Max(xs.Length, ys.Length), Math.Max(dxs.Length, dys.Length)));
            for (var (i, s) = (0, from); s < last; i++, s++)
            {
                if (i < xs.Length) signs[s].X = xs[i];
                if (i < ys.Length) signs[s].Y = ys[i];
                if (i < dxs.Length) signs[s].Dx = dxs[i];
                if (i < dys.Length) signs[s].Dy = dys[i];
                if (turns.Length > 0) signs[s].Turn = turns[Math.Min(i, turns.Length - 1)];
            }

            double[] List(string? numbers, double hundred) =>
                numbers is null ? [] : [.. numbers.Split([' ', ',', '\t', '\n'], StringSplitOptions.RemoveEmptyEntries)
                    .Select(n => SvgLengths.Read(n, own, hundred) ?? 0)];
        }
    }

    /// <summary>Sets characters that hang together, and anchors them as a whole.</summary>
    /// <returns>Where the pen stands behind them.</returns>
    private Point Chunk(List<Sign> signs, Frame frame)
    {
        var first = signs[0];
        var pen = new Point(first.Along is { } a ? a.Start : first.X ?? 0, first.Along is null ? first.Y ?? 0 : 0);
        var begin = pen.X;
        var letters = new List<Letter>();
        for (var from = 0; from < signs.Count;)
        {
            var to = from + 1;
            while (to < signs.Count && signs[to].Style == signs[from].Style && !signs[to].StartsRun) to++;
            _work.Go(2000 + 200 * (to - from));
            pen = Run(signs[from..to], pen, frame, letters);
            from = to;
        }

        var shift = first.Style.Anchor switch { "middle" => -(pen.X - begin) / 2, "end" => -(pen.X - begin), _ => 0 };
        foreach (var group in letters.GroupBy(l => l.Sign.Style, ReferenceEqualityComparer.Instance))
        {
            var subpaths = ImmutableArray.CreateBuilder<Subpath>();
            foreach (var l in group)
            {
                if (PlaceOf(l, shift) is { } place) subpaths.AddRange(l.Outline.Transform(place).Subpaths);
            }

            // Letters are filled by the non-zero rule, whatever the style says of shapes.
            if (subpaths.Count > 0) Draw(group.First().Sign.Owner, new(subpaths.ToImmutable()), (SvgStyle)group.Key! with { FillRule = FillRule.NonZero },
                frame);
        }

        return pen + new Point(shift, 0);
    }

    private static Point Run(List<Sign> signs, Point pen, Frame frame, List<Letter> letters)
    {
        var style = signs[0].Style;
        pen += new Point(signs[0].Dx, signs[0].Dy);
        if (FaceOf(style) is not { } face) return pen;
        double size = style.FontSize, apart = SvgLengths.Read(style.LetterSpacing, style, frame.Width)
            ?? 0, wordsApart = SvgLengths.Read(style.WordSpacing, style, frame.Width) ?? 0;
        var drop = style.Baseline switch
        {
            "middle" => face.XHeight / 2,
            "central" => (face.Ascent - face.Descent) / 2,
            // Fonts seldom say where Indic letters hang; browsers take so much of the ascent.
            "hanging" => face.Ascent * 0.8,
            "text-before-edge" or "text-top" => face.Ascent,
            "text-after-edge" or "text-bottom" or "ideographic" => -face.Descent,
            _ => 0,
        } * size;
        double end = 0, spaced = 0;
        foreach (var glyph in face.Set(string.Concat(signs.Select(s => s.Char)), apart == 0))
        {
            var sign = signs[Math.Clamp(glyph.Cluster, 0, signs.Count - 1)];
            if (style.Visible && size > 0) letters
                .Add(new(face.Outline(glyph.Id), pen + new Point(glyph.X * size + spaced, glyph.Y * size + drop), size, sign.Turn
                ?? 0, glyph.Advance * size, sign));
            end += glyph.Advance * size;
            spaced += apart + (sign.Char == ' ' ? wordsApart : 0);
        }

        return pen + new Point(end + spaced, 0);
    }

    /// <summary>Where a letter comes to stand; null where it has no room left on its path.</summary>
    private static Affine? PlaceOf(Letter letter, double shift)
    {
        var turned = Affine.Scale(letter.Scale, letter.Scale).Then(Affine.Turn(Angle.FromDegrees(letter.Turn)));
        if (letter.Sign.Along is not { } along) return turned.Then(Affine.Move(letter.At.X + shift, letter.At.Y));
        // Its middle stands on the path, upright to it.
        var half = letter.Advance / 2;
        if (along.Way.At(letter.At.X + shift + half) is not { } on) return null;
        return turned.Then(Affine.Move(-half, letter.At.Y)).Then(Affine.Turn(Angle.FromRadians(Math.Atan2(on.Step.Y, on.Step.X))))
            .Then(Affine.Move(on.At.X, on.At.Y));
    }

    private static Typeface? FaceOf(SvgStyle style) => style.Italic ? null : Typeface.Find(FirstFamily(style.FontFamily), style.FontWeight);

    private static string FirstFamily(string families) => families.Split(',')[0].Trim().Trim('"', '\'').Trim();

    private static string Excerpt(List<Sign> signs, string family)
    {
        var text = new StringBuilder();
        foreach (var s in signs)
            if (FirstFamily(s.Style.FontFamily).Equals(family, StringComparison.OrdinalIgnoreCase)) text.Append(s.Char);
        var said = text.ToString().Trim();
        return said.Length <= 30 ? said : said[..29] + "…";
    }

    private static string? Inherited(SvgNode node, string attribute)
    {
        for (var up = node; up is not null; up = up.Parent)
            if (up[attribute] is { } value) return value;
        return null;
    }
}
