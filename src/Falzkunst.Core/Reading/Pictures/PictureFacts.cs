namespace Falzkunst.Core.Reading.Pictures;

/// <summary>What the head of a PNG or JPEG says, without decoding the picture.</summary>
public sealed record PictureFacts(string MediaType, int WidthPx, int HeightPx)
{
    /// <summary>Null when the bytes are neither PNG nor JPEG, or are cut off before the size.</summary>
    public static PictureFacts? Read(ReadOnlySpan<byte> b)
    {
        if (b.Length > 24 && b[..8].SequenceEqual(PngSignature))
            return Sized("image/png", Big32(b[16..]), Big32(b[20..]));
        if (b.Length < 4 || b[0] != 0xFF || b[1] != 0xD8) return null;
        var at = 2;
        while (at + 9 < b.Length)
        {
            if (b[at] != 0xFF) return null;
            var marker = b[at + 1];
            // Start-of-frame markers hold the size; C4, C8 and CC are tables.
            if (marker is >= 0xC0 and <= 0xCF and not (0xC4 or 0xC8 or 0xCC))
                return Sized("image/jpeg", b[at + 7] << 8 | b[at + 8], b[at + 5] << 8 | b[at + 6]);
            at += marker is 0xFF ? 1 : 2 + (b[at + 2] << 8 | b[at + 3]);
        }

        return null;
    }

    private static ReadOnlySpan<byte> PngSignature => [0x89, 0x50, 0x4E, 0x47, 0x0D, 0x0A, 0x1A, 0x0A];

    private static PictureFacts? Sized(string type, long w, long h) => w is > 0 and < 100_000 && h is > 0 and < 100_000 ? new(type, (int)w, (int)h) : null;

    private static long Big32(ReadOnlySpan<byte> b) => (long)b[0] << 24 | (long)b[1] << 16 | (long)b[2] << 8 | b[3];
}
