
namespace Falzkunst.Core.Tracing;

/// <summary>A stroke's middle, in px.</summary>
internal sealed record CentreStroke(List<Point> Points, bool Closed);

/// <summary>
/// Pen strokes to single lines. The ink is thinned (Z. Guo and R. W. Hall 1989) to a net one pixel wide; spurs shorter than the stroke is wide are cut off;
/// each point is moved across the stroke to the middle between its two edges, to a fraction of a pixel; where strokes meet, the net is bent, so that part is
/// left out and the arms are joined with those that they run straight on into. Linear in the pixels, times half the width of the strokes.
/// </summary>
internal static class CentreLines
{
    private static readonly (int X, int Y)[] Around = [(0, -1), (1, -1), (1, 0), (1, 1), (0, 1), (-1, 1), (-1, 0), (-1, -1)];

    private sealed class Arm
    {
        public required List<Point> Points { get; set; }
        public int From { get; set; } = -1;
        public int To { get; set; } = -1;
        public bool Gone { get; set; }

        public double Length
        {
            get
            {
                double sum = 0;
                for (var i = 1; i < Points.Count; i++) sum += Points[i].DistanceTo(Points[i - 1]);
                return sum;
            }
        }
    }

    private sealed class Node
    {
        public required Point At { get; set; }
        public double Radius { get; set; }
        public bool IsEnd { get; set; }
    }

    /// <summary>The strokes of the ink (label 1), and how wide they mostly are, in px.</summary>
    /// <param name="field">Positive in the ink, zero at its edge.</param>
    public static (List<CentreStroke> Strokes, double Width) Of(byte[] labels, float[] field, int width, int height, CancellationToken cancel)
    {
        var depth = Depth(labels, width, height);
        var net = Thin(labels, width, height, cancel);
        var (arms, nodes, loops) = Graph(net, depth, width, height);
        Prune(arms, nodes);
        Merge(arms, nodes);
        var widths = new List<double>();
        foreach (var arm in arms.Where(a => !a.Gone))
        {
            arm.Points = Refine(arm.Points, false, field, depth, width, height, widths);
            CutBent(arm, nodes);
        }

        var strokes = Join(arms, nodes);
        foreach (var loop in loops)
        {
            var points = Refine(loop, true, field, depth, width, height, widths);
            strokes.Add(new(points, points.Count >= 6));
        }

        widths.Sort();
        return (strokes.Where(s => s.Points.Count >= 2).ToList(), widths.Count > 0 ? widths[widths.Count / 2] : 1);
    }

    /// <summary>How far each ink pixel lies from the paper, in px: the two-pass chamfer of Borgefors 1986 with 3 and 4 as steps, right within 8 %.</summary>
    private static float[] Depth(byte[] labels, int w, int h)
    {
        // A rim of paper around it, as in thinning.
        var row = w + 2;
        var d = new int[row * (h + 2)];
        for (var y = 0; y < h; y++)
        {
            var label = labels.AsSpan(y * w, w);
            var above = d.AsSpan(y * row, row);
            var here = d.AsSpan((y + 1) * row, row);
            for (var x = 0; x < w; x++)
                if (label[x] != 0) here[x + 1] = Math.Min(Math.Min(here[x], above[x + 1]) + 3, Math.Min(above[x], above[x + 2]) + 4);
        }

        var depth = new float[labels.Length];
        for (var y = h - 1; y >= 0; y--)
        {
            var below = d.AsSpan((y + 2) * row, row);
            var here = d.AsSpan((y + 1) * row, row);
            var to = depth.AsSpan(y * w, w);
            for (var x = w; x >= 1; x--)
            {
                if (here[x] == 0) continue;
                here[x] = Math.Min(here[x], Math.Min(Math.Min(here[x + 1], below[x]) + 3, Math.Min(below[x - 1], below[x + 1]) + 4));
                to[x - 1] = here[x] / 3f;
            }
        }

        return depth;
    }

    /// <summary>Which of the eight neighbours (bit 0 above, then clockwise) let a pixel go in the first pass of Guo and Hall, and (bit 1) in the
    /// second.</summary>
    private static readonly byte[] Goes = [.. Enumerable.Range(0, 256).Select(n => (byte)((MayGo(n, false) ? 1 : 0) | (MayGo(n, true) ? 2 : 0)))];

    private static bool MayGo(int beside, bool second)
    {
        bool P(int k) => (beside >> (k - 2) & 1) != 0;
        bool p2 = P(2), p3 = P(3), p4 = P(4), p5 = P(5), p6 = P(6), p7 = P(7), p8 = P(8), p9 = P(9);
        var c = B(!p2 && (p3 || p4)) + B(!p4 && (p5 || p6)) + B(!p6 && (p7 || p8)) + B(!p8 && (p9 || p2));
        if (c != 1) return false;
        var n = Math.Min(B(p9 || p2) + B(p3 || p4) + B(p5 || p6) + B(p7 || p8), B(p2 || p3) + B(p4 || p5) + B(p6 || p7) + B(p8 || p9));
        if (n is < 2 or > 3) return false;
        return second ? !((p6 || p7 || !p9) && p8) : !((p2 || p3 || !p5) && p4);

        static int B(bool b) => b ? 1 : 0;
    }

    private static bool[] Thin(byte[] labels, int w, int h, CancellationToken cancel)
    {
        const byte Ink = 1, Once = 2, Twice = 4;
        // With a rim of paper around it no neighbour has to be asked whether it is there at all. The lowest bit is ink; those above it say
        // for how many passes the pixel is still looked at: what was refused by both passes is refused until a neighbour goes.
        var row = w + 2;
        var on = new byte[row * (h + 2)];
        for (var y = 0; y < h; y++)
            for (var x = 0; x < w; x++) on[(y + 1) * row + x + 1] = labels[y * w + x] != 0 ? Ink : (byte)0;
        int[] step = [-row, 1 - row, 1, row + 1, row, row - 1, -1, -row - 1];
        var edge = new List<int>();
        for (var i = row + 1; i < on.Length - row - 1; i++)
            if (on[i] != 0 && (on[i - 1] == 0 || on[i + 1] == 0 || on[i - row] == 0 || on[i + row] == 0)) Look(edge, i);
        List<int> gone = [], next = [];
        for (var pass = 0; edge.Count > 0; pass++)
        {
            cancel.ThrowIfCancellationRequested();
            gone.Clear();
            var bit = 1 << pass % 2;
            foreach (var i in edge)
                if ((Goes[Beside(i)] & bit) != 0) gone.Add(i);
            foreach (var i in gone) on[i] = 0;
            next.Clear();
            foreach (var i in edge)
            {
                if (on[i] != 0 && (on[i] -= Once) > Ink) next.Add(i);
            }

            foreach (var i in gone)
                foreach (var s in step) Look(next, i + s);
            (edge, next) = (next, edge);
        }

        var net = new bool[labels.Length];
        for (var y = 0; y < h; y++)
            for (var x = 0; x < w; x++) net[y * w + x] = on[(y + 1) * row + x + 1] != 0;
        return net;

        int Beside(int i) => Bit(i - row) | Bit(i - row + 1) << 1 | Bit(i + 1) << 2 | Bit(i + row + 1) << 3 | Bit(i + row) << 4 | Bit(i
            + row - 1) << 5 | Bit(i - 1) << 6 | Bit(i - row - 1) << 7;

        int Bit(int i) => on[i] & Ink;

        void Look(List<int> among, int i)
        {
            if (on[i] == 0) return;
            if (on[i] == Ink) among.Add(i);
            on[i] = Ink | Twice;
        }
    }

    private static (List<Arm> Arms, List<Node> Nodes, List<List<Point>> Loops) Graph(bool[] net, float[] depth, int w, int h)
    {
        var nodeAt = new Dictionary<int, int>();
        var nodes = new List<Node>();
        var pixels = new List<int>();
        Span<int> beside = stackalloc int[8];
        for (var i = 0; i < net.Length; i++)
        {
            if (!net[i]) continue;
            pixels.Add(i);
            var n = Beside(i, beside);
            if (n == 2) continue;
            nodeAt[i] = nodes.Count;
            nodes.Add(new() { At = Middle(i), Radius = depth[i], IsEnd = n <= 1 });
        }

        var arms = new List<Arm>();
        var walked = new HashSet<(int, int)>();
        var seen = new bool[net.Length];
        foreach (var (start, node) in nodeAt)
        {
            seen[start] = true;
            var n = Beside(start, beside);
            if (n == 0)
            {
                // A dot: the shortest of strokes.
                arms.Add(new() { Points = [Middle(start) - new Point(0.25, 0), Middle(start) + new Point(0.25, 0)] });
                continue;
            }

            foreach (var first in beside[..n].ToArray())
            {
                if (walked.Contains((start, first))) continue;
                var points = new List<Point> { Middle(start) };
                int before = start, at = first;
                while (true)
                {
                    seen[at] = true;
                    points.Add(Middle(at));
                    if (nodeAt.ContainsKey(at)) break;
                    var m = Beside(at, beside);
                    var next = beside[0] == before && m > 1 ? beside[1] : beside[0];
                    (before, at) = (at, next);
                }

                walked.Add((start, first));
                walked.Add((at, before));
                arms.Add(new() { Points = points, From = node, To = nodeAt[at] });
            }
        }

        var loops = new List<List<Point>>();
        foreach (var start in pixels)
        {
            if (seen[start]) continue;
            var loop = new List<Point>();
            int before = -1, at = start;
            while (!seen[at])
            {
                seen[at] = true;
                loop.Add(Middle(at));
                var m = Beside(at, beside);
                var next = m > 1 && beside[0] == before ? beside[1] : beside[0];
                (before, at) = (at, next);
            }

            loops.Add(loop);
        }

        return (arms, nodes, loops);

        Point Middle(int i) => new(i % w + 0.5, i / w + 0.5);

        // Neighbours, a diagonal one only where no straight one leads there too: then every pixel of a plain line has two.
        int Beside(int i, Span<int> to)
        {
            int x = i % w, y = i / w, n = 0;
            foreach (var (dx, dy) in Around)
            {
                if (!P(x + dx, y + dy)) continue;
                if (dx != 0 && dy != 0 && (P(x + dx, y) || P(x, y + dy))) continue;
                to[n++] = (y + dy) * w + x + dx;
            }

            return n;
        }

        bool P(int x, int y) => x >= 0 && y >= 0 && x < w && y < h && net[y * w + x];
    }

    private static void Prune(List<Arm> arms, List<Node> nodes)
    {
        var degree = new int[nodes.Count];
        foreach (var a in arms.Where(a => a.From >= 0))
        {
            degree[a.From]++;
            degree[a.To]++;
        }

        foreach (var arm in arms.Where(a => a.From >= 0 && nodes[a.From].IsEnd != nodes[a.To].IsEnd).OrderBy(a => a.Length).ToList())
        {
            var at = nodes[arm.From].IsEnd ? arm.To : arm.From;
            // Half the width is inside the other stroke; the rest would be the spur's own.
            if (degree[at] < 2 || arm.Length > nodes[at].Radius * 1.9 + 1) continue;
            arm.Gone = true;
            degree[at]--;
        }
    }

    /// <summary>Joints closer together than the strokes are wide are one: two strokes that cross make two forks.</summary>
    private static void Merge(List<Arm> arms, List<Node> nodes)
    {
        var joints = new DisjointSets(nodes.Count);
        foreach (var arm in arms)
        {
            if (arm.Gone || arm.From < 0 || nodes[arm.From].IsEnd || nodes[arm.To].IsEnd) continue;
            int a = joints.Of(arm.From), b = joints.Of(arm.To);
            if (a == b ? arm.Length > nodes[a].Radius * 2 + 2 : arm.Length > nodes[arm.From].Radius + nodes[arm.To].Radius + 1) continue;
            arm.Gone = true;
            if (a == b) continue;
            (a, b) = (Math.Min(a, b), Math.Max(a, b));
            nodes[a].At = (nodes[a].At + nodes[b].At) * 0.5;
            nodes[a].Radius = Math.Max(nodes[a].Radius, nodes[b].Radius);
            joints.Join(a, b);
        }

        foreach (var arm in arms.Where(a => a.From >= 0)) (arm.From, arm.To) = (joints.Of(arm.From), joints.Of(arm.To));
    }

    /// <summary>Moves points to the middle between the edges that they see to both sides.</summary>
    private static List<Point> Refine(List<Point> points, bool closed, float[] field, float[] depth, int w, int h, List<double> widths)
    {
        const int Reach = 4;
        const double Step = 0.25, FurthestShift = 1.5;
        var n = points.Count;
        if (n < 3) return points;
        var refined = new List<Point>(n);
        for (var i = 0; i < n; i++)
        {
            var a = points[closed ? (i - Reach + n * Reach) % n : Math.Max(0, i - Reach)];
            var b = points[closed ? (i + Reach) % n : Math.Min(n - 1, i + Reach)];
            var along = b - a;
            if (along.Norm < 1e-9)
            {
                refined.Add(points[i]);
                continue;
            }

            var across = new Point(-along.Y, along.X) * (1 / along.Norm);
            var furthest = depth[(int)points[i].Y * w + (int)points[i].X] * 1.6 + 2;
            if (Edge(points[i], across) is { } right && Edge(points[i], across * -1) is { } left && Math.Abs(right - left) / 2 <= FurthestShift)
            {
                refined.Add(points[i] + across * ((right - left) / 2));
                widths.Add(right + left);
            }
            else
            {
                refined.Add(points[i]);
            }

            double? Edge(Point from, Point to)
            {
                var before = Sample(from);
                for (var s = Step; s <= furthest; s += Step)
                {
                    var here = Sample(from + to * s);
                    if (here <= 0 && before > 0) return s - Step + Step * before / (before - here);
                    before = here;
                }

                return null;
            }
        }

        return refined;

        double Sample(Point p)
        {
            double x = p.X - 0.5, y = p.Y - 0.5;
            int x0 = (int)Math.Floor(x), y0 = (int)Math.Floor(y);
            double fx = x - x0, fy = y - y0;
            return (F(x0, y0) * (1 - fx) + F(x0 + 1, y0) * fx) * (1 - fy) + (F(x0, y0 + 1) * (1 - fx) + F(x0 + 1, y0 + 1) * fx) * fy;
        }

        double F(int x, int y) => x < 0 || y < 0 || x >= w || y >= h ? -1 : field[y * w + x];
    }

    /// <summary>Takes away what lies within a joint, where the net is bent towards it.</summary>
    private static void CutBent(Arm arm, List<Node> nodes)
    {
        if (arm.From < 0) return;
        if (!nodes[arm.From].IsEnd) Cut(nodes[arm.From], false);
        if (!nodes[arm.To].IsEnd) Cut(nodes[arm.To], true);

        void Cut(Node node, bool atEnd)
        {
            while (arm.Points.Count > 2 && arm.Points[atEnd ? ^1 : 0].DistanceTo(node.At) < node.Radius * 1.3 + 0.5) arm.Points
                .RemoveAt(atEnd ? arm.Points.Count - 1 : 0);
        }
    }

    private static List<CentreStroke> Join(List<Arm> arms, List<Node> nodes)
    {
        // An end of an arm is 2 × its index, plus 1 for its far end.
        var partner = new Dictionary<int, int>();
        var atNode = new Dictionary<int, List<int>>();
        for (var i = 0; i < arms.Count; i++)
        {
            if (arms[i].Gone || arms[i].From < 0) continue;
            if (!nodes[arms[i].From].IsEnd) Add(arms[i].From, 2 * i);
            if (!nodes[arms[i].To].IsEnd) Add(arms[i].To, 2 * i + 1);
        }

        foreach (var (_, ends) in atNode)
        {
            var pairs = new List<(int A, int B, double Bend)>();
            for (var i = 0; i < ends.Count; i++)
                for (var j = i + 1; j < ends.Count; j++) pairs.Add((ends[i], ends[j], Bend(ends[i], ends[j])));
            foreach (var (a, b, bend) in pairs.OrderBy(p => p.Bend))
            {
                if (partner.ContainsKey(a) || partner.ContainsKey(b)) continue;
                if (ends.Count > 2 && bend > 45) continue;
                (partner[a], partner[b]) = (b, a);
            }
        }

        var done = new bool[arms.Count];
        var strokes = new List<CentreStroke>();
        for (var round = 0; round < 2; round++)
        {
            for (var end = 0; end < arms.Count * 2; end++)
            {
                var i = end / 2;
                // First what has an end; what is left then goes round.
                if (done[i] || arms[i].Gone || (round == 0 && partner.ContainsKey(end))) continue;
                var points = new List<Point>();
                var at = end;
                var closed = false;
                if (!partner.ContainsKey(at)) Touch(at, points);
                while (true)
                {
                    var arm = arms[at / 2];
                    done[at / 2] = true;
                    points.AddRange(at % 2 == 0 ? arm.Points : Enumerable.Reverse(arm.Points));
                    var far = at ^ 1;
                    if (!partner.TryGetValue(far, out var next))
                    {
                        Touch(far, points);
                        break;
                    }

                    if (done[next / 2])
                    {
                        closed = true;
                        break;
                    }

                    at = next;
                }

                strokes.Add(new(points, closed && points.Count >= 6));
            }
        }

        return strokes;

        void Add(int node, int end)
        {
            if (!atNode.TryGetValue(node, out var list)) atNode[node] = list = [];
            list.Add(end);
        }

        // An arm that nobody runs on from ends in the middle of its joint.
        void Touch(int end, List<Point> points)
        {
            var arm = arms[end / 2];
            var node = end % 2 == 0 ? arm.From : arm.To;
            if (node >= 0 && !nodes[node].IsEnd) points.Add(nodes[node].At);
        }

        Point Outward(int end)
        {
            var p = arms[end / 2].Points;
            var k = Math.Min(p.Count - 1, 10);
            var d = end % 2 == 0 ? p[0] - p[k] : p[^1] - p[^(k + 1)];
            return d.Norm > 0 ? d * (1 / d.Norm) : new(1, 0);
        }

        double Bend(int a, int b) => Math.Acos(Math.Clamp(-Outward(a).Dot(Outward(b)), -1, 1)) * 180 / Math.PI;
    }
}
