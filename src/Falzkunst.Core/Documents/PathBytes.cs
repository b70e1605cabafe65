using System.Buffers.Binary;

namespace Falzkunst.Core.Documents;

/// <summary>
/// Paths as bytes, exactly: the number of subpaths; then for each whether it is closed, the number of segments, the start, and each segment as its kind (0
/// line, 1 cubic) and its points.
/// Numbers are 32-bit integers and IEEE 754 doubles, little endian.
/// </summary>
internal static class PathBytes
{
    private const int MostSubpaths = 4_000_000;

    public static byte[] Write(VectorPath path)
    {
        var bytes = new byte[4 + path.Subpaths.Sum(s => 5 + 16 + s.Segments.Sum(g => g.IsCurve ? 49 : 17))];
        var at = 0;
        Int(path.Subpaths.Length);
        foreach (var sub in path.Subpaths)
        {
            bytes[at++] = sub.Closed ? (byte)1 : (byte)0;
            Int(sub.Segments.Length);
            Put(sub.Start);
            foreach (var s in sub.Segments)
            {
                bytes[at++] = s.IsCurve ? (byte)1 : (byte)0;
                if (s.IsCurve)
                {
                    Put(s.C1);
                    Put(s.C2);
                }

                Put(s.End);
            }
        }

        return bytes;

        void Int(int v)
        {
            BinaryPrimitives.WriteInt32LittleEndian(bytes.AsSpan(at), v);
            at += 4;
        }

        void Put(Point p)
        {
            BinaryPrimitives.WriteDoubleLittleEndian(bytes.AsSpan(at), p.X);
            BinaryPrimitives.WriteDoubleLittleEndian(bytes.AsSpan(at + 8), p.Y);
            at += 16;
        }
    }

    /// <exception cref="FormatException">These are not the bytes of a path.</exception>
    public static VectorPath Read(ReadOnlySpan<byte> bytes)
    {
        try
        {
            var rest = bytes;
            var count = Int(ref rest);
            if (count is < 0 or > MostSubpaths || count > bytes.Length) throw new FormatException("No path.");
            var subs = ImmutableArray.CreateBuilder<Subpath>(count);
            for (var i = 0; i < count; i++)
            {
                var closed = rest[0] == 1;
                rest = rest[1..];
                var n = Int(ref rest);
                if (n < 0 || n > rest.Length / 17) throw new FormatException("No path.");
                var start = Get(ref rest);
                var segments = ImmutableArray.CreateBuilder<Segment>(n);
                for (var k = 0; k < n; k++)
                {
                    var curve = rest[0] == 1;
                    rest = rest[1..];
                    if (curve)
                    {
                        var (c1, c2) = (Get(ref rest), Get(ref rest));
                        segments.Add(Segment.Cubic(c1, c2, Get(ref rest)));
                    }
                    else
                    {
                        segments.Add(Segment.Line(Get(ref rest)));
                    }
                }

                subs.Add(new(start, segments.MoveToImmutable(), closed));
            }

            return rest.IsEmpty ? new(subs.MoveToImmutable()) : throw new FormatException("No path.");
        }
        catch (Exception e) when (e is ArgumentOutOfRangeException or IndexOutOfRangeException)
        {
            throw new FormatException("No path.", e);
        }
    }

    private static int Int(ref ReadOnlySpan<byte> rest)
    {
        var v = BinaryPrimitives.ReadInt32LittleEndian(rest);
        rest = rest[4..];
        return v;
    }

    private static Point Get(ref ReadOnlySpan<byte> rest)
    {
        var p = new Point(BinaryPrimitives.ReadDoubleLittleEndian(rest), BinaryPrimitives.ReadDoubleLittleEndian(rest[8..]));
        rest = rest[16..];
        return p;
    }
}
