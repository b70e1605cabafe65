using System.IO.Compression;
using Falzkunst.Core.Files;
using ZstdSharp;

namespace Falzkunst.Store;

/// <summary>Documents as they lie in the database: Zstandard (RFC 8878), with an earlier document as the dictionary, so that what did not change costs
/// nothing.</summary>
internal static class Packed
{
    private const int Level = 3, LargestDocument = 400_000_000;

    public static byte[] Pack(byte[] text, byte[]? dictionary)
    {
        using var packer = new Compressor(Level);
        if (dictionary is not null) packer.LoadDictionary(dictionary);
        return packer.Wrap(text).ToArray();
    }

    /// <exception cref="UnreadableFileException">These are not such bytes, or not for this dictionary.</exception>
    public static byte[] Unpack(byte[] packed, byte[]? dictionary)
    {
        try
        {
            using var unpacker = new Decompressor();
            if (dictionary is not null) unpacker.LoadDictionary(dictionary);
            return unpacker.Unwrap(packed, LargestDocument).ToArray();
        }
        catch (ZstdException e)
        {
            throw new UnreadableFileException("the document is damaged", e);
        }
    }

    /// <summary>Of schema 1, which was packed with gzip.</summary>
    /// <exception cref="UnreadableFileException">These are not such bytes.</exception>
    public static byte[] Gunzip(byte[] packed)
    {
        try
        {
            using var unpack = new GZipStream(new MemoryStream(packed), CompressionMode.Decompress);
            using var bytes = new MemoryStream();
            unpack.CopyTo(bytes);
            return bytes.ToArray();
        }
        catch (InvalidDataException e)
        {
            throw new UnreadableFileException("the document is damaged", e);
        }
    }
}
