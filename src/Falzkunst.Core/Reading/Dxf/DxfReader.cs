using Falzkunst.Core.Pictures;
using Falzkunst.Core.Cards;
using Falzkunst.Core.Files;

namespace Falzkunst.Core.Reading.Dxf;

/// <summary>
/// Reads ASCII DXF, R12 to 2018: LINE, ARC, CIRCLE, ELLIPSE, LWPOLYLINE and POLYLINE with bulges, SPLINE, INSERT with scale, turn and rows, POINT left aside,
/// layers and their
/// colours. y is turned to point down. Arcs become cubics of at most 45°, splines the same curves piece by piece where they are no rational ones, which are
/// followed within
/// 0.001 mm. What is not read is noted once for each kind. Lengths are taken in <c>$INSUNITS</c>, or in mm where it says nothing.
/// </summary>
public static class DxfReader
{
    /// <exception cref="UnreadableFileException">It is damaged, or holds nothing that is drawn.</exception>
    public static Drawing Read(ReadOnlySpan<byte> file, ReadingLimits limits, ReadingWork? work = null)
    {
        work ??= new(limits, CancellationToken.None);
        return new Job(DxfPairs.Read(file, limits, work), limits, work).Run();
    }

    public static bool IsDxf(ReadOnlySpan<byte> head) => DxfPairs.IsDxf(head);

    private sealed class Job(DxfPairs file, ReadingLimits limits, ReadingWork work)
    {
        private readonly Dictionary<string, DxfRecord> _layers = file.Layers.GroupBy(l => l.Text(2), StringComparer.OrdinalIgnoreCase)
            .ToDictionary(g => g.Key, g => g.First(), StringComparer.OrdinalIgnoreCase);
        private readonly List<DrawnPath> _paths = [];
        private readonly Dictionary<string, (int Count, Point At)> _skipped = new(StringComparer.Ordinal);
        private int _segments, _elements;

        public Drawing Run()
        {
            var (mmPerUnit, known, reason) = Scale();
            foreach (var e in file.Entities) Add(e, Affine.Scale(mmPerUnit, -mmPerUnit), "0", 7, 0);
            var box = _paths.Aggregate(Box.Empty, (b, p) => b.With(p.Path.Bounds));
            if (box.IsEmpty || _paths.Count == 0) throw new UnreadableFileException(_skipped.Count > 0
                ? $"it holds nothing that can be cut, only {string.Join(", ", _skipped.Keys.Take(4))}" : "it holds nothing that is drawn");
            // The page is what is drawn, with a little air.
            const double Air = 2;
            var move = Affine.Move(Air - box.Left, Air - box.Top);
            var items = _paths.Select(p => (DrawnItem)(p with { Path = p.Path.Transform(move) })).ToImmutableArray();
            var notes = _skipped.OrderBy(s => s.Key, StringComparer.Ordinal)
                .Select(s => new ReadingNote("dxf-" + s.Key.ToLowerInvariant(),
                $"{(s.Value.Count == 1 ? "1 entity" : $"{s.Value.Count} entities")} of the kind {s.Key} {(s.Value.Count == 1 ? "is" : "are")} left "
                + $"out{Advice(s.Key)}.", move.Apply(s.Value.At)));
            return new(Length.FromMm(box.Width + 2 * Air), Length.FromMm(box.Height + 2 * Air),
                new(Length.MmPerInch / mmPerUnit, known, reason), items, [.. notes]);
        }

        private static string Advice(string kind) => kind switch
        {
            "TEXT" or "MTEXT" => "; turn text into outlines before you export",
            "HATCH" => "; its outline is usually drawn as well",
            "DIMENSION" or "LEADER" => "; it only explains the drawing",
            _ => "",
        };

        private (double MmPerUnit, bool Known, string Reason) Scale()
        {
            var unit = file.Header.TryGetValue("$INSUNITS", out var text) && int.TryParse(text, out var n) ? n : 0;
            return unit switch
            {
                1 => (Length.MmPerInch, true, "the file is in inches"),
                2 => (304.8, true, "the file is in feet"),
                4 => (1, true, "the file is in millimetres"),
                5 => (10, true, "the file is in centimetres"),
                6 => (1000, true, "the file is in metres"),
                _ => (1, false, "the file does not say what its unit is; millimetres were taken"),
            };
        }

        private void Add(DxfRecord e, Affine toMm, string blockLayer, int blockColour, int depth)
        {
            _elements++;
            work.Go(200);
            if (_elements > limits.Elements) throw new UnreadableFileException($"it draws more than {limits.Elements:N0} entities; take it apart");
            // On layer 0 a block takes the layer and colour of where it is put.
            var layer = e.Text(8, "0");
            if (layer == "0") layer = blockLayer;
            // Paper space, hidden entities, and layers that are off or frozen are not seen.
            var hasLayer = _layers.TryGetValue(layer, out var facts);
            if (e.Integer(67) == 1 || e.Integer(60) == 1 || (hasLayer && (facts!.Integer(62, 7) < 0 || (facts.Integer(70) & 1) != 0))) return;
            var number = e.Integer(62, 256);
            var byLayer = hasLayer ? Math.Abs(facts!.Integer(62, 7)) : 7;
            if (number == 256) number = byLayer;
            else if (number == 0) number = blockColour;
            // Drawn in another plane: seen from below, x is mirrored (the arbitrary axis algorithm for the common case).
            if (e.Type is not ("LINE" or "SPLINE" or "ELLIPSE") && e.Number(230, 1) < 0) toMm = Affine.Scale(-1, 1).Then(toMm);
            switch (e.Type)
            {
                case "INSERT":
                    Insert(e, toMm, layer, number, depth);
                    return;
                case "POINT" or "ATTDEF" or "VIEWPORT" or "SEQEND":
                    return;
            }

            var builder = new PathBuilder();
            switch (e.Type)
            {
                case "LINE":
                    builder.MoveTo(e.At(10)).LineTo(e.At(11));
                    break;
                case "CIRCLE":
                    Arc(builder, e.At(10), new(Radius(e), 0), new(0, Radius(e)), 0, 2 * Math.PI);
                    break;
                case "ARC":
                    Arc(builder, e.At(10), new(Radius(e), 0), new(0, Radius(e)), Radians(e.Number(50)), Sweep(Radians(e.Number(50)), Radians(e.Number(51))));
                    break;
                case "ELLIPSE":
                    Ellipse(builder, e);
                    break;
                case "LWPOLYLINE":
                    Polyline(builder, Vertices(e), (e.Integer(70) & 1) != 0);
                    break;
                case "POLYLINE" when (e.Integer(70) & (16 | 64)) == 0:
                    // Vertices that only control a smoothed curve are not on it.
                    Polyline(builder, [.. e.Inside.Where(v => (v.Integer(70) & 16) == 0).Select(v => (v.At(10), v.Number(42)))], (e.Integer(70) & 1) != 0);
                    break;
                case "SPLINE":
                    Spline(builder, e);
                    break;
                case "SOLID" or "TRACE":
                    builder.MoveTo(e.At(10)).LineTo(e.At(11)).LineTo(e.At(13)).LineTo(e.At(12)).Close();
                    break;
                default:
                    var (count, at) = _skipped.GetValueOrDefault(e.Type, (0, toMm.Apply(e.At(10))));
                    _skipped[e.Type] = (count + 1, at);
                    return;
            }

            _segments += builder.Count;
            if (_segments > limits.Segments) throw new UnreadableFileException($"it has more than {limits.Segments / 1_000_000} million segments; simplify it");
            var path = builder.Build();
            if (path.IsEmpty || path.Bounds is { Width: < 1e-9, Height: < 1e-9 }) return;
            var dashed = Dashed(e.Text(6, "BYLAYER"), facts);
            var colour = e.Pairs.Any(p => p.Code == 420) ? TrueColour(e.Integer(420)) : DxfColours.Of(number);
            _paths.Add(new("", layer == "0" ? ""
                : layer, path.Transform(toMm), new(null, FillRule.EvenOdd, new(colour, Length.Zero, LineCap.Round, LineJoin.Round, 4,
                dashed ? DashAndGap : [], Length.Zero))));
        }

        private static readonly ImmutableArray<Length> DashAndGap = [Length.FromMm(3), Length.FromMm(2)];

        private static bool Dashed(string type, DxfRecord? layer)
        {
            if (type.Equals("BYLAYER", StringComparison.OrdinalIgnoreCase)) type = layer?.Text(6, "CONTINUOUS") ?? "CONTINUOUS";
            return !(type.Equals("CONTINUOUS", StringComparison.OrdinalIgnoreCase) || type.Equals("BYBLOCK", StringComparison.OrdinalIgnoreCase)
                || type.Length == 0);
        }

        private void Insert(DxfRecord e, Affine toMm, string layer, int colour, int depth)
        {
            if (depth >= Math.Min(limits.Nesting, 32)) throw new UnreadableFileException("its blocks hold one another; export it with blocks taken apart");
            if (!file.Blocks.TryGetValue(e.Text(2), out var block)) return;
            double sx = e.Number(41, 1), sy = e.Number(42, 1);
            int columns = Math.Clamp(e.Integer(70, 1), 1, 1000), rows = Math.Clamp(e.Integer(71, 1), 1, 1000);
            for (var row = 0; row < rows; row++)
            {
                for (var column = 0; column < columns; column++)
                {
                    var place = Affine.Move(-block.Base.X, -block.Base.Y).Then(Affine.Scale(sx, sy))
                        .Then(Affine.Move(column * e.Number(44), row * e.Number(45)))
                        .Then(Affine.Turn(Angle.FromDegrees(e.Number(50)))).Then(Affine.Move(e.Number(10), e.Number(20))).Then(toMm);
                    foreach (var inside in block.Entities) Add(inside, place, layer, colour, depth + 1);
                }
            }
        }

        private static double Radius(DxfRecord e) => Math.Max(0, e.Number(40));

        private static double Radians(double degrees) => degrees * Math.PI / 180;

        private static double Sweep(double from, double to)
        {
            var sweep = (to - from) % (2 * Math.PI);
            return sweep <= 1e-12 ? sweep + 2 * Math.PI : sweep;
        }

        private static void Ellipse(PathBuilder builder, DxfRecord e)
        {
            var major = e.At(11);
            var minor = new Point(-major.Y, major.X) * (e.Number(40, 1) * (e.Number(230, 1) < 0 ? -1 : 1));
            var from = e.Number(41);
            Arc(builder, e.At(10), major, minor, from, Sweep(from, e.Number(42, 2 * Math.PI)));
        }

        private static void Arc(PathBuilder builder, Point centre, Point u, Point v, double from, double sweep)
        {
            if (u.Norm <= 0) return;
            Point At(double t) => centre + u * Math.Cos(t) + v * Math.Sin(t);
            var whole = sweep > 2 * Math.PI - 1e-9;
            builder.MoveTo(At(from)).ArcAround(centre, u, v, from, sweep, At(whole ? from : from + sweep));
            if (whole) builder.Close();
        }

        private static List<(Point At, double Bulge)> Vertices(DxfRecord e)
        {
            var vertices = new List<(Point At, double Bulge)>();
            foreach (var p in e.Pairs)
            {
                if (p.Code == 10) vertices.Add((new(p.Number, 0), 0));
                else if (vertices.Count > 0 && p.Code == 20) vertices[^1] = (new(vertices[^1].At.X, p.Number), vertices[^1].Bulge);
                else if (vertices.Count > 0 && p.Code == 42) vertices[^1] = (vertices[^1].At, p.Number);
            }

            return vertices;
        }

        /// <summary>A bulge is the tangent of a quarter of the arc's angle, positive counter-clockwise (y up).</summary>
        private static void Polyline(PathBuilder builder, List<(Point At, double Bulge)> vertices, bool closed)
        {
            if (vertices.Count < 2) return;
            builder.MoveTo(vertices[0].At);
            for (var i = 0; i < (closed ? vertices.Count : vertices.Count - 1); i++)
            {
                var (a, bulge) = vertices[i];
                var b = vertices[(i + 1) % vertices.Count].At;
                var chord = a.DistanceTo(b);
                if (Math.Abs(bulge) < 1e-9 || chord < 1e-12)
                {
                    if (chord > 1e-12) builder.LineTo(b);
                    continue;
                }

                var radius = chord * (1 + bulge * bulge) / (4 * Math.Abs(bulge));
                builder.ArcTo(radius, radius, Angle.Zero, Math.Abs(bulge) > 1, bulge > 0, b);
            }

            if (closed) builder.Close();
        }

        private static Colour TrueColour(int rgb) => new((byte)(rgb >> 16), (byte)(rgb >> 8), (byte)rgb);

        private static void Spline(PathBuilder builder, DxfRecord e)
        {
            int flags = e.Integer(70), degree = Math.Clamp(e.Integer(71, 3), 1, 11);
            var knots = e.Pairs.Where(p => p.Code == 40).Select(p => p.Number).ToArray();
            var weights = e.Pairs.Where(p => p.Code == 41).Select(p => p.Number).ToArray();
            var control = Points(e, 10);
            if (control.Count > degree && knots.Length == control.Count + degree + 1)
            {
                DxfSplines.Add(builder, degree, knots, control, weights.Length == control.Count ? weights : null);
            }
            else
            {
                // Only the points that it goes through: joined smoothly.
                var through = Points(e, 11);
                if (through.Count < 2) return;
                DxfSplines.Through(builder, through, (flags & 1) != 0);
            }

            if ((flags & 1) != 0) builder.Close();
        }

        private static List<Point> Points(DxfRecord e, int code)
        {
            var points = new List<Point>();
            foreach (var p in e.Pairs)
            {
                if (p.Code == code) points.Add(new(p.Number, 0));
                else if (p.Code == code + 10 && points.Count > 0) points[^1] = new(points[^1].X, p.Number);
            }

            return points;
        }
    }
}
