using System.IO;
using System.Xml;
using Falzkunst.Core.Files;

namespace Falzkunst.Core.Reading.Svg;

/// <summary>An element of the file with its attributes (of foreign namespaces only links and the labels of layers, without their prefix).</summary>
internal sealed class SvgNode(string name, SvgNode? parent)
{
    private readonly List<KeyValuePair<string, string>> _attributes = [];

    public string Name { get; } = name;

    public SvgNode? Parent { get; } = parent;

    public List<SvgNode> Children { get; } = [];

    public string Text { get; private set; } = "";

    /// <summary>Of text: what stands in it, in order; a piece of plain text is a node without a name.</summary>
    public List<SvgNode> Content { get; } = [];

    public int Index { get; private set; }

    private bool IsText => Name is "text" or "tspan" or "textPath" or "a";

    public string? this[string attribute]
    {
        get
        {
            foreach (var (key, value) in _attributes)
                if (key == attribute) return value;
            return null;
        }
    }

    public IReadOnlyList<KeyValuePair<string, string>> Attributes => _attributes;

    public IReadOnlySet<string> Classes => _classes ??= this["class"]?.Split((char[]?)null, StringSplitOptions.RemoveEmptyEntries)
        .ToHashSet(StringComparer.Ordinal) ?? None;

    private static readonly HashSet<string> None = [];
    private HashSet<string>? _classes;

    /// <summary>Of the root: the comment before it, which programs use to name themselves.</summary>
    public string Producer { get; private set; } = "";

    private const int LongestProducer = 200;
    private const string SvgNamespace = "http://www.w3.org/2000/svg";

    /// <summary>
    /// Reads the file into nodes. External entities are never followed; internal ones are expanded up to a limit. Elements of foreign
    /// namespaces are left out with all they hold.
    /// </summary>
    /// <exception cref="UnreadableFileException">Not XML, not SVG, nested too deep, or entities that expand without end.</exception>
    public static SvgNode Load(Stream file, ReadingLimits limits, ReadingWork work)
    {
        var settings = new XmlReaderSettings
        {
            DtdProcessing = DtdProcessing.Parse,
            XmlResolver = null,
            MaxCharactersFromEntities = limits.EntityCharacters,
            MaxCharactersInDocument = limits.FileBytes,
            IgnoreProcessingInstructions = true,
        };
        SvgNode? root = null;
        var producer = "";
        try
        {
            using var xml = XmlReader.Create(file, settings);
            SvgNode? at = null;
            var depth = 0;
            while (xml.Read())
            {
                switch (xml.NodeType)
                {
                    case XmlNodeType.Comment when root is null && producer.Length == 0:
                        producer = xml.Value.Trim();
                        if (producer.Length > LongestProducer) producer = producer[..LongestProducer];
                        break;
                    case XmlNodeType.Element:
                        work.Go(200);
                        if (xml.NamespaceURI is not (SvgNamespace or ""))
                        {
                            if (root is null) throw new UnreadableFileException($"this is XML, but not SVG (it starts with <{xml.LocalName}>)");
                            SkipForeign(xml);
                            break;
                        }

                        var node = new SvgNode(xml.LocalName, at);
                        var empty = xml.IsEmptyElement;
                        node.ReadAttributes(xml);
                        if (at is not null)
                        {
                            node.Index = at.Children.Count;
                            at.Children.Add(node);
                            if (at.IsText) at.Content.Add(node);
                        }
                        else if (root is null)
                        {
                            if (node.Name != "svg") throw new UnreadableFileException($"this is XML, but not SVG (it starts with <{node.Name}>)");
                            root = node;
                        }

                        if (!empty)
                        {
                            at = node;
                            if (++depth > limits.Nesting) throw new UnreadableFileException($"its elements are nested more than {limits.Nesting} deep");
                        }

                        break;
                    case XmlNodeType.EndElement:
                        at = at?.Parent;
                        depth--;
                        break;
                    case XmlNodeType.Text or XmlNodeType.CDATA when at is { Name: "style" or "title" }:
                        at.Text += xml.Value;
                        break;
                    case XmlNodeType.Text or XmlNodeType.CDATA or XmlNodeType.SignificantWhitespace or XmlNodeType.Whitespace when at is { IsText: true }:
                        at.Content.Add(new("", at) { Text = xml.Value });
                        break;
                }
            }
        }
        catch (XmlException e) when (root is { Children.Count: > 0 } && !e.Message.Contains("entit", StringComparison.OrdinalIgnoreCase)
            && !e.Message.Contains("MaxCharacters", StringComparison.Ordinal))
        {
            throw new UnreadableFileException($"it breaks off or is damaged at line {e.LineNumber}, so parts of the drawing would be missing; export it again");
        }
        catch (XmlException e) when (e.Message.Contains("MaxCharacters", StringComparison.Ordinal))
        {
            throw new UnreadableFileException("its entities expand without end; it may be meant to do harm");
        }
        catch (XmlException e)
        {
            throw new UnreadableFileException(e.LineNumber <= 1 && root is null ? "this is not an SVG file" : $"it is not well-formed at line {e.LineNumber}");
        }

        if (root is null) throw new UnreadableFileException("this is not an SVG file");
        root.Producer = producer;
        return root;
    }

    private static void SkipForeign(XmlReader xml)
    {
        if (xml.IsEmptyElement) return;
        var level = xml.Depth;
        while (xml.Read() && xml.Depth > level)
        {
            // Nothing of it is looked at.
        }
    }

    private void ReadAttributes(XmlReader xml)
    {
        for (var more = xml.MoveToFirstAttribute(); more; more = xml.MoveToNextAttribute())
        {
            if (xml.Prefix == "xmlns" || xml.Name == "xmlns") continue;
            // Only these attributes of other namespaces mean something here: links, white space, and the labels that drawing programs give to layers.
            if (xml.NamespaceURI.Length > 0 && xml.LocalName is not ("href" or "label" or "groupmode" or "space")) continue;
            _attributes.Add(new(xml.LocalName, xml.Value));
        }

        xml.MoveToElement();
    }
}
