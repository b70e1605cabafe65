using System.IO;
using System.Text;
using Falzkunst.Core.Files;

namespace Falzkunst.Core.Reading.Dxf;

/// <summary>One pair of a DXF file: a group code and its value as text.</summary>
internal readonly record struct DxfPair(int Code, string Value)
{
    public double Number => double.TryParse(Value, NumberStyles.Float, CultureInfo.InvariantCulture, out var n) && double.IsFinite(n) && Math.Abs(n) < 1e9
        ? n : 0;

    public int Integer => (int)Math.Clamp(Number, int.MinValue, int.MaxValue);
}

/// <summary>An entity (or block, layer …) of a DXF file: its type, and its pairs in order.</summary>
internal sealed class DxfRecord(string type)
{
    private readonly List<DxfPair> _pairs = [];

    public string Type => type;

    public IReadOnlyList<DxfPair> Pairs => _pairs;

    /// <summary>What follows it and belongs to it: the vertices of an old polyline.</summary>
    public List<DxfRecord> Inside { get; } = [];

    public void Add(DxfPair pair) => _pairs.Add(pair);

    public string Text(int code, string otherwise = "")
    {
        foreach (var p in _pairs)
            if (p.Code == code) return p.Value;
        return otherwise;
    }

    public double Number(int code, double otherwise = 0)
    {
        foreach (var p in _pairs)
            if (p.Code == code) return p.Number;
        return otherwise;
    }

    public int Integer(int code, int otherwise = 0) => (int)Math.Clamp(Number(code, otherwise), int.MinValue, int.MaxValue);

    public Point At(int code) => new(Number(code), Number(code + 10));
}

/// <summary>
/// Takes an ASCII DXF file (R12 to 2018, by the published reference of the format) apart into its sections. Text is UTF-8, or Windows-1252 where it is none, as
/// before 2007.
/// </summary>
internal sealed class DxfPairs
{
    public Dictionary<string, string> Header { get; } = new(StringComparer.Ordinal);

    public List<DxfRecord> Layers { get; } = [];

    public Dictionary<string, (Point Base, List<DxfRecord> Entities)> Blocks { get; } = new(StringComparer.OrdinalIgnoreCase);

    public List<DxfRecord> Entities { get; } = [];

    /// <summary>Whether these could be the first bytes of an ASCII DXF: "0" and "SECTION", or a comment (999) before.</summary>
    public static bool IsDxf(ReadOnlySpan<byte> head)
    {
        var text = Encoding.Latin1.GetString(head[..Math.Min(head.Length, 4096)]);
        var lines = text.TrimStart('\uFEFF', 'ï', '»', '¿').Split('\n');
        var i = 0;
        while (i + 1 < lines.Length && lines[i].Trim() == "999") i += 2;
        return i + 1 < lines.Length && lines[i].Trim() == "0" && lines[i + 1].Trim() == "SECTION";
    }

    /// <exception cref="UnreadableFileException">The pairs are broken.</exception>
    public static DxfPairs Read(ReadOnlySpan<byte> file, ReadingLimits limits, ReadingWork work)
    {
        var result = new DxfPairs();
        string text;
        try
        {
            text = new UTF8Encoding(false, true).GetString(file);
        }
        catch (DecoderFallbackException)
        {
            text = Encoding.Latin1.GetString(file);
        }

        using var reader = new StringReader(text);
        string section = "", variable = "";
        DxfRecord? record = null, owner = null, block = null;
        List<DxfRecord>? target = null;
        var records = 0;
        var line = 0;
        while (reader.ReadLine() is { } codeText)
        {
            line += 2;
            if (line % 8192 == 0) work.Go(8192);
            var value = reader.ReadLine() ?? throw new UnreadableFileException("the DXF file is cut off; fetch it again");
            if (!int.TryParse(codeText.Trim(), NumberStyles.Integer, CultureInfo.InvariantCulture, out var code))
                throw new UnreadableFileException($"the DXF file is damaged near line {line - 1}; export it again");
            var pair = new DxfPair(code, value.Trim());
            if (code == 0)
            {
                record = null;
                switch (pair.Value)
                {
                    case "SECTION":
                        section = "?";
                        continue;
                    case "ENDSEC":
                        (section, owner, block) = ("", null, null);
                        continue;
                    case "EOF":
                        return result;
                    case "BLOCK":
                        block = record = new("BLOCK");
                        target = [];
                        continue;
                    case "ENDBLK":
                        if (block is not null) result.Blocks.TryAdd(block.Text(2), (block.At(10), target ?? []));
                        (block, target, owner) = (null, null, null);
                        continue;
                }

                if (++records > limits.Elements) throw new UnreadableFileException($"it has more than {limits.Elements:N0} entities; take it apart");
                record = new(pair.Value);
                if (section == "ENTITIES") Place(result.Entities);
                else if (section == "BLOCKS" && target is not null) Place(target);
                else if (section == "TABLES" && pair.Value == "LAYER") result.Layers.Add(record);
            }
            else if (section == "?" && code == 2)
            {
                section = pair.Value;
            }
            else if (section == "HEADER")
            {
                if (code == 9) variable = pair.Value;
                else result.Header.TryAdd(variable, pair.Value);
            }
            else
            {
                record?.Add(pair);
            }

            void Place(List<DxfRecord> into)
            {
                if (record!.Type is "VERTEX" or "ATTRIB" && owner is not null)
                {
                    owner.Inside.Add(record);
                    return;
                }

                if (record.Type == "SEQEND")
                {
                    owner = null;
                    return;
                }

                owner = record.Type is "POLYLINE" or "INSERT" ? record : null;
                into.Add(record);
            }
        }

        // Without its end, but whole pairs: what is there is read.
        return result;
    }
}
