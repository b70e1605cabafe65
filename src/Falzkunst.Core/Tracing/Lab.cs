namespace Falzkunst.Core.Tracing;

/// <summary>Colours as the eye tells them apart: CIE L*a*b* (1976) of sRGB under D65.</summary>
internal readonly record struct Lab(float L, float A, float B)
{
    private const int Bits = 6;
    private static readonly float[] Linear =
        [.. Enumerable.Range(0, 256).Select(i => i <= 10 ? i / 255f / 12.92f : MathF.Pow((i / 255f + 0.055f) / 1.055f, 2.4f))];
    private static readonly Lazy<Lab[]> Table = new(Build);

    /// <summary>By a table of 64 steps a channel: right to about 1, which is as fine as an eye sees.</summary>
    public static Lab Of(byte r, byte g, byte b) => Table.Value[Index(r, g, b)];

    public static int Index(byte r, byte g, byte b) => r >> (8 - Bits) << (2 * Bits) | g >> (8 - Bits) << Bits | b >> (8 - Bits);

    public static IReadOnlyList<Lab> All => Table.Value;

    public float DistanceTo(Lab o)
    {
        float l = L - o.L, a = A - o.A, b = B - o.B;
        return MathF.Sqrt(l * l + a * a + b * b);
    }

    // One thread: whoever waits for the table may be in a loop over all cores, and would keep them from helping.
    private static Lab[] Build()
    {
        const int Steps = 1 << Bits;
        var table = new Lab[Steps * Steps * Steps];
        for (var i = 0; i < table.Length; i++) table[i] = Exact(Middle(i >> (2 * Bits)), Middle(i >> Bits & (Steps - 1)), Middle(i & (Steps - 1)));
        return table;

        // The ends stay black and white.
        static float Middle(int step) => step * 255f / (Steps - 1);
    }

    private static Lab Exact(float r8, float g8, float b8)
    {
        float r = Linear[(int)r8], g = Linear[(int)g8], b = Linear[(int)b8];
        float x = F((0.4124f * r + 0.3576f * g + 0.1805f * b) / 0.95047f), y = F(0.2126f * r + 0.7152f * g + 0.0722f * b),
            z = F((0.0193f * r + 0.1192f * g + 0.9505f * b) / 1.08883f);
        return new(116 * y - 16, 500 * (x - y), 200 * (y - z));

        static float F(float t) => t > 0.008856f ? MathF.Cbrt(t) : 7.787f * t + 16 / 116f;
    }
}
