namespace Falzkunst.Core.Pictures;

/// <summary>What the head of a PNG, JPEG or WebP says, without decoding the picture.</summary>
public sealed record PictureFacts(string MediaType, int WidthPx, int HeightPx)
{
    /// <summary>Null when the bytes are none of these, or are cut off before the size.</summary>
    public static PictureFacts? Read(ReadOnlySpan<byte> b)
    {
        if (b.Length > 24 && b[..8].SequenceEqual(PngSignature))
            return Sized("image/png", Big32(b[16..]), Big32(b[20..]));
        if (b.Length > 30 && b[..4].SequenceEqual("RIFF"u8) && b[8..12].SequenceEqual("WEBP"u8)) return WebP(b[12..]);
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

    /// <summary>The three kinds of first chunk: lossy, lossless, extended (RFC 9649, section 2).</summary>
    private static PictureFacts? WebP(ReadOnlySpan<byte> chunk)
    {
        var data = chunk[8..];
        if (chunk[..4].SequenceEqual("VP8 "u8)) return Sized("image/webp", Little16(data[6..]) & 0x3FFF, Little16(data[8..]) & 0x3FFF);
        if (chunk[..4].SequenceEqual("VP8L"u8))
        {
            var bits = (long)Little16(data[1..]) | (long)Little16(data[3..]) << 16;
            return Sized("image/webp", (bits & 0x3FFF) + 1, (bits >> 14 & 0x3FFF) + 1);
        }

        return chunk[..4].SequenceEqual("VP8X"u8) ? Sized("image/webp", (Little16(data[4..]) | data[6] << 16) + 1, (Little16(data[7..]) | data[9] << 16) + 1)
            : null;
    }

    private static int Little16(ReadOnlySpan<byte> b) => b[0] | b[1] << 8;

    private static PictureFacts? Sized(string type, long w, long h) => w is > 0 and < 100_000 && h is > 0 and < 100_000 ? new(type, (int)w, (int)h) : null;

    private static long Big32(ReadOnlySpan<byte> b) => (long)b[0] << 24 | (long)b[1] << 16 | (long)b[2] << 8 | b[3];
}
