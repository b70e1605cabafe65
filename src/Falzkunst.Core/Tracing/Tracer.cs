using Falzkunst.Core.Cards;
using Falzkunst.Core.Files;
using Falzkunst.Core.Pictures;
using Falzkunst.Core.Regions;

namespace Falzkunst.Core.Tracing;

/// <summary>One colour of a traced picture. A path of strokes is open or closed lines, otherwise outlines and holes (even-odd).</summary>
public sealed record TraceLayer(Colour Colour, VectorPath Path, bool IsStrokes, Length StrokeWidth);

/// <summary>A traced picture, from its upper left corner; the first layer lies lowest.</summary>
public sealed record Traced(Length Width, Length Height, double Dpi, bool DpiIsKnown, double Threshold, ImmutableArray<TraceLayer> Layers)
{
    public int Nodes => Layers.Sum(l => l.Path.Subpaths.Sum(s => s.Segments.Length + (s.Closed ? 0 : 1)));

    public int Paths => Layers.Sum(l => l.Path.Subpaths.Length);
}

/// <summary>
/// Pictures to paths: labels for the pixels, borders between labels with sub-pixel places (<see cref="Borders"/>), curves through them
/// (<see cref="CurveFit"/>).
/// The furthest a curve lies from the border is 0.3 px at smoothing 1 where edges are anti-aliased, 0.5 px where they are stairs; corners are kept.
/// </summary>
public static class Tracer
{
    /// <summary>Whether something of a picture is see-through, so that it needs no ground to part from.</summary>
    public static bool IsCutOut(Raster picture) => Shades.IsCutOut(picture);

    /// <exception cref="UnreadableFileException">There is nothing to trace, or the size would be beyond all reason.</exception>
    public static Traced Trace(Raster picture, TraceSettings settings, CancellationToken cancel = default) =>
        Trace(Prepared.From(picture, settings), settings, cancel);

    /// <inheritdoc cref="Trace(Raster, TraceSettings, CancellationToken)"/>
    public static Traced Trace(Prepared prepared, TraceSettings settings, CancellationToken cancel = default)
    {
        var job = new Job(prepared.Picture, settings, prepared.PixelSide.Mm, cancel);
        var layers = settings.Mode switch
        {
            TraceMode.Whole => job.Whole(prepared),
            TraceMode.Outline => job.Outline(),
            TraceMode.Colours => job.Colours(),
            TraceMode.CentreLine => job.CentreLine(),
            _ => job.Flat(),
        };
        if (layers.All(l => l.Path.IsEmpty)) throw new UnreadableFileException("there is nothing to trace in this picture at this threshold");
        return new(prepared.Width, prepared.Height, prepared.Dpi, prepared.DpiIsKnown, job.Threshold, layers);
    }

    private sealed class Job(Raster picture, TraceSettings settings, double mm, CancellationToken cancel)
    {
        private readonly int _w = picture.Width, _h = picture.Height;
        private readonly bool _cutOut = Shades.IsCutOut(picture);

        public double Threshold { get; private set; } = 128;

        public ImmutableArray<TraceLayer> Flat()
        {
            var (field, stairs) = InkField();
            var labels = LabelsOf(field);
            return [new(InkColour(labels), Fit(labels, Place(field), l => l == 1, Settings(stairs), false), false, Length.Zero)];
        }

        public ImmutableArray<TraceLayer> Whole(Prepared prepared)
        {
            var labels = new byte[_w * _h];
            Array.Fill(labels, (byte)1);
            var rim = settings.Border.Mm;
            return [new(InkColour(labels), VectorPath.Rectangle(-rim, -rim, prepared.Width.Mm + 2 * rim, prepared.Height.Mm + 2 * rim), false, Length.Zero)];
        }

        public ImmutableArray<TraceLayer> Outline()
        {
            var field = _cutOut ? Shades.Alpha(picture, 127.5f) : new Matte(picture, settings.PaperTolerance, false, []).Field();
            var stairs = Shades.HasStairs(field, _w, _h);
            if (stairs) Shades.Blur(field, _w, _h, StairBlur);
            var labels = LabelsOf(field);
            var path = Fit(labels, Place(field), l => l == 1, Settings(stairs), true);
            if (!path.IsEmpty && (settings.Border.Mm > 0 || settings.Join)) path = Bordered(path);
            return [new(InkColour(labels), path, false, Length.Zero)];
        }

        public ImmutableArray<TraceLayer> Colours()
        {
            var flat = ColourLabels.Of(picture, Math.Clamp(settings.Colours, 1, 12), _cutOut, cancel);
            Specks.Remove(flat.Labels, _w, _h, SpeckPx, cancel);
            var borders = Borders.Trace(flat.Labels, _w, _h, flat.Place, cancel);
            var curves = Curves(borders, Settings(false) with { Tolerance = 0.4 * Math.Max(0.15, settings.Smoothing) });
            var layers = ImmutableArray.CreateBuilder<TraceLayer>();
            for (var l = 1; l <= flat.Colours.Length; l++)
            {
                var level = l;
                var path = Assemble(borders, curves, settings.Stacked ? x => x >= level : x => x == level, false, settings.Stacked
                    ? HoldsOwn(borders, flat.Labels, level) : null);
                if (!path.IsEmpty) layers.Add(new(flat.Colours[l - 1], path, false, Length.Zero));
            }

            return layers.ToImmutable();
        }

        public ImmutableArray<TraceLayer> CentreLine()
        {
            var (field, stairs) = InkField();
            var labels = LabelsOf(field);
            var (strokes, width) = CentreLines.Of(labels, field, _w, _h, cancel);
            var fit = Settings(stairs) with { Tolerance = 0.6 * Math.Max(0.15, settings.Smoothing), Window = 7 };
            return [new(InkColour(labels),
                new VectorPath([.. Fitted(strokes.Count, i => (strokes[i].Points, strokes[i].Closed), fit)]).Transform(Affine.Scale(mm, mm)), true,
                Length.FromMm(width * mm))];
        }

        // A little less than a pixel takes the stairs away and leaves a line of one pixel.
        private const double StairBlur = 0.65;

        private int SpeckPx => (int)Math.Round(settings.SpeckMm2 / (mm * mm));

        /// <summary>Positive where there is ink, zero at its edge.</summary>
        private (float[] Field, bool Stairs) InkField()
        {
            float[] field;
            if (_cutOut)
            {
                Threshold = settings.Threshold ?? 127.5;
                field = Shades.Alpha(picture, 255 - Threshold);
            }
            else
            {
                field = Shades.Evened(Shades.Lightness(picture), _w, _h, settings.EvenLight);
                Threshold = settings.Threshold ?? Shades.Otsu(field);
                for (var i = 0; i < field.Length; i++) field[i] = (float)Threshold - field[i];
            }

            var stairs = Shades.HasStairs(field, _w, _h);
            if (stairs) Shades.Blur(field, _w, _h, StairBlur);
            return (field, stairs);
        }

        private byte[] LabelsOf(float[] field)
        {
            var labels = new byte[field.Length];
            for (var i = 0; i < field.Length; i++) labels[i] = field[i] > 0 ? (byte)1 : (byte)0;
            Specks.Remove(labels, _w, _h, SpeckPx, cancel);
            return labels;
        }

        /// <summary>Where the field is zero between two pixels; in the middle where a speck was taken away.</summary>
        private static Func<int, int, double> Place(float[] field) => (p, q) => field[p] > 0 == field[q] > 0 ? 0.5 : field[p] / (field[p] - field[q]);

        private FitSettings Settings(bool stairs)
        {
            var smooth = Math.Clamp(settings.Smoothing, 0, 5);
            return stairs
                ? new(0.5 * Math.Max(0.2, smooth), 5 + smooth, 1.5, settings.Corner)
                : new(0.3 * Math.Max(0.15, smooth), 4 + smooth, 1.2, settings.Corner);
        }

        private VectorPath Fit(byte[] labels, Func<int, int, double> place, Func<int, bool> inside, FitSettings fit, bool outerOnly)
        {
            var borders = Borders.Trace(labels, _w, _h, place, cancel);
            return Assemble(borders, Curves(borders, fit), inside, outerOnly);
        }

        private Subpath[] Curves(Borders borders, FitSettings fit) => Fitted(borders.All.Count, i => (borders.All[i].Points, borders.All[i].Closed), fit);

        /// <summary>Curves through many lines of points, all cores helping.</summary>
        private Subpath[] Fitted(int count, Func<int, (IReadOnlyList<Point> Points, bool Closed)> line, FitSettings fit)
        {
            var curves = new Subpath[count];
            Parallel.For(0, count, new ParallelOptions { CancellationToken = cancel }, i =>
            {
                var (points, closed) = line(i);
                curves[i] = closed ? CurveFit.Closed(points, fit) : CurveFit.Open(points, fit);
            });
            return curves;
        }

        /// <summary>Of the areas that a stacked colour would have, those that show it somewhere: under an island of another colour it is of no use.</summary>
        private Func<BorderRing, bool> HoldsOwn(Borders borders, byte[] labels, int level)
        {
            var mask = new byte[labels.Length];
            for (var i = 0; i < mask.Length; i++) mask[i] = labels[i] >= level ? (byte)1 : (byte)0;
            var areas = new Areas(mask, _w, _h);
            var own = new HashSet<int>();
            for (var r = 0; r < areas.Runs.Count; r++)
            {
                var run = areas.Runs[r];
                if (run.Label == 1 && labels.AsSpan(run.Row * _w + run.From, run.To - run.From).Contains((byte)level)) own.Add(areas.Of(r));
            }

            return ring => borders.PixelIn(ring) is var (x, y) && own.Contains(areas.At(x, y));
        }

        private VectorPath Assemble(Borders borders, Subpath[] curves, Func<int, bool> inside, bool outerOnly, Func<BorderRing, bool>? wanted = null)
        {
            var rings = ImmutableArray.CreateBuilder<Subpath>();
            foreach (var ring in borders.RingsOf(inside))
            {
                if (rings.Count % 256 == 0) cancel.ThrowIfCancellationRequested();
                if (wanted is not null && !wanted(ring)) continue;
                var segments = ImmutableArray.CreateBuilder<Segment>();
                Point? start = null;
                foreach (var (border, forward) in ring.Parts)
                {
                    var curve = forward ? curves[border] : curves[border].Reverse();
                    start ??= curve.Start;
                    segments.AddRange(curve.Segments);
                }

                var sub = new Subpath(start!.Value, segments.ToImmutable(), true);
                // Fitted so loosely that nothing is left.
                var area = new VectorPath([sub]).SignedAreaMm2;
                if (Math.Abs(area) < 0.5 || (outerOnly && area < 0)) continue;
                rings.Add(sub);
            }

            return new VectorPath(rings.ToImmutable()).Transform(Affine.Scale(mm, mm));
        }

        private VectorPath Bordered(VectorPath path)
        {
            Length furthest = Length.FromMm(60), step = Length.FromMm(1.5);
            var region = Region.Of(path).Outset(settings.Border).WithoutHoles();
            // Bridges grow until all parts are one: outwards and back again closes what is narrower than twice that.
            for (var by = step; settings.Join && region.ToPaths().Count > 1 && by <= furthest; by += step)
                region = region.Join(region.Outset(by).WithoutHoles().Outset(-by)).WithoutHoles();
            var fit = new FitSettings(0.02, 0.8, 0.1, settings.Corner);
            return new([.. region.ToPaths().SelectMany(p => p.Rings.Take(1)).Select(r => CurveFit.Closed(Dense(r), fit))]);
        }

        /// <summary>Points close enough together that a long edge weighs as much as a bend.</summary>
        private static List<Point> Dense(List<Point> ring)
        {
            const double ApartMm = 0.2;
            var dense = new List<Point>();
            for (var i = 0; i < ring.Count; i++)
            {
                Point a = ring[i], b = ring[(i + 1) % ring.Count];
                var n = Math.Max(1, (int)(a.DistanceTo(b) / ApartMm));
                for (var k = 0; k < n; k++) dense.Add(a + (b - a) * ((double)k / n));
            }

            return dense;
        }

        /// <summary>The mean colour of what is inside.</summary>
        private Colour InkColour(byte[] labels)
        {
            long r = 0, g = 0, b = 0, n = 0;
            for (var i = 0; i < labels.Length; i++)
            {
                if (labels[i] == 0 || picture.Rgba[i * 4 + 3] < 128) continue;
                r += picture.Rgba[i * 4];
                g += picture.Rgba[i * 4 + 1];
                b += picture.Rgba[i * 4 + 2];
                n++;
            }

            return n == 0 ? Colour.Black : new((byte)(r / n), (byte)(g / n), (byte)(b / n));
        }
    }
}
